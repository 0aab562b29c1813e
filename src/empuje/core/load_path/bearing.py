"""What rests on what, by plain geometry: the seats of every beam, and the beams that carry as one.

A member rests on supports of the model and structural walls, columns under it, stiffer beams it frames into or lies on,
bars on which it hangs. Members without a column or beam at a joint go on as one body there: pieces of a beam in one
line and rigidly joined; an overhang and the span behind it; the bars of a truss. A piece that meets a body which stands
by itself rests on it.

    o=========o=====+=====o-----      pieces of one beam, and an overhang behind a column
    |         |           |

    o---------o---\\-----o             a hinge: the right piece rests on the tip of the left one, which overhangs
    |         |          |
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..model.project import Project
from ..model.words import Acts
from ..surfaces.mesh.held import nodes_on_walls

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
UPRIGHT = 0.9
"""A member whose axis has at least this vertical part is a column."""
LEVEL = 0.1
"""A bar that rises less than this share of its length hangs nothing."""
GROUND = -1
IN_LINE = 0.95
"""Two members whose axes have at least this cosine in plan are pieces of one beam."""
OUT_OF_PLANE = 0.1
"""A body that reaches further [m] out of the upright plane of its seats cannot be followed by levers."""
SAME_SEAT = 1e-6


@dataclass(frozen=True)
class Seat:
    """Where a body rests: its coordinate [m] there, the node, and the member that bears it, or GROUND."""

    s: float
    node: int
    on: int


@dataclass(frozen=True)
class Body:
    """Members that carry as one: along s of a single member, or along an axis in plan through `origin`.

    seats in order; `flat`: all of it lies in the upright plane of its seats, so that levers decide.
    """

    members: tuple[int, ...]
    origin: Floats
    axis: Floats
    seats: tuple[Seat, ...]
    flat: bool

    def at(self, xyz: Floats) -> float:
        """How far along its axis a point (3,) is [m]."""
        return float((xyz - self.origin) @ self.axis)


@dataclass(frozen=True)
class Bearing:
    """Every member's body; upright ones stand on one seat, their foot."""

    project: Project
    upright: Bools
    bodies: tuple[Body, ...]
    of: NDArray[np.intp]
    around: _Around

    def body(self, member: int) -> Body:
        """The body that a member, by its index, is part of."""
        body: Body = self.bodies[self.of[member]]
        return body


@dataclass(frozen=True)
class _Around:
    """What meets at each node: columns with their top there or passing, beams passing, bars that rise from it, and
    supports that hold it up; and the members that end there."""

    columns: dict[int, list[int]]
    beams: dict[int, list[int]]
    hangers: dict[int, list[int]]
    supports: set[int]
    ends: dict[int, list[int]]

    @staticmethod
    def of(project: Project, upright: Bools, bar: Bools) -> _Around:
        columns: dict[int, list[int]] = defaultdict(list)
        beams: dict[int, list[int]] = defaultdict(list)
        z = project.xyz[:, 2]
        for m in np.flatnonzero(upright).tolist():
            top = int(project.ends[m, int(z[project.ends[m, 1]] > z[project.ends[m, 0]])])
            columns[top].append(m)
        member, node, _ = project.nodes_on_members
        for m, k in zip(member.tolist(), node.tolist(), strict=True):
            if upright[m]:
                columns[k].append(m)
            elif not bar[m]:
                beams[k].append(m)
        ends: dict[int, list[int]] = defaultdict(list)
        for m, (a, b) in enumerate(project.ends.tolist()):
            if not upright[m]:
                ends[a].append(m)
                ends[b].append(m)
        held = {s.node for s in project.supports if s.held[2] or s.spring[2] > 0}
        held |= set(nodes_on_walls(project).tolist())
        hangers: dict[int, list[int]] = defaultdict(list)
        for m in np.flatnonzero(bar).tolist():
            near, far = project.ends[m].tolist()
            low, high = (near, far) if z[near] < z[far] else (far, near)
            rises = z[high] - z[low] > LEVEL * project.lengths[m]
            hangs = high in held or high in columns or high in beams
            if project.members[m].acts != Acts.COMPRESSION and rises and hangs:
                hangers[low].append(m)
        return _Around(columns, beams, hangers, held, ends)


