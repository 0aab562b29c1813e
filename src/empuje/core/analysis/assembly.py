"""The equations of the whole frame: stiffness, loads, and which freedoms are free."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.loads import PlainLoads
from ..model.project import Project
from .diaphragm import followers, in_floors
from .mesh import Mesh

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]
Block = tuple[Ints, Floats]
"""Nodes (n, corners) of elements, and their stiffness (n, 6 corners, 6 corners) in the nodes' own axes."""
IN_PLANE = np.array([True, False, True, False, True, False])
NOTHING_HOLDS = 1e-12
"""A rotation counts as held by no member when its stiffness is below this share of what rigid ends would give."""


@dataclass(frozen=True)
class Freedoms:
    """For every node and freedom (nodes, 6): part of the problem, held by a support, on a spring of what stiffness,
    following the leader of a rigid floor. `turned` (nodes,): supports about axes of their own, which all this is in.

    `loose_node` (k,) and `loose_axis` (k, 6) list motions of nodes that nothing resists: rotations where every member
    is hinged, and what a plate that only bends or only stretches leaves free. Such a motion is undefined and harmless
    unless a load acts along it.
    """

    active: Bools
    held: Bools
    spring: Floats
    follows: Bools
    turned: Bools
    loose_node: NDArray[np.intp]
    loose_axis: Floats

    @property
    def free(self) -> NDArray[np.intp]:
        """Indices (n,) of the freedoms that are unknowns."""
        return np.flatnonzero((self.active & ~self.held & ~self.follows).ravel())

    @property
    def fixed(self) -> NDArray[np.intp]:
        """Indices (n,) of the freedoms that a support holds."""
        return np.flatnonzero((self.active & self.held).ravel())

    @property
    def undefined(self) -> Bools:
        """Displacements that have no value: out of plane, or rotations nothing restrains."""
        out = ~self.active
        for node, axis in zip(self.loose_node, self.loose_axis, strict=True):
            there = np.abs(axis) > 1e-6
            kind = np.repeat([there[:3].any(), there[3:].any()], 3)
            out[node] |= there | (self.turned[node] & kind)
        return out


def node_axes(project: Project) -> tuple[Floats, Bools]:
    """Rows x y z of each node's own axes (nodes, 3, 3), and which are turned."""
    axes = np.tile(np.eye(3), (len(project.nodes), 1, 1))
    for support in project.supports:
        axes[support.node] = support.axes
    if project.plates is not None:
        axes[project.plates.hinges.node] = project.plates.hinges.axes
    return axes, np.asarray(np.abs(axes - np.eye(3)) > 1e-12).any(axis=(1, 2)).astype(bool)


def freedoms(project: Project, mesh: Mesh, k: Floats, rigid: Floats, turned: Bools, of_plates: Floats) -> Freedoms:
    """Which freedoms there are, from the supports and from the element stiffness k (n, 12, 12) at the nodes.

    `rigid` (n, 12) is the diagonal that rigid ends would give there: the scale for "nothing"; `of_plates` (nodes, 6,
    6): what plates put on the diagonal.
    """
    n = len(project.nodes)
    active = np.zeros((n, 6), bool)
    active[np.concatenate([mesh.start, mesh.end])] = True
    alone = np.asarray(of_plates.any(axis=(1, 2)) & ~active.any(axis=1))
    active[alone] = True
    if project.plane:
        active &= IN_PLANE
    held = np.zeros((n, 6), bool)
    spring = np.zeros((n, 6))
    for support in project.supports:
        held[support.node] |= support.held
        spring[support.node] += support.spring
    held &= active
    spring *= active & ~held

    block, scale = np.zeros((n, 3, 3)), np.zeros(n)
    for node, first in ((mesh.start, 3), (mesh.end, 9)):
        np.add.at(block, node, k[:, first : first + 3, first : first + 3])
        np.add.at(scale, node, rigid[:, first : first + 3].sum(axis=1))
    block += of_plates[:, 3:, 3:]
    scale += np.einsum("nii->n", of_plates[:, 3:, 3:])
    block[:, range(3), range(3)] += spring[:, 3:]
    follows = followers(project) & active
    free = active & ~held & ~follows
    free[in_floors(project), 5] = False
    node, axis = _loose(block, free[:, 3:], scale)
    shift = of_plates[:, :3, :3] + spring[:, :3, None] * np.eye(3)
    # Of nodes that members share, what moves freely is a mechanism, and told as one.
    moved, way = _loose(shift, free[:, :3] & alone[:, None], np.einsum("nii->n", shift))
    none = np.zeros((len(moved), 3)), np.zeros((len(node), 3))
    axes = np.concatenate([np.hstack([way, none[0]]), np.hstack([none[1], axis])])
    return Freedoms(active, held, spring, follows, turned, np.concatenate([moved, node]), axes)


