"""Accidental torsion of seismic cases: the forces on each rigid floor beside their place, by a share of its extent.

M_t = A_x e F,   e = 0.05 L        (ASCE 7, 12.8.4.2 and 12.8.4.3; EN 1998-1, 4.3.2 and 4.3.3.2.4)

       ^ y     +-----------+
       |       |     x--F->|  e        F: what the case puts on the floor along its direction
       o-> x   |     .     |           L: the extent of the floor across it
               +-----------+
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..model.cases import Case
from ..model.decisions import Decision
from ..model.findings import Finding, did_you_mean
from ..model.frame import Diaphragm
from ..model.loads import AtNodes, PlainLoads, Source, Step
from ..model.project import Project
from ..model.words import Stance
from .on_floors import OnFloor, floors_upward, on_floors

CLAUSE = "ASCE 7, 12.8.4.2; EN 1998-1, 4.3.2"
NOTHING = 1e-9


@dataclass(frozen=True)
class FloorTorsion:
    """Of one case on one floor: its force F [N] along the case, the floor's extent across L [m], the share of it, and
    what it is amplified by."""

    floor: Diaphragm
    F: float
    L: float
    share: float
    A_x: float

    @property
    def moment(self) -> float:
        """About z [N m]."""
        return self.A_x * self.share * self.L * self.F


def torsions(project: Project, loads: PlainLoads) -> list[tuple[int, Case, list[FloorTorsion]]]:
    """Every case that is the accidental torsion of another, with its number, on each rigid floor, lowest first."""
    cases = [(i, c) for i, c in enumerate(project.cases) if c.torsion_of]
    floors = floors_upward(project)
    there = on_floors(project, loads, floors) if cases and floors else []
    return [(i, c, _torsion_of(project, c, floors, there)) for i, c in cases]


def _torsion_of(
    project: Project, case: Case, floors: Sequence[Diaphragm], there: Sequence[OnFloor]
) -> list[FloorTorsion]:
    parent = next(c for c in project.cases if c.name == case.torsion_of)
    axis = "xy".index(parent.along[1])
    index, amplified = project.case_names.index(parent.name), dict(case.amplified)
    out = []
    for floor, on in zip(floors, there, strict=True):
        F = float(on.force[on.case == index, axis].sum())
        L = float(np.ptp(project.xyz[list(floor.nodes), 1 - axis]))
        out.append(FloorTorsion(floor, F, L, case.torsion, amplified.get(floor.name, 1.0)))
    return out


def accidental_torsion(project: Project, loads: PlainLoads) -> tuple[PlainLoads, list[Finding]]:
    """Moments on the rigid floors for every case that is the accidental torsion of another, from that one's loads."""
    node: list[int] = []
    case: list[int] = []
    moment: list[float] = []
    sources: list[Source] = []
    findings: list[Finding] = []
    for i, c, each in torsions(project, loads):
        findings += _findings(project, c, each)
        for one in each:
            if one.moment:
                node.append(one.floor.nodes[0])
                case.append(i)
                moment.append(one.moment)
                sources.append(Source(f"accidental torsion of {c.torsion_of} on floor {one.floor.name}", c.place,
                                      tuple(_steps(one)), case=c.name))  # fmt: skip
    if not node:
        return PlainLoads(), findings
    six = np.zeros((len(node), 6))
    six[:, 5] = moment
    at = AtNodes(np.array(case, np.intp), np.arange(len(node)), np.array(node, np.intp), six)
    return PlainLoads(nodes=at, sources=tuple(sources)), findings


def torsion_decisions(project: Project, loads: PlainLoads) -> Iterator[Decision]:
    """The extents taken for rigid floors; that crosswise both directions' torsion goes along."""
    found = torsions(project, loads)
    for _, case, each in found:
        for one in each:
            yield Decision(
                "extent of a rigid floor", (one.floor.name, case.torsion_of), f"{one.L:.4g} m across {case.torsion_of}",
                "between its outermost nodes; what hangs over beyond them is not in it",
                "a node at the edge of the slab in the floor, or a larger share",
                f"diaphragms.{one.floor.name}.nodes, cases.{case.torsion_of}.accidental_torsion", Stance.USUAL,
                case.place,
            )  # fmt: skip
    if len({next(c.along[1] for c in project.cases if c.name == case.torsion_of) for _, case, _ in found}) > 1:
        yield Decision(
            "accidental torsion crosswise", tuple(case.torsion_of for _, case, _ in found), "that of both directions",
            "each with the share of its direction and either sign; ASCE 7, 12.8.4.2 asks for the worse alone",
            "that of one direction", "combinations.custom", Stance.SAFE, found[0][1].place,
        )  # fmt: skip


def _steps(one: FloorTorsion) -> Iterator[Step]:
    yield Step("F", "what the case puts on the floor", one.F, "N")
    yield Step("L", "extent of the floor across it", one.L, "m")
    yield Step("e", f"{one.share:g} L", one.share * one.L, "m", CLAUSE)
    if one.A_x != 1:
        yield Step("A_x", "stated", one.A_x, "", "ASCE 7, 12.8.4.3")
    yield Step("M_t", "A_x e F" if one.A_x != 1 else "e F", one.moment, "N m")


def _findings(project: Project, case: Case, each: list[FloorTorsion]) -> Iterator[Finding]:
    known = [f.name for f in project.diaphragms]
    for name, _ in case.amplified:
        if name not in known:
            yield Finding("error", "unknown-name", f"case {case.torsion_of}: A_x of {name}, which is no rigid floor",
                          did_you_mean(name, known), case.place)  # fmt: skip
    total = sum(abs(one.F) for one in each)
    if not any(one.moment for one in each):
        why = "puts no force along it on a rigid floor" if each else "needs rigid floors"
        yield Finding("error", "no-torsion", f"case {case.torsion_of} has accidental_torsion, and {why}",
                      "add [diaphragms], or take accidental_torsion out", case.place)  # fmt: skip
        return
    for one in each:
        if abs(one.F) > NOTHING * total and one.L <= 0:
            message = f"floor {one.floor.name} has no extent across {case.torsion_of}, and no accidental torsion"
            yield Finding("warning", "no-torsion", message, "add nodes to its diaphragm", case.place)
