"""empuje combos MODEL"""

from __future__ import annotations

import argparse

from . import FINE, Refusal, common, flags, outputs, saying


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_under(command, "every combination")
    flags.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.combos import combos, factor_head

    model = common.read(arguments)
    if not model.resolved.combinations:
        raise Refusal('the model has no combinations: add [combinations] with rules = ["ASCE 7-22 strength"]')
    results = model.under(arguments.under, ["combinations"])
    table = combos(model.project, results)
    if not len(table):
        raise Refusal("--under: these are cases; name combinations or sets of them")
    # For eyes the formula says it all; elsewhere each case's factor is a column of its own.
    outputs.put(table, model, arguments, unseen=[factor_head(c) for c in model.project.case_names])
    for words in model.resolved.told:
        saying.say(words)
    return FINE
