"""Empuje from Python: read a model, solve it, ask for answers as pandas tables with units in their heads.

>>> import empuje
>>> solution = empuje.solve(empuje.read("packing-house.toml"))              # doctest: +SKIP
>>> solution.envelope(on="rafters", under="strength", of="My")              # doctest: +SKIP
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from .core.actions import plain_loads
from .core.analysis import solve as mechanics
from .core.analysis.pieces import FORCES
from .core.answers import (
    along,
    applied,
    bands,
    combos,
    deflection,
    envelope,
    foundations,
    reactions,
    stress,
    take_down,
)
from .core.answers import stability as buckling
from .core.answers.surfaces import surface_balance
from .core.answers.table import Table
from .core.model.findings import Finding
from .core.model.project import Project
from .files.positions import parse_position
from .files.quantities import Units
from .files.reader import read_model
from .files.selectors import Names
from .files.under import results_meant
from .show.display import Display

if TYPE_CHECKING:
    import pandas as pd

Words = str | Sequence[str] | None


class ModelError(ValueError):
    """The model file has errors, or the frame is a mechanism; `findings` has them all."""

    def __init__(self, findings: Sequence[Finding]) -> None:
        super().__init__("\n".join(map(str, findings)))
        self.findings = list(findings)


def read(path: str | Path) -> Project:
    """Read a model file. Raises ModelError with every error in it, ValueError where it cannot be read at all."""
    reading = read_model(path)
    if reading.project is None:
        raise ModelError([f for f in reading.findings if f.level == "error"])
    return reading.project


def solve(project: Project) -> Solution:
    """Analyse every case of the project. Raises ModelError where the frame is a mechanism."""
    loads, _ = plain_loads(project)
    with _mechanisms_named():
        return Solution(mechanics.solve(project, loads))


@contextmanager
def _mechanisms_named() -> Iterator[None]:
    try:
        yield
    except mechanics.Unstable as error:
        raise ModelError(error.findings) from None


def combinations(project: Project, under: Words = "combinations") -> pd.DataFrame:
    """What each combination is made of, by which clause, and how it will be analysed."""
    import pandas as pd

    table = combos.combos(project, results_meant(project, _words(under)))
    return pd.DataFrame(Display(project.display).convert(table))


def stability(project: Project, under: Words = "combinations") -> pd.DataFrame:
    """Critical load factors and the growth of sway of cases and combinations. Raises ModelError for a mechanism."""
    loads, _ = plain_loads(project)
    with _mechanisms_named():
        prepared = mechanics.first_order(project, loads)
    solution = Solution(prepared.solution)
    found = buckling.stability(prepared, solution._under(under))
    return solution._frame(buckling.stability_table(found, prepared.solution))


def _words(words: Words) -> list[str]:
    return [] if words is None else [words] if isinstance(words, str) else list(words)


class Solution:
    """A solved project. `on` takes selectors, `under` cases, combinations or sets, as on the command line."""

    def __init__(self, solved: mechanics.Solution) -> None:
        self.mechanics = solved
        self.project = solved.project
        self._names = Names(self.project.nodes, self.project.members)
        self._display = Display(self.project.display)

    def reactions(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Reactions by node and case."""
        nodes = self._nodes(on) if on is not None else None
        return self._frame(reactions.reactions(self.mechanics, self._under(under), nodes))

    def balance(self, under: Words = None) -> pd.DataFrame:
        """Applied loads, reactions and their difference by case."""
        return self._frame(reactions.balance(self.mechanics, self._under(under)))

    def forces(
        self, on: Words = None, under: Words = None, at: Sequence[str | float] = ("0%", "50%", "100%")
    ) -> pd.DataFrame:
        """Internal forces at positions along members."""
        units = Units(*self.project.units)
        positions = [parse_position(p, units) for p in at]
        return self._frame(along.forces(self.mechanics, self._under(under), self._members(on), positions))

    def displacements(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Displacements of nodes."""
        return self._frame(along.node_displacements(self.mechanics, self._under(under), self._nodes(on)))

    def deflections(
        self, on: Words = None, under: Words = None, against: str = "chord", at: Sequence[str | float] = ()
    ) -> pd.DataFrame:
        """Deflections of members against "chord", "start" or "end", where they are largest or at positions."""
        names, members, units = self._under(under), self._members(on), Units(*self.project.units)
        if not at:
            return self._frame(deflection.largest_deflections(self.mechanics, names, members, against))
        positions = [parse_position(p, units) for p in at]
        return self._frame(deflection.deflections(self.mechanics, names, members, against, positions))

    def envelope(self, on: Words = None, under: Words = "combinations", of: Words = None) -> pd.DataFrame:
        """Least and greatest forces with the governing combination and what goes with them."""
        forces = tuple(_words(of)) or FORCES
        return self._frame(envelope.envelope(self.mechanics, self._under(under), self._members(on), forces))

    def bands(
        self, on: Words = None, under: Words = "combinations", of: Words = None, stations: int = 11
    ) -> pd.DataFrame:
        """Least and greatest forces at even stations along members, and what makes them."""
        forces = tuple(_words(of)) or FORCES
        return self._frame(bands.band_table(self.mechanics, self._under(under), self._members(on), forces, stations))

    def stresses(
        self, led_by: str, on: Words = None, under: Words = "combinations", fibre: str | None = None
    ) -> pd.DataFrame:
        """Extreme stresses ("normal", "shear", "mises") at the sections' fibres, with what goes with them."""
        found = stress.stress_envelope(self.mechanics, self._under(under), self._members(on), led_by, fibre)
        return self._frame(found)

    def reaction_envelope(self, on: Words = None, under: Words = "combinations") -> pd.DataFrame:
        """Least and greatest reactions of supports, with what goes with them."""
        nodes = self._nodes(on) if on is not None else None
        return self._frame(foundations.reaction_envelope(self.mechanics, self._under(under), nodes))

    def loads(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Every load on members and nodes, with its source."""
        cases = [n for n in self._under(under) if n in self.project.case_names]
        every = np.arange(len(self.project.nodes))
        table = applied.applied_loads(self.project, self.mechanics.loads, cases, self._members(on), every)
        return self._frame(table)

    def surfaces(self, under: Words = "cases") -> pd.DataFrame:
        """What was put on every surface in each case, and what members and nodes received of it."""
        cases = [n for n in self._under(under) if n in self.project.case_names]
        return self._frame(surface_balance(self.project, self.mechanics.loads, cases))

    def take_down(self, on: Words = None) -> pd.DataFrame:
        """Loads taken down the columns, level by level, beside the reactions."""
        path = take_down.taken_down(self.project, self.mechanics.loads)
        return self._frame(take_down.take_down_table(self.mechanics, path, self._members(on)))

    def _under(self, under: Words) -> list[str]:
        """The results meant. Raises ModelError where one of them has no stable answer."""
        names = results_meant(self.project, _words(under))
        failed = [self.mechanics.failed[n] for n in names if n in self.mechanics.failed]
        if failed:
            raise ModelError(failed)
        return names

    def _members(self, on: Words) -> NDArray[np.intp]:
        return self._names.members_meant(_words(on))

    def _nodes(self, on: Words) -> NDArray[np.intp]:
        return self._names.nodes_meant(_words(on))

    def _frame(self, table: Table) -> pd.DataFrame:
        import pandas as pd

        return pd.DataFrame(self._display.convert(table))
