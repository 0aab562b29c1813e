"""Checked members as a table."""

from __future__ import annotations

import numpy as np

from ..answers.table import Column, Table
from ..model.project import Project
from .checked import Checked


def _left_out(found: Checked, k: int) -> str:
    words = found.not_checked(k)
    if words:
        return f"not checked: {', '.join(words)}"
    return f"torsion by warping takes {found.warping(k)}" if found.warps[k] > 0 else ""


def members_table(project: Project, found: Checked) -> Table:
    """A row for each member, the worst first, then those not checked: what governs, where, under what; each check's
    share; what was not checked."""
    m = len(found.members)
    own = [project.members[i] for i in found.members.tolist()]
    worst = [found.worst(k) for k in range(m)]
    rows = np.arange(m)
    known = np.array([not reason for reason in found.lost], bool)
    used = np.where(known, found.use[rows, worst] if m else np.zeros(0), np.nan)
    left_out = [found.lost[k] or _left_out(found, k) for k in range(m)]
    if found.withheld:
        left_out = ["; ".join(filter(None, (words, f"no pass: {found.withheld}"))) for words in left_out]
    table = Table(
        "steel-members",
        (
            Column("member", "text", [one.name for one in own]),
            Column("section", "text", [one.section.name for one in own]),
            Column("verdict", "text", [str(found.holds(k)) for k in range(m)]),
            Column("utilisation", "number", used),
            Column("check", "text", [found.checks[w] if k else "" for w, k in zip(worst, known, strict=True)]),
            Column("case", "text", [
                found.results[found.result[k, w]].name if known[k] else "" for k, w in enumerate(worst)
            ]),
            Column("x", "length", np.where(known, found.x[rows, worst], np.nan)),
            *(Column(name, "number", np.where(known, found.use[:, i], np.nan)) for i, name in enumerate(found.checks)),
            Column("how", "text", [found.how[found.result[k, w]] if known[k] else "" for k, w in enumerate(worst)]),
            Column("left out", "text", left_out),
        ),
    )  # fmt: skip
    return table.rows(np.lexsort((rows, -np.nan_to_num(used, nan=-1.0))))
