"""The band between the least and the greatest force along members, with the combinations that govern."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.analysis.pieces import FORCES, build_pieces
from ...core.analysis.solution import Solution
from ...core.answers.bands import bands
from ...core.answers.envelope import extremes
from ...core.answers.table import MEMBER_KINDS
from ...core.model.results import Results
from ..display import Display
from .canvas import GRID, INK, MINUS, PLUS, Sheet
from .draw_results import DIAGRAM_HEIGHT, SIDE, on_axis, side_seen
from .symbols import draw_supports
from .view import View

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
STATIONS = 41
BESIDE = 1e-7
"""How far on either side of a break stations stand, as a share of the member: forces may jump there."""
TOLD = 0.25
"""Members whose extremes are above this share of the largest have them written beside."""


def draw_band(solution: Solution, results: Results, force: str, members: Ints, view: View, display: Display) -> Sheet:
    """Least and greatest of one force over the results, drawn as the diagrams are."""
    project, index = solution.project, FORCES.index(force)
    best = extremes(solution, results, members)
    told = best.forces[:, index, :, index]
    each = np.arange(len(members))
    made_by = [best.made_by(solution, results, each, 0 * each + index, 0 * each + i) for i in (0, 1)]
    found = bands(solution, results, members, x=_stations(solution, members, best.x[:, index]))
    value = found.value[:, :, index]
    sheet = Sheet(project, view, members, f"{force} between minimum and maximum",
                  f"over {len(results)} results, {results[0].name} to {results[-1].name}")  # fmt: skip
    sheet.frame(INK, 1.4)
    draw_supports(sheet, False)
    sheet.grid()
    largest = float(np.abs(told).max(initial=0))
    kind = dict(MEMBER_KINDS)[force]
    unit, factor = display.unit(kind), display.factor(kind)
    if largest > 0:
        axis, sign = SIDE[force]
        axes = project.axes[members]
        side = side_seen(axes, axis, force, view)
        foot = project.xyz[project.ends[members, 0]][:, None] + found.x[:, :, None] * axes[:, 0][:, None]
        scale = sign * DIAGRAM_HEIGHT * sheet.size / largest
        edges = [foot + scale * value[:, :, i, None] * side[:, None] for i in (0, 1)]
        some = np.abs(value).max(axis=(1, 2)) > 0.004 * largest
        for m in np.flatnonzero(some):
            sheet.areas([np.vstack([edges[0][m], edges[1][m][::-1]])], GRID)
        for i, colour in ((0, MINUS), (1, PLUS)):
            sheet.lines(list(edges[i][some]), colour, 1.2, order=4)
            sheet.lines([np.array([foot[m, e], edges[i][m, e]]) for m in np.flatnonzero(some) for e in (0, -1)],
                        colour, 0.7, order=4)  # fmt: skip
            where = on_axis(project, members, best.x[:, index, i]) + scale * told[:, i, None] * side
            for m in np.flatnonzero((1 if i else -1) * told[:, i] > TOLD * largest):
                sheet.label(where[m], f"{told[m, i] * factor:.4g} {made_by[i][m]}", colour, abs(told[m, i]) / largest)
    text = f"{force} [{unit}], largest {largest * factor:.4g}; figures name what governs"
    sheet.say(text)
    sheet.explain("greatest", line=(PLUS, 1.6, "-"))
    sheet.explain("least", line=(MINUS, 1.6, "-"))
    return sheet


def _stations(solution: Solution, members: Ints, peaks: Floats) -> Floats:
    """Positions (members, stations) [m]: even ones, both sides of every break, and the places of the extremes."""
    pieces = build_pieces(solution, members, np.zeros((len(solution.mix), 1)))
    length = solution.project.lengths[members]
    first = np.flatnonzero(np.append(True, np.diff(pieces.member) != 0))
    each = []
    for m, breaks in enumerate(np.split(pieces.start, first[1:])):
        beside = length[m] * BESIDE
        x = np.concatenate([np.linspace(0, length[m], STATIONS), breaks - beside, breaks + beside, peaks[m]])
        each.append(np.unique(np.clip(x, 0.0, length[m])))
    most = max(map(len, each))
    return np.array([np.append(x, np.full(most - len(x), x[-1])) for x in each])
