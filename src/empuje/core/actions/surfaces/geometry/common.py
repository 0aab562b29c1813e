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
    found = shapely.intersection(a, b)
    area = shapely.area(a) + shapely.area(b)
    wrong = np.abs(area - shapely.area(shapely.union(a, b)) - shapely.area(found)) > OFF * (1.0 + area)
    if not np.any(wrong):
        return found
    sure = shapely.intersection(a, b, grid_size=RASTER)
    return np.where(wrong, sure, found) if np.ndim(found) else sure
