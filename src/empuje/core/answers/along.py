"""Forces and displacements at asked positions along members, and displacements of nodes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import FORCES, build_pieces
from ..analysis.polynomials import value_at
from ..analysis.solution import Pieces, Solution
from ..model.loads import Position
from ..model.results import Results
from .table import MOTION_KINDS, Column, Table, case_column, how_column, member_forces, six

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SAME_PLACE = 1e-9


def absent_forces(solution: Solution, members: Ints) -> NDArray[np.bool_]:
    """Which of N Vy Vz T My Mz a plane model does not have: (members, 6)."""
    out = np.zeros((len(members), 6), bool)
    if solution.project.plane:
        y_out_of_plane = np.abs(solution.project.axes[members][:, 1, 1]) > 0.5
        out[:, 3] = True
        out[y_out_of_plane, 1] = out[y_out_of_plane, 5] = True
        out[~y_out_of_plane, 2] = out[~y_out_of_plane, 4] = True
    return out


def stations(
    solution: Solution, pieces: Pieces, members: Ints, positions: list[Position], breaks: bool
) -> tuple[Ints, Floats, Ints, Floats]:
    """Where to read the pieces: rank of the member, piece, position on the piece and on the member [m].

    A position beyond a member's end is left out there. Two stations stand where two pieces meet inside a member: the
    left one's end, then the right one's start.
    """
    if not len(members):
        return np.zeros(0, np.intp), np.zeros(0), np.zeros(0, np.intp), np.zeros(0)
    ranks: list[Ints] = []
    where: list[Ints] = []
    local: list[Floats] = []
    begin = np.searchsorted(_rank_of(pieces.member, members), np.arange(len(members) + 1))
    unmarked = _unmarked(solution) if breaks else {}
    for place, member in enumerate(members):
        mine = slice(begin[place], begin[place + 1])
        start, length = pieces.start[mine], pieces.length[mine]
        total = solution.project.lengths[member]
        s = np.array([p.on(total) for p in positions])
        s = np.minimum(s[s <= total + SAME_PLACE], total)
        if breaks:
            ours = unmarked.get(int(member), NOWHERE)
            marked = (np.abs(start[:, None] - ours) > SAME_PLACE).all(axis=1)
            s = np.concatenate([s, start[marked]])
        s = np.sort(s)
        s = s[np.append(True, np.diff(s) > SAME_PLACE)] if len(s) else s
        left = np.maximum(np.searchsorted(start, s - SAME_PLACE, side="right") - 1, 0)
        right = np.maximum(np.searchsorted(start, s + SAME_PLACE, side="right") - 1, 0)
        both = np.column_stack([left, right])
        keep = np.column_stack([np.full(len(s), True), right != left])
        piece = both[keep]
        at = np.repeat(s, keep.sum(axis=1)) - start[piece]
        ranks.append(np.full(len(piece), place))
        where.append(piece + begin[place])
        local.append(np.clip(at, 0.0, length[piece]))
    rank, piece, t = np.concatenate(ranks), np.concatenate(where), np.concatenate(local)
    return rank, t, piece, pieces.start[piece] + t


NOWHERE = np.zeros(0)


def _unmarked(solution: Solution) -> dict[int, Floats]:
    """By member, the places of nodes that second order put there, where neither a load starts or stops nor a node of
    the model lies."""
    own = len(solution.model.project.nodes)
    if len(solution.project.nodes) == own:
        return {}
    lines, points = solution.loads.lines, solution.loads.points
    at = np.concatenate([lines.member, lines.member, points.member]), np.concatenate([lines.s0, lines.s1, points.s])
    member, node, s = solution.project.nodes_on_members
    out: dict[int, list[float]] = {}
    for m, place in zip(member[node >= own].tolist(), s[node >= own].tolist(), strict=True):
        if not (np.abs(at[1][at[0] == m] - place) <= SAME_PLACE).any():
            out.setdefault(m, []).append(place)
    return {m: np.array(places) for m, places in out.items()}


def _rank_of(member: Ints, members: Ints) -> Ints:
    """The place of each piece's member in `members`; pieces come in that order."""
    place = np.empty(int(members.max()) + 1, np.intp)
    place[members] = np.arange(len(members))
    return place[member]


