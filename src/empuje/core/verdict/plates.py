"""Limits on structural surfaces: the extremes of each, wherever they are in it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.places import plain
from ..analysis.moving.units import Units
from ..analysis.solution import Columns, Solution
from ..answers.moving import fixed_extremes
from ..answers.plate_cuts import CUT_KINDS, NoCut, cuts_of, resultants
from ..answers.plates import PLATE_KINDS, Extreme, PlateForces, linear, plate_extremes, plate_forces
from ..answers.table import said
from ..answers.why import Sum
from ..model.limits import Limit
from ..model.results import Results
from .found import Found, nothing, sum_along

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def plates_found(solution: Solution, results: Results, limit: Limit, of: str) -> Found:
    """The least and the greatest of a value in each surface of a limit, peaks included."""
    project = solution.model.project
    number = {s.name: i for i, s in enumerate(project.surfaces)}
    forces = plate_forces(solution)
    pairs: list[tuple[Extreme, Extreme]] = []
    lost = []
    for name, _ in limit.floors:
        found = plate_extremes(forces, results, [number[name]], [of])
        sides = [[e for e in found if e.side == side] for side in (0, 1)]
        if not all(sides):
            why = {"p": "it lies on no bed", "sag": "nothing holds it but a bed"}.get(of, IN_COLUMNS)
            lost.append((name, why))
            continue
        pairs.append((min(sides[0], key=lambda e: e.value), max(sides[1], key=lambda e: e.value)))
    if not pairs:
        return nothing(lost)
    how = [said(h, r.second_order_at) for r, h in zip(results, solution.how(results), strict=True)]

    def made(row: Ints, side: Ints) -> list[tuple[str, str]]:
        own = [pairs[r][s] for r, s in zip(row.tolist(), side.tolist(), strict=True)]
        return [(e.case, how[e.result]) for e in own]

    ((component, _, _),) = linear(of)

    def explained(row: int, side: int, solved: Solution, weights: Floats) -> list[Sum]:
        there = plate_forces(solved)
        place = pairs[row][side].place

        def rows(table: Columns | Units) -> Floats:
            values = there.every if table is solved else there.rows(table)
            return values[place : place + 1, component : component + 1]

        return [sum_along(of, dict(PLATE_KINDS)[of], _where(forces, pairs[row][side]), rows, 0, solved, weights)]

    names = [project.surfaces[low.surface].name for low, _ in pairs]
    value = np.array([[low.value, high.value] for low, high in pairs])
    peaks = [name for name, pair in zip(names, pairs, strict=True) if any(e.peak for e in pair)]
    notes = (f"{', '.join(peaks)}: next to points where {of} has no finite value, a mean over two lengths of mesh",)
    return Found(names, value, made, lost=tuple(lost), notes=notes if peaks else (), sums=explained)


IN_COLUMNS = "all of it is in the footprints of columns"


def cuts_found(solution: Solution, results: Results, limit: Limit, of: str) -> Found:
    """The least and the greatest of what passes through a cut of each surface of a limit that it goes through."""
    assert limit.cut is not None
    surfaces = solution.model.project.surfaces
    number = {s.name: i for i, s in enumerate(surfaces)}
    forces = plate_forces(solution)
    a, b = (np.array(end) for end in limit.cut)
    words = " to ".join(f"({', '.join(f'{v:g}' for v in end)})" for end in limit.cut)
    try:
        cuts = cuts_of(forces, [number[name] for name, _ in limit.floors], a, b)
    except NoCut as error:
        return nothing([(words, str(error))])
    row = [name for name, _ in CUT_KINDS].index(of)

    def columns(forces: PlateForces, table: Columns | Units) -> Floats:
        values = forces.every if table is forces.solution else forces.rows(table)
        return np.stack([resultants(cut, values)[row] for cut in cuts])

    found = fixed_extremes(solution, results, columns(forces, solution), lambda units: plain(columns(forces, units)))
    how = [said(h, r.second_order_at) for r, h in zip(results, solution.how(results), strict=True)]

    def made(rows: Ints, side: Ints) -> list[tuple[str, str]]:
        names = found.names(solution, results, rows, side)
        return [(name, how[k]) for name, k in zip(names, found.result[rows, side].tolist(), strict=True)]

    def explained(k: int, side: int, solved: Solution, weights: Floats) -> list[Sum]:
        there = plate_forces(solved)
        where = f"{names[k]} through the cut from {words} m"

        def one(table: Columns | Units) -> Floats:
            return columns(there, table)[k : k + 1, None]

        return [sum_along(of, dict(CUT_KINDS)[of], where, one, 0, solved, weights)]

    names = [surfaces[cut.surface].name for cut in cuts]
    return Found(names, found.value, made, sums=explained)


def _at(forces: PlateForces, found: Extreme) -> str:
    x, y, z = forces.xyz[found.place] + 0.0
    return f"({x:.4g}, {y:.4g}, {z:.4g}) m"


def _where(forces: PlateForces, found: Extreme) -> str:
    name = forces.solution.model.project.surfaces[found.surface].name
    return f"{name} at {_at(forces, found)}"
