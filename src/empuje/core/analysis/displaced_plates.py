"""Structural surfaces in the balance of second order by itself (displaced.py): their forces on nodes, and what the
theory leaves out of how their places move.

With f the forces on a plate's nodes, K u less what temperatures need, and g = G u those of the forces in its plane,

    sum of  u x (f + g)  +  x x g  +  couples of g

is what u x F has more than the equations, whose f are in balance at the first places of the nodes.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..model.plates import Plates
from .assembly import summed
from .critical import free_stretches
from .shells.shells import in_global_axes
from .shells.stressed import Stressed
from .solution import Columns, Solution

Floats = NDArray[np.float64]


def plates_on_nodes(solution: Columns, plates: Plates, weights: Floats) -> tuple[Floats, Floats]:
    """What nodes put on some or all plates in the results that weights (columns, results) make: K u less what
    temperatures need, and G u by the forces in their planes (nodes, 6, results each), in global axes."""
    project, nodes = solution.project, len(solution.project.nodes)
    shells = in_global_axes(project, plates)
    u = solution.displacement @ weights
    flat = u.reshape(6 * nodes, -1)
    force = summed(shells.blocks(), nodes) @ flat
    if len(solution.loads.plate_strains):
        force -= shells.forces_of_strains(project, solution.loads.plate_strains, len(weights)) @ weights
    stressed = Stressed(shells)
    pulled = stressed.pull(stressed.forces(flat, free_stretches(solution, weights)), flat)
    return force.reshape(u.shape), pulled.reshape(u.shape)


def plates_left_out(solution: Solution, weights: Floats) -> tuple[Floats, Floats]:
    """Moments (3, results) to be taken from the sums of u x F, and the forces of plates at all nodes (nodes, 3,
    results), of the results that weights (columns, results) make; global axes."""
    project, plates = solution.project, solution.project.plates
    if plates is None:
        return np.zeros((3, weights.shape[1])), np.zeros((len(project.nodes), 3, weights.shape[1]))
    u = solution.displacement @ weights
    force, pulled = plates_on_nodes(solution, plates, weights)
    whole = force[:, :3] + pulled[:, :3]
    at = np.broadcast_to(project.xyz[:, :, None], whole.shape)
    moments = np.cross(u[:, :3], whole, axis=1) + np.cross(at, pulled[:, :3], axis=1) + pulled[:, 3:]
    return moments.sum(axis=0), whole
