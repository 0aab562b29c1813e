"""The building storey by storey: what it carries through a cut at the foot of each, and how far it drifts.

         level  o-------o        loads above the cut = what members and plates it cuts carry:
                |       |        V = - sum of the forces from below, M about the middle of the supports at the cut
    cut  - - - -|- - - -|- - -
         level  o-------o

Drift is that of every plumb line with a node at both levels; the torsional ratio of a direction in which a force acts
is its largest drift over the average of those at the two edges across it (ASCE 7, 12.3.2.1).
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import build_pieces
from ..analysis.polynomials import value_at
from ..analysis.solution import Solution
from ..model.near import together
from ..model.results import Results
from .storey_plates import plates_cut
from .table import Column, Table, how_column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
JUST_ABOVE = 1e-6
SAME_LEVEL = 1e-3


def storey_forces(solution: Solution, results: Results, level: float) -> tuple[Floats, Floats]:
    """What passes down through a cut just above a level: forces and moments about the middle of the supports at that
    level, in global axes (3, results) each [N, N m]."""
    project = solution.project
    height = level + JUST_ABOVE
    z = project.xyz[project.ends, 2]
    cut = np.flatnonzero((z.min(axis=1) < height) & (z.max(axis=1) > height))
    middle = np.array([*solution.centre[:2], level])
    of_plates = plates_cut(solution, solution.weights(results, reduced=False), height, middle)
    if not len(cut):
        return of_plates
    x = (height - z[cut, 0]) / project.axes[cut, 0, 2]
    value = _forces_at(solution, results, cut, x)
    # On the positive face the part at the start pushes the rest by -N, Vy, Vz and turns it by -T, My, -Mz.
    sign = (
        np.array([-1.0, 1.0, 1.0, -1.0, 1.0, -1.0])[None, :, None]
        * np.where(z[cut, 0] < height, 1.0, -1.0)[:, None, None]
    )
    own = value * sign
    axes = project.axes[cut].transpose(0, 2, 1)
    F, M = axes @ own[:, :3], axes @ own[:, 3:]
    at = project.xyz[project.ends[cut, 0]] + x[:, None] * project.axes[cut, 0] - middle
    M = M + np.cross(at[:, None, :], F.transpose(0, 2, 1)).transpose(0, 2, 1)
    return of_plates[0] - F.sum(axis=0), of_plates[1] - M.sum(axis=0)


def _forces_at(solution: Solution, results: Results, members: Ints, x: Floats) -> Floats:
    """Internal forces of each member at its x: (members, 6, results)."""
    pieces = build_pieces(solution, members, solution.weights(results, reduced=False))
    first, stop = (np.searchsorted(pieces.member, members, side=side) for side in ("left", "right"))
    beyond = pieces.start <= np.repeat(x, stop - first) + 1e-9
    piece = first + np.maximum(np.add.reduceat(beyond.astype(np.intp), first) - 1, 0)
    return value_at(pieces.force[piece], np.clip(x - pieces.start[piece], 0.0, pieces.length[piece]))


def drifts(solution: Solution, results: Results, levels: Floats) -> tuple[Floats, list[Floats]]:
    """Plan positions (lines, 2), and for each storey the drift (lines, 2, results) [m]; NaN where a line has no node at
    both of its levels. Nodes that second order put on members are none of the model's."""
    project = solution.model.project
    of = together(project.xyz[:, :2], SAME_LEVEL)
    lines = project.xyz[np.unique(of, return_index=True)[1], :2]
    moved = []
    for level in levels:
        here = np.full((len(lines), 2, len(results)), np.nan)
        at = np.flatnonzero(np.abs(project.xyz[:, 2] - level) < SAME_LEVEL)
        here[of[at]] = solution.displacement[at, :2] @ solution.weights(results)
        moved.append(here)
    return lines, [above - below for below, above in pairwise(moved)]


def torsional_ratio(lines: Floats, drift: Floats, direction: int) -> Floats:
    """Largest drift over the average of those at the two edges across the direction (results,); NaN without edges."""
    across = lines[:, 1 - direction]
    known = ~np.isnan(drift[:, direction]).any(axis=1)
    out = np.full(drift.shape[2], np.nan)
    if not known.any() or np.ptp(across[known]) < 1e-3:
        return out
    d, at = drift[known, direction], across[known]
    edges = []
    for edge in (at.min(), at.max()):
        own = d[np.abs(at - edge) < 1e-3]
        edges.append(own[np.abs(own).argmax(axis=0), np.arange(own.shape[1])])
    average, largest = np.abs(edges[0] + edges[1]) / 2, np.abs(d).max(axis=0)
    some = average > 1e-6 * largest
    out[some] = largest[some] / average[some]
    return out


def storey_cut_table(solution: Solution, results: Results, levels: list[tuple[str, float]]) -> Table:
    """Storey by storey, top down: shear, overturning moment, drift, drift over height in thousandths, torsional ratio.

    `levels`: names and heights [m], from the lowest.
    """
    plane = solution.project.plane
    z = np.array([level for _, level in levels])
    lines, drift = drifts(solution, results, z)
    storeys = list(range(len(levels) - 1))[::-1]
    each = [(k, n) for k in storeys for n in range(len(results))]
    cuts = {k: storey_forces(solution, results, z[k]) for k in storeys}
    ratio = {}
    for k in storeys:
        shear = np.abs(cuts[k][0][:2])
        acts = shear > 1e-6 * shear.max(axis=0)
        ratio[k] = [np.where(acts[d], torsional_ratio(lines, drift[k], d), np.nan) for d in (0, 1)]
    largest = {}
    for k in storeys:
        if not len(lines):
            largest[k] = np.full((2, len(results)), np.nan)
            continue
        line = np.where(np.isnan(drift[k]), -1.0, np.abs(drift[k])).argmax(axis=0)
        largest[k] = np.take_along_axis(drift[k], line[None], axis=0)[0]

    def column(value: Callable[[int, int], float]) -> Floats:
        return np.array([value(k, n) for k, n in each])

    def out_of_plane(value: Floats) -> Floats:
        return np.full_like(value, np.nan) if plane else value

    def drift_of(d: int) -> Floats:
        return column(lambda k, n: largest[k][d, n])

    height = column(lambda k, _: z[k + 1] - z[k])
    return Table(
        "storey-cuts",
        (
            Column("storey", "text", [f"{levels[k][0]}-{levels[k + 1][0]}" for k, _ in each]),
            Column("case", "text", [results[n].name for _, n in each]),
            Column("Vx", "force", column(lambda k, n: cuts[k][0][0, n])),
            Column("Vy", "force", out_of_plane(column(lambda k, n: cuts[k][0][1, n]))),
            Column("Mx", "moment", out_of_plane(column(lambda k, n: cuts[k][1][0, n]))),
            Column("My", "moment", column(lambda k, n: cuts[k][1][1, n])),
            Column("drift x", "displacement", drift_of(0)),
            Column("drift y", "displacement", out_of_plane(drift_of(1))),
            Column("drift x/h [1/1000]", "number", 1e3 * drift_of(0) / height),
            Column("drift y/h [1/1000]", "number", out_of_plane(1e3 * drift_of(1) / height)),
            Column("torsion x", "factor", out_of_plane(column(lambda k, n: ratio[k][0][n]))),
            Column("torsion y", "factor", out_of_plane(column(lambda k, n: ratio[k][1][n]))),
            how_column(results, solution.how(results), np.array([n for _, n in each], np.intp)),
        ),
    )  # fmt: skip
