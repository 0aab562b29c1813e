"""Selectors: names, families, globs, lists of these, and `!` to leave some out.

A selector with a `/` is about members; one without is a family, or else about nodes.

    >>> pick(["columns/A*", "!columns/A2/*"], ["columns/A1/0-1", "columns/A2/0-1", "beams/1"])
    ([0], [])
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from fnmatch import translate
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ...core.model.findings import nearest
from ...core.model.frame import Member, Node

if TYPE_CHECKING:
    from .entry import Entry

GLOB = re.compile(r"[*?\[]")


def pick(
    patterns: Sequence[str], names: Sequence[str], index: dict[str, int] | None = None
) -> tuple[list[int], list[str]]:
    """Indices of the names the patterns choose, in the names' order, and the patterns that match nothing.

    `index` spares long lists of names their numbering.
    Patterns that begin with `!` take names out again; with none but these, all others are chosen.
    """
    index = {name: i for i, name in enumerate(names)} if index is None else index
    chosen: set[int] = set()
    unmatched = []
    wanted = [p for p in patterns if not p.startswith("!")]
    if not wanted and patterns:
        chosen = set(index.values())
    for pattern in wanted + [p for p in patterns if p.startswith("!")]:
        bare = pattern.removeprefix("!").strip()
        if bare in index:
            found = {index[bare]}
        elif GLOB.search(bare):
            fits = re.compile(translate(bare)).match
            found = {i for name, i in index.items() if fits(name)}
        else:
            found = set()
        if not found:
            unmatched.append(pattern)
        chosen = chosen - found if pattern.startswith("!") else chosen | found
    return sorted(chosen), unmatched


Select = Callable[[Sequence[str]], tuple[list[int], list[str]]]


MOST_HINTS = 50


class NothingMeant(LookupError):
    """A word that stands for nothing; the message has a remedy."""


class Names:
    """The nodes and members of a frame, to be selected from.

    `unread` families have members that could not be laid; `crossings` are nodes they might have made.
    """

    def __init__(
        self,
        nodes: Sequence[Node],
        members: Sequence[Member],
        unread: Sequence[str] = (),
        crossings: Sequence[str] = (),
    ) -> None:
        self._hints: dict[str, str] = {}
        self.unread = list(unread)
        self.crossings = list(crossings)
        self.nodes = [n.name for n in nodes]
        self.members = [m.name for m in members]
        self.laid = nodes, members
        self.of_family: dict[str, list[int]] = {}
        for i, m in enumerate(members):
            self.of_family.setdefault(m.family, []).append(i)

    @cached_property
    def xyz(self) -> NDArray[np.float64]:
        """Where the nodes are (n, 3) [m]."""
        return np.array([n.xyz for n in self.laid[0]], float).reshape(-1, 3)

    @cached_property
    def ends(self) -> NDArray[np.intp]:
        """The nodes between which members go (n, 2)."""
        return np.array([(m.start, m.end) for m in self.laid[1]], np.intp).reshape(-1, 2)

    @cached_property
    def node_index(self) -> dict[str, int]:
        """The place of every node by its name, and by those of nodes that were joined to it."""
        known = {name: i for i, name in enumerate(self.nodes)}
        return known | {name: i for i, node in enumerate(self.laid[0]) for name, _ in node.also}

    @cached_property
    def member_index(self) -> dict[str, int]:
        """The place of every member by its name."""
        return {name: i for i, name in enumerate(self.members)}

    @cached_property
    def all_words(self) -> list[str]:
        """Everything a selector of members or nodes may name."""
        return [*self.of_family, *self.nodes, *self.members]

    def select_nodes(self, patterns: Sequence[str]) -> tuple[list[int], list[str]]:
        """Nodes by name or glob, and the patterns that match nothing."""
        return pick(patterns, self.nodes, self.node_index)

    def select_members(self, patterns: Sequence[str]) -> tuple[list[int], list[str]]:
        """Members by name, glob or family."""
        plain, families_out, chosen = [], set(), set()
        unmatched: list[str] = []
        families = list(self.of_family)
        only_out = bool(patterns) and all(p.startswith("!") for p in patterns)
        for pattern in patterns:
            bare = pattern.removeprefix("!").strip()
            if "/" in bare:
                plain.append(pattern)
                continue
            found, missed = pick([bare], families)
            if missed:
                unmatched.append(pattern)
            indices = {i for f in found for i in self.of_family[families[f]]}
            if pattern.startswith("!"):
                families_out |= indices
            else:
                chosen |= indices
        inward, missed = pick([p for p in plain if not p.startswith("!")], self.members, self.member_index)
        outward, missed_out = pick([p[1:] for p in plain if p.startswith("!")], self.members, self.member_index)
        chosen |= set(inward)
        if only_out:
            chosen = set(range(len(self.members)))
        return sorted(chosen - families_out - set(outward)), unmatched + missed + missed_out

    def select(self, patterns: Sequence[str]) -> tuple[list[int], list[int], list[str]]:
        """Nodes, members and unmatched patterns; each pattern is about one or the other."""
        about_members = [p for p in patterns if self._is_about_members(p)]
        about_nodes = [p for p in patterns if p not in about_members]
        members, missed = self.select_members(about_members)
        nodes, missed_nodes = self.select_nodes(about_nodes)
        return nodes, members, missed + missed_nodes

    def _is_about_members(self, pattern: str) -> bool:
        bare = pattern.removeprefix("!").strip()
        return "/" in bare or bool(pick([bare], list(self.of_family))[0])

    def members_meant(self, words: Sequence[str]) -> NDArray[np.intp]:
        """The members chosen by some words, all for none. Raises NothingMeant."""
        return self._meant(words, len(self.members), self.select_members, "member or family")

    def nodes_meant(self, words: Sequence[str]) -> NDArray[np.intp]:
        """The nodes chosen by some words, all for none. Raises NothingMeant."""
        return self._meant(words, len(self.nodes), self.select_nodes, "node")

    def _meant(
        self,
        words: Sequence[str],
        count: int,
        select: Select,
        what: str,
    ) -> NDArray[np.intp]:
        if not words:
            return np.arange(count)
        chosen, missed = select(words)
        if missed:
            raise NothingMeant(f"there is no {what} {missed[0]}; {self.like(missed[0])}")
        if not chosen:
            raise NothingMeant(f"nothing is left of {', '.join(words)}")
        return np.array(chosen, np.intp)

    def excused(self, pattern: str) -> bool:
        """Whether a pattern may match nothing only because a family it could mean was not read whole."""
        bare = pattern.removeprefix("!").strip()
        family, _, rest = bare.partition("/")
        return bool(self.unread) and bool(
            pick([family], self.unread)[0] or (not rest and pick([bare], self.crossings)[0])
        )

    def report(self, entry: Entry, missed: Sequence[str], key: str, what: str) -> None:
        """A finding on the entry for each pattern that matched nothing; `what` begins it: "support: no node"."""
        for pattern in missed:
            if not self.excused(pattern):
                entry.error("matches-nothing", f"{what} is called {pattern}", self.like(pattern), key)

    def like(self, pattern: str) -> str:
        """A remedy for a selector that matches nothing; for the first of them, as it is looked for among all names."""
        if pattern not in self._hints and len(self._hints) >= MOST_HINTS:
            return ""
        if pattern not in self._hints:
            self._hints[pattern] = self._like(pattern)
        return self._hints[pattern]

    def _like(self, pattern: str) -> str:
        close = nearest(pattern.removeprefix("!"), self.all_words)
        if close:
            return "did you mean " + " or ".join(close) + "?"
        return "families are " + ", ".join(self.of_family) if self.of_family else "there are no members yet"
