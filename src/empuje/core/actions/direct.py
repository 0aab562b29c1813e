"""Loads written down by the engineer: on members and at nodes, strains of members, settlements of supports.

All loads of a kind are worked on together: a model may hold hundreds of thousands of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import chain, pairwise
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ..model.findings import Finding
from ..model.frame import ON_LINE_TOLERANCE
from ..model.loads import (
    AtNodes,
    Direction,
    LineLoad,
    Lines,
    NodeLoad,
    PlainLoads,
    PointLoad,
    Points,
    Position,
    Settlement,
    Settlements,
    Source,
    Strain,
    Strains,
)
from ..model.project import Project
from .surfaces.sources.surface_loads import Surfaces

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Found = tuple[PlainLoads, list[Finding]]
L = TypeVar("L", LineLoad, PointLoad, NodeLoad, Strain, Settlement)
MOST_TOLD = 3
"""Members a load does not fit that are told."""


def direct_loads(project: Project, _: Surfaces) -> Found:
    """The described loads as plain loads in global axes; the sources are the loads in their order."""
    findings: list[Finding] = []
    loads = PlainLoads(
        _along_lines(project, findings),
        _at_points(project, findings),
        _at_nodes(project),
        _strained(project, findings),
        _settled(project),
        sources=tuple(Source(load.text, load.place) for load in project.loads),
    )
    return loads, findings


def _of_kind(project: Project, kind: type[L]) -> tuple[list[L], Ints, Ints]:
    """The loads of a kind, their places among all, and their cases."""
    number = {name: i for i, name in enumerate(project.case_names)}
    found = [(i, load) for i, load in enumerate(project.loads) if isinstance(load, kind)]
    loads = [load for _, load in found]
    source = np.array([i for i, _ in found], np.intp)
    return loads, source, np.array([number[load.case] for load in loads], np.intp)


def _spread(targets: Sequence[tuple[int, ...]]) -> tuple[Ints, Ints]:
    """Which of several loads, and on which of its members or nodes, every row is."""
    count = np.fromiter(map(len, targets), np.intp, len(targets))
    every = np.fromiter(chain.from_iterable(targets), np.intp, int(count.sum()))
    return np.repeat(np.arange(len(targets)), count), every


def _vectors(project: Project, directions: Sequence[Direction], of: Ints, member: Ints) -> Floats:
    """The unit vector of each row's direction in global axes (rows, 3)."""
    number: dict[Direction, int] = {}
    which = np.array([number.setdefault(d, len(number)) for d in directions], np.intp)[of]
    vector = np.array([d.vector for d in number]).reshape(-1, 3)[which]
    local = np.array([d.local for d in number], bool)[which]
    if local.any():
        vector[local] = np.einsum("mij,mi->mj", project.axes[member[local]], vector[local])
    return vector


