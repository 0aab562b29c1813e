"""What adding up the results of cases would give, beside the combination analysed as one.

A tie that only pulls is slack under one case and pulls under another. A sum of the two cases lets it push, or pull,
where under both loads at once it does neither: the rows side by side show by how much such a sum is wrong.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Solution
from ..model.results import Result, Results
from ..model.words import How
from .table import Table


def with_sums(solution: Solution, results: Results) -> tuple[Solution, list[Result]]:
    """The solution with a further result for each combination that is no sum, made of its cases' own results and their
    factors, each case in the state that it leaves by itself; and these pairs, one after the other. A notional load has
    a share of the loads of all cases and no state of its own: all parts act under it. Combinations with a case that has
    no answer are left out.
    """
    model, every = solution.model, {r.name: r for r in solution.results if r.is_case}
    pairs: list[tuple[Result, Result]] = []
    mix = []
    for r in results:
        if r.is_case or solution.how([r])[0] == How.SUMMED or any(every[c] in solution.failed for c, _ in r.factors):
            continue
        column = np.zeros(len(solution.mix))
        column[: model.load_columns] = model.weights([r])[:, 0]
        for case, factor in r.factors:
            own = solution.mix[:, solution.places([every[case]])[0]].copy()
            own[: model.load_columns] = 0.0  # its loads are there; the state of its one-way parts is not
            column += factor * own
        pairs.append((r, Result(len(model.results) + len(solution.results) + len(pairs), r.of, r.absent)))
        mix.append(column)
    if not pairs:
        return solution, []
    with_them = replace(
        solution, results=(*solution.results, *(s for _, s in pairs)),
        mix=np.hstack([solution.mix, np.column_stack(mix)]),
        how_each=(*solution.how_each, *[How.SUMMED] * len(pairs)),
    )  # fmt: skip
    return with_them, list(chain.from_iterable(pairs))


def side_by_side(table: Table, group: str | None = None) -> Table:
    """Rows of pairs of results, one result after the other, as rows one below the other: of each place that as one,
    then the sum. `group`: the column by whose values all results follow one another anew."""
    rows = np.arange(len(table))
    if group is None:
        return table.rows(_paired(rows, table["case"]))
    order = [rows[table[group] == name] for name in dict.fromkeys(table[group].tolist())]
    return table.rows(np.concatenate([_paired(own, table["case"][own]) for own in order]))


def _paired(rows: NDArray[np.intp], case: NDArray[np.object_]) -> NDArray[np.intp]:
    """Rows in which each case stands twice, as pairs."""
    new = np.flatnonzero(np.append(True, case[1:] != case[:-1]))
    blocks = np.split(rows, new[1:])
    return np.concatenate([block.reshape(2, -1).T.ravel() for block in blocks])


SAME = 1e-6
"""Differences below this share of the largest value are none."""


def furthest_apart(table: Table, columns: Sequence[str]) -> tuple[str, int] | None:
    """In which of the columns (of one kind) pairs of rows differ most, and the first row of that pair; None where no
    pair does."""
    value = np.nan_to_num(np.column_stack([table[c] for c in columns]))
    apart = np.abs(value[1::2] - value[::2])
    if apart.max(initial=0.0) <= SAME * np.abs(value).max(initial=0.0):
        return None
    row, column = np.unravel_index(int(apart.argmax()), apart.shape)
    return columns[int(column)], 2 * int(row)
