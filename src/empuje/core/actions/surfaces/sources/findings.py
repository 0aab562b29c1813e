"""What there is to say about surfaces and what lies on them: nothing is lost without a word."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.frame import ON_LINE_TOLERANCE
from ....model.project import Project
from ....model.surfaces import TWO_WAY, AreaLoad, Surface, SurfaceForce, SurfaceLine
from ....model.words import Carry
from ....surfaces.plane import Outline, just_off
from ....surfaces.surface_geometry import SurfaceGeometry, along
from ..distribution.collector import Collector
from ..distribution.distribute import distribute_area
from ..distribution.two_way_moments import first_moments

Floats = NDArray[np.float64]
REMEDY = "put a member there, turn the deck, or draw the surface smaller"
ASTRAY, LEFT = 1e-7, 1e-9
"""Less than this share of a load is rounding."""
FAR_ASIDE = 0.02
"""A resultant that two-way shares move by more than this share of the surface's size is told."""


def what_is_wrong(surface: Surface, geometry: SurfaceGeometry) -> list[Finding]:
    """Why a surface cannot carry anything, if that is so."""
    deck = surface.deck
    if surface.carry == Carry.NODES:
        return []
    if not isinstance(deck, str) and not along(geometry.outline, np.array(deck, float)).any():
        return [Finding("error", "bad-deck", f"the deck of surface {surface.name} would span out of its plane",
                        "give a direction that lies in it", surface.place)]  # fmt: skip
    if len(geometry.bearings.member):
        return []
    named = "of `bearing` " if surface.bearing is not None else ""
    remedy = 'draw it where the members are, name others in `bearing`, or say carry = "nodes"'
    return [Finding("error", "no-bearing", f"no member {named}lies in the plane of surface {surface.name}, at "
                    f"{geometry.outline.where(np.zeros((1, 2)))}", remedy, surface.place)]  # fmt: skip


def nearly_bearing(project: Project, outline: Outline) -> list[Finding]:
    """Members a few millimetres out of the plane: they carry nothing of the surface."""
    if outline.surface.carry == Carry.NODES:
        return []
    return [
        Finding("warning", "just-off", f"{project.members[m].name} lies {1e3 * away:.3g} mm off the plane of surface "
                f"{outline.surface.name}, and carries nothing of it", "move its nodes or the corners, or leave it "
                "out of `bearing` if that is intended", project.members[m].place)
        for m, away in just_off(outline, project)
    ]  # fmt: skip


def overlaps(outlines: list[Outline]) -> list[Finding]:
    """Surfaces in one plane that cover the same ground."""
    out: list[Finding] = []
    if len(outlines) < 2:
        return out
    boxes = np.array([[*o.solid(_corners(o)).min(axis=0), *o.solid(_corners(o)).max(axis=0)] for o in outlines])
    for i, a in enumerate(outlines):
        near = (boxes[:, :3] < boxes[i, 3:] + ON_LINE_TOLERANCE) & (boxes[:, 3:] > boxes[i, :3] - ON_LINE_TOLERANCE)
        for j in np.flatnonzero(near.all(axis=1)):
            b = outlines[j]
            corners = b.solid(_corners(b))
            if j <= i or np.abs(a.height(corners)).max() > ON_LINE_TOLERANCE:
                continue
            holes = [a.flat(b.solid(shapely.get_coordinates(r))) for r in b.polygon.interiors]
            other = shapely.Polygon(a.flat(b.solid(shapely.get_coordinates(b.polygon.exterior))), holes)
            both = shapely.intersection(a.polygon, other)
            if both.area > 10 * ON_LINE_TOLERANCE * max(a.size, 1.0):
                at = a.where(shapely.get_coordinates(shapely.point_on_surface(both)))
                out.append(
                    Finding("warning", "overlap", f"surfaces {a.surface.name} and {b.surface.name} cover the same "
                            f"{both.area:.4g} m2 at {at}", "both loads count there; draw one of them smaller unless "
                            "that is intended", b.surface.place)
                )  # fmt: skip
    return out


def _corners(outline: Outline) -> Floats:
    return np.asarray(shapely.get_coordinates(outline.polygon))


