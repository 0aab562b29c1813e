"""All there is to say about what an analysis answers, gathered for the check, the summary and the report."""

from __future__ import annotations

from ..analysis.solution import Solution
from ..load_path.taken import astray
from ..model.findings import Finding
from ..model.results import Results
from .overstress import overstressed
from .reactions import result_findings
from .storey_torsion import torsion_findings
from .travel import one_way_travel


def all_findings(solution: Solution, results: Results | None = None) -> list[Finding]:
    """About these results, or all: balance and displacements; about every case: stresses beyond any member; about the
    model: traffic that is worse the other way round, buildings that turn, loads that find no column."""
    return [*result_findings(solution, results), *overstressed(solution), *one_way_travel(solution),
            *torsion_findings(solution), *astray(solution.model)]  # fmt: skip
