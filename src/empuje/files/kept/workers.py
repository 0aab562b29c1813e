"""Processes that end when the one that began them is gone, however it went."""

from __future__ import annotations


def end_with_parent() -> None:
    """Lets a worker process end once its parent has: a parent that was killed tells nobody."""
    from multiprocessing import parent_process
    from os import _exit
    from threading import Thread

    parent = parent_process()
    if parent is None:
        return

    def wait() -> None:
        parent.join()
        _exit(1)

    Thread(target=wait, daemon=True).start()
