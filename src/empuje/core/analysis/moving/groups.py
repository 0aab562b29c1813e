"""Axles whose distance is a range: groups of axles that hang together, each of which stands at its own best place.

What groups make of a result adds up, each a function of its own place. Inside the range of a distance the worst is
where every group by itself is; at an end of the range the distance is fixed, and is among those tried.

        group 2          group 1
        o    o           o       --->
             |<- gap ->|         lo <= gap <= hi
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...actions.traffic.laid import Laid
from ...actions.traffic.train import Train, gap_ranges
from .bernstein import basis, stationary
from .legs import Legs

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
AROUND = 3
"""Legs before and after the one a group stands on that are looked at."""


@dataclass(frozen=True)
class Family:
    """Trains that differ in their gaps only: their groups (places among all groups), each group's first axle and own
    length [m]; ranges (gaps, 2) of all gaps; how far apart the tried ones are [m]."""

    groups: tuple[int, ...]
    first: tuple[int, ...]
    length: tuple[float, ...]
    ranges: Floats
    window: float


@dataclass(frozen=True)
class Groups:
    """All groups as trains of their own, the families, and which each train belongs to, or -1."""

    trains: list[Train]
    families: list[Family]
    of_train: Ints


def groups_of(laid: Laid, trains: Sequence[Train]) -> Groups:
    """The groups of trains with ranges. Lane loads that end at a vehicle hang on all of it: such have none."""
    known: dict[tuple[int, ...], int] = {}
    out: list[Train] = []
    families: list[Family] = []
    of_train = np.full(len(trains), -1)
    for number, train in enumerate(trains):
        s, vehicle = train.spot, train.vehicle
        ranges = np.array(gap_ranges(laid.traffic, vehicle, train.way_length)).reshape(-1, 2)
        open_ = np.flatnonzero(ranges[:, 1] - ranges[:, 0] > 1e-9)
        if not len(open_) or (vehicle.lane and not vehicle.adverse_lane):
            continue
        key = (s.way, s.vehicle, s.heading, s.brake, s.side)
        if key not in known:
            known[key] = len(families)
            family = [
                t for t in trains if (t.spot.way, t.spot.vehicle, t.spot.heading, t.spot.brake, t.spot.side) == key
            ]
            tried = [np.unique(np.round([t.spot.gaps[g] for t in family], 9)) for g in open_.tolist()]
            window = max(float(np.diff(v).max(initial=0.0)) for v in tried)
            begins = [0, *(open_ + 1).tolist()]
            ends = [*(open_ + 1).tolist(), len(ranges) + 1]
            own, lengths = [], []
            for a, b in zip(begins, ends, strict=True):
                wheels = (train.axle >= a) & (train.axle < b)
                gaps = tuple(s.gaps[a : b - 1])
                behind = train.behind[wheels] - sum(s.gaps[:a])
                own.append(len(out))
                lengths.append(sum(gaps))
                out.append(replace(
                    train, spot=replace(s, gaps=gaps), behind=behind, left=train.left[wheels], down=train.down[wheels],
                    along=train.along[wheels], across=train.across[wheels], axle=train.axle[wheels],
                    vehicle=replace(vehicle, lane=0.0),
                ))  # fmt: skip
            families.append(Family(tuple(own), tuple(begins), tuple(lengths), ranges, window))
        of_train[number] = known[key]
    return Groups(out, families, of_train)


def best_near(b: Floats, legs: Legs, group: int, at: Floats, window: float) -> tuple[Floats, Floats]:
    """The greatest values of rows (n, degree + 1, legs) of one group's polynomials within a window around at (n,) [m],
    and where; off its legs a group makes nothing."""
    own = np.flatnonzero(legs.train == group)
    t0, t1 = legs.t0[own], legs.t1[own]
    on = np.clip(np.searchsorted(t0, at, side="right") - 1, 0, len(own) - 1)
    best, where = np.zeros(len(at)), at.copy()
    best[(at >= t0[0]) & (at <= t1[-1])] = -np.inf
    rows = np.arange(len(at))
    for step in range(-AROUND, AROUND + 1):
        k = np.clip(on + step, 0, len(own) - 1)
        low, high = np.maximum(t0[k], at - window), np.minimum(t1[k], at + window)
        good = (high > low) & (on + step >= 0) & (on + step < len(own))
        span = np.where(t1[k] > t0[k], t1[k] - t0[k], 1.0)
        u0, u1 = (low - t0[k]) / span, (high - t0[k]) / span
        c = b[rows, :, own[k]]
        for u in (u0, u1, *stationary(c)):
            inside = np.clip(u, np.minimum(u0, u1), np.maximum(u0, u1))
            v = np.where(good, (c * basis(legs.degree, inside)).sum(axis=1), -np.inf)
            better = v > best
            best, where = np.where(better, v, best), np.where(better, t0[k] + inside * span, where)
    return best, where
