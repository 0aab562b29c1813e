"""empuje reactions MODEL"""

from __future__ import annotations

import argparse

from . import FINE, common


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    common.add_on(command, "supported nodes")
    common.add_under(command)
    common.add_output(command)
    command.add_argument("--balance", action="store_true", help="only the sums: applied, reactions, difference")


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.reactions import balance, reactions
    from ..show.reactions_text import balance_note, reactions_for_eyes

    model = common.read(arguments.model)
    names = model.under(arguments.under)
    nodes = model.nodes(arguments.on) if arguments.on else None
    solution, names = common.solve(model, names)
    sums = balance(solution, names)
    if arguments.balance:
        common.put(sums, model, arguments)
        common.say(balance_note(solution, model.display))
        return FINE
    table = reactions(solution, names, nodes)
    if not len(table):
        raise common.Refusal(f"--on: none of {', '.join(arguments.on)} is a support")
    whole = nodes is None
    common.put(table, model, arguments, reactions_for_eyes(solution, table, sums if whole else None, model.display))
    return FINE
