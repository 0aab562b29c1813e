"""The cases of the wind: every zone's pressures in each, and the plain loads that they make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...model.findings import Finding
from ...model.loads import Lines, PlainLoads, Source, Step, Vector, gather
from ...model.project import Project
from ...model.wind import WindCase, WindRule
from ...model.words import Side, WindCode
from ..surfaces.sources.surface_loads import Surfaces
from .asce_site import PSF
from .bare import BareRows
from .eccentric import Shift, made_eccentric
from .spread import Applied, Spread, not_carried, plain
from .worked_out import Piece, Wind
from .zones import Zone

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
LEAST_WALL, LEAST_ROOF = 0.77e3, 0.38e3
LEAST_WALL_PSF, LEAST_ROOF_PSF = 16.0, 8.0
SEEN = 1e-9


def _least(rule: WindRule, is_roof: bool) -> float:
    """The minimum load on what is seen of walls, and of roofs [N/m2] (27.1.5)."""
    if rule.customary:
        return (LEAST_ROOF_PSF if is_roof else LEAST_WALL_PSF) * PSF
    return LEAST_ROOF if is_roof else LEAST_WALL


def loaded(project: Project, surfaces: Surfaces, wind: Wind, findings: list[Finding]) -> tuple[Wind, list[Finding]]:
    """The cases: every zone's pressures, and the plain loads they make."""
    rule = wind.rule
    number = {name: i for i, name in enumerate(project.case_names)}
    spread = Spread(surfaces)
    sources: list[Source] = []
    told: dict[tuple[object, ...], tuple[Step, ...]] = {}
    table: list[tuple[int, int, float, tuple[float, float, float], int, int]] = []
    shifts: list[Shift] = []
    shifted: list[WindCase] = []
    pieces: list[Piece] = []
    lines: list[PlainLoads] = []
    of_zone = _parts(spread, wind)
    for k, case in enumerate(rule.cases):
        if case.name not in number:
            continue
        column = number[case.name]
        for place, h in enumerate(case.headings):
            blown = wind.blown[h]
            along = np.array([*blown.heading.vector, 0.0])
            group = -1
            if case.twist and any(z.sways for z in blown.zones):
                group = len(shifts)
                e = rule.number("eccentricity", 0.15) * (blown.seen.B if blown.seen else 0.0) * case.twist
                shifts.append(Shift(along, np.array([-along[1], along[0], 0.0]), e))
                shifted.append(case)
            for j, zone in enumerate(blown.zones):
                if place and not zone.sways:
                    continue
                piece, multiples = _piece(wind, case, k, h, zone, of_zone[h][j], place == 0)
                if piece is None:
                    continue
                pieces.append(piece)
                steps = _steps(wind, case, h, zone, piece, told)
                name = project.surfaces[zone.surface].name
                put: Vector = tuple((piece.force * np.array(piece.way)).tolist())
                text = f"wind {blown.heading.name}, {zone.stretch.name} on {name}"
                table += [(column, part, amount, way, len(sources), group if zone.sways else -1)
                          for part, amount, way in multiples]  # fmt: skip
                sources.append(Source(text, blown.heading.place, steps, name, case.name, put))
            lines += [_on_bare(project, rows, column, case, wind, h) for rows in blown.bare]
    applied = _applied(table)
    loads, groups = plain(spread, applied, sources)
    if shifts:
        loads, failed = made_eccentric(project, loads, groups, shifts)
        loads, pieces = _with_forces(loads, pieces, set(applied.source[applied.group >= 0].tolist()))
        findings += [
            Finding("error", "wind-eccentric", f"the wind of case {shifted[g].name} acts in one line: it cannot be made "
                    "eccentric", "leave this case out with `variants`", rule.place) for g in failed
        ]  # fmt: skip
    if spread.lost:
        names = [s.name for s in project.surfaces]
        findings += not_carried(spread, names, Finding("error", "not-carried", "", "put a member there, turn the deck, "
                                                       "or draw the surface smaller", rule.place))  # fmt: skip
    return replace(wind, pieces=tuple(pieces), loads=gather([loads, *lines])), findings


