"""empuje members MODEL"""

from __future__ import annotations

import argparse
from collections import Counter
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.analysis.solution import Solution
    from ..core.steel.checked import Checked

WORDS = {"fails": "fail", "no answer": "not wholly checked", "near": "near the limit", "passes": "pass"}


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "members (default: those of [steel])")
    command.add_argument("--full", action="store_true", help="the derivation of what governs each member")
    command.add_argument("--check", metavar="NAME", help="with --full: the derivation of this check instead")
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.steel.table import members_table
    from ..show.steel_text import derivation_table, derivations, members_for_eyes

    model = common.read(arguments)
    solution, found = checked(model, arguments.on)
    if arguments.full:
        check = _check(found, arguments.check)
        if outputs.style_of(arguments) == "table":
            outputs.put_text(derivations(solution, found, check, model.display), arguments.output)
        else:
            outputs.put(derivation_table(solution, found, check), model, arguments)
    elif arguments.check:
        raise Refusal("--check goes with --full")
    else:
        table = members_table(model.project, found)
        outputs.put(table, model, arguments, lambda rows: members_for_eyes(rows, found, model.display))
    counts = Counter(str(found.holds(m)) for m in range(len(found.members)))
    told = ", ".join(f"{counts[word]} {WORDS[word]}" for word in WORDS if counts[word])
    saying.say(f"{len(found.members)} members by {found.rule.code}: {told}")
    saying.say("Lengths and restraints: `empuje decisions MODEL --about length --on MEMBER`.")
    return FINE if set(counts) <= {"passes", "near"} and not found.failed else NOT_MET


def checked(model: common.Model, on: list[str]) -> tuple[Solution, Checked]:
    """The members asked for, checked; what is assumed, and results without an answer, are said."""
    from ..core.answers.patterns import TooMany
    from ..study.verdicts import checked_members

    rule = model.project.steel
    if rule is None:
        raise Refusal(f'{model.study.path} does not say by which code: add [steel] with code = "EN 1993-1-1"')
    members = model.members(on).tolist() if on else list(rule.on)
    try:
        with common.refusing("steel.under"):
            solution, found, notes = common.refusing_mechanisms(
                model.study, lambda: checked_members(model.study, members)
            )
    except TooMany as error:
        raise Refusal(f"steel.under: {error}: too many to check one by one; name fewer results") from None
    for words in notes:
        saying.say(f"note: {words}")
    for result in found.failed:
        saying.say(str(solution.failed[result]))
    for words in assumed(found):
        saying.say(f"note: {words}")
    return solution, found


def assumed(found: Checked) -> list[str]:
    """What every check rests on, as the code's choices were taken."""
    from ..core.steel.checked import NEVER_CHECKED

    return [found.code.assumed, NEVER_CHECKED]


def _check(found: Checked, name: str | None) -> int | None:
    from ..core.model.findings import did_you_mean

    if name is None:
        return None
    if name not in found.checks:
        raise Refusal(f"--check: there is no {name}; {did_you_mean(name, found.checks)}")
    return found.checks.index(name)
