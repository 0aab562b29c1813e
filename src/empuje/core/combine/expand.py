"""From a code's rules and a model's cases to combinations.

Two ways: the list **as written**, every term of a rule present, once for each alternative; and **complete**, where
every variable action may also be absent, since a load that need not act is left out where that is worse.

What acts at once is decided bundle by bundle. A bundle is a case, or the cases whose `together` is the same word. Of
wind, seismic, snow, rain, thermal and moving bundles one acts at a time, as of all bundles with the same `one_of`; any
others act side by side. A reversible bundle acts either way.

A combination is called after its rule and its cases, the leading one first: `U4+WX+Q`, `U5-WX`; so names stay when the
model grows.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import product
from math import prod

from ..model.findings import Place
from ..model.project import Case, Combination
from .expression import Term
from .rules import BY_USE, HEAVIEST, Rule, RuleSet, Symbol

ONE_AT_A_TIME = ("wind", "seismic", "snow", "rain", "thermal", "moving")
MOST = 20_000
"""Combinations of one rule set."""
Acting = tuple[tuple[Case, float], ...]
"""Cases with their factors."""


class TooMany(ValueError):
    """A rule set makes more combinations than anyone could look at."""


def expand(
    rules: RuleSet, cases: Sequence[Case], complete: bool, place: Place, listed: bool = True
) -> list[Combination]:
    """All combinations of a rule set, equal ones once. Raises TooMany.

    `listed`: patterns one by one; else the cases in them are there but `free`, for results that are sums.
    """
    stage = rules.set == "construction"
    absent = ("final" if stage else "construction", "mass")
    present = [c for c in cases if not c.lean and c.stage not in absent]
    leans = [c for c in cases if c.lean] if rules.lean else []
    free = set() if listed else _free(present)
    out: dict[tuple[tuple[str, float], ...], Combination] = {}
    taken: set[str] = set()
    for rule in rules.rules:
        for acting in _of_rule(rule, rules, present, complete, free):
            for leaning in _leans(acting, leans):
                whole = [(c, f) for c, f in (*acting, *leaning) if f != 0]
                factors = tuple((c.name, f) for c, f in whole)
                key = tuple(sorted(factors))
                if not whole or key in out:
                    continue
                name = rule.id + _words([(c, f) for c, f in whole if not _permanent(c, rules)])
                if name in taken:
                    name = rule.id + _words(whole, with_factors=True)
                taken.add(name)
                source = f"{rules.name}, {rule.clause}" if rule.clause else rules.name
                out[key] = Combination(
                    name, factors, rules.set, place, source, tuple(n for n, _ in factors if n in free)
                )
                if len(out) > MOST:
                    raise TooMany
    return list(out.values())


def _words(acting: Iterable[tuple[Case, float]], with_factors: bool = False) -> str:
    """The cases with their signs: +Q-WX, or +1.2 G-1.6 WX."""
    return "".join(f"{'-' if f < 0 else '+'}{f'{abs(f):.6g} ' if with_factors else ''}{c.name}" for c, f in acting)


def _permanent(case: Case, rules: RuleSet) -> bool:
    return any(s.permanent and case.action in s.actions for s in rules.symbols.values())


def _of_rule(rule: Rule, rules: RuleSet, cases: Sequence[Case], complete: bool, free: set[str]) -> Iterator[Acting]:
    actions = {c.action for c in cases}

    def there(name: str) -> bool:
        leading = rules.leading
        known = leading.actions if name in (leading.first, leading.others) else rules.symbols[name].actions
        return not actions.isdisjoint(known)

    if not all(there(name) for name in (*rule.needs, *rule.always)):
        return
    for option in _possible(rule, there):
        for terms in _led(option, rules, actions, complete):
            choices = [_choices(t, s, rules, cases, complete and t.name not in rule.always, free) for t, s in terms]
            if prod(map(len, choices)) > MOST:
                raise TooMany
            for chosen in product(*choices):
                yield tuple(pair for acting in chosen for pair in acting)


def _possible(rule: Rule, there: Callable[[str], bool]) -> list[list[Term]]:
    """The alternatives that the model can fill, less absent terms.

    One that lacks an action gives way to one that has all it has left, and more: of (0.5 Lr | 0.3 S) without roof live
    load only the snow stays. One that says "nothing", as (1.6 H | 0 H) does, lacks nothing and stays.
    """
    filled = [[t for t in option if there(t.name)] for option in rule.options]
    kept = [
        own for own, option in zip(filled, rule.options, strict=True)
        if len(own) == len(option) or not any(set(own) < set(other) for other in filled)
    ]  # fmt: skip
    return [o for i, o in enumerate(kept) if o not in kept[:i]]


def _led(
    option: list[Term], rules: RuleSet, actions: Iterable[str], complete: bool
) -> Iterator[list[tuple[Term, Symbol]]]:
    """The terms with their symbols, once for each action that may lead."""
    leading = rules.leading
    able = [a for a in leading.actions if a in actions]
    names = {leading.first, leading.others} - {""}
    plain = [t for t in option if t.name not in names]
    if not any(t.name in names for t in option):
        yield [(t, rules.symbols[t.name]) for t in option]
        return
    has_first = any(t.name == leading.first for t in option)
    for first in able if has_first else able[:1]:
        terms: list[tuple[Term, Symbol]] = []
        for t in option:
            if t.name == leading.first:
                terms.append((t, Symbol(t.name, (first,), permanent=False)))
            elif t.name == leading.others:
                rest = [a for a in able if not has_first or (a != first and not _apart(leading.apart, a, first))]
                terms += [(t, Symbol(a, (a,))) for a in rest]
            else:
                terms.append((t, rules.symbols[t.name]))
        yield terms
    if complete or not able:
        yield [(t, rules.symbols[t.name]) for t in plain]


def _apart(groups: Iterable[tuple[str, ...]], a: str, b: str) -> bool:
    return any(a in group and b in group for group in groups)


def _choices(
    term: Term, symbol: Symbol, rules: RuleSet, cases: Sequence[Case], may_be_absent: bool, free: set[str]
) -> list[Acting]:
    """The ways in which a term's cases can act."""
    own = [c for c in cases if c.action in symbol.actions]
    if not own:
        return [()]
    if symbol.permanent:
        return _factored([tuple((c, 1.0) for c in own)], term, rules)
    units = [_with_absent(u, may_be_absent, free) for u in _units(own, symbol)]
    if prod(map(len, units)) > MOST:
        raise TooMany
    acting = [tuple(pair for part in chosen for pair in part) for chosen in product(*units)]
    if term.name and term.name == rules.leading.first:  # whatever leads is there, if only in part
        acting = [a for a in acting if a]
    return _factored(acting, term, rules)


