"""Structural surfaces cut into elements and joined with the frame: one numbering of nodes, the project's own first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ...model.findings import Finding
from ...model.frame import ON_LINE_TOLERANCE, Node, Support
from ...model.near import on_lines
from ...model.plates import ElementGroup, Hinges, Plates
from ...model.project import Project
from ..plane import Outline, plane_of
from .lattice import SAME, Elements, NoMesh, meshed
from .regions import Cut, Seen, cut_regions, footprints_of
from .settled import settled
from .shapes import rule_of, shapes

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
NEAR_AXIS, HAIR, BESIDE = 2.5 * ON_LINE_TOLERANCE, 0.1 * ON_LINE_TOLERANCE, 5 * ON_LINE_TOLERANCE
"""So far [m] from a line the corner of an element may be that follows it; what is nearer than a hair stays; and so near
to each other along the line two corners are beside one another."""
STRAIGHT = 1e-3
"""Edges that differ by less than this angle are one line."""


def plates_of(
    project: Project, outlines: Mapping[int, Outline], finer: float = 1.0
) -> tuple[Plates | None, list[Finding]]:
    """The elements of the structural surfaces among some outlines (by their index), and what is wrong with those that
    cannot be cut. `finer`: how many times as fine as the model asks."""
    structural = {i: o for i, o in outlines.items() if o.surface.plate is not None}
    if not structural:
        return None, []
    try:
        cuts = cut_regions(project, structural, footprints_of(project, structural), finer)
    except NoMesh as error:
        place = next(iter(structural.values())).surface.place
        return None, [Finding("error", "no-mesh", f"structural surfaces cannot be cut into elements: {error}",
                              "give them a larger `mesh`, or part the model", place)]  # fmt: skip
    done: list[tuple[Cut, Elements]] = []
    findings = []
    for cut in cuts:
        try:
            done.append((cut, meshed(cut.region, cut.along, cut.across, cut.on_lines)))
        except NoMesh as error:
            surface = cut.seen.outline.surface
            findings.append(Finding("error", "no-mesh", f"surface {surface.name} cannot be cut into elements: {error}",
                                    "give it a finer `mesh`, or part it", surface.place))  # fmt: skip
    return _numbered(project, done), findings


def with_plates(project: Project, finer: float = 1.0) -> tuple[Project, list[Finding]]:
    """The project with the elements of its structural surfaces, and what is wrong with those that cannot be cut."""
    if not any(s.plate is not None for s in project.surfaces):
        return project, []
    project = settled(project)
    found = {i: plane_of(s)[0] for i, s in enumerate(project.surfaces)}
    plates, findings = plates_of(project, {i: o for i, o in found.items() if o is not None}, finer)
    return replace(project, plates=plates), findings


def _numbered(project: Project, done: list[tuple[Cut, Elements]]) -> Plates:
    at = [cut.seen.solid(e.at) for cut, e in done]
    every = np.concatenate([*at, np.zeros((0, 3))])
    of = np.repeat(np.arange(len(at)), [len(a) for a in at])
    number = np.full(len(every), -1, np.intp)
    first = len(project.nodes)
    if first:
        gap, nearest = cKDTree(project.xyz).query(every, distance_upper_bound=ON_LINE_TOLERANCE * (1 + 1e-6))
        number[np.isfinite(gap)] = nearest[np.isfinite(gap)]
    new = np.flatnonzero(number < 0)
    group = _groups(every[new])
    own = np.unique(group, return_index=True)[1]
    number[new] = first + group
    surfaces = len(project.surfaces)
    axes, origin, length = np.tile(np.eye(3), (surfaces, 1, 1)), np.zeros((surfaces, 3)), np.zeros(surfaces)
    parts: dict[int, list[ElementGroup]] = {3: [], 4: []}
    edges, tied = [np.zeros((0, 2), np.intp)], [np.zeros((0, 2), np.intp)]
    seen = [done[k][0].seen for k in of[new][own].tolist()]
    places = _on_axes(project, np.concatenate([project.xyz, every[new][own]]), seen)
    start = np.cumsum([0, *map(len, at)])
    hinges: list[Hinges] = []
    for k, (cut, elements) in enumerate(done):
        i, outline = cut.seen.index, cut.seen.outline
        axes[i], origin[i], length[i] = own_axes(outline), cut.seen.origin, cut.region.length
        mine = number[start[k] : start[k + 1]]
        along, hinge = _hinged(cut, elements, mine, len(places))
        if len(along):
            mine[along] = hinge.node
            places, seen = np.concatenate([places, places[hinge.other]]), seen + [cut.seen] * len(along)
            hinges.append(hinge)
        # Corners are where their nodes are, as the surface's plane sees them, so that loads are where their nodes are.
        at[k] = places[mine] - np.outer((places[mine] - origin[i]) @ outline.normal, outline.normal)
        flat = (at[k] - origin[i]) @ axes[i, :2].T
        turned = np.linalg.det(np.vstack([cut.seen.ways, outline.normal])) < 0
        for corners in (elements.triangles, elements.quadrilaterals):
            around = corners[:, ::-1] if turned else corners
            node = mine[around]
            arm = at[k][around] - places[node]
            arm[np.abs(arm) < 1e-9] = 0.0
            plate = outline.surface.plate
            arm += (plate.raised if plate is not None else 0.0) * outline.normal
            parts[corners.shape[1]].append(ElementGroup(node, flat[around], arm, np.full(len(node), i)))
        edges.append(mine[_edges_between(cut, elements)])
        tied.append(_tied(cut, elements, mine, hinge.node, project))
    groups = _one(parts[3], 3), _one(parts[4], 4)
    whole, same = _as_one(_joined_hinges(hinges), groups, len(places))
    groups = replace(groups[0], node=same[groups[0].node]), replace(groups[1], node=same[groups[1].node])
    every_edge = np.unique(np.sort(same[np.concatenate(edges)], axis=1), axis=0)
    return Plates(
        first, places[first:], np.array([v.index for v in seen], np.intp), *groups, axes, origin, every_edge, length,
        np.concatenate(tied), whole,
    )  # fmt: skip


def _hinged(cut: Cut, elements: Elements, mine: Ints, first: int) -> tuple[Ints, Hinges]:
    """The corners of elements (n,) on hinged edges, with nodes of their own from a first number on."""
    outline = cut.seen.outline
    plate, corners = outline.surface.plate, np.array(outline.surface.corners)
    turned = np.full((len(elements.at), 3), np.nan)
    both = np.zeros(len(elements.at), bool)
    for edge in plate.hinged if plate is not None else ():
        ends = corners[[edge, (edge + 1) % len(corners)]]
        way = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
        line = shapely.LineString(cut.seen.flat(ends))
        on = shapely.dwithin(line, shapely.points(elements.at), ON_LINE_TOLERANCE)
        both |= on & (np.linalg.norm(np.cross(turned, way), axis=1) > STRAIGHT)
        turned[on] = way
    along = np.flatnonzero(~np.isnan(turned[:, 0]))
    x = turned[along] - np.outer(turned[along] @ outline.normal, outline.normal)
    x /= np.linalg.norm(x, axis=1)[:, None]
    normal = np.broadcast_to(outline.normal, x.shape)
    own = np.stack([x, np.cross(normal, x), normal], axis=1)
    return along, Hinges(first + np.arange(len(along)), mine[along].copy(), own, both[along])


def _joined_hinges(hinges: Sequence[Hinges]) -> Hinges:
    none = Hinges(np.zeros(0, np.intp), np.zeros(0, np.intp), np.zeros((0, 3, 3)), np.zeros(0, bool))
    every = [none, *hinges]
    return Hinges(*(np.concatenate([getattr(h, f) for h in every]) for f in ("node", "other", "axes", "both")))


def _as_one(hinges: Hinges, groups: Sequence[ElementGroup], nodes: int) -> tuple[Hinges, Ints]:
    """Surfaces that are joined along a line which ends on an edge along which both are hinged turn there as one: their
    hinges without those that others stand for, and the node (nodes,) that stands for each."""
    same = np.arange(nodes)
    several = np.flatnonzero(np.bincount(hinges.other, minlength=nodes) > 1)
    if not len(several):
        return hinges, same
    own = np.zeros(nodes, bool)
    own[hinges.node] = True
    beside: dict[int, set[int]] = {}
    for node in hinges.node[np.isin(hinges.other, several)].tolist():
        around = [g.node[(g.node == node).any(axis=1)].ravel() for g in groups]
        beside[node] = set(np.concatenate(around)[~own[np.concatenate(around)]].tolist())
    kept = np.ones(len(hinges.node), bool)
    for other in several.tolist():
        here = np.flatnonzero(hinges.other == other).tolist()
        for k, b in enumerate(here):
            for a in here[:k]:
                flat = abs(float(hinges.axes[a, 2] @ hinges.axes[b, 2])) > 1 - STRAIGHT**2
                # A line that they share goes on from here: elements of both are beside a node of neither's edge.
                if kept[a] and flat and beside[int(hinges.node[a])] & beside[int(hinges.node[b])]:
                    same[hinges.node[b]], kept[b] = hinges.node[a], False
                    turned = float(np.linalg.norm(np.cross(hinges.axes[a, 0], hinges.axes[b, 0]))) > STRAIGHT
                    hinges.both[a] |= hinges.both[b] or turned
                    break
    left = Hinges(hinges.node[kept], hinges.other[kept], hinges.axes[kept], hinges.both[kept])
    return left, same


def _groups(points: Floats) -> Ints:
    """Numbers of points (n, 3), the same for those at one place, in the order of the first of each."""
    if not len(points):
        return np.zeros(0, np.intp)
    from ...model.near import together

    return together(points, SAME)


def _on_axes(project: Project, places: Floats, seen: Sequence[Seen]) -> Floats:
    """Places of nodes, the project's first, with those of further ones (of surfaces `seen`, one each) that follow a
    member or a line of support, but lie a hair off it, moved onto it: where coordinates are rounded, each of them is
    joined with it all the same. What lies beside others that are on the line, or on a line that runs past the surface,
    stays."""
    held = np.array([m.along_surfaces for m in project.members], bool)
    supports = [pair for s in project.line_supports for pair in pairwise(np.array(s.points))]
    lines = np.concatenate([project.xyz[project.ends[held]].reshape(-1, 2, 3), np.array(supports).reshape(-1, 2, 3)])
    number = len(places) + np.arange(2 * len(lines)).reshape(-1, 2)
    line, node, s = on_lines(np.concatenate([places, lines.reshape(-1, 3)]), number, NEAR_AXIS)
    further = (node >= len(project.nodes)) & (node < len(places))
    line, node, s = line[further], node[further], s[further]
    step = lines[line, 1] - lines[line, 0]
    there = lines[line, 0] + step * (s / np.linalg.norm(step, axis=1))[:, None]
    off = np.linalg.norm(places[node] - there, axis=1)
    near = off <= ON_LINE_TOLERANCE
    moved = near & (off > HAIR)
    for i in np.flatnonzero(~near).tolist():
        beside = near & (line == line[i]) & (np.abs(s - s[i]) < BESIDE)
        moved[i] = not beside.any() and bool(seen[node[i] - len(project.nodes)].near(there[i : i + 1])[0])
    order = np.flatnonzero(moved)[np.argsort(off[moved], kind="stable")]
    which, first = np.unique(node[order], return_index=True)
    out = places.copy()
    out[which] = there[order[first]]
    return out


def _one(parts: list[ElementGroup], corners: int) -> ElementGroup:
    none = ElementGroup(np.zeros((0, corners), np.intp), np.zeros((0, corners, 2)), np.zeros((0, corners, 3)),
                        np.zeros(0, np.intp))  # fmt: skip
    every = [none, *parts]
    return ElementGroup(*(np.concatenate([getattr(g, f) for g in every]) for f in ("node", "flat", "arm", "surface")))


def own_axes(outline: Outline) -> Floats:
    """Rows x y n of a structural surface's own axes: x along what it says, else level."""
    plate = outline.surface.plate
    if plate is None or plate.along is None:
        return outline.axes
    way = np.array(plate.along) - outline.normal * (outline.normal @ np.array(plate.along))
    x = way / np.linalg.norm(way)
    return np.array([x, np.cross(outline.normal, x), outline.normal])