def _applied(table: Sequence[tuple[int, int, float, tuple[float, float, float], int, int]]) -> Applied:
    if not table:
        none = np.zeros(0, np.intp)
        return Applied(none, none, np.zeros(0), np.zeros((0, 3)), none, none)
    case, part, amount, way, source, group = zip(*table, strict=True)
    return Applied(np.array(case, np.intp), np.array(part, np.intp), np.array(amount), np.array(way),
                   np.array(source, np.intp), np.array(group, np.intp))  # fmt: skip


@dataclass(frozen=True)
class _Parts:
    """Numbers of a zone's parts: under its own pressure, and under a unit; `scale`: what the first is multiplied by."""

    own: int
    unit: int
    scale: float


def _parts(spread: Spread, wind: Wind) -> list[list[_Parts]]:
    """Of every heading and zone the parts that its loads are multiples of. The unit is looked for only where it is
    needed: where something presses from inside, or the pressure is uniform."""
    out = []
    for blown in wind.blown:
        row = []
        for zone in blown.zones:
            uniform = not zone.field[1:].any()
            if uniform:
                unit = spread.of(zone.surface, zone.part, zone.whole)
                row.append(_Parts(unit, unit, float(zone.field[0])))
                continue
            own = spread.of(zone.surface, zone.part, zone.whole, zone.field)
            row.append(_Parts(own, spread.of(zone.surface, zone.part, zone.whole), 1.0))
        out.append(row)
    return out


def _with_forces(loads: PlainLoads, pieces: list[Piece], some: set[int]) -> tuple[PlainLoads, list[Piece]]:
    """The pieces, one for each source, with the forces that members receive of some of them, and loads that say so."""
    n = len(pieces)
    half = (loads.lines.s1 - loads.lines.s0)[:, None] / 2
    received = np.zeros((n, 3))
    np.add.at(received, loads.lines.source, half * (loads.lines.q0 + loads.lines.q1))
    np.add.at(received, loads.points.source, loads.points.f[:, :3])
    np.add.at(received, loads.nodes.source, loads.nodes.f[:, :3])
    out, sources = list(pieces), list(loads.sources)
    for k in some:
        force = received[k]
        out[k] = replace(out[k], force=float(force @ np.array(out[k].way)))
        sources[k] = replace(sources[k], put=tuple(force.tolist()))
    return replace(loads, sources=tuple(sources)), out


def _piece(
    wind: Wind, case: WindCase, k: int, h: int, zone: Zone, parts: _Parts, first: bool
) -> tuple[Piece | None, list[tuple[int, float, tuple[float, float, float]]]]:
    """A zone in a case, and the multiples of parts it stands for."""
    along = np.array([*wind.blown[h].heading.vector, 0.0])
    normal = zone.face.normal
    if case.least:
        share = -float(normal @ along)
        if zone.side == Side.FREE_ROOF:
            share = abs(share)
        if share <= SEEN or zone.stretch.extra:
            return None, []
        p = _least(wind.rule, zone.side == Side.ROOF) * share
        ahead: Vector = tuple(along.tolist())
        return Piece(k, h, zone, np.nan, p, 0.0, p * zone.area, ahead), [(parts.unit, p, ahead)]
    way = zone.stretch.way or tuple((-normal).tolist())
    # With two winds at once a wall is windward or leeward to one of them, and not a side wall to the other.
    C = 0.0 if len(case.headings) > 1 and zone.side == Side.SIDE else zone.C(case.roof)
    outside = case.factor * zone.stretch.factor * C
    inside = case.factor * wind.blown[h].inside(case.inside) if first and zone.stretch.inside else 0.0
    multiples = [(parts.own, outside * parts.scale, way)]
    if parts.own == parts.unit:
        multiples = [(parts.unit, outside * parts.scale - inside, way)]
    elif inside:
        multiples.append((parts.unit, -inside, way))
    p = outside * zone.mean
    return Piece(k, h, zone, C, p, inside, (p - inside) * zone.area, way), multiples


