"""empuje displacements MODEL"""

from __future__ import annotations

import argparse

from ..core.model.words import Reference
from . import Refusal, common, flags, outputs, sums
from .forces import QUARTERS, add_at, told_off
from .places import positions


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "nodes (by default all), or members to be followed along")
    flags.add_under(command)
    add_at(command)
    command.add_argument(
        "--against", choices=[str(word) for word in Reference],
        help="deflections in member axes: against the chord of each bay between places that hold the member, the line "
        "between the whole member's ends, or one end",
    )  # fmt: skip
    flags.add_of(command, "with --envelope: ux, uy, uz, rx, ry, rz")
    command.add_argument(
        "--envelope", action="store_true", help="minimum and maximum displacements of nodes, under what"
    )
    command.add_argument(
        "--largest",
        action="store_true",
        help="with --against: only where each bay deflects most across the member's axis",
    )
    sums.add(command)
    flags.add_each(command, "where each node moves most")
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    import numpy as np

    from ..core.answers.along import member_displacements, node_displacements
    from ..core.answers.deflection import deflections, largest_deflections
    from ..core.answers.foundations import MOTIONS, displacement_envelope
    from ..core.answers.governing import furthest_nodes

    model = common.read(arguments)
    results = model.under_combinations(arguments.under) if arguments.envelope else model.under(arguments.under)
    if not model.project.nodes:
        raise Refusal("the model has no nodes; `empuje plates --of w` tells how its surfaces move")
    nodes, members = model.nodes_and_members(arguments.on)
    if arguments.on and len(members) and len(nodes):
        raise Refusal("--on: name nodes or members, not both")
    along = bool(arguments.on) and len(members) > 0
    if (arguments.against or arguments.largest) and not along:
        raise Refusal("--against and --largest are about members: name some with --on")
    if arguments.envelope and along:
        raise Refusal("--envelope is about nodes: name nodes with --on")
    sums.refuse(arguments, "envelope", "against", "largest")
    if arguments.of and not arguments.envelope:
        raise Refusal("--of goes with --envelope")
    of = flags.components(arguments.of, MOTIONS)
    if arguments.largest and not arguments.against:
        raise Refusal("--largest needs --against chord, whole, start or end")
    at = positions(arguments.at or QUARTERS, model.project.units) if along else []
    if along and not arguments.largest:
        told_off(at, model, members)
    places = model.study.places_along(members, at) if along else None
    if arguments.largest:
        places = common.refusing_mechanisms(model.study, lambda: model.study.furthest(results, members))
    solution, results = common.solve(
        model,
        results,
        arguments.envelope,
        over_positions=arguments.envelope,
        along=places,
    )
    if arguments.summed:
        both, pairs = sums.paired(solution, results)
        if along:
            table = member_displacements(both, pairs, members, at, arguments.breaks)
        else:
            table = node_displacements(both, pairs, nodes[~both.undefined[nodes].all(axis=1)])
        sums.put(table, model, arguments, "member" if along else "node", "member" if along else None)
        return model.verdict
    if arguments.largest:
        table = largest_deflections(solution, results, members, Reference(arguments.against))
    elif arguments.against:
        table = deflections(solution, results, members, Reference(arguments.against), at, arguments.breaks)
    elif along:
        table = member_displacements(solution, results, members, at, arguments.breaks)
    else:
        moving = nodes[~solution.undefined[nodes].all(axis=1)] if len(nodes) else np.zeros(0, np.intp)
        if arguments.envelope:
            table = displacement_envelope(solution, results, moving, of)
        elif flags.each_of(arguments, results):
            table = node_displacements(solution, results, moving)
        else:
            table = furthest_nodes(solution, [r for r in results if not r.is_case] or results, moving)
    outputs.put(table, model, arguments)
    return model.verdict
