"""The worst of a traffic for results at places: of every train on its legs, of groups at variable distances, of lane
loads at will, and of several ways together.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...actions.traffic.laid import Laid
from ...actions.traffic.train import Train
from ...model.words import Entering
from .apart import distances, worst_apart
from .bernstein import from_samples, positive_parts
from .groups import Groups
from .leg_peaks import AWAY, TIE, Grid, best_on_legs
from .legs import Legs
from .places import Places
from .positions import Sweep, Worst
from .units import Put

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ROUNDING = 1e-11
"""Extremes below this share of what other positions make of a result are rounding: nothing stands there."""
CANDIDATES = 1_000_000
"""Places of groups held at a time."""


@dataclass(frozen=True)
class Finder:
    """Every way in which the vehicles of a traffic can go, in groups where their distances vary; the grid of positions
    where these are stepped through."""

    laid: Laid
    trains: list[Train]
    groups: Groups
    grid: Grid | None

    @cached_property
    def most_gaps(self) -> int:
        """Of all trains."""
        return max((len(t.spot.gaps) for t in self.trains), default=0)

    def worst(self, places: Places, sweep: Sweep) -> Worst:
        """The least and the greatest of results at places, whose elements the sweep knows the places on."""
        n, ways = len(places), len(self.laid.ways)
        legs = sweep.legs
        b = from_samples(places.values(sweep.put).reshape(n, *legs.t.T.shape))
        size = _size(b)
        nothing = ROUNDING * (size + 1e-2 * size.max(initial=0.0))
        way_of = np.array([t.spot.way for t in self.trains], np.intp)[legs.train]
        vehicle_of = np.array([t.spot.vehicle for t in self.trains], np.intp)[legs.train]
        value = np.zeros((n, 2, ways))
        train = np.full((n, 2, ways), AWAY)
        t = np.zeros((n, 2, ways))
        lane = np.full((n, 2, ways), AWAY)
        gaps = np.full((n, 2, ways, self.most_gaps), np.nan)
        of_groups, way_of_groups = None, np.zeros(0, np.intp)
        if sweep.groups is not None:
            group_legs, put = sweep.groups
            of_groups = from_samples(places.values(put).reshape(n, *group_legs.t.T.shape))
            way_of_groups = np.array([t.spot.way for t in self.groups.trains], np.intp)[group_legs.train]
        for way in range(ways):
            area = self._lane_areas(places, sweep.lanes[way])
            groups = range(len(self.laid.traffic.vehicles)) if area is not None else (None,)
            best = np.full((n, 2), -np.inf)
            for group in groups:
                own = np.flatnonzero((way_of == way) & ((vehicle_of == group) if group is not None else True))
                own_b = b if len(own) == b.shape[2] else b[:, :, own]
                w = self.laid.traffic.vehicles[group].lane if group is not None else 0.0
                busy = np.arange(n)
                if self.laid.traffic.entering == Entering.AXLES:  # what a way does nothing to is not looked for on it
                    made = _size(own_b)
                    if of_groups is not None:
                        made = np.maximum(made, _size(of_groups[:, :, way_of_groups == way]))
                    busy = np.flatnonzero(made > nothing)
                for side, sign in enumerate((-1.0, 1.0)):
                    v, at, where, own_gaps = self._best(way, group, sign, own_b[busy], own, sweep, of_groups, busy)
                    v, where = _spread(v, busy, n, -np.inf), _spread(where, busy, n, 0.0)
                    at, own_gaps = _spread(at, busy, n, AWAY), _spread(own_gaps, busy, n, np.nan)
                    if self.laid.traffic.entering == Entering.AXLES:
                        away = v <= nothing
                        v, at = np.where(away, 0.0, v), np.where(away, AWAY, at)
                    lanes = w * area[:, side] if area is not None else np.zeros(n)
                    better = v + lanes > best[:, side]
                    best[better, side] = (v + lanes)[better]
                    train[better, side, way], t[better, side, way] = at[better], where[better]
                    gaps[better, side, way] = own_gaps[better]
                    lane[better, side, way] = np.where(lanes > 0, -1 if group is None else group, AWAY)[better]
            value[:, :, way] = best
        return self._present(value, train, t, lane, gaps)

    def _best(
        self, way: int, vehicle: int | None, sign: float, b: Floats, own: Ints, sweep: Sweep, of_groups: Floats | None,
        rows: Ints,
    ) -> tuple[Floats, Ints, Floats, Floats]:  # fmt: skip
        """Of what goes along a way, or a vehicle alone, the greatest of rows of polynomials of the sweep: value, train,
        front [m], gaps [m]."""
        value, train, t = best_on_legs(sign * b, sweep.legs, own, self.grid, self.laid.traffic.unit[1])
        gaps = np.full((len(b), self.most_gaps), np.nan)
        if of_groups is not None and sweep.groups is not None:
            self._apart(way, vehicle, sign * of_groups[rows], sweep.groups[0], value, train, t, gaps)
        return value, train, t, gaps

    def _present(self, value: Floats, train: Ints, t: Floats, lane: Ints, gaps: Floats) -> Worst:
        """Of several ways those loaded at once that are worst together; values are positive where they are worse."""
        presence = self.laid.traffic.presence
        if value.shape[2] == 1:
            total = value[..., 0] * presence[0]
            if self.laid.traffic.entering == Entering.AXLES:
                gone = total <= 0
                train[gone], lane[gone], total = AWAY, AWAY, np.maximum(total, 0.0)
        else:
            order = np.argsort(-value, axis=2)
            best = np.take_along_axis(value, order, 2)
            factor = np.array([presence[min(k, len(presence) - 1)] for k in range(value.shape[2])])
            sums = np.cumsum(best, axis=2) * factor
            count = sums.argmax(axis=2) + 1
            total = sums.max(axis=2)
            rank = np.argsort(order, axis=2)
            gone = rank >= count[:, :, None]
            if self.laid.traffic.entering == Entering.AXLES:
                gone |= (total <= 0)[:, :, None]
                total = np.maximum(total, 0.0)
            train[gone], lane[gone] = AWAY, AWAY
        return Worst(total * np.array([-1.0, 1.0]), train, t, lane, gaps)

    def _apart(
        self, way: int, vehicle: int | None, b: Floats, legs: Legs, value: Floats, train: Ints, t: Floats, gaps: Floats
    ) -> None:
        """Over all distances of what goes along a way, or of a vehicle alone, where that makes more. In place."""
        one = self.laid.ways[way]
        for family in self.groups.families:
            number, spot = family.train, self.trains[family.train].spot
            if spot.way != way or vehicle not in (None, spot.vehicle):
                continue
            own = np.unique([c.train for c in family.coupled])
            block = max(1, CANDIDATES // max((legs.degree + 1) * int(np.isin(legs.train, own).sum()), 1))
            for i in range(0, len(b), block):
                found = worst_apart(b[i : i + block], legs, family, self.laid.traffic.entering, one.length,
                                    self.laid.traffic.unit[1])  # fmt: skip
                here = slice(i, i + block)
                close = TIE * np.abs(np.where(np.isfinite(value[here]), value[here], 0.0))
                some = np.flatnonzero(found.value > value[here] + close)
                if not len(some):
                    continue
                rows = i + some
                value[rows], train[rows] = found.value[some], number
                t[rows], between = distances(family, found.place[some], one.length)
                gaps[rows, : len(spot.gaps)] = spot.gaps
                for k, axle in enumerate(family.axle[1:]):
                    gaps[rows, axle - 1] = between[:, k]

    def _lane_areas(self, places: Places, lane: tuple[Legs, Put] | None) -> Floats | None:
        """The areas of influence lines below and above zero (n, 2), both as positive [result/N m]."""
        if lane is None:
            return None
        legs, put = lane
        b = from_samples(places.values(put).reshape(len(places), *legs.t.T.shape)).swapaxes(1, 2)
        stretch = legs.t1 - legs.t0
        return np.column_stack([positive_parts(sign * b)[0] @ stretch for sign in (-1.0, 1.0)])


def _size(b: Floats) -> Floats:
    """The greatest of coefficients (n, degree + 1, legs), whatever their sign."""
    return np.asarray(np.maximum(b.max(axis=(1, 2), initial=0.0), -b.min(axis=(1, 2), initial=0.0)))


def _spread(some: NDArray[Any], rows: Ints, n: int, fill: float) -> NDArray[Any]:
    out = np.full((n, *some.shape[1:]), fill, some.dtype)
    out[rows] = some
    return out
