"""Partial factors and the code's other choices."""

from __future__ import annotations

from dataclasses import dataclass

from ...model.words import Lateral


@dataclass(frozen=True)
class Factors:
    """gamma_M0, gamma_M1 (6.1, recommended 1.0); eta of shear areas (1.0 is safe; EN 1993-1-5, 5.1: 1.2 up to S460);
    which curves of lateral-torsional buckling hold."""

    gamma_M0: float = 1.0
    gamma_M1: float = 1.0
    eta: float = 1.0
    lateral: Lateral = Lateral.GENERAL
