"""empuje draw MODEL WHAT"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.model.words import Label, Picture, Stress, UnknownWord
from . import Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    import numpy as np

    from ..core.analysis.solution import Solution
    from ..core.analysis.solve import Prepared
    from ..core.model.results import Result
    from ..show.drawings.canvas import Sheet, Tops
    from ..show.drawings.picture import Asked
    from ..show.drawings.view import View

WHAT = [str(word) for word in Picture]
ENDINGS = (".png", ".svg", ".pdf")
FRAMES = 48


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument("what", choices=WHAT, metavar="WHAT", help=", ".join(WHAT))
    flags.add_on(command, "members to draw strongly, the others stay faint; with plates the surfaces")
    part = command.add_mutually_exclusive_group()
    part.add_argument("--elevation", metavar="LINE", help="the members in the plane of a grid line of x or y alone")
    part.add_argument("--plan", metavar="LEVEL", help="the members in a level of the grid alone, from above")
    flags.add_under(command, "the only one there is; for a band every combination")
    command.add_argument(
        "--side-by-side",
        action="store_true",
        help="two to four results side by side, on one scale: --under A,B --side-by-side",
    )
    command.add_argument(
        "--of",
        metavar="FORCE",
        help="with band: N, Vy, Vz, T, My or Mz; with stress: normal (default), shear or mises; with "
        "plates: m_x (default), n_x, ..., w",
    )
    command.add_argument(
        "--fibre", action="append", default=[], metavar="NAME",
        help="with stress: only at these fibres (middle, corner 1, ...), several with commas",
    )  # fmt: skip
    command.add_argument("--view", default=None, help='iso, xz, yz, xy, or degrees round and up such as "-60,20"')
    command.add_argument("--shape", type=int, default=1, help="which buckling shape: 1 (default), 2, ...")
    command.add_argument("--apart", action="store_true", help="loads: each by itself, also what comes from each bay")
    command.add_argument(
        "--label", action="append", default=[], metavar="WHAT",
        help="what to write beside members and nodes: " + ", ".join(map(str, Label)) + " (bays: of pressures)",
    )  # fmt: skip
    command.add_argument(
        "--at-step",
        type=int,
        metavar="N",
        help="a result with moving loads: with the vehicle at this step (of `empuje traffic`)",
    )
    command.add_argument(
        "--animate", action="store_true", help="the vehicle passing, as a GIF: deflected shape or diagram follow it"
    )
    command.add_argument(
        "--cut", nargs=2, metavar=("FROM", "TO"),
        help="plates: a component along a line between two points, each a node or x,y,z, and what passes through it",
    )  # fmt: skip
    command.add_argument("--times", type=float, help="how many times as large displacements are drawn")
    command.add_argument(
        "-o", dest="output", metavar="FILE", help="PNG, SVG or PDF by its ending (default: WHAT-NAME.png)"
    )
    flags.add_force(command)
    flags.add_cache(command)


OF_MEMBERS = (
    Picture.AXES, Picture.BAND, Picture.UTILISATION, Picture.STRESS, Picture.STRIP,
    Picture.N, Picture.VY, Picture.VZ, Picture.T, Picture.MY, Picture.MZ,
)  # fmt: skip


def run(arguments: argparse.Namespace) -> int:
    from ..core.analysis.pieces import FORCES
    from ..core.answers.plates import COMPONENTS
    from ..show.drawings.draw_plates import KINDS_DRAWN
    from ..show.drawings.picture import OVER_MANY, STILL, Asked, NothingToDraw, picture
    from ..show.output import NotWritten
    from .places import point_meant

    what = Picture(arguments.what)
    endings = (".gif",) if arguments.animate else ENDINGS
    if arguments.output and Path(arguments.output).suffix.lower() not in endings:
        raise Refusal(f"-o {arguments.output}: end the name in {', '.join(endings)}")
    if arguments.animate and (arguments.at_step or what not in (Picture.DEFLECTED, *FORCES)):
        raise Refusal("--animate is about the deflected shape or a diagram, and about all steps")
    if arguments.times is not None and not arguments.times > 0:
        raise Refusal("--times: give a number above zero")
    flags.refuse_shapes(arguments.shape, "--shape")
    model = common.read(arguments)
    surfaces: list[int] = []
    if what in (Picture.PLATES, Picture.MESH):
        surfaces, arguments.on = model.structural(arguments.on), []
    if what in OF_MEMBERS:
        model.refuse_without_members()
    members, view = _part(model, arguments)
    labels = _labels(arguments.label)
    if (what == Picture.BAND) != bool(arguments.of) and what not in (Picture.STRESS, Picture.PLATES):
        raise Refusal("--of goes with band, and band needs it: draw MODEL band --of My; or with stress, or plates")
    if arguments.fibre and what != Picture.STRESS:
        raise Refusal("--fibre goes with stress: draw MODEL stress --fibre middle")
    if arguments.cut and what != Picture.PLATES:
        raise Refusal("--cut goes with plates: draw MODEL plates --of m_x --cut FROM TO")
    results: list[Result] = []
    force, cut = "", None
    if arguments.cut:
        a, b = (point_meant(model, text, "--cut") for text in arguments.cut)
        cut = a, b
    if what == Picture.UTILISATION:
        return _utilisation(model, arguments, members, view, labels)
    if what == Picture.PLATES:
        known = tuple(KINDS_DRAWN) if arguments.cut is None else COMPONENTS
        (force,) = flags.components([arguments.of or "m_x"], known)[:1]
    whole = what in OVER_MANY
    if whole:
        known, usual = (FORCES, "") if what == Picture.BAND else (tuple(map(str, Stress)), str(Stress.NORMAL))
        (force,) = flags.components([arguments.of or usual], known)[:1]
        results = model.under_combinations(arguments.under)
    elif what not in STILL and arguments.side_by_side:
        results = _beside(model, arguments)
    elif what not in STILL:
        results = stood(model, arguments.under, arguments.at_step, arguments.animate)
    name = (
        "-".join([force] * (what == Picture.PLATES) + [r.name for r in results])
        if not whole
        else force or "-".join(r.name for r in results)
    )
    output = Path(arguments.output or f"{what}{'-' + name if name else ''}{'.gif' if arguments.animate else '.png'}")
    outputs.claim(str(output), arguments, model.study.inputs)
    asked = Asked(
        what, members, view, labels, force, arguments.shape, arguments.times, arguments.apart,
        tuple(flags.split(arguments.fibre)), tuple(surfaces), cut,
    )  # fmt: skip

    def solved() -> Solution:
        solution, results[:] = common.solve(model, results, whole, over_positions=whole)
        return solution

    def prepared() -> Prepared:
        first = common.prepare(model)
        common.standing(model, first.solution, results)
        return first

    if arguments.animate:
        return _animated(model, solved(), results, asked, output)
    try:
        drawing = picture(asked, model.resolved, results, model.display, solved, prepared)
    except NothingToDraw as error:
        option = f"--shape {arguments.shape}: " if what == Picture.BUCKLED else ""
        raise Refusal(f"{option}{error.args[0]}") from None
    try:
        drawing.save(output)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    saying.say(f"wrote {output}")
    return model.verdict


def _utilisation(
    model: common.Model, arguments: argparse.Namespace, members: np.ndarray, view: View, labels: tuple[Label, ...]
) -> int:
    """How much steel members use, drawn."""
    from ..show.drawings.draw_use import draw_utilisation
    from ..show.drawings.labels import write_labels
    from ..show.drawings.paper import Drawing
    from ..show.output import NotWritten
    from .members import checked

    if arguments.under:
        raise Refusal("--under: utilisation is under what [steel] says; change `under` there")
    output = Path(arguments.output or "utilisation.png")
    outputs.claim(str(output), arguments, model.study.inputs)
    on = arguments.on if not view.alone else [model.project.members[m].name for m in members.tolist()]
    _, found = checked(model, on)
    sheet = draw_utilisation(model.project, found, view)
    write_labels(sheet, labels)
    try:
        Drawing((sheet,)).save(output)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    saying.say(f"wrote {output}")
    return model.verdict


def _part(model: common.Model, arguments: argparse.Namespace) -> tuple[np.ndarray, View]:
    """The members drawn strongly, and the view: of all, or of an elevation or a plan."""
    import numpy as np

    from ..show.drawings.parts import NoPart, elevation, plan
    from ..show.drawings.view import View

    members = model.members(arguments.on) if model.project.members else np.zeros(0, np.intp)
    option = "--plan" if arguments.plan else "--elevation"
    asked = arguments.plan or arguments.elevation
    if not asked:
        return members, _view(arguments.view) if arguments.view else View.usual(model.project.plane)
    try:
        lying, view = (plan if arguments.plan else elevation)(model.project, asked)
    except NoPart as error:
        raise Refusal(f"{option} {asked}: {error.args[0]}") from None
    if arguments.view:
        raise Refusal(f"{option} has a view of its own: leave --view out")
    members = np.intersect1d(members, lying)
    if not len(members):
        raise Refusal(f"{option} {asked}: none of the members named with --on lies there")
    return members, view


def _labels(words: list[str]) -> tuple[Label, ...]:
    """What is asked to be written."""
    from ..core.model.findings import did_you_mean

    out = []
    for word in flags.split(words):
        try:
            out.append(Label.read(word))
        except UnknownWord:
            raise Refusal(f"--label: there is no {word}; {did_you_mean(word, map(str, Label))}") from None
    return tuple(dict.fromkeys(out))


def _beside(model: common.Model, arguments: argparse.Namespace) -> list[Result]:
    """Several results for one paper."""
    from ..show.drawings.picture import MOST_BESIDE

    if Picture(arguments.what) == Picture.STRIP or arguments.animate or arguments.at_step is not None:
        raise Refusal("--side-by-side goes with pictures of the whole frame, without --animate and --at-step")
    results = model.under(arguments.under)
    if not 2 <= len(results) <= MOST_BESIDE:
        raise Refusal(f"--side-by-side shows 2 to {MOST_BESIDE} results, and --under names {len(results)}")
    moving = next((r.name for r in results if r.moving), None)
    if moving is not None:
        raise Refusal(f"{moving} has loads that move: name positions of it, such as {moving}@2m")
    return results


def _view(word: str) -> View:
    from ..show.drawings.view import View

    try:
        return View.named(word)
    except ValueError:
        known = 'use iso, xz, yz, xy, or two angles such as "-60,20"'
        raise Refusal(f'--view "{word}": {known}') from None


def stood(model: common.Model, under: list[str], step: int | None, animated: bool) -> list[Result]:
    """The one result that a picture shows; with moving loads at a step, or at steps all along one journey."""
    from ..core.answers.traffic import journey_of, standing_at_step

    words = flags.split(under)
    laid = {one.traffic.case: one for one in model.resolved.laid}
    by_itself = words[0] if len(words) == 1 and words[0] in laid else ""
    result = (
        None
        if by_itself and not any(r.name == by_itself for r in model.resolved.results)
        else (one_result(model, under))
    )
    case = by_itself or next(iter(result.moving if result is not None else ()), "")
    if not case:
        if step is not None or animated:
            raise Refusal("--at-step and --animate are about results with moving loads")
        assert result is not None
        return [result]
    movers = common.refusing_mechanisms(model.study, lambda: model.study.movers)
    try:
        if step is not None:
            standings = [standing_at_step(movers[case], step)]
        elif animated:
            standings = journey_of(movers[case], FRAMES)
        else:
            raise Refusal(f"{under[0] if under else case} has loads that move: add --at-step N (see `empuje traffic`), "
                          f"or name a position, such as {case}@2m")  # fmt: skip
    except LookupError as error:
        raise Refusal(f"--at-step: {error.args[0]}") from None
    return model.study.at_step(result, case, standings)


def _animated(model: common.Model, solution: Solution, results: list[Result], asked: Asked, output: Path) -> int:
    """Every position as a frame, on one scale."""
    from ..show.drawings.animation import save_gif
    from ..show.drawings.draw_results import draw_deflected, draw_diagram
    from ..show.drawings.labels import write_labels
    from ..show.drawings.picture import on_one_scale
    from ..show.output import NotWritten

    display = model.display

    def draw(r: Result, tops: Tops) -> Sheet:
        if asked.what == Picture.DEFLECTED:
            sheet = draw_deflected(solution, r, asked.members, asked.view, display, asked.times, tops)
        else:
            sheet = draw_diagram(solution, r, str(asked.what), asked.members, asked.view, display, tops)
        write_labels(sheet, asked.labels)
        return sheet

    try:
        count = save_gif(on_one_scale(draw, results), output)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    saying.say(f"wrote {output}: {count} frames")
    return model.verdict


def one_result(model: common.Model, under: list[str]) -> Result:
    """The one case or combination a picture shows."""
    results = model.under(under)
    if len(results) == 1:
        return results[0]
    names = [r.name for r in results]
    shown = ", ".join(names[:6]) + (", ..." if len(names) > 6 else "")
    raise Refusal(f"a picture shows one result: name it with --under, such as --under {names[0]} (of {shown})")
