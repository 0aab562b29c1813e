"""The parts of a report about what came out: balance, displacements, forces, reactions, limits, findings, validity."""

from __future__ import annotations

import numpy as np

from ..core.answers.findings import all_findings
from ..core.answers.governing import balance_in_short, furthest_nodes
from ..core.answers.plates import HEADS as PLATE_HEADS
from ..core.answers.plates import THERE
from ..core.answers.reactions import closing_error
from ..core.answers.schedule import schedule
from ..core.answers.storey_cuts import storey_cut_table
from ..core.answers.table import MEMBER_KINDS, Table, largest_of_each
from ..core.model.findings import in_short, visible
from ..core.model.results import Result
from ..core.model.words import Holds
from ..core.steel.checked import NEVER_CHECKED
from ..core.steel.table import members_table
from ..show.blocks import Block, Cell, Derivation, Grid, Paragraph, grid_of, plain_grid
from ..show.drawings.draw_use import draw_utilisation
from ..show.drawings.view import View
from ..show.findings_text import by_weight
from ..show.plates_text import SIGNS, mesh_words
from ..show.verdict_text import HEADS as LIMIT_HEADS
from ..show.verdict_text import NUMERIC as LIMIT_NUMERIC
from ..show.verdict_text import cells_of, notes_of
from ..show.why_text import NUMERIC, why_words
from .answers import MOST_WHYS, Answers
from .parts_input import MOST_ROWS, picture
from .scene import scene

FURTHEST = 15
"""So many nodes are told of those that move most."""
MOST_STEEL = 200
OF_PLATES = {
    "Moments": ("moment",), "Forces in the plane, and shears across," : ("force",),
    "Displacements along the normal, and pressures of beds,": ("displacement", "pressure"),
}  # fmt: skip
HOW_TO = (
    "Choose a result and what is shown. Point at a member for its values; click it, or write its name, for its forces "
    "and displacements from end to end and what governs it. Drag or use the arrows to turn."
)
LIMITS_OF_VALIDITY = (
    "Members are straight and prismatic beams of linear elastic material; plane sections stay plane. Shear deforms "
    "only members that say so; warping is not restrained.",
    "By first order, displacements are small: equilibrium is that of the frame as drawn. By second order, axial forces "
    "act on the deformed shape, members' own bow included; imperfections are those that cases with `notional` bring.",
    "Members and supports that act one way only are exact under each combination; their own loads still reach their "
    "ends.",
    "Joints are points, rigid, free or on linear springs. Connections, bases, foundations and soil are not checked.",
    "Local buckling, fatigue, fire, vibration and earthquakes are not looked at unless a limit or a check above says "
    "so.",
)


def _still(answers: Answers) -> list[Result]:
    return [r for r in answers.job.results if not r.moving]


def balance_sentence(answers: Answers) -> str:
    """Whether reactions balance loads, over all results."""
    still = _still(answers)
    if not still:
        return "No result has an answer."
    worst = float(closing_error(answers.solution, still).max(initial=0))
    return f"Loads and reactions of {len(still)} results balance to {worst:.0e} of the largest load."


def balanced(answers: Answers) -> list[Block]:
    """The balance of every case, the worst of all results, and what has no answer."""
    out: list[Block] = [Paragraph(balance_sentence(answers))]
    out += [Paragraph(visible(str(f)), "bad" if f.level == "error" else "") for f in in_short(answers.lost)]
    if answers.job.lowest is not None:
        result, factor = answers.job.lowest
        out.append(
            Paragraph(f"Lowest critical load factor of second-order results: {factor:.4g}, under {result.name}.")
        )
    still = _still(answers)
    cases = [r for r in still if r.is_case] or still
    caption = "Applied loads, and the difference of the reactions, relative to the largest"
    out.append(grid_of(balance_in_short(answers.solution, cases), answers.display, caption, most=MOST_ROWS))
    return out


def _pictures(answers: Answers, begin: str) -> list[Block]:
    return [picture(sheet, sheet.what) for name, sheet in answers.pictures if name.startswith(begin)]


