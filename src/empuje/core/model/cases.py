"""Cases, and combinations of them."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace

from .findings import Place
from .words import Design, Level, Stage

ACTIONS = (
    "dead", "live", "roof live", "snow", "rain", "wind", "seismic", "thermal", "settlement", "prestress", "soil",
    "fluid", "moving", "construction", "accidental",
)  # fmt: skip
ONE_AT_A_TIME = ("wind", "seismic", "snow", "rain", "thermal", "moving")
"""Of whose cases one acts at a time, unless they say otherwise."""


@dataclass(frozen=True, slots=True)
class Case:
    """A load case; `self_weight` is the factor on the members' own weight, acting along `weight_along`, less the
    `weightless` members (indices) and `weightless_surfaces`, structural ones.

    `notional` is the share of the vertical loads of each combination that acts along the unit vector `toward`.
    What codes ask about it: `use` of the floor; `reversible`: it may act the other way; `along`: the direction it acts
    in, +x -x +y -y; `together`: cases with this word act at once; `one_of`: of the cases with this word one acts at a
    time; `pattern`: it may be absent even in lists as codes write them; `stage`: construction, final, or both; mass: it
    joins no combination of codes. `moves`: it is a traffic, the worst of its positions; `stands`: one of these;
    `expected`: what its loads come to together, as worked out by hand [N]; `like`: an earlier case of the same loads,
    which combinations of codes take in its place; `component`: it is wind that components see alone; `own`: factors
    of codes, by name, that are its own. `torsion_of`: it is the accidental torsion of that seismic case, at `torsion`
    times the extent of each rigid floor across it, `amplified` on some floors (A_x).
    """

    name: str
    action: str
    title: str
    self_weight: float
    place: Place
    notional: float = 0.0
    toward: tuple[float, float, float] = (1.0, 0.0, 0.0)
    use: str = ""
    reversible: bool = False
    along: str = ""
    together: str = ""
    one_of: str = ""
    pattern: bool = False
    stage: Stage = Stage.ANY
    weight_along: tuple[float, float, float] = (0.0, 0.0, -1.0)
    weightless: tuple[int, ...] = ()
    weightless_surfaces: tuple[int, ...] = ()
    moves: bool = False
    stands: bool = False
    expected: float | None = None
    level: Level | None = None
    like: str = ""
    component: bool = False
    own: tuple[tuple[str, float], ...] = ()
    torsion_of: str = ""
    torsion: float = 0.0
    amplified: tuple[tuple[str, float], ...] = ()


def side_by_side(cases: Iterable[Case], one_at_a_time: bool = False) -> list[list[list[Case]]]:
    """What acts side by side: of each unit one bundle acts, a case or those `together`. One acts of those with the same
    `one_of`, and of an action's whose cases exclude each other; `one_at_a_time`: of these whatever their action."""
    bundles: dict[str, list[Case]] = {}
    for c in cases:
        bundles.setdefault(f" {c.together}" if c.together else c.name, []).append(c)
    units: dict[str, list[list[Case]]] = {}
    for key, bundle in bundles.items():
        c = bundle[0]
        which = "" if one_at_a_time else c.action
        one = f"   {c.one_of}" if c.one_of else which if c.action in ONE_AT_A_TIME else f"  {key}"
        units.setdefault(one, []).append(bundle)
    return list(units.values())


CUSTOM = "custom"
"""The source, and the set, of combinations that the engineer wrote."""


