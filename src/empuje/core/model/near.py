"""Which points are near which others."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .boxes import in_boxes

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SAME_WAY = 0.02
"""Unit vectors that differ by less point the same way: faces of one wall, in its plane or a little off."""
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


def on_lines(xyz: Floats, ends: Ints, tolerance: float) -> tuple[Ints, Ints, Floats]:
    """Line, point and distance from the line's start of every one of the points xyz (n, 3) that lies on a line between
    its ends (m, 2), in order.

    >>> on_lines(np.array([[0.0, 0, 0], [4, 0, 0], [3, 0, 0]]), np.array([[0, 1]]), 1e-3)[2].tolist()
    [3.0]
    """
    a, b = xyz[ends[:, 0]], xyz[ends[:, 1]]
    length = np.linalg.norm(b - a, axis=1)
    x = (b - a) / np.where(length > 0, length, 1.0)[:, None]
    found = [(np.zeros(0, np.intp), np.zeros(0, np.intp), np.zeros(0))]
    for line, point in in_boxes(np.minimum(a, b) - tolerance, np.maximum(a, b) + tolerance, xyz):
        from_start = xyz[point] - a[line]
        s = np.einsum("ij,ij->i", from_start, x[line])
        off = np.linalg.norm(from_start - s[:, None] * x[line], axis=1)
        inside = (s > tolerance) & (s < length[line] - tolerance) & (off <= tolerance)
        found.append((line[inside], point[inside], s[inside]))
    line, point, s = (np.concatenate(column) for column in zip(*found, strict=True))
    order = np.lexsort((point, s, line))
    return line[order], point[order], s[order]


def together(points: Floats | Sequence[Floats], tolerance: float) -> Ints:
    """Numbers of groups (n,) of points (n, k) that lie within a tolerance of one another, link by link; in the order of
    the first of each group: the one way to tell what is at the same place, never by rounding.

    >>> together(np.array([[0.0], [5.0], [0.0009], [5.002]]), 1e-3).tolist()
    [0, 1, 0, 2]
    """
    if not len(points):
        return np.zeros(0, np.intp)
    points = np.asarray(points, float).reshape(len(points), -1)
    if points.shape[1] == 1:
        order = np.argsort(points[:, 0], kind="stable")
        label = np.zeros(len(points), np.intp)
        label[order] = np.cumsum(np.r_[0, np.diff(points[order, 0]) > tolerance][: len(points)])
    else:
        from scipy.sparse import coo_matrix
        from scipy.sparse.csgraph import connected_components

        flat = np.zeros((len(points), 3))
        flat[:, : points.shape[1]] = points
        i, j = near_pairs(flat, np.full(len(flat), tolerance), flat)
        links = coo_matrix((np.ones(len(i)), (i, j)), shape=(len(flat), len(flat)))
        label = np.asarray(connected_components(links, directed=False)[1], np.intp)
    first = np.unique(label, return_index=True)[1]
    rank = np.empty(len(first), np.intp)
    rank[np.argsort(first)] = np.arange(len(first))
    return rank[label]


def _by_tree(centres: Floats, reach: Floats, points: Floats, more_than: int) -> tuple[Ints, Ints]:
    from scipy.spatial import cKDTree

    # What could not be read is near nothing.
    centres, points = (np.where(np.isfinite(of), of, far) for of, far in ((centres, 1e12), (points, -1e12)))
    reach = np.where(np.isfinite(reach), reach, 0.0)
    tree = cKDTree(points)
    # Counting is cheap, listing is not.
    some = np.flatnonzero(tree.query_ball_point(centres, reach, return_length=True) > more_than)
    near = tree.query_ball_point(centres[some], reach[some], return_sorted=True)
    i = np.repeat(some, [len(n) for n in near])
    return i, np.fromiter((k for group in near for k in group), np.intp, len(i))
