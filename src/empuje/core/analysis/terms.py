"""Loads on elements as terms of Macaulay's method.

A term is a load that begins at `a` on an element and goes on to its end: <x - a>^n. Order n = -2 is a moment, -1 a
force, 0 an even line load, 1 a growing one. A load that ends before the element does is taken away by a second term.

        q  ____________           ____________________            ____________
          |            |     =   |                       minus   |
          a            b         a                               b

Integrating j times gives d^(n+j)/(n+j)! with d = x - a, which is all of statics and bending. Lanes: 0 axial, 1 along y,
2 along z, 3 twist. A moment about y bends in lane 2, one about -z in lane 1.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.loads import PlainLoads
from ..model.project import Project
from .mesh import Mesh, ranges

Ints = NDArray[np.intp]
Floats = NDArray[np.float64]
AXIAL, ALONG_Y, ALONG_Z, TWIST = range(4)
FACTORIAL = np.array([1.0, 1.0, 2.0, 6.0, 24.0, 120.0])


@dataclass(frozen=True)
class Terms:
    """Terms sorted by element; `value` (terms, cases) holds how much of each term a case has [N, N/m, N/m2, N m]."""

    element: Ints
    lane: Ints
    order: Ints
    a: Floats
    value: sparse.csr_matrix


@dataclass(frozen=True)
class FreeStrains:
    """What the elements would do if nothing held them, even along each: (elements, cases).

    stretch [-]; bend_y, bend_z [1/m]: the slope dpsi/dx of the free curvature in the x-y and x-z plane.
    """

    stretch: sparse.csr_matrix
    bend_y: sparse.csr_matrix
    bend_z: sparse.csr_matrix


def free_strains(mesh: Mesh, loads: PlainLoads, project: Project, cases: int) -> FreeStrains:
    """From temperatures and lacks of fit, over the lengths of members less their rigid ends.

    A fibre at z stretches by -z psi' and by expansion gradient_z z: free, psi' = -expansion gradient_z.
    """
    m = loads.strains.member
    first, stop = mesh.first[m], mesh.first[m + 1]
    load, element = np.repeat(np.arange(len(m)), stop - first), ranges(first, stop)
    load, element = load[~mesh.rigid[element]], element[~mesh.rigid[element]]
    shape = (len(mesh.length), cases)

    def table(value: Floats) -> sparse.csr_matrix:
        return sparse.csr_matrix((value[load], (element, loads.strains.case[load])), shape=shape)

    rise, along_y, along_z, too_long = loads.strains.v.T
    members = [project.members[i] for i in m]
    a = np.array([member.material.expansion for member in members])
    clear = project.lengths[m] - np.array([sum(member.offsets) for member in members])
    return FreeStrains(table(a * rise + too_long / clear), table(-a * along_y), table(-a * along_z))


def power(d: Floats, n: Ints) -> Floats:
    """d^n / n! for d >= 0, and 0 for negative n."""
    k = np.maximum(n, 0)
    return np.where(n < 0, 0.0, d**k / FACTORIAL[k])


def build_terms(mesh: Mesh, loads: PlainLoads, cases: int) -> Terms:
    """The terms of all plain loads on members."""
    found = [_sifted(mesh, f) for f in (*_from_lines(mesh, loads), *_from_points(mesh, loads))]
    kind, a, case, value = (np.concatenate([f[i] for f in found]) for i in range(4))
    # One row for each different (element, lane, order, a): cases that load alike share their terms.
    row, kinds, starts = _rows(kind, a, 16 * len(mesh.length))
    element, rest = np.divmod(kinds, 16)
    lane, order = np.divmod(rest, 4)
    shape = (len(kinds), cases)
    return Terms(element, lane, order - 2, starts, sparse.csr_matrix((value, (row, case)), shape=shape))


def _rows(kind: Ints, a: Floats, most: int) -> tuple[Ints, Ints, Floats]:
    """The place of each pair (kind < most, a) among the different ones in order, and these."""
    if not a.any():  # the usual case, without sorting: every load begins where its element does
        there = np.zeros(most, bool)
        there[kind] = True
        kinds = np.flatnonzero(there)
        return (np.cumsum(there) - 1)[kind], kinds, np.zeros(len(kinds))
    sort = np.lexsort((a, kind))
    kind, a = kind[sort], a[sort]
    new = np.ones(len(kind), bool)
    new[1:] = (np.diff(kind) != 0) | (np.diff(a) != 0)
    row = np.empty(len(kind), np.intp)
    row[sort] = np.cumsum(new) - 1
    return row, kind[new], a[new]


Found = tuple[Ints, int, int, Floats, Ints, Floats]


def _sifted(mesh: Mesh, found: Found) -> tuple[Ints, Floats, Ints, Floats]:
    """One number for element, lane and order, then a, case and value, of the terms that do something."""
    element, lane, order, a, case, value = found
    some = (value != 0) & ((a < mesh.length[element]) | (order < 0))
    if not some.all():
        element, a, case, value = element[some], a[some], case[some], value[some]
    return 16 * element + 4 * lane + order + 2, a, case, value


def _from_lines(mesh: Mesh, loads: PlainLoads) -> list[Found]:
    """Every line load cut at the elements it crosses."""
    first, stop = mesh.first[loads.lines.member], mesh.first[loads.lines.member + 1]
    load = np.repeat(np.arange(len(first)), stop - first)
    element = ranges(first, stop)
    s0, s1 = loads.lines.s0[load], loads.lines.s1[load]
    a = np.maximum(s0 - mesh.s0[element], 0.0)
    b = np.minimum(s1 - mesh.s0[element], mesh.length[element])
    # A sliver left by rounding at an element's end would blow up the slope.
    hit = b - a > 1e-12 * mesh.length[element]
    if not hit.all():
        load, element = load[hit], element[hit]
        a, b, s0, s1 = (v[hit] for v in (a, b, s0, s1))
    begin, stretch = mesh.s0[element] - s0, 1 / (s1 - s0)
    out: list[Found] = []
    for k in range(3):  # global components one by one: most loads have one only
        some = np.flatnonzero((loads.lines.q0[load, k] != 0) | (loads.lines.q1[load, k] != 0))
        if not len(some):
            continue
        on, case = element[some], loads.lines.case[load[some]]
        q0, q1 = loads.lines.q0[load[some], k], loads.lines.q1[load[some], k]
        near, far, length = a[some], b[some], mesh.length[on]
        slope = (q1 - q0) * stretch[some]
        at_a, at_b = q0 + slope * (begin[some] + near), q0 + slope * (begin[some] + far)
        stops = bool((far < length).any())
        for lane in (AXIAL, ALONG_Y, ALONG_Z):
            share = mesh.axes[on, lane, k]
            if share.any():
                out += [(on, lane, 0, near, case, share * at_a), (on, lane, 1, near, case, share * slope)]
                if stops:
                    out += [(on, lane, 0, far, case, -share * at_b), (on, lane, 1, far, case, -share * slope)]
    return out


def _from_points(mesh: Mesh, loads: PlainLoads) -> list[Found]:
    """Every force and moment on the element it stands on; at a node between two elements, on the later one."""
    n = len(loads.points.s)
    first, stop = mesh.first[loads.points.member], mesh.first[loads.points.member + 1]
    load = np.repeat(np.arange(n), stop - first)
    reached = mesh.s0[ranges(first, stop)] <= loads.points.s[load] + 1e-9
    element = first + np.bincount(load[reached], minlength=n) - 1
    a = np.clip(loads.points.s - mesh.s0[element], 0.0, mesh.length[element])
    force = np.einsum("nij,nj->ni", mesh.axes[element], loads.points.f[:, :3])
    moment = np.einsum("nij,nj->ni", mesh.axes[element], loads.points.f[:, 3:])
    return [
        (element, lane, order, a, loads.points.case, value)
        for lane, order, value in (
            (AXIAL, -1, force[:, 0]), (ALONG_Y, -1, force[:, 1]), (ALONG_Z, -1, force[:, 2]),
            (TWIST, -1, moment[:, 0]), (ALONG_Z, -2, moment[:, 1]), (ALONG_Y, -2, -moment[:, 2]),
        )
    ]  # fmt: skip


def strained_ends(mesh: Mesh, free: FreeStrains) -> sparse.csr_matrix:
    """End forces (elements * 12, cases) of elements whose both ends are held against their free strains."""
    shape = (12 * len(mesh.length), free.stretch.shape[1])
    row, column, value = [], [], []
    for freedom, rigidity, strain in (
        (0, mesh.EA, free.stretch), (4, -mesh.EIy, free.bend_z), (5, mesh.EIz, free.bend_y),
    ):  # fmt: skip
        some = strain.tocoo()
        force = rigidity[some.row] * some.data
        row += [12 * some.row + freedom, 12 * some.row + freedom + 6]
        column += [some.col, some.col]
        value += [force, -force]
    return sparse.csr_matrix((np.concatenate(value), (np.concatenate(row), np.concatenate(column))), shape=shape)


def fixed_end_forces(mesh: Mesh, terms: Terms) -> sparse.csr_matrix:
    """End forces (elements * 12, cases) that the loads put on elements whose both ends are held.

    A rigid length is held by its node alone.
    With A_j the j-fold integral of the loads at the end, zero rotation and zero deflection there give
    V0 (L^3/12)(1 + phi) = A4 - (EI/GA) A2 - A3 L/2 and M0 = -A3/L - V0 L/2.
    """
    e, lane, n = terms.element, terms.lane, terms.order
    L = mesh.length[e]
    d = L - terms.a
    A1, A2, A3, A4 = (power(d, n + j) for j in (1, 2, 3, 4))
    straight = (lane == AXIAL) | (lane == TWIST)
    along_y = lane == ALONG_Y
    EI, GA = np.where(along_y, mesh.EIz[e], mesh.EIy[e]), np.where(along_y, mesh.GAy[e], mesh.GAz[e])
    shear = EI / GA
    # A moment makes M jump without any V: only its bending part counts.
    V0 = (A4 - shear * np.where(n == -2, 0.0, A2) - A3 * L / 2) / (L**3 / 12 + shear * L)
    M0 = -A3 / L - V0 * L / 2
    V0 = np.where(straight, -A2 / L, V0)
    # Fast to the node at its start: nothing left at the end; fast to the node at its end: nothing yet at the start.
    rigid, at_start = mesh.rigid[e], mesh.arm[e, 0] == 0
    V0 = np.where(rigid, np.where(at_start, -A1, 0.0), V0)
    M0 = np.where(rigid, np.where(at_start, -(V0 * L + A2), 0.0), M0)
    V1, M1 = V0 + A1, M0 + V0 * L + A2
    turn = np.where(along_y, -1.0, 1.0)
    freedom = np.array([0, 1, 2, 3])[lane]
    rotation = np.where(along_y, 5, 4)
    row = np.concatenate([12 * e + freedom, 12 * e + freedom + 6, 12 * e + rotation, 12 * e + rotation + 6])
    bend = np.where(straight, 0.0, turn)
    value = np.concatenate([V0, -V1, bend * M0, -bend * M1])
    column = np.tile(np.arange(len(e)), 4)
    shape = (12 * len(mesh.length), len(e))
    return sparse.csr_matrix((value, (row, column)), shape=shape) @ terms.value
