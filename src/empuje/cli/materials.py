"""empuje materials [NAME ...]"""

from __future__ import annotations

import argparse
from dataclasses import replace

from . import FINE, Refusal, flags, outputs, saying
from .sections import DISPLAY, display_of


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("names", metavar="NAME", nargs="*", help='names or globs, such as "S355", "C*", "A9*"')
    command.add_argument(
        "--display", default=DISPLAY, metavar="UNITS", help=f'units of the table (default: "{DISPLAY}")'
    )
    flags.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.inventory import material_table
    from ..core.catalogue.catalogue import material_names, materials_called
    from ..core.model.findings import did_you_mean

    outputs.claim(arguments.output, arguments)
    display = replace(display_of(arguments.display), width=outputs.width(arguments))
    chosen = materials_called(arguments.names)
    if not chosen:
        raise Refusal(f"no material is called {' or '.join(arguments.names)}; "
                      f"{did_you_mean(arguments.names[0], material_names())}")  # fmt: skip
    outputs.put(material_table(chosen), outputs.Shown(display), arguments)
    saying.say(
        f"{len(chosen)} of {len(material_names())} materials; strengths hold up to a thickness t; others: [materials]"
    )
    return FINE
