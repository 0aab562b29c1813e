"""What holds members where others meet them, and whether that is held itself.

A place on a line of members is held along a direction by a support, by a rigid floor or by what meets there, if the
rest of the frame offers enough stiffness, that of AISC 360, appendix 6.2.2 (point bracing),

    beta = 8 P_r / (phi L_br),   phi = 0.75

for the greatest compression of the member or, bent, of its flange (without results min(A f_y, pi^2 E I/L_br^2)); half
of it where the places beside move along (panel bracing, 6.2.1, 2 P_r/(phi L_br) of each panel). It is measured against
the line between the places beside, with the bending of all members parallel to it taken out, and the places of all
these that lie level with one another pushed at once (EN 1993-1-1, 5.3.3: what braces several members is asked by all
of them); and beta/(2 n) where all n places of every line are pushed at once: the line bends at its ends alone then. So
a stub, a bracket, a soft spring, a strut to a twin hold nothing.

Two things hold without that, since the sway of a frame is for its analysis (EN 1993-1-1, 5.2.2(7)b; AISC 360, C3): a
beam that is rigidly joined to a column holds it along the beam, a structural surface in its plane; a column that stands
on a support holds what runs over it. So are the ends of a line held by what meets there, if that hangs together with
the ground without the line.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np
from numpy.typing import NDArray

from ..analysis.equations import Equations
from ..analysis.restraint import Pushed, stiffness_offered
from ..model.frame import Support
from ..model.near import together
from ..model.project import Project
from .grounded import Grounded
from .lines import STRAIGHT, Lines
from .on_surfaces import OnSurfaces
from .shapes import kind_of
from .strength import yield_strength

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ALONG = 0.5
"""What meets a member acts along directions to which its axis has at least this cosine."""
PARALLEL = 0.9
"""Members whose axes have at least this cosine buckle together."""
UPRIGHT = 0.9
PHI = 0.75
FULL = 355e6
"""A yield strength for members whose material states none [N/m2]."""
SAME = 1e-3
"""Places on a line nearer than this are one [m]."""
Pressed = Callable[[Sequence[int]], Mapping[int, float]]
"""From members to the greatest compression in each or in a flange of it [N]."""
LEAST = 0.02
"""The least share of its strength that a member is taken to be pressed by."""
LEVEL = 0.3
"""Places of parallel members within so much along them are level [m]."""
MOST_WAYS = 120
"""Directions, of lines and across these, for which the frame is looked at; of more, nothing is held that needs it."""
Y, Z, TWIST = 0, 1, 2


@dataclass(frozen=True)
class Place:
    """A place on a line at s [m], its node, whether it is the line's end; held along y, along z, against twist; what
    holds each, or why nothing does."""

    s: float
    node: int
    end: bool
    held: tuple[bool, bool, bool]
    by: tuple[str, str, str]


@dataclass(frozen=True)
class _Asked:
    """A place of a line by its number, its node, and the direction (Y or Z, and as a vector) in which stiffness is
    asked for: P_r [N] and how much [N/m]."""

    line: int
    place: int
    node: int
    direction: int
    way: Floats
    P: float
    needed: float


class Restraints:
    """Asked for the places of a line."""

    def __init__(
        self, project: Project, lines: Lines, equations: Callable[[], Equations], pressed: Pressed | None = None
    ) -> None:
        self.project, self.lines, self.equations = project, lines, cache(equations)
        self.pressed = pressed
        self.surfaces = OnSurfaces(project)
        self.grounded = Grounded(project, lines, self.surfaces)
        self.at = _places(project, lines)
        self.ends_at: dict[int, list[tuple[int, int]]] = defaultdict(list)
        for m, pair in enumerate(project.ends.tolist()):
            for end, node in enumerate(pair):
                self.ends_at[node].append((m, end))
        self.passing: dict[int, list[int]] = defaultdict(list)
        for m, node, _ in zip(*(v.tolist() for v in project.nodes_on_members), strict=True):
            if not project.members[m].bar:
                self.passing[node].append(m)
        self.supports: dict[int, list[Support]] = defaultdict(list)
        for s in project.supports:
            self.supports[s.node].append(s)
        self.floors = {node for floor in project.diaphragms for node in floor.nodes}
        self.bases = {s.node for s in project.supports if s.held[2] or s.lift}
        self._full: dict[tuple[int, int], float] = {}

    def axes(self, line: int) -> Floats:
        """Rows y and z of a line."""
        return np.asarray(self.project.axes[self._first(line), 1:])

    def _first(self, line: int) -> int:
        own = self.lines.members[line]
        return min(own)

    def of_lines(self, lines: Sequence[int]) -> dict[int, list[Place]]:
        """The places of some lines, in order along each."""
        return {line: [self._place(line, s, node, i in (0, len(self.at[line]) - 1))
                       for i, (s, node) in enumerate(self.at[line])] for line in lines}  # fmt: skip

    def _others(self, line: int, node: int) -> list[tuple[int, int]]:
        """Members of other lines at a node, with the end they have there; -1 for those that pass."""
        found = [*self.ends_at[node], *((m, -1) for m in self.passing[node])]
        return [(m, end) for m, end in found if self.lines.of[m] != line]

    def _meets(self, line: int, node: int) -> bool:
        there = node in self.supports or node in self.floors or node in self.surfaces.of_node
        return there or bool(self._others(line, node))

    def _out_of_plane(self, way: Floats) -> bool:
        return self.project.plane and abs(float(way[1])) > ALONG

    def _place(self, line: int, s: float, node: int, end: bool) -> Place:
        axes = self.axes(line)
        look = self._at_end if end else self._inside
        y, by_y = look(line, node, Y, axes[Y])
        z, by_z = look(line, node, Z, axes[Z])
        twist = y and (end or self._twist(line, node))
        by_twist = by_y if twist else "nothing that bends goes on from there" if y else by_y
        return Place(s, node, end, (y, z, twist), (by_y, by_z, by_twist))

    def _twist(self, line: int, node: int) -> bool:
        """Whether what meets at a place may hold the line against twisting: a member that bends, goes on from there and
        lies across, a support that holds that rotation, or a structural surface."""
        x = self.project.axes[self._first(line), 0]
        if self.surfaces.holds_twist(node, x):
            return True
        for m, _ in self._others(line, node):
            across = abs(float(self.project.axes[m, 0] @ x)) < PARALLEL
            if across and not self.project.members[m].bar and not self.grounded.dead_end(int(self.lines.of[m]), node):
                return True
        return any(
            held and abs(float(np.array(s.axes)[i] @ x)) >= ALONG
            for s in self.supports[node] for i, held in enumerate(s.held[3:])
        )  # fmt: skip

    def _at_end(self, line: int, node: int, direction: int, way: Floats) -> tuple[bool, str]:
        """Whether an end of a line is held along a direction."""
        project = self.project
        if self._supported(line, node, direction, way):
            return True, "a support"
        if node in self.floors and abs(float(way[2])) < ALONG:
            return True, "a rigid floor"
        others = [(m, end) for m, end in self._others(line, node)
                  if not self.grounded.dead_end(int(self.lines.of[m]), node)]  # fmt: skip
        if not self.grounded.without(line, node):
            return False, "a free end" + (", with what only it carries" if self._others(line, node) else "")
        surface = self.surfaces.holds(node, way)
        if surface:
            return True, surface
        if self._out_of_plane(way):
            return bool(others) or node in self.supports, "as an end, out of the plane"
        along = 0.0
        for m, end in others:
            joints = project.members[m].joints[6 * end : 6 * end + 3] if end >= 0 else (math.inf,) * 3
            along += float(project.axes[m, 0] @ way) ** 2 * (joints[0] > 0)
            if along >= ALONG**2 or (not project.members[m].bar and min(joints) > 0):
                return True, project.members[m].name
        return False, "nothing that meets there acts that way"

    def _supported(self, line: int, node: int, direction: int, way: Floats) -> bool:
        for s in self.supports[node]:
            along = np.abs(np.array(s.axes) @ way) >= ALONG
            spring = np.array(s.spring[:3])
            needed = self._needed(line, direction, float(self.lines.length[line]))[1]
            if (along & (np.array(s.held[:3]) | (spring >= needed))).any():
                return True
        return False

    def _inside(self, line: int, node: int, direction: int, way: Floats) -> tuple[bool, str]:
        """Whether a place within a line is held along a direction."""
        if not self._meets(line, node):
            return False, "nothing meets there"
        if self._out_of_plane(way):
            return False, "out of the plane: state what holds there"
        if not self.grounded.without(line, node):
            return False, "only the member itself carries what meets there"
        known = self._by_the_frame(line, node, way)
        if known:
            return True, known
        if (line, node, direction) not in self._offers:
            return False, f"more than {MOST_WAYS} directions to look at: state braced_at"
        offered, needed = self._offers[line, node, direction]
        return offered >= needed, f"{_stiff(offered)} offered, {_stiff(needed)} asked for"

    def _by_the_frame(self, line: int, node: int, way: Floats) -> str:
        """What holds a place within a line where sway is for the analysis: a beam rigidly joined to a column, a column
        that stands on a support; "" where nothing does."""
        project = self.project
        others = self._others(line, node)
        if self._upright(line):
            surface = self.surfaces.holds(node, way)
            if surface:
                return surface
            for m, end in others:
                rigid = end < 0 or all(math.isinf(j) for j in project.members[m].joints[6 * end : 6 * end + 6])
                along = abs(float(project.axes[m, 0] @ way)) >= ALONG
                own = int(self.lines.of[m])
                if rigid and along and not project.members[m].bar and not self.grounded.dead_end(own, node):
                    return f"{project.members[m].name}, rigidly joined"
            return ""
        columns = (m for m, _ in others if self._stands(int(self.lines.of[m])))
        return next((f"the column {project.members[m].name}" for m in columns), "")

    def _upright(self, line: int) -> bool:
        return abs(float(self.project.axes[self._first(line), 0, 2])) >= UPRIGHT

    def _stands(self, line: int) -> bool:
        """Whether a line is a column with its foot on a support."""
        if not self._upright(line) or self.project.members[self._first(line)].bar:
            return False
        z = self.project.xyz[:, 2]
        return min((node for _, node in self.at[line]), key=lambda n: float(z[n])) in self.bases

    def _needed(self, line: int, direction: int, apart: float) -> tuple[float, float]:
        """P_r [N] and the stiffness [N/m] asked for at a place of a line with others so far apart [m]: of
        its sections the one that asks for most."""
        P, k = 0.0, 0.0
        kinds = {
            (id(m.section), id(m.material)): m for m in map(self.project.members.__getitem__, self.lines.members[line])
        }
        for key, one in kinds.items():
            if key not in self._full:
                strong = yield_strength(one) if kind_of(one.section) else None
                self._full[key] = one.section.A * (strong or FULL)
            inertia = one.section.Iz if direction == Y else one.section.Iy
            EI, full = one.material.E * inertia, self._full[key]
            length = max(apart, math.pi * math.sqrt(EI / full))
            own = min(full, math.pi**2 * EI / length**2)
            P, k = max((P, k), (own, 8 * own / (PHI * length)), key=lambda pair: pair[1])
        return P, k

    @cached_property
    def _offers(self) -> dict[tuple[int, int, int], tuple[float, float]]:
        """From inner places of all lines that something meets, by line, node and direction, to the stiffness that is
        offered there and how much is asked for [N/m]; whoever asks, all lines press on what holds them."""
        out: dict[tuple[int, int, int], tuple[float, float]] = {}
        x = self.project.axes[:, 0]
        for (along, _), own in self._wanted():
            parallel = np.abs(x @ along) >= PARALLEL
            near, whole, share = stiffness_offered(self.equations(), parallel, self._pushed(own, along))
            count = Counter(w.line for w in own)
            for k, w in enumerate(own):
                offered = min(float(near[k]), float(whole[k]) * 2 * count[w.line])
                out[w.line, w.node, w.direction] = offered, w.needed * (1 - float(share[k]) / 2)
        return out

    def _wanted(self) -> list[tuple[tuple[Floats, Floats], list[_Asked]]]:
        """Places that need stiffness, together where lines and the directions they are pushed in are parallel."""
        met = [n for n, at in enumerate(self.at) if any(self._meets(n, node) for _, node in at[1:-1])]
        P_r = self.pressed([m for n in met for m in self.lines.members[n]]) if self.pressed is not None else {}
        groups: list[tuple[tuple[Floats, Floats], list[_Asked]]] = []
        for line in met:
            at, x = self.at[line], self.project.axes[self._first(line), 0]
            for direction, way in enumerate(self.axes(line)):
                there = [i for i in range(1, len(at) - 1) if self._needs(line, at[i][1], way)]
                if not there:
                    continue
                known = next(
                    (g for g in groups if abs(g[0][0] @ x) >= STRAIGHT and abs(g[0][1] @ way) >= STRAIGHT), None
                )
                if known is None:
                    if len(groups) >= MOST_WAYS:
                        continue
                    known = (x, way), []
                    groups.append(known)
                toward = way * math.copysign(1.0, float(known[0][1] @ way))
                for i in there:
                    P, needed = self._needed(line, direction, min(at[i][0] - at[i - 1][0], at[i + 1][0] - at[i][0]))
                    if P_r:
                        force = max(P_r.get(m, 0.0) for m in self.lines.members[line])
                        part = max(min(force / P, 1.0), LEAST)
                        P, needed = P * part, needed * part
                    known[1].append(_Asked(line, i, at[i][1], direction, toward, P, needed))
        return groups

    def _needs(self, line: int, node: int, way: Floats) -> bool:
        """Whether a place within a line is held along a direction by stiffness if at all."""
        loose = not self._meets(line, node) or self._out_of_plane(way) or not self.grounded.without(line, node)
        return not loose and not self._by_the_frame(line, node, way)

    def _pushed(self, own: Sequence[_Asked], along: Floats) -> Pushed:
        """Places of lines along a direction as nodes that are pushed."""
        node = np.array([w.node for w in own], np.intp)
        number = {(w.line, w.place): i for i, w in enumerate(own)}
        beside, share = np.full((len(own), 2), -1, np.intp), np.zeros((len(own), 2))
        for i, w in enumerate(own):
            at = self.at[w.line]
            before = next((k for k in range(w.place - 1, 0, -1) if (w.line, k) in number), 0)
            behind = next((k for k in range(w.place + 1, len(at) - 1) if (w.line, k) in number), len(at) - 1)
            span = at[behind][0] - at[before][0]
            share[i] = (at[behind][0] - at[w.place][0]) / span, (at[w.place][0] - at[before][0]) / span
            beside[i] = number.get((w.line, before), -1), number.get((w.line, behind), -1)
        way, force = np.array([w.way for w in own]), np.array([w.P for w in own])
        return Pushed(node, way, force, together(self.project.xyz[node] @ along, LEVEL), beside, share)


def _stiff(k: float) -> str:
    if math.isinf(k):
        return "no end of stiffness"
    return f"{k / 1e6:.3g} MN/m" if k >= 1e4 else "next to no stiffness"


def _places(project: Project, lines: Lines) -> list[list[tuple[float, int]]]:
    """Of each line the nodes on it with their places [m], in order."""
    out: list[dict[int, float]] = [{} for _ in lines.members]
    for m, (start, end) in enumerate(project.ends.tolist()):
        line, offset = int(lines.of[m]), float(lines.offset[m])
        out[line][start] = offset
        out[line][end] = offset + lines.signs[m, 0] * float(project.lengths[m])
    for m, node, s in zip(*(v.tolist() for v in project.nodes_on_members), strict=True):
        if not project.members[m].bar:
            out[int(lines.of[m])][node] = float(lines.offset[m] + lines.signs[m, 0] * s)
    found = []
    for at in out:
        places = sorted((s, node) for node, s in at.items())
        found.append([p for i, p in enumerate(places) if not i or p[0] - places[i - 1][0] > SAME])
    return found
