"""The work of forces in the planes of plates on their displaced shape, for several results at once.

    u G u = sum of integrals n_x u,x . u,x + n_y u,y . u,y + 2 n_xy u,x . u,y        u: all three displacements

the initial stress stiffness of a flat piece (O. C. Zienkiewicz, R. L. Taylor, The finite element method for solid and
structural mechanics, ch. 11): across the surface it is what makes a plate buckle, in its plane what makes a wall lean.
Within an element displacements go linearly from corner to corner, and n is that in its middle.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ...surfaces.mesh.shapes import jacobians, rule_of, shapes
from .fields import MIDDLES
from .shells import Shells, freedoms_of

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Stressed:
    """The plates of an analysed project as forces in their planes see them."""

    shells: Shells

    @cached_property
    def products(self) -> tuple[Floats, Floats]:
        """Of both groups, the integrals of N_a,x N_b,x, of N_a,y N_b,y, and of N_a,x N_b,y + N_a,y N_b,x, which go
        with n_x, n_y, n_xy (n, 3, corners, corners)."""
        out = []
        for group in self.shells.plates.groups:
            at, weight = rule_of(group.flat)
            dN = np.einsum("npxa,pca->npcx", jacobians(group.flat, at)[1], shapes(group.node.shape[1], at)[1])
            x, y = dN[..., 0], dN[..., 1]
            pair = np.einsum("np,npa,npb->nab", weight, x, y)
            both = [np.einsum("np,npa,npb->nab", weight, d, d) for d in (x, y)]
            out.append(np.stack([*both, pair + pair.transpose(0, 2, 1)], axis=1))
        return out[0], out[1]

    @cached_property
    def side(self) -> Floats:
        """Of a square as large as each element (elements,) [m]."""
        return np.concatenate([np.sqrt(rule_of(g.flat)[1].sum(axis=1)) for g in self.shells.plates.groups])

    @cached_property
    def spread(self) -> sparse.csr_matrix:
        """From motions of nodes in their own axes to displacements of all elements' corners along x y n of their
        surfaces: (3 corners of all elements, 6 nodes)."""
        rows, columns, values, first = [], [], [], 0
        for group, turns in zip(self.shells.plates.groups, self.shells.turns, strict=True):
            n, corners = group.node.shape
            row = first + np.arange(3 * n * corners).reshape(n, corners, 3, 1)
            rows.append(np.broadcast_to(row, (n, corners, 3, 6)).ravel())
            column = 6 * group.node[:, :, None, None] + np.arange(6)
            columns.append(np.broadcast_to(column, (n, corners, 3, 6)).ravel())
            values.append(turns[:, :, :3].ravel())
            first += 3 * n * corners
        value = np.concatenate(values)
        there = value != 0
        place = np.concatenate(rows)[there], np.concatenate(columns)[there]
        return sparse.csr_matrix((value[there], place), shape=(first, 6 * len(self.shells.node_axes)))

    @cached_property
    def gather(self) -> sparse.csr_matrix:
        """The transpose of `spread`: from forces on corners to those on nodes."""
        return self.spread.T.tocsr()

    @cached_property
    def stretched(self) -> sparse.csr_matrix:
        """From motions of nodes in their own axes to n_x n_y n_xy in the middles of elements (3 elements, 6 nodes)."""
        made, rows, columns, values, first = self.shells.made, [], [], [], 0
        for group, turns, at in zip(self.shells.plates.groups, self.shells.turns, MIDDLES, strict=True):
            n, corners = group.node.shape
            unit = np.broadcast_to(np.eye(6 * corners), (n, 6 * corners, 6 * corners))
            own = self.shells.stretches(group, unit.reshape(n, corners, 6, 6 * corners), at)[:, 0]
            turned = np.einsum("nicj,ncjk->nick", own.reshape(n, 3, corners, 6), turns, optimize=True)
            value = made.E[group.surface] @ turned.reshape(n, 3, 6 * corners)
            row = first + np.arange(3 * n).reshape(n, 3, 1)
            rows.append(np.broadcast_to(row, value.shape).ravel())
            columns.append(np.broadcast_to(freedoms_of(group.node)[:, None], value.shape).ravel())
            values.append(value.ravel())
            first += 3 * n
        value = np.concatenate(values)
        there = value != 0
        places = np.concatenate(rows)[there], np.concatenate(columns)[there]
        return sparse.csr_matrix((value[there], places), shape=(first, 6 * len(self.shells.node_axes)))

    def forces(self, u: Floats, free: Floats | None = None) -> Floats:
        """n_x n_y n_xy (elements, 3, results) [N/m] in the middles of elements, from motions of nodes in their own axes
        (6 nodes, results) and what needs no force (surfaces, 6, results; `free_of_force`)."""
        n = np.asarray(self.stretched @ u).reshape(-1, 3, u.shape[1])
        if free is None:
            return n
        s = self.shells.plates.surface
        return np.asarray(n - self.shells.made.E[s] @ free[s, :3])

    def pull(self, n: Floats, u: Floats) -> Floats:
        """G u (6 nodes, results) from forces in the planes n (elements, 3, results) and motions of nodes u (6 nodes,
        results), all in the nodes' own axes."""
        at_corners, out, element, first = np.asarray(self.spread @ u), [], 0, 0
        results = u.shape[1]
        for products in self.products:
            count, corners = len(products), products.shape[2]
            rows = 3 * count * corners
            own = at_corners[first : first + rows].reshape(count, corners, 3, results)
            there = n[element : element + count, :, None, None]
            each = products.reshape(count, 3 * corners, corners) @ own.reshape(count, corners, 3 * results)
            each = each.reshape(count, 3, corners, 3, results) * there
            out.append(each.sum(axis=1).reshape(rows, results))
            element, first = element + count, first + rows
        return np.asarray(self.gather @ np.concatenate(out))

    def matrix(self, n: Floats, spread: sparse.csr_matrix) -> sparse.csr_matrix:
        """G between the motions from which `spread` (3 corners of all elements, motions) makes those of corners; n
        (elements, 3) of one result."""
        rows, columns, values, element, first = [], [], [], 0, 0
        for products in self.products:
            count, corners = len(products), products.shape[2]
            value = np.einsum("ni,niab->nab", n[element : element + count], products)
            place = first + np.arange(3 * count * corners).reshape(count, corners, 3)
            shape = (count, corners, corners, 3)
            rows.append(np.broadcast_to(place[:, :, None], shape).ravel())
            columns.append(np.broadcast_to(place[:, None], shape).ravel())
            values.append(np.broadcast_to(value[..., None], shape).ravel())
            element, first = element + count, first + 3 * count * corners
        places = np.concatenate(rows), np.concatenate(columns)
        middle = sparse.csr_matrix((np.concatenate(values), places), shape=(first, first))
        return (spread.T @ middle @ spread).tocsr()


def at_most(n: Floats) -> Floats:
    """Forces in planes (elements, 3) that pull no more in any direction than any of several (elements, 3, results):
    with n_xy in the middle of theirs, what each is off it is taken from n_x and n_y (a matrix whose diagonal outweighs
    its other entries is not negative)."""
    if not len(n):
        return n[..., 0]
    between = (n[:, 2].min(axis=1) + n[:, 2].max(axis=1)) / 2
    off = np.abs(n[:, 2] - between[:, None])
    return np.stack([(n[:, 0] - off).min(axis=1), (n[:, 1] - off).min(axis=1), between], axis=1)
