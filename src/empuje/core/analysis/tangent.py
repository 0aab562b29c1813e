"""The frame's stiffness with its axial forces on it, K + G(N), factorised for each result.

The inner motions of every element (beam_column.py) are eliminated first, then the frame is factorised: dense by LAPACK
where it is small, else sparse. Inner motions are counted in shapes z whose stiffness is 1, so that with B_e, B_z the
slopes that the elements' ends and these shapes make,

    stiffness added at the ends:   E - Z' (1 + Y)^-1 Z       E, Z, Y = integrals N B_e' B_e, N B_z' B_e, N B_z' B_z

What is slack adds its slack as an unknown: with M the motions under unit slacks and C their stiffness,

    | K + G     G M       |
    | M' G      C + M' G M |

K + G is positive definite as long as a result is below its critical load: elimination shows it by its pivots. It grows
with N, so that where it is so for the least N of several results at every point, it is so for each of them, and the
same factors serve them all.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import linalg, sparse

from .assembly import element_freedoms, steadied
from .axial import Axial, AxialModel, Slack, State, beside, by_element
from .beam_column import ENDS, KINDS, TILT
from .factor import SingularError, Solve, factorise_positive

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
MANY = 5
"""From so many results on products of slopes, made once, serve them all."""
DENSE = 1200
"""Up to so many freedoms a frame is factorised as a dense matrix."""
SURE = 0.9
"""What axial forces take away from an element's own stiffness, as a share of it, that surely leaves some."""


class Shapes:
    """What elimination needs of a frame, whatever its axial forces: roots (elements, 2, KINDS, kinds) from z to inner
    motions; slopes of ends and z (pieces, 2, points, 4 + kinds) and weights at the points; and how nodes move the
    elements' ends (elements, 2, 4, 12)."""

    def __init__(self, frame: AxialModel) -> None:
        equations = frame.equations
        shapes = equations.shapes
        value, vector = np.linalg.eigh(shapes.inner)
        kinds = int((value > 0).sum(axis=2).max(initial=0))
        value, vector = value[..., KINDS - kinds :], vector[..., KINDS - kinds :]
        self.root = vector * np.sqrt(np.maximum(value, 0.0))[:, :, None, :]
        slope = np.concatenate([frame.slope[..., :4], frame.slope @ self.root[frame.element]], axis=3)
        self.slope, self.weight = slope, frame.weight
        whole = np.broadcast_to(np.eye(12), (len(equations.mesh.length), 12, 12)).copy()
        whole[shapes.jointed] = shapes.bent
        self.to_ends = whole[:, ENDS] * TILT[:, :, None]

    @cached_property
    def products(self) -> tuple[Floats, Ints]:
        """Of slopes (pieces, 2, pairs, points), and the place of each pair (4 + kinds, 4 + kinds)."""
        size = self.slope.shape[3]
        i, j = np.triu_indices(size)
        place = np.empty((size, size), np.intp)
        place[i, j] = place[j, i] = np.arange(len(i))
        weighted = self.slope * self.weight[:, None, :, None]
        return (self.slope[..., i] * weighted[..., j]).transpose(0, 1, 3, 2), place

    def sums(self, N: Floats, first: Ints) -> Floats:
        """The integrals of N times two slopes (results, elements, 2, 4 + kinds, 4 + kinds)."""
        if N.shape[2] < MANY:
            drawn = (N * self.weight[:, :, None]).transpose(2, 0, 1)[:, :, None, :, None] * self.slope
            whole = self.slope.transpose(0, 1, 3, 2) @ drawn
            return whole if len(first) == whole.shape[1] else np.add.reduceat(whole, first, axis=1)
        products, place = self.products
        whole = by_element(products @ N[:, None], first)
        return np.ascontiguousarray(whole.transpose(3, 0, 1, 2))[..., place]


@dataclass(frozen=True)
class Elements:
    """Elements with their inner motions eliminated (condensed), for several axial states.

    stiffness (states, elements, 12, 12): what axial forces add at the nodes, condensed, in member axes
    give (states, elements, 2, KINDS, KINDS): compliance of the inner motions, from forces along them to motions
    follow (states, elements, 2, KINDS, 12): minus the inner motions that unit motions of the nodes cause
    stable (states,): whether every element is stable with its ends held
    """

    stiffness: Floats
    give: Floats
    follow: Floats
    stable: Bools


