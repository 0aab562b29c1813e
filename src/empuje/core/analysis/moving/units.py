"""Answers of a frame to unit forces at the nodes of the members that traffic passes over, in one block solve.

A wheel between two nodes is, for all of the frame but the element it stands on, the forces of that element's held ends.
So the answer to any position is a matrix product, and on the element itself statics from its held ends.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ...model.loads import PlainLoads
from ...model.project import Project
from ..assembly import node_forces
from ..at_starts import FixedEnds, at_starts, fixed_ends
from ..element import carried_over, rigid_lengths
from ..equations import Equations, Unstable
from ..mechanism import loaded_hinges
from ..solution import Columns
from ..solve import reactions_of
from ..terms import FreeStrains, Terms, build_terms, fixed_end_forces

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Put:
    """Loads of columns on some elements: the forces they put on the freedoms of these (k, columns), terms, the forces
    at the starts of held elements (6 elements, columns), and slips (k, 6, columns) of the starts that have one."""

    at_freedoms: Floats
    terms: Terms
    starts: sparse.csr_matrix
    slipping: Ints
    slip: Floats

    @cached_property
    def loaded(self) -> Ints:
        """Elements with something on them or at their held starts."""
        held = np.flatnonzero(np.diff(self.starts.indptr)) // 6
        return np.union1d(self.terms.element, held)

    def starts_of(self, elements: Ints) -> Floats:
        """The forces (elements, 6, columns) at the starts of elements whose ends are held."""
        rows = (6 * elements[:, None] + np.arange(6)).ravel()
        return np.asarray(self.starts[rows].toarray()).reshape(len(elements), 6, self.starts.shape[1])


@dataclass(frozen=True)
class Units:
    """Answers to unit forces along freedoms (k,) of nodes, in these nodes' own axes, each a column: displacement
    (nodes, 6, k), start_force (elements, 6, k), slip, reaction (supports, 6, k)."""

    equations: Equations
    freedoms: Ints
    place: Ints
    displacement: Floats
    start_force: Floats
    slip: Floats
    support_node: Ints
    reaction: Floats

    @property
    def project(self) -> Project:
        """The frame's project, with any nodes that were added for its analysis."""
        return self.equations.project

    def put(self, loads: PlainLoads, columns: int) -> Put:
        """What loads on the elements of the ways come to. Raises KeyError for others."""
        terms, held, right = _held(self.equations, loads, columns)
        rows = np.flatnonzero(np.diff(right.indptr))
        if (self.place[rows] < 0).any():
            raise KeyError("a load beside the ways")
        at = np.zeros((len(self.freedoms), columns))
        at[self.place[rows]] = right[rows].toarray()
        slipping = self.equations.joints.elements[held.slipping]
        return Put(at, terms, self._starts @ held.force, slipping, held.slip[:, :6])

    @cached_property
    def _starts(self) -> sparse.csr_matrix:
        """From the end forces of held elements to the forces at their starts, as rigid lengths pass them on (6
        elements, 12 elements)."""
        mesh = self.equations.mesh
        n = len(mesh.length)
        near, far = rigid_lengths(mesh)
        carried = carried_over(mesh.length[near]).transpose(0, 2, 1)
        six = np.arange(6)

        def block(at: Ints, of: Ints, value: Floats) -> tuple[Ints, Ints, Floats]:
            shape = len(at), 6, 6
            row = np.broadcast_to(6 * at[:, None, None] + six[:, None], shape)
            column = np.broadcast_to(of[:, None, None] + six, shape)
            return row.ravel(), column.ravel(), np.broadcast_to(value, shape).ravel()

        parts = [
            block(np.arange(n), 12 * np.arange(n), np.eye(6)), block(near, 12 * (near + 1), carried),
            block(far, 12 * (far - 1) + 6, -np.eye(6)),
        ]  # fmt: skip
        row, column, value = (np.concatenate(c) for c in zip(*parts, strict=True))
        return sparse.csr_matrix((value, (row, column)), shape=(6 * n, 12 * n))

    def put_nothing(self) -> Columns:
        """The unit answers themselves as columns."""
        nothing = self.put(PlainLoads(), len(self.freedoms))
        return self.columns(replace(nothing, at_freedoms=np.eye(len(self.freedoms))), np.zeros(0, np.intp))

    def columns(self, put: Put, elements: Ints | None = None) -> Columns:
        """The answers to columns of loads; `elements`: only their forces are worked out."""
        equations, mesh = self.equations, self.equations.mesh
        n = put.at_freedoms.shape[1]
        start_force = np.zeros((len(mesh.length), 6, n))
        some = np.arange(len(mesh.length)) if elements is None else elements
        start_force[some] = self.start_force[some] @ put.at_freedoms
        start_force[some] += put.starts_of(some)
        slip = self.slip @ put.at_freedoms
        slip[np.searchsorted(equations.joints.elements, put.slipping)] += put.slip
        nothing = sparse.csr_matrix((len(mesh.length), n))
        support = self.support_node
        return Columns(
            self.project, PlainLoads(), mesh, put.terms, FreeStrains(nothing, nothing, nothing),
            self.displacement @ put.at_freedoms, equations.freedom.undefined, start_force,
            equations.joints.elements, slip, support, np.zeros((len(support), 6), bool),
            self.reaction @ put.at_freedoms, np.zeros(3),
        )  # fmt: skip


