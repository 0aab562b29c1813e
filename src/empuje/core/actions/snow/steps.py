"""Where snow drifts or slides: what stands taller beside a roof, found edge by edge.

  upper      |  n --->        h: from the lower roof at the step to the top of what stands there
_____________|                gap: level, from the wall to where the lower roof begins
             | gap            behind, ahead: lengths of the upper and the lower roof along n
             |<-->._________
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.snow import Beside
from ...surfaces.common import common
from ..faces import Face
from .roofs import TOUCH, Pitch, SnowRoof

Floats = NDArray[np.float64]
NEAR = 0.05
"""The lower roof is level enough within this of where it begins [m] to give the height of the step."""
LEAST = 0.05
"""Lower steps [m] are none."""
NARROW = 0.01
IN_LINE, ON_EDGE = 0.9999, 0.5
"""The cosine from which two directions are one, and how near the edge of a roof a wall stands on it [m]."""
FAR = 1e5


@dataclass(frozen=True)
class Riser:
    """A straight edge from a to b (2,) in plan, below which snow may lie on the side that `normal` (2,) points to;
    `tops`: its level at both ends [m]; `roof`: the number of the roof whose edge it is, -1 of a wall that stands by
    itself; `free`: such a wall stands within a roof; `length`: of a building behind it that is not modelled [m];
    `side`: how long the whole side is of which it is a part [m]."""

    a: Floats
    b: Floats
    normal: Floats
    tops: tuple[float, float]
    roof: int
    name: str
    free: bool = False
    length: float = 0.0
    side: float = 0.0

    @property
    def of_building(self) -> bool:
        """Whether a roof is behind it, from which snow comes."""
        return self.roof >= 0 or self.length > 0

    @cached_property
    def size(self) -> float:
        """Its length [m]."""
        return float(np.linalg.norm(self.b - self.a))

    @cached_property
    def way(self) -> Floats:
        """The level unit vector (2,) from a to b."""
        return np.asarray((self.b - self.a) / self.size)

    def box(self, t: tuple[float, float], d: tuple[float, float]) -> shapely.Polygon:
        """What is between distances t along it and d before it [m], in plan."""
        corners = [self.a + x * self.way + y * self.normal for x, y in ((t[0], d[0]), (t[1], d[0]), (t[1], d[1]),
                                                                   (t[0], d[1]))]  # fmt: skip
        return shapely.Polygon(corners)

    def seen(self, shape: shapely.Geometry) -> tuple[Floats, Floats]:
        """Distances along it and before it of a shape's corners [m]."""
        points = shapely.get_coordinates(shape) - self.a
        return points @ self.way, points @ self.normal


@dataclass(frozen=True)
class Meeting:
    """A riser, from t[0] to t[1] along it [m], above the roof of number `lower`; h, gap, behind, ahead [m] as above;
    the pitch behind its edge, None of a wall; and the pitches of the lower roof where that begins;
    `stated`: behind and ahead are."""

    riser: Riser
    t: tuple[float, float]
    lower: int
    h: float
    gap: float
    behind: float
    ahead: float
    above: Pitch | None
    below: tuple[Pitch, ...]
    stated: tuple[bool, bool] = (False, False)

    def region(self, start: float, end: float) -> shapely.Polygon:
        """From `start` to `end` before the wall, in plan."""
        return self.riser.box(self.t, (start, end))


def risers(
    roofs: Sequence[SnowRoof],
    parapets: Sequence[Face],
    obstructions: Sequence[Face],
    beside: Sequence[Beside],
    found: Sequence[Riser],
) -> list[Riser]:
    """The outer edges of all roofs, the walls that are said to stand on them, those `found` to, and what is stated of
    others."""
    out = list(found)
    for k, roof in enumerate(roofs):
        for ring in shapely.get_rings(shapely.orient_polygons(roof.plan)):
            points = shapely.get_coordinates(ring)
            for a, b in pairwise(points):
                step = b - a
                length = float(np.linalg.norm(step))
                if length < NARROW:
                    continue
                normal = np.array([step[1], -step[0]]) / length
                out += list(_of_edge(a, b, normal, k, roof))
    for walls, free in ((parapets, False), (obstructions, True)):
        for wall in walls:
            ends = foot_of(wall)
            step = ends[1] - ends[0]
            side = np.array([step[1], -step[0]]) / np.linalg.norm(step)
            ways = [side, -side] if not free else [side if side @ wall.normal[:2] > 0 else -side]
            out += [Riser(ends[0], ends[1], way, (wall.top, wall.top), -1, wall.name, free) for way in ways]
    for one in beside:
        a, b = np.array(one.a), np.array(one.b)
        step = (b - a)[:2]
        side = np.array([step[1], -step[0]]) / np.linalg.norm(step)
        out += [Riser(a[:2], b[:2], way, (one.a[2], one.b[2]), -1, one.name, one.projection, one.behind) for way in
                (side, -side)]  # fmt: skip
    return _with_sides(out)


