"""What the wind of a project comes to: directions, zones, cases, as records."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, fields

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.loads import Direction, PlainLoads, Step
from ....model.surfaces import AreaLoad
from ....model.wind import Heading, WindRule
from ..shape.building import Building
from ..shape.roofs import Roof
from ..shape.seen import Seen
from ..shape.zones import Zone
from ..site.profile import Profile
from ..unclad import UncladRows

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Met:
    """One building as one direction meets it: the internal pressures of both signs at full wind [N/m2] and their
    steps; how far loads in torsion are moved [m], and its steps; steps that all its zones share."""

    seen: Seen
    internal: tuple[float, float] = (0.0, 0.0)
    of_internal: tuple[tuple[Step, ...], tuple[Step, ...]] = ((), ())
    e: float = 0.0
    of_e: tuple[Step, ...] = ()
    shared: tuple[tuple[Step, ...], ...] = ()

    def inside(self, sign: int) -> float:
        """The internal pressure of a sign at full wind [N/m2], 0 for none."""
        return 0.0 if not sign else self.internal[0 if sign > 0 else 1]


@dataclass(frozen=True)
class Blown:
    """One direction worked out: its own rule, pressures and level of the ground [m]; every building as it is met,
    zones of all, line loads on unclad members, and steps that roofs without walls and unclad members share."""

    heading: Heading
    rule: WindRule
    profile: Profile
    ground: float
    met: tuple[Met, ...]
    zones: tuple[Zone, ...]
    unclad: tuple[UncladRows, ...]
    shared: tuple[tuple[Step, ...], ...]


@dataclass(frozen=True)
class Piece:
    """A zone in a case: which case, heading and zone, the coefficient, the mean pressures of both faces [N/m2],
    positive towards the surface along `way` (3,), and the force [N] that way."""

    case: int
    heading: int
    number: int
    zone: Zone
    C: float
    outside: float
    inside: float
    force: float
    way: tuple[float, float, float]

    @property
    def net(self) -> float:
        """Mean pressure on the surface [N/m2]."""
        return self.outside - self.inside


@dataclass(frozen=True)
class Pieces:
    """Every zone in every case as arrays (pieces,): the numbers of case, heading and of the heading's zone, C,
    pressures from outside and inside [N/m2], force [N] along `way` (pieces, 3)."""

    case: Ints
    heading: Ints
    zone: Ints
    C: Floats
    outside: Floats
    inside: Floats
    force: Floats
    way: Floats

    def __len__(self) -> int:
        return len(self.case)

    @classmethod
    def none(cls) -> Pieces:
        """No pieces."""
        count, number = np.zeros(0, np.intp), np.zeros(0)
        return cls(count, count, count, number, number, number, number, np.zeros((0, 3)))

    @classmethod
    def concat(cls, parts: Sequence[Pieces]) -> Pieces:
        """One below the other."""
        return cls(**{f.name: np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(cls)})

    def one(self, blown: Sequence[Blown], i: int) -> Piece:
        """The i-th."""
        case, heading, zone = int(self.case[i]), int(self.heading[i]), int(self.zone[i])
        C, outside, inside, force = (float(v[i]) for v in (self.C, self.outside, self.inside, self.force))
        x, y, z = self.way[i].tolist()
        return Piece(case, heading, zone, blown[heading].zones[zone], C, outside, inside, force, (x, y, z))

    def each(self, blown: Sequence[Blown], cases: Collection[int] | None = None) -> Iterator[Piece]:
        """One by one, those of some cases or all."""
        chosen = np.arange(len(self)) if cases is None else np.flatnonzero(np.isin(self.case, list(cases)))
        return (self.one(blown, i) for i in chosen.tolist())


@dataclass(frozen=True)
class ComponentRow:
    """What a zone puts on a component in a case: the area it goes by [m2], coefficient, pressure [N/m2], clause;
    the member's number."""

    case: str
    member: str
    zone: str
    area: float
    C: float
    p: float
    clause: str
    number: int


