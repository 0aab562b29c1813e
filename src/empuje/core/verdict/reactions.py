"""Limits on reactions."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.units import Units
from ..analysis.solution import Columns, Solution
from ..answers.foundations import FORCES
from ..answers.table import Kind
from ..answers.why import Sum
from ..model.limits import COMPONENTS, Limit
from ..model.results import Results
from .found import Found, Rows, lengths, named, nothing, ratios, sum_along, sums

NEEDS = {
    "H": (0, 1), "uplift": (2,), "H_to_V": (2,), "e_x": (2, 4), "e_y": (2, 3),
    **{name: (i,) for i, name in enumerate(FORCES)},
}  # fmt: skip
"""Which components a support must give for a limit to be about it; of H one of them."""


def reactions_found(solution: Solution, results: Results, limit: Limit, of: str) -> Found:
    """A component of the reactions of those of a limit's nodes that are supports."""
    supported = solution.support_node
    chosen = np.flatnonzero(np.isin(supported, limit.on))
    needed = NEEDS[of]
    held = solution.held[chosen][:, list(needed)]
    own = chosen[held.any(axis=1) if of == "H" else held.all(axis=1)]
    if not len(chosen):
        return nothing([("its nodes", "none of them is a support")])
    if not len(own):
        return nothing([("its supports", f"none of them gives {' and '.join(FORCES[i] for i in needed)}")])
    rows, bottom = _rows(own, of)
    if bottom is not None:
        value, made = ratios(solution, results, rows, bottom)
    elif of == "H":
        value, made = lengths(solution, results, rows)
    else:
        found = sums(solution, results, lambda table: rows(table)[:, 0])
        value, made = found.value, named(solution, results, found)
    place = [solution.project.nodes[i].name for i in supported[own]]

    def explained(row: int, side: int, solved: Solution, weights: NDArray[np.float64]) -> list[Sum]:
        top: tuple[str, Kind] = {"H_to_V": ("H", "force"), "e_x": ("My", "moment"), "e_y": ("Mx", "moment")}.get(
            of, (of, COMPONENTS[limit.kind][of])
        )  # type: ignore[assignment]
        out = [sum_along(*top, place[row], rows, row, solved, weights)]
        if bottom is not None:
            out.append(sum_along("Fz", "force", place[row], lambda t: bottom(t)[:, None], row, solved, weights))
        return out

    return Found(place, value, made, sums=explained)


def _rows(own: NDArray[np.intp], of: str) -> tuple[Rows, Rows | None]:
    """The parts of a component, and what they are divided by."""
    parts = {"H": [0, 1], "H_to_V": [0, 1], "e_x": [4], "e_y": [3], "uplift": [2]}.get(of) or [FORCES.index(of)]
    sign = -1.0 if of == "uplift" else 1.0

    def rows(table: Columns | Units) -> NDArray[np.float64]:
        return np.asarray(sign * table.reaction[own][:, parts])

    def bottom(table: Columns | Units) -> NDArray[np.float64]:
        return np.asarray(table.reaction[own, 2])

    return rows, bottom if of in ("H_to_V", "e_x", "e_y") else None
