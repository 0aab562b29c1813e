"""ASCE 7, directional procedure of chapter 27 for buildings with walls: zones and external coefficients.

p = q K_d G C_p - q_i K_d (GC_pi)     (27.3-1), K_d in q in 7-16

    windward wall 0.8 with q_z      leeward by L/B, sides -0.7, roofs by h/L and slope: with q_h
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import Step
from ....model.near import SAME_WAY, together
from ....model.wind import Heading, WindRule
from ....model.words import Enclosure, RoofForm, Side
from ...faces import Face
from ..shape.building import Building
from ..shape.overhangs import slope_zones
from ..shape.roofs import Roof
from ..shape.seen import Seen
from ..shape.zones import Range, Stretch, Zone, alternatives, cut
from ..site.asce_site import FOOT, RIGID_FROM, beside_g, gust_factor
from ..site.profile import Profile, followed
from .asce_arched import arch_limits, arch_way, arched_rows
from .tables import between, in_grid, signed

Floats = NDArray[np.float64]
WALL, SIDES = 0.8, -0.7
L_B, LEEWARD = (1.0, 2.0, 4.0), (-0.5, -0.3, -0.2)
H_L = (0.25, 0.5, 1.0)
SLOPES = (10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 45.0, 60.0)
LOWER = np.array([
    [-0.7, -0.5, -0.3, -0.2, -0.2, 0.0, 0.0, 0.0],
    [-0.9, -0.7, -0.4, -0.3, -0.2, -0.2, 0.0, 0.0],
    [-1.3, -1.0, -0.7, -0.5, -0.3, -0.2, 0.0, 0.0],
])  # fmt: skip
UPPER = np.array([
    [-0.18, 0.0, 0.2, 0.3, 0.3, 0.4, 0.4, 0.6],
    [-0.18, -0.18, 0.0, 0.2, 0.2, 0.3, 0.4, 0.6],
    [-0.18, -0.18, -0.18, 0.0, 0.2, 0.2, 0.3, 0.6],
])  # fmt: skip
"""Windward slopes, wind across the ridge, 10 degrees and steeper; rows by h/L. 0.01 theta from 60 degrees on."""
LEE_SLOPES = (10.0, 15.0, 20.0)
LEE = np.array([[-0.3, -0.5, -0.6], [-0.5, -0.5, -0.6], [-0.7, -0.6, -0.6]])
ALONG_H_L = (0.5, 1.0)
ALONG = np.array([[-0.9, -0.9, -0.5, -0.3], [-1.3, -0.7, -0.7, -0.7]])
"""Along the ridge, and slopes below 10 degrees: from the windward edge to h/2, h, 2h and beyond; rows by h/L."""
UPPER_ALONG = -0.18
SMALL_AREAS, REDUCTION = tuple(a * FOOT**2 for a in (100.0, 250.0, 1000.0)), (1.0, 0.9, 0.8)
STEEP = 10.0
ALIKE = 1e-3
FIGURE = "figure 27.3-1"
PARAPETS = {Side.WINDWARD: 1.5, Side.LEEWARD: -1.0}
OVERHANG = 0.8


def leeward_wall(L_over_B: float) -> float:
    """C_p of the leeward wall, figure 27.3-1."""
    return between(L_B, LEEWARD, L_over_B)


def windward_slope(theta: float, h_over_L: float) -> tuple[float, float]:
    """Both C_p of a windward slope of at least 10 degrees with the wind across the ridge, figure 27.3-1."""
    if theta >= SLOPES[-1]:
        return 0.01 * theta, 0.01 * theta
    low = in_grid(H_L, SLOPES, LOWER, h_over_L, theta)
    each = [between(SLOPES, row, theta) for row in UPPER]
    place = min(max(h_over_L, H_L[0]), H_L[-1])
    k = 0 if place <= H_L[1] else 1
    return low, signed(each[k], each[k + 1], (place - H_L[k]) / (H_L[k + 1] - H_L[k]))


def leeward_slope(theta: float, h_over_L: float) -> float:
    """C_p of a leeward slope, figure 27.3-1."""
    return in_grid(H_L, LEE_SLOPES, LEE, h_over_L, theta)


def along_ridge(h_over_L: float) -> tuple[float, float, float, float]:
    """The lower C_p from the windward edge to h/2, to h, to 2h, and beyond, figure 27.3-1."""
    a, b, c, d = (between(ALONG_H_L, column, h_over_L) for column in ALONG.T)
    return a, b, c, d


def reduced(C_p: float, area: float) -> float:
    """A C_p of -1.3 reduced for the area [m2] it acts on, figure 27.3-1; others are not."""
    if C_p > -1.3 + 1e-9:
        return C_p
    return C_p * between(SMALL_AREAS, REDUCTION, area)


def building_zones(seen: Seen, rule: WindRule, profile: Profile) -> tuple[list[Zone], list[tuple[Step, ...]]]:
    """The zones of walls, roofs and overhangs, and the steps that lead to what all of them share."""
    building = seen.building
    h = building.h
    G, of_gust = gust_factor(rule, h, seen.B, seen.L)
    factor = G * beside_g(rule)
    q_h = profile.one(h)
    zones = [z for face in building.walls for z in _wall(face, seen, rule, profile, factor, q_h)]
    for roof in building.roofs:
        q = profile.one(roof.h)
        way = arch_way(roof, seen)
        arch = arched_rows(roof, way, (q, q), factor) if way is not None else None
        for face in roof.faces:
            rows = arch or _roof_rows(face, roof, seen, rule, (q, q), factor)
            zones += _slope(face, roof, seen, rows, q, factor, way)
    shared = Step("K_d", "beside G in 7-22", beside_g(rule), "", "table 26.6-1")
    return zones, [(*of_gust, *((shared,) if beside_g(rule) != 1 else ()))]


def _wall(face: Face, seen: Seen, rule: WindRule, profile: Profile, factor: float, q_h: float) -> list[Zone]:
    axes, side = (seen.along, seen.left), seen.sides[face.surface]
    if side == Side.WINDWARD:
        z, q = followed(profile, max(face.low, 0.0), face.top, rule.upward)
        steps = (Step("C_p", "windward wall", WALL, "", FIGURE),)
        rows = [
            Stretch("windward wall", (WALL,), (float(a), float(b)), factor, z=(float(low), float(high)), steps=steps)
            for low, high, (a, b) in zip(z[:-1], z[1:], q, strict=True)
        ]
        return cut(face, axes, rows, side, True)
    if side == Side.LEEWARD:
        ratio = seen.L / seen.B
        C = leeward_wall(ratio)
        words = f"leeward wall, L/B = {ratio:.3g}"
    else:
        C, words = SIDES, "side wall"
    steps = (Step("C_p", words, C, "", FIGURE),)
    return cut(
        face,
        axes,
        [Stretch(f"{side} wall", (C,), (q_h, q_h), factor, steps=steps, at=seen.building.h)],
        side,
        side == Side.LEEWARD,
    )


def _slope(
    face: Face, roof: Roof, seen: Seen, each: Sequence[Stretch], q: float, factor: float, way: Floats | None
) -> list[Zone]:
    """The zones of a face of a roof by its stretches, and of what of it hangs over the walls."""
    rows = [replace(r, at=roof.h) for r in each]

    def below(side: Side) -> list[Stretch]:
        if side != Side.WINDWARD:
            return []
        steps = (Step("C_p", "below a windward overhang", OVERHANG, "", "27.3.3"),)
        return [Stretch("below the windward overhang", (-OVERHANG,), (q, q), factor, steps=steps, at=roof.h)]

    return slope_zones(face, roof, seen, rows, below, way)


def _roof_rows(face: Face, roof: Roof, seen: Seen, rule: WindRule, q: Range, factor: float) -> list[Stretch]:
    ratio, theta = roof.h / seen.L, rule.stated.get("theta", face.slope)
    words = f"h/L = {ratio:.3g}"
    # The wind along an arch meets it as it meets a ridge from its end (figure 27.3-3, note).
    falls = Side.SIDE if roof.form == RoofForm.ARCHED else seen.falls_to(face)
    if theta >= STEEP and falls != Side.SIDE:
        sloped = f"{falls} slope of {theta:.3g} deg, {words}"
        if falls == Side.WINDWARD:
            low, high = windward_slope(theta, ratio)
            if rule.reduce_by_area:
                # The whole slope, however many surfaces it is drawn in.
                low = reduced(low, sum(f.area for f in roof.faces if f.normal @ face.normal > 1 - ALIKE))
            steps = alternatives("C_p", sloped, (low, high), FIGURE)
            return [Stretch("windward slope", (low, high), q, factor, steps=steps)]
        C = leeward_slope(theta, ratio)
        steps = (Step("C_p", sloped, C, "", FIGURE),)
        return [Stretch("leeward slope", (C,), q, factor, steps=steps)]
    corners = np.concatenate([f.corners for f in roof.faces])
    edge = float((corners[:, :2] @ seen.along).min())
    width = float(np.ptp(corners[:, :2] @ seen.left))
    ends = [-math.inf, edge + roof.h / 2, edge + roof.h, edge + 2 * roof.h, math.inf]
    names = ("roof to h/2", "roof h/2 to h", "roof h to 2h", "roof beyond 2h")
    out = []
    for name, C, low, high in zip(names, along_ridge(ratio), ends[:-1], ends[1:], strict=True):
        if rule.reduce_by_area:
            C = reduced(C, roof.h / 2 * width)
        steps = alternatives("C_p", words, (C, UPPER_ALONG), FIGURE)
        out.append(Stretch(name, (C, UPPER_ALONG), q, factor, (low, high), steps=steps))
    return out


def parapet_zones(face: Face, seen: Seen, rule: WindRule, profile: Profile, side: Side) -> list[Zone]:
    """A parapet: the net of both its faces, q_p at its top (27.3.4)."""
    q = profile.one(face.top)
    C = PARAPETS.get(side, 0.0)
    if not C:
        return []
    steps = (Step("GC_pn", f"{side} parapet, q_p at its top", C, "", "27.3.4"),)
    row = Stretch(f"{side} parapet", (C,), (q, q), beside_g(rule), steps=steps, inside=False, at=face.top)
    return cut(face, (seen.along, seen.left), [row], Side.PARAPET, True)


INSIDE = {
    Enclosure.ENCLOSED: 0.18, Enclosure.PARTIALLY_ENCLOSED: 0.55, Enclosure.PARTIALLY_OPEN: 0.18, Enclosure.OPEN: 0.0,
}  # fmt: skip
"""Table 26.13-1."""


SMALL_OPENING = 4 * FOOT**2


def enclosure_of(rule: WindRule, building: Building) -> tuple[Enclosure, str]:
    """How enclosed a building is: stated, or by the openings of each wall against those of all else (26.2)."""
    if rule.enclosure is not None:
        return rule.enclosure, "stated"
    if not rule.openings and building.is_unclosed:
        return Enclosure.PARTIALLY_ENCLOSED, "taken, as its walls do not close"
    if not rule.openings:
        return Enclosure.ENCLOSED, "taken, as no openings are stated"
    walls: dict[tuple[int | str, ...], list[float]] = {}
    ways = together([face.normal for face in building.faces], SAME_WAY).tolist()
    for face, way in zip(building.faces, ways, strict=True):
        key: tuple[int | str, ...] = (way,) if face.is_wall else ("roof",)
        row = walls.setdefault(key, [0.0, 0.0])
        row[0] += rule.openings.get(face.surface, 0.0)
        row[1] += face.area
    A_o, A_g = (sum(row[k] for row in walls.values()) for k in (0, 1))
    each = [(own, gross, A_o - own, A_g - gross) for key, (own, gross) in walls.items() if key != ("roof",)]
    for own, gross, others, rest in each:
        small = min(SMALL_OPENING, 0.01 * gross)
        if own > 1.10 * others and own > small and others <= 0.20 * rest:
            more = own / others if others else math.inf
            told = f"A_o of one wall is {more:.3g} A_oi, and {100 * own / gross:.3g} % of that wall"
            return Enclosure.PARTIALLY_ENCLOSED, told
    if all(own < min(SMALL_OPENING, 0.01 * gross) and others <= 0.20 * rest for own, gross, others, rest in each):
        return Enclosure.ENCLOSED, "openings of every wall below 1 % of it and 4 ft2"
    if all(own >= 0.8 * gross for own, gross, _, _ in each):
        return Enclosure.OPEN, "every wall is open by 80 %"
    return Enclosure.PARTIALLY_OPEN, "neither enclosed nor partially enclosed nor open by its openings"


def internal_coefficient(rule: WindRule, building: Building) -> tuple[float, tuple[Step, ...]]:
    """(GC_pi) by enclosure (table 26.13-1), less R_i for a large volume of a partially enclosed building (26.13.1)."""
    volume = float(shapely.area(building.footprint)) * building.h if building.footprint is not None else 0.0
    if "GC_pi" in rule.stated:
        value = rule.stated["GC_pi"]
        return value, (Step("GC_pi", "stated", value, "", "table 26.13-1"),)
    word, why = enclosure_of(rule, building)
    value = INSIDE[word]
    steps = (Step("GC_pi", f"{word} building: {why}", value, "", "table 26.13-1"),)
    area = sum(rule.openings.values())
    if word != Enclosure.PARTIALLY_ENCLOSED or not area or volume <= 0:
        return value, steps
    R_i = min(1.0, 0.5 * (1 + 1 / math.sqrt(1 + volume / (22800 * FOOT * area))))
    more = (
        Step("V_i", "what the walls enclose, times h", volume, "m3"),
        Step("A_og", "all openings", area, "m2"),
        Step("R_i", "0.5 (1 + 1 / sqrt(1 + V_i / (22 800 ft A_og)))", R_i, "", "26.13.1"),
    )
    return value * R_i, (*steps, *more, Step("GC_pi", "GC_pi R_i", value * R_i, "", "26.13.1"))


def internal(
    rule: WindRule, profile: Profile, building: Building
) -> tuple[tuple[float, float], tuple[tuple[Step, ...], tuple[Step, ...]]]:
    """q_h K_d (GC_pi) of both signs [N/m2], with their steps."""
    q, K_d = profile.one(building.h), beside_g(rule)
    GC, steps = internal_coefficient(rule, building)
    words = f"q_h {'K_d ' if K_d != 1 else ''}(GC_pi), q_h at the mean roof height"
    signed_ = [[replace(s, value=-s.value) if s.symbol == "GC_pi" else s for s in steps], steps]
    of = [(*signed_[sign > 0], Step("p_i", words, sign * q * K_d * GC, "N/m2", "(27.3-1)")) for sign in (1, -1)]
    return (q * K_d * GC, -q * K_d * GC), (of[0], of[1])


def limits(seen: Seen, rule: WindRule, heading: Heading) -> list[Finding]:
    """Where the procedure's limits are passed: a building that may not be rigid with the gust factor of one."""
    h, least = seen.building.h, min(seen.B, seen.L)
    out = []
    if rule.gust not in ("flexible", "stated") and h > 4 * least:
        message = f"{seen.building.called} is {h:.4g} m high and {least:.4g} m wide: it may be flexible "
        message += "(ASCE 7, 26.2: below 1 Hz), and the gust factor is that of a rigid one"
        out.append(
            Finding("warning", "wind-limits", message, 'state G = "flexible" with n_1, or the factor', rule.place)
        )
    n = rule.stated.get("n_1")
    if n is not None and n < RIGID_FROM and rule.gust not in ("flexible", "stated"):
        message = f"n_1 = {n:.3g} Hz is below 1 Hz, so the building is flexible (ASCE 7, 26.2)"
        out.append(Finding("error", "wind-limits", message, 'write G = "flexible"', rule.place))
    if rule.gust == "flexible" and not {"eccentricity", "e_R"} & set(rule.stated) and any(c.twist for c in rule.cases):
        message = (
            "load cases 2 and 4 have the eccentricity of a rigid building, 0.15 B; of a flexible one (27.3-4) may "
        )
        message += "ask for more (ASCE 7, figure 27.3-8)"
        out.append(
            Finding(
                "warning", "wind-limits", message, "state e_R, or `eccentricity`, or keep other variants", rule.place
            )
        )
    if rule.stated.get("e_R", 0.0) > seen.B / 2:
        message = f"e_R = {rule.stated['e_R']:.4g} m is more than half of the {seen.B:.4g} m of {seen.building.called} "
        message += "across the wind "
        out.append(Finding("error", "wind-limits", message + heading.name, "state the distance in plan between both "
                           "centres", rule.place))  # fmt: skip
    for roof in seen.building.roofs:
        if roof.form == RoofForm.ARCHED:
            out += arch_limits(roof, rule)
        if roof.form in ("folded", "trough"):
            message = f"the roof with {roof.names[0]} is neither flat, monoslope, gable nor hip: each face is "
            message += f"taken by the way it falls to the wind {heading.name}"
            out.append(Finding("note", "wind-shape", message, "", rule.place))
    return out
