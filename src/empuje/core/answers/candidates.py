"""Positions of traffic that are analysed by themselves, where results may not be summed, or where every result is listed.

By first order, with all parts acting, each of them is worst for some reaction or force, and together they reach the worst
of every considerable one to within a share.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.mover import AWAY, Mover, Picks, Sweep, Worst
from ..analysis.moving.places import Places, at_nodes, at_supports, displacements_at, elements_at, forces_at
from ..model.traffic import Standing

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
REACHED = 0.99
"""The share of a worst value that some chosen position has to reach."""
COUNTS = 0.05
"""Reactions and forces below this share of the largest of their kind decide nothing."""
BESIDE = 5e-9
MOST = 20
MOST_ROWS = 1500
FEW = 12
"""Up to so many members are looked at along their lengths."""


@dataclass(frozen=True)
class Candidates:
    """Chosen positions of a traffic, of how many results, and the least share of a worst value that they reach."""

    standings: list[Standing]
    results: int
    reached: float


def candidates(mover: Mover, most: int = MOST, members: Ints | None = None) -> Candidates:
    """The positions of a traffic that are worst for reactions, for forces of members at their ends, and for forces and
    displacements along its way; and at the quarter points of `members`, if these are few."""
    chosen_members = members if members is not None and len(members) <= FEW else np.zeros(0, np.intp)
    parts = _asked(mover, chosen_members)
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
    # On both sides of a wheel at a place: either is looked at in an analysis.
    beside = [replace(picks, t=picks.t + step) for step in (-BESIDE, BESIDE)]
    own = places.take(row)
    values = np.max([own.values(mover.put(p)) / worst.value[row, side][:, None] for p in beside], axis=0)
    chosen: list[int] = []
    best = np.zeros(len(row))
    while best.min() < REACHED and len(chosen) < min(most, values.shape[1]):
        gain = np.minimum(np.maximum(values, best[:, None]), REACHED).sum(axis=0)
        if gain.max() <= np.minimum(best, REACHED).sum() + 1e-9:
            break
        chosen.append(int(gain.argmax()))
        best = np.maximum(best, values[:, chosen[-1]])
    chosen.sort(key=lambda i: (picks.train[i].tolist(), picks.t[i].tolist()))
    return Candidates([mover.standing(picks, i) for i in chosen], len(row), float(best.min()))


def _distinct(picks: Picks) -> Picks:
    seen: dict[tuple[object, ...], int] = {}
    for i in range(len(picks.train)):
        key = (*picks.train[i].tolist(), *np.round(picks.t[i], 6).tolist(), *map(str, picks.lanes[i]))
        seen.setdefault(key, i)
    return picks.rows(np.array(list(seen.values()), np.intp))


@dataclass(frozen=True)
class _Part:
    """Places with their kinds (n,), and the sweep that knows them."""

    places: Places
    kind: Ints
    sweep: Sweep


def _asked(mover: Mover, members: Ints) -> list[_Part]:
    """Reactions, forces at the ends of all members and displacements of the nodes of the way; then what is along the
    way, and along `members`, at the quarter points of elements."""
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
    along = np.union1d(loaded, mesh.elements_of(members)) if len(members) else loaded
    for e in along.tolist():
        share = mesh.length[e] * np.array([0.25, 0.5, 0.75])
        at, few = np.full(3, e), np.repeat(np.full(3, e), 2)
        across = displacements_at(units, few, np.repeat(share, 2), np.tile([[0, 1.0, 0], [0, 0, 1.0]], (3, 1)))
        inner = Places.joined([_forces(mover, at, share), across])
        asked = {int(mesh.member[e]): mesh.s0[e] + share} if e in loaded else {}
        kind = np.concatenate([2 + np.tile(np.arange(6), 3) // 3, np.full(len(across), 5)])
        out.append(_Part(inner, kind, mover.sweep(asked) if asked else mover.whole))
    return out


def _forces(mover: Mover, element: Ints, x: Floats) -> Places:
    """All six at each place."""
    share = np.tile(np.eye(6), (len(element), 1))
    return forces_at(mover.units, np.repeat(element, 6), np.repeat(x, 6), share)
