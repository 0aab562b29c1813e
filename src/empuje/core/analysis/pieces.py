"""Exact results along members: one polynomial for each force, displacement and case between neighbouring breaks.

A piece reaches from one break (an end, a node, where a load starts or stops) to the next. In it, with t from its
start,

    V = V0 + q t + q' t^2/2          M = M0 + V0 t + q t^2/2 + q' t^3/6
    EI psi = EI psi0 + int M         w = w0 + int psi - int V / GA         (and free strains on top)

in both planes (z: V = Vz, M = My, w = uz, psi = -ry; y: V = Vy, M = Mz, w = uy, psi = rz).
Signs: N tension positive, dV/dx = q, V = dM/dx, T right-handed on the positive face.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from .at_starts import start_displacements
from .bent import with_axial_forces
from .mesh import ranges
from .solution import NO_COLUMNS, Columns, Pieces
from .terms import ALONG_Y, ALONG_Z, AXIAL, TWIST, power

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
DENSE = 30_000
"""Entries up to which a table of pieces and terms is made dense: making a sparse one takes longer."""
FORCES = ("N", "Vy", "Vz", "T", "My", "Mz")


def build_pieces(solution: Columns, members: Ints, weights: Floats, displacements: bool = False) -> Pieces:
    """The pieces of `members` for the results that `weights` (columns, results) form; displacements are never under
    reduced live loads."""
    if displacements and solution.reductions != NO_COLUMNS:
        weights = weights.copy()
        weights[solution.reductions] = 0.0
    bent = np.zeros(0, np.intp)
    if solution.second_order_from is not None:
        bent = np.flatnonzero(weights[solution.second_order_from :].any(axis=0))
    pieces = _linear_pieces(solution, members, weights, displacements or len(bent) > 0)
    if not len(bent):
        return pieces
    return with_axial_forces(solution, pieces, weights, bent, displacements)


def _linear_pieces(solution: Columns, members: Ints, weights: Floats, displacements: bool) -> Pieces:
    mesh = solution.mesh
    cuts, loads = _cut_up(solution, mesh.elements_of(members), weights)
    begin = _beginnings(solution, cuts, weights, displacements)
    results = weights.shape[1]
    force = np.zeros((len(cuts.s), 6, 4, results))
    shape = np.zeros((len(cuts.s), 6, 6, results)) if displacements else None
    for freedom, lane, rigidity in ((0, AXIAL, mesh.EA), (3, TWIST, mesh.GJ)):
        _along(freedom, lane, loads, begin, force)
        if shape is not None:
            soft = _inverse(np.where(mesh.rigid, 0.0, rigidity)[cuts.element])
            _stretched(freedom, lane, loads, begin, force, soft, shape)
    for plane, EI, GA in ((XZ, mesh.EIy, mesh.GAz), (XY, mesh.EIz, mesh.GAy)):
        _across(plane, loads, begin, force)
        if shape is not None:
            soft, slack = (_inverse(np.where(mesh.rigid, 0.0, r)[cuts.element]) for r in (EI, GA))
            _bent(plane, loads, begin, soft, slack, shape)
    member, start = mesh.member[cuts.element], mesh.s0[cuts.element] + cuts.s
    return Pieces(member, cuts.element, start, cuts.length, force, shape)


@dataclass(frozen=True)
class Plane:
    """A plane of bending: the lane of its loads, the freedoms w and r (of forces: V and M), and psi = -sign r."""

    lane: int
    w: int
    r: int
    sign: float


XZ, XY = Plane(ALONG_Z, 2, 4, 1.0), Plane(ALONG_Y, 1, 5, -1.0)


@dataclass(frozen=True)
class Cuts:
    """Where elements (elements,) are cut into pieces: of which of these each is (pieces,), its start along it and its
    length [m]."""

    elements: Ints
    of: Ints
    s: Floats
    length: Floats

    @property
    def element(self) -> Ints:
        """The element of each piece, counted in all of the frame."""
        return self.elements[self.of]


@dataclass(frozen=True)
class LoadsBefore:
    """Pairs of a piece and a term of its element that begins d >= 0 before it (pairs,) [m]; of the terms lane and order
    (terms,), and what they are in each result (terms, results)."""

    piece: Ints
    term: Ints
    d: Floats
    lane: Ints
    order: Ints
    value: Floats
    pieces: int

    def integral(self, lane: int, times: int, without_moments: bool = False) -> Floats:
        """The so many-fold integral of the loads in one lane, up to each piece's start (pieces, results)."""
        mine = self.lane[self.term] == lane
        if without_moments:
            mine &= self.order[self.term] > -2
        if not mine.any():
            return np.zeros((self.pieces, self.value.shape[1]))
        piece, term = self.piece[mine], self.term[mine]
        entries = power(self.d[mine], self.order[term] + times)
        if self.pieces * len(self.lane) > DENSE:
            shape = self.pieces, len(self.lane)
            return np.asarray(sparse.csr_matrix((entries, (piece, term)), shape=shape) @ self.value)
        own = np.unique(term)
        table = np.zeros((self.pieces, len(own)))
        table[piece, np.searchsorted(own, term)] = entries
        return np.asarray(table @ self.value[own])


