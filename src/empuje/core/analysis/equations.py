"""The frame's equations, built and factorised once: from what is put on it to how it moves.

Displacements u (6 nodes) are those of every node in its own axes: global, but for turned supports.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.findings import Finding
from ..model.project import Project
from ..surfaces.mesh.joined import with_plate_nodes
from .assembly import Block, Freedoms, assemble, freedoms, from_nodes, handed_on, node_axes, on_diagonal, steadied
from .beam_column import BeamColumnShapes, build_shapes
from .diaphragm import hinged, tied
from .element import Connections, condense, ends_from_nodes, stiffness
from .factor import SingularError, Solve, factorise
from .mechanism import free_motions, loose_members, loose_parts
from .mesh import Mesh, build_mesh
from .shells.shells import Shells, shells_of
from .shells.stressed import Stressed
from .sizes import weighed

Floats = NDArray[np.float64]


class Unstable(ArithmeticError):
    """The frame is a mechanism; `findings` say what moves and why."""

    def __init__(self, findings: list[Finding]) -> None:
        super().__init__("\n".join(map(str, findings)))
        self.findings = findings


@dataclass(frozen=True)
class Equations:
    """K u = f of the whole frame with every part acting.

    axes (nodes, 3, 3): rows of each node's own axes
    stiffness_fixed (elements, 12, 12): element stiffness with both ends rigidly joined, and `stiffness_jointed` with
    its end connections, in member axes; turn (elements, 12, 12): from nodes to element ends;
    at_start (elements, 6, 12): from nodes to the forces at the elements' starts; stiff (6 nodes, 6 nodes);
    follow (6 nodes, free): all motions from the free ones (held ones 0); shells: its plates; hinges (6 nodes, 6
    nodes): motions of all nodes from those that hinged edges leave, which `stiff` is of.
    """

    project: Project
    mesh: Mesh
    axes: Floats
    stiffness_fixed: Floats
    stiffness_jointed: Floats
    joints: Connections
    turn: Floats
    at_start: Floats
    freedom: Freedoms
    stiff: sparse.csr_matrix
    follow: sparse.csr_matrix
    shells: Shells | None = None
    hinges: sparse.csr_matrix | None = None

    @property
    def size(self) -> int:
        """How many elements it has, weighed by memory."""
        return weighed(len(self.mesh.length), self.project)

    @cached_property
    def gather(self) -> sparse.csr_matrix:
        """Sums end forces in member axes at the nodes (6 nodes, 12 elements)."""
        return self.spread.T.tocsr()

    @cached_property
    def spread(self) -> sparse.csr_matrix:
        """Brings motions of nodes to the ends of elements (12 elements, 6 nodes)."""
        return from_nodes(self.mesh, self.turn, len(self.project.nodes))

    @cached_property
    def stressed(self) -> Stressed | None:
        """Its plates as forces in their planes see them."""
        return Stressed(self.shells) if self.shells is not None else None

    @cached_property
    def shapes(self) -> BeamColumnShapes:
        """How its elements bend under axial forces."""
        return build_shapes(self.project, self.mesh, self.joints, self.stiffness_fixed)

    @cached_property
    def reduced(self) -> sparse.csr_matrix:
        """The stiffness of the free motions."""
        if not self.freedom.follows.any():
            free = self.freedom.free
            return self.stiff[free][:, free]
        return (self.follow.T @ self.stiff @ self.follow).tocsr()

    @property
    def solve(self) -> Solve:
        """From forces along the free motions (free, columns) to these motions. Raises Unstable for a mechanism."""
        return self.factorised[0]

    @cached_property
    def factorised(self) -> tuple[Solve, float]:
        """`solve`, and the stiffness of the frame's softest motion as a share of that of its parts."""
        return _factorised(self)

    def ends(self, u: Floats, some: NDArray[np.intp] | None = None) -> Floats:
        """The nodes' motions u (6 nodes, columns) at the ends of all or some elements, in member axes (elements, 12,
        columns)."""
        spread = self.spread if some is None else self.spread[(12 * some[:, None] + np.arange(12)).ravel()]
        return np.asarray(spread @ u).reshape(-1, 12, u.shape[1])

    def motion(self, free: Floats) -> Floats:
        """The motion of every node (nodes, 6) in global axes that a motion of the free freedoms (free,) brings."""
        return self.global_axes((self.follow @ free).reshape(-1, 6, 1))[:, :, 0]

    def strain(self, free: Floats) -> Floats:
        """Twice the energy of every element (elements,) in a motion of the free freedoms (free,), as sums of squares:
        without the cancelling of large terms that hides how little it is; and what its ends' motions alone would make
        of its stiffness."""
        mesh, joints = self.mesh, self.joints
        ends = self.ends((self.follow @ free)[:, None])[:, :, 0]
        own = ends.copy()
        e = joints.elements
        own[e] -= joints.slip * np.einsum("eij,ejk,ek->ei", joints.mix, self.stiffness_fixed[e], ends[e])
        spring = np.where(np.isfinite(mesh.joint[e]), mesh.joint[e], 0.0)
        energy = (
            mesh.EA / mesh.length * (own[:, 6] - own[:, 0]) ** 2 + mesh.GJ / mesh.length * (own[:, 9] - own[:, 3]) ** 2
        )
        for v, r, tilt, EI, GA in ((2, 4, -1.0, mesh.EIy, mesh.GAz), (1, 5, 1.0, mesh.EIz, mesh.GAy)):
            phi = 12 * EI / (GA * mesh.length**2)
            near, far = tilt * own[:, r], tilt * own[:, r + 6]
            chord = (own[:, v + 6] - own[:, v]) / mesh.length
            energy += EI / mesh.length * ((far - near) ** 2 + 3 / (1 + phi) * (near + far - 2 * chord) ** 2)
        energy[mesh.rigid] = 0.0
        energy[e] += (spring * (ends[e] - own[e]) ** 2).sum(axis=1)
        held = np.einsum("eii,ei->e", self.stiffness_fixed, ends**2)
        own_energy = np.stack([energy, held])
        if self.shells is None:
            return own_energy
        return np.hstack([own_energy, self.shells.strain((self.follow @ free).reshape(-1, 6))])

    def global_axes(self, at_nodes: Floats, some: NDArray[np.intp] | None = None) -> Floats:
        """Six components (nodes, 6, columns) of all or some nodes in their own axes turned into global ones."""
        if not self.freedom.turned.any():
            return at_nodes
        back = (self.axes if some is None else self.axes[some]).transpose(0, 2, 1)
        return np.concatenate([back @ at_nodes[:, :3], back @ at_nodes[:, 3:]], axis=1)

    def own_axes(self, at_nodes: Floats) -> Floats:
        """Global components (nodes, 6, columns) in each node's own axes."""
        if not self.freedom.turned.any():
            return at_nodes
        return np.concatenate([self.axes @ at_nodes[:, :3], self.axes @ at_nodes[:, 3:]], axis=1)


