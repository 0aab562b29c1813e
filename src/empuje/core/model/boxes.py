"""Which boxes along the axes meet, and which points lie in them: swept along one axis, in blocks of bounded size.

low o------+              every box is held against those that begin
    |   o--|---+          before it ends, along the axis on which
    +---|--o high         the boxes are spread most
        +------+
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
AT_ONCE = 1_000_000
"""Pairs held against each other at a time."""


def box_pairs(low: Floats, high: Floats) -> Iterator[tuple[Ints, Ints]]:
    """Pairs i < j of boxes (n, 3) that meet or touch, each once, in blocks.

    >>> low, high = np.array([[0.0, 0, 0], [2, 0, 0], [0, 9, 0]]), np.array([[3.0, 1, 1], [5, 1, 1], [9, 9, 9]])
    >>> [(i.tolist(), j.tolist()) for i, j in box_pairs(low, high)]
    [([0], [1])]
    """
    if len(low) < 2:
        return
    axis = _axis(low, high)
    order = np.argsort(low[:, axis], kind="stable")
    own = low[order, axis]
    stop = np.searchsorted(own, high[order, axis], side="right")
    for i, j in _ranges(np.arange(1, len(order) + 1), np.maximum(stop, np.arange(1, len(order) + 1))):
        a, b = order[i], order[j]
        meet = _overlap(low, high, a, low[b], high[b], axis)
        a, b = a[meet], b[meet]
        if len(a):
            yield np.minimum(a, b), np.maximum(a, b)


def in_boxes(low: Floats, high: Floats, points: Floats) -> Iterator[tuple[Ints, Ints]]:
    """Boxes (m, 3) and points (n, 3) that lie in them, in blocks.

    >>> points = np.array([[2.0, 0, 0], [1, 1, 0]])
    >>> [(i.tolist(), k.tolist()) for i, k in in_boxes(np.zeros((1, 3)), np.ones((1, 3)), points)]
    [([0], [1])]
    """
    if not len(points) or not len(low):
        return
    axis = int(np.ptp(np.where(np.isfinite(points), points, 0.0), axis=0).argmax())
    order = np.argsort(points[:, axis], kind="stable")
    own = points[order, axis]
    first = np.searchsorted(own, low[:, axis], side="left")
    stop = np.searchsorted(own, high[:, axis], side="right")
    for i, k in _ranges(first, np.maximum(stop, first)):
        p = order[k]
        there = _overlap(low, high, i, points[p], points[p], axis)
        if there.any():
            yield i[there], p[there]


def _axis(low: Floats, high: Floats) -> int:
    """The axis along which boxes are spread most beside their own size."""
    spread = np.ptp(np.where(np.isfinite(low), low, 0.0), axis=0)
    size = np.nan_to_num(high - low).mean(axis=0) + 1e-9
    return int((spread / size).argmax())


def _overlap(low: Floats, high: Floats, i: Ints, other_low: Floats, other_high: Floats, axis: int) -> NDArray[np.bool_]:
    """Whether boxes i meet others along the axes that the sweep has not looked at."""
    meet = np.ones(len(i), bool)
    for k in {0, 1, 2} - {axis}:
        meet &= (other_low[:, k] <= high[i, k]) & (other_high[:, k] >= low[i, k])
    return meet


def _ranges(first: Ints, stop: Ints) -> Iterator[tuple[Ints, Ints]]:
    """Rows and the numbers first to stop of each, in blocks of some `AT_ONCE`; a row longer than that is a block."""
    count = stop - first
    total = np.cumsum(count)
    begin = 0
    while begin < len(count):
        before = total[begin - 1] if begin else 0
        end = max(int(np.searchsorted(total, before + AT_ONCE, side="right")), begin + 1)
        own = count[begin:end]
        row = np.repeat(np.arange(begin, end), own)
        if len(row):
            at = np.arange(len(row)) - np.repeat(np.cumsum(own) - own, own)
            yield row, first[row] + at
        begin = end
