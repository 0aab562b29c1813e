"""The resultants of plain loads, summed up from the loads themselves."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads
from ..model.project import Project

Floats = NDArray[np.float64]


def halfway(levels: Sequence[float]) -> list[tuple[float, float]]:
    """From half the storey below to half the storey above each of some levels [m], which come from the lowest; the
    first and the last go on without end.

    >>> halfway([0.0, 4.0, 7.0])
    [(-inf, 2.0), (2.0, 5.5), (5.5, inf)]
    """
    middles = [(a + b) / 2 for a, b in pairwise(levels)]
    return list(pairwise([-np.inf, *middles, np.inf]))


def forces_between(
    project: Project, loads: PlainLoads, low: float, high: float
) -> tuple[Floats, Floats, NDArray[np.intp]]:
    """All of `between_heights` one below the other: forces (n, 3) [N], where they act (n, 3) [m], cases (n,)."""
    force, at, case = (np.concatenate(each) for each in zip(*between_heights(project, loads, low, high), strict=True))
    return force, at, case


def between_heights(project: Project, loads: PlainLoads, low: float, high: float) -> list[tuple[Floats, Floats, Any]]:
    """The loads from one height up to another, exactly cut, as forces: (n, 3) [N] and where they act (n, 3), with the
    case of each (n,)."""
    m = loads.lines.member
    start, x = project.xyz[project.ends[m, 0]], project.axes[m, 0]
    s0, s1 = loads.lines.s0, loads.lines.s1
    z, rise = start[:, 2], x[:, 2]
    steep = np.abs(rise) > 1e-9
    safe = np.where(steep, rise, 1.0)
    limits = np.sort(np.stack([(max(low, -1e9) - z) / safe, (min(high, 1e9) - z) / safe]), axis=0)
    within = (z + s0 * rise >= low) & (z + s0 * rise < high)
    a = np.where(steep, np.clip(limits[0], s0, s1), s0)
    b = np.where(steep, np.clip(limits[1], s0, s1), np.where(within, s1, s0))
    slope = (loads.lines.q1 - loads.lines.q0) / np.where(s1 > s0, s1 - s0, 1.0)[:, None]
    parts = []
    for end, third in ((a, 1 / 3), (b, 2 / 3)):  # a trapezium is two triangles
        q = loads.lines.q0 + slope * (end - s0)[:, None]
        parts.append((q * ((b - a) / 2)[:, None], start + (a + third * (b - a))[:, None] * x, loads.lines.case))
    p = loads.points.member
    at = project.xyz[project.ends[p, 0]] + loads.points.s[:, None] * project.axes[p, 0]
    for force, case, place in (
        (loads.points.f, loads.points.case, at), (loads.nodes.f, loads.nodes.case, project.places[loads.nodes.node]),
    ):  # fmt: skip
        inside = (place[:, 2] >= low) & (place[:, 2] < high)
        parts.append((force[:, :3] * inside[:, None], place, case))
    return parts


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
    add(loads.nodes.case, project.places[loads.nodes.node], loads.nodes.f[:, :3], loads.nodes.f[:, 3:])
    return total.T
