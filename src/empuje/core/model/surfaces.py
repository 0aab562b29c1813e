"""Surfaces: flat outlines that carry area loads to the members in them, what they are built of, and loads on them."""

from __future__ import annotations

from dataclasses import dataclass

from .findings import Place
from .frame import Material
from .loads import Direction, Step, Vector
from .words import Carry, PlateActs

TWO_WAY, SHORT = "two-way", "short"
Deck = str | Vector
"""The direction (global) in which a deck spans, "short" (the shorter way of every bay), or "two-way"."""


@dataclass(frozen=True, slots=True)
class Ribs:
    """Ribs along the own x of a surface, of its material: depth below it, width and spacing [m].

         |<--- spacing --->|
    =========================  thickness
        | |             | |    depth
         width
    """

    depth: float
    width: float
    spacing: float

    @property
    def thickness(self) -> float:
        """What they would be spread evenly [m]."""
        return self.depth * self.width / self.spacing


@dataclass(frozen=True, slots=True)
class Plate:
    """What makes a surface structural: its material, and its thickness [m].

    `bending`, `stretching`: factors on its stiffness along its own x and y, as of cracked concrete; `along`: its own x
    (global; None: level, as seen along its normal); `mesh`: the length of its elements [m], None for one found from
    what is around; `bed` [N/m3]: the stiffness of the ground under it, upright; `lift`: that ground can only push it
    up; `footprints`: columns hold it over their whole section; `raised` [m]: how far its middle lies from its corners,
    along its normal; `hinged`: edges, the first from its first corner to its second, along which it is hinged to what
    lies there; `ribs` along its own x.
    """

    material: Material
    thickness: float
    acts: PlateActs = PlateActs.BOTH
    bending: tuple[float, float] = (1.0, 1.0)
    stretching: tuple[float, float] = (1.0, 1.0)
    along: Vector | None = None
    mesh: float | None = None
    bed: float = 0.0
    lift: bool = False
    footprints: bool = True
    raised: float = 0.0
    hinged: tuple[int, ...] = ()
    ribs: Ribs | None = None

    @property
    def weight_thickness(self) -> float:
        """Of an even plate of the same weight [m]."""
        return self.thickness + (self.ribs.thickness if self.ribs is not None else 0.0)


@dataclass(frozen=True, slots=True)
class Surface:
    """A flat outline of points [m], and openings in it.

    `bearing`: the members (indices) that may carry it; None: all in its plane but bars. `carry`: "members", or "nodes",
    which then share its loads. Its normal is right-handed about its corners. `plate`: it is structure itself.
    """

    name: str
    corners: tuple[Vector, ...]
    openings: tuple[tuple[Vector, ...], ...]
    deck: Deck
    bearing: tuple[int, ...] | None
    carry: Carry
    place: Place
    floor: str = ""
    plate: Plate | None = None


@dataclass(frozen=True, slots=True)
class AreaLoad:
    """A pressure [N/m2] on a surface or on a `part` of it with corners of its own.

    `values` are those at two points `between` which it changes linearly and beyond which it goes on so; both alike
    where it is uniform. `direction` is local for the normal of the surface; `projected`: per area seen along the
    direction. `steps`: how the pressure came about; `reducible`: codes may reduce it as a live load; `of_floor`: it
    comes from a floor; `zone`: of a code, by name.
    """

    case: str
    surface: int
    values: tuple[float, float]
    between: tuple[Vector, Vector]
    direction: Direction
    projected: bool
    part: tuple[Vector, ...]
    text: str
    place: Place
    steps: tuple[Step, ...] = ()
    reducible: bool = True
    of_floor: bool = False
    zone: str = ""


@dataclass(frozen=True, slots=True)
class SurfaceForce:
    """A force [N] at a point [m] of a surface; `turning`: a moment [N m] about the direction, right-handed."""

    case: str
    surface: int
    at: Vector
    value: float
    direction: Direction
    text: str
    place: Place
    turning: bool = False


@dataclass(frozen=True, slots=True)
class SurfaceLine:
    """A load per length [N/m] between two points of a surface, changing linearly between two values; `steps`: how it
    was derived."""

    case: str
    surface: int
    between: tuple[Vector, Vector]
    values: tuple[float, float]
    direction: Direction
    text: str
    place: Place
    steps: tuple[Step, ...] = ()


@dataclass(frozen=True, slots=True)
class SurfaceStrain:
    """Temperature of a structural surface: T = rise + gradient n [K, K/m], n along its normal from its middle."""

    case: str
    surface: int
    rise: float
    gradient: float
    text: str
    place: Place


SurfaceLoad = AreaLoad | SurfaceForce | SurfaceLine | SurfaceStrain
