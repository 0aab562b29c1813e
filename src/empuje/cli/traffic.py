"""empuje traffic MODEL"""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from typing import TYPE_CHECKING

from . import FINE, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.analysis.moving.mover import Mover
    from ..core.answers.traffic import Asked


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument("--only", metavar="CASE", help="one traffic (default: all of them)")
    command.add_argument("--on", action="append", default=[], metavar="NAME",
                         help="members or nodes whose results are listed step by step")  # fmt: skip
    command.add_argument(
        "--of", action="append", default=[], metavar="VALUE",
        help="with --on: N Vy Vz T My Mz of members; Fx ... Mz of supports; ux ... rz of nodes",
    )  # fmt: skip
    command.add_argument("--at", metavar="POSITION", help="the place along the members (default: 50%%)")
    command.add_argument("--worst", action="store_true", help="only the worst positions: of what --on and --of ask "
                         "about, or those that govern anything")  # fmt: skip
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.traffic import governing_table, shown_step, step_table, traffic_table, worst_table

    model = common.read(arguments)
    movers = chosen(model, arguments.only)
    if bool(arguments.on) != bool(arguments.of):
        raise Refusal("--on and --of go together: --on beams/2@mezz/A-B --of My --at 50%")
    if arguments.at and not arguments.on:
        raise Refusal("--at goes with --on and --of")
    if not arguments.on:
        table = governing_table(movers) if arguments.worst else traffic_table(movers)
        outputs.put(table, model, arguments)
        single = [s.case for s in model.project.standings]
        if single:
            saying.say(f"analysed as one, where results are no sums: {', '.join(single)}")
        return FINE
    asked = asked_about(model, arguments.on, arguments.of, arguments.at)
    if len(movers) > 1:
        raise Refusal(f"--only: name one of {', '.join(movers)}")
    (mover,) = movers.values()
    try:
        table = worst_table(mover, asked) if arguments.worst else step_table(mover, asked)
    except LookupError as error:
        raise Refusal(f"--on: {error.args[0]}") from None
    outputs.put(table, model, arguments)
    if not arguments.worst and not mover.step:
        saying.say(f"positions are exact; shown every {shown_step(mover) * model.display.factor('length'):.4g} "
                   f"{model.display.unit('length')}")  # fmt: skip
    more = "; lane loads at will are only in --worst" if _lanes(mover) and not arguments.worst else ""
    saying.say(f"of the moving case by itself, by first order with all parts acting{more}")
    return FINE


def _lanes(mover: Mover) -> bool:
    return any(v.adverse_lane for v in mover.laid.traffic.vehicles)


def chosen(model: common.Model, only: str | None) -> Mapping[str, Mover]:
    """The traffic that is meant, or all."""
    from ..core.model.findings import did_you_mean

    if not model.resolved.laid:
        raise Refusal(f"{model.project.file} has no [traffic]: add one with a vehicle and a way")
    movers = common.refusing_mechanisms(model.study, lambda: model.study.movers)
    if only is None:
        return movers
    if only not in movers:
        raise Refusal(f"--only: there is no traffic {only}; {did_you_mean(only, movers)}")
    return {only: movers[only]}


def asked_about(model: common.Model, on: list[str], of: list[str], at: str | None) -> list[Asked]:
    """The results that words ask about."""
    from ..core.answers.traffic import Asked
    from ..core.answers.why import target_of
    from .places import positions

    nodes, members = model.nodes_and_members(on)
    project = model.project
    place = positions(at or "50%", project.units)
    if len(place) != 1:
        raise Refusal("--at: give one position")
    if at and not len(members):
        raise Refusal("--at is about members")
    out = []
    for is_member, things in ((True, members), (False, nodes)):
        for i in things.tolist():
            for word in flags.split(of):
                try:
                    target = target_of(i, is_member, word)
                except LookupError as error:
                    raise Refusal(f"--of: {error.args[0]}") from None
                x = place[0].on(float(project.lengths[i])) if is_member else 0.0
                if is_member and x > project.lengths[i] + 1e-9:
                    raise Refusal(f"--at {at}: {project.members[i].name} is {project.lengths[i]:.4g} m long")
                name = project.members[i].name if is_member else project.nodes[i].name
                out.append(Asked(target, x, f"{word} {name}"))
    if len(out) > MOST:
        raise Refusal(f"--on and --of ask about {len(out)} results; name up to {MOST}")
    return out


MOST = 40
