"""Reduced live loads by the area a member supports: ASCE 7, 4.7 and 4.8, and EN 1991-1-1, 6.3.1.2.

A unit pressure on the loaded surfaces, taken down by hand's rules, gives every member its tributary area A_T, over all
cases of the same action and use. Of a beam over several spans the smallest counts, an overhang by itself; of a column
that passes several floors what it carries below the uppermost one: both are on the safe side.

    ASCE 7:  L = L_o (0.25 + 15 / sqrt(K_LL A_T)),  K_LL A_T >= 400 ft2,  L >= 0.5 L_o, 0.4 L_o below two floors
    ASCE 7:  L_r = L_o R_1 R_2 between 12 and 20 psf, for roofs
    EN 1991: alpha_A = 5/7 psi_0 + A_0 / A for beams,  alpha_n = (2 + (n - 2) psi_0) / n for columns, n > 2

ASCE 7 has two sets of constants, which are not each other's conversions: models in feet or inches get 15, 400 and their
like, all others 4.57, 37.16 m2 and theirs, as printed. alpha_n is never applied to a load that a combination has
reduced by psi already (EN 1991-1-1, 3.3.2(2)).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ..actions.surfaces.sources.area_loads import direction_of
from ..actions.surfaces.sources.surface_loads import Surfaces, loads_on
from ..model.cases import Case
from ..model.loads import Direction, PlainLoads, Step, gather, in_columns
from ..model.project import Project
from ..model.reduction import Reduced, Reduction, ReductionRule
from ..model.surfaces import AreaLoad
from ..surfaces.plane import Outline
from .take_down import TakeDown, take_down

Floats = NDArray[np.float64]
UNSTATED = "storage"
"""What a floor without a use counts as, in combinations too."""
VALUES_EN = {"psi_0": 0.7, "A_0": 10.0, "alpha_A_min": 0.6}
"""Recommended: psi_0 of categories A to D (EN 1990, table A1.1), A_0 [m2], and the least alpha_A of C and D."""
IN_EN = ("residential", "office", "assembly", "shopping")
"""Categories A to D (EN 1991-1-1, 6.3.1.2)."""
NOTHING = 1e-9
DOWN = Direction((0.0, 0.0, -1.0))
FOOT, PSF = 0.3048, 4.4482216152605 / 0.3048**2


@dataclass(frozen=True)
class Asce:
    """The constants of ASCE 7 as printed in one system of units, in SI: slope [m], least K_LL A_T [m2], heavy live load
    [N/m2] (4.7.2, 4.7.3); of roofs: the loads between which they are reduced [N/m2], slope of R_1 [1/m2], and the areas
    [m2] up to and from which it is constant (4.8.2). words: how they are printed."""

    slope: float
    least_area: float
    heavy: float
    roof: tuple[float, float]
    R1: float
    areas: tuple[float, float]
    words: Mapping[str, str]


SMALLEST_AREA = 1e-6
"""Less [m2] is rounding."""
METRIC = Asce(
    4.57, 37.16, 4.79e3, (0.58e3, 0.96e3), 0.011, (18.58, 55.74),
    {"slope": "4.57", "least": "37.16 m2", "R1": "0.011", "roof": "0.58 to 0.96 kN/m2", "least roof": "0.58 kN/m2"},
)  # fmt: skip
US = Asce(
    15 * FOOT, 400 * FOOT**2, 100 * PSF, (12 * PSF, 20 * PSF), 0.001 / FOOT**2, (200 * FOOT**2, 600 * FOOT**2),
    {"slope": "15", "least": "400 ft2", "R1": "0.001", "roof": "12 to 20 psf", "least roof": "12 psf"},
)  # fmt: skip


def reduce_live_loads(project: Project, rule: ReductionRule, surfaces: Surfaces) -> Reduction:
    """The factors of all members on the area loads of the rule's cases."""
    outlines = outlines_of(surfaces)
    areas = [load for load in project.surface_loads if isinstance(load, AreaLoad) and _live(load, outlines)
             and project.surfaces[load.surface].plate is None]  # fmt: skip
    cases = [c for c in rule.cases if any(load.case == project.case_names[c] for load in areas)]
    if not cases:
        return Reduction()
    groups: dict[tuple[str, str], list[int]] = {}
    for c in cases:
        groups.setdefault(_kind(project.cases[c]), []).append(c)
    of_group = [_on(project, kind, own, areas, outlines) for kind, own in groups.items()]
    unit = gather([
        _numbered(project, surfaces, _once(project, own, areas, outlines), own, [i] * len(own))
        for i, own in enumerate(groups.values())
    ])  # fmt: skip
    path = take_down(project, unit, len(groups))
    each, factors = _factors(project, rule, path, list(groups.values()), of_group)
    # Columns and beams apart: alpha_n is not applied beside psi.
    columns = np.zeros(len(project.members), bool)
    columns[path.columns] = True
    twice = rule.code.startswith("EN") and columns.any()
    kinds = [(~columns, True), (columns, False)] if twice else [(np.ones_like(columns), True)]
    factor = np.hstack([np.where(chosen[:, None], factors, 1.0) for chosen, _ in kinds])
    real = _numbered(project, surfaces, [load for load in areas if load.case in {project.case_names[c] for c in cases}],
                     cases, list(range(len(cases))))  # fmt: skip
    shifted = [in_columns(real, np.arange(len(cases)) + k * len(cases)) for k in range(len(kinds))]
    beside_psi = tuple(beside for _, beside in kinds for _ in cases)
    order = [cases.index(c) for own in groups.values() for c in own]
    factor = np.hstack([block[:, np.argsort(order)] for block in np.split(factor, len(kinds), axis=1)])
    lost = ((m, float(area.sum())) for m, area in path.astray.items())
    astray = tuple((m, area) for m, area in lost if abs(area) > SMALLEST_AREA)
    return Reduction(tuple(cases) * len(kinds), factor, gather(shifted), tuple(each), beside_psi, astray)


