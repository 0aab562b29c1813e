"""Loads on structural surfaces among plain loads: they come to the nodes of elements, and are told by the surface."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads
from ..model.project import Project

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SURFACES = "(surfaces)"
"""What loads on structural surfaces are counted under where the others are by family."""


def surface_of_rows(project: Project, loads: PlainLoads) -> Ints:
    """The structural surface that each load at a node (rows,) was put on, -1 for what was put on the node itself."""
    nodes = loads.nodes
    if project.plates is None or not len(nodes):
        return np.full(len(nodes), -1, np.intp)
    index = {s.name: i for i, s in enumerate(project.surfaces) if s.plate is not None}
    used, of = np.unique(nodes.source, return_inverse=True)
    return np.array([index.get(loads.sources[k].surface, -1) for k in used.tolist()], np.intp)[of]


def by_source(loads: PlainLoads, rows: Ints) -> tuple[Ints, Floats]:
    """Some loads at nodes added up by source and case: the first row of each, and the sums (n, 3) [N]."""
    key = np.column_stack([loads.nodes.case[rows], loads.nodes.source[rows]])
    _, first, of = np.unique(key, axis=0, return_index=True, return_inverse=True)
    total = np.zeros((len(first), 3))
    np.add.at(total, of.ravel(), loads.nodes.f[rows, :3])
    return rows[first], total
