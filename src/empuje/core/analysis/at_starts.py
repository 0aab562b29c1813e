"""From the loads on elements to the forces of their held ends, and from the motions of the nodes to what is at the
elements' starts: all that statics and bending need to give results anywhere along them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from .element import Connections, pass_through_rigid_lengths, rigid_lengths
from .equations import Equations
from .solution import Columns

Floats = NDArray[np.float64]
BLOCK = 4e6
"""Bytes of end motions at hand at a time: few enough to stay in a processor's cache."""


@dataclass(frozen=True)
class FixedEnds:
    """What loads do to elements between nodes that stand still, in member axes.

    force (12 elements, columns): end forces; slip (k, 12, columns): of the ends of the k elements `slipping`, which
    are places in the list of those whose ends are not all rigid.
    """

    force: sparse.csr_matrix
    slipping: NDArray[np.intp]
    slip: Floats


def fixed_ends(joints: Connections, force: sparse.csr_matrix) -> FixedEnds:
    """From the end forces (12 elements, columns) that rigidly joined ends would get."""
    loaded = np.diff(force.indptr).reshape(-1, 12).any(axis=1)
    some = np.flatnonzero(loaded[joints.elements])
    if not len(some):
        return FixedEnds(force, some, np.zeros((0, 12, force.shape[1])))
    rows = (12 * joints.elements[some, None] + np.arange(12)).ravel()
    mixed = joints.mix[some] @ force[rows].toarray().reshape(len(some), 12, force.shape[1])
    passed = sparse.csr_matrix((joints.passed[some, :, None] * mixed).reshape(-1, force.shape[1]))
    rigid = np.ones(force.shape[0])
    rigid[rows] = 0.0
    place = sparse.csr_matrix((np.ones(len(rows)), (rows, np.arange(len(rows)))), shape=(force.shape[0], len(rows)))
    return FixedEnds(sparse.diags(rigid) @ force + place @ passed, some, joints.slip[some, :, None] * mixed)


def at_starts(equations: Equations, u: Floats, held: FixedEnds) -> tuple[Floats, Floats]:
    """Forces (elements, 6, columns) at the elements' starts, in member axes, and slips (k, 6, columns) of those starts
    whose ends are not all rigid.

    u (6 nodes, columns): the motions of the nodes, each in its own axes.
    """
    mesh, joints = equations.mesh, equations.joints
    n, columns = len(mesh.length), u.shape[1]
    force = np.empty((n, 6, columns))
    step = max(1, int(BLOCK / (96 * max(columns, 1))))
    at_nodes = u.reshape(-1, 6, columns)
    ends = np.column_stack([mesh.start, mesh.end])
    for first in range(0, n, step):
        block = slice(first, first + step)
        motions = at_nodes[ends[block]].reshape(-1, 12, columns)
        np.matmul(equations.at_start[block], motions, out=force[block])
    given = held.force.tocoo()
    element, freedom = np.divmod(given.row, 12)
    near = freedom < 6
    place = (6 * element[near] + freedom[near]) * columns + given.col[near]
    force.reshape(-1)[place] += given.data[near]

    e = joints.elements
    slip = joints.slip[:, :6, None] * ((joints.mix[:, :6] @ equations.stiffness_fixed[e]) @ equations.ends(u, e))
    slip[held.slipping] += held.slip[:, :6]

    before = rigid_lengths(mesh)[1] - 1
    rows = (12 * before[:, None] + np.arange(6, 12)).ravel()
    at_far_ends = equations.stiffness_jointed[before, 6:] @ equations.ends(u, before)
    pass_through_rigid_lengths(mesh, force, at_far_ends + held.force[rows].toarray().reshape(-1, 6, columns))
    return force, slip


def node_motions_at(solution: Columns, elements: NDArray[np.intp], weights: Floats, end: int) -> Floats:
    """Motions of the nodes at these elements' starts (0) or ends (1), carried along rigid lengths (elements, 6,
    results), in member axes, for the results that `weights` form."""
    mesh = solution.mesh
    node = (mesh.start, mesh.end)[end][elements]
    of_node = (solution.displacement[node] @ weights).reshape(len(elements), 2, 3, weights.shape[1])
    out = (mesh.axes[elements, None] @ of_node).reshape(len(elements), 6, weights.shape[1])
    arm = mesh.arm[elements, end, None]
    out[:, 1] += arm * out[:, 5]
    out[:, 2] -= arm * out[:, 4]
    return out


def start_displacements(solution: Columns, elements: NDArray[np.intp], weights: Floats) -> Floats:
    """Of these elements' starts (elements, 6, results), in member axes, for the results that `weights` form."""
    out = node_motions_at(solution, elements, weights, 0)
    place = np.searchsorted(solution.slipping, elements)
    slips = np.flatnonzero(np.append(solution.slipping, -1)[place] == elements)
    out[slips] -= solution.slip[place[slips]] @ weights
    return out
