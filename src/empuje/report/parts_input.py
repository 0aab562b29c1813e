"""The parts of a report about what was put in: basis, frame, cases, where loads come from, combinations."""

from __future__ import annotations

import numpy as np

from ..core.answers.combos import TAKEN, combos
from ..core.answers.inventory import section_list
from ..core.answers.load_sums import load_sums
from ..core.answers.snow import snow_sheet
from ..core.answers.surfaces import surface_balance
from ..core.answers.table import Column, Table
from ..core.answers.take_down import reduction_table
from ..core.answers.traffic import traffic_table
from ..core.answers.wind import sheet_of
from ..core.model.decisions import by_kind
from ..core.model.findings import listed
from ..core.model.frame import FREEDOMS
from ..core.model.project import GRAVITY
from ..core.model.words import Label, SnowPart, WindPart
from ..show.blocks import Block, Paragraph, Picture, grid_of, plain_grid
from ..show.drawings.canvas import Sheet
from ..show.drawings.draw_frame import draw_frame
from ..show.drawings.draw_pressures import draw_pressures
from ..show.drawings.draw_solid import draw_solid
from ..show.drawings.labels import write_labels
from ..show.drawings.paper import Drawing
from ..show.drawings.symbols import MEANING, kinds_of_supports
from ..show.drawings.view import View
from ..show.summary import explained
from ..study.decisions import decisions
from .answers import Answers

WIND_TITLES = {
    WindPart.FOUND: "Wind: what is stated and found", WindPart.HEIGHTS: "Wind: velocity pressure by height",
    WindPart.COEFFICIENTS: "Wind: coefficients", WindPart.ZONES: "Wind: zones and pressures",
    WindPart.UNCLAD: "Wind: unclad members", WindPart.TOTALS: "Wind: totals",
    WindPart.COMPONENTS: "Wind: components", WindPart.SUMS: "Wind: sums by building, family and level",
}  # fmt: skip
SNOW_TITLES = {
    SnowPart.FOUND: "Snow: what is stated and found", SnowPart.ROOFS: "Snow: roofs, from the ground load on",
    SnowPart.DRIFTS: "Snow: drifts, and what slid", SnowPart.ARRANGEMENTS: "Snow: arrangements",
    SnowPart.TOTALS: "Snow: totals",
}  # fmt: skip
IN_REPORT = (9.6, 6.0)
"""Of drawings [in], so that their words can be read on paper."""
UPRIGHT = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
"""The axes of supports that are not turned."""
MOST_ROWS = 60
"""Of tables that grow with the model so many rows are in the report."""


def basis(answers: Answers) -> list[Block]:
    """Codes, units, kind of analysis, choices taken; materials and sections."""
    project, display = answers.project, answers.display
    rows = [["units of numbers without one", " ".join(project.units)], ["units shown", " ".join(project.display)]]
    if project.combining.sets:
        rows.append(["combinations", ", ".join(dict.fromkeys(s.name for s in project.combining.sets))])
    if project.wind is not None:
        rows.append(["wind", str(project.wind.code)])
    if project.snow is not None:
        rows.append(["snow", str(project.snow.code)])
    if project.reduction is not None:
        rows.append(["reduction of live loads", str(project.reduction.code)])
    if project.steel is not None:
        rows.append(["resistance of steel members", str(project.steel.code)])
    second = " ".join(project.second_order).replace("*", "all") or "none"
    rows.append(["second order", f"combinations of {second}" if second != "none" else "no combination"])
    rows.append(["standard acceleration of free fall", f"{GRAVITY} m/s2"])
    out: list[Block] = [plain_grid("Codes, units, kind of analysis", ["what", "as taken"], rows, [False, False])]
    results = answers.job.results
    how = explained((h, r.second_order_at) for r, h in zip(results, answers.solution.how(results), strict=True))
    out += [Paragraph(words) for words in how]
    choices = dict.fromkeys(
        (s.name, name, f"{value:g}") for s in project.combining.sets for name, value in s.values.items()
    )
    if choices:
        rows = [list(row) for row in choices]
        out.append(
            plain_grid(
                "Choices taken in the codes' combinations", ["rules", "symbol", "value"], rows, [False, False, True]
            )
        )
    out += _decided(answers)
    materials = list({m.material.name: m.material for m in project.members}.values())
    out.append(grid_of(Table("materials", (
        Column("material", "text", [m.name for m in materials]),
        Column("E", "stress", np.array([m.E for m in materials])),
        Column("G", "stress", np.array([m.G for m in materials])),
        Column("density kg/m3", "number", np.array([m.density for m in materials])),
        Column("expansion 1e-6/K", "number", np.array([1e6 * m.expansion for m in materials])),
    )), display, "Materials"))  # fmt: skip
    out.append(grid_of(section_list(project), display, "Sections, about their own axes: y is the major axis of an I"))
    return out


