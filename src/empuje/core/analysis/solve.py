"""The solution of all cases at once, and of every result that cannot be summed.

    text -> Project -> plain loads -> equations -> columns -> Solution

One factorisation serves every case and every one-way part.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, fields, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.findings import Finding
from ..model.loads import PlainLoads, gather, in_columns
from ..model.project import Project
from .assembly import applied_totals, node_forces, settlements
from .at_starts import at_starts, held_ends
from .cuts import with_cuts
from .displaced import displaced_moments
from .equations import Equations, Unstable, build_equations
from .mechanism import loaded_hinges
from .mesh import Mesh
from .one_way import cancelling_terms, failures, one_way_forces, one_way_parts, slacks, stiffness_of, unit_slacks
from .second_order import Added, Parts, beyond_critical, second_order
from .terms import FreeStrains, Terms, build_terms, fixed_end_forces, free_strains, strained_ends

__all__ = ["Solution", "Unstable", "solve"]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Solution:
    """Solved columns, and how every case and combination is made of them.

    A column is a case, and after those a unit slack of every one-way part. `mix` (columns, results) says how much of
    each column a result has: without one-way parts the factors of its cases; with them each result also has its own
    slacks, found under its own factored loads: as one.

    Results of second order have a column each at the end (`bent_from` on): what axial forces on the deformed shape add.
    `slope` (elements, 2, orders, results of second order) are the Legendre coefficients of the slopes in these.
    `critical` holds the critical load factors of these results. `softest`: the stiffness of the frame's softest motion
    as a share of that of its parts, about what rounding is magnified by.

    displacement (nodes, 6, columns) [m, rad]; undefined (nodes, 6): no value there
    start_force (elements, 6, columns) at the elements' starts in member axes; statics and the terms give the rest
    slip (k, 6, columns): how far the starts of the k elements `slipping`, in order, stay behind their nodes
    reaction (supports, 6, columns) [N, N m], global; held (supports, 6)
    support_node (supports,); centre (3,) [m] of the supports
    at (results of second order,): how many times its loads each was analysed at, the results then divided by it
    """

    project: Project
    loads: PlainLoads
    mesh: Mesh
    terms: Terms
    strains: FreeStrains
    displacement: Floats
    undefined: NDArray[np.bool_]
    start_force: Floats
    slipping: NDArray[np.intp]
    slip: Floats
    support_node: NDArray[np.intp]
    held: NDArray[np.bool_]
    reaction: Floats
    centre: Floats
    results: tuple[str, ...] = ()
    mix: Floats = field(default_factory=lambda: np.zeros((0, 0)))
    how_each: tuple[str, ...] = ()
    failed: dict[str, Finding] = field(default_factory=dict)
    bent_from: int | None = None
    slope: Floats = field(default_factory=lambda: np.zeros((0, 2, 0, 0)))
    at: Floats = field(default_factory=lambda: np.zeros(0))
    critical: dict[str, float] = field(default_factory=dict)
    softest: float = 1.0

    @cached_property
    def applied(self) -> Floats:
        """The resultants of all columns' loads about the centre (6, columns), from the loads themselves; of second
        order are what the loads gain by moving with the frame."""
        columns = len(self.mix) - len(self.at)
        return np.hstack([applied_totals(self.project, self.loads, self.centre, columns), displaced_moments(self)])

    def how(self, names: list[str]) -> list[str]:
        """How each named result came about: "summed" from cases, analysed "as one", or by "second order"."""
        return [self.how_each[self.results.index(n)] for n in names]

    def no_answer(self, names: Sequence[str]) -> list[Finding]:
        """What to say of those of the named results that have no stable answer: errors; a note of a case that cannot
        stand alone, where every combination can."""
        combinations = [c.name for c in self.project.combinations]
        alone = bool(combinations) and not any(n in self.failed for n in combinations)
        found = [self.failed[n] for n in names if n in self.failed]
        return [replace(f, level="note") if alone else f for f in found]

    def weights(self, names: list[str], reduced: bool = True) -> Floats:
        """Factors on the solved columns for each named case or combination: (columns, names). Members' own forces are
        under live loads reduced for each; without `reduced` all are under the same loads."""
        mix = self.mix[:, [self.results.index(n) for n in names]]
        if not reduced:
            mix[self.project.reductions] = 0.0
        return mix


@dataclass(frozen=True)
class Prepared:
    """The equations, the first-order solution of every case and result, and the one-way parts if there are any."""

    equations: Equations
    solution: Solution
    parts: Parts | None


def solve(project: Project, loads: PlainLoads, wanted: Sequence[str] | None = None) -> Solution:
    """Displacements, reactions and member end forces of every case; slacks of one-way parts under every result; what
    axial forces add to results of second order. Of these, only those wanted, where that is said, are in the solution.

    Raises Unstable where the frame is a mechanism even with all one-way parts acting.
    """
    prepared = first_order(project, loads)
    first = prepared.solution
    bent = [c.name for c in project.combinations if project.is_second_order(c)]
    if wanted is not None:
        left_out = set(bent) - set(wanted)
        kept = [i for i, r in enumerate(first.results) if r not in left_out]
        bent = [n for n in bent if n in wanted]
        first = replace(
            first, results=tuple(first.results[i] for i in kept), mix=first.mix[:, kept],
            how_each=tuple(first.how_each[i] for i in kept),
        )  # fmt: skip
        prepared = replace(prepared, solution=first)
    asked = [n for n in bent if n not in first.failed]
    return with_second_order(cut(prepared, asked), asked)


def cut(prepared: Prepared, names: list[str]) -> Prepared:
    """The frame with the further nodes that second order of these results asks for."""
    first = prepared.solution
    project = with_cuts(first, names) if names else first.project
    if project is first.project:
        return prepared
    again = first_order(project, first.loads)
    kept = [again.solution.results.index(r) for r in first.results]
    fewer = replace(
        again.solution, results=first.results, mix=again.solution.mix[:, kept],
        how_each=tuple(again.solution.how_each[i] for i in kept),
    )  # fmt: skip
    return replace(again, solution=fewer)


def first_order(project: Project, loads: PlainLoads) -> Prepared:
    """The solution by first order, whatever the project asks for. Raises Unstable."""
    equations = build_equations(project)
    results = (*project.case_names, *(c.name for c in project.combinations))
    factors = project.weights(list(results))
    one_way = one_way_parts(project)
    first = len(factors)
    columns = first + len(one_way)
    solved = respond(equations, gather([loads, reduced_loads(project), unit_slacks(one_way, first)]), columns)
    solved = with_reductions(solved)
    solved = replace(solved, loads=loads, results=results, mix=factors, how_each=("summed",) * len(results))
    if not len(one_way):
        return Prepared(equations, solved, None)
    force = one_way_forces(solved, one_way, columns)
    motion = equations.own_axes(solved.displacement[:, :, first:]).reshape(-1, len(one_way))
    terms = cancelling_terms(equations, solved, one_way, first)
    parts = Parts(force, terms, stiffness_of(one_way, project, solved.mesh), motion)
    slack, loose = slacks(force[:, :first] @ factors, terms @ np.abs(factors), parts.C, parts.weight)
    failed = failures(project, one_way, list(results), loose)
    mix = np.vstack([factors, slack])
    return Prepared(equations, replace(solved, mix=mix, how_each=("as one",) * len(results), failed=failed), parts)


def reduced_loads(project: Project) -> PlainLoads:
    """The live loads that are reduced, in columns of their own."""
    return in_columns(project.reduction.loads, np.arange(project.load_columns)[project.reductions])


def with_reductions(solved: Solution) -> Solution:
    """The columns of reduced live loads as what is taken off every member's own forces, and nothing else."""
    project, mesh = solved.project, solved.mesh
    if not project.reduction.cases:
        return solved
    columns = np.arange(project.load_columns)[project.reductions]
    off = project.reduction.factor[mesh.member] - 1
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
    return replace(solved, start_force=force, slip=slip, displacement=displacement, reaction=reaction, terms=terms)


