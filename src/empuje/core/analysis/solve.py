"""The linear solution of all cases at once.

    text -> Project -> plain loads -> mesh, terms -> K u = f -> Solution

One factorisation serves every case and every one-way part.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.findings import Finding
from ..model.loads import PlainLoads, gather
from ..model.project import Project
from .assembly import Freedoms, applied_totals, assemble, freedoms, node_forces, settlements, steadied, to_nodes
from .element import condense, rotation, stiffness
from .factor import SingularError, factorise
from .mechanism import free_motions, loaded_hinges, loose_members, loose_parts
from .mesh import Mesh, build_mesh
from .one_way import failures, one_way_forces, one_way_parts, slacks, stiffness_of, unit_slacks
from .terms import FreeStrains, Terms, build_terms, fixed_end_forces, free_strains, strained_ends

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Solution:
    """All cases solved, and after them, one a column, a unit slack of every one-way part.

    `weights` says how any case or combination is made of these columns. Without one-way parts it is their factors;
    with them each result has its own slacks, found under its own factored loads: as one.

    displacement (nodes, 6, cases) [m, rad]; undefined (nodes, 6): no value there
    end_force (elements, 12, cases) and start_displacement (elements, 6, cases) in member axes
    reaction (supports, 6, cases) [N, N m], global; held (supports, 6)
    support_node (supports,); centre (3,) [m] of the supports; applied (6, cases) about the centre
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
    slack: Floats = field(default_factory=lambda: np.zeros((0, 0)))
    failed: dict[str, Finding] = field(default_factory=dict)

    @property
    def as_one(self) -> bool:
        """Whether superposition does not hold, so that every result is analysed under its own loads."""
        return len(self.slack) > 0

    @property
    def how(self) -> str:
        return "as one" if self.as_one else "summed"

    def weights(self, names: list[str]) -> Floats:
        """Factors on the solved columns for each named case or combination: (columns, names)."""
        factors = self.project.weights(names)
        if not self.as_one:
            return factors
        return np.vstack([factors, self.slack[:, [self.results.index(n) for n in names]]])


class Unstable(ArithmeticError):
    """The frame is a mechanism; `findings` say what moves and why."""

    def __init__(self, findings: list[Finding]) -> None:
        super().__init__("\n".join(map(str, findings)))
        self.findings = findings


def solve(project: Project, loads: PlainLoads) -> Solution:
    """Displacements, reactions and member end forces of every case, and the slacks of one-way parts under every result.

    Raises Unstable where the frame is a mechanism even with all one-way parts acting.
    """
    cases = len(project.cases)
    parts = one_way_parts(project)
    if not len(parts):
        return replace(_columns(project, loads, cases), loads=loads)
    columns = cases + len(parts)
    solved = _columns(project, gather([loads, unit_slacks(parts, cases)]), columns)
    results = [*project.case_names, *(c.name for c in project.combinations)]
    forces = one_way_forces(solved, parts, columns)
    slack, failed = slacks(forces, project.weights(results), stiffness_of(parts, project, solved.mesh))
    findings = failures(project, parts, results, failed)
    return replace(solved, loads=loads, results=tuple(results), slack=slack, failed=findings)


