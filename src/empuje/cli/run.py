"""empuje run MODEL"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from . import common

if TYPE_CHECKING:
    from ..core.analysis.solve import Solution
    from ..core.answers.table import Table


NO_SHAPE = 1e-9
"""Motions below this share of the frame's size are rounding, and no shape."""


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    common.add_under(command)
    command.add_argument(
        "-o", dest="output", metavar="FOLDER", help="the results folder (default: MODEL-results beside the model)"
    )
    command.add_argument("--no-pictures", action="store_true", help="write tables only")


def run(arguments: argparse.Namespace) -> int:
    from ..show.summary import explained

    model = common.read(arguments.model)
    folder = Path(arguments.output) if arguments.output else model.path.with_name(f"{model.path.stem}-results")
    tables = write_results(model, folder, arguments.under, not arguments.no_pictures)
    for words in explained(tables["reactions"]["how"].tolist()):
        print(words)
    print(f"wrote {folder}; begin with {folder / 'summary.md'}")
    return model.verdict


def write_results(model: common.Model, folder: Path, under: list[str], pictures: bool) -> dict[str, Table]:
    """Solve the model and write every table, picture and the summary, all or nothing; returns the tables by name."""
    from ..core.answers.table import failed_first
    from ..show.output import NotWritten, check_folder, write_folder, write_sqlite
    from ..show.summary import summary
    from ..show.tables import as_csv

    asked = model.under(under)
    try:
        check_folder(folder)
    except NotWritten as error:
        raise common.Refusal(str(error)) from None
    solution, names = common.solve(model, asked)
    governing = [n for n in names if n not in model.project.case_names] or names
    common.progress("taking the envelope ...")
    tables = _tables(model, solution, names, governing)

    def fill(place: Path) -> None:
        written = [
            failed_first(table, model.failed) if {"case", "how"} <= {c.name for c in table.columns} else table
            for table in tables.values()
        ]
        for table in written:
            (place / f"{table.name}.csv").write_text(as_csv(table, model.display), encoding="utf-8", newline="\n")
        write_sqlite(place / "results.sqlite", written, model.display)
        if pictures:
            common.progress("drawing ...")
            _pictures(model, solution, names, governing, place)
        files = sorted(p.relative_to(place).as_posix() for p in place.rglob("*") if p.is_file())
        text = summary(model.project, solution, governing, asked, tables, model.findings, files, model.display)
        (place / "summary.md").write_text(text, encoding="utf-8", newline="\n")

    try:
        write_folder(folder, fill)
    except NotWritten as error:
        raise common.Refusal(str(error)) from None
    return tables


def _tables(model: common.Model, solution: Solution, names: list[str], governing: list[str]) -> dict[str, Table]:
    import numpy as np

    from ..core.answers.along import forces, node_displacements
    from ..core.answers.applied import applied_loads, load_totals
    from ..core.answers.combos import combos
    from ..core.answers.envelope import envelope
    from ..core.answers.inventory import member_list, section_list
    from ..core.answers.reactions import balance, reactions
    from ..core.answers.surfaces import surface_balance
    from ..core.answers.take_down import take_down_table, taken_down
    from ..core.model.loads import Position

    project = model.project
    members, nodes = np.arange(len(project.members)), np.arange(len(project.nodes))
    quarters = [Position(share=s) for s in (0, 0.25, 0.5, 0.75, 1)]
    found = [
        member_list(project),
        section_list(project),
        applied_loads(project, solution.loads, [n for n in names if n in project.case_names], members, nodes),
        combos(project, names),
        load_totals(project, solution.applied, names),
        reactions(solution, names),
        balance(solution, names),
        node_displacements(solution, names, nodes),
        forces(solution, names, members, quarters, breaks=True),
        envelope(solution, governing, members),
    ]
    if project.surfaces:
        found.append(surface_balance(project, solution.loads, [n for n in names if n in project.case_names]))
    path = taken_down(project, solution.loads)
    if path.columns:
        found.append(take_down_table(solution, path, members))
    return {table.name: table for table in found}


def _pictures(model: common.Model, solution: Solution, names: list[str], governing: list[str], place: Path) -> None:
    """Loads of every case; the deflected shape of the combination that moves most and of the service combination that
    does; N, Vz and My each under what governs it."""
    import numpy as np

    from ..core.analysis.pieces import FORCES
    from ..core.answers.envelope import extremes
    from ..core.answers.patterns import patterns, with_pattern
    from ..show.draw_loads import draw_loads
    from ..show.draw_results import draw_deflected, draw_diagram
    from ..show.view import View

    project = model.project
    view = View.named("xz" if project.plane else "iso")
    every = np.arange(len(project.members))
    folder = place / "pictures"
    folder.mkdir()
    for name in [c.name for c in project.cases if c.name in names and not c.lean]:
        draw_loads(project, solution.loads, name, every, view, model.display, False).save(folder / f"loads-{name}.png")
    moves = np.abs(solution.displacement[:, :3] @ solution.weights(governing)).max(axis=(0, 1))
    service = [c.name for c in project.combinations if c.set == "service" and c.name in governing]
    of_service = [governing.index(n) for n in service]
    furthest = [governing[int(moves.argmax())], *service[:1]]
    if service:
        furthest[1] = service[int(moves[of_service].argmax())]
    size = float(np.ptp(project.xyz, axis=0).max())
    for name in dict.fromkeys(furthest):
        if moves[governing.index(name)] <= NO_SHAPE * size:
            continue
        sheet = draw_deflected(solution, name, every, view, model.display, None, False)
        sheet.save(folder / f"deflected-{name}.png")
    found, free = extremes(solution, governing, every), patterns(solution, governing)
    for force in ("N", "Vz", "My"):
        f = FORCES.index(force)
        m, side = np.unravel_index(int(np.abs(found.forces[:, f, :, f]).argmax()), (len(every), 2))
        name = governing[found.result[m, f, side]]
        pattern = free.name_of(governing, int(found.result[m, f, side]), found.there[m, f, side])
        sheet = draw_diagram(with_pattern(solution, name, pattern), pattern, force, every, view, model.display, False)
        sheet.save(folder / f"{force}-{pattern}.png")
