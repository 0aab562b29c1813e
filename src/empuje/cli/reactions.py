"""empuje reactions MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import Refusal, common, flags, outputs, saying, sums
from .places import point_meant

if TYPE_CHECKING:
    import numpy as np

    from ..core.analysis.solution import Solution
    from ..core.answers.table import Table
    from ..core.model.results import Result


OPPOSITE = "What acts on the foundations, in global axes: the opposite of the reactions."
ON_STRUCTURE = "Reactions act on the structure; what acts on a foundation is their opposite (--on-foundation)."


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "supported nodes")
    flags.add_under(command)
    flags.add_of(command, "Fx, Fy, Fz, Mx, My, Mz")
    what = command.add_mutually_exclusive_group()
    what.add_argument("--balance", action="store_true", help="only the sums: applied, reactions, difference")
    what.add_argument(
        "--envelope", action="store_true", help="minimum and maximum reactions, under what, with what goes with them"
    )
    what.add_argument(
        "--schedule", action="store_true",
        help="for foundations: supports by kind, each with its unfactored cases and its governing reactions",
    )  # fmt: skip
    what.add_argument(
        "--about", metavar="POINT",
        help="resultants of loads and reactions about a point: centre (of the supports), a node, or x,y,z",
    )  # fmt: skip
    command.add_argument(
        "--side-by-side", action="store_true",
        help="with --schedule: minimum and maximum, and unfactored cases beside them, a row for each support and force",
    )  # fmt: skip
    command.add_argument(
        "--on-foundation", action="store_true", help="with --schedule: what acts on the foundations, of opposite sign"
    )
    sums.add(command)
    flags.add_each(command, "the governing ones of each support, and the balance")
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.foundations import FORCES, reaction_envelope, resultant_table
    from ..core.answers.reactions import balance, reactions
    from ..show.reactions_text import balance_note, pulled_note, reactions_for_eyes

    model = common.read(arguments)
    whole_sets = arguments.envelope or arguments.schedule
    results = model.under_combinations(arguments.under) if whole_sets else model.under(arguments.under)
    nodes = model.nodes(arguments.on) if arguments.on else None
    of = flags.components(arguments.of, FORCES)
    if arguments.balance and (arguments.on or arguments.of):
        raise Refusal("--balance is about all supports and components: leave --on and --of out")
    for option in ("on_foundation", "side_by_side"):
        if getattr(arguments, option) and not arguments.schedule:
            raise Refusal(f"--{option.replace('_', '-')} goes with --schedule")
    sums.refuse(arguments, "balance", "envelope", "schedule", "about")
    about = point_meant(model, arguments.about, "--about") if arguments.about else None
    resultants = arguments.balance or about is not None
    each = not (whole_sets or resultants) and (arguments.summed or flags.each_of(arguments, results))
    solution, results = common.solve(model, results, whole_sets, over_positions=not (resultants or each))
    if nodes is not None and not set(nodes.tolist()) & set(solution.support_node.tolist()):
        raise Refusal(f"--on: none of {', '.join(arguments.on)} is a support")
    if about is not None:
        point = about if len(about) else solution.centre
        table = resultant_table(solution, results, point, nodes)
        outputs.put(table.without([f for f in FORCES if f not in of]), model, arguments)
        at = ", ".join(f"{v * model.display.factor('length'):.3f}" for v in point)
        saying.say(f"Moments, and where the lines of action cross, are about ({at}) {model.display.unit('length')}.")
        return model.verdict
    if arguments.balance:
        outputs.put(balance(solution, results), model, arguments)
        saying.say(balance_note(solution, model.display))
        return model.verdict
    if arguments.envelope:
        outputs.put(reaction_envelope(solution, results, nodes, of), model, arguments)
    elif arguments.schedule:
        outputs.put(_schedule(solution, results, nodes, of, arguments), model, arguments)
        saying.say(OPPOSITE if arguments.on_foundation else ON_STRUCTURE)
    elif arguments.summed:
        both, pairs = sums.paired(solution, results)
        table = reactions(both, pairs, nodes).without([f for f in FORCES if f not in of])
        sums.put(table, model, arguments, "node")
    elif each:
        table = reactions(solution, results, nodes).without([f for f in FORCES if f not in of])
        balanced = balance(solution, results) if nodes is None and not outputs.picked(arguments) else None
        outputs.put(table, model, arguments, lambda rows: reactions_for_eyes(solution, rows, balanced, model.display))
    else:
        _governing(model, solution, results, nodes, arguments, [f for f in FORCES if f not in of])
    combinations = [r for r in results if not r.is_case]
    note = pulled_note(solution, combinations, model.display) if combinations else ""
    if note:
        saying.say(note)
    return model.verdict


def _schedule(
    solution: Solution, results: list[Result], nodes: np.ndarray | None, of: tuple[str, ...],
    arguments: argparse.Namespace,
) -> Table:  # fmt: skip
    """The schedule, one below the other or side by side."""
    from ..core.answers.schedule import schedule, schedule_side_by_side

    if not arguments.side_by_side:
        return schedule(solution, results, nodes, of, arguments.on_foundation)
    if not arguments.of:
        of = of[:3]
    try:
        return schedule_side_by_side(solution, results, nodes, of, arguments.on_foundation)
    except ValueError as error:
        raise Refusal(f"--side-by-side: {error}; name some of one kind, such as --of Mx,My") from None


def _governing(
    model: common.Model, solution: Solution, results: list[Result], nodes: np.ndarray | None,
    arguments: argparse.Namespace, left: list[str],
) -> None:  # fmt: skip
    """Of each support what governs; and whether all balances."""
    from ..core.answers.governing import balance_in_short, governing_reactions
    from ..show.reactions_text import balance_note
    from ..show.tables import for_eyes

    combinations = [r for r in results if not r.is_case]
    table = governing_reactions(solution, combinations or results, nodes).without(left)
    still = [r for r in results if not r.moving]
    sums = balance_in_short(solution, still)
    cases = sums.rows([i for i, r in enumerate(still) if r.is_case])
    worst = float(sums["relative"].max(initial=0))
    text = for_eyes(table, model.display, table["node"].tolist())
    if nodes is None:
        text += ("\n" + for_eyes(cases, model.display) if len(cases) else "") + "\n"
        text += f"Loads and reactions of {len(still)} results balance to {worst:.0e} of the largest load.\n"
    outputs.put(table, model, arguments, text)
    saying.say(balance_note(solution, model.display))
