"""[[copies]]: parts of the model shifted, turned or mirrored, with what holds and loads them.

    [[copies]]
    name = "east"
    of = ["frames/*", "roof"]
    shift = ["6 m", 0, 0]
    times = 3

Names of copies end in ~ and the name of the copy: columns/A1/base-eave~east, and ~east1, ~east2 of several. Selectors
of loads and supports that are without ~ mean what was written; copies bring that along.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from ..core.model.findings import did_you_mean, listed
from ..core.model.frame import ON_LINE_TOLERANCE, Diaphragm, Member, Node, Support, member_axes
from ..core.model.loads import DescribedLoad, LineLoad, NodeLoad, PointLoad, Settlement, Strain
from ..core.model.moved import (
    Motion,
    Placed,
    moved_load,
    moved_member,
    moved_node_load,
    moved_settlement,
    moved_support,
    moved_surface,
    moved_surface_load,
)
from ..core.model.near import near_pairs
from ..core.model.surfaces import Surface, SurfaceLoad
from .entry import Entry, shown
from .nodes import NodeBook
from .selectors import Names
from .surfaces import Grounds, read_point

NAME = re.compile(r"[A-Za-z0-9_]+")
WAYS = ("shift", "turn", "mirror")
MOST_TIMES = 1000
MOST_MEMBERS = 500_000


@dataclass
class Copied:
    """One copy as it is made: how it moves; the images of nodes, members and surfaces (indices).

    `there`: members that were there already in the place of images; `new`: the nodes that are its own; `met`: nodes
    whose images are none of its own and that have a load or a support; `patterns`: of surfaces."""

    entry: Entry
    name: str
    motion: Motion
    nodes: dict[int, int] = field(default_factory=dict)
    members: dict[int, tuple[int, Placed]] = field(default_factory=dict)
    surfaces: dict[int, int] = field(default_factory=dict)
    there: dict[int, int] = field(default_factory=dict)
    new: set[int] = field(default_factory=set)
    met: set[int] = field(default_factory=set)
    patterns: list[str] = field(default_factory=list)
    with_supports: bool = True
    cases: list[str] | None = None

    def brings(self, case: str) -> bool:
        """Whether loads of a case come with it."""
        return self.cases is None or case in self.cases

    def own(self, node: int) -> bool:
        """Whether a node has an image that was not there before."""
        return self.nodes.get(node) in self.new

    def say(self, what: str, names: Sequence[str], stay: str) -> None:
        """That what is there already at its place stays."""
        if names:
            words = f"copy {self.name}: {listed(list(names))} {'is' if len(names) == 1 else 'are'} there already"
            self.entry.notes.say("note", f"copy-meets-{what}", self.entry.path, f"{words}; {stay}", about=tuple(names))


def read_copies(model: Entry, book: NodeBook, members: list[Member]) -> list[Copied]:
    """Every copy, in the order of the file; their nodes and members are entered among the others."""
    out: list[Copied] = []
    called: set[str] = set()
    for entry in model.entries("copies"):
        entry.known()
        name, patterns = entry.text("name"), entry.texts("of")
        motions = _motions(entry, book)
        if name is None or patterns is None or motions is None:
            continue
        if not NAME.fullmatch(name) or name in called:
            what = "is there twice" if name in called else "is no name"
            entry.error("bad-name", f"copy {shown(name)} {what}", "use letters, digits and _, each name once", "name")
            continue
        called.add(name)
        names = OwnNames(book.nodes, members)
        nodes, chosen, missed = names.select(patterns)
        if not chosen and not nodes and not missed:
            entry.error("matches-nothing", f"copy {name} is of nothing", names.like(patterns[0]), "of")
            continue
        cases = None if entry.flag_or_texts("loads") is True else entry.flag_or_texts("loads")
        if len(members) + len(chosen) * len(motions) > MOST_MEMBERS:
            entry.error("too-many", f"copy {name} makes more than {MOST_MEMBERS:,} members", "copy less", "of")
            continue
        for k, motion in enumerate(motions):
            copied = Copied(entry, f"{name}{k + 1}" if len(motions) > 1 else name, motion, patterns=missed)
            copied.with_supports = entry.flag("supports")
            copied.cases = [] if cases is False else cases  # type: ignore[assignment]
            _lay(copied, book, members, nodes, chosen)
            out.append(copied)
    return out


def _motions(entry: Entry, book: NodeBook) -> list[Motion] | None:
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


def _lay(copied: Copied, book: NodeBook, members: list[Member], nodes: Sequence[int], chosen: Sequence[int]) -> None:
    """Enters the images of nodes and members that are not there yet."""
    entry, motion = copied.entry, copied.motion
    every = sorted({*nodes, *(n for m in chosen for n in (members[m].start, members[m].end))})
    if not every:
        return
    before = np.array([n.xyz for n in book.nodes])
    image = before[every] @ motion.R.T + motion.t
    reach = np.full(len(image), ON_LINE_TOLERANCE)
    i, j = near_pairs(image, reach, before)
    there = {int(a): int(b) for a, b in zip(i.tolist(), j.tolist(), strict=True)}
    for k, node in enumerate(every):
        if k not in there:
            there[k] = len(book.nodes)
            copied.new.add(there[k])
            x, y, z = image[k].tolist()
            book.add(Node(f"{book.nodes[node].name}~{copied.name}", (x, 0.0 if book.plane else y, z), entry.place))
        copied.nodes[node] = there[k]
    by_ends = {(min(m.start, m.end), max(m.start, m.end)): i for i, m in enumerate(members)}
    met: list[str] = []
    for m in chosen:
        own = members[m]
        start, end = copied.nodes[own.start], copied.nodes[own.end]
        if {start, end} == {own.start, own.end}:
            continue  # it lies in the plane, or across it
        ends = min(start, end), max(start, end)
        if ends in by_ends:
            copied.there[m] = by_ends[ends]
            met.append(f"{own.name}~{copied.name}")
            continue
        a, b = (np.array(book.nodes[n].xyz) for n in (start, end))
        first, last = (np.array([book.nodes[n].xyz]) for n in (own.start, own.end))
        axes = member_axes(first, last, own.roll)[0]
        placed = moved_member(own, axes, motion, (a, b))
        name = f"{own.name}~{copied.name}"
        copied.members[m] = len(members), placed
        members.append(replace(placed.member, name=name, start=start, end=end, place=entry.place))
    copied.say("members", met, "they stay as they are, and the copy's loads on them are not brought")


class OwnNames(Names):
    """Names to be selected from where copies bring things along: a selector without ~ means no copies."""

    def select_nodes(self, patterns: Sequence[str]) -> tuple[list[int], list[str]]:
        """Nodes, and the patterns that match nothing."""
        return _own(patterns, super().select_nodes, self.nodes)

    def select_members(self, patterns: Sequence[str]) -> tuple[list[int], list[str]]:
        """Members, likewise."""
        return _own(patterns, super().select_members, self.members)


class OwnGrounds(Grounds):
    """Surfaces, likewise."""

    def meant(self, patterns: Sequence[str]) -> tuple[list[int], list[str]]:
        """Surfaces, and the patterns that match none."""
        return _own(patterns, super().meant, [s.name for s in self.surfaces])


def _own(patterns: Sequence[str], select: Any, names: Sequence[str]) -> tuple[list[int], list[str]]:
    plain, copies = [p for p in patterns if "~" not in p], [p for p in patterns if "~" in p]
    found, missed = select(plain) if plain else ([], [])
    chosen = {i for i in found if "~" not in names[i]}
    for pattern in copies:
        more, lost = select([pattern.removeprefix("!")])
        chosen = chosen - set(more) if pattern.startswith("!") else chosen | set(more)
        missed = [*missed, *(pattern for _ in lost)]
    return sorted(chosen), list(missed)


def copied_surfaces(copies: Sequence[Copied], grounds: Grounds) -> Grounds:
    """The surfaces with those of copies; says what copies are of that is nothing at all."""
    surfaces = list(grounds.surfaces)
    corners = {_outline(s) for s in surfaces}
    for copied in copies:
        chosen, missed = OwnGrounds(
            tuple(surfaces), {s.name: i for i, s in enumerate(surfaces)}, (), grounds.book
        ).meant(copied.patterns)
        for pattern in missed:
            if pattern.removeprefix("!") not in grounds.unread:
                copied.entry.error("matches-nothing", f"{copied.entry.what}: nothing is called {pattern}",
                                   "name members, nodes or surfaces", "of")  # fmt: skip
        images = copied.there | {m: i for m, (i, _) in copied.members.items()}
        met = []
        for i in chosen:
            name = f"{surfaces[i].name}~{copied.name}"
            image = moved_surface(surfaces[i], copied.motion, images, name)
            if _outline(image) in corners:
                met.append(name)
                continue
            copied.surfaces[i] = len(surfaces)
            corners.add(_outline(image))
            surfaces.append(replace(image, place=copied.entry.place))
        copied.say("surfaces", met, "they stay as they are, and the copy's loads on them are not brought")
    index = {s.name: i for i, s in enumerate(surfaces)}
    return Grounds(tuple(surfaces), index, grounds.unread, grounds.book)


def _outline(s: Surface) -> frozenset[tuple[float, ...]]:
    return frozenset(tuple(round(v / ON_LINE_TOLERANCE) for v in p) for p in s.corners)


def copied_supports(copies: Sequence[Copied], supports: list[Support], settled: list[Settlement]) -> None:
    """Adds the supports of copies at nodes of their own, and their settlements."""
    for copied in copies:
        if not copied.with_supports:
            continue
        for one in tuple(supports):
            if one.node in copied.nodes and not copied.own(one.node):
                copied.met.add(one.node)
            elif copied.own(one.node):
                supports.append(moved_support(one, copied.motion, copied.nodes[one.node]))
        for s in tuple(settled):
            on = tuple(copied.nodes[n] for n in s.nodes if copied.own(n))
            if on and copied.brings(s.case):
                settled.append(moved_settlement(s, copied.motion, on, copied.name))


def copied_floors(copies: Sequence[Copied], floors: list[Diaphragm]) -> list[Diaphragm]:
    """Rigid floors with the nodes of copies: one that shares a node with its image is one floor with it."""
    out = list(floors)
    for copied in copies:
        for k, floor in enumerate(tuple(out)):
            image = [copied.nodes[n] for n in floor.nodes if n in copied.nodes]
            if not set(image) - set(floor.nodes):
                continue
            if set(image) & set(floor.nodes):
                out[k] = replace(floor, nodes=tuple(dict.fromkeys((*floor.nodes, *image))))
            elif len(image) > 1:
                out.append(Diaphragm(f"{floor.name}~{copied.name}", tuple(image), copied.entry.place))
    return out


def refuse_unknown_cases(copies: Sequence[Copied], known: Sequence[str]) -> None:
    """Reports cases that a copy brings loads of and that are not there."""
    for copied in copies:
        for case in copied.cases or ():
            if case not in known:
                copied.entry.error("unknown-name", f"{copied.entry.what}.loads: there is no case {case}",
                                   did_you_mean(case, known), "loads")  # fmt: skip


def copied_loads(
    copies: Sequence[Copied], loads: list[DescribedLoad], surface_loads: list[SurfaceLoad], nodes: Sequence[Node]
) -> None:
    """Adds the loads of copies: on members, surfaces and nodes of their own."""
    for copied in copies:
        for load in tuple(loads):
            if not copied.brings(load.case):
                continue
            if isinstance(load, LineLoad | PointLoad | Strain):
                loads += moved_load(load, copied.motion, copied.members, copied.name)
            elif isinstance(load, NodeLoad):
                on = tuple(copied.nodes[n] for n in load.nodes if copied.own(n))
                if on:
                    loads.append(moved_node_load(load, copied.motion, on, copied.name))
                copied.met |= {n for n in load.nodes if n in copied.nodes and not copied.own(n)}
        for one in tuple(surface_loads):
            if one.surface in copied.surfaces and copied.brings(one.case):
                image = copied.surfaces[one.surface]
                surface_loads.append(moved_surface_load(one, copied.motion, image, copied.name))
        there = [nodes[copied.nodes[n]].name for n in sorted(copied.met) if copied.nodes[n] != n]
        copied.say("nodes", there, "what holds or loads the copy there is not brought")
