"""empuje report MODEL -o FILE"""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.model.words import ReportPart
from . import NOT_MET, Refusal, common, flags, saying

ENDINGS = (".html", ".pdf")
PAPERS = ("A4", "letter")


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_under(command)
    command.add_argument("-o", dest="output", metavar="FILE", required=True, help="an HTML page or a PDF by its ending")
    command.add_argument(
        "--parts", action="append", default=[], metavar="PART",
        help="these parts alone: " + ", ".join(map(str, ReportPart)) + " (default: those of [report], else all)",
    )  # fmt: skip
    command.add_argument("--paper", choices=PAPERS, default="A4", help="of a PDF (default: A4)")
    flags.add_force(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..report.make import make_report
    from ..show.output import NotWritten, write_bytes, write_text

    ending = Path(arguments.output).suffix.lower()
    if ending not in ENDINGS:
        raise Refusal(f"-o {arguments.output}: end the name in {' or '.join(ENDINGS)}")
    parts = _parts(arguments.parts)
    model = common.read(arguments)
    under = flags.split(arguments.under)
    with common.refusing("--under"):
        model.study.under(under)
    paper = ending == ".pdf"
    chosen = parts or model.project.report.parts or tuple(ReportPart)
    if paper or ReportPart.VIEW in chosen:
        needs("typst" if paper else "plotly", "a PDF" if paper else "the model in space", "report")
    report = common.refusing_mechanisms(model.study, lambda: make_report(model.study, parts, under, not paper))
    try:
        if paper:
            from ..report.as_pdf import as_pdf

            write_bytes(Path(arguments.output), as_pdf(report, arguments.paper))
        else:
            from ..report.as_html import as_html

            write_text(Path(arguments.output), as_html(report))
    except NotWritten as error:
        raise Refusal(str(error)) from None
    for said in report.verdict:
        saying.say(said.text)
    saying.say(f"wrote {arguments.output}: {len(report.parts)} parts")
    return NOT_MET if report.fails else model.verdict


def needs(package: str, what: str, extra: str) -> None:
    """Refuses, before any work, what a package that comes with an extra would do."""
    from importlib.util import find_spec

    if find_spec(package) is None:
        raise Refusal(f"{what} needs the package {package}: pip install 'empuje[{extra}]'")


def _parts(words: list[str]) -> list[ReportPart]:
    """The parts asked for."""
    from ..core.model.findings import did_you_mean

    out = []
    for word in flags.split(words):
        if word not in set(ReportPart):
            raise Refusal(f"--parts: there is no {word}; {did_you_mean(word, map(str, ReportPart))}")
        out.append(ReportPart(word))
    return out
