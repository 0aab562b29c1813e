"""Solved models kept in the user's cache folder, so that the next question to an unchanged model need not solve it.

An entry is a file of plain arrays, named by the digest of everything it came from: all files read, what was asked, our
version and our own files. It holds its name and a digest of its contents. It appears whole or not at all; one that
cannot be read, or is not what it says, is taken for none; the oldest go when all together are too large. EMPUJE_CACHE
names another folder; empty, nothing is kept.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import sys
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Mapping
from functools import cache
from importlib.metadata import version
from importlib.resources import files
from pathlib import Path
from typing import IO, Any, TypeVar

import numpy as np
from numpy.typing import NDArray

LARGEST, ALL = 400_000_000, 2_000_000_000
"""Bytes of one entry, and of all together."""
ENDING = ".npz"
Arrays = Mapping[str, NDArray[Any]]
T = TypeVar("T")


def folder() -> Path | None:
    """Where entries are kept; None where nothing is."""
    named = os.environ.get("EMPUJE_CACHE")
    if named is not None:
        return Path(named) if named else None
    from platformdirs import user_cache_dir

    return Path(user_cache_dir("empuje", appauthor=False))


@cache
def _ourselves() -> bytes:
    """A digest of our own files and of what computes beside them: with other code, what was kept is another's."""
    digest = hashlib.sha256()
    root = Path(str(files("empuje")))
    for path in sorted(root.rglob("*")):
        if path.suffix in (".py", ".toml", ".csv", ".txt"):
            digest.update(f"\0{path.relative_to(root).as_posix()}\0".encode())
            digest.update(path.read_bytes())
    versions = [sys.version, *(version(name) for name in COMPUTES)]
    digest.update(repr(versions).encode())
    return digest.digest()


COMPUTES = ("numpy", "scipy", "shapely")
"""Libraries whose versions have a say in what comes out."""


def key_of(read: bytes, *asked: str) -> str:
    """The name of an entry: from the digest of the files read, and what was asked."""
    digest = hashlib.sha256(read + _ourselves())
    for word in asked:
        digest.update(b"\0" + word.encode())
    return digest.hexdigest()[:40]


def load(key: str) -> dict[str, NDArray[Any]] | None:
    """The arrays of an entry; None where there is none that can be read."""
    where = folder()
    path = where / f"{key}{ENDING}" if where is not None else None
    if path is None:
        return None
    try:
        if not path.is_file() or path.stat().st_size > 2 * LARGEST:
            return None
        with path.open("rb") as file, np.load(file, allow_pickle=False) as entry:
            arrays = {name: entry[name] for name in entry.files}
        os.utime(path)
    except (OSError, ValueError, KeyError, EOFError, MemoryError, NotImplementedError, zipfile.BadZipFile, zlib.error):
        return None
    proof = arrays.pop(PROOF, None)
    return arrays if proof is not None and str(proof) == _proof(key, arrays) else None


PROOF = "of-this-entry"


def _proof(key: str, arrays: Arrays) -> str:
    """A digest of an entry's name, and of the names, kinds, shapes and contents of its arrays."""
    digest = hashlib.blake2b(key.encode(), digest_size=20)
    for name in sorted(arrays):
        a = np.ascontiguousarray(arrays[name])
        digest.update(f"\0{name} {a.dtype.str} {a.shape}\0".encode())
        digest.update(a.tobytes() if a.dtype.kind == "U" else a.data.cast("B") if a.size else b"")
    return digest.hexdigest()


def put(path: Path, write: Callable[[IO[bytes]], object]) -> None:
    """Lets `write` fill a file of the cache folder, whole or not at all. Raises OSError."""
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, beside = tempfile.mkstemp(prefix=".", suffix=path.suffix, dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            write(file)
        Path(beside).replace(path)
    finally:
        Path(beside).unlink(missing_ok=True)


def save(key: str, arrays: Arrays) -> None:
    """Keeps an entry where that is possible; what goes wrong is no matter of the question that was asked."""
    where = folder()
    if where is None or sum(a.nbytes for a in arrays.values()) > LARGEST:
        return
    proven = {**arrays, PROOF: np.array(_proof(key, arrays))}
    with contextlib.suppress(OSError):
        put(where / f"{key}{ENDING}", lambda file: np.savez(file, **proven))  # type: ignore[arg-type]
        _drop_oldest(where)


def kept_or_made(
    key: str | None, again: Callable[[Arrays], T], made: Callable[[], T], pack: Callable[[T], Arrays]
) -> T:
    """An answer from the arrays that were kept of it; else made, and its arrays kept. Without a key nothing is kept.
    `again` raises KeyError, ValueError, IndexError or TypeError for arrays that are not what they should be."""
    arrays = load(key) if key else None
    if arrays is not None:
        with contextlib.suppress(KeyError, ValueError, IndexError, TypeError):
            return again(arrays)
    found = made()
    if key:
        save(key, pack(found))
    return found


def entries(where: Path | None = None) -> list[tuple[Path, int]]:
    """All entries with their sizes [bytes], the one used longest ago first."""
    where = where or folder()
    found = []
    with contextlib.suppress(OSError):  # a folder that nobody may look into holds nothing for us
        for path in where.glob(f"*{ENDING}") if where is not None and where.is_dir() else ():
            with contextlib.suppress(OSError):
                stat = path.stat()
                found.append((stat.st_mtime_ns, path, stat.st_size))
    return [(path, size) for _, path, size in sorted(found)]


def _drop_oldest(where: Path) -> None:
    found = entries(where)
    total = sum(size for _, size in found)
    for path, size in found:
        if total <= ALL:
            return
        path.unlink(missing_ok=True)
        total -= size


def clear() -> int:
    """Removes every entry; how many there were."""
    found = entries()
    for path, _ in found:
        path.unlink(missing_ok=True)
    return len(found)
