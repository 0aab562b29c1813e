"""Snow by EN 1991-1-3:2003, persistent and transient situations: undrifted, drifted by roof shape, against taller works
and obstructions. Recommended values, each of which may be stated."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ...model.findings import Finding, listed
from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import Falling
from .curved import profile, sides_of
from .en_edges import guard_step
from .en_exceptional import exceptional_drifts, in_valleys, limits_of
from .en_numbers import SLIDES_FROM, USUAL_GAMMA, drift_length, mu_1, mu_2, mu_3, mu_at_obstruction, mu_w
from .roofs import Pitch, SnowRoof, stated_W
from .shapes import BY_HAND, Drift, Layer, Shapes, drift_layers, nearest_direction, no_bent_valleys, no_domes, shapes
from .steps import Meeting

REACH = 15.0
"""A taller work nearer than this [m] may make drifts: no drift is longer (5.3.6)."""
STEEP_VALLEY = 60.0


def site_steps(rule: SnowRule) -> list[Step]:
    """What all roofs share."""
    n = rule.stated

    def of(symbol: str, usual: float, unit: str, clause: str) -> Step:
        return Step(symbol, "stated" if symbol in n else "recommended", n.get(symbol, usual), unit, clause)

    s = _s(rule)
    return [
        Step("s_k", "stated", rule.ground_load, "N/m2", "4.1"),
        of("C_e", 1.0, "", "5.2 (7)"),
        of("C_t", 1.0, "", "5.2 (8)"),
        Step("s/mu", "C_e C_t s_k", s, "N/m2", "5.2 (3)"),
        of("gamma", USUAL_GAMMA, "N/m3", "5.3.6"),
        *([Step("C_esl", "stated, of exceptional snow", n["C_esl"], "", "4.3")] if "C_esl" in n else []),
    ]


def _s(rule: SnowRule) -> float:
    return rule.stated.get("C_e", 1.0) * rule.stated.get("C_t", 1.0) * rule.ground_load


def _mu(rule: SnowRule, pitch: Pitch, curved: bool = False) -> float:
    if curved:  # 5.3.5 (i)
        return 0.8 if pitch.slope <= STEEP_VALLEY else 0.0
    return mu_1(pitch.slope, pitch.has(rule.guarded))


def shapes_of(rule: SnowRule, roofs: Sequence[SnowRoof], met: Sequence[Meeting]) -> Shapes:
    """All arrangements."""
    of_pitches: dict[tuple[int, int], tuple[Step, ...]] = {}
    balanced: list[Layer] = []
    unbalanced: dict[int, list[Layer]] = {d: [] for d in range(len(rule.directions))}
    shared = tuple(site_steps(rule)[:4])
    for r, roof in enumerate(roofs):
        bases = []
        for i, pitch in enumerate(roof.pitches):
            mu, held = _mu(rule, pitch, roof.curved), pitch.has(rule.guarded)
            steps = (
                *shared,
                Step("alpha", "slope", pitch.slope, "deg"),
                Step(
                    "mu_1",
                    "snow guards: no less than 0.8" if held else "by the slope",
                    mu,
                    "",
                    "5.3.5" if roof.curved else "table 5.2",
                ),
                Step("s", "mu_1 C_e C_t s_k", mu * _s(rule), "N/m2", "5.1"),
            )
            bases.append(Layer(pitch, "undrifted", steps, mu * _s(rule), mu * _s(rule)))
            of_pitches[r, i] = (*steps, guard_step(mu * _s(rule), pitch)) if held else steps
        balanced += bases
        for d in unbalanced:
            unbalanced[d] += (
                _cylindrical(rule, roof, d, bases)
                if roof.curved
                else [_drifted(rule, roof, i, d, base) for i, base in enumerate(bases)]
            )
    drifts = [d for m in met for d in _against(rule, roofs, m)]
    limits = _limits(rule, roofs)
    valleys: list[Layer] = []
    if rule.annex_B:
        drifts += exceptional_drifts(rule, roofs, met)
        valleys = [layer for roof in roofs for layer in in_valleys(rule, roof)]
        limits += limits_of(rule, roofs, met)
    made = shapes(rule, roofs, of_pitches, (balanced, unbalanced, balanced), drifts, limits)
    for d in range(len(rule.directions)) if rule.annex_B else ():
        own = [x for x in made.drifts if x.falling == Falling.EXCEPTIONAL and x.direction == d]
        made.layers[Falling.EXCEPTIONAL, d] = [*valleys, *(layer for x in own for layer in drift_layers(x))]
    return made


def _limits(rule: SnowRule, roofs: Sequence[SnowRoof]) -> list[Finding]:
    out = [*no_bent_valleys(rule, roofs, "5.3.4"), *no_domes(rule, roofs, "5.3")]
    steep = [
        r.pitches[a].name
        for r in roofs
        for a, b in r.valleys
        if max(r.pitches[a].slope, r.pitches[b].slope) > STEEP_VALLEY
    ]
    if steep:
        words = f"a valley of {listed(steep)} is steeper than 60 degrees (5.3.4 (4)): its snow is not worked out"
        out.append(Finding("error", "snow-limits", words, BY_HAND, rule.place))
    left = [*(["snow that overhangs edges (6.3)"] if not rule.overhanging else []),
            *(["exceptional drifts (annex B)"] if not rule.annex_B else [])]  # fmt: skip
    if left:
        words = f"{' and '.join(left)} {'are' if len(left) > 1 or rule.overhanging else 'is'} not made"
        remedy = "where the country asks for them, say so in `overhanging`, `annex_B`"
        out.append(Finding("note", "snow-partial", words, remedy, rule.place))
    return out


def _drifted(rule: SnowRule, roof: SnowRoof, i: int, d: int, base: Layer) -> Layer:
    """A pitch in the drifted arrangement of its roof's shape (5.3.3, 5.3.4)."""
    pitch = roof.pitches[i]
    others = roof.beside_valleys(i)
    if others:
        mean = max((pitch.slope + roof.pitches[j].slope) / 2 for j in others)
        mu = mu_2(mean)
        steps = (*base.steps, Step("alpha mean", "of both sides of the valley", mean, "deg"),
                 Step("mu_2", "drifted into the valley", mu, "", "5.3.4, table 5.2"),
                 Step("s", "mu_2 C_e C_t s_k", mu * _s(rule), "N/m2", "5.1"))  # fmt: skip
        return Layer(pitch, "drifted into the valley", steps, mu * _s(rule), mu * _s(rule))
    other = roof.behind(i)
    if other is None or roof.valleys or nearest_direction(rule.directions, roof.pitches[other].fall) != d:
        return base
    s = 0.5 * base.start
    step = Step("s", "0.5 mu_1 C_e C_t s_k, windward", s, "N/m2", "5.3.3")
    return Layer(pitch, "drifted, windward", (*base.steps, step), s, s)


