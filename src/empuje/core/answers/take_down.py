"""Loads taken down the columns, level by level, beside the analysed reactions; and how live loads are reduced."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..actions.take_down import TakeDown
from ..analysis.solution import Solution
from ..model.loads import Step
from ..model.words import Stage
from ..resolve.load_path import AREA, DEAD, LIVE, LIVE_ACTIONS
from ..resolve.resolved import Resolved
from .table import Column, Table

Floats = NDArray[np.float64]


def take_down_table(solution: Solution, path: TakeDown, members: NDArray[np.intp]) -> Table:
    """For every column and level, from the top on: tributary area [m2], dead, live and reduced live load there and all
    together below it [N]; at the foot, with the column's own loads, the analysed reactions."""
    project = solution.project
    factor = solution.model.reduction.factor
    rows: list[tuple[Any, ...]] = []
    for m in [c for c in path.columns if c in set(members.tolist())]:
        total = np.zeros_like(path.own[m])

        def live(amount: Floats, m: int = m) -> float:
            less = amount[AREA + 1 :] @ (1 - factor[m]) if len(amount) > AREA + 1 else 0.0
            return float(amount[LIVE] - less)

        for there in path.brought.get(m, []):
            total = total + there.beams + there.above
            rows.append((m, there.node, there.beams, live(there.beams), total, live(total), np.nan, np.nan))
        total = total + path.own[m]
        a, b = project.ends[m]
        foot = int(a if project.xyz[a, 2] < project.xyz[b, 2] else b)
        dead, of_live = _reactions(solution, foot)
        rows.append((m, foot, path.own[m], live(path.own[m]), total, live(total), dead, of_live))
    here, all_below = (np.array([r[k] for r in rows]).reshape(len(rows), path.own.shape[1]) for k in (2, 4))
    numbers = {k: np.array([r[k] for r in rows], float) for k in (3, 5, 6, 7)}
    nodes = [r[1] for r in rows]
    table = Table(
        "take-down",
        (
            Column("column", "text", [project.members[r[0]].name for r in rows]),
            Column("node", "text", [project.nodes[n].name for n in nodes]),
            Column("z", "length", project.xyz[nodes, 2] if rows else np.zeros(0)),
            Column("area", "surface", here[:, AREA]),
            Column("dead", "force", here[:, DEAD]),
            Column("live", "force", here[:, LIVE]),
            Column("area below", "surface", all_below[:, AREA]),
            Column("dead below", "force", all_below[:, DEAD]),
            Column("live below", "force", all_below[:, LIVE]),
            Column("reduced below", "force", numbers[5]),
            Column("R dead", "force", numbers[6]),
            Column("R live", "force", numbers[7]),
        ),
    )
    return table if solution.model.reduction.cases else table.without(["reduced below"])


def _reactions(solution: Solution, node: int) -> tuple[float, float]:
    """Analysed vertical reactions under all dead and all live cases [N]; NaN where the node is no support."""
    place = np.flatnonzero(solution.support_node == node)
    if not len(place):
        return np.nan, np.nan
    cases = solution.project.cases
    out = []
    for actions in (("dead",), LIVE_ACTIONS):
        chosen = [
            r for r, c in zip(solution.model.cases, cases, strict=True)
            if c.action in actions and c.stage in (Stage.ANY, Stage.FINAL)
        ]  # fmt: skip
        if any(r in solution.failed for r in chosen):  # no sum lacks a case without a word
            out.append(np.nan)
            continue
        out.append(float((solution.reaction[place[0], 2] @ solution.weights(chosen)).sum()) if chosen else 0.0)
    return out[0], out[1]


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
