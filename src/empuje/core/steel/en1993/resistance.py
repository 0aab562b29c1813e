"""Resistance of cross-sections (EN 1993-1-1, 6.2) to axial force, shear, torsion and bending, and all of these at once.

Shear above half the resistance reduces the strength of what carries it by rho = (2 V/V_Rd - 1)^2 (6.2.8, 6.2.10).
Saint-Venant's torsion counts (6.2.7); warping does not.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..saying import Say, unsaid
from ..shapes import Shapes
from .classes import Classes, effective_area, epsilon
from .factors import Factors

Floats = NDArray[np.float64]
TINY = 1e-300


@dataclass(frozen=True)
class OfSection:
    """How much of its resistance each force uses (n, results): N, shear along z and y, torsion, and axial force with
    moments and shear. NaN where the code's rules for that class are not built in."""

    N: Floats
    Vz: Floats
    Vy: Floats
    T: Floats
    M: Floats


def shear_area(s: Shapes, along_z: bool, eta: float) -> Floats:
    """A_v (6.2.6(3)) [m2]."""
    if s.kind in ("I", "channel"):
        if not along_z:
            return np.asarray(2 * s.b * s.tf)
        web = eta * s.hw * s.tw
        fillets = (s.tw + 2 * s.r) * s.tf if s.kind == "I" else (s.tw + s.r) * s.tf
        rolled = np.maximum(s.A - 2 * s.b * s.tf + fillets, web)
        return np.asarray(np.where(s.welded > 0, web, rolled))
    if s.kind == "tee":
        rolled = s.A - s.b * s.tf + (s.tw + 2 * s.r) * s.tf / 2
        return np.asarray(np.where(s.welded > 0, s.tw * (s.h - s.tf / 2), rolled) if along_z else s.b * s.tf)
    if s.kind == "angle":
        return np.asarray(np.minimum(s.h, s.b) * s.tw)
    if s.kind == "hollow":
        welded = 2 * s.hw * s.tw if along_z else s.A - 2 * s.hw * s.tw
        rolled = s.A * (s.h if along_z else s.b) / (s.b + s.h)
        return np.asarray(np.where(s.welded > 0, welded, rolled))
    return np.asarray(2 * s.A / np.pi if s.kind == "pipe" else s.A)


def torsion_modulus(s: Shapes) -> Floats:
    """W_t: the torque over the largest Saint-Venant shear stress [m3]."""
    if s.kind in ("pipe", "round"):
        return np.asarray(2 * s.It / s.h)
    if s.kind == "hollow":
        return np.asarray(2 * (s.h - s.tf) * (s.b - s.tw) * np.minimum(s.tw, s.tf))
    if s.kind == "solid":
        long, short = np.maximum(s.h, s.b), np.minimum(s.h, s.b)
        return np.asarray(long**2 * short**2 / (3 * long + 1.8 * short))
    return np.asarray(s.It / s.thickest)


def section_use(
    s: Shapes, f_y: Floats, c: Classes, forces: tuple[Floats, ...], by: Factors, say: Say = unsaid
) -> OfSection:
    """Use of sections (n, 1) under forces N Vy Vz T My Mz (n, results) each [N, N m]."""
    N, Vy, Vz, T, My, Mz = forces
    f = f_y / by.gamma_M0
    shear = f / np.sqrt(3)
    W_t = torsion_modulus(s)
    T_Rd = say("T_Rd", W_t * shear, "W_t f_y/(sqrt(3) gamma_M0)", "N m", "6.2.7(1)")
    use_T = np.abs(T) / T_Rd
    V_z = say("V_pl,z,Rd", shear_area(s, True, by.eta) * shear, "A_v f_y/(sqrt(3) gamma_M0)", "N", "6.2.6(2)")
    V_y = say("V_pl,y,Rd", shear_area(s, False, by.eta) * shear, "A_v f_y/(sqrt(3) gamma_M0)", "N", "6.2.6(2)")
    left = _beside_torsion(s, use_T)
    V_z, V_y = V_z * left, V_y * left
    use_z, use_y = np.abs(Vz) / np.maximum(V_z, TINY), np.abs(Vy) / np.maximum(V_y, TINY)
    use_z = np.maximum(use_z, _web_buckling(s, f_y, Vz, by, say))
    rho_z, rho_y = (np.where(u > 0.5, (2 * np.clip(u, 0.5, 1.0) - 1) ** 2, 0.0) for u in (use_z, use_y))
    use_N = _axial(s, f, c, N, say)
    use_M = _all_at_once(s, f, c, (N, My, Mz), (rho_z, rho_y), by, say)
    return OfSection(use_N, use_z, use_y, use_T, use_M)


