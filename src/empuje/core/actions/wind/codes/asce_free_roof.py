"""ASCE 7, 27.3.2: roofs of open buildings without walls, monoslope, pitched and troughed.

p = q_h K_d G C_N      (27.3-2), positive towards the top of the roof

    wind 0, 180: C_NW on the windward half, C_NL on the leeward half (figures 27.3-4 to -6)
    wind 90, 270: by the distance from the windward edge (figure 27.3-7)
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import Step
from ....model.wind import Heading, WindRule
from ....model.words import Flow, Side
from ...faces import FLAT
from ..shape.roofs import Roof, lies_before
from ..shape.seen import axes_of, facing
from ..shape.zones import Stretch, Zone, alternatives, cut
from ..site.asce_site import beside_g, gust_factor
from ..site.profile import Profile
from .tables import between

Floats = NDArray[np.float64]
SLOPES = (0.0, 7.5, 15.0, 22.5, 30.0, 37.5, 45.0)
FALLING = np.array([
    [[1.2, 0.3, -0.5, -1.2], [-1.1, -0.1, -1.1, -0.6]],
    [[-0.6, -1.0, -1.0, -1.5], [-1.4, 0.0, -1.7, -0.8]],
    [[-0.9, -1.3, -1.1, -1.5], [-1.9, 0.0, -2.1, -0.6]],
    [[-1.5, -1.6, -1.5, -1.7], [-2.4, -0.3, -2.3, -0.9]],
    [[-1.8, -1.8, -1.5, -1.8], [-2.5, -0.5, -2.3, -1.1]],
    [[-1.8, -1.8, -1.5, -1.8], [-2.4, -0.6, -2.2, -1.1]],
    [[-1.6, -1.8, -1.3, -1.8], [-2.3, -0.7, -1.9, -1.2]],
])  # fmt: skip
"""Figure 27.3-4, wind 0: the roof falls with the wind, its high edge to windward; (slopes, cases A B, C_NW C_NL clear
then obstructed)."""
RISING = np.array([
    [[1.2, 0.3, -0.5, -1.2], [-1.1, -0.1, -1.1, -0.6]],
    [[0.9, 1.5, -0.2, -1.2], [1.6, 0.3, 0.8, -0.3]],
    [[1.3, 1.6, 0.4, -1.1], [1.8, 0.6, 1.2, -0.3]],
    [[1.7, 1.8, 0.5, -1.0], [2.2, 0.7, 1.3, 0.0]],
    [[2.1, 2.1, 0.6, -1.0], [2.6, 1.0, 1.6, 0.1]],
    [[2.1, 2.2, 0.7, -0.9], [2.7, 1.1, 1.9, 0.3]],
    [[2.2, 2.5, 0.8, -0.9], [2.6, 1.4, 2.1, 0.4]],
])  # fmt: skip
"""Figure 27.3-4, wind 180: the roof rises with the wind."""
RIDGED_SLOPES = SLOPES[1:]
PITCHED = np.array([
    [[1.1, -0.3, -1.6, -1.0], [0.2, -1.2, -0.9, -1.7]],
    [[1.1, -0.4, -1.2, -1.0], [0.1, -1.1, -0.6, -1.6]],
    [[1.1, 0.1, -1.2, -1.2], [-0.1, -0.8, -0.8, -1.7]],
    [[1.3, 0.3, -0.7, -0.7], [-0.1, -0.9, -0.2, -1.1]],
    [[1.3, 0.6, -0.6, -0.6], [-0.2, -0.6, -0.3, -0.9]],
    [[1.1, 0.9, -0.5, -0.5], [-0.3, -0.5, -0.3, -0.7]],
])  # fmt: skip
"""Figure 27.3-5."""
TROUGHED = np.array([
    [[-1.1, 0.3, -1.6, -0.5], [-0.2, 1.2, -0.9, -0.8]],
    [[-1.1, 0.4, -1.2, -0.5], [0.1, 1.1, -0.6, -0.8]],
    [[-1.1, -0.1, -1.2, -0.6], [-0.1, 0.8, -0.8, -0.8]],
    [[-1.3, -0.3, -1.4, -0.4], [-0.1, 0.9, -0.2, -0.5]],
    [[-1.3, -0.6, -1.4, -0.3], [0.2, 0.6, -0.3, -0.4]],
    [[-1.1, -0.9, -1.2, -0.3], [0.3, 0.5, -0.3, -0.4]],
])  # fmt: skip
"""Figure 27.3-6."""
ALONG = np.array([[[-0.8, -1.2], [0.8, 0.5]], [[-0.6, -0.9], [0.5, 0.5]], [[-0.3, -0.6], [0.3, 0.3]]])
"""Figure 27.3-7: to h, to 2h and beyond; cases A B; clear, obstructed."""
STEEPEST, LEAST = 45.0, 7.5
RATIOS = (0.25, 1.0)


def free_roof_coefficients(form: str, theta: float, rises: bool, flow: Flow) -> tuple[Floats, str]:
    """C_N (cases A B, windward and leeward half) for a wind across the ridge, or up or down the slope; and the figure.
    Below 7.5 degrees those of 0 hold, of ridged roofs too those of the monoslope figure (note 3 of each)."""
    columns = slice(0, 2) if flow == Flow.CLEAR else slice(2, 4)
    table: Floats
    places: tuple[float, ...]
    theta = theta if theta >= LEAST else 0.0
    if form in ("gable", "trough") and theta:
        table, places = (PITCHED if form == "gable" else TROUGHED), RIDGED_SLOPES
        figure = "figure 27.3-5" if form == "gable" else "figure 27.3-6"
    else:
        table, places, figure = (RISING if rises else FALLING), SLOPES, "figure 27.3-4"
    return np.array([
        [between(places, table[:, case, k].tolist(), theta) for k in range(4)[columns]] for case in range(2)
    ]), figure  # fmt: skip


def free_roof_zones(
    roof: Roof, heading: Heading, rule: WindRule, profile: Profile
) -> tuple[list[Zone], list[tuple[Step, ...]], list[Finding]]:
    """The zones of a roof without walls; steps that they share; where the figures' limits are passed."""
    along, left = axes_of(heading)
    corners = np.concatenate([f.corners for f in roof.faces])
    s, t = corners[:, :2] @ along, corners[:, :2] @ left
    L, h, theta = float(np.ptp(s)), roof.h, roof.slope
    G, of_gust = gust_factor(rule, h, float(np.ptp(t)), L)
    q, factor = profile.one(h), G * beside_g(rule)
    across = any(facing(f.normal, along) != Side.SIDE for f in roof.faces if f.slope > FLAT)
    findings = _limits(roof, heading, h / L, theta)
    if across or roof.form == "flat":
        rows = _halves(roof, along, theta, rule, (float(s.min()) + float(s.max())) / 2, q, factor)
    else:
        rows = {f.surface: _distances(h, float(s.min()), theta, rule, q, factor) for f in roof.faces}
    zones = [
        z for f in roof.faces
        for z in cut(f, (along, left), [replace(r, at=h) for r in rows[f.surface]], Side.FREE_ROOF, False)
    ]  # fmt: skip
    return zones, [of_gust], findings


