"""Shapes of snow, before they are loads: what lies where, and the steps that led there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding, listed
from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import Falling
from ...surfaces.common import areas_of, common, without
from .roofs import Pitch, SnowRoof, band
from .steps import Meeting

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Layer:
    """Snow on a pitch, or on the `region` of it in plan: `start` [N/m2] of level area at distance `low` along the level
    unit vector `way` (2,), `end` at `high`, straight between and beyond; its name and its steps."""

    pitch: Pitch
    name: str
    steps: tuple[Step, ...]
    start: float
    end: float = 0.0
    region: shapely.Geometry | None = None
    way: tuple[float, float] = (1.0, 0.0)
    low: float = 0.0
    high: float = 1.0

    @property
    def is_even(self) -> bool:
        """Whether it is the same everywhere."""
        return self.start == self.end

    def field(self) -> Floats:
        """a, b, c of a + b x + c y [N/m2]."""
        if self.is_even:
            return np.array([self.start, 0.0, 0.0])
        change = (self.end - self.start) / (self.high - self.low)
        return np.array([self.start - change * self.low, change * self.way[0], change * self.way[1]])


@dataclass(frozen=True)
class Drift:
    """A drift, or what slid, at a meeting [m, N/m2]: kind, what it lies on, p at its start and its length; `direction`
    of the wind that makes it, -1 for none."""

    meeting: Meeting
    kind: str
    falling: Falling
    direction: int
    lower: SnowRoof
    l_u: float
    h_d: float
    h_c: float
    start: float
    length: float
    p: float
    steps: tuple[Step, ...]
    even: bool = False


@dataclass(frozen=True)
class Shapes:
    """What a code makes of roofs: steps for each pitch up to its balanced load, layers by arrangement and direction
    (-1: all), drifts, balanced layers by themselves, and what was found wrong."""

    of_pitches: dict[tuple[int, int], tuple[Step, ...]]
    layers: dict[tuple[Falling, int], list[Layer]]
    drifts: tuple[Drift, ...] = ()
    balanced: tuple[Layer, ...] = ()
    findings: list[Finding] = field(default_factory=list)


def nearest_direction(directions: Sequence[tuple[str, tuple[float, float]]], way: Floats) -> int:
    """The number of the direction that a level unit vector is nearest to, the first of several; -1 where all are more
    than 46 degrees off."""
    dots = np.round([way @ np.array(d) for _, d in directions], 6)
    best = int(np.argmax(dots))
    return best if dots[best] > np.cos(np.radians(46)) else -1


def drift_layers(drift: Drift) -> list[Layer]:
    """A drift as layers on the pitches of the lower roof."""
    m = drift.meeting
    end = drift.start + drift.length
    region = m.region(drift.start, end)
    n = m.riser.normal
    low = float(m.riser.a @ n)
    out = []
    for pitch in drift.lower.pitches:
        if shapely.intersects(pitch.plan, region):
            out.append(Layer(pitch, f"{drift.kind} at {m.riser.name}", drift.steps, drift.p, drift.p if drift.even else
                             0.0, region, (float(n[0]), float(n[1])), low + drift.start, low + end))  # fmt: skip
    return out


ACROSS = 0.7
"""Drifts whose ways have at most this cosine intersect where they meet."""
SPECK = 1e-6


def intersecting(own: Sequence[Drift], every: Sequence[Drift]) -> list[Layer]:
    """What drifts of other directions put on top of those of a wind's own that they intersect, at re-entrant corners
    and at corners of parapets: both occur at once, and where they lie over each other the larger counts (7.7.3)."""
    others = [x for x in every if all(x is not one for one in own)]
    crossing = [x for x in others if any(_cross(x, one) for one in own)]
    crossing.sort(key=lambda x: -x.p)
    out: list[Layer] = []
    before = list(own)
    for drift in crossing:
        less = [x for x in before if _cross(x, drift) or x.meeting is drift.meeting]
        for layer in drift_layers(drift):
            parts = [(areas_of(common(layer.pitch.plan, layer.region)), layer.field())]
            for one in less:
                parts = [p for part in parts for p in _less(*part, one)]
            whole = [(one, field) for shape, field in parts for one in shapely.get_parts(shapely.make_valid(shape))]
            out += [_as_layer(layer, one, field) for one, field in whole if shapely.area(one) > SPECK]
        before.append(drift)
    return out


def _cross(a: Drift, b: Drift) -> bool:
    ways = a.meeting.riser.normal, b.meeting.riser.normal
    if a.meeting.lower != b.meeting.lower or abs(float(ways[0] @ ways[1])) > ACROSS:
        return False
    return bool(shapely.area(common(_region(a), _region(b))) > SPECK)


def _region(drift: Drift) -> shapely.Geometry:
    region = drift.meeting.region(drift.start, drift.start + drift.length)
    return areas_of(common(region, drift.lower.plan))


def _less(shape: shapely.Geometry, field: Floats, drift: Drift) -> list[tuple[shapely.Geometry, Floats]]:
    """What of a field on a shape exceeds a drift: in full beside it, over it the rest where that is any."""
    region = _region(drift)
    out = [(areas_of(without(shape, region)), field)]
    over = areas_of(common(shape, region))
    if shapely.area(over) <= SPECK:
        return [(shape, field)]
    rest = field - drift_layers(drift)[0].field()
    slope = float(np.hypot(*rest[1:]))
    if slope > SPECK * float(np.abs(rest).max()) / 1e3:
        way = rest[1:] / slope
        over = areas_of(common(over, band(over, way, -float(rest[0]) / slope, np.inf)))
    elif rest[0] <= 0:
        return out
    else:
        rest = np.array([rest[0], 0.0, 0.0])
    return [*out, (over, rest)]


def _as_layer(layer: Layer, shape: shapely.Geometry, field: Floats) -> Layer:
    """A field a + b x + c y [N/m2] on a shape in plan."""
    slope = float(np.hypot(*field[1:]))
    way = field[1:] / slope if slope else np.array([1.0, 0.0])
    along = shapely.get_coordinates(shape) @ way
    low, high = float(along.min()), float(along.max())
    return replace(
        layer, name=f"{layer.name}, intersecting", start=float(field[0] + slope * low),
        end=float(field[0] + slope * high), region=shape, way=(float(way[0]), float(way[1])), low=low, high=high,
    )  # fmt: skip


def shapes(
    rule: SnowRule,
    roofs: Sequence[SnowRoof],
    of_pitches: dict[tuple[int, int], tuple[Step, ...]],
    on_pitches: tuple[Sequence[Layer], dict[int, list[Layer]], Sequence[Layer]],
    found: Sequence[Drift],
    findings: Sequence[Finding],
) -> Shapes:
    """All arrangements. `on_pitches`: the balanced layers that drifts and what slid lie on, those unbalanced by
    direction, and those of the balanced case; `findings`: what was said already."""
    balanced, unbalanced, uniform = on_pitches
    drifts = [d for d in found if d.direction >= 0 or d.falling == Falling.SLIDING]
    moved = (Falling.DRIFTED, Falling.EXCEPTIONAL)
    lost = [d.meeting.riser.name for d in found if d.direction < 0 and d.falling in moved]
    lost += [
        p.name
        for r in roofs
        for i, p in enumerate(r.pitches)
        if r.behind(i) is not None and nearest_direction(rule.directions, p.fall) < 0
    ]
    told = list(findings)
    if lost:
        message = f"no direction of [snow] blows snow over the edge of {listed(list(dict.fromkeys(lost)), 4)}"
        told.append(Finding("error", "snow-direction", message, "add one across it to `directions`", rule.place))
    layers: dict[tuple[Falling, int], list[Layer]] = {(Falling.BALANCED, -1): list(uniform)}
    for d in range(len(rule.directions)):
        layers[Falling.UNBALANCED, d] = unbalanced[d]
        own = [x for x in drifts if x.falling == Falling.DRIFTED and x.direction == d]
        layers[Falling.DRIFTED, d] = [*balanced, *(layer for x in own for layer in drift_layers(x))]
        if not rule.is_en:
            layers[Falling.DRIFTED, d] += intersecting(own, [x for x in drifts if x.falling == Falling.DRIFTED])
    slid = [x for x in drifts if x.falling == Falling.SLIDING]
    layers[Falling.SLIDING, -1] = [*balanced, *(layer for x in slid for layer in drift_layers(x))]
    return Shapes(of_pitches, layers, tuple(drifts), tuple(balanced), told)


def no_bent_valleys(rule: SnowRule, roofs: Sequence[SnowRoof], clause: str) -> list[Finding]:
    """An error where roofs fall to a valley in several slopes, as vaults side by side do."""
    bent = [p.name for r in roofs for i, p in enumerate(r.pitches) if r.beside_valleys(i) and r.bent_above(i)]
    if not bent:
        return []
    message = f"{listed(bent, 4)} falls to a valley in several slopes ({clause}): its snow is not worked out"
    return [Finding("error", "snow-limits", message, BY_HAND, rule.place)]


def no_domes(rule: SnowRule, roofs: Sequence[SnowRoof], clause: str) -> list[Finding]:
    """An error where roofs without valleys fall in more than four ways, as domes do."""
    domes = [r.name for r in roofs if not r.valleys and not r.curved and len(r.ways) > FOUR]
    if not domes:
        return []
    message = f"the roof of {listed(domes, 4)} falls in more than four ways, as a dome does ({clause}): its snow is not"
    return [Finding("error", "snow-limits", f"{message} worked out", BY_HAND, rule.place)]


def with_saws(roofs: Sequence[SnowRoof], met: Sequence[Meeting]) -> list[SnowRoof]:
    """Roofs with the pitches that fall to a step from which the roof above falls away as well, as sawtooth roofs do."""
    saws: dict[int, dict[int, float]] = {}
    for m in met:
        n = m.riser.normal
        if m.gap or m.above is None or m.above.fall @ n > -STRAIGHT_ON:
            continue
        for i, pitch in enumerate(roofs[m.lower].pitches):
            if any(pitch is p for p in m.below) and pitch.fall @ n < -STRAIGHT_ON:
                own = saws.setdefault(m.lower, {})
                own[i] = max(own.get(i, 0.0), m.h)
    return [replace(roof, saws=saws[k]) if k in saws else roof for k, roof in enumerate(roofs)]


STRAIGHT_ON = 0.7


FOUR = 4
BY_HAND = "leave its surfaces out of `roofs`, and write its snow in [loads]"
