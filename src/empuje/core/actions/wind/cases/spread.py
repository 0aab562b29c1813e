"""What members receive from a unit of each zone, found once; every case is a multiple of these."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, fields
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import AtNodes, Lines, PlainLoads, Points
from ...surfaces.distribution.collector import Collector
from ...surfaces.distribution.distribute import distribute_area
from ...surfaces.sources.surface_loads import Surfaces
from ..shape.zones import Zone

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ASTRAY = 1e-7
ONE = np.array([1.0, 0.0, 0.0])


ROUNDING = 1e-8
"""Of a surface's load less than this share is nothing."""


@dataclass
class Spread:
    """Received from unit pressures on parts of surfaces: by part, lines, points and nodes as amounts along the load."""

    surfaces: Surfaces
    received: list[Collector] = field(default_factory=list)
    lost: dict[int, tuple[float, str]] = field(default_factory=dict)
    known: dict[tuple[object, ...], int] = field(default_factory=dict)

    def of(self, surface: int, part: shapely.Geometry, whole: bool, pressure: Floats = ONE) -> int:
        """The number of a part under a pressure given as field . (1, u, v); found once for equal ones."""
        key = (surface, b"" if whole else part.wkb, pressure.tobytes())
        if key not in self.known:
            self.known[key] = len(self.received)
            geometry = self.surfaces[surface]
            received = distribute_area(geometry, part, pressure, whole)
            area, centre = float(part.area), shapely.get_coordinates(shapely.centroid(part))[0]
            put = area * float(pressure[0] + centre @ pressure[1:])
            peak = max(abs(float(v)) for v in pressure[0] + shapely.get_coordinates(part) @ pressure[1:])
            size, of_surface = area * peak, float(geometry.outline.polygon.area) * peak
            gone = sum(float(np.abs(f).sum()) for f, _ in received.lost) + abs(put - received.total)
            # Of a narrow part a share may be lost to rounding that is none of the surface.
            if gone > max(ASTRAY * size, ROUNDING * of_surface):
                at = received.lost[0][1][:1] if received.lost else centre[None]
                self.lost.setdefault(surface, (gone / size, geometry.outline.where(at)))
            self.received.append(received)
        return self.known[key]

    def of_zone(self, zone: Zone) -> tuple[int, int, float]:
        """The numbers of a zone's part under a unit pressure and under its own, and what the second is multiplied by:
        a uniform pressure is a multiple of the unit."""
        unit = self.of(zone.surface, zone.part, zone.whole)
        if not zone.field[1:].any():
            return unit, unit, float(zone.field[0])
        return unit, self.of(zone.surface, zone.part, zone.whole, zone.field), 1.0

    def opposite(self, own: int, scale: float, other: int) -> int | None:
        """The number of 2 scale `own` - `other`, where both are received in the same places; None where not."""
        a, b = self.received[own], self.received[other]
        if a.nodes or b.nodes or len(a.points) != len(b.points) or a.lost or b.lost:
            return None
        if any(len(x[0]) for x in (*a.points, *b.points)) or len(a.lines) != len(b.lines):
            return None
        lines = []
        for x, y in zip(a.lines, b.lines, strict=True):
            if len(x[0]) != len(y[0]) or not all(np.array_equal(x[k], y[k]) for k in (0, 1, 2, 5, 6)):
                return None
            lines.append((*x[:3], 2 * scale * x[3] - y[3], 2 * scale * x[4] - y[4], *x[5:]))
        self.received.append(Collector(lines=lines))
        return len(self.received) - 1


@dataclass(frozen=True)
class Applied:
    """Multiples of parts in cases: case, number of the part, amount, direction (n, 3) and source, as arrays (n,)."""

    case: Ints
    part: Ints
    amount: Floats
    way: Floats
    source: Ints

    @classmethod
    def none(cls) -> Applied:
        """No multiples."""
        empty = np.zeros(0, np.intp)
        return cls(empty, empty, np.zeros(0), np.zeros((0, 3)), empty)

    @classmethod
    def concat(cls, parts: Sequence[Applied]) -> Applied:
        """One below the other."""
        return cls(**{f.name: np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(cls)})


def plain(spread: Spread, applied: Applied) -> PlainLoads:
    """All multiples as plain loads without sources."""
    lines = [r.joined_lines()[:5] for r in spread.received]
    none = (np.zeros(0, np.intp), np.zeros(0), np.zeros(0))
    points = [[np.concatenate(c) for c in zip(*((p[0], p[1], p[2]) for p in r.points), none, strict=True)]
              for r in spread.received]  # fmt: skip
    nodes = [[np.concatenate(c) for c in zip(*((n[0], n[1]) for n in r.nodes), none[:2], strict=True)]
             for r in spread.received]  # fmt: skip

    def rows(tables: Sequence[Sequence[NDArray[Any]]]) -> tuple[Ints, list[NDArray[Any]]]:
        """Which multiple each row is of, and the parts' columns by row."""
        count = np.array([len(t[0]) for t in tables], np.intp)
        start = np.concatenate([[0], np.cumsum(count)])[:-1]
        per = count[applied.part]
        of = np.repeat(np.arange(len(applied.part)), per)
        inner = np.arange(len(of)) - np.repeat(np.cumsum(per) - per, per)
        at = start[applied.part][of] + inner
        return of, [np.concatenate(column)[at] for column in zip(*tables, strict=True)] if len(tables) else []

    if not spread.received or not len(applied.part):
        return PlainLoads()
    of, (member, s0, s1, q0, q1) = rows(lines)
    force = applied.amount[of, None] * applied.way[of]
    along = Lines(applied.case[of], applied.source[of], member.astype(np.intp), s0, s1, q0[:, None] * force,
                  q1[:, None] * force)  # fmt: skip
    of_point, (at, s, f) = rows(points)
    of_node, (node, share) = rows(nodes)

    def six(which: Ints, amount: Floats) -> Floats:
        value = (applied.amount[which] * amount)[:, None] * applied.way[which]
        return np.hstack([value, np.zeros((len(which), 3))])

    return PlainLoads(
        along,
        Points(applied.case[of_point], applied.source[of_point], at.astype(np.intp), s, six(of_point, f)),
        AtNodes(applied.case[of_node], applied.source[of_node], node.astype(np.intp), six(of_node, share)),
    )


def not_carried(spread: Spread, names: Sequence[str], finding: Finding) -> list[Finding]:
    """What to say of surfaces of which a part reaches no member: like the finding, for each of them."""
    return [
        Finding(finding.level, finding.code, f"{100 * share:.3g} % of the wind on surface {names[surface]} cannot be "
                f"carried, at {where}", finding.remedy, finding.place)
        for surface, (share, where) in spread.lost.items()
    ]  # fmt: skip
