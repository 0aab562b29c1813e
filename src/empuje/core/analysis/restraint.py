"""What the rest of a frame offers to hold some nodes: how far they give when they are pushed, with the bending of
chosen members taken out, so that what would buckle does not hold itself, nor its twins.

The frame's own matrix is used: members whose bending is out keep their axial stiffness; those that act one way have
half of it, since of a pair one goes slack. What nothing holds then gives without bounds.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.words import Acts
from .assembly import assemble
from .equations import Equations
from .factor import factorise

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
FAINT = 1e-9
"""A stiffness on every freedom as a share of the whole frame's there: motions that nothing resists stay finite."""
ONE_WAY = 0.5
ONE_BY_ONE = 400
"""So many nodes are pushed each by itself too, not only in groups."""


@dataclass(frozen=True)
class Pushed:
    """Nodes (n,), the unit directions (n, 3) they are pushed along, by how much (n,) [N], and which are pushed at once
    (n,); of each the nodes before and behind it on its line (n, 2), by their place here, -1 for what stays, and how
    much each of both counts for the straight line between them."""

    node: Ints
    way: Floats
    force: Floats
    group: Ints
    beside: Ints
    share: Floats


def stiffness_offered(equations: Equations, without_bending: Bools, pushed: Pushed) -> tuple[Floats, Floats, Floats]:
    """Force over displacement (n,) [N/m]: against the straight line between the nodes beside, of nodes pushed group by
    group, or of each by itself where that is less; and of all of them pushed at once. Then how much of a node's motion
    the nodes beside make as well (n,): 0 of springs to the ground, towards 1 of a lattice. `without_bending`
    (members,): whose bending and torsion are out."""
    if not len(pushed.node):
        return np.zeros(0), np.zeros(0), np.zeros(0)
    project, mesh = equations.project, equations.mesh
    k = equations.stiffness_jointed.copy()
    soft = without_bending[mesh.member]
    axial = np.zeros((12, 12), bool)
    axial[np.ix_([0, 6], [0, 6])] = True
    k[soft] = np.where(axial, k[soft], 0.0)
    one_way = np.array([m.acts != Acts.BOTH for m in project.members], bool)[mesh.member]
    k[one_way] *= ONE_WAY
    at_nodes = equations.turn.transpose(0, 2, 1) @ (k @ equations.turn)
    plates = equations.shells.blocks() if equations.shells is not None else []
    stiff = assemble(mesh, at_nodes, equations.freedom, len(project.nodes), plates)
    follow = equations.follow
    stiff = (follow.T @ stiff @ follow).tocsr()
    diagonal = equations.reduced.diagonal()
    faint = FAINT * np.where(diagonal > 0, diagonal, diagonal.max(initial=1.0))
    stiff = (stiff + sparse.diags(faint)).tocsr()
    scale = 1 / np.sqrt(stiff.diagonal())
    inner = factorise((sparse.diags(scale) @ stiff @ sparse.diags(scale)).tocsr())

    n = len(pushed.node)
    own = np.einsum("nij,nj->ni", equations.axes[pushed.node], pushed.way)
    rows = 6 * pushed.node[:, None] + np.arange(3)
    each = sparse.csr_matrix((own.ravel(), (rows.ravel(), np.repeat(np.arange(n), 3))), shape=(follow.shape[0], n))
    along = (follow.T @ each).tocsr()  # (free, n)
    force = pushed.force

    def moved(by: Floats) -> Floats:
        return np.asarray(scale[:, None] * inner(scale[:, None] * by))

    groups, of_group = np.unique(pushed.group, return_inverse=True)
    at_once = sparse.csr_matrix((force, (np.arange(n), of_group)), shape=(n, len(groups)))

    def bent(motion: Floats, of: Ints) -> tuple[Floats, Floats]:
        """How far each is off the line between those beside it, of motions (n, columns) in its own column; and how far
        that line is off, as a share of its motion."""
        padded = np.vstack([motion, np.zeros((1, motion.shape[1]))])
        between = (pushed.share * padded[pushed.beside, of[:, None]]).sum(axis=1)
        own = motion[np.arange(n), of]
        return np.abs(own - between), np.clip(between / np.where(own == 0, 1.0, own), 0.0, 1.0)

    off, along_with = bent(np.asarray(along.T @ moved((along @ at_once).toarray())), of_group)
    out = _over(force, off)
    if len(groups) < n <= ONE_BY_ONE:
        out = np.minimum(out, _over(np.ones(n), bent(np.asarray(along.T @ moved(along.toarray())), np.arange(n))[0]))
    whole = np.asarray(along.T @ moved(np.asarray(along @ force)[:, None]))[:, 0]
    return out, _over(force, np.abs(whole)), along_with


def _over(force: Floats, gives: Floats) -> Floats:
    return np.asarray(np.where(gives > 0, force / np.where(gives > 0, gives, 1.0), np.inf))