def _steps(
    wind: Wind, case: WindCase, h: int, zone: Zone, piece: Piece, told: dict[tuple[object, ...], tuple[Step, ...]]
) -> tuple[Step, ...]:
    """How a zone's pressure came about; alike zones share the words."""
    stretch = zone.stretch
    key = (h, stretch.name, stretch.q, stretch.C, case.roof, case.inside, case.factor, case.least, bool(piece.inside),
           piece.outside, case.twist, stretch.factor)  # fmt: skip
    if key in told:
        return told[key]
    if case.least:
        told[key] = (Step("p", "minimum on what is seen along the wind, per area of the surface", piece.outside, "N/m2",
                          "27.1.5"),)  # fmt: skip
        return told[key]
    at = stretch.at if np.isfinite(stretch.at) else stretch.z[1]
    steps = list(wind.profile.derived(at))
    if stretch.q[0] != stretch.q[1]:
        steps.append(Step(wind.profile.symbol, f"straight from {stretch.q[0] / 1e3:.4g} kN/m2 at {stretch.z[0]:.4g} m to that",
                          stretch.q[1], "N/m2"))  # fmt: skip
    several = len(stretch.steps) > 1 and len(stretch.C) > 1
    steps += [stretch.steps[min(case.roof, len(stretch.steps) - 1)]] if several else stretch.steps
    symbol = "c_s c_d" if wind.rule.code == WindCode.EN else "G K_d"
    steps.append(Step(symbol, "beside the coefficient", stretch.factor, ""))
    if case.factor != 1:
        steps.append(Step("share", f"load case {case.load_case}", case.factor, "", "figure 27.3-8"))
    steps.append(Step("p_e", "mean on the zone, towards the surface", piece.outside, "N/m2"))
    if piece.inside:
        steps += [*wind.blown[h].of_internal[0 if case.inside > 0 else 1]]
        steps.append(Step("p", "p_e - p_i" + (", p_i times the share" if case.factor != 1 else ""), piece.net, "N/m2"))
    if case.twist:
        e = wind.rule.number("eccentricity", 0.15)
        if zone.sways:
            steps.append(Step("e", f"{e:g} B, to the {'left' if case.twist > 0 else 'right'} of the wind: scaled straight "
                              "across the building", e * _width(wind, h), "m", "figure 27.3-8"))  # fmt: skip
    told[key] = tuple(steps)
    return told[key]


def _width(wind: Wind, h: int) -> float:
    met = wind.blown[h].seen
    return met.B if met is not None else 0.0


def _on_bare(project: Project, rows: BareRows, column: int, case: WindCase, wind: Wind, h: int) -> PlainLoads:
    """Line loads on bare members, a source for each member."""
    heading, rule = wind.blown[h].heading, wind.rule
    w = case.factor * rows.w
    if case.least:
        w = np.repeat((_least(rule, False) * rows.area)[:, None], 2, axis=1)
    members, first, of = np.unique(rows.of, return_index=True, return_inverse=True)
    top, most = np.zeros(len(members)), np.zeros(len(members))
    np.maximum.at(top, of, rows.z.max(axis=1))
    np.maximum.at(most, of, w.max(axis=1))
    known: dict[float, tuple[Step, ...]] = {}
    sources = []
    for k, i in enumerate(members.tolist()):
        name = project.members[int(rows.member[first[k]])].name
        if case.least:
            steps: tuple[Step, ...] = (
                Step("w", "minimum on what is seen along the wind", float(most[k]), "N/m", "29.7"),
            )
        else:
            z = round(float(top[k]), 6)
            known[z] = known.get(z) or wind.profile.derived(z)
            steps = (*known[z], *rows.steps[i], Step("w", f"{rows.formula}, at its top", float(most[k]), "N/m"))
        sources.append(Source(f"wind {heading.name} on bare {name}", heading.place, steps, case=case.name))
    along = np.array([*heading.vector, 0.0])
    where = np.full(len(rows.of), column)
    lines = Lines(where, of, rows.member, rows.s[:, 0], rows.s[:, 1], w[:, :1] * along, w[:, 1:] * along)
    return PlainLoads(lines, sources=tuple(sources))
