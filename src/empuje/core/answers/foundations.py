"""What foundations ask: governing reactions with what goes with them, a schedule by kind of support, supports that hold
the frame down, and where the resultant of a case acts.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.places import at_nodes, at_supports
from ..analysis.moving.units import Units
from ..analysis.solution import Columns, Solution
from ..model.results import Results
from .envelope import TIE
from .line_reactions import by_lines
from .moving import Make, fixed_extremes
from .reactions import blank_out_of_plane, resultants
from .table import FORCE_KINDS, MOTION_KINDS, Column, Table, case_column, how_column, six

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ROUNDING = 1e-9
"""Of the greatest of its kind: what is less is nothing."""
FORCES = tuple(name for name, _ in FORCE_KINDS)
MOTIONS = tuple(name for name, _ in MOTION_KINDS)


def _envelope(
    name: str, solution: Solution, results: Results, labels: Sequence[str],
    of_columns: Callable[[Columns | Units], Floats], places: Make, kinds: tuple[Any, ...],
    absent: NDArray[np.bool_], of: Sequence[str],
) -> Table:  # fmt: skip
    """Least and greatest of each component of columns (rows, 6, columns), with the other five there and then; `places`:
    the same (rows * 6) of traffic."""
    components = [k for k, _ in kinds]
    columns = of_columns(solution)
    n = len(labels)
    size = np.abs(columns @ np.abs(solution.weights(results, still=True))).max(axis=2, initial=0.0)
    tie = TIE * np.repeat(np.stack([size[:, :3].max(axis=1), size[:, 3:].max(axis=1)], axis=1), 3, axis=1)
    found = fixed_extremes(solution, results, columns.reshape(6 * n, -1), places, tie.ravel())
    rows = [
        (r, components.index(c), side)
        for r in range(n) for c in of if not absent[r, components.index(c)] for side in (0, 1)
    ]  # fmt: skip
    row, component, side = np.array(rows, np.intp).reshape(-1, 3).T
    flat = 6 * row + component
    result = found.result[flat, side]
    at_once = found.at_once(solution, results, lambda table: of_columns(table).repeat(6, axis=0), flat, side)
    made_by = found.names(solution, results, flat, side)
    return Table(
        name,
        (
            Column("node", "text", np.array(labels, object)[row]),
            Column("of", "text", np.array(components, object)[component]),
            Column("extreme", "text", np.array(["min", "max"], object)[side]),
            Column("case", "text", made_by),
            *six(kinds, np.where(absent[row], np.nan, at_once)),
            how_column(results, solution.how(results), result),
        ),
    )


def reaction_envelope(
    solution: Solution, results: Results, nodes: Ints | None = None, of: Sequence[str] = FORCES
) -> Table:
    """Least and greatest reaction of each supported node, with the combination and the other five components."""
    solution = by_lines(solution, results)
    supported = solution.support_node
    chosen = np.arange(len(supported)) if nodes is None else np.flatnonzero(np.isin(supported, nodes))
    labels = [solution.project.nodes[i].name for i in supported[chosen]]
    absent = ~solution.held[chosen]
    which, component = np.repeat(chosen, 6), np.tile(np.arange(6), len(chosen))
    return _envelope(
        "reaction-envelope", solution, results, labels, lambda c: c.reaction[chosen],
        lambda units: at_supports(units, which, component), FORCE_KINDS, absent, of,
    )  # fmt: skip


def displacement_envelope(solution: Solution, results: Results, nodes: Ints, of: Sequence[str] = MOTIONS) -> Table:
    """Least and greatest displacement of each node, with the combination and the other five components."""
    labels = [solution.project.nodes[i].name for i in nodes]
    absent = solution.undefined[nodes]
    which, component = np.repeat(nodes, 6), np.tile(np.arange(6), len(nodes))
    return _envelope(
        "displacement-envelope", solution, results, labels, lambda c: c.displacement[nodes],
        lambda units: at_nodes(units, which, component), MOTION_KINDS, absent, of,
    )  # fmt: skip


def pulled(solution: Solution, results: Results) -> list[tuple[str, str, float]]:
    """Supports that hold the frame down (Fz < 0): node, the result under which they pull most, and Fz [N]."""
    solution = by_lines(solution, results)
    each = np.arange(len(solution.support_node))
    two = np.full(len(each), 2)
    found = fixed_extremes(solution, results, solution.reaction[:, 2], lambda units: at_supports(units, each, two))
    least, made_by = found.value[:, 0], found.names(solution, results, each, 0 * each)
    size = float(np.abs(found.value).max(initial=0))
    return [
        (solution.project.nodes[solution.support_node[i]].name, made_by[i], float(least[i]))
        for i in np.argsort(least, kind="stable") if least[i] < -1e-9 * size
    ]  # fmt: skip


def resultant_table(solution: Solution, results: Results, about: Floats, nodes: Ints | None = None) -> Table:
    """Loads and reactions of each result as one force and moment about a point; of some supports their reactions alone.

    Fx Fy Fz, their size F and its inclination from the vertical, the horizontal part H (base shear), the moments about
    `about` (3,) [m], and x, y: where the line of action crosses the level of that point (from it, x = -My/Fz and
    y = Mx/Fz).
    """
    sums = ["applied", "reactions"] if nodes is None else ["reactions"]
    both = np.stack(resultants(solution, results, nodes)[-len(sums) :]).transpose(2, 0, 1).reshape(-1, 6)
    # Reactions that cancel out leave rounding, not a resultant.
    size = np.abs(solution.reaction[:, :3] @ solution.weights(results)).sum(axis=(0, 1)).repeat(len(sums))
    both[np.abs(both[:, :3]).max(axis=1, initial=0) <= 1e-9 * size] = 0.0
    force, moment = both[:, :3], both[:, 3:].copy()
    moment += np.cross(solution.centre - about, force)
    H, F = np.hypot(force[:, 0], force[:, 1]), np.linalg.norm(force, axis=1)
    Fz = np.where(np.abs(force[:, 2]) > 1e-9 * np.where(F > 0, F, 1.0), force[:, 2], np.nan)
    tilt = np.where(F > 0, np.arctan2(H, np.abs(force[:, 2])), np.nan)
    values = blank_out_of_plane(solution, np.hstack([force, moment]))
    y = np.full(len(F), np.nan) if solution.project.plane else about[1] + moment[:, 0] / Fz
    each = np.repeat(np.arange(len(results)), len(sums))
    return Table(
        "resultants",
        (
            case_column(results, each),
            Column("sum", "text", sums * len(results)),
            *six(FORCE_KINDS, values)[:3],
            Column("F", "force", F), Column("inclination", "angle", tilt), Column("H", "force", H),
            *six(FORCE_KINDS, values)[3:],
            Column("x", "length", about[0] - moment[:, 1] / Fz), Column("y", "length", y),
            how_column(results, solution.how(results), each),
        ),
    )  # fmt: skip