def build_equations(project: Project) -> Equations:
    """Mesh, stiffness and freedoms of the frame. Raises Unstable where plain geometry shows a mechanism."""
    project = with_plate_nodes(project)
    mesh = build_mesh(project)
    axes, turned = node_axes(project)
    held = stiffness(mesh)
    local, joints = condense(mesh, held)
    turn = ends_from_nodes(mesh, axes)
    back = turn.transpose(0, 2, 1)
    from_motions = local @ turn
    at_nodes = back @ from_motions
    scale = np.einsum("nii->ni", at_nodes).copy()
    e = joints.elements
    scale[e] = np.einsum("nii->ni", back[e] @ held[e] @ turn[e])
    shells = shells_of(project, axes)
    plates: list[Block] = shells.blocks() if shells is not None else []
    nodes, hinges = len(project.nodes), hinged(project, axes)
    of_plates = on_diagonal(plates, nodes)
    if hinges is not None:
        of_plates = handed_on(of_plates, hinges)
    freedom = freedoms(project, mesh, at_nodes, scale, turned, of_plates)
    moving = loose_members(project, mesh, joints.loose) or free_motions(project, mesh, freedom, axes)
    if moving:
        raise Unstable(moving)
    stiff = assemble(mesh, at_nodes, freedom, nodes, plates)
    every = tied(project) if freedom.follows.any() else sparse.identity(6 * nodes, format="csr")
    if hinges is not None:
        stiff, every = (hinges.T @ stiff @ hinges).tocsr(), (hinges @ every).tocsr()
    return Equations(
        project,
        mesh,
        axes,
        held,
        local,
        joints,
        turn,
        from_motions[:, :6].copy(),
        freedom,
        stiff,
        every[:, freedom.free],
        shells,
        hinges,
    )


