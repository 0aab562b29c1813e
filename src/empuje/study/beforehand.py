"""What a model asks of its own frame before all that follows from it: frequencies for its wind, and the positions of
traffic that are analysed by themselves.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from ..core.actions.traffic.standings import needs_standings, with_standings
from ..core.model.findings import Finding, has_errors
from ..core.model.project import Project
from ..core.model.traffic import Standing, Traffic
from ..core.resolve import resolve
from ..core.resolved import Resolved
from ..files.reader import Reading

if TYPE_CHECKING:
    from ..core.analysis.solve import Prepared
    from ..core.answers.candidates import Candidates
    from ..core.answers.candidates_as_one import Loading


def with_frequencies(reading: Reading) -> Project:
    """The project as it was read; where its wind asks for the frame's own frequencies, with these. A frame that
    cannot be analysed has none, and what is wrong with it is found later."""
    project, wind = reading.project, reading.project.wind
    if wind is None or not wind.analysed or not wind.known or has_errors(reading.findings):
        return project
    from ..core.analysis.equations import Unstable
    from ..core.analysis.frequency import way_frequencies

    still = resolve(replace(project, wind=replace(wind, known=False)), reading.findings)
    if has_errors(still.findings):
        return project
    try:
        found = way_frequencies(still, [h.vector for h in wind.headings])
    except Unstable:
        return project
    headings = tuple(replace(h, n_1=n) for h, n in zip(wind.headings, found, strict=True))
    return replace(project, wind=replace(wind, headings=headings))


def with_candidates(project: Project, reading: Reading) -> tuple[Project, list[Finding]]:
    """The project; where its traffic meets results that are no sums, with the positions that are analysed as one there,
    and what to say of their choice. A frame that cannot be analysed has none."""
    if not needs_standings(project) or has_errors(reading.findings):
        return project, []
    from ..core.analysis.equations import Unstable
    from ..core.analysis.moving.mover import Mover
    from ..core.analysis.solve import first_order
    from ..core.answers.candidates_as_one import candidates_as_one, every_step

    still = resolve(project, reading.findings)
    if has_errors(still.findings):
        return project, []
    said: list[Finding] = []
    chosen: list[Standing] = []
    try:
        prepared = first_order(still)
        for laid in still.laid:
            number = next(i for i, t in enumerate(project.traffic) if t.case == laid.traffic.case)
            mover = Mover(laid, prepared.equations, number)
            if laid.traffic.every_step:
                found = every_step(mover)
            else:
                found = candidates_as_one(prepared, mover, _loadings(still, prepared, laid.traffic.case))
            chosen += found.standings
            said.append(_chosen(laid.traffic, found))
    except Unstable:
        return project, []
    return with_standings(project, chosen), said


def _loadings(still: Resolved, prepared: Prepared, case: str) -> list[Loading]:
    """What one-way parts bear from what stands still beside a traffic: in every combination with it, and in none."""
    import numpy as np

    from ..core.answers.candidates_as_one import Loading

    parts = prepared.parts
    if parts is None:
        return []
    row = {name: i for i, name in enumerate(still.project.case_names)}
    out = [Loading(np.zeros(len(parts.force)), np.zeros(len(parts.force)), 1.0, np.zeros(parts.terms.shape[1]))]
    for c in still.written:
        own = dict(c.factors)
        if not own.get(case):
            continue
        factors = np.zeros(parts.terms.shape[1])
        for name, f in c.factors:
            if name in row:
                factors[row[name]] += f
        out.append(Loading(parts.force[:, : len(factors)] @ factors, parts.terms @ np.abs(factors), own[case], factors))
    return out


def _chosen(traffic: Traffic, found: Candidates) -> Finding:
    if traffic.every_step:
        message = f"{traffic.case} is analysed in all its {len(found.standings)} positions where results are no sums"
        return Finding("note", "positions-chosen", message, "", traffic.place)
    message = (
        f"{traffic.case} is analysed in {len(found.standings)} positions where results are no sums: with the parts "
    )
    message += f"that act in each, by first order, they reach at least {found.reached:.1%} of the worst of "
    message += f"{found.results} considerable reactions, forces and displacements"
    if found.reached < REACHED_ENOUGH:
        return Finding("warning", "few-positions", message, "split the traffic into shorter ways", traffic.place)
    return Finding("note", "positions-chosen", message, "", traffic.place)


REACHED_ENOUGH = 0.9
