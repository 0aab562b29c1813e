"""Fibres: points of a cross-section at which stresses are asked for, with what shear needs there.

-----+-----  corner        sigma = N/A - My z/Iy - Mz y/Iz
     |                     tau_z = Vz S_y/(Iy t_y),  tau_y = Vy S_z/(Iz t_z)
- - -| t_y - - z           S_y: first moment about y of the area beyond the level z; t_y: material's width there
-----+-----
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ..model.frame import Fibre, Section
from .polygon import moments, moved

Floats = NDArray[np.float64]
MOST_CORNERS = 16
A_LITTLE = 1e-6
STRAIGHT = 1e-9
"""What is off a line by less than this share of the section's size lies on it."""


def with_first_moments(section: Section, name: str, y: float, z: float) -> Fibre:
    """A fibre at (y, z) [m] of a section with an outline, its first moments and widths computed."""
    loops = section.outline
    # A level turned upright: z -> -y keeps the orientation of the loops.
    S_y, t_y = _beyond(loops, z)
    S_z, t_z = _beyond(moved(loops, 0, 0, -np.pi / 2), y)
    return Fibre(name, y, z, S_y, t_y, S_z, t_z)


def standard_fibres(section: Section) -> tuple[Fibre, ...]:
    """The outermost corners (of round shapes points all round), the centroid, and of an I, a channel or a tee the roots
    where its web meets a flange; none without an outline."""
    if not section.outline:
        return ()
    corners = _corners(np.vstack(section.outline))
    named = [Fibre(f"corner {i + 1}", float(y), float(z)) for i, (y, z) in enumerate(corners)]
    roots = [with_first_moments(section, f"root {i + 1}", y, z) for i, (y, z) in enumerate(_roots(section))]
    return (*named, *roots, with_first_moments(section, "middle", 0.0, 0.0))


FLANGED = {"I": 2, "wide flange": 2, "tapered I": 2, "channel": 2, "tapered channel": 2, "tee": 1}
"""Shapes with a web, and how many flanges."""


def _roots(section: Section) -> list[tuple[float, float]]:
    """Where the fillets of flanges end on the web, from the lowest: much bending and shear at once."""
    flanges = FLANGED.get(section.shape, 0)
    if not flanges:
        return []
    d = dict(section.dimensions)
    loop = section.outline[0]
    (left, low), (right, top) = loop.min(axis=0), loop.max(axis=0)
    thick = d["tf"]
    if "slope" in d:  # a tapered flange is thickest at the web
        overhang = d["b"] - d["tw"] if "channel" in section.shape else (d["b"] - d["tw"]) / 2
        thick += d["slope"] * (overhang - d["u"])
    y = 0.0
    if "channel" in section.shape:
        y = left + d["tw"] / 2 if -left <= right else right - d["tw"] / 2
    deep = thick + d.get("r", 0.0)
    # A tee's flange is above, of its mirror image as well; the stem's tip is a corner.
    return [(y, top - deep)] if flanges == 1 else [(y, low + deep), (y, top - deep)]


def all_fibres(section: Section) -> tuple[Fibre, ...]:
    """The section's own fibres, then the standard ones."""
    own = {f.name for f in section.fibres}
    return (*section.fibres, *(f for f in standard_fibres(section) if f.name not in own))


def _corners(outline: Floats) -> Floats:
    """Corners of the hull of all of an outline counter-clockwise from the lowest left; of many, those furthest all
    round."""
    hull = shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(outline)))[:-1]
    hull = hull if moments([hull])[0] > 0 else hull[::-1]
    size = np.ptp(hull, axis=0).max()
    start = int(np.lexsort((np.round(hull[:, 0] / size, 6), np.round(hull[:, 1] / size, 6)))[0])
    ring = np.vstack([hull[start:], hull[: start + 1]])
    # Where an arc meets a straight edge, rounding makes no corner.
    corners: Floats = shapely.get_coordinates(shapely.simplify(shapely.linestrings(ring), STRAIGHT * size))[:-1]
    if len(corners) <= MOST_CORNERS:
        return corners
    angle = 2 * np.pi * np.arange(MOST_CORNERS) / MOST_CORNERS
    reach = corners @ np.vstack([np.cos(angle), np.sin(angle)])
    # Of two that reach equally far the outer one is taken, not the one that rounding prefers.
    reach += STRAIGHT * np.linalg.norm(corners, axis=1)[:, None]
    return np.asarray(corners[np.unique(reach.argmax(axis=0))])


def _beyond(loops: Sequence[Floats], level: float) -> tuple[float, float]:
    """First moment about y of the area above a level, and the material's width there; the smaller at a step. At the
    edge and in a gap is no material, and no shear."""
    size = np.ptp(loops[0][:, 1])
    above = [clipped for p in loops if len(clipped := _clip(p, level))]
    S = float(moments(above)[1]) if above else 0.0
    width = min(_width(loops, level + side * A_LITTLE * size) for side in (-1, 1))
    return (S, width) if width > 0 else (0.0, np.inf)


def _clip(p: Floats, level: float) -> Floats:
    """The part of a closed loop above a level; edges that come to lie on the level have no area."""
    out = []
    for a, b in zip(p, np.roll(p, -1, 0), strict=True):
        if a[1] >= level:
            out.append(a)
        if (a[1] >= level) != (b[1] >= level):
            out.append(a + (b - a) * (level - a[1]) / (b[1] - a[1]))
    return np.array(out).reshape(-1, 2)


def _width(loops: Sequence[Floats], level: float) -> float:
    """How much of a level lies in the material."""
    crossings: list[float] = []
    for p in loops:
        q = np.roll(p, -1, 0)
        cuts = (p[:, 1] > level) != (q[:, 1] > level)
        a, b = p[cuts], q[cuts]
        crossings += (a[:, 0] + (b - a)[:, 0] * (level - a[:, 1]) / (b - a)[:, 1]).tolist()
    ordered = np.sort(crossings)
    return float((ordered[1::2] - ordered[::2]).sum())
