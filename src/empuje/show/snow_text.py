"""The sheet of the snow for eyes."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..core.answers.table import Table
from ..core.model.words import SnowPart
from .display import Display
from .tables import for_eyes

HEADS = {
    SnowPart.FOUND: "Stated, and found of the roofs",
    SnowPart.ROOFS: "Roofs: from the ground to the balanced load, per level area",
    SnowPart.DRIFTS: "Drifts, and what slid: highest where they begin, over the balanced snow",
    SnowPart.ARRANGEMENTS: "Arrangements",
    SnowPart.TOTALS: "Case by case: what arrived, down, and where its resultant is in plan",
}
FEW = 3


def snow_for_eyes(tables: Mapping[SnowPart, Table], display: Display, chosen: bool) -> str:
    """The tables one below the other; the arrangements of a few cases, unless cases were chosen."""
    out = []
    for name, title in HEADS.items():
        table, more = tables[name], ""
        if not len(table):
            continue
        if name == SnowPart.ARRANGEMENTS and not chosen:
            case = table["case"].astype(str)
            every = list(dict.fromkeys(case.tolist()))
            table = table.rows(np.isin(case, every[:FEW]))
            if len(every) > FEW:
                more = f" of {', '.join(every[:FEW])}; --under names others, of which there are {len(every) - FEW}"
        out.append(f"{title}{more}\n{for_eyes(table, display)}")
    return "\n".join(out)
