"""The sheet a frame is drawn on: what is drawn, as plain data in metres on paper; `paper` puts it on a figure.

>>> sheet = Sheet(project, View.named("iso"), members, "", "94 members")                  # doctest: +SKIP
>>> sheet.frame(); sheet.grid(); Drawing((sheet,)).save(Path("frame.png"))                # doctest: +SKIP
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from ...core.model.project import Project
from .view import View

Floats = NDArray[np.float64]
INK, FAINT, GRID = "#2f3640", "#c3c9d1", "#7d8794"
LOAD, POINT = "#c8641b", "#6d1a50"
PLUS, MINUS = "#0b4a7a", "#d9641e"
"""Dark blue and light vermilion: apart for every kind of colour blindness, and in black and white by lightness."""
SHAPE = "#1f7a4d"
PLATE = "#dfe4ea"
"""Structural surfaces."""
VEHICLE = "#5b3a8e"
ROUNDING = 1e-9
"""Of two values in one label, less than this share of the other is nothing."""
Style = str | tuple[float, tuple[float, ...]]
SLACK: Style = (0, (4, 3))
"""How members that do not act are dashed."""
Stroke = tuple[str, float, int, Style, str]
"""Colour, width, order, style and cap of lines."""
Fill = tuple[str, int, float]
"""Colour, order and strength of areas."""


@dataclass(frozen=True)
class Mark:
    """A symbol of one size on paper [points], and its colours; `paper` knows how each looks."""

    symbol: str
    face: str = "white"
    edge: str = INK
    size: float = 5.0
    order: int = 6


@dataclass(frozen=True)
class Word:
    """Text that stands where it stands."""

    at: Floats
    text: str
    across: str = "center"
    size: int = 8
    colour: str = GRID


@dataclass(frozen=True)
class Wish:
    """Text that may stand beside a place, if there is room: the weightiest first."""

    weight: float
    at: Floats
    text: str
    colour: str
    size: int = 8


@dataclass(frozen=True)
class Entry:
    """A line of the legend: words, and a line or a mark that they explain."""

    words: str
    line: tuple[str, float, Style] | None = None
    mark: Mark | None = None


Tops = Mapping[str, float]
"""The largest values, by kind [SI], that set the scale of a drawing."""
OWN: Tops = MappingProxyType({})
"""Each drawing's own."""


def _turn(loop: Floats) -> Floats:
    """Twice the area (3,) that a loop (n, 3) goes round, right-handed."""
    own = loop - loop[0]
    return np.asarray(np.cross(own, np.roll(own, -1, axis=0)).sum(axis=0))


