"""What of a roof hangs over the walls."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from .building import Face

LEAST = 0.05
"""A strip narrower than this [m] is no overhang: walls stand on axes, sheets reach over them."""
SMALL = 1e-3


def outside_of(face: Face, footprint: shapely.Geometry | None) -> shapely.Geometry | None:
    """What of a face lies outside the walls in plan, in u v; None where that is nothing, or the walls enclose nothing."""
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
    return shapely.difference(face.outline.polygon, inside)


def parts_of(shape: shapely.Geometry) -> Iterator[shapely.Polygon]:
    """Its polygons, less slivers."""
    for part in shapely.get_parts(shape):
        if isinstance(part, shapely.Polygon) and part.area > 1e-8:
            yield part
