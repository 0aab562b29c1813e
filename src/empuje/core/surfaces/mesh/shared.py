"""Where the lattices of several regions have lines: alike on every line that regions share, so that their elements meet
corner to corner.

What ends, crosses or divides a shared line in one region does so in all: stops are handed over until nothing is new,
and of the parts that a stretch between stops is divided in the most count for all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model.frame import ON_LINE_TOLERANCE
from ...model.near import together
from .lattice import NEARLY, SAME, Region, divided, parts_of, stops

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
PASSES = 12


@dataclass(frozen=True)
class Side:
    """A shared line as one region has it: the region, its line there, whether that runs the other way, the lattice's
    direction it goes along (-1: oblique), and its ends in that direction."""

    region: int
    line: int
    back: bool
    way: int
    begin: float
    end: float

    def shares(self, places: Floats) -> Floats:
        """How far along the shared line the places of the lattice lie in it, in order."""
        reach = self.end - self.begin
        t, gap = (places - self.begin) / reach, SAME / abs(reach)
        t = t[(t > gap) & (t < 1 - gap)]
        return np.sort(1 - t if self.back else t)

    def places(self, shares: Floats) -> Floats:
        """The reverse."""
        return np.asarray(self.begin + (self.end - self.begin) * (1 - shares if self.back else shares))

    def intervals(self, at: Floats) -> Ints:
        """Those between stops that lie on the line, in its direction."""
        low, high = min(self.begin, self.end), max(self.begin, self.end)
        inside = np.flatnonzero((at[:-1] >= low - SAME) & (at[1:] <= high + SAME))
        return inside if (self.end > self.begin) != self.back else inside[::-1]


def shared_lines(solid: Sequence[Floats], regions: Sequence[Region]) -> list[list[Side]]:
    """The lines that several regions have, from the ends of every region's lines in space (2 lines, 3)."""
    group = together(np.concatenate(solid), ON_LINE_TOLERANCE)
    start = np.cumsum([0, *map(len, solid)])
    found: dict[tuple[int, int], list[Side]] = {}
    for k, region in enumerate(regions):
        ways = region.way.tolist()
        for j, (a, b) in enumerate(group[start[k] : start[k + 1]].reshape(-1, 2).tolist()):
            begin, end = region.lines[j, :, max(ways[j], 0)].tolist()
            side = Side(k, j, a > b, ways[j], begin, end)
            found.setdefault((min(a, b), max(a, b)), []).append(side)
    return [each for each in found.values() if len({side.region for side in each}) > 1]


Divided = tuple[Floats, Floats, list[Floats]]
"""Lines of a lattice along and across, and the points on each oblique line of its region."""


def divided_alike(solid: Sequence[Floats], regions: Sequence[Region]) -> list[Divided]:
    """Of every region."""
    shared = shared_lines(solid, regions)
    at = _common_stops(regions, shared)
    counts = _common_counts(regions, shared, at)
    fine = [[divided(at[k][d], counts[k][d]) for d in (0, 1)] for k in range(len(regions))]
    given = _on_oblique(regions, shared, fine)
    out: list[Divided] = []
    for k, region in enumerate(regions):
        on_lines = []
        for j in np.flatnonzero(region.way < 0).tolist():
            a, b = region.lines[j]
            inside = given.get((k, j))
            inside = evenly(region.lines[j], region.length) if inside is None else inside
            on_lines.append(a + (b - a) * np.concatenate([[0.0], inside, [1.0]])[:, None])
        out.append((fine[k][0], fine[k][1], on_lines))
    return out


def _common_stops(regions: Sequence[Region], shared: Sequence[Sequence[Side]]) -> list[list[Floats]]:
    at = [[stops(r, d, np.zeros(0)) for d in (0, 1)] for r in regions]
    for _ in range(PASSES):
        changed = False
        for each in shared:
            straight = [side for side in each if side.way >= 0]
            found = [side.shares(at[side.region][side.way]) for side in straight]
            shares = np.concatenate([*found, np.zeros(0)])
            for side in straight:
                known = at[side.region][side.way]
                more = side.places(shares)
                new = more[np.abs(more[:, None] - known).min(axis=1, initial=np.inf) > SAME]
                if len(new):
                    together_with = np.concatenate([known, new])
                    at[side.region][side.way] = stops(regions[side.region], side.way, together_with)
                    changed = True
        if not changed:
            break
    return at


def _common_counts(
    regions: Sequence[Region], shared: Sequence[Sequence[Side]], at: Sequence[Sequence[Floats]]
) -> list[list[Ints]]:
    counts = [[parts_of(at[k][d], r.length) for d in (0, 1)] for k, r in enumerate(regions)]
    for _ in range(PASSES):
        changed = False
        for each in shared:
            straight = [side for side in each if side.way >= 0]
            own = [(counts[s.region][s.way], s.intervals(at[s.region][s.way])) for s in straight]
            if len({len(where) for _, where in own}) != 1:
                continue
            most = np.max([count[where] for count, where in own], axis=0)
            for count, where in own:
                changed = changed or bool((count[where] != most).any())
                count[where] = most
        if not changed:
            break
    return counts


def _on_oblique(
    regions: Sequence[Region], shared: Sequence[Sequence[Side]], fine: Sequence[Sequence[Floats]]
) -> dict[tuple[int, int], Floats]:
    """By region and line: the shares at which shared lines are divided, from a lattice that goes along them."""
    given: dict[tuple[int, int], Floats] = {}
    for each in shared:
        straight = next((side for side in each if side.way >= 0), None)
        length = min(regions[side.region].length for side in each)
        for side in each:
            if straight is not None:
                inside = straight.shares(fine[straight.region][straight.way])
            else:
                inside = evenly(regions[side.region].lines[side.line], length)
            given[side.region, side.line] = 1 - inside[::-1] if side.back else inside
    return given


def evenly(line: Floats, length: float) -> Floats:
    """Shares that divide a line (2, 2) evenly, its ends left out."""
    n = max(1, int(np.ceil(np.linalg.norm(line[1] - line[0]) / length - NEARLY)))
    return np.asarray(np.arange(1, n) / n)
