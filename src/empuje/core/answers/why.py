"""Why a value is what it is: the combination that governs, what each case has in it, and which loads made that.

The shares add up to the value. Where parts act one way only, they are those of the linear state that the combination
ends in: the frame without the parts that have gone slack. What second order adds is a share of its own.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.places import at_nodes, at_supports
from ..analysis.pieces import build_pieces
from ..analysis.polynomials import value_at
from ..analysis.solution import Columns, Solution
from ..analysis.solve import Prepared
from ..analysis.unilateral import Unilateral, unilateral_forces, unilateral_parts
from ..model.findings import did_you_mean
from ..model.loads import Source, Step
from ..model.project import Project
from ..model.results import Result, Results
from ..model.traffic import Standing
from ..model.words import Sense
from ..resolved import Resolved
from .envelope import candidates
from .moving import Make, fixed_extremes
from .moving_envelope import extremes_along, station_extremes
from .patterns import listed, patterns
from .single_loads import source_by_source
from .table import FORCE_KINDS, MEMBER_KINDS, MOTION_KINDS, Column, Kind, Table, said

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
COMPONENTS: dict[str, dict[str, Kind]] = {
    "force": dict(MEMBER_KINDS),
    "reaction": dict(FORCE_KINDS),
    "displacement": dict(MOTION_KINDS),
}
DEFORMED = "deformed shape"
"""What axial forces add on it, and the slack that goes with it, as a share."""
SAME_PLACE = 1e-9
NOTHING = 1e-7
"""Loads below this part of the largest share are left out."""


@dataclass(frozen=True)
class Sum:
    """A value that adds up over columns, by name, of some place in words, of a member (-1: none) at x [m] along it:
    `value` gives it of solved columns in every result that weights (columns, results) form."""

    of: str
    kind: Kind
    place: str
    value: Callable[[Columns, Floats], Floats]
    member: int = -1
    x: float = np.nan


@dataclass(frozen=True)
class Target:
    """What is asked about: a force in a member, a reaction or a displacement of a node, component counting from 0; or
    a sum of these, of a member where its index is not below 0."""

    what: str
    index: int
    component: int
    sum: Sum | None = None

    @property
    def of(self) -> str:
        """Its component, as tables name it."""
        return self.sum.of if self.sum is not None else list(COMPONENTS[self.what])[self.component]

    @property
    def kind(self) -> Kind:
        """The kind of quantity it is."""
        return self.sum.kind if self.sum is not None else COMPONENTS[self.what][self.of]


def target_of(index: int, is_member: bool, of: str) -> Target:
    """A force of a member, or a reaction or displacement of a node. Raises LookupError for a word there is not."""
    kinds = ("force",) if is_member else ("reaction", "displacement")
    for what in kinds:
        if of in COMPONENTS[what]:
            return Target(what, index, list(COMPONENTS[what]).index(of))
    known = [name for what in kinds for name in COMPONENTS[what]]
    raise LookupError(f"{'a member' if is_member else 'a node'} has no {of}; {did_you_mean(of, known)}")


@dataclass(frozen=True)
class Share:
    """Part of a value: of a case with its factor, or of one source of loads in it."""

    case: str
    factor: float
    value: float
    source: Source | None = None


@dataclass(frozen=True)
class Why:
    """The results in order, worst first, each with its value and place [m]; and the shares of the worst."""

    target: Target
    results: list[Result]
    values: Floats
    x: Floats
    how: str
    shares: list[Share]
    loads: list[Share]
    project: Project

    @property
    def worst(self) -> Result:
        """The result that makes the largest value."""
        return self.results[0]


def worst_position(
    solution: Solution, results: Results, target: Target, sense: Sense, x: float | None
) -> tuple[Result, dict[str, Standing]]:
    """Of results with moving cases the one that makes most of the target, in its worst pattern, and where each of its
    cases stands then. `x` [m] asks at one place of a member."""
    sides = {Sense.LARGEST: (0, 1), Sense.MAX: (1,), Sense.MIN: (0,)}[sense]
    free = patterns(solution, results)
    if target.what == "force":
        member = np.array([target.index])
        if x is None:
            along = extremes_along(solution, results, member, np.eye(6)[[target.component]])
            value, result, there = (v.reshape(2, *v.shape[3:]) for v in (along.value, along.result, along.there))
            picks, moving, first = along.picks, along.moving, 0
        else:
            values, which, present, picks, moving = station_extremes(solution, results, member, np.array([[x]]))
            value, result, there = (v[0, 0, target.component] for v in (values, which, present))
            first = 2 * target.component
    else:
        columns, make = _fixed(solution, target)
        found = fixed_extremes(solution, results, columns, make)
        value, result, there = found.value[0], found.result[0], found.there[0]
        picks, moving, first = found.picks, found.moving, 0
    side = max(sides, key=lambda s: float(_size(np.asarray(value[[s]], float), sense)[0]))
    pattern = free.pattern(int(result[side]), there[side])
    return pattern, moving.stands(picks, first + side, pattern)


def _fixed(solution: Solution, target: Target) -> tuple[Floats, Make]:
    """The row of the solved columns of a reaction or displacement, and the same of traffic. Raises LookupError."""
    component = np.array([target.component])
    if target.what == "displacement":
        node = np.array([target.index])
        return solution.displacement[node, target.component], lambda units: at_nodes(units, node, component)
    place = np.flatnonzero(solution.support_node == target.index)
    if not len(place):
        raise LookupError(f"{solution.project.nodes[target.index].name} is no support")
    return solution.reaction[place, target.component], lambda units: at_supports(units, place, component)


def why(
    prepared: Prepared, solution: Solution, results: Results, target: Target, sense: Sense, x: float | None = None
) -> Why:
    """These results of a prepared frame's solution by what they make of the target.

    `x` [m] asks at one place of a member. Raises LookupError where the target has no value, TooMany for patterns.
    """
    solution, each = _worst_patterns(solution, results, target, sense, x)
    values, at = _each(solution, target, solution.weights(each), sense, x)
    order = np.argsort(-_size(values, sense), kind="stable")
    worst = each[order[0]]
    shares, loads = _shares(prepared, solution, worst, target, float(at[order[0]]))
    how = said(solution.how([worst])[0], worst.second_order_at)
    return Why(target, [each[i] for i in order], values[order], at[order], how, shares, loads, solution.model.project)


def _worst_patterns(
    solution: Solution, results: Results, target: Target, sense: Sense, x: float | None
) -> tuple[Solution, list[Result]]:
    """Each combination with cases that may be absent replaced by its worst pattern. Raises TooMany."""
    out: list[Result] = []
    for result in results:
        worst = result
        if result.free:
            found, weights, _ = listed(solution, [result])
            values, _ = _each(solution, target, weights, sense, x)
            solution, worst = solution.with_pattern(found[int(_size(values, sense).argmax())])
        out.append(worst)
    return solution, list({r.name: r for r in out}.values())


def _size(values: Floats, sense: Sense) -> Floats:
    """How far values go the way that is asked about."""
    return {Sense.LARGEST: np.abs(values), Sense.MAX: values, Sense.MIN: -values}[sense]


def _each(solution: Solution, target: Target, weights: Floats, sense: Sense, x: float | None) -> tuple[Floats, Floats]:
    """Own extremes of the target, and where, of the results that `weights` (columns, results) form."""
    results = weights.shape[1]
    if target.what != "force" or x is not None:
        at = x or 0.0
        two = _on_both_sides(solution, target, weights, at)
        return two[_larger(two)], np.full(results, at)
    pieces = build_pieces(solution, np.array([target.index]), weights)
    c = pieces.force[:, target.component : target.component + 1]
    tried, found = candidates(c, pieces.length)
    places, values = np.concatenate(tried)[:, 0], np.concatenate(found)[:, 0]
    size = _size(values, sense)
    # Of equal values the first place along the member is told.
    along = np.tile(pieces.start, len(tried))[:, None] + places
    close = size >= size.max(axis=0) - 1e-10 * np.abs(values).max(initial=0)
    best = np.where(close, along, np.inf).argmin(axis=0)
    each = np.arange(results)
    return values[best, each], along[best, each]


def value_of(solution: Columns, target: Target, weights: Floats, x: float, side: int = 1) -> Floats:
    """The target's value in every result that `weights` (columns, results) form; x [m] along a member, where a force
    jumps there on its left (-1) or right (1). Raises LookupError."""
    return np.asarray(_on_both_sides(solution, target, weights, x)[0 if side < 0 else 1])


def _on_both_sides(solution: Columns, target: Target, weights: Floats, x: float) -> Floats:
    """The target's values on the left and on the right of x [m] (2, results); where there are no sides the same."""
    if target.sum is not None:
        return np.stack([target.sum.value(solution, weights)] * 2)
    if target.what == "displacement":
        return np.stack([solution.displacement[target.index, target.component] @ weights] * 2)
    if target.what == "reaction":
        place = np.flatnonzero(solution.support_node == target.index)
        if not len(place):
            raise LookupError(f"{solution.project.nodes[target.index].name} is no support")
        return np.stack([solution.reaction[place[0], target.component] @ weights] * 2)
    pieces = build_pieces(solution, np.array([target.index]), weights)
    last = np.searchsorted(pieces.start, x + SAME_PLACE * np.array([-1.0, 1.0]), side="right") - 1
    piece = np.clip(last, 0, len(pieces.start) - 1)
    t = np.clip(x - pieces.start[piece], 0.0, pieces.length[piece])
    return value_at(pieces.force[piece, target.component][:, None], t)[:, 0]


