"""Pressures on a laid-out surface, as what its members and nodes receive: the geometry once, then every load on it."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.surfaces import TWO_WAY
from .concentrated import place_on
from .fans import fans
from .fit import AT, SHARE, linear_pieces
from .laid import Laid, Plain
from .one_way import NOWHERE, Cells, Strips, lay_strips, load_cells, shares
from .outline import load_on
from .received import Received
from .to_nodes import area_to_nodes
from .two_way import reaches

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def carry_area(laid: Laid, loaded: shapely.Geometry, field: Floats, whole: bool, known: dict) -> Received:
    """A pressure field . (1, u, v) [N/m2] over a loaded part of the surface, or all of it."""
    out = Received()
    if laid.outline.surface.carry == "nodes":
        area_to_nodes(laid, loaded, field, out)
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
        _on_edges(laid, bearing[e], origin, way, s, f, np.full(len(e), number), of, out)
    for i, end, force in fans(edges, part, field):
        s_at = place_on(laid.bearings, int(bearing[i]), edges[i, end])
        out.point(laid.bearings.member[bearing[i : i + 1]], np.array([s_at]), np.array([force]), np.array([number]))
