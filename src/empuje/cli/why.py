"""empuje why MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import common

if TYPE_CHECKING:
    from ..core.answers.why import Target


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    command.add_argument("--on", required=True, metavar="NAME", help="one member, or one node")
    command.add_argument(
        "--of", required=True, metavar="VALUE",
        help="N Vy Vz T My Mz of a member; Fx Fy Fz Mx My Mz of a support; ux uy uz rx ry rz of a node",
    )  # fmt: skip
    common.add_under(command, "every combination; every case where there are none")
    command.add_argument("--at", metavar="POSITION", help="a place along the member (default: where it is largest)")
    command.add_argument(
        "--sense", choices=("largest", "max", "min"), default="largest",
        help="which extreme: largest in magnitude (default), greatest or least",
    )  # fmt: skip
    common.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.analysis.solve import cut, with_second_order
    from ..core.answers.patterns import TooMany
    from ..core.answers.why import why, why_table
    from ..show.why_text import why_for_eyes
    from .forces import positions

    model = common.read(arguments.model)
    names = model.under_combinations(arguments.under)
    project = model.project
    target = _target(model, arguments.on, arguments.of)
    x = None
    if arguments.at is not None:
        if target.what != "force":
            raise common.Refusal("--at is about members")
        x = positions(arguments.at, project.units)[0].on(project.lengths[target.index])
        if not -1e-9 <= x <= project.lengths[target.index] + 1e-9:
            raise common.Refusal(f"--at {arguments.at}: the member is {project.lengths[target.index]:.4g} m long")
    prepared = common.prepare(model)
    bent = {c.name for c in project.combinations if project.is_second_order(c)}
    asked = [n for n in names if n in bent and n not in prepared.solution.failed]
    prepared = cut(prepared, asked)
    solution = with_second_order(prepared, asked)
    names = common.standing(model, solution, names)
    try:
        found = why(prepared, solution, names, target, arguments.sense, x)
    except TooMany as error:
        raise common.Refusal(f"--under: {error}: too many to try one by one; name a pattern of it") from None
    except LookupError as error:
        raise common.Refusal(f"--on: {error.args[0]}") from None
    common.put(why_table(found, model.display.said), model, arguments, why_for_eyes(found, model.display))
    return model.verdict


def _target(model: common.Model, on: str, of: str) -> Target:
    from ..core.answers.why import COMPONENTS, Target
    from ..core.model.findings import did_you_mean

    nodes, members = model.nodes_and_members([on])
    if len(nodes) + len(members) != 1:
        raise common.Refusal(f"--on {on} is {len(nodes) + len(members)} things; name one member or one node")
    kinds = ("force",) if len(members) else ("reaction", "displacement")
    for what in kinds:
        if of in COMPONENTS[what]:
            index = int(members[0]) if len(members) else int(nodes[0])
            return Target(what, index, list(COMPONENTS[what]).index(of))
    known = [name for what in kinds for name in COMPONENTS[what]]
    raise common.Refusal(f"--of: {'a member' if len(members) else 'a node'} has no {of}; {did_you_mean(of, known)}")
