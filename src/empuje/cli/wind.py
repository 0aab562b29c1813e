"""empuje wind MODEL"""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import TYPE_CHECKING

from . import FINE, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.table import Table

PARTS = ("found", "heights", "coefficients", "zones", "bare", "totals")


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_under(command, "every case of the wind")
    command.add_argument(
        "--part", choices=PARTS, help="one table of the sheet; csv, json and xlsx carry one: zones, or bare without any"
    )
    flags.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers import wind as sheet
    from ..show.wind_text import wind_for_eyes

    model = common.read(arguments)
    project, wind = model.project, model.resolved.wind
    if wind is None:
        raise Refusal(f'{project.file} has no [wind]: add one with a code, a speed, and directions = {{ WX = "+x" }}')
    own = {c.name for c in wind.rule.cases}
    chosen = [r.name for r in model.under(arguments.under, ["cases"]) if r.is_case and r.name in own]
    if not chosen:
        raise Refusal("--under: none of these is a case of the wind")
    value = model.display.value
    tables: dict[str, Callable[[], Table]] = {
        "found": lambda: sheet.found_table(wind, value),
        "heights": lambda: sheet.heights_table(wind),
        "coefficients": lambda: sheet.coefficients_table(wind),
        "zones": lambda: sheet.zones_table(wind, project, chosen),
        "bare": lambda: sheet.bare_table(wind, project),
        "totals": lambda: sheet.wind_totals(wind, project, chosen),
    }
    usual = "zones" if len(wind.pieces) else "bare"
    text = None
    if arguments.part is None:
        text = wind_for_eyes({name: make() for name, make in tables.items()}, model.display, len(own) > len(chosen))
    outputs.put(tables[arguments.part or usual](), model, arguments, text)
    saying.say("p is positive towards the surface; F = p * area. `why` and `loads` end in these steps.")
    return FINE
