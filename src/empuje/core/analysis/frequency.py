"""The lowest natural frequencies of a frame that sways: K x = w^2 M x with the masses at its nodes, moving level.

M: vertical loads of given cases over g, of every element brought to its two ends by the lever rule
share of a mode along a way d: (sum of m x . d)^2 / (sum of m x . x  sum of m), of all masses that can move along it
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.sparse.linalg import ArpackNoConvergence, LinearOperator, eigsh

from ..model.frame import Node
from ..model.loads import PlainLoads
from ..model.project import GRAVITY, Project
from ..resolved import Resolved
from ..surfaces.mesh.joined import with_plate_nodes
from .equations import Equations, build_equations
from .mesh import Mesh

Floats = NDArray[np.float64]
MODES = 16
"""So many modes are looked through for one that sways along a given way."""
SWAYS = 0.1
"""The least share of the mass of a mode that counts as swaying along a way."""
NOTHING = 1e-12
FAR = 1e5
"""No member is so long [m]."""


@dataclass(frozen=True)
class Modes:
    """Frequencies (modes,) [Hz], from the lowest; motions of the nodes (nodes, 2, modes) along x and y, scaled so that
    sum of m x . x is 1; and the masses (nodes, 2) [kg] that can move along x and along y: none on what holds them."""

    frequency: Floats
    shape: Floats
    mass: Floats

    def share(self, way: Floats) -> Floats:
        """Of the mass that can move along a level unit vector (2,) what each mode moves."""
        moved = np.einsum("na,nam,a->m", self.mass, self.shape, way)
        return np.asarray(moved**2 / max(float((self.mass @ way**2).sum()), NOTHING))

    def lowest(self, way: Floats) -> float | None:
        """The lowest frequency that sways along a way, None where none of these modes does."""
        found = np.flatnonzero(self.share(way) >= SWAYS)
        return float(self.frequency[found[0]]) if len(found) else None


def masses(project: Project, mesh: Mesh, loads: PlainLoads, share: Floats) -> Floats:
    """Masses at the nodes (nodes,) [kg] from downward loads times the share of their case (cases,)."""
    out = np.zeros(len(project.nodes))
    lines, points, nodes = loads.lines, loads.points, loads.nodes
    first, stop = mesh.first[lines.member], mesh.first[lines.member + 1]
    row = np.repeat(np.arange(len(lines.member)), stop - first)
    element = np.arange(len(row)) - np.repeat(np.cumsum(stop - first) - (stop - first), stop - first) + first[row]
    a = np.maximum(lines.s0[row], mesh.s0[element])
    b = np.minimum(lines.s1[row], mesh.s0[element] + mesh.length[element])
    kept = b > a
    row, element, a, b = row[kept], element[kept], a[kept], b[kept]
    long = lines.s1[row] - lines.s0[row]
    slope = (lines.q1[row, 2] - lines.q0[row, 2]) / long
    q_a, q_b = (lines.q0[row, 2] + slope * (s - lines.s0[row]) for s in (a, b))
    factor = -share[lines.case[row]] / GRAVITY * (b - a)
    # Of the trapezium the part that goes to the element's end, by its lever arm.
    from_a, from_b = (a - mesh.s0[element]) / mesh.length[element], (b - mesh.s0[element]) / mesh.length[element]
    whole = factor * (q_a + q_b) / 2
    to_end = factor * ((2 * q_a + q_b) * from_a + (q_a + 2 * q_b) * from_b) / 6
    np.add.at(out, mesh.start[element], whole - to_end)
    np.add.at(out, mesh.end[element], to_end)
    at = _element_at(mesh, points.member, points.s)
    x = np.clip((points.s - mesh.s0[at]) / mesh.length[at], 0.0, 1.0)
    force = -share[points.case] / GRAVITY * points.f[:, 2]
    np.add.at(out, mesh.start[at], force * (1 - x))
    np.add.at(out, mesh.end[at], force * x)
    np.add.at(out, nodes.node, -share[nodes.case] / GRAVITY * nodes.f[:, 2])
    return np.maximum(out, 0.0)


def _element_at(mesh: Mesh, member: NDArray[np.intp], s: Floats) -> NDArray[np.intp]:
    """The element of each member that a place s [m] lies in."""
    # Elements stand in the order of members, and of places along each.
    key, wanted = FAR * mesh.member + mesh.s0, FAR * member + s
    return np.asarray(np.maximum(np.searchsorted(key, wanted, side="right") - 1, mesh.first[member]))


def modes(equations: Equations, mass: Floats, count: int = MODES) -> Modes | None:
    """The lowest modes of a frame with masses (nodes,) [kg] that move level; None where no mass can move. Raises
    Unstable."""
    follow, solve = equations.follow, equations.solve
    root = np.zeros(6 * len(mass))
    root[0::6], root[1::6] = np.sqrt(mass), np.sqrt(mass)
    if equations.project.plane:
        root[1::6] = 0.0
    moves = np.asarray(np.abs(follow).sum(axis=1)).ravel() > 0
    root[~moves] = 0.0
    some = np.flatnonzero(root)
    if not len(some):
        return None
    count = min(count, len(some))

    def flexible(v: Floats) -> Floats:
        """Of columns (some, columns)."""
        force = np.zeros((len(root), v.shape[1]))
        force[some] = root[some, None] * v
        return np.asarray(root[some, None] * np.asarray(follow @ solve(follow.T @ force))[some])

    if len(some) <= 2 * count + 2:
        dense = flexible(np.eye(len(some)))
        value, vector = np.linalg.eigh((dense + dense.T) / 2)
        value, vector = value[-count:], vector[:, -count:]
    else:
        n = len(some)
        operator = LinearOperator((n, n), matvec=lambda v: flexible(v.reshape(-1, 1))[:, 0], dtype=float)
        try:
            value, vector = eigsh(operator, k=count, which="LA", v0=np.ones(len(some)), tol=1e-10)
        except ArpackNoConvergence as error:
            value, vector = error.eigenvalues, error.eigenvectors
    order = np.argsort(-value)
    value, vector = value[order], vector[:, order]
    good = value > NOTHING * value.max(initial=0.0)
    value, vector = value[good], vector[:, good]
    u = np.zeros((len(root), len(value)))
    u[some] = vector / root[some][:, None]
    shape = u.reshape(len(mass), 6, -1)[:, :2]
    there = root.reshape(len(mass), 6)[:, :2] > 0
    return Modes(1 / (2 * np.pi * np.sqrt(value)), shape, mass[:, None] * there)


QUARTERS, MOST_CUT = 4, 1500
RISES = 0.5


def _with_inner_nodes(project: Project) -> Project:
    """The project with nodes at the quarters of members that rise and have none within them, where few are: a mast in
    one piece has its masses along it, not half of them on its foot."""
    has = set(project.nodes_on_members[0].tolist())
    rising = [
        m for m, one in enumerate(project.members)
        if not one.bar and m not in has and abs(float(project.axes[m, 0, 2])) > RISES
    ]  # fmt: skip
    if len(rising) > MOST_CUT:
        return project
    nodes = [
        Node(f"{project.members[m].name} {k}/{QUARTERS}",
             tuple((a + k / QUARTERS * (b - a)).tolist()), project.members[m].place)
        for m in rising for a, b in [project.xyz[project.ends[m]]] for k in range(1, QUARTERS)
    ]  # fmt: skip
    return replace(project, nodes=(*project.nodes, *nodes))


def way_frequencies(model: Resolved, ways: Sequence[tuple[float, float]]) -> list[float | None]:
    """The lowest frequency [Hz] that sways along each level unit vector, with the masses that the project names; None
    where there is none. Raises Unstable."""
    project = model.project
    share = np.zeros(model.load_columns)
    for case, factor in project.mass:
        share[project.case_names.index(case)] += factor
    equations = build_equations(_with_inner_nodes(with_plate_nodes(project)))
    found = modes(equations, masses(equations.project, equations.mesh, model.loads, share))
    return [None if found is None else found.lowest(np.array(way)) for way in ways]
