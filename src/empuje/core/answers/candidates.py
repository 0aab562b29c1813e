"""Positions of traffic that are analysed by themselves, where results may not be summed, or where every result is listed.

By first order, with all parts acting, each of them is worst for some reaction or force, and together they reach the worst
of every considerable one to within a share.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.mover import AWAY, Mover, Picks
from ..analysis.moving.places import Places, at_nodes, at_supports, displacements_at, elements_at, forces_at
from ..model.traffic import Standing

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
REACHED = 0.99
"""The share of a worst value that some chosen position has to reach."""
COUNTS = 0.05
"""Reactions and forces below this share of the largest of their kind decide nothing."""
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
    """The positions of a traffic that are worst for reactions, for forces of members and displacements of its way; and
    for forces and displacements at the quarter points of `members`."""
    places, kind = _asked(mover)
    if members is not None and len(members) <= FEW:
        more, of_more = _along(mover, members)
        places, kind = Places.joined([places, more]), np.concatenate([kind, of_more])
    worst = mover.worst(places)
    size = np.abs(worst.value)
    largest = np.zeros(kind.max() + 1)
    np.maximum.at(largest, kind, size.max(axis=1))
    share = size / np.where(largest[kind] > 0, largest[kind], 1.0)[:, None]
    row, side = np.nonzero(share >= COUNTS)
    order = np.argsort(-share[row, side], kind="stable")[:MOST_ROWS]
    row, side = row[order], side[order]
    row, side = row[(worst.train[row, side] != AWAY).any(axis=1)], side[(worst.train[row, side] != AWAY).any(axis=1)]
    if not len(row):
        return Candidates([], 0, 1.0)
    picks = _distinct(mover.picks(places, worst, row, side))
    values = places.take(row).values(mover.put(picks)) / worst.value[row, side][:, None]
    chosen: list[int] = []
    best = np.zeros(len(row))
    while best.min() < REACHED and len(chosen) < min(most, values.shape[1]):
        gain = np.minimum(np.maximum(values, best[:, None]), REACHED).sum(axis=0)
        chosen.append(int(gain.argmax()))
        best = np.maximum(best, values[:, chosen[-1]])
    chosen.sort(key=lambda i: (picks.train[i].tolist(), picks.t[i].tolist()))
    return Candidates([mover.standing(picks, i) for i in chosen], len(row), float(best.min()))


def _along(mover: Mover, members: Ints) -> tuple[Places, Ints]:
    """Forces and displacements across, at the quarter points of members that wheels do not roll over, or at the nodes
    nearest to them; with their kinds."""
    units, mesh = mover.units, mover.equations.mesh
    every = np.repeat(members, 3)
    s = (mover.equations.project.lengths[members][:, None] * np.array([0.25, 0.5, 0.75])).ravel()
    element, x = elements_at(mesh, every, s, 1)
    loaded = np.isin(element, mover.whole.put.loaded)
    x = np.where(loaded, np.where(x > mesh.length[element] / 2, mesh.length[element], 0.0), x)
    n = len(element)
    forces = forces_at(units, np.repeat(element, 6), np.repeat(x, 6), np.tile(np.eye(6), (n, 1)))
    moved = displacements_at(units, np.repeat(element, 2), np.repeat(x, 2), np.tile([[0, 1.0, 0], [0, 0, 1.0]], (n, 1)))
    return Places.joined([forces, moved]), np.concatenate([5 + np.tile(np.arange(6), n) // 3, np.full(2 * n, 7)])


def _distinct(picks: Picks) -> Picks:
    seen: dict[tuple[object, ...], int] = {}
    for i in range(len(picks.train)):
        key = (*picks.train[i].tolist(), *np.round(picks.t[i], 6).tolist(), *map(str, picks.lanes[i]))
        seen.setdefault(key, i)
    return picks.rows(np.array(list(seen.values()), np.intp))


def _asked(mover: Mover) -> tuple[Places, Ints]:
    """Reactions; forces at the ends of all members, and displacements of the nodes of the way; with their kinds."""
    units, project = mover.units, mover.equations.project
    supports = np.arange(len(units.support_node))
    which, component = np.repeat(supports, 6), np.tile(np.arange(6), len(supports))
    members = np.repeat(np.arange(len(project.members)), 2)
    s = np.column_stack([np.zeros(len(project.members)), project.lengths]).ravel()
    mesh = units.equations.mesh
    loaded = mover.whole.put.loaded
    first, _ = elements_at(mesh, members, s, 1)
    first[1::2] = elements_at(mesh, members[1::2], s[1::2], -1)[0]
    element = np.concatenate([first, loaded, loaded])
    x = np.concatenate([np.tile([0.0, 1.0], len(project.members)), np.zeros(len(loaded)), np.ones(len(loaded))])
    x = x * mesh.length[element]
    n = len(element)
    forces = forces_at(units, np.repeat(element, 6), np.repeat(x, 6), np.tile(np.eye(6), (n, 1)))
    nodes = np.unique(np.concatenate([mesh.start[loaded], mesh.end[loaded]]))
    moved = at_nodes(units, np.repeat(nodes, 3), np.tile(np.arange(3), len(nodes)))
    kinds = [component // 3, 2 + np.tile(np.arange(6), n) // 3, np.full(len(moved), 4)]
    return Places.joined([at_supports(units, which, component), forces, moved]), np.concatenate(kinds)