def _decided(answers: Answers) -> list[Block]:
    """What the program took by itself, each kind once, the weightiest first."""
    kinds = by_kind(decisions(answers.study))
    if not kinds:
        return []
    rows = []
    for (side, what), own in kinds.items():
        taken = listed(tuple(dict.fromkeys(d.taken for d in own)), 4)
        keys = ", ".join(dict.fromkeys(d.key for d in own))
        rows.append([side, what, taken, own[0].why if len(own) == 1 else "", keys])
    head = ["side", "decided", "taken", "why", "stated by"]
    return [plain_grid("Decided by the program, where the model says nothing", head, rows, [False] * 5)]


def frame(answers: Answers) -> list[Block]:
    """The frame drawn as lines and as solids; its families and supports."""
    project, display = answers.project, answers.display
    view = View.usual(project.plane)
    every = np.arange(len(project.members))
    lines = draw_frame(project, every, view)
    write_labels(lines, [Label.FAMILIES])
    out: list[Block] = [picture(lines, "The frame with its families, supports and hinges")]
    out.append(picture(draw_solid(project, every, view), "Sections to scale along the members"))
    families = list(dict.fromkeys(m.family for m in project.members))
    of = {f: [i for i, m in enumerate(project.members) if m.family == f] for f in families}

    def shared(family: str, words: list[str]) -> str:
        found = dict.fromkeys(words[i] for i in of[family])
        return ", ".join(list(found)[:4]) + (", ..." if len(found) > 4 else "")

    sections = [m.section.name for m in project.members]
    materials = [m.material.name for m in project.members]
    acts = [
        "bar, " * m.bar + {"both": "tension and compression"}.get(str(m.acts), f"{m.acts} only")
        for m in project.members
    ]
    out.append(grid_of(Table("families", (
        Column("family", "text", families), Column("section", "text", [shared(f, sections) for f in families]),
        Column("material", "text", [shared(f, materials) for f in families]),
        Column("acts", "text", [shared(f, acts) for f in families]),
        Column("members", "count", np.array([len(of[f]) for f in families], float)),
        Column("length", "length", np.array([project.lengths[of[f]].sum() for f in families])),
        Column("weight", "force", np.array([project.masses[of[f]].sum() * GRAVITY for f in families])),
    )), display, "Families"))  # fmt: skip
    kinds = kinds_of_supports(project)
    rows = []
    for node, symbols in kinds.items():
        own = [s for s in project.supports if s.node == node]
        held = " ".join(f for k, f in enumerate(FREEDOMS) if any(s.held[k] for s in own))
        held += " (in axes of its own)" if any(s.axes != UPRIGHT for s in own) else ""
        springs = ", ".join(
            f"{f} {s.spring[k] * display.factor(kind):.4g} {display.unit(kind)}" for s in own
            for k, f in enumerate(FREEDOMS) for kind in ["spring" if k < 3 else "turning spring"] if s.spring[k]
        )  # fmt: skip
        rows.append([project.nodes[node].name, ", ".join(MEANING[k] for k in symbols), held, springs])
    out.append(plain_grid("Supports", ["node", "kind", "held", "springs"], rows[:MOST_ROWS], [False] * 4,
                          f"{MOST_ROWS} of {len(rows)} supports" if len(rows) > MOST_ROWS else ""))  # fmt: skip
    return out


def picture(sheet: Sheet, caption: str) -> Picture:
    """A sheet as a picture; what it says in words besides."""
    words = "; ".join([sheet.title, sheet.note, *(text for text, _ in sheet.foot)])
    return Picture(Drawing((sheet,)).svg(IN_REPORT), caption, words)


