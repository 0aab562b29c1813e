"""A model as it was at a revision of its version control (git), with the files beside it."""

from __future__ import annotations

import io
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath

READ = (".toml", ".csv", ".xlsx")
"""What models read; nothing else is taken out of a revision."""
MOST_BYTES = 512_000_000
PATIENCE = 60


class NoRevision(ValueError):
    """The model cannot be had at that revision; the message says why and what to do."""


@contextmanager
def at_revision(model: Path, revision: str) -> Iterator[Path]:
    """The path of the model as it was, in a folder that goes away again. Raises NoRevision."""
    folder = model.resolve().parent
    commit = _git(folder, "rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}").strip()
    if not commit:
        raise NoRevision(f"there is no revision {revision}; `git log --oneline` lists them")
    tar = _git_bytes(folder, "archive", "--format=tar", commit.decode(), ".")
    if not tar:
        raise NoRevision(f"{folder.name} was not there at {revision}")
    with tempfile.TemporaryDirectory(prefix="empuje-") as place:
        _unpack(tar, Path(place))
        old = Path(place) / model.name
        if not old.is_file():
            raise NoRevision(f"{model.name} was not there at {revision}; name the file it came from: diff OLD NEW")
        yield old


def _unpack(tar: bytes, place: Path) -> None:
    """The files that models read, inside the place and nowhere else."""
    left = MOST_BYTES
    with tarfile.open(fileobj=io.BytesIO(tar)) as archive:
        for entry in archive:
            path = PurePosixPath(entry.name)
            if not entry.isfile() or path.suffix.lower() not in READ or path.is_absolute() or ".." in path.parts:
                continue
            left -= entry.size
            if left < 0:
                raise NoRevision(f"the revision has more than {MOST_BYTES // 1_000_000} MB of model files and tables")
            content = archive.extractfile(entry)
            assert content is not None
            there = place.joinpath(*path.parts)
            there.parent.mkdir(parents=True, exist_ok=True)
            there.write_bytes(content.read())


def _git(folder: Path, *words: str) -> bytes:
    return _run(folder, words)[1]


def _git_bytes(folder: Path, *words: str) -> bytes:
    code, out = _run(folder, words)
    return out if code == 0 else b""


def _run(folder: Path, words: tuple[str, ...]) -> tuple[int, bytes]:
    """Raises NoRevision where git is not there, or the folder is under no version control."""
    try:
        inside = subprocess.run(["git", "-C", str(folder), "rev-parse", "--is-inside-work-tree"], capture_output=True,
                                timeout=PATIENCE, check=False)  # fmt: skip
        done = subprocess.run(["git", "-C", str(folder), *words], capture_output=True, timeout=PATIENCE, check=False)
    except FileNotFoundError:
        raise NoRevision("git is not on this machine; compare two files: diff OLD NEW") from None
    except subprocess.TimeoutExpired:
        raise NoRevision(f"git did not answer within {PATIENCE} s") from None
    if inside.returncode:
        raise NoRevision(f"{folder} is under no version control of git; compare two files: diff OLD NEW")
    return done.returncode, done.stdout
