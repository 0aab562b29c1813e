"""ASCE 7, chapter 30: pressures on components and cladding of buildings with walls.

p = q_h K_d [(GC_p) - (GC_pi)]     (30.3-1), h up to 60 ft; (30.4-1) above, K_d in q in 7-16

    walls, figure 30.3-1: 5 within a of a corner, 4 between       above 60 ft figure 30.4-1
    roofs up to 7 degrees, figure 30.3-2A: 3 at corners (0.6 h by 0.2 h), 2 to 0.6 h, 1 to 1.2 h, 1' within

(GC_p) falls straight over the logarithm of the effective area. Roofs steeper than 7 degrees, or above 60 ft,
are to be stated.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....surfaces.common import common, without
from ...faces import Face, plan_of
from ..shape.building import Building
from ..shape.overhangs import laid_on
from ..shape.plans import wall_ends
from ..shape.roofs import Roof
from ..shape.zones import strip_of
from ..site.asce_site import FOOT

Floats = NDArray[np.float64]
LOW_RISE = 60 * FOOT
FLAT_TO = 7.0
LESS_ON_WALLS = 10.0
"""Up to this slope [deg] walls have 10 % less (figure 30.3-1, note 5)."""
Curve = tuple[tuple[float, float], tuple[float, float]]
"""Areas [ft2] and (GC_p) at both ends of what falls with the area."""
WALLS: Mapping[str, tuple[Curve, Curve]] = {
    "wall 4": (((10, 500), (1.0, 0.7)), ((10, 500), (-1.1, -0.8))),
    "wall 5": (((10, 500), (1.0, 0.7)), ((10, 500), (-1.4, -0.8))),
}
"""Figure 30.3-1: positive, negative."""
FLAT: Mapping[str, tuple[Curve, Curve]] = {
    "roof 1'": (((10, 100), (0.3, 0.2)), ((100, 1000), (-0.9, -0.4))),
    "roof 1": (((10, 100), (0.3, 0.2)), ((10, 500), (-1.7, -1.0))),
    "roof 2": (((10, 100), (0.3, 0.2)), ((10, 500), (-2.3, -1.4))),
    "roof 3": (((10, 100), (0.3, 0.2)), ((10, 500), (-3.2, -1.4))),
}
"""Figure 30.3-2A."""
TALL: Mapping[str, tuple[Curve, Curve]] = {
    "wall 4": (((20, 500), (0.9, 0.6)), ((20, 500), (-0.9, -0.7))),
    "wall 5": (((20, 500), (0.9, 0.6)), ((20, 500), (-1.8, -1.0))),
}
"""Figure 30.4-1, h above 60 ft: walls."""


@dataclass(frozen=True)
class ComponentZone:
    """A part of a face in u v with the coefficients for components of it: name, figure, positive and negative."""

    name: str
    figure: str
    face: Face
    part: shapely.Geometry
    positive: Curve
    negative: Curve
    less: float = 1.0

    def coefficients(self, area: float) -> tuple[float, float]:
        """Positive and negative (GC_p) for an effective area [m2]."""
        return self.less * fallen(self.positive, area), self.less * fallen(self.negative, area)


def fallen(curve: Curve, area: float) -> float:
    """(GC_p) at an effective area [m2], straight over its logarithm and as at the ends beyond them.

    >>> fallen(((10, 500), (-1.1, -0.8)), 50 * FOOT**2)
    -0.9766
    """
    (a, b), (g, h) = curve
    at = np.interp(math.log10(max(area / FOOT**2, 1e-9)), [math.log10(a), math.log10(b)], [g, h])
    return round(float(at), 4)


def edge_width(building: Building) -> float:
    """a [m]: a tenth of the least width or 0.4 h, whichever is less; at least 4 % of that width and 3 ft."""
    ring = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shapely.multipoints(building.corners[:, :2])))
    least = float(np.linalg.norm(np.diff(ring, axis=0), axis=1)[:2].min())
    return max(min(0.1 * least, 0.4 * building.h), 0.04 * least, 3 * FOOT)


def component_zones(building: Building) -> tuple[list[ComponentZone], list[Face]]:
    """The zones of all faces, and those faces for which no figure is known here."""
    tall = building.h > LOW_RISE
    table, figure = (TALL, "figure 30.4-1") if tall else (WALLS, "figure 30.3-1")
    steepest = max((r.slope for r in building.roofs), default=0.0)
    less = 0.9 if not tall and steepest <= LESS_ON_WALLS else 1.0
    a = edge_width(building)
    zones: list[ComponentZone] = []
    unknown: list[Face] = []
    walls = list(building.walls)
    corners = _corners(walls)
    for face in walls:
        for name, part in _wall_parts(face, a, corners):
            zones.append(ComponentZone(name, figure, face, part, *table[name], less))
    for roof in building.roofs:
        if roof.slope > FLAT_TO + 1e-9 or tall:
            unknown += roof.faces
            continue
        for name, plan in _flat_parts(roof, building.h).items():
            for face in roof.faces:
                there = common(laid_on(face, plan), face.outline.polygon)
                zones += [
                    ComponentZone(name, "figure 30.3-2A", face, one, *FLAT[name]) for one in shapely.get_parts(there)
                    if isinstance(one, shapely.Polygon) and one.area > 1e-6
                ]  # fmt: skip
    return zones, unknown


def _corners(walls: list[Face]) -> Floats:
    """Ends of walls at which another wall meets them at an angle, in plan (n, 2)."""
    ends = wall_ends(walls).reshape(-1, 2, 2)
    out = []
    for i, wall in enumerate(walls):
        for end in ends[i]:
            meets = [
                k for k, other in enumerate(walls)
                if k != i and shapely.LineString(ends[k]).distance(shapely.Point(end)) < 0.05
                and abs(float(other.normal[:2] @ wall.normal[:2])) < 0.9
            ]  # fmt: skip
            if meets:
                out.append(end)
    return np.array(out).reshape(-1, 2)


def _wall_parts(face: Face, a: float, corners: Floats) -> list[tuple[str, shapely.Geometry]]:
    """Zone 5 within a of a corner, along the wall, and zone 4."""
    polygon, outline = face.outline.polygon, face.outline
    along = np.array([-face.normal[1], face.normal[0]]) / max(float(np.hypot(*face.normal[:2])), 1e-12)
    points = shapely.get_coordinates(polygon)
    origin, slope = float(outline.origin[:2] @ along), np.asarray(outline.axes[:2, :2] @ along)
    away = np.abs((corners - outline.origin[:2]) @ face.normal[:2]) < 0.1
    strips = [strip_of(origin, slope, float(c @ along) - a, float(c @ along) + a, points) for c in corners[away]]
    near = shapely.union_all(strips) if strips else shapely.Polygon()
    out = []
    for name, part in (("wall 5", common(polygon, near)), ("wall 4", without(polygon, near))):
        out += [(name, p) for p in shapely.get_parts(part) if isinstance(p, shapely.Polygon) and p.area > 1e-6]
    return out


def _flat_parts(roof: Roof, h: float) -> dict[str, shapely.Geometry]:
    """Zones of figure 30.3-2A in plan: corners are L-shaped, 0.6 h along each edge and 0.2 h wide."""
    plan = shapely.union_all([plan_of(f) for f in roof.faces])
    inner, middle = _inwards(plan, 0.6 * h), _inwards(plan, 1.2 * h)
    corner = common(_near_corners(plan, 0.6 * h), without(plan, _inwards(plan, 0.2 * h)))
    ring = without(plan, inner)
    return {
        "roof 3": corner, "roof 2": without(ring, corner), "roof 1": without(inner, middle), "roof 1'": middle,
    }  # fmt: skip


def _inwards(plan: shapely.Geometry, by: float) -> shapely.Geometry:
    return shapely.buffer(plan, -by, join_style="mitre")


def _near_corners(plan: shapely.Geometry, reach: float) -> shapely.Geometry:
    """What lies within a distance of two edges that meet at a corner outwards."""
    parts = []
    for part in shapely.get_parts(plan):
        ring = shapely.get_coordinates(shapely.orient_polygons(shapely.simplify(part, 1e-6)).exterior)[:-1]
        after = np.roll(ring, -1, axis=0) - ring
        edges = [shapely.LineString([a, b]) for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True)]
        bands = [shapely.buffer(e, reach, cap_style="square", join_style="mitre") for e in edges]
        for k in range(len(bands)):
            if after[k - 1, 0] * after[k, 1] - after[k - 1, 1] * after[k, 0] > 1e-6:
                parts.append(common(bands[k - 1], bands[k]))
    return common(shapely.union_all(parts), plan)
