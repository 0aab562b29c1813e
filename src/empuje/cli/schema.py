"""empuje schema"""

from __future__ import annotations

import argparse

from . import FINE, flags, outputs


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("-o", dest="output", metavar="FILE", help="write to a file, such as empuje.schema.json")
    flags.add_force(command)


def run(arguments: argparse.Namespace) -> int:
    import json

    from ..files.keys import MODEL
    from ..files.schema import schema_of

    outputs.claim(arguments.output, arguments)
    outputs.put_text(json.dumps(schema_of(MODEL), indent=1, ensure_ascii=False) + "\n", arguments.output)
    return FINE
