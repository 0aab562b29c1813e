"""Why, for eyes: what governs in words, then the shares with their loads set in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..core.answers.table import Column
from ..core.answers.why import DEFORMED, NOTHING, Why, miss, why_table
from .display import Display
from .layout import aligned
from .tables import decimals_for, number


@dataclass(frozen=True)
class WhyWords:
    """A derivation in words: what governs, the heads and rows of its shares, and what there is to say below."""

    lines: list[str]
    heads: list[str]
    rows: list[list[str]]
    below: list[str]


NUMERIC = [False, True, True, True, False, False]


def why_words(found: Why, display: Display) -> WhyWords:
    """How a governing value came about; loads are set in below their case."""
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
    heads = ["part of", "factor", display.head(Column(of, kind, [])), "%", "line", "made of"]
    below = [f"Nothing from {', '.join(idle)}."] if idle else []
    return WhyWords(lines, heads, rows, [*below, _adds_up(miss(found))])


def why_for_eyes(found: Why, display: Display) -> str:
    """How a governing value came about, for a terminal."""
    words = why_words(found, display)
    kind = found.target.kind
    unit, factor = display.unit(kind), display.factor(kind)
    decimals = decimals_for(float(np.abs(found.values).max(initial=0.0)) * factor)
    lines = [*words.lines, "", aligned(words.heads, words.rows, NUMERIC, display.width).rstrip()]
    lines += [*words.below[:-1], "", words.below[-1]]
    nexts = [
        f"{r.name} {number(float(v) * factor, decimals)}"
        for r, v in zip(found.results[1:3], found.values[1:3], strict=True)
    ]
    if nexts:
        lines.append(f"Next: {', '.join(nexts)} {unit}.")
    return "\n".join(lines) + "\n"


def _adds_up(off: float) -> str:
    if off <= 1e-8:
        return "The parts add up to the value, and the loads to their cases."
    return f"The parts miss the value, or loads their case, by {off:.0e} of the largest: do not rely on them."
