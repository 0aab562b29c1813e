"""The work of axial forces on the deformed frame, for several results at once.

A state is how the frame moves: the motions of all nodes, and the inner motions of all elements (beam_column.py). With K
the linear stiffness and G that of the axial forces N, the energy of a state is half of

    x (K + G) x,        x G x = sum of integrals N (uy'^2 + uz'^2) dx

K is never formed: only its inverse is needed, which the factorised frame gives, reduced by the parts that are slack.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .beam_column import gauss
from .equations import Equations
from .pieces import Pieces
from .polynomials import value_at

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class State:
    """Motions, or forces along them: nodes (6 nodes, results) in own axes, inner (elements, 2, KINDS, results)."""

    nodes: Floats
    inner: Floats

    def scaled(self, factor: Floats | float) -> State:
        return State(self.nodes * factor, self.inner * factor)

    def add(self, factor: Floats | float, other: State, spare: State) -> None:
        """Adds to this very state; `spare` is written over. Large arrays are dear to make."""
        for own, more, room in ((self.nodes, other.nodes, spare.nodes), (self.inner, other.inner, spare.inner)):
            np.multiply(more, factor, out=room)
            np.add(own, room, out=own)

    def plus(self, factor: Floats | float, other: State) -> State:
        return State(self.nodes + factor * other.nodes, self.inner + factor * other.inner)

    def times(self, other: State) -> Floats:
        """The work of forces on motions (results,)."""
        inner = np.einsum("epkr,epkr->r", self.inner, other.inner)
        return np.asarray(np.einsum("nr,nr->r", self.nodes, other.nodes) + inner)


@dataclass(frozen=True)
class Slack:
    """Parts gone slack in each result: motion (6 nodes, parts) of all nodes under a unit slack of each, their matrix C
    (parts, parts), and which are slack (parts, results)."""

    motion: Floats
    C: Floats
    loose: NDArray[np.bool_]

    def pick(self, results: slice) -> Slack:
        return Slack(self.motion, self.C, self.loose[:, results])


@dataclass(frozen=True)
class Frame:
    """The frame as axial forces see it: strips, and pieces with the points at which forces and slopes are taken."""

    equations: Equations
    element: Ints
    first: Ints
    at: Floats
    weight: Floats
    slope: Floats

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
        return State(u, self.equations.strips.inner @ force.inner)

    def slopes(self, state: State) -> Floats:
        """w' at the points (pieces, 2, points, results)."""
        return np.asarray(self.slope @ self.motions(state)[self.element])

    def motions(self, state: State) -> Floats:
        """Of ends and inner shapes (elements, 2, KINDS, results)."""
        out = state.inner.copy()
        out[:, :, :4] += self.equations.strips.ends(self.at_ends(state))
        return out

    def at_ends(self, state: State) -> Floats:
        """The nodes' motions at the elements' ends, in member axes (elements, 12, results)."""
        return self.equations.ends(state.nodes)

    def thrust(self, N: Floats, slopes: Floats) -> tuple[State, Floats]:
        """G x from N and w' at the points: the forces along a state, and those at element ends (elements, 12, results).

        N (pieces, points, results) [N].
        """
        pulled = self.slope.transpose(0, 1, 3, 2) @ (slopes * (N * self.weight[:, :, None])[:, None])
        whole = len(self.first) == len(pulled)
        force = pulled if whole else np.add.reduceat(pulled, self.first, axis=0)
        at_ends = self.equations.strips.at_nodes(force[:, :, :4])
        nodes = self.equations.gather @ at_ends.reshape(-1, force.shape[-1])
        return State(nodes, force), at_ends


def build_frame(equations: Equations, pieces: Pieces) -> Frame:
    """From the pieces of all members."""
    mesh = equations.mesh
    s = pieces.start - mesh.s0[pieces.element]
    t, legendre, weight = gauss(s, pieces.length, mesh.length[pieces.element])
    slope = np.einsum("cqm,cpmk->cpqk", legendre, equations.strips.slope[pieces.element])
    first = np.flatnonzero(np.append(True, np.diff(pieces.element) != 0))
    return Frame(equations, pieces.element, first, t, weight, slope)


def at_points(frame: Frame, pieces: Pieces) -> tuple[Floats, Floats]:
    """N (pieces, points, results) and w' (pieces, 2, points, results) of linear pieces at the points."""
    assert pieces.shape is not None
    piece = np.repeat(np.arange(len(frame.at)), frame.at.shape[1])
    t = frame.at.ravel()
    N = value_at(pieces.force[piece][:, :1], t)[:, 0]
    powers = np.arange(1, pieces.shape.shape[2])
    rise = pieces.shape[:, [2, 1], 1:] * powers[:, None]
    w = value_at(rise[piece], t)
    n, points = frame.at.shape
    return N.reshape(n, points, -1), w.reshape(n, points, 2, -1).transpose(0, 2, 1, 3)
