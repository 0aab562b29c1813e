"""Loads on a structural surface as loads on the nodes of its elements, by their shape functions: exactly where they
are, whatever the mesh, with the same sum and the same first moments."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ....surfaces.mesh.located import ALONG, TOUCHES, WEIGHTS, SurfaceMesh, added_up, crossings
from ....surfaces.mesh.shapes import ALPHA
from ....surfaces.plane import fan_of
from .collector import Collector

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
NOTHING = 1e-12
"""Moments below this share of the largest cancel out between neighbours."""
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
    out = _collected([mesh.shares(np.repeat(element, len(ALONG)), points, amount.ravel())])
    out.across.append(_bulged(mesh, element, a, step, places, amount))
    return out


def _bulged(
    mesh: SurfaceMesh, element: Ints, a: Floats, step: Floats, places: Floats, amount: Floats
) -> tuple[Ints, Floats, Floats, Floats]:
    """What a load across it does on stretches of a line that run along sides of elements, which bulge in their plane
    by the rotations of their corners (membrane.py): beside the chord from i to j, L long,

        v = alpha L (s (1 - s)^2 (r_i - r) - s^2 (1 - s) (r_j - r)),   r = (v_j - v_i) / L

    so that forces on an edge make the even stress that they are. amount (stretches, points) [N] at places (stretches,
    points), shares of the line `step` (2,) from a; the same at nodes as `Collector.across` has it."""
    length = float(np.linalg.norm(step))
    along = step / length
    across = np.array([-along[1], along[0]])
    near, far, begin, size, rows = [], [], [], [], []
    for group, chosen, mine in mesh.groups(element):
        if not len(mine):
            continue
        node, xy = mesh.nodes[group][mine], mesh.corners[group][mine] - a
        s, off = xy @ along, np.abs(xy @ across)
        row, i = np.nonzero((off <= TOUCHES) & (np.roll(off, -1, axis=1) <= TOUCHES))
        j = (i + 1) % node.shape[1]
        low, high = s[row, i], s[row, j]
        swap = low > high
        near.append(np.where(swap, node[row, j], node[row, i]))
        far.append(np.where(swap, node[row, i], node[row, j]))
        begin.append(np.minimum(low, high))
        size.append(np.abs(high - low))
        rows.append(np.flatnonzero(chosen)[row])
    i, j, first, L, row = (np.concatenate(v) for v in (near, far, begin, size, rows))
    s = (places[row] * length - first[:, None]) / L[:, None]
    m_i = ALPHA * L * (amount[row] * s * (1 - s) ** 2).sum(axis=1)
    m_j = -ALPHA * L * (amount[row] * s**2 * (1 - s)).sum(axis=1)
    couple = (m_i + m_j) / L
    node = np.concatenate([i, j])
    found, moment = added_up(node, np.concatenate([m_i, m_j]))
    _, force = added_up(node, np.concatenate([couple, -couple]))
    largest = float(np.abs(np.concatenate([m_i, m_j])).max(initial=0.0))
    some = (np.abs(moment) > NOTHING * largest) | (np.abs(force * L.max(initial=0.0)) > NOTHING * largest)
    return found[some], force[some], moment[some], across


def _collected(parts: list[tuple[Ints, Floats]]) -> Collector:
    out = Collector()
    node, share = added_up(np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts]))
    out.nodes.append((node, share, np.zeros(len(node), np.intp)))
    return out
