r"""Rain that stands on roofs whose primary drains are blocked (ASCE 7, chapter 8).

R = 5.2 (d_s + d_h), in lb/ft2 and in, over the lowest point: the water is level, so that on a slope it ends.

     ________________________ water
     \______                |     d_s + d_h (+ d_p)
            \_____ roof ____|
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...model.findings import Finding, listed
from ...model.loads import PlainLoads, Step
from ...model.project import Project
from ...model.rain import RainedOn, RainRule
from ...model.surfaces import AreaLoad
from ...model.words import SnowCode
from ..faces import face_of
from ..surfaces.sources.surface_loads import Surfaces
from .asce_numbers import FOOT, PONDS, PSF
from .laid_on import LaidPiece, area_load_of, loads_of, pieces_of
from .roofs import Pitch, band, pitch_of
from .shapes import Layer

WATER = 5.2 * PSF / (FOOT / 12)
"""Weight of water as 8.3 has it [N/m3]."""


@dataclass(frozen=True)
class Rain:
    """What came of the rain: pieces of its case, and plain loads."""

    rule: RainRule
    pieces: tuple[LaidPiece, ...]
    loads: PlainLoads

    def area_loads(self, names: Collection[str] = ()) -> list[AreaLoad]:
        """The water as loads on surfaces, for drawing."""
        return [area_load_of(p, self.rule.place) for p in self.pieces if not names or p.case in names]


def rain_on(project: Project, surfaces: Surfaces) -> tuple[Rain | None, list[Finding]]:
    """The rain of a project; None where it states none, or where what it states cannot be."""
    rule = project.rain
    if rule is None or not rule.known:
        return None, []
    layers = [layer for roof in rule.roofs for layer in _layers(rule, roof, surfaces)]
    pieces = tuple(replace(p, case=rule.case) for layer in layers for p in pieces_of(layer))
    loads, lost = loads_of(project, surfaces, pieces, "rain", rule.place)
    return Rain(rule, pieces, loads), [*_ponding(rule, layers), *lost]


def _ponding(rule: RainRule, layers: Sequence[Layer]) -> list[Finding]:
    flat = [layer.pitch.name for layer in layers if layer.pitch.slope < PONDS]
    if not flat:
        return []
    message = f"ponding (8.4) is not checked, and {listed(flat, 4)} falls by less than 1/4 inch per foot"
    return [Finding("note", "rain-ponding", message, "", rule.place, about=tuple(flat))]


def _layers(rule: RainRule, roof: RainedOn, surfaces: Surfaces) -> Iterator[Layer]:
    pitches = [pitch_of([face_of(i, surfaces[i].outline, 0.0)]) for i in roof.surfaces if i in surfaces]
    lowest = min((_lowest(p) for p in pitches), default=0.0)
    depth = roof.d_s + roof.d_h + roof.d_p
    ponding = [Step("d_p", "ponding", roof.d_p, "m", "8.2")] if rule.code == SnowCode.ASCE_22 else []
    steps = (
        Step("d_s", "up to the inlet of the secondary drain", roof.d_s, "m", "8.3"),
        Step("d_h", "over that inlet at the design flow", roof.d_h, "m", "8.3"),
        *ponding,
        Step("R", f"5.2 (d_s + d_h{' + d_p' if ponding else ''}), in lb/ft2 and in, at the lowest point", WATER * depth,
             "N/m2", "8.3-1" if not ponding else "8.2-1"),
    )  # fmt: skip
    for pitch in pitches:
        here = depth - (_lowest(pitch) - lowest)
        if here <= 0:
            continue
        if not pitch.fall.any():
            yield Layer(pitch, "water", steps, WATER * here, WATER * here)
            continue
        rise = float(np.tan(np.radians(max(f.drawn for f in pitch.faces))))
        length = here / rise
        top, bottom = pitch.reach
        start = max(bottom - length, top)
        region = None if bottom - length <= top else band(pitch.plan, pitch.fall, bottom - length, bottom + 1.0)
        yield Layer(pitch, "water", steps, WATER * (here - (bottom - start) * rise), WATER * here, region,
                    (float(pitch.fall[0]), float(pitch.fall[1])), start, bottom)  # fmt: skip


def _lowest(pitch: Pitch) -> float:
    return min(float(f.corners[:, 2].min()) for f in pitch.faces)
