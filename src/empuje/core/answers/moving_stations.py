"""Stations along members at which the extremes of moving cases are looked for first."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Pieces
from .moving import Moving

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
ON_WAY, MOST_KINKS = 32, 300
"""Stations on every piece that wheels roll over; on others only the ends."""
JUST_INSIDE = 2e-7
BEST = 6
"""Local extremes of each member and component from which it is gone on."""
NEAR_TOP, NEAR_STEPPED = 0.08, 0.4
"""Of these only such as come so near to the best station: further ones cannot climb over it between stations; where
positions are stepped through, stations may lie between wheels."""


def begins(member: Ints) -> Bools:
    """Whether a row is the first of its member."""
    return np.append(True, member[1:] != member[:-1])


def loaded_pieces(moving: Moving, pieces: Pieces) -> Bools:
    """Which pieces wheels roll over."""
    elements = [m.whole.put.loaded for m in moving.movers]
    elements += [lane[1].loaded for m in moving.movers for lane in m.whole.lanes if lane is not None]
    return np.isin(pieces.element, np.concatenate(elements))


def kinks(moving: Moving, pieces: Pieces, loaded: Bools) -> tuple[Ints, Floats]:
    """Where positions that are stepped through put wheels on loaded pieces: piece, place on it; of pieces with not too
    many."""
    members = np.unique(pieces.member[loaded])
    rows: list[Ints] = [np.zeros(0, np.intp)]
    places: list[Floats] = [np.zeros(0)]
    for mover in (m for m in moving.movers if m.step):
        member, x = mover.stepped_wheels(MOST_KINKS * len(members))
        for m in members.tolist():
            own = np.flatnonzero(loaded & (pieces.member == m))
            at = np.unique(np.round(x[member == m], 9))
            k = np.clip(np.searchsorted(pieces.start[own], at, side="right") - 1, 0, len(own) - 1)
            t = at - pieces.start[own[k]]
            good = (t >= 0) & (t <= pieces.length[own[k]])
            good &= np.bincount(k, minlength=len(own))[k] <= MOST_KINKS
            rows.append(own[k[good]])
            places.append(t[good])
    return np.concatenate(rows), np.concatenate(places)


def stations(pieces: Pieces, loaded: Bools, more: tuple[Ints, Floats]) -> tuple[Ints, Floats]:
    """Stations (see even_stations), and `more` ones, in order along the members."""
    piece, t = even_stations(pieces, loaded)
    piece, t = np.concatenate([piece, more[0]]), np.concatenate([t, more[1]])
    order = np.lexsort((t, piece))
    return piece[order], t[order]


def even_stations(pieces: Pieces, loaded: Bools) -> tuple[Ints, Floats]:
    """Piece and place on it of all stations, in order along the members: both ends of every piece; on loaded ones also
    between, and just inside the ends, where a wheel may stand on either side."""
    count = np.where(loaded, ON_WAY, 1) + 1
    more = np.where(loaded & (pieces.length > 10 * JUST_INSIDE), 2, 0)
    whole = count + more
    piece = np.repeat(np.arange(len(count)), whole)
    number = np.arange(len(piece)) - np.repeat(np.cumsum(whole) - whole, whole)
    inner = more[piece] > 0
    last = number == whole[piece] - 1
    step = np.where(inner, np.clip(number - 1, 0, None) - last, number)
    t = pieces.length[piece] * step / (count[piece] - 1)
    t = np.where(inner & (number == 1), JUST_INSIDE, t)
    before_last = inner & (number == whole[piece] - 2)
    return piece, np.where(before_last, pieces.length[piece] - JUST_INSIDE, t)


def local_peaks(best: Floats, first: Ints, near: float, members: int) -> tuple[Ints, Ints, Ints, Ints]:
    """Of every member, component and side the best local extremes among its stations: member, component, side, station
    (n,). Values are positive where they are worse."""
    n, components, _ = best.shape
    size = np.diff(np.append(first, n))
    rows = []
    padded = np.full((n + 2, components, 2), -np.inf)
    padded[1:-1] = best
    before, after = padded[:-2].copy(), padded[2:].copy()
    before[first] = -np.inf
    after[np.append(first[1:], n) - 1] = -np.inf
    peak = (best >= before) & (best >= after)
    size_of = np.abs(best).max(axis=0)
    score = np.where(peak, np.round(best / np.where(size_of > 0, size_of, 1.0), 11), -np.inf)
    rank = np.repeat(np.arange(members), size)
    top = np.maximum.reduceat(score, first, axis=0)
    range_of = top - np.minimum.reduceat(np.where(np.isfinite(score), score, np.inf), first, axis=0)
    score = np.where(score >= (top - near * np.maximum(np.abs(top), range_of))[rank], score, -np.inf)
    for c in range(components):
        for side in range(2):
            order = np.lexsort((np.arange(n), -score[:, c, side], rank))
            place = np.arange(n) - np.repeat(np.cumsum(size) - size, size)
            top = order[(place < BEST) & np.isfinite(score[order, c, side])]
            rows.append(np.column_stack([rank[top], np.full(len(top), c), np.full(len(top), side), top]))
    m, c, side, station = np.concatenate(rows).T
    return m, c, side, station
