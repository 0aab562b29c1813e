"""A force along one member as a small chart of characters, moments on the tension side.

>>> print(chart(np.array([0.0, 4.0, 8.0]), np.array([0.0, 24.0, 0.0]), 16, 4, down=True))    # doctest: +SKIP
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..core.analysis.solution import Solution
from ..core.answers.strips import member_strip
from ..core.answers.table import MEMBER_KINDS
from ..core.model.results import Result
from .display import Display

Floats = NDArray[np.float64]
WIDEST, USUAL, ROWS = 100, 78, 12
FULL, UPPER, LOWER, AXIS = "█", "▀", "▄", "─"
MARGIN = 11
"""For the figures at the left."""


def chart_of(solution: Solution, result: Result, member: int, force: str, display: Display) -> str:
    """The chart with its extremes, ends, and where they are."""
    project = solution.project
    found = member_strip(solution, result, member)
    names = [name for name, _ in MEMBER_KINDS]
    kind = dict(MEMBER_KINDS)[force]
    v = found.force[:, names.index(force)] * display.factor(kind)
    largest = float(np.abs(found.force[:, [i for i, (_, k) in enumerate(MEMBER_KINDS) if k == kind]]).max(initial=0.0))
    v = np.where(np.abs(v) < 1e-9 * largest * display.factor(kind), 0.0, v)
    x = found.x * display.factor("length")
    unit, metres = display.unit(kind), display.unit("length")
    one = project.members[member]
    wide = min((display.width or USUAL + MARGIN) - MARGIN, WIDEST)
    down = force in ("My", "Mz")
    lines = [f"{one.name}: {force} [{unit}] under {result.name}" + (", on the tension side" if down else "")]
    if not np.abs(v).max(initial=0.0):
        return f"{lines[0]}\nnothing all along it\n"
    lines += chart(x, v, max(wide, 16), ROWS, down)
    ends = (project.nodes[one.start].name, project.nodes[one.end].name)
    foot = f"{'':{MARGIN}}{ends[0]}"
    lines.append(foot + ends[1].rjust(max(1, MARGIN + max(wide, 16) - len(foot))))
    for words, i in (("greatest", int(v.argmax())), ("least", int(v.argmin()))):
        lines.append(f"{words} {v[i]:.4g} {unit} at {x[i]:.4g} {metres}")
    lines.append(f"{v[0]:.4g} at {ends[0]}, {v[-1]:.4g} {unit} at {ends[1]}, {x[-1]:.4g} {metres} long")
    return "\n".join(lines) + "\n"


def chart(x: Floats, v: Floats, wide: int, rows: int, down: bool = False) -> list[str]:
    """Bars of half a row's steps, one a column, from the axis to the value that is largest in the column; `down`:
    positive values below the axis. Figures at the left name the top and the foot."""
    edges = np.linspace(x[0], x[-1], wide + 1)
    bars = np.empty(wide)
    for i in range(wide):
        inside = v[(x >= edges[i]) & (x <= edges[i + 1])]
        own = np.append(inside, np.interp([edges[i], edges[i + 1]], x, v))
        bars[i] = own[np.abs(own).argmax()]
    bars = -bars if down else bars
    high, low = max(float(bars.max()), 0.0), min(float(bars.min()), 0.0)
    # So many half rows above the axis and below it, at least one where there is anything.
    above = max(round(2 * rows * high / (high - low)), 2 if high > 0 else 0)
    below = max(round(2 * rows * -low / (high - low)), 2 if low < 0 else 0)
    above, below = above + above % 2, below + below % 2
    step = max(high / above if above else 0.0, -low / below if below else 0.0)
    height = np.where(np.abs(bars) > 1e-9 * (high - low), np.maximum(np.round(np.abs(bars) / step), 1), 0) * np.sign(
        bars
    )
    sign = -1.0 if down else 1.0
    out = []
    for row in range(above // 2, -below // 2 - 1, -1):
        if row == 0:
            out.append(f"{0:>{MARGIN - 2}} " + AXIS * (wide + 1))
            continue
        top = row == above // 2
        label = f"{sign * high:.4g}" if top else f"{sign * low:.4g}" if row == -below // 2 else ""
        out.append(f"{label:>{MARGIN - 2}}  " + "".join(_cell(h, row) for h in height.tolist()).rstrip())
    return out


def _cell(height: float, row: int) -> str:
    """What a bar of so many half rows shows in a row above (1, 2, ...) or below (-1, -2, ...) the axis."""
    level = abs(row)
    reach = height if row > 0 else -height
    if reach >= 2 * level:
        return FULL
    if reach == 2 * level - 1:
        return LOWER if row > 0 else UPPER
    return " "
