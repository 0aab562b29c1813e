"""empuje loads MODEL"""

from __future__ import annotations

import argparse

from . import FINE, common


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    common.add_on(command, "members and nodes")
    common.add_under(command, "every case")
    common.add_output(command)
    command.add_argument("--totals", action="store_true", help="only the total of each case and combination")


def run(arguments: argparse.Namespace) -> int:
    from ..core.analysis.assembly import applied_totals
    from ..core.answers.applied import applied_loads, load_totals
    from ..core.answers.surfaces import surface_balance
    from ..show.loads_text import loads_for_eyes
    from ..show.tables import for_eyes

    model = common.read(arguments.model)
    names = model.under(arguments.under)
    project = model.project
    loads = model.loads
    totals = load_totals(project, applied_totals(project, loads, project.xyz.mean(axis=0), project.load_columns), names)
    if arguments.totals:
        common.put(totals, model, arguments)
        return FINE
    cases = [n for n in names if n in project.case_names]
    if not cases:
        raise common.Refusal("--under: loads are listed by case; add --totals for combinations")
    nodes, members = model.nodes_and_members(arguments.on)
    table = applied_loads(project, loads, cases, members, nodes)
    text = loads_for_eyes(table, model.display)
    if not arguments.on:
        text += "\nTotals of all loads\n" + for_eyes(totals, model.display)
        if project.surfaces:
            balance = surface_balance(project, loads, cases)
            text += "\nOn surfaces, and received by members and nodes\n" + for_eyes(balance, model.display)
    common.put(table, model, arguments, text)
    return FINE
