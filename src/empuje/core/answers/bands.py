"""Bands: the least and greatest force at stations along members, and the results that make them.

The columns' values at the stations times the factors of the combinations, in blocks that bound the memory. Where a
force jumps at a station both sides count.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.positions import Picks
from ..analysis.pieces import FORCES, build_pieces
from ..analysis.solution import Pieces, Solution
from ..model.results import Results
from .along import absent_forces
from .moving import moving_of
from .moving_envelope import station_extremes
from .patterns import Patterns, patterns
from .table import MEMBER_KINDS, Column, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
BLOCK = 2_000_000
"""Values of results held at a time: so that memory is bounded by the block."""
SAME_PLACE = 1e-9


@dataclass(frozen=True)
class Bands:
    """Position (members, stations) [m]; least and greatest of N Vy Vz T My Mz (members, stations, 6, 2), and the number
    of the result that makes each; there (..., parts): which parts that may be absent are there then."""

    x: Floats
    value: Floats
    result: Ints
    there: NDArray[np.bool_]
    picks: tuple[Picks, ...] = ()

    def made_by(self, solution: Solution, results: Results, m: Ints, s: Ints, f: Ints, side: int) -> list[str]:
        """What makes rows (n,) of a side: the names of combinations with their patterns and positions."""
        free = patterns(solution, results)
        result, there = self.result[m, s, f, side], self.there[m, s, f, side]
        if not self.picks:
            return free.names_of(result, there)
        row = np.ravel_multi_index((m, s, f, np.full(len(m), side)), self.result.shape)
        each = [free.pattern(r, t) for r, t in zip(result.tolist(), there, strict=True)]
        return moving_of(solution, results).names(solution, [p.rows(row) for p in self.picks], each)


def bands(solution: Solution, results: Results, members: Ints, stations: int = 11, x: Floats | None = None) -> Bands:
    """At evenly spaced stations, ends included, or at positions x (members, stations) [m]. Raises ValueError for less
    than two stations."""
    if x is None and stations < 2:
        raise ValueError(f"stations = {stations}: two or more are needed, since the ends are among them")
    if x is None:
        x = solution.project.lengths[members, None] * np.linspace(0, 1, stations)
    if moving_of(solution, results):
        found = station_extremes(solution, results, members, x)
        return Bands(x, found[0], found[1], found[2], tuple(found[3]))
    weights = solution.weights(results)
    stations = x.shape[1]
    straight = solution.second_order_from is None or not weights[solution.second_order_from :].any()
    used = np.flatnonzero(weights.any(axis=1)) if straight else np.zeros(0, np.intp)
    # Without second order every result is a sum of columns; with it each has polynomials of its own.
    base = np.eye(len(weights))[:, used] if straight else weights
    factors = weights[used] if straight else None
    free = patterns(solution, results)
    if free.case:
        base, factors = np.hstack([free.base, free.parts]), None
    block = max(1, BLOCK // (6 * stations * max(len(results), base.shape[1])))
    blocks = []
    for i in range(0, len(members), block):
        some = slice(i, i + block)
        at, owner = station_values(build_pieces(solution, members[some], base), x[some])
        rows = at.reshape(len(owner) * 6, -1)
        parts = rows[:, len(results) :] if free.case else rows[:, :0]
        least, most, which = _of_patterns(rows, free) if free.case else _extremes(rows, factors)
        row = _furthest(least.reshape(-1, 6), most.reshape(-1, 6), owner)
        side = np.array([0, 1])
        result = which[side, row]
        there = np.array([-1.0, 1.0])[:, None] * parts[row] * free.factor.T[result] > 0
        blocks.append((np.stack([least, most])[side, row], result, there))
    shape = (len(members), stations, 6, 2)
    value, result, there = (np.concatenate(part) for part in zip(*blocks, strict=True))
    return Bands(x, value.reshape(shape), result.reshape(shape), there.reshape(*shape, -1 if free.case else 0))


def _of_patterns(columns: Floats, free: Patterns) -> tuple[Floats, Floats, Ints]:
    """As _extremes, over all patterns; the columns are those of the bases, then of the parts."""
    count = free.base.shape[1]
    low, high = columns[:, :count].copy(), columns[:, :count].copy()
    for i, factor in enumerate(free.factor):
        share = columns[:, count + i, None] * factor
        low += np.minimum(share, 0.0)
        high += np.maximum(share, 0.0)
    row = np.arange(len(columns))
    worst = np.stack([low.argmin(axis=1), high.argmax(axis=1)])
    return low[row, worst[0]], high[row, worst[1]], worst


def station_values(pieces: Pieces, x: Floats) -> tuple[Floats, Ints]:
    """Forces of all columns at each member's stations x (members, stations): (rows, 6, columns), and the station each
    row is of; two rows where pieces meet."""
    stations = x.shape[1]
    powers = pieces.force.shape[2]
    new = np.append(True, pieces.member[1:] != pieces.member[:-1])
    rank = np.cumsum(new) - 1
    t = x[rank] - pieces.start[:, None]
    there = (t >= -SAME_PLACE) & (t <= pieces.length[:, None] + SAME_PLACE)
    t = np.clip(t, 0.0, pieces.length[:, None])
    columns = pieces.force.shape[3]
    by_power = pieces.force.transpose(0, 2, 1, 3).reshape(len(t), powers, 6 * columns)
    values = (t[:, :, None] ** np.arange(powers)) @ by_power
    piece, station = np.nonzero(there)
    whole = values.reshape(-1, 6, columns) if there.all() else values[piece, station].reshape(-1, 6, columns)
    return whole, rank[piece] * stations + station


def _extremes(columns: Floats, factors: Floats | None) -> tuple[Floats, Floats, Ints]:
    """Least and greatest of each row's results, and which they are (2, rows)."""
    results = columns if factors is None else columns @ factors
    row = np.arange(len(results))
    low, high = results.argmin(axis=1), results.argmax(axis=1)
    return results[row, low], results[row, high], np.stack([low, high])


