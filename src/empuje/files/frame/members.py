"""Members, laid by runs and pieces."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from ...core.model.findings import Finding, Place, did_you_mean
from ...core.model.frame import FREEDOMS, Material, Member, Section
from ...core.model.words import Acts
from ..base.entry import Entry, Notes, shown
from ..tables.read import Rows
from .grid import MOST_PIECES, RunError, expand_run
from .keys import END, PIECE
from .nodes import NodeBook
from .parts import Parts

MEMBER_NAME = re.compile(r"[A-Za-z0-9_@][A-Za-z0-9_@.~/-]*")
NAME = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.-]*")
RIGID = (math.inf,) * 6
HINGED = (math.inf, math.inf, math.inf, math.inf, 0.0, 0.0)
ENDS = {"rigid": RIGID, "hinged": HINGED}
OWN = [key for key in PIECE.names if key != "between"]
"""What a piece may have by itself."""


@dataclass(frozen=True)
class Style:
    """What a family gives its members, and a piece may give itself; `section` where it is not the family's."""

    joints: tuple[float, ...] = RIGID + RIGID
    bar: bool = False
    roll: float = 0.0
    shear: bool = False
    acts: Acts = Acts.BOTH
    offsets: tuple[float, float] = (0.0, 0.0)
    section: Section | None = None
    joined: bool = True


@dataclass(frozen=True)
class Family:
    """What members of a family share, and where it is written."""

    name: str
    entry: Entry
    section: Section
    material: Material
    style: Style


@dataclass(frozen=True)
class Laid:
    """A member as it is laid: its name within the family, its nodes (indices), where that is written, and its own
    style, if it has one."""

    name: str
    start: int
    end: int
    place: Place
    own: Style | None = None

    def of(self, family: Family) -> Member:
        """The member."""
        s = self.own or family.style
        return Member(
            f"{family.name}/{self.name}", family.name, self.start, self.end, s.section or family.section,
            family.material, self.place, s.roll, s.joints, s.bar, s.shear, s.acts, s.offsets, s.joined,
        )  # fmt: skip


def read_families(model: Entry, parts: Parts, plane: bool) -> dict[str, Family]:
    """The families by name, in the order of the file."""
    out = {}
    structural = any("material" in s for s in model.child("surfaces").data.values() if isinstance(s, dict))
    if not model.has("members") and not structural:
        model.error("missing-key", "the model has no members", "add [members.NAME] with section, material and runs")
    for name, entry in model.child("members").children():
        entry.known()
        if not NAME.fullmatch(name):
            entry.error("bad-name", f"a family cannot be called {shown(name)}", "use letters, digits, _ and -")
            continue
        section_name, material_name = entry.text("section"), entry.text("material")
        section = parts.section(entry, section_name) if section_name is not None else None
        material = parts.material(entry, material_name) if material_name is not None else None
        if section is None or material is None:
            # Node names must still be known to what comes after, so the members are laid with a stand-in.
            section, material = section or STAND_IN[0], material or STAND_IN[1]
        out[name] = Family(name, entry, section, material, _style(entry, Style(), plane))
    return out


def read_members(
    model: Entry, book: NodeBook, parts: Parts, families: Mapping[str, Family], table: Rows
) -> tuple[dict[str, list[Laid]], list[str]]:
    """What is laid of every family by its runs, its pieces and tables, and the families that could not be read."""
    unread: list[str] = []
    from_table = _from_table(table, book, parts, families, model.notes)
    out: dict[str, list[Laid]] = {}
    for name, family in families.items():
        before = len(model.notes.findings)
        out[name] = [
            *_runs(family.entry, book), *_pieces(family.entry, book, parts, family.style), *from_table.get(name, []),
        ]  # fmt: skip
        if len(model.notes.findings) > before:
            unread.append(name)
    return out, [*unread, *(name for name in model.child("members").data if name not in families)]


def members_of(families: Mapping[str, Family], laid: Mapping[str, Sequence[Laid]], parts: Parts) -> list[Member]:
    """The members that are laid, family by family; says what is wrong with them."""
    members: list[Member] = []
    for name, family in families.items():
        entry, its = family.entry, laid.get(name, ())
        more = [one.of(family) for one in its]
        members += more
        if any(m.section.name in parts.only_bars and not m.bar for m in more):
            entry.error("missing-key", f"section {family.section.name} has an area only, but {name} are not all bars",
                        "give the section Iy, Iz and J, or the family bar = true", "section")  # fmt: skip
        if any(m.shear and (m.section.Ay is None or m.section.Az is None) for m in more):
            entry.error("missing-key", f"{name} deform in shear, but section {family.section.name} has no Ay and Az",
                        "give them, or drop shear = true", "shear")  # fmt: skip
    return members


