"""The frame: nodes, materials, sections, members and supports.

Global axes are right-handed with Z up. Freedoms are numbered x y z rx ry rz = 0..5.
Member axes:

        z  (up for a level member)
        |
        |     y = Z x x, horizontal; a vertical member has y = global Y
        |   /
      start o--------> x --------o end
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from .findings import Place
from .words import Acts, Made, Stress

FREEDOMS = ("x", "y", "z", "rx", "ry", "rz")
VERTICAL_TOLERANCE = 1e-6
"""A member counts as vertical when its horizontal part is below this share of its length."""
ON_LINE_TOLERANCE = 1e-3
"""A node within this distance [m] of a member's axis lies on it and splits it."""


@dataclass(frozen=True, slots=True)
class Node:
    """A point of the frame: xyz (3,) [m], global; `also`: nodes that were written beside it and are joined to it, with
    where they were."""

    name: str
    xyz: tuple[float, float, float]
    place: Place
    also: tuple[tuple[str, tuple[float, float, float]], ...] = ()


@dataclass(frozen=True, slots=True)
class Material:
    """E, G [N/m2], density [kg/m3], expansion [1/K]; of steel, by thickness up to [m], yield and tensile strength
    [N/m2], in order, and the grade whose buckling curves it has (EN 1993-1-1, table 6.2)."""

    name: str
    E: float
    G: float
    density: float
    expansion: float
    strength: tuple[tuple[float, float, float], ...] = ()
    grade: str = ""


@dataclass(frozen=True, slots=True)
class Fibre:
    """A named point (y, z) [m] of a cross-section at which stresses are asked for.

    S_y, S_z [m3]: first moments about y and z of the area beyond it; t_y, t_z [m]: the material's width at its level
    (inf where shear does nothing there, or is not known). `led_by`: the stress that leads its envelope, if any.
    """

    name: str
    y: float
    z: float
    S_y: float = 0.0
    t_y: float = math.inf
    S_z: float = 0.0
    t_z: float = math.inf
    led_by: Stress | None = None


@dataclass(frozen=True, slots=True)
class Section:
    """A cross-section about its own axes: y is the major axis of an upright I, z points up.

    A, Ay, Az [m2]; Iy, Iz, J [m4]; Iw [m6]; Wel, Wpl [m3]. Ay and Az are the areas that carry shear
    along y and z (None: not known). For angles y and z are the principal axes and `turn` [rad] is the
    angle from the horizontal leg to y. `fibres` are those the engineer named. `outline` lists closed loops
    of (y, z) points, the first the outer one. `shape` and `dimensions` [m]: what it was built from, if it was; and how
    it is made. `mirror_of`: the name of the section whose mirror image it is.
    """

    name: str
    A: float
    Iy: float
    Iz: float
    J: float
    Iw: float = 0.0
    Ay: float | None = None
    Az: float | None = None
    Wel_y: float | None = None
    Wel_z: float | None = None
    Wpl_y: float | None = None
    Wpl_z: float | None = None
    turn: float = 0.0
    fibres: tuple[Fibre, ...] = ()
    outline: tuple[NDArray[np.float64], ...] = field(default=(), repr=False, compare=False)
    shape: str = ""
    dimensions: tuple[tuple[str, float], ...] = field(default=(), repr=False)
    made: Made = Made.ROLLED
    mirror_of: str = ""


@dataclass(frozen=True, slots=True)
class Member:
    """A physical member between two nodes (indices into the project's nodes).

    `joints` holds the stiffness of the end connections in member axes, start x..rz then end x..rz [N/m, N m/rad]:
    infinite where rigid, 0 where nothing is passed on. A bar takes axial force only, carries its cross loads to its
    ends like a simple beam, and is not split by nodes on it. `roll` [rad] turns y and z about x, right-handed.
    `shear`: it also deforms in shear, by the section's shear areas. `acts`: the axial force it can
    take, both, tension or compression. `offsets` [m]: how far from each node the member is rigid; `joints` sit where
    that ends. `joined`: to structural surfaces in whose plane it lies, all along; else at its nodes alone.
    """

    name: str
    family: str
    start: int
    end: int
    section: Section
    material: Material
    place: Place
    roll: float = 0.0
    joints: tuple[float, ...] = (math.inf,) * 12
    bar: bool = False
    shear: bool = False
    acts: Acts = Acts.BOTH
    offsets: tuple[float, float] = (0.0, 0.0)
    joined: bool = True

    @property
    def along_surfaces(self) -> bool:
        """Whether structural surfaces in whose plane it lies hold it all along."""
        return self.joined and not self.bar


@dataclass(frozen=True, slots=True)
class Support:
    """A node held in some of its six freedoms, or on springs in some [N/m, N m/rad]; 0 is no spring.

    `lift`: in z it can only push the structure up. `axes`: rows x y z in which all this is meant, global unless turned.
    """

    node: int
    held: tuple[bool, bool, bool, bool, bool, bool]
    place: Place
    spring: tuple[float, float, float, float, float, float] = (0.0,) * 6
    lift: bool = False
    axes: tuple[tuple[float, float, float], ...] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


@dataclass(frozen=True, slots=True)
class LineSupport:
    """A structural surface held along lines through points [m], everywhere alike: as a support, with springs for each
    metre of the lines [N/m2, N m/rad/m]. `name`: for results."""

    name: str
    points: tuple[tuple[float, float, float], ...]
    held: tuple[bool, bool, bool, bool, bool, bool]
    place: Place
    spring: tuple[float, float, float, float, float, float] = (0.0,) * 6
    lift: bool = False
    axes: tuple[tuple[float, float, float], ...] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


@dataclass(frozen=True, slots=True)
class Diaphragm:
    """A floor that is rigid in its plan: its nodes (indices) share x, y and rz; in a plane model x only."""

    name: str
    nodes: tuple[int, ...]
    place: Place


def member_axes(
    start: NDArray[np.float64], end: NDArray[np.float64], roll: NDArray[np.float64] | float = 0.0
) -> NDArray[np.float64]:
    """Unit vectors of the member axes as rows: (n, 3, 3) from start and end points (n, 3) [m] and roll (n,) [rad].

    A member of no length gets the axes of a level one along x, so that nothing divides by zero.
    """
    along = np.asarray(end, float) - np.asarray(start, float)
    length = np.linalg.norm(along, axis=-1, keepdims=True)
    x = np.where(length > 0, along / np.where(length > 0, length, 1.0), [1.0, 0.0, 0.0])
    flat = np.hypot(x[:, 0], x[:, 1])
    vertical = flat < VERTICAL_TOLERANCE
    scale = np.where(vertical, 1.0, flat)
    y = np.column_stack([-x[:, 1] / scale, x[:, 0] / scale, np.zeros(len(x))])
    y[vertical] = (0.0, 1.0, 0.0)
    # A member that is vertical only within the tolerance still gets exactly orthogonal axes.
    z = np.cross(x, y)
    z /= np.linalg.norm(z, axis=1, keepdims=True)
    y = np.cross(z, x)
    c, s = np.cos(roll), np.sin(roll)
    c, s = (np.broadcast_to(v, (len(x),))[:, None] for v in (c, s))
    return np.stack([x, c * y + s * z, c * z - s * y], axis=1)
