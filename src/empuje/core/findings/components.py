"""Components and cladding: purlins sized by the wind of the frame."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..model.findings import Finding, listed
from ..model.words import LimitKind
from ..resolved import Resolved
from .telling import warn

SIZED = (LimitKind.STEEL, LimitKind.STRESS, LimitKind.FORCE, LimitKind.DEFLECTION)
LEVEL = 0.99
"""Members steeper than this (sine) are posts."""


def of_components(resolved: Resolved) -> Iterator[Finding]:
    """Hinged members below the sheets of a building that limits check, and that have no pressures of components."""
    project, wind = resolved.project, resolved.wind
    if wind is None or not wind.buildings or project.plane:
        return
    own = {m for entry in wind.rule.components for m in entry.members}
    checked = {m for limit in project.limits if limit.kind in SIZED for m in limit.on}
    loaded = set(np.unique(wind.loads.lines.member).tolist())
    sized = [
        m for m in sorted((checked & loaded) - own)
        if not any(np.array(project.members[m].joints)[[4, 10]]) and abs(project.axes[m, 0, 2]) < LEVEL
    ]  # fmt: skip
    if sized:
        names = [project.members[m].name for m in sized]
        one = len(names) == 1
        yield warn(
            "frame-pressures",
            f"{listed(names, 3)} carr{'ies' if one else 'y'} sheets in the wind and {'is' if one else 'are'} sized by "
            "the pressures of the frame",
            "name them in [wind.components], and check them under the set components",
            wind.rule.place,
            *names,
        )