def _columns(project: Project, loads: PlainLoads, cases: int) -> Solution:
    """The frame solved for every column of loads, with everything acting."""
    nodes = len(project.nodes)
    mesh = build_mesh(project)
    rigid_ends = stiffness(mesh)
    local, joints = condense(mesh, rigid_ends)
    turn = rotation(mesh.axes)
    in_global = turn.transpose(0, 2, 1) @ local @ turn
    scale = np.einsum("nii->ni", turn.transpose(0, 2, 1) @ rigid_ends @ turn)
    freedom = freedoms(project, mesh, in_global, scale)
    moving = loose_members(project, mesh, joints.loose) or free_motions(project, mesh, freedom)
    if moving:
        raise Unstable(moving)
    stiff = assemble(mesh, in_global, freedom, nodes)
    terms = build_terms(mesh, loads, cases)

    expansion = np.array([m.material.expansion for m in project.members])
    strains = free_strains(mesh, loads, expansion, project.lengths, cases)
    held_ends = np.asarray(fixed_end_forces(mesh, terms).todense()).reshape(-1, 12, cases)
    if len(loads.strain_case):
        held_ends += strained_ends(mesh, strains)
    e = joints.elements
    mixed = joints.mix @ held_ends[e]
    own_slip = joints.slip[:, :, None] * mixed
    held_ends[e] = joints.passed[:, :, None] * mixed
    gather_ends = to_nodes(mesh, nodes)
    right = node_forces(loads, nodes, cases) - gather_ends @ held_ends.reshape(-1, cases)
    turned_loose = loaded_hinges(project, mesh, freedom, right)
    if turned_loose:
        raise Unstable(turned_loose)

    free, fixed = freedom.free, freedom.fixed
    ground = settlements(loads, nodes, cases)
    spring = freedom.spring.reshape(-1, 1)
    u = np.zeros((6 * nodes, cases))
    u[fixed] = ground[fixed]
    if len(free):
        driven = right[free] + (spring * ground)[free]
        if ground.any():
            driven -= stiff[free][:, fixed] @ u[fixed]
        u[free] = _solved(project, mesh, freedom, stiff[free][:, free], driven)
    reaction = spring * (ground - u)
    reaction[fixed] = stiff[fixed] @ u - right[fixed]

    at_ends = (gather_ends.T @ u).reshape(-1, 12, cases)
    end_force = local @ at_ends + held_ends
    slip = joints.slip[:, :, None] * (joints.mix @ (rigid_ends[e] @ at_ends[e])) + own_slip
    start = at_ends[:, :6].copy()
    start[e] -= slip[:, :6]

    support_node = np.flatnonzero((freedom.held | (freedom.spring > 0)).any(axis=1))
    centre = project.xyz[support_node].mean(axis=0)
    supported = (freedom.held | (freedom.spring > 0))[support_node]
    return Solution(
        project, loads, mesh, terms, strains, u.reshape(nodes, 6, cases), freedom.undefined, end_force, start,
        support_node, supported, reaction.reshape(nodes, 6, cases)[support_node], centre,
        applied_totals(project, loads, centre, cases),
    )  # fmt: skip


def _solved(project: Project, mesh: Mesh, freedom: Freedoms, stiff: sparse.csr_matrix, right: Floats) -> Floats:
    """Solve the free equations, scaled to a unit diagonal; refuse a mechanism by name."""
    steady, loose = steadied(freedom.free, stiff.diagonal())
    if loose.any():
        raise Unstable(loose_parts(project, mesh, freedom, stiff))
    scale = 1 / np.sqrt(steady)
    scaling = sparse.diags(scale)
    scaled = (scaling @ stiff @ scaling).tocsc()
    try:
        solver = factorise(scaled)
    except SingularError:
        raise Unstable(loose_parts(project, mesh, freedom, stiff)) from None
    if _softest(scaled, solver) < SOFTEST:
        raise Unstable(loose_parts(project, mesh, freedom, stiff))
    if not right.shape[1]:
        return right
    scaled_right = scale[:, None] * right
    x = solver(scaled_right)
    # One mixture of all cases shows whether the residual is worth a second step, at the price of one case.
    mixture = np.random.default_rng(2).standard_normal(x.shape[1])
    whole = scaled_right @ mixture
    if np.abs(whole - scaled @ (x @ mixture)).max() > 1e-13 * np.abs(whole).max():
        x += solver(scaled_right - scaled @ x)
    return scale[:, None] * x


SOFTEST = 1e-13
"""A frame whose softest motion has less than this share of stiffness left is a mechanism; rounding gives 1e-16."""


def _softest(matrix: sparse.csc_matrix, solver: object) -> float:
    """About the smallest eigenvalue of a matrix with unit diagonal, by inverse iteration."""
    x = np.random.default_rng(1).standard_normal(matrix.shape[0])
    for _ in range(3):
        x = solver(x / np.linalg.norm(x))  # type: ignore[operator]
        if not np.isfinite(x).all():
            return 0.0
    x /= np.linalg.norm(x)
    return float(x @ (matrix @ x))
