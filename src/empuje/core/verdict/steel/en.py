"""Steel members by EN 1993-1-1: how much of each resistance they use, and the derivation of any of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...analysis.solution import Pieces, Solution
from ...checks.en1993 import buckling
from ...checks.en1993.classes import Classes, classes
from ...checks.en1993.factors import Factors
from ...checks.en1993.interaction import equivalent, together
from ...checks.en1993.resistance import compressed_area, section_use
from ...checks.saying import Say, unsaid
from ...checks.shapes import Shapes
from .demand import PLACES, OnStretches, PieceExtremes, everywhere, on_stretches
from .lengths import Lengths

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
CHECKS = ("N", "Vz", "Vy", "T", "N+M", "buckling", "lateral", "6.61", "6.62")
CLAUSES = {
    "N": "6.2.3, 6.2.4", "Vz": "6.2.6", "Vy": "6.2.6", "T": "6.2.7", "N+M": "6.2.5, 6.2.8-6.2.10",
    "buckling": "6.3.1", "lateral": "6.3.2", "6.61": "6.3.3", "6.62": "6.3.3",
}  # fmt: skip
OF_SECTION = 5
"""So many of them are of the section, the others of the member."""
SMALL = 1e-6
"""Moments below this share of the elastic one are none."""
SIMPSON = buckling.simpson(PLACES)


@dataclass(frozen=True)
class Block:
    """Members of one kind of section with what their checks need: shapes, f_y [N/m2], E and G of each, and their
    stretches; `of_stretch`: the member (by its place here) of each stretch."""

    members: Ints
    shapes: Shapes
    f_y: Floats
    E: Floats
    G: Floats
    lengths: Lengths
    of_stretch: Ints


@dataclass(frozen=True)
class Use:
    """Of members and checks (m, 9): the share used, where [m] (of a stretch its middle), under which result; and for
    members, whether something was left out: bending in class 4, lateral buckling of shapes without a rule, torsion of
    open sections, a free end."""

    use: Floats
    x: Floats
    result: Ints
    stretch: Ints
    class_4: NDArray[np.bool_]
    no_rule: NDArray[np.bool_]
    warps: NDArray[np.bool_]
    free: NDArray[np.bool_]


def _few(forces: Floats, s: Shapes, f_y: Floats) -> tuple[Floats, ...]:
    """The six forces, moments of nothing as nothing."""
    N, Vy, Vz, T, My, Mz = np.moveaxis(forces, 1, 0)
    My, Mz = (np.where(np.abs(M) > SMALL * W * f_y, M, 0.0) for M, W in ((My, s.Wel_y), (Mz, s.Wel_z)))
    return N, Vy, Vz, T, My, Mz


def section_checks(s: Shapes, f_y: Floats, forces: Floats, by: Factors, say: Say = unsaid) -> tuple[Floats, Classes]:
    """How much sections (n, 1) use under forces (n, 6, results): (n, 5, results), NaN where bending in class 4 is not
    built in; and their classes."""
    own = _few(forces, s, f_y)
    found = classes(s, f_y, own[0], (own[4], own[5]))
    say("class", found.combined, "", "", "5.5.2")
    say("f_y", f_y, "", "Pa", "table 3.1")
    used = section_use(s, f_y, found, own, by, say)
    return np.stack([used.N, used.Vz, used.Vy, used.T, used.M], axis=1), found


def member_checks(
    s: Shapes, f_y: Floats, EG: tuple[Floats, Floats], L: Lengths, d: OnStretches, by: Factors, say: Say = unsaid
) -> tuple[Floats, NDArray[np.bool_], NDArray[np.bool_]]:
    """How much stretches (n,) use under results: (n, 4, results); where bending in class 4 is, and where lateral
    buckling has no rule (n,)."""
    # Of two signs of a moment the larger is that of the interaction; either may buckle the flange it presses.
    most, least = np.maximum(d.My_most, 0.0), np.maximum(-d.My_least, 0.0)
    limit_y, limit_z = SMALL * s.Wel_y * f_y, SMALL * s.Wel_z * f_y
    My = np.maximum(most, least)
    My = np.where(limit_y < My, My, 0.0)
    Mz = np.where(np.abs(d.Mz) > limit_z, np.abs(d.Mz), 0.0)
    N = say("N_Ed", np.where(SMALL * s.A * f_y < d.N, d.N, 0.0), "greatest compression", "N")
    say("M_y,Ed", My, "largest along the stretch", "N m")
    say("M_z,Ed", Mz, "largest along the stretch", "N m")
    c = classes(s, f_y, -N, (My, Mz))
    say("class", c.combined, "", "", "5.5.2")
    lost = ((My > 0) & (c.bent_y >= 4)) | ((Mz > 0) & (c.bent_z >= 4))
    plastic = c.combined <= 2
    area = compressed_area(s, f_y, np.where(c.combined >= 4, c.compressed, 1.0))
    W_y, W_z = (np.where(plastic, pl, el) for pl, el in ((s.Wpl_y, s.Wel_y), (s.Wpl_z, s.Wel_z)))
    lengths = tuple(v[:, None] for v in (L.L_y, L.L_z, L.L_T))
    chi = buckling.compressed(s, f_y, area, EG, lengths, say)  # type: ignore[arg-type]
    least_chi = np.minimum(np.minimum(chi.y, chi.z), chi.T)
    use_N = N / say("N_b,Rd", least_chi * area * f_y / by.gamma_M1, "chi A f_y/gamma_M1", "N", "6.3.1.1")
    chi_LT, pressed, none = _lateral(s, f_y, EG, L, d, W_y, (most, least), by, say)
    M_b = say("M_b,Rd", chi_LT * W_y * f_y / by.gamma_M1, "chi_LT W_y f_y/gamma_M1", "N m", "6.3.2.1")
    use_M = pressed / M_b
    lam_y, lam_z = (np.sqrt(area * f_y / N_cr) for N_cr in buckling.critical_forces(s, EG, lengths)[:2])  # type: ignore[arg-type]
    C_my, C_mz = (equivalent(three) for three in (d.three_y, d.three_z))
    C_mLT = equivalent(d.diagram[:, [0, PLACES // 2, -1]])
    for name, value in (("C_my", C_my), ("C_mz", C_mz), ("C_mLT", C_mLT)):
        say(name, value, "", "", "table B.3")
    R = (say("N_Rk", area * f_y, "A f_y", "N", "6.3.3(3)"), say("M_y,Rk", W_y * f_y, "W_y f_y", "N m", "6.3.3(3)"),
         say("M_z,Rk", W_z * f_y, "W_z f_y", "N m", "6.3.3(3)"))  # fmt: skip
    both = together(s, chi, chi_LT, (lam_y, lam_z), R, (N, My, Mz), (C_my, C_mz, C_mLT), plastic, by, say)
    # Without compression 6.61 and 6.62 are those of bending about both axes.
    out = np.stack([use_N, use_M, both.by_y, both.by_z], axis=1)
    out[:, 1:][np.broadcast_to(lost[:, None], out[:, 1:].shape)] = np.nan
    return out, np.asarray(lost.any(axis=1)), none


def _lateral(
    s: Shapes, f_y: Floats, EG: tuple[Floats, Floats], L: Lengths, d: OnStretches, W_y: Floats,
    sides: tuple[Floats, Floats], by: Factors, say: Say,
) -> tuple[Floats, Floats, NDArray[np.bool_]]:  # fmt: skip
    """chi_LT (n, results), the moment that may buckle laterally, and whether there is no rule for it (n,)."""
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
        M_cr = buckling.critical_moment_of_tee(s, EG, length, ~stem)
        C_1 = np.ones_like(M_cr)
    else:
        diagram = np.where(top[:, None], np.minimum(d.diagram, 0.0), d.diagram)
        diagram = np.where(bottom[:, None], np.maximum(diagram, 0.0), diagram)
        M_cr = buckling.critical_moments(s, EG, length, diagram, SIMPSON)
        # The moment grows to its largest anywhere; the diagram's places may miss that by a little.
        M_cr = M_cr * np.maximum(pressed / np.maximum(np.abs(diagram).max(axis=1), 1e-300), 1.0)
        even = np.pi**2 * EG[0] * s.Iz / np.maximum(length, 1e-6) ** 2
        C_1 = M_cr / (even * np.sqrt(s.Iw / s.Iz + EG[1] * s.It / even))
        say("C_1", C_1, "from the diagram", "", "6.3.2.2(2)")
    say("L_LT", length, "", "m", "6.3.2")
    M_cr = say("M_cr", M_cr, "loads at the shear centre", "N m", "6.3.2.2(2)")
    chi = np.where(pressed > 0, buckling.lateral(s, f_y, W_y, np.maximum(M_cr, 1e-300), C_1, by, say), 1.0)
    unequal = s.kind == "angle" and np.abs(s.h - s.b)[:, 0] > 1e-9
    none = ((pressed > 0.01 * s.Wel_y * f_y).any(axis=1)) & (L.free | unequal)
    return chi, pressed, none


def use_of(solution: Solution, pieces: Pieces, block: Block, by: Factors) -> Use:
    """Of members under the results that pieces are for."""
    m = len(block.members)
    of_piece = np.searchsorted(np.unique(block.members), pieces.member)
    order = np.argsort(block.members, kind="stable")
    of_piece = order[of_piece]
    s, f_y = block.shapes.take(of_piece).column(), block.f_y[of_piece][:, None]
    out = Use(np.zeros((m, len(CHECKS))), np.zeros((m, len(CHECKS))), np.zeros((m, len(CHECKS)), np.intp),
              np.full((m, len(CHECKS)), -1), *(np.zeros(m, bool) for _ in range(4)))  # fmt: skip
    each = PieceExtremes.none(pieces)
    for t, forces in everywhere(pieces):
        used, _ = section_checks(s, f_y, forces, by)
        each.widen(forces)
        x = pieces.start[:, None] + np.broadcast_to(t, used[:, 0].shape)
        _keep(out, used, of_piece, x, 0, None)
        if s.kind in ("I", "channel", "tee", "angle"):
            np.logical_or.at(out.warps, of_piece, (used[:, 3] > 0.02).any(axis=1))
        np.logical_or.at(out.class_4, of_piece, np.isnan(used[:, 4]).any(axis=1))
    L, on = block.lengths, block.of_stretch
    d = on_stretches(pieces, each, L)
    s, f_y = block.shapes.take(on).column(), block.f_y[on][:, None]
    used, lost, none = member_checks(s, f_y, (block.E[on][:, None], block.G[on][:, None]), L, d, by)
    middle = np.broadcast_to(((L.x0 + L.x1) / 2)[:, None], used[:, 0].shape)
    _keep(out, used, on, middle, OF_SECTION, np.arange(len(on)))
    np.logical_or.at(out.class_4, on, lost)
    np.logical_or.at(out.no_rule, on, none & ~L.free)
    np.logical_or.at(out.free, on, none & L.free)
    return out


def _keep(out: Use, used: Floats, owner: Ints, x: Floats, first: int, stretch: Ints | None) -> None:
    """Notes what is more than was found before: rows (n, checks, results) of owners."""
    used = np.nan_to_num(used, nan=-1.0)
    result = used.argmax(axis=2)
    rows = np.arange(len(owner))
    for k in range(used.shape[1]):
        r = result[:, k]
        value = used[rows, k, r]
        order = np.lexsort((rows[::-1], value))  # the first row of equal ones comes last
        best = np.full(len(out.use), -1, np.intp)
        best[owner[order]] = order
        there = np.flatnonzero(best >= 0)
        own = best[there]
        better = value[own] > out.use[there, first + k]
        there, own = there[better], own[better]
        out.use[there, first + k], out.result[there, first + k] = value[own], r[own]
        out.x[there, first + k] = x[own, r[own]]
        if stretch is not None:
            out.stretch[there, first + k] = stretch[own]
