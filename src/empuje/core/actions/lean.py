"""A frame that leans: horizontal loads as a share of the vertical ones, in each combination of its own.

The share phi, an initial sway (EN 1993-1-1, 5.3.2) or a notional load (AISC 360, C2.2b), turns every load's vertical
part W (down) into phi W in the case's direction, at the same place, so that each level gets its share of its own load.
A combination with the factor f on the leaning case and g on a load's case has f g phi W. There is a column for each
pair of a leaning and another case (`Project.lean_pairs`); by itself a leaning case has no loads.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..model.loads import PlainLoads, Source, Step, gather
from ..model.project import Case, Project


def leaning(project: Project, loads: PlainLoads) -> PlainLoads:
    """The horizontal loads of every pair, from the plain loads of all cases."""
    columns = np.full((len(project.cases), len(project.cases)), -1)
    for k, (lean, case) in enumerate(project.lean_pairs):
        columns[lean, case] = len(project.cases) + k
    parts = [_leaned(case, loads, columns[i]) for i, case in enumerate(project.cases) if case.lean]
    return gather(parts)


def _leaned(case: Case, loads: PlainLoads, column: np.ndarray) -> PlainLoads:
    way = np.array(case.toward) * case.lean

    def across(force: np.ndarray) -> np.ndarray:
        return -force[:, 2:3] * way

    line = np.flatnonzero((loads.line_q0[:, 2] != 0) | (loads.line_q1[:, 2] != 0))
    point, node = np.flatnonzero(loads.point_f[:, 2] != 0), np.flatnonzero(loads.node_f[:, 2] != 0)
    none = np.zeros
    return PlainLoads(
        line_case=column[loads.line_case[line]], line_member=loads.line_member[line],
        line_source=loads.line_source[line], line_s0=loads.line_s0[line], line_s1=loads.line_s1[line],
        line_q0=across(loads.line_q0[line]), line_q1=across(loads.line_q1[line]),
        point_case=column[loads.point_case[point]], point_member=loads.point_member[point],
        point_source=loads.point_source[point], point_s=loads.point_s[point],
        point_f=np.hstack([across(loads.point_f[point]), none((len(point), 3))]),
        node_case=column[loads.node_case[node]], node_node=loads.node_node[node], node_source=loads.node_source[node],
        node_f=np.hstack([across(loads.node_f[node]), none((len(node), 3))]),
        sources=tuple(_source(case, s) for s in loads.sources),
    )  # fmt: skip


def _source(case: Case, source: Source) -> Source:
    step = Step("phi", f"lean of {case.name}, times the vertical load", case.lean, "", "EN 1993-1-1, 5.3.2")
    return replace(source, text=f"lean {case.lean:.4g} of {source.text}", steps=(*source.steps, step), case="")
