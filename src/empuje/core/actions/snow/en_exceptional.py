"""Exceptional drifts (EN 1991-1-3, annex B): s = mu s_k, with no snow elsewhere, accidental actions.

valleys              mu = 2h/s_k <= 2 b_3/(l_s1 + l_s2), 5          b_3: three slopes of a uniform roof of three spans
taller works         mu = 2h/s_k <= 2b/l_s, 8                       l_s = 5h <= the lower roof, 15 m
obstructions         mu = 2h/s_k <= 5                               l_s = 5h <= the roof before it
parapets             as taller works
(h in m and s_k in kN/m2: snow of 2 kN/m3)
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ...model.findings import Finding, listed
from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import Falling
from .roofs import SnowRoof
from .shapes import BY_HAND, Drift, Layer, nearest_direction
from .steps import Meeting

CLOSE = 1.5
"""Taller works so near [m] make exceptional drifts (B.3)."""
FARTHEST, SHORTEST = 15.0, 0.1
"""Drifts are no longer than the first [m]; a lower roof shorter than the second counts as so long."""
FLATTEST = 15.0
"""Beside taller works lower roofs up to this slope [deg] are worked out (table B.1)."""
UNIFORM = 0.01
MANY_RIDGES = 3


def mu_exceptional(h: float, s_k: float, *limits: float) -> float:
    """2h/s_k, at most what the rules allow; h [m], s_k [N/m2]."""
    return min(2 * h / (s_k / 1e3), *limits)


def exceptional_drifts(rule: SnowRule, roofs: Sequence[SnowRoof], met: Sequence[Meeting]) -> Iterator[Drift]:
    """At taller works, obstructions and parapets (B.3, B.4)."""
    for m in met:
        if m.gap > CLOSE or (m.gap and not m.riser.of_building):
            continue
        length = min(5 * m.h, max(m.ahead, SHORTEST))
        words, limits, clause = "2h/s_k <= 5", [5.0], "B.4"
        b = max(m.behind, m.ahead) if m.riser.of_building else m.ahead
        if not m.riser.free or m.riser.of_building:
            length = min(length, FARTHEST)
            words, limits = "2h/s_k <= 2b/l_s, 8", [2 * b / length, 8.0]
            clause = "B.3" if m.riser.of_building else "B.4"
        mu = mu_exceptional(m.h, rule.ground_load, *limits)
        p = mu * rule.ground_load
        steps = (
            Step("h", "height of the step", m.h, "m", clause),
            Step("b", "the longer of both roofs" if m.riser.of_building else "length of the roof before it", b, "m"),
            Step("l_s", "5h, no longer than the roof before it" + ("" if limits == [5.0] else ", 15 m"), length, "m",
                 clause),
            Step("mu", words, mu, "", clause),
            Step("s", "mu s_k, and no snow elsewhere", p, "N/m2", "5.3"),
        )  # fmt: skip
        way = m.riser.normal if m.riser.of_building else -m.riser.normal
        d = nearest_direction(rule.directions, np.asarray(way))
        yield Drift(m, "exceptional drift", Falling.EXCEPTIONAL, d, roofs[m.lower], m.behind, np.nan, np.nan, 0.0,
                    length, p, steps)  # fmt: skip


def in_valleys(rule: SnowRule, roof: SnowRoof) -> Iterator[Layer]:
    """Triangles from every valley up to the ridges beside it (B.2)."""
    widths = [p.W for p in roof.pitches]
    uniform = len(roof.ridges) >= MANY_RIDGES and max(widths) - min(widths) < UNIFORM * max(widths)
    for pair in roof.valleys:
        pitches = [roof.pitches[i] for i in pair]
        h = max(p.rise for p in pitches)
        both = sum(p.W for p in pitches)
        b_3 = 1.5 * both
        limits = [2 * b_3 / both, 5.0] if uniform else [5.0]
        mu = mu_exceptional(h, rule.ground_load, *limits)
        p = mu * rule.ground_load
        steps = (
            Step("h", "depth of the valley", h, "m", "B.2"),
            *([Step("b_3", "three slopes of a uniform roof", b_3, "m", "B.2 (3)")] if uniform else []),
            Step("mu", "2h/s_k <= 2 b_3/(l_s1 + l_s2), 5" if uniform else "2h/s_k <= 5", mu, "", "B.2"),
            Step("s", "mu s_k, and no snow elsewhere", p, "N/m2", "5.3"),
        )
        for pitch in pitches:
            low, high = pitch.reach
            way = float(pitch.fall[0]), float(pitch.fall[1])
            yield Layer(pitch, "exceptional drift in the valley", steps, 0.0, p, None, way, low, high)


def limits_of(rule: SnowRule, roofs: Sequence[SnowRoof], met: Sequence[Meeting]) -> list[Finding]:
    """An error where lower roofs beside taller works are too steep for what is made here."""
    steep = [p.name for m in met if m.riser.of_building and m.gap <= CLOSE for p in m.below if p.slope > FLATTEST]
    if not steep:
        return []
    words = f"{listed(list(dict.fromkeys(steep)), 4)} falls by more than 15 degrees beside a taller work: its "
    words += "exceptional drift (table B.1) is not worked out"
    return [Finding("error", "snow-limits", words, BY_HAND + ", or leave `annex_B` out", rule.place)]
