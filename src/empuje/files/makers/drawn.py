"""What makers draw, and how they ask for what their entries say."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ...core.model.findings import did_you_mean
from ...core.model.frame import ON_LINE_TOLERANCE
from ...core.model.loads import Vector
from ..base.directions import DIRECTIONS
from ..base.entry import Entry, shown
from ..frame.members import HINGED, RIGID, Family, Style
from ..frame.nodes import FARTHEST, NodeBook
from ..frame.surfaces import read_point
from .keys import EQUAL

Floats = NDArray[np.float64]
MOST = 2_000
"""Panels, pieces or bays of one maker."""


@dataclass(frozen=True)
class Line:
    """A member between two points of a drawing, in a family; `own`: its style, if that is not the family's."""

    family: str
    name: str
    start: str
    end: str
    own: Style | None = None


@dataclass
class Drawn:
    """Points [m] by their labels, and lines between them."""

    points: dict[str, Vector] = field(default_factory=dict)
    lines: list[Line] = field(default_factory=list)

    def point(self, label: str, at: Floats) -> str:
        """Enters a point; its label."""
        x, y, z = np.asarray(at, float).tolist()
        self.points[label] = (x, y, z)
        return label

    def line(self, family: str, name: str, start: str, end: str, own: Style | None = None) -> None:
        """Enters a line."""
        self.lines.append(Line(family, name, start, end, own))


@dataclass(frozen=True)
class Asking:
    """A maker's entry and name, the model it stands in, its nodes and its families."""

    entry: Entry
    name: str
    model: Entry
    book: NodeBook
    families: Mapping[str, Family]

    def place(self, key: str, value: object = None) -> Floats | None:
        """A node, a crossing or a point; None, and a finding, where it is none."""
        entry, plane = self.entry, self.book.plane
        if value is None:
            if not entry.has(key):
                entry.missing(key)
                return None
            value = entry.data[key]
        if plane and isinstance(value, list):
            if len(value) != 2:
                entry.error("bad-place", f"{entry.what}.{key}: {shown(value)} is no place", "write [x, z]", key)
                return None
            value = [value[0], 0, value[1]]
        found = read_point(entry, key, value, self.book)
        if found is not None and max(map(abs, found)) > FARTHEST:
            entry.error("too-far", f"{entry.what}.{key} is more than {FARTHEST:g} m away", "check its unit", key)
            return None
        return None if found is None else np.array(found)

    def two_places(self) -> tuple[Floats, Floats] | None:
        """Those under `from` and `to`, which are apart."""
        a, b = self.place("from"), self.place("to")
        if a is None or b is None:
            return None
        if np.linalg.norm(b - a) <= ON_LINE_TOLERANCE:
            self.entry.error("bad-place", f"{self.entry.what} goes from a place to itself", "name two apart", "to")
            return None
        return a, b

    def upright(self) -> tuple[Floats, Floats] | None:
        """Places under `from` and `to` that are apart in plan."""
        ends = self.two_places()
        if ends is not None and np.hypot(*(ends[1] - ends[0])[:2]) <= ON_LINE_TOLERANCE:
            words = "places above one another"
            self.entry.error("bad-place", f"{self.entry.what} goes between {words}", "name two apart in plan", "to")
            return None
        return ends

    def family(self, key: str, other: str | None = None) -> str | None:
        """The family under a key, or an `other` one where it is not written; None, and a finding, where it is none."""
        if not self.entry.has(key) and other is not None:
            return other
        word = self.entry.text(key)
        if word is None or word in self.families:
            return word
        remedy = did_you_mean(word, self.families) if self.families else "add [members.NAME] without runs"
        self.entry.error("unknown-name", f"{self.entry.what}.{key}: there is no family {shown(word)}", remedy, key)
        return None

    def count(self, key: str, least: int = 1, most: int = MOST) -> int | None:
        """A whole number."""
        if not self.entry.has(key):
            usual = self.entry.form[key].default
            if isinstance(usual, int):
                return usual
            self.entry.missing(key)
            return None
        value = self.entry.data[key]
        if not isinstance(value, int) or isinstance(value, bool) or not least <= value <= most:
            what = f"{self.entry.what}.{key} = {shown(value)}"
            self.entry.error("bad-quantity", what, f"a whole number from {least} to {most:,}", key)
            return None
        return value

    def length(self, key: str, least: float = 0.0) -> float | None:
        """A length that is not less than so much [m]."""
        value = self.entry.quantity(key)
        if value is not None and value < least:
            self.entry.error("bad-quantity", f"{self.entry.what}.{key} = {shown(self.entry.data.get(key))}",
                             "it has to be positive" if least else "it must not be negative", key)  # fmt: skip
            return None
        return value

    def lengths(self, key: str, least: float = ON_LINE_TOLERANCE) -> list[float] | None:
        """One length, several, or { times, each }; each not less than `least` [m]."""
        entry = self.entry
        if not entry.has(key):
            entry.missing(key)
            return None
        value = entry.data[key]
        if isinstance(value, dict):
            inner = replace(self, entry=entry.child(key, EQUAL).known())
            times, each = inner.count("times"), inner.length("each", least)
            return None if times is None or each is None else [each] * times
        several = value if isinstance(value, list) else [value]
        if not 0 < len(several) <= MOST:
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(value)}", "write one length, or a list", key)
            return None
        out = [entry.as_quantity(v, key, kind="length") for v in several]
        if any(v is not None and v < least for v in out):
            remedy = "each has to be positive" if least else "none may be negative"
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(value)}", remedy, key)
            return None
        return None if None in out else out  # type: ignore[return-value]

    def toward(self, along: Floats) -> Floats | None:
        """The global direction (unit) under `towards`, which may be aslant of the way `along`, but not along it."""
        key = "towards"
        word = self.entry.text(key)
        if word is None:
            return None
        direction = np.array(DIRECTIONS[word].vector)
        if np.linalg.norm(np.cross(along, direction)) <= 1e-6 * np.linalg.norm(along):
            self.entry.error("bad-place", f"{self.entry.what} goes {word} itself", 'say towards = "+x" or another way '
                             "across", key)  # fmt: skip
            return None
        if self.book.plane and direction[1]:
            self.entry.error("out-of-plane", f'{self.entry.what}.{key} = "{word}" leaves the plane of the model',
                             "use x or z", key)  # fmt: skip
            return None
        return direction

    def style(self, family: str, roll: str = "", ends: str = "") -> Style | None:
        """What a member has other than its family: a roll and ends, under these keys where they are written."""
        own = self.families[family].style
        out = own
        if roll and self.entry.has(roll):
            out = replace(out, roll=self.entry.quantity(roll) or 0.0)
        if ends and self.entry.has(ends):
            word = self.entry.text(ends)
            if own.bar and word == "rigid":
                words = f"{self.entry.what}.{ends}: {family} are bars, and bars are hinged"
                self.entry.error("wrong-key", words, "take it out", ends)
            elif word is not None and not own.bar:
                out = replace(out, joints=(HINGED if word == "hinged" else RIGID) * 2)
        return None if out == own else out


Maker = Callable[[Asking], Drawn | None]
