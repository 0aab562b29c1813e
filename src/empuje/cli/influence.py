"""empuje influence MODEL"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from . import FINE, Refusal, common, flags, outputs, saying
from .draw import ENDINGS
from .traffic import asked_about

if TYPE_CHECKING:
    from ..core.analysis.moving.mover import Mover


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument("--on", required=True, metavar="NAME", help="one member, or one node")
    command.add_argument(
        "--of", required=True, metavar="VALUE",
        help="N Vy Vz T My Mz of a member; Fx Fy Fz Mx My Mz of a support; ux uy uz rx ry rz of a node",
    )  # fmt: skip
    command.add_argument("--at", metavar="POSITION", help="the place along the member (default: 50%%)")
    command.add_argument(
        "--along", required=True, action="append", metavar="WAY",
        help="the way of the force: a traffic (of several ways CASE:2 the second), members that join end to end, or "
        "nodes in order",
    )  # fmt: skip
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.influence import influence, influence_table
    from ..show.drawings.draw_influence import draw_influence, influence_words
    from ..show.output import NotWritten

    model = common.read(arguments)
    asked = asked_about(model, [arguments.on], [arguments.of], arguments.at)
    if len(asked) != 1:
        raise Refusal(f"--on {arguments.on} --of {arguments.of} is {len(asked)} results; name one")
    mover, way = _along(model, flags.split(arguments.along))
    try:
        line = influence(mover, way, asked[0])
    except LookupError as error:
        raise Refusal(f"--on: {error.args[0]}") from None
    display = model.display
    force = 1 / display.factor("force")
    drawn = arguments.output and Path(arguments.output).suffix.lower() in ENDINGS
    if drawn:
        sheet = draw_influence(model.project, mover, way, line, display)
        try:
            sheet.save(Path(arguments.output))
        except NotWritten as error:
            raise Refusal(str(error)) from None
        saying.say(f"wrote {arguments.output}")
    else:
        outputs.put(influence_table(line, force), model, arguments)
    for words in influence_words(mover, way, line, display):
        saying.say(words)
    return FINE


def _along(model: common.Model, words: list[str]) -> tuple[Mover, int]:
    """The traffic and its way that are meant; one made for the occasion where members or nodes are named."""
    from ..files.base.selectors import NothingMeant

    head, _, number = words[0].partition(":")
    laid = {one.traffic.case: one for one in model.resolved.laid}
    if len(words) == 1 and head in laid:
        ways = laid[head].ways
        if number and not (number.isdigit() and 1 <= int(number) <= len(ways)):
            raise Refusal(f"--along {words[0]}: {head} has {len(ways)} ways")
        movers = common.refusing_mechanisms(model.study, lambda: model.study.movers)
        return movers[head], int(number or 1) - 1
    try:
        return common.refusing_mechanisms(model.study, lambda: model.study.mover_along(words)), 0
    except NothingMeant as error:
        raise Refusal(f"--along: {error.args[0]}") from None
