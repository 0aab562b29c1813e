"""A solved model, and how every answer of it becomes a table."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..core.analysis.solution import Solution
from ..core.answers.table import Table, failed_first
from ..core.model.results import Result
from ..study.study import ModelError, Study
from .asking import Asking, Words

if TYPE_CHECKING:
    import pandas as pd


class Answers(Asking):
    """The solution, and tables of the results that words mean."""

    def __init__(self, study: Study, solution: Solution, allow_failed: bool = False) -> None:
        super().__init__(study)
        self._kept = solution
        self.allow_failed = allow_failed

    @property
    def solution(self) -> Solution:
        """The arrays of the analysis, of the core."""
        return self._study.solution() if len(self._study.resolved.results) > len(self._kept.results) else self._kept

    @property
    def failed(self) -> dict[str, str]:
        """What there is to say of each case and combination without a stable answer, by its name.

        Examples
        --------
        >>> results.failed
        {}
        """
        return {result.name: str(finding) for result, finding in self.solution.failed.items()}

    def _standing(self, results: list[Result], whole: bool) -> tuple[list[Result], list[str]]:
        """Those with a stable answer, and the names of the others. Raises ModelError where these matter."""
        solution = self.solution
        failed = [r for r in results if r in solution.failed]
        found = solution.no_answer(failed)
        if whole:  # a case that cannot stand alone does not matter where combinations do
            failed = [r for r, f in zip(failed, found, strict=True) if f.level == "error"]
        standing = [r for r in results if r not in solution.failed]
        if (failed and not self.allow_failed) or not standing:
            raise ModelError(found)
        return standing, [r.name for r in failed]

    def _answer(
        self, under: Words, make: Callable[[Solution, list[Result]], Table], over_positions: bool = False,
        along: dict[int, NDArray[np.float64]] | None = None,
    ) -> pd.DataFrame:  # fmt: skip
        """The table of the results meant; unless it is `over_positions`, moving cases stand in single ones, also those
        worst at places along members. Raises ModelError where one of them has no stable answer."""
        results = self._under(under)
        if not over_positions:
            results, _ = self._study.stand(results, along)
        standing, failed = self._standing(results, whole=not under)
        return self._frame(failed_first(make(self.solution, standing), failed))
