"""Any picture of a model, by what is asked for: the frame, its loads, shapes, diagrams, bands."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...core.analysis.pieces import FORCES
from ...core.analysis.solution import Solution
from ...core.analysis.solve import Prepared
from ...core.answers.plate_cuts import NoCut
from ...core.answers.stability import buckled
from ...core.answers.stress_fibres import NoFibre
from ...core.model.results import Result, Results
from ...core.model.words import Label, Picture, Stress
from ...core.resolved import Resolved
from ..display import Display
from .canvas import OWN, Sheet, Tops
from .draw_axes import draw_axes
from .draw_band import draw_band
from .draw_frame import draw_frame
from .draw_loads import draw_loads
from .draw_plates import draw_mesh, draw_plates
from .draw_pressures import draw_pressures
from .draw_reactions import draw_reactions
from .draw_results import draw_buckled, draw_deflected, draw_diagram
from .draw_solid import draw_solid
from .draw_use import draw_stress
from .labels import write_labels
from .paper import Drawing, Strip
from .view import View

STILL = (Picture.FRAME, Picture.AXES, Picture.SOLID, Picture.MESH)
"""Pictures of no result."""
OVER_MANY = (Picture.BAND, Picture.STRESS)
"""Pictures over several results."""
MOST_BESIDE = 4


class NothingToDraw(LookupError):
    """What was asked for does not exist; the message says so."""


@dataclass(frozen=True)
class Asked:
    """What to draw: the members drawn strongly, from where, what is written beside them; the force of a band, or the
    stress; the number of a buckling shape; how many times as large displacements are drawn; loads each by itself;
    stresses at fibres of these names alone; forces in these structural surfaces, and along a cut of them."""

    what: Picture
    members: NDArray[np.intp]
    view: View
    labels: tuple[Label, ...] = ()
    force: str = ""
    shape: int = 1
    times: float | None = None
    apart: bool = False
    fibres: tuple[str, ...] = ()
    surfaces: tuple[int, ...] = ()
    cut: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None


def picture(
    asked: Asked, model: Resolved, results: Results, display: Display, solved: Callable[[], Solution],
    prepared: Callable[[], Prepared],
) -> Drawing | Strip:  # fmt: skip
    """One result's picture, several beside one another on one scale, or a band over several. Solves only where it has
    to. Raises NothingToDraw."""
    if asked.what in STILL or asked.what in OVER_MANY:
        sheets = [_of_all(asked, model, results, display, solved)]
    elif asked.what == Picture.STRIP:
        return _strip(asked, results, display, solved)
    else:
        if len(results) > MOST_BESIDE:
            raise NothingToDraw(f"{len(results)} results are too many for one picture; name up to {MOST_BESIDE}")
        sheets = on_one_scale(
            lambda r, tops: _of_one(asked, model, r, display, solved, prepared, tops), results
        )  # fmt: skip
        if len(sheets) > 1:
            for sheet, result in zip(sheets, results, strict=True):
                more = sheet.what if asked.what == Picture.BUCKLED else sheet.note  # a shape says its factor
                sheet.what, sheet.note = str(asked.what), f"{result.name}: {more}" if more else result.name
    for sheet in sheets:
        write_labels(sheet, asked.labels)
    return Drawing(tuple(sheets))


def on_one_scale(draw: Callable[[Result, Tops], Sheet], results: Results) -> list[Sheet]:
    """A sheet for each result; of several each is drawn to the scale of the largest values on any of them."""
    sheets = [draw(r, OWN) for r in results]
    if len(sheets) < 2:
        return sheets
    tops: Mapping[str, float] = {k: max(s.tops.get(k, 0.0) for s in sheets) for s in sheets for k in s.tops}
    return [draw(r, tops) for r in results]


def _of_all(asked: Asked, model: Resolved, results: Results, display: Display, solved: Callable[[], Solution]) -> Sheet:
    if asked.what == Picture.FRAME:
        return draw_frame(model.project, asked.members, asked.view)
    if asked.what == Picture.SOLID:
        return draw_solid(model.project, asked.members, asked.view)
    if asked.what == Picture.MESH:
        if model.project.plates is None:
            raise NothingToDraw("the model has no structural surface: one has a `material` and a `thickness`")
        return draw_mesh(model.project, asked.members, asked.view, display)
    if asked.what == Picture.AXES:
        return draw_axes(model.project, asked.members, asked.view)
    if asked.what == Picture.BAND:
        return draw_band(solved(), results, asked.force, asked.members, asked.view, display)
    try:
        return draw_stress(solved(), results, Stress(asked.force), asked.members, asked.view, display, asked.fibres)
    except NoFibre:
        named = f" called {' or '.join(asked.fibres)}" if asked.fibres else ""
        raise NothingToDraw(f"no chosen member has fibres{named}") from None


def _of_one(
    asked: Asked, model: Resolved, result: Result, display: Display, solved: Callable[[], Solution],
    prepared: Callable[[], Prepared], tops: Tops,
) -> Sheet:  # fmt: skip
    if asked.what == Picture.LOADS:
        return draw_loads(model, result, asked.members, asked.view, display, asked.apart, tops)
    if asked.what == Picture.PRESSURES:
        acting = [name for name, factor in result.factors if factor]
        if not model.surface_loads(acting):
            raise NothingToDraw(f"{result.name} has no loads on surfaces; draw loads shows those on members")
        named = Label.BAYS in asked.labels or Label.NAMES in asked.labels
        return draw_pressures(model, result, asked.members, asked.view, display, named, tops)
    if asked.what == Picture.PLATES:
        try:
            return draw_plates(
                solved(), result, asked.force, asked.surfaces, asked.members, asked.view, display, tops, asked.cut
            )
        except NoCut as error:
            raise NothingToDraw(f"--cut: {error}") from None
    if asked.what == Picture.BUCKLED:
        return _buckled(prepared(), result, asked)
    if asked.what == Picture.DEFLECTED:
        return draw_deflected(solved(), result, asked.members, asked.view, display, asked.times, tops)
    if asked.what == Picture.REACTIONS:
        return draw_reactions(solved(), result, asked.members, asked.view, display, tops)
    assert asked.what in FORCES
    return draw_diagram(solved(), result, str(asked.what), asked.members, asked.view, display, tops)


def _strip(asked: Asked, results: Results, display: Display, solved: Callable[[], Solution]) -> Strip:
    from .draw_strip import draw_strip

    if len(asked.members) != 1:
        raise NothingToDraw(f"a strip is of one member, and {len(asked.members)} are named; name one with --on")
    if len(results) != 1:
        raise NothingToDraw("a strip is under one result; name it with --under")
    return draw_strip(solved(), results[0], int(asked.members[0]), display)


def _buckled(prepared: Prepared, result: Result, asked: Asked) -> Sheet:
    try:
        solution, factor = buckled(prepared, result, asked.shape)
    except LookupError as error:
        raise NothingToDraw(error.args[0]) from None
    what = f"buckling shape {asked.shape} of {result.name}, at {factor:.4g} times its loads"
    return draw_buckled(solution, result, what, asked.members, asked.view)
