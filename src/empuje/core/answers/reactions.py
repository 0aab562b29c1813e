"""Reactions by node, and the balance of what was applied with what reached the supports."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..analysis.assembly import IN_PLANE
from ..analysis.solve import Solution
from ..model.findings import Finding
from .table import FORCE_KINDS, Column, Table, how_column, six

Floats = NDArray[np.float64]


def reactions(solution: Solution, names: list[str], nodes: NDArray[np.intp] | None = None) -> Table:
    """Reactions on the structure in global axes, case by case: node, case, Fx..Mz.

    `nodes` picks supported nodes; out-of-plane values are NaN.
    """
    supported = solution.support_node
    chosen = np.arange(len(supported)) if nodes is None else np.flatnonzero(np.isin(supported, nodes))
    value = solution.reaction[chosen] @ solution.weights(names)
    value = blank_out_of_plane(solution, value.transpose(2, 0, 1))
    labels = [solution.project.nodes[i].name for i in supported[chosen]]
    return Table(
        "reactions",
        (
            Column("node", "text", labels * len(names)),
            Column("case", "text", [n for n in names for _ in labels]),
            *six(FORCE_KINDS, value.reshape(-1, 6)),
            how_column(solution.how(names), np.repeat(np.arange(len(names)), len(labels))),
        ),
    )


def resultants(solution: Solution, names: list[str]) -> tuple[Floats, Floats]:
    """Applied loads and reactions (6, names): forces [N] and moments about the centre of the supports [N m]."""
    weights = solution.weights(names)
    reaction = solution.reaction @ weights
    arm = solution.project.xyz[solution.support_node] - solution.centre
    turning = np.cross(arm[:, None, :], reaction[:, :3].transpose(0, 2, 1)).transpose(0, 2, 1)
    total = reaction.sum(axis=0)
    total[3:] += turning.sum(axis=0)
    return solution.applied @ weights, total


def balance(solution: Solution, names: list[str]) -> Table:
    """Applied, reactions and their difference for each case; `relative` is the difference over the largest load.

    Moments are taken about the centre of the supports. The applied sums come from the loads themselves, the
    reactions from the solved equations, so the difference checks everything between.
    """
    applied, reaction = resultants(solution, names)
    difference = applied + reaction
    share = closing_error(solution, names)
    value = np.stack([applied, reaction, difference]).transpose(2, 0, 1)
    return Table(
        "balance",
        (
            Column("case", "text", [n for n in names for _ in range(3)]),
            Column("sum", "text", ["applied", "reactions", "difference"] * len(names)),
            *six(FORCE_KINDS, blank_out_of_plane(solution, value).reshape(-1, 6)),
            Column("relative", "number", np.column_stack([np.full_like(share, np.nan)] * 2 + [share]).ravel()),
            how_column(solution.how(names), np.repeat(np.arange(len(names)), 3)),
        ),
    )


def closing_error(solution: Solution, names: list[str]) -> Floats:
    """The largest unbalanced force or moment of each case as a share of its loads (names,).

    Moments are weighed by the largest arm of any node about the centre of the supports.
    """
    weights = solution.weights(names)
    applied, reaction = resultants(solution, names)
    arm = max(float(np.abs(solution.project.xyz - solution.centre).max(initial=0)), 1e-3)
    scale = np.array([1, 1, 1, 1 / arm, 1 / arm, 1 / arm])[:, None]
    unbalanced = np.abs((applied + reaction) * scale).max(axis=0)
    # Loads that cancel out still set the scale, and so do slacks: take every support's own reaction to each of them.
    each = np.abs(solution.reaction[:, :3]).sum(axis=(0, 1)) @ np.abs(weights)
    # A frame that settles or warms without resistance has nothing but rounding of stiffness times displacement.
    moved = np.abs(solution.displacement[:, :3] @ weights).max(axis=(0, 1), initial=0)
    resisted = 1e-6 * moved * float((solution.mesh.EA / solution.mesh.length).max(initial=0))
    # Cases that cancel each other still set the scale.
    put_on = np.abs(solution.applied * scale).max(axis=0) @ np.abs(weights)
    size = np.max([put_on, each, resisted], axis=0)
    return np.where(size > 0, unbalanced / np.where(size > 0, size, 1.0), 0.0)


CLOSE_ENOUGH = 1e-9
"""Loads and reactions that differ by more than this share of the largest are not in balance."""


TIGHT = 300.0
"""N L^2/EI of a member in tension from which its shapes miss its moments by a per cent, and by more beyond."""


def result_findings(solution: Solution) -> list[Finding]:
    """What there is to say about results: sums that do not balance, and members beyond the reach of second order."""
    return [*_out_of_balance(solution), *_tight(solution)]


def _tight(solution: Solution) -> list[Finding]:
    """A warning where a member that bends is pulled so hard that its second order is not exact."""
    names = [n for n in solution.critical if n not in solution.failed]
    if not names:
        return []
    mesh, project = solution.mesh, solution.project
    N = -solution.start_force[:, 0] @ solution.weights(names)
    bends = ~(np.array([m.bar for m in project.members], bool)[mesh.member] | mesh.rigid)
    stretch = bends[:, None] * N * (mesh.length**2 / np.minimum(mesh.EIy, mesh.EIz))[:, None]
    element, result = np.unravel_index(int(stretch.argmax()), stretch.shape)
    if not stretch[element, result] > TIGHT:
        return []
    member = project.members[mesh.member[element]]
    more = len(np.unique(mesh.member[(stretch > TIGHT).any(axis=1)])) - 1
    return [
        Finding(
            "warning", "pulled-tight", f"{member.name}{f' and {more} more' if more else ''} is pulled so hard under "
            f"{names[result]} (N L^2/EI = {stretch[element, result]:.0f}) that second order is not exact there",
            "put a node on it, or make it a bar", member.place,
        )
    ]  # fmt: skip


def _out_of_balance(solution: Solution) -> list[Finding]:
    """A warning for each case whose reactions do not balance its loads."""
    project = solution.project
    standing = [c for c in project.cases if c.name not in solution.failed]
    error = closing_error(solution, [c.name for c in standing])
    return [
        Finding(
            "warning",
            "out-of-balance",
            f"the reactions of case {case.name} miss its loads by {error[i]:.0e} of the largest",
            "do not rely on its results; look for very stiff beside very soft members",
            case.place,
        )
        for i, case in enumerate(standing)
        if not error[i] <= CLOSE_ENOUGH
    ]


def blank_out_of_plane(solution: Solution, value: Floats) -> Floats:
    """(..., 6) forces with NaN for those a plane model does not have."""
    if not solution.project.plane:
        return value
    in_plane = IN_PLANE
    return np.where(in_plane, value, np.nan)
