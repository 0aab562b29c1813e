"""Parts of a model shifted, turned about a vertical axis, or mirrored about a vertical plane, as real structures are.

    p -> R p + t        R: rows of a rotation about z, or of a reflection whose plane holds z

Of a member x' = R x, and where R is a reflection one of y', z' is R's and the other one against it, since member axes
are right-handed:

    y' = -R y, z' = R z     for sections that are alike on both sides of their z-axis (an I, a tee)
    y' = R y,  z' = -R z    for those alike above and below their y-axis (an I, a channel)

What is neither, an angle, becomes its mirror image.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .frame import LineSupport, Member, Section, Support
from .loads import Direction, LineLoad, NodeLoad, PointLoad, Settlement, Strain, Vector
from .surfaces import AreaLoad, Surface, SurfaceForce, SurfaceLine, SurfaceLoad, SurfaceStrain

Floats = NDArray[np.float64]
SAME = 1e-6


@dataclass(frozen=True)
class Motion:
    """p -> R p + t: R (3, 3) and t (3,) [m]."""

    R: Floats
    t: Floats

    @property
    def mirrors(self) -> bool:
        """Whether it is a reflection."""
        return bool(np.linalg.det(self.R) < 0)

    def point(self, p: Vector) -> Vector:
        """Where a point comes to."""
        return _vector(self.R @ np.array(p) + self.t)

    def way(self, v: Vector) -> Vector:
        """What a direction becomes."""
        return _vector(self.R @ np.array(v))

    def turning(self, v: Vector) -> Vector:
        """What an axis becomes that something turns about, right-handed."""
        return _vector(np.linalg.det(self.R) * self.R @ np.array(v))

    def direction(self, d: Direction, turns: bool, name: str) -> Direction:
        """A global direction of a force, or of a moment."""
        vector = self.turning(d.vector) if turns else self.way(d.vector)
        if np.allclose(vector, d.vector, atol=1e-12):
            return d
        return Direction(vector, False, f"{d.text} of {name}")


def _vector(v: Floats) -> Vector:
    x, y, z = (float(c) for c in np.where(np.abs(v) < 1e-15, 0.0, v))
    return x, y, z


@dataclass(frozen=True)
class Placed:
    """How a member lies after a motion: what its local components are to be multiplied by, of forces and of temperature
    along y and z, and of moments (3,)."""

    forces: Vector
    moments: Vector


def moved_members(
    members: Sequence[Member], axes: Floats, plain: Floats, motion: Motion
) -> list[tuple[Member, Placed]]:  # fmt: skip
    """Members with their axes (n, 3, 3) as rows; `plain`: the axes of their images without roll (n, 3, 3). Nodes and
    names are for others."""
    # Of a moment all but its component along the axis that keeps its sign turn round.
    det = -1.0 if motion.mirrors else 1.0
    y = axes[:, 1] @ motion.R.T
    aside, upward = (np.einsum("ij,ij->i", y, plain[:, k]).tolist() for k in (1, 2))
    out = []
    for i, m in enumerate(members):
        sides = _images_of(m.section) if motion.mirrors else ((1.0, 1.0, m.section),)
        rolls = [math.atan2(sy * upward[i], sy * aside[i]) for sy, _, _ in sides]
        k = min(range(len(sides)), key=lambda k: abs(rolls[k]))
        roll = 0.0 if abs(rolls[k]) < 1e-12 else rolls[k]
        sy, sz, section = sides[k]
        placed = Placed((1.0, sy, sz), (det, det * sy, det * sz))
        out.append((replace(m, section=section, roll=roll), placed))
    return out


@lru_cache(maxsize=10_000)
def _images_of(s: Section) -> tuple[tuple[float, float, Section], ...]:
    """How a section may lie in a mirrored member, as the signs of y and z: as it is where it is alike on both sides of
    an axis; else its mirror image, one and the same for all members that have it."""
    ways = ((-1.0, 1.0), (1.0, -1.0))
    same = tuple((sy, sz, s) for sy, sz in ways if _alike(s, _mirrored(s, sy, sz)))
    return same or ((*ways[0], mirror_image(s)),)


def mirror_image(s: Section) -> Section:
    """A section as it is seen in a mirror: left is right."""
    return _mirrored(s, -1.0, 1.0)


def _mirrored(s: Section, sy: float, sz: float) -> Section:
    """The section turned over: its points at sy y, sz z."""
    flip = np.array([sy, sz])
    # Loops keep their first point and their sense.
    outline = tuple(np.vstack([loop[:1], loop[:0:-1]]) * flip for loop in s.outline)
    fibres = tuple(replace(f, y=sy * f.y, z=sz * f.z, S_y=sz * f.S_y, S_z=sy * f.S_z) for f in s.fibres)
    return replace(s, name=f"{s.name}, mirrored", mirror_of=s.name, outline=outline, fibres=fibres, turn=-s.turn)


def _alike(s: Section, other: Section) -> bool:
    """Whether a section and its image have their points at the same places, and named ones by the same names."""
    if any(abs(a.y - b.y) > SAME or abs(a.z - b.z) > SAME for a, b in zip(s.fibres, other.fibres, strict=True)):
        return False
    for a, b in zip(s.outline, other.outline, strict=True):
        apart = np.abs(a[:, None] - b[None]).max(axis=2)
        if (apart.min(axis=1) > SAME).any():
            return False
    return True


def moved_support(s: Support, motion: Motion, node: int) -> Support:
    """A support at the node that its own comes to."""
    axes = [motion.way(a) for a in s.axes]
    if motion.mirrors:
        axes[1] = _vector(-np.array(axes[1]))  # right-handed again; what holds has no sign
    return replace(s, node=node, axes=tuple(axes))


def moved_line_support(s: LineSupport, motion: Motion, name: str) -> LineSupport:
    """A support along the image of its line."""
    axes = [motion.way(a) for a in s.axes]
    if motion.mirrors:
        axes[1] = _vector(-np.array(axes[1]))
    return replace(s, name=name, points=tuple(motion.point(p) for p in s.points), axes=tuple(axes))


def moved_settlement(s: Settlement, motion: Motion, nodes: tuple[int, ...], name: str) -> Settlement:
    """The motion of the ground under the images of supports, in their own axes: of images one y turns round."""
    x, y, z, rx, ry, rz = s.motion
    own = (x, -y, z, -rx, ry, -rz) if motion.mirrors else s.motion
    return replace(s, nodes=nodes, motion=own, text=f"{s.text}, {name}")


def moved_load(
    load: LineLoad | PointLoad | Strain, motion: Motion, placed: dict[int, tuple[int, Placed]], name: str
) -> list[LineLoad | PointLoad | Strain]:
    """A load on the images of its members: by the place of a member, that of its image and how it is placed. One for
    all that lie alike."""
    on = [placed[m] for m in load.members if m in placed]
    if not on:
        return []
    text = f"{load.text}, {name}"
    turns = isinstance(load, PointLoad) and load.kind == "moment"
    if not isinstance(load, Strain) and not load.direction.local:
        way = motion.direction(load.direction, turns, name)
        return [replace(load, members=tuple(i for i, _ in on), direction=way, text=text)]
    groups: dict[Vector, list[int]] = {}
    for i, p in on:
        groups.setdefault(p.moments if turns else p.forces, []).append(i)
    out: list[LineLoad | PointLoad | Strain] = []
    for signs, alike in groups.items():
        if isinstance(load, Strain):
            out.append(replace(load, members=tuple(alike), gradient_y=signs[1] * load.gradient_y,
                               gradient_z=signs[2] * load.gradient_z, text=text))  # fmt: skip
            continue
        x, y, z = (s * v for s, v in zip(signs, load.direction.vector, strict=True))
        way = replace(load.direction, vector=(x, y, z))
        out.append(replace(load, members=tuple(alike), direction=way, text=text))
    return out


def moved_node_load(load: NodeLoad, motion: Motion, nodes: tuple[int, ...], name: str) -> NodeLoad:
    """A load at the images of its nodes."""
    way = motion.direction(load.direction, load.kind == "moment", name)
    return replace(load, nodes=nodes, direction=way, text=f"{load.text}, {name}")


def moved_surface(s: Surface, motion: Motion, members: dict[int, int], name: str) -> Surface:
    """A surface; its normal is mirrored with it. `members`: the image of each member that may carry it, or itself."""
    corners = tuple(motion.point(p) for p in s.corners)
    deck = s.deck if isinstance(s.deck, str) else motion.way(s.deck)
    bearing = None if s.bearing is None else tuple(dict.fromkeys(members.get(m, m) for m in s.bearing))
    openings = tuple(tuple(motion.point(p) for p in loop) for loop in s.openings)
    plate = s.plate if s.plate is None or s.plate.along is None else replace(s.plate, along=motion.way(s.plate.along))
    if plate is not None and motion.mirrors:
        plate = replace(plate, hinged=tuple(sorted((len(corners) - 2 - k) % len(corners) for k in plate.hinged)))
    corners = corners[::-1] if motion.mirrors else corners
    return replace(s, name=name, plate=plate, corners=corners, openings=openings, deck=deck, bearing=bearing)


def moved_surface_load(load: SurfaceLoad, motion: Motion, surface: int, name: str) -> SurfaceLoad:
    """A load on the image of its surface; a gradient of temperature goes with the normal."""
    if isinstance(load, SurfaceStrain):
        return replace(load, surface=surface, text=f"{load.text}, {name}")
    way = (
        load.direction
        if load.direction.local
        else motion.direction(load.direction, isinstance(load, SurfaceForce) and load.turning, name)
    )
    text = f"{load.text}, {name}"
    if isinstance(load, SurfaceForce):
        return replace(load, surface=surface, at=motion.point(load.at), direction=way, text=text)
    a, b = (motion.point(p) for p in load.between)
    if isinstance(load, SurfaceLine):
        return replace(load, surface=surface, between=(a, b), direction=way, text=text)
    assert isinstance(load, AreaLoad)
    part = tuple(motion.point(p) for p in load.part)
    return replace(load, surface=surface, between=(a, b), part=part, direction=way, text=text)
