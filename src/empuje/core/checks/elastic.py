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


TERMS, POWERS = 4, 8


def critical_factors(
    s: Shapes, EG: tuple[Floats, Floats], L: Floats, M: Floats, share: Floats, at_least: bool = False
) -> Floats:  # fmt: skip
    """By what the diagram of moments M (n, places, results) [N m] at even places of a length L (n, 1) [m] is to be
    multiplied until it buckles laterally (n, results): M_cr is so many times its greatest. The ends of the length are
    held sideways and against twisting; loads at the shear centre. No moments, or no length: infinite.

    The twist is a sum of sines c_k sin(k pi x/L). Sideways equilibrium gives the curvature M t/(E I_z), so that the
    greatest eigenvalue mu of  int M^2 s_j s_k/(E I_z) = mu int (E I_w s_j'' s_k'' + G I_t s_j' s_k')  is 1/factor^2
    (Timoshenko and Gere, 6.3). `share` (places,): the weights of a rule of integration over the length.

    `at_least`: what the factor cannot be below, for a tenth of the work: no eigenvalue of a matrix is above its norm
    (the root of the sum of its squares).
    """
    E, G = EG
    places = M.shape[1]
    x = np.linspace(0.0, np.pi, places)
    k = np.arange(1, TERMS + 1)
    sines = np.sin(np.outer(k, x))
    wave = k[None] * np.pi / np.maximum(L, 1e-6)
    stiff = (E * s.Iw * wave**4 + G * s.It * wave**2) * np.maximum(L, 1e-6) / 2
    upper = [(j, k) for j in range(TERMS) for k in range(j, TERMS)]
    root = 1 / np.sqrt(stiff)
    scale = np.stack([root[:, j] * root[:, k] for j, k in upper], axis=1) * (L / (E * s.Iz))
    pairs = np.array([sines[j] * sines[k] * share for j, k in upper]) * scale[:, :, None]
    mixed = np.matmul(pairs, M**2)
    if at_least:
        twice = np.array([1.0 if j == k else 2.0 for j, k in upper])
        return _factor(np.sqrt(np.matmul(twice, np.square(mixed, out=mixed))), L)
    at = {pair: mixed[:, i] for i, pair in enumerate(upper)}
    vector = [np.full(mixed[:, 0].shape, 1.0 / (k + 1) ** 2) for k in range(TERMS)]
    mu = np.zeros(mixed[:, 0].shape)
    for _ in range(POWERS):
        turned = [sum(at[min(j, k), max(j, k)] * vector[k] for k in range(TERMS)) for j in range(TERMS)]
        # Rayleigh's quotient of the vector before, which is twice as exact as the vector.
        mu = sum(t * v for t, v in zip(turned, vector, strict=True)) / np.maximum(sum(v * v for v in vector), TINY)
        size = np.maximum(np.sqrt(sum(t * t for t in turned)), TINY)
        vector = [t / size for t in turned]
    return _factor(mu, L)


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


def simpson(places: int) -> Floats:
    """Weights of Simpson's rule at an odd number of even places, of a length of 1."""
    w = np.ones(places)
    w[1:-1:2], w[2:-1:2] = 4, 2
    return np.asarray(w / w.sum())
