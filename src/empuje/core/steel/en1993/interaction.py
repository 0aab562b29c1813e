"""Members in bending and axial compression (EN 1993-1-1, 6.3.3), by method 2 (annex B)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..saying import Say, unsaid
from ..shapes import Shapes
from .buckling import Compressed
from .factors import Factors

Floats = NDArray[np.float64]
TINY = 1e-300


def equivalent(M: Floats) -> Floats:
    """C_m of table B.3 (n, results) from moments at even places of a length (n, places, results); of a curved diagram
    by its column of uniform loads, which is the less favourable.

    Linear where no place is off the line between the ends by a hundredth of the largest. M_s is the moment where the
    diagram is furthest off that line; where a moment within is larger than those at both ends, the largest within.
    """
    start, end = M[:, 0], M[:, -1]
    across = np.linspace(0.0, 1.0, M.shape[1])[None, :, None]
    off = np.abs(M - (start[:, None] + across * (end - start)[:, None]))

    def at(place: NDArray[np.intp]) -> Floats:
        return np.asarray(np.take_along_axis(M, place[:, None], axis=1)[:, 0])

    first = np.abs(start) >= np.abs(end)
    larger = np.where(first, start, end)
    at_end = np.abs(larger)
    # Of places as far off the line the one nearest to the middle.
    nearest = 1 + 1e-9 * (0.5 - np.abs(across - 0.5))
    largest = at(np.abs(M * nearest).argmax(axis=1))
    middle = np.where(np.abs(largest) > at_end * (1 + 1e-9), largest, at((off * nearest).argmax(axis=1)))
    bent = off.max(axis=1) > 0.01 * np.maximum(np.maximum(at_end, np.abs(middle)), TINY)
    psi = np.where(at_end > 0, np.where(first, end, start) / np.where(at_end > 0, larger, 1.0), 1.0)
    negative = np.minimum(psi, 0.0)
    linear = np.maximum(0.6 + 0.4 * psi, 0.4)
    ends_lead = at_end >= np.abs(middle)
    # a_s = M_s/M_h where the ends lead, else a_h = M_h/M_s.
    leads = np.where(ends_lead, larger, middle)
    a = np.where(ends_lead, middle, larger) / np.where(leads == 0, 1.0, leads)
    by_ends = np.where(a >= 0, 0.2 + 0.8 * a, np.maximum(0.1 * (1 - negative) - 0.8 * a, 0.4))
    by_middle = 0.95 + 0.05 * a * np.where(a >= 0, 1.0, 1 + 2 * negative)
    return np.asarray(np.where(bent, np.where(ends_lead, np.maximum(by_ends, 0.4), by_middle), linear))


@dataclass(frozen=True)
class Together:
    """How much 6.61 and 6.62 use (n, results)."""

    by_y: Floats
    by_z: Floats


def together(
    s: Shapes, chi: Compressed, chi_LT: Floats, lam: tuple[Floats, Floats], R: tuple[Floats, Floats, Floats],
    forces: tuple[Floats, Floats, Floats], C_m: tuple[Floats, Floats, Floats], plastic: NDArray[np.bool_], by: Factors,
    say: Say = unsaid,
) -> Together:  # fmt: skip
    """6.61 and 6.62 with table B.1, and B.2 for members that twist: N compression positive, and the largest My, Mz;
    slendernesses about y, z; characteristic resistances N_Rk, M_y,Rk, M_z,Rk; C_my, C_mz, C_mLT; whether plastic.

    Torsional buckling counts with the axis z.
    """
    N, My, Mz = forces
    C_my, C_mz, C_mLT = C_m
    N_Rk, M_y, M_z = R
    chi_z = np.minimum(chi.z, chi.T)
    n_y, n_z = N / (chi.y * N_Rk / by.gamma_M1), N / (chi_z * N_Rk / by.gamma_M1)
    lam_y, lam_z = lam
    tubes = s.kind in ("hollow", "pipe", "round", "solid")
    plastic_y = C_my * (1 + np.minimum(np.maximum(lam_y - 0.2, 0.0), 0.8) * n_y)
    elastic_y = C_my * (1 + 0.6 * np.minimum(lam_y, 1.0) * n_y)
    k_yy = say("k_yy", np.where(plastic, plastic_y, elastic_y), "", "", "table B.1")
    if tubes:
        plastic_z = C_mz * (1 + np.minimum(np.maximum(lam_z - 0.2, 0.0), 0.8) * n_z)
    else:
        plastic_z = C_mz * (1 + np.minimum(np.maximum(2 * lam_z - 0.6, 0.0), 1.4) * n_z)
    elastic_z = C_mz * (1 + 0.6 * np.minimum(lam_z, 1.0) * n_z)
    k_zz = say("k_zz", np.where(plastic, plastic_z, elastic_z), "", "", "table B.1")
    k_yz = say("k_yz", np.where(plastic, 0.6 * k_zz, k_zz), "", "", "table B.1")
    if tubes:
        k_zy = np.where(plastic, 0.6 * k_yy, 0.8 * k_yy)
    else:
        far = np.maximum(C_mLT - 0.25, 0.15)
        k_plastic = 1 - 0.1 * np.minimum(lam_z, 1.0) / far * n_z
        k_plastic = np.where(lam_z < 0.4, np.minimum(0.6 + lam_z, k_plastic), k_plastic)
        k_zy = np.where(plastic, k_plastic, 1 - 0.05 * np.minimum(lam_z, 1.0) / far * n_z)
        k_zy = np.maximum(k_zy, 0.0)
    k_zy = say("k_zy", k_zy, "", "", "table B.1" if tubes else "table B.2")
    m_y = np.abs(My) / (chi_LT * M_y / by.gamma_M1)
    m_z = np.abs(Mz) / (M_z / by.gamma_M1)
    first = say("6.61", n_y + k_yy * m_y + k_yz * m_z, "n_y + k_yy m_y + k_yz m_z", "", "6.3.3(4)")
    second = say("6.62", n_z + k_zy * m_y + k_zz * m_z, "n_z + k_zy m_y + k_zz m_z", "", "6.3.3(4)")
    return Together(first, second)
