"""empuje envelope MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..core.model.words import Stress
from . import Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    import numpy as np

    from ..core.analysis.solution import Solution
    from ..core.answers.table import Table
    from ..core.model.results import Results


MOST_STATIONS = 201
STRESSES = [str(word) for word in Stress]


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "members")
    flags.add_under(command, "every combination; every case where there are none")
    flags.add_of(command, "N, Vy, Vz, T, My, Mz")
    command.add_argument(
        "--stations", type=int, metavar="N", help="least and greatest at N even stations along each member instead"
    )
    command.add_argument(
        "--led-by", choices=STRESSES,
        help="lead by a stress at the sections' fibres, not by forces: normal, shear, or von Mises",
    )  # fmt: skip
    command.add_argument("--fibre", metavar="NAME", help="with --led-by: only this fibre (middle, corner 1, ...)")
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.analysis.pieces import FORCES
    from ..core.answers.bands import band_table
    from ..core.answers.envelope import envelope

    model = common.read(arguments)
    of = flags.components(arguments.of, FORCES)
    if arguments.led_by and arguments.of:
        raise Refusal("--led-by: stresses lead, not forces: leave --of out")
    if arguments.stations is not None and (arguments.led_by or not 2 <= arguments.stations <= MOST_STATIONS):
        raise Refusal(f"--stations: give 2 to {MOST_STATIONS}, and no --led-by with it")
    if arguments.fibre and not arguments.led_by:
        raise Refusal("--fibre goes with --led-by normal, shear or mises")
    results, members = model.under_combinations(arguments.under), model.members(arguments.on)
    solution, results = common.solve(model, results, over_patterns=True, over_positions=True)
    if arguments.led_by:
        table = _stresses(solution, results, members, arguments)
    elif arguments.stations:
        table = band_table(solution, results, members, of, arguments.stations)
    else:
        table = envelope(solution, results, members, of)
    outputs.put(table, model, arguments)
    for reason in common.explained_how(solution, results, all_but_sums=True):
        saying.say(reason)
    listed = ": " + ", ".join(r.name for r in results) if len(results) <= 12 else ""
    saying.say(f"over {len(results)} results{listed}")
    return model.verdict


def _stresses(solution: Solution, results: Results, members: np.ndarray, arguments: argparse.Namespace) -> Table:
    from ..core.answers.patterns import TooMany
    from ..core.answers.stress import NoFibre, stress_envelope
    from ..core.catalogue.fibres import all_fibres
    from ..core.model.findings import did_you_mean

    try:
        return stress_envelope(solution, results, members, Stress(arguments.led_by), arguments.fibre)
    except TooMany as error:
        raise Refusal(f"--led-by: {error}: too many to take one by one; lead by forces, or pick one") from None
    except NoFibre:
        sections = {m.section.name: m.section for m in (solution.project.members[i] for i in members)}
        known = list(dict.fromkeys(f.name for s in sections.values() for f in all_fibres(s)))
        if not known:
            remedy = "give them fibres in [sections.NAME.fibres]"
            raise Refusal(f"--led-by: {', '.join(sections)} have no outline; {remedy}") from None
        told = did_you_mean(arguments.fibre, known)
        raise Refusal(f"--fibre: there is no fibre {arguments.fibre}; {told}") from None
