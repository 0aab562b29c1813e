"""Structural surfaces cut into elements, as arrays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class ElementGroup:
    """Elements of as many corners each: node (n, corners), numbers in the analysed project; flat (n, corners, 2) [m] in
    the own axes x y of their surface; arm (n, corners, 3) [m] from the node to the corner in the middle of the plate,
    global; surface (n,), an index into the project's surfaces."""

    node: Ints
    flat: Floats
    arm: Floats
    surface: Ints


@dataclass(frozen=True)
class Hinges:
    """Where surfaces are hinged along edges: node (n,) of the surface, and the node (n,) of all else there; axes (n, 3,
    3): along the edge, across it in the surface, its normal; `both` (n,): it turns freely about all lines in the
    surface, as where two edges meet, not about the edge alone. All other motions are those of the other node."""

    node: Ints
    other: Ints
    axes: Floats
    both: NDArray[np.bool_]

    def others(self, nodes: Ints) -> Ints:
        """Nodes, with those that supports and members have there in place of a surface's own."""
        if not len(self.node):
            return nodes
        order = np.argsort(self.node)
        place = np.minimum(np.searchsorted(self.node, nodes, sorter=order), len(order) - 1)
        own = order[place]
        return np.where(self.node[own] == nodes, self.other[own], nodes)


@dataclass(frozen=True)
class Plates:
    """first: how many nodes the project has without these; xyz (nodes, 3) [m] of the further nodes and surface
    (nodes,) the one they were made for; triangles and quadrilaterals; axes (surfaces, 3, 3): rows x y n of each surface
    in global axes; edge (edges, 2): pairs of nodes beyond which forces in plates may jump, since something else carries
    there; length (surfaces,) [m] of the mesh, 0 for other surfaces; tied (k, 2): nodes that move with the node of a
    column; hinges: nodes that follow others but for a turn."""

    first: int
    xyz: Floats
    made_for: Ints
    triangles: ElementGroup
    quadrilaterals: ElementGroup
    axes: Floats
    origin: Floats
    edge: Ints
    length: Floats
    tied: Ints
    hinges: Hinges

    @property
    def groups(self) -> tuple[ElementGroup, ElementGroup]:
        """Triangles, then quadrilaterals: the order in which elements are counted."""
        return self.triangles, self.quadrilaterals

    @property
    def joints(self) -> Ints:
        """The nodes (n,) by which elements meet supports and members."""
        return np.unique(self.hinges.others(np.concatenate([g.node.ravel() for g in self.groups])))

    @property
    def surface(self) -> Ints:
        """Of every element (elements,)."""
        return np.concatenate([g.surface for g in self.groups])
