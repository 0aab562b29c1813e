"""Forces in structural surfaces as shaded bands with labelled contour lines, and the elements they are cut into.

Signs are told without colour: lines of negative values are dashed, that of zero is thick.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ...core.analysis.solution import Solution
from ...core.answers.plate_points import PRINCIPAL_KINDS, principal
from ...core.answers.plates import PLATE_KINDS, plate_forces
from ...core.model.plates import Plates
from ...core.model.project import Project
from ...core.model.results import Result
from ..display import Display
from .canvas import GRID, INK, MINUS, OWN, PLUS, SHAPE, Mark, Sheet, Tops
from .draw_vehicle import draw_vehicles
from .over_plates import NEGATIVE, draw_crosses, draw_cut, hidden
from .symbols import draw_supports
from .view import View

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
KINDS_DRAWN = {name: kind for name, kind in (*PLATE_KINDS, *PRINCIPAL_KINDS) if kind != "angle"}
BANDS = 10
"""About so many between the least and the greatest value."""
STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)
HELD = "#9aa2ad"
"""The footprints of columns."""
AT_EDGE = 1e-9


def draw_plates(
    solution: Solution, result: Result, of: str, surfaces: Sequence[int], members: Ints, view: View, display: Display,
    tops: Tops = OWN, cut: tuple[Floats, Floats] | None = None,
) -> Sheet:  # fmt: skip
    """One component, or principal value, under one result on some structural surfaces; with a `cut` between two points
    what passes through it. Raises NoCut."""
    project, forces = solution.model.project, plate_forces(solution)
    kind = KINDS_DRAWN[of]
    names = ", ".join(project.surfaces[i].name for i in surfaces)
    sheet = Sheet(project, view, members, f"{of} of {names} under {result.name}", result.what)
    sheet.frame(GRID, 1.0)
    draw_supports(sheet, False)
    sheet.grid()
    p = forces.fields.patches
    every = (forces.every @ solution.weights([result]))[:, :, 0]
    value = _drawn(every, of) * display.factor(kind)
    own = np.isin(forces.plates.surface, list(surfaces))
    if of == "sag":  # what nothing holds has none
        own &= np.isin(forces.plates.surface, list(forces.planes))
    shown = own & ~p.rigid
    there = np.unique(p.place[shown])
    there = there[there >= 0]
    if not len(there):
        return sheet
    low, high = float(value[there].min()), float(value[there].max())
    sheet.tops["plates"] = max(abs(low), abs(high))
    top = max(tops.get("plates", 0.0), abs(low), abs(high))
    levels = levels_between(min(low, 0.0) if low < 0 else low, high, 2 * top if tops else high - low)
    corners, values = _triangles(p.place[shown], forces.xyz, value)
    largest = max(abs(levels[0]), abs(levels[-1]))
    faces: list[tuple[Floats, str]] = []
    for a, b in zip(levels[:-1].tolist(), levels[1:].tolist(), strict=True):
        colour = shade((a + b) / 2 / largest if largest else 0.0)
        faces += [(piece, colour) for piece in _between(corners, values, a, b)]
        sheet.explain(f"{a:g}" if sheet.key else f"from {a:g}", mark=Mark("s", colour, GRID, 9.0))
    faces += [(corner, HELD) for corner in forces.xyz[p.place[own & p.rigid]]]
    # What is further away is painted first, so that a slab hides the wall below it.
    faces.sort(key=lambda face: float(face[0].mean(axis=0) @ view.towards))
    sheet.faces += [(view.flat(piece), colour) for piece, colour in faces]
    _outlines(sheet, forces.plates, surfaces)
    for level in levels.tolist():
        segments = _along(corners, values, level)
        segments = segments[~hidden(project, surfaces, segments.mean(axis=1), view)]
        if not len(segments):
            continue
        nought = abs(level) < AT_EDGE * max(largest, 1e-300)
        style = NEGATIVE if level < 0 and not nought else "-"
        sheet.lines(list(segments), INK, 1.4 if nought else 0.7, order=4, style=style)
        middle = segments.mean(axis=1)
        chosen = middle[np.linalg.norm(middle - np.median(middle, axis=0), axis=1).argmin()]
        sheet.label(chosen, f"{level:g}", INK, 1.0 + abs(level) / max(largest, 1e-300), 8)
    for place, words in ((there[value[there].argmin()], "min"), (there[value[there].argmax()], "max")):
        sheet.put(Mark("o", "white", INK, 5.0, 8), forces.xyz[place])
        sheet.label(forces.xyz[place], f"{words} {value[place]:.4g}", PLUS if value[place] >= 0 else MINUS, 5.0, 9)
    sheet.say(f"{of} in {display.unit(kind)}: {low:.4g} to {high:.4g}; dashed lines: negative")
    if of in dict(PRINCIPAL_KINDS):
        draw_crosses(sheet, forces, every, of[0], surfaces, there)
    draw_vehicles(sheet, solution.model, result, display)
    if cut is not None:
        draw_cut(sheet, forces, result, of, surfaces, cut, display)
    return sheet


def _drawn(every: Floats, of: str) -> Floats:
    """What is asked for (places,) from all components (places, 11)."""
    if of in dict(PRINCIPAL_KINDS):
        first = 3 if of[0] == "m" else 0
        return principal(*every[:, first : first + 3].T)[0 if of.endswith("1") else 1]
    return every[:, [name for name, _ in PLATE_KINDS].index(of)]


def levels_between(low: float, high: float, span: float) -> Floats:
    """Round values from below the least to above the greatest, zero among them.

    >>> levels_between(-3.0, 16.0, 19.0).tolist()
    [-4.0, -2.0, 0.0, 2.0, 4.0, 6.0, 8.0, 10.0, 12.0, 14.0, 16.0]
    """
    size = max(span, 1e-12)
    raw = size / BANDS
    power = 10.0 ** np.floor(np.log10(raw))
    step = power * next(s for s in STEPS if s >= raw / power - 1e-9)
    first, last = np.floor(low / step + 1e-9), np.ceil(high / step - 1e-9)
    return np.asarray(np.arange(first, max(last, first + 1) + 0.5) * step)


def shade(share: float) -> str:
    """White for nothing, blue for positive and vermilion for negative values, by their share of the largest.

    >>> shade(0.0), shade(1.0) == PLUS, shade(-1.0) == MINUS
    ('#ffffff', True, True)
    """
    full = PLUS if share >= 0 else MINUS
    t = min(abs(share), 1.0)
    parts = [int(full[i : i + 2], 16) for i in (1, 3, 5)]
    return "#" + "".join(f"{round(255 + (c - 255) * t):02x}" for c in parts)


def _triangles(place: Ints, xyz: Floats, value: Floats) -> tuple[Floats, Floats]:
    """Corners (n, 3, 3) and values (n, 3) of triangles: quadrilaterals in four around their middles."""
    four = place[place[:, 3] >= 0]
    three = place[place[:, 3] < 0][:, :3]
    corners, values = [xyz[three]], [value[three]]
    middle, mean = xyz[four].mean(axis=1), value[four].mean(axis=1)
    for i in range(4):
        a, b = four[:, i], four[:, (i + 1) % 4]
        corners.append(np.stack([xyz[a], xyz[b], middle], axis=1))
        values.append(np.stack([value[a], value[b], mean], axis=1))
    return np.concatenate(corners), np.concatenate(values)


def _between(corners: Floats, values: Floats, low: float, high: float) -> list[Floats]:
    """The parts of triangles whose values lie between two levels."""
    near = (values.max(axis=1) >= low) & (values.min(axis=1) <= high)
    whole = near & (values.min(axis=1) >= low) & (values.max(axis=1) <= high)
    out = list(corners[whole])
    for at, v in zip(corners[near & ~whole], values[near & ~whole], strict=True):
        piece, own = _half(at, v, low, 1.0)
        if len(piece) > 2:
            piece, own = _half(piece, own, high, -1.0)
        if len(piece) > 2:
            out.append(piece)
    return out


def _half(at: Floats, v: Floats, level: float, sign: float) -> tuple[Floats, Floats]:
    """What of a polygon lies above a level (sign 1) or below it (-1)."""
    points, values = [], []
    for i in range(len(at)):
        j = (i + 1) % len(at)
        a, b = sign * (v[i] - level), sign * (v[j] - level)
        if a >= 0:
            points.append(at[i])
            values.append(v[i])
        if (a < 0) != (b < 0):
            t = a / (a - b)
            points.append(at[i] + t * (at[j] - at[i]))
            values.append(v[i] + t * (v[j] - v[i]))
    return np.array(points), np.array(values)


def _along(corners: Floats, values: Floats, level: float) -> Floats:
    """Where triangles have a value: segments (n, 2, 3)."""
    above = values >= level
    cut = above.any(axis=1) & ~above.all(axis=1)
    at, v, up = corners[cut], values[cut], above[cut]
    odd = np.where(up.sum(axis=1) == 1, up.argmax(axis=1), (~up).argmax(axis=1))
    row = np.arange(len(at))
    ends = []
    for step in (1, 2):
        other = (odd + step) % 3
        t = ((level - v[row, odd]) / (v[row, other] - v[row, odd]))[:, None]
        ends.append(at[row, odd] * (1 - t) + at[row, other] * t)
    return np.stack(ends, axis=1)


def _outlines(sheet: Sheet, plates: Plates, before: Sequence[int] = ()) -> None:
    """The lines that elements follow; those behind surfaces that stand `before` them faint."""
    edges = sheet.project.places[plates.edge]
    behind = hidden(sheet.project, before, edges.mean(axis=1), sheet.view)
    sheet.lines(list(edges[~behind]), INK, 1.0, order=3)
    sheet.lines(list(edges[behind]), GRID, 0.6, order=3, style=NEGATIVE)


def draw_mesh(project: Project, members: Ints, view: View, display: Display) -> Sheet:
    """The elements that structural surfaces are cut into, with the lines they follow."""
    plates = project.plates
    assert plates is not None
    count = " and ".join(
        f"{len(g.node):,} {word}" for g, word in zip(plates.groups, ("triangles", "quadrilaterals"), strict=True)
        if len(g.node)
    )  # fmt: skip
    sheet = Sheet(project, view, members, "elements of structural surfaces", count)
    sheet.frame(GRID, 1.2)
    draw_supports(sheet, False)
    sheet.grid()
    places = project.places
    for group in plates.groups:
        sheet.lines([places[np.append(node, node[0])] for node in group.node], SHAPE, 0.4, order=2)
    _outlines(sheet, plates)
    held = places[np.unique(plates.tied)]
    if len(held):
        mark = Mark("o", HELD, HELD, 3.0, 5)
        sheet.put(mark, held)
        sheet.explain("held rigidly by a column", mark=mark)
    sizes = [f"{s.name} {plates.length[i] * display.factor('length'):.3g} {display.unit('length')}"
             for i, s in enumerate(project.surfaces) if s.plate is not None]  # fmt: skip
    sheet.say("length of mesh: " + ", ".join(sizes))
    return sheet
