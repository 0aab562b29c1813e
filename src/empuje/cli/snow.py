"""empuje snow MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..core.model.words import SnowPart
from . import FINE, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.table import Table


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_under(command, "every case of the snow")
    command.add_argument(
        "--part",
        choices=list(SnowPart),
        help="one table of the sheet; csv, json and xlsx carry one: arrangements without any",
    )
    flags.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.snow import snow_sheet
    from ..show.snow_text import snow_for_eyes

    model = common.read(arguments)
    project, snow = model.project, model.resolved.snow
    if snow is None:
        raise Refusal(f"{project.file} has no [snow]: add one with a code, a ground load, exposure and C_t")
    own = {c.name for c in snow.rule.cases}
    chosen = [r.name for r in model.under(arguments.under, ["cases"]) if r.is_case and r.name in own]
    if not chosen:
        raise Refusal("--under: none of these is a case of the snow")

    def made(part: SnowPart) -> Table:
        return snow_sheet(part, snow, project, chosen, model.display.value)

    text = None
    if arguments.part is None:
        text = snow_for_eyes({part: made(part) for part in SnowPart}, model.display, len(own) > len(chosen))
    outputs.put(made(SnowPart(arguments.part or SnowPart.ARRANGEMENTS)), model, arguments, text)
    saying.say("Loads act down, per level area. `why` and `loads --steps` end in these steps.")
    return FINE
