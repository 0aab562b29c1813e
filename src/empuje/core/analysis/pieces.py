"""Exact results along members: one polynomial for each force, displacement and case between neighbouring breaks.

A piece reaches from one break (an end, a node, where a load starts or stops) to the next. In it, with t from its
start,

    V = V0 + q t + q' t^2/2          M = M0 + V0 t + q t^2/2 + q' t^3/6
    EI psi = EI psi0 + int M         w = w0 + int psi - int V / GA         (and free strains on top)

in both planes (z: V = Vz, M = My, w = uz, psi = -ry; y: V = Vy, M = Mz, w = uy, psi = rz).
Signs: N tension positive, dV/dx = q, V = dM/dx, T right-handed on the positive face.
"""

from __future__ import annotations

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
    return with_axial_forces(solution, pieces, weights, bent)


def _linear_pieces(solution: Columns, members: Ints, weights: Floats, displacements: bool) -> Pieces:
    mesh, terms = solution.mesh, solution.terms
    elements = mesh.elements_of(members)
    begin = np.searchsorted(terms.element, elements)
    stop = np.searchsorted(terms.element, elements, side="right")
    chosen = ranges(begin, stop)
    # Positions in the chosen elements and terms from here on.
    owner = np.repeat(np.arange(len(elements)), stop - begin)
    a, order, lane = terms.a[chosen], terms.order[chosen], terms.lane[chosen]
    length = mesh.length[elements]
    value = np.asarray((terms.value[chosen] @ sparse.csr_matrix(weights)).todense())

    inside = (a > 0) & (a < length[owner])
    at_element = np.concatenate([np.arange(len(elements)), owner[inside]])
    at = np.concatenate([np.zeros(len(elements)), a[inside]])
    both = np.unique(np.column_stack([at_element, at]), axis=0)
    piece_of, s = both[:, 0].astype(np.intp), both[:, 1]
    last = np.append(piece_of[1:] != piece_of[:-1], True)
    stretch = np.where(last, length[piece_of], np.append(s[1:], 0.0)) - s

    # Every piece meets every term of its element that begins at or before it.
    first_term = np.searchsorted(owner, piece_of)
    terms_there = np.searchsorted(owner, piece_of, side="right") - first_term
    pair_piece = np.repeat(np.arange(len(s)), terms_there)
    pair_term = ranges(first_term, first_term + terms_there)
    d = s[pair_piece] - a[pair_term]
    before = d >= 0
    pair_piece, pair_term, d = pair_piece[before], pair_term[before], d[before]

    def integral(which: int, j: int, without_moments: bool = False) -> Floats:
        """The j-fold integral of the loads in one lane, up to each piece's start: (pieces, results)."""
        there = lane[pair_term] == which
        if without_moments:
            there &= order[pair_term] > -2
        n = order[pair_term[there]] + j
        entries = power(d[there], n)
        table = sparse.csr_matrix((entries, (pair_piece[there], pair_term[there])), shape=(len(s), len(a)))
        return np.asarray(table @ value)

    strained = {
        lane: np.asarray((strain[elements] @ sparse.csr_matrix(weights)).todense())[piece_of]
        for lane, strain in ((AXIAL, solution.strains.stretch), (ALONG_Y, solution.strains.bend_y),
                             (ALONG_Z, solution.strains.bend_z))
        if displacements and strain.nnz
    }  # fmt: skip
    f0 = (solution.start_force[elements] @ weights)[piece_of]
    u0 = start_displacements(solution, elements, weights)[piece_of] if displacements else None
    f1, u1 = f0, u0
    if displacements and solution.second_order_from is not None:
        # Bending that axial forces add is no cubic: it is put on afterwards.
        plain = weights.copy()
        plain[solution.second_order_from :] = 0.0
        f1 = (solution.start_force[elements] @ plain)[piece_of]
        u1 = start_displacements(solution, elements, plain)[piece_of]
    results = weights.shape[1]
    force = np.zeros((len(s), 6, 4, results))
    shape = np.zeros((len(s), 6, 6, results)) if displacements else None
    x = s[:, None]

    for component, which, freedom, rigidity in ((0, AXIAL, 0, mesh.EA), (3, TWIST, 3, mesh.GJ)):
        q, dq = integral(which, 0), integral(which, -1)
        force[:, component, 0] = -(f0[:, freedom] + integral(which, 1))
        force[:, component, 1] = -q
        force[:, component, 2] = -dq / 2
        if shape is not None and u0 is not None:
            soft = _inverse(np.where(mesh.rigid, 0.0, rigidity)[elements][piece_of])
            shape[:, freedom, 0] = u0[:, freedom] - soft * (f0[:, freedom] * x + integral(which, 2))
            for k in range(3):
                shape[:, freedom, k + 1] = soft * force[:, component, k] / (k + 1)
            if which in strained:
                shape[:, freedom, 0] += strained[which] * x
                shape[:, freedom, 1] += strained[which]

    planes = (
        (ALONG_Z, 2, 4, 2, 4, 1.0, mesh.EIy, mesh.GAz),
        (ALONG_Y, 1, 5, 1, 5, -1.0, mesh.EIz, mesh.GAy),
    )
    for which, v, r, shear, moment, sign, EI, GA in planes:
        q, dq = integral(which, 0), integral(which, -1)
        V0, M0 = f0[:, v], sign * f0[:, r]
        V = V0 + integral(which, 1)
        M = M0 + V0 * x + integral(which, 2)
        force[:, shear, 0], force[:, shear, 1], force[:, shear, 2] = V, q, dq / 2
        for k, c in enumerate((M, V, q / 2, dq / 6)):
            force[:, moment, k] = c
        if shape is None or u1 is None:
            continue
        V1, M1 = f1[:, v], sign * f1[:, r]
        linear = M1 + V1 * x + integral(which, 2), V1 + integral(which, 1), q / 2, dq / 6
        bends = np.where(mesh.rigid, 0.0, EI), np.where(mesh.rigid, 0.0, GA)
        soft, slack = (_inverse(rigidity[elements][piece_of]) for rigidity in bends)
        psi0 = -sign * u1[:, r]
        psi = psi0 + soft * (M1 * x + V1 * x**2 / 2 + integral(which, 3))
        sheared = slack * (V1 * x + integral(which, 2, without_moments=True))
        bent = soft * (M1 * x**2 / 2 + V1 * x**3 / 6 + integral(which, 4))
        shape[:, v, 0] = u1[:, v] + psi0 * x + bent - sheared
        shape[:, v, 1] = psi
        shape[:, r, 0] = -sign * psi
        for k in range(4):
            shape[:, v, k + 2] += soft * linear[k] / ((k + 1) * (k + 2))
            shape[:, r, k + 1] = -sign * soft * linear[k] / (k + 1)
        for k in range(3):
            shape[:, v, k + 1] -= slack * (linear[1], q, dq / 2)[k] / (k + 1)
        if which in strained:
            curvature = strained[which]
            shape[:, v, 0] += curvature * x**2 / 2
            shape[:, v, 1] += curvature * x
            shape[:, v, 2] += curvature / 2
            shape[:, r, 0] -= sign * curvature * x
            shape[:, r, 1] -= sign * curvature
    member = mesh.member[elements][piece_of]
    return Pieces(member, elements[piece_of], mesh.s0[elements][piece_of] + s, stretch, force, shape)


def _inverse(rigidity: Floats) -> Floats:
    """1 / rigidity (n, 1), and 0 where there is none: a bar does not twist, it has no torsion."""
    return np.where(rigidity > 0, 1 / np.where(rigidity > 0, rigidity, 1.0), 0.0)[:, None]
