"""Positions of a traffic as arrays: the worst ones of results, chosen ones, and the legs they are found on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from .legs import Legs
from .units import Put

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Worst:
    """Of results (n,), the least and the greatest (n, 2) over all positions; and where: on every way the train (n, 2,
    ways), or AWAY, the front's t [m], the vehicle whose lane load is there or -1; gaps (n, 2, ways, gaps) [m] where
    they are not the train's own, else nan."""

    value: Floats
    train: Ints
    t: Floats
    lane: Ints
    gaps: Floats

    def rows(self, rows: Ints) -> Worst:
        """Some of them."""
        return Worst(*(getattr(self, f.name)[rows] for f in fields(self)))

    @staticmethod
    def joined(parts: Sequence[Worst]) -> Worst:
        """One below the other."""
        return Worst(*(np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(Worst)))


@dataclass(frozen=True)
class Picks:
    """Positions (n,): on every way the train (n, ways) or AWAY, the front's t [m], the stretches [m] of the way that
    bear a lane load at will, and gaps (n, ways, gaps) [m] where they are not the train's own, else nan; `sure` (n,):
    whether the loads of the position make the value that it was found for."""

    train: Ints
    t: Floats
    lanes: NDArray[np.object_]
    gaps: Floats
    sure: NDArray[np.bool_]

    def rows(self, rows: Ints) -> Picks:
        """Some of them."""
        return Picks(*(getattr(self, f.name)[rows] for f in fields(self)))

    @staticmethod
    def joined(parts: Sequence[Picks]) -> Picks:
        """One below the other."""
        return Picks(*(np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(Picks)))


@dataclass(frozen=True)
class Sweep:
    """All legs of a traffic with the loads they are looked at with; `lanes`: of every way the legs of a single force of
    1 N along its middle, where lane loads stand at will; `groups`: the legs of groups of axles between ranges."""

    legs: Legs
    put: Put
    lanes: tuple[tuple[Legs, Put] | None, ...]
    groups: tuple[Legs, Put] | None = None
