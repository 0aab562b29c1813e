"""Shares of a wheel that members get of it along a stretch of a way."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields

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
    (n,): metres of the member for a metre of the way. Or, of structural surfaces, the node (n,) of an element and its
    share; -1 where a member does, as its member is where a node does."""

    row: Ints
    member: Ints
    x: Floats
    share: Floats
    arm: Floats
    rate: Floats
    node: Ints

    @staticmethod
    def joined(parts: Sequence[Touches]) -> Touches:
        """One after another."""
        if not parts:
            none, nought = np.zeros(0, np.intp), np.zeros(0)
            return Touches(none, none, nought, nought, np.zeros((0, 3)), nought, none)
        return Touches(*(np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(Touches)))

    @staticmethod
    def of_members(row: Ints, member: Ints, x: Floats, share: Floats, arm: Floats, rate: Floats) -> Touches:
        """By members."""
        return Touches(row, member, x, share, arm, rate, np.full(len(row), -1))

    @staticmethod
    def of_nodes(row: Ints, node: Ints, share: Floats) -> Touches:
        """By nodes of elements."""
        n, nought = len(row), np.zeros(len(row))
        return Touches(row, np.full(n, -1), nought, share, np.zeros((n, 3)), nought, node)


OnNodes = Callable[[Floats], tuple[Ints, Floats]]
"""From places s (n,) [m] to the nodes (n, corners) of an element under them, and their shares."""
Carried = Callable[[Floats], list[tuple[Ints, Floats, Floats]]]
"""From places s (n,) [m] to lists of member (n,), place on it, and share; -1 where there is none."""


@dataclass(frozen=True)
class Stretch:
    """From s0 to s1 [m] of a way, on its `piece`: the touches, or what finds them where shares are no straight
    lines, or lie on an element of a structural surface."""

    s0: float
    s1: float
    piece: int
    touches: tuple[Touch, ...] = ()
    found: Carried | None = None
    on_nodes: OnNodes | None = None

    @property
    def is_linear(self) -> bool:
        """Whether shares and places change linearly."""
        return self.found is None and self.on_nodes is None and all(t.d1 == 0 for t in self.touches)

    def carried(self, s: Floats, row: Ints) -> Touches:
        """What carries wheels at s (n,), which are the rows (n,) of all."""
        parts = []
        if self.on_nodes is not None:
            node, share = self.on_nodes(s)
            parts.append(Touches.of_nodes(np.repeat(row, node.shape[1]), node.ravel(), share.ravel()))
        if self.found is not None:
            for member, x, share in self.found(s):
                some = np.flatnonzero((member >= 0) & (share != 0))
                arm = np.zeros((len(some), 3))
                parts.append(Touches.of_members(row[some], member[some], x[some], share[some], arm, np.ones(len(some))))
        for t in self.touches:
            n = len(s)
            share = (t.c0 + t.c1 * s) / (t.d0 + t.d1 * s)
            arm = np.broadcast_to(t.arm, (n, 3))
            rate = np.full(n, abs(t.x1))
            parts.append(Touches.of_members(row, np.full(n, t.member), t.x0 + t.x1 * s, share, arm, rate))
        return Touches.joined(parts)
