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
    from ..core.resolve.load_path import astray, taken_down

    model = common.read(arguments)
    resolved = model.resolved
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
    for finding in astray(resolved, path):
        saying.say(str(finding))
    return FINE
