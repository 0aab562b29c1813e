"""Classes of cross-sections (EN 1993-1-1, 5.5, table 5.2), and effective areas of class 4 in compression (EN 1993-1-5).

Of webs in bending and compression the axial force stays as it is while moments grow until the section yields:

    plastic   alpha = (1 + N / (c t f_y)) / 2 of the web in compression        (classes 1, 2)
    elastic   psi = 2 N / (A f_y) - 1                                          (class 3)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..shapes import Shapes

Floats = NDArray[np.float64]
OUTSTAND, INTERNAL, BENT = (9.0, 10.0, 14.0), (33.0, 38.0, 42.0), (72.0, 83.0, 124.0)
"""Limits of c/(t epsilon) of classes 1 to 3: outstands and internal parts in compression, internal parts in bending."""


@dataclass(frozen=True)
class Classes:
    """Classes (n, results) under compression alone, bending about y alone, about z alone; and as axial force and
    moments are."""

    compressed: Floats
    bent_y: Floats
    bent_z: Floats
    combined: Floats


def epsilon(f_y: Floats) -> Floats:
    """sqrt(235 MPa / f_y)."""
    return np.asarray(np.sqrt(235e6 / f_y))


def _class(slenderness: Floats, limits: tuple[Floats | float, Floats | float, Floats | float]) -> Floats:
    return np.asarray(1.0 + sum((slenderness > limit).astype(float) for limit in limits))


def _internal(slenderness: Floats, alpha: Floats, psi: Floats) -> Floats:
    """Of internal parts in bending and compression, c/(t epsilon)."""
    half = alpha > 0.5
    wide = 13 * np.maximum(alpha, 0.5) - 1
    thin = np.maximum(alpha, 1e-9)
    first = np.where(half, 396 / wide, 36 / thin)
    second = np.where(half, 456 / wide, 41.5 / thin)
    pressed = psi > -1
    third = np.where(
        pressed, 42 / (0.67 + 0.33 * np.where(pressed, psi, 0.0)),
        62 * (1 - psi) * np.sqrt(np.maximum(-psi, 0.0)),
    )  # fmt: skip
    return _class(slenderness, (first, second, np.where(alpha <= 0, np.inf, third)))


def classes(s: Shapes, f_y: Floats, N: Floats, moments: tuple[Floats, Floats]) -> Classes:
    """Of sections (n, 1) of yield strength f_y (n, 1) [N/m2] under N (n, results) [N], tension positive, and moments
    about y and z; a moment of nothing asks for nothing of its own."""
    eps = epsilon(f_y)
    press = np.maximum(-N, 0.0)
    if s.kind in ("solid", "round"):
        one = np.ones(np.broadcast_shapes(s.A.shape, N.shape))
        return Classes(one, one, one, one)
    if s.kind == "pipe":
        own = _class(s.h / s.tw / eps**2, (50.0, 70.0, 90.0)) + 0 * N
        return Classes(own, own, own, np.where((press > 0) | _any(moments), own, 1.0))
    if s.kind == "angle":
        # Table 5.2, sheet 3; no plastic resistance is taken. Beyond its limits, but fully effective, counts as class 3.
        slender = (s.c_web / s.tw / eps > 15) | ((s.h + s.b) / (2 * s.tw) / eps > 11.5)
        reduced = s.c_web / s.tw / (28.4 * eps * np.sqrt(0.43)) > 0.748
        own = np.where(slender & reduced, 4.0, 3.0) + 0 * N
        return Classes(own, own, own, np.where((press > 0) | _any(moments), own, 1.0))
    web, flange = s.c_web / s.tw / eps, s.c_flange / s.tf / eps
    of_flange = _class(flange, INTERNAL if s.kind == "hollow" else OUTSTAND)
    if s.kind == "tee":
        own = np.maximum(of_flange, _class((s.c_web - s.tf - s.r) / s.tw / eps, OUTSTAND)) + 0 * N
        return Classes(own, own, own, np.where((press > 0) | _any(moments), own, 1.0))
    webs = 2.0 if s.kind == "hollow" else 1.0
    psi = np.minimum(2 * press / (s.A * f_y) - 1, 1.0)

    def plastic(c: Floats, t: Floats, walls: float) -> Floats:
        return np.asarray(np.minimum((1 + press / (walls * c * t * f_y)) / 2, 1.0))

    of_web = _internal(web, plastic(s.c_web, s.tw, webs), psi)
    compressed = np.maximum(of_flange, _class(web, INTERNAL)) + 0 * N
    bent_y = np.maximum(of_flange, _class(web, BENT)) + 0 * N
    about_y = np.maximum(of_flange, of_web)
    if s.kind == "hollow":
        bent_z = np.maximum(_class(flange, BENT), _class(web, INTERNAL)) + 0 * N
        about_z = np.maximum(_internal(flange, plastic(s.c_flange, s.tf, webs), psi), _class(web, INTERNAL))
    else:
        bent_z, about_z = of_flange + 0 * N, np.where(press > 0, about_y, of_flange)
    M_y, M_z = (np.abs(M) > 0 for M in moments)
    alone = np.where(press > 0, compressed, 1.0)
    combined = np.where(M_y & M_z, np.maximum(about_y, about_z), np.where(M_y, about_y, np.where(M_z, about_z, alone)))
    return Classes(compressed, bent_y, bent_z, combined)


def _any(moments: tuple[Floats, Floats]) -> NDArray[np.bool_]:
    return (np.abs(moments[0]) > 0) | (np.abs(moments[1]) > 0)


def effective_area(s: Shapes, f_y: Floats) -> Floats:
    """A_eff in uniform compression of I and hollow sections (EN 1993-1-5, 4.4, tables 4.1, 4.2); their axis does not
    move. Of other kinds NaN where a part is slender."""
    eps = epsilon(f_y)

    def lost(c: Floats, t: Floats, k: float, internal: bool) -> Floats:
        slender = c / t / (28.4 * eps * np.sqrt(k))
        limit, off = (0.673, 0.22) if internal else (0.748, 0.188)
        rho = np.where(slender > limit, (slender - off) / np.maximum(slender, 1e-9) ** 2, 1.0)
        return np.asarray((1 - np.minimum(rho, 1.0)) * c * t)

    if s.kind == "I":
        return np.asarray(s.A - lost(s.c_web, s.tw, 4.0, True) - 4 * lost(s.c_flange, s.tf, 0.43, False))
    if s.kind == "hollow":
        return np.asarray(s.A - 2 * lost(s.c_web, s.tw, 4.0, True) - 2 * lost(s.c_flange, s.tf, 4.0, True))
    return np.asarray(np.full_like(s.A, np.nan))
