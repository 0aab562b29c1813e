"""What was decided in turning actions into loads: the building of the wind, its enclosure, travel one way, areas."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from ..model.decisions import Decision
from ..model.project import Project
from ..model.reduction import Reduction
from ..model.surfaces import SHORT
from ..model.traffic import Vehicle
from ..model.words import Carry, Heading, RoofForm, Stance, WindCode
from ..surfaces.bays import deck_of_bay
from .surfaces.sources.surface_loads import Surfaces
from .wind.cases.worked_out import Wind
from .wind.codes import asce_building, en_tables
from .wind.codes.asce_building import enclosure_of
from .wind.shape.building import Building


def wind_decisions(wind: Wind | None) -> Iterator[Decision]:
    """Decisions on the building that the wind meets."""
    if wind is None:
        return
    rule = wind.rule
    for roof in (*(r for b in wind.buildings for r in b.roofs), *wind.free_roofs):
        drawn = sorted({f"{f.drawn:.6g}" for f in roof.faces if abs(f.drawn - f.slope) > 1e-6})
        if drawn:
            yield Decision(
                "slope at a table's row",
                tuple(roof.names),
                f"{roof.slope:.3g} degrees",
                f"drawn at {', '.join(drawn)}: within a twentieth of a degree of it",
                "another slope",
                "wind.theta, or surfaces",
                Stance.USUAL,
                rule.place,
            )
    if rule.ground is None:
        yield Decision(
            "level of the ground",
            (),
            f"{wind.ground:.4g} m",
            "lowest support or exterior point",
            "a level",
            "wind.ground",
            Stance.USUAL,
            rule.place,
        )
    if len(wind.buildings) > 1:
        for building in wind.buildings:
            yield Decision(
                building.name,
                tuple(f.name for f in building.faces),
                f"h = {building.h:.4g} m",
                "walls that close a loop in plan, with the roofs on them",
                "other surfaces together",
                "wind.buildings",
                Stance.USUAL,
                rule.place,
            )
    for building in wind.buildings:
        yield from _of_building(building)
    yield from _of_components(wind)
    yield from _by_tables(wind)
    for blown in wind.blown:
        heading = blown.heading
        for met in blown.met:
            if heading.B is None and heading.L is None:
                yield Decision(
                    f"plan as wind {heading.name} meets {'it' if len(blown.met) == 1 else met.seen.building.name}",
                    (),
                    f"B = {met.seen.B:.4g} m, L = {met.seen.L:.4g} m",
                    "extent of the exterior surfaces",
                    "B and L stated" if len(blown.met) == 1 else "other surfaces together",
                    f"wind.directions.{heading.name}.B" if len(blown.met) == 1 else "wind.buildings",
                    Stance.USUAL,
                    heading.place,
                )


def _of_components(wind: Wind) -> Iterator[Decision]:
    """The areas that components go by, where they are not stated."""
    for entry in wind.rule.components:
        if entry.area is not None or (entry.span is not None and entry.width is not None):
            continue
        rows = [r for r in wind.components if r.number in set(entry.members)]
        areas, names = [r.area for r in rows], {r.member for r in rows}
        if areas:
            low, high = min(areas), max(areas)
            yield Decision(
                f"area of components {entry.text}",
                tuple(sorted(names)),
                f"{low:.3g} m2" if high - low < 1e-6 * high else f"{low:.3g} to {high:.3g} m2",
                "shortest span between nodes times the width that surfaces bring: smaller areas have higher pressures",
                "the spans between supports",
                f"wind.components.{entry.text}.area",
                Stance.SAFE,
                entry.place,
            )


def _of_building(building: Building) -> Iterator[Decision]:
    """Enclosure, inside pressure, height and roofs of one building."""
    rule = building.rule
    of = "" if building.name == "building" else f" of {building.name}"
    named = any(b.name == building.name for b in rule.buildings)
    key = "wind" if building.name == "building" else f"wind.buildings.{building.name if named else 'NAME'}"
    if rule.enclosure is None and rule.code != WindCode.EN:
        word, why = enclosure_of(rule, building)
        guess = Stance.USUAL if rule.openings else Stance.GUESS
        yield Decision(
            f"enclosure{of}",
            (),
            str(word),
            f"26.2: {why}",
            "partially enclosed, partially open, open",
            f"{key}.enclosure, or wind.openings",
            guess,
            rule.place,
            "enclosure-assumed",
        )
    if rule.code == WindCode.EN and not rule.openings and "c_pi+" not in rule.stated:
        yield Decision(
            f"internal pressure{of}",
            (),
            "c_pi of +0.2 and -0.3",
            "7.2.9(6), note 2: no openings are stated",
            "by the openings",
            f"wind.openings, or {key}.c_pi",
            Stance.SAFE,
            rule.place,
        )
    if "h" not in rule.stated:
        yield Decision(
            f"height h{of}",
            (),
            f"{building.h:.4g} m",
            "mean roof height" if rule.code != WindCode.EN else "of the roofs found",
            "a height",
            f"{key}.h",
            Stance.USUAL,
            rule.place,
        )
    for i, roof in enumerate(building.roofs, start=1):
        stated = roof.form in list(RoofForm)
        yield Decision(
            f"form of roof {i}{of}",
            tuple(roof.names),
            f"{roof.form}, {roof.slope:.3g} degrees",
            "from its surfaces",
            " or ".join(f for f in RoofForm if f != roof.form) if stated else "",
            f"{key}.roof_form" if stated else "surfaces",
            Stance.USUAL,
            rule.place,
        )


def _by_tables(wind: Wind) -> Iterator[Decision]:
    """Where between the rows of the codes' tables coefficients are read, direction by direction, and where beyond."""
    en = wind.rule.code == WindCode.EN
    for blown, seen in ((b, met.seen) for b in wind.blown for met in b.met):
        building = seen.building
        h = building.top if en else building.h
        ratio, places = h / seen.L, en_tables.H_D if en else asce_building.H_L
        words = [_row(f"h/{'d' if en else 'L'}", ratio, places, "")]
        if not en:
            words.append(_row("L/B", seen.L / seen.B, asce_building.L_B, ""))
        slopes = en_tables.SLOPES if en else asce_building.SLOPES
        for slope in sorted({round(r.slope, 1) for r in building.roofs if r.slope >= (5 if en else 10)}):
            words.append(_row("slope", slope, slopes, " degrees"))
        tall = en and ratio > places[-1] * (1 + 1e-9)
        yield Decision(
            f"coefficients of wind {blown.heading.name}{'' if building.name == 'building' else f' on {building.name}'}",
            (),
            ", ".join(words),
            BEYOND if tall else "straight between the rows of tables, as at their ends beyond them",
            "forces of the whole building" if tall else "",
            f"wind.h, wind.directions.{blown.heading.name}.L",
            Stance.GUESS if tall else Stance.USUAL,
            blown.heading.place,
            "beyond-table" if tall else "",
        )


