"""Live load in patterns, without listing them: which cases of a combination may be absent, and what is worst.

In a linear model a result of a combination is b + sum of f_i r_i over its cases that may be absent. Its greatest value
over all 2^n patterns is b + sum of max(0, f_i r_i), its least b + sum of min(0, f_i r_i). Along a member the pattern
changes where an r_i changes its sign: between those places it stays, and the extreme is that of one polynomial.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise, product

import numpy as np
from numpy.typing import NDArray

from ..analysis.polynomials import horner, turning_points
from ..analysis.solution import Solution
from ..model.results import Result, Results
from ..resolved import Resolved

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
HALVINGS = 60
MOST = 20_000
"""Patterns listed one by one."""


class TooMany(ValueError):
    """A combination has more patterns than can be listed."""


@dataclass(frozen=True)
class Patterns:
    """base (columns, results): what is always there; parts (columns, n): unit parts that may be absent;
    factor (n, results): how much of each a result may have; case (n,): the case each part is of; results (results,)."""

    base: Floats
    parts: Floats
    factor: Floats
    case: list[str]
    results: Results

    def pattern(self, result: int, there: Bools) -> Result:
        """The pattern of a result with the parts that are `there` (n,)."""
        parts = zip(self.case, there.tolist(), self.factor[:, result].tolist(), strict=True)
        return self.results[result].pattern([c for c, present, f in parts if f and not present])

    def names_of(self, result: Ints, there: Bools) -> list[str]:
        """What the patterns of many (rows,) are called, with their parts (rows, n): U2+A+B without B is U2+A."""
        if not self.case:
            return [self.results[r].name for r in result.tolist()]
        return [self.pattern(r, row).name for r, row in zip(result.tolist(), there, strict=True)]

    def weights_of(self, result: int, there: Bools) -> Floats:
        """The columns' shares (columns,) in a pattern of a result."""
        return self.base[:, result] + self.parts @ (self.factor[:, result] * there)


def patterns(solution: Solution, results: Results) -> Patterns:
    """The patterns of these results, less what moves in them; without parts where none of their cases may be absent."""
    model, base = solution.model, solution.weights(results, still=True)
    found: dict[tuple[str, bytes], int] = {}
    parts: list[Floats] = []
    entries: list[tuple[int, int, float]] = []
    for k, result in enumerate(results):
        if not result.free:
            continue
        factors = dict(result.factors)
        for case in result.free:
            unit = _part(model, result, case, len(base)) / factors[case]
            key = case, np.round(unit, 12).tobytes()
            if key not in found:
                found[key] = len(parts)
                parts.append(unit)
            entries.append((found[key], k, factors[case]))
    factor = np.zeros((len(parts), len(results)))
    for i, k, f in entries:
        factor[i, k] = f
    stacked = np.array(parts).reshape(-1, len(base)).T
    return Patterns(base - stacked @ factor, stacked, factor, [case for case, _ in found], results)


def _part(model: Resolved, result: Result, case: str, columns: int) -> Floats:
    """What the case brings to the columns: itself, and its share of cases of notional loads."""
    project, combination = model.project, result.combination
    assert combination is not None
    factors = dict(result.factors)
    out = np.zeros(columns)
    index = project.case_names.index(case)
    out[index] = factors[case]
    for k, (own, of) in enumerate(project.notional_pairs):
        if of == index:
            out[len(project.cases) + k] = factors[case] * factors.get(project.case_names[own], 0.0)
    for k, reduced in enumerate(model.reduction.cases):
        if reduced == index and model.reduces(combination, k):
            out[model.reductions.start + k] = factors[case]
    return out


def extreme_values(p: Patterns, columns: Floats, sign: float) -> tuple[Floats, Bools]:
    """The greatest (sign 1) or least (-1) of rows of columns' values (..., columns) over all patterns of each result:
    (..., results); and which parts are then there (..., parts, results)."""
    share = (columns @ p.parts)[..., None] * p.factor
    there = sign * share > 0
    return columns @ p.base + np.where(there, share, 0.0).sum(axis=-2), there


def sign_intervals(c: Floats, length: Floats) -> Floats:
    """Places (n, components, k) in order, ends included, between which none of the cubics c (n, components, 4, parts)
    changes its sign."""
    c = c[:, :, :4]  # beside results of second order they stand in a wider table
    n, components, _, parts = c.shape
    whole = np.broadcast_to(length[:, None, None], (n, components, parts))
    steps = np.sort(np.stack([np.zeros_like(whole), *turning_points(c, np.zeros_like(whole), whole), whole]), axis=0)
    found = [np.zeros((n, components, 1)), np.broadcast_to(length[:, None, None], (n, components, 1))]
    for low, high in pairwise(steps):
        at_low, at_high = horner(c, low), horner(c, high)
        crosses = at_low * at_high < 0
        rises = at_high > at_low
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            beyond = (horner(c, middle) > 0) == rises
            low, high = np.where(beyond, low, middle), np.where(beyond, middle, high)
        found.append(np.where(crosses, (low + high) / 2, 0.0))
    return np.sort(np.concatenate(found, axis=2), axis=2)


def listed(solution: Solution, results: Results) -> tuple[list[Result], Floats, list[int]]:
    """Every pattern one by one, the columns' shares (columns, patterns), and the place of the result it is of.

    Raises TooMany, and ValueError for results that move.
    """
    solution.weights(results)
    free = patterns(solution, results)
    out: list[tuple[Result, Floats, int]] = []
    for r, result in enumerate(results):
        own = np.flatnonzero(free.factor[:, r])
        if len(out) + 2 ** len(own) > MOST:
            raise TooMany(f"{result.name} has 2^{len(own)} patterns")
        for bits in product((True, False), repeat=len(own)):
            there = np.zeros(len(free.case), bool)
            there[own] = bits
            out.append((free.pattern(r, there), free.weights_of(r, there), r))
    found, weights, of = zip(*out, strict=True)
    return list(found), np.column_stack(weights), list(of)


def as_a_frame(solution: Solution, results: Results) -> tuple[Results, Floats]:
    """Every pattern of results one by one, and the columns' shares (columns, patterns) with all members under the same
    live loads, which are not reduced: what the frame as a whole buckles under. Raises as `listed`.
    """
    if not any(r.free for r in results):
        return results, solution.weights(results, reduced=False)
    found, mix, _ = listed(solution, results)
    mix[solution.reductions] = 0.0
    return found, mix
