"""The whole job in a folder: every table, the pictures worth a first look, and the summary."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import numpy as np

from ..core.analysis.applied import applied
from ..core.analysis.pieces import FORCES
from ..core.analysis.solution import Solution
from ..core.answers.along import forces, node_displacements
from ..core.answers.applied import applied_loads, load_totals
from ..core.answers.combos import combinations_apart
from ..core.answers.envelope import Extremes, envelope, extremes
from ..core.answers.inventory import member_list, section_list
from ..core.answers.patterns import patterns
from ..core.answers.plates import governing_plates, plate_extremes, plate_forces
from ..core.answers.reactions import balance, reactions
from ..core.answers.snow import snow_sheet
from ..core.answers.surfaces import surface_balance
from ..core.answers.table import Table, failed_first
from ..core.answers.take_down import take_down_table
from ..core.answers.wind import sheet_of
from ..core.load_path.taken import taken_down
from ..core.model.findings import Finding
from ..core.model.loads import Position
from ..core.model.results import Result, Results
from ..core.model.telling import Tell, quiet
from ..core.model.words import Set, SnowPart, WindPart
from ..core.verdict.outcome import Verdict
from .display import Display
from .drawings.canvas import Sheet
from .drawings.paper import Drawing
from .drawings.press import Jobs, paint
from .drawings.view import View
from .exchange import write_folder
from .output import write_sqlite
from .summary import summary
from .tables import as_csv
from .verdict_text import as_table, verdict_as_junit

NO_SHAPE = 1e-9
"""Motions below this share of the frame's size are rounding, and no shape."""
QUARTERS = [Position(share=s) for s in (0, 0.25, 0.5, 0.75, 1)]


@dataclass(frozen=True)
class Job:
    """A solution with the results asked for, those of them that have an answer, what was found before it, units,
    the lowest critical load factor of second order, of the results those that move, as wholes, and what the limits come
    to, where there are any."""

    solution: Solution
    asked: Results
    results: Results
    findings: list[Finding]
    display: Display
    lowest: tuple[Result, float] | None = None
    moving: Results = ()
    verdict: Verdict | None = None

    @property
    def governing(self) -> list[Result]:
        """What governs: combinations, or cases where there are none; over all positions of what moves in them."""
        single = [r for r in self.results if not self.moving or not stands_in(self.solution, r)]
        return [r for r in (*single, *self.moving) if not r.is_case] or [*single, *self.moving]

    @cached_property
    def extremes(self) -> Extremes:
        """Of all members under what governs."""
        return extremes(self.solution, self.governing, np.arange(len(self.solution.project.members)))

    @property
    def failed(self) -> list[str]:
        """Names of the results without an answer; not of cases that merely cannot stand alone."""
        lost = [r for r in self.asked if r in self.solution.failed]
        return [r.name for r, f in zip(lost, self.solution.no_answer(lost), strict=True) if f.level == "error"]


def write_results(
    job: Job, folder: Path, pictures: Callable[[Jobs], None] | None, tell: Tell, say: Callable[[str], None]
) -> dict[str, Table]:
    """Every table, picture, painted by `pictures`, and the summary, all or nothing; returns the tables by name. Only
    the database may be left out, and that is said. Raises NotWritten."""
    tell("envelope")
    tables = all_tables(job)

    def fill(place: Path) -> None:
        written = [
            failed_first(table, job.failed) if {"case", "how"} <= {c.name for c in table.columns} else table
            for table in tables.values()
        ]
        for table in written:
            (place / f"{table.name}.csv").write_text(as_csv(table, job.display), encoding="utf-8", newline="\n")
        if job.verdict is not None:
            junit = verdict_as_junit(job.verdict.outcomes, job.display, job.solution.model.project.file)
            (place / "verdict.xml").write_text(junit, encoding="utf-8", newline="\n")
        try:
            write_sqlite(place / "results.sqlite", written, job.display)
        except (sqlite3.Error, OverflowError) as error:
            # The tables are there all the same.
            (place / "results.sqlite").unlink(missing_ok=True)
            say(f"warning: results.sqlite is left out: {error}")
        if pictures is not None:
            draw_all(job, place / "pictures", tell, pictures)
        files = sorted(p.relative_to(place).as_posix() for p in place.rglob("*") if p.is_file())
        text = summary(job.solution, job.governing, job.asked, tables, job.findings, files, job.lowest, job.display,
                       job.verdict)  # fmt: skip
        (place / "summary.md").write_text(text, encoding="utf-8", newline="\n")

    write_folder(folder, fill)
    return tables


def all_tables(job: Job) -> dict[str, Table]:
    """By name."""
    solution, results, model = job.solution, job.results, job.solution.model
    project = model.project
    members, nodes = np.arange(len(project.members)), np.arange(len(project.nodes))
    found = [
        member_list(project),
        section_list(project),
        applied_loads(model, results, members, nodes, np.arange(len(project.surfaces))),
        *combinations_apart(project, results),
        load_totals(model, applied(solution), results),
        reactions(solution, results),
        balance(solution, results),
        node_displacements(solution, results, nodes),
        forces(solution, results, members, QUARTERS, breaks=True),
        envelope(solution, job.governing, members, found=job.extremes),
    ]
    structural = [i for i, s in enumerate(project.surfaces) if s.plate is not None]
    if structural:
        in_plates = plate_forces(solution)
        found.append(governing_plates(in_plates, job.governing, plate_extremes(in_plates, job.governing, structural)))
    if project.surfaces:
        found.append(surface_balance(model, results))
    taken = taken_down(model) if project.plates is None else None
    if taken is not None and taken.path.columns:
        found.append(take_down_table(solution, taken, members))
    if model.wind is not None:
        sheet = (sheet_of(part, model.wind, project, project.case_names, job.display.value) for part in WindPart)
        found += [table for table in sheet if len(table)]
    if model.snow is not None:
        fallen = (snow_sheet(part, model.snow, project, project.case_names, job.display.value) for part in SnowPart)
        found += [table for table in fallen if len(table)]
    if job.verdict is not None:
        found.append(as_table(job.verdict.outcomes, job.display))
    return {table.name: table for table in found}


