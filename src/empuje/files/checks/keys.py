"""Keys of [plausible] and [[accepted]]."""

from __future__ import annotations

from ...core.model.plausible import Plausible
from ..base.forms import ABSENT, REQUIRED, Form, Key, Names, Quantity, Text

_USUAL = Plausible()
PLAUSIBLE = Form("plausible", (
    Key("length", Quantity("length"), ABSENT, "of a member", f"{_USUAL.length:g} m"),
    Key("line", Quantity("line"), ABSENT, "a load per length", f"{_USUAL.line / 1e3:g} kN/m"),
    Key("force", Quantity("force"), ABSENT, "a force", f"{_USUAL.force / 1e3:g} kN"),
    Key("moment", Quantity("moment"), ABSENT, "a moment", f"{_USUAL.moment / 1e3:g} kNm"),
    Key("pressure", Quantity("pressure"), ABSENT, "a load per area", f"{_USUAL.pressure / 1e3:g} kN/m2"),
    Key("temperature", Quantity("temperature"), ABSENT, "a rise or fall of temperature", f"{_USUAL.temperature:g} K"),
    Key("settlement", Quantity("length"), ABSENT, "of a support", f"{_USUAL.settlement:g} m"),
    Key("factor", Quantity("number"), ABSENT, "of a combination of one's own", f"{_USUAL.factor:g}"),
))  # fmt: skip
ACCEPTED = Form("accepted", (
    Key("finding", Text("code of a finding"), REQUIRED, "which warnings and notes; errors cannot be accepted"),
    Key("on", Names("name or glob"), ABSENT, "of what: members, nodes, cases, ... that the finding names", "all of "
        "that code"),
    Key("reason", Text(), REQUIRED, "why it is right; shown with the finding"),
))  # fmt: skip
