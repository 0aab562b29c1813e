"""The balance of second order by itself: what loads and reactions gain by moving with the frame.

With F a load or reaction and u how its place moves, sums of moments gain  sum of u x F. The theory leaves two things
out that are in this sum, and which are taken away again: shear forces on members that stretch or slope,

    integral of (u' e_x + w') x V        (dM/dx = V + N w' knows N only)

and the forces that hold nodes together at places that move differently: in rigid floors, and in the footprints of
columns on plates (of plates themselves see displaced_plates.py). Nothing of members comes from the sums of internal
forces that the equations were made of, so that the balance checks them.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from .at_starts import node_motions_at
from .diaphragm import covered
from .displaced_plates import plates_left_out
from .mesh import ranges
from .pieces import build_pieces
from .polynomials import value_at
from .sizes import weighed
from .solution import Pieces, Solution

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
POINTS = 9
"""Gauss points: exact for displacements of degree 13 times loads of degree 1, and slopes times shear forces."""
AT_A_TIME = 20_000
"""Pieces times results worked on at a time."""


def displaced_moments(solution: Solution) -> Floats:
    """What sums of forces (0) and moments about any point gain (6, results of second order) [N m]."""
    out = np.zeros((6, len(solution.at)))
    if not len(solution.at):
        return out
    assert solution.second_order_from is not None
    result = (solution.mix[solution.second_order_from :] != 0).argmax(axis=1)
    each = max(1, AT_A_TIME // max(weighed(len(solution.mesh.length), solution.project), 1))
    for i in range(0, len(result), each):
        some = slice(i, i + each)
        out[3:, some] = _moments(solution, solution.mix[:, result[some]]) * solution.at[some]
    return out


def _moments(solution: Solution, weights: Floats) -> Floats:
    """(3, results) of the results that weights (columns, results) make."""
    project, loads = solution.project, solution.loads
    pieces = build_pieces(solution, np.arange(len(project.members)), weights, displacements=True)
    assert pieces.shape is not None
    at_nodes = solution.displacement @ weights
    reaction = solution.reaction @ weights
    total = _crossed(at_nodes[solution.support_node, :3], reaction[:, :3])
    node_force = loads.nodes.f[:, :3, None] * weights[loads.nodes.case][:, None]
    total += _crossed(at_nodes[loads.nodes.node, :3], node_force)
    total += _of_points(solution, pieces, weights) + _of_lines(solution, pieces, weights)
    of_plates, plate_force = plates_left_out(solution, weights)
    total -= _left_out(solution, pieces, weights) + of_plates
    followers, leaders = covered(project).T
    if project.diaphragms or len(followers):
        held = _held_together(solution, pieces, weights, (reaction, node_force, plate_force))
        total += _crossed(at_nodes[followers, :3] - at_nodes[leaders, :3], held[followers])
        np.add.at(held, leaders, held[followers])
        floors = np.array(sorted({n for floor in project.diaphragms for n in floor.nodes}), np.intp)
        total += _crossed(at_nodes[floors, :3], held[floors] * np.array([1.0, 1.0, 0.0])[:, None])
    return total


def _crossed(u: Floats, force: Floats) -> Floats:
    """The sum of u x F of (n, 3, results) each: (3, results)."""
    return np.asarray(np.cross(u, force, axis=1).sum(axis=0))


def _moved(solution: Solution, pieces: Pieces, piece: Ints, t: Floats) -> Floats:
    """How places on pieces move, in global axes (n, 3, results)."""
    assert pieces.shape is not None
    local = value_at(pieces.shape[piece, :3], t)
    return np.asarray(np.einsum("nij,nir->njr", solution.project.axes[pieces.member[piece]], local))


def _of_points(solution: Solution, pieces: Pieces, weights: Floats) -> Floats:
    loads = solution.loads
    piece, t = _piece_of_points(solution, pieces)
    force = loads.points.f[:, :3, None] * weights[loads.points.case][:, None]
    return _crossed(_moved(solution, pieces, piece, t), force)


def _piece_of_points(solution: Solution, pieces: Pieces) -> tuple[Ints, Floats]:
    """The piece that each point load stands on, and how far along it [m]."""
    points = solution.loads.points
    first = np.searchsorted(pieces.member, points.member)
    stop = np.searchsorted(pieces.member, points.member, side="right")
    load = np.repeat(np.arange(len(first)), stop - first)
    reached = pieces.start[ranges(first, stop)] <= points.s[load] + 1e-9
    piece = first + np.maximum(np.bincount(load[reached], minlength=len(first)), 1) - 1
    return piece, np.clip(points.s - pieces.start[piece], 0.0, pieces.length[piece])


def _of_lines(solution: Solution, pieces: Pieces, weights: Floats) -> Floats:
    loads = solution.loads
    first = np.searchsorted(pieces.member, loads.lines.member)
    stop = np.searchsorted(pieces.member, loads.lines.member, side="right")
    load, piece = np.repeat(np.arange(len(first)), stop - first), ranges(first, stop)
    low = np.maximum(loads.lines.s0[load], pieces.start[piece])
    high = np.minimum(loads.lines.s1[load], pieces.start[piece] + pieces.length[piece])
    hit = (high > low) & weights[loads.lines.case[load]].any(axis=1)
    load, piece, low, high = load[hit], piece[hit], low[hit], high[hit]
    if not len(load):
        return np.zeros((3, weights.shape[1]))
    assert pieces.shape is not None
    # The integrals of load times powers of the place on its piece (pieces of these, powers, 3, cases), which meet the
    # coefficients of displacements there.
    hit_pieces, row = np.unique(piece, return_inverse=True)
    powers = np.arange(pieces.shape.shape[2])
    length = loads.lines.s1[load] - loads.lines.s0[load]
    integral = np.zeros((len(load), len(powers), 3))
    for g, w in zip(*_gauss(), strict=True):
        s = low + g * (high - low)
        share = ((s - loads.lines.s0[load]) / length)[:, None]
        q = loads.lines.q0[load] * (1 - share) + loads.lines.q1[load] * share
        u = (s - pieces.start[piece]) / pieces.length[piece]
        integral += (u[:, None] ** powers)[:, :, None] * (w * (high - low)[:, None] * q)[:, None, :]
    each = np.arange(len(powers) * 3)
    rows = (row[:, None] * len(each) + each).ravel()
    case = np.repeat(loads.lines.case[load], len(each))
    shape = len(hit_pieces) * len(each), len(weights)
    force = (sparse.coo_matrix((integral.ravel(), (rows, case)), shape=shape).tocsr() @ weights).reshape(
        len(hit_pieces), len(powers), 3, weights.shape[1]
    )
    coefficient = pieces.shape[hit_pieces, :3] * (pieces.length[hit_pieces, None] ** powers)[:, None, :, None]
    axes = solution.project.axes[pieces.member[hit_pieces]]
    # e_i x F, with e_i the axes of the member, summed with how far the place moves along each
    along = [np.einsum("nkr,nkjr->njr", coefficient[:, i], force) for i in range(3)]
    return np.asarray(sum(np.cross(axes[:, i, :, None], along[i], axis=1).sum(axis=0) for i in range(3)))


def _left_out(solution: Solution, pieces: Pieces, weights: Floats) -> Floats:
    """What shear forces make of stretches, slopes and slips, and of a bar's sag its axial force."""
    mesh, element = solution.mesh, pieces.element
    axes = mesh.axes[element]
    assert pieces.shape is not None
    slope = pieces.shape[:, :3, 1:] * np.arange(1, pieces.shape.shape[2])[:, None]
    total = np.zeros((3, weights.shape[1]))
    if not len(element):
        return total
    force = pieces.force[:, :3] * np.array([1.0, -1.0, -1.0])[:, None, None]
    bars = np.array([m.bar for m in solution.project.members], bool)[mesh.member[element]]
    ends = [value_at(pieces.shape[:, :3], t) for t in (np.zeros(len(element)), pieces.length)]
    new = np.flatnonzero(np.append(True, np.diff(element) != 0))
    last = np.append(new[1:], len(element)) - 1
    chord = np.zeros_like(ends[0])
    chord[new] = (ends[1][last] - ends[0][new]) / mesh.length[element[new], None, None]
    chord = chord[new][np.cumsum(np.append(True, np.diff(element) != 0)) - 1]

    for g, w in zip(*_gauss(), strict=True):
        t = g * pieces.length
        d, F = value_at(slope, t), value_at(force, t)
        N = np.where(bars[:, None], F[:, 0], 0.0)
        F[:, 0] = 0.0
        sag = (d - chord) * np.array([0.0, 1.0, 1.0])[:, None]
        crossed = np.cross(d, F, axis=1) + np.cross(sag, np.stack([N, 0 * N, 0 * N], axis=1), axis=1)
        total += np.einsum("nij,nir->jr", axes, crossed * (w * pieces.length)[:, None, None])
    for at, rows, t, sign in ((0, new, 0.0, 1.0), (1, last, pieces.length[last], -1.0)):
        slip = ends[at][rows] - node_motions_at(solution, element[rows], weights, at)[:, :3]
        F = value_at(force[rows], np.broadcast_to(t, len(rows)))
        F[:, 0] = 0.0
        total += sign * np.einsum("nij,nir->jr", axes[rows], np.cross(slip, F, axis=1))
    return total


