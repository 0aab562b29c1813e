"""empuje check MODEL"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, common, flags, outputs

if TYPE_CHECKING:
    from ..core.model.findings import Finding
    from ..study.study import Checked, Study

FORMATS = ("text", "json", "sarif")


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument(
        "--deep", action="store_true",
        help="analyse every combination too, those of second order and those with traffic among them",
    )  # fmt: skip
    command.add_argument(
        "--format", choices=FORMATS, help="json: a list of findings; sarif: for editors and CI servers"
    )
    command.add_argument("-o", dest="output", metavar="FILE", help="write to a file; .json or .sarif sets the format")
    command.add_argument("--strict", action="store_true", help="exit code 1 where anything is a warning")
    flags.add_force(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.model.findings import in_short
    from ..study.decisions import decisions, warnings_of
    from ..study.study import ModelError

    arguments.quick = not arguments.deep
    study = common.study(arguments)
    findings, headline = list(study.findings), ""
    if study.sound:
        try:
            checked = common.watched(study, lambda: study.checked(arguments.deep))
        except ModelError as error:
            findings += error.findings
        else:
            findings += [*checked.failed, *checked.findings, *warnings_of(study, decisions(study, lengths=False))]
            headline = _headline(study, checked, sum(f.level == "error" for f in checked.failed))
    outputs.put_text(_written(findings, in_short(findings), headline, arguments), arguments.output)
    wrong = ("error", "warning") if arguments.strict else ("error",)
    return NOT_MET if any(f.level in wrong for f in findings) else FINE


def _written(every: list[Finding], short: list[Finding], headline: str, arguments: argparse.Namespace) -> str:
    """The findings as they are asked for: for eyes in short, for programs all of them."""
    from ..core.model.findings import visible
    from ..show.findings_text import as_json, as_sarif, by_weight, counted
    from ..show.layout import flowing, window

    ending = Path(arguments.output).suffix.lower() if arguments.output else ""
    style = arguments.format or {".json": "json", ".sarif": "sarif"}.get(ending, "text")
    if style == "json":
        return as_json(by_weight(every))
    if style == "sarif":
        from importlib.metadata import version

        return as_sarif(by_weight(every), version("empuje"))
    lines = [visible(headline)] if headline else []
    shown = by_weight(short)
    lines += [str(f) for f in shown if not f.accepted]
    accepted = [str(f) for f in shown if f.accepted]
    if accepted:
        lines += ["", "Accepted", *accepted, ""]
    lines.append(counted(every))
    there = None if arguments.output else window()
    return "\n".join(flowing(line, there) for line in lines) + "\n"


def _headline(study: Study, checked: Checked, lost: int) -> str:
    project, results = study.project, study.resolved.results
    stands = f"{lost} of {len(results)} results have no stable answer" if lost else "stable"
    shallow = " by first order; --deep analyses those of second order too" if checked.shallow else ""
    return (
        f"{project.file}: {len(project.members)} members, {len(project.nodes)} nodes, "
        f"{len({s.node for s in project.supports})} supports, {len(project.cases)} cases, "
        f"{len(study.resolved.combinations)} combinations; {stands}, loads and reactions balance to "
        f"{checked.worst:.0e}{shallow}"
    )
