"""What the forces of a member make of the stresses at the fibres of its section."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..model.frame import Fibre, Section

Floats = NDArray[np.float64]


class NoFibre(LookupError):
    """No chosen member has a fibre of that name, or any at all."""


def coefficients(section: Section, fibres: Sequence[Fibre]) -> Floats:
    """What N Vy Vz T My Mz make of sigma, tau_z and tau_y at each fibre: (3, fibres, 6) [1/m2, 1/m3]."""
    out = np.zeros((3, len(fibres), 6))
    for i, f in enumerate(fibres):
        out[0, i, 0], out[0, i, 4], out[0, i, 5] = 1 / section.A, -f.z / section.Iy, -f.y / section.Iz
        out[1, i, 2] = f.S_y / (section.Iy * f.t_y)
        out[2, i, 1] = f.S_z / (section.Iz * f.t_z)
    return out
