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

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from ...core.model.findings import did_you_mean
from ...core.model.frame import ON_LINE_TOLERANCE, Node
from ...core.model.near import near_pairs
from ..entry import Entry, shown
from ..forms import Form
from ..keys_makers import BY_WORD
from ..members import Family, Laid
from ..nodes import NodeBook
from .bracing import bracing
from .drawn import Asking, Drawn, Maker
from .frames import arch, frame, portal, stair
from .purlins import purlins
from .truss import truss

MAKERS: Mapping[str, Maker] = {
    "truss": truss, "frame": frame, "portal": portal, "arch": arch, "stair": stair, "bracing": bracing,
}  # fmt: skip
LATE = ("purlins", "rails", "joists")
"""What lies on members that are there already."""
NAME = re.compile(r"[A-Za-z0-9_]+")


@dataclass
class Makers:
    """What the makers of a model have drawn: by family, what is laid; and those still to come."""

    book: NodeBook
    families: Mapping[str, Family]
    laid: dict[str, list[Laid]] = field(default_factory=dict)
    late: list[Asking] = field(default_factory=list)
    failed: list[Asking] = field(default_factory=list)

    def lay(self, laid: dict[str, list[Laid]], unread: list[str]) -> None:
        """Adds what makers lay to what is laid; families that lack some of it are `unread` too."""
        for name, more in self.laid.items():
            laid[name] = [*laid.get(name, []), *more]
        for asking in self.late:
            drawn = purlins(asking, [one for its in laid.values() for one in its])
            if drawn is None:
                self.failed.append(asking)
                continue
            for name, more in self.placed(asking, drawn).items():
                laid[name] = [*laid.get(name, []), *more]
        for asking in self.failed:
            words = [value for value in asking.entry.data.values() if isinstance(value, str)]
            unread += [word for word in words if word in self.families and word not in unread]

    def placed(self, asking: Asking, drawn: Drawn) -> dict[str, list[Laid]]:
        """What is drawn, between nodes of the model."""
        entry, book = asking.entry, self.book
        labels = list(drawn.points)
        xyz = np.array([drawn.points[label] for label in labels], float).reshape(-1, 3)
        there = np.array([n.xyz for n in book.nodes], float).reshape(-1, 3)
        i, j = near_pairs(xyz, np.full(len(xyz), ON_LINE_TOLERANCE), there)
        at = dict(zip(i.tolist(), j.tolist(), strict=True))
        new: dict[tuple[int, ...], int] = {}
        for k in range(len(labels)):
            if k in at:
                continue
            crossing = book.crossing_at(xyz[k])
            cell = tuple(np.round(xyz[k] / ON_LINE_TOLERANCE).astype(int).tolist())
            if crossing is not None:
                at[k] = book.use(crossing, entry.place)
            elif cell in new:  # of the same drawing
                at[k] = new[cell]
            else:
                name = f"{asking.name}.{labels[k]}"
                if name in book.index:
                    entry.error("name-clash", f"{entry.what} would make a second node {name}", "rename one of them")
                x, y, z = xyz[k].tolist()
                at[k] = new[cell] = len(book.nodes)
                book.add(Node(name, (x, y, z), entry.place))
        of = {label: at[k] for k, label in enumerate(labels)}
        out: dict[str, list[Laid]] = {}
        for line in drawn.lines:
            one = Laid(f"{asking.name}.{line.name}", of[line.start], of[line.end], entry.place, line.own)
            out.setdefault(line.family, []).append(one)
        return out


def read_makers(model: Entry, book: NodeBook, families: Mapping[str, Family]) -> Makers:
    """The makers in the order of the file; those of LATE wait until everything else is laid."""
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
        if word in LATE:
            out.late.append(asking)
            continue
        before = len(entry.notes.findings)
        drawn = MAKERS[str(word)](asking)
        if drawn is None or any(f.level == "error" for f in entry.notes.findings[before:]):
            out.failed.append(asking)
            continue
        for family, more in out.placed(asking, drawn).items():
            out.laid.setdefault(family, []).extend(more)
    return out
