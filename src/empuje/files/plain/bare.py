"""Quantities, places, selectors and directions as they stand in a model file, in the units of its project."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from ...core.model.loads import Direction, Position, Vector
from ..base.directions import DIRECTIONS, NORMAL
from ..base.quantities import Units
from ..reader import Reading

Data = dict[str, Any]


class Bare:
    """A model's units and names."""

    def __init__(self, reading: Reading) -> None:
        project = reading.project
        self.units = Units(*project.units)
        self.plane = project.plane
        self.nodes = [n.name for n in project.nodes]
        self.at = {n.xyz: n.name for n in project.nodes}
        self.members = project.members
        self.whole: dict[str, set[int]] = {}
        for i, m in enumerate(project.members):
            self.whole.setdefault(m.family, set()).add(i)
        self.surfaces = [s.name for s in project.surfaces]

    def number(self, value: float, kind: str) -> float | int:
        """A quantity as the shortest bare number that reads as it."""
        by_force, by_length = self.units.plain_factors(kind)
        return short(value / (by_force * by_length), lambda v: v * by_force * by_length, value)

    def place(self, xyz: Vector) -> list[float | int]:
        """Coordinates."""
        x, y, z = (self.number(v, "length") for v in xyz)
        return [x, z] if self.plane else [x, y, z]

    def point(self, xyz: Vector) -> str | list[float | int]:
        """A point of a surface: a node, or coordinates."""
        return self.at.get(xyz) or [self.number(v, "length") for v in xyz]

    def position(self, p: Position) -> str | float | int:
        """A position along a member."""
        if p.share == 0:
            return self.number(p.offset, "length")
        percent = short(min(p.share * 100, 100.0), lambda v: v / 100, p.share)
        return (f"{percent:.20f}".rstrip("0").rstrip(".") if "e" in repr(percent) else repr(percent)) + "%"

    def springs(self, stiffness: Data) -> Data:
        """Springs by their freedoms."""
        return {f: self.number(k, "spring" if f in "xyz" else "turning spring") for f, k in stiffness.items()}

    def on(self, members: Sequence[int]) -> str | list[str]:
        """A selector of members: families where all of them are meant, else names."""
        left, out = set(members), list[str]()
        for family in dict.fromkeys(self.members[i].family for i in members):
            if self.whole[family] <= left:
                out.append(family)
                left -= self.whole[family]
        out += [self.members[i].name for i in members if i in left]
        return out if len(out) != 1 else out[0]

    def direction(self, d: Direction, normal: bool = False) -> Data:
        """`dir`, unless it is down."""
        if d.vector == DIRECTIONS["down"].vector and not d.local:
            return {}
        words = NORMAL if normal and d.local else DIRECTIONS
        word = next((w for w, other in words.items() if other.vector == d.vector and other.local == d.local), None)
        return {"dir": word if word is not None else [short(v, float, v) for v in d.vector]}


def short(near: float, read: Callable[[float], float], value: float) -> float | int:
    """The number with the fewest figures, near to one, that reads as a value; where none does, the nearest."""
    tried = [float(f"{near:.{figures}g}") for figures in (12, 14, 15, 16)]
    tried += [near, math.nextafter(near, math.inf), math.nextafter(near, -math.inf)]
    found = next((v for v in tried if read(v) == value), near)
    return int(found) if found.is_integer() and abs(found) < 1e15 else found


def degrees(angle: float) -> float | int:
    """An angle [rad] as a bare number."""
    return short(math.degrees(angle), math.radians, angle)
