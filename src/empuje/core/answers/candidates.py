"""Positions of traffic that are analysed by themselves, where results may not be summed, or where every result is
listed.

By first order and with all parts acting, each is the worst for some reaction, force or displacement, and together they
reach a stated ratio (REACHED) of the worst of each that is considerable. By second order, or with parts slack, nothing
is ensured by this choice: candidates_as_one.py chooses with the parts that act.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.leg_peaks import AWAY
from ..analysis.moving.mover import Mover
from ..analysis.moving.places import Places, at_nodes, at_supports, displacements_at, elements_at, forces_at
from ..analysis.moving.positions import Picks, Sweep, Worst
from ..model.traffic import Standing

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
REACHED, REACHED_AS_ONE = 0.99, 0.95
"""The share of a worst value that some chosen position has to reach: where positions are listed; and where every one of
them is analysed by itself in every combination."""
COUNTS = 0.05
"""Reactions and forces below this share of the largest of their kind decide nothing."""
EIGHTHS = np.arange(1, 8) / 8
PLACES = 4
"""More positions for each place asked for."""
ASKED = 6
"""The kind of displacements at such places of the first member, and so on: of them the worst is always chosen, to this
share."""
WORST = 1 - 1e-6
ROUNDS = 2
MOST = 20
MOST_ROWS = 1500
FEW = 12
"""Up to so many members are looked at along their lengths."""


@dataclass(frozen=True)
class Candidates:
    """Chosen positions of a traffic, of how many results, the least share of a worst value that they reach; the same as
    arrays."""

    standings: list[Standing]
    results: int
    reached: float
    picks: Picks | None = None


def candidates(
    mover: Mover, reach: float = REACHED, along: Mapping[int, Floats] | None = None, most: int = MOST
) -> Candidates:
    """The positions of a traffic that are worst for reactions, for forces of members at their ends, and for forces and
    displacements along its way; and, with every position it takes, at places [m] `along` a few members."""
    asked = along if along is not None and len(along) <= FEW else {}
    most = most + PLACES * sum(map(len, asked.values()))
    parts = _asked(mover, asked, few=reach < REACHED)
    worst = Worst.joined([mover.worst(p.places, p.sweep) for p in parts])
    places, kind = Places.joined([p.places for p in parts]), np.concatenate([p.kind for p in parts])
    which = np.repeat(np.arange(len(parts)), [len(p.places) for p in parts])
    size = np.abs(worst.value)
    largest = np.zeros(kind.max() + 1)
    np.maximum.at(largest, kind, size.max(axis=1))
    share = size / np.where(largest[kind] > 0, largest[kind], 1.0)[:, None]
    row, side = np.nonzero(share >= COUNTS)
    order = np.argsort(-share[row, side], kind="stable")[:MOST_ROWS]
    row, side = row[order], side[order]
    there = (worst.train[row, side] != AWAY).any(axis=1)
    row, side = row[there], side[there]
    if not len(row):
        return Candidates([], 0, 1.0)
    picks = _distinct(mover.picks(places, worst, row, side, [p.sweep for p in parts], which))
    values = places.take(row).values(mover.put(picks)) / worst.value[row, side][:, None]
    chosen: list[int] = []
    best = np.zeros(len(row))
    while best.min() < reach and len(chosen) < min(most, values.shape[1]):
        gain = np.minimum(np.maximum(values, best[:, None]), reach).sum(axis=0)
        if gain.max() <= np.minimum(best, reach).sum() + 1e-9:
            break
        chosen.append(int(gain.argmax()))
        best = np.maximum(best, values[:, chosen[-1]])
    for i in np.flatnonzero(kind[row] >= ASKED).tolist():
        if best[i] < WORST:
            chosen.append(int(values[i].argmax()))
            best = np.maximum(best, values[:, chosen[-1]])
    chosen.sort(key=lambda i: (picks.train[i].tolist(), picks.t[i].tolist()))
    own = picks.rows(np.array(chosen, np.intp))
    return Candidates([mover.standing(picks, i) for i in chosen], len(row), float(best.min()), own)


def _distinct(picks: Picks) -> Picks:
    seen: dict[tuple[object, ...], int] = {}
    for i in range(len(picks.train)):
        gaps = np.round(np.nan_to_num(picks.gaps[i], nan=-1.0), 9).ravel().tolist()
        key = (*picks.train[i].tolist(), *np.round(picks.t[i], 9).tolist(), *gaps, *map(str, picks.lanes[i]))
        seen.setdefault(key, i)
    return picks.rows(np.array(list(seen.values()), np.intp))


@dataclass(frozen=True)
class _Part:
    """Places with their kinds (n,), and the sweep that knows them."""

    places: Places
    kind: Ints
    sweep: Sweep


def _asked(mover: Mover, asked: Mapping[int, Floats], few: bool) -> list[_Part]:
    """Reactions, forces at the ends of all members and displacements of the nodes of the way; then what is along the
    way at the eighths of elements, and at places asked for. `few`: along the way moments and displacements at the
    quarter points alone."""
    units, project = mover.units, mover.equations.project
    supports = np.arange(len(units.support_node))
    which, component = np.repeat(supports, 6), np.tile(np.arange(6), len(supports))
    every = np.repeat(np.arange(len(project.members)), 2)
    s = np.column_stack([np.zeros(len(project.members)), project.lengths]).ravel()
    mesh, loaded = units.equations.mesh, mover.whole.put.loaded
    element, x = elements_at(mesh, every, s, 1)
    element[1::2], x[1::2] = elements_at(mesh, every[1::2], s[1::2], -1)
    nodes = np.unique(np.concatenate([mesh.start[loaded], mesh.end[loaded]]))
    moved = at_nodes(units, np.repeat(nodes, 3), np.tile(np.arange(3), len(nodes)))
    ends = Places.joined([at_supports(units, which, component), _forces(mover, element, x), moved])
    kinds = [component // 3, 2 + np.tile(np.arange(6), len(element)) // 3, np.full(len(moved), 4)]
    out = [_Part(ends, np.concatenate(kinds), mover.whole)]
    inner = {e: mesh.length[e] * (EIGHTHS[1::2] if few else EIGHTHS) for e in loaded.tolist()}
    components = np.array([4, 5] if few else range(6))
    wished: dict[int, Floats] = {}
    for member, places in asked.items():
        for side in (-1, 1):
            on, at = elements_at(mesh, np.full(len(places), member), places, side)
            for e in np.unique(on).tolist():
                inner[e] = np.union1d(inner.get(e, np.zeros(0)), at[on == e])
                wished[e] = np.union1d(wished.get(e, np.zeros(0)), at[on == e])
    for e, x in inner.items():
        n = len(x)
        across = _across(mover, np.full(n, e), x)
        kinds_of = np.tile(np.arange(6), n)
        wanted = np.flatnonzero(np.isin(kinds_of, components))
        places_on = Places.joined([_forces(mover, np.full(n, e), x).take(wanted), across])
        within = {int(mesh.member[e]): mesh.s0[e] + x} if e in loaded else {}
        own = np.where(np.isin(x, wished.get(e, [])), ASKED + mesh.member[e], 5)
        kind = np.concatenate([2 + kinds_of[wanted] // 3, np.repeat(own, 2)])
        out.append(_Part(places_on, kind, mover.sweep(within) if within else mover.whole))
    return out


def furthest_places(mover: Mover, members: Ints) -> dict[int, Floats]:
    """Where along members (n,) they may move most across their axes, [m], by member: where the position that is worst
    for that place moves them most, found from eighths on; of more than a few members the eighths themselves."""
    found: dict[int, Floats] = {}
    mesh = mover.units.equations.mesh
    for m in members.tolist():
        length = float(mover.equations.project.lengths[m])
        if len(members) > FEW:
            found[m] = length * EIGHTHS
            continue
        fine = np.linspace(0.0, length, 65)
        line = _across(mover, *elements_at(mesh, np.full(len(fine), m), fine, 1))
        tops = np.zeros(0)
        for _ in range(ROUNDS):
            at = np.union1d(length * EIGHTHS, tops)
            places = _across(mover, *elements_at(mesh, np.full(len(at), m), at, 1))
            sweep = mover.sweep({m: at}) if np.isin(places.element, mover.whole.put.loaded).any() else mover.whole
            worst = mover.worst(places, sweep)
            size = np.abs(worst.value).reshape(len(at), 2, 2)
            along, side = np.nonzero(size.max(axis=0) > COUNTS * size.max(initial=0))
            row = 2 * size.argmax(axis=0)[along, side] + along
            moved = np.abs(line.values(mover.put(mover.picks(places, worst, row, side, [sweep]))))
            tops = _tops(fine, moved.reshape(len(fine), 2, len(row))[:, along, np.arange(len(row))])
            tops = length * np.round(tops / length, 4)
        found[m] = np.unique(tops)
    return found


def _tops(x: Floats, y: Floats) -> Floats:
    """Where columns y (x, n) are greatest: the top of the parabola through three values."""
    k = np.clip(y.argmax(axis=0), 1, len(x) - 2)
    a, b, c = (y[k + i, np.arange(y.shape[1])] for i in (-1, 0, 1))
    bend = a - 2 * b + c
    off = np.where(bend < 0, (a - c) / np.where(bend < 0, 2 * bend, 1.0), 0.0)
    return np.asarray(np.clip(x[k] + np.clip(off, -1, 1) * (x[1] - x[0]), 0.0, x[-1]))


def _across(mover: Mover, element: Ints, x: Floats) -> Places:
    """Displacements along y and z of members at each place."""
    return displacements_at(
        mover.units, np.repeat(element, 2), np.repeat(x, 2), np.tile([[0, 1.0, 0], [0, 0, 1.0]], (len(x), 1))
    )


def _forces(mover: Mover, element: Ints, x: Floats) -> Places:
    """All six at each place."""
    share = np.tile(np.eye(6), (len(element), 1))
    return forces_at(mover.units, np.repeat(element, 6), np.repeat(x, 6), share)