def _held_together(solution: Solution, pieces: Pieces, weights: Floats, given: tuple[Floats, Floats, Floats]) -> Floats:
    """Forces (nodes, 3, results) that hold nodes to those they follow: what members, plates, loads and supports leave
    there. `given`: reactions, forces on nodes, forces of plates on nodes."""
    reaction, node_force, plate_force = given
    mesh, element = solution.mesh, pieces.element
    new = np.flatnonzero(np.append(True, np.diff(element) != 0)[: len(element)])
    last = np.append(new[1:], len(element))[: len(new)] - 1
    left = plate_force.copy()
    for at, rows, node, sign in ((0, new, mesh.start, -1.0), (1, last, mesh.end, 1.0)):
        t = np.zeros(len(rows)) if at == 0 else pieces.length[rows]
        F = value_at(pieces.force[rows, :3], t) * np.array([1.0, -1.0, -1.0])[:, None]
        e = element[rows]
        F = sign * np.einsum("nij,nir->njr", mesh.axes[e], F) * (mesh.arm[e, at] == 0)[:, None, None]
        np.add.at(left, node[e], F)
    np.subtract.at(left, *_at_ends(solution, pieces, weights, new, last))
    np.subtract.at(left, solution.loads.nodes.node, node_force)
    np.subtract.at(left, solution.support_node, reaction[:, :3])
    if solution.project.plates is not None:  # what comes to the node of a hinge comes to the one it hangs on
        hinges = solution.project.plates.hinges
        np.add.at(left, hinges.other, left[hinges.node])
        left[hinges.node] = 0.0
    return left


