"""Wheels that roll over surfaces, by their decks."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.frame import ON_LINE_TOLERANCE
from ...model.words import Carry
from ...surfaces.convex import NOWHERE
from ...surfaces.mesh.located import SurfaceMesh, crossings
from ...surfaces.mesh.shapes import local_places, shapes
from ...surfaces.surface_geometry import SurfaceGeometry
from ..surfaces.distribution.concentrated import Carrier, cuts_of_line, direct, places_on
from ..surfaces.distribution.point_loads import deck_carrier, lines_of_change
from .path import Path
from .touch import Stretch, Touch

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SLIVER = 1e-6
"""Shorter stretches [m] are none."""
STRAIGHT = 1e-9
"""Shares and places that miss a straight line by less than this are on it."""


def stretches_on_surface(path: Path, k: int, surfaces: Sequence[SurfaceGeometry], aside: float) -> list[Stretch]:
    """Where the k-th piece of a path, so far to its left, lies on one of the surfaces, and what carries wheels
    there."""
    begin, end = float(path.begin[k]), float(path.begin[k + 1])
    ends = np.stack([path.start[k], path.start[k] + (end - begin) * path.along[k]]) + aside * path.left[k]
    out: list[Stretch] = []
    for geometry in surfaces:
        if np.abs(geometry.outline.height(ends)).max() > ON_LINE_TOLERANCE:
            continue
        if geometry.mesh is not None:
            out += _over_elements(geometry, geometry.mesh, geometry.outline.flat(ends), begin, end, k, out)
            continue
        if geometry.outline.surface.carry == Carry.NODES:
            continue
        flat = geometry.outline.flat(ends)
        cuts = begin + (end - begin) * cuts_of_line(flat, lines_of_change(geometry))
        carrier = deck_carrier(geometry)

        def on(s: Floats, flat: Floats = flat) -> Floats:
            return np.asarray(flat[0] + ((s - begin) / (end - begin))[:, None] * (flat[1] - flat[0]))

        for a, b in pairwise(cuts.tolist()):
            if b - a < SLIVER or any(a < one.s1 - SLIVER and b > one.s0 + SLIVER for one in out):
                continue
            stretch = _stretch(geometry, carrier, on, a, b, k)
            if stretch is not None:
                out.append(stretch)
    return sorted(out, key=lambda one: one.s0)


def _over_elements(
    geometry: SurfaceGeometry, mesh: SurfaceMesh, flat: Floats, begin: float, end: float, k: int,
    taken: Sequence[Stretch],
) -> list[Stretch]:  # fmt: skip
    """Where a piece of a path between two points (2, 2) of a structural surface is over its elements, one by one."""
    cuts = crossings(mesh, flat)
    middle = flat[0] + ((cuts[:-1] + cuts[1:]) / 2)[:, None] * (flat[1] - flat[0])
    there = shapely.dwithin(geometry.outline.polygon, shapely.points(middle), ON_LINE_TOLERANCE)
    element = mesh.holding(middle)
    out = []
    for i in np.flatnonzero(there).tolist():
        a, b = (begin + (end - begin) * float(v) for v in cuts[i : i + 2])
        if b - a < SLIVER or any(a < one.s1 - SLIVER and b > one.s0 + SLIVER for one in taken):
            continue
        ((group, _, number),) = (g for g in mesh.groups(element[i : i + 1]) if len(g[2]))
        corners, node = mesh.corners[group][number[0]], mesh.nodes[group][number[0]]

        def on_nodes(s: Floats, corners: Floats = corners, node: Ints = node) -> tuple[Ints, Floats]:
            at = flat[0] + ((s - begin) / (end - begin))[:, None] * (flat[1] - flat[0])
            every = np.broadcast_to(corners, (len(s), *corners.shape))
            N = shapes(len(corners), local_places(every, at))[0]
            return np.broadcast_to(node, (len(s), len(node))), N

        out.append(Stretch(a, b, k, on_nodes=on_nodes))
    return out


def _stretch(geometry: SurfaceGeometry, carrier, on, a: float, b: float, k: int) -> Stretch | None:  # type: ignore[no-untyped-def]
    bearings = geometry.bearings
    index = direct(bearings, on(np.array([a, b])))
    if index is not None:
        at = places_on(bearings, np.array([index, index]), on(np.array([a, b])))
        x1 = float((at[1] - at[0]) / (b - a))
        return Stretch(a, b, k, (Touch(int(bearings.member[index]), float(at[0]) - x1 * a, x1),))
    carry: Carrier = carrier(on(np.array([(a + b) / 2]))[0])
    tried = np.linspace(a, b, 7)[1:-1]
    shares = carry(on(tried))
    if (shares.bearing == NOWHERE).all():
        return None
    same = (shares.bearing == shares.bearing[:1]).all()
    from_first = (tried - tried[0]) / (tried[-1] - tried[0])
    fits = same and all(
        np.abs(v - (v[0] + from_first[:, None] * (v[-1] - v[0]))).max() <= STRAIGHT for v in (shares.s, shares.share)
    )
    if not fits:
        return Stretch(a, b, k, found=partial(_by_deck, bearings, carry, on))
    touches = []
    for j in np.flatnonzero(shares.bearing[0] != NOWHERE).tolist():
        x1, c1 = ((float(v[-1, j] - v[0, j])) / float(tried[-1] - tried[0]) for v in (shares.s, shares.share))
        x1, c1 = (0.0 if abs(v) < STRAIGHT else v for v in (x1, c1))
        x0, c0 = float(shares.s[0, j]) - x1 * float(tried[0]), float(shares.share[0, j]) - c1 * float(tried[0])
        touches.append(Touch(int(bearings.member[shares.bearing[0, j]]), x0, x1, c0, c1))
    return Stretch(a, b, k, tuple(touches))


def _by_deck(bearings, carry: Carrier, on, s: Floats) -> list[tuple[Ints, Floats, Floats]]:  # type: ignore[no-untyped-def]
    shares = carry(on(s))
    there = shares.bearing != NOWHERE
    member = np.where(there, bearings.member[np.where(there, shares.bearing, 0)], -1)
    return [(member[:, j], shares.s[:, j], shares.share[:, j]) for j in range(shares.bearing.shape[1])]
