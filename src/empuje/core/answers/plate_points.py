"""Forces and displacements at points of structural surfaces, and their principal values:

    m_1, m_2 = (m_x + m_y)/2 +- sqrt(((m_x - m_y)/2)^2 + m_xy^2)    tan 2 alpha_m = 2 m_xy / (m_x - m_y)

m_1 bends a strip that runs at alpha_m from the surface's own x towards its y. And so for forces in the plane. They are
of one result: where a value is of another, so is its direction.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse

from ..analysis.moving.places import Places, plain
from ..analysis.moving.units import Units
from ..analysis.solution import Solution
from ..model.frame import ON_LINE_TOLERANCE
from ..model.results import Results
from ..surfaces.mesh.located import SurfaceMesh, mesh_of
from ..surfaces.mesh.shapes import local_places, shapes
from ..surfaces.plane import plane_of
from .envelope import TIE
from .moving import fixed_extremes
from .plates import (
    ASKED,
    AVERAGED,
    COMPONENTS,
    FINITE,
    KIND_OF,
    PLATE_KINDS,
    PlateForces,
    by_kind,
    linear,
    sides_of,
    then,
)
from .table import Column, Kind, Table, case_column, how_column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
PRINCIPAL_KINDS: tuple[tuple[str, Kind], ...] = (
    ("m_1", "line moment"), ("m_2", "line moment"), ("alpha_m", "angle"),
    ("n_1", "line"), ("n_2", "line"), ("alpha_n", "angle"),
)  # fmt: skip
OF_FORCES = np.array([name not in FINITE for name in COMPONENTS])
ROUND = 1e-9
"""Differences below this share of the values have no direction."""


class NoPoint(ValueError):
    """A point that is on no structural surface: which of those asked for."""

    def __init__(self, point: int, xyz: Floats) -> None:
        x, y, z = xyz
        super().__init__(f"({x:g}, {y:g}, {z:g}) m is on none of these structural surfaces")
        self.point = point


@dataclass(frozen=True)
class Points:
    """Points of surfaces, a row for each surface that has the point: which of those that were asked for (n,), the
    surface (n,), where it is (n, 3) [m], its shares of places (n, places); `solid` (n,): within the footprint of a
    column, where there are no forces; `on_bed` (n,); `mean` (n,): the length [m] that forces are a mean over, NaN where
    they are finite."""

    asked: Ints
    surface: Ints
    xyz: Floats
    of_places: sparse.csr_matrix
    solid: Bools
    mean: Floats
    on_bed: Bools

    def at(self, table: Floats) -> Floats:
        """Components at the points (n, 11, columns) from those at places (places, 11, columns); NaN where there are no
        forces, or is no bed."""
        out = (self.of_places @ table.reshape(len(table), -1)).reshape(-1, *table.shape[1:])
        out[np.ix_(self.solid, OF_FORCES)] = np.nan
        out[~self.on_bed, COMPONENTS.index("p")] = np.nan
        return np.asarray(out)


def principal(xx: Floats, yy: Floats, xy: Floats) -> tuple[Floats, Floats, Floats]:
    """The greater and the lesser value, and the angle [rad] of the greater from x; NaN where all are alike."""
    mean, half = (xx + yy) / 2, (xx - yy) / 2
    radius = np.hypot(half, xy)
    none = radius <= ROUND * np.maximum(np.abs(xx), np.abs(yy))
    angle = np.where(none, np.nan, np.arctan2(xy, half) / 2)
    return mean + radius, mean - radius, angle


def shares_of_places(
    forces: PlateForces, mesh: SurfaceMesh, surface: int, element: Ints, at: Floats
) -> sparse.csr_matrix:
    """From places to points (n, 2) in elements (n,) of a surface: (n, places)."""
    patches, every = forces.fields.patches, np.flatnonzero(forces.plates.surface == surface)
    rows, columns, values = [], [], []
    for group, chosen, own in mesh.groups(element):
        if not len(own):
            continue
        xy = mesh.corners[group][own]
        corners = xy.shape[1]
        N = shapes(corners, local_places(xy, at[chosen]))[0]
        rows.append(np.repeat(np.flatnonzero(chosen), corners))
        columns.append(patches.place[every[element[chosen]], :corners].ravel())
        values.append(N.ravel())
    shape = (len(at), len(patches.node))
    entries = np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))
    return sparse.csr_matrix(entries, shape=shape)


def points_of(forces: PlateForces, surfaces: Sequence[int], xyz: Floats) -> Points:
    """Points (n, 3) of some surfaces, those of each surface in their order. Raises NoPoint where one is on none."""
    project, patches = forces.solution.project, forces.fields.patches
    found: list[tuple[Ints, Ints, sparse.csr_matrix, Bools, Floats]] = []
    for surface in surfaces:
        outline = plane_of(project.surfaces[surface])[0]
        mesh = mesh_of(forces.solution.model.project, surface, outline) if outline is not None else None
        if outline is None or mesh is None:
            continue
        flat = outline.flat(xyz)
        on = np.abs(outline.height(xyz)) <= ON_LINE_TOLERANCE
        on &= shapely.dwithin(outline.polygon, shapely.points(flat), ON_LINE_TOLERANCE)
        there = np.flatnonzero(on)
        if not len(there):
            continue
        element = mesh.holding(flat[there])
        every = np.flatnonzero(forces.plates.surface == surface)
        length = AVERAGED * float(forces.plates.length[surface])
        solid = patches.rigid[every[element]]
        mean = np.where(forces.beside_peaks(surface, xyz[there]) & ~solid, length, np.nan)
        of_places = shares_of_places(forces, mesh, surface, element, flat[there])
        found.append((there, np.full(len(there), surface), of_places, solid, mean))
    reached = np.concatenate([f[0] for f in found]) if found else np.zeros(0, np.intp)
    missed = np.setdiff1d(np.arange(len(xyz)), reached)
    if len(missed):
        raise NoPoint(int(missed[0]), xyz[missed[0]])
    order = np.argsort(reached, kind="stable")
    of_surface, solid, mean = (np.concatenate([f[k] for f in found])[order] for k in (1, 3, 4))
    W = sparse.vstack([f[2] for f in found]).tocsr()[order]
    on_bed = np.array([getattr(s.plate, "bed", 0.0) > 0 for s in project.surfaces], bool)[of_surface]
    return Points(reached[order], of_surface, xyz[reached[order]], W, solid, mean, on_bed)


def _where(forces: PlateForces, points: Points, row: Ints) -> tuple[Column, ...]:
    surfaces = forces.solution.project.surfaces
    return (
        Column("surface", "text", [surfaces[i].name for i in points.surface[row]]),
        *(Column(axis, "length", points.xyz[row, k] + 0.0) for k, axis in enumerate("xyz")),
    )


def points_each(forces: PlateForces, results: Results, points: Points) -> Table:
    """Every result at points: surface, x, y, z, case, the components, principal values."""
    solution = forces.solution
    value = points.at(forces.every) @ solution.weights(results)
    row = np.repeat(np.arange(len(points.asked)), len(results))
    case = np.tile(np.arange(len(results)), len(points.asked))
    flat = value.transpose(0, 2, 1).reshape(-1, len(COMPONENTS))
    m, n = principal(*flat[:, 3:6].T), principal(*flat[:, :3].T)
    return Table(
        "plate-points",
        (
            *_where(forces, points, row),
            case_column(results, case),
            *(Column(name, kind, flat[:, k] + 0.0) for k, (name, kind) in enumerate(PLATE_KINDS)),
            *(Column(name, kind, v + 0.0) for (name, kind), v in zip(PRINCIPAL_KINDS, (*m, *n), strict=True)),
            Column("mean over", "length", points.mean[row]),
            how_column(results, solution.how(results), case),
        ),
    )  # fmt: skip


def points_extremes(forces: PlateForces, results: Results, points: Points, of: Sequence[str] = ASKED) -> Table:
    """The least and greatest at points over all results, patterns and positions: surface, x, y, z, of, extreme, case,
    the value, and all components then."""
    solution = forces.solution
    every = points.at(forces.every)

    def whole_table(t: Solution | Units) -> Floats:
        return every if t is solution else points.at(forces.rows(t))

    rows: list[tuple[int, str, int, float, str, int, Floats]] = []
    for name in of:
        there = np.ones(len(points.asked), bool) if name in FINITE else ~points.solid
        if name == "p":
            there &= points.on_bed
        if name == "sag":
            there &= np.isin(points.surface, list(forces.planes))
        chosen = np.flatnonzero(there)
        if not len(chosen):
            continue
        of_table = _asked(points, chosen, name)
        columns = of_table(forces.every)
        size = np.abs(columns) @ np.abs(solution.weights(results, still=True)).max(axis=1, initial=0.0)

        def of_units(units: Units, asked: Callable[[Floats], Floats] = of_table) -> Places:
            return plain(asked(forces.rows(units)))

        found = fixed_extremes(solution, results, columns, of_units, TIE * size)
        for side in sides_of(name):
            value = found.value[:, side].reshape(-1, len(chosen))
            best = (value.argmax if side else value.argmin)(axis=0)
            at = best * len(chosen) + np.arange(len(chosen))
            sides = np.full(len(chosen), side)
            whole = found.at_once(solution, results, whole_table, at, sides, chosen)
            names = found.names(solution, results, at, sides)
            rows += [
                (int(i), name, side, float(found.value[r, side]), names[k], int(found.result[r, side]), whole[k])
                for k, (i, r) in enumerate(zip(chosen.tolist(), at.tolist(), strict=True))
            ]
    rows.sort(key=lambda r: r[0])  # by point, and as they were asked for
    row = np.array([r[0] for r in rows], np.intp)
    kind_of = [KIND_OF[r[1]] for r in rows]
    value = np.array([r[3] for r in rows])
    at_once = np.array([r[6] for r in rows]).reshape(-1, len(COMPONENTS))
    finite = np.array([r[1] in FINITE for r in rows], bool)
    return Table(
        "plate-points",
        (
            *_where(forces, points, row),
            Column("of", "text", [r[1] for r in rows]),
            Column("extreme", "text", ["max" if r[2] else "min" for r in rows]),
            *by_kind(value, kind_of),
            Column("mean over", "length", np.where(finite, np.nan, points.mean[row])),
            Column("case", "text", [r[4] for r in rows]),
            *then(at_once),
            how_column(results, solution.how(results), np.array([r[5] for r in rows], np.intp)),
        ),
    )  # fmt: skip


def _asked(points: Points, chosen: Ints, name: str) -> Callable[[Floats], Floats]:
    """What is asked for at some points, sum after sum (sums points, columns), from components at places."""

    def of_table(table: Floats) -> Floats:
        own = points.at(table)[chosen]
        return np.concatenate([own[:, a] + (sign * own[:, b] if b >= 0 else 0.0) for a, b, sign in linear(name)])

    return of_table
