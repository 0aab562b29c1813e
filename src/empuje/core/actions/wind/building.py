"""A building found from the surfaces that face the wind: walls, roofs, heights, and how it stands to a wind.

s: level, along the wind      t: level, to the left of it      z: above the ground

        windward                     eave, ridge: lowest and highest point of a roof
  t ^  +--------+                    h: mean roof height, from the mean of both where a roof rises
    |  |        |  ---> wind             by more than 10 degrees, else from the eave
    |  +--------+
    +------> s   L along the wind, B across
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding, listed
from ...model.project import Project
from ...model.wind import Heading, WindRule
from ...model.words import Side
from ..surfaces.geometry.plane import Outline
from ..surfaces.sources.surface_loads import Surfaces

Floats = NDArray[np.float64]
WALL_FROM = 80.0
"""A face steeper than this [deg] is a wall (ASCE 7-16 figure 27.3-1, note)."""
LOW = 10.0
"""Up to this slope [deg] the mean roof height is the eave's (ASCE 7, 26.2)."""
SAME = 1e-3
TOUCH = 5e-3
"""Faces whose edges run along each other within this [m] are one roof."""


@dataclass(frozen=True)
class Face:
    """An exterior surface: its index, its outline, corners (n, 3) [m] with z above the ground, slope [deg]."""

    surface: int
    outline: Outline
    corners: Floats
    slope: float
    area: float

    @property
    def normal(self) -> Floats:
        """Outward unit vector (3,)."""
        return self.outline.normal

    @property
    def is_wall(self) -> bool:
        """Whether it stands upright, or nearly."""
        return self.slope > WALL_FROM

    @property
    def name(self) -> str:
        """Of the surface."""
        return self.outline.surface.name

    @property
    def low(self) -> float:
        """Its lowest point above the ground [m]."""
        return float(self.corners[:, 2].min())

    @property
    def top(self) -> float:
        """Its highest point above the ground [m]."""
        return float(self.corners[:, 2].max())


@dataclass(frozen=True)
class Roof:
    """Faces that join one another: eave, ridge and mean height `h` above the ground [m], steepest slope [deg], form."""

    faces: tuple[Face, ...]
    eave: float
    ridge: float
    h: float
    slope: float
    form: str

    @property
    def names(self) -> list[str]:
        """Of its surfaces."""
        return [f.name for f in self.faces]


@dataclass(frozen=True)
class Building:
    """Exterior faces, walls and roofs; `ground` [m] in the model; `h`: mean roof height, `top`: highest point [m] above the
    ground; `footprint`: what the walls enclose in plan, None where they enclose nothing."""

    walls: tuple[Face, ...]
    roofs: tuple[Roof, ...]
    ground: float
    h: float
    top: float
    footprint: shapely.Geometry | None

    @cached_property
    def corners(self) -> Floats:
        """All corners of walls, or of roofs where there are no walls (n, 3)."""
        faces = self.walls or tuple(f for r in self.roofs for f in r.faces)
        return np.concatenate([f.corners for f in faces])

    @property
    def faces(self) -> list[Face]:
        """Walls and roofs."""
        return [*self.walls, *(f for r in self.roofs for f in r.faces)]


def face_of(surface: int, outline: Outline, ground: float) -> Face:
    """A surface as a face, with its heights above the ground."""
    corners = outline.solid(shapely.get_coordinates(outline.polygon)) - [0.0, 0.0, ground]
    slope = float(np.degrees(np.arccos(np.clip(abs(outline.normal[2]), 0.0, 1.0))))
    return Face(surface, outline, corners, slope, float(outline.polygon.area))


def ground_of(project: Project, surfaces: Surfaces, rule: WindRule) -> float:
    """The level of the ground [m]: stated, or the lowest point of supports and of what stands in the wind."""
    if rule.ground is not None:
        return rule.ground
    found = [project.xyz[s.node, 2] for s in project.supports]
    for i in (*rule.exterior, *rule.free_roofs, *rule.parapets):
        if i in surfaces:
            outline = surfaces[i].outline
            found.append(outline.solid(shapely.get_coordinates(outline.polygon))[:, 2].min())
    return float(min(found, default=project.xyz[:, 2].min()))


