"""The mesh of one flat region: quadrilaterals of a lattice wherever its lines go along or across, triangles beside
oblique ones.

    +----+----+----+----o       Stops are the places of corners, members and columns along both directions of the
    |    |    |    |   /|       lattice; between two stops it is divided evenly. Oblique lines have points of their
    +----+----+----+  / |       own; lattice points that come too near give way, and what is left is triangulated
    |    |    |   /\\ |/ |       by Delaunay's rule, which keeps every line whose circles are empty. Pairs of triangles
    +----+----+--o--o---+       that make a good quadrilateral are joined.

A mesh depends on the region, its lines and its points alone, never on loads or results: a load that moves by a hair
meets the same mesh.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import Delaunay, cKDTree

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SAME = 1.001e-3
"""Stops and points nearer than this [m] are one."""
CLEAR = 0.5
"""Lattice points nearer to an oblique line or a point beside the lattice than this many mesh lengths give way."""
SOFT = 0.4
"""The stop of a point nearer to another stop than this many mesh lengths is left out: the point then lies beside the
lattice."""
OFF_SQUARE = 0.5
"""Pairs of triangles make a quadrilateral where the cosine of no corner is more than this."""
NEARLY = 0.05
"""By so much of a mesh length an element may be longer than asked."""
TRIES, ROUNDS = 8, 200
TOO_NEAR = "lines that meet at too sharp an angle, or lie too near to each other, for this mesh"


class NoMesh(ValueError):
    """A region whose lines cannot be kept."""


@dataclass(frozen=True)
class Region:
    """polygon in coordinates along and across the lattice [m]; lines (n, 2, 2) in it that elements must follow, its
    edges among them, crossing nowhere but at ends; points (k, 2) that must be corners of elements; length of mesh."""

    polygon: shapely.Polygon
    lines: Floats
    points: Floats
    length: float

    @property
    def way(self) -> Ints:
        """0 for lines along, 1 for lines across, -1 for oblique ones (n,)."""
        step = np.abs(self.lines[:, 1] - self.lines[:, 0])
        return np.where(step[:, 1] <= SAME, 0, np.where(step[:, 0] <= SAME, 1, -1))


@dataclass(frozen=True)
class Elements:
    """Corners at (n, 2) [m], triangles (t, 3) and quadrilaterals (q, 4), all counter-clockwise."""

    at: Floats
    triangles: Ints
    quadrilaterals: Ints


def stops(region: Region, direction: int, more: Floats) -> Floats:
    """Where the lattice has to have a line, along 0 or across 1, in order: at both ends of every line along or across,
    and of `more`; at points and ends of oblique lines where there is room."""
    straight = region.way >= 0
    hard = _apart(np.concatenate([region.lines[straight, :, direction].ravel(), more]), SAME)
    soft = np.concatenate([region.lines[~straight, :, direction].ravel(), region.points[:, direction]])
    out = hard.tolist()
    for value in np.sort(soft).tolist():
        if not out or np.abs(np.array(out) - value).min() > SOFT * region.length:
            out.append(value)
    return np.sort(np.array(out))


def _apart(values: Floats, least: float) -> Floats:
    """Values in order, those nearer to the one before than so much left out."""
    out: list[float] = []
    for value in np.sort(values).tolist():
        if not out or value - out[-1] > least:
            out.append(value)
    return np.array(out)


def divided(at: Floats, counts: Ints) -> Floats:
    """Stops with what evenly divides each interval in so many parts."""
    parts = [a + (b - a) * np.arange(n) / n for (a, b), n in zip(pairwise(at.tolist()), counts.tolist(), strict=True)]
    return np.concatenate([*parts, at[-1:]])


def parts_of(at: Floats, length: float) -> Ints:
    """In how many parts each interval between stops is divided, none longer than the mesh."""
    return np.maximum(1, np.ceil(np.diff(at) / length - NEARLY)).astype(np.intp)


def meshed(region: Region, along: Floats, across: Floats, on_lines: list[Floats]) -> Elements:
    """Elements of a region with lattice lines at these places, and on every oblique line the given points (k, 2), ends
    among them, in order. Raises NoMesh."""
    a, b = np.meshgrid(along, across, indexing="ij")
    grid = np.column_stack([a.ravel(), b.ravel()])
    grid = grid[shapely.dwithin(region.polygon, shapely.points(grid), SAME)]
    own = _once(np.concatenate([*on_lines, region.points, np.zeros((0, 2))]))
    gap = _gaps(own, grid)
    beside = own[_gaps(grid, own) > SAME]
    clear = CLEAR * region.length
    straight = region.way >= 0
    near = _gaps(beside, grid) <= clear
    if not straight.all():
        oblique = shapely.MultiLineString(list(region.lines[~straight]))
        near |= shapely.dwithin(oblique, shapely.points(grid), clear)
    if straight.any():
        near &= ~shapely.dwithin(shapely.MultiLineString(list(region.lines[straight])), shapely.points(grid), SAME)
    at = np.concatenate([own, grid[(gap > SAME) & ~near]])
    for _ in range(TRIES):
        edges = _edges(at, region.lines)
        triangles, missing = _triangles(region, at, edges)
        if not len(missing):
            return _joined(at, triangles, edges)
        at = _without_encroaching(at, len(own), missing)
    raise NoMesh(TOO_NEAR)


def _gaps(of: Floats, points: Floats) -> Floats:
    """How far each of the points (n, 2) is from the nearest one `of` others."""
    return cKDTree(of).query(points)[0] if len(of) and len(points) else np.full(len(points), np.inf)


def _once(points: Floats) -> Floats:
    """Points that are the same within the tolerance once each, the first of them."""
    if not len(points):
        return points
    pairs = cKDTree(points).query_pairs(SAME, output_type="ndarray")
    keep = np.ones(len(points), bool)
    keep[pairs.max(axis=1)] = False
    return points[keep]


def _edges(at: Floats, lines: Floats) -> Ints:
    """The edges (n, 2) that elements must have: between neighbours of the points on each line."""
    tree = cKDTree(at)
    out = []
    for a, b in lines:
        step = b - a
        length = float(np.linalg.norm(step))
        near = np.array(tree.query_ball_point((a + b) / 2, length / 2 + 2 * SAME), np.intp)
        along = (at[near] - a) @ step / length
        off = np.abs((at[near] - a) @ np.array([-step[1], step[0]])) / length
        on = near[(off <= SAME) & (along >= -SAME) & (along <= length + SAME)]
        on = on[np.argsort((at[on] - a) @ step)]
        out.append(np.column_stack([on[:-1], on[1:]]))
    edges = np.concatenate([*out, np.zeros((0, 2), np.intp)])
    return np.unique(np.sort(edges, axis=1), axis=0)


def _triangles(region: Region, at: Floats, edges: Ints) -> tuple[Ints, Ints]:
    """Delaunay's triangles (t, 3) in the region, counter-clockwise, and which of the edges they lack (m, 2)."""
    found = _without_thin(at, Delaunay(at).simplices.astype(np.intp))
    corner = at[found]
    u, v = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    turning = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    found[turning < 0] = found[turning < 0][:, ::-1]
    found = found[shapely.contains_xy(region.polygon, *corner.mean(axis=1).T)]
    there = np.unique(np.sort(np.concatenate([found[:, [0, 1]], found[:, [1, 2]], found[:, [2, 0]]]), axis=1), axis=0)
    n = len(at)
    return found, edges[~np.isin(edges[:, 0] * n + edges[:, 1], there[:, 0] * n + there[:, 1])]


