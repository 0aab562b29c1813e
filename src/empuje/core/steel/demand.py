"""What members must bear: forces wherever something may be extreme, and diagrams along stretches. The members of a
line are looked at as one: `Pieces.member` is then the row of forces, the line's or a member's own.

Places on every piece: its ends, even steps between, and where each result's moments turn, so that the extremes of every
force are among them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields
from math import comb

import numpy as np
from numpy.typing import NDArray

from ..analysis.mesh import ranges
from ..analysis.polynomials import horner, turning_points
from ..analysis.solution import Pieces
from ..model.project import Project
from .elastic import waves
from .lengths import Lengths, row_of
from .lines import Lines

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
STEPS = 4
"""Even steps on every piece."""
BESIDE = 1e-7
"""So far to either side of a place [m] is what it has there."""
PLACES = 13
"""Even places of a stretch for the diagram of its moments: steps by four."""


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
    side = np.full(x.shape[1], BESIDE)
    side[-1] = -BESIDE
    apart = _apart(pieces)
    piece = np.searchsorted(of_piece * apart + pieces.start, rank[:, None] * apart + x + side, side="right") - 1
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


def _apart(pieces: Pieces) -> float:
    """More than any row is long [m], and no longer than needed: places of many rows in one, to a thousandth of a
    millimetre and less."""
    return 2 * float((pieces.start + pieces.length).max(initial=1.0))


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
    """What stretches (n, results) bear, with diagrams of My over the stretch (n, places, results), and at every other
    place of My over the stretch about y, and of Mz over that about z; and the waves of My^2 along the stretch, of what
    presses a flange that is not held (elastic.waves)."""

    squares: Floats
    diagram: Floats
    about_y: Floats
    about_z: Floats

    def under(self, row: Ints, result: Ints) -> OnStretches:
        """Some stretches, each under one result."""
        return OnStretches(*(getattr(self, f.name)[row, ..., result][..., None] for f in fields(self)))


def on_stretches(pieces: Pieces, each: Extremes, L: Lengths) -> OnStretches:
    """Extremes over all pieces that each stretch meets, of N, V and T over its stretches about y and z as well; and
    diagrams. Pieces end where stretches do (`cut_where`)."""
    known, rank = np.unique(pieces.member, return_inverse=True)
    own = np.searchsorted(known, L.row)
    apart = _apart(pieces)
    stop_at = rank * apart + pieces.start + pieces.length

    def between(low: Floats, high: Floats) -> tuple[Ints, Ints]:
        first = np.searchsorted(stop_at, own * apart + low + 1e-6, side="right")
        stop = np.searchsorted(rank * apart + pieces.start, own * apart + high - 1e-6, side="left")
        return first, np.maximum(stop, first + 1)

    def over(low: Floats, high: Floats) -> Callable[[str], Floats]:
        first, stop = between(low, high)
        cuts = np.column_stack([first, stop]).ravel()
        one_each = bool((np.diff(cuts)[::2] == 1).all())

        def extreme(name: str) -> Floats:
            values: Floats = getattr(each, name)
            if one_each:
                return values[first]
            # One row more, so that the last stretch may end where the pieces do.
            padded = np.vstack([values, np.zeros((1, values.shape[1]))])
            take = np.minimum if name == "My_least" else np.maximum
            return np.asarray(take.reduceat(padded, cuts, axis=0)[::2])

        return extreme

    def places(a: Floats, b: Floats, n: int) -> Floats:
        return np.asarray(a[:, None] + (b - a)[:, None] * np.linspace(0.0, 1.0, n))

    wide = over(np.minimum(np.minimum(L.x0, L.y0), L.z0), np.maximum(np.maximum(L.x1, L.y1), L.z1))
    within = over(L.x0, L.x1)
    found = {f.name: (within if f.name[0] == "M" else wide)(f.name) for f in fields(Extremes)}
    diagram = along(pieces, L.row, places(L.x0, L.x1, PLACES), 4)
    same = bool((L.x0 == L.y0).all() and (L.x1 == L.y1).all())
    half = PLACES // 2 + 1
    about_y = diagram[:, ::2].copy() if same else along(pieces, L.row, places(L.y0, L.y1, half), 4)
    about_z = along(pieces, L.row, places(L.z0, L.z1, half), 5)
    squares = _squares(pieces, *between(L.x0, L.x1), L)
    # Of sections in steps no diagram of one member holds: an even one, of the flange that may buckle.
    steps = np.flatnonzero(L.even)
    if len(steps):
        most, least = found["My_most"][steps], found["My_least"][steps]
        larger = np.where(most >= -least, most, least)
        even = np.where(L.top[steps, None], least, np.where(L.bottom[steps, None], most, larger))
        diagram[steps], about_y[steps] = even[:, None], larger[:, None]
        squares[steps] = 0.0
        squares[steps, 0] = even**2
        about_z[steps] = found["Mz"][steps][:, None]
    return OnStretches(**found, squares=squares, diagram=diagram, about_y=about_y, about_z=about_z)


POINTS = 12
"""Of Gauss's rule, on every piece."""