def _beside_torsion(s: Shapes, use_T: Floats) -> Floats:
    """The share of V_pl left beside torsional shear stress (6.2.7(9))."""
    if s.kind in ("hollow", "pipe"):
        return np.asarray(np.maximum(1 - use_T, 0.0))
    if s.kind == "I":
        return np.asarray(np.sqrt(np.maximum(1 - use_T / 1.25, 0.0)))
    return np.asarray(np.sqrt(np.maximum(1 - use_T / 1.25, 0.0)) * np.maximum(1 - use_T, 0.0))


def _web_buckling(s: Shapes, f_y: Floats, Vz: Floats, by: Factors, say: Say) -> Floats:
    """Of slender webs without stiffeners between the supports (6.2.6(6); EN 1993-1-5, 5.2, 5.3, end posts not rigid);
    flanges add nothing."""
    if s.kind not in ("I", "channel", "hollow"):
        return np.zeros_like(Vz)
    eps = epsilon(f_y)
    slender = s.hw / s.tw > 72 * eps / by.eta
    lam = s.hw / (86.4 * s.tw * eps)
    chi = np.where(lam < 0.83 / by.eta, by.eta, 0.83 / np.maximum(lam, TINY))
    webs = 2.0 if s.kind == "hollow" else 1.0
    V_b = chi * f_y * webs * s.hw * s.tw / (np.sqrt(3) * by.gamma_M1)
    if np.any(slender):
        say("V_bw,Rd", V_b, "chi_w f_y h_w t_w/(sqrt(3) gamma_M1)", "N", "EN 1993-1-5, 5.2")
    return np.where(slender, np.abs(Vz) / V_b, 0.0)


def compressed_area(s: Shapes, f_y: Floats, c: Floats) -> Floats:
    """A, or A_eff in class 4 [m2]; (n, 1) where none is."""
    if not np.any(c >= 4):
        return s.A
    return np.asarray(np.where(c >= 4, effective_area(s, f_y), s.A))


def _axial(s: Shapes, f: Floats, c: Classes, N: Floats, say: Say) -> Floats:
    area = np.where(N < 0, compressed_area(s, f, np.where(c.combined >= 4, c.compressed, 1.0)), s.A)
    area = say("A" if np.all(area == s.A) else "A_eff", area, "", "m2 A", "6.2.3, 6.2.4")
    return np.asarray(np.abs(N) / say("N_Rd", area * f, "A f_y/gamma_M0", "N", "6.2.3, 6.2.4"))


