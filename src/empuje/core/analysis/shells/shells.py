"""Stiffness of structural surfaces, element by element, between the nodes of the frame.

What a plate resists, along its own x and y, with f_x, f_y the factors of the model (cracking, ribs):

    E = t S C S      stretching [N/m]          C = | E'    nu E'  0 |    E' = E / (1 - nu^2)
    D = t^3/12 S C S bending [N m]                 | nu E' E'     0 |    nu = E / 2G - 1 where that lies in 0 .. 0.5,
    K = 5/6 G t      shear across [N/m]            | 0     0      G |    else 0: a material with a G of its own

    S = diag(sqrt f_x, sqrt f_y, (f_x f_y)^1/4)

Ribs along x, d deep and b wide at a distance s, add what the T section has more per width than the plate, about its own
axis, e from the plate's middle: to E_xx  E b d/s, to D_xx  E' t e^2 + E (b d^3/12 + b d ((t + d)/2 - e)^2)/s, to D_xy
G J/4s, to K_xx  5/6 G b d/s.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...model.frame import Material
from ...model.loads import PlateStrains
from ...model.plates import ElementGroup, Plates
from ...model.project import Project
from ...model.surfaces import Plate, Ribs
from ...model.words import PlateActs
from ...surfaces.mesh.shapes import rule_of, shapes
from .bending import bending_stiffness, curvature_rows, shear_rows
from .membrane import membrane_stiffness, strain_rows

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
STRETCHED, BENT = [0, 1, 5], [2, 4, 3]
SIGN = np.array([1.0, 1.0, -1.0])
"""b_x = r_y and b_y = -r_x."""
SHEAR_FACTOR = 5 / 6
SAME_SHAPE, FEW = 1e-12, 50
"""Corners that lie within this [m] make elements of one shape; of fewer elements none are looked for."""


def contraction(material: Material) -> float:
    """Poisson's ratio by E and G; 0 where these are not those of an isotropic material."""
    nu = material.E / (2 * material.G) - 1
    return nu if 0 <= nu < 0.5 else 0.0


def plate_stiffness(plate: Plate) -> tuple[Floats, Floats, Floats]:
    """E (3, 3) [N/m], D (3, 3) [N m] and K (2, 2) [N/m] of a plate along its own axes."""
    nu, t = contraction(plate.material), plate.thickness
    stiff = plate.material.E / (1 - nu**2)
    C = np.array([[stiff, nu * stiff, 0.0], [nu * stiff, stiff, 0.0], [0.0, 0.0, plate.material.G]])

    def scaled(factors: tuple[float, float]) -> Floats:
        x, y = factors
        S = np.array([np.sqrt(x), np.sqrt(y), (x * y) ** 0.25])
        return np.asarray(S[:, None] * C * S)

    E, D, K = t * scaled(plate.stretching), t**3 / 12 * scaled(plate.bending), plate.material.G * t * np.eye(2)
    if plate.ribs is not None:
        more, bent, twisted = _ribbed(plate.ribs, t, stiff, plate.material)
        (x, y), z = plate.bending, plate.stretching[0]
        E[0, 0] += z * more
        D[0, 0] += x * bent
        D[2, 2] += np.sqrt(x * y) * twisted
        K[0, 0] += plate.material.G * plate.ribs.thickness
    stretches, bends = plate.acts != PlateActs.BENDING, plate.acts != PlateActs.STRETCHING
    return E * stretches, D * bends, SHEAR_FACTOR * K * bends


def _ribbed(ribs: Ribs, t: float, stiff: float, material: Material) -> tuple[float, float, float]:
    """What ribs add to E_xx [N/m], D_xx and D_xy [N m] of a plate of thickness t [m] and stiffness E' [N/m2]."""
    d, b, s = ribs.depth, ribs.width, ribs.spacing
    arm, A = (t + d) / 2, b * d / s
    e = material.E * A * arm / (stiff * t + material.E * A)
    bent = stiff * t * e**2 + material.E * (A * d**2 / 12 + A * (arm - e) ** 2)
    long, short = max(d, b), min(d, b)
    J = long * short**3 * (1 / 3 - 0.21 * short / long * (1 - (short / long) ** 4 / 12))
    return material.E * A, bent, material.G * J / (4 * s)


@dataclass(frozen=True)
class Stiffnesses:
    """E, D (surfaces, 3, 3) and K (surfaces, 2, 2); zero for other surfaces."""

    E: Floats
    D: Floats
    K: Floats