def _kind(case: Case) -> tuple[str, str]:
    """What live loads have to share for their areas to add up."""
    return case.action, "" if case.action == "roof live" else case.use or UNSTATED


def outlines_of(surfaces: Surfaces) -> dict[int, Outline]:
    """The outline of each surface, by its index."""
    return {i: geometry.outline for i, geometry in surfaces.items()}


def largest_down(project: Project, surfaces: Surfaces) -> dict[str, float]:
    """The largest area load that presses down of each case that has any, those on one surface added up [N/m2]."""
    on: dict[tuple[str, int], float] = {}
    for load in project.surface_loads:
        if not isinstance(load, AreaLoad) or load.surface not in surfaces:
            continue
        down = -float(direction_of(surfaces[load.surface].outline, load)[2])
        pressing = [abs(v) for v in load.values if v * down > NOTHING * abs(v)]
        if pressing:
            on[load.case, load.surface] = on.get((load.case, load.surface), 0.0) + max(pressing)
    return {case: max(v for (c, _), v in on.items() if c == case) for case, _ in on}


def is_down(load: AreaLoad, outlines: Mapping[int, Outline]) -> bool:
    """Whether an area load acts straight down, however its direction is written."""
    if load.surface not in outlines:
        return False
    vector = direction_of(outlines[load.surface], load)
    sign = 1.0 if max(load.values) > 0 else -1.0
    return bool(sign * vector[2] < -1 + 1e-9) and sign * min(load.values) >= 0 and sign * max(load.values) >= 0


def _live(load: AreaLoad, outlines: Mapping[int, Outline]) -> bool:
    """The pressures that count as live loads of floors and roofs: downward ones."""
    return load.reducible and load.surface in outlines and is_down(load, outlines)


def _once(project: Project, cases: list[int], areas: list[AreaLoad], outlines: Mapping[int, Outline]) -> list[AreaLoad]:
    """1 N/m2 on everything that the cases load, once however many loads lie there."""
    names = {project.case_names[c] for c in cases}
    on: dict[int, list[AreaLoad]] = {}
    for load in areas:
        if load.case in names:
            on.setdefault(load.surface, []).append(load)
    out = []
    for surface, loads in on.items():
        unit = replace(loads[0], values=(1.0, 1.0), direction=DOWN)
        if any(not load.part for load in loads):
            out.append(replace(unit, part=()))
            continue
        outline = outlines[surface]
        whole = shapely.union_all([shapely.Polygon(outline.flat(load.part)) for load in loads])
        for part in _without_holes(whole):
            corners = outline.solid(shapely.get_coordinates(part.exterior)[:-1])
            out.append(replace(unit, part=tuple(map(tuple, corners.tolist()))))
    return out


def _without_holes(shape: shapely.Geometry) -> list[shapely.Polygon]:
    """Polygons without holes that make up the shape."""
    out = []
    for part in shapely.get_parts(shape):
        if not isinstance(part, shapely.Polygon) or part.area <= NOTHING:
            continue
        if not part.interiors:
            out.append(part)
            continue
        u0, v0, u1, v1 = part.bounds
        middle = float(shapely.get_coordinates(shapely.centroid(shapely.Polygon(part.interiors[0])))[0, 0])
        for box in (shapely.box(u0, v0, middle, v1), shapely.box(middle, v0, u1, v1)):
            out += _without_holes(shapely.intersection(part, box))
    return out


