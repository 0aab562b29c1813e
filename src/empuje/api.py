"""Empuje from Python: read a model, solve it, ask for answers as pandas tables with units in their heads.

>>> import empuje
>>> solution = empuje.solve(empuje.read("packing-house.toml"))              # doctest: +SKIP
>>> solution.envelope(on="rafters", under="strength", of="My")              # doctest: +SKIP
"""

from __future__ import annotations

import warnings
from collections.abc import Callable, Iterator, Sequence
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
from .core.answers.table import Table, failed_first
from .core.model.findings import Finding
from .core.model.loads import Position
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


def solve(project: Project, allow_failed: bool = False) -> Solution:
    """Analyse every case and combination of the project. Raises ModelError where the frame is a mechanism; what there
    is to say about the results comes as Python warnings."""
    loads, _ = plain_loads(project)
    with _mechanisms_named():
        solved = mechanics.solve(project, loads)
    for finding in reactions.result_findings(solved):
        warnings.warn(str(finding), stacklevel=2)
    return Solution(solved, project, allow_failed)


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

    def table(names: list[str]) -> Table:
        return buckling.stability_table(buckling.stability(prepared, names), prepared.solution)

    return solution._answer(under, table)


def _forces(of: Words) -> tuple[str, ...]:
    """Those of the member forces that are named, all for None. Raises ValueError for one there is not."""
    for word in _words(of):
        if word not in FORCES:
            raise ValueError(f"of = {word!r}: write {', '.join(FORCES)}")
    return tuple(_words(of)) or FORCES


def _words(words: Words) -> list[str]:
    return [] if words is None else [words] if isinstance(words, str) else list(words)


class Solution:
    """A solved project. `on` takes selectors, `under` cases, combinations or sets, as on the command line.

    Results without a stable answer raise ModelError wherever they are asked for; with `allow_failed` they stand first
    in each table instead, with no values, and `failed` names them.
    """

    def __init__(self, solved: mechanics.Solution, project: Project | None = None, allow_failed: bool = False) -> None:
        self.mechanics = solved
        self.project = project or solved.project
        self.allow_failed = allow_failed
        self._names = Names(self.project.nodes, self.project.members)
        self._display = Display(self.project.display)

    @property
    def failed(self) -> dict[str, str]:
        """What there is to say of each case and combination that has no stable answer."""
        return {name: str(finding) for name, finding in self.mechanics.failed.items()}

    def reactions(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Reactions by node and case."""
        nodes = self._nodes(on) if on is not None else None
        return self._answer(under, lambda names: reactions.reactions(self.mechanics, names, nodes))

    def balance(self, under: Words = None) -> pd.DataFrame:
        """Applied loads, reactions and their difference by case."""
        return self._answer(under, lambda names: reactions.balance(self.mechanics, names))

    def forces(
        self, on: Words = None, under: Words = None, at: Sequence[str | float] = ("0%", "50%", "100%")
    ) -> pd.DataFrame:
        """Internal forces at positions along members."""
        positions, members = self._positions(at), self._members(on)
        return self._answer(under, lambda names: along.forces(self.mechanics, names, members, positions))

    def displacements(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Displacements of nodes."""
        nodes = self._nodes(on)
        return self._answer(under, lambda names: along.node_displacements(self.mechanics, names, nodes))

    def deflections(
        self, on: Words = None, under: Words = None, against: str = "chord", at: Sequence[str | float] = ()
    ) -> pd.DataFrame:
        """Deflections of members against the "chord" of each bay, of the "whole" member, or its "start" or "end"; where
        they are largest, or at positions. Raises ValueError for another word."""
        members, positions, s = self._members(on), self._positions(at), self.mechanics
        if not at:
            return self._answer(under, lambda names: deflection.largest_deflections(s, names, members, against))
        return self._answer(under, lambda names: deflection.deflections(s, names, members, against, positions))

    def envelope(self, on: Words = None, under: Words = "combinations", of: Words = None) -> pd.DataFrame:
        """Least and greatest forces with the governing combination and what goes with them."""
        forces, members = _forces(of), self._members(on)
        return self._answer(under, lambda names: envelope.envelope(self.mechanics, names, members, forces))

    def bands(
        self, on: Words = None, under: Words = "combinations", of: Words = None, stations: int = 11
    ) -> pd.DataFrame:
        """Least and greatest forces at even stations along members, two or more, and what makes them."""
        forces, members = _forces(of), self._members(on)
        return self._answer(under, lambda names: bands.band_table(self.mechanics, names, members, forces, stations))

    def stresses(
        self, led_by: str, on: Words = None, under: Words = "combinations", fibre: str | None = None
    ) -> pd.DataFrame:
        """Extreme stresses ("normal", "shear", "mises") at the sections' fibres, with what goes with them. Raises
        ValueError for another word, NoFibre (a LookupError) where no chosen member has the fibre."""
        members = self._members(on)
        return self._answer(under, lambda names: stress.stress_envelope(self.mechanics, names, members, led_by, fibre))

    def reaction_envelope(self, on: Words = None, under: Words = "combinations") -> pd.DataFrame:
        """Least and greatest reactions of supports, with what goes with them."""
        nodes = self._nodes(on) if on is not None else None
        return self._answer(under, lambda names: foundations.reaction_envelope(self.mechanics, names, nodes))

    def loads(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Every load on members and nodes, with its source."""
        every = np.arange(len(self.project.nodes))
        table = applied.applied_loads(self.project, self.mechanics.loads, self._cases(under), self._members(on), every)
        return self._frame(table)

    def surfaces(self, under: Words = "cases") -> pd.DataFrame:
        """What was put on every surface in each case, and what members and nodes received of it."""
        return self._frame(surface_balance(self.project, self.mechanics.loads, self._cases(under)))

    def take_down(self, on: Words = None) -> pd.DataFrame:
        """Loads taken down the columns, level by level, beside the reactions."""
        path = take_down.taken_down(self.project, self.mechanics.loads)
        return self._frame(take_down.take_down_table(self.mechanics, path, self._members(on)))

    def _answer(self, under: Words, make: Callable[[list[str]], Table]) -> pd.DataFrame:
        """The table of the results meant. Raises ModelError where one of them has no stable answer."""
        names = results_meant(self.project, _words(under))
        failed = [n for n in names if n in self.mechanics.failed]
        found = self.mechanics.no_answer(failed)
        if not under:  # whole sets: a case that cannot stand alone does not matter where combinations do
            failed = [n for n, f in zip(failed, found, strict=True) if f.level == "error"]
        standing = [n for n in names if n not in self.mechanics.failed]
        if (failed and not self.allow_failed) or not standing:
            raise ModelError(found)
        return self._frame(failed_first(make(standing), failed))

    def _cases(self, under: Words) -> list[str]:
        return [n for n in results_meant(self.project, _words(under)) if n in self.project.case_names]

    def _positions(self, at: Sequence[str | float]) -> list[Position]:
        units = Units(*self.project.units)
        return [parse_position(p, units) for p in at]

    def _members(self, on: Words) -> NDArray[np.intp]:
        return self._names.members_meant(_words(on))

    def _nodes(self, on: Words) -> NDArray[np.intp]:
        return self._names.nodes_meant(_words(on))

    def _frame(self, table: Table) -> pd.DataFrame:
        import pandas as pd

        return pd.DataFrame(self._display.convert(table))
