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
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import groupby
from typing import Any

import numpy as np

from ...core.model.findings import listed
from ...core.model.frame import ON_LINE_TOLERANCE, Diaphragm, Member, Node, member_axes
from ...core.model.moved import Motion, Placed, moved_members, moved_surface
from ...core.model.surfaces import Surface
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..frame.nodes import NodeBook
from ..frame.surfaces import Grounds
from .copy_ways import motions_of

NAME = re.compile(r"[A-Za-z0-9_]+")
MOST_MEMBERS = 500_000


@dataclass
class Copied:
    """One copy as it is made: how it moves; the images of nodes, members and surfaces (indices).

    `there`: members that were there already in the place of images; `new`: the nodes that are its own; `met`: nodes
    whose images are none of its own and that have a load or a support; `of`: what it is of; `missed`: what of that is
    neither node nor member."""

    entry: Entry
    name: str
    motion: Motion
    missed: list[str]
    of: list[str]
    with_supports: bool
    cases: list[str] | None
    nodes: dict[int, int] = field(default_factory=dict)
    members: dict[int, tuple[int, Placed]] = field(default_factory=dict)
    surfaces: dict[int, int] = field(default_factory=dict)
    there: dict[int, int] = field(default_factory=dict)
    new: set[int] = field(default_factory=set)
    met: set[int] = field(default_factory=set)

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
    so_far: SoFar | None = None
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
        brought = entry.flag_or_texts("loads")
        cases = None if brought is True else [] if brought is False else brought
        if len(members) + len(chosen) * len(motions) > MOST_MEMBERS:
            entry.error("too-many", f"copy {name} makes more than {MOST_MEMBERS:,} members", "copy less", "of")
            continue
        if out:
            _say_left_out(entry, name, patterns, Names(book.nodes, members), chosen)
        so_far = so_far or SoFar(book, members)
        for called_so, motion in zip(each, motions, strict=True):
            out.append(Copied(entry, called_so, motion, missed, patterns, entry.flag("supports"), cases))
            _lay(out[-1], so_far, nodes, chosen)
    return out


class SoFar:
    """Nodes and members as they grow: the places of nodes (n, 3) [m], and the member between two of them."""

    def __init__(self, book: NodeBook, members: list[Member]) -> None:
        self.book, self.members = book, members
        self.xyz = np.array([n.xyz for n in book.nodes], float).reshape(-1, 3)
        self.between: dict[tuple[int, int], int] = {}
        self.note(0)

    def note(self, first: int) -> None:
        """Members from the first of these on are there now."""
        for i in range(first, len(self.members)):
            m = self.members[i]
            self.between[min(m.start, m.end), max(m.start, m.end)] = i


def _lay(copied: Copied, so_far: SoFar, nodes: Sequence[int], chosen: Sequence[int]) -> None:
    """Enters the images of nodes and members that are not there yet."""
    entry, motion, book, members = copied.entry, copied.motion, so_far.book, so_far.members
    every = sorted({*nodes, *(n for m in chosen for n in (members[m].start, members[m].end))})
    if not every:
        return
    image = so_far.xyz[every] @ motion.R.T + motion.t
    if book.plane:
        image[:, 1] = 0.0
    there = book.nearest(image)
    new = [k for k in range(len(every)) if k not in there]
    for k in new:
        there[k] = len(book.nodes)
        x, y, z = image[k].tolist()
        book.add(Node(f"{book.nodes[every[k]].name}~{copied.name}", (x, y, z), entry.place))
    copied.new = {there[k] for k in new}
    copied.nodes = {node: there[k] for k, node in enumerate(every)}
    so_far.xyz = np.vstack([so_far.xyz, image[new]])
    met: list[str] = []
    laid: list[int] = []
    for m in chosen:
        own = members[m]
        start, end = copied.nodes[own.start], copied.nodes[own.end]
        if {start, end} == {own.start, own.end}:
            continue  # it lies in the plane, or across it
        other = so_far.between.get((min(start, end), max(start, end)))
        if other is None:
            laid.append(m)
            continue
        copied.there[m] = other
        _say_other(copied, own, members[other])
        met.append(f"{own.name}~{copied.name}")
    copied.say("members", met, "they stay as they are, and the copy's loads on them are not brought")
    if not laid:
        return
    first, own_members = len(members), [members[m] for m in laid]
    ends = np.array([(m.start, m.end) for m in own_members], np.intp)
    images = np.array([[copied.nodes[n] for n in pair] for pair in ends.tolist()], np.intp)
    axes = member_axes(so_far.xyz[ends[:, 0]], so_far.xyz[ends[:, 1]], np.array([m.roll for m in own_members]))
    plain = member_axes(so_far.xyz[images[:, 0]], so_far.xyz[images[:, 1]])
    moved = moved_members(own_members, axes, plain, motion)
    for m, (start, end), (member, placed) in zip(laid, images.tolist(), moved, strict=True):
        copied.members[m] = len(members), placed
        name = f"{member.name}~{copied.name}"
        members.append(replace(member, name=name, start=start, end=end, place=entry.place))
    so_far.note(first)


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


