"""Reading coefficients out of the codes' tables.

>>> between((0.0, 2.0, 4.0), (-0.5, -0.3, -0.2), 1.0), between((0.0, 2.0, 4.0), (-0.5, -0.3, -0.2), 9.0)
(-0.4, -0.2)
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def between(places: Sequence[float], values: Sequence[float], at: float) -> float:
    """Straight between the places, and as at the ends beyond them."""
    return float(np.round(np.interp(at, places, values), 12))


def in_grid(rows: Sequence[float], columns: Sequence[float], values: Floats, row: float, column: float) -> float:
    """Straight along rows and columns of a table (rows, columns), as at its ends beyond them.

    >>> in_grid((0, 1), (0, 10), np.array([[0.0, 1.0], [2.0, 3.0]]), 0.5, 5)
    1.5
    """
    return between(rows, [between(columns, line, column) for line in np.asarray(values)], row)


def signed(a: float, b: float, share: float) -> float:
    """From a to b by a share; where they differ in sign the negative one counts as 0 (ASCE 7 figure 27.3-1, note 2,
    for the greater of two values).

    >>> signed(0.2, 0.4, 0.5), signed(-0.18, 0.2, 0.5)
    (0.3, 0.1)
    """
    if a * b < 0:
        a, b = max(a, 0.0), max(b, 0.0)
    return round(a + (b - a) * share, 12)