def axial_stiffness(frame: AxialModel, shapes: Shapes, N: Floats) -> tuple[Floats, Floats, Floats]:
    """G of the elements from N (pieces, points, results) [N] at the frame's points: of their nodes' motions in member
    axes (results, elements, 2, 12, 12), of z with these (results, elements, 2, kinds, 12), and of z."""
    G = shapes.sums(N, frame.first)
    coupling = G[..., 4:, :4] @ shapes.to_ends
    at_ends = shapes.to_ends.transpose(0, 1, 3, 2) @ (G[..., :4, :4] @ shapes.to_ends)
    if len(frame.sliding.element):
        _add_sliding(frame, N, shapes, coupling, at_ends)
    return at_ends, coupling, G[..., 4:, 4:]


def eliminate(frame: AxialModel, shapes: Shapes, N: Floats) -> Elements:
    """From N (pieces, points, results) [N] at the frame's points."""
    at_ends, coupling, own = axial_stiffness(frame, shapes, N)
    own = own.copy()
    stable = np.ones(len(own), bool)
    r, e, p = np.nonzero((own**2).sum(axis=(3, 4)) > SURE**2)
    if len(r):
        lost = np.linalg.eigvalsh(own[r, e, p])[:, 0] <= -1
        stable[r[lost]] = False
        own[r[lost], e[lost], p[lost]] = 0.0
    kinds = range(own.shape[3])
    own[..., kinds, kinds] += 1.0
    give = np.asarray(np.linalg.inv(own), float)
    follow = give @ coupling
    added = at_ends - coupling.transpose(0, 1, 2, 4, 3) @ follow
    root = shapes.root
    return Elements(added.sum(axis=2), root @ give @ root.transpose(0, 1, 3, 2), root @ follow, stable)


def _add_sliding(frame: AxialModel, N: Floats, shapes: Shapes, coupling: Floats, at_ends: Floats) -> None:
    """An end that slips across carries N on beside its node: twice the energy sign N slip psi more."""
    slide = frame.sliding
    sign = np.where(slide.end == 0, 1.0, -1.0)[:, None]
    pull = (sign * np.einsum("kq,kqr->kr", slide.weight, N[slide.piece])).T
    across, turn = slide.node_freedoms
    for k, (e, p, end) in enumerate(zip(slide.element, slide.plane, slide.end, strict=True)):
        psi, slip = np.zeros(12), shapes.to_ends[e, p, 2 * end].copy()
        psi[turn[k]] = TILT[p, 2 * end + 1]
        slip[across[k]] -= TILT[p, 2 * end]
        coupling[:, e, p] += pull[:, k, None, None] * np.outer(shapes.root[e, p, 2 * end], psi)
        at_ends[:, e, p] += pull[:, k, None, None] * (np.outer(slip, psi) + np.outer(psi, slip))


Inverse = Callable[[Floats], Floats]


class Basis:
    """What K + G of any result of a frame is made from."""

    def __init__(self, frame: AxialModel) -> None:
        self.frame, self.shapes, self.matrices = frame, Shapes(frame), _Matrices(frame)


@dataclass(frozen=True)
class Factored:
    """K + G for one axial state N, as of one result: how inner motions yield (elements, 2, KINDS, KINDS) and follow
    nodes (elements, 2, KINDS, 12), and the inverse at the nodes; None where it is not positive definite."""

    N: Axial
    give: Floats
    follow: Floats
    inverse: Inverse | None


