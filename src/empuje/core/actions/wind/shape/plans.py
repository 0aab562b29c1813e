"""Which exterior faces form one building: a closed loop of walls in plan, with the roofs on it.

+------+      +---+        two loops are two buildings, however near; a loop within another is part of it;
|  +--+|      |   |        walls that touch a loop are part of it
|  |  ||      +---+        walls that close no loop: those that roofs or nearness hold together
|  +--+|
+------+      a cell is what walls enclose; a court is a cell that all walls around it look into
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.near import near_pairs
from ...faces import Face, height_over, joined, plan_of

Floats = NDArray[np.float64]
GAP = 0.02
"""Ends of walls nearer to each other than this [m] in plan meet."""
RASTER = 1e-7
MOSTLY = 0.5
"""A roof that covers more than this of each of two plans makes them one building."""
ASIDE = 0.05
"""So far from a wall [m] it is asked what is on its two sides."""
ALONG = (0.13, 0.39, 0.71, 0.91)
"""Shares of a wall's length at which that is asked: none where ridges and other walls use to be."""
UNDER = 0.1
"""A wall that ends this little above a roof [m] ends at it."""


@dataclass(frozen=True)
class Plan:
    """Faces of one building: walls, and roofs as groups of faces that join; `cells` that the walls enclose in plan,
    `courts` among what they enclose that are no inside; `inner`: walls with the inside on both sides."""

    walls: tuple[Face, ...]
    roofs: tuple[tuple[Face, ...], ...]
    cells: tuple[shapely.Polygon, ...]
    courts: tuple[shapely.Polygon, ...]
    inner: tuple[Face, ...]

    @property
    def footprint(self) -> shapely.Geometry | None:
        """What is inside, in plan; None where the walls enclose nothing."""
        return shapely.union_all(self.cells) if self.cells else None

    @property
    def faces(self) -> list[Face]:
        """Walls and roofs that stand in the wind."""
        return [*self.walls, *(f for r in self.roofs for f in r)]

    @property
    def first(self) -> tuple[float, float]:
        """Where it begins in plan, to the millimetre: buildings are counted in this order."""
        corners = np.concatenate([f.corners for f in self.faces])
        x, y = np.round(corners[:, :2].min(axis=0), 3)
        return float(x), float(y)


def plans_of(faces: Sequence[Face], stated: Sequence[Collection[int]] = (), meant: Collection[int] = ()) -> list[Plan]:
    """The buildings that faces form, those that are `stated` (surfaces of each) first, then those found, in the order
    of where they begin in plan; what is `meant` (surfaces) to stand in the wind is never inner."""
    out = []
    taken = {i for group in stated for i in group}
    for group in stated:
        own = [f for f in faces if f.surface in group]
        if own:
            out.append(_plan([f for f in own if f.is_wall], joined([f for f in own if not f.is_wall]), meant))
    rest = [f for f in faces if f.surface not in taken]
    walls, roofs = [f for f in rest if f.is_wall], joined([f for f in rest if not f.is_wall])
    found = [_plan([walls[i] for i in w], [roofs[j] for j in r], meant) for w, r in _apart(walls, roofs)]
    return out + sorted(found, key=lambda p: p.first)


