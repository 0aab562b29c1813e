"""Members that can only pull or only push, and supports that can only push: which are slack, exactly.

With t the one-way forces and s >= 0 the slack (how much a tie hangs loose, how far a support is lifted),

    t = t0 + C s,    t >= 0,    s >= 0,    t s = 0 for each part,

where t0 are the forces with everything acting and column j of C those that a unit slack of part j brings. A slack part
is one whose own length (or ground) has changed by s, so C comes from the one factorisation of the frame with everything
acting, as further right-hand sides, and any mix of loads and slacks is again a sum of solved columns.

C is symmetric and positive semidefinite, so this is a linear complementarity problem. It is solved by block principal
pivoting with Murty's least-index rule as the finite fallback (J. J. Judice and F. M. Pires, Computers & Operations
Research 21, 1994).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..model.findings import Finding, Place, listed
from ..model.loads import PlainLoads, Settlements, Source, Strains
from ..model.project import Project
from ..model.results import Result, Results
from ..model.words import Acts
from .assembly import node_axes
from .equations import Equations
from .mesh import Mesh
from .pieces import build_pieces
from .polynomials import value_at
from .solution import Columns

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
NOTHING_LEFT = 1e-9
"""A set of slack parts leaves no stable frame when the stiffness it still meets is below this share of its own."""
ZERO = 1e-9
"""A force below this share of the terms that add up to it is none."""
SIGN_TOLERANCE = 1e-12
PATIENCE = 10


@dataclass(frozen=True)
class Unilateral:
    """The one-way parts: members with the sign of the force they can take (+1 pull, -1 push), and supported nodes."""

    members: Ints
    sign: Floats
    nodes: Ints
    names: tuple[str, ...]

    def __len__(self) -> int:
        return len(self.names)


def unilateral_parts(project: Project) -> Unilateral:
    """The members that only pull or only push, and the supports that can lift off."""
    members = [i for i, m in enumerate(project.members) if m.acts != Acts.BOTH]
    nodes = sorted({s.node for s in project.supports if s.lift})
    sign = np.array([1.0 if project.members[i].acts == Acts.TENSION else -1.0 for i in members])
    names = [project.members[i].name for i in members] + [f"support {project.nodes[n].name}" for n in nodes]
    return Unilateral(np.array(members, np.intp), sign, np.array(nodes, np.intp), tuple(names))


def unit_slacks(parts: Unilateral, first: int) -> PlainLoads:
    """A unit slack of each part, a column each from `first` on: ties 1 m too short, struts too long, ground 1 m up."""
    m, n = len(parts.members), len(parts.nodes)
    strain, motion = np.zeros((m, 4)), np.zeros((n, 6))
    strain[:, 3] = -parts.sign
    motion[:, 2] = 1.0
    zeros = np.zeros
    return PlainLoads(
        strains=Strains(first + np.arange(m), zeros(m, np.intp), parts.members, strain),
        settlements=Settlements(first + m + np.arange(n), zeros(n, np.intp), parts.nodes, motion),
        sources=(Source("slack", Place("")),),
    )


def unilateral_forces(solution: Columns, parts: Unilateral, columns: int) -> Floats:
    """Force of each part in the sense it can take, in every solved column: N at mid-length, or the upward reaction."""
    rows: list[Floats] = []
    if len(parts.members):
        pieces = build_pieces(solution, parts.members, np.eye(columns))
        middle = solution.project.lengths[parts.members] / 2
        begin = np.searchsorted(_order(pieces.member, parts.members), np.arange(len(middle) + 1))
        last = [
            b + int(np.searchsorted(pieces.start[b:e], x + 1e-12, side="right")) - 1
            for b, e, x in zip(begin, begin[1:], middle, strict=False)
        ]
        N = value_at(pieces.force[last][:, :1], middle - pieces.start[last])[:, 0]
        rows.append(parts.sign[:, None] * N)
    place = np.searchsorted(solution.support_node, parts.nodes)
    up = node_axes(solution.project)[0][parts.nodes, 2]
    rows.append(np.einsum("ni,nic->nc", up, solution.reaction[place, :3]))
    return np.vstack(rows)


def _order(member: Ints, members: Ints) -> Ints:
    return np.searchsorted(members, member)


def stiffness_of(parts: Unilateral, project: Project, mesh: Mesh) -> Floats:
    """A stiffness [N/m] to weigh each part's slack with: its own EA/L, or that of the members at a support, or
    E t of a plate there."""
    axial = mesh.EA / mesh.length
    at_node = np.zeros(len(project.nodes))
    np.add.at(at_node, mesh.start, axial)
    np.add.at(at_node, mesh.end, axial)
    for group in project.plates.groups if project.plates is not None else ():
        for i in np.unique(group.surface).tolist():
            plate = project.surfaces[i].plate
            assert plate is not None
            np.maximum.at(at_node, group.node[group.surface == i].ravel(), plate.material.E * plate.thickness)
    member = [project.members[i] for i in parts.members]
    own = np.array([m.material.E * m.section.A for m in member]) / project.lengths[parts.members]
    return np.concatenate([own.reshape(-1), at_node[parts.nodes]])


def cancelling_terms(equations: Equations, solution: Columns, parts: Unilateral, columns: int) -> Floats:
    """How large the terms are that add up to each part's force (parts, columns) [N]: its rounding is a share of them.

    A member's force is EA/L times the difference of its ends' motions, less what it does by itself; a support's is
    a row of the stiffness times the motions around it.
    """
    project, mesh = solution.project, solution.mesh
    u = solution.displacement[:, :3, :columns]
    member = parts.members
    ends = np.einsum("mi,maic->mc", np.abs(project.axes[member, 0]), np.abs(u[project.ends[member]]))
    records = [project.members[m] for m in member]
    axial = np.array([m.material.E * m.section.A for m in records]).reshape(-1, 1)
    own = np.abs(solution.strains.stretch[mesh.first[member]][:, :columns].toarray())
    rows = 6 * parts.nodes + 2
    motions = np.abs(equations.own_axes(solution.displacement[:, :, :columns]).reshape(-1, columns))
    return np.vstack([axial * (ends / project.lengths[member, None] + own), abs(equations.stiff[rows]) @ motions])


def slacks(
    t0: Floats, terms: Floats, C: Floats, weight: Floats, tried: Bools | None = None
) -> tuple[Floats, list[tuple[int, Ints]]]:
    """Slack of each part (parts, results) [m], and the results without a stable answer with the parts gone slack.

    t0 (parts, results) [N]: forces with every part acting, rounding of their `terms` (parts, results) being none; C
    (parts, parts) [N/m]: under a unit slack; weight (parts,) [N/m]: the stiffness each part's slack is weighed with;
    tried (parts, results): which parts each result may well leave slack, looked at first.
    """
    scale = 1 / np.sqrt(weight)
    C = scale[:, None] * (C + C.T) / 2 * scale
    t0 = scale[:, None] * np.where(np.abs(t0) > ZERO * terms, t0, 0.0)
    s = np.zeros_like(t0)
    failed = []
    left = np.ones(t0.shape[1], bool)
    for gone in [] if tried is None else np.unique(tried, axis=1).T:
        own = np.flatnonzero((tried == gone[:, None]).all(axis=0))
        amount, holds = _as_tried(C, t0[:, own], gone)
        s[:, own[holds]] = scale[:, None] * amount[:, holds]
        left[own[holds]] = False
    for j in np.flatnonzero(left).tolist():
        z, stable = complementary(C, t0[:, j])
        if not stable:
            failed.append((j, np.flatnonzero(z > 0)))
            z = np.full_like(z, np.nan)
        s[:, j] = scale * z
    return s, failed


def _as_tried(C: Floats, q: Floats, gone: Bools) -> tuple[Floats, Bools]:
    """The slacks (parts, results) with just these parts slack, and which results (results,) that is the answer to."""
    z = np.zeros_like(q)
    left = C[np.ix_(gone, gone)]
    if not _surely_stiff(left):
        return z, np.zeros(q.shape[1], bool)
    z[gone] = np.linalg.solve(left, -q[gone])
    w = q + C @ z
    rounding = SIGN_TOLERANCE * np.abs(q).max(axis=0, initial=0) + 1e-12 * np.abs(z).max(axis=0, initial=0)
    wrong = np.where(gone[:, None], z, w) < -rounding
    return np.maximum(z, 0.0), ~wrong.any(axis=0)


def _surely_stiff(left: Floats) -> bool:
    """Whether stiffness enough is left in every motion, told at a fraction of the price of the eigenvalues."""
    try:
        np.linalg.cholesky(left - NOTHING_LEFT * np.eye(len(left)))
    except np.linalg.LinAlgError:
        return False
    return True


def complementary(C: Floats, q: Floats) -> tuple[Floats, bool]:
    """z >= 0 with w = q + C z >= 0 and w z = 0, and whether what is left of the frame is stable. What is nothing in q
    has to be 0 there.

    >>> complementary(np.array([[2.0, 1.0], [1.0, 2.0]]), np.array([-1.0, 3.0]))[0].round(9).tolist()
    [0.5, 0.0]
    """
    n = len(q)
    tolerance = SIGN_TOLERANCE * float(np.abs(q).max(initial=0))
    free = q < 0
    # So little stiffness is added that it shows only where there is none: it keeps every step solvable.
    steady = C + 1e-13 * np.eye(n)
    fewest, patience = n + 1, PATIENCE
    z = np.zeros(n)
    for _ in range(50 + 20 * n):
        z = np.zeros(n)
        z[free] = np.linalg.solve(steady[np.ix_(free, free)], -q[free])
        w = q + C @ z
        rounding = tolerance + 1e-12 * float(np.abs(z).max(initial=0))
        wrong = np.where(free, z, w) < -rounding
        count = int(wrong.sum())
        if count == 0:
            return _settled(C, q, free)
        if count < fewest:
            fewest, patience = count, PATIENCE
        elif patience > 0:
            patience -= 1
        else:
            wrong = np.arange(n) == np.flatnonzero(wrong).max()
        free = free ^ wrong
    return np.maximum(z, 0.0), False


def _settled(C: Floats, q: Floats, free: Bools) -> tuple[Floats, bool]:
    """The slacks of the parts found to be slack, and whether they hold.

    Where the slack parts leave a motion that meets no stiffness, the frame stands only if no load drives that motion:
    then every force is certain and of the possible slacks the smallest are taken. Otherwise it has no stable answer.
    """
    z = np.zeros(len(q))
    if not free.any():
        return z, True
    left = C[np.ix_(free, free)]
    if _surely_stiff(left):
        z[free] = np.linalg.solve(left, -q[free])
        return np.maximum(z, 0.0), True
    value, vector = np.linalg.eigh(left)
    driven = vector.T @ -q[free]
    soft = value < NOTHING_LEFT
    if (np.abs(driven[soft]) > NOTHING_LEFT * np.abs(q).max()).any():
        z[free] = 1.0
        return z, False
    z[free] = vector @ np.where(soft, 0.0, driven / np.where(soft, 1.0, value))
    return np.maximum(z, 0.0), True


def failures(parts: Unilateral, results: Results, failed: list[tuple[int, Ints]]) -> dict[Result, Finding]:
    """A finding for each case and combination that has no stable answer."""
    out = {}
    for j, gone in failed:
        told = listed([parts.names[i] for i in gone])
        out[results[j]] = Finding(
            "error", "no-stable-answer", f"under {results[j].name} the frame is unstable when {told} do not act",
            "add a member or support that acts both ways, or loads that keep them acting (where ties cross, "
            "a case with `notional`)", results[j].place,
        )  # fmt: skip
    return out