class Tangent:
    """K + G(N) of several results, as near as one factorised state comes to each of them.

    `positive` (results,): which results are positive definite; the others yield to nothing. `which` (results,): the
    state each of them uses, `states` them all: the least N of results with the same parts slack, and where that is not
    positive definite, of the more and of the less pressed half of them, down to each by itself.
    """

    def __init__(self, basis: Basis, N: Axial, slack: Slack | None) -> None:
        self.basis, self.frame = basis, basis.frame
        self.states: list[Factored] = []
        self.which = np.zeros(N.results, np.intp)
        groups = _alike(slack, N.results)
        if len(self.frame.sliding.element):  # what slides carries N beside its node, which is no more when N is more
            groups = [np.array([r]) for g in groups for r in g]
        pressed = N.pressed()
        while groups:
            least = beside([N.some(g).least() for g in groups])
            found = self._factored(least, slack.some(np.array([g[0] for g in groups])) if slack else None)
            halves = []
            for g, one in zip(groups, found, strict=True):
                if one.inverse is None and len(g) > 1:
                    halves += np.array_split(g[np.argsort(pressed[g], kind="stable")], 2)
                else:
                    self.which[g] = len(self.states)
                    self.states.append(one)
            groups = halves

    @property
    def positive(self) -> Bools:
        """Which results (results,) are below their critical loads."""
        return np.array([one.inverse is not None for one in self.states], bool)[self.which]

    @property
    def N(self) -> Axial:
        """The axial state that each result uses."""
        return beside([one.N for one in self.states]).some(self.which)

    def renew(self, N: Axial, slack: Slack | None, some: Ints) -> None:
        """Some of the results get states of their own."""
        own = self._factored(N.some(some), slack.some(some) if slack else None)
        self.which[some] = len(self.states) + np.arange(len(some))
        self.states += own
        used, self.which = np.unique(self.which, return_inverse=True)
        self.states = [self.states[i] for i in used]

    def positive_with(self, N: Axial, slack: Slack | None, some: Ints) -> Bools:
        """Whether some of the results are positive definite with other axial forces and slack parts (some,)."""
        return Tangent(self.basis, N.some(some), slack.some(some) if slack else None).positive

    def _factored(self, N: Axial, slack: Slack | None) -> list[Factored]:
        elements = eliminate(self.frame, self.basis.shapes, N.members)
        turn = self.frame.equations.turn
        at_nodes = turn.transpose(0, 2, 1) @ elements.stiffness @ turn
        factorised = self.basis.matrices.factorised
        return [
            Factored(N.some(np.array([i])), elements.give[i], elements.follow[i],
                     factorised(at_nodes[i], N.plates[..., i], *_loose(slack, i)) if stable else None)
            for i, stable in enumerate(elements.stable)
        ]  # fmt: skip

    def like(self) -> tuple[Floats, Floats]:
        """Arrays shaped as a state's nodes and inner motions."""
        eq = self.frame.equations
        return np.empty((6 * len(eq.project.nodes), 1)), np.empty((len(eq.mesh.length), 2, KINDS, 1))

    def solve(self, force: State) -> State:
        """x with (K + G) x = force."""
        eq = self.frame.equations
        u, inner = np.zeros_like(force.nodes), np.zeros_like(force.inner)
        for i, one in enumerate(self.states):
            if one.inverse is None:
                continue
            own = np.flatnonzero(self.which == i)
            along = force.inner[..., own]
            drawn = (one.follow.transpose(0, 1, 3, 2) @ along).sum(axis=1)
            u[:, own] = one.inverse(force.nodes[:, own] - eq.gather @ drawn.reshape(-1, len(own)))
            ends = eq.ends(u[:, own])[:, None]
            inner[..., own] = one.give @ along - one.follow @ ends
        return State(u, inner)


def _alike(slack: Slack | None, results: int) -> list[Ints]:
    """The results with the same parts slack, set by set."""
    if slack is None or not results:
        return [np.arange(results)] if results else []
    number = np.unique(slack.loose, axis=1, return_inverse=True)[1].ravel()
    return [np.flatnonzero(number == n) for n in range(number.max() + 1)]


def _loose(slack: Slack | None, r: int) -> tuple[Floats, Floats]:
    """Motions (6 nodes, k) under unit slacks of the parts that are slack in a result, and their stiffness (k, k)."""
    if slack is None:
        return np.zeros((0, 0)), np.zeros((0, 0))
    gone = slack.loose[:, r]
    return slack.motion[:, gone], slack.C[np.ix_(gone, gone)]


