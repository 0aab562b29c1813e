"""Surfaces: flat outlines that carry area loads to the members in them, what they are built of, and loads on them."""

from __future__ import annotations

from dataclasses import dataclass

from .findings import Place
from .loads import Direction, Step, Vector
from .words import Carry

TWO_WAY, SHORT = "two-way", "short"
Deck = str | Vector
"""The direction (global) in which a deck spans, "short" (the shorter way of every bay), or "two-way"."""


@dataclass(frozen=True, slots=True)
class Surface:
    """A flat outline of points [m], and openings in it.

    `bearing`: the members (indices) that may carry it; None: all in its plane but bars. `carry`: "members", or "nodes",
    which then share its loads. Its normal is right-handed about its corners.
    """

    name: str
    corners: tuple[Vector, ...]
    openings: tuple[tuple[Vector, ...], ...]
    deck: Deck
    bearing: tuple[int, ...] | None
    carry: Carry
    place: Place
    floor: str = ""


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
    """A force [N] at a point [m] of a surface."""

    case: str
    surface: int
    at: Vector
    value: float
    direction: Direction
    text: str
    place: Place


@dataclass(frozen=True, slots=True)
class SurfaceLine:
    """A load per length [N/m] between two points of a surface, changing linearly between two values."""

    case: str
    surface: int
    between: tuple[Vector, Vector]
    values: tuple[float, float]
    direction: Direction
    text: str
    place: Place


SurfaceLoad = AreaLoad | SurfaceForce | SurfaceLine