def _cut_up(solution: Columns, elements: Ints, weights: Floats) -> tuple[Cuts, LoadsBefore]:
    """Elements cut where a term of their loads begins, and the terms that each piece meets."""
    mesh, terms = solution.mesh, solution.terms
    begin = np.searchsorted(terms.element, elements)
    stop = np.searchsorted(terms.element, elements, side="right")
    chosen = ranges(begin, stop)
    # Positions in the chosen elements and terms from here on.
    owner = np.repeat(np.arange(len(elements)), stop - begin)
    a, length = terms.a[chosen], mesh.length[elements]
    inside = (a > 0) & (a < length[owner])
    at_element = np.concatenate([np.arange(len(elements)), owner[inside]])
    at = np.concatenate([np.zeros(len(elements)), a[inside]])
    both = np.unique(np.column_stack([at_element, at]), axis=0)
    piece_of, s = both[:, 0].astype(np.intp), both[:, 1]
    last = np.append(piece_of[1:] != piece_of[:-1], True)
    stretch = np.where(last, length[piece_of], np.append(s[1:], 0.0)) - s
    # Every piece meets every term of its element that begins at or before it.
    first_term = np.searchsorted(owner, piece_of)
    count = np.searchsorted(owner, piece_of, side="right") - first_term
    piece, term = np.repeat(np.arange(len(s)), count), ranges(first_term, first_term + count)
    d = s[piece] - a[term]
    before = d >= 0
    value = np.asarray((terms.value[chosen] @ sparse.csr_matrix(weights)).todense())
    loads = LoadsBefore(
        piece[before], term[before], d[before], terms.lane[chosen], terms.order[chosen], value, len(s)
    )  # fmt: skip
    return Cuts(elements, piece_of, s, stretch), loads


@dataclass(frozen=True)
class Beginnings:
    """What is known at the start of each piece's element: forces and motions (pieces, 6, results), and these without
    what axial forces add, which is no cubic and is put on afterwards; how far from it the piece begins, x (pieces, 1)
    [m]; and free strains in each lane that has any (pieces, results)."""

    x: Floats
    force: Floats
    motion: Floats
    linear_force: Floats
    linear_motion: Floats
    strain: dict[int, Floats]


def _beginnings(solution: Columns, cuts: Cuts, weights: Floats, displacements: bool) -> Beginnings:
    elements, of = cuts.elements, cuts.of
    force = (solution.start_force[elements] @ weights)[of]
    if not displacements:
        nothing = np.zeros((0, 6, weights.shape[1]))
        return Beginnings(cuts.s[:, None], force, nothing, force, nothing, {})
    motion = start_displacements(solution, elements, weights)[of]
    linear_force, linear_motion = force, motion
    if solution.second_order_from is not None:
        linear = weights.copy()
        linear[solution.second_order_from :] = 0.0
        linear_force = (solution.start_force[elements] @ linear)[of]
        linear_motion = start_displacements(solution, elements, linear)[of]
    strains = solution.strains
    strain = {
        lane: np.asarray((table[elements] @ sparse.csr_matrix(weights)).todense())[of]
        for lane, table in ((AXIAL, strains.stretch), (ALONG_Y, strains.bend_y), (ALONG_Z, strains.bend_z))
        if table.nnz
    }
    return Beginnings(cuts.s[:, None], force, motion, linear_force, linear_motion, strain)


