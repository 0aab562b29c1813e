"""Members, laid by runs and pieces."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from ..core.model.findings import Finding, Place, did_you_mean
from ..core.model.frame import FREEDOMS, Material, Member, Section
from ..core.model.words import Acts
from .entry import Entry, shown
from .grid import MOST_PIECES, RunError, expand_run
from .keys import END, PIECE
from .nodes import NodeBook
from .parts import Parts
from .tables import Rows

MEMBER_NAME = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_@.-]*")
NAME = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.-]*")
RIGID = (math.inf,) * 6
HINGED = (math.inf, math.inf, math.inf, math.inf, 0.0, 0.0)
ENDS = {"rigid": RIGID, "hinged": HINGED}


@dataclass(frozen=True)
class Style:
    """What a family gives its members, and a piece may give itself."""

    joints: tuple[float, ...]
    bar: bool
    roll: float
    shear: bool
    acts: Acts
    offsets: tuple[float, float]


def read_members(model: Entry, book: NodeBook, parts: Parts, table: Rows) -> tuple[list[Member], list[str]]:
    """Every member of every family, in the order of the file, and the families that could not be read whole."""
    members: list[Member] = []
    unread: list[str] = []
    if not model.has("members"):
        model.error("missing-key", "the model has no members", "add [members.NAME] with section, material and runs")
    from_table = _from_table(table, book, model)
    for family, entry in model.child("members").children():
        entry.known()
        if not NAME.fullmatch(family):
            entry.error("bad-name", f"a family cannot be called {shown(family)}", "use letters, digits, _ and -")
            continue
        section_name, material_name = entry.text("section"), entry.text("material")
        section = parts.section(entry, section_name) if section_name is not None else None
        material = parts.material(entry, material_name) if material_name is not None else None
        style = _style(entry, Style(RIGID + RIGID, False, 0.0, False, Acts.BOTH, (0.0, 0.0)), book.plane)
        before = len(entry.notes.findings)
        laid = [*_runs(entry, book), *_pieces(entry, book, style), *from_table.get(family, [])]
        if len(entry.notes.findings) > before:
            unread.append(family)
        if section_name in parts.only_bars and not all((own or style).bar for *_, own in laid):
            entry.error("missing-key", f"section {section_name} has an area only, but {family} are not all bars",
                        "give the section Iy, Iz and J, or the family bar = true", "section")  # fmt: skip
        if not entry.has("runs") and not entry.has("pieces") and family not in from_table:
            entry.error("missing-key", f"family {family} has no members", "add runs = [...] or pieces = { ... }")
        if section is None or material is None:
            # Node names must still be known to what comes after, so the members are laid with a stand-in.
            section, material = section or STAND_IN[0], material or STAND_IN[1]
        sheared = any((own or style).shear for *_, own in laid)
        if sheared and (section.Ay is None or section.Az is None):
            entry.error("missing-key", f"{family} deform in shear, but section {section_name} has no Ay and Az",
                        "give them, or drop shear = true", "shear")  # fmt: skip
        for name, start, end, place, own in laid:
            s = own or style
            members.append(
                Member(
                    f"{family}/{name}",
                    family,
                    start,
                    end,
                    section,
                    material,
                    place,
                    s.roll,
                    s.joints,
                    s.bar,
                    s.shear,
                    s.acts,
                    s.offsets,
                )
            )
    _refuse_bad_lengths(members, model)
    return members, unread


STAND_IN = Section("?", 1, 1, 1, 1, Ay=1, Az=1), Material("?", 1, 1, 0, 0)


def _style(entry: Entry, default: Style, plane: bool) -> Style:
    """Ends, bar and roll of an entry, where it has them."""
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
    return Style(joints, bar, roll or 0.0, entry.flag("shear", default.shear), acts, offsets)


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
                        f"name freedoms of {' '.join(FREEDOMS)}, in member axes", "free")  # fmt: skip
    for j, freedom in enumerate(FREEDOMS):
        if table.has(freedom):
            spring = table.quantity(freedom)
            if spring is not None and spring < 0:
                table.error("bad-quantity", f"{table.what}.{freedom} must not be negative", "", freedom)
            stiffness[j] = max(spring or 0.0, 0.0)
    return tuple(stiffness)


Laid = tuple[str, int, int, Place, Style | None]


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
                out.append((laid.name, book.use(laid.start, place), book.use(laid.end, place), place, None))
        except RunError as error:
            entry.error("bad-run", f"run {shown(text)}: {error}", error.remedy, *inner)
    return out


def _pieces(entry: Entry, book: NodeBook, style: Style) -> list[Laid]:
    pieces = entry.child("pieces")
    out: list[Laid] = []
    if len(pieces.data) > MOST_PIECES:
        pieces.error("too-many", f"more than {MOST_PIECES} pieces", "")
        return []
    for name, value in pieces.data.items():
        place = pieces.notes.place((*pieces.path, name))
        own = None
        ends: object = value
        if not NAME.fullmatch(name):
            pieces.error("bad-name", f"a piece cannot be called {shown(name)}", "use letters, digits, _ and -", name)
            continue
        if isinstance(value, dict):
            piece = pieces.inner(value, PIECE, name).known()
            own = _style(piece, style, book.plane)
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
            out.append((name, found[0], found[1], place, own))  # type: ignore[arg-type]
    return out


def _from_table(table: Rows, book: NodeBook, model: Entry) -> dict[str, list[Laid]]:
    """The members of tables, by family; those without a name are called after their nodes."""
    out: dict[str, list[Laid]] = {}
    families = model.child("members").data if model.has("members") else {}
    for entry in table.entries(model.notes):
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
            out.setdefault(family, []).append((name, found[0], found[1], place, None))  # type: ignore[arg-type]
        else:
            out.setdefault(family, [])
    return out


def _refuse_bad_lengths(members: list[Member], model: Entry) -> None:
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
