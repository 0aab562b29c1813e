"""Rows of a table of loads that hold nothing unusual, read at a tenth of the price.

A row is plain where it names one member or node outright and gives a number for one kind of load: then its load follows
from what is known of the columns and names beforehand. Everything else, and whatever is wrong, takes the way on which
every word is looked at and told (loading.py); both ways make the same load of a plain row.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from ...core.model.findings import Place
from ...core.model.loads import END, START, Direction, LineLoad, NodeLoad, PointLoad, Position
from ..base.directions import DIRECTIONS
from ..base.positions import parse_position
from ..base.quantities import LARGEST, QuantityError, Units
from ..base.selectors import Names
from ..tables.cells import TableCells, as_in_cell
from ..tables.sheets import Cells

KINDS = ("line", "force", "moment")
READ = {"case", "on", "dir", "at", "from", "to", *KINDS}


class PlainRows:
    """The plain rows of one table."""

    def __init__(
        self,
        table: TableCells,
        cases: Collection[str],
        names: Names,
        surfaces: Collection[str],
        units: Units,
        plane: bool,
    ) -> None:
        self.name, self.units, self.plane, self.cases = table.name, units, plane, frozenset(cases)
        self.members, self.nodes, self.surfaces = names.member_index, names.node_index, frozenset(surfaces)
        at = {column.key: i for i, column in table.columns.items()}
        self.columns = max(table.columns, default=-1) + 1
        self.case, self.on, self.dir = (at.get(key, -1) for key in ("case", "on", "dir"))
        self.places = tuple(at.get(key, -1) for key in ("at", "from", "to"))
        # What a number in a column is in SI; None where a column takes no plain numbers.
        size = {key: _size(table, at[key], units) for key in (*KINDS, "at", "from", "to") if key in at}
        self.kinds = [(kind, at[kind], size[kind]) for kind in KINDS if kind in at]
        self.sizes = tuple(size.get(key) for key in ("at", "from", "to"))
        self.unit = {kind: table.columns[i].unit for kind, i, _ in self.kinds}
        self.others = [i for i in range(self.columns) if i not in table.columns or table.columns[i].key not in READ]
        self.usable = self.case >= 0 and self.on >= 0 and all(s is not None for _, _, s in self.kinds)
        self.known: dict[str, Position | None] = {}

    def load(self, line: int, cells: Cells) -> LineLoad | PointLoad | NodeLoad | None:
        """The load of a plain row; None for any other."""
        if not self.usable:
            return None
        count = len(cells)
        if count < self.columns:
            cells = [*cells, *[""] * (self.columns - count)]
        elif count > self.columns and any(map(_there, cells[self.columns :])):
            return None
        for i in self.others:
            if _there(cells[i]):
                return None
        case, on = cells[self.case], cells[self.on]
        if case not in self.cases or on in self.surfaces:
            return None
        found = [one for one in self.kinds if _there(cells[one[1]])]
        if len(found) != 1:
            return None
        kind, column, size = found[0]
        try:
            number = float(cells[column])
        except (TypeError, ValueError):
            return None
        assert size is not None
        value = number * size[0] * size[1] * size[2]
        word = cells[self.dir] if self.dir >= 0 else ""
        direction = DIRECTIONS.get(word if _there(word) else "down")
        if direction is None or (kind == "moment" and not word):
            return None
        if not abs(value) <= LARGEST or isinstance(cells[column], bool):
            return None
        if self.plane and (direction.local or (direction.vector[1] != 0) != (kind == "moment")):
            return None
        about = "about " if kind == "moment" else ""
        text = f"{kind} {as_in_cell(cells[column], self.unit[kind])} {about}{direction.text} on {on}"
        places = [cells[i] if i >= 0 else "" for i in self.places]
        return self._made(kind, case, on, value, direction, places, text, line)

    def _made(
        self, kind: str, case: str, on: str, value: float, direction: Direction, places: list[Any], text: str, line: int
    ) -> LineLoad | PointLoad | NodeLoad | None:
        at, begin, end = places
        node = self.nodes.get(on)
        if node is not None:
            if kind == "line" or direction.local or any(map(_there, places)):
                return None
            return NodeLoad(case, (node,), kind, value, direction, text, Place(self.name, line))  # type: ignore[arg-type]
        member = self.members.get(on)
        if member is None:
            return None
        if kind == "line":
            start = self._position(begin, 1) if _there(begin) else START
            stop = self._position(end, 2) if _there(end) else END
            if _there(at) or start is None or stop is None:
                return None
            points = ((start, value), (stop, value))
            return LineLoad(case, (member,), points, direction, False, text, Place(self.name, line))
        place = self._position(at, 0) if _there(at) else None
        if place is None or _there(begin) or _there(end):
            return None
        return PointLoad(case, (member,), kind, value, (place,), direction, text, Place(self.name, line))  # type: ignore[arg-type]

    def _position(self, cell: Any, which: int) -> Position | None:
        """A place along a member; None where it is none, or several."""
        size = self.sizes[which]
        if size is None or isinstance(cell, bool):
            return None
        try:
            offset = float(cell) * size[0] * size[1] * size[2]
        except (TypeError, ValueError):
            return self._share(cell) if isinstance(cell, str) and cell.rstrip().endswith("%") else None
        return Position(offset) if 0 <= offset <= LARGEST else None

    def _share(self, text: str) -> Position | None:
        if text not in self.known:
            try:
                self.known[text] = parse_position(text, self.units)
            except QuantityError:
                self.known[text] = None
        return self.known[text]


def _there(cell: Any) -> bool:
    """Whether a cell holds anything: a nought of a workbook is no blank."""
    return bool(cell) or cell == 0


def _size(table: TableCells, i: int, units: Units) -> tuple[float, float, float] | None:
    """What makes SI of a plain number in a column, factor by factor, as reading it word by word would."""
    column = table.columns[i]
    if not column.measured or (column.unit and column.factor is None):
        return None
    kind = table.kind_of(column)
    return (column.factor if column.factor is not None else 1.0, *units.plain_factors(kind))
