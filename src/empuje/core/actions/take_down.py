"""Vertical loads taken down by hand's rules: from member to member to the ground, without any stiffness.

Every beam is a row of simple beams between what it rests on: supports of the model, columns under it, stiffer beams it
frames into or lies on, bars on which its ends hang. What lies beyond its last seat overhangs. Columns bring everything
to their foot. What reaches no seat is `astray`.

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

Floats = NDArray[np.float64]
Floors = set[tuple[float, int]]
UPRIGHT = 0.9
"""A member whose axis has at least this vertical part is a column."""
LEVEL = 0.1
"""A bar that rises less than this share of its length hangs nothing."""
GROUND, NOBODY = -1, -2
POINTS = (0.5 - 0.5 / np.sqrt(3), 0.5 + 0.5 / np.sqrt(3))
"""Gauss's two points: exact for a linear load times a lever arm."""


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

    own (members, columns): loads on the member itself; spans: of every beam what lies on each of its spans; brought: of
    every column what it gets, from the top on; ground: what supports get; floors: levels of the loads a member carries,
    with their columns
    """

    columns: list[int]
    own: Floats
    spans: dict[int, Floats]
    brought: dict[int, list[Brought]]
    ground: dict[int, Floats]
    floors: dict[int, Floors]
    astray: dict[int, Floats]  # by member; what lies on nodes by NOBODY


@dataclass(frozen=True)
class _Seat:
    """Where a member rests: the place on it [m], the node, and the member there, or GROUND."""

    s: float
    node: int
    on: int


def take_down(project: Project, loads: PlainLoads, columns: int) -> TakeDown:
    """The vertical loads of all columns of loads on their way to the ground."""
    upright = np.abs(project.axes[:, 0, 2]) >= UPRIGHT
    bar = np.array([m.bar for m in project.members], bool)
    upright &= ~bar
    around = _Around.of(project, upright, bar)
    seats = _seats(project, around, upright, bar)
    n = len(project.members)
    own = np.zeros((n, columns))
    spans = {m: np.zeros((max(1, len(s) - 1), columns)) for m, s in seats.items() if not upright[m]}
    on_seats = {m: np.zeros((max(1, len(s)), columns)) for m, s in seats.items()}
    out = TakeDown(np.flatnonzero(upright).tolist(), own, spans, {}, {}, defaultdict(set), {})
    height = project.xyz[project.ends].mean(axis=1)[:, 2]

    def put(m: int, s: float, amount: Floats) -> None:
        """A downward force on a member at s."""
        if upright[m] or len(seats[m]) < 2:
            on_seats[m][0] += amount
            if not upright[m]:
                spans[m][0] += amount
            return
        at = [seat.s for seat in seats[m]]
        i = int(np.clip(np.searchsorted(at, s) - 1, 0, len(at) - 2))
        far = (s - at[i]) / (at[i + 1] - at[i])
        on_seats[m][i] += (1 - far) * amount
        on_seats[m][i + 1] += far * amount
        spans[m][i] += amount

    for m, s, case, force in _forces(project, loads, seats):
        amount = np.zeros(columns)
        amount[case] = force
        own[m] += amount
        put(m, s, amount)
        out.floors[m].add((round(float(height[m]), 2), case))
    brought: dict[int, dict[int, Brought]] = defaultdict(dict)
    gone_on: set[int] = set()

    def arrive(node: int, on: int, amount: Floats, floors: Floors, from_column: bool) -> None:
        if on == GROUND:
            out.ground[node] = out.ground.get(node, 0.0) + amount
        elif on in gone_on:  # members that rest on one another in a circle
            out.astray[on] = out.astray.get(on, 0.0) + amount
        elif upright[on]:
            there = brought[on].setdefault(node, Brought(node, np.zeros(columns), np.zeros(columns)))
            if from_column:
                there.above += amount
            else:
                there.beams += amount
            there.floors |= floors
            on_seats[on][0] += amount
            out.floors[on] |= floors
        else:
            s = float((project.xyz[node] - project.xyz[project.ends[on, 0]]) @ project.axes[on, 0])
            put(on, s, amount)
            out.floors[on] |= floors

    for node, k, force in zip(loads.node_node, loads.node_case, -loads.node_f[:, 2], strict=True):
        if k < columns and force:
            amount = np.zeros(columns)
            amount[k] = force
            on = _holder(project, around, int(node), -1)
            if on is None:
                out.astray[NOBODY] = out.astray.get(NOBODY, 0.0) + amount
            else:
                arrive(int(node), on, amount, set(), False)
    for m in _in_order(seats):
        gone_on.add(m)
        if not seats[m]:
            if on_seats[m].any():
                out.astray[m] = on_seats[m].sum(axis=0)
            continue
        for seat, amount in zip(seats[m], on_seats[m], strict=True):
            if amount.any():
                arrive(seat.node, seat.on, amount, out.floors[m], bool(upright[m]))
    z = project.xyz[:, 2]
    out.brought = {m: sorted(b.values(), key=lambda there: -z[there.node]) for m, b in brought.items()}
    return out


@dataclass(frozen=True)
class _Around:
    """What meets at each node: columns with their top there or passing, beams passing, hangers that rise from it, and
    supports that hold it up."""

    columns: dict[int, list[int]]
    beams: dict[int, list[int]]
    hangers: dict[int, list[int]]
    supports: set[int]

    @staticmethod
    def of(project: Project, upright: NDArray[np.bool_], bar: NDArray[np.bool_]) -> _Around:
        columns: dict[int, list[int]] = defaultdict(list)
        beams: dict[int, list[int]] = defaultdict(list)
        z = project.xyz[:, 2]
        for m in np.flatnonzero(upright):
            a, b = project.ends[m]
            columns[int(a if z[a] > z[b] else b)].append(int(m))
        member, node, _ = project.nodes_on_members
        for m, k in zip(member.tolist(), node.tolist(), strict=True):
            if upright[m]:
                columns[k].append(m)
            elif not bar[m]:
                beams[k].append(m)
        hangers: dict[int, list[int]] = defaultdict(list)
        for m in np.flatnonzero(bar):
            a, b = project.ends[m]
            if project.members[m].acts != "compression" and abs(z[a] - z[b]) > LEVEL * project.lengths[m]:
                hangers[int(a if z[a] < z[b] else b)].append(int(m))
        held = {s.node for s in project.supports if s.held[2] or s.spring[2] > 0}
        return _Around(columns, beams, hangers, held)


def _holder(project: Project, around: _Around, node: int, m: int) -> int | None:
    """What holds a member at one of its nodes: the ground, a column, a beam that passes and is stiffer than one that
    passes too, or a bar on which it hangs."""
    if node in around.supports:
        return GROUND
    for c in around.columns.get(node, ()):
        if c != m:
            return c

    def stiffness(i: int) -> float:
        return project.members[i].section.Iy * project.members[i].material.E

    passing = m in around.beams.get(node, ())
    others = [b for b in around.beams.get(node, ()) if b != m]
    others = [b for b in others if not passing or stiffness(b) > stiffness(m) * (1 + 1e-9)]
    if others:
        return max(others, key=stiffness)
    hangers = [h for h in around.hangers.get(node, ()) if h != m]
    return max(hangers, key=lambda h: abs(float(project.axes[h, 0, 2]))) if hangers and not passing else None


def _seats(
    project: Project, around: _Around, upright: NDArray[np.bool_], bar: NDArray[np.bool_]
) -> dict[int, list[_Seat]]:
    """Where every member rests, in order along it; a column only at its foot."""
    inner: dict[int, list[tuple[float, int]]] = defaultdict(list)
    for m, k, s in zip(*(v.tolist() for v in project.nodes_on_members), strict=True):
        inner[m].append((s, k))
    z = project.xyz[:, 2]
    out: dict[int, list[_Seat]] = {}
    for m, (a, b) in enumerate(project.ends.tolist()):
        length = float(project.lengths[m])
        if upright[m]:
            places = [(0.0, a) if z[a] < z[b] else (length, b)]
        else:
            places = [(0.0, a), *([] if bar[m] else inner[m]), (length, b)]
        held = ((s, k, _holder(project, around, k, m)) for s, k in places)
        out[m] = [_Seat(s, k, on) for s, k, on in held if on is not None]
    return out


def _forces(
    project: Project, loads: PlainLoads, seats: dict[int, list[_Seat]]
) -> Iterator[tuple[int, float, int, float]]:
    """Every load on members as downward forces (member, place, column, force) that bring the same to its seats."""
    q0, q1 = -loads.line_q0[:, 2], -loads.line_q1[:, 2]
    for i in np.flatnonzero((q0 != 0) | (q1 != 0)):
        m, case = int(loads.line_member[i]), int(loads.line_case[i])
        s0, s1 = float(loads.line_s0[i]), float(loads.line_s1[i])
        cuts = [s0, *(seat.s for seat in seats[m] if s0 < seat.s < s1), s1]
        for a, b in pairwise(cuts):
            for t in POINTS:
                s = a + t * (b - a)
                yield m, s, case, float((q0[i] + (q1[i] - q0[i]) * (s - s0) / (s1 - s0)) * (b - a) / 2)
    for i in np.flatnonzero(loads.point_f[:, 2]):
        yield int(loads.point_member[i]), float(loads.point_s[i]), int(loads.point_case[i]), float(-loads.point_f[i, 2])


def _in_order(seats: dict[int, list[_Seat]]) -> list[int]:
    """Members so that each comes after all that rest on it; those that rest on one another in a circle last."""
    waiting: dict[int, int] = defaultdict(int)
    for there in seats.values():
        for on in {seat.on for seat in there}:
            waiting[on] += 1
    ready = [m for m in seats if not waiting[m]]
    out = []
    while ready:
        m = ready.pop()
        out.append(m)
        for on in {seat.on for seat in seats[m]} - {GROUND}:
            waiting[on] -= 1
            if not waiting[on]:
                ready.append(on)
    return out + sorted(set(seats) - set(out))
