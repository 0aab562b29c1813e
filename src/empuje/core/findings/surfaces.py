"""Surfaces that stop a bay short.

|     |     |     .     |        members side by side, at one distance from one another; the surface ends at the
|=====|=====|=====.     |        last but one, and no other goes on from there
0     1     2     3     4
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray

from ..model.findings import Finding
from ..model.frame import ON_LINE_TOLERANCE
from ..resolved import Resolved
from .telling import warn

Floats = NDArray[np.float64]
EQUAL = 0.01
"""Bays whose widths differ by no more than this share are alike."""
LEAST_BAYS = 2


def of_surfaces(resolved: Resolved) -> list[Finding]:
    """Of all surfaces that carry to members."""
    handed = [i for i, g in resolved.surfaces.items() if g.mesh is None]
    return [finding for i in handed for finding in _short(resolved, i)]


def _short(resolved: Resolved, i: int) -> Iterator[Finding]:
    """The surface is compared with members of one family, side by side in its plane, that are about as long as it."""
    project, outline = resolved.project, resolved.surfaces[i].outline
    ends = project.xyz[project.ends]
    in_plane = (np.abs(outline.height(ends.reshape(-1, 3))).reshape(-1, 2) <= ON_LINE_TOLERANCE).all(axis=1)
    families: dict[str, list[int]] = defaultdict(list)
    for k in np.flatnonzero(in_plane).tolist():
        if not project.members[k].bar:
            families[project.members[k].family].append(k)
    corners = outline.flat(np.array(outline.surface.corners))
    for members in families.values():
        flat = outline.flat(ends[members].reshape(-1, 3)).reshape(-1, 2, 2)
        way = flat[0, 1] - flat[0, 0]
        way = way / np.linalg.norm(way)
        across = np.array([-way[1], way[0]])
        along = corners @ way
        spans = np.sort(flat @ way, axis=1)
        beside = np.ptp(flat @ across, axis=1) <= ON_LINE_TOLERANCE
        covers = np.minimum(spans[:, 1], along.max()) - np.maximum(spans[:, 0], along.min()) >= 0.5 * np.ptp(along)
        chosen = np.flatnonzero(beside & covers)
        at = (flat @ across)[:, 0]
        for sign in (1.0, -1.0):
            missed = _missed(np.unique(np.round(sign * at[chosen], 4)), sign * (corners @ across))
            if missed is None:
                continue
            edge, beyond = missed
            middle = 0.5 * (along.min() + along.max()) * way + sign * 0.5 * (edge + beyond) * across
            if _covered(resolved, outline.solid(middle)[0]):
                continue
            k = int(chosen[np.argmin(np.abs(sign * at[chosen] - beyond))])
            last = int(chosen[np.argmin(np.abs(sign * at[chosen] - edge))])
            name, member = outline.surface.name, project.members[members[k]].name
            yield warn(
                "misses-last-bay",
                f"surface {name} ends at {project.members[members[last]].name}, and one more bay as wide goes on to "
                f"{member}, under no surface",
                "draw its corners to there",
                outline.surface.place,
                name,
                member,
            )


def _missed(at: Floats, edges: Floats) -> tuple[float, float] | None:
    """Where the surface ends, and where the last member is, if it covers some equal bays and one more is left."""
    low, high = float(edges.min()) - ON_LINE_TOLERANCE, float(edges.max()) + ON_LINE_TOLERANCE
    inside, beyond = at[(at >= low) & (at <= high)], at[at > high]
    if len(inside) <= LEAST_BAYS or len(beyond) != 1 or abs(inside[-1] - high) > 2 * ON_LINE_TOLERANCE:
        return None
    widths = np.diff([*inside, beyond[0]])
    alike = np.ptp(widths) <= EQUAL * widths.mean()
    return (float(inside[-1]), float(beyond[0])) if alike else None


def _covered(resolved: Resolved, point: Floats) -> bool:
    """Whether any surface is there."""
    for geometry in resolved.surfaces.values():
        outline = geometry.outline
        if abs(outline.height(point)[0]) <= ON_LINE_TOLERANCE and shapely.intersects_xy(
            outline.polygon, *outline.flat(point)[0]
        ):
            return True
    return False
