"""A vehicle, or a row of them, as wheels that roll along a way together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

from ...model.traffic import Axle, Spot, Traffic, Vehicle, Way
from ...model.words import Entering, Heading

Floats = NDArray[np.float64]
GAUSS = 3
"""Points along and across a patch: exact for shares that change linearly over it."""
GAPS, APART = 9, 0.75
"""Values tried of a distance that is a range, its ends among them; so far [m], or `step`, apart where that is more."""
MOST_GAPS = 400
"""More values are not tried."""
BEYOND = 1.0
"""Vehicles in a row may be so much further apart than the way is long [m]: only one of them is on it then."""


@dataclass(frozen=True)
class Train:
    """Wheels (n,): behind the foremost axle [m], to the left of the way's line [m], vertical load, and horizontal ones
    along the way and to its left [N]; axle (n,): which each is of; `spot`: where it stands at t = 0. `middles`: behind
    and to the left [m] as well, but of whole wheels where these are patches."""

    spot: Spot
    behind: Floats
    left: Floats
    down: Floats
    along: Floats
    across: Floats
    axle: NDArray[np.intp]
    height: float
    vehicle: Vehicle
    way_length: float
    middles: tuple[tuple[float, float], ...] = ()

    @property
    def length(self) -> float:
        """From the first axle to the last [m]."""
        return float(sum(self.spot.gaps))

    def behind_with(self, gaps: Floats) -> Floats:
        """How far wheels are behind the foremost axle (n, positions) [m] with other gaps (positions, gaps)."""
        own = np.append(0.0, np.cumsum(self.spot.gaps))
        new = np.hstack([np.zeros((len(gaps), 1)), np.cumsum(gaps, axis=1)])
        return np.asarray(self.behind[:, None] + (new - own)[:, self.axle].T)

    def places(self, t: Floats, behind: Floats | None = None) -> Floats:
        """Where the wheels are on the way (n, positions) [m], with the front at t; `behind` (n, positions): for other
        distances between them."""
        ahead = t[None, :] - (self.behind[:, None] if behind is None else behind)
        return ahead if self.spot.heading > 0 else self.way_length - ahead

    def reach(self, entering: Entering) -> tuple[float, float]:
        """The first and last t [m]."""
        if entering == Entering.WHOLLY:
            return self.length, self.way_length
        return 0.0, self.way_length + self.length


def axles_in_row(traffic: Traffic, vehicle: Vehicle, longest: float) -> list[Axle]:
    """The axles of `count` vehicles one behind the other; the gap of each behind the one before it, up to the longest
    that matters [m]."""
    first, *rest = vehicle.axles
    row = [first, *rest]
    for _ in range(traffic.in_row(vehicle) - 1):
        row += [replace(first, gap=(traffic.clear, max(longest + BEYOND, traffic.clear))), *rest]
    return row


def gap_ranges(traffic: Traffic, vehicle: Vehicle, longest: float) -> list[tuple[float, float]]:
    """The range of every gap behind an axle."""
    return [axle.gap for axle in axles_in_row(traffic, vehicle, longest)[1:]]


def spots(traffic: Traffic, way: int, longest: float) -> list[Spot]:
    """Every way in which a vehicle can go along a way: which one, heading, horizontal forces, gaps."""
    headings = {Heading.FORWARD: (1,), Heading.BACKWARD: (-1,), Heading.BOTH: (1, -1)}[traffic.heading]
    out = []
    for v, vehicle in enumerate(traffic.vehicles):
        tried = _all_tried(traffic, vehicle, longest)
        brakes, sides = ((1, -1) if forces else (0,) for forces in (vehicle.along or vehicle.level, vehicle.across))
        ways = [h for h in headings if vehicle.heading in (0, h)]
        for heading, brake, side, *gaps in product(ways, brakes, sides, *tried):
            out.append(Spot(way, v, 0.0, int(heading), int(brake), int(side), tuple(float(g) for g in gaps)))
    return out


def tried_count(traffic: Traffic, vehicle: Vehicle, longest: float) -> int:
    """How many different sets of gaps are tried."""
    if not is_apart(traffic, vehicle):
        return int(np.prod([len(tried) for tried in _all_tried(traffic, vehicle, longest)], dtype=float))
    ranges = [gap_ranges(traffic, vehicle, longest)[g] for g in open_gaps(traffic, vehicle, longest)]
    ends = np.array([1.0 if high >= longest else 2.0 for _, high in ranges])
    return int(sum(np.prod(ends[i:j]) for i in range(len(ends) + 1) for j in range(i, len(ends) + 1)))


def is_apart(traffic: Traffic, vehicle: Vehicle) -> bool:
    """Whether the worst of distances that are ranges is found exactly: not where positions are stepped through, nor
    where a lane load ends at the vehicle, which hangs on all of it."""
    return traffic.exact and not (vehicle.lane and not vehicle.adverse_lane)


def open_gaps(traffic: Traffic, vehicle: Vehicle, longest: float) -> list[int]:
    """The gaps that are ranges."""
    return [k for k, (low, high) in enumerate(gap_ranges(traffic, vehicle, longest)) if high - low > 1e-9]


def _all_tried(traffic: Traffic, vehicle: Vehicle, longest: float) -> list[list[float]]:
    """The distances tried of every gap; the least alone where the worst is found from it."""
    ranges = gap_ranges(traffic, vehicle, longest)
    if is_apart(traffic, vehicle):
        return [[low] for low, _ in ranges]
    return [_tried(low, high, traffic.step) for low, high in ranges]


def _tried(low: float, high: float, step: float) -> list[float]:
    if high - low < 1e-9:
        return [low]
    count = min(max(GAPS, int(np.ceil((high - low) / (step or APART))) + 1), MOST_GAPS)
    return [float(g) for g in np.linspace(low, high, count)]


def train_of(traffic: Traffic, way: Way, spot: Spot, way_length: float) -> Train:
    """The wheels of a spot."""
    vehicle = traffic.vehicles[spot.vehicle]
    row = axles_in_row(traffic, vehicle, 0.0)
    behind = np.append(0.0, np.cumsum(spot.gaps))
    rows = [
        (d + dx, way.aside + spot.heading * (y + dy), load * share, along * share, across * share, k)
        for k, (d, axle) in enumerate(zip(behind.tolist(), row, strict=True))
        for y, load, along, across in _across(axle, vehicle.gauge)
        for dx, dy, share in _patch(vehicle.patch if way.surfaces else (0.0, 0.0))
        if load or along or across
    ]
    columns = (np.array(c, float) for c in zip(*rows, strict=True)) if rows else (np.zeros(0),) * 6
    d, left, load, along, across, axle_of = columns
    middles = [(d, round(way.aside + spot.heading * y, 9)) for d, axle in zip(behind.tolist(), row, strict=True)
               for y, *_ in _across(axle, vehicle.gauge)]  # fmt: skip
    return Train(
        spot, d, np.round(left, 9), load * vehicle.dynamic * traffic.dynamic,
        spot.heading * spot.brake * (vehicle.along * load + along),
        spot.heading * (spot.side * vehicle.across * load + spot.brake * across),
        axle_of.astype(np.intp), vehicle.height, vehicle, way_length, tuple(middles),
    )  # fmt: skip


def _across(axle: Axle, gauge: float) -> Sequence[tuple[float, float, float, float]]:
    """Wheels of an axle: to the left of its middle [m], load, and own forces along and to the left [N]."""
    if len(axle.wheels) == 2:
        (a, b), (p, q) = axle.wheels, axle.level or ((0.0, 0.0), (0.0, 0.0))
        return ((gauge / 2, a, *p), (-gauge / 2, b, *q))
    if gauge:
        return ((gauge / 2, axle.load / 2, 0.0, 0.0), (-gauge / 2, axle.load / 2, 0.0, 0.0))
    return ((0.0, axle.load, 0.0, 0.0),)


@cache
def gauss(count: int) -> tuple[Floats, Floats]:
    """Gauss points and weights over -1 to 1."""
    return np.polynomial.legendre.leggauss(count)


def _patch(patch: tuple[float, float]) -> list[tuple[float, float, float]]:
    """Points of a wheel's patch: behind and to the left of its middle [m], and share."""
    along, across = (gauss(GAUSS if size else 1) for size in patch)
    return [
        (float(x) * patch[0] / 2, float(y) * patch[1] / 2, float(u * v) / 4)
        for x, u in zip(*along, strict=True) for y, v in zip(*across, strict=True)
    ]  # fmt: skip
