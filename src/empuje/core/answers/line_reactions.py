"""Reactions of supports along lines, and of the ground under surfaces, as one each: the forces added up, the moments
about the middle of the line or surface."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ..analysis.applied import gained
from ..analysis.solution import Solution
from ..model.findings import Place
from ..model.frame import LineSupport, Node
from ..model.project import Project
from ..model.results import Results
from ..surfaces.mesh.joined import areas_of_nodes, nodes_along

KEPT = "by lines"
NONE_OF_IT = 1e-9


@dataclass(frozen=True)
class Together:
    """Supported nodes that are one support in tables: its name, its middle [m], where it is written, and which of the
    forces and moments along global axes it takes (6,)."""

    name: str
    nodes: tuple[int, ...]
    middle: tuple[float, float, float]
    place: Place
    takes: tuple[bool, ...]


def supports_together(project: Project, supported: set[int]) -> Iterator[Together]:
    """Lines of support and beds of an analysed project, with their nodes among some."""
    among = np.array(sorted(supported), np.intp)
    for line in project.line_supports:
        points = np.array(line.points)
        own = tuple(n for n, _ in nodes_along(project, points, among))
        yield Together(line.name, own, tuple(((points[0] + points[-1]) / 2).tolist()), line.place, _takes(line))
    for i, surface in enumerate(project.surfaces):
        if surface.plate is not None and surface.plate.bed:
            own = tuple(n for n, _ in areas_of_nodes(project, i) if n in supported)
            middle = np.array(surface.corners).mean(axis=0)
            upright = tuple(k == 2 for k in range(6))
            yield Together(f"{surface.name} on its bed", own, tuple(middle.tolist()), surface.place, upright)


def _takes(line: LineSupport) -> tuple[bool, ...]:
    own = np.array(line.held, bool) | (np.array(line.spring) > 0)
    along = np.abs(np.array(line.axes)) > NONE_OF_IT
    return tuple((own.reshape(2, 3) @ along).ravel().tolist())


def by_lines(solution: Solution, results: Results = ()) -> Solution:
    """The solution as tables of reactions show it: supports along a line, or a bed, as one support at its middle. What
    comes to a node of several is shared evenly between those that take it; a node with a support of its own stays
    itself. With loads that move nothing is joined, since their positions are found support by support."""
    project = solution.model.project
    some = project.line_supports or any(s.plate is not None and s.plate.bed for s in project.surfaces)
    if not some or any(r.moving for r in results):
        return solution
    if KEPT not in solution.__dict__:
        solution.__dict__[KEPT] = _joined(solution)
    found: Solution = solution.__dict__[KEPT]
    return found


def _joined(solution: Solution) -> Solution:
    project = solution.project
    row = {int(n): i for i, n in enumerate(solution.support_node)}
    single = {s.node for s in solution.model.project.supports}
    every = [one for one in supports_together(project, set(row) - single) if one.nodes]
    taken = {n for one in every for n in one.nodes}
    takers = {n: np.zeros(6) for n in taken}
    for one in every:
        for n in one.nodes:
            takers[n] += one.takes
    nodes, reaction, held = [], [], []
    for one in every:
        rows = [row[n] for n in one.nodes]
        part = np.array([np.array(one.takes) / np.maximum(takers[n], 1) for n in one.nodes])[:, :, None]
        F, M = part[:, :3] * solution.reaction[rows, :3], part[:, 3:] * solution.reaction[rows, 3:]
        arm = project.xyz[list(one.nodes)] - one.middle
        turning = np.cross(arm[:, None], F.transpose(0, 2, 1)).transpose(0, 2, 1)
        nodes.append(Node(one.name, one.middle, one.place))
        reaction.append(np.concatenate([F.sum(axis=0), (M + turning).sum(axis=0)]))
        held.append(np.append(solution.held[rows, :3].any(axis=0), [True] * 3))
    left = [i for i, n in enumerate(solution.support_node.tolist()) if n not in taken]
    first, wide = len(project.nodes), solution.reaction.shape[1:]
    joined = replace(
        solution, project=replace(project, nodes=(*project.nodes, *nodes)),
        support_node=np.concatenate([solution.support_node[left], first + np.arange(len(nodes))]).astype(np.intp),
        reaction=np.concatenate([solution.reaction[left], np.array(reaction).reshape(-1, *wide)]),
        held=np.concatenate([solution.held[left], np.array(held, bool).reshape(-1, 6)]),
    )  # fmt: skip
    joined.__dict__["gained"] = gained(solution)  # which is of every supported node
    return joined
