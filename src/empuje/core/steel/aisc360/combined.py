"""Axial force and flexure (H1, H2), and torsion beside them in tubes (H3.2)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..saying import Say, unsaid

Floats = NDArray[np.float64]


def with_axial(p: Floats, m_y: Floats, m_z: Floats, linear: bool, say: Say = unsaid) -> Floats:
    """H1-1a, H1-1b, of shares of the strengths; `linear`: H2-1, all added up, for angles."""
    if linear:
        return say("H2-1", p + m_y + m_z, "P_r/P_c + M_ry/M_cy + M_rz/M_cz", "", "H2")
    high, low = p + 8 / 9 * (m_y + m_z), p / 2 + m_y + m_z
    return say("H1-1", np.where(p >= 0.2, high, low), "H1-1a from P_r/P_c = 0.2 on, else H1-1b", "", "H1.1, H1.2")


def with_torsion(p: Floats, m: Floats, v: Floats, t: Floats, say: Say = unsaid) -> Floats:
    """H3-6 of tubes, where torsion is more than a fifth of its strength; else nothing."""
    return say("H3-6", np.where(t > 0.2, p + m + (v + t) ** 2, 0.0), "where T_r > 0.2 T_c", "", "H3.2")
