"""Shear (chapter G) and torsion of tubes (H3)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..saying import Say, unsaid
from ..shapes import Shapes
from .factors import Factors
from .slender import root

Floats = NDArray[np.float64]


def _buckling(lam: Floats, k_v: float, E: Floats, F_y: Floats) -> Floats:
    """C_v2 (G2-9 to G2-11)."""
    r = np.sqrt(k_v * E / F_y)
    return np.asarray(
        np.where(lam <= 1.10 * r, 1.0, np.where(lam <= 1.37 * r, 1.10 * r / lam, 1.51 * k_v * E / (lam**2 * F_y)))
    )


def strength(s: Shapes, E: Floats, F_y: Floats, by: Factors, along_z: bool, say: Say = unsaid) -> Floats:
    """The design or allowable shear strength along z or y (n, 1) [N]."""
    name = "V_cz" if along_z else "V_cy"
    if s.kind in ("I", "channel") and along_z:
        lam, r = s.c_web / s.tw, root(E, F_y)
        stocky = (lam <= 2.24 * r) & (s.welded == 0) & (s.kind == "I")
        limit = 1.10 * np.sqrt(5.34) * r
        C_v = np.where(lam <= limit, 1.0, limit / lam)
        V = 0.6 * F_y * s.h * s.tw * np.where(stocky, 1.0, C_v)
        return say(name, V * np.where(stocky, by.stocky_web, by.usual), "0.6 F_y A_w C_v1, factored", "N", "G2.1")
    if s.kind in ("I", "channel", "tee") and not along_z:
        walls, lam = (1 if s.kind == "tee" else 2), s.b / s.tf / (1 if s.kind == "channel" else 2)
        V = 0.6 * F_y * walls * s.b * s.tf * _buckling(lam, 1.2, E, F_y)
        return say(name, V * by.usual, "0.6 F_y b_f t_f C_v2, factored", "N", "G6")
    if s.kind in ("tee", "angle"):
        d = s.h if s.kind == "tee" else np.minimum(s.h, s.b)
        lam = s.h / s.tw if s.kind == "tee" else np.maximum(s.h, s.b) / s.tw
        return say(
            name, by.usual * 0.6 * F_y * d * s.tw * _buckling(lam, 1.2, E, F_y), "0.6 F_y b t C_v2, factored", "N", "G3"
        )
    if s.kind == "hollow":
        flat, t = (s.c_web, s.tw) if along_z else (s.c_flange, s.tf)
        return say(
            name,
            by.usual * 0.6 * F_y * 2 * flat * t * _buckling(flat / t, 5.0, E, F_y),
            "0.6 F_y 2 h t C_v2, factored",
            "N",
            "G4",
        )
    if s.kind == "pipe":
        F_cr = np.minimum(0.78 * E / (s.h / s.tw) ** 1.5, 0.6 * F_y)
        return say(name, by.usual * F_cr * s.A / 2, "F_cr A_g/2, factored", "N", "G5")
    # Of solid bars the code says nothing: the largest stress of a parabola at 0.6 F_y.
    return say(name, by.usual * 0.6 * F_y * s.A / 1.5, "0.6 F_y A/1.5, factored", "N", "")


def with_torsion(
    s: Shapes, F_y: Floats, by: Factors, Vy: Floats, Vz: Floats, T: Floats,
    shares: tuple[Floats, Floats, Floats], say: Say = unsaid,
) -> Floats:  # fmt: skip
    """The shear stress of V and T together as a share of 0.6 F_y, factored (H3.3(b)), in the web and in the flanges of
    open sections, 0 without torsion; of bars the sum of the shares Vy, Vz, T. Tubes have H3.2."""
    if s.kind in ("hollow", "pipe"):
        return np.zeros_like(shares[0] + shares[1])
    if s.kind in ("solid", "round"):
        return say("V+T", np.where(T > 0, shares[0] + shares[1] + shares[2], 0.0), "V/V_c + T/T_c", "", "H3.3(b)")
    F_c = by.usual * 0.6 * F_y
    web_area, flange_area = s.h * s.tw, s.b * s.tf * (2 if s.kind in ("I", "channel") else 1)
    if s.kind == "angle":
        web_area, flange_area = s.h * s.tw, s.b * s.tw
    web = Vz / web_area + T * s.tw / s.It
    flange = Vy / flange_area + T * (s.tw if s.kind == "angle" else s.tf) / s.It
    # Where the strength in shear alone is less (buckling), so is what is left for torsion.
    share = np.maximum(np.maximum(web, flange) / F_c, np.maximum(shares[0], shares[1]))
    return say("V+T", np.where(T > 0, share, 0.0), "(V/A + T t/J)/(0.6 F_y), factored", "", "H3.3(b)")


def torsion(s: Shapes, E: Floats, F_y: Floats, by: Factors, say: Say = unsaid) -> Floats:
    """The design or allowable torsional strength (n, 1) [N m]: of tubes by H3.1, of others by Saint-Venant's stress at
    0.6 F_y; their warping is not in it."""
    if s.kind == "pipe":
        ratio = s.h / s.tw
        F_cr = np.minimum(0.60 * E / ratio**1.5, 0.6 * F_y)
        C = np.pi * (s.h - s.tw) ** 2 * s.tw / 2
        return say("T_c", by.usual * F_cr * C, "F_cr C, factored", "N m", "H3.1(a)")
    if s.kind == "hollow":
        lam, r = np.maximum(s.c_web / s.tw, s.c_flange / s.tf), root(E, F_y)
        F_cr = np.where(
            lam <= 2.45 * r,
            0.6 * F_y,
            np.where(lam <= 3.07 * r, 0.6 * F_y * 2.45 * r / lam, 0.458 * np.pi**2 * E / lam**2),
        )
        t = np.minimum(s.tw, s.tf)
        C = 2 * (s.b - s.tw) * (s.h - s.tf) * t - np.where(s.welded > 0, 0.0, 4.5 * (4 - np.pi) * t**3)
        return say("T_c", by.usual * F_cr * C, "F_cr C, factored", "N m", "H3.1(b)")
    if s.kind == "round":
        W = 2 * s.It / s.h
    elif s.kind == "solid":
        long, short = np.maximum(s.h, s.b), np.minimum(s.h, s.b)
        W = long**2 * short**2 / (3 * long + 1.8 * short)
    else:
        W = s.It / s.thickest
    return say("T_c", by.usual * 0.6 * F_y * W, "0.6 F_y J/t, factored", "N m", "H3.3")
