"""Tables as XLSX workbooks (ISO/IEC 29500), the same bytes for the same table."""

from __future__ import annotations

import re
import zipfile
from datetime import datetime
from pathlib import Path

from ..core.answers.table import Table
from .display import Display
from .output import write_whole
from .tables import plain

THEN = datetime(2000, 1, 1)


def write_workbook(path: Path, table: Table, display: Display) -> None:
    """One sheet: heads with units, then numbers at full precision. Raises NotWritten."""

    def make(beside: Path) -> None:
        from openpyxl import Workbook
        from openpyxl.styles import Font

        columns = display.convert(table)
        book = Workbook()
        sheet = book.active
        sheet.title = table.name[:31]
        sheet.append(list(columns))
        for row in zip(*(plain(c, None) for c in columns.values()), strict=True):
            sheet.append(row)
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        for letter, values in zip(sheet.columns, columns.values(), strict=True):
            widest = max([len(str(letter[0].value)), *(len(v) for v in values if isinstance(v, str))])
            sheet.column_dimensions[letter[0].column_letter].width = min(max(widest, 10) + 2, 60)
        sheet.freeze_panes = "A2"
        book.properties.created = THEN
        book.save(beside)
        _undated(beside)

    write_whole(path, make)


def _undated(path: Path) -> None:
    """Take the time of writing out of a workbook."""
    with zipfile.ZipFile(path) as book:
        parts = [(name, book.read(name)) for name in book.namelist()]
    stamp = THEN.strftime("%Y-%m-%dT%H:%M:%SZ").encode()
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as book:
        for name, data in parts:
            if name == "docProps/core.xml":
                data = re.sub(rb"(<dcterms:modified[^>]*>)[^<]*", rb"\g<1>" + stamp, data)
            book.writestr(zipfile.ZipInfo(name, THEN.timetuple()[:6]), data, zipfile.ZIP_DEFLATED)
