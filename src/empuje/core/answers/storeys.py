"""Floors storey by storey: centre of mass, centre of rigidity, stiffness.

The centre of rigidity of a floor is where a horizontal force on it, alone on the building, does not turn it. With
a, b, c the rotations of the floor under a unit Fx, Fy, Mz at a point X, Y of it:

    x_r = X - b / c        y_r = Y + a / c

A slab is a floor that is not rigid: forces lie on it evenly, Mz as forces across the arms from its middle that grow
with these; its motion is the mean that they do work on, by areas: a shift of mean u, a turn of mean (arm x u) over mean
arm^2.

A storey's stiffness is this force over the drift it makes between the floor and the one below, at the centre of
rigidity; in torsion a moment over the difference of rotations. All parts act, one-way or not.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..actions.on_floors import floors_upward, on_floors
from ..actions.totals import forces_between, halfway
from ..analysis.equations import Equations
from ..analysis.solve import respond
from ..model.connected import Part, called
from ..model.frame import Diaphragm
from ..model.loads import AtNodes, PlainLoads, Source
from ..model.project import Project
from ..model.words import PlateActs
from ..surfaces.mesh.joined import areas_of_nodes
from .table import Column, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


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
    pushed = sorted(
        [*(_rigid(f, project) for f in floors_upward(project)), *_slabs(project)], key=lambda p: (p.at[2], p.floor.name)
    )
    floors = [p.floor for p in pushed]
    n = len(floors)
    units, node, case = [], [], []
    for i, p in enumerate(pushed):
        for k in range(1 if project.plane else 3):
            units.append(p.weight[:, k])
            node.append(p.node)
            case.append(np.full(len(p.node), 3 * i + k))
    rows = np.concatenate(case)
    at = AtNodes(rows, np.zeros_like(rows), np.concatenate(node), np.concatenate(units))
    put = PlainLoads(nodes=at, sources=(Source("unit", floors[0].place),))
    every = respond(equations, put, 3 * n).displacement
    moved = np.stack([np.einsum("nkf,nfr->kr", p.weight, every[p.node]) for p in pushed])
    xyz = np.array([p.at for p in pushed])
    rigidity, stiffness = np.full((n, 2), np.nan), np.full((n, 3), np.nan)
    for i in range(n):
        answer = moved[:, :, 3 * i : 3 * i + 3]
        below = below_of(xyz, i)
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
    weight, mass = _masses(project, loads, floors)
    return Storeys([f.name for f in floors], xyz[:, 2], weight, mass, rigidity, stiffness)


@dataclass(frozen=True)
class _Pushed:
    """A floor, the point at (3,) its motion is that of, its nodes (k,), and what unit forces Fx, Fy and a unit moment
    Mz put on them (k, 3, 6): by the same weights their displacements make its motion."""

    floor: Diaphragm
    at: Floats
    node: Ints
    weight: Floats


def _rigid(floor: Diaphragm, project: Project) -> _Pushed:
    weight = np.zeros((1, 3, 6))
    weight[0, range(3), [0, 1, 5]] = 1.0
    return _Pushed(floor, project.xyz[floor.nodes[0]], np.array(floor.nodes[:1], np.intp), weight)


def _slabs(project: Project) -> Iterator[_Pushed]:
    """Slabs, pushed evenly over their areas."""
    for floor, surfaces in slab_floors(project):
        area: dict[int, float] = defaultdict(float)
        for i in surfaces:
            for k, own in areas_of_nodes(project, i):
                area[k] += own
        node = np.array(floor.nodes, np.intp)
        share = np.array([area[n] for n in floor.nodes])
        share /= share.sum()
        at = share @ project.xyz[node]
        x, y, _ = (project.xyz[node] - at).T
        turning = share / (share @ (x * x + y * y))
        weight = np.zeros((len(node), 3, 6))
        weight[:, 0, 0] = weight[:, 1, 1] = share
        weight[:, 2, 0], weight[:, 2, 1] = -y * turning, x * turning
        yield _Pushed(floor, at, node, weight)


def slab_floors(project: Project) -> list[tuple[Diaphragm, list[int]]]:
    """Level structural surfaces that share nodes, as one floor each: those that stretch, lie on no bed and are part of
    no rigid floor."""
    plates = project.plates
    if plates is None:
        return []
    rigid = {n for floor in project.diaphragms for n in floor.nodes}
    level = [
        i for i, s in enumerate(project.surfaces)
        if s.plate is not None and s.plate.acts != PlateActs.BENDING and not s.plate.bed
        and abs(plates.axes[i, 2, 2]) > LEVEL
    ]  # fmt: skip
    nodes = {i: {n for n, _ in areas_of_nodes(project, i)} for i in level}
    out: list[tuple[list[int], set[int]]] = []
    for i in level:
        mine, own = [i], set(nodes[i])
        for other in [o for o in out if o[1] & own]:
            out.remove(other)
            mine, own = other[0] + mine, own | other[1]
        out.append((mine, own))
    floors = []
    for mine, own in out:
        if not own & rigid:
            name = called(project, Part(np.zeros(0, np.intp), np.array(mine)))
            floors.append((Diaphragm(name, tuple(sorted(own)), project.surfaces[mine[0]].place), mine))
    return floors


LEVEL = 1 - 1e-6
"""The upright part of a level surface's normal."""


