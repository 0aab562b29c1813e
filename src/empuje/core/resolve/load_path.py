"""Dead loads, live loads and loaded areas on their way to the ground, and what of them finds no column."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ..actions.bearing import UPRIGHT
from ..actions.live_load_reduction import DOWN, is_down, outlines_of
from ..actions.surfaces.sources.surface_loads import loads_on
from ..actions.take_down import NOBODY, TakeDown, take_down
from ..model.findings import Finding, Place, in_short, with_accepted
from ..model.loads import gather, in_columns
from ..model.project import Project
from ..model.surfaces import AreaLoad
from ..model.words import Stage
from .resolved import Resolved

DEAD, LIVE, AREA = 0, 1, 2
"""Columns of what is taken down; the reduced live loads follow."""
LIVE_ACTIONS = ("live", "roof live")
LEAST = 1e-6
"""Less than this share of all is rounding."""


def taken_down(model: Resolved) -> TakeDown:
    """Dead loads, live loads, loaded area, and every reducible live load, as columns, on their way to the ground."""
    project = model.project
    column = np.full(model.load_columns, -1)
    for i, case in enumerate(project.cases):
        if case.stage in (Stage.ANY, Stage.FINAL) and not case.lean:
            column[i] = DEAD if case.action == "dead" else LIVE if case.action in LIVE_ACTIONS else -1
    outlines = outlines_of(model.surfaces)
    live = {c.name for i, c in enumerate(project.cases) if column[i] == LIVE}
    unit = {
        load.surface: replace(load, values=(1.0, 1.0), part=(), direction=DOWN)
        for load in project.surface_loads
        if isinstance(load, AreaLoad) and load.case in live and is_down(load, outlines)
    }
    areas, _ = loads_on(project, model.surfaces, unit.values())
    n = len(model.reduction.cases)
    return take_down(
        project,
        gather([
            in_columns(model.loads, column),
            in_columns(areas, np.full(model.load_columns, AREA)),
            in_columns(model.reduction.loads, AREA + 1 + np.arange(max(n, 1))),
        ]),
        AREA + 1 + n,
    )  # fmt: skip


def astray(model: Resolved, path: TakeDown | None = None) -> list[Finding]:
    """What finds no column or support on its way down, member by member; of frames that have columns. `path`: where it
    is known already."""
    project = model.project
    if path is None and not (len(project.members) and (np.abs(project.axes[:, 0, 2]) >= UPRIGHT).any()):
        return []
    found = with_accepted(_astray(project, path or taken_down(model)), project.accepted)
    return in_short(found)


def _astray(project: Project, path: TakeDown) -> Iterator[Finding]:
    if not path.columns:
        return
    whole = sum(np.abs(v[:AREA]).sum() for v in (*path.ground.values(), *path.astray.values()))
    for m, amount in path.astray.items():
        if np.abs(amount[:AREA]).sum() <= LEAST * whole:
            continue
        name = project.members[m].name if m != NOBODY else ""
        yield Finding(
            "note", "finds-no-column",
            f"taken down, dead {amount[DEAD] / 1e3:.4g} kN and live {amount[LIVE] / 1e3:.4g} kN on {name or 'nodes'} "
            "find no column or support",
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
            "warning", "area-astray",
            f"{area:.4g} m2 by which live loads are reduced find no column from {name}: columns below count them not",
            "join it to what bears it, or give it members that do", place, about=(name,),
        )  # fmt: skip
