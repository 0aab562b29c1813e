"""Pressures made eccentric: scaled straight across the building, so that their sum stays and their resultant moves.

p'(t) = a p + b p_m (t - t_0)        sum of p' = sum of p        sum of p' t = sum of p t + e sum of p

p_m is the mean of p on each zone, so that p' is linear on it, t the place across the wind, t_0 that of the resultant.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ...surfaces.geometry.plane import fan_of
from ..shape.zones import Zone

Floats = NDArray[np.float64]
IN_ONE_LINE = 1e-9


def made_eccentric(zones: Sequence[Zone], weight: Floats, left: Floats, e: float) -> Floats | None:
    """The pressures (zones, 3), as field . (1, u, v), of zones whose resultant is moved by `e` [m] to the `left` (2,)
    of the wind; `weight` (zones,): their share along the wind. None where all act in one line."""
    place = [_across(z, left) for z in zones]
    force, first, level, second = (np.zeros(len(zones)) for _ in range(4))
    for i, zone in enumerate(zones):
        at, dA = fan_of(zone.part, shapely.get_coordinates(shapely.centroid(zone.part))[0])
        t = place[i][0] + at @ place[i][1:]
        p = zone.field[0] + at @ zone.field[1:]
        force[i], first[i] = dA @ p, dA @ (p * t)
        level[i], second[i] = zone.mean * (dA @ t), zone.mean * (dA @ t**2)
    whole = float(weight @ force)
    if not whole:
        return None
    middle = float(weight @ first) / whole
    area = shapely.area(np.array([z.part for z in zones], object))
    means = np.array([z.mean for z in zones]) * area
    about = level - middle * means
    spread = float(weight @ (second - 2 * middle * level + middle**2 * means))
    reach = float(area.max(initial=0.0))
    if abs(spread) <= IN_ONE_LINE * abs(whole) * reach:
        return None
    b = e * whole / spread
    a = 1 - b * float(weight @ about) / whole
    out = np.array([a * z.field for z in zones])
    for i, zone in enumerate(zones):
        out[i] += b * zone.mean * (place[i] - [middle, 0.0, 0.0])
    return out


def _across(zone: Zone, left: Floats) -> Floats:
    """t [m] on a zone's face as field . (1, u, v)."""
    outline = zone.face.outline
    return np.array([float(outline.origin[:2] @ left), *(outline.axes[:2, :2] @ left)])
