"""What acts on each rigid floor: loads between half the storeys below and above it, exactly cut.

   floor 2  o-------o     ^  half of the storey above
            |       |     |  what acts here is floor 1's
   floor 1  o-------o     |
            |       |     v  half of the storey below
   ground   o-------o

Of several floors at one level the one that lies below the load in plan has it, else the nearest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..model.frame import Diaphragm
from ..model.loads import PlainLoads
from ..model.near import together
from ..model.project import Project
from .totals import forces_between

Floats = NDArray[np.float64]
SAME_LEVEL = 1e-3
"""Floors whose levels differ by less [m] are at one level."""


@dataclass(frozen=True)
class OnFloor:
    """Forces (n, 3) [N] on a floor, where they act (n, 3) [m], and the case of each (n,)."""

    force: Floats
    at: Floats
    case: NDArray[np.intp]


def floors_upward(project: Project) -> list[Diaphragm]:
    """The rigid floors, lowest first."""
    return sorted(project.diaphragms, key=lambda f: (project.xyz[f.nodes[0], 2], f.name))


def on_floors(project: Project, loads: PlainLoads, floors: Sequence[Diaphragm]) -> list[OnFloor]:
    """The loads on each of the floors, which come lowest first."""
    level = np.array([project.xyz[f.nodes[0], 2] for f in floors])
    group = together(level, SAME_LEVEL)
    levels = np.sort([level[group == k].mean() for k in range(group.max() + 1)])
    ground = float(project.xyz[:, 2].min())
    halves = (np.append(ground, levels[:-1]) + levels) / 2
    plans = [shapely.MultiPoint(project.xyz[list(f.nodes), :2]).convex_hull for f in floors]
    out = []
    for i in range(len(floors)):
        k = int(np.abs(levels - level[i]).argmin())
        above = halves[k + 1] if k + 1 < len(levels) else np.inf
        force, at, case = forces_between(project, loads, halves[k], above)
        some = np.flatnonzero(force.any(axis=1))
        force, at, case = force[some], at[some], case[some]
        alike = np.flatnonzero(np.abs(level - level[i]) < SAME_LEVEL)
        if len(alike) > 1 and len(at):
            points = shapely.points(at[:, :2])
            away = np.column_stack([shapely.distance(plans[j], points) for j in alike])
            mine = away.argmin(axis=1) == int(np.flatnonzero(alike == i)[0])
            force, at, case = force[mine], at[mine], case[mine]
        out.append(OnFloor(force, at, case))
    return out
