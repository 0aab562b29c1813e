"""Which files we wrote and nobody has changed since: only those are replaced without being asked to.

A small file for each in the user's cache folder, so that processes at the same time do not forget what others wrote;
where it is gone, a file counts as another's again.
"""

from __future__ import annotations

import contextlib
import hashlib
from pathlib import Path

from .store import folder, put

FOLDER = "written"
MOST = 2_000
"""Files that are remembered, the latest ones."""


def digest_of(path: Path) -> str:
    """Of the bytes of a file. Raises OSError."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def is_ours(path: Path) -> bool:
    """Whether we wrote the file as it is."""
    try:
        note = _note(path)
        return note is not None and note.read_text(encoding="utf-8") == digest_of(path)
    except (OSError, ValueError):
        return False


def remember(path: Path) -> None:
    """That we wrote it; where nothing can be kept it is forgotten."""
    with contextlib.suppress(OSError):
        note = _note(path)
        if note is not None:
            digest = digest_of(path).encode()
            put(note, lambda file: file.write(digest))
            _forget_oldest(note.parent)


def _note(path: Path) -> Path | None:
    """The file that holds the digest of another one."""
    where = folder()
    name = hashlib.sha256(str(path.resolve()).encode("utf-8", "surrogatepass")).hexdigest()[:40]
    return where / FOLDER / name if where is not None else None


def _forget_oldest(notes: Path) -> None:
    found = list(notes.iterdir())
    if len(found) <= MOST:
        return
    age = {}
    for note in found:
        with contextlib.suppress(OSError):
            age[note] = note.stat().st_mtime_ns
    for note in sorted(age, key=lambda n: age[n])[: len(age) - MOST]:
        note.unlink(missing_ok=True)
