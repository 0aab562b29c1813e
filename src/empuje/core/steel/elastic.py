"""Elastic critical loads of straight members between places where they are held: what codes start from."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .shapes import Shapes

Floats = NDArray[np.float64]
TINY = 1e-300


def critical_forces(s: Shapes, EG: tuple[Floats, Floats], L: tuple[Floats, Floats, Floats]) -> tuple[Floats, ...]:
    """N_cr about y, about z, in torsion, and the least of them all together, coupled by the shear centre [N].

    L: buckling lengths about y, about z and in torsion (n, 1) [m]; where one is 0 nothing buckles that way. With
    v, w and the rotation t at the shear centre the least N of  K x = N G x,  K = diag(N_z, N_y, i0^2 N_T),
    G = [[1, 0, z0], [0, 1, -y0], [z0, -y0, i0^2]]  (Timoshenko and Gere, Theory of Elastic Stability, 5.6).
    """
    E, G = EG
    N_y, N_z = (np.pi**2 * E * inertia / np.maximum(length, 1e-6) ** 2
                for inertia, length in ((s.Iy, L[0]), (s.Iz, L[1])))  # fmt: skip
    i0 = (s.Iy + s.Iz) / s.A + s.y0**2 + s.z0**2
    N_T = (G * s.It + np.pi**2 * E * s.Iw / np.maximum(L[2], 1e-6) ** 2) / i0
    off = (s.y0 != 0) | (s.z0 != 0)
    if not np.any(off):
        return N_y, N_z, N_T, N_T
    scale = [1 / np.sqrt(v) for v in np.broadcast_arrays(N_z, N_y, i0 * N_T)]
    couple = np.zeros((*scale[0].shape, 3, 3))
    y0, z0 = np.broadcast_arrays(s.y0, s.z0, scale[0])[:2]
    for i, j, v in ((0, 0, 1.0), (1, 1, 1.0), (2, 2, i0), (0, 2, z0), (1, 2, -y0)):
        couple[..., i, j] = couple[..., j, i] = v * scale[i] * scale[j]
    # Of sections whose shear centre is their centroid torsion stays by itself, whatever stands beside them.
    return N_y, N_z, N_T, np.where(off, 1 / np.linalg.eigvalsh(couple)[..., -1], N_T)


def warping_stress(s: Shapes, EG: tuple[Floats, Floats], L: Floats, T: Floats) -> Floats:
    """The greatest normal stress from warping of open sections (n, results) [N/m2] under no more torsion T (n, results)
    over lengths L (n, 1) [m] between places held against twisting: that of a cantilever with T at its tip,
    B = T a tanh(L/a), a^2 = E I_w/(G I_t), which no other ends and no other torsion of that size exceed; 0 for other
    sections (Vlasov, Thin-walled Elastic Beams, II.3).
    """
    E, G = EG
    if s.kind == "I":
        omega = (s.h - s.tf) * s.b / 4
    elif s.kind == "channel":
        c, e = s.b - s.tw / 2, s.h - s.tf
        beyond = 3 * c**2 * s.tf / (6 * c * s.tf + e * s.tw)
        omega = e / 2 * np.maximum(c - beyond, beyond)
    else:
        return np.zeros_like(T)
    a = np.sqrt(E * s.Iw / (G * s.It))
    return np.asarray(np.abs(T) * a * np.tanh(L / a) * omega / s.Iw)


TERMS, POWERS = 6, 10
WAVES = 2 * TERMS + 1
BELOW = 0.999
"""Sines leave the critical moment up to a thousandth too high."""


def waves(M: Floats, at: Floats, weight: Floats) -> Floats:
    """int M^2 cos(m pi x) dx for m = 0 .. 2 TERMS (n, WAVES, results), from moments (n, places, results) at places (n,
    places) of a length of 1, with weights (n, places) of a rule of integration."""
    angle = np.pi * np.arange(WAVES)[:, None] * at[:, None, :]
    return np.asarray(np.matmul(np.cos(angle) * weight[:, None, :], M**2))


def critical_factors(
    s: Shapes, EG: tuple[Floats, Floats], L: Floats, squares: Floats, at_least: bool = False
) -> Floats:  # fmt: skip
    """By what moments are to be multiplied until a length L (n, 1) [m] buckles laterally (n, results): M_cr is so many
    times the greatest of them. `squares` (n, WAVES, results): the waves of M^2 along the length [N2 m2]. The ends of
    the length are held sideways and against twisting; loads at the shear centre. No moments, or no length: infinite.

    The twist is a sum of sines c_k sin(k pi x/L). Sideways equilibrium gives the curvature M t/(E I_z), so that the
    greatest eigenvalue mu of  int M^2 s_j s_k/(E I_z) = mu int (E I_w s_j'' s_k'' + G I_t s_j' s_k')  is 1/factor^2
    (Timoshenko and Gere, 6.3), with 2 s_j s_k = cos((j - k) pi x/L) - cos((j + k) pi x/L).

    `at_least`: what the factor cannot be below, for a tenth of the work: no eigenvalue of a matrix is above its norm
    (the root of the sum of its squares).
    """
    E, G = EG
    k = np.arange(1, TERMS + 1)
    wave = k[None] * np.pi / np.maximum(L, 1e-6)
    stiff = (E * s.Iw * wave**4 + G * s.It * wave**2) * np.maximum(L, 1e-6) / 2
    root = 1 / np.sqrt(stiff)
    half = L / (2 * E * s.Iz)
    at = {
        (j, k): (squares[:, k - j] - squares[:, j + k + 2]) * (root[:, j] * root[:, k])[:, None] * half
        for j in range(TERMS) for k in range(j, TERMS)
    }  # fmt: skip
    if at_least:
        norm = sum((1.0 if j == k else 2.0) * value**2 for (j, k), value in at.items())
        return BELOW * _factor(np.sqrt(norm), L)
    shape = squares[:, 0].shape
    vector = [np.full(shape, 1.0 / (k + 1) ** 2) for k in range(TERMS)]
    mu = np.zeros(shape)
    for _ in range(POWERS):
        turned = [sum(at[min(j, k), max(j, k)] * vector[k] for k in range(TERMS)) for j in range(TERMS)]
        # Rayleigh's quotient of the vector before, which is twice as exact as the vector.
        mu = sum(t * v for t, v in zip(turned, vector, strict=True)) / np.maximum(sum(v * v for v in vector), TINY)
        size = np.maximum(np.sqrt(sum(t * t for t in turned)), TINY)
        vector = [t / size for t in turned]
    even = np.abs(squares[:, 1:]).max(axis=1) <= 1e-9 * squares[:, 0]
    return np.where(even, 1.0, BELOW) * _factor(mu, L)


def _factor(mu: Floats, L: Floats) -> Floats:
    return np.asarray(np.where((mu > 0) & (L > 0), 1 / np.sqrt(np.maximum(mu, TINY)), np.inf))


def critical_moment_of_tee(s: Shapes, EG: tuple[Floats, Floats], L: Floats, sagging: NDArray[np.bool_]) -> Floats:
    """M_cr of a tee under an even moment [N m], its flange above: with the flange in compression, or the stem.

    pi^2 E I_z/L^2 (sqrt(I_w/I_z + L^2 G I_t/(pi^2 E I_z) + z_j^2) +- z_j)   (Timoshenko and Gere, 6.5)
    """
    E, G = EG
    N = np.pi**2 * E * s.Iz / np.maximum(L, 1e-6) ** 2
    root = np.sqrt(s.Iw / s.Iz + G * s.It / N + s.zj**2)
    return np.asarray(np.where(L > 0, N * (root + np.where(sagging, s.zj, -s.zj)), np.inf))
