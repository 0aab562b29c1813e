"""Empuje from Python: read a model, solve it, ask for answers as pandas tables with units in their heads.

>>> import empuje
>>> model = empuje.read("packing-house.toml")                              # doctest: +SKIP
>>> results = model.solve()                                                # doctest: +SKIP
>>> results.envelope(on="rafters", under="strength", of="My")              # doctest: +SKIP
"""

from __future__ import annotations

import warnings
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from .core.analysis.pieces import FORCES
from .core.analysis.solution import Solution
from .core.answers import (
    along,
    applied,
    bands,
    combos,
    deflection,
    envelope,
    foundations,
    inventory,
    reactions,
    schedule,
    storey_cuts,
    storeys,
    stress,
    take_down,
    why,
)
from .core.answers import stability as buckling
from .core.answers.surfaces import surface_balance
from .core.answers.table import Table, failed_first
from .core.answers.wind import sheet_of
from .core.load_path.taken import astray, taken_down
from .core.model.findings import Finding, did_you_mean
from .core.model.loads import Position
from .core.model.project import Project
from .core.model.results import Result
from .core.model.words import Label, Picture, Reference, Sense, Stress, UnknownWord, WindPart
from .files.base.positions import parse_position
from .files.base.quantities import Units
from .files.base.result_selectors import CASES, COMBINATIONS
from .show.display import Display
from .study.study import ModelError, Study

__all__ = ["Model", "ModelError", "Results", "read"]

if TYPE_CHECKING:
    import pandas as pd

    from .core.steel.checked import Checked
    from .show.drawings.paper import Drawing, Strip
    from .show.drawings.view import View

Words = str | Sequence[str] | None
Places = Sequence[str | float]


def read(path: str | Path, cache: bool = True, values: Mapping[str, str] | None = None) -> Model:
    """Read a model file; warnings about it come as Python warnings. With `cache` solutions are kept in the user's cache
    folder, and used as long as nothing they came from has changed. `values`: others in place of those in [values].

    Raises ModelError with every error in it, UnusableFile (a ValueError) where it cannot be read at all, and
    NoSuchValue (a ValueError) for a value that is not in it.
    """
    study = Study.read(path, cache, values or {})
    if not study.sound:
        raise ModelError([f for f in study.findings if f.level == "error"])
    for finding in study.findings:
        if finding.level == "warning":
            warnings.warn(str(finding), stacklevel=2)
    return Model(study)


class _Asking:
    """What words on a model mean, and tables of answers."""

    def __init__(self, study: Study) -> None:
        self._study = study
        self._display = Display(study.project.display)

    @property
    def project(self) -> Project:
        """What was written."""
        return self._study.project

    @property
    def findings(self) -> list[Finding]:
        """All there is to say about the model."""
        return list(self._study.findings)

    def _under(self, under: Words) -> list[Result]:
        return self._study.under(_words(under))

    def _members(self, on: Words) -> NDArray[np.intp]:
        return self._study.names.members_meant(_words(on))

    def _nodes(self, on: Words) -> NDArray[np.intp]:
        return self._study.names.nodes_meant(_words(on))

    def _positions(self, at: Places) -> list[Position]:
        units = Units(*self.project.units)
        return [parse_position(p, units) for p in at]

    def _frame(self, table: Table) -> pd.DataFrame:
        import pandas as pd

        return pd.DataFrame(self._display.convert(table))

    def _part(self, options: dict[str, Any]) -> tuple[NDArray[np.intp], View]:
        """The members drawn strongly and the view, of all or of an elevation or a plan."""
        from .show.drawings.parts import elevation, plan
        from .show.drawings.view import View

        members, view = self._members(options.pop("on", None)), options.pop("view", None)
        for name, part in (("elevation", elevation), ("plan", plan)):
            if name in options:
                lying, seen = part(self.project, options.pop(name))
                return np.intersect1d(members, lying), seen
        return members, View.named(view) if view else View.usual(self.project.plane)

    def _sheet(
        self, what: str, results: list[Result], solved: Callable[[], Solution], options: dict[str, Any]
    ) -> Drawing | Strip:
        from .show.drawings.picture import Asked, picture

        members, view = self._part(options)
        labels = tuple(Label.read(word) for word in _words(options.pop("label", None)))
        asked = Asked(Picture.read(what), members, view, labels, **options)
        model, prepared = self._study.resolved, lambda: self._study.prepared
        return picture(asked, model, results, self._display, solved, prepared)


