"""The lines that the elements of structural surfaces must follow: edges, members and supports in their planes, edges of
other surfaces, and footprints of columns; with the points that must be corners of elements.

Surfaces that share a line have the same points on it: what ends, crosses or divides it in one of them does so in all.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.frame import ON_LINE_TOLERANCE
from ...model.near import together
from ...model.project import Project
from ..plane import Outline
from .lattice import NoMesh, Region
from .shared import PASSES, divided_alike

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
DIVISIONS = 26
"""So many elements fit across the widest circle that no line and no column crosses."""
FINEST = 80
"""And no more than this many across a square of the same area, however narrow a region is."""
MOST_ELEMENTS = 60_000
"""Of a model: so many take some gigabytes and a minute or two."""
DECIMALS = 8
"""Places are rounded to so many decimals of a metre, so that a turned model is cut in the same way."""
PARALLEL = 4e-4
"""Lines that differ by less than this angle go the same way."""
UPRIGHT = 0.7
"""A member whose axis makes less than this cosine with the normal of a surface is no column of it."""


@dataclass(frozen=True)
class Seen:
    """A surface as its lattice sees it: index; origin (3,) and directions along and across (2, 3), global."""

    index: int
    outline: Outline
    origin: Floats
    ways: Floats

    def flat(self, points: Floats) -> Floats:
        """Points (n, 3) in coordinates of the lattice (n, 2)."""
        return np.round((np.asarray(points, float).reshape(-1, 3) - self.origin) @ self.ways.T, DECIMALS)

    def solid(self, flat: Floats) -> Floats:
        """The reverse."""
        return np.asarray(self.origin + flat @ self.ways)

    def near(self, points: Floats) -> NDArray[np.bool_]:
        """Which points (n, 3) lie in its plane and on it."""
        off = np.abs((points - self.origin) @ self.outline.normal) <= ON_LINE_TOLERANCE
        out = off.copy()
        flat = self.outline.flat(points[off])
        out[off] = shapely.dwithin(self.outline.polygon, shapely.points(flat), ON_LINE_TOLERANCE)
        return out


@dataclass(frozen=True)
class Footprint:
    """What a column covers of a surface: its node, or -1 where it passes through between nodes, its place (3,), and
    four corners (4, 3)."""

    node: int
    at: Floats
    corners: Floats


@dataclass(frozen=True)
class Cut:
    """A region with where its lattice has lines along and across, and the points on its oblique lines."""

    seen: Seen
    region: Region
    along: Floats
    across: Floats
    on_lines: list[Floats]
    footprints: list[Footprint]


def edges_of(outline: Outline) -> Floats:
    """All straight edges (n, 2, 3) of a surface, those of its outer corners first, in the order they were written."""
    rings = [outline.polygon.exterior, *outline.polygon.interiors]
    loops = [outline.solid(np.array(r.coords)) for r in rings]
    return np.concatenate([np.stack([p[:-1], p[1:]], axis=1) for p in loops])


def seen_from(index: int, outline: Outline, lines: Floats) -> Seen:
    """The lattice's directions: those that most of the length of its lines goes along or across."""
    corners = np.array(outline.surface.corners)
    written = np.stack([corners, np.roll(corners, -1, axis=0)], axis=1)
    every = np.concatenate([written, lines])
    step = outline.flat(every[:, 1]) - outline.flat(every[:, 0])
    length = np.linalg.norm(step, axis=1)
    every, step, length = (v[length > ON_LINE_TOLERANCE] for v in (every, step, length))
    angle = np.arctan2(step[:, 1], step[:, 0]) % (np.pi / 2)
    apart = np.abs(angle[:, None] - angle)
    same = np.minimum(apart, np.pi / 2 - apart) < PARALLEL
    total = (same * length).sum(axis=1)
    first = int(np.flatnonzero(total > total.max() * (1 - 1e-6))[0])
    # The mean of all that go nearly that way: where coordinates are rounded, the others were oblique to the first.
    more = (angle - angle[first] + np.pi / 4) % (np.pi / 2) - np.pi / 4
    turn = float((more * length)[same[first]].sum() / length[same[first]].sum())
    along = step[first] / length[first]
    along = np.array([along[0] - turn * along[1], along[1] + turn * along[0]]) / np.hypot(1.0, turn)
    across = np.array([-along[1], along[0]])
    start = outline.flat(every[first, 0])[0]
    # Towards the inside, whichever way round the corners are: a mirrored surface is cut into mirrored elements.
    inside = shapely.get_coordinates(outline.polygon.centroid)[0] - start
    if inside @ across < -1e-9:
        across = -across
    ways = np.stack([along, across]) @ outline.axes[:2]
    origin = corners[0] - outline.normal * outline.height(corners[:1])[0]
    return Seen(index, outline, np.asarray(origin), ways)


