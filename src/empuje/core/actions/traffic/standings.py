"""Positions of traffic as load cases of their own: their names, their loads, and combinations with them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import product

from ...model.cases import Case, Combination
from ...model.findings import Finding
from ...model.loads import PlainLoads, gather
from ...model.project import Project
from ...model.traffic import BESIDE, Spot, Standing, Traffic
from ...model.words import How
from ..surfaces.sources.surface_loads import Surfaces
from .laid import Laid, lay_traffic, loads_of_standing, told

AND = "_and_"
BEFORE, PAST, UNDER, OVER = ".before", ".past", "under", "over"
"""Where a result jumps: just before a place or past it; distances just under or over what is told."""
SAME, STEPS = 0.6e-9, 4.5
"""Lengths this near [m] are one; so many steps to the side of a place are told by a word."""
BRAKES, SIDES = {1: ".braking", -1: ".starting", 0: ""}, {1: ".left", -1: ".right", 0: ""}


def lay_all(project: Project, surfaces: Surfaces) -> tuple[tuple[Laid, ...], list[Finding]]:
    """Every traffic laid out, and what is wrong with them."""
    found: list[Laid] = []
    findings: list[Finding] = []
    for traffic in project.traffic:
        laid, wrong = lay_traffic(project, surfaces, traffic)
        findings += wrong
        if laid is not None:
            found.append(laid)
    return tuple(found), findings


def standing_loads(project: Project, laid: Sequence[Laid]) -> PlainLoads:
    """The plain loads of the project's positions."""
    number = {name: i for i, name in enumerate(project.case_names)}
    by_case = {one.traffic.case: one for one in laid}
    parts = [
        loads_of_standing(by_case[project.traffic[s.traffic].case], s, number[s.case])
        for s in project.standings if project.traffic[s.traffic].case in by_case
    ]  # fmt: skip
    return gather(parts)


def called(traffic: Traffic, spots: Sequence[Spot]) -> str:
    """A position's name: FL@3.25m, FL@3.25m.back; of what differs between positions of the traffic."""
    return f"{traffic.case}@{AND.join(_spot_words(traffic, s) for s in spots) or 'away'}"


def _shortest(x: float, metres: float, beside: tuple[str, str]) -> str:
    """A length [m] in a unit by the fewest figures that say it; one that is a step before or beyond it with a word."""
    for figures in range(3, 9):
        told_ = round(x / metres, figures) + 0.0
        off = x - told_ * metres
        if abs(off) <= SAME:
            return f"{told_:.12g}"
        if figures <= 6 and abs(off) <= STEPS * BESIDE:
            return f"{told_:.12g}{beside[int(off > 0)]}"
    return f"{round(x / metres, 9) + 0.0:.12g}"


def _spot_words(traffic: Traffic, spot: Spot) -> str:
    vehicle = traffic.vehicles[spot.vehicle]
    out = f"way{spot.way + 1}_" if len(traffic.ways) > 1 else ""
    if len(traffic.vehicles) > 1:
        out += f"{vehicle.name.replace(' ', '-')}_"
    unit, metres = traffic.unit

    def length(x: float, beside: tuple[str, str] = ("", "")) -> str:
        return _shortest(x, metres, beside)

    at = length(spot.t, (BEFORE, PAST))
    word = next((w for w in (BEFORE, PAST) if at.endswith(w)), "")
    out += f"{at.removesuffix(word)}{unit}{word}"
    out += ".back" if spot.heading < 0 else ""
    out += BRAKES[spot.brake] + SIDES[spot.side]
    if traffic.in_row(vehicle) > 1 or any(a.gap[0] != a.gap[1] for a in vehicle.axles):
        out += ".gaps" + "_".join(length(g, (UNDER, OVER)) for g in spot.gaps)
    return out + "".join(f".lane{length(a)}to{length(b)}" for a, b in spot.lanes)