class Model(_Asking):
    """A model as it was read, with what follows from it before any analysis."""

    def solve(self, allow_failed: bool = False) -> Results:
        """Analyse every case and combination; what there is to say about the results comes as Python warnings.

        Raises ModelError where the frame is a mechanism.
        """
        solution = self._study.solution()
        for finding in reactions.result_findings(solution):
            warnings.warn(str(finding), stacklevel=2)
        return Results(self._study, solution, allow_failed)

    def expanded(self) -> str:
        """The text of one model file with what runs, makers and copies stand for, that reads back to the same."""
        from .files.plain.model import as_toml, plain_model

        return as_toml(plain_model(self._study.reading))

    def combinations(self, under: Words = COMBINATIONS) -> pd.DataFrame:
        """What each combination is made of, by which clause, and how it will be analysed."""
        return self._frame(combos.combos(self.project, self._under(under)))

    def loads(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Every load on members and nodes, with its source."""
        nodes = np.arange(len(self.project.nodes))
        return self._frame(applied.applied_loads(self._study.resolved, self._under(under), self._members(on), nodes))

    def surfaces(self, under: Words = CASES) -> pd.DataFrame:
        """What was put on every surface in each case, and what members and nodes received of it."""
        return self._frame(surface_balance(self._study.resolved, self._under(under)))

    def wind(self, under: Words = CASES, part: str = "zones") -> pd.DataFrame:
        """A table of the wind's sheet, of the wind's cases among these: zones, bare, heights, coefficients, components,
        totals, sums or found; cases of components by their names (`under = "CW*"`).

        Raises LookupError where the model states no wind, UnknownWord for a part that there is not.
        """
        wind = self._study.resolved.wind
        if wind is None:
            raise LookupError(f"{self.project.file} has no [wind]")
        names = [r.name for r in self._under(under) if r.is_case]
        return self._frame(sheet_of(WindPart.read(part), wind, self.project, names, self._display.value))

    def changes_since(self, old: Model, under: Words = None, tolerance: float = 1e-3) -> pd.DataFrame:
        """What changed from an older model to this: what is written, loads by case and family, governing values under
        results of both (default: all combinations) that differ by more than a share, limits that turned."""
        from .show.changes_text import changes_table
        from .study.differences import compared

        found = compared(old._study, self._study, _words(under), tolerance)
        return self._frame(changes_table(found.changes, self._display))

    def members(self) -> pd.DataFrame:
        """Every member with its section, material, nodes, length and weight."""
        return self._frame(inventory.member_list(self.project))

    def sections(self) -> pd.DataFrame:
        """Every section in use with its properties."""
        return self._frame(inventory.section_list(self.project))

    def reductions(self, on: Words = None) -> pd.DataFrame:
        """The factor on each member's live loads, and its derivation."""
        return self._frame(take_down.reduction_table(self._study.resolved, self._members(on), self._display.said))

    def stability(self, under: Words = None, shapes: int = 1) -> pd.DataFrame:
        """Critical load factors of so many shapes, and the growth of sway, of cases and combinations (by default the
        combinations).

        Raises ModelError for a mechanism, or where a result has no first-order answer.
        """
        asked, _, _ = self._study.stand(self._study.under_combinations(_words(under), mixes=True))
        prepared = self._study.prepared
        lost = prepared.solution.no_answer(asked)
        if lost:
            raise ModelError(lost)
        asked = self._study.with_worst_patterns(asked)
        solution = self._study.prepared.solution
        return self._frame(buckling.stability_table(self._study.stability(asked, shapes), solution))

    def storeys(self) -> pd.DataFrame:
        """Centres of mass and rigidity, and stiffness, of rigid floors. Raises ValueError where there are none."""
        if not self.project.diaphragms:
            raise ValueError("the model has no rigid floors")
        found = storeys.storeys(self._study.prepared.equations, self._study.resolved.loads)
        return self._frame(storeys.storey_table(found))

    def draw(self, what: str = "frame", under: Words = None, **options: Any) -> Drawing | Strip:
        """The frame, or loads, pressures, a deflected or buckled shape, reactions or a diagram of one result, or of up
        to four beside one another; a strip of one member. `save(path)` writes it. Options: on, view, elevation, plan,
        label, shape, times, apart; force for a band. Raises ValueError, LookupError."""
        from .show.drawings.picture import STILL

        kind = Picture.read(what)
        none: list[Result] = []
        results = none if kind in STILL else self._under(under)
        if kind not in STILL and kind != Picture.BAND:
            _few(results)
        return self._sheet(what, results, lambda: self._study.solution(results), options)


class Results(_Asking):
    """A solved model. `on` takes selectors, `under` cases, combinations or sets, as on the command line.

    Results without a stable answer raise ModelError wherever they are asked for; with `allow_failed` they stand first
    in each table instead, with no values, and `failed` names them.
    """

    def __init__(self, study: Study, solution: Solution, allow_failed: bool = False) -> None:
        super().__init__(study)
        self._kept = solution
        self.allow_failed = allow_failed

    @property
    def solution(self) -> Solution:
        """The arrays of the analysis, of the core."""
        return self._study.solution() if len(self._study.resolved.results) > len(self._kept.results) else self._kept

    @property
    def failed(self) -> dict[str, str]:
        """What there is to say of each case and combination that has no stable answer."""
        return {result.name: str(finding) for result, finding in self.solution.failed.items()}

    def reactions(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Reactions by node and case."""
        nodes = self._nodes(on) if on is not None else None
        return self._answer(under, lambda s, results: reactions.reactions(s, results, nodes))

    def balance(self, under: Words = None) -> pd.DataFrame:
        """Applied loads, reactions and their difference by case."""
        return self._answer(under, reactions.balance)

    def forces(self, on: Words = None, under: Words = None, at: Places = ("0%", "50%", "100%")) -> pd.DataFrame:
        """Internal forces at positions along members."""
        positions, members = self._positions(at), self._members(on)
        return self._answer(
            under,
            lambda s, results: along.forces(s, results, members, positions),
            along=self._study.places_along(members, positions),
        )

    def displacements(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Displacements of nodes."""
        nodes = self._nodes(on)
        return self._answer(under, lambda s, results: along.node_displacements(s, results, nodes))

    def deflections(
        self, on: Words = None, under: Words = None, against: str = "chord", at: Places = ()
    ) -> pd.DataFrame:
        """Deflections of members against the "chord" of each bay, of the "whole" member, or its "start" or "end"; where
        they are largest, or at positions. Raises UnknownWord (a ValueError) for another word."""
        members, positions, reference = self._members(on), self._positions(at), Reference.read(against)
        if not at:
            return self._answer(
                under,
                lambda s, results: deflection.largest_deflections(s, results, members, reference),
                along=self._study.furthest(self._under(under), members),
            )
        return self._answer(
            under,
            lambda s, results: deflection.deflections(s, results, members, reference, positions),
            along=self._study.places_along(members, positions),
        )

    def envelope(self, on: Words = None, under: Words = COMBINATIONS, of: Words = None) -> pd.DataFrame:
        """Least and greatest forces with the governing combination and what goes with them."""
        forces, members = _components(of, FORCES), self._members(on)
        return self._answer(
            under,
            lambda s, results: envelope.envelope(
                s, results, members, forces, self._study.extremes(s, results, members)
            ),
            over_positions=True,
        )

    def bands(
        self, on: Words = None, under: Words = COMBINATIONS, of: Words = None, stations: int = 11
    ) -> pd.DataFrame:
        """Least and greatest forces at even stations along members, two or more, and what makes them."""
        forces, members = _components(of, FORCES), self._members(on)
        return self._answer(
            under, lambda s, results: bands.band_table(s, results, members, forces, stations), over_positions=True
        )

    def stresses(self, led_by: str, on: Words = None, under: Words = COMBINATIONS, fibre: Words = None) -> pd.DataFrame:
        """Extreme stresses ("normal", "shear", "mises") at the sections' fibres, or some of them, with what goes with
        them. Raises UnknownWord for another word, NoFibre (a LookupError) where no chosen member has the fibre."""
        members, leads = self._members(on), Stress.read(led_by)
        return self._answer(
            under,
            lambda s, results: stress.stress_envelope(s, results, members, leads, _words(fibre)),
            over_positions=True,
        )

    def reaction_envelope(self, on: Words = None, under: Words = COMBINATIONS, of: Words = None) -> pd.DataFrame:
        """Least and greatest reactions of supports, with what goes with them."""
        nodes = self._nodes(on) if on is not None else None
        forces = _components(of, foundations.FORCES)
        return self._answer(
            under, lambda s, results: foundations.reaction_envelope(s, results, nodes, forces), over_positions=True
        )

    def displacement_envelope(self, on: Words = None, under: Words = COMBINATIONS, of: Words = None) -> pd.DataFrame:
        """Least and greatest displacements of nodes, with what goes with them."""
        nodes, motions = self._nodes(on), _components(of, foundations.MOTIONS)
        return self._answer(
            under, lambda s, results: foundations.displacement_envelope(s, results, nodes, motions), over_positions=True
        )

    def schedule(self, under: Words = COMBINATIONS) -> pd.DataFrame:
        """For foundations: supports by kind, each with its unfactored cases and its governing reactions."""
        return self._answer(under, schedule.schedule, over_positions=True)

    def storey_cuts(self, levels: Sequence[tuple[str, float]], under: Words = None) -> pd.DataFrame:
        """Shear, overturning moment, drift and torsional ratio of the storeys between levels: names and heights [m]."""
        heights = sorted(levels, key=lambda level: level[1])
        return self._answer(under, lambda s, results: storey_cuts.storey_cut_table(s, results, heights))

    def take_down(self, on: Words = None) -> pd.DataFrame:
        """Dead, live, roof live, snow and rain loads taken down the columns, level by level, beside the reactions; what
        finds no column comes as warnings."""
        taken = taken_down(self._study.resolved)
        for finding in astray(self._study.resolved, taken):
            warnings.warn(str(finding), stacklevel=2)
        return self._frame(take_down.take_down_table(self.solution, taken, self._members(on)))

    def why(
        self, on: str, of: str, under: Words = None, sense: str = "largest", at: str | float | None = None
    ) -> pd.DataFrame:
        """What made a governing value of one member or node: the share of each case, and the loads behind it.

        Raises LookupError where there is no such value, TooMany (a ValueError) for too many patterns.
        """
        study = self._study
        nodes, members, missed = study.names.select([on])
        if missed or len(nodes) + len(members) != 1:
            raise LookupError(f"{on} is {len(nodes) + len(members)} things; name one member or one node")
        target = why.target_of(int((members or nodes)[0]), bool(members), of)
        x = None if at is None else self._positions([at])[0].on(float(self.project.lengths[target.index]))
        asked = study.worst_stood(study.under_combinations(_words(under)), target, Sense.read(sense), x)
        solution = self.solution
        standing = [r for r in asked if r not in solution.failed]
        found = why.why(study.prepared_as(solution), solution, standing, target, Sense.read(sense), x)
        return self._frame(why.why_table(found, self._display.said))

    def verdict(self, limits: Words = None, every: bool = False) -> pd.DataFrame:
        """The model's limits, or those of some names, the worst first; with `every` each place of each. A result
        without an answer fails them."""
        from .show.verdict_text import as_table
        from .study.verdicts import judged

        known = [limit.name for limit in self.project.limits]
        for name in _words(limits):
            if name not in known:
                raise LookupError(f"there is no limit {name}; {did_you_mean(name, known)}")
        found = judged(self._study, _words(limits) or None, every)
        return self._frame(as_table(found.outcomes, self._display))

    def draw(self, what: str, under: Words = None, **options: Any) -> Drawing | Strip:
        """As `Model.draw`; a band is over every combination unless said."""
        kind = Picture.read(what)
        if kind == Picture.UTILISATION:
            return self._utilisation(options)
        many = kind in (Picture.BAND, Picture.STRESS)
        if kind == Picture.STRESS:
            options.setdefault("force", "normal")
        results = self._study.under_combinations(_words(under)) if many else self._under(under)
        self._standing(results, whole=many)
        if not many:
            _few(results)
        return self._sheet(what, results, lambda: self.solution, options)

    def _utilisation(self, options: dict[str, Any]) -> Drawing | Strip:
        from .show.drawings.draw_use import draw_utilisation
        from .show.drawings.labels import write_labels
        from .show.drawings.paper import Drawing

        members, view = self._part(options)
        _, found = self._checked([self.project.members[m].name for m in members.tolist()])
        sheet = draw_utilisation(self.project, found, view)
        write_labels(sheet, (Label.read(word) for word in _words(options.pop("label", None))))
        return Drawing((sheet,))

    def _checked(self, on: Words) -> tuple[Solution, Checked]:
        from .study.verdicts import checked_members

        rule = self.project.steel
        if rule is None:
            raise LookupError(f"{self.project.file} has no [steel]")
        solution, found, _ = checked_members(self._study, list(rule.on) if on is None else self._members(on).tolist())
        return solution, found

    def steel(self, on: Words = None) -> pd.DataFrame:
        """How much of its resistance each steel member uses by the code of [steel], the worst first: what governs,
        each check, what was left out. Raises LookupError where the model names no code."""
        from .core.steel.table import members_table

        _, found = self._checked(on)
        return self._frame(members_table(self.project, found))

    def _standing(self, results: list[Result], whole: bool) -> tuple[list[Result], list[str]]:
        """Those with a stable answer, and the names of the others. Raises ModelError where these matter."""
        solution = self.solution
        failed = [r for r in results if r in solution.failed]
        found = solution.no_answer(failed)
        if whole:  # a case that cannot stand alone does not matter where combinations do
            failed = [r for r, f in zip(failed, found, strict=True) if f.level == "error"]
        standing = [r for r in results if r not in solution.failed]
        if (failed and not self.allow_failed) or not standing:
            raise ModelError(found)
        return standing, [r.name for r in failed]

    def _answer(
        self, under: Words, make: Callable[[Solution, list[Result]], Table], over_positions: bool = False,
        along: dict[int, NDArray[np.float64]] | None = None,
    ) -> pd.DataFrame:  # fmt: skip
        """The table of the results meant; unless it is `over_positions`, moving cases stand in single ones, also those
        worst at places along members. Raises ModelError where one of them has no stable answer."""
        results = self._under(under)
        if not over_positions:
            results, _, _ = self._study.stand(results, along)
        standing, failed = self._standing(results, whole=not under)
        return self._frame(failed_first(make(self.solution, standing), failed))


def _components(of: Words, known: Sequence[str]) -> tuple[str, ...]:
    """Those that are named, all for None. Raises UnknownWord for one there is not."""
    for word in _words(of):
        if word not in known:
            raise UnknownWord(f"there is no {word}: write {', '.join(known)}")
    return tuple(_words(of)) or tuple(known)


def _few(results: list[Result]) -> None:
    """Raises ValueError where these are not as many results as a picture can show."""
    from .show.drawings.picture import MOST_BESIDE

    if not 1 <= len(results) <= MOST_BESIDE:
        these = f"name them with `under` (these are {len(results)})"
        raise ValueError(f"a picture shows up to {MOST_BESIDE} results: {these}")


def _words(words: Words) -> list[str]:
    return [] if words is None else [words] if isinstance(words, str) else list(words)