def bearing(project: Project) -> Bearing:
    """The bodies of a project and their seats."""
    bar = np.array([m.bar for m in project.members], bool)
    upright = (np.abs(project.axes[:, 0, 2]) >= UPRIGHT) & ~bar
    around = _Around.of(project, upright, bar)
    seats = _own_seats(project, around, upright, bar)
    joined = _Joined(project, around, upright, seats)
    joined.pieces()
    joined.overhangs()  # before what rests on their tips
    joined.free_joints()
    joined.overhangs()
    joined.standing()
    groups = {id(ms): ms for ms in joined.body}.values()
    bodies = tuple(_body(project, tuple(sorted(ms)), [seat for m in ms for seat in seats[m]]) for ms in groups)
    of = np.zeros(len(project.members), np.intp)
    for i, body in enumerate(bodies):
        of[list(body.members)] = i
    return Bearing(project, upright, bodies, of, around)


def _holder(project: Project, around: _Around, node: int, m: int) -> int | None:
    """What holds a member at one of its nodes: the ground, a column, a beam that passes and is stiffer than one that
    passes too, or a bar on which it hangs."""
    if node in around.supports:
        return GROUND
    for c in around.columns.get(node, ()):
        if c != m:
            return c

    def stiffness(i: int) -> float:
        return bending(project, i)

    passing = m in around.beams.get(node, ())
    others = [b for b in around.beams.get(node, ()) if b != m]
    others = [b for b in others if not passing or stiffness(b) > stiffness(m) * (1 + 1e-9)]
    if others:
        return max(others, key=stiffness)
    hangers = [h for h in around.hangers.get(node, ()) if h != m]
    return max(hangers, key=lambda h: abs(float(project.axes[h, 0, 2]))) if hangers and not passing else None


def bending(project: Project, m: int) -> float:
    """E Iy of a member [N m2]."""
    return project.members[m].section.Iy * project.members[m].material.E


def holder_of_node(bearing: Bearing, node: int) -> int | None:
    """What carries a load on a node: the ground, a column, a beam that passes or ends there, a bar it hangs on."""
    held = _holder(bearing.project, bearing.around, node, -1)
    if held is not None:
        return held
    project = bearing.project

    def weakness(m: int) -> tuple[bool, bool, float, str]:
        own = project.members[m]
        return len(bearing.body(m).seats) < 2, own.bar, -bending(project, m), own.name

    return min(bearing.around.ends.get(node, []), key=weakness, default=None)


def _own_seats(project: Project, around: _Around, upright: Bools, bar: Bools) -> list[list[tuple[int, int]]]:
    """Node and bearer of every place where a member rests by itself; a column only at its foot."""
    inner: dict[int, list[int]] = defaultdict(list)
    for m, k, _ in zip(*(v.tolist() for v in project.nodes_on_members), strict=True):
        inner[m].append(k)
    z = project.xyz[:, 2]
    out = []
    for m, (a, b) in enumerate(project.ends.tolist()):
        if upright[m]:
            places = [a if z[a] < z[b] else b]
        else:
            places = [a, *([] if bar[m] else inner[m]), b]
        held = ((k, _holder(project, around, k, m)) for k in places)
        out.append([(k, on) for k, on in held if on is not None])
    return out


def in_line(project: Project, a: int, b: int, node: int, passes_on: Callable[[int, int], bool]) -> bool:
    """Whether two members go on in one line in plan over a node; `passes_on`: whether a member, at its start (0) or its
    end (1), hands bending on."""
    ways = []
    for m in (a, b):
        at_end = int(node == project.ends[m, 1])
        flat = project.axes[m, 0, :2] * (1 if at_end else -1)
        size = np.linalg.norm(flat)
        if project.members[m].bar or size < LEVEL or not passes_on(m, at_end):
            return False
        ways.append(flat / size)
    return float(ways[0] @ ways[1]) < -IN_LINE


