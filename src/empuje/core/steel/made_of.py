"""What steel members are made of, row by row: their sections, and the strength and moduli of their steel."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .shapes import Shapes

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Moduli = tuple[Floats, Floats]
"""E and G [N/m2]."""


@dataclass(frozen=True)
class Steel:
    """Members of one kind of section as columns (n, 1): shapes; f_y, E and G [N/m2]."""

    s: Shapes
    f_y: Floats
    EG: Moduli

    def rows(self, rows: Ints) -> Steel:
        """Some of them."""
        return Steel(self.s.take(rows), self.f_y[rows], (self.EG[0][rows], self.EG[1][rows]))
