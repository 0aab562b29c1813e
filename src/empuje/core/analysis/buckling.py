"""Elastic critical loads: how much a result's axial forces must grow until the frame loses its stiffness.

    (K + alpha G) x = 0        mu = 1 / alpha the largest eigenvalues of -K^-1 G

G stands for the axial forces of the linear answer. The inner shapes of every member (beam_column.py) are among the
unknowns, so that members may buckle between their nodes and none needs splitting. The eigenvalues come by Lanczos's
method in the energy of K, with full orthogonalisation, for several results at once (B. N. Parlett, The Symmetric
Eigenvalue Problem, ch. 13 and 15); those whose eigenvalues are sure leave.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .axial import Axial, AxialModel, Slack, State
from .tangent import Shapes

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
MOST_STEPS = 120
SURE, ROUGHLY = 1e-5, 1e-4
"""Residual of the lowest eigenvalue, and of those above it, as a share of them, at which they are taken; their error is
of the order of the square."""
FIRST_LOOK, LOOK_EVERY = 8, 4
"""Steps after which eigenvalues are looked at."""
AT_A_TIME = 15_000
"""Elements times results worked on at a time: every step keeps a state of each."""
NO_COMPRESSION = 1e-9
"""Eigenvalues below this share of the largest in size are rounding, as is any below 1e-12: nothing is critical."""


def critical_loads(frame: AxialModel, N: Axial, slack: Slack | None, count: int = 1) -> tuple[Floats, list[State]]:
    """The lowest critical load factors (count, results), infinite where there are none, and their shapes.

    N at the frame's points. Shapes have unit energy. Of a multiple eigenvalue (several shapes with the same factor)
    only one shape may be found.
    """
    shapes, results = Shapes(frame), N.results
    each = max(1, AT_A_TIME // max(frame.equations.size, 1))
    factors = np.full((count, results), np.inf)
    states = np.zeros((count, results, _Grown.size(frame, shapes)))
    found = count
    for begin in range(0, results, each):
        some = np.arange(begin, min(begin + each, results))
        grown = _Grown(frame, shapes, N.some(some), slack.some(some) if slack else None)
        found = min(found, _lowest(grown, some, factors, states))
    return factors, [_state(frame, shapes, _turned(states[i])) for i in range(found)]


class _Grown:
    """K^-1 and -G of several results, on vectors (results, size): motions of nodes in own axes, then inner shapes z
    (tangent.py), whose stiffness is 1."""

    def __init__(self, frame: AxialModel, shapes: Shapes, N: Axial, slack: Slack | None) -> None:
        self.frame, self.shapes, self.N = frame, shapes, N
        self.nodes = 6 * len(frame.equations.project.nodes)
        self.loose = _loose(slack, N.results)

    @staticmethod
    def size(frame: AxialModel, shapes: Shapes) -> int:
        return int(6 * len(frame.equations.project.nodes) + len(shapes.root) * 2 * shapes.root.shape[-1])

    def keep(self, some: Ints) -> None:
        """Goes on with some of the results only."""
        self.N = self.N.some(some)
        self.loose = self.loose[some] if self.loose is not None else None

    def driven(self, x: Floats) -> Floats:
        """-G x."""
        along = self.frame.thrust(self.N, self.frame.bending(_state(self.frame, self.shapes, x))).along
        z = self.shapes.root.transpose(0, 1, 3, 2) @ along.inner
        return -np.hstack([along.nodes.T, z.reshape(self.size(self.frame, self.shapes) - self.nodes, len(x)).T])

    def given(self, force: Floats) -> Floats:
        """K^-1 force, for the linear frame without its slack parts."""
        eq = self.frame.equations
        at_nodes = force[:, : self.nodes]
        u = (eq.follow @ eq.solve(eq.follow.T @ at_nodes.T)).T
        if self.loose is not None:
            u = u + (self.loose @ (self.loose.transpose(0, 2, 1) @ at_nodes[..., None]))[..., 0]
        return np.hstack([u, force[:, self.nodes :]])


def _loose(slack: Slack | None, results: int) -> Floats | None:
    """W (results, 6 nodes, most parts slack in one) such that W W' is the compliance that slack parts add."""
    if slack is None or not slack.loose.any():
        return None
    out = np.zeros((results, len(slack.motion), int(slack.loose.sum(axis=0).max())))
    for r in range(results):
        gone = slack.loose[:, r]
        if gone.any():
            root = np.linalg.cholesky(slack.C[np.ix_(gone, gone)])
            out[r, :, : gone.sum()] = np.linalg.solve(root, slack.motion[:, gone].T).T
    return out