def find_building(
    project: Project, surfaces: Surfaces, rule: WindRule, ground: float
) -> tuple[Building | None, list[Finding]]:
    """The building that the exterior surfaces form, and what is wrong with it."""
    faces = [face_of(i, surfaces[i].outline, ground) for i in rule.exterior if i in surfaces]
    if not faces:
        return None, []
    walls = tuple(f for f in faces if f.is_wall)
    flat = [f for f in faces if not f.is_wall]
    findings = _inwards(walls, flat, rule)
    findings += [
        _finding(rule, f"surface {f.name} reaches {-f.low:.3g} m below the ground of the wind",
                 "state `ground`, or draw it from the ground up") for f in faces if f.low < -SAME
    ]  # fmt: skip
    roofs = tuple(joined_roofs(flat, rule))
    footprint = _footprint(walls)
    findings += _overlapping(roofs, rule)
    top = max(f.top for f in faces)
    h = rule.stated.get("h", max((r.h for r in roofs), default=max((w.top for w in walls), default=top)))
    return Building(walls, roofs, ground, h, top, footprint), findings


def _finding(rule: WindRule, message: str, remedy: str, code: str = "wind-shape") -> Finding:
    return Finding("error", code, message, remedy, rule.place)


def _inwards(walls: Sequence[Face], flat: Sequence[Face], rule: WindRule) -> list[Finding]:
    """Faces whose normal points into the building: roofs that look down, and walls from which one looks at an odd number
    of others outwards, or, where no others are in the way, towards their middle."""
    wrong = [f.name for f in flat if f.normal[2] < 0]
    if walls:
        middle = np.concatenate([f.corners for f in walls])[:, :2].mean(axis=0)
        start = np.array([_inner_point(f) for f in walls])
        normal = np.array([f.normal for f in walls])
        level = normal * [1.0, 1.0, 0.0]
        level /= np.linalg.norm(level, axis=1)[:, None]
        ahead = _passed(start, level, walls)
        behind = _passed(start, -level, walls)
        towards = np.einsum("ij,ij->i", middle - start[:, :2], level[:, :2]) > SAME
        odd = np.where((ahead == 0) & (behind == 0), towards, (ahead % 2 == 1) & (behind % 2 == 0))
        wrong += [f.name for f, is_odd in zip(walls, odd, strict=True) if is_odd]
    if not wrong:
        return []
    many = len(wrong) > 1
    message = f"the normal{'s' if many else ''} of {listed(wrong)} point{'' if many else 's'} into the building"
    return [_finding(rule, message, "name their corners counter-clockwise as seen from outside", "wind-inwards")]


def _inner_point(face: Face) -> Floats:
    """A point of a face (3,)."""
    inside = shapely.get_coordinates(shapely.point_on_surface(face.outline.polygon))
    return np.asarray(face.outline.solid(inside)[0])


def _passed(start: Floats, way: Floats, walls: Sequence[Face]) -> NDArray[np.intp]:
    """How many walls each level ray passes through (rays,)."""
    out = np.zeros(len(start), np.intp)
    for wall in walls:
        speed = way @ wall.normal
        gap = -wall.outline.height(start)
        with np.errstate(divide="ignore", invalid="ignore"):
            reach = gap / speed
        hit = np.isfinite(reach) & (reach > SAME) & (np.abs(speed) > 1e-9)
        at = wall.outline.flat(start + np.where(hit, reach, 0.0)[:, None] * way)
        out += hit & shapely.contains_xy(wall.outline.polygon.buffer(0), at[:, 0], at[:, 1])
    return out


def joined_roofs(flat: Sequence[Face], rule: WindRule) -> list[Roof]:
    """The roofs that faces form where they join one another."""
    return [_roof(group, rule) for group in _joined(flat)]


