"""Dead loads, live loads and loaded areas on their way to the ground, and what of them finds no column."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..actions.surfaces.sources.surface_loads import loads_on
from ..model.cases import side_by_side
from ..model.findings import Finding, Place, in_short, with_accepted
from ..model.loads import gather, in_columns
from ..model.project import Project
from ..model.surfaces import AreaLoad
from ..model.words import Stage
from ..resolved import Resolved
from .bearing import UPRIGHT
from .live_load_reduction import DOWN, is_down, outlines_of
from .take_down import NOBODY, TakeDown, take_down

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
DEAD = 0
"""The column of all dead loads of what is taken down; one for each other case follows."""
LOADS = ("live", "roof live", "snow", "rain")
"""The actions besides that press down from floors and roofs."""
LEAST = 1e-6
"""Less than this share of all is rounding."""


@dataclass(frozen=True)
class Taken:
    """Loads on their way to the ground, in columns: all dead ones, those of each other case, the loaded area, and every
    reducible live load.

    of_case (cases,): the column of each case, or -1; units: of every action what acts side by side, of each unit the
    cases of one option at a time; area: the column of the loaded area
    """

    path: TakeDown
    of_case: Ints
    units: dict[str, list[list[list[int]]]]
    area: int

    def most(self, action: str, of_case: Floats) -> float:
        """What an action comes to from the amounts (cases,) of its cases: of alternatives the one that brings most."""
        return sum(float(np.max([of_case[option].sum() for option in unit])) for unit in self.units.get(action, ()))

    def amount(self, action: str, amounts: Floats) -> float:
        """What an action brings somewhere, from the columns (n,) there."""
        if action == "dead":
            return float(amounts[DEAD])
        return self.most(action, np.where(self.of_case >= 0, amounts[self.of_case], 0.0))


def taken_down(model: Resolved) -> Taken:
    """Dead, live and snow loads, loaded area, and every reducible live load, as columns, on their way to the ground."""
    project = model.project
    column = np.full(model.load_columns, -1)
    area = 1
    for i, case in enumerate(project.cases):
        if case.stage not in (Stage.ANY, Stage.FINAL) or case.notional:
            continue
        if case.action == "dead":
            column[i] = DEAD
        elif case.action in LOADS:
            column[i], area = area, area + 1
    place = {c.name: i for i, c in enumerate(project.cases)}
    units = {
        action: [[[place[c.name] for c in bundle] for bundle in unit] for unit in side_by_side(own)]
        for action in LOADS
        if (own := [c for i, c in enumerate(project.cases) if column[i] > DEAD and c.action == action])
    }
    outlines = outlines_of(model.surfaces)
    live = {c.name for i, c in enumerate(project.cases) if column[i] > DEAD and c.action in ("live", "roof live")}
    unit_load = {
        load.surface: replace(load, values=(1.0, 1.0), part=(), direction=DOWN)
        for load in project.surface_loads
        if isinstance(load, AreaLoad) and load.case in live and is_down(load, outlines)
    }
    areas, _ = loads_on(project, model.surfaces, unit_load.values())
    n = len(model.reduction.cases)
    path = take_down(
        project,
        gather([
            in_columns(model.loads, column),
            in_columns(areas, np.full(model.load_columns, area)),
            in_columns(model.reduction.loads, area + 1 + np.arange(max(n, 1))),
        ]),
        area + 1 + n,
    )  # fmt: skip
    return Taken(path, column[: len(project.cases)], units, area)


def astray(model: Resolved, taken: Taken | None = None) -> list[Finding]:
    """What finds no column or support on its way down, member by member; of frames that have columns. `taken`: where
    it is known already."""
    project = model.project
    if project.plates is not None:  # what goes down is known of surfaces that hand their loads on
        return []
    if taken is None and not (len(project.members) and (np.abs(project.axes[:, 0, 2]) >= UPRIGHT).any()):
        return []
    found = with_accepted(_astray(project, taken or taken_down(model)), project.accepted)
    return in_short(found)


def _astray(project: Project, taken: Taken) -> Iterator[Finding]:
    path = taken.path
    if not path.columns:
        return
    loads = slice(0, taken.area)
    whole = sum(np.abs(v[loads]).sum() for v in (*path.ground.values(), *path.astray.values()))
    for m, amount in path.astray.items():
        if np.abs(amount[loads]).sum() <= LEAST * whole:
            continue
        told = {action: taken.amount(action, amount) / 1e3 for action in ("dead", *taken.units)}
        words = [f"{action} {value:.4g} kN" for action, value in told.items() if action in ("dead", "live") or value]
        name = project.members[m].name if m != NOBODY else ""
        yield Finding(
            "note", "finds-no-column",
            f"taken down, {' and '.join(words)} on {name or 'nodes'} find no column or support",
            "their path is no row of simple beams: `empuje takedown` lacks them, the analysis does not",
            project.members[m].place if name else Place(project.file), about=(name,) if name else (),
        )  # fmt: skip


def areas_astray(model: Resolved) -> Iterator[Finding]:
    """Areas by which live loads would be reduced, and that find no column."""
    project, reduction = model.project, model.reduction
    place = project.reduction.place if project.reduction else Place(project.file)
    for m, area in reduction.astray:
        name = project.members[m].name if m != NOBODY else "nodes"
        yield Finding(
            "warning", "area-unassigned",
            f"{area:.4g} m2 by which live loads are reduced are assigned to no column from {name} down: columns below "
            "are not reduced for them",
            "join it to the members that support it", place, about=(name,),
        )  # fmt: skip
