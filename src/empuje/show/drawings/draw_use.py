"""How much members use, or how much they are stressed, as shades along the frame: darker and broader is more.

Shades are those of one hue from light to dark, so that they are told apart without colour too; what is beyond is red
and broadest, what was not checked is dashed.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ...core.analysis.solution import Solution
from ...core.answers.stress import stress_envelope
from ...core.model.project import Project
from ...core.model.results import Results
from ...core.model.words import Holds, Stress
from ...core.verdict.steel.checked import Checked
from ..display import Display
from .canvas import GRID, INK, MINUS, Sheet
from .symbols import draw_supports
from .view import View

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SHADES = ("#c6d9e8", "#93bbd8", "#5a97c1", "#2c6f9e", "#0d3b5c")
WIDTHS = (1.6, 2.4, 3.2, 4.0, 4.8)
BEYOND = 5.8
STEPS = (0.25, 0.5, 0.75, 0.9, 1.0)
TOLD = 0.25
"""Members that use less than this share of the largest have no figure."""


def draw_utilisation(project: Project, found: Checked, view: View) -> Sheet:
    """The largest share that each member uses of any resistance, with the check."""
    counts = f"{len(found.members)} members under {len(found.results)} results, by {found.code.assumed}"
    sheet = Sheet(project, view, found.members, "utilisation", counts)
    m = len(found.members)
    used = found.use.max(axis=1) if m else np.zeros(0)
    known = np.array([not reason for reason in found.lost], bool)
    fails = np.array([found.holds(k) == Holds.FAILS for k in range(m)], bool)
    x = np.array([found.x[k, found.worst(k)] for k in range(m)])
    text = [f"{used[k]:.2f} ({found.checks[found.worst(k)]})" for k in range(m)]
    legend = [f"to {step:g}" for step in STEPS]
    _shade(sheet, found.members, used, STEPS, known, fails, legend, "beyond 1")
    _told(sheet, found.members, x, used, known, text)
    return sheet


def draw_stress(
    solution: Solution, results: Results, led_by: Stress, members: Ints, view: View, display: Display
) -> Sheet:
    """The largest stress at any fibre of each member over results, as a share of the largest of all; normal stress in
    magnitude. Raises NoFibre, TooMany."""
    project = solution.project
    table = stress_envelope(solution, results, members, led_by)
    title = f"largest {led_by} stress at the fibres"
    value, x = np.zeros(len(members)), np.zeros(len(members))
    known = np.zeros(len(members), bool)
    case = [""] * len(members)
    place = {project.members[i].name: k for k, i in enumerate(members.tolist())}
    for name, stress, at, made in zip(table["member"], table[str(led_by)], table["x"], table["case"], strict=True):
        k = place[name]
        if not known[k] or abs(stress) > abs(value[k]):
            value[k], x[k], case[k], known[k] = stress, at, made, True
    over = f"over {len(results)} results, {results[0].name} to {results[-1].name}"
    if known.any():
        over += f"; the largest under {case[int(np.abs(value).argmax())]}"
    sheet = Sheet(project, view, members, title, over)
    size, factor, unit = np.abs(value), display.factor("stress"), display.unit("stress")
    largest = float(size.max(initial=0.0))
    steps = [largest * s for s in (0.2, 0.4, 0.6, 0.8, 1.0)]
    legend = [f"to {s * factor:.4g} {unit}" for s in steps]
    _shade(sheet, members, size, steps, known, np.zeros(len(members), bool), legend, "")
    text = [f"{v * factor:.4g}" for v in value]
    _told(sheet, members, x, size, known, text)
    return sheet


def _shade(
    sheet: Sheet, members: Ints, value: Floats, steps: Sequence[float], known: NDArray[np.bool_],
    beyond: NDArray[np.bool_], legend: Sequence[str], beyond_words: str,
) -> None:  # fmt: skip
    """Members in shades by steps of a value, with what the shades mean."""
    project = sheet.project
    drawn = sheet.members
    sheet.frame("#ffffff", 0.1)
    draw_supports(sheet, False)
    sheet.grid()
    step = np.minimum(np.searchsorted(np.asarray(steps), value * (1 - 1e-12)), len(steps) - 1)
    line = [project.xyz[project.ends[m]] for m in drawn.tolist()]
    for k, (shade, width) in enumerate(zip(SHADES, WIDTHS, strict=True)):
        own = np.flatnonzero(known & ~beyond & (step == k))
        sheet.lines([line[i] for i in own], shade, width, order=3)
    sheet.lines([line[i] for i in np.flatnonzero(known & beyond)], MINUS, BEYOND, order=4)
    sheet.lines([line[i] for i in np.flatnonzero(~known)], GRID, 1.2, order=3, style=(0, (3, 3)))
    for words, shade, width in zip(legend, SHADES, WIDTHS, strict=True):
        sheet.explain(words, line=(shade, width, "-"))
    if beyond.any():
        sheet.explain(beyond_words, line=(MINUS, BEYOND, "-"))
    if not known.all():
        sheet.explain("not checked", line=(GRID, 1.2, (0, (3, 3))))


def _told(sheet: Sheet, members: Ints, x: Floats, value: Floats, known: NDArray[np.bool_], text: Sequence[str]) -> None:
    """Figures where they are found; the largest first."""
    project = sheet.project
    largest = float(value[known].max(initial=0.0))
    for k in np.flatnonzero(known & (value > TOLD * largest)).tolist():
        m = int(members[k])
        at = project.xyz[project.ends[m, 0]] + x[k] * project.axes[m, 0]
        sheet.label(at, text[k], INK, float(value[k] / largest))
