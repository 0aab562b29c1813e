"""From the cells of a table to values under keys: nothing in them is passed over without a word."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.model.findings import CONTROL, Place, visible
from ..base.entry import Entry, shown
from ..base.forms import Form
from ..base.quantities import QuantityError, parse
from .decimals import COMMA
from .sheets import Cells, Sheet, blank
from .wide import with_its_unit

LONGEST_NUMBER = 10
"""Characters of a number that shows as it is written; a longer one shows with six digits."""
LISTS = {"at", "on", "ends", "offsets", "corners", "deck", "bearing", "dir"}
"""Keys under which one cell may hold several words, with commas between."""


@dataclass(frozen=True)
class Column:
    """A column: the key its cells have, and the unit of bare numbers in it. `factor`: that unit over the project's;
    None where a bare number of the project means nothing."""

    key: str
    unit: str
    factor: float | None
    measured: bool


class TableCells:
    """From the cells of rows to values under keys; nothing in them is passed over without a word."""

    def __init__(
        self, tables: Entry, name: str, sheet: Sheet, columns: dict[int, Column], form: Form, as_in_cell: bool
    ) -> None:
        self.tables, self.name, self.sheet, self.columns, self.form = tables, name, sheet, columns, form
        self.as_in_cell = as_in_cell

    def row(self, line: int, cells: Cells) -> dict[str, Any]:
        """The values of one row, blank cells left out."""
        data = {}
        for i, cell in enumerate(cells):
            if blank(cell):
                continue
            column = self.columns.get(i)
            if column is None:  # told where the table was laid out
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
            return self._shown(cell, _number(cell, column), column) if column.measured else _text(cell)
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
            return [self._in_unit(word.strip(), column) for word in text.split(",")]
        return self._in_unit(text, column)

    def _in_unit(self, text: str, column: Column) -> Any:
        return self._shown(text, _in_unit(text, column), column)

    def _shown(self, cell: Any, value: Any, column: Column) -> Any:
        """A number of a load, which is shown as it stands in its cell."""
        if not self.as_in_cell or isinstance(value, str | bool):
            return value
        return InCell(value, as_in_cell(cell, column.unit))

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
            return with_its_unit(text, column.unit)
    return text


class InCell(float):
    """A number of a cell in the project's unit, which shows as it stands there."""

    __slots__ = ("written",)
    written: str

    def __new__(cls, value: float, written: str) -> InCell:
        """With the words of the cell."""
        out = super().__new__(cls, value)
        out.written = written
        return out

    def __str__(self) -> str:
        """As it is written."""
        return self.written

    __repr__ = __str__


def as_in_cell(cell: Any, unit: str) -> str:
    """A number as its cell shows it, with the unit of its column.

    >>> as_in_cell("11.74", "lbf/ft"), as_in_cell(0.17130441464197943, "")
    ('11.74 lbf/ft', '0.171304')
    """
    text = str(cell).strip()
    if len(text) > LONGEST_NUMBER:
        text = f"{float(text):.6g}"
    return f"{text} {unit}" if unit else text


def _number(cell: Any, column: Column) -> Any:
    if isinstance(cell, bool) or not column.unit:
        return cell
    return f"{cell!r} {column.unit}" if column.factor is None else cell * column.factor


def _text(cell: Any) -> Any:
    """Text, also where a spreadsheet took a name for a number; true and false as such."""
    if isinstance(cell, float) and cell.is_integer():
        cell = int(cell)
    text = str(cell).strip()
    return {"true": True, "false": False}.get(text.lower(), text)