def forces(
    solution: Solution, results: Results, members: Ints, positions: list[Position], breaks: bool = False,
    of: Sequence[str] = FORCES,
) -> Table:  # fmt: skip
    """Internal forces at positions along members: member, case, x, and those `of` N Vy Vz T My Mz.

    `breaks` adds every place where a load starts or stops or a node lies. Where one of these forces jumps there are two
    rows, left then right.
    """
    asked = [FORCES.index(f) for f in of]
    weights = solution.weights(results)
    pieces = build_pieces(solution, members, weights)
    rank, t, piece, x = stations(solution, pieces, members, positions, breaks)
    value = value_at(pieces.force[piece], t)
    size = np.abs(value).max(axis=(0, 2), initial=0)[:, None]
    repeats = np.zeros(len(x), bool)
    repeats[1:] = (rank[1:] == rank[:-1]) & (np.abs(np.diff(x)) <= SAME_PLACE)
    repeats[1:] &= (np.abs(np.diff(value, axis=0)) <= 1e-9 * size)[:, asked].all(axis=(1, 2))
    value, rank, x = value[~repeats], rank[~repeats], x[~repeats]
    value = np.where(absent_forces(solution, members)[rank][:, :, None], np.nan, value)
    table = _by_member("forces", solution, results, members, rank, x, value, member_forces)
    return table.without([*(f for f in FORCES if f not in of), *(() if "N" in of else ("T/C",))])


def member_displacements(
    solution: Solution, results: Results, members: Ints, positions: list[Position], breaks: bool = False
) -> Table:
    """Displacements of the axis along members in global axes: member, case, x, ux uy uz rx ry rz."""
    weights = solution.weights(results)
    pieces = build_pieces(solution, members, weights, displacements=True)
    assert pieces.shape is not None
    rank, t, piece, x = stations(solution, pieces, members, positions, breaks)
    first = np.ones(len(x), bool)
    first[1:] = (rank[1:] != rank[:-1]) | (np.abs(np.diff(x)) > SAME_PLACE)
    rank, t, piece, x = rank[first], t[first], piece[first], x[first]
    value = value_at(pieces.shape[piece], t)
    axes = solution.project.axes[members][rank]
    value = np.concatenate(
        [np.einsum("nij,nir->njr", axes, value[:, :3]), np.einsum("nij,nir->njr", axes, value[:, 3:])], axis=1
    )
    if solution.project.plane:
        value[:, [1, 3, 5]] = np.nan
    twists = np.array([not solution.project.members[m].bar for m in members])[rank]
    value[~twists, 3:] = np.nan
    return _by_member("member-displacements", solution, results, members, rank, x, value, partial(six, MOTION_KINDS))


def _by_member(
    name: str,
    solution: Solution,
    results: Results,
    members: Ints,
    rank: Ints,
    x: Floats,
    value: Floats,
    of_kinds: Callable[[Floats], tuple[Column, ...]],
) -> Table:
    """Rows by member, then case, then position, from values (stations, 6, names)."""
    n, count = len(x), len(results)
    station, case = np.tile(np.arange(n), count), np.repeat(np.arange(count), n)
    order = np.lexsort((station, case, rank[station]))
    station, case = station[order], case[order]
    labels = np.array([solution.project.members[m].name for m in members], object)
    return Table(
        name,
        (
            Column("member", "text", labels[rank[station]]),
            case_column(results, case),
            Column("x", "length", x[station]),
            *of_kinds(value[station, :, case]),
            how_column(results, solution.how(results), case),
        ),
    )


def node_displacements(solution: Solution, results: Results, nodes: Ints) -> Table:
    """Displacements of nodes in global axes: node, case, ux uy uz rx ry rz; NaN where nothing restrains a rotation."""
    value = solution.displacement[nodes] @ solution.weights(results)
    value = np.where(solution.undefined[nodes][:, :, None], np.nan, value).transpose(2, 0, 1)
    labels = [solution.project.nodes[i].name for i in nodes]
    case = np.repeat(np.arange(len(results)), len(labels))
    return Table(
        "displacements",
        (
            Column("node", "text", labels * len(results)),
            case_column(results, case),
            *six(MOTION_KINDS, value.reshape(-1, 6)),
            how_column(results, solution.how(results), case),
        ),
    )
