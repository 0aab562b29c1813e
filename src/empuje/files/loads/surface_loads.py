"""Loads on surfaces in a model file: pressures, forces, and lines of load."""

from __future__ import annotations

import math
import re
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.model.findings import nearest
from ...core.model.loads import Direction, Vector
from ...core.model.surfaces import AreaLoad, Surface, SurfaceForce, SurfaceLine, SurfaceLoad, SurfaceStrain
from ..base.directions import AXES, DIRECTIONS, NORMAL, read_direction
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..frame.nodes import NodeBook
from ..frame.surfaces import Grounds, read_point
from .keys import SURFACE_LOAD

PERCENT = re.compile(r"\s*([0-9.]+)\s*%\s*")
KINDS = ("area", "force", "moment", "line")
KEYS = {
    "area": ("along", "part", "per"), "force": ("at",), "moment": ("at",), "line": ("from", "to", "edge"),
    "temperature": (),
}  # fmt: skip
"""What loads on surfaces may say besides on, dir and their value."""


def on_surfaces(entry: Entry, case: str, grounds: Grounds, names: Names) -> list[SurfaceLoad] | None:
    """The loads of an entry that is about surfaces; None where it is not."""
    on = entry.data.get("on")
    patterns = [p for p in (on if isinstance(on, list) else [on]) if isinstance(p, str)]
    if not entry.has("area") and not grounds.about(patterns, names):
        return None
    kinds = [k for k in KINDS if entry.has(k)]
    kinds += ["temperature"] if entry.has("temperature") or entry.has("gradient") else []
    entry = entry.seen_as(SURFACE_LOAD).known()
    if len(kinds) != 1:
        entry.error("which-load", f"{entry.what} has {' and '.join(kinds) or 'no load that surfaces can have'}",
                    f"give it one of {', '.join((*KINDS, 'temperature'))}")  # fmt: skip
        return []
    named = entry.texts("on")
    choices = {k: d for k, d in DIRECTIONS.items() if not d.local} | NORMAL
    direction = read_direction(entry, choices)
    return [] if named is None else _read(entry, case, kinds[0], named, grounds, direction)


def _read(
    entry: Entry, case: str, kind: str, patterns: list[str], grounds: Grounds, direction: Direction | None
) -> list[SurfaceLoad]:
    """One entry of [loads] on surfaces: one load for each of them."""
    chosen, missed = grounds.meant(patterns)
    for pattern in missed:
        if pattern.removeprefix("!") not in grounds.unread:
            close = nearest(pattern, grounds.index) or list(grounds.index)[:8]
            entry.error("matches-nothing", f"{entry.what}: no surface is called {pattern}",
                        f"surfaces are {', '.join(close)}", "on")  # fmt: skip
    for key in {k for keys in KEYS.values() for k in keys} - set(KEYS[kind]):
        if entry.has(key):
            entry.error("wrong-key", f"{entry.what}: {kind} on a surface has no `{key}`", "take it out", key)
    if direction is None:
        return []
    out: list[SurfaceLoad | None] = []
    for i in chosen:
        surface = grounds.surfaces[i]
        if kind in ("moment", "temperature") and surface.plate is None:
            entry.error("wrong-key", f"{entry.what}: a {kind} acts on a structural surface, and {surface.name} is none",
                        "put it on members, or give the surface a material and a thickness", kind)  # fmt: skip
            continue
        if kind == "temperature":
            out.append(_strain(entry, case, i, surface))
            continue
        text = _words(entry, kind, direction, surface.name)
        read = {"area": _area, "force": _force, "moment": _force, "line": _line}[kind]
        out.append(read(entry, case, i, surface, grounds, direction, text))
    return [load for load in out if load is not None]


def _words(entry: Entry, kind: str, direction: Direction, surface: str) -> str:
    value = entry.data[kind]
    text = value if isinstance(value, str) else str(value).replace("'", "")
    per = " (projected)" if entry.data.get("per") == "projected" else ""
    part = ", on a part" if entry.has("part") else ""
    return f"{kind} {text} {direction.text}{per} on {surface}{part}"