def lines_in(project: Project, seen: Outline, index: int, outlines: Mapping[int, Outline]) -> Floats:
    """Lines (n, 2, 3) in a surface's plane that are no edges of its own: members that they
    hold, supports along lines, edges of other surfaces."""
    ends = project.xyz[project.ends]
    all_along = np.array([m.along_surfaces for m in project.members], bool)
    along = [np.array(s.points) for s in project.line_supports]
    supports = np.array([pair for p in along for pair in pairwise(p)]).reshape(-1, 2, 3)
    others = [edges_of(o) for i, o in outlines.items() if i != index]
    every = np.concatenate([ends[all_along].reshape(-1, 2, 3), supports, *others])
    off = np.abs(np.stack([seen.height(every[:, 0]), seen.height(every[:, 1])])).max(axis=0, initial=0.0)
    flat = np.stack([seen.flat(every[:, 0]), seen.flat(every[:, 1])], axis=1)
    meets = (
        shapely.dwithin(seen.polygon, shapely.linestrings(flat), ON_LINE_TOLERANCE) if len(flat) else np.zeros(0, bool)
    )
    return np.asarray(every[(off <= ON_LINE_TOLERANCE) & meets])


def points_in(project: Project, seen: Outline) -> Floats:
    """Points (n, 3) of a surface where something is: nodes, and members that pass through it."""
    flat = seen.flat(project.xyz)
    there = (np.abs(seen.height(project.xyz)) <= ON_LINE_TOLERANCE) & shapely.dwithin(
        seen.polygon, shapely.points(flat), ON_LINE_TOLERANCE
    )
    out = [project.xyz[there]]
    bends = np.array([not m.bar for m in project.members], bool)
    ends = project.xyz[project.ends[bends]].reshape(-1, 2, 3)
    low, high = seen.height(ends[:, 0]), seen.height(ends[:, 1])
    through = (np.minimum(low, high) < -ON_LINE_TOLERANCE) & (np.maximum(low, high) > ON_LINE_TOLERANCE)
    t = (low / np.where(through, low - high, 1.0))[through, None]
    at = ends[through, 0] * (1 - t) + ends[through, 1] * t
    inside = shapely.dwithin(seen.polygon, shapely.points(seen.flat(at)), ON_LINE_TOLERANCE)
    out.append(at[inside])
    return np.concatenate(out)


