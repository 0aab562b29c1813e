"""EN 1991-1-4, 7.2: buildings with walls. c_pe,10 by zones, internal pressure, friction.

    w_e = q_p(z_e) c_pe (5.1)   w_i = q_p(z_i) c_pi (5.2)   F = c_s c_d sum(w_e A) (5.5), sum(w_i A) (5.6)

        walls: D windward in strips (7.2.2), A B C along the sides, E leeward; e = min(b, 2h)
        roofs: F G H before, I J behind; 0: across the ridge, 90: along it

A roof has up to four alternatives: the lower or the upper values of F G H, with the lower or the upper ones of I J.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import Step
from ....model.wind import Heading, WindRule
from ....model.words import Side, Upward
from ...faces import Face
from ..shape.overhangs import slope_zones
from ..shape.roofs import Roof
from ..shape.seen import Seen
from ..shape.zones import Range, Stretch, Zone, cut
from ..site.en_site import structural_factor
from ..site.profile import Profile, followed
from . import en_tables as table
from . import en_tables_1
from .en_roof import FLAT, roof_rows
from .tables import between

Floats = NDArray[np.float64]
CORRELATION = (1.0, 5.0), (0.85, 1.0)
"""7.2.2 (3), by h/d."""
MANY = 4.0
"""7.5 (3): friction counts where the surfaces along the wind are more than so many times those across it."""


def edge_distance(seen: Seen) -> float:
    """e = min(b, 2h) [m]."""
    return min(seen.B, 2 * seen.building.top)


def building_zones(
    seen: Seen, rule: WindRule, profile: Profile, small: bool = False
) -> tuple[list[Zone], list[tuple[Step, ...]]]:
    """The zones of walls and roofs, friction, and steps that all of them share; `small`: with c_pe,1, for components,
    without friction and c_s c_d."""
    h = seen.building.top
    c, of_c = structural_factor(rule, h, seen.B) if not small else (1.0, ())
    e = edge_distance(seen)
    shared = (*of_c, Step("e", "min(b, 2h)", e, "m", "figure 7.5"))
    zones = [z for face in seen.building.walls for z in _wall(face, seen, rule, profile, c, small)]
    for roof in seen.building.roofs:
        for face in roof.faces:
            zones += _slope(face, roof, seen, rule, profile, c, small)
    return [*zones, *(() if small else _friction(seen, rule, profile))], [shared]


def wall_coefficient(zone: str, h_over_d: float, small: bool = False) -> float:
    """c_pe,10 of a wall's zone, or c_pe,1 (table 7.1)."""
    return table.lookup(table.H_D, (en_tables_1 if small else table).WALLS[zone], h_over_d)


def wall_zones(e: float, d: float, start: float) -> list[tuple[str, Range]]:
    """The zones of a side wall, from its windward edge on (figure 7.5).

    >>> wall_zones(10.0, 12.0, 0.0)
    [('A', (-inf, 2.0)), ('B', (2.0, 10.0)), ('C', (10.0, inf))]
    """
    if e >= 5 * d:
        return [("A", (-math.inf, math.inf))]
    first = start + e / 5
    if e >= d:
        return [("A", (-math.inf, first)), ("B", (first, math.inf))]
    return [("A", (-math.inf, first)), ("B", (first, start + e)), ("C", (start + e, math.inf))]


def strips(h: float, b: float) -> list[tuple[float, float, float]]:
    """Reference heights of a windward wall (7.2.2, figure 7.4): from, to, z_e [m]; z_e 0 where it is each strip's own
    top.

    >>> strips(10, 12), strips(10, 6), strips(10, 4)
    ([(0.0, 10, 10)], [(0.0, 6, 6), (6, 10, 10)], [(0.0, 4, 4), (4, 6, 0.0), (6, 10, 10)])
    """
    if h <= b:
        return [(0.0, h, h)]
    if h <= 2 * b:
        return [(0.0, b, b), (b, h, h)]
    return [(0.0, b, b), (b, h - b, 0.0), (h - b, h, h)]


