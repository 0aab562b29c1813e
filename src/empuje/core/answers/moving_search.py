"""From stations on to the peaks of results with moving cases along members, each value exact.

   v   .-.
     .'   '.__        a - x - c: the best station and its neighbours
  __'         '.
a     x     c
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.bernstein import basis, from_samples, samples, stationary
from ..analysis.moving.places import Places, forces_at
from ..analysis.moving.units import Units
from ..analysis.polynomials import value_at
from ..analysis.solution import Pieces, Solution
from .moving import Moving
from .moving_stations import JUST_INSIDE, ON_WAY
from .patterns import Patterns

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]

STEPS, SNAPS, CUTS = 24, 16, 40
PLACES = 32
"""So many places on the way are looked at with one set of legs, which each cuts further."""
SAME = 1e-9
FLAT = 1e-12
"""A step of a parabola that gains no more than this share is the last."""


@dataclass(frozen=True)
class Still:
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


@dataclass(frozen=True)
class Found:
    """Of climbs (n,): piece, place on it, value (positive where it is worse)."""

    piece: Ints
    t: Floats
    value: Floats


@dataclass(frozen=True)
class Search:
    """Extremes along members over what stands still and what moves; `loaded`: the pieces that wheels roll over."""

    solution: Solution
    still: Still
    moving: Moving
    loaded: Bools

    def make(self, piece: Ints, t: Floats, share: Floats) -> Callable[[Units], Places]:
        """Rows at places on pieces, from unit answers."""
        pieces, mesh = self.still.pieces, self.solution.mesh
        element = pieces.element[piece]
        x = np.minimum(pieces.start[piece] + t - mesh.s0[element], mesh.length[element])
        return lambda units: forces_at(units, element, np.maximum(x, 0.0), share)

    def groups(self, piece: Ints, t: Floats) -> list[tuple[Ints, dict[int, Floats]]]:
        """Rows off the loaded elements, then those on some of them at a time with their places by member."""
        pieces = self.still.pieces
        out: list[tuple[Ints, dict[int, Floats]]] = []
        off = np.flatnonzero(~self.loaded[piece])
        if len(off):
            out.append((off, {}))
        element = np.where(self.loaded[piece], pieces.element[piece], -1)
        together: list[Ints] = []
        asked: dict[int, Floats] = {}
        for e in np.unique(element[element >= 0]).tolist():
            rows = np.flatnonzero(element == e)
            s = np.unique(pieces.start[piece[rows]] + t[rows])
            if together and sum(map(len, asked.values())) + len(s) > PLACES:
                out.append((np.concatenate(together), asked))
                together, asked = [], {}
            member = int(pieces.member[piece[rows[0]]])
            together.append(rows)
            asked[member] = np.union1d(asked.get(member, np.zeros(0)), s)
        if together:
            out.append((np.concatenate(together), asked))
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

    def climb(self, piece: Ints, t: Floats, value: Floats, share: Floats, side: Ints) -> Found:
        """From stations (n,) with their values on to the extreme near them, on their own piece."""
        best_t, best_v = t.copy(), value.copy()
        on = np.flatnonzero(self.loaded[piece])
        if not len(on):
            return Found(piece, best_t, best_v)
        own = piece[on], t[on], value[on], share[on], side[on]
        if self.moving.stepped:
            best_t[on], best_v[on] = self._stepped(*own)
        else:
            best_t[on], best_v[on] = self._climb(*own)
        return Found(piece, best_t, best_v)

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

    def between(self, rank: Ints, shares: Floats, leader: Floats) -> tuple[Found, Ints]:
        """Off the way, where what positions make is convex along a piece, no more than its chord: an interval whose
        bound is above the best of its member (by rank (pieces,)), component and side, `leader` (members, components,
        2), is cut at the place of the bound, until none is. `shares`: of every member (members, components, 6). Places
        better than the leader, and whose they are."""
        off = np.flatnonzero(~self.loaded)
        components = shares.shape[1]
        own, c, side = (v.ravel() for v in np.meshgrid(off, np.arange(components), [0, 1], indexing="ij"))
        some = np.flatnonzero(self._may_peak(own, shares[rank[own], c], side))
        own, c, side = own[some], c[some], side[some]
        if not len(own):
            return Found(own, np.zeros(0), np.zeros(0)), own
        share, key = shares[rank[own], c], np.ravel_multi_index((rank[own], c, side), leader.shape)
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
        return Found(of[found], at[found], best[found]), found

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
            t = _off_ends(np.concatenate([t, *(v for _, v in more)]), length[own[active[row]]])
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
        found = self.moving.picks(looked, each, side, result, told=False)
        for mover, picks in zip(self.moving.movers, found, strict=True):
            for i in each.tolist():
                x = mover.wheels_on(picks, i, int(pieces.member[piece[i]])) - pieces.start[piece[i]]
                x = x[(x >= 0) & (x <= pieces.length[piece[i]])]
                for part in (x[x <= t[i]], x[x >= t[i]]):
                    if len(part):
                        rows.append(i)
                        places.append(float(part[np.abs(part - t[i]).argmin()]))
        return np.array(rows, np.intp), np.array(places)


def _off_ends(t: Floats, length: Floats) -> Floats:
    """Places on pieces; nearer to an end than wheels stand beside it is where a wheel may be on either side."""
    inside = np.minimum(JUST_INSIDE, length / 2)
    off = np.clip(t, inside, length - inside)
    return np.asarray(np.where((t <= 0) | (t >= length), np.clip(t, 0.0, length), off))


def _parabola(a: Floats, x: Floats, c: Floats, va: Floats, vx: Floats, vc: Floats) -> Floats:
    """Where the parabola through three points has its top; nan where it has none."""
    with np.errstate(divide="ignore", invalid="ignore"):
        p, q = (x - a) * (vx - vc), (x - c) * (vx - va)
        return np.asarray(x - ((x - a) * p - (x - c) * q) / (2 * (p - q)))
