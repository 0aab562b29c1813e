"""--summed: beside a result that was analysed as one, what adding up its cases would give."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import Refusal, outputs, saying

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ..core.analysis.solution import Solution
    from ..core.answers.table import Table
    from ..core.model.results import Result
    from .common import Model


def add(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "--summed", action="store_true",
        help="below each row of a combination analysed as one what the sum of its cases' results would be",
    )  # fmt: skip


def refuse(arguments: argparse.Namespace, *others: str) -> None:
    """Refuses other options beside it."""
    for other in others:
        if arguments.summed and getattr(arguments, other.replace("-", "_")):
            raise Refusal(f"--summed does not go with --{other}: leave one of them out")


def paired(solution: Solution, results: Sequence[Result]) -> tuple[Solution, list[Result]]:
    """Each combination that is no sum, and its sum."""
    from ..core.answers.summed import with_sums

    both, pairs = with_sums(solution, results)
    if not pairs:
        raise Refusal("--summed: every result here is a sum of its cases, or a case of it has no answer by itself")
    return both, pairs


def put(table: Table, model: Model, arguments: argparse.Namespace, place: str, group: str | None = None) -> None:
    """The rows in pairs, and where they differ most; `place`: the column that names what a row is about."""
    from ..core.answers.summed import furthest_apart, side_by_side

    table = side_by_side(table, group)
    outputs.put(table, model, arguments)
    for kind in dict.fromkeys(c.kind for c in table.columns if c.kind not in ("text", "length")):
        names = [c.name for c in table.columns if c.kind == kind]
        found = furthest_apart(table, names)
        if found is None:
            continue
        largest, row = found
        unit, factor = model.display.unit(kind), model.display.factor(kind)
        one, total = (float(table[largest][row + k]) * factor for k in (0, 1))
        saying.say(f"Largest difference of a {kind}: {largest} of {table[place][row]} under {table['case'][row]}, "
                   f"{one:.3f} {unit} as one and {total:.3f} {unit} as a sum of its cases.")  # fmt: skip
