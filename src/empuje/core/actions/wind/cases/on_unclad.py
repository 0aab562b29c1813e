"""Line loads on unclad members in a case, and the minimum loads of ASCE 7."""

from __future__ import annotations

import numpy as np

from ....model.loads import Lines, PlainLoads, Source, Step
from ....model.project import Project
from ....model.wind import WindCase, WindRule
from ..site.asce_site import PSF
from ..unclad import UncladRows
from .worked_out import Wind

LEAST_WALL, LEAST_ROOF = 0.77e3, 0.38e3
LEAST_WALL_PSF, LEAST_ROOF_PSF = 16.0, 8.0


def least_on(rule: WindRule, is_roof: bool) -> float:
    """The minimum load on what is seen of walls, and of roofs [N/m2] (27.1.5)."""
    if rule.customary:
        return (LEAST_ROOF_PSF if is_roof else LEAST_WALL_PSF) * PSF
    return LEAST_ROOF if is_roof else LEAST_WALL


def on_unclad(project: Project, rows: UncladRows, column: int, case: WindCase, wind: Wind, h: int) -> PlainLoads:
    """Line loads on unclad members, a source for each member."""
    heading, rule = wind.blown[h].heading, wind.rule
    w = case.factor * rows.w
    if case.least:
        w = np.repeat((least_on(rule, False) * rows.area)[:, None], 2, axis=1)
    members, first, of = np.unique(rows.of, return_index=True, return_inverse=True)
    top, most = np.zeros(len(members)), np.zeros(len(members))
    np.maximum.at(top, of, rows.z.max(axis=1))
    np.maximum.at(most, of, w.max(axis=1))
    known: dict[float, tuple[Step, ...]] = {}
    sources = []
    for k, i in enumerate(members.tolist()):
        name = project.members[int(rows.member[first[k]])].name
        if case.least:
            steps: tuple[Step, ...] = (
                Step("w", "minimum on what is seen along the wind", float(most[k]), "N/m", "29.7"),
            )
        else:
            z = round(float(top[k]), 6)
            known[z] = known.get(z) or wind.blown[h].profile.derived(z)
            steps = (*known[z], *rows.steps[i], Step("w", f"{rows.formula}, at its top", float(most[k]), "N/m"))
        sources.append(Source(f"wind {heading.name} on unclad {name}", heading.place, steps, case=case.name))
    along = np.array([*heading.vector, 0.0])
    where = np.full(len(rows.of), column)
    lines = Lines(where, of, rows.member, rows.s[:, 0], rows.s[:, 1], w[:, :1] * along, w[:, 1:] * along)
    return PlainLoads(lines, sources=tuple(sources))
