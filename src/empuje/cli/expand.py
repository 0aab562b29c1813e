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
    words, made = flags.split(arguments.on), study.reading.made
    found, laid, missed = study.names.select([word for word in words if word not in made])
    if missed:
        makers = f"; makers are {', '.join(made)}" if made else ""
        raise Refusal(f"--on: nothing is called {missed[0]}; {study.names.like(missed[0])}{makers}")
    makers_meant = [made[word] for word in words if word in made]
    nodes = {*found, *(n for its, _ in makers_meant for n in its)}
    members = {*laid, *(m for _, its in makers_meant for m in its)}
    outputs.put_text(as_toml(plain_members(study.reading, sorted(members), sorted(nodes))), arguments.output)
    return FINE
