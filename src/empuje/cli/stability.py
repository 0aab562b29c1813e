"""empuje stability MODEL"""

from __future__ import annotations

import argparse

from . import NOT_MET, Refusal, common, flags, outputs, saying

OF_SURFACES = "Of surfaces it is up to 1 % too high by the usual mesh. "


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_under(command, "every combination; every case where there are none")
    command.add_argument(
        "--shapes", type=int, default=1, metavar="N", help="critical factors of the N lowest shapes (default 1)"
    )
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.patterns import TooMany
    from ..core.answers.stability import ENOUGH, MOST_GROWTH, stability_table

    flags.refuse_shapes(arguments.shapes, "--shapes")
    model = common.read(arguments)
    results = common.stand(model, model.under_combinations(arguments.under, mixes=True))
    prepared = common.prepare(model)
    standing = common.standing(model, prepared.solution, results)
    try:
        standing = model.study.with_worst_patterns(standing)
        prepared = common.prepare(model)
        found = common.watched(model.study, lambda: model.study.stability(standing, arguments.shapes))
    except TooMany as error:
        raise Refusal(f"--under: {error}: too many to look at one by one; name a pattern of it") from None
    outputs.put(stability_table(found, prepared.solution), model, arguments)
    saying.say(
        f"alpha_cr: what the axial forces of first order may grow by until the frame, a member or "
        f"a structural surface buckles. {OF_SURFACES if model.project.plates is not None else ''}"
        f"Second order is needed below {ENOUGH:g} (EN 1993-1-1, 5.2.1), or where it makes the drift grow more than "
        f"{MOST_GROWTH:g} times (AISC 360). `empuje draw MODEL buckled` shows how it buckles."
    )
    return NOT_MET if (found.factors[:, 0] <= found.at).any() else model.verdict
