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

from bisect import bisect_left
from collections import defaultdict
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads
from ..model.project import Project
from .bearing import GROUND, Bearing, bearing, holder_of_node

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
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


@dataclass(frozen=True)
class Forces:
    """Downward forces [N] on members (n,): at a coordinate [m] of the member's body, in a column of loads."""

    member: Ints
    at: Floats
    column: Ints
    amount: Floats


def take_down(project: Project, loads: PlainLoads, columns: int) -> TakeDown:
    """The vertical loads of all columns of loads on their way to the ground."""
    return _Way(project, bearing(project), columns).of(loads)


class _Way:
    """Amounts on their way: on the seats of every body, and between them.

    These are rows of two tables (rows, columns), those of a body side by side: one for each seat, at least one; and one
    before, between and behind the seats.
    """

    def __init__(self, project: Project, rests: Bearing, columns: int) -> None:
        self.project, self.rests, self.columns = project, rests, columns
        self.seats = [[seat.s for seat in b.seats] for b in rests.bodies]
        count = np.array([len(s) for s in self.seats], np.intp)
        self.seat_count, self.seat_s = count, np.array([s for seats in self.seats for s in seats])
        self.seat_from = np.cumsum(count) - count
        rows, gaps = np.maximum(count, 1), count + 1
        self.row_from, self.gap_from = np.cumsum(rows) - rows, np.cumsum(gaps) - gaps
        self.seat_rows, self.gap_rows = np.zeros((rows.sum(), columns)), np.zeros((gaps.sum(), columns))
        self.own = np.zeros((len(project.members), columns))
        self.brought: dict[int, dict[int, Brought]] = defaultdict(dict)
        self.ground: dict[int, Floats] = {}
        self.floors: dict[int, Floors] = defaultdict(set)
        self.of_body: list[Floors] = [set() for _ in rests.bodies]
        self.astray: dict[int, Floats] = {}
        self.gone_on: set[int] = set()

    def on_seats(self, i: int) -> Floats:
        return self.seat_rows[self.row_from[i] :][: max(1, len(self.seats[i]))]

    def between(self, i: int) -> Floats:
        return self.gap_rows[self.gap_from[i] :][: len(self.seats[i]) + 1]

    def of(self, loads: PlainLoads) -> TakeDown:
        self.put_all(self.forces_of_lines(loads))
        self.put_all(self.forces_at_points(loads))
        self.note_floors(loads)
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
            between = self.between(self.rests.of[m])
            beyond[m] = between[0] + between[-1]
        return TakeDown(
            np.flatnonzero(self.rests.upright).tolist(), self.own, spans, overhangs, beyond, brought, self.ground,
            self.floors, self.astray,
        )  # fmt: skip

    def coordinates(self, member: Ints, s: Floats) -> Floats:
        """Places on members, as coordinates of their bodies."""
        bodies, of = self.rests.bodies, self.rests.of[member]
        origin, axis = np.array([b.origin for b in bodies]), np.array([b.axis for b in bodies])
        start, x = self.project.xyz[self.project.ends[member, 0]], self.project.axes[member, 0]
        places = start + s[:, None] * x
        return np.asarray(np.einsum("ni,ni->n", places - origin[of], axis[of]))

    def forces_of_lines(self, loads: PlainLoads) -> Forces:
        """Line loads, cut at the seats of their bodies, as two forces on each part."""
        lines = loads.lines
        some = np.flatnonzero(((lines.q0[:, 2] != 0) | (lines.q1[:, 2] != 0)) & (lines.case < self.columns))
        member, s0, s1 = lines.member[some], lines.s0[some], lines.s1[some]
        u0, u1 = self.coordinates(member, s0), self.coordinates(member, s1)
        line, seat = self.with_seats(self.rests.of[member])
        with np.errstate(divide="ignore", invalid="ignore"):
            share = (self.seat_s[seat] - u0[line]) / (u1 - u0)[line]
        inside = (share > 0) & (share < 1)
        every = np.arange(len(some))
        line = np.concatenate([every, line[inside], every])
        share = np.concatenate([np.zeros(len(some)), share[inside], np.ones(len(some))])
        order = np.lexsort((share, line))
        line, share = line[order], share[order]
        part = np.flatnonzero(line[1:] == line[:-1])
        line, low, high = line[part], share[part], share[part + 1]
        q0, q1 = -lines.q0[some, 2][line], -lines.q1[some, 2][line]
        length = (high - low) * (s1 - s0)[line]
        at = low + np.array(POINTS)[:, None] * (high - low)
        return Forces(
            np.tile(member[line], 2), (u0[line] + at * (u1 - u0)[line]).ravel(),
            np.tile(lines.case[some][line], 2), ((q0 + (q1 - q0) * at) * length / 2).ravel(),
        )  # fmt: skip

    def forces_at_points(self, loads: PlainLoads) -> Forces:
        points = loads.points
        some = np.flatnonzero((points.f[:, 2] != 0) & (points.case < self.columns))
        member = points.member[some]
        return Forces(member, self.coordinates(member, points.s[some]), points.case[some], -points.f[some, 2])

    def with_seats(self, body: Ints) -> tuple[Ints, Ints]:
        """Each with every seat of its body: which, and the seat."""
        count = self.seat_count[body]
        which = np.repeat(np.arange(len(body)), count)
        place = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
        return which, self.seat_from[body][which] + place

    def put_all(self, forces: Forces) -> None:
        """Downward forces on members, as `put` does it for one."""
        body, u, amount = self.rests.of[forces.member], forces.at, forces.amount
        np.add.at(self.own, (forces.member, forces.column), amount)
        count = self.seat_count[body]
        which, seat = self.with_seats(body)
        # How many seats of its body lie before each force, and before it beyond any doubt.
        before, past = (
            np.bincount(which[self.seat_s[seat] < (u + more)[which]], minlength=len(u)) for more in (0.0, -INSIDE)
        )
        first, last = (self.seat_s[np.minimum(self.seat_from[body] + k, max(len(self.seat_s) - 1, 0))]
                       if len(self.seat_s) else np.zeros(len(u)) for k in (0, np.maximum(count - 1, 0)))  # fmt: skip
        several = count > 1
        k = np.clip(before - 1, 0, np.maximum(count - 2, 0))
        near = np.minimum(self.seat_from[body] + k, max(len(self.seat_s) - 2, 0))
        far = np.zeros(len(u))
        far[several] = ((u - self.seat_s[near])[several]) / (self.seat_s[near + 1] - self.seat_s[near])[several]
        row = self.row_from[body] + k
        np.add.at(self.seat_rows, (row, forces.column), (1 - far) * amount)
        np.add.at(self.seat_rows, (row[several] + 1, forces.column[several]), (far * amount)[several])
        gap = np.where(u < first - INSIDE, 0, np.where(past == count, count, k + 1))
        gap = np.where(several, gap, np.where(count == 1, u > last, 0))
        np.add.at(self.gap_rows, (self.gap_from[body] + gap, forces.column), amount)

    def note_floors(self, loads: PlainLoads) -> None:
        """The floors, with their columns, from which each body has loads."""
        floor_of = floors_of_surfaces(self.project)
        of_source = np.array([floor_of.get(source.surface, -1) for source in loads.sources], np.intp)
        lines, points = loads.lines, loads.points
        for table, there in (
            (lines, (lines.q0[:, 2] != 0) | (lines.q1[:, 2] != 0)), (points, points.f[:, 2] != 0),
        ):  # fmt: skip
            if len(of_source):
                there &= of_source[table.source] >= 0
                some = self.rests.of[table.member[there]], of_source[table.source[there]], table.case[there]
                for body, floor, column in np.unique(np.column_stack(some), axis=0).tolist():
                    self.of_body[body].add((floor, column))

    def put(self, i: int, s: float, amount: Floats) -> None:
        """A downward force on a body at its coordinate s: by the lever rule on two seats, or on its only one."""
        at, seats = self.seats[i], self.on_seats(i)
        if len(at) < 2:
            seats[0] += amount
            self.between(i)[int(bool(at) and s > at[0])] += amount
            return
        k = min(max(bisect_left(at, s) - 1, 0), len(at) - 2)
        far = (s - at[k]) / (at[k + 1] - at[k])
        seats[k] += (1 - far) * amount
        seats[k + 1] += far * amount
        beyond = 0 if s < at[0] - INSIDE else len(at) if s > at[-1] + INSIDE else k + 1
        self.between(i)[beyond] += amount

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
        self.on_seats(i)[0] += amount

    def lose(self, m: int, amount: Floats) -> None:
        self.astray[m] = self.astray.get(m, 0.0) + amount

    def hand_on(self, i: int) -> None:
        """A body's amounts to what it rests on."""
        self.gone_on.add(i)
        body = self.rests.bodies[i]
        m = body.members[0]
        if not body.seats or not body.flat:
            if self.on_seats(i).any():
                self.lose(m, self.on_seats(i).sum(axis=0))
            return
        for seat, amount in zip(body.seats, self.on_seats(i), strict=True):
            if amount.any():
                self.arrive(seat.node, seat.on, amount, self.of_body[i], bool(self.rests.upright[m]))

    def stretches_of(self, m: int) -> tuple[Floats, Floats]:
        """What lies on the spans a member takes part in, and on its overhangs."""
        i = int(self.rests.of[m])
        body, between = self.rests.bodies[i], self.between(i)
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
