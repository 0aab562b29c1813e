"""Envelopes: the least and greatest of each force in each member, exactly, with what goes with them.

The extremes of a polynomial lie at its ends and where its slope vanishes, so no station is missed. Members are
worked through in blocks, so that memory is bounded by the block and not by the table.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.positions import Picks
from ..analysis.pieces import FORCES, build_pieces
from ..analysis.polynomials import CUBIC, bounds_of, horner, summits, turning_points
from ..analysis.solution import Pieces, Solution
from ..model.results import Results
from .along import absent_forces
from .moving import moving_of
from .moving_envelope import extremes_along
from .patterns import Patterns, patterns, sign_intervals
from .table import Column, Table, how_column, member_forces

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
BLOCK = 4_000_000
"""Polynomial coefficients held at a time."""
NEAR = 1e-9
"""Results that come so near to the extreme are followed."""
TIE = 1e-10
"""Values closer than this share of the member's largest are equal: the first place and combination are told."""


@dataclass(frozen=True)
class Extremes:
    """For each member, force and (least, greatest): (members, 6, 2) position [m], result, and six forces (..., 6);
    there (..., parts): which of the parts that may be absent are there; picks: positions of every moving case, in the
    order of the flat table."""

    x: Floats
    result: Ints
    forces: Floats
    there: NDArray[np.bool_]
    picks: tuple[Picks, ...] = ()

    def made_by(self, solution: Solution, results: Results, m: Ints, f: Ints, side: Ints) -> list[str]:
        """What makes rows (n,) of the table: the names of combinations with their patterns and positions."""
        free = patterns(solution, results)
        result, there = self.result[m, f, side], self.there[m, f, side]
        if not self.picks:
            return free.names_of(result, there)
        row = np.ravel_multi_index((m, f, side), self.result.shape)
        picks = [p.rows(row) for p in self.picks]
        each = [free.pattern(r, t) for r, t in zip(result.tolist(), there, strict=True)]
        return moving_of(solution, results).names(solution, picks, each)


