"""Where members are held, and the lengths between.

A joint on a member holds it along the directions of the other members that meet there, and of supports and rigid
floors; its ends are always held, since frames that sway are for the analysis (EN 1993-1-1, 5.2.2(7)b; AISC 360, C3).

    o======+=========+======o       +  a member along y holds sideways and against twisting
           |         :              :  one along z holds the buckling about y alone

Between places held along z it buckles about y; between those held along y about z, in torsion, and laterally. An end
that nothing meets is free: about y and z its length counts twice, and lateral buckling is not looked at. In a plane
frame nothing holds out of the plane but the ends: what else does is stated.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, fields
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...model.project import Project
from ...model.steel import HeldAt, SteelRule

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ALONG = 0.5
"""A member holds along directions to which its axis has at least this cosine."""
SAME = 1e-6


@dataclass(frozen=True)
class Lengths:
    """Stretches of members between places held sideways: the member, from x0 to x1 (n,) [m]; y0 to y1, of the stretches
    between places held along z the longest that it meets; buckling lengths about y, z, in torsion and laterally [m];
    whether an end is free; flanges held all along."""

    member: Ints
    x0: Floats
    x1: Floats
    y0: Floats
    y1: Floats
    L_y: Floats
    L_z: Floats
    L_T: Floats
    L_LT: Floats
    free: NDArray[np.bool_]
    top: NDArray[np.bool_]
    bottom: NDArray[np.bool_]

    def rows(self, rows: Ints) -> Lengths:
        """Some of them."""
        return Lengths(*(getattr(self, f.name)[rows] for f in fields(self)))


class _Joints:
    """What meets at the nodes of a frame: directions of members, and what supports and rigid floors hold."""

    def __init__(self, project: Project) -> None:
        self.project = project
        self.meets: dict[int, list[tuple[int, Floats]]] = {}
        axes = project.axes[:, 0]
        for m, pair in enumerate(project.ends.tolist()):
            for node in pair:
                self.meets.setdefault(node, []).append((m, axes[m]))
        self.inside: dict[int, list[tuple[int, float]]] = {}
        for m, node, s in zip(*(v.tolist() for v in project.nodes_on_members), strict=True):
            if not project.members[m].bar:
                self.inside.setdefault(m, []).append((node, s))
                self.meets.setdefault(node, []).append((m, axes[m]))
        self.fixed: dict[int, list[Floats]] = {}
        for s in project.supports:
            rows = np.array(s.axes)
            self.fixed.setdefault(s.node, []).extend(
                rows[i] for i in range(3) if s.held[i] or s.spring[i]
            )  # fmt: skip
        for floor in project.diaphragms:
            for node in floor.nodes:
                self.fixed.setdefault(node, []).extend(np.eye(3)[:2])

    def holds(self, member: int, node: int, direction: Floats) -> bool:
        """Whether what meets a member at a node holds it along a direction."""
        others = (axis for m, axis in self.meets.get(node, []) if m != member)
        return any(abs(float(axis @ direction)) >= ALONG for axis in (*others, *self.fixed.get(node, [])))

    def free(self, member: int, node: int) -> bool:
        """Whether nothing else meets there."""
        return len(self.meets.get(node, [])) == 1 and not self.fixed.get(node)


def lengths_of(project: Project, rule: SteelRule, members: Ints) -> Lengths:
    """The stretches of members, in their order."""
    joints = _Joints(project)
    rows = [row for m in members.tolist() for row in _stretches(project, joints, m, rule.held_at(m))]
    columns = list(zip(*rows, strict=True)) if rows else [()] * 12
    floats = [np.array(c, float) for c in columns[1:9]]
    member = np.array(columns[0], np.intp)
    return Lengths(member, *floats, *(np.array(c, bool) for c in columns[9:]))


def _stretches(project: Project, joints: _Joints, m: int, held: HeldAt) -> list[tuple[float, ...]]:
    length = float(project.lengths[m])
    axes = project.axes[m]
    inner = joints.inside.get(m, [])
    free = [joints.free(m, node) for node in project.ends[m].tolist()]
    sideways = [s for node, s in inner if joints.holds(m, node, axes[1])]
    upward = [s for node, s in inner if joints.holds(m, node, axes[2])]
    if held.braced_at is not None:
        sideways = [p.on(length) for p in held.braced_at]
    z_at, y_at = _cut(sideways, length), _cut(upward, length)
    out: list[tuple[float, ...]] = []
    for x0, x1 in pairwise(z_at):
        meets = [(a, b) for a, b in pairwise(y_at) if a < x1 - SAME and b > x0 + SAME]
        y0, y1 = max(meets, key=lambda ab: ab[1] - ab[0])
        loose_z, loose_y = _loose(free, x0, x1, length), _loose(free, y0, y1, length)
        L_y = _stated(held.L_y, held.k_y, (y1 - y0) * (2 if loose_y else 1))
        L_z = _stated(held.L_z, held.k_z, (x1 - x0) * (2 if loose_z else 1))
        L_T, L_LT = _stated(held.L_T, held.k_T, x1 - x0), _stated(held.L_LT, held.k_LT, x1 - x0)
        tip = loose_z and math.isnan(held.L_LT)
        flanges = held.flange in ("top", "both"), held.flange in ("bottom", "both")
        out.append((float(m), x0, x1, y0, y1, L_y, L_z, L_T, L_LT, tip, *flanges))
    return out


def _cut(inner: list[float], length: float) -> list[float]:
    places = sorted(s for s in inner if SAME < s < length - SAME)
    return [0.0, *(s for i, s in enumerate(places) if not i or s - places[i - 1] > SAME), length]


def _loose(free: list[bool], x0: float, x1: float, length: float) -> bool:
    return (free[0] and x0 <= SAME) or (free[1] and x1 >= length - SAME)


def _stated(stated: float, factor: float, found: float) -> float:
    return stated if not math.isnan(stated) else factor * found
