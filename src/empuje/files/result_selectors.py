"""Which results are meant: names, globs and sets of cases and combinations.

cases          every load case                 strength, service, ...   the combinations of that set
combinations   every combination               wind-*                   names by glob
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from ..core.model.findings import Finding, did_you_mean
from ..core.model.results import Result
from ..core.resolve.resolved import Resolved
from .selectors import NothingMeant, pick

CASES, COMBINATIONS = "cases", "combinations"


def results_meant(model: Resolved, words: Sequence[str]) -> list[Result]:
    """Cases and combinations, cases first, in the order of the file; all of them for no words. Raises NothingMeant."""
    every = model.results
    if not words:
        return list(every)
    index = {r.name: r.index for r in every}
    sets: dict[str, set[int]] = {CASES: set(), COMBINATIONS: set()}
    for r in every:
        sets[CASES if r.is_case else COMBINATIONS].add(r.index)
        if r.combination is not None:
            sets.setdefault(r.combination.set, set()).add(r.index)
    chosen: set[int] = set(index.values()) if all(w.startswith("!") for w in words) else set()
    for word in sorted(words, key=lambda w: w.startswith("!")):
        bare = word.removeprefix("!").strip()
        if bare in sets and bare not in index:
            if not sets[bare]:
                raise NothingMeant(f"the model has no {bare}")
            found = sets[bare]
        else:
            picked, missed = pick([bare], (), index)
            if missed:
                raise NothingMeant(
                    f"there is no case, combination or set {word}; {did_you_mean(word, [*index, *sets])}"
                )
            found = set(picked)
        chosen = chosen - found if word.startswith("!") else chosen | found
    if not chosen:
        raise NothingMeant(f"nothing is left of {', '.join(words)}")
    return [every[i] for i in sorted(chosen)]


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


def patterns_named(model: Resolved, words: Iterable[str]) -> list[Result]:
    """The patterns of combinations that are called by name, and are no results by themselves."""
    known = {r.name for r in model.results}
    out = []
    for word in words:
        if word in known or not re.search(r"[+-]", word):
            continue
        named = set(re.split(r"[+-]", word)[1:])
        for r in model.results:
            if not r.free:
                continue
            pattern = r.pattern([case for case in r.free if case not in named])
            if pattern.absent and pattern.name == word:
                out.append(pattern)
                break
    return out
