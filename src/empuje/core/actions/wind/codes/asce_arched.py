"""ASCE 7, figure 27.3-3: arched roofs, wind across their axis.

    centre half
   .-'''''-.           r = rise / span
.-'         '-.        the figure counts quarters of the span in plan
windward   leeward
quarter    quarter
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.wind import WindRule
from ....model.words import RoofForm
from ...faces import bend_of
from ..shape.roofs import Roof
from ..shape.seen import HALF, Seen
from ..shape.zones import Range, Stretch, alternatives

Floats = NDArray[np.float64]
FIGURE = "figure 27.3-3"
STEEPEST = 0.6
GROUNDED = 0.1
"""A roof whose springing is this little above the ground [m] springs from it."""


def arched(r: float, grounded: bool) -> tuple[tuple[float, ...], float, float]:
    """C_p of the windward quarter (one, or the lower and the upper of two), the centre half and the leeward quarter,
    by the rise-to-span ratio, 0 < r <= 0.6.

    >>> arched(0.25, False)
    ((-0.6, 0.075), -0.95, -0.5)
    >>> arched(0.1, True)
    ((0.14,), -0.8, -0.5)
    """
    centre = round(-0.7 - r, 12)
    if grounded:
        return (round(1.4 * r, 12),), centre, -0.5
    if r < 0.2:
        return (-0.9,), centre, -0.5
    first = 1.5 * r - 0.3 if r < 0.3 else 2.75 * r - 0.7
    other = (6 * r - 2.1,) if r <= 0.3 else ()
    return tuple(sorted(round(C, 12) for C in (first, *other))), centre, -0.5


def arch_way(roof: Roof, seen: Seen) -> Floats | None:
    """The level unit vector (2,) across an arched roof's axis that goes with the wind; None where the wind goes along
    the axis, or the roof is no arch."""
    way = bend_of(roof.faces) if roof.form == RoofForm.ARCHED else None
    if way is None or abs(way @ seen.along) <= HALF:
        return None
    return way if way @ seen.along > 0 else -way


def arched_rows(roof: Roof, way: Floats, q: Range, factor: float) -> list[Stretch]:
    """The quarters of the span along `way`, from figure 27.3-3."""
    low, high, r = _span(roof, way)
    quarter = (high - low) / 4
    windward, centre, leeward = arched(r, roof.eave <= GROUNDED)
    told = f"arched roof{' from the ground' if roof.eave <= GROUNDED else ''}, r = {r:.3g}"
    ends = (-math.inf, low + quarter, high - quarter, math.inf)
    return [
        Stretch(name, C, q, factor, (ends[k], ends[k + 1]), steps=alternatives("C_p", f"{told}, {name}", C, FIGURE))
        for k, (name, C) in enumerate((
            ("windward quarter", windward), ("centre half", (centre,)), ("leeward quarter", (leeward,)),
        ))
    ]  # fmt: skip


def _span(roof: Roof, way: Floats) -> tuple[float, float, float]:
    s = np.concatenate([f.corners for f in roof.faces])[:, :2] @ way
    low, high = float(s.min()), float(s.max())
    return low, high, (roof.ridge - roof.eave) / (high - low)


def arch_limits(roof: Roof, rule: WindRule) -> list[Finding]:
    """A roof that is stated as an arch and bends along no one way; an arch beyond the figure."""
    way = bend_of(roof.faces)
    if way is None:
        message = f"the roof with {roof.names[0]} is stated as arched; its faces do not bend one way along a span"
        return [Finding("error", "wind-shape", message, 'take `roof_form` out, or write "folded"', rule.place)]
    r = _span(roof, way)[2]
    if r > STEEPEST + 1e-9:
        message = f"the roof with {roof.names[0]} rises by {r:.3g} of its span; {FIGURE} goes to 0.6"
        return [Finding("error", "wind-limits", message, "put its pressures in by hand", rule.place)]
    return []
