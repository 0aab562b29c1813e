"""Structural surfaces in space for a page: as triangles with displacements and forces, and the loads on them gathered.

Loads that cover an area are told as pressures, others as forces, each over patches so large that arrows can be told
apart.
"""

from __future__ import annotations

import base64
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.analysis.solution import Solution
from ..core.answers.on_plates import surface_of_rows
from ..core.answers.plates import PLATE_KINDS, PlateForces, plate_forces
from ..core.model.loads import PlainLoads
from ..core.model.project import Project
from ..core.model.results import Result
from ..core.surfaces.mesh.joined import areas_of_nodes
from ..show.display import Display

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
ARROW_EVERY = 0.05
"""About so far apart are arrows, as a share of the frame."""
FEW_NODES = 8
"""A load that comes to no more nodes is at a point."""
SHADED = 8
"""Components of plates that the view has: all but displacements and pressures."""


def packed(values: Floats) -> str:
    """Numbers as the page reads them: 32 bits each, in base 64."""
    return base64.b64encode(np.ascontiguousarray(values, "<f4").tobytes()).decode()


def patch_of(project: Project) -> float:
    """The length [m] over which loads on surfaces are gathered, and every which line loads have an arrow."""
    return max(float(np.ptp(project.places, axis=0).max()), 1e-6) * ARROW_EVERY


@dataclass(frozen=True)
class Sheets:
    """Structural surfaces as triangles between the places where forces are given: at (places, 3) [m]; faces, and those
    `solid` that columns hold (n, 3); edges (n, 2) between places."""

    forces: PlateForces
    at: Floats
    faces: Ints
    solid: Ints
    edges: Ints

    @classmethod
    def of(cls, solution: Solution) -> Sheets:
        """Those of a solution."""
        forces = plate_forces(solution)
        p = forces.fields.patches
        three = p.place[:, 3] < 0
        halves = [(p.place[:, :3], p.rigid), (p.place[~three][:, [0, 2, 3]], p.rigid[~three])]
        faces, rigid = np.concatenate([f for f, _ in halves]), np.concatenate([r for _, r in halves])
        some = np.full(len(solution.project.nodes), -1)
        some[p.node] = np.arange(len(p.node))
        edges = some[forces.plates.edge]
        return cls(forces, forces.xyz, faces[~rigid], faces[rigid], edges[(edges >= 0).all(axis=1)])

    def data(self, display: Display) -> dict[str, Any]:
        """What does not depend on the result."""
        surfaces = self.forces.solution.project.surfaces
        return {
            "names": [s.name for s in surfaces], "kinds": [[name, display.unit(k)] for name, k in PLATE_KINDS[:SHADED]],
            "at": packed(self.at * display.factor("length")),
            "surface": packed(self.forces.fields.patches.surface.astype(float)),
            **{key: packed(getattr(self, key).astype(float)) for key in ("faces", "solid", "edges")},
        }  # fmt: skip

    def under(self, result: Result, display: Display) -> dict[str, str]:
        """How places move, and the forces there, under a result."""
        solution = self.forces.solution
        weight = solution.weights([result])
        unit = np.array([display.factor(kind) for _, kind in PLATE_KINDS[:SHADED]])
        node = self.forces.fields.patches.node
        moved = (solution.displacement[node, :3] @ weight)[:, :, 0] * display.factor("displacement")
        value = (self.forces.every[:, :SHADED] @ weight)[:, :, 0] * unit
        return {"pu": packed(moved), "pf": packed(value.T)}


