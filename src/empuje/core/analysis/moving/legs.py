"""Legs of a journey: between their ends no wheel passes a node, a change of what carries it, or an asked place, so that
every result is one polynomial of the front's position t along each.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...actions.traffic.laid import Laid, LaidWay, loads_of_train
from ...actions.traffic.train import Train
from ...model.loads import PlainLoads, gather
from ...model.words import Entering
from ..mesh import Mesh
from .bernstein import samples

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SHORTEST = 1e-9


@dataclass(frozen=True)
class Legs:
    """train (legs,), t0, t1 (legs,) [m], and the places at which every leg is looked at, t (legs, degree + 1)."""

    train: Ints
    t0: Floats
    t1: Floats
    t: Floats

    @property
    def degree(self) -> int:
        """Of the polynomials along them."""
        return int(self.t.shape[1]) - 1


def breaks_of_track(one: LaidWay, left: float, mesh: Mesh, asked: Mapping[int, Floats]) -> Floats:
    """Places [m] along a way at which wheels on a track `left` [m] of its middle pass a node, the end of a loaded
    member, or a place `asked` about, by member [m]."""
    out = []
    for stretch in one.track(left).stretches:
        out.append(np.array([stretch.s0, stretch.s1]))
        for touch in stretch.touches:
            if abs(touch.x1) < 1e-9:
                continue
            a, b = mesh.first[touch.member], mesh.first[touch.member + 1]
            x = np.concatenate([mesh.s0[a:b], asked.get(touch.member, np.zeros(0))])
            s = (x - touch.x0) / touch.x1
            out.append(s[(s > stretch.s0) & (s < stretch.s1)])
    return np.unique(np.concatenate(out)) if out else np.zeros(0)


def degree_of(laid: Laid, trains: Sequence[Train]) -> int:
    """The degree of the polynomials along legs: three of a force on an element, one more where shares change, and one
    more where a lane load ends at the vehicle."""
    tracks = [laid.ways[t.spot.way].track(left) for t in trains for left in np.unique(t.left).tolist()]
    lanes = any(t.vehicle.lane and not t.vehicle.adverse_lane for t in trains)
    return 3 + (not all(t.is_level for t in tracks)) + lanes


def legs_of(
    laid: Laid, trains: Sequence[Train], mesh: Mesh, asked: Mapping[int, Floats], finest: float = np.inf
) -> Legs:
    """The legs of trains; none longer than `finest` [m]."""
    degree = degree_of(laid, trains)
    entering = laid.traffic.entering
    train_of, begin, end = [], [], []
    known: dict[tuple[int, float], Floats] = {}
    for number, train in enumerate(trains):
        one = laid.ways[train.spot.way]
        low, high = train.reach(entering)
        rolling = [(float(left), train.behind[train.left == left]) for left in np.unique(train.left).tolist()]
        if train.vehicle.lane and not train.vehicle.adverse_lane:
            rolling.append((one.way.aside, np.array([0.0, train.length])))
        cuts = [np.array([low, high])]
        for left, behind in rolling:
            key = train.spot.way, round(left, 9)
            if key not in known:
                known[key] = breaks_of_track(one, left, mesh, asked)
            s = known[key] if train.spot.heading > 0 else train.way_length - known[key]
            cuts.append((s[:, None] + behind).ravel())
        t = np.unique(np.concatenate(cuts))
        t = t[(t >= low) & (t <= high)]
        t = t[np.append(True, np.diff(t) > SHORTEST)]
        if np.isfinite(finest):
            t = np.unique(np.concatenate([t, np.arange(low, high, finest)]))
        if len(t) == 1:  # a vehicle as long as its way stands in one place
            t = np.append(t, t)
        train_of.append(np.full(len(t) - 1, number))
        begin.append(t[:-1])
        end.append(t[1:])
    which, t0, t1 = np.concatenate(train_of), np.concatenate(begin), np.concatenate(end)
    return Legs(which, t0, t1, t0[:, None] + (t1 - t0)[:, None] * samples(degree))


def loads_on_legs(laid: Laid, trains: Sequence[Train], legs: Legs) -> PlainLoads:
    """The loads of every place at which the legs are looked at: columns of the first place of all legs, the second,
    ..."""
    points = legs.t.shape[1]
    parts = []
    for number, train in enumerate(trains):
        own = np.flatnonzero(legs.train == number)
        column = (own[:, None] + len(legs.t) * np.arange(points)).ravel()
        parts.append(loads_of_train(laid.ways[train.spot.way], train, legs.t[own].ravel(), column))
    loads = gather(parts)
    return PlainLoads(loads.lines, loads.points, loads.nodes)


def stood_at(laid: Laid, trains: Sequence[Train], mesh: Mesh, step: float) -> list[Floats]:
    """The positions [m] of every train where these are stepped through: the steps, and where an axle is exactly at a
    node, or where what carries it changes, as at the ends of its way and the corners of decks."""
    entering, out = laid.traffic.entering, []
    known: dict[tuple[int, float], Floats] = {}
    for train in trains:
        low, high = train.reach(entering)
        one, cuts = laid.ways[train.spot.way], [np.zeros(0)]
        for behind, left in train.middles:
            key = train.spot.way, left
            if key not in known:
                known[key] = breaks_of_track(one, left, mesh, {})
            cuts.append((known[key] if train.spot.heading > 0 else train.way_length - known[key]) + behind)
        marks = np.unique(np.concatenate(cuts))
        every = np.union1d(steps_of(train, entering, step), marks[(marks >= low) & (marks <= high)])
        out.append(every[np.append(True, np.diff(every) > SHORTEST)] if len(every) else every)
    return out


def steps_of(train: Train, entering: Entering, step: float) -> Floats:
    """The stepped positions [m]: from the first on, to the first at which the vehicle has left, or stands at the
    end."""
    low, high = train.reach(entering)
    if high < low:
        return np.zeros(0)
    count = int(np.floor((high - low) / step + 1e-9))
    t = low + step * np.arange(count + 1)
    if entering == Entering.WHOLLY:
        return np.asarray(np.append(t, high) if high - t[-1] > 1e-9 else t)
    return np.append(t, low + step * (count + 1))
