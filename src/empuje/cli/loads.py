"""empuje loads MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import FINE, Refusal, common, flags, levels, outputs, saying

if TYPE_CHECKING:
    from collections.abc import Callable

    from ..core.answers.table import Table
    from ..core.model.results import Results


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "members, nodes and structural surfaces")
    flags.add_under(command, "every case")
    flags.add_output(command)
    command.add_argument("--each", action="store_true", help="every load by itself, also those alike on many members")
    command.add_argument(
        "--by", choices=("case", "family", "member", "level"),
        help="sums instead of single loads, and where they act: x, y of the vertical forces, z of the horizontal ones; "
        "a level has what acts between half the storeys below and above it",
    )  # fmt: skip
    levels.add(command, "--by level")
    command.add_argument(
        "--drawings",
        action="store_true",
        help="in a workbook: with a drawing of the loads of each case on a second sheet",
    )
    command.add_argument(
        "--net", choices=("global", "local"),
        help="the line load that all of them make together, piece by piece along each member, in these axes",
    )  # fmt: skip
    command.add_argument("--steps", action="store_true", help="how each load came about, step by step, below the list")
    command.add_argument("--totals", action="store_true", help="only the total of each case and combination")


def run(arguments: argparse.Namespace) -> int:
    from ..core.actions.totals import applied_totals
    from ..core.answers.applied import applied_loads, derived, load_totals
    from ..core.answers.surfaces import surface_balance
    from ..show.loads_text import loads_for_eyes, steps_for_eyes
    from ..show.tables import for_eyes
    from ..study.meant import parts_meant

    if arguments.drawings and outputs.style_of(arguments) != "xlsx":
        raise Refusal("--drawings goes with a workbook: name one, such as -o loads.xlsx")
    if arguments.levels and arguments.by != "level":
        raise Refusal("--levels goes with --by level")
    model = common.read(arguments)
    results = common.stand(model, model.under(arguments.under))
    resolved, project = model.resolved, model.project
    with common.refusing("--on"):
        nodes, members, surfaces = parts_meant(project, model.study.names, flags.split(arguments.on))

    def put(table: Table, text: Callable[[Table], str] | None = None) -> None:
        drawn = _drawn(model, results, arguments.on) if arguments.drawings else ()
        outputs.put(table, model, arguments, text, drawings=drawn)

    put_on = applied_totals(project, resolved.loads, project.places.mean(axis=0), resolved.load_columns)
    totals = load_totals(resolved, put_on, results)
    if arguments.totals:
        put(totals)
        return FINE
    if arguments.net:
        other = next((o for o in ("by", "each", "steps") if getattr(arguments, o)), None)
        if other:
            raise Refusal(f"--net does not go with --{other}: leave one of them out")
        from ..core.answers.net_lines import net_line_loads

        still = [r for r in results if not r.moving]
        put(net_line_loads(resolved, still, members, arguments.net == "local"))
        saying.say("What acts at points, and what moves, is not in it: `empuje loads MODEL` lists the former.")
        return FINE
    if not any(r.is_case for r in results):
        raise Refusal("--under: loads are listed by case; add --totals for combinations")
    if arguments.by:
        from ..core.answers.load_sums import load_sums

        by_level = levels.levels(model, arguments.levels) if arguments.by == "level" else []
        put(load_sums(resolved, results, members, nodes, surfaces, arguments.by, by_level))
        return FINE
    table = applied_loads(resolved, results, members, nodes, surfaces)
    lengths = dict(zip((m.name for m in project.members), project.lengths.tolist(), strict=True))

    def seen(shown: Table) -> str:
        text = loads_for_eyes(shown, model.display, lengths, arguments.each)
        if arguments.steps:
            text += "\n" + steps_for_eyes(derived(resolved, results, members, nodes, surfaces), model.display)
        if not arguments.on:
            text += "\nTotals of all loads\n" + for_eyes(totals, model.display)
            if project.surfaces:
                balance = surface_balance(resolved, results)
                text += "\nOn surfaces, and received by members and nodes\n" + for_eyes(balance, model.display)
        return text

    put(table, seen)
    return FINE


def _drawn(model: common.Model, results: Results, on: list[str]) -> list[tuple[str, bytes]]:
    """A picture of the loads of each result, with its name."""
    from ..show.drawings.draw_loads import draw_loads
    from ..show.drawings.paper import Drawing
    from ..show.drawings.view import View
    from ..show.workbook import MOST_DRAWINGS

    notional = {c.name for c in model.project.cases if c.notional}
    still = [r for r in results if not r.moving and not any(f and name in notional for name, f in r.factors)]
    if len(still) > MOST_DRAWINGS:
        raise Refusal(f"--drawings: a workbook holds {MOST_DRAWINGS}, and there are {len(still)} results: name some "
                      "with --under")  # fmt: skip
    view, members = View.usual(model.project.plane), model.members(on)
    out = []
    for r in still:
        sheet = draw_loads(model.resolved, r, members, view, model.display)
        out.append((r.name, Drawing((sheet,)).png()))
    return out
