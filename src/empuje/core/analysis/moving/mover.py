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
from ...model.words import Entering, Heading
from ..equations import Equations
from .bernstein import from_samples, positive_parts
from .groups import Groups, groups_of
from .leg_peaks import AWAY, Grid, in_grains
from .legs import Legs, legs_of, loads_on_legs, stood_at
from .places import Places
from .positions import Picks, Sweep, Worst
from .units import Put, Units, units_of
from .worst import ROUNDING, Finder

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
AT_ONCE = 4_000_000
"""Coefficients held at a time."""
PROVEN, PROVEN_AT_ONCE = 1e-8, 96
"""A position is told where its loads by themselves make its value to this share; so many are looked at together."""
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
        return Grid.of(self._stood) if self.step else None

    @cached_property
    def _stood(self) -> list[Floats]:
        return stood_at(self.laid, self.trains, self.equations.mesh, self.step)

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
        other.__dict__["groups"] = Groups([], [])
        return other

    @property
    def turned(self) -> Mover:
        """The same traffic going the other way only."""
        other = {Heading.FORWARD: Heading.BACKWARD, Heading.BACKWARD: Heading.FORWARD}
        traffic = self.laid.traffic
        heading = other.get(traffic.heading, traffic.heading)
        return replace(self, laid=replace(self.laid, traffic=replace(traffic, heading=heading)))

    @property
    def step(self) -> float:
        """Between positions [m]; 0: exact."""
        return self.laid.traffic.step

    @property
    def _unit(self) -> float:
        """The length in which positions are told [m]."""
        return self.laid.traffic.unit[1]

    @cached_property
    def _finder(self) -> Finder:
        return Finder(self.laid, self.trains, self.groups, self._grid)

    @cached_property
    def units(self) -> Units:
        """The answers to unit loads. Raises Unstable."""
        loads = [loads_on_legs(self.laid, self.trains, self._legs(NOWHERE))]
        count = self._legs(NOWHERE).t.size
        over = [any(s.on_nodes is not None for s in one.middle.stretches) for one in self.laid.ways]
        for k, asked in enumerate(self._singles):
            # On elements the middle of a way has nodes of its own, which its influence line needs.
            single = self.single(k) if over[k] else asked
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
            return Groups([], [])
        return groups_of(self.laid, self.trains)

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
        parts = [self._finder.worst(places.take(slice(i, i + block)), sweep) for i in range(0, len(places), block)]
        return Worst.joined(parts) if parts else self._finder.worst(places, sweep)

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
        return Picks(train, t, lanes, worst.gaps[row, side], np.ones(len(row), bool))

    def proven(self, places: Places, worst: Worst, row: Ints, side: Ints, picks: Picks) -> Picks:
        """Positions (n,) that are to be told: sure are those which, put on as loads by themselves, make the values of
        their rows and sides."""
        value = worst.value[row, side]
        size = np.abs(worst.value).max(axis=1, initial=0.0)
        size = np.maximum(size, ROUNDING * size.max(initial=0.0))[row]
        own = np.empty(len(row))
        for i in range(0, len(row), PROVEN_AT_ONCE):
            some = slice(i, i + PROVEN_AT_ONCE)
            put = self.put(picks.rows(np.arange(len(row))[some]))
            own[some] = np.diagonal(places.take(row[some]).values(put))
        return replace(picks, sure=np.abs(own - value) <= PROVEN * size)

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
        """Distances [m] of a train's wheels behind its first axle (wheels, n). Gaps (n, gaps) [m] are NaN where its own
        hold; None where all are its own."""
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
        if sum(len(t) * len(train.behind) for t, train in zip(self._stood, self.trains, strict=True)) > most:
            return member[0], x[0]
        for train, t in zip(self.trains, self._stood, strict=True):
            s = train.places(t)
            for left in np.unique(train.left).tolist():
                on = self.laid.ways[train.spot.way].track(left).carried(s[train.left == left].ravel())
                member.append(on.member[on.member >= 0])
                x.append(on.x[on.member >= 0])
        return np.concatenate(member), np.concatenate(x)

    def put(self, picks: Picks) -> Put:
        """The loads of positions, each a column of its own, with the factor for so many loaded ways."""
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
        return self.units.put(PlainLoads(loads.lines, loads.points, loads.nodes), len(picks.train))

    def _stretches(self, place: Places, lane: tuple[Legs, Put] | None, sign: float) -> tuple[tuple[float, float], ...]:
        """Where on the way the influence line of one place has this sign."""
        assert lane is not None
        legs, put = lane
        b = sign * from_samples(place.values(put).reshape(1, *legs.t.T.shape)).swapaxes(1, 2)
        found = [(float(legs.t0[k]), float(legs.t1[k])) for k in np.flatnonzero(b[0].min(axis=1) >= 0).tolist()
                 if b[0, k].max() > 0]  # fmt: skip
        _, row, u0, u1 = positive_parts(b)
        for k, a, c in zip(row.tolist(), u0.tolist(), u1.tolist(), strict=True):
            low, high = float(legs.t0[k]), float(legs.t1[k])
            ends = (low if u == 0 else high if u == 1 else float(in_grains(low + u * (high - low), self._unit))
                    for u in (a, c))  # fmt: skip
            found.append((next(ends), next(ends)))
        joined: list[tuple[float, float]] = []
        for a, c in sorted(found):
            if joined and a - joined[-1][1] < 1e-7:
                joined[-1] = joined[-1][0], max(c, joined[-1][1])
            elif c > a:
                joined.append((a, c))
        return tuple((a, c) for a, c in joined if c - a > SLIVER)

    def stepped(self, train: Train) -> Floats:
        """The positions t [m] that are stepped through; where the worst is found exactly, the ends of legs."""
        number = next(k for k, t in enumerate(self.trains) if t is train)
        if self.step:
            return self._stood[number]
        legs = self.whole.legs
        own = legs.train == number
        return np.unique(np.concatenate([legs.t0[own], legs.t1[own]]))