def noded(polygon: shapely.Polygon, lines: Floats, points: Floats) -> tuple[Floats, Floats]:
    """Lines (n, 2, 2) and points (k, 2) with what is within a millimetre at one place: lines end wherever another or a
    point lies on them, each piece once, those in the polygon alone."""
    every = np.concatenate([points, lines.reshape(-1, 2)])
    group = together(every, ON_LINE_TOLERANCE)
    first = np.unique(group, return_index=True)[1]
    at = every[first[group]]
    special = every[first]
    chained = []
    for a, b in at[len(points) :].reshape(-1, 2, 2):
        length = float(np.linalg.norm(b - a))
        if length <= ON_LINE_TOLERANCE:
            continue
        x = (b - a) / length
        s = (special - a) @ x
        off = np.abs((special - a) @ np.array([-x[1], x[0]]))
        on = (off <= ON_LINE_TOLERANCE) & (s > ON_LINE_TOLERANCE) & (s < length - ON_LINE_TOLERANCE)
        chain = np.concatenate([[a], special[on][np.argsort(s[on])], [b]])
        chained += list(pairwise(chain))
    union = shapely.get_parts(shapely.unary_union(shapely.MultiLineString(chained)))
    pieces = np.array([pair for line in union for pair in pairwise(shapely.get_coordinates(line))])
    middle = shapely.points(pieces.mean(axis=1))
    pieces = pieces[shapely.dwithin(polygon, middle, ON_LINE_TOLERANCE)]
    pieces = pieces[np.linalg.norm(pieces[:, 1] - pieces[:, 0], axis=1) > 1e-6]
    return pieces, at[: len(points)]


def mesh_length(polygon: shapely.Polygon, lines: Floats, points: Floats) -> float:
    """From the widest circle in the region that no line crosses and that holds no point [m]; no less than a share of
    the side of a square of its area."""
    size = float(np.sqrt(polygon.area))
    parted = polygon
    if len(lines):
        parted = parted.difference(shapely.MultiLineString(list(lines)).buffer(1e-4 * size))
    if len(points):
        parted = parted.difference(shapely.MultiPoint(points).buffer(1e-4 * size))
    widest = [shapely.maximum_inscribed_circle(p, tolerance=1e-3 * size).length for p in shapely.get_parts(parted)]
    return max(2 * max(widest, default=size) / DIVISIONS, size / FINEST)


def cut_regions(
    project: Project, outlines: Mapping[int, Outline], footprints: Mapping[int, Sequence[Footprint]], finer: float = 1.0
) -> list[Cut]:
    """The structural surfaces of a project ready to be meshed, with lengths of mesh divided by `finer`. Raises NoMesh
    where these are too many elements."""
    seen, regions = [], []
    count = 0.0
    for i, outline in outlines.items():
        lines, points = lines_in(project, outline, i, outlines), points_in(project, outline)
        one = seen_from(i, outline, lines)
        plate = outline.surface.plate
        assert plate is not None
        covered = [np.stack([f.corners, np.roll(f.corners, -1, axis=0)], axis=1) for f in footprints.get(i, ())]
        inner = np.concatenate([lines, np.zeros((0, 2, 3))])
        flat = np.stack([one.flat(inner[:, 0]), one.flat(inner[:, 1])], axis=1)
        polygon = _flat_polygon(one)
        length = plate.mesh or mesh_length(polygon, flat, one.flat(points))
        count += float(polygon.area) * (finer / length) ** 2
        if count > MOST_ELEMENTS:
            raise NoMesh(f"with {outline.surface.name} there are {count:,.0f} elements, more than {MOST_ELEMENTS:,}")
        every = np.concatenate([edges_of(outline), inner, *covered])
        flat = np.stack([one.flat(every[:, 0]), one.flat(every[:, 1])], axis=1)
        seen.append(one)
        regions.append(Region(polygon, *noded(polygon, flat, one.flat(points)), length / finer))
    regions = _with_common_points(seen, regions)
    return [
        Cut(s, r, *places, list(footprints.get(s.index, ())))
        for s, r, places in zip(seen, regions, divided_alike(_solid(seen, regions), regions), strict=True)
    ]


def _flat_polygon(seen: Seen) -> shapely.Polygon:
    rings = [seen.outline.polygon.exterior, *seen.outline.polygon.interiors]
    outer, *holes = [seen.flat(seen.outline.solid(np.array(r.coords))) for r in rings]
    return shapely.Polygon(outer, holes)


