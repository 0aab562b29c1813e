"""The worst position of a traffic for results at fixed places.

Where positions are not stepped through, the greatest value of every leg's polynomial counts; where they are, that of
the steps on both sides of it, so that the number of steps costs nothing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...actions.traffic.laid import Laid, lane_loads, loads_of_train
from ...actions.traffic.train import Train
from ...model.loads import PlainLoads, gather
from ...model.traffic import Spot, Standing
from ...model.words import Entering
from ..equations import Equations
from .bernstein import from_samples, positive_parts
from .groups import Groups, best_near, groups_of
from .leg_peaks import AWAY, TIE, Grid, best_on_legs
from .legs import Legs, legs_of, loads_on_legs, steps_of
from .places import Places
from .positions import Picks, Sweep, Worst
from .units import Put, Units, units_of

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
AT_ONCE = 4_000_000
"""Coefficients held at a time."""
ROUNDING = 1e-11
"""Extremes below this share of what other positions make of a result are rounding: nothing stands there."""
SLIVER = 1e-6
"""Shorter stretches of a lane [m] are rounding."""
NOWHERE: Mapping[int, Floats] = {}


@dataclass(frozen=True)
class Mover:
    """A traffic, by its number in the project, on a frame with unit answers."""

    laid: Laid
    equations: Equations
    number: int = 0

    @cached_property
    def _grid(self) -> Grid | None:
        """The positions that are stepped through; None where the worst is found exactly."""
        if not self.step:
            return None
        entering = self.laid.traffic.entering
        reach = np.array([t.reach(entering) for t in self.trains]).reshape(-1, 2)
        return Grid(self.step, reach[:, 0], reach[:, 1], entering == Entering.WHOLLY)

    @cached_property
    def trains(self) -> list[Train]:
        """Every way in which a vehicle can go."""
        return [self.laid.train(s) for s in self.laid.spots()]

    @cached_property
    def is_polynomial(self) -> bool:
        """Whether results are polynomials along legs, so that the exact worst can be found."""
        return all(
            self.laid.ways[t.spot.way].track(left).is_polynomial for t in self.trains for left in np.unique(t.left)
        )

    @cached_property
    def continuous(self) -> Mover:
        """The same traffic as if it were not stepped."""
        if not self.step or not self.is_polynomial:
            return self
        other = replace(self, laid=replace(self.laid, traffic=replace(self.laid.traffic, step=0.0)))
        other.__dict__["trains"] = self.trains
        other.__dict__["units"] = self.units
        other.__dict__["groups"] = Groups([], [], np.full(len(self.trains), -1))
        return other

    @property
    def step(self) -> float:
        """Between positions [m]; 0: exact."""
        return self.laid.traffic.step

    @cached_property
    def units(self) -> Units:
        """The answers to unit loads. Raises Unstable."""
        loads = [loads_on_legs(self.laid, self.trains, self._legs(NOWHERE))]
        count = self._legs(NOWHERE).t.size
        for single in self._singles:
            if single is not None:
                legs = self._lane_legs(single, NOWHERE)
                loads.append(self._of_single(single, legs))
                count = max(count, legs.t.size)
        return units_of(self.equations, replace(gather(loads), sources=()), count)

    def _legs(self, asked: Mapping[int, Floats]) -> Legs:
        finest = np.inf if self.is_polynomial else max(self.step, self._longest / 2000)
        return legs_of(self.laid, self.trains, self.equations.mesh, asked, finest)

    @cached_property
    def _longest(self) -> float:
        return max(one.length for one in self.laid.ways)

    @cached_property
    def _singles(self) -> list[Train | None]:
        """Of every way a force of 1 N on its middle, where a lane load stands at will."""
        adverse = any(v.adverse_lane for v in self.laid.traffic.vehicles)
        return [self.single(k) if adverse else None for k in range(len(self.laid.ways))]

    def single(self, way: int) -> Train:
        """A force of 1 N down along the middle of a way."""
        one, nought = self.laid.ways[way], np.zeros(1)
        vehicle = replace(self.laid.traffic.vehicles[0], axles=(), lane=0.0)
        return Train(
            Spot(way, 0, 0.0), nought, np.array([one.way.aside]), np.ones(1), nought, nought, np.zeros(1, np.intp), 0.0,
            vehicle, one.length,
        )  # fmt: skip

    def _lane_legs(self, single: Train, asked: Mapping[int, Floats]) -> Legs:
        finest = np.inf if self.is_polynomial else self._longest / 200
        inner = replace(self.laid, traffic=replace(self.laid.traffic, entering=Entering.AXLES))
        return legs_of(inner, [single], self.equations.mesh, asked, finest)

    def _of_single(self, single: Train, legs: Legs) -> PlainLoads:
        return loads_on_legs(self.laid, [single], legs)

    def influence(self, way: int, asked: Mapping[int, Floats] = NOWHERE) -> tuple[Legs, Put]:
        """The legs of a single force of 1 N along a way, and its loads."""
        single = self.single(way)
        legs = self._lane_legs(single, asked)
        return legs, self.units.put(self._of_single(single, legs), legs.t.size)

    def sweep(self, asked: Mapping[int, Floats] = NOWHERE) -> Sweep:
        """All legs, cut also where a wheel passes places (by member) on the way."""
        legs = self._legs(asked)
        put = self.units.put(loads_on_legs(self.laid, self.trains, legs), legs.t.size)
        lanes = tuple(None if single is None else self.influence(k, asked) for k, single in enumerate(self._singles))
        return Sweep(legs, put, lanes, self._group_sweep(asked) if self.groups.trains else None)

    @cached_property
    def groups(self) -> Groups:
        """Axles that hang together, where the worst of distances is found exactly."""
        if self.step or not self.is_polynomial:
            return Groups([], [], np.full(len(self.trains), -1))
        return groups_of(self.laid, self.trains)

    @cached_property
    def _most_gaps(self) -> int:
        return max((len(t.spot.gaps) for t in self.trains), default=0)

    def _group_sweep(self, asked: Mapping[int, Floats]) -> tuple[Legs, Put]:
        inner = replace(self.laid, traffic=replace(self.laid.traffic, entering=Entering.AXLES))
        legs = legs_of(inner, self.groups.trains, self.equations.mesh, asked)
        return legs, self.units.put(loads_on_legs(self.laid, self.groups.trains, legs), legs.t.size)

    @cached_property
    def whole(self) -> Sweep:
        """The sweep for places that are on no loaded element, or at its ends."""
        return self.sweep()

    def worst(self, places: Places, sweep: Sweep | None = None) -> Worst:
        """The least and the greatest of results at places, whose elements the sweep knows the places on."""
        sweep = sweep or self.whole
        columns = sweep.legs.t.size
        block = max(1, AT_ONCE // max(columns, 1))
        parts = [self._worst(places.take(slice(i, i + block)), sweep) for i in range(0, len(places), block)]
        return Worst.joined(parts) if parts else self._worst(places, sweep)

    def _worst(self, places: Places, sweep: Sweep) -> Worst:
        n, ways = len(places), len(self.laid.ways)
        legs = sweep.legs
        b = from_samples(places.values(sweep.put).reshape(n, *legs.t.T.shape))
        size = np.maximum(b.max(axis=(1, 2), initial=0.0), -b.min(axis=(1, 2), initial=0.0))
        nothing = ROUNDING * (size + 1e-2 * size.max(initial=0.0))
        way_of = np.array([t.spot.way for t in self.trains], np.intp)[legs.train]
        vehicle_of = np.array([t.spot.vehicle for t in self.trains], np.intp)[legs.train]
        value = np.zeros((n, 2, ways))
        train = np.full((n, 2, ways), AWAY)
        t = np.zeros((n, 2, ways))
        lane = np.full((n, 2, ways), AWAY)
        gaps = np.full((n, 2, ways, self._most_gaps), np.nan)
        of_groups = None
        if sweep.groups is not None:
            shape = (n, *sweep.groups[0].t.T.shape)
            of_groups = from_samples(places.values(sweep.groups[1]).reshape(shape))
        for way in range(ways):
            area = self._lane_areas(places, sweep.lanes[way])
            groups = range(len(self.laid.traffic.vehicles)) if area is not None else (None,)
            best = np.full((n, 2), -np.inf)
            for group in groups:
                own = np.flatnonzero((way_of == way) & ((vehicle_of == group) if group is not None else True))
                own_b = b if len(own) == b.shape[2] else b[:, :, own]
                w = self.laid.traffic.vehicles[group].lane if group is not None else 0.0
                for side, sign in enumerate((-1.0, 1.0)):
                    v, at, where = best_on_legs(sign * own_b, legs, own, self._grid)
                    own_gaps = np.full((n, self._most_gaps), np.nan)
                    if of_groups is not None and sweep.groups is not None:
                        self._regrouped(sign * of_groups, sweep.groups[0], v, at, where, own_gaps)
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

    def _regrouped(self, b: Floats, legs: Legs, value: Floats, train: Ints, t: Floats, gaps: Floats) -> None:
        """From the best of the tried distances on: every group of axles to its own best place near by, where the
        distances between them allow it. In place."""
        low, high = 0.0, np.inf
        for f, family in enumerate(self.groups.families):
            rows = np.flatnonzero((train != AWAY) & (self.groups.of_train[train] == f))
            if not len(rows):
                continue
            spots = np.array([self.trains[k].spot.gaps for k in train[rows].tolist()])
            offset = np.hstack([np.zeros((len(rows), 1)), np.cumsum(spots, axis=1)])
            places, total = [], np.zeros(len(rows))
            for group, first in zip(family.groups, family.first, strict=True):
                v, at = best_near(b[rows], legs, group, t[rows] - offset[:, first], family.window)
                places.append(at)
                total += v
            new = spots.copy()
            for k in range(1, len(places)):
                new[:, family.first[k] - 1] = places[k - 1] - family.length[k - 1] - places[k]
            good = (new >= family.ranges[:, 0] - 1e-9).all(axis=1) & (new <= family.ranges[:, 1] + 1e-9).all(axis=1)
            if self.laid.traffic.entering == Entering.WHOLLY:
                length = self.trains[int(train[rows[0]])].way_length
                low, high = new.sum(axis=1), length
                good &= (places[0] >= low - 1e-9) & (places[0] <= high + 1e-9)
            better = good & (total > value[rows] + TIE * np.abs(value[rows]))
            chosen = rows[better]
            value[chosen], t[chosen] = total[better], places[0][better]
            gaps[chosen, : new.shape[1]] = new[better]

    def _lane_areas(self, places: Places, lane: tuple[Legs, Put] | None) -> Floats | None:
        """The areas of influence lines below and above zero (n, 2), both as positive [result/N m]."""
        if lane is None:
            return None
        legs, put = lane
        b = from_samples(places.values(put).reshape(len(places), *legs.t.T.shape)).swapaxes(1, 2)
        stretch = legs.t1 - legs.t0
        return np.column_stack([positive_parts(sign * b)[0] @ stretch for sign in (-1.0, 1.0)])

    def picks(
        self, places: Places, worst: Worst, row: Ints, side: Ints, sweeps: Sequence[Sweep] = (),
        which: Ints | None = None,
    ) -> Picks:  # fmt: skip
        """The positions that make the least (side 0) or greatest (1) of rows of places, with what of their lanes; which
        (n,) of the sweeps knows each place."""
        sweeps = sweeps or [self.whole]
        train, t, vehicle = worst.train[row, side], worst.t[row, side].copy(), worst.lane[row, side]
        lanes = np.empty(train.shape, object)
        lanes[...] = [[()] * train.shape[1]] * len(train) if len(train) else ()
        train = train.copy()
        for i, way in zip(*np.nonzero(vehicle != AWAY), strict=True):
            sign = (-1.0, 1.0)[int(side[i])]
            sweep = sweeps[0 if which is None else int(which[row[i]])]
            lanes[i, way] = self._stretches(places.take([int(row[i])]), sweep.lanes[way], sign)
            if train[i, way] == AWAY and lanes[i, way]:  # the lane load without its vehicle, which has left
                number = self._any_train(int(vehicle[i, way]), int(way))
                train[i, way] = number
                t[i, way] = self.laid.ways[way].length + self.trains[number].length + 1.0
        return Picks(train, t, lanes, worst.gaps[row, side])

    def _any_train(self, vehicle: int, way: int) -> int:
        return next(k for k, t in enumerate(self.trains) if t.spot.vehicle == vehicle and t.spot.way == way)

    def standing(self, picks: Picks, i: int) -> Standing:
        """One of some positions."""
        return Standing("", self.number, tuple(
            replace(self.trains[number].spot, t=float(t), lanes=lanes, gaps=self._gaps(number, gaps))
            for number, t, lanes, gaps in zip(
                picks.train[i].tolist(), picks.t[i], picks.lanes[i], picks.gaps[i], strict=True
            )
            if number != AWAY
        ))  # fmt: skip

    def _gaps(self, number: int, gaps: Floats) -> tuple[float, ...]:
        own = self.trains[number].spot.gaps
        stated = gaps[: len(own)]
        return own if not len(own) or np.isnan(stated).any() else tuple(float(g) for g in stated)

    def _behind(self, number: int, gaps: Floats) -> Floats | None:
        """How far wheels of a train are behind (wheels, n) with gaps (n, gaps); None where all are its own."""
        train = self.trains[number]
        stated = gaps[:, : len(train.spot.gaps)]
        if not stated.size or np.isnan(stated).all():
            return None
        return train.behind_with(np.where(np.isnan(stated), np.array(train.spot.gaps), stated))

    def wheels_on(self, picks: Picks, i: int, member: int) -> Floats:
        """Where on a member wheels of one position stand [m]."""
        out = []
        for way, number in enumerate(picks.train[i].tolist()):
            if number == AWAY:
                continue
            train, one = self.trains[number], self.laid.ways[way]
            s = train.places(picks.t[i, [way]], self._behind(number, picks.gaps[i, [way]]))[:, 0]
            for left in np.unique(train.left).tolist():
                on = one.track(left).carried(s[train.left == left])
                out.append(on.x[on.member == member])
        return np.concatenate(out) if out else np.zeros(0)

    def stepped_wheels(self, most: int) -> tuple[Ints, Floats]:
        """Members and places [m] under wheels at all positions that are stepped through; none for more than `most`."""
        member, x = [np.zeros(0, np.intp)], [np.zeros(0)]
        each = [steps_of(t, self.laid.traffic.entering, self.step) for t in self.trains]
        if sum(len(t) * len(train.behind) for t, train in zip(each, self.trains, strict=True)) > most:
            return member[0], x[0]
        for train, t in zip(self.trains, each, strict=True):
            s = train.places(t)
            for left in np.unique(train.left).tolist():
                on = self.laid.ways[train.spot.way].track(left).carried(s[train.left == left].ravel())
                member.append(on.member)
                x.append(on.x)
        return np.concatenate(member), np.concatenate(x)

    def put(self, picks: Picks) -> Put:
        """The loads of positions, a column each."""
        there = picks.train != AWAY
        count = there.sum(axis=1)
        presence = self.laid.traffic.presence
        factor = np.array([presence[min(max(n, 1), len(presence)) - 1] for n in range(there.shape[1] + 1)])
        parts: list[PlainLoads] = []
        for way, one in enumerate(self.laid.ways):
            for number in np.unique(picks.train[there[:, way], way]).tolist():
                for loaded in np.unique(count[picks.train[:, way] == number]).tolist():
                    rows = np.flatnonzero((picks.train[:, way] == number) & (count == loaded))
                    t, f = picks.t[rows, way], float(factor[loaded])
                    behind = self._behind(number, picks.gaps[rows, way])
                    parts.append(loads_of_train(one, self.trains[number], t, rows, f, behind))
            stretches = [
                (a, b, self.trains[picks.train[i, way]].vehicle.lane * factor[count[i]], i)
                for i in np.flatnonzero(there[:, way]).tolist() for a, b in picks.lanes[i, way]
            ]  # fmt: skip
            if stretches:
                begin, end, amount, column = (np.array(c) for c in zip(*stretches, strict=True))
                parts.append(replace(lane_loads(one, begin, end, amount, column, 0), sources=()))
        loads = gather([replace(p, sources=()) for p in parts])
        return self.units.put(PlainLoads(loads.lines, loads.points), len(picks.train))

    def _stretches(self, place: Places, lane: tuple[Legs, Put] | None, sign: float) -> tuple[tuple[float, float], ...]:
        """Where on the way the influence line of one place has this sign."""
        assert lane is not None
        legs, put = lane
        b = sign * from_samples(place.values(put).reshape(1, *legs.t.T.shape)).swapaxes(1, 2)
        found = [(float(legs.t0[k]), float(legs.t1[k])) for k in np.flatnonzero(b[0].min(axis=1) >= 0).tolist()
                 if b[0, k].max() > 0]  # fmt: skip
        _, row, u0, u1 = positive_parts(b)
        for k, a, c in zip(row.tolist(), u0.tolist(), u1.tolist(), strict=True):
            step = float(legs.t1[k] - legs.t0[k])
            found.append((float(legs.t0[k]) + a * step, float(legs.t0[k]) + c * step))
        joined: list[tuple[float, float]] = []
        for a, c in sorted(found):
            if joined and a - joined[-1][1] < 1e-7:
                joined[-1] = joined[-1][0], max(c, joined[-1][1])
            elif c > a:
                joined.append((a, c))
        return tuple((a, c) for a, c in joined if c - a > SLIVER)

    def stepped(self, train: Train) -> Floats:
        """The positions t [m] that are stepped through; where the worst is found exactly, the ends of legs."""
        if self.step:
            return steps_of(train, self.laid.traffic.entering, self.step)
        legs = self.whole.legs
        number = next(k for k, t in enumerate(self.trains) if t is train)
        own = legs.train == number
        return np.unique(np.concatenate([legs.t0[own], legs.t1[own]]))
