"""A surface laid out: its plane, what bears it, its bays and decks."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..model.frame import ON_LINE_TOLERANCE
from ..model.project import Project
from ..model.surfaces import SHORT, TWO_WAY
from .bays import Bays, deck_of_bay, find_bays
from .convex import NOWHERE, ConvexBays, convex_bays
from .mesh.located import SurfaceMesh
from .plane import Bearings, Outline, bearings_of

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class SurfaceGeometry:
    """A surface with its bearings, or with the elements of a structural one; everything else follows from these."""

    project: Project
    outline: Outline
    bearings: Bearings
    mesh: SurfaceMesh | None = None
    known: dict[bytes, Any] = field(default_factory=dict, repr=False, compare=False)
    """What has been found for parts that are loaded (by their WKB): the next load there needs not look again."""

    @cached_property
    def bays(self) -> Bays:
        """The pieces of the surface that the members around them close off."""
        return find_bays(self.outline, self.bearings)

    @cached_property
    def decks(self) -> list[tuple[shapely.Geometry, Floats]]:
        """Regions with one direction (2,) of deck each; none of a two-way surface."""
        deck = self.outline.surface.deck
        if deck == TWO_WAY:
            return []
        if deck != SHORT:
            return [(self.outline.polygon, along(self.outline, np.array(deck, float)))]
        groups: dict[tuple[float, ...], tuple[Floats, list[shapely.Polygon]]] = {}
        for bay in self.bays.polygons:
            way = deck_of_bay(bay)
            groups.setdefault(tuple(np.round(way, 9)), (way, []))[1].append(bay)
        return [(shapely.union_all(bays), way) for way, bays in groups.values()]

    @cached_property
    def lengths(self) -> Floats:
        """Of the members that are its bearings (n,) [m]."""
        return self.project.lengths[self.bearings.member]

    @cached_property
    def edges(self) -> list[tuple[Floats, Ints]]:
        """Of every bay its bearing edges (n, 2, 2) and the bearings (n,) they lie on."""
        return _edges_of(self.bays, self.bearings)

    @cached_property
    def convex(self) -> list[ConvexBays]:
        """The bays of convex shape whose edges all bear, by their number of edges."""
        return convex_bays(self.edges)


def geometry_of(project: Project, outline: Outline, mesh: SurfaceMesh | None = None) -> SurfaceGeometry:
    """An outline with the members that lie in its plane, and its elements where it is structural."""
    return SurfaceGeometry(project, outline, bearings_of(outline, project), mesh)


def along(outline: Outline, way: Floats) -> Floats:
    """The direction (2,) of a deck in u v: a level direction as it is seen in plan, any other as seen along the normal.

    Of no length where it leaves the surface.
    """
    n = outline.normal
    if abs(n[2]) > 1e-6 and way[2] == 0:
        way = np.array([way[0], way[1], -(way @ n) / n[2]])
    flat = outline.axes[:2] @ way
    size = np.linalg.norm(flat)
    return np.asarray(flat / size if size > 1e-3 * np.linalg.norm(way) else np.zeros(2))


def _edges_of(bays: Bays, bearings: Bearings) -> list[tuple[Floats, Ints]]:
    rings, owner = shapely.get_rings(bays.polygons, return_index=True)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    edges = np.stack([points[:-1][same], points[1:][same]], axis=1)
    bay = owner[ring[:-1][same]]
    lines = shapely.linestrings(bearings.ends)
    edge, on = shapely.STRtree(lines).query(shapely.points(edges.mean(axis=1)), predicate="dwithin",
                                            distance=ON_LINE_TOLERANCE)  # fmt: skip
    away = [shapely.distance(shapely.points(edges[edge, k]), lines[on]) for k in (0, 1)]
    off = np.maximum(*away)
    # An edge of a millimetre across a bearing lies on it by all of its points, and yet not along it.
    way, line = edges[edge, 1] - edges[edge, 0], bearings.ends[on, 1] - bearings.ends[on, 0]
    sizes = np.linalg.norm(way, axis=1) * np.linalg.norm(line, axis=1)
    good = (off <= ON_LINE_TOLERANCE) & (np.abs((way * line).sum(axis=1)) >= sizes / 2)
    edge, on, off = edge[good], on[good], off[good]
    order = np.lexsort((on, off, edge))
    edge, on = edge[order], on[order]
    first = np.unique(edge, return_index=True)[1]
    bearing = np.full(len(edges), NOWHERE)
    bearing[edge[first]] = on[first]
    starts = np.searchsorted(bay, np.arange(len(bays.polygons) + 1))
    out = [(edges[a:b], bearing[a:b]) for a, b in pairwise(starts)]
    for k, more, index in _inner(bays, bearings, lines):
        out[k] = np.concatenate([out[k][0], more]), np.append(out[k][1], [index] * len(more))
    return out


def _inner(bays: Bays, bearings: Bearings, lines: NDArray[Any]) -> list[tuple[int, Floats, int]]:
    """Pieces of bearings that end inside a bay: bay, the piece (n, 2, 2), and the bearing."""
    shrunk = shapely.buffer(bays.polygons, -2 * ON_LINE_TOLERANCE)
    line, bay = shapely.STRtree(shrunk).query(lines, predicate="intersects")
    out = []
    for k, i in zip(bay, line, strict=True):
        for part in shapely.get_parts(shapely.intersection(lines[i], bays.polygons[k])):
            ends = shapely.get_coordinates(part)
            if len(ends) == 2:
                out.append((int(k), ends[None], int(i)))
    return out


def nodes_on(geometry: SurfaceGeometry) -> tuple[Ints, Floats]:
    """The nodes of members that lie on the surface, and their places (n, 2)."""
    project, outline = geometry.project, geometry.outline
    used = np.zeros(len(project.nodes), bool)
    used[project.ends.ravel()] = True
    flat = outline.flat(project.xyz)
    near = used & (np.abs(outline.height(project.xyz)) <= ON_LINE_TOLERANCE)
    found = np.flatnonzero(near)
    shape = outline.polygon.buffer(ON_LINE_TOLERANCE)
    found = found[shapely.intersects(shape, shapely.points(flat[found]))]
    return found, flat[found]
