"""How far a frame is from buckling, and whether that makes second order necessary."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.critical import below, in_blocks, lowest_by_part, lowest_factors, pulled
from ..analysis.second_order import as_added
from ..analysis.solution import Solution
from ..analysis.solve import Prepared, cut, with_columns, with_second_order
from ..model.connected import Part, called, part_of_nodes, parts, together
from ..model.project import Project
from ..model.results import Result, Results, names
from ..model.telling import Tell, quiet
from .patterns import as_a_frame
from .table import Column, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ENOUGH, MOST_GROWTH = 10.0, 1.5
"""First order will do from this critical factor on (EN 1993-1-1, 5.2.1), and up to this growth of the drift (AISC 360,
appendix 7)."""
FARTHEST = 4096.0
"""Factors above this are not looked for."""
CONSIDERABLY = 0.5
"""Nodes that sway by this share of the largest sway are looked at."""
NO_DRIFT = 1e-6
"""Sway below this share of the frame's height is none."""


@dataclass(frozen=True)
class Stability:
    """For each result, and each part of the frame that nothing joins to the others, a row: critical load factors
    (rows, shapes), infinite where nothing buckles; the node that sways
    most by first order, its horizontal displacement [m] by first and second order, NaN where there is none; at how many
    times its loads each is analysed; the number of the part, and of the result."""

    results: Results
    factors: Floats
    node: NDArray[np.intp]
    first: Floats
    second: Floats
    at: Floats
    part: Ints
    of: Ints

    @property
    def growth(self) -> Floats:
        """Drift of second over first order."""
        return self.second / self.first

    def needs_second_order(self) -> list[str]:
        """For each result whether it is needed, and by which criterion."""
        out = []
        for factor, growth, at in zip(self.factors[:, 0], self.growth, self.at, strict=True):
            words = [f"alpha_cr < {ENOUGH:g}"] if factor < ENOUGH else []
            words += [f"drift > {MOST_GROWTH:g}"] if growth > MOST_GROWTH else []
            needed = f"needed: {', '.join(words)}" if words else "not needed"
            out.append("none: beyond critical" if factor <= at else needed)
        return out


def stability(prepared: Prepared, results: Results, shapes: int = 1, tell: Tell = quiet) -> Stability:
    """So many critical factors and the growth of drift of every result, from its first-order axial forces; part by
    part, where the frame has several: what buckles in one of them is nothing to the others."""
    project, nodes = prepared.solution.project, len(prepared.solution.project.nodes)
    prepared = cut(prepared, results)
    first = prepared.solution
    equations, mix = prepared.equations, first.weights(results, reduced=False)
    apart = _parts(project)
    if len(apart) == 1:
        factors = lowest_factors(equations, first, mix, prepared.parts, shapes, tell)[None]
    else:
        factors = lowest_by_part(equations, first, mix, prepared.parts, apart, shapes, tell)
    second = with_second_order(prepared, results, tell)
    flat = np.linalg.norm(first.displacement[:nodes, :2] @ mix, axis=1)
    then = np.linalg.norm(second.displacement[:nodes, :2] @ second.weights(results), axis=1)
    has = np.array([r not in second.failed for r in results])
    times = np.array([r.second_order_at for r in results])
    of_node = part_of_nodes(project)
    rows = []
    for k, own in enumerate(apart):
        there = np.arange(nodes)
        if len(apart) > 1:
            there = np.flatnonzero(np.isin(of_node, of_node[_nodes_of(project, own)]))
        node, moved, grown = _sway(flat[there], then[there], np.ptp(project.xyz[there, 2]))
        grown = np.where(has, grown, np.nan)
        rows.append((np.arange(len(results)), np.full(len(results), k), there[node], moved, grown))
    of, part, node, moved, grown = (np.concatenate(v) for v in zip(*rows, strict=True))
    flat_factors = factors.transpose(0, 2, 1).reshape(len(of), shapes)
    order = np.lexsort((part, of))
    # A part that neither buckles nor sways under a result is none of it.
    some = np.isfinite(flat_factors[:, 0]) | ~np.isnan(moved) | (part == 0)
    order = order[some[order]]
    again = [results[i] for i in of[order].tolist()]
    return Stability(again, flat_factors[order], node[order], moved[order], grown[order], times[of[order]], part[order],
                     of[order])  # fmt: skip


def _sway(flat: Floats, then: Floats, height: float) -> tuple[Ints, Floats, Floats]:
    """Of nodes that move (nodes, results) [m] by first and second order the one whose sway grows most, and its motions;
    NaN where there is none."""
    top = flat.max(axis=0, initial=0.0)
    # Of the nodes that sway considerably the one whose sway grows most: not the first of several alike.
    grows = np.where(flat >= CONSIDERABLY * top, then / np.where(flat > 0, flat, 1.0), 0.0)
    node = np.where(top > 0, grows.argmax(axis=0), flat.argmax(axis=0))
    at = np.arange(flat.shape[1])
    sways = top > NO_DRIFT * max(float(height), 1e-3)
    return node, np.where(sways, flat[node, at], np.nan), np.where(sways, then[node, at], np.nan)


