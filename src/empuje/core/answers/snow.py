"""Snow by code: what was stated and found, roofs from p_g to p_s, drifts, arrangements, totals."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np

from ..actions.snow.fall import Snow
from ..actions.totals import applied_totals
from ..model.findings import listed
from ..model.loads import Step
from ..model.project import Project
from ..model.words import SnowPart
from .table import Column, Kind, Table
from .wind import steps_table

Words = Callable[[Step], str]


def snow_sheet(part: SnowPart, snow: Snow, project: Project, cases: Collection[str], value: Words) -> Table:
    """One table of the sheet; `cases` matters to arrangements and totals, `value` (what a step's value is in words) to
    `found`."""
    own = [c.name for c in snow.rule.cases if c.name in cases]
    match part:
        case SnowPart.FOUND:
            return found_table(snow, value)
        case SnowPart.ROOFS:
            return roofs_table(snow)
        case SnowPart.DRIFTS:
            return drifts_table(snow)
        case SnowPart.ARRANGEMENTS:
            return arrangements_table(snow, project, own)
        case SnowPart.TOTALS:
            return snow_totals(snow, project, own)


def found_table(snow: Snow, value: Words) -> Table:
    """What is stated, and what was found of the roofs."""
    rows = [(snow.rule.code.value, s) for s in snow.site()]
    for roof in snow.roofs:
        surfaces = ", ".join(f.name for p in roof.pitches for f in p.faces)
        rows.append((roof.name, Step("form", f"{roof.form}: {surfaces}", np.nan, "")))
        for a, b in roof.ridges:
            rows.append((roof.name, Step("ridge", f"{roof.pitches[a].name}, {roof.pitches[b].name}", np.nan, "")))
        for a, b in roof.valleys:
            rows.append((roof.name, Step("valley", f"{roof.pitches[a].name}, {roof.pitches[b].name}", np.nan, "")))
    rows += [(p.name, Step("spans", f"{p.words}{f': {listed(p.found, 3)}' if p.found else ''}", np.nan, "", "7.5.1"))
             for p in snow.rule.partial]  # fmt: skip
    rows += [("direction", Step(name, "towards, from x", float(np.degrees(np.arctan2(y, x))) + 0.0, "deg"))
             for name, (x, y) in snow.rule.directions]  # fmt: skip
    return steps_table("snow-found", rows, value)


def _columns(heads: Sequence[tuple[str, Kind]], rows: Sequence[Sequence[object]]) -> tuple[Column, ...]:
    columns = list(zip(*rows, strict=True)) if rows else [()] * len(heads)
    return tuple(
        Column(name, kind, list(values) if kind == "text" else np.array(values, float))
        for (name, kind), values in zip(heads, columns, strict=True)
    )


def roofs_table(snow: Snow) -> Table:
    """Every pitch, with all steps up to its balanced load as columns: slope [deg], level length W [m], the code's
    factors, loads [N/m2 of level area]."""
    rows = []
    for r, roof in enumerate(snow.roofs):
        for i, pitch in enumerate(roof.pitches):
            steps = {s.symbol: s.value for s in snow.shapes.of_pitches[r, i]}
            factors = [
                steps.get(k, np.nan) for k in (("mu_1", "s") if snow.rule.is_en else ("C_t", "p_f", "C_s", "p_s"))
            ]
            length = pitch.W if pitch.fall.any() else np.nan
            most = (
                [steps.get("F_s", np.nan)] if snow.rule.is_en else [steps.get("p_m", np.nan), steps.get("p_r", np.nan)]
            )
            rows.append((pitch.name, roof.form, np.radians(pitch.slope), length, *factors, *most))
    shared: list[tuple[str, Kind]] = [("roof", "text"), ("form", "text"), ("slope", "angle"), ("W", "length")]
    own: list[tuple[str, Kind]] = (
        [("mu_1", "number"), ("s", "pressure"), ("F_s", "line")]
        if snow.rule.is_en
        else [("C_t", "number"), ("p_f", "pressure"), ("C_s", "number"), ("p_s", "pressure"), ("p_m", "pressure"),
              ("p_r", "pressure")]
    )  # fmt: skip
    return Table("snow-roofs", _columns([*shared, *own], rows))


def drifts_table(snow: Snow) -> Table:
    """Every drift and what slid: its case, kind, what it lies against and on; length and height of the step, gap, l_u
    (EN: b_1), h_d and h_c, its length [m], and p at its start [N/m2]."""
    cases = {(c.kind, c.direction): c.name for c in snow.rule.cases if not c.exceptional}
    rows = []
    for d in snow.drifts:
        m = d.meeting
        rows.append((
            cases.get((d.falling, d.direction), ""), d.kind, m.riser.name, d.lower.name, m.t[1] - m.t[0], m.h, m.gap,
            d.l_u, d.h_d, d.h_c, d.length, d.p,
        ))  # fmt: skip
    heads: list[tuple[str, Kind]] = [
        ("case", "text"), ("kind", "text"), ("at", "text"), ("on", "text"), ("along", "length"), ("step", "length"),
        ("gap", "length"), ("l_u", "length"), ("h_d", "length"), ("h_c", "length"), ("w", "length"),
        ("p_d", "pressure"),
    ]  # fmt: skip
    return Table("snow-drifts", _columns(heads, rows))


def arrangements_table(snow: Snow, project: Project, cases: Collection[str]) -> Table:
    """What lies on every surface in the named cases: level area, the load at its start and its end [N/m2 of level
    area], force [N], down."""
    rows = []
    for p in snow.pieces:
        if p.case in cases:
            layer = p.layer
            rows.append((p.case, p.face.name, layer.name, p.level, layer.start, layer.end, p.force))
    heads: list[tuple[str, Kind]] = [
        ("case", "text"), ("surface", "text"), ("what", "text"), ("area", "surface"), ("from", "pressure"),
        ("to", "pressure"), ("F", "force"),
    ]  # fmt: skip
    for e in snow.edges:
        if e.case in cases:
            length = float(np.linalg.norm(np.subtract(*e.between)))
            name = project.surfaces[e.surface].name
            rows.append((e.case, name, "overhanging its edge", np.nan, np.nan, np.nan, length * e.values[0]))
    return Table("snow-arrangements", _columns(heads, rows))


def snow_totals(snow: Snow, project: Project, cases: Collection[str]) -> Table:
    """Case by case what arrived on the structure, down, and where its resultant is in plan [m]."""
    total = applied_totals(project, snow.loads, np.zeros(3), len(project.cases) + len(project.notional_pairs))
    rows = []
    for i, name in enumerate(project.case_names):
        if name in cases:
            down = -total[2, i]
            x, y = (total[4, i] / down, -total[3, i] / down) if down else (np.nan, np.nan)
            rows.append((name, next(c.title for c in project.cases if c.name == name), down + 0.0, x, y))
    heads: list[tuple[str, Kind]] = [
        ("case", "text"),
        ("title", "text"),
        ("down", "force"),
        ("x", "length"),
        ("y", "length"),
    ]
    return Table("snow-totals", _columns(heads, rows))
