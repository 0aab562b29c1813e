"""The band between the least and the greatest force along members, with the combinations that govern."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..core.analysis.pieces import FORCES
from ..core.analysis.solve import Solution
from ..core.answers.bands import bands
from ..core.answers.patterns import patterns
from ..core.answers.table import MEMBER_KINDS
from .canvas import GRID, INK, MINUS, PLUS, Sheet
from .display import Display
from .draw_loads import label_members
from .draw_results import DIAGRAM_HEIGHT, SIDE, side_seen
from .view import View

Ints = NDArray[np.intp]
STATIONS = 41
TOLD = 0.25
"""Members whose extremes are above this share of the largest have them written beside."""


def draw_band(
    solution: Solution, results: list[str], force: str, members: Ints, view: View, display: Display, names: bool
) -> Sheet:
    """Least and greatest of one force over the results, drawn as the diagrams are."""
    project, index = solution.project, FORCES.index(force)
    found, free = bands(solution, results, members, STATIONS), patterns(solution, results)
    value, made_by, there = found.value[:, :, index], found.result[:, :, index], found.there[:, :, index]
    sheet = Sheet(project, view, members, f"{project.title or project.file}: {force} between least and greatest",
                  f"over {len(results)} results, {results[0]} to {results[-1]}")  # fmt: skip
    sheet.frame(INK, 1.4)
    sheet.grid()
    largest = float(np.abs(value).max(initial=0))
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
            for m in np.flatnonzero(some):
                v = (1 if i else -1) * value[m, :, i]
                s = int(v.argmax())
                if v[s] > TOLD * largest:
                    by = free.name_of(results, made_by[m, s, i], there[m, s, i])
                    text = f"{value[m, s, i] * factor:.4g} {by}"
                    sheet.label(edges[i][m, s], text, colour, abs(v[s]) / largest)
    text = f"{force} [{unit}], largest {largest * factor:.4g}; greatest blue, least red; figures name what governs"
    sheet.figure.text(0.97, 0.03, text, fontsize=9, color=GRID, ha="right")
    if names:
        label_members(sheet)
    return sheet
