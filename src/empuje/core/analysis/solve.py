"""The solution of all cases at once, and of every result that cannot be summed.

    text -> Project -> Resolved -> equations -> columns -> Solution

One factorisation serves every case and every one-way part.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.findings import Finding
from ..model.loads import PlainLoads, gather, in_columns
from ..model.project import Project
from ..model.results import Result, Results
from ..model.telling import Tell, quiet
from ..model.words import How
from ..resolved import Resolved
from .assembly import node_forces, settlements
from .at_starts import at_starts, fixed_ends
from .critical import UnilateralParts, beyond_critical, lowest_factors
from .cuts import with_cuts
from .equations import Equations, Unstable, build_equations
from .mechanism import loaded_hinges
from .second_order import Added, second_order
from .solution import Columns, Solution
from .terms import FreeStrains, build_terms, fixed_end_forces, free_strains, strained_ends
from .unilateral import (
    cancelling_terms,
    failures,
    slacks,
    stiffness_of,
    unilateral_forces,
    unilateral_parts,
    unit_slacks,
)

__all__ = ["Solution", "Unstable", "solve"]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Prepared:
    """The equations, the first-order solution of every case and result, and the one-way parts if there are any."""

    equations: Equations
    solution: Solution
    parts: UnilateralParts | None


def solve(model: Resolved, wanted: Results | None = None) -> Solution:
    """Displacements, reactions and member end forces of every case; slacks of one-way parts under every result; what
    axial forces add to results of second order. Of these, only those wanted, where that is said, are in the solution.

    Raises Unstable where the frame is a mechanism even with all one-way parts acting.
    """
    return solve_prepared(first_order(model), wanted)


def solve_prepared(prepared: Prepared, wanted: Results | None = None, tell: Tell = quiet) -> Solution:
    """As `solve`, from a frame's equations and first-order solution."""
    asked = second_order_results(prepared.solution)
    if wanted is not None:
        chosen = set(wanted)
        prepared = replace(prepared, solution=without(prepared.solution, [r for r in asked if r not in chosen]))
        asked = [r for r in asked if r in chosen]
    return with_second_order(cut(prepared, asked), asked, tell)


def second_order_results(first: Solution) -> list[Result]:
    """The results to be analysed by second order that have a first-order answer."""
    project = first.model.project
    return [
        r for r in first.results
        if r.combination is not None and project.is_second_order(r.combination) and r not in first.failed
    ]  # fmt: skip


def without(solution: Solution, results: Results) -> Solution:
    """The solution less some of its results."""
    gone = {r.index for r in results}
    kept = [i for i, r in enumerate(solution.results) if r.index not in gone]
    return replace(
        solution, results=tuple(solution.results[i] for i in kept), mix=solution.mix[:, kept],
        how_each=tuple(solution.how_each[i] for i in kept),
    )  # fmt: skip


def cut(prepared: Prepared, results: Results) -> Prepared:
    """The frame with the further nodes that second order of these results asks for."""
    first = prepared.solution
    project = with_cuts(first, results) if results else first.project
    if project is first.project:
        return prepared
    again = first_order(first.model, project)
    there = {r.index for r in first.results}
    fewer = without(again.solution, [r for r in again.solution.results if r.index not in there])
    return replace(again, solution=fewer)


