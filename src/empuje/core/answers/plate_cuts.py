"""What passes through a straight cut of a structural surface: the forces along it added up.

    normal of the cut nu, to the left of its direction t, seen against the surface's normal
A ------^------> B      N = int n_nu    V = int n_nu,t    Q = int v_nu
                        M = int m_nu    T = int m_nu,t    M_in = int n_nu s   (s from the middle, along t)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse

from ..analysis.moving.places import Places, plain
from ..analysis.moving.units import Units
from ..model.frame import ON_LINE_TOLERANCE
from ..model.results import Results
from ..surfaces.mesh.located import ALONG, WEIGHTS, crossings, mesh_of
from ..surfaces.plane import plane_of
from .moving import fixed_extremes
from .plate_points import shares_of_places
from .plates import PLATE_KINDS, PlateForces
from .table import Column, Kind, Table, case_column, how_column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
CUT_KINDS: tuple[tuple[str, Kind], ...] = (
    ("N", "force"), ("V", "force"), ("Q", "force"), ("M", "moment"), ("T", "moment"), ("M_in", "moment"),
)  # fmt: skip
GAP = 1e-9
"""Shares of a cut that are apart by more have an opening between them."""
ASIDE = 1e-6
"""A cut along a line of elements is taken on its left [m]."""


class NoCut(ValueError):
    """A cut that goes through no structural surface."""


@dataclass(frozen=True)
class Cut:
    """Points along a cut of one surface: shares of places (points, places), weights (points,) [m], distances from the
    cut's middle (points,) [m], the direction of its normal in the surface's own axes (2,), and
    the points (n,) before which the surface is interrupted."""

    surface: int
    of_places: sparse.csr_matrix
    weight: Floats
    from_middle: Floats
    normal: Floats
    length: float
    after_gap: Ints


def cut_of(forces: PlateForces, surface: int, a: Floats, b: Floats) -> Cut | None:
    """A cut from one point to another (3,) of a surface; None where it does not lie in it."""
    project, plates = forces.solution.project, forces.plates
    outline = plane_of(project.surfaces[surface])[0]
    mesh = mesh_of(forces.solution.model.project, surface, outline) if outline is not None else None
    if outline is None or mesh is None or np.abs(outline.height(np.stack([a, b]))).max() > ON_LINE_TOLERANCE:
        return None
    ends = outline.flat(np.stack([a, b]))
    size = float(np.linalg.norm(ends[1] - ends[0]))
    if size <= ON_LINE_TOLERANCE:
        return None
    along = (ends[1] - ends[0]) / size
    left = np.array([-along[1], along[0]])
    t = crossings(mesh, ends)
    middle = (t[:-1] + t[1:]) / 2
    points = ends[0] + middle[:, None] * (ends[1] - ends[0])
    element = mesh.holding(points + ASIDE * left)
    aside = shapely.contains_xy(outline.polygon, *(points + ASIDE * left).T)
    element = np.where(aside, element, mesh.holding(points - ASIDE * left))
    on = shapely.dwithin(outline.polygon, shapely.points(points), ON_LINE_TOLERANCE)
    if not on.any():
        return None
    element, begin, step = element[on], t[:-1][on], np.diff(t)[on]
    share = (begin[:, None] + ALONG * step[:, None]).ravel()
    weight = (WEIGHTS * step[:, None]).ravel() * size
    at = ends[0] + share[:, None] * (ends[1] - ends[0])
    W = shares_of_places(forces, mesh, surface, np.repeat(element, len(ALONG)), at)
    own = plates.axes[surface, :2] @ (outline.axes[:2].T @ left)
    gap = begin[1:] - (begin + step)[:-1] > GAP
    after_gap = len(ALONG) * (np.flatnonzero(gap) + 1)
    return Cut(surface, W, weight, (share - 0.5) * size, own, size, after_gap)


def resultants(cut: Cut, table: Floats) -> Floats:
    """N V Q M T M_in (6, columns) from components at places (places, 11, columns)."""
    flat = (cut.of_places @ table.reshape(len(table), -1)).reshape(-1, len(PLATE_KINDS), table.shape[2])
    x, y = cut.normal
    tx, ty = y, -x  # the cut's direction: its normal turned to the right

    def across(xx: Floats, yy: Floats, xy: Floats) -> tuple[Floats, Floats]:
        return xx * x * x + yy * y * y + 2 * xy * x * y, xx * x * tx + yy * y * ty + xy * (x * ty + y * tx)

    n, nt = across(flat[:, 0], flat[:, 1], flat[:, 2])
    m, mt = across(flat[:, 3], flat[:, 4], flat[:, 5])
    v = flat[:, 6] * x + flat[:, 7] * y
    return np.stack([cut.weight @ each for each in (n, nt, v, m, mt, cut.from_middle[:, None] * n)])


def cuts_of(forces: PlateForces, surfaces: Sequence[int], a: Floats, b: Floats) -> list[Cut]:
    """The cut through each surface that it lies in. Raises NoCut."""
    found = [cut for cut in (cut_of(forces, i, a, b) for i in surfaces) if cut is not None]
    if not found:
        raise NoCut("the line lies in none of these surfaces; both points must be in the plane of one")
    return found


def cut_each(forces: PlateForces, results: Results, surfaces: Sequence[int], a: Floats, b: Floats) -> Table:
    """The resultants of every result. Raises NoCut."""
    solution = forces.solution
    found = cuts_of(forces, surfaces, a, b)
    value = np.stack([resultants(cut, forces.every) @ solution.weights(results) for cut in found])
    case = np.tile(np.arange(len(results)), len(found))
    which = np.repeat(np.arange(len(found)), len(results))
    rows = value.transpose(0, 2, 1).reshape(-1, 6)
    return Table(
        "plate-cuts",
        (
            Column("surface", "text", [solution.project.surfaces[found[k].surface].name for k in which]),
            case_column(results, case),
            Column("length", "length", np.array([found[k].length for k in which])),
            *(Column(name, kind, rows[:, k] + 0.0) for k, (name, kind) in enumerate(CUT_KINDS)),
            how_column(results, solution.how(results), case),
        ),
    )


def cut_extremes(forces: PlateForces, results: Results, surfaces: Sequence[int], a: Floats, b: Floats) -> Table:
    """The least and greatest of each resultant, with the others there and then. Raises NoCut."""
    solution = forces.solution
    rows: list[tuple[int, str, int, str, Floats, int]] = []
    for cut in cuts_of(forces, surfaces, a, b):
        columns = resultants(cut, forces.every)

        def of_units(units: Units, cut: Cut = cut) -> Places:
            return plain(resultants(cut, forces.rows(units)))

        found = fixed_extremes(solution, results, columns, of_units)
        row, side = np.repeat(np.arange(6), 2), np.tile([0, 1], 6)

        def whole(t: object, cut: Cut = cut) -> Floats:
            table = forces.every if t is solution else forces.rows(t)  # type: ignore[arg-type]
            return np.repeat(resultants(cut, table)[None], 6, axis=0)

        at_once = found.at_once(solution, results, whole, row, side)
        names = found.names(solution, results, row, side)
        rows += [(cut.surface, CUT_KINDS[r][0], s, name, at_once[i], int(found.result[r, s]))
                 for i, (r, s, name) in enumerate(zip(row.tolist(), side.tolist(), names, strict=True))]  # fmt: skip
    values = np.array([r[4] for r in rows])
    return Table(
        "plate-cuts",
        (
            Column("surface", "text", [solution.project.surfaces[r[0]].name for r in rows]),
            Column("of", "text", [r[1] for r in rows]),
            Column("extreme", "text", ["max" if r[2] else "min" for r in rows]),
            Column("case", "text", [r[3] for r in rows]),
            *(Column(name, kind, values[:, k] + 0.0) for k, (name, kind) in enumerate(CUT_KINDS)),
            how_column(results, solution.how(results), np.array([r[5] for r in rows], np.intp)),
        ),
    )
