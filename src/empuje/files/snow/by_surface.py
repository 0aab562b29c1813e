"""Numbers of [snow] by surface: one for all, or a table by selector, later entries over earlier ones."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from ...core.model.findings import listed
from ..base.entry import Entry, shown
from ..frame.surfaces import Grounds

LARGEST_C_T = 1.5
Numbers = dict[int, float]


def by_surface(entry: Entry, key: str, grounds: Grounds, kind: Literal["number", "length"], most: float) -> Numbers:
    """The number of every surface that it is stated of, above 0 and up to `most` in SI."""
    value = entry.data.get(key)
    if value is None:
        return {}
    out: Numbers = {}
    by_name = isinstance(value, dict)
    for selector, own in (value if by_name else {"*": value}).items():
        number = entry.as_quantity(own, key, *([selector] if by_name else []), kind=kind)
        chosen, missed = grounds.meant([selector])
        for pattern in missed if by_name else ():
            entry.error("matches-nothing", f"{entry.what}.{key}: no surface is called {pattern}",
                        f"there are {listed(list(grounds.index), 8)}", key, selector)  # fmt: skip
        if number is not None and not 0 < number <= most:
            remedy = f"write a number up to {most:g}" if kind == "number" else "write a length such as '12 m'"
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(own)}", remedy, key)
        elif number is not None:
            out |= dict.fromkeys(chosen, number)
    return out


def thermal(entry: Entry, grounds: Grounds, roofs: Sequence[int], is_en: bool, stated: dict[str, float]) -> Numbers:
    """C_t by surface; of EN a number for all, which joins what is stated."""
    value = entry.data.get("C_t")
    if value is None and not is_en:
        entry.error("missing-key", f"{entry.what} has no `C_t`", "add C_t = 1.0 for heated roofs, 1.2 for unheated "
                    'ones (table 7.3-2), or a table by surface')  # fmt: skip
    if is_en and isinstance(value, dict):
        entry.error("bad-quantity", f"{entry.what}.C_t = {shown(value)}", "write one number for EN", "C_t")
        return {}
    out = by_surface(entry, "C_t", grounds, "number", LARGEST_C_T)
    if is_en:
        if out:
            stated["C_t"] = next(iter(out.values()))
        return {}
    without = [grounds.called(i) for i in roofs if i not in out]
    if without and isinstance(value, dict):
        entry.error("missing-key", f"{entry.what}.C_t: there is none of {listed(without, 4)}",
                    'add "*" = 1.0 before the others', "C_t")  # fmt: skip
    return out
