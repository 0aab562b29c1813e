"""empuje displacements MODEL"""

from __future__ import annotations

import argparse

from . import FINE, common
from .forces import add_at, positions, told_off


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    common.add_on(command, "nodes (by default all), or members to be followed along")
    common.add_under(command)
    add_at(command)
    common.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    import numpy as np

    from ..core.answers.along import member_displacements, node_displacements

    model = common.read(arguments.model)
    names = model.under(arguments.under)
    nodes, members = model.nodes_and_members(arguments.on)
    if arguments.on and len(members) and len(nodes):
        raise common.Refusal("--on: name nodes or members, not both")
    along = bool(arguments.on) and len(members) > 0
    at = positions(arguments.at, model.project.units) if along else []
    if along:
        told_off(at, model, members)
    solution, names = common.solve(model, names)
    if along:
        table = member_displacements(solution, names, members, at, arguments.breaks)
    else:
        moving = nodes[~solution.undefined[nodes].all(axis=1)] if len(nodes) else np.zeros(0, np.intp)
        table = node_displacements(solution, names, moving)
    common.put(table, model, arguments)
    return FINE
