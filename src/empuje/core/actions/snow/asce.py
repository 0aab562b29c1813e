"""Snow on roofs by ASCE 7-16 and 7-22, chapter 7: balanced, unbalanced by form; all arrangements.

Symbols and clauses are the code's; in 7-22 p_g is of the limit state and I_s is none.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...model.findings import Finding, listed
from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import SnowCode
from .asce_drifts import drifts_at, slid_at
from .asce_numbers import FLATTEST, FOOT, PONDS, PSF, SHORTEST, STEEPEST, SURCHARGE, least_load, slope_factor
from .asce_site import (
    C_e_of,
    C_t_of,
    I_s_of,
    flat_load,
    gamma_of,
    h_d_behind,
    is_slippery,
    site_steps,
    slope_factor_of,
    steps_of_height,
)
from .curved import profile, sides_of
from .roofs import Pitch, SnowRoof, band, stated_W
from .shapes import Layer, Shapes, nearest_direction, no_bent_valleys, no_domes, shapes
from .steps import Meeting

Floats = NDArray[np.float64]
NARROW = 20 * FOOT
"""Roofs of rafters up to this W [m] are loaded on the leeward side alone (7.6.1)."""
LOW = 15.0
"""Below this slope [deg] the minimum load holds (7.3.4; 7-22: 7.3.3)."""
FOLDED_FROM = float(np.degrees(np.arctan(0.375 / 12)))
"""From this slope [deg] folded roofs are loaded unbalanced (7.6.3)."""
CURVED, BARE = (10.0, 60.0), 70.0
"""Slopes from eave to crown [deg] of curved roofs that are loaded unbalanced; steeper parts are bare (7.4.3, 7.6.2)."""


def _pitch_steps(rule: SnowRule, roof: SnowRoof, pitch: Pitch) -> tuple[Step, ...]:
    C_s, words, clause = slope_factor_of(rule, roof, pitch)
    head = [s for s in site_steps(rule) if s.symbol in ("p_g", "C_e", "I_s")]
    formula = "0.7 C_e C_t I_s p_g" if rule.code == SnowCode.ASCE_16 else "0.7 C_e C_t p_g"
    return (
        *head,
        Step("C_t", "stated", C_t_of(rule, pitch), "", "7.3.2"),
        Step("p_f", formula, flat_load(rule, pitch), "N/m2", "7.3-1"),
        Step("theta", "slope", pitch.slope, "deg"),
        Step("C_s", words, C_s, "", clause),
        Step("p_s", "C_s p_f", C_s * flat_load(rule, pitch), "N/m2", "7.4-1"),
    )


def shapes_of(rule: SnowRule, roofs: Sequence[SnowRoof], met: Sequence[Meeting]) -> Shapes:
    """All arrangements."""
    of_pitches: dict[tuple[int, int], tuple[Step, ...]] = {}
    balanced: list[Layer] = []
    uniform: list[Layer] = []
    unbalanced: dict[int, list[Layer]] = {d: [] for d in range(len(rule.directions))}
    for r, roof in enumerate(roofs):
        bases = []
        for i, pitch in enumerate(roof.pitches):
            steps = _pitch_steps(rule, roof, pitch)
            p_s = steps[-1].value
            bases.append(Layer(pitch, "balanced", steps, p_s, p_s))
            uniform.append(_uniform(rule, roof, pitch, bases[-1]))
            of_pitches[r, i] = (*steps, *uniform[-1].steps[len(steps) :])
        balanced += bases
        for d in unbalanced:
            unbalanced[d] += _unbalanced(rule, roof, d, bases)
    drifts = [d for m in met for d in (*drifts_at(rule, roofs, m), *slid_at(rule, roofs, m))]
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
    return out


def _uniform(rule: SnowRule, roof: SnowRoof, pitch: Pitch, base: Layer) -> Layer:
    """The balanced load with rain on it, or the minimum where that is more."""
    p_s, steps = base.start, list(base.steps)
    p, name = p_s, "balanced"
    threshold = least_load(rule.code, rule.ground_load, 1.0, rule.risk)
    falls = bool(pitch.fall.any())
    if 0 < rule.ground_load <= threshold + 1e-9 and (not falls or pitch.slope < pitch.W / FOOT / 50):
        surcharge = SURCHARGE[rule.code] * PSF
        p = p_s + surcharge
        words = "slope [deg] below W/50 [ft]" if falls else "the roof is level"
        steps += [
            *([Step("W", "level, from ridge to eave" + stated_W(pitch), pitch.W, "m")] if falls else []),
            Step("p_r", f"rain on snow: {words}", surcharge, "N/m2", "7.10"),
            Step("p", "p_s + p_r", p, "N/m2", "7.10"),
        ]
        name = "balanced, rain on snow"
    if _is_low(roof):
        p_m = least_load(rule.code, rule.ground_load, I_s_of(rule), rule.risk)
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


def _unbalanced(rule: SnowRule, roof: SnowRoof, d: int, bases: Sequence[Layer]) -> Iterator[Layer]:
    """A roof with the wind of a direction (7.6), from the balanced layers of its pitches."""
    if roof.curved:
        yield from _curved(rule, roof, d, bases)
        return
    for i, base in enumerate(bases):
        yield from _folded(rule, roof, i, base) if roof.is_folded else _ridged(rule, roof, i, d, base)


def _ridged(rule: SnowRule, roof: SnowRoof, i: int, d: int, base: Layer) -> Iterator[Layer]:
    """A pitch of a hip or gable roof (7.6.1); others keep the balanced load."""
    pitch, p_s = roof.pitches[i], base.start
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
        p = I_s_of(rule) * rule.ground_load
        step = Step("p", "I_s p_g, leeward: rafters span from ridge to eave, W <= 20 ft", p, "N/m2", "7.6.1")
        yield Layer(pitch, "unbalanced, leeward", (*base.steps, step), p, p)
        return
    h_d = h_d_behind(rule, windward.W)
    S = 1 / np.tan(np.radians(pitch.slope))
    more = float(h_d * gamma_of(rule) / np.sqrt(S))
    length = float(8 * h_d * np.sqrt(S) / 3)
    steps = (
        *base.steps,
        Step(
            "l_u",
            f"W on the windward side{stated_W(windward)}, at least 20 ft",
            max(windward.W, SHORTEST),
            "m",
            "7.6.1",
        ),
        *steps_of_height(rule, h_d),
        Step("S", "level run for a rise of one", float(S), ""),
        Step("h_d gamma/sqrt(S)", "over p_s, from the ridge", more, "N/m2", "7.6.1"),
        Step("8 sqrt(S) h_d/3", "so far from the ridge", length, "m", "7.6.1"),
    )
    yield Layer(pitch, "unbalanced, leeward", steps[: len(base.steps)], base.start, base.start)
    top = pitch.reach[0]
    region = band(pitch.plan, pitch.fall, top - 1.0, top + length)
    yield Layer(pitch, "unbalanced, leeward drift", steps, more, more, region)


def _folded(rule: SnowRule, roof: SnowRoof, i: int, base: Layer) -> Iterator[Layer]:
    """From half of p_f at the ridge to 2 p_f/C_e in the valley, no higher than the snow on the ridge (7.6.3)."""
    pitch = roof.pitches[i]
    if not (roof.beside_valleys(i) or i in roof.saws) or pitch.slope < FOLDED_FROM:
        yield base
        return
    p_f = flat_load(rule, pitch)
    rise = max(pitch.rise, roof.saws.get(i, 0.0))
    top = 0.5 * p_f
    bottom = 2 * p_f / C_e_of(rule)
    limit = float(top + gamma_of(rule) * rise)
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


def _curved(rule: SnowRule, roof: SnowRoof, d: int, bases: Sequence[Layer]) -> Iterator[Layer]:
    """Half of p_f at the crown, 2 p_f C_s/C_e where it is 30 degrees steep and at the eave, none windward (7.6.2)."""
    side = next((s for s in sides_of(roof) if nearest_direction(rule.directions, s.way) == d), None)
    if side is None or not CURVED[0] <= side.chord <= CURVED[1]:
        yield from bases
        return
    pitch = roof.pitches[0]
    p_f, C_e = flat_load(rule, pitch), C_e_of(rule)
    end = side.where(BARE)
    steep = float(side.slopes[-1]) if side.slopes[-1] <= BARE else BARE
    at = [side.x[0], side.where(30.0), end]

    def load(slope: float) -> float:
        return 2 * p_f * slope_factor(slope, C_t_of(rule, pitch), is_slippery(rule, pitch)) / C_e

    p = [0.5 * p_f, load(min(steep, 30.0)), load(steep)]
    head = [s for s in bases[0].steps if s.symbol in ("p_g", "C_e", "I_s", "C_t", "p_f")]
    steps = (
        *head,
        Step("slope from eave to crown", "of 10 to 60 degrees", side.chord, "deg", "7.6.2"),
        Step("p at the crown", "0.5 p_f", p[0], "N/m2", "figure 7.4-2"),
        Step("p at 30 degrees, or the eave", "2 p_f C_s/C_e", p[1], "N/m2", "figure 7.4-2"),
        Step("p at the eave, or 70 degrees", "2 p_f C_s/C_e", p[2], "N/m2", "figure 7.4-2"),
    )
    yield from profile(roof, side, [float(x) for x in at], p, "unbalanced, leeward of the crown", steps)
