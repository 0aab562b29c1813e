"""What an axial force does to a member that bends: the shapes it can take between its ends, and their slopes.

The motion of an element in one plane is that of its ends, which bends it as the linear element does, plus what the
axial force adds: slips of its end connections, and inner shapes with both ends held. Their moments are Legendre
polynomials in xi = 2x/L - 1,

    m_n = (2 EI/L) (P_n + alpha_n P_1),   n = 2 .. 9,   alpha_n = -phi / (1 + phi) for odd n, else 0

with phi = 12 EI/(GA L^2), shear V = dm/dx, slope w' = psi - V/GA, and alpha such that w vanishes at both ends. Ends,
slips and inner shapes share no linear energy, so that the factorised frame and small blocks are all of the linear
system. The slope w' = sum a_m P_m has m = 0 .. 10. Eight inner shapes hold the buckled shape of a fixed-ended member,
the sharpest there is before its ends move, to 1e-6.

Planes: 0 is x-z (w = uz, psi = -ry), 1 is x-y (w = uy, psi = rz).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.polynomial import legendre
from numpy.typing import NDArray

from ..model.project import Project
from .element import Connections
from .mesh import Mesh

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
INNER = 8
ORDERS = np.arange(2, 2 + INNER)
SLOPES = INNER + 3
"""Legendre coefficients of a slope."""
KINDS = 4 + INNER
"""What an element has in each plane: w psi at its start, w psi at its end, inner shapes."""
ENDS = np.array([[2, 4, 8, 10], [1, 5, 7, 11]])
TILT = np.array([[1.0, -1.0, 1.0, -1.0], [1.0, 1.0, 1.0, 1.0]])
POINTS = 12
"""Gauss points of a piece: exact for an axial force of second degree times two slopes."""


@dataclass(frozen=True)
class BeamColumnShapes:
    """Both planes of every element.

    slope (elements, 2, SLOPES, KINDS): Legendre coefficients of w' from the motion of the ends and the inner shapes
    inner (elements, 2, KINDS, KINDS): inverse of the stiffness of slips (first four) and inner shapes; 0 where absent
    jointed (k,), bent (k, 12, 12): elements with end connections, and their ends' motion from that of the nodes
    """

    slope: Floats
    inner: Floats
    jointed: Ints
    bent: Floats

    def ends(self, at_nodes: Floats) -> Floats:
        """Motions of the elements' own ends (elements, 2, 4, columns) from those of nodes (elements, 12, columns)."""
        ends = at_nodes.copy()
        ends[self.jointed] = self.bent @ at_nodes[self.jointed]
        return np.asarray(ends[:, ENDS] * TILT[:, :, None])

    def at_nodes(self, at_ends: Floats) -> Floats:
        """Forces at nodes (elements, 12, columns) from forces on the elements' own ends (elements, 2, 4, columns)."""
        out = np.zeros((len(at_ends), 12, at_ends.shape[-1]))
        out[:, ENDS] = at_ends * TILT[:, :, None]
        out[self.jointed] = self.bent.transpose(0, 2, 1) @ out[self.jointed]
        return out


def build_shapes(project: Project, mesh: Mesh, joints: Connections, stiffness_fixed: Floats) -> BeamColumnShapes:
    """Shapes and inner stiffness of every element, from its stiffness with both ends rigidly joined (elements, 12, 12).
    Bars and rigid lengths stay straight between their ends."""
    n = len(mesh.length)
    bars = np.array([m.bar for m in project.members], bool)[mesh.member]
    bends = ~(bars | mesh.rigid)
    slope, inner = np.zeros((n, 2, SLOPES, KINDS)), np.zeros((n, 2, KINDS, KINDS))
    for plane, (EI, GA) in enumerate(((mesh.EIy, mesh.GAz), (mesh.EIz, mesh.GAy))):
        phi = 12 * EI / (GA * mesh.length**2)
        slope[:, plane] = _slopes(mesh.length, phi)
        slope[~bends, plane, :, 4:] = 0.0
        inner[:, plane, 4:, 4:] = np.linalg.inv(_inner_stiffness(2 * EI / mesh.length, phi))
        soft = np.isfinite(mesh.joint[:, ENDS[plane]]) & bends[:, None]
        some = np.flatnonzero(soft.any(axis=1))
        if len(some):
            held = stiffness_fixed[some][:, ENDS[plane]][:, :, ENDS[plane]] * np.outer(TILT[plane], TILT[plane])
            spring = np.where(soft, mesh.joint[:, ENDS[plane]], 0.0)[some]
            both = soft[some][:, :, None] & soft[some][:, None, :]
            block = np.where(both, held + spring[:, :, None] * np.eye(4), np.eye(4))
            inner[some, plane, :4, :4] = np.where(both, np.linalg.inv(block), 0.0)
        if project.plane:
            # A plane model neither moves nor buckles out of its plane.
            across = np.abs(mesh.axes[:, 2 - plane, 1]) > 0.5
            slope[across, plane], inner[across, plane] = 0.0, 0.0
    inner[~bends] = 0.0
    e = joints.elements
    bent = np.eye(12) - joints.slip[:, :, None] * (joints.mix @ stiffness_fixed[e])
    return BeamColumnShapes(slope, inner, e, bent)


