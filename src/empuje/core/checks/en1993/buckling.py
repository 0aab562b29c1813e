"""Flexural, torsional and torsional-flexural buckling (EN 1993-1-1, 6.3.1), and lateral-torsional buckling (6.3.2)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model.words import Lateral
from ..saying import Say, unsaid
from ..shapes import Shapes
from .factors import Factors

Floats = NDArray[np.float64]
TINY = 1e-300
A0, A, B, C, D = 0.13, 0.21, 0.34, 0.49, 0.76
"""Imperfection factors of the buckling curves (table 6.1)."""


def curves(s: Shapes, f_y: Floats) -> tuple[Floats, Floats]:
    """Imperfection factors about y and z (table 6.2). S460 is told by its strength, 430 MPa and more."""
    strong = f_y >= 430e6
    if s.kind == "I":
        thick, deep = s.tf * 1e3, s.h / s.b > 1.2
        rolled_y = np.where(deep, np.where(thick <= 40, A, B), np.where(thick <= 100, B, D))
        rolled_z = np.where(deep, np.where(thick <= 40, B, C), np.where(thick <= 100, C, D))
        strong_y = np.where(deep, np.where(thick <= 40, A0, A), np.where(thick <= 100, A, C))
        rolled_y = np.where(strong, strong_y, rolled_y)
        rolled_z = np.where(strong, strong_y, rolled_z)
        welded_y, welded_z = np.where(thick <= 40, B, C), np.where(thick <= 40, C, D)
        return np.where(s.welded > 0, welded_y, rolled_y), np.where(s.welded > 0, welded_z, rolled_z)
    if s.kind in ("hollow", "pipe"):
        hot = np.where(strong, A0, A)
        # Welded boxes: b; c beside thick welds, which are not known, where b/t_f < 30 and h/t_w < 30.
        stocky = (s.b / s.tf < 30) & (s.h / s.tw < 30)
        own = np.where(s.welded > 0, np.where(stocky, C, B), np.where(s.cold > 0, C, hot))
        return own, own
    alpha = np.full_like(s.A, B if s.kind == "angle" else C)
    return alpha, alpha


def reduction(lam: Floats, alpha: Floats) -> Floats:
    """chi (6.3.1.2): 1 up to a slenderness of 0.2."""
    phi = 0.5 * (1 + alpha * (lam - 0.2) + lam**2)
    chi = 1 / (phi + np.sqrt(np.maximum(phi**2 - lam**2, 0.0)))
    return np.asarray(np.where(lam <= 0.2, 1.0, np.minimum(chi, 1.0)))


@dataclass(frozen=True)
class Compressed:
    """chi about y, about z, and of torsional or torsional-flexural buckling (n, 1)."""

    y: Floats
    z: Floats
    T: Floats


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
    return N_y, N_z, N_T, 1 / np.linalg.eigvalsh(couple)[..., -1]


def compressed(
    s: Shapes, f_y: Floats, area: Floats, EG: tuple[Floats, Floats], L: tuple[Floats, Floats, Floats], say: Say = unsaid
) -> Compressed:
    """chi of members in compression; `area`: A, or A_eff in class 4 (n, 1 or results) [m2]."""
    N_y, N_z, _, N_T = critical_forces(s, EG, L)
    alpha_y, alpha_z = curves(s, f_y)
    out = []
    for axis, N_cr, alpha, length in (("y", N_y, alpha_y, L[0]), ("z", N_z, alpha_z, L[1]), ("T", N_T, alpha_z, L[2])):
        say(f"L_cr,{axis}", length, "", "m", "6.3.1.3")
        words = "G I_t and E I_w, with the shear centre" if axis == "T" else f"pi^2 E I_{axis}/L_cr^2"
        N_cr = say(f"N_cr,{axis}", N_cr, words, "N", "6.3.1.4" if axis == "T" else "6.3.1.3")
        lam = say(f"lambda_{axis}", np.sqrt(area * f_y / N_cr), "sqrt(A f_y/N_cr)", "", "6.3.1.3")
        say(f"alpha_{axis}", alpha, "imperfection", "", "tables 6.1, 6.2")
        chi = reduction(lam, alpha)
        # A length of nothing, or bodies of walls that do not twist, do not buckle.
        out.append(say(f"chi_{axis}", np.where(length <= 0, 1.0, chi), "", "", "6.3.1.2"))
    return Compressed(*out)


TERMS, POWERS = 4, 8


def critical_moments(
    s: Shapes, EG: tuple[Floats, Floats], L: Floats, M: Floats, share: Floats
) -> Floats:  # fmt: skip
    """M_cr (n, results) [N m] as the greatest moment of the diagram M (n, places, results) at even places of a length L
    (n, 1) [m] whose ends are held sideways and against twisting; loads at the shear centre.

    The twist is a sum of sines c_k sin(k pi x/L). Sideways equilibrium gives the curvature M t/(E I_z), so that the
    greatest eigenvalue mu of  int M^2 s_j s_k/(E I_z) = mu int (E I_w s_j'' s_k'' + G I_t s_j' s_k')  is 1/factor^2
    (Timoshenko and Gere, 6.3). `share` (places,): the weights of a rule of integration over the length.
    """
    E, G = EG
    places = M.shape[1]
    x = np.linspace(0.0, np.pi, places)
    k = np.arange(1, TERMS + 1)
    sines = np.sin(np.outer(k, x))
    wave = k[None] * np.pi / np.maximum(L, 1e-6)
    stiff = (E * s.Iw * wave**4 + G * s.It * wave**2) * np.maximum(L, 1e-6) / 2
    top = np.abs(M).max(axis=1)
    shaped = M / np.where(top > 0, top, 1.0)[:, None]
    upper = [(j, k) for j in range(TERMS) for k in range(j, TERMS)]
    pairs = np.array([sines[j] * sines[k] * share for j, k in upper])
    root = 1 / np.sqrt(stiff)
    scale = np.stack([root[:, j] * root[:, k] for j, k in upper], axis=1) * (L / (E * s.Iz))
    mixed = np.matmul(pairs, shaped**2) * scale[:, :, None]
    at = {pair: mixed[:, i] for i, pair in enumerate(upper)}
    vector = [np.full(top.shape, 1.0 / (k + 1) ** 2) for k in range(TERMS)]
    mu = np.zeros(top.shape)
    for _ in range(POWERS):
        turned = [sum(at[min(j, k), max(j, k)] * vector[k] for k in range(TERMS)) for j in range(TERMS)]
        # Rayleigh's quotient of the vector before, which is twice as exact as the vector.
        mu = sum(t * v for t, v in zip(turned, vector, strict=True)) / np.maximum(sum(v * v for v in vector), TINY)
        size = np.maximum(np.sqrt(sum(t * t for t in turned)), TINY)
        vector = [t / size for t in turned]
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


def lateral(
    s: Shapes, f_y: Floats, W: Floats, M_cr: Floats, C_1: Floats, by: Factors, say: Say = unsaid
) -> Floats:  # fmt: skip
    """chi_LT (6.3.2.2, 6.3.2.3): of the general case, or of rolled sections and equivalent welded ones with the factor
    f of the moment's distribution; 1 up to the plateau."""
    W = say("W_y", W, "", "m3 W", "6.3.2.2")
    lam = say("lambda_LT", np.sqrt(W * f_y / M_cr), "sqrt(W_y f_y/M_cr)", "", "6.3.2.2")
    deep = s.h / s.b > 2
    if by.lateral == Lateral.ROLLED and s.kind == "I":
        alpha = np.where(s.welded > 0, np.where(deep, D, C), np.where(deep, C, B))
        alpha = say("alpha_LT", alpha, "", "", "tables 6.3, 6.5")
        phi = 0.5 * (1 + alpha * (lam - 0.4) + 0.75 * lam**2)
        chi = 1 / (phi + np.sqrt(np.maximum(phi**2 - 0.75 * lam**2, 0.0)))
        chi = np.minimum(np.minimum(chi, 1.0), 1 / np.maximum(lam, 1e-9) ** 2)
        k_c = 1 / np.sqrt(np.maximum(C_1, 1.0))
        f = np.minimum(1 - 0.5 * (1 - k_c) * (1 - 2 * (lam - 0.8) ** 2), 1.0)
        chi = np.minimum(np.minimum(chi / f, 1.0), 1 / np.maximum(lam, 1e-9) ** 2)
        return say("chi_LT", np.where(lam <= 0.4, 1.0, chi), "chi_LT/f", "", "6.3.2.3")
    if s.kind == "I":
        alpha = np.where(s.welded > 0, np.where(deep, D, C), np.where(deep, B, A))
    else:
        alpha = np.full_like(s.A, D)
    alpha = say("alpha_LT", alpha, "", "", "tables 6.3, 6.4")
    return say("chi_LT", reduction(lam, alpha), "", "", "6.3.2.2")
