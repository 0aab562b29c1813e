"""Axles whose distance is a range: groups of axles that hang together, and groups coupled at the ends of ranges.

What groups make of a result adds up, each a function of its own place. Where the worst is, every distance is either at
an end of its range, and couples its neighbours to one, or inside it, so that both sides stand where they are worst by
themselves. The coupled ones are trains of fixed distances.

        group 2          group 1
        o    o           o       --->
             |<- gap ->|         lo <= gap <= hi
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from ...actions.traffic.laid import Laid
from ...actions.traffic.train import Train, gap_ranges, is_apart, open_gaps

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Coupled:
    """Groups `first` to `last` at fixed distances: `train`: its number among those of all; `length` [m] from the first
    axle to the last; `gaps` [m] between its groups."""

    first: int
    last: int
    train: int
    length: float
    gaps: tuple[float, ...]


@dataclass(frozen=True)
class Family:
    """A vehicle, or a row of them, whose distances are ranges: `train`: it with the least of all distances, by its
    number; of every group its first axle and own length [m]; ranges (groups - 1, 2) between them [m], without upper end
    where it does not matter; all couplings."""

    train: int
    axle: tuple[int, ...]
    length: tuple[float, ...]
    ranges: Floats
    coupled: tuple[Coupled, ...]


@dataclass(frozen=True)
class Groups:
    """All couplings as trains, and the families that they are of."""

    trains: list[Train]
    families: list[Family]


def groups_of(laid: Laid, trains: Sequence[Train]) -> Groups:
    """The groups of trains with ranges."""
    out: list[Train] = []
    known: dict[tuple[object, ...], int] = {}
    families = [
        _family(laid, number, train, out, known) for number, train in enumerate(trains)
        if is_apart(laid.traffic, train.vehicle) and len(open_gaps(laid.traffic, train.vehicle, train.way_length))
    ]  # fmt: skip
    return Groups(out, families)


def _family(
    laid: Laid, number: int, train: Train, out: list[Train], known: dict[tuple[object, ...], int]
) -> Family:  # fmt: skip
    s, traffic = train.spot, laid.traffic
    every = np.array(gap_ranges(traffic, train.vehicle, train.way_length)).reshape(-1, 2)
    open_ = open_gaps(traffic, train.vehicle, train.way_length)
    begins = [0, *(g + 1 for g in open_)]
    ends = [*begins[1:], len(every) + 1]
    ranges = every[open_].copy()
    # Axles further apart than the way is long are not on it together.
    ranges[ranges[:, 1] >= train.way_length, 1] = np.inf
    lengths = tuple(float(sum(s.gaps[a : b - 1])) for a, b in zip(begins, ends, strict=True))
    coupled = []
    for i in range(len(begins)):
        for j in range(i, len(begins)):
            for gaps in product(*({float(low), float(high)} - {np.inf} for low, high in ranges[i:j])):
                coupled.append(_coupled(train, begins, ends, lengths, i, j, tuple(gaps), out, known))
    return Family(number, tuple(begins), lengths, ranges, tuple(coupled))


def _coupled(
    train: Train, begins: Sequence[int], ends: Sequence[int], lengths: Sequence[float], i: int, j: int,
    gaps: tuple[float, ...], out: list[Train], known: dict[tuple[object, ...], int],
) -> Coupled:  # fmt: skip
    s = train.spot
    own = list(s.gaps)
    for k, gap in enumerate(gaps, start=i):
        own[begins[k + 1] - 1] = gap
    a, b = begins[i], ends[j]
    wheels = (train.axle >= a) & (train.axle < b)
    behind = train.behind_with(np.array([own]))[wheels, 0] - sum(own[:a])
    fixed = tuple(own[a : b - 1])
    # Of vehicles in a row all are alike.
    alike = (s.way, s.heading, s.vehicle, s.brake, s.side, *np.round(behind, 12).tolist(), *train.left[wheels].tolist(),
             *train.down[wheels].tolist(), *train.along[wheels].tolist(), *train.across[wheels].tolist())  # fmt: skip
    if alike not in known:
        known[alike] = len(out)
        out.append(replace(
            train, spot=replace(s, gaps=fixed), behind=behind, left=train.left[wheels], down=train.down[wheels],
            along=train.along[wheels], across=train.across[wheels], axle=train.axle[wheels] - a,
            vehicle=replace(train.vehicle, lane=0.0),
        ))  # fmt: skip
    return Coupled(i, j, known[alike], float(sum(lengths[i : j + 1]) + sum(gaps)), gaps)
