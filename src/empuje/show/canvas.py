"""The sheet a frame is drawn on: members, supports, grid bubbles, labels that keep out of each other's way."""

from __future__ import annotations

import warnings
import zlib
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.model.project import Project
from .output import write_whole
from .view import View

Floats = NDArray[np.float64]
INK, FAINT, GRID = "#2f3640", "#c3c9d1", "#8b95a3"
LOAD, POINT = "#c8641b", "#9c2f6f"
PLUS, MINUS = "#15719b", "#b8402f"
SHAPE = "#2b7a4b"
VEHICLE = "#5b3a8e"
SIZE = (12.8, 8.0)
DPI = 100
ROUNDING = 1e-9
"""Of two values in one label, less than this share of the other is nothing."""
Style = str | tuple[int, tuple[int, int]]
Stroke = tuple[str, float, int, Style, str]
"""Colour, width, order, style and cap of lines."""
Fill = tuple[str, int, float]
"""Colour, order and strength of areas."""


SETTINGS: dict[Any, Any] = {
    "svg.hashsalt": "empuje", "font.size": 9, "pdf.fonttype": 42, "text.hinting": "none", "text.parse_math": False,
}  # fmt: skip


def save_figure(figure: Any, path: Path) -> None:
    """As PNG, SVG or PDF by the path's ending; the same drawing gives the same bytes."""
    ending = path.suffix.lower().removeprefix(".")
    if ending == "png":
        write_whole(path, lambda p: _save_png(figure, p))
        return
    metadata = {"svg": {"Date": None}, "pdf": {"CreationDate": None}}[ending]
    write_whole(path, lambda p: figure.savefig(p, format=ending, metadata=metadata))


