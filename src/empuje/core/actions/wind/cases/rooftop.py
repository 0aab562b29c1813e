"""Structures and equipment on the roofs of buildings, ASCE 7, 29.4.1: forces on the nodes that hold them.

    F_h = q_h K_d (GC_r) A_f    1.9 up to A_f = 0.1 B h, straight to 1.0 at B h      K_d in q_h in 7-16
    F_v = q_h K_d (GC_r) A_r    1.5 up to A_r = 0.1 B L, straight to 1.0 at B L

>>> across(0.05), across(0.1), round(across(0.55), 3), across(1.0), upwards(0.1), upwards(2.0)
(1.9, 1.9, 1.45, 1.0, 1.5, 1.0)
"""

from __future__ import annotations

import numpy as np
import shapely

from ....model.loads import AtNodes, PlainLoads, Source, Step
from ....model.project import Project
from ....model.wind import RooftopRule, WindCase
from ..codes.tables import between
from ..site.asce_site import beside_g
from .worked_out import Met, Wind

SMALL, LARGE = 0.1, 1.0
ACROSS, UPWARDS = (1.9, 1.0), (1.5, 1.0)


def across(share: float) -> float:
    """(GC_r) of the force along the wind, by A_f over B h."""
    return between((SMALL, LARGE), ACROSS, share)


def upwards(share: float) -> float:
    """(GC_r) of the uplift, by A_r over B L."""
    return between((SMALL, LARGE), UPWARDS, share)


def on_rooftop(
    project: Project, unit: RooftopRule, column: int, case: WindCase, wind: Wind, h: int, least: float
) -> PlainLoads:
    """The forces of one direction in a case, shared alike by the nodes; uplift with the lower values of roofs, of the
    first direction; `least`: the minimum on what is seen [N/m2] (29.7)."""
    blown = wind.blown[h]
    met = _below(project, unit, blown.met)
    building, rule = met.seen.building, met.seen.building.rule.towards(blown.heading)
    q, K_d = blown.profile.one(building.h), beside_g(rule)
    A_f = unit.A_f.get(h, unit.A_f.get(-1, 0.0))
    GC, GC_v = across(A_f / (met.seen.B * building.h)), upwards(unit.A_r / (met.seen.B * met.seen.L))
    pressed = least if case.least else max(case.factor * q * K_d * GC, case.factor * least)
    F_h, F_v = pressed * A_f, 0.0
    steps = [Step("q_h", "at the mean roof height", q, "N/m2", "26.10"), Step("K_d", "directionality factor", K_d, "")]
    steps += [Step("GC_r", f"A_f / (B h) = {A_f / (met.seen.B * building.h):.3g}", GC, "", "29.4.1"),
              Step("F_h", "q_h K_d (GC_r) A_f, at least 16 psf A_f", F_h, "N", "(29.4-2), 29.7")]  # fmt: skip
    if not case.least and case.roof == 0 and h == case.headings[0] and unit.A_r:
        F_v = case.factor * q * K_d * GC_v * unit.A_r
        steps += [Step("GC_r", f"A_r / (B L) = {unit.A_r / (met.seen.B * met.seen.L):.3g}", GC_v, "", "29.4.1"),
                  Step("F_v", "q_h K_d (GC_r) A_r", F_v, "N", "(29.4-3)")]  # fmt: skip
    n = len(unit.nodes)
    x, y = blown.heading.vector
    force = np.tile(np.array([F_h * x, F_h * y, F_v, 0.0, 0.0, 0.0]) / n, (n, 1))
    source = Source(f"wind {blown.heading.name} on {unit.name}", unit.place, tuple(steps), case=case.name)
    none = np.zeros(n, np.intp)
    return PlainLoads(nodes=AtNodes(none + column, none, np.array(unit.nodes, np.intp), force), sources=(source,))


def _below(project: Project, unit: RooftopRule, met: tuple[Met, ...]) -> Met:
    """The building that a unit stands on: the nearest in plan."""
    at = shapely.Point(*project.xyz[list(unit.nodes), :2].mean(axis=0))
    plans = [shapely.multipoints(m.seen.building.corners[:, :2]).convex_hull for m in met]
    return met[int(np.argmin([p.distance(at) for p in plans]))]
