"""The sheet of the wind for eyes."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..core.answers.table import Column, Table
from ..core.model.words import WindPart
from .display import Display
from .tables import for_eyes

HEADS = {
    WindPart.FOUND: "Stated, and found of the building",
    WindPart.HEIGHTS: "Pressure by height above the ground",
    WindPart.COEFFICIENTS: "Coefficients",
    WindPart.ZONES: "Zones",
    WindPart.UNCLAD: "Unclad members at full wind",
    WindPart.COMPONENTS: "Components: pressures by the area each carries",
    WindPart.SUMS: "Sums by building, by family of members and by level",
    WindPart.TOTALS: "Case by case: base shear along and across the wind, uplift, moments about the middle of the base",
}


def wind_for_eyes(tables: Mapping[WindPart, Table], display: Display, chosen: bool) -> str:
    """The tables one below the other; the zones of a few cases, unless cases were chosen."""
    out = []
    for name, title in HEADS.items():
        table, more = tables[name], ""
        if not len(table):
            continue
        if name in (WindPart.ZONES, WindPart.SUMS) and not chosen:
            table, more = _first(table)
        if name == WindPart.ZONES:
            table = _narrow(table, display)
        if name == WindPart.COEFFICIENTS:
            table = _of_several(table)
        if name == WindPart.UNCLAD:
            table = _alike(table)
        if name == WindPart.COMPONENTS:
            table = _alike_components(table)
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


def _alike(table: Table) -> Table:
    """Unclad members with the same loads in one row; those along the wind, which have none, in no row."""
    numbers = [c for c in table.columns if c.kind != "text"]
    rows: dict[tuple[object, ...], list[int]] = {}
    for i, wind in enumerate(table["wind"].tolist()):
        values = tuple(float(f"{float(c.values[i]):.9g}") for c in numbers)
        if any(values[-2:]):
            rows.setdefault((wind, *values), []).append(i)
    first = table.rows(sorted(group[0] for group in rows.values()))
    more = {group[0]: len(group) - 1 for group in rows.values()}
    kept = sorted(more)
    names = [f"{table['member'][i]}" + (f" and {more[i]} more" if more[i] else "") for i in kept]
    columns = tuple(Column(c.name, c.kind, names) if c.name == "member" else c for c in first.columns)
    return Table(table.name, columns)


def _alike_components(table: Table) -> Table:
    """Components with the same area, coefficient and pressure in a zone in one row."""
    rows: dict[tuple[object, ...], list[int]] = {}
    for i in range(len(table)):
        values = tuple(float(f"{float(table[c][i]):.6g}") for c in ("area", "C", "p"))
        rows.setdefault((table["case"][i], table["zone"][i], *values), []).append(i)
    first = table.rows([own[0] for own in rows.values()])
    more = {own[0]: len(own) - 1 for own in rows.values()}
    names = [f"{table['member'][i]}" + (f" and {n} more" if n else "") for i, n in more.items()]
    return Table(table.name, tuple(Column(c.name, c.kind, names) if c.name == "member" else c for c in first.columns))


def _narrow(table: Table, display: Display) -> Table:
    """What matters first, and ranges in one column each; the direction only where a case has several."""
    several = len({(c, w) for c, w in zip(table["case"], table["wind"], strict=True)}) > len(
        set(table["case"].tolist())
    )
    columns = {c.name: c for c in table.columns}
    factor, unit = display.factor("length"), display.unit("length")

    def spans(low: str, high: str) -> list[str]:
        pairs = zip(table[low] * factor, table[high] * factor, strict=True)
        return [f"{a:.2f}" if abs(b - a) < 5e-3 else f"{a:.2f} to {b:.2f}" for a, b in pairs]

    first = ("case", *(("wind",) if several else ()), "surface", "zone", "C", "q", "p_e", "p_i", "p", "F", "area")
    ranges = (
        Column(f"z [{unit}]", "text", spans("z0", "z1")),
        Column(f"from edge [{unit}]", "text", spans("from", "to")),
    )
    return Table(table.name, (*(columns[name] for name in first), *ranges))


def _of_several(table: Table) -> Table:
    """Coefficients that are the same for several directions in one row."""
    others = [c for c in table.columns if c.name != "wind"]
    rows: dict[tuple[object, ...], list[int]] = {}
    for i in range(len(table)):
        rows.setdefault(tuple(str(c.values[i]) for c in others), []).append(i)
    first = table.rows([group[0] for group in rows.values()])
    winds = [", ".join(str(table["wind"][i]) for i in group) for group in rows.values()]
    columns = tuple(Column(c.name, c.kind, winds) if c.name == "wind" else c for c in first.columns)
    return Table(table.name, columns)
