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
from .laid import Laid, along, lay_out
from .outline import Outline, lay, load_on
from .received import Received
from .spots import carry_force, carry_line

Floats = NDArray[np.float64]
REMEDY = "put a member there, turn the deck, or draw the surface smaller"
ASTRAY = 1e-7
LEFT = 1e-9
"""Less than this share of a load is rounding."""


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
            findings += _lost(there.outline, load, received) or _astray(there.outline, load, received, put)
    for i, there in laid.items():
        if not any(load.surface == i for load in project.surface_loads):
            findings += _bare(there, known.setdefault(i, {}))
    return gather(parts), findings


def _bare(laid: Laid, known: dict) -> list[Finding]:
    """Parts of an unloaded surface that nothing could carry."""
    outline = laid.outline
    received = carry_area(laid, outline.polygon, np.array([1.0, 0.0, 0.0]), True, known)
    if not received.lost:
        return []
    area, at = (np.concatenate(c) for c in zip(*received.lost, strict=True))
    if area.sum() <= LEFT * outline.polygon.area:
        return []
    place = outline.where(at[[int(area.argmax())]])
    return [Finding("warning", "bare-bay", f"nothing can carry {area.sum():.4g} m2 of surface {outline.surface.name}, "
                    f"at {place}", REMEDY, outline.surface.place)]  # fmt: skip


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
        wrong = _wrong(surface, there)
        findings += wrong
        if not wrong:
            laid[i] = there
    return laid, findings + _overlaps([there.outline for there in laid.values()])


def _wrong(surface: Surface, laid: Laid) -> list[Finding]:
    deck = surface.deck
    if surface.carry == "nodes":
        return []
    if not isinstance(deck, str) and not along(laid.outline, np.array(deck, float)).any():
        return [Finding("error", "bad-deck", f"the deck of surface {surface.name} would span out of its plane",
                        "give a direction that lies in it", surface.place)]  # fmt: skip
    if len(laid.bearings.member):
        return []
    named = "of `bearing` " if surface.bearing is not None else ""
    remedy = 'draw it where the members are, name others in `bearing`, or say carry = "nodes"'
    return [Finding("error", "no-bearing", f"no member {named}lies in the plane of surface {surface.name}, at "
                    f"{laid.outline.where(np.zeros((1, 2)))}", remedy, surface.place)]  # fmt: skip


def _overlaps(outlines: list[Outline]) -> list[Finding]:
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
                            "that is meant", b.surface.place)
                )  # fmt: skip
    return out


def _corners(outline: Outline) -> Floats:
    return np.asarray(shapely.get_coordinates(outline.polygon))


@dataclass(frozen=True)
class _Put:
    """What a load puts on every bay, or on the whole (bay 0) [N]; the loaded area [m2] of each."""

    force: dict[int, float]
    area: dict[int, float]


def _vector(outline: Outline, load: SurfaceLoad) -> Floats:
    vector = np.array(load.direction.vector)
    return np.asarray(vector[2] * outline.normal if load.direction.local else vector)


def _carried(laid: Laid, load: SurfaceLoad, known: dict) -> tuple[Received | None, _Put, list[Finding]]:
    outline = laid.outline

    def off(message: str, remedy: str) -> tuple[None, _Put, list[Finding]]:
        return None, _Put({}, {}), [Finding("error", "off-surface", message, remedy, load.place)]

    if isinstance(load, AreaLoad):
        loaded, message = _loaded(outline, load)
        if message:
            return off(message, "give corners of a part that lies in it")
        findings = []
        field = _field(outline, load)
        if load.projected and abs(_vector(outline, load) @ outline.normal) < 1e-9:
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


