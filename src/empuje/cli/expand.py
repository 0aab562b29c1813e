"""empuje expand MODEL [--on NAME]"""

from __future__ import annotations

import argparse

from . import FINE, Refusal, common, flags, outputs


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument(
        "--on", metavar="NAME", action="append", default=[],
        help="a maker, or a selector of members or nodes: these only, with the nodes they join (default: all)",
    )  # fmt: skip
    command.add_argument("-o", dest="output", metavar="FILE", help="write to a file, such as plain.toml")
    flags.add_force(command)


def run(arguments: argparse.Namespace) -> int:
    from ..files.plain.model import as_toml, plain_members, plain_model

    arguments.quick = True
    study = common.read(arguments).study
    if not arguments.on:
        outputs.put_text(as_toml(plain_model(study.reading)), arguments.output)
        return FINE
    words = flags.split(arguments.on)
    nodes: set[int] = set()
    members: set[int] = set()
    for word in words:
        made = study.reading.made.get(word)
        found, laid, missed = (*made, []) if made is not None else study.names.select([word])
        if missed:
            makers = f"; makers are {', '.join(study.reading.made)}" if study.reading.made else ""
            raise Refusal(f"--on: nothing is called {word}; {study.names.like(word)}{makers}")
        nodes |= set(found)
        members |= set(laid)
    outputs.put_text(as_toml(plain_members(study.reading, sorted(members), sorted(nodes))), arguments.output)
    return FINE
