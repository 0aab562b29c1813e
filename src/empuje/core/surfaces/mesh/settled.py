"""Coordinates that are rounded: corners of structural surfaces, and ends of lines of support, that lie within the
tolerance of a node or of one another are one place, as for members."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...model.frame import ON_LINE_TOLERANCE
from ...model.loads import Vector
from ...model.near import together
from ...model.project import Project
from ...model.surfaces import Surface
from ..plane import plane_of

Loops = tuple[tuple[Vector, ...], ...]


def settled(project: Project) -> Project:
    """The project with these at the place of the first of them, nodes before corners; where a surface were no longer
    flat, its corners move in its plane alone."""
    structural = [i for i, s in enumerate(project.surfaces) if s.plate is not None]
    loops: Loops = tuple(
        loop for i in structural for loop in (project.surfaces[i].corners, *project.surfaces[i].openings)
    )
    lines: Loops = tuple(s.points for s in project.line_supports)
    points = np.array([p for loop in (*loops, *lines) for p in loop], float).reshape(-1, 3)
    every = np.concatenate([project.xyz, points])
    group = together(every, ON_LINE_TOLERANCE)
    there = every[np.unique(group, return_index=True)[1]][group]
    # Places that hang together link by link may be further apart than one link.
    there = np.where((np.linalg.norm(there - every, axis=1) > ON_LINE_TOLERANCE)[:, None], every, there)
    left = iter(there[len(project.xyz) :])
    surfaces = list(project.surfaces)
    for i in structural:
        surfaces[i] = _moved(surfaces[i], left)
    supports = tuple(replace(s, points=_taken(s.points, left)) for s in project.line_supports)
    return replace(project, surfaces=tuple(surfaces), line_supports=supports)


def _taken(loop: tuple[Vector, ...], left: Iterator[NDArray[np.float64]]) -> tuple[Vector, ...]:
    """As many of the places that are left as a loop has corners."""
    return tuple((float(x), float(y), float(z)) for _, (x, y, z) in zip(loop, left, strict=False))


def _moved(surface: Surface, left: Iterator[NDArray[np.float64]]) -> Surface:
    loops = (surface.corners, *surface.openings)
    moved = [_taken(loop, left) for loop in loops]
    out = replace(surface, corners=moved[0], openings=tuple(moved[1:]))
    outline, _ = plane_of(surface)
    if outline is None or plane_of(out)[0] is not None:
        return out
    n = outline.normal
    flat = [
        tuple(map(tuple, np.array(a) + (step := np.array(b) - np.array(a)) - np.outer(step @ n, n)))
        for a, b in zip(loops, moved, strict=True)
    ]
    return replace(surface, corners=flat[0], openings=tuple(flat[1:]))
