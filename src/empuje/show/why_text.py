"""Why, for eyes: what governs in words, then the shares with their loads set in."""

from __future__ import annotations

import numpy as np

from ..core.answers.table import Column
from ..core.answers.why import DEFORMED, NOTHING, Why, miss, why_table
from .display import Display
from .layout import aligned
from .tables import decimals_for, number


def why_for_eyes(found: Why, display: Display) -> str:
    """How a governing value came about, for a terminal."""
    table, project = why_table(found, display.said), found.project
    kind, of = found.target.kind, found.target.of
    unit, factor = display.unit(kind), display.factor(kind)
    decimals = decimals_for(float(np.nanmax(np.abs(table[of]))) * factor)
    target, place = found.target, ""
    if target.sum is not None:
        on, x = target.sum.place, target.sum.x
    else:
        on = (project.members if target.what == "force" else project.nodes)[target.index].name
        x = float(found.x[0]) if target.what == "force" else np.nan
    if not np.isnan(x):
        place = f" at x = {x * display.factor('length'):.3f} {display.unit('length')}"
    combination = found.worst.combination
    value = number(float(found.values[0]) * factor, decimals)
    lines = [f"{on}: {of} = {value} {unit}{place} under {found.worst.name} ({found.how})"]
    if combination is not None:
        lines.append(f"  {combination.formula}   [{combination.source}]")
    rows, idle = [], []
    least = NOTHING * float(np.nanmax(np.abs(table[of]), initial=0.0))
    for row, case, by, share, percent, text, source, steps in zip(*(c.values for c in table.columns), strict=True):
        if row == "next":
            continue
        if row == "case" and abs(share) <= least:
            idle.append("the deformed shape" if case == DEFORMED else case)
            continue
        bent = case == DEFORMED
        label = {"case": case, "load": f"    {text}", "sum": "sum"}[row]
        shown = "" if np.isnan(by) or row == "load" or bent else f"{by:.6g}"
        label = "axial forces on the deformed shape" if bent else label
        rows.append([label, shown, number(share * factor, decimals), number(percent, 1), source, steps])
    heads = ["share of", "factor", display.head(Column(of, kind, [])), "%", "line", "made of"]
    lines += ["", aligned(heads, rows, [False, True, True, True, False, False], display.width).rstrip()]
    if idle:
        lines.append(f"Nothing from {', '.join(idle)}.")
    lines += ["", _adds_up(miss(found))]
    nexts = [
        f"{r.name} {number(float(v) * factor, decimals)}"
        for r, v in zip(found.results[1:3], found.values[1:3], strict=True)
    ]
    if nexts:
        lines.append(f"Next: {', '.join(nexts)} {unit}.")
    return "\n".join(lines) + "\n"


def _adds_up(off: float) -> str:
    if off <= 1e-8:
        return "The shares add up to the value, and the loads to their cases."
    return f"The shares miss the value, or loads their case, by {off:.0e} of the largest: do not rely on them."
