"""empuje forces MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import Refusal, common, flags, outputs, saying, sums
from .places import positions

if TYPE_CHECKING:
    import numpy as np

    from ..core.model.loads import Position


QUARTERS = "0%,25%,50%,75%,100%"


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "members")
    flags.add_under(command)
    flags.add_of(command, "N, Vy, Vz, T, My, Mz")
    add_at(command)
    command.add_argument(
        "--chart", nargs="?", const="My", metavar="FORCE",
        help="a small chart of N, Vy, Vz, T, My (default) or Mz along one member under one result",
    )  # fmt: skip
    sums.add(command)
    flags.add_each(command, "the largest of each member and force")
    flags.add_output(command)
    flags.add_cache(command)


def add_at(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "--at", metavar="POSITIONS",
        help='positions along each member, such as "0%%,50%%,2.5 m" (of every result; default: the quarter points)',
    )  # fmt: skip
    command.add_argument(
        "--breaks", action="store_true", help="also wherever a load starts or stops or a node lies on the member"
    )


def _chart(model: common.Model, arguments: argparse.Namespace) -> int:
    """One force along one member."""
    from ..core.analysis.pieces import FORCES
    from ..show.chart_text import chart_of
    from .draw import one_result

    (force,) = flags.components([arguments.chart], FORCES, "--chart")
    if arguments.at or arguments.breaks or arguments.each or arguments.format or arguments.of:
        raise Refusal("--chart shows a force all along: leave --at, --breaks, --each, --format and --of out")
    members = model.members(arguments.on)
    if len(members) != 1:
        raise Refusal(f"--chart is about one member, and these are {len(members)}: name it with --on")
    result = one_result(model, arguments.under)
    if result.moving:
        raise Refusal(f"{result.name} has loads that move: name a position, such as {result.name}@2m")
    solution, (result, *_) = common.solve(model, [result])
    outputs.put_text(chart_of(solution, result, int(members[0]), force, model.display), arguments.output)
    return model.verdict


def run(arguments: argparse.Namespace) -> int:
    from ..core.analysis.pieces import FORCES
    from ..core.answers.along import forces
    from ..core.answers.governing import largest_forces

    model = common.read(arguments)
    sums.refuse(arguments, "chart")
    if arguments.chart:
        return _chart(model, arguments)
    of = flags.components(arguments.of, FORCES)
    results, members = model.under(arguments.under), model.members(arguments.on)
    at = positions(arguments.at or QUARTERS, model.project.units)
    told_off(at, model, members)
    largest = not (arguments.at or arguments.breaks or arguments.summed or flags.each_of(arguments, results))
    solution, results = common.solve(
        model, results, over_positions=largest, along=model.study.places_along(members, at)
    )
    if largest:
        combined = [r for r in results if not r.is_case] or results
        found = model.study.extremes(solution, combined, members)
        outputs.put(largest_forces(solution, combined, members, of, found), model, arguments)
        return model.verdict
    if arguments.summed:
        both, pairs = sums.paired(solution, results)
        sums.put(forces(both, pairs, members, at, arguments.breaks, of), model, arguments, "member", "member")
        return model.verdict
    outputs.put(forces(solution, results, members, at, arguments.breaks, of), model, arguments)
    return model.verdict


def told_off(at: list[Position], model: common.Model, members: np.ndarray) -> None:
    """Say which positions lie beyond the end of which members; refuse where nothing is left."""
    from ..core.model.findings import listed

    length = model.project.lengths[members]
    missing = [length < p.offset - 1e-9 for p in at]
    if all(m.all() for m in missing):
        raise Refusal(f"--at: the longest of these members is {length.max():.4g} m long")
    for position, short in zip(at, missing, strict=True):
        if short.any():
            names = [model.project.members[m].name for m in members[short]]
            saying.say(f"{position.offset:.4g} m lies beyond the end of {listed(names, 3)}: left out there")
