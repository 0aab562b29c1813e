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
    command.add_argument(
        "--torsion", action="store_true",
        help="rigid floors under seismic cases with accidental torsion: drifts at their edges, what they are amplified "
        "by (A_x), and whether the storey is irregular",
    )  # fmt: skip
    levels.add(command, "--under")
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    model = common.read(arguments)
    if arguments.torsion:
        return _torsion(model, arguments)
    if arguments.under:
        return _cuts(model, arguments)
    if arguments.levels and (model.project.diaphragms or not model.project.mass):
        raise Refusal("--levels goes with --under, or with weights where no floor is rigid")
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


def _weights(model: common.Model, arguments: argparse.Namespace) -> int:
    """Of levels, where no floor is rigid."""
    from ..core.answers.storeys import level_weights

    resolved = model.resolved
    outputs.put(
        level_weights(resolved.project, resolved.loads, levels.levels(model, arguments.levels)), model, arguments
    )
    saying.say("No floor is rigid: what is between half the storeys below and above each level, by [project] mass.")
    return model.verdict


def _torsion(model: common.Model, arguments: argparse.Namespace) -> int:
    from ..core.answers.storey_torsion import torsion_table, turned

    if arguments.under or arguments.levels:
        raise Refusal("--torsion is about all seismic cases: leave --under and --levels out")
    if not any(c.torsion_of for c in model.project.cases):
        raise Refusal("no case has accidental torsion: state accidental_torsion = 0.05 in seismic cases")
    outputs.put(torsion_table(turned(model.resolved, common.prepare(model).equations)), model, arguments)
    saying.say(
        "A_x: (u max over 1.2 times the average) squared, 1 to 3 (ASCE 7, 12.8.4.3), from displacements with A_x = 1. "
        "Drift ratio above 1.2: torsionally irregular, above 1.4: extreme (ASCE 7, table 12.3-1). Strengths on one "
        "side of the centre of mass, which ASCE 7-22 asks about as well, are not looked at."
    )
    return model.verdict


def _floors(model: common.Model, arguments: argparse.Namespace) -> int:
    from ..core.answers.storeys import slab_floors, storey_table, storeys

    slabs = slab_floors(model.resolved.analysed)
    if not model.project.diaphragms and not slabs:
        if model.project.mass:
            return _weights(model, arguments)
        raise Refusal(
            'the model has no rigid floors and no slabs: add [diaphragms] with FLOOR = { nodes = "*@LEVEL" }, ask for '
            "shears and drifts with --under, or say which loads are masses for the weights of levels, in [project] "
            'mass = "SW + G"'
        )
    found = storeys(common.prepare(model).equations, model.resolved.loads)
    outputs.put(storey_table(found), model, arguments)
    if not model.project.mass:
        saying.say('no centre of mass: say which loads are masses, in [project] mass = "SW + G + 0.3 Q"')
    saying.say(
        "Each floor is pushed alone at its centre of rigidity, where a force does not turn it; stiffness is that force "
        "over the drift against the floor below. e: centre of mass less centre of rigidity."
        + (" Slabs are not rigid: forces lie on them evenly, and drifts are means over their areas."
           if slabs else "")
    )  # fmt: skip
    return model.verdict
