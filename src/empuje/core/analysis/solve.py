"""The solution of all cases at once, and of every result that cannot be summed.

    text -> Project -> plain loads -> equations -> columns -> Solution

One factorisation serves every case and every one-way part.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ..model.findings import Finding
from ..model.loads import PlainLoads, gather
from ..model.project import Project
from .assembly import applied_totals, node_forces, settlements
from .equations import Equations, Unstable, build_equations
from .mechanism import loaded_hinges
from .mesh import Mesh
from .one_way import failures, one_way_forces, one_way_parts, slacks, stiffness_of, unit_slacks
from .terms import FreeStrains, Terms, build_terms, fixed_end_forces, free_strains, strained_ends

__all__ = ["Solution", "Unstable", "solve"]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Solution:
    """Solved columns, and how every case and combination is made of them.

    A column is a case, and after those a unit slack of every one-way part. `mix` (columns, results) says how much of
    each column a result has: without one-way parts the factors of its cases; with them each result also has its own
    slacks, found under its own factored loads: as one.

    displacement (nodes, 6, columns) [m, rad]; undefined (nodes, 6): no value there
    end_force (elements, 12, columns) and start_displacement (elements, 6, columns) in member axes
    reaction (supports, 6, columns) [N, N m], global; held (supports, 6)
    support_node (supports,); centre (3,) [m] of the supports; applied (6, columns) about the centre
    """

    project: Project
    loads: PlainLoads
    mesh: Mesh
    terms: Terms
    strains: FreeStrains
    displacement: Floats
    undefined: NDArray[np.bool_]
    end_force: Floats
    start_displacement: Floats
    support_node: NDArray[np.intp]
    held: NDArray[np.bool_]
    reaction: Floats
    centre: Floats
    applied: Floats
    results: tuple[str, ...] = ()
    mix: Floats = field(default_factory=lambda: np.zeros((0, 0)))
    how_each: tuple[str, ...] = ()
    failed: dict[str, Finding] = field(default_factory=dict)

    def how(self, names: list[str]) -> list[str]:
        """How each named result came about: "summed" from cases, or analysed "as one"."""
        return [self.how_each[self.results.index(n)] for n in names]

    def weights(self, names: list[str]) -> Floats:
        """Factors on the solved columns for each named case or combination: (columns, names)."""
        return self.mix[:, [self.results.index(n) for n in names]]


def solve(project: Project, loads: PlainLoads) -> Solution:
    """Displacements, reactions and member end forces of every case, and the slacks of one-way parts under every result.

    Raises Unstable where the frame is a mechanism even with all one-way parts acting.
    """
    equations = build_equations(project)
    results = (*project.case_names, *(c.name for c in project.combinations))
    factors = project.weights(list(results))
    cases = len(factors)
    parts = one_way_parts(project)
    if not len(parts):
        solved = respond(equations, loads, cases)
        return replace(solved, results=results, mix=factors, how_each=("summed",) * len(results))
    columns = cases + len(parts)
    solved = replace(respond(equations, gather([loads, unit_slacks(parts, cases)]), columns), loads=loads)
    forces = one_way_forces(solved, parts, columns)
    slack, failed = slacks(forces, factors, stiffness_of(parts, project, solved.mesh))
    findings = failures(project, parts, list(results), failed)
    mix = np.vstack([factors, slack])
    return replace(solved, results=results, mix=mix, how_each=("as one",) * len(results), failed=findings)


def respond(equations: Equations, loads: PlainLoads, columns: int) -> Solution:
    """The frame's answer to every column of loads, with everything acting. Raises Unstable for a mechanism."""
    project, mesh, joints, freedom = equations.project, equations.mesh, equations.joints, equations.freedom
    nodes = len(project.nodes)
    terms = build_terms(mesh, loads, columns)
    expansion = np.array([m.material.expansion for m in project.members])
    clear = project.lengths - np.array([sum(m.offsets) for m in project.members])
    strains = free_strains(mesh, loads, expansion, clear, columns)
    held_ends = np.asarray(fixed_end_forces(mesh, terms).todense()).reshape(-1, 12, columns)
    if len(loads.strain_case):
        held_ends += strained_ends(mesh, strains)
    e = joints.elements
    mixed = joints.mix @ held_ends[e]
    own_slip = joints.slip[:, :, None] * mixed
    held_ends[e] = joints.passed[:, :, None] * mixed

    on_nodes = equations.own_axes(node_forces(loads, nodes, columns)).reshape(-1, columns)
    right = on_nodes - equations.gather @ held_ends.reshape(-1, columns)
    turned_loose = loaded_hinges(project, mesh, freedom, right)
    if turned_loose:
        raise Unstable(turned_loose)
    fixed = freedom.fixed
    ground = settlements(loads, nodes, columns)
    spring = freedom.spring.reshape(-1, 1)
    given = np.zeros((6 * nodes, columns))
    given[fixed] = ground[fixed]
    driven = right + spring * ground
    if ground.any():
        driven -= equations.stiff[:, fixed] @ ground[fixed]
    u = equations.follow @ equations.solve(equations.follow.T @ driven) + given
    reaction = spring * (ground - u)
    reaction[fixed] = equations.stiff[fixed] @ u - right[fixed]

    at_ends = (equations.gather.T @ u).reshape(-1, 12, columns)
    end_force = equations.local @ at_ends + held_ends
    _through_rigid_lengths(mesh, end_force)
    slip = joints.slip[:, :, None] * (joints.mix @ (equations.held[e] @ at_ends[e])) + own_slip
    start = at_ends[:, :6].copy()
    start[e] -= slip[:, :6]

    stands = freedom.held | (freedom.spring > 0)
    support_node = np.flatnonzero(stands.any(axis=1))
    centre = project.xyz[support_node].mean(axis=0)
    reaction = equations.global_axes(reaction.reshape(nodes, 6, columns))[support_node]
    # A turned support holds whatever its own axes lean towards.
    lean = np.abs(equations.axes[support_node]) > 1e-9
    shifts, turns = (np.einsum("ni,nij->nj", s, lean) for s in (stands[support_node, :3], stands[support_node, 3:]))
    return Solution(
        project, loads, mesh, terms, strains, equations.global_axes(u.reshape(nodes, 6, columns)), freedom.undefined,
        end_force, start, support_node, np.hstack([shifts, turns]) > 0, reaction, centre,
        applied_totals(project, loads, centre, columns),
    )  # fmt: skip


def _through_rigid_lengths(mesh: Mesh, end_force: Floats) -> None:
    """Add to the end forces of rigid lengths what the elements beside them pass on, by statics."""
    from .element import carried_over

    for near in (True, False):
        rigid = np.flatnonzero(mesh.rigid & ((mesh.arm[:, 0] == 0) == near))
        if not len(rigid):
            continue
        over = carried_over(mesh)[rigid]
        if near:
            passed = -end_force[rigid + 1, :6]
            end_force[rigid, 6:] += passed
            end_force[rigid, :6] -= over.transpose(0, 2, 1) @ passed
        else:
            passed = -end_force[rigid - 1, 6:]
            end_force[rigid, :6] += passed
            # The forces at both ends balance about the far one: carry the near ones there.
            end_force[rigid, 6:] -= np.linalg.inv(over).transpose(0, 2, 1) @ passed
