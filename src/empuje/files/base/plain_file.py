"""Files in: plain ones, no larger than they may be, read once."""

from __future__ import annotations

import stat
from pathlib import Path


class NoPlainFile(OSError):
    """What is there is no plain file, or larger than it may be."""


def bytes_in(path: Path, most: int) -> bytes:
    """What a plain file of at most so many bytes holds. Raises NoPlainFile, and OSError where it cannot be read.

    A pipe or a device would be waited for without end: what it is, is asked before it is opened.
    """
    kind = path.stat().st_mode
    if stat.S_ISDIR(kind):
        raise NoPlainFile("is a folder")
    if not stat.S_ISREG(kind):
        raise NoPlainFile("is not a plain file, but a pipe or a device")
    with path.open("rb") as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise NoPlainFile(f"is larger than {most // 1_000_000} MB")
    return data
