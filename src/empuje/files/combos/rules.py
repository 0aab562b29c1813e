"""Rule files: a code's combinations as TOML, those that come with us and those that lie beside a model."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from pathlib import Path

from ...core.combine.expression import ExpressionError, parse_rule
from ...core.model.cases import ACTIONS
from ...core.model.findings import did_you_mean
from ...core.model.rules import BY_USE, USES, Leading, Options, Rule, RuleSet, Symbol
from ...core.model.words import Design, Level, Set
from ..base.entry import Entry, Notes, refuse_control_characters, shown
from ..base.toml_text import parse
from .keys import RULE_FILE

RULE_ID = re.compile(r"[^\W_]\w*")


@cache
def own_codes() -> dict[str, tuple[str, str]]:
    """Name of each code that comes with us: its file's name and text."""
    out = {}
    folder = files("empuje.core.combine").joinpath("codes")
    for item in sorted(folder.iterdir(), key=lambda f: f.name):
        if item.name.endswith(".toml"):
            text = item.read_text(encoding="utf-8")
            out[str(tomllib.loads(text)["code"])] = (item.name, text)
    return out


def rule_names() -> list[str]:
    """The rule sets of the codes that come with us, as models name them."""
    each = (tomllib.loads(text) for _, text in own_codes().values())
    return [f"{data['code']} {name}" for data in each for name in data.get("sets", {})]


def read_rule_text(text: str, file: str, given: Given) -> tuple[list[RuleSet], Notes]:
    """All rule sets of a file, with the model's own values and factors. Raises tomllib.TOMLDecodeError."""
    data, lines = parse(text)
    notes = Notes(file, lines)
    refuse_control_characters(data, notes)
    top = Entry(data, (), notes, RULE_FILE).known()
    code = top.text("code") or ""
    symbols = dict(_symbol(name, entry) for name, entry in top.child("symbols").children())
    leading = _leading(top)
    values, asked = {}, []
    for name, entry in top.child("values").children():
        entry.known()
        values[name] = given.values.get(name, entry.quantity("value") or 0.0)
        if entry.flag("ask") and name not in given.values:
            asked.append(name)
    by_case = {name: _factors(entry, given.factors.get(name, {})) for name, entry in top.child("factors").children()}
    heavy = dict(_heavy(name, entry) for name, entry in top.child("heavy").children())
    levels = _levels(top)
    out = []
    for purpose, entry in top.child("sets").children():
        entry.known()
        group = entry.word("set", Set) or Set.STRENGTH
        rules = [_rule(e, symbols, leading, values, by_case) for e in entry.entries("rules")]
        kept = tuple(r for r in rules if r is not None)
        out.append(
            RuleSet(
                f"{code} {purpose}",
                code,
                group,
                kept,
                symbols,
                leading,
                by_case,
                values,
                entry.flag("notional"),
                heavy,
                tuple(asked),
                _actions(entry, "without") if entry.has("without") else (),
                entry.quantity("second_order_at") or 1.0,
                Design(entry.word("design", Design) or Design.LRFD),
                {**levels, **_levels(entry)},
                frozenset((name, word) for name, table in given.factors.items() for word in table),
            )
        )
    return out, notes


def _levels(entry: Entry) -> dict[str, Level]:
    """At which level loads of wind, snow and earthquakes are taken."""
    if not entry.has("levels"):
        return {}
    table = entry.child("levels").known()
    return {action: Level(word) for action in table.data if (word := table.word(action, Level))}


class Given:
    """Values and factors that a model gives in place of a code's recommended ones."""

    def __init__(self, values: Mapping[str, float], factors: Mapping[str, Mapping[str, float]]) -> None:
        self.values, self.factors = values, factors


def _symbol(name: str, entry: Entry) -> tuple[str, Symbol]:
    entry.known()
    across, upright = (entry.quantity(key) or 0.0 for key in ("orthogonal", "vertical"))
    actions = _actions(entry, "actions")
    return name, Symbol(name, actions, entry.flag("permanent"), across, upright, entry.flag("one_at_a_time"))