def _joined(flat: Sequence[Face]) -> list[list[Face]]:
    """Roofs: faces whose edges run along one another."""
    group = list(range(len(flat)))

    def root(i: int) -> int:
        while group[i] != i:
            group[i] = group[group[i]]
            i = group[i]
        return i

    plans = np.array([_plan(f) for f in flat], object)
    pairs = shapely.STRtree(plans).query(plans, predicate="dwithin", distance=TOUCH) if len(flat) else ([], [])
    for i, j in zip(*pairs, strict=True):
        if i < j:
            shared = shapely.intersection(shapely.boundary(plans[i]), shapely.buffer(shapely.boundary(plans[j]), TOUCH))
            if shapely.length(shared) > 4 * TOUCH:
                at = shapely.get_coordinates(shapely.line_interpolate_point(_longest(shared), 0.5, normalized=True))[0]
                if abs(_height(flat[i], at) - _height(flat[j], at)) <= 2 * TOUCH:
                    group[root(int(i))] = root(int(j))
    groups: dict[int, list[Face]] = {}
    for k, face in enumerate(flat):
        groups.setdefault(root(k), []).append(face)
    return list(groups.values())


def _plan(face: Face) -> shapely.Geometry:
    """A face as it is seen from above."""
    return shapely.Polygon(face.outline.solid(shapely.get_coordinates(face.outline.polygon.exterior))[:, :2])


def _longest(lines: shapely.Geometry) -> shapely.Geometry:
    return max(shapely.get_parts(lines), key=lambda line: float(line.length))


def _height(face: Face, at: Floats) -> float:
    """Of a face's plane over a point in plan [m]."""
    n, corner = face.normal, face.corners[0]
    return float(corner[2] - (at - corner[:2]) @ n[:2] / n[2])


def _roof(faces: Sequence[Face], rule: WindRule) -> Roof:
    eave, ridge = min(f.low for f in faces), max(f.top for f in faces)
    slope = rule.stated.get("theta", max(f.slope for f in faces))
    h = rule.stated.get("h", (eave + ridge) / 2 if slope > LOW else eave)
    return Roof(tuple(faces), eave, ridge, h, slope, form_of(faces))


FLAT = 0.5
"""Below this slope [deg] a roof is level."""


def form_of(faces: Sequence[Face]) -> str:
    """flat, monoslope, gable, trough, hip or folded, from the ways in which the faces fall."""
    ways: list[Floats] = []
    for face in faces:
        if face.slope <= FLAT:
            continue
        level = face.normal[:2] / np.linalg.norm(face.normal[:2])
        if not any(level @ w > 0.999 for w in ways):
            ways.append(level)
    if not ways:
        return "flat"
    if len(ways) == 1:
        return "monoslope"
    if len(ways) == 2 and ways[0] @ ways[1] < -0.999:
        middles = np.array([np.mean(f.corners[:, :2], axis=0) for f in faces])
        falls = np.array([f.normal[:2] for f in faces])
        outwards = np.einsum("ij,ij->i", middles - middles.mean(axis=0), falls).sum()
        return "gable" if outwards > 0 else "trough"
    return "hip" if len(ways) == 4 else "folded"


GAP = 0.02
"""Ends of walls nearer to each other than this [m] in plan meet."""
RASTER = 1e-7


def _footprint(walls: Sequence[Face]) -> shapely.Geometry | None:
    """What the walls enclose in plan."""
    ends = []
    for wall in walls:
        level = wall.corners[:, :2]
        along = level @ np.array([-wall.normal[1], wall.normal[0]])
        ends += [level[along.argmin()], level[along.argmax()]]
    if not ends:
        return None
    points = np.array(ends)
    apart = np.linalg.norm(points[:, None] - points[None], axis=2)
    points = points[(apart < GAP).argmax(axis=1)]
    lines = shapely.linestrings(points.reshape(-1, 2, 2))
    # Ends that meet are the same points now; a raster is for walls that end against the middle of others.
    for raster in (0.0, RASTER):
        noded = shapely.union_all(lines, grid_size=raster or None)
        whole = shapely.union_all(shapely.get_parts(shapely.polygonize([noded])))
        if not whole.is_empty:
            return whole
    return None


