"""Members in flexure (chapter F), sections whose web or axis is one of symmetry."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..saying import Say, unsaid
from ..shapes import Shapes
from .slender import flange, k_c, root, web

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
TINY = 1e-300


def bending_factor(diagram: Floats) -> Floats:
    """C_b (F1-1) of moments (n, places, results) at even places, a multiple of four steps; 1 without any moment."""
    M = np.abs(diagram)
    quarter = (M.shape[1] - 1) // 4
    top = M.max(axis=1)
    under = 2.5 * top + 3 * M[:, quarter] + 4 * M[:, 2 * quarter] + 3 * M[:, 3 * quarter]
    return np.asarray(np.where(top > 0, 12.5 * top / np.where(top > 0, under, 1.0), 1.0))


def major(
    s: Shapes, E: Floats, G: Floats, F_y: Floats, L_b: Floats, C_b: Floats, stem_pressed: Bools, say: Say = unsaid
) -> Floats:  # fmt: skip
    """M_n about y (n, results) [N m], for an unbraced length L_b (n, 1) [m] (0: braced all along) and C_b (n, results);
    of tees `stem_pressed` where the stem's tip is in compression. NaN where no section is built in."""
    if s.kind in ("I", "channel"):
        return _open(s, E, F_y, L_b, C_b, say)
    if s.kind == "hollow":
        return _tube(s, E, F_y, L_b, C_b, say)
    if s.kind == "pipe":
        return _round_tube(s, E, F_y, say) + 0 * C_b
    if s.kind == "tee":
        return _tee(s, E, F_y, L_b, stem_pressed, say)
    if s.kind == "angle":
        return _angle(s, E, F_y, L_b, C_b, True, say)
    if s.kind == "round":
        return say("M_n", np.minimum(s.Wpl_y, 1.6 * s.Wel_y) * F_y, "F_y Z <= 1.6 F_y S", "N m", "F11-1") + 0 * C_b
    return _bar(s, E, F_y, L_b, C_b, say)


def minor(s: Shapes, E: Floats, F_y: Floats, say: Say = unsaid) -> Floats:
    """M_n about z (n, 1) [N m]."""
    M_p, M_y = F_y * s.Wpl_z, F_y * s.Wel_z
    if s.kind in ("I", "channel"):
        r, lam = root(E, F_y), flange(s)
        M_p = np.minimum(M_p, 1.6 * M_y)
        part = M_p - (M_p - 0.7 * M_y) * (lam - 0.38 * r) / (0.62 * r)
        slender = 0.69 * E / lam**2 * s.Wel_z
        M = np.where(lam <= 0.38 * r, M_p, np.where(lam <= r, part, slender))
        return say("M_nz", M, "yielding, flange local buckling", "N m", "F6")
    if s.kind == "hollow":
        return _walls(s, E, F_y, (s.c_web / s.tw, s.c_flange / s.tf), (s.Wpl_z, s.Wel_z), say, "M_nz")
    if s.kind == "pipe":
        return _round_tube(s, E, F_y, say)
    if s.kind == "tee":
        # F9 is about the plane of symmetry; across it the flange bends as that of an I about its weak axis.
        r, lam = root(E, F_y), flange(s)
        M_p = np.minimum(M_p, 1.6 * M_y)
        part = M_p - (M_p - 0.7 * M_y) * (lam - 0.38 * r) / (0.62 * r)
        return say(
            "M_nz",
            np.where(lam <= 0.38 * r, M_p, np.where(lam <= r, part, 0.69 * E / lam**2 * s.Wel_z)),
            "",
            "N m",
            "F6",
        )
    if s.kind == "angle":
        return _angle(s, E, F_y, np.zeros_like(s.A), np.ones_like(s.A), False, say)
    return say("M_nz", np.minimum(M_p, 1.6 * M_y), "F_y Z <= 1.6 F_y S", "N m", "F11-1")


def _between(x: Floats, low: Floats, high: Floats, at_low: Floats, at_high: Floats) -> Floats:
    return np.asarray(at_low - (at_low - at_high) * (x - low) / np.maximum(high - low, TINY))


