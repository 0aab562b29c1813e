"""Checks of steel members for eyes: the table, and derivations on a page."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..core.analysis.solution import Solution
from ..core.answers.table import Column, Table
from ..core.model.loads import Step
from ..core.steel.checked import Checked, derivation
from .display import Display
from .layout import aligned
from .tables import for_eyes


def members_for_eyes(table: Table, found: Checked, display: Display) -> str:
    """The table; what no member has to bear is left out, and what was left out stands below, once for all."""
    idle = [name for name in found.checks if float(np.nan_to_num(table[name]).max(initial=0.0)) < 5e-4]
    text = for_eyes(table.without([*idle, "left out", "how"]), display)
    reasons: dict[str, list[str]] = {}
    for name, words in zip(table["member"].tolist(), table["left out"].tolist(), strict=True):
        if words:
            reasons.setdefault(words, []).append(name)
    lines = [f"{words}: {_few(names)}" for words, names in reasons.items()]
    return text + ("\n" + "\n".join(lines) + "\n" if lines else "")


def _few(names: Sequence[str]) -> str:
    families = list(dict.fromkeys(n.split("/")[0] for n in names))
    shown = names[:3]
    return ", ".join(shown) + (f" and {len(names) - 3} more of {', '.join(families)}" if len(names) > 3 else "")


def derivations(solution: Solution, found: Checked, check: int | None, display: Display) -> str:
    """A page for each member: what governs it, or one check, step by step."""
    out = []
    project = solution.project
    for m, index in enumerate(found.members.tolist()):
        member = project.members[index]
        if found.lost[m]:
            out.append(f"{member.name}: not checked: {found.lost[m]}\n")
            continue
        c = found.worst(m) if check is None else check
        name, used = found.checks[c], float(found.use[m, c])
        clause = found.code.clauses[name]
        case = found.results[int(found.result[m, c])].name
        factor, unit = display.factor("length"), display.unit("length")
        if c < found.code.of_section:
            place = f"at x = {found.x[m, c] * factor:.3f} {unit}"
        else:
            k = max(int(found.stretch[m, c]), int(np.searchsorted(found.lengths.member, index)))
            a, b = found.lengths.x0[k] * factor, found.lengths.x1[k] * factor
            place = f"between x = {a:.3f} and {b:.3f} {unit}"
        head = f"{member.name}, {member.section.name}, {member.material.name}: {name} utilisation {used:.3f}"
        lines = [head, f"  {found.rule.code}, {clause}; {place}, under {case}", ""]
        rows = [_row(step, display) for step in derivation(solution, found, m, c)]
        lines.append(aligned(["symbol", "value", "from", "clause"], rows, [False, True, False, False], display.width))
        out.append("\n".join(lines))
    return "\n".join(out)


def derivation_table(solution: Solution, found: Checked, check: int | None) -> Table:
    """The steps of what governs each member, or of one check, in SI, a row each."""
    rows: list[tuple[str, str, Step]] = []
    for m, index in enumerate(found.members.tolist()):
        name = solution.project.members[index].name
        if found.lost[m]:
            rows.append((name, "", Step("not checked", found.lost[m], math.nan, "")))
            continue
        c = found.worst(m) if check is None else check
        rows += [(name, found.checks[c], step) for step in derivation(solution, found, m, c)]
    return Table("derivations", (
        Column("member", "text", [name for name, _, _ in rows]),
        Column("check", "text", [check for _, check, _ in rows]),
        Column("symbol", "text", [s.symbol for _, _, s in rows]),
        Column("value", "number", np.array([s.value for _, _, s in rows], float)),
        Column("unit", "text", [s.unit.split()[0] if s.unit else "" for _, _, s in rows]),
        Column("from", "text", [s.formula for _, _, s in rows]),
        Column("clause", "text", [s.clause for _, _, s in rows]),
    ))  # fmt: skip


def _row(step: Step, display: Display) -> list[str]:
    value = "unbounded" if math.isinf(step.value) else display.value(step)
    return [step.symbol, value, step.formula, step.clause]