def _solid(seen: Sequence[Seen], regions: Sequence[Region]) -> list[Floats]:
    """The ends of every region's lines in space (2 lines, 3)."""
    return [s.solid(r.lines.reshape(-1, 2)) for s, r in zip(seen, regions, strict=True)]


def _with_common_points(seen: Sequence[Seen], regions: Sequence[Region]) -> list[Region]:
    """With every line ending wherever a line of another region ends on it."""
    out = list(regions)
    for _ in range(PASSES):
        before = sum(len(r.lines) for r in out)
        solid = _solid(seen, out)
        for k, (one, region) in enumerate(zip(seen, out, strict=True)):
            others = np.concatenate([*(p for j, p in enumerate(solid) if j != k), np.zeros((0, 3))])
            near = one.flat(others[one.near(others)])
            if not len(near):
                continue
            on = shapely.dwithin(shapely.MultiLineString(list(region.lines)), shapely.points(near), ON_LINE_TOLERANCE)
            pieces, points = noded(region.polygon, region.lines, np.concatenate([region.points, near[on]]))
            out[k] = Region(region.polygon, pieces, points[: len(region.points)], region.length)
        if sum(len(r.lines) for r in out) == before:
            return out
    return out


def footprints_of(project: Project, outlines: Mapping[int, Outline]) -> dict[int, list[Footprint]]:
    """What columns cover of each surface: the box around their section, where it lies in the surface by all of itself
    or meets its edge."""
    out: dict[int, list[Footprint]] = {}
    for i, outline in outlines.items():
        plate = outline.surface.plate
        if plate is None or not plate.footprints or not project.members:
            continue
        upright = np.abs(project.axes[:, 0] @ outline.normal) > UPRIGHT
        ends = outline.height(project.xyz)[project.ends]
        meets = (ends.min(axis=1) <= ON_LINE_TOLERANCE) & (ends.max(axis=1) >= -ON_LINE_TOLERANCE)
        found: dict[tuple[float, ...], Footprint] = {}
        loop = outline.flat(np.array(outline.surface.corners))
        hinged = shapely.MultiLineString([loop[[k, (k + 1) % len(loop)]] for k in plate.hinged])
        for m in np.flatnonzero(upright & meets).tolist():
            member = project.members[m]
            if member.bar or not member.section.outline:
                continue
            low, high = ends[m]
            t = -low / (high - low)
            at = project.xyz[project.ends[m, 0]] * (1 - t) + project.xyz[project.ends[m, 1]] * t
            here = shapely.points(outline.flat(at))[0]
            if not shapely.dwithin(outline.polygon, here, ON_LINE_TOLERANCE):
                continue
            if shapely.dwithin(hinged, here, ON_LINE_TOLERANCE):
                continue  # a column there would hold what is free to turn
            box = _box(member.section.outline[0], project.axes[m], outline) + outline.flat(at)[0]
            there = shapely.Polygon(box).intersection(outline.polygon)
            if not isinstance(there, shapely.Polygon) or there.area < 1e-8:
                continue
            corners = shapely.get_coordinates(shapely.normalize(there).simplify(1e-9))[:-1]
            gap = np.linalg.norm(project.xyz - at, axis=1)
            node = int(gap.argmin()) if gap.min() <= ON_LINE_TOLERANCE else -1
            key = tuple(np.round(at, 3).tolist())
            before = found.get(key)
            if before is None or shapely.Polygon(outline.flat(before.corners)).area < there.area:
                found[key] = Footprint(node, at, outline.solid(corners))
        if found:
            out[i] = list(found.values())
    return out


def _box(loop: Floats, axes: Floats, outline: Outline) -> Floats:
    """The corners (4, 2) of the box around a section's outline, as the surface sees it."""
    (y0, z0), (y1, z1) = loop.min(axis=0), loop.max(axis=0)
    corners = np.array([[y0, z0], [y1, z0], [y1, z1], [y0, z1]])
    return np.asarray((corners @ axes[1:]) @ outline.axes[:2].T)