BEYOND = "table 7.1 ends there: taller buildings by 7.6 to 7.8"


def _row(name: str, value: float, places: Sequence[float], unit: str) -> str:
    """A value beside the places of a table."""
    said = f"{name} = {value:.3g}{unit}"
    if value < places[0] - 1e-9 or value > places[-1] + 1e-9:
        return f"{said}, as at {places[0] if value < places[0] else places[-1]:g}"
    low = max(p for p in places if p <= value + 1e-9)
    if abs(low - value) <= 1e-9 * max(abs(value), 1.0):
        return said
    return f"{said}, between {low:g} and {min(p for p in places if p > value):g}"


def deck_decisions(project: Project, surfaces: Surfaces) -> Iterator[Decision]:
    """Which way decks that span the shorter way of each bay do; of bays next to square either may be meant."""
    for geometry in surfaces.values():
        surface = geometry.outline.surface
        if surface.deck != SHORT or surface.carry == Carry.NODES:
            continue
        ways: dict[str, int] = {}
        square = 0
        for bay in geometry.bays.polygons:
            ring = shapely.get_coordinates(shapely.minimum_rotated_rectangle(bay))
            sides = np.linalg.norm(np.diff(ring, axis=0), axis=1)
            square += bool(abs(sides[0] - sides[1]) <= SQUARE * max(sides[0], sides[1]))
            way = deck_of_bay(bay) @ geometry.outline.axes[:2]
            name = "xyz"[int(np.abs(way).argmax())] if np.abs(way).max() > 0.999 else "askew"
            ways[name] = ways.get(name, 0) + 1
        taken = ", ".join(f"{way} in {n} bay{'s' if n > 1 else ''}" for way, n in ways.items())
        more = f"; {square} of them next to square" if square else ""
        yield Decision(
            "direction of the deck",
            (surface.name,),
            taken + more,
            "the shorter way of each bay",
            "the other way, or two-way" if square else "a stated direction",
            f"surfaces.{surface.name}.deck",
            Stance.GUESS if square else Stance.USUAL,
            surface.place,
            "square-bay" if square else "",
        )


SQUARE = 0.02
"""Bays whose sides differ by no more than this share may be meant to span either way."""


def traffic_decisions(project: Project) -> Iterator[Decision]:
    """Decisions on moving cases."""
    for k, t in enumerate(project.traffic):
        picked = sum(s.traffic == k for s in project.standings)
        if picked and not t.every_step:
            yield Decision(
                "positions of traffic",
                (t.case,),
                f"{picked} positions, each analysed by itself",
                "where results are no sums: those worst for some reaction, force or displacement",
                "every step",
                f"traffic.{t.case}.step, traffic.{t.case}.every_step" if not t.runways else f"cranes.{t.case}.step",
                Stance.USUAL,
                t.place,
            )
    for t in project.traffic:
        for one in t.assumed:
            key = f"cranes.{t.case}.{one.key}"
            yield Decision(
                one.subject, (t.case,), one.taken, one.because, "what its maker says", key, one.stance, t.place
            )
        uneven = [v.name for v in t.vehicles if not alike_both_ways(v)]
        if t.heading == Heading.FORWARD and not t.heading_stated and uneven:
            yield Decision(
                "direction of travel",
                (t.case,),
                "forward only",
                f"as nothing else is stated; {', '.join(dict.fromkeys(uneven))} is not alike from front and back",
                "both ways",
                "traffic.heading",
                Stance.USUAL,
                t.place,
            )


def alike_both_ways(v: Vehicle) -> bool:
    """Whether a vehicle is the same from front and back."""
    axles = [tuple(a.wheels) for a in v.axles]
    gaps = [tuple(a.gap) for a in v.axles[1:]]
    return axles == axles[::-1] and gaps == gaps[::-1] and not v.along and len(v.lane_on) == 1


def reduction_decisions(project: Project, reduction: Reduction) -> Iterator[Decision]:
    """Decisions on reduced live loads."""
    rule = project.reduction
    if rule is None:
        return
    for one in reduction.each:
        said = {s.symbol: s.value for s in one.steps}
        factor = f"K_LL = {said['K_LL']:g}, " if "K_LL" in said else ""
        member, case = project.members[one.member], project.cases[one.case]
        yield Decision(
            "reduced live load",
            (member.name, case.name),
            f"{factor}area {one.area:.4g} m2, {one.floors} floors: factor {one.factor:.3g}",
            f"{rule.code}, taken down by geometry",
            "K_LL stated, or none",
            "reduction.K_LL, reduction.without",
            Stance.USUAL,
            rule.place,
        )
