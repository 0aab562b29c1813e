"""Polynomials on pieces: powers of t, ascending, on an axis of arrays (n, components, powers, results)."""

from __future__ import annotations

from functools import cache
from math import comb

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
SEARCH, HALVINGS, NEWTON = 32, 9, 5
WIDE = 8
"""From so many results on a product of matrices for each polynomial is the quicker one."""
CUBIC = 4
"""Powers of cubics."""
TOGETHER = 4_000
"""Polynomials followed together: what fits a processor's cache."""
AT_ONCE = 64
"""Pieces whose values at all steps are looked at together."""


def value_at(polynomials: Floats, t: Floats) -> Floats:
    """Polynomials (n, components, powers, results) at t (n,): (n, components, results)."""
    powers = t[:, None] ** np.arange(polynomials.shape[2])
    if polynomials.shape[3] < WIDE:
        return np.asarray(np.einsum("nckr,nk->ncr", polynomials, powers))
    return np.asarray((powers[:, None, None] @ polynomials)[:, :, 0])


def horner(c: Floats, t: Floats) -> Floats:
    """Polynomials at a t of their own each (n, components, results)."""
    out = np.empty(np.broadcast_shapes(c[:, :, -1].shape, t.shape))
    out[...] = c[:, :, -1]
    for k in range(c.shape[2] - 2, -1, -1):
        out *= t
        out += c[:, :, k]
    return out


def square(c: Floats) -> Floats:
    """Each polynomial times itself."""
    powers = c.shape[2]
    out = np.zeros((*c.shape[:2], 2 * powers - 1, c.shape[3]))
    for k in range(powers):
        out[:, :, k : k + powers] += c[:, :, [k]] * c
    return out


@cache
def control_points(degree: int) -> Floats:
    """From the coefficients of a polynomial on (0, 1) its Bernstein ones (degree + 1, degree + 1): none of its values
    is beyond these.

    >>> control_points(2) @ [1.0, -2.0, 3.0]
    array([1., 0., 2.])
    """
    return np.array([[comb(j, k) / comb(degree, k) for k in range(degree + 1)] for j in range(degree + 1)])


def turning_points(c: Floats, low: Floats, high: Floats) -> list[Floats]:
    """Where polynomials may turn inside (low, high): two candidates (n, components, results), low where there is none.

    Of cubics both roots of the slope; of any others where they are greatest and least.
    """
    if c.shape[2] > CUBIC:
        if low.any():
            return [summit(c, low, high, sign) for sign in (1.0, -1.0)]
        # Followed are only those that may go beyond what they have at their ends.
        bounds, ends = bounds_of(c, high), (c[:, :, 0], horner(c, high))
        return [
            summits(c, high, (sign * bounds).max(axis=2) > np.maximum(sign * ends[0], sign * ends[1]), sign)
            for sign in (1.0, -1.0)
        ]
    a0, a1, a2 = c[:, :, 1], 2 * c[:, :, 2], 3 * c[:, :, 3]
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        root = np.sqrt(a1 * a1 - 4 * a2 * a0)
        q = -(a1 + np.copysign(root, a1)) / 2
        candidates = [q / a2, a0 / q]
    return [np.where((t > low) & (t < high), t, low) for t in candidates]


def bounds_of(c: Floats, length: Floats) -> Floats:
    """Bernstein coefficients (n, components, powers, results) on (0, length), length (n, components, results)."""
    powers = np.arange(c.shape[2])
    return np.asarray(control_points(c.shape[2] - 1) @ (c * length[:, :, None] ** powers[:, None]))


def summits(c: Floats, length: Floats, asked: NDArray[np.bool_], sign: float) -> Floats:
    """Where the polynomials asked for (n, components, results) are greatest (sign 1) or least (-1) on (0, length), and
    0 for the others."""
    out = np.zeros(asked.shape)
    n, k, r = np.nonzero(asked)
    for i in range(0, len(n), TOGETHER):
        some = n[i : i + TOGETHER], k[i : i + TOGETHER], r[i : i + TOGETHER]
        own = np.ascontiguousarray(c[some[0], some[1], :, some[2]].T)[None, None]
        whole = length[some][None, None]
        out[some] = summit(own, np.zeros_like(whole), whole, sign)[0, 0]
    return out


def _best_step(c: Floats, start: Floats, length: Floats, sign: float) -> Floats:
    """At which of the equal steps from start each polynomial is best, the first of equal ones."""
    if not start.any():  # all steps at once, in shares of the length
        powers = np.arange(c.shape[2])
        at = (np.arange(SEARCH + 1) / SEARCH)[:, None] ** powers
        place = np.empty(length.shape)
        for i in range(0, len(c), AT_ONCE):
            some = slice(i, i + AT_ONCE)
            scaled = c[some] * length[some, :, None] ** powers[:, None]
            place[some] = (at @ scaled * sign).argmax(axis=2)
        return place
    best, place = np.full(length.shape, -np.inf), np.zeros(length.shape)
    for i in range(SEARCH + 1):
        value = sign * horner(c, start + length * (i / SEARCH))
        better = value > best
        best, place = np.where(better, value, best), np.where(better, i, place)
    return place


def summit(c: Floats, start: Floats, end: Floats, sign: float) -> Floats:
    """Where polynomials of any degree are greatest (sign 1) or least (-1) in (start, end), next to an end if at one.

    Among equal steps the best is found first; then its slope's root between its neighbours (beside an end, between it
    and its only one), by halving and Newton's steps. There the polynomial is flat, so that the value is exact, and the
    place as exact as it can be told.
    """
    length = end - start
    place = _best_step(c, start, length, sign)
    slope = c[:, :, 1:] * np.arange(1, c.shape[2])[:, None]
    low, high = (start + np.clip(place + step, 0, SEARCH) / SEARCH * length for step in (-1, 1))
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        rises = sign * horner(slope, middle) > 0
        low, high = np.where(rises, middle, low), np.where(rises, high, middle)
    # Near the root Newton's steps double the digits; none leaves the bracket.
    bend = slope[:, :, 1:] * np.arange(1, slope.shape[2])[:, None]
    t = (low + high) / 2
    for _ in range(NEWTON):
        with np.errstate(divide="ignore", invalid="ignore"):
            step = t - horner(slope, t) / horner(bend, t)
        t = np.where(np.isfinite(step), np.clip(step, low, high), t)
    # At an end of the whole the slope keeps its sign: halving would creep to it.
    for end, falls in ((start, -1.0), (start + length, 1.0)):
        at_end = ((low == end) | (high == end)) & (sign * falls * horner(slope, end) >= 0)
        t = np.where(at_end, end, t)
    return t