def _apart(walls: Sequence[Face], roofs: Sequence[Sequence[Face]]) -> list[tuple[list[int], list[int]]]:
    """Walls and roofs (by number) of every building."""
    lines = wall_lines(walls)
    loops = _linked(len(walls), *_near(lines, lines))
    own_lines = np.array([shapely.union_all(lines[own]) for own in loops], object)
    areas = np.array([shapely.union_all(_cells([walls[i] for i in own])) for own in loops], object)
    size = shapely.area(areas) if len(areas) else np.zeros(0)
    closed = np.flatnonzero(size > 0)
    plans = [shapely.union_all([plan_of(f) for f in roof]) for roof in roofs]
    # Buildings: first the loops, then what is held together by roofs, or lies within.
    n = len(loops)
    pairs: list[tuple[int, int]] = []
    tree = shapely.STRtree(areas[closed])
    for i in closed.tolist():
        for other in closed[tree.query(areas[i], predicate="intersects")].tolist():
            both = shapely.area(shapely.intersection(areas[i], areas[other])) if other > i else 0.0
            if both > MOSTLY * min(size[i], size[other]):
                pairs.append((i, other))
    for k in np.flatnonzero(size == 0).tolist():
        around = closed[tree.query(own_lines[k], predicate="dwithin", distance=GAP)]
        pairs += [(k, int(c)) for c in around if shapely.covers(shapely.buffer(areas[c], GAP), own_lines[k])][:1]
    of_line = shapely.STRtree(own_lines)
    for j, plan in enumerate(plans):
        hit = closed[tree.query(plan, predicate="intersects")]
        over = shapely.area(shapely.intersection(areas[hit], plan)) if len(hit) else np.zeros(0)
        near = of_line.query(plan, predicate="dwithin", distance=GAP).tolist()
        if over.max(initial=0.0) > 0:
            best = {int(hit[over.argmax()]), *hit[over > MOSTLY * size[hit]].tolist()}
            pairs += [(n + j, k) for k in best]
        elif near:
            pairs += [(n + j, k) for k in near]
        elif len(closed):
            pairs.append((n + j, int(closed[shapely.distance(areas[closed], plan).argmin()])))
    groups = _linked(n + len(roofs), [a for a, _ in pairs], [b for _, b in pairs])
    groups = _neighbours(groups, set(closed.tolist()), [*own_lines, *plans])
    return [
        (sorted(i for k in group if k < n for i in loops[k]), [k - n for k in group if k >= n]) for group in groups
    ]  # fmt: skip


def _neighbours(groups: list[list[int]], closed: set[int], shapes: Sequence[shapely.Geometry]) -> list[list[int]]:
    """Groups, those without a closed loop one where they are no farther apart than the larger of them is long."""
    whole = [g for g in groups if closed & set(g)]
    open_ = [g for g in groups if not closed & set(g)]
    outlines = [shapely.union_all([shapes[k] for k in g]) for g in open_]
    reach = [float(np.hypot(o.bounds[2] - o.bounds[0], o.bounds[3] - o.bounds[1])) for o in outlines]
    near = [
        (i, j) for i in range(len(open_)) for j in range(i)
        if shapely.distance(outlines[i], outlines[j]) <= max(reach[i], reach[j])
    ]  # fmt: skip
    joined_ = _linked(len(open_), [i for i, _ in near], [j for _, j in near])
    return whole + [sorted(k for i in own for k in open_[i]) for own in joined_]


def _plan(walls: Sequence[Face], roofs: Sequence[Sequence[Face]], meant: Collection[int]) -> Plan:
    cells = _cells(walls)
    level = np.array([f.normal[:2] for f in walls]).reshape(-1, 2)
    level /= np.maximum(np.linalg.norm(level, axis=1), 1e-12)[:, None]
    start, end = wall_ends(walls).reshape(-1, 2, 2).swapaxes(0, 1)
    at = [start + share * (end - start) for share in ALONG]
    out, back = np.array([p + ASIDE * level for p in at]), np.array([p - ASIDE * level for p in at])
    courts = []
    if len(cells) > 1:
        looks_in = [shapely.intersects_xy(c, out[..., 0], out[..., 1]).any() for c in cells]
        looks_out = [shapely.intersects_xy(c, back[..., 0], back[..., 1]).any() for c in cells]
        courts = [c for c, a, b in zip(cells, looks_in, looks_out, strict=True) if a and not b]
    rooms = [c for c in cells if c not in courts]
    faces = [f for roof in roofs for f in roof]
    top = np.array([f.top for f in walls])
    indoors = ~np.array([f.surface in meant for f in walls], bool)
    for points in (*out, *back):
        indoors &= _indoors(points, top, rooms, faces)
    inner = tuple(f for f, hidden in zip(walls, indoors, strict=True) if hidden)
    kept = tuple(f for f, hidden in zip(walls, indoors, strict=True) if not hidden)
    return Plan(kept, tuple(tuple(r) for r in roofs), tuple(rooms), tuple(courts), inner)


