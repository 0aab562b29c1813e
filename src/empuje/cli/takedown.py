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
    from ..core.answers.take_down import reduction_table, take_down_table
    from ..core.load_path.taken import LOADS, astray, taken_down

    model = common.read(arguments)
    resolved = model.resolved
    members = model.members(arguments.on)
    if arguments.factors:
        if not resolved.reduction.cases:
            raise Refusal('live loads are not reduced: add [reduction] with code = "ASCE 7-22" or "EN 1991-1-1"')
        outputs.put(reduction_table(resolved, members, model.display.said), model, arguments)
        return FINE
    if model.project.plates is not None:
        raise Refusal("a take-down is by hand's rules, and the model has structural surfaces: see reactions and forces")
    prepared = common.prepare(model)
    taken = taken_down(resolved)
    if not taken.path.columns:
        raise Refusal("the model has no columns")
    table = take_down_table(prepared.solution, taken, members)
    # For eyes what columns carry below each level; what comes in there is in files, and stands in the level above it.
    here = [a for a in ("dead", *LOADS) if a in taken.units or a == "dead"] if len(taken.units) > 1 else []
    outputs.put(table, model, arguments, unseen=here)
    saying.say(
        "By hand's rules: beams as simple beams between what they rest on, columns to their foot. `below` is all that "
        "the column carries below that level, at its foot with its own loads; R are the analysed reactions."
    )
    for finding in astray(resolved, taken):
        saying.say(str(finding))
    return FINE
