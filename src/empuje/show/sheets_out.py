"""Sheets of cells out: as CSV, and as a workbook with a sheet for each."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from .output import NotWritten
from .workbook import MOST_ROWS, THEN, WIDEST, undated

Rows = Sequence[Sequence[str | int | float | None]]


def as_csv(rows: Rows) -> str:
    """Rows with their heads, nothing for what is not there.

    >>> as_csv([["a", "b"], ["x, y", None]])
    'a,b\\n"x, y",\\n'
    """
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([["" if v is None else v for v in row] for row in rows])
    return out.getvalue()


def of_sheets(path: Path, sheets: Mapping[str, Rows]) -> Callable[[Path], None]:
    """What writes a workbook (ISO/IEC 29500) with these sheets; text is text, whatever it begins with. Raises
    NotWritten."""
    for name, rows in sheets.items():
        if len(rows) > MOST_ROWS:
            raise NotWritten(f"{path} would have {len(rows):,} rows of {name}, and a sheet holds {MOST_ROWS:,}; "
                             "name a folder with -o")  # fmt: skip

    def make(beside: Path) -> None:
        from openpyxl import Workbook
        from openpyxl.styles import Font

        book = Workbook()
        book.remove(book.active)
        for name, rows in sheets.items():
            sheet = book.create_sheet(name[:31])
            widths = [0] * max(map(len, rows))
            for i, row in enumerate(rows, start=1):
                for k, value in enumerate(row):
                    if value is None:
                        continue
                    cell = sheet.cell(i, k + 1, value)
                    if isinstance(value, str):
                        cell.data_type = "s"
                    if i == 1:
                        cell.font = Font(bold=True)
                    widths[k] = max(widths[k], len(str(value)))
            for k, width in enumerate(widths):
                sheet.column_dimensions[sheet.cell(1, k + 1).column_letter].width = min(max(width, 6) + 2, WIDEST)
            sheet.freeze_panes = "B2"
        book.properties.created = THEN
        book.save(beside)
        undated(beside)

    return make
