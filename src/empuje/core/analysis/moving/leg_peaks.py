"""The greatest values of polynomials on legs: anywhere, or at the steps of a grid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model.traffic import BESIDE
from .bernstein import basis, stationary
from .legs import Legs

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
TIE, SAME = 1e-12, 1e-9
GRAIN = 1e-6
"""Positions where the slope is zero are told, and taken, to this share of the unit of length: values stay."""
AWAY = -1
"""No train: the vehicle has not come yet, or has left."""


@dataclass(frozen=True)
class Grid:
    """The positions [m] that are stepped through: of all trains in a row, each beginning a stride after the one
    before."""

    at: Floats
    first: Ints
    stride: float

    @staticmethod
    def of(each: Sequence[Floats]) -> Grid:
        """Of the positions of every train, in order."""
        stride = max((float(t[-1]) for t in each if len(t)), default=0.0) + 1.0
        first = np.append(0, np.cumsum([len(t) for t in each])).astype(np.intp)
        return Grid(np.concatenate([k * stride + t for k, t in enumerate(each)]), first, stride)

    def next(self, legs: Legs, leg: Ints, u: Floats, way: int) -> Floats:
        """The position at u on legs, or the next one that way, nan where it is on another leg."""
        train, t0, t1 = legs.train[leg], legs.t0[leg], legs.t1[leg]
        asked = train * self.stride + t0 + u * (t1 - t0)
        number = (
            np.searchsorted(self.at, asked + SAME, "right") - 1 if way < 0 else np.searchsorted(self.at, asked - SAME)
        )
        there = (number >= self.first[train]) & (number < self.first[train + 1])
        t = self.at[np.where(there, number, 0)] - train * self.stride
        inside = there & (t >= t0 - SAME) & (t <= t1 + SAME)
        stretch = np.where(t1 > t0, t1 - t0, 1.0)
        return np.where(inside, np.clip((t - t0) / stretch, 0.0, 1.0), np.nan)


def best_on_legs(b: Floats, legs: Legs, own: Ints, grid: Grid | None, unit: float = 1.0) -> tuple[Floats, Ints, Floats]:
    """The greatest values (n,) of polynomials on the chosen legs, their trains, and t, told in a unit [m]."""
    n = len(b)
    if not b.shape[2]:
        return np.full(n, -np.inf), np.full(n, AWAY), np.zeros(n)
    t0, t1 = legs.t0[own], legs.t1[own]
    u = _looked_at(legs, own, grid)
    if grid is None:
        ends = b[:, [0, -1]]
    else:
        weights = np.where(np.isnan(u)[..., None], 0.0, basis(legs.degree, np.nan_to_num(u)))
        ends = np.stack([(b * weights[:, j].T).sum(axis=1) for j in (0, 1)], axis=1)
        ends = np.where(np.isnan(u).T, -np.inf, ends)
    most = b.max(axis=1)
    close = TIE * np.maximum(most.max(axis=1), -b.min(axis=(1, 2)))
    best = ends.max(axis=(1, 2))
    # Of equal ones the first leg, and its beginning before its end.
    both = ends >= (best - close)[:, None, None]
    leg = both.any(axis=1).argmax(axis=1)
    first = np.where(both[np.arange(n), 0, leg], 0, 1)
    at = (t0 + np.nan_to_num(u[:, 0]) * (t1 - t0), t0 + np.nan_to_num(u[:, 1]) * (t1 - t0))
    t = np.where(first == 0, at[0][leg], at[1][leg])
    row, k = np.nonzero(most > (best + close)[:, None])
    if len(row):
        inner = b[row, :, k]
        for place in stationary(inner):
            for tried in _near(place, own[k], legs, grid):
                v = (inner * basis(legs.degree, np.nan_to_num(tried))).sum(axis=1)
                v = np.where(np.isnan(tried), -np.inf, v)
                some = np.flatnonzero(v > best[row] + close[row])
                some = some[np.lexsort((some, -v[some], row[some]))]
                r, first = np.unique(row[some], return_index=True)
                some = some[first]
                best[r], leg[r] = v[some], k[some]
                t[r] = t0[k[some]] + tried[some] * (t1 - t0)[k[some]]
    if grid is None:
        t = np.where((t > t0[leg]) & (t < t1[leg]), in_grains(t, unit), t)
    # On its leg, not at the end of it, a wheel is on the side of a node or place from which the value came.
    inside = np.where(t1 - t0 > 4 * BESIDE, BESIDE, 0.0)[leg]
    return best, legs.train[own][leg], np.clip(t, t0[leg] + inside, t1[leg] - inside)


def in_grains(t: Floats, unit: float) -> Floats:
    """Places [m] as they are told in a unit [m]."""
    return np.asarray(np.round(t / (GRAIN * unit)) * (GRAIN * unit))


def _looked_at(legs: Legs, own: Ints, grid: Grid | None) -> Floats:
    """The first and last position u (legs, 2) on each leg, nan where there is none."""
    if grid is None:
        return np.tile([0.0, 1.0], (len(own), 1))
    return np.column_stack([grid.next(legs, own, np.full(len(own), v), way) for v, way in ((0.0, 1), (1.0, -1))])


def _near(u: Floats, leg: Ints, legs: Legs, grid: Grid | None) -> list[Floats]:
    """The positions to be tried around u on legs: itself, or the steps on both sides of it."""
    return [u] if grid is None else [grid.next(legs, leg, u, way) for way in (-1, 1)]
