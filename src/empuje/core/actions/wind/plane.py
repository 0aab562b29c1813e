"""Wind on a plane frame: its lines are drawn out across the plane to the building they are a slice of.

     end at y = length
    /            /|          exterior members become walls and roofs of the whole length, ends are added;
   /____________/ |          zones are those of the building, and of each the frame's members receive what lies
  |    ____     | /          within `width` about its `place`: line loads as wide as that strip
  |___|____|____|/
y = 0  place, width
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding
from ...model.loads import PlainLoads
from ...model.project import Project
from ...model.surfaces import TWO_WAY, Surface
from ...model.wind import Slice, WindRule
from ...model.words import Carry
from ...surfaces.plane import plane_of
from ..faces import WALL_FROM, Face, face_of, joined
from ..surfaces.distribution.collector import Collector
from .cases.spread import ONE, Spread
from .shape.building import Building, building_of
from .shape.plans import Plan
from .shape.zones import Zone, strip_of

Floats = NDArray[np.float64]
ENDS = (-1, -2)
"""What the ends of the building are called, as surfaces: they push nothing in the plane."""
SMALL = 1e-9


def faces_in_plane(project: Project, members: Sequence[int], long: float, ground: float) -> list[Face]:
    """Members of a plane frame as faces, drawn out to the building's length [m], their normals outwards."""
    middle = float(project.xyz[project.ends[list(members)], 0].mean()) if len(members) else 0.0
    out = []
    for m in members:
        (xa, _, za), (xb, _, zb) = project.xyz[project.ends[m]].tolist()
        steep = np.degrees(np.arctan2(abs(zb - za), abs(xb - xa))) > WALL_FROM
        # About the ring a, b, b', a' the normal is (b - a) x y: (-(zb - za), 0, xb - xa).
        outwards = -(zb - za) * ((xa + xb) / 2 - middle) > 0 if steep else xb > xa
        ring = [(xa, 0.0, za), (xa, long, za), (xb, long, zb), (xb, 0.0, zb)]
        corners = tuple(ring[::-1] if outwards else ring)
        face = _face(m, project.members[m].name, corners, project, ground)
        if face is not None:
            out.append(face)
    return out


def _face(
    number: int, name: str, corners: tuple[tuple[float, float, float], ...], project: Project, ground: float
) -> Face | None:
    surface = Surface(name, corners, (), TWO_WAY, None, Carry.MEMBERS, project.members[max(number, 0)].place)
    outline, _ = plane_of(surface)
    return None if outline is None else face_of(number, outline, ground)


def building_in_plane(
    project: Project, rule: WindRule, cut: Slice, ground: float
) -> tuple[list[Building], list[Finding]]:
    """The building that a frame's exterior members are a slice of."""
    faces = faces_in_plane(project, rule.exterior, cut.length, ground)
    if not faces:
        return [], []
    walls, flat = [f for f in faces if f.is_wall], [f for f in faces if not f.is_wall]
    reach = np.concatenate([f.corners for f in walls or flat])
    x0, x1 = float(reach[:, 0].min()), float(reach[:, 0].max())
    points = np.concatenate([f.corners for f in faces])
    kept = points[(points[:, 0] >= x0 - SMALL) & (points[:, 0] <= x1 + SMALL)]
    profile = [(x0, 0.0), (x1, 0.0), *kept[:, [0, 2]].tolist()]
    outline = shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(profile)))[:-1]
    outline = outline if shapely.LinearRing(outline).is_ccw else outline[::-1]
    ends = []
    for number, y, ring in ((ENDS[0], 0.0, outline), (ENDS[1], cut.length, outline[::-1])):
        corners = tuple((float(x), y, float(z) + ground) for x, z in ring)
        face = _face(number, f"end at y = {y:.4g} m", corners, project, ground)
        ends += [face] if face is not None else []
    cell = shapely.box(x0, 0.0, x1, cut.length)
    plan = Plan((*walls, *ends), tuple(tuple(r) for r in joined(flat)), (cell,), (), ())
    building, findings = building_of("building", plan, rule, ground)
    return [building], findings


