"""Structural surfaces as what holds members: in their plane, where these meet them."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components

from ..model.project import Project
from ..model.words import PlateActs
from ..surfaces.mesh.held import nodes_touched
from ..surfaces.mesh.joined import with_plate_nodes

IN_PLANE = 0.5
"""A surface holds along directions whose part along its normal is less than this."""


@dataclass(frozen=True)
class Body:
    """Surfaces that share nodes: the nodes of members among theirs, and whether the ground holds them directly."""

    nodes: list[int]
    supported: bool


class OnSurfaces:
    """Asked for the nodes of members."""

    def __init__(self, project: Project) -> None:
        self.project, self.plates = project, project.plates
        self.of_node: dict[int, list[int]] = defaultdict(list)
        self.bodies: list[Body] = []
        if self.plates is not None:
            self._find()

    def _find(self) -> None:
        analysed = with_plate_nodes(self.project)
        ground = {s.node for s in analysed.supports if any(s.held[:3]) or any(k > 0 for k in s.spring[:3])}
        mine = set(self.project.ends.ravel().tolist()) | set(self.project.nodes_on_members[1].tolist())
        touched = nodes_touched(self.project)
        pairs = [np.column_stack([np.full(len(nodes), i), nodes]) for i, nodes in touched.items()]
        for i, nodes in touched.items():
            for node in sorted(mine & set(nodes.tolist())):
                self.of_node[node].append(i)
        surface, node = np.concatenate(pairs).T
        count = len(self.project.surfaces)
        size = count + int(node.max()) + 1
        links = csr_matrix((np.ones(len(node)), (surface, count + node)), shape=(size, size))
        label = connected_components(links, directed=False)[1]
        for k in dict.fromkeys(label[list(touched)].tolist()):
            whole = set(np.concatenate([touched[i] for i in touched if label[i] == k]).tolist())
            self.bodies.append(Body(sorted(whole & mine), bool(whole & ground)))

    def holds(self, node: int, way: NDArray[np.float64]) -> str:
        """The surface that holds a node along a direction in its plane; "" where none does."""
        for i in self.of_node.get(node, ()):
            if self._acts(i, PlateActs.BENDING) and abs(float(self._normal(i) @ way)) < IN_PLANE:
                return f"surface {self.project.surfaces[i].name}"
        return ""

    def holds_twist(self, node: int, x: NDArray[np.float64]) -> bool:
        """Whether a surface may hold a member along x against twisting there: by bending, or in its plane."""
        return any(
            self._acts(i, PlateActs.BENDING if abs(float(self._normal(i) @ x)) >= IN_PLANE else PlateActs.STRETCHING)
            for i in self.of_node.get(node, ())
        )

    def _normal(self, surface: int) -> NDArray[np.float64]:
        assert self.plates is not None
        return np.asarray(self.plates.axes[surface, 2])

    def _acts(self, surface: int, otherwise: PlateActs) -> bool:
        """Whether a surface acts not in one way alone."""
        plate = self.project.surfaces[surface].plate
        return plate is not None and plate.acts != otherwise