def _larger(two: Floats) -> int:
    """On which of both sides (2, results) the value is larger: 0 left, 1 right."""
    left, right = np.abs(two).max(axis=1, initial=0.0)
    return 0 if left > right else 1


def _shares(
    prepared: Prepared, solution: Solution, result: Result, target: Target, x: float
) -> tuple[list[Share], list[Share]]:
    model, weights = solution.model, solution.weights([result])[:, 0]
    project = model.project
    cases, first = len(project.cases), model.load_columns
    part_of = [*range(cases), *(own for own, _ in project.notional_pairs), *model.reduction.cases]
    one_way, parts = unilateral_parts(project), prepared.parts
    used = np.flatnonzero(weights[:first])
    alone, each, case_of, source_of = source_by_source(prepared, solution.loads, used, first)
    loose = np.flatnonzero(weights[first : first + len(one_way)] > 0) if parts is not None else used[:0]
    # One table of columns: the result; every case by itself; every part slack by itself; first order alone.
    unit = np.eye(len(weights))
    flat = np.where(np.arange(len(weights)) < (solution.second_order_from or 0), weights, 0.0)
    table = np.column_stack([weights, unit[:, used], unit[:, first + loose], flat])
    two = _on_both_sides(solution, target, table, x)
    side = _larger(two[:, :1])
    whole, of_case, gain, linear = np.split(two[side], np.cumsum([1, len(used), len(loose)]))
    of_load = _on_both_sides(alone, target, each, x)[side]
    more = 0.0
    if parts is not None and len(loose):
        C = parts.force[loose][:, first + loose]
        alone_force = unilateral_forces(alone, _picked(one_way, loose), len(each)) @ each
        given_way = _yielding(C, parts.force[loose][:, used])
        of_case = of_case + gain @ given_way
        more = float(gain @ (weights[first + loose] - given_way @ weights[used]))
        of_load = of_load + gain @ _yielding(C, alone_force)
    factor = dict(zip(used.tolist(), weights[used].tolist(), strict=True))
    total: dict[int, float] = {}
    for column, value in zip(used.tolist(), of_case.tolist(), strict=True):
        total[part_of[column]] = total.get(part_of[column], 0.0) + factor[column] * value
    combination = dict(result.factors)
    shares = [Share(project.cases[i].name, combination[project.cases[i].name], v) for i, v in total.items()]
    if solution.second_order_from is not None and weights[solution.second_order_from :].any():
        # N and slopes multiply: what they make is the whole less what the first-order columns alone would.
        shares.append(Share(DEFORMED, 1.0, float(whole[0] - linear[0]) + more))
    of_sources = [
        Share(project.cases[part_of[c]].name, factor[c], factor[c] * v, solution.loads.sources[s])
        for c, s, v in zip(case_of, source_of, of_load, strict=True)
    ]
    first_off = model.reductions.start
    of_sources += [
        Share(project.cases[part_of[c]].name, factor[c], factor[c] * v, _taken_off(model, target, part_of[c]))
        for c, v in zip(used.tolist(), of_case.tolist(), strict=True)
        if c >= first_off and v
    ]
    return shares, sorted(of_sources, key=lambda s: -abs(s.value))


