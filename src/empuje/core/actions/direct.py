"""Loads written down by the engineer: on members and at nodes, strains of members, settlements of supports."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..model.findings import Finding, Place
from ..model.frame import ON_LINE_TOLERANCE
from ..model.loads import (
    DescribedLoad,
    Direction,
    LineLoad,
    NodeLoad,
    PlainLoads,
    PointLoad,
    Position,
    Settlement,
    Source,
    Strain,
    gather,
)  # fmt: skip
from ..model.project import Project

Found = tuple[PlainLoads, list[Finding]]


def direct_loads(project: Project) -> Found:
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
        return np.einsum("mij,i->mj", project.axes[members], vector)
    return np.broadcast_to(vector, (len(members), 3))


def _placed(project: Project, members: NDArray[np.intp], position: Position, place: Place) -> tuple[NDArray, list]:
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
    s, values = [], []
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
            PlainLoads(
                line_case=np.full(n, case), line_member=members, line_source=np.zeros(n, np.intp), line_s0=s0,
                line_s1=np.maximum(s0, s1), line_q0=vector * (v0 * factor)[:, None],
                line_q1=vector * (v1 * factor)[:, None],
            )
        )  # fmt: skip
    joined = gather(parts)
    return _with_source(joined, Source(load.text, load.place)), findings


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
        parts.append(
            PlainLoads(
                point_case=np.full(n, case), point_member=members, point_source=np.zeros(n, np.intp), point_s=s,
                point_f=f,
            )
        )  # fmt: skip
    return _with_source(gather(parts), Source(load.text, load.place)), findings


def _at_nodes(case: int, load: NodeLoad) -> PlainLoads:
    n = len(load.nodes)
    f = np.zeros((n, 6))
    first = 0 if load.kind == "force" else 3
    f[:, first : first + 3] = np.array(load.direction.vector) * load.value
    return PlainLoads(
        node_case=np.full(n, case), node_node=np.array(load.nodes, np.intp), node_source=np.zeros(n, np.intp), node_f=f,
        sources=(Source(load.text, load.place),),
    )  # fmt: skip


def _strained(project: Project, case: int, load: Strain) -> Found:
    n = len(load.members)
    values = np.tile([load.warm, load.gradient_y, load.gradient_z, load.misfit], (n, 1))
    loads = PlainLoads(
        strain_case=np.full(n, case), strain_member=np.array(load.members, np.intp),
        strain_source=np.zeros(n, np.intp), strain_v=values, sources=(Source(load.text, load.place),),
    )  # fmt: skip
    cold = [project.members[m] for m in load.members if not project.members[m].material.expansion]
    if not cold or not (load.warm or load.gradient_y or load.gradient_z):
        return loads, []
    message = f"{cold[0].name} does not expand: its material {cold[0].material.name} has no expansion"
    return loads, [Finding("warning", "no-expansion", message, "give the material one", load.place)]


def _settled(case: int, load: Settlement) -> PlainLoads:
    n = len(load.nodes)
    return PlainLoads(
        settle_case=np.full(n, case), settle_node=np.array(load.nodes, np.intp), settle_source=np.zeros(n, np.intp),
        settle_d=np.tile(load.motion, (n, 1)), sources=(Source(load.text, load.place),),
    )  # fmt: skip


def _with_source(loads: PlainLoads, source: Source) -> PlainLoads:
    return replace(loads, sources=(source,))