def _edges_between(cut: Cut, elements: Elements) -> Ints:
    """Pairs of corners (n, 2) on the region's lines."""
    side = np.concatenate([np.stack([c, np.roll(c, -1, axis=1)], axis=2).reshape(-1, 2)
                           for c in (elements.triangles, elements.quadrilaterals)])  # fmt: skip
    side = np.unique(np.sort(side, axis=1), axis=0)
    lines = shapely.MultiLineString(list(cut.region.lines))
    shapely.prepare(lines)
    ends = shapely.points(elements.at)
    on = shapely.dwithin(lines, ends, 2 * SAME)
    side = side[on[side].all(axis=1)]
    middle = shapely.points(elements.at[side].mean(axis=1))
    return np.asarray(side[shapely.dwithin(lines, middle, 2 * SAME)])


def _tied(cut: Cut, elements: Elements, mine: Ints, apart: Ints, project: Project) -> Ints:
    """Pairs (n, 2) of a node in the footprint of a column, and the column's node; those `apart` stay."""
    out = [np.zeros((0, 2), np.intp)]
    for footprint in cut.footprints:
        corners = cut.seen.flat(footprint.corners)
        inside = shapely.dwithin(shapely.Polygon(corners), shapely.points(elements.at), SAME)
        leader = footprint.node
        if leader < 0:
            leader = int(mine[np.linalg.norm(elements.at - cut.seen.flat(footprint.at), axis=1).argmin()])
        nodes = np.unique(mine[inside])
        nodes = nodes[(nodes != leader) & (nodes >= len(project.nodes)) & ~np.isin(nodes, apart)]
        out.append(np.column_stack([nodes, np.full(len(nodes), leader)]))
    return np.concatenate(out)


