"""Columns of text laid out: as wide as they are where nothing limits them, or fitted to a window.

In a window words wrap at blanks and numbers never do; where that is not enough the least needed columns are left out,
and that is said.
"""

from __future__ import annotations

import os
import re
import shutil
import sys
import textwrap
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal, TextIO

if TYPE_CHECKING:
    from rich.console import RenderableType

GAP = 2
LEAST_NEEDED = (
    "along", "required", "relative", "alpha 3", "alpha 2", "how", "set", "source", "place", "at", "line", "made of",
    "written as", "derivation", "area", "area below", "z [m]", "z [ft]", "u first", "u second", "Mz", "T", "Mx", "rz",
    "rx", "ry", "drift y/h [1/1000]", "drift x/h [1/1000]",
)  # fmt: skip
"""Columns that are left out first, in this order; after them the last ones."""
ANSWERS = ("force", "moment", "displacement", "rotation")
"""The value that a row is about is never left out."""
KEPT = 3
"""So many columns at the left are never left out."""
SHORT = 22
"""Cells up to this width do not wrap."""
LONG_WORD = 34
"""Words up to this length are not cut."""


@dataclass(frozen=True)
class Window:
    """A terminal: columns and rows of characters, and whether it shows colours."""

    width: int
    height: int
    colour: bool


def window(stream: TextIO | None = None) -> Window | None:
    """The terminal that a stream, by default standard output, goes to; None where it goes elsewhere."""
    if not (stream or sys.stdout).isatty():
        return None
    size = shutil.get_terminal_size()
    return Window(size.columns, size.lines, "NO_COLOR" not in os.environ and os.environ.get("TERM") != "dumb")


COLOURS = {"error": "31", "warning": "33", "note": "36"}
"""Of the levels of findings, beside their names [SGR, ECMA-48]."""
LEVEL = re.compile(r"(?:(?<=: )|^)(error|warning|note)(?=[\[:])")


def flowing(text: str, there: Window | None) -> str:
    """Sentences, wrapped at blanks in a window, and levels of findings coloured there; elsewhere as they are."""
    if there is None:
        return text
    lines = [
        line if len(line) <= there.width or line.startswith(" ") else textwrap.fill(
            line, there.width, subsequent_indent="  ", break_long_words=False, break_on_hyphens=False
        )
        for line in text.split("\n")
    ]  # fmt: skip
    out = "\n".join(lines)
    return LEVEL.sub(lambda m: f"\x1b[{COLOURS[m[1]]}m{m[1]}\x1b[0m", out, count=1) if there.colour else out


def aligned(
    heads: Sequence[str], rows: Sequence[Sequence[str]], numeric: Sequence[bool], width: int | None = None,
    groups: Sequence[str] = (),
) -> str:  # fmt: skip
    """Text columns to the left, numbers to the right, a rule under the heads, in a window's width where one is given.

    `groups`: a blank line stands where the next row's differs.
    """
    natural = _natural(heads, rows)
    breaks = [i > 0 and groups[i] != groups[i - 1] for i in range(len(rows))] if groups else [False] * len(rows)
    if width is None or sum(natural) + GAP * (len(natural) - 1) <= width:
        return _plain(heads, rows, numeric, natural, breaks)
    least = [
        size if is_number or size <= SHORT else max(_longest_word([head, *(r[i] for r in rows)]), min(size, 8))
        for i, (head, size, is_number) in enumerate(zip(heads, natural, numeric, strict=True))
    ]
    kept = _that_fit(heads, least, width)
    left_out = [h for i, h in enumerate(heads) if i not in kept]
    text = _wrapped(
        [heads[i] for i in kept], [[r[i] for i in kept] for r in rows], [numeric[i] for i in kept],
        _shared_out([least[i] for i in kept], [natural[i] for i in kept], width), breaks,
    )  # fmt: skip
    if left_out:
        words = f"Left out to fit the window: {', '.join(left_out)}; --format csv has them."
        text += flowing(words, Window(width, 0, False)) + "\n"
    return text


