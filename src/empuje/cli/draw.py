"""empuje draw MODEL WHAT"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.model.words import Picture
from . import Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.analysis.solution import Solution
    from ..core.analysis.solve import Prepared
    from ..core.model.results import Result
    from ..show.view import View

WHAT = [str(word) for word in Picture]
ENDINGS = (".png", ".svg", ".pdf")


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument("what", choices=WHAT, metavar="WHAT", help=", ".join(WHAT))
    flags.add_on(command, "members to draw strongly; the others stay faint")
    flags.add_under(command, "the only one there is; for a band every combination")
    command.add_argument("--of", metavar="FORCE", help="with band: N, Vy, Vz, T, My or Mz")
    command.add_argument("--view", default=None, help='iso, xz, yz, xy, or degrees round and up such as "-60,20"')
    command.add_argument("--shape", type=int, default=1, help="which buckling shape: 1 (default), 2, ...")
    command.add_argument("--apart", action="store_true", help="loads: each by itself, also what comes from each bay")
    command.add_argument("--names", action="store_true", help="write names of members; with pressures those of bays")
    command.add_argument("--times", type=float, help="how many times as large displacements are drawn")
    command.add_argument(
        "-o", dest="output", metavar="FILE", help="PNG, SVG or PDF by its ending (default: WHAT-NAME.png)"
    )
    flags.add_force(command)
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.analysis.pieces import FORCES
    from ..show.output import NotWritten
    from ..show.picture import Asked, NothingToDraw, picture

    what = Picture(arguments.what)
    if arguments.output and Path(arguments.output).suffix.lower() not in ENDINGS:
        raise Refusal(f"-o {arguments.output}: end the name in {', '.join(ENDINGS)}")
    if arguments.times is not None and not arguments.times > 0:
        raise Refusal("--times: give a number above zero")
    flags.refuse_shapes(arguments.shape, "--shape")
    model = common.read(arguments)
    view = _view(arguments.view or ("xz" if model.project.plane else "iso"))
    members = model.members(arguments.on)
    if (what == Picture.BAND) != bool(arguments.of):
        raise Refusal("--of goes with band, and band needs it: draw MODEL band --of My")
    results: list[Result] = []
    force = ""
    if what == Picture.BAND:
        (force,) = flags.components([arguments.of], FORCES)[:1]
        results = model.under_combinations(arguments.under)
    elif what != Picture.FRAME:
        results = [one_result(model, arguments.under)]
    name = force or "".join(r.name for r in results[:1])
    output = Path(arguments.output or f"{what}{'-' + name if name else ''}.png")
    outputs.claim(str(output), arguments, model.study.inputs)
    asked = Asked(
        what, members, view, arguments.names, force, arguments.shape, arguments.times, arguments.apart
    )  # fmt: skip

    def solved() -> Solution:
        band = what == Picture.BAND
        solution, results[:] = common.solve(model, results, band, over_positions=band)
        return solution

    def prepared() -> Prepared:
        first = common.prepare(model)
        common.standing(model, first.solution, results)
        return first

    try:
        sheet = picture(asked, model.resolved, results, model.display, solved, prepared)
    except NothingToDraw as error:
        option = f"--shape {arguments.shape}: " if what == Picture.BUCKLED else ""
        raise Refusal(f"{option}{error.args[0]}") from None
    try:
        sheet.save(output)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    saying.say(f"wrote {output}")
    return model.verdict


def _view(word: str) -> View:
    from ..show.view import View

    try:
        return View.named(word)
    except ValueError:
        known = 'use iso, xz, yz, xy, or two angles such as "-60,20"'
        raise Refusal(f'--view "{word}": {known}') from None


def one_result(model: common.Model, under: list[str]) -> Result:
    """The one case or combination a picture shows."""
    results = model.under(under)
    if len(results) == 1:
        return results[0]
    names = [r.name for r in results]
    shown = ", ".join(names[:6]) + (", ..." if len(names) > 6 else "")
    raise Refusal(f"a picture shows one result: name it with --under, such as --under {names[0]} (of {shown})")
