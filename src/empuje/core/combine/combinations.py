"""The combinations of a project: its own, and those that the rules of codes make of its cases; and what there is to say
about them.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fnmatch import fnmatchcase

from ..model.cases import Case, Combination
from ..model.combining import Chosen
from ..model.findings import Finding, did_you_mean, has_errors
from ..model.project import Project
from ..model.rules import BY_USE, CRANE_USE, HEAVIEST, RuleSet
from ..model.words import Expansion, How
from .custom import with_patterns
from .expand import MOST, OF_COMPONENTS, Loads, TooMany, cases_in, expand, factor_of, free_cases
from .prune import with_mixes
from .used import used_in

LONG = 2500
"""Of longer lists an envelope needs no more than the combinations that live loads in patterns leave."""


NOTHING_KNOWN = Loads()


@dataclass(frozen=True)
class Combined:
    """The combinations: those of codes, with what an envelope can do without marked as such, then the custom ones; in
    words how they came about; and findings."""

    combinations: tuple[Combination, ...]
    told: tuple[str, ...]
    findings: list[Finding]


def combine(project: Project, loads: Loads = NOTHING_KNOWN, sound: bool = True) -> Combined:
    """What the project asks for. Unless it is `sound` no work goes into leaving mixes out."""
    asked = project.combining
    findings: list[Finding] = []
    complete = asked.expansion == Expansion.COMPLETE
    made = _made(project, complete, loads, findings)
    for one in asked.custom:
        twin = next((c for c in made if c.name == one.name), None)
        if twin is not None:
            message = f"{one.name} is also what a combination of {twin.source} is called"
            findings.append(Finding("error", "name-clash", message, "rename it", one.place))
    clash = {c.name for c in made} & set(project.case_names)
    for name in sorted(clash):
        message = f"{name} is also what a combination of {made[0].source} is called"
        findings.append(Finding("error", "name-clash", message, "rename it", _case(project, name).place))
    for rules in asked.sets:
        of_it = [c for c in made if rules.name in c.rule_sets]
        findings += _left_out(project, rules, of_it, loads)
        findings += _assumed(project, rules, of_it, loads)
    findings += _uses(project, made)
    custom, many = with_patterns(project, asked.custom)
    findings += many
    every = (*made, *custom)
    if not asked.sets or not sound or has_errors(findings):
        return Combined(every, (), findings)
    every = tuple(with_mixes(project, every)) if asked.reduce and complete else every
    told = tuple(_told(rules, project, every, loads) for rules in asked.sets)
    return Combined(every, told, findings)


def _case(project: Project, name: str) -> Case:
    return next(c for c in project.cases if c.name == name)


def _told(rules: RuleSet, project: Project, every: Sequence[Combination], loads: Loads) -> str:
    """How the combinations of a rule set came about, with the values and factors of cases that were used."""
    all_of = [c for c in every if rules.name in c.rule_sets]
    left = [c for c in all_of if rules.name not in c.mix_in]
    dropped = len(all_of) - len(left)
    mixes = f", besides {dropped} that are mixes of these" if dropped else ""
    used = [f"{name} = {rules.values[name]:g}" for name in used_in(rules, all_of, rules.values)]
    for name in used_in(rules, all_of, rules.by_case):
        if name == rules.leading.partial and all(c.use != CRANE_USE for c in project.cases):
            continue
        of_cases = [
            f"{case.name} {factor_of(rules, name, case, loads):g}" for case in cases_in(rules, project.cases)
            if case.action in rules.by_case[name] or case.action in BY_USE
        ]  # fmt: skip
        used += [f"{name}: {', '.join(of_cases)}"] if of_cases else []
    if rules.second_order_at != 1:
        used.append(f"by second order at {rules.second_order_at:g} times its loads")
    in_patterns = [c for c in left if c.free]
    patterns = f", {len(in_patterns)} of them with cases in brackets that may be absent" if in_patterns else ""
    count = f"{len(left)} combination{'s' if len(left) != 1 else ''}"
    way = project.combining.expansion
    return f"{rules.name}: {way}, {count}{patterns}{mixes}" + (f" ({'; '.join(used)})" if used else "")


def _expanded(
    rules: RuleSet, project: Project, complete: bool, loads: Loads, findings: list[Finding]
) -> list[Combination]:
    """The combinations of a rule set. Where results are sums, cases in patterns are not listed both present and absent;
    nor is any live load where the list would be long."""
    place = project.combining.of_rules
    summed = project.how(Combination("", (), rules.set, place)) == How.SUMMED
    stated = free_cases(rules, project.cases, False) if summed else set()
    try:
        return expand(rules, project.cases, complete, place, stated, loads, LONG if summed and complete else MOST)
    except TooMany as error:
        permanent = error.permanent
    try:
        if summed and complete and not permanent:
            return expand(rules, project.cases, complete, place, free_cases(rules, project.cases, True), loads)
    except TooMany:
        pass
    message = f"{rules.name} makes more than {MOST:,} combinations of {len(project.cases)} cases"
    remedy = "give loads that act together one `together`, those that never do one `one_of`, or write expansion = "
    remedy += '"as written"'
    if not summed:
        message += ", each of which would be analysed by itself, since sums do not hold here"
        remedy = f"join live cases that act together in one, or {remedy}"
    if permanent:
        message = (
            f"{rules.name} makes more than {MOST:,} combinations, as each dead case may take either of its factors"
        )
        remedy = "join dead loads that come together in one case"
    findings.append(Finding("error", "too-many", message, remedy, place))
    return []


def _made(project: Project, complete: bool, loads: Loads, findings: list[Finding]) -> list[Combination]:
    """Those of all rule sets, each once."""
    asked = project.combining
    out: dict[str, Combination] = {}
    codes = {rules.code for rules in asked.sets}
    called: dict[str, tuple[str, str, str]] = {}
    for rules in asked.sets:
        own = _expanded(rules, project, complete, loads, findings)
        if any(c.component for c in project.cases) and rules.set in OF_COMPONENTS:
            place = asked.of_rules
            try:
                own += expand(rules, project.cases, complete, place, (), loads, components=True)
            except TooMany:
                message = f"{rules.name} makes more than {MOST:,} combinations with the wind of components"
                findings.append(Finding("error", "too-many", message, "join live cases that act together", place))
        for c in own:
            bare = c.name
            if len(codes) > 1:  # names then carry the code
                c = replace(c, code=re.sub("[^A-Za-z0-9]", "", rules.code)).called_after_its_cases()
            known = out.setdefault(c.name, c)
            alike = (known.set, known.second_order_at) == (c.set, c.second_order_at)
            if dict(known.factors) != dict(c.factors) or not alike:
                message = f"{rules.name} and {known.source} both have a combination {c.name}"
                findings.append(Finding("error", "name-clash", message, "choose one of them", asked.of_rules))
            elif rules.name not in known.rule_sets:
                out[c.name] = replace(known, rule_sets=(*known.rule_sets, rules.name))
            called[c.name] = (c.name, bare, c.rule)
    made = list(out.values())
    for key, chosen, wanted in (("only", asked.only, True), ("leave_out", asked.leave_out, False)):
        if chosen is not None:
            made = _kept(key, chosen, wanted, made, called, findings)
    return made


def _kept(
    key: str, chosen: Chosen, wanted: bool, made: list[Combination], called: dict[str, tuple[str, str, str]],
    findings: list[Finding],
) -> list[Combination]:  # fmt: skip
    """Those meant by the patterns, or the others."""
    for pattern in chosen.patterns:
        if made and not any(_is_meant(called[c.name], pattern) for c in made):
            known = [*dict.fromkeys(rule for _, _, rule in called.values()), *called]
            message = f'{key}: no rule or combination is called "{pattern}"'
            findings.append(Finding("error", "unknown-name", message, did_you_mean(pattern, known), chosen.place))
    return [c for c in made if any(_is_meant(called[c.name], p) for p in chosen.patterns) == wanted]


def _is_meant(called: Iterable[str], pattern: str) -> bool:
    """By its name, its name without the code, or its rule."""
    return any(fnmatchcase(name, pattern) for name in called)


ACCIDENTAL = "accidental"


def _wants(rules: RuleSet, action: str) -> bool:
    """Whether a rule set has rules that are about an action."""
    return any(action in rules.symbols[s].actions for r in rules.rules for s in r.always)


def _left_out(project: Project, rules: RuleSet, made: Sequence[Combination], loads: Loads) -> list[Finding]:
    """Cases that are in no combination of a rule set: a warning, or a note where the code says so."""
    here = project.combining.of_rules
    if not made:
        return [Finding("warning", "not-combined", f"{rules.name} makes no combination of these cases",
                        "take it out, or look at their actions", here)]  # fmt: skip
    out: list[Finding] = []
    combined = {name for c in made for name, _ in c.factors}
    on_purpose: list[str] = []
    for case in [c for c in cases_in(rules, project.cases) if c.name not in combined]:
        zero = [
            n for n, table in rules.by_case.items()
            if (case.action in table or case.action in BY_USE) and not factor_of(rules, n, case, loads)
        ]  # fmt: skip
        zero = used_in(rules, made, zero)
        if case.action in rules.without:
            on_purpose.append(case.name)
        elif case.action == ACCIDENTAL and any(_wants(other, ACCIDENTAL) for other in project.combining.sets):
            continue  # the sets of that situation have it
        elif zero:
            message = f"case {case.name} is in no combination of {rules.name}: its {zero[0]} is 0 there"
            out.append(Finding("note", "left-out", message, "", case.place))
        else:
            message = f"case {case.name} (is {case.action}) is in no combination of {rules.name}"
            remedy = "change its action, add a rule set, or put it into [combinations.custom]"
            out.append(Finding("warning", "not-combined", message, remedy, case.place))
    if on_purpose:
        message = f"{rules.name} leaves out {', '.join(rules.without)} loads: {', '.join(on_purpose)}"
        out.append(Finding("note", "left-out", message, "", here))
    for case in project.cases:
        if rules.notional and case.notional and case.name not in combined:
            message = f"case {case.name} (a notional load) is in no combination of {rules.name}"
            out.append(Finding("warning", "not-combined", message, "put it into [combinations.custom]", case.place))
    return out


def _assumed(project: Project, rules: RuleSet, made: Sequence[Combination], loads: Loads) -> list[Finding]:
    """Values that decide safety and that nobody gave; factors that hold for light loads only."""
    out: list[Finding] = []
    combined = {n for c in made for n, _ in c.factors}
    if any(case.action == "seismic" and case.name in combined for case in project.cases):
        for name in used_in(rules, made, rules.asked):
            message = f"{rules.name}: {name} = {rules.values[name]:g} is taken, since none is given"
            remedy = f"write values = {{ {name} = ... }}"
            out.append(Finding("warning", "assumed", message, remedy, project.combining.of_rules))
    for name in used_in(rules, made, rules.heavy):
        limit, factor = rules.heavy[name]
        for case in [c for c in cases_in(rules, project.cases) if c.action in BY_USE]:
            light = rules.by_case[name].get(case.use, rules.by_case[name][HEAVIEST])
            if light == factor:
                continue
            if case.name not in loads.largest:
                message = f"{rules.name}: {name} = {light:g} for case {case.name}, whose load per area is not known: "
                message += f"taken as up to {limit / 1e3:.3g} kN/m2"
                out.append(Finding("note", "assumed", message, "", case.place))
            elif factor_of(rules, name, case, loads) == factor:
                message = f"{rules.name}: {name} = {factor:g} for case {case.name}, which has "
                message += f"{loads.largest[case.name] / 1e3:.3g} kN/m2, more than {limit / 1e3:.3g}"
                out.append(Finding("note", "heavy-load", message, "", case.place))
    return out


def _uses(project: Project, made: Sequence[Combination]) -> list[Finding]:
    """Live cases whose use nobody stated."""
    combined = {name for c in made for name, _ in c.factors}
    if not any(r.by_case for r in project.combining.sets):
        return []
    return [
        Finding("warning", "no-use", f"case {case.name} does not say what the floor is for: taken as {HEAVIEST}, "
                "which has the highest factors", 'add use = "office", "storage", ...', case.place)
        for case in project.cases
        if case.name in combined and case.action in ("live", "moving") and not case.use
    ]  # fmt: skip
