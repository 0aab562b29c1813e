"""What of a roof hangs over the walls."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.words import Side
from ...surfaces.geometry.common import common
from .roofs import Face
from .seen import Seen
from .zones import Stretch, Zone, cut

Floats = NDArray[np.float64]

LEAST = 0.05
"""A strip narrower than this [m] is no overhang: walls stand on axes, sheets reach over them."""
SMALL = 1e-3
THIN = 1e-3
MOST = 0.5
"""A face of which more than this lies outside the walls is no overhang: its walls are not there."""
STRAIGHT = 1e-7
"""A corner this little off a straight line [m] is none."""


def outside_of(face: Face, footprint: shapely.Geometry | None) -> shapely.Geometry | None:
    """What of a face lies outside the walls in plan, in u v; None where that is nothing, or the walls enclose nothing
    below most of the face."""
    over = _beyond(face, footprint)
    return None if over is None or shapely.area(over) > MOST * face.area else over


def unwalled(faces: Iterable[Face], footprint: shapely.Geometry | None) -> list[str]:
    """The names of faces that mostly lie outside the walls."""
    beyond = ((face, _beyond(face, footprint)) for face in faces)
    return [face.name for face, over in beyond if over is not None and shapely.area(over) > MOST * face.area]


def _beyond(face: Face, footprint: shapely.Geometry | None) -> shapely.Geometry | None:
    if footprint is None:
        return None
    n, corner = face.normal, face.outline.origin
    rings = []
    for part in shapely.get_parts(footprint):
        level = shapely.get_coordinates(part.exterior)
        z = corner[2] - (level - corner[:2]) @ n[:2] / n[2]
        rings.append(shapely.Polygon(face.outline.flat(np.column_stack([level, z]))))
    inside = shapely.union_all(rings)
    if (
        shapely.area(shapely.difference(face.outline.polygon, shapely.buffer(inside, LEAST, join_style="mitre")))
        < SMALL
    ):
        return None
    over = shapely.difference(face.outline.polygon, inside)
    # Edges of walls below the edges of the roof leave slivers: they are opened away.
    wide = shapely.buffer(shapely.buffer(over, -THIN, join_style="mitre"), THIN, join_style="mitre")
    return common(face.outline.polygon, wide)


def slope_zones(
    face: Face, seen: Seen, rows: Sequence[Stretch], below: Callable[[Floats], Iterable[Stretch]]
) -> list[Zone]:
    """The zones of a roof's face by its stretches. On what hangs over the walls nothing presses from inside, but what
    is `below`, given the corners (n, 2) of what the walls enclose in plan."""
    axes, footprint = (seen.along, seen.left), seen.building.footprint
    over = outside_of(face, footprint)
    if over is None or footprint is None:
        return cut(face, axes, rows, Side.ROOF, False)
    inner = _parts(shapely.difference(face.outline.polygon, over))
    zones = [z for part in inner for z in cut(face, axes, rows, Side.ROOF, False, part)]
    outside = [replace(r, name=f"{r.name}, overhang", inside=False) for r in rows]
    more = [replace(r, inside=False, extra=True) for r in below(shapely.get_coordinates(footprint))]
    return zones + [z for part in _parts(over) for z in cut(face, axes, [*outside, *more], Side.ROOF, False, part)]


def _parts(shape: shapely.Geometry) -> Iterator[shapely.Polygon]:
    """Its polygons, less slivers and corners that are none."""
    for part in shapely.get_parts(shape):
        if isinstance(part, shapely.Polygon) and part.area > 1e-8:
            yield shapely.simplify(part, STRAIGHT)
