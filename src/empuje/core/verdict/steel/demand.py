"""What members must bear: forces wherever something may be extreme, and diagrams along stretches.

Places on every piece: its ends, even steps between, and where each result's moments turn, so that the extremes of every
force are among them.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from ...analysis.polynomials import horner, turning_points
from ...analysis.solution import Pieces
from .lengths import Lengths

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
STEPS = 4
"""Even steps on every piece."""
PLACES = 17
"""Even places of a stretch for the diagram of its moments."""


def everywhere(pieces: Pieces) -> Iterator[tuple[Floats, Floats]]:
    """Places t (n, 1 or results) [m] on all pieces, and the six forces (n, 6, results) there."""
    L = pieces.length[:, None]
    for k in range(STEPS + 1):
        t = L * (k / STEPS)
        yield t, horner(pieces.force, t[:, :, None])
    moments = pieces.force[:, 4:6]
    whole = np.broadcast_to(pieces.length[:, None, None], moments[:, :, 0].shape)
    for found in turning_points(moments, np.zeros_like(whole), whole):
        for i in (0, 1):
            t = found[:, i]
            if (t > 0).any():
                yield t, horner(pieces.force, t[:, None])


def along(pieces: Pieces, member: Ints, x: Floats, component: int) -> Floats:
    """A force (n, places, results) of members (n,) at x (n, places) [m]; where it jumps on the right, at the last place
    on the left."""
    step = 1e7  # longer than any member
    rank = np.searchsorted(np.unique(pieces.member), member)
    of_piece = np.searchsorted(np.unique(pieces.member), pieces.member)
    key = of_piece * step + pieces.start
    side = np.full(x.shape[1], 1e-9)
    side[-1] = -1e-9
    piece = np.searchsorted(key, rank[:, None] * step + x + side, side="right") - 1
    first = np.searchsorted(of_piece, rank)
    piece = np.maximum(piece, first[:, None])
    t = np.clip(x - pieces.start[piece], 0.0, pieces.length[piece])
    out = np.empty((*x.shape, pieces.force.shape[3]))
    c = pieces.force[:, component]
    for k in range(x.shape[1]):
        own = c[piece[:, k]]
        value = own[:, -1].copy()
        for power in range(own.shape[1] - 2, -1, -1):
            value *= t[:, k, None]
            value += own[:, power]
        out[:, k] = value
    return out


@dataclass(frozen=True)
class OnStretches:
    """Of stretches (n, results): the greatest compression and tension [N], the greatest and least My, the largest Mz
    [N m], shear along y and z [N] and torsion; and diagrams of My over the stretch (n, places, results), at three
    places of the stretch about y, of Mz of its own."""

    N: Floats
    pull: Floats
    My_most: Floats
    My_least: Floats
    Mz: Floats
    Vy: Floats
    Vz: Floats
    T: Floats
    diagram: Floats
    three_y: Floats
    three_z: Floats


@dataclass(frozen=True)
class PieceExtremes:
    """Of every piece (n, results) the same extremes."""

    N: Floats
    pull: Floats
    My_most: Floats
    My_least: Floats
    Mz: Floats
    Vy: Floats
    Vz: Floats
    T: Floats

    @staticmethod
    def none(pieces: Pieces) -> PieceExtremes:
        """Before anything is looked at."""
        return PieceExtremes(*(np.zeros((len(pieces.start), pieces.force.shape[3])) for _ in range(8)))

    def widen(self, forces: Floats) -> None:
        """By forces (n, 6, results) at some places."""
        for own, k in ((self.Vy, 1), (self.Vz, 2), (self.T, 3), (self.Mz, 5)):
            np.maximum(own, np.abs(forces[:, k]), out=own)
        np.maximum(self.N, -forces[:, 0], out=self.N)
        np.maximum(self.pull, forces[:, 0], out=self.pull)
        np.maximum(self.My_most, forces[:, 4], out=self.My_most)
        np.minimum(self.My_least, forces[:, 4], out=self.My_least)


def on_stretches(pieces: Pieces, extremes: PieceExtremes, L: Lengths) -> OnStretches:
    """What each stretch must bear: extremes of all pieces that it, or its stretch about y, meets."""
    low, high = np.minimum(L.x0, L.y0), np.maximum(L.x1, L.y1)
    begins, ends = (np.searchsorted(pieces.member, L.member, side=side) for side in ("left", "right"))
    parts = []
    for m in range(len(L.member)):
        a, b = int(begins[m]), int(ends[m])
        start, stop = pieces.start[a:b], pieces.start[a:b] + pieces.length[a:b]
        own = a + np.flatnonzero((start < high[m] - 1e-6) & (stop > low[m] + 1e-6))
        parts.append([getattr(extremes, f.name)[own] for f in fields(PieceExtremes)])
    each = [
        np.array([p[k].min(axis=0) if f.name == "My_least" else p[k].max(axis=0) for p in parts])
        for k, f in enumerate(fields(PieceExtremes))
    ]

    def places(a: Floats, b: Floats, n: int) -> Floats:
        return np.asarray(a[:, None] + (b - a)[:, None] * np.linspace(0.0, 1.0, n))

    return OnStretches(
        each[0], each[1], each[2], each[3], each[4], each[5], each[6], each[7],
        along(pieces, L.member, places(L.x0, L.x1, PLACES), 4),
        along(pieces, L.member, places(L.y0, L.y1, 3), 4), along(pieces, L.member, places(L.x0, L.x1, 3), 5),
    )  # fmt: skip