def with_standings(project: Project, standings: Iterable[Standing]) -> Project:
    """The project with positions as further load cases, each once; their names set right where two are alike."""
    known = list(project.standings)
    taken = set(project.case_names)
    cases = list(project.cases)
    there = {_key(k) for k in known}
    for one in standings:
        if _key(one) in there:
            continue
        there.add(_key(one))
        traffic = project.traffic[one.traffic]
        name = base = called(traffic, one.spots)
        more = 1
        while name in taken:
            more += 1
            name = f"{base}.{more}"
        taken.add(name)
        known.append(replace(one, case=name))
        cases.append(Case(name, "moving", in_words(traffic, one), 0.0, traffic.place, stands=True))
    return replace(project, cases=tuple(cases), standings=tuple(known))


def _key(standing: Standing) -> tuple[object, ...]:
    """What tells positions apart: to a nanometre, since a wheel stands before a node or past it."""
    spots = (
        (s.way, s.vehicle, round(s.t, 9) + 0.0, s.heading, s.brake, s.side, tuple(round(g, 9) for g in s.gaps),
         tuple((round(a, 9), round(b, 9)) for a, b in s.lanes))
        for s in standing.spots
    )  # fmt: skip
    return (standing.traffic, *spots)


def case_of(project: Project, standing: Standing) -> str:
    """The case that a position is. Raises KeyError where it is none."""
    return {_key(s): s.case for s in project.standings}[_key(standing)]


def in_words(traffic: Traffic, standing: Standing) -> str:
    """Where it stands: vehicle, way, position, heading, time."""
    parts = []
    unit, metres = traffic.unit
    for s in standing.spots:
        text = f"{traffic.vehicles[s.vehicle].name} {told(traffic, s.t)} along {traffic.ways[s.way].text}"
        text += ", backward" if s.heading < 0 else ""
        text += f", {BRAKES[s.brake][1:]}" if s.brake else ""
        text += f", pushing to its {SIDES[s.side][1:]}" if s.side else ""
        vehicle = traffic.vehicles[s.vehicle]
        ranges = traffic.in_row(vehicle) > 1 or any(a.gap[0] != a.gap[1] for a in vehicle.axles)
        text += f", axles {', '.join(f'{g / metres:.4g}' for g in s.gaps)} {unit} apart" if ranges else ""
        text += f", {round(s.t / traffic.speed, 3) + 0.0:.9g} s after it came" if traffic.speed else ""
        text += "".join(f", lane load on {told(traffic, a)} to {told(traffic, b)}" for a, b in s.lanes)
        parts.append(text)
    return "; ".join(parts) or "away"


def positioned(project: Project, combinations: Sequence[Combination]) -> tuple[Combination, ...]:
    """Combinations with moving cases: where sums hold, with these named as moving; else, and with notional loads,
    once for every position that is a load case."""
    cases = {c.name: c for c in project.cases}
    standing: dict[str, list[str]] = {}
    for s in project.standings:
        standing.setdefault(project.traffic[s.traffic].case, []).append(s.case)
    out: list[Combination] = []
    for c in combinations:
        moving = tuple(name for name, f in c.factors if cases[name].moves and f)
        if not moving:
            out.append(c)
        elif project.how(c) == How.SUMMED and not any(cases[name].notional for name, _ in c.factors):
            out.append(replace(c, moving=moving))
        else:
            for chosen in product(*(standing.get(name, []) for name in moving)):
                out.append(replace(c.standing(dict(zip(moving, chosen, strict=True))), origins=(*c.origins, c.name)))
    return tuple(out)


def needs_standings(project: Project) -> bool:
    """Whether some combination may have to be analysed for single positions."""
    one_by_one = project.has_one_way_parts or bool(project.second_order) or any(c.notional for c in project.cases)
    return bool(project.traffic) and one_by_one


def without_moving(project: Project) -> Project:
    """Where no result is a sum a moving case is nothing by itself: only its positions are left."""
    if not project.has_one_way_parts:
        return project
    return replace(project, cases=tuple(c for c in project.cases if not c.moves))
