"""Which results are meant: names, globs and sets of cases and combinations.

cases          every load case                 strength, service, ...   the combinations of that set
combinations   every combination               EN 1990 quasi-permanent  those of these rules of a code
wind-*         names by glob, with the code before them or without

Where a whole rule set is meant, its combinations that are mixes of its others are left out: an envelope can do without
them. What is meant by its own name is never left out, nor is anything of a part of a rule set.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from ...core.model.findings import Finding, did_you_mean, listed
from ...core.model.limits import Limit
from ...core.model.results import Result
from ...core.model.words import LimitKind, Set
from ...core.resolved import Resolved
from .selectors import NothingMeant, pick

CASES, COMBINATIONS = "cases", "combinations"


def results_meant(model: Resolved, words: Sequence[str], mixes: bool = False) -> list[Result]:
    """Cases and combinations, cases first, in the order of the file; all of them for no words. `mixes`: those too that
    an envelope can do without. Raises NothingMeant."""
    every = model.results
    index = {r.name: r.index for r in every}
    sets: dict[str, set[int]] = {CASES: set(), COMBINATIONS: set()}
    short: dict[str, set[int]] = {}
    of_rules: dict[str, set[int]] = {}
    # What loads components alone is meant by its own names, or by its set.
    parts = {r.index for r in every if r.of_components}
    for r in every:
        if r.index not in parts:
            sets[CASES if r.is_case else COMBINATIONS].add(r.index)
        if r.combination is not None:
            sets.setdefault(r.combination.set, set()).add(r.index)
            for name in r.combination.rule_sets if r.index not in parts else ():
                of_rules.setdefault(name, set()).add(r.index)
            if r.combination.code:
                short.setdefault(r.combination.short, set()).add(r.index)
            for origin in r.combination.origins:
                for name in {origin, origin.removeprefix(f"{r.combination.code}.")}:
                    short.setdefault(name, set()).add(r.index)
    if parts and Set.COMPONENTS not in sets:
        sets[Set.COMPONENTS] = parts  # no rules combine them: the cases themselves
    sets.update(of_rules)
    chosen: set[int] = set(index.values()) - parts if all(w.startswith("!") for w in words) else set()
    named: set[int] = set()
    for word in sorted(words, key=lambda w: w.startswith("!")):
        bare = word.removeprefix("!").strip()
        if bare in sets and bare not in index:
            if not sets[bare]:
                raise NothingMeant(f"the model has no {bare}")
            found = sets[bare]
        else:
            picked, missed = pick([bare], (), index)
            by_short, missed_too = pick([bare], list(short)) if short else ([], [bare])
            if missed and missed_too:
                raise NothingMeant(
                    f"there is no case, combination or set {word}; {did_you_mean(word, [*index, *sets])}"
                )
            found = set(picked).union(*(list(short.values())[i] for i in by_short))
            found = found if bare in index or bare in short or found <= parts else found - parts
            if bare in index or bare in short:
                named |= found
        chosen = chosen - found if word.startswith("!") else chosen | found
    if not chosen and (words or every):
        raise NothingMeant(f"nothing is left of {', '.join(words)}")
    if not mixes:
        whole = {name for name, of_it in of_rules.items() if of_it <= chosen}
        chosen = {i for i in chosen if i in named or not _is_mix(every[i], whole)}
    return [every[i] for i in sorted(chosen)]


def _is_mix(result: Result, whole: set[str]) -> bool:
    """Whether it is a mix of others of a rule set that is meant as a whole."""
    return result.combination is not None and not whole.isdisjoint(result.combination.mix_in)


def limits_of_nothing(model: Resolved) -> list[Finding]:
    """A warning for each limit whose words mean no result: it will fail."""
    out = []
    for limit in model.project.limits:
        # Patterns, and single positions of what moves, are no results until they are asked for.
        known = [w for w in limit.under if not patterns_named(model, [w]) and "@" not in w]
        try:
            results_meant(model, known)
        except NothingMeant as error:
            message = f"the limit {limit.name} is under nothing: {error.args[0]}"
            out.append(Finding("warning", "limit-of-nothing", message, "it fails until it is", limit.place))
    return out


def limits_of_components(model: Resolved) -> list[Finding]:
    """An error for each limit that holds something else than components under their wind, which nothing else sees; and
    a warning of components that limits hold under other results alone."""
    wind = model.project.wind
    own = {m for entry in wind.components for m in entry.members} if wind is not None else set()
    out = []
    limited: dict[int, Limit] = {}
    covered: set[int] = set()
    for limit in model.project.limits if own else ():
        known = [w for w in limit.under if not patterns_named(model, [w]) and "@" not in w]
        try:
            seen = any(r.of_components for r in results_meant(model, known))
        except NothingMeant:
            continue
        if not seen:
            limited |= {m: limit for m in limit.on if limit.kind in OF_MEMBERS and m in own}
            continue
        covered |= set(limit.on)
        names = model.project.members
        others = [names[m].name for m in limit.on if m not in own] if limit.kind in OF_MEMBERS else []
        if others or limit.kind not in OF_MEMBERS:
            what = listed(others, 3) if others else f"a limit of {limit.kind}"
            message = f"the limit {limit.name} is under the wind of components, which {what} cannot see"
            remedy = "let it be on members of [wind.components], or under other results"
            out.append(Finding("error", "components-elsewhere", message, remedy, limit.place))
    missed = sorted(set(limited) - covered)
    if missed:
        names = model.project.members
        message = f"{listed([names[m].name for m in missed], 3)} in [wind.components] have no limit under that wind"
        out.append(Finding("warning", "components-unchecked", message, 'add a limit with under = "components"',
                           limited[missed[0]].place, about=tuple(names[m].name for m in missed)))  # fmt: skip
    return out


OF_MEMBERS = (LimitKind.STEEL, LimitKind.STRESS, LimitKind.FORCE, LimitKind.DEFLECTION)


def patterns_named(model: Resolved, words: Iterable[str]) -> list[Result]:
    """The patterns of combinations that are called by name, and are no results by themselves."""
    known = {r.name for r in model.results}
    out = []
    for word in words:
        if word in known or not re.search(r"[+-]|\.without\.", word):
            continue
        _, custom, gone = word.partition(".without.")
        named = set(re.split(r"[+-]", word)[1:])
        for r in model.results:
            if not r.free:
                continue
            pattern = r.pattern([c for c in r.free if (c in gone.split("+") if custom else c not in named)])
            if pattern.absent and pattern.name == word:
                out.append(pattern)
                break
    return out
