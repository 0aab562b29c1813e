"""A building found from the surfaces that face the wind: walls, roofs, heights, and how it stands to a wind.

s: level, along the wind      t: level, to the left of it      z: above the ground

        windward                     eave, ridge: lowest and highest point of a roof
  t ^  +--------+                    h: mean roof height, from the mean of both where a roof rises
    |  |        |  ---> wind             by more than 10 degrees, else from the eave
    |  +--------+
    +------> s   L along the wind, B across
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.findings import Finding, listed
from ....model.near import near_pairs
from ....model.project import Project
from ....model.wind import WindRule
from ....model.words import WindCode
from ...surfaces.sources.surface_loads import Surfaces
from .roofs import LOW, Face, Roof, face_of, joined_roofs, plan_of

Floats = NDArray[np.float64]
SAME = 1e-3


@dataclass(frozen=True)
class Building:
    """Exterior faces, walls and roofs; `ground` [m] in the model; `h`: mean roof height, `top`: highest point [m]
    above the ground; `footprint`: what the walls enclose in plan, None where they enclose nothing."""

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
    findings += [
        _finding(rule, f"the openings of {f.name} are larger than {f.name} itself", "state their area by surface")
        for f in faces if rule.openings.get(f.surface, 0.0) > f.area
    ]  # fmt: skip
    roofs = tuple(joined_roofs(flat, rule))
    footprint = _footprint(walls)
    findings += _overlapping(roofs, rule)
    top = max(f.top for f in faces)
    if rule.stated.get("h", 0.0) > top + SAME:
        message = f"h = {rule.stated['h']:.4g} m is above the highest point of `exterior`, {top:.4g} m"
        findings.append(_finding(rule, message, "h counts from the ground"))
    if rule.code == WindCode.EN and "h" in rule.stated:
        # There h is the height, not the mean one.
        top = rule.stated["h"]
        roofs = tuple(replace(r, ridge=top) for r in roofs)
    found = max((_mean_height(r, rule) for r in roofs), default=max((w.top for w in walls), default=top))
    h = rule.stated.get("h", found)
    findings += _doubtful(rule, walls, footprint, h, found if rule.code != WindCode.EN else max(f.top for f in faces))
    return Building(walls, roofs, ground, h, top, footprint), findings


def _mean_height(roof: Roof, rule: WindRule) -> float:
    """The mean roof height [m], also where another is stated."""
    ridge = max(f.top for f in roof.faces)
    return (roof.eave + ridge) / 2 if roof.slope > LOW else roof.eave


OFF, FILLS = 0.1, 0.85
"""A stated height so far from the found one, and a plan that fills less of the rectangle around it, are told."""


def _doubtful(
    rule: WindRule, walls: Sequence[Face], footprint: shapely.Geometry | None, h: float, found: float
) -> list[Finding]:
    """What is taken as a building and may be none, or more than one: walls that enclose nothing, or several plans, or
    one far from a rectangle; a stated height that is another."""
    plans = [] if footprint is None else list(shapely.get_parts(footprint))
    said: list[tuple[str, str]] = []
    if len(walls) > 2 and not plans:
        ends = ", ".join(f"({x:.4g}, {y:.4g}) m" for x, y in _open_ends(walls)[:3])
        said.append((f"the walls of `exterior` enclose nothing: at {ends} they end without another",
                     "draw the missing walls, doors too; without them nothing is an overhang"))  # fmt: skip
    if len(plans) > 1:
        said.append((f"the walls of `exterior` enclose {len(plans)} plans, taken as one building of their whole extent",
                     "calculate each by itself, with the others out of `exterior`"))  # fmt: skip
    share = plans[0].area / shapely.area(shapely.minimum_rotated_rectangle(plans[0])) if len(plans) == 1 else 1.0
    if share < FILLS:
        said.append((f"the plan fills {share:.0%} of the rectangle around it: B, L and zones are of that rectangle",
                     "look at `empuje draw pressures`; split it where the code has rules for it"))  # fmt: skip
    if "h" in rule.stated and abs(h - found) > OFF * found:
        said.append((f"h = {h:.4g} m is stated, and the building's is {found:.4g} m", "take it out, or correct it"))
    return [Finding("warning", "wind-plan", message, remedy, rule.place) for message, remedy in said]


def _finding(rule: WindRule, message: str, remedy: str, code: str = "wind-shape") -> Finding:
    return Finding("error", code, message, remedy, rule.place)


def _inwards(walls: Sequence[Face], flat: Sequence[Face], rule: WindRule) -> list[Finding]:
    """Faces whose normal points into the building: roofs that look down, and walls from which one looks at an odd
    number of others outwards, or, where no others are in the way, towards their middle."""
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
        meets = np.abs(speed) > 1e-9
        reach = gap / np.where(meets, speed, 1.0)
        hit = meets & (reach > SAME)
        at = wall.outline.flat(start + np.where(hit, reach, 0.0)[:, None] * way)
        out += hit & shapely.contains_xy(wall.outline.polygon.buffer(0), at[:, 0], at[:, 1])
    return out


GAP = 0.02
"""Ends of walls nearer to each other than this [m] in plan meet."""
RASTER = 1e-7


def _ends(walls: Sequence[Face]) -> Floats:
    """Both ends of every wall in plan (2 walls, 2)."""
    ends = []
    for wall in walls:
        level = wall.corners[:, :2]
        along = level @ np.array([-wall.normal[1], wall.normal[0]])
        ends += [level[along.argmin()], level[along.argmax()]]
    return np.array(ends).reshape(-1, 2)


def _open_ends(walls: Sequence[Face]) -> list[list[float]]:
    """Ends of walls that meet no other wall in plan."""
    points = _ends(walls)
    lines = shapely.linestrings(points.reshape(-1, 2, 2))
    near = shapely.distance(shapely.points(points)[:, None], lines) <= GAP
    return [[float(v) for v in p] for p in points[near.sum(axis=1) < 2]]


def _footprint(walls: Sequence[Face]) -> shapely.Geometry | None:
    """What the walls enclose in plan."""
    points = _ends(walls)
    if not len(points):
        return None
    flat = np.column_stack([points, np.zeros(len(points))])
    meet = np.arange(len(points))
    i, j = near_pairs(flat, np.full(len(points), GAP), flat)
    np.minimum.at(meet, i, j)
    lines = shapely.linestrings(points[meet].reshape(-1, 2, 2))
    # Ends that meet are the same points now; a raster is for walls that end against the middle of others.
    for raster in (0.0, RASTER):
        noded = shapely.union_all(lines, grid_size=raster or None)
        whole = shapely.union_all(shapely.get_parts(shapely.polygonize([noded])))
        if not whole.is_empty:
            return whole
    return None


def _overlapping(roofs: Sequence[Roof], rule: WindRule) -> list[Finding]:
    """Roofs that cover one another in plan."""
    plans = [shapely.union_all([plan_of(f) for f in r.faces]) for r in roofs]
    out = []
    for i, a in enumerate(plans):
        for j in range(i + 1, len(plans)):
            both = shapely.area(shapely.intersection(a, plans[j]))
            if both > 0.01 * min(a.area, plans[j].area):
                one, other = roofs[i].names[0], roofs[j].names[0]
                message = f"the roofs with {one} and {other} cover the same {both:.3g} m2 in plan"
                out.append(_finding(rule, message, "leave the lower one out of `exterior`: it does not face the wind"))
    return out