def _open(s: Shapes, E: Floats, F_y: Floats, L_b: Floats, C_b: Floats, say: Say) -> Floats:
    """I shapes and channels bent about y: F2 and F3 with compact webs, F4 with noncompact, F5 with slender ones."""
    r, lam_w, lam_f = root(E, F_y), web(s), flange(s)
    S, M_p, M_y = s.Wel_y, F_y * s.Wpl_y, F_y * s.Wel_y
    compact_web, slender_web = lam_w <= 3.76 * r, lam_w > 5.70 * r
    h_o = s.h - s.tf
    kc = k_c(s)
    # F2: R_pc = M_p/M_y, r_t = r_ts, L_p by r_y.
    a_w = s.c_web * s.tw / (s.b * s.tf)
    r_t = s.b / np.sqrt(12 * (1 + a_w / 6))
    r_y = np.sqrt(s.Iz / s.A)
    r_ts = np.sqrt(np.sqrt(s.Iz * s.Iw) / S)
    c = h_o / 2 * np.sqrt(s.Iz / np.maximum(s.Iw, TINY)) if s.kind == "channel" else np.ones_like(S)
    shape = M_p / M_y
    R_pc = np.where(compact_web, shape, _between(lam_w, 3.76 * r, 5.70 * r, shape, np.ones_like(shape)))
    radius = np.where(compact_web, r_ts, r_t)
    L_p = say("L_p", np.where(compact_web, 1.76 * r_y, 1.1 * r_t) * r, "", "m", "F2-5, F4-7")
    J_c = s.It * np.where(compact_web, c, 1.0) / (S * h_o)
    low = 0.7 * F_y / E
    L_r = np.where(slender_web, np.pi * r_t * r / np.sqrt(0.7),
                   1.95 * radius / low * np.sqrt(J_c + np.sqrt(J_c**2 + 6.76 * low**2)))  # fmt: skip
    L_r = say("L_r", L_r, "", "m", "F2-6, F4-8, F5-5")
    say("C_b", C_b, "", "", "F1-1")
    R_pg = np.where(
        slender_web,
        np.minimum(1 - np.minimum(a_w, 10) / (1200 + 300 * np.minimum(a_w, 10)) * (lam_w - 5.7 * r), 1.0),
        1.0,
    )
    yielding = np.where(slender_web, R_pg * M_y, R_pc * M_y)
    far = L_b / radius
    F_cr = C_b * np.pi**2 * E / np.maximum(far, 1e-6) ** 2 * np.where(
        slender_web, 1.0, np.sqrt(1 + 0.078 * J_c * far**2)
    )  # fmt: skip
    elastic = np.where(slender_web, R_pg * np.minimum(F_cr, F_y), F_cr) * S
    inelastic = C_b * _between(L_b, L_p, L_r, yielding, 0.7 * M_y * R_pg)
    lateral = np.where(L_b <= L_p, yielding, np.where(L_b <= L_r, inelastic, elastic))
    lateral = say("M_n,LTB", np.minimum(lateral, yielding), "lateral-torsional buckling", "N m", "F2.2, F4.2, F5.2")
    lam_r = np.where(s.welded > 0, 0.95 * np.sqrt(kc / 0.7), 1.0) * r
    part = _between(lam_f, 0.38 * r, lam_r, yielding, 0.7 * M_y * R_pg)
    slender = R_pg * 0.9 * E * kc * S / lam_f**2
    local = np.where(lam_f <= 0.38 * r, yielding, np.where(lam_f <= lam_r, part, slender))
    local = say("M_n,FLB", local, "flange local buckling", "N m", "F3, F4.3, F5.3")
    return say("M_n", np.minimum(np.minimum(lateral, local), yielding), "", "N m", "F2 to F5")


