"""What of a roof hangs over the walls."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.words import Side
from ....surfaces.common import common, without
from ...faces import Face, plan_of
from .roofs import Roof
from .seen import Seen
from .zones import Stretch, Zone, cut

Floats = NDArray[np.float64]

LEAST = 0.05
"""A strip narrower than this [m] is no overhang: walls stand on axes, sheets reach over them."""
SMALL = 1e-3
THIN = 1e-3
MOST = 0.5
"""A roof of which more than this lies outside the walls is no overhang: its walls are not there."""
STRAIGHT = 1e-7
"""A corner this little off a straight line [m] is none."""


def outside_of(face: Face, roof: Roof, footprint: shapely.Geometry | None) -> shapely.Geometry | None:
    """What of a face lies outside the walls in plan, in u v; None where that is nothing, or the walls enclose nothing
    below most of its roof."""
    return None if _mostly_beyond(roof, footprint) else _beyond(face, footprint)


def unwalled(roofs: Iterable[Roof], footprint: shapely.Geometry | None) -> list[str]:
    """The names of the surfaces of roofs that mostly lie outside the walls."""
    return [name for roof in roofs if _mostly_beyond(roof, footprint) for name in roof.names]


def _mostly_beyond(roof: Roof, footprint: shapely.Geometry | None) -> bool:
    if footprint is None:
        return False
    plan = shapely.union_all([plan_of(f) for f in roof.faces])
    return bool(shapely.area(shapely.difference(plan, footprint)) > MOST * shapely.area(plan))


def _beyond(face: Face, footprint: shapely.Geometry | None) -> shapely.Geometry | None:
    if footprint is None:
        return None
    inside = laid_on(face, footprint)
    near = shapely.buffer(inside, LEAST, join_style="mitre")
    if shapely.area(shapely.difference(face.outline.polygon, near)) < SMALL:
        return None
    over = without(face.outline.polygon, inside)
    # Edges of walls below the edges of the roof leave slivers: they are opened away.
    wide = shapely.buffer(shapely.buffer(over, -THIN, join_style="mitre"), THIN, join_style="mitre")
    return common(face.outline.polygon, wide)


def laid_on(face: Face, plan: shapely.Geometry) -> shapely.Geometry:
    """A plan as it lies on a face's plane, in u v."""
    n, corner = face.normal, face.outline.origin

    def laid(ring: shapely.LinearRing) -> Floats:
        level = shapely.get_coordinates(ring)
        z = corner[2] - (level - corner[:2]) @ n[:2] / n[2]
        return face.outline.flat(np.column_stack([level, z]))

    return shapely.union_all([
        shapely.Polygon(laid(part.exterior), [laid(r) for r in part.interiors]) for part in shapely.get_parts(plan)
        if isinstance(part, shapely.Polygon)
    ])  # fmt: skip


def slope_zones(
    face: Face, roof: Roof, seen: Seen, rows: Sequence[Stretch], below: Callable[[Side], Iterable[Stretch]],
    way: Floats | None = None,
) -> list[Zone]:  # fmt: skip
    """The zones of a roof's face by its stretches, which count along a level `way` (2,), or else along the wind. On
    what hangs over the walls nothing presses from inside, but what is `below` where the nearest wall is on a side."""
    along = seen.along if way is None else way
    axes, footprint = (along, np.array([-along[1], along[0]])), seen.building.footprint
    over = outside_of(face, roof, footprint)
    if over is None or footprint is None:
        return cut(face, axes, rows, Side.ROOF, False)
    inner = _parts(without(face.outline.polygon, over))
    zones = [z for part in inner for z in cut(face, axes, rows, Side.ROOF, False, part)]
    outside = [replace(r, name=f"{r.name}, overhang", inside=False) for r in rows]
    zones += [z for part in _parts(over) for z in cut(face, axes, outside, Side.ROOF, False, part)]
    for side, around in seen.soffits.items():
        more = [replace(r, inside=False, extra=True) for r in below(side)]
        there = _parts(common(over, laid_on(face, around))) if more and not around.is_empty else ()
        zones += [z for part in there for z in cut(face, axes, more, Side.ROOF, False, part)]
    return zones


def _parts(shape: shapely.Geometry) -> Iterator[shapely.Polygon]:
    """Its polygons, less slivers and corners that are none."""
    for part in shapely.get_parts(shape):
        if isinstance(part, shapely.Polygon) and part.area > 1e-8:
            yield shapely.simplify(part, STRAIGHT)
