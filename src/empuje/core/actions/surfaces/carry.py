"""From loads on one surface to what members and nodes receive: the geometry once, then every load on it."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.frame import ON_LINE_TOLERANCE
from ...model.project import Project
from ...model.surfaces import SHORT, TWO_WAY
from .bays import Bays, deck_of_bay, find_bays
from .concentrated import cuts_of_line, direct, directions, lever, line_parts, place_on, two_ways
from .fit import AT, SHARE, linear_pieces
from .one_way import NOWHERE, Cells, Strips, lay_strips, load_cells, shares
from .outline import Bearings, Outline, bearings_of
from .received import Received
from .two_way import Heights, Reach, fans, is_plain, plain_heights, reaches

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FAR = 1e4


@dataclass(frozen=True)
class Laid:
    """A surface with its bearings; everything else follows from these."""

    project: Project
    outline: Outline
    bearings: Bearings

    @cached_property
    def bays(self) -> Bays:
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
        return self.project.lengths[self.bearings.member]

    @cached_property
    def edges(self) -> list[tuple[Floats, Ints]]:
        """Of every bay its bearing edges (n, 2, 2) and the bearings (n,) they lie on."""
        return _edges_of(self.bays, self.bearings)

    @cached_property
    def plain(self) -> list[Plain]:
        return _plain_bays(self.edges)


def lay_out(project: Project, outline: Outline) -> Laid:
    return Laid(project, outline, bearings_of(outline, project))


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


def carry_area(laid: Laid, loaded: shapely.Geometry, field: Floats, whole: bool, known: dict) -> Received:
    """A pressure field . (1, u, v) [N/m2] over a loaded part of the surface, or all of it."""
    out = Received()
    if laid.outline.surface.carry == "nodes":
        _to_nodes(laid, loaded, field, out)
    elif laid.outline.surface.deck == TWO_WAY:
        _two_way(laid, loaded, field, whole, out)
    else:
        key = loaded.wkb
        if key not in known:
            known[key] = _cells(laid, loaded, whole)
        for strips, cells, bay in known[key]:
            _one_way(laid, strips, cells, bay, field, out)
    return out


def _cells(laid: Laid, loaded: shapely.Geometry, whole: bool) -> list[tuple[Strips, Cells, Ints]]:
    out = []
    for region, way in laid.decks:
        part = region if whole else shapely.intersection(loaded, region)
        if shapely.area(part) == 0:
            continue
        strips = lay_strips(region, laid.bearings, way, [] if whole else [part])
        cells = load_cells(strips, part)
        out.append((strips, cells, laid.bays.at(_middles(strips, cells))))
    return out


def _middles(strips: Strips, cells: Cells) -> Floats:
    p = (cells.begin + cells.end).mean(axis=1) / 2
    return np.column_stack([p, cells.q.mean(axis=1)]) @ strips.turn


def _one_way(laid: Laid, strips: Strips, cells: Cells, bay: Ints, field: Floats, out: Received) -> None:
    turned = np.concatenate([field[:1], strips.turn @ field[1:]])
    held = np.flatnonzero(cells.near != NOWHERE)
    which, far = np.tile(held, 2), np.repeat([False, True], len(held))
    crossing = np.where(far, cells.far[which], cells.near[which])
    bearing = strips.on.index[crossing]

    def value(i: Ints, x: Floats) -> Floats:
        return shares(cells, strips, turned, which[i], far[i], x)

    piece, x0, x1, f0, f1 = linear_pieces(value, len(which))
    on, cell = bearing[piece], which[piece]
    ends = laid.bearings.ends[on] @ strips.turn.T
    q = cells.q[cell, :1] + np.column_stack([x0, x1]) * np.diff(cells.q[cell], axis=1)
    speed = (laid.bearings.s[on, 1] - laid.bearings.s[on, 0]) / (ends[:, 1, 1] - ends[:, 0, 1])
    s = laid.bearings.s[on, :1] + (q - ends[:, 0, 1:]) * speed[:, None]
    f = np.column_stack([f0, f1]) / np.abs(speed)[:, None]
    out.line(laid.bearings.member[on], s, f, laid.lengths[on], bay[cell], far[piece].astype(np.intp))
    gone = np.flatnonzero(cells.near == NOWHERE)
    if len(gone):
        out.lose(_cell_loads(cells, turned, gone), _middles(strips, cells)[gone])


def _cell_loads(cells: Cells, field: Floats, which: Ints) -> Floats:
    """The whole load of cells [N]."""
    x = AT[None]
    a, b, q = (v[which, :1] + x * np.diff(v[which], axis=1) for v in (cells.begin, cells.end, cells.q))
    w = field[0] + field[1] * (a + b) / 2 + field[2] * q
    return np.asarray((w * (b - a)) @ SHARE * np.diff(cells.q[which], axis=1)[:, 0])


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
    good = off <= ON_LINE_TOLERANCE
    edge, on, off = edge[good], on[good], off[good]
    order = np.lexsort((on, off, edge))
    edge, on = edge[order], on[order]
    first = np.unique(edge, return_index=True)[1]
    bearing = np.full(len(edges), NOWHERE)
    bearing[edge[first]] = on[first]
    starts = np.searchsorted(bay, np.arange(len(bays.polygons) + 1))
    out = [(edges[a:b], bearing[a:b]) for a, b in itertools.pairwise(starts)]
    for k, more, index in _inner(bays, bearings, lines):
        out[k] = np.concatenate([out[k][0], more]), np.append(out[k][1], [index] * len(more))
    return out


def _inner(bays: Bays, bearings: Bearings, lines: NDArray) -> list[tuple[int, Floats, int]]:
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


@dataclass(frozen=True)
class Plain:
    """Convex bays (n,) with as many edges each, all of which bear: edges (n, m, 2, 2) counter-clockwise, the bearings
    (n m,) they lie on, and how high each one's part of the bay reaches."""

    bays: Ints
    edges: Floats
    bearing: Ints
    heights: Heights


