"""From a code's rules and a model's cases to combinations.

Two ways: the list **as written**, every term of a rule present, once for each alternative; and **complete**, where
every variable action may also be absent, since a load that need not act is left out where that is worse.

What acts at once is decided bundle by bundle. A bundle is a case, or the cases whose `together` is the same word. Of
wind, seismic, snow, rain, thermal and moving bundles one acts at a time, as of all bundles with the same `one_of`; any
others act side by side. A reversible bundle acts either way.

A combination is called after its rule and its cases, the leading one first: `U4+WX+Q`, `U5-WX`; so names stay when the
model grows. Where a rule gives a case several factors, `U5.H+WX` is the one with the lower factor on H.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations, product
from math import prod

from ..model.cases import ONE_AT_A_TIME, Case, Combination, side_by_side
from ..model.findings import Place
from ..model.rules import BY_USE, HEAVIEST, Rule, RuleSet, Symbol, Term
from ..model.words import Set

MOST = 20_000
"""Combinations of one rule set."""
Acting = tuple[tuple[Case, float], ...]
"""Cases with their factors."""


class TooMany(ValueError):
    """A rule set makes more combinations than anyone could look at; `permanent`: its permanent cases alone do."""

    def __init__(self, permanent: bool = False) -> None:
        super().__init__("too many combinations")
        self.permanent = permanent


OF_COMPONENTS = {Set.STRENGTH: Set.COMPONENTS, Set.SERVICE: Set.COMPONENTS_SERVICE}
"""The sets of combinations with the wind of components."""


@dataclass(frozen=True)
class Loads:
    """What is known of the cases' loads: the largest area load of each that has any [N/m2]."""

    largest: Mapping[str, float] = field(default_factory=dict)


def expand(
    rules: RuleSet, cases: Sequence[Case], complete: bool, place: Place, free: Collection[str] = (),
    loads: Loads = Loads(), most: int = MOST, components: bool = False,
) -> list[Combination]:  # fmt: skip
    """All combinations of a rule set, equal ones once. Raises TooMany for more than `most`.

    `free`: cases that need not be listed both present and absent, for results that are sums: they are there, and may
    be absent. `components`: those with the wind of components instead of the frame's, as a set of their own.
    """
    present = cases_in(rules, cases, components)
    notional = [c for c in cases if c.notional] if rules.notional else []
    permanent = {c.name for c in cases if _permanent(c, rules)}
    found: dict[tuple[tuple[str, float], ...], tuple[Rule, Acting, set[str], tuple[str, ...]]] = {}
    for rule in rules.rules:
        for acting, less, order in _of_rule(rule, rules, present, complete, set(free), loads):
            for own in _notional(acting, notional):
                whole = tuple((c, f) for c, f in (*acting, *own) if f != 0)
                there = {c.name for c, _ in whole} - permanent
                named = tuple(n for n in (*order, *(c.name for c, _ in own)) if n in there)
                if whole and (not components or any(c.component for c, _ in whole)):
                    found.setdefault(tuple(sorted((c.name, f) for c, f in whole)), (rule, whole, less, named))
                if len(found) > most:
                    raise TooMany
    alike: dict[str, list[Acting]] = {}
    for rule, whole, _, named in found.values():
        alike.setdefault(_plain_name(rule, whole, named), []).append(whole)
    out = []
    group = OF_COMPONENTS[Set(rules.set)] if components else rules.set
    for rule, whole, less, named in found.values():
        stem = rule.id + _lower(whole, alike[_plain_name(rule, whole, named)])
        factors = tuple((c.name, f) for c, f in whole)
        source = f"{rules.name}, {rule.clause}" if rule.clause else rules.name
        out.append(
            Combination(
                "", factors, group, place, source, tuple(n for n, _ in factors if n in free), rules.second_order_at,
                rule.id, stem, named, tuple(c.name for c, _ in whole if c.name in less), rule_sets=(rules.name,),
                design=rules.design,
            ).called_after_its_cases()
        )  # fmt: skip
    return out


def cases_in(rules: RuleSet, cases: Sequence[Case], components: bool = False) -> list[Case]:
    """The cases that may join a rule set, by their stage; notional loads apart, and not those that are as
    others; with the wind of `components`, or that of the frame."""
    cases = [c for c in cases if c.component == components or (components and c.action != "wind")]
    absent = ("final" if rules.set == "construction" else "construction", "mass")
    return [c for c in cases if not c.notional and not c.stands and not c.like and c.stage not in absent]


def _plain_name(rule: Rule, whole: Acting, named: Iterable[str]) -> str:
    factors = {c.name: f for c, f in whole}
    return rule.id + "".join(f"{'-' if factors[n] < 0 else '+'}{n}" for n in named)


def _lower(whole: Acting, alike: Sequence[Acting]) -> str:
    """Of combinations of one name, the cases with a lower factor than in another: .H, or .H.H for the third."""
    if len(alike) == 1:
        return ""
    each = [{c.name: abs(f) for c, f in other} for other in alike]
    known = {name: {other.get(name, 0.0) for other in each} for name in sorted(set().union(*each))}
    own = {c.name: abs(f) for c, f in whole}
    return "".join(
        f".{name}" * sorted(values, reverse=True).index(own.get(name, 0.0)) for name, values in known.items()
    )


