"""Polynomials over legs by their Bernstein coefficients: between the least and the greatest of these lies all of it.

p(u) = sum of b_i C(n, i) u^i (1 - u)^(n - i),   0 <= u <= 1       b_0, b_n: its values at the ends
"""

from __future__ import annotations

from math import comb

import numpy as np
from numpy.typing import NDArray

from ..polynomials import turning_points

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


def stationary(b: Floats) -> list[Floats]:
    """All places u (n,) where polynomials (n, degree + 1) may be extreme inside their legs; 0 for one there is not."""
    c = powers(b)
    if c.shape[1] > 4:
        return _roots_of_slopes(c)
    c = np.hstack([c, np.zeros((len(c), 4 - c.shape[1]))])[:, None, :, None]
    found = turning_points(c, np.zeros((len(b), 1, 1)), np.ones((len(b), 1, 1)))
    return [f[:, 0, 0] for f in found]


def _roots_of_slopes(c: Floats) -> list[Floats]:
    """By the eigenvalues of companion matrices; those of slopes of a lower degree lie far away, then polished."""
    degree = c.shape[1] - 1
    slope = c[:, 1:] * np.arange(1, degree + 1)
    size = np.abs(slope).max(axis=1, keepdims=True)
    slope = slope / np.where(size > 0, size, 1.0)
    top = np.where(np.abs(slope[:, -1]) > 1e-14, slope[:, -1], 1e-14)
    matrix = np.zeros((len(c), degree - 1, degree - 1))
    matrix[:, np.arange(1, degree - 1), np.arange(degree - 2)] = 1.0
    matrix[:, :, -1] = -slope[:, :-1] / top[:, None]
    roots = np.linalg.eigvals(matrix)
    order = np.arange(degree)
    out = []
    for k in range(degree - 1):
        u = np.where(np.abs(roots[:, k].imag) < 1e-6, roots[:, k].real, 0.0)
        u = np.where((u > 0) & (u < 1), u, 0.0)
        for _ in range(POLISH):
            value = (slope * u[:, None] ** order).sum(axis=1)
            bend = (slope[:, 1:] * order[1:] * u[:, None] ** order[:-1]).sum(axis=1)
            with np.errstate(divide="ignore", invalid="ignore"):
                better = u - value / bend
            u = np.where((u > 0) & np.isfinite(better) & (better > 0) & (better < 1), better, u)
        out.append(u)
    return out


POLISH = 3


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
