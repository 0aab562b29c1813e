"""What single sources of loads make of a frame by themselves, all parts acting."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Columns
from ..analysis.solve import Prepared, respond
from ..model.loads import PlainLoads, Rows

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
AT_ONCE = 4_000_000
"""Up to so many degrees of freedom times single sources of loads in cases these are all solved for at the first
question, and kept for the next."""


def source_by_source(
    prepared: Prepared, loads: PlainLoads, used: Ints, columns: int
) -> tuple[Columns, Floats, list[int], list[int]]:
    """The frame's answers to single sources of loads; which of its columns (columns, n) are those of the cases used;
    their cases, and their sources. Loads count in so many columns."""
    kept = prepared.solution.__dict__
    if "source by source" not in kept:
        every, case_of, source_of = _by_source(loads, np.arange(columns))
        few = len(case_of) * 6 * len(prepared.solution.project.nodes) <= AT_ONCE
        kept["source by source"] = (_respond(prepared, every, case_of), case_of, source_of) if few else None
    if kept["source by source"] is None:
        some, case_of, source_of = _by_source(loads, used)
        return _respond(prepared, some, case_of), np.eye(max(len(case_of), 1))[:, : len(case_of)], case_of, source_of
    alone, case_of, source_of = kept["source by source"]
    mine = np.flatnonzero(np.isin(case_of, used))
    each = np.eye(max(len(case_of), 1))[:, mine]
    return alone, each, [case_of[i] for i in mine], [source_of[i] for i in mine]


def _respond(prepared: Prepared, loads: PlainLoads, columns: Sequence[object]) -> Columns:
    return respond(prepared.equations, loads, max(len(columns), 1))


def _by_source(loads: PlainLoads, wanted: Ints) -> tuple[PlainLoads, list[int], list[int]]:
    """The loads of the wanted columns with a column for each source in each of them; its old column and its source."""
    pairs: dict[tuple[int, int], int] = {}

    def numbered(table: Rows) -> Rows:
        kept = table.take(np.isin(table.case, wanted))
        keys = zip(kept.case.tolist(), kept.source.tolist(), strict=True)
        return replace(kept, case=np.array([pairs.setdefault(k, len(pairs)) for k in keys], np.intp))

    return loads.mapped(numbered), [c for c, _ in pairs], [s for _, s in pairs]
