"""A model as it was at a revision of its version control (git), with the files beside it.

Objects are read as they are stored: no filter, hook, attribute or remote of the repository has a say in it.
"""

from __future__ import annotations

import os
import subprocess
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

READ = (".toml", ".csv", ".xlsx")
"""What models read; nothing else is taken out of a revision."""
MOST_BYTES = 512_000_000
PATIENCE = 60
LINK, DEEPEST = "120000", 8
"""The mode of links, and how many may follow one another."""
ALONE = ("-c", "core.fsmonitor=false", "-c", "core.hooksPath=", "-c", "protocol.allow=never", "--no-replace-objects")
SILENT = {"GIT_NO_LAZY_FETCH": "1", "GIT_TERMINAL_PROMPT": "0", "GIT_OPTIONAL_LOCKS": "0"}


class NoRevision(ValueError):
    """The model cannot be had at that revision; the message says why and what to do."""


@dataclass(frozen=True)
class _Stored:
    """An entry of a folder at a revision: mode, name of the object, and its size [bytes]."""

    mode: str
    name: str
    size: int


@contextmanager
def at_revision(model: Path, revision: str) -> Iterator[Path]:
    """The path of the model as it was, in a folder that goes away again. Raises NoRevision."""
    if not revision.strip():
        raise NoRevision("name a revision, such as HEAD or a tag")
    folder = model.resolve().parent
    if _git(folder, "rev-parse", "--is-inside-work-tree")[0]:
        raise NoRevision(f"{folder} is under no version control of git; compare two files: diff OLD NEW")
    _, said = _git(folder, "rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}")
    commit = said.decode("ascii", "replace").strip()
    if not commit:
        raise NoRevision(f"there is no revision {revision}; `git log --oneline` lists them")
    code, listing = _git(folder, "ls-tree", "-r", "-z", "-l", commit, ".")
    stored = dict(_listed(listing)) if code == 0 else {}
    if not stored:
        raise NoRevision(f"{folder.name} was not there at {revision}")
    with tempfile.TemporaryDirectory(prefix="empuje-") as place:
        _unpack(folder, stored, Path(place))
        old = Path(place) / model.name
        if not old.is_file():
            raise NoRevision(f"{model.name} was not there at {revision}; name the file it came from: diff OLD NEW")
        yield old


def _listed(listing: bytes) -> Iterator[tuple[PurePosixPath, _Stored]]:
    """Files and links below the folder, by their paths in it."""
    for row in listing.split(b"\0"):
        head, _, path = row.partition(b"\t")
        words = head.decode("ascii", "replace").split()
        if len(words) == 4 and words[1] == "blob":
            yield PurePosixPath(os.fsdecode(path)), _Stored(words[0], words[2], int(words[3]))


def _unpack(folder: Path, stored: Mapping[PurePosixPath, _Stored], place: Path) -> None:
    """The files that models read, inside the place and nowhere else; a link to one of them is that one."""
    left = MOST_BYTES
    for path in stored:
        if path.suffix.lower() not in READ or path.is_absolute() or ".." in path.parts:
            continue
        one = _followed(folder, stored, path)
        if one is None:
            continue
        left -= one.size
        if left < 0:
            raise NoRevision(f"the revision has more than {MOST_BYTES // 1_000_000} MB of model files and tables")
        there = place.joinpath(*path.parts)
        there.parent.mkdir(parents=True, exist_ok=True)
        there.write_bytes(_content(folder, one))


def _followed(folder: Path, stored: Mapping[PurePosixPath, _Stored], path: PurePosixPath) -> _Stored | None:
    """What a path stands for, links followed; None where one leads out of the folder, or to nothing."""
    for _ in range(DEEPEST):
        one = stored.get(path)
        if one is None or one.mode != LINK:
            return one
        target = os.fsdecode(_content(folder, one))
        parts = PurePosixPath(os.path.normpath(str(path.parent / target)).replace(os.sep, "/"))
        if parts.is_absolute() or ".." in parts.parts:
            return None
        path = parts
    return None


def _content(folder: Path, one: _Stored) -> bytes:
    code, content = _git(folder, "cat-file", "blob", one.name)
    if code or len(content) != one.size:
        raise NoRevision("some of its files are not in this repository (a partial clone?); fetch them first")
    return content


def _git(folder: Path, *words: str) -> tuple[int, bytes]:
    """Exit code and what was printed. Raises NoRevision where git is not there, or does not answer."""
    try:
        done = subprocess.run(["git", "-C", str(folder), *ALONE, *words], capture_output=True, timeout=PATIENCE,
                              check=False, env={**os.environ, **SILENT})  # fmt: skip
    except FileNotFoundError:
        raise NoRevision("git is not on this machine; compare two files: diff OLD NEW") from None
    except subprocess.TimeoutExpired:
        raise NoRevision(f"git did not answer within {PATIENCE} s") from None
    return done.returncode, done.stdout
