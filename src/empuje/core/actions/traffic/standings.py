"""Positions of traffic as load cases of their own: their names, their loads, and combinations with them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import product

from ...model.cases import Case, Combination
from ...model.findings import Finding
from ...model.loads import PlainLoads, gather
from ...model.project import Project
from ...model.traffic import Spot, Standing, Traffic
from ...model.words import How
from ..surfaces.sources.surface_loads import Surfaces
from .laid import Laid, lay_traffic, loads_of_standing, told

AND = "_and_"
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


def _spot_words(traffic: Traffic, spot: Spot) -> str:
    vehicle = traffic.vehicles[spot.vehicle]
    out = f"way{spot.way + 1}_" if len(traffic.ways) > 1 else ""
    if len(traffic.vehicles) > 1:
        out += f"{vehicle.name.replace(' ', '-')}_"
    unit, metres = traffic.unit

    def length(x: float) -> str:
        return f"{round(x / metres, 3):.9g}"

    out += f"{length(spot.t)}{unit}"
    out += ".back" if spot.heading < 0 else ""
    out += BRAKES[spot.brake] + SIDES[spot.side]
    if traffic.count > 1 or any(a.gap[0] != a.gap[1] for a in vehicle.axles):
        out += ".gaps" + "_".join(length(g) for g in spot.gaps)
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
    """What tells positions apart: to a thousandth of a millimetre."""
    spots = (
        (s.way, s.vehicle, round(s.t, 6) + 0.0, s.heading, s.brake, s.side, tuple(round(g, 6) for g in s.gaps),
         tuple((round(a, 6), round(b, 6)) for a, b in s.lanes))
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
        ranges = traffic.count > 1 or any(a.gap[0] != a.gap[1] for a in traffic.vehicles[s.vehicle].axles)
        text += f", axles {', '.join(f'{g / metres:.4g}' for g in s.gaps)} {unit} apart" if ranges else ""
        text += f", {round(s.t / traffic.speed, 3) + 0.0:.9g} s after it came" if traffic.speed else ""
        text += "".join(f", lane load on {told(traffic, a)} to {told(traffic, b)}" for a, b in s.lanes)
        parts.append(text)
    return "; ".join(parts) or "away"


def positioned(project: Project, combinations: Sequence[Combination]) -> tuple[Combination, ...]:
    """Combinations with moving cases: where sums hold, with these named as moving; else, and with a case that leans,
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
        elif project.how(c) == How.SUMMED and not any(cases[name].lean for name, _ in c.factors):
            out.append(replace(c, moving=moving))
        else:
            for chosen in product(*(standing.get(name, []) for name in moving)):
                out.append(c.standing(dict(zip(moving, chosen, strict=True))))
    return tuple(out)


def needs_standings(project: Project) -> bool:
    """Whether some combination may have to be analysed for single positions."""
    one_by_one = project.has_one_way_parts or bool(project.second_order) or any(c.lean for c in project.cases)
    return bool(project.traffic) and one_by_one


def without_moving(project: Project) -> Project:
    """Where no result is a sum a moving case is nothing by itself: only its positions are left."""
    if not project.has_one_way_parts:
        return project
    return replace(project, cases=tuple(c for c in project.cases if not c.moves))
