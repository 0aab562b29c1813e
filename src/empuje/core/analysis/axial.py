"""The work of axial forces on the deformed frame, for several results at once; of plates that of the forces in their
planes (shells/stressed.py).

A state is how the frame moves: the motions of all nodes, and the inner motions of all elements (beam_column.py). With K
the linear stiffness and G that of the axial forces N, the energy of a state is half of

    x (K + G) x,        x G x = sum of integrals N (uy'^2 + uz'^2) dx

An end that slips across by s carries N on beside its node, whose axes guide it: that adds N s psi of the node at a
start, and takes it away at an end.

K is never formed: only its inverse is needed, which the factorised frame gives, reduced by the parts that are slack.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .beam_column import ENDS, KINDS, TILT, at_end_weights, gauss
from .equations import Equations
from .polynomials import value_at
from .shells.stressed import Stressed, at_most
from .solution import Pieces

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class State:
    """Motions, or forces along them: nodes (6 nodes, results) in own axes, inner (elements, 2, KINDS, results)."""

    nodes: Floats
    inner: Floats

    def scaled(self, factor: Floats | float) -> State:
        """Times a factor, one for all results or one each (results,)."""
        return State(self.nodes * factor, self.inner * factor)

    def plus(self, factor: Floats | float, other: State) -> State:
        """With so many times another added."""
        return State(self.nodes + factor * other.nodes, self.inner + factor * other.inner)

    def times(self, other: State) -> Floats:
        """The work of forces on motions (results,)."""
        inner = np.einsum("epkr,epkr->r", self.inner, other.inner)
        return np.asarray(np.einsum("nr,nr->r", self.nodes, other.nodes) + inner)


@dataclass(frozen=True)
class Axial:
    """Axial forces: of members at the points of their pieces (pieces, points, results) [N], tension positive; of plates
    n_x n_y n_xy in the middles of their elements (elements, 3, results) [N/m]."""

    members: Floats
    plates: Floats

    @property
    def results(self) -> int:
        """How many results they are of."""
        return int(self.members.shape[-1])

    def some(self, results: Ints) -> Axial:
        """Of results by their indices."""
        return Axial(self.members[..., results], self.plates[..., results])

    def scaled(self, factor: Floats | float) -> Axial:
        """Times a factor, one for all results or one each (results,)."""
        return Axial(self.members * factor, self.plates * factor)

    def less(self, other: Axial) -> Axial:
        """What they are more than others."""
        return Axial(self.members - other.members, self.plates - other.plates)

    def of(self, members: NDArray[np.bool_], plates: NDArray[np.bool_]) -> Axial:
        """In some pieces and elements of plates alone, zero in the others."""
        return Axial(self.members * members[:, None, None], self.plates * plates[:, None, None])

    def least(self) -> Axial:
        """Forces that pull no more anywhere than those of any result, as those of one: K + G is positive with all of
        them where it is so with these."""
        return Axial(self.members.min(axis=2, keepdims=True), at_most(self.plates)[..., None])

    def pressed(self) -> Floats:
        """How much is in compression (results,), by which results are sorted."""
        return np.asarray(
            np.minimum(self.members, 0.0).sum(axis=(0, 1)) + np.minimum(self.plates[:, :2], 0.0).sum(axis=(0, 1))
        )

    def compresses(self) -> bool:
        """Whether anything is in compression."""
        x, y, xy = np.moveaxis(self.plates, 1, 0)
        return bool((self.members < 0).any() or ((x < 0) | (y < 0) | (xy * xy > x * y)).any())


def beside(states: list[Axial]) -> Axial:
    """Several results as one."""
    return Axial(*(np.concatenate([getattr(s, f) for s in states], axis=-1) for f in ("members", "plates")))


@dataclass(frozen=True)
class Bending:
    """w' at the points (pieces, 2, points, results); motions of ends and inner shapes (elements, 2, KINDS,
    results); motions of their nodes, in member axes (elements, 12, results), both where ends slide; motions of all
    nodes in their own axes (6 nodes, results) where there are plates."""

    slopes: Floats
    motions: Floats
    at_nodes: Floats
    nodes: Floats

    def plus(self, other: Bending) -> Bending:
        """With another added."""
        return Bending(
            self.slopes + other.slopes, self.motions + other.motions, self.at_nodes + other.at_nodes,
            self.nodes + other.nodes,
        )  # fmt: skip


@dataclass(frozen=True)
class Thrust:
    """Forces along a state; those on the nodes at element ends (elements, 12, results); and of these the couples that
    sliding ends (k, results) put on their nodes."""

    along: State
    at_ends: Floats
    couples: Floats


@dataclass(frozen=True)
class Slack:
    """Parts gone slack in each result: motion (6 nodes, parts) of all nodes under a unit slack of each, their matrix C
    (parts, parts), and which are slack (parts, results)."""

    motion: Floats
    C: Floats
    loose: NDArray[np.bool_]

    def some(self, results: Ints) -> Slack:
        """Of results by their indices."""
        return Slack(self.motion, self.C, self.loose[:, results])


@dataclass(frozen=True)
class Sliding:
    """Ends of elements that slip across (k,): element, plane, 0 for its start and 1 for its end; the piece there, and
    the sum of N at that piece's points (k, points) that makes N at the end."""

    element: Ints
    plane: Ints
    end: Ints
    piece: Ints
    weight: Floats

    def thrust(self, N: Floats, motions: Floats, at_nodes: Floats) -> tuple[Floats, Floats]:
        """Forces on the elements' own ends (k, results) across, and couples (k, results) on their nodes, from N at the
        points, the elements' own motions, and those of their nodes (elements, 12, results)."""
        sign = np.where(self.end == 0, 1.0, -1.0)[:, None]
        pull = sign * np.einsum("kq,kqr->kr", self.weight, N[self.piece])
        across, turn = self.node_freedoms
        w, psi = (
            at_nodes[self.element, f] * TILT[self.plane, 2 * self.end + i, None] for i, f in enumerate((across, turn))
        )
        slip = motions[self.element, self.plane, 2 * self.end] - w
        return pull * psi, pull * slip

    @property
    def node_freedoms(self) -> tuple[Ints, Ints]:
        """Of the twelve freedoms of an element's nodes, those across and about."""
        return ENDS[self.plane, 2 * self.end], ENDS[self.plane, 2 * self.end + 1]