def first_order(model: Resolved, analysed: Project | None = None) -> Prepared:
    """The solution by first order, whatever the project asks for; `analysed`: the project with further nodes after
    its own. Raises Unstable."""
    project = analysed or model.analysed
    equations = build_equations(project)
    factors = model.weights(model.results)
    one_way = unilateral_parts(project)
    first = len(factors)
    columns = first + len(one_way)
    every = respond(equations, gather([model.loads, reduced_loads(model), unit_slacks(one_way, first)]), columns)
    every = replace(with_reductions(every, model), loads=model.loads)
    results = model.results
    solved = Solution(
        **{f.name: getattr(every, f.name) for f in fields(Columns)}, model=model, results=results, mix=factors,
        how_each=(How.SUMMED,) * len(results), equations=equations,
    )  # fmt: skip
    if not len(one_way):
        return Prepared(equations, solved, None)
    force = unilateral_forces(solved, one_way, columns)
    motion = equations.own_axes(solved.displacement[:, :, first:]).reshape(-1, len(one_way))
    terms = cancelling_terms(equations, solved, one_way, first)
    parts = UnilateralParts(force, terms, stiffness_of(one_way, project, solved.mesh), motion)
    slack, loose = slacks(force[:, :first] @ factors, terms @ np.abs(factors), parts.C, parts.weight)
    mix = np.vstack([factors, slack])
    as_one = replace(solved, mix=mix, how_each=(How.AS_ONE,) * len(results), failed=failures(one_way, results, loose))
    return Prepared(equations, as_one, parts)


def reduced_loads(model: Resolved) -> PlainLoads:
    """The live loads that are reduced, in columns of their own."""
    return in_columns(model.reduction.loads, np.arange(model.load_columns)[model.reductions])


def with_reductions(solved: Columns, model: Resolved) -> Columns:
    """The columns of reduced live loads as what is taken off every member's own forces, and nothing else."""
    if not model.reduction.cases:
        return solved
    columns = np.arange(model.load_columns)[model.reductions]
    off = model.reduction.factor[solved.mesh.member] - 1
    force, slip = solved.start_force.copy(), solved.slip.copy()
    displacement, reaction = solved.displacement.copy(), solved.reaction.copy()
    force[:, :, columns] *= off[:, None]
    for table in (slip, displacement, reaction):
        table[:, :, columns] = 0.0
    value = solved.terms.value.tocoo()
    data = value.data.copy()
    there = np.flatnonzero((value.col >= columns[0]) & (value.col <= columns[-1]))
    data[there] *= off[solved.terms.element[value.row[there]], value.col[there] - columns[0]]
    terms = replace(solved.terms, value=sparse.csr_matrix((data, (value.row, value.col)), shape=value.shape))
    return replace(
        solved, start_force=force, slip=slip, displacement=displacement, reaction=reaction, terms=terms,
        reductions=model.reductions,
    )  # fmt: skip


def with_second_order(prepared: Prepared, results: Results, tell: Tell = quiet) -> Solution:
    """The solution with these results taken by second-order theory; those beyond their critical load fail."""
    solved, parts = prepared.solution, prepared.parts
    if not results:
        return solved
    at = np.array([r.second_order_at for r in results])
    mix = solved.weights(results)
    added = second_order(prepared.equations, solved, mix, at, parts, tell)
    places = solved.places(results)
    if parts is not None:
        with_slack = solved.mix.copy()
        with_slack[-len(parts.force) :, places] = added.slack
        solved = replace(solved, mix=with_slack)
    failed = _lost(prepared, [r for r, fine in zip(results, added.settled, strict=True) if not fine])
    how = list(solved.how_each)
    for i in places:
        how[i] = How.SECOND_ORDER
    return replace(with_columns(solved, added, results, at), how_each=tuple(how), failed=solved.failed | failed)


def _lost(prepared: Prepared, results: Results) -> dict[Result, Finding]:
    """What to say of results without a second-order answer."""
    first = prepared.solution
    factors = lowest_factors(prepared.equations, first, first.weights(results), prepared.parts)[0]
    return {
        r: beyond_critical(r.name, float(factor), r.second_order_at, r.place)
        for r, factor in zip(results, factors, strict=True)
    }


