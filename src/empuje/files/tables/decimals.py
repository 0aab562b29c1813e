"""How a table writes its numbers: with decimal points or decimal commas, settled for the whole of it.

    2,1     a comma is decimal              5.5, 0.500     a point is
    5.000   five, or five thousand?         1.234,5        thousands are parted: refused

Where one way is certain from some cells, cells that would be numbers of the other way too are refused; where none is,
those that may be read in two ways are.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, replace

from ...core.model.findings import Place, listed
from ..base.entry import Entry, shown
from .sheets import Cells, Sheet, say_of_cells

NUMBER = re.compile(r"\d+(?:[.,]\d+)+")
COMMA = re.compile(r"(?<=\d),(?=\d)")


@dataclass(frozen=True)
class _Written:
    """A number in a cell: its line and column, the text of it and of the cell, and how it is written: "." or ","
    decimal, ".?" or ",?" in doubt, "" with thousands parted."""

    line: int
    column: int
    text: str
    cell: str
    way: str


def settled(
    tables: Entry, kind: str, name: str, sheet: Sheet, measured: Mapping[int, str], lists: Collection[int]
) -> Sheet | None:  # fmt: skip
    """The sheet with points in the numbers of its measured columns (by place, with their heads); None, and findings,
    where numbers can be read in two ways. In `lists` several numbers may stand in a cell, with commas between."""
    if sheet.separator == ",":  # columns are parted by commas: a quoted one is told where rows are read
        return sheet
    found = list(_numbers(sheet, measured, lists))
    commas = [w for w in found if w.way == ","]
    points = [w for w in found if w.way == "."]
    wrong: list[tuple[_Written, str, str]] = []
    for w in found:
        plain = w.text.replace(".", "").replace(",", "")
        if w.way == "":
            wrong.append((w, "parts its thousands", f"write it without: {plain}, with one decimal point or comma"))
        elif commas and w.way in (".", ".?"):
            wrong.append((w, f"has a point, while {shown(commas[0].cell)} in row {commas[0].line} has a decimal comma",
                          "write all numbers of the table in one way"))  # fmt: skip
        elif not commas and w.way == ",?" and points:
            wrong.append((w, f"has a comma, while {shown(points[0].cell)} in row {points[0].line} has a decimal point",
                          "write all numbers of the table in one way"))  # fmt: skip
        elif not commas and not points and w.way[1:]:
            first = f"{float(w.text.replace(w.way[0], '.')):g}"
            wrong.append((w, f"may be {first} or {plain}, and nothing else in the table decides it",
                          f"write {first} or {plain}"))  # fmt: skip
    if wrong:
        cells = [(w.line, f"row {w.line} has {shown(w.cell)} under {measured[w.column]}: it {what}", remedy)
                 for w, what, remedy in wrong]  # fmt: skip
        say_of_cells(tables, kind, name, "decimal-comma", cells)
        return None
    if not commas:
        return sheet
    count = len({(w.line, w.column) for w in found if w.way[0] == ","})
    heads = listed(list(dict.fromkeys(measured[w.column] for w in found if w.way[0] == ",")))
    words = f"table {name}: {count} cell{'s' if count > 1 else ''} with a decimal comma under {heads}, read as points"
    tables.notes.say("note", "decimal-comma", (), words, "", Place(name, commas[0].line))
    rows = [*sheet.rows[:1], *((line, _pointed(cells, measured)) for line, cells in sheet.rows[1:])]
    return replace(sheet, rows=rows)


def _numbers(sheet: Sheet, measured: Mapping[int, str], lists: Collection[int]) -> Iterator[_Written]:
    for line, cells in sheet.rows[1:]:
        for i, cell in enumerate(cells):
            if i in measured and isinstance(cell, str) and ("." in cell or "," in cell):
                for text in NUMBER.findall(cell):
                    way = _way(text)
                    if not (i in lists and way != "." and "." not in text and text.count(",") > 1):
                        yield _Written(line, i, text, cell.strip(), way)


def _way(text: str) -> str:
    """How a number is written.

    >>> [_way(t) for t in ("2,1", "5.5", "0.500", "5.000", "12,500", "1.234,5", "1.234.567", "1234.567")]
    [',', '.', '.', '.?', ',?', '', '', '.']
    """
    separators = [c for c in text if c in ".,"]
    if len(separators) > 1:
        return ""
    whole, part = re.split("[.,]", text)
    doubtful = len(part) == 3 and len(whole) <= 3 and not whole.startswith("0")
    return separators[0] + ("?" if doubtful else "")


def _pointed(cells: Cells, measured: Mapping[int, str]) -> Cells:
    return [COMMA.sub(".", c) if i in measured and isinstance(c, str) else c for i, c in enumerate(cells)]