def _loaded(outline: Outline, load: AreaLoad) -> tuple[shapely.Geometry, str]:
    """The loaded part of the surface, or why it has none."""
    if not load.part:
        return outline.polygon, ""
    name = outline.surface.name
    if np.abs(outline.height(load.part)).max() > ON_LINE_TOLERANCE:
        return outline.polygon, f"the part does not lie in the plane of surface {name}"
    part = shapely.Polygon(outline.flat(load.part)) if len(load.part) > 2 else shapely.Polygon()
    if not part.is_valid or part.area <= 0:
        return outline.polygon, f"the part of surface {name} crosses itself or has no area"
    if not outline.polygon.buffer(ON_LINE_TOLERANCE).covers(part.difference(_holes(outline))):
        return outline.polygon, f"the part reaches out of surface {name}"
    return shapely.intersection(part, outline.polygon), ""


def _holes(outline: Outline) -> shapely.Geometry:
    return shapely.union_all([shapely.Polygon(r) for r in outline.polygon.interiors])


def _field(outline: Outline, load: AreaLoad) -> Floats:
    """Pressure as field . (1, u, v)."""
    a, b = np.array(load.between)
    step = b - a
    size = step @ step
    change = (load.values[1] - load.values[0]) / size if size and load.values[0] != load.values[1] else 0.0
    constant = load.values[0] + change * float(step @ (outline.origin - a))
    field = np.concatenate([[constant], change * (outline.axes[:2] @ step)])
    if load.projected:
        field *= abs(float(_vector(outline, load) @ outline.normal))
    return field


@dataclass(frozen=True)
class OnSurface:
    """An area load where it lies: the loaded part in u v, its direction (3,), and its pressure field . (1, u, v)."""

    outline: Outline
    loaded: shapely.Geometry
    vector: Floats
    field: Floats

    def at(self, flat: Floats) -> Floats:
        """Pressures [N/m2] at points (n, 2)."""
        return np.asarray(self.field[0] + flat @ self.field[1:])

    @property
    def range(self) -> tuple[float, float]:
        """Its least and greatest value; a linear one has them at corners."""
        values = self.at(shapely.get_coordinates(self.loaded))
        return float(values.min()), float(values.max())

    @property
    def largest(self) -> float:
        return max(abs(v) for v in self.range)


def on_surface(laid: Laid, load: AreaLoad) -> OnSurface:
    """Where and what an area load is."""
    outline = laid.outline
    return OnSurface(outline, _loaded(outline, load)[0], _vector(outline, load), _field(outline, load))


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
    vector = _vector(laid.outline, load)
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


def _lost(outline: Outline, load: SurfaceLoad, received: Received) -> list[Finding]:
    if not received.lost:
        return []
    force, at = (np.concatenate(c) for c in zip(*received.lost, strict=True))
    amount = float(force.sum())
    if np.abs(force).sum() <= LEFT * _size(outline, load):
        return []
    place = outline.where(at[[int(np.abs(force).argmax())]])
    how = "rests on no two members" if outline.surface.deck != TWO_WAY else "has no bearing edge"
    return [
        Finding("error", "not-carried", f"{amount / 1e3:.4g} kN of case {load.case} on surface {outline.surface.name} "
                f"cannot be carried: its deck {how} there, at {place}",
                REMEDY, load.place)
    ]  # fmt: skip


def _astray(outline: Outline, load: SurfaceLoad, received: Received, put: _Put) -> list[Finding]:
    """A last look: what was put on has to arrive."""
    gap = sum(put.force.values()) - received.total
    if abs(gap) <= ASTRAY * _size(outline, load):
        return []
    return [
        Finding("error", "not-carried", f"{gap / 1e3:.4g} kN of case {load.case} on surface {outline.surface.name} "
                "did not arrive on its members", "split the surface or the load in simpler ones", load.place)
    ]  # fmt: skip


def _size(outline: Outline, load: SurfaceLoad) -> float:
    if isinstance(load, SurfaceForce):
        return abs(load.value)
    reach = outline.polygon.area if isinstance(load, AreaLoad) else outline.size
    return max(abs(v) for v in load.values) * float(reach)


__all__ = ["OnSurface", "lay_surfaces", "on_surface", "surface_loads"]
