"""What was decided in holding limits against results: the spans of deflections."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from ..answers.deflection import stretches
from ..model.decisions import Decision
from ..model.limits import Limit
from ..model.project import Project
from ..model.words import Reference, Stance


def span_decisions(project: Project, limits: Sequence[Limit]) -> Iterator[Decision]:
    """The spans that limits on deflections take, where none is stated."""
    for limit in limits:
        if not math.isnan(limit.span) or not any(b.share for b in limit.bounds):
            continue
        if limit.against == Reference.CHORD:
            for m, own in zip(limit.on, stretches(project, limit.on), strict=True):
                taken = ", ".join(f"{s.words} {s.span:.4g} m" for s in own)
                yield Decision(
                    "span of a deflection",
                    (project.members[m].name, limit.name),
                    taken,
                    "between its supports; an overhang counts twice its length",
                    "a stated span",
                    "limits.span",
                    Stance.USUAL,
                    limit.place,
                )