def _placed(positions: Sequence[Position], of: Ints, length: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """Where each row's position is on its member (rows,) [m], and whether it lies off it."""
    offset = np.array([p.offset for p in positions])[of]
    share = np.array([p.share for p in positions])[of]
    s = offset + share * length
    off = (s < -ON_LINE_TOLERANCE) | (s > length + ON_LINE_TOLERANCE)
    return np.clip(s, 0.0, length), off


def _off(project: Project, load: LineLoad | PointLoad, position: Position, members: Ints) -> list[Finding]:
    """A finding for members that a position lies off."""
    out = []
    for m in members[:MOST_TOLD].tolist():
        length = float(project.lengths[m])
        message = f"{position.on(length):.4g} m is not on {project.members[m].name}"
        remedy = f"it is {length:.4g} m long; give a position from 0 to 100%"
        out.append(Finding("error", "position-off-member", message, remedy, load.place))
    return out


def _along_lines(project: Project, findings: list[Finding]) -> Lines:
    loads, source, case = _of_kind(project, LineLoad)
    if not loads:
        return Lines()
    # Stretches between neighbouring points of a load, each on all its members.
    load_of = np.repeat(np.arange(len(loads)), [max(len(load.points) - 1, 0) for load in loads])
    pairs = [pair for load in loads for pair in pairwise(load.points)]
    of, member = _spread([loads[k].members for k in load_of.tolist()])
    length, load_of_row = project.lengths[member], load_of[of]
    vector = _vectors(project, [load.direction for load in loads], load_of_row, member)
    factor = np.ones(len(member))
    projected = np.array([load.projected for load in loads], bool)[load_of_row]
    if projected.any():
        axis = project.axes[member[projected], 0]
        factor[projected] = np.linalg.norm(np.cross(axis, vector[projected]), axis=1)
        findings += _unseen(project, loads, load_of_row, member, projected & (factor < 1e-9))
    (s0, off0), (s1, off1) = (_placed([pair[end][0] for pair in pairs], of, length) for end in (0, 1))
    for k in np.unique(load_of_row[off0 | off1]).tolist():
        own = np.array(loads[k].members, np.intp)
        for position, _ in loads[k].points:
            off = _placed([position], np.zeros_like(own), project.lengths[own])[1]
            findings += _off(project, loads[k], position, own[off])
    for row in _first_of_each(of, s1 < s0 - 1e-12):
        findings.append(
            Finding(
                "error", "positions-in-reverse",
                f"on {project.members[member[row]].name} the load would end before it starts",
                "give the positions from the member's start to its end", loads[load_of_row[row]].place,
            )
        )  # fmt: skip
    q0, q1 = (vector * (np.array([pair[end][1] for pair in pairs])[of] * factor)[:, None] for end in (0, 1))
    return Lines(case[load_of_row], source[load_of_row], member, s0, np.maximum(s0, s1), q0, q1)


def _first_of_each(of: Ints, wrong: NDArray[np.bool_]) -> list[int]:
    """The first wrong row of every group that has one."""
    rows = np.flatnonzero(wrong)
    return [int(rows[i]) for i in np.unique(of[rows], return_index=True)[1]]


def _unseen(
    project: Project, loads: list[LineLoad], load: Ints, member: Ints, unseen: NDArray[np.bool_]
) -> list[Finding]:
    """Members that a projected load runs along."""
    out = []
    for row in _first_of_each(load, unseen):
        one, name = loads[load[row]], project.members[member[row]].name
        message = f"{name} runs along the load's direction ({one.direction.text}), so its projected length is zero"
        out.append(Finding("warning", "no-projection", message, "leave it out of `on`, or drop `per`", one.place))
    return out


def _at_points(project: Project, findings: list[Finding]) -> Points:
    loads, source, case = _of_kind(project, PointLoad)
    if not loads:
        return Points()
    load_of = np.repeat(np.arange(len(loads)), [len(load.positions) for load in loads])
    positions = [position for load in loads for position in load.positions]
    of, member = _spread([loads[k].members for k in load_of.tolist()])
    row = load_of[of]
    s, off = _placed(positions, of, project.lengths[member])
    for k in np.unique(of[off]).tolist():
        findings += _off(project, loads[load_of[k]], positions[k], member[off & (of == k)])
    vector = _vectors(project, [load.direction for load in loads], row, member)
    return Points(case[row], source[row], member, s, _six(loads, row, vector))


def _six(loads: Sequence[PointLoad] | Sequence[NodeLoad], row: Ints, vector: Floats) -> Floats:
    """Forces and moments (rows, 6) along unit vectors (rows, 3)."""
    value = np.array([load.value for load in loads])[row, None] * vector
    turns = np.array([load.kind == "moment" for load in loads])[row, None]
    return np.hstack([np.where(turns, 0.0, value), np.where(turns, value, 0.0)])


def _at_nodes(project: Project) -> AtNodes:
    loads, source, case = _of_kind(project, NodeLoad)
    if not loads:
        return AtNodes()
    row, node = _spread([load.nodes for load in loads])
    vector = np.array([load.direction.vector for load in loads])[row]
    return AtNodes(case[row], source[row], node, _six(loads, row, vector))


def _strained(project: Project, findings: list[Finding]) -> Strains:
    loads, source, case = _of_kind(project, Strain)
    if not loads:
        return Strains()
    row, member = _spread([load.members for load in loads])
    values = np.array([(load.temperature, load.gradient_y, load.gradient_z, load.lack_of_fit) for load in loads])[row]
    for load in loads:
        cold = [project.members[m] for m in load.members if not project.members[m].material.expansion]
        if cold and (load.temperature or load.gradient_y or load.gradient_z):
            message = f"{cold[0].name} does not expand: its material {cold[0].material.name} has no expansion"
            findings.append(Finding("warning", "no-expansion", message, "give the material one", load.place))
    return Strains(case[row], source[row], member, values)


def _settled(project: Project) -> Settlements:
    loads, source, case = _of_kind(project, Settlement)
    if not loads:
        return Settlements()
    row, node = _spread([load.nodes for load in loads])
    return Settlements(case[row], source[row], node, np.array([load.motion for load in loads])[row])
