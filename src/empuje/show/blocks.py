"""What a report is made of: parts of paragraphs, tables, figures and derivations, as plain data."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TypeAlias

from ..core.answers.table import Table
from .display import Display
from .tables import rounded


@dataclass(frozen=True)
class Cell:
    """Text in a table, and what it links to within the report."""

    text: str
    link: str = ""


@dataclass(frozen=True)
class Grid:
    """A table: its caption, heads with units, rows, and which columns are numbers. `tone` by row: "bad", "good" or
    nothing."""

    caption: str
    heads: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]
    numeric: tuple[bool, ...]
    note: str = ""
    tones: tuple[str, ...] = ()


@dataclass(frozen=True)
class Paragraph:
    """Text; `tone`: "bad", "good", "own" (the engineer's) or nothing."""

    text: str
    tone: str = ""
    head: str = ""


@dataclass(frozen=True)
class Picture:
    """A drawing as an SVG element, what it shows, and the same in words for who cannot see it."""

    svg: str
    caption: str
    words: str


@dataclass(frozen=True)
class Derivation:
    """What made a governing value: an anchor, the value in words, and its shares."""

    anchor: str
    title: str
    lines: tuple[str, ...]
    shares: Grid


@dataclass(frozen=True)
class Scene:
    """The model to be turned and asked in a page; paper has none."""

    data: Mapping[str, object]


Block: TypeAlias = Grid | Paragraph | Picture | Derivation | Scene


@dataclass(frozen=True)
class Part:
    """A numbered part of the report."""

    anchor: str
    title: str
    blocks: tuple[Block, ...]


@dataclass(frozen=True)
class Report:
    """All of it: the title, the facts of its title block, what it comes to, and its parts. `fails`: a limit is not met,
    or a result has no answer."""

    title: str
    facts: tuple[tuple[str, str], ...]
    verdict: tuple[Paragraph, ...]
    parts: tuple[Part, ...] = field(default=())
    fails: bool = False


Links = Mapping[tuple[int, str], str]
"""What cells link to, by row and column's name."""


def grid_of(
    table: Table, display: Display, caption: str, note: str = "", links: Links | None = None,
    tone: Callable[[int], str] | None = None, most: int | None = None,
) -> Grid:  # fmt: skip
    """A table of answers, rounded as for eyes; columns without any value are left out. `most`: so many rows, and how
    many there are."""
    import numpy as np

    count = len(table)
    if most is not None and count > most:
        table = table.rows(np.arange(most))
        note = f"{note} {most} of {count} rows; the tables of `empuje run` have all.".strip()
    empty = [c.name for c in table.columns if count and _empty(c.values)]
    note = note if count else f"None. {note}".strip()
    shown = table.without(empty)
    heads, rows, numeric = rounded(shown, display)
    names = [c.name for c in shown.columns]
    links = links or {}
    cells = tuple(
        tuple(
            Cell(text, links.get((i, name), "") if text != "-" else "") for text, name in zip(row, names, strict=True)
        )
        for i, row in enumerate(rows)
    )
    tones = tuple(tone(i) for i in range(len(cells))) if tone else ()
    return Grid(caption, tuple(heads), cells, tuple(numeric), note, tones)


def _empty(values: Sequence[object] | object) -> bool:
    import numpy as np

    array = np.asarray(values)
    if array.dtype.kind == "f":
        return bool(np.isnan(array).all())
    return all(not str(v) for v in array.tolist())


def plain_grid(
    caption: str, heads: Sequence[str], rows: Sequence[Sequence[str]], numeric: Sequence[bool], note: str = "",
    tones: Sequence[str] = (),
) -> Grid:  # fmt: skip
    """A table of words."""
    cells = tuple(tuple(Cell(text) for text in row) for row in rows)
    return Grid(caption, tuple(heads), cells, tuple(numeric), note, tuple(tones))