def _plain_bays(edges_of: list[tuple[Floats, Ints]]) -> list[Plain]:
    groups: dict[int, list[tuple[int, Floats, Ints]]] = {}
    for k, (edges, bearing) in enumerate(edges_of):
        closed = len(edges) > 2 and (edges[:-1, 1] == edges[1:, 0]).all() and (edges[-1, 1] == edges[0, 0]).all()
        if not closed or (bearing == NOWHERE).any():
            continue
        (x, y), (xe, ye) = edges[:, 0].T, edges[:, 1].T
        if (x * ye - y * xe).sum() < 0:
            edges, bearing = edges[::-1, ::-1], bearing[::-1]
        if is_plain(edges):
            groups.setdefault(len(edges), []).append((k, edges, bearing))
    out = []
    for group in groups.values():
        bays, edges, bearings = zip(*group, strict=True)
        stack = np.stack(edges)
        out.append(Plain(np.array(bays), stack, np.concatenate(bearings), plain_heights(stack)))
    return out


def _two_way(laid: Laid, loaded: shapely.Geometry, field: Floats, whole: bool, out: Received) -> None:
    other = np.ones(len(laid.bays.polygons), bool)
    if whole:
        for plain in laid.plain:
            other[plain.bays] = False
            _on_plain_bays(laid, plain, field, out)
    for k in np.flatnonzero(other):
        part = laid.bays.polygons[k] if whole else shapely.intersection(loaded, laid.bays.polygons[k])
        if shapely.area(part) > 0:
            _any_bay(laid, int(k), part, field, out)


def _on_plain_bays(laid: Laid, plain: Plain, field: Floats, out: Received) -> None:
    found, bearing = plain.heights, plain.bearing
    flat = plain.edges.reshape(-1, 2, 2)
    step = flat[:, 1] - flat[:, 0]
    way = step / np.linalg.norm(step, axis=1)[:, None]
    inward = np.column_stack([-way[:, 1], way[:, 0]])

    def value(i: Ints, x: Floats) -> Floats:
        e = found.edge[i]
        s, t = (v[i, :1] + x * np.diff(v[i], axis=1) for v in (found.s, found.height))
        middle = flat[e, 0][:, None] + s[..., None] * way[e][:, None] + (t / 2)[..., None] * inward[e][:, None]
        return np.asarray(t * (field[0] + middle @ field[1:]))

    piece, x0, x1, f0, f1 = linear_pieces(value, len(found.edge))
    e = found.edge[piece]
    s = found.s[piece, :1] + np.column_stack([x0, x1]) * np.diff(found.s[piece], axis=1)
    numbers = np.repeat(laid.bays.number[plain.bays], plain.edges.shape[1])
    _on_edges(laid, bearing[e], flat[e, 0], way[e], s, np.column_stack([f0, f1]), numbers[e], e, out)


