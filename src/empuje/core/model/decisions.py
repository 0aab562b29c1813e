"""Decisions: what the program took by itself where the model says nothing, as records.

>>> one = Decision("use of the floor", ("Q",), "storage", "its factors are the highest", "office, ...", "cases.Q.use",
...                Stance.SAFE, Place("m.toml", 7))
>>> str(one)
'm.toml:7: safe: use of the floor of Q: storage; its factors are the highest; else: office, ...; stated by cases.Q.use'
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from .findings import Finding, Place, listed, visible
from .words import Stance

RANK = {Stance.UNSAFE: 0, Stance.GUESS: 1, Stance.USUAL: 2, Stance.SAFE: 3}


@dataclass(frozen=True, slots=True)
class Decision:
    """What was decided, about what (names of members, surfaces, cases), what was taken, why (a clause or a rule), what
    else it could be, which key of the model file states it, and on which side it lies. `code`: of the finding that it
    is where it is a guess or unsafe; `about` is then what [[accepted]] may name."""

    what: str
    about: tuple[str, ...]
    taken: str
    why: str
    instead: str
    key: str
    stance: Stance
    place: Place
    code: str = ""

    def __str__(self) -> str:
        on = f" of {listed(self.about, 3)}" if self.about else ""
        words = f"{self.place}: {self.stance}: {self.what}{on}: {self.taken}; {self.why}"
        words += f"; else: {self.instead}" if self.instead else ""
        return visible(words + (f"; stated by {self.key}" if self.key else ""))

    @property
    def open(self) -> bool:
        """Whether somebody has to look at it: a guess, or what may be unsafe."""
        return self.stance in (Stance.GUESS, Stance.UNSAFE)


def by_weight(decisions: Iterable[Decision]) -> list[Decision]:
    """The weightiest first: what may be unsafe, guesses, what is usual, what is safe; each kind together, each once."""
    every = list(dict.fromkeys(decisions))
    first = {d.what: i for i, d in reversed(list(enumerate(every)))}
    return sorted(every, key=lambda d: (RANK[d.stance], first[d.what]))


def by_kind(decisions: Iterable[Decision]) -> dict[tuple[str, str], list[Decision]]:
    """By side and what was decided, in their order."""
    kinds: dict[tuple[str, str], list[Decision]] = {}
    for d in decisions:
        kinds.setdefault((str(d.stance), d.what), []).append(d)
    return kinds


def open_findings(decisions: Iterable[Decision], known: Sequence[Finding] = ()) -> list[Finding]:
    """A warning for each kind of decision that is a guess or may be unsafe, less what findings say already."""
    told = {(f.code, name) for f in known for name in f.about}
    kinds: dict[tuple[str, str, str, str], list[Decision]] = {}
    for d in decisions:
        if d.open and not any((d.code, name) in told for name in d.about):
            kinds.setdefault((d.code, d.what, d.taken if d.stance == Stance.UNSAFE else "", d.key), []).append(d)
    out = []
    for (code, what, _, key), own in kinds.items():
        about = tuple(dict.fromkeys(name for d in own for name in d.about))
        taken = listed(tuple(dict.fromkeys(d.taken for d in own)), 3)
        whose = f" of {listed(about, 4)}" if about else ""
        message = f"{what}{whose}: {taken}, by the program itself; {own[0].why}"
        out.append(Finding("warning", code, message, f"state {key}, or accept it", own[0].place, len(own), about))
    return out
