"""Steel members by EN 1993-1-1."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray

from ..model.steel import SteelRule
from . import elastic
from .demand import Extremes, OnStretches
from .en1993 import buckling
from .en1993.classes import classes
from .en1993.factors import Factors
from .en1993.interaction import equivalent, together
from .en1993.resistance import compressed_area, section_use
from .lengths import Lengths
from .made_of import Steel
from .saying import Say, unsaid
from .shapes import Shapes
from .use import Code

Floats = NDArray[np.float64]
CHECKS = ("N", "Vz", "Vy", "T", "N+M", "buckling", "lateral", "6.61", "6.62")
CLAUSES = {
    "N": "6.2.3, 6.2.4", "Vz": "6.2.6", "Vy": "6.2.6", "T": "6.2.7", "N+M": "6.2.5, 6.2.8-6.2.10",
    "buckling": "6.3.1", "lateral": "6.3.2", "6.61": "6.3.3", "6.62": "6.3.3",
}  # fmt: skip
OF_SECTION = 5
"""So many of them are of the section, the others of the member."""
SMALL = 1e-6
"""Moments below this share of the elastic one are none."""


def _few(forces: Floats, s: Shapes, f_y: Floats) -> tuple[Floats, ...]:
    """The six forces, moments of nothing as nothing."""
    N, Vy, Vz, T, My, Mz = np.moveaxis(forces, 1, 0)
    My, Mz = (np.where(np.abs(M) > SMALL * W * f_y, M, 0.0) for M, W in ((My, s.Wel_y), (Mz, s.Wel_z)))
    return N, Vy, Vz, T, My, Mz


def code_of(rule: SteelRule) -> Code:
    """The code with a rule's factors and choices."""
    by = Factors(rule.gamma_M0, rule.gamma_M1, rule.eta, rule.lateral)
    factors = f"gamma_M0 = {by.gamma_M0:g}, gamma_M1 = {by.gamma_M1:g}, eta = {by.eta:g}"
    words = f"{rule.code}, {factors}; lateral buckling by the {by.lateral} case, loads at the shear centre; annex B"
    section, member = partial(section_checks, by=by), partial(member_checks, by=by)
    bound = partial(member_checks, say=unsaid, by=by, at_least=True)
    return Code(CHECKS, OF_SECTION, 3, CLAUSES, section, member, partial(section_bound, by=by), bound, words,
                1 / by.gamma_M0)  # fmt: skip


def section_checks(steel: Steel, forces: Floats, say: Say, by: Factors) -> Floats:
    """How much sections (n, 1) use under forces (n, 6, results): (n, 5, results), NaN where bending in class 4 is not
    built in."""
    s, f_y = steel.s, steel.f_y
    own = _few(forces, s, f_y)
    found = classes(s, f_y, own[0], (own[4], own[5]))
    say("class", found.combined, "", "", "5.5.2")
    say("f_y", f_y, "", "Pa", "table 3.1")
    used = section_use(s, f_y, found, own, by, say)
    return np.stack([used.N, used.Vz, used.Vy, used.T, used.M], axis=1)


