"""empuje why MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..core.model.words import Sense
from . import Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.why import Target


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument("--on", required=True, metavar="NAME", help="one member, or one node")
    command.add_argument(
        "--of", required=True, metavar="VALUE",
        help="N Vy Vz T My Mz of a member; Fx Fy Fz Mx My Mz of a support; ux uy uz rx ry rz of a node",
    )  # fmt: skip
    flags.add_under(command, "every combination; every case where there are none")
    command.add_argument("--at", metavar="POSITION", help="a place along the member (default: where it is largest)")
    command.add_argument(
        "--sense", choices=[str(word) for word in Sense], default="largest",
        help="which extreme: largest in magnitude (default), greatest or least",
    )  # fmt: skip
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.patterns import TooMany
    from ..core.answers.why import why, why_table
    from ..show.why_text import why_for_eyes
    from .forces import positions

    model = common.read(arguments)
    results = model.under_combinations(arguments.under)
    project = model.project
    target = _target(model, arguments.on, arguments.of)
    x = None
    if arguments.at is not None:
        if target.what != "force":
            raise Refusal("--at is about members")
        x = positions(arguments.at, project.units)[0].on(project.lengths[target.index])
        if not -1e-9 <= x <= project.lengths[target.index] + 1e-9:
            raise Refusal(f"--at {arguments.at}: the member is {project.lengths[target.index]:.4g} m long")
    moving = any(r.moving for r in results)
    try:
        results = common.refusing_mechanisms(
            model.study, lambda: model.study.worst_stood(results, target, Sense(arguments.sense), x)
        )
    except LookupError as error:
        raise Refusal(f"--on: {error.args[0]}") from None
    solution = common.refusing_mechanisms(model.study, lambda: model.study.solution(results))
    prepared = common.refusing_mechanisms(model.study, lambda: model.study.prepared_as(solution))
    results = common.standing(model, solution, results)
    try:
        found = why(prepared, solution, results, target, Sense(arguments.sense), x)
    except TooMany as error:
        raise Refusal(f"--under: {error}: too many to try one by one; name a pattern of it") from None
    except LookupError as error:
        raise Refusal(f"--on: {error.args[0]}") from None
    if moving:
        saying.say("note: of all results with moving cases the worst in its worst position; others that do not move "
                   "are compared with it")  # fmt: skip
    outputs.put(why_table(found, model.display.said), model, arguments, why_for_eyes(found, model.display))
    return model.verdict


def _target(model: common.Model, on: str, of: str) -> Target:
    from ..core.answers.why import target_of

    nodes, members = model.nodes_and_members([on])
    if len(nodes) + len(members) != 1:
        raise Refusal(f"--on {on} is {len(nodes) + len(members)} things; name one member or one node")
    try:
        return target_of(int([*members, *nodes][0]), len(members) > 0, of)
    except LookupError as error:
        raise Refusal(f"--of: {error.args[0]}") from None
