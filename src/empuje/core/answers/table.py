"""Tables of answers in SI units, each column with the kind of quantity it holds.

Units are given to them at the edges only, by whoever shows or writes them.

    >>> t = Table("sums", (Column("case", "text", ["G"]), Column("Fz", "force", np.array([2000.0]))))
    >>> len(t), t["Fz"].tolist()
    (1, [2000.0])
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..model.results import Results, names
from ..model.words import How

Kind = Literal[
    "text", "number", "force", "moment", "length", "displacement", "rotation", "line", "temperature", "gradient",
    "area", "inertia", "modulus", "warping", "angle", "factor", "spring", "turning spring", "stress",
    "surface", "pressure", "time", "count", "line moment",
]  # fmt: skip
Values = Sequence[str] | NDArray[Any]

FORCE_KINDS: tuple[tuple[str, Kind], ...] = (
    ("Fx", "force"), ("Fy", "force"), ("Fz", "force"), ("Mx", "moment"), ("My", "moment"), ("Mz", "moment"),
)  # fmt: skip
MEMBER_KINDS: tuple[tuple[str, Kind], ...] = (
    ("N", "force"), ("Vy", "force"), ("Vz", "force"), ("T", "moment"), ("My", "moment"), ("Mz", "moment"),
)  # fmt: skip
MOTION_KINDS: tuple[tuple[str, Kind], ...] = (
    ("ux", "displacement"), ("uy", "displacement"), ("uz", "displacement"),
    ("rx", "rotation"), ("ry", "rotation"), ("rz", "rotation"),
)  # fmt: skip


@dataclass(frozen=True)
class Column:
    """A named column; numbers are in SI, NaN where a value does not exist."""

    name: str
    kind: Kind
    values: Values


@dataclass(frozen=True)
class Table:
    """Columns of equal length under a name that also serves as a file name."""

    name: str
    columns: tuple[Column, ...]

    def __len__(self) -> int:
        return len(self.columns[0].values) if self.columns else 0

    def __getitem__(self, name: str) -> NDArray[Any]:
        return np.asarray(next(c.values for c in self.columns if c.name == name))

    def without(self, names: Sequence[str]) -> Table:
        """The table less the named columns."""
        return Table(self.name, tuple(c for c in self.columns if c.name not in names))

    def rows(self, keep: NDArray[Any] | list[int]) -> Table:
        """The table with the chosen rows (a mask or indices)."""
        chosen = np.asarray(keep) if len(keep) else np.zeros(0, np.intp)
        return Table(self.name, tuple(Column(c.name, c.kind, np.asarray(c.values)[chosen]) for c in self.columns))


def stacked(tables: Sequence[Table]) -> Table:
    """Tables of the same columns, one below the other."""
    first = tables[0]
    joined = [
        Column(c.name, c.kind, np.concatenate([np.asarray(t[c.name], object if c.kind == "text" else float)
                                               for t in tables]))
        for c in first.columns
    ]  # fmt: skip
    return Table(first.name, tuple(joined))


def largest_of_each(keys: Iterable[Hashable], size: Sequence[float] | NDArray[Any]) -> list[int]:
    """Of each key the row of the largest size, the first of equal ones; in the order in which keys come.

    >>> largest_of_each(["a", "b", "a"], [1.0, 5.0, 2.0])
    [2, 1]
    """
    best: dict[Hashable, int] = {}
    for i, key in enumerate(keys):
        if key not in best or size[i] > size[best[key]]:
            best[key] = i
    return list(best.values())


def leading_only(table: Table) -> Table | None:
    """Where a column `of` says which component each row is about: that one's value alone, in a column for each kind of
    quantity, in place of all components; None where there is no such column."""
    known = dict((*FORCE_KINDS, *MEMBER_KINDS, *MOTION_KINDS))
    components = {c.name: c for c in table.columns if c.name in known}
    if not components or "of" not in [c.name for c in table.columns]:
        return None
    of = table["of"].astype(str)
    if not set(of) - {""} <= set(components):
        return None
    kinds = dict.fromkeys(c.kind for c in components.values())
    values = {kind: np.full(len(table), np.nan) for kind in kinds}
    for name, column in components.items():
        values[column.kind][of == name] = np.asarray(column.values, float)[of == name]
    first = [c.name for c in table.columns].index(next(iter(components)))
    alone = [Column(kind, kind, values[kind]) for kind in kinds]
    rest = [c for c in table.columns if c.name not in components]
    rest = [Column(c.name, c.kind, np.where(of == "N", np.asarray(c.values, object), "")) if c.name == SENSE else c
            for c in rest]  # fmt: skip
    return Table(table.name, (*rest[:first], *alone, *rest[first:]))


NO_ANSWER = "no answer"


def failed_first(table: Table, names: Sequence[str]) -> Table:
    """The table with a row before all others for each result that has no answer: its name, and nothing else."""
    if not names:
        return table
    heads = [c.name for c in table.columns]
    named = "case" if "case" in heads else next(c.name for c in table.columns if c.kind == "text")
    said = "how" if "how" in heads else [c.name for c in table.columns if c.kind == "text"][-1]
    columns = []
    for c in table.columns:
        if c.kind == "text":
            more = list(names) if c.name == named else [NO_ANSWER if c.name == said else ""] * len(names)
            columns.append(Column(c.name, c.kind, [*more, *c.values]))
        else:
            columns.append(Column(c.name, c.kind, np.append(np.full(len(names), np.nan), c.values)))
    return Table(table.name, tuple(columns))


def case_column(results: Results, result: NDArray[np.intp]) -> Column:
    """The names of the results the rows are of."""
    return Column("case", "text", np.array(names(results), object)[result])


def how_column(results: Results, how: Sequence[How], result: NDArray[np.intp]) -> Column:
    """How each row came about, from the results, how they did, and which of them the rows are of."""
    words = [said(h, r.second_order_at) for r, h in zip(results, how, strict=True)]
    return Column("how", "text", np.array(words, object)[result])


def said(how: How, times: float) -> str:
    """
    >>> said(How.AS_ONE, 1.6), said(How.SECOND_ORDER, 1.6), said(How.SECOND_ORDER, 1.0)
    ('as one', 'second order at 1.6', 'second order')
    """
    return f"{how} at {times:g}" if how == How.SECOND_ORDER and times != 1 else str(how)


SENSE, ROUNDING = "T/C", 1e-9
"""Whether a member is pulled (T) or pushed (C); below this share of the greatest N of a table it is neither."""


def sense(axial: NDArray[np.float64]) -> Column:
    """Whether each N (rows,) is tension or compression."""
    N = np.nan_to_num(axial)
    sign = np.sign(np.where(np.abs(N) > ROUNDING * np.abs(N).max(initial=0.0), N, 0.0)).astype(np.intp)
    return Column(SENSE, "text", np.array(["C", "", "T"], object)[sign + 1])


def member_forces(values: NDArray[np.float64]) -> tuple[Column, ...]:
    """The six forces of members from (rows, 6) values, and whether each N is tension or compression."""
    columns = six(MEMBER_KINDS, values)
    return columns[0], sense(values[:, 0]), *columns[1:]


def six(kinds: tuple[tuple[str, Kind], ...], values: NDArray[np.float64]) -> tuple[Column, ...]:
    """Six columns from (rows, 6) values; adding 0 turns -0 into 0."""
    return tuple(Column(name, kind, values[:, i] + 0.0) for i, (name, kind) in enumerate(kinds))