def _with_sides(found: Sequence[Riser]) -> list[Riser]:
    """Walls that go on in one line are one side, however many they are drawn as."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    walls = [r for r in found if r.roof < 0]
    if not walls:
        return list(found)
    ends = np.array([[r.a, r.b] for r in walls])
    normals = np.array([r.normal for r in walls])
    near = np.eye(len(walls), dtype=bool)
    for i, one in enumerate(walls):
        in_line = (normals @ one.normal > IN_LINE) & (np.abs((ends - one.a) @ one.normal).max(axis=1) < TOUCH)
        away = np.linalg.norm(ends[:, :, None] - ends[i], axis=3).min(axis=(1, 2))
        near[i] |= in_line & (away < TOUCH)
    _, group = connected_components(coo_array(near), directed=False)
    sides = []
    for i, one in enumerate(walls):
        way = np.array([-one.normal[1], one.normal[0]])
        sides.append(float(np.ptp(np.concatenate([ends[j] for j in np.flatnonzero(group == group[i])]) @ way)))
    whole = iter(sides)
    return [replace(r, side=next(whole)) if r.roof < 0 else r for r in found]


def _of_edge(a: Floats, b: Floats, normal: Floats, k: int, roof: SnowRoof) -> Iterator[Riser]:
    """One riser for every pitch that reaches an edge."""
    whole = Riser(a, b, normal, (0.0, 0.0), k, "")
    length = float(np.linalg.norm(b - a))
    strip = whole.box((0.0, length), (-4 * TOUCH, 2 * TOUCH))
    for pitch in roof.pitches:
        part = common(pitch.plan, strip)
        if shapely.area(part) < TOUCH * NARROW:
            continue
        t, _ = whole.seen(part)
        t0, t1 = float(np.clip(t.min(), 0, length)), float(np.clip(t.max(), 0, length))
        if t1 - t0 < NARROW:
            continue
        ends = np.array([a + t0 * (b - a) / length, a + t1 * (b - a) / length])
        z = pitch.height(ends)
        yield Riser(ends[0], ends[1], normal, (float(z[0]), float(z[1])), k, pitch.name)


def foot_of(wall: Face) -> Floats:
    """The ends (2, 2) of a wall in plan."""
    points = wall.corners[:, :2]
    way = np.array([-wall.normal[1], wall.normal[0]])
    along = points @ way
    return np.stack([points[along.argmin()], points[along.argmax()]])


def meetings(
    roofs: Sequence[SnowRoof], all_risers: Sequence[Riser], reach: float, lengths: Mapping[int, float]
) -> list[Meeting]:
    """Where roofs lie below a riser, no further off than `reach` [m]; `lengths`: of roofs, by surface, where stated."""
    out = []
    for riser in all_risers:
        box = riser.box((0.0, riser.size), (0.0, reach))
        for k, roof in enumerate(roofs):
            if k == riser.roof or not shapely.intersects(roof.plan, box):
                continue
            for part in shapely.get_parts(common(roof.plan, box)):
                if isinstance(part, shapely.Polygon) and part.area > NARROW**2:
                    out += list(_meetings_of(riser, part, k, roofs))
    return _without_doubles([_as_stated(m, lengths) for m in out])


def _as_stated(m: Meeting, lengths: Mapping[int, float]) -> Meeting:
    """With the lengths of roof that are stated in place of those drawn."""
    behind, ahead = (
        max((lengths[f.surface] for p in own for f in p.faces if f.surface in lengths), default=None)
        for own in ([m.above] if m.above is not None else m.below if not m.riser.length else (), m.below)
    )
    return replace(m, behind=m.behind if behind is None else behind, ahead=m.ahead if ahead is None else ahead,
                   stated=(behind is not None, ahead is not None))  # fmt: skip


def _without_doubles(found: Sequence[Meeting]) -> list[Meeting]:
    """A wall that stands on the edge of a taller roof is no step of its own there: the roof's is as high as it."""
    out = [m for m in found if m.riser.of_building]
    count = len(out)
    for wall in (m for m in found if not m.riser.of_building):
        left = [wall.t]
        for k, m in enumerate(out[:count]):
            if m.lower != wall.lower or m.riser.normal @ wall.riser.normal < IN_LINE:
                continue
            ends = np.array([m.riser.a + t * m.riser.way for t in m.t]) - wall.riser.a
            t, d = ends @ wall.riser.way, ends @ wall.riser.normal
            if np.abs(d).max() < ON_EDGE and min(t.max(), wall.t[1]) - max(t.min(), wall.t[0]) > NARROW:
                out[k] = replace(m, h=max(m.h, wall.h))
                left = _cut_out(left, float(t.min()), float(t.max()))
        out += [replace(wall, t=piece) for piece in left]
    return out