def _on_edges(
    laid: Laid, bearing: Ints, origin: Floats, way: Floats, s: Floats, f: Floats, bay: Ints, role: Ints, out: Received
) -> None:
    """Line loads along edges of bays on the members they lie on."""
    a, b = laid.bearings.ends[bearing, 0], laid.bearings.ends[bearing, 1]
    step = (b - a) / np.einsum("ni,ni->n", b - a, b - a)[:, None]
    length = laid.bearings.s[bearing, 1] - laid.bearings.s[bearing, 0]
    speed = np.einsum("ni,ni->n", way, step) * length
    start = np.einsum("ni,ni->n", origin - a, step) * length
    out.line(laid.bearings.member[bearing], start[:, None] + s * speed[:, None], f / np.abs(speed)[:, None],
             laid.lengths[bearing], bay, role)  # fmt: skip


def _any_bay(laid: Laid, k: int, part: shapely.Geometry, field: Floats, out: Received) -> None:
    """A bay of any shape, or a part of one that is loaded."""
    edges, bearing = laid.edges[k]
    held = bearing != NOWHERE
    edges, bearing = edges[held], bearing[held]
    number = int(laid.bays.number[k])
    if not len(edges):
        centre = shapely.get_coordinates(shapely.centroid(part))
        out.lose(np.array([load_on(part, field)]), centre)
        return
    found = reaches(edges, part)
    pieces = [(r, a, b) for r in found for a, b in zip(r.s, r.s[1:], strict=False)]

    def value(i: Ints, x: Floats) -> Floats:
        return np.array([_above(pieces[k], row, field) for k, row in zip(i, x, strict=True)])

    if pieces:
        piece, x0, x1, f0, f1 = linear_pieces(value, len(pieces))
        side = [pieces[i] for i in piece]
        s = np.array([[a + u * (b - a), a + v * (b - a)] for (_, a, b), u, v in zip(side, x0, x1, strict=True)])
        e = np.array([r.edge for r, _, _ in side])
        role = np.array([2 * r.edge + (r.across @ [-r.along[1], r.along[0]] > 0) for r, _, _ in side])
        _on_edges(laid, bearing[e], np.array([r.origin for r, _, _ in side]), np.array([r.along for r, _, _ in side]), s,
                  np.column_stack([f0, f1]), np.full(len(e), number), role, out)  # fmt: skip
    for e, end, force in fans(edges, part, field):
        s_at = place_on(laid.bearings, int(bearing[e]), edges[e, end])
        out.point(laid.bearings.member[bearing[e : e + 1]], np.array([s_at]), np.array([force]), np.array([number]))


def _above(piece: tuple[Reach, float, float], x: Floats, field: Floats) -> Floats:
    reach, a, b = piece
    return reach.load(a + x * (b - a), field)


def load_on(part: shapely.Geometry, field: Floats) -> float:
    """The whole of a linear pressure on a shape [N]: its area times the pressure at its centroid."""
    area = float(shapely.area(part))
    return area * float(field[0] + shapely.get_coordinates(shapely.centroid(part))[0] @ field[1:]) if area else 0.0


def nodes_on(laid: Laid) -> tuple[Ints, Floats]:
    """The nodes of members that lie on the surface, and their places (n, 2)."""
    project, outline = laid.project, laid.outline
    used = np.zeros(len(project.nodes), bool)
    used[project.ends.ravel()] = True
    flat = outline.flat(project.xyz)
    near = used & (np.abs(outline.height(project.xyz)) <= ON_LINE_TOLERANCE)
    found = np.flatnonzero(near)
    shape = outline.polygon.buffer(ON_LINE_TOLERANCE)
    found = found[shapely.intersects(shape, shapely.points(flat[found]))]
    return found, flat[found]


def _to_nodes(laid: Laid, loaded: shapely.Geometry, field: Floats, out: Received) -> None:
    """To every node the load of what is nearer to it than to any other."""
    node, flat = nodes_on(laid)
    if not len(node):
        out.lose(np.array([load_on(loaded, field)]), shapely.get_coordinates(shapely.centroid(loaded)))
        return
    cells = np.array([loaded])
    if len(node) > 1:
        found = shapely.get_parts(shapely.voronoi_polygons(shapely.multipoints(flat), extend_to=laid.outline.polygon))
        place, cell = shapely.STRtree(found).query(shapely.points(flat), predicate="intersects")
        cells = shapely.intersection(found[cell[np.argsort(place, kind="stable")]], loaded)
    force = np.array([load_on(c, field) for c in cells])
    some = force != 0
    out.nodes.append((node[some], force[some], np.zeros(int(some.sum()), np.intp)))


Shares = list[tuple[int, float, float]]