def _walls(
    s: Shapes, E: Floats, F_y: Floats, ratios: tuple[Floats, Floats], W: tuple[Floats, Floats], say: Say, name: str
) -> Floats:  # fmt: skip
    """Rectangular tubes (F7) without lateral buckling: ratios of the walls in compression and of those along the
    moment's plane; plastic and elastic moduli."""
    r, (lam_f, lam_w) = root(E, F_y), ratios
    M_p, M_y = F_y * W[0], F_y * W[1]
    noncompact = np.minimum(M_p - (M_p - M_y) * (3.57 * lam_f / r - 4.0), M_p)
    # A slender wall: the effective modulus, with the width lost taken off both flanges.
    wide = 1.92 * s.tf * r * (1 - 0.38 / lam_f * r)
    lost = np.maximum(lam_f * s.tf - wide, 0.0) * s.tf
    depth = 2 * np.where(W[1] == s.Wel_y, s.Iy / s.Wel_y, s.Iz / s.Wel_z)
    effective = F_y * np.maximum(W[1] - lost * depth, 0.0)
    limit = np.where(s.welded > 0, 1.49, 1.40) * r
    of_flange = np.where(lam_f <= 1.12 * r, M_p, np.where(lam_f <= limit, noncompact, effective))
    of_web = np.where(lam_w <= 2.42 * r, M_p, np.minimum(M_p - (M_p - M_y) * (0.305 * lam_w / r - 0.738), M_p))
    of_web = np.where(lam_w > 5.70 * r, np.nan, of_web)
    return say(name, np.minimum(of_flange, of_web), "yielding, local buckling of walls", "N m", "F7.1-F7.3")


def _tube(s: Shapes, E: Floats, F_y: Floats, L_b: Floats, C_b: Floats, say: Say) -> Floats:
    walls = _walls(s, E, F_y, (s.c_flange / s.tf, s.c_web / s.tw), (s.Wpl_y, s.Wel_y), say, "M_n,walls")
    M_p, S = F_y * s.Wpl_y, s.Wel_y
    r_z, JA = np.sqrt(s.Iz / s.A), np.sqrt(s.It * s.A)
    L_p = say("L_p", 0.13 * E * r_z * JA / M_p, "", "m", "F7-12")
    L_r = say("L_r", 2 * E * r_z * JA / (0.7 * F_y * S), "", "m", "F7-13")
    inelastic = C_b * _between(L_b, L_p, L_r, M_p, 0.7 * F_y * S)
    elastic = 2 * E * C_b * JA / np.maximum(L_b / r_z, 1e-9)
    lateral = np.where(L_b <= L_p, M_p, np.where(L_b <= L_r, np.minimum(inelastic, M_p), np.minimum(elastic, M_p)))
    lateral = np.where(s.Iy > s.Iz * (1 + 1e-9), lateral, M_p)
    return say("M_n", np.minimum(walls, lateral), "", "N m", "F7")


def _round_tube(s: Shapes, E: Floats, F_y: Floats, say: Say) -> Floats:
    ratio = s.h / s.tw
    noncompact, slender = (0.021 * E / ratio + F_y) * s.Wel_y, 0.33 * E / ratio * s.Wel_y
    M = np.where(ratio <= 0.07 * E / F_y, F_y * s.Wpl_y, np.where(ratio <= 0.31 * E / F_y, noncompact, slender))
    return say("M_n", np.where(ratio > 0.45 * E / F_y, np.nan, np.minimum(M, F_y * s.Wpl_y)), "", "N m", "F8")


