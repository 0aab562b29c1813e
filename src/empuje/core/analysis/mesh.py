"""The mesh: physical members cut into elements at the nodes that lie on them, as arrays.

member   o---------------o------o--------===o
element  |       0       |  1   |   2   | 3 |
s0       0              3.2    4.5     6.3        [m] from the member's start

A rigid length at an end is an element of its own, fast to that end's node (3 above).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model.frame import Member
from ..model.project import Project

Ints = NDArray[np.intp]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Mesh:
    """Elements in the order of their members; element e of member m: first[m] <= e < first[m + 1].

    start, end: nodes; s0, length [m]; axes (n, 3, 3) rows x y z; EA [N], EIy, EIz, GJ [N m2];
    GAy, GAz [N], infinite where shear is rigid; joint (n, 12): stiffness of the end connections [N/m, N m/rad],
    start x..rz, end x..rz in member axes, infinite where rigid; rigid (n,): the rigid lengths at members' ends;
    arm (n, 2) [m]: how far along x an element's start and end lie from the nodes they belong to.
    """

    first: Ints
    member: Ints
    start: Ints
    end: Ints
    s0: Floats
    length: Floats
    axes: Floats
    EA: Floats
    EIy: Floats
    EIz: Floats
    GJ: Floats
    GAy: Floats
    GAz: Floats
    joint: Floats
    rigid: NDArray[np.bool_]
    arm: Floats

    def elements_of(self, members: Ints) -> Ints:
        """All elements of the members, in order."""
        return ranges(self.first[members], self.first[members + 1])


def ranges(start: Ints, stop: Ints) -> Ints:
    """start[0], ..., stop[0] - 1, start[1], ... as one array."""
    count = stop - start
    before = np.cumsum(count) - count
    return np.asarray(np.arange(count.sum()) + np.repeat(start - before, count))


def build_mesh(project: Project) -> Mesh:
    """Cut the members at the nodes on them, bars excepted, and where rigid lengths end."""
    n = len(project.members)
    bar = np.array([m.bar for m in project.members], bool)
    cut_member, cut_node, cut_s = project.nodes_on_members
    keep = ~bar[cut_member] if n else np.zeros(0, bool)
    cut_member, cut_node, cut_s = cut_member[keep], cut_node[keep], cut_s[keep]

    # Members that share a kind share their rigidities and what happens at their ends.
    kinds: dict[tuple[Any, ...], int] = {}
    kind = [
        kinds.setdefault((id(m.section), id(m.material), m.bar, m.shear, m.offsets, id(m.joints)), len(kinds))
        for m in project.members
    ]
    first_of, which = np.unique(kind, return_index=True)[1], np.array(kind, np.intp)
    samples = [project.members[i] for i in first_of]
    offset = np.array([m.offsets for m in samples], float).reshape(-1, 2)[which]
    near, far = np.flatnonzero(offset[:, 0] > 0), np.flatnonzero(offset[:, 1] > 0)
    member = np.concatenate([np.arange(n), cut_member, near, far])
    node = np.concatenate([project.ends[:, 0], cut_node, project.ends[near, 0], project.ends[far, 1]])
    s0 = np.concatenate([np.zeros(n), cut_s, offset[near, 0], project.lengths[far] - offset[far, 1]])
    arm = np.concatenate([np.zeros(n + len(cut_s)), offset[near, 0], -offset[far, 1]])
    order = np.lexsort((s0, member))
    member, node, s0, arm = member[order], node[order], s0[order], arm[order]
    first = np.searchsorted(member, np.arange(n + 1))
    last = first[1:] - 1
    end = np.roll(node, -1)
    s1 = np.roll(s0, -1)
    end_arm = np.roll(arm, -1)
    end[last], s1[last], end_arm[last] = project.ends[:, 1], project.lengths, 0.0

    joint = np.full((len(member), 12), np.inf)
    of_member = np.array([m.joints for m in samples], float).reshape(-1, 12)[which]
    joint[first[:-1] + (offset[:, 0] > 0), :6] = of_member[:, :6]
    joint[last - (offset[:, 1] > 0), 6:] = of_member[:, 6:]

    table = np.array([_rigidities(m) for m in samples], float).reshape(-1, 6)
    EA, EIy, EIz, GJ, GAy, GAz = table[which[member]].T.copy()
    return Mesh(
        first=first, member=member, start=node, end=end, s0=s0, length=s1 - s0, axes=project.axes[member],
        EA=EA, EIy=EIy, EIz=EIz, GJ=GJ, GAy=GAy, GAz=GAz, joint=joint, rigid=node == end,
        arm=np.column_stack([arm, end_arm]),
    )  # fmt: skip


def _rigidities(member: Member) -> tuple[float, ...]:
    """EA [N], EIy, EIz, GJ [N m2], GAy, GAz [N]: no torsion in a bar, no shear strain unless asked for."""
    section, material = member.section, member.material
    sheared = [material.G * (area or np.inf) if member.shear else np.inf for area in (section.Ay, section.Az)]
    twist = 0.0 if member.bar else material.G * section.J
    return (material.E * section.A, material.E * section.Iy, material.E * section.Iz, twist, *sheared)
