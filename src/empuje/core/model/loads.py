"""Loads: as the engineer described them, and as the plain loads every action turns them into.

Plain loads are the one currency between `actions` and `analysis`: line segments and points on members and forces at
nodes, in **global** axes, strains of members, motions of supports, each with its case and its source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

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
    """A change of members' own shape: T = warm + gradient_y y + gradient_z z [K, K/m], or made too long [m]."""

    case: str
    members: tuple[int, ...]
    warm: float
    gradient_y: float
    gradient_z: float
    misfit: float
    text: str
    place: Place


@dataclass(frozen=True, slots=True)
class Settlement:
    """Supports that move by x y z [m] and turn by rx ry rz [rad], in global axes."""

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


def _ints(n: int = 0) -> NDArray[np.intp]:
    return np.zeros(n, np.intp)


def _floats(*shape: int) -> NDArray[np.float64]:
    return np.zeros(shape)


@dataclass(frozen=True)
class PlainLoads:
    """Loads in global axes, as arrays; `case`, `member`, `node`, `source` are indices.

    line_*:  on a member from line_s0 to line_s1 [m], line_q0 to line_q1 (n, 3) [N/m]
    point_*: at point_s [m] of a member, point_f (n, 6): force [N] and moment [N m]
    node_*:  at a node, node_f (n, 6)
    strain_*: of a member, strain_v (n, 4): warm [K], gradients along its y and z [K/m], too long by [m]
    settle_*: of a supported node, settle_d (n, 6) [m, rad]
    """

    line_case: NDArray[np.intp] = field(default_factory=_ints)
    line_member: NDArray[np.intp] = field(default_factory=_ints)
    line_source: NDArray[np.intp] = field(default_factory=_ints)
    line_s0: NDArray[np.float64] = field(default_factory=lambda: _floats(0))
    line_s1: NDArray[np.float64] = field(default_factory=lambda: _floats(0))
    line_q0: NDArray[np.float64] = field(default_factory=lambda: _floats(0, 3))
    line_q1: NDArray[np.float64] = field(default_factory=lambda: _floats(0, 3))
    point_case: NDArray[np.intp] = field(default_factory=_ints)
    point_member: NDArray[np.intp] = field(default_factory=_ints)
    point_source: NDArray[np.intp] = field(default_factory=_ints)
    point_s: NDArray[np.float64] = field(default_factory=lambda: _floats(0))
    point_f: NDArray[np.float64] = field(default_factory=lambda: _floats(0, 6))
    node_case: NDArray[np.intp] = field(default_factory=_ints)
    node_node: NDArray[np.intp] = field(default_factory=_ints)
    node_source: NDArray[np.intp] = field(default_factory=_ints)
    node_f: NDArray[np.float64] = field(default_factory=lambda: _floats(0, 6))
    strain_case: NDArray[np.intp] = field(default_factory=_ints)
    strain_member: NDArray[np.intp] = field(default_factory=_ints)
    strain_source: NDArray[np.intp] = field(default_factory=_ints)
    strain_v: NDArray[np.float64] = field(default_factory=lambda: _floats(0, 4))
    settle_case: NDArray[np.intp] = field(default_factory=_ints)
    settle_node: NDArray[np.intp] = field(default_factory=_ints)
    settle_source: NDArray[np.intp] = field(default_factory=_ints)
    settle_d: NDArray[np.float64] = field(default_factory=lambda: _floats(0, 6))
    sources: tuple[Source, ...] = ()


def in_columns(loads: PlainLoads, column: NDArray[np.intp]) -> PlainLoads:
    """The loads on members and nodes with their cases as the given columns (cases,); those of column -1 left out."""
    out = {}
    for group in ("line", "point", "node"):
        case = column[getattr(loads, f"{group}_case")]
        for name in PlainLoads.__dataclass_fields__:
            if name.startswith(f"{group}_"):
                out[name] = getattr(loads, name)[case >= 0]
        out[f"{group}_case"] = case[case >= 0]
    return PlainLoads(**out, sources=loads.sources)


def gather(parts: Sequence[PlainLoads]) -> PlainLoads:
    """Several sets of plain loads as one; each part's sources keep their order."""
    if not parts:
        return PlainLoads()
    names = [n for n in PlainLoads.__dataclass_fields__ if n != "sources"]
    shift = np.cumsum([0] + [len(p.sources) for p in parts])
    joined = {
        n: np.concatenate([getattr(p, n) + (shift[i] if n.endswith("_source") else 0) for i, p in enumerate(parts)])
        for n in names
    }
    return PlainLoads(**joined, sources=tuple(s for p in parts for s in p.sources))