def _permanent(case: Case, rules: RuleSet) -> bool:
    return any(s.permanent and case.action in s.actions for s in rules.symbols.values())


def _of_rule(
    rule: Rule, rules: RuleSet, cases: Sequence[Case], complete: bool, free: set[str], loads: Loads
) -> Iterator[tuple[Acting, set[str], tuple[str, ...]]]:
    """Cases with their factors, which of them go along with less than their full value (psi), and their names in the
    order in which they make a combination's."""
    actions = {c.action for c in cases}

    def there(name: str) -> bool:
        leading = rules.leading
        known = leading.actions if name in (leading.first, leading.others) else rules.symbols[name].actions
        return not actions.isdisjoint(known)

    if not all(there(name) for name in (*rule.needs, *rule.always)):
        return
    for option in _possible(rule, there):
        for terms in _led(option, rules, actions, complete):
            choices = [
                _choices(t, s, rules, cases, complete and t.name not in rule.always, free, loads) for t, s in terms
            ]
            if prod(map(len, choices)) > MOST:
                raise TooMany
            for chosen in product(*choices):
                less = {
                    c.name for (t, _), acting in zip(terms, chosen, strict=True) for c, _ in acting
                    if any(factor_of(rules, n, c, loads) < 1 for n in t.by_case if n != rules.leading.partial)
                }  # fmt: skip
                yield tuple(pair for acting in chosen for pair in acting), less, _in_order(chosen)


def _in_order(chosen: Iterable[Acting]) -> tuple[str, ...]:
    """Cases term by term as the rule has them; of one term by name, a direction that acts whole before the others: what
    a combination is called does not depend on the order of the file."""

    def rank(pair: tuple[Case, float]) -> tuple[float, str]:
        case, factor = pair
        return (-round(abs(factor), 9) if case.along else 0.0, case.name)

    return tuple(case.name for acting in chosen for case, _ in sorted(acting, key=rank))


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
    others = [t for t in option if t.name == leading.others]
    for first in able if has_first else able[:1]:
        rest = [a for a in able if not has_first or (a != first and not _apart(leading.apart, a, first))]
        # What would go along with a factor of 0 keeps nothing else away.
        rest = [a for a in rest if all(rules.by_case[n].get(a, 1.0) for t in others for n in t.by_case)]
        for going_along in _at_once(rest, leading.apart):
            terms: list[tuple[Term, Symbol]] = []
            for t in option:
                if t.name == leading.first:
                    terms.append((t, Symbol(t.name, (first,), permanent=False)))
                elif t.name == leading.others:
                    terms += [(t, Symbol(a, (a,))) for a in going_along]
                else:
                    terms.append((t, rules.symbols[t.name]))
            yield terms
    if complete or not able:
        yield [(t, rules.symbols[t.name]) for t in plain]


def _at_once(actions: list[str], apart: Sequence[tuple[str, ...]]) -> list[list[str]]:
    """The largest choices of actions none of which are apart.

    >>> _at_once(["live", "roof live", "snow"], [("roof live", "snow")])
    [['live', 'roof live'], ['live', 'snow']]
    """
    out: list[list[str]] = []
    for bits in product((True, False), repeat=len(actions)):
        chosen = [a for a, there in zip(actions, bits, strict=True) if there]
        if any(_apart(apart, a, b) for a, b in combinations(chosen, 2)):
            continue
        if not any(set(chosen) <= set(other) for other in out):
            out.append(chosen)
    return out


def _apart(groups: Iterable[tuple[str, ...]], a: str, b: str) -> bool:
    return any(a in group and b in group for group in groups)


def _choices(
    term: Term, symbol: Symbol, rules: RuleSet, cases: Sequence[Case], may_be_absent: bool, free: set[str], loads: Loads
) -> list[Acting]:
    """The ways in which a term's cases can act."""
    own = [c for c in cases if c.action in symbol.actions and not c.torsion_of]
    if not own:
        return [()]
    turned = {c.torsion_of: c for c in cases if c.torsion_of}
    if symbol.permanent:
        return _factored([tuple((c, 1.0) for c in own)], term, rules, loads, permanent=True)
    units = [_with_absent(u, may_be_absent, free) for u in _units(own, symbol, turned)]
    if prod(map(len, units)) > MOST:
        raise TooMany
    acting = [tuple(pair for part in chosen for pair in part) for chosen in product(*units)]
    if term.name and term.name == rules.leading.first:  # whatever leads is there, if only in part
        acting = [a for a in acting if a]
    return _factored(acting, term, rules, loads)


def _factored(acting: list[Acting], term: Term, rules: RuleSet, loads: Loads, permanent: bool = False) -> list[Acting]:
    """Every way to give each acting case one of the factors it may take. Raises TooMany."""
    if sum(len(term.factors) ** len(cases) for cases in acting) > MOST:
        raise TooMany(permanent)
    return [
        tuple((case, share * factor) for (case, share), factor in zip(cases, factors, strict=True))
        for cases in acting
        for factors in product(*[_factors(term, case, rules, loads) for case, _ in cases])
    ]


