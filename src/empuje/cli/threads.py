"""How many threads linear algebra uses: one for small frames, where handing out costs more than it saves.

A command begins with one, before any numerical library is loaded, and takes all of them once it knows its frame is
large. Who names a number in the environment keeps it.
"""

from __future__ import annotations

import os
import sys

FEW_MEMBERS = 1000
NUMBER = "OPENBLAS_NUM_THREADS"
NAMED = (NUMBER, "OMP_NUM_THREADS", "GOTO_NUM_THREADS")
_begun: list[str] = []
"""What this command itself put into its environment."""


def begin_with_one() -> None:
    """Before libraries are loaded: they begin no threads that are not wanted."""
    if "numpy" not in sys.modules and not _named():
        _state_one()


def _named() -> bool:
    return any(name in os.environ for name in NAMED)


def _state_one() -> None:
    """For what is loaded later, and for processes begun later."""
    os.environ[NUMBER] = "1"
    _begun.append(NUMBER)


def suit(members: int) -> None:
    """As many threads as a frame of so many members is worth."""
    few = members < FEW_MEMBERS
    if few == bool(_begun) or (few and _named()):
        return
    from threadpoolctl import threadpool_limits

    threadpool_limits(1 if few else os.cpu_count() or 1, user_api="blas")
    if few:
        _state_one()
    else:
        _begun.clear()
        os.environ.pop(NUMBER, None)
