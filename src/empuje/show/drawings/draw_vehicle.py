"""Vehicles drawn where they stand: wheels with their loads, and a line from the first axle to the last."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.actions.traffic.laid import Laid
from ...core.model.results import Result
from ...core.model.traffic import Spot
from ...core.resolved import Resolved
from ..display import Display
from .canvas import GRID, VEHICLE, Sheet

Floats = NDArray[np.float64]
HEIGHT = 0.11
"""Of the heaviest wheel's arrow, as a share of the drawing."""


def draw_vehicles(sheet: Sheet, model: Resolved, result: Result, display: Display) -> None:
    """The vehicles of a result's positions, with their unfactored loads."""
    own = {name for name, factor in result.factors if factor}
    if any(s.case in own for s in model.project.standings):
        text = f"vehicle: unfactored wheel loads in {display.unit('force')}, with dynamic factors"
        sheet.say(text, VEHICLE)
    by_case = {one.traffic.case: one for one in model.laid}
    for standing in model.project.standings:
        traffic = model.project.traffic[standing.traffic]
        if standing.case in own and traffic.case in by_case:
            for spot in standing.spots:
                _draw(sheet, by_case[traffic.case], spot, display)


def _draw(sheet: Sheet, laid: Laid, spot: Spot, display: Display) -> None:
    one, train = laid.ways[spot.way], laid.train(spot)
    s = train.places(np.array([spot.t]))[:, 0]
    there = (s >= -1e-6) & (s <= one.length + 1e-6)
    path = one.path
    heaviest = float(train.down.max(initial=0)) or 1.0
    up = np.array([0.0, 0.0, HEIGHT * sheet.size])
    feet: dict[int, Floats] = {}
    for k in np.flatnonzero(there).tolist():
        at = path.at(np.clip(s[[k]], 0.0, one.length), float(train.left[k]))[0]
        feet[k] = at
        top = at + up * (0.35 + 0.65 * train.down[k] / heaviest)
        sheet.arrows(top[None], at[None], VEHICLE, order=7, width=1.8)
        sheet.label(top + 0.02 * up, f"{train.down[k] * display.factor('force'):.4g}", VEHICLE, 0.9)
    # Wheels behind one another, and those of an axle, hang together.
    for groups in (train.left, train.axle):
        for group in np.unique(groups).tolist():
            own = [k for k in feet if groups[k] == group]
            if len(own) > 1:
                own.sort(key=lambda k: (float(s[k]), float(train.left[k])))
                sheet.lines([np.array([feet[own[0]], feet[own[-1]]]) + 0.3 * up], VEHICLE, 2.0, order=6)
    for a, b in spot.lanes:
        places = np.linspace(a, b, 9)
        foot = path.at(places, one.way.aside)
        sheet.areas([np.vstack([foot, (foot + 0.25 * up)[::-1]])], GRID, order=5)
