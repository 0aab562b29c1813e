"""The snow of a project, worked out once.

rule -> roofs, what stands taller -> shapes by the code -> pieces on surfaces in each case -> plain loads"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding
from ...model.loads import Direction, PlainLoads, Source, SourcesOnDemand, Step
from ...model.project import Project
from ...model.snow import SnowRule
from ...model.surfaces import AreaLoad
from ...surfaces.common import common
from ..surfaces.sources.surface_loads import Surfaces
from ..wind.cases.spread import Applied, Spread, plain
from ..wind.shape.roofs import Face, face_of
from . import asce, en
from .roofs import SnowRoof, find_roofs
from .shapes import Drift, Layer, Shapes
from .steps import meetings, risers

Floats = NDArray[np.float64]
DOWN = (0.0, 0.0, -1.0)
NOTHING = 1e-8
"""Pieces smaller than this [m2] are none."""


@dataclass(frozen=True)
class SnowPiece:
    """A layer on a face in a case (numbers): the part in u v, all of the surface or not, the pressure per area of the
    surface as field . (1, u, v) [N/m2], its level area [m2] and its force [N], down."""

    case: int
    layer: Layer
    face: Face
    part: shapely.Polygon
    whole: bool
    field: Floats
    level: float
    force: float


@dataclass(frozen=True)
class Snow:
    """What came of the snow: roofs, the shapes on them, pieces of every case, and plain loads."""

    rule: SnowRule
    roofs: tuple[SnowRoof, ...]
    shapes: Shapes
    pieces: tuple[SnowPiece, ...] = ()
    loads: PlainLoads = field(default_factory=PlainLoads)

    @property
    def drifts(self) -> tuple[Drift, ...]:
        """Drifts and what slid."""
        return self.shapes.drifts

    def site(self) -> list[Step]:
        """What all roofs share."""
        return en.site_steps(self.rule) if self.rule.is_en else asce.site_steps(self.rule)

    def alike(self) -> dict[str, str]:
        """Cases with the same snow everywhere as an earlier one, and that one, by name."""
        first: dict[tuple[object, ...], str] = {}
        out = {}
        for k, case in enumerate(self.rule.cases):
            own = [p for p in self.pieces if p.case == k and p.force]
            key = tuple(sorted((p.face.surface, p.whole, p.part.wkb, tuple(np.round(p.field, 9))) for p in own))
            if key in first:
                out[case.name] = first[key]
            else:
                first[key] = case.name
        return out

    def area_loads(self, names: Collection[str] = ()) -> list[AreaLoad]:
        """The snow of the named cases, or of all, as loads on surfaces, for drawing."""
        cases = self.rule.cases
        return [_area_load(p, self.rule) for p in self.pieces if not names or cases[p.case].name in names]


def fall(project: Project, surfaces: Surfaces) -> tuple[Snow | None, list[Finding]]:
    """The snow of a project; None where it states none, or where what it states cannot be."""
    rule = project.snow
    if rule is None or not rule.known:
        return None, []
    roofs = find_roofs(surfaces, rule)
    walls = [[face_of(i, surfaces[i].outline, 0.0) for i in own if i in surfaces]
             for own in (rule.parapets, rule.obstructions)]  # fmt: skip
    code = en if rule.is_en else asce
    met = meetings(roofs, risers(roofs, walls[0], walls[1], rule.beside), code.REACH)
    shapes = code.shapes_of(rule, roofs, met)
    findings = list(shapes.findings)
    snow = Snow(rule, tuple(roofs), shapes)
    if any(f.level == "error" for f in findings):
        return snow, findings
    pieces = tuple(_pieces(rule, shapes))
    spread = Spread(surfaces)
    loads = _loads(project, spread, rule, pieces)
    for i, (share, where) in spread.lost.items():
        message = f"{100 * share:.3g} % of the snow on surface {project.surfaces[i].name} cannot be carried, at {where}"
        remedy = "put a member there, turn the deck, or draw the surface smaller"
        findings.append(Finding("error", "not-carried", message, remedy, rule.place))
    return replace(snow, pieces=pieces, loads=loads), findings


def _pieces(rule: SnowRule, shapes: Shapes) -> list[SnowPiece]:
    out = []
    known: dict[int, list[SnowPiece]] = {}
    for k, case in enumerate(rule.cases):
        for layer in shapes.layers.get((case.kind, case.direction), ()):
            if id(layer) not in known:
                known[id(layer)] = _of_layer(layer)
            own = [replace(p, case=k) for p in known[id(layer)]]
            if case.exceptional:
                times = rule.stated["C_esl"]
                more = (Step("C_esl", "exceptional: all of it times this", times, "", "4.3"),)
                own = [
                    replace(p, field=times * p.field, force=times * p.force,
                            layer=replace(p.layer, start=times * p.layer.start, end=times * p.layer.end,
                                          steps=(*p.layer.steps, *more)))
                    for p in own
                ]  # fmt: skip
            out += own
    return out


def _of_layer(layer: Layer) -> list[SnowPiece]:
    out = []
    for face in layer.pitch.faces:
        outline = face.outline
        # x y = origin + u v . axes, level
        shape, origin = outline.axes[:2, :2], outline.origin[:2]
        part: shapely.Geometry = outline.polygon
        whole = True
        if layer.region is not None:
            back = np.linalg.inv(shape)
            region = shapely.transform(layer.region, lambda xy: (xy - origin) @ back)  # noqa: B023
            part = common(outline.polygon, region)
            whole = bool(abs(part.area - outline.polygon.area) < NOTHING)
            part = outline.polygon if whole else part
        a, *slope = layer.field()
        flat = abs(float(outline.normal[2]))
        own = np.concatenate([[a + origin @ slope], shape @ np.array(slope)]) * flat
        for one in shapely.get_parts(part):
            if isinstance(one, shapely.Polygon) and one.area > NOTHING:
                centre = shapely.get_coordinates(shapely.centroid(one))[0]
                force = float(one.area * (own[0] + centre @ own[1:]))
                out.append(SnowPiece(0, layer, face, one, whole, own, float(one.area) * flat, force))
    return out


def _loads(project: Project, spread: Spread, rule: SnowRule, pieces: Sequence[SnowPiece]) -> PlainLoads:
    number = {name: i for i, name in enumerate(project.case_names)}
    column, part, amount, source = [], [], [], []
    for i, p in enumerate(pieces):
        name = rule.cases[p.case].name
        if name not in number or not p.force:
            continue
        even = not p.field[1:].any()
        column.append(number[name])
        part.append(
            spread.of(p.face.surface, p.part, p.whole) if even else spread.of(p.face.surface, p.part, p.whole, p.field)
        )
        amount.append(float(p.field[0]) if even else 1.0)
        source.append(i)
    n = len(column)
    applied = Applied(np.array(column, np.intp), np.array(part, np.intp), np.array(amount, float),
                      np.tile(np.array(DOWN), (n, 1)), np.array(source, np.intp))  # fmt: skip
    loads = plain(spread, applied)

    def make(i: int) -> Source:
        p = pieces[i]
        steps = (*p.layer.steps, Step("A", "level area", p.level, "m2"), Step("F", "down", p.force, "N"))
        text = f"snow, {p.layer.name} on {p.face.name}"
        return Source(text, rule.place, steps, p.face.name, rule.cases[p.case].name, (0.0, 0.0, -p.force))

    return replace(loads, sources=SourcesOnDemand(len(pieces), make))


def _area_load(piece: SnowPiece, rule: SnowRule) -> AreaLoad:
    """A piece as a load on its surface, per area seen from above."""
    flat = shapely.get_coordinates(piece.part.exterior)[:-1]
    solid = piece.face.outline.solid(flat)
    corners: list[tuple[float, float, float]] = [tuple(p) for p in solid.tolist()]
    share = abs(float(piece.face.outline.normal[2]))
    q = (piece.field[0] + flat @ piece.field[1:]) / share
    values, between = (float(q[0]),) * 2, (corners[0], corners[0])
    if piece.field[1:].any():
        # Straight along the steepest change of the pressure on the surface.
        way = piece.field[1:] / np.linalg.norm(piece.field[1:])
        along = flat @ way
        low, high = int(along.argmin()), int(along.argmax())
        ends = piece.face.outline.solid(np.array([flat[low], flat[low] + (along[high] - along[low]) * way]))
        values = (float(q[low]), float(q[high]))
        between = (tuple(ends[0].tolist()), tuple(ends[1].tolist()))
    text = f"{piece.layer.name}, {rule.cases[piece.case].name}"
    part = () if piece.whole else tuple(corners)
    case, down = rule.cases[piece.case].name, Direction(DOWN, text="down")
    return AreaLoad(case, piece.face.surface, values, between, down, True, part, text, rule.place, piece.layer.steps,
                    reducible=False, zone=piece.layer.name)  # fmt: skip
