"""A building as a wind meets it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.findings import Finding, listed
from ....model.wind import Heading, WindRule
from ....model.words import Side
from ...faces import FLAT, Face
from .building import Building
from .soffits import soffits

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Seen:
    """A building as a wind meets it: unit vectors along it and to its left (2,), extents [m] and the sides of its
    faces."""

    building: Building
    along: Floats
    left: Floats
    s: tuple[float, float]
    t: tuple[float, float]
    B: float
    L: float
    sides: Mapping[int, Side]

    @cached_property
    def soffits(self) -> dict[Side, shapely.Geometry]:
        """What lies around the plan, by the side of the nearest wall."""
        if self.building.footprint is None:
            return {}
        ways = [(f.normal[:2] / np.linalg.norm(f.normal[:2]), self.sides[f.surface]) for f in self.building.walls]
        roofs = np.concatenate([f.corners[:, :2] for f in self.building.faces])
        reach = float(np.linalg.norm(np.ptp(roofs, axis=0)))
        return soffits(self.building.footprint, ways, reach)

    def places(self, points: Floats) -> Floats:
        """s, t, z (n, 3) of points (n, 3) whose z counts from the ground."""
        return np.column_stack([points[:, :2] @ self.along, points[:, :2] @ self.left, points[:, 2]])

    def falls_to(self, face: Face) -> Side:
        """Whether a roof's face falls to windward, to leeward or to the side."""
        if face.slope <= FLAT:
            return Side.SIDE
        return facing(face.normal, self.along)


ASKEW, SMALL = 5.0, 0.05
"""Walls this far from square [deg] are told, unless they are smaller than this share of the largest."""
HALF = np.cos(np.radians(45.0)) - 1e-9


def facing(normal: Floats, along: Floats) -> Side:
    """The side a face is on: within 45 degrees of the wind's way it is windward or leeward."""
    level = normal[:2] / max(float(np.linalg.norm(normal[:2])), 1e-12)
    share = float(level @ along)
    return Side.WINDWARD if share < -HALF else Side.LEEWARD if share > HALF else Side.SIDE


def axes_of(heading: Heading) -> tuple[Floats, Floats]:
    """Level unit vectors along a wind and to its left (2,)."""
    x, y = heading.vector
    return np.array([x, y]), np.array([-y, x])


def seen(building: Building, heading: Heading, rule: WindRule) -> tuple[Seen, list[Finding]]:
    """The building as a wind meets it."""
    along, left = axes_of(heading)
    s, t = building.corners[:, :2] @ along, building.corners[:, :2] @ left
    sides = {f.surface: heading.sides.get(f.surface, facing(f.normal, along)) for f in building.walls}
    found = Seen(
        building, along, left, (float(s.min()), float(s.max())), (float(t.min()), float(t.max())),
        heading.B or float(np.ptp(t)), heading.L or float(np.ptp(s)), sides,
    )  # fmt: skip
    findings = []
    if Side.WINDWARD not in sides.values():
        of = "`exterior`" if building.name == "building" else building.name
        message = f"no wall of {of} faces the wind {heading.name}"
        remedy = "add the walls to `exterior`, or name a roof without walls in `free_roofs`"
        findings.append(Finding("error", "wind-no-windward", message, remedy, heading.place))
    largest = max((f.area for f in building.walls), default=0.0)
    askew = [
        f.name for f in building.walls
        if f.surface not in heading.sides and _off_square(f.normal, along) > ASKEW and f.area > SMALL * largest
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
