"""What a model asks of its own frame before all that follows from it: frequencies for its wind, and the positions of
traffic that are analysed by themselves.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import astuple, replace
from typing import TYPE_CHECKING, Any

from ..core.actions.traffic.standings import needs_standings, with_standings
from ..core.model.findings import Finding, has_errors
from ..core.model.project import Project
from ..core.model.traffic import Spot, Standing, Traffic
from ..core.resolve import resolve
from ..core.resolved import Resolved
from ..files.reader import Reading

if TYPE_CHECKING:
    from numpy.typing import NDArray

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


def with_candidates(project: Project, reading: Reading, cache: bool) -> tuple[Project, list[Finding]]:
    """The project; where its traffic meets results that are no sums, with the positions that are analysed as one there,
    and what to say of their choice; with `cache` they are kept as solutions are. A frame that cannot be analysed has
    none."""
    if not needs_standings(project) or has_errors(reading.findings):
        return project, []
    from ..core.analysis.factor import backend
    from ..files.kept.store import kept_or_made, key_of

    found = kept_or_made(
        key_of(reading.digest, "positions", backend()) if cache else None, lambda arrays: _unpacked(project, arrays),
        lambda: _chosen_positions(project, reading), lambda found: _packed(project, found),
    )  # fmt: skip
    standings = [s for _, one in found for s in one.standings]
    return (with_standings(project, standings) if found else project), [_chosen(*one) for one in found]


def _chosen_positions(project: Project, reading: Reading) -> list[tuple[Traffic, Candidates]]:
    """The positions of every traffic on the frame; none where it cannot be analysed."""
    from ..core.analysis.equations import Unstable
    from ..core.analysis.moving.mover import Mover
    from ..core.analysis.solve import first_order
    from ..core.answers.candidates_as_one import candidates_as_one, every_step

    still = resolve(project, reading.findings)
    if has_errors(still.findings):
        return []
    out: list[tuple[Traffic, Candidates]] = []
    try:
        prepared = first_order(still)
        for laid in still.laid:
            number = next(i for i, t in enumerate(project.traffic) if t.case == laid.traffic.case)
            mover = Mover(laid, prepared.equations, number)
            if laid.traffic.every_step:
                found = every_step(mover)
            else:
                found = candidates_as_one(prepared, mover, _loadings(still, prepared, laid.traffic.case))
            out.append((laid.traffic, found))
    except Unstable:
        return []
    return out


def _unpacked(project: Project, arrays: Mapping[str, NDArray[Any]]) -> list[tuple[Traffic, Candidates]]:
    """What was chosen for this very model before. Raises KeyError, ValueError, IndexError or TypeError where it is not
    what it should be."""
    rows = json.loads(str(arrays["positions"]))
    return [(project.traffic[number], _candidates(project.traffic[number], number, *row)) for number, *row in rows]


def _candidates(
    traffic: Traffic, number: int, results: int, reached: float, standings: Sequence[Sequence[Any]]
) -> Candidates:
    """Raises TypeError or ValueError where this is no position of the traffic."""
    from ..core.answers.candidates import Candidates

    found = []
    for case, spots in standings:
        each = tuple(_spot(traffic, *spot) for spot in spots)
        found.append(Standing(str(case), number, each))
    return Candidates(found, int(results), float(reached))


def _spot(
    traffic: Traffic, way: int, vehicle: int, t: float, heading: int, brake: int, side: int, gaps: Sequence[float],
    lanes: Sequence[tuple[float, float]],
) -> Spot:  # fmt: skip
    if not (0 <= way < len(traffic.ways) and 0 <= vehicle < len(traffic.vehicles)):
        raise ValueError(way, vehicle)
    parts = tuple((float(a), float(b)) for a, b in lanes)
    return Spot(way, vehicle, float(t), int(heading), int(brake), int(side), tuple(map(float, gaps)), parts)


def _packed(project: Project, found: Sequence[tuple[Traffic, Candidates]]) -> dict[str, NDArray[Any]]:
    import numpy as np

    number = {t.case: i for i, t in enumerate(project.traffic)}
    rows = [
        (number[traffic.case], one.results, one.reached,
         [(s.case, [astuple(p) for p in s.spots]) for s in one.standings])
        for traffic, one in found
    ]  # fmt: skip
    return {"positions": np.array(json.dumps(rows))}


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
