"""How live loads are reduced, as a model file says it.

[reduction]
code = "ASCE 7-22"
K_LL = { "columns/A*" = 3 }
"""

from __future__ import annotations

from dataclasses import replace

from ..core.actions.reduction import CODES, KINDS_EN, reduce_live_loads
from ..core.model.findings import did_you_mean, has_errors
from ..core.model.project import Project
from ..core.model.reduction import ReductionRule
from .entry import Entry, shown
from .selectors import Names

LIVE = ("live", "roof live")


def reduced(model: Entry, project: Project, names: Names) -> Project:
    """The project with its members' factors on live loads, where the model asks for them."""
    if not model.has("reduction"):
        return project
    entry = model.child("reduction").known(["code", "cases", "K_LL", "without", "values"])
    code = entry.text("code", CODES)
    cases = _cases(entry, project)
    K_LL = _factors(entry, names, code or "")
    values = _values(entry, code or "")
    without: list[int] = []
    if entry.has("without"):
        without, missed = names.select_members(entry.texts("without") or [])
        names.report(entry, missed, "without", f"{entry.what}.without: no family or member")
    if code is None or has_errors(model.notes.findings) or not project.members:
        return project
    summed = [c for c in project.combinations if project.how(c) == "summed"]
    if len(summed) < len(project.combinations):
        some = "these" if summed else "all of its"
        what = "that are analysed as one or by second order" if summed else "are analysed as one or by second order and"
        message = f"{some} combinations {what} keep their full live loads"
        entry.notes.say("note", "not-reduced", entry.path, message, "a factor for each member needs sums")
    rule = ReductionRule(code, tuple(cases), K_LL, tuple(without), entry.place, values)
    return replace(project, reduction=reduce_live_loads(project, rule))


def _cases(entry: Entry, project: Project) -> list[int]:
    known = {c.name: i for i, c in enumerate(project.cases) if c.action in LIVE and not c.lean}
    if not entry.has("cases"):
        return list(known.values())
    out = []
    for name in entry.texts("cases") or []:
        if name in known:
            out.append(known[name])
        else:
            entry.error(
                "unknown-name", f"{entry.what}.cases: {name} is no live case", did_you_mean(name, known), "cases"
            )
    return sorted(set(out))


def _values(entry: Entry, code: str) -> tuple[tuple[str, float], ...]:
    """National values of EN 1991-1-1."""
    table = entry.child("values")
    if not table.data:
        return ()
    if not code.startswith("EN"):
        entry.error(
            "wrong-key", f"{entry.what}: {code or 'this code'} has no values of its own", "take them out", "values"
        )
        return ()
    table.known(KINDS_EN)
    out = [(name, table.quantity(name, KINDS_EN[name])) for name in table.data if name in KINDS_EN]
    for name, value in out:
        if value is not None and (value <= 0 or (name != "A_0" and value > 1)):
            table.error(
                "bad-quantity",
                f"{table.what}.{name} = {shown(table.data[name])}",
                "write a share up to 1, or an area",
                name,
            )
    return tuple((name, value) for name, value in out if value is not None)


def _factors(entry: Entry, names: Names, code: str) -> tuple[tuple[tuple[int, ...], float], ...]:
    table = entry.child("K_LL")
    if table.data and not code.startswith("ASCE"):
        entry.error("wrong-key", f"{entry.what}: {code or 'this code'} knows no K_LL", "take it out", "K_LL")
        return ()
    out = []
    for selector, value in table.data.items():
        number = table.as_quantity(value, "number", selector)
        members, missed = names.select_members([selector])
        names.report(table, missed, selector, f"{table.what}: no family or member")
        if number is not None and not 1 <= number <= 4:
            table.error("bad-quantity", f"{table.what}.{selector} = {shown(value)}", "K_LL is 1 to 4", selector)
        elif number is not None:
            out.append((tuple(members), number))
    return tuple(out)
