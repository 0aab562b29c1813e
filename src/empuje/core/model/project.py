"""Cases, combinations, and the project that holds everything the engineer described."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from .findings import Place
from .frame import ON_LINE_TOLERANCE, Diaphragm, Member, Node, Support, member_axes
from .loads import DescribedLoad
from .reduction import Reduction
from .surfaces import Surface, SurfaceLoad

ACTIONS = (
    "dead", "live", "roof live", "snow", "rain", "wind", "seismic", "thermal", "settlement", "prestress", "soil",
    "fluid", "moving", "construction",
)  # fmt: skip

GRAVITY = 9.80665
"""Standard acceleration of free fall [m/s2] (ISO 80000-3)."""


@dataclass(frozen=True, slots=True)
class Case:
    """A load case; `self_weight` is the factor on the members' own weight, acting along `weight_along`, less the
    `weightless` members (indices).

    `lean` is the share of the vertical loads of each combination that acts along the unit vector `toward`.
    What codes ask about it: `use` of the floor; `reversible`: it may act the other way; `along`: the direction it acts
    in, +x -x +y -y; `together`: cases with this word act at once; `one_of`: of the cases with this word one acts at a
    time; `pattern`: it may be absent even in lists as codes write them; `stage`: construction, final, or both; mass: it
    joins no combination of codes.
    """

    name: str
    action: str
    title: str
    self_weight: float
    place: Place
    lean: float = 0.0
    toward: tuple[float, float, float] = (1.0, 0.0, 0.0)
    use: str = ""
    reversible: bool = False
    along: str = ""
    together: str = ""
    one_of: str = ""
    pattern: bool = False
    stage: str = ""
    weight_along: tuple[float, float, float] = (0.0, 0.0, -1.0)
    weightless: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Combination:
    """A sum of factored cases; `set` groups combinations (strength, service, ...).

    `source` says where it comes from: the rule set and clause, or "custom". `free` names cases that may be absent,
    which envelopes account for; elsewhere they are there. By second order it is analysed at `second_order_at` times its
    loads, and the results divided by that. Of combinations of codes, `rule` is the code's rule, and the name is `stem`
    and the `named` cases with their signs; `accompanying` cases have a factor of the code below their full value (psi).
    """

    name: str
    factors: tuple[tuple[str, float], ...]
    set: str
    place: Place
    source: str = "custom"
    free: tuple[str, ...] = ()
    second_order_at: float = 1.0
    rule: str = ""
    stem: str = ""
    named: tuple[str, ...] = ()
    accompanying: tuple[str, ...] = ()

    def called_after_its_cases(self, absent: Collection[str] = ()) -> Combination:
        """The same with the name its stem and its named cases give it, less those that are absent."""
        words = (f"{'-' if f < 0 else '+'}{c}" for c, f in self.factors if c in self.named and c not in absent)
        return replace(self, name=self.stem + "".join(words))

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

    def patterned(self, name: str) -> Combination | None:
        """The pattern of this combination that has the given name, all its cases stated; None where there is none.

        >>> c = Combination("U+A+B", (("G", 1.2), ("A", 1.6), ("B", 1.6)), "strength", Place("m"), free=("A", "B"),
        ...                 stem="U", named=("A", "B"))
        >>> c.patterned("U+B").formula, c.patterned("U+C")
        ('1.2 G + 1.6 B', None)
        """
        asked = set(re.split(r"[+-]", name)[1:])
        absent = [c for c in self.free if c not in asked]
        pattern = self.called_after_its_cases(absent)
        if not absent or pattern.name != name:
            return None
        return replace(pattern, factors=tuple((c, f) for c, f in self.factors if c not in absent), free=())


def _factor(value: float) -> str:
    text = f"{value:.6g}"
    return text if "." in text or "e" in text else f"{text}.0"


@dataclass(frozen=True)
class Project:
    """Everything the engineer described, names resolved, in SI units.

    `units` and `display` are the words of the model file about units; only the edges read them.
    In a plane model every node has y = 0 and moves in x, z and ry only.
    `grid` holds the named lines of each axis [m]; drawings show them.
    `second_order` names the sets whose combinations are analysed by second-order theory, "*" for every one.
    `mass` is the combination of cases whose vertical loads are masses.
    `combining` says in words how the combinations of codes came about.
    """

    file: str
    title: str
    plane: bool
    units: tuple[str, str]
    display: tuple[str, str, str, str]
    nodes: tuple[Node, ...]
    members: tuple[Member, ...]
    supports: tuple[Support, ...]
    cases: tuple[Case, ...]
    loads: tuple[DescribedLoad, ...]
    combinations: tuple[Combination, ...]
    grid: dict[str, dict[str, float]] = field(default_factory=dict)
    diaphragms: tuple[Diaphragm, ...] = ()
    second_order: tuple[str, ...] = ()
    mass: tuple[tuple[str, float], ...] = ()
    combining: tuple[str, ...] = ()
    surfaces: tuple[Surface, ...] = ()
    surface_loads: tuple[SurfaceLoad, ...] = ()
    reduction: Reduction = field(default_factory=Reduction)

    @cached_property
    def xyz(self) -> NDArray[np.float64]:
        """Node coordinates (nodes, 3) [m]."""
        return np.array([n.xyz for n in self.nodes], float).reshape(-1, 3)

    @cached_property
    def ends(self) -> NDArray[np.intp]:
        """Start and end node of every member (members, 2)."""
        return np.array([(m.start, m.end) for m in self.members], np.intp).reshape(-1, 2)

    @cached_property
    def lengths(self) -> NDArray[np.float64]:
        """Member lengths (members,) [m]."""
        return np.linalg.norm(self.xyz[self.ends[:, 1]] - self.xyz[self.ends[:, 0]], axis=1)

    @cached_property
    def axes(self) -> NDArray[np.float64]:
        """Member axes as rows (members, 3, 3)."""
        roll = np.array([m.roll for m in self.members])
        return member_axes(self.xyz[self.ends[:, 0]], self.xyz[self.ends[:, 1]], roll)

    @cached_property
    def nodes_on_members(self) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.float64]]:
        """Member, node and distance from the member's start [m] of every node inside a member's length, in order."""
        none = np.zeros(0, np.intp), np.zeros(0, np.intp), np.zeros(0)
        if not self.members or not self.nodes:
            return none
        from scipy.spatial import cKDTree

        xyz, ends, length = self.xyz, self.ends, self.lengths
        middle = (xyz[ends[:, 0]] + xyz[ends[:, 1]]) / 2
        tree, reach = cKDTree(xyz), length / 2 + ON_LINE_TOLERANCE
        # Most members have no node near them but their own two ends: counting is cheap, listing is not.
        crowded = np.flatnonzero(tree.query_ball_point(middle, reach, return_length=True) > 2)
        near = tree.query_ball_point(middle[crowded], reach[crowded], return_sorted=True)
        member = np.repeat(crowded, [len(n) for n in near])
        node = np.fromiter((i for group in near for i in group), np.intp, len(member))
        from_start = xyz[node] - xyz[ends[member, 0]]
        x = self.axes[member, 0]
        s = np.einsum("ij,ij->i", from_start, x)
        off = np.linalg.norm(from_start - s[:, None] * x, axis=1)
        inside = (s > ON_LINE_TOLERANCE) & (s < length[member] - ON_LINE_TOLERANCE) & (off <= ON_LINE_TOLERANCE)
        member, node, s = member[inside], node[inside], s[inside]
        order = np.lexsort((s, member))
        return member[order], node[order], s[order]

    @cached_property
    def case_names(self) -> tuple[str, ...]:
        return tuple(c.name for c in self.cases)

    @cached_property
    def has_one_way_parts(self) -> bool:
        """Whether a member or support acts one way only, so that no result is a sum of others."""
        return any(m.acts != "both" for m in self.members) or any(s.lift for s in self.supports)

    def how(self, combination: Combination) -> str:
        """How it will be analysed: "summed" from cases, "as one", or by "second order", at how many times its loads."""
        if self.is_second_order(combination):
            at = combination.second_order_at
            return "second order" if at == 1 else f"second order at {at:g}"
        return "as one" if self.has_one_way_parts else "summed"

    def reduces(self, combination: Combination, k: int) -> bool:
        """Whether the k-th reduction of live loads goes with a combination: with sums only, and some not beside psi."""
        case = self.cases[self.reduction.cases[k]].name
        holds = self.reduction.beside_psi[k] or case not in combination.accompanying
        return holds and self.how(combination) == "summed"

    def is_second_order(self, combination: Combination) -> bool:
        return "*" in self.second_order or combination.set in self.second_order

    @cached_property
    def lean_pairs(self) -> tuple[tuple[int, int], ...]:
        """Every leaning case with every case that does not lean; loads count them as further cases."""
        lean = [i for i, c in enumerate(self.cases) if c.lean]
        return tuple((i, j) for i in lean for j, c in enumerate(self.cases) if not c.lean)

    @property
    def load_columns(self) -> int:
        """Cases, pairs that lean, and cases whose live loads are reduced: what plain loads count as cases."""
        return len(self.cases) + len(self.lean_pairs) + len(self.reduction.cases)

    @property
    def reductions(self) -> slice:
        """The columns of what is taken off live loads, for the members' own results."""
        return slice(self.load_columns - len(self.reduction.cases), self.load_columns)

    def weights(self, names: list[str]) -> NDArray[np.float64]:
        """Factors on the cases, then on the pairs that lean, then on what is taken off reduced live loads (of
        combinations that are summed), for each named case or combination: (columns, names)."""
        row = {c: i for i, c in enumerate(self.case_names)}
        combination = {c.name: c for c in self.combinations}
        out = np.zeros((len(row), len(names)))
        for j, name in enumerate(names):
            for case, factor in combination[name].factors if name in combination else ((name, 1.0),):
                out[row[case], j] += factor
        parts = [out]
        if self.lean_pairs:
            lean, case = np.array(self.lean_pairs).T
            parts.append(out[lean] * out[case])
        if self.reduction.cases:
            holds = [
                [n in combination and self.reduces(combination[n], k) for n in names]
                for k in range(len(self.reduction.cases))
            ]
            parts.append(out[list(self.reduction.cases)] * np.array(holds))
        return np.vstack(parts)
