"""Rigid floors storey by storey: centre of mass, centre of rigidity, stiffness.

The centre of rigidity of a floor is where a horizontal force on it, alone on the building, does not turn it. With
a, b, c the rotations of the floor under a unit Fx, Fy, Mz at a point X, Y of it:

    x_r = X - b / c        y_r = Y + a / c

A storey's stiffness is this force over the drift it makes between the floor and the one below, at the centre of
rigidity; in torsion a moment over the difference of rotations. All parts act, one-way or not.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..actions.totals import between_heights
from ..analysis.equations import Equations
from ..analysis.solve import respond
from ..model.loads import AtNodes, PlainLoads, Source
from ..model.near import together
from ..model.project import Project
from .storey_cuts import SAME_LEVEL
from .table import Column, Table

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Storeys:
    """For each floor, lowest first: level [m], weight [N] of the mass and its centre (n, 2) [m] (NaN without), centre
    of rigidity (n, 2) [m], stiffness (n, 3): kx, ky [N/m], and in torsion about the centre of rigidity [N m/rad]."""

    names: list[str]
    level: Floats
    weight: Floats
    mass: Floats
    rigidity: Floats
    stiffness: Floats


def storeys(equations: Equations, loads: PlainLoads) -> Storeys:
    """From the frame's equations, and the plain loads of all its cases for the mass. Raises Unstable."""
    project = equations.project
    floors = sorted(project.diaphragms, key=lambda f: (project.xyz[f.nodes[0], 2], f.name))
    leader = np.array([f.nodes[0] for f in floors], np.intp)
    n = len(floors)
    unit = np.zeros((3 * n, 6))
    unit[np.arange(3 * n), np.tile([0, 1, 5], n)] = 1.0
    if project.plane:
        unit[np.arange(3 * n) % 3 > 0] = 0.0
    at = AtNodes(np.arange(3 * n), np.zeros(3 * n, np.intp), np.repeat(leader, 3), unit)
    put = PlainLoads(nodes=at, sources=(Source("unit", floors[0].place),))
    moved = respond(equations, put, 3 * n).displacement[leader][:, [0, 1, 5]]
    xyz = project.xyz[leader]
    rigidity, stiffness = np.full((n, 2), np.nan), np.full((n, 3), np.nan)
    for i in range(n):
        answer = moved[:, :, 3 * i : 3 * i + 3]
        below = _below(xyz, i)
        if project.plane:
            drift = answer[i, 0, 0] - (answer[below, 0, 0] if below is not None else 0.0)
            stiffness[i, 0] = 1 / drift
            continue
        a, b, c = answer[i, 2]
        x, y = -b / c, a / c
        rigidity[i] = xyz[i, :2] + (x, y)
        at_centre = np.column_stack([answer[:, :, 0] - y * answer[:, :, 2], answer[:, :, 1] + x * answer[:, :, 2]])
        for axis, column in enumerate((slice(0, 3), slice(3, 6))):
            here = _at(at_centre[i, column], xyz[i], rigidity[i])
            under = _at(at_centre[below, column], xyz[below], rigidity[i]) if below is not None else np.zeros(2)
            stiffness[i, axis] = 1 / (here - under)[axis]
        stiffness[i, 2] = 1 / (c - (answer[below, 2, 2] if below is not None else 0.0))
    weight, mass = _masses(project, loads, xyz)
    return Storeys([f.name for f in floors], xyz[:, 2], weight, mass, rigidity, stiffness)


def _below(xyz: Floats, i: int) -> int | None:
    """The next floor below; of several at one level the nearest in plan."""
    lower = np.flatnonzero(xyz[:, 2] < xyz[i, 2] - 1e-3)
    if not len(lower):
        return None
    top = lower[xyz[lower, 2] > xyz[lower, 2].max() - 1e-3]
    return int(top[np.linalg.norm(xyz[top, :2] - xyz[i, :2], axis=1).argmin()])


def _at(motion: Floats, known: Floats, point: Floats) -> Floats:
    """The shift of a point of a floor whose motion (ux, uy, rz) is known elsewhere."""
    dx, dy = point - known[:2]
    return np.array([motion[0] - dy * motion[2], motion[1] + dx * motion[2]])


def _masses(project: Project, loads: PlainLoads, xyz: Floats) -> tuple[Floats, Floats]:
    """Weight and its centre for each floor: the factored vertical loads between half the storeys below and above it."""
    n = len(xyz)
    weight, moment = np.full(n, np.nan), np.full((n, 2), np.nan)
    if not project.mass:
        return weight, moment
    share = np.zeros(len(project.cases) + len(project.lean_pairs))
    for case, factor in project.mass:
        share[project.case_names.index(case)] += factor
    level = together(xyz[:, 2], SAME_LEVEL)
    levels = np.sort([xyz[level == k, 2].mean() for k in range(level.max() + 1)])
    ground = float(project.xyz[:, 2].min())
    halves = (np.append(ground, levels[:-1]) + levels) / 2
    for i in range(n):
        k = int(np.abs(levels - xyz[i, 2]).argmin())
        low, high = halves[k], halves[k + 1] if k + 1 < len(levels) else np.inf
        force, at = _down(project, loads, share, low, high)
        alike = np.flatnonzero(np.abs(xyz[:, 2] - xyz[i, 2]) < 1e-3)
        nearest = alike[np.linalg.norm(at[:, None, :2] - xyz[alike, :2], axis=2).argmin(axis=1)] == i
        weight[i] = force[nearest].sum()
        if weight[i]:
            moment[i] = (force[nearest, None] * at[nearest, :2]).sum(axis=0) / weight[i]
    return weight, moment


def _down(project: Project, loads: PlainLoads, share: Floats, low: float, high: float) -> tuple[Floats, Floats]:
    """Vertical loads (k,) [N] between two heights and where they act (k, 3), exactly cut."""
    parts = between_heights(project, loads, low, high)
    return np.concatenate([-share[case] * f[:, 2] for f, _, case in parts]), np.concatenate([at for _, at, _ in parts])


def storey_table(found: Storeys) -> Table:
    """Floor, level, weight, centres of mass and rigidity, the distance between them, and stiffness."""
    apart = found.mass - found.rigidity
    return Table(
        "storeys",
        (
            Column("floor", "text", found.names),
            Column("level", "length", found.level),
            Column("weight", "force", found.weight),
            Column("x mass", "length", found.mass[:, 0]),
            Column("y mass", "length", found.mass[:, 1]),
            Column("x rigidity", "length", found.rigidity[:, 0]),
            Column("y rigidity", "length", found.rigidity[:, 1]),
            Column("ex", "length", apart[:, 0]),
            Column("ey", "length", apart[:, 1]),
            Column("kx", "spring", found.stiffness[:, 0]),
            Column("ky", "spring", found.stiffness[:, 1]),
            Column("k torsion", "turning spring", found.stiffness[:, 2]),
        ),
    )