def _lowest(grown: _Grown, results: Ints, factors: Floats, states: Floats) -> int:
    """Writes factors (count, results) and shapes (count, results, size); how many shapes each result has at least."""
    count, size = len(factors), states.shape[2]
    # Every result begins alike, so that it does not matter which are worked on together.
    force = np.repeat(np.random.default_rng(5).standard_normal((1, size)), len(results), axis=0)
    motion = grown.given(force)
    length = _root(force, motion)
    forces, motions = np.zeros((2, len(results), FIRST_LOOK + LOOK_EVERY, size))
    diagonal, side = np.zeros((2, len(results), MOST_STEPS))
    step, found = 0, count
    while len(results):
        scale = np.where(length > 0, 1 / np.where(length > 0, length, 1.0), 0.0)[:, None]
        if step == forces.shape[1]:
            more = np.zeros((len(results), 2 * LOOK_EVERY, size))
            forces, motions = np.concatenate([forces, more], axis=1), np.concatenate([motions, more], axis=1)
        motions[:, step], forces[:, step] = motion * scale, force * scale
        force = grown.driven(motions[:, step])
        diagonal[:, step] = (force * motions[:, step]).sum(axis=1)
        step += 1
        force -= diagonal[:, step - 1, None] * forces[:, step - 1]
        if step > 1:
            force -= side[:, step - 2, None] * forces[:, step - 2]
        # What rounding leaves of the earlier ones goes too.
        share = motions[:, :step] @ force[..., None]
        force -= (share.transpose(0, 2, 1) @ forces[:, :step])[:, 0]
        motion = grown.given(force)
        length = _root(force, motion)
        spent = bool((length <= 1e-12 * np.abs(diagonal).max(axis=1)).any())
        if not spent and step < MOST_STEPS and (step < FIRST_LOOK or step % LOOK_EVERY):
            side[:, step - 1] = length
            continue
        value, vector = _small_problem(diagonal[:, :step], side[:, : step - 1])
        largest = np.abs(value).max(axis=1)
        top, shape = value[:, ::-1][:, :count], vector[:, :, ::-1][:, :, :count]
        left = length[:, None] * np.abs(shape[:, -1])
        whole = length <= 1e-13 * largest
        enough = np.where(np.arange(top.shape[1]) == 0, SURE, ROUGHLY)
        sure = (left <= enough * np.abs(top)) | (top <= 0) & (left <= NO_COMPRESSION * largest[:, None])
        done = whole | (step > count) & sure.all(axis=1) | (step == MOST_STEPS)
        if done.any():  # these leave
            real = (top > NO_COMPRESSION * largest[:, None]) & (top > 1e-12)
            factor = np.where(real, 1 / np.where(real, top, 1.0), np.inf)
            modes = shape.transpose(0, 2, 1)[done] @ motions[done, :step]
            found = min(found, top.shape[1])
            factors[: top.shape[1], results[done]] = factor[done].T
            states[: top.shape[1], results[done]] = modes.transpose(1, 0, 2)
            going = np.flatnonzero(~done)
            grown.keep(going)
            results, force, motion, length = results[going], force[going], motion[going], length[going]
            forces, motions, diagonal, side = forces[going], motions[going], diagonal[going], side[going]
        side[:, step - 1] = length
    return found


def _root(force: Floats, motion: Floats) -> Floats:
    return np.asarray(np.sqrt(np.maximum((force * motion).sum(axis=1), 0.0)))


def _small_problem(diagonal: Floats, side: Floats) -> tuple[Floats, Floats]:
    """Eigenvalues (results, steps), ascending, and eigenvectors of the tridiagonal matrices."""
    steps = diagonal.shape[1]
    T = np.zeros((len(diagonal), steps, steps))
    i = np.arange(steps)
    T[:, i, i] = diagonal
    T[:, i[1:], i[:-1]] = T[:, i[:-1], i[1:]] = side
    value, vector = np.linalg.eigh(T)
    return value, vector


def _turned(x: Floats) -> Floats:
    """Vectors (results, size) with their largest number made positive."""
    largest = np.abs(x).argmax(axis=1) if x.size else np.zeros(len(x), np.intp)
    return np.asarray(x * np.where(x[np.arange(len(x)), largest] < 0, -1.0, 1.0)[:, None])


def _state(frame: AxialModel, shapes: Shapes, x: Floats) -> State:
    """Motions of nodes and inner motions from vectors (results, size)."""
    nodes, kinds = 6 * len(frame.equations.project.nodes), shapes.root.shape[-1]
    z = x[:, nodes:].T.reshape(len(shapes.root), 2, kinds, len(x))
    return State(np.ascontiguousarray(x[:, :nodes].T), np.asarray(shapes.root @ z))
