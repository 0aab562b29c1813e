"""The summary of a run: does it stand, does it balance, what governs."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..core.analysis.pieces import FORCES
from ..core.analysis.second_order import told
from ..core.analysis.solve import Solution
from ..core.answers.reactions import closing_error, result_findings
from ..core.answers.table import MEMBER_KINDS, Column, Table
from ..core.model.findings import Finding, in_short, listed
from ..core.model.project import Project
from .display import Display
from .tables import as_markdown


def governing(solution: Solution, found: Table) -> Table:
    """For each family and force the member and combination with the largest magnitude in the envelope `found`."""
    family_of = {m.name: m.family for m in solution.project.members}
    families = list(dict.fromkeys(family_of.values()))
    member, of = found["member"], found["of"]
    rows = []
    for family in families:
        in_family = np.array([family_of[m] == family for m in member])
        for force in FORCES:
            index = np.flatnonzero(in_family & (of == force))
            if not len(index):
                continue
            best = index[np.abs(found[force][index]).argmax()]
            value = found[force][best]
            if abs(value) > 1e-9 * max(np.nanmax(np.abs(found[force])), 1e-12):
                rows.append((family, force, value, member[best], found["x"][best], found["case"][best]))
    kinds = dict(MEMBER_KINDS)
    forces = np.array([r[2] if kinds[r[1]] == "force" else np.nan for r in rows])
    moments = np.array([r[2] if kinds[r[1]] == "moment" else np.nan for r in rows])
    return Table(
        "governing",
        (
            Column("family", "text", [r[0] for r in rows]),
            Column("of", "text", [r[1] for r in rows]),
            Column("force", "force", forces),
            Column("moment", "moment", moments),
            Column("member", "text", [r[3] for r in rows]),
            Column("x", "length", np.array([r[4] for r in rows], float)),
            Column("case", "text", [r[5] for r in rows]),
        ),
    )


def governing_reactions(table: Table) -> Table:
    """For each supported node the least and greatest vertical reaction and the largest horizontal ones."""
    nodes = list(dict.fromkeys(table["node"].tolist()))
    rows = []
    for node in nodes:
        mine = np.flatnonzero(table["node"] == node)
        fz = table["Fz"][mine]
        flat = np.hypot(table["Fx"][mine], np.nan_to_num(table["Fy"][mine]))
        for label, i in (("Fz min", fz.argmin()), ("Fz max", fz.argmax()), ("horizontal max", flat.argmax())):
            rows.append((node, label, mine[i]))
    index = np.array([r[2] for r in rows], np.intp)
    picked = table.rows(index)
    columns = [c for c in picked.columns if c.name not in ("node",)]
    return Table(
        "governing-reactions",
        (Column("node", "text", [r[0] for r in rows]), Column("extreme", "text", [r[1] for r in rows]), *columns),
    )


MOST_TOTALS = 20
"""With more combinations than these only the cases' totals are in the summary; the tables have all."""

HOW = {
    "summed": "Linear analysis; combinations are summed.",
    "as one": "Some members or supports act one way only, so nothing is summed: every case and combination is analysed "
    "as one, under its own factored loads.",
    "second order": "Second order: axial forces act on the deformed shape, so each such combination was analysed as "
    "one, under its own factored loads; cases by themselves are of first order.",
}


def explained(how: Sequence[str]) -> list[str]:
    """What each way of analysis means, said once."""
    out = []
    for word in dict.fromkeys(how):
        plain, _, times = word.partition(" at ")
        more = (
            f" Those `{word}` were analysed under {times} times their loads, and the results divided by that."
            if times
            else ""
        )
        out.append(HOW[plain] + more)
    return out


def summary(
    project: Project,
    solution: Solution,
    names: list[str],
    asked: list[str],
    tables: dict[str, Table],
    findings: list[Finding],
    files: list[str],
    display: Display,
) -> str:
    """The summary as Markdown: of the governing `names`, and of all results `asked` for; `project` as it was read (a
    solution of second order has nodes of its own after those)."""
    every = [n for n in solution.results if n not in solution.failed]
    worst = float(closing_error(solution, every).max(initial=0))
    out = [f"# {project.title or project.file}\n"]
    how = " ".join(explained(solution.how(every)))
    out.append(
        f"{len(project.members)} members, {len(project.nodes)} nodes, {len(project.cases)} cases, "
        f"{len(project.combinations)} combinations, from `{project.file}`. {how}\n"
    )
    out.append("## Does it stand, does it balance?\n")
    lost = [n for n in solution.failed if n in asked]
    failed = solution.no_answer(lost)
    if any(f.level == "error" for f in failed):
        out.append(f"**No stable answer: {listed(lost)}.** No envelope and no governing value below has them.\n")
        out.append("".join(f"- {f}\n" for f in in_short(failed)))
        out.append(
            f"In every other case and combination the reactions balance the loads to {worst:.0e} of the largest.\n"
        )
    else:
        out.append(
            f"The frame is stable. In every case and combination the reactions balance the loads to {worst:.0e} "
            "of the largest.\n"
        )
        out += [f"{f.message}.\n" for f in failed]
    totals = tables["load-totals"]
    if len(project.combinations) > MOST_TOTALS:
        totals = totals.rows(np.isin(totals["case"].astype(str), project.case_names))
    out.append(as_markdown(totals, display))
    out += [f"{words}.\n" for words in project.combining]
    critical = {n: f for n, f in solution.critical.items() if np.isfinite(f)}
    if critical:
        lowest = min(critical, key=lambda n: critical[n])
        out.append(
            f"Lowest critical load factor of the second-order results: {told(critical[lowest])}, under {lowest}"
            f"{', which has no answer' if lowest in solution.failed else ''}.\n"
        )
    moved = solution.displacement[: len(project.nodes), :3]
    size = np.linalg.norm(moved @ solution.weights(every), axis=1)
    node, result = np.unravel_index(int(size.argmax()), size.shape)
    largest = size[node, result] * display.factor("displacement")
    out.append(
        f"The largest node displacement is {largest:.1f} {display.unit('displacement')}, "
        f"at {project.nodes[node].name} under {every[result]}.\n"
    )
    out.append(f"## Governing forces by family, over {len(names)} results\n")
    out.append(as_markdown(governing(solution, tables["envelope"]), display))
    out.append("## Governing reactions\n")
    out.append(as_markdown(governing_reactions(_only(tables["reactions"], names)), display))
    findings = [*findings, *result_findings(solution, asked)]
    if findings:
        out.append("## Findings\n")
        out.append("".join(f"- {f}\n" for f in findings))
    out.append("## Files\n")
    out.append("".join(f"- `{f}`\n" for f in files))
    return "\n".join(out)


def _only(table: Table, names: list[str]) -> Table:
    return table.rows(np.isin(table["case"].astype(str), names))