def _factored(acting: list[Acting], term: Term, rules: RuleSet) -> list[Acting]:
    """Each case with each of the factors it may take."""
    return [
        tuple((case, share * factor) for (case, share), factor in zip(cases, factors, strict=True))
        for cases in acting
        for factors in product(*[_factors(term, case, rules) for case, _ in cases])
    ]


def _factors(term: Term, case: Case, rules: RuleSet) -> list[float]:
    by_case = 1.0
    for name in term.by_case:
        by_case *= factor_of(rules, name, case)
    return [f * by_case for f in term.factors]


def factor_of(rules: RuleSet, name: str, case: Case) -> float:
    """A factor that differs from case to case; that of the heaviest use for a live case that states none."""
    table = rules.by_case[name]
    if case.action in BY_USE:
        return table[case.use or HEAVIEST]
    return table[case.action]


def _units(cases: Sequence[Case], symbol: Symbol) -> Iterator[tuple[list[Acting], bool]]:
    """What acts side by side: of each unit one option acts, with either sign; and whether it may be absent anyway."""
    bundles: dict[str, list[Case]] = {}
    for c in cases:
        bundles.setdefault(f" {c.together}" if c.together else c.name, []).append(c)
    units: dict[str, list[list[Case]]] = {}
    for key, bundle in bundles.items():
        c = bundle[0]
        one = f"{c.action} {c.one_of}" if c.one_of or c.action in ONE_AT_A_TIME else f"  {key}"
        units.setdefault(one, []).append(bundle)
    for unit in units.values():
        pairs = list(_crosswise(unit, symbol.orthogonal)) if symbol.orthogonal else []
        options = pairs or [o for bundle in unit for o in _signed(bundle, 1.0)]
        yield options, all(c.pattern for bundle in unit for c in bundle)


def _free(cases: Sequence[Case]) -> set[str]:
    """Cases in patterns that stand alone: they act one way, at any time, with no other."""
    return {
        c.name for c in cases
        if c.pattern and not (c.reversible or c.together or c.one_of or c.along or c.action in ONE_AT_A_TIME)
    }  # fmt: skip


def _with_absent(unit: tuple[list[Acting], bool], may_be_absent: bool, free: set[str]) -> list[Acting]:
    options, pattern = unit
    if all(c.name in free for o in options for c, _ in o):
        return options
    return [*options, ()] if may_be_absent or pattern else options


def _signed(bundle: list[Case], share: float) -> list[Acting]:
    ways = (1.0, -1.0) if all(c.reversible for c in bundle) else (1.0,)
    return [tuple((c, share * way) for c in bundle) for way in ways]


def _crosswise(unit: list[list[Case]], share: float) -> Iterator[Acting]:
    """The whole in one direction with a share in the other: both orders, each sign."""
    along = {axis: [b for b in unit if b[0].along.endswith(axis)] for axis in "xy"}
    if not along["x"] or not along["y"]:
        return
    for first, second in (("x", "y"), ("y", "x")):
        for a, b in product(along[first], along[second]):
            for whole, part in product(_signed(a, 1.0), _signed(b, share)):
                yield whole + part


def _leans(acting: Acting, leans: Sequence[Case]) -> list[Acting]:
    """The cases that lean with the first directed case, the way it acts; each in turn where none is directed."""
    if not leans:
        return [()]
    for case, factor in acting:
        if not case.along:
            continue
        axis = "xy".index(case.along[1])
        way = (1.0 if case.along[0] == "+" else -1.0) * (1.0 if factor > 0 else -1.0)
        same = [c for c in leans if c.toward[axis] * way > 0.5]
        turned = [c for c in leans if c.reversible and c.toward[axis] * way < -0.5]
        return [((c, s),) for c, s in [*((c, 1.0) for c in same), *((c, -1.0) for c in turned)]] or [()]
    return [((c, way),) for c in leans for way in ((1.0, -1.0) if c.reversible else (1.0,))]
