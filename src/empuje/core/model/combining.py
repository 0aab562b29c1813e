"""Which combinations a model asks for: its own, and those of the rules of codes."""

from __future__ import annotations

from dataclasses import dataclass, field

from .cases import Combination
from .findings import Place
from .rules import RuleSet
from .words import Expansion

NOWHERE = Place("")


@dataclass(frozen=True, slots=True)
class Chosen:
    """Patterns of combinations or rules, and where they are written."""

    patterns: tuple[str, ...]
    place: Place


@dataclass(frozen=True)
class Combining:
    """`custom`: the model's own; `sets`: rules of codes, with the model's values in them; `reduce`: leave out what is a
    mix of others; `only`, `leave_out`: which of those of codes stay. place: of the table; of_rules: of its rules."""

    custom: tuple[Combination, ...] = ()
    sets: tuple[RuleSet, ...] = ()
    expansion: Expansion = Expansion.COMPLETE
    reduce: bool = True
    only: Chosen | None = None
    leave_out: Chosen | None = None
    place: Place = field(default=NOWHERE)
    of_rules: Place = field(default=NOWHERE)