class StripSpread(Spread):
    """What members of a plane frame receive of zones of the building: what of them lies in its strip."""

    def __init__(self, project: Project, faces: Sequence[Face], cut: Slice) -> None:
        super().__init__({})
        self.project, self.cut = project, cut
        self.faces = {f.surface: f for f in faces}

    def of(self, surface: int, part: shapely.Geometry, whole: bool, pressure: Floats = ONE) -> int:
        """The number of a part under a pressure given as field . (1, u, v)."""
        key = (surface, part.wkb, pressure.tobytes())
        if key not in self.known:
            self.known[key] = len(self.received)
            self.received.append(self._received(surface, part, pressure))
        return self.known[key]

    def _received(self, surface: int, part: shapely.Geometry, pressure: Floats) -> Collector:
        out = Collector()
        face = self.faces.get(surface)
        if face is None or surface in ENDS:
            return out
        there = shapely.intersection(part, strip_in(face, self.cut))
        start, x = self.project.xyz[self.project.ends[surface, 0]], self.project.axes[surface, 0]
        along = np.array([float((start - face.outline.origin) @ x), *(face.outline.axes[:2] @ x)])
        for shape in shapely.get_parts(there):
            if not isinstance(shape, shapely.Polygon) or shape.area < SMALL:
                continue
            flat = shapely.get_coordinates(shape)
            s = np.unique(np.round(flat @ along[1:] - along[0], 9))
            for a, b in pairwise(s.tolist()):
                if b - a > SMALL:
                    q = [_across(shape, along, at, pressure) for at in (a + 1e-6 * (b - a), b - 1e-6 * (b - a))]
                    one = np.array([surface], np.intp)
                    out.line(one, np.array([[a, b]]), np.array([q]), self.project.lengths[one], one * 0, one * 0)
        return out


def _across(shape: shapely.Polygon, along: Floats, s: float, pressure: Floats) -> float:
    """The load per length [N/m] at a place s [m] along the member: pressure over the width of the shape there."""
    way = along[1:] / np.linalg.norm(along[1:])
    middle = (s + along[0]) * way
    far = float(np.abs(shapely.get_coordinates(shape)).max()) * 2 + 1.0
    left = np.array([-way[1], way[0]])
    cut = shapely.intersection(shape, shapely.LineString([middle - far * left, middle + far * left]))
    if cut.is_empty:
        return 0.0
    u, v = shapely.get_coordinates(shapely.centroid(cut))[0]
    return float(cut.length * (pressure[0] + u * pressure[1] + v * pressure[2]))


def within_strip(zone: Zone, cut: Slice) -> Zone:
    """A zone of which only what lies in the frame's strip counts; nothing of the ends."""
    there = shapely.Polygon()
    if zone.surface not in ENDS:
        there = shapely.intersection(zone.part, strip_in(zone.face, cut))
    return replace(zone, counted=there, area=float(shapely.area(there)))


def in_plane(loads: PlainLoads) -> PlainLoads:
    """The loads less what acts across the plane, which other parts of the building carry: friction along it."""
    flat = np.array([1.0, 0.0, 1.0])
    lines, points = loads.lines, loads.points
    return replace(loads, lines=replace(lines, q0=lines.q0 * flat, q1=lines.q1 * flat),
                   points=replace(points, f=points.f * np.array([1.0, 0.0, 1.0, 0.0, 1.0, 0.0])))  # fmt: skip


def strip_in(face: Face, cut: Slice) -> shapely.Geometry:
    """The strip that a frame stands for, on a face."""
    outline = face.outline
    points = shapely.get_coordinates(outline.polygon)
    low, high = cut.place - cut.width / 2, cut.place + cut.width / 2
    return strip_of(float(outline.origin[1]), np.asarray(outline.axes[:2, 1]), low, high, points)
