"""Extremes along members of results with moving cases.

At a place x a result is v(x) = b(x) + sum of f_k E_k(x), with E_k the exact extreme over all positions. Its extremes
along x are looked for at the ends of pieces. Off the way E_k is convex between them, so that chords bound it, and
intervals are cut until none can hold more. Where wheels roll over, there are stations, and from the best of these on
steps of parabolas through three neighbours, each value of which is exact again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.paired import paired_forces
from ..analysis.moving.positions import Picks
from ..analysis.pieces import build_pieces
from ..analysis.polynomials import value_at
from ..analysis.solution import Pieces, Solution
from ..model.results import Results
from .moving import Moving, moving_of
from .moving_search import Found, Search, Still
from .moving_stations import NEAR_STEPPED, NEAR_TOP, begins, kinks, loaded_pieces, local_peaks, stations
from .patterns import Patterns, patterns

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]

VALUES = 3_000_000
"""Values of results held at a time."""
SAME = 1e-9
SIX = np.eye(6)
LOOKED_AT = np.array([0.0, 0.31, 0.5, 0.77, 1.0])
"""Places on each piece, as shares, at which it is seen whether there is a force at all."""


@dataclass(frozen=True)
class AlongMoving:
    """Of members and components (m, c) the least and greatest (..., 2): place x [m], result, which parts that may be
    absent are there, and the value; picks: positions of every moving case, in the order of the flat table."""

    x: Floats
    result: Ints
    there: Bools
    value: Floats
    forces: Floats
    picks: list[Picks]
    moving: Moving


def extremes_along(solution: Solution, results: Results, members: Ints, share: Floats) -> AlongMoving:
    """Least and greatest of components with shares (components, 6) of N Vy Vz T My Mz, or shares of each member's own
    (members, components, 6), along members, over results."""
    free, moving = patterns(solution, results), moving_of(solution, results)
    weights = np.hstack([free.base, free.parts])
    share = np.broadcast_to(share, (len(members), *share.shape[-2:]))
    block = max(1, VALUES // (6 * share.shape[1] * 4 * weights.shape[1]))
    done = [
        _block(solution, free, moving, members[i : i + block], weights, share[i : i + block])
        for i in range(0, len(members), block)
    ]
    return _joined(done)


def _joined(parts: Sequence[AlongMoving]) -> AlongMoving:
    x, result, there, value, forces = (
        np.concatenate([getattr(p, f) for p in parts]) for f in ("x", "result", "there", "value", "forces")
    )
    picks = [Picks.joined([p.picks[k] for p in parts]) for k in range(len(parts[0].picks))]
    return AlongMoving(x, result, there, value, forces, picks, parts[0].moving)


def _block(
    solution: Solution, free: Patterns, moving: Moving, members: Ints, weights: Floats, share: Floats
) -> AlongMoving:
    still = Still(build_pieces(solution, members, weights), free)
    pieces, components = still.pieces, share.shape[1]
    loaded = loaded_pieces(moving, pieces)
    piece, t = stations(pieces, loaded, kinks(moving, pieces, loaded))
    n = len(piece)
    # Every station with every component: rows station * components + component.
    row_piece, row_t = np.repeat(piece, components), np.repeat(t, components)
    rank = np.cumsum(begins(pieces.member)) - 1
    row_share = share[rank[piece]].reshape(-1, 6)
    search = Search(solution, still, moving, loaded)
    value = search.value(row_piece, row_t, row_share).reshape(n, components, 2, -1)
    best = value.max(axis=3)
    first = np.flatnonzero(begins(pieces.member[piece]))
    near = NEAR_STEPPED if moving.stepped else NEAR_TOP
    chosen = local_peaks(best, first, near, len(members))
    m, c, side, station = chosen
    climbed = search.climb(piece[station], t[station], best[station, c, side], share[m, c], side)
    leader = np.maximum.reduceat(best, first, axis=0)
    between, key = search.between(rank, share, leader)
    m, c, side = (np.concatenate(pair) for pair in zip((m, c, side), np.unravel_index(key, leader.shape), strict=True))
    found = Found(*(np.concatenate([getattr(f, name) for f in (climbed, between)]) for name in FOUND))
    return _table(search, found, m, c, side, share, (len(members), components))


FOUND = ("piece", "t", "value")


def _table(
    search: Search, found: Found, m: Ints, c: Ints, side: Ints, share: Floats, shape: tuple[int, int]
) -> AlongMoving:
    """The best climb of every member, component and side, with the forces there and then."""
    pieces, free = search.still.pieces, search.still.free
    key = (m * shape[1] + c) * 2 + side
    scale = np.zeros(key.max() + 1)
    np.maximum.at(scale, key, np.abs(found.value))
    along = pieces.start[found.piece] + found.t
    top = np.full(len(scale), -np.inf)
    np.maximum.at(top, key, found.value)
    near = found.value >= top[key] - 1e-11 * scale[key]
    order = np.lexsort((along, ~near, key))
    first = order[np.unique(key[order], return_index=True)[1]]
    piece, t = found.piece[first], found.t[first]
    own_share, own_side = share[m[first], c[first]], side[first]
    still, there = search.still.at(piece, t, own_share)
    looked = search.moving.look(search.make(piece, t, own_share), search.groups(piece, t))
    value = (still + search.moving.added(looked.worst))[np.arange(len(first)), own_side]
    sign = np.where(own_side == 1, 1.0, -1.0)
    worse = sign[:, None] * value
    result = (worse >= (worse.max(axis=1) - 1e-11 * np.abs(worse).max(axis=1))[:, None]).argmax(axis=1)
    each = np.arange(len(first))
    present = there[each, own_side, :, result]
    picks = search.moving.picks(looked, each, own_side, result)
    forces = _forces(search, piece, t, result, present, picks, own_share, value[each, result])
    flat = (*shape, 2)
    return AlongMoving(
        (pieces.start[piece] + t).reshape(flat), result.reshape(flat),
        present.reshape(*flat, len(free.case)), value[each, result].reshape(flat), forces.reshape(*flat, 6),
        picks, search.moving,
    )  # fmt: skip


def _forces(
    search: Search,
    piece: Ints,
    t: Floats,
    result: Ints,
    present: Bools,
    picks: list[Picks],
    share: Floats,
    value: Floats,
) -> Floats:
    """N Vy Vz T My Mz (n, 6) there and then; of the two sides of a wheel at the place itself the one of the
    value."""
    pieces, free, mesh = search.still.pieces, search.still.free, search.solution.mesh
    forces = value_at(pieces.force[piece], t)
    each, count = np.arange(len(piece)), free.base.shape[1]
    out = forces[each, :, result].copy()
    if free.case:
        own = np.where(present, free.factor[:, result].T, 0.0)
        out += np.einsum("nfp,np->nf", forces[:, :, count:], own)
    element = pieces.element[piece]
    x = np.clip(pieces.start[piece] + t - mesh.s0[element], 0.0, mesh.length[element])
    sides = [out.copy(), out.copy()]
    for k, (mover, put) in enumerate(zip(search.moving.movers, search.moving.puts(picks), strict=True)):
        for after, total in ((False, sides[0]), (True, sides[1])):
            own = paired_forces(mover.units, put, element, x, each, np.full(len(each), after))
            total += search.moving.factor[k, result][:, None] * own
    off = [np.abs((share * s).sum(axis=1) - value) for s in sides]
    return np.where((off[0] <= off[1])[:, None], sides[0], sides[1])


def seen_forces(solution: Solution, results: Results, members: Ints) -> Floats:
    """The size (6,) of each of N Vy Vz T My Mz at some places along members, over results: nought for what there is
    not at all, as out of the plane of a frame."""
    free, moving = patterns(solution, results), moving_of(solution, results)
    still = Still(build_pieces(solution, members, np.hstack([free.base, free.parts])), free)
    search = Search(solution, still, moving, loaded_pieces(moving, still.pieces))
    count = len(still.pieces.member)
    piece = np.repeat(np.arange(count), len(LOOKED_AT) * 6)
    t = np.repeat(still.pieces.length[:, None] * LOOKED_AT, 6)
    value = search.value(piece, t, np.tile(np.eye(6), (count * len(LOOKED_AT), 1)))
    return np.asarray(np.abs(value).reshape(-1, 6, *value.shape[1:]).max(axis=(0, 2, 3), initial=0.0))


def station_extremes(
    solution: Solution, results: Results, members: Ints, x: Floats, share: Floats = SIX
) -> tuple[Floats, Ints, Bools, list[Picks], Moving]:
    """At positions x (members, stations) [m]: least and greatest of components with shares (components, 6) of N Vy Vz T
    My Mz, of these themselves without (m, s, components, 2), the result, which parts are there, and the positions, in
    the order of the flat table. Where a force jumps both sides count."""
    found = at_stations(solution, results, members, x, share)
    return found.value, found.result, found.there, found.picks, found.moving


def at_stations(
    solution: Solution, results: Results, members: Ints, x: Floats, share: Floats, with_forces: bool = False
) -> AlongMoving:
    """As station_extremes, or with shares of each station's own (members, stations, components, 6); with the forces
    there and then."""
    free, moving = patterns(solution, results), moving_of(solution, results)
    weights = np.hstack([free.base, free.parts])
    still = Still(build_pieces(solution, members, weights), free)
    search = Search(solution, still, moving, loaded_pieces(moving, still.pieces))
    member, s = np.repeat(members, x.shape[1]), x.ravel()
    both = []
    for way in (-1, 1):
        piece = _piece_at(still.pieces, members, member, s, way)
        both.append((piece, np.clip(s - still.pieces.start[piece], 0.0, still.pieces.length[piece])))
    n, k = len(s), share.shape[-2]
    share = np.broadcast_to(share, (*x.shape, k, 6)).reshape(-1, 6)
    values = [search.value(np.repeat(p, k), np.repeat(t, k), share) for p, t in both]
    tops = [v.max(axis=2) for v in values]
    left = tops[0] >= tops[1] - 1e-11 * np.abs(tops[0])
    out_value, out_result = np.zeros((k * n, 2)), np.zeros((k * n, 2), np.intp)
    there = np.zeros((k * n, 2, len(free.case)), bool)
    forces = np.zeros((k * n, 2, 6))
    train: list[list[Picks]] = []
    for side in (0, 1):
        use = np.where(left[:, side], 0, 1)
        piece = np.where(use == 0, np.repeat(both[0][0], k), np.repeat(both[1][0], k))
        t = np.where(use == 0, np.repeat(both[0][1], k), np.repeat(both[1][1], k))
        own, present = still.at(piece, t, share)
        looked = moving.look(search.make(piece, t, share), search.groups(piece, t))
        value = (own + moving.added(looked.worst))[:, side]
        worse = value * (1.0 if side else -1.0)
        result = (worse >= (worse.max(axis=1) - 1e-11 * np.abs(worse).max(axis=1))[:, None]).argmax(axis=1)
        each = np.arange(k * n)
        out_value[:, side], out_result[:, side] = value[each, result], result
        there[:, side] = present[each, side, :, result]
        train.append(moving.picks(looked, each, np.full(k * n, side), result))
        if with_forces:
            forces[:, side] = _forces(search, piece, t, result, there[:, side], train[-1], share, value[each, result])
    turns = (np.arange(k * n)[:, None] + np.array([0, k * n])).ravel()
    picks = [Picks.joined([train[0][i], train[1][i]]).rows(turns) for i in range(len(moving.movers))]
    shape = (*x.shape, k, 2)
    at = np.broadcast_to(x[:, :, None, None], shape)
    return AlongMoving(at, out_result.reshape(shape), there.reshape(*shape, -1), out_value.reshape(shape),
                       forces.reshape(*shape, 6), picks, moving)  # fmt: skip


def _piece_at(pieces: Pieces, members: Ints, member: Ints, s: Floats, way: int) -> Ints:
    """The piece of members (n,) at s [m]; where two meet the one before (-1) or after (1)."""
    first = {int(m): i for m, i in zip(*np.unique(pieces.member, return_index=True), strict=True)}
    count = {int(m): int(k) for m, k in zip(*np.unique(pieces.member, return_counts=True), strict=True)}
    out = np.zeros(len(s), np.intp)
    for i, (m, at) in enumerate(zip(member.tolist(), s.tolist(), strict=True)):
        a, n = first[m], count[m]
        k = int(np.searchsorted(pieces.start[a : a + n], at + way * SAME, side="right")) - 1
        out[i] = a + min(max(k, 0), n - 1)
    return out
