"""Polynomials over legs by their Bernstein coefficients: between the least and the greatest of these lies all of it.

p(u) = sum of b_i C(n, i) u^i (1 - u)^(n - i),   0 <= u <= 1       b_0, b_n: its values at the ends
"""

from __future__ import annotations

from math import comb

import numpy as np
from numpy.typing import NDArray

from ..polynomials import summit, turning_points

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def samples(degree: int) -> Floats:
    """Where a polynomial of this degree is looked at, inside (0, 1)."""
    k = np.arange(degree + 1)
    return np.asarray((1 - np.cos(np.pi * (2 * k + 1) / (2 * degree + 2))) / 2)


def basis(degree: int, u: Floats) -> Floats:
    """The Bernstein polynomials (..., degree + 1) at u (...)."""
    k = np.arange(degree + 1)
    count = np.array([comb(degree, int(i)) for i in k], float)
    return np.asarray(count * u[..., None] ** k * (1 - u[..., None]) ** (degree - k))


def from_samples(values: Floats) -> Floats:
    """Coefficients (..., degree + 1, legs) from the values at `samples`, polynomial by polynomial along the last axis,
    so that what is looked for among coefficients runs along memory."""
    degree = values.shape[-2] - 1
    return np.asarray(np.linalg.inv(basis(degree, samples(degree))) @ values)


def powers(b: Floats) -> Floats:
    """Coefficients of 1, u, u^2, ... from those of Bernstein (..., degree + 1)."""
    n = b.shape[-1] - 1
    change = np.zeros((n + 1, n + 1))
    for i in range(n + 1):
        for j in range(i, n + 1):
            change[j, i] = (-1) ** (j - i) * comb(n, j) * comb(j, i)
    return np.asarray(b @ change.T)


def stationary(b: Floats) -> tuple[Floats, Floats]:
    """Two places u (n,) where polynomials (n, degree + 1) may be extreme inside their legs, 0 where there is none."""
    c = powers(b)[:, None, :, None]
    if c.shape[2] > 4:
        zero, one = np.zeros((len(b), 1, 1)), np.ones((len(b), 1, 1))
        return summit(c, zero, one, 1.0)[:, 0, 0], summit(c, zero, one, -1.0)[:, 0, 0]
    while c.shape[2] < 4:
        c = np.concatenate([c, np.zeros_like(c[:, :, :1])], axis=2)
    found = turning_points(c, np.zeros((len(b), 1, 1)), np.ones((len(b), 1, 1)))
    return found[0][:, 0, 0], found[1][:, 0, 0]


def positive_parts(b: Floats) -> tuple[Floats, Ints, Floats, Floats]:
    """The integral over 0..1 of what is above zero of polynomials (n, legs, degree + 1): (n, legs); and stretches above
    zero of the mixed ones: row of the flat table, from u0 to u1."""
    n = b.shape[-1]
    flat = b.reshape(-1, n)
    least, most = flat.min(axis=1), flat.max(axis=1)
    area = np.where(least >= 0, flat.mean(axis=1), 0.0)
    mixed = np.flatnonzero((least < 0) & (most > 0))
    none = np.zeros(0)
    if not len(mixed):
        return area.reshape(b.shape[:-1]), mixed, none, none
    row, u0, u1 = _above(flat[mixed])
    c = powers(flat[mixed])[row]
    order = np.arange(1, n + 1)
    part = ((u1[:, None] ** order - u0[:, None] ** order) * c / order).sum(axis=1)
    np.add.at(area, mixed[row], part)
    return area.reshape(b.shape[:-1]), mixed[row], u0, u1


LOOKS, HALVINGS = 24, 50


def _above(b: Floats) -> tuple[Ints, Floats, Floats]:
    """Stretches (k,) where polynomials (n, degree + 1) are above zero: row, from, to; cut at every look."""
    u = np.linspace(0, 1, LOOKS + 1)
    at = basis(b.shape[1] - 1, u)
    v = b @ at.T
    row, i = np.nonzero(np.maximum(v[:, :-1], v[:, 1:]) > 0)
    low, high = u[i], u[i + 1]
    start, stop = v[row, i] > 0, v[row, i + 1] > 0
    a, c = low.copy(), high.copy()
    crosses = start != stop
    for _ in range(HALVINGS):
        middle = (a + c) / 2
        same = ((b[row] * basis(b.shape[1] - 1, middle)).sum(axis=1) > 0) == start
        a, c = np.where(same & crosses, middle, a), np.where(~same & crosses, middle, c)
    root = (a + c) / 2
    return row, np.where(crosses & ~start, root, low), np.where(crosses & ~stop, root, high)
