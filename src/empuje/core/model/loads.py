"""Loads: as the engineer described them, and as the plain loads every action turns them into.

Plain loads are the one currency between `actions` and `analysis`: line segments and points on members and forces at
nodes, in **global** axes, strains of members, motions of supports, each with its case and its source.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, fields, replace
from typing import Any, Literal, Self, TypeVar, overload

import numpy as np
from numpy.typing import NDArray

from .findings import Place

Vector = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Position:
    """A place along a member: a length from its start [m] plus a share of its length."""

    offset: float = 0.0
    share: float = 0.0

    def on(self, length: float) -> float:
        """Metres from the start of a member so long [m]."""
        return self.offset + self.share * length


START, END = Position(), Position(share=1.0)


@dataclass(frozen=True, slots=True)
class Direction:
    """A unit vector, in global axes or in those of the member."""

    vector: Vector
    local: bool = False
    text: str = "down"


@dataclass(frozen=True, slots=True)
class LineLoad:
    """A load per length on members: values [N/m] at positions, linear between them, zero outside."""

    case: str
    members: tuple[int, ...]
    points: tuple[tuple[Position, float], ...]
    direction: Direction
    projected: bool
    text: str
    place: Place


@dataclass(frozen=True, slots=True)
class PointLoad:
    """A force [N] or moment [N m] at one or several positions of members."""

    case: str
    members: tuple[int, ...]
    kind: Literal["force", "moment"]
    value: float
    positions: tuple[Position, ...]
    direction: Direction
    text: str
    place: Place


@dataclass(frozen=True, slots=True)
class NodeLoad:
    """A force [N] or moment [N m] at nodes, in global axes."""

    case: str
    nodes: tuple[int, ...]
    kind: Literal["force", "moment"]
    value: float
    direction: Direction
    text: str
    place: Place


@dataclass(frozen=True, slots=True)
class Strain:
    """A change of members' own shape: T = temperature + gradient_y y + gradient_z z [K, K/m], or made too long [m]."""

    case: str
    members: tuple[int, ...]
    temperature: float
    gradient_y: float
    gradient_z: float
    lack_of_fit: float
    text: str
    place: Place


@dataclass(frozen=True, slots=True)
class Settlement:
    """Supports that move by x y z [m] and turn by rx ry rz [rad], in their own axes."""

    case: str
    nodes: tuple[int, ...]
    motion: tuple[float, float, float, float, float, float]
    text: str
    place: Place


DescribedLoad = LineLoad | PointLoad | NodeLoad | Strain | Settlement


@dataclass(frozen=True, slots=True)
class Step:
    """One written step of a derivation: symbol, formula, value in SI, its unit, and the clause where there is one."""

    symbol: str
    formula: str
    value: float
    unit: str
    clause: str = ""


@dataclass(frozen=True, slots=True)
class Source:
    """Where a plain load comes from: the words of the model file, the line, and the steps that led to the value.

    Of a load on a surface also its name, its case, and what was `put` on it there [N].
    """

    text: str
    place: Place
    steps: tuple[Step, ...] = ()
    surface: str = ""
    case: str = ""
    put: Vector = (0.0, 0.0, 0.0)


class SourcesOnDemand(Sequence[Source]):
    """Sources that are made when somebody asks for them: of a hundred thousand loads hardly any is ever asked about.

    >>> few = SourcesOnDemand(2, lambda i: Source(f"load {i}", Place("m.toml", i)))
    >>> len(few), few[-1].text, [s.text for s in few]
    (2, 'load 1', ['load 0', 'load 1'])
    """

    def __init__(self, count: int, make: Callable[[int], Source]) -> None:
        self._count, self._make = count, make

    def __len__(self) -> int:
        return self._count

    @overload
    def __getitem__(self, i: int) -> Source: ...
    @overload
    def __getitem__(self, i: slice) -> Sequence[Source]: ...
    def __getitem__(self, i: int | slice) -> Source | Sequence[Source]:
        if isinstance(i, slice):
            return [self._make(k) for k in range(*i.indices(self._count))]
        if not -self._count <= i < self._count:
            raise IndexError(i)
        return self._make(i % self._count)

    def __reduce__(self) -> tuple[type, tuple[list[Source]]]:
        """Pickled as what it makes."""
        return tuple, (list(self),)


def _one_after_another(parts: Sequence[Sequence[Source]]) -> Sequence[Source]:
    """Several sequences as one; those that are there already as a tuple."""
    if all(isinstance(p, tuple) for p in parts):
        return tuple(s for p in parts for s in p)
    start = np.cumsum([0, *map(len, parts)])

    def make(i: int) -> Source:
        part = int(np.searchsorted(start, i, side="right")) - 1
        return parts[part][i - int(start[part])]

    return SourcesOnDemand(int(start[-1]), make)


Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def _ints() -> Ints:
    return np.zeros(0, np.intp)