def with_second_order(prepared: Prepared, names: list[str], critical: Floats | None = None) -> Solution:
    """The solution with the named results taken by second-order theory; those beyond their critical load fail.

    `critical` (names,): their critical load factors, where they are known already.
    """
    solved, parts = prepared.solution, prepared.parts
    if not names:
        return solved
    combination = {c.name: c for c in solved.project.combinations}
    at = np.array([combination[n].second_order_at if n in combination else 1.0 for n in names])
    added = second_order(prepared.equations, solved, solved.weights(names), at, parts, critical)
    if parts is not None:
        mix = solved.mix.copy()
        mix[-len(parts.force) :, [solved.results.index(n) for n in names]] = added.slack
        solved = replace(solved, mix=mix)
    place = {c.name: c.place for c in solved.project.cases}
    place |= {c.name: c.place for c in solved.project.combinations}
    failed = {
        name: beyond_critical(name, float(factor), float(times), place[name])
        for name, factor, times, fine in zip(names, added.critical, at, added.settled, strict=True) if not fine
    }  # fmt: skip
    asked = dict(zip(names, at.tolist(), strict=True))
    words = {n: "second order" if times == 1 else f"second order at {times:g}" for n, times in asked.items()}
    how = [words.get(r, h) for r, h in zip(solved.results, solved.how_each, strict=True)]
    bent = with_columns(solved, added, names, at)
    return replace(bent, how_each=tuple(how), failed=solved.failed | failed)


