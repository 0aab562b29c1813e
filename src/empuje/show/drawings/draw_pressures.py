"""What lies on surfaces, drawn on them: pressures as shaded outlines with arrows, forces and lines of load."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.actions.surfaces.sources.area_loads import direction_of, on_surface
from ...core.actions.surfaces.sources.surface_loads import Surfaces
from ...core.model.results import Result
from ...core.model.surfaces import AreaLoad, SurfaceForce, SurfaceLoad, SurfaceStrain
from ...core.resolved import Resolved
from ..display import Display
from .canvas import GRID, LOAD, OWN, POINT, Sheet, Tops, span
from .symbols import draw_supports
from .view import View

Floats = NDArray[np.float64]
TALLEST, LEAST = 0.075, 0.3
"""The largest pressure, as a share of the drawing; and the least one as a share of that."""
ARROWS = 7
"""About so many arrows along the longer side of a surface."""


def draw_pressures(
    model: Resolved, result: Result, members: NDArray[np.intp], view: View, display: Display, zones: bool = False,
    tops: Tops = OWN,
) -> Sheet:  # fmt: skip
    """The loads on surfaces of one case, or the factored ones of a combination, drawn where they were written; with
    `zones` the names of a code's zones, of the surfaces and the numbers of their bays."""
    project, surfaces = model.project, model.surfaces
    weight = dict.fromkeys(project.case_names, 0.0) | dict(result.factors)
    title = f"loads on surfaces, {result.name}"
    sheet = Sheet(project, view, members, title, result.title)
    sheet.frame(GRID, 1.0)
    draw_supports(sheet, False)
    sheet.grid()
    acting = [name for name, w in weight.items() if w]
    shown = [(load, weight[load.case]) for load in model.surface_loads(acting) if load.surface in surfaces]
    size = draw_areas(sheet, surfaces, shown, display, zones, tops)
    if zones:
        for i in dict.fromkeys(load.surface for load, _ in shown):
            outline, bays = surfaces[i].outline, surfaces[i].bays
            for polygon, number in zip(bays.polygons, bays.number, strict=True):
                at = outline.solid(shapely.get_coordinates(shapely.point_on_surface(polygon)))[0]
                sheet.label(at, f"{outline.surface.name}, bay {number}", GRID, 0.1, 7)
    if size:
        longest = f"largest pressure {size * display.factor('pressure'):.4g} {display.unit('pressure')}"
        sheet.say(longest)
    return sheet


def draw_areas(
    sheet: Sheet, surfaces: Surfaces, shown: Sequence[tuple[SurfaceLoad, float]], display: Display, zones: bool = False,
    tops: Tops = OWN,
) -> float:  # fmt: skip
    """Loads on surfaces with their factors, where they were written; returns the largest pressure [N/m2]."""
    areas = [(load, w, on_surface(surfaces[load.surface], load)) for load, w in shown if isinstance(load, AreaLoad)]
    size = max((abs(w) * there.largest for _, w, there in areas), default=0.0)
    sheet.tops["pressure"] = size
    highest = max(size, tops.get("pressure", 0.0))
    lifted: dict[tuple[int, float], list[tuple[shapely.Geometry, float]]] = {}
    for load, w, there in areas:
        if not there.largest:
            continue
        vector = there.vector * np.sign(w)
        # No pressure is drawn so small that it cannot be seen; labels have the values.
        reach = TALLEST * sheet.size * (LEAST + (1 - LEAST) * abs(w) * there.largest / highest)
        scale = reach / there.largest
        # Against the direction a positive value has: what pulls points away that way, what pushes comes from there.
        pulls = there.range[1] <= 0
        out = -vector
        # What acts the same way on one place stands on the other's shoulders.
        below = lifted.setdefault((load.surface, round(float(vector @ there.outline.normal), 3)), [])
        foot = max((top for shape, top in below if _share_ground(shape, there.loaded)), default=0.0)
        below.append((there.loaded, foot + reach))
        for part in shapely.get_parts(there.loaded):
            # Outline and openings turn opposite ways, so that one path around all leaves the openings out.
            whole = shapely.normalize(part)
            path = shapely.get_coordinates(whole)
            back = [shapely.get_coordinates(ring)[:1] for ring in (whole.exterior, *whole.interiors[:-1])][::-1]
            sheet.areas([there.outline.solid(np.vstack([path, *back]))], LOAD, strength=0.22)
            if load.part:
                edges = [there.outline.solid(shapely.get_coordinates(ring)) for ring in shapely.get_rings(whole)]
                sheet.lines(edges, LOAD, 0.7)
        at = _raster(there.loaded, max(there.outline.size / ARROWS, 1e-3))
        value = there.at(at)
        feet = there.outline.solid(at) + foot * out
        heads = feet + scale * np.abs(value)[:, None] * out
        sheet.arrows(feet, heads, LOAD, width=0.8) if pulls else sheet.arrows(heads, feet, LOAD, width=0.8)
        middle = shapely.get_coordinates(shapely.point_on_surface(there.loaded))
        low, high = (abs(w) * v / there.share * display.factor("pressure") for v in there.range)
        words = f"{load.zone}: {span(low, high)}" if zones and load.zone else span(low, high)
        beside = there.outline.solid(middle)[0] + (foot + reach) * out
        words += f" {display.unit('pressure')}" + ("" if there.share > 1 - 1e-9 else " projected")
        sheet.label(beside, words, LOAD, float(abs(w) * there.largest / size))
    _others(sheet, surfaces, [(load, w) for load, w in shown if not isinstance(load, AreaLoad)], display)
    return size