def _tee(s: Shapes, E: Floats, F_y: Floats, L_b: Floats, stem_pressed: Bools, say: Say) -> Floats:
    r, d = root(E, F_y), s.h
    M_y, M_p = F_y * s.Wel_y, F_y * s.Wpl_y
    plastic = np.minimum(M_p, 1.6 * M_y)
    root_IJ = np.sqrt(s.Iz * s.It)
    length = np.maximum(L_b, 1e-9)
    B = 2.3 * d / length * np.sqrt(s.Iz / s.It)
    M_pull = 1.95 * E / length * root_IJ * (B + np.sqrt(1 + B**2))
    M_press = 1.95 * E / length * root_IJ * (-B + np.sqrt(1 + B**2))
    L_p = 1.76 * np.sqrt(s.Iz / s.A) * r
    L_r = 1.95 * E / F_y * root_IJ / s.Wel_y * np.sqrt(2.36 * F_y / E * d * s.Wel_y / s.It + 1)
    pulled = np.where(L_b <= L_p, plastic, np.where(L_b <= L_r, _between(L_b, L_p, L_r, plastic, M_y), M_pull))
    top = s.Iy / _flange_distance(s)
    lam_f = flange(s)
    local = np.where(lam_f <= 0.38 * r, plastic, np.where(
        lam_f <= r, np.minimum(_between(lam_f, 0.38 * r, r, plastic, 0.7 * F_y * top), 1.6 * M_y),
        0.7 * E * top / lam_f**2,
    ))  # fmt: skip
    lam_s = d / s.tw
    F_cr = np.where(
        lam_s <= 0.84 * r, F_y, np.where(lam_s <= 1.52 * r, (1.43 - 0.515 * lam_s / r) * F_y, 1.52 * E / lam_s**2)
    )
    pressed = np.minimum(np.minimum(np.where(L_b > 0, M_press, M_y), M_y), F_cr * s.Wel_y)
    flange_pressed = np.minimum(np.minimum(pulled, plastic), local)
    return say("M_n", np.where(stem_pressed, pressed, flange_pressed), "", "N m", "F9")


def _flange_distance(s: Shapes) -> Floats:
    """From the centroid of a tee to the face of its flange; its stem's tip is at I_y/W_el,y."""
    return np.asarray(s.h - s.Iy / s.Wel_y)


def _angle(s: Shapes, E: Floats, F_y: Floats, L_b: Floats, C_b: Floats, about_major: bool, say: Say) -> Floats:
    """Single angles about a principal axis (F10), C_b up to 1.5, the toes taken to be in compression; of unequal legs
    about the major axis NaN: their beta_w is not built in."""
    C_b = np.minimum(C_b, 1.5)
    r = root(E, F_y)
    S = s.Wel_y if about_major else s.Wel_z
    M_y = F_y * S
    M = 1.5 * M_y + 0 * C_b
    if about_major:
        r_z = np.sqrt(s.Iz / s.A)
        M_cr = 9 * E * s.A * r_z * s.tw * C_b / (8 * np.maximum(L_b, 1e-9))
        ratio = M_y / M_cr
        lateral = np.where(ratio <= 1, np.minimum((1.92 - 1.17 * np.sqrt(ratio)) * M_y, 1.5 * M_y),
                           (0.92 - 0.17 * M_cr / M_y) * M_cr)  # fmt: skip
        M = np.where(L_b > 0, np.minimum(M, lateral), M)
        M = np.where(np.abs(s.h - s.b) > 1e-9, np.nan, M)
    lam = np.maximum(s.h, s.b) / s.tw
    legs = np.where(lam <= 0.54 * r, 1.5 * M_y, np.where(
        lam <= 0.91 * r, np.minimum(M_y * (2.43 - 1.72 * lam / r), 1.5 * M_y), 0.71 * E / lam**2 * S
    ))  # fmt: skip
    return say("M_n" if about_major else "M_nz", np.minimum(M, legs), "", "N m", "F10")


def _bar(s: Shapes, E: Floats, F_y: Floats, L_b: Floats, C_b: Floats, say: Say) -> Floats:
    """Rectangular bars (F11): lateral buckling where the depth is the larger side."""
    M_y, M_p = F_y * s.Wel_y, np.minimum(F_y * s.Wpl_y, 1.6 * F_y * s.Wel_y)
    far = L_b * s.h / s.b**2
    inelastic = C_b * (1.52 - 0.274 * far * F_y / E) * M_y
    elastic = 1.9 * E * C_b / np.maximum(far, 1e-9) * s.Wel_y
    M = np.where(
        far <= 0.08 * E / F_y, M_p, np.where(far <= 1.9 * E / F_y, np.minimum(inelastic, M_p), np.minimum(elastic, M_p))
    )
    return say("M_n", np.where(s.h > s.b, M, M_p), "", "N m", "F11")
