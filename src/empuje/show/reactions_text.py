"""Reactions for eyes: each case with its sums right below it."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..core.analysis.solution import Solution
from ..core.answers.foundations import pulled
from ..core.answers.table import Column, Table
from ..core.model.results import Results
from .display import Display
from .tables import for_eyes


def reactions_for_eyes(solution: Solution, table: Table, sums: Table | None, display: Display) -> str:
    """Reactions case by case; with all supports shown, also their sum, the applied load and the difference."""
    if sums is None:
        return for_eyes(table, display)
    cases = list(dict.fromkeys(table["case"].tolist()))
    forces = ("Fx", "Fy", "Fz")
    columns: list[Column] = []
    of_case, of_sum = table["case"], sums["case"]
    for c in table.columns:
        if c.name == "case":
            continue
        values: list[Any] = []
        for case in cases:
            values += np.asarray(c.values)[of_case == case].tolist()
            for which, label in (("reactions", "  sum"), ("applied", "  applied"), ("difference", "  difference")):
                row = (of_sum == case) & (sums["sum"] == which)
                if c.kind == "text":
                    values.append(label if c.name == "node" else "")
                else:
                    values.append(sums[c.name][row][0] if c.name in forces else np.nan)
        columns.append(Column(c.name, c.kind, values if c.kind == "text" else np.array(values, float)))
    labels = [case for case in cases for _ in range(int((of_case == case).sum()) + 3)]
    columns.insert(0, Column("case", "text", labels))
    return for_eyes(Table("reactions", tuple(columns)), display, labels) + "\n" + balance_note(solution, display) + "\n"


def pulled_note(solution: Solution, results: Results, display: Display, most: int = 6) -> str:
    """Which supports hold the frame down, in words; nothing where none does."""
    found = pulled(solution, results)
    if not found:
        return ""
    unit, factor = display.unit("force"), display.factor("force")
    told = [f"{node} {force * factor:.3f} {unit} under {name}" for node, name, force in found[:most]]
    more = f" and {len(found) - most} more" if len(found) > most else ""
    return f"Uplift (Fz < 0, the worst of each support): {'; '.join(told)}{more}."


def balance_note(solution: Solution, display: Display) -> str:
    """What reactions and their sums mean: signs, axes, and the point of the moments."""
    at = ", ".join(f"{v * display.factor('length'):.3f}" for v in solution.centre)
    bent = " In second order they include what axial forces add on the deformed shape." if solution.bent else ""
    return (
        "Reactions act on the structure, in global axes. Sums of moments (--balance) are about the centre of the "
        f"supports ({at}) {display.unit('length')}.{bent}"
    )
