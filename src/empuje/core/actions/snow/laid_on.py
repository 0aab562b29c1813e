"""Layers laid on surfaces: pieces of every case, and the plain loads that they make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding, Place
from ...model.loads import Direction, PlainLoads, Source, SourcesOnDemand, Step
from ...model.project import Project
from ...model.surfaces import AreaLoad
from ...surfaces.common import common
from ..faces import Face
from ..surfaces.sources.surface_loads import Surfaces
from ..wind.cases.spread import Applied, Spread, plain
from .shapes import Layer

Floats = NDArray[np.float64]
DOWN = (0.0, 0.0, -1.0)
NOTHING = 1e-8
"""Pieces smaller than this [m2] are none."""


@dataclass(frozen=True)
class LaidPiece:
    """A layer on a face in a case: the part in u v, all of the surface or not, the pressure per area of the surface as
    field . (1, u, v) [N/m2], its level area [m2] and its force [N], down."""

    case: str
    layer: Layer
    face: Face
    part: shapely.Polygon
    whole: bool
    field: Floats
    level: float
    force: float

    def times(self, factor: float, step: Step) -> LaidPiece:
        """So many times as much, with the step that says why."""
        layer = replace(self.layer, start=factor * self.layer.start, end=factor * self.layer.end,
                        steps=(*self.layer.steps, step))  # fmt: skip
        return replace(self, field=factor * self.field, force=factor * self.force, layer=layer)


def pieces_of(layer: Layer) -> list[LaidPiece]:
    """A layer on the faces of its pitch, of no case yet."""
    out = []
    reach = None if layer.region is None else shapely.bounds(layer.region)
    for face in layer.pitch.faces:
        outline = face.outline
        if reach is not None:
            low, high = face.corners[:, :2].min(axis=0), face.corners[:, :2].max(axis=0)
            if (low >= reach[2:]).any() or (high <= reach[:2]).any():
                continue
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
                out.append(LaidPiece("", layer, face, one, whole, own, float(one.area) * flat, force))
    return out


def loads_of(
    project: Project, surfaces: Surfaces, pieces: Sequence[LaidPiece], what: str, place: Place
) -> tuple[PlainLoads, list[Finding]]:
    """The plain loads of pieces of snow or rain, and errors where surfaces cannot carry them."""
    spread = Spread(surfaces)
    number = {name: i for i, name in enumerate(project.case_names)}
    column, part, amount, source = [], [], [], []
    for i, p in enumerate(pieces):
        if p.case not in number or not p.force:
            continue
        even = not p.field[1:].any()
        column.append(number[p.case])
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
        text = f"{what}, {p.layer.name} on {p.face.name}"
        return Source(text, place, steps, p.face.name, p.case, (0.0, 0.0, -p.force))

    lost = []
    for i, (share, where) in spread.lost.items():
        message = (
            f"{100 * share:.3g} % of the {what} on surface {project.surfaces[i].name} cannot be carried, at {where}"
        )
        remedy = "put a member there, turn the deck, or draw the surface smaller"
        lost.append(Finding("error", "not-carried", message, remedy, place))
    return replace(loads, sources=SourcesOnDemand(len(pieces), make)), lost


def area_load_of(piece: LaidPiece, place: Place) -> AreaLoad:
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
    text = f"{piece.layer.name}, {piece.case}"
    part = () if piece.whole else tuple(corners)
    down = Direction(DOWN, text="down")
    return AreaLoad(piece.case, piece.face.surface, values, between, down, True, part, text, place, piece.layer.steps,
                    reducible=False, zone=piece.layer.name)  # fmt: skip