def pixels_of(figure: Any) -> NDArray[np.uint8]:
    """The figure as it is on paper (height, width, 3)."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg

    canvas: Any = FigureCanvasAgg(figure)
    canvas.draw()
    return np.ascontiguousarray(np.asarray(canvas.buffer_rgba())[..., :3])


def _save_png(figure: Any, path: Path) -> None:
    """Opaque, and packed as areas of one colour are packed fastest."""
    from PIL import Image

    Image.fromarray(pixels_of(figure)).save(path, "png", compress_level=1, compress_type=zlib.Z_RLE)


class Sheet:
    """A figure with one drawing; lengths below are in metres of the model unless said."""

    def __init__(self, project: Project, view: View, members: NDArray[np.intp], title: str, note: str) -> None:
        import matplotlib
        from matplotlib.figure import Figure

        matplotlib.rcParams.update(SETTINGS)
        self.project, self.view, self.members = project, view, members
        self.figure = Figure(figsize=SIZE, dpi=DPI, facecolor="white")
        self.axes: Any = self.figure.add_axes((0.03, 0.05, 0.94, 0.85))
        self.axes.set_aspect("equal", adjustable="datalim")
        self.axes.axis("off")
        self.figure.text(0.03, 0.955, title, fontsize=14, fontweight="bold", color=INK, va="center")
        self.figure.text(0.03, 0.918, note, fontsize=10, color=GRID, va="center")
        self.strokes: dict[Stroke, list[Floats]] = {}
        self.fills: dict[Fill, list[Floats]] = {}
        self.taken: list[tuple[float, float, float, float]] = []
        self.wishes: list[tuple[float, Floats, str, str, int]] = []
        nodes = np.unique(project.ends[members]) if len(members) else np.arange(len(project.nodes))
        self.corners = project.xyz[nodes]
        flat = view.flat(self.corners)
        self.size = float(max(np.ptp(flat, axis=0).max(), 1e-6)) if len(flat) else 1.0

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

    def _draw(self) -> None:
        """All lines and areas, those alike at once: many small collections are dear."""
        from matplotlib.collections import LineCollection, PolyCollection

        for (colour, width, order, style, cap), paths in self.strokes.items():
            self.axes.add_collection(
                LineCollection(paths, colors=colour, linewidths=width, zorder=order, linestyles=style, capstyle=cap),
                autolim=False,
            )
        for (colour, order, strength), outlines in self.fills.items():
            self.axes.add_collection(
                PolyCollection(outlines, facecolors=colour, alpha=strength, zorder=order, linewidths=0), autolim=False
            )
        seen = [path for paths in (*self.strokes.values(), *self.fills.values()) for path in paths]
        if seen:
            self.axes.update_datalim(np.concatenate(seen))

    def frame(self, colour: str = INK, width: float = 1.6) -> None:
        """The chosen members strongly, the others faintly."""
        xyz, ends = self.project.xyz, self.project.ends
        chosen = np.zeros(len(ends), bool)
        chosen[self.members] = True
        self.lines([xyz[e] for e in ends[~chosen]], FAINT, 0.8, order=1)
        self.lines([xyz[e] for e in ends[chosen]], colour, width)
        self.supports()

    def supports(self) -> None:
        """Squares where all rotations are held, triangles where none is, diamonds in between; circles on springs."""
        held: dict[int, NDArray[np.bool_]] = {}
        sprung: set[int] = set()
        for s in self.project.supports:
            held[s.node] = held.get(s.node, np.zeros(6, bool)) | np.array(s.held)
            if any(s.spring):
                sprung.add(s.node)
        turns = [4] if self.project.plane else [3, 4, 5]
        places: dict[str, list[Floats]] = {}
        for node, h in held.items():
            rotations = h[turns]
            mark = "o" if node in sprung else "s" if rotations.all() else "D" if rotations.any() else "^"
            places.setdefault(mark, []).append(self.view.flat(self.project.xyz[node]))
        for mark, at in places.items():
            size = 7 if mark == "^" else 5.5
            self.axes.plot(*np.transpose(at), mark, color="white", markeredgecolor=INK, markersize=size, zorder=6)

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
                self._bubble(out, name)
        if abs(self.view.up[2]) > 1e-6:
            for name, at in grid.get("z", {}).items():
                if low[2] - 1e-6 <= at <= high[2] + 1e-6 and self._main(2, at):
                    corner = min(
                        (np.array([x, y, at]) for x in (low[0], high[0]) for y in (low[1], high[1])),
                        key=lambda p: float(self.view.flat(p)[0]),
                    )
                    x, y = self.view.flat(corner)
                    self.axes.text(x - 0.125 * self.size, y, name, fontsize=8, color=GRID, ha="right", va="center")
                    self.lines([np.array([corner, corner - self.view.right * 0.12 * self.size])], GRID, 0.6, order=0)

    def _main(self, axis: int, at: float) -> bool:
        """Whether a node of the drawing lies on that grid line."""
        return bool((np.abs(self.corners[:, axis] - at) < 1e-3).any())

    def _bubble(self, at: Floats, name: str) -> None:
        x, y = self.view.flat(at)
        # A patch of its own for every text, as Matplotlib makes it, costs more than the text.
        across = max(13.0, 6.0 * len(name) + 6)
        self.axes.plot(x, y, "o", color="white", markeredgecolor=GRID, markeredgewidth=0.8, markersize=across, zorder=1)
        self.axes.text(x, y, name, fontsize=8, color=GRID, ha="center", va="center", zorder=1)

    def label(self, at: Floats, text: str, colour: str, weight: float = 1.0, size: int = 8) -> None:
        """Ask for a label at a place in space; the weightiest that fit are written."""
        self.wishes.append((weight, self.view.flat(at), text, colour, size))

    def _write_labels(self) -> None:
        self.axes.apply_aspect()
        to_pixels, back = self.axes.transData.transform, self.axes.transData.inverted().transform
        papers = []
        for _, at, text, colour, size in sorted(self.wishes, key=lambda w: -w[0]):
            x, y = to_pixels(at)
            half, tall = 0.30 * size * len(text) * DPI / 72 + 2, 0.62 * size * DPI / 72 + 1
            for dx, dy in ((0, 0), (0, 1.1), (0, -1.1), (1.05, 0), (-1.05, 0), (1.05, 1.1), (-1.05, -1.1), (0, 2.2)):
                cx, cy = x + dx * half, y + dy * tall * 1.6
                box = (cx - half, cy - tall, cx + half, cy + tall)
                if not any(box[0] < t[2] and box[2] > t[0] and box[1] < t[3] and box[3] > t[1] for t in self.taken):
                    self.taken.append(box)
                    papers.append(back([(box[i], box[j]) for i, j in ((0, 1), (2, 1), (2, 3), (0, 3))]))
                    where = back((cx, cy))
                    self.axes.text(*where, text, fontsize=size, color=colour, ha="center", va="center", zorder=9)
                    break
        if papers:
            from matplotlib.collections import PolyCollection

            self.axes.add_collection(
                PolyCollection(papers, facecolors="white", alpha=0.75, lw=0, zorder=8.9), autolim=False
            )

    def _triad(self) -> None:
        """The global axes, in the lower left corner."""
        width, height = self.figure.get_size_inches()
        centre = np.array([0.05, 0.075])
        for axis, name in enumerate("xyz"):
            d = np.array([self.view.right[axis], self.view.up[axis]]) * 0.04 * np.array([height / width, 1.0])
            if np.linalg.norm(d) < 1e-3:
                continue
            from matplotlib.lines import Line2D

            tip = centre + d
            self.figure.add_artist(Line2D([centre[0], tip[0]], [centre[1], tip[1]], color=GRID, lw=1.3))
            x, y = centre + 1.35 * d
            self.figure.text(x, y, name, fontsize=9, color=GRID, ha="center", va="center")

    def save(self, path: Path) -> None:
        """Write the sheet as PNG, SVG or PDF by the path's ending; the same drawing gives the same bytes."""
        with warnings.catch_warnings():
            warnings.filterwarnings("ignore", "Glyph")  # what the font has not is drawn as a box
            self._save(path)

    def finish(self) -> None:
        """Put everything on paper."""
        self._draw()
        self.axes.autoscale_view()
        self.axes.margins(0.06)
        self._write_labels()
        self._triad()

    def _save(self, path: Path) -> None:
        self.finish()
        save_figure(self.figure, path)


