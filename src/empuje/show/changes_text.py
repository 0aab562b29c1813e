"""What changed between two models, for eyes, as Markdown for a review, as HTML, and as rows."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..core.answers.changes import Change, Value
from ..core.answers.table import Column, Table
from ..core.model.findings import visible
from ..core.model.words import Part
from .blocks import Cell, Grid, Paragraph, Report
from .blocks import Part as PartOfReport
from .display import Display
from .layout import aligned
from .tables import escaped

HEADS = ("what", "of", "before", "after", "change")
NUMERIC = (False, False, True, True, True)
TITLES = {
    Part.MODEL: "The model", Part.NODE: "Nodes", Part.MATERIAL: "Materials", Part.SECTION: "Sections",
    Part.MEMBER: "Members", Part.SUPPORT: "Supports", Part.CASE: "Cases",
    Part.LOAD: "Loads by case and family: sums, and where they act", Part.COMBINATION: "Combinations",
    Part.WRITTEN: "As written", Part.DECISION: "Decided by the program",
    Part.REACTION: "Governing reactions", Part.FORCE: "Governing forces by family", Part.DISPLACEMENT: "Displacements",
    Part.LIMIT: "Limits: utilisation",
}  # fmt: skip
NAMED = 3
"""So many names are told of what changed alike; of more their number."""
SMALL = 1e-3
MOST_ROWS = 40
"""So many rows of a part are shown to eyes; csv and json have all."""


def _number(value: float) -> str:
    if not math.isfinite(value):
        return "no answer"
    text = f"{value:.4g}"
    return f"{value:.0f}" if "e" in text and abs(value) >= 1 and abs(value) < 1e9 else text


def _said(value: Value, change: Change, display: Display) -> str:
    if value is None:
        return "-" if change.of else ("gone" if change.after is None else "")
    if isinstance(value, str):
        return value
    unit = display.unit(change.kind)
    if change.part == Part.MATERIAL and change.of == "density":
        unit = "kg/m3"
    return f"{_number(value * display.factor(change.kind) + 0.0)} {unit}".rstrip()


def who(change: Change) -> str:
    """Whom a change is about: a group, and one or some of it by name."""
    names = change.names
    if change.part in (Part.LOAD, Part.FORCE, Part.LIMIT):
        return " ".join(w for w in (change.group, *names) if w)
    shown = ", ".join(names[:NAMED])
    if len(names) > NAMED:
        shown = f"{len(names)} ({names[0]}, ..., {names[-1]})"
    return f"{change.group}: {shown}" if change.group and len(names) > NAMED else shown or change.group


def row_of(change: Change, display: Display) -> list[str]:
    """A change as the cells of a row."""
    before, after = _said(change.before, change, display), _said(change.after, change, display)
    if not change.of:
        before, after = ("", f"added {after}".rstrip()) if change.before is None else (before, "gone")
    share = change.share
    more = f"{100 * share:+.1f} %" if math.isfinite(share) and change.part not in (Part.NODE, Part.LIMIT) else ""
    if share < -1 or (change.part == Part.LOAD and change.of.startswith("centre")):
        more = ""  # beyond zero a share says nothing
    if change.turned is not None:
        more = "CHANGED: not met" if change.turned else "now met"
    return [who(change), change.of, before, after, more]


def _made_by(change: Change) -> str:
    """Under what, where that changed."""
    a, b = change.made_by
    return "" if not (a or b) else f"{a}" if a == b else f"{a or '-'} -> {b or '-'}"


def changes_for_eyes(changes: Sequence[Change], display: Display) -> str:
    """Part by part, the rows aligned in the window."""
    out = []
    for part, own in by_part(changes):
        small = [c for c in own if c.of_largest < SMALL]
        rows = [[*row_of(c, display), _made_by(c)] for c in own if c not in small]
        heads, numeric = [*HEADS, "under"], [*NUMERIC, False]
        keep = [i for i in range(len(heads)) if any(r[i] for r in rows)]
        picked = [[visible(r[i]) for i in keep] for r in rows[:MOST_ROWS]]
        out.append(
            f"{TITLES[part]}\n" + aligned([heads[i] for i in keep], picked, [numeric[i] for i in keep], display.width)
        )
        if len(rows) > MOST_ROWS:
            out[-1] += f"... and {len(rows) - MOST_ROWS} more; --format csv or json has all\n"
        if small:
            out[-1] += f"... and {len(small)} below a thousandth of the largest of their kind\n"
    return "\n".join(out) if out else "Nothing changed.\n"


def by_part(changes: Sequence[Change]) -> list[tuple[Part, list[Change]]]:
    """The changes of each part that has any, limits first."""
    order = dict.fromkeys((Part.LIMIT, *Part))
    return [(part, own) for part in order if (own := [c for c in changes if c.part == part])]


def changes_as_markdown(changes: Sequence[Change], display: Display, title: str) -> str:
    """For a pull request: what turned first, then part by part."""
    turned = [c for c in changes if c.turned]
    head = (
        f"**{len(turned)} limit{'s' if len(turned) != 1 else ''} changed verdict**"
        if turned
        else "**All limits keep their verdicts**"
    )
    out = [f"{head} ({escaped(visible(title))}).\n"]
    for part, own in by_part(changes):
        out.append(f"### {TITLES[part]}\n")
        rule = ["---:" if n else "---" for n in (*NUMERIC, False)]
        rows = [[escaped(visible(cell)) for cell in (*row_of(c, display), _made_by(c))] for c in own]
        out.append("".join("| " + " | ".join(cells) + " |\n" for cells in [[*HEADS, "under"], rule, *rows]))
    return "\n".join(out) if len(out) > 1 else "**Nothing changed.**\n"


def changes_page(changes: Sequence[Change], display: Display, title: str, about: str) -> Report:
    """As a page of its own, in the form of a report; `about`: what is compared with what."""
    turned = sum(1 for c in changes if c.turned)
    said = (
        f"{turned} limit{'s' if turned != 1 else ''} changed verdict." if turned else "All limits keep their verdicts."
    )
    said = said if changes else "Nothing changed."
    parts = []
    for part, own in by_part(changes):
        rows = tuple(tuple(Cell(visible(text)) for text in (*row_of(c, display), _made_by(c))) for c in own)
        tones = tuple("bad" if c.turned else "" for c in own)
        grid = Grid("", (*HEADS, "under"), rows, (*NUMERIC, False), "", tones)
        parts.append(PartOfReport(str(part), TITLES[part], (grid,)))
    head = Paragraph(said, "bad" if turned else "good")
    return Report(visible(title), (), (head, Paragraph(visible(about))), tuple(parts), turned > 0)


def changes_table(changes: Sequence[Change], display: Display) -> Table:
    """Every change with all its names, values as full numbers in display units with the unit beside."""

    def number(value: Value, c: Change) -> float:
        return value * display.factor(c.kind) if isinstance(value, float) else math.nan

    def words(value: Value) -> str:
        return value if isinstance(value, str) else ""

    return Table("changes", (
        Column("part", "text", [str(c.part) for c in changes]),
        Column("group", "text", [c.group for c in changes]),
        Column("names", "text", [" ".join(c.names) for c in changes]),
        Column("of", "text", [c.of or ("added" if c.before is None else "gone") for c in changes]),
        Column("before", "number", np.array([number(c.before, c) for c in changes])),
        Column("after", "number", np.array([number(c.after, c) for c in changes])),
        Column("unit", "text", [display.unit(c.kind) for c in changes]),
        Column("was", "text", [words(c.before) for c in changes]),
        Column("is", "text", [words(c.after) for c in changes]),
        Column("changed", "text", ["" if c.turned is None else "not met" if c.turned else "met" for c in changes]),
        Column("under before", "text", [c.made_by[0] for c in changes]),
        Column("under after", "text", [c.made_by[1] for c in changes]),
    ))  # fmt: skip
