"""Tables as XLSX workbooks (ISO/IEC 29500), the same bytes for the same table."""

from __future__ import annotations

import io
import math
import re
import zipfile
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from ..core.answers.table import Table
from ..core.model.findings import visible
from .display import Display
from .output import NotWritten, write_whole
from .tables import FOUR_FIGURES, decimals_for, largest, plain

THEN = datetime(2000, 1, 1)
MOST_ROWS = 1_048_576
WIDEST = 60
MOST_DRAWINGS = 40
ROW_PIXELS = 20
"""The height of a row of a sheet, at the usual 96 points an inch [pixels]."""
"""No column is wider [characters]."""


def write_workbook(path: Path, table: Table, display: Display, drawings: Sequence[tuple[str, bytes]] = ()) -> None:
    """One sheet: heads with units, then numbers at full precision, shown as tables for eyes show them; text is text,
    whatever it begins with. A second one for drawings (PNG), each below its name. Raises NotWritten."""

    if len(table) >= MOST_ROWS:
        raise NotWritten(f"{path} would have {len(table):,} rows, and a sheet holds {MOST_ROWS - 1:,}; "
                         "write .csv, or take them from results.sqlite of `empuje run`")  # fmt: skip

    def make(beside: Path) -> None:
        from openpyxl import Workbook
        from openpyxl.styles import Alignment, Font

        columns = display.convert(table)
        book = Workbook()
        sheet = book.active
        sheet.title = table.name[:31]
        sizes = largest(table)
        for i, (head, values) in enumerate(columns.items(), start=1):
            kind = table.columns[i - 1].kind
            shown = "0" if kind == "count" else _format(kind, decimals_for(sizes.get(kind, 0.0) * display.factor(kind)))
            first = sheet.cell(1, i, head)
            first.font = Font(bold=True)
            first.alignment = Alignment(
                horizontal="left" if kind == "text" else "right", wrap_text=True, vertical="top"
            )
            widest = len(head)
            for row, value in enumerate(plain(values, None), start=2):
                if value is None:
                    continue
                cell = sheet.cell(row, i, visible(value) if isinstance(value, str) else value)
                if isinstance(value, str):
                    cell.data_type = "s"  # else "= ..." would be a formula
                    widest = max(widest, len(value))
                else:
                    cell.number_format = shown if shown is not None else _four_figures(value)
            sheet.column_dimensions[first.column_letter].width = min(max(widest, 8) + 2, WIDEST)
        sheet.freeze_panes = "B2"
        sheet.auto_filter.ref = sheet.dimensions
        if drawings:
            _put_drawings(book.create_sheet("drawings"), drawings)
        book.properties.created = THEN
        book.save(beside)
        undated(beside)

    write_whole(path, make)


def _put_drawings(sheet: Any, drawings: Sequence[tuple[str, bytes]]) -> None:
    """One below another, each with its name above it."""
    from openpyxl.drawing.image import Image
    from openpyxl.styles import Font

    row = 1
    for name, data in drawings:
        sheet.cell(row, 1, visible(name)).data_type = "s"
        sheet.cell(row, 1).font = Font(bold=True)
        image = Image(io.BytesIO(data))
        sheet.add_image(image, f"A{row + 1}")
        row += 3 + math.ceil(image.height / ROW_PIXELS)


def _format(kind: str, decimals: int) -> str | None:
    """How numbers of a column are shown; None where each has its own."""
    return None if kind in FOUR_FIGURES else "0" + ("." + "0" * decimals if decimals else "")


def _four_figures(value: float) -> str:
    if value and abs(value) < 1e-4:
        return "0.000E+00"
    decimals = 3 - math.floor(math.log10(abs(value))) if value else 0
    return "0" + ("." + "0" * decimals if decimals > 0 else "")


def undated(path: Path) -> None:
    """Take the time of writing out of a workbook."""
    with zipfile.ZipFile(path) as book:
        parts = [(name, book.read(name)) for name in book.namelist()]
    stamp = THEN.strftime("%Y-%m-%dT%H:%M:%SZ").encode()
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as book:
        for name, data in parts:
            if name == "docProps/core.xml":
                data = re.sub(rb"(<dcterms:modified[^>]*>)[^<]*", rb"\g<1>" + stamp, data)
            book.writestr(zipfile.ZipInfo(name, THEN.timetuple()[:6]), data, zipfile.ZIP_DEFLATED)
