"""Area loads, forces and lines of load on surfaces, as loads on the members and nodes that carry them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.frame import ON_LINE_TOLERANCE
from ....model.loads import AtNodes, Lines, PlainLoads, PlateStrains, Points, Source, Step, gather
from ....model.project import Project
from ....model.surfaces import (
    SHORT,
    TWO_WAY,
    AreaLoad,
    Surface,
    SurfaceForce,
    SurfaceLine,
    SurfaceLoad,
    SurfaceStrain,
)
from ....model.words import Carry, PlateActs
from ....surfaces.common import common
from ....surfaces.mesh.located import mesh_of
from ....surfaces.plane import load_on, moments_on, plane_of
from ....surfaces.surface_geometry import SurfaceGeometry, geometry_of
from ..distribution.collector import Collector
from ..distribution.distribute import distribute_area
from ..distribution.point_loads import distribute_force, distribute_line
from .area_loads import direction_of, loaded_part, pressure_field
from .findings import astray, bare, lost, nearly_bearing, overlaps, what_is_wrong

Floats = NDArray[np.float64]


Surfaces = Mapping[int, SurfaceGeometry]
"""The geometry of the surfaces that can carry something, by their index in the project."""


def surface_geometries(project: Project) -> tuple[Surfaces, list[Finding]]:
    """The surfaces laid out, and what is wrong with those that can carry nothing."""
    good: dict[int, SurfaceGeometry] = {}
    findings: list[Finding] = []
    for i, surface in enumerate(project.surfaces):
        outline, found = plane_of(surface)
        findings += found
        if outline is None:
            continue
        mesh = mesh_of(project, i, outline)
        if surface.plate is not None and mesh is None:  # why it could not be cut is said elsewhere
            continue
        if mesh is not None and mesh.covered is not None:  # so that what is put on is what the elements receive
            outline = replace(outline, polygon=mesh.covered)
        geometry = geometry_of(project, outline, mesh)
        wrong = what_is_wrong(surface, geometry)
        findings += wrong
        findings += nearly_bearing(project, outline)
        if not wrong:
            good[i] = geometry
    return good, findings + overlaps([geometry.outline for geometry in good.values()])


def surface_loads(project: Project, surfaces: Surfaces) -> tuple[PlainLoads, list[Finding]]:
    """Plain loads of everything on surfaces, and what there is to say about them."""
    loads, findings = loads_on(project, surfaces, project.surface_loads)
    loaded = {load.surface for load in project.surface_loads}
    for i, geometry in surfaces.items():
        if i not in loaded:
            findings += bare(geometry)
    return loads, findings


def loads_on(project: Project, surfaces: Surfaces, loads: Iterable[SurfaceLoad]) -> tuple[PlainLoads, list[Finding]]:
    """Plain loads of the given loads on surfaces, and what is lost of them."""
    case = {name: i for i, name in enumerate(project.case_names)}
    findings: list[Finding] = []
    parts = []
    for load in loads:
        if load.surface not in surfaces:
            continue
        if isinstance(load, SurfaceStrain):
            parts.append(_strained(load, case[load.case]))
            continue
        geometry = surfaces[load.surface]
        received, put, found = _carried(geometry, load)
        findings += found
        if received is not None:
            parts.append(_plain(geometry, load, case[load.case], received, put))
            findings += lost(geometry.outline, load, received) or astray(
                geometry, load, received, sum(put.force.values()), put.moments
            )
    return gather(parts), findings


Put = AreaLoad | SurfaceForce | SurfaceLine
"""Loads that are put on a surface."""


@dataclass(frozen=True)
class _Put:
    """What a load puts on every bay, or on the whole (bay 0) [N]; the loaded area [m2] of each; the first moments (2,)
    of all of it in u v [N m]."""

    force: dict[int, float]
    area: dict[int, float]
    moments: Floats


def _strained(load: SurfaceStrain, case: int) -> PlainLoads:
    one = np.zeros(1, np.intp)
    rows = PlateStrains(one + case, one, one + load.surface, np.array([[load.rise, load.gradient]]))
    return PlainLoads(plate_strains=rows, sources=(Source(load.text, load.place),))


def _carried(geometry: SurfaceGeometry, load: Put) -> tuple[Collector | None, _Put, list[Finding]]:
    outline = geometry.outline

    def off(message: str, remedy: str) -> tuple[None, _Put, list[Finding]]:
        return None, _Put({}, {}, np.zeros(2)), [Finding("error", "off-surface", message, remedy, load.place)]

    if isinstance(load, AreaLoad):
        loaded, message = loaded_part(outline, load)
        if message:
            return off(message, "give corners of a part that lies in it")
        findings = []
        field = pressure_field(outline, load)
        if load.projected and abs(direction_of(outline, load) @ outline.normal) < 1e-9:
            message = (
                f"surface {outline.surface.name} is not seen along {load.direction.text}: its projected area is zero"
            )
            findings = [Finding("warning", "no-projection", message, "drop `per`", load.place)]
        put = _put_on(geometry, loaded, field, not load.part)
        return distribute_area(geometry, loaded, field, not load.part), put, findings
    points = (load.at,) if isinstance(load, SurfaceForce) else load.between
    flat = outline.flat(points)
    away = shapely.distance(outline.polygon, shapely.points(flat))
    if np.abs(outline.height(points)).max() > ON_LINE_TOLERANCE or away.max() > ON_LINE_TOLERANCE:
        worst = points[int(np.maximum(np.abs(outline.height(points)), away).argmax())]
        at = ", ".join(f"{v:.4g}" for v in worst)
        return off(f"({at}) m does not lie on surface {outline.surface.name}", "give a place on it")
    if isinstance(load, SurfaceForce):
        return distribute_force(geometry, flat[0], load.value), _Put({0: load.value}, {}, load.value * flat[0]), []
    length = float(np.linalg.norm(flat[1] - flat[0]))
    if length <= ON_LINE_TOLERANCE:
        return off("the line has no length", "give two different points")
    if not shapely.buffer(outline.polygon, ON_LINE_TOLERANCE).covers(shapely.LineString(flat)):
        return off(f"the line leaves surface {outline.surface.name}", "end it at its edge or opening")
    total = length * sum(load.values) / 2
    a, b = load.values
    moments = length / 6 * ((2 * a + b) * flat[0] + (a + 2 * b) * flat[1])
    return distribute_line(geometry, flat, load.values), _Put({0: total}, {}, moments), []


def _put_on(geometry: SurfaceGeometry, loaded: shapely.Geometry, field: Floats, whole: bool) -> _Put:
    moments = moments_on(loaded, field)
    if geometry.outline.surface.carry == Carry.NODES:
        return _Put({0: load_on(loaded, field)}, {0: float(shapely.area(loaded))}, moments)
    shapes = geometry.bays.polygons if whole else common(geometry.bays.polygons, loaded)
    area = shapely.area(shapes)
    centre = np.zeros((len(shapes), 2))
    some = area > 0
    centre[some] = shapely.get_coordinates(shapely.centroid(shapes[some]))
    force = area * (field[0] + centre @ field[1:])
    forces, areas = (np.bincount(geometry.bays.number, v) for v in (force, area))
    there = np.flatnonzero(np.bincount(geometry.bays.number, some) > 0)
    return _Put({int(k): float(forces[k]) for k in there}, {int(k): float(areas[k]) for k in there}, moments)


def _plain(geometry: SurfaceGeometry, load: Put, case: int, received: Collector, put: _Put) -> PlainLoads:
    """Plain loads from what members and nodes received, with a source for every bay."""
    vector = direction_of(geometry.outline, load)
    member, s0, s1, q0, q1, bay = received.joined_lines()
    none = (np.zeros(0, np.intp), np.zeros(0), np.zeros(0), np.zeros(0, np.intp))
    point, s, force, point_bay = (np.concatenate(c) for c in zip(*received.points, none, strict=True))
    nobody = (np.zeros(0, np.intp), np.zeros(0), np.zeros(0, np.intp))
    node, share, node_bay = (np.concatenate(c) for c in zip(*received.nodes, nobody, strict=True))
    if not isinstance(load, AreaLoad):  # one source for a force or a line, whatever bays it crosses
        bay, point_bay = np.zeros_like(bay), np.zeros_like(point_bay)
    numbers = np.unique(np.concatenate([bay, point_bay, node_bay, np.array(list(put.force), np.intp)])).astype(np.intp)
    sources = tuple(_source(geometry, load, int(k), put, vector) for k in numbers)
    bay, point_bay, node_bay = (np.searchsorted(numbers, b) for b in (bay, point_bay, node_bay))

    turns = isinstance(load, SurfaceForce) and load.turning

    def six(amount: Floats) -> Floats:
        parts = [amount[:, None] * vector, np.zeros((len(amount), 3))]
        return np.hstack(parts[::-1] if turns else parts)

    at_nodes = [AtNodes(np.full(len(node), case), node_bay, node, six(share))]
    at_nodes += _across(geometry, vector, case, received)
    return PlainLoads(
        Lines(np.full(len(member), case), bay, member, s0, s1, q0[:, None] * vector, q1[:, None] * vector),
        Points(np.full(len(point), case), point_bay, point, s, six(force)),
        at_nodes[0].concat(at_nodes),
        sources=sources,
    )


def _across(geometry: SurfaceGeometry, vector: Floats, case: int, received: Collector) -> Iterator[AtNodes]:
    """What nodes of a plate receive besides, of a load along a direction (3,) with something along each line's own."""
    plate = geometry.outline.surface.plate
    if plate is None or plate.acts == PlateActs.BENDING:
        return
    for node, force, moment, flat in received.across:
        way = flat @ geometry.outline.axes[:2]
        part = float(vector @ way)
        if abs(part) > ACROSS and len(node):
            rows = np.hstack([force[:, None] * part * way, moment[:, None] * part * geometry.outline.normal])
            yield AtNodes(np.full(len(node), case), np.zeros(len(node), np.intp), node, rows)


