"""Where structural surfaces meet what else there is, and where they are held out of their plane: by supports, columns,
and walls that meet them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...model.project import Project
from ...model.words import PlateActs
from .regions import UPRIGHT

Ints = NDArray[np.intp]
LYING = 0.5
"""Surfaces whose normals rise less than this are walls."""
ALIKE = 0.99
"""Surfaces whose normals make a greater cosine hold one another no more than parts of one do."""


def nodes_touched(project: Project) -> dict[int, Ints]:
    """By structural surface the nodes (n,), of the analysed project, by which it meets others: its own, those that its
    hinged edges hang on, and those of the columns that hold it over a footprint."""
    plates = project.plates
    if plates is None:
        return {}
    out = {}
    for i in np.unique(plates.surface).tolist():
        own = np.unique(np.concatenate([g.node[g.surface == i].ravel() for g in plates.groups]))
        leaders = plates.tied[np.isin(plates.tied[:, 0], own), 1]
        out[i] = np.unique(np.concatenate([own, plates.hinges.others(own), leaders]))
    return out


def nodes_on_walls(project: Project) -> Ints:
    """The project's own nodes (n,) that upright structural surfaces bear, which stretch."""
    plates, touched = project.plates, nodes_touched(project)
    walls = [
        touched[i] for i, s in enumerate(project.surfaces)
        if plates is not None and i in touched and s.plate is not None and s.plate.acts != PlateActs.BENDING
        and abs(plates.axes[i, 2, 2]) < LYING
    ]  # fmt: skip
    every = np.unique(np.concatenate([np.zeros(0, np.intp), *walls]))
    return every if plates is None else every[every < plates.first]


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
