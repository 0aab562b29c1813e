"""empuje draw MODEL WHAT"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from . import common

if TYPE_CHECKING:
    import numpy as np

    from ..show.canvas import Sheet
    from ..show.view import View

WHAT = ("frame", "loads", "pressures", "deflected", "buckled", "band", "N", "Vy", "Vz", "T", "My", "Mz")
MOST_SHAPES = 12
ENDINGS = (".png", ".svg", ".pdf")


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)
    command.add_argument("what", choices=WHAT, metavar="WHAT", help=", ".join(WHAT))
    common.add_on(command, "members to draw strongly; the others stay faint")
    common.add_under(command, "the only one there is; for a band every combination")
    command.add_argument("--of", metavar="FORCE", help="with band: N, Vy, Vz, T, My or Mz")
    command.add_argument("--view", default=None, help='iso, xz, yz, xy, or degrees round and up such as "-60,20"')
    command.add_argument("--shape", type=int, default=1, help="which buckling shape: 1 (default), 2, ...")
    command.add_argument("--apart", action="store_true", help="loads: each by itself, also what comes from each bay")
    command.add_argument("--names", action="store_true", help="write names of members; with pressures those of bays")
    command.add_argument("--times", type=float, help="how many times as large displacements are drawn")
    command.add_argument(
        "-o", dest="output", metavar="FILE", help="PNG, SVG or PDF by its ending (default: WHAT-NAME.png)"
    )


def run(arguments: argparse.Namespace) -> int:
    from ..show.canvas import Sheet
    from ..show.draw_loads import draw_loads, label_members
    from ..show.draw_pressures import draw_pressures
    from ..show.draw_results import draw_deflected, draw_diagram
    from ..show.output import NotWritten
    from ..show.view import View

    what = arguments.what
    if arguments.output and Path(arguments.output).suffix.lower() not in ENDINGS:
        raise common.Refusal(f"-o {arguments.output}: end the name in {', '.join(ENDINGS)}")
    if arguments.times is not None and not arguments.times > 0:
        raise common.Refusal("--times: give a number above zero")
    model = common.read(arguments.model)
    project = model.project
    try:
        view = View.named(arguments.view or ("xz" if project.plane else "iso"))
    except ValueError:
        known = 'use iso, xz, yz, xy, or two angles such as "-60,20"'
        raise common.Refusal(f'--view "{arguments.view}": {known}') from None
    members = model.members(arguments.on)
    if (what == "band") != bool(arguments.of):
        raise common.Refusal("--of goes with band, and band needs it: draw MODEL band --of My")
    if what == "frame":
        counts = f"{len(project.members)} members, {len(project.nodes)} nodes"
        sheet = Sheet(project, view, members, project.title or project.file, counts)
        sheet.frame()
        sheet.grid()
        if arguments.names:
            label_members(sheet)
        name = ""
    else:
        name = arguments.of if what == "band" else one_result(model, arguments.under)
        project = model.project
        if what == "band":
            sheet = band_sheet(model, arguments, members, view)
        elif what == "loads":
            sheet = draw_loads(
                project, model.loads, name, members, view, model.display, arguments.names, arguments.apart
            )
        elif what == "pressures":
            acting = dict(zip(project.case_names, project.weights([name])[:, 0], strict=False))
            if not any(acting[load.case] for load in project.surface_loads):
                raise common.Refusal(f"{name} has no loads on surfaces; draw loads shows those on members")
            sheet = draw_pressures(project, name, members, view, model.display, arguments.names)
        elif what == "buckled":
            sheet = buckled_sheet(model, arguments, name, members, view)
        else:
            solution, _ = common.solve(model, [name])
            if what == "deflected":
                sheet = draw_deflected(solution, name, members, view, model.display, arguments.times, arguments.names)
            else:
                sheet = draw_diagram(solution, name, what, members, view, model.display, arguments.names)
    output = Path(arguments.output or f"{what}{'-' + name if name else ''}.png")
    try:
        sheet.save(output)
    except NotWritten as error:
        raise common.Refusal(str(error)) from None
    common.say(f"wrote {output}")
    return model.verdict


def buckled_sheet(
    model: common.Model, arguments: argparse.Namespace, name: str, members: np.ndarray, view: View
) -> Sheet:
    """One of the shapes in which the frame buckles under a result."""
    from ..core.answers.stability import buckled
    from ..show.draw_results import draw_buckled

    if not 1 <= arguments.shape <= MOST_SHAPES:
        raise common.Refusal(f"--shape: give a number from 1 to {MOST_SHAPES}")
    prepared = common.prepare(model)
    common.standing(model, prepared.solution, [name])
    try:
        solution, factor = buckled(prepared, name, arguments.shape)
    except LookupError as error:
        raise common.Refusal(f"--shape {arguments.shape}: {error.args[0]}") from None
    what = f"buckling shape {arguments.shape} of {name}, at {factor:.4g} times its loads"
    return draw_buckled(solution, name, what, members, view, arguments.names)


def band_sheet(model: common.Model, arguments: argparse.Namespace, members: np.ndarray, view: View) -> Sheet:
    """Least and greatest of one force over many results."""
    from ..core.analysis.pieces import FORCES
    from ..show.draw_band import draw_band

    (force,) = common.components([arguments.of], FORCES)[:1]
    solution, names = common.solve(model, model.under_combinations(arguments.under), over_patterns=True)
    return draw_band(solution, names, force, members, view, model.display, arguments.names)


def one_result(model: common.Model, under: list[str]) -> str:
    """The one case or combination a picture shows."""
    names = model.under(under)
    if len(names) == 1:
        return names[0]
    shown = ", ".join(names[:6]) + (", ..." if len(names) > 6 else "")
    raise common.Refusal(f"a picture shows one result: name it with --under, such as --under {names[0]} (of {shown})")
