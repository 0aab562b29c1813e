"""Shares of a wheel that members get of it along a stretch of a way."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Touch:
    """A member under a wheel at s [m] of its way: at x0 + x1 s [m] of it the share (c0 + c1 s)/(d0 + d1 s); `arm` (3,)
    [m] from the member's axis to the wheel, where the wheel twists it."""

    member: int
    x0: float
    x1: float
    c0: float = 1.0
    c1: float = 0.0
    d0: float = 1.0
    d1: float = 0.0
    arm: tuple[float, ...] = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Touches:
    """What carries some wheels: row (n,) is the wheel, then its member, place x [m] on it, share and arm (n, 3); rate
    (n,): metres of the member for a metre of the way."""

    row: Ints
    member: Ints
    x: Floats
    share: Floats
    arm: Floats
    rate: Floats

    @staticmethod
    def joined(parts: Sequence[Touches]) -> Touches:
        """One after another."""
        if not parts:
            none, nought = np.zeros(0, np.intp), np.zeros(0)
            return Touches(none, none, nought, nought, np.zeros((0, 3)), nought)
        names = ("row", "member", "x", "share", "arm", "rate")
        return Touches(*(np.concatenate([getattr(p, n) for p in parts]) for n in names))


Carried = Callable[[Floats], list[tuple[Ints, Floats, Floats]]]
"""From places s (n,) [m] to lists of member (n,), place on it, and share; -1 where there is none."""


@dataclass(frozen=True)
class Stretch:
    """From s0 to s1 [m] of a way, on its `piece`: the touches, or what finds them where shares are no straight
    lines."""

    s0: float
    s1: float
    piece: int
    touches: tuple[Touch, ...] = ()
    found: Carried | None = None

    @property
    def is_linear(self) -> bool:
        """Whether shares and places change linearly."""
        return self.found is None and all(t.d1 == 0 for t in self.touches)

    def carried(self, s: Floats, row: Ints) -> Touches:
        """What carries wheels at s (n,), which are the rows (n,) of all."""
        parts = []
        if self.found is not None:
            for member, x, share in self.found(s):
                some = np.flatnonzero((member >= 0) & (share != 0))
                arm = np.zeros((len(some), 3))
                parts.append(Touches(row[some], member[some], x[some], share[some], arm, np.ones(len(some))))
        for t in self.touches:
            n = len(s)
            share = (t.c0 + t.c1 * s) / (t.d0 + t.d1 * s)
            arm = np.broadcast_to(t.arm, (n, 3))
            parts.append(Touches(row, np.full(n, t.member), t.x0 + t.x1 * s, share, arm, np.full(n, abs(t.x1))))
        return Touches.joined(parts)
