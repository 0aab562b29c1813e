"""Where groups of axles at variable distances are worst together, from the rear on:

    worst(k..n behind p) = greatest over couplings k..j, at q with lo <= p - q <= hi, of own(q) + worst(j+1..n behind q)

Candidates q are the ends of the coupling's legs, where it is looked at from either side, and where its slope is zero
between them: at every other place a step one way or the other makes more.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model.traffic import BESIDE
from ...model.words import Entering
from .bernstein import basis, stationary
from .groups import Coupled, Family
from .leg_peaks import in_grains
from .legs import Legs

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
NEAR = 1e-9
"""Distances this little beyond their range [m] are at its end."""
OFF = 1e-6
"""Axles that are away are further than this [m] beyond the ends of the way."""


@dataclass(frozen=True)
class Apart:
    """Of rows (n,) the greatest values, and where every group stands (n, groups) [m], -inf before it has come and inf
    where it has left."""

    value: Floats
    place: Floats


@dataclass(frozen=True)
class _Tops:
    """Candidates (n, m) of a coupling in order along the way: place [m], on which side of it (1 after, -1 before, 0),
    and value, -inf where there is none; `begin`, `end` (legs,): of legs [m], with so many candidates each."""

    place: Floats
    side: Ints
    value: Floats
    begin: Floats
    end: Floats
    each: int


@dataclass(frozen=True)
class _Chain:
    """Candidates of a coupling with the best of what follows it: total (n, m), and which coupling (n, m) and candidate
    (n, m) comes next, -1 for none: all that follows has not come yet."""

    coupled: Coupled
    tops: _Tops
    total: Floats
    next: Ints
    at: Ints


def worst_apart(b: Floats, legs: Legs, family: Family, entering: Entering, way: float, unit: float = 1.0) -> Apart:
    """The greatest sums of rows b (n, degree + 1, legs) of the couplings' polynomials, over all allowed distances, on a
    way of this length [m], told in a unit [m]. -inf where nothing is allowed."""
    n, groups = len(b), len(family.axle)
    wholly = entering == Entering.WHOLLY
    kept: dict[tuple[int, float, float], _Tops] = {}
    chains: list[list[_Chain]] = [[] for _ in range(groups)]
    for k in reversed(range(groups)):
        for one in (c for c in family.coupled if c.first == k):
            low = one.length if wholly and one.last == groups - 1 else -np.inf
            high = way if wholly and k == 0 else np.inf
            key = one.train, low, high
            if key not in kept:
                kept[key] = _tops(b, legs, one.train, low, high)
            chains[k].append(_followed(kept[key], one, family, chains, wholly))
    best, start = np.full(n, -np.inf), np.full((n, 3), -1)
    for k in range(groups):
        for which, chain in enumerate(chains[k]):
            total = chain.total
            if k:
                # What is before it has left.
                gone = (not wholly) & (chain.tops.place + family.ranges[k - 1, 1] > way + OFF)
                total = np.where(gone, total, -np.inf)
            at = total.argmax(axis=1)
            value = total[np.arange(n), at]
            better = value > best
            best = np.where(better, value, best)
            start[better] = np.column_stack([np.full(n, k), np.full(n, which), at])[better]
    return Apart(best, _places(chains, family, start, unit))


def _tops(b: Floats, legs: Legs, train: int, low: float, high: float) -> _Tops:
    own = np.flatnonzero((legs.train == train) & (legs.t0 >= low - NEAR) & (legs.t1 <= high + NEAR))
    n, degree, m = len(b), legs.degree, len(own)
    t0, t1, c = legs.t0[own], legs.t1[own], b[:, :, own]
    each = degree + 1  # both ends, and where the slope is zero
    u = np.zeros((n, m, each))
    value = np.full((n, m, each), -np.inf)
    u[:, :, -1] = 1.0
    value[:, :, 0], value[:, :, -1] = c[:, 0], c[:, -1]
    row, k = np.nonzero(c.max(axis=1) > np.maximum(c[:, 0], c[:, -1])) if m else (np.zeros(0, np.intp),) * 2
    if len(row):
        inner = c[row, :, k]
        found = np.sort(np.column_stack(stationary(inner)), axis=1)
        for j in range(found.shape[1]):
            inside = (found[:, j] > 0) & (found[:, j] < 1)
            u[row, k, 1 + j] = np.where(inside, found[:, j], 0.0)
            value[row, k, 1 + j] = np.where(inside, (inner * basis(degree, found[:, j])).sum(axis=1), -np.inf)
    place = t0[:, None] + u * (t1 - t0)[:, None]
    side = np.zeros((n, m, each), np.intp)
    long = t1 - t0 > 4 * BESIDE
    side[:, :, 0], side[:, :, -1] = long, -1 * long
    flat = n, m * each
    return _Tops(place.reshape(flat), side.reshape(flat), value.reshape(flat), t0, t1, each)


def _followed(
    tops: _Tops, one: Coupled, family: Family, chains: list[list[_Chain]], wholly: bool
) -> _Chain:  # fmt: skip
    n, m = tops.value.shape
    nothing = np.full((n, m), -1)
    if one.last == len(family.axle) - 1:
        return _Chain(one, tops, tops.value, nothing, nothing)
    rear = tops.place - one.length
    low, high = family.ranges[one.last]
    # What follows has not come yet.
    rest = np.where((not wholly) & (rear - high < -OFF), 0.0, -np.inf)
    next_, at = nothing.copy(), nothing.copy()
    for which, chain in enumerate(chains[one.last + 1]):
        stop = _count(chain.tops, rear - low + NEAR)
        if np.isfinite(high):
            value, found = _greatest(chain.total, _count(chain.tops, rear - high - NEAR, open_=True), stop)
        else:
            value, found = _greatest_before(chain.total, stop)
        better = value > rest
        rest, next_, at = np.where(better, value, rest), np.where(better, which, next_), np.where(better, found, at)
    return _Chain(one, tops, tops.value + rest, next_, at)


def _count(tops: _Tops, at: Floats, open_: bool = False) -> Ints:
    """How many candidates (n, q) lie at or below (`open_`: below) places (n, q)."""
    if not tops.place.shape[1]:
        return np.zeros(at.shape, np.intp)
    # Legs follow one another, so that only those of one leg are to be told apart.
    leg = np.maximum(np.searchsorted(tops.begin, at, side="left" if open_ else "right") - 1, 0)
    out = leg * tops.each
    row = np.arange(len(at))[:, None]
    for j in range(tops.each):
        own = tops.place[row, leg * tops.each + j]
        out = out + ((own < at) if open_ else (own <= at))
    return np.asarray(out)


def _greatest_before(value: Floats, stop: Ints) -> tuple[Floats, Ints]:
    """The greatest of the first `stop` (n, q) of value (n, m), and which; -inf of none."""
    n, m = value.shape
    if not m:
        return np.full(stop.shape, -np.inf), np.full(stop.shape, -1)
    most = np.maximum.accumulate(value, axis=1)
    risen = value > np.hstack([np.full((n, 1), -np.inf), most[:, :-1]])
    which = np.maximum.accumulate(np.where(risen, np.arange(m), 0), axis=1)
    last = np.maximum(stop - 1, 0)
    row = np.arange(n)[:, None]
    return np.where(stop > 0, most[row, last], -np.inf), which[row, last]


def _greatest(value: Floats, begin: Ints, stop: Ints) -> tuple[Floats, Ints]:
    """The greatest of value (n, m) from `begin` (n, q) to before `stop` (n, q), and which; -inf of none."""
    n, m = value.shape
    if not m:
        return np.full(begin.shape, -np.inf), np.full(begin.shape, -1)
    row = np.arange(n)[:, None]
    level = np.tile(np.arange(m), (n, 1))
    levels = [level]
    width = 1
    while 2 * width <= m:
        a, c = level[:, : m - 2 * width + 1], level[:, width : m - width + 1]
        level = np.where(value[row, a] >= value[row, c], a, c)
        levels.append(level)
        width *= 2
    size = stop - begin
    some = size > 0
    power = np.log2(np.maximum(size, 1)).astype(np.intp)
    found = np.full(begin.shape, -1)
    for k, table in enumerate(levels):
        r, q = np.nonzero(some & (power == k))
        if not len(r):
            continue
        a, c = table[r, begin[r, q]], table[r, stop[r, q] - (1 << k)]
        found[r, q] = np.where(value[r, a] >= value[r, c], a, c)
    return np.where(some, value[row, np.maximum(found, 0)], -np.inf), found


def _places(chains: list[list[_Chain]], family: Family, start: Ints, unit: float) -> Floats:
    """Where every group stands (n, groups), from the first coupling on."""
    n, groups = len(start), len(family.axle)
    out = np.full((n, groups), -np.inf)
    for k in range(groups):
        out[start[:, 0] > k, k] = np.inf
    state, side = start.copy(), np.zeros((n, groups), np.intp)
    for k in range(groups):
        for which, chain in enumerate(chains[k]):
            rows = np.flatnonzero((state[:, 0] == k) & (state[:, 1] == which))
            if not len(rows):
                continue
            at, one = state[rows, 2], chain.coupled
            place, beside, leg = chain.tops.place[rows, at], chain.tops.side[rows, at], at // chain.tops.each
            inside = (place > chain.tops.begin[leg]) & (place < chain.tops.end[leg])
            place = np.where(inside, in_grains(place, unit), place)
            for j in range(one.first, one.last + 1):
                out[rows, j], side[rows, j] = place, beside
                if j < one.last:
                    place = place - family.length[j] - one.gaps[j - one.first]
            state[rows] = np.column_stack([
                np.full(len(rows), one.last + 1), chain.next[rows, at], chain.at[rows, at],
            ])  # fmt: skip
    # Those that stand nowhere in particular go with a neighbour, so that distances are as they were, or off by a step.
    for k in reversed(range(groups - 1)):
        side[:, k] = np.where(side[:, k] == 0, side[:, k + 1], side[:, k])
    for k in range(1, groups):
        side[:, k] = np.where(side[:, k] == 0, side[:, k - 1], side[:, k])
    return np.asarray(out + BESIDE * side)


def distances(family: Family, place: Floats, way: float) -> tuple[Floats, Floats]:
    """Where the foremost axle is (n,) and the distances between groups (n, groups - 1) [m] from where each stands;
    those that are away are beyond the ends of the way."""
    n, groups = place.shape
    place = place.copy()
    gaps = np.zeros((n, groups - 1))
    low, high = family.ranges[:, 0], family.ranges[:, 1]
    for k in range(groups - 1):  # what has not come yet
        away = np.flatnonzero(np.isneginf(place[:, k + 1]) & np.isfinite(place[:, k]))
        rear = place[away, k] - family.length[k]
        place[away, k + 1] = rear - np.minimum(np.maximum(low[k], rear + 1.0), high[k])
    for k in reversed(range(groups - 1)):  # what has left
        away = np.flatnonzero(np.isposinf(place[:, k]) & np.isfinite(place[:, k + 1]))
        gap = np.minimum(np.maximum(low[k], way + 1.0 - place[away, k + 1]), high[k])
        place[away, k] = place[away, k + 1] + gap + family.length[k]
    with np.errstate(invalid="ignore"):
        for k in range(groups - 1):
            gaps[:, k] = place[:, k] - family.length[k] - place[:, k + 1]
    return place[:, 0], gaps
