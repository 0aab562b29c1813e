"""Surfaces of a model file."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...core.model.findings import nearest
from ...core.model.loads import Vector
from ...core.model.surfaces import SHORT, TWO_WAY, Deck, Plate, Surface
from ...core.model.words import Carry
from ..base.directions import AXES
from ..base.entry import Entry, shown
from ..base.quantities import QuantityError
from ..base.selectors import Names, pick
from .nodes import NodeBook

SURFACE_NAME = re.compile(r"[^\W\d][\w~-]*")


@dataclass(frozen=True)
class Grounds:
    """The surfaces of a model with their names, and the nodes by which places on them are told."""

    surfaces: tuple[Surface, ...]
    index: dict[str, int]
    unread: tuple[str, ...]
    book: NodeBook

    def meant(self, patterns: Sequence[str]) -> tuple[list[int], list[str]]:
        """Surfaces by name or glob, and the patterns that match none."""
        return pick(patterns, list(self.index), self.index)

    def called(self, i: int) -> str:
        """The name of one."""
        return self.surfaces[i].name

    def about(self, patterns: Sequence[str], names: Names) -> bool:
        """Whether a selector is about surfaces: it names one, or is a glob that finds some, but no members or nodes."""
        for word in (p.removeprefix("!").strip() for p in patterns):
            if word in self.index or word in self.unread:
                return True
            if pick([word], list(self.index))[0] and not any(names.select([word])[:2]):
                return True
        return False


def read_surfaces(model: Entry, book: NodeBook, names: Names, plane: bool, plate: ReadPlate) -> Grounds:
    """The surfaces, in the order of the file; `plate` reads what makes one structural, where it is."""
    out: list[Surface] = []
    unread: list[str] = []
    if plane and model.has("surfaces"):
        model.error("wrong-key", "a plane model has no surfaces", 'say space = "3D", or use line loads', "surfaces")
        return Grounds((), {}, tuple(model.child("surfaces").data), book)
    for name, entry in model.child("surfaces").children():
        surface = _surface(name, entry, book, names, plate)
        if surface is None:
            unread.append(name)
        else:
            out.append(surface)
    return Grounds(tuple(out), {s.name: i for i, s in enumerate(out)}, tuple(unread), book)


ReadPlate = Callable[[Entry], tuple[bool, Plate | None]]
"""Whether a surface says that it is structural, and what it then is."""


def _surface(name: str, entry: Entry, book: NodeBook, names: Names, plate: ReadPlate) -> Surface | None:
    entry.known()
    if not SURFACE_NAME.fullmatch(name):
        entry.error("bad-name", f"a surface cannot be called {shown(name)}",
                    "use letters, digits, _ and -, beginning with a letter")  # fmt: skip
    corners = read_points(entry, "corners", entry.data.get("corners"), book)
    openings = openings_of(entry, book)
    structural, made = plate(entry)
    if structural:
        if corners is None or openings is None or made is None:
            return None
        floor = entry.text("floor") or ""
        return Surface(name, corners, openings, TWO_WAY, None, Carry.NODES, entry.place, floor, made)
    carry = entry.word("carry", Carry)
    deck = _deck(entry, book) if carry != Carry.NODES else TWO_WAY
    if carry == Carry.NODES:
        for key in ("deck", "bearing"):
            if entry.has(key):
                entry.error(
                    "wrong-key", f"{entry.what} brings its load to nodes: it has no `{key}`", "take it out", key
                )
    bearing: tuple[int, ...] | None = None
    if entry.has("bearing") and carry != Carry.NODES:
        patterns = entry.texts("bearing")
        if patterns is None:
            return None
        found, missed = names.select_members(patterns)
        names.report(entry, missed, "bearing", f"{entry.what}: no family or member")
        if missed and not found:
            return None
        bearing = tuple(found)
    floor = entry.text("floor") or ""
    if corners is None or openings is None or deck is None or carry is None:
        return None
    return Surface(name, corners, openings, deck, bearing, carry, entry.place, floor)


def openings_of(entry: Entry, book: NodeBook) -> tuple[tuple[Vector, ...], ...] | None:
    """The outlines of the holes in a surface."""
    value = entry.data.get("openings", [])
    if isinstance(value, list) and value and not isinstance(value[0], list):
        value = [value]  # one opening, written as its corners
    elif isinstance(value, list) and value and all(isinstance(v, int | float) for v in value[0]):
        value = [value]
    if not isinstance(value, list):
        entry.error("bad-outline", f"{entry.what}.openings = {shown(value)}", "write lists of corners", "openings")
        return None
    out = [read_points(entry, "openings", loop, book) for loop in value]
    return None if None in out else tuple(out)  # type: ignore[arg-type]


def read_points(entry: Entry, key: str, value: Any, book: NodeBook) -> tuple[Vector, ...] | None:
    """At least three corners, each a node, a crossing of the grid, or [x, y, z]."""
    if value is None:
        entry.missing(key)
        return None
    if not isinstance(value, list) or len(value) < 3:
        entry.error("bad-outline", f"{entry.what}.{key} = {shown(value)}",
                    'write three corners or more in order: ["A1@eave", "B1@eave", "B2@eave"]', key)  # fmt: skip
        return None
    points = [read_point(entry, key, corner, book) for corner in value]
    return None if None in points else tuple(points)  # type: ignore[arg-type]


def read_point(entry: Entry, key: str, value: Any, book: NodeBook) -> Vector | None:
    """A node, a crossing of the grid, or [x, y, z]."""
    if isinstance(value, str):
        crossing = book.crossing(value)
        if value in book.index:
            xyz = book.nodes[book.index[value]].xyz
        elif crossing is not None:
            xyz = book.xyz_of(crossing)
        else:
            entry.error("unknown-name", f"{entry.what}.{key}: there is no node or crossing {value}", book.like(value),
                        key)  # fmt: skip
            return None
        return xyz if np.isfinite(xyz).all() else None
    if isinstance(value, list) and len(value) == 3:
        at = [entry.as_quantity(v, key, kind="length") for v in value]
        return None if None in at else tuple(at)  # type: ignore[return-value]
    entry.error("bad-place", f"{entry.what}.{key}: {shown(value)} is no place", "name a node, or write [x, y, z]", key)
    return None


def _deck(entry: Entry, book: NodeBook) -> Deck | None:
    """The direction of a deck: x, y, z, an angle in plan, two nodes, short or two-way."""
    if not entry.has("deck"):
        entry.error("missing-key", f"{entry.what} has no `deck`",
                    'say how it spans: deck = "x", "y", "z", an angle, two nodes, "short" or "two-way"')  # fmt: skip
        return None
    value = entry.data["deck"]
    if isinstance(value, str) and value in (SHORT, TWO_WAY):
        return value
    return direction_in(entry, "deck", book, ', "short" or "two-way"')


def direction_in(entry: Entry, key: str, book: NodeBook, more: str = "") -> Vector | None:
    """A direction in a surface: x, y, z, an angle in plan, or two places; `more`: what else it may be, in words."""
    value = entry.data[key]
    if isinstance(value, str) and value in AXES:
        return AXES[value]
    if isinstance(value, list) and len(value) == 2 and all(isinstance(v, str | list) for v in value):
        a, b = (read_point(entry, key, v, book) for v in value)
        if a is None or b is None:
            return None
        if math.dist(a, b) < 1e-3:
            entry.error("bad-deck", f"{entry.what}.{key} goes from a node to itself", "name two nodes", key)
            return None
        way = np.subtract(b, a)
        return tuple((way / np.linalg.norm(way)).tolist())
    if isinstance(value, int | float | str) and not isinstance(value, bool):
        try:
            angle = entry.notes.units.read(value, "angle")
            return (math.cos(angle), math.sin(angle), 0.0)
        except QuantityError:
            pass
    entry.error("unknown-word", f"{entry.what}.{key} = {shown(value)}",
                f'write "x", "y", "z", an angle such as "30 deg", two places{more}', key)  # fmt: skip
    return None


def surfaces_of(entry: Entry, key: str, grounds: Grounds) -> list[int]:
    """The surfaces named under a key, by index; none where it is not written."""
    if not entry.has(key):
        return []
    patterns = entry.texts(key)
    if patterns is None:
        return []
    chosen, missed = grounds.meant(patterns)
    for pattern in missed:
        if pattern.removeprefix("!") not in grounds.unread:
            close = nearest(pattern, grounds.index) or list(grounds.index)[:8]
            remedy = f"there are {', '.join(close)}" if close else "there are none yet"
            entry.error("matches-nothing", f"{entry.what}.{key}: no surface is called {pattern}", remedy, key)
    return chosen
