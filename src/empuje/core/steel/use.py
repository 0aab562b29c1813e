"""How much of their resistances members use, by any code: the worst of all places, stretches and results."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Pieces
from .demand import Extremes, OnStretches, everywhere, extremes_of, on_stretches, pieces_under
from .elastic import warping_stress
from .lengths import Lengths
from .made_of import Steel
from .saying import Say
from .shapes import Shapes

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
MOST_USED = 1000.0
"""Where next to no resistance is left, as to shear where torsion takes all of it, a share is told as so much."""
WARPS = 0.02
"""Torsion of open sections below this share of Saint-Venant's resistance is not worth a word."""


@dataclass(frozen=True)
class Code:
    """A code as functions: of sections (n, 1) with forces (n, 6, results) to what they use (n, checks, results); of
    stretches with what they bear to the same, where no rule is built in for bending (n,), and for lateral buckling.

    `section_bound`: what sections cannot exceed, from the extremes of each force alone; `member_bound`: what stretches
    cannot, for less work. `checks`: their names, those of
    sections first, so many; `torsion`: which of them is about torsion; `clauses` of each; `assumed`: in words what was
    chosen; `usual`: what a yield strength counts for in normal stress.
    """

    checks: tuple[str, ...]
    of_section: int
    torsion: int
    clauses: Mapping[str, str]
    section: Callable[[Steel, Floats, Say], Floats]
    member: Callable[[Steel, Lengths, OnStretches, Say], tuple[Floats, Bools, Bools]]
    section_bound: Callable[[Steel, Extremes], Floats]
    member_bound: Callable[[Steel, Lengths, OnStretches], tuple[Floats, Bools, Bools]]
    assumed: str
    usual: float = 1.0


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

    def at(self, rows: Ints) -> Steel:
        """What members are made of, by their places here."""
        E, G = self.E[rows][:, None], self.G[rows][:, None]
        return Steel(self.shapes.take(rows).column(), self.f_y[rows][:, None], (E, G))


@dataclass(frozen=True)
class Use:
    """Of members and checks (m, checks): the share used, where [m] (of a stretch its middle), under which result; for
    members, whether something was left out: bending in class 4, lateral buckling of shapes without a rule, a free end;
    and the share of the yield strength that warping takes at most where torsion is worth a word, else 0."""

    use: Floats
    x: Floats
    result: Ints
    stretch: Ints
    class_4: NDArray[np.bool_]
    no_rule: NDArray[np.bool_]
    free: NDArray[np.bool_]
    warps: Floats


