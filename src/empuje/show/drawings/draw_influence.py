"""An influence line, drawn along its way."""

from __future__ import annotations

from ...core.analysis.moving.mover import Mover
from ...core.answers.influence import Influence
from ...core.model.project import Project
from ..display import Display
from .canvas import GRID, INK, MINUS, PLUS
from .paper import Strip

PER_LEG = 48
NOT_TOLD = 1e-3
"""An extreme below this share of the other is not marked."""


def influence_words(mover: Mover, way: int, line: Influence, display: Display) -> list[str]:
    """The force, the extremes and the areas in words."""
    kind = line.asked.kind
    unit, factor, length = display.unit(kind), display.factor(kind), display.factor("length")
    force = 1 / display.factor("force")
    (s0, low), (s1, high) = line.extremes
    below, above = line.areas
    one = mover.laid.ways[way]
    metres = display.unit("length")
    at = ""
    if line.asked.target.what == "force":
        at = f" at {line.asked.x * length:.4g} {metres}"
    return [
        f"{line.asked.name}{at}: for a force of 1 {display.unit('force')} down along {one.way.text}, "
        f"{one.length * length:.4g} {metres} long",
        f"least {low * force * factor:.4g} {unit} at {s0 * length:.4g} {metres}, greatest {high * force * factor:.4g} "
        f"{unit} at {s1 * length:.4g} {metres}",
        f"areas: {below * force * factor * length:.4g} below and {above * force * factor * length:.4g} {unit}*{metres} "
        f"above zero, together {(below + above) * force * factor * length:.4g}",
    ]  # fmt: skip


def draw_influence(project: Project, mover: Mover, way: int, line: Influence, display: Display) -> Strip:
    """The line over the way, with its nodes, extremes and areas."""
    kind = line.asked.kind
    force = 1 / display.factor("force")
    scale, length = force * display.factor(kind), display.factor("length")
    words = influence_words(mover, way, line, display)
    one = mover.laid.ways[way]
    strip = Strip(f"{project.title or project.file}: influence line of {words[0].split(':')[0]}",
                  words[0].split(": ", 1)[1])  # fmt: skip
    s, v = line.sampled(PER_LEG)
    axes = strip.axes
    axes.axhline(0, color=INK, lw=1.4, zorder=3)
    axes.fill_between(s * length, v * scale, 0, where=v >= 0, color=PLUS, alpha=0.25, lw=0, interpolate=True)
    axes.fill_between(s * length, v * scale, 0, where=v <= 0, color=MINUS, alpha=0.25, lw=0, interpolate=True)
    axes.plot(s * length, v * scale, color=INK, lw=1.6, zorder=4)
    for at, value in line.extremes:
        if abs(value) > NOT_TOLD * max(abs(e[1]) for e in line.extremes):
            axes.plot([at * length], [value * scale], "o", color=PLUS if value > 0 else MINUS, ms=5, zorder=5)
            axes.annotate(f"{value * scale:.4g} at {at * length:.4g}", (at * length, value * scale),
                          textcoords="offset points", xytext=(0, 9 if value > 0 else -14),
                          ha=_side(at, one.length), fontsize=10,
                          color=PLUS if value > 0 else MINUS)  # fmt: skip
    path = one.path
    for place in path.begin.tolist():
        axes.axvline(place * length, color=GRID, lw=0.6, ls=(0, (6, 3)), zorder=0)
    axes.set_xlabel(f"along {one.way.text} [{display.unit('length')}]", color=GRID)
    axes.set_ylabel(f"{line.asked.target.of} [{display.unit(kind)}]", color=GRID)
    axes.margins(x=0.02, y=0.14)
    strip.figure.text(0.97, 0.025, "; ".join(words[1:]), fontsize=9, color=GRID, ha="right")
    return strip


def _side(at: float, length: float) -> str:
    """On which side of a place its label stands: within the diagram."""
    return "left" if at < 0.06 * length else "right" if at > 0.94 * length else "center"
