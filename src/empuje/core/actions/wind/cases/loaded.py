"""The cases of the wind: every zone's pressures in each, and the plain loads that they make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import PlainLoads, Source, SourcesOnDemand, Step, gather
from ....model.project import Project
from ....model.wind import WindCase
from ....model.words import Side, WindCode
from ..site.asce_site import beside_g
from .components import component_loads
from .eccentric import Integrals, integrals_of, made_eccentric
from .on_unclad import least_on, on_unclad
from .rooftop import on_rooftop
from .spread import Applied, Spread, not_carried, plain
from .worked_out import Blown, Piece, Pieces, Wind

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SEEN = 1e-9


def loaded(project: Project, spread: Spread, wind: Wind, findings: list[Finding]) -> tuple[Wind, list[Finding]]:
    """The cases: every zone's pressures, and the plain loads they make."""
    number = {name: i for i, name in enumerate(project.case_names)}
    zones = [_of_zones(spread, wind, h) for h in range(len(wind.blown))]
    rows: list[_Rows] = []
    lines: list[PlainLoads] = []
    known: dict[tuple[int, int], _Moved | None] = {}
    integrals: dict[tuple[int, int], Integrals] = {}
    for k, case in enumerate(wind.rule.cases):
        if case.name not in number or case.component:
            continue
        column = number[case.name]
        for place, h in enumerate(case.headings):
            moved: _Moved | None = UNMOVED
            if case.twist:
                if (h, case.twist) not in known:
                    known[h, case.twist] = _eccentric(
                        spread, wind.blown[h], zones[h], case, h, integrals, known.get((h, -case.twist))
                    )
                moved = known[h, case.twist]
            if moved is None:
                findings.append(
                    Finding("error", "wind-eccentric", f"the wind of case {case.name} acts in one line: it cannot be "
                            "made eccentric", "leave this case out with `variants`", wind.rule.place)
                )  # fmt: skip
            rows.append(_rows(wind, case, (k, column, h), zones[h], place == 0, moved or UNMOVED))
            lines += [on_unclad(project, unclad, column, case, wind, h) for unclad in wind.blown[h].unclad]
            least = least_on(wind.rule, False)
            lines += [on_rooftop(project, unit, column, case, wind, h, least) for unit in wind.rule.rooftop]
    pieces, applied = _joined(rows)
    loads = plain(spread, applied)
    if spread.lost:
        names = [s.name for s in project.surfaces]
        findings += not_carried(spread, names, Finding("error", "not-carried", "", "put a member there, turn the deck, "
                                                       "or draw the surface smaller", wind.rule.place))  # fmt: skip
    loads = replace(loads, sources=_sources(project, wind, pieces))
    more, rows_of, found = component_loads(project, spread, wind, number)
    return replace(wind, pieces=pieces, loads=gather([loads, *lines, more]), components=rows_of), [*findings, *found]


@dataclass(frozen=True)
class _Zones:
    """The zones of a heading (zones,): the parts under their own pressure and under a unit, what the first is
    multiplied by; mean q [N/m2], area [m2], the factor beside C, C (zones, alternatives), whether the inside presses
    on them, whether they are walls across the wind, side walls, whether their minimum load counts; the share of them
    that is seen along the wind; the direction (zones, 3) of their positive load; and the number of their building, -1
    for none."""

    own: Ints
    unit: Ints
    scale: Floats
    mean: Floats
    area: Floats
    factor: Floats
    C: Floats
    inside: NDArray[np.bool_]
    sways: NDArray[np.bool_]
    aside: NDArray[np.bool_]
    least: Floats
    way: Floats
    building: Ints


def _of_zones(spread: Spread, wind: Wind, h: int) -> _Zones:
    zones = wind.blown[h].zones
    along = np.array([*wind.blown[h].heading.vector, 0.0])
    received = [spread.of_zone(zone) for zone in zones]
    unit, own, scale = zip(*received, strict=True) if received else ((), (), ())
    most = max((len(z.stretch.C) for z in zones), default=1)
    least = []
    for zone in zones:
        share = -float(zone.face.normal @ along)
        share = abs(share) if zone.side == Side.FREE_ROOF else share
        seen = share > SEEN and not zone.stretch.extra
        least.append(least_on(wind.rule, zone.side == Side.ROOF) * share if seen else 0.0)
    return _Zones(
        np.array(own, np.intp), np.array(unit, np.intp), np.array(scale), np.array([z.mean for z in zones]),
        np.array([z.area for z in zones]), np.array([z.stretch.factor for z in zones]),
        np.array([[z.C(k) for k in range(most)] for z in zones]).reshape(len(zones), most),
        np.array([z.stretch.inside for z in zones], bool), np.array([z.sways for z in zones], bool),
        np.array([z.side == Side.SIDE for z in zones], bool), np.array(least),
        np.array([z.stretch.way or -z.face.normal for z in zones]).reshape(-1, 3),
        np.array([z.building for z in zones], np.intp),
    )  # fmt: skip


