"""Forces and lines of load on a laid-out surface, as what its members and nodes receive."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.frame import ON_LINE_TOLERANCE
from ...model.surfaces import TWO_WAY
from .concentrated import Carry, Shares, cuts_of_line, direct, directions, lever, line_parts, place_on, two_ways
from .laid import Laid
from .one_way import Strips, lay_strips
from .outline import straight_edges
from .received import Received
from .to_nodes import forces_to_nodes, line_to_nodes

Floats = NDArray[np.float64]
FAR = 1e4
"""Beyond any surface [m]."""


def _carrier(laid: Laid, strips: list[tuple[shapely.Geometry, Strips]]) -> Carry:
    """From a point of the deck between members to the bearings that carry a force there."""

    def carry(point: Floats) -> Shares:
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
        forces_to_nodes(laid, point[None], np.array([force]), out)
        return out
    index = direct(laid.bearings, point[None])
    if index is None:
        found = _carrier(laid, _all_strips(laid))(point)
    else:
        found = [(index, place_on(laid.bearings, index, point), 1.0)]
    bay = laid.bays.at(point[None])
    if not found:
        out.lose(np.array([force]), point[None])
    for bearing, s, share in found:
        member = laid.bearings.member[bearing : bearing + 1]
        out.point(member, np.array([s]), np.array([share * force]), bay)
    return out


def carry_line(laid: Laid, ends: Floats, values: tuple[float, float]) -> Received:
    """A line of load [N/m] between two points (2, 2)."""
    out = Received()
    length = float(np.linalg.norm(ends[1] - ends[0]))
    if laid.outline.surface.carry == "nodes":
        return line_to_nodes(laid, ends, values, out)
    strips = _all_strips(laid)
    lines = [straight_edges(laid.bays.polygons), laid.bearings.ends]
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
