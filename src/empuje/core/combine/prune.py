"""Which combinations an envelope can do without.

In a linear model every result is a linear function of a combination's factors, so a combination whose factors are a mix
of others' (weights >= 0 that add up to 1) never exceeds them all, nor does any convex function of results: an envelope
over all of them can do without it. "Subsets" are not mixes: leaving a load out can be what governs. Mixes are looked
for within one set of rules only, since any of these may be asked for by itself; what is no convex function of results
(a ratio, an interaction of steel members, a critical factor) is asked of all combinations.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..model.cases import Combination
from ..model.project import Project
from ..model.results import case_factors
from ..model.words import How

Floats = NDArray[np.float64]
CLOSE = 1e-9
"""A combination counts as a mix of others where these come so close to it, as a ratio of its factors."""
ROUNDS = 12
MOST, PATIENCE = 3000, 400_000
"""Above MOST combinations, or PATIENCE products of combinations to be tried and corners, nothing is dropped: a mix that
is kept costs time, and is never wrong."""
BLOCK = 500


def corners(factors: Floats, sure: int = 0) -> NDArray[np.bool_]:
    """Which rows of factors (combinations, cases) are no mix of the other rows: only these can govern. Of equal rows it
    is the first. The first `sure` rows are kept whatever they are, so that their marks need not be right.

    >>> corners(np.array([[1.2, 0.0], [1.2, 1.6], [1.2, 0.8], [0.9, 0.0]])).tolist()
    [True, True, False, True]
    """
    unique, first = np.unique(np.round(factors, 12), axis=0, return_index=True)
    points = unique / np.maximum(np.abs(unique).max(axis=0, initial=0), 1e-300)
    if len(points) > MOST:
        corner = np.ones(len(points), bool)
    else:
        corner = _surely(points)
        undecided = np.flatnonzero(~corner & (first >= sure))
        if len(undecided) * corner.sum() > PATIENCE:
            corner[undecided] = True
    # The corners of the points not yet decided: each is a mix of corners, or shows a direction with a new one in it.
    for i in np.flatnonzero(~corner & (first >= sure)):
        while not corner[i]:
            way = _beyond(points[corner], points[i])
            if way is None:
                break
            reach = points @ way
            # Of several that reach as far, the one that also reaches far in another direction is a corner.
            furthest = np.flatnonzero(reach > reach.max() - CLOSE)
            corner[furthest[np.lexsort(points[furthest].T)[-1]]] = True
    out = np.zeros(len(factors), bool)
    out[first[corner]] = True
    return out


def _surely(points: Floats) -> NDArray[np.bool_]:
    """Points that alone reach furthest in some direction: for each one those out of the middle towards it, bent at
    random."""
    n, cases = points.shape
    out = np.zeros(n, bool)
    if n <= 1:
        out[:] = True
        return out
    rng = np.random.default_rng(0)
    outward = points - points.mean(axis=0)
    for turn in range(ROUNDS):
        left = np.flatnonzero(~out)
        if not len(left):
            break
        ways = outward[left]
        if turn:
            # What is absent is pushed away from, what is there is pulled at, each case more or less.
            pull = np.where(points[left] == 0, -np.abs(points).max(axis=0) / 2, ways)
            ways = (pull if turn % 2 else ways) * np.exp(rng.standard_normal((len(left), cases)))
        for i in range(0, len(ways), BLOCK):
            reach = ways[i : i + BLOCK] @ points.T
            row, best = np.arange(len(reach)), reach.argmax(axis=1)
            top = reach[row, best]
            reach[row, best] = -np.inf
            alone = top - reach.max(axis=1) > CLOSE * np.maximum(np.abs(top), 1.0)
            out[best[alone]] = True
    return out


def _beyond(corners: Floats, point: Floats) -> Floats | None:
    """A direction in which the point lies beyond all corners; None where it is a mix of them."""
    from scipy.optimize import nnls

    if not len(corners):
        return point + 1e-3 if point.any() else np.ones_like(point)
    system = np.vstack([corners.T, np.ones(len(corners))])
    target = np.append(point, 1.0)
    weights, left = nnls(system, target, maxiter=30 * len(corners) + 100)
    return None if left < CLOSE else (target - system @ weights)[:-1]


def with_mixes(project: Project, combinations: Sequence[Combination]) -> list[Combination]:
    """The combinations; those of codes that are mixes of others of a rule set, where results are sums, say of which."""
    out = list(combinations)
    for rules in dict.fromkeys(name for c in combinations for name in c.rule_sets):
        some = [i for i, c in enumerate(combinations) if rules in c.rule_sets]
        if any(project.how(combinations[i]) != How.SUMMED for i in some):
            continue
        # A combination in patterns stays; with all of its free cases, and with none, it stands for others.
        free = [combinations[i] for i in some if combinations[i].free]
        bare = [c.less(c.free) for c in free]
        whole = [i for i in some if not combinations[i].free]
        points = _points(project, [*free, *bare, *(combinations[i] for i in whole)])
        corner = corners(points.T, 2 * len(free))[2 * len(free) :]
        for i, stays in zip(whole, corner, strict=True):
            if not stays:
                out[i] = replace(out[i], mix_in=(*out[i].mix_in, rules))
    return out


def _points(project: Project, combinations: Sequence[Combination]) -> Floats:
    """What results are linear in: factors of cases; of those that accompany apart, where live loads are reduced, since
    reduced they may stand beside no psi."""
    factors = case_factors(project, combinations)
    if project.reduction is None:
        return factors
    beside = np.array([[n in c.accompanying for c in combinations] for n in project.case_names], float)
    return np.vstack([factors, factors[: len(beside)] * beside])
