"""Tables beside the model file: CSV or XLSX, one row a node, member, support or load.

The first row holds the keys of the model file, with a unit where numbers are not in the project's:

    name, x [mm], y [mm], z        case, on, line [kN/m], line end [kN/m], from, to, dir
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from ...core.model.findings import Place, did_you_mean
from ..base.beside import inside
from ..base.entry import Entry, Notes, shown
from ..base.forms import Form, Key, Quantity, Written
from ..base.quantities import QuantityError
from .cells import LISTS, Column, TableCells
from .decimals import settled
from .layouts import Layout, laid_out, layouts, unmerged
from .row_kinds import RowKind
from .sheets import Cells, Sheet, blank, read_sheet
from .wide import head_of, with_a_row_each


@dataclass(frozen=True)
class Rows:
    """The rows of the tables of one kind."""

    kind: RowKind
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
        return Entry(data, path, notes, self.kind.entry)


def read_tables(model: Entry, folder: Path | None, kinds: Mapping[str, RowKind]) -> dict[str, Rows]:
    """The rows of every table that the model names, by kind; nothing for those that cannot be read."""
    tables = model.child("tables").known()
    out = {kind: Rows(known, []) for kind, known in kinds.items()}
    for kind in sorted(kinds, key=lambda kind: kind == "loads"):  # which may have a column for each case
        if not tables.has(kind):
            continue
        written = model.data.get("cases")
        cases = [*written] if isinstance(written, dict) else []
        for layout in layouts(tables, kind):
            file, part = sheet_of(layout.name)
            path = inside(tables, kind, file, folder)
            table = _table(tables, kinds[kind], layout, path, part, cases) if path is not None else None
            if table is not None:
                out[kind].tables.append(table)
        if kinds[kind].named:
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


def _table(
    tables: Entry, known: RowKind, layout: Layout, path: Path, part: str, cases: Sequence[str]
) -> TableCells | None:
    kind, form, name = known.kind, known.columns, layout.name
    sheet = read_sheet(tables, kind, name, path, part, layout.head[-1] if layout.head else 1)
    if sheet is not None:
        sheet = laid_out(layout, kind, sheet, frozenset(form.names) | frozenset(cases if kind == "loads" else ()))
    if sheet is not None and sheet.rows:
        keys = {i: head_of(str(cell))[0] for i, cell in enumerate(sheet.rows[0][1]) if not blank(cell)}
        wide = {i for i, key in keys.items() if kind == "loads" and key in cases and "case" not in keys.values()}
        if not wide and not any(key in form.names for key in keys.values()):
            _no_heads(layout, kind, sheet, form)
            return None
        measured = {i: k for i, k in keys.items() if i in wide or (k in form.names and _measured(form[k]))}
        sheet = unmerged(tables, name, sheet, measured, {i: k for i, k in keys.items() if i not in measured})
        if sheet is not None:
            sheet = settled(tables, kind, name, sheet, measured, {i for i, key in keys.items() if key in LISTS})
    if sheet is not None and kind == "loads":
        sheet = with_a_row_each(tables, name, sheet, cases)
    if sheet is None:
        return None
    columns = _heads(tables, known, layout, sheet.rows[0][1] if sheet.rows else [])
    return TableCells(tables, name, sheet, columns, form, known.as_in_cell) if columns is not None else None


def _no_heads(layout: Layout, kind: str, sheet: Sheet, form: Form) -> None:
    """A table whose first row holds no key at all: a title, or heads of its own."""
    line, cells = sheet.rows[0]
    first = next(str(cell) for cell in cells if not blank(cell))
    message = f"row {line} of table {layout.name} holds no heads that are known, but {shown(first)}"
    stated = f'{kind} = {{ file = "{layout.name}", head = 3, columns = {{ "Beam" = "on" }} }}'
    remedy = f"heads are {', '.join(form.names)}; say in which row they are and what they mean, as in {stated}"
    layout.entry.notes.say("error", "unknown-key", (), message, remedy, Place(layout.name, line))


def _heads(tables: Entry, row_kind: RowKind, layout: Layout, row: Cells) -> dict[int, Column] | None:
    """The columns by their place; None, and findings, where heads cannot be read."""
    kind, form, name = row_kind.kind, row_kind.columns, layout.name
    known = form.names
    out: dict[int, Column] = {}
    good = True
    for i, cell in enumerate(row):
        if blank(cell):
            continue
        key, unit = head_of(str(cell))
        twice = key in [c.key for c in out.values()]
        if key not in known or twice:
            tables.error("unknown-key", f"table {name} has {'two columns' if twice else 'a column'} {shown(key)}",
                         "take one out" if twice else _or_laid_out(did_you_mean(key, known)), kind)  # fmt: skip
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
    missing = [k for k in row_kind.needed if k not in [c.key for c in out.values()]]
    if missing:
        tables.error("missing-key", f"table {name} has no column {', '.join(missing)}",
                     f"its heads name columns of {', '.join(known)}", kind)  # fmt: skip
        good = False
    return out if good else None


def _or_laid_out(remedy: str) -> str:
    """A remedy for a head that is no key, and those of its layout."""
    other = "give it a key in `columns`, or name it in `remarks`"
    return f"{remedy} Else {other}" if remedy.endswith("?") else f"{remedy}; {other}"


def _measured(key: Key) -> bool:
    """Whether a column holds quantities."""
    return isinstance(key.takes, Quantity | Written)
