"""Surfaces that bring their loads to nodes: in every bay shares that keep force and first moments.

    D-----------C      a bay with nodes at its corners alone is one cell; with nodes along its edges or inside it is cut
    |     x     |      into cells of nodes on one circle with no other node in it (Delaunay). Shares of a point x of a
    A-----------B      cell are Wachspress's: bilinear on a rectangle, linear on a triangle, and sum(share_i x_i) = x.

What lies beyond all cells is shared as levers do it: by the shares at the nearest place of the nearest cell, and by
what keeps its moments beside them. Nodes on one line keep the moments along it only.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.frame import ON_LINE_TOLERANCE
from ....surfaces.common import common, without
from ....surfaces.plane import AT, WEIGHT, fan_of, load_on
from ....surfaces.surface_geometry import SurfaceGeometry, nodes_on
from .collector import Collector

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
CELLS = b"cells"
"""What they are known by, among parts of the surface by their WKB."""
NOTHING = 1e-13
"""Less than this share of a loaded area is rounding."""
ON_CIRCLE = 1e-5
"""A node whose distance from a circle is less than this share of its radius lies on it."""


@dataclass(frozen=True)
class Cell:
    """Nodes (k,), their places (k, 2) in order around, and how shares grow beside them (k, 2) [1/m]."""

    node: Ints
    at: Floats
    growth: Floats

    @property
    def shape(self) -> shapely.Geometry:
        """A polygon; of two nodes a line, of one a point."""
        kinds = {1: shapely.Point, 2: shapely.LineString}
        return kinds.get(len(self.at), shapely.Polygon)(self.at if len(self.at) > 1 else self.at[0])

    def shares(self, points: Floats) -> Floats:
        """(n, k) of points (n, 2), inside and outside."""
        if len(self.node) == 1:
            return np.ones((len(points), 1))
        on = points
        if len(self.node) > 2:
            shape = self.shape
            off = ~shapely.intersects_xy(shape, *points.T)
            if off.any():
                on = points.copy()
                lines = shapely.shortest_line(shape, shapely.points(points[off]))
                on[off] = shapely.get_coordinates(lines).reshape(-1, 2, 2)[:, 0]
            return np.asarray(_wachspress(self.at, on) + (points - on) @ self.growth.T)
        return np.asarray(np.array([1.0, 0.0]) + (points - self.at[0]) @ self.growth.T)


def _wachspress(at: Floats, x: Floats) -> Floats:
    """Shares (n, k) of points in a convex polygon (k, 2): every corner's triangle with its neighbours, times the
    triangles that the point makes with all edges but those at the corner (Wachspress 1975)."""
    after, before = np.roll(at, -1, axis=0), np.roll(at, 1, axis=0)
    corner = _cross(at - before, after - at)
    edge = np.maximum(_cross(after - at, x[:, None] - at), 0.0)
    k = len(at)
    of = [np.prod(np.delete(edge, [i, (i - 1) % k], axis=1), axis=1) for i in range(k)]
    weight = corner * np.stack(of, axis=1)
    return np.asarray(weight / weight.sum(axis=1)[:, None])


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _cell(node: Ints, at: Floats) -> Cell:
    middle = at.mean(axis=0)
    if len(node) > 2:
        order = np.argsort(np.arctan2(*(at - middle).T[::-1]))
        node, at = node[order], at[order]
    return Cell(node, at, np.linalg.pinv(at - middle, rcond=1e-6).T if len(node) > 1 else np.zeros((1, 2)))


def cells_of(geometry: SurfaceGeometry) -> list[Cell]:
    """The cells of a surface, bay by bay; where a bay has too few nodes of its own, those of the whole surface."""
    if CELLS not in geometry.known:
        geometry.known[CELLS] = _cells_of(geometry)
    return geometry.known[CELLS]  # type: ignore[no-any-return]


def _cells_of(geometry: SurfaceGeometry) -> list[Cell]:
    node, at = nodes_on(geometry)
    if not len(node):
        return []
    out: list[Cell] = []
    for bay in geometry.bays.polygons:
        own = np.flatnonzero(shapely.dwithin(bay, shapely.points(at), ON_LINE_TOLERANCE))
        found = _cells(node[own], at[own], shapely.Polygon(bay.exterior)) if len(own) > 2 else []
        if not found:
            return _cells(node, at, geometry.outline.polygon) or _in_line(node, at)
        out += found
    return out


def _cells(node: Ints, at: Floats, bay: shapely.Polygon) -> list[Cell]:
    """Of nodes on a bay; none where they lie on one line."""
    hull = shapely.convex_hull(shapely.multipoints(at))
    if not isinstance(hull, shapely.Polygon) or _narrow(hull):
        return []
    corners = shapely.get_coordinates(shapely.simplify(hull, ON_LINE_TOLERANCE))[:-1]
    if len(corners) == len(at) and shapely.buffer(hull, ON_LINE_TOLERANCE).covers(bay):
        return [_cell(node, at)]
    triangles = shapely.get_parts(shapely.delaunay_triangles(shapely.multipoints(at)))
    points = shapely.get_coordinates(triangles).reshape(-1, 4, 2)[:, :3]
    of = np.linalg.norm(points[:, :, None] - at, axis=3).argmin(axis=2)
    kept = [k for k, triangle in enumerate(triangles) if not _narrow(triangle)]
    group = {k: k for k in kept}
    beside: dict[tuple[int, int], list[int]] = defaultdict(list)
    for k in kept:
        for i in range(3):
            a, b = sorted((int(of[k, i]), int(of[k, (i + 1) % 3])))
            beside[a, b].append(k)
    for pair in beside.values():
        if len(pair) == 2 and _one_circle(at[of[pair[0]]], at[of[pair[1]]]):
            low, high = sorted(group[k] for k in pair)
            group = {k: low if g == high else g for k, g in group.items()}
    together: dict[int, set[int]] = defaultdict(set)
    for k, g in group.items():
        together[g] |= set(of[k].tolist())
    return [_cell(node[own], at[own]) for own in (np.array(sorted(g), np.intp) for g in together.values())]


def _narrow(shape: shapely.Polygon) -> bool:
    """Whether its points lie on one line."""
    return bool(2 * shape.area <= ON_LINE_TOLERANCE * shape.length)


def _one_circle(a: Floats, b: Floats) -> bool:
    """Whether the corners (3, 2) of two triangles lie on one circle."""
    centre = np.linalg.solve(2 * (a[1:] - a[0]), (a[1:] ** 2).sum(axis=1) - (a[0] ** 2).sum())
    radius = np.linalg.norm(a[0] - centre)
    return bool((np.abs(np.linalg.norm(b - centre, axis=1) - radius) <= ON_CIRCLE * radius).all())


def _in_line(node: Ints, at: Floats) -> list[Cell]:
    """Cells between neighbours on one line; of a single node that alone."""
    if len(node) == 1:
        return [_cell(node, at)]
    far = at - at.mean(axis=0)
    way = np.linalg.svd(far, full_matrices=False)[2][0]
    order = np.argsort(far @ way)
    return [_cell(node[order[k : k + 2]], at[order[k : k + 2]]) for k in range(len(node) - 1)]


def area_to_nodes(geometry: SurfaceGeometry, loaded: shapely.Geometry, field: Floats, out: Collector) -> None:
    """A pressure field . (1, u, v) [N/m2] on a part of the surface: of every cell its own, and of what no cell covers
    as levers share its resultant."""
    cells = cells_of(geometry)
    if not cells:
        out.lose(np.array([load_on(loaded, field)]), shapely.get_coordinates(shapely.centroid(loaded)))
        return
    shapes = np.array([cell.shape for cell in cells], object)
    parts = common(shapes, loaded)
    for k in np.flatnonzero(shapely.area(parts) > 0).tolist():
        _integrate(cells[k], parts[k], field, out)
    rest = shapely.get_parts(without(loaded, shapely.union_all(shapes)))
    for part in rest[shapely.area(rest) > NOTHING * shapely.area(loaded)]:
        _beside(cells, shapes, part, field, out)


def _integrate(cell: Cell, part: shapely.Geometry, field: Floats, out: Collector) -> None:
    """The shares of a part of a cell."""
    at, weight = fan_of(part, cell.at.mean(axis=0))
    force = (weight * (field[0] + at @ field[1:])) @ cell.shares(at)
    out.nodes.append((cell.node, force, np.zeros(len(force), np.intp)))


def _beside(
    cells: list[Cell], shapes: NDArray[np.object_], part: shapely.Geometry, field: Floats, out: Collector
) -> None:
    """A part that no cell covers."""
    at, weight = fan_of(part, shapely.get_coordinates(shapely.centroid(part))[0])
    pressure = weight * (field[0] + at @ field[1:])
    centre = shapely.get_coordinates(shapely.centroid(part))
    cell = cells[int(shapely.distance(shapes, shapely.points(centre[0])).argmin())]
    moments = pressure @ (at - centre[0])
    force = pressure.sum() * cell.shares(centre)[0] + cell.growth @ moments
    out.nodes.append((cell.node, force, np.zeros(len(force), np.intp)))


def forces_to_nodes(geometry: SurfaceGeometry, points: Floats, forces: Floats, out: Collector) -> None:
    """Forces (n,) [N] at points (n, 2) in u v, shared in the cell they lie in; lost where the surface has no node."""
    cells = cells_of(geometry)
    if not cells:
        out.lose(forces, points)
        return
    shapes = np.array([cell.shape for cell in cells], object)
    nearest = np.array([shapely.distance(shapes, shapely.Point(p)).argmin() for p in points], np.intp)
    for k in np.unique(nearest).tolist():
        own = nearest == k
        share = forces[own] @ cells[k].shares(points[own])
        out.nodes.append((cells[k].node, share, np.zeros(len(share), np.intp)))


def line_to_nodes(geometry: SurfaceGeometry, ends: Floats, values: tuple[float, float], out: Collector) -> Collector:
    """A line of load [N/m], cut where it passes from one cell to the next."""
    step = ends[1] - ends[0]
    line = shapely.LineString(ends)
    edges = shapely.boundary(np.array([cell.shape for cell in cells_of(geometry)], object))
    met = shapely.get_coordinates(shapely.intersection(edges, line))
    t = ((met - ends[0]) @ step) / (step @ step)
    t = np.unique(np.concatenate([[0.0, 1.0], t[(t > 1e-9) & (t < 1 - 1e-9)]]))
    wide = np.diff(t)[:, None]
    at = (t[:-1, None] + AT * wide).ravel()
    force = (wide * WEIGHT).ravel() * (values[0] + at * (values[1] - values[0])) * float(np.linalg.norm(step))
    forces_to_nodes(geometry, ends[0] + at[:, None] * step, force, out)
    return out