class _Matrices:
    """Makes and factorises the frame's matrix for one result after another."""

    def __init__(self, frame: AxialModel) -> None:
        equations, self.plates = frame.equations, frame.plates
        self.freedom = element_freedoms(equations.mesh)
        self.follow, self.reduced = equations.follow, equations.reduced
        self.back = equations.follow.T.tocsr()
        self.scale = 1 / np.sqrt(steadied(equations.freedom.free, self.reduced.diagonal())[0])
        self.dense = self.reduced.shape[0] <= DENSE
        rows, columns, entry, value = _sums(self.follow, self.freedom)
        n = self.reduced.shape[0]
        if self.plates is not None:
            self.spread = (self.plates.spread @ self.follow).tocsr()
        if self.dense:
            self.K = self.reduced.toarray()
            self.scales = self.scale[:, None] * self.scale
            self.summed = sparse.csr_matrix((value, (rows * n + columns, entry)), shape=(n * n, self.freedom.size * 12))
        else:
            # The zeros inside nodes' blocks stay: with all of a node's freedoms alike libraries order equations better.
            self.reduced.sort_indices()
            own = np.repeat(np.arange(n), np.diff(self.reduced.indptr)) * n + self.reduced.indices
            place = np.searchsorted(own, rows * n + columns)
            self.summed = sparse.csr_matrix((value, (place, entry)), shape=(len(own), self.freedom.size * 12))

    def factorised(self, stiffness: Floats, in_plane: Floats, M: Floats, C: Floats) -> Inverse | None:
        """From stiffness (elements, 12, 12) that axial forces add, at the nodes, and forces in the planes of plates
        (elements, 3); None where K + G is not positive."""
        inner = self._inner(stiffness, in_plane)
        if inner is None:
            return None
        follow, back = self.follow, self.back
        if not M.shape[1]:
            return lambda f: np.asarray(follow @ inner(back @ f))
        pulled = np.zeros_like(M)
        np.add.at(pulled, self.freedom, stiffness @ M[self.freedom])
        if self.plates is not None:
            pulled += self.plates.pull(np.repeat(in_plane[:, :, None], M.shape[1], axis=2), M)
        border = np.asarray(back @ pulled)
        reach = inner(border)
        left = C + M.T @ pulled - border.T @ reach
        try:
            small = linalg.cho_factor((left + left.T) / 2, check_finite=False)
        except linalg.LinAlgError:
            return None

        def solve(f: Floats) -> Floats:
            a = inner(back @ f)
            s = linalg.cho_solve(small, M.T @ f - border.T @ a, check_finite=False)
            return np.asarray(follow @ (a - reach @ s) + M @ s)

        return solve

    def _inner(self, stiffness: Floats, in_plane: Floats) -> Solve | None:
        scale = self.scale[:, None]
        of_plates = self.plates.matrix(in_plane, self.spread) if self.plates is not None else None
        if self.dense:
            n = len(self.K)
            added = (self.summed @ stiffness.ravel()).reshape(n, n)
            if of_plates is not None:
                added += of_plates.toarray()
            # Symmetric: the transpose spares LAPACK a copy into columns.
            factor, info = linalg.lapack.dpotrf(((self.K + added) * self.scales).T, lower=1, overwrite_a=1)
            return None if info else lambda b: scale * linalg.lapack.dpotrs(factor, scale * b, lower=1)[0]
        stiff = self.reduced.copy()
        stiff.data += self.summed @ stiffness.ravel()
        if of_plates is not None:
            stiff = (stiff + of_plates).tocsr()
        stiff.data *= np.repeat(self.scale, np.diff(stiff.indptr)) * self.scale[stiff.indices]
        if of_plates is not None:
            stiff.eliminate_zeros()  # in a flat plate bending and stretching do not meet
        try:
            solved = factorise_positive(stiff)
        except SingularError:
            return None
        return lambda b: scale * solved(scale * b)


def _sums(follow: sparse.csr_matrix, freedom: Ints) -> tuple[Ints, Ints, Ints, Floats]:
    """Where the entries of element matrices (elements, 12, 12) at the nodes go in the matrix of the free motions, how
    nodes follow these: row, column, entry and factor of every contribution."""
    own = follow[freedom.ravel()]
    count = np.diff(own.indptr)
    width = int(count.max(initial=1))
    at = np.minimum(own.indptr[:-1, None] + np.arange(width), max(own.nnz - 1, 0))
    there = np.arange(width) < count[:, None]
    motion = np.where(there, own.indices[at], -1).reshape(*freedom.shape, width)
    share = np.where(there, own.data[at], 0.0).reshape(*freedom.shape, width)
    rows, columns = np.broadcast_arrays(motion[:, :, None, :, None], motion[:, None, :, None, :])
    factor = share[:, :, None, :, None] * share[:, None, :, None, :]
    entry = np.broadcast_to(np.arange(freedom.size * 12).reshape(-1, 12, 12, 1, 1), factor.shape)
    some = (rows >= 0) & (columns >= 0) & (factor != 0)
    return rows[some], columns[some], entry[some], factor[some]
