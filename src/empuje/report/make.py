"""The report put together: the parts asked for, in their order, with the engineer's own text before them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from importlib.metadata import version

from ..core.model.words import ReportPart
from ..show.blocks import Block, Paragraph, Part, Report
from ..show.display import Display
from ..show.verdict_text import counted
from ..study.study import Study
from . import parts_input, parts_results
from .answers import Answers

TITLES = {
    ReportPart.BASIS: "Basis", ReportPart.FRAME: "The frame", ReportPart.VIEW: "The frame in space",
    ReportPart.CASES: "Load cases", ReportPart.DERIVATIONS: "Where loads come from",
    ReportPart.COMBINATIONS: "Combinations", ReportPart.BALANCE: "Stability and balance",
    ReportPart.DISPLACEMENTS: "Displacements and drifts", ReportPart.ENVELOPES: "Governing forces",
    ReportPart.SURFACES: "Slabs and walls", ReportPart.REACTIONS: "Reactions",
    ReportPart.LIMITS: "Limits and checks of members",
    ReportPart.FINDINGS: "Findings", ReportPart.VALIDITY: "Limits of validity",
    ReportPart.WHY: "What made the governing values",
}  # fmt: skip
MAKERS: dict[ReportPart, Callable[[Answers], list[Block]]] = {
    ReportPart.BASIS: parts_input.basis, ReportPart.FRAME: parts_input.frame, ReportPart.CASES: parts_input.cases,
    ReportPart.DERIVATIONS: parts_input.derivations, ReportPart.COMBINATIONS: parts_input.combinations,
    ReportPart.BALANCE: parts_results.balanced, ReportPart.DISPLACEMENTS: parts_results.displacements,
    ReportPart.ENVELOPES: parts_results.envelopes, ReportPart.SURFACES: parts_results.surfaces,
    ReportPart.REACTIONS: parts_results.reactions,
    ReportPart.LIMITS: parts_results.limits, ReportPart.FINDINGS: parts_results.findings,
    ReportPart.VALIDITY: parts_results.validity, ReportPart.VIEW: parts_results.view,
    ReportPart.WHY: parts_results.whys,
}  # fmt: skip


def make_report(
    study: Study, parts: Sequence[ReportPart] = (), under: Sequence[str] = (), in_space: bool = True
) -> Report:
    """The parts asked for: else those of the model's [report], else all; results are those named, else all. `in_space`:
    with the view that pages have and paper has not. Raises ModelError, NothingMeant."""
    rule = study.project.report
    wanted = set(parts or rule.parts or ReportPart)
    if not in_space:
        wanted.discard(ReportPart.VIEW)
    answers = Answers(study, under, Display(study.project.display))
    if ReportPart.WHY in wanted:
        answers.derive()
    out = []
    for part in ReportPart:
        if part not in wanted:
            continue
        study.tell(f"writing {TITLES[part].lower()}")
        own: list[Block] = [Paragraph(r.text, "own", r.title) for r in rule.remarks if r.before == part]
        blocks = MAKERS[part](answers)
        if own or blocks:
            out.append(Part(str(part), TITLES[part], (*own, *blocks)))
    project = study.project
    about = project.about
    facts = [
        ("number", about.number), ("author", about.author), ("revision", about.revision), ("date", about.date),
        ("model", project.file), ("digest", study.reading.digest.hex()[:16]), ("Empuje", version("empuje")),
        ("members", f"{len(project.members):,}"), ("nodes", f"{len(project.nodes):,}"),
        ("cases", f"{len(project.cases):,}"), ("combinations", f"{len(study.resolved.combinations):,}"),
    ]  # fmt: skip
    title = project.title or project.file
    lost = any(f.level == "error" for f in answers.lost)
    fails = lost or (answers.verdict is not None and answers.verdict.fails)
    return Report(title, tuple(f for f in facts if f[1]), tuple(_verdict(answers)), tuple(out), fails)


def _verdict(answers: Answers) -> list[Paragraph]:
    """What it all comes to, in a few lines."""
    out = []
    lost = [f for f in answers.lost if f.level == "error"]
    if lost:
        out.append(Paragraph(f"No stable answer under {len(lost)} results: nothing below has them.", "bad"))
    out.append(Paragraph(parts_results.balance_sentence(answers)))
    if answers.verdict is None:
        out.append(Paragraph("The model states no limits: nothing here says that it passes."))
    else:
        tone = "bad" if answers.verdict.fails else "good"
        head = "Not all limits are met" if answers.verdict.fails else "All limits are met"
        out.append(Paragraph(f"{head}: {counted(answers.verdict.outcomes)}", tone))
    warnings = [f for f in answers.study.findings if f.level == "warning" and not f.accepted]
    if warnings:
        count = f"{len(warnings)} warnings are open" if len(warnings) > 1 else "1 warning is open"
        out.append(Paragraph(f"{count}: see the findings.", "bad"))
    return out
