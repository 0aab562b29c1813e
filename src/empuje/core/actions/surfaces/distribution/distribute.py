"""Pressures on a surface, as what its members and nodes receive: the geometry once, then every load on it."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.surfaces import TWO_WAY
from ....model.words import Carry
from ....surfaces.common import common
from ....surfaces.convex import NOWHERE, ConvexBays
from ....surfaces.plane import load_on
from ....surfaces.surface_geometry import SurfaceGeometry
from .collector import Collector
from .concentrated import place_on
from .decks_one_way import Cells, DeckStrips, deck_strips, load_cells, shares
from .fans import fans
from .linear_fit import AT, SHARE, linear_pieces
from .to_elements import area_to_elements
from .to_nodes import area_to_nodes
from .two_way import reaches
from .two_way_moments import KNOWN, BayMoments, bay_moments, made_up

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def distribute_area(geometry: SurfaceGeometry, loaded: shapely.Geometry, field: Floats, whole: bool) -> Collector:
    """A pressure field . (1, u, v) [N/m2] over a loaded part of the surface, or all of it."""
    if geometry.mesh is not None:
        return area_to_elements(geometry.mesh, loaded, field, whole)
    out = Collector()
    if geometry.outline.surface.carry == Carry.NODES:
        area_to_nodes(geometry, loaded, field, out)
    elif geometry.outline.surface.deck == TWO_WAY:
        _two_way(geometry, loaded, field, whole, out)
        if field[1:].any() or not whole:
            made_up(geometry, _moments(geometry), loaded, field, whole, out)
    else:
        key = loaded.wkb
        if key not in geometry.known:
            geometry.known[key] = _cells(geometry, loaded, whole)
        for strips, cells, bay in geometry.known[key]:
            _one_way(geometry, strips, cells, bay, field, out)
    return out


def _moments(geometry: SurfaceGeometry) -> BayMoments:
    """Of the surface's bays, found once."""
    if KNOWN not in geometry.known:
        each = tuple(Collector() for _ in range(3))
        for field, received in zip(np.eye(3), each, strict=True):
            _two_way(geometry, geometry.outline.polygon, field, True, received)
        geometry.known[KNOWN] = bay_moments(geometry, (each[0], each[1], each[2]))
    known: BayMoments = geometry.known[KNOWN]
    return known


def _cells(geometry: SurfaceGeometry, loaded: shapely.Geometry, whole: bool) -> list[tuple[DeckStrips, Cells, Ints]]:
    out = []
    for region, way in geometry.decks:
        part = region if whole else common(loaded, region)
        if shapely.area(part) == 0:
            continue
        strips = deck_strips(region, geometry.bearings, way, [] if whole else [part])
        strips, cells = load_cells(strips, part)
        out.append((strips, cells, geometry.bays.at(_middles(strips, cells))))
    return out


def _middles(strips: DeckStrips, cells: Cells) -> Floats:
    p = (cells.begin + cells.end).mean(axis=1) / 2
    return np.column_stack([p, cells.q.mean(axis=1)]) @ strips.turn


def _one_way(
    geometry: SurfaceGeometry, strips: DeckStrips, cells: Cells, bay: Ints, field: Floats, out: Collector
) -> None:
    turned = np.concatenate([field[:1], strips.turn @ field[1:]])
    held = np.flatnonzero(cells.near != NOWHERE)
    which, far = np.tile(held, 2), np.repeat([False, True], len(held))
    crossing = np.where(far, cells.far[which], cells.near[which])
    bearing = strips.on.index[crossing]

    def value(i: Ints, x: Floats) -> Floats:
        return shares(cells, strips, turned, which[i], far[i], x)

    piece, x0, x1, f0, f1 = linear_pieces(value, len(which))
    on, cell = bearing[piece], which[piece]
    ends = geometry.bearings.ends[on] @ strips.turn.T
    q = cells.q[cell, :1] + np.column_stack([x0, x1]) * np.diff(cells.q[cell], axis=1)
    speed = (geometry.bearings.s[on, 1] - geometry.bearings.s[on, 0]) / (ends[:, 1, 1] - ends[:, 0, 1])
    s = geometry.bearings.s[on, :1] + (q - ends[:, 0, 1:]) * speed[:, None]
    f = np.column_stack([f0, f1]) / np.abs(speed)[:, None]
    out.line(geometry.bearings.member[on], s, f, geometry.lengths[on], bay[cell], far[piece].astype(np.intp))
    gone = np.flatnonzero(cells.near == NOWHERE)
    if len(gone):
        out.lose(_cell_loads(cells, turned, gone), _middles(strips, cells)[gone])