def below_of(xyz: Floats, i: int) -> int | None:
    """The next floor below (index); of several at one level the nearest in plan."""
    lower = np.flatnonzero(xyz[:, 2] < xyz[i, 2] - 1e-3)
    if not len(lower):
        return None
    top = lower[xyz[lower, 2] > xyz[lower, 2].max() - 1e-3]
    return int(top[np.linalg.norm(xyz[top, :2] - xyz[i, :2], axis=1).argmin()])


def _at(motion: Floats, known: Floats, point: Floats) -> Floats:
    """The shift of a point of a floor whose motion (ux, uy, rz) is known elsewhere."""
    dx, dy = point - known[:2]
    return np.array([motion[0] - dy * motion[2], motion[1] + dx * motion[2]])


def _masses(project: Project, loads: PlainLoads, floors: list[Diaphragm]) -> tuple[Floats, Floats]:
    """Weight and its centre for each floor: the factored vertical loads between half the storeys below and above it."""
    n = len(floors)
    weight, centre = np.full(n, np.nan), np.full((n, 2), np.nan)
    if not project.mass:
        return weight, centre
    share = _mass_share(project)
    for i, there in enumerate(on_floors(project, loads, floors)):
        down = -share[there.case] * there.force[:, 2]
        weight[i] = down.sum()
        if weight[i]:
            centre[i] = down @ there.at[:, :2] / weight[i]
    return weight, centre


def _mass_share(project: Project) -> Floats:
    """How much of every case is mass: (cases and pairs,)."""
    share = np.zeros(len(project.cases) + len(project.notional_pairs))
    for case, factor in project.mass:
        share[project.case_names.index(case)] += factor
    return share


def level_weights(project: Project, loads: PlainLoads, levels: Sequence[tuple[str, float]]) -> Table:
    """Weight and centre of mass of levels (names and heights [m], from the lowest), whose floors need not be rigid:
    what [project] mass has between half the storeys below and above each."""
    share = _mass_share(project)
    rows = []
    for low, high in halfway([z for _, z in levels]):
        force, at, case = forces_between(project, loads, low, high)
        down = -share[case] * force[:, 2]
        weight = float(down.sum())
        rows.append((weight, *(down @ at[:, :2] / weight if weight else (np.nan, np.nan))))
    value = np.array(rows, np.float64)
    return Table(
        "level-weights",
        (
            Column("level", "text", [name for name, _ in levels]),
            Column("z", "length", np.array([z for _, z in levels], np.float64)),
            Column("weight", "force", value[:, 0]),
            Column("x mass", "length", value[:, 1]), Column("y mass", "length", value[:, 2]),
        ),
    )  # fmt: skip


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
