"""Vehicles' ways in copies: a way goes with what it leads over, and a vehicle is on each of them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from ...core.model.frame import ON_LINE_TOLERANCE, Node
from ...core.model.traffic import Traffic, Way
from ..traffic.traffic import MOST_WAYS
from .copies import Copied, by_entry


def copied_ways(copies: Sequence[Copied], traffic: Sequence[Traffic], nodes: Sequence[Node]) -> tuple[Traffic, ...]:
    """Traffics with the ways of copies that bring their cases. A way goes with its members; one through points with its
    surfaces or, where it has none, with the nodes it goes through."""
    at = {n.xyz: i for i, n in enumerate(nodes)}
    out = list(traffic)
    for each in by_entry(copies):
        before = tuple(out)
        for copied in each:
            for k, one in enumerate(before):
                if not copied.brings(one.case):
                    continue
                found = [image for way in one.ways if (image := _image(copied, way, at)) is not None]
                images = [image for image in found if not any(_same(image, way) for way in out[k].ways)]
                if len(out[k].ways) + len(images) > MOST_WAYS:
                    words = f"with copy {copied.name}, {one.case} has more than {MOST_WAYS} ways"
                    copied.entry.error("too-many", words, f'leave it out: loads = [...] without "{one.case}"')
                    continue
                out[k] = replace(out[k], ways=(*out[k].ways, *images))
    return tuple(out)


def cranes_left_out(copies: Sequence[Copied], cranes: Sequence[Traffic]) -> None:
    """Warns of cranes whose runways are repeated: they themselves are not."""
    for copied in copies:
        for one in cranes:
            if copied.brings(one.case) and any(m in copied.members for runway in one.runways for m in runway):
                words = f"copy {copied.name} has the runways of crane {one.case}, and no crane"
                entry = copied.entry
                entry.notes.say("warning", "crane-not-copied", entry.path, words, "write a crane of its own for it")


def _same(a: Way, b: Way) -> bool:
    """Whether two ways lead over the same members, or through the same points, at the same distance aside."""
    if a.members != b.members or len(a.points) != len(b.points) or abs(a.aside - b.aside) > ON_LINE_TOLERANCE:
        return False
    return all(math.dist(p, q) <= ON_LINE_TOLERANCE for p, q in zip(a.points, b.points, strict=True))


def _image(copied: Copied, way: Way, at: dict[tuple[float, float, float], int]) -> Way | None:
    """The way in the copy; None where that does not hold all it leads over."""
    text, place = f"{way.text}, {copied.name}", copied.entry.place
    aside = -way.aside if copied.motion.mirrors else way.aside
    surfaces = tuple(copied.surfaces[s] for s in way.surfaces if s in copied.surfaces)
    if len(surfaces) < len(way.surfaces):
        return None
    if way.members:
        members = [copied.members[m][0] for m in way.members if m in copied.members]
        return Way(text, place, tuple(members), (), surfaces, aside) if len(members) == len(way.members) else None
    if not way.surfaces and not all(at.get(p, -1) in copied.nodes for p in way.points):
        return None
    return Way(text, place, (), tuple(copied.motion.point(p) for p in way.points), surfaces, aside)
