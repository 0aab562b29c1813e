"""How live loads are reduced, as a model file says it.

[reduction]
code = "ASCE 7-22"
K_LL = { "columns/A*" = 3 }
"""

from __future__ import annotations

from collections.abc import Sequence

from ...core.model.cases import Case
from ...core.model.findings import did_you_mean
from ...core.model.reduction import ReductionRule
from ..base.entry import Entry, shown
from ..base.selectors import Names

LIVE = ("live", "roof live")


def read_reduction(model: Entry, cases: Sequence[Case], names: Names) -> ReductionRule | None:
    """The rule by which live loads are reduced; None where the model asks for none."""
    if not model.has("reduction"):
        return None
    entry = model.child("reduction").known()
    code = entry.text("code")
    chosen = _cases(entry, cases)
    K_LL = _factors(entry, names, code or "")
    values = _values(entry, code or "")
    without: list[int] = []
    if entry.has("without"):
        without, missed = names.select_members(entry.texts("without") or [])
        names.report(entry, missed, "without", f"{entry.what}.without: no family or member")
    if code is None:
        return None
    return ReductionRule(code, tuple(chosen), K_LL, tuple(without), entry.place, values)


def _cases(entry: Entry, cases: Sequence[Case]) -> list[int]:
    known = {c.name: i for i, c in enumerate(cases) if c.action in LIVE and not c.notional}
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
    table.known()
    out = [(name, table.quantity(name)) for name in table.data if name in table.form]
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
        number = table.as_quantity(value, selector)
        members, missed = names.select_members([selector])
        names.report(table, missed, selector, f"{table.what}: no family or member")
        if number is not None and not 1 <= number <= 4:
            table.error("bad-quantity", f"{table.what}.{selector} = {shown(value)}", "K_LL is 1 to 4", selector)
        elif number is not None:
            out.append((tuple(members), number))
    return tuple(out)
