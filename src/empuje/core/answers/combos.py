"""The combinations of a project: where each comes from, what it is made of, and how it will be analysed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..model.cases import Combination
from ..model.project import Project
from ..model.results import Results
from .table import Column, Table, said


def combos(project: Project, results: Results) -> Table:
    """Of those results that are combinations: name, set, formula in case names, source and clause, how, and the factor
    of each case in a column of its own, NaN where it has none."""
    chosen = [r.combination for r in results if r.combination is not None]
    return Table("combinations", (*_described(project, chosen), *factor_columns(project, chosen)))


def combinations_apart(project: Project, results: Results) -> tuple[Table, Table]:
    """The same as two tables whose columns are few, however many cases there are: what combinations are, and a row for
    each of their cases with its factor."""
    chosen = [r.combination for r in results if r.combination is not None]
    rows = [(c.name, case, f) for c in chosen for case, f in c.factors]
    names, cases, factors = zip(*rows, strict=True) if rows else ((), (), ())
    return Table("combinations", _described(project, chosen)), Table("factors", (
        Column("combination", "text", names), Column("case", "text", cases),
        Column("factor", "factor", np.array(factors, float)),
    ))  # fmt: skip


def _described(project: Project, chosen: Sequence[Combination]) -> tuple[Column, ...]:
    return (
        Column("combination", "text", [c.name for c in chosen]),
        Column("set", "text", [c.set for c in chosen]),
        Column("formula", "text", [c.formula for c in chosen]),
        Column("source", "text", [c.comes_from for c in chosen]),
        Column("how", "text", [said(project.how(c), c.second_order_at) for c in chosen]),
    )


TAKEN = ("combination", "set", "formula", "source", "how")


def factor_head(case: str) -> str:
    """What the column of a case's factor is called: after it, or `factor SET` where another column is."""
    return f"factor {case}" if case.casefold() in TAKEN else case


def factor_columns(project: Project, chosen: Sequence[Combination]) -> list[Column]:
    """A column for each case."""
    factors = [dict(c.factors) for c in chosen]
    return [Column(factor_head(case), "factor", np.array([f.get(case, np.nan) for f in factors], float))
            for case in project.case_names]  # fmt: skip
