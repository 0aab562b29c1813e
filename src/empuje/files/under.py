"""Which results are meant: names, globs and sets of cases and combinations.

cases          every load case                 strength, service, ...   the combinations of that set
combinations   every combination               wind-*                   names by glob
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from ..core.model.findings import did_you_mean
from ..core.model.project import Project
from .selectors import NothingMeant, pick


def results_meant(project: Project, words: Sequence[str]) -> list[str]:
    """Names of cases and combinations, cases first, in the order of the file; all of them for no words.

    Raises NothingMeant.
    """
    cases, combinations = list(project.case_names), [c.name for c in project.combinations]
    every = cases + combinations
    if not words:
        return every
    sets: dict[str, list[str]] = {"cases": cases, "combinations": combinations}
    for c in project.combinations:
        sets.setdefault(c.set, []).append(c.name)
    spelled: list[str] = []
    for word in words:
        bare = word.removeprefix("!")
        bang = word[: len(word) - len(bare)]
        if bare in sets and bare not in every:
            if not sets[bare]:
                raise NothingMeant(f"the model has no {bare}")
            spelled += [bang + name for name in sets[bare]]
        else:
            spelled.append(word)
    chosen, missed = pick(spelled, every)
    if missed:
        known = [*every, *sets]
        raise NothingMeant(f"there is no case, combination or set {missed[0]}; {did_you_mean(missed[0], known)}")
    if not chosen:
        raise NothingMeant(f"nothing is left of {', '.join(words)}")
    return [every[i] for i in chosen]


def with_patterns(project: Project, words: Sequence[str]) -> Project:
    """The project with the patterns of combinations that are called by name as combinations of their own."""
    known = {c.name for c in project.combinations} | set(project.case_names)
    made = []
    for word in words:
        if word not in known and re.search(r"[+-]", word):
            found = (c.patterned(word) for c in project.combinations if c.free)
            made += [next((c for c in found if c is not None), None)]
    more = tuple(c for c in made if c is not None)
    return replace(project, combinations=(*project.combinations, *more)) if more else project