def with_plate_nodes(project: Project) -> Project:
    """The project as it is analysed: with the further nodes of its structural surfaces after its own, and supports
    along lines as supports of nodes."""
    plates = project.plates
    if plates is None or len(project.nodes) != plates.first:
        return project
    names = [project.surfaces[i] for i in plates.made_for.tolist()]
    nodes = [
        Node(f"{s.name} at ({x:.4g}, {y:.4g}, {z:.4g}) m", (x, y, z), s.place)
        for s, (x, y, z) in zip(names, plates.xyz.tolist(), strict=True)
    ]
    whole = replace(project, nodes=(*project.nodes, *nodes))
    return replace(whole, supports=(*project.supports, *line_supports(whole), *bed_supports(whole)))


def line_supports(project: Project) -> list[Support]:
    """Supports along lines as supports of the nodes on them, of a project with all its nodes; springs by the length
    that each node stands for."""
    out = []
    used = project.plates.joints if project.plates else np.zeros(0, np.intp)
    for support in project.line_supports:
        for node, length in nodes_along(project, np.array(support.points), used):
            spring = tuple(v * length for v in support.spring)
            out.append(Support(node, support.held, support.place, spring, support.lift, support.axes))  # type: ignore[arg-type]
    return out


def bed_supports(project: Project) -> list[Support]:
    """The ground under surfaces as springs of their nodes, by the area that each node stands for."""
    out = []
    for i, surface in enumerate(project.surfaces):
        plate = surface.plate
        if plate is None or not plate.bed:
            continue
        for node, area in areas_of_nodes(project, i):
            spring = (0.0, 0.0, plate.bed * area, 0.0, 0.0, 0.0)
            out.append(Support(node, (False,) * 6, surface.place, spring, plate.lift))
    return out


