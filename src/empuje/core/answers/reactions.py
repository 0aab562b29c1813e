"""Reactions by node, and the balance of what was applied with what reached the supports."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..analysis.applied import applied
from ..analysis.assembly import IN_PLANE
from ..analysis.solution import Solution
from ..model.findings import Finding, in_short, with_accepted
from ..model.results import Results
from .line_reactions import by_lines
from .table import FORCE_KINDS, Column, Table, case_column, how_column, six

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def reactions(solution: Solution, results: Results, nodes: NDArray[np.intp] | None = None) -> Table:
    """Reactions on the structure in global axes, case by case: node, case, Fx..Mz.

    `nodes` picks supported nodes; out-of-plane values are NaN.
    """
    solution = by_lines(solution, results)
    supported = solution.support_node
    chosen = np.arange(len(supported)) if nodes is None else np.flatnonzero(np.isin(supported, nodes))
    value = solution.reaction[chosen] @ solution.weights(results)
    value = blank_out_of_plane(solution, value.transpose(2, 0, 1))
    labels = [solution.project.nodes[i].name for i in supported[chosen]]
    case = np.repeat(np.arange(len(results)), len(labels))
    return Table(
        "reactions",
        (
            Column("node", "text", labels * len(results)),
            case_column(results, case),
            *six(FORCE_KINDS, value.reshape(-1, 6)),
            how_column(results, solution.how(results), case),
        ),
    )


def resultants(solution: Solution, results: Results, nodes: Ints | None = None) -> tuple[Floats, Floats]:
    """Applied loads and reactions, all or those of some nodes (6, results): forces [N] and moments about the centre of
    the supports [N m]."""
    weights = solution.weights(results)
    supports = np.arange(len(solution.support_node))
    chosen = supports if nodes is None else np.flatnonzero(np.isin(solution.support_node, nodes))
    reaction = solution.reaction[chosen] @ weights
    arm = solution.project.xyz[solution.support_node[chosen]] - solution.centre
    turning = np.cross(arm[:, None, :], reaction[:, :3].transpose(0, 2, 1)).transpose(0, 2, 1)
    total = reaction.sum(axis=0)
    total[3:] += turning.sum(axis=0)
    return applied(solution) @ weights, total


def balance(solution: Solution, results: Results) -> Table:
    """Applied, reactions and their difference for each case; `relative` is the difference over the largest load.

    Moments are taken about the centre of the supports. The applied sums come from the loads themselves, the
    reactions from the solved equations, so the difference checks everything between.
    """
    put_on, reaction = resultants(solution, results)
    difference = put_on + reaction
    share = closing_error(solution, results)
    value = np.stack([put_on, reaction, difference]).transpose(2, 0, 1)
    case = np.repeat(np.arange(len(results)), 3)
    return Table(
        "balance",
        (
            case_column(results, case),
            Column("sum", "text", ["applied", "reactions", "difference"] * len(results)),
            *six(FORCE_KINDS, blank_out_of_plane(solution, value).reshape(-1, 6)),
            Column("relative", "number", np.column_stack([np.full_like(share, np.nan)] * 2 + [share]).ravel()),
            how_column(results, solution.how(results), case),
        ),
    )


def closing_error(solution: Solution, results: Results) -> Floats:
    """The largest unbalanced force or moment of each case as a share of its loads (results,).

    Moments are weighed by the largest arm of any node about the centre of the supports.
    """
    weights = solution.weights(results)
    loaded, reaction = resultants(solution, results)
    arm = max(float(np.abs(solution.project.xyz - solution.centre).max(initial=0)), 1e-3)
    scale = np.array([1, 1, 1, 1 / arm, 1 / arm, 1 / arm])[:, None]
    unbalanced = np.abs((loaded + reaction) * scale).max(axis=0)
    # Loads that cancel out still set the scale, and so do slacks: take every support's own reaction to each of them.
    each = np.abs(solution.reaction[:, :3]).sum(axis=(0, 1)) @ np.abs(weights)
    # A frame that settles or warms without resistance has nothing but rounding of stiffness times displacement.
    moved = np.abs(solution.displacement[:, :3] @ weights).max(axis=(0, 1), initial=0)
    resisted = 1e-6 * moved * float((solution.mesh.EA / solution.mesh.length).max(initial=0))
    # Cases that cancel each other still set the scale.
    put_on = np.abs(applied(solution) * scale).max(axis=0) @ np.abs(weights)
    size = np.max([put_on, each, resisted], axis=0)
    share = np.where(size == 0, 0.0, unbalanced / np.where(size == 0, 1.0, size))
    return np.where(np.isnan(share), np.inf, share)  # no number is no balance


CLOSE_ENOUGH = 1e-8
"""Loads and reactions that differ by more than this share of the largest are not in balance."""


TIGHT = 300.0
"""N L^2/EI of a member in tension from which its shapes miss its moments by a per cent, and by more beyond."""


def result_findings(solution: Solution, results: Results | None = None) -> list[Finding]:
    """What there is to say about these results, or all: sums that do not balance, displacements too large to be
    believed, and members beyond the reach of second order."""
    asked = [r for r in (solution.results if results is None else results) if r not in solution.failed and not r.moving]
    found = [*_out_of_balance(solution, asked), *_too_far(solution, asked), *_digits(solution), *_tight(solution)]
    return in_short(with_accepted(found, solution.project.accepted))


DIGITS = 9.5
"""So many of 16 digits lost leave too few."""


def _digits(solution: Solution) -> list[Finding]:
    """A warning where parts are so stiff or so soft beside others that digits are lost, with how many."""
    project, mesh = solution.project, solution.mesh
    out: list[Finding] = []
    if not len(mesh.length):
        return out
    lost = round(-float(np.log10(max(solution.softest, 1e-16))), 1)
    if lost >= DIGITS:
        short = int(mesh.length.argmin())
        member = project.members[mesh.member[short]]
        message = f"about {lost:.0f} of 16 digits are lost between the frame's stiffest and softest parts"
        message += f"; the shortest piece, of {member.name}, is {mesh.length[short]:.3g} m long"
        remedy = "join nodes that nearly coincide, free ends that are next to free, look for sections in a wrong unit"
        out.append(Finding("warning", "digits-lost", message, remedy, member.place))
    L = mesh.length
    across, turning = ([factor * EI for EI in pair] for factor, pair in (
        (12 / L**3, (mesh.EIz, mesh.EIy)), (4 / L, (mesh.EIy, mesh.EIz)),
    ))  # fmt: skip
    stiff = np.column_stack([mesh.EA / L, *across, mesh.GJ / L, *turning])
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where((mesh.joint > 0) & np.isfinite(mesh.joint), mesh.joint / np.tile(stiff, 2), 1.0)
    element, freedom = np.unravel_index(int(share.argmin()) if share.size else 0, share.shape)
    if share.size and share[element, freedom] < 10.0**-DIGITS:
        member = project.members[mesh.member[element]]
        lost = int(-np.log10(share[element, freedom]))
        message = (
            f"an end spring of {member.name} is so soft beside it that about {lost} of 16 digits of its force are lost"
        )
        out.append(Finding("warning", "digits-lost", message, "make that end free", member.place))
    return out


FAR = 0.1
"""Displacements beyond this share of the frame's size are no small displacements any more."""


