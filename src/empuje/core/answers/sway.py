"""Whether first order will do for results: how far the frame is from buckling as a whole, not in a member by itself.

EN 1993-1-1, 5.2.1(3), asks for second order where alpha_cr < 10 of the frame. The lowest critical factor may be that of
a single member, which its own check has; the frame buckles where joints move. So of each result whose lowest factor is
below the bound the shapes are looked at, from the lowest on: in one of a member by itself the joints stay.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.critical import below, in_blocks, pulled
from ..analysis.second_order import as_added
from ..analysis.solve import Prepared, cut
from ..model.project import Project
from ..model.results import Result, Results
from ..model.telling import Tell, quiet
from .patterns import as_a_frame

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SHAPES = 8
"""So many shapes are looked at; where all of them are of single members below the bound, it is not known."""
MOVES = 0.05
"""Joints that move by more than this share of the largest motion in a shape take part in it."""


@dataclass(frozen=True)
class Swaying:
    """The lowest factor below a bound at which joints move, of the results that have one; results beyond their critical
    load, whatever buckles; and those whose shapes are all of single members as far as was looked."""

    factor: dict[Result, float]
    beyond: list[Result]
    unknown: list[Result]


def swaying(prepared: Prepared, results: Results, bound: float, members: bool = False, tell: Tell = quiet) -> Swaying:
    """Of results of first order, patterns one by one; `members`: a single member that buckles below the bound counts as
    well. Raises TooMany."""
    out = Swaying({}, [], [])
    if not results:
        return out
    joints = _joints(prepared.solution.project)
    prepared = cut(prepared, results)
    first, equations = prepared.solution, prepared.equations
    results, mix = as_a_frame(first, results)
    for some in in_blocks(equations, len(results)):
        tell("whether first order will do", int(some[0]), len(results))
        given = pulled(equations, first, mix[:, some], prepared.parts)
        for k in np.flatnonzero(~below(given, bound)).tolist():
            result = results[int(some[k])]
            one = pulled(equations, first, mix[:, some[[k]]], prepared.parts)
            factors, states = one.critical(one.N, SHAPES)
            if factors[0, 0] <= 1:
                out.beyond.append(result)
            nothing = one.frame.thrust(one.N.scaled(0.0), one.bending)
            for factor, state in zip(factors[:, 0].tolist(), states, strict=False):
                if factor >= bound:
                    break
                added = as_added(one.frame, state, nothing, np.zeros((0, 1)), np.array([True]), np.array([True]))
                if members or _moves(added.displacement[:, :, 0], added.slope[..., 0], equations.mesh.length, joints):
                    out.factor[result] = factor
                    break
            else:
                if len(states) >= SHAPES:
                    out.unknown.append(result)
    return out


def _moves(displacement: Floats, slope: Floats, length: Floats, joints: Ints) -> bool:
    """Whether joints take part in a shape: displacements (nodes, 6), slopes (elements, 2, orders)."""
    every = np.linalg.norm(displacement[:, :3], axis=1)
    inner = np.abs(slope).max(axis=(1, 2), initial=0.0) * length / 2
    largest = max(float(every.max(initial=0.0)), float(inner.max(initial=0.0)))
    return bool(float(every[joints].max(initial=0.0)) > MOVES * largest)


def _joints(project: Project) -> Ints:
    """Nodes where two members or more end and none goes on in one line: knees, ridges, tops of storeys, ends of
    trusses. What a member passes, or alone ends at, moves with that member when it buckles by itself. Of structural
    surfaces every node counts: a slab or wall that buckles by itself has no check of its own."""
    ways: dict[int, list[Floats]] = {}
    for m, pair in enumerate(project.ends.tolist()):
        for node, way in zip(pair, (1.0, -1.0), strict=True):
            ways.setdefault(node, []).append(way * project.axes[m, 0])
    passed = set(project.nodes_on_members[1].tolist())
    out = []
    for node, there in ways.items():
        goes_on = node in passed or any(float(a @ b) < -STRAIGHT for a in there for b in there)
        if len(there) > 1 and not goes_on:
            out.append(node)
    groups = project.plates.groups if project.plates is not None else ()
    return np.unique(np.concatenate([np.array(out, np.intp), *(g.node.ravel() for g in groups)]))


STRAIGHT = 0.9998
