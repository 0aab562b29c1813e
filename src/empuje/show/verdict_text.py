"""The verdict for eyes, as Markdown for a text, and as JUnit XML, which servers that run checks can open."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np

from ..core.answers.table import Table
from ..core.model.findings import visible
from ..core.model.words import Holds, LimitKind
from ..core.verdict.outcome import Outcome
from ..core.verdict.table import verdict_table
from .display import Display
from .layout import Window, aligned, flowing
from .tables import escaped

WORDS = {
    Holds.FAILS: "not met", Holds.UNANSWERED: "without an answer", Holds.NEAR: "near", Holds.PASSES: "met",
}  # fmt: skip
HEADS = ("limit", "of", "verdict", "utilisation", "value", "required", "where", "along", "case")
NUMERIC = (False, False, False, True, True, False, False, True, False)


def counted(outcomes: Sequence[Outcome]) -> str:
    """How many bounds are met, in words."""
    found = Counter(o.holds for o in outcomes)
    parts = [f"{found[h]} {words}" for h, words in WORDS.items() if found[h]]
    limits = len({o.limit.name for o in outcomes})
    bounds = len({(o.limit.name, o.bound.of) for o in outcomes})
    places = f", {len(outcomes)} places" if len(outcomes) > bounds else ""
    each = f"{limits} limit{'s' if limits > 1 else ''}, {bounds} bound{'s' if bounds > 1 else ''}"
    return f"{each}{places}: {', '.join(parts)}."


def notes_of(outcomes: Sequence[Outcome]) -> list[str]:
    """What there is to say about how values were found, once for each limit."""
    return list(dict.fromkeys(f"{o.limit.name}: {note}" for o in outcomes for note in o.notes))


def as_table(outcomes: Sequence[Outcome], display: Display) -> Table:
    """As a table in display units."""
    return verdict_table(outcomes, lambda kind: (display.unit(kind), display.factor(kind)))


def verdict_for_eyes(outcomes: Sequence[Outcome], display: Display) -> str:
    """The outcomes as they stand, with a line that counts them."""
    rows = [cells_of(o, display) for o in outcomes]
    table = aligned(list(HEADS), rows, list(NUMERIC), display.width)
    lines = [f"{o.limit.name} {o.bound.of}: no answer: {o.place}: {o.reason}" for o in outcomes if o.reason]
    there = Window(display.width, 0, False) if display.width is not None else None
    words = [*lines, *(f"note: {note}" for note in notes_of(outcomes)), counted(outcomes)]
    return table + "\n" + "".join(f"{flowing(visible(w), there)}\n" for w in words)


def verdict_as_markdown(outcomes: Sequence[Outcome], display: Display, title: str) -> str:
    """A summary for a text: what it comes to, then the table."""
    failing = [o for o in outcomes if o.fails]
    head = f"**{'Not all limits are met' if failing else 'All limits are met'}** ({escaped(title)}): "
    rows = [[escaped(visible(c)) for c in cells_of(o, display)] for o in outcomes]
    rule = ["---:" if n else "---" for n in NUMERIC]
    table = "".join("| " + " | ".join(cells) + " |\n" for cells in [list(HEADS), rule, *rows])
    lines = [f"{o.limit.name} {o.bound.of}: no answer: {o.place}: {o.reason}" for o in outcomes if o.reason]
    more = "".join(f"- {escaped(visible(w))}\n" for w in [*lines, *notes_of(outcomes)])
    return f"{head}{counted(outcomes)}\n\n{table}" + (f"\n{more}" if more else "")


def verdict_as_junit(outcomes: Sequence[Outcome], display: Display, file: str) -> str:
    """A test case for each outcome: a failure where it is not met, an error where there is no answer."""
    from xml.etree import ElementTree as xml

    failed = sum(o.holds == Holds.FAILS for o in outcomes)
    lost = sum(o.holds == Holds.UNANSWERED for o in outcomes)
    counts = {"tests": str(len(outcomes)), "failures": str(failed), "errors": str(lost)}
    root = xml.Element("testsuites", counts)
    suite = xml.SubElement(root, "testsuite", {"name": file, **counts, "skipped": "0"})
    for o in outcomes:
        name = f"{o.limit.name}: {o.bound.of}" + (f" at {o.place}" if o.places == 1 else "")
        about = {"classname": f"{file}.{o.limit.kind}", "name": name}
        case = xml.SubElement(suite, "testcase", about)
        words = visible(sentence(o, display))
        if o.fails:
            kind = "failure" if o.holds == Holds.FAILS else "error"
            xml.SubElement(case, kind, {"message": words, "type": str(o.holds)}).text = f"{o.limit.place}: {words}"
        else:
            xml.SubElement(case, "system-out").text = words
    xml.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + xml.tostring(root, encoding="unicode") + "\n"


def sentence(o: Outcome, display: Display) -> str:
    """An outcome in a sentence."""
    if o.reason:
        return f"no answer: {o.place}: {o.reason}"
    cells = dict(zip(HEADS, cells_of(o, display), strict=True))
    at = f" at x = {cells['along']}" if cells["along"] else ""
    more = f"; {o.failing} of {o.places} places fail" if o.places > 1 and o.failing else ""
    under = f" under {o.case}" if o.case else ""
    value = f"{o.bound.of} = {cells['value']}, required {cells['required']}, utilisation {cells['utilisation']}"
    return f"{value}: {o.place}{at}{under}{more}"


def cells_of(o: Outcome, display: Display) -> list[str]:
    """An outcome as the cells of a row, in the order of the heads."""
    count = f"{o.failing} of {o.places} fail" if o.failing > 1 else f"worst of {o.places}"
    place = o.place + (f" ({count})" if o.places > 1 and not o.reason else "")
    if o.reason:
        return [o.limit.name, o.bound.of, str(o.holds), "-", "-", o.bound.written, place, "", o.case]
    x = "" if np.isnan(o.x) else f"{o.x * display.factor('length'):.3f} {display.unit('length')}"
    used = "beyond" if np.isinf(o.used) else f"{o.used:.3f}"
    return [o.limit.name, o.bound.of, str(o.holds), used, shown(o.value, o, display), _required(o, display), place, x,
            o.case]  # fmt: skip


def _required(o: Outcome, display: Display) -> str:
    """What was written; with what a share of a span or height comes to."""
    written = o.bound.written
    if np.isnan(o.span) or not any(word in written for word in ("span", "height")) or np.isinf(o.against):
        return written
    return f"{written} = {shown(abs(o.against), o, display)}"


def shown(value: float, o: Outcome, display: Display) -> str:
    """A value of the kind of an outcome with its unit: four figures, whole numbers above."""
    if np.isinf(value):
        return "lifted" if o.limit.kind == LimitKind.REACTION else "unbounded"
    if o.limit.kind == LimitKind.TILT and value:
        return f"1/{1 / abs(value):.0f}"
    scaled = value * display.factor(o.kind) + 0.0
    text = f"{scaled:.0f}" if abs(scaled) >= 1000 else f"{scaled:.4g}"
    return f"{text} {display.unit(o.kind)}".rstrip()
