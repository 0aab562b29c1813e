"""Numbers of ASCE 7-16 and 7-22, chapter 7, as functions of arrays or numbers in SI.

The code's equations are empirical and in feet and pounds: they are used so, whatever the model's units.

>>> round(float(slope_factor(45.0, 1.0, False)), 3)
0.625
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...model.words import RoofExposure, SnowCode

Floats = NDArray[np.float64]
FOOT = 0.3048
POUND = 4.4482216152605
PSF = POUND / FOOT**2
PCF = POUND / FOOT**3

C_E = {
    "B": (0.9, 1.0, 1.2),
    "C": (0.9, 1.0, 1.1),
    "D": (0.8, 0.9, 1.0),
}
"""Exposure factor by terrain; fully exposed, partially exposed, sheltered (table 7.3-1)."""
LEAST_AT_MOST = {"I": 25.0, "II": 30.0, "III": 35.0, "IV": 40.0}
"""p_m,max [lb/ft2] by risk category (ASCE 7-22, table 7.3-4)."""
SURCHARGE = {SnowCode.ASCE_16: 5.0, SnowCode.ASCE_22: 8.0}
"""Rain on snow [lb/ft2] (7.10)."""


STEEPEST, FLATTEST = float(np.degrees(np.arctan(7 / 12))), float(np.degrees(np.arctan(0.5 / 12)))
"""Slopes [deg] between which hip and gable roofs are loaded unbalanced (7.6.1)."""
PONDS = float(np.degrees(np.arctan(0.25 / 12)))
"""Below this slope [deg] water ponds (7.11, 8.4)."""


def exposure_factor(exposure: str, roof: RoofExposure) -> float:
    """C_e (table 7.3-1)."""
    return C_E[exposure][list(RoofExposure).index(roof)]


def slope_factor(theta: float, C_t: float, slippery: bool) -> float:
    """C_s of a roof at theta [deg] (7.4, figure 7.4-1). Between the curves of the figure the upper one is taken.

    1 --------.                 warm    C_t <= 1.0    from 30, or  5 where slippery
               \\                cold    C_t <= 1.1    from 37.5,  10
    0           '------         colder  C_t >  1.1    from 45,    15; all end at 70
    """
    row = 0 if C_t <= 1.0 else 1 if C_t <= 1.1 else 2
    start = ((30.0, 5.0), (37.5, 10.0), (45.0, 15.0))[row][slippery]
    return float(np.clip((70.0 - theta) / (70.0 - start), 0.0, 1.0))


def density(p_g: float) -> float:
    """gamma [N/m3] = 0.13 p_g + 14 <= 30 lb/ft3 (7.7-1)."""
    return min(0.13 * p_g / PSF + 14.0, 30.0) * PCF


SHORTEST = 20 * FOOT
"""Upwind lengths count at least so much [m] (7.6.1, and figure 7.6-1)."""


def drift_height(code: SnowCode, p_g: float, l_u: float, I_s: float, W_2: float, gamma: float) -> float:
    """h_d [m] behind an upwind length l_u [m] (7-16: figure 7.6-1; 7-22: equation 7.6-1).

    7-16: sqrt(I_s) (0.43 l_u^(1/3) (p_g + 10)^(1/4) - 1.5)     7-22: 1.5 sqrt(p_g^0.74 l_u^0.70 W_2^1.7 / gamma)
    """
    p, length = p_g / PSF, max(l_u, SHORTEST) / FOOT
    if code == SnowCode.ASCE_22:
        return float(1.5 * np.sqrt(p**0.74 * length**0.70 * W_2**1.7 / (gamma / PCF)) * FOOT)
    return float(np.sqrt(I_s) * max(0.43 * np.cbrt(length) * (p + 10.0) ** 0.25 - 1.5, 0.0) * FOOT)


def drift_shape(h_d: float, h_c: float) -> tuple[float, float]:
    """Height and width [m] of a drift against a step with h_c clear above the balanced snow (7.7.1): h_d and 4 h_d;
    where it would be higher than the step, h_c and 4 h_d^2/h_c, at most 8 h_c."""
    if h_d <= h_c:
        return h_d, 4 * h_d
    return h_c, min(4 * h_d**2 / h_c, 8 * h_c)


def least_load(code: SnowCode, p_g: float, I_s: float, risk: str) -> float:
    """p_m [N/m2] of low-slope roofs (7.3.3 of 7-22, 7.3.4 of 7-16)."""
    if code == SnowCode.ASCE_22:
        return min(p_g, LEAST_AT_MOST[risk] * PSF)
    return I_s * min(p_g, 20.0 * PSF)
