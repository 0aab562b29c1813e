"""EN 1991-1-4, 7.2.9: internal pressure, stated, from openings, or of both signs."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ....model.loads import Step
from ....model.near import SAME_WAY, together
from ....model.wind import WindRule
from ..shape.seen import Seen
from ..shape.zones import Zone
from ..site.profile import Profile
from .tables import between

DOMINANT = (2.0, 3.0), (0.75, 0.90)
"""7.2.9 (5): openings of one face over those of all others, and c_pi over its c_pe."""
BOTH_SIGNS = (0.2, -0.3)
"""7.2.9 (6), note 2."""


def internal(
    rule: WindRule, profile: Profile, seen: Seen, zones: Sequence[Zone]
) -> tuple[tuple[float, float], tuple[tuple[Step, ...], tuple[Step, ...]]]:
    """The internal pressures of both signs [N/m2] with their steps: stated, from openings, or +0.2 and -0.3 (7.2.9)."""
    h = seen.building.top
    q = profile.one(h)
    signs = BOTH_SIGNS
    steps: tuple[Step, ...] = ()
    told, clause = "openings not stated", "7.2.9 (6), note 2"
    if "c_pi+" in rule.stated:
        signs = (rule.stated["c_pi+"], rule.stated["c_pi-"])
        told, clause = "stated", "7.2.9"
    elif rule.openings:
        value, steps, clause = _from_openings(rule, seen, zones)
        signs, told = (value, value), "from the openings"
    out = [
        (*steps, Step("c_pi", told, c, "", clause), Step("p_i", "q_p c_pi, z_i = h", q * c, "N/m2", "(5.2)"))
        for c in signs
    ]
    return (q * signs[0], q * signs[1]), (out[0], out[1])


def _from_openings(rule: WindRule, seen: Seen, zones: Sequence[Zone]) -> tuple[float, tuple[Step, ...], str]:
    """c_pi from the areas of openings: by a dominant face, or by mu and h/d (figure 7.13)."""
    walls = {f.surface: f for f in seen.building.faces}
    faces = dict(zip(walls, together([f.normal for f in walls.values()], SAME_WAY).tolist(), strict=True))
    area: dict[int, float] = {}
    weighted: dict[int, float] = {}
    suction = total = 0.0
    for surface, opening in rule.openings.items():
        own = [z for z in zones if z.surface == surface and z.stretch.inside]
        if not own or surface not in walls:
            continue
        mean = sum(z.C(0) * z.area for z in own) / sum(z.area for z in own)
        key = faces[surface]
        area[key] = area.get(key, 0.0) + opening
        weighted[key] = weighted.get(key, 0.0) + opening * mean
        total += opening
        suction += opening if mean <= 0 else 0.0
    if not total:
        return 0.0, (), "7.2.9"
    largest = max(area, key=lambda k: area[k])
    rest = total - area[largest]
    ratio = area[largest] / rest if rest else math.inf
    C = weighted[largest] / area[largest]
    if ratio >= DOMINANT[0][0]:
        share = between(*DOMINANT, min(ratio, 1e9))
        step = Step(
            "c_pe", f"mean at the openings of the dominant face, {ratio:.3g} times all others", C, "", "7.2.9 (5)"
        )
        return share * C, (step,), f"7.2.9 (5): {share:.3g} c_pe"
    mu, h_d = suction / total, seen.building.top / seen.L
    low = between((0.33, 0.90), (0.35, -0.3), mu)
    high = between((0.33, 0.95), (0.35, -0.5), mu)
    value = between((0.25, 1.0), (low, high), h_d)
    step = Step("mu", f"share of the openings where c_pe <= 0; h/d = {h_d:.3g}", mu, "", "(7.3)")
    return value, (step,), "figure 7.13"
