"""Forces in structural surfaces, anywhere: from the middles of elements, where they are most accurate, by polynomials
of third degree fitted to the elements around each place (O. C. Zienkiewicz, J. Z. Zhu, The superconvergent patch
recovery and a posteriori error estimates, Int. J. Num. Meth. Eng. 33 (1992)).

    +-----+-----+-----+        x  where the elements give their forces
    |  x  |  x  |  x  |        o  a place: a corner of elements, once for each side of a line where something else
    +-----o-----+-----+           carries, since forces may jump there
    |  x  |  x  |  x  |
    +-----+-----+-----+

Forces per length, along the own axes x y of the surface: n_x n_y n_xy stretching, tension positive; m_x m_y m_xy,
positive with tension on the side away from the normal, so that a level slab whose normal points up sags with positive
moments; v_x v_y, by equilibrium v = div m, so that div v is the load along the normal.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse.csgraph import connected_components

from ...model.loads import PlateStrains
from ...model.plates import Plates
from ...model.project import Project
from .shells import Shells

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
KINDS = ("n_x", "n_y", "n_xy", "m_x", "m_y", "m_xy", "v_x", "v_y")
MIDDLES = (np.array([[1 / 3, 1 / 3]]), np.zeros((1, 2)))
ENOUGH = 25
"""With fewer elements around it a place looks a ring further."""
RINGS = 3
NEAR = 1.05
"""Elements count by how near they are, the farthest least: (1.05 - r / farthest)^4."""
RELUCTANT = np.array([1e-14, *[1e-12] * 2, *[1e-10] * 3, *[1e-8] * 4])
"""What holds coefficients down, those of higher degree more: they stay where too few elements tell them."""


@dataclass(frozen=True)
class Patches:
    """Places where forces are given, and how they follow from those in the middles of elements.

    node, surface, region (places,); at (places, 2) [m] in the own axes of the surface; place (elements, 4): those of
    each element's corners, -1 for the fourth of a triangle; value, along_x, along_y (places, elements): the fitted
    polynomial there, and its derivatives [1/m]; rigid (elements,): inside the footprint of a column.
    """

    node: Ints
    surface: Ints
    region: Ints
    at: Floats
    place: Ints
    value: sparse.csr_matrix
    along_x: sparse.csr_matrix
    along_y: sparse.csr_matrix
    rigid: NDArray[np.bool_]


def corners_of(plates: Plates) -> tuple[Ints, Floats]:
    """Nodes (elements, 4), -1 for the fourth of a triangle, and middles (elements, 2) of all elements."""
    threes, fours = plates.groups
    padded = np.column_stack([threes.node, np.full(len(threes.node), -1)]).reshape(-1, 4)
    middle = [g.flat.mean(axis=1) if len(g.flat) else np.zeros((0, 2)) for g in (threes, fours)]
    return np.concatenate([padded, fours.node]), np.concatenate(middle)


def regions(plates: Plates, node: Ints) -> Ints:
    """Numbers (elements,) of the parts of surfaces that lines part, along which something else carries."""
    surface = plates.surface
    following = np.where(np.arange(4) == np.where(node[:, 3:] < 0, 2, 3), 0, (np.arange(4) + 1) % 4)
    pair = np.stack([node, np.take_along_axis(node, following, axis=1)], axis=2)
    element = np.repeat(np.arange(len(node)), 4)
    side = np.sort(pair.reshape(-1, 2), axis=1)
    there = side[:, 0] >= 0
    side, element = side[there], element[there]
    n = int(node.max(initial=0)) + 1
    key = side @ np.array([n, 1])
    free = ~np.isin(key, plates.edge @ np.array([n, 1]))
    key, element = key[free], element[free]
    order = np.argsort(key, kind="stable")
    key, element = key[order], element[order]
    same = np.flatnonzero((key[1:] == key[:-1]) & (surface[element[1:]] == surface[element[:-1]]))
    links = sparse.coo_matrix((np.ones(len(same)), (element[same], element[same + 1])), shape=(len(node), len(node)))
    return np.asarray(connected_components(links, directed=False)[1], np.intp)


def patches_of(plates: Plates) -> Patches:
    """The places of all surfaces."""
    node, middle = corners_of(plates)
    part = regions(plates, node)
    n = int(node.max(initial=0)) + 1
    key = np.where(node >= 0, part[:, None] * n + node, -1)
    known, place = np.unique(key[node >= 0], return_inverse=True)
    of = np.full(node.shape, -1, np.intp)
    of[node >= 0] = place
    element = np.repeat(np.arange(len(node)), 4)[(node >= 0).ravel()]
    own_flat = np.concatenate([np.pad(g.flat, ((0, 0), (0, 4 - g.flat.shape[1]), (0, 0))) for g in plates.groups])
    at = np.zeros((len(known), 2))
    at[place] = own_flat.reshape(-1, 2)[(node >= 0).ravel()]
    touches = sparse.csr_matrix((np.ones(len(place)), (place, element)), shape=(len(known), len(node)))
    near = _near(touches)
    value, x, y = _fitted(at, middle, near)
    leader = dict(plates.tied.tolist())
    follows = np.array([leader.get(k, k) for k in range(n)], np.intp)
    ends = np.where(node >= 0, node, node[:, :1])
    covered = (follows[ends] == follows[ends[:, :1]]).all(axis=1)
    surface = np.zeros(len(known), np.intp)
    surface[place] = plates.surface[element]
    return Patches(known % n, surface, known // n, at, of, value, x, y, covered)


def _near(touches: sparse.csr_matrix) -> sparse.csr_matrix:
    """Elements (places, elements) that take part in each place's fit: those that touch a neighbour of it, and more
    rings where these are few."""
    beside = touches @ touches.T
    near = (beside @ touches).tocsr()
    for _ in range(RINGS):
        few = np.asarray((near > 0).sum(axis=1)).ravel() < ENOUGH
        wider = (beside @ near).tocsr()
        if not few.any() or wider.nnz == near.nnz:
            break
        near = (sparse.diags((~few).astype(float)) @ near + sparse.diags(few.astype(float)) @ wider).tocsr()
        near.eliminate_zeros()
    return near


def _fitted(at: Floats, middle: Floats, near: sparse.csr_matrix) -> tuple[sparse.csr_matrix, ...]:
    pairs = near.tocoo()
    place, element = pairs.row, pairs.col
    order = np.lexsort((element, place))
    place, element = place[order], element[order]
    way = middle[element] - at[place]
    r = np.linalg.norm(way, axis=1)
    size = np.zeros(len(at))
    np.maximum.at(size, place, r)
    size[size == 0] = 1.0
    way, r = way / size[place][:, None], r / size[place]
    weight = (NEAR - r) ** 4
    x, y = way.T
    V = np.column_stack([np.ones(len(x)), x, y, x * x, x * y, y * y, x**3, x * x * y, x * y * y, y**3])
    k = V.shape[1]
    start = np.searchsorted(place, np.arange(len(at)))
    normal = np.add.reduceat((weight[:, None, None] * V[:, :, None] * V[:, None]).reshape(-1, k * k), start, axis=0)
    inverse = np.linalg.inv(normal.reshape(-1, k, k) + np.diag(RELUCTANT))
    share = np.einsum("pij,pj->pi", inverse[place, :3], weight[:, None] * V, optimize=True)
    shape = near.shape

    def operator(values: Floats) -> sparse.csr_matrix:
        return sparse.csr_matrix((values, (place, element)), shape=shape)

    return operator(share[:, 0]), operator(share[:, 1] / size[place]), operator(share[:, 2] / size[place])


def free_of_force(project: Project, strains: PlateStrains, columns: int) -> Floats | None:
    """Stretches and curvatures that temperatures give plates free to take them (surfaces, 6, columns); None without."""
    if not len(strains):
        return None
    out = np.zeros((len(project.surfaces), 6, columns))
    for surface, case, (rise, gradient) in zip(strains.surface, strains.case, strains.v, strict=True):
        plate = project.surfaces[surface].plate
        assert plate is not None
        out[surface, :2, case] += plate.material.expansion * rise
        out[surface, 3:5, case] += plate.material.expansion * gradient
    return out


@dataclass(frozen=True)
class Fields:
    """Forces in the plates of solved equations."""

    shells: Shells

    @cached_property
    def patches(self) -> Patches:
        """Its places."""
        return patches_of(self.shells.plates)

    def in_middles(self, u: Floats, free: Floats | None = None) -> Floats:
        """n_x n_y n_xy m_x m_y m_xy (elements, 6, columns) from motions of nodes in their own axes (nodes, 6, columns);
        `free` (surfaces, 6, columns): stretches and curvatures that need no force."""
        made, out = self.shells.made, []
        for group, motion, at in zip(self.shells.plates.groups, self.shells.corner_motions(u), MIDDLES, strict=True):
            stretch, curved, _ = (v[:, 0] for v in self.shells.generalised(group, motion, at))
            s = group.surface
            if free is not None:
                stretch, curved = stretch - free[s, :3], curved - free[s, 3:]
            out.append(np.concatenate([made.E[s] @ stretch, -(made.D[s] @ curved)], axis=1))
        return np.concatenate(out)

    def at_places(self, middles: Floats) -> Floats:
        """All KINDS (places, 8, columns) from those in the middles of elements (elements, 6, columns)."""
        p = self.patches
        elements, _, columns = middles.shape
        flat = middles.reshape(elements, -1)
        value = (p.value @ flat).reshape(-1, 6, columns)
        moments = middles[:, 3:].reshape(elements, -1)
        dx, dy = ((d @ moments).reshape(-1, 3, columns) for d in (p.along_x, p.along_y))
        v = np.stack([dx[:, 0] + dy[:, 2], dx[:, 2] + dy[:, 1]], axis=1)
        return np.concatenate([value, v], axis=1)
