"""The elements of one structural surface in its plane: which one a point lies in, and what part of a load there each of
its nodes takes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.frame import ON_LINE_TOLERANCE
from ...model.project import Project
from ..plane import Outline, straight_edges
from .shapes import local_places, rule_of, shapes

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ALONG, WEIGHTS = (0.5 * (v + more) for v, more in zip(np.polynomial.legendre.leggauss(3), (1.0, 0.0), strict=True))
"""Shares of a stretch of a line within one element, and what each counts: exact for products of shape functions."""
TOUCHES = 1e-7
"""Corners so near to a line [m] lie on it."""


@dataclass(frozen=True)
class SurfaceMesh:
    """Elements of a surface, triangles first: nodes and corners (n, corners), (n, corners, 2) [m] in its u v."""

    nodes: tuple[Ints, Ints]
    corners: tuple[Floats, Floats]

    @cached_property
    def polygons(self) -> NDArray[np.object_]:
        """Every element as a polygon."""
        return np.concatenate([shapely.polygons(c) if len(c) else np.zeros(0, object) for c in self.corners])

    @cached_property
    def covered(self) -> shapely.Polygon | None:
        """What all elements cover together, where it is in one piece. Corners within a millimetre of a node, or of
        another surface's, are at the place of that: this is not quite the outline that was written."""
        found = shapely.simplify(shapely.coverage_union_all(self.polygons), 1e-9)
        parts = shapely.get_parts(found)
        return parts[0] if len(parts) == 1 else None

    @cached_property
    def tree(self) -> shapely.STRtree:
        """To find them by."""
        return shapely.STRtree(self.polygons)

    def groups(self, elements: Ints) -> list[tuple[int, NDArray[np.bool_], Ints]]:
        """Of elements (n,): corners each, which of them have so many, and their numbers in their group."""
        first = len(self.nodes[0])
        threes = elements < first
        return [(0, threes, elements[threes]), (1, ~threes, elements[~threes] - first)]

    def holding(self, points: Floats) -> Ints:
        """The element (n,) that each of some points (n, 2) of the surface lies in, the first of several; the nearest
        where a point lies in none."""
        point, element = self.tree.query(shapely.points(points), predicate="dwithin", distance=ON_LINE_TOLERANCE)
        away = shapely.distance(shapely.points(points[point]), self.polygons[element])
        order = np.lexsort((element, np.where(away < 1e-9, 0.0, away), point))
        found, first = np.unique(point[order], return_index=True)
        out = np.full(len(points), -1, np.intp)
        out[found] = element[order][first]
        out[out < 0] = self.tree.nearest(shapely.points(points[out < 0]))
        return out

    def shares(self, elements: Ints, points: Floats, amount: Floats) -> tuple[Ints, Floats]:
        """What nodes take of amounts (n,) at points (n, 2) in elements (n,): nodes (m,), and how much (m,). They have
        the same sum and the same first moments."""
        node: list[Ints] = [np.zeros(0, np.intp)]
        share: list[Floats] = [np.zeros(0)]
        for group, chosen, mine in self.groups(elements):
            if not len(mine):
                continue
            xy = self.corners[group][mine]
            N = shapes(xy.shape[1], local_places(xy, points[chosen]))[0]
            node.append(self.nodes[group][mine].ravel())
            share.append((N * amount[chosen, None]).ravel())
        return added_up(np.concatenate(node), np.concatenate(share))

    def whole(self, field: Floats, some: Ints) -> tuple[Ints, Floats]:
        """What nodes take of a pressure field . (1, u, v) on all of some elements."""
        node: list[Ints] = [np.zeros(0, np.intp)]
        share: list[Floats] = [np.zeros(0)]
        for group, _, mine in self.groups(some):
            if not len(mine):
                continue
            xy = self.corners[group][mine]
            at, weight = rule_of(xy)
            N = shapes(xy.shape[1], at)[0]
            place = np.einsum("pc,ncx->npx", N, xy)
            amount = weight * (field[0] + place @ field[1:])
            node.append(self.nodes[group][mine].ravel())
            share.append(np.einsum("pc,np->nc", N, amount).ravel())
        return added_up(np.concatenate(node), np.concatenate(share))


def added_up(node: Ints, share: Floats) -> tuple[Ints, Floats]:
    """Shares of the same node as one."""
    found, of = np.unique(node, return_inverse=True)
    return found, np.bincount(of, share, minlength=len(found)).astype(float)


def crossings(mesh: SurfaceMesh, ends: Floats) -> Floats:
    """Shares of a line between two points (2, 2) of a surface at its ends and wherever it meets a side of an element,
    in order."""
    near = mesh.tree.query(shapely.LineString(ends), predicate="dwithin", distance=ON_LINE_TOLERANCE)
    return _crossed(straight_edges(mesh.polygons[near]), ends)


def _crossed(sides: Floats, ends: Floats) -> Floats:
    """Shares of a line at its ends and where it meets sides (n, 2, 2) of elements, in order; where it runs along one,
    at the corners of that."""
    a, step = ends[0], ends[1] - ends[0]
    square = float(step @ step)
    along = (sides - a) @ step / square
    off = (sides - a) @ np.array([-step[1], step[0]]) / np.sqrt(square)
    gap = off[:, 0] - off[:, 1]
    through = (off[:, 0] * off[:, 1] < 0) & (np.abs(gap) > TOUCHES)
    share = (off[:, 0] / np.where(through, gap, 1.0))[through]
    crossed = along[through, 0] * (1 - share) + along[through, 1] * share
    t = np.concatenate([[0.0, 1.0], crossed, along[np.abs(off) <= TOUCHES]])
    t = np.sort(t[(t >= 0) & (t <= 1)])
    t = t[np.append(True, np.diff(t) > 1e-9)]
    t[-1] = 1.0
    return np.asarray(t)


def mesh_of(project: Project, index: int, outline: Outline) -> SurfaceMesh | None:
    """The elements of a structural surface of a project, by its index."""
    plates = project.plates
    if plates is None or project.surfaces[index].plate is None:
        return None
    places = project.places
    nodes, corners = [], []
    for group in plates.groups:
        mine = np.flatnonzero(group.surface == index)
        node = group.node[mine]
        at = places[node] + group.arm[mine]
        nodes.append(node)
        corners.append(outline.flat(at.reshape(-1, 3)).reshape(*node.shape, 2))
    return SurfaceMesh((nodes[0], nodes[1]), (corners[0], corners[1]))
