"""Where copies go: shifted, turned about a vertical axis, mirrored about a vertical plane."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ...core.model.frame import ON_LINE_TOLERANCE
from ...core.model.moved import Motion
from ..base.entry import Entry, shown
from ..frame.nodes import NodeBook
from ..frame.surfaces import read_point

WAYS = ("shift", "turn", "mirror")
MOST_TIMES = 1000


def motions_of(entry: Entry, book: NodeBook) -> list[Motion] | None:
    """Where it goes, once for each time."""
    given = [way for way in WAYS if entry.has(way)]
    if len(given) != 1:
        entry.error("which-way", f"{entry.what} has {' and '.join(given) or 'no way to go'}",
                    "give it one of shift, turn and mirror")  # fmt: skip
        return None
    way = given[0]
    times = entry.data.get("times", 1)
    if not isinstance(times, int) or isinstance(times, bool) or not 1 <= times <= MOST_TIMES:
        entry.error(
            "bad-quantity", f"{entry.what}.times = {shown(times)}", f"a whole number from 1 to {MOST_TIMES}", "times"
        )
        return None
    for key, of in (("times", ("shift", "turn")), ("about", ("turn",))):
        if entry.has(key) and way not in of:
            entry.error("wrong-key", f"{entry.what}: {way} has no `{key}`", "take it out", key)
    if way == "shift":
        by = _vector(entry, book.plane)
        return None if by is None else [Motion(np.eye(3), k * by) for k in range(1, times + 1)]
    if way == "turn":
        return _turns(entry, book, times)
    mirrored = _mirror(entry, book)
    return None if mirrored is None else [mirrored]


def _vector(entry: Entry, plane: bool) -> Any:
    value, n = entry.data["shift"], 2 if plane else 3
    if not isinstance(value, list) or len(value) != n:
        entry.error(
            "bad-place", f"{entry.what}.shift = {shown(value)}", f"write [{'x, z' if plane else 'x, y, z'}]", "shift"
        )
        return None
    by = [entry.as_quantity(v, "shift", kind="length") for v in value]
    if None in by:
        return None
    found = np.array([by[0], 0.0, by[1]] if plane else by, float)
    if np.abs(found).max() <= ON_LINE_TOLERANCE:
        entry.error("bad-place", f"{entry.what} stays where it is", "shift it farther than a millimetre", "shift")
        return None
    return found


def _turns(entry: Entry, book: NodeBook, times: int) -> list[Motion] | None:
    angle = entry.quantity("turn")
    if book.plane:
        entry.error(
            "out-of-plane", f"{entry.what} turns out of the plane of the model", "mirror it, or shift it", "turn"
        )
        return None
    if not entry.has("about"):
        entry.missing("about")
        return None
    at = _place(entry, "about", entry.data["about"], book)
    if angle is None or at is None:
        return None
    out = []
    for k in range(1, times + 1):
        c, s = math.cos(k * angle), math.sin(k * angle)
        # Quarter turns leave no dust.
        c, s = (round(v) if abs(v - round(v)) < 1e-12 else v for v in (c, s))
        R = np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
        out.append(Motion(R, at - R @ at))
    return out


def _mirror(entry: Entry, book: NodeBook) -> Motion | None:
    """Of { x = ... }, { y = ... } with a grid line, a node or a coordinate; or { through = [place, place] }."""
    if not isinstance(entry.data["mirror"], dict):
        entry.error(
            "not-a-table", f"{entry.what}.mirror = {shown(entry.data['mirror'])}", 'write { x = "C" }', "mirror"
        )
        return None
    table = entry.child("mirror").known(["x"] if book.plane else None)
    if len(table.data) != 1:
        table.error("which-way", f"{table.what} = {shown(table.data)}", 'give one of x, y and through: { x = "C" }')
        return None
    ((key, value),) = table.data.items()
    if key not in table.form.names:
        return None
    if key == "through":
        if not isinstance(value, list) or len(value) != 2:
            table.error("bad-place", f"{table.what}.through = {shown(value)}", "name two places", "through")
            return None
        a, b = (_place(table, "through", v, book) for v in value)
        if a is None or b is None:
            return None
        normal = np.array([a[1] - b[1], b[0] - a[0], 0.0])
        if np.linalg.norm(normal) <= ON_LINE_TOLERANCE:
            table.error(
                "bad-place", f"{table.what}.through names places above one another", "name two apart in plan", "through"
            )
            return None
    else:
        axis = "xyz".index(key)
        if isinstance(value, str) and value in book.lines.get(key, {}):
            at = book.lines[key][value]
        elif isinstance(value, str) and value in book.index:
            at = book.nodes[book.index[value]].xyz[axis]
        else:
            found = table.as_quantity(value, key, kind="length")
            if found is None:
                return None
            at = found
        a = at * np.eye(3)[axis]
        normal = np.eye(3)[axis]
    n = normal / np.linalg.norm(normal)
    R = np.eye(3) - 2 * np.outer(n, n)
    return Motion(R, 2 * (a @ n) * n)


def _place(entry: Entry, key: str, value: Any, book: NodeBook) -> Any:
    """A node, a crossing, or [x, y] or [x, y, z]."""
    if isinstance(value, list) and len(value) == 2 and not isinstance(value[0], str):
        value = [*value, 0]
    found = read_point(entry, key, value, book)
    return None if found is None else np.array(found)
