"""Whether a building turns under seismic loads that act beside their place: ratios of drifts, and what amplifies.

    A_x = (delta_max / 1.2 delta_avg)^2, from 1 to 3        delta at the two edges of a floor across the loads
    ratio = drift_max / drift_avg                           of the storey below it, at the same two edges

ASCE 7, 12.8.4.3 and table 12.3-1: above 1.2 the building is torsionally irregular, above 1.4 extremely so. All parts
act, one-way or not; A_x is 1 in these displacements.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..actions.torsion import torsions
from ..analysis.equations import Equations, build_equations
from ..analysis.solution import Solution
from ..analysis.solve import respond
from ..model.findings import Finding, with_accepted
from ..model.loads import AtNodes, PlainLoads, Source, gather, in_columns
from ..model.project import Project
from ..resolved import Resolved
from .storeys import below_of
from .table import Column, Table

Floats = NDArray[np.float64]
IRREGULAR, EXTREME = 1.2, 1.4
HIGHEST = 3.0
CLOSE = 1e-9


@dataclass(frozen=True)
class Turned:
    """One floor under a seismic case with its accidental torsion one way: displacements and drifts [m] of its two edges
    across the case, which is A_x = 1; and the A_x that is stated."""

    floor: str
    level: float
    case: str
    torsion: str
    sign: int
    moved: Floats
    drift: Floats
    stated: float

    @property
    def A_x(self) -> float:
        """ASCE 7, eq. 12.8-14."""
        ratio = largest_over_average(self.moved)
        return float(np.clip((ratio / 1.2) ** 2, 1.0, HIGHEST))

    @property
    def ratio(self) -> float:
        """Of drifts; NaN where the edges drift apart, or not at all."""
        return largest_over_average(self.drift)

    @property
    def judged(self) -> str:
        """In words, by ASCE 7."""
        if np.isnan(self.ratio):
            return ""
        return (
            "extreme" if self.ratio > EXTREME + CLOSE else "irregular" if self.ratio > IRREGULAR + CLOSE else "regular"
        )


def largest_over_average(edges: Floats) -> float:
    """
    >>> largest_over_average(np.array([3.0, 1.0])), largest_over_average(np.array([0.0, 0.0]))
    (1.5, nan)
    """
    average, largest = abs(edges.sum()) / 2, np.abs(edges).max()
    return float(largest / average) if average > CLOSE * largest else np.inf if largest else np.nan


def turned(model: Resolved, equations: Equations) -> list[Turned]:
    """Every rigid floor under every seismic case with accidental torsion, either way, lowest first. Raises Unstable."""
    project = model.project
    cases = torsions(project, model.loads)
    parts = []
    for k, (_, case, on) in enumerate(cases):
        own = project.case_names.index(case.torsion_of)
        for column, sign in ((2 * k, 1.0), (2 * k + 1, -1.0)):
            of_case = np.full(model.load_columns, -1)
            of_case[own] = column
            parts.append(in_columns(model.loads, of_case))
            plain = [replace(one, A_x=1.0) for one in on if one.moment]
            if plain:
                six = np.zeros((len(plain), 6))
                six[:, 5] = [sign * one.moment for one in plain]
                node = np.array([one.floor.nodes[0] for one in plain], np.intp)
                at = AtNodes(np.full(len(plain), column, np.intp), np.zeros(len(plain), np.intp), node, six)
                parts.append(PlainLoads(nodes=at, sources=(Source("accidental torsion", case.place),)))
    if not parts:
        return []
    moved = respond(equations, gather(parts), 2 * len(cases)).displacement
    out = []
    for k, (_, case, on) in enumerate(cases):
        axis = "xy".index(next(c for c in project.cases if c.name == case.torsion_of).along[1])
        xyz = project.xyz[[one.floor.nodes[0] for one in on]]
        for i, one in enumerate(on):
            across = project.xyz[list(one.floor.nodes), 1 - axis]
            edges = np.array([across.min(), across.max()])
            under = below_of(xyz, i)
            for column, sign in ((2 * k, 1), (2 * k + 1, -1)):
                here = _at_edges(project, moved[:, :, column], one.floor.nodes[0], edges, axis)
                foot = np.zeros(2)
                if under is not None:
                    foot = _at_edges(project, moved[:, :, column], on[under].floor.nodes[0], edges, axis)
                out.append(Turned(one.floor.name, float(xyz[i, 2]), case.torsion_of, case.name, sign, here,
                                  here - foot, one.A_x))  # fmt: skip
    return out


def _at_edges(project: Project, u: Floats, leader: int, edges: Floats, axis: int) -> Floats:
    """Displacements of a rigid floor along an axis at places across it."""
    away = edges - project.xyz[leader, 1 - axis]
    return np.asarray(u[leader, axis] + (-1.0 if axis == 0 else 1.0) * away * u[leader, 5])


def torsion_table(found: list[Turned]) -> Table:
    """Floor by floor: edges' displacements, A_x as it should be and as stated, drifts, their ratio, and what it is."""

    def column(name: str, kind: str, values: list[float]) -> Column:
        return Column(name, kind, np.array(values, np.float64))  # type: ignore[arg-type]

    return Table(
        "storey-torsion",
        (
            Column("floor", "text", [t.floor for t in found]), column("level", "length", [t.level for t in found]),
            Column("case", "text", [f"{t.case} {'+' if t.sign > 0 else '-'} {t.torsion}" for t in found]),
            column("u max", "displacement", [float(np.abs(t.moved).max()) for t in found]),
            column("u average", "displacement", [float(abs(t.moved.sum()) / 2) for t in found]),
            column("A_x", "factor", [t.A_x for t in found]), column("A_x stated", "factor", [t.stated for t in found]),
            column("drift max", "displacement", [float(np.abs(t.drift).max()) for t in found]),
            column("drift average", "displacement", [float(abs(t.drift.sum()) / 2) for t in found]),
            column("ratio", "factor", [t.ratio for t in found]),
            Column("torsionally", "text", [t.judged for t in found]),
        ),
    )  # fmt: skip


