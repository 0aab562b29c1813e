"""Tables beside the model file: CSV or XLSX, one row a node, member, support or load.

The first row holds the keys of the model file, with a unit where numbers are not in the project's:

    name, x [mm], y [mm], z        case, on, line [kN/m], line end [kN/m], from, to, dir
"""

from __future__ import annotations

import csv
import datetime
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..core.model.findings import Place, did_you_mean, has_errors
from .entry import Entry, Notes, shown
from .forms import Key, Quantity, Written
from .keys import LOAD, NEEDED_COLUMNS, ROWS, SUPPORT
from .quantities import QuantityError

HEAD = re.compile(r"\s*([^\[\]]+?)\s*(?:\[\s*([^\[\]]+?)\s*\])?\s*")
MOST_ROWS, LARGEST = 1_000_000, 100_000_000
MOST_CELLS = 10
"""Cells of a kind that are told one by one."""
ROW_FORMS = ROWS | {"supports": SUPPORT, "loads": LOAD}
"""What is known of the entries that rows become."""
LISTS = {"at", "on"}
"""Keys under which one cell may hold several words, with commas between."""
Cells = list[Any]


@dataclass(frozen=True)
class Rows:
    """The rows of one kind of table: cells by key, blank ones left out, each with its place."""

    rows: list[tuple[dict[str, Any], Place]]

    def entries(self, kind: str, notes: Notes) -> Iterator[Entry]:
        """Rows as entries of the model file; what is found in them is placed at their own line."""
        for i, (data, place) in enumerate(self.rows):
            path = ("tables", kind, i)
            notes.elsewhere[path] = place
            yield Entry(data, path, notes, ROW_FORMS[kind])


def read_tables(model: Entry, folder: Path | None) -> dict[str, Rows]:
    """The rows of every table that the model names, by kind; nothing for those that cannot be read."""
    tables = model.child("tables").known()
    out = {kind: Rows([]) for kind in ROWS}
    for kind in ROWS:
        if not tables.has(kind):
            continue
        for name in tables.texts(kind) or []:
            path = inside(tables, kind, name, folder)
            if path is not None:
                out[kind].rows.extend(_rows(tables, kind, name, path))
    return out


def inside(tables: Entry, kind: str, name: str, folder: Path | None, what: str = "table") -> Path | None:
    """The file, which has to lie in the model's own folder."""
    if folder is None:
        tables.error(
            "unusable-table", f"{what} {name}: there is no folder to look in", "read the model from a file", kind
        )
        return None
    path = folder / name
    try:
        if not path.resolve().is_relative_to(folder.resolve()):
            tables.error(
                "unusable-table", f"{what} {name} is outside the model's folder", "put it beside the model", kind
            )
        elif not path.is_file():
            tables.error("unusable-table", f"there is no file {name} beside the model", "check its name", kind)
        elif path.stat().st_size > LARGEST:
            tables.error("unusable-table", f"{what} {name} is larger than {LARGEST // 1_000_000} MB", "split it", kind)
        else:
            return path
    except (OSError, ValueError) as error:
        tables.error("unusable-table", f"{what} {name} cannot be read: {error}", "check its name", kind)
    return None


def _rows(tables: Entry, kind: str, name: str, path: Path) -> Iterator[tuple[dict[str, Any], Place]]:
    try:
        cells = _from_workbook(tables, kind, name, path) if path.suffix.lower() == ".xlsx" else _from_csv(tables, path)
    except Exception as error:  # whatever a damaged workbook raises
        what = f"is not {'a workbook' if path.suffix.lower() == '.xlsx' else 'UTF-8 text'}"
        remedy = "save it again as .csv (UTF-8) or .xlsx"
        tables.error("unusable-table", f"table {name} {what}: {str(error)[:80]}", remedy, kind)
        return
    if len(cells) > MOST_ROWS:
        tables.error("too-many", f"table {name} has more than {MOST_ROWS:,} rows", "split it", kind)
        return
    if not cells and has_errors(tables.notes.findings):
        return
    heads = _heads(tables, kind, name, cells[0] if cells else [])
    if heads is None:
        return
    form = ROWS[kind]
    for number, row in enumerate(cells[1:], start=2):
        data = {
            key: _cell(row[i], factor) if _measured(form[key]) else _text(row[i])
            for i, key, factor in heads if i < len(row) and not _blank(row[i])
        }  # fmt: skip
        for key in LISTS & data.keys():
            if isinstance(data[key], str) and "," in data[key]:
                data[key] = [word.strip() for word in data[key].split(",")]
        if data:
            yield data, Place(name, number)


def _from_csv(tables: Entry, path: Path) -> list[Cells]:
    text = tables.notes.bytes_of(path).decode("utf-8-sig")
    first = text.split("\n", 1)[0]
    separator = ";" if first.count(";") > first.count(",") else ","
    return list(csv.reader(text.splitlines(), delimiter=separator))


