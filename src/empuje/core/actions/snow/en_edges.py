"""Snow that overhangs edges, and its force on guards (EN 1991-1-3, 6.3, 6.4).

s_e = k s^2/gamma along the edge, gamma = 3 kN/m3, k = 3/d <= d gamma (recommended), d = s/gamma the depth on the roof
F_s = s b sin(alpha) along guards, b level, from the guard up to the next one or to the ridge

>>> [round(overhang(s) / 1e3, 6) for s in (1000.0, 4000.0)]
[0.333333, 12.0]
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Place
from ...model.loads import Direction, Step
from ...model.snow import SnowRule
from ...model.surfaces import SurfaceLine
from ..faces import Face
from .roofs import TOUCH, Pitch, SnowRoof

Floats = NDArray[np.float64]
GAMMA_EDGE = 3000.0
"""Weight of snow that overhangs an edge [N/m3] (6.3)."""
SHORT = 0.02
DOWN = Direction((0.0, 0.0, -1.0), text="down")


@dataclass(frozen=True)
class EdgeLoad:
    """Snow that overhangs an edge of a face from a to b (3,): along it [N/m], and its steps."""

    face: Face
    a: Floats
    b: Floats
    value: float
    steps: tuple[Step, ...]

    def in_case(self, case: str, place: Place) -> SurfaceLine:
        """As a load on its surface."""
        ends = tuple(self.a.tolist()), tuple(self.b.tolist())
        text = f"snow, overhanging the edge of {self.face.name}"
        return SurfaceLine(case, self.face.surface, ends, (self.value,) * 2, DOWN, text, place, self.steps)


def overhang(s: float) -> float:
    """s_e [N/m] of a load s on the roof [N/m2] (6.4). The limits of k hold in kN and m."""
    return _k(s) * s**2 / GAMMA_EDGE


def _k(s: float) -> float:
    depth = s / GAMMA_EDGE
    return min(3.0 / depth, depth * GAMMA_EDGE / 1e3) if depth else 0.0


def guard_step(s: float, pitch: Pitch) -> Step:
    """F_s on the guards of a pitch [N/m], along the slope."""
    value = s * pitch.W * float(np.sin(np.radians(pitch.slope)))
    return Step("F_s", "s b sin(alpha) on guards at the eave, along the slope, b = W", value, "N/m", "6.5")


def edge_loads(rule: SnowRule, roofs: Sequence[SnowRoof], loads: dict[tuple[int, int], float], times: float
               ) -> list[EdgeLoad]:  # fmt: skip
    """Along the edges that the stated roofs fall to, level ones along all outer edges; `loads`: s of every pitch
    [N/m2], times a factor."""
    out = []
    for (r, i), s in loads.items():
        pitch = roofs[r].pitches[i]
        value, amount = overhang(times * s), times * s
        steps = (
            Step(
                "s", "undrifted, on the roof" if times == 1 else "undrifted, on the roof, times C_esl", amount, "N/m2"
            ),
            Step("d", "s/gamma, gamma = 3 kN/m3", amount / GAMMA_EDGE, "m", "6.3"),
            Step("k", "3/d <= d gamma, in kN and m", _k(amount), "", "6.3"),
            Step("s_e", "k s^2/gamma", value, "N/m", "6.4"),
        )
        for face in (f for f in pitch.faces if f.surface in rule.overhanging and value > 0):
            out += [EdgeLoad(face, a, b, value, steps) for a, b in _edges(face, pitch, roofs[r])]
    return out


def _edges(face: Face, pitch: Pitch, roof: SnowRoof) -> Iterator[tuple[Floats, Floats]]:
    around = shapely.buffer(shapely.boundary(roof.plan), 2 * TOUCH)
    ring = shapely.get_coordinates(shapely.orient_polygons(shapely.Polygon(face.outline.polygon.exterior)).exterior)
    points = face.outline.solid(ring)
    for a, b in pairwise(points):
        level = b[:2] - a[:2]
        length = float(np.linalg.norm(level))
        if length < SHORT:
            continue
        out = np.array([level[1], -level[0]]) / length * np.sign(face.outline.normal[2])
        if pitch.fall.any() and out @ pitch.fall < ALONG:
            continue
        for part in shapely.get_parts(shapely.intersection(shapely.LineString([a[:2], b[:2]]), around)):
            t = (shapely.get_coordinates(part) - a[:2]) @ level / length**2
            if len(t) and (t.max() - t.min()) * length > 8 * TOUCH:
                yield a + t.min() * (b - a), a + t.max() * (b - a)


ALONG = 0.7
