"""All there is to say about what an analysis answers, gathered for the check, the summary and the report."""

from __future__ import annotations

from ..analysis.solution import Solution
from ..model.findings import Finding
from ..model.results import Results
from ..resolve.load_path import astray
from .overstress import overstressed
from .reactions import result_findings


def all_findings(solution: Solution, results: Results | None = None) -> list[Finding]:
    """About these results, or all: balance and displacements; about every case: stresses beyond any member; about the
    model: loads that find no column."""
    return [*result_findings(solution, results), *overstressed(solution), *astray(solution.model)]
