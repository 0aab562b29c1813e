"""Tables as text: for eyes, CSV, JSON and Markdown.

CSV and JSON carry full precision; tables for eyes are rounded to what a structural engineer reads.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.answers.table import Column, Table, leading_only
from ..core.model.findings import visible
from .display import Display
from .layout import Window, aligned, flowing, natural_width

NOTHING = 1e-9
"""Values below this share of the largest of their kind are rounding, and are shown to eyes as 0."""

RUN = ("=", "+", "-", "@", "\t", "\r")
HARMLESS = re.compile(r"-|[+-](?:local )?[xyz]")
"""Of what begins so, our own words: nothing, and directions."""

FOUR_FIGURES = ("factor", "area", "inertia", "warping", "modulus", "pressure")
"""Kinds whose values are shown to four figures each: a section's J is a thousandth of its I."""


def as_text(table: Table, display: Display, style: str) -> str:
    """The table in one of the formats table, csv, json, md."""
    return {"table": for_eyes, "csv": as_csv, "json": as_json, "md": as_markdown}[style](table, display)


def as_csv(table: Table, display: Display) -> str:
    """A table as CSV, with units in the head and full precision."""
    columns = display.convert(table)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(columns)
    cells = (list(map(_no_formula, c)) if isinstance(c, list) else _digits(c) for c in columns.values())
    writer.writerows(zip(*cells, strict=True))
    return out.getvalue()


def _no_formula(text: str) -> str:
    """A spreadsheet program would run what begins so; an apostrophe tells it that this is text."""
    return f"'{text}" if text[:1] in RUN and not HARMLESS.fullmatch(text) else text


def _digits(column: NDArray[np.float64]) -> list[str]:
    """The shortest text that gives back each number, nothing where there is none."""
    import orjson  # ten times as quick at this as Python itself

    text = orjson.dumps(np.ascontiguousarray(column), option=orjson.OPT_SERIALIZE_NUMPY).decode()
    return text[1:-1].replace("null", "").split(",") if len(column) else []


def as_json(table: Table, display: Display) -> str:
    """A table as a JSON list of row objects, keyed by the heads."""
    columns = display.convert(table)
    rows = [
        json.dumps(dict(zip(columns, row, strict=True)), ensure_ascii=False)
        for row in zip(*(plain(c, None) for c in columns.values()), strict=True)
    ]
    return "[\n" + ",\n".join(rows) + "\n]\n" if rows else "[]\n"


def as_markdown(table: Table, display: Display) -> str:
    """A table for a text, rounded as for eyes."""
    heads, rows, numeric = rounded(table, display)
    rule = ["---:" if n else "---" for n in numeric]
    rows = [[escaped(cell) for cell in row] for row in rows]
    return "".join("| " + " | ".join(cells) + " |\n" for cells in [heads, rule, *rows])


def escaped(text: str) -> str:
    r"""Text as Markdown shows it, and no mark of it or of HTML.

    >>> print(escaped("a|b <i>"))
    a\|b &lt;i>
    """
    for mark in ("\\", "|", "`"):
        text = text.replace(mark, "\\" + mark)
    return text.replace("&", "&amp;").replace("<", "&lt;")


def for_eyes(table: Table, display: Display, groups: Sequence[str] = ()) -> str:
    """Aligned columns, fitted to the window where there is one; columns without any number are left out."""
    shown = table.without([c.name for c in table.columns if _empty(c)])
    words = ""
    if display.width is not None and len(table) > 1:
        shown, words = _alike(shown)
    heads, rows, numeric = rounded(shown, display)
    narrow = leading_only(shown)
    if narrow is not None and display.width is not None and natural_width(heads, rows) > display.width:
        heads, rows, numeric = rounded(narrow, display)
        note = "What goes with each is left out to fit the window; --format csv has it."
        words = f"{words}{flowing(note, Window(display.width, 0, False))}\n"
    return aligned(heads, rows, numeric, display.width, groups) + words


def _empty(column: Column) -> bool:
    if column.kind == "text" or not len(column.values):
        return False
    return bool(np.isnan(np.asarray(column.values, float)).all())


def _alike(table: Table) -> tuple[Table, str]:
    """Without how results came about, where that is the same for all: said once instead."""
    for c in table.columns:
        if c.name == "how" and len(set(map(str, c.values))) == 1:
            return table.without(["how"]), f"All {c.values[0]}.\n"
    return table, ""


def plain(column: np.ndarray | list[str], null: object) -> list[Any]:
    """Python values, `null` for what does not exist."""
    if isinstance(column, list):
        return column
    values: list[Any] = column.tolist()
    for i in np.flatnonzero(np.isnan(column)).tolist():
        values[i] = null
    return values


def rounded(table: Table, display: Display) -> tuple[list[str], list[list[str]], list[bool]]:
    """Heads, rows of text, and which columns are numbers; each column with decimals that suit its largest value."""
    sizes = largest(table)
    heads, columns, numeric = [], [], []
    for c in table.columns:
        heads.append(display.head(c))
        numeric.append(c.kind != "text")
        if c.kind == "text":
            columns.append([visible(str(v)) for v in c.values])
            continue
        values = np.asarray(c.values, float)
        if c.name == "relative":
            columns.append(["" if np.isnan(v) else f"{v:.0e}" for v in values])
            continue
        if c.kind in FOUR_FIGURES:
            values = values * display.factor(c.kind)
            columns.append(
                ["-" if np.isnan(v) else f"{v:.0f}" if v >= 1000 else f"{v:#.4g}".rstrip(".") for v in values]
            )
            continue
        small = NOTHING * sizes[c.kind]
        decimals = 0 if c.kind == "count" else decimals_for(sizes[c.kind] * display.factor(c.kind))
        columns.append([number(0.0 if abs(v) <= small else v * display.factor(c.kind), decimals) for v in values])
    return heads, [list(r) for r in zip(*columns, strict=True)], numeric


def largest(table: Table) -> dict[str, float]:
    """The largest value of each kind, in SI."""
    out: dict[str, float] = {}
    for c in table.columns:
        if c.kind != "text":
            values = np.abs(np.asarray(c.values, float))
            top = float(np.nanmax(values)) if len(values) and not np.isnan(values).all() else 0.0
            out[c.kind] = max(out.get(c.kind, 0.0), top)
    return out


def decimals_for(largest: float) -> int:
    """Decimals that show six figures of the largest value, at most three."""
    if not largest > 0:
        return 0
    return int(np.clip(5 - np.floor(np.log10(largest)), 0, 3))


def number(value: float, decimals: int) -> str:
    """A number for eyes; a dash where there is none."""
    if np.isnan(value):
        return "-"
    text = f"{value:.{decimals}f}"
    return text.removeprefix("-") if not text.strip("-0.") else text
