"""The straight member between two nodes, in closed form.

Freedoms of an element: start x y z rx ry rz, then end x y z rx ry rz, in member axes. End forces are those the nodes
put on the element, right-handed. All functions work on all elements at once.

Source: Timoshenko beam in closed form (J. S. Przemieniecki, Theory of Matrix Structural Analysis, ch. 5).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .mesh import Mesh

Floats = NDArray[np.float64]


def stiffness(mesh: Mesh) -> Floats:
    """Stiffness (n, 12, 12) in member axes, ends rigidly joined [N/m, N, N m]; none for rigid lengths."""
    L = mesh.length
    k = np.zeros((len(L), 12, 12))
    for freedom, rigidity in ((0, mesh.EA), (3, mesh.GJ)):
        for i, j, sign in ((0, 0, 1), (6, 6, 1), (0, 6, -1), (6, 0, -1)):
            k[:, freedom + i, freedom + j] = sign * rigidity / L
    # A rotation +ry tilts the axis down (w' = -ry), a rotation +rz tilts it towards y (v' = +rz).
    for v, r, EI, GA, tilt in ((2, 4, mesh.EIy, mesh.GAz, -1.0), (1, 5, mesh.EIz, mesh.GAy, 1.0)):
        phi = 12 * EI / (GA * L**2)
        a = EI / (L**3 * (1 + phi))
        across, mixed = 12 * a, 6 * a * L * tilt
        near, far = (4 + phi) * a * L**2, (2 - phi) * a * L**2
        for i, j, value in (
            (v, v, across), (v + 6, v + 6, across), (v, v + 6, -across), (v + 6, v, -across),
            (v, r, mixed), (r, v, mixed), (v, r + 6, mixed), (r + 6, v, mixed),
            (v + 6, r, -mixed), (r, v + 6, -mixed), (v + 6, r + 6, -mixed), (r + 6, v + 6, -mixed),
            (r, r, near), (r + 6, r + 6, near), (r, r + 6, far), (r + 6, r, far),
        ):  # fmt: skip
            k[:, i, j] = value
    k[mesh.rigid] = 0.0
    return k


@dataclass(frozen=True)
class Connections:
    """What ends that are not rigid do to the elements that have them.

    elements (k,): which; passed (k, 12): 1 where the connection is rigid, 0 where it is free; mix (k, 12, 12) and
    slip (k, 12): with w = mix (K u + f0), the end forces are passed * w and the end slips by slip * w.
    loose: elements whose own ends let them move between their nodes.
    """

    elements: NDArray[np.intp]
    passed: Floats
    mix: Floats
    slip: Floats
    loose: NDArray[np.intp]


def condense(mesh: Mesh, k: Floats) -> tuple[Floats, Connections]:
    """Stiffness with the end connections worked in, and what they do to loads and displacements.

    With u the nodes' displacements, f = K (u - slip) + f0, and a connection of stiffness c passes f = c slip. Written
    with p = c / (c + K_ii), which is 1 for a rigid and 0 for a free one: f = p w, slip = (1 - p) w / K_ii, so
    (p + K (1 - p) / K_ii) w = K u + f0, which holds for every c alike.
    """
    diagonal = np.einsum("nii->ni", k)
    # A freedom the element has no stiffness in passes nothing anyway and must not make the small system singular.
    soft = np.isfinite(mesh.joint) & (diagonal > 0)
    elements = np.flatnonzero(soft.any(axis=1))
    own = np.where(diagonal[elements] > 0, diagonal[elements], 1.0)
    joint = np.where(soft, mesh.joint, 0.0)[elements]
    p = np.where(soft[elements], joint / (joint + own), 1.0)
    slip = (1 - p) / own
    system = k[elements] * slip[:, None, :] + p[:, :, None] * np.eye(12)
    loose = np.abs(np.linalg.det(_unit_rows(system))) < 1e-12
    system[loose] = np.eye(12)
    mix = np.asarray(np.linalg.inv(system), float)
    out = k.copy() if len(elements) else k
    joined = p[:, :, None] * (mix @ k[elements]) * (p > 0)[:, None, :]
    out[elements] = (joined + joined.transpose(0, 2, 1)) / 2
    return out, Connections(elements, p, mix, slip, elements[loose])


def _unit_rows(system: Floats) -> Floats:
    """Systems with their rows and columns made comparable, so that a determinant tells a singular one."""
    row = system / np.maximum(np.abs(system).max(axis=2, keepdims=True), 1e-300)
    return np.asarray(row / np.maximum(np.abs(row).max(axis=1, keepdims=True), 1e-300))


def ends_from_nodes(mesh: Mesh, node_axes: Floats) -> Floats:
    """(n, 12, 12) matrices from displacements of the two nodes, each in its own axes, to those of the element's ends.

    An end that lies off its node by an arm along x goes with it rigidly: uy + arm rz, uz - arm ry.
    """
    t = np.zeros((len(mesh.length), 12, 12))
    for first, node in ((0, mesh.start), (6, mesh.end)):
        turn = mesh.axes @ node_axes[node].transpose(0, 2, 1)
        for i in (first, first + 3):
            t[:, i : i + 3, i : i + 3] = turn
        arm = mesh.arm[:, first // 6, None]
        t[:, first + 1, first + 3 : first + 6] = arm * turn[:, 2]
        t[:, first + 2, first + 3 : first + 6] = -arm * turn[:, 1]
    return t


def carried_over(length: Floats) -> Floats:
    """(n, 6, 6) matrices from the motion of an element's start to that its end makes if the element is rigid."""
    t = np.tile(np.eye(6), (len(length), 1, 1))
    t[:, 1, 5], t[:, 2, 4] = length, -length
    return t


def rigid_lengths(mesh: Mesh) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """The rigid lengths at members' starts, and those at their ends."""
    at_start = mesh.arm[:, 0] == 0
    return np.flatnonzero(mesh.rigid & at_start), np.flatnonzero(mesh.rigid & ~at_start)


def fast_to_nodes(mesh: Mesh, end_force: Floats) -> Floats:
    """End forces (elements, 12, columns) with those on rigid lengths moved to the end that is fast to the node."""
    out = end_force.copy()
    near, far = rigid_lengths(mesh)
    out[near, :6] += carried_over(mesh.length[near]).transpose(0, 2, 1) @ out[near, 6:]
    out[near, 6:] = 0.0
    # Back from the start to the end: the same over minus the length.
    out[far, 6:] += carried_over(-mesh.length[far]).transpose(0, 2, 1) @ out[far, :6]
    out[far, :6] = 0.0
    return out


def pass_through_rigid_lengths(mesh: Mesh, start_force: Floats, before: Floats) -> None:
    """Add to the forces at the starts of rigid lengths (elements, 6, columns) what the elements beside them pass on.

    `before`: the forces at the ends of the elements before the rigid lengths at members' ends.
    """
    near, far = rigid_lengths(mesh)
    start_force[near] += carried_over(mesh.length[near]).transpose(0, 2, 1) @ start_force[near + 1]
    start_force[far] -= before
