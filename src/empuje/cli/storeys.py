"""empuje storeys MODEL"""

from __future__ import annotations

import argparse

from . import FINE, common


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    common.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.actions import plain_loads
    from ..core.analysis.equations import build_equations
    from ..core.answers.storeys import storey_table, storeys

    model = common.read(arguments.model)
    if not model.project.diaphragms:
        raise common.Refusal('the model has no rigid floors: add [diaphragms] with FLOOR = { nodes = "*@LEVEL" }')
    loads, _ = plain_loads(model.project)
    with common.refusing_mechanisms(model):
        found = storeys(build_equations(model.project), loads)
    common.put(storey_table(found), model, arguments)
    if not model.project.mass:
        common.say('no centre of mass: say which loads are masses, in [project] mass = "SW + G + 0.3 Q"')
    common.say(
        "Each floor is pushed alone at its centre of rigidity, where a force does not turn it; stiffness is that force "
        "over the drift against the floor below. e: centre of mass less centre of rigidity."
    )
    return FINE
