"""Stretching of plates, with rotations about the normal: optimal triangles of three freedoms a corner, and
quadrilaterals as the mean of their two pairs of triangles.

    K = 1/V L E L' + 3/4 b_0 T' K_theta T

with a constant part that passes every patch test and a part of higher order that makes bending in the plane exact in
rectangles of any shape. C. A. Felippa, A study of optimal membrane triangles with drilling freedoms, Comput. Methods
Appl. Mech. Eng. 192 (2003): alpha_b = 3/2, b_0 = (1 - 4 nu^2) / 2, the betas of the optimal element.

Freedoms of a corner: u_x, u_y, and the rotation about the normal.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...surfaces.mesh.shapes import ALPHA

Floats = NDArray[np.float64]
BETAS = np.array([[1.0, 2.0, 1.0], [0.0, 1.0, -1.0], [-1.0, -1.0, -2.0]])
LEAST_BETA = 0.01
SPLITS = np.array([[0, 1, 2], [0, 2, 3], [0, 1, 3], [1, 2, 3]])
"""The triangles of both pairs that make up a quadrilateral."""


def _differences(xy: Floats) -> tuple[Floats, Floats, Floats]:
    """x_i - x_j and y_i - y_j (n, 3, 3), and areas (n,)."""
    x, y = xy[..., 0], xy[..., 1]
    dx, dy = x[:, :, None] - x[:, None], y[:, :, None] - y[:, None]
    return dx, dy, (dx[:, 1, 0] * dy[:, 2, 0] - dx[:, 2, 0] * dy[:, 1, 0]) / 2


def _lumped(xy: Floats) -> Floats:
    """L / V (n, 9, 3) [1/m]: the mean strains from the freedoms are its transpose times these."""
    dx, dy, area = _differences(xy)
    out = np.zeros((len(xy), 3, 3, 3))
    for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
        out[:, i, 0, 0] = out[:, i, 1, 2] = dy[:, j, k]
        out[:, i, 1, 1] = out[:, i, 0, 2] = dx[:, k, j]
        out[:, i, 2, 0] = ALPHA / 6 * dy[:, j, k] * (dy[:, i, k] - dy[:, j, i])
        out[:, i, 2, 1] = ALPHA / 6 * dx[:, k, j] * (dx[:, k, i] - dx[:, i, j])
        out[:, i, 2, 2] = ALPHA / 3 * (dx[:, k, i] * dy[:, i, k] - dx[:, i, j] * dy[:, j, i])
    return out.reshape(-1, 9, 3) / (2 * area[:, None, None])


def _natural(xy: Floats) -> tuple[Floats, Floats, Floats]:
    """Strains from those along the sides 1-2, 2-3, 3-1 (n, 3, 3); these at the corners from the hierarchical rotations
    (n, corners, 3, 3); the hierarchical rotations from the freedoms (n, 3, 9)."""
    dx, dy, area = _differences(xy)
    n = len(xy)
    square = np.stack([dx[:, j, i] ** 2 + dy[:, j, i] ** 2 for i, j in ((0, 1), (1, 2), (2, 0))], axis=1)
    T = np.empty((n, 3, 3))
    for side, (i, j, k) in enumerate(((1, 2, 0), (2, 0, 1), (0, 1, 2))):
        # columns in the order of the sides 21, 32, 13: y23 y13, y31 y21, y12 y32
        T[:, 0, side] = dy[:, i, j] * dy[:, k, j]
        T[:, 1, side] = dx[:, i, j] * dx[:, k, j]
        T[:, 2, side] = dy[:, i, j] * dx[:, j, k] + dx[:, j, i] * dy[:, k, j]
    T *= square[:, None] / (4 * area**2)[:, None, None]
    # Corner by corner the betas go round, and with them the sides.
    Q = np.empty((n, 3, 3, 3))
    b = BETAS
    Q[:, 0] = b
    Q[:, 1] = np.array([[b[2, 2], b[2, 0], b[2, 1]], [b[0, 2], b[0, 0], b[0, 1]], [b[1, 2], b[1, 0], b[1, 1]]])
    Q[:, 2] = np.array([[b[1, 1], b[1, 2], b[1, 0]], [b[2, 1], b[2, 2], b[2, 0]], [b[0, 1], b[0, 2], b[0, 0]]])
    Q *= (2 * area[:, None] / 3 / square)[:, None, :, None]
    row = np.zeros((n, 3, 3))
    for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
        row[:, i, 0], row[:, i, 1] = dx[:, k, j], dy[:, k, j]
    of = np.tile(row.reshape(n, 1, 9), (1, 3, 1)) / (4 * area[:, None, None])
    of[:, range(3), (2, 5, 8)] += 1.0
    return T, Q, of


def _beta(E: Floats) -> Floats:
    """b_0 (n,) by the ratio of contraction."""
    most = np.maximum(E[:, 0, 0], E[:, 1, 1])
    nu = E[:, 0, 1] / np.where(most > 0, most, 1.0)  # 0 of a plate that only bends
    return np.asarray(np.maximum((1 - 4 * nu**2) / 2, LEAST_BETA))


def _of_triangles(xy: Floats, E: Floats) -> Floats:
    _, _, area = _differences(xy)
    L = _lumped(xy)
    T, Q, of = _natural(xy)
    sides = np.stack([Q[:, [0, 1]].mean(axis=1), Q[:, [1, 2]].mean(axis=1), Q[:, [2, 0]].mean(axis=1)], axis=1)
    strain = T[:, None] @ sides @ of[:, None]
    higher = np.einsum("nsif,nij,nsjg->nfg", strain, E, strain, optimize=True)
    basic = L @ E @ L.transpose(0, 2, 1)
    return np.asarray(area[:, None, None] * (basic + 0.75 * _beta(E)[:, None, None] * higher))


def membrane_stiffness(xy: Floats, E: Floats) -> Floats:
    """Stiffness (n, 3 corners, 3 corners) for u_x, u_y and the rotation about the normal of elements (n, corners, 2)
    [m], from what stretching E (n, 3, 3) [N/m] resists."""
    if xy.shape[1] == 3:
        return _of_triangles(xy, E)
    out = np.zeros((len(xy), 12, 12))
    for split in SPLITS:
        at = (3 * split[:, None] + np.arange(3)).ravel()
        out[:, at[:, None], at] += 0.5 * _of_triangles(xy[:, split], E)
    return out


def strain_rows(xy: Floats, E: Floats) -> Floats:
    """Strains e_x, e_y, g_xy at the corners (n, corners, 3, 3 corners) from the freedoms; of a quadrilateral the means
    of its triangles that meet there."""
    n, corners = xy.shape[:2]
    if corners == 3:
        L, (T, Q, of) = _lumped(xy), _natural(xy)
        higher = 1.5 * np.sqrt(_beta(E))[:, None, None, None] * (T[:, None] @ Q @ of[:, None])
        return np.asarray(L.transpose(0, 2, 1)[:, None] + higher)
    out = np.zeros((n, 4, 3, 12))
    # Every pair of triangles gives a strain at every corner; where both of a pair meet, their mean.
    for split in SPLITS:
        at = (3 * split[:, None] + np.arange(3)).ravel()
        rows = strain_rows(xy[:, split], E)
        for k, corner in enumerate(split):
            pair = SPLITS[:2] if any((split == s).all() for s in SPLITS[:2]) else SPLITS[2:]
            meet = sum(int((s == corner).any()) for s in pair)
            out[:, corner, :, at] += (0.5 / meet * rows[:, k]).transpose(2, 0, 1)
    return out
