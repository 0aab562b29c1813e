"""A project with what follows from it, as one record."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from .actions.surfaces.sources.surface_loads import Surfaces
from .actions.traffic.laid import Laid
from .actions.wind.cases.worked_out import Wind
from .model.cases import Combination
from .model.findings import Finding
from .model.loads import PlainLoads
from .model.project import Project
from .model.reduction import Reduction
from .model.results import Result, Results, case_factors, results_of
from .model.surfaces import SurfaceLoad
from .model.words import How
from .surfaces.mesh.joined import with_plate_nodes

if TYPE_CHECKING:
    from .actions.snow.fall import Snow
    from .actions.snow.rain import Rain

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Resolved:
    """A project with all that follows from it: its combinations, the geometry of its surfaces, plain loads, factors on
    live loads; in words how combinations of codes came about; findings; the wind worked out; its traffic laid out, of
    those that have no errors; the combinations as they are `written`, before moving cases stand in positions; and the
    project `with_moving` cases, where these are left out since only their positions have results."""

    project: Project
    combinations: tuple[Combination, ...] = ()
    loads: PlainLoads = field(default_factory=PlainLoads)
    surfaces: Surfaces = field(default_factory=dict)
    reduction: Reduction = field(default_factory=Reduction)
    told: tuple[str, ...] = ()
    findings: tuple[Finding, ...] = ()
    wind: Wind | None = None
    snow: Snow | None = None
    rain: Rain | None = None
    laid: tuple[Laid, ...] = ()
    written: tuple[Combination, ...] = ()
    with_moving: Project | None = None

    @cached_property
    def results(self) -> tuple[Result, ...]:
        """All cases, then all combinations; what joined them later comes last."""
        return results_of(self.project, self.combinations)

    def numbered_after(self, before: Resolved) -> Resolved:
        """The same, with every result of before under its number there, its patterns too; new results come after."""
        mine = {r.name: r for r in self.results}
        old = [r if r.absent else replace(r, of=mine.pop(r.name).of) for r in before.results]
        new = [replace(r, index=len(old) + i) for i, r in enumerate(mine.values())]
        patterns = [r.combination for r in old if r.absent and r.combination is not None]
        out = replace(self, combinations=(*self.combinations, *patterns))
        out.__dict__["results"] = (*old, *new)
        return out

    def case_numbers(self, results: Results) -> list[int]:
        """Those of the results that are load cases, by their places among the cases of the project."""
        number = {name: i for i, name in enumerate(self.project.case_names)}
        return [number[r.name] for r in results if r.is_case]

    @cached_property
    def analysed(self) -> Project:
        """The project with the nodes of its structural surfaces, and their supports."""
        return with_plate_nodes(self.project)

    @property
    def whole(self) -> Project:
        """The project with all its cases, those that move too."""
        return self.with_moving or self.project

    def surface_loads(self, cases: Collection[str]) -> list[SurfaceLoad]:
        """Loads on surfaces in the named cases: those written, the wind's, the snow's and the rain's."""
        written = [load for load in self.project.surface_loads if load.case in cases]
        by_code = [
            found.area_loads(cases) for found in (self.wind, self.snow, self.rain) if found is not None and cases
        ]
        return [*written, *(load for own in by_code for load in own)]

    @property
    def cases(self) -> tuple[Result, ...]:
        """The results that are load cases, in the order of the project's."""
        return tuple(r for r in self.results if r.is_case)

    def with_pattern(self, pattern: Result) -> tuple[Resolved, Result]:
        """With a pattern of a combination as one more combination, and the result that it is."""
        assert pattern.combination is not None
        wider = replace(self, combinations=(*self.combinations, pattern.combination))
        numbered = replace(pattern, index=len(self.results))
        wider.__dict__["results"] = (*self.results, numbered)
        return wider, numbered

    @property
    def load_columns(self) -> int:
        """Cases, pairs of a notional and another case, and reduced live loads: what plain loads count as cases."""
        return len(self.project.cases) + len(self.project.notional_pairs) + len(self.reduction.cases)

    @property
    def reductions(self) -> slice:
        """The columns of what is taken off live loads, for the members' own results."""
        return slice(self.load_columns - len(self.reduction.cases), self.load_columns)

    def reduces(self, combination: Combination, k: int) -> bool:
        """Whether the k-th reduction of live loads goes with a combination: with sums only, and some not beside psi."""
        case = self.project.cases[self.reduction.cases[k]].name
        holds = self.reduction.beside_psi[k] or case not in combination.accompanying
        return holds and self.project.how(combination) == How.SUMMED

    def weights(self, results: Results) -> Floats:
        """Factors on the cases, then on the pairs of a notional and another case, then on what is taken off reduced
        live loads (of combinations that are summed), for each result: (columns, results)."""
        factors = case_factors(self.project, [r.of for r in results])
        if not self.reduction.cases:
            return factors
        holds = np.array([
            [r.combination is not None and self.reduces(r.combination, k) for r in results]
            for k in range(len(self.reduction.cases))
        ])  # fmt: skip
        return np.vstack([factors, factors[list(self.reduction.cases)] * holds])
