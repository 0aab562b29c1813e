"""What is put on the frame, summed up from the loads themselves: never from the equations, so that it checks them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..actions.totals import applied_totals
from .displaced import displaced_moments
from .solution import Solution

Floats = NDArray[np.float64]


def applied(solution: Solution) -> Floats:
    """The resultants of all columns' loads about the centre of the supports (6, columns), from the loads themselves; of
    second order are what the loads gain by moving with the frame. Worked out once for a solution."""
    kept = solution.__dict__
    if "applied" not in kept:
        columns = len(solution.mix) - len(solution.at)
        first = applied_totals(solution.project, solution.loads, solution.centre, columns)
        kept["applied"] = np.hstack([first, gained(solution)])
    return np.asarray(kept["applied"])


def gained(solution: Solution) -> Floats:
    """What second order adds to them (6, results of second order): worked out once, or taken from what was kept."""
    kept = solution.__dict__
    if "gained" not in kept:
        kept["gained"] = displaced_moments(solution)
    return np.asarray(kept["gained"])