def _say_left_out(entry: Entry, name: str, patterns: Sequence[str], names: Names, chosen: Sequence[int]) -> None:
    """That globs and families in `of` would have meant members of earlier copies as well."""
    open_ones = [p for p in patterns if "~" not in p and not p.startswith("!")]
    every = names.select_members(open_ones)[0] if open_ones else []
    left = [names.members[i] for i in every if "~" in names.members[i] and i not in set(chosen)]
    if left:
        entry.notes.say(
            "note", "copies-left-out", entry.path,
            f"copy {name} is of {listed(open_ones)} as written, and leaves {listed(left, 3)} out",
            f'to copy them too, name them: of = ["{open_ones[0]}", "{open_ones[0]}*~*"]', about=tuple(left),
        )  # fmt: skip


def by_entry(copies: Sequence[Copied]) -> Iterator[list[Copied]]:
    """The copies of one entry after another: they are of the same things, and none of each other."""
    for _, each in groupby(copies, key=lambda copied: copied.entry.path):
        yield list(each)


def _own(patterns: Sequence[str], select: Any, names: Sequence[str]) -> tuple[list[int], list[str]]:
    plain, copies = [p for p in patterns if "~" not in p], [p for p in patterns if "~" in p]
    if all(p.startswith("!") for p in patterns):
        plain, copies = list(patterns), []  # all that was written but these
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
    for each in by_entry(copies):
        own = OwnGrounds(tuple(surfaces), {s.name: i for i, s in enumerate(surfaces)}, (), grounds.book)
        first = each[0]
        plain = [p for p in first.of if "/" not in p or p in first.missed]
        chosen, missed = own.meant(plain if any(not p.startswith("!") for p in first.of) else first.of)
        for pattern in missed:
            if pattern in first.missed and pattern.removeprefix("!") not in grounds.unread:
                first.entry.error("matches-nothing", f"{first.entry.what}: nothing is called {pattern}",
                                    "name members, nodes or surfaces", "of")  # fmt: skip
        for copied in each:
            images = copied.there | {m: i for m, (i, _) in copied.members.items()}
            met = []
            for i in chosen:
                name = f"{surfaces[i].name}~{copied.name}"
                image = moved_surface(surfaces[i], copied.motion, images, name)
                if any(_one_outline(image, other) for other in surfaces):
                    met.append(name)
                    continue
                copied.surfaces[i] = len(surfaces)
                surfaces.append(replace(image, place=copied.entry.place))
            copied.say("surfaces", met, "they stay as they are, and the copy's loads on them are not brought")
    index = {s.name: i for i, s in enumerate(surfaces)}
    return Grounds(tuple(surfaces), index, grounds.unread, grounds.book)


def _one_outline(a: Surface, b: Surface) -> bool:
    """Whether two surfaces have their corners at the same places, from whichever they begin."""
    if len(a.corners) != len(b.corners):
        return False
    apart = np.linalg.norm(np.array(a.corners)[:, None] - np.array(b.corners), axis=2) <= ON_LINE_TOLERANCE
    return bool(apart.any(axis=1).all() and apart.any(axis=0).all())


def copied_floors(copies: Sequence[Copied], floors: list[Diaphragm]) -> list[Diaphragm]:
    """Rigid floors with the nodes of copies: one that shares a node with its image is one floor with it."""
    out = list(floors)
    for each in by_entry(copies):
        before = [set(floor.nodes) for floor in out]
        for copied in each:
            for k, own in enumerate(before):
                floor = out[k]
                image = [copied.nodes[n] for n in floor.nodes if n in own and n in copied.nodes]
                if not set(image) - set(floor.nodes):
                    continue
                if set(image) & set(floor.nodes):
                    out[k] = replace(floor, nodes=tuple(dict.fromkeys((*floor.nodes, *image))))
                elif len(image) > 1:
                    out.append(Diaphragm(f"{floor.name}~{copied.name}", tuple(image), copied.entry.place))
    return out
