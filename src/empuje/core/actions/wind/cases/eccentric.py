"""Pressures made eccentric: scaled straight across the building, so that their sum stays and their resultant moves.

p'(t) = a p + b p_m (t - t_0)        sum of p' = sum of p        sum of p' t = sum of p t + e sum of p

p_m is the mean of p on each zone, so that p' is linear on it, t the place across the wind, t_0 that of the resultant.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....surfaces.plane import fan_of
from ..shape.zones import Zone

Floats = NDArray[np.float64]
IN_ONE_LINE = 1e-9


@dataclass(frozen=True)
class Integrals:
    """Of zones (n,): their pressures (n, 3) as field . (1, u, v), t as the same, p_m [N/m2]; integrals of p, p t, p_m t
    and p_m t^2; areas [m2]."""

    field: Floats
    across: Floats
    mean: Floats
    force: Floats
    first: Floats
    level: Floats
    second: Floats
    area: Floats


def integrals_of(zones: Sequence[Zone], left: Floats) -> Integrals:
    """Integrals over zones, t being level along `left` (2,)."""
    n = len(zones)
    field, across = np.array([z.field for z in zones]).reshape(n, 3), np.zeros((n, 3))
    force, first, level, second = (np.zeros(n) for _ in range(4))
    parts = np.array([z.part for z in zones], object)
    centre = shapely.get_coordinates(shapely.centroid(parts))
    for i, zone in enumerate(zones):
        outline = zone.face.outline
        across[i] = float(outline.origin[:2] @ left), *(outline.axes[:2, :2] @ left)
        at, dA = fan_of(zone.part, centre[i])
        t, p = across[i, 0] + at @ across[i, 1:], field[i, 0] + at @ field[i, 1:]
        force[i], first[i], level[i], second[i] = dA @ p, dA @ (p * t), dA @ t, dA @ t**2
    mean = np.array([z.mean for z in zones])
    return Integrals(field, across, mean, force, first, mean * level, mean * second, shapely.area(parts))


def made_eccentric(of: Integrals, weight: Floats, e: float) -> Floats | None:
    """The pressures (zones, 3), as field . (1, u, v), of zones whose resultant is moved by `e` [m] to the left of the
    wind; `weight` (zones,): their share along the wind. None where all act in one line."""
    whole = float(weight @ of.force)
    if not whole:
        return None
    middle = float(weight @ of.first) / whole
    means = of.mean * of.area
    spread = float(weight @ (of.second - 2 * middle * of.level + middle**2 * means))
    if abs(spread) <= IN_ONE_LINE * abs(whole) * float(of.area.max(initial=0.0)):
        return None
    b = e * whole / spread
    a = 1 - b * float(weight @ (of.level - middle * means)) / whole
    return np.asarray(a * of.field + (b * of.mean)[:, None] * (of.across - [middle, 0.0, 0.0]))
