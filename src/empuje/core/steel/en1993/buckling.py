"""Flexural, torsional and torsional-flexural buckling (EN 1993-1-1, 6.3.1), and lateral-torsional buckling (6.3.2)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model.words import Lateral
from ..elastic import critical_forces
from ..saying import Say, unsaid
from ..shapes import Shapes
from .factors import Factors

Floats = NDArray[np.float64]
TINY = 1e-300
A0, A, B, C, D = 0.13, 0.21, 0.34, 0.49, 0.76
"""Imperfection factors of the buckling curves (table 6.1)."""


def curves(s: Shapes) -> tuple[Floats, Floats]:
    """Imperfection factors about y and z (table 6.2); `s.strong` of S460, which has a column of its own."""
    strong = s.strong > 0
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


def compressed(
    s: Shapes, f_y: Floats, area: Floats, EG: tuple[Floats, Floats], L: tuple[Floats, Floats, Floats], say: Say = unsaid
) -> Compressed:
    """chi of members in compression; `area`: A, or A_eff in class 4 (n, 1 or results) [m2]."""
    N_y, N_z, _, N_T = critical_forces(s, EG, L)
    alpha_y, alpha_z = curves(s)
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


ALIKE = 0.03
"""Diagrams within this share of their largest moment are those of table 6.6."""
AT_ENDS = {"even": (0.94, 0.90, 0.91), "middle": (0.86, 0.77, 0.82)}
"""k_c of table 6.6 under an even load and one at the middle: with no, two, and one moment at the ends."""


def moment_factor(M: Floats, C_1: Floats, uneven: NDArray[np.bool_]) -> Floats:
    """k_c of table 6.6 (n, results) from moments (n, places, results) at an odd number of even places: of linear
    diagrams by the ratio of the ends, of those under an even load or one at the middle with free or fully fixed ends by
    the table; of any other, and where they are `uneven` (n,), the greater of 0.94 and 1/sqrt(C_1)."""
    top = np.maximum(np.abs(M).max(axis=1), TINY)
    start, end = M[:, 0], M[:, -1]
    x = np.linspace(0.0, 1.0, M.shape[1])[None, :, None]
    bow = M - (start[:, None] + x * (end - start)[:, None])
    middle = bow[:, M.shape[1] // 2]
    first = np.abs(start) >= np.abs(end)
    larger = np.where(first, start, end)
    psi = np.where(larger == 0, 1.0, np.where(first, end, start) / np.where(larger == 0, 1.0, larger))
    any_other = np.maximum(0.94, 1 / np.sqrt(np.maximum(C_1, 1.0)))
    out = any_other

    def like(shape: Floats | float) -> NDArray[np.bool_]:
        return np.asarray(np.abs(bow - shape).max(axis=1) <= ALIKE * top)

    # Fixed ends have 2/3 of the bow under an even load and half of it under one at the middle; one fixed end has all of
    # it, and 3/4.
    for name, form, fixed, one in (("even", 4 * x * (1 - x), 2 / 3, 1.0), ("middle", 1 - np.abs(2 * x - 1), 0.5, 0.75)):
        bowed = like(form * middle[:, None]) & (np.abs(middle) > ALIKE * top)
        none, both, single = AT_ENDS[name]
        for k, a, b in ((none, 0.0, 0.0), (both, fixed, fixed), (single, one, 0.0), (single, 0.0, one)):
            near = (np.abs(start + a * middle) <= ALIKE * top) & (np.abs(end + b * middle) <= ALIKE * top)
            out = np.where(bowed & near, k, out)
    out = np.where(like(0.0), 1 / (1.33 - 0.33 * psi), out)
    return np.asarray(np.where(uneven[:, None], any_other, out))


def lateral(
    s: Shapes, f_y: Floats, W: Floats, M_cr: Floats, k_c: Floats, by: Factors, say: Say = unsaid
) -> Floats:  # fmt: skip
    """chi_LT (6.3.2.2, 6.3.2.3): of the general case, or of rolled sections and equivalent welded ones with the factor
    f of the moment's distribution by k_c (table 6.6); 1 up to the plateau."""
    W = say("W_y", W, "", "m3 W", "6.3.2.2")
    lam = say("lambda_LT", np.sqrt(W * f_y / M_cr), "sqrt(W_y f_y/M_cr)", "", "6.3.2.2")
    deep = s.h / s.b > 2
    if by.lateral == Lateral.ROLLED and s.kind == "I":
        alpha = np.where(s.welded > 0, np.where(deep, D, C), np.where(deep, C, B))
        alpha = say("alpha_LT", alpha, "", "", "tables 6.3, 6.5")
        phi = 0.5 * (1 + alpha * (lam - 0.4) + 0.75 * lam**2)
        chi = 1 / (phi + np.sqrt(np.maximum(phi**2 - 0.75 * lam**2, 0.0)))
        chi = np.minimum(np.minimum(chi, 1.0), 1 / np.maximum(lam, 1e-9) ** 2)
        k_c = say("k_c", k_c, "of the diagram", "", "table 6.6")
        f = np.minimum(1 - 0.5 * (1 - k_c) * (1 - 2 * (lam - 0.8) ** 2), 1.0)
        f = say("f", f, "1 - 0.5 (1 - k_c) (1 - 2 (lambda_LT - 0.8)^2) <= 1", "", "6.3.2.3(2)")
        chi = np.minimum(np.minimum(chi / f, 1.0), 1 / np.maximum(lam, 1e-9) ** 2)
        return say("chi_LT", np.where(lam <= 0.4, 1.0, chi), "chi_LT/f", "", "6.3.2.3")
    if s.kind == "I":
        alpha = np.where(s.welded > 0, np.where(deep, D, C), np.where(deep, B, A))
    else:
        alpha = np.full_like(s.A, D)
    alpha = say("alpha_LT", alpha, "", "", "tables 6.3, 6.4")
    return say("chi_LT", reduction(lam, alpha), "", "", "6.3.2.2")
