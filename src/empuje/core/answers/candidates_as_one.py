"""Positions of traffic that are analysed by themselves where members or supports act one way: chosen under the state in
which each leaves the frame.

With everything acting, the forces t0 of one-way parts and any answer are sums: of what stands still, and of what the
traffic makes. Slacks s of the parts then follow from t0 position by position (analysis/unilateral.py), and

    answer = still + f traffic(p) + (what unit slacks make of it) s(t0 + f t(p))

so that every position can be looked at without an analysis of its own. All legs of all journeys are: both ends, on the
inside, and places between; from the best of these on, nearer ones until none is worse.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.bernstein import samples
from ..analysis.moving.leg_peaks import AWAY, in_grains
from ..analysis.moving.mover import Mover
from ..analysis.moving.places import Places, at_nodes, at_supports, elements_at, forces_at
from ..analysis.moving.positions import Picks
from ..analysis.pieces import build_pieces
from ..analysis.polynomials import value_at
from ..analysis.solve import Prepared
from ..analysis.unilateral import slacks, unilateral_parts
from ..model.traffic import BESIDE, Standing
from .candidates import COUNTS, REACHED_AS_ONE, Candidates, candidates

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
REACHED, FIRST_ORDER = 0.998, 0.99
"""The share of the worst of every considerable answer that some chosen position has to reach, at least; where only
second order is asked for, of the worst by first order."""
INNER = 16
"""Places on a leg, between its ends."""
MOST_PLACES, MOST_ITEMS, MOST_CHOSEN = 4000, 1500, 80
AT_ONCE, VALUES = 192, 8_000_000
MOST_ROWS, SAMPLED, BLOCKS = 4000, 48, 8
ROUNDS, POINTS = 5, 5
NOISE = 1e-6
"""Below this share of the largest of its kind under any loading a value is nothing."""
NEAR_PEAK = 0.98
"""A station is about a peak where so much of it is reached, with what stands still."""
QUARTERS, STATIONS = np.arange(1, 4) / 4, np.delete(np.arange(1, 32), [7, 15, 23]) / 32


@dataclass(frozen=True)
class Loading:
    """A combination as one-way parts and a traffic see it: their forces from what stands still (parts,), the size of
    the terms of these (parts,), and the factors of the traffic and of the cases that stand still (cases,)."""

    force: Floats
    terms: Floats
    factor: float
    still: Floats


@dataclass(frozen=True)
class _Asked:
    """Rows of answers: of traffic, of unit slacks (rows, parts), their kinds, the peak (rows,) that a station is near
    or not: -1 for what counts wherever it is; and what stands still makes of these stations, all parts acting, under
    each loading (loadings, rows)."""

    places: Places
    of_slack: Floats
    kind: Ints
    peak: Ints
    still: Floats

    def take(self, rows: Ints) -> _Asked:
        """Some of them."""
        own = self.still[:, rows]
        return _Asked(self.places.take(rows), self.of_slack[rows], self.kind[rows], self.peak[rows], own)


@dataclass(frozen=True)
class _Scene:
    """A traffic on a frame with one-way parts, under some combinations."""

    prepared: Prepared
    mover: Mover
    loadings: Sequence[Loading]
    asked: _Asked
    of_parts: Places

    @property
    def at_once(self) -> int:
        """So many positions are looked at together."""
        return int(np.clip(VALUES // max(len(self.asked.kind) * len(self.loadings), 1), 2, AT_ONCE))

    def values(self, picks: Picks, which: Ints | None = None) -> Floats:
        """What positions (n,) make of all rows under each loading, what stands still left out (loadings, rows, n), or
        under one each (rows, n): `which` (n,). NaN where the frame cannot stand."""
        parts = self.prepared.parts
        assert parts is not None
        put = self.mover.put(picks)
        rows, forces = self.asked.places.values(put), self.of_parts.values(put)
        out = []
        for k, one in enumerate(self.loadings):
            own = np.arange(rows.shape[1]) if which is None else np.flatnonzero(which == k)
            t0 = one.force[:, None] + one.factor * forces[:, own]
            terms = one.terms[:, None] + np.abs(one.factor * forces[:, own])
            slack = slacks(t0, terms, parts.C, parts.weight)[0]
            out.append(one.factor * rows[:, own] + self.asked.of_slack @ slack)
        if which is None:
            return np.stack(out)
        every = np.empty_like(rows)
        for k, value in enumerate(out):
            every[:, which == k] = value
        return every


def candidates_as_one(prepared: Prepared, mover: Mover, loadings: Sequence[Loading]) -> Candidates:
    """The positions of a traffic that are worst for reactions, for forces at the ends of members and along its way, and
    for displacements of its way, under each of the loadings and in the state that it finds."""
    away = Standing("", mover.number, ())
    if prepared.parts is None or not loadings:  # by second order: the worst of the first
        found = candidates(mover, FIRST_ORDER, most=MOST_CHOSEN)
        return replace(found, standings=[*found.standings, away])
    few = candidates(mover, REACHED_AS_ONE)
    picks = Picks.joined([_every(mover), *([few.picks] if few.picks is not None else [])])
    if not len(picks.train):
        return few
    asked = _asked(prepared, mover)
    loadings, asked = _distinct(loadings, replace(asked, still=_still(prepared, asked, loadings)))
    scene = _Scene(prepared, mover, loadings, asked, _of_parts(prepared, mover))
    scene = _considerable(scene, picks)
    best, item, lost = _scanned(scene, picks)
    near = _nearer(scene, picks, best, item) if len(item) else picks.rows(np.zeros(0, np.intp))
    first = np.unique(np.concatenate([best, lost, len(picks.train) - 1 - np.arange(len(few.standings))]))
    every = Picks.joined([picks.rows(first), near])
    value = _of_items(scene, every, item)
    top = value.max(axis=1, initial=0.0)
    share = np.nan_to_num(value / np.where(top > 0, top, 1.0)[:, None], nan=0.0)
    chosen, reached = _covering(share)
    chosen = sorted({*chosen, *np.flatnonzero(np.isin(first, lost)).tolist()[:3]},
                    key=lambda i: (every.train[i].tolist(), every.t[i].tolist()))  # fmt: skip
    # Where the traffic is not there at all is one of its positions; of equal ones another is told.
    standings = [*(mover.standing(every, i) for i in chosen), away]
    return Candidates(standings, len(item), reached, every.rows(np.array(chosen, np.intp)))


def every_step(mover: Mover) -> Candidates:
    """All positions of a traffic that is stepped through, on both sides of nodes, and the vehicle away."""
    picks = _every(mover, thinned=False)
    key = np.round(np.column_stack([picks.train, picks.t]), 10)
    first = np.sort(np.unique(key, axis=0, return_index=True)[1])
    chosen = sorted(first.tolist(), key=lambda i: (picks.train[i].tolist(), picks.t[i].tolist()))
    standings = [*(mover.standing(picks, i) for i in chosen), Standing("", mover.number, ())]
    return Candidates(standings, 0, 1.0, picks.rows(np.array(chosen, np.intp)))


def _distinct(loadings: Sequence[Loading], asked: _Asked) -> tuple[list[Loading], _Asked]:
    """Loadings that differ for the parts, or for where along the way moments are greatest."""
    size = np.abs(asked.still).max(initial=0.0) or 1.0
    known: dict[tuple[float, ...], int] = {}
    for i, (one, still) in enumerate(zip(loadings, asked.still, strict=True)):
        key = (round(one.factor, 9), *np.round(one.force, 6).tolist(), *np.round(still / size, 3).tolist())
        known.setdefault(key, i)
    first = list(known.values())
    return [loadings[i] for i in first], replace(asked, still=asked.still[first])


def _still(prepared: Prepared, asked: _Asked, loadings: Sequence[Loading]) -> Floats:
    """What stands still makes of moments along the way (loadings, rows), and 0 of other rows."""
    solution, mesh = prepared.solution, prepared.equations.mesh
    weights = np.zeros((solution.displacement.shape[2], len(loadings)))
    for k, one in enumerate(loadings):
        weights[: len(one.still), k] = one.still
    rows = np.flatnonzero(asked.peak >= 0)
    out = np.zeros((len(loadings), len(asked.peak)))
    if not len(rows):
        return out
    element, component = asked.places.element[rows], 4 + asked.peak[rows] % 2
    pieces = build_pieces(solution, np.unique(mesh.member[element]), weights)
    order = np.lexsort((pieces.start, pieces.element))
    begin = pieces.start[order] - mesh.s0[pieces.element[order]]
    far = 2 * mesh.length.max()  # so that one search finds the piece of an element that holds a place
    found = np.searchsorted(pieces.element[order] * far + begin, element * far + asked.places.x[rows] + 1e-9) - 1
    piece = order[found]
    value: Floats = value_at(pieces.force[piece], asked.places.x[rows] - begin[found])
    out[:, rows] = value[np.arange(len(rows)), component].T
    return out


def _considerable(scene: _Scene, picks: Picks) -> _Scene:
    """The scene with the rows of answers that some of a few positions make much of."""
    count = max(SAMPLED, BLOCKS * scene.at_once)  # a part may be slack in a few positions only
    sample = picks.rows(np.unique(np.linspace(0, len(picks.train) - 1, count).astype(np.intp)))
    kind, size = scene.asked.kind, np.zeros((len(scene.loadings), len(scene.asked.kind)))
    for i in range(0, len(sample.train), scene.at_once):
        value = scene.values(sample.rows(np.arange(i, min(i + scene.at_once, len(sample.train)))))
        size = np.maximum(size, np.nan_to_num(np.abs(value)).max(axis=2))
    share = (size / _largest(kind, size)).max(axis=0)
    rows = np.flatnonzero(share >= COUNTS / 2)
    rows = np.sort(rows[np.argsort(-share[rows], kind="stable")[:MOST_ROWS]])
    return replace(scene, asked=scene.asked.take(rows))


def _largest(kind: Ints, size: Floats) -> Floats:
    """Of sizes (loadings, rows) the largest of each kind under each loading, for every row; never 0."""
    largest = np.zeros((len(size), kind.max(initial=0) + 1))
    for k in range(largest.shape[1]):
        largest[:, k] = size[:, kind == k].max(axis=1, initial=0.0)
    least = np.maximum(NOISE * largest.max(axis=0), np.finfo(float).tiny)
    at_least: Floats = np.maximum(largest, least)
    return at_least[:, kind]


def _every(mover: Mover, thinned: bool = True) -> Picks:
    """Both ends of all legs, on the inside, and places between: some, or the steps, not too many where they are to be
    `thinned`; none with lane loads at will, which are placed for one answer each."""
    legs, ways = mover.whole.legs, len(mover.laid.ways)
    count = 0 if any(v.adverse_lane for v in mover.laid.traffic.vehicles) else len(legs.t0)
    number, t0, t1 = legs.train[:count], legs.t0[:count], legs.t1[:count]
    beside = np.where(t1 - t0 > 4 * BESIDE, BESIDE, 0.0)
    at = [t0 + beside, t1 - beside]
    train = [number, number]
    if mover.step and count:
        most = max(1, MOST_PLACES // len(mover.trains)) if thinned else MOST_PLACES
        for k, one in enumerate(mover.trains):
            steps = mover.stepped(one)
            if not thinned:  # at ends of legs there are both sides already
                own = number == k
                edges = np.concatenate([t0[own], t1[own]])
                steps = steps[np.abs(steps[:, None] - edges).min(axis=1) > BESIDE]
            at.append(steps[np.unique(np.linspace(0, len(steps) - 1, min(most, len(steps))).astype(np.intp))])
            train.append(np.full(len(at[-1]), k))
    elif count:
        inner = max(0, min(INNER, MOST_PLACES // count - 2))
        for u in samples(inner - 1) if inner else ():
            at.append(t0 + (t1 - t0) * u)
            train.append(number)
    which, t = np.concatenate(train), np.concatenate(at)
    n, each = len(which), np.arange(len(which))
    way = np.array([one.spot.way for one in mover.trains], np.intp)[which]
    where, front = np.full((n, ways), AWAY), np.zeros((n, ways))
    where[each, way], front[each, way] = which, t
    lanes = np.empty((n, ways), object)
    lanes[...] = [[()] * ways] * n if n else ()
    most_gaps = max((len(one.spot.gaps) for one in mover.trains), default=0)
    return Picks(where, front, lanes, np.full((n, ways, most_gaps), np.nan), np.ones(n, bool))


def _asked(prepared: Prepared, mover: Mover) -> _Asked:
    units, solution, project = mover.units, prepared.solution, mover.equations.project
    parts = prepared.parts
    assert parts is not None
    slack = slice(solution.displacement.shape[2] - len(parts.force), None)  # the last columns are those of unit slacks
    supports = np.arange(len(units.support_node))
    which, component = np.repeat(supports, 6), np.tile(np.arange(6), len(supports))
    mesh = units.equations.mesh
    loaded = mover.whole.put.loaded
    every = np.repeat(np.arange(len(project.members)), 2)
    s = np.column_stack([np.zeros(len(project.members)), project.lengths]).ravel()
    element, x = elements_at(mesh, every, s, 1)
    element[1::2], x[1::2] = elements_at(mesh, every[1::2], s[1::2], -1)
    # Along the way moments at stations near enough that the best position for one is the best for the member; only
    # those about its greatest count.
    length = mesh.length[loaded]
    on_way = np.concatenate([np.repeat(loaded, len(QUARTERS)), loaded, loaded])
    at_way = np.concatenate([(length[:, None] * QUARTERS).ravel(), 0 * length, length])
    between, at = np.repeat(loaded, len(STATIONS)), (length[:, None] * STATIONS).ravel()
    force = np.concatenate([np.tile(np.arange(6), len(element) + len(on_way)), np.tile([4, 5], len(between))])
    element = np.concatenate([np.repeat(np.concatenate([element, on_way]), 6), np.repeat(between, 2)])
    x = np.concatenate([np.repeat(np.concatenate([x, at_way]), 6), np.repeat(at, 2)])
    forces = forces_at(units, element, x, np.eye(6)[force])
    nodes = np.unique(np.concatenate([mesh.start[loaded], mesh.end[loaded]]))
    node, along = np.repeat(nodes, 6), np.tile(np.arange(6), len(nodes))
    of_slack = [
        solution.reaction[which, component][:, slack],
        np.einsum("nc,ncj->nj", forces.start, solution.start_force[forces.element][:, :, slack]),
        solution.displacement[node, along][:, slack],
    ]
    kinds = [component // 3, 2 + force // 3, 4 + along // 3]
    peak = np.full(sum(map(len, kinds)), -1)
    stations = slice(len(component) + len(force) - 2 * len(between), len(component) + len(force))
    peak[stations] = 2 * np.repeat(np.searchsorted(loaded, between), 2) + np.tile([0, 1], len(between))
    places = Places.joined([at_supports(units, which, component), forces, at_nodes(units, node, along)])
    return _Asked(places, np.vstack(of_slack), np.concatenate(kinds), peak, np.zeros((0, len(peak))))


def _of_parts(prepared: Prepared, mover: Mover) -> Places:
    """The forces of the one-way parts in the sense that each can take."""
    units, project = mover.units, mover.equations.project
    parts = unilateral_parts(project)
    element, x = elements_at(units.equations.mesh, parts.members, project.lengths[parts.members] / 2, 1)
    share = np.zeros((len(element), 6))
    share[:, 0] = parts.sign
    place = np.searchsorted(units.support_node, parts.nodes)
    up = at_supports(units, np.repeat(place, 3), np.tile(np.arange(3), len(place)))
    axis = mover.equations.axes[parts.nodes, 2] if len(place) else np.zeros((0, 3))
    linear = np.einsum("ni,nik->nk", axis, up.linear.reshape(len(place), 3, up.linear.shape[1]))
    lifted = replace(up.take(slice(0, len(up), 3)), linear=linear)
    return Places.joined([forces_at(units, element, x, share), lifted])


def _scanned(scene: _Scene, picks: Picks) -> tuple[Ints, Ints, Ints]:
    """The best position of every considerable item, the items (n, 3): loading, row, side; and positions in which the
    frame cannot stand."""
    count, rows, n = len(scene.loadings), len(scene.asked.kind), len(picks.train)
    best = np.full((count, rows, 2), -np.inf)
    at = np.zeros((count, rows, 2), np.intp)
    lost: list[int] = []
    for i in range(0, n, scene.at_once):
        value = scene.values(picks.rows(np.arange(i, min(i + scene.at_once, n))))
        lost += (i + np.flatnonzero(np.isnan(value).any(axis=(0, 1)))).tolist()
        for side, sign in enumerate((-1.0, 1.0)):
            v = np.where(np.isnan(value), -np.inf, sign * value)
            k = v.argmax(axis=2)
            top = np.take_along_axis(v, k[:, :, None], 2)[:, :, 0]
            better = top > best[:, :, side]
            best[better, side], at[better, side] = top[better], i + k[better]
    best_there = np.where(np.isfinite(best), best, 0.0)
    of_kind = _largest(scene.asked.kind, best_there.max(axis=2))[:, :, None]
    share = best_there / of_kind
    peak = scene.asked.peak
    still = scene.asked.still[:, :, None] * np.array([-1.0, 1.0]) / of_kind
    whole = np.where(np.isfinite(best), best / of_kind + still, -np.inf)
    tops = np.full((peak.max(initial=-1) + 2, count, 2), -np.inf)
    np.maximum.at(tops, peak, whole.transpose(1, 0, 2))
    near = tops - (1 - NEAR_PEAK) * np.abs(np.where(np.isfinite(tops), tops, 0.0))
    away = (peak >= 0)[None, :, None] & (whole < near[peak].transpose(1, 0, 2))
    item = np.argwhere((share >= COUNTS) & ~away)
    item = item[np.argsort(-share[tuple(item.T)], kind="stable")[:MOST_ITEMS]]
    return at[tuple(item.T)], item, np.array(lost[:3], np.intp)


def _of_items(scene: _Scene, picks: Picks, item: Ints) -> Floats:
    """Items (n, 3) under positions (n, m), positive where they are worse."""
    out = []
    for i in range(0, len(picks.train), scene.at_once):
        value = scene.values(picks.rows(np.arange(i, min(i + scene.at_once, len(picks.train)))))
        out.append(np.where(item[:, 2] == 1, 1.0, -1.0)[:, None] * value[item[:, 0], item[:, 1]])
    return np.hstack(out) if out else np.zeros((len(item), 0))


def _nearer(scene: _Scene, picks: Picks, best: Ints, item: Ints) -> Picks:
    """From the best position of each item on to a worse one near it, between its neighbours on the leg."""
    mover = scene.mover
    if mover.step:
        return picks.rows(np.zeros(0, np.intp))
    own = picks.rows(best)
    way = (own.train != AWAY).argmax(axis=1)
    each = np.arange(len(best))
    low, high = _brackets(mover, own.train[each, way], own.t[each, way])
    sign = np.where(item[:, 2] == 1, 1.0, -1.0)
    for _ in range(ROUNDS):
        u = np.linspace(0.0, 1.0, POINTS + 2)
        t = low[:, None] + (high - low)[:, None] * u
        rows = np.repeat(each, t.shape[1])
        tried = own.rows(rows)
        moved = tried.t.copy()
        moved[np.arange(len(rows)), way[rows]] = t.ravel()
        value = np.empty(len(rows))
        for i in range(0, len(rows), scene.at_once):
            some = slice(i, i + scene.at_once)
            v = scene.values(replace(tried, t=moved).rows(np.arange(len(rows))[some]), item[rows[some], 0])
            value[some] = sign[rows[some]] * v[item[rows[some], 1], np.arange(v.shape[1])]
        k = np.nan_to_num(value.reshape(t.shape), nan=-np.inf).argmax(axis=1)
        step = (high - low) / (POINTS + 1)
        middle = t[each, k]
        low, high = np.maximum(low, middle - step), np.minimum(high, middle + step)
    found = own.t.copy()
    found[each, way] = np.clip(in_grains(middle, mover.laid.traffic.unit[1]), low, high)
    key = np.round(np.column_stack([own.train[each, way], found[each, way]]), 5)
    first = np.unique(key, axis=0, return_index=True)[1]
    return replace(own, t=found).rows(np.sort(first))


def _brackets(mover: Mover, train: Ints, t: Floats) -> tuple[Floats, Floats]:
    """The ends of the legs (n,) on which positions stand, from the inside."""
    legs = mover.whole.legs
    low, high = t.copy(), t.copy()
    for number in np.unique(train).tolist():
        own, rows = np.flatnonzero(legs.train == number), np.flatnonzero(train == number)
        if not len(own):
            continue
        k = own[np.clip(np.searchsorted(legs.t0[own], t[rows], side="right") - 1, 0, len(own) - 1)]
        inside = np.where(legs.t1[k] - legs.t0[k] > 4 * BESIDE, BESIDE, 0.0)
        low[rows], high[rows] = legs.t0[k] + inside, legs.t1[k] - inside
    return low, high


def _covering(share: Floats) -> tuple[list[int], float]:
    """Positions that together reach enough of every item's worst, the one that brings most first; and what they
    reach."""
    chosen: list[int] = []
    reached = np.zeros(len(share))
    while len(share) and reached.min() < REACHED and len(chosen) < min(MOST_CHOSEN, share.shape[1]):
        gain = np.minimum(np.maximum(share, reached[:, None]), REACHED).sum(axis=0)
        if gain.max() <= np.minimum(reached, REACHED).sum() + 1e-12:
            break
        chosen.append(int(gain.argmax()))
        reached = np.maximum(reached, share[:, chosen[-1]])
    return chosen, float(reached.min(initial=1.0))
