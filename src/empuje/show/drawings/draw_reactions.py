"""Reactions as arrows at the feet, with their values: they act on the structure, in global axes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.analysis.solution import Solution
from ...core.answers.line_reactions import by_lines
from ...core.answers.reactions import resultants
from ...core.answers.slack import not_acting
from ...core.model.results import Result
from ..display import Display
from .canvas import GRID, OWN, POINT, Mark, Sheet, Tops, in_words
from .symbols import draw_slack, draw_supports
from .view import View

Floats = NDArray[np.float64]
LONGEST, LEAST = 0.1, 0.35
"""The largest reaction's arrow, as a share of the drawing, and the smallest as a share of that."""
NOTHING = 1e-6
"""Reactions below this share of the largest of their kind are not drawn."""
LIFTED = Mark("x", edge=POINT, size=9, order=8)


def draw_reactions(
    solution: Solution, result: Result, members: NDArray[np.intp], view: View, display: Display, tops: Tops = OWN
) -> Sheet:
    """The forces and moments at every support that is seen, and their sums beside those of the loads."""
    solution = by_lines(solution, [result])
    project = solution.model.project
    places = solution.project.xyz
    title = f"reactions under {result.name}"
    sheet = Sheet(project, view, members, title, result.what)
    sheet.frame(GRID, 1.0)
    draw_supports(sheet, False)
    sheet.grid()
    value = (solution.reaction @ solution.weights([result]))[:, :, 0]
    nodes = solution.support_node
    count = len(project.nodes)
    seen = np.where(
        nodes < count, sheet.shown_nodes()[np.minimum(nodes, count - 1)] if count else False, not view.alone
    )
    for first, kind, symbol in ((0, "force", "F"), (3, "moment", "M")):
        part = np.nan_to_num(value[:, first : first + 3])
        largest = float(np.abs(part[seen]).max(initial=0.0))
        sheet.tops[kind] = largest
        if largest <= 0:
            continue
        highest = max(largest, tops.get(kind, 0.0))
        unit, factor = display.unit(kind), display.factor(kind)
        for i in np.flatnonzero(seen).tolist():
            at = places[nodes[i]]
            for axis in range(3):
                v = float(part[i, axis])
                if abs(v) <= NOTHING * largest:
                    continue
                way = np.eye(3)[axis] * np.sign(v)
                weight = 2.0 + abs(v) / largest
                words = f"{symbol}{'xyz'[axis]} {v * factor:.4g} {unit}"
                if kind == "moment":
                    sheet.curls(at[None], way[None], POINT)
                    sheet.label(at + 0.04 * sheet.size * view.up, words, POINT, weight)
                    continue
                tail = at - way * LONGEST * sheet.size * (LEAST + (1 - LEAST) * abs(v) / highest)
                sheet.arrows(tail[None], at[None], POINT, order=7, width=1.8)
                sheet.label(tail, words, POINT, weight)
    slack, lifted = not_acting(solution, result)
    draw_slack(sheet, slack)
    lifted = lifted[:count] & sheet.shown_nodes()
    if lifted.any():
        sheet.put(LIFTED, project.xyz[lifted])
        sheet.explain("lifts off", mark=LIFTED)
    put_on, reaction = (v[:3, 0] * display.factor("force") for v in resultants(solution, [result]))
    unit = display.unit("force")
    if not seen.all():
        own = resultants(solution, [result], nodes[seen])[1][:3, 0] * display.factor("force")
        sheet.say(f"reactions shown, on the structure, {in_words(own)} {unit}")
    whole = "" if seen.all() else "of the whole frame: "
    sheet.say(f"{whole}loads {in_words(put_on)}; reactions, on the structure, {in_words(reaction)} {unit}")
    return sheet