def _halves(
    roof: Roof, along: Floats, theta: float, rule: WindRule, middle: float, q: float, factor: float
) -> dict[int, list[Stretch]]:
    """By surface: the windward half of the roof, and the leeward half; of ridged roofs the slopes themselves."""
    out = {}
    ridged = roof.form in ("gable", "trough")
    for face in roof.faces:
        rises = facing(face.normal, along) == Side.WINDWARD
        C, figure = free_roof_coefficients(roof.form, theta, rises, rule.flow)
        way = "rising" if rises else "falling"
        told = f"{roof.form}, {theta:.3g} deg" if ridged or theta <= FLAT else f"{way} with the wind, {theta:.3g} deg"
        told += ", as 0" if FLAT < theta < LEAST else ""
        rows = []
        for k, (name, limits) in enumerate(
            (("windward half", (-math.inf, middle)), ("leeward half", (middle, math.inf)))
        ):
            if ridged:
                if lies_before(face, roof, along) != (k == 0):
                    continue
                limits = (-math.inf, math.inf)
            rows.append(_row(name, C[:, k], q, factor, limits, f"{told}, {rule.flow} flow, {name}", figure))
        out[face.surface] = rows
    return out


def _row(name: str, C: Floats, q: float, factor: float, limits: tuple[float, float], told: str, figure: str) -> Stretch:
    """A stretch with both cases: A, then B."""
    steps = alternatives("C_N", told, C.tolist(), figure, "AB")
    return Stretch(f"free roof, {name}", tuple(C.tolist()), (q, q), factor, limits, steps=steps, inside=False)


def _distances(h: float, edge: float, theta: float, rule: WindRule, q: float, factor: float) -> list[Stretch]:
    column = 0 if rule.flow == Flow.CLEAR else 1
    ends = [-math.inf, edge + h, edge + 2 * h, math.inf]
    names = ("to h", "h to 2h", "beyond 2h")
    return [
        _row(name, ALONG[k, :, column], q, factor, (ends[k], ends[k + 1]),
             f"wind along the roof, {name}, {rule.flow} flow", "figure 27.3-7")
        for k, name in enumerate(names)
    ]  # fmt: skip


def _limits(roof: Roof, heading: Heading, ratio: float, theta: float) -> list[Finding]:
    out = []
    where = f"free roof with {roof.names[0]}, wind {heading.name}"
    if theta > STEEPEST:
        out.append(Finding("error", "wind-limits", f"{where}: a slope of {theta:.3g} degrees; the figures go to 45 "
                           "(ASCE 7, 27.3.2)", "put its loads in by hand", heading.place))  # fmt: skip
    if not RATIOS[0] - 1e-9 <= ratio <= RATIOS[1] + 1e-9:
        out.append(Finding("warning", "wind-limits", f"{where}: h/L = {ratio:.3g}; the figures hold from 0.25 to 1.0 "
                           "(ASCE 7, 27.3.2)", "their values are taken all the same", heading.place))  # fmt: skip
    if roof.falls_many_ways:
        out.append(Finding("error", "wind-limits", f"{where}: it is {roof.form}; the figures know monoslope, "
                           "pitched and troughed roofs", "put its loads in by hand", heading.place))  # fmt: skip
    return out
