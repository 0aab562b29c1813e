"""Reduced live loads by the area a member supports: ASCE 7, 4.7 and 4.8, and EN 1991-1-1, 6.3.1.2.

A unit pressure on the loaded surfaces, taken down by hand's rules, gives every member its tributary area A_T. Of a beam
over several spans the smallest counts, of a column that passes several floors what it carries below the uppermost one:
both are on the safe side.

    ASCE 7:  L = L_o (0.25 + 4.57 / sqrt(K_LL A_T)),  K_LL A_T >= 37.16 m2,  L >= 0.5 L_o, 0.4 L_o below two floors
    ASCE 7:  L_r = L_o R_1 R_2 between 0.58 and 0.96 kN/m2, for roofs
    EN 1991: alpha_A = 5/7 psi_0 + 10 m2 / A for beams,  alpha_n = (2 + (n - 2) psi_0) / n for columns, n > 2
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads, Step, in_columns
from ..model.project import Project
from ..model.reduction import Reduced, Reduction, ReductionRule
from ..model.surfaces import AreaLoad
from .surfaces import lay_surfaces, surface_loads
from .take_down import TakeDown, take_down

Floats = NDArray[np.float64]
CODES = ("ASCE 7-22", "ASCE 7-16", "EN 1991-1-1")
HEAVY = 4.79e3
"""Live loads above this [N/m2] are heavy (ASCE 7, 4.7.3: 100 psf)."""
LEAST_AREA, SLOPE_ASCE = 37.16, 4.57
"""ASCE 7, 4.7.2, in m2 and m."""
PSI_0 = 0.7
"""Of categories A to D (EN 1990, table A1.1)."""
IN_EN = ("residential", "office", "assembly", "shopping")
"""Categories A to D (EN 1991-1-1, 6.3.1.2)."""
NOTHING = 1e-9


def reduce_live_loads(project: Project, rule: ReductionRule) -> Reduction:
    """The factors of all members on the area loads of the rule's cases."""
    cases = [c for c in rule.cases if any(load.case == project.case_names[c] for load in _areas(project))]
    if not cases:
        return Reduction()
    n = len(cases)
    unit, real = _unit(project, cases), _only(project, cases)
    path = take_down(project, unit, n)
    factor = np.ones((len(project.members), n))
    each: list[Reduced] = []
    columns = set(path.columns)
    left_out = set(rule.without)
    K = {m: k for members, k in rule.K_LL for m in members}
    on = [_on_case(project, case) for case in cases]
    for m in range(len(project.members)):
        for i, case in enumerate(cases):
            area, floors = _area(path, m, i, m in columns)
            if area <= NOTHING or m in left_out:
                continue
            steps = [Step("A_T", "tributary area, taken down", area, "m2")]
            if m in K:
                steps.append(Step("K_LL", "given in the model", K[m], "", "ASCE 7, table 4.7-1"))
            found = _factor(rule.code, on[i], area, floors, m in columns, K.get(m), steps)
            factor[m, i] = found
            each.append(Reduced(m, case, area, floors, found, tuple(steps)))
    return Reduction(tuple(cases), factor, real, tuple(each))


def _areas(project: Project) -> list[AreaLoad]:
    """The pressures that count as live loads of floors and roofs: downward ones."""
    return [
        load for load in project.surface_loads
        if isinstance(load, AreaLoad) and load.reducible and load.direction.text == "down" and min(load.values) >= 0
    ]  # fmt: skip


def _unit(project: Project, cases: list[int]) -> PlainLoads:
    """1 N/m2 on everything that a case loads, as columns 0, 1, ..."""
    place = {project.case_names[c]: i for i, c in enumerate(cases)}
    seen = {}
    for load in _areas(project):
        if load.case in place:
            seen[load.case, load.surface, load.part] = replace(load, values=(1.0, 1.0))
    return _numbered(project, list(seen.values()), cases)


def _only(project: Project, cases: list[int]) -> PlainLoads:
    """The area loads of the cases, as columns 0, 1, ..."""
    names = [project.case_names[c] for c in cases]
    return _numbered(project, [load for load in _areas(project) if load.case in names], cases)


def _numbered(project: Project, areas: list[AreaLoad], cases: list[int]) -> PlainLoads:
    """What these area loads bring to members, their cases as columns 0, 1, ..."""
    number = np.full(len(project.cases), -1)
    number[cases] = np.arange(len(cases))
    return in_columns(surface_loads(replace(project, surface_loads=tuple(areas)))[0], number)


def _area(path: TakeDown, m: int, i: int, column: bool) -> tuple[float, int]:
    """The tributary area and the number of floors a member's factor goes by."""
    if not column:
        spans = path.spans[m][:, i] if m in path.spans else np.zeros(1)
        some = spans[spans > NOTHING]
        return (float(some.min()) if len(some) else 0.0), _count(path.floors[m], i)
    total = 0.0
    floors: set[tuple[float, int]] = set()
    for there in path.brought.get(m, ()):
        total += float(there.beams[i] + there.above[i])
        if there.beams[i] + there.above[i] > NOTHING:
            floors |= there.floors
        if total > NOTHING:
            break
    return total, _count(floors, i)