def plate_pictures(job: Job, result: Result, view: View) -> Iterator[tuple[str, Sheet]]:
    """Moments of structural surfaces under a result, of walls the forces in their planes."""
    from .drawings.draw_plates import draw_plates

    project = job.solution.model.project
    own = [i for i, s in enumerate(project.surfaces) if s.plate is not None]
    if not own or project.plates is None:
        return
    level = [i for i in own if abs(project.plates.axes[i, 2, 2]) > LEVEL]
    walls = [i for i in own if i not in level]
    asked = [(of, level) for of in ("m_x", "m_y") if level] + [("n_y", walls)] * bool(walls)
    members = np.arange(len(project.members))
    for of, surfaces in asked:
        name = f"plates-{of}-{result.name}"
        yield name, draw_plates(job.solution, result, of, surfaces, members, view, job.display)


LEVEL = 0.7
"""A surface whose normal is steeper than this is no wall."""


def stands_in(solution: Solution, result: Result) -> bool:
    """Whether a result has a position of traffic in it."""
    standing = {s.case for s in solution.model.project.standings}
    return any(name in standing for name, _ in result.factors)


def draw_all(job: Job, folder: Path, tell: Tell = quiet, painted: Callable[[Jobs], None] = paint) -> None:
    """The pictures worth a first look, put on paper by `painted`."""
    folder.mkdir()
    painted((Drawing((sheet,)), folder / f"{name}.png") for name, sheet in first_pictures(job, tell))


def first_pictures(job: Job, tell: Tell = quiet) -> Iterator[tuple[str, Sheet]]:
    """Pictures by name: the frame; loads of every case, of the wind's the first of each direction; the deflected shape
    of the combination that moves most and of the service combination that does, and that one's reactions; N, Vz and
    My each under what governs it."""
    from .drawings.draw_frame import draw_frame
    from .drawings.draw_loads import draw_loads
    from .drawings.draw_reactions import draw_reactions
    from .drawings.draw_results import draw_deflected, draw_diagram

    solution, display = job.solution, job.display
    governing = [r for r in job.results if not r.is_case] or list(job.results)
    project = solution.model.project
    view = View.usual(project.plane)
    every = np.arange(len(project.members))
    notional = {c.name for c in project.cases if c.notional}
    # Of the many cases a wind makes, the first of each direction.
    wind = solution.model.wind
    many = {c.name for c in wind.rule.cases} - wind.first_cases if wind is not None else set()
    # Of positions of a traffic the first.
    stands = [s.case for s in project.standings]
    first = {min((s for s in project.standings if s.traffic == k), key=lambda s: stands.index(s.case)).case
             for k in {s.traffic for s in project.standings}}  # fmt: skip
    many |= set(stands) - first
    # Of cases with the same loads one.
    many |= {c.name for c in project.cases if c.like}
    cases = [r for r in job.results if r.is_case and r.name not in notional | many]
    pictures = len(cases) + 7
    yield "frame", draw_frame(project, every, view)
    for i, case in enumerate(cases):
        tell("pictures", i, pictures)
        yield f"loads-{case.name}", draw_loads(solution.model, case, every, view, display)
    moves = np.abs(solution.displacement[:, :3] @ solution.weights(governing)).max(axis=(0, 1))
    of_service = [i for i, r in enumerate(governing) if r.combination is not None and r.combination.set == Set.SERVICE]
    furthest = [int(moves.argmax())]
    if of_service:
        furthest.append(of_service[int(moves[of_service].argmax())])
    size = float(np.ptp(project.places, axis=0).max())
    tell("pictures", pictures - 5, pictures)
    for i in dict.fromkeys(furthest):
        if moves[i] > NO_SHAPE * size:
            yield f"deflected-{governing[i].name}", draw_deflected(solution, governing[i], every, view, display)
    last = governing[furthest[-1]]
    yield f"reactions-{last.name}", draw_reactions(solution, last, every, view, display)
    yield from plate_pictures(job, last, view)
    if not len(every):
        return
    found = extremes(solution, governing, every) if job.moving else job.extremes
    free = patterns(solution, governing)
    for force in ("N", "Vz", "My"):
        tell("pictures", pictures - 3 + FORCES.index(force) // 2, pictures)
        f = FORCES.index(force)
        m, side = np.unravel_index(int(np.abs(found.forces[:, f, :, f]).argmax()), (len(every), 2))
        pattern = free.pattern(int(found.result[m, f, side]), found.there[m, f, side])
        wider, result = solution.with_pattern(pattern)
        yield f"{force}-{result.name}", draw_diagram(wider, result, force, every, view, display)
