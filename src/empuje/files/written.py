"""Which files we wrote and nobody has changed since: only those are replaced without being asked to.

A list of paths and digests in the user's cache folder; where it is gone, files count as others' again.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
from pathlib import Path

from .store import folder, put

LIST = "written.json"
MOST = 2_000
"""Files that are remembered, the latest ones."""


def digest_of(path: Path) -> str:
    """Of the bytes of a file. Raises OSError."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def is_ours(path: Path) -> bool:
    """Whether we wrote the file as it is."""
    try:
        return _known().get(str(path.resolve())) == digest_of(path)
    except OSError:
        return False


def remember(path: Path) -> None:
    """That we wrote it; where nothing can be kept it is forgotten."""
    where = folder()
    if where is None:
        return
    with contextlib.suppress(OSError):
        known = _known()
        name = str(path.resolve())
        known.pop(name, None)
        known[name] = digest_of(path)
        latest = json.dumps(dict(list(known.items())[-MOST:])).encode()
        put(where / LIST, lambda file: file.write(latest))


def _known() -> dict[str, str]:
    where = folder()
    try:
        known = json.loads((where / LIST).read_text(encoding="utf-8")) if where is not None else {}
    except (OSError, ValueError):
        return {}
    return known if isinstance(known, dict) else {}