def _numbered(
    project: Project, surfaces: Surfaces, areas: list[AreaLoad], cases: list[int], columns: list[int]
) -> PlainLoads:
    """What these area loads bring to members, their cases as the given columns."""
    number = np.full(len(project.cases), -1)
    number[cases] = columns
    return in_columns(loads_on(project, surfaces, areas)[0], number)


def _factors(
    project: Project, rule: ReductionRule, path: TakeDown, groups: list[list[int]], on: list[_OnCases]
) -> tuple[list[Reduced], Floats]:
    """What came of it, and the factors (members, cases of all groups in order)."""
    factor = np.ones((len(project.members), sum(map(len, groups))))
    each: list[Reduced] = []
    columns, left_out = set(path.columns), set(rule.without)
    K = {m: k for members, k in rule.K_LL for m in members}
    place = np.cumsum([0, *map(len, groups)])
    asce = US if project.units[1] in ("ft", "in") else METRIC
    for m in range(len(project.members)):
        for i, cases in enumerate(groups):
            area, floors, cantilever = _area(path, m, i, m in columns)
            if area <= NOTHING or m in left_out:
                continue
            kind = "column" if m in columns else "overhang" if cantilever else "beam"
            steps = [Step("A_T", "tributary area, taken down", area, "m2")]
            if len(cases) > 1:
                names = ", ".join(project.case_names[c] for c in cases)
                steps[0] = replace(steps[0], formula=f"tributary area of {names}, taken down")
            if m in K:
                steps.append(Step("K_LL", "given in the model", K[m], "", "ASCE 7, table 4.7-1"))
            if rule.code.startswith("EN"):
                found = _en(on[i], area, floors, kind == "column", VALUES_EN | dict(rule.values), steps)
            elif on[i].action == "roof live":
                found = _roof(on[i], area, asce, steps)
            else:
                found = _asce(on[i], area, floors, kind, K.get(m), asce, steps)
            factor[m, place[i] : place[i + 1]] = found
            each += [Reduced(m, case, area, floors, found, tuple(steps)) for case in cases]
    return each, factor


def _area(path: TakeDown, m: int, i: int, column: bool) -> tuple[float, int, bool]:
    """The tributary area and the number of floors a member's factor goes by, and whether part of it overhangs."""
    if not column:
        some = np.concatenate([path.spans[m][:, i], path.overhangs[m][:, i]])
        some = some[some > NOTHING]
        overhangs = bool(path.beyond[m][i] > NOTHING)
        return (float(some.min()) if len(some) else 0.0), _count(path.floors[m], i), overhangs
    total = 0.0
    floors: set[tuple[int, int]] = set()
    for there in path.brought.get(m, ()):
        total += float(there.beams[i] + there.above[i])
        if there.beams[i] + there.above[i] > NOTHING:
            floors |= there.floors
        if total > NOTHING:
            break
    return total, _count(floors, i), False


def _count(floors: set[tuple[int, int]], i: int) -> int:
    return sum(column == i for _, column in floors)


@dataclass(frozen=True)
class _OnCases:
    """What codes ask about cases: action, use, largest pressure [N/m2], and the rise in 12 of their flattest roof."""

    action: str
    use: str
    stated: bool
    largest: float
    rise: float


def _on(
    project: Project, kind: tuple[str, str], cases: list[int], areas: list[AreaLoad], outlines: Mapping[int, Outline]
) -> _OnCases:
    names = {project.case_names[c] for c in cases}
    loads = [load for load in areas if load.case in names]
    normals = [outlines[load.surface].normal for load in loads]
    rises = (12 * float(np.hypot(n[0], n[1])) / max(abs(float(n[2])), 1e-9) for n in normals)
    on: dict[tuple[str, int], float] = {}
    for load in loads:
        key = load.case, load.surface
        on[key] = on.get(key, 0.0) + max(map(abs, load.values))
    stated = all(project.cases[c].use for c in cases)
    return _OnCases(*kind, stated, max(on.values()), min(rises, default=0.0))


