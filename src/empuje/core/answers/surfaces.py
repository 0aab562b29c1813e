"""What was put on every surface, and what members and nodes received of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads
from ..model.results import Results
from ..resolved import Resolved
from .table import Column, Table

Floats = NDArray[np.float64]


def received(loads: PlainLoads) -> Floats:
    """The force [N] that plain loads of every source bring to the frame: (sources, 3)."""
    out = np.zeros((len(loads.sources), 3))
    length = (loads.lines.s1 - loads.lines.s0)[:, None]
    for source, force in (
        (loads.lines.source, (loads.lines.q0 + loads.lines.q1) / 2 * length),
        (loads.points.source, loads.points.f[:, :3]),
        (loads.nodes.source, loads.nodes.f[:, :3]),
    ):
        for k in range(3):
            out[:, k] += np.bincount(source, force[:, k], minlength=len(out))
    return out


def surface_balance(model: Resolved, results: Results) -> Table:
    """For every surface and case: the area [m2], the force put on it and received from it [N], and the difference."""
    project, loads = model.project, model.loads
    cases = [r.name for r in results if r.is_case]
    area = {g.outline.surface.name: float(g.outline.polygon.area) for g in model.surfaces.values()}
    on = received(loads)
    rows: dict[tuple[str, str], list[Floats]] = {}
    for k, source in enumerate(loads.sources):
        if source.case in cases:
            put, got = rows.setdefault((source.surface, source.case), [np.zeros(3), np.zeros(3)])
            put += source.put
            got += on[k]
    order = [(s.name, c) for s in project.surfaces for c in cases if (s.name, c) in rows]
    put, got = (np.array([rows[key][i] for key in order]).reshape(-1, 3) + 0.0 for i in (0, 1))
    gap = np.linalg.norm(put - got, axis=1)
    size = np.maximum(np.linalg.norm(put, axis=1), 1e-300)
    return Table(
        "surface-balance",
        (
            Column("surface", "text", [s for s, _ in order]),
            Column("area", "surface", np.array([area[s] for s, _ in order])),
            Column("case", "text", [c for _, c in order]),
            *(Column(f"F{a} put on", "force", put[:, i]) for i, a in enumerate("xyz")),
            *(Column(f"F{a} received", "force", got[:, i]) for i, a in enumerate("xyz")),
            Column("difference", "force", np.where(gap <= 1e-12 * size, 0.0, gap)),
        ),
    )
