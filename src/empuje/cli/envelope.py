"""empuje envelope MODEL"""

from __future__ import annotations

import argparse

from . import FINE, common


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    common.add_on(command, "members")
    common.add_under(command, "every combination; every case where there are none")
    common.add_of(command, "N, Vy, Vz, T, My, Mz")
    common.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.analysis.pieces import FORCES
    from ..core.answers.envelope import envelope

    model = common.read(arguments.model)
    of = common.components(arguments.of, FORCES)
    names, members = model.under_combinations(arguments.under), model.members(arguments.on)
    solution, names = common.solve(model, names)
    table = envelope(solution, names, members, of)
    common.put(table, model, arguments)
    for reason in common.why_not_summed(solution, names):
        common.say(reason)
    common.say(f"over {len(names)} results: {', '.join(names)}" if len(names) <= 12 else f"over {len(names)} results")
    return FINE
