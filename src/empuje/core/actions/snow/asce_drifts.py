"""Drifts and sliding snow by ASCE 7-16 and 7-22: on lower roofs, beside taller structures, at parapets and projections
(7.7, 7.8, 7.9)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import Falling, SnowCode
from .asce_numbers import FOOT, SHORTEST, drift_shape
from .asce_site import flat_load, gamma_of, h_d_behind, sloped_load, steps_of_height
from .roofs import SnowRoof, stated_W
from .shapes import Drift, nearest_direction
from .steps import Meeting

Floats = NDArray[np.float64]
SLIDES = {True: float(np.degrees(np.arctan(0.25 / 12))), False: float(np.degrees(np.arctan(2 / 12)))}
"""Beyond these slopes [deg] snow slides off, by whether the roof is slippery (7.9)."""
REACH = 20 * FOOT
"""A taller structure nearer than this [m] makes drifts (7.7.2)."""
SLIDE_LENGTH = 15 * FOOT
SHORT_SIDE = 15 * FOOT
LEAST_STEP = 0.2
"""h_c/h_b below which a drift is none (7.7.1)."""


def drifts_at(rule: SnowRule, roofs: Sequence[SnowRoof], m: Meeting) -> Iterator[Drift]:
    """Leeward and windward drifts at a step, beside a taller structure, at a parapet or a projection (7.7, 7.8)."""
    gamma, lower = gamma_of(rule), roofs[m.lower]
    p_s = min(sloped_load(rule, lower, p) for p in m.below)
    h_b = p_s / gamma
    h_c = m.h - h_b
    if h_c <= 0 or h_c < LEAST_STEP * h_b or (m.gap and (m.gap >= REACH or m.gap >= 6 * m.h)):
        return
    if m.riser.free and m.riser.side < SHORT_SIDE - 1e-6:
        return
    common = [Step("h_b", "p_s/gamma on the lower roof", h_b, "m", "7.7.1"),
              Step("h_c", "clear height above it", h_c, "m", "7.7.1")]  # fmt: skip
    if m.gap:
        common.append(Step("s", "between the two in plan", m.gap, "m", "7.7.2"))
    n = m.riser.normal
    if m.riser.of_building:
        h_d = h_d_behind(rule, m.behind)
        words = f"length of the upper roof{_stated(m, 0)}, at least 20 ft"
        steps = [Step("l_u", words, max(m.behind, SHORTEST), "m", "7.7.1"), *steps_of_height(rule, h_d)]
        if rule.code == SnowCode.ASCE_16 and not m.gap and h_d > 0.6 * m.ahead:
            h_d = 0.6 * m.ahead
            steps.append(Step("h_d", "no more than 0.6 of the length of the lower roof", h_d, "m", "7.7.1"))
        h, w = drift_shape(h_d, h_c)
        if m.gap:
            near = (6 * m.h - m.gap) / 6
            h_d = min(h_d, near)
            h, w = min(h_d, h_c), min(6 * h_d, 6 * m.h - m.gap)
            steps.append(Step("h_d", "no more than (6 h - s)/6", h_d, "m", "7.7.2"))
        yield _drift(rule, m, lower, "leeward drift", n, max(m.behind, SHORTEST), h_d, h_c, m.gap, h, w,
                     (*common, *steps))  # fmt: skip
    length, words = m.ahead, "length of the lower roof" if m.riser.of_building else "length of the roof before it"
    words += _stated(m, 1)
    if m.riser.free:
        length, words = max(m.ahead, m.behind), "the longer length of roof before or behind it"
    h_d = 0.75 * h_d_behind(rule, length)
    clause = "7.7.1" if m.riser.of_building else "7.8"
    steps = [
        Step("l_u", f"{words}, at least 20 ft", max(length, SHORTEST), "m", clause),
        *steps_of_height(rule, h_d / 0.75),
        Step("0.75 h_d", "", h_d, "m", clause),
    ]
    h, w = drift_shape(h_d, h_c)
    if w > m.gap:
        kind = "windward drift" if m.riser.of_building else "drift"
        yield _drift(rule, m, lower, kind, -n, max(length, SHORTEST), h_d, h_c, 0.0, h, w, (*common, *steps))


def _stated(m: Meeting, which: int) -> str:
    return ", as stated" if m.stated[which] else ""


def _drift(rule: SnowRule, m: Meeting, lower: SnowRoof, kind: str, way: Floats, l_u: float, h_d: float, h_c: float,
           start: float, h: float, w: float, steps: tuple[Step, ...]) -> Drift:  # fmt: skip
    p = h * gamma_of(rule)
    more = (
        Step("h", "h_d, or h_c where that is less", h, "m", "7.7.1"),
        Step("w", "4 h_d, or 4 h_d^2/h_c <= 8 h_c" if not start else "6 h_d, or 6 h - s", w, "m", "7.7.1"),
        Step("p_d", "h gamma, over the balanced snow", p, "N/m2", "7.7.1"),
    )
    direction = nearest_direction(rule.directions, way)
    return Drift(m, kind, Falling.DRIFTED, direction, lower, l_u, h_d, h_c, start, w, p, (*steps, *more))


def slid_at(rule: SnowRule, roofs: Sequence[SnowRoof], m: Meeting) -> Iterator[Drift]:
    """Snow that slides onto a lower roof (7.9)."""
    pitch = m.above
    if pitch is None or pitch.has(rule.guarded) or pitch.fall @ m.riser.normal < 0.7:
        return
    if pitch.slope <= SLIDES[pitch.has(rule.slippery)] or m.gap >= SLIDE_LENGTH or (m.gap and m.h <= m.gap):
        return
    p_f = flat_load(rule, pitch)
    p = 0.4 * p_f * pitch.W / SLIDE_LENGTH
    steps = (
        Step("p_f", "of the upper roof", p_f, "N/m2", "7.3-1"),
        Step("W", "from its ridge to its eave" + stated_W(pitch), pitch.W, "m", "7.9"),
        Step("0.4 p_f W", "for each length of eave", 0.4 * p_f * pitch.W, "N/m", "7.9"),
        Step("p", "spread over 15 ft from the eave", p, "N/m2", "7.9"),
    )
    yield Drift(m, "slid", Falling.SLIDING, -1, roofs[m.lower], np.nan, np.nan, np.nan, 0.0, SLIDE_LENGTH, p, steps,
                True)  # fmt: skip
