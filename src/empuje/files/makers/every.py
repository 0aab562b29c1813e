"""[makers]: each entry by the word under `make` draws its members, which are laid among those of their families.

    [makers.T1]
    make = "truss"
    from = "A1@eave"
    to = "A3@eave"
    ...

Nodes and members are called after the maker: T1.b0, chords/T1.top. A point within 1 mm of a crossing of the grid or of
another node is that one.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ...core.model.findings import did_you_mean
from ...core.model.frame import ON_LINE_TOLERANCE, Member, Node
from ...core.model.near import near_pairs
from ..base.entry import Entry, Notes, shown
from ..base.forms import Form
from ..base.selectors import pick
from ..copies.copies import Copied
from ..frame.members import Family, Laid
from ..frame.nodes import FARTHEST, NodeBook
from .bracing import bracing
from .drawn import Asking, Drawn, Maker
from .frames import arch, frame, portal, stair
from .keys import BY_WORD
from .purlins import purlins
from .truss import truss

MAKERS: Mapping[str, Maker] = {
    "truss": truss, "frame": frame, "portal": portal, "arch": arch, "stair": stair, "bracing": bracing,
}  # fmt: skip
LATE = ("purlins", "rails", "joists")
"""What lies on members that are there already."""
NAME = re.compile(r"[A-Za-z0-9_]+")


def _drawn(asking: Asking, carrying: Sequence[tuple[int, int]]) -> Drawn | None:
    """By its kind; `carrying`: between which nodes members are that may carry it."""
    word = asking.entry.data["make"]
    return purlins(asking, carrying) if word in LATE else MAKERS[word](asking)


def _within_reach(entry: Entry, drawn: Drawn) -> bool:
    """Whether all points are places; what begins at a grid line or node that is none is told there."""
    farthest = float(np.abs(np.array([0.0, *(v for point in drawn.points.values() for v in point)])).max())
    if math.isfinite(farthest) and farthest > FARTHEST:
        entry.error("too-far", f"{entry.what} reaches {farthest:.3g} m away", "check the units of its lengths")
    return farthest <= FARTHEST


@dataclass
class Makers:
    """What the makers of a model have drawn: by family, what is laid; and those still to come."""

    book: NodeBook
    families: Mapping[str, Family]
    laid: dict[str, list[Laid]] = field(default_factory=dict)
    late: list[Asking] = field(default_factory=list)
    failed: list[Asking] = field(default_factory=list)
    drawn: dict[str, Drawn | None] = field(default_factory=dict)
    of: dict[str, tuple[tuple[int, ...], list[str]]] = field(default_factory=dict)
    """Nodes and names of members by maker."""

    def made(self, index: Mapping[str, int]) -> dict[str, tuple[tuple[int, ...], tuple[int, ...]]]:
        """Nodes and members by the maker that laid them; `index`: of members by name."""
        return {maker: (nodes, tuple(index[m] for m in members)) for maker, (nodes, members) in self.of.items()}

    def lacking(self) -> list[str]:
        """Families that lack something, since a maker could not be read."""
        words = [value for asking in self.failed for value in asking.entry.data.values() if isinstance(value, str)]
        return [word for word in dict.fromkeys(words) if word in self.families]

    def lay(self, laid: dict[str, list[Laid]]) -> None:
        """Adds what makers lay to what is laid, but for those that wait for copies."""
        for name, more in self.laid.items():
            laid.setdefault(name, []).extend(more)
        there = [(one.start, one.end) for name, its in laid.items() for one in its if not self._is_bar(name, one)]
        for asking in self.late:
            if not asking.entry.flag("over_copies"):
                self.drawn[asking.name] = _drawn(asking, there)
                self._add(laid, there, self.placed(asking, self.drawn[asking.name]))

    def _add(
        self, laid: dict[str, list[Laid]], there: list[tuple[int, int]], more: Mapping[str, Sequence[Laid]]
    ) -> None:
        """Adds to what is laid, and to what may carry the next."""
        for name, its in more.items():
            laid.setdefault(name, []).extend(its)
            there += [(one.start, one.end) for one in its if not self._is_bar(name, one)]

    def lay_over(self, copies: Sequence[Copied], members: Sequence[Member]) -> dict[str, list[Laid]]:
        """What waits for copies, now that these are among the members. An error where something that was laid before
        would be carried by copies too."""
        out: dict[str, list[Laid]] = {}
        there = [(m.start, m.end) for m in members if not m.bar]
        for asking in self.late:
            if asking.entry.flag("over_copies"):
                self._add(out, there, self.placed(asking, _drawn(asking, there)))
            elif copies:
                self._refuse_before_copies(asking, copies, members)
        over = [f"{name}/{one.name}" for name, its in out.items() for one in its]
        for copied in copies:
            if pick([p for p in copied.of if "/" in p], over)[0] or any(p in out for p in copied.of):
                words = f"copy {copied.name} does not contain what is made over copies, such as {over[0]}"
                copied.entry.notes.say("warning", "not-copied", copied.entry.path, words, "leave it out of `of`")
        return out

    def _is_bar(self, family: str, one: Laid) -> bool:
        return (one.own or self.families[family].style).bar

    def _refuse_before_copies(self, asking: Asking, copies: Sequence[Copied], members: Sequence[Member]) -> None:
        """An error where members of copies would carry it too."""
        entry, before = asking.entry, self.drawn.get(asking.name)
        if before is None:
            return
        own = {f"{line.family}/{asking.name}.{line.name}" for line in before.lines}
        mine = {i for i, m in enumerate(members) if m.name in own}
        for copied in copies:
            mine |= {image for i, (image, _) in copied.members.items() if i in mine}
        notes = Notes(entry.notes.file, entry.notes.lines, entry.notes.units)
        quiet = replace(asking, entry=replace(entry, notes=notes))
        now = _drawn(quiet, [(m.start, m.end) for i, m in enumerate(members) if i not in mine and not m.bar])
        if now is not None and len(now.points) != len(before.points):
            entry.error("before-copies", f"{entry.what}: members of copies support it too, and it is made before them",
                        "write over_copies = true, and do not copy it")  # fmt: skip

    def placed(self, asking: Asking, drawn: Drawn | None) -> dict[str, list[Laid]]:
        """What is drawn, between nodes of the model; nothing where it could not be drawn."""
        entry, book = asking.entry, self.book
        if drawn is None or not _within_reach(entry, drawn):
            self.failed.append(asking)
            return {}
        labels = list(drawn.points)
        xyz = np.array([drawn.points[label] for label in labels], float).reshape(-1, 3)
        at = book.nearest(xyz)
        i, j = near_pairs(xyz, np.full(len(xyz), ON_LINE_TOLERANCE), xyz)
        first = dict(zip(i[::-1].tolist(), j[::-1].tolist(), strict=True))  # of points of the drawing at one place
        for k in range(len(labels)):
            if k in at:
                continue
            crossing = book.crossing_at(xyz[k])
            if crossing is not None:
                at[k] = book.use(crossing, entry.place)
            elif first[k] < k:
                at[k] = at[first[k]]
            else:
                name = f"{asking.name}.{labels[k]}"
                if name in book.index:
                    entry.error("name-clash", f"{entry.what} would make a second node {name}", "rename one of them")
                x, y, z = xyz[k].tolist()
                at[k] = len(book.nodes)
                book.add(Node(name, (x, y, z), entry.place))
        of = {label: at[k] for k, label in enumerate(labels)}
        out: dict[str, list[Laid]] = {}
        for line in drawn.lines:
            one = Laid(f"{asking.name}.{line.name}", of[line.start], of[line.end], entry.place, line.own)
            out.setdefault(line.family, []).append(one)
        members = [f"{family}/{one.name}" for family, its in out.items() for one in its]
        self.of[asking.name] = tuple(sorted(set(at.values()))), members
        return out


def read_makers(model: Entry, book: NodeBook, families: Mapping[str, Family]) -> Makers:
    """The makers in the order of the file; some wait until everything else is laid."""
    out = Makers(book, families)
    for name, top in model.child("makers").children():
        word = top.text("make")
        form: Form | None = BY_WORD.get(word or "")
        if form is None:
            if word is not None:
                top.error("unknown-word", f"{top.what}.make = {shown(word)}", did_you_mean(word, BY_WORD), "make")
            continue
        entry = top.seen_as(form).known()
        if not NAME.fullmatch(name):
            entry.error("bad-name", f"a maker cannot be called {shown(name)}", "use letters, digits and _")
            continue
        asking = Asking(entry, name, model, book, families)
        if word in LATE or entry.flag("over_copies"):
            out.late.append(asking)
            continue
        before = len(entry.notes.findings)
        drawn = _drawn(asking, ())
        wrong = any(f.level == "error" for f in entry.notes.findings[before:])
        for family, more in out.placed(asking, None if wrong else drawn).items():
            out.laid.setdefault(family, []).extend(more)
    return out