def _loose(block: Floats, free: Bools, scale: Floats) -> tuple[Ints, Floats]:
    """Nodes (k,) and directions (k, 3) in which stiffness blocks (nodes, 3, 3) resist nothing."""
    scale = np.where(scale > 0, scale, 1.0)
    # Motions that are fixed or do not exist must not look free: they get a stiffness of their own here.
    block = block * free[:, :, None] * free[:, None, :] / scale[:, None, None]
    block += (~free)[:, :, None] * np.eye(3)
    value, vector = np.linalg.eigh(block)
    node, which = np.nonzero(value < NOTHING_HOLDS)
    return node, vector[node, :, which]


def summed(blocks: Sequence[Block], nodes: int) -> sparse.csr_matrix:
    """The sum (6 nodes, 6 nodes) of stiffness (n, 6 corners, 6 corners) between nodes (n, corners), block by block."""
    keys, values = [], []
    for node, k in blocks:
        n, corners = node.shape
        keys.append((nodes * node[:, :, None] + node[:, None]).ravel())
        values.append(k.reshape(n, corners, 6, corners, 6).transpose(0, 1, 3, 2, 4).reshape(-1, 36))
    pair, place = np.unique(np.concatenate(keys), return_inverse=True)
    of_pair = sparse.csr_matrix((np.ones(len(place)), (place, np.arange(len(place)))), shape=(len(pair), len(place)))
    total = of_pair @ np.concatenate(values)
    rows = np.searchsorted(pair // nodes, np.arange(nodes + 1))
    shape = (6 * nodes, 6 * nodes)
    return sparse.bsr_matrix((total.reshape(-1, 6, 6), pair % nodes, rows), shape=shape).tocsr()


def on_diagonal(blocks: Sequence[Block], nodes: int) -> Floats:
    """What elements put on the diagonal at each node (nodes, 6, 6)."""
    out = np.zeros((nodes, 6, 6))
    for node, k in blocks:
        n, corners = node.shape
        at = np.arange(corners)
        np.add.at(out, node.T.ravel(), k.reshape(n, corners, 6, corners, 6)[:, at, :, at].reshape(-1, 6, 6))
    return out


def handed_on(on_nodes: Floats, hinges: sparse.csr_matrix) -> Floats:
    """What plates put on the diagonal at each node (nodes, 6, 6), with that of hinged edges handed to the nodes they
    hang on."""
    n = len(on_nodes)
    rows = np.arange(n + 1)
    every = sparse.bsr_matrix((on_nodes, np.arange(n), rows), shape=(6 * n, 6 * n))
    whole = (hinges.T @ every @ hinges).tobsr(blocksize=(6, 6))
    whole.sort_indices()
    out = np.zeros_like(on_nodes)
    row = np.repeat(np.arange(n), np.diff(whole.indptr))
    same = row == whole.indices
    out[row[same]] = whole.data[same]
    return out


def assemble(mesh: Mesh, k: Floats, freedom: Freedoms, nodes: int, plates: Sequence[Block] = ()) -> sparse.csr_matrix:
    """Stiffness of the frame (6 nodes, 6 nodes) from element stiffness (n, 12, 12) in the nodes' axes, and that of
    plates."""
    stiff = summed([(np.column_stack([mesh.start, mesh.end]), k), *plates], nodes)
    if freedom.spring.any():
        stiff = (stiff + sparse.diags(freedom.spring.ravel())).tocsr()
    if len(freedom.loose_node):
        # A spring along a loose direction leaves everything else untouched, since nothing is coupled to it.
        strength = float(stiff.diagonal().max())
        r = 6 * freedom.loose_node[:, None] + np.arange(6)
        spring = strength * freedom.loose_axis[:, :, None] * freedom.loose_axis[:, None, :]
        rows, columns = np.repeat(r, 6, axis=1).ravel(), np.tile(r, (1, 6)).ravel()
        stiff = stiff + sparse.coo_matrix((spring.ravel(), (rows, columns)), shape=stiff.shape).tocsr()
    return stiff


def element_freedoms(mesh: Mesh) -> NDArray[np.intp]:
    """The twelve global freedoms of each element (n, 12)."""
    six = np.arange(6)
    return np.hstack([6 * mesh.start[:, None] + six, 6 * mesh.end[:, None] + six])


def from_nodes(mesh: Mesh, turn: Floats, nodes: int) -> sparse.csr_matrix:
    """Brings motions of nodes to the ends of elements: (12 elements, 6 nodes), from `turn` (elements, 12, 12)."""
    node = np.column_stack([mesh.start, mesh.end])
    if mesh.arm.any():
        value = np.stack([turn[:, :6, :6], turn[:, 6:, 6:]], axis=1)
        first = 6 * node[:, :, None, None]
    else:  # shifts and rotations meet only through arms
        value = np.stack([turn[:, i : i + 3, i : i + 3] for i in (0, 3, 6, 9)], axis=1)
        first = (6 * node[:, :, None] + (0, 3)).reshape(-1, 4, 1, 1)
    column = np.broadcast_to(first + np.arange(value.shape[3]), value.shape)
    rows = np.arange(0, value.size + 1, value.shape[3])
    return sparse.csr_matrix((value.ravel(), column.ravel(), rows), shape=(12 * len(node), 6 * nodes))


def steadied(free: NDArray[np.intp], diagonal: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """A positive scale for each free freedom, and which of them have no stiffness of their own.

    Rounding leaves a freedom without stiffness some 1e-16 of what its node has in other directions; scaled by itself
    that would look like any other. The stiffest and the softest direction of a real node differ by 1e8 at most.
    """
    group = 2 * (free // 6) + (free % 6) // 3
    stiffest = np.zeros(int(group.max(initial=0)) + 1)
    np.maximum.at(stiffest, group, diagonal)
    stiffest = np.where(stiffest > 0, stiffest, 1.0)[group]
    none = diagonal < NOTHING_HOLDS * stiffest
    return np.where(none, stiffest, diagonal), none


def node_forces(loads: PlainLoads, axes: Floats, cases: int) -> sparse.csr_matrix:
    """Loads put straight on nodes (6 nodes, cases) in the nodes' axes (nodes, 3, 3) [N, N m]."""
    own = loads.nodes.f
    turned = (axes != np.eye(3)).any(axis=(1, 2))[loads.nodes.node]
    if turned.any():
        own = own.copy()
        both = own[turned].reshape(-1, 2, 3)
        own[turned] = np.einsum("nij,nkj->nki", axes[loads.nodes.node[turned]], both).reshape(-1, 6)
    return _six_by_six(loads.nodes.node, loads.nodes.case, own, len(axes), cases)


def settlements(loads: PlainLoads, nodes: int, cases: int) -> sparse.csr_matrix:
    """Motions of the ground under supports (6 nodes, cases), in their own axes [m, rad]."""
    return _six_by_six(loads.settlements.node, loads.settlements.case, loads.settlements.d, nodes, cases)


def _six_by_six(node: Ints, case: Ints, value: Floats, nodes: int, cases: int) -> sparse.csr_matrix:
    """Six values (n, 6) each for a node and a case, added up: (6 nodes, cases)."""
    row, which = np.nonzero(value)
    return sparse.csr_matrix((value[row, which], (6 * node[row] + which, case[row])), shape=(6 * nodes, cases))
