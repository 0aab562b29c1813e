"""Moving cases in results that are sums: of every answer by itself the worst of their positions.

A result of a combination is b + sum of f_k E_k, b what stands still and E_k the extreme over the positions of its k-th
moving case: the greatest where f_k drives the answer that way, else the least.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..actions.traffic.standings import called, in_words
from ..analysis.equations import build_equations
from ..analysis.moving.leg_peaks import AWAY
from ..analysis.moving.mover import Mover
from ..analysis.moving.places import Places
from ..analysis.moving.positions import Picks, Sweep, Worst
from ..analysis.moving.units import Put, Units
from ..analysis.solution import Solution
from ..model.cases import Case, Combination
from ..model.results import Result, Results
from ..model.traffic import Standing
from .patterns import Patterns, extreme_values, patterns

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def movers_of(solution: Solution) -> dict[str, Mover]:
    """Every traffic of a solved frame by its case; made once for a solution."""
    kept = solution.__dict__
    if "movers" not in kept:
        equations = solution.equations or build_equations(solution.project)
        kept["movers"] = {
            laid.traffic.case: Mover(laid, equations, number)
            for laid in solution.model.laid for number, traffic in enumerate(solution.model.project.traffic)
            if traffic.case == laid.traffic.case
        }  # fmt: skip
    found: dict[str, Mover] = kept["movers"]
    return found


Make = Callable[[Units], Places]
"""From the unit answers of a traffic to asked places."""


@dataclass(frozen=True)
class Looked:
    """Asked places of every moving case, their extremes, and the sweeps that found them; which (n,) of these for each
    place."""

    places: list[Places]
    worst: list[Worst]
    sweeps: list[list[Sweep]]
    which: Ints


@dataclass(frozen=True)
class Moving:
    """The moving cases of some results: their movers, and how much of each a result has (movers, results)."""

    cases: list[str]
    movers: list[Mover]
    factor: Floats

    def __bool__(self) -> bool:
        return bool(self.cases)

    def look(self, make: Make, groups: Sequence[tuple[Ints, Mapping[int, Floats]]] | None = None) -> Looked:
        """The extremes of each case at places; `groups`: rows of places, with those of them that are on loaded elements
        by member [m]; without, none is."""
        places = [make(m.units) for m in self.movers]
        if groups is None:
            found = [m.worst(p, m.whole) for m, p in zip(self.movers, places, strict=True)]
            return Looked(places, found, [[m.whole] for m in self.movers], np.zeros(len(places[0]), np.intp))
        order = np.argsort(np.concatenate([rows for rows, _ in groups]), kind="stable")
        which = np.repeat(np.arange(len(groups)), [len(rows) for rows, _ in groups])[order]
        worst, sweeps = [], []
        for m, p in zip(self.movers, places, strict=True):
            own = [m.sweep(asked) if asked else m.whole for _, asked in groups]
            parts = [m.worst(p.take(rows), sweep) for (rows, _), sweep in zip(groups, own, strict=True)]
            worst.append(Worst.joined(parts).rows(order))
            sweeps.append(own)
        return Looked(places, worst, sweeps, which)

    @property
    def stepped(self) -> bool:
        """Whether some case goes step by step."""
        return any(m.step for m in self.movers)

    @property
    def continuous(self) -> Moving:
        """The same as if no case went step by step."""
        return replace(self, movers=[m.continuous for m in self.movers])

    def added(self, worst: Sequence[Worst]) -> Floats:
        """What positions add to the least and the greatest of results (n, 2, results)."""
        out = np.zeros((len(worst[0].value), 2, self.factor.shape[1]))
        for one, f in zip(worst, self.factor, strict=True):
            up, down = np.maximum(f, 0.0), np.minimum(f, 0.0)
            out[:, 0] += one.value[:, 0, None] * up + one.value[:, 1, None] * down
            out[:, 1] += one.value[:, 1, None] * up + one.value[:, 0, None] * down
        return out

    def picks(self, looked: Looked, row: Ints, side: Ints, result: Ints, told: bool = True) -> list[Picks]:
        """Where each moving case stands for the least (side 0) or greatest (1) of rows of places under results; what is
        `told` proves itself."""
        out = []
        for k, mover in enumerate(self.movers):
            own = np.where(self.factor[k, result] >= 0, side, 1 - side)
            found = mover.picks(looked.places[k], looked.worst[k], row, own, looked.sweeps[k], looked.which)
            if told:
                found = mover.proven(looked.places[k], looked.worst[k], row, own, found)
            idle = self.factor[k, result] == 0
            found.train[idle] = AWAY
            out.append(found)
        return out

    def puts(self, picks: Sequence[Picks]) -> list[Put]:
        """The loads of positions, a column each."""
        return [m.put(p) for m, p in zip(self.movers, picks, strict=True)]

    def at_once(self, picks: Sequence[Picks], result: Ints, components: Callable[[Units], Floats]) -> Floats:
        """Components (n, c) of rows, each under its own positions, times what its result (n,) has of them;
        `components`: of unit loads (n, c, k)."""
        out: Floats | float = 0.0
        for k, (mover, put) in enumerate(zip(self.movers, self.puts(picks), strict=True)):
            own = np.einsum("nck,kn->nc", components(mover.units), put.at_freedoms)
            out = out + self.factor[k, result][:, None] * own
        return np.asarray(out)

    def stands(self, picks: Sequence[Picks], i: int, result: Result) -> dict[str, Standing]:
        """The i-th of some positions of every case that moves in a result."""
        return {
            case: mover.standing(p, i) for case, mover, p in zip(self.cases, self.movers, picks, strict=True)
            if case in result.moving
        }  # fmt: skip

    def names(self, solution: Solution, picks: Sequence[Picks], patterns: Sequence[Result]) -> list[str]:
        """What the patterns of rows are called with their positions; without them where loads in these do not prove
        to make the values."""
        return [
            stood(solution, r, self.stands(picks, i, r)).name
            if r.moving and all(p.sure[i] for p, case in zip(picks, self.cases, strict=True) if case in r.moving)
            else r.name
            for i, r in enumerate(patterns)
        ]


def moving_of(solution: Solution, results: Results) -> Moving:
    """The moving cases of results; none where nothing in them moves."""
    names = list(dict.fromkeys(name for r in results for name in r.moving))
    known = movers_of(solution) if names else {}
    names = [n for n in names if n in known]
    factor = np.zeros((len(names), len(results)))
    for j, r in enumerate(results):
        own = dict(r.factors)
        for k, name in enumerate(names):
            factor[k, j] = own[name] if name in r.moving else 0.0
    return Moving(names, [known[n] for n in names], factor)


def stood(solution: Solution, result: Result, standings: Mapping[str, Standing]) -> Result:
    """A result with its moving cases in positions: by name, and in words."""
    traffic = {t.case: t for t in solution.model.project.traffic}
    at = {case: called(traffic[case], s.spots) for case, s in standings.items()}
    if isinstance(result.of, Combination):
        return replace(result, index=-1, of=result.of.standing(at))
    (name,) = at.values()
    title = in_words(traffic[result.of.name], standings[result.of.name])
    case: Case = replace(result.of, name=name, title=title, moves=False, stands=True)
    return replace(result, index=-1, of=case)


@dataclass(frozen=True)
class Fixed:
    """Of rows at fixed places the least and greatest (n, 2) over results, patterns and positions: the value, the
    result, which parts that may be absent are there; and the positions (rows * 2) of every moving case."""

    value: Floats
    result: Ints
    there: NDArray[np.bool_]
    picks: list[Picks]
    free: Patterns
    moving: Moving

    def at_once(
        self, solution: Solution, results: Results, table: Callable[[Solution | Units], Floats], row: Ints, side: Ints,
        place: Ints | None = None,
    ) -> Floats:  # fmt: skip
        """Other components (n, c) of rows there and then; `table`: of columns (rows, c, columns), of which those at
        `place`, where they are others, count."""
        result = self.result[row, side]
        at = row if place is None else place
        weights = np.stack([
            self.free.weights_of(r, t) for r, t in zip(result.tolist(), self.there[row, side], strict=True)
        ])  # fmt: skip
        out = np.einsum("nck,nk->nc", table(solution)[at], weights)
        if self.picks:
            picks = [p.rows(2 * row + side) for p in self.picks]
            out = out + self.moving.at_once(picks, result, lambda units: table(units)[at])
        return np.asarray(out)

    def names(self, solution: Solution, results: Results, row: Ints, side: Ints) -> list[str]:
        """What makes the rows' extremes."""
        result, there = self.result[row, side], self.there[row, side]
        if not self.picks:
            return self.free.names_of(result, there)
        each = [self.free.pattern(r, t) for r, t in zip(result.tolist(), there, strict=True)]
        return self.moving.names(solution, [p.rows(2 * row + side) for p in self.picks], each)