@dataclass(frozen=True)
class Wind:
    """What came of the wind: pressure over the height, buildings, free roofs, directions, pieces of every case, and
    plain loads."""

    rule: WindRule
    ground: float
    profile: Profile
    buildings: tuple[Building, ...]
    free_roofs: tuple[Roof, ...]
    blown: tuple[Blown, ...]
    pieces: Pieces
    loads: PlainLoads = field(default_factory=PlainLoads)
    components: tuple[ComponentRow, ...] = ()

    def area_loads(self, names: Collection[str] = ()) -> list[AreaLoad]:
        """The pressures of the named cases, or of all, as loads on surfaces, for drawing."""
        wanted = {k for k, case in enumerate(self.rule.cases) if not names or case.name in names}
        return [_area_load(p, self) for p in self.of_cases(wanted)]

    @property
    def first_cases(self) -> set[str]:
        """The first case of each direction, by name."""
        first: dict[int, str] = {}
        for case in self.rule.cases:
            first.setdefault(case.headings[0], case.name)
        return set(first.values())

    def alike(self) -> dict[str, str]:
        """Cases with the same pressures everywhere as an earlier one of the same directions, and that one, by name: of
        flat roofs and along ridges alternatives of roofs are often one."""
        first: dict[tuple[object, ...], str] = {}
        out = {}
        order = np.argsort(self.pieces.case, kind="stable")
        bounds = np.searchsorted(self.pieces.case[order], np.arange(len(self.rule.cases) + 1))
        p = self.pieces
        for k, case in enumerate(self.rule.cases):
            if case.component:
                continue
            own = order[bounds[k] : bounds[k + 1]]
            # -0 and 0 are one pressure.
            values = [np.ascontiguousarray(v[own] + 0.0).tobytes() for v in (p.outside, p.inside, p.way)]
            where = [p.heading[own].tobytes(), p.zone[own].tobytes()]
            key = (case.headings, case.factor, case.twist, case.least, *where, *values)
            if key in first:
                out[case.name] = first[key]
            else:
                first[key] = case.name
        return out

    def of_cases(self, cases: Collection[int]) -> Iterator[Piece]:
        """The zones in some of the wind's cases, by their numbers."""
        return self.pieces.each(self.blown, cases)


def _area_load(piece: Piece, wind: Wind) -> AreaLoad:
    """A piece as a load on its surface, from outside and inside together."""
    zone, case = piece.zone, wind.rule.cases[piece.case]
    heading = wind.blown[piece.heading].heading
    flat = shapely.get_coordinates(zone.part.exterior)[:-1]
    solid = zone.face.outline.solid(flat)
    corners: list[tuple[float, float, float]] = [tuple(p) for p in solid.tolist()]
    if case.least or zone.stretch.way:
        way = Direction(piece.way, text=heading.text)
    else:
        way = Direction((0.0, 0.0, -1.0), local=True, text="-normal")
    # Made eccentric, a zone is drawn with the force that arrives of it.
    share = piece.force / (piece.net * zone.area) if piece.net else 1.0
    values, between = (share * piece.net,) * 2, (corners[0], corners[0])
    if zone.field[1:].any() and not case.least:
        low, high = int(solid[:, 2].argmin()), int(solid[:, 2].argmax())
        q = zone.field[0] + flat[[low, high]] @ zone.field[1:]
        own = share * (q * (piece.outside / zone.mean) - piece.inside)
        values = (float(own[0]), float(own[1]))
        between = (corners[low], (*corners[low][:2], corners[high][2]))
    text = f"{zone.stretch.name}, {case.name}"
    part = () if zone.whole else tuple(corners)
    return AreaLoad(case.name, zone.surface, values, between, way, False, part, text, heading.place, reducible=False,
                    zone=zone.stretch.name)  # fmt: skip
