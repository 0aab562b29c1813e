"""The verdict as a table: values of different kinds side by side, each with its unit."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from ..answers.table import Column, Kind, Table
from .outcome import Outcome

Units = Callable[[Kind], tuple[str, float]]
"""The unit a kind of quantity is shown in, and what an SI value is multiplied by."""


def verdict_table(outcomes: Sequence[Outcome], units: Units) -> Table:
    """A row for each outcome, in their order; values and bounds in shown units."""
    known = [units(o.kind) for o in outcomes]
    factor = np.array([f for _, f in known])

    def numbers(values: Sequence[float]) -> np.ndarray:
        found = np.array(values, float)
        return np.where(np.isfinite(found), found, np.nan)

    return Table(
        "verdict",
        (
            Column("limit", "text", [o.limit.name for o in outcomes]),
            Column("check", "text", [str(o.limit.kind) for o in outcomes]),
            Column("of", "text", [o.bound.of for o in outcomes]),
            Column("verdict", "text", [str(o.holds) for o in outcomes]),
            Column("utilisation", "factor", numbers([o.used for o in outcomes])),
            Column("value", "number", numbers([o.value for o in outcomes]) * factor),
            Column("bound", "number", numbers([o.against for o in outcomes]) * factor),
            Column("unit", "text", [unit for unit, _ in known]),
            Column("required", "text", [o.bound.written for o in outcomes]),
            Column("place", "text", [o.place for o in outcomes]),
            Column("x", "length", np.array([o.x for o in outcomes], float)),
            Column("span", "length", np.array([o.span for o in outcomes], float)),
            Column("case", "text", [o.case for o in outcomes]),
            Column("how", "text", [o.how for o in outcomes]),
            Column("places", "count", np.array([o.places for o in outcomes], float)),
            Column("failing", "count", np.array([o.failing for o in outcomes], float)),
            Column("reason", "text", [o.reason for o in outcomes]),
            Column("source", "text", [str(o.limit.place) for o in outcomes]),
        ),
    )
