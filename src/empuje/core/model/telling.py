"""What long work is at, for someone who waits."""

from __future__ import annotations

from typing import Protocol


class Tell(Protocol):
    """Is told the phase, how much of it is done, and of how much: 0 of 0 where that cannot be said."""

    def __call__(self, phase: str, done: int = 0, of: int = 0) -> None:
        """So many of so many are done of a phase."""


def quiet(phase: str, done: int = 0, of: int = 0) -> None:
    """Nobody waits."""