def _asce(on: _OnCases, area: float, floors: int, kind: str, K: float | None, asce: Asce, steps: list[Step]) -> float:
    if on.use == "assembly":
        steps.append(Step("L/L_o", "assembly is not reduced", 1.0, "", "ASCE 7, 4.7.5"))
        return 1.0
    if K is None:
        K = {"column": 4.0, "beam": 2.0, "overhang": 1.0}[kind]
        about = {"column": "column without a cantilever slab", "beam": "beam without a cantilever slab",
                 "overhang": "cantilever, or beam with an overhang"}[kind]  # fmt: skip
        steps.append(Step("K_LL", about, K, "", "ASCE 7, table 4.7-1"))
    if K * area < asce.least_area * (1 - 1e-12):
        steps.append(Step("L/L_o", f"K_LL A_T is below {asce.words['least']}", 1.0, "", "ASCE 7, 4.7.2"))
        return 1.0
    least = 0.4 if floors >= 2 else 0.5
    value = max(0.25 + asce.slope / float(np.sqrt(K * area)), least)
    formula = f"0.25 + {asce.words['slope']}/sqrt(K_LL A_T) >= {least:g}"
    steps.append(Step("L/L_o", formula, value, "", "ASCE 7, eq. 4.7-1"))
    heavy = on.largest > asce.heavy * (1 + 1e-9) or on.use in ("storage", "heavy traffic")
    if not heavy and on.use != "light traffic":
        return min(value, 1.0)
    what, clause = ("heavy live load", "4.7.3") if heavy else ("passenger garage", "4.7.4")
    if not on.stated:
        what += f" (no use stated: taken as {UNSTATED})"
    value = min(max(value, 0.8), 1.0) if floors >= 2 else 1.0
    how = "by 20% at most under two floors or more" if floors >= 2 else "not under one floor"
    steps.append(Step("L/L_o", f"{what}: reduced {how}", value, "", f"ASCE 7, {clause}"))
    return value


def _roof(on: _OnCases, area: float, asce: Asce, steps: list[Step]) -> float:
    """ASCE 7, 4.8.2: ordinary roofs."""
    low, high = asce.roof
    if not low < on.largest <= high * 1.005:
        steps.append(Step("L_r/L_o", f"not an ordinary roof of {asce.words['roof']}", 1.0, "", "ASCE 7, 4.8.2"))
        return 1.0
    small, large = asce.areas
    R1 = 1.0 if area <= small else 0.6 if area >= large else max(1.2 - asce.R1 * area, 0.6)
    R2 = 1.0 if on.rise <= 4 else 0.6 if on.rise >= 12 else 1.2 - 0.05 * on.rise
    value = min(max(R1 * R2, low / on.largest), 1.0)
    steps += [
        Step("R_1", f"1.2 - {asce.words['R1']} A_T, 0.6 to 1", R1, "", "ASCE 7, 4.8.2"),
        Step("R_2", f"1.2 - 0.05 F, 0.6 to 1; F = {on.rise:.3g} in 12, of the flattest roof", R2, "", "ASCE 7, 4.8.2"),
        Step("L_r/L_o", f"R_1 R_2, at least {asce.words['least roof']}", value, "", "ASCE 7, eq. 4.8-1"),
    ]
    return value


def _en(on: _OnCases, area: float, floors: int, column: bool, values: Mapping[str, float], steps: list[Step]) -> float:
    use = "roof" if on.action == "roof live" else on.use
    if use not in IN_EN:
        what = use if on.stated or use == "roof" else f"no use stated, taken as {UNSTATED}"
        steps.append(Step("alpha", f"{what}: not reduced", 1.0, "", "EN 1991-1-1, 6.3.1.2"))
        return 1.0
    psi_0 = values["psi_0"]
    if column:
        if floors <= 2:
            steps.append(Step("alpha_n", f"{floors} storeys: not more than two", 1.0, "", "EN 1991-1-1, 6.3.1.2(11)"))
            return 1.0
        value = min((2 + (floors - 2) * psi_0) / floors, 1.0)
        steps += [
            Step("psi_0", "of the category", psi_0, "", "EN 1990, table A1.1"),
            Step("alpha_n", f"(2 + (n - 2) psi_0)/n, n = {floors}; not where a combination applies psi (3.3.2(2))",
                 value, "", "EN 1991-1-1, 6.3.1.2(11)"),
        ]  # fmt: skip
        return value
    least = values["alpha_A_min"] if use in ("assembly", "shopping") else 0.0
    value = min(max(5 / 7 * psi_0 + values["A_0"] / area, least), 1.0)
    steps += [
        Step("psi_0", "of the category", psi_0, "", "EN 1990, table A1.1"),
        Step("A_0", "reference area", values["A_0"], "m2", "EN 1991-1-1, 6.3.1.2(10)"),
        Step("alpha_A", "5/7 psi_0 + A_0/A, at most 1" + (f", at least {least:g}" if least else ""), value, "",
             "EN 1991-1-1, 6.3.1.2(10)"),
    ]  # fmt: skip
    return value
