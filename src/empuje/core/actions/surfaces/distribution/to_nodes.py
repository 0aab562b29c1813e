"""Surfaces that bring their loads to nodes: each gets what is nearer to it than to any other node of the surface."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.common import common
from ..geometry.plane import load_on
from ..geometry.surface_geometry import SurfaceGeometry, nodes_on
from .collector import Collector

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def area_to_nodes(geometry: SurfaceGeometry, loaded: shapely.Geometry, field: Floats, out: Collector) -> None:
    """To every node the load of what is nearer to it than to any other."""
    node, flat = nodes_on(geometry)
    if not len(node):
        out.lose(np.array([load_on(loaded, field)]), shapely.get_coordinates(shapely.centroid(loaded)))
        return
    cells = np.array([loaded])
    if len(node) > 1:
        found = shapely.get_parts(
            shapely.voronoi_polygons(shapely.multipoints(flat), extend_to=geometry.outline.polygon)
        )
        place, cell = shapely.STRtree(found).query(shapely.points(flat), predicate="intersects")
        cells = common(found[cell[np.argsort(place, kind="stable")]], loaded)
    force = np.array([load_on(c, field) for c in cells])
    some = force != 0
    out.nodes.append((node[some], force[some], np.zeros(int(some.sum()), np.intp)))


def forces_to_nodes(geometry: SurfaceGeometry, points: Floats, forces: Floats, out: Collector) -> None:
    """Forces (n, 3) [N] at points (n, 2) in u v, each given to the nearest node on the surface;
    lost where there is none."""
    node, flat = nodes_on(geometry)
    if not len(node):
        out.lose(forces, points)
        return
    nearest = np.linalg.norm(points[:, None] - flat, axis=2).argmin(axis=1)
    out.nodes.append((node[nearest], forces, np.zeros(len(forces), np.intp)))


def line_to_nodes(geometry: SurfaceGeometry, ends: Floats, values: tuple[float, float], out: Collector) -> Collector:
    """Every piece of the line to the node nearest to it."""
    _, flat = nodes_on(geometry)
    step = ends[1] - ends[0]
    # Where two nodes are as near: (e0 + t step - middle) . (b - a) = 0
    i, j = np.triu_indices(len(flat), 1)
    d = flat[j] - flat[i]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.einsum("ni,ni->n", (flat[i] + flat[j]) / 2 - ends[0], d) / (d @ step)
    t = np.unique(np.concatenate([[0.0, 1.0], t[np.isfinite(t) & (t > 0) & (t < 1)]]))
    middle = (t[1:] + t[:-1]) / 2
    value = values[0] + middle * (values[1] - values[0])
    forces_to_nodes(geometry, ends[0] + middle[:, None] * step, value * np.diff(t) * float(np.linalg.norm(step)), out)
    return out
