"""What members and nodes receive from one load on a surface, piece by piece, before it becomes plain loads."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SHORTEST = 1e-9
"""A line load shorter than this [m] is a force."""
NOTHING = 1e-12


@dataclass
class Collector:
    """Lists of arrays; values are along the load's direction. `role` keeps apart what comes from different sides.
    `across`: what nodes receive besides from each newton that a load has along the direction (2,) in u v: forces [N]
    that way, and moments about the normal [N m], in balance with each other."""

    lines: list[tuple[Ints, Floats, Floats, Floats, Floats, Ints, Ints]] = field(default_factory=list)
    points: list[tuple[Ints, Floats, Floats, Ints]] = field(default_factory=list)
    nodes: list[tuple[Ints, Floats, Ints]] = field(default_factory=list)
    lost: list[tuple[Floats, Floats]] = field(default_factory=list)
    across: list[tuple[Ints, Floats, Floats, Floats]] = field(default_factory=list)

    def line(self, member: Ints, s: Floats, q: Floats, length: Floats, bay: Ints, role: Ints) -> None:
        """Line loads: s (n, 2) [m] with values q (n, 2) [N/m] on members of a length (n,), in any order of the ends."""
        swap = s[:, 0] > s[:, 1]
        s, q = np.where(swap[:, None], s[:, ::-1], s), np.where(swap[:, None], q[:, ::-1], q)
        on = np.clip(s, 0.0, length[:, None])
        wide, kept = s[:, 1] - s[:, 0], on[:, 1] - on[:, 0]
        short = kept <= SHORTEST
        # Beside a member's end by less than a millimetre: the same force on what there is of it.
        with np.errstate(divide="ignore", invalid="ignore"):
            q = np.where((kept < wide) & ~short, wide / kept, 1.0)[:, None] * q
        if short.any():
            force = (q[short].mean(axis=1)) * wide[short]
            self.point(member[short], on[short, 0], force, bay[short])
        k = ~short
        self.lines.append((member[k], on[k, 0], on[k, 1], q[k, 0], q[k, 1], bay[k], role[k]))

    def point(self, member: Ints, s: Floats, force: Floats, bay: Ints) -> None:
        """Forces (n, 3) [N] at s (n,) [m] along members (n,), each from a bay (n,)."""
        self.points.append((member, s, force, bay))

    def joined_lines(self) -> tuple[Ints, Floats, Floats, Floats, Floats, Ints]:
        """All line loads, pieces that go on in one line made one: member, s0, s1, q0, q1, bay."""
        if not self.lines:
            return np.zeros(0, np.intp), *(np.zeros(0) for _ in range(4)), np.zeros(0, np.intp)  # type: ignore[return-value]
        member, s0, s1, q0, q1, bay, role = (np.concatenate(c) for c in zip(*self.lines, strict=True))
        largest = np.abs(np.concatenate([q0, q1])).max(initial=0.0)
        some = np.maximum(np.abs(q0), np.abs(q1)) > NOTHING * largest
        member, s0, s1, q0, q1, bay, role = (v[some] for v in (member, s0, s1, q0, q1, bay, role))
        q0, q1 = (np.where(np.abs(q) > NOTHING * largest, q, 0.0) for q in (q0, q1))
        order = np.lexsort((s0, role, bay, member))
        member, s0, s1, q0, q1, bay, role = (v[order] for v in (member, s0, s1, q0, q1, bay, role))
        slope = (q1 - q0) / (s1 - s0)
        same = (member[1:] == member[:-1]) & (bay[1:] == bay[:-1]) & (role[1:] == role[:-1])
        same &= np.abs(s0[1:] - s1[:-1]) < SHORTEST
        close = 1e-11 * largest
        same &= (np.abs(q0[1:] - q1[:-1]) < close) & (np.abs(np.diff(slope)) * np.diff(s0) < close)
        first = np.flatnonzero(np.concatenate([[True], ~same])[: len(s0)])
        last = np.append(first[1:], len(s0))[: len(first)] - 1
        return member[first], s0[first], s1[last], q0[first], q1[last], bay[first]

    @property
    def total(self) -> float:
        """All that was received or lost [N]."""
        lines = sum(float(((s1 - s0) * (q0 + q1) / 2).sum()) for _, s0, s1, q0, q1, *_ in self.lines)
        return lines + sum(float(f.sum()) for f in (*(p[2] for p in self.points), *(n[1] for n in self.nodes),
                                                    *(k[0] for k in self.lost)))  # fmt: skip

    def lose(self, force: Floats, at: Floats) -> None:
        """Forces (n,) [N] that nothing carries, at points (n, 2) in u v."""
        self.lost.append((force, at))
