"""Purlins, rails and joists: members side by side at a spacing over a surface or a bay.

    along
o-------------o  edge      first: how far the first is from the edge
|=============|  1
|      |      |
|=============|  2         spacing, measured in the surface
|      |      |
o------|------o
       what carries them
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ...core.model.findings import did_you_mean
from ...core.model.frame import ON_LINE_TOLERANCE, member_axes
from ..base.directions import AXES
from ..base.entry import Entry, Notes, shown
from ..base.selectors import pick
from ..frame.keys import SURFACE
from ..frame.members import Style
from ..frame.surfaces import openings_of, read_points
from .drawn import MOST, Asking, Drawn, Floats

TOL = ON_LINE_TOLERANCE
ALIKE, LEVEL = "surface", 0.01
"""The word that turns members to their surface; the sine of an angle that is hardly one."""


def purlins(asking: Asking, carrying: Sequence[tuple[int, int]]) -> Drawn | None:
    """Lines over each surface, cut to its outline and its openings; `carrying`: between which nodes there are members,
    which carry them where they cross."""
    import shapely

    entry = asking.entry
    family = asking.family("family")
    if asking.book.plane:
        entry.error("wrong-key", f"{entry.what}: a plane model has no surfaces", 'say space = "3D"', "make")
        return None
    outlines = _outlines(asking)
    if entry.has("spacing") == entry.has("spaces"):
        entry.error("which-way", f"{entry.what} has {'both' if entry.has('spaces') else 'neither'} spacing and spaces",
                    "give the distance between two, or how many spaces there are")  # fmt: skip
        return None
    spacing = asking.length("spacing", TOL) if entry.has("spacing") else 0.0
    spaces = asking.count("spaces") if entry.has("spaces") else 0
    edges = asking.length("first"), asking.length("last")
    if family is None or outlines is None or spacing is None or spaces is None or None in edges:
        return None
    out = Drawn()
    ends = np.array([(asking.book.nodes[a].xyz, asking.book.nodes[b].xyz) for a, b in carrying], float)
    for name, loops in outlines.items():
        frame = _frame(asking, name, loops[0])
        if frame is None:
            return None
        origin, x, y, normal = frame
        flat = [np.column_stack([(loop - origin) @ x, (loop - origin) @ y]) for loop in loops]
        if max(np.abs((loop - origin) @ normal).max() for loop in loops) > TOL:
            entry.error("bad-outline", f"{entry.what}: {name or 'the bay'} is not flat", "take three corners, or two "
                        "bays")  # fmt: skip
            return None
        if not shapely.is_valid(shapely.Polygon(flat[0], flat[1:])):
            words = f"{entry.what}: the outline of {name or 'the bay'} crosses itself"
            entry.error("bad-outline", words, "write its corners in order, openings inside")
            return None
        at = _lines_at(asking, name, flat[0][:, 1], spacing, spaces, edges)  # type: ignore[arg-type]
        if at is None:
            return None
        # Where two surfaces meet, what was laid for the one is there for the other.
        so_far = [(out.points[line.start], out.points[line.end]) for line in out.lines]
        carried = _crossings(np.array([*ends, *so_far], float), origin, x, y, normal)
        style = _style(asking, family, name, x, normal)
        _lay(asking, out, family, f"{name}." if len(outlines) > 1 else "", at, flat, carried, (origin, x, y), style)
    return out


def _style(asking: Asking, family: str, name: str, x: Floats, normal: Floats) -> Style | None:
    """How members along x stand on the surface, where it is said; where not, and the surface slopes, that is told."""
    entry, own = asking.entry, asking.families[family].style
    if entry.has("roll") and entry.data["roll"] != ALIKE:
        roll = entry.quantity("roll")
        return replace(own, roll=roll) if roll is not None and roll != own.roll else None
    _, y, z = member_axes(np.zeros((1, 3)), x[None])[0]
    turned = math.atan2(-float(normal @ y), float(normal @ z))
    if entry.has("roll"):
        return replace(own, roll=turned) if turned != own.roll else None
    if abs(math.sin(turned - own.roll)) > LEVEL:
        stand = f"are rolled by {math.degrees(own.roll):.3g} degrees" if own.roll else "are vertical"
        slope = math.degrees(math.acos(min(1.0, abs(float(normal[2])))))
        words = f"{asking.name}: {entry.data.get('make')} {stand} over {name or 'the bay'}, at {slope:.3g} degrees"
        remedy = f'roll = "{ALIKE}" turns them to it; roll = {math.degrees(own.roll):g} says that they stand so'
        entry.notes.say("note", "roll-unstated", entry.path, words, remedy)
    return None


def _outlines(asking: Asking) -> dict[str, list[Floats]] | None:
    """The outline of each surface named, and of its openings; or a single bay by its corners."""
    entry, book = asking.entry, asking.book
    if entry.has("on") == entry.has("corners"):
        entry.error("which-way", f"{entry.what} has {'both' if entry.has('on') else 'neither'} on and corners",
                    "name surfaces, or write the corners of a bay")  # fmt: skip
        return None
    if entry.has("corners"):
        points = read_points(entry, "corners", entry.data["corners"], book)
        return None if points is None else {"": [np.array(points)]}
    known = asking.model.child("surfaces")
    chosen, missed = pick(entry.texts("on") or [], list(known.data))
    for name in missed:
        words = f"{entry.what}.on: there is no surface {shown(name)}"
        entry.error("unknown-name", words, did_you_mean(name, known.data), "on")
    out: dict[str, list[Floats]] = {}
    for name in (list(known.data)[i] for i in chosen):
        surface = known.data[name]
        if missed or not isinstance(surface, dict):
            return None
        # What is wrong with the surface is told where surfaces are read.
        quiet = Entry(surface, entry.path, Notes(entry.notes.file, entry.notes.lines, entry.notes.units), SURFACE)
        corners = read_points(quiet, "corners", surface.get("corners"), book)
        holes = openings_of(quiet, book)
        if corners is None or holes is None:
            return None
        out[name] = [np.array(corners), *(np.array(loop) for loop in holes)]
    return out or None


def _frame(asking: Asking, name: str, corners: Floats) -> tuple[Floats, Floats, Floats, Floats] | None:
    """An origin on the surface, the way along, the way across in it, and its normal."""
    entry = asking.entry
    normal = np.cross(corners, np.roll(corners, -1, axis=0)).sum(axis=0)
    size = float(np.linalg.norm(normal))
    if size <= TOL**2:
        entry.error("bad-outline", f"{entry.what}: {name or 'the bay'} has no area", "check its corners")
        return None
    normal = normal / size
    if normal[2] < -1e-9 or (abs(normal[2]) <= 1e-9 and tuple(normal) < (0, 0, 0)):
        normal = -normal
    level = np.cross([0.0, 0.0, 1.0], normal)
    if entry.has("along"):
        value = entry.data["along"]
        if isinstance(value, str) and value in AXES:
            way = np.array(AXES[value])
        elif isinstance(value, list) and len(value) == 2:
            a, b = asking.place("along", value[0]), asking.place("along", value[1])
            if a is None or b is None:
                return None
            way = (b - a) / max(float(np.linalg.norm(b - a)), TOL)
        else:
            entry.error("unknown-word", f"{entry.what}.along = {shown(value)}", 'write "x", "y", "z" or two places',
                        "along")  # fmt: skip
            return None
        way = way - (way @ normal) * normal
        if np.linalg.norm(way) <= 0.1:
            entry.error("bad-place", f"{entry.what}.along does not lie in {name or 'the bay'}", "name another way",
                        "along")  # fmt: skip
            return None
    elif np.linalg.norm(level) > 1e-6:
        way = level  # level lines of a slope, or of a wall
    else:
        entry.error("missing-key", f"{entry.what} has no `along`, and {name or 'the bay'} is level",
                    'say along = "x", "y" or two places', "along")  # fmt: skip
        return None
    x = way / np.linalg.norm(way)
    y = np.cross(normal, x)
    # Counted from the lower edge; on the level from the lesser y, or x.
    key = y[2] if abs(y[2]) > 1e-9 else y[1] if abs(y[1]) > 1e-9 else y[0]
    if key < 0:
        y = -y
    lead = int(np.argmax(np.abs(x) > 1e-9))
    if x[lead] < 0:  # members run the positive way, whatever the corners' order
        x = -x
    return corners[0], x, y, normal


def _lines_at(
    asking: Asking, name: str, across: Floats, spacing: float, spaces: int, edges: tuple[float, float]
) -> list[float] | None:
    """How far across the lines are [m]."""
    entry = asking.entry
    low, high = float(across.min()) + edges[0], float(across.max()) - edges[1]
    room = high - low
    if room < -TOL:
        entry.error("bad-quantity", f"{entry.what}: first and last leave nothing of the {np.ptp(across):.4g} m",
                    "make them less", "first")  # fmt: skip
        return None
    if spaces:
        return [low + room * k / spaces for k in range(spaces + 1)]
    n = math.floor(room / spacing + TOL / spacing)
    if n > MOST:
        entry.error("too-many", f"{entry.what} makes {n:,} lines", "check the unit of its spacing", "spacing")
        return None
    at = [low + k * spacing for k in range(n + 1)]
    rest = high - at[-1]
    if rest > TOL:
        words = f"{asking.name}: {n} of {spacing:.4g} m over {name or 'the bay'}, and a last space of"
        entry.notes.say("note", "last-space", entry.path, f"{words} {rest:.4g} m",
                        f"spaces = {n + 1} makes them alike, {room / (n + 1):.4g} m")  # fmt: skip
        at.append(high)
    return at


def _crossings(ends: Floats, origin: Floats, x: Floats, y: Floats, normal: Floats) -> Floats:
    """The members in the plane (n, 2 ends, 2) in its own axes."""
    if not len(ends):
        return np.zeros((0, 2, 2))
    inside = (np.abs((ends - origin) @ normal) <= TOL).all(axis=1)
    chosen = ends[inside] - origin
    return np.stack([chosen @ x, chosen @ y], axis=2)


def _lay(
    asking: Asking, out: Drawn, family: str, prefix: str, at: Sequence[float], flat: Sequence[Floats], carried: Floats,
    axes: tuple[Floats, Floats, Floats], style: Style | None,
) -> None:  # fmt: skip
    """Lines into the drawing, whole or from one crossing to the next."""
    import shapely

    entry = asking.entry
    origin, x, y = axes
    area = shapely.Polygon(flat[0], flat[1:])
    whole = entry.flag("continuous")
    low, high = float(flat[0][:, 1].min()), float(flat[0][:, 1].max())
    left, right = float(flat[0][:, 0].min()) - 1, float(flat[0][:, 0].max()) + 1
    taken, loose = [], []
    for n, across in enumerate(at, 1):
        # On the edge itself the outline is to be met in its whole length.
        inside = min(max(across, low + 1e-6), high - 1e-6)
        cut = area.intersection(shapely.LineString([(left, inside), (right, inside)]))
        pieces = [g.coords for g in getattr(cut, "geoms", [cut]) if g.geom_type == "LineString" and g.length > 0.01]
        parts = sorted((min(p[0] for p in c), max(p[0] for p in c)) for c in pieces)
        for part, (a, b) in enumerate(parts):
            crossing, along = _met(carried, across, a, b)
            if along:
                taken.append(f"{prefix}{n}")
                continue
            stops = _stops(a, b, crossing)
            name = f"{prefix}{n}" + (f".{part + 1}" if len(parts) > 1 else "")
            labels = [out.point(f"{name}-{k}", origin + s * x + across * y) for k, s in enumerate(stops)]
            if not crossing:
                loose.append(name)
            if whole:
                out.line(family, name, labels[0], labels[-1], style)
            else:
                for k, (start, end) in enumerate(itertools.pairwise(labels)):
                    out.line(family, f"{name}-{k + 1}" if len(labels) > 2 else name, start, end, style)
    if taken:
        words = f"{asking.name}: a member is there already in place of line {', '.join(taken[:6])}"
        entry.notes.say("note", "line-taken", entry.path, words)
    if loose:
        entry.notes.say("warning", "line-loose", entry.path, f"{asking.name}: no member carries line "
                        f"{', '.join(loose[:6])}",
                        "put its supporting members in the plane of the surface")  # fmt: skip


def _met(carried: Floats, across: float, a: float, b: float) -> tuple[list[float], bool]:
    """Where members in the plane cross the line, between a and b; and whether one lies along all of it."""
    u, v = carried[:, 0], carried[:, 1]
    du, dv = u[:, 1] - across, v[:, 1] - across
    lies = (np.abs(du) <= TOL) & (np.abs(dv) <= TOL)
    spans = [sorted((p, q)) for p, q in zip(u[lies, 0].tolist(), v[lies, 0].tolist(), strict=True)]
    reached = a
    for p, q in sorted(spans):
        if p <= reached + 2 * TOL:
            reached = max(reached, q)
    cross = ~lies & (np.minimum(du, dv) <= TOL) & (np.maximum(du, dv) >= -TOL)
    share = np.clip(du[cross] / (du[cross] - dv[cross]), 0.0, 1.0)
    where = u[cross, 0] + share * (v[cross, 0] - u[cross, 0])
    found = sorted(where[(where >= a - 2 * TOL) & (where <= b + 2 * TOL)].tolist())
    return found, reached >= b - 2 * TOL


def _stops(a: float, b: float, crossing: Sequence[float]) -> list[float]:
    """Both ends and the crossings, each place once."""
    out: list[float] = []
    for s in sorted([a, *crossing, b]):
        if not out or s - out[-1] > 2 * TOL:
            out.append(s)
        elif s in crossing:
            out[-1] = s
    return out