def _heavy(name: str, entry: Entry) -> tuple[str, tuple[float, float]]:
    """The live load [N/m2] above which a factor is another, and that one."""
    entry.known()
    return name, (entry.quantity("above") or 0.0, entry.quantity("factor") or 0.0)


def _actions(entry: Entry, key: str) -> tuple[str, ...]:
    words = entry.texts(key) or []
    for word in words:
        if word not in ACTIONS:
            entry.error("unknown-word", f"{entry.what}: {shown(word)} is no action", did_you_mean(word, ACTIONS), key)
    return tuple(words)


def _leading(top: Entry) -> Leading:
    if not top.has("leading"):
        return Leading()
    entry = top.child("leading").known()
    apart = entry.data.get("apart", [])
    if not isinstance(apart, list) or not all(isinstance(g, list) and all(a in ACTIONS for a in g) for g in apart):
        entry.error("not-a-list", "leading.apart is no list of lists of actions", "", "apart")
        apart = []
    first, others = entry.text("first") or "", entry.text("others") or ""
    return Leading(first, others, _actions(entry, "actions"), tuple(tuple(g) for g in apart),
                   entry.text("partial") or "")  # fmt: skip


def _factors(entry: Entry, given: Mapping[str, float]) -> dict[str, float]:
    entry.known()
    return {key: given.get(key, entry.quantity(key) or 0.0) for key in entry.data if key in entry.form}


def _rule(
    entry: Entry,
    symbols: dict[str, Symbol],
    leading: Leading,
    values: dict[str, float],
    by_case: dict[str, dict[str, float]],
) -> Rule | None:
    entry.known()
    name, text = entry.text("id"), entry.text("formula")
    clause = entry.text("clause") or ""
    if name is None or text is None:
        return None
    if not RULE_ID.fullmatch(name):
        entry.error("bad-name", f"a rule cannot be called {shown(name)}", "use letters, digits and _", "id")
        return None
    try:
        options = parse_rule(text, values, by_case)
    except ExpressionError as error:
        entry.error("bad-formula", f"rule {name} = {shown(text)}: {error}",
                    'write it like "1.2 D + 1.6 L + (0.5 Lr | 0.3 S)"', "formula")  # fmt: skip
        return None
    known = [*symbols, *(n for n in (leading.first, leading.others) if n)]
    needs = tuple(entry.texts("needs") or ()) if entry.has("needs") else ()
    always = tuple(entry.texts("always") or ()) if entry.has("always") else ()
    used = [t.name for option in options for t in option]
    for word in (*used, *needs, *always):
        if word not in known:
            entry.error("unknown-name", f"rule {name}: there is no symbol {word}", did_you_mean(word, known), "formula")
            return None
    return (
        Rule(name, clause, text, options, needs, always)
        if _complete(entry, options, symbols, leading, by_case)
        else None
    )


def _complete(
    entry: Entry, options: Options, symbols: dict[str, Symbol], leading: Leading, by_case: dict[str, dict[str, float]]
) -> bool:
    """Whether every factor that differs from case to case is there for every action it stands at."""
    fine = True
    for term in {t for option in options for t in option}:
        actions = symbols[term.name].actions if term.name in symbols else leading.actions
        for factor in term.by_case:
            wanted = [word for a in actions for word in (USES if a in BY_USE else (a,))]
            missing = [word for word in wanted if word not in by_case[factor]]
            if missing:
                entry.error("missing-key", f"[factors.{factor}] has nothing for {', '.join(missing)}",
                            f"the rule applies it to {term.name}", "formula")  # fmt: skip
                fine = False
    return fine


def read_rule_file(model: Entry, key: str, name: str, path: Path, given: Given) -> list[RuleSet]:
    """The rule sets of a file beside the model; what is wrong in it joins the model's findings."""
    try:
        sets, notes = read_rule_text(model.notes.bytes_of(path).decode("utf-8-sig"), name, given)
    except (ValueError, RecursionError) as error:
        model.error("unusable-table", f"rule file {name} is not TOML: {str(error)[:100]}", "", key)
        return []
    except OSError as error:
        model.error("unusable-table", f"rule file {name} cannot be read: {error.strerror or error}", "", key)
        return []
    model.notes.findings += notes.findings
    return sets
