"""The sheet of the wind for eyes."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..core.answers.table import Table
from .display import Display
from .tables import for_eyes

HEADS = {
    "found": "Stated, and found of the building",
    "heights": "Pressure by height above the ground",
    "coefficients": "Coefficients",
    "zones": "Zones",
    "bare": "Bare members at full wind",
    "totals": "Case by case: base shear along and across the wind, uplift, moments about the middle of the base",
}
MOST = 2
"""Zones of so many cases are listed; of more the first of each direction, and how to see the others."""


def wind_for_eyes(tables: Mapping[str, Table], display: Display, chosen: bool) -> str:
    """The tables one below the other; the zones of a few cases, unless cases were chosen."""
    out = []
    for name, title in HEADS.items():
        table, more = tables[name], ""
        if not len(table):
            continue
        if name == "zones" and not chosen:
            table, more = _first(table)
        out.append(f"{title}{more}\n{for_eyes(table, display)}")
    return "\n".join(out)


def _first(table: Table) -> tuple[Table, str]:
    """The first case of every direction by itself."""
    case, wind = table["case"].astype(str), table["wind"].astype(str)
    first: dict[str, str] = {}
    for c, w in zip(case.tolist(), wind.tolist(), strict=True):
        first.setdefault(w, c)
    keep = np.isin(case, list(first.values()))
    others = len(set(case.tolist())) - len(set(first.values()))
    more = f" of {', '.join(first.values())}; --under names others, of which there are {others}" if others else ""
    return table.rows(keep), more
