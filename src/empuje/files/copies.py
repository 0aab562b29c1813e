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
from .copy_ways import motions_of
from .entry import Entry, shown
from .nodes import NodeBook
from .selectors import Names
from .surfaces import Grounds

NAME = re.compile(r"[A-Za-z0-9_]+")
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
        motions = motions_of(entry, book)
        if name is None or patterns is None or motions is None:
            continue
        each = [f"{name}{k + 1}" for k in range(len(motions))] if len(motions) > 1 else [name]
        twice = next((n for n in (name, *each) if n in called), None)
        if not NAME.fullmatch(name) or twice:
            what = f"is there twice, as {twice}" if twice else "is no name"
            entry.error("bad-name", f"copy {shown(name)} {what}", "use letters, digits and _, each name once", "name")
            continue
        called.update((name, *each))
        names = OwnNames(book.nodes, members)
        nodes, chosen, missed = names.select(patterns)
        if not chosen and not nodes and not missed:
            entry.error("matches-nothing", f"copy {name} is of nothing", names.like(patterns[0]), "of")
            continue
        cases = None if entry.flag_or_texts("loads") is True else entry.flag_or_texts("loads")
        if len(members) + len(chosen) * len(motions) > MOST_MEMBERS:
            entry.error("too-many", f"copy {name} makes more than {MOST_MEMBERS:,} members", "copy less", "of")
            continue
        for called_so, motion in zip(each, motions, strict=True):
            copied = Copied(entry, called_so, motion, patterns=missed)
            copied.with_supports = entry.flag("supports")
            copied.cases = [] if cases is False else cases  # type: ignore[assignment]
            _lay(copied, book, members, nodes, chosen)
            out.append(copied)
    return out


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
            _say_other(copied, own, members[by_ends[ends]])
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


def _say_other(copied: Copied, own: Member, there: Member) -> None:
    """That the member in the place of an image is another one."""
    one, other = (f"{m.section.name} of {m.material.name}" for m in (own, there))
    if one != other:
        words = f"{own.name}~{copied.name} would be {one} where {there.name} is {other}, which stays"
        about = (own.name, there.name)
        copied.entry.notes.say(
            "warning", "copy-differs", copied.entry.path, words, "leave one of them out", about=about
        )


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
