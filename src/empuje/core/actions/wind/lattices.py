"""Frames of members as the wind sees them: which of them form a face across it, and how solid that is.

solidity = seen area of the members of one face / area that the face's outline encloses (ASCE 7, figures 29.4-2 and
29.4-3: one face counts, not all of them on top of one another)
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.near import together
from ...model.project import Project

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
DEEP = 0.05
"""Members whose ends lie within this [m] of one another along the wind are of one face."""
NOTHING = 1e-9
SQUARE = 0.0872
"""Sine of 5 degrees: a face that leans less than this from square to the wind is across it."""


def faces_of(project: Project, members: Ints, wind: Floats, seen: Floats) -> tuple[float | None, int]:
    """Of the faces of members to a level wind (3,): the solidity of the least solid, None where none is, and how many
    there are; `seen`: width across it times the sine of the angle to it [m]."""
    left = np.array([-wind[1], wind[0], 0.0])
    ends = project.xyz[project.ends[members]]
    solid = seen * project.lengths[members]
    if _in_one_plane(ends.reshape(-1, 3)):
        gross = _enclosed(ends, left)
        return min(1.0, float(solid.sum()) / gross) if gross > NOTHING else None, 1
    depth = ends @ wind
    across = np.flatnonzero(np.ptp(depth, axis=1) <= DEEP)
    if not len(across):
        return None, 0
    face = together(depth[across].mean(axis=1)[:, None], DEEP)
    found = []
    for k in range(int(face.max()) + 1):
        own = across[face == k]
        gross = _enclosed(ends[own], left)
        if gross > NOTHING:
            found.append(min(1.0, float(solid[own].sum()) / gross))
    return min(found, default=None), len(found)


def _in_one_plane(points: Floats) -> bool:
    """Whether points (n, 3) lie in one plane."""
    about = points - points.mean(axis=0)
    return bool(np.linalg.svd(about, full_matrices=False)[1][-1] <= DEEP * np.sqrt(len(points)))


def _enclosed(ends: Floats, left: Floats) -> float:
    """The area [m2] of the smallest convex outline around members' axes, seen along the wind."""
    points = ends.reshape(-1, 3)
    return float(shapely.area(shapely.convex_hull(shapely.multipoints(np.column_stack([points @ left, points[:, 2]])))))


def face_area(project: Project, members: Ints, wind: Floats) -> tuple[float, bool]:
    """The area [m2] that one face of a tower encloses, from what is seen of the whole and the longest side of its plan,
    and whether the wind is square to one of its sides."""
    left = np.array([-wind[1], wind[0], 0.0])
    ends = project.xyz[project.ends[members]]
    plan = shapely.convex_hull(shapely.multipoints(ends.reshape(-1, 3)[:, :2]))
    if not isinstance(plan, shapely.Polygon):
        return _enclosed(ends, left), True
    sides = np.diff(shapely.get_coordinates(plan), axis=0)
    length = np.linalg.norm(sides, axis=1)
    real = length > 0.1 * length.max()
    square = bool((np.abs(sides[real] @ wind[:2]) / length[real] < SQUARE).any())
    seen = float(np.ptp(ends.reshape(-1, 3) @ left))
    return _enclosed(ends, left) * float(length.max()) / seen, square