def _factors(term: Term, case: Case, rules: RuleSet, loads: Loads) -> list[float]:
    by_case = 1.0
    for name in term.by_case:
        by_case *= factor_of(rules, name, case, loads)
    return [f * by_case for f in term.factors]


def factor_of(rules: RuleSet, name: str, case: Case, loads: Loads = Loads()) -> float:
    """A factor that differs from case to case; that of the heaviest use for a live case that states none, and that for
    heavy loads where its largest area load is one. One of the case's own holds unless the model states another."""
    table = rules.by_case[name]
    if is_own(rules, name, case):
        return dict(case.own)[name]
    if case.action not in BY_USE:
        return table[case.action]
    if name in rules.heavy and loads.largest.get(case.name, 0.0) > rules.heavy[name][0] * (1 + 1e-9):
        return rules.heavy[name][1]
    return table.get(case.use, table[HEAVIEST])


def is_own(rules: RuleSet, name: str, case: Case) -> bool:
    """Whether a case has the factor from its own loads."""
    return name in dict(case.own) and (name, case.use) not in rules.stated


def _units(cases: Sequence[Case], symbol: Symbol, turned: Mapping[str, Case]) -> Iterator[tuple[list[Acting], bool]]:
    """What acts side by side: of each unit one option acts, with either sign; and whether it may be absent anyway."""
    for unit in side_by_side(cases, symbol.one_at_a_time):
        pairs = list(_crosswise(unit, symbol, turned)) if symbol.orthogonal else []
        options = pairs or [o for bundle in unit for o in _signed(bundle, 1.0, turned)]
        yield options, all(c.pattern for bundle in unit for c in bundle)


def free_cases(rules: RuleSet, cases: Sequence[Case], every: bool) -> set[str]:
    """Cases that may be free: variable ones that act one way, at any time, with no other; in patterns, or every one."""
    return {
        c.name for c in cases_in(rules, cases)
        if (c.pattern or every) and not _permanent(c, rules)
        and not (c.reversible or c.together or c.one_of or c.along or c.action in ONE_AT_A_TIME)
    }  # fmt: skip


def _with_absent(unit: tuple[list[Acting], bool], may_be_absent: bool, free: set[str]) -> list[Acting]:
    options, pattern = unit
    if all(c.name in free for o in options for c, _ in o):
        return options
    return [*options, ()] if may_be_absent or pattern else options


def _signed(bundle: list[Case], share: float, turned: Mapping[str, Case]) -> list[Acting]:
    """Cases that act together, with a sign: both signs where all of them are reversible, and with each their accidental
    torsion in both senses."""
    ways = (1.0, -1.0) if all(c.reversible for c in bundle) else (1.0,)
    torsion = [turned[c.name] for c in bundle if c.name in turned]
    return [
        (*((c, share * way) for c in bundle), *((c, share * turn) for c in torsion))
        for way in ways for turn in ((1.0, -1.0) if torsion else (1.0,))
    ]  # fmt: skip


def _crosswise(unit: list[list[Case]], symbol: Symbol, turned: Mapping[str, Case]) -> Iterator[Acting]:
    """The whole in one direction with a share in every other: each in turn, each sign. The vertical one goes with both
    level ones; where its share is less than the whole it may lead too."""
    along = {axis: [b for b in unit if b[0].along.endswith(axis)] for axis in "xyz"}
    there = [axis for axis in "xyz" if along[axis]]
    if len(there) < 2 or (there[-1] == "z" and not symbol.vertical):
        return
    share = {"x": symbol.orthogonal, "y": symbol.orthogonal, "z": symbol.vertical}
    for first in there:
        if first == "z" and symbol.vertical >= 1:
            continue
        order = [first, *(axis for axis in there if axis != first)]
        for bundles in product(*(along[axis] for axis in order)):
            ways = [1.0 if axis == first else share[axis] for axis in order]
            for parts in product(*(_signed(b, way, turned) for b, way in zip(bundles, ways, strict=True))):
                yield tuple(pair for part in parts for pair in part)


def _notional(acting: Acting, cases: Sequence[Case]) -> list[Acting]:
    """Notional cases along the first directed case, the way it acts, the other way round where only one the other
    way is there; each in turn where none is directed."""
    if not cases:
        return [()]
    for case, factor in acting:
        if not case.along or case.along[1] == "z":
            continue
        axis = "xy".index(case.along[1])
        way = (1.0 if case.along[0] == "+" else -1.0) * (1.0 if factor > 0 else -1.0)
        same = [c for c in cases if c.toward[axis] * way > 0.5]
        turned = [c for c in cases if (c.reversible or not same) and c.toward[axis] * way < -0.5]
        return [((c, s),) for c, s in [*((c, 1.0) for c in same), *((c, -1.0) for c in turned)]] or [()]
    return [((c, way),) for c in cases for way in ((1.0, -1.0) if c.reversible else (1.0,))]
