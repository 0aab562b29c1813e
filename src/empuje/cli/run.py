"""empuje run MODEL"""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from . import Refusal, common, flags, saying

if TYPE_CHECKING:
    from ..core.answers.table import Table
    from ..show.drawings.press import Jobs
    from ..show.results_folder import Job

WORTH_A_PRESS = 60
"""Of frames of so many members pictures are painted by processes of their own."""


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_under(command)
    command.add_argument(
        "-o", dest="output", metavar="FOLDER", help="the results folder (default: MODEL-results beside the model)"
    )
    command.add_argument("--no-pictures", action="store_true", help="write tables only")
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    model = common.read(arguments)
    path = model.study.path
    folder = Path(arguments.output) if arguments.output else path.with_name(f"{path.stem}-results")
    before = folder.is_dir() and next(folder.iterdir(), None) is not None
    from ..show.drawings.press import press

    with press(not arguments.no_pictures and len(model.project.members) >= WORTH_A_PRESS) as painted:
        job, _ = write_results(model, folder, arguments.under, None if arguments.no_pictures else painted)
    for words in common.explained_how(job.solution, job.results):
        saying.tell(words)
    arguments.wrote = True
    if job.verdict is not None and job.verdict.fails:
        model.failed.append("limits")
        from ..show.verdict_text import counted

        print(f"Not all limits are met: {counted(job.verdict.outcomes)} See empuje verdict {path}.")
    replaced = " in place of the results before" if before else ""
    print(f"wrote {folder}{replaced}; begin with {folder / 'summary.md'}")
    return model.verdict


def write_results(
    model: common.Model, folder: Path, under: list[str], pictures: Callable[[Jobs], None] | None
) -> tuple[Job, dict[str, Table]]:
    """Solve the model and write everything, all or nothing; returns what was solved, and the tables by name."""
    from ..show.exchange import check_folder
    from ..show.output import NotWritten
    from ..show.progress import bar
    from ..show.results_folder import Job
    from ..show.results_folder import write_results as write

    whole = model.under(under)
    try:
        check_folder(folder)
        asked, said = common.refusing_mechanisms(model.study, lambda: model.study.stand(whole))
        for words in said:
            saying.say(f"note: {words}")
        solution, results = common.solve(model, asked)
        moving = [r for r in whole if r.moving]
        lowest = common.watched(model.study, lambda: model.study.lowest_critical(asked))
        findings = model.study.findings
        verdict = None
        if model.project.limits:
            from ..study.verdicts import judged

            verdict = common.refusing_mechanisms(model.study, lambda: judged(model.study))
        job = Job(solution, asked, results, findings, model.display, lowest, moving, verdict)
        with bar() as tell:
            return job, write(job, folder, pictures, tell, saying.say)
    except NotWritten as error:
        raise Refusal(str(error)) from None
