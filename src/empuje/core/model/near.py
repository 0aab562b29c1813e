"""Which points are near which others."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FEW = 4_000_000
"""Up to so many pairs all are looked at; beyond, a tree is worth its library."""


def near_pairs(centres: Floats, reach: Floats, points: Floats, more_than: int = 0) -> tuple[Ints, Ints]:
    """Pairs (i, j) in order with points (n, 3) no farther than reach (m,) from centres (m, 3); of centres only those
    that have more such points than `more_than`.

    >>> near_pairs(np.zeros((1, 3)), np.ones(1), np.array([[0.5, 0, 0], [2.0, 0, 0]]))[1].tolist()
    [0]
    """
    if len(centres) * len(points) > FEW:
        return _by_tree(centres, reach, points, more_than)
    apart = sum((centres[:, None, k] - points[:, k]) ** 2 for k in range(3))
    there = apart <= (reach**2)[:, None]
    there &= (there.sum(axis=1) > more_than)[:, None]
    i, j = np.nonzero(there)
    return i, j


def _by_tree(centres: Floats, reach: Floats, points: Floats, more_than: int) -> tuple[Ints, Ints]:
    from scipy.spatial import cKDTree

    tree = cKDTree(points)
    # Counting is cheap, listing is not.
    some = np.flatnonzero(tree.query_ball_point(centres, reach, return_length=True) > more_than)
    near = tree.query_ball_point(centres[some], reach[some], return_sorted=True)
    i = np.repeat(some, [len(n) for n in near])
    return i, np.fromiter((k for group in near for k in group), np.intp, len(i))
