"""Tables beside the model file: CSV or XLSX, one row a node, member, support or load.

The first row holds the keys of the model file, with a unit where numbers are not in the project's:

    name, x [mm], y [mm], z        case, on, line [kN/m], line end [kN/m], from, to, dir
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..core.model.findings import CONTROL, Place, did_you_mean, visible
from .decimals import COMMA, settled
from .entry import Entry, Notes, shown
from .forms import Form, Key, Quantity, Written
from .keys import LOAD, NAMED_ROWS, NEEDED_COLUMNS, ROWS, SUPPORT
from .quantities import QuantityError, parse
from .sheets import Cells, Sheet, read_sheet
from .wide_tables import head_of, letters, with_a_row_each

ROW_FORMS = ROWS | {"supports": SUPPORT, "loads": LOAD}
"""What is known of the entries that rows become."""
LISTS = {"at", "on", "ends", "offsets", "corners", "deck", "bearing", "dir"}
"""Keys under which one cell may hold several words, with commas between."""


@dataclass(frozen=True)
class Rows:
    """The rows of the tables of one kind."""

    kind: str
    tables: list[TableCells]

    def __bool__(self) -> bool:
        """Whether there are any."""
        return any(len(table.sheet.rows) > 1 for table in self.tables)

    def entries(self, notes: Notes) -> Iterator[Entry]:
        """Rows as entries of the model file; what is found in them is placed at their own line."""
        for table in self.tables:
            for line, cells in table.sheet.rows[1:]:
                entry = self.entry(table, line, cells, notes)
                if entry is not None:
                    yield entry

    def entry(self, table: TableCells, line: int, cells: Cells, notes: Notes) -> Entry | None:
        """One row; None for one without any value."""
        data = table.row(line, cells)
        if not data:
            return None
        path = ("tables", table.name, line)
        notes.elsewhere[path] = Place(table.name, line)
        return Entry(data, path, notes, ROW_FORMS[self.kind])


def read_tables(model: Entry, folder: Path | None) -> dict[str, Rows]:
    """The rows of every table that the model names, by kind; nothing for those that cannot be read."""
    tables = model.child("tables").known()
    out = {kind: Rows(kind, []) for kind in ROWS}
    for kind in sorted(ROWS, key=lambda kind: kind == "loads"):  # which may have a column for each case
        if not tables.has(kind):
            continue
        written = model.data.get("cases")
        cases = [*written] if isinstance(written, dict) else []
        for name in tables.texts(kind) or []:
            file, part = sheet_of(name)
            path = inside(tables, kind, file, folder)
            table = _table(tables, kind, name, path, part, cases) if path is not None else None
            if table is not None:
                out[kind].tables.append(table)
        if kind in NAMED_ROWS:
            _join(model, kind, out[kind])
    return out


def _join(model: Entry, kind: str, rows: Rows) -> None:
    """Puts rows among the tables of the model, by their names; none is said twice."""
    notes = model.notes
    if rows:
        model.data.setdefault(kind, {})
    there = model.data.get(kind)
    for entry in rows.entries(notes):
        name = str(entry.data.pop("name", ""))
        if not name:
            entry.missing("name")
        elif isinstance(there, dict) and name in there:
            message = f"{kind}.{name} is given in {notes.place((kind, name))} already"
            notes.say("error", "given-twice", (kind, name), message, "take one of them out", entry.place)
        elif isinstance(there, dict):
            there[name] = entry.data
            notes.included[kind, name] = entry.place


def sheet_of(name: str) -> tuple[str, str]:
    """The file that a table stands in, and the name of its sheet, if one is named.

    >>> sheet_of("frame.xlsx#Loads"), sheet_of("a#b.csv")
    (('frame.xlsx', 'Loads'), ('a#b.csv', ''))
    """
    found = re.fullmatch(r"(.+\.xlsx)#(.+)", name, re.I)
    return (found[1], found[2]) if found else (name, "")


def inside(
    tables: Entry, kind: str, name: str, folder: Path | None, what: str = "table", code: str = "unusable-table"
) -> Path | None:  # fmt: skip
    """The file, which has to lie in the model's own folder."""
    if folder is None:
        tables.error(code, f"{what} {name}: there is no folder to look in", "read the model from a file", kind)
        return None
    path = folder / name
    try:
        if not path.resolve().is_relative_to(folder.resolve()):
            tables.error(code, f"{what} {name} is outside the model's folder", "put it beside the model", kind)
        elif not path.exists():
            tables.error(code, f"there is no file {name} beside the model", "check its name", kind)
        elif not path.is_file():
            tables.error(code, f"{what} {name} is not a plain file", "name a file", kind)
        else:
            return path
    except (OSError, ValueError) as error:
        tables.error(code, f"{what} {name} cannot be read: {error}", "check its name", kind)
    return None


@dataclass(frozen=True)
class Column:
    """A column: the key its cells have, and the unit of bare numbers in it. `factor`: that unit over the project's;
    None where a bare number of the project means nothing."""

    key: str
    unit: str
    factor: float | None
    measured: bool


