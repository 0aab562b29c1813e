"""What was decided in combining: uses and loads assumed, values taken, what an envelope does without, names."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..model.cases import Case, Combination
from ..model.decisions import Decision
from ..model.project import Project
from ..model.rules import BY_USE, CRANE_USE, HEAVIEST, OF_SERVICE, RuleSet
from ..model.words import Expansion, Stance
from .expand import Loads, cases_in, factor_of, is_own
from .used import used_in


def combining_decisions(project: Project, made: Sequence[Combination], loads: Loads) -> Iterator[Decision]:
    """Decisions on the combinations of codes."""
    asked = project.combining
    there = {name for c in made for name, f in c.factors if f and c.rule_sets}
    cases = [c for c in project.cases if c.name in there]
    if any(r.by_case for r in asked.sets):
        for case in cases:
            if case.action in ("live", "moving") and not case.use and not case.stands:
                yield Decision(
                    "use of the floor",
                    (case.name,),
                    HEAVIEST,
                    "its factors are the highest of every code",
                    "office, residential, assembly, ...",
                    f"cases.{case.name}.use",
                    Stance.SAFE,
                    case.place,
                )
    for rules in asked.sets:
        own = [c for c in made if rules.name in c.rule_sets]
        if own:
            yield from _of_set(project, rules, own, cases, loads)
    codes = dict.fromkeys(c.code for c in made if c.code)
    if len(codes) > 1:
        words = ", ".join(f"{code}." for code in codes)
        yield Decision(
            "names of combinations",
            tuple(codes),
            f"begin with {words}",
            "the model has rules of several codes; --under and limits take names without the code too",
            "",
            "combinations.rules",
            Stance.SAFE,
            asked.of_rules,
        )


def _of_set(
    project: Project, rules: RuleSet, own: Sequence[Combination], cases: Sequence[Case], loads: Loads
) -> Iterator[Decision]:
    asked, about = project.combining, (rules.name,)
    if asked.expansion == Expansion.COMPLETE:
        yield Decision(
            "variable actions",
            about,
            "each may also be absent",
            "a load that need not act is left out where that is worse",
            Expansion.AS_WRITTEN,
            "combinations.expansion",
            Stance.SAFE,
            asked.of_rules,
        )
    mixes = sum(rules.name in c.mix_in for c in own)
    if mixes:
        yield Decision(
            "mixes of other combinations",
            about,
            f"{mixes} of {len(own)} are left out of envelopes over the whole set",
            "no sum, and no convex function of results, is the worst under a mix; steel, ratios and "
            "critical factors are asked of all",
            "all in every answer",
            "combinations.reduce",
            Stance.SAFE,
            asked.of_rules,
        )
    if any(c.action == "seismic" for c in cases):
        for name in used_in(rules, own, rules.asked):
            yield Decision(
                f"the value {name}",
                about,
                f"{rules.values[name]:g}",
                "none is given, and it decides safety",
                "that of the site",
                f"combinations.values.{name}",
                Stance.UNSAFE,
                asked.of_rules,
                "assumed",
            )
    for name in used_in(rules, own, OF_SERVICE):
        windy = tuple(case.name for case in cases if case.action == "wind")
        speeds = project.wind is not None and project.wind.V_service is not None
        yield Decision(
            f"service wind in {rules.name}",
            windy,
            f"{name} = {rules.values[name]:.4g} of the wind cases",
            "(V_service/V)^2" if speeds else "as stated, or all of it",
            "another speed of service",
            f"wind.V_service, combinations.values.{name}",
            Stance.USUAL if rules.values[name] != 1 else Stance.SAFE,
            asked.of_rules,
        )
    in_set = {n for c in own for n, _ in c.factors}
    for name in used_in(rules, own, rules.by_case):
        for case in cases_in(rules, project.cases):
            known = case.action in rules.by_case[name] or case.action in BY_USE
            idle = name == rules.leading.partial and case.use != CRANE_USE
            if not known or idle or case.name not in in_set:
                continue
            value = factor_of(rules, name, case, loads)
            stance, why = Stance.USUAL, f"for {case.use or (HEAVIEST if case.action in BY_USE else case.action)}"
            if is_own(rules, name, case):
                why = "from its own weights"
            code, instead = "", ""
            if name in rules.heavy and case.action in BY_USE and value < rules.heavy[name][1]:
                limit, factor = rules.heavy[name]
                if case.name not in loads.largest:
                    stance, code = Stance.GUESS, "light-load"
                    why = f"its load per area is not known: taken as up to {limit / 1e3:.3g} kN/m2"
                instead = f"{factor:g} for more than {limit / 1e3:.3g} kN/m2"
            yield Decision(
                f"{name} in {rules.name}",
                (case.name,),
                f"{value:g}",
                why,
                instead,
                f"combinations.factors.{name}",
                stance,
                case.place,
                code,
            )
