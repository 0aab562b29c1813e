"""Surfaces, ways of vehicles, and loads as entries."""

from __future__ import annotations

import math
from typing import Any

from ...core.model.loads import END, START, DescribedLoad, LineLoad, NodeLoad, PointLoad, Strain, Vector
from ...core.model.surfaces import AreaLoad, Plate, Surface, SurfaceForce, SurfaceLine, SurfaceLoad, SurfaceStrain
from ...core.model.traffic import Traffic
from ...core.model.words import Carry
from ..base.directions import AXES
from .bare import Bare, Data, degrees

WAYS = ("way", "ways", "aside", "surface")


def plain_surface(bare: Bare, s: Surface) -> Data:
    """A surface by its corners."""
    out: Data = {"corners": [bare.point(p) for p in s.corners]}
    if s.openings:
        out["openings"] = [[bare.point(p) for p in loop] for loop in s.openings]
    if s.plate is not None:
        out |= plain_plate(bare, s.plate)
    elif s.carry == Carry.NODES:
        out["carry"] = str(s.carry)
    else:
        out["deck"] = s.deck if isinstance(s.deck, str) else _deck(bare, s.deck)
        if s.bearing is not None:
            out["bearing"] = bare.on(s.bearing)
    if s.floor:
        out["floor"] = s.floor
    return out


def plain_plate(bare: Bare, plate: Plate) -> Data:
    """What makes a surface structural."""
    out: Data = {
        "material": plate.material.name, "thickness": bare.number(plate.thickness, "length"),
        "acts": str(plate.acts),
    }  # fmt: skip
    pairs = {"bending": plate.bending, "stretching": plate.stretching}
    factors = {key: list(pair) for key, pair in pairs.items() if pair != (1.0, 1.0)}
    if factors:
        out["stiffness"] = factors
    if plate.ribs is not None:
        out["ribs"] = {k: bare.number(getattr(plate.ribs, k), "length") for k in ("depth", "width", "spacing")}
    if plate.along is not None:
        out["own_x"] = _deck(bare, plate.along)
    if plate.mesh is not None:
        out["mesh"] = bare.number(plate.mesh, "length")
    if plate.bed:
        out |= {"bed": bare.number(plate.bed, "bed")} | ({"lift": True} if plate.lift else {})
    if plate.raised:
        out["raised"] = bare.number(plate.raised, "length")
    if plate.hinged:
        out["hinged"] = [k + 1 for k in plate.hinged]
    return out | ({} if plate.footprints else {"footprints": False})


def _deck(bare: Bare, way: Vector) -> Any:
    axis = next((a for a, v in AXES.items() if v == way), None)
    if axis is not None:
        return axis
    if way[2] == 0:
        return degrees(math.atan2(way[1], way[0]))
    return [[0, 0, 0], [bare.number(v, "length") for v in way]]


def plain_traffic(bare: Bare, one: Traffic, written: Data) -> Data:
    """A traffic with its ways."""
    out: Data = {key: v for key, v in written.items() if key not in WAYS}
    out["ways"] = [
        [bare.members[m].name for m in way.members] if way.members else [bare.point(p) for p in way.points]
        for way in one.ways
    ]
    if any(way.aside for way in one.ways):
        out["aside"] = [bare.number(way.aside, "length") for way in one.ways]
    surfaces = dict.fromkeys(bare.surfaces[s] for way in one.ways for s in way.surfaces)
    return out | ({"surface": list(surfaces)} if surfaces else {})


def plain_crane(bare: Bare, one: Traffic, written: Data) -> Data:
    """A crane with the members of its runways."""
    return {**written, "runways": [[bare.members[m].name for m in own] for own in one.runways]}


def plain_load(bare: Bare, load: DescribedLoad) -> Data:
    """A load on members or nodes."""
    match load:
        case LineLoad():
            out: Data = {"on": bare.on(load.members), "line": _line(bare, load)}
            return out | bare.direction(load.direction) | ({"per": "projected"} if load.projected else {})
        case PointLoad():
            at = [bare.position(p) for p in load.positions]
            out = {"on": bare.on(load.members), load.kind: bare.number(load.value, load.kind)}
            out["at"] = at if len(at) > 1 else at[0]
            return out | _about(bare, load)
        case NodeLoad():
            nodes = [bare.nodes[n] for n in load.nodes]
            out = {"on": nodes if len(nodes) > 1 else nodes[0], load.kind: bare.number(load.value, load.kind)}
            return out | _about(bare, load)
        case Strain():
            of = {
                "temperature": "temperature",
                "gradient_y": "gradient",
                "gradient_z": "gradient",
                "lack_of_fit": "length",
            }
            changes = {key: bare.number(getattr(load, key), kind) for key, kind in of.items() if getattr(load, key)}
            return {"on": bare.on(load.members), **(changes or {"temperature": 0})}
    raise TypeError(load)


def _about(bare: Bare, load: PointLoad | NodeLoad) -> Data:
    """A moment always says its axis."""
    out = bare.direction(load.direction)
    return out or ({"dir": "-z"} if load.kind == "moment" else {})


def _line(bare: Bare, load: LineLoad) -> Any:
    values = [bare.number(v, "line") for _, v in load.points]
    if [p for p, _ in load.points] == [START, END]:
        return values[0] if values[0] == values[1] else values
    return [[bare.position(p), v] for (p, _), v in zip(load.points, values, strict=True)]


def plain_surface_load(bare: Bare, load: SurfaceLoad) -> Data:
    """A load on a surface."""
    out: Data = {"on": bare.surfaces[load.surface]}
    if isinstance(load, SurfaceStrain):
        strains = {"temperature": load.rise, "gradient": load.gradient}
        return out | {key: bare.number(v, key) for key, v in strains.items() if v}
    if isinstance(load, AreaLoad):
        a, b = (bare.number(v, "pressure") for v in load.values)
        out["area"] = a if a == b else [a, b]
        if a != b:
            out["along"] = [bare.point(p) for p in load.between]
        if load.part:
            out["part"] = [bare.point(p) for p in load.part]
        out |= {"per": "projected"} if load.projected else {}
    elif isinstance(load, SurfaceForce):
        kind = "moment" if load.turning else "force"
        out |= {kind: bare.number(load.value, kind), "at": bare.point(load.at)}
    elif isinstance(load, SurfaceLine):
        values = [bare.number(v, "line") for v in load.values]
        begin, end = (bare.point(p) for p in load.between)
        out |= {"line": values[0] if values[0] == values[1] else values, "from": begin, "to": end}
    return out | bare.direction(load.direction, normal=True)