def _overlapping(roofs: Sequence[Roof], rule: WindRule) -> list[Finding]:
    """Roofs that cover one another in plan."""
    plans = [shapely.union_all([_plan(f) for f in r.faces]) for r in roofs]
    out = []
    for i, a in enumerate(plans):
        for j in range(i + 1, len(plans)):
            both = shapely.area(shapely.intersection(a, plans[j]))
            if both > 0.01 * min(a.area, plans[j].area):
                one, other = roofs[i].names[0], roofs[j].names[0]
                message = f"the roofs with {one} and {other} cover the same {both:.3g} m2 in plan"
                out.append(_finding(rule, message, "leave the lower one out of `exterior`: it does not face the wind"))
    return out


@dataclass(frozen=True)
class Seen:
    """A building as a wind meets it: unit vectors along it and to its left (2,), extents [m] and the sides of its faces."""

    building: Building
    along: Floats
    left: Floats
    s: tuple[float, float]
    t: tuple[float, float]
    B: float
    L: float
    sides: Mapping[int, Side]

    def places(self, points: Floats) -> Floats:
        """s, t, z (n, 3) of points (n, 3) whose z counts from the ground."""
        return np.column_stack([points[:, :2] @ self.along, points[:, :2] @ self.left, points[:, 2]])

    def falls_to(self, face: Face) -> Side:
        """Whether a roof's face falls to windward, to leeward or to the side."""
        if face.slope <= FLAT:
            return Side.SIDE
        return facing(face.normal, self.along)


HALF = np.cos(np.radians(45.0)) - 1e-9


def facing(normal: Floats, along: Floats) -> Side:
    """The side a face is on: within 45 degrees of the wind's way it is windward or leeward."""
    level = normal[:2] / max(float(np.linalg.norm(normal[:2])), 1e-12)
    share = float(level @ along)
    return Side.WINDWARD if share < -HALF else Side.LEEWARD if share > HALF else Side.SIDE


def seen(building: Building, heading: Heading, rule: WindRule) -> tuple[Seen, list[Finding]]:
    """The building as a wind meets it."""
    along = np.array(heading.vector)
    left = np.array([-along[1], along[0]])
    s, t = building.corners[:, :2] @ along, building.corners[:, :2] @ left
    sides = {f.surface: heading.sides.get(f.surface, facing(f.normal, along)) for f in building.walls}
    found = Seen(
        building, along, left, (float(s.min()), float(s.max())), (float(t.min()), float(t.max())),
        heading.B or float(np.ptp(t)), heading.L or float(np.ptp(s)), sides,
    )  # fmt: skip
    findings = []
    if Side.WINDWARD not in sides.values():
        message = f"no wall of `exterior` faces the wind {heading.name}"
        remedy = "add the walls to `exterior`, or name a roof without walls in `free_roofs`"
        findings.append(Finding("error", "wind-no-windward", message, remedy, heading.place))
    askew = [
        f.name for f in building.walls
        if f.surface not in heading.sides and _off_square(f.normal, along) > 5.0 and f.area > 0.05 * building.walls[0].area
    ]  # fmt: skip
    if askew:
        message = (
            f"{listed(askew)} stand{'s' if len(askew) == 1 else ''} neither along nor across the wind {heading.name}: "
        )
        message += "the codes' coefficients are for winds square to the walls"
        findings.append(
            Finding("warning", "wind-limits", message, f"turn the direction, now {heading.text}", heading.place)
        )
    return found, findings


def _off_square(normal: Floats, along: Floats) -> float:
    """How far a face is from standing along or across the wind [deg]."""
    angle = np.degrees(np.arctan2(along[0] * normal[1] - along[1] * normal[0], along @ normal[:2]))
    return float(abs((angle + 45) % 90 - 45))
