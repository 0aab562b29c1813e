"""empuje wind MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..core.model.words import WindPart
from . import FINE, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.table import Table


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_under(command, "every case of the wind")
    command.add_argument(
        "--part",
        choices=list(WindPart),
        help="one table of the sheet; csv, json and xlsx carry one: zones, or unclad without any",
    )
    flags.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.wind import sheet_of
    from ..show.wind_text import wind_for_eyes

    model = common.read(arguments)
    project, wind = model.project, model.resolved.wind
    if wind is None:
        raise Refusal(f'{project.file} has no [wind]: add one with a code, a speed, and directions = {{ WX = "+x" }}')
    own = {c.name for c in wind.rule.cases}
    usual = ["cases", *(c.name for c in wind.rule.cases if c.component and wind.components)]
    chosen = [r.name for r in model.under(arguments.under, usual) if r.is_case and r.name in own]
    if not chosen:
        raise Refusal("--under: none of these is a case of the wind")

    def made(part: WindPart) -> Table:
        return sheet_of(part, wind, project, chosen, model.display.value)

    part = WindPart.ZONES if len(wind.pieces) else WindPart.UNCLAD
    text = None
    if arguments.part is None:
        text = wind_for_eyes({part: made(part) for part in WindPart}, model.display, len(own) > len(chosen))
    outputs.put(made(WindPart(arguments.part or part)), model, arguments, text)
    saying.say("p is positive towards the surface; F = p * area. `why` and `loads` end in these steps.")
    return FINE
