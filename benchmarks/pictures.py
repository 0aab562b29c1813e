"""Pictures: ours, from a solution to a PNG, beside Matplotlib painting as many lines, areas and words by itself.

python benchmarks/pictures.py [BAYS STOREYS]     # of a regular frame; default 3 1 (40 members) and 20 4 (5,124)
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from telling import tell

from build import named
from empuje.core.analysis.solution import Solution
from empuje.show.drawings.canvas import Sheet
from empuje.show.drawings.draw_frame import draw_frame
from empuje.show.drawings.draw_loads import draw_loads
from empuje.show.drawings.draw_reactions import draw_reactions
from empuje.show.drawings.draw_results import draw_deflected, draw_diagram
from empuje.show.drawings.draw_solid import draw_solid
from empuje.show.drawings.paper import Drawing, _save_png, empty_figure
from empuje.show.drawings.placing import MOST_LABELS
from empuje.show.drawings.view import View
from models import solution
from test_pictures import KN, grid_frame

TIMES = 3


def least(work: Callable[[], object]) -> float:
    """The least time [s] of several."""
    out = []
    for _ in range(TIMES):
        begin = time.perf_counter()
        work()
        out.append(time.perf_counter() - begin)
    return min(out)


def bare(sheet: Sheet, path: Path) -> None:
    """As many lines, areas and words, painted by Matplotlib as they come."""
    from matplotlib.collections import LineCollection, PolyCollection

    figure = empty_figure("title", "note")
    axes = figure.add_axes((0.03, 0.05, 0.94, 0.85))
    for paths in sheet.strokes.values():
        axes.add_collection(LineCollection(paths, colors="k"), autolim=False)
    for outlines in sheet.fills.values():
        axes.add_collection(PolyCollection(outlines, facecolors="k", alpha=0.3), autolim=False)
    if sheet.faces:
        shapes, colours = zip(*sheet.faces, strict=True)
        axes.add_collection(PolyCollection(shapes, facecolors=colours), autolim=False)
    axes.set_xlim(0, 100)
    axes.set_ylim(0, 60)
    for i in range(min(len(sheet.wishes), MOST_LABELS) + len(sheet.words)):
        axes.text(i % 10 * 10, i // 10 * 6, "12.34", fontsize=8)
    _save_png(figure, path)


def pictures(s: Solution) -> dict[str, Callable[[], Sheet]]:
    """By what is drawn."""
    iso, every = View.named("iso"), np.arange(len(s.project.members))
    q, w = named(s, "Q"), named(s, "W")
    return {
        "frame": lambda: draw_frame(s.project, every, iso), "solid": lambda: draw_solid(s.project, every, iso),
        "loads": lambda: draw_loads(s.model, q, every, iso, KN),
        "reactions": lambda: draw_reactions(s, w, every, iso, KN),
        "deflected": lambda: draw_deflected(s, w, every, iso, KN),
        "My": lambda: draw_diagram(s, w, "My", every, iso, KN),
    }  # fmt: skip


def compare(what: str, draw: Callable[[], Sheet], members: int, path: Path) -> None:
    sheet = draw()
    ours, theirs = least(lambda: Drawing((draw(),)).save(path)), least(lambda: bare(sheet, path))
    print(f"{members:6,} members  {what:10} {ours:6.2f} s")
    tell(f"{what}, {members}", ours / theirs)


def main() -> None:
    sizes = [(int(sys.argv[1]), int(sys.argv[2]))] if len(sys.argv) > 2 else [(3, 1), (20, 4)]
    with tempfile.TemporaryDirectory() as name:
        for bays, storeys in sizes:
            s = solution(grid_frame(bays, storeys))
            for what, draw in pictures(s).items():
                compare(what, draw, len(s.project.members), Path(name) / "p.png")


if __name__ == "__main__":
    main()