def _all_at_once(
    s: Shapes, f: Floats, c: Classes, forces: tuple[Floats, Floats, Floats], rho: tuple[Floats, Floats], by: Factors,
    say: Say,
) -> Floats:  # fmt: skip
    """Axial force, both moments and shear (6.2.9, 6.2.10): plastic in classes 1 and 2, elastic in 3, in 4 with A_eff
    where bending alone is of class 3 or better, else NaN."""
    N, My, Mz = forces
    rho_z, rho_y = rho
    plastic = c.combined <= 2
    Avz, Avy = shear_area(s, True, by.eta), shear_area(s, False, by.eta)
    N_V = np.maximum(s.A - rho_z * Avz - rho_y * Avy, TINY) * f
    if s.kind == "I":
        M_y = (s.Wpl_y - rho_z * (s.hw * s.tw) ** 2 / (4 * s.tw)) * f
    else:
        M_y = (1 - rho_z) * s.Wpl_y * f
    M_z = (1 - rho_y) * s.Wpl_z * f
    el_y, el_z = (1 - rho_z) * s.Wel_y * f, (1 - rho_y) * s.Wel_z * f
    M_y = say("M_y,Rd", np.where(plastic, M_y, el_y), "W_y f_y/gamma_M0, beside V", "N m", "6.2.5, 6.2.8")
    M_z = say("M_z,Rd", np.where(plastic, M_z, el_z), "W_z f_y/gamma_M0, beside V", "N m", "6.2.5, 6.2.8")
    m_y, m_z, n = np.abs(My) / np.maximum(M_y, TINY), np.abs(Mz) / np.maximum(M_z, TINY), np.abs(N) / N_V
    round_ = s.kind in ("pipe", "round")  # every axis is alike: the moment is their resultant
    both = np.hypot(m_y, m_z) if round_ else m_y + m_z
    linear = n + both
    if s.kind in ("channel", "tee", "angle"):
        whole = linear
    else:
        whole = np.where(plastic, _plastic(s, f, n, N, m_y, m_z, say), linear)
    four = np.maximum(c.combined, np.maximum(np.where(m_y > 0, c.bent_y, 1), np.where(m_z > 0, c.bent_z, 1))) >= 4
    press = np.where(N < 0, compressed_area(s, f, np.where(four, c.compressed, 1.0)), s.A)
    slender = np.abs(N) / (press * f) + both
    lost = ((m_y > 0) & (c.bent_y >= 4)) | ((m_z > 0) & (c.bent_z >= 4))
    return np.asarray(np.where(lost, np.nan, np.where(four, slender, whole)))


def _plastic(s: Shapes, f: Floats, n: Floats, N: Floats, m_y: Floats, m_z: Floats, say: Say) -> Floats:
    """6.2.9.1: the sum of (M_y/M_N,y)^alpha and (M_z/M_N,z)^beta, or where that is more, either ratio by itself."""
    left = np.maximum(1 - n, 0.0)
    alpha: Floats | float
    beta: Floats | float
    if s.kind == "I":
        a = np.minimum((s.A - 2 * s.b * s.tf) / s.A, 0.5)
        low = (n <= 0.25) & (np.abs(N) <= 0.5 * s.hw * s.tw * f)
        r_y = np.where(low, 1.0, np.minimum(left / (1 - 0.5 * a), 1.0))
        thin = np.abs(N) <= s.hw * s.tw * f
        r_z = np.where(thin | (n <= a), 1.0, np.maximum(1 - ((n - a) / (1 - a)) ** 2, 0.0))
        alpha, beta = 2.0, np.maximum(5 * n, 1.0)
    elif s.kind == "hollow":
        a_w = np.minimum((s.A - 2 * s.b * s.tf) / s.A, 0.5)
        a_f = np.minimum((s.A - 2 * s.h * s.tw) / s.A, 0.5)
        r_y, r_z = (np.minimum(left / (1 - 0.5 * a), 1.0) for a in (a_w, a_f))
        alpha = beta = np.minimum(1.66 / np.maximum(1 - 1.13 * n**2, TINY), 6.0)
    elif s.kind in ("pipe", "round"):
        r = np.maximum(1 - np.minimum(n, 1.0) ** (1.7 if s.kind == "pipe" else 1.0), 0.0)
        say("n", n, "N/N_pl,Rd", "", "6.2.9.1")
        say("M_N/M", r, "of the resultant moment", "", "6.2.9.1(5)")
        m = np.hypot(m_y, m_z)
        return np.maximum(np.where(m > 0, m / np.maximum(r, TINY), 0.0), n)
    else:
        r_y = r_z = np.maximum(1 - n**2, 0.0)
        alpha = beta = 1.0
    say("n", n, "N/N_pl,Rd", "", "6.2.9.1")
    say("M_N,y/M_y", r_y, "", "", "6.2.9.1(5)")
    say("M_N,z/M_z", r_z, "", "", "6.2.9.1(5)")
    y, z = (np.where(m > 0, m / np.maximum(r, TINY), 0.0) for m, r in ((m_y, r_y), (m_z, r_z)))
    both = np.minimum(y, 1e3) ** alpha + np.minimum(z, 1e3) ** beta
    return np.maximum(np.maximum(np.maximum(y, z), np.where((y > 0) & (z > 0), both, 0.0)), n)
