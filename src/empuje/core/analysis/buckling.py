"""Elastic critical loads: how much a result's axial forces must grow until the frame loses its stiffness.

    (K + alpha G) x = 0        mu = 1 / alpha the largest eigenvalues of -K^-1 G

G stands for the axial forces of the linear answer. The inner shapes of every member (beam_column.py) are among the
unknowns, so that members may buckle between their nodes and none needs splitting. The eigenvalues come by Lanczos's
method in the energy of K, with full orthogonalisation, for several results at once (B. N. Parlett, The Symmetric
Eigenvalue Problem, ch. 13 and 15).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .axial import AxialModel, Slack, State

Floats = NDArray[np.float64]
MOST_STEPS = 120
SURE, ROUGHLY = 1e-5, 1e-4
"""Residual of the lowest eigenvalue, and of those above it, as a share of them, at which they are taken; their error is
of the order of the square."""
FIRST_LOOK, LOOK_EVERY = 8, 3
"""Steps after which eigenvalues are looked at."""
AT_A_TIME = 30_000
"""Elements times results worked on at a time: every step keeps a state of each."""
NO_COMPRESSION = 1e-9
"""Eigenvalues below this share of the largest in size are rounding, as is any below 1e-12: nothing is critical."""


def critical_loads(frame: AxialModel, N: Floats, slack: Slack | None, count: int = 1) -> tuple[Floats, list[State]]:
    """The lowest critical load factors (count, results), infinite where there are none, and their shapes.

    N (pieces, points, results) [N] at the frame's points. Shapes have unit energy. Of shapes with the very same factor
    one may be found only.
    """
    each = max(1, AT_A_TIME // max(len(frame.equations.mesh.length), 1))
    blocks = [slice(i, i + each) for i in range(0, N.shape[-1], each)]
    found = [_lowest(frame, N[..., b], slack.pick(b) if slack else None, count) for b in blocks]
    shapes = [
        State(np.hstack([s[i].nodes for _, s in found]), np.concatenate([s[i].inner for _, s in found], axis=-1))
        for i in range(min(len(s) for _, s in found))
    ]
    return np.hstack([factor for factor, _ in found]), shapes


def _lowest(frame: AxialModel, N: Floats, slack: Slack | None, count: int) -> tuple[Floats, list[State]]:
    results = N.shape[-1]
    eq = frame.equations
    random = np.random.default_rng(5)
    nodes, inner = (6 * len(eq.project.nodes), 1), (len(eq.mesh.length), 2, frame.slope.shape[-1], 1)
    # Every result begins alike, so that it does not matter which are worked on together.
    force = State(*(np.repeat(random.standard_normal(shape), results, axis=-1) for shape in (nodes, inner)))
    motion = frame.yield_to(force, slack)
    size = np.sqrt(np.maximum(force.times(motion), 0.0))
    spare = force.scaled(0.0)
    basis: list[tuple[State, State]] = []
    diagonal: list[Floats] = []
    side: list[Floats] = []
    while True:
        scale = np.where(size > 0, 1 / np.where(size > 0, size, 1.0), 0.0)
        motion, force = motion.scaled(scale), force.scaled(scale)
        basis.append((motion, force))
        force = frame.thrust(N, frame.bending(motion)).along.scaled(-1.0)
        diagonal.append(force.times(motion))
        for v, Kv in basis:
            force.add(-force.times(v), Kv, spare)
        motion = frame.yield_to(force, slack)
        size = np.sqrt(np.maximum(force.times(motion), 0.0))
        spent = bool((size <= 1e-12 * np.abs(diagonal).max(axis=0)).any())
        early = len(basis) < FIRST_LOOK or len(basis) % LOOK_EVERY > 0
        if early and not spent and len(basis) < MOST_STEPS:
            side.append(size)
            continue
        value, vector = _small_problem(diagonal, side)
        largest = np.abs(value).max(axis=1)
        top, shape = value[:, ::-1][:, :count], vector[:, :, ::-1][:, :, :count]
        left = size[:, None] * np.abs(shape[:, -1])
        whole = size <= 1e-13 * largest
        enough = np.where(np.arange(top.shape[1]) == 0, SURE, ROUGHLY)
        sure = (left <= enough * np.abs(top)) | (top <= 0) & (left <= NO_COMPRESSION * largest[:, None])
        if whole.all() or (len(basis) > count and (sure | whole[:, None]).all()) or len(basis) == MOST_STEPS:
            break
        side.append(size)
    real = (top > NO_COMPRESSION * largest[:, None]) & (top > 1e-12)
    factor = np.full((count, results), np.inf)
    factor[: top.shape[1]] = np.where(real, 1 / np.where(real, top, 1.0), np.inf).T
    shapes = []
    for mode in range(shape.shape[2]):
        state = basis[0][0].scaled(0.0)
        for j, (v, _) in enumerate(basis):
            state = state.plus(shape[:, j, mode], v)
        shapes.append(state)
    return factor, shapes


def _small_problem(diagonal: list[Floats], side: list[Floats]) -> tuple[Floats, Floats]:
    """Eigenvalues (results, steps), ascending, and eigenvectors of the tridiagonal matrices."""
    steps = len(diagonal)
    T = np.zeros((len(diagonal[0]), steps, steps))
    i = np.arange(steps)
    T[:, i, i] = np.array(diagonal).T
    if side:
        T[:, i[1:], i[:-1]] = T[:, i[:-1], i[1:]] = np.array(side).T
    value, vector = np.linalg.eigh(T)
    return value, vector
