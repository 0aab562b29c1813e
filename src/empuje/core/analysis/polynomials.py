"""Polynomials on pieces: powers of t, ascending, on an axis of arrays (n, components, powers, results)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
SEARCH, HALVINGS = 32, 45


def value_at(polynomials: Floats, t: Floats) -> Floats:
    """Polynomials (n, components, powers, results) at t (n,): (n, components, results)."""
    powers = t[:, None] ** np.arange(polynomials.shape[2])
    return np.einsum("nckr,nk->ncr", polynomials, powers)


def horner(c: Floats, t: Floats) -> Floats:
    """Polynomials at a t of their own each (n, components, results)."""
    out = c[:, :, -1]
    for k in range(c.shape[2] - 2, -1, -1):
        out = out * t + c[:, :, k]
    return out


def square(c: Floats) -> Floats:
    """Each polynomial times itself."""
    powers = c.shape[2]
    out = np.zeros((*c.shape[:2], 2 * powers - 1, c.shape[3]))
    for k in range(powers):
        out[:, :, k : k + powers] += c[:, :, [k]] * c
    return out


def summit(c: Floats, length: Floats, sign: float) -> Floats:
    """Where polynomials of any degree are greatest (sign 1) or least (-1) in (0, length), next to an end if at one.

    Among equal steps the best is found first; then its slope's root between its neighbours (beside an end, between it
    and its only one), by halving. There the polynomial is flat, so that the value is exact, and the place as exact as
    it can be told.
    """
    best, place = np.full(length.shape, -np.inf), np.zeros(length.shape)
    for i in range(SEARCH + 1):
        value = sign * horner(c, length * (i / SEARCH))
        better = value > best
        best, place = np.where(better, value, best), np.where(better, i, place)
    slope = c[:, :, 1:] * np.arange(1, c.shape[2])[:, None]
    low, high = (np.clip(place + step, 0, SEARCH) / SEARCH * length for step in (-1, 1))
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        rises = sign * horner(slope, middle) > 0
        low, high = np.where(rises, middle, low), np.where(rises, high, middle)
    return (low + high) / 2
