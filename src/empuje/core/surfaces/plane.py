"""The plane of a surface: its own coordinates u v, its outline in them, and the members that lie in it.

n = e1 x e2, right-handed about the corners
e1 level (along X where the surface itself is level), e2 = n x e1
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ..model.findings import Finding
from ..model.frame import ON_LINE_TOLERANCE
from ..model.loads import Vector
from ..model.project import Project
from ..model.surfaces import Surface

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FLAT = ON_LINE_TOLERANCE
SMALLEST = 1e-6
"""An outline below this area [m2] is none."""


@dataclass(frozen=True)
class Outline:
    """origin (3,), axes (3, 3): rows e1 e2 n; polygon in u v [m], less its openings."""

    surface: Surface
    origin: Floats
    axes: Floats
    polygon: shapely.Polygon

    @property
    def normal(self) -> Floats:
        """Unit vector (3,) across the plane, global."""
        return np.asarray(self.axes[2])

    def flat(self, points: Floats | tuple[Vector, ...]) -> Floats:
        """u v (n, 2) of points (n, 3), seen along the normal."""
        return np.asarray((np.asarray(points, float).reshape(-1, 3) - self.origin) @ self.axes[:2].T)

    def height(self, points: Floats | tuple[Vector, ...]) -> Floats:
        """How far points (n, 3) are from the plane [m]."""
        return np.asarray((np.asarray(points, float).reshape(-1, 3) - self.origin) @ self.axes[2])

    def solid(self, flat: Floats) -> Floats:
        """Points (n, 3) from u v (n, 2)."""
        return np.asarray(self.origin + np.asarray(flat, float).reshape(-1, 2) @ self.axes[:2])

    @cached_property
    def size(self) -> float:
        """Length of the diagonal around it [m]."""
        u0, v0, u1, v1 = self.polygon.bounds
        return float(np.hypot(u1 - u0, v1 - v0))

    def where(self, flat: Floats) -> str:
        """A place on the surface, for messages."""
        x, y, z = self.solid(flat)[0] + 0.0
        return f"({x:.4g}, {y:.4g}, {z:.4g}) m"


@dataclass(frozen=True)
class Bearings:
    """Members in the plane: ends (n, 2, 2) in u v, member (n,), and the places s (n, 2) [m] of these ends on it."""

    ends: Floats
    member: Ints
    s: Floats


def straight_edges(shape: shapely.Geometry) -> Floats:
    """All straight pieces of the outlines of one shape or many (n, 2, 2)."""
    points, ring = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(shape)), return_index=True)
    same = ring[1:] == ring[:-1]
    return np.stack([points[:-1][same], points[1:][same]], axis=1)


def reentrant(polygon: shapely.Polygon) -> Floats:
    """The corners (n, 2) of a polygon that reach into it, those of its openings among them."""
    out = [np.zeros((0, 2))]
    whole = shapely.orient_polygons(polygon)
    for ring in (whole.exterior, *whole.interiors):
        at = np.array(ring.coords)[:-1]
        before, after = at - np.roll(at, 1, axis=0), np.roll(at, -1, axis=0) - at
        turning = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
        sizes = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
        out.append(at[turning < -1e-6 * sizes])
    return np.concatenate(out)


MOST_OFF, DEEPEST = 0.05, 3.0


def plane_of(surface: Surface) -> tuple[Outline | None, list[Finding]]:
    """The outline in its plane, or why it has none."""

    def wrong(code: str, message: str, remedy: str) -> tuple[None, list[Finding]]:
        return None, [Finding("error", code, f"surface {surface.name} {message}", remedy, surface.place)]

    corners = np.array(surface.corners, float).reshape(-1, 3)
    centre = corners.mean(axis=0)
    # Newell: the area vector of the outline, whatever its shape.
    area = np.cross(corners - centre, np.roll(corners, -1, axis=0) - centre).sum(axis=0) / 2
    size = np.linalg.norm(area)
    if size < SMALLEST:
        return wrong("bad-outline", "encloses no area", "name its corners in order, at least three")
    n = area / size
    level = np.hypot(n[0], n[1]) < 1e-9
    e1 = np.array([1.0, 0.0, 0.0]) if level else np.array([-n[1], n[0], 0.0]) / np.hypot(n[0], n[1])
    e1 -= n * (n @ e1)
    e1 /= np.linalg.norm(e1)
    axes = np.array([e1, np.cross(n, e1), n])
    origin = corners[0] + n * ((centre - corners[0]) @ n)
    loops = [corners, *(np.array(o, float).reshape(-1, 3) for o in surface.openings)]
    for number, loop in enumerate(loops):
        off = np.abs((loop - origin) @ n)
        if off.max() > FLAT:
            x, y, z = loop[off.argmax()]
            what = f"opening {number} of it" if number else "it"
            where = f"{off.max() * 1e3:.3g} mm off its plane, at ({x:.4g}, {y:.4g}, {z:.4g}) m"
            remedy = "move the corner, or make several surfaces of it"
            return wrong("not-flat", f"is not flat: {what} has a corner {where}", remedy)
    flat = [(loop - origin) @ axes[:2].T for loop in loops]
    outer = shapely.Polygon(flat[0])
    if not outer.is_valid:
        return wrong("bad-outline", f"crosses itself: {shapely.is_valid_reason(outer).lower()} (in its plane)",
                     "name its corners in order around it")  # fmt: skip
    for number, loop in enumerate(flat[1:], start=1):
        hole = shapely.Polygon(loop)
        if not hole.is_valid or hole.area < SMALLEST:
            return wrong("bad-outline", f"has an opening {number} that crosses itself or has no area",
                         "name its corners in order around it")  # fmt: skip
        if not outer.buffer(FLAT).covers(hole):
            return wrong("bad-outline", f"does not hold its opening {number}", "openings lie inside, apart")
        outer = outer.difference(_to_the_edge(loop, outer))
    if not isinstance(outer, shapely.Polygon) or outer.area < SMALLEST:
        return wrong("bad-outline", "is cut apart by its openings", "make several surfaces of it")
    return Outline(surface, origin, axes, shapely.normalize(outer)), []


def _to_the_edge(loop: Floats, outer: shapely.Polygon) -> shapely.Polygon:
    """An opening whose corners within a millimetre of the outline are drawn onto it and a little beyond, so that no
    sliver is left between."""
    edge = outer.exterior
    points = shapely.points(loop)
    near = shapely.distance(points, edge) <= ON_LINE_TOLERANCE
    out = loop.copy()
    for k in np.flatnonzero(near).tolist():
        on = np.array(edge.interpolate(edge.project(points[k])).coords[0])
        outward = on - np.array(outer.representative_point().coords[0])
        out[k] = on + 1e-9 * outward / max(float(np.linalg.norm(outward)), 1e-12)
    drawn = shapely.Polygon(out)
    return drawn if drawn.is_valid else shapely.Polygon(loop)


def bearings_of(outline: Outline, project: Project) -> Bearings:
    """The members that may carry the surface: of those named, or of all but bars, the ones in its plane."""
    surface = outline.surface
    chosen = np.array([m.bar for m in project.members], bool) == 0
    if surface.bearing is not None:
        chosen = np.zeros(len(project.members), bool)
        chosen[list(surface.bearing)] = True
    near = np.abs(outline.height(project.xyz)) <= ON_LINE_TOLERANCE
    found = np.flatnonzero(chosen & near[project.ends].all(axis=1))
    ends = outline.flat(project.xyz[project.ends[found].ravel()]).reshape(-1, 2, 2)
    lines = shapely.linestrings(ends)
    shape = outline.polygon.buffer(ON_LINE_TOLERANCE)
    shapely.prepare(shape)
    inside = shapely.covers(shape, lines)
    # A member that only touches the outline with an end has no length in it.
    partly = np.flatnonzero(shapely.intersects(shape, lines) & ~inside)
    inside[partly] = shapely.length(shapely.intersection(lines[partly], shape)) > 4 * ON_LINE_TOLERANCE
    found, ends = found[inside], ends[inside]
    s = np.column_stack([np.zeros(len(found)), project.lengths[found]])
    return Bearings(ends, found, s)


def just_off(outline: Outline, project: Project) -> list[tuple[int, float]]:
    """Members that would carry the surface if they lay in its plane: the member, and how far it is off [m], up to a
    tenth of its depth or 50 mm."""
    surface = outline.surface
    off = np.abs(outline.height(project.xyz))[project.ends].max(axis=1)
    near = set(np.flatnonzero((off > ON_LINE_TOLERANCE) & (off <= DEEPEST / 10)).tolist())
    out = []
    for m in sorted(near if surface.bearing is None else near & set(surface.bearing)):
        member, away = project.members[m], float(off[m])
        depth = float(np.ptp(member.section.outline[0][:, 1])) if member.section.outline else 0.0
        if away > max(MOST_OFF, depth / 10) or (member.bar and surface.bearing is None):
            continue
        line = shapely.LineString(outline.flat(project.xyz[project.ends[m]]))
        if shapely.length(shapely.intersection(line, outline.polygon.buffer(ON_LINE_TOLERANCE))) > 0.1 * line.length:
            out.append((m, away))
    return out


def load_on(part: shapely.Geometry, field: Floats) -> float:
    """The whole of a linear pressure on a shape [N]: its area times the pressure at its centroid."""
    area = float(shapely.area(part))
    return area * float(field[0] + shapely.get_coordinates(shapely.centroid(part))[0] @ field[1:]) if area else 0.0


AT, WEIGHT = (0.5 * (v + shift) for v, shift in zip(np.polynomial.legendre.leggauss(8), (1.0, 0.0), strict=True))
"""Gauss's points from 0 to 1: exact up to the power of 15."""


def fan_of(part: shapely.Geometry, middle: Floats) -> tuple[Floats, Floats]:
    """Points (n, 2) and weights (n,) [m2] for integrals over a shape: over the triangles of its edges with a point,
    those that turn clockwise against the others."""
    rings = shapely.get_rings(shapely.get_parts(shapely.orient_polygons(part)))
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    a, b = points[:-1][same] - middle, points[1:][same] - middle
    s, t = (v.ravel() for v in np.meshgrid(AT, AT))
    turning = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    weight = np.outer(turning, np.outer(WEIGHT, WEIGHT).ravel() * s)
    at = middle + s[:, None] * (a[:, None] * (1 - t)[:, None] + b[:, None] * t[:, None])
    return np.asarray(at.reshape(-1, 2)), np.asarray(weight.ravel())


def moments_on(part: shapely.Geometry, field: Floats) -> Floats:
    """The first moments (2,) [N m] of a linear pressure on a shape: force times its place in u v."""
    if shapely.area(part) == 0:
        return np.zeros(2)
    at, weight = fan_of(part, shapely.get_coordinates(shapely.centroid(part))[0])
    return np.asarray((weight * (field[0] + at @ field[1:])) @ at)
