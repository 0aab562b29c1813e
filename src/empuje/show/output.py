"""Files out: whole or not at all, the same bytes for the same input, and never in place of somebody else's."""

from __future__ import annotations

import os
import secrets
import sqlite3
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path

from ..core.answers.table import Table
from ..files.written import is_ours, remember
from .display import Display
from .tables import plain


class NotWritten(OSError):
    """The output could not be put in place; what was there before is untouched."""


def check_file(path: Path, inputs: Iterable[Path] = (), force: bool = False) -> None:
    """Raises NotWritten where a file may not be written to this path: over one of the inputs, over what is no plain
    file, and unless `force` over one that we did not write, or that was changed since."""
    try:
        there = target_of(path)
        if not there.exists():
            return
        for one in inputs:
            if one.exists() and there.samefile(one):
                raise NotWritten(f"{path} is read by this very command; name another file with -o")
        _refuse_no_file(path, there)
        if not os.access(there, os.W_OK):
            raise NotWritten(f"{path} is write-protected; name another file with -o")
        if not force and not is_ours(there):
            raise NotWritten(f"{path} is there already, and not as this tool wrote it; --force replaces it")
    except NotWritten:
        raise
    except (OSError, ValueError) as error:
        raise NotWritten(f"{path} cannot be written: {_why(error)}") from error


def target_of(path: Path) -> Path:
    """The file or folder a path stands for: a link is followed, never replaced. Raises ValueError where it is no
    path."""
    if "\0" in str(path):
        raise ValueError("a path cannot hold a null character")
    return path.resolve() if path.is_symlink() else path


def _refuse_no_file(path: Path, there: Path) -> None:
    if not there.is_file():
        what = "a folder" if there.is_dir() else "no plain file"
        raise NotWritten(f"{path} is {what}; name another file with -o")


def _why(error: Exception) -> str:
    return (error.strerror if isinstance(error, OSError) else "") or str(error)


def write_whole(path: Path, make: Callable[[Path], None]) -> None:
    """Let `make` write a file beside `path`, then put it in place; a file that is replaced keeps its permissions, a new
    one gets the usual ones. Raises NotWritten."""
    try:
        there = target_of(path)
        if there.exists():
            _refuse_no_file(path, there)
        there.parent.mkdir(parents=True, exist_ok=True)
        beside = there.with_name(f".{secrets.token_hex(6)}{there.suffix}")
        mode = there.stat().st_mode & 0o777 if there.exists() else None
        beside.touch(exist_ok=False)
    except NotWritten:
        raise
    except (OSError, ValueError) as error:
        raise NotWritten(f"{path} cannot be written: {_why(error)}") from error
    try:
        usual = beside.stat().st_mode & 0o777
        make(beside)
        beside.chmod(usual if mode is None else mode)
        beside.replace(there)
    except OSError as error:
        raise NotWritten(f"{path} cannot be written: {_why(error)}") from error
    finally:
        beside.unlink(missing_ok=True)
    remember(there)


def write_text(path: Path, text: str) -> None:
    """Writes a file of text, whole or not at all."""

    def make(beside: Path) -> None:
        beside.write_text(text, encoding="utf-8", newline="\n")

    write_whole(path, make)


def write_bytes(path: Path, content: bytes) -> None:
    """Writes a file, whole or not at all."""

    def make(beside: Path) -> None:
        beside.write_bytes(content)

    write_whole(path, make)


def write_sqlite(path: Path, tables: Sequence[Table], display: Display) -> None:
    """One SQLite file with a table for each answer, units in the column names."""
    path.unlink(missing_ok=True)
    database = sqlite3.connect(path)
    try:
        for table in tables:
            columns = display.convert(table)
            heads = ", ".join(f'"{h}" {"TEXT" if isinstance(c, list) else "REAL"}' for h, c in columns.items())
            name = table.name.replace("-", "_")
            database.execute(f'CREATE TABLE "{name}" ({heads})')
            rows = zip(*(plain(c, None) for c in columns.values()), strict=True)
            database.executemany(f'INSERT INTO "{name}" VALUES ({", ".join("?" * len(columns))})', rows)
        database.commit()
    finally:
        database.close()
