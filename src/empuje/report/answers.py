"""What a report is written from: a model solved, what governs, and what made it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..core.analysis.pieces import FORCES
from ..core.analysis.solution import Solution
from ..core.answers.deflection import largest_deflections
from ..core.answers.envelope import envelope
from ..core.answers.governing import governing_forces, governing_reactions
from ..core.answers.plates import Extreme, PlateForces, error_estimates, governing_plates, plate_extremes, plate_forces
from ..core.answers.table import Table, largest_of_each
from ..core.answers.why import Target, Why, why
from ..core.model.findings import Finding
from ..core.model.project import Project
from ..core.model.results import Result
from ..core.model.words import Reference, Sense, Set
from ..core.resolved import Resolved
from ..core.steel.checked import Checked
from ..core.verdict.outcome import Outcome, Verdict
from ..files.base.selectors import NothingMeant
from ..show.display import Display
from ..show.drawings.canvas import Sheet
from ..show.results_folder import Job, first_pictures
from ..study.study import Study
from ..study.verdicts import checked_members, explained, judged

MOST_WHYS = 160
"""So many governing values are derived in one report."""


@dataclass
class Answers:
    """A study and what was asked of it; `why_of`: the anchor of each derivation, by what it is of; `not_derived`: how
    many governing reactions and forces have none."""

    study: Study
    under: Sequence[str]
    display: Display
    derived: list[tuple[str, list[Why]]] = field(default_factory=list)
    why_of: dict[tuple[str, str, str], str] = field(default_factory=dict)
    not_derived: int = 0
    notes: list[str] = field(default_factory=list)
    """Where moving cases stand."""

    @property
    def model(self) -> Resolved:
        """As it was solved."""
        return self.job.solution.model

    @property
    def project(self) -> Project:
        """As it was solved, with positions of traffic."""
        return self.model.project

    @cached_property
    def job(self) -> Job:
        """Everything solved."""
        study = self.study
        study.tell("solving")
        whole = study.under(self.under)
        asked, notes = study.stand(whole)
        self.notes = notes
        solution = study.solution(asked)
        results = [r for r in asked if r not in solution.failed]
        lowest = study.lowest_critical(asked)
        study.tell("limits")
        verdict = judged(study) if study.project.limits else None
        moving = [r for r in whole if r.moving]
        return Job(solution, asked, results, study.findings, self.display, lowest, moving, verdict)

    @cached_property
    def pictures(self) -> list[tuple[str, Sheet]]:
        """Those that `run` draws, by name."""
        return list(first_pictures(self.job))

    @property
    def solution(self) -> Solution:
        """Of all results asked for."""
        return self.job.solution

    @property
    def verdict(self) -> Verdict | None:
        """What the limits come to."""
        return self.job.verdict

    @property
    def lost(self) -> list[Finding]:
        """What to say of the results without an answer."""
        return self.solution.no_answer([r for r in self.job.asked if r in self.solution.failed])

    @cached_property
    def envelope(self) -> Table:
        """Least and greatest forces of every member over what governs."""
        every = np.arange(len(self.project.members))
        return envelope(self.solution, self.job.governing, every, found=self.job.extremes)

    @cached_property
    def forces(self) -> Table:
        """The largest of each family."""
        return governing_forces(self.solution, self.envelope)

    @cached_property
    def reactions(self) -> Table:
        """What governs at each support."""
        return governing_reactions(self.solution, self.job.governing)

    @cached_property
    def plates(self) -> tuple[list[Extreme], list[float], Table]:
        """What governs in structural surfaces, how far each value is off by the mesh, and both as a table."""
        self.study.tell("slabs and walls")
        governing = self.job.governing
        forces = plate_forces(self.solution)
        every = [i for i, s in enumerate(self.project.surfaces) if s.plate is not None]
        found = plate_extremes(forces, governing, every)
        coarse = PlateForces(self.study.on_coarser_mesh(governing), forces.plates.length)
        estimates = error_estimates(forces, found, coarse, governing)
        return found, estimates, governing_plates(forces, governing, found, estimates)

    @cached_property
    def of_service(self) -> list[Result]:
        """The combinations of serviceability, else all, that are no traffic in motion."""
        still = [r for r in self.job.results if not r.is_case and not r.moving] or list(self.job.results)
        return [r for r in still if r.combination is not None and r.combination.set == Set.SERVICE] or still

    @cached_property
    def deflections(self) -> Table:
        """Of each family the bay that deflects most against its chord, under the combinations of service."""
        self.study.tell("deflections")
        project = self.project
        every = np.array([m for m, one in enumerate(project.members) if not one.bar], np.intp)
        if not len(every):
            return Table("deflections", ())
        table = largest_deflections(self.solution, self.of_service, every, Reference.CHORD)
        family = {m.name: m.family for m in project.members}
        return table.rows(largest_of_each((family[name] for name in table["member"].tolist()), table["across"]))

    @cached_property
    def steel(self) -> Checked | None:
        """Steel members by code."""
        rule = self.study.project.steel
        if rule is None:
            return None
        self.study.tell("steel")
        _, found, _ = checked_members(self.study, list(rule.on))
        return found

    def derive(self) -> None:
        """What made the governing reactions, forces and limits; then results of the study may be numbered anew."""
        asked: list[tuple[tuple[str, str, str], str, Target]] = []
        index = {n.name: i for i, n in enumerate(self.project.nodes)}
        table = self.reactions
        for i, node in enumerate(table["node"].tolist()):
            of = str(table["extreme"][i])
            k = 2 if of.startswith("Fz") else int(np.abs(np.nan_to_num([table["Fx"][i], table["Fy"][i]])).argmax())
            if node in index and np.isfinite(table[("Fx", "Fy", "Fz")[k]][i]):
                asked.append((("reaction", node, of), str(table["case"][i]), Target("reaction", index[node], k)))
        names = {m.name: i for i, m in enumerate(self.project.members)}
        table = self.forces
        for i, member in enumerate(table["member"].tolist()):
            of = str(table["of"][i])
            target = Target("force", names[member], FORCES.index(of))
            asked.append((("force", member, of), str(table["case"][i]), target))
        outcomes = self.verdict.outcomes if self.verdict is not None else []
        self._derive_values(asked[:MOST_WHYS])
        self.not_derived = len(asked) - len(self.derived)
        self._derive_limits(outcomes)

    def _derive_values(self, asked: Sequence[tuple[tuple[str, str, str], str, Target]]) -> None:
        study = self.study
        wanted = list(dict.fromkeys(case for _, case, _ in asked))
        if not wanted:
            return
        try:
            results = study.under(wanted)
        except NothingMeant:
            return
        solution = study.solution(results)
        prepared = study.prepared_as(solution)
        by_name = {r.name: r for r in results if r not in solution.failed}
        for i, (key, case, target) in enumerate(asked):
            study.tell("why", i, len(asked))
            if case not in by_name:
                continue
            try:
                found = why(prepared, solution, [by_name[case]], target, Sense.LARGEST)
            except LookupError:
                continue
            self._keep(key, [found])

    def _derive_limits(self, outcomes: Sequence[Outcome]) -> None:
        for o in outcomes:
            try:
                found = explained(self.study, o)
            except (LookupError, NothingMeant):
                continue
            self._keep(("limit", o.limit.name, o.bound.of), found)

    def _keep(self, key: tuple[str, str, str], found: list[Why]) -> None:
        anchor = f"why-{len(self.derived) + 1}"
        self.why_of[key] = anchor
        self.derived.append((anchor, found))