def _at_ends(solution: Solution, pieces: Pieces, weights: Floats, new: Ints, last: Ints) -> tuple[Ints, Floats]:
    """Nodes (n,) where point loads stand on the very ends of elements, and these (n, 3, results): no internal force
    beside the node has both the load and the end."""
    loads, mesh = solution.loads, solution.mesh
    piece, t = _piece_of_points(solution, pieces)
    first, final = np.zeros(len(pieces.element), bool), np.zeros(len(pieces.element), bool)
    first[new], final[last] = True, True
    nodes, forces = [np.zeros(0, np.intp)], [np.zeros((0, 3, weights.shape[1]))]
    for at, there, node in ((0, first[piece] & (t <= END), mesh.start),
                            (1, final[piece] & (t >= pieces.length[piece] - END), mesh.end)):  # fmt: skip
        e = pieces.element[piece]
        own = np.flatnonzero(there & (mesh.arm[e, at] == 0))
        nodes.append(node[e[own]])
        forces.append(loads.points.f[own, :3, None] * weights[loads.points.case[own]][:, None])
    return np.concatenate(nodes), np.concatenate(forces)


END = 1e-9
"""A load so near the end of an element [m] is on its node."""


def _gauss() -> tuple[Floats, Floats]:
    g, w = np.polynomial.legendre.leggauss(POINTS)
    return (1 + g) / 2, w / 2
