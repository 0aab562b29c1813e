"""Tables and files out: claimed before the work begins, written whole."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING, Protocol

from . import Refusal, flags, saying

if TYPE_CHECKING:
    from ..core.answers.table import Table
    from ..show.display import Display


def claim(output: str | None, arguments: argparse.Namespace, inputs: Iterable[Path] = ()) -> None:
    """Refuses, before any work is done, a file that may not be written."""
    from ..show.output import NotWritten, check_file

    if output is None:
        return
    try:
        check_file(Path(output), inputs, arguments.force)
    except NotWritten as error:
        raise Refusal(str(error)) from None


def width(arguments: argparse.Namespace) -> int | None:
    """The window's width, where a table for eyes goes to one."""
    from ..show.layout import window

    there = window()
    to_window = getattr(arguments, "output", None) is None and getattr(arguments, "format", None) in (None, "table")
    return there.width if there is not None and to_window else None


class Showing(Protocol):
    """What a table needs beside itself: its units, and the results without an answer."""

    @property
    def display(self) -> Display:
        """Units, and the width there is."""

    @property
    def failed(self) -> Sequence[str]:
        """Names of results without an answer."""


@dataclass
class Shown:
    """What a table needs that comes from no model: its units."""

    display: Display
    failed: tuple[str, ...] = ()


def put(
    table: Table, model: Showing, arguments: argparse.Namespace, text: str | Callable[[Table], str] | None = None,
    unseen: Sequence[str] = (), drawings: Sequence[tuple[str, bytes]] = (),
) -> None:  # fmt: skip
    """A table to standard output or to a file, results without an answer first. For eyes `text` replaces it, or what it
    makes of the rows asked for, or it goes without `unseen` columns. A workbook has `drawings` (PNG, by name) too."""
    from ..core.answers.table import failed_first
    from ..core.model.findings import listed
    from ..show.tables import as_text

    if picked(arguments):
        table, text = _picked(table, model.display, arguments), text if callable(text) else None
    style = style_of(arguments)
    if callable(text):
        text = text(table) if style == "table" else None
    if text is not None and model.failed:
        text = f"No answer: {listed(model.failed)}\n\n{text}"
    table = failed_first(table, model.failed)
    if style == "xlsx":
        put_workbook(table, model, arguments.output, drawings)
        return
    if style == "table":
        table = table.without(unseen)
    body = text if text is not None and style == "table" else as_text(table, model.display, style)
    put_text(body, arguments.output)


def picked(arguments: argparse.Namespace) -> bool:
    """Whether some rows are asked for, or another order."""
    return bool(arguments.sort or arguments.rising) or arguments.rows is not None


def _picked(table: Table, display: Display, arguments: argparse.Namespace) -> Table:
    """In the order and number asked for."""
    import numpy as np

    from ..core.model.findings import did_you_mean

    if arguments.sort:
        by_head = {display.head(c): c for c in table.columns} | {c.name: c for c in table.columns}
        column = by_head.get(arguments.sort)
        if column is None:
            known = [c.name for c in table.columns]
            raise Refusal(f"--sort: there is no column {arguments.sort}; {did_you_mean(arguments.sort, known)}")
        values = np.asarray(column.values)
        if column.kind == "text":
            key = values.astype(str)
        elif arguments.rising:
            key = values.astype(float)  # what has no value comes last
        else:
            key = -np.abs(np.nan_to_num(values.astype(float)))
        table = table.rows(np.argsort(key, kind="stable"))
    elif arguments.rising:
        raise Refusal("--rising goes with --sort")
    if arguments.rows is not None:
        if arguments.rows < 1:
            raise Refusal("--rows: give a number from 1 on")
        if arguments.rows < len(table):
            saying.say(f"{arguments.rows} of {len(table)} rows")
        table = table.rows(np.arange(min(arguments.rows, len(table))))
    return table


def put_workbook(
    table: Table, model: Showing, output: str | None, drawings: Sequence[tuple[str, bytes]] = ()
) -> None:  # fmt: skip
    from ..show.output import NotWritten
    from ..show.workbook import write_workbook

    if output is None:
        raise Refusal("--format xlsx: a workbook goes to a file; name one with -o")
    try:
        write_workbook(Path(output), table, model.display, drawings)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    saying.say(f"wrote {output}")


def put_text(body: str, output: str | None) -> None:
    from ..show.output import NotWritten, write_text

    if output is None:
        _write_or_page(body)
        return
    try:
        write_text(Path(output), body)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    saying.say(f"wrote {output}")


def _write_or_page(body: str) -> None:
    """What is longer than the window is paged there."""
    from ..show.layout import window

    there = window()
    if there is None or body.count("\n") < there.height or not sys.stdin.isatty():
        sys.stdout.write(body)
        return
    import pydoc

    os.environ.setdefault("LESS", "FRX")
    pydoc.pager(body)


def style_of(arguments: argparse.Namespace, more: Mapping[str, str] = MappingProxyType({})) -> str:
    """The format asked for, by name or by a file's ending; `more`: formats by endings that few commands have."""
    if arguments.format:
        return str(arguments.format)
    ending = Path(arguments.output).suffix.lower().removeprefix(".") if arguments.output else ""
    if ending in more:
        return more[ending]
    if ending in ("", "txt"):
        return "table"
    if ending not in flags.FORMATS:
        known = ", ".join(f".{word}" for word in (*flags.FORMATS[1:], *more))
        raise Refusal(f"-o {arguments.output}: unknown format: .{ending}; use {known} or .txt, or --format")
    return ending