@dataclass(frozen=True)
class AxialModel:
    """The frame as axial forces see it: strips, and pieces with the points at which forces and slopes are taken."""

    equations: Equations
    element: Ints
    first: Ints
    at: Floats
    weight: Floats
    slope: Floats
    sliding: Sliding
    plates: Stressed | None

    def yield_to(self, force: State, slack: Slack | None) -> State:
        """K^-1: how the linear frame, without its slack parts, moves under forces."""
        eq = self.equations
        u = eq.follow @ eq.solve(eq.follow.T @ force.nodes)
        if slack is not None:
            pulled = slack.motion.T @ force.nodes
            for r in range(u.shape[1]):
                gone = slack.loose[:, r]
                if gone.any():
                    u[:, r] += slack.motion[:, gone] @ np.linalg.solve(slack.C[np.ix_(gone, gone)], pulled[gone, r])
        return State(u, self.equations.shapes.inner @ force.inner)

    def bending(self, state: State) -> Bending:
        """How a state bends the elements."""
        motions = self.motions(state)
        slopes = np.asarray(self.slope @ motions[self.element])
        nodes = state.nodes[: len(state.nodes) if self.plates is not None else 0]
        if len(self.sliding.element):
            return Bending(slopes, motions, self.at_ends(state), nodes)
        return Bending(slopes, motions[:0], np.zeros((0, 12, motions.shape[-1])), nodes)

    def motions(self, state: State) -> Floats:
        """Of ends and inner shapes (elements, 2, KINDS, results)."""
        out = state.inner.copy()
        out[:, :, :4] += self.equations.shapes.ends(self.at_ends(state))
        return out

    def at_ends(self, state: State) -> Floats:
        """The nodes' motions at the elements' ends, in member axes (elements, 12, results)."""
        return self.equations.ends(state.nodes)

    def thrust(self, axial: Axial, bending: Bending) -> Thrust:
        """G x from axial forces and how the frame bends."""
        N = axial.members
        pulled = self.slope.transpose(0, 1, 3, 2) @ (bending.slopes * (N * self.weight[:, :, None])[:, None])
        force = by_element(pulled, self.first)
        slide = self.sliding
        couples = np.zeros((0, force.shape[-1]))
        if len(slide.element):
            across, couples = slide.thrust(N, bending.motions, bending.at_nodes)
            np.add.at(force, (slide.element, slide.plane, 2 * slide.end), across)
        at_ends = self.equations.shapes.at_nodes(force[:, :, :4])
        if len(slide.element):
            for freedom, i, value in zip(slide.node_freedoms, (0, 1), (-across, couples), strict=True):
                np.add.at(at_ends, (slide.element, freedom), TILT[slide.plane, 2 * slide.end + i, None] * value)
        nodes = self.equations.gather @ at_ends.reshape(-1, force.shape[-1])
        if self.plates is not None:
            nodes += self.plates.pull(axial.plates, bending.nodes)
        return Thrust(State(nodes, force), at_ends, couples)


