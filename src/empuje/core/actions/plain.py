"""All actions of a project as plain loads."""

from __future__ import annotations

from ..model.findings import Finding
from ..model.loads import PlainLoads, gather
from ..model.project import Project
from .direct import direct_loads
from .notional import notional_loads
from .self_weight import self_weight
from .surfaces.sources.surface_loads import Surfaces, surface_loads

LOAD_BUILDERS = (self_weight, direct_loads, surface_loads)
"""Functions of the project and the geometry of its surfaces; a new kind of action is one more."""


def plain_loads(project: Project, surfaces: Surfaces, by_code: PlainLoads) -> tuple[PlainLoads, list[Finding]]:
    """Every load of the project as plain loads, those of the wind by code and of traffic too, and what there is to say
    about them."""
    results = [build(project, surfaces) for build in LOAD_BUILDERS]
    loads = gather([*(loads for loads, _ in results), by_code])
    if project.notional_pairs:
        loads = gather([loads, notional_loads(project, loads)])
    return loads, [f for _, found in results for f in found]