def _cut_out(pieces: Sequence[tuple[float, float]], low: float, high: float) -> list[tuple[float, float]]:
    """What of stretches is not between two places."""
    ends = [part for a, b in pieces for part in ((a, min(b, low)), (max(a, high), b))]
    return [(a, b) for a, b in ends if b - a > NARROW]


def _meetings_of(riser: Riser, part: shapely.Polygon, k: int, roofs: Sequence[SnowRoof]) -> Iterator[Meeting]:
    t, d = riser.seen(part)
    gap = max(float(d.min()), 0.0)
    gap = 0.0 if gap < 4 * TOUCH else gap
    span = float(np.clip(t.min(), 0, riser.size)), float(np.clip(t.max(), 0, riser.size))
    if span[1] - span[0] < NARROW:
        return
    pieces = [span]
    if gap:
        between = riser.box(span, (2 * TOUCH, gap - 2 * TOUCH))
        for other, roof in enumerate(roofs):
            if other != k and shapely.intersects(roof.plan, between):
                stands = common(roof.plan, between)
                if shapely.area(stands) >= NARROW**2:
                    t, _ = riser.seen(stands)
                    pieces = _cut_out(pieces, float(t.min()), float(t.max()))
    roof = roofs[k]
    for t0, t1 in pieces:
        near = riser.box((t0, t1), (gap - 4 * TOUCH, gap + NEAR))
        below = [(p, common(p.plan, near)) for p in roof.pitches]
        below = [(p, s) for p, s in below if shapely.area(s) > TOUCH * NARROW]
        if not below:
            continue
        h = max(float((_tops(riser, s) - p.height(shapely.get_coordinates(s))).max()) for p, s in below)
        if h < LEAST:
            continue
        above = None if riser.roof < 0 else _pitch_behind(roofs[riser.roof], riser, (t0 + t1) / 2)
        source = roof if riser.roof < 0 else roofs[riser.roof]
        behind = riser.length or -_extent(source, riser, (t0, t1), (-FAR, 0.0))[0]
        ahead = _extent(roof, riser, (t0, t1), (gap, FAR))[1] - gap
        yield Meeting(riser, (t0, t1), k, h, gap, behind, ahead, above, tuple(p for p, _ in below))


def _tops(riser: Riser, shape: shapely.Geometry) -> Floats:
    """The level of a riser's top beside a shape's corners [m]."""
    t, _ = riser.seen(shape)
    share = np.clip(t / riser.size, 0.0, 1.0)
    return np.asarray(riser.tops[0] + share * (riser.tops[1] - riser.tops[0]))


def _pitch_behind(roof: SnowRoof, riser: Riser, t: float) -> Pitch:
    at = shapely.Point(riser.a + t * riser.way - 4 * TOUCH * riser.normal)
    return min(roof.pitches, key=lambda p: float(shapely.distance(p.plan, at)))


def _extent(roof: SnowRoof, riser: Riser, t: tuple[float, float], d: tuple[float, float]) -> tuple[float, float]:
    """From where to where a roof reaches before a riser without a break, from the end of d that is nearer [m]."""
    found = common(roof.plan, riser.box(t, d))
    nearest = d[0] if abs(d[0]) < abs(d[1]) else d[1]
    spans = [riser.seen(p)[1] for p in shapely.get_parts(found) if isinstance(p, shapely.Polygon) and not p.is_empty]
    touching = [s for s in spans if abs(s - nearest).min() < 0.1]
    if not touching:
        return nearest, nearest
    return min(float(s.min()) for s in touching), max(float(s.max()) for s in touching)