def _factorised(equations: Equations) -> tuple[Solve, float]:
    """Scaled to a unit diagonal; refuses a mechanism by name."""
    stiff = equations.reduced
    if not stiff.shape[0]:
        return lambda right: right, 1.0
    steady, loose = steadied(equations.freedom.free, stiff.diagonal())

    def refused() -> Unstable:
        return Unstable(
            loose_parts(equations.project, equations.mesh, equations.freedom, stiff, equations.motion, equations.strain)
        )

    if loose.any():
        raise refused()
    scale = 1 / np.sqrt(steady)
    # Scaled in place of a product, which would drop the zeros inside nodes' blocks: with all of a node's freedoms alike
    # both libraries order the equations better and take half the time.
    scaled = stiff.copy()
    scaled.data *= np.repeat(scale, np.diff(stiff.indptr)) * scale[stiff.indices]
    if equations.shells is not None:
        # In a flat plate bending and stretching do not meet: apart they take a third of the time.
        scaled.eliminate_zeros()
    try:
        inner = factorise(scaled)
    except SingularError:
        raise refused() from None
    softest = _softest(scaled, inner)
    if softest < SOFTEST:
        raise refused()

    def solve(right: Floats) -> Floats:
        if not right.shape[1]:
            return right
        b = scale[:, None] * right
        x = inner(b)
        # One mixture of all columns shows whether the residual is worth a second step, at the price of one column.
        mixture = np.random.default_rng(2).standard_normal(x.shape[1])
        whole, moved = b @ mixture, x @ mixture
        left = np.abs(whole - scaled @ moved)
        if left.max() > LEFT_OVER * np.abs(whole).max():
            # Where no row's residual is more than rounding of its own terms, a second step finds nothing either.
            terms = abs(scaled) @ np.abs(moved) + np.abs(whole)
            if (left > (ROUNDING if equations.shells is None else OF_PLATES) * terms).any():
                x += inner(b - scaled @ x)
        x *= scale[:, None]
        return x

    return solve, softest


LEFT_OVER = 1e-11
"""Residuals above this share of the right-hand side may be worth a second step."""
OF_PLATES = 5e-14
"""The same of plates, whose wide rows round off 1e-14 to 2e-14; a second step moves no displacement by more than some
1e-12 of the largest."""
ROUNDING = 4e-15
"""Of the terms of a row (Arioli, Demmel and Duff, Solving sparse linear systems with sparse backward error, 1989)."""
SOFTEST = 1e-13
"""A frame whose softest motion has less than this share of stiffness left is a mechanism; rounding gives 1e-16."""


def _softest(matrix: sparse.csr_matrix, solver: Solve) -> float:
    """About the smallest eigenvalue of a matrix with unit diagonal, by a step of inverse iteration.

    So little as 1e-6 of a random vector along the softest motion outweighs all else next to a mechanism.
    """
    x = solver(np.random.default_rng(1).standard_normal(matrix.shape[0]))
    if not np.isfinite(x).all():
        return 0.0
    x /= np.linalg.norm(x)
    return float(x @ (matrix @ x))
