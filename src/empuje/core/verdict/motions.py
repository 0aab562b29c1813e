"""Limits on displacements of nodes, drifts of storeys, and the tilt of floors.

tilt    the slope of the plane through the displaced nodes of a floor that fits best:  uz = c + a x + b y,
        sqrt(a^2 + b^2); sums of displacements, as drifts and means of these are
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.units import Units
from ..analysis.solution import Columns, Solution
from ..answers.foundations import MOTIONS
from ..answers.storey_cuts import SAME_LEVEL
from ..answers.table import Kind
from ..answers.why import Sum
from ..model.connected import nodes_of_plates
from ..model.limits import COMPONENTS, Limit
from ..model.near import together
from ..model.project import Project
from ..model.results import Results
from ..surfaces.surface_geometry import nodes_on
from .found import Found, Rows, lengths, named, nothing, sum_along, sums

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
PARTS = {"u": [0, 1, 2], "u_level": [0, 1], "drift": [0, 1], "drift_x": [0], "drift_y": [1]}


def _parts(project: Project, of: str) -> list[int]:
    """The components of displacement behind one of a limit; those out of a plane do not count."""
    return [i for i in PARTS.get(of) or [MOTIONS.index(of)] if not project.plane or i != 1]


def displacements_found(solution: Solution, results: Results, limit: Limit, of: str) -> Found:
    """A component of the displacements of a limit's nodes."""
    nodes = np.array(limit.on, np.intp)
    parts = _parts(solution.project, of)
    lost = solution.undefined[nodes][:, parts].any(axis=1)
    names = [solution.project.nodes[i].name for i in nodes.tolist()]
    gone = tuple((names[i], f"nothing ties its {of}") for i in np.flatnonzero(lost).tolist())
    kept = nodes[~lost]
    if not len(kept):
        return nothing(gone)
    place = [names[i] for i in np.flatnonzero(~lost).tolist()]
    found = _found(solution, results, limit, of, lambda table: table.displacement[kept][:, parts], place)
    return replace(found, lost=gone)


def _found(
    solution: Solution, results: Results, limit: Limit, of: str, rows: Rows, place: list[str]
) -> Found:  # fmt: skip
    """The extremes of sums, rows (n, parts, columns), or of the lengths of vectors of several parts."""
    kind: Kind = COMPONENTS[limit.kind][of]  # type: ignore[assignment]
    if rows(solution).shape[1] > 1:
        value, made = lengths(solution, results, rows)
    else:
        found = sums(solution, results, lambda table: rows(table)[:, 0])
        value, made = found.value, named(solution, results, found)

    def explained(row: int, side: int, solved: Solution, weights: Floats) -> list[Sum]:
        return [sum_along(of, kind, place[row], rows, row, solved, weights)]

    return Found(place, value, made, sums=explained)


def plumb_lines(project: Project, levels: Sequence[tuple[str, float]]) -> list[tuple[int, int]]:
    """From node to node of every plumb line that has some at two of the levels or more, upward; a level where it has no
    node is passed over."""
    rank = np.full(len(project.nodes), -1)
    for k, (_, height) in enumerate(levels):
        rank[np.abs(project.xyz[:, 2] - height) < SAME_LEVEL] = k
    lines: dict[int, list[int]] = {}
    used = {*project.ends.ravel().tolist(), *project.nodes_on_members[1].tolist()}
    used |= set(nodes_of_plates(project).tolist())
    line = together(project.xyz[:, :2], SAME_LEVEL)
    for i in np.argsort(rank, kind="stable").tolist():
        if rank[i] >= 0 and i in used:
            lines.setdefault(int(line[i]), []).append(i)
    return [pair for line in lines.values() for pair in pairwise(line)]


def drifts_found(solution: Solution, results: Results, limit: Limit, of: str) -> Found:
    """Drifts between the levels of a limit: of every plumb line, or the mean of those from the one level to the
    other."""
    project = solution.model.project
    pairs = plumb_lines(project, limit.levels)
    why = "no plumb line has a node there and at another level; name `levels` without it"
    bare = [
        (name, why) for name, height in limit.levels
        if not any(abs(project.xyz[i, 2] - height) < SAME_LEVEL for pair in pairs for i in pair)
    ]  # fmt: skip
    if not pairs:
        return nothing(bare)
    low, high = np.array(pairs, np.intp).T
    z = project.xyz[:, 2]
    parts = _parts(project, of)
    of_group = together(np.column_stack([z[low], z[high]]), SAME_LEVEL)
    groups = np.array(
        [[z[low[of_group == g]].mean(), z[high[of_group == g]].mean()] for g in range(of_group.max() + 1)]
    )
    mean = np.zeros((len(groups), len(pairs)))
    mean[of_group, np.arange(len(pairs))] = 1 / np.bincount(of_group)[of_group]

    def rows(table: Columns | Units) -> Floats:
        each = table.displacement[high][:, parts] - table.displacement[low][:, parts]
        return np.einsum("gp,pic->gic", mean, each) if limit.mean else np.asarray(each)

    if limit.mean:
        count = np.bincount(of_group).tolist()
        place = [f"{_level(limit, a)} to {_level(limit, b)}, mean of {n}" for (a, b), n in
                 zip(groups.tolist(), count, strict=True)]  # fmt: skip
        height = groups[:, 1] - groups[:, 0]
    else:
        place = [f"{project.nodes[i].name} to {project.nodes[k].name}" for i, k in pairs]
        height = z[high] - z[low]
    return replace(_found(solution, results, limit, of, rows, place), span=height, lost=tuple(bare))


def _level(limit: Limit, height: float) -> str:
    return next(name for name, z in limit.levels if abs(z - height) < 2 * SAME_LEVEL)


def tilts_found(solution: Solution, results: Results, limit: Limit, of: str) -> Found:
    """The tilt of a limit's floors and surfaces."""
    project = solution.model.project
    place, slopes, on, lost = [], [], [], []
    for name, nodes in limit.floors:
        own = np.array(nodes or _on_surface(solution, name), np.intp)
        at = project.xyz[own][:, :2]
        at = at - at.mean(axis=0) if len(at) else at
        if len(own) < 2 or np.ptp(at, axis=0).max() < SAME_LEVEL:
            lost.append((name, "has no two nodes apart from each other"))
            continue
        # Nodes in one line tell the slope along it alone: the least one that fits.
        slopes.append(np.linalg.pinv(at))
        on.append(own)
        place.append(name)
    if not place:
        return nothing(lost)

    def rows(table: Columns | Units) -> Floats:
        return np.stack([
            slope @ (table.displacement[own, 2] - table.displacement[own, 2].mean(axis=0))
            for slope, own in zip(slopes, on, strict=True)
        ])  # fmt: skip

    return replace(_found(solution, results, limit, of, rows, place), lost=tuple(lost))


def _on_surface(solution: Solution, name: str) -> Ints:
    model = solution.model
    index = next((i for i, s in enumerate(model.project.surfaces) if s.name == name), -1)
    geometry = model.surfaces.get(index)
    return nodes_on(geometry)[0] if geometry is not None else np.zeros(0, np.intp)
