"""What a solved frame is: columns of arrays, and how results are made of them. Nothing here computes.

A column is a case, and after those a unit slack of every one-way part, and what second order adds to each result that
is analysed so.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..model.findings import Finding
from ..model.loads import PlainLoads
from ..model.project import Project
from ..model.results import Result, Results
from ..model.words import How
from ..resolved import Resolved
from .mesh import Mesh
from .terms import FreeStrains, Terms

if TYPE_CHECKING:
    from .equations import Equations

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
NO_COLUMNS = slice(0, 0)


@dataclass(frozen=True)
class Columns:
    """Solved columns.

    displacement (nodes, 6, columns) [m, rad], global; undefined (nodes, 6): no value there
    start_force (elements, 6, columns) at the elements' starts in member axes; statics and the terms give the rest
    slip (k, 6, columns): how far the starts of the k elements `slipping`, in order, stay behind their nodes
    support_node (supports,); held (supports, 6); reaction (supports, 6, columns) [N, N m], global
    centre (3,) [m] of the supports
    softest: the stiffness of the frame's softest motion as a share of that of its parts, about what rounding is
    magnified by
    reductions: columns of what is taken off reduced live loads, for members' own forces alone
    second_order_from: the first column of those that second order adds, None without any
    slope (elements, 2, orders, those columns): Legendre coefficients of the slopes in these
    at (those columns,): how many times its loads each result was analysed at, the result then divided by it
    """

    project: Project
    loads: PlainLoads
    mesh: Mesh
    terms: Terms
    strains: FreeStrains
    displacement: Floats
    undefined: NDArray[np.bool_]
    start_force: Floats
    slipping: Ints
    slip: Floats
    support_node: Ints
    held: NDArray[np.bool_]
    reaction: Floats
    centre: Floats
    softest: float = 1.0
    reductions: slice = field(default_factory=lambda: NO_COLUMNS)
    second_order_from: int | None = None
    slope: Floats = field(default_factory=lambda: np.zeros((0, 2, 0, 0)))
    at: Floats = field(default_factory=lambda: np.zeros(0))


NOTHING: Project = Project("", "", False, ("kN", "m"), ("kN", "m", "mm", "MPa"), (), (), (), (), ())


@dataclass(frozen=True)
class Solution(Columns):
    """Solved columns, and how every case and combination is made of them.

    `mix` (columns, results) says how much of each column a result has: without one-way parts the factors of its cases;
    with them each result also has its own slacks, found under its own factored loads: as one. `how_each`: how each came
    about; `failed`: what to say of those without a stable answer. `equations`: those it was solved by, where they are
    at hand.
    """

    model: Resolved = field(default_factory=lambda: Resolved(NOTHING))
    results: tuple[Result, ...] = ()
    mix: Floats = field(default_factory=lambda: np.zeros((0, 0)))
    how_each: tuple[How, ...] = ()
    failed: dict[Result, Finding] = field(default_factory=dict)
    equations: Equations | None = field(default=None, repr=False, compare=False)

    def __getstate__(self) -> dict[str, object]:
        return {**self.__dict__, "equations": None}  # a factorised matrix belongs to its process

    @cached_property
    def _place(self) -> dict[int, int]:
        return {r.index: i for i, r in enumerate(self.results)}

    def places(self, results: Results) -> list[int]:
        """Where these results stand among those of the solution."""
        place = self._place
        return [place[r.index] for r in results]

    @property
    def bent(self) -> list[Result]:
        """The results of second order that have an answer."""
        by_second = zip(self.results, self.how_each, strict=True)
        return [r for r, how in by_second if how == How.SECOND_ORDER and r not in self.failed]

    def how(self, results: Results) -> list[How]:
        """How each result came about."""
        return [self.how_each[i] for i in self.places(results)]

    def weights(self, results: Results, reduced: bool = True, still: bool = False) -> Floats:
        """Factors on the solved columns for each result: (columns, results). Members' own forces are under live loads
        reduced for each; without `reduced` all are under the same loads. `still`: of what does not move alone; else a
        result with a moving case raises ValueError, since its positions are no columns."""
        if not still and any(r.moving for r in results):
            raise ValueError("a moving case has no result of its own: only its positions have")
        mix = self.mix[:, self.places(results)]
        if not reduced:
            mix[self.reductions] = 0.0
        return mix

    def no_answer(self, results: Sequence[Result]) -> list[Finding]:
        """What to say of those of the results that have no stable answer: errors; a note of a case that cannot stand
        alone, where every combination can."""
        combinations = [r for r in self.results if not r.is_case]
        alone = bool(combinations) and not any(r in self.failed for r in combinations)
        found = [self.failed[r] for r in results if r in self.failed]
        return [replace(f, level="note") if alone else f for f in found]

    def with_pattern(self, pattern: Result) -> tuple[Solution, Result]:
        """With one pattern of a combination as a result of its own; a combination without absent cases is there."""
        if not pattern.absent:
            return self, pattern
        model, numbered = self.model.with_pattern(pattern)
        return self.with_result(model, numbered), numbered

    def with_result(self, model: Resolved, result: Result) -> Solution:
        """With one more result of a model, a sum of cases."""
        column = np.zeros((len(self.mix), 1))
        column[: model.load_columns] = model.weights([result])
        return replace(
            self, model=model, results=(*self.results, result), mix=np.hstack([self.mix, column]),
            how_each=(*self.how_each, How.SUMMED),
        )  # fmt: skip


@dataclass(frozen=True)
class Pieces:
    """Pieces of some members for some results (cases or combinations), in order along each member.

    member, element (n,); start (n,) [m] from the member's start; length (n,) [m]
    force (n, 6, powers, results): N Vy Vz T My Mz as powers of t, ascending; four, more in second order
    shape (n, 6, powers, results): ux uy uz rx ry rz in member axes as powers of t, where asked for; six, or more
    """

    member: Ints
    element: Ints
    start: Floats
    length: Floats
    force: Floats
    shape: Floats | None
