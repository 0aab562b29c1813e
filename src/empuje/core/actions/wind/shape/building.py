"""Buildings found from the surfaces that face the wind: walls, roofs, heights.

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
from ....model.project import Project
from ....model.wind import WindRule
from ....model.words import WindCode
from ...faces import Face, face_of, height_over, plan_of
from ...surfaces.sources.surface_loads import Surfaces
from .plans import ASIDE, Plan, open_ends, plans_of, wall_ends
from .roofs import LOW, Roof, roof_of

Floats = NDArray[np.float64]
SAME = 1e-3


@dataclass(frozen=True)
class Building:
    """Exterior faces of one building, walls and roofs; `rule`: the wind with what is stated of this one; `ground` [m]
    in the model; `h`: mean roof height, `top`: highest point [m] above the ground; `plan`: what its walls enclose."""

    name: str
    rule: WindRule
    walls: tuple[Face, ...]
    roofs: tuple[Roof, ...]
    ground: float
    h: float
    top: float
    plan: Plan

    @cached_property
    def footprint(self) -> shapely.Geometry | None:
        """What is inside in plan, None where the walls enclose nothing."""
        return self.plan.footprint

    @cached_property
    def corners(self) -> Floats:
        """All corners of walls, or of roofs where there are no walls (n, 3)."""
        faces = self.walls or tuple(f for r in self.roofs for f in r.faces)
        return np.concatenate([f.corners for f in faces])

    @property
    def is_unclosed(self) -> bool:
        """Whether its walls, more than a pair, enclose nothing: one may be missing."""
        return len(self.walls) > 2 and not self.plan.cells

    @property
    def called(self) -> str:
        """Its name within a sentence."""
        return "the building" if self.name == "building" else self.name

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


def find_buildings(
    project: Project, surfaces: Surfaces, rule: WindRule, ground: float
) -> tuple[list[Building], list[Finding]]:
    """The buildings that the exterior surfaces form, and what is wrong with them."""
    faces = [face_of(i, surfaces[i].outline, ground) for i in rule.exterior if i in surfaces]
    findings = [
        _finding(rule, f"surface {f.name} reaches {-f.low:.3g} m below the ground of the wind",
                 "state `ground`, or draw it from the ground up") for f in faces if f.low < -SAME
    ]  # fmt: skip
    findings += [
        _finding(rule, f"the openings of {f.name} are larger than {f.name} itself", "state their area by surface")
        for f in faces if rule.openings.get(f.surface, 0.0) > f.area
    ]  # fmt: skip
    # What is named for a side of a direction is meant to stand in the wind.
    meant = {i for h in rule.headings for i in h.sides}
    plans = plans_of(faces, [b.exterior for b in rule.buildings], meant)
    stated = [b for b in rule.buildings if any(f.surface in b.exterior for f in faces)]
    out: list[Building] = []
    for k, plan in enumerate(plans):
        name = stated[k].name if k < len(stated) else f"building {k + 1}" if len(plans) > 1 else "building"
        own = rule.of_building(stated[k] if k < len(stated) else None, {f.surface for f in plan.faces})
        building, found = building_of(name, plan, own, ground)
        out.append(building)
        findings += found
    findings += _overlapping([r for b in out for r in b.roofs], rule)
    return out, findings + _together(out, rule)


def building_of(name: str, plan: Plan, rule: WindRule, ground: float) -> tuple[Building, list[Finding]]:
    """A building of a plan, and what is wrong with it."""
    walls, faces = plan.walls, plan.faces
    findings = _inwards(walls, [f for r in plan.roofs for f in r], rule)
    roofs = tuple(roof_of(group, rule) for group in plan.roofs)
    highest = top = max(f.top for f in faces)
    if rule.stated.get("h", 0.0) > top + SAME:
        message = f"h = {rule.stated['h']:.4g} m is above the highest point of {_of(name)}, {top:.4g} m"
        findings.append(_finding(rule, message, "h counts from the ground"))
    if rule.code == WindCode.EN and "h" in rule.stated:
        # There h is the height, not the mean one.
        top = rule.stated["h"]
        roofs = tuple(replace(r, ridge=top) for r in roofs)
    found = max((_mean_height(r, rule) for r in roofs), default=max((w.top for w in walls), default=top))
    h = rule.stated.get("h", found)
    building = Building(name, rule, walls, roofs, ground, h, top, plan)
    return building, findings + _doubtful(building, found if rule.code != WindCode.EN else highest, not findings)


def _of(name: str) -> str:
    return "`exterior`" if name == "building" else name


def _mean_height(roof: Roof, rule: WindRule) -> float:
    """The mean roof height [m], also where another is stated."""
    ridge = max(f.top for f in roof.faces)
    return (roof.eave + ridge) / 2 if roof.slope > LOW else roof.eave


OFF, FILLS = 0.1, 0.85
"""A stated height so far from the found one, and a plan that fills less of the rectangle around it, are told."""
ABOVE = 0.1
"""A wall that begins this little below a roof [m] begins at it."""


def _doubtful(building: Building, found: float, sound: bool) -> list[Finding]:
    """What is taken as a building and may be none, or more than one: walls that enclose nothing, several plans under
    one roof, courts, a plan far from a rectangle; walls inside; a stated height that is another."""
    rule, plan, of = building.rule, building.plan, _of(building.name)
    parts = [] if building.footprint is None else list(shapely.get_parts(building.footprint))
    said: list[tuple[str, str, str]] = []
    if building.is_unclosed:
        ends = ", ".join(f"({x:.4g}, {y:.4g}) m" for x, y in open_ends(building.walls)[:3])
        said.append(("wind-plan", f"the walls of {of} enclose nothing: at {ends} they end without another",
                     "draw the missing walls, doors too; without them nothing is an overhang, and where a wall is "
                     "missing `enclosure` or `openings` is to be stated"))  # fmt: skip
    if len(parts) > 1:
        said.append(("wind-plan", f"the walls of {of} enclose {len(parts)} plans under one roof, taken as one building "
                     "of their whole extent", "draw a roof for each, or name its surfaces in "
                     "[wind.buildings]"))  # fmt: skip
    if plan.courts:
        area = sum(c.area for c in plan.courts)
        said.append(("wind-plan", f"the walls of {of} stand around a court of {area:.4g} m2: no code has rules for it, "
                     "and each of them is taken by the side it faces", "leave them out with `!`, or state their "
                     "loads"))  # fmt: skip
    outer = [shapely.Polygon(p.exterior) for p in parts]
    share = outer[0].area / shapely.area(shapely.minimum_rotated_rectangle(outer[0])) if len(outer) == 1 else 1.0
    if share < FILLS:
        said.append(("wind-plan", f"the plan of {of} fills {share:.0%} of the rectangle around it: B, L and zones are "
                     "of that rectangle", "look at `empuje draw pressures`; split it where the code has rules for "
                     "it"))  # fmt: skip
    if plan.inner:
        one = len(plan.inner) == 1
        names = listed([f.name for f in plan.inner])
        said.append(("wind-inner", f"{names} in `exterior` {'has' if one else 'have'} the inside on both sides: no "
                     "wind is put on " + ("it" if one else "them"), "leave it out with `!`, or name it for a "
                     "direction's `windward`, `leeward` or `side` where it does stand in the wind"))  # fmt: skip
    said += [("wind-inner", *words) for words in _partly_inner(building)] if sound else []
    if "h" in rule.stated and abs(building.h - found) > OFF * found:
        said.append(("wind-plan", f"h = {building.h:.4g} m is stated, and that of {building.called} is {found:.4g} m",
                     "take it out, or correct it"))  # fmt: skip
    return [Finding("warning", code, message, remedy, rule.place) for code, message, remedy in said]


def _partly_inner(building: Building) -> list[tuple[str, str]]:
    """Walls that rise above the roof of what adjoins them: below it they are inside."""
    out = []
    faces = [(f, plan_of(f)) for r in building.roofs for f in r.faces]
    for wall in building.walls if building.plan.cells else ():
        start, end = wall_ends([wall])
        before = start + 0.39 * (end - start) + ASIDE * wall.normal[:2]
        if not any(shapely.intersects_xy(c, *before) for c in building.plan.cells):
            continue
        low = max((height_over(f, before) for f, p in faces if shapely.intersects_xy(p, *before)), default=wall.low)
        if low > wall.low + ABOVE:
            out.append((f"{wall.name} is drawn down to {wall.low:.3g} m, and the roof before it is at {low:.3g} m: "
                        "below that it is inside", "draw it from that roof up"))  # fmt: skip
    return out


def _together(buildings: Sequence[Building], rule: WindRule) -> list[Finding]:
    """What is asked where there are several buildings, and holes in them that are no openings."""
    out = []
    if len(buildings) > 1:
        for heading in rule.headings:
            if heading.B is not None or heading.L is not None:
                message = f"B or L is stated for the wind {heading.name}, and there are {len(buildings)} buildings"
                out.append(Finding("error", "wind-plan", message, "take them out: each building's own are found",
                                   heading.place))  # fmt: skip
        silent = [b.name for b in buildings if not b.rule.openings and "c_pi+" not in b.rule.stated]
        if rule.code == WindCode.EN and rule.openings and silent:
            message = f"openings are stated, but none of {listed(silent)}: its internal pressure is not known"
            out.append(_finding(rule, message, "state them by surface, or c_pi in [wind.buildings]"))
    for building in buildings:
        holes = {
            f.name: shapely.Polygon(f.outline.flat(f.outline.surface.corners)).area - f.outline.polygon.area
            for f in building.faces if f.surface not in rule.openings and f.outline.surface.openings
        }  # fmt: skip
        if holes and building.rule.enclosure is None and not {"GC_pi", "c_pi+"} & set(building.rule.stated):
            have = "has" if len(holes) == 1 else "have"
            message = f"{listed(list(holes))} {have} holes of {sum(holes.values()):.4g} m2 that are no `openings`"
            out.append(Finding("warning", "wind-openings", message, "state them there, or `enclosure`",
                               rule.place))  # fmt: skip
    return out


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
