"""Bending of plates with shear: discrete Kirchhoff-Mindlin triangles and quadrilaterals of three freedoms a corner.

    4-------7-------3        w and the rotations b_x, b_y of the normal at the corners; on every side k the rotation
    |               |        along the side is quadratic, d_k its bulge in the middle, which follows from the shear
    8               6        that the bending of the side itself makes:
    |               |            gamma_k = w,s + b_s = -2/3 phi_k d_k,   phi_k = 12 D_s / (K_s L_k^2)
    1-------5-------2            d_k = -3 / (2 L_k (1 + phi_k)) (w_j - w_i + L_k/2 (b_si + b_sj))

so that nothing locks in a thin plate (phi -> 0) and a thick one shears. I. Katili, A new discrete Kirchhoff-Mindlin
element based on Mindlin-Reissner plate theory and assumed shear strain fields, parts I and II, Int. J. Num. Meth. Eng.
36 (1993).

Freedoms of a corner: w, b_x, b_y with u_x = z b_x, u_y = z b_y. Curvatures b_x,x, b_y,y, b_x,y + b_y,x.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...surfaces.mesh.shapes import jacobians, rule_of, shapes

Floats = NDArray[np.float64]


def bulges(corners: int, at: Floats) -> Floats:
    """Derivatives (points, sides, 2) of the quadratics that are 1 in the middle of a side."""
    a, b = at[:, 0], at[:, 1]
    if corners == 3:
        N, dN = shapes(3, at)
        return np.stack(
            [4 * (dN[:, i] * N[:, j, None] + N[:, i, None] * dN[:, j]) for i, j in ((0, 1), (1, 2), (2, 0))], axis=1
        )
    return np.stack(
        [
            np.column_stack([-a * (1 - b), -(1 - a * a) / 2]), np.column_stack([(1 - b * b) / 2, -b * (1 + a)]),
            np.column_stack([-a * (1 + b), (1 - a * a) / 2]), np.column_stack([-(1 - b * b) / 2, -b * (1 - a)]),
        ],
        axis=1,
    )  # fmt: skip


def bulge_rows(xy: Floats, D: Floats, K: Floats) -> tuple[Floats, Floats, Floats]:
    """Of elements (n, corners, 2) with stiffness D (n, 3, 3) [N m] and K (n, 2, 2) [N/m]: directions of the sides
    (n, sides, 2), gamma_k / d_k (n, sides), and d_k from the freedoms (n, sides, 3 corners)."""
    n, corners = xy.shape[:2]
    step = np.roll(xy, -1, axis=1) - xy
    length = np.linalg.norm(step, axis=2)
    way = step / length[..., None]
    c, s = way[..., 0], way[..., 1]
    q = np.stack([c * c, s * s, c * s], axis=2)
    D_s = np.einsum("nki,nij,nkj->nk", q, D * np.array([[1, 1, 2], [1, 1, 2], [2, 2, 4]]), q)
    K_s = np.einsum("nki,nij,nkj->nk", way, K, way)
    phi = 12 * D_s / (K_s * length**2)
    rows = np.zeros((n, corners, corners, 3))
    i, j = np.arange(corners), np.roll(np.arange(corners), -1)
    rows[:, i, i, 0], rows[:, i, j, 0] = -1.0, 1.0
    half = length[..., None] / 2 * way
    rows[:, i, i, 1:] = half
    rows[:, i, j, 1:] = half
    rows *= (-1.5 / (length * (1 + phi)))[..., None, None]
    return way, -2 / 3 * phi, rows.reshape(n, corners, 3 * corners)


def curvature_rows(xy: Floats, D: Floats, K: Floats, at: Floats) -> Floats:
    """Curvatures at points (n, points, 3, 3 corners) from the freedoms."""
    n, corners = xy.shape[:2]
    way, _, bulge = bulge_rows(xy, D, K)
    _, inverse = jacobians(xy, at)
    dN = np.einsum("npxa,pca->npcx", inverse, shapes(corners, at)[1])
    dP = np.einsum("npxa,pka->npkx", inverse, bulges(corners, at))
    B = np.zeros((n, len(at), 3, corners, 3))
    B[:, :, 0, :, 1] = B[:, :, 2, :, 2] = dN[..., 0]
    B[:, :, 1, :, 2] = B[:, :, 2, :, 1] = dN[..., 1]
    c, s = way[:, None, :, 0], way[:, None, :, 1]
    of_bulge = np.stack([dP[..., 0] * c, dP[..., 1] * s, dP[..., 1] * c + dP[..., 0] * s], axis=2)
    return B.reshape(n, len(at), 3, 3 * corners) + of_bulge @ bulge[:, None]


def shear_rows(xy: Floats, D: Floats, K: Floats, at: Floats) -> Floats:
    """Shear strains w,x + b_x and w,y + b_y at points (n, points, 2, 3 corners) from the freedoms: along every side the
    one of that side."""
    corners = xy.shape[1]
    way, ratio, bulge = bulge_rows(xy, D, K)
    along = ratio[..., None] * bulge  # (n, sides, freedoms): the shear strain along each side
    if corners == 3:
        # At a corner the two sides that meet there give both components; between corners these are linear.
        before = np.roll(way, 1, axis=1)
        pair = np.linalg.inv(np.stack([way, before], axis=2))
        at_corners = pair @ np.stack([along, np.roll(along, 1, axis=1)], axis=2)
        return np.asarray(np.einsum("pc,ncxf->npxf", shapes(3, at)[0], at_corners))
    length = np.linalg.norm(np.roll(xy, -1, axis=1) - xy, axis=2)
    covariant = along * (length / 2 * np.array([1.0, 1.0, -1.0, -1.0]))[..., None]
    a, b = at[:, 0], at[:, 1]
    zero = np.zeros_like(a)
    share = np.stack([
        np.column_stack([(1 - b) / 2, zero, (1 + b) / 2, zero]), np.column_stack([zero, (1 + a) / 2, zero, (1 - a) / 2])
    ], axis=1)  # fmt: skip
    _, inverse = jacobians(xy, at)
    return np.asarray(inverse @ np.einsum("pak,nkf->npaf", share, covariant))


def bending_stiffness(xy: Floats, D: Floats, K: Floats) -> Floats:
    """Stiffness (n, 3 corners, 3 corners) for w, b_x, b_y of elements (n, corners, 2) [m], from what bending D (n, 3,
    3) [N m] and shear K (n, 2, 2) [N/m] resist."""
    at, weight = rule_of(xy)
    B, S = curvature_rows(xy, D, K, at), shear_rows(xy, D, K, at)
    bent = np.einsum("np,npif,nij,npjg->nfg", weight, B, D, B, optimize=True)
    return np.asarray(bent + np.einsum("np,npif,nij,npjg->nfg", weight, S, K, S, optimize=True))