def _slopes(L: Floats, phi: Floats) -> Floats:
    """Legendre coefficients of w' (n, SLOPES, KINDS).

    From the ends: a0 = (w1 - w0)/L, a1 = (psi1 - psi0)/2, a2 = ((psi0 + psi1)/2 - a0) / (1 + phi).
    """
    out = np.zeros((len(L), SLOPES, KINDS))
    out[:, 0, 0], out[:, 0, 2] = -1 / L, 1 / L
    out[:, 1, 1], out[:, 1, 3] = -0.5, 0.5
    out[:, 2, 1] = out[:, 2, 3] = 0.5 / (1 + phi)
    out[:, 2, 0], out[:, 2, 2] = 1 / L / (1 + phi), -1 / L / (1 + phi)
    alpha = -phi / (1 + phi)
    for k, order in enumerate(ORDERS, start=4):
        out[:, order + 1, k] += 1 / (2 * order + 1)
        out[:, order - 1, k] -= 1 / (2 * order + 1)
        for m in range(order - 1, -1, -2):  # P_n' = sum of (2m + 1) P_m
            out[:, m, k] -= phi / 3 * (2 * m + 1)
        if order % 2:
            out[:, 2, k] += alpha / 3
            out[:, 0, k] = 0.0
    return out


def _inner_stiffness(scale: Floats, phi: Floats) -> Floats:
    """Linear energy of the inner shapes (n, INNER, INNER): moments over EI and shears over GA; scale = 2 EI/L."""
    low = np.minimum(ORDERS[:, None], ORDERS)
    alike = (ORDERS[:, None] - ORDERS) % 2 == 0
    odd = ORDERS % 2 == 1
    alpha = (-phi / (1 + phi))[:, None] * odd
    both = alpha[:, :, None] * alpha[:, None, :]
    rise = 2.0 * odd
    bending = np.diag(2 / (2 * ORDERS + 1)) + both * 2 / 3
    shear = (
        np.where(alike, low * (low + 1), 0) + alpha[:, :, None] * rise + rise[:, None] * alpha[:, None, :] + 2 * both
    )
    return np.asarray(scale[:, None, None] * (bending + (phi / 3)[:, None, None] * shear))


def gauss(start: Floats, length: Floats, whole: Floats) -> tuple[Floats, Floats, Floats]:
    """Points of pieces inside elements of length `whole`: t on the piece (n, POINTS), P_m there, weights [m]."""
    g, w = legendre.leggauss(POINTS)
    t = length[:, None] * (1 + g) / 2
    xi = 2 * (start[:, None] + t) / whole[:, None] - 1
    return t, np.asarray(legendre.legvander(xi, SLOPES - 1), float), length[:, None] / 2 * w


def at_end_weights() -> Floats:
    """Sums over a piece's points (2, POINTS) that give a quadratic's value at its start and at its end."""
    g, w = legendre.leggauss(POINTS)
    m = np.arange(3)
    share = (2 * m + 1) / 2 * np.asarray(legendre.legvander(g, 2), float) * w[:, None]
    return np.stack([share @ (-1.0) ** m, share @ np.ones(3)])


POWERS = np.array([np.pad(legendre.leg2poly(row), (0, SLOPES - 1 - m)) for m, row in enumerate(np.eye(SLOPES))])
"""P_m as powers of xi (SLOPES, SLOPES)."""


def in_powers(coefficients: Floats, start: Floats, whole: Floats) -> Floats:
    """Legendre sums (n, SLOPES, columns) as powers of t from `start` [m] on elements of length `whole`."""
    xi, step = 2 * start / whole - 1, 2 / whole
    shift = np.zeros((len(xi), SLOPES, SLOPES))
    for k in range(SLOPES):
        # C(m, k) xi^(m - k) step^k, summed over m >= k
        m = np.arange(k, SLOPES)
        binomial = np.array([math.comb(int(i), k) for i in m])
        shift[:, k, k:] = binomial * xi[:, None] ** (m - k) * step[:, None] ** k
    return np.asarray(shift @ POWERS.T @ coefficients)
