"""The combinations of a model: its own formulas, and those that the rules of codes make of its cases."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from pathlib import Path

from ..core.actions.reduction import largest_down
from ..core.combine.expand import MOST, Loads, TooMany, cases_in, expand, factor_of, free_cases
from ..core.combine.expression import ExpressionError, parse
from ..core.combine.reduce import without_mixes
from ..core.combine.rules import BY_USE, HEAVIEST, RuleSet
from ..core.model.findings import did_you_mean, has_errors
from ..core.model.project import Case, Combination, Project
from .entry import Entry, shown
from .rules import SETS, Given, own_codes, read_rule_file, read_rule_text
from .tables import inside

COMBINATION_NAME = re.compile(r"[^\W_][\w.+-]*")
RESERVED = {"cases", "combinations", *SETS}
KEYS = (
    "custom", "rules", "rule_files", "expansion", "reduce", "only", "leave_out", "values", "factors", "second_order_at",
)  # fmt: skip
WAYS = ("complete", "as written")
MOST_TIMES = 3.0
LONG = 2500
"""Of longer lists an envelope needs no more than the combinations that live loads in patterns leave."""


def combined(model: Entry, project: Project, folder: Path | None) -> Project:
    """The project with its combinations: those of codes, less what an envelope can do without, then the custom ones;
    and words on how they came about."""
    entry = model.child("combinations").known(KEYS)
    cases = list(project.cases)
    custom = _custom(entry, cases)
    sets = _rule_sets(entry, folder)
    way = entry.text("expansion", WAYS, "complete") or "complete"
    loads = Loads(largest_down(project))
    made = _made(entry, sets, project, way == "complete", loads)
    known = {c.name for c in custom} | {c.name for c in cases}
    for name in known & {c.name for c in made}:
        entry.error("name-clash", f"{name} is also what a combination of {made[0].source} is called", "rename it")
    for rules in sets:
        of_it = [c for c in made if _is_of(c, rules)]
        _say_left_out(entry, cases, rules, of_it, loads)
        _say_assumed(entry, cases, rules, of_it, loads)
    _say_uses(entry, cases, sets, made)
    every = replace(project, combinations=(*made, *custom))
    if not sets or has_errors(entry.notes.findings):
        return every
    kept = every
    if entry.flag("reduce", True) and way == "complete":
        kept = replace(every, combinations=tuple(without_mixes(every)))
    return replace(kept, combining=tuple(_told(rules, way, every, kept, loads) for rules in sets))


def _is_of(c: Combination, rules: RuleSet) -> bool:
    return c.source.startswith(f"{rules.name},") or c.source == rules.name


def _told(rules: RuleSet, way: str, every: Project, kept: Project, loads: Loads) -> str:
    """How the combinations of a rule set came about, with the values and factors of cases that were used."""
    all_of, left = ([c for c in p.combinations if _is_of(c, rules)] for p in (every, kept))
    dropped = len(all_of) - len(left)
    mixes = f", after {dropped} that are mixes of others" if dropped else ""
    used = [f"{name} = {rules.values[name]:g}" for name in _used(rules, all_of, rules.values)]
    for name in _used(rules, all_of, rules.by_case):
        of_cases = [
            f"{case.name} {factor_of(rules, name, case, loads):g}" for case in cases_in(rules, every.cases)
            if case.action in rules.by_case[name] or case.action in BY_USE
        ]  # fmt: skip
        used += [f"{name}: {', '.join(of_cases)}"] if of_cases else []
    if rules.second_order_at != 1:
        used.append(f"by second order at {rules.second_order_at:g} times its loads")
    in_patterns = [c for c in left if c.free]
    patterns = f", {len(in_patterns)} of them with cases in brackets that may be absent" if in_patterns else ""
    count = f"{len(left)} combination{'s' if len(left) != 1 else ''}"
    return f"{rules.name}: {way}, {count}{patterns}{mixes}" + (f" ({'; '.join(used)})" if used else "")


def _used(rules: RuleSet, made: Sequence[Combination], names: Iterable[str]) -> list[str]:
    """Which of these values or factors stand in the rules that made something."""
    ids = {c.rule for c in made}
    texts = [rule.text for rule in rules.rules if rule.id in ids]
    return [n for n in names if any(re.search(rf"\b{re.escape(n)}\b", text) for text in texts)]


def _rule_sets(entry: Entry, folder: Path | None) -> list[RuleSet]:
    """The rule sets that the model asks for, with its own values and factors."""
    wanted = entry.texts("rules") if entry.has("rules") else []
    given = _given(entry)
    sets: list[RuleSet] = []
    for name in (entry.texts("rule_files") or []) if entry.has("rule_files") else []:
        path = inside(entry, "rule_files", name, folder, "rule file")
        if path is not None:
            sets += read_rule_file(entry, "rule_files", name, path, given)
    names = {r.name for r in sets}
    for code, (file, text) in own_codes().items():
        if any(w.startswith(code) for w in wanted or () if w not in names):
            sets += read_rule_text(text, file, given)[0]
    by_name = {r.name: r for r in reversed(sets)}
    for word in wanted or ():
        if word not in by_name:
            known = [*by_name, *(f"{code} strength" for code in own_codes())]
            every = f"rules are there for {', '.join(own_codes())}"
            entry.error("unknown-name", f"there are no rules {shown(word)}", f"{did_you_mean(word, known)}; {every}",
                        "rules")  # fmt: skip
    chosen = [by_name[w] for w in dict.fromkeys(wanted or ()) if w in by_name]
    for name in given.values:
        if not any(name in r.values for r in chosen):
            known = sorted({v for r in chosen for v in r.values})
            entry.error("unknown-key", f"no chosen rule has a value {name}", did_you_mean(name, known), "values", name)
    at, called = entry.child("second_order_at"), [r.name for r in chosen]
    for name in at.data:
        if name not in called:
            at.error("unknown-name", f"{at.what}: no chosen set is called {name}", did_you_mean(name, called), name)
    times = {name: at.quantity(name, "number") or 1.0 for name in at.data}
    for name, value in times.items():
        if not 1 <= value <= MOST_TIMES:
            at.error("bad-quantity", f"{at.what}.{name} = {value:g}", f"write 1 to {MOST_TIMES:g}", name)
    chosen = [replace(r, second_order_at=times.get(r.name, r.second_order_at)) for r in chosen]
    for name, table in given.factors.items():
        known = sorted({v for r in chosen for v in r.by_case})
        if name not in known:
            entry.error("unknown-key", f"no chosen rule has factors {name}", did_you_mean(name, known), "factors", name)
            continue
        words = {w for r in chosen for w in r.by_case.get(name, ())}
        for word in table:
            if word not in words:
                entry.error("unknown-key", f"factors {name} has nothing for {word}", did_you_mean(word, words),
                            "factors", name, word)  # fmt: skip
    return chosen


def _given(entry: Entry) -> Given:
    values = entry.child("values")
    numbers = {name: values.quantity(name, "number") or 0.0 for name in values.data}
    factors = {
        name: {key: table.quantity(key, "number") or 0.0 for key in table.data}
        for name, table in entry.child("factors").children()
    }
    return Given(numbers, factors)


def _expanded(entry: Entry, rules: RuleSet, project: Project, complete: bool, loads: Loads) -> list[Combination]:
    """The combinations of a rule set. Where results are sums, cases in patterns are not listed both present and absent;
    nor is any live load where the list would be long."""
    place = entry.notes.place((*entry.path, "rules"))
    summed = project.how(Combination("", (), rules.set, place)) == "summed"
    stated = free_cases(rules, project.cases, False) if summed else set()
    try:
        return expand(rules, project.cases, complete, place, stated, loads, LONG if summed and complete else MOST)
    except TooMany:
        pass
    try:
        if summed and complete:
            return expand(rules, project.cases, complete, place, free_cases(rules, project.cases, True), loads)
    except TooMany:
        pass
    message = f"{rules.name} makes more than {MOST:,} combinations of {len(project.cases)} cases"
    remedy = "give loads that act together one `together`, those that never do one `one_of`, or write expansion = "
    remedy += '"as written"'
    if not summed:
        message += ", each of which would be analysed by itself, since sums do not hold here"
        remedy = f"join live cases that act together in one, or {remedy}"
    entry.error("too-many", message, remedy, "rules")
    return []


def _made(entry: Entry, sets: Sequence[RuleSet], project: Project, complete: bool, loads: Loads) -> list[Combination]:
    out: dict[str, Combination] = {}
    codes = {rules.code for rules in sets}
    called: dict[str, tuple[str, str, str]] = {}
    for rules in sets:
        for c in _expanded(entry, rules, project, complete, loads):
            bare = c.name
            if len(codes) > 1:  # names then carry the code
                c = replace(c, stem=f"{re.sub('[^A-Za-z0-9]', '', rules.code)}.{c.stem}").called_after_its_cases()
            if c.name in out and out[c.name].factors != c.factors:
                entry.error("name-clash", f"{rules.name} and {out[c.name].source} both have a combination {c.name}",
                            "choose one of them", "rules")  # fmt: skip
            out.setdefault(c.name, c)
            called[c.name] = (c.name, bare, c.rule)
    made = list(out.values())
    for key, wanted in (("only", True), ("leave_out", False)):
        if not entry.has(key):
            continue
        patterns = entry.texts(key) or []
        for pattern in patterns:
            if made and not any(_is_meant(called[c.name], pattern) for c in made):
                known = [*dict.fromkeys(c.rule for c in out.values()), *out]
                entry.error("unknown-name", f"{key}: no rule or combination is called {shown(pattern)}",
                            did_you_mean(pattern, known), key)  # fmt: skip
        made = [c for c in made if any(_is_meant(called[c.name], p) for p in patterns) == wanted]
    return made


def _is_meant(called: Iterable[str], pattern: str) -> bool:
    """By its name, its name without the code, or its rule."""
    return any(fnmatchcase(name, pattern) for name in called)


def _say_left_out(entry: Entry, cases: list[Case], rules: RuleSet, made: Sequence[Combination], loads: Loads) -> None:
    """Cases that are in no combination of a rule set: a warning, or a note where the code says so."""
    if not made:
        entry.notes.say("warning", "not-combined", (*entry.path, "rules"),
                        f"{rules.name} makes no combination of these cases",
                        "take it out, or look at their actions")  # fmt: skip
        return
    combined = {name for c in made for name, _ in c.factors}
    on_purpose: list[str] = []
    for case in [c for c in cases_in(rules, cases) if c.name not in combined]:
        place = ("cases", case.name)
        zero = [
            n for n, table in rules.by_case.items()
            if (case.action in table or case.action in BY_USE) and not factor_of(rules, n, case, loads)
        ]  # fmt: skip
        zero = _used(rules, made, zero)
        if case.action in rules.without:
            on_purpose.append(case.name)
        elif zero:
            entry.notes.say("note", "left-out", place,
                            f"case {case.name} is in no combination of {rules.name}: its {zero[0]} is 0 "
                            "there")  # fmt: skip
        else:
            entry.notes.say("warning", "not-combined", place,
                            f"case {case.name} (is {case.action}) is in no combination of {rules.name}",
                            "change its action, add a rule set, or put it into [combinations.custom]")  # fmt: skip
    if on_purpose:
        entry.notes.say("note", "left-out", (*entry.path, "rules"),
                        f"{rules.name} leaves out {', '.join(rules.without)} loads: "
                        f"{', '.join(on_purpose)}")  # fmt: skip
    for case in cases:
        if rules.lean and case.lean and case.name not in combined:
            entry.notes.say("warning", "not-combined", ("cases", case.name),
                            f"case {case.name} (leans) is in no combination of {rules.name}",
                            "put it into [combinations.custom]")  # fmt: skip


def _say_assumed(entry: Entry, cases: list[Case], rules: RuleSet, made: Sequence[Combination], loads: Loads) -> None:
    """Values that decide safety and that nobody gave; factors that hold for light loads only."""
    acting = {case.action for case in cases if case.name in {n for c in made for n, _ in c.factors}}
    if "seismic" in acting:
        for name in _used(rules, made, rules.asked):
            entry.notes.say("warning", "assumed", (*entry.path, "rules"),
                            f"{rules.name}: {name} = {rules.values[name]:g} is taken, since none is given",
                            f"write values = {{ {name} = ... }}")  # fmt: skip
    for name in _used(rules, made, rules.heavy):
        limit, factor = rules.heavy[name]
        for case in [c for c in cases_in(rules, cases) if c.action in BY_USE]:
            light = rules.by_case[name][case.use or HEAVIEST]
            if light == factor:
                continue
            where = ("cases", case.name)
            if case.name not in loads.largest:
                entry.notes.say("note", "assumed", where,
                                f"{rules.name}: {name} = {light:g} for case {case.name}, whose load per area is not "
                                f"known: taken as up to {limit / 1e3:.3g} kN/m2")  # fmt: skip
            elif factor_of(rules, name, case, loads) == factor:
                entry.notes.say("note", "heavy-load", where,
                                f"{rules.name}: {name} = {factor:g} for case {case.name}, which has "
                                f"{loads.largest[case.name] / 1e3:.3g} kN/m2, more than {limit / 1e3:.3g}")  # fmt: skip


def _say_uses(entry: Entry, cases: list[Case], sets: Sequence[RuleSet], made: Sequence[Combination]) -> None:
    """Live cases whose use nobody stated."""
    combined = {name for c in made for name, _ in c.factors}
    for case in cases:
        if (
            case.name in combined
            and case.action in ("live", "moving")
            and not case.use
            and any(r.by_case for r in sets)
        ):
            entry.notes.say("warning", "no-use", ("cases", case.name),
                            f"case {case.name} does not say what the floor is used for: taken as {HEAVIEST}, "
                            "which has the highest factors", 'add use = "office", "storage", ...')  # fmt: skip


def _custom(entry: Entry, cases: list[Case]) -> list[Combination]:
    """The custom combinations: a formula, or a formula and the set it belongs to."""
    known = [c.name for c in cases]
    custom = entry.child("custom")
    out = []
    for name, value in custom.data.items():
        if not COMBINATION_NAME.fullmatch(name) or name in RESERVED:
            custom.error("bad-name", f"a combination cannot be called {shown(name)}",
                         "use letters, digits and . + - _", name)  # fmt: skip
        if name in known:
            custom.error("name-clash", f"{name} is a case and a combination", "rename the combination", name)
        inner = Entry(value, (*custom.path, name), custom.notes) if isinstance(value, dict) else None
        formula, group, times = value, "custom", 1.0
        if inner is not None:
            inner.known(["formula", "set", "second_order_at"])
            formula, group = inner.text("formula"), inner.text("set", SETS, "custom") or "custom"
            times = inner.quantity("second_order_at", "number", 1.0) or 1.0
            if not 1 <= times <= MOST_TIMES:
                inner.error("bad-quantity", f"{inner.what}.second_order_at = {times:g}", f"write 1 to {MOST_TIMES:g}")
        if not isinstance(formula, str):
            if inner is None:
                custom.error("not-text", f"combination {name} = {shown(value)}", 'write "1.2 G + 1.6 Q"', name)
            continue
        factors = read_formula(custom, name, f"combination {name}", formula, known)
        if factors is not None:
            place = custom.notes.place((*custom.path, name))
            out.append(Combination(name, factors, group, place, second_order_at=times))
    return out


def read_formula(
    entry: Entry, key: str, what: str, formula: str, known: list[str]
) -> tuple[tuple[str, float], ...] | None:
    """Factored cases, or None and a finding."""
    try:
        factors = parse(formula)
    except ExpressionError as error:
        remedy = 'write it like "1.2 (SW + G) + 1.6 Q"'
        entry.error("bad-formula", f"{what} = {shown(formula)}: {error}", remedy, key)
        return None
    for case, _ in factors:
        if case not in known:
            entry.error("unknown-name", f"{what}: there is no case {case}", did_you_mean(case, known), key)
    return factors if all(case in known for case, _ in factors) else None
