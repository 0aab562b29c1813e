"""Files out: whole or not at all, the same bytes for the same input, and never in place of somebody else's."""

from __future__ import annotations

import contextlib
import os
import secrets
import sqlite3
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path

from ..core.answers.table import Table
from ..files.kept.written import is_ours, remember
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
    write_together({path: make})


def write_together(files: Mapping[Path, Callable[[Path], None]]) -> None:
    """Several files that belong together: all are written beside their places before the first is put there, and where
    one cannot be, those before it are as they were. Raises NotWritten."""
    staged: list[tuple[Path, Path, Path]] = []
    put: list[tuple[Path, Path | None]] = []
    path = Path()
    try:
        for path, make in files.items():
            there, beside = _beside(path)
            staged.append((path, there, beside))
            mode = there.stat().st_mode & 0o777 if there.exists() else beside.stat().st_mode & 0o777
            make(beside)
            beside.chmod(mode)
        for path, there, beside in staged:  # noqa: B007 (told where it fails)
            before = None
            if len(staged) > 1 and there.exists():
                before = there.with_name(f".{secrets.token_hex(6)}{there.suffix}")
                try:
                    before.hardlink_to(there)
                except OSError:  # where the system has no such links
                    there.replace(before)
            put.append((there, before))
            beside.replace(there)
    except (OSError, ValueError) as error:
        for there, before in reversed(put):
            with contextlib.suppress(OSError):
                before.replace(there) if before is not None else there.unlink(missing_ok=True)
                if before is not None:  # a second link to what is there is not moved
                    before.unlink(missing_ok=True)
        put.clear()
        if isinstance(error, NotWritten):
            raise
        raise NotWritten(f"{path} cannot be written: {_why(error)}") from error
    finally:
        for left in (*(beside for _, _, beside in staged), *(before for _, before in put if before is not None)):
            with contextlib.suppress(OSError):
                left.unlink(missing_ok=True)
    for _, there, _ in staged:
        remember(there)


def _beside(path: Path) -> tuple[Path, Path]:
    """Where a file is to be, links followed, and an empty one beside it."""
    there = target_of(path)
    if there.exists():
        _refuse_no_file(path, there)
    there.parent.mkdir(parents=True, exist_ok=True)
    beside = there.with_name(f".{secrets.token_hex(6)}{there.suffix}")
    beside.touch(exist_ok=False)
    return there, beside


def of_text(text: str) -> Callable[[Path], None]:
    """What writes a file of text."""

    def make(beside: Path) -> None:
        beside.write_text(text, encoding="utf-8", newline="\n")

    return make


def write_text(path: Path, text: str) -> None:
    """Writes a file of text, whole or not at all."""
    write_whole(path, of_text(text))


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
