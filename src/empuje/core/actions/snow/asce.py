"""Snow by ASCE 7-16 and 7-22, chapter 7: balanced, unbalanced, drifted, slid.

Symbols and clauses are the code's; in 7-22 p_g is of the limit state and I_s is none.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...model.findings import Finding, listed
from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import Falling, SnowCode
from .asce_numbers import (
    FOOT,
    PSF,
    SURCHARGE,
    density,
    drift_height,
    drift_shape,
    exposure_factor,
    least_load,
    slope_factor,
)
from .curved import profile, sides_of
from .roofs import Pitch, SnowRoof
from .shapes import Drift, Layer, Shapes, nearest_direction, no_bent_valleys, no_domes, shapes, strip_down
from .steps import Meeting

Floats = NDArray[np.float64]
STEEPEST, FLATTEST = float(np.degrees(np.arctan(7 / 12))), float(np.degrees(np.arctan(0.5 / 12)))
"""Slopes [deg] between which hip and gable roofs are loaded unbalanced (7.6.1)."""
LOW = 15.0
"""Below this slope [deg] the minimum load holds (7.3.4; 7-22: 7.3.3)."""
FOLDED_FROM = float(np.degrees(np.arctan(0.375 / 12)))
"""From this slope [deg] folded roofs are loaded unbalanced (7.6.3)."""
SLIDES = {True: float(np.degrees(np.arctan(0.25 / 12))), False: float(np.degrees(np.arctan(2 / 12)))}
"""Beyond these slopes [deg] snow slides off, by whether the roof is slippery (7.9)."""
PONDS = float(np.degrees(np.arctan(0.25 / 12)))
CURVED, BARE = (10.0, 60.0), 70.0
"""Slopes from eave to crown [deg] of curved roofs that are loaded unbalanced; steeper parts are bare (7.4.3, 7.6.2)."""
NARROW = 20 * FOOT
REACH = 20 * FOOT
"""A taller structure nearer than this [m] makes drifts (7.7.2)."""
SLIDE_LENGTH = 15 * FOOT
SHORT_SIDE = 15 * FOOT
LEAST_STEP = 0.2
"""h_c/h_b below which a drift is none (7.7.1)."""


def site_steps(rule: SnowRule) -> list[Step]:
    """What all roofs share."""
    n = rule.stated
    out = [Step("p_g", "stated", rule.ground_load, "N/m2", "7.2")]
    out.append(
        Step("C_e", "stated", n["C_e"], "", "7.3.1") if "C_e" in n else
        Step("C_e", f"terrain {rule.exposure}, {rule.roof_exposure}", _C_e(rule), "", "table 7.3-1")
    )  # fmt: skip
    if rule.code == SnowCode.ASCE_16:
        out.append(Step("I_s", "stated", n.get("I_s", 1.0), "", "table 1.5-2"))
    else:
        out.append(Step("W_2", "stated", n.get("W_2", 0.0), "", "figure 7.6-1"))
    how = "stated" if "gamma" in n else "0.13 p_g + 14 <= 30, in lb and ft"
    return [*out, Step("gamma", how, _gamma(rule), "N/m3", "7.7.1")]


def _C_e(rule: SnowRule) -> float:
    return rule.stated.get("C_e") or exposure_factor(rule.exposure, rule.roof_exposure)


def _gamma(rule: SnowRule) -> float:
    return rule.stated.get("gamma") or density(rule.ground_load)


def _C_t(rule: SnowRule, pitch: Pitch) -> float:
    return rule.C_t[pitch.faces[0].surface]


def _I_s(rule: SnowRule) -> float:
    return rule.stated.get("I_s", 1.0) if rule.code == SnowCode.ASCE_16 else 1.0


def _flat(rule: SnowRule, pitch: Pitch) -> float:
    """p_f [N/m2] (7.3-1)."""
    return 0.7 * _C_e(rule) * _C_t(rule, pitch) * _I_s(rule) * rule.ground_load


def _slippery(rule: SnowRule, pitch: Pitch) -> bool:
    return pitch.has(rule.slippery) and not pitch.has(rule.guarded)


def _slope_factor(rule: SnowRule, roof: SnowRoof, pitch: Pitch) -> tuple[float, str, str]:
    if roof.valleys:
        return 1.0, "folded roofs are not reduced for their slope", "7.4.4"
    words = "warm" if _C_t(rule, pitch) <= 1 else "cold"
    C_s = slope_factor(pitch.slope, _C_t(rule, pitch), _slippery(rule, pitch))
    return C_s, f"{words}, {'slippery' if _slippery(rule, pitch) else 'not slippery'}", "figure 7.4-1"


def _sloped(rule: SnowRule, roof: SnowRoof, pitch: Pitch) -> float:
    return _slope_factor(rule, roof, pitch)[0] * _flat(rule, pitch)


def _pitch_steps(rule: SnowRule, roof: SnowRoof, pitch: Pitch) -> tuple[Step, ...]:
    C_s, words, clause = _slope_factor(rule, roof, pitch)
    head = [s for s in site_steps(rule) if s.symbol in ("p_g", "C_e", "I_s")]
    formula = "0.7 C_e C_t I_s p_g" if rule.code == SnowCode.ASCE_16 else "0.7 C_e C_t p_g"
    return (
        *head,
        Step("C_t", "stated", _C_t(rule, pitch), "", "7.3.2"),
        Step("p_f", formula, _flat(rule, pitch), "N/m2", "7.3-1"),
        Step("theta", "slope", pitch.slope, "deg"),
        Step("C_s", words, C_s, "", clause),
        Step("p_s", "C_s p_f", C_s * _flat(rule, pitch), "N/m2", "7.4-1"),
    )


def shapes_of(rule: SnowRule, roofs: Sequence[SnowRoof], met: Sequence[Meeting]) -> Shapes:
    """All arrangements."""
    of_pitches, balanced, uniform = {}, [], []
    unbalanced: dict[int, list[Layer]] = {d: [] for d in range(len(rule.directions))}
    for r, roof in enumerate(roofs):
        for i, pitch in enumerate(roof.pitches):
            steps = _pitch_steps(rule, roof, pitch)
            p_s = steps[-1].value
            base = Layer(pitch, "balanced", steps, p_s, p_s)
            balanced.append(base)
            uniform.append(_uniform(rule, roof, pitch, base))
            of_pitches[r, i] = (*steps, *uniform[-1].steps[len(steps) :])
            for d in unbalanced:
                unbalanced[d] += _unbalanced(rule, roof, i, d, base)
    drifts = [d for m in met for d in (*_drifts(rule, roofs, m), *_slid(rule, roofs, m))]
    return shapes(rule, roofs, of_pitches, (balanced, unbalanced, uniform), drifts, _limits(rule, roofs))


def _limits(rule: SnowRule, roofs: Sequence[SnowRoof]) -> list[Finding]:
    """What the code has no rules for, or these are not made of, and what is to be looked at by hand."""
    out = [*no_bent_valleys(rule, roofs, "7.6.3"), *no_domes(rule, roofs, "7.6.4")]
    flat = [p.name for r in roofs for p in r.pitches if p.slope < PONDS]
    if flat:
        words = (
            f"ponding of rain on snow (7.11) is not checked, and {listed(flat, 4)} falls by less than 1/4 inch per foot"
        )
        out.append(Finding("note", "snow-ponding", words, "", rule.place, about=tuple(flat)))
    if not rule.partial:
        words = "partial loading (7.5) is made of no members"
        remedy = "where some are continuous or cantilever, state their spans in [snow.partial.NAME]"
        out.append(Finding("note", "snow-partial", words, remedy, rule.place))
    return out


def _uniform(rule: SnowRule, roof: SnowRoof, pitch: Pitch, base: Layer) -> Layer:
    """The balanced load with rain on it, or the minimum where that is more."""
    p_s, steps = base.start, list(base.steps)
    p, name = p_s, "balanced"
    threshold = least_load(rule.code, rule.ground_load, 1.0, _risk(rule))
    rains = 0 < rule.ground_load <= threshold + 1e-9 and pitch.slope < pitch_length(roof, pitch) / FOOT / 50
    if rains:
        surcharge = SURCHARGE[rule.code] * PSF
        p = p_s + surcharge
        steps += [
            Step("W", "level, from ridge to eave", pitch_length(roof, pitch), "m"),
            Step("p_r", "rain on snow: slope [deg] below W/50 [ft]", surcharge, "N/m2", "7.10"),
            Step("p", "p_s + p_r", p, "N/m2", "7.10"),
        ]
        name = "balanced, rain on snow"
    if _is_low(roof):
        p_m = least_load(rule.code, rule.ground_load, _I_s(rule), _risk(rule))
        steps.append(Step("p_m", "minimum of low-slope roofs, a case by itself", p_m, "N/m2",
                          "7.3.3" if rule.code == SnowCode.ASCE_22 else "7.3.4"))  # fmt: skip
        if p_m > p:
            p, name = p_m, "minimum"
    return Layer(pitch, name, tuple(steps), p, p)


def _is_low(roof: SnowRoof) -> bool:
    """Whether the minimum load holds (7.3.4): of curved roofs by the line from eave to crown."""
    if roof.curved:
        return max(s.chord for s in sides_of(roof)) < CURVED[0]
    return roof.steepest < LOW and not roof.valleys


def pitch_length(roof: SnowRoof, pitch: Pitch) -> float:
    """W [m]; of a level roof the longer side of the rectangle around it."""
    return pitch.W if pitch.fall.any() else float(np.hypot(*np.ptp(np.array(roof.plan.bounds).reshape(2, 2), axis=0)))


def _risk(rule: SnowRule) -> str:
    return {1.0: "I", 2.0: "II", 3.0: "III", 4.0: "IV"}.get(rule.stated.get("risk", 0.0), "I")


def _unbalanced(rule: SnowRule, roof: SnowRoof, i: int, d: int, base: Layer) -> Iterator[Layer]:
    """A pitch with the wind of a direction (7.6)."""
    pitch, p_s = roof.pitches[i], base.start
    if roof.curved:
        yield from _curved(rule, roof, i, d, base)
        return
    if roof.valleys:
        yield from _folded(rule, roof, i, base)
        return
    other = roof.behind(i)
    if other is None or not FLATTEST <= pitch.slope <= STEEPEST:
        yield base
        return
    if nearest_direction(rule.directions, pitch.fall) == d:
        yield from _leeward(rule, pitch, roof.pitches[other], base)
    elif nearest_direction(rule.directions, roof.pitches[other].fall) == d and (
        FLATTEST <= roof.pitches[other].slope <= STEEPEST
    ):
        narrow = rule.rafters and roof.pitches[other].W <= NARROW
        share, words = (0.0, "windward of a narrow roof") if narrow else (0.3, "windward")
        p = share * p_s
        told = Step("p", f"{share:g} p_s, {words}", p, "N/m2", "7.6.1")
        yield Layer(pitch, "unbalanced, windward", (*base.steps, told),
                    p, p)  # fmt: skip
    else:
        yield base


def _leeward(rule: SnowRule, pitch: Pitch, windward: Pitch, base: Layer) -> Iterator[Layer]:
    if rule.rafters and pitch.W <= NARROW:
        p = _I_s(rule) * rule.ground_load
        step = Step("p", "I_s p_g, leeward: rafters span from ridge to eave, W <= 20 ft", p, "N/m2", "7.6.1")
        yield Layer(pitch, "unbalanced, leeward", (*base.steps, step), p, p)
        return
    h_d = _h_d(rule, windward.W)
    S = 1 / np.tan(np.radians(pitch.slope))
    more = float(h_d * _gamma(rule) / np.sqrt(S))
    length = float(8 * h_d * np.sqrt(S) / 3)
    steps = (
        *base.steps,
        Step("l_u", "W on the windward side, at least 20 ft", max(windward.W, NARROW), "m", "7.6.1"),
        *_of_height(rule, h_d),
        Step("S", "level run for a rise of one", float(S), ""),
        Step("h_d gamma/sqrt(S)", "over p_s, from the ridge", more, "N/m2", "7.6.1"),
        Step("8 sqrt(S) h_d/3", "so far from the ridge", length, "m", "7.6.1"),
    )
    yield Layer(pitch, "unbalanced, leeward", steps[: len(base.steps)], base.start, base.start)
    region = strip_down(pitch, -1.0, length)
    yield Layer(pitch, "unbalanced, leeward drift", steps, more, more, region)


def _folded(rule: SnowRule, roof: SnowRoof, i: int, base: Layer) -> Iterator[Layer]:
    """From half of p_f at the ridge to 2 p_f/C_e in the valley, no higher than the snow on the ridge (7.6.3)."""
    pitch = roof.pitches[i]
    if not roof.beside_valleys(i) or pitch.slope < FOLDED_FROM:
        yield base
        return
    p_f = _flat(rule, pitch)
    rise = pitch.W * np.tan(np.radians(pitch.slope))
    top = 0.5 * p_f
    bottom = 2 * p_f / _C_e(rule)
    limit = float(top + _gamma(rule) * rise)
    low, high = pitch.reach
    steps = (
        *base.steps,
        Step("p at the ridge", "0.5 p_f", top, "N/m2", "7.6.3"),
        Step("2 p_f/C_e", "in the valley", bottom, "N/m2", "7.6.3"),
        Step("0.5 p_f + gamma rise", "snow in the valley is no higher than that on the ridge", limit, "N/m2", "7.6.3"),
        Step("p in the valley", "the smaller of both", min(bottom, limit), "N/m2", "7.6.3"),
    )
    yield Layer(pitch, "unbalanced, to the valley", steps, top, min(bottom, limit), None, (float(pitch.fall[0]),
                float(pitch.fall[1])), low, high)  # fmt: skip


def _curved(rule: SnowRule, roof: SnowRoof, i: int, d: int, base: Layer) -> Iterator[Layer]:
    """Half of p_f at the crown, 2 p_f C_s/C_e where it is 30 degrees steep and at the eave, none windward (7.6.2)."""
    side = next((s for s in sides_of(roof) if nearest_direction(rule.directions, s.way) == d), None)
    if side is None or not CURVED[0] <= side.chord <= CURVED[1]:
        yield base
        return
    if i:
        return  # all of it comes with the first facet
    pitch = roof.pitches[i]
    p_f, C_e = _flat(rule, pitch), _C_e(rule)
    end = side.where(BARE)
    steep = float(side.slopes[-1]) if side.slopes[-1] <= BARE else BARE
    at = [side.x[0], side.where(30.0), end]

    def load(slope: float) -> float:
        return 2 * p_f * slope_factor(slope, _C_t(rule, pitch), _slippery(rule, pitch)) / C_e

    p = [0.5 * p_f, load(min(steep, 30.0)), load(steep)]
    head = [s for s in base.steps if s.symbol in ("p_g", "C_e", "I_s", "C_t", "p_f")]
    steps = (
        *head,
        Step("slope from eave to crown", "of 10 to 60 degrees", side.chord, "deg", "7.6.2"),
        Step("p at the crown", "0.5 p_f", p[0], "N/m2", "figure 7.4-2"),
        Step("p at 30 degrees, or the eave", "2 p_f C_s/C_e", p[1], "N/m2", "figure 7.4-2"),
        Step("p at the eave, or 70 degrees", "2 p_f C_s/C_e", p[2], "N/m2", "figure 7.4-2"),
    )
    yield from profile(roof, side, [float(x) for x in at], p, "unbalanced, leeward of the crown", steps)


def _h_d(rule: SnowRule, l_u: float) -> float:
    return drift_height(rule.code, rule.ground_load, l_u, _I_s(rule), rule.stated.get("W_2", 0.0), _gamma(rule))


def _of_height(rule: SnowRule, h_d: float) -> list[Step]:
    if rule.code == SnowCode.ASCE_22:
        words = "1.5 sqrt(p_g^0.74 l_u^0.70 W_2^1.7/gamma), in lb and ft"
        W_2 = Step("W_2", "stated", rule.stated.get("W_2", 0.0), "")
        return [W_2, Step("gamma", "", _gamma(rule), "N/m3", "7.7.1"), Step("h_d", words, h_d, "m", "7.6-1")]
    words = "sqrt(I_s) (0.43 l_u^(1/3) (p_g + 10)^(1/4) - 1.5), in lb and ft"
    return [Step("gamma", "", _gamma(rule), "N/m3", "7.7.1"), Step("h_d", words, h_d, "m", "figure 7.6-1")]


def _drifts(rule: SnowRule, roofs: Sequence[SnowRoof], m: Meeting) -> Iterator[Drift]:
    """Leeward and windward drifts at a step, beside a taller structure, at a parapet or a projection (7.7, 7.8)."""
    gamma, lower = _gamma(rule), roofs[m.lower]
    p_s = min(_sloped(rule, lower, p) for p in m.below)
    h_b = p_s / gamma
    h_c = m.h - h_b
    if h_c <= 0 or h_c < LEAST_STEP * h_b or (m.gap and (m.gap >= REACH or m.gap >= 6 * m.h)):
        return
    if m.riser.free and m.t[1] - m.t[0] < SHORT_SIDE - 1e-6:
        return
    common = [Step("h_b", "p_s/gamma on the lower roof", h_b, "m", "7.7.1"),
              Step("h_c", "clear height above it", h_c, "m", "7.7.1")]  # fmt: skip
    if m.gap:
        common.append(Step("s", "between the two in plan", m.gap, "m", "7.7.2"))
    n = m.riser.normal
    if m.riser.of_building:
        h_d = _h_d(rule, m.behind)
        steps = [Step("l_u", "length of the upper roof, at least 20 ft", max(m.behind, NARROW), "m", "7.7.1"),
                 *_of_height(rule, h_d)]  # fmt: skip
        if rule.code == SnowCode.ASCE_16 and not m.gap and h_d > 0.6 * m.ahead:
            h_d = 0.6 * m.ahead
            steps.append(Step("h_d", "no more than 0.6 of the length of the lower roof", h_d, "m", "7.7.1"))
        h, w = drift_shape(h_d, h_c)
        if m.gap:
            near = (6 * m.h - m.gap) / 6
            h_d = min(h_d, near)
            h, w = min(h_d, h_c), min(6 * h_d, 6 * m.h - m.gap)
            steps.append(Step("h_d", "no more than (6 h - s)/6", h_d, "m", "7.7.2"))
        yield _drift(rule, m, lower, "leeward drift", n, max(m.behind, NARROW), h_d, h_c, m.gap, h, w,
                     (*common, *steps))  # fmt: skip
    length, words = m.ahead, "length of the lower roof" if m.riser.of_building else "length of the roof before it"
    if m.riser.free:
        length, words = max(m.ahead, m.behind), "the longer length of roof before or behind it"
    h_d = 0.75 * _h_d(rule, length)
    clause = "7.7.1" if m.riser.of_building else "7.8"
    steps = [
        Step("l_u", f"{words}, at least 20 ft", max(length, NARROW), "m", clause),
        *_of_height(rule, h_d / 0.75),
        Step("0.75 h_d", "", h_d, "m", clause),
    ]
    h, w = drift_shape(h_d, h_c)
    if w > m.gap:
        kind = "windward drift" if m.riser.of_building else "drift"
        yield _drift(rule, m, lower, kind, -n, max(length, NARROW), h_d, h_c, 0.0, h, w, (*common, *steps))


def _drift(rule: SnowRule, m: Meeting, lower: SnowRoof, kind: str, way: Floats, l_u: float, h_d: float, h_c: float,
           start: float, h: float, w: float, steps: tuple[Step, ...]) -> Drift:  # fmt: skip
    p = h * _gamma(rule)
    more = (
        Step("h", "h_d, or h_c where that is less", h, "m", "7.7.1"),
        Step("w", "4 h_d, or 4 h_d^2/h_c <= 8 h_c" if not start else "6 h_d, or 6 h - s", w, "m", "7.7.1"),
        Step("p_d", "h gamma, over the balanced snow", p, "N/m2", "7.7.1"),
    )
    direction = nearest_direction(rule.directions, way)
    return Drift(m, kind, Falling.DRIFTED, direction, lower, l_u, h_d, h_c, start, w, p, (*steps, *more))


def _slid(rule: SnowRule, roofs: Sequence[SnowRoof], m: Meeting) -> Iterator[Drift]:
    """Snow that slides onto a lower roof (7.9)."""
    pitch = m.above
    if pitch is None or pitch.has(rule.guarded) or pitch.fall @ m.riser.normal < 0.7:
        return
    if pitch.slope <= SLIDES[pitch.has(rule.slippery)] or m.gap >= SLIDE_LENGTH or (m.gap and m.h <= m.gap):
        return
    p_f = _flat(rule, pitch)
    p = 0.4 * p_f * pitch.W / SLIDE_LENGTH
    steps = (
        Step("p_f", "of the upper roof", p_f, "N/m2", "7.3-1"),
        Step("W", "from its ridge to its eave", pitch.W, "m", "7.9"),
        Step("0.4 p_f W", "for each length of eave", 0.4 * p_f * pitch.W, "N/m", "7.9"),
        Step("p", "spread over 15 ft from the eave", p, "N/m2", "7.9"),
    )
    yield Drift(m, "slid", Falling.SLIDING, -1, roofs[m.lower], pitch.W, np.nan, np.nan, 0.0, SLIDE_LENGTH, p, steps,
                True)  # fmt: skip