def _too_far(solution: Solution, results: Results) -> list[Finding]:
    """A warning where nodes move so far that analysis on the undeformed frame cannot be believed."""
    if not results:
        return []
    project = solution.model.analysed
    size = max(float(np.ptp(project.xyz, axis=0).max()), 1e-3)
    moved = np.linalg.norm(solution.displacement[: len(project.nodes), :3] @ solution.weights(results), axis=1)
    node, result = map(int, np.unravel_index(int(np.nan_to_num(moved).argmax()), moved.shape))
    if not moved[node, result] > FAR * size:
        return []
    more = int((moved.max(axis=0) > FAR * size).sum()) - 1
    under = results[result].name + (f" and too far under {more} more" if more else "")
    return [
        Finding(
            "warning", "moves-too-far", f"{project.nodes[node].name} moves by {moved[node, result] / size:.0%} of the "
            f"frame's size under {under}: displacements are taken as small, and these are not",
            "look for loads in a wrong unit, sections that are too soft, springs, and bars that lie nearly flat",
            project.nodes[node].place, about=(project.nodes[node].name,),
        )
    ]  # fmt: skip


def _tight(solution: Solution) -> list[Finding]:
    """A warning where a member that bends is pulled so hard that its second order is not exact."""
    results = solution.bent
    if not results or not solution.project.members:
        return []
    mesh, project = solution.mesh, solution.project
    N = -solution.start_force[:, 0] @ solution.weights(results)
    bends = ~(np.array([m.bar for m in project.members], bool)[mesh.member] | mesh.rigid)
    stretch = bends[:, None] * N * (mesh.length**2 / np.minimum(mesh.EIy, mesh.EIz))[:, None]
    element, result = np.unravel_index(int(stretch.argmax()), stretch.shape)
    if not stretch[element, result] > TIGHT:
        return []
    member = project.members[mesh.member[element]]
    more = len(np.unique(mesh.member[(stretch > TIGHT).any(axis=1)])) - 1
    return [
        Finding(
            "warning", "too-much-tension", f"{member.name}{f' and {more} more' if more else ''} has so much tension "
            f"under {results[result].name} (N L^2/EI = {stretch[element, result]:.0f}) that second order is not exact",
            "put a node on it, or make it a bar", member.place, about=(member.name,),
        )
    ]  # fmt: skip


def _out_of_balance(solution: Solution, results: Results) -> list[Finding]:
    """A warning for each case and combination whose reactions do not balance its loads; of second order, the loads in
    their displaced places."""
    error = closing_error(solution, results)
    found = [
        Finding(
            "warning",
            "out-of-balance",
            f"the reactions of {result.name} miss its loads by {error[i]:.0e} of the largest",
            "do not rely on its results; look for very stiff beside very soft members",
            result.place,
            about=(result.name,),
        )
        for i, result in enumerate(results)
        if not error[i] <= CLOSE_ENOUGH
    ]
    return found


def blank_out_of_plane(solution: Solution, value: Floats) -> Floats:
    """(..., 6) forces with NaN for those a plane model does not have."""
    if not solution.project.plane:
        return value
    in_plane = IN_PLANE
    return np.where(in_plane, value, np.nan)