def with_columns(solved: Solution, added: Added, names: list[str], at: Floats) -> Solution:
    """The solution with a further column for each named result: what axial forces add to it, analysed at so many times
    its loads."""
    columns, more = len(solved.mix), len(names)
    mix = np.vstack([solved.mix, np.zeros((more, len(solved.results)))])
    mix[columns + np.arange(more), [solved.results.index(n) for n in names]] = 1.0

    def wider(table: sparse.csr_matrix) -> sparse.csr_matrix:
        return sparse.csr_matrix((table.data, table.indices, table.indptr), shape=(table.shape[0], columns + more))

    strains = FreeStrains(*(wider(getattr(solved.strains, f.name)) for f in fields(FreeStrains)))
    return replace(
        solved, terms=replace(solved.terms, value=wider(solved.terms.value)), strains=strains,
        displacement=np.concatenate([solved.displacement, added.displacement], axis=2),
        start_force=np.concatenate([solved.start_force, added.start_force], axis=2),
        slip=np.concatenate([solved.slip, added.slip], axis=2),
        reaction=np.concatenate([solved.reaction, added.reaction[solved.support_node]], axis=2),
        at=at, mix=mix, bent_from=columns, slope=added.slope,
        critical=dict(zip(names, added.critical.tolist(), strict=True)),
    )  # fmt: skip


def respond(equations: Equations, loads: PlainLoads, columns: int) -> Solution:
    """The frame's answer to every column of loads, with everything acting. Raises Unstable for a mechanism."""
    project, mesh, freedom = equations.project, equations.mesh, equations.freedom
    nodes, fixed = len(project.nodes), freedom.fixed
    # The library factorises outside Python: meanwhile the loads are made ready.
    with ThreadPoolExecutor(1) as aside:
        factorised = aside.submit(lambda: equations.factorised)
        terms = build_terms(mesh, loads, columns)
        strains = free_strains(mesh, loads, project, columns)
        held = held_ends(equations.joints, fixed_end_forces(mesh, terms) + strained_ends(mesh, strains))
        right = (node_forces(loads, equations.axes, columns) - equations.gather @ held.force).toarray()
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
    start_force, slip = at_starts(equations, u, held)

    stands = freedom.held | (freedom.spring > 0)
    support_node = np.flatnonzero(stands.any(axis=1))
    at = (6 * support_node[:, None] + np.arange(6)).ravel()
    sprung = spring[at] * (ground[at].toarray() - u[at])
    reaction = np.where(freedom.held.reshape(-1, 1)[at], equations.stiff[at] @ u - right[at], sprung)
    reaction = equations.global_axes(reaction.reshape(-1, 6, columns), support_node)
    centre = project.xyz[support_node].mean(axis=0)
    # A turned support holds whatever its own axes lean towards.
    lean = np.abs(equations.axes[support_node]) > 1e-9
    shifts, turns = (np.einsum("ni,nij->nj", s, lean) for s in (stands[support_node, :3], stands[support_node, 3:]))
    return Solution(
        project, loads, mesh, terms, strains, equations.global_axes(u.reshape(nodes, 6, columns)), freedom.undefined,
        start_force, equations.joints.elements, slip, support_node, np.hstack([shifts, turns]) > 0, reaction, centre,
        softest=softest,
    )  # fmt: skip
