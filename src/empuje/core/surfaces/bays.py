"""The bays of a surface: the pieces of it that the members in it close off."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..model.frame import ON_LINE_TOLERANCE
from .plane import Bearings, Outline, straight_edges

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SNAP = 1e-11
"""Lines that come this close [m] meet."""
SLIVER = 2 * ON_LINE_TOLERANCE
"""A piece narrower than this [m] lies between an outline and a member that are meant to be one line."""


@dataclass(frozen=True)
class Bays:
    """polygons (n,) in u v, in order from low to high; number (n,) counted from 1, slivers with a neighbour's."""

    polygons: NDArray[np.object_]
    number: Ints
    tree: shapely.STRtree

    def at(self, points: Floats) -> Ints:
        """The number of the bay at each point (n, 2); 0 outside all of them."""
        out = np.zeros(len(points), np.intp)
        place, bay = self.tree.query(shapely.points(points), predicate="intersects")
        out[place] = self.number[bay]
        return out


def find_bays(outline: Outline, bearings: Bearings) -> Bays:
    """All pieces of the outline between the members in it."""
    rings = shapely.boundary(outline.polygon)
    met = _meeting(bearings.ends, straight_edges(outline.polygon))
    lines = shapely.union_all([*shapely.linestrings(met), rings], grid_size=SNAP)
    found = shapely.get_parts(shapely.polygonize([lines]))
    shape = outline.polygon.buffer(SNAP * 10)
    shapely.prepare(shape)
    inside = shapely.contains(shape, shapely.point_on_surface(found))
    found = found[inside]
    narrow = 2 * shapely.area(found) < SLIVER * shapely.length(found)
    centre = np.round(shapely.get_coordinates(shapely.centroid(found)), 3)
    found = found[np.lexsort((centre[:, 0], centre[:, 1], narrow))]
    narrow = np.sort(narrow)
    number = np.arange(1, len(found) + 1)
    if narrow.any() and not narrow.all():
        wide = shapely.STRtree(found[~narrow])
        number[narrow] = number[wide.nearest(found[narrow])]
    return Bays(found, number, shapely.STRtree(found))


def _meeting(ends: Floats, rings: Floats) -> Floats:
    """Members (n, 2, 2), those that end short of the inside of another line (m, 2, 2 of the outline, or a member), but
    within the tolerance, as much longer as they need to cross it: they close their bays."""
    lines = np.concatenate([ends, rings])
    points = ends.reshape(-1, 2)
    point, line = shapely.STRtree(shapely.linestrings(lines)).query(
        shapely.points(points), predicate="dwithin", distance=ON_LINE_TOLERANCE
    )
    a, way = lines[line, 0], lines[line, 1] - lines[line, 0]
    length = np.maximum(np.linalg.norm(way, axis=1), SLIVER)
    way = way / length[:, None]
    own = ends[point // 2, 1] - ends[point // 2, 0]
    own = own / np.maximum(np.linalg.norm(own, axis=1), SLIVER)[:, None] * np.where(point % 2, 1.0, -1.0)[:, None]
    off = points[point] - a
    along = np.einsum("ij,ij->i", off, way)
    apart = off[:, 0] * way[:, 1] - off[:, 1] * way[:, 0]
    across = np.abs(own[:, 0] * way[:, 1] - own[:, 1] * way[:, 0])
    inside = (along > ON_LINE_TOLERANCE) & (along < length - ON_LINE_TOLERANCE)
    some = inside & (across > ACROSS) & (line != point // 2) & (apart != 0)
    more = np.zeros(len(points))
    np.maximum.at(more, point[some], 2 * np.abs(apart[some]) / across[some] + 10 * SNAP)
    way_out = np.zeros_like(points)
    way_out[point[some]] = own[some]
    return (points + more[:, None] * way_out).reshape(-1, 2, 2)


ACROSS = 0.05
"""A line crosses another where the sine between them is more."""


def deck_of_bay(polygon: shapely.Polygon) -> Floats:
    """The unit vector along the shorter side of the smallest rectangle around a bay; of two alike the first axis."""
    ring = shapely.get_coordinates(shapely.minimum_rotated_rectangle(polygon))
    sides = np.diff(ring, axis=0)[:2]
    length = np.linalg.norm(sides, axis=1)
    short = sides[int(length[1] < length[0] * (1 - 1e-9))]
    if abs(length[1] - length[0]) <= 1e-9 * length.max():
        short = sides[np.abs(sides[:, 0]).argmax()]
    way = short / np.linalg.norm(short)
    return np.asarray(way if way[np.abs(way).argmax()] > 0 else -way)
