"""Pictures one after another as one GIF."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from ..output import write_whole
from .canvas import Sheet
from .paper import figure_of, pixels_of

SECONDS = 0.12
LAST = 0.8


def save_gif(sheets: Iterable[Sheet], path: Path) -> int:
    """Write the sheets as frames; returns how many."""
    from PIL import Image

    frames = []
    for sheet in sheets:
        pixels = Image.fromarray(pixels_of(figure_of([sheet])[0]))
        frames.append(pixels.convert("P", palette=Image.Palette.ADAPTIVE, colors=64))
    times = [round(1000 * SECONDS)] * (len(frames) - 1) + [round(1000 * LAST)]

    def make(beside: Path) -> None:
        frames[0].save(beside, "gif", save_all=True, append_images=frames[1:], duration=times, loop=0, optimize=False)

    write_whole(path, make)
    return len(frames)
