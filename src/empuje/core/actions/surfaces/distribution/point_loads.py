"""Forces and lines of load on surface, as what its members and nodes receive."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.frame import ON_LINE_TOLERANCE
from ....model.surfaces import TWO_WAY
from ....model.words import Carry
from ....surfaces.convex import NOWHERE
from ....surfaces.plane import straight_edges
from ....surfaces.surface_geometry import SurfaceGeometry
from .collector import Collector
from .concentrated import Carrier, cuts_of_line, direct, directions, lever, line_parts, nothing, place_on, two_ways
from .decks_one_way import DeckStrips, deck_strips
from .to_elements import force_to_elements, line_to_elements
from .to_nodes import forces_to_nodes, line_to_nodes

Floats = NDArray[np.float64]
FAR = 1e4
"""Beyond any surface [m]."""


def _carrier(
    geometry: SurfaceGeometry, strips: list[tuple[shapely.Geometry, DeckStrips]]
) -> Callable[[Floats], Carrier]:
    """From a point of the deck between members to what carries forces around it."""

    def carrier(point: Floats) -> Carrier:
        bearings = geometry.bearings
        if geometry.outline.surface.deck == TWO_WAY:
            k = geometry.bays.tree.query(shapely.Point(point), predicate="intersects")
            if not len(k):
                return nothing
            bay = geometry.bays.polygons[int(k[0])]
            return partial(two_ways, bay, bearings)
        for region, there in strips:
            if shapely.dwithin(region, shapely.Point(point), ON_LINE_TOLERANCE):
                return partial(lever, there, bearings)
        return nothing

    return carrier


def _all_strips(geometry: SurfaceGeometry) -> list[tuple[shapely.Geometry, DeckStrips]]:
    return [(region, deck_strips(region, geometry.bearings, way, [])) for region, way in geometry.decks]


def distribute_force(geometry: SurfaceGeometry, point: Floats, force: float) -> Collector:
    """A force [N] at a point (2,)."""
    if geometry.mesh is not None:
        return force_to_elements(geometry.mesh, point, force)
    out = Collector()
    if geometry.outline.surface.carry == Carry.NODES:
        forces_to_nodes(geometry, point[None], np.array([force]), out)
        return out
    index = direct(geometry.bearings, point[None])
    if index is None:
        there = _carrier(geometry, _all_strips(geometry))(point)(point[None])
        found = list(zip(there.bearing[0].tolist(), there.s[0].tolist(), there.share[0].tolist(), strict=True))
        found = [one for one in found if one[0] != NOWHERE]
    else:
        found = [(index, place_on(geometry.bearings, index, point), 1.0)]
    bay = geometry.bays.at(point[None])
    if not found:
        out.lose(np.array([force]), point[None])
    for bearing, s, share in found:
        member = geometry.bearings.member[bearing : bearing + 1]
        out.point(member, np.array([s]), np.array([share * force]), bay)
    return out


def deck_carrier(geometry: SurfaceGeometry) -> Callable[[Floats], Carrier]:
    """From a point of the deck between members to what carries forces around it."""
    return _carrier(geometry, _all_strips(geometry))


def lines_of_change(
    geometry: SurfaceGeometry, strips: list[tuple[shapely.Geometry, DeckStrips]] | None = None
) -> Floats:
    """Lines (n, 2, 2) at which what carries a force changes."""
    lines = [straight_edges(geometry.bays.polygons), geometry.bearings.ends]
    for _, there in _all_strips(geometry) if strips is None else strips:  # where slabs end
        at = np.stack(
            [np.broadcast_to([-FAR, 0.0], (len(there.q), 2)), np.broadcast_to([FAR, 0.0], (len(there.q), 2))], 1
        )
        lines.append((at + np.stack([0 * there.q, there.q], axis=1)[:, None]) @ there.turn)
    if geometry.outline.surface.deck == TWO_WAY:  # where a strip passes a corner
        for bay in geometry.bays.polygons:
            corners = shapely.get_coordinates(bay)
            lines += [np.stack([corners - FAR * way, corners + FAR * way], axis=1) for way in directions(bay)]
    return np.concatenate(lines)


def distribute_line(geometry: SurfaceGeometry, ends: Floats, values: tuple[float, float]) -> Collector:
    """A line of load [N/m] between two points (2, 2)."""
    if geometry.mesh is not None:
        return line_to_elements(geometry.mesh, ends, values)
    out = Collector()
    length = float(np.linalg.norm(ends[1] - ends[0]))
    if geometry.outline.surface.carry == Carry.NODES:
        return line_to_nodes(geometry, ends, values, out)
    strips = _all_strips(geometry)
    cuts = cuts_of_line(ends, lines_of_change(geometry, strips))
    on, lost = line_parts(ends, values, geometry.bearings, geometry.bays, cuts, _carrier(geometry, strips))
    drawn_out, at_once = ([o for o in on if (o.s1 > o.s0) is long] for long in (True, False))
    if drawn_out:
        member = np.array([o.member for o in drawn_out])
        s, q = np.array([(o.s0, o.s1) for o in drawn_out]), np.array([(o.q0, o.q1) for o in drawn_out])
        bay = np.array([o.bay for o in drawn_out])
        out.line(member, s, q, geometry.project.lengths[member], bay, np.zeros(len(drawn_out), np.intp))
    if at_once:
        member, bay = np.array([o.member for o in at_once]), np.array([o.bay for o in at_once])
        out.point(member, np.array([o.s0 for o in at_once]), np.array([o.q0 for o in at_once]), bay)
    if abs(lost) > 1e-9 * (abs(values[0]) + abs(values[1])) * length:
        out.lose(np.array([lost]), ends.mean(axis=0)[None])
    return out
