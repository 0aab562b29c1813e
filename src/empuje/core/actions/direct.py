"""Loads written down by the engineer: on members and at nodes, strains of members, settlements of supports."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model.findings import Finding, Place
from ..model.frame import ON_LINE_TOLERANCE
from ..model.loads import (
    AtNodes,
    DescribedLoad,
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
    gather,
)  # fmt: skip
from ..model.project import Project
from .surfaces.sources.surface_loads import Surfaces

Found = tuple[PlainLoads, list[Finding]]


def direct_loads(project: Project, _: Surfaces) -> Found:
    """The described loads as plain loads in global axes."""
    case = {name: i for i, name in enumerate(project.case_names)}
    parts: list[PlainLoads] = []
    findings: list[Finding] = []
    for load in project.loads:
        loads, found = _plain(project, case[load.case], load)
        parts.append(loads)
        findings += found
    return gather(parts), findings


def _plain(project: Project, case: int, load: DescribedLoad) -> Found:
    if isinstance(load, NodeLoad):
        return _at_nodes(case, load), []
    if isinstance(load, Strain):
        return _strained(project, case, load)
    if isinstance(load, Settlement):
        return _settled(case, load), []
    if isinstance(load, PointLoad):
        return _at_points(project, case, load)
    return _along_lines(project, case, load)


def _vectors(project: Project, members: NDArray[np.intp], direction: Direction) -> NDArray[np.float64]:
    """The unit vector of a direction in global axes, for each member: (members, 3)."""
    vector = np.array(direction.vector)
    if direction.local:
        return np.asarray(np.einsum("mij,i->mj", project.axes[members], vector))
    return np.broadcast_to(vector, (len(members), 3))


def _placed(
    project: Project, members: NDArray[np.intp], position: Position, place: Place
) -> tuple[NDArray[Any], list[Any]]:
    """The position on each member [m], and a finding for each it lies off."""
    length = project.lengths[members]
    s = position.offset + position.share * length
    off = (s < -ON_LINE_TOLERANCE) | (s > length + ON_LINE_TOLERANCE)
    findings = [
        Finding(
            "error", "position-off-member", f"{s[i]:.4g} m is not on {project.members[members[i]].name}",
            f"it is {length[i]:.4g} m long; give a position from 0 to 100%", place,
        )
        for i in np.flatnonzero(off)[:3]
    ]  # fmt: skip
    return np.clip(s, 0.0, length), findings


def _along_lines(project: Project, case: int, load: LineLoad) -> Found:
    members = np.array(load.members, np.intp)
    n = len(members)
    vector = _vectors(project, members, load.direction)
    findings: list[Finding] = []
    factor = np.ones(n)
    if load.projected:
        factor = np.linalg.norm(np.cross(project.axes[members, 0], vector), axis=1)
        unseen = np.flatnonzero(factor < 1e-9)
        if len(unseen):
            name = project.members[members[unseen[0]]].name
            findings.append(
                Finding(
                    "warning", "no-projection",
                    f"{name} runs along the load's direction ({load.direction.text}), so its projected length is zero",
                    "leave it out of `on`, or drop `per`", load.place,
                )
            )  # fmt: skip
    s, values, first = [], [], np.zeros(n, np.intp)
    for position, value in load.points:
        at, found = _placed(project, members, position, load.place)
        findings += found
        s.append(at)
        values.append(value)
    parts = []
    for s0, s1, v0, v1 in zip(s, s[1:], values, values[1:], strict=False):
        wrong = np.flatnonzero(s1 < s0 - 1e-12)
        if len(wrong):
            name = project.members[members[wrong[0]]].name
            findings.append(
                Finding(
                    "error", "positions-in-reverse", f"on {name} the load would end before it starts",
                    "give the positions from the member's start to its end", load.place,
                )
            )  # fmt: skip
        parts.append(
            Lines(
                np.full(n, case),
                first,
                members,
                s0,
                np.maximum(s0, s1),
                *(vector * (v * factor)[:, None] for v in (v0, v1)),
            )
        )
    return PlainLoads(lines=Lines.concat([Lines(), *parts]), sources=(Source(load.text, load.place),)), findings


def _at_points(project: Project, case: int, load: PointLoad) -> Found:
    members = np.array(load.members, np.intp)
    n = len(members)
    f = np.zeros((n, 6))
    first = 0 if load.kind == "force" else 3
    f[:, first : first + 3] = _vectors(project, members, load.direction) * load.value
    parts, findings = [], []
    for position in load.positions:
        s, found = _placed(project, members, position, load.place)
        findings += found
        parts.append(Points(np.full(n, case), np.zeros(n, np.intp), members, s, f))
    return PlainLoads(points=Points.concat(parts), sources=(Source(load.text, load.place),)), findings


def _at_nodes(case: int, load: NodeLoad) -> PlainLoads:
    n = len(load.nodes)
    f = np.zeros((n, 6))
    first = 0 if load.kind == "force" else 3
    f[:, first : first + 3] = np.array(load.direction.vector) * load.value
    nodes = AtNodes(np.full(n, case), np.zeros(n, np.intp), np.array(load.nodes, np.intp), f)
    return PlainLoads(nodes=nodes, sources=(Source(load.text, load.place),))


def _strained(project: Project, case: int, load: Strain) -> Found:
    n = len(load.members)
    values = np.tile([load.warm, load.gradient_y, load.gradient_z, load.misfit], (n, 1))
    strains = Strains(np.full(n, case), np.zeros(n, np.intp), np.array(load.members, np.intp), values)
    loads = PlainLoads(strains=strains, sources=(Source(load.text, load.place),))
    cold = [project.members[m] for m in load.members if not project.members[m].material.expansion]
    if not cold or not (load.warm or load.gradient_y or load.gradient_z):
        return loads, []
    message = f"{cold[0].name} does not expand: its material {cold[0].material.name} has no expansion"
    return loads, [Finding("warning", "no-expansion", message, "give the material one", load.place)]


def _settled(case: int, load: Settlement) -> PlainLoads:
    n = len(load.nodes)
    nodes = np.array(load.nodes, np.intp)
    moved = Settlements(np.full(n, case), np.zeros(n, np.intp), nodes, np.tile(load.motion, (n, 1)))
    return PlainLoads(settlements=moved, sources=(Source(load.text, load.place),))
