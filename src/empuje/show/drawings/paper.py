"""Sheets on paper: one, or several beside one another on one scale, as PNG, SVG or PDF."""

from __future__ import annotations

import io
import re
import warnings
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from ..output import write_whole
from .canvas import GRID, INK, Entry, Mark, Sheet
from .pens import SYMBOLS
from .placing import DPI, MOST_LABELS, Box, width_of, write

Floats = NDArray[np.float64]
Rect = tuple[float, float, float, float]
SIZE = (12.8, 8.0)
MOST_PATHS, FINE_DPI = 6_000, 180
"""Drawings of more lines and areas than these are no SVG in a page but an image, so fine."""
SMALL = 0.6
"""Of several sheets on one paper lines, marks and the number of labels shrink so."""
SETTINGS: dict[Any, Any] = {
    "svg.hashsalt": "empuje", "font.size": 9, "pdf.fonttype": 42, "text.hinting": "none", "text.parse_math": False,
    "svg.fonttype": "none",
}  # fmt: skip


@dataclass(frozen=True)
class Drawing:
    """Sheets of one model for one paper."""

    sheets: tuple[Sheet, ...]

    def figure(self, size: tuple[float, float] = SIZE) -> Any:
        """Everything put on paper of a size [in]: a Matplotlib figure."""
        return figure_of(self.sheets, size)[0]

    def save(self, path: str | Path) -> None:
        """Write it as PNG, SVG or PDF by the path's ending; the same drawing gives the same bytes.

        Raises ValueError for another ending.
        """
        with warnings.catch_warnings():
            warnings.filterwarnings("ignore", "Glyph")  # what the font has not is drawn as a box
            save_figure(self.figure(), Path(path))

    def _repr_svg_(self) -> str:
        """A notebook shows it so."""
        return self.svg()

    def png(self) -> bytes:
        """As a PNG image, which looks the same on every run."""
        from PIL import Image

        out = io.BytesIO()
        with warnings.catch_warnings():
            warnings.filterwarnings("ignore", "Glyph")
            Image.fromarray(pixels_of(self.figure())).save(out, "png", optimize=True)
        return out.getvalue()

    def svg(self, size: tuple[float, float] = SIZE) -> str:
        """As an SVG element, of a size [in]: on a smaller one words are larger beside the frame. What has very many
        lines is painted, and the element holds that image."""
        count = sum(sum(map(len, (*s.strokes.values(), *s.fills.values()))) + len(s.faces) for s in self.sheets)
        figure = self.figure(size)
        return svg_of(figure) if count <= MOST_PATHS else _painted(figure)


def _painted(figure: Any) -> str:
    """A figure as an SVG element around its image."""
    import base64

    from PIL import Image

    wide, high = figure.get_size_inches() * 72
    figure.set_dpi(FINE_DPI)
    out = io.BytesIO()
    Image.fromarray(pixels_of(figure)).convert("P", palette=Image.Palette.ADAPTIVE, colors=128).save(out, "png")
    data = base64.b64encode(out.getvalue()).decode()
    names = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    image = f'<image width="{wide:g}" height="{high:g}" xlink:href="data:image/png;base64,{data}"/>'
    return f'<svg {names} viewBox="0 0 {wide:g} {high:g}">{image}</svg>'


def save_figure(figure: Any, path: Path) -> None:
    """As PNG, SVG or PDF by the path's ending; the same drawing gives the same bytes."""
    ending = path.suffix.lower().removeprefix(".")
    if ending == "png":
        write_whole(path, lambda p: _save_png(figure, p))
        return
    metadata = {"svg": {"Date": None}, "pdf": {"CreationDate": None}}.get(ending)
    if metadata is None:
        raise ValueError(f"{path}: end the name in .png, .svg or .pdf")
    write_whole(path, lambda p: figure.savefig(p, format=ending, metadata=metadata))


def svg_of(figure: Any) -> str:
    """The figure as an SVG element, without what stands before it in a file of its own."""
    out = io.StringIO()
    with warnings.catch_warnings():
        warnings.filterwarnings("ignore", "Glyph")
        figure.savefig(out, format="svg", metadata={"Date": None})
    text = out.getvalue()
    return _hundredths(text[text.index("<svg") :])


def _hundredths(svg: str) -> str:
    """Numbers of a drawing to a hundredth of a point: no eye sees more, and pages are half as large."""
    return re.sub(r"(?<![\w#.])-?\d+\.\d{3,}", lambda m: f"{float(m[0]):.2f}".rstrip("0").rstrip("."), svg)


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


