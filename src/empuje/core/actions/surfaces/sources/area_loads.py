"""Where an area load lies on its surface, which way it acts, and how large it is there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.frame import ON_LINE_TOLERANCE
from ....model.surfaces import AreaLoad, SurfaceForce, SurfaceLine
from ....surfaces.common import common
from ....surfaces.plane import Outline
from ....surfaces.surface_geometry import SurfaceGeometry

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class OnSurface:
    """An area load where it lies: the loaded part in u v, its direction (3,), and its pressure field . (1, u, v); the
    `share` of its intensity as written that a unit of the surface's own area has."""

    outline: Outline
    loaded: shapely.Geometry
    vector: Floats
    field: Floats
    share: float = 1.0

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
        """The largest intensity, whatever its sign [N/m2]."""
        return max(abs(v) for v in self.range)


def on_surface(geometry: SurfaceGeometry, load: AreaLoad) -> OnSurface:
    """Where and what an area load is."""
    outline = geometry.outline
    way = direction_of(outline, load)
    share = abs(float(way @ outline.normal)) if load.projected else 1.0
    return OnSurface(outline, loaded_part(outline, load)[0], way, pressure_field(outline, load), share or 1.0)


def loaded_part(outline: Outline, load: AreaLoad) -> tuple[shapely.Geometry, str]:
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
    return common(part, outline.polygon), ""


def _holes(outline: Outline) -> shapely.Geometry:
    return shapely.union_all([shapely.Polygon(r) for r in outline.polygon.interiors])


def pressure_field(outline: Outline, load: AreaLoad) -> Floats:
    """Pressure as field . (1, u, v)."""
    a, b = np.array(load.between)
    step = b - a
    size = step @ step
    change = (load.values[1] - load.values[0]) / size if size and load.values[0] != load.values[1] else 0.0
    constant = load.values[0] + change * float(step @ (outline.origin - a))
    field = np.concatenate([[constant], change * (outline.axes[:2] @ step)])
    if load.projected:
        field *= abs(float(direction_of(outline, load) @ outline.normal))
    return field


def direction_of(outline: Outline, load: AreaLoad | SurfaceForce | SurfaceLine) -> Floats:
    """The unit vector (3,) an area load acts along, global; a local one is that of the surface."""
    vector = np.array(load.direction.vector)
    return np.asarray(vector[2] * outline.normal if load.direction.local else vector)