@dataclass(frozen=True)
class _Rows:
    """One heading in one case: pieces, and the multiples of parts they stand for, `source` counting these pieces."""

    pieces: Pieces
    applied: Applied


@dataclass(frozen=True)
class _Moved:
    """Zones (k,) that are made eccentric: their numbers, the parts under their own pressures, and what these come to on
    what counts of each [N]."""

    zone: Ints
    part: Ints
    force: Floats


UNMOVED = _Moved(np.zeros(0, np.intp), np.zeros(0, np.intp), np.zeros(0))


def _eccentric(
    spread: Spread,
    blown: Blown,
    zones: _Zones,
    case: WindCase,
    h: int,
    known: dict[tuple[int, int], Integrals],
    other: _Moved | None,
) -> _Moved | None:
    """Walls across the wind, moved aside building by building; None where one's all act in one line.
    `known`: integrals by heading, `h`, and building; `other`: the same moved to the other side."""
    along = np.array(blown.heading.vector)
    left = np.array([-along[1], along[0]])
    weight = zones.factor * zones.C[:, min(case.roof, zones.C.shape[1] - 1)] * (zones.way[:, :2] @ along)
    each = [UNMOVED]
    for b, met in enumerate(blown.met):
        own = np.flatnonzero(zones.sways & (zones.building == b))
        if not len(own):
            continue
        some = [blown.zones[i] for i in own.tolist()]
        if (h, b) not in known:
            known[h, b] = integrals_of(some, left)
        fields = made_eccentric(known[h, b], weight[own], met.e * case.twist)
        if fields is None:
            return None
        part: list[int | None] = [None] * len(some)
        if other is not None:
            # Moved as far the other way: 2 p - p', of what is received the same.
            before = dict(zip(other.zone.tolist(), other.part.tolist(), strict=True))
            part = [spread.opposite(int(zones.own[i]), float(zones.scale[i]), before[i]) for i in own.tolist()]
        part = [
            k if k is not None else spread.of(z.surface, z.part, z.whole, field)
            for k, z, field in zip(part, some, fields, strict=True)
        ]
        there = np.array([z.part if z.counted is None else z.counted for z in some], object)
        centre = shapely.get_coordinates(shapely.centroid(there))
        at = np.zeros((len(some), 2))
        at[~shapely.is_empty(there)] = centre
        force = shapely.area(there) * (fields[:, 0] + (at * fields[:, 1:]).sum(axis=1))
        each.append(_Moved(own, np.array(part, np.intp), force))
    return _Moved(*(np.concatenate([getattr(m, f) for m in each]) for f in ("zone", "part", "force")))


def _rows(
    wind: Wind, case: WindCase, numbers: tuple[int, int, int], zones: _Zones, first: bool, moved: _Moved
) -> _Rows:  # fmt: skip
    """The zones of a heading in a case; `numbers` are those of the case among the wind's, among all, and of the
    heading; `moved`: zones that are made eccentric."""
    k, column, h = numbers
    if case.least:
        chosen = np.flatnonzero(zones.least > 0)
        n = len(chosen)
        way = np.tile(np.array([*wind.blown[h].heading.vector, 0.0]), (n, 1))
        C, outside, inside = np.full(n, np.nan), zones.least[chosen], np.zeros(n)
        mean, part, amount, source = outside, zones.unit[chosen], outside, np.arange(n)
        force = outside * zones.area[chosen]
    else:
        chosen = np.arange(len(zones.own)) if first else np.flatnonzero(zones.sways)
        n = len(chosen)
        way = zones.way[chosen]
        C = zones.C[chosen, min(case.roof, zones.C.shape[1] - 1)]
        if len(case.headings) > 1:
            # With two winds at once a wall is windward or leeward to one of them, and not a side wall to the other.
            C = np.where(zones.aside[chosen], 0.0, C)
        outside = case.factor * zones.factor[chosen] * C
        each = [met.inside(case.inside) for met in wind.blown[h].met]
        pressed = case.factor * np.array([*each, 0.0])[zones.building[chosen]] if first else 0.0
        inside = np.where(zones.inside[chosen], pressed, 0.0)
        mean = outside * zones.mean[chosen]
        force = (mean - inside) * zones.area[chosen]
        own, scale = zones.own[chosen].copy(), zones.scale[chosen].copy()
        at = np.searchsorted(chosen, moved.zone)
        own[at], scale[at] = moved.part, 1.0
        force[at] = outside[at] * moved.force - inside[at] * zones.area[moved.zone]
        # What presses from within turns no building (ASCE 7, figure 27.3-8: windward and leeward pressures do).
        alike = own == zones.unit[chosen]
        amount = outside * scale - np.where(alike, inside, 0.0)
        more = np.flatnonzero(~alike & (inside != 0))
        part = np.concatenate([own, zones.unit[chosen][more]])
        amount = np.concatenate([amount, -inside[more]])
        source = np.concatenate([np.arange(n), more])
    pieces = Pieces(np.full(n, k), np.full(n, h), chosen, C, mean, inside, force, way)
    applied = Applied(np.full(len(part), column), part, amount, way[source], source)
    return _Rows(pieces, applied)