def _along(freedom: int, lane: int, loads: LoadsBefore, begin: Beginnings, force: Floats) -> None:
    """N or T."""
    force[:, freedom, 0] = -(begin.force[:, freedom] + loads.integral(lane, 1))
    force[:, freedom, 1] = -loads.integral(lane, 0)
    force[:, freedom, 2] = -loads.integral(lane, -1) / 2


def _stretched(
    freedom: int, lane: int, loads: LoadsBefore, begin: Beginnings, force: Floats, soft: Floats, shape: Floats
) -> None:
    """ux or rx, from N or T; `soft` is 1/EA or 1/GJ."""
    start = begin.force[:, freedom] * begin.x + loads.integral(lane, 2)
    shape[:, freedom, 0] = begin.motion[:, freedom] - soft * start
    for k in range(3):
        shape[:, freedom, k + 1] = soft * force[:, freedom, k] / (k + 1)
    if lane in begin.strain:
        shape[:, freedom, 0] += begin.strain[lane] * begin.x
        shape[:, freedom, 1] += begin.strain[lane]


def _across(plane: Plane, loads: LoadsBefore, begin: Beginnings, force: Floats) -> None:
    """V and M in a plane."""
    q, dq = loads.integral(plane.lane, 0), loads.integral(plane.lane, -1)
    V0, M0 = begin.force[:, plane.w], plane.sign * begin.force[:, plane.r]
    V = V0 + loads.integral(plane.lane, 1)
    M = M0 + V0 * begin.x + loads.integral(plane.lane, 2)
    force[:, plane.w, 0], force[:, plane.w, 1], force[:, plane.w, 2] = V, q, dq / 2
    for k, c in enumerate((M, V, q / 2, dq / 6)):
        force[:, plane.r, k] = c


def _bent(plane: Plane, loads: LoadsBefore, begin: Beginnings, soft: Floats, slack: Floats, shape: Floats) -> None:
    """w and r in a plane; `soft` is 1/EI, `slack` 1/GA."""
    lane, w, r, sign, x = plane.lane, plane.w, plane.r, plane.sign, begin.x
    q, dq = loads.integral(lane, 0), loads.integral(lane, -1)
    V0, M0 = begin.linear_force[:, w], sign * begin.linear_force[:, r]
    M = M0 + V0 * x + loads.integral(lane, 2), V0 + loads.integral(lane, 1), q / 2, dq / 6
    psi0 = -sign * begin.linear_motion[:, r]
    psi = psi0 + soft * (M0 * x + V0 * x**2 / 2 + loads.integral(lane, 3))
    sheared = slack * (V0 * x + loads.integral(lane, 2, without_moments=True))
    bent = soft * (M0 * x**2 / 2 + V0 * x**3 / 6 + loads.integral(lane, 4))
    shape[:, w, 0] = begin.linear_motion[:, w] + psi0 * x + bent - sheared
    shape[:, w, 1] = psi
    shape[:, r, 0] = -sign * psi
    for k in range(4):
        shape[:, w, k + 2] += soft * M[k] / ((k + 1) * (k + 2))
        shape[:, r, k + 1] = -sign * soft * M[k] / (k + 1)
    for k in range(3):
        shape[:, w, k + 1] -= slack * (M[1], q, dq / 2)[k] / (k + 1)
    if lane in begin.strain:
        curvature = begin.strain[lane]
        shape[:, w, 0] += curvature * x**2 / 2
        shape[:, w, 1] += curvature * x
        shape[:, w, 2] += curvature / 2
        shape[:, r, 0] -= sign * curvature * x
        shape[:, r, 1] -= sign * curvature


def _inverse(rigidity: Floats) -> Floats:
    """1 / rigidity (n, 1), and 0 where there is none: a bar does not twist, it has no torsion."""
    return np.where(rigidity > 0, 1 / np.where(rigidity > 0, rigidity, 1.0), 0.0)[:, None]
