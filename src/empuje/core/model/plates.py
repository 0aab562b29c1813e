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
class Plates:
    """first: how many nodes the project has without these; xyz (nodes, 3) [m] of the further nodes and surface
    (nodes,) the one they were made for; triangles and quadrilaterals; axes (surfaces, 3, 3): rows x y n of each surface
    in global axes; edge (edges, 2): pairs of nodes beyond which forces in plates may jump, since something else carries
    there; length (surfaces,) [m] of the mesh, 0 for other surfaces; tied (k, 2): nodes that move with the node of a
    column."""

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

    @property
    def groups(self) -> tuple[ElementGroup, ElementGroup]:
        """Triangles, then quadrilaterals: the order in which elements are counted."""
        return self.triangles, self.quadrilaterals

    @property
    def surface(self) -> Ints:
        """Of every element (elements,)."""
        return np.concatenate([g.surface for g in self.groups])