def empty_figure(title: str, note: str, size: tuple[float, float] = SIZE) -> Any:
    """An empty figure with its heads."""
    import matplotlib
    from matplotlib.figure import Figure

    matplotlib.rcParams.update(SETTINGS)
    figure = Figure(figsize=size, dpi=DPI, facecolor="white")
    figure.text(0.03, 0.955, title, fontsize=14, fontweight="bold", color=INK, va="center")
    figure.text(0.03, 0.918, note, fontsize=10, color=GRID, va="center")
    return figure


def figure_of(sheets: Sequence[Sheet], size: tuple[float, float] = SIZE) -> tuple[Any, list[list[Box]]]:
    """All sheets on one figure and one scale; and the boxes of the labels written on each [pixels]."""
    first = sheets[0]
    alone = len(sheets) == 1
    figure = empty_figure(first.title, first.note if alone else "", size)
    foot = 0.055 + 0.03 * bool(first.key)
    limits = _common([_limits(s) for s in sheets])
    across = across_of(len(sheets), limits, size[0] * 0.94, size[1] * (0.90 - foot))
    down = -(-len(sheets) // across)
    wide, tall = 0.94 / across, (0.90 - foot) / down
    written = []
    for i, sheet in enumerate(sheets):
        left, low = 0.03 + wide * (i % across), 0.90 - tall * (i // across + 1)
        if not alone:
            figure.text(left, low + tall - 0.012, sheet.note, fontsize=10, fontweight="bold", color=INK, va="center")
        rect = (left, low, wide - 0.01, tall - (0.0 if alone else 0.03))
        written.append(_put(figure, rect, sheet, limits, 1.0 if alone else SMALL))
        for k, (text, colour) in enumerate([] if alone else sheet.foot[::-1]):
            figure.text(left + wide - 0.015, low + 0.005 + 0.02 * k, text, fontsize=7, color=colour, ha="right")
    lines = first.foot if alone else []
    for k, (text, colour) in enumerate(lines[::-1]):
        figure.text(0.97, 0.028 + 0.025 * k, text, fontsize=9, color=colour, ha="right", va="center")
    entries = list(dict.fromkeys(e for s in sheets for e in s.key))
    _legend(figure, entries, 0.028 + 0.025 * max(1, len(lines)) + 0.004)
    _triad(figure, first)
    return figure, written


def across_of(count: int, limits: Floats, wide: float, high: float) -> int:
    """How many sheets stand side by side, so that they are largest: wide frames one above the other."""
    reach = np.maximum(limits[1] - limits[0], 1e-6)
    scale = [min(wide / n / reach[0], high / -(-count // n) / reach[1]) for n in range(1, count + 1)]
    best = max(scale)
    return next(n for n in sorted(range(1, count + 1), key=lambda n: abs(n - 2)) if scale[n - 1] > best * (1 - 1e-9))


def _limits(sheet: Sheet) -> Floats:
    """The least and greatest of all that is drawn (2, 2)."""
    parts = [p for paths in (*sheet.strokes.values(), *sheet.fills.values(), *sheet.marks.values()) for p in paths]
    parts += [face for face, _ in sheet.faces]
    points = np.concatenate([np.atleast_2d(p) for p in parts]) if parts else np.zeros((1, 2))
    return np.array([points.min(axis=0), points.max(axis=0)])


def _common(limits: Sequence[Floats]) -> Floats:
    return np.array([np.min([a[0] for a in limits], axis=0), np.max([a[1] for a in limits], axis=0)])


def _put(figure: Any, rect: Rect, sheet: Sheet, limits: Floats, scale: float) -> list[Box]:
    """One sheet in its place, lines and marks so many times as broad; returns the boxes of its labels [pixels]."""
    from matplotlib.collections import LineCollection, PolyCollection

    axes: Any = figure.add_axes(rect)
    axes.axis("off")
    low, high = limits
    # One scale across and up: what the place is too wide or too tall for is room around.
    place = np.array(rect[2:]) * figure.get_size_inches()
    reach = 1.12 * np.maximum(high - low, 1e-6)
    reach = place * float((reach / place).max())
    (x0, y0), (x1, y1) = (low + high - reach) / 2, (low + high + reach) / 2
    axes.set_xlim(x0, x1)
    axes.set_ylim(y0, y1)
    # All that is alike at once: many small collections are dear.
    for (colour, width, order, style, cap), paths in sheet.strokes.items():
        axes.add_collection(
            LineCollection(
                paths, colors=colour, linewidths=width * scale, zorder=order, linestyles=style, capstyle=cap
            ),
            autolim=False,
        )
    for (colour, order, strength), outlines in sheet.fills.items():
        axes.add_collection(
            PolyCollection(outlines, facecolors=colour, alpha=strength, zorder=order, linewidths=0), autolim=False
        )
    if sheet.faces:
        shapes, colours = zip(*sheet.faces, strict=True)
        axes.add_collection(
            PolyCollection(shapes, facecolors=colours, edgecolors=colours, linewidths=0.4, zorder=2), autolim=False
        )
    for mark, at in sheet.marks.items():
        _mark(axes, replace(mark, size=mark.size * scale), np.array(at))
    for word in sheet.words:
        axes.text(*word.at, word.text, fontsize=word.size, color=word.colour, ha=word.across, va="center", zorder=1.5)
    return write(axes, sheet, round(MOST_LABELS * scale**2))


def _mark(axes: Any, mark: Mark, at: Floats, **more: Any) -> None:
    from matplotlib.lines import Line2D

    symbol, size = _symbol(mark)
    face = mark.face if size == mark.size else "none"
    axes.add_artist(
        Line2D(*at.T, marker=symbol, color=face, markeredgecolor=mark.edge, markersize=size, markeredgewidth=0.9,
               zorder=mark.order, linestyle="", **more)
    )  # fmt: skip


def _symbol(mark: Mark) -> tuple[Any, float]:
    """The symbol as Matplotlib knows it, and the size to ask for: it makes the longest reach half of that."""
    pen = SYMBOLS.get(mark.symbol)
    if pen is None:
        return "o" if mark.symbol == "bubble" else mark.symbol, mark.size
    from matplotlib.path import Path as Outline

    points = [p for p in pen if p is not None]
    codes = [Outline.MOVETO if i == 0 or pen[i - 1] is None else Outline.LINETO
             for i, p in enumerate(pen) if p is not None]  # fmt: skip
    return Outline(points, codes), mark.size * float(np.abs(points).max()) * 1.0000001


def _legend(figure: Any, entries: Sequence[Entry], y: float) -> None:
    """What lines and marks mean, in a row."""
    from matplotlib.lines import Line2D

    wide = figure.get_size_inches()[0] * DPI
    x = 0.105
    for entry in entries:
        if entry.line is not None:
            colour, width, style = entry.line
            figure.add_artist(Line2D([x, x + 0.02], [y, y], color=colour, lw=width, linestyle=cast(Any, style)))
        if entry.mark is not None:
            up = 0.012 if entry.mark.symbol in SYMBOLS else 0.0
            up += 0.012 if entry.mark.symbol in ("spring", "push") else 0.0
            _mark(figure, entry.mark, np.array([[x + 0.011, y + up * entry.mark.size / 15]]))
        figure.text(x + 0.025, y, entry.words, fontsize=9, color=INK, va="center")
        x += 0.025 + width_of(entry.words, 9) / wide + 0.018


def _triad(figure: Any, sheet: Sheet) -> None:
    """The global axes, in the lower left corner."""
    from matplotlib.lines import Line2D

    width, height = figure.get_size_inches()
    centre = np.array([0.05, 0.075])
    for axis, name in enumerate("xyz"):
        d = np.array([sheet.view.right[axis], sheet.view.up[axis]]) * 0.04 * np.array([height / width, 1.0])
        if np.linalg.norm(d) < 1e-3:
            continue
        tip = centre + d
        figure.add_artist(Line2D([centre[0], tip[0]], [centre[1], tip[1]], color=GRID, lw=1.3))
        x, y = centre + 1.35 * d
        figure.text(x, y, name, fontsize=9, color=GRID, ha="center", va="center")


class Strip:
    """A figure with one diagram over a length, its axes labelled."""

    def __init__(self, title: str, note: str, axes: bool = True) -> None:
        self.figure = empty_figure(title, note)
        self.axes: Any = self.figure.add_axes((0.08, 0.11, 0.89, 0.76)) if axes else None
        if axes:
            plain(self.axes)

    def save(self, path: str | Path) -> None:
        """Write it as PNG, SVG or PDF by the path's ending; the same drawing gives the same bytes.

        Raises ValueError for another ending.
        """
        save_figure(self.figure, Path(path))

    def _repr_svg_(self) -> str:
        """A notebook shows it so."""
        return self.svg()

    def svg(self) -> str:
        """As an SVG element."""
        return svg_of(self.figure)


def plain(axes: Any) -> None:
    """Axes without a frame around."""
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    for side in ("left", "bottom"):
        axes.spines[side].set_color(GRID)
    axes.tick_params(colors=GRID)