def _carrier(laid: Laid, strips: list[tuple[shapely.Geometry, Strips]]) -> Callable[[Floats], Shares]:
    """From a point to the bearings that carry a force there."""

    def carry(point: Floats) -> Shares:
        index = direct(laid.bearings, point[None])
        if index is not None:
            return [(index, place_on(laid.bearings, index, point), 1.0)]
        if laid.outline.surface.deck == TWO_WAY:
            k = laid.bays.tree.query(shapely.Point(point), predicate="intersects")
            return two_ways(laid.bays.polygons[int(k[0])], laid.bearings, point) if len(k) else []
        for region, there in strips:
            if shapely.dwithin(region, shapely.Point(point), ON_LINE_TOLERANCE):
                return lever(there, laid.bearings, point)
        return []

    return carry


def _all_strips(laid: Laid) -> list[tuple[shapely.Geometry, Strips]]:
    return [(region, lay_strips(region, laid.bearings, way, [])) for region, way in laid.decks]


def carry_force(laid: Laid, point: Floats, force: float) -> Received:
    """A force [N] at a point (2,)."""
    out = Received()
    if laid.outline.surface.carry == "nodes":
        _nearest_node(laid, point[None], np.array([force]), out)
        return out
    found = _carrier(laid, _all_strips(laid))(point)
    bay = laid.bays.at(point[None])
    if not found:
        out.lose(np.array([force]), point[None])
    for bearing, s, share in found:
        member = laid.bearings.member[bearing : bearing + 1]
        out.point(member, np.array([s]), np.array([share * force]), bay)
    return out


def _nearest_node(laid: Laid, points: Floats, forces: Floats, out: Received) -> None:
    node, flat = nodes_on(laid)
    if not len(node):
        out.lose(forces, points)
        return
    nearest = np.linalg.norm(points[:, None] - flat, axis=2).argmin(axis=1)
    out.nodes.append((node[nearest], forces, np.zeros(len(forces), np.intp)))


def carry_line(laid: Laid, ends: Floats, values: tuple[float, float]) -> Received:
    """A line of load [N/m] between two points (2, 2)."""
    out = Received()
    length = float(np.linalg.norm(ends[1] - ends[0]))
    if laid.outline.surface.carry == "nodes":
        return _line_to_nodes(laid, ends, values, out)
    strips = _all_strips(laid)
    rings = shapely.get_rings(laid.bays.polygons)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    lines = [np.stack([points[:-1][same], points[1:][same]], axis=1), laid.bearings.ends]
    for _, there in strips:  # where slabs end
        at = np.stack(
            [np.broadcast_to([-FAR, 0.0], (len(there.q), 2)), np.broadcast_to([FAR, 0.0], (len(there.q), 2))], 1
        )
        lines.append((at + np.stack([0 * there.q, there.q], axis=1)[:, None]) @ there.turn)
    if laid.outline.surface.deck == TWO_WAY:  # where a strip passes a corner
        for bay in laid.bays.polygons:
            corners = shapely.get_coordinates(bay)
            lines += [np.stack([corners - FAR * way, corners + FAR * way], axis=1) for way in directions(bay)]
    cuts = cuts_of_line(ends, np.concatenate(lines))
    on, lost = line_parts(ends, values, laid.bearings, laid.bays, cuts, _carrier(laid, strips))
    for o in on:
        member, bay = np.array([o.member]), np.array([o.bay])
        if o.s1 > o.s0:
            out.line(member, np.array([[o.s0, o.s1]]), np.array([[o.q0, o.q1]]),
                     laid.project.lengths[member], bay, np.zeros(1, np.intp))  # fmt: skip
        else:
            out.point(member, np.array([o.s0]), np.array([o.q0]), bay)
    if abs(lost) > 1e-9 * (abs(values[0]) + abs(values[1])) * length:
        out.lose(np.array([lost]), ends.mean(axis=0)[None])
    return out


def _line_to_nodes(laid: Laid, ends: Floats, values: tuple[float, float], out: Received) -> Received:
    """Every piece of the line to the node nearest to it."""
    _, flat = nodes_on(laid)
    step = ends[1] - ends[0]
    # Where two nodes are as near: (e0 + t step - middle) . (b - a) = 0
    i, j = np.triu_indices(len(flat), 1)
    d = flat[j] - flat[i]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.einsum("ni,ni->n", (flat[i] + flat[j]) / 2 - ends[0], d) / (d @ step)
    t = np.unique(np.concatenate([[0.0, 1.0], t[np.isfinite(t) & (t > 0) & (t < 1)]]))
    middle = (t[1:] + t[:-1]) / 2
    value = values[0] + middle * (values[1] - values[0])
    _nearest_node(laid, ends[0] + middle[:, None] * step, value * np.diff(t) * float(np.linalg.norm(step)), out)
    return out
