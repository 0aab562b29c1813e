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
APART = 1e7
"""More than any member is long [m]: places of many members in one row."""
PLACES = 13
"""Even places of a stretch for the diagram of its moments: steps by four, and an odd number for Simpson's rule."""


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
    known, of_piece = np.unique(pieces.member, return_inverse=True)
    rank = np.searchsorted(known, member)
    side = np.full(x.shape[1], 1e-9)
    side[-1] = -1e-9
    piece = np.searchsorted(of_piece * APART + pieces.start, rank[:, None] * APART + x + side, side="right") - 1
    piece = np.maximum(piece, np.searchsorted(of_piece, rank)[:, None])
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
class Extremes:
    """Of pieces or stretches (n, results): the greatest compression and tension [N], the greatest and least My, the
    largest Mz [N m], shear along y and z [N] and torsion [N m]."""

    N: Floats
    pull: Floats
    My_most: Floats
    My_least: Floats
    Mz: Floats
    Vy: Floats
    Vz: Floats
    T: Floats

    @property
    def My(self) -> Floats:
        """The largest My in magnitude."""
        return np.maximum(np.maximum(self.My_most, -self.My_least), 0.0)


def extremes_of(pieces: Pieces) -> Extremes:
    """Over all places of every piece."""
    each = Extremes(*(np.zeros((len(pieces.start), pieces.force.shape[3])) for _ in fields(Extremes)))
    for _, forces in everywhere(pieces):
        for own, k in ((each.Vy, 1), (each.Vz, 2), (each.T, 3), (each.Mz, 5)):
            np.maximum(own, np.abs(forces[:, k]), out=own)
        np.maximum(each.N, -forces[:, 0], out=each.N)
        np.maximum(each.pull, forces[:, 0], out=each.pull)
        np.maximum(each.My_most, forces[:, 4], out=each.My_most)
        np.minimum(each.My_least, forces[:, 4], out=each.My_least)
    return each


def pieces_under(pieces: Pieces, row: Ints, result: Ints) -> Pieces:
    """Some pieces, each under one result."""
    force = pieces.force[row, :, :, result][..., None]
    return Pieces(pieces.member[row], pieces.element[row], pieces.start[row], pieces.length[row], force, None)


@dataclass(frozen=True)
class OnStretches(Extremes):
    """What stretches (n, results) bear, with diagrams of My over the stretch (n, places, results), of My at three
    places of the stretch about y, and of Mz at three of its own."""

    diagram: Floats
    three_y: Floats
    three_z: Floats


def on_stretches(pieces: Pieces, each: Extremes, L: Lengths) -> OnStretches:
    """Extremes over all pieces that each stretch, or its stretch about y, meets; and diagrams."""
    low, high = np.minimum(L.x0, L.y0) + 1e-6, np.maximum(L.x1, L.y1) - 1e-6
    known, rank = np.unique(pieces.member, return_inverse=True)
    own = np.searchsorted(known, L.member)
    stop_at = rank * APART + pieces.start + pieces.length
    first = np.searchsorted(stop_at, own * APART + low, side="right")
    stop = np.searchsorted(rank * APART + pieces.start, own * APART + high, side="left")
    cuts = np.column_stack([first, np.maximum(stop, first + 1)]).ravel()

    def over(values: Floats, take: np.ufunc) -> Floats:
        # One row more, so that the last stretch may end where the pieces do.
        padded = np.vstack([values, np.zeros((1, values.shape[1]))])
        return np.asarray(take.reduceat(padded, cuts, axis=0)[::2])

    def places(a: Floats, b: Floats, n: int) -> Floats:
        return np.asarray(a[:, None] + (b - a)[:, None] * np.linspace(0.0, 1.0, n))

    most = [over(getattr(each, f.name), np.minimum if f.name == "My_least" else np.maximum) for f in fields(Extremes)]
    return OnStretches(
        most[0], most[1], most[2], most[3], most[4], most[5], most[6], most[7],
        along(pieces, L.member, places(L.x0, L.x1, PLACES), 4),
        along(pieces, L.member, places(L.y0, L.y1, 3), 4),
        along(pieces, L.member, places(L.x0, L.x1, 3), 5),
    )  # fmt: skip
