"""Extremes along members of results with moving cases.

At a place x a result is v(x) = b(x) + sum of f_k E_k(x), with E_k the exact extreme over all positions. Its extremes
along x are looked for at the ends of pieces. Off the way E_k is convex between them, so that chords bound it, and
intervals are cut until none can hold more. Where wheels roll over, there are stations, and from the best of these on
steps of parabolas through three neighbours, each value of which is exact again.

           v   .-.
             .'   '.__        a - x - c: the best station and its neighbours
          __'         '.
        a     x     c
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.bernstein import basis, from_samples, samples, stationary
from ..analysis.moving.mover import Picks
from ..analysis.moving.paired import paired_forces
from ..analysis.moving.places import Places, forces_at
from ..analysis.moving.units import Units
from ..analysis.pieces import build_pieces
from ..analysis.polynomials import value_at
from ..analysis.solution import Pieces, Solution
from ..model.results import Results
from .moving import Moving, moving_of
from .patterns import Patterns, patterns

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
ON_WAY, MOST_KINKS = 32, 300
"""Stations on every piece that wheels roll over; on others only the ends."""
BEST = 6
"""Local extremes of each member and component from which it is gone on."""
NEAR_TOP, NEAR_STEPPED = 0.08, 0.4
"""Of these only such as come so near to the best station: further ones cannot climb over it between stations; where
positions are stepped through, stations may lie between wheels."""
STEPS, SNAPS, CUTS = 24, 16, 40
FLAT = 1e-12
"""A step of a parabola that gains no more than this share is the last."""
SAME = 1e-9
JUST_INSIDE = 2e-7
VALUES = 3_000_000
"""Values of results held at a time."""


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


@dataclass(frozen=True)
class _Still:
    """What stands still: pieces of the members for the bases, and for parts that may be absent, in one table."""

    pieces: Pieces
    free: Patterns

    def at(self, piece: Ints, t: Floats, share: Floats) -> tuple[Floats, Bools]:
        """Least and greatest (n, 2, results) of components with shares (n, 6) of the forces, over patterns; and the
        parts (n, 2, parts, results) that are there."""
        forces = value_at(self.pieces.force[piece], t)
        value = np.einsum("nc,ncr->nr", share, forces)
        count = self.free.base.shape[1]
        base, parts = value[:, :count], value[:, count:, None] * self.free.factor
        there = np.stack([parts < 0, parts > 0], axis=1)
        added = np.where(there, parts[:, None], 0.0).sum(axis=2)
        return base[:, None] + added, there


def extremes_along(solution: Solution, results: Results, members: Ints, share: Floats) -> AlongMoving:
    """Least and greatest of components with shares (components, 6) of N Vy Vz T My Mz along members, over results."""
    free, moving = patterns(solution, results), moving_of(solution, results)
    weights = np.hstack([free.base, free.parts])
    block = max(1, VALUES // (6 * len(share) * 4 * weights.shape[1]))
    done = [
        _block(solution, free, moving, members[i : i + block], weights, share) for i in range(0, len(members), block)
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
    still = _Still(build_pieces(solution, members, weights), free)
    pieces, components = still.pieces, len(share)
    loaded = _loaded(moving, pieces)
    piece, t = _stations(pieces, loaded, _kinks(moving, pieces, loaded))
    n = len(piece)
    # Every station with every component: rows station * components + component.
    row_piece, row_t = np.repeat(piece, components), np.repeat(t, components)
    row_share = np.tile(share, (n, 1))
    search = _Search(solution, still, moving, loaded)
    value = search.value(row_piece, row_t, row_share).reshape(n, components, 2, -1)
    best = value.max(axis=3)
    first = np.flatnonzero(_begins(pieces.member[piece]))
    near = NEAR_STEPPED if moving.stepped else NEAR_TOP
    chosen = _chosen(best, first, near, len(members))
    m, c, side, station = chosen
    climbed = search.climb(piece[station], t[station], best[station, c, side], share[c], side)
    leader = np.maximum.reduceat(best, first, axis=0)
    between, key = search.between(np.cumsum(_begins(pieces.member)) - 1, share, leader)
    m, c, side = (np.concatenate(pair) for pair in zip((m, c, side), np.unravel_index(key, leader.shape), strict=True))
    found = _Found(*(np.concatenate([getattr(f, name) for f in (climbed, between)]) for name in FOUND))
    return search.table(found, m, c, side, share, (len(members), components))


FOUND = ("piece", "t", "value")


def _begins(member: Ints) -> Bools:
    """Whether a row is the first of its member."""
    return np.append(True, member[1:] != member[:-1])


def _loaded(moving: Moving, pieces: Pieces) -> Bools:
    """Which pieces wheels roll over."""
    elements = [m.whole.put.loaded for m in moving.movers]
    elements += [lane[1].loaded for m in moving.movers for lane in m.whole.lanes if lane is not None]
    return np.isin(pieces.element, np.concatenate(elements))


def _kinks(moving: Moving, pieces: Pieces, loaded: Bools) -> tuple[Ints, Floats]:
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


def _stations(pieces: Pieces, loaded: Bools, more: tuple[Ints, Floats]) -> tuple[Ints, Floats]:
    """Stations (see _even_stations), and `more` ones, in order along the members."""
    piece, t = _even_stations(pieces, loaded)
    piece, t = np.concatenate([piece, more[0]]), np.concatenate([t, more[1]])
    order = np.lexsort((t, piece))
    return piece[order], t[order]


def _even_stations(pieces: Pieces, loaded: Bools) -> tuple[Ints, Floats]:
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


def _chosen(best: Floats, first: Ints, near: float, members: int) -> tuple[Ints, Ints, Ints, Ints]:
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


@dataclass(frozen=True)
class _Found:
    """Of climbs (n,): piece, place on it, value (positive where it is worse)."""

    piece: Ints
    t: Floats
    value: Floats


@dataclass(frozen=True)
class _Search:
    solution: Solution
    still: _Still
    moving: Moving
    loaded: Bools

    def make(self, piece: Ints, t: Floats, share: Floats) -> Callable[[Units], Places]:
        """Rows at places on pieces, from unit answers."""
        pieces, mesh = self.still.pieces, self.solution.mesh
        element = pieces.element[piece]
        x = np.minimum(pieces.start[piece] + t - mesh.s0[element], mesh.length[element])
        return lambda units: forces_at(units, element, np.maximum(x, 0.0), share)

    def groups(self, piece: Ints, t: Floats) -> list[tuple[Ints, dict[int, Floats]]]:
        """Rows off the loaded elements, then those on each of them with their places by member."""
        pieces = self.still.pieces
        out: list[tuple[Ints, dict[int, Floats]]] = []
        off = np.flatnonzero(~self.loaded[piece])
        if len(off):
            out.append((off, {}))
        element = np.where(self.loaded[piece], pieces.element[piece], -1)
        for e in np.unique(element[element >= 0]).tolist():
            rows = np.flatnonzero(element == e)
            s = np.unique(pieces.start[piece[rows]] + t[rows])
            out.append((rows, {int(pieces.member[piece[rows[0]]]): s}))
        return out

    def value(self, piece: Ints, t: Floats, share: Floats) -> Floats:
        """Least and greatest of rows (n, 2, results), both positive where they are worse."""
        still, _ = self.still.at(piece, t, share)
        looked = self.moving.look(self.make(piece, t, share), self.groups(piece, t))
        return np.asarray((still + self.moving.added(looked.worst)) * np.array([-1.0, 1.0])[:, None])

    def _may_peak(self, piece: Ints, share: Floats, side: Ints) -> Bools:
        """Whether rows may be extreme between the ends of their pieces: where wheels roll, or what stands still bends
        that way. Elsewhere positions make a convex function of x, and a sum of such has its top at an end."""
        c = np.einsum("nc,nckr->nkr", share, self.still.pieces.force[piece])
        bends = np.where(side == 1, -1.0, 1.0)[:, None] * c[:, 2] > 0
        return np.asarray(self.loaded[piece] | bends.any(axis=1) | (c[:, 3:] != 0).any(axis=(1, 2)))

    def climb(self, piece: Ints, t: Floats, value: Floats, share: Floats, side: Ints) -> _Found:
        """From stations (n,) with their values on to the extreme near them, on their own piece."""
        best_t, best_v = t.copy(), value.copy()
        on = np.flatnonzero(self.loaded[piece])
        if not len(on):
            return _Found(piece, best_t, best_v)
        own = piece[on], t[on], value[on], share[on], side[on]
        if self.moving.stepped:
            best_t[on], best_v[on] = self._stepped(*own)
        else:
            best_t[on], best_v[on] = self._climb(*own)
        return _Found(piece, best_t, best_v)

    def _stepped(self, own: Ints, at: Floats, value: Floats, share: Floats, side: Ints) -> tuple[Floats, Floats]:
        """Where positions are stepped through the peaks are kinks below wheels: from the stations, and from where the
        peak of a traffic without steps is, on to those near by."""
        smooth = replace(self, moving=self.moving.continuous)
        top = smooth.value(own, at, share)[np.arange(len(own)), side].max(axis=1)
        peak, _ = smooth._climb(own, at, top, share, side)
        v = self.value(own, peak, share)[np.arange(len(own)), side].max(axis=1)
        best_t, best_v = np.where(v > value, peak, at), np.maximum(v, value)
        self._snap(own, best_t, best_v, share, side)
        return best_t, best_v

    def between(self, rank: Ints, shares: Floats, leader: Floats) -> tuple[_Found, Ints]:
        """Off the way, where what positions make is convex along a piece, no more than its chord: an interval whose
        bound is above the best of its member (by rank (pieces,)), component and side, `leader` (members, components,
        2), is cut at the place of the bound, until none is. Places better than the leader, and whose they are."""
        off = np.flatnonzero(~self.loaded)
        components = len(shares)
        own, c, side = (v.ravel() for v in np.meshgrid(off, np.arange(components), [0, 1], indexing="ij"))
        some = np.flatnonzero(self._may_peak(own, shares[c], side))
        own, c, side = own[some], c[some], side[some]
        if not len(own):
            return _Found(own, np.zeros(0), np.zeros(0)), own
        share, key = shares[c], np.ravel_multi_index((rank[own], c, side), leader.shape)
        best = leader.ravel().copy()
        at, of = np.zeros(len(best)), np.full(len(best), -1)
        row = np.arange(len(own))
        ends = [np.zeros(len(own)), self.still.pieces.length[own]]
        added = [self._added(own, t, share, side) for t in ends]
        for _ in range(CUTS):
            least = best[key[row]] + 1e-11 * np.abs(best[key[row]])
            bound, u = self._bound(own[row], ends[0], ends[1], added[0], added[1], share[row], side[row], least)
            open_ = np.flatnonzero((bound > least) & (ends[1] - ends[0] > SAME))
            if not len(open_):
                break
            row, u = row[open_], u[open_]
            ends, added = [e[open_] for e in ends], [a[open_] for a in added]
            t = ends[0] + np.clip(u, 0.02, 0.98) * (ends[1] - ends[0])
            middle = self._added(own[row], t, share[row], side[row])
            sign = np.where(side[row] == 1, 1.0, -1.0)
            still = self.still.at(own[row], t, share[row])[0][np.arange(len(row)), side[row]]
            v = (sign[:, None] * still + middle).max(axis=1)
            order = np.lexsort((-v, key[row]))
            first = order[np.unique(key[row][order], return_index=True)[1]]
            better = first[v[first] > best[key[row[first]]]]
            whose = key[row[better]]
            best[whose], at[whose], of[whose] = v[better], t[better], own[row[better]]
            row = np.concatenate([row, row])
            ends = [np.concatenate([ends[0], t]), np.concatenate([t, ends[1]])]
            added = [np.vstack([added[0], middle]), np.vstack([middle, added[1]])]
        found = np.flatnonzero(of >= 0)
        return _Found(of[found], at[found], best[found]), found

    def _added(self, piece: Ints, t: Floats, share: Floats, side: Ints) -> Floats:
        """What positions add to rows (n, results), positive where it is worse."""
        looked = self.moving.look(self.make(piece, t, share), self.groups(piece, t))
        own = self.moving.added(looked.worst)[np.arange(len(piece)), side]
        return np.asarray(own * np.where(side == 1, 1.0, -1.0)[:, None])

    def _bound(
        self, piece: Ints, a: Floats, b: Floats, at_a: Floats, at_b: Floats, share: Floats, side: Ints, least: Floats
    ) -> tuple[Floats, Floats]:
        """No result of rows is more than this between a and b; and the share of that length at which the bound is."""
        force, free = self.still.pieces.force, self.still.free
        degree = force.shape[2] - 1
        u = samples(degree)
        t = a[:, None] + (b - a)[:, None] * u
        c = np.einsum("nc,nckr->nkr", share, force[piece]) * np.where(side == 1, 1.0, -1.0)[:, None, None]
        value = np.einsum("nkr,njk->njr", c, t[:, :, None] ** np.arange(degree + 1))
        coefficients = from_samples(value).swapaxes(1, 2)
        count = free.base.shape[1]
        total = coefficients[:, :count].copy()
        for k, factor in enumerate(free.factor):
            part = coefficients[:, count + k, None] * factor[:, None]
            low, high = part.min(axis=2, keepdims=True), part.max(axis=2, keepdims=True)
            total += np.where(low >= 0, part, np.maximum(high, 0.0))
        step = np.arange(degree + 1) / degree
        total += at_a[:, :, None] + (at_b - at_a)[:, :, None] * step
        top = total.max(axis=2)
        best, where = np.full(len(piece), -np.inf), np.full(len(piece), 0.5)
        n, r = np.nonzero(top > least[:, None])
        inner = total[n, r]
        tried = [np.zeros(len(n)), np.ones(len(n)), *stationary(inner)] if len(n) else []
        for place in tried:
            v = (inner * basis(degree, place)).sum(axis=1)
            order = np.lexsort((-v, n))
            rows, first = np.unique(n[order], return_index=True)
            first = order[first]
            better = v[first] > best[rows]
            best[rows[better]], where[rows[better]] = v[first][better], place[first][better]
        return best, where

    def _climb(self, own: Ints, at: Floats, value: Floats, share: Floats, side: Ints) -> tuple[Floats, Floats]:
        pieces = self.still.pieces
        each = np.arange(len(own))
        gap = pieces.length[own] / ON_WAY
        a, c = np.maximum(at - gap, 0.0), np.minimum(at + gap, pieces.length[own])
        x = np.where(a < at, np.where(at < c, at, (a + c) / 2), (a + c) / 2)

        def of(t_: Floats, rows: Ints) -> Floats:
            return np.asarray(self.value(own[rows], t_, share[rows])[np.arange(len(rows)), side[rows]].max(axis=1))

        va, vx, vc = of(a, each), of(x, each), of(c, each)
        best_t, best_v = at.copy(), value.copy()
        least = 1e-12 * np.abs(value)
        for t_, v in ((a, va), (x, vx), (c, vc)):
            better = v > best_v + least
            best_t, best_v = np.where(better, t_, best_t), np.where(better, v, best_v)
        active = np.flatnonzero(c - a > SAME)
        golden = (3 - np.sqrt(5)) / 2
        for step in range(STEPS):
            if not len(active):
                break
            i = active
            u = _parabola(a[i], x[i], c[i], va[i], vx[i], vc[i])
            wide = c[i] - x[i] > x[i] - a[i]
            gold = np.where(wide, x[i] + golden * (c[i] - x[i]), x[i] - golden * (x[i] - a[i]))
            good = (
                np.isfinite(u) & (u > a[i]) & (u < c[i]) & (np.abs(u - x[i]) > 1e-7 * (c[i] - a[i])) & (step % 4 != 3)
            )
            u = np.where(good, u, gold)
            vu = of(u, i)
            settled = good & (np.abs(vu - vx[i]) <= FLAT * np.abs(vx[i]))
            settled |= good & (np.abs(u - x[i]) <= 1e-6 * pieces.length[own[i]])
            better = vu > best_v[i] + least[i]
            best_t[i], best_v[i] = np.where(better, u, best_t[i]), np.where(better, vu, best_v[i])
            up, right = vu >= vx[i], u > x[i]
            lower_a = up & right | ~up & ~right
            new_a, new_va = np.where(up, x[i], u), np.where(up, vx[i], vu)
            a[i], va[i] = np.where(lower_a, new_a, a[i]), np.where(lower_a, new_va, va[i])
            c[i], vc[i] = np.where(lower_a, c[i], new_a), np.where(lower_a, vc[i], new_va)
            x[i], vx[i] = np.where(up, u, x[i]), np.where(up, vu, vx[i])
            active = i[~settled & (c[i] - a[i] > 1e-7 * np.maximum(pieces.length[own[i]], 1e-3))]
        return best_t, best_v

    def _snap(self, own: Ints, best_t: Floats, best_v: Floats, share: Floats, side: Ints) -> None:
        """On to the wheels of the worst positions, and to those a few steps further, in place."""
        steps = [m.step for m in self.moving.movers if m.step]
        active = np.arange(len(own))
        length = self.still.pieces.length
        for _ in range(SNAPS):
            if not len(active):
                return
            row, t = self._wheels_near(own[active], best_t[active], share[active], side[active])
            more = [(np.arange(len(active)), best_t[active] + k * s) for s in steps for k in (-8, -1, 1, 8)]
            row = np.concatenate([row, *(r for r, _ in more)])
            t = np.clip(np.concatenate([t, *(v for _, v in more)]), 0.0, length[own[active[row]]])
            of = active[row]
            v = self.value(own[of], t, share[of])[np.arange(len(of)), side[of]].max(axis=1)
            order = np.lexsort((-v, row))
            row, first = np.unique(row[order], return_index=True)
            t, v = t[order][first], v[order][first]
            better = v > best_v[active[row]] + 1e-12 * np.abs(v)
            active = active[row[better]]
            best_t[active], best_v[active] = t[better], v[better]

    def _wheels_near(self, piece: Ints, t: Floats, share: Floats, side: Ints) -> tuple[Ints, Floats]:
        """The wheels on their pieces nearest to places, before and after, of the worst positions there: rows,
        places."""
        pieces = self.still.pieces
        looked = self.moving.look(self.make(piece, t, share), self.groups(piece, t))
        value = (self.still.at(piece, t, share)[0] + self.moving.added(looked.worst)) * np.array([-1.0, 1.0])[:, None]
        each = np.arange(len(piece))
        result = value[each, side].argmax(axis=1)
        rows, places = [], []
        for mover, picks in zip(self.moving.movers, self.moving.picks(looked, each, side, result), strict=True):
            for i in each.tolist():
                x = mover.wheels_on(picks, i, int(pieces.member[piece[i]])) - pieces.start[piece[i]]
                x = x[(x >= 0) & (x <= pieces.length[piece[i]])]
                for part in (x[x <= t[i]], x[x >= t[i]]):
                    if len(part):
                        rows.append(i)
                        places.append(float(part[np.abs(part - t[i]).argmin()]))
        return np.array(rows, np.intp), np.array(places)

    def table(self, found: _Found, m: Ints, c: Ints, side: Ints, share: Floats, shape: tuple[int, int]) -> AlongMoving:
        """The best climb of every member, component and side, with the forces there and then."""
        pieces, free = self.still.pieces, self.still.free
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
        own_share, own_side = share[c[first]], side[first]
        still, there = self.still.at(piece, t, own_share)
        looked = self.moving.look(self.make(piece, t, own_share), self.groups(piece, t))
        value = (still + self.moving.added(looked.worst))[np.arange(len(first)), own_side]
        sign = np.where(own_side == 1, 1.0, -1.0)
        worse = sign[:, None] * value
        result = (worse >= (worse.max(axis=1) - 1e-11 * np.abs(worse).max(axis=1))[:, None]).argmax(axis=1)
        each = np.arange(len(first))
        present = there[each, own_side, :, result]
        picks = self.moving.picks(looked, each, own_side, result)
        forces = self._forces(piece, t, result, present, picks, own_share, value[each, result])
        flat = (*shape, 2)
        return AlongMoving(
            (pieces.start[piece] + t).reshape(flat), result.reshape(flat),
            present.reshape(*flat, len(free.case)), value[each, result].reshape(flat), forces.reshape(*flat, 6),
            picks, self.moving,
        )  # fmt: skip

    def _forces(
        self, piece: Ints, t: Floats, result: Ints, present: Bools, picks: list[Picks], share: Floats, value: Floats
    ) -> Floats:
        """N Vy Vz T My Mz (n, 6) there and then; of the two sides of a wheel at the place itself the one of the
        value."""
        pieces, free, mesh = self.still.pieces, self.still.free, self.solution.mesh
        forces = value_at(pieces.force[piece], t)
        each, count = np.arange(len(piece)), free.base.shape[1]
        out = forces[each, :, result].copy()
        if free.case:
            own = np.where(present, free.factor[:, result].T, 0.0)
            out += np.einsum("nfp,np->nf", forces[:, :, count:], own)
        element = pieces.element[piece]
        x = np.clip(pieces.start[piece] + t - mesh.s0[element], 0.0, mesh.length[element])
        sides = [out.copy(), out.copy()]
        for k, (mover, put) in enumerate(zip(self.moving.movers, self.moving.puts(picks), strict=True)):
            for after, total in ((False, sides[0]), (True, sides[1])):
                own = paired_forces(mover.units, put, element, x, each, np.full(len(each), after))
                total += self.moving.factor[k, result][:, None] * own
        off = [np.abs((share * s).sum(axis=1) - value) for s in sides]
        return np.where((off[0] <= off[1])[:, None], sides[0], sides[1])


def _parabola(a: Floats, x: Floats, c: Floats, va: Floats, vx: Floats, vc: Floats) -> Floats:
    """Where the parabola through three points has its top; nan where it has none."""
    with np.errstate(divide="ignore", invalid="ignore"):
        p, q = (x - a) * (vx - vc), (x - c) * (vx - va)
        return np.asarray(x - ((x - a) * p - (x - c) * q) / (2 * (p - q)))


def station_extremes(
    solution: Solution, results: Results, members: Ints, x: Floats
) -> tuple[Floats, Ints, Bools, list[Picks], Moving]:
    """At positions x (members, stations) [m]: least and greatest of N Vy Vz T My Mz (m, s, 6, 2), the result, which
    parts are there, and the positions, in the order of the flat table. Where a force jumps both sides count."""
    free, moving = patterns(solution, results), moving_of(solution, results)
    weights = np.hstack([free.base, free.parts])
    still = _Still(build_pieces(solution, members, weights), free)
    search = _Search(solution, still, moving, _loaded(moving, still.pieces))
    member, s = np.repeat(members, x.shape[1]), x.ravel()
    both = []
    for way in (-1, 1):
        piece = _piece_at(still.pieces, members, member, s, way)
        both.append((piece, np.clip(s - still.pieces.start[piece], 0.0, still.pieces.length[piece])))
    n = len(s)
    share = np.tile(np.eye(6), (n, 1))
    values = [search.value(np.repeat(p, 6), np.repeat(t, 6), share) for p, t in both]
    tops = [v.max(axis=2) for v in values]
    left = tops[0] >= tops[1] - 1e-11 * np.abs(tops[0])
    out_value, out_result = np.zeros((6 * n, 2)), np.zeros((6 * n, 2), np.intp)
    there = np.zeros((6 * n, 2, len(free.case)), bool)
    train: list[list[Picks]] = []
    for side in (0, 1):
        use = np.where(left[:, side], 0, 1)
        piece = np.where(use == 0, np.repeat(both[0][0], 6), np.repeat(both[1][0], 6))
        t = np.where(use == 0, np.repeat(both[0][1], 6), np.repeat(both[1][1], 6))
        own, present = still.at(piece, t, share)
        looked = moving.look(search.make(piece, t, share), search.groups(piece, t))
        value = (own + moving.added(looked.worst))[:, side]
        worse = value * (1.0 if side else -1.0)
        result = (worse >= (worse.max(axis=1) - 1e-11 * np.abs(worse).max(axis=1))[:, None]).argmax(axis=1)
        each = np.arange(6 * n)
        out_value[:, side], out_result[:, side] = value[each, result], result
        there[:, side] = present[each, side, :, result]
        train.append(moving.picks(looked, each, np.full(6 * n, side), result))
    turns = (np.arange(6 * n)[:, None] + np.array([0, 6 * n])).ravel()
    picks = [Picks.joined([train[0][k], train[1][k]]).rows(turns) for k in range(len(moving.movers))]
    shape = (*x.shape, 6, 2)
    return out_value.reshape(shape), out_result.reshape(shape), there.reshape(*shape, -1), picks, moving


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
