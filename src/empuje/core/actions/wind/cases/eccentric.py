"""Loads made eccentric: scaled straight across the building, so that their sum stays and their resultant moves.

s(t) = a + b t      sum of s f = sum of f        sum of s f t = sum of f t + e sum of f
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ....model.loads import PlainLoads
from ....model.project import Project

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Shift:
    """A group of loads to be moved by `e` [m] to the left of the wind `along` (3,); `left` (3,) is across it."""

    along: Floats
    left: Floats
    e: float


def made_eccentric(
    project: Project, loads: PlainLoads, groups: tuple[Ints, Ints, Ints], shifts: list[Shift]
) -> tuple[PlainLoads, list[int]]:
    """The loads with every group scaled, and the groups that cannot be: all their loads act in one line."""
    lines, points, nodes = loads.lines, loads.points, loads.nodes
    q0, q1, at_points, at_nodes = lines.q0.copy(), lines.q1.copy(), points.f.copy(), nodes.f.copy()
    start, axis = project.xyz[project.ends[:, 0]], project.axes[:, 0]
    failed = []
    order = [np.argsort(g, kind="stable") for g in groups]
    bounds = [np.searchsorted(g[o], np.arange(len(shifts) + 1)) for g, o in zip(groups, order, strict=True)]
    for k, shift in enumerate(shifts):
        i, p, n = (o[b[k] : b[k + 1]] for o, b in zip(order, bounds, strict=True))
        m = lines.member[i]
        t0, t1 = ((start[m] + s[i, None] * axis[m]) @ shift.left for s in (lines.s0, lines.s1))
        half = (lines.s1[i] - lines.s0[i]) / 2
        f0, f1 = (q[i] @ shift.along for q in (lines.q0, lines.q1))
        tp = (start[points.member[p]] + points.s[p, None] * axis[points.member[p]]) @ shift.left
        tn = project.xyz[nodes.node[n]] @ shift.left
        fp, fn = points.f[p, :3] @ shift.along, nodes.f[n, :3] @ shift.along
        all_t, all_f = np.concatenate([tp, tn]), np.concatenate([fp, fn])
        total = float((half * (f0 + f1)).sum() + all_f.sum())
        middle = float((half * (f0 * t0 + f1 * t1)).sum() + (all_f * all_t).sum()) / total if total else 0.0
        t0, t1, all_t = t0 - middle, t1 - middle, all_t - middle
        # A row's force counts where its trapezium has its centre: q' = s q at both ends, straight between.
        first = float((half * (f0 * t0 + f1 * t1)).sum() + (all_f * all_t).sum())
        third = half / 3
        arm = float((third * (2 * f0 * t0 + f0 * t1 + f1 * t0 + 2 * f1 * t1)).sum() + (all_f * all_t).sum())
        cross = f0 * t0 * t1 + f1 * t0 * t1
        second = float((third * (2 * f0 * t0**2 + cross + 2 * f1 * t1**2)).sum() + (all_f * all_t**2).sum())
        matrix = np.array([[total, first], [arm, second]])
        reach = max(np.ptp(np.concatenate([t0, t1, all_t])) if total else 0.0, 1e-9)
        if abs(np.linalg.det(matrix)) < 1e-9 * total**2 * reach**2 or not total:
            failed.append(k)
            continue
        a, b = np.linalg.solve(matrix, [total, arm + shift.e * total])
        q0[i] *= (a + b * t0)[:, None]
        q1[i] *= (a + b * t1)[:, None]
        at_points[p] *= (a + b * all_t[: len(p)])[:, None]
        at_nodes[n] *= (a + b * all_t[len(p) :])[:, None]
    scaled = replace(loads, lines=replace(lines, q0=q0, q1=q1), points=replace(points, f=at_points),
                     nodes=replace(nodes, f=at_nodes))  # fmt: skip
    return scaled, failed
