"""Self-weight: every member's own weight, along its true length, acting down."""

from __future__ import annotations

import numpy as np

from ..model.findings import Finding
from ..model.loads import PlainLoads, Source, Step, gather
from ..model.project import GRAVITY, Case, Project


def self_weight(project: Project) -> tuple[PlainLoads, list[Finding]]:
    """Plain loads g = factor * A * density * g0 [N/m] down on every member, for each case that has self-weight."""
    cases = [(i, c) for i, c in enumerate(project.cases) if c.self_weight]
    if not cases or not project.members:
        return PlainLoads(), []
    kinds: dict[tuple[str, str], int] = {}
    kind = np.array([kinds.setdefault((m.section.name, m.material.name), len(kinds)) for m in project.members])
    models = {kinds[m.section.name, m.material.name]: m for m in reversed(project.members)}
    weight = np.array([models[k].section.A * models[k].material.density * GRAVITY for k in range(len(kinds))])
    n = len(project.members)
    parts = []
    for index, case in cases:
        q = np.zeros((n, 3))
        q[:, 2] = -case.self_weight * weight[kind]
        parts.append(
            PlainLoads(
                line_case=np.full(n, index), line_member=np.arange(n), line_source=kind, line_s0=np.zeros(n),
                line_s1=project.lengths.copy(), line_q0=q, line_q1=q, sources=_sources(case, kinds, models, weight),
            )
        )  # fmt: skip
    return gather(parts), []


def _sources(case: Case, kinds: dict, models: dict, weight: np.ndarray) -> tuple[Source, ...]:
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