def _cell_loads(cells: Cells, field: Floats, which: Ints) -> Floats:
    """The whole load of cells [N]."""
    x = AT[None]
    a, b, q = (v[which, :1] + x * np.diff(v[which], axis=1) for v in (cells.begin, cells.end, cells.q))
    w = field[0] + field[1] * (a + b) / 2 + field[2] * q
    return np.asarray((w * (b - a)) @ SHARE * np.diff(cells.q[which], axis=1)[:, 0])


def _two_way(geometry: SurfaceGeometry, loaded: shapely.Geometry, field: Floats, whole: bool, out: Collector) -> None:
    other = np.ones(len(geometry.bays.polygons), bool)
    if whole:
        for plain in geometry.convex:
            other[plain.bays] = False
            _on_convex_bays(geometry, plain, field, out)
    for k in np.flatnonzero(other):
        part = geometry.bays.polygons[k] if whole else common(loaded, geometry.bays.polygons[k])
        if shapely.area(part) > 0:
            _any_bay(geometry, int(k), part, field, out)


def _on_convex_bays(geometry: SurfaceGeometry, plain: ConvexBays, field: Floats, out: Collector) -> None:
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
    numbers = np.repeat(geometry.bays.number[plain.bays], plain.edges.shape[1])
    _on_edges(geometry, bearing[e], flat[e, 0], way[e], s, np.column_stack([f0, f1]), numbers[e], e, out)


def _on_edges(
    geometry: SurfaceGeometry,
    bearing: Ints,
    origin: Floats,
    way: Floats,
    s: Floats,
    f: Floats,
    bay: Ints,
    role: Ints,
    out: Collector,
) -> None:
    """Line loads along edges of bays on the members they lie on."""
    a, b = geometry.bearings.ends[bearing, 0], geometry.bearings.ends[bearing, 1]
    step = (b - a) / np.einsum("ni,ni->n", b - a, b - a)[:, None]
    length = geometry.bearings.s[bearing, 1] - geometry.bearings.s[bearing, 0]
    speed = np.einsum("ni,ni->n", way, step) * length
    start = np.einsum("ni,ni->n", origin - a, step) * length
    out.line(geometry.bearings.member[bearing], start[:, None] + s * speed[:, None], f / np.abs(speed)[:, None],
             geometry.lengths[bearing], bay, role)  # fmt: skip


def _any_bay(geometry: SurfaceGeometry, k: int, part: shapely.Geometry, field: Floats, out: Collector) -> None:
    """A bay of any shape, or a part of one that is loaded."""
    edges, bearing = geometry.edges[k]
    held = bearing != NOWHERE
    edges, bearing = edges[held], bearing[held]
    number = int(geometry.bays.number[k])
    if not len(edges):
        centre = shapely.get_coordinates(shapely.centroid(part))
        out.lose(np.array([load_on(part, field)]), centre)
        return
    found = reaches(edges, part)
    side = np.repeat(np.arange(len(found)), [len(r.s) - 1 for r in found])
    ends = np.concatenate([np.column_stack([r.s[:-1], r.s[1:]]) for r in found] or [np.zeros((0, 2))])

    def value(i: Ints, x: Floats) -> Floats:
        s = ends[i, :1] + x * np.diff(ends[i], axis=1)
        out = np.empty_like(s)
        for k in np.unique(side[i]):
            mine = side[i] == k
            out[mine] = found[k].load(s[mine].ravel(), field).reshape(-1, s.shape[1])
        return out

    if len(side):
        piece, x0, x1, f0, f1 = linear_pieces(value, len(side))
        s = ends[piece, :1] + np.column_stack([x0, x1]) * np.diff(ends[piece], axis=1)
        of = side[piece]
        e = np.array([r.edge for r in found])[of]
        origin, way = (np.array([getattr(r, k) for r in found])[of] for k in ("origin", "along"))
        f = np.column_stack([f0, f1])
        _on_edges(geometry, bearing[e], origin, way, s, f, np.full(len(e), number), of, out)
    for i, end, force in fans(edges, part, field):
        s_at = place_on(geometry.bearings, int(bearing[i]), edges[i, end])
        out.point(geometry.bearings.member[bearing[i : i + 1]], np.array([s_at]), np.array([force]), np.array([number]))
