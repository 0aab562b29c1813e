"""Keys of [report]."""

from __future__ import annotations

from ...core.model.words import ReportPart
from ..base.forms import ABSENT, REQUIRED, Choice, Choices, Form, Key, Tables, Text

REMARK = Form("report.texts", (
    Key("before", Choice.of(ReportPart), REQUIRED, "the part that it precedes"),
    Key("title", Text(), "", "its head", "none"),
    Key("text", Text(), REQUIRED, "the text; an empty line begins a new paragraph"),
))  # fmt: skip
REPORT = Form("report", (
    Key("parts", Choices(tuple(ReportPart), "one or a list of its parts, see below"), ABSENT,
        "what the report shows, in its own order; `--parts` asks for others", "all"),
    Key("texts", Tables(REMARK), ABSENT, "your own text between the parts"),
))  # fmt: skip
