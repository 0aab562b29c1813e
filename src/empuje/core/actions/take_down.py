"""Vertical loads taken down by hand's rules: from member to member to the ground, without any stiffness.

What carries as one (bearing.py) is a row of simple beams between its seats. What lies beyond its last seat overhangs:
by the lever rule the seat there gets more, and the one behind it less. Columns bring everything to their foot. What
reaches no seat, or leaves the plane in which levers decide, is `astray`.

        | column above                        x---- joist ----x
        v                                     |               |
    o===+=========o====== beam ===o      girder seat     girder seat
    |             |               |
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads
from ..model.project import Project
from .bearing import GROUND, Bearing, Body, bearing, holder_of_node

Floats = NDArray[np.float64]
Floors = set[tuple[int, int]]
NOBODY = -2
POINTS = (0.5 - 0.5 / np.sqrt(3), 0.5 + 0.5 / np.sqrt(3))
"""Gauss's two points: exact for a linear load times a lever arm."""
ONE_FLOOR = 1.0
"""Surfaces whose heights come within this distance [m] of each other are one floor, as the two ends of a ramp are."""
INSIDE = 1e-9


@dataclass
class Brought:
    """What a column gets at one of its nodes: from beams there, and from columns above."""

    node: int
    beams: Floats
    above: Floats
    floors: Floors = field(default_factory=set)


@dataclass
class TakeDown:
    """All amounts are downward forces [N], one for each column of loads.

    own (members, columns): loads on the member itself; spans: of every beam what lies on each of its spans; overhangs:
    what lies on each of its parts beyond a last seat; beyond: on all such parts of the beam it is a piece of; brought:
    of every column what it gets, from the top on; ground: what supports get; floors: the floors whose loads a member
    carries, with their columns
    """

    columns: list[int]
    own: Floats
    spans: dict[int, Floats]
    overhangs: dict[int, Floats]
    beyond: dict[int, Floats]
    brought: dict[int, list[Brought]]
    ground: dict[int, Floats]
    floors: dict[int, Floors]
    astray: dict[int, Floats]  # by member; what lies on nodes by NOBODY


def take_down(project: Project, loads: PlainLoads, columns: int) -> TakeDown:
    """The vertical loads of all columns of loads on their way to the ground."""
    return _Way(project, bearing(project), columns).of(loads)


class _Way:
    """Amounts on their way: on the seats of every body, and between them."""

    def __init__(self, project: Project, rests: Bearing, columns: int) -> None:
        self.project, self.rests, self.columns = project, rests, columns
        n = len(project.members)
        self.own = np.zeros((n, columns))
        self.on_seats = [np.zeros((max(1, len(b.seats)), columns)) for b in rests.bodies]
        self.between = [np.zeros((len(b.seats) + 1, columns)) for b in rests.bodies]
        self.brought: dict[int, dict[int, Brought]] = defaultdict(dict)
        self.ground: dict[int, Floats] = {}
        self.floors: dict[int, Floors] = defaultdict(set)
        self.of_body: list[Floors] = [set() for _ in rests.bodies]
        self.astray: dict[int, Floats] = {}
        self.gone_on: set[int] = set()

    def of(self, loads: PlainLoads) -> TakeDown:
        floor_of = floors_of_surfaces(self.project)
        for m, at, case, force, surface in _forces(self.project, self.rests, loads):
            amount = np.zeros(self.columns)
            amount[case] = force
            self.own[m] += amount
            self.put(int(self.rests.of[m]), at, amount)
            if surface in floor_of:
                self.of_body[self.rests.of[m]].add((floor_of[surface], case))
        for node, k, force in zip(loads.nodes.node, loads.nodes.case, -loads.nodes.f[:, 2], strict=True):
            if k < self.columns and force:
                amount = np.zeros(self.columns)
                amount[k] = force
                on = holder_of_node(self.rests, int(node))
                if on is None:
                    self.lose(NOBODY, amount)
                else:
                    self.arrive(int(node), on, amount, set(), False)
        for i in _in_order(self.rests):
            self.hand_on(i)
        z = self.project.xyz[:, 2]
        brought = {m: sorted(b.values(), key=lambda there: -z[there.node]) for m, b in self.brought.items()}
        for i, body in enumerate(self.rests.bodies):
            for m in body.members:
                self.floors[m] |= self.of_body[i]
        spans, overhangs, beyond = {}, {}, {}
        for m in np.flatnonzero(~self.rests.upright).tolist():
            spans[m], overhangs[m] = self.stretches_of(m)
            between = self.between[self.rests.of[m]]
            beyond[m] = between[0] + between[-1]
        return TakeDown(
            np.flatnonzero(self.rests.upright).tolist(), self.own, spans, overhangs, beyond, brought, self.ground,
            self.floors, self.astray,
        )  # fmt: skip

    def put(self, i: int, s: float, amount: Floats) -> None:
        """A downward force on a body at its coordinate s."""
        body, seats = self.rests.bodies[i], self.on_seats[i]
        at = [seat.s for seat in body.seats]
        if len(at) < 2:
            seats[0] += amount
            self.between[i][int(bool(at) and s > at[0])] += amount
            return
        k = int(np.clip(np.searchsorted(at, s) - 1, 0, len(at) - 2))
        far = (s - at[k]) / (at[k + 1] - at[k])
        seats[k] += (1 - far) * amount
        seats[k + 1] += far * amount
        beyond = 0 if s < at[0] - INSIDE else len(at) if s > at[-1] + INSIDE else k + 1
        self.between[i][beyond] += amount

    def arrive(self, node: int, on: int, amount: Floats, floors: Floors, from_column: bool) -> None:
        if on == GROUND:
            self.ground[node] = self.ground.get(node, 0.0) + amount
            return
        i = int(self.rests.of[on])
        if i in self.gone_on:  # bodies that rest on one another in a circle
            self.lose(on, amount)
            return
        self.of_body[i] |= floors
        if not self.rests.upright[on]:
            self.put(i, self.rests.bodies[i].at(self.project.xyz[node]), amount)
            return
        there = self.brought[on].setdefault(node, Brought(node, np.zeros(self.columns), np.zeros(self.columns)))
        if from_column:
            there.above += amount
        else:
            there.beams += amount
        there.floors |= floors
        self.on_seats[i][0] += amount

    def lose(self, m: int, amount: Floats) -> None:
        self.astray[m] = self.astray.get(m, 0.0) + amount

    def hand_on(self, i: int) -> None:
        """A body's amounts to what it rests on."""
        self.gone_on.add(i)
        body = self.rests.bodies[i]
        m = body.members[0]
        if not body.seats or not body.flat:
            if self.on_seats[i].any():
                self.lose(m, self.on_seats[i].sum(axis=0))
            return
        for seat, amount in zip(body.seats, self.on_seats[i], strict=True):
            if amount.any():
                self.arrive(seat.node, seat.on, amount, self.of_body[i], bool(self.rests.upright[m]))

    def stretches_of(self, m: int) -> tuple[Floats, Floats]:
        """What lies on the spans a member takes part in, and on its overhangs."""
        i = int(self.rests.of[m])
        body, between = self.rests.bodies[i], self.between[i]
        a, b = sorted(body.at(self.project.xyz[k]) for k in self.project.ends[m])
        at = [-np.inf, *(seat.s for seat in body.seats), np.inf]
        parts = [k for k, (low, high) in enumerate(pairwise(at)) if min(b, high) - max(a, low) > INSIDE]
        if len(body.seats) < 2:
            return np.zeros((0, self.columns)), between[parts]
        ends = (0, len(body.seats))
        return between[[k for k in parts if k not in ends]], between[[k for k in parts if k in ends]]


