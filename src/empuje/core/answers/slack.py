"""Which one-way parts do not act under a result: members gone slack, supports lifted off."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Solution
from ..analysis.unilateral import unilateral_parts
from ..model.results import Result

Bools = NDArray[np.bool_]


def not_acting(solution: Solution, result: Result) -> tuple[Bools, Bools]:
    """Members (members,) that are slack under a result, and nodes (nodes,) whose supports have lifted off."""
    project = solution.project
    members, nodes = np.zeros(len(project.members), bool), np.zeros(len(project.nodes), bool)
    parts = unilateral_parts(project)
    if len(parts):
        first = solution.model.load_columns
        slack = solution.weights([result])[first : first + len(parts), 0] > 0
        members[parts.members] = slack[: len(parts.members)]
        nodes[parts.nodes] = slack[len(parts.members) :]
    return members, nodes
