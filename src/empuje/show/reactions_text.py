"""Reactions for eyes: each case with its sums right below it."""

from __future__ import annotations

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
    rows: dict[str, list[int]] = {}
    for i, case in enumerate(table["case"].tolist()):
        rows.setdefault(case, []).append(i)
    of_sum = {pair: i for i, pair in enumerate(zip(sums["case"].tolist(), sums["sum"].tolist(), strict=True))}
    # Row by row: what comes from the table, and what from the sums; -1 where nothing does.
    each = np.array([i for own in rows.values() for i in (*own, -1, -1, -1)], np.intp)
    summed = np.array([
        i for case, own in rows.items() for i in (*(-1 for _ in own), *(of_sum[case, which] for which, _ in SUMS))
    ], np.intp)  # fmt: skip
    labels = [case for case, own in rows.items() for _ in range(len(own) + len(SUMS))]
    words = [word for own in rows.values() for word in (*("" for _ in own), *(label for _, label in SUMS))]
    columns = [Column("case", "text", labels)]
    for c in table.columns:
        if c.name == "case":
            continue
        values = np.asarray(c.values)
        if c.kind == "text":
            beside = words if c.name == "node" else [""] * len(words)
            text = [
                own if i >= 0 else word
                for own, i, word in zip(values[each].tolist(), each.tolist(), beside, strict=True)
            ]
            columns.append(Column(c.name, c.kind, text))
            continue
        total = np.asarray(sums[c.name])[summed] if c.name in FORCES else np.nan
        columns.append(Column(c.name, c.kind, np.where(each >= 0, values[each], total)))
    return for_eyes(Table("reactions", tuple(columns)), display, labels) + "\n" + balance_note(solution, display) + "\n"


SUMS = (("reactions", "  sum"), ("applied", "  applied"), ("difference", "  difference"))
FORCES = ("Fx", "Fy", "Fz")


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
