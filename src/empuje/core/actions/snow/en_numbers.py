"""Numbers of EN 1991-1-3:2003 with recommended values, as functions of numbers in SI.

>>> mu_1(45.0), round(mu_2(15.0), 6)
(0.4, 1.2)
"""

from __future__ import annotations

USUAL_GAMMA = 2000.0
"""Weight of snow for drifts [N/m3] (5.3.6, 6.2)."""
SHORTEST, LONGEST = 5.0, 15.0
"""Lengths of drifts [m] (5.3.6, 6.2: recommended)."""
SLIDES_FROM = 15.0
"""Snow slides off a taller roof steeper than this [deg] (5.3.6)."""


def mu_1(theta: float, held: bool = False) -> float:
    """mu_1 at a slope [deg]; `held`: guards keep the snow on it, when it is no less than 0.8 (5.3.2, table 5.2)."""
    return 0.8 if held else 0.8 * min(1.0, max(0.0, (60.0 - theta) / 30.0))


def mu_2(theta: float) -> float:
    """mu_2 of a valley at a mean slope [deg] up to 60 (table 5.2)."""
    return 0.8 + 0.8 * min(theta, 30.0) / 30.0


def mu_3(h: float, b: float) -> float:
    """mu_3 of a cylindrical roof of rise h and width b [m] (5.3.5, 5.5; recommended limit 2)."""
    return min(0.2 + 10 * h / b, 2.0)


def mu_w(b_1: float, b_2: float, h: float, gamma: float, s_k: float) -> float:
    """By wind on a roof that abuts a taller one: lengths of both, height of the step [m] (5.3.6, 5.8)."""
    return min(max(min((b_1 + b_2) / (2 * h), gamma * h / s_k), 0.8), 4.0)


def mu_at_obstruction(h: float, gamma: float, s_k: float) -> float:
    """mu_2 at what stands h [m] out of a roof (6.2, 6.1)."""
    return min(max(gamma * h / s_k, 0.8), 2.0)


def drift_length(h: float) -> float:
    """l_s = 2 h [m], from 5 to 15 m (5.3.6, 6.2)."""
    return min(max(2 * h, SHORTEST), LONGEST)