def _table(tables: Entry, kind: str, name: str, path: Path, part: str, cases: Sequence[str]) -> TableCells | None:
    sheet = read_sheet(tables, kind, name, path, part)
    if sheet is not None and sheet.rows:
        keys = {i: head_of(str(cell))[0] for i, cell in enumerate(sheet.rows[0][1]) if not _blank(cell)}
        wide = {i for i, key in keys.items() if kind == "loads" and key in cases and "case" not in keys.values()}
        form = ROWS[kind]
        measured = {i: k for i, k in keys.items() if i in wide or (k in form.names and _measured(form[k]))}
        sheet = settled(tables, kind, name, sheet, measured, {i for i, key in keys.items() if key in LISTS})
    if sheet is not None and kind == "loads":
        sheet = with_a_row_each(tables, name, sheet, cases)
    if sheet is None:
        return None
    columns = _heads(tables, kind, name, sheet.rows[0][1] if sheet.rows else [])
    return TableCells(tables, name, sheet, columns, ROWS[kind]) if columns is not None else None


class TableCells:
    """From the cells of rows to values under keys; nothing in them is passed over without a word."""

    def __init__(self, tables: Entry, name: str, sheet: Sheet, columns: dict[int, Column], form: Form) -> None:
        self.tables, self.name, self.sheet, self.columns, self.form = tables, name, sheet, columns, form

    def row(self, line: int, cells: Cells) -> dict[str, Any]:
        """The values of one row, blank cells left out."""
        data = {}
        for i, cell in enumerate(cells):
            if _blank(cell):
                continue
            column = self.columns.get(i)
            if column is None:
                message = f"has {shown(cell)} in column {letters(i)}, which has no head"
                self._error(line, "cell-without-head", message, "give the column a head, or take the cell out")
                continue
            value = self._value(line, cell, column)
            if value is not None:
                data[column.key] = value
        return data

    def _value(self, line: int, cell: Any, column: Column) -> Any:
        """What a cell means; None where that is reported."""
        if isinstance(cell, str) and not cell.isprintable() and CONTROL.search(cell):
            message = f"has a control character under {column.key}: {shown(visible(cell))}"
            self._error(line, "control-character", message, "write plain text")
            return None
        if not isinstance(cell, str):
            return _number(cell, column) if column.measured else _text(cell)
        if not column.measured:
            text = _text(cell)
            several = column.key in LISTS and isinstance(text, str) and "," in text
            return [word.strip() for word in text.split(",")] if several else text
        text = cell.strip()
        if COMMA.search(text) and column.key in LISTS:
            remedy = 'write numbers with a point, and a blank after the comma between two: "1.5, 2"'
            self._error(line, "decimal-comma", f"has {shown(text)} under {column.key}: one number, or two?", remedy)
            return None
        if column.key in LISTS and "," in text:
            return [_in_unit(word.strip(), column) for word in text.split(",")]
        return _in_unit(text, column)

    def _error(self, line: int, code: str, message: str, remedy: str) -> None:
        self.tables.notes.say("error", code, (), f"row {line} {message}", remedy, Place(self.name, line))

    def kind_of(self, column: Column) -> str:
        """The kind of quantity a measured column holds."""
        return self.form[column.key].kind


def _in_unit(text: str, column: Column) -> Any:
    """A number in the unit of its column, be it reckoned from others; what has a unit of its own, or is no quantity,
    as it is written."""
    try:
        return _number(float(text), column)
    except ValueError:
        pass
    if column.unit:
        try:
            _, dimension, with_unit = parse(text)
        except QuantityError:
            return text
        if not with_unit and not any(dimension):
            return f"({text}) {column.unit}"
    return text


def _number(cell: Any, column: Column) -> Any:
    if isinstance(cell, bool) or not column.unit:
        return cell
    return f"{cell!r} {column.unit}" if column.factor is None else cell * column.factor


def _heads(tables: Entry, kind: str, name: str, row: Cells) -> dict[int, Column] | None:
    """The columns by their place; None, and findings, where heads cannot be read."""
    form = ROWS[kind]
    known = form.names
    out: dict[int, Column] = {}
    good = True
    for i, cell in enumerate(row):
        if _blank(cell):
            continue
        key, unit = head_of(str(cell))
        twice = key in [c.key for c in out.values()]
        if key not in known or twice:
            tables.error("unknown-key", f"table {name} has {'two columns' if twice else 'a column'} {shown(key)}",
                         "take one out" if twice else did_you_mean(key, known), kind)  # fmt: skip
            good = False
            continue
        measured, factor = _measured(form[key]), None
        if unit and not measured:
            tables.error("bad-units", f"table {name}: {key} has no unit", "take [...] out of its head", kind)
            good = False
        elif unit:
            units = tables.notes.units
            try:
                size = units.read(f"1 {unit}", form[key].kind)
                factor = size / units.read(1.0, form[key].kind) if units.has_own(form[key].kind) else None
            except QuantityError as error:
                tables.error("bad-units", f"table {name}: {shown(cell)}: {error}", "check the unit in its head", kind)
                good = False
        out[i] = Column(key, unit, factor, measured)
    missing = [k for k in NEEDED_COLUMNS[kind] if k not in [c.key for c in out.values()]]
    if missing:
        tables.error("missing-key", f"table {name} has no column {', '.join(missing)}",
                     f"its first row names columns of {', '.join(known)}", kind)  # fmt: skip
        good = False
    return out if good else None


def _measured(key: Key) -> bool:
    """Whether a column holds quantities."""
    return isinstance(key.takes, Quantity | Written)


def _blank(cell: object) -> bool:
    return cell is None or (isinstance(cell, str) and not cell.strip())


def _text(cell: Any) -> Any:
    """Text, also where a spreadsheet took a name for a number; true and false as such."""
    if isinstance(cell, float) and cell.is_integer():
        cell = int(cell)
    text = str(cell).strip()
    return {"true": True, "false": False}.get(text.lower(), text)
