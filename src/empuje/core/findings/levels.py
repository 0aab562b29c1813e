"""Loads and rules that do not belong together: levels of loads, notional loads, steel by another code; and cases that
something is missing from."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..model.cases import Case, Combination
from ..model.findings import Finding, listed
from ..model.rules import OF_SERVICE, RuleSet
from ..model.words import Level, Set, Stage, SteelCode, WindCode
from ..resolved import Resolved
from .telling import warn

TIMES = {WindCode.EN: 1.5}
"""What turns characteristic wind into that of the limit state: gamma_Q of EN 1990; else 1.6 (ASCE 7-05, 2.3.2)."""
USUAL_TIMES = 1.6
USUAL_SPEEDS = {False: (38.0, 95.0), True: (18.0, 60.0)}
"""Basic wind speeds [m/s] of the codes' maps, by whether the code is EN, with room for islands: others are told."""


def of_levels(resolved: Resolved) -> list[Finding]:
    """Mismatches of levels, notional loads and codes."""
    return [*_levels(resolved), *_no_notional(resolved), *_other_code(resolved), *_left_out(resolved),
            *_missing(resolved)]  # fmt: skip


def _levels(resolved: Resolved) -> Iterator[Finding]:
    project = resolved.project
    by_speed = project.wind is not None and project.wind.V_service is not None
    for rules in project.combining.sets:
        own = [c for c in resolved.combinations if rules.name in c.rule_sets]
        used = {name for c in own for name, f in c.factors if f}
        for action, wanted in rules.levels.items():
            wrong = [
                c for c in project.cases if c.action == action and c.level not in (None, wanted) and c.name in used
            ]
            stated = any(rules.values.get(k, 1.0) != 1 for k in OF_SERVICE)
            of_service = stated and (wanted == Level.SERVICE or (by_speed and rules.set == Set.SERVICE))
            if wrong and not of_service:
                yield _mismatch(resolved, rules, own, wrong, wanted)


def _mismatch(resolved: Resolved, rules: RuleSet, own: list[Combination], wrong: list[Case], wanted: Level) -> Finding:
    project = resolved.project
    names, level = [c.name for c in wrong], wrong[0].level
    wind = project.wind is not None and wrong[0].action == "wind"
    times = TIMES.get(project.wind.code, USUAL_TIMES) if wind and project.wind is not None else USUAL_TIMES
    if wanted == Level.SERVICE:
        own_share = next((k for k in OF_SERVICE if k in rules.values), "")
        remedy = f"state wind.V_service, or values = {{ {own_share} = ... }}: the square of its share of the speed"
        if not own_share:
            remedy = 'state cases of service, with level = "service"'
    elif wanted == Level.STRENGTH:
        remedy = f"multiply them by {times:g}, or take rules for {level} loads"
    else:
        remedy = f"multiply them by 1/{times:g} = {1 / times:.3g}, or take rules for {level} loads"
    message = f"{rules.name} takes {wrong[0].action} loads at the level of {wanted}: {listed(names)} are of {level}"
    return warn("load-level", message, remedy, project.combining.of_rules, *names)


def _no_notional(resolved: Resolved) -> Iterator[Finding]:
    """Second order for members by a code that wants imperfections, and none anywhere."""
    project = resolved.project
    second = [c for c in resolved.combinations if project.is_second_order(c)]
    if not second or not (project.steel is not None or project.direct):
        return
    notional = {c.name for c in project.cases if c.notional}
    without = [c for c in second if not any(name in notional for name, _ in c.factors)]
    if without:
        code = (
            "EN 1993-1-1, 5.3.2"
            if project.steel is not None and project.steel.code == SteelCode.EN
            else "AISC 360, C2.2"
        )
        names = [c.name for c in without]
        message = f"{len(names)} combinations of second order have no notional load ({code}): {listed(names, 3)}"
        remedy = 'add a case with notional = "1/200" (EN) or "0.002" (AISC) and dir, and rules or formulas that take it'
        yield warn("no-notional-load", message, remedy, second[0].place, *names)


def _other_code(resolved: Resolved) -> Iterator[Finding]:
    project = resolved.project
    if project.steel is None:
        return
    en = project.steel.code == SteelCode.EN
    strange = [
        s.name
        for s in project.combining.sets
        if (s.code.startswith("EN") and not en) or (s.code.startswith(("ASCE", "NBCC", "AS/NZS")) and en)
    ]
    if strange:
        message = (
            f"steel by {project.steel.code} under combinations of {listed(strange)}: their factors belong to codes of "
        )
        message += "their own"
        yield warn(
            "codes-mixed", message, "take both from one family of codes, or accept it", project.steel.place, *strange
        )


NEEDED = ("dead", "wind")
"""Actions without which combinations for strength are not all there are."""


def _left_out(resolved: Resolved) -> Iterator[Finding]:
    """Actions of the model that no combination for strength has."""
    project = resolved.project
    strength = [c for c in resolved.combinations if c.set == Set.STRENGTH]
    there = {name for c in strength for name, f in c.factors if f}
    for action in NEEDED if strength else ():
        own = [
            c for c in project.cases if c.action == action and not c.notional and c.stage in (Stage.ANY, Stage.FINAL)
        ]
        if own and not any(c.name in there for c in own):
            yield warn(
                "strength-without",
                f"no combination for strength has a {action} load: {listed([c.name for c in own])} stand by themselves",
                "check the rules' actions and what they leave out",
                own[0].place,
                *(c.name for c in own),
            )


def _missing(resolved: Resolved) -> Iterator[Finding]:
    """No self-weight anywhere, a dead load that only pushes sideways, a case of nothing, one direction of wind."""
    from .cases import total_forces

    project = resolved.project
    cases = [(k, c) for k, c in enumerate(project.cases) if not c.notional and not c.stands and not c.moves]
    coded = bool(project.combining.sets) and any(c.action == "dead" for _, c in cases)
    if project.members and coded and not any(c.self_weight for _, c in cases):
        dense = any(m.material.density for m in project.members)
        if dense:
            yield warn(
                "no-self-weight",
                "no case has the members' own weight",
                "add self_weight = 1 to a dead case",
                cases[0][1].place,
                *(c.name for _, c in cases),
            )
    totals = total_forces(resolved)
    for k, case in cases:
        flat, down = float(np.hypot(*totals[k, :2])), abs(float(totals[k, 2]))
        if case.action == "dead" and flat > 1e-6 and down < 0.01 * flat:
            yield warn(
                "level-dead",
                f"case {case.name} is dead, and its loads push sideways only",
                "give it its action: wind, seismic, soil",
                case.place,
                case.name,
            )
    wind = project.wind
    if wind is not None:
        if len(wind.headings) == 1:
            yield warn(
                "one-wind",
                f"there is wind in one direction only, {wind.headings[0].name}",
                "add the others it may come from to wind.directions",
                wind.place,
                wind.headings[0].name,
            )
        low, high = USUAL_SPEEDS[wind.code == WindCode.EN]
        if not low <= wind.V <= high:
            yield warn(
                "odd-wind",
                f"the basic wind speed is {wind.V:.4g} m/s ({wind.V * 3.6:.4g} km/h, {wind.V / 0.44704:.4g} mph): "
                f"those of the code lie between {low:g} and {high:g} m/s",
                "check its unit",
                wind.place,
            )