def _wall(face: Face, seen: Seen, rule: WindRule, profile: Profile, c: float, small: bool) -> list[Zone]:
    h, d = seen.building.top, seen.L
    ratio = h / d
    axes, side = (seen.along, seen.left), seen.sides[face.surface]
    words = f"h/d = {ratio:.3g}"

    def step(zone: str) -> tuple[float, tuple[Step, ...]]:
        C = wall_coefficient(zone, ratio, small)
        out = Step("c_pe,1" if small else "c_pe,10", f"zone {zone}, {words}", C, "", "table 7.1")
        if zone not in "DE" or not rule.correlation or small:
            return C, (out,)
        less = between(*CORRELATION, ratio)
        return C * less, (out, Step("correlation", f"of zones D and E, {words}", less, "", "7.2.2 (3)"))

    q = profile.one(h)
    if side == Side.SIDE:
        rows = []
        for zone, reach in wall_zones(edge_distance(seen), d, seen.s[0]):
            C, steps = step(zone)
            rows.append(Stretch(f"wall {zone}", (C,), (q, q), c, reach, steps=steps, at=h))
        return cut(face, axes, rows, side, False)
    C, steps = step("D" if side == Side.WINDWARD else "E")
    if side == Side.LEEWARD:
        return cut(face, axes, [Stretch("wall E", (C,), (q, q), c, steps=steps, at=h)], side, True)
    rows = []
    for low, high, z_e in strips(h, seen.B):
        low, high = max(low, face.low, 0.0), min(high, face.top)
        if high <= low:
            continue
        if z_e:
            q_e = profile.one(z_e)
            rows.append(Stretch("wall D", (C,), (q_e, q_e), c, z=(low, high), steps=steps, at=z_e))
            continue
        z, pairs = followed(profile, low, high, rule.upward)
        for k, (a, b) in enumerate(pairs):
            at = float(z[k + 1]) if rule.upward == Upward.STEPS else math.nan
            between_ = (float(z[k]), float(z[k + 1]))
            rows.append(Stretch("wall D", (C,), (float(a), float(b)), c, z=between_, steps=steps, at=at))
    return cut(face, axes, rows, side, True)


def _slope(face: Face, roof: Roof, seen: Seen, rule: WindRule, profile: Profile, c: float, small: bool) -> list[Zone]:
    """Zones of a roof's face, z_e = h, of flat roofs with parapets h + h_p (7.2.3 (3)); what hangs over the walls has
    the pressure of the wall below it on its other side."""
    flat = rule.stated.get("theta", roof.slope) < FLAT
    z_e = roof.ridge + (rule.stated.get("h_p", 0.0) if flat else 0.0)
    q = profile.one(z_e)
    rows = [replace(r, at=z_e) for r in roof_rows(face, roof, seen, rule, (q, q), c, small)]
    return slope_zones(face, roof, seen, rows, lambda side: _below(side, seen, profile, c, small))


def _below(side: Side, seen: Seen, profile: Profile, c: float, small: bool) -> Iterator[Stretch]:
    """What presses on the underside of overhangs: the pressure of the wall they are joined to (7.2.1 (3))."""
    h, d = seen.building.top, seen.L
    ratio, q = h / d, profile.one(seen.building.top)
    everywhere = (-math.inf, math.inf)
    zones = {Side.WINDWARD: [("D", everywhere)], Side.LEEWARD: [("E", everywhere)]}
    for zone, reach in zones.get(side) or wall_zones(edge_distance(seen), d, seen.s[0]):
        C = wall_coefficient(zone, ratio, small)
        steps = (Step("c_pe,1" if small else "c_pe,10", f"below an overhang: wall zone {zone}", C, "", "7.2.1 (3)"),)
        name = f"below the overhang, wall {zone}"
        yield Stretch(name, (-C,), (q, q), c, reach, steps=steps, inside=False, at=h)


def _friction(seen: Seen, rule: WindRule, profile: Profile) -> list[Zone]:
    """Along walls and roofs that lie along the wind, beyond min(2b, 4h) from the windward edge (7.5): wherever it is
    stated, though it may be left out where such surfaces are few."""
    if "c_fr" not in rule.stated:
        return []
    h = seen.building.top
    start = seen.s[0] + min(2 * seen.B, 4 * h)
    q, C = profile.one(h), rule.stated["c_fr"]
    steps = (Step("c_fr", "stated; from min(2b, 4h) behind the windward edge on", C, "", "7.5"),)
    way = (float(seen.along[0]), float(seen.along[1]), 0.0)
    row = Stretch("friction", (C,), (q, q), 1.0, (start, math.inf), steps=steps, inside=False, way=way, at=h,
                  extra=True)  # fmt: skip
    faces = _along_the_wind(seen)
    return [z for f in faces for z in cut(f, (seen.along, seen.left), [row], Side.ROOF, False)]