def _share_ground(a: shapely.Geometry, b: shapely.Geometry) -> bool:
    """Whether two shapes overlap by more than their edges."""
    return bool(shapely.area(shapely.intersection(a, b)) > 1e-6)


def _raster(shape: shapely.Geometry, step: float) -> Floats:
    """Points inside a shape, a step apart, none nearer to its edge than a third of one where that leaves any."""
    u0, v0, u1, v1 = shape.bounds
    counts = [max(2, round((b - a) / step) + 1) for a, b in ((u0, u1), (v0, v1))]
    share = [(np.arange(n) + 0.5) / n for n in counts]
    u, v = np.meshgrid(u0 + share[0] * (u1 - u0), v0 + share[1] * (v1 - v0))
    points = np.column_stack([u.ravel(), v.ravel()])
    inside = points[shapely.contains_xy(shape, points[:, 0], points[:, 1])]
    return np.asarray(inside if len(inside) else shapely.get_coordinates(shapely.point_on_surface(shape)))


def _others(sheet: Sheet, surfaces: Surfaces, loads: list[tuple[SurfaceLoad, float]], display: Display) -> None:
    """Forces as arrows, lines of load as bands."""
    reach = TALLEST * sheet.size
    for load, w in loads:
        if isinstance(load, SurfaceStrain):
            outline = surfaces[load.surface].outline
            middle = shapely.get_coordinates(shapely.point_on_surface(outline.polygon))
            rise, gradient = load.rise * w, load.gradient * w * display.factor("gradient")
            parts = [f"{rise:+.4g} K"] * bool(rise) + [f"{gradient:+.4g} {display.unit('gradient')}"] * bool(gradient)
            sheet.label(outline.solid(middle)[0], ", ".join(parts), LOAD, 2.0)
            continue
        vector = direction_of(surfaces[load.surface].outline, load)
        if isinstance(load, SurfaceForce):
            at = np.array([load.at])
            if load.turning:
                sheet.curls(at, np.sign(load.value * w) * vector[None], POINT)
                value = abs(load.value * w) * display.factor("moment")
                beside = at[0] + 0.04 * sheet.size * sheet.view.up
                sheet.label(beside, f"{value:.4g} {display.unit('moment')}", POINT, 3.0)
                continue
            tail = at - reach * np.sign(load.value * w) * vector
            sheet.arrows(tail, at, POINT, order=5, width=1.8)
            value = abs(load.value * w) * display.factor("force")
            sheet.label(tail[0], f"{value:.4g} {display.unit('force')}", POINT, 3.0)
            continue
        assert not isinstance(load, AreaLoad)
        a, b = np.array(load.between)
        values = np.array(load.values) * w
        largest = np.abs(values).max()
        if not largest:
            continue
        t = np.linspace(0, 1, max(2, round(float(np.linalg.norm(b - a)) / (0.04 * sheet.size)) + 1))[:, None]
        tips = a + t * (b - a)
        tails = tips - 0.6 * reach * (values[0] + t * (values[1] - values[0])) / largest * vector
        sheet.areas([np.vstack([tips, tails[::-1]])], POINT, strength=0.15)
        sheet.lines([tips, tails], POINT, 1.2, order=5)
        sheet.arrows(tails, tips, POINT, order=5, width=0.8)
        low, high = np.abs(values) * display.factor("line")
        words = span(low, high)
        sheet.label(tails[len(tails) // 2], f"{words} {display.unit('line')}", POINT, 2.0)
