"""What axial forces add to forces and displacements along members, as polynomials.

    E(x) = integral of N w' from the element's start        M = M1 + E        psi = w' + (V + N w') / GA

N, w' and so E are polynomials in each piece: N of second degree at most, w' as beam_column.py has it.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .at_starts import start_displacements
from .beam_column import SLOPES, in_powers
from .solution import Columns, Pieces

Floats = NDArray[np.float64]
N_POWERS = 3
POWERS = N_POWERS + SLOPES
"""Powers of E: those of N w', and one for the integral."""


def with_axial_forces(
    solution: Columns, pieces: Pieces, weights: Floats, bent: NDArray[np.intp], displacements: bool
) -> Pieces:
    """Linear pieces with bending by axial forces put on, in the results `bent`; without `displacements` forces only."""
    mesh, first = solution.mesh, solution.second_order_from
    element = pieces.element
    assert pieces.shape is not None and first is not None
    force = _wider(pieces.force)
    shape = _wider(pieces.shape) if displacements else None
    # Results side by side are a view of their own, which spares copies.
    some = slice(bent[0], bent[-1] + 1) if len(bent) == bent[-1] + 1 - bent[0] else bent
    slope = solution.slope[element] @ weights[first:, bent]
    times = solution.at @ (weights[first:, bent] != 0)
    added = weights[:, bent].copy()
    added[:first] = 0.0
    u0 = start_displacements(solution, element, added)
    f0 = solution.start_force[element, :, first:] @ weights[first:, bent]
    s = pieces.start - mesh.s0[element]
    whole = mesh.length[element]
    # A bar stays straight for its axial force: what it sags under its own cross loads is left alone.
    bars = np.array([m.bar for m in solution.project.members], bool)[mesh.member[element]]
    power = np.arange(1, POWERS)
    N = times * force[:, 0, :N_POWERS][:, :, some]
    room = np.empty((len(s), SLOPES, len(bent)))
    for plane, (v, r, sign, GA) in enumerate(((2, 4, 1.0, mesh.GAz), (1, 5, -1.0, mesh.GAy))):
        own = in_powers(slope[:, plane], s, whole)
        at_start = in_powers(slope[:, plane], np.zeros_like(s), whole)
        reached = u0[:, v] + sum(at_start[:, k] * s[:, None] ** (k + 1) / (k + 1) for k in range(SLOPES))
        w = np.zeros((len(s), SLOPES + 1, len(bent)))
        w[:, : pieces.shape.shape[2]] = pieces.shape[:, v][:, :, some]
        w[:, 0] += reached
        w[:, 1:] += own / np.arange(1, SLOPES + 1)[:, None]
        rise = w[:, 1:] * power[:SLOPES, None]
        if bars.any():
            rise[bars] = _chord(w[bars], pieces.length[bars], element[bars], whole[bars])
        pull = np.zeros((len(s), POWERS, len(bent)))
        for i in range(N_POWERS):
            if N[:, i].any():
                pull[:, i : i + SLOPES] += np.multiply(N[:, [i]], rise, out=room)
        grown = np.zeros_like(pull)
        np.divide(pull[:, :-1], power[:, None], out=grown[:, 1:])
        grown[:, 0] = _carried(grown, pieces.length, element)
        force[:, r][:, :, some] += grown
        if shape is None:
            continue
        shape[:, v, : SLOPES + 1][:, :, some] = w
        # The rotation follows the slope, less what the shear force across the deformed axis makes of it.
        give = np.where(mesh.rigid, 0.0, 1 / GA)[element][:, None]
        turn = give[:, None] * pull
        turn[:, :SLOPES] += own
        turn[:, 0] += give * f0[:, v]
        shape[:, r][:, :, some] -= sign * turn
    return replace(pieces, force=force, shape=shape)


def _wider(polynomials: Floats) -> Floats:
    out = np.zeros((*polynomials.shape[:2], POWERS, polynomials.shape[3]))
    out[:, :, : polynomials.shape[2]] = polynomials
    return out


def _chord(w: Floats, length: Floats, element: NDArray[np.intp], whole: Floats) -> Floats:
    """The slope of each element's chord, as polynomials that are constant (n, powers, results)."""
    gain = (length[:, None, None] ** np.arange(1, w.shape[1]) @ w[:, 1:])[:, 0]
    first = np.append(True, np.diff(element) != 0)[: len(element)]
    total = np.add.reduceat(gain, np.flatnonzero(first), axis=0)[np.cumsum(first) - 1]
    out = np.zeros((len(w), w.shape[1] - 1, w.shape[2]))
    out[:, 0] = total / whole[:, None]
    return out


def _carried(grown: Floats, length: Floats, element: NDArray[np.intp]) -> Floats:
    """What the integral has reached at each piece's start, over the pieces before it in the same element."""
    gain = (length[:, None, None] ** np.arange(grown.shape[1]) @ grown)[:, 0]
    total = np.cumsum(gain, axis=0) - gain
    first = np.append(True, np.diff(element) != 0)[: len(element)]
    return np.asarray(total - total[np.flatnonzero(first)][np.cumsum(first) - 1])