def areas_of_nodes(project: Project, surface: int) -> list[tuple[int, float]]:
    """The nodes by which a structural surface meets its bed, with the area [m2] that each stands for."""
    total: dict[int, float] = {}
    for group in project.plates.groups if project.plates is not None else ():
        mine = np.flatnonzero(group.surface == surface)
        if not len(mine):
            continue
        at, weight = rule_of(group.flat[mine])
        N = shapes(group.node.shape[1], at)[0]
        assert project.plates is not None
        nodes = project.plates.hinges.others(group.node[mine].ravel())
        for node, area in zip(nodes.tolist(), (weight @ N).ravel().tolist(), strict=True):
            total[node] = total.get(node, 0.0) + area
    return sorted(total.items())


def nodes_along(project: Project, points: Floats, among: Ints) -> list[tuple[int, float]]:
    """The nodes on lines through points (n, 3), in order, with the length [m] each stands for."""
    length: dict[int, float] = {}
    xyz = project.xyz[among]
    for a, b in pairwise(points):
        size = float(np.linalg.norm(b - a))
        s = (xyz - a) @ (b - a) / size
        off = np.linalg.norm(xyz - a - s[:, None] * (b - a) / size, axis=1)
        on = np.flatnonzero((off <= ON_LINE_TOLERANCE) & (s >= -ON_LINE_TOLERANCE) & (s <= size + ON_LINE_TOLERANCE))
        on = on[np.argsort(s[on], kind="stable")]
        half = np.diff(s[on], prepend=0.0, append=size)
        half[1:-1] /= 2
        # Half of each interval goes to both of its ends, what is left beyond the outermost nodes to these.
        for k, i in enumerate(on.tolist()):
            node = int(among[i])
            length[node] = length.get(node, 0.0) + float(half[k] + half[k + 1])
    return list(length.items())
