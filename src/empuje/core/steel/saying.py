"""How a check's numbers are kept for a derivation, from the very lines that compute them.

>>> steps = Steps()
>>> float(steps.say("A", np.array(2.0), "b h", "m2") * 3)
6.0
>>> [(s.symbol, s.value) for s in steps.found]
[('A', 2.0)]
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..model.loads import Step

Floats = NDArray[np.float64]
Say = Callable[..., Floats]
"""say(symbol, value, formula, unit, clause) gives the value back."""


def unsaid(symbol: str, value: Floats, formula: str = "", unit: str = "", clause: str = "") -> Floats:
    """Keeps nothing: for many members at once."""
    return value


class Steps:
    """Keeps the steps of a check of one member at one place under one result."""

    def __init__(self) -> None:
        self.found: list[Step] = []

    def say(self, symbol: str, value: Floats, formula: str = "", unit: str = "", clause: str = "") -> Floats:
        """Notes a value as a step."""
        self.found.append(Step(symbol, formula, float(np.ravel(value)[0]), unit, clause))
        return value