@dataclass(frozen=True)
class SurfaceForces:
    """Loads at nodes (rows,): the structural surface they were put on, -1 for none, where (rows, 3) [m], what (rows, 3)
    [N], their case, the area [m2] that the node stands for, whether the load covers an area, and the number
    of the load where it is at a point, -1 elsewhere; gathered over a length."""

    surface: Ints
    at: Floats
    f: Floats
    case: Ints
    share: Floats
    covers: Bools
    point: Ints
    size: float

    @classmethod
    def of(cls, project: Project, loads: PlainLoads, size: float) -> SurfaceForces:
        """All of a model's."""
        nodes, surface = loads.nodes, surface_of_rows(project, loads)
        at, share, covers = project.places[nodes.node], np.zeros(len(surface)), np.zeros(len(surface), bool)
        on = surface >= 0
        for i in np.unique(surface[on]).tolist():
            assert project.plates is not None
            area, mine = dict(areas_of_nodes(project, i)), np.flatnonzero(surface == i)
            met = project.plates.hinges.others(nodes.node[mine])
            share[mine] = [area.get(n, np.inf) for n in met.tolist()]
        point = np.full(len(surface), -1)
        for source in np.unique(nodes.source[on]).tolist():
            mine = np.flatnonzero((nodes.source == source) & on)
            covers[mine] = _covers(at[mine], float(project.plates.length[surface[mine[0]]]) if project.plates else size)
            point[mine] = source if len(mine) <= FEW_NODES else -1
        return cls(surface, at, nodes.f[:, :3], nodes.case, share, covers, point, size)

    def narrow(self, case: int) -> tuple[Floats, Floats]:
        """Places (n, 3) and forces (n, 3) of loads at points and along lines, of one case."""
        mine = (self.case == case) & (self.surface >= 0) & ~self.covers
        along = np.flatnonzero(mine & (self.point < 0))
        out = [_gathered(self.at[along], self.f[along], self.size)]
        for one in np.unique(self.point[mine & (self.point >= 0)]).tolist():
            own = np.flatnonzero(mine & (self.point == one))
            out.append(_gathered(self.at[own], self.f[own], np.inf))
        return np.concatenate([a for a, _ in out]), np.concatenate([b for _, b in out])

    def wide(self, case: int) -> tuple[Floats, Floats]:
        """Places (n, 3) and pressures (n, 3) of loads that cover an area, of one case."""
        mine = np.flatnonzero((self.case == case) & (self.surface >= 0) & self.covers)
        return _by_area(self.at[mine], self.f[mine], self.share[mine], self.surface[mine], self.size)


def _gathered(at: Floats, f: Floats, size: float, share: Floats | None = None) -> tuple[Floats, Floats]:
    """Forces (n, 3) at points (n, 3), added up over cubes of a size, each at the mean of its points by their forces;
    with areas (n,) that points stand for, per area."""
    if not len(at):
        return np.zeros((0, 3)), np.zeros((0, 3))
    of = np.unique(np.floor((at - at.min(axis=0)) / size + 0.5), axis=0, return_inverse=True)[1].ravel()
    weight = np.linalg.norm(f, axis=1) + 1e-12
    whole = np.bincount(of, weight)
    total, middle = np.zeros((len(whole), 3)), np.zeros((len(whole), 3))
    np.add.at(total, of, f)
    np.add.at(middle, of, at * weight[:, None])
    if share is not None:
        total = total / np.bincount(of, share)[:, None]
    return middle / whole[:, None], total


def _by_area(at: Floats, f: Floats, share: Floats, surface: Ints, size: float) -> tuple[Floats, Floats]:
    """Loads on nodes (n,), of which each stands for an area (n,), gathered as pressures, surface by surface (n,)."""
    out = [(np.zeros((0, 3)), np.zeros((0, 3)))]
    for i in np.unique(surface).tolist():
        mine = np.flatnonzero(surface == i)
        places, first, of = np.unique(at[mine], axis=0, return_index=True, return_inverse=True)
        total = np.zeros((len(places), 3))
        np.add.at(total, of.ravel(), f[mine])
        out.append(_gathered(places, total, size, share[mine][first]))
    return np.concatenate([a for a, _ in out]), np.concatenate([b for _, b in out])


def _covers(at: Floats, length: float) -> bool:
    """Whether the nodes (n, 3) that a load comes to cover an area, and not a point or a line, which lies in one row of
    elements of a length."""
    if len(at) <= FEW_NODES:
        return False
    across = np.linalg.svd(at - at.mean(axis=0), compute_uv=False)[1] / np.sqrt(len(at))
    return bool(across > ROW * length)


ROW = 0.7
"""The deviation of two rows of nodes from their middle is half of what is between them, that of three 0.8 of it."""
