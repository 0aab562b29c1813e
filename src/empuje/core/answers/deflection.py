"""Deflections of members against their own chord or one of their ends, in member axes.

chord: the straight line between the displaced ends        start, end: that end, without its rotation
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import Pieces, build_pieces
from ..analysis.polynomials import horner, square, summit, value_at
from ..analysis.solve import Solution
from ..model.loads import Position
from .along import stations
from .table import Column, Table, how_column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def deflections(
    solution: Solution, names: list[str], members: Ints, against: str, positions: list[Position], breaks: bool = False
) -> Table:
    """At positions: member, case, x, the deflection along the member's x y z, across it, and span over that."""
    pieces, shape = _against(solution, names, members, against)
    rank, t, piece, x = stations(solution, pieces, members, positions, breaks)
    first = np.append(True, (np.diff(rank) != 0) | (np.abs(np.diff(x)) > 1e-9))
    rank, x = rank[first], x[first]
    value = value_at(shape[piece[first]], t[first])
    station, case = np.tile(np.arange(len(x)), len(names)), np.repeat(np.arange(len(names)), len(x))
    order = np.lexsort((station, case, rank[station]))
    station, case = station[order], case[order]
    return _table(solution, names, members[rank[station]], case, x[station], value[station, :, case])


def largest_deflections(solution: Solution, names: list[str], members: Ints, against: str) -> Table:
    """The same where each member deflects most across its axis, exactly, under each case."""
    pieces, shape = _against(solution, names, members, against)
    across = square(shape[:, 1:]).sum(axis=1, keepdims=True)
    length = np.broadcast_to(pieces.length[:, None, None], across[:, :, 0].shape)
    places = np.concatenate([np.zeros_like(length), length, summit(across, np.zeros_like(length), length, 1.0)], axis=1)
    values = np.concatenate([horner(across, places[:, [i]]) for i in range(3)], axis=1)
    which = values.argmax(axis=1)
    best, t = values.max(axis=1), np.take_along_axis(places, which[:, None], 1)[:, 0]
    new = np.flatnonzero(np.append(True, np.diff(pieces.member) != 0))
    stop = np.append(new[1:], len(best))
    piece = np.array([b + best[b:e].argmax(axis=0) for b, e in zip(new, stop, strict=True)])
    member, case = np.repeat(np.arange(len(members)), len(names)), np.tile(np.arange(len(names)), len(members))
    at = piece.ravel()
    value = np.einsum("nckn,nk->nc", shape[at][..., case], t[at, case][:, None] ** np.arange(shape.shape[2]))
    return _table(solution, names, members[member], case, pieces.start[at] + t[at, case], value)


def _against(solution: Solution, names: list[str], members: Ints, against: str) -> tuple[Pieces, Floats]:
    """Pieces, and their displacements (n, 3, powers, names) in member axes against the chord or an end."""
    pieces = build_pieces(solution, members, solution.weights(names), displacements=True)
    assert pieces.shape is not None
    shape = pieces.shape[:, :3].copy()
    first = np.append(True, np.diff(pieces.member) != 0)
    last = np.append(np.diff(pieces.member) != 0, True)
    of = np.cumsum(first) - 1
    begin, stop = shape[first][:, :, 0], value_at(shape[last], pieces.length[last])
    if against == "chord":
        slope = (stop - begin) / solution.project.lengths[pieces.member[first]][:, None, None]
        shape[:, :, 0] -= begin[of] + slope[of] * pieces.start[:, None, None]
        shape[:, :, 1] -= slope[of]
    else:
        shape[:, :, 0] -= (begin if against == "start" else stop)[of]
    return pieces, shape


def _table(solution: Solution, names: list[str], member: Ints, case: Ints, x: Floats, value: Floats) -> Table:
    project = solution.project
    labels = np.array([m.name for m in project.members], object)
    across = np.hypot(value[:, 1], value[:, 2])
    span = project.lengths[member]
    with np.errstate(divide="ignore"):
        ratio = np.where(across > 1e-9 * span, span / across, np.nan)
    y, z = value[:, 1], value[:, 2]
    if project.plane:
        level = np.abs(project.axes[member][:, 1, 1]) > 0.5
        y, z = np.where(level, np.nan, y), np.where(level, z, np.nan)
    return Table(
        "deflections",
        (
            Column("member", "text", labels[member]),
            Column("case", "text", np.array(names, object)[case]),
            Column("x", "length", x),
            Column("along", "displacement", value[:, 0] + 0.0),
            Column("y", "displacement", y + 0.0),
            Column("z", "displacement", z + 0.0),
            Column("across", "displacement", across),
            Column("L/across", "factor", ratio),
            how_column(solution.how(names), case),
        ),
    )
