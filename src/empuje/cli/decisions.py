"""empuje decisions MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.model.decisions import Decision


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "members, surfaces, cases or rule sets that decisions are about")
    command.add_argument(
        "--about", action="append", default=[], metavar="WORD",
        help="decisions with these words in what was decided or in the key that states it: steel, wind, length, span",
    )  # fmt: skip
    command.add_argument("--strict", action="store_true", help="exit code 1 while any is a guess or may be unsafe")
    flags.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..show.decisions_text import decisions_for_eyes
    from ..show.layout import window
    from ..study.decisions import decisions, decisions_table, warnings_of

    model = common.read(arguments)
    every = decisions(model.study)
    found = _chosen(every, flags.split(arguments.on), flags.split(arguments.about))
    table = decisions_table(found)
    there = None if arguments.output else window()
    wide = there.width if there is not None else None
    outputs.put(table, model, arguments, decisions_for_eyes(found, arguments.on or arguments.about, wide))
    asked = [f for f in warnings_of(model.study, found) if not f.accepted]
    if asked:
        saying.say(f"{len(asked)} kind{'s' if len(asked) != 1 else ''} of guesses to state or to accept:")
        for finding in asked:
            saying.say(str(finding))
    return NOT_MET if arguments.strict and asked else FINE


def _chosen(every: list[Decision], on: list[str], about: list[str]) -> list[Decision]:
    from fnmatch import fnmatchcase

    from ..core.model.findings import did_you_mean

    names = dict.fromkeys(name for d in every for name in d.about)
    families = dict.fromkeys(name.split("/")[0] for name in names if "/" in name)
    for word in on:
        if word not in families and not any(fnmatchcase(name, word) for name in names):
            raise Refusal(f"--on: no decision is about {word}; {did_you_mean(word, [*families, *names])}")

    def about_it(d: Decision) -> bool:
        return any(fnmatchcase(name, word) or name.startswith(f"{word}/") for name in d.about for word in on)

    def named(d: Decision) -> bool:
        text = f"{d.what} {d.key}".casefold()
        return any(word.casefold() in text for word in about)

    found = [d for d in every if (not on or about_it(d)) and (not about or named(d))]
    if not found and about:
        kinds = ", ".join(dict.fromkeys(d.what for d in every)) or "nothing was decided"
        raise Refusal(
            f"--about: no decision{' on those' if on else ''} has {' or '.join(about)} in it; there are: {kinds}"
        )
    return found
