"""One member as a strip: its loads, forces and deflections below one another, each plane of bending in a column."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.analysis.pieces import FORCES
from ...core.analysis.solution import Solution
from ...core.answers.strips import MemberStrip, member_strip
from ...core.answers.table import MEMBER_KINDS
from ...core.model.results import Result
from ..display import Display
from .canvas import GRID, INK, LOAD, MINUS, PLUS, POINT, SHAPE
from .paper import SIZE, Strip, plain
from .placing import DPI, width_of

Floats = NDArray[np.float64]
NOTHING = 1e-6
"""Values below this share of the largest of their kind on the member have no panel."""
PLANES = (("z", 2, ("Vz", "My")), ("y", 1, ("Vy", "Mz")))
"""The plane of bending: the local axis in it, its number, and what belongs to it."""


def draw_strip(solution: Solution, result: Result, member: int, display: Display) -> Strip:
    """All there is along one member under one result; moments on the tension side."""
    project, found = solution.project, member_strip(solution, result, member)
    one = project.members[member]
    ends = (project.nodes[one.start].name, project.nodes[one.end].name)
    metres = display.unit("length")
    length = project.lengths[member] * display.factor("length")
    note = (f"{one.section.name}, {one.material.name}, {length:.4g} {metres} from {ends[0]} to {ends[1]}; "
            f"{result.what}")  # fmt: skip
    strip = Strip(f"{one.name} under {result.name}", note, axes=False)
    largest = _largest(found)
    planes = [p for p in PLANES if not project.plane or p[0] == "z"]
    planes = [p for p in planes if _bent(found, p, largest)] or planes[:1]
    along = [f for f in ("N", "T") if np.abs(found.force[:, FORCES.index(f)]).max() > NOTHING * largest[f]]
    columns: list[list[str]] = [["loads " + p[0], *p[2], "deflection " + p[0]] for p in planes]
    for i, force in enumerate(along):
        columns[i % len(columns)].insert(1, force)
    rows = max(map(len, columns))
    wide, tall = 0.925 / len(columns), 0.83 / rows
    for i, column in enumerate(columns):
        for k, what in enumerate(column):
            rect = (0.06 + wide * i, 0.895 - tall * (k + 1) + 0.022, wide - 0.055, tall - 0.045)
            axes: Any = strip.figure.add_axes(rect)
            plain(axes)
            last = k == len(column) - 1
            _panel(axes, found, what, display, rect[2] * SIZE[0] * DPI)
            _places(axes, solution, member, display, rect[2] * SIZE[0] * DPI if k == 0 else 0.0)
            if last:
                axes.set_xlabel(f"from {ends[0]} [{metres}]", color=GRID, fontsize=8, labelpad=1)
            axes.tick_params(labelbottom=last, labelsize=8)
    words = "member axes; moments on the tension side; deflection from the line between the displaced ends"
    strip.figure.text(0.97, 0.018, words, fontsize=8, color=GRID, ha="right")
    return strip


def _largest(found: MemberStrip) -> dict[str, float]:
    """The largest of each kind of force on the member, by force."""
    kinds = dict(MEMBER_KINDS)
    size = {f: float(np.abs(found.force[:, i]).max()) for i, f in enumerate(FORCES)}
    return {f: max(size[g] for g in FORCES if kinds[g] == kinds[f]) or 1.0 for f in FORCES}


def _bent(found: MemberStrip, plane: tuple[str, int, tuple[str, str]], largest: dict[str, float]) -> bool:
    return any(np.abs(found.force[:, FORCES.index(f)]).max() > NOTHING * largest[f] for f in plane[2])


def _panel(axes: Any, found: MemberStrip, what: str, display: Display, pixels: float) -> None:
    """One panel: loads, a force, or a deflection."""
    length = display.factor("length")
    axes.axhline(0, color=INK, lw=1.2, zorder=3)
    if what.startswith("loads"):
        _loads(axes, found, "xyz".index(what[-1]), display, pixels)
    else:
        if what.startswith("deflection"):
            kind, value = "displacement", found.deflection[:, "yz".index(what[-1])]
            name, colours = f"deflection {what[-1]}", (SHAPE, SHAPE)
        else:
            kind, value = dict(MEMBER_KINDS)[what], found.force[:, FORCES.index(what)]
            name, colours = what, (PLUS, MINUS)
        v, x = value * display.factor(kind), found.x * length
        for sign, colour in zip((1, -1), colours, strict=True):
            axes.fill_between(x, v, 0, where=sign * v >= 0, color=colour, alpha=0.25, lw=0, interpolate=True)
        axes.plot(x, v, color=INK, lw=1.3, zorder=4)
        if what in ("My", "Mz"):
            axes.invert_yaxis()
        axes.margins(x=0.02, y=0.22)
        _told(axes, x, v, found.breaks * length, colours, pixels, what)
        axes.set_ylabel(f"{name}\n[{display.unit(kind)}]", color=INK, fontsize=8)
    axes.set_xlim(-0.02 * found.x[-1] * length, 1.02 * found.x[-1] * length)


def _told(axes: Any, x: Floats, v: Floats, breaks: Floats, colours: tuple[str, str], pixels: float, what: str) -> None:
    """The extremes, then the values at both sides of every break, where there is room."""
    largest = float(np.abs(v).max(initial=0.0))
    if largest <= 0:
        return
    first = [int(v.argmax()), int(v.argmin())]
    at_breaks = np.flatnonzero(np.isclose(x[:, None], breaks, atol=1e-9 * max(x[-1], 1.0)).any(axis=1)).tolist()
    taken: list[tuple[bool, float, float]] = []
    said: set[tuple[float, str]] = set()
    for i in [*first, *sorted(at_breaks, key=lambda i: -abs(v[i]))]:
        text = f"{abs(v[i]):.4g} {'T' if v[i] > 0 else 'C'}" if what == "N" else f"{v[i]:.4g}"
        if abs(v[i]) < 1e-3 * largest or (round(float(x[i]), 6), text) in said:
            continue
        half = width_of(text, 8) / 2 + 4
        centre = float(np.clip(x[i] / x[-1] * pixels, half, pixels - half))
        below = bool((v[i] < 0) != (what in ("My", "Mz")))
        if any(side == below and abs(centre - c) < half + h for side, c, h in taken):
            continue
        taken.append((below, centre, half))
        said.add((round(float(x[i]), 6), text))
        colour = colours[0] if v[i] > 0 else colours[1]
        axes.annotate(text, (centre / pixels * x[-1], v[i]), textcoords="offset points",
                      xytext=(0, -10 if below else 4), fontsize=8, ha="center", color=colour, zorder=9)  # fmt: skip


def _loads(axes: Any, found: MemberStrip, axis: int, display: Display, pixels: float) -> None:
    """Line loads as bands on the side they come from, forces as arrows, moments as words."""
    length, line = display.factor("length"), display.factor("line")
    x, q = found.q_x * length, found.q[:, axis] * line
    tallest = float(np.abs(q).max(initial=0.0))
    taken: list[tuple[float, float]] = []

    def told(at: float, height: float, text: str, colour: str) -> None:
        half = width_of(text, 8) / 2 + 4
        centre = float(np.clip(at / (found.x[-1] * length) * pixels, half, pixels - half))
        if not any(abs(centre - c) < half + h for c, h in taken):
            taken.append((centre, half))
            axes.annotate(text, (centre / pixels * found.x[-1] * length, height), textcoords="offset points",
                          xytext=(0, 4 if height >= 0 else -11), fontsize=8, ha="center", color=colour)  # fmt: skip

    f, moments = found.point[:, axis] * display.factor("force"), found.point[:, 3:] * display.factor("moment")
    strongest = float(np.abs(f).max(initial=0.0))
    for k in np.flatnonzero(np.abs(f) > NOTHING * strongest).tolist():
        # What pushes down stands above the member.
        tail = -np.sign(f[k]) * (0.5 + 0.6 * abs(f[k]) / strongest)
        at = found.point_x[k] * length
        axes.annotate("", (at, 0), (at, tail), arrowprops={"arrowstyle": "-|>", "color": POINT, "lw": 1.6}, zorder=5)
        told(at, tail, f"{abs(f[k]):.4g} {display.unit('force')}", POINT)
    # What turns in this plane; what turns about the member's own axis is told in the first plane.
    for about in (3 - axis, 0) if axis == 2 else (3 - axis,):
        m = moments[:, about]
        for k in np.flatnonzero(np.abs(m) > NOTHING * max(float(np.abs(m).max(initial=0.0)), 1e-12)).tolist():
            at, words = found.point_x[k] * length, f"{m[k]:.4g} {display.unit('moment')} about {'xyz'[about]}"
            axes.plot([at], [0], marker="o", color="white", markeredgecolor=POINT, ms=7, zorder=6)
            told(at, -0.3, words, POINT)
    for k in range(0, len(x), 2):
        v = -q[k : k + 2] / tallest * 0.8 if tallest else q[k : k + 2]
        if np.abs(v).max() <= NOTHING:
            continue
        axes.fill_between(x[k : k + 2], v, 0, color=LOAD, alpha=0.25, lw=0)
        axes.plot([x[k], *x[k : k + 2], x[k + 1]], [0, *v, 0], color=LOAD, lw=1.0)
        for at, height in zip(np.linspace(x[k], x[k + 1], 9)[1::2], np.linspace(v[0], v[1], 9)[1::2], strict=True):
            if abs(height) > 0.1:
                axes.annotate("", (at, 0), (at, height), arrowprops={"arrowstyle": "-|>", "color": LOAD, "lw": 0.8})
        a, b = np.abs(q[k : k + 2])
        text = f"{a:.4g}" if np.isclose(a, b) else f"{a:.4g} to {b:.4g}"
        told(float(x[k : k + 2].mean()), float(v.mean()), f"{text} {display.unit('line')}", LOAD)
    axes.set_ylim(-1.5, 1.5)
    axes.set_yticks([])
    axes.set_ylabel(f"loads\nlocal {'xyz'[axis]}", color=INK, fontsize=8)


def _places(axes: Any, solution: Solution, member: int, display: Display, named: float) -> None:
    """The nodes on the member, with their names where there are `named` pixels for them."""
    project = solution.project
    on, node, s = project.nodes_on_members
    own = on == member
    last = -np.inf
    for k, at in sorted(zip(node[own].tolist(), s[own].tolist(), strict=True), key=lambda p: p[1]):
        axes.axvline(at * display.factor("length"), color=GRID, lw=0.6, ls=(0, (6, 3)), zorder=0)
        wide = width_of(project.nodes[k].name, 7)
        where = at / float(project.lengths[member]) * named
        if named and where - wide / 2 > last:
            last = where + wide / 2 + 4
            place = (at * display.factor("length"), 1.0)
            axes.annotate(project.nodes[k].name, place, xycoords=("data", "axes fraction"), ha="center", va="bottom",
                          fontsize=7, color=GRID)  # fmt: skip
