"""What is said of structural surfaces: signs, and how far off their mesh is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..core.answers.plates import Extreme
from ..core.model.findings import listed
from ..core.model.plates import Plates
from ..core.model.project import Project
from .display import Display

AXES_SIGNS = (
    "m: positive with tension on the side away from the normal; far, near: for reinforcement on that side and on the "
    "side of the normal; n: tension positive"
)
SIGNS = f"{AXES_SIGNS}; peak: next to a point where it has no finite value."
TOO_MUCH = 0.02
"""Estimates above this are worth a finer mesh."""


def mesh_words(
    project: Project, plates: Plates, found: Sequence[Extreme], estimates: Sequence[float], display: Display
) -> Iterator[str]:
    """How far off the mesh is, and of which surfaces that is much."""
    surfaces = project.surfaces
    asked = list(dict.fromkeys(e.surface for e in found))
    if not asked:
        return
    sizes = " to ".join(
        f"{v * display.factor('length'):.3g}" for v in sorted({f(plates.length[asked]) for f in (np.min, np.max)})
    )
    known = [(value, e) for value, e in zip(estimates, found, strict=True) if np.isfinite(value)]
    worst, at = max(known, key=lambda one: one[0], default=(0.0, None))
    words = f" {100 * worst:.2g} %" + (f", of {at.of} on {surfaces[at.surface].name}" if at is not None else "")
    yield (
        f"Mesh error: about what the mesh of {sizes} {display.unit('length')} is off by, as a share of the greatest of "
        f"its kind on the surface; at most{words}."
    )
    coarse = list(dict.fromkeys(surfaces[e.surface].name for value, e in known if value > TOO_MUCH))
    if coarse:
        yield f"warning: that is more than 2 % on {listed(coarse)}: state a smaller surfaces.NAME.mesh there"
