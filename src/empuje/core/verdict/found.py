"""Extremes of what limits are about, place by place, over results, patterns of them, and positions of what moves.

Three problems, over all results, patterns and positions p:

    a sum                max s(p)                  by `fixed_extremes`
    a length             max |v(p)|                = max over directions n of max n.v(p). Of two parts it is exact, by
                                                   bounds between directions; of three the best of a fan of directions
                                                   is improved by n = v/|v|, which can only be longer
    a ratio              max |v(p)| / s(p)         r where max (|v(p)| - r s(p)) = 0, by r <- |v|/s at the place of the
                                                   maximum (Dinkelbach, Management Science 13, 1967)

A ratio has no value where the sum below it is zero or negative.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.places import plain
from ..analysis.moving.units import Units
from ..analysis.solution import Columns, Solution
from ..answers.moving import Fixed, fixed_extremes
from ..answers.table import Kind, said
from ..answers.why import Sum
from ..model.results import Results

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Rows = Callable[[Columns | Units], Floats]
"""From solved columns, or unit answers of a traffic, to rows of them (..., columns)."""
Made = Callable[[Ints, Ints], list[tuple[str, str]]]
"""What makes some rows' least (side 0) or greatest (1): the result's name, and how it came about."""
Sums = Callable[[int, int, Solution, Floats], list[Sum]]
"""From a row, a side, and the weights (columns,) of what makes its extreme to sums that explain it."""
TIE = 1e-10
NOTHING = 1e-9
TURNS, RATIOS = 6, 30
FAN = 16


@dataclass(frozen=True)
class Found:
    """Least and greatest (n, 2) at places, where along a member x (n, 2) [m] or NaN, and what makes them; the span or
    height (n,) [m] of each or NaN. `lost`: places or results without an answer, and why. `notes`: what to say of how
    they were found. `sums`: what adds up to a value; none where nothing does."""

    place: Sequence[str]
    value: Floats
    made: Made
    x: Floats = field(default_factory=lambda: np.zeros((0, 2)))
    span: Floats = field(default_factory=lambda: np.zeros(0))
    lost: tuple[tuple[str, str], ...] = ()
    notes: tuple[str, ...] = ()
    sums: Sums = lambda row, side, solution, weights: []


def sum_along(of: str, kind: Kind, place: str, rows: Rows, row: int, solution: Solution, weights: Floats) -> Sum:
    """The length of a vector, rows (n, parts, columns), as the sum of its parts along what it is under some weights; of
    one part with its sign."""
    vector = rows(solution)[row] @ weights
    size = float(np.linalg.norm(vector))
    toward = np.ones(1) if len(vector) == 1 else vector / size if size else np.eye(len(vector))[0]
    return Sum(of, kind, place, lambda table, by: np.asarray(toward @ (rows(table)[row] @ by)))


def nothing(lost: Sequence[tuple[str, str]], notes: Sequence[str] = ()) -> Found:
    """No place, and why."""
    return Found((), np.zeros((0, 2)), lambda row, side: [], lost=tuple(lost), notes=tuple(notes))


def named(solution: Solution, results: Results, found: Fixed) -> Made:
    """What makes extremes at fixed places."""
    how = [said(h, r.second_order_at) for r, h in zip(results, solution.how(results), strict=True)]

    def made(row: Ints, side: Ints) -> list[tuple[str, str]]:
        names = found.names(solution, results, row, side)
        return [(n, how[r]) for n, r in zip(names, found.result[row, side].tolist(), strict=True)]

    return made


def sums(solution: Solution, results: Results, rows: Rows) -> Fixed:
    """The extremes of sums: rows (n, columns)."""
    columns = rows(solution)
    size = np.abs(columns @ np.abs(solution.weights(results, still=True))).max(axis=1, initial=0.0)
    return fixed_extremes(solution, results, columns, lambda units: plain(rows(units)), TIE * size)


def lengths(solution: Solution, results: Results, rows: Rows) -> tuple[Floats, Made]:
    """The greatest length of vectors: rows (n, parts, columns), two parts or three; 0 is the least."""
    parts = rows(solution).shape[1]
    fan = _leading(solution, results, rows)[:, None] if parts == 2 else _strewn(FAN)
    best = _longest(solution, results, rows, None, fan)
    size = np.linalg.norm(best.vector, axis=1)
    return np.column_stack([0 * size, size]), best.made(solution, results)


def ratios(solution: Solution, results: Results, rows: Rows, bottom: Rows) -> tuple[Floats, Made]:
    """The greatest ratio of the length of vectors, rows (n, parts, columns) of one part or two, to sums (n, columns);
    infinite where the sum is not above nothing and the vector is something. 0 is the least."""
    below = sums(solution, results, bottom)
    n, parts = rows(solution).shape[:2]
    every, least = np.arange(n), np.zeros(n, np.intp)
    there = _at(solution, results, below, every, least, rows, every)
    largest = max(float(np.abs(below.value).max(initial=0.0)), float(np.linalg.norm(there, axis=1).max(initial=0.0)))
    bare = (below.value[:, 0] <= NOTHING * largest) & (np.linalg.norm(there, axis=1) > NOTHING * largest)
    lifted = bare | (below.value[:, 0] < -NOTHING * largest)
    loose = np.zeros(n, bool)
    fan = np.array([[1.0], [-1.0]]) if parts == 1 else _circle(2 * FAN, 1.0)
    r = np.zeros(n)
    for _ in range(RATIOS):
        best = _longest(solution, results, rows, lambda table: r[:, None] * bottom(table), fan)  # noqa: B023
        length = np.linalg.norm(best.vector, axis=1)
        under = _at(solution, results, best.found, best.row, best.side, lambda t: bottom(t)[:, None], every)[:, 0]
        # The greater r, the more what hardly presses leads: another result than the least may press nothing either.
        loose |= (under <= NOTHING * largest) & (length > NOTHING * largest)
        presses = (under > NOTHING * largest) & ~lifted & ~loose
        higher = np.where(presses, length / np.where(presses, under, 1.0), 0.0)
        grown = higher > r * (1 + 1e-12)
        r = np.where(grown, higher, r)
        if not grown.any():
            break
    made, made_below = best.made(solution, results), named(solution, results, below)

    def made_by(row: Ints, side: Ints) -> list[tuple[str, str]]:
        each = zip(made(row, side), made_below(row, 0 * side), lifted[row].tolist(), strict=True)
        return [pulling if lost else own for own, pulling, lost in each]

    return np.column_stack([np.zeros(n), np.where(lifted | loose, np.inf, r)]), made_by


@dataclass(frozen=True)
class _Longest:
    """Vectors (n, parts), and the row and side of extremes where they are so."""

    vector: Floats
    found: Fixed
    row: Ints
    side: Ints

    def made(self, solution: Solution, results: Results) -> Made:
        """What makes them."""
        own = named(solution, results, self.found)
        return lambda asked, _: own(self.row[asked], self.side[asked])


def _longest(solution: Solution, results: Results, rows: Rows, less: Rows | None, fan: Floats) -> _Longest:
    """Where `length - less` of vectors is greatest; the opposites of directions are only looked at without `less`."""
    n = len(rows(solution))
    every = np.arange(n)
    turn = fan if fan.ndim == 3 else np.broadcast_to(fan, (n, *fan.shape))
    best = np.full(n, -np.inf)
    for _ in range(TURNS):

        def toward(table: Columns | Units, turn: Floats = turn) -> Floats:
            out = np.einsum("ndp,npc->ndc", turn, rows(table))
            out = out if less is None else out - less(table)[:, None]
            return np.asarray(out.reshape(-1, out.shape[2]))

        found = sums(solution, results, toward)
        value = found.value * np.array([-1.0, 1.0]) if less is None else found.value[:, 1:]
        sides = value.shape[1]
        flat = value.reshape(n, -1)
        pick = flat.argmax(axis=1)
        row, side = every * turn.shape[1] + pick // sides, pick % sides + (2 - sides)
        vector = _at(solution, results, found, row, side, rows, every)
        top = flat[every, pick]
        if (top <= best * (1 + 1e-12)).all():
            break
        # What is found stays where it is found, however long others go on.
        better = (top > best * (1 + 1e-12))[:, None]
        best = np.maximum(best, top)
        size = np.linalg.norm(vector, axis=1)[:, None]
        turn = np.where(better & (size > 0), vector / np.where(size > 0, size, 1.0), turn[:, 0])[:, None]
    return _Longest(vector, found, row, side)


def _leading(solution: Solution, results: Results, rows: Rows) -> Floats:
    """The directions (n, 2) along which sums of two parts are greatest, to a thousandth of a millionth.

    No vector reaches beyond the lines across two directions at their greatest sums, so that between them none is longer
    than to where these lines meet: what may hold more is cut in two.
    """
    n = len(rows(solution))
    parts = [_leading_of(solution, results, rows, np.arange(i, min(i + ROWS, n))) for i in range(0, n, ROWS)]
    return np.concatenate(parts) if parts else np.zeros((0, 2))


HALVINGS, MOST_OPEN, ROWS = 24, 400, 64
"""So many times, and for a vector in so many places at once, directions are cut; of so many vectors together."""


def _leading_of(solution: Solution, results: Results, rows: Rows, chosen: Ints) -> Floats:
    """The same of some rows; what is cut of one does not hang on the others."""
    n = len(chosen)
    half = _circle(FAN, 0.5)

    def along(row: Ints, angle: Floats) -> Fixed:
        way = np.column_stack([np.cos(angle), np.sin(angle)])
        return sums(solution, results, lambda table: np.einsum("kp,kpc->kc", way, rows(table)[chosen[row]]))

    def around(table: Columns | Units) -> Floats:
        return np.asarray(np.einsum("dp,npc->ndc", half, rows(table)[chosen]).reshape(n * FAN, -1))

    fan = sums(solution, results, around)
    value = fan.value.reshape(n, FAN, 2)
    h = np.hstack([value[:, :, 1], -value[:, :, 0]])
    row, a = np.repeat(np.arange(n), 2 * FAN), np.tile(np.pi / FAN * np.arange(2 * FAN), n)
    ends, width = np.column_stack([h.ravel(), np.roll(h, -1, axis=1).ravel()]), np.pi / FAN
    best, angle = h.max(axis=1), np.pi / FAN * h.argmax(axis=1)
    for _ in range(HALVINGS):
        some = np.flatnonzero(_beyond(ends, width) > best[row] * (1 + 1e-9) + 1e-300)
        some = some[np.bincount(row[some], minlength=n)[row[some]] <= MOST_OPEN]
        if not len(some):
            break
        row, a, ends, width = row[some], a[some], ends[some], width / 2
        middle = along(row, a + width).value[:, 1]
        order = np.lexsort((-middle, row))
        first = order[np.unique(row[order], return_index=True)[1]]
        better = first[middle[first] > best[row[first]]]
        best[row[better]], angle[row[better]] = middle[better], a[better] + width
        row, a = np.repeat(row, 2), np.column_stack([a, a + width]).ravel()
        ends = np.column_stack([ends[:, 0], middle, middle, ends[:, 1]]).reshape(-1, 2)
    return np.column_stack([np.cos(angle), np.sin(angle)])


def _beyond(ends: Floats, width: float) -> Floats:
    """How far vectors between two directions so far apart [rad] may reach, by the greatest sums (n, 2) along both."""
    one, other = ends.T
    c, s = np.cos(width), np.sin(width)
    # Where both lines meet, along and across the first direction.
    across = (other - one * c) / s
    meet = np.hypot(one, across)
    between = (across >= 0) & (across * c <= one * s + 1e-300) & (one > 0)
    at_ends = np.maximum(np.minimum(one, other / c), np.minimum(other, one / c))
    return np.asarray(np.where(between, meet, at_ends))


def _at(solution: Solution, results: Results, found: Fixed, row: Ints, side: Ints, rows: Rows, place: Ints) -> Floats:
    """Vectors (n, parts) of some places, rows (places, parts, columns), at extremes."""

    def six(table: Columns | Units) -> Floats:
        own = rows(table)
        return np.concatenate([own, np.zeros((len(own), 6 - own.shape[1], own.shape[2]))], axis=1)

    parts = rows(solution).shape[1]
    return found.at_once(solution, results, six, row, side, place)[:, :parts]


def _circle(n: int, turns: float) -> Floats:
    angle = 2 * np.pi * turns * np.arange(n) / n
    return np.column_stack([np.cos(angle), np.sin(angle)])


def _strewn(n: int) -> Floats:
    """Directions of a half of space, evenly strewn by the golden angle."""
    height = (np.arange(n) + 0.5) / n
    turn, level = np.arange(n) * np.pi * (3 - np.sqrt(5)), np.sqrt(1 - height**2)
    return np.column_stack([level * np.cos(turn), level * np.sin(turn), height])