def _without_thin(at: Floats, triangles: Ints) -> Ints:
    """Triangles (t, 3) without those thinner than the tolerance, which lie between points that are nearly on a line:
    what lies beyond the longest side is parted at the corner in the middle instead. Raises NoMesh."""
    for _ in range(ROUNDS):
        side = at[np.roll(triangles, -1, axis=1)] - at[triangles]
        length = np.linalg.norm(side, axis=2)
        area = np.abs(side[:, 0, 0] * side[:, 1, 1] - side[:, 0, 1] * side[:, 1, 0])
        thin = area <= SAME * length.max(axis=1)
        if not thin.any():
            return triangles
        triangles = _parted(triangles, thin, length.argmax(axis=1))
    raise NoMesh(TOO_NEAR)


def _parted(triangles: Ints, thin: NDArray[np.bool_], longest: Ints) -> Ints:
    """Without some of the thin triangles, those first that have no thin one beyond their longest side."""
    ends = np.sort(np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2), axis=2)
    key = (ends @ np.array([triangles.max() + 1, 1])).ravel()
    order = np.argsort(key, kind="stable")
    some = np.flatnonzero(thin)
    own = 3 * some + longest[some]
    ranked = key[order]
    first = order[np.searchsorted(ranked, key[own], side="left")]
    last = order[np.searchsorted(ranked, key[own], side="right") - 1]
    beyond = np.where(first == last, -1, np.where(first == own, last, first) // 3)
    ready = (beyond < 0) | ~thin[beyond]
    gone: set[int] = set()
    more: list[list[int]] = []
    for i in np.flatnonzero(ready if ready.any() else ~ready).tolist():
        k, other = int(some[i]), int(beyond[i])
        if k in gone or other in gone:
            continue
        gone.add(k)
        if other >= 0:
            gone.add(other)
            a, b, c = np.roll(triangles[k], -longest[k]).tolist()  # c lies next to the middle of a to b
            d = next(v for v in triangles[other].tolist() if v not in (a, b))
            more += [[a, c, d], [c, b, d]]
    return np.concatenate([np.delete(triangles, list(gone), axis=0), np.array(more, np.intp).reshape(-1, 3)])


def _without_encroaching(at: Floats, own: int, missing: Ints) -> Floats:
    """Without the lattice points in the circles over edges that are missing, which lines could not be kept for."""
    middle, radius = at[missing].mean(axis=1), np.linalg.norm(at[missing[:, 0]] - at[missing[:, 1]], axis=1) / 2
    inside = {i for found in cKDTree(at).query_ball_point(middle, radius * (1 + 1e-9)) for i in found if i >= own}
    gone = sorted(inside - set(missing.ravel().tolist()))
    if not gone:
        raise NoMesh(TOO_NEAR)
    return np.delete(at, gone, axis=0)


def _joined(at: Floats, triangles: Ints, edges: Ints) -> Elements:
    """Pairs of triangles as quadrilaterals, the squarest first, but across no edge that must stay."""
    n = len(at)
    side = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    of, far = np.tile(np.arange(len(triangles)), 3), triangles[:, [2, 0, 1]].T.ravel()
    key = np.sort(side, axis=1) @ np.array([n, 1])
    order = np.argsort(key, kind="stable")
    pair = np.flatnonzero(key[order][1:] == key[order][:-1])
    one, two = order[pair], order[pair + 1]
    free = ~np.isin(key[one], edges @ np.array([n, 1]))
    one, two = one[free], two[free]
    # Counter-clockwise: start of the shared side, the far corner beyond it, its end, the far corner on this side.
    quad = np.column_stack([side[one, 0], far[two], side[one, 1], far[one]])
    step = np.roll(at[quad], -1, axis=1) - at[quad]
    way = step / np.linalg.norm(step, axis=2)[..., None]
    back = np.roll(way, 1, axis=1)
    cosine = np.abs((way * back).sum(axis=2)).max(axis=1)
    turning = (back[..., 0] * way[..., 1] - back[..., 1] * way[..., 0]).min(axis=1)
    good = np.flatnonzero((cosine < OFF_SQUARE) & (turning > 0))
    taken = np.zeros(len(triangles), bool)
    chosen = []
    centre = np.round(at[quad[good]].mean(axis=1), 6)
    for i in good[np.lexsort((centre[:, 1], centre[:, 0], np.round(cosine[good], 6)))].tolist():
        t = of[one[i]], of[two[i]]
        if not (taken[t[0]] or taken[t[1]]):
            taken[list(t)] = True
            chosen.append(i)
    return Elements(at, triangles[~taken], quad[chosen])
