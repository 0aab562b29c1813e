"""The resultants of plain loads, summed up from the loads themselves."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads
from ..model.project import Project

Floats = NDArray[np.float64]


def applied_totals(project: Project, loads: PlainLoads, about: Floats, cases: int) -> Floats:
    """Resultant of each case's loads: (6, cases), forces [N] and moments about the point `about` [N m]."""
    total = np.zeros((cases, 6))
    start = project.xyz[project.ends[:, 0]] if len(project.members) else np.zeros((0, 3))

    def add(case: NDArray[Any], at: Floats, force: Floats, moment: Floats | None = None) -> None:
        (x, y, z), (fx, fy, fz) = (at - about).T, force.T
        parts = [fx, fy, fz, y * fz - z * fy, z * fx - x * fz, x * fy - y * fx]
        for i, part in enumerate(parts):
            whole = part if moment is None or i < 3 else part + moment[:, i - 3]
            total[:, i] += np.bincount(case, whole, minlength=cases)

    m = loads.lines.member
    length = (loads.lines.s1 - loads.lines.s0)[:, None]
    x = project.axes[m, 0]
    # A trapezium is two triangles, each acting at a third point of the length: their sum, and its turning about s0.
    near, far = loads.lines.q0 * (length / 2), loads.lines.q1 * (length / 2)
    turning = (near + 2 * far) * (length / 3)
    (x1, x2, x3), (t1, t2, t3) = x.T, turning.T
    about_s0 = np.column_stack([x2 * t3 - x3 * t2, x3 * t1 - x1 * t3, x1 * t2 - x2 * t1])
    add(loads.lines.case, start[m] + loads.lines.s0[:, None] * x, near + far, about_s0)
    p = loads.points.member
    at = start[p] + loads.points.s[:, None] * project.axes[p, 0]
    add(loads.points.case, at, loads.points.f[:, :3], loads.points.f[:, 3:])
    add(loads.nodes.case, project.xyz[loads.nodes.node], loads.nodes.f[:, :3], loads.nodes.f[:, 3:])
    return total.T
