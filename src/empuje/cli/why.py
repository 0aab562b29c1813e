"""empuje why MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..core.model.words import Sense
from . import FINE, NOT_MET, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.why import Target, Why


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument("--on", metavar="NAME", help="one member, or one node")
    command.add_argument(
        "--limit", metavar="NAME", help="instead: what made the governing value of a limit, or of one bound --of it"
    )
    command.add_argument(
        "--of", metavar="VALUE",
        help="N Vy Vz T My Mz of a member; Fx Fy Fz Mx My Mz of a support; ux uy uz rx ry rz of a node",
    )  # fmt: skip
    flags.add_under(command, "every combination; every case where there are none")
    command.add_argument("--at", metavar="POSITION", help="a place along the member (default: where it is largest)")
    command.add_argument(
        "--sense", choices=[str(word) for word in Sense], default="largest",
        help="which extreme: largest in magnitude (default), maximum or minimum",
    )  # fmt: skip
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.patterns import TooMany
    from ..core.answers.why import why, why_table
    from ..show.why_text import why_for_eyes
    from .places import positions

    model = common.read(arguments)
    if arguments.limit is not None:
        return _of_limit(model, arguments)
    if arguments.on is None or arguments.of is None:
        raise Refusal("name what is asked about: --on and --of, or a --limit")
    results = model.under_combinations(arguments.under)
    project = model.project
    target = _target(model, arguments.on, arguments.of)
    x = None
    if arguments.at is not None:
        if target.what != "force":
            raise Refusal("--at is about members")
        x = positions(arguments.at, project.units)[0].on(project.lengths[target.index])
        if not -1e-9 <= x <= project.lengths[target.index] + 1e-9:
            raise Refusal(f"--at {arguments.at}: the member is {project.lengths[target.index]:.4g} m long")
    moving = any(r.moving for r in results)
    try:
        results = common.refusing_mechanisms(
            model.study, lambda: model.study.worst_stood(results, target, Sense(arguments.sense), x)
        )
    except LookupError as error:
        raise Refusal(f"--on: {error.args[0]}") from None
    solution = common.refusing_mechanisms(model.study, lambda: model.study.solution(results))
    prepared = common.refusing_mechanisms(model.study, lambda: model.study.prepared_as(solution))
    results = common.standing(model, solution, results)
    try:
        found = why(prepared, solution, results, target, Sense(arguments.sense), x)
    except TooMany as error:
        raise Refusal(f"--under: {error}: too many to try one by one; name a pattern of it") from None
    except LookupError as error:
        raise Refusal(f"--on: {error.args[0]}") from None
    if moving:
        saying.say("note: of all results with moving cases the worst in its worst position; others that do not move "
                   "are compared with it")  # fmt: skip
    outputs.put(why_table(found, model.display.said), model, arguments, why_for_eyes(found, model.display))
    _decided(model, found)
    return model.verdict


def _decided(model: common.Model, found: Why) -> None:
    """What was decided about the combination and the cases behind a value."""
    from ..study.decisions import decisions

    of = found.worst.combination
    about = {name for name, f in of.factors if f} | set(of.rule_sets) if of is not None else {found.worst.name}
    own = [d for d in decisions(model.study, lengths=False) if about.intersection(d.about)]
    for d in own[:MOST_DECIDED]:
        saying.say(f"decided: {d}")
    if len(own) > MOST_DECIDED:
        saying.say(f"and {len(own) - MOST_DECIDED} more: empuje decisions MODEL --on {','.join(sorted(about))}")


MOST_DECIDED = 4


def _of_limit(model: common.Model, arguments: argparse.Namespace) -> int:
    """What made the governing value of a limit: of its bounds the one that is worst, or the one asked about."""
    from ..core.answers.why import why_table
    from ..show.layout import flowing, window
    from ..show.verdict_text import sentence
    from ..show.why_text import why_for_eyes
    from ..study.verdicts import explained
    from .verdict import judge, names_of

    if arguments.on or arguments.under or arguments.at or arguments.sense != "largest":
        raise Refusal("--limit says on what and under what; it goes with --of alone")
    found = judge(model, names_of(model, [arguments.limit]), False).outcomes
    own = [o for o in found if arguments.of in (None, o.bound.of)]
    if not own:
        known = ", ".join(dict.fromkeys(o.bound.of for o in found))
        raise Refusal(f"--of: the limit {arguments.limit} bounds {known}")
    worst = own[0]
    head = f"{worst.limit.name} ({worst.limit.place}) {worst.holds}: {sentence(worst, model.display)}"
    lines = [flowing(head, window() if arguments.output is None else None), ""]
    try:
        every = common.refusing_mechanisms(model.study, lambda: explained(model.study, worst))
    except LookupError as error:
        outputs.put_text("\n".join([*lines, f"{error.args[0]}.", ""]), None)
        return NOT_MET if worst.fails else FINE
    lines += [why_for_eyes(one, model.display) for one in every]
    outputs.put(why_table(every[0], model.display.said), model, arguments, "\n".join(lines))
    return model.verdict


def _target(model: common.Model, on: str, of: str) -> Target:
    from ..core.answers.why import target_of

    nodes, members = model.nodes_and_members([on])
    if len(nodes) + len(members) != 1:
        raise Refusal(f"--on {on} is {len(nodes) + len(members)} things; name one member or one node")
    try:
        return target_of(int([*members, *nodes][0]), len(members) > 0, of)
    except LookupError as error:
        raise Refusal(f"--of: {error.args[0]}") from None
