"""Steel members by AISC 360-22."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray

from ..model.steel import SteelRule
from .aisc360 import compression, flexure, shear
from .aisc360.combined import with_axial, with_torsion
from .aisc360.factors import Factors
from .demand import Extremes, OnStretches
from .lengths import Lengths
from .made_of import Steel
from .saying import Say, unsaid
from .use import Code

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
CHECKS = ("tension", "Vz", "Vy", "T", "V+T", "compression", "flexure", "minor", "H1", "H3")
CLAUSES = {
    "tension": "D2(a)", "Vz": "G2 to G5", "Vy": "G4 to G6", "T": "H3", "V+T": "H3.3(b)", "compression": "E3, E4, E7",
    "flexure": "F2 to F11", "minor": "F6 to F11", "H1": "H1, H2", "H3": "H3.2",
}  # fmt: skip
OF_SECTION, TORSION = 5, 3
SMALL = 1e-6


def code_of(rule: SteelRule) -> Code:
    """The code with a rule's choices."""
    by = Factors(rule.design)
    words = f"{rule.code}, {by.design}; effective lengths between restraints (K = 1); C_b from the diagram"
    section, member = partial(section_checks, by=by), partial(member_checks, by=by)
    bounds = partial(section_bound, by=by), partial(member, say=unsaid)
    return Code(CHECKS, OF_SECTION, TORSION, CLAUSES, section, member, *bounds, words, by.usual)


def section_checks(steel: Steel, forces: Floats, say: Say, by: Factors) -> Floats:
    """How much sections (n, 1) use under forces (n, 6, results): tension, shear along z and y, torsion."""
    s, F_y, E = steel.s, steel.f_y, steel.EG[0]
    N, Vy, Vz, T = (forces[:, k] for k in range(4))
    say("F_y", F_y, "", "Pa", "A3")
    pull = np.maximum(N, 0.0) / say("P_c", by.usual * F_y * s.A, "F_y A_g, factored", "N", "D2(a)")
    along_z = np.abs(Vz) / shear.strength(s, E, F_y, by, True, say)
    along_y = np.abs(Vy) / shear.strength(s, E, F_y, by, False, say)
    twist = np.abs(T) / shear.torsion(s, E, F_y, by, say)
    both = shear.with_torsion(s, F_y, by, np.abs(Vy), np.abs(Vz), np.abs(T), (along_y, along_z, twist), say)
    return np.stack(np.broadcast_arrays(pull, along_z, along_y, twist, both), axis=1)


def member_checks(steel: Steel, L: Lengths, d: OnStretches, say: Say, by: Factors) -> tuple[Floats, Bools, Bools]:
    """How much stretches (n,) use under results: compression, flexure about both axes, all together, with torsion;
    where no rule is built in for bending (n,), and for lateral buckling."""
    s, F_y, (E, G) = steel.s, steel.f_y, steel.EG
    limit_y, limit_z = SMALL * s.Wel_y * F_y, SMALL * s.Wel_z * F_y
    most, least = np.maximum(d.My_most, 0.0), np.maximum(-d.My_least, 0.0)
    Mz = np.where(np.abs(d.Mz) > limit_z, np.abs(d.Mz), 0.0)
    press = say("P_r", np.where(SMALL * s.A * F_y < d.N, d.N, 0.0), "greatest compression", "N")
    pull = np.where(SMALL * s.A * F_y < d.pull, d.pull, 0.0)
    P_n = compression.nominal(s, E, G, F_y, L.buckling(), say)
    use_P = press / say("P_c", by.usual * P_n, "P_n, factored", "N", "E1")
    M_y, use_y = _major(
        steel, L, d, (np.where(most > limit_y, most, 0.0), np.where(least > limit_y, least, 0.0)), by, say
    )
    M_z = flexure.minor(s, E, F_y, say)
    use_z = say("M_rz", Mz, "largest along the segment", "N m") / say(
        "M_cz", by.usual * M_z, "M_nz, factored", "N m", "F1"
    )
    axial = np.maximum(use_P, pull / (by.usual * F_y * s.A))
    zero_y, zero_z = use_y == 0, Mz == 0
    lost = (np.isnan(M_y) & ~zero_y) | (np.isnan(M_z) & ~zero_z)
    use_y, use_z = np.where(zero_y, 0.0, use_y), np.where(zero_z, 0.0, use_z)
    if s.kind in ("pipe", "round"):  # every axis is alike: the moment is their resultant
        use_y, use_z = np.hypot(use_y, use_z), np.zeros_like(use_z + use_y)
    together = with_axial(axial, use_y, use_z, s.kind == "angle", say)
    twisted = np.zeros_like(together)
    if s.kind in ("hollow", "pipe"):
        v = np.maximum(d.Vz / shear.strength(s, E, F_y, by, True), d.Vy / shear.strength(s, E, F_y, by, False))
        twisted = with_torsion(axial, use_y + use_z, v, d.T / shear.torsion(s, E, F_y, by), say)
    out = np.stack(np.broadcast_arrays(use_P, use_y, use_z, together, twisted), axis=1).copy()
    no_rule = (most > 0.01 * s.Wel_y * F_y) | (least > 0.01 * s.Wel_y * F_y)
    unequal = s.kind == "angle" and np.abs(s.h - s.b)[:, 0] > 1e-9
    none = no_rule.any(axis=1) & (L.free | unequal)
    lost &= no_rule | (Mz > 0.01 * s.Wel_z * F_y)
    return out, np.asarray(lost.any(axis=1) & ~none), none


