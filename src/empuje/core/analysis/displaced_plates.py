"""Structural surfaces in the balance of second order by itself (displaced.py): their forces on nodes, and what the
theory leaves out of how their places move.

With f the forces on a plate's nodes, K u less what temperatures need, and g = G u those of the forces in its plane,

    sum of  u x (f + g)  +  x x g  +  couples of g

is what u x F has more than the equations, whose f are in balance at the first places of the nodes.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .assembly import summed
from .shells.fields import free_of_force
from .shells.shells import Shells, stiffnesses
from .shells.stressed import Stressed
from .solution import Solution

Floats = NDArray[np.float64]


def plates_left_out(solution: Solution, weights: Floats) -> tuple[Floats, Floats]:
    """Moments (3, results) to be taken from the sums of u x F, and the forces of plates at all nodes (nodes, 3,
    results), of the results that weights (columns, results) make; global axes."""
    project, plates = solution.project, solution.project.plates
    nodes, results = len(project.nodes), weights.shape[1]
    if plates is None:
        return np.zeros((3, results)), np.zeros((nodes, 3, results))
    shells = Shells(plates, stiffnesses(project), np.tile(np.eye(3), (nodes, 1, 1)))
    u = solution.displacement @ weights
    flat = u.reshape(-1, results)
    strains = solution.loads.plate_strains
    force = summed(shells.blocks(), nodes) @ flat
    free = free_of_force(project, strains, len(weights))
    if free is not None:
        force -= shells.forces_of_strains(project, strains, len(weights)) @ weights
        free = free @ weights
    stressed = Stressed(shells)
    pulled = stressed.pull(stressed.forces(flat, free), flat).reshape(u.shape)
    whole = force.reshape(u.shape)[:, :3] + pulled[:, :3]
    at = np.broadcast_to(project.xyz[:, :, None], whole.shape)
    moments = np.cross(u[:, :3], whole, axis=1) + np.cross(at, pulled[:, :3], axis=1) + pulled[:, 3:]
    return moments.sum(axis=0), whole
