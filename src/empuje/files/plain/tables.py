"""Plain entries as tables: what fits into a row goes there, and what does not stays in the model file.

>>> rest, tables = in_tables({"nodes": {"K": [1, 2, 3]}, "materials": {"m": {"E": "10 GPa"}}}, False, "{}.csv".format)
>>> tables["nodes"], rest["tables"]["nodes"]
([['name', 'x', 'y', 'z'], ['K', 1, 2, 3]], 'nodes.csv')
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

from ..base.forms import Names, Written
from ..keys import ROWS
from ..tables.cells import LISTS
from .bare import Data
from .model import ORDER

Cell = str | int | float | None
Sheets = dict[str, list[list[Cell]]]
WHOLE = ("sections", "cases")
"""What has an order, so that all of it is in a table, or nothing."""


def in_tables(data: Data, plane: bool, called: Callable[[str], str]) -> tuple[Data, Sheets]:
    """The data without what tables have, and those tables by their kind, heads first; `called`: what the model file
    calls the table of a kind."""
    rest = dict(data)
    rows: dict[str, list[Data]] = {}
    axes = "xz" if plane else "xyz"
    places = {name: dict(zip(axes, xyz, strict=True)) for name, xyz in rest.get("nodes", {}).items()}
    rows["nodes"] = [{"name": name, **xyz} for name, xyz in places.items() if _in_a_cell(name)]
    rest["nodes"] = {name: xyz for name, xyz in rest.get("nodes", {}).items() if not _in_a_cell(name)}
    for kind in (kind for kind, known in ROWS.items() if known.named):
        rows[kind], rest[kind] = _named(kind, rest.get(kind, {}))
    rows["members"], rest["members"] = _members(rest.get("members", {}))
    rows["supports"], rest["supports"] = _fitting("supports", rest.get("supports", []))
    rows["loads"], rest["loads"] = [], {}
    for case, entries in data.get("loads", {}).items():
        fit, left = _fitting("loads", [_load(entry) for entry in entries])
        rows["loads"] += [{"case": case, **row} for row in fit]
        if left:
            rest["loads"][case] = [_unload(entry) for entry in left]
    sheets = {kind: _sheet(kind, its) for kind, its in rows.items() if its}
    rest["tables"] = {kind: called(kind) for kind in sheets}
    return {key: rest[key] for key in ORDER if rest.get(key)}, sheets


def _named(kind: str, entries: Data) -> tuple[list[Data], Data]:
    """Tables of the model by name: rows, and those that do not fit into one."""
    rows, left = [], Data()
    for name, entry in entries.items():
        if _fits(kind, entry) and _in_a_cell(name):
            rows.append({"name": name, **entry})
        else:
            left[name] = entry
    if left and kind in WHOLE:
        return [], dict(entries)
    return rows, left


def _members(families: Data) -> tuple[list[Data], Data]:
    rows, left = [], Data()
    for family, entry in families.items():
        pieces = Data()
        for name, piece in entry["pieces"].items():
            own = {"between": [end.strip() for end in piece.split(">")]} if isinstance(piece, str) else dict(piece)
            start, end = own.pop("between")
            row = {"family": family, "name": name, "start": start, "end": end, **own}
            if _fits("members", row):
                rows.append(row)
            else:
                pieces[name] = piece
        left[family] = {key: value for key, value in entry.items() if key != "pieces"}
        if pieces:
            left[family]["pieces"] = pieces
    return rows, left


def _load(entry: Data) -> Data:
    """A load with the second value of a line under a head of its own."""
    line = entry.get("line")
    if isinstance(line, list) and len(line) == 2 and not isinstance(line[0], list) and "from" not in entry:
        return {**{k: v for k, v in entry.items() if k != "line"}, "line": line[0], "line end": line[1]}
    return entry


def _unload(entry: Data) -> Data:
    """The same backwards."""
    if "line end" not in entry:
        return entry
    both = [entry["line"], entry["line end"]]
    return {**{k: v for k, v in entry.items() if k not in ("line", "line end")}, "line": both}


def _fitting(kind: str, entries: Iterable[Data]) -> tuple[list[Data], list[Data]]:
    fit, left = list[Data](), list[Data]()
    for entry in entries:
        (fit if _fits(kind, entry) else left).append(entry)
    return fit, left


def _fits(kind: str, entry: Any) -> bool:
    """Whether all of an entry fits into cells that read as it."""
    if not isinstance(entry, dict):
        return False
    known = ROWS[kind].columns.names
    return all(key in known and _value_fits(kind, key, value) for key, value in entry.items())


def _value_fits(kind: str, key: str, value: Any) -> bool:
    if isinstance(value, list):
        several = key in LISTS and len(value) > 1
        return several and all(isinstance(v, int | float) or (isinstance(v, str) and _in_a_cell(v)) for v in value)
    if isinstance(value, str):
        takes = ROWS[kind].columns[key].takes
        return _in_a_cell(value, commas=not (isinstance(takes, Names | Written) or key in LISTS))
    return isinstance(value, bool | int | float)


def _in_a_cell(text: str, commas: bool = False) -> bool:
    """Whether a text comes back from a cell as it is: no flags, blanks or lists that a sheet reads otherwise."""
    plain = text == text.strip() and text.lower() not in ("", "true", "false")
    return plain and (commas or "," not in text) and not any(c in text for c in "\n\r\0")


def _sheet(kind: str, rows: Sequence[Data]) -> list[list[Cell]]:
    """Heads in the order of the keys, then the rows."""
    used = {key for row in rows for key in row}
    heads = [key for key in ROWS[kind].columns.names if key in used]
    return [list(heads), *([_cell(row.get(head)) for head in heads] for row in rows)]


def _cell(value: Any) -> Cell:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list):
        return ", ".join(v if isinstance(v, str) else repr(v) for v in value)
    return value  # type: ignore[no-any-return]
