"""What both codes say alike of gusts."""

from __future__ import annotations

import math


def size_factor(eta: float) -> float:
    """1/eta - (1 - e^(-2 eta)) / (2 eta^2): how a gust's correlation falls off over a height or a width, 1 for none
    (ASCE 7 (26.11-15); EN 1991-1-4 (B.7), (B.8)).

    >>> size_factor(0.0), round(size_factor(1.0), 4)
    (1.0, 0.5677)
    """
    return 1 / eta - (1 - math.exp(-2 * eta)) / (2 * eta**2) if eta > 1e-6 else 1.0
