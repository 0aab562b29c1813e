"""Shape functions of triangles (second and third area coordinate) and quadrilaterals (-1 to 1 both ways)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
ALPHA = 1.5
"""By so much of a beam's shape the rotations of its corners bulge a side of an element in its plane."""
ROOT = 1 / np.sqrt(3)
GAUSS_4 = ROOT * np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
"""Points (4, 2) in a quadrilateral from -1 to 1, of weight 1 each."""
GAUSS_3 = np.array([[1 / 6, 1 / 6], [2 / 3, 1 / 6], [1 / 6, 2 / 3]])
"""Points (3, 2) in a triangle: its second and third area coordinates; of a third of its area each."""
CORNERS_4 = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
STEPS = 12
"""Of Newton's method, which needs half of them in the worst quadrilateral."""
CORNERS_3 = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])


def shapes(corners: int, at: Floats) -> tuple[Floats, Floats]:
    """Shape functions (points, corners) and their derivatives (points, corners, 2) at points (points, 2)."""
    a, b = at[:, 0], at[:, 1]
    if corners == 3:
        N = np.column_stack([1 - a - b, a, b])
        return N, np.broadcast_to([[-1.0, -1.0], [1.0, 0.0], [0.0, 1.0]], (len(at), 3, 2))
    x, y = CORNERS_4.T
    one, two = 1 + a[:, None] * x, 1 + b[:, None] * y
    return one * two / 4, np.stack([x * two, y * one], axis=2) / 4


def jacobians(xy: Floats, at: Floats) -> tuple[Floats, Floats]:
    """Of elements (n, corners, 2): determinants (n, points), inverses (n, points, 2, 2) with d/dx = inverse d/da."""
    _, dN = shapes(xy.shape[1], at)
    J = np.einsum("pca,ncx->npax", dN, xy)
    det = J[..., 0, 0] * J[..., 1, 1] - J[..., 0, 1] * J[..., 1, 0]
    inverse = np.stack([J[..., 1, 1], -J[..., 0, 1], -J[..., 1, 0], J[..., 0, 0]], axis=-1).reshape(*J.shape)
    return det, inverse / det[..., None, None]


def rule_of(xy: Floats) -> tuple[Floats, Floats]:
    """Points (points, 2) of integration over elements (n, corners, 2), and what each counts (n, points) [m2]."""
    if xy.shape[1] == 3:
        return GAUSS_3, jacobians(xy, GAUSS_3)[0] / 6
    return GAUSS_4, jacobians(xy, GAUSS_4)[0]


def local_places(xy: Floats, points: Floats) -> Floats:
    """Where points (n, 2) lie in elements (n, corners, 2), one each, in the shape functions' coordinates (n, 2)."""
    corners = xy.shape[1]
    at = np.full((len(xy), 2), 1 / 3 if corners == 3 else 0.0)
    for _ in range(1 if corners == 3 else STEPS):
        N, dN = shapes(corners, at)
        J = np.einsum("nca,ncx->nxa", dN, xy)
        at = at + np.linalg.solve(J, (points - np.einsum("nc,ncx->nx", N, xy))[..., None])[..., 0]
    return at
