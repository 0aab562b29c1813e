"""How much of their resistances members use, by any code: the worst of all places, stretches and results."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...analysis.solution import Pieces
from ...checks.saying import Say
from ...checks.shapes import Shapes
from .demand import OnStretches, PieceExtremes, everywhere, on_stretches
from .lengths import Lengths

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
Moduli = tuple[Floats, Floats]
"""E and G [N/m2]."""
WARPS = 0.02
"""Torsion of open sections below this share of Saint-Venant's resistance is not worth a word."""


@dataclass(frozen=True)
class Code:
    """A code as two functions: of sections (n, 1) with forces (n, 6, results) to what they use (n, checks, results); of
    stretches with what they bear to the same, where no rule is built in for bending (n,), and for lateral buckling.

    `checks`: their names, those of sections first, so many; `torsion`: which of them is about torsion; `clauses` of
    each; `assumed`: in words what was chosen.
    """

    checks: tuple[str, ...]
    of_section: int
    torsion: int
    clauses: Mapping[str, str]
    section: Callable[[Shapes, Floats, Moduli, Floats, Say], Floats]
    member: Callable[[Shapes, Floats, Moduli, Lengths, OnStretches, Say], tuple[Floats, Bools, Bools]]
    assumed: str


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
    """Of members and checks (m, checks): the share used, where [m] (of a stretch its middle), under which result; for
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


def use_of(pieces: Pieces, block: Block, code: Code, say: Say) -> Use:
    """Of members under the results that pieces are for."""
    m = len(block.members)
    of_piece = np.searchsorted(np.unique(block.members), pieces.member)
    order = np.argsort(block.members, kind="stable")
    of_piece = order[of_piece]
    s, f_y = block.shapes.take(of_piece).column(), block.f_y[of_piece][:, None]
    shape = m, len(code.checks)
    nothing = np.zeros(shape), np.zeros(shape), np.zeros(shape, np.intp), np.full(shape, -1)
    out = Use(*nothing, *(np.zeros(m, bool) for _ in range(4)))
    EG = block.E[of_piece][:, None], block.G[of_piece][:, None]
    each = PieceExtremes.none(pieces)
    for t, forces in everywhere(pieces):
        used = code.section(s, f_y, EG, forces, say)
        each.widen(forces)
        x = pieces.start[:, None] + np.broadcast_to(t, used[:, 0].shape)
        _keep(out, used, of_piece, x, 0, None)
        if s.kind in ("I", "channel", "tee", "angle"):
            np.logical_or.at(out.warps, of_piece, (used[:, code.torsion] > WARPS).any(axis=1))
        np.logical_or.at(out.class_4, of_piece, np.isnan(used).any(axis=(1, 2)))
    L, on = block.lengths, block.of_stretch
    d = on_stretches(pieces, each, L)
    s, f_y = block.shapes.take(on).column(), block.f_y[on][:, None]
    used, lost, none = code.member(s, f_y, (block.E[on][:, None], block.G[on][:, None]), L, d, say)
    middle = np.broadcast_to(((L.x0 + L.x1) / 2)[:, None], used[:, 0].shape)
    _keep(out, used, on, middle, code.of_section, np.arange(len(on)))
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
