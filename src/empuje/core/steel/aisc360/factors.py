"""Resistance factors and safety factors."""

from __future__ import annotations

from dataclasses import dataclass

from ...model.words import Design


@dataclass(frozen=True)
class Factors:
    """What nominal strengths are multiplied by: phi (LRFD), or 1/Omega (ASD)."""

    design: Design = Design.LRFD

    @property
    def usual(self) -> float:
        """phi = 0.90, Omega = 1.67: tension (yielding), compression, flexure, shear, torsion."""
        return 0.9 if self.design == Design.LRFD else 1 / 1.67

    @property
    def stocky_web(self) -> float:
        """phi = 1.00, Omega = 1.50: shear of webs of rolled I shapes that do not buckle (G2.1(a))."""
        return 1.0 if self.design == Design.LRFD else 1 / 1.5
