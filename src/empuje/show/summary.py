"""The summary of a run: does it stand, does it balance, what governs."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ..core.analysis.critical import told
from ..core.analysis.solution import Solution
from ..core.answers.findings import all_findings
from ..core.answers.governing import governing_forces, governing_reactions
from ..core.answers.plates import THERE
from ..core.answers.reactions import closing_error
from ..core.answers.table import Table, said
from ..core.model.findings import Finding, in_short, listed, visible
from ..core.model.results import Result, Results, names
from ..core.model.words import How
from ..core.verdict.outcome import Verdict
from .display import Display
from .plates_text import SIGNS
from .tables import as_markdown, escaped
from .verdict_text import verdict_as_markdown

MOST_TOTALS = 20
"""With more combinations than these only the cases' totals are in the summary; the tables have all."""

HOW = {
    How.SUMMED: "Linear analysis; combinations are summed.",
    How.AS_ONE: "Some members or supports act one way only, so nothing is summed: every case and combination is "
    "analysed as one, under its own factored loads.",
    How.SECOND_ORDER: "Second order: axial forces act on the deformed shape, so each such combination was analysed as "
    "one, under its own factored loads; cases by themselves are of first order.",
}


def explained(how: Iterable[tuple[How, float]]) -> list[str]:
    """What each way of analysis means, and at how many times its loads, said once."""
    out = []
    for way, times in dict.fromkeys((h, at if h == How.SECOND_ORDER else 1.0) for h, at in how):
        more = f" Those `{said(way, times)}` were analysed under {times:g} times their loads, and the results divided "
        out.append(HOW[way] + (f"{more}by that." if times != 1 else ""))
    return out


def summary(
    solution: Solution, results: Results, asked: Results, tables: dict[str, Table], findings: list[Finding],
    files: list[str], lowest: tuple[Result, float] | None, display: Display, verdict: Verdict | None = None,
) -> str:  # fmt: skip
    """The summary as Markdown: of the governing `results`, and of all results `asked` for; `lowest`: the lowest
    critical load factor of those of second order; `verdict`: what the limits come to."""
    model = solution.model
    project = model.project
    every = [r for r in solution.results if r not in solution.failed and not r.moving]
    worst = float(closing_error(solution, every).max(initial=0))
    out = [f"# {escaped(visible(project.title or project.file))}\n"]
    how = " ".join(explained((h, r.second_order_at) for r, h in zip(every, solution.how(every), strict=True)))
    out.append(
        f"{len(project.members)} members, {len(project.nodes)} nodes, {len(project.cases)} cases, "
        f"{len(model.combinations)} combinations, from `{project.file}`. {how}\n"
    )
    out.append("## Stability and balance\n")
    out += _stands(solution, asked, worst)
    totals = tables["load-totals"]
    if len(model.combinations) > MOST_TOTALS:
        totals = totals.rows(np.array([r.is_case for r in asked if r not in solution.failed]))
    out.append(as_markdown(totals, display))
    out += [f"{words}.\n" for words in model.told]
    out += _extremes(solution, every, lowest, display)
    if verdict is not None:
        out.append("## Does it pass?\n")
        out.append(verdict_as_markdown(verdict.outcomes, display, project.title or project.file))
    if project.members:
        out.append(f"## Governing forces by family, over {len(results)} results\n")
        out.append(as_markdown(governing_forces(solution, tables["envelope"]), display))
    if "plates" in tables:
        out.append(f"## Slabs and walls, over {len(results)} results\n")
        out.append(as_markdown(tables["plates"].without([*THERE, "how"]), display))
        out.append(f"{SIGNS} How far off the mesh is, `empuje plates` tells.\n")
    out.append("## Governing reactions\n")
    out.append(as_markdown(governing_reactions(solution, results), display))
    findings = [*findings, *all_findings(solution, asked)]
    if findings:
        out.append("## Findings\n")
        out.append("".join(f"- {f}\n" for f in findings))
    out.append("## Files\n")
    out.append("".join(f"- `{f}`\n" for f in files))
    return "\n".join(out)


def _stands(solution: Solution, asked: Results, worst: float) -> list[str]:
    lost = [r for r in asked if r in solution.failed]
    failed = solution.no_answer(lost)
    if not any(f.level == "error" for f in failed):
        stands = "The frame is stable. In every case and combination the reactions balance the loads to "
        return [f"{stands}{worst:.0e} of the largest.\n", *(f"{f.message}.\n" for f in failed)]
    told_off = f"**No stable answer: {listed(names(lost))}.** No envelope and no governing value below has them.\n"
    others = f"In every other case and combination the reactions balance the loads to {worst:.0e} of the largest.\n"
    return [told_off, "".join(f"- {f}\n" for f in in_short(failed)), others]


def _extremes(solution: Solution, every: Results, lowest: tuple[Result, float] | None, display: Display) -> list[str]:
    """The lowest critical load factor, and the node that moves most."""
    out = []
    if lowest is not None:
        out.append(
            f"Lowest critical load factor of the second-order results: {told(lowest[1])}, under {lowest[0].name}"
            f"{', which has no answer' if lowest[0] in solution.failed else ''}.\n"
        )
    # Of surfaces also the nodes of their elements; further nodes of members, for second order, have no names.
    nodes = solution.project.nodes if solution.project.plates is not None else solution.model.project.nodes
    size = np.linalg.norm(solution.displacement[: len(nodes), :3] @ solution.weights(every), axis=1)
    node, result = np.unravel_index(int(size.argmax()), size.shape)
    largest = size[node, result] * display.factor("displacement")
    out.append(
        f"The largest displacement of a node is {largest:.1f} {display.unit('displacement')}, "
        f"at {nodes[node].name} under {every[int(result)].name}.\n"
    )
    return out