def torsion_findings(solution: Solution) -> list[Finding]:
    """Where accidental torsion should be amplified more than stated (ASCE 7), and where a storey is irregular."""
    model = solution.model
    if not any(c.torsion_of for c in model.project.cases):
        return []
    equations = solution.equations
    if equations is None or equations.project is not model.project:
        equations = build_equations(model.project)
    return with_accepted(_findings(model, turned(model, equations)), model.project.accepted)


def _findings(model: Resolved, found: list[Turned]) -> Iterator[Finding]:
    codes = [s.name for s in model.project.combining.sets]
    by_asce = not codes or any(name.startswith("ASCE") for name in codes)
    places = {c.name: c.place for c in model.project.cases}
    worst: dict[tuple[str, str], Turned] = {}
    for one in found:
        key = one.floor, one.case
        if key not in worst or one.A_x > worst[key].A_x:
            worst[key] = one
    for one in worst.values():
        if by_asce and one.A_x > one.stated * (1 + 1e-3):
            yield Finding(
                "warning", "torsion-not-amplified",
                f"floor {one.floor} turns under {one.case}: A_x = {one.A_x:.3f} (ASCE 7, 12.8.4.3), and {one.stated:g} "
                "is taken", f"where 12.8.4.3 applies, state A_x = {{ {one.floor} = {one.A_x:.3f} }} in case {one.case}",
                places[one.case], about=(one.case, one.floor),
            )  # fmt: skip
    steep: dict[tuple[str, str], Turned] = {}
    for one in found:
        if one.judged in ("irregular", "extreme"):
            key = one.floor, one.case
            steep[key] = one if key not in steep or one.ratio > steep[key].ratio else steep[key]
    for one in steep.values():
        extreme = " extremely" if one.judged == "extreme" else ""
        limit = EXTREME if extreme else IRREGULAR
        yield Finding(
            "note", "torsionally-irregular",
            f"the storey below floor {one.floor} is{extreme} irregular in torsion under {one.case}: drift at one edge "
            f"{one.ratio:.3f} times the average, above {limit:g} (ASCE 7, table 12.3-1)",
            "`empuje storeys --torsion` lists every floor", places[one.case], about=(one.case, one.floor),
        )  # fmt: skip
