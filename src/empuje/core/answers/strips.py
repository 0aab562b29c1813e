"""One member from end to end: its loads, forces and deflections in its own axes, as exact as tables have them.

Between the listed places everything is smooth; at a place where something jumps there are two rows, left then right.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import build_pieces
from ..analysis.polynomials import turning_points, value_at
from ..analysis.solution import Solution
from ..model.results import Result

Floats = NDArray[np.float64]
EVEN = 25
"""Even places on every piece, beside those where something turns."""


@dataclass(frozen=True)
class MemberStrip:
    """x (n,) [m] from the member's start; force (n, 6) N Vy Vz T My Mz [N, N m]; deflection (n, 2) along local y and z
    [m] from the straight line between the displaced ends; breaks (k,) [m]: where pieces begin and end.

    q_x (2 m,) [m] and q (2 m, 3) [N/m]: line loads in member axes, pairs of places between which they are linear;
    point_x (p,) [m], point (p, 6) [N, N m]: forces and moments at places between the ends.
    """

    x: Floats
    force: Floats
    deflection: Floats
    breaks: Floats
    q_x: Floats
    q: Floats
    point_x: Floats
    point: Floats


def member_strip(solution: Solution, result: Result, member: int) -> MemberStrip:
    """All there is along one member under one result."""
    project = solution.project
    pieces = build_pieces(solution, np.array([member]), solution.weights([result]), displacements=True)
    assert pieces.shape is not None
    length = float(project.lengths[member])
    shape = pieces.shape[:, 1:3].copy()
    first, last = value_at(shape[:1], np.zeros(1))[0], value_at(shape[-1:], pieces.length[-1:])[0]
    slope = (last - first) / length
    shape[:, :, 0] -= first + slope * pieces.start[:, None, None]
    shape[:, :, 1] -= slope
    turns = []
    for c in (pieces.force, shape):
        low, high = (np.broadcast_to(v[:, None, None], c[:, :, 0].shape) for v in (0 * pieces.length, pieces.length))
        turns += [t[:, :, 0] for t in turning_points(c, low, high)]
    t = np.sort(np.column_stack([pieces.length[:, None] * np.linspace(0, 1, EVEN), *turns]), axis=1)
    piece, t = np.repeat(np.arange(len(t)), t.shape[1]), t.ravel()
    q_x, q, point_x, point = _loads(solution, result, member)
    return MemberStrip(
        pieces.start[piece] + t, value_at(pieces.force[piece], t)[:, :, 0], value_at(shape[piece], t)[:, :, 0],
        np.append(pieces.start, length), q_x, q, point_x, point,
    )  # fmt: skip


def _loads(solution: Solution, result: Result, member: int) -> tuple[Floats, Floats, Floats, Floats]:
    """The loads of a result on a member, added up, in its axes."""
    model = solution.model
    weights = model.weights([result])[:, 0]
    axes = solution.project.axes[member]
    lines = model.loads.lines.take((model.loads.lines.member == member) & (weights[model.loads.lines.case] != 0))
    w = weights[lines.case][:, None]
    breaks = np.unique(np.round(np.concatenate([lines.s0, lines.s1, [0.0, solution.project.lengths[member]]]), 9))
    middle = (breaks[1:] + breaks[:-1]) / 2
    there = (lines.s0[:, None] < middle) & (middle < lines.s1[:, None])
    q = np.zeros((len(middle), 2, 3))
    for k, x in enumerate((breaks[:-1], breaks[1:])):
        span = np.maximum(lines.s1 - lines.s0, 1e-12)[:, None]
        share = (x - lines.s0[:, None]) / span
        own = lines.q0[:, None] + share[:, :, None] * (lines.q1 - lines.q0)[:, None]
        q[:, k] = np.einsum("lp,lpi->pi", there * w, own)
    points = model.loads.points.take((model.loads.points.member == member) & (weights[model.loads.points.case] != 0))
    at, of = np.unique(np.round(points.s, 9), return_inverse=True)
    total = np.zeros((len(at), 6))
    np.add.at(total, of.ravel(), points.f * weights[points.case][:, None])
    return (
        np.column_stack([breaks[:-1], breaks[1:]]).ravel(), q.reshape(-1, 3) @ axes.T, at,
        np.hstack([total[:, :3] @ axes.T, total[:, 3:] @ axes.T]),
    )  # fmt: skip