def _joined(rows: Sequence[_Rows]) -> tuple[Pieces, Applied]:
    """All pieces and multiples, one below the other."""
    start = np.cumsum([0, *(len(r.pieces) for r in rows)])
    pieces = Pieces.concat([Pieces.none(), *(r.pieces for r in rows)])
    moved = [replace(r.applied, source=r.applied.source + n) for r, n in zip(rows, start, strict=False)]
    return pieces, Applied.concat([Applied.none(), *moved])


def _sources(project: Project, wind: Wind, pieces: Pieces) -> SourcesOnDemand:
    """Where the loads of every piece come from; alike pieces share their steps."""
    told: dict[tuple[object, ...], tuple[Step, ...]] = {}

    def make(i: int) -> Source:
        p = pieces.one(wind.blown, i)
        name, heading = p.zone.face.name, wind.blown[p.heading].heading
        x, y, z = p.way
        steps = (
            *_steps(wind, p, told),
            Step("A", "of the zone", p.zone.area, "m2"),
            Step("F", "on the zone", p.force, "N"),
        )
        put = (p.force * x, p.force * y, p.force * z)
        text = f"wind {heading.name}, {p.zone.stretch.name} on {name}"
        return Source(text, heading.place, steps, name, wind.rule.cases[p.case].name, put)

    return SourcesOnDemand(len(pieces), make)


def _steps(wind: Wind, piece: Piece, told: dict[tuple[object, ...], tuple[Step, ...]]) -> tuple[Step, ...]:
    """How a zone's pressure came about; alike zones share the words."""
    stretch, case, h = piece.zone.stretch, wind.rule.cases[piece.case], piece.heading
    key = (h, piece.case, stretch.name, stretch.q, piece.outside, piece.inside, piece.zone.sways,
           piece.zone.building)  # fmt: skip
    if key in told:
        return told[key]
    if case.least:
        told[key] = (Step("p", "minimum on what is seen along the wind, per area of the surface", piece.outside, "N/m2",
                          "27.1.5"),)  # fmt: skip
        return told[key]
    at = stretch.at if np.isfinite(stretch.at) else stretch.z[1]
    profile = wind.blown[h].profile
    steps = list(profile.derived(at))
    if stretch.q[0] != stretch.q[1]:
        steps += [
            Step("z_1", "the pressure is straight from here", stretch.z[0], "m"),
            Step(f"{profile.symbol},1", "at z_1", stretch.q[0], "N/m2"),
        ]
    several = len(stretch.steps) > 1 and len(stretch.C) > 1
    steps += [stretch.steps[min(case.roof, len(stretch.steps) - 1)]] if several else stretch.steps
    K_d = 1.0 if wind.rule.code == WindCode.EN else beside_g(wind.blown[h].rule)
    if wind.rule.code == WindCode.EN:
        steps.append(Step("c_s c_d", "structural factor", stretch.factor, "", "6.1"))
    elif not stretch.name.endswith("parapet"):
        steps.append(Step("G", "gust factor", stretch.factor / K_d, "", "26.11"))
    if K_d != 1:
        steps.append(Step("K_d", "directionality factor, beside G in 7-22", K_d, "", "table 26.6-1"))
    if case.factor != 1:
        steps.append(Step("share", f"load case {case.load_case}", case.factor, "", "figure 27.3-8"))
    steps.append(Step("p_e", "mean on the zone, towards the surface", piece.outside, "N/m2"))
    if piece.inside:
        steps += wind.blown[h].met[piece.zone.building].of_internal[0 if case.inside > 0 else 1]
        steps.append(Step("p", "p_e - p_i" + (", p_i times the share" if case.factor != 1 else ""), piece.net, "N/m2"))
    if case.twist and piece.zone.sways:
        where = "left" if case.twist > 0 else "right"
        *before, last = wind.blown[h].met[piece.zone.building].of_e
        words = f"{last.formula}, to the {where} of the wind: scaled straight across the building"
        steps += [*before, replace(last, formula=words)]
    told[key] = tuple(steps)
    return told[key]
