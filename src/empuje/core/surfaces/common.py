"""What shapes have in common, also where their edges run along one another within rounding.

>>> a, b = shapely.box(0, 0, 2, 2), shapely.box(1, 0, 3, 2)
>>> common(a, b).area, [float(shape.area) for shape in common(np.array([a, b]), b)]
(2.0, [2.0, 4.0])
"""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

RASTER = 1e-9
"""On so fine a raster [m] no edge is nearly another."""
OFF = 1e-9


def common(a: Any, b: Any) -> Any:
    """The intersection of two shapes, or of arrays of them.

    The geometry library may take nearly coincident edges for outer ones and return nothing, or all. Areas have to add
    up with the union; where they do not, the shapes are brought onto a raster first, which is sure, and slower."""
    try:
        found = shapely.intersection(a, b)
    except shapely.errors.GEOSException:  # edges that nearly touch may leave holes that it cannot place
        return shapely.intersection(_sound(a), _sound(b), grid_size=RASTER)
    area = shapely.area(a) + shapely.area(b)
    wrong = np.abs(area - shapely.area(shapely.union(a, b)) - shapely.area(found)) > OFF * (1.0 + area)
    # Both may be wrong alike: all of a shape for nothing of it, or the other way round.
    inside = shapely.point_on_surface(found)
    wrong |= (shapely.area(found) > 0) & ~(shapely.intersects(a, inside) & shapely.intersects(b, inside))
    least = np.minimum(shapely.area(a), shapely.area(b))
    wrong |= (shapely.area(found) < 0) | (shapely.area(found) > least + OFF * (1.0 + area))
    nothing = shapely.area(found) == 0
    if np.any(nothing):
        wrong |= nothing & shapely.relate_pattern(a, b, "T********")
    if not np.any(wrong):
        return found
    sure = shapely.intersection(areas_of(a), areas_of(b), grid_size=RASTER)
    return np.where(wrong, sure, found) if np.ndim(found) else sure


def _sound(shape: Any) -> Any:
    """Areas none of whose edges cross."""
    return areas_of(shapely.make_valid(areas_of(shape)))


def areas_of(shape: Any) -> Any:
    """What of a shape, or of each of some, has an area: lines and points where others touch are none of it, and go onto
    no raster together with areas.

    >>> line = shapely.LineString([(0, 0), (1, 1)])
    >>> areas_of(shapely.GeometryCollection([shapely.box(0, 0, 2, 2), line])).area
    4.0
    """
    if np.ndim(shape):
        return np.array([areas_of(one) for one in shape])
    return shapely.MultiPolygon([p for p in shapely.get_parts(shape) if isinstance(p, shapely.Polygon) and p.area > 0])


def without(a: shapely.Geometry, b: shapely.Geometry) -> shapely.Geometry:
    """What of a shape lies outside another one, as surely as `common`.

    >>> without(shapely.box(0, 0, 2, 2), shapely.box(1, 0, 3, 2)).area
    2.0
    """
    found = shapely.difference(a, b)
    off = shapely.area(a) - shapely.area(common(a, b)) - shapely.area(found)
    sound = abs(off) <= OFF * (1.0 + shapely.area(a)) and shapely.area(found) >= 0
    return found if sound else shapely.difference(areas_of(a), areas_of(b), grid_size=RASTER)
