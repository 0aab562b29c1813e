"""What stands in a CSV or XLSX file: rows of cells with their lines, and findings for what cannot be read as it is.

    sheet = read_sheet(tables, "loads", "loads.csv", path)
    sheet.rows[0]            # 1, ["case", "on", "line [kN/m]"]

Sizes are looked at before memory is spent on them.
"""

from __future__ import annotations

import csv
import datetime
import io
import itertools
import re
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ...core.model.findings import Place, did_you_mean
from ..base.entry import Entry, shown
from ..base.plain_file import NoPlainFile

MOST_ROWS, MOST_COLUMNS = 1_000_000, 256
MOST_UNPACKED = 60_000_000
"""Bytes that a workbook may hold once it is unpacked."""
MOST_CELLS = 10
"""Cells of a kind that are told one by one."""
LONGEST_CELL = 131_072
Cells = list[Any]


class Unreadable(ValueError):
    """The file cannot be read; `remedy` says what to do."""

    def __init__(self, message: str, remedy: str) -> None:
        super().__init__(message)
        self.remedy = remedy


@dataclass(frozen=True)
class Merged:
    """Cells merged into one, A2:B5: their first and last row, and their columns from nought."""

    text: str
    first: int
    last: int
    left: int
    right: int


@dataclass(frozen=True)
class Sheet:
    """The rows that hold anything, with their lines; what parts their cells, nothing in a workbook; merged cells, of
    which only the first has a value; hidden rows and columns (from nought), which are among the rows."""

    rows: list[tuple[int, Cells]]
    separator: str = ""
    merged: list[Merged] = field(default_factory=list)
    hidden_rows: list[int] = field(default_factory=list)
    hidden_columns: list[int] = field(default_factory=list)


def read_sheet(tables: Entry, kind: str, name: str, path: Path, part: str = "", head: int = 1) -> Sheet | None:
    """The file's rows, or None and a finding. In a workbook those of its first sheet, or of the one called `part`; in a
    CSV file line `head` tells what parts its cells."""
    workbook = path.suffix.lower() == ".xlsx"
    try:
        data = tables.notes.bytes_of(path)
        return _from_workbook(tables, kind, name, data, part) if workbook else _from_csv(data, head)
    except Unreadable as error:
        tables.error("unusable-table", f"table {name} {error}", error.remedy, kind)
    except NoPlainFile as error:
        tables.error("unusable-table", f"table {name} {error}", "split it", kind)
    except Exception as error:  # whatever a damaged workbook raises
        what = f"is not {'a workbook' if workbook else 'a table'}"
        remedy = "save it again as .csv (UTF-8) or .xlsx"
        tables.error("unusable-table", f"table {name} {what}: {str(error)[:80]}", remedy, kind)
    return None


def _from_csv(data: bytes, head: int) -> Sheet:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise Unreadable(f"is not UTF-8 text (byte {error.start})", "save it as CSV in UTF-8") from None
    if "\0" in text:
        raise Unreadable("holds a NUL character, as no text does", "save it as CSV in UTF-8")
    first = next(itertools.islice(io.StringIO(text), head - 1, None), "")
    separator = _separator(first)
    return Sheet(list(_records(text, separator)), separator)


def _separator(head: str) -> str:
    """What parts the cells of a line: the one of , ; and tab there is most of outside quotes."""
    bare = re.sub(r'"[^"]*"', "", head)
    return max(",;\t", key=bare.count)


def _records(text: str, separator: str) -> Iterator[tuple[int, Cells]]:
    """Lines at which records begin, and their cells."""
    # newline="": line ends inside quotes belong to the cell; those of the records are the reader's affair.
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    line = 1
    count = 0
    try:
        for cells in reader:
            if len(cells) > MOST_COLUMNS:
                raise Unreadable(f"has {len(cells):,} cells in line {line}; a table has at most {MOST_COLUMNS} columns",
                                 "leave out what the model does not need")  # fmt: skip
            if any(map(str.strip, cells)):
                count += 1
                if count > MOST_ROWS:
                    raise Unreadable(f"has more than {MOST_ROWS:,} rows", "split it")
                yield line, list(cells)
            line = reader.line_num + 1
    except csv.Error as error:
        if "field limit" in str(error):
            message = f"has a cell of more than {LONGEST_CELL:,} characters from line {line} on"
            raise Unreadable(message, "look for a quote that is not closed") from None
        raise Unreadable(f"is no CSV from line {line} on: {error}", "look at its quotes and separators") from None