def _count(floors: set[tuple[float, int]], i: int) -> int:
    return sum(column == i for _, column in floors)


@dataclass(frozen=True)
class _OnCase:
    """What codes ask about a case: action, use, largest pressure [N/m2], and the rise in 12 of its flattest roof."""

    action: str
    use: str
    largest: float
    rise: float


def _on_case(project: Project, case: int) -> _OnCase:
    it = project.cases[case]
    loads = [load for load in _areas(project) if load.case == it.name]
    laid, _ = lay_surfaces(project)
    normals = [laid[load.surface].outline.normal for load in loads if load.surface in laid]
    rises = (12 * float(np.hypot(n[0], n[1])) / max(abs(float(n[2])), 1e-9) for n in normals)
    return _OnCase(it.action, it.use, max(max(load.values) for load in loads), min(rises, default=0.0))


def _factor(
    code: str, on: _OnCase, area: float, floors: int, column: bool, K: float | None, steps: list[Step]
) -> float:
    if on.action == "roof live":
        return _roof(on, area, steps) if code.startswith("ASCE") else 1.0
    if code.startswith("ASCE"):
        return _asce(on, area, floors, column, K, steps)
    return _en(on.use, area, floors, column, steps)


def _asce(on: _OnCase, area: float, floors: int, column: bool, K: float | None, steps: list[Step]) -> float:
    if on.use == "assembly":
        steps.append(Step("L/L_o", "assembly is not reduced", 1.0, "", "ASCE 7, 4.7.5"))
        return 1.0
    if K is None:
        K = 4.0 if column else 2.0
        kind = "column" if column else "beam"
        steps.append(Step("K_LL", f"{kind} without a cantilever slab", K, "", "ASCE 7, table 4.7-1"))
    if K * area < LEAST_AREA:
        steps.append(Step("L/L_o", "K_LL A_T is below 37.16 m2", 1.0, "", "ASCE 7, 4.7.2"))
        return 1.0
    least = 0.4 if floors >= 2 else 0.5
    value = max(0.25 + SLOPE_ASCE / float(np.sqrt(K * area)), least)
    steps.append(Step("L/L_o", f"0.25 + 4.57/sqrt(K_LL A_T) >= {least:g}", value, "", "ASCE 7, eq. 4.7-1"))
    heavy = on.largest > HEAVY or on.use in ("storage", "heavy traffic")
    if not heavy and on.use != "light traffic":
        return value
    what, clause = ("heavy live load", "4.7.3") if heavy else ("passenger garage", "4.7.4")
    value = max(value, 0.8) if floors >= 2 else 1.0
    how = "by 20% at most under two floors or more" if floors >= 2 else "not under one floor"
    steps.append(Step("L/L_o", f"{what}: reduced {how}", value, "", f"ASCE 7, {clause}"))
    return value


def _roof(on: _OnCase, area: float, steps: list[Step]) -> float:
    """ASCE 7, 4.8.2: for ordinary roofs up to 0.96 kN/m2."""
    if not 0.58e3 < on.largest <= 0.965e3:
        steps.append(Step("L_r/L_o", "not an ordinary roof of 0.58 to 0.96 kN/m2", 1.0, "", "ASCE 7, 4.8.2"))
        return 1.0
    R1 = float(np.clip(1.2 - 0.011 * area, 0.6, 1.0))
    R2 = float(np.clip(1.2 - 0.05 * on.rise, 0.6, 1.0))
    value = min(max(R1 * R2, 0.58e3 / on.largest), 1.0)
    steps += [
        Step("R_1", "1.2 - 0.011 A_T, 0.6 to 1", R1, "", "ASCE 7, 4.8.2"),
        Step("R_2", f"1.2 - 0.05 F, 0.6 to 1; F = {on.rise:.3g} in 12, of the flattest roof", R2, "", "ASCE 7, 4.8.2"),
        Step("L_r/L_o", "R_1 R_2, at least 0.58 kN/m2", value, "", "ASCE 7, eq. 4.8-1"),
    ]
    return value


def _en(use: str, area: float, floors: int, column: bool, steps: list[Step]) -> float:
    if use not in IN_EN:
        steps.append(Step("alpha", f"{use or 'no use stated'}: not reduced", 1.0, "", "EN 1991-1-1, 6.3.1.2"))
        return 1.0
    if column:
        if floors <= 2:
            steps.append(Step("alpha_n", f"{floors} storeys: not more than two", 1.0, "", "EN 1991-1-1, 6.3.1.2(11)"))
            return 1.0
        value = (2 + (floors - 2) * PSI_0) / floors
        steps.append(Step("alpha_n", f"(2 + (n - 2) psi_0)/n, n = {floors}", value, "", "EN 1991-1-1, 6.3.1.2(11)"))
        return value
    least = 0.6 if use in ("assembly", "shopping") else 0.0
    value = min(max(5 / 7 * PSI_0 + 10 / area, least), 1.0)
    steps.append(Step("alpha_A", "5/7 psi_0 + 10 m2/A, at most 1", value, "", "EN 1991-1-1, 6.3.1.2(10)"))
    return value