@dataclass(frozen=True, slots=True)
class Combination:
    """A sum of factored cases; `set` groups combinations (strength, service, ...).

    `source` says where it comes from: the rule set and clause, or "custom". `free` names cases that may be absent,
    which envelopes account for; elsewhere they are there. By second order it is analysed at `second_order_at` times its
    loads, and the results divided by that. Of combinations of codes, `rule` is the code's rule, and the name is `stem`
    and the `named` cases with their signs; `accompanying` cases have a factor of the code below their full value (psi).
    `moving` cases are the worst of their positions, for every result by itself. `rule_sets`: the names of the rule sets
    that make it; `mix_in`: those of them in which it is a mix of their other combinations, so that an envelope over the
    whole set can do without it. Where the model takes rules of several codes, `code` stands before its name. `clause`:
    where a custom one stands. `origins`: what the combinations are called that it is a pattern or a position of.
    """

    name: str
    factors: tuple[tuple[str, float], ...]
    set: str
    place: Place
    source: str = CUSTOM
    free: tuple[str, ...] = ()
    second_order_at: float = 1.0
    rule: str = ""
    stem: str = ""
    named: tuple[str, ...] = ()
    accompanying: tuple[str, ...] = ()
    moving: tuple[str, ...] = ()
    rule_sets: tuple[str, ...] = ()
    mix_in: tuple[str, ...] = ()
    code: str = ""
    design: Design | None = None
    clause: str = ""
    origins: tuple[str, ...] = ()

    @property
    def comes_from(self) -> str:
        """The rule set or "custom", and the clause."""
        return f"{self.source}, {self.clause}" if self.clause else self.source

    def called_after_its_cases(self, absent: Collection[str] = ()) -> Combination:
        """The same with the name its stem and its named cases give it, less those that are absent."""
        factors = dict(self.factors)
        words = (f"{'-' if factors[c] < 0 else '+'}{c}" for c in self.named if c in factors and c not in absent)
        return replace(self, name=(f"{self.code}." if self.code else "") + self.stem + "".join(words))

    @property
    def short(self) -> str:
        """Its name without the code."""
        return replace(self, code="").called_after_its_cases().name if self.code else self.name

    @property
    def formula(self) -> str:
        """The combination in case names, in brackets what may be absent.

        >>> Combination("U", (("G", 1.2), ("W", -1.0)), "strength", Place("m")).formula
        '1.2 G - 1.0 W'
        """
        words = []
        for c, f in self.factors:
            term = f"{_factor(abs(f))} {c}"
            words.append(f"{'-' if f < 0 else '+'} {f'[{term}]' if c in self.free else term}")
        return " ".join(words).removeprefix("+ ") if words else "0"

    def less(self, absent: Collection[str]) -> Combination:
        """The pattern of this combination without the absent cases, and with none left that may be.

        >>> c = Combination("U+A+B", (("G", 1.2), ("A", 1.6), ("B", 1.6)), "strength", Place("m"), free=("A", "B"),
        ...                 stem="U", named=("A", "B"))
        >>> c.less(["A"]).name, c.less(["A"]).formula
        ('U+B', '1.2 G + 1.6 B')
        >>> Combination("C1", c.factors, "strength", Place("m"), free=("A", "B")).less(["A"]).name
        'C1.without.A'
        """
        factors = tuple((c, f) for c, f in self.factors if c not in absent)
        named = self.called_after_its_cases(absent) if absent else self
        if absent and not self.stem:
            named = replace(self, name=f"{self.name}.without.{'+'.join(c for c, _ in self.factors if c in absent)}")
        return replace(named, factors=factors, free=())

    def standing(self, at: Mapping[str, str]) -> Combination:
        """The same with moving cases standing in positions, which are load cases by these names.

        >>> c = Combination("U+L+FL", (("L", 1.6), ("FL", 1.6)), "strength", Place("m"), stem="U", named=("L", "FL"),
        ...                 moving=("FL",))
        >>> c.standing({"FL": "FL@3m"}).name, c.standing({"FL": "FL@3m"}).formula
        ('U+L+FL@3m', '1.6 L + 1.6 FL@3m')
        """
        factors = tuple((at.get(c, c), f) for c, f in self.factors)
        named = tuple(at.get(c, c) for c in self.named)
        out = replace(self, factors=factors, named=named, moving=tuple(c for c in self.moving if c not in at))
        if self.stem:
            return out.called_after_its_cases()
        return replace(out, name=" ".join([self.name, *(at[c] for c, _ in self.factors if c in at)]))


def _factor(value: float) -> str:
    text = f"{value:.6g}"
    return text if "." in text or "e" in text else f"{text}.0"