MOST_PARTS = 12
"""Parts of a frame are told one by one up to so many; the smaller ones beyond are told as one."""


def _parts(project: Project) -> list[Part]:
    found = parts(project)
    if len(found) <= MOST_PARTS:
        return found or [Part(np.arange(len(project.members)), np.zeros(0, np.intp))]
    return [*found[: MOST_PARTS - 1], together(found[MOST_PARTS - 1 :])]


def _nodes_of(project: Project, part: Part) -> Ints:
    """Nodes (n,) of its members' starts and surfaces."""
    groups = project.plates.groups if project.plates is not None else ()
    of_surfaces = [g.node[np.isin(g.surface, part.surfaces)].ravel() for g in groups]
    return np.concatenate([project.ends[part.members, 0], *of_surfaces])


def buckles_in(prepared: Prepared, result: Result) -> str:
    """The part of the frame in which a result buckles first, by the name of a member; "" of a frame in one part."""
    apart = _parts(prepared.solution.project)
    if len(apart) == 1:
        return ""
    prepared = cut(prepared, [result])
    _, mix = as_a_frame(prepared.solution, [result])
    found = lowest_by_part(prepared.equations, prepared.solution, mix, prepared.parts, apart)
    return called(prepared.solution.project, apart[int(found[:, 0].min(axis=1).argmin())])


def lowest_critical(prepared: Prepared, results: Results, tell: Tell = quiet) -> tuple[Result, float] | None:
    """The lowest critical load factor of all these results over all their patterns, and whose it is; None where nothing
    buckles. Raises TooMany where there are too many patterns.

    That of the most pressed result is a bound; whether the others are below so many times their loads is a few
    factorisations, and only what is not is asked for its factor.
    """
    prepared = cut(prepared, results)
    first, equations = prepared.solution, prepared.equations
    results, mix = as_a_frame(first, results)
    best: tuple[Result, float] | None = None

    def look(asked: Ints) -> None:
        nonlocal best
        factors = lowest_factors(equations, first, mix[:, asked], prepared.parts)[0]
        k = int(factors.argmin())
        if np.isfinite(factors[k]) and (best is None or factors[k] < best[1]):
            best = results[int(asked[k])], float(factors[k])

    for some in in_blocks(equations, len(results)):
        tell("the lowest critical load factor", int(some[0]), len(results))
        given = pulled(equations, first, mix[:, some], prepared.parts)
        left = np.ones(len(some), bool)
        if best is None:
            most = int(given.N.pressed().argmin())
            look(some[[most]])
            left[most] = False
        left &= ~below(given, FARTHEST if best is None else best[1])
        if left.any():
            look(some[left])
    return best


def stability_table(found: Stability, solution: Solution) -> Table:
    """Result, critical factors, sway of first and second order, their ratio, what asks for second order; those beyond
    their critical load first."""
    labels = np.array([n.name for n in solution.project.nodes], object)
    numbered = [
        Column("alpha_cr" if i == 0 else f"alpha {i + 1}", "factor", np.where(np.isinf(f), np.nan, f))
        for i, f in enumerate(found.factors.T)
    ]
    nowhere = np.isnan(found.first)
    apart = _parts(solution.project)
    of_part = [Column("part", "text", [called(solution.project, apart[k]) for k in found.part.tolist()])]
    beyond = found.factors[:, 0] <= found.at
    table = Table(
        "stability",
        (
            Column("case", "text", names(found.results)),
            *(of_part if len(apart) > 1 else []),
            *numbered,
            Column("sways most", "text", np.where(nowhere, "-", labels[found.node])),
            Column("u first", "displacement", found.first),
            Column("u second", "displacement", found.second),
            Column("second/first", "factor", found.growth),
            Column("second order", "text", found.needs_second_order()),
        ),
    )
    return table.rows(np.argsort(~beyond, kind="stable"))


def buckled(prepared: Prepared, result: Result, shape: int) -> tuple[Solution, float]:
    """A solution whose result is its buckling shape number `shape` (from 1), and the critical factor.

    The size of the shape is arbitrary. Raises LookupError where the result has no such shape.
    """
    prepared = cut(prepared, [result])
    first = prepared.solution
    mix = first.weights([result], reduced=False)
    given = pulled(prepared.equations, first, mix, prepared.parts)
    factors, states = given.critical(given.N, shape)
    if len(states) < shape or not given.stands.all() or np.isinf(factors[shape - 1, 0]):
        raise LookupError(f"{result.name} has {int(np.isfinite(factors).sum())} buckling shapes")
    nothing = given.frame.thrust(given.N.scaled(0.0), given.bending)
    added = as_added(given.frame, states[shape - 1], nothing, np.zeros((0, 1)), np.array([True]), np.array([True]))
    alone = replace(first, mix=np.zeros_like(first.mix))
    return with_columns(alone, added, [result], np.ones(1)), float(factors[shape - 1, 0])
