"""ASCE 7, 29.4: force coefficients of chimneys, tanks and poles (figure 29.4-1), and trussed towers (figure 29.4-3).

>>> chimney_coefficient("smooth", 7.0, True), chimney_coefficient("smooth", 7.0, False)
(0.6, 0.8)
>>> round(tower_coefficient("square", 0.2, False), 3), round(tower_coefficient("triangular", 0.2, False), 3)
(2.98, 2.596)
"""

from __future__ import annotations

from .tables import between

H_D = (1.0, 7.0, 25.0)
CHIMNEYS = {
    "square": (1.3, 1.4, 2.0), "diagonal": (1.0, 1.1, 1.5), "polygonal": (1.0, 1.2, 1.4),
    "smooth": (0.5, 0.6, 0.7), "rough": (0.7, 0.8, 0.9), "very rough": (0.8, 1.0, 1.2),
}  # fmt: skip
"""Figure 29.4-1 by h/D: square with the wind across a face or along a diagonal, hexagonal or octagonal; round with
D sqrt(q_z) > 5.3 (m, N/m2), by roughness (0, 0.02 and 0.08 of D)."""
SLOW = (0.7, 0.8, 1.2)
"""Round with D sqrt(q_z) <= 5.3, of any roughness."""
ROUND = ("smooth", "rough", "very rough")
DIAGONAL = 0.75, 1.2
ROUND_MEMBERS = 0.51, 0.57


def chimney_coefficient(shape: str, h_over_D: float, fast: bool) -> float:
    """C_f by figure 29.4-1; `fast`: D sqrt(q_z) > 5.3."""
    values = SLOW if shape in ROUND and not fast else CHIMNEYS[shape]
    return between(H_D, values, h_over_D)


def tower_coefficient(plan: str, solidity: float, diagonal: bool) -> float:
    """C_f of a tower of flat-sided members, on the solid area of one face; of a square one along a diagonal times
    1 + 0.75 solidity, at most 1.2 (figure 29.4-3, note 3)."""
    e = solidity
    if plan == "triangular":
        return 3.4 * e**2 - 4.7 * e + 3.4
    return (4.0 * e**2 - 5.9 * e + 4.0) * (min(1 + DIAGONAL[0] * e, DIAGONAL[1]) if diagonal else 1.0)


def of_round_members(solidity: float) -> float:
    """The factor of round members of a tower, at most 1 (figure 29.4-3, note 4)."""
    return min(1.0, ROUND_MEMBERS[0] * solidity**2 + ROUND_MEMBERS[1])
