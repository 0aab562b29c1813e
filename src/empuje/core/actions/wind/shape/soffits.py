"""What lies around a plan, by the wall that is nearest: soffits of overhangs have the pressure of that wall.

Where strips meet, in a recess, the nearer wall counts; but a windward wall counts as far out as it is long, and at
corners windward walls before leeward ones, these before sides.

      C |  strip  | C        strip: outwards from a wall, between its ends
    ----+=========+----      C: corner, between the strips of two walls
        |  wall   |
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.words import Side
from ....surfaces.common import RASTER, areas_of

Floats = NDArray[np.float64]
RANK = {Side.WINDWARD: 0, Side.LEEWARD: 1, Side.SIDE: 2}
KINK = 5e-3
"""Walls in pieces, drawn to the millimetre, are straight within this [m]."""
STRAIGHT = 1e-6
"""A corner this little off a straight line [m] is none."""


@dataclass(frozen=True)
class _Edge:
    """A straight piece of the plan's outline from `a` to `b` (2,), what is outside on its right; its outward unit
    vector, length [m], and side."""

    a: Floats
    b: Floats
    out: Floats
    length: float
    side: Side

    def strip(self, reach: float) -> shapely.Geometry:
        """What lies before it."""
        return shapely.Polygon([self.a, self.b, self.b + reach * self.out, self.a + reach * self.out])


def soffits(
    plan: shapely.Geometry, side_of: Sequence[tuple[Floats, Side]], reach: float
) -> dict[Side, shapely.Geometry]:
    """What lies outside a plan, as far as `reach` [m], by the side whose wall is nearest; `side_of`: outward unit
    vectors (2,) and the sides they are on, of which the nearest to an edge's own counts."""
    edges, corners = _edges(plan, side_of)
    out: dict[Side, list[shapely.Geometry]] = {side: [] for side in RANK}
    strips = [e.strip(reach) for e in edges]
    tree = shapely.STRtree(strips)
    for i, edge in enumerate(edges):
        own: shapely.Geometry = strips[i]
        for j in tree.query(own, predicate="intersects").tolist():
            if j != i and not own.is_empty:
                own = _less(own, edge, edges[j], strips[j], reach)
        out[edge.side].append(own)
    taken = _joined(strips)
    for first, second, corner in sorted(corners, key=lambda c: min(RANK[c[0].side], RANK[c[1].side])):
        side = min((first.side, second.side), key=RANK.__getitem__)
        tip = reach * (first.out + second.out)
        wedge = shapely.Polygon([corner, corner + reach * first.out, corner + tip, corner + reach * second.out])
        out[side].append(_without(wedge, taken))
        taken = _joined([taken, wedge])
    return {side: _without(_joined(parts), plan) for side, parts in out.items()}


# Edges run along one another everywhere here: on a raster no edge is nearly another.
def _joined(shapes: Sequence[shapely.Geometry]) -> shapely.Geometry:
    return areas_of(shapely.union_all([areas_of(s) for s in shapes], grid_size=RASTER))


def _without(a: shapely.Geometry, b: shapely.Geometry) -> shapely.Geometry:
    return areas_of(shapely.difference(areas_of(a), areas_of(b), grid_size=RASTER))


def _both(a: shapely.Geometry, b: shapely.Geometry) -> shapely.Geometry:
    return areas_of(shapely.intersection(areas_of(a), areas_of(b), grid_size=RASTER))


def _edges(
    plan: shapely.Geometry, side_of: Sequence[tuple[Floats, Side]]
) -> tuple[list[_Edge], list[tuple[_Edge, _Edge, Floats]]]:
    """The edges of a plan, and its corners outwards with the edges before and after."""
    edges: list[_Edge] = []
    corners: list[tuple[_Edge, _Edge, Floats]] = []
    ways = np.array([way for way, _ in side_of])
    for part in shapely.get_parts(plan):
        part = shapely.orient_polygons(shapely.simplify(part, KINK))
        for ring in (part.exterior, *part.interiors):
            points = _round(shapely.get_coordinates(ring)[:-1])
            own = []
            for a, b in zip(points, np.roll(points, -1, axis=0), strict=True):
                length = float(np.linalg.norm(b - a))
                out = np.array([(b - a)[1], -(b - a)[0]]) / length
                own.append(_Edge(a, b, out, length, side_of[int((ways @ out).argmax())][1]))
            for before, after in zip(np.roll(np.arange(len(own)), 1), range(len(own)), strict=True):
                one, other = own[before], own[after]
                if one.out[0] * other.out[1] - one.out[1] * other.out[0] > STRAIGHT:
                    corners.append((one, other, other.a))
            edges += own
    return edges, corners


def _round(points: Floats) -> Floats:
    """A ring without corners that are none, its first one included."""
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    way = after - before
    off = np.abs(way[:, 0] * (points - before)[:, 1] - way[:, 1] * (points - before)[:, 0])
    kept: Floats = points[off > KINK * np.maximum(np.linalg.norm(way, axis=1), STRAIGHT)]
    return kept


def _less(own: shapely.Geometry, edge: _Edge, other: _Edge, strip: shapely.Geometry, reach: float) -> shapely.Geometry:
    """An edge's strip, less where another one counts."""
    lost = _both(strip, _nearer(other, edge, reach))
    if RANK[edge.side] == 0 and other.side == Side.SIDE:
        lost = _without(lost, edge.strip(edge.length))
    elif RANK[other.side] == 0 and edge.side == Side.SIDE:
        lost = _joined([lost, other.strip(min(other.length, reach))])
    return _without(own, lost)


def _nearer(one: _Edge, other: _Edge, reach: float) -> shapely.Geometry:
    """Where the line of one edge is nearer than that of another, as far as anything reaches."""
    slope = one.out - other.out
    size = float(np.linalg.norm(slope))
    if size < STRAIGHT:
        offset = one.out @ one.a - other.out @ other.a
        far = _far(one, other, reach)
        return shapely.box(-far, -far, far, far) if offset > STRAIGHT else shapely.Polygon()
    way = slope / size
    limit = float(one.out @ one.a - other.out @ other.a) / size
    across = np.array([-way[1], way[0]])
    far = _far(one, other, reach)
    edge = [limit * way - far * across, limit * way + far * across]
    return shapely.Polygon([*edge, edge[1] - far * way, edge[0] - far * way])


def _far(one: _Edge, other: _Edge, reach: float) -> float:
    """Beyond all that strips of two edges reach [m]."""
    return 4 * reach + 4 * float(np.abs([one.a, one.b, other.a, other.b]).max())