def displacements(answers: Answers) -> list[Block]:
    """Deflected shapes; the nodes that move most; deflections by family; drifts by storey."""
    solution, display, project = answers.solution, answers.display, answers.project
    out = _pictures(answers, "deflected-")
    still = [r for r in _still(answers) if not r.is_case] or _still(answers)
    table = furthest_nodes(solution, still, np.arange(len(project.nodes)))
    order = np.argsort(-table["u"], kind="stable")[:FURTHEST]
    out.append(grid_of(table.rows(order), display, "Nodes that move most, over all combinations"))
    if len(answers.deflections):
        table = answers.deflections.without(["along", "how"])
        words = "under combinations of service" if answers.of_service != still else "over all combinations"
        out.append(grid_of(table, display, f"Largest deflection of each family against the chord of its bay, {words}"))
    levels = sorted(project.grid.get("z", {}).items(), key=lambda p: p[1])
    levels = [p for i, p in enumerate(levels) if i == 0 or p[1] - levels[i - 1][1] > 1e-3]
    if len(levels) > 1:
        table = storey_cut_table(solution, answers.of_service, levels)
        best = _worst_drifts(table)
        if len(best):
            out.append(grid_of(best, display, "Storeys: the largest drift of each over its height"))
    return out


def _worst_drifts(table: Table) -> Table:
    """Of every storey the row with the largest drift over height; of those without any none."""
    ratios = [table[f"drift {d}/h [1/1000]"] for d in "xy"]
    size = np.nan_to_num(np.abs(ratios)).max(axis=0)
    rows = largest_of_each(table["storey"].tolist(), size)
    return table.rows([i for i in rows if size[i] > 0])


def envelopes(answers: Answers) -> list[Block]:
    """The largest forces of each family with what made them, and diagrams of those that govern."""
    table = answers.forces
    links: dict[tuple[int, str], str] = {}
    for i, (member, of) in enumerate(zip(table["member"].tolist(), table["of"].tolist(), strict=True)):
        anchor = answers.why_of.get(("force", member, of))
        if anchor:
            links |= {(i, "force"): anchor, (i, "moment"): anchor}
    grid = grid_of(table, answers.display, f"Largest forces by family, over {len(answers.job.governing)} results",
                   "N is tension where positive; My positive with tension at -z, Mz at -y.", links)  # fmt: skip
    return [grid, *(b for f in ("N-", "Vz-", "My-") for b in _pictures(answers, f))]


def surfaces(answers: Answers) -> list[Block]:
    """What governs in structural surfaces, with the error of the mesh, and moments and forces drawn."""
    if answers.project.plates is None:
        return []
    found, estimates, table = answers.plates
    words = [SIGNS, *mesh_words(answers.project, answers.project.plates, found, estimates, answers.display)]
    grids = []
    for title, heads in OF_PLATES.items():
        some = [i for i in range(len(table)) if np.isfinite([table[h][i] for h in heads]).any()]
        own = table.rows(some).without([*THERE, "how", *(h for h, _ in PLATE_HEADS if h not in heads)])
        caption = f"{title} in slabs and walls: minimum and maximum over {len(answers.job.governing)} results"
        if some:
            grids.append(grid_of(own, answers.display, caption, most=10 * MOST_ROWS))
    tone = ["bad" if w.startswith("warning") else "" for w in words]
    return [*grids, *(Paragraph(w, t) for w, t in zip(words, tone, strict=True)), *_pictures(answers, "plates-")]


def reactions(answers: Answers) -> list[Block]:
    """What governs at each support, the schedule for foundations, and reactions drawn."""
    table = answers.reactions
    links: dict[tuple[int, str], str] = {}
    for i, (node, of) in enumerate(zip(table["node"].tolist(), table["extreme"].tolist(), strict=True)):
        anchor = answers.why_of.get(("reaction", node, of))
        if anchor:
            links[i, "extreme"] = anchor
    out: list[Block] = [
        grid_of(table, answers.display, "Governing reactions", "Reactions act on the structure, in global axes.", links)
    ]
    out += _pictures(answers, "reactions-")
    listed = schedule(answers.solution, answers.job.governing)
    caption = "Schedule for foundations: by kind of support, each case unfactored, then what governs"
    note = "What acts on a foundation is the opposite of these."
    out.append(grid_of(listed, answers.display, caption, note, most=10 * MOST_ROWS))
    return out