ACROSS = 1e-9
"""Below this a direction has nothing across a line."""


def _source(geometry: SurfaceGeometry, load: Put, bay: int, put: _Put, vector: Floats) -> Source:
    surface = geometry.outline.surface
    steps = [] if isinstance(load, SurfaceForce) else list(load.steps)
    if bay in put.area:
        steps.append(Step("A", f"loaded area of bay {bay}" if bay else "loaded area", put.area[bay], "m2"))
    force = put.force.get(bay, 0.0)
    area, turns = isinstance(load, AreaLoad), isinstance(load, SurfaceForce) and load.turning
    words = f"{'pressure over this area' if area else 'all of it'}, {_way(surface, area)}"
    steps.append(Step("M" if turns else "F", words, force, "N m" if turns else "N"))
    if turns:
        vector = np.zeros(3)
    text = f"{load.text}, bay {bay}" if bay else load.text
    return Source(text, load.place, tuple(steps), surface.name, load.case, tuple(float(v) for v in force * vector))  # type: ignore[arg-type]


def _way(surface: Surface, area: bool) -> str:
    if surface.plate is not None:
        return "to the elements of the surface where it lies"
    if surface.carry == Carry.NODES:
        return "to the nodes of the surface, by shares that keep its moments"
    if surface.deck == TWO_WAY:
        shared = "shared between strips along and across the bay by L/(a b)^2, then by the lever rule"
        return f"two-way: {'every point to the nearest bearing edge' if area else shared}"
    way = "the shorter way" if surface.deck == SHORT else "along the deck"
    return f"one-way, {way}: " + ("each strip a simple beam between members" if area else "by the lever rule")