def member_checks(
    steel: Steel, L: Lengths, d: OnStretches, say: Say, by: Factors, at_least: bool = False
) -> tuple[Floats, NDArray[np.bool_], NDArray[np.bool_]]:  # fmt: skip
    """How much stretches (n,) use under results: (n, 4, results); where bending in class 4 is, and where lateral
    buckling has no rule (n,). `at_least`: what they cannot exceed, by what M_cr is at least."""
    s, f_y, EG = steel.s, steel.f_y, steel.EG
    # Of two signs of a moment the larger is that of the interaction; either may buckle the flange it presses.
    most, least = np.maximum(d.My_most, 0.0), np.maximum(-d.My_least, 0.0)
    limit_y, limit_z = SMALL * s.Wel_y * f_y, SMALL * s.Wel_z * f_y
    My = np.maximum(most, least)
    My = np.where(limit_y < My, My, 0.0)
    Mz = np.where(np.abs(d.Mz) > limit_z, np.abs(d.Mz), 0.0)
    N = say("N_Ed", np.where(SMALL * s.A * f_y < d.N, d.N, 0.0), "greatest compression", "N")
    say("M_y,Ed", My, "largest along the segment", "N m")
    say("M_z,Ed", Mz, "largest along the segment", "N m")
    c = classes(s, f_y, -N, (My, Mz))
    say("class", c.combined, "", "", "5.5.2")
    lost = ((My > 0) & (c.bent_y >= 4)) | ((Mz > 0) & (c.bent_z >= 4))
    plastic = c.combined <= 2
    area = compressed_area(s, f_y, np.where(c.combined >= 4, c.compressed, 1.0))
    W_y, W_z = (np.where(plastic, pl, el) for pl, el in ((s.Wpl_y, s.Wel_y), (s.Wpl_z, s.Wel_z)))
    lengths = L.buckling()
    chi = buckling.compressed(s, f_y, area, EG, lengths, say)
    least_chi = np.minimum(np.minimum(chi.y, chi.z), chi.T)
    use_N = N / say("N_b,Rd", least_chi * area * f_y / by.gamma_M1, "chi A f_y/gamma_M1", "N", "6.3.1.1")
    chi_LT, pressed, none = _lateral(steel, L, d, W_y, (most, least), by, say, at_least)
    M_b = say("M_b,Rd", chi_LT * W_y * f_y / by.gamma_M1, "chi_LT W_y f_y/gamma_M1", "N m", "6.3.2.1")
    use_M = pressed / M_b
    lam_y, lam_z = (np.sqrt(area * f_y / N_cr) for N_cr in elastic.critical_forces(s, EG, lengths)[:2])
    own = L.C_m[:, None]
    C_my, C_mz, C_mLT = (
        np.where(np.isnan(own), equivalent(diagram), own) for diagram in (d.about_y, d.about_z, d.diagram)
    )
    for name, value in (("C_my", C_my), ("C_mz", C_mz), ("C_mLT", C_mLT)):
        say(name, value, "stated" if not np.isnan(own).any() else "", "", "table B.3")
    R = (say("N_Rk", area * f_y, "A f_y", "N", "6.3.3(3)"), say("M_y,Rk", W_y * f_y, "W_y f_y", "N m", "6.3.3(3)"),
         say("M_z,Rk", W_z * f_y, "W_z f_y", "N m", "6.3.3(3)"))  # fmt: skip
    both = together(s, chi, chi_LT, (lam_y, lam_z), R, (N, My, Mz), (C_my, C_mz, C_mLT), plastic, by, say)
    # Without compression 6.61 and 6.62 are those of bending about both axes.
    out = np.stack([use_N, use_M, both.by_y, both.by_z], axis=1)
    out[:, 1:][np.broadcast_to(lost[:, None], out[:, 1:].shape)] = np.nan
    return out, np.asarray(lost.any(axis=1)), none


def _lateral(
    steel: Steel, L: Lengths, d: OnStretches, W_y: Floats, sides: tuple[Floats, Floats], by: Factors, say: Say,
    at_least: bool,
) -> tuple[Floats, Floats, NDArray[np.bool_]]:  # fmt: skip
    """chi_LT (n, results), the moment that may buckle laterally, and whether there is no rule for it (n,)."""
    s, f_y, EG = steel.s, steel.f_y, steel.EG
    most, least = sides
    top, bottom = L.top[:, None], L.bottom[:, None]
    pressed = np.maximum(np.where(top, 0.0, most), np.where(bottom, 0.0, least))
    limit = SMALL * s.Wel_y * f_y
    pressed = np.where(pressed > limit, pressed, 0.0)
    length = L.L_LT[:, None]
    if s.kind in ("pipe", "round"):
        return np.ones_like(pressed), pressed, np.zeros(len(pressed), bool)
    if s.kind == "tee":
        stem = np.where(bottom, 0.0, least) > limit
        M_cr = elastic.critical_moment_of_tee(s, EG, length, ~stem)
        C_1 = np.ones_like(M_cr)
    else:
        bends = pressed > 0
        factor = elastic.critical_factors(s, EG, length, d.squares, at_least)
        M_cr = np.where(bends, factor * np.where(bends, pressed, 1.0), np.inf)
        even = np.pi**2 * EG[0] * s.Iz / np.maximum(length, 1e-6) ** 2
        of_even = even * np.sqrt(s.Iw / s.Iz + EG[1] * s.It / even)
        own = L.C_b[:, None]
        M_cr = np.where(np.isnan(own), M_cr, np.where(bends, own * of_even, np.inf))
        C_1 = M_cr / of_even
        say("C_1", C_1, "from the diagram" if np.isnan(own).any() else "stated", "", "6.3.2.2(2)")
    say("L_LT", length, "", "m", "6.3.2")
    M_cr = say("M_cr", M_cr, "loads at the shear centre", "N m", "6.3.2.2(2)")
    k_c = buckling.moment_factor(d.diagram, C_1, L.top | L.bottom | L.even)
    chi = np.where(pressed > 0, buckling.lateral(s, f_y, W_y, np.maximum(M_cr, 1e-300), k_c, by, say), 1.0)
    unequal = s.kind == "angle" and np.abs(s.h - s.b)[:, 0] > 1e-9
    none = ((pressed > 0.01 * s.Wel_y * f_y).any(axis=1)) & (L.free | unequal)
    return chi, pressed, none


def section_bound(steel: Steel, e: Extremes, by: Factors) -> Floats:
    """What sections (n, 1) cannot exceed: every force at its own extreme, and the axial force pressing: the class is
    the worst then, and no resistance grows with another force."""
    forces = np.stack([-np.maximum(e.N, e.pull), e.Vy, e.Vz, e.T, e.My, e.Mz], axis=1)
    return section_checks(steel, forces, unsaid, by)
