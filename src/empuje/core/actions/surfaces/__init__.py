"""Area loads, forces and lines of load on surfaces, as loads on the members and nodes that carry them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding
from ...model.frame import ON_LINE_TOLERANCE
from ...model.loads import PlainLoads, Source, Step, gather
from ...model.project import Project
from ...model.surfaces import SHORT, TWO_WAY, AreaLoad, Surface, SurfaceForce, SurfaceLoad
from .carry import carry_area
from .findings import astray, bare, lost, nearly_bearing, overlaps, what_is_wrong
from .laid import Laid, lay_out
from .outline import lay, load_on
from .placed import OnSurface, direction_of, loaded_part, on_surface, pressure_field
from .received import Received
from .spots import carry_force, carry_line

Floats = NDArray[np.float64]


def surface_loads(project: Project) -> tuple[PlainLoads, list[Finding]]:
    """Plain loads of everything on surfaces, and what there is to say about surfaces."""
    laid, findings = lay_surfaces(project)
    case = {name: i for i, name in enumerate(project.case_names)}
    known: dict[int, dict] = {}
    parts = []
    for load in project.surface_loads:
        if load.surface not in laid:
            continue
        there = laid[load.surface]
        received, put, found = _carried(there, load, known.setdefault(load.surface, {}))
        findings += found
        if received is not None:
            parts.append(_plain(there, load, case[load.case], received, put))
            findings += lost(there.outline, load, received) or astray(
                there.outline, load, received, sum(put.force.values())
            )
    for i, there in laid.items():
        if not any(load.surface == i for load in project.surface_loads):
            findings += bare(there, known.setdefault(i, {}))
    return gather(parts), findings


def lay_surfaces(project: Project) -> tuple[dict[int, Laid], list[Finding]]:
    """The surfaces that can carry something, by their index, and what is wrong with the others."""
    laid: dict[int, Laid] = {}
    findings: list[Finding] = []
    for i, surface in enumerate(project.surfaces):
        outline, found = lay(surface)
        findings += found
        if outline is None:
            continue
        there = lay_out(project, outline)
        wrong = what_is_wrong(surface, there)
        findings += wrong
        findings += nearly_bearing(project, outline)
        if not wrong:
            laid[i] = there
    return laid, findings + overlaps([there.outline for there in laid.values()])


@dataclass(frozen=True)
class _Put:
    """What a load puts on every bay, or on the whole (bay 0) [N]; the loaded area [m2] of each."""

    force: dict[int, float]
    area: dict[int, float]


def _carried(laid: Laid, load: SurfaceLoad, known: dict) -> tuple[Received | None, _Put, list[Finding]]:
    outline = laid.outline

    def off(message: str, remedy: str) -> tuple[None, _Put, list[Finding]]:
        return None, _Put({}, {}), [Finding("error", "off-surface", message, remedy, load.place)]

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
        put = _put_on(laid, loaded, field, not load.part)
        return carry_area(laid, loaded, field, not load.part, known), put, findings
    points = (load.at,) if isinstance(load, SurfaceForce) else load.between
    flat = outline.flat(points)
    away = shapely.distance(outline.polygon, shapely.points(flat))
    if np.abs(outline.height(points)).max() > ON_LINE_TOLERANCE or away.max() > ON_LINE_TOLERANCE:
        worst = points[int(np.maximum(np.abs(outline.height(points)), away).argmax())]
        at = ", ".join(f"{v:.4g}" for v in worst)
        return off(f"({at}) m does not lie on surface {outline.surface.name}", "give a place on it")
    if isinstance(load, SurfaceForce):
        return carry_force(laid, flat[0], load.value), _Put({0: load.value}, {}), []
    length = float(np.linalg.norm(flat[1] - flat[0]))
    if length <= ON_LINE_TOLERANCE:
        return off("the line has no length", "give two different points")
    if not shapely.buffer(outline.polygon, ON_LINE_TOLERANCE).covers(shapely.LineString(flat)):
        return off(f"the line leaves surface {outline.surface.name}", "end it at its edge or opening")
    total = length * sum(load.values) / 2
    return carry_line(laid, flat, load.values), _Put({0: total}, {}), []


def _put_on(laid: Laid, loaded: shapely.Geometry, field: Floats, whole: bool) -> _Put:
    if laid.outline.surface.carry == "nodes":
        return _Put({0: load_on(loaded, field)}, {0: float(shapely.area(loaded))})
    shapes = laid.bays.polygons if whole else shapely.intersection(laid.bays.polygons, loaded)
    area = shapely.area(shapes)
    centre = np.zeros((len(shapes), 2))
    some = area > 0
    centre[some] = shapely.get_coordinates(shapely.centroid(shapes[some]))
    force = area * (field[0] + centre @ field[1:])
    forces, areas = (np.bincount(laid.bays.number, v) for v in (force, area))
    there = np.flatnonzero(np.bincount(laid.bays.number, some) > 0)
    return _Put({int(k): float(forces[k]) for k in there}, {int(k): float(areas[k]) for k in there})


def _plain(laid: Laid, load: SurfaceLoad, case: int, received: Received, put: _Put) -> PlainLoads:
    """Plain loads with a source for every bay."""
    vector = direction_of(laid.outline, load)
    member, s0, s1, q0, q1, bay = received.joined_lines()
    none = (np.zeros(0, np.intp), np.zeros(0), np.zeros(0), np.zeros(0, np.intp))
    point, s, force, point_bay = (np.concatenate(c) for c in zip(*received.points, none, strict=True))
    nobody = (np.zeros(0, np.intp), np.zeros(0), np.zeros(0, np.intp))
    node, share, node_bay = (np.concatenate(c) for c in zip(*received.nodes, nobody, strict=True))
    if not isinstance(load, AreaLoad):  # one source for a force or a line, whatever bays it crosses
        bay, point_bay = np.zeros_like(bay), np.zeros_like(point_bay)
    numbers = np.unique(np.concatenate([bay, point_bay, node_bay, np.array(list(put.force), np.intp)])).astype(np.intp)
    sources = tuple(_source(laid, load, int(k), put, vector) for k in numbers)
    bay, point_bay, node_bay = (np.searchsorted(numbers, b) for b in (bay, point_bay, node_bay))
    return PlainLoads(
        line_case=np.full(len(member), case), line_member=member, line_source=bay, line_s0=s0, line_s1=s1,
        line_q0=q0[:, None] * vector, line_q1=q1[:, None] * vector,
        point_case=np.full(len(point), case), point_member=point, point_source=point_bay, point_s=s,
        point_f=np.hstack([force[:, None] * vector, np.zeros((len(point), 3))]),
        node_case=np.full(len(node), case), node_node=node, node_source=node_bay,
        node_f=np.hstack([share[:, None] * vector, np.zeros((len(node), 3))]),
        sources=sources,
    )  # fmt: skip


def _source(laid: Laid, load: SurfaceLoad, bay: int, put: _Put, vector: Floats) -> Source:
    surface = laid.outline.surface
    steps = list(load.steps) if isinstance(load, AreaLoad) else []
    if bay in put.area:
        steps.append(Step("A", f"loaded area of bay {bay}" if bay else "loaded area", put.area[bay], "m2"))
    force = put.force.get(bay, 0.0)
    area = isinstance(load, AreaLoad)
    steps.append(Step("F", f"{'pressure over this area' if area else 'all of it'}, {_way(surface, area)}", force, "N"))
    text = f"{load.text}, bay {bay}" if bay else load.text
    return Source(text, load.place, tuple(steps), surface.name, load.case, tuple(float(v) for v in force * vector))  # type: ignore[arg-type]


def _way(surface: Surface, area: bool) -> str:
    if surface.carry == "nodes":
        return "to the nearest nodes of the surface"
    if surface.deck == TWO_WAY:
        shared = "shared between strips along and across the bay by L/(a b)^2, then by the lever rule"
        return f"two-way: {'every point to the nearest bearing edge' if area else shared}"
    way = "the shorter way" if surface.deck == SHORT else "along the deck"
    return f"one-way, {way}: " + ("each strip a simple beam between members" if area else "by the lever rule")


__all__ = ["OnSurface", "lay_surfaces", "on_surface", "surface_loads"]
