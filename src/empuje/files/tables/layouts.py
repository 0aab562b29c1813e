"""Tables as an office keeps them, brought to a first row of keys: titles above, heads of its own, columns and rows of
remarks, merged cells.

    Packing house, line loads                         on,        G [kN/m],  Q [kN/m],  dir
    Beam    Permanent   Imposed   Checked     -->     beams/1*,  2.1,       5.0,       down
            kN/m        kN/m                          beams/2*,  2.1,       0,         down
    beams/1*    2.1       5.0     yes
    beams/2*    2.1       0       yes

Nothing is passed over but what the model says: every other column needs a key.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from fnmatch import translate
from typing import Any

from ...core.model.findings import Place, did_you_mean, listed
from ..base.entry import Entry, shown
from ..base.quantities import QuantityError, parse
from .keys import LAYOUT
from .sheets import MOST_CELLS, MOST_ROWS, Cells, Merged, Sheet, blank, say_of_cells
from .wide import head_of, letters


@dataclass(frozen=True)
class Layout:
    """A file, the rows of its heads (none: the first), what heads stand for, the columns and rows of remarks, by
    number or by a cell of a text, what holds for all rows; where that is written."""

    name: str
    entry: Entry
    head: tuple[int, ...] = ()
    columns: Mapping[str, str] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()
    remark_rows: frozenset[int] = frozenset()
    remark_texts: tuple[str, ...] = ()
    all_rows: Mapping[str, Any] = field(default_factory=dict)


def layouts(tables: Entry, kind: str) -> list[Layout]:
    """Every table of a kind that the model names."""
    value = tables.data[kind]
    out = []
    for i, one in enumerate(value if isinstance(value, list) else [value]):
        inner = [i] if isinstance(value, list) else []
        if isinstance(one, str):
            out.append(Layout(one, tables))
        elif isinstance(one, dict):
            found = _layout(tables.inner(one, LAYOUT, kind, *inner))
            out += [found] if found is not None else []
        else:
            tables.error(
                "not-text", f"tables.{kind} = {shown(one)} is no file", "name a file, or files in a list", kind
            )
    return out


def _layout(entry: Entry) -> Layout | None:
    name = entry.known().text("file")
    head = _rows(entry, "head")
    columns, for_all = entry.child("columns"), entry.child("all_rows")
    names = {key: columns.text(key) for key in columns.data}
    remarks = entry.texts("remarks") if entry.has("remarks") else []
    written = entry.data.get("remark_rows", [])
    several = written if isinstance(written, list) else [written]
    texts = tuple(one for one in several if isinstance(one, str))
    remark_rows = _rows(entry, "remark_rows", [one for one in several if not isinstance(one, str)])
    for key, value in for_all.data.items():
        if isinstance(value, dict | list):
            for_all.error("not-text", f"{for_all.what}.{key} = {shown(value)}", "write it as in a cell", key)
            return None
    if name is None or head is None or remark_rows is None or remarks is None or None in names.values():
        return None
    if any(b != a + 1 for a, b in itertools.pairwise(head)):
        entry.error("bad-rows", f"{entry.what}.head = {shown(entry.data['head'])}", "name rows that follow one another",
                    "head")  # fmt: skip
        return None
    keys = {key: value for key, value in names.items() if value is not None}
    return Layout(name, entry, head, keys, tuple(remarks), frozenset(remark_rows), texts, for_all.data)


def _rows(entry: Entry, key: str, several: Any = None) -> tuple[int, ...] | None:
    """Rows by their numbers, those under the key or `several`; None and an error where they are none."""
    value = entry.data.get(key, []) if several is None else several
    several = value if isinstance(value, list) else [value]
    if all(isinstance(row, int) and not isinstance(row, bool) and 1 <= row <= MOST_ROWS for row in several):
        return tuple(several)
    entry.error("bad-rows", f"{entry.what}.{key} = {shown(value)}", "write numbers of rows, the first is 1", key)
    return None


def laid_out(layout: Layout, kind: str, sheet: Sheet, known: frozenset[str]) -> Sheet | None:
    """The sheet with a first row of keys, without what is passed over; None, and findings, where a head or a row is
    not there. `known`: keys and cases, which heads may be as they are."""
    if not sheet.rows:
        return sheet
    found = _heads(layout, kind, sheet, known)
    if found is None:
        return None
    at, heads = found
    heads += [None] * (max((len(cells) for _, cells in sheet.rows), default=0) - len(heads))
    remarks = _columns(layout, heads, layout.remarks, "remarks")
    named = {word: _columns(layout, heads, [word], "columns") for word in layout.columns}
    if remarks is None or None in named.values():
        return None
    keys: Cells = [None if i in remarks else head for i, head in enumerate(heads)]
    for word, columns in named.items():
        for i in columns or ():
            (_, unit), (key, own) = head_of(heads[i] or ""), head_of(layout.columns[word])
            if unit and own and own != unit:
                other = f"the head {shown(heads[i])} has another unit than {shown(layout.columns[word])}"
                layout.entry.error("bad-units", f"table {layout.name}: {other}", "leave it out here, or mend the head",
                                   "columns", word)  # fmt: skip
                return None
            keys[i] = f"{key} [{own or unit}]" if own or unit else key
    rows = [(line, cells) for line, cells in sheet.rows if line > at]
    passed = _passed_over(layout, rows)
    rows = [(line, cells) for line, cells in rows if line not in passed] if passed else rows
    remarks |= _headless(layout, keys, rows, remarks)
    if remarks:
        rows = [(line, [None if i in remarks else cell for i, cell in enumerate(cells)]) for line, cells in rows]
        rows = [(line, cells) for line, cells in rows if not all(map(blank, cells))]
    if layout.all_rows:
        same = list(layout.all_rows.values())
        rows = [(line, [*cells, *[None] * (len(keys) - len(cells)), *same]) for line, cells in rows]
        keys = [*keys, *layout.all_rows]
    merged = [m for m in sheet.merged if m.last > at and not set(range(m.left, m.right + 1)) <= remarks
              and not set(range(m.first, m.last + 1)) <= passed]  # fmt: skip
    hidden = [row for row in sheet.hidden_rows if row >= min(layout.head or (1,)) and row not in passed]
    _say_hidden(layout, hidden, [i for i in sheet.hidden_columns if i not in remarks])
    return replace(sheet, rows=[(at, keys), *rows], merged=merged)


def _passed_over(layout: Layout, rows: list[tuple[int, Cells]]) -> set[int]:
    """The rows that are remarks, which are told; a warning for a row that is not there, an error for a text in none."""
    fits = {text: re.compile(translate(text.casefold())).match for text in layout.remark_texts}
    found: dict[int, str] = {}
    used: set[str] = set()
    for line, cells in rows if fits or layout.remark_rows else ():
        texts = [" ".join(str(c).split()) for c in cells if not blank(c)]
        hit = {text for text, fit in fits.items() if any(fit(cell.casefold()) for cell in texts)}
        used |= hit
        if hit or line in layout.remark_rows:
            found[line] = texts[0] if texts else ""
    entry, name = layout.entry, layout.name
    for text in layout.remark_texts:
        if text not in used:
            entry.error("matches-nothing", f"table {name} has no row with a cell {shown(text)}", "check its words",
                        "remark_rows")  # fmt: skip
    for row in sorted(layout.remark_rows - set(found)):
        words, remedy = f"row {row} of table {name} is passed over, and holds nothing", "name such rows by their words"
        entry.notes.say("warning", "empty-row", (*entry.path, "remark_rows"), words, remedy)
    if found:
        told = ", ".join(f"{row} {shown(text)}" for row, text in list(found.items())[:MOST_CELLS])
        more = f" and {len(found) - MOST_CELLS} more" if len(found) > MOST_CELLS else ""
        words = f"table {name}: rows passed over as remarks: {told}{more}"
        entry.notes.say("note", "rows-passed-over", (*entry.path, "remark_rows"), words)
    return set(found)


def _headless(layout: Layout, keys: Cells, rows: list[tuple[int, Cells]], remarks: set[int]) -> set[int]:
    """The columns without a key that hold anything, and an error for each of their first cells."""
    none = {i for i, key in enumerate(keys) if key is None} - remarks
    remedy = "give the column a head, name it in `remarks`, or take the cell out"
    wrong = [
        (line, f"row {line} has {shown(cells[i])} in column {letters(i)}, which has no head", remedy)
        for line, cells in (rows if none else ()) for i in none if i < len(cells) and not blank(cells[i])
    ]  # fmt: skip
    say_of_cells(layout.entry, "", layout.name, "cell-without-head", wrong)
    return none if wrong else set()


def _heads(layout: Layout, kind: str, sheet: Sheet, known: frozenset[str]) -> tuple[int, list[str | None]] | None:
    """The row of the heads, and the head of every column, with its unit in brackets."""
    rows = layout.head or (sheet.rows[0][0],)
    lines = dict(sheet.rows)
    if not any(row in lines for row in rows):
        layout.entry.error("missing-key", f"table {layout.name} has nothing in row {listed([str(r) for r in rows])}",
                           "check which row its heads are in", *(["head"] if layout.head else [kind]))  # fmt: skip
        return None
    words = {row: list(lines.get(row, [])) for row in rows}
    for m in sheet.merged:  # a head over several columns is the head of each
        if m.first in words and m.left < len(words[m.first]) and m.right > m.left:
            row = words[m.first]
            row.extend([None] * (m.right + 1 - len(row)))
            row[m.left : m.right + 1] = [row[m.left]] * (m.right + 1 - m.left)
    last = [_plain(cell).strip("[]() ") for cell in words[rows[-1]] if not blank(cell)]
    units = len(rows) > 1 and all(map(_is_unit, last))
    heads = []
    for i in range(max(map(len, words.values()))):
        parts = [_plain(row[i]) for row in words.values() if i < len(row) and not blank(row[i])]
        has_unit = units and i < len(words[rows[-1]]) and not blank(words[rows[-1]][i])
        heads.append(_with_unit(parts, known, has_unit) if parts else None)
    return rows[-1], heads


def _plain(cell: Any) -> str:
    """The words of a head, on one line."""
    return " ".join(str(int(cell) if isinstance(cell, float) and cell.is_integer() else cell).split())


def _with_unit(parts: list[str], known: frozenset[str], has_unit: bool) -> str:
    """A head of one or several rows; a unit in round brackets, or the last of several parts, in square ones."""
    text = " ".join(parts)
    if text in known:
        return text
    if has_unit and len(parts) > 1:
        return f"{' '.join(parts[:-1])} [{parts[-1].strip('[]() ')}]"
    name, bracket, unit = text.rpartition("(")
    if bracket and unit.endswith(")") and _is_unit(unit[:-1]) and name.strip():
        return f"{name.strip()} [{unit[:-1].strip()}]"
    return text


def _is_unit(text: str) -> bool:
    try:
        _, _, with_unit = parse(f"1 {text}")
    except QuantityError:
        return False
    return with_unit and not any(c.isdigit() for c in text[:1])


def _columns(layout: Layout, heads: list[str | None], words: Any, key: str) -> set[int] | None:
    """The columns with these heads, with or without their units, or letters; None and an error where one is not there
    or stands for several."""
    out: set[int] = set()
    for word in words:
        plain = " ".join(word.split()).casefold()
        found = [i for i, head in enumerate(heads) if head and plain in (head.casefold(), head_of(head)[0].casefold())]
        if not found:
            found = [i for i in range(len(heads)) if letters(i) == word]
        inner = [key, word] if key == "columns" else [key]
        if len(found) > 1:
            remedy = f"name one by its letter: {' or '.join(letters(i) for i in found)}"
            message = f"table {layout.name} has {len(found)} columns {shown(word)}"
            layout.entry.error("unknown-name", message, remedy, *inner)
            return None
        if not found:
            message = f"table {layout.name} has no column {shown(word)}"
            remedy = did_you_mean(word, [head_of(h)[0] for h in heads if h])
            layout.entry.error("unknown-name", message, remedy, *inner)
            return None
        out.add(found[0])
    return out


def unmerged(
    tables: Entry, name: str, sheet: Sheet, measured: Mapping[int, str], words: Mapping[int, str]
) -> Sheet | None:
    """The sheet with the text of cells merged downwards in each of their rows, which is told; None, and errors, where
    they hold quantities: once, or once a row? `measured`, `words`: heads of columns of quantities and of words."""
    lines = dict(sheet.rows)
    filled: list[Merged] = []
    wrong = False
    for m in sheet.merged:
        held = lines.get(m.first, [])
        value = held[m.left] if m.left < len(held) else None
        if blank(value) or m.first <= sheet.rows[0][0]:
            continue
        heads = [measured[i] for i in range(m.left, m.right + 1) if i in measured]
        if heads and (m.last > m.first or len(heads) > 1):
            message = f"cells {m.text} are merged under {listed(heads)}: {shown(value)} once, or for each of them?"
            tables.notes.say("error", "merged-cells", (), message, "split them", Place(name, m.first))
            wrong = True
        elif m.last > m.first and m.left == m.right and m.left in words:
            filled.append(m)
            for line in range(m.first + 1, m.last + 1):
                if line in lines:
                    lines[line] = [*lines[line], *[None] * (m.left + 1 - len(lines[line]))]
                    lines[line][m.left] = value
        else:
            tables.notes.say("warning", "merged-cells", (), f"cells {m.text} are merged: only the first has a value, "
                             "the others read as blank", "split them", Place(name, m.first))  # fmt: skip
    for m in filled[:MOST_CELLS]:
        message = f"cells {m.text} are merged: {shown(lines[m.first][m.left])} holds for each of their rows"
        tables.notes.say("note", "merged-cells", (), message, "", Place(name, m.first))
    return None if wrong else replace(sheet, rows=list(lines.items()))


def _say_hidden(layout: Layout, rows: list[int], columns: list[int]) -> None:
    """Hidden rows and columns, which are read."""
    for what, which in (("rows", [str(row) for row in rows]), ("columns", [letters(i) for i in columns])):
        if which:
            told = ", ".join(which[:8]) + (", ..." if len(which) > 8 else "")
            place = Place(layout.name, rows[0] if what == "rows" else 0)
            message = f"{what} {told} are hidden, and were read"
            layout.entry.notes.say(
                "warning", "hidden-cells", (), message, "delete them if they are not intended", place
            )
