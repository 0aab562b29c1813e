"""Many drawings onto paper at once: processes that paint on other cores, begun before there is anything to paint.

>>> with press(large=True) as painted:                                     # doctest: +SKIP
...     ...                                          # solve: the processes get ready meanwhile
...     painted((drawing, path) for drawing, path in drawings)
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeAlias

from ...files.kept.workers import end_with_parent
from .paper import Drawing

Jobs: TypeAlias = "Iterable[tuple[Drawing, Path]]"
MOST_PROCESSES = 4


@contextmanager
def press(large: bool) -> Iterator[Callable[[Jobs], None]]:
    """A way to save each drawing at its path; the same bytes however many cores there are. `large`: worth processes of
    their own. Saving raises NotWritten."""
    more = min(os.cpu_count() or 1, MOST_PROCESSES) - 1
    if not large or more < 1:
        yield paint
        return
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import get_context

    with ProcessPoolExecutor(more, get_context("spawn"), initializer=end_with_parent) as pool:
        ready = [pool.submit(get_ready) for _ in range(more)]

        def painted(jobs: Jobs) -> None:
            waiting = []
            for i, (drawing, path) in enumerate(jobs):
                # What the other cores leave is painted here.
                if i % (more + 1) == 0 or not all(r.done() for r in ready):
                    drawing.save(path)
                else:
                    waiting.append(pool.submit(Drawing.save, drawing, path))
            for done in waiting:
                done.result()

        try:
            yield painted
        finally:
            pool.shutdown(wait=True, cancel_futures=True)


def paint(jobs: Jobs) -> None:
    """One after another."""
    for drawing, path in jobs:
        drawing.save(path)


def get_ready() -> None:
    """What takes longest before the first drawing is on paper."""
    from matplotlib.backends import backend_agg  # noqa: F401

    from .paper import empty_figure

    empty_figure("", "")