def _values(entry: Entry, kind: str) -> tuple[float, float] | None:
    """One value, or two."""
    value = entry.data[kind]
    values = value if isinstance(value, list) else [value]
    if len(values) not in (1, 2):
        entry.error("bad-line", f"{entry.what}.{kind} = {shown(value)}", "write one value, or two", kind)
        return None
    read = [entry.as_quantity(v, kind) for v in values]
    return None if None in read else (read[0], read[-1])  # type: ignore[return-value]


def _area(
    entry: Entry, case: str, i: int, surface: Surface, grounds: Grounds, direction: Direction, text: str
) -> AreaLoad | None:
    values = _values(entry, "area")
    projected = entry.text("per") == "projected"
    part: tuple[Vector, ...] | None = ()
    if entry.has("part"):
        part = _part(entry, entry.data["part"], surface, grounds.book)
    if values is None or part is None:
        return None
    between = _between(entry, values, part or surface.corners, grounds.book)
    if between is None:
        return None
    return AreaLoad(case, i, values, between, direction, projected, part, text, entry.place)


def _between(
    entry: Entry, values: tuple[float, float], corners: tuple[Vector, ...], book: NodeBook
) -> tuple[Vector, Vector] | None:
    """The points between which two values lie: two nodes, or the ends of the loaded part along a direction."""
    here = corners[0], corners[0]
    if not isinstance(entry.data["area"], list) or len(entry.data["area"]) == 1:
        if entry.has("along"):
            entry.error("wrong-key", f"{entry.what}: one value does not change along anything",
                        "give two values, or take `along` out", "along")  # fmt: skip
            return None
        return here
    value = entry.data.get("along")
    if value is None:
        entry.error("missing-key", f"{entry.what}: two values need `along`",
                    'say the way from the first to the second: along = "+z", or two nodes')  # fmt: skip
        return None
    if isinstance(value, list) and len(value) == 2:
        a, b = (read_point(entry, "along", v, book) for v in value)
        if a is None or b is None:
            return None
    else:
        word = value.strip() if isinstance(value, str) else ""
        axis = word.lstrip("+-")
        if axis not in AXES or word[:-1] not in ("", "+", "-"):
            entry.error("unknown-word", f"{entry.what}.along = {shown(value)}",
                        'write "+x", "-x", "+y", "-y", "+z", "-z", or two nodes', "along")  # fmt: skip
            return None
        way = np.array(AXES[axis])
        reach = np.array(corners) @ way
        ends = (reach.min(), reach.max()) if not word.startswith("-") else (reach.max(), reach.min())
        a, b = (tuple((way * e).tolist()) for e in ends)
    if math.dist(a, b) < 1e-3:
        entry.error("bad-place", f"{entry.what}: the surface has no length along {shown(value)}",
                    "name another direction", "along")  # fmt: skip
        return None
    return a, b


def _part(entry: Entry, value: Any, surface: Surface, book: NodeBook) -> tuple[Vector, ...] | None:
    if not isinstance(value, list) or len(value) < 3:
        entry.error("bad-outline", f"{entry.what}.part = {shown(value)}", "write at least three corners", "part")
        return None
    points = [_place(entry, "part", v, surface, book) for v in value]
    return None if None in points else tuple(points)  # type: ignore[arg-type]


def _place(entry: Entry, key: str, value: Any, surface: Surface, book: NodeBook) -> Vector | None:
    """A place on a surface: a node, [x, y, z], plan coordinates [x, y], or shares ["25%", "40%"] of it."""
    if not (isinstance(value, list) and len(value) == 2):
        return read_point(entry, key, value, book)
    corners = np.array(surface.corners)
    shares = [PERCENT.fullmatch(v) if isinstance(v, str) else None for v in value]
    if all(shares):
        u, v = (float(s[1]) / 100 for s in shares if s)
        return _at_shares(corners, u, v)
    x, y = (entry.as_quantity(v, key) for v in value)
    if x is None or y is None:
        return None
    centre = corners.mean(axis=0)
    n = np.cross(corners - centre, np.roll(corners, -1, axis=0) - centre).sum(axis=0)
    if not abs(n[2]) > 1e-6 * np.linalg.norm(n):
        entry.error("bad-place", f"{entry.what}.{key}: surface {surface.name} is vertical: [x, y] says no height",
                    "write [x, y, z]", key)  # fmt: skip
        return None
    z = corners[0, 2] - (n[0] * (x - corners[0, 0]) + n[1] * (y - corners[0, 1])) / n[2]
    return float(x), float(y), float(z)


