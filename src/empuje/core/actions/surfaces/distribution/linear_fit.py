"""Line loads from any smooth distribution: pieces that are linear, each with its force and its moment.

What a strip of deck brings to a member is linear along it wherever span and pressure do not change at once; then one
piece is exact. Elsewhere pieces keep force and moment each, and are so short that the moment of what is left over
within one is nowhere above 1e-9 of the piece's load times the length it was cut from:

    f'' h^4 / 384 <= 1e-9 W l     with residual rho = f'' h^2 / 12 at the ends of a piece of length h
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
POINTS, WEIGHTS = np.polynomial.legendre.leggauss(6)
AT, SHARE = (POINTS + 1) / 2, WEIGHTS / 2
"""Places and weights of Gauss's rule on 0 to 1."""
TO_THE_ENDS = (POINTS.max() ** 2 - 1 / 3) / (2 / 3)
"""A residual like a parabola's has this share of its end value at the outermost of the places."""
LEFT_OVER = 1e-9
MOST_PIECES = 400


def linear_pieces(value: Callable[[Ints, Floats], Floats], count: int) -> tuple[Ints, Floats, Floats, Floats, Floats]:
    """Which of `count` distributions, x0, x1 (shares of its length) and the values at both, of every linear piece.

    `value(which, x)`: the distributions `which` (k,) at shares x (k, points) of their lengths.
    """
    which = np.arange(count)
    mean, slope, left = _fitted(value, which, np.zeros(count), np.ones(count))
    size = np.abs(mean) + np.abs(slope)
    whole = np.maximum(np.abs(mean), size / 4)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(left > 1e-12 * size, left / TO_THE_ENDS / whole, 0.0)
    pieces = np.minimum(np.ceil((share / (32 * LEFT_OVER)) ** 0.25), MOST_PIECES).astype(np.intp)
    pieces = np.where(pieces > 1, pieces, 1)
    if (pieces == 1).all():
        return which, np.zeros(count), np.ones(count), mean - slope, mean + slope
    which = np.repeat(which, pieces)
    number = np.arange(len(which)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    x0, x1 = number / pieces[which], (number + 1) / pieces[which]
    mean, slope, _ = _fitted(value, which, x0, x1)
    return which, x0, x1, mean - slope, mean + slope


def _fitted(
    value: Callable[[Ints, Floats], Floats], which: Ints, x0: Floats, x1: Floats
) -> tuple[Floats, Floats, Floats]:
    """Mean, half the change from x0 to x1, and the largest residual of the linear function with the same force and
    moment."""
    f = value(which, x0[:, None] + AT * (x1 - x0)[:, None])
    mean, slope = f @ SHARE, 3 * (f @ (SHARE * POINTS))
    return mean, slope, np.abs(f - mean[:, None] - slope[:, None] * POINTS).max(axis=1, initial=0.0)