def stiffnesses(project: Project) -> Stiffnesses:
    """Of all surfaces of a project."""
    n = len(project.surfaces)
    out = Stiffnesses(np.zeros((n, 3, 3)), np.zeros((n, 3, 3)), np.zeros((n, 2, 2)))
    for i, surface in enumerate(project.surfaces):
        if surface.plate is not None:
            out.E[i], out.D[i], out.K[i] = plate_stiffness(surface.plate)
    return out


def freedoms_of(node: Ints) -> Ints:
    """Numbers of the freedoms (n, 6 corners) of elements between nodes (n, corners)."""
    return np.asarray((6 * node[..., None] + np.arange(6)).reshape(len(node), 6 * node.shape[1]))


def corner_turns(group: ElementGroup, axes: Floats, node_axes: Floats) -> Floats:
    """From motions of nodes in their own axes to those of corners along x y n of the surface: (n, corners, 6, 6)."""
    R = axes[group.surface]
    at_node = node_axes[group.node].transpose(0, 1, 3, 2)
    out = np.zeros((*group.node.shape, 6, 6))
    turn = R[:, None] @ at_node
    out[..., :3, :3] = out[..., 3:, 3:] = turn
    if group.arm.any():
        x, y, z = np.moveaxis(group.arm, -1, 0)
        zero = np.zeros_like(x)
        over = np.stack([zero, z, -y, -z, zero, x, y, -x, zero], axis=-1).reshape(*x.shape, 3, 3)
        out[..., :3, 3:] = R[:, None] @ over @ at_node
    return out


