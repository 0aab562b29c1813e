"""Members in compression (chapter E): flexural, torsional and flexural-torsional buckling, slender elements."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..elastic import critical_forces
from ..saying import Say, unsaid
from ..shapes import Shapes
from .slender import flange, limits_compression, web

Floats = NDArray[np.float64]
TINY = 1e-300


def critical_stress(F_y: Floats, F_e: Floats) -> Floats:
    """F_n (E3-2, E3-3)."""
    ratio = F_y / np.maximum(F_e, TINY)
    return np.asarray(np.where(ratio <= 2.25, 0.658 ** np.minimum(ratio, 2.25) * F_y, 0.877 * F_e))


def _effective(
    w: Floats,
    t: Floats,
    limit: Floats,
    ratio: Floats,
    F: tuple[Floats, Floats],
    c: tuple[Floats | float, Floats | float],
) -> Floats:
    """The width lost of an element (E7-2, E7-3), times its thickness [m2]."""
    F_y, F_n = F
    slender = ratio > limit * np.sqrt(F_y / F_n)
    F_el = (c[1] * limit / np.maximum(ratio, TINY)) ** 2 * F_y
    share = np.sqrt(F_el / F_n)
    kept = np.where(slender, np.minimum((1 - c[0] * share) * share, 1.0), 1.0)
    return np.asarray((1 - kept) * w * t)


STIFFENED, TUBE, OTHER = (0.18, 1.31), (0.20, 1.38), (0.22, 1.49)
"""c_1, c_2 of table E7.1."""


def effective_area(s: Shapes, E: Floats, F_y: Floats, F_n: Floats) -> Floats:
    """A_e (E7) [m2]."""
    if s.kind in ("solid", "round"):
        return np.asarray(s.A + 0 * F_n)
    if s.kind == "pipe":
        ratio = s.h / s.tw
        slender = (0.038 * E / (F_y * ratio) + 2 / 3) * s.A
        return np.asarray(
            np.where(ratio <= 0.11 * E / F_y, s.A, np.where(ratio < 0.45 * E / F_y, slender, np.nan)) + 0 * F_n
        )
    lim_f, lim_w = limits_compression(s, E, F_y)
    F = (F_y, F_n)
    if s.kind == "angle":
        lost = sum(_effective(leg, s.tw, lim_f, leg / s.tw, F, OTHER) for leg in (s.h, s.b))
        return np.asarray(s.A - lost)
    if s.kind == "hollow":
        c_1, c_2 = (np.where(s.welded > 0, a, b) for a, b in zip(STIFFENED, TUBE, strict=True))
        kind = c_1, c_2
        lost = 2 * (
            _effective(s.c_flange, s.tf, lim_f, flange(s), F, kind) + _effective(s.c_web, s.tw, lim_w, web(s), F, kind)
        )
        return np.asarray(s.A - lost)
    halves = {"I": 4, "channel": 2, "tee": 2}[s.kind]
    width = s.b if s.kind == "channel" else s.b / 2
    lost = halves * _effective(width, s.tf, lim_f, flange(s), F, OTHER)
    if s.kind == "tee":
        lost = lost + _effective(s.h, s.tw, lim_w, web(s), F, OTHER)
    else:
        lost = lost + _effective(s.c_web, s.tw, lim_w, web(s), F, STIFFENED)
    return np.asarray(s.A - lost)


def nominal(
    s: Shapes, E: Floats, G: Floats, F_y: Floats, L: tuple[Floats, Floats, Floats], say: Say = unsaid
) -> Floats:  # fmt: skip
    """P_n (n, 1) [N]; L: effective lengths about y, z, in torsion [m]; 0: nothing buckles that way.

    Torsional buckling counts for every open shape, as section E4 has it for those to which it applies.
    """
    N_y, N_z, _, N_T = critical_forces(s, (E, G), L)
    F_e = np.full_like(s.A, np.inf)
    for axis, N, length in (("y", N_y, L[0]), ("z", N_z, L[1]), ("T", N_T, L[2])):
        if axis == "T" and s.kind in ("hollow", "pipe", "round", "solid"):
            continue
        own = np.where(length > 0, N / s.A, np.inf)
        say(f"L_c{axis}", length, "", "m", "E2")
        say(
            f"F_e{axis}",
            own,
            "pi^2 E/(L_c/r)^2" if axis != "T" else "E4-2 to E4-7",
            "Pa",
            "E4" if axis == "T" else "E3",
        )
        F_e = np.minimum(F_e, own)
    F_n = say("F_n", critical_stress(F_y, F_e), "0.658^(F_y/F_e) F_y, or 0.877 F_e", "Pa", "E3-2, E3-3")
    A_e = say("A_e", effective_area(s, E, F_y, F_n), "", "m2 A", "E7")
    return say("P_n", F_n * A_e, "F_n A_e", "N", "E3-1, E7-1")
