"""The combinations of a model: its own formulas, and those that the rules of codes make of its cases."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from pathlib import Path

from ..core.combine.expand import TooMany, expand
from ..core.combine.expression import ExpressionError, parse
from ..core.combine.reduce import without_mixes
from ..core.combine.rules import HEAVIEST, RuleSet
from ..core.model.findings import did_you_mean, has_errors
from ..core.model.project import Case, Combination, Project
from .entry import Entry, shown
from .rules import SETS, Given, own_codes, read_rule_file, read_rule_text
from .tables import inside

COMBINATION_NAME = re.compile(r"[^\W_][\w.+ -]*")
RESERVED = {"cases", "combinations", *SETS}
KEYS = ("custom", "rules", "rule_files", "expansion", "reduce", "only", "leave_out", "values", "factors")
WAYS = ("complete", "as written")


def combined(model: Entry, project: Project, folder: Path | None) -> Project:
    """The project with its combinations: those of codes, less what an envelope can do without, then the custom ones;
    and words on how they came about."""
    entry = model.child("combinations").known(KEYS)
    cases = list(project.cases)
    custom = _custom(entry, cases)
    sets = _rule_sets(entry, folder)
    way = entry.text("expansion", WAYS, "complete") or "complete"
    made = _made(entry, sets, project, way == "complete")
    known = {c.name for c in custom} | {c.name for c in cases}
    for name in known & {c.name for c in made}:
        entry.error("name-clash", f"{name} is also what a combination of {made[0].source} is called", "rename it")
    _say_left_out(entry, cases, sets, made)
    every = replace(project, combinations=(*made, *custom))
    if not sets or has_errors(entry.notes.findings):
        return every
    kept = every
    if entry.flag("reduce", True) and way == "complete":
        kept = replace(every, combinations=tuple(without_mixes(every)))
    return replace(kept, combining=tuple(_told(rules, way, every, kept) for rules in sets))


def _told(rules: RuleSet, way: str, every: Project, kept: Project) -> str:
    """How the combinations of a rule set came about, with the values that were used."""
    all_of, left = (
        [c for c in p.combinations if c.source.startswith(f"{rules.name},") or c.source == rules.name]
        for p in (every, kept)
    )
    dropped = len(all_of) - len(left)
    mixes = f", after {dropped} that are mixes of others" if dropped else ""
    made = {_rule_of(c) for c in all_of}
    texts = [rule.text for rule in rules.rules if rule.id in made]
    used = ", ".join(f"{name} = {value:g}" for name, value in rules.values.items() if _is_in(texts, name))
    count = f"{len(left)} combination{'s' if len(left) != 1 else ''}"
    return f"{rules.name}: {way}, {count}{mixes}" + (f" ({used})" if used else "")


def _is_in(texts: Sequence[str], value: str) -> bool:
    return any(re.search(rf"\b{re.escape(value)}\b", text) for text in texts)


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


def _made(entry: Entry, sets: Sequence[RuleSet], project: Project, complete: bool) -> list[Combination]:
    out: dict[str, Combination] = {}
    place = entry.notes.place((*entry.path, "rules"))
    for rules in sets:
        # Where results are no sums, patterns are listed one by one.
        listed = project.how(Combination("", (), rules.set, place)) != "summed"
        try:
            found = expand(rules, project.cases, complete, place, listed)
        except TooMany:
            entry.error("too-many", f"{rules.name} makes too many combinations of {len(project.cases)} cases",
                        'give cases that belong together one `together` or `one_of`, or write expansion = "as written"',
                        "rules")  # fmt: skip
            continue
        for c in found:
            if c.name in out and out[c.name].factors != c.factors:
                entry.error("name-clash", f"{rules.name} and {out[c.name].source} both have a combination {c.name}",
                            "choose one of them", "rules")  # fmt: skip
            out.setdefault(c.name, c)
    made = list(out.values())
    for key, wanted in (("only", True), ("leave_out", False)):
        if not entry.has(key):
            continue
        patterns = entry.texts(key) or []
        for pattern in patterns:
            if made and not any(_is_meant(c, pattern) for c in made):
                known = [*dict.fromkeys(_rule_of(c) for c in out.values()), *out]
                entry.error("unknown-name", f"{key}: no rule or combination is called {shown(pattern)}",
                            did_you_mean(pattern, known), key)  # fmt: skip
        made = [c for c in made if any(_is_meant(c, p) for p in patterns) == wanted]
    return made


def _rule_of(c: Combination) -> str:
    return re.split(r"[+-]", c.name, maxsplit=1)[0]


def _is_meant(c: Combination, pattern: str) -> bool:
    return fnmatchcase(c.name, pattern) or fnmatchcase(_rule_of(c), pattern)


def _say_left_out(entry: Entry, cases: list[Case], sets: Sequence[RuleSet], made: Sequence[Combination]) -> None:
    """What a reader would want to know: cases in no combination, and live cases whose use nobody stated."""
    if not sets:
        return
    combined = {name for c in made for name, _ in c.factors}
    for case in cases:
        if case.name not in combined and case.stage != "mass":
            what = "leans" if case.lean else f"is {case.action}"
            entry.notes.say("warning", "not-combined", ("cases", case.name),
                            f"case {case.name} ({what}) is in no combination of {', '.join(r.name for r in sets)}",
                            "change its action, add a rule set, or put it into [combinations.custom]")  # fmt: skip
        elif (
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
                         "use letters, digits, blanks and . + - _", name)  # fmt: skip
        if name in known:
            custom.error("name-clash", f"{name} is a case and a combination", "rename the combination", name)
        inner = Entry(value, (*custom.path, name), custom.notes) if isinstance(value, dict) else None
        formula, group = value, "custom"
        if inner is not None:
            inner.known(["formula", "set"])
            formula, group = inner.text("formula"), inner.text("set", SETS, "custom") or "custom"
        if not isinstance(formula, str):
            if inner is None:
                custom.error("not-text", f"combination {name} = {shown(value)}", 'write "1.2 G + 1.6 Q"', name)
            continue
        factors = read_formula(custom, name, f"combination {name}", formula, known)
        if factors is not None:
            out.append(Combination(name, factors, group, custom.notes.place((*custom.path, name))))
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