def _held(equations: Equations, loads: PlainLoads, columns: int) -> tuple[Terms, FixedEnds, sparse.csr_matrix]:
    terms = build_terms(equations.mesh, loads, columns)
    held = fixed_ends(equations.joints, fixed_end_forces(equations.mesh, terms))
    right = node_forces(loads, equations.axes, columns) - equations.gather @ held.force
    return terms, held, (right if equations.hinges is None else equations.hinges.T @ right).tocsr()


def units_of(equations: Equations, loads: PlainLoads, columns: int) -> Units:
    """The unit answers that all loads like these need. Raises Unstable where wheels turn what nothing holds."""
    project, freedom = equations.project, equations.freedom
    terms, _, right = _held(equations, loads, columns)
    # All freedoms of the elements that loads stand on: which of them some position happens to leave out is rounding.
    ends = np.zeros((len(equations.mesh.length), 12))
    ends[terms.element] = 1.0
    freedoms = np.flatnonzero(abs(equations.gather) @ ends.ravel())
    freedoms = np.union1d(freedoms, np.flatnonzero(np.diff(right.indptr)))
    if columns:
        whole = np.zeros((right.shape[0], 1))
        whole[freedoms, 0] = np.abs(right[freedoms]).max(axis=1).toarray()[:, 0]
        turned_loose = loaded_hinges(project, equations.mesh, freedom, whole)
        if turned_loose:
            raise Unstable(turned_loose)
    k = len(freedoms)
    unit = np.zeros((right.shape[0], k))
    unit[freedoms, np.arange(k)] = 1.0
    u = np.asarray(equations.follow @ equations.solve(equations.follow.T @ unit))
    nothing = FixedEnds(sparse.csr_matrix((12 * len(equations.mesh.length), k)), np.zeros(0, np.intp),
                        np.zeros((0, 12, k)))  # fmt: skip
    start_force, slip = at_starts(equations, u, nothing)
    stands = freedom.held | (freedom.spring > 0)
    support_node = np.flatnonzero(stands.any(axis=1))
    reaction = reactions_of(equations, u, unit, None, support_node)
    place = np.full(right.shape[0], -1, np.intp)
    place[freedoms] = np.arange(k)
    displacement = equations.global_axes(u.reshape(-1, 6, k))
    return Units(equations, freedoms, place, displacement, start_force, slip, support_node, reaction)
