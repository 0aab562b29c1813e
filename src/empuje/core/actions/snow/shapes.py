"""Shapes of snow, before they are loads: what lies where, and the steps that led there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding, listed
from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import Falling
from .roofs import Pitch, SnowRoof
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
    drifts = [d for d in found if d.direction >= 0 or d.falling != Falling.DRIFTED]
    lost = [d.meeting.riser.name for d in found if d.direction < 0 and d.falling == Falling.DRIFTED]
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


FOUR = 4
BY_HAND = "leave its surfaces out of `roofs`, and write its snow in [loads]"
