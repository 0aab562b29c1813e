"""Loads taken down the columns, level by level, beside the analysed reactions; and how live loads are reduced."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Solution
from ..load_path.taken import DEAD, LOADS, Taken
from ..model.loads import Step
from ..resolved import Resolved
from .table import Column, Table

Floats = NDArray[np.float64]


def take_down_table(solution: Solution, taken: Taken, members: NDArray[np.intp]) -> Table:
    """For every column and level, from the top on: tributary area [m2], dead, live, roof live, snow, rain loads there
    and all together below it [N], live loads reduced; at the foot, with the column's own loads, the analysed reactions.
    Of cases that are alternatives the one that brings most there."""
    project, path, reduction = solution.project, taken.path, solution.model.reduction
    actions = ["dead", "live", *(a for a in LOADS[1:] if a in taken.units)]
    off = np.array([taken.of_case[c] for c in reduction.cases], np.intp)
    rows: list[tuple[int, int, Floats, Floats, float, Floats]] = []
    for m in [c for c in path.columns if c in set(members.tolist())]:
        total = np.zeros_like(path.own[m])

        def reduced(amount: Floats, m: int = m) -> float:
            less = amount.copy()
            np.subtract.at(less, off, amount[taken.area + 1 :][: len(off)] * (1 - reduction.factor[m]))
            return taken.amount("live", less) + taken.amount("roof live", less)

        nothing = np.full(len(actions), np.nan)
        for there in path.brought.get(m, []):
            total = total + there.beams + there.above
            rows.append((m, there.node, there.beams, total, reduced(total) if len(off) else np.nan, nothing))
        total = total + path.own[m]
        a, b = project.ends[m]
        foot = int(a if project.xyz[a, 2] < project.xyz[b, 2] else b)
        last = reduced(total) if len(off) else np.nan
        rows.append((m, foot, path.own[m], total, last, _reactions(solution, taken, foot, actions)))
    nodes = [r[1] for r in rows]

    here, below = [r[2] for r in rows], [r[3] for r in rows]

    def each(amounts: list[Floats], action: str) -> Floats:
        return np.array([taken.amount(action, one) for one in amounts], np.float64)

    def area(amounts: list[Floats]) -> Floats:
        return np.array([one[taken.area] for one in amounts], np.float64)

    table = Table(
        "take-down",
        (
            Column("column", "text", [project.members[r[0]].name for r in rows]),
            Column("node", "text", [project.nodes[n].name for n in nodes]),
            Column("z", "length", project.xyz[nodes, 2] if rows else np.zeros(0)),
            Column("area", "surface", area(here)),
            *(Column(action, "force", each(here, action)) for action in actions),
            Column("area below", "surface", area(below)),
            *(Column(f"{action} below", "force", each(below, action)) for action in actions),
            Column("reduced below", "force", np.array([r[4] for r in rows], float)),
            *(Column(f"R {a}", "force", np.array([r[5][i] for r in rows], float)) for i, a in enumerate(actions)),
        ),
    )  # fmt: skip
    return table if reduction.cases else table.without(["reduced below"])


def _reactions(solution: Solution, taken: Taken, node: int, actions: Sequence[str]) -> Floats:
    """Analysed vertical reactions under every action [N]; NaN where the node is no support, or a case has no answer."""
    place = np.flatnonzero(solution.support_node == node)
    if not len(place):
        return np.full(len(actions), np.nan)
    cases, counted = solution.model.cases, taken.of_case >= 0
    chosen = [r for r, c in zip(cases, counted, strict=True) if c and r not in solution.failed and not r.moving]
    of_case = np.full(len(cases), np.nan)  # no sum lacks a case without a word
    of_case[solution.model.case_numbers(chosen)] = solution.reaction[place[0], 2] @ solution.weights(chosen)
    dead = float(of_case[taken.of_case == DEAD].sum())
    return np.array([dead if action == "dead" else taken.most(action, of_case) for action in actions])


def reduction_table(model: Resolved, members: NDArray[np.intp], said: Callable[[Step], str]) -> Table:
    """The factor on every chosen member's live loads, with the steps that led to it, in the words of `said`."""
    chosen = set(members.tolist())
    project = model.project
    rows = [one for one in model.reduction.each if one.member in chosen]
    steps = ["; ".join(map(said, one.steps)) for one in rows]
    return Table(
        "live-load-reduction",
        (
            Column("member", "text", [project.members[one.member].name for one in rows]),
            Column("case", "text", [project.cases[one.case].name for one in rows]),
            Column("area", "surface", np.array([one.area for one in rows])),
            Column("floors", "number", np.array([one.floors for one in rows], float)),
            Column("factor", "factor", np.array([one.factor for one in rows])),
            Column("derivation", "text", steps),
        ),
    )
