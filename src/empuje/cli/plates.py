"""empuje plates MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.plates import Extreme, PlateForces
    from ..core.model.results import Result


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "structural surfaces")
    flags.add_under(command, "every combination; every case where there are none")
    flags.add_of(command, "n_x, n_y, n_xy, m_x, m_y, m_xy, v_x, v_y, w, p, far_x, far_y, near_x, near_y")
    command.add_argument(
        "--cut", nargs=2, metavar=("FROM", "TO"),
        help='what passes through the line between two points, each a node or x,y,z: "0,3,3.8" "6,3,3.8"',
    )  # fmt: skip
    command.add_argument(
        "--at", nargs="+", metavar="POINT",
        help="at points instead, each a node or x,y,z, such as 3,2.5,3.8; with principal values by --each",
    )  # fmt: skip
    command.add_argument(
        "--each", action="store_true", help="every result at every corner of an element, or by --cut or --at"
    )
    command.add_argument("--quick", action="store_true", help="without the estimate of the mesh's error")
    flags.add_output(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.plates import (
        ASKED,
        COMPONENTS,
        THERE,
        governing_plates,
        plate_extremes,
        plate_forces,
        plate_table,
    )
    from ..show.plates_text import SIGNS, mesh_words

    model = common.read(arguments)
    surfaces = model.structural(arguments.on)
    of = flags.components(arguments.of, COMPONENTS if arguments.each else ASKED)
    results = model.under_combinations(arguments.under)
    if arguments.cut and arguments.at:
        raise Refusal("--cut and --at: ask one after the other")
    if arguments.cut:
        return _cut(model, arguments, surfaces, results)
    if arguments.at:
        return _at(model, arguments, surfaces, results)
    solution, results = common.solve(
        model, results, over_patterns=not arguments.each, over_positions=not arguments.each
    )
    forces = plate_forces(solution)
    if arguments.each:
        outputs.put(plate_table(forces, results, surfaces, of), model, arguments)
        return model.verdict
    found = plate_extremes(forces, results, surfaces, of)
    estimates = None if arguments.quick else _estimates(model, forces, found, results)
    table = governing_plates(forces, results, found, estimates)
    outputs.put(table, model, arguments, unseen=(*THERE, "how"))
    saying.say(SIGNS)
    for words in mesh_words(model.project, forces.plates, found, estimates, model.display) if estimates else ():
        saying.say(words)
    return model.verdict


def _estimates(
    model: common.Model, forces: PlateForces, found: list[Extreme], results: list[Result]
) -> list[float]:  # fmt: skip
    """The errors of the mesh, by a mesh of twice its length."""
    from ..core.answers.plates import PlateForces, error_estimates

    coarse = common.refusing_mechanisms(model.study, lambda: model.study.on_coarser_mesh(results))
    return error_estimates(forces, found, PlateForces(coarse, forces.plates.length), results)


def _at(model: common.Model, arguments: argparse.Namespace, surfaces: list[int], results: list[Result]) -> int:
    import numpy as np

    from ..core.answers.plate_points import NoPoint, points_each, points_extremes, points_of
    from ..core.answers.plates import ASKED, THERE, plate_forces
    from ..show.plates_text import AXES_SIGNS
    from .places import point_meant

    if arguments.each and arguments.of:
        raise Refusal("--at with --each gives all components and their principal values: leave --of out")
    xyz = np.array([point_meant(model, text, "--at") for text in arguments.at])
    of = flags.components(arguments.of, ASKED)
    solution, results = common.solve(
        model, results, over_patterns=not arguments.each, over_positions=not arguments.each
    )
    forces = plate_forces(solution)
    try:
        points = points_of(forces, surfaces, xyz)
    except NoPoint as error:
        raise Refusal(f"--at {arguments.at[error.point]} is on none of these structural surfaces") from None
    if arguments.each:
        outputs.put(points_each(forces, results, points), model, arguments)
        saying.say("m_1, m_2: maximum and minimum moment; alpha: direction of m_1, from the surface's own x "
                   "towards its y; n likewise.")  # fmt: skip
    else:
        outputs.put(points_extremes(forces, results, points, of), model, arguments, unseen=(*THERE, "how"))
    saying.say(f"{AXES_SIGNS}.")
    if np.isfinite(points.mean).any():
        saying.say("mean over: next to a point where forces have no finite value, what they are averaged over there")
    if points.solid.any():
        saying.say("within the footprint of a column there are no forces")
    return model.verdict


def _cut(model: common.Model, arguments: argparse.Namespace, surfaces: list[int], results: list[Result]) -> int:
    from ..core.answers.plate_cuts import NoCut, cut_each, cut_extremes
    from ..core.answers.plates import plate_forces
    from .places import point_meant

    a, b = (point_meant(model, text, "--cut") for text in arguments.cut)
    if arguments.of:
        raise Refusal("--cut gives all its resultants: leave --of out")
    solution, results = common.solve(
        model, results, over_patterns=not arguments.each, over_positions=not arguments.each
    )
    forces = plate_forces(solution)
    try:
        table = (cut_each if arguments.each else cut_extremes)(forces, results, surfaces, a, b)
    except NoCut as error:
        raise Refusal(f"--cut: {error}") from None
    outputs.put(table, model, arguments)
    saying.say("N across the cut (tension positive), V along it, Q out of the plane; M bends about the cut, T twists, "
               "M_in bends in the plane, about the middle of the cut.")  # fmt: skip
    return model.verdict
