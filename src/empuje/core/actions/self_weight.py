"""Self-weight: every member's own weight, along its true length, acting down unless its case says otherwise."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..model.cases import Case
from ..model.findings import Finding
from ..model.loads import AtNodes, LineLoad, Lines, PlainLoads, Source, Step, gather
from ..model.project import GRAVITY, Project
from .surfaces.distribution.distribute import distribute_area
from .surfaces.sources.surface_loads import Surfaces


def self_weight(project: Project, surfaces: Surfaces) -> tuple[PlainLoads, list[Finding]]:
    """Plain loads g = factor * A * density * g0 [N/m] on every member, for each case that has self-weight; and findings
    where a load by hand equals it."""
    cases = [(i, c) for i, c in enumerate(project.cases) if c.self_weight]
    if not cases:
        return PlainLoads(), []
    of_plates = [_of_plates(project, i, c, surfaces) for i, c in cases]
    if not project.members:
        return gather(of_plates), []
    kinds: dict[tuple[str, str], int] = {}
    kind = np.array([kinds.setdefault((m.section.name, m.material.name), len(kinds)) for m in project.members])
    models = {kinds[m.section.name, m.material.name]: m for m in reversed(project.members)}
    weight = np.array([models[k].section.A * models[k].material.density * GRAVITY for k in range(len(kinds))])
    parts, findings = [], []
    for index, case in cases:
        heavy = np.ones(len(project.members), bool)
        heavy[list(case.weightless)] = False
        on = np.flatnonzero(heavy)
        q = case.self_weight * weight[kind[on], None] * np.array(case.weight_along)
        parts.append(
            PlainLoads(
                Lines(np.full(len(on), index), kind[on], on, np.zeros(len(on)), project.lengths[on], q, q),
                sources=_sources(case, kinds, models, weight),
            )
        )
        findings += _doubles(project, case, case.self_weight * weight[kind] * heavy)
    return gather([*parts, *of_plates]), findings


def _of_plates(project: Project, index: int, case: Case, surfaces: Surfaces) -> PlainLoads:
    """The weight of structural surfaces in a case: thickness times density on all of each."""
    parts = []
    for i, geometry in surfaces.items():
        plate = geometry.outline.surface.plate
        if plate is None or i in case.weightless_surfaces:
            continue
        surface, area = geometry.outline.surface, float(geometry.outline.polygon.area)
        q = case.self_weight * plate.weight_thickness * plate.material.density * GRAVITY
        ribs = ", ribs spread evenly" if plate.ribs is not None else ""
        along = np.array(case.weight_along)
        steps = (
            Step("t", f"thickness of {surface.name}{ribs}", plate.weight_thickness, "m"),
            Step("rho", f"density of {plate.material.name}", plate.material.density, "kg/m3"),
            Step("g_k", f"{case.self_weight:g} * t * rho * {GRAVITY}", q, "N/m2"),
            Step("A", f"area of {surface.name}", area, "m2"),
            Step("F", "g_k * A", q * area, "N"),
        )
        put = tuple((q * area * along).tolist())
        source = Source(f"self-weight of {surface.name}", case.place, steps, surface.name, case.name, put)
        received = distribute_area(geometry, geometry.outline.polygon, np.array([q, 0.0, 0.0]), True)
        for node, share, _ in received.nodes:
            f = np.hstack([share[:, None] * along, np.zeros((len(node), 3))])
            none = np.zeros(len(node), np.intp)
            parts.append(PlainLoads(nodes=AtNodes(none + index, none, node, f), sources=(source,)))
    return gather(parts)


ALIKE = 0.01
"""A load by hand within this share of the self-weight of all its members is taken for it."""


def _doubles(project: Project, case: Case, weight: np.ndarray) -> list[Finding]:
    """Line loads by hand that are the self-weight the case has anyway."""
    out = []
    for load in project.loads:
        if not isinstance(load, LineLoad) or load.case != case.name or load.direction.vector != case.weight_along:
            continue
        own, given = weight[list(load.members)], np.array([v for _, v in load.points])
        with np.errstate(over="ignore"):
            alike = own.all() and (np.abs(given[:, None] / own - 1) < ALIKE).all()
        if alike:
            message = f"case {case.name} has the self-weight of {project.members[load.members[0]].name} twice: by "
            out.append(Finding("warning", "counted-twice", f"{message}self_weight, and by hand ({load.text})",
                               "take one of them out", load.place))  # fmt: skip
    return out


def _sources(case: Case, kinds: dict[Any, Any], models: dict[Any, Any], weight: np.ndarray) -> tuple[Source, ...]:
    out = []
    for (section, material), k in kinds.items():
        A, density = models[k].section.A, models[k].material.density
        steps = (
            Step("A", f"area of {section}", A, "m2"),
            Step("rho", f"density of {material}", density, "kg/m3"),
            Step("g_k", f"{case.self_weight:g} * A * rho * {GRAVITY}", case.self_weight * weight[k], "N/m"),
        )
        out.append(Source(f"self-weight of {section}, {material}", case.place, steps))
    return tuple(out)