def by_element(values: Floats, first: Ints) -> Floats:
    """Sums of what the pieces of each element have (pieces, ...), `first` (elements,) of them on."""
    if len(first) == len(values):
        return values
    out = values[first]
    count = np.diff(np.append(first, len(values)))
    for k in range(1, int(count.max(initial=1))):
        more = np.flatnonzero(count > k)
        out[more] += values[first[more] + k]
    return out


def axial_model(equations: Equations, pieces: Pieces) -> AxialModel:
    """From the pieces of all members."""
    mesh = equations.mesh
    s = pieces.start - mesh.s0[pieces.element]
    t, legendre, weight = gauss(s, pieces.length, mesh.length[pieces.element])
    slope = np.einsum("cqm,cpmk->cpqk", legendre, equations.shapes.slope[pieces.element])
    first = np.flatnonzero(np.append(True, np.diff(pieces.element) != 0)[: len(pieces.element)])
    sliding = _sliding(equations, first, len(s))
    return AxialModel(equations, pieces.element, first, t, weight, slope, sliding, equations.stressed)


def _chords(frame: AxialModel, pieces: Pieces) -> Floats:
    """Slopes (elements, 2, results) of the lines between the elements' ends in x-z and x-y."""
    assert pieces.shape is not None
    last = np.append(frame.first[1:], len(pieces.start)) - 1
    begin = pieces.shape[frame.first][:, [2, 1], 0]
    end = value_at(pieces.shape[last][:, [2, 1]], pieces.length[last])
    return np.asarray((end - begin) / frame.equations.mesh.length[:, None, None])


def _sliding(equations: Equations, first: Ints, pieces: int) -> Sliding:
    """The ends that slip across, of elements that bend."""
    mesh = equations.mesh
    bars = np.array([m.bar for m in equations.project.members], bool)[mesh.member]
    slips = np.isfinite(mesh.joint[:, ENDS[:, ::2]]) & ~(bars | mesh.rigid)[:, None, None]
    if equations.project.plane:
        slips[:, 0] &= np.abs(mesh.axes[:, 2, 1, None]) < 0.5
        slips[:, 1] &= np.abs(mesh.axes[:, 1, 1, None]) < 0.5
    element, plane, end = np.nonzero(slips)
    last = np.append(first[1:], pieces) - 1
    return Sliding(element, plane, end, np.where(end == 0, first[element], last[element]), at_end_weights()[end])


def at_points(frame: AxialModel, pieces: Pieces, displacement: Floats, free: Floats | None) -> tuple[Axial, Bending]:
    """Axial forces of linear pieces and plates at the points, and how they bend; displacement (nodes, 6, results)
    is global, `free` what plates need no force for. Of motions only those of ends that slide are filled in."""
    assert pieces.shape is not None
    powers = np.arange(1, pieces.shape.shape[2])
    t = frame.at[:, :, None] ** np.arange(max(len(powers), pieces.force.shape[2]))
    N = t[:, :, : pieces.force.shape[2]] @ pieces.force[:, 0]
    slopes = t[:, None, :, : len(powers)] @ (pieces.shape[:, [2, 1], 1:] * powers[:, None])
    bars = np.array([m.bar for m in frame.equations.project.members], bool)[pieces.member]
    if bars.any():  # straight for their axial force, whatever they sag under their own loads
        slopes[bars] = _chords(frame, pieces)[frame.element[bars]][:, :, None]
    eq, slide = frame.equations, frame.sliding
    results = N.shape[-1]
    elements = len(eq.mesh.length) if len(slide.element) else 0
    motions, at_nodes = np.zeros((elements, 2, KINDS, results)), np.zeros((elements, 12, results))
    nodes, in_plane = np.zeros((0, results)), np.zeros((0, 3, results))
    if frame.plates is not None:
        nodes = eq.own_axes(displacement).reshape(-1, results)
        in_plane = frame.plates.forces(nodes, free)
    if elements:
        at_nodes = eq.ends(eq.own_axes(displacement).reshape(-1, results))
        there = value_at(pieces.shape[slide.piece, :3], np.where(slide.end == 0, 0.0, pieces.length[slide.piece]))
        across = there[np.arange(len(slide.piece)), np.array([2, 1])[slide.plane]]
        motions[slide.element, slide.plane, 2 * slide.end] = across
    return Axial(N, in_plane), Bending(slopes, motions, at_nodes, nodes)
