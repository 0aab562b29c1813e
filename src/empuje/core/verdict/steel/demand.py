"""What members must bear: forces wherever something may be extreme, and diagrams along stretches.

Places on every piece: its ends, even steps between, and where each result's moments turn, so that the extremes of every
force are among them.
"""

from __future__ import annotations

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


def everywhere(pieces: Pieces) -> tuple[Floats, Floats]:
    """Places t (n, places) [m] on pieces that are under one result each, and the six forces (n, 6, places) there."""
    moments = pieces.force[:, 4:6]
    whole = np.broadcast_to(pieces.length[:, None, None], moments[:, :, 0].shape)
    turns = [found[:, :, 0] for found in turning_points(moments, np.zeros_like(whole), whole)]
    t = np.concatenate([pieces.length[:, None] * np.linspace(0.0, 1.0, STEPS + 1), *turns], axis=1)
    t = t[:, (t > 0).any(axis=0) | (np.arange(t.shape[1]) == 0)]
    return t, horner(pieces.force, t[:, None])


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
    # Places on one piece follow from it by one product of matrices.
    whole = (piece == piece[:, :1]).all(axis=1)
    powers = t[:, :, None] ** np.arange(pieces.force.shape[2])
    out = np.empty((*x.shape, pieces.force.shape[3]))
    out[whole] = powers[whole] @ pieces.force[piece[whole, 0], component]
    for k in range(x.shape[1]) if not whole.all() else ():
        own = pieces.force[piece[~whole, k], component]
        out[~whole, k] = (powers[~whole, k, None] @ own)[:, 0]
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
    """Of every piece: at its ends, and where a force turns between them; none where it keeps its sign."""
    start, end = pieces.force[:, :, 0], horner(pieces.force, pieces.length[:, None, None])
    most, least = np.maximum(start, end), np.minimum(start, end)
    for k in range(6):
        rows = np.flatnonzero(pieces.force[:, k, 2:].any(axis=(1, 2)))
        c = pieces.force[rows, k : k + 1]
        whole = np.broadcast_to(pieces.length[rows, None, None], c[:, :, 0].shape)
        for t in turning_points(c, np.zeros(whole.shape), whole) if len(rows) else ():
            value = horner(c, t)[:, 0]
            most[rows, k] = np.maximum(most[rows, k], value)
            least[rows, k] = np.minimum(least[rows, k], value)
    np.maximum(most, 0.0, out=most)
    np.minimum(least, 0.0, out=least)
    large = np.maximum(most, -least)
    return Extremes(
        -least[:, 0], most[:, 0], most[:, 4], least[:, 4], *(large[:, k] for k in (5, 1, 2, 3))
    )  # fmt: skip


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

    def under(self, row: Ints, result: Ints) -> OnStretches:
        """Some stretches, each under one result."""
        return OnStretches(*(getattr(self, f.name)[row, ..., result][..., None] for f in fields(self)))


def on_stretches(pieces: Pieces, each: Extremes, L: Lengths) -> OnStretches:
    """Extremes over all pieces that each stretch, or its stretch about y, meets; and diagrams."""
    low, high = np.minimum(L.x0, L.y0) + 1e-6, np.maximum(L.x1, L.y1) - 1e-6
    known, rank = np.unique(pieces.member, return_inverse=True)
    own = np.searchsorted(known, L.member)
    stop_at = rank * APART + pieces.start + pieces.length
    first = np.searchsorted(stop_at, own * APART + low, side="right")
    stop = np.searchsorted(rank * APART + pieces.start, own * APART + high, side="left")
    cuts = np.column_stack([first, np.maximum(stop, first + 1)]).ravel()

    one_each = bool((np.diff(cuts)[::2] == 1).all())

    def over(values: Floats, take: np.ufunc) -> Floats:
        if one_each:
            return values[first]
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