def limits(answers: Answers) -> list[Block]:
    """The verdict, and steel members by code."""
    out: list[Block] = []
    verdict = answers.verdict
    if verdict is None:
        out.append(Paragraph("The model states no limits."))
    else:
        rows = []
        for o in verdict.outcomes:
            name, *others = cells_of(o, answers.display)
            anchor = answers.why_of.get(("limit", o.limit.name, o.bound.of), "")
            rows.append((Cell(name, anchor), *(Cell(visible(text)) for text in others)))
        tones = tuple("bad" if o.fails else "" for o in verdict.outcomes)
        out.append(Grid("Limits, the worst first", LIMIT_HEADS, tuple(rows), LIMIT_NUMERIC, "", tones))
        out += [Paragraph(note) for note in notes_of(verdict.outcomes)]
    found = answers.steel
    if found is not None:
        holds = [found.holds(m) for m in range(len(found.members))]
        failing = sum(h in (Holds.FAILS, Holds.UNANSWERED) for h in holds)
        words = f"{len(holds)} steel members by {found.code.assumed}: {failing or 'none'} beyond resistance."
        out.append(Paragraph(words, "bad" if failing else "good"))
        table = members_table(answers.study.project, found).without(["left out", "how"])
        out.append(grid_of(table, answers.display, "Steel members: utilisation by check", most=MOST_STEEL,
                           tone=lambda i: "bad" if holds[i] in (Holds.FAILS, Holds.UNANSWERED) else ""))  # fmt: skip
        view = View.usual(answers.project.plane)
        sheet = draw_utilisation(answers.study.project, found, view)
        out.append(picture(sheet, "How much of their resistance members use"))
    return out


def findings(answers: Answers) -> list[Block]:
    """Everything found, what is accepted with its reason."""
    found = [*answers.study.findings, *all_findings(answers.solution, answers.job.asked)]
    if not found:
        return [Paragraph("Nothing was found.", "good")]
    rows, tones = [], []
    for f in by_weight(in_short(found)):
        rows.append(["accepted" if f.accepted else f.level, f.code, visible(str(f.place)), visible(f.message),
                     visible(f"because {f.accepted}" if f.accepted else f.remedy)])  # fmt: skip
        tones.append("bad" if f.level == "error" and not f.accepted else "")
    heads = ["level", "code", "where", "what", "remedy, or why it is right"]
    return [plain_grid("What was found", heads, rows, [False] * 5, tones=tones)]


def validity(answers: Answers) -> list[Block]:
    """What the numbers rest on."""
    out: list[Block] = [Paragraph(words) for words in LIMITS_OF_VALIDITY]
    if answers.steel is not None:
        out.append(Paragraph(f"Steel: {answers.steel.code.assumed}; {NEVER_CHECKED}."))
    return out


def view(answers: Answers) -> list[Block]:
    """The model in space, under what governs and the cases."""
    names = dict.fromkeys([*answers.forces["case"].tolist(), *answers.reactions["case"].tolist()])
    by_name = {r.name: r for r in _still(answers)}
    cases = [r for r in _still(answers) if r.is_case]
    chosen = [by_name[n] for n in names if n in by_name and not by_name[n].is_case]
    service = [r for r in answers.of_service if r not in chosen and not r.is_case]
    results = [*chosen[:12], *cases, *chosen[12:], *service]
    left = len(_still(answers)) - len(results)
    member = {m.name: i for i, m in enumerate(answers.project.members)}
    table, display = answers.envelope, answers.display
    rows: dict[int, list[list[str]]] = {}
    kinds = dict(MEMBER_KINDS)
    columns = {head: table[head].tolist() for head in ("member", "of", "x", "case", *kinds)}
    values = [columns[of][i] for i, of in enumerate(columns["of"])]
    for i in largest_of_each(zip(columns["member"], columns["of"], strict=True), np.abs(values)):
        name, of = columns["member"][i], columns["of"][i]
        factor, unit = display.factor(kinds[of]), display.unit(kinds[of])
        x = f"x = {columns['x'][i] * display.factor('length'):.4g} {display.unit('length')}"
        anchor = answers.why_of.get(("force", name, of), "")
        rows.setdefault(member[name], []).append(
            [of, f"{values[i] * factor:.4g} {unit}", x, columns["case"][i], anchor]
        )
    return [Paragraph(HOW_TO), scene(answers.solution, results, display, rows, left)]


def whys(answers: Answers) -> list[Block]:
    """The derivation of each governing value."""
    out: list[Block] = []
    if answers.not_derived:
        missing = f"{answers.not_derived} governing reactions and forces are not derived here (at most {MOST_WHYS} are)"
        out.append(Paragraph(f"{missing}; `empuje why` derives any."))
    for anchor, found in answers.derived:
        for k, one in enumerate(found):
            words = why_words(one, answers.display)
            rows = tuple(tuple(Cell(text.rstrip()) for text in row) for row in words.rows)
            grid = Grid("", tuple(words.heads), rows, tuple(NUMERIC), " ".join(words.below))
            lines = tuple(line.strip() for line in words.lines[1:])
            out.append(Derivation(anchor if k == 0 else f"{anchor}-{k}", words.lines[0], lines, grid))
    return out or [Paragraph("No governing value was derived.")]
