"""Beams that go on over several spans, in however many pieces, by what they rest on (bearing.py).

o======+======+======+===     spans between what holds the beam; an overhang is a span
|      |      |      |
0      6     12     18   20
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ..model.project import Project
from .bearing import GROUND, OUT_OF_PLANE, Bearing, bending, in_line

Floats = NDArray[np.float64]
OVERHANG = 0.3
"""A beam that reaches less than this beyond what holds it [m] has no overhang there."""
SAME_PLACE = 0.05
"""Places of seats within this of each other [m] are one."""
ACROSS = 0.7
"""Beams cross where the cosine between them in plan is less."""


@dataclass(frozen=True)
class Beam:
    """A beam over two spans or more: its members and bodies (indices), the level unit vector (2,) along it, and where
    its spans begin and end along that [m]."""

    members: tuple[int, ...]
    bodies: frozenset[int]
    way: Floats
    places: tuple[float, ...]


def continuous_beams(rests: Bearing) -> list[Beam]:
    """All beams that are straight in plan and go on over two spans or more, overhangs counted as spans."""
    bodies = _chains(rests)
    found = (_beam(rests, sorted(own)) for own in bodies)
    return [beam for beam in found if beam is not None]


def _chains(rests: Bearing) -> list[list[int]]:
    """Bodies that go on as one over what holds them."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    pairs = [(b, b) for b in range(len(rests.bodies))]
    for node, there in rests.around.ends.items():
        pairs += [(int(rests.of[a]), int(rests.of[b])) for a, b in combinations(there, 2)
                  if goes_on(rests.project, a, b, node)]  # fmt: skip
    if not pairs:
        return []
    links = coo_array((np.ones(len(pairs)), tuple(zip(*pairs, strict=True))), shape=(len(rests.bodies),) * 2)
    _, group = connected_components(links, directed=False)
    out: dict[int, list[int]] = defaultdict(list)
    for body, k in enumerate(group.tolist()):
        out[k].append(body)
    return list(out.values())


def goes_on(project: Project, a: int, b: int, node: int) -> bool:
    """Whether two members go on in one line in plan over a node, and both hand bending up and down on there, if only by
    a spring."""

    def passes_on(m: int, end: int) -> bool:
        # The axis of bending that is more level.
        about = 4 if abs(project.axes[m, 1, 2]) <= abs(project.axes[m, 2, 2]) else 5
        return bool(project.members[m].joints[6 * end + about])

    return in_line(project, a, b, node, passes_on)


def _beam(rests: Bearing, own: list[int]) -> Beam | None:
    project = rests.project
    members = sorted(m for b in own for m in rests.bodies[b].members)
    if rests.upright[members].any():
        return None
    nodes = dict.fromkeys(int(k) for m in members for k in project.ends[m])
    inside = set(own)
    seats = {s.node for b in own for s in rests.bodies[b].seats if s.on == GROUND or int(rests.of[s.on]) not in inside}
    seats |= set(_stiffer_across(rests, members, inside))
    if not seats:
        return None
    xy = project.xyz[[*nodes, *seats], :2]
    apart = xy - xy[0]
    far = xy[np.linalg.norm(apart, axis=1).argmax()]
    span = xy - far
    way = span[np.linalg.norm(span, axis=1).argmax()]
    size = float(np.linalg.norm(way))
    if size < OVERHANG:
        return None
    way = upward(way / size)
    across = np.array([-way[1], way[0]])
    if np.ptp(xy @ across) > OUT_OF_PLANE:
        return None
    held = np.sort(project.xyz[list(seats), :2] @ way)
    held = held[np.append(True, np.diff(held) > SAME_PLACE)]
    reach = xy @ way
    low, high = float(reach.min()), float(reach.max())
    places = [*([low] if held[0] - low > OVERHANG else []), *held.tolist(), *([high] if high - held[-1] > OVERHANG else
                                                                             [])]  # fmt: skip
    return Beam(tuple(members), frozenset(own), way, tuple(places)) if len(places) > 2 else None


def upward(way: Floats) -> Floats:
    """A level direction (2,), of both ways along it the one towards x, or towards y where it is across x."""
    turned = way[0] < -1e-6 or (abs(way[0]) <= 1e-6 and way[1] < 0)
    return np.asarray(-way if turned else way)


def _stiffer_across(rests: Bearing, members: list[int], own: set[int]) -> Iterator[int]:
    """Nodes on a beam where a stiffer one crosses that stands by itself, and does not rest on it: both in pieces, so
    that neither passes the other."""
    project = rests.project
    for m in members:
        for node in project.ends[m].tolist():
            for other in rests.around.ends.get(node, ()):
                body = int(rests.of[other])
                rival = rests.bodies[body]
                if body in own or project.members[other].bar or len(rival.seats) < 2:
                    continue
                lean = abs(float(project.axes[m, 0, :2] @ project.axes[other, 0, :2]))
                leans_on = any(s.node == node and s.on != GROUND and int(rests.of[s.on]) in own for s in rival.seats)
                if lean < ACROSS and not leans_on and bending(project, other) > bending(project, m) * (1 + 1e-9):
                    yield node
