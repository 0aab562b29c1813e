"""Any picture of a model, by what is asked for: the frame, its loads, shapes, diagrams, bands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..core.analysis.pieces import FORCES
from ..core.analysis.solution import Solution
from ..core.analysis.solve import Prepared
from ..core.answers.stability import buckled
from ..core.answers.stress import NoFibre
from ..core.model.results import Result, Results
from ..core.model.words import Picture, Stress
from ..core.resolve.resolved import Resolved
from .canvas import Sheet
from .display import Display
from .draw_axes import draw_axes
from .draw_band import draw_band
from .draw_loads import draw_loads, label_members
from .draw_pressures import draw_pressures
from .draw_results import draw_buckled, draw_deflected, draw_diagram
from .draw_use import draw_stress
from .view import View


class NothingToDraw(LookupError):
    """What was asked for does not exist; the message says so."""


@dataclass(frozen=True)
class Asked:
    """What to draw: the members drawn strongly, from where, with names or without; the force of a band, or the stress;
    the number of a buckling shape; how many times as large displacements are drawn; loads each by itself."""

    what: Picture
    members: NDArray[np.intp]
    view: View
    names: bool = False
    force: str = ""
    shape: int = 1
    times: float | None = None
    apart: bool = False


def picture(
    asked: Asked, model: Resolved, results: Results, display: Display, solved: Callable[[], Solution],
    prepared: Callable[[], Prepared],
) -> Sheet:  # fmt: skip
    """One result's picture, or a band over several. Solves only where it has to. Raises NothingToDraw."""
    if asked.what == Picture.FRAME:
        return draw_frame(model, asked, display)
    if asked.what == Picture.AXES:
        return draw_axes(model.project, asked.members, asked.view, asked.names)
    if asked.what == Picture.BAND:
        return draw_band(solved(), results, asked.force, asked.members, asked.view, display, asked.names)
    if asked.what == Picture.STRESS:
        return _stress(solved(), results, asked, display)
    (result,) = results
    if asked.what == Picture.LOADS:
        return draw_loads(model, result, asked.members, asked.view, display, asked.names, asked.apart)
    if asked.what == Picture.PRESSURES:
        acting = [name for name, factor in result.factors if factor]
        if not model.surface_loads(acting):
            raise NothingToDraw(f"{result.name} has no loads on surfaces; draw loads shows those on members")
        return draw_pressures(model, result, asked.members, asked.view, display, asked.names)
    if asked.what == Picture.BUCKLED:
        return _buckled(prepared(), result, asked)
    if asked.what == Picture.DEFLECTED:
        return draw_deflected(solved(), result, asked.members, asked.view, display, asked.times, asked.names)
    assert asked.what in FORCES
    return draw_diagram(solved(), result, str(asked.what), asked.members, asked.view, display, asked.names)


def _stress(solution: Solution, results: Results, asked: Asked, display: Display) -> Sheet:
    try:
        return draw_stress(solution, results, Stress(asked.force), asked.members, asked.view, display, asked.names)
    except NoFibre:
        raise NothingToDraw("no chosen member has fibres") from None


def draw_frame(model: Resolved, asked: Asked, display: Display) -> Sheet:
    """Members, nodes and supports."""
    project = model.project
    counts = f"{len(project.members)} members, {len(project.nodes)} nodes"
    sheet = Sheet(project, asked.view, asked.members, project.title or project.file, counts)
    sheet.frame()
    sheet.grid()
    if asked.names:
        label_members(sheet)
    return sheet


def _buckled(prepared: Prepared, result: Result, asked: Asked) -> Sheet:
    try:
        solution, factor = buckled(prepared, result, asked.shape)
    except LookupError as error:
        raise NothingToDraw(error.args[0]) from None
    what = f"buckling shape {asked.shape} of {result.name}, at {factor:.4g} times its loads"
    return draw_buckled(solution, result, what, asked.members, asked.view, asked.names)