def _along_the_wind(seen: Seen) -> list[Face]:
    walls = [f for f in seen.building.walls if seen.sides[f.surface] == Side.SIDE]
    return [*walls, *(f for r in seen.building.roofs for f in r.faces if seen.falls_to(f) == Side.SIDE)]


def along_over_across(seen: Seen) -> float:
    """The area of surfaces along the wind over that of surfaces across it (7.5 (3))."""
    along = sum(f.area for f in _along_the_wind(seen))
    across = sum(f.area for f in seen.building.walls if seen.sides[f.surface] != Side.SIDE)
    return along / across if across else 0.0


def parapet_zones(face: Face, seen: Seen, rule: WindRule, profile: Profile, side: Side) -> list[Zone]:
    """A parapet as a free-standing wall (7.4.1): zones A to D from both of its ends, net of both faces."""
    if side == Side.SIDE:
        return []
    h = face.top - face.low
    along_it = face.corners[:, :2] @ seen.left
    a, b = float(along_it.min()), float(along_it.max())
    ratio = (b - a) / h
    q = profile.one(face.top)
    sign = 1.0 if side == Side.WINDWARD else -1.0
    rows = []
    ends = (0.0, 0.3 * h, 2 * h, 4 * h, math.inf)
    for zone, near, far in zip("ABCD", ends[:-1], ends[1:], strict=True):
        C = table.FREE_WALL_RETURNS[zone] if rule.returns else table.lookup(table.L_H, table.FREE_WALL[zone], ratio)
        told = "with return corners" if rule.returns else f"l/h = {ratio:.3g}, no return corners"
        steps = (Step("c_p,net", f"parapet zone {zone}, {told}", sign * C, "", "table 7.9"),)
        middle = (a + b) / 2
        for one in ((a + near, min(a + far, middle)), (max(b - far, middle), b - near)):
            if one[0] < one[1]:
                rows.append(Stretch(f"parapet {zone}", (sign * C,), (q, q), 1.0, t=one, steps=steps, inside=False,
                                    at=face.top))  # fmt: skip
    return cut(face, (seen.along, seen.left), rows, Side.PARAPET, True)


def limits(seen: Seen, rule: WindRule, heading: Heading) -> list[Finding]:
    """Where the procedure's limits are passed."""
    out = []
    h = seen.building.top
    if h / seen.L > 5:
        message = f"h/d = {h / seen.L:.3g} for the wind {heading.name}; table 7.1 goes to 5 (EN 1991-1-4, 7.2.2)"
        out.append(
            Finding("warning", "wind-limits", message, "use force coefficients of 7.6 for the whole", heading.place)
        )
    for roof in seen.building.roofs:
        if roof.falls_many_ways:
            message = (
                f"the roof with {roof.names[0]} is {roof.form}: flat, monopitch and duopitch roofs are known here "
            )
            message += "(EN 1991-1-4, 7.2.3 to 7.2.5)"
            out.append(Finding("error", "wind-limits", message, "leave it out of `exterior`, and put its "
                               "pressures in by hand", rule.place))  # fmt: skip
        steepest = 45 if roof.form == "trough" else 75
        if roof.slope > steepest:
            message = f"the roof with {roof.names[0]} slopes {roof.slope:.3g} degrees; the tables go to {steepest}"
            out.append(Finding("error", "wind-limits", f"{message} (EN 1991-1-4, 7.2.4, 7.2.5)", "put its "
                               "pressures in by hand", rule.place))  # fmt: skip
        if roof.form in ("gable", "trough") and len({round(f.slope, 1) for f in roof.faces}) > 1:
            message = f"the slopes of the roof with {roof.names[0]} differ; each face is taken with the steeper one"
            out.append(
                Finding("warning", "wind-limits", message, "state `theta` where that is not intended", rule.place)
            )
    if along_over_across(seen) > MANY and "c_fr" not in rule.stated:
        message = (
            f"surfaces along the wind {heading.name} are {along_over_across(seen):.3g} times those across it: friction "
        )
        message += "counts (EN 1991-1-4, 7.5)"
        out.append(Finding("warning", "wind-friction", message, "state c_fr: 0.01 smooth, 0.02 rough, 0.04 very rough",
                           rule.place))  # fmt: skip
    return out