class _Joined:
    """Members joined to bodies, step by step; `seats` grow where a piece comes to rest on a body. `body`: of every
    member the list of those it carries with, the same list for all of them."""

    def __init__(self, project: Project, around: _Around, upright: Bools, seats: list[list[tuple[int, int]]]) -> None:
        self.project, self.around, self.upright, self.seats = project, around, upright, seats
        self.body = [[m] for m in range(len(project.members))]
        rigid = np.array([np.isinf(np.array(m.joints).reshape(2, 6)[:, 4:]).all(axis=1) for m in project.members])
        self.rigid = rigid.reshape(-1, 2)

    def same(self, a: int, b: int) -> bool:
        return self.body[a] is self.body[b]

    def join(self, a: int, b: int) -> None:
        if self.same(a, b):
            return
        more, less = sorted((self.body[a], self.body[b]), key=len, reverse=True)
        more += less
        for m in less:
            self.body[m] = more

    def count(self, m: int) -> int:
        """How many different places its body rests on, its own members left out."""
        own = self.body[m]
        return len({k for i in own for k, on in self.seats[i] if on == GROUND or self.body[on] is not own})

    def in_line(self, a: int, b: int, node: int) -> bool:
        """Whether two members go on in one line over a node, rigidly joined there."""
        return in_line(self.project, a, b, node, lambda m, end: bool(self.rigid[m, end]))

    def held(self, node: int, m: int) -> bool:
        return any(k == node for k, _ in self.seats[m])

    def pieces(self) -> None:
        """Pieces of one beam, rigidly joined in one line where nothing holds either."""
        for node, there in self.around.ends.items():
            loose = [m for m in there if not self.held(node, m)]
            for i, a in enumerate(loose):
                for b in loose[:i]:
                    if self.in_line(a, b, node):
                        self.join(a, b)

    def free_joints(self) -> None:
        """Where nothing holds them: what does not stand by itself rests on what does, or goes along with its like."""
        changed = True
        while changed:
            changed = False
            for node, there in self.around.ends.items():
                hangers = self.around.hangers.get(node, ())
                loose = [m for m in there if not self.held(node, m) and m not in hangers]
                if not loose or all(self.same(m, there[0]) for m in there):
                    continue
                weak = [m for m in loose if self.count(m) < 2]
                strong = [m for m in there if self.count(m) > 1]
                others = [m for m in weak if not self.same(m, weak[0])]
                if weak and strong:
                    for m in weak:
                        self.seats[m].append((node, min(strong, key=self.weakness)))
                    changed = True
                elif others:
                    for m in others:
                        self.join(weak[0], m)
                    changed = True

    def standing(self) -> None:
        """Columns that stand on no beam that passes, but where beams end: on the pieces of one in line, on the tip of
        an overhang; of several on what stands by itself, the stiffest of these."""
        for m in np.flatnonzero(self.upright).tolist():
            if self.seats[m]:
                continue
            low, high = sorted(self.project.ends[m].tolist(), key=lambda k: self.project.xyz[k, 2])
            under = [b for b in self.around.ends.get(low, []) if self.count(b)]
            if under and high != low:
                self.seats[m].append((low, min(under, key=self.weakness)))

    def weakness(self, m: int) -> tuple[bool, bool, float, str]:
        """Of members that end at a node the first by this bears what stands there."""
        own = self.project.members[m]
        return self.count(m) < 2, own.bar, -bending(self.project, m), own.name

    def overhangs(self) -> None:
        """What rests on one place only goes on as one beam with what is in line behind it."""
        for m in range(len(self.body)):
            if self.upright[m] or self.count(m) != 1:
                continue
            for node, on in list(self.seats[m]):
                for other in self.around.ends.get(node, []):
                    if on != other and not self.same(other, m) and self.in_line(m, other, node):
                        self.join(m, other)


def _body(project: Project, members: tuple[int, ...], seats: list[tuple[int, int]]) -> Body:
    inside = set(members)
    nodes = list(dict.fromkeys((k, on) for k, on in seats if on not in inside))
    xyz = project.xyz
    start = xyz[project.ends[members[0], 0]]
    axis = project.axes[members[0], 0]
    flat = True
    if len(members) > 1:
        ends = xyz[np.unique(project.ends[list(members)])]
        span = ends[:, :2] - ends[0, :2]
        far = span[np.linalg.norm(span, axis=1).argmax()]
        if len(nodes) > 1:
            at = xyz[[k for k, _ in nodes], :2]
            apart = at - at[0]
            wide = apart[np.linalg.norm(apart, axis=1).argmax()]
            far = wide if np.linalg.norm(wide) > SAME_SEAT else far
            start = xyz[nodes[0][0]]
        way = far / max(float(np.linalg.norm(far)), 1e-12)
        axis = np.array([way[0], way[1], 0.0])
        across = np.array([-way[1], way[0], 0.0])
        flat = bool(np.abs((ends - start) @ across).max() <= OUT_OF_PLANE)
    found: list[Seat] = []
    for k, on in sorted(nodes, key=lambda seat: float((xyz[seat[0]] - start) @ axis)):
        s = float((xyz[k] - start) @ axis)
        if not found or s - found[-1].s > SAME_SEAT:
            found.append(Seat(s, k, on))
    return Body(members, start, axis, tuple(found), flat)
