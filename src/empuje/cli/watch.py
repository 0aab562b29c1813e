"""empuje watch MODEL [-- COMMAND]"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

from . import COMMANDS, FINE, NOT_MET, STOPPED, Refusal, flags, saying

NOT_THESE = ("watch", "demo", "new", "schema", "sections", "materials", "cache", "completion")
"""Commands that ask nothing of a model."""
EVERY, PATIENCE = 300, 1000
"""Milliseconds in which saves count as one, since editors write a file in several steps; and after which one looks
again where nothing was told."""


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument(
        "then", nargs=argparse.REMAINDER, metavar="-- COMMAND",
        help="a command for the model once it has no errors, without MODEL: -- draw loads --under W -o loads.png",
    )  # fmt: skip


def run(arguments: argparse.Namespace) -> int:
    path = Path(arguments.model)
    if not path.is_file():
        raise Refusal(f"there is no file {path}; check the name, or write a starter with `empuje new`")
    words = [w for i, w in enumerate(arguments.then) if i or w != "--"]
    if words and (words[0] not in COMMANDS or words[0] in NOT_THESE):
        from ..core.model.findings import did_you_mean

        known = [name for name in COMMANDS if name not in NOT_THESE]
        raise Refusal(f"there is no command {words[0]} for a model; {did_you_mean(words[0], known)}")
    sets = [word for value in arguments.set for word in ("--set", value)]
    then = [words[0], str(path), *words[1:], *sets] if words else []
    try:
        for saved in _saves(path):
            if saved:
                print(f"\n{saved} saved", flush=True)
            if _look(path, sets, then) == STOPPED:
                break
            if not saved:
                saying.say(f"watching {path} and what it names; Ctrl-C ends")
    except KeyboardInterrupt:  # the usual way to end
        saying.say("no longer watching")
    return FINE


def _look(path: Path, sets: list[str], then: list[str]) -> int:
    """Checks the model, and does what is asked for once it has no errors; the last one's exit code."""
    from . import main

    code = main(["check", str(path), *sets])
    if then and code == FINE:
        return main(then)
    if then and code == NOT_MET:
        saying.say(f"{then[0]} waits until the errors are mended")
    return code


def _saves(path: Path) -> Iterator[str]:
    """Nothing at first; then the names of files each time some of those that the model is read from are saved, also
    while one looked at it; until Ctrl-C."""
    from watchfiles import watch

    files = _inputs(path, {path.absolute(), path.resolve()})
    seen = {file: _stamp(file) for file in files}
    gone = False
    yield ""
    while True:
        folders = {file.parent for file in files}
        # Files are often saved by another taking their place: it is their folders that are watched.
        for _ in watch(*folders, debounce=EVERY, step=EVERY // 6, rust_timeout=PATIENCE, yield_on_timeout=True,
                       recursive=False, watch_filter=None):  # fmt: skip
            if not path.exists():
                if not gone:
                    saying.say(f"{path} is not there any more; watching for it to come back")
                gone = True
                continue
            now = {file: _stamp(file) for file in files}
            changed = sorted({file.name for file in files if now[file] != seen[file]})
            if not changed and not gone:
                continue
            changed, gone = changed or [path.name], False
            seen |= now
            yield ", ".join(changed)
            files = _inputs(path, files)
            seen = {file: seen.get(file) or _stamp(file) for file in files}
            if {file.parent for file in files} != folders:
                break
        else:
            return


def _stamp(file: Path) -> tuple[int, int]:
    """What changes when a file is saved; nothing where it is not there."""
    try:
        found = file.stat()
    except OSError:
        return 0, 0
    return found.st_mtime_ns, found.st_ino


def _inputs(path: Path, before: set[Path]) -> set[Path]:
    """The model and all files it reads, and what they are links to; those of before while it cannot be read."""
    from ..files.base.includes import UnusableFile
    from ..files.reader import read_model

    try:
        every = {path, *read_model(path).files}
        return {*map(Path.absolute, every), *map(Path.resolve, every)}
    except UnusableFile:
        return before
