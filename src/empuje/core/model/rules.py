"""A code's rules for combining actions, as data: what stands in the TOML files of `codes/`.

    1.2 D + 1.6 L + (0.5 Lr | 0.3 S | 0.5 R)
        |     |          one of these at a time
        |     variable: may be absent, several cases as their keys say
        permanent: every case of its actions, always

Each symbol stands for actions of the model; which cases these have decides what comes of a rule (combine/expand.py).
"""

from __future__ import annotations

from dataclasses import dataclass, field

from .words import Design, Level

OF_SERVICE = ("k_a", "k_W")
"""Values of rules that say which share of the wind cases acts in service."""


@dataclass(frozen=True, slots=True)
class Term:
    """A factored name; more than one factor where each case takes either; `by_case` names factors cases have."""

    name: str
    factors: tuple[float, ...]
    by_case: tuple[str, ...] = ()

    def scaled(self, by: Term) -> Term:
        """Times the factors of another."""
        factors = tuple(a * b for a in by.factors for b in self.factors)
        return Term(self.name, factors, by.by_case + self.by_case)


Options = list[list[Term]]
"""Alternatives, each a sum."""

USES = ("residential", "office", "assembly", "shopping", "storage", "light traffic", "heavy traffic")
"""What a floor with a live case is used for (the categories A to G of EN 1991-1-1)."""
CRANE_USE = "crane"
"""The use of cranes; where a code has no factor for them that of the heaviest use holds."""
BY_USE = ("live", "moving", "construction")
"""Actions whose factors depend on the use."""
HEAVIEST = "storage"
"""The use that is taken where none is stated: its factors are the highest of every code."""


@dataclass(frozen=True, slots=True)
class Symbol:
    """Actions a rule calls by one letter; `permanent` ones are always there, `orthogonal` is the share of a second
    direction that acts with the first, `vertical` that of the vertical one; of the actions all may act at once, or
    `one_at_a_time`."""

    name: str
    actions: tuple[str, ...]
    permanent: bool = False
    orthogonal: float = 0.0
    vertical: float = 0.0
    one_at_a_time: bool = False


@dataclass(frozen=True, slots=True)
class Leading:
    """The symbols of the one variable action that leads and of the others that go with it; `actions` may lead.

    Actions that stand in one tuple of `apart` never act together. `partial`: of the factors of cases the one that is
    part of the partial factor, and makes no value an accompanying one.
    """

    first: str = ""
    others: str = ""
    actions: tuple[str, ...] = ()
    apart: tuple[tuple[str, ...], ...] = ()
    partial: str = ""


@dataclass(frozen=True, slots=True)
class Rule:
    """One line of a code. It applies where the model has every symbol in `needs`; those in `always` are never left
    out of it."""

    id: str
    clause: str
    text: str
    options: Options
    needs: tuple[str, ...] = ()
    always: tuple[str, ...] = ()


@dataclass(frozen=True)
class RuleSet:
    """The rules of a code for one purpose, such as "ASCE 7-22 strength".

    by_case: factors that differ from case to case, by the name of the factor and the use or action of the case
    heavy: of these factors, the live load [N/m2] above which another holds, and that one
    values: numbers with a name, as they were used; asked: those that decide safety and were not given
    notional: whether cases of notional loads go with it; without: actions that the code leaves out of it
    second_order_at: by second order its combinations are analysed at so many times their loads
    design: whether strengths or allowable strengths are held against its combinations
    levels: by action, at which level its loads are taken
    stated: the factors, and their uses or actions, that the model gives in place of the code's
    """

    name: str
    code: str
    set: str
    rules: tuple[Rule, ...]
    symbols: dict[str, Symbol]
    leading: Leading
    by_case: dict[str, dict[str, float]] = field(default_factory=dict)
    values: dict[str, float] = field(default_factory=dict)
    notional: bool = False
    heavy: dict[str, tuple[float, float]] = field(default_factory=dict)
    asked: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    second_order_at: float = 1.0
    design: Design = Design.LRFD
    levels: dict[str, Level] = field(default_factory=dict)
    stated: frozenset[tuple[str, str]] = frozenset()