def _rows(width: int) -> Callable[[], Floats]:
    return lambda: np.zeros((0, width))


def _floats() -> Floats:
    return np.zeros(0)


@dataclass(frozen=True)
class Rows:
    """Plain loads of one kind as arrays of one length; `case` and `source` are indices."""

    case: Ints = field(default_factory=_ints)
    source: Ints = field(default_factory=_ints)

    def __len__(self) -> int:
        return len(self.case)

    def take(self, rows: NDArray[Any]) -> Self:
        """The chosen rows (a mask or indices)."""
        return replace(self, **{f.name: getattr(self, f.name)[rows] for f in fields(self)})

    def as_case(self, case: Ints) -> Self:
        """The same rows as loads of other cases (rows,); those of case -1 are left out."""
        return replace(self, case=case).take(case >= 0)

    @classmethod
    def concat(cls, parts: Sequence[Self]) -> Self:
        """One below the other."""
        return cls(**{f.name: np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(cls)})


T = TypeVar("T", bound=Rows)


@dataclass(frozen=True)
class Lines(Rows):
    """On a member from s0 to s1 [m], q0 to q1 (n, 3) [N/m]."""

    member: Ints = field(default_factory=_ints)
    s0: Floats = field(default_factory=_floats)
    s1: Floats = field(default_factory=_floats)
    q0: Floats = field(default_factory=_rows(3))
    q1: Floats = field(default_factory=_rows(3))


@dataclass(frozen=True)
class Points(Rows):
    """At s [m] of a member, f (n, 6): force [N] and moment [N m]."""

    member: Ints = field(default_factory=_ints)
    s: Floats = field(default_factory=_floats)
    f: Floats = field(default_factory=_rows(6))


@dataclass(frozen=True)
class AtNodes(Rows):
    """At a node, f (n, 6): force [N] and moment [N m]."""

    node: Ints = field(default_factory=_ints)
    f: Floats = field(default_factory=_rows(6))


@dataclass(frozen=True)
class PlateStrains(Rows):
    """Of a structural surface, v (n, 2): rise of temperature [K], and its gradient along the normal [K/m]."""

    surface: Ints = field(default_factory=_ints)
    v: Floats = field(default_factory=_rows(2))


@dataclass(frozen=True)
class Strains(Rows):
    """Of a member, v (n, 4): rise of temperature [K], gradients along its y and z [K/m], too long by [m]."""

    member: Ints = field(default_factory=_ints)
    v: Floats = field(default_factory=_rows(4))


@dataclass(frozen=True)
class Settlements(Rows):
    """Of a supported node, d (n, 6) [m, rad]."""

    node: Ints = field(default_factory=_ints)
    d: Floats = field(default_factory=_rows(6))


@dataclass(frozen=True)
class PlainLoads:
    """Loads in global axes, a table for each kind; the rows' sources are places in `sources`."""

    lines: Lines = field(default_factory=Lines)
    points: Points = field(default_factory=Points)
    nodes: AtNodes = field(default_factory=AtNodes)
    strains: Strains = field(default_factory=Strains)
    settlements: Settlements = field(default_factory=Settlements)
    plate_strains: PlateStrains = field(default_factory=PlateStrains)
    sources: Sequence[Source] = ()

    def mapped(self, change: Callable[[Any], Any]) -> PlainLoads:
        """The same with every table changed."""
        return PlainLoads(
            change(self.lines), change(self.points), change(self.nodes), change(self.strains), change(self.settlements),
            change(self.plate_strains), self.sources,
        )  # fmt: skip


def in_columns(loads: PlainLoads, column: Ints) -> PlainLoads:
    """The loads on members and nodes with their cases as the given columns (cases,); those of column -1 left out."""
    lines, points, nodes = loads.lines, loads.points, loads.nodes
    return PlainLoads(
        lines.as_case(column[lines.case]), points.as_case(column[points.case]), nodes.as_case(column[nodes.case]),
        sources=loads.sources,
    )  # fmt: skip


def gather(parts: Sequence[PlainLoads]) -> PlainLoads:
    """Several sets of plain loads as one; each part's sources keep their order."""
    if not parts:
        return PlainLoads()
    shift = np.cumsum([0] + [len(p.sources) for p in parts])

    def joined(tables: Sequence[T]) -> T:
        return tables[0].concat([replace(t, source=t.source + n) for t, n in zip(tables, shift, strict=False)])

    return PlainLoads(
        joined([p.lines for p in parts]), joined([p.points for p in parts]), joined([p.nodes for p in parts]),
        joined([p.strains for p in parts]), joined([p.settlements for p in parts]),
        joined([p.plate_strains for p in parts]),
        _one_after_another([p.sources for p in parts]),
    )  # fmt: skip
