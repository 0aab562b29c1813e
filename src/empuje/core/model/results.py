"""Results as values: what a model is analysed for.

A result is a load case, or a combination with the set of its cases that act. It knows its place among the results of a
model and its factors; its name is for printing.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from .cases import Case, Combination
from .findings import Place
from .project import Project
from .words import Set

Floats = NDArray[np.float64]


OF_COMPONENTS = (Set.COMPONENTS, Set.COMPONENTS_SERVICE)


@dataclass(frozen=True, slots=True)
class Result:
    """A case, or a combination; equal to another of the same index, which is its place in the model's results.

    `of` is the case or the combination; of a pattern it is the combination without the cases that are `absent`.
    """

    index: int
    of: Case | Combination = field(compare=False)
    absent: frozenset[str] = field(default=frozenset(), compare=False)

    @property
    def name(self) -> str:
        """For printing; nothing reads it back."""
        return self.of.name

    @property
    def place(self) -> Place:
        """Where the case or the rule that made it is written."""
        return self.of.place

    @property
    def is_case(self) -> bool:
        """Whether it is one load case by itself."""
        return isinstance(self.of, Case)

    @property
    def combination(self) -> Combination | None:
        """The combination it is of; None of a case."""
        return self.of if isinstance(self.of, Combination) else None

    @property
    def of_components(self) -> bool:
        """Whether it has the wind of components, which they see alone."""
        return self.of.component if isinstance(self.of, Case) else self.of.set in OF_COMPONENTS

    @property
    def free(self) -> tuple[str, ...]:
        """Its cases that may be absent."""
        return self.of.free if isinstance(self.of, Combination) else ()

    @property
    def factors(self) -> tuple[tuple[str, float], ...]:
        """Its cases with their factors."""
        return self.of.factors if isinstance(self.of, Combination) else ((self.of.name, 1.0),)

    @property
    def moving(self) -> tuple[str, ...]:
        """Its cases that move: the worst of their positions counts, for every answer by itself."""
        if isinstance(self.of, Combination):
            return self.of.moving
        return (self.of.name,) if self.of.moves else ()

    @property
    def second_order_at(self) -> float:
        """At how many times its loads it is analysed by second order."""
        return self.of.second_order_at if isinstance(self.of, Combination) else 1.0

    @property
    def what(self) -> str:
        """A case's title or action, a combination's formula."""
        return self.of.formula if isinstance(self.of, Combination) else self.of.title or self.of.action

    @property
    def title(self) -> str:
        """A case's title, a combination's formula."""
        return self.of.formula if isinstance(self.of, Combination) else self.of.title

    def pattern(self, absent: Iterable[str], index: int = -1) -> Result:
        """The same combination without the cases that are absent; itself where none is."""
        gone = frozenset(absent)
        if not gone or not isinstance(self.of, Combination):
            return self
        return replace(self, index=index, of=self.of.less(gone), absent=gone)


Results = Sequence[Result]


def results_of(project: Project, combinations: Iterable[Combination]) -> tuple[Result, ...]:
    """All cases, then all combinations."""
    every: list[Case | Combination] = [*project.cases, *combinations]
    return tuple(Result(i, of) for i, of in enumerate(every))


def names(results: Results) -> list[str]:
    """Of results, for printing."""
    return [r.name for r in results]


def case_factors(project: Project, of: Sequence[Case | Combination]) -> Floats:
    """How much of each case, and of each pair of a notional and another case, is in each: (cases and pairs, n)."""
    row = {name: i for i, name in enumerate(project.case_names)}
    cases = np.zeros((len(row), len(of)))
    for j, one in enumerate(of):
        if isinstance(one, Case):
            cases[row[one.name], j] = 1.0
            continue
        for name, factor in one.factors:
            cases[row[name], j] += factor
    if not project.notional_pairs:
        return cases
    own, case = np.array(project.notional_pairs).T
    return np.vstack([cases, cases[own] * cases[case]])