def use_of(pieces: Pieces, rows: Pieces, block: Block, code: Code, say: Say) -> Use:
    """Of members under the results that pieces are for; `rows`: those of the rows that their stretches are looked at in
    (demand.in_rows).

    Branch and bound: the piece and result with the highest upper bound of utilisation is checked first, place by place;
    then only those whose bound is above what was found, as the others cannot use more. The same for stretches.
    """
    m = len(block.members)
    order = np.argsort(block.members, kind="stable")
    of_piece = order[np.searchsorted(block.members[order], pieces.member)]
    shape = m, len(code.checks)
    nothing = np.zeros(shape), np.zeros(shape), np.zeros(shape, np.intp), np.full(shape, -1)
    out = Use(*nothing, np.zeros(m, bool), np.zeros(m, bool), np.zeros(m, bool), np.zeros(m))
    steel = block.at(of_piece)
    each = extremes_of(pieces)

    def at_places(row: Ints, result: Ints) -> Floats:
        """All places of some pieces under one result each."""
        own = pieces_under(pieces, row, result)
        t, forces = everywhere(own)
        used = code.section(steel.rows(row), forces, say)
        np.logical_or.at(out.class_4, of_piece[row], np.isnan(used).any(axis=(1, 2)))
        used = np.nan_to_num(used, nan=0.0)
        where = used.argmax(axis=2)
        most = np.take_along_axis(used, where[:, :, None], 2)[:, :, 0]
        x = own.start[:, None] + np.take_along_axis(t, where, 1)
        _keep(out, most, of_piece[row], x, np.repeat(result[:, None], code.of_section, axis=1), 0, None)
        return most

    bound = code.section_bound(steel, each)
    bound = np.where(np.isnan(bound), np.inf, bound)
    if steel.s.kind in ("I", "channel"):
        longest = np.zeros(m)
        np.maximum.at(longest, block.of_stretch, block.lengths.L_T)
        stress = warping_stress(steel.s, steel.EG, longest[of_piece, None], each.T) / (code.usual * steel.f_y)
        worth = bound[:, code.torsion] > WARPS
        np.maximum.at(out.warps, of_piece, np.where(worth, stress, 0.0).max(axis=1, initial=0.0))
    _search(bound, of_piece, m, at_places)
    L, on = block.lengths, block.of_stretch
    demand = on_stretches(rows, each if rows is pieces else extremes_of(rows), L)
    bound, lost, none = code.member_bound(block.at(on), L, demand)

    def at_stretches(row: Ints, result: Ints) -> Floats:
        """Some stretches under one result each."""
        used = code.member(block.at(on[row]), L.under(row, result), demand.under(row, result), say)[0][:, :, 0]
        used = np.nan_to_num(used, nan=0.0)
        under = np.repeat(result[:, None], used.shape[1], axis=1)
        x = np.repeat((L.x0 + L.x1)[row, None] / 2, used.shape[1], axis=1)
        _keep(out, used, on[row], x, under, code.of_section, row)
        return used

    # Where a check is lost it is so under the bound as well.
    _search(np.nan_to_num(bound, nan=0.0), on, m, at_stretches)
    np.logical_or.at(out.class_4, on, lost)
    np.logical_or.at(out.no_rule, on, none & ~L.free)
    np.logical_or.at(out.free, on, none & L.free)
    return out


PAIRS = 20_000
"""Pieces under one result each that are looked at together."""


def _search(bound: Floats, owner: Ints, count: int, look: Callable[[Ints, Ints], Floats]) -> None:
    """Looks at rows (n,) under results where their bound (n, checks, results) is above what was found of their owners;
    at those of the largest bound first."""
    n, checks, results = bound.shape
    if not n or not results:
        return
    best = np.zeros((count, checks))
    asked = np.zeros((n, results), bool)

    def take(row: Ints, result: Ints) -> None:
        for i in range(0, len(row), PAIRS):
            some = row[i : i + PAIRS]
            found = look(some, result[i : i + PAIRS])
            np.maximum.at(best, owner[some], found)
        asked[row, result] = True

    top = bound.argmax(axis=2)
    value = np.take_along_axis(bound, top[:, :, None], 2)[:, :, 0]
    first: set[tuple[int, int]] = set()
    for c in range(checks):
        order = np.lexsort((-np.arange(n), value[:, c]))
        row = np.full(count, -1, np.intp)
        row[owner[order]] = order
        row = row[row >= 0]
        first |= set(zip(row.tolist(), top[row, c].tolist(), strict=True))
    take(*np.array(sorted(first), np.intp).T)
    left = (bound > best[owner][:, :, None] * (1 + 1e-9)).any(axis=1) & ~asked
    take(*np.nonzero(left))


def _keep(
    out: Use, used: Floats, owner: Ints, x: Floats, result: Ints, first: int, stretch: Ints | None
) -> None:  # fmt: skip
    """Notes what is more than was found before: rows of owners with checks, their places x [m] and results, each
    (n, checks)."""
    rows = np.arange(len(owner))
    for k in range(used.shape[1]):
        value = np.minimum(used[:, k], MOST_USED)
        order = np.lexsort((-rows, value))  # the first row of equal ones comes last
        best = np.full(len(out.use), -1, np.intp)
        best[owner[order]] = order
        there = np.flatnonzero(best >= 0)
        own = best[there]
        better = value[own] > out.use[there, first + k]
        there, own = there[better], own[better]
        out.use[there, first + k], out.result[there, first + k] = value[own], result[own, k]
        out.x[there, first + k] = x[own, k]
        if stretch is not None:
            out.stretch[there, first + k] = stretch[own]