@dataclass(frozen=True)
class Shells:
    """The plates of an analysed project with their stiffness, and the nodes' own axes (nodes, 3, 3)."""

    plates: Plates
    made: Stiffnesses
    node_axes: Floats

    @cached_property
    def turns(self) -> tuple[Floats, Floats]:
        """`corner_turns` of both groups."""
        one, two = (corner_turns(g, self.plates.axes, self.node_axes) for g in self.plates.groups)
        return one, two

    def blocks(self) -> list[tuple[Ints, Floats]]:
        """Nodes and stiffness of every group that has elements."""
        both = zip(self.plates.groups, self.turns, strict=True)
        return [(group.node, self.stiffness(group, turns)) for group, turns in both if len(group.node)]

    def forces_of_strains(self, project: Project, strains: PlateStrains, columns: int) -> Floats:
        """What temperatures put on nodes (6 nodes, columns) in their own axes: the stiffness times the motions of a
        plate that is free to take them, linear in its plane and of even curvature across it."""
        out = np.zeros((len(self.node_axes), 6, columns))
        for group, turns in zip(self.plates.groups, self.turns, strict=True):
            for surface, case, (rise, gradient) in zip(strains.surface, strains.case, strains.v, strict=True):
                mine = np.flatnonzero(group.surface == surface)
                plate = project.surfaces[surface].plate
                if not len(mine) or plate is None:
                    continue
                own = ElementGroup(group.node[mine], group.flat[mine], group.arm[mine], group.surface[mine])
                x, y = np.moveaxis(own.flat, -1, 0)
                grows, bends = plate.material.expansion * rise, plate.material.expansion * gradient
                none = np.zeros_like(x)
                free = [grows * x, grows * y, -bends / 2 * (x**2 + y**2), -bends * y, bends * x, none]
                force = self.local_stiffness(own) @ np.stack(free, axis=-1).reshape(len(mine), -1, 1)
                at_corners = force.reshape(*own.node.shape, 6)
                at_nodes = np.einsum("ncij,nci->ncj", turns[mine], at_corners)
                np.add.at(out[:, :, case], own.node, at_nodes)
        return out.reshape(-1, columns)

    def corner_motions(self, u: Floats) -> tuple[Floats, Floats]:
        """Motions of nodes in their own axes (nodes, 6, columns) at the corners of both groups, along x y n of the
        surface: (n, corners, 6, columns)."""
        both = zip(self.plates.groups, self.turns, strict=True)
        one, two = (turns @ u[group.node] for group, turns in both)
        return one, two

    def strain(self, u: Floats) -> Floats:
        """Twice the energy of every element in motions of the nodes (nodes, 6), as a sum of squares; and what their
        motions one by one would make of its stiffness: (2, elements)."""
        out = []
        for group, motion in zip(self.plates.groups, self.corner_motions(u[:, :, None]), strict=True):
            at, weight = rule_of(group.flat)
            q = np.concatenate([v[..., 0] for v in self.generalised(group, motion, at)], axis=2)
            s = group.surface
            density = np.zeros(weight.shape)
            for part, stiff in ((q[..., :3], self.made.E), (q[..., 3:6], self.made.D), (q[..., 6:], self.made.K)):
                density = density + np.einsum("npi,nij,npj->np", part, stiff[s], part)
            own = np.einsum("nii->ni", self.local_stiffness(group)) if len(s) else np.zeros((0, 1))
            alone = (own * motion[..., 0].reshape(own.shape) ** 2).sum(axis=1) if len(s) else np.zeros(0)
            out.append(np.stack([(weight * density).sum(axis=1), alone]))
        return np.hstack(out)

    def generalised(self, group: ElementGroup, motion: Floats, at: Floats) -> tuple[Floats, Floats, Floats]:
        """Stretches e_x e_y g_xy, curvatures and shear strains (n, points, 3 or 2, columns) at points of elements."""
        s, made = group.surface, self.made
        n, corners = group.node.shape
        columns = motion.shape[3]
        stretch = self.stretches(group, motion, at)
        bent = (motion[:, :, BENT] * SIGN[:, None]).reshape(n, 3 * corners, columns)
        D, K = made.D[s], made.K[s]
        bends = np.flatnonzero(D[:, 0, 0] > 0)
        curved, sheared = np.zeros((n, len(at), 3, columns)), np.zeros((n, len(at), 2, columns))
        curved[bends] = curvature_rows(group.flat[bends], D[bends], K[bends], at) @ bent[bends, None]
        sheared[bends] = shear_rows(group.flat[bends], D[bends], K[bends], at) @ bent[bends, None]
        return stretch, curved, sheared

    def stretches(self, group: ElementGroup, motion: Floats, at: Floats) -> Floats:
        """e_x e_y g_xy (n, points, 3, columns) at points of elements."""
        n, corners = group.node.shape
        flat = motion[:, :, STRETCHED].reshape(n, 3 * corners, motion.shape[3])
        rows = strain_rows(group.flat, self.made.E[group.surface])
        return np.asarray(np.einsum("pc,ncif,nfk->npik", shapes(corners, at)[0], rows, flat, optimize=True))

    def stiffness(self, group: ElementGroup, turns: Floats) -> Floats:
        """(n, 6 corners, 6 corners) between the nodes' motions in their own axes."""
        n, corners = group.node.shape
        if (turns == np.eye(6)).all():
            return self.local_stiffness(group)
        own = self.local_stiffness(group).reshape(n, corners, 6, corners, 6)
        left = np.einsum("ncij,nciak->ncjak", turns, own, optimize=True)
        both = np.einsum("ncjai,naik->ncjak", left, turns, optimize=True)
        return np.asarray(both.reshape(n, 6 * corners, 6 * corners))

    def local_stiffness(self, group: ElementGroup) -> Floats:
        """(n, 6 corners, 6 corners) along x y n of the surfaces; elements of one shape are worked out once."""
        n = len(group.node)
        if n > FEW:
            shape = np.rint((group.flat - group.flat[:, :1]) / SAME_SHAPE).reshape(n, -1)
            first, of = np.unique(np.column_stack([group.surface, shape]), axis=0, return_index=True,
                                  return_inverse=True)[1:]  # fmt: skip
            if len(first) < n / 2:
                some = ElementGroup(*(getattr(group, f.name)[first] for f in fields(group)))
                return np.asarray(self._local_stiffness(some)[of.ravel()])
        return self._local_stiffness(group)

    def _local_stiffness(self, group: ElementGroup) -> Floats:
        n, corners = group.node.shape
        s, made = group.surface, self.made
        out = np.zeros((n, corners, 6, corners, 6))
        stretched = membrane_stiffness(group.flat, made.E[s]).reshape(n, corners, 3, corners, 3)
        for i, a in enumerate(STRETCHED):
            for j, b in enumerate(STRETCHED):
                out[:, :, a, :, b] = stretched[:, :, i, :, j]
        bends = np.flatnonzero(made.D[s, 0, 0] > 0)
        bent = bending_stiffness(group.flat[bends], made.D[s[bends]], made.K[s[bends]])
        bent = bent.reshape(-1, corners, 3, corners, 3) * SIGN[:, None, None] * SIGN
        for i, a in enumerate(BENT):
            for j, b in enumerate(BENT):
                out[bends, :, a, :, b] = bent[:, :, i, :, j]
        return out.reshape(n, 6 * corners, 6 * corners)


def in_global_axes(project: Project, plates: Plates) -> Shells:
    """Some or all plates of an analysed project, with motions of nodes in global axes."""
    return Shells(plates, stiffnesses(project), np.tile(np.eye(3), (len(project.nodes), 1, 1)))


def shells_of(project: Project, node_axes: Floats) -> Shells | None:
    """Of an analysed project with structural surfaces."""
    if project.plates is None:
        return None
    return Shells(project.plates, stiffnesses(project), node_axes)
