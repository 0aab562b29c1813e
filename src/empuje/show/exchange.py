"""A folder of results put in place of the one before, whole or not at all, whatever happens in between.

The new folder is filled beside the old one, `.NAME-xxxxxx`, and changes places with it in one step where the system
has such a step. Where it has none, the old one is first renamed to `.NAME-xxxxxx-old`: whoever finds that, and no
folder NAME, comes after a run that was killed in between, and puts it back. Whoever fills a folder holds a lock beside
it; what nobody holds any more is what a killed run left, and goes.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import re
import secrets
import shutil
import signal
import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import IO

from ..files.kept.written import digest_of
from .output import NotWritten, target_of

CONTENTS = "contents.txt"
"""The list of what we wrote into a results folder, with digests; only a folder that holds just that is replaced."""
LOCK, OLD = ".lock", "-old"


def check_folder(folder: Path) -> None:
    """Puts right what an interrupted run left. Raises NotWritten where the folder is not ours to replace: it may be
    absent, empty, or hold nothing but results as we wrote them."""
    try:
        there = target_of(folder)
        if not folder.name or folder.resolve() == folder.resolve().parent:
            raise NotWritten(f"{folder} has no name of its own; name a folder for the results with -o")
        if folder.is_symlink() and not folder.exists():
            raise NotWritten(f"{folder} is a link to nothing; name another folder with -o")
        _recover(there)
        if not there.exists():
            return
        if not folder.is_dir():
            raise NotWritten(f"{folder} is a file; name another folder with -o")
        foreign = _not_ours(folder)
        if foreign:
            raise NotWritten(f"{folder} holds {foreign}; move it, or name another folder with -o")
    except NotWritten:
        raise
    except (OSError, ValueError) as error:
        raise NotWritten(f"{folder} cannot be written: {error}") from error


def write_folder(folder: Path, make: Callable[[Path], None]) -> None:
    """Let `make` fill a folder beside `folder`, then put it in place of the old one.

    Only what `check_folder` allows is replaced. Raises NotWritten.
    """
    check_folder(folder)
    folder = target_of(folder)
    beside = folder.with_name(f".{folder.name}-{secrets.token_hex(3)}")
    try:
        folder.parent.mkdir(parents=True, exist_ok=True)
        with _held(beside.with_name(beside.name + LOCK)):
            try:
                beside.mkdir()
                make(beside)
                lines = [f"{digest_of(beside / name)}  {name}" for name in _files_in(beside)]
                (beside / CONTENTS).write_text("\n".join(lines) + "\n", encoding="utf-8", newline="\n")
                check_folder(folder)  # what came into it meanwhile
                with _undisturbed():
                    _exchange(beside, folder)
            finally:
                with _undisturbed():
                    shutil.rmtree(beside, ignore_errors=True)
    except NotWritten:
        raise
    except OSError as error:
        raise NotWritten(f"{folder} cannot be written: {error.strerror or error}") from error


def _exchange(new: Path, folder: Path) -> None:
    """The new folder in place of the one there is, which goes."""
    if not folder.exists():
        new.rename(folder)
        return
    if not _swapped(new, folder):
        old = new.with_name(new.name + OLD)
        folder.rename(old)
        try:
            new.rename(folder)
        except OSError:
            old.rename(folder)
            raise
        shutil.rmtree(old, ignore_errors=True)


def _swapped(one: Path, other: Path) -> bool:
    """Lets two folders change places in one step; False where the system has no such step."""
    names = os.fsencode(one), os.fsencode(other)
    try:
        if sys.platform == "linux":
            call = ctypes.CDLL(None, use_errno=True).renameat2
            return bool(call(-100, names[0], -100, names[1], 2) == 0)  # AT_FDCWD, RENAME_EXCHANGE
        if sys.platform == "darwin":
            return bool(ctypes.CDLL(None, use_errno=True).renamex_np(*names, 2) == 0)  # RENAME_SWAP
    except (AttributeError, OSError):
        pass
    return False


@contextlib.contextmanager
def _undisturbed() -> Iterator[None]:
    """What takes a moment and must not be left half done waits for no Ctrl-C."""
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.signal(signal.SIGINT, signal.SIG_IGN)
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, before)


@contextlib.contextmanager
def _held(lock: Path) -> Iterator[None]:
    """Holds a lock as long as the process lives."""
    with lock.open("w") as file:
        _locked(file)
        try:
            yield
        finally:
            with contextlib.suppress(OSError):
                lock.unlink()


def _locked(file: IO[str]) -> bool:
    """Whether the file's lock is ours now."""
    try:
        if sys.platform == "win32":
            import msvcrt

            msvcrt.locking(file.fileno(), msvcrt.LK_NBLCK, 1)
        else:
            import fcntl

            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def _recover(folder: Path) -> None:
    """Puts back what an interrupted exchange took away, and removes what runs left that were killed."""
    mine = re.compile(re.escape(f".{folder.name}-") + "[0-9a-f]{6}")
    if not folder.parent.is_dir():
        return
    for lock in [p for p in folder.parent.iterdir() if p.suffix == LOCK and mine.fullmatch(p.stem)]:
        with contextlib.suppress(OSError), lock.open("a") as file:
            if not _locked(file):
                continue  # a run that is at work
            beside = lock.with_name(lock.stem)
            old = lock.with_name(lock.stem + OLD)
            if old.exists() and not folder.exists():
                old.rename(folder)
            for left in (beside, old):
                shutil.rmtree(left, ignore_errors=True)
            lock.unlink(missing_ok=True)


def _files_in(folder: Path) -> list[str]:
    return sorted(p.relative_to(folder).as_posix() for p in folder.rglob("*") if not p.is_dir() or p.is_symlink())


def _not_ours(folder: Path) -> str:
    """What is in the folder that an earlier run did not write so, if there is anything."""
    ours = {}
    try:
        for line in (folder / CONTENTS).read_text(encoding="utf-8").splitlines():
            digest, _, name = line.partition("  ")
            ours[name] = digest
    except (OSError, ValueError):
        ours = {}
    for name in _files_in(folder):
        if name == CONTENTS and ours:
            continue
        if name not in ours:
            return f"{name}, which is not a result"
        if ours[name] != digest_of(folder / name):
            return f"{name}, which was changed since it was written"
    return ""
