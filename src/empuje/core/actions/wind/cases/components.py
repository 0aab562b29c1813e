"""Components and cladding: members that the code gives pressures of their own, by the area each of them carries.

    ASCE 7, 30.1           effective area: span times the width carried, or a third of the span where that is more
    EN 1991-1-4, 7.2.1     c_pe from c_pe,1 (1 m2) to c_pe,10 (10 m2), straight over the logarithm of the loaded area

Their cases load these members alone: every zone pushes at once in one, and pulls in the other.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ....model.findings import Finding, listed
from ....model.loads import Lines, PlainLoads, Points, Source, Step, gather
from ....model.near import SAME_WAY, together
from ....model.project import Project
from ....model.wind import ComponentRule, WindCase, WindRule
from ....model.words import WindCode
from ...faces import Face
from ..codes import en_building
from ..codes.asce_components import ComponentZone, component_zones
from ..shape.overhangs import outside_of
from ..shape.zones import Zone
from ..site.asce_site import FOOT, beside_g
from .on_unclad import least_on
from .spread import Spread
from .worked_out import Blown, ComponentRow, Wind

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
LEAST_K_B, LOW_B = 0.70, 30 * FOOT
STATED = "stated"
STUB = 0.25
"""A piece shorter than this share of the longest between its nodes is no span."""


@dataclass(frozen=True)
class _Part:
    """A zone of a face for components: the numbers of what is received of its own and of a unit pressure, what the
    first is multiplied by; q [N/m2]; pressures of the inside of both signs; coefficients: of a figure of ASCE 7, or the
    lower and upper one for 1 m2 and for 10 m2."""

    name: str
    face: Face
    own: int
    unit: int
    scale: float
    q: float
    inside: tuple[float, float]
    clause: str
    figure: ComponentZone | None = None
    small: tuple[float, float] = (0.0, 0.0)
    large: tuple[float, float] = (0.0, 0.0)


def component_loads(
    project: Project, spread: Spread, wind: Wind, column: Mapping[str, int]
) -> tuple[PlainLoads, tuple[ComponentRow, ...], list[Finding]]:
    """The plain loads of the cases of components, what they consist of, and what is wrong with them."""
    rule = wind.rule
    cases = [c for c in rule.cases if c.component and c.name in column]
    if not rule.components or not cases or not wind.blown:
        return PlainLoads(), (), []
    owner = {m: entry for entry in rule.components for m in entry.members}
    chosen = np.zeros(len(project.members), bool)
    chosen[list(owner)] = True
    areas, findings = _areas(project, spread, wind, owner, chosen)
    loads: list[PlainLoads] = []
    rows: list[ComponentRow] = []
    parts: dict[int, list[_Part]] = {}
    asked: dict[str, ComponentRule] = {}
    steep: dict[str, None] = {}
    for case in cases:
        h = case.headings[0]
        if h not in parts:
            parts[h] = list(_parts(spread, wind, wind.blown[h]))
        for part in parts[h]:
            members = np.unique(np.concatenate([m for m, *_ in _received(spread, part.unit, chosen)]))
            area = {m: areas.of(m, part.face) for m in members.tolist()}
            if part.clause == STATED:
                asked |= {owner[m].text: owner[m] for m in area if owner[m].GC_p is None}
                steep |= {part.face.name: None} if any(owner[m].GC_p is None for m in area) else {}
            pressure = {m: _pressure(rule, part, case, owner[m], own[0]) for m, own in area.items()}
            if not pressure:
                continue
            sources = tuple(
                Source(f"wind on component {project.members[m].name}, {part.name} of {part.face.name}", owner[m].place,
                       (*area[m][1], *steps), case=case.name) for m, (_, _, steps) in pressure.items()
            )  # fmt: skip
            place = {m: i for i, m in enumerate(pressure)}
            inside = part.inside[0 if case.component < 0 else 1]
            amounts = [(part.unit, {m: p for m, (_, p, _) in pressure.items()})]
            if rule.code == WindCode.EN:
                amounts = [(part.own, {m: C * part.scale for m, (C, _, _) in pressure.items()}),
                           (part.unit, dict.fromkeys(pressure, -inside))]  # fmt: skip
            made = [
                _loads(spread, number, chosen, amount, place, part, column[case.name]) for number, amount in amounts
            ]
            lines, points = zip(*made, strict=True)
            loads.append(PlainLoads(lines[0].concat(lines), points[0].concat(points), sources=sources))
            rows += [ComponentRow(case.name, project.members[m].name, part.name, area[m][0], C, p, part.clause, m)
                     for m, (C, p, _) in pressure.items()]  # fmt: skip
    findings += _overhangs(wind)
    for text, entry in asked.items():
        message = (
            f"(GC_p) of {text} below {listed(list(steep), 4)} is not known here: roofs up to 7 degrees and 60 ft are"
        )
        remedy = "state GC_p = [positive, negative] beside it, from chapter 30"
        findings.append(Finding("error", "wind-components", message, remedy, entry.place))
    return gather(loads), tuple(rows), findings


def _overhangs(wind: Wind) -> list[Finding]:
    """Roofs that reach over walls: coefficients with the soffit in them (ASCE 7, 30.9) are not known here."""
    if wind.rule.code == WindCode.EN or all(c.GC_p is not None for c in wind.rule.components):
        return []
    names = [
        f.name for b in wind.buildings for r in b.roofs for f in r.faces
        if outside_of(f, r, b.footprint) is not None
    ]  # fmt: skip
    if not names:
        return []
    message = (
        f"components below overhangs of {listed(names, 4)} have (GC_p) of the roof and the internal pressure below"
    )
    remedy = "state GC_p of overhangs for them (ASCE 7, 30.9)"
    return [Finding("warning", "wind-components", message, remedy, wind.rule.components[0].place)]


def _loads(
    spread: Spread, number: int, chosen: NDArray[np.bool_], amount: Mapping[int, float], place: Mapping[int, int],
    part: _Part, column: int,
) -> tuple[Lines, Points]:  # fmt: skip
    """Multiples of what components receive of a part, by member."""
    many, some = np.zeros(len(chosen)), np.zeros(len(chosen), np.intp)
    for m, value in amount.items():
        many[m], some[m] = value, place[m]
    (member, s0, s1, q0, q1), (at, s, f) = _received(spread, number, chosen)
    way = -part.face.normal
    lines = Lines(np.full(len(member), column), some[member], member, s0, s1, (many[member] * q0)[:, None] * way,
                  (many[member] * q1)[:, None] * way)  # fmt: skip
    force = np.hstack([(many[at] * f)[:, None] * way, np.zeros((len(at), 3))])
    return lines, Points(np.full(len(at), column), some[at], at, s, force)


def _received(
    spread: Spread, number: int, chosen: NDArray[np.bool_]
) -> tuple[tuple[Ints, Floats, Floats, Floats, Floats], tuple[Ints, Floats, Floats]]:
    """What components receive of a part: member, s0, s1, q0, q1 of lines; member, s, f of points."""
    found = spread.received[number]
    member, s0, s1, q0, q1, _ = found.joined_lines()
    k = chosen[member]
    at = np.concatenate([np.zeros(0, np.intp), *(p[0] for p in found.points)])
    s, f = (np.concatenate([np.zeros(0), *(p[i] for p in found.points)]) for i in (1, 2))
    j = chosen[at]
    return (member[k], s0[k], s1[k], q0[k], q1[k]), (at[j], s[j], f[j])


@dataclass(frozen=True)
class _Areas:
    """By member and way (faces that look the same way count together): the effective or loaded area [m2] with its
    steps; `ways`: by surface."""

    ways: Mapping[int, int]
    known: Mapping[tuple[int, int], tuple[float, tuple[Step, ...]]]

    def of(self, member: int, face: Face) -> tuple[float, tuple[Step, ...]]:
        """Of a member below a face."""
        return self.known[member, self.ways[face.surface]]


def _areas(
    project: Project, spread: Spread, wind: Wind, owner: Mapping[int, ComponentRule], chosen: NDArray[np.bool_]
) -> tuple[_Areas, list[Finding]]:
    """The areas of all components."""
    faces = [f for b in wind.buildings for f in b.faces]
    ways = together([f.normal for f in faces], SAME_WAY)
    carried = np.zeros((len(chosen), int(ways.max(initial=0)) + 1))
    for face, way in zip(faces, ways.tolist(), strict=True):
        (member, s0, s1, q0, q1), (at, _, f) = _received(
            spread, spread.of(face.surface, face.outline.polygon, True), chosen
        )
        np.add.at(carried[:, way], member, (s1 - s0) * (q0 + q1) / 2)
        np.add.at(carried[:, way], at, f)
    nodes: dict[int, list[float]] = {}
    for m, at_node in zip(project.nodes_on_members[0].tolist(), project.nodes_on_members[2].tolist(), strict=True):
        nodes.setdefault(m, []).append(at_node)
    known: dict[tuple[int, int], tuple[float, tuple[Step, ...]]] = {}
    for m, entry in owner.items():
        span = entry.span or shortest_span(float(project.lengths[m]), nodes.get(m, []))
        for way in range(carried.shape[1]):
            width = entry.width or float(abs(carried[m, way]) / project.lengths[m])
            known[m, way] = _area(entry, span, width, wind.rule.code == WindCode.EN)
    found = _Areas({f.surface: int(w) for f, w in zip(faces, ways, strict=True)}, known)
    lost = [project.members[m].name for m in owner if carried[m].max(initial=0.0) <= 0]
    if not lost:
        return found, []
    message = f"{listed(lost)} in [wind.components] carr{'ies' if len(lost) == 1 else 'y'} nothing of `exterior`"
    return found, [Finding("warning", "wind-components", message, "let a deck bear on it, or leave it out",
                           wind.rule.components[0].place)]  # fmt: skip


def _area(entry: ComponentRule, span: float, width: float, en: bool) -> tuple[float, tuple[Step, ...]]:
    if entry.area is not None:
        return entry.area, (Step("A", "stated", entry.area, "m2"),)
    area = span * (width if en else max(width, span / 3))
    return area, (
        Step("l", "span, stated" if entry.span else "the shortest span between its nodes", span, "m"),
        Step("b", "width carried" + (", stated" if entry.width else ""), width, "m"),
        Step("A", "l b" if en else "l max(b, l/3)", area, "m2", "7.2.1" if en else "26.2"),
    )


def shortest_span(length: float, nodes: Sequence[float]) -> float:
    """The shortest piece [m] of a member between its nodes, those that are stubs left out.

    >>> shortest_span(20.0, [5.0, 5.3, 12.0])
    5.0
    """
    pieces = np.diff(np.unique(np.round([0.0, *nodes, length], 6)))
    return float(pieces[pieces >= STUB * pieces.max()].min())


def _parts(spread: Spread, wind: Wind, blown: Blown) -> Iterator[_Part]:
    """The zones of all buildings."""
    rule = wind.rule
    for met in blown.met:
        own = met.seen.building.rule.towards(blown.heading)
        if rule.code == WindCode.EN:
            large, _ = en_building.building_zones(met.seen, own, blown.profile)
            small, _ = en_building.building_zones(met.seen, own, blown.profile, small=True)
            for ten, one in zip([z for z in large if z.stretch.way is None], small, strict=True):
                yield _of_zone(spread, ten, one, met.internal)
            continue
        building = met.seen.building
        zones, unknown = component_zones(building)
        # Table 26.10-1: in exposure B K_z is not below 0.70 there.
        K_h = float(blown.profile.columns(np.array([building.h]))["K_z"][0])
        more = max(1.0, LEAST_K_B / K_h) if own.roughness == "B" and building.h < LOW_B else 1.0
        q = more * blown.profile.one(building.h) * beside_g(own)
        inside = (more * met.internal[0], more * met.internal[1])
        for zone in zones:
            unit = spread.of(zone.face.surface, zone.part, False)
            yield _Part(zone.name, zone.face, unit, unit, 1.0, q, inside, zone.figure, zone)
        for face in unknown:
            unit = spread.of(face.surface, face.outline.polygon, True)
            yield _Part("roof", face, unit, unit, 1.0, q, inside, STATED)


def _of_zone(spread: Spread, ten: Zone, one: Zone, inside: tuple[float, float]) -> _Part:
    """A zone of EN with its coefficients for 10 m2 and for 1 m2."""
    unit, own, scale = spread.of_zone(ten)
    small, large = ((min(z.stretch.C), max(z.stretch.C)) for z in (one, ten))
    return _Part(ten.stretch.name, ten.face, own, unit, scale, ten.mean,
                 inside if ten.stretch.inside else (0.0, 0.0), "7.2.1, figure 7.2", None, small, large)  # fmt: skip


def _pressure(
    rule: WindRule, part: _Part, case: WindCase, entry: ComponentRule, area: float
) -> tuple[float, float, tuple[Step, ...]]:
    """The coefficient for a member's area, the mean pressure with the inside's [N/m2], and their steps."""
    which = 0 if case.component < 0 else 1
    inside = part.inside[which]
    if rule.code == WindCode.EN:
        one, ten = part.small[which], part.large[which]
        C = one + (ten - one) * min(max(math.log10(max(area, 1e-9)), 0.0), 1.0)
        p = C * part.q - inside
        return C, p, (
            Step("q_p", "mean of the zone", part.q, "N/m2"),
            Step("c_pe", f"{one:.4g} at 1 m2, {ten:.4g} at 10 m2", C, "", part.clause),
            Step("p_i", "internal pressure", inside, "N/m2"), Step("p", "q_p c_pe - p_i", p, "N/m2", "7.2.1"),
        )  # fmt: skip
    if part.figure is None or entry.GC_p is not None:
        C, words = (entry.GC_p or (0.0, 0.0))[1 - which], "stated"
    else:
        C, words = part.figure.coefficients(area)[1 - which], part.name
    # 30.2.2: as much either way as the minimum on walls.
    least = least_on(rule, False)
    p = part.q * C - inside
    p = max(p, least) if which else min(p, -least)
    return C, p, (
        Step("q_h", "times K_d" if rule.code == WindCode.ASCE_22 else "K_d in it", part.q, "N/m2"),
        Step("GC_p", words, C, "", part.clause), Step("p_i", "internal pressure", inside, "N/m2"),
        Step("p", "q_h (GC_p) - p_i, at least 16 psf either way", p, "N/m2", "(30.3-1), 30.2.2"),
    )  # fmt: skip
