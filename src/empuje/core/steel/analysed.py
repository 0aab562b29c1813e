"""Buckling lengths from the frame's own critical shapes, result by result.

    N_cr = alpha N,   L_cr = pi sqrt(E I/N_cr)

alpha is the factor of the lowest shape in which a member tilts or bends about the axis, N its greatest compression
(EN 1993-1-1, 5.2.2(7)c, 6.3.1.3; AISC 360, C-A-7.2). Of members that take part in none of the shapes that were looked
at, the last of these is a bound on the safe side. Sway is in these shapes: such lengths go with moments of first order
that are amplified for it, or with those of second order.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..analysis.critical import pulled
from ..analysis.solve import Prepared, cut
from ..answers.patterns import as_a_frame
from ..model.results import Results
from ..model.telling import Tell, quiet

Floats = NDArray[np.float64]
SHAPES = 8
TAKES_PART = 0.01
"""Members that slope by this share of the most that any does take part in a shape."""


def critical_forces(prepared: Prepared, results: Results, members: Sequence[int], tell: Tell = quiet) -> Floats:
    """The axial forces [N] of members (m,) at which the frame buckles with them about y and z, under every pattern of
    results (2, m, results); NaN where a member is not pressed, or nothing buckles. Raises TooMany."""
    prepared = cut(prepared, results)
    first, equations = prepared.solution, prepared.equations
    results, mix = as_a_frame(first, results)
    out = np.full((2, len(members), len(results)), np.nan)
    for k in range(len(results)):
        tell("buckling lengths", k, len(results))
        one = pulled(equations, first, mix[:, [k]], prepared.parts)
        factors, states = one.critical(one.N, SHAPES)
        alphas = factors[: len(states), 0]
        shapes = [state for state, alpha in zip(states, alphas, strict=True) if np.isfinite(alpha)]
        if not shapes:
            continue
        of_piece = equations.mesh.member[one.frame.element]
        pressed = np.zeros(len(first.project.members))
        np.maximum.at(pressed, of_piece, -one.N.members.min(axis=(1, 2)))
        alpha = np.full((2, len(pressed)), alphas[len(shapes) - 1])
        for state, own in zip(reversed(shapes), reversed(alphas[: len(shapes)].tolist()), strict=True):
            slopes = np.abs(one.frame.bending(state).slopes[..., 0]).max(axis=2)
            most = np.zeros((2, len(pressed)))
            for plane in (0, 1):
                np.maximum.at(most[plane], of_piece, slopes[:, plane])
            alpha[most >= TAKES_PART * most.max(initial=0.0)] = own
        with np.errstate(invalid="ignore"):
            N = np.where(pressed > 0, alpha * pressed, np.nan)
        out[:, :, k] = N[:, list(members)]
    return out