def _shared_out(least: Sequence[int], natural: Sequence[int], width: int) -> list[int]:
    """Widths of columns: what is left over goes to those first that need least of it."""
    out, spare = list(least), width - sum(least) - GAP * (len(least) - 1)
    for i in sorted(range(len(out)), key=lambda i: natural[i] - least[i]):
        more = max(0, min(spare, natural[i] - least[i]))
        out[i] += more
        spare -= more
    return out


def _natural(heads: Sequence[str], rows: Sequence[Sequence[str]]) -> list[int]:
    return [max([len(h), *(len(r[i]) for r in rows)]) for i, h in enumerate(heads)]


def natural_width(heads: Sequence[str], rows: Sequence[Sequence[str]]) -> int:
    """How wide a table is where nothing limits it."""
    return sum(_natural(heads, rows)) + GAP * (len(heads) - 1)


def _cell(words: str) -> RenderableType:
    """What is set in stays so where it wraps."""
    from rich.padding import Padding
    from rich.text import Text

    bare = words.lstrip()
    return Padding(Text(bare), (0, 0, 0, len(words) - len(bare))) if len(bare) < len(words) else Text(words)


def _longest_word(cells: Sequence[str]) -> int:
    return min(max((len(word) for cell in cells for word in cell.split()), default=0), LONG_WORD)


def _that_fit(heads: Sequence[str], least: Sequence[int], width: int) -> list[int]:
    """The columns that fit, the least needed left out one by one."""
    names = [h.split(" [")[0] for h in heads]
    order = [i for least_needed in LEAST_NEEDED for i, h in enumerate(heads) if least_needed in (h, names[i])]
    order += [i for i in range(len(heads) - 1, KEPT - 1, -1) if i not in order and names[i] not in ANSWERS]
    kept = list(range(len(heads)))
    for i in order:
        if sum(least[k] for k in kept) + GAP * (len(kept) - 1) <= width:
            break
        kept.remove(i)
    return kept


def _plain(
    heads: Sequence[str], rows: Sequence[Sequence[str]], numeric: Sequence[bool], widths: Sequence[int],
    breaks: Sequence[bool],
) -> str:  # fmt: skip
    def line(cells: Sequence[str]) -> str:
        parts = (c.rjust(w) if n else c.ljust(w) for c, w, n in zip(cells, widths, numeric, strict=True))
        return "  ".join(parts).rstrip() + "\n"

    body = "".join(("\n" if gap else "") + line(r) for r, gap in zip(rows, breaks, strict=True))
    return line(heads) + "  ".join("-" * w for w in widths) + "\n" + body


def _wrapped(
    heads: Sequence[str], rows: Sequence[Sequence[str]], numeric: Sequence[bool], widths: Sequence[int],
    breaks: Sequence[bool],
) -> str:  # fmt: skip
    import io

    from rich.box import Box
    from rich.console import Console
    from rich.table import Table
    from rich.text import Text

    headed = Box("\n".join(["    ", "    ", " -- ", "    ", "    ", "    ", "    ", "    "]) + "\n", ascii=True)
    table = Table(box=headed, padding=(0, GAP - 1, 0, 0), pad_edge=False, header_style="", show_edge=False)
    for head, is_number, size in zip(heads, numeric, widths, strict=True):
        side: Literal["left", "right"] = "right" if is_number else "left"
        table.add_column(Text(head), justify=side, no_wrap=is_number, width=size, overflow="fold")
    for cells, gap in zip(rows, breaks, strict=True):
        if gap:
            table.add_row()
        table.add_row(*map(_cell, cells))
    out = io.StringIO()
    # Between columns stand their padding and the box's own blank.
    whole = sum(widths) + GAP * (len(widths) - 1)
    Console(file=out, width=whole, color_system=None, legacy_windows=False).print(table)
    return "\n".join(line.rstrip() for line in out.getvalue().splitlines()) + "\n"