def _from_workbook(tables: Entry, kind: str, name: str, data: bytes, part: str) -> Sheet | None:
    """The first sheet, or the one called `part`. Cells that cannot be read for what they are become findings, and then
    there are no rows: a formula whose value the file does not hold, dates and times, errors. Percentages become shares.
    """
    import openpyxl

    unpacked = sum(part.file_size for part in zipfile.ZipFile(io.BytesIO(data)).infolist())
    if unpacked > MOST_UNPACKED:
        raise Unreadable(f"holds {unpacked / 1e6:,.0f} MB once it is unpacked, more than {MOST_UNPACKED // 1_000_000}",
                         "save the sheet as CSV")  # fmt: skip
    book = openpyxl.load_workbook(io.BytesIO(data))
    if not book.worksheets:
        raise Unreadable("has no sheet with cells", "put the table on the first sheet")
    titles = [s.title for s in book.worksheets]
    if part and part not in titles:
        raise Unreadable(f"has no sheet of that name; {did_you_mean(part, titles)}", "check its name")
    which = titles.index(part) if part else 0
    written = book.worksheets[which]
    stored = openpyxl.load_workbook(io.BytesIO(data), data_only=True).worksheets[which]
    # The cells that the file holds, wherever they are: a sheet's own word on how far it reaches may be out of date, and
    # one cell in the last corner would make seventeen thousand million of them.
    values = {at: cell.value for at, cell in stored._cells.items()}
    rows: dict[int, Cells] = {}
    wrong: list[tuple[int, str, str]] = []
    for (line, column), cell in sorted(written._cells.items()):
        value, message, remedy = _meant(cell, values.get((line, column)))
        if message:
            wrong.append((line, f"cell {cell.coordinate} {message}", remedy))
        if blank(value):
            continue
        if column > MOST_COLUMNS:
            raise Unreadable(f"has a cell {cell.coordinate}; a table has at most {MOST_COLUMNS} columns",
                             "leave out what the model does not need")  # fmt: skip
        row = rows.setdefault(line, [])
        row.extend([None] * (column - len(row)))
        row[column - 1] = value
    say_of_cells(tables, kind, name, "unusable-cell", wrong)
    if not part:
        _say_unread(tables, name, written, [s.title for s in book.worksheets[1:] if s._cells])
    return None if wrong else _sheet(rows, written)


def blank(cell: object) -> bool:
    """Whether a cell holds nothing."""
    return cell is None or (isinstance(cell, str) and not cell.strip())


def say_of_cells(tables: Entry, kind: str, name: str, code: str, wrong: Sequence[tuple[int, str, str]]) -> None:
    """An error for each of the first cells (line, what is wrong, what to do), and how many more there are."""
    for line, message, remedy in wrong[:MOST_CELLS]:
        tables.notes.say("error", code, (), message, remedy, Place(name, line))
    if len(wrong) > MOST_CELLS:
        tables.error(code, f"table {name}: {len(wrong) - MOST_CELLS} more cells like these", "", kind)


def _meant(cell: Any, value: Any) -> tuple[Any, str, str]:
    """The value of a cell, and what is wrong with it and what to do, if anything is."""
    from openpyxl.cell.cell import ERROR_CODES

    if cell.data_type == "f" and value is None:
        remedy = "open it in a spreadsheet program and save it, or write the value"
        return None, f"holds the formula {shown(str(cell.value))}, and the file has no value for it", remedy
    if isinstance(value, datetime.date | datetime.time | datetime.timedelta):
        return None, f"is a date or time ({value})", "format it as a number or as text"
    if isinstance(value, str) and value in ERROR_CODES:
        return None, f"has the error {value}", "mend its formula"
    if isinstance(value, int | float) and not isinstance(value, bool) and "%" in (cell.number_format or ""):
        return f"{100 * value:.12g}%", "", ""
    return value, "", ""


def _sheet(rows: dict[int, Cells], sheet: Any) -> Sheet:
    """The rows of a sheet, with what is merged and hidden in it."""
    areas = sorted(sheet.merged_cells.ranges, key=lambda a: (a.min_row, a.min_col))
    merged = [Merged(str(a), a.min_row, a.max_row, a.min_col - 1, a.max_col - 1) for a in areas]
    last, width = max(rows, default=0), max(map(len, rows.values()), default=0)
    hidden = [i for i, row in sheet.row_dimensions.items() if row.hidden and i <= last]
    spans = [(c.min or 1, c.max or 1) for c in sheet.column_dimensions.values() if c.hidden]
    columns = sorted({i - 1 for first, end in spans for i in range(first, min(end, width) + 1)})
    return Sheet(list(rows.items()), "", merged, hidden, columns)


def _say_unread(tables: Entry, name: str, sheet: Any, others: list[str]) -> None:
    """Sheets that are not read."""
    if others:
        message = f"only its first sheet, {shown(sheet.title)}, is read, and not {', '.join(map(shown, others[:8]))}"
        remedy = f"name a sheet after a #, such as {name}#{sheet.title}"
        tables.notes.say("warning", "other-sheets", (), message, remedy, Place(name))