def _cylindrical(rule: SnowRule, roof: SnowRoof, d: int, bases: Sequence[Layer]) -> Sequence[Layer]:
    """Triangles of 0.5 mu_3 windward of the crown and mu_3 leeward of it, where it is no steeper than 60 degrees
    (5.3.5 (ii))."""
    sides = sides_of(roof)
    lee = next((k for k, s in enumerate(sides) if nearest_direction(rule.directions, s.way) == d), None)
    if lee is None:
        return bases
    b = sum(float(s.x[-1] - s.x[0]) for s in sides)
    h = max(s.rise for s in sides)
    mu = mu_3(h, b)
    steps = (
        *bases[0].steps[:-3],
        Step("h", "rise of the roof", h, "m", "figure 5.6"),
        Step("b", "its width", b, "m", "figure 5.6"),
        Step("mu_3", "0.2 + 10 h/b <= 2", mu, "", "5.5"),
    )
    out = []
    for k, side in enumerate(sides):
        share, word = (1.0, "leeward") if k == lee else (0.5, "windward")
        end, top = side.where(STEEP_VALLEY), share * mu * _s(rule)
        told = (
            *steps,
            Step("s", f"{'' if share == 1 else '0.5 '}mu_3 C_e C_t s_k, half-way down, {word}", top, "N/m2", "5.1"),
        )
        x = [float(side.x[0]), float(side.x[0] + end) / 2, end]
        out += profile(roof, side, x, [0.0, top, 0.0], f"drifted, {word} of the crown", told)
    return out


def _against(rule: SnowRule, roofs: Sequence[SnowRoof], m: Meeting) -> Iterator[Drift]:
    """What drifts and slides onto a roof beside a taller work (5.3.6), or to a wall on it (6.2)."""
    gamma, s_k, s = rule.stated.get("gamma", USUAL_GAMMA), rule.ground_load, _s(rule)
    lower = roofs[m.lower]
    l_s = drift_length(m.h)
    if m.gap >= l_s:
        return
    under = min(_mu(rule, p, lower.curved) for p in m.below)
    steps = [Step("h", "height of the step", m.h, "m", "5.3.6"), Step("l_s", "2 h, from 5 to 15 m", l_s, "m", "5.3.6")]
    slid = 0.0
    if m.riser.of_building:
        by_wind = mu_w(m.behind, m.ahead, m.h, gamma, s_k)
        pitch = m.above
        steps += [
            Step("b_1", "length of the taller roof" + ", as stated" * m.stated[0], m.behind, "m", "figure 5.7"),
            Step("b_2", "length of the lower roof" + ", as stated" * m.stated[1], m.ahead, "m", "figure 5.7"),
            Step("mu_w", "(b_1 + b_2)/2h <= gamma h/s_k, from 0.8 to 4", by_wind, "", "5.8"),
        ]
        slides = pitch is not None and pitch.slope > SLIDES_FROM and pitch.fall @ m.riser.normal > 0.7
        if pitch is not None and slides and not pitch.has(rule.guarded):
            slid = _mu(rule, pitch) * pitch.W / l_s
            steps += [
                Step("W", "of the pitch above, level" + stated_W(pitch), pitch.W, "m"),
                Step("mu_s", "half of mu_1 W above, a triangle over l_s", slid, "", "5.3.6 (1)"),
            ]
        mu, kind = by_wind + slid, "drift against a taller work"
        steps.append(Step("mu_2", "mu_s + mu_w", mu, "", "5.7"))
    else:
        mu, kind = mu_at_obstruction(m.h, gamma, s_k), "drift at an obstruction"
        steps.append(Step("mu_2", "gamma h/s_k, from 0.8 to 2", mu, "", "6.1"))
    more = (mu - under) * s
    if more <= 0:
        return
    told = (*site_steps(rule), *steps, Step("p", "(mu_2 - mu_1) C_e C_t s_k, over the undrifted", more, "N/m2", "5.1"))
    way = m.riser.normal if m.riser.of_building else -m.riser.normal
    direction = nearest_direction(rule.directions, np.asarray(way))
    yield Drift(m, kind, Falling.DRIFTED, direction, lower, m.behind, np.nan, np.nan, 0.0, l_s, more, told)
