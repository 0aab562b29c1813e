"""Further nodes inside members whose axial force changes where no node is, so that second order holds there too.

Eight inner shapes an element (beam_column.py) follow an axial force that grows evenly, but not one that turns a corner:
there the critical load would come out too high, by up to 6%. A node at every corner, and at the quarters of an element
that is pulled for the most part and pushed for the rest, brings that below 0.1%.

          | P               o P        o
          |                 |          |  pushed
       -->| axial load      o  cut     o  cut
          |                 |          |  pulled
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..model.frame import ON_LINE_TOLERANCE, Node
from ..model.project import Project
from ..model.results import Results
from ..model.words import Acts
from .pieces import build_pieces
from .polynomials import value_at
from .solution import Pieces, Solution

Floats = NDArray[np.float64]
TURNS = 0.01
"""A change of N that makes less than this share of the element's largest is no corner."""
SLENDER = 0.01
"""Elements pushed by less than this share of their own Euler load decide nothing."""
NEAR_END = 0.02
"""Corners nearer to an element's end than this share of its length stay."""
SAMPLES = 9
AT_A_TIME = 2000


def with_cuts(solution: Solution, results: Results) -> Project:
    """The project with the nodes that these results (first order) ask for, after all others; the same where none is."""
    project = solution.project
    bends = np.array([not m.bar and m.acts == Acts.BOTH for m in project.members], bool)
    found: list[tuple[int, float]] = []
    weights = solution.weights(results, reduced=False)
    chosen = np.flatnonzero(bends)
    for i in range(0, len(chosen), AT_A_TIME):
        pieces = build_pieces(solution, chosen[i : i + AT_A_TIME], weights)
        found += _corners(solution, pieces)
    free = [(m, s) for m, s in found if _stands_free(project, m, s)]
    if not free:
        return project
    start, x = project.xyz[project.ends[:, 0]], project.axes[:, 0]
    nodes = [
        Node(f"{project.members[m].name} at {s:.4g} m", tuple((start[m] + s * x[m]).tolist()), project.members[m].place)
        for m, s in free
    ]
    return replace(project, nodes=(*project.nodes, *nodes))


def _corners(solution: Solution, pieces: Pieces) -> list[tuple[int, float]]:
    """Member and place [m] of each new node."""
    mesh = solution.mesh
    t = pieces.length[:, None] * np.linspace(0, 1, SAMPLES)
    piece = np.repeat(np.arange(len(t)), SAMPLES)
    N = value_at(pieces.force[piece, :1], t.ravel())[:, 0].reshape(len(t), SAMPLES, -1)
    new = np.append(True, np.diff(pieces.element) != 0)
    first = np.flatnonzero(new)
    of = np.cumsum(new) - 1
    element = pieces.element[first]
    largest = np.maximum.reduceat(np.abs(N).max(axis=1), first, axis=0)
    pushed = np.maximum(-np.minimum.reduceat(N.min(axis=1), first, axis=0), 0.0)
    length = mesh.length[element]
    euler = np.pi**2 * np.minimum(mesh.EIy, mesh.EIz)[element] / length**2
    counts = (pushed > SLENDER * euler[:, None]) & ~mesh.rigid[element, None]

    # What each piece's N is more than the one before it would have gone on to.
    within = pieces.start - mesh.s0[pieces.element]
    c = pieces.force[:, 0, :3]
    step = np.zeros_like(c)
    reach = np.append(0.0, pieces.length[:-1])[:, None]
    step[1:, 0] = c[1:, 0] - (c[:-1, 0] + c[:-1, 1] * reach[1:] + c[:-1, 2] * reach[1:] ** 2)
    step[1:, 1] = c[1:, 1] - (c[:-1, 1] + 2 * c[:-1, 2] * reach[1:])
    step[1:, 2] = c[1:, 2] - c[:-1, 2]
    rest = (length[of] - within)[:, None]
    change = np.abs(step[:, 0]) + np.abs(step[:, 1]) * rest + np.abs(step[:, 2]) * rest**2
    corner = ~new & ((change > TURNS * largest[of]) & counts[of]).any(axis=1)
    share = within / length[of]
    corner &= (share > NEAR_END) & (share < 1 - NEAR_END)
    out = [(int(m), float(s)) for m, s in zip(pieces.member[corner], pieces.start[corner], strict=True)]

    in_push = np.add.reduceat((N < 0).mean(axis=1) * pieces.length[:, None], first, axis=0) / length[:, None]
    quartered = (counts & (in_push > 0) & (in_push < 0.5) & (pushed < largest)).any(axis=1)
    for e in element[quartered]:
        out += [(int(mesh.member[e]), float(mesh.s0[e] + k / 4 * mesh.length[e])) for k in (1, 2, 3)]
    return out


def _stands_free(project: Project, m: int, s: float) -> bool:
    """Whether a node at s on the member would join nothing else."""
    at = project.xyz[project.ends[m, 0]] + s * project.axes[m, 0]
    start, x = project.xyz[project.ends[:, 0]], project.axes[:, 0]
    along = np.clip(np.einsum("ij,ij->i", at - start, x), 0.0, project.lengths)
    away = np.linalg.norm(at - start - along[:, None] * x, axis=1)
    away[m] = np.inf
    return bool(away.min(initial=np.inf) > 3 * ON_LINE_TOLERANCE)
