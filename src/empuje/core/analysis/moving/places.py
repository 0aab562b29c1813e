"""Results at fixed places as sums of what unit loads make of them, and of what stands on the element itself.

N = -F_x - int q_x      V = F + int q      M = F_r + F x + int int q        (F at the element's start; pieces.py)
w = w0 + psi0 x + (M0 x^2/2 + V0 x^3/6 + int^4 q)/EI - (V0 x + int^2 q)/GA
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from ..at_starts import start_displacements
from ..mesh import Mesh
from ..terms import ALONG_Y, ALONG_Z, AXIAL, TWIST, power
from .units import Put, Units

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
INTEGRALS = (
    (AXIAL, 1, True), (ALONG_Y, 1, True), (ALONG_Z, 1, True), (TWIST, 1, True), (ALONG_Z, 2, True), (ALONG_Y, 2, True),
    (AXIAL, 2, True), (ALONG_Y, 4, True), (ALONG_Z, 4, True), (ALONG_Y, 2, False), (ALONG_Z, 2, False),
)  # fmt: skip
"""Integrals of the loads on an element up to a place: lane, how many-fold, and whether moments count. The first six go
with N Vy Vz T My Mz."""
OF_FORCE = np.array([-1.0, 1.0, 1.0, -1.0, 1.0, 1.0])


@dataclass(frozen=True)
class Places:
    """Results (n,): `linear` (n, k) of the unit loads; of the element (n,), or -1, at x (n,) [m] of it `start` (n, 6)
    of the forces and `slip` (n, 6) of the slips of its held start, and `integral` (n, 11) of the loads before x."""

    linear: Floats
    element: Ints
    x: Floats
    start: Floats
    slip: Floats
    integral: Floats

    def __len__(self) -> int:
        return len(self.x)

    def take(self, rows: object) -> Places:
        """Some of them."""
        return Places(*(getattr(self, f.name)[rows] for f in fields(self)))

    @staticmethod
    def joined(parts: Sequence[Places]) -> Places:
        """One below the other."""
        return Places(*(np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(Places)))

    def values(self, put: Put) -> Floats:
        """Under columns of loads (n, columns)."""
        out = self.linear @ put.at_freedoms
        local = np.flatnonzero(np.isin(self.element, put.loaded))
        if not len(local):
            return np.asarray(out)
        elements, own = np.unique(self.element[local], return_inverse=True)
        starts = put.starts_of(elements)
        for c in range(6):
            some = np.flatnonzero(self.start[local, c])
            if len(some):
                out[local[some]] += self.start[local[some], c, None] * starts[own[some], c]
        out[local] += _integrals(self, local, put)
        self._slipped(out, local, put)
        return np.asarray(out)

    def _slipped(self, out: Floats, local: Ints, put: Put) -> None:
        slipping = put.slipping
        place = np.searchsorted(slipping, self.element[local])
        some = np.flatnonzero(np.append(slipping, -1)[place] == self.element[local])
        for row, k in zip(local[some].tolist(), place[some].tolist(), strict=True):
            if self.slip[row].any():
                out[row] += self.slip[row] @ put.slip[k]


def _integrals(places: Places, local: Ints, put: Put) -> Floats:
    """What loads on the rows' own elements before x bring to the rows."""
    terms = put.terms
    out = np.zeros((len(local), terms.value.shape[1]))
    used = np.flatnonzero((places.integral[local] != 0).any(axis=0))
    element = places.element[local]
    for e in np.unique(element).tolist():
        rows = np.flatnonzero(element == e)
        own = slice(*np.searchsorted(terms.element, [e, e + 1]).tolist())
        if own.start == own.stop:
            continue
        # Rows of one place share what is before it.
        x, which = np.unique(places.x[local[rows]], return_inverse=True)
        lane, order, value = terms.lane[own], terms.order[own], terms.value[own]
        d = x[:, None] - terms.a[own]
        for j in used.tolist():
            of, times, with_moments = INTEGRALS[j]
            mine = np.flatnonzero((lane == of) & (with_moments | (order > -2)))
            share = places.integral[local[rows], j]
            if not len(mine) or not share.any():
                continue
            reach = d[:, mine]
            before = np.where(reach >= 0, power(np.maximum(reach, 0.0), order[mine] + times), 0.0)
            some = np.flatnonzero(share)
            out[rows[some]] += share[some, None] * np.asarray(before @ value[mine])[which[some]]
    return out