def _squares(pieces: Pieces, first: Ints, stop: Ints, L: Lengths) -> Floats:
    """The waves of My^2 along stretches, from their pieces one by one: exact whatever jumps or turns between these."""
    at, weight = np.polynomial.legendre.leggauss(POINTS)
    piece = ranges(first, stop)
    row = np.repeat(np.arange(len(first)), stop - first)
    t = pieces.length[piece, None] * (at + 1) / 2
    powers = t[:, :, None] ** np.arange(pieces.force.shape[2])
    M = powers @ pieces.force[piece, 4]
    for held, take in ((L.top, np.minimum), (L.bottom, np.maximum)):
        own = held[row]
        if own.any():
            M[own] = take(M[own], 0.0)
    whole = np.maximum(L.x1 - L.x0, 1e-9)[row, None]
    share = (pieces.start[piece, None] + t - L.x0[row, None]) / whole
    each = waves(M, share, pieces.length[piece, None] * weight / 2 / whole)
    if len(piece) == len(first):
        return each
    return np.asarray(np.add.reduceat(each, np.flatnonzero(np.r_[True, np.diff(row) > 0]), axis=0))


def in_rows(pieces: Pieces, project: Project, lines: Lines) -> Pieces:
    """Pieces of members as those of the rows they are looked at in: of their lines, in order along these and in their
    axes; of members by themselves where lines have steps."""
    row = np.array([row_of(project, lines, m) for m in np.unique(pieces.member).tolist()], np.intp)
    row = row[np.unique(pieces.member, return_inverse=True)[1]]
    start, force = pieces.start.copy(), pieces.force
    joined = row < len(lines.members)
    sign = np.where(joined[:, None], lines.signs[pieces.member], 1.0)
    start[joined] = (lines.offset[pieces.member] + lines.signs[pieces.member, 0] * start)[joined]
    back = np.flatnonzero(sign[:, 0] < 0)
    if len(back):
        force = force.copy()
        start[back] -= pieces.length[back]
        force[back] = _from_the_end(force[back], pieces.length[back])
    if (sign < 0).any():
        x, y, z = sign.T
        of_each = np.stack([np.ones_like(x), x * y, x * z, np.ones_like(x), z, y], axis=1)
        force = force * of_each[:, :, None, None]
    order = np.lexsort((start, row))
    return Pieces(row[order], pieces.element[order], start[order], pieces.length[order], force[order], None)


def _from_the_end(force: Floats, length: Floats) -> Floats:
    """Polynomials in t as those in length - t."""
    return np.asarray(shifted(force, length) * (-1.0) ** np.arange(force.shape[2])[:, None])


def shifted(force: Floats, by: Floats) -> Floats:
    """Polynomials (n, 6, powers, results) in t as those in t - by (n,)."""
    n = force.shape[2]
    turn = np.array([[comb(j, i) * (by ** (j - i) if j >= i else 0 * by) for j in range(n)] for i in range(n)])
    return np.asarray(np.einsum("ijn,nfjr->nfir", turn, force))


def cut_where(pieces: Pieces, L: Lengths) -> Pieces:
    """The pieces cut where stretches end within them."""
    asked = np.unique(np.round(np.concatenate([
        np.stack([L.row, at], axis=1) for at in (L.x0, L.x1, L.y0, L.y1, L.z0, L.z1)
    ]), 9), axis=0)  # fmt: skip
    known, rank = np.unique(pieces.member, return_inverse=True)
    own = np.searchsorted(known, asked[:, 0])
    apart = _apart(pieces)
    key = own * apart + asked[:, 1]
    piece = np.maximum(np.searchsorted(rank * apart + pieces.start, key, side="right") - 1, 0)
    t = asked[:, 1] - pieces.start[piece]
    inside = (rank[piece] == own) & (t > 1e-6) & (t < pieces.length[piece] - 1e-6)
    for i, at in sorted(zip(piece[inside].tolist(), t[inside].tolist(), strict=True), reverse=True):
        before, after = pieces.force[[i]], shifted(pieces.force[[i]], np.array([at]))
        keep = np.r_[: i + 1, i : len(pieces.start)]
        start, length, force = pieces.start[keep], pieces.length[keep], pieces.force[keep]
        start[i + 1] += at
        length[i + 1], length[i] = length[i] - at, at
        force[i], force[i + 1] = before[0], after[0]
        pieces = Pieces(pieces.member[keep], pieces.element[keep], start, length, force, None)
    return pieces