def say_empty(families: Mapping[str, Family], members: Sequence[Member], unread: Collection[str]) -> None:
    """Reports families without members."""
    there = {m.family for m in members}
    for name, family in families.items():
        entry = family.entry
        if name not in there and name not in unread and not entry.has("runs") and not entry.has("pieces"):
            entry.error("missing-key", f"family {name} has no members", "add runs = [...] or pieces = { ... }")


STAND_IN = Section("?", 1, 1, 1, 1, Ay=1, Az=1), Material("?", 1, 1, 0, 0)


def _style(entry: Entry, default: Style, plane: bool, parts: Parts | None = None) -> Style:
    """Ends, bar and roll of an entry, where it has them; with `parts`, its own section too."""
    bar = entry.flag("bar", default.bar)
    roll = entry.quantity("roll", default.roll)
    joints = default.joints
    if entry.has("ends"):
        value = entry.data["ends"]
        ends = value if isinstance(value, list) else [value, value]
        if len(ends) == 2:
            joints = tuple(c for i, end in enumerate(ends) for c in _end(entry, end, isinstance(value, list), i))
        else:
            entry.error("unknown-word", f"{entry.what}.ends = {shown(value)}", WRITE_ENDS, "ends")
    if bar:
        if entry.has("ends") and joints != HINGED + HINGED:
            entry.error("wrong-key", f"{entry.what} is a bar, and bars are hinged", "drop ends, or bar = true", "ends")
        joints = HINGED + HINGED
    if plane and abs(math.sin(2 * (roll or 0.0))) > 1e-9:
        entry.error("out-of-plane", f"{entry.what}.roll turns the section out of the plane", "use 0 or 90", "roll")
    acts = entry.word("acts", Acts, default.acts) or Acts.BOTH
    offsets = _offsets(entry) if entry.has("offsets") else default.offsets
    section = default.section
    if parts is not None and entry.has("section"):
        name = entry.text("section")
        section = (parts.section(entry, name) if name is not None else None) or section
    shear, joined = entry.flag("shear", default.shear), entry.flag("joined", default.joined)
    return Style(joints, bar, roll or 0.0, shear, acts, offsets, section, joined)


def _offsets(entry: Entry) -> tuple[float, float]:
    """The rigid lengths at both ends [m]: one for both, or a pair."""
    value = entry.data["offsets"]
    ends = value if isinstance(value, list) else [value, value]
    if len(ends) != 2:
        entry.error("bad-quantity", f"{entry.what}.offsets = {shown(value)}", "write one length, or [start, end]",
                    "offsets")  # fmt: skip
        return (0.0, 0.0)
    near, far = (entry.as_quantity(end, "offsets") for end in ends)
    if min(near or 0.0, far or 0.0) < 0:
        entry.error("bad-quantity", f"{entry.what}.offsets = {shown(value)}: must not be negative", "", "offsets")
        return (0.0, 0.0)
    return (near or 0.0, far or 0.0)


WRITE_ENDS = 'write "rigid", "hinged", { free = "ry" } or { ry = "8 MN*m/rad" }, once or as a pair [start, end]'


def _end(entry: Entry, value: object, listed: bool, i: int) -> tuple[float, ...]:
    """The stiffness of one end's connection, x..rz: a word, or a table of what is free and what is on springs."""
    inner = ("ends", i) if listed else ("ends",)
    if isinstance(value, str) and value in ENDS:
        return ENDS[value]
    if not isinstance(value, dict):
        entry.error("unknown-word", f"{entry.what}.ends = {shown(value)}", WRITE_ENDS, *inner)
        return RIGID
    table = entry.inner(value, END, *inner).known()
    stiffness = list(RIGID)
    for word in (table.text("free") or "").split():
        if word in FREEDOMS:
            stiffness[FREEDOMS.index(word)] = 0.0
        else:
            table.error("unknown-word", f'{table.what}.free = "{value["free"]}"',
                        f"name degrees of freedom of {' '.join(FREEDOMS)}, in member axes", "free")  # fmt: skip
    for j, freedom in enumerate(FREEDOMS):
        if table.has(freedom):
            spring = table.quantity(freedom)
            if spring is not None and spring < 0:
                table.error("bad-quantity", f"{table.what}.{freedom} must not be negative", "", freedom)
            stiffness[j] = max(spring or 0.0, 0.0)
    return tuple(stiffness)