def fixed_extremes(
    solution: Solution, results: Results, columns: Floats, make: Make, tie: Floats | float = 0.0
) -> Fixed:
    """Over results, their patterns and positions, of rows (n, columns) of the solved columns; `make`: the same rows of
    traffic. The first of results closer than `tie` (n,) is told."""
    free, moving = patterns(solution, results), moving_of(solution, results)
    looked = moving.look(make) if moving else None
    added = moving.added(looked.worst) if looked is not None else 0.0
    values, theres = [], []
    for side, sign in enumerate((-1.0, 1.0)):
        value, there = extreme_values(free, columns, sign)
        values.append(sign * (value + (added[:, side] if looked is not None else 0.0)))  # type: ignore[index]
        theres.append(there)
    worse = np.stack(values, axis=1)
    best = worse.max(axis=2, keepdims=True)
    result = (worse >= best - np.reshape(tie, (-1, 1, 1))).argmax(axis=2)
    n = len(columns)
    each, sides = np.repeat(np.arange(n), 2), np.tile([0, 1], n)
    there = np.stack([theres[0], theres[1]], axis=1)[each, sides, :, result.ravel()].reshape(n, 2, -1)
    value = worse[each, sides, result.ravel()].reshape(n, 2) * np.array([-1.0, 1.0])
    picks = moving.picks(looked, each, sides, result.ravel()) if looked is not None else []
    return Fixed(value, result, there, picks, free, moving)
