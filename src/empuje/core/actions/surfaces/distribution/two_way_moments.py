"""Two-way bays keep the moments of uneven and of partial loads: what the shares of nearest edges leave out is added.

A uniform load on a whole bay is shared as it is: every point's load goes to its nearest edge. Of any other load the
moments about a bay's centre, beside those that a uniform load of the same force would bring there, are made up for by
pressures (x - c) . g on the whole bay, which have no force. All is linear in the load: parts of a bay add to the whole.

    true - received - F/F_1 (true - received of 1)  =  K g        K: moments received of (x - c), by both axes
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....surfaces.common import common
from ....surfaces.plane import load_on, moments_on
from ....surfaces.surface_geometry import SurfaceGeometry
from .collector import Collector

Floats = NDArray[np.float64]
NOTHING = 1e-12
"""Moments below this share of the load times the size of the surface are rounding."""
SINGULAR = 1e-8
"""Where edges on one side bear alone the moments across it cannot be brought."""
KNOWN = b"moments of two-way bays"


@dataclass(frozen=True)
class BayMoments:
    """By number of a bay (bays,): area [m2], centre (bays, 2), what a uniform pressure's moments lack on arrival
    (bays, 2) [m3], and the inverse (bays, 2, 2) of the moments received of (x - c) [1/m4]; what members receive of
    pressures of 1, u and v on the whole surface."""

    area: Floats
    centre: Floats
    lacking: Floats
    inverse: Floats
    received: tuple[Collector, Collector, Collector]


def bay_moments(geometry: SurfaceGeometry, received: tuple[Collector, Collector, Collector]) -> BayMoments:
    """Of a surface and what its members receive of pressures of 1, u and v."""
    count = int(geometry.bays.number.max(initial=0)) + 1
    area = np.zeros(count)
    first = np.zeros((count, 2))
    for polygon, number in zip(geometry.bays.polygons, geometry.bays.number, strict=True):
        size = float(shapely.area(polygon))
        area[number] += size
        first[number] += size * shapely.get_coordinates(shapely.centroid(polygon))[0]
    centre = first / np.where(area > 0, area, 1.0)[:, None]
    moments = [by_bay(geometry, r, count) for r in received]
    K = np.stack([moments[k + 1] - centre[:, k, None] * moments[0] for k in (0, 1)], axis=2)
    inverse = np.zeros_like(K)
    for k in np.flatnonzero(area > 0).tolist():
        inverse[k] = np.linalg.pinv(K[k], rcond=SINGULAR)
    return BayMoments(area, centre, first - moments[0], inverse, received)


def by_bay(geometry: SurfaceGeometry, received: Collector, count: int) -> Floats:
    """First moments (bays, 2) in u v of what came of every bay."""
    total = np.zeros((count, 2))
    for bay, moments in first_moments(geometry, received):
        np.add.at(total, bay, moments)
    return total


def first_moments(geometry: SurfaceGeometry, received: Collector) -> Iterator[tuple[NDArray[np.intp], Floats]]:
    """Of what members received of lines and points: the bays (n,) it came of and its first moments (n, 2) in u v."""
    project, outline = geometry.project, geometry.outline

    def place(member: NDArray[np.intp], s: Floats) -> Floats:
        return outline.flat(project.xyz[project.ends[member, 0]] + s[:, None] * project.axes[member, 0])

    for member, s0, s1, q0, q1, bay, _ in received.lines:
        a, b, wide = place(member, s0), place(member, s1), s1 - s0
        yield bay, (wide / 6)[:, None] * ((2 * q0 + q1)[:, None] * a + (q0 + 2 * q1)[:, None] * b)
    for member, s, amount, bay in received.points:
        yield bay, amount[:, None] * place(member, s)


def made_up(
    geometry: SurfaceGeometry, known: BayMoments, loaded: shapely.Geometry, field: Floats, whole: bool, out: Collector
) -> None:
    """Adds to what members receive of a pressure what its moments lack."""
    count = len(known.area)
    force, true = np.zeros(count), np.zeros((count, 2))
    bays = geometry.bays
    for k in range(len(bays.polygons)) if whole else bays.tree.query(loaded, predicate="intersects").tolist():
        polygon, number = bays.polygons[k], bays.number[k]
        part = polygon if whole else common(loaded, polygon)
        if shapely.area(part) > 0:
            force[number] += load_on(part, field)
            true[number] += moments_on(part, field)
    received = by_bay(geometry, out, count)
    lost = _lost(geometry, out, count)
    lacking = true - received - lost - (force / np.where(known.area > 0, known.area, 1.0))[:, None] * known.lacking
    size = np.abs(field[0]) + np.abs(field[1:]).sum() * geometry.outline.size
    lacking[np.abs(lacking).max(axis=1) <= NOTHING * size * known.area * geometry.outline.size] = 0.0
    if not lacking.any():
        return
    g = np.einsum("nij,nj->ni", known.inverse, lacking)
    times = np.column_stack([-(g * known.centre).sum(axis=1), g])
    for k, base in enumerate(known.received):
        share = times[:, k]
        for member, s0, s1, q0, q1, bay, role in base.lines:
            keep = share[bay] != 0
            more = role + (k + 1) * (len(geometry.bearings.member) + 1) * ROLES
            rows = (member, s0, s1, q0 * share[bay], q1 * share[bay], bay, more)
            out.lines.append(tuple(v[keep] for v in rows))
        for member, s, amount, bay in base.points:
            keep = share[bay] != 0
            out.point(member[keep], s[keep], (amount * share[bay])[keep], bay[keep])


ROLES = 1000
"""Keeps these rows apart from those of the load itself."""


def _lost(geometry: SurfaceGeometry, received: Collector, count: int) -> Floats:
    """First moments of what nothing carries, by bay."""
    out = np.zeros((count, 2))
    for force, at in received.lost:
        np.add.at(out, geometry.bays.at(at), force[:, None] * at)
    return out
