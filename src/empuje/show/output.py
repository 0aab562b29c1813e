"""Files out: whole or not at all, the same bytes for the same input."""

from __future__ import annotations

import os
import shutil
import sqlite3
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from ..core.answers.table import Table
from .display import Display
from .tables import plain

CONTENTS = "contents.txt"
"""The list of what we wrote into a results folder; only a folder that holds nothing else is ever replaced."""


class NotWritten(OSError):
    """The output could not be put in place; what was there before is untouched."""


def write_whole(path: Path, make: Callable[[Path], None]) -> None:
    """Let `make` write a file beside `path`, then put it in place. Raises NotWritten."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(prefix=".", suffix=path.suffix, dir=path.parent)
    except OSError as error:
        raise NotWritten(f"{path} cannot be written: {error.strerror}") from error
    os.close(handle)
    beside = Path(name)
    try:
        make(beside)
        beside.chmod(0o644)
        beside.replace(path)
    except OSError as error:
        raise NotWritten(f"{path} cannot be written: {error.strerror}") from error
    finally:
        beside.unlink(missing_ok=True)


def write_text(path: Path, text: str) -> None:
    """Writes a file of text, whole or not at all."""

    def make(beside: Path) -> None:
        beside.write_text(text, encoding="utf-8", newline="\n")

    write_whole(path, make)


def check_folder(folder: Path) -> None:
    """Raises NotWritten where the folder is not ours to replace: it may be empty, or hold nothing but results."""
    if folder.exists() and not folder.is_dir():
        raise NotWritten(f"{folder} is a file; name another folder with -o")
    foreign = _not_ours(folder)
    if foreign:
        raise NotWritten(f"{folder} holds {foreign}, which is not a result; move it, or name another folder with -o")


def write_folder(folder: Path, make: Callable[[Path], None]) -> None:
    """Let `make` fill a folder beside `folder`, then put it in place of the old one.

    Only an empty folder or one that holds nothing but our own results is replaced. Raises NotWritten.
    """
    check_folder(folder)
    try:
        folder.parent.mkdir(parents=True, exist_ok=True)
        beside = Path(tempfile.mkdtemp(prefix=f".{folder.name}-", dir=folder.parent))
    except OSError as error:
        raise NotWritten(f"{folder} cannot be written: {error.strerror}") from error
    old = beside.with_name(beside.name + "-old")
    try:
        make(beside)
        (beside / CONTENTS).write_text("\n".join(_files_in(beside)) + "\n", encoding="utf-8", newline="\n")
        beside.chmod(0o755)
        if folder.exists():
            folder.rename(old)
        try:
            beside.rename(folder)
        except OSError:
            if old.exists():
                old.rename(folder)
            raise
    except OSError as error:
        raise NotWritten(f"{folder} cannot be written: {error.strerror or error}") from error
    finally:
        shutil.rmtree(beside, ignore_errors=True)
        if folder.exists():
            shutil.rmtree(old, ignore_errors=True)


def _files_in(folder: Path) -> list[str]:
    return sorted(p.relative_to(folder).as_posix() for p in folder.rglob("*") if not p.is_dir())


def _not_ours(folder: Path) -> str:
    """A file in the folder that an earlier run did not write, if there is one."""
    if not folder.exists():
        return ""
    listed = folder / CONTENTS
    ours = {CONTENTS, *listed.read_text(encoding="utf-8").split("\n")} if listed.is_file() else set()
    return next((name for name in _files_in(folder) if name not in ours), "")


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
