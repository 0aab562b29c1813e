"""Tables of loads as engineers keep them, a row a member and a column a case, as rows of one load each.

    on,           G [kN/m], Q [kN/m], W [kN]          on,           case, line [kN/m], force [kN]
    beams/1/A-B,  2.1,      5.0,                      beams/1/A-B,  G,    2.1,
    beams/2/A-B,  2.1,      0,        12              beams/1/A-B,  Q,    5.0,
                                                      beams/2/A-B,  G,    2.1,
                                                      beams/2/A-B,  W,    ,            12

The unit of a column says what its numbers are: a load per length (also without a unit), a force, or a load per area.
Blanks and zeros are no loads. Other columns hold for all of their row: dir; at for its forces, from and to for its
loads per length.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from ...core.model.findings import Place
from ..base.entry import Entry, shown
from ..base.quantities import KINDS, NUMBER, QuantityError, ValueLost, parse
from .decimals import COMMA
from .sheets import Cells, Sheet

OF_KIND = {"line": "line", "force": "force", "pressure": "area"}
"""The key of a load by the kind of its quantity."""
OF_KEY = {key: kind for kind, key in OF_KIND.items()}
NOT_OF = {"line": ("at",), "force": ("from", "to", "per"), "area": ("at", "from", "to")}
"""What a row says for its other loads."""


def with_a_row_each(tables: Entry, name: str, sheet: Sheet, cases: Collection[str]) -> Sheet | None:
    """The sheet with a row for each load, where heads name cases and none is `case`; as it is where not. None, and
    findings, where a column's unit is none of a load."""
    if not sheet.rows:
        return sheet
    line, heads = sheet.rows[0]
    split = [head_of(str(cell)) if cell is not None else ("", "") for cell in heads]
    of_case = {i: key for i, (key, _) in enumerate(split) if key in cases}
    if not of_case or any(key == "case" for key, _ in split):
        return sheet
    others = [i for i in range(len(heads)) if i not in of_case]
    columns: dict[str, str] = {}
    load: dict[int, str] = {}
    units: dict[int, str] = {}
    good = True
    for i, case in of_case.items():
        unit = split[i][1] or f"{tables.notes.units.force}/{tables.notes.units.length}"
        key = _load_of(unit)
        if key is None:
            tables.error("bad-units", f"table {name}: [{unit}] under {case} is no unit of a load",
                         "give kN/m, kN or kN/m2, or others of their kinds", "loads")  # fmt: skip
            good = False
        else:
            load[i], units[i] = key, "" if columns.setdefault(key, unit) == unit else unit
    if not good:
        return None
    keys = list(columns)
    first: Cells = [*(heads[i] for i in others), "case", *(f"{k} [{u}]" for k, u in columns.items())]
    rows: list[tuple[int, Cells]] = [(line, first)]
    for at, cells in sheet.rows[1:]:
        whole = [*cells, *[None] * (len(heads) - len(cells))]
        for i, case in of_case.items():
            if _is_load(whole[i]) and _is_read(tables, name, at, i, case, whole[i], OF_KEY[load[i]]):
                common = [None if split[j][0] in NOT_OF[load[i]] else whole[j] for j in others]
                cell = _in(tables, units[i], whole[i])
                rows.append((at, [*common, case, *(cell if k == load[i] else None for k in keys)]))
    return Sheet(rows, sheet.separator)


def head_of(text: str) -> tuple[str, str]:
    """The key and the unit in the head of a column.

    >>> head_of(" line [kN/m]"), head_of("name")
    (('line', 'kN/m'), ('name', ''))
    """
    key, bracket, unit = text.strip().partition("[")
    if not bracket or not unit.endswith("]") or "[" in unit:
        return text.strip(), ""
    return key.strip(), unit[:-1].strip()


def _load_of(unit: str) -> str | None:
    try:
        _, dimension, _ = parse(f"1 {unit}")
    except QuantityError:
        return None
    return next((key for kind, key in OF_KIND.items() if tuple(KINDS[kind][0]) == tuple(dimension)), None)


def _in(tables: Entry, unit: str, cell: Any) -> Any:
    """A cell of a column whose unit is not that of the first of its kind: numbers get it, be they reckoned."""
    if not unit:
        return cell
    text = str(cell).strip()
    try:
        _, _, with_unit = tables.notes.units.parse(text)
    except QuantityError:
        return cell
    return cell if with_unit else with_its_unit(text, unit)


def with_its_unit(text: str, unit: str) -> str:
    """A number, or what is reckoned from several, with the unit of its column.

    >>> with_its_unit("1.2", "kN"), with_its_unit("1.2 + 3", "kN")
    ('1.2 kN', '(1.2 + 3) kN')
    """
    return f"{text} {unit}" if NUMBER.fullmatch(text) else f"({text}) {unit}"


def _is_read(tables: Entry, name: str, row: int, i: int, case: str, cell: object, kind: str) -> bool:
    """Whether a cell is a number or a quantity; an error that names its row and column where it is none."""
    text = str(cell).strip()
    if COMMA.search(text):
        return True  # a comma between commas, which is told where rows are read
    try:
        _, _, with_unit = tables.notes.units.parse(text)
        if with_unit:
            tables.notes.units.read(text, kind)
    except ValueLost:
        return True
    except QuantityError as error:
        where = f"row {row}, column {letters(i)} ({case}) has {shown(text)}: {error}"
        remedy = "write a number, or a quantity with its unit"
        tables.notes.say("error", "bad-quantity", (), f"table {name}: {where}", remedy, Place(name, row))
        return False
    return True


def letters(i: int) -> str:
    """A column as spreadsheets name it.

    >>> letters(0), letters(26)
    ('A', 'AA')
    """
    out = ""
    while i >= 0:
        out = chr(65 + i % 26) + out
        i = i // 26 - 1
    return out


def _is_load(cell: object) -> bool:
    """Whether a cell holds anything but a zero."""
    text = str(cell).strip() if cell is not None else ""
    try:
        return bool(text) and float(text) != 0
    except ValueError:
        return True
