"""empuje storeys MODEL"""

from __future__ import annotations

import argparse

from . import Refusal, common, flags, levels, outputs, saying


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument(
        "--under", action="append", default=[], metavar="NAME",
        help="shear, overturning moment, drift and torsional ratio of each storey under cases, combinations or sets",
    )  # fmt: skip
    levels.add(command, "--under")
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    model = common.read(arguments)
    if arguments.under:
        return _cuts(model, arguments)
    if arguments.levels:
        raise Refusal("--levels goes with --under")
    return _floors(model, arguments)


def _cuts(model: common.Model, arguments: argparse.Namespace) -> int:
    from ..core.answers.storey_cuts import storey_cut_table

    storeys = levels.levels(model, arguments.levels)
    solution, results = common.solve(model, model.under(arguments.under, mixes=True))
    outputs.put(storey_cut_table(solution, results, storeys), model, arguments)
    saying.say(
        "V and M: what passes through a cut at the storey's foot, M about the middle of the supports. Drift: the "
        "largest of any plumb line with a node at both levels; torsion: over the average of the two edges."
    )
    return model.verdict


def _floors(model: common.Model, arguments: argparse.Namespace) -> int:
    from ..core.answers.storeys import storey_table, storeys

    if not model.project.diaphragms:
        raise Refusal(
            'the model has no rigid floors: add [diaphragms] with FLOOR = { nodes = "*@LEVEL" }, or ask for shears and '
            "drifts with --under"
        )
    found = storeys(common.prepare(model).equations, model.resolved.loads)
    outputs.put(storey_table(found), model, arguments)
    if not model.project.mass:
        saying.say('no centre of mass: say which loads are masses, in [project] mass = "SW + G + 0.3 Q"')
    saying.say(
        "Each floor is pushed alone at its centre of rigidity, where a force does not turn it; stiffness is that force "
        "over the drift against the floor below. e: centre of mass less centre of rigidity."
    )
    return model.verdict