def bare(geometry: SurfaceGeometry) -> list[Finding]:
    """Parts of an unloaded surface that nothing could carry."""
    outline = geometry.outline
    received = distribute_area(geometry, outline.polygon, np.array([1.0, 0.0, 0.0]), True)
    if not received.lost:
        return []
    area, at = (np.concatenate(c) for c in zip(*received.lost, strict=True))
    if area.sum() <= LEFT * outline.polygon.area:
        return []
    place = outline.where(at[[int(area.argmax())]])
    return [Finding("warning", "unsupported-bay", f"no member can support {area.sum():.4g} m2 of surface "
                    f"{outline.surface.name}, at {place}", REMEDY, outline.surface.place)]  # fmt: skip


def lost(outline: Outline, load: AreaLoad | SurfaceForce | SurfaceLine, received: Collector) -> list[Finding]:
    """What to say of a load of which a part reached no member."""
    if not received.lost:
        return []
    force, at = (np.concatenate(c) for c in zip(*received.lost, strict=True))
    amount = float(force.sum())
    if np.abs(force).sum() <= LEFT * size_of(outline, load):
        return []
    place = outline.where(at[[int(np.abs(force).argmax())]])
    how = "its deck rests on no two members there" if outline.surface.deck != TWO_WAY else (
        "its deck has no bearing edge there" if outline.surface.carry != Carry.NODES else "no node lies on it"
    )  # fmt: skip
    remedy = REMEDY if outline.surface.carry != Carry.NODES else "put nodes of members there, or let members support it"
    return [
        Finding("error", "not-carried", f"{amount / 1e3:.4g} kN of case {load.case} on surface {outline.surface.name} "
                f"cannot be carried: {how}, at {place}", remedy, load.place)
    ]  # fmt: skip


def astray(
    geometry: SurfaceGeometry,
    load: AreaLoad | SurfaceForce | SurfaceLine,
    received: Collector,
    put: float,
    moments: Floats,
) -> list[Finding]:
    """A last look: what was put on [N] has to arrive, and with the first moments (2,) it was put on with [N m]."""
    outline, name = geometry.outline, geometry.outline.surface.name
    gap, size = put - received.total, size_of(geometry.outline, load)
    if abs(gap) > ASTRAY * size:
        return [
            Finding("error", "not-carried", f"{gap / 1e3:.4g} kN of case {load.case} on surface {name} "
                    "did not arrive on its members", "split the surface or the load in simpler ones", load.place)
        ]  # fmt: skip
    off = float(np.linalg.norm(moments - moments_of(geometry, received)))
    words = f"{put / 1e3:.4g} kN of case {load.case} on surface {name} {'arrive' if put else 'arrives'}"
    # Within a millimetre of a member's end is at its end.
    if outline.surface.carry == Carry.NODES:
        if off > size * (1e-4 * outline.size + ON_LINE_TOLERANCE):
            message = f"{words} {off / size:.3g} m beside where it lies: the nodes of the surface are on one line"
            return [Finding("warning", "moved-aside", message, "give it nodes on both sides, or draw it on the line",
                            load.place, about=(name, load.case))]  # fmt: skip
    elif outline.surface.plate is not None or outline.surface.deck != TWO_WAY:
        if off > size * (1e-6 * outline.size + ON_LINE_TOLERANCE):
            message = f"{words} {off / size:.3g} m beside where it lies"
            return [
                Finding("error", "not-carried", message, "split the surface or the load in simpler ones", load.place)
            ]
    elif off > FAR_ASIDE * size * outline.size:
        message = f"{words} {off / size:.3g} m beside where it lies: two-way shares keep force, and no moments"
        return [Finding("note", "moved-aside", message, "give it a one-way deck where that matters", load.place,
                        about=(name, load.case))]  # fmt: skip
    return []


def moments_of(geometry: SurfaceGeometry, received: Collector) -> Floats:
    """The first moments (2,) in u v of what members and nodes received [N m]."""
    project, outline = geometry.project, geometry.outline
    total = np.zeros(2)
    for _, moments in first_moments(geometry, received):
        total += moments.sum(axis=0)
    for node, force, _ in received.nodes:
        total += force @ outline.flat(project.places[node])
    for force, at in received.lost:
        total += force @ at
    return total


def size_of(outline: Outline, load: AreaLoad | SurfaceForce | SurfaceLine) -> float:
    """About how much a load on a surface is [N], to tell rounding from a loss."""
    if isinstance(load, SurfaceForce):
        return abs(load.value)
    reach = outline.polygon.area if isinstance(load, AreaLoad) else outline.size
    return max(abs(v) for v in load.values) * float(reach)
