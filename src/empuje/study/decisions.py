"""Everything a study decided by itself, as records.

>>> for d in decisions(Study.read("packing-house.toml")): print(d)         # doctest: +SKIP
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from ..core.actions.decided import deck_decisions, reduction_decisions, traffic_decisions, wind_decisions
from ..core.actions.torsion import torsion_decisions
from ..core.combine.decided import combining_decisions
from ..core.findings.plates import plate_decisions
from ..core.model.decisions import Decision, by_weight, open_findings
from ..core.model.findings import Finding, has_errors, with_accepted
from ..core.model.words import LimitKind, Stance
from ..files.base.selectors import NothingMeant
from .study import Study

if TYPE_CHECKING:
    from ..core.answers.table import Table
    from ..core.steel.restraints import Pressed


def decisions(study: Study, lengths: bool = True) -> list[Decision]:
    """All of them, the weightiest first; of a model with errors those that need no frame. Without `lengths` not those
    of steel members, which ask the frame and its results, and of which none is a guess."""
    from ..core.resolve import known_loads

    resolved, project = study.resolved, study.project
    found: list[Decision] = [*combining_decisions(project, resolved.combinations, known_loads(resolved))]
    if resolved.snow is not None:
        from ..core.actions.snow.decided import snow_decisions

        found += snow_decisions(resolved.snow, study.reading.written["snow"])
    found += [*wind_decisions(resolved.wind), *traffic_decisions(project)]
    found += reduction_decisions(project, resolved.reduction)
    found += deck_decisions(project, resolved.surfaces)
    found += torsion_decisions(project, resolved.loads)
    found += plate_decisions(resolved)
    found += _order(study)
    if study.sound and not has_errors(study.findings):
        found += _of_the_frame(study, lengths)
    return by_weight(found)


def _order(study: Study) -> list[Decision]:
    """That combinations are analysed by first order, where nobody says so."""
    asked = study.reading.written.get("project", {})
    if not study.resolved.combinations or (isinstance(asked, dict) and "analysis" in asked):
        return []
    sets = tuple(dict.fromkeys(c.set for c in study.resolved.combinations))
    why = "nothing else is stated; `empuje stability` says where second order is needed, and checks of steel ask for it"
    place = study.resolved.combinations[0].place
    return [Decision("order of analysis", sets, "first order", why, "second-order, direct analysis", "project.analysis",
                     Stance.USUAL, place)]  # fmt: skip


def _of_the_frame(study: Study, lengths: bool) -> Iterable[Decision]:
    from ..core.analysis.equations import Unstable, build_equations
    from ..core.steel.decided import length_decisions, steel_decisions
    from ..core.verdict.decided import span_decisions

    project = study.project
    yield from span_decisions(project, [limit for limit in project.limits if limit.kind == LimitKind.DEFLECTION])
    yield from steel_decisions(project)
    if not lengths or project.steel is None:
        return
    try:
        yield from length_decisions(project, lambda: build_equations(project), _pressed(study))
    except Unstable:
        return  # a mechanism is told elsewhere


def _pressed(study: Study) -> Pressed | None:
    """By how much the results of [steel] press members; None where there are none."""
    from ..core.answers.patterns import TooMany, listed
    from ..core.steel.checked import pressed_by
    from .study import ModelError
    from .verdicts import steel_results

    try:
        solution, results, _, _ = steel_results(study)
        _, weights, _ = listed(solution, results)
    except (NothingMeant, TooMany, ModelError, ValueError):
        return None
    return lambda members: pressed_by(solution, weights, members)


def warnings_of(study: Study, found: Sequence[Decision]) -> list[Finding]:
    """What of the decisions is a guess or may be unsafe, as warnings, or as notes where it is accepted."""
    return with_accepted(open_findings(found, study.findings), study.project.accepted)


def decisions_table(found: Sequence[Decision]) -> Table:
    """A row for each decision."""
    from ..core.answers.table import Column, Table

    return Table(
        "decisions",
        (
            Column("side", "text", [str(d.stance) for d in found]),
            Column("decided", "text", [d.what for d in found]),
            Column("about", "text", [", ".join(d.about) for d in found]),
            Column("taken", "text", [d.taken for d in found]),
            Column("why", "text", [d.why for d in found]),
            Column("instead", "text", [d.instead for d in found]),
            Column("stated by", "text", [d.key for d in found]),
            Column("line", "text", [str(d.place) for d in found]),
        ),
    )
