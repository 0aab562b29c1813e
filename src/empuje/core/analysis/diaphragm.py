"""Rigid floors: nodes that move together in plan follow one of them, the leader.

    ux = Ux - (y - Y) Rz        uy = Uy + (x - X) Rz        rz = Rz

with U, R the motion of the leader at X, Y. The frame's displacements are then u = T r, with the motions r of followers
left out, and T' K T the stiffness that remains: nothing is penalised, nothing loses digits.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.plates import Hinges
from ..model.project import Project

UX, UY, RZ = 0, 1, 5


def followers(project: Project) -> NDArray[np.bool_]:
    """Freedoms (nodes, 6) that follow the leader of their floor."""
    out = np.zeros((len(project.nodes), 6), bool)
    for floor in project.diaphragms:
        out[np.ix_(floor.nodes[1:], [UX] if project.plane else [UX, UY, RZ])] = True
    out[covered(project)[:, 0]] = True
    if project.plates is not None:
        out[project.plates.hinges.node] = ~free_turns(project.plates.hinges)
    return out


def free_turns(hinges: Hinges) -> NDArray[np.bool_]:
    """Which motions (n, 6) along their own axes hinges leave to a surface."""
    out = np.zeros((len(hinges.node), 6), bool)
    out[:, 3] = True
    out[:, 4] = hinges.both
    return out


def hinged(project: Project, axes: NDArray[np.float64]) -> sparse.csr_matrix | None:
    """H (6 nodes, 6 nodes): the motions of all nodes, in their own axes (nodes, 3, 3), from those that hinged edges
    leave; None without any. With H' K H for the stiffness and H' f for forces, what comes to the node of a hinge comes
    to the one it hangs on, which may be supported."""
    if project.plates is None or not len(project.plates.hinges.node):
        return None
    hinges, n = project.plates.hinges, 6 * len(project.nodes)
    turn = axes[hinges.node] @ axes[hinges.other].transpose(0, 2, 1)
    follows = ~free_turns(hinges)
    keep = np.ones(n)
    keep[(6 * hinges.node[:, None] + np.arange(6))[follows]] = 0.0
    rows, columns, values = [np.arange(n)], [np.arange(n)], [keep]
    for first in (0, 3):
        for i in range(3):
            for j in range(3):
                rows.append(6 * hinges.node + first + i)
                columns.append(6 * hinges.other + first + j)
                values.append(turn[:, i, j] * follows[:, first + i])
    return sparse.csr_matrix((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(n, n))


def covered(project: Project) -> NDArray[np.intp]:
    """Nodes of plates (n, 2) in the footprint of a column, each with the node of that column: the one goes with the
    other rigidly, unless one of them is supported."""
    if project.plates is None or not len(project.plates.tied):
        return np.zeros((0, 2), np.intp)
    pairs = project.plates.tied
    supported = np.zeros(len(project.nodes), bool)
    supported[[s.node for s in project.supports]] = True
    pairs = pairs[~supported[pairs].any(axis=1)]
    return pairs[np.unique(pairs[:, 0], return_index=True)[1]]


def in_floors(project: Project) -> NDArray[np.bool_]:
    """Nodes whose rotation about z is that of a floor (nodes,)."""
    out = np.zeros(len(project.nodes), bool)
    for floor in project.diaphragms:
        out[list(floor.nodes)] = not project.plane
    return out


def tied(project: Project) -> sparse.csr_matrix:
    """T (6 nodes, 6 nodes): the motions of all nodes from those of leaders and of nodes that follow none."""
    return (_in_footprints(project) @ _in_plan(project)).tocsr()


def _in_footprints(project: Project) -> sparse.csr_matrix:
    """Motions of all nodes from those of the nodes that are in no footprint: shifted by turns about the column's."""
    node, leader = covered(project).T
    n = 6 * len(project.nodes)
    keep = np.ones(n)
    keep[(6 * node[:, None] + np.arange(6)).ravel()] = 0.0
    x, y, z = (project.xyz[node] - project.xyz[leader]).T
    one, rows, columns, values = np.ones(len(node)), [np.arange(n)], [np.arange(n)], [keep]
    parts = [(i, i, one) for i in range(6)]
    parts += [(0, 4, z), (0, 5, -y), (1, 5, x), (1, 3, -z), (2, 3, y), (2, 4, -x)]
    for i, j, value in parts:
        rows.append(6 * node + i)
        columns.append(6 * leader + j)
        values.append(value)
    return sparse.csr_matrix((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(n, n))


def _in_plan(project: Project) -> sparse.csr_matrix:
    """The same of rigid floors."""
    n = 6 * len(project.nodes)
    follows = np.flatnonzero(followers(project).ravel())
    diagonal = np.ones(n)
    diagonal[follows] = 0.0
    rows, columns, values = [np.arange(n)], [np.arange(n)], [diagonal]
    for floor in project.diaphragms:
        nodes, leader = np.array(floor.nodes[1:], np.intp), floor.nodes[0]
        x, y, _ = (project.xyz[nodes] - project.xyz[leader]).T
        one = np.ones(len(nodes))
        parts = [(UX, UX, one)]
        if not project.plane:
            parts += [(UX, RZ, -y), (UY, UY, one), (UY, RZ, x), (RZ, RZ, one)]
        for i, j, value in parts:
            rows.append(6 * nodes + i)
            columns.append(np.full(len(nodes), 6 * leader + j))
            values.append(value)
    shape = (n, n)
    return sparse.csr_matrix((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=shape)
