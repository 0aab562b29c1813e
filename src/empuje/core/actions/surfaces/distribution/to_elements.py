"""Loads on a structural surface as loads on the nodes of its elements, by their shape functions: exactly where they
are, whatever the mesh, with the same sum and the same first moments."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ....surfaces.mesh.located import ALONG, WEIGHTS, SurfaceMesh, added_up, crossings
from ....surfaces.plane import fan_of
from .collector import Collector

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SMALLEST = 1e-12
"""Pieces of elements below this share of the element are none."""


def area_to_elements(mesh: SurfaceMesh, loaded: shapely.Geometry, field: Floats, whole: bool) -> Collector:
    """A pressure field . (1, u, v) on a part of the surface."""
    if whole:
        return _collected([mesh.whole(field, np.arange(len(mesh.polygons)))])
    touched = np.sort(mesh.tree.query(loaded, predicate="intersects"))
    shapely.prepare(loaded)
    inside = shapely.covers(loaded, mesh.polygons[touched])
    parts = [mesh.whole(field, touched[inside])]
    for element in touched[~inside].tolist():
        polygon = mesh.polygons[element]
        piece = shapely.intersection(polygon, loaded)
        if shapely.area(piece) <= SMALLEST * shapely.area(polygon):
            continue
        at, weight = fan_of(piece, shapely.get_coordinates(shapely.centroid(piece))[0])
        parts.append(mesh.shares(np.full(len(at), element), at, weight * (field[0] + at @ field[1:])))
    return _collected(parts)


def force_to_elements(mesh: SurfaceMesh, at: Floats, value: float) -> Collector:
    """A force [N] at a point (2,)."""
    point = at.reshape(1, 2)
    return _collected([mesh.shares(mesh.holding(point), point, np.array([value]))])


def line_to_elements(mesh: SurfaceMesh, ends: Floats, values: tuple[float, float]) -> Collector:
    """A load per length [N/m] from one point to another (2, 2), changing linearly."""
    a, step = ends[0], ends[1] - ends[0]
    t = crossings(mesh, ends)
    element = mesh.holding(a + ((t[:-1] + t[1:]) / 2)[:, None] * step)
    places = t[:-1, None] + ALONG * np.diff(t)[:, None]
    length = float(np.linalg.norm(step))
    amount = WEIGHTS * np.diff(t)[:, None] * length * (values[0] + (values[1] - values[0]) * places)
    points = a + places.reshape(-1, 1) * step
    return _collected([mesh.shares(np.repeat(element, len(ALONG)), points, amount.ravel())])


def _collected(parts: list[tuple[Ints, Floats]]) -> Collector:
    out = Collector()
    node, share = added_up(np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts]))
    out.nodes.append((node, share, np.zeros(len(node), np.intp)))
    return out
