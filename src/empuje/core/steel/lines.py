"""Members that continue each other as one: pieces end to end in one straight line.

    o-----o--------o-----o        one line of three members; offset: where each starts along it

Pieces go on through a node where they are rigidly joined, where both are bars of one section, or where nothing else
meets. Lengths between places that hold count along the whole line. Where all its pieces have one section and material,
and lie the same way, its forces are looked at as those of one member; else (`steps`) piece by piece.
"""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ..model.project import Project
from .shapes import kind_of

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
STRAIGHT = math.cos(math.radians(1.0))
"""Pieces whose axes differ by up to a degree are in line."""
BOTH_WAYS = ("I", "hollow", "pipe", "solid", "round")
"""Kinds that look the same from either end, and upside down."""


@dataclass(frozen=True)
class Lines:
    """of: the line of each member (members,); offset [m] of its start along the line; signs (members, 3) of its axes
    against the line's; members of each line in order; length (lines,) [m]; steps (lines,): not of one section."""

    of: Ints
    offset: Floats
    signs: Floats
    members: tuple[tuple[int, ...], ...]
    length: Floats
    steps: NDArray[np.bool_]


def build_lines(project: Project) -> Lines:
    """The lines of a project's members; most are members by themselves."""
    links = _links(project)
    n = len(project.members)
    of, offset, signs = np.full(n, -1, np.intp), np.zeros(n), np.ones((n, 3))
    members: list[tuple[int, ...]] = []
    length: list[float] = []
    steps: list[bool] = []
    for m in range(n):
        if of[m] >= 0:
            continue
        if m not in links:
            of[m] = len(members)
            members.append((m,))
            length.append(float(project.lengths[m]))
            steps.append(False)
            continue
        own = _connected(links, m)
        if len(own) > 1:
            x = project.axes[m, 0]
            at = {i: float((project.xyz[project.ends[i]] @ x).min()) for i in own}
            own = sorted(own, key=at.__getitem__)
        cosine = np.sum(project.axes[own] * project.axes[m], axis=2)
        signs[own] = np.where(cosine < 0, -1.0, 1.0)
        of[own] = len(members)
        reach = 0.0
        for i in own:
            offset[i] = reach if signs[i, 0] > 0 else reach + project.lengths[i]
            reach += float(project.lengths[i])
        straight = np.abs(np.abs(cosine) - 1).max(axis=1) < 1e-3
        steps.append(not all(straight) or any(not _alike(project, m, i, signs[i]) for i in own if i != m))
        members.append(tuple(own))
        length.append(reach)
    return Lines(of, offset, signs, tuple(members), np.array(length), np.array(steps, bool))


def _connected(links: dict[int, list[int]], first: int) -> list[int]:
    found, left = {first}, [first]
    while left:
        for other in links.get(left.pop(), ()):
            if other not in found:
                found.add(other)
                left.append(other)
    return sorted(found)


def _alike(project: Project, a: int, b: int, signs: Floats) -> bool:
    """Whether forces of one member go on as those of the other."""
    one, other = project.members[a], project.members[b]
    if one.section is not other.section and one.section != other.section:
        return False
    if one.material != other.material or one.bar != other.bar:
        return False
    return bool((signs > 0).all()) or kind_of(one.section) in BOTH_WAYS


def _links(project: Project) -> dict[int, list[int]]:
    """What each member goes on with at its ends."""
    ends: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for m, pair in enumerate(project.ends.tolist()):
        for end, node in enumerate(pair):
            ends[node].append((m, end))
    busy = set(project.nodes_on_members[1].tolist()) | {s.node for s in project.supports}
    busy |= {node for floor in project.diaphragms for node in floor.nodes}
    x = project.axes[:, 0]
    out: dict[int, list[int]] = defaultdict(list)
    for node, there in ends.items():
        pairs = []
        for (a, end_a), (b, end_b) in combinations(there, 2):
            way = (1 if end_a else -1) * (1 if end_b else -1)
            if float(x[a] @ x[b]) * way > -STRAIGHT:
                continue
            alone = len(there) == 2 and node not in busy
            if _goes_on(project, (a, end_a), (b, end_b)) or alone:
                pairs.append((a, b))
        taken: set[int] = set()
        for a, b in sorted(pairs, key=lambda p: project.members[p[0]].section != project.members[p[1]].section):
            if not {a, b} & taken:
                taken |= {a, b}
                out[a].append(b)
                out[b].append(a)
    return out


def _goes_on(project: Project, one: tuple[int, int], other: tuple[int, int]) -> bool:
    """Whether two members in line are one through their node: rigidly joined, or bars of one section."""
    a, b = (project.members[m] for m, _ in (one, other))
    if a.bar or b.bar:
        return a.bar and b.bar and a.section == b.section
    return all(
        math.isinf(project.members[m].joints[6 * end + k]) for m, end in (one, other) for k in range(6)
    )  # fmt: skip
