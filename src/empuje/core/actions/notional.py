"""Notional loads, as of an initial sway: horizontal loads as a share of the vertical ones of each combination.

The share phi, an initial sway (EN 1993-1-1, 5.3.2) or a notional load (AISC 360, C2.2b), turns every load's vertical
part W (down) into phi W in the case's direction, at the same place, so that each level gets its share of its own load.
A combination with the factor f on the notional case and g on a load's case has f g phi W. There is a column for each
pair of a notional and another case (`Project.notional_pairs`); by itself a notional case has no loads.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..model.cases import Case
from ..model.loads import PlainLoads, Source, SourcesOnDemand, Step, gather
from ..model.project import Project


def notional_loads(project: Project, loads: PlainLoads) -> PlainLoads:
    """The horizontal loads of every pair, from the plain loads of all cases."""
    columns = np.full((len(project.cases), len(project.cases)), -1)
    for k, (own, case) in enumerate(project.notional_pairs):
        columns[own, case] = len(project.cases) + k
    parts = [_from(case, loads, columns[i]) for i, case in enumerate(project.cases) if case.notional]
    return gather(parts)


def _from(case: Case, loads: PlainLoads, column: np.ndarray) -> PlainLoads:
    way = np.array(case.toward) * case.notional

    def across(force: np.ndarray) -> np.ndarray:
        return -force[:, 2:3] * way

    lines = loads.lines.take((loads.lines.q0[:, 2] != 0) | (loads.lines.q1[:, 2] != 0))
    points = loads.points.take(loads.points.f[:, 2] != 0)
    nodes = loads.nodes.take(loads.nodes.f[:, 2] != 0)
    return PlainLoads(
        replace(lines, case=column[lines.case], q0=across(lines.q0), q1=across(lines.q1)),
        replace(points, case=column[points.case], f=np.hstack([across(points.f), np.zeros((len(points), 3))])),
        replace(nodes, case=column[nodes.case], f=np.hstack([across(nodes.f), np.zeros((len(nodes), 3))])),
        sources=SourcesOnDemand(len(loads.sources), lambda i: _source(case, loads.sources[i])),
    )


def _source(case: Case, source: Source) -> Source:
    step = Step(
        "phi", f"notional load of {case.name}, times the vertical load", case.notional, "", "EN 1993-1-1, 5.3.2"
    )
    return replace(
        source, text=f"notional load, {case.notional:.4g} of {source.text}", steps=(*source.steps, step), case=""
    )
