"""What a model file asks for in combinations: its own formulas, rule sets of codes, and which of these to keep."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from ...core.combine.expression import ExpressionError, parse
from ...core.model.cases import Case, Combination
from ...core.model.combining import Chosen, Combining
from ...core.model.findings import did_you_mean
from ...core.model.rules import OF_SERVICE, RuleSet
from ...core.model.wind import WindRule
from ...core.model.words import Expansion, Set
from ..base.beside import inside
from ..base.entry import Entry, shown
from .keys import CUSTOM_COMBINATION
from .rules import Given, own_codes, read_rule_file, read_rule_text, rule_names

COMBINATION_NAME = re.compile(r"[^\W_][\w.+-]*")
RESERVED = {"cases", "combinations", *Set}
MOST_TIMES = 3.0


def read_combining(model: Entry, cases: list[Case], folder: Path | None, wind: WindRule | None = None) -> Combining:
    """The table [combinations]; with a second speed of `wind` the share of service wind that rules take."""
    entry = model.child("combinations").known()
    custom = _custom(entry, cases)
    sets = _rule_sets(entry, folder, wind)
    expansion = entry.word("expansion", Expansion) or Expansion.COMPLETE
    only, leave_out = (
        Chosen(tuple(entry.texts(key) or ()), entry.place_of(key)) if entry.has(key) else None
        for key in ("only", "leave_out")
    )
    return Combining(
        tuple(custom), tuple(sets), expansion, entry.flag("reduce"), only, leave_out, entry.place,
        entry.place_of("rules"),
    )  # fmt: skip


def _rule_sets(entry: Entry, folder: Path | None, wind: WindRule | None) -> list[RuleSet]:
    """The rule sets that the model asks for, with its own values and factors."""
    stated = _given(entry)
    share = wind.service_share if wind is not None else None
    shares = {} if share is None else dict.fromkeys(OF_SERVICE, share)
    given = Given({**shares, **stated.values}, stated.factors)
    wanted = list(dict.fromkeys(entry.texts("rules") or ())) if entry.has("rules") else []
    known = _known_sets(entry, folder, wanted, given)
    for word in wanted:
        if word not in known:
            names = list(dict.fromkeys([*known, *rule_names()]))
            every = f"rules are there for {', '.join(own_codes())}"
            entry.error("unknown-name", f"there are no rules {shown(word)}", f"{did_you_mean(word, names)}; {every}",
                        "rules")  # fmt: skip
    chosen = [known[word] for word in wanted if word in known]
    _refuse_unused(entry, chosen, stated)
    for name in shares:
        if name in stated.values:
            words = f"{entry.what}.values.{name} and wind.V_service both say how much wind acts in service"
            entry.error("stated-twice", words, "take one of them out", "values", name)
    if shares and chosen and not any(name in r.values for r in chosen for name in shares):
        words = "wind.V_service is of no use: no chosen rules take wind of service"
        remedy = "add their service set, or take it out"
        entry.notes.say("warning", "unused-value", ("wind", "V_service"), words, remedy)
    return _with_times(entry, chosen)


def _known_sets(entry: Entry, folder: Path | None, wanted: list[str], given: Given) -> dict[str, RuleSet]:
    """By name: those of files beside the model, then those of the codes that are asked for."""
    sets: list[RuleSet] = []
    for name in (entry.texts("rule_files") or []) if entry.has("rule_files") else []:
        path = inside(entry, "rule_files", name, folder, "rule file")
        if path is not None:
            sets += read_rule_file(entry, "rule_files", name, path, given)
    beside = {r.name for r in sets}
    for code, (file, text) in own_codes().items():
        if any(word.startswith(code) for word in wanted if word not in beside):
            sets += read_rule_text(text, file, given)[0]
    return {r.name: r for r in reversed(sets)}


def _refuse_unused(entry: Entry, chosen: list[RuleSet], given: Given) -> None:
    """Values and factors that no chosen rule has."""
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


def _with_times(entry: Entry, chosen: list[RuleSet]) -> list[RuleSet]:
    """At how many times its loads each set is analysed by second order."""
    at, called = entry.child("second_order_at"), [r.name for r in chosen]
    for name in at.data:
        if name not in called:
            at.error("unknown-name", f"{at.what}: no chosen set is called {name}", did_you_mean(name, called), name)
    times = {name: at.quantity(name) or 1.0 for name in at.data}
    for name, value in times.items():
        if not 1 <= value <= MOST_TIMES:
            at.error("bad-quantity", f"{at.what}.{name} = {value:g}", f"write 1 to {MOST_TIMES:g}", name)
    return [replace(r, second_order_at=times.get(r.name, r.second_order_at)) for r in chosen]


def _given(entry: Entry) -> Given:
    values = entry.child("values")
    numbers = {name: values.quantity(name) or 0.0 for name in values.data}
    factors = {
        name: {key: table.quantity(key) or 0.0 for key in table.data}
        for name, table in entry.child("factors").children()
    }
    return Given(numbers, factors)


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
        inner = custom.inner(value, CUSTOM_COMBINATION, name) if isinstance(value, dict) else None
        formula, group, times, clause = value, "custom", 1.0, ""
        if inner is not None:
            inner.known()
            formula = inner.text("formula")
            group = (inner.word("set", Set) if inner.has("set") else None) or "custom"
            times = inner.quantity("second_order_at") or 1.0
            clause = inner.text("clause") or ""
            if not 1 <= times <= MOST_TIMES:
                inner.error("bad-quantity", f"{inner.what}.second_order_at = {times:g}", f"write 1 to {MOST_TIMES:g}")
        if not isinstance(formula, str):
            if inner is None:
                custom.error("not-text", f"combination {name} = {shown(value)}", 'write "1.2 G + 1.6 Q"', name)
            continue
        factors = read_formula(custom, name, f"combination {name}", formula, known)
        if factors is not None:
            place = custom.notes.place((*custom.path, name))
            out.append(Combination(name, factors, group, place, second_order_at=times, clause=clause))
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
