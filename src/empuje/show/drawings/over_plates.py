"""What is drawn over shaded surfaces: directions of principal values as crosses, a cut with what passes through it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.answers.plate_cuts import CUT_KINDS, cuts_of, resultants
from ...core.answers.plate_points import principal
from ...core.answers.plates import PLATE_KINDS, PlateForces
from ...core.model.project import Project
from ...core.model.results import Result
from ...core.surfaces.plane import plane_of
from ..display import Display
from .canvas import INK, MINUS, PLUS, Sheet
from .view import View

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
NEGATIVE = (0, (4, 2))
BEHIND = 1e-6
"""What is so far [m] behind a surface, as one sees it, is hidden by it."""
CROSSES = 26
"""About so many along the longer side of the picture."""
LONGEST = 0.9
"""The longest arm of a cross, as a share of the distance between two."""
FAINT = 0.03
"""Arms shorter than this share of the longest are left out."""
CUT_HEIGHT = 0.09
"""The largest value of a cut's diagram, as a share of the picture."""
EDGE_ON = 0.35
"""A diagram that would stand up at less than this from the line of sight lies in the surface."""


def hidden(project: Project, surfaces: Sequence[int], points: Floats, view: View) -> Bools:
    """Which points (n, 3) lie behind one of some surfaces."""
    out = np.zeros(len(points), bool)
    for i in surfaces:
        outline = plane_of(project.surfaces[i])[0]
        slant = float(outline.normal @ view.towards) if outline is not None else 0.0
        if outline is None or abs(slant) < BEHIND:
            continue
        ahead = -outline.height(points) / slant
        over = np.flatnonzero(ahead > BEHIND)
        flat = outline.flat(points[over] + ahead[over, None] * view.towards)
        out[over] |= shapely.contains_xy(outline.polygon, *flat.T)
    return out


def draw_crosses(
    sheet: Sheet, forces: PlateForces, value: Floats, kind: str, surfaces: Sequence[int], there: Ints
) -> None:
    """Principal values of moments (`kind` m) or forces in the plane (n) at some of the places `there`: arms as long as
    the values, solid where positive, dashed where negative; `value` (places, 11): components under one result."""
    first = 3 if kind == "m" else 0
    one, two, angle = principal(*value[:, first : first + 3].T)
    apart = sheet.size / CROSSES
    cell = np.floor(forces.xyz[there] / apart)
    chosen = there[np.unique(cell, axis=0, return_index=True)[1]]
    chosen = chosen[~forces.peaks[chosen]]  # beside these all others would be short
    chosen = chosen[np.isfinite(angle[chosen]) & ~hidden(sheet.project, surfaces, forces.xyz[chosen], sheet.view)]
    largest = float(np.abs(np.concatenate([one[chosen], two[chosen], [0.0]])).max())
    if not largest:
        return
    axes = forces.plates.axes[forces.fields.patches.surface[chosen]]
    for size, turn in ((one[chosen], angle[chosen]), (two[chosen], angle[chosen] + np.pi / 2)):
        way = np.cos(turn)[:, None] * axes[:, 0] + np.sin(turn)[:, None] * axes[:, 1]
        arm = LONGEST / 2 * apart * (np.abs(size) / largest)[:, None] * way
        strokes = np.stack([forces.xyz[chosen] - arm, forces.xyz[chosen] + arm], axis=1)
        seen = np.abs(size) > FAINT * largest
        sheet.lines(list(strokes[seen & (size > 0)]), PLUS, 1.2, order=6)
        sheet.lines(list(strokes[seen & (size < 0)]), MINUS, 1.2, order=6, style=NEGATIVE)
    what = "the strip that the moment bends" if kind == "m" else "the force"
    sheet.say(f"crosses: an arm lies along {what}, as long as its value (none beside peaks); dashed: negative")


def draw_cut(
    sheet: Sheet, forces: PlateForces, result: Result, of: str, surfaces: Sequence[int], ends: tuple[Floats, Floats],
    display: Display,
) -> None:  # fmt: skip
    """A component along a cut as a diagram on it, and what passes through it in words. Raises NoCut."""
    solution = forces.solution
    k = [name for name, _ in PLATE_KINDS].index(of)
    kind, weight = dict(PLATE_KINDS)[of], solution.weights([result])
    every = forces.every @ weight
    for cut in cuts_of(forces, surfaces, *ends):
        share = cut.from_middle / cut.length + 0.5
        at = ends[0] + share[:, None] * (ends[1] - ends[0])
        value = (cut.of_places @ every[:, k])[:, 0] * display.factor(kind)
        value[(cut.of_places @ forces.rigid.astype(float)) > 0.5] = 0.0
        top = float(np.abs(value).max())
        axes = forces.plates.axes[cut.surface]
        up = axes[2] if abs(axes[2] @ sheet.view.towards) < np.sqrt(1 - EDGE_ON**2) else cut.normal @ axes[:2]
        crest = at + (CUT_HEIGHT * sheet.size / top if top else 0.0) * value[:, None] * up
        parts = list(zip(np.split(at, cut.after_gap), np.split(crest, cut.after_gap), strict=True))
        sheet.areas([np.vstack([foot, top[::-1]]) for foot, top in parts], INK, order=7, strength=0.2)
        sheet.lines([np.vstack([foot[:1], top, foot[-1:]]) for foot, top in parts], INK, 1.4, order=8)
        sheet.lines([np.stack(ends)], INK, 1.8, order=8)
        for i in dict.fromkeys((int(value.argmin()), int(value.argmax()))):
            sheet.label(crest[i], f"{value[i]:.4g}", PLUS if value[i] >= 0 else MINUS, 6.0, 9)
        total = resultants(cut, forces.every) @ weight
        words = ", ".join(
            f"{name} {float(v) * display.factor(unit):.4g} {display.unit(unit)}"
            for (name, unit), v in zip(CUT_KINDS, total[:, 0], strict=True)
        )
        name = solution.project.surfaces[cut.surface].name
        sheet.say(f"through the cut of {name}, {cut.length * display.factor('length'):.4g} "
                  f"{display.unit('length')} long: {words}")  # fmt: skip