def _runs(entry: Entry, book: NodeBook) -> list[Laid]:
    if not entry.has("runs"):
        return []
    texts = entry.texts("runs") or []
    out: list[Laid] = []
    if not book.lines:
        entry.error("no-grid", f"{entry.what}.runs needs a [grid]", "add one, or write pieces between nodes", "runs")
        return []
    for i, text in enumerate(texts):
        inner = ("runs", i) if isinstance(entry.data["runs"], list) else ("runs",)
        place = entry.notes.place((*entry.path, *inner))
        try:
            for laid in expand_run(text, book.line_names()):
                out.append(Laid(laid.name, book.use(laid.start, place), book.use(laid.end, place), place))
        except RunError as error:
            entry.error("bad-run", f"run {shown(text)}: {error}", error.remedy, *inner)
    return out


def _pieces(entry: Entry, book: NodeBook, parts: Parts, style: Style) -> list[Laid]:
    pieces = entry.child("pieces")
    out: list[Laid] = []
    if len(pieces.data) > MOST_PIECES:
        pieces.error("too-many", f"more than {MOST_PIECES} pieces", "")
        return []
    for name, value in pieces.data.items():
        place = pieces.notes.place((*pieces.path, name))
        own = None
        ends: object = value
        if not MEMBER_NAME.fullmatch(name):
            pieces.error("bad-name", f"a piece cannot be called {shown(name)}", "use letters, digits, _ and -", name)
            continue
        if isinstance(value, dict):
            piece = pieces.inner(value, PIECE, name).known()
            own = _style(piece, style, book.plane, parts)
            ends = value.get("between")
            if ends is None:
                piece.missing("between")
                continue
        if isinstance(ends, str):
            ends = [e.strip() for e in ends.split(">")]
        if not isinstance(ends, list) or len(ends) != 2 or not all(isinstance(e, str) for e in ends):
            pieces.error("bad-piece", f"{pieces.what}.{name} = {shown(value)}",
                         'write the two nodes it joins, such as "A1@base > B1@eave"', name)  # fmt: skip
            continue
        found = [book.find(e, place) for e in ends]
        for end, node in zip(ends, found, strict=True):
            if node is None:
                pieces.error("unknown-name", f"{pieces.what}.{name}: there is no node {end}", book.like(end), name)
        if None not in found:
            out.append(Laid(name, found[0], found[1], place, own))  # type: ignore[arg-type]
    return out


def _from_table(
    table: Rows, book: NodeBook, parts: Parts, families: Mapping[str, Family], notes: Notes
) -> dict[str, list[Laid]]:
    """The members of tables, by family; those without a name are called after their nodes."""
    out: dict[str, list[Laid]] = {}
    for entry in table.entries(notes):
        family, start, end = (str(entry.data.get(key, "")) for key in ("family", "start", "end"))
        name = str(entry.data.get("name", f"{start}-{end}"))
        if family not in families:
            entry.error("unknown-name", f"there is no family {shown(family)}", did_you_mean(family, families))
            continue
        if not MEMBER_NAME.fullmatch(name):
            entry.error("bad-name", f"a member cannot be called {shown(name)}", "use letters, digits, _ and -")
            continue
        place = entry.place
        found = [book.find(node, place) for node in (start, end)]
        for node, index in zip((start, end), found, strict=True):
            if index is None:
                entry.error("unknown-name", f"{family}/{name}: there is no node {shown(node)}", book.like(node))
        if None not in found:
            style = any(entry.has(key) for key in OWN)
            own = _style(entry, families[family].style, book.plane, parts) if style else None
            out.setdefault(family, []).append(Laid(name, found[0], found[1], place, own))  # type: ignore[arg-type]
        else:
            out.setdefault(family, [])
    return out


def refuse_bad_lengths(members: list[Member], model: Entry) -> None:
    """Reports members of the same name, and those from a node to itself."""
    seen: dict[str, Member] = {}
    say = model.notes.findings
    for m in members:
        if m.name in seen:
            say.append(
                Finding("error", "name-clash", f"there are two members {m.name}", "take one out of the runs", m.place)
            )
        seen.setdefault(m.name, m)
        if m.start == m.end:
            say.append(Finding("error", "no-length", f"{m.name} starts and ends at the same node", "", m.place))
