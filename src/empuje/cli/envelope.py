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
OWN = "own"


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "members")
    flags.add_under(command, "every combination; every case where there are none")
    flags.add_of(command, "N, Vy, Vz, T, My, Mz")
    command.add_argument(
        "--stations", type=int, metavar="N", help="minimum and maximum at N even stations along each member instead"
    )
    command.add_argument(
        "--led-by", choices=[*STRESSES, OWN],
        help="lead by a stress at the sections' fibres, not by forces: normal, shear, or von Mises; own: each fibre by "
        "the one that it states",
    )  # fmt: skip
    command.add_argument(
        "--fibre", action="append", default=[], metavar="NAME",
        help="with --led-by: only these fibres (middle, corner 1, ...), several with commas",
    )  # fmt: skip
    command.add_argument(
        "--all-fibres",
        action="store_true",
        help="with --led-by: the stresses at all fibres of the section, there and then",
    )
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
    if arguments.stations is not None and not 2 <= arguments.stations <= MOST_STATIONS:
        raise Refusal(f"--stations: give 2 to {MOST_STATIONS}")
    if (arguments.fibre or arguments.all_fibres) and not arguments.led_by:
        raise Refusal("--fibre and --all-fibres go with --led-by normal, shear, mises or own")
    if arguments.stations is not None and (arguments.led_by == OWN or arguments.all_fibres):
        raise Refusal("--stations: with one stress, --led-by normal, shear or mises, and without --all-fibres")
    results, members = model.under_combinations(arguments.under), model.members(arguments.on)
    solution, results = common.solve(model, results, over_patterns=True, over_positions=True)
    if arguments.led_by:
        table = _stresses(solution, results, members, arguments)
    elif arguments.stations:
        table = band_table(solution, results, members, of, arguments.stations)
    else:
        found = model.study.extremes(solution, results, members)
        table = envelope(solution, results, members, of, found)
    outputs.put(table, model, arguments)
    if arguments.led_by and arguments.led_by != Stress.NORMAL:
        saying.say("Shear from torsion, and stress from warping, are not in it.")
    for reason in common.explained_how(solution, results, all_but_sums=True):
        saying.say(reason)
    listed = ": " + ", ".join(r.name for r in results) if len(results) <= 12 else ""
    saying.say(f"over {len(results)} results{listed}")
    return model.verdict


def _stresses(solution: Solution, results: Results, members: np.ndarray, arguments: argparse.Namespace) -> Table:
    from ..core.answers.patterns import TooMany
    from ..core.answers.stress import each_by_its_own, stress_envelope
    from ..core.answers.stress_fibres import NoFibre
    from ..core.answers.stress_places import stress_stations, stresses_at_once

    names = flags.split(arguments.fibre)
    known = _fibres(solution, members, names)
    try:
        if arguments.stations is not None:
            return stress_stations(solution, results, members, Stress(arguments.led_by), names, arguments.stations)
        if arguments.led_by == OWN:
            table = each_by_its_own(solution, results, members, names)
        else:
            table = stress_envelope(solution, results, members, Stress(arguments.led_by), names)
    except TooMany as error:
        raise Refusal(f"--led-by: {error}: too many to take one by one; lead by forces, or pick one") from None
    except NoFibre:
        if not known:
            remedy = "give them fibres in [sections.NAME.fibres]"
            sections = dict.fromkeys(solution.project.members[i].section.name for i in members)
            raise Refusal(f"--led-by: {', '.join(sections)} have no outline; {remedy}") from None
        raise Refusal('--led-by own: no fibre says by which stress it leads; add led_by = "normal"') from None
    return stresses_at_once(solution.project, table) if arguments.all_fibres else table


def _fibres(solution: Solution, members: np.ndarray, names: list[str]) -> list[str]:
    """The fibres there are in the members' sections. Refuses a name that is none of them."""
    from ..core.catalogue.fibres import all_fibres
    from ..core.model.findings import did_you_mean

    sections = {m.section.name: m.section for m in (solution.project.members[i] for i in members)}
    known = list(dict.fromkeys(f.name for s in sections.values() for f in all_fibres(s)))
    for name in names:
        if known and name not in known:
            raise Refusal(f"--fibre: there is no fibre {name}; {did_you_mean(name, known)}")
    return known