def _taken_off(model: Resolved, target: Target, case: int) -> Source:
    """Where what is taken off a member's live load comes from."""
    project = model.project
    for one in model.reduction.each:
        if one.member == target.index and one.case == case:
            name = project.members[one.member].name
            return Source(f"live load of {name} reduced", project.cases[case].place, one.steps)
    return Source("live load reduced", project.cases[case].place)


def _picked(parts: Unilateral, some: Ints) -> Unilateral:
    members = len(parts.members)
    m, n = some[some < members], some[some >= members] - members
    return Unilateral(parts.members[m], parts.sign[m], parts.nodes[n], tuple(parts.names[i] for i in some))


def _yielding(C: Floats, t: Floats) -> Floats:
    """The slacks that take the forces t away from parts that are slack; the smallest where they are not certain."""
    return np.asarray(np.linalg.lstsq(C, -t, rcond=1e-12)[0], float)


def miss(found: Why) -> float:
    """By how much the shares fail to add up to the value, or single loads to their case, over the largest share."""
    size = float(np.max([abs(s.value) for s in found.shares], initial=0.0))
    off = [abs(sum(s.value for s in found.shares) - found.values[0])]
    for share in found.shares:
        if share.case != DEFORMED:
            off.append(abs(sum(s.value for s in found.loads if s.case == share.case) - share.value))
    return float(np.max(off) / size) if size else 0.0