def _indoors(points: Floats, top: Floats, rooms: Sequence[shapely.Polygon], roofs: Sequence[Face]) -> NDArray[np.bool_]:
    """Whether points (n, 2) lie in a room, below a roof that is no lower than `top` (n,) [m], where there are roofs."""
    inside = np.zeros(len(points), bool)
    for room in rooms:
        inside |= shapely.intersects_xy(room, points[:, 0], points[:, 1])
    if not roofs or not inside.any():
        return inside
    covered = np.zeros(len(points), bool)
    for face in roofs:
        over = shapely.intersects_xy(plan_of(face), points[:, 0], points[:, 1])
        for i in np.flatnonzero(over & ~covered):
            covered[i] = height_over(face, points[i]) >= top[i] - UNDER
    return inside & covered


def wall_ends(walls: Sequence[Face]) -> Floats:
    """Both ends of every wall in plan (2 walls, 2)."""
    ends = []
    for wall in walls:
        level = wall.corners[:, :2]
        along = level @ np.array([-wall.normal[1], wall.normal[0]])
        ends += [level[along.argmin()], level[along.argmax()]]
    return np.array(ends).reshape(-1, 2)


def wall_lines(walls: Sequence[Face]) -> NDArray[np.object_]:
    """Walls in plan (walls,)."""
    return np.asarray(shapely.linestrings(wall_ends(walls).reshape(-1, 2, 2)), object).reshape(-1)


def open_ends(walls: Sequence[Face]) -> list[list[float]]:
    """Ends of walls that meet no other wall in plan."""
    points = wall_ends(walls)
    near = np.zeros(len(points), np.intp)
    i, _ = _near(np.asarray(shapely.points(points), object).reshape(-1), wall_lines(walls))
    np.add.at(near, i, 1)
    return [[float(v) for v in p] for p in points[near < 2]]


def _near(these: NDArray[np.object_], those: NDArray[np.object_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Pairs that meet."""
    if not len(those) or not len(these):
        return np.zeros(0, np.intp), np.zeros(0, np.intp)
    i, j = shapely.STRtree(those).query(these, predicate="dwithin", distance=GAP)
    return np.asarray(i, np.intp), np.asarray(j, np.intp)


def _cells(walls: Sequence[Face]) -> list[shapely.Polygon]:
    """What the walls enclose in plan, cell by cell."""
    points = wall_ends(walls)
    if not len(points):
        return []
    flat = np.column_stack([points, np.zeros(len(points))])
    meet = np.arange(len(points))
    i, j = near_pairs(flat, np.full(len(points), GAP), flat)
    np.minimum.at(meet, i, j)
    lines = shapely.linestrings(points[meet].reshape(-1, 2, 2))
    # Ends that meet are the same points now; a raster is for walls that end against the middle of others.
    for raster in (0.0, RASTER):
        noded = shapely.union_all(lines, grid_size=raster or None)
        cells = list(shapely.get_parts(shapely.polygonize([noded])))
        if cells:
            return cells
    return []


def _linked(n: int, i: Sequence[int] | NDArray[np.intp], j: Sequence[int] | NDArray[np.intp]) -> list[list[int]]:
    """Groups of 0..n-1 that pairs hold together, each in order."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    if not n:
        return []
    links = coo_matrix((np.ones(len(i)), (np.asarray(i, int), np.asarray(j, int))), shape=(n, n))
    label = connected_components(links, directed=False)[1]
    return [np.flatnonzero(label == k).tolist() for k in range(int(label.max()) + 1)]