class Sheet:
    """One drawing of a project, and of what; lengths below are in metres of the model unless said. `tops`: the largest
    values on it."""

    def __init__(self, project: Project, view: View, members: NDArray[np.intp], what: str, note: str) -> None:
        self.project, self.view, self.members, self.what = project, view, members, what
        self.note = note if not view.of else f"{note}; {view.of}".removeprefix("; ")
        self.strokes: dict[Stroke, list[Floats]] = {}
        self.fills: dict[Fill, list[Floats]] = {}
        self.faces: list[tuple[Floats, str]] = []
        self.marks: dict[Mark, list[Floats]] = {}
        self.words: list[Word] = []
        self.wishes: list[Wish] = []
        self.foot: list[tuple[str, str]] = []
        self.key: list[Entry] = []
        self.tops: dict[str, float] = {}
        nodes = np.unique(project.ends[members]) if len(members) else np.arange(len(project.nodes))
        self.corners = np.concatenate([project.xyz[nodes], *self._of_surfaces()])
        flat = view.flat(self.corners)
        self.size = float(max(np.ptp(flat, axis=0).max(), 1e-6)) if len(flat) else 1.0

    @property
    def title(self) -> str:
        """Of the project, and what of it is drawn."""
        name = self.project.title or self.project.file
        return f"{name}: {self.what}" if self.what else name

    def lines(
        self, paths: Sequence[Floats], colour: str, width: float = 1.0, order: int = 2, style: Style = "-"
    ) -> None:
        """Polylines (points, 3) in space."""
        self.strokes.setdefault((colour, width, order, style, "round"), []).extend(
            self.view.flat(np.asarray(p)) for p in paths
        )

    def areas(self, outlines: Sequence[Floats], colour: str, order: int = 3, strength: float = 0.25) -> None:
        """Filled outlines in space."""
        self.fills.setdefault((colour, order, strength), []).extend(self.view.flat(np.asarray(p)) for p in outlines)

    def arrows(self, tails: Floats, tips: Floats, colour: str, order: int = 4, width: float = 1.0) -> None:
        """Arrows from tails to tips (n, 3); their heads lie flat on paper."""
        if not len(tails):
            return
        a, b = self.view.flat(tails), self.view.flat(tips)
        length = np.linalg.norm(b - a, axis=1)
        seen = length > 1e-6 * self.size
        a, b, length = a[seen], b[seen], length[seen]
        along = (b - a) / length[:, None]
        head = np.minimum(0.012 * self.size, 0.6 * length)[:, None]
        side = np.column_stack([-along[:, 1], along[:, 0]]) * head * 0.38
        shafts = np.stack([a, b - along * head * 0.8], axis=1)
        heads = np.stack([b, b - along * head + side, b - along * head - side], axis=1)
        self.strokes.setdefault((colour, width, order, "-", "butt"), []).extend(shafts)
        self.fills.setdefault((colour, order, 1.0), []).extend(heads)

    def curls(self, at: Floats, axis: Floats, colour: str) -> None:
        """Moments at places (n, 3) as arcs around their axes (n, 3), turning right-handed."""
        radius = 0.022 * self.size
        angle = np.linspace(-0.2, 1.35 * np.pi, 24)
        for p, n in zip(at, axis, strict=True):
            u = np.cross(n, [0.0, 0.0, 1.0]) if abs(n[2]) < 0.9 else np.cross(n, [1.0, 0.0, 0.0])
            u /= np.linalg.norm(u)
            v = np.cross(n, u)
            arc = p + radius * (np.cos(angle)[:, None] * u + np.sin(angle)[:, None] * v)
            self.lines([arc], colour, 1.6, order=5)
            self.arrows(arc[-3:-2], arc[-1:], colour, order=5, width=1.6)

    def put(self, mark: Mark, at: Floats) -> None:
        """Marks at places (n, 3) in space."""
        self.marks.setdefault(mark, []).extend(self.view.flat(np.asarray(at).reshape(-1, 3)))

    def label(self, at: Floats, text: str, colour: str, weight: float = 1.0, size: int = 8) -> None:
        """Ask for a label at a place in space; the weightiest that fit are written."""
        self.wishes.append(Wish(weight, self.view.flat(at), text, colour, size))

    def say(self, text: str, colour: str = GRID) -> None:
        """A line at the foot of the sheet."""
        self.foot.append((text, colour))

    def explain(self, words: str, line: tuple[str, float, Style] | None = None, mark: Mark | None = None) -> None:
        """A line of the legend, once."""
        entry = Entry(words, line, mark)
        if entry not in self.key:
            self.key.append(entry)

    def frame(self, colour: str = INK, width: float = 1.6) -> None:
        """The chosen members strongly, the others faintly or not at all."""
        xyz, ends = self.project.xyz, self.project.ends
        chosen = np.zeros(len(ends), bool)
        chosen[self.members] = True
        if not self.view.alone:
            self.lines([xyz[e] for e in ends[~chosen]], FAINT, 0.8, order=1)
        self.lines([xyz[e] for e in ends[chosen]], colour, width)
        self.surfaces(colour)

    def _of_surfaces(self) -> list[Floats]:
        """The corners of structural surfaces, where the whole frame is drawn."""
        if self.view.alone:
            return []
        return [np.array(s.corners) for s in self.project.surfaces if s.plate is not None]

    def surfaces(self, colour: str) -> None:
        """Structural surfaces as shaded outlines, their openings left out, where the whole frame is drawn."""
        if self.view.alone:
            return
        for surface in self.project.surfaces:
            if surface.plate is None:
                continue
            outer = np.array(surface.corners)
            # An opening goes round the other way, or it would be filled too.
            around = [
                loop if _turn(loop) @ _turn(outer) < 0 else loop[::-1] for loop in map(np.array, surface.openings)
            ]
            loops = [np.vstack([loop, loop[:1]]) for loop in (outer, *around)]
            self.areas([np.vstack([*loops, *(loop[:1] for loop in loops[-2::-1])])], PLATE, 0, 0.5)
            self.lines(loops, colour, 1.0, order=1)

    def shown_nodes(self) -> NDArray[np.bool_]:
        """Which nodes (nodes,) are seen: all of them, or those of the chosen members alone."""
        if not self.view.alone:
            return np.ones(len(self.project.nodes), bool)
        seen = np.zeros(len(self.project.nodes), bool)
        seen[self.project.ends[self.members].ravel()] = True
        seen[self.project.nodes_on_members[1][np.isin(self.project.nodes_on_members[0], self.members)]] = True
        return seen

    def grid(self) -> None:
        """Grid lines at their foot, with their names in bubbles; levels by name at the side."""
        grid = self.project.grid
        if not grid or not len(self.corners):
            return
        low, high = self.corners.min(axis=0), self.corners.max(axis=0)
        reach = 0.06 * self.size
        for axis, other in (("x", "y"), ("y", "x")):
            a, b = "xyz".index(axis), "xyz".index(other)
            if abs(self.view.right[a]) + abs(self.view.up[a]) < 1e-6:
                continue
            for name, at in grid.get(axis, {}).items():
                if not low[a] - 1e-6 <= at <= high[a] + 1e-6 or not self._main(a, at):
                    continue
                start, end = low.copy(), low.copy()
                start[a] = end[a] = at
                end[b] = high[b]
                out = start.copy()
                if abs(self.view.right[b]) + abs(self.view.up[b]) < 1e-6:
                    out[2] -= reach
                else:
                    out[b] -= reach
                self.lines([np.array([out, end])], GRID, 0.6, order=0, style=(0, (6, 3)))
                # Across enough for its name.
                self.put(Mark("bubble", edge=GRID, size=max(13.0, 6.0 * len(name) + 6), order=1), out)
                self.words.append(Word(self.view.flat(out), name))
        if abs(self.view.up[2]) > 1e-6:
            for name, at in grid.get("z", {}).items():
                if low[2] - 1e-6 <= at <= high[2] + 1e-6 and self._main(2, at):
                    corner = min(
                        (np.array([x, y, at]) for x in (low[0], high[0]) for y in (low[1], high[1])),
                        key=lambda p: float(self.view.flat(p)[0]),
                    )
                    beside = self.view.flat(corner) - np.array([0.125 * self.size, 0.0])
                    self.words.append(Word(beside, name, "right"))
                    self.lines([np.array([corner, corner - self.view.right * 0.12 * self.size])], GRID, 0.6, order=0)

    def _main(self, axis: int, at: float) -> bool:
        """Whether a node of the drawing lies on that grid line."""
        return bool((np.abs(self.corners[:, axis] - at) < 1e-3).any())


def span(first: float, last: float) -> str:
    """One value, or the way from one to another; what is rounding beside the other is 0.

    >>> span(2.0, 2.0), span(0.335, 9.3e-12)
    ('2', '0.335 to 0')
    """
    largest = max(abs(first), abs(last))
    first, last = (0.0 if abs(v) < ROUNDING * largest else v for v in (first, last))
    return f"{first:.3g}" if np.isclose(first, last) else f"{first:.3g} to {last:.3g}"


def in_words(forces: Floats) -> str:
    """The components of a force for a caption; what is rounding beside the others is nought."""
    told = np.where(np.abs(forces) < 1e-9 * max(float(np.abs(forces).max(initial=0.0)), 1e-300), 0.0, forces)
    return ", ".join(f"F{axis} {v:.5g}" for axis, v in zip("xyz", told, strict=True))
