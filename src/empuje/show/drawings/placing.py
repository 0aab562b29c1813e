"""Where labels stand on paper: the weightiest that fit, none over another, with more room the more there are."""

from __future__ import annotations

import warnings
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np

from .canvas import GRID, Sheet, Wish

Box = tuple[float, float, float, float]
"""Left, low, right and high [pixels]."""
DPI = 100
MOST_LABELS = 70
"""So many values are written on one sheet; the weightiest."""
ROOMY, CLEAR, MORE_CLEAR = 24, 2.0, 0.12
"""The first so many labels keep this distance [pixels]; each further one keeps so much more, so that many thin out."""
BESIDE = ((0, 0), (0, 1.1), (0, -1.1), (1.05, 0), (-1.05, 0), (1.05, 1.1), (-1.05, -1.1), (0, 2.2))
FURTHER = (
    (0, -2.2),
    (1.05, -1.1),
    (-1.05, 1.1),
    (0, 3.3),
    (0, -3.3),
    (1.1, 2.2),
    (-1.1, 2.2),
    (1.1, -2.2),
    (-1.1, -2.2),
)
"""Where labels stand beside their places, in widths and heights of theirs; and where those that govern may as well."""
GOVERNS = 0.9
"""The weight from which a label governs."""


@lru_cache(maxsize=512)
def _advance(char: str) -> float:
    """How far a character goes, as a share of the size of the text."""
    from matplotlib import font_manager, ft2font

    font = font_manager.get_font(font_manager.findfont("DejaVu Sans"))
    font.set_size(100, 72)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        glyph = font.load_char(ord(char), flags=ft2font.LoadFlags.NO_HINTING)
    return float(glyph.linearHoriAdvance) / 65536 / 100


def width_of(text: str, size: float) -> float:
    """How wide a text is [pixels]."""
    return sum(map(_advance, text)) * size * DPI / 72


def _half_height(size: float) -> float:
    return 0.62 * size * DPI / 72


def _words_of_grid(sheet: Sheet, to_pixels: Callable[[Any], Any]) -> list[Box]:
    """What the names of the grid take."""
    out: list[Box] = []
    for mark, at in sheet.marks.items():
        if mark.symbol == "bubble":
            half = mark.size * DPI / 72 / 2
            out += [(x - half, y - half, x + half, y + half) for x, y in to_pixels(np.array(at))]
    for word in sheet.words:
        x, y = to_pixels(word.at)
        wide, tall = width_of(word.text, word.size), _half_height(word.size)
        shift = {"right": -wide, "center": -wide / 2, "left": 0.0}[word.across]
        out.append((x + shift, y - tall, x + shift + wide, y + tall))
    return out


def placed(sheet: Sheet, to_pixels: Callable[[Any], Any], most: int) -> list[tuple[Wish, Box]]:
    """The labels that are written and the box of each; `to_pixels`: from places on the sheet."""
    taken = _words_of_grid(sheet, to_pixels)
    out: list[tuple[Wish, Box]] = []
    for wish in sorted(sheet.wishes, key=lambda w: -w.weight):
        if len(out) == most:
            break
        x, y = to_pixels(wish.at)
        half, tall = width_of(wish.text, wish.size) / 2 + 2, _half_height(wish.size) + 1
        clear = CLEAR + MORE_CLEAR * max(0, len(out) - ROOMY)
        for dx, dy in BESIDE if wish.weight < GOVERNS else (*BESIDE, *FURTHER):
            cx, cy = x + dx * half, y + dy * tall * 1.6
            box = (cx - half, cy - tall, cx + half, cy + tall)
            if not any(_near(box, other, clear) for other in taken):
                taken.append(box)
                out.append((wish, box))
                break
    return out


def _near(a: Box, b: Box, clear: float) -> bool:
    """Whether two boxes are nearer to one another than that."""
    return a[0] - clear < b[2] and a[2] + clear > b[0] and a[1] - clear < b[3] and a[3] + clear > b[1]


def write(axes: Any, sheet: Sheet, most: int = MOST_LABELS) -> list[Box]:
    """Write them, on paper that lets little through; how many others there are stands at the foot. Returns their
    boxes."""
    from matplotlib.collections import PolyCollection

    back = axes.transData.inverted().transform
    found = placed(sheet, axes.transData.transform, most)
    for wish, (left, low, right, high) in found:
        where = back(((left + right) / 2, (low + high) / 2))
        axes.text(*where, wish.text, fontsize=wish.size, color=wish.colour, ha="center", va="center", zorder=9)
    if found:
        papers = [back([(b[i], b[j]) for i, j in ((0, 1), (2, 1), (2, 3), (0, 3))]) for _, b in found]
        axes.add_collection(PolyCollection(papers, facecolors="white", alpha=0.75, lw=0, zorder=8.9), autolim=False)
    if len(found) < len(sheet.wishes) and most == MOST_LABELS:
        words = f"{len(found)} of {len(sheet.wishes)} labels written, the weightiest; --on shows a part"
        axes.text(1.0, 0.0, words, transform=axes.transAxes, fontsize=8, color=GRID, ha="right", va="bottom")
    return [box for _, box in found]
