"""Zones: pieces of surfaces with one coefficient each, cut where the codes' distances lie.

A stretch is a box in the wind's own coordinates s (along it), t (to its left) and z (above the ground); what of a face
lies in it is a zone.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.loads import Step
from ....model.words import Side
from ....surfaces.common import common
from ...faces import Face

Floats = NDArray[np.float64]
Range = tuple[float, float]
EVERYWHERE: Range = (-math.inf, math.inf)
SNAP = 1e-3
"""A cut this near to a corner [m] goes through it."""
NOTHING = 1e-9


@dataclass(frozen=True)
class Stretch:
    """What applies in a box: coefficients `C` by alternative of the roof (one for all where they are alike), the
    pressure `q` at the lower and the upper end of z [N/m2], the `factor` beside it (gust, K_d, c_s c_d), whether the
    inside's pressure acts on the other face, `way`: unit vector (3,) of a positive load where that is not against the
    normal; `steps` lead to C; `at`: the height above the ground [m] a uniform q belongs to; `extra`: it lies over
    other stretches."""

    name: str
    C: tuple[float, ...]
    q: Range
    factor: float
    s: Range = EVERYWHERE
    t: Range = EVERYWHERE
    z: Range = EVERYWHERE
    steps: tuple[Step, ...] = ()
    inside: bool = True
    way: tuple[float, float, float] | None = None
    at: float = math.nan
    extra: bool = False


@dataclass(frozen=True)
class Zone:
    """A stretch of a face: the part in u v [m], all of the surface or not, the pressure q as field . (1, u, v)
    [N/m2], and the heights and distances it covers [m]; the number of its building, -1 for none; what of the part
    counts, where that is not all."""

    stretch: Stretch
    side: Side
    face: Face
    part: shapely.Geometry
    whole: bool
    field: Floats
    z: Range
    s: Range
    area: float
    sways: bool
    building: int = -1
    counted: shapely.Geometry | None = None

    @property
    def surface(self) -> int:
        """Its surface."""
        return self.face.surface

    @cached_property
    def mean(self) -> float:
        """The mean pressure q of the part [N/m2]."""
        if not self.field[1:].any():
            return float(self.field[0])
        u, v = shapely.get_coordinates(shapely.centroid(self.part))[0]
        return float(self.field[0] + u * self.field[1] + v * self.field[2])

    def C(self, roof: int) -> float:
        """The coefficient in an alternative."""
        return self.stretch.C[min(roof, len(self.stretch.C) - 1)]


def alternatives(symbol: str, words: str, C: Sequence[float], clause: str, letters: str = "abcd") -> tuple[Step, ...]:
    """A step for each alternative; those of one value are one, and say whose they are.

    >>> [s.formula for s in alternatives("c", "zone F", (-1.0, 0.2, -1.0, 0.2), "")]
    ['zone F; a, c', 'zone F; b, d', 'zone F; a, c', 'zone F; b, d']
    """
    whose = {v: ", ".join(letters[k] for k, other in enumerate(C) if other == v) for v in C}
    return tuple(Step(symbol, words if len(whose) == 1 else f"{words}; {whose[v]}", float(v), "", clause) for v in C)


def cut(
    face: Face, axes: tuple[Floats, Floats], stretches: Iterable[Stretch], side: Side, sways: bool,
    within: shapely.Geometry | None = None,
) -> list[Zone]:  # fmt: skip
    """The zones of a face: what of it, or of a part of it in u v, lies in each stretch; `axes`: along and left (2,)."""
    outline = face.outline
    base = outline.polygon if within is None else within
    points = shapely.get_coordinates(base)
    scales = [_scale(face, axis) for axis in (*axes, None)]
    values = [o + points @ g for o, g in scales]
    out = []
    for stretch in stretches:
        part, whole = base, within is None
        for (origin, slope), value, limits in zip(scales, values, (stretch.s, stretch.t, stretch.z), strict=True):
            low, high = (_snapped(x, value) for x in limits)
            if value.min() >= low - NOTHING and value.max() <= high + NOTHING:
                if np.ptp(value) > SNAP or low - NOTHING <= value[0] < high - NOTHING or high == math.inf:
                    continue
                part = shapely.Polygon()
                break
            if np.linalg.norm(slope) < 1e-9 or value.max() <= low + NOTHING or value.min() >= high - NOTHING:
                part = shapely.Polygon()
                break
            part, whole = common(part, strip_of(origin, slope, low, high, points)), False
        for one in shapely.get_parts(part):
            if isinstance(one, shapely.Polygon) and one.area > 1e-8:
                out.append(_zone(face, scales, stretch, side, sways, one, whole))
    return out


def _scale(face: Face, axis: Floats | None) -> tuple[float, Floats]:
    """A level axis (2,), or the height above the ground, over u v: value = origin + slope . (u, v)."""
    outline = face.outline
    if axis is not None:
        return float(outline.origin[:2] @ axis), np.asarray(outline.axes[:2, :2] @ axis)
    rise = outline.axes[:2, 2]
    first = shapely.get_coordinates(outline.polygon)[0]
    return float(face.corners[0, 2] - first @ rise), np.asarray(rise)


def _snapped(limit: float, value: Floats) -> float:
    if not math.isfinite(limit):
        return limit
    nearest = float(value[np.abs(value - limit).argmin()])
    return nearest if abs(nearest - limit) < SNAP else limit


def strip_of(origin: float, slope: Floats, low: float, high: float, points: Floats) -> shapely.Geometry:
    """Where origin + slope . (u, v) lies between two values, as far as the points reach."""
    size = float(np.linalg.norm(slope))
    way = slope / size
    across = np.array([-way[1], way[0]])
    far = float(np.abs(points).max()) * 2 + 1.0
    a, b = max((low - origin) / size, -far), min((high - origin) / size, far)
    corners = [a * way - far * across, b * way - far * across, b * way + far * across, a * way + far * across]
    return shapely.Polygon(corners)


def _zone(
    face: Face, scales: Sequence[tuple[float, Floats]], stretch: Stretch, side: Side, sways: bool,
    part: shapely.Polygon, whole: bool,
) -> Zone:  # fmt: skip
    flat = shapely.get_coordinates(part)
    s, z = scales[0][0] + flat @ scales[0][1], scales[2][0] + flat @ scales[2][1]
    (a, b), (low, high) = stretch.q, stretch.z
    if a == b:
        q = np.array([a, 0.0, 0.0])
    else:
        change = (b - a) / (high - low)
        origin, slope = scales[2]
        q = np.concatenate([[a + change * (origin - low)], change * slope])
    around = (float(z.min()), float(z.max())), (float(s.min()), float(s.max()))
    return Zone(stretch, side, face, part, whole, q, *around, float(part.area), sways)
