"""Findings: what there is to say about a model, as data.

>>> str(Finding("error", "unknown-name", "no section IPE 33", "did you mean IPE 330?", Place("m.toml", 12)))
'm.toml:12: error[unknown-name]: no section IPE 33; did you mean IPE 330?'
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fnmatch import fnmatchcase
from typing import Literal

Level = Literal["error", "warning", "note"]


@dataclass(frozen=True, slots=True, order=True)
class Place:
    """A line of a file. Line 0 stands for the file as a whole."""

    file: str
    line: int = 0

    def __str__(self) -> str:
        return f"{self.file}:{self.line}" if self.line else self.file


@dataclass(frozen=True, slots=True)
class Finding:
    """Something to say about the model: its level, a stable code, what is wrong, what to do, and where; how many it
    stands for; the names of what it is `about`; and why it is `accepted`, if it is."""

    level: Level
    code: str
    message: str
    remedy: str
    place: Place
    stands_for: int = 1
    about: tuple[str, ...] = ()
    accepted: str = ""

    def __str__(self) -> str:
        if self.accepted:
            return visible(f"{self.place}: accepted[{self.code}]: {self.message}; because {self.accepted}")
        remedy = f"; {self.remedy}" if self.remedy else ""
        return visible(f"{self.place}: {self.level}[{self.code}]: {self.message}{remedy}")


@dataclass(frozen=True, slots=True)
class Accepted:
    """What the engineer takes as it is: findings by their code, of things whose names match a glob (all, where there is
    none), and why."""

    code: str
    about: tuple[str, ...]
    reason: str
    place: Place

    def takes(self, finding: Finding) -> bool:
        """Whether it is meant. An error never is."""
        if finding.level == "error" or finding.code != self.code:
            return False
        return not self.about or any(fnmatchcase(name, glob) for name in finding.about for glob in self.about)


def with_accepted(findings: Iterable[Finding], accepted: Sequence[Accepted]) -> list[Finding]:
    """The findings, those that are accepted as notes with the reason."""
    codes = {a.code for a in accepted}

    def seen(finding: Finding) -> Finding:
        taken = next((a for a in accepted if a.takes(finding)), None)
        return replace(finding, level="note", accepted=taken.reason) if taken else finding

    return [seen(f) if f.code in codes and not f.accepted else f for f in findings]


CONTROL = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u200e\u200f\u2028-\u202e\u2066-\u2069]")
"""Characters that move a cursor, colour a window or turn the direction of writing, and none of which is text."""


def visible(text: str) -> str:
    r"""The text on one line, with control characters as what they are.

    >>> print(visible("a\x1b[2Jb\n"))
    a\x1b[2Jb\n
    """
    if text.isprintable():
        return text
    return re.sub(CONTROL.pattern + "|[\n\t]", lambda m: m[0].encode("unicode_escape").decode(), text)


def in_order(findings: Iterable[Finding]) -> list[Finding]:
    """Findings by place, each said once."""
    rank = {"error": 0, "warning": 1, "note": 2}
    return sorted(dict.fromkeys(findings), key=lambda f: (f.place.file, f.place.line, rank[f.level], f.code, f.message))


MOST_OF_A_KIND = 10


def in_short(findings: Iterable[Finding]) -> list[Finding]:
    """The first findings of each kind in their order, then for every kind one that counts the rest."""
    kinds: dict[tuple[str, str, bool], list[Finding]] = {}
    for finding in findings:
        kinds.setdefault((finding.level, finding.code, bool(finding.accepted)), []).append(finding)
    out, counted = [], []
    for of_kind in kinds.values():
        of_kind.sort(key=lambda f: f.stands_for > 1)
        rest = of_kind[MOST_OF_A_KIND:]
        more = sum(f.stands_for for f in rest)
        if more < 2:
            out += of_kind
            continue
        out += of_kind[:MOST_OF_A_KIND]
        first = rest[0]
        words = f"and {more:,} more like these"
        counted.append(Finding(first.level, first.code, words, "", first.place, more, (), first.accepted))
    return [*in_order(out), *counted]


def listed(names: Sequence[str], most: int = 6) -> str:
    """
    >>> listed(["a", "b", "c"]), listed("abcdefgh")
    ('a, b, c', 'a, b, c, d, e, f and 2 more')
    """
    return ", ".join(names[:most]) + (f" and {len(names) - most} more" if len(names) > most else "")


def has_errors(findings: Iterable[Finding]) -> bool:
    """Whether any of them is an error."""
    return any(f.level == "error" for f in findings)


def nearest(word: str, known: Iterable[str], most: int = 3) -> list[str]:
    """The known names most like `word`, best first; letter case does not count. Never `word` itself."""
    match = difflib.SequenceMatcher(b=word.casefold())
    numbers = _numbers(word)
    found = []
    for place, name in enumerate(dict.fromkeys(n for n in known if n != word)):
        match.set_seq1(name.casefold())
        if match.real_quick_ratio() < NEAR_ENOUGH or match.quick_ratio() < NEAR_ENOUGH:
            continue
        ratio = match.ratio()
        if ratio >= NEAR_ENOUGH:
            # Of names equally alike, the one with the nearest numbers: HEB 200 for HEB 205.
            apart = sum(abs(a - b) for a, b in zip(numbers, _numbers(name), strict=False))
            found.append((-round(ratio, 2), apart, place, name))
    return [name for *_, name in sorted(found)[:most]]


NEAR_ENOUGH = 0.55


def _numbers(text: str) -> list[float]:
    return [float(n) for n in re.findall(r"\d+(?:\.\d+)?", text)]


def did_you_mean(word: str, known: Iterable[str]) -> str:
    """A remedy that names the nearest known names, or lists a few of them where none is near; never `word` itself."""
    names = [n for n in dict.fromkeys(known) if n != word]
    close = nearest(word, names)
    if close:
        return "did you mean " + " or ".join(close) + "?"
    if not names:
        return "there are none yet"
    shown = ", ".join(names[:8])
    return f"known are {shown}" + (", ..." if len(names) > 8 else "")
