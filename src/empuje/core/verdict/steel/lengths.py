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
from collections.abc import Sequence
from dataclasses import dataclass, fields
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...model.project import Project
from ...model.steel import SteelRule
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
    [m]; whether its end is free to move sideways; flanges held all along; whether the line has other sections there, so
    that its diagrams are taken as even."""

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
    free: NDArray[np.bool_]
    top: NDArray[np.bool_]
    bottom: NDArray[np.bool_]
    even: NDArray[np.bool_]

    def rows(self, rows: Ints) -> Lengths:
        """Some of them."""
        return Lengths(*(getattr(self, f.name)[rows] for f in fields(self)))


FLOATS = 12
"""The first columns of a stretch that are numbers; the others are yes or no."""


def lengths_of(project: Project, lines: Lines, restraints: Restraints, rule: SteelRule, members: Ints) -> Lengths:
    """The stretches of members, in their order."""
    own = members.tolist()
    places = restraints.of_lines(list(dict.fromkeys(int(lines.of[m]) for m in own)))
    rows = [row for m in own for row in _stretches(project, lines, places[int(lines.of[m])], m, rule)]
    columns = list(zip(*rows, strict=True)) if rows else [()] * len(fields(Lengths))
    numbers = [np.array(c, np.intp if i < 2 else float) for i, c in enumerate(columns[:FLOATS])]
    return Lengths(*numbers, *(np.array(c, bool) for c in columns[FLOATS:]))


def row_of(project: Project, lines: Lines, m: int) -> int:
    """The row of forces a member is looked at in: that of its line, or beyond all lines its own."""
    line = int(lines.of[m])
    return len(lines.members) + m if lines.steps[line] else line


def _stretches(
    project: Project, lines: Lines, places: Sequence[Place], m: int, rule: SteelRule
) -> list[tuple[float | bool, ...]]:
    line = int(lines.of[m])
    length, whole = float(project.lengths[m]), float(lines.length[line])
    low = float(lines.offset[m]) - (length if lines.signs[m, 0] < 0 else 0.0)
    high = low + length
    held = rule.held_at(m)
    # The axes of a piece may be turned by a right angle against those of its line.
    first = min(lines.members[line])
    turned = abs(float(project.axes[m, 1] @ project.axes[first, 1])) < math.sqrt(0.5)
    side, up = (Z, Y) if turned else (Y, Z)
    cuts, loose = {}, {}
    for direction in (side, up, TWIST):
        there = [p.s for p in places if p.held[direction]]
        if direction != up:
            there = _as_stated(there, lines, m, project, rule)
        cuts[direction] = _cut(there, whole)
        loose[direction] = [not any(abs(s - end) < SAME for s in there) for end in (0.0, whole)]
    if turned:
        cuts[TWIST] = _cut(_as_stated([p.s for p in places if p.held[side] and p.held[TWIST]], lines, m, project, rule),
                           whole)  # fmt: skip
    flanges = held.flange in ("top", "both"), held.flange in ("bottom", "both")
    out: list[tuple[float | bool, ...]] = []
    steps = bool(lines.steps[line])
    for x0, x1 in pairwise(cuts[TWIST]):
        if x1 < low + SAME or x0 > high - SAME:
            continue
        y0, y1 = _longest(cuts[up], x0, x1)
        z0, z1 = _longest(cuts[side], x0, x1)
        loose_y = _at_loose_end(loose[up], y0, y1, whole)
        loose_z = _at_loose_end(loose[side], z0, z1, whole)
        L_y = _stated(held.L_y, held.k_y, (y1 - y0) * (2 if loose_y else 1))
        L_z = _stated(held.L_z, held.k_z, (z1 - z0) * (2 if loose_z else 1))
        L_T, L_LT = _stated(held.L_T, held.k_T, x1 - x0), _stated(held.L_LT, held.k_LT, x1 - x0)
        tip = _at_loose_end(loose[TWIST], x0, x1, whole) and math.isnan(held.L_LT)
        spans = [(x0, x1), (y0, y1), (z0, z1)]
        if steps:  # forces of its own piece alone, in its own coordinate
            spans = [_within(a, b, low, high, lines.signs[m, 0]) for a, b in spans]
        own = (float(row_of(project, lines, m)), *(v for span in spans for v in span), L_y, L_z, L_T, L_LT)
        out.append((float(m), *own, tip, *flanges, steps))
    return out


def _as_stated(there: list[float], lines: Lines, m: int, project: Project, rule: SteelRule) -> list[float]:
    """Places held, those on pieces whose `braced_at` is stated in place of those found within them; the line's ends
    stay as they are."""
    line = int(lines.of[m])
    whole = float(lines.length[line])
    out = there
    for piece in lines.members[line]:
        stated = rule.held_at(piece).braced_at
        if stated is None:
            continue
        length, sign = float(project.lengths[piece]), float(lines.signs[piece, 0])
        a, b = sorted((float(lines.offset[piece]), float(lines.offset[piece]) + sign * length))
        out = [s for s in out if not a - SAME < s < b + SAME or s < SAME or s > whole - SAME]
        out += [float(lines.offset[piece]) + sign * p.on(length) for p in stated]
    return sorted(out)


def _within(a: float, b: float, low: float, high: float, sign: float) -> tuple[float, float]:
    a, b = max(a, low), min(b, high)
    return (a - low, b - low) if sign > 0 else (high - b, high - a)


def _longest(cuts: Sequence[float], x0: float, x1: float) -> tuple[float, float]:
    """Of the stretches that meet x0 to x1 the longest."""
    meets = [(a, b) for a, b in pairwise(cuts) if a < x1 - SAME and b > x0 + SAME]
    return max(meets, key=lambda ab: ab[1] - ab[0])


def _cut(places: Sequence[float], length: float) -> list[float]:
    inner = sorted(s for s in places if SAME < s < length - SAME)
    return [0.0, *(s for i, s in enumerate(inner) if not i or s - inner[i - 1] > SAME), length]


def _at_loose_end(loose: Sequence[bool], a: float, b: float, length: float) -> bool:
    return (loose[0] and a <= SAME) or (loose[1] and b >= length - SAME)


def _stated(stated: float, factor: float, found: float) -> float:
    return stated if not math.isnan(stated) else factor * found
