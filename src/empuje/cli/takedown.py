"""empuje takedown MODEL"""

from __future__ import annotations

import argparse

from . import FINE, Refusal, common, flags, outputs, saying


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "columns, or with --factors any members")
    flags.add_output(command)
    command.add_argument("--factors", action="store_true", help="the factors on members' live loads, and their steps")


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.take_down import AREA, reduction_table, take_down_table, taken_down

    model = common.read(arguments)
    project, resolved = model.project, model.resolved
    members = model.members(arguments.on)
    if arguments.factors:
        if not resolved.reduction.cases:
            raise Refusal('live loads are not reduced: add [reduction] with code = "ASCE 7-22" or "EN 1991-1-1"')
        outputs.put(reduction_table(resolved, members, model.display.said), model, arguments)
        return FINE
    prepared = common.prepare(model)
    path = taken_down(resolved)
    if not path.columns:
        raise Refusal("the model has no columns")
    outputs.put(take_down_table(prepared.solution, path, members), model, arguments)
    saying.say(
        "By hand's rules: beams as simple beams between what they rest on, columns to their foot. `below` is all that "
        "the column carries below that level, at its foot with its own loads; R are the analysed reactions."
    )
    unit = model.display.unit("force")
    for member, amount in path.astray.items():
        where = project.members[member].name if member >= 0 else "nodes"
        said = (amount[:AREA] * model.display.factor("force")).tolist()
        if any(abs(v) > 1e-6 for v in said):
            saying.say(
                f"note: dead {said[0]:.4g} {unit}, live {said[1]:.4g} {unit} on {where} find no column or support"
            )
    return FINE
