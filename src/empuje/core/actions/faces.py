"""Surfaces as faces that wind and snow act on, and those that join one another as a roof."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..surfaces.plane import Outline

Floats = NDArray[np.float64]
WALL_FROM = 80.0
"""A face steeper than this [deg] is a wall (ASCE 7-16 figure 27.3-1, note)."""
TOUCH = 5e-3
"""Faces whose edges run along each other within this [m] are one roof."""


@dataclass(frozen=True)
class Face:
    """An exterior surface: its index, its outline, corners (n, 3) [m] with z above the ground, slope [deg], and that as
    it is drawn."""

    surface: int
    outline: Outline
    corners: Floats
    slope: float
    area: float
    drawn: float

    @property
    def normal(self) -> Floats:
        """Outward unit vector (3,)."""
        return self.outline.normal

    @property
    def is_wall(self) -> bool:
        """Whether it stands upright, or nearly."""
        return self.slope > WALL_FROM

    @property
    def name(self) -> str:
        """Of the surface."""
        return self.outline.surface.name

    @property
    def low(self) -> float:
        """Its lowest point above the ground [m]."""
        return float(self.corners[:, 2].min())

    @property
    def top(self) -> float:
        """Its highest point above the ground [m]."""
        return float(self.corners[:, 2].max())


def face_of(surface: int, outline: Outline, ground: float) -> Face:
    """A surface as a face, with its heights above the ground."""
    corners = outline.solid(shapely.get_coordinates(outline.polygon)) - [0.0, 0.0, ground]
    slope = float(np.degrees(np.arccos(np.clip(abs(outline.normal[2]), 0.0, 1.0))))
    return Face(surface, outline, corners, at_table(slope), float(outline.polygon.area), slope)


STEP, OFF = 2.5, 0.05
"""Slopes at which tables have rows are multiples of this [deg]; one drawn so little off is meant."""


def at_table(slope: float) -> float:
    """A slope [deg], or that of a table's row where it is within a twentieth of a degree of it.

    >>> at_table(4.98), at_table(5.06), at_table(45.00001)
    (5.0, 5.06, 45.0)
    """
    row = STEP * round(slope / STEP)
    return row if abs(slope - row) <= OFF else slope


def plan_of(face: Face) -> shapely.Geometry:
    """A face as it is seen from above."""
    return shapely.Polygon(face.outline.solid(shapely.get_coordinates(face.outline.polygon.exterior))[:, :2])


def joined(flat: Sequence[Face]) -> list[list[Face]]:
    """Groups of faces whose edges run along one another."""
    group = list(range(len(flat)))

    def root(i: int) -> int:
        while group[i] != i:
            group[i] = group[group[i]]
            i = group[i]
        return i

    plans = np.array([plan_of(f) for f in flat], object)
    pairs = shapely.STRtree(plans).query(plans, predicate="dwithin", distance=TOUCH) if len(flat) else ([], [])
    for i, j in zip(*pairs, strict=True):
        if i < j:
            shared = shapely.intersection(shapely.boundary(plans[i]), shapely.buffer(shapely.boundary(plans[j]), TOUCH))
            if shapely.length(shared) > 4 * TOUCH:
                at = shapely.get_coordinates(shapely.line_interpolate_point(_longest(shared), 0.5, normalized=True))[0]
                if abs(height_over(flat[i], at) - height_over(flat[j], at)) <= 2 * TOUCH:
                    group[root(int(i))] = root(int(j))
    groups: dict[int, list[Face]] = {}
    for k, face in enumerate(flat):
        groups.setdefault(root(k), []).append(face)
    return list(groups.values())


def _longest(lines: shapely.Geometry) -> shapely.Geometry:
    return max(shapely.get_parts(lines), key=lambda line: float(line.length))


def height_over(face: Face, at: Floats) -> float:
    """The height of a face's plane over a point in plan [m]."""
    n, corner = face.normal, face.corners[0]
    return float(corner[2] - (at - corner[:2]) @ n[:2] / n[2])


FLAT = 0.5
"""Below this slope [deg] a roof is level."""
SQUARE = 1e-3


def bend_of(faces: Sequence[Face]) -> Floats | None:
    """The level unit vector (2,) along which faces rise, flatten and fall, as those of an arch do; None where they fall
    other ways too, or hollow."""
    sloped = [f for f in faces if f.slope > FLAT]
    if not sloped:
        return None
    steepest = max(sloped, key=lambda f: f.slope).normal[:2]
    way: Floats = steepest / np.linalg.norm(steepest)
    across = np.array([f.normal[:2] @ [-way[1], way[0]] for f in faces])
    falls = np.array([f.normal[:2] @ way / f.normal[2] for f in faces])
    middle = np.array([np.mean(f.corners[:, :2] @ way) for f in faces])
    order = np.argsort(middle, kind="stable")
    changes = np.diff(falls[order])
    if np.any(np.abs(across) > SQUARE) or np.any(changes < -SQUARE) or falls.min() > -SQUARE or falls.max() < SQUARE:
        return None
    return way
