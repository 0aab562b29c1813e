"""Forces along members at a distance from one another, at their panel points, or at the ends of a chord.

    every = "2 m"               from `from` on, until `to`
    at = "panel points"         where other members join the chord between its ends, each once
    at = "ends"                 where it begins and ends: half a panel is there

A chord is all members that one entry names, joined end to end.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence

import numpy as np

from ...core.model.frame import ON_LINE_TOLERANCE
from ...core.model.loads import END, START, Position
from ...core.model.near import on_lines
from .selectors import Names

PANEL_POINTS, ENDS = "panel points", "ends"
MOST = 10_000
"""Forces of one entry."""
Placed = list[tuple[tuple[int, ...], tuple[Position, ...]]]
"""Members, and the positions that are the same on all of them."""


def every_so_far(names: Names, chosen: Sequence[int], step: float, begin: Position, end: Position) -> Placed | None:
    """Positions at each step [m] from `begin` to `end`, both counted in if they are met; None where they are too many.
    Members of one length have the same; those that are too short for `begin` have none."""
    lengths: dict[float, list[int]] = {}
    a, b = (names.xyz[names.ends[list(chosen), k]] for k in (0, 1))
    for m, length in zip(chosen, np.linalg.norm(b - a, axis=1).tolist(), strict=True):
        if math.isfinite(length):
            lengths.setdefault(round(length, 9), []).append(m)
    out: Placed = []
    count = 0
    for length, its in lengths.items():
        first, last = begin.on(length), end.on(length)
        n = math.floor((last - first + ON_LINE_TOLERANCE) / step) + 1 if last >= first - ON_LINE_TOLERANCE else 0
        count += n * len(its)
        if count > MOST:
            return None
        out.append((tuple(its), tuple(Position(min(first + k * step, max(last, first))) for k in range(n))))
    return out


def on_chord(names: Names, chosen: Sequence[int], where: str) -> Placed:
    """Its panel points, or its ends: each node once, on the first of its members. A node counts where any member ends;
    one on a bar between its ends does not, as it passes by."""
    every, xyz, members = names.ends, names.xyz, names.laid[1]
    met = np.zeros(len(xyz), bool)
    met[every.ravel()] = True
    ends = Counter(every[list(chosen)].ravel().tolist())
    which = np.array(chosen, np.intp)
    on, node, along = on_lines(xyz, every[which], ON_LINE_TOLERANCE)
    all_on = zip(which[on].tolist(), node.tolist(), along.tolist(), strict=True)
    inside = [(m, k, s) for m, k, s in all_on if met[k] and not members[m].bar]
    through = {k for _, k, _ in inside}
    free = {k for k, count in ends.items() if count == 1 and k not in through}
    at: dict[int, list[Position]] = {}
    taken: set[int] = set()
    of_ends = [(m, k, position) for m in chosen for k, position in zip(every[m].tolist(), (START, END), strict=True)]
    for m, k, position in [*of_ends, *((m, k, Position(s)) for m, k, s in inside)]:
        if (k in free) == (where == ENDS) and k not in taken:
            taken.add(k)
            at.setdefault(m, []).append(position)
    return [((m,), tuple(positions)) for m, positions in sorted(at.items())]