def _furthest(least: Floats, most: Floats, owner: Ints) -> Ints:
    """Of the rows (rows, 6) at each station, of which there may be two, those that reach further: the place in the
    flat tables for (stations * 6, least and greatest)."""
    order = np.argsort(owner, kind="stable")
    first = np.append(True, np.diff(owner[order]) != 0)
    one, other = order[first], order[~first]
    row = np.repeat(one[:, None, None], 6, axis=1).repeat(2, axis=2)
    at, component = owner[other], np.arange(6)
    for side, (value, further) in enumerate(((least, np.less), (most, np.greater))):
        better = further(value[other], value[row[at, :, side], component])
        row[at, :, side] = np.where(better, other[:, None], row[at, :, side])
    return (6 * row + component[:, None]).reshape(-1, 2)


def band_table(solution: Solution, results: Results, members: Ints, of: tuple[str, ...], stations: int) -> Table:
    """Station by station: member, of, x, the least value and what makes it, the greatest and what makes it."""
    found = bands(solution, results, members, stations)
    absent = absent_forces(solution, members)
    kinds = dict(MEMBER_KINDS)
    rows = [(m, FORCES.index(f)) for m in range(len(members)) for f in of if not absent[m, FORCES.index(f)]]
    m, f = np.repeat(np.array(rows, np.intp).reshape(-1, 2), stations, axis=0).T
    s = np.tile(np.arange(stations), len(rows))
    labels = np.array([solution.project.members[i].name for i in members], object)
    is_force = np.array([kinds[c] == "force" for c in FORCES])[f]
    columns = [
        Column("member", "text", labels[m]), Column("of", "text", np.array(FORCES, object)[f]),
        Column("x", "length", found.x[m, s]),
    ]  # fmt: skip
    for side, word in enumerate(("min", "max")):
        v = found.value[m, s, f, side]
        if is_force.any():
            columns.append(Column(f"{word} force", "force", np.where(is_force, v, np.nan)))
        if not is_force.all():
            columns.append(Column(f"{word} moment", "moment", np.where(is_force, np.nan, v)))
        made_by = found.made_by(solution, results, m, s, f, side)
        columns.append(Column(f"{word} case", "text", made_by))
    return Table("bands", tuple(columns))