def _at_shares(corners: NDArray[Any], u: float, v: float) -> Vector:
    """Shares of its extent along its first side (corner 1 to 2), and across that from there on."""
    along = corners[1] - corners[0]
    along = along / max(float(np.linalg.norm(along)), 1e-300)  # corners at one place are told of elsewhere
    away = corners - corners[0]
    across = away - np.outer(away @ along, along)
    far = across[np.linalg.norm(across, axis=1).argmax()]
    far = far / np.linalg.norm(far) if far.any() else far
    p, q = away @ along, away @ far
    point = corners[0] + (p.min() + u * np.ptp(p)) * along + (q.min() + v * np.ptp(q)) * far
    return tuple(point.tolist())


def _force(
    entry: Entry, case: str, i: int, surface: Surface, grounds: Grounds, direction: Direction, text: str
) -> SurfaceForce | None:
    kind = "force" if entry.has("force") else "moment"
    value = entry.quantity(kind)
    if kind == "moment" and not entry.has("dir"):
        entry.error("missing-key", f"{entry.what}: a moment needs `dir`, the axis it turns about",
                    'say dir = "+x", or "normal"')  # fmt: skip
        return None
    if not entry.has("at"):
        entry.error("missing-key", f"{entry.what}: a {kind} on a surface needs `at`",
                    'write at = [x, y], a node, or ["25%", "40%"] of the surface')  # fmt: skip
        return None
    at = _place(entry, "at", entry.data["at"], surface, grounds.book)
    if value is None or at is None:
        return None
    return SurfaceForce(case, i, at, value, direction, text, entry.place, kind == "moment")


def _strain(entry: Entry, case: str, i: int, surface: Surface) -> SurfaceStrain | None:
    rise, gradient = entry.quantity("temperature"), entry.quantity("gradient")
    if rise is None or gradient is None:
        return None
    words = ", ".join(f"{key} {entry.data[key]}" for key in ("temperature", "gradient") if entry.has(key))
    if surface.plate is not None and not surface.plate.material.expansion:
        entry.error("no-expansion", f"{entry.what}: {surface.plate.material.name} has no thermal expansion",
                    "give the material an `expansion`", "temperature")  # fmt: skip
        return None
    return SurfaceStrain(case, i, rise, gradient, f"{words} on {surface.name}", entry.place)


def _line(
    entry: Entry, case: str, i: int, surface: Surface, grounds: Grounds, direction: Direction, text: str
) -> SurfaceLine | None:
    values = _values(entry, "line")
    if entry.has("edge"):
        return _on_edge(entry, case, i, surface, values, direction, text)
    ends = []
    for key in ("from", "to"):
        if not entry.has(key):
            entry.error("missing-key", f"{entry.what}: a line on a surface needs `{key}`",
                        'write from and to as nodes, [x, y], or ["0%", "50%"] of the surface')  # fmt: skip
            return None
        ends.append(_place(entry, key, entry.data[key], surface, grounds.book))
    if values is None or None in ends:
        return None
    return SurfaceLine(case, i, (ends[0], ends[1]), values, direction, text, entry.place)  # type: ignore[arg-type]


def _on_edge(
    entry: Entry, case: str, i: int, surface: Surface, values: tuple[float, float] | None, direction: Direction,
    text: str,
) -> SurfaceLine | None:  # fmt: skip
    """A line along a numbered edge."""
    number, count = entry.data["edge"], len(surface.corners)
    for key in ("from", "to"):
        if entry.has(key):
            entry.error("wrong-key", f"{entry.what} has `edge`, and `{key}` too", "take one of them out", key)
            return None
    if isinstance(number, bool) or not isinstance(number, int) or not 1 <= number <= count:
        entry.error("unknown-name", f"{entry.what}.edge = {shown(number)}: surface {surface.name} has {count} edges",
                    "edge 1 goes from its first corner to its second", "edge")  # fmt: skip
        return None
    if values is None:
        return None
    ends = surface.corners[number - 1], surface.corners[number % count]
    return SurfaceLine(case, i, ends, values, direction, f"{text}/{number}", entry.place)