def why_table(found: Why, words: Callable[[Step], str], most: int = 3) -> Table:
    """Rows: each case's share, its largest loads below it with their steps in the given words, the sum, and the
    results next to the worst."""
    value = float(found.values[0])
    rows: list[tuple[str, str, float, float, float, str, str, str]] = []
    largest = max((abs(s.value) for s in found.shares), default=0.0)

    def part(share: float) -> float:
        return 100 * share / value if value else np.nan

    for share in sorted(found.shares, key=lambda s: -abs(s.value)):
        rows.append(("case", share.case, share.factor, share.value, part(share.value), "", "", ""))
        own = [s for s in found.loads if s.case == share.case and abs(s.value) > NOTHING * largest]
        for s in own[:most]:
            assert s.source is not None
            steps = "; ".join(words(st).split(" (")[0] for st in s.source.steps)
            rows.append(
                ("load", share.case, s.factor, s.value, part(s.value), s.source.text, str(s.source.place), steps)
            )
        if len(own) > most:
            rest = sum(s.value for s in own[most:])
            rows.append(("load", share.case, share.factor, rest, part(rest), f"{len(own) - most} more", "", ""))
    total = sum(s.value for s in found.shares)
    rows.append(("sum", found.worst.name, np.nan, total, part(total), "", "", ""))
    for result, v in zip(found.results[1:3], found.values[1:3], strict=True):
        rows.append(("next", result.name, np.nan, v, part(v), "", "", ""))
    what, case, factor, values, percent, text_, place, steps_ = zip(*rows, strict=True)
    return Table(
        "why",
        (
            Column("row", "text", what),
            Column("case", "text", case),
            Column("factor", "number", np.array(factor)),
            Column(found.target.of, found.target.kind, np.array(values)),
            Column("%", "number", np.array(percent)),
            Column("load", "text", text_),
            Column("source", "text", place),
            Column("made of", "text", steps_),
        ),
    )