def with_columns(solved: Solution, added: Added, results: Results, at: Floats) -> Solution:
    """The solution with a further column for each of these results: what axial forces add to it, analysed at so many
    times its loads."""
    columns, more = len(solved.mix), len(results)
    mix = np.vstack([solved.mix, np.zeros((more, len(solved.results)))])
    mix[columns + np.arange(more), solved.places(results)] = 1.0

    def wider(table: sparse.csr_matrix) -> sparse.csr_matrix:
        return sparse.csr_matrix((table.data, table.indices, table.indptr), shape=(table.shape[0], columns + more))

    strains = FreeStrains(*(wider(getattr(solved.strains, f.name)) for f in fields(FreeStrains)))
    return replace(
        solved, terms=replace(solved.terms, value=wider(solved.terms.value)), strains=strains,
        displacement=np.concatenate([solved.displacement, added.displacement], axis=2),
        start_force=np.concatenate([solved.start_force, added.start_force], axis=2),
        slip=np.concatenate([solved.slip, added.slip], axis=2),
        reaction=np.concatenate([solved.reaction, added.reaction[solved.support_node]], axis=2),
        at=at, mix=mix, second_order_from=columns, slope=added.slope,
    )  # fmt: skip


def respond(equations: Equations, loads: PlainLoads, columns: int) -> Columns:
    """The frame's answer to every column of loads, with everything acting. Raises Unstable for a mechanism."""
    project, mesh, freedom = equations.project, equations.mesh, equations.freedom
    nodes, fixed = len(project.nodes), freedom.fixed
    # The library factorises outside Python: meanwhile the loads are made ready.
    with ThreadPoolExecutor(1) as aside:
        factorised = aside.submit(lambda: equations.factorised)
        terms = build_terms(mesh, loads, columns)
        strains = free_strains(mesh, loads, project, columns)
        held = fixed_ends(equations.joints, fixed_end_forces(mesh, terms) + strained_ends(mesh, strains))
        right = (node_forces(loads, equations.axes, columns) - equations.gather @ held.force).toarray()
        if len(loads.plate_strains) and equations.shells is not None:
            right += equations.shells.forces_of_strains(project, loads.plate_strains, columns)
        if equations.hinges is not None:
            right = equations.hinges.T @ right
        turned_loose = loaded_hinges(project, mesh, freedom, right)
        if turned_loose:
            raise Unstable(turned_loose)
        ground = settlements(loads, nodes, columns)
        spring = freedom.spring.reshape(-1, 1)
        driven = right
        if ground.nnz:
            driven = right + (ground.multiply(spring) - equations.stiff[:, fixed] @ ground[fixed]).toarray()
        driven = equations.follow.T @ driven
        solve, softest = factorised.result()
    u = equations.follow @ solve(driven)
    u[fixed] = ground[fixed].toarray()
    if equations.hinges is not None and ground.nnz:
        u = np.asarray(equations.hinges @ u)
    start_force, slip = at_starts(equations, u, held)

    stands = freedom.held | (freedom.spring > 0)
    support_node = np.flatnonzero(stands.any(axis=1))
    reaction = reactions_of(equations, u, right, ground, support_node)
    centre = project.xyz[support_node].mean(axis=0)
    # A turned support holds whatever has a part along its own axes.
    along = np.abs(equations.axes[support_node]) > 1e-9
    shifts, turns = (np.einsum("ni,nij->nj", s, along) for s in (stands[support_node, :3], stands[support_node, 3:]))
    return Columns(
        project, loads, mesh, terms, strains, equations.global_axes(u.reshape(nodes, 6, columns)), freedom.undefined,
        start_force, equations.joints.elements, slip, support_node, np.hstack([shifts, turns]) > 0, reaction, centre,
        softest=softest,
    )  # fmt: skip


def reactions_of(
    equations: Equations, u: Floats, right: Floats, ground: sparse.csr_matrix | None, support_node: NDArray[np.intp]
) -> Floats:
    """Reactions (supports, 6, columns), global, from all motions u, the forces put on nodes and the motions of the
    ground (6 nodes, columns each), in the nodes' own axes."""
    freedom = equations.freedom
    at = (6 * support_node[:, None] + np.arange(6)).ravel()
    moved = -u[at] if ground is None else ground[at].toarray() - u[at]
    sprung = freedom.spring.reshape(-1, 1)[at] * moved
    held = equations.stiff[at] @ u - right[at]
    reaction = np.where(freedom.held.reshape(-1, 1)[at], held, sprung)
    return equations.global_axes(reaction.reshape(-1, 6, u.shape[1]), support_node)
