"""Rain as a model file states it, and the case it makes.

[rain]
code = "ASCE 7-16"

[rain.roofs.hall]
on  = "roof-*"
d_s = "75 mm"
d_h = "40 mm"
"""

from __future__ import annotations

from collections.abc import Sequence

from ...core.model.cases import Case
from ...core.model.rain import RainedOn, RainRule
from ...core.model.words import SnowCode
from ..base.entry import Entry, shown
from ..frame.surfaces import Grounds, surfaces_of

DEEPEST = 1.5
"""Water deeper than this [m] is a slip of units."""


def read_rain(model: Entry, cases: Sequence[Case], grounds: Grounds, plane: bool) -> tuple[RainRule | None, list[Case]]:
    """What is stated about rain, and the cases with the one that it makes."""
    if not model.has("rain"):
        return None, list(cases)
    entry = model.child("rain").known()
    if not isinstance(model.data["rain"], dict):
        return None, list(cases)
    if plane:
        entry.error("wrong-key", "[rain] stands on roofs, and a plane model has none", "write its loads in [loads]")
        return None, list(cases)
    before = entry.notes.errors
    code = entry.word("code", SnowCode)
    if code == SnowCode.EN:
        entry.error("wrong-key", f"{entry.what}.code: EN 1991 has no rules for rain", "take ASCE 7, or write its loads "
                    "in [loads]", "code")  # fmt: skip
    if code is None or code == SnowCode.EN:
        return None, list(cases)
    roofs = [r for name, own in entry.child("roofs").children('write { on = "roof-*", d_s = "75 mm", d_h = "40 mm" }')
             if (r := _roof(name, own, grounds, code)) is not None]  # fmt: skip
    if not entry.child("roofs").data:
        entry.error("missing-key", f"{entry.what} stands on nothing", "add [rain.roofs.hall] with on, d_s and d_h")
    twice: set[int] = set()
    for roof in roofs:
        both = [grounds.called(i) for i in roof.surfaces if i in twice]
        twice |= set(roof.surfaces)
        if both:
            entry.error("wrong-on", f"{entry.what}.roofs: {both[0]} is in two of them", "leave it out of one with `!`",
                        "roofs", roof.name)  # fmt: skip
    rule = RainRule(code, entry.place, tuple(roofs))
    if any(c.name == rule.case for c in cases):
        message = f"case {rule.case} is made by [rain] and written elsewhere too"
        entry.error("name-clash", message, "rename that case")
        return rule, list(cases)
    rule = RainRule(code, entry.place, tuple(roofs), known=entry.notes.errors == before)
    # Both editions multiply rain by 1.6 (2.3.1): no level sets them apart.
    return rule, [*cases, Case(rule.case, "rain", "Rain, primary drains blocked", 0.0, entry.place)]


def _roof(name: str, own: Entry, grounds: Grounds, code: SnowCode) -> RainedOn | None:
    own.known()
    if not own.has("on"):
        own.missing("on")
    surfaces = surfaces_of(own, "on", grounds)
    keys = ("d_s", "d_h", "d_p") if code == SnowCode.ASCE_22 else ("d_s", "d_h")
    if own.has("d_p") and code == SnowCode.ASCE_16:
        own.error("wrong-key", f"{own.what}: d_p is not of {code}", "take it out", "d_p")
    depths: dict[str, float] = {}
    for key in keys:
        value = own.quantity(key)
        if value is not None and not 0 <= value <= DEEPEST:
            own.error(
                "bad-quantity", f"{own.what}.{key} = {shown(own.data[key])}", "write a depth such as '75 mm'", key
            )
        elif value is not None:
            depths[key] = value
    if not surfaces or len(depths) < len(keys):
        return None
    return RainedOn(name, tuple(surfaces), depths["d_s"], depths["d_h"], depths.get("d_p", 0.0), own.place)