def _from_workbook(tables: Entry, kind: str, name: str, path: Path) -> list[Cells]:
    """The first sheet. Cells that cannot be read for what they are become findings, and then there are no rows: a
    formula whose value the file does not hold, dates and times, errors. Percentages become shares."""
    import openpyxl

    data = tables.notes.bytes_of(path)
    written = openpyxl.load_workbook(io.BytesIO(data)).worksheets[0]
    stored = openpyxl.load_workbook(io.BytesIO(data), data_only=True).worksheets[0]
    out: list[Cells] = []
    wrong = 0
    for row in written.iter_rows():
        values: Cells = []
        for cell in row:
            value = stored.cell(cell.row, cell.column).value
            message = ""
            if cell.data_type == "f" and value is None:
                message = f"holds the formula {shown(str(cell.value))}, and the file has no value for it"
                remedy = "open it in a spreadsheet program and save it, or write the value"
            elif isinstance(value, datetime.date | datetime.time | datetime.timedelta):
                message, remedy = f"is a date or time ({value})", "format it as a number or as text"
            elif isinstance(value, str) and value in openpyxl.cell.cell.ERROR_CODES:
                message, remedy = f"has the error {value}", "mend its formula"
            elif isinstance(value, int | float) and not isinstance(value, bool) and "%" in (cell.number_format or ""):
                value = f"{100 * value:.12g}%"
            if message:
                wrong += 1
                if wrong <= MOST_CELLS:
                    place = Place(name, cell.row)
                    tables.notes.say("error", "unusable-cell", (), f"cell {cell.coordinate} {message}", remedy, place)
            values.append(value)
        out.append(values)
    if wrong > MOST_CELLS:
        tables.error("unusable-cell", f"table {name}: {wrong - MOST_CELLS} more cells like these", "", kind)
    _say_unseen(tables, name, written)
    return [] if wrong else out


def _say_unseen(tables: Entry, name: str, sheet: Any) -> None:
    """Merged cells, of which only the first has a value, and hidden rows and columns, which are read."""
    for area in sorted(map(str, sheet.merged_cells.ranges))[:MOST_CELLS]:
        row = int(re.findall(r"\d+", area)[0])
        tables.notes.say("warning", "merged-cells", (), f"cells {area} are merged: only the first has a value, the "
                         "others read as blank", "split them", Place(name, row))  # fmt: skip
    hidden = [i for i, row in sheet.row_dimensions.items() if row.hidden and i <= sheet.max_row]
    columns = [key for key, column in sheet.column_dimensions.items() if column.hidden]
    for what, which in (("rows", hidden), ("columns", columns)):
        if which:
            told = ", ".join(map(str, which[:8])) + (", ..." if len(which) > 8 else "")
            tables.notes.say("warning", "hidden-cells", (), f"{what} {told} are hidden, and were read",
                             "delete them if they are not meant",
                             Place(name, hidden[0] if which is hidden else 0))  # fmt: skip


def _heads(tables: Entry, kind: str, name: str, row: Cells) -> list[tuple[int, str, float]] | None:
    """Place, key and factor on bare numbers of every column; None, and findings, where they cannot be read."""
    form = ROWS[kind]
    known = form.names
    out: list[tuple[int, str, float]] = []
    good = True
    for i, cell in enumerate(row):
        if _blank(cell):
            continue
        match = HEAD.fullmatch(str(cell))
        key, unit = (match[1], match[2]) if match else (str(cell), None)
        if key not in known or key in [k for _, k, _ in out]:
            twice = key in known
            tables.error("unknown-key", f"table {name} has {'two columns' if twice else 'a column'} {shown(key)}",
                         "take one out" if twice else did_you_mean(key, known), kind)  # fmt: skip
            good = False
            continue
        factor = 1.0
        if unit and not _measured(form[key]):
            tables.error("bad-units", f"table {name}: {key} has no unit", "take [...] out of its head", kind)
            good = False
        elif unit:
            try:
                units = tables.notes.units
                factor = units.read(f"1 {unit}", form[key].kind) / units.read(1.0, form[key].kind)
            except QuantityError as error:
                tables.error("bad-units", f"table {name}: {cell}: {error}", "check the unit in its head", kind)
                good = False
        out.append((i, key, factor))
    missing = [k for k in NEEDED_COLUMNS[kind] if k not in [key for _, key, _ in out]]
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


def _cell(cell: Any, factor: float) -> Any:
    """A number where it reads like one, times the factor of its column; else its text."""
    if isinstance(cell, bool):
        return cell
    if isinstance(cell, int | float):
        return cell * factor if factor != 1.0 else cell
    text = str(cell).strip()
    try:
        return float(text) * factor
    except ValueError:
        return text