def span(first: float, last: float) -> str:
    """One value, or the way from one to another; what is rounding beside the other is 0.

    >>> span(2.0, 2.0), span(0.335, 9.3e-12)
    ('2', '0.335 to 0')
    """
    largest = max(abs(first), abs(last))
    first, last = (0.0 if abs(v) < ROUNDING * largest else v for v in (first, last))
    return f"{first:.3g}" if np.isclose(first, last) else f"{first:.3g} to {last:.3g}"


class Strip:
    """A figure with one diagram over a length, its axes labelled."""

    def __init__(self, title: str, note: str) -> None:
        import matplotlib
        from matplotlib.figure import Figure

        matplotlib.rcParams.update(SETTINGS)
        self.figure = Figure(figsize=SIZE, dpi=DPI, facecolor="white")
        self.axes: Any = self.figure.add_axes((0.08, 0.11, 0.89, 0.76))
        for side in ("top", "right"):
            self.axes.spines[side].set_visible(False)
        for side in ("left", "bottom"):
            self.axes.spines[side].set_color(GRID)
        self.axes.tick_params(colors=GRID)
        self.figure.text(0.03, 0.955, title, fontsize=14, fontweight="bold", color=INK, va="center")
        self.figure.text(0.03, 0.918, note, fontsize=10, color=GRID, va="center")

    def save(self, path: Path) -> None:
        """Write it as PNG, SVG or PDF by the path's ending; the same drawing gives the same bytes."""
        save_figure(self.figure, path)
