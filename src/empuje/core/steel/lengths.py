"""Stretches of members between places that hold them, and the lengths that count there.

    o======+=========+======o       +  what holds sideways cuts the buckling about z; what holds against twisting as
           |         :              :  well, that in torsion and laterally; what holds along z, the buckling about y

Places are those of the whole line that a member is a piece of (lines.py), and what holds there must be held itself
(restraints.py). A stretch at whose end nothing holds counts twice about that axis, and its lateral buckling is not
looked at where it may move sideways. In a plane frame nothing holds out of the plane but the ends of lines: what else
does is stated.
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..model.project import Project
from ..model.steel import HeldAt, SteelRule
from .lines import Lines
from .restraints import TWIST, Place, Restraints, Y, Z

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SAME = 1e-6


@dataclass(frozen=True)
class Lengths:
    """Stretches (n,) of members: the member; the row of forces it is looked at in, its line's or its own; from x0 to x1
    [m] along that, between places held sideways and against twisting; y0 to y1 and z0 to z1, of the stretches between
    places held along z and along y the longest that it meets; buckling lengths about y, z, in torsion and laterally
    [m]; C_m and C_1 or C_b as they are stated, NaN where they follow from diagrams; whether its end is free to move
    sideways; flanges held all along; whether the line has other sections there, so that its diagrams are taken as
    even; and lengths about y and z of the frame's critical shapes (n, results), NaN where those above hold, (n, 0)
    where nobody asks for such."""

    member: Ints
    row: Ints
    x0: Floats
    x1: Floats
    y0: Floats
    y1: Floats
    z0: Floats
    z1: Floats
    L_y: Floats
    L_z: Floats
    L_T: Floats
    L_LT: Floats
    C_m: Floats
    C_b: Floats
    free: NDArray[np.bool_]
    top: NDArray[np.bool_]
    bottom: NDArray[np.bool_]
    even: NDArray[np.bool_]
    of_y: Floats
    of_z: Floats

    def rows(self, rows: Ints) -> Lengths:
        """Some of them."""
        return Lengths(*(getattr(self, f.name)[rows] for f in fields(self)))

    def under(self, rows: Ints, result: Ints) -> Lengths:
        """Some of them, each under one result."""
        found = self.rows(rows)
        if not self.of_y.shape[1]:
            return found
        return replace(found, of_y=self.of_y[rows, result][:, None], of_z=self.of_z[rows, result][:, None])

    def buckling(self) -> tuple[Floats, Floats, Floats]:
        """Lengths about y, z and in torsion (n, 1), or (n, results) where they differ from one to the next [m]."""
        y, z, T = (v[:, None] for v in (self.L_y, self.L_z, self.L_T))
        if self.of_y.shape[1]:
            y, z = (np.where(np.isnan(own), v, own) for own, v in ((self.of_y, y), (self.of_z, z)))
        return y, z, T


NOT_STATED = HeldAt()
FLOATS = 14
"""The first columns of a stretch that are numbers; the others are yes or no."""


def lengths_of(project: Project, lines: Lines, restraints: Restraints, rule: SteelRule, members: Ints) -> Lengths:
    """The stretches of members, in their order."""
    own = members.tolist()
    places = restraints.of_lines(list(dict.fromkeys(int(lines.of[m]) for m in own)))
    stated = stated_by(rule)
    known: dict[tuple[int, bool], _Cuts] = {}
    rows: list[tuple[float | bool, ...]] = []
    for m in own:
        line = int(lines.of[m])
        # The axes of a piece may be turned by a right angle against those of its line.
        turned = abs(float(project.axes[m, 1] @ project.axes[min(lines.members[line]), 1])) < math.sqrt(0.5)
        if (line, turned) not in known:
            known[line, turned] = _cuts_of(project, lines, places[line], line, turned, stated)
        rows += _stretches(project, lines, known[line, turned], m, stated.get(m, NOT_STATED))
    columns = list(zip(*rows, strict=True)) if rows else [()] * (len(fields(Lengths)) - 2)
    numbers = [np.array(c, np.intp if i < 2 else float) for i, c in enumerate(columns[:FLOATS])]
    none = np.zeros((len(rows), 0))
    every = [*numbers, *(np.array(c, bool) for c in columns[FLOATS:]), none, none]
    return Lengths(*every)


def stated_by(rule: SteelRule) -> dict[int, HeldAt]:
    """How members are held that a rule says it of; a later entry over an earlier one."""
    stated: dict[int, HeldAt] = {}
    for of_entry, held in rule.held:
        stated.update(dict.fromkeys(of_entry, held))
    return stated


def row_of(project: Project, lines: Lines, m: int) -> int:
    """The row of forces a member is looked at in: that of its line, or beyond all lines its own."""
    line = int(lines.of[m])
    return len(lines.members) + m if lines.steps[line] else line


@dataclass(frozen=True)
class _Cuts:
    """Where a line is cut [m]: between places held sideways, along z, and sideways and against twisting; and whether
    each of its two ends is loose, for each of these."""

    side: list[float]
    up: list[float]
    twist: list[float]
    loose: list[list[bool]]


def _cuts_of(
    project: Project, lines: Lines, places: Sequence[Place], line: int, turned: bool, stated: Mapping[int, HeldAt]
) -> _Cuts:
    whole = float(lines.length[line])
    side, up = (Z, Y) if turned else (Y, Z)
    sideways = _as_stated([p.s for p in places if p.held[side]], lines, line, project, stated)
    along = [p.s for p in places if p.held[up]]
    against = [p.s for p in places if p.held[side] and p.held[TWIST]]
    against = _as_stated(against, lines, line, project, stated)
    every = sideways, along, against
    loose = [[not any(abs(s - end) < SAME for s in there) for end in (0.0, whole)] for there in every]
    return _Cuts(_cut(sideways, whole), _cut(along, whole), _cut(against, whole), loose)


def _stretches(project: Project, lines: Lines, cuts: _Cuts, m: int, held: HeldAt) -> Iterator[tuple[float | bool, ...]]:
    """Those of a member, in order."""
    line = int(lines.of[m])
    length, whole = float(project.lengths[m]), float(lines.length[line])
    low = float(lines.offset[m]) - (length if lines.signs[m, 0] < 0 else 0.0)
    high = low + length
    flanges = held.flange in ("top", "both"), held.flange in ("bottom", "both")
    steps = bool(lines.steps[line])
    at = max(bisect_right(cuts.twist, low + SAME) - 1, 0)
    for x0, x1 in pairwise(cuts.twist[at:]):
        if x0 > high - SAME:
            break
        y0, y1 = _longest(cuts.up, x0, x1)
        z0, z1 = _longest(cuts.side, x0, x1)
        loose_y = _at_loose_end(cuts.loose[1], y0, y1, whole)
        loose_z = _at_loose_end(cuts.loose[0], z0, z1, whole)
        L_y = _stated(held.L_y, held.k_y, (y1 - y0) * (2 if loose_y else 1))
        L_z = _stated(held.L_z, held.k_z, (z1 - z0) * (2 if loose_z else 1))
        L_T, L_LT = _stated(held.L_T, held.k_T, x1 - x0), _stated(held.L_LT, held.k_LT, x1 - x0)
        tip = _at_loose_end(cuts.loose[2], x0, x1, whole) and math.isnan(held.L_LT)
        spans = [(x0, x1), (y0, y1), (z0, z1)]
        if steps:  # forces of its own piece alone, in its own coordinate
            spans = [_within(a, b, low, high, lines.signs[m, 0]) for a, b in spans]
        own = (
            float(row_of(project, lines, m)),
            *(v for span in spans for v in span),
            L_y,
            L_z,
            L_T,
            L_LT,
            held.C_m,
            held.C_b,
        )
        yield (float(m), *own, tip, *flanges, steps)


def _as_stated(
    there: list[float], lines: Lines, line: int, project: Project, stated: Mapping[int, HeldAt]
) -> list[float]:
    """Places held, those on pieces whose `braced_at` is stated in place of those found within them; the line's ends
    stay as they are."""
    whole = float(lines.length[line])
    out = there
    for piece in lines.members[line]:
        braced = stated.get(piece, NOT_STATED).braced_at
        if braced is None:
            continue
        length, sign = float(project.lengths[piece]), float(lines.signs[piece, 0])
        a, b = sorted((float(lines.offset[piece]), float(lines.offset[piece]) + sign * length))
        out = [s for s in out if not a - SAME < s < b + SAME or s < SAME or s > whole - SAME]
        out += [float(lines.offset[piece]) + sign * p.on(length) for p in braced]
    return sorted(out)


def _within(a: float, b: float, low: float, high: float, sign: float) -> tuple[float, float]:
    a, b = max(a, low), min(b, high)
    return (a - low, b - low) if sign > 0 else (high - b, high - a)


def _longest(cuts: Sequence[float], x0: float, x1: float) -> tuple[float, float]:
    """Of the stretches that meet x0 to x1 the longest."""
    first = max(bisect_right(cuts, x0 + SAME) - 1, 0)
    stop = max(bisect_left(cuts, x1 - SAME), first + 1)
    return max(pairwise(cuts[first : stop + 1]), key=lambda ab: ab[1] - ab[0])


def _cut(places: Sequence[float], length: float) -> list[float]:
    inner = sorted(s for s in places if SAME < s < length - SAME)
    return [0.0, *(s for i, s in enumerate(inner) if not i or s - inner[i - 1] > SAME), length]


def _at_loose_end(loose: Sequence[bool], a: float, b: float, length: float) -> bool:
    return (loose[0] and a <= SAME) or (loose[1] and b >= length - SAME)


def _stated(stated: float, factor: float, found: float) -> float:
    return stated if not math.isnan(stated) else factor * found