def at_nodes(units: Units, node: Ints, component: Ints) -> Places:
    """Displacements of nodes (n,) along or about global axes 0..5."""
    return plain(units.displacement[node, component])


def at_supports(units: Units, support: Ints, component: Ints) -> Places:
    """Reactions, by the place of the support among those of the solution."""
    return plain(units.reaction[support, component])


def plain(linear: Floats) -> Places:
    """Results (n, k) of unit loads that have nothing to do with what stands on an element."""
    n = len(linear)
    nought = np.zeros((n, 6))
    return Places(linear, np.full(n, -1), np.zeros(n), nought, nought, np.zeros((n, len(INTEGRALS))))


def elements_at(mesh: Mesh, member: Ints, s: Floats, side: int) -> tuple[Ints, Floats]:
    """The element of members (n,) at s (n,) [m], and the place on it; where two meet the one to the left (-1) or the
    right (1)."""
    first, stop = mesh.first[member], mesh.first[member + 1]
    element = np.array([
        a + min(max(int(np.searchsorted(mesh.s0[a:b], at + side * 1e-9, side="right")) - 1, 0), b - a - 1)
        for a, b, at in zip(first.tolist(), stop.tolist(), s.tolist(), strict=True)
    ], np.intp)  # fmt: skip
    return element, np.clip(s - mesh.s0[element], 0.0, mesh.length[element])


def forces_at(units: Units, element: Ints, x: Floats, share: Floats) -> Places:
    """Sums with shares (n, 6) of N Vy Vz T My Mz at x (n,) [m] of elements."""
    N, Vy, Vz, T, My, Mz = share.T
    start = np.column_stack([-N, Vy + Mz * x, Vz + My * x, -T, My, -Mz])
    linear = np.einsum("nc,nck->nk", start, units.start_force[element])
    integral = np.zeros((len(x), len(INTEGRALS)))
    integral[:, :6] = share * OF_FORCE
    return Places(linear, element, x, start, np.zeros((len(x), 6)), integral)


def displacements_at(units: Units, element: Ints, x: Floats, along: Floats) -> Places:
    """Displacements along vectors (n, 3) in member axes at x (n,) [m] of elements."""
    mesh, k, n = units.equations.mesh, len(units.freedoms), len(x)
    nothing = units.put_nothing()
    motion = start_displacements(nothing, element, np.eye(k))
    ux, uy, uz = along.T
    of_motion = np.column_stack([ux, uy, uz, 0 * x, -uz * x, uy * x])
    soft, slack = ({a: _soft(mesh, element, r) for a, r in pairs} for pairs in (
        (("x", mesh.EA), ("y", mesh.EIz), ("z", mesh.EIy)), (("y", mesh.GAy), ("z", mesh.GAz)),
    ))  # fmt: skip
    start = np.zeros((n, 6))
    start[:, 0] = -ux * soft["x"] * x
    start[:, 1] = uy * (soft["y"] * x**3 / 6 - slack["y"] * x)
    start[:, 5] = -uy * soft["y"] * x**2 / 2
    start[:, 2] = uz * (soft["z"] * x**3 / 6 - slack["z"] * x)
    start[:, 4] = uz * soft["z"] * x**2 / 2
    integral = np.zeros((n, len(INTEGRALS)))
    integral[:, 6] = -ux * soft["x"]
    integral[:, 7], integral[:, 8] = uy * soft["y"], uz * soft["z"]
    integral[:, 9], integral[:, 10] = -uy * slack["y"], -uz * slack["z"]
    linear = np.einsum("nc,nck->nk", of_motion, motion) + np.einsum("nc,nck->nk", start, units.start_force[element])
    return Places(linear, element, x, start, -of_motion, integral)


def _soft(mesh: Mesh, element: Ints, rigidity: Floats) -> Floats:
    value = np.where(mesh.rigid, 0.0, rigidity)[element]
    return np.where(value > 0, 1 / np.where(value > 0, value, 1.0), 0.0)