def extremes(solution: Solution, results: Results, members: Ints) -> Extremes:
    """Exact extremes of N Vy Vz T My Mz over the named cases and combinations, with the other five forces."""
    if moving_of(solution, results):
        found = extremes_along(solution, results, members, np.eye(6))
        return Extremes(found.x, found.result, found.forces, found.there, tuple(found.picks))
    weights = solution.weights(results)
    pieces_each = 2 + len(solution.terms.a) / max(len(solution.mesh.member), 1)
    coefficients = 24 if solution.second_order_from is None else 168
    block = max(1, int(BLOCK / (coefficients * pieces_each * max(len(results), 1))))
    free = patterns(solution, results)
    if free.case:
        weights, block = np.hstack([free.base, free.parts]), max(1, block // (3 * len(free.case) + 1))
    parts = []
    for i in range(0, len(members), block):
        pieces = build_pieces(solution, members[i : i + block], weights)
        parts.append(_block_of_patterns(pieces, free) if free.case else _block(pieces))
    if not parts:
        return Extremes(np.zeros((0, 6, 2)), np.zeros((0, 6, 2), np.intp), np.zeros((0, 6, 2, 6)),
                        np.zeros((0, 6, 2, len(free.case)), bool))  # fmt: skip
    x, result, forces, there = (np.concatenate([getattr(p, f) for p in parts]) for f in EXTREMES)
    return Extremes(x, result, forces, there)


EXTREMES = ("x", "result", "forces", "there")


def _sizes(values: list[Floats], new_member: Ints) -> Floats:
    """The largest force of each member for N Vy Vz, its largest moment for T My Mz: (members, 6)."""
    largest = np.max([np.abs(v).max(axis=2) for v in values], axis=0)
    largest = np.maximum.reduceat(largest, new_member, axis=0)
    return np.repeat(np.column_stack([largest[:, :3].max(axis=1), largest[:, 3:].max(axis=1)]), 3, axis=1)


def _block(pieces: Pieces) -> Extremes:
    c = pieces.force
    new_member, count = members_of(pieces)
    places, values = candidates(c, pieces.length, new_member)
    close = np.repeat(TIE * _sizes(values, new_member), count, axis=0)
    sides = []
    for sign in (-1.0, 1.0):
        piece, t, r = search(pieces, places, [sign * v for v in values], close)
        coefficients = c[piece, :, :, r]
        forces = np.einsum("mfkp,mfp->mfk", coefficients, t[:, :, None] ** np.arange(c.shape[2]))
        sides.append((pieces.start[piece] + t, r, forces))
    x, result, at_once = (np.stack([sides[0][i], sides[1][i]], axis=2) for i in range(3))
    return Extremes(x, result, at_once, np.zeros((*result.shape, 0), bool))


def _block_of_patterns(pieces: Pieces, free: Patterns) -> Extremes:
    """Each piece is cut where a part that may be absent changes its sign; between, the pattern is known."""
    count_of, parts = free.base.shape[1], len(free.case)
    c = pieces.force
    base, own = c[:, :, :, :count_of], c[:, :, :, count_of:]
    cuts = sign_intervals(own, pieces.length)
    low, high = cuts[:, :, :-1], cuts[:, :, 1:]
    at_middle = np.stack(
        [horner(own, np.repeat(m[:, :, None], parts, 2)) for m in np.moveaxis((low + high) / 2, 2, 0)], 2
    )
    new_member, count = members_of(pieces)
    sides = []
    for sign in (-1.0, 1.0):
        # (pieces, forces, intervals, parts, results): which parts help; then a polynomial for each interval and result.
        there = sign * at_middle[..., None] * free.factor > 0
        chosen = np.einsum("pckd,pcsdn->pcksn", own, there * free.factor)
        whole = (base[:, :, :, None] + chosen).reshape(*c.shape[:3], -1)
        a, b = (np.repeat(v[:, :, :, None], count_of, 3).reshape(*v.shape[:2], -1) for v in (low, high))
        places = [a, b, *turning_points(whole, a, b)]
        values = [horner(whole, t) for t in places]
        close = np.repeat(TIE * _sizes(values, new_member), count, axis=0)
        piece, t, r = search(pieces, places, [sign * v for v in values], close)
        interval, result = np.divmod(r, count_of)
        component = np.arange(6)
        present = there[piece, component, interval, :, result]
        share = np.where(present, free.factor[:, result].transpose(1, 2, 0), 0.0)
        powers = t[:, :, None] ** np.arange(c.shape[2])
        forces = np.einsum("mfgk,mfk->mfg", base[piece, :, :, result], powers)
        forces += np.einsum("mfgkd,mfd,mfk->mfg", own[piece], share, powers)
        sides.append((pieces.start[piece] + t, result, forces, present))
    x, result, at_once, present = (np.stack([sides[0][i], sides[1][i]], axis=2) for i in range(4))
    return Extremes(x, result, at_once, present)


def members_of(pieces: Pieces) -> tuple[Ints, Ints]:
    """The first piece of each member, and how many pieces it has."""
    first = np.flatnonzero(np.append(True, pieces.member[1:] != pieces.member[:-1]))
    return first, np.diff(np.append(first, len(pieces.member)))


def candidates(c: Floats, length: Floats, first: Ints | None = None) -> tuple[list[Floats], list[Floats]]:
    """Where polynomials (pieces, components, powers, results) may be extreme, and their values there. `first`: the
    first piece of each member, of whose pieces and results but the extremes are asked for: those of a higher degree
    are then followed only where they may be that."""
    whole = np.broadcast_to(length[:, None, None], c[:, :, 0].shape)
    none = np.zeros_like(whole)
    if first is None or c.shape[2] <= CUBIC:
        places = [none, whole, *turning_points(c, none, whole)]
        return places, [horner(c, t) for t in places]
    places = [none, whole]
    values = [horner(c, t) for t in places]
    looked = [*values, *(horner(c, share * whole) for share in (0.25, 0.5, 0.75))]
    bounds = bounds_of(c, whole)
    count = np.diff(np.append(first, len(c)))
    for sign in (1.0, -1.0):
        top = np.max([(sign * v).max(axis=2) for v in looked], axis=0)
        lead = np.repeat(np.maximum.reduceat(top, first, axis=0), count, axis=0)
        may = (sign * bounds).max(axis=2) > (lead - NEAR * np.abs(lead))[:, :, None]
        places.append(summits(c, whole, may, sign))
        values.append(horner(c, places[-1]))
    return places, values


def search(pieces: Pieces, places: list[Floats], values: list[Floats], close: Floats) -> tuple[Ints, Floats, Ints]:
    """The greatest of the values of each member and component: its piece, place on it, and result, the first of equal
    ones (closer than `close` (pieces, components))."""
    new_member, count = members_of(pieces)
    shape = values[0].shape[:2]
    best, result, at = np.full(shape, -np.inf), np.zeros(shape, np.intp), np.zeros(shape)
    for t, value in zip(places, values, strict=True):
        top = value.max(axis=2)
        r = (value >= (top - close)[:, :, None]).argmax(axis=2)
        better = top > best + close
        best = np.where(better, top, best)
        result = np.where(better, r, result)
        at = np.where(better, np.take_along_axis(t, r[:, :, None], 2)[:, :, 0], at)
    # The first piece of each member that reaches the member's best.
    of_member = np.maximum.reduceat(best, new_member, axis=0)
    reached = best >= np.repeat(of_member, count, axis=0) - close
    index = np.where(reached, np.arange(len(best))[:, None], len(best))
    piece = np.minimum.reduceat(index, new_member, axis=0)
    component = np.arange(shape[1])
    return piece, at[piece, component], result[piece, component]


def envelope(
    solution: Solution, results: Results, members: Ints, of: tuple[str, ...] = FORCES, found: Extremes | None = None
) -> Table:
    """Least and greatest of each force: member, of, extreme, x, case, and the six forces there and then. `found`: the
    extremes, where they are known already."""
    found = found or extremes(solution, results, members)
    absent = absent_forces(solution, members)
    rows = [
        (m, FORCES.index(f), side)
        for m in range(len(members))
        for f in of
        if not absent[m, FORCES.index(f)]
        for side in (0, 1)
    ]
    m, f, side = np.array(rows, np.intp).reshape(-1, 3).T
    six_forces = np.where(absent[m], np.nan, found.forces[m, f, side])
    labels = np.array([solution.project.members[i].name for i in members], object)
    made_by = found.made_by(solution, results, m, f, side)
    return Table(
        "envelope",
        (
            Column("member", "text", labels[m]),
            Column("of", "text", np.array(FORCES, object)[f]),
            Column("extreme", "text", np.array(["min", "max"], object)[side]),
            Column("x", "length", found.x[m, f, side]),
            Column("case", "text", made_by),
            *member_forces(six_forces),
            how_column(results, solution.how(results), found.result[m, f, side]),
        ),
    )
