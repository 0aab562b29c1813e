r"""Curved roofs, drawn as facets that bend one way: profiles of snow along the curve, straight between given places.

         crown
        .--'--.            x ---> way, towards the side that the wind drifts snow to
      /         \
     eave       eave
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.loads import Step
from ..faces import bend_of
from .roofs import SnowRoof, band
from .shapes import Layer

Floats = NDArray[np.float64]
TOP = 1e-3
"""Corners so little below the highest [m] are of the crown."""


@dataclass(frozen=True)
class Side:
    """One side of a curved roof, seen from its crown: the level unit vector (2,) to its eave, where the facets begin
    and end along that [m] (facets + 1,), and their slopes [deg]; `rise` from eave to crown [m]."""

    way: Floats
    x: Floats
    slopes: Floats
    rise: float

    def where(self, slope: float) -> float:
        """Where facets become steeper than a slope [deg], the eave where none is [m]."""
        steep = np.flatnonzero(self.slopes > slope)
        return float(self.x[steep[0]] if len(steep) else self.x[-1])

    @property
    def chord(self) -> float:
        """The slope of the line from eave to crown [deg]."""
        return float(np.degrees(np.arctan2(self.rise, self.x[-1] - self.x[0])))


def sides_of(roof: SnowRoof) -> tuple[Side, Side]:
    """Both sides of a curved roof."""
    faces = [f for p in roof.pitches for f in p.faces]
    bend = bend_of(faces)
    assert bend is not None
    corners = np.concatenate([f.corners for f in faces])
    top = corners[:, 2] >= corners[:, 2].max() - TOP
    crown = float((corners[top, :2] @ bend).mean())
    first, last = (_side(roof, way * bend, way * crown, corners) for way in (1.0, -1.0))
    return first, last


def _side(roof: SnowRoof, way: Floats, crown: float, corners: Floats) -> Side:
    spans = []
    for pitch in roof.pitches:
        along = shapely.get_coordinates(pitch.plan) @ way
        low, high = max(float(along.min()), crown), float(along.max())
        if high > crown + TOP:
            spans.append((low, high, pitch.slope))
    spans = sorted(set(spans))
    x = np.array([crown, *(high for _, high, _ in spans)])
    eave = corners[corners[:, :2] @ way >= x[-1] - TOP, 2].min()
    return Side(way, x, np.array([s for *_, s in spans]), float(corners[:, 2].max() - eave))


def profile(
    roof: SnowRoof, side: Side, x: Sequence[float], p: Sequence[float], name: str, steps: tuple[Step, ...]
) -> list[Layer]:
    """Layers of p [N/m2 of level area] at places x along a side, straight between them."""
    way = float(side.way[0]), float(side.way[1])
    out = []
    for (a, b), (start, end) in zip(pairwise(x), pairwise(p), strict=True):
        if b - a < TOP or (start == 0 and end == 0):
            continue
        for pitch in roof.pitches:
            along = shapely.get_coordinates(pitch.plan) @ side.way
            if along.max() > a + TOP and along.min() < b - TOP:
                out.append(Layer(pitch, name, steps, start, end, band(pitch.plan, side.way, a, b), way, a, b))
    return out
