"""Bracing in panels between lines of the grid, or between four corners.

   X           V        inverted V      K         diagonal
+-----+     +-----+     +--.--+      +-----+     +-----+
| \\ / |     |\\   /|     | / \\ |      |\\    |     |    /|
|  X  |     | \\ / |     |/   \\|      |  >- |     |  /  |
| / \\ |     |  V  |     |     |      |/    |     |/    |
+-----+     +--'--+     +-----+      +-----+     +-----+
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence

import numpy as np

from ..base.entry import shown
from ..frame.grid import RunError, crossing_name, several, steps
from .drawn import Asking, Drawn, Floats

Panels = list[tuple[str, tuple[Floats, ...]]]
"""Their names, and four corners around each."""
Steps = list[tuple[str, str]]
MOST_PANELS = 10_000


def bracing(asking: Asking) -> Drawn | None:
    """The same pattern in every panel. Diagonals that cross are not joined; apexes are nodes of their own, which split
    the member they lie on."""
    entry = asking.entry
    family, pattern = asking.family("family"), entry.text("pattern")
    if entry.has("panels") == entry.has("corners"):
        entry.error("which-way", f"{entry.what} has {'both' if entry.has('panels') else 'neither'} panels and corners",
                    'give panels = "A>B / 1 / base>eave" over the grid, or corners = [four places]')  # fmt: skip
        return None
    panels = _over_grid(asking) if entry.has("panels") else _by_corners(asking)
    if panels is None or family is None or pattern is None:
        return None
    out = Drawn()
    for name, (p, q, r, s) in panels:  # around the panel
        corners = {"p": p, "q": q, "r": r, "s": s}
        m = {"V": (p + q) / 2, "inverted V": (s + r) / 2, "K": (q + r) / 2}.get(pattern)
        pairs = {"X": ("pr", "qs"), "V": ("sm", "rm"), "inverted V": ("pm", "qm"), "K": ("pm", "sm"),
                 "diagonal": ("pr",)}[pattern]  # fmt: skip
        if m is not None:
            corners["m"] = m
        for k, pair in enumerate(pairs):
            start, end = (out.point(f"{name}.{corner}" if name else corner, corners[corner]) for corner in pair)
            number = str(k + 1) if len(pairs) > 1 else ""
            out.line(family, ".".join(filter(None, (name, number))) or "1", start, end)
    return out


def _over_grid(asking: Asking) -> Panels | None:
    """Panels such as "A>>C / 1,3 / base>eave": two parts go on, each step of the one with each of the other; the third
    names lines. Corners p q r s go around from the first crossing, first along the part that comes first."""
    entry, lines = asking.entry, asking.book.line_names()
    texts = entry.texts("panels")
    if texts is None:
        return None
    if not lines:
        entry.error("no-grid", f"{entry.what}.panels needs a [grid]", "add one, or write corners", "panels")
        return None
    out: Panels = []
    for i, text in enumerate(texts):
        try:
            parts = dict(zip(lines, (part.strip() for part in text.split("/")), strict=True))
        except ValueError:
            parts = {}
        going = [axis for axis, part in parts.items() if ">" in part]
        rises = entry.text("rises") if entry.has("rises") else None
        sloping = len(going) == 3 and rises is not None
        if len(going) == 3 and rises is None:
            words = f"{entry.what}.panels: all parts of {shown(text)} go on, and there is no `rises`"
            remedy = 'say rises = "y" where y goes on together with z, or rises = "x"'
            entry.error("missing-key", words, remedy, "panels", i)
            return None
        if not (len(going) == 2 or sloping):
            entry.error("bad-run", f"{entry.what}.panels: {shown(text)} is no panel",
                        'two of its parts go on, as in "A>B / 1 / base>eave"', "panels", i)  # fmt: skip
            return None
        try:
            ways = {axis: list(itertools.pairwise(steps(parts[axis], axis, lines[axis]))) for axis in going}
            fixed = {axis: several(parts[axis], axis, lines[axis]) for axis in parts if axis not in going}
        except RunError as error:
            entry.error("bad-run", f"{entry.what}.panels: {shown(text)} {error}", error.remedy, "panels", i)
            return None
        first = next(axis for axis in going if not (sloping and axis in ("z", rises)))
        second = [axis for axis in going if axis != first]
        if len({len(ways[axis]) for axis in second}) > 1:
            entry.error("bad-run", f"{entry.what}.panels: {rises} and z of {shown(text)} step differently",
                        "give both the same number of steps", "panels", i)  # fmt: skip
            return None
        count = math.prod(map(len, fixed.values())) * len(ways[first]) * len(ways[second[0]])
        if len(out) + count > MOST_PANELS:
            entry.error("too-many", f"{entry.what} has more than {MOST_PANELS:,} panels", "name fewer lines", "panels")
            return None
        for chosen in itertools.product(*fixed.values()):
            at = dict(zip(fixed, chosen, strict=True))
            for across, up in itertools.product(_sides([first], ways), _sides(second, ways)):
                (p0, p1, one), (q0, q1, other) = across, up
                around = [at | p0 | q0, at | p1 | q0, at | p1 | q1, at | p0 | q1]
                xyz = [asking.book.xyz_of(tuple(corner[axis] for axis in lines)) for corner in around]
                name = ".".join([*([crossing_name(at).replace("@", "")] if at else []), one, other])
                out.append((name, tuple(np.array(p) for p in xyz)))
    return out


def _sides(axes: Sequence[str], ways: Mapping[str, Steps]) -> list[tuple[dict[str, str], dict[str, str], str]]:
    """The sides of panels along axes that step together: from which lines to which, and their name."""
    out = []
    for step in zip(*(ways[axis] for axis in axes), strict=True):
        begin, end = (dict(zip(axes, lines, strict=True)) for lines in zip(*step, strict=True))
        out.append((begin, end, f"{''.join(begin.values())}-{''.join(end.values())}"))
    return out


def _by_corners(asking: Asking) -> Panels | None:
    value = asking.entry.data["corners"]
    if not isinstance(value, list) or len(value) != 4:
        asking.entry.error("bad-outline", f"{asking.entry.what}.corners = {shown(value)}",
                           "write four places, around the panel", "corners")  # fmt: skip
        return None
    found = [asking.place("corners", v) for v in value]
    return None if any(p is None for p in found) else [("", tuple(found))]  # type: ignore[arg-type]
