"""Where structural surfaces are held out of their plane: by supports, columns, and walls that meet them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...model.project import Project
from .regions import UPRIGHT

Ints = NDArray[np.intp]
ALIKE = 0.99
"""Surfaces whose normals make a greater cosine hold one another no more than parts of one do."""


def holding_nodes(project: Project, surface: int) -> Ints:
    """The nodes (n,) of an analysed project that hold a surface along its normal: supported ones (not by its bed),
    those of members that run across it, and those that it shares with surfaces across it."""
    plates = project.plates
    if plates is None:
        return np.zeros(0, np.intp)
    own = [g.node[g.surface == surface].ravel() for g in plates.groups]
    nodes = np.unique(np.concatenate(own))
    met = np.unique(np.concatenate([plates.hinges.others(nodes), plates.tied[np.isin(plates.tied[:, 0], nodes), 1]]))
    normal = plates.axes[surface, 2]
    holds = np.zeros(len(project.nodes), bool)
    beds = {s.place for s in project.surfaces if s.plate is not None and s.plate.bed}
    for support in (s for s in project.supports if s.place not in beds):
        along = np.abs(np.array(support.axes) @ normal) > 1e-6
        held = np.array(support.held[:3]) | (np.array(support.spring[:3]) > 0)
        holds[support.node] |= bool((along & held).any())
    across = np.abs(project.axes[:, 0] @ normal) > UPRIGHT if project.members else np.zeros(0, bool)
    holds[project.ends[across].ravel()] = True
    member, node, _ = project.nodes_on_members
    holds[node[across[member]]] = True
    tilted = np.abs(plates.axes[:, 2] @ normal) < ALIKE
    for group in plates.groups:
        holds[plates.hinges.others(group.node[tilted[group.surface]].ravel())] = True
    return np.asarray(met[holds[met]])
