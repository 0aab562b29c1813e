"""What stands in the wind over a level of the ground: buildings, roofs without walls, parapets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from ...model.findings import Finding, listed
from ...model.project import Project
from ...model.wind import WindRule
from ..faces import Face, face_of
from ..surfaces.sources.surface_loads import Surfaces
from .plane import building_in_plane, faces_in_plane
from .shape.building import Building, find_buildings
from .shape.plans import wall_lines
from .shape.roofs import Roof, joined_roofs


@dataclass(frozen=True)
class Stood:
    """Over a level of the ground [m]: buildings, roofs without walls, parapets each with the number of its building;
    and what is wrong with them."""

    ground: float
    buildings: list[Building]
    free: list[Roof]
    parapets: list[tuple[Face, int]]
    findings: list[Finding]

    @property
    def faces(self) -> list[Face]:
        """All that zones are on."""
        own = [f for b in self.buildings for f in b.faces] + [f for r in self.free for f in r.faces]
        return own + [f for f, _ in self.parapets]


def stand(project: Project, surfaces: Surfaces, rule: WindRule, ground: float) -> Stood:
    """What stands in the wind, of surfaces, or drawn out from the members of a plane frame."""
    if rule.slice is not None:
        buildings, findings = building_in_plane(project, rule, rule.slice, ground)
        sheets = faces_in_plane(project, rule.free_roofs, rule.slice.length, ground)
        parapets: list[tuple[Face, int]] = []
    else:
        buildings, findings = find_buildings(project, surfaces, rule, ground)
        sheets = [face_of(i, surfaces[i].outline, ground) for i in rule.free_roofs if i in surfaces]
        parapets = [
            (face, _nearest(face, buildings))
            for face in (face_of(i, surfaces[i].outline, ground) for i in rule.parapets if i in surfaces)
        ]
    findings += _misplaced(rule, buildings, sheets, parapets)
    return Stood(ground, buildings, joined_roofs(sheets, rule), parapets, findings)


def _nearest(face: Face, buildings: Sequence[Building]) -> int:
    """The building (by number) that a parapet stands on."""
    line = wall_lines([face])[0]
    apart = [float(shapely.distance(line, shapely.union_all(wall_lines(b.walls)))) for b in buildings if b.walls]
    return int(np.argmin(apart)) if apart else 0


def _misplaced(
    rule: WindRule, buildings: Sequence[Building], sheets: Sequence[Face], parapets: Sequence[tuple[Face, int]]
) -> list[Finding]:
    """Free roofs that look down or stand upright, and parapets that look to the middle of their building: their signs
    would be wrong."""
    out = []
    upright = [f.name for f in sheets if f.is_wall]
    if upright:
        out.append(Finding("error", "wind-shape", f"{listed(upright)} in `free_roofs` are vertical",
                           "name walls in `exterior`, or load them by hand", rule.place))  # fmt: skip
    below = [f.name for f in sheets if f.normal[2] < 0 and not f.is_wall]
    if below:
        out.append(Finding("error", "wind-inwards", f"the normal of {listed(below)} points down", "name the corners of "
                           "free roofs counter-clockwise as seen from above", rule.place))  # fmt: skip
    if buildings:
        middle = [b.corners[:, :2].mean(axis=0) for b in buildings]
        inwards = [f.name for f, k in parapets if (f.corners[:, :2].mean(axis=0) - middle[k]) @ f.normal[:2] < 0]
        if inwards:
            message = f"the normal of {listed(inwards)} points to the middle of the building"
            remedy = "name their corners counter-clockwise as seen from outside"
            out.append(Finding("error", "wind-inwards", message, remedy, rule.place))
    return out
