"""Families, members and the sections that makers and copies made, as entries."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from ...core.catalogue.catalogue import find_section
from ...core.model.frame import FREEDOMS, Member, Section
from ...core.model.words import Acts
from ..frame.members import HINGED, RIGID, Family, Style
from ..reader import Reading
from .bare import Bare, Data, degrees


class Members:
    """What a model's members are written by."""

    def __init__(self, reading: Reading, bare: Bare) -> None:
        self.bare = bare
        self.families = reading.families
        self.written = reading.written
        self.sections = self._names_of_sections(reading.project.members)

    def of(self, members: Sequence[Member], names: Sequence[str]) -> Data:
        """The families of these names, with the members as their pieces."""
        out = {name: self.family(self.families[name]) for name in names}
        for m in members:
            out[m.family]["pieces"][m.name[len(m.family) + 1 :]] = self.piece(m)
        return out

    def family(self, family: Family) -> Data:
        """What its members share, and a table for them."""
        own = {key: value for key, value in family.entry.data.items() if key not in ("runs", "pieces")}
        return {**own, "pieces": {}}

    def piece(self, m: Member) -> str | Data:
        """A member between its nodes, with what differs from its family."""
        family = self.families[m.family]
        start, end = self.bare.nodes[m.start], self.bare.nodes[m.end]
        style = Style(m.joints, m.bar, m.roll, m.shear, m.acts, m.offsets, joined=m.joined)
        usual, own = family.style, Data()
        if m.section != family.section:
            own["section"] = self.sections[id(m.section)]
        if style.bar != usual.bar:
            own["bar"] = style.bar
        if style.joints != usual.joints and not style.bar:
            own["ends"] = self._ends(style.joints)
        if style.roll != usual.roll:
            own["roll"] = degrees(style.roll)
        if style.shear != usual.shear:
            own["shear"] = style.shear
        if style.acts != usual.acts:
            own["acts"] = str(style.acts or Acts.BOTH)
        if style.offsets != usual.offsets:
            own["offsets"] = [self.bare.number(v, "length") for v in style.offsets]
        if style.joined != usual.joined:
            own["joined"] = style.joined
        return {"between": [start, end], **own} if own else f"{start} > {end}"

    def _ends(self, joints: tuple[float, ...]) -> Any:
        ends = [self._end(joints[:6]), self._end(joints[6:])]
        return ends[0] if ends[0] == ends[1] and isinstance(ends[0], str) else ends

    def _end(self, six: tuple[float, ...]) -> str | Data:
        if six in (RIGID, HINGED):
            return "rigid" if six == RIGID else "hinged"
        out: Data = {}
        free = " ".join(f for f, k in zip(FREEDOMS, six, strict=True) if k == 0)
        if free:
            out["free"] = free
        return out | self.bare.springs({f: k for f, k in zip(FREEDOMS, six, strict=True) if 0 < k < math.inf})

    def _names_of_sections(self, members: Sequence[Member]) -> dict[int, str]:
        """Of every section by what it is, one name each; those that only a maker named may come to share one."""
        of: dict[int, str] = {}
        taken: dict[str, Section] = {}
        for s in (m.section for m in members):
            if id(s) in of:
                continue
            name, k = s.name, 1
            while name in taken and taken[name] != s:
                k += 1
                name = f"{s.name} ({k})"
            taken[name] = s
            of[id(s)] = name
        return of

    def more_sections(self, members: Sequence[Member]) -> Data:
        """Sections that makers and copies made, by shape or as mirror images."""
        written, out = self.written.get("sections", {}), Data()
        usual = {family.section.name: family.section for family in self.families.values()}
        for s in {id(m.section): m.section for m in members}.values():
            name = self.sections[id(s)]
            if name in written or name in out or s == usual.get(s.name) or find_section(name) is not None:
                continue
            if s.mirror_of:
                out[name] = {"mirror_of": s.mirror_of}
            else:
                sizes = {key: self.bare.number(v, "length") for key, v in s.dimensions}
                out[name] = {"shape": s.shape, **sizes, "made": str(s.made)}
        return out