def _major(
    steel: Steel, L: Lengths, d: OnStretches, sides: tuple[Floats, Floats], by: Factors, say: Say
) -> tuple[Floats, Floats]:
    """M_n about y and how much of it is used. Where a flange is held, and of tees, that of each flange that may be
    pressed, over its own unbraced length, the worse: row by row, since no member knows its neighbours."""
    M_n, used = np.zeros_like(sides[0]), np.zeros_like(sides[0])
    of_each = np.ones(len(M_n), bool) if steel.s.kind == "tee" else L.top | L.bottom
    for rows, look in ((np.flatnonzero(~of_each), _whole), (np.flatnonzero(of_each), _flange_by_flange)):
        if len(rows):
            part = steel.rows(rows), L.rows(rows), d.diagram[rows]
            M_n[rows], used[rows] = look(*part, (sides[0][rows], sides[1][rows]), by, say)
    return M_n, used


def _whole(
    steel: Steel, L: Lengths, diagram: Floats, sides: tuple[Floats, Floats], by: Factors, say: Say
) -> tuple[Floats, Floats]:
    """M_n and its share of stretches without a held flange, by the whole diagram."""
    M = say("M_ry", np.maximum(*sides), "largest along the segment", "N m")
    own = L.C_b[:, None]
    C_b = np.where(np.isnan(own), flexure.bending_factor(diagram), own)
    M_n = flexure.major(
        steel.s, *steel.EG, steel.f_y, np.maximum(L.L_LT[:, None], 0.0), C_b, np.zeros_like(M, bool), say
    )
    return M_n, M / say("M_cy", by.usual * M_n, "M_n, factored", "N m", "F1")


def _flange_by_flange(
    steel: Steel, L: Lengths, diagram: Floats, sides: tuple[Floats, Floats], by: Factors, say: Say
) -> tuple[Floats, Floats]:
    """M_n and its share of the flange that uses more, each by the part of the diagram that presses it."""
    s, most, least = steel.s, *sides
    top, bottom = L.top[:, None], L.bottom[:, None]
    length = L.L_LT[:, None]
    M = say("M_ry", np.maximum(most, least), "largest along the segment", "N m")
    parts = []
    for size, held, stem, own in (
        (most, top, False, np.maximum(diagram, 0.0)), (least, bottom, True, np.minimum(diagram, 0.0)),
    ):  # fmt: skip
        C = np.ones_like(M) if s.kind == "tee" else flexure.bending_factor(own)
        C = np.where(np.isnan(L.C_b[:, None]), C, L.C_b[:, None])
        reach = np.where(held, 0.0, length)
        quiet = say if bool(np.all(size >= M)) else unsaid  # of one member alone: what is derived
        M_n = flexure.major(s, *steel.EG, steel.f_y, reach, C, np.full_like(M, stem, bool), quiet)
        parts.append((M_n, np.where(size > 0, size / (by.usual * M_n), 0.0)))
    first = np.nan_to_num(parts[0][1]) >= np.nan_to_num(parts[1][1])
    M_n, used = (np.where(first, parts[0][k], parts[1][k]) for k in (0, 1))
    say("M_cy", by.usual * M_n, "M_n, factored", "N m", "F1")
    return M_n, used


def section_bound(steel: Steel, e: Extremes, by: Factors) -> Floats:
    """What sections (n, 1) use of each force at its own extreme."""
    forces = np.stack([e.pull, e.Vy, e.Vz, e.T, e.My, e.Mz], axis=1)
    return section_checks(steel, forces, unsaid, by)