def floors_of_surfaces(project: Project) -> dict[str, int]:
    """The floor each surface belongs to: those whose heights meet are one."""
    reach = sorted(
        (min(z), max(z), s.name) for s in project.surfaces for z in ([float(corner[2]) for corner in s.corners],)
    )
    out: dict[str, int] = {}
    floor, top = -1, -np.inf
    for low, high, name in reach:
        if low > top + ONE_FLOOR:
            floor += 1
        top = max(top, high)
        out[name] = floor
    return out


def _forces(project: Project, rests: Bearing, loads: PlainLoads) -> Iterator[tuple[int, float, int, float, str]]:
    """Every load on members as downward forces (member, coordinate of its body, column, force, surface) that bring the
    same to its seats."""
    start, x = project.xyz[project.ends[:, 0]], project.axes[:, 0]

    def along(m: int, body: Body) -> tuple[float, float]:
        """Where the member begins on its body, and how fast it goes on."""
        return body.at(start[m]), float(x[m] @ body.axis)

    q0, q1 = -loads.lines.q0[:, 2], -loads.lines.q1[:, 2]
    for i in np.flatnonzero((q0 != 0) | (q1 != 0)):
        m, case = int(loads.lines.member[i]), int(loads.lines.case[i])
        body = rests.body(m)
        origin, slope = along(m, body)
        surface = loads.sources[loads.lines.source[i]].surface
        s0, s1 = float(loads.lines.s0[i]), float(loads.lines.s1[i])
        inner = sorted((seat.s - origin) / slope for seat in body.seats) if abs(slope) > INSIDE else []
        cuts = [s0, *(s for s in inner if s0 < s < s1), s1]
        for a, b in pairwise(cuts):
            for t in POINTS:
                s = a + t * (b - a)
                q = q0[i] + (q1[i] - q0[i]) * (s - s0) / (s1 - s0)
                yield m, origin + slope * s, case, float(q * (b - a) / 2), surface
    for i in np.flatnonzero(loads.points.f[:, 2]):
        m = int(loads.points.member[i])
        origin, slope = along(m, rests.body(m))
        surface = loads.sources[loads.points.source[i]].surface
        yield (
            m,
            origin + slope * float(loads.points.s[i]),
            int(loads.points.case[i]),
            float(-loads.points.f[i, 2]),
            surface,
        )


def _in_order(rests: Bearing) -> list[int]:
    """Bodies so that each comes after all that rest on it; those that rest on one another in a circle last."""
    on = [{int(rests.of[seat.on]) for seat in b.seats if seat.on != GROUND} for b in rests.bodies]
    waiting = np.zeros(len(on), np.intp)
    for there in on:
        waiting[list(there)] += 1
    ready = np.flatnonzero(waiting == 0).tolist()
    out = []
    while ready:
        i = ready.pop()
        out.append(i)
        for k in on[i]:
            waiting[k] -= 1
            if not waiting[k]:
                ready.append(k)
    return out + sorted(set(range(len(on))) - set(out))
