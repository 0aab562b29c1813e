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
from ...core.answers.stress_places import stress_stations
from ...core.model.project import Project
from ...core.model.results import Results
from ...core.model.words import Holds, Stress
from ...core.steel.checked import Checked
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
PIECES, MOST_MEMBERS = 20, 400
"""Shades along a member, of so many members at most."""
PIECES_MOVING, MOST_MOVING = 10, 60
"""The same where loads move."""
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
    _start(sheet)
    _shade(sheet, used, STEPS, known, fails)
    _explain(sheet, legend, known, bool(fails.any()), "beyond 1")
    _told(sheet, found.members, x, used, known, text)
    return sheet


def draw_stress(
    solution: Solution, results: Results, led_by: Stress, members: Ints, view: View, display: Display,
    fibres: Sequence[str] = (),
) -> Sheet:  # fmt: skip
    """The largest stress at any fibre of each member, or at those of some names, over results, in shades along it as
    shares of the largest of all; normal stress in magnitude. Raises NoFibre, TooMany."""
    project = solution.project
    table = stress_envelope(solution, results, members, led_by, fibres)
    title = f"largest {led_by} stress at {', '.join(fibres) or 'the fibres'}"
    value, x = np.zeros(len(members)), np.zeros(len(members))
    known = np.zeros(len(members), bool)
    case = [""] * len(members)
    place = {project.members[i].name: k for k, i in enumerate(members.tolist())}
    for name, stress, at, made in zip(table["member"], table[str(led_by)], table["x"], table["case"], strict=True):
        k = place[name]
        if not known[k] or abs(stress) > abs(value[k]):
            value[k], x[k], case[k], known[k] = stress, at, made, True
    over = f"over {len(results)} results, {results[0].name} to {results[-1].name}"
    if len(results) == 1:
        over = f"under {results[0].name}"
    elif known.any():
        over += f"; the largest under {case[int(np.abs(value).argmax())]}"
    sheet = Sheet(project, view, members, title, over)
    size, factor, unit = np.abs(value), display.factor("stress"), display.unit("stress")
    largest = float(size.max(initial=0.0))
    steps = [largest * s for s in (0.2, 0.4, 0.6, 0.8, 1.0)]
    legend = [f"to {s * factor:.4g} {unit}" for s in steps]
    _start(sheet)
    along = _along(solution, results, led_by, members[known], fibres)
    if along is None:
        _shade(sheet, size, steps, known, np.zeros(len(members), bool))
        sheet.say("members in the shade of their largest stress: name fewer with --on to see it along them")
    else:
        _shade_along(sheet, members[known], along, x[known], size[known], steps)
    _explain(sheet, legend, known, False, "")
    text = [f"{v * factor:.4g}" for v in value]
    _told(sheet, members, x, size, known, text)
    return sheet


def _along(solution: Solution, results: Results, led_by: Stress, members: Ints, fibres: Sequence[str]) -> Floats | None:
    """The largest stress at even stations of each member (members, stations); None where they are too many."""
    moves = any(r.moving for r in results)
    pieces, most = (PIECES_MOVING, MOST_MOVING) if moves else (PIECES, MOST_MEMBERS)
    if not 0 < len(members) <= most:
        return None
    table = stress_stations(solution, results, members, led_by, fibres, pieces + 1)
    place = {solution.project.members[m].name: k for k, m in enumerate(members.tolist())}
    member = np.array([place[name] for name in table["member"].tolist()], np.intp)
    step = solution.project.lengths[members[member]] / pieces
    station = np.round(table["x"] / step).astype(np.intp)
    out = np.zeros((len(members), pieces + 1))
    for column in (f"min {led_by}", f"max {led_by}"):
        if any(c.name == column for c in table.columns):
            np.maximum.at(out, (member, station), np.abs(table[column]))
    return out


def _shade_along(
    sheet: Sheet, members: Ints, along: Floats, x: Floats, largest: Floats, steps: Sequence[float]
) -> None:
    """Every piece between two stations in the shade of the larger of these; that with the exact extreme at x in its."""
    project, pieces = sheet.project, along.shape[1] - 1
    value = np.maximum(along[:, :-1], along[:, 1:])
    own = np.clip((x / project.lengths[members] * pieces).astype(np.intp), 0, pieces - 1)
    each = np.arange(len(members))
    value[each, own] = np.maximum(value[each, own], largest)
    step = np.minimum(np.searchsorted(np.asarray(steps), value * (1 - 1e-12)), len(steps) - 1)
    start, end = (project.xyz[project.ends[members, k]] for k in (0, 1))
    share = np.linspace(0.0, 1.0, pieces + 1)[None, :, None]
    point = start[:, None] + share * (end - start)[:, None]
    for k, (shade, width) in enumerate(zip(SHADES, WIDTHS, strict=True)):
        m, i = np.nonzero(step == k)
        ends = zip(point[m, i], point[m, i + 1], strict=True)
        sheet.lines([np.stack(pair) for pair in ends], shade, width, order=3)


def _start(sheet: Sheet) -> None:
    sheet.frame("#ffffff", 0.1)
    draw_supports(sheet, False)
    sheet.grid()


def _shade(
    sheet: Sheet, value: Floats, steps: Sequence[float], known: NDArray[np.bool_], beyond: NDArray[np.bool_]
) -> None:  # fmt: skip
    """Members in shades by steps of a value."""
    step = np.minimum(np.searchsorted(np.asarray(steps), value * (1 - 1e-12)), len(steps) - 1)
    line = [sheet.project.xyz[sheet.project.ends[m]] for m in sheet.members.tolist()]
    for k, (shade, width) in enumerate(zip(SHADES, WIDTHS, strict=True)):
        own = np.flatnonzero(known & ~beyond & (step == k))
        sheet.lines([line[i] for i in own], shade, width, order=3)
    sheet.lines([line[i] for i in np.flatnonzero(known & beyond)], MINUS, BEYOND, order=4)


def _explain(sheet: Sheet, legend: Sequence[str], known: NDArray[np.bool_], beyond: bool, beyond_words: str) -> None:
    """What the shades mean; and members without a value, dashed."""
    for words, shade, width in zip(legend, SHADES, WIDTHS, strict=True):
        sheet.explain(words, line=(shade, width, "-"))
    if beyond:
        sheet.explain(beyond_words, line=(MINUS, BEYOND, "-"))
    if not known.all():
        lost = sheet.members[~known]
        sheet.lines([sheet.project.xyz[sheet.project.ends[m]] for m in lost.tolist()], GRID, 1.2, order=3,
                    style=(0, (3, 3)))  # fmt: skip
        sheet.explain("not checked", line=(GRID, 1.2, (0, (3, 3))))


def _told(sheet: Sheet, members: Ints, x: Floats, value: Floats, known: NDArray[np.bool_], text: Sequence[str]) -> None:
    """Figures where they are found; the largest first."""
    project = sheet.project
    largest = float(value[known].max(initial=0.0))
    for k in np.flatnonzero(known & (value > TOLD * largest)).tolist():
        m = int(members[k])
        at = project.xyz[project.ends[m, 0]] + x[k] * project.axes[m, 0]
        sheet.label(at, text[k], INK, float(value[k] / largest))
