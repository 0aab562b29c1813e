r"""Parapets and what stands on roofs, found from upright surfaces that rise above the roof they stand on.

      .____ top                    a wall under a roof that is as high as it is none; one that stands within a roof
      |    \                       is a side of what stands there: outwards where such sides close a loop, both ways
______|_____|______ roof           where they do not
     foot: t --->
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ..faces import WALL_FROM, Face, face_of
from ..surfaces.sources.surface_loads import Surfaces
from .roofs import TOUCH, SnowRoof
from .steps import ON_EDGE, Riser, foot_of

Floats = NDArray[np.float64]
RISES = 0.1
"""A wall rises above a roof by more than this [m], else it ends there."""
LIFTED = 0.6
"""What begins higher above a roof than this [m] lets the wind through (ASCE 7, 7.8: 2 ft)."""
SHORT = 0.02
"""Shorter pieces of walls [m] are none."""


def standing(surfaces: Surfaces, roofs: Sequence[SnowRoof], left_out: Collection[int]) -> list[Riser]:
    """Upright surfaces, but those left out, where they rise above a roof that they stand on, as risers; those that are
    `free` stand within it."""
    under = {f.surface for r in roofs for p in r.pitches for f in p.faces}
    faces = [face_of(i, s.outline, 0.0) for i, s in surfaces.items() if i not in under and i not in left_out]
    found = [riser for f in faces if f.slope > WALL_FROM for riser in _of_wall(f, roofs)]
    inner = shapely.get_parts(shapely.polygonize([shapely.LineString([r.a, r.b]) for r in found if r.free]))
    out = []
    for riser in found:
        for one in (riser, replace(riser, normal=-riser.normal)):
            beyond = shapely.Point((one.a + one.b) / 2 + 2 * TOUCH * one.normal)
            if not (riser.free and any(shapely.contains(loop, beyond) for loop in inner)):
                out.append(one)
    return out


def _of_wall(wall: Face, roofs: Sequence[SnowRoof]) -> Iterator[Riser]:
    """Pieces of a wall, each straight along its top and over one pitch of each roof."""
    a, b = foot_of(wall)
    way = (b - a) / np.linalg.norm(b - a)
    normal = np.array([way[1], -way[0]])
    line = shapely.LineString([a, b])
    near = [(k, p) for k, r in enumerate(roofs) if shapely.dwithin(r.plan, line, ON_EDGE) for p in r.pitches]
    corners = (wall.corners[:, :2] - a) @ way
    over = [shapely.intersection(line, shapely.buffer(p.plan, 2 * TOUCH)) for _, p in near]
    cuts = np.concatenate([corners, *((shapely.get_coordinates(part) - a) @ way for part in over)])
    places = np.unique(np.clip(cuts, 0.0, corners.max()))
    inner = places[(places > SHORT) & (places < places[-1] - SHORT)]
    inner = inner[np.diff(inner, prepend=-1.0) > SHORT]
    places = np.concatenate([places[:1], inner, places[-1:]])
    upright = shapely.Polygon(np.column_stack([corners, wall.corners[:, 2]]))
    for t0, t1 in pairwise(places.tolist()):
        if t1 - t0 < SHORT:
            continue
        ends = np.array([t0 + SHORT / 8, t1 - SHORT / 8])
        spans = [_heights(upright, t) for t in ends]
        tops = np.array([high for _, high in spans])
        low = float(np.mean([low for low, _ in spans]))
        where = a + ends[:, None] * way
        middle = shapely.Point(where.mean(axis=0))
        on = [(k, p.height(where)) for k, p in near if shapely.dwithin(p.plan, middle, 2 * TOUCH)]
        if any(level.mean() >= tops.mean() - RISES / 2 for _, level in on):
            continue  # as high as a roof: that has the step
        stands = [k for k, level in on if low - level.mean() < LIFTED and (tops - level).max() > RISES]
        if stands:
            free = all(shapely.distance(shapely.boundary(roofs[k].plan), middle) > ON_EDGE for k in stands)
            yield Riser(a + t0 * way, a + t1 * way, normal, (float(tops[0]), float(tops[1])), -1, wall.name, free)


def _heights(upright: shapely.Polygon, t: float) -> tuple[float, float]:
    """From where to where a wall reaches at a place along it [m]."""
    _, low, _, high = upright.bounds
    cut = shapely.intersection(upright, shapely.LineString([(t, low - 1.0), (t, high + 1.0)]))
    z = shapely.get_coordinates(cut)[:, 1]
    return (float(z.min()), float(z.max())) if len(z) else (low, high)
