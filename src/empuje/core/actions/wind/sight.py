"""Members as a level wind sees them: how wide they are across it, how deep, and at what angle they lie to it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.frame import Section
from ...model.project import Project

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
UNSEEN = 1e-6


def is_round(section: Section) -> bool:
    """Whether the outer outline is a circle, within a thousandth."""
    if not section.outline:
        return False
    points = np.asarray(section.outline[0])
    centre = (points.min(axis=0) + points.max(axis=0)) / 2
    r = np.linalg.norm(points - centre, axis=1)
    return len(points) >= 16 and float(np.ptp(r)) < 1e-3 * float(r.max())


@dataclass(frozen=True)
class Sight:
    """Members as a level wind sees them (members,): width across [m] (nan where the section has no outline), depth
    along the wind [m], the share of that rectangle which the outline fills, and the sine of the angle between wind
    and member."""

    width: Floats
    depth: Floats
    full: Floats
    sine: Floats


def sight(project: Project, members: Ints, wind: Floats) -> Sight:
    """How a level wind (3,) sees members."""
    axes = project.axes[members]
    x = axes[:, 0]
    across = np.cross(wind, x)
    sine = np.linalg.norm(across, axis=1)
    width, depth, area = (np.full(len(members), np.nan) for _ in range(3))
    across = np.where((sine > UNSEEN)[:, None], across / np.maximum(sine, UNSEEN)[:, None], axes[:, 1])
    deep = np.cross(x, across)
    sections: dict[int, list[int]] = {}
    for i, m in enumerate(members.tolist()):
        sections.setdefault(id(project.members[m].section), []).append(i)
    for rows in sections.values():
        section = project.members[members[rows[0]]].section
        if not section.outline:
            continue
        points = np.asarray(section.outline[0])
        area[rows] = shapely.Polygon(points).area
        for way, out in ((across, width), (deep, depth)):
            in_section = np.column_stack([np.einsum("ij,ij->i", way[rows], axes[rows, k]) for k in (1, 2)])
            out[rows] = np.ptp(in_section @ points.T, axis=1)
    return Sight(width, depth, area / (width * depth), sine)
