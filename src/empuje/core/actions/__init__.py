"""Actions: each turns part of what the engineer described into plain loads, with sources and findings."""

from __future__ import annotations

from ..model.findings import Finding
from ..model.loads import PlainLoads, gather
from ..model.project import Project
from .direct import direct_loads
from .lean import leaning
from .self_weight import self_weight
from .surfaces import surface_loads

ACTIONS = (self_weight, direct_loads, surface_loads)


def plain_loads(project: Project) -> tuple[PlainLoads, list[Finding]]:
    """Every load of the project as plain loads, and what there is to say about them."""
    results = [action(project) for action in ACTIONS]
    loads = gather([loads for loads, _ in results])
    if project.lean_pairs:
        loads = gather([loads, leaning(project, loads)])
    return loads, [f for _, found in results for f in found]
