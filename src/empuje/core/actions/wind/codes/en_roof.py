"""EN 1991-1-4, 7.2.3 to 7.2.5: zones of flat, monopitch and duopitch roofs."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ....model.wind import WindRule
from ....model.words import Side
from ...faces import Face
from ..shape.roofs import Roof, lies_before, ridge_at
from ..shape.seen import Seen
from ..shape.zones import Range, Stretch, alternatives
from . import en_tables as table
from . import en_tables_1

FLAT = 5.0
"""Below this slope [deg] a roof is flat (7.2.3)."""


Pairs = tuple[float, float]


def four(front: Pairs, behind: bool) -> tuple[float, ...]:
    """The values of a zone in the four alternatives, from its lower and upper one; zones behind are I and J.

    >>> four((-0.9, 0.2), False), four((-1.0, 0.0), True)
    ((-0.9, 0.2, -0.9, 0.2), (-1.0, 0.0, 0.0, -1.0))
    """
    low, high = front
    return (low, high, high, low) if behind else (low, high, low, high)


def roof_rows(
    face: Face, roof: Roof, seen: Seen, rule: WindRule, q: Range, c: float, small: bool = False
) -> list[Stretch]:
    """The stretches of a roof's face (7.2.3 to 7.2.5); `small`: with c_pe,1."""
    values_of = en_tables_1 if small else table
    corners = np.concatenate([f.corners for f in roof.faces])
    s, t = corners[:, :2] @ seen.along, corners[:, :2] @ seen.left
    b, h = float(np.ptp(t)), roof.ridge
    e = min(b, 2 * h)
    start, left, right = float(s.min()), float(t.max()), float(t.min())
    alpha = rule.stated.get("theta", roof.slope)
    falls = seen.falls_to(face)
    everywhere = (-math.inf, math.inf)
    sides = ((-math.inf, right + e / 4), (left - e / 4, math.inf))
    between_ = (right + e / 4, left - e / 4)
    rows: list[Stretch] = []

    def add(zone: str, values: Pairs, reach: Range, across: Sequence[Range], where: str, source: str) -> None:
        C = four(values, zone in ("I", "J"))
        steps = alternatives("c_pe,1" if small else "c_pe,10", f"zone {zone}, {where}", C, source)
        for one in across:
            if one[0] < one[1]:
                rows.append(Stretch(f"roof {zone}", C, q, c, reach, one, steps=steps))

    if alpha < FLAT:
        share = rule.stated.get("h_p", 0.0) / h
        values = {k: (table.lookup(table.PARAPET_HEIGHTS, v, share),) * 2 for k, v in values_of.FLAT.items()}
        where = f"flat, h_p/h = {share:.3g}"
        first, second = start + e / 10, start + e / 2
        add("F", values["F"], (-math.inf, first), sides, where, "table 7.2")
        add("G", values["G"], (-math.inf, first), (between_,), where, "table 7.2")
        add("H", values["H"], (first, second), (everywhere,), where, "table 7.2")
        add("I", values_of.FLAT_I, (second, math.inf), (everywhere,), where, "table 7.2")
        return rows
    ridged = roof.form in ("gable", "trough")
    slope = -alpha if roof.form == "trough" else alpha
    where = f"{roof.form}, {slope:.3g} deg, wind {'along' if falls == Side.SIDE else 'across'}"
    first, second = start + e / 10, start + e / 2
    if falls == Side.SIDE:
        if ridged:
            found = {k: table.lookup(table.DUO_SLOPES, v, slope) for k, v in values_of.DUO_ALONG.items()}
            # F lies at the eaves of a gable, or the outer edges of a trough: the sides of the whole roof.
            corner = [("F", x) for x in sides]
        else:
            found = {k: table.lookup(table.SLOPES, v, alpha) for k, v in values_of.MONO_ALONG.items()}
            low_left = bool(face.normal[:2] @ seen.left > 0)
            corner = [("Flow" if low_left else "Fup", sides[1]), ("Fup" if low_left else "Flow", sides[0])]
        source = "table 7.4b" if ridged else "table 7.3b"
        for zone, across in corner:
            add(zone, (found[zone],) * 2, (-math.inf, first), (across,), where, source)
        add("G", (found["G"],) * 2, (-math.inf, first), (between_,), where, source)
        add("H", (found["H"],) * 2, (first, second), (everywhere,), where, source)
        add("I", (found["I"],) * 2, (second, math.inf), (everywhere,), where, source)
        return rows
    if not ridged:
        if falls == Side.WINDWARD:
            each = {k: _two(table.SLOPES, v, alpha) for k, v in values_of.MONO_UP.items()}
        else:
            each = {k: (table.lookup(table.SLOPES, v, alpha),) * 2 for k, v in values_of.MONO_DOWN.items()}
        source = "table 7.3a"
    else:
        each = {k: _two(table.DUO_SLOPES, v, slope) for k, v in values_of.DUO.items()}
        source = "table 7.4a"
    before = not ridged or lies_before(face, roof, seen.along)
    if before:
        add("F", each["F"], (-math.inf, first), sides, where, source)
        add("G", each["G"], (-math.inf, first), (between_,), where, source)
        add("H", each["H"], (first, math.inf), (everywhere,), where, source)
    else:
        middle = ridge_at(roof, seen.along) + e / 10
        add("J", each["J"], (-math.inf, middle), (everywhere,), where, source)
        add("I", each["I"], (middle, math.inf), (everywhere,), where, source)
    return rows


def _two(places: tuple[float, ...], values: tuple[tuple[float, ...], tuple[float, ...]], at: float) -> Pairs:
    """The lower and the upper value, each straight between values of its own kind (7.2.4, note: of the same sign)."""
    return table.lookup(places, values[0], at), table.lookup(places, values[1], at)
