"""Long work at a terminal: what it is at, how far it is, and that it can be stopped at once."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from ..core.model.telling import Tell, quiet

T = TypeVar("T")


@contextmanager
def bar() -> Iterator[Tell]:
    """A line on the error stream that says the phase, with a bar; nothing where that is no terminal."""
    if not sys.stderr.isatty():
        yield quiet
        return
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

    console = Console(stderr=True)

    columns = TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn()
    with Progress(*columns, console=console, transient=True) as shown:
        task = shown.add_task("", total=None)

        def tell(phase: str, done: int = 0, of: int = 0) -> None:
            shown.update(task, description=phase, completed=done, total=of or None)

        yield tell


def beside(work: Callable[[], T]) -> T:
    """Does the work beside the thread that listens: what is factorised by a library cannot be interrupted itself, but
    whoever waits for it can. Raises what the work raises, and KeyboardInterrupt at once."""
    out: list[T] = []
    raised: list[BaseException] = []

    def run() -> None:
        try:
            out.append(work())
        except BaseException as error:
            raised.append(error)

    thread: Any = threading.Thread(target=run, daemon=True)
    thread.start()
    while thread.is_alive():
        thread.join(0.1)
    if raised:
        raise raised[0]
    return out[0]
