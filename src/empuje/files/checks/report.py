"""[report], and who made the model: what a report shows, and the engineer's own text in it."""

from __future__ import annotations

from ...core.model.findings import did_you_mean
from ...core.model.report import Remark, ReportRule, TitleBlock
from ...core.model.words import ReportPart
from ..base.entry import Entry


def read_title_block(model: Entry) -> TitleBlock:
    """What [project] says beside its title."""
    entry = model.child("project")
    return TitleBlock(**{name: (entry.text(name) or "").strip() for name in ("number", "author", "revision", "date")})


def read_report(model: Entry) -> ReportRule:
    """The parts, and the text before each."""
    entry = model.child("report").known()
    parts = []
    for word in (entry.texts("parts") or []) if entry.has("parts") else []:
        if word in set(ReportPart):
            parts.append(ReportPart(word))
        else:
            entry.error("unknown-name", f'report.parts has "{word}"', did_you_mean(word, map(str, ReportPart)), "parts")
    remarks = []
    for one in entry.entries("texts"):
        one.known()
        before, title, text = one.word("before", ReportPart), one.text("title"), one.text("text")
        if text is not None and not text.strip():
            one.error("missing-key", f"{one.what} says nothing", "write its text, or leave it out", "text")
        if before and text:
            remarks.append(Remark(ReportPart(before), (title or "").strip(), text.strip()))
    return ReportRule(tuple(dict.fromkeys(parts)), tuple(remarks))