def cases(answers: Answers) -> list[Block]:
    """The cases with their totals, and drawings of those with loads."""
    project, display = answers.project, answers.display
    model = answers.model
    shown = [r for r, c in zip(model.cases, project.cases, strict=True) if not c.stands]
    own = [c for c in project.cases if not c.stands]
    every, nodes = np.arange(len(project.members)), np.arange(len(project.nodes))
    sums = load_sums(model, shown, every, nodes, np.arange(len(model.project.surfaces)), "case")
    at = {name: i for i, name in enumerate(sums["case"].tolist())}
    totals = {f: np.array([sums[f][at[r.name]] if r.name in at else np.nan for r in shown]) for f in ("Fx", "Fy", "Fz")}
    note = "Without notional loads, which depend on the combination, and without traffic, which has no fixed position."
    out: list[Block] = [grid_of(Table("cases", (
        Column("case", "text", [c.name for c in own]), Column("action", "text", [c.action for c in own]),
        Column("title", "text", [c.title for c in own]),
        Column("what more", "text", [_more(c.self_weight, c.notional, c.moves) for c in own]),
        *(Column(f, "force", v) for f, v in totals.items()),
    )), display, "Cases, and the sums of their loads in global axes", note)]  # fmt: skip
    for name, sheet in answers.pictures:
        if name.startswith("loads-"):
            out.append(picture(sheet, f"{sheet.what}: {sheet.note or 'as members receive them'}"))
    return out


def _more(self_weight: float, notional: float, moves: bool) -> str:
    words = [f"{self_weight:g} times self-weight"] if self_weight else []
    words += [f"{notional:g} of the vertical loads of each combination"] if notional else []
    return ", ".join(words + (["moves"] if moves else []))


def derivations(answers: Answers) -> list[Block]:
    """Surfaces, wind, live-load reduction, traffic: what was derived, and from what."""
    model, project, display = answers.model, answers.project, answers.display
    out: list[Block] = []
    cases = [r for r, c in zip(model.cases, project.cases, strict=True) if not c.stands]
    if project.surfaces:
        table = surface_balance(model, cases)
        if len(table):
            out.append(grid_of(table, display, "Surfaces: what was put on and what members received", most=MOST_ROWS))
    if model.wind is not None:
        for part in WindPart:
            table = sheet_of(part, model.wind, project, [r.name for r in cases], display.value)
            if len(table):
                out.append(grid_of(table, display, WIND_TITLES[part], most=MOST_ROWS))
        first = next((r for r in cases if r.name in model.wind.first_cases and model.surface_loads([r.name])), None)
        if first is not None:
            view = View.usual(project.plane)
            sheet = draw_pressures(model, first, np.arange(len(project.members)), view, display, True)
            out.append(picture(sheet, f"Pressures of {first.name}"))
    if model.snow is not None:
        for of_snow in SnowPart:
            table = snow_sheet(of_snow, model.snow, project, [r.name for r in cases], display.value)
            if len(table):
                out.append(grid_of(table, display, SNOW_TITLES[of_snow], most=MOST_ROWS))
    if model.reduction.each:
        members = np.unique([one.member for one in model.reduction.each])
        table = reduction_table(model, members, display.said)
        out.append(grid_of(table, display, "Reduction of live loads by member", most=MOST_ROWS))
    if model.laid:
        out.append(grid_of(traffic_table(answers.study.movers), display, "Moving loads"))
        out += [Paragraph(f"{words}.") for words in answers.notes]
    if not out:
        out.append(
            Paragraph("All loads are as written in the model: none is derived from surfaces, wind, snow or traffic.")
        )
    return out


def combinations(answers: Answers) -> list[Block]:
    """Every combination with its clause."""
    out: list[Block] = [Paragraph(f"{words}.") for words in answers.model.told]
    made = [r for r in answers.job.asked if not r.is_case]
    placed = {s.case for s in answers.project.standings}
    table = combos(answers.project, [r for r in made if not placed & {c for c, _ in r.factors}] or made)
    table = table.without([c.name for c in table.columns if c.name not in TAKEN])
    if not len(table):
        return [*out, Paragraph("The model has no combinations: every case is a result by itself.")]
    if placed:
        out.append(Paragraph("Combinations with traffic have many positions; they are not listed one by one."))
    return [*out, grid_of(table, answers.display, f"{len(table)} combinations")]
