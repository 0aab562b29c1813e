"""What foundations ask: governing reactions with what goes with them, a schedule by kind of support, supports that hold
the frame down, and where the resultant of a case acts.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.places import at_nodes, at_supports
from ..analysis.moving.units import Units
from ..analysis.solution import Columns, Solution
from ..model.frame import FREEDOMS
from ..model.results import Results
from .envelope import TIE
from .moving import Make, fixed_extremes
from .reactions import blank_out_of_plane, resultants
from .table import FORCE_KINDS, MOTION_KINDS, NO_ANSWER, Column, Table, case_column, how_column, six

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


def support_kinds(solution: Solution) -> list[str]:
    """In words, what each supported node is held by: fixed, pinned, "x z", "z, spring rx, can only push"."""
    out = []
    for node in solution.support_node:
        own = [s for s in solution.project.supports if s.node == node]
        held, spring = (np.any([getattr(s, a) for s in own], axis=0) for a in ("held", "spring"))
        plane = solution.project.plane
        whole = [f for f in FREEDOMS if not plane or f in ("x", "z", "ry")]
        fixed = [f for f, h in zip(FREEDOMS, held, strict=True) if h and f in whole]
        shifts = [f for f in whole if len(f) == 1]
        words = ["fixed" if fixed == whole else "pinned" if fixed == shifts else " ".join(fixed)] if fixed else []
        sprung = [f for f, s in zip(FREEDOMS, spring & ~held, strict=True) if s and f in whole]
        words += [f"spring {' '.join(sprung)}"] if sprung else []
        words += ["can only push"] if any(s.lift for s in own) else []
        words += ["turned"] if any(np.abs(np.asarray(s.axes) - np.eye(3)).max() > 1e-12 for s in own) else []
        out.append(", ".join(words) or "free")
    return out


def schedule(
    solution: Solution, results: Results, nodes: Ints | None = None, of: Sequence[str] = FORCES, turned: bool = False
) -> Table:
    """Supports by kind and in the order of their names, each with its reactions under every unfactored case (none under
    one that cannot stand alone), then the governing ones over `results`; of the components `of` those that some of the
    supports hold. `turned`: what acts on the foundations instead."""
    project = solution.project
    every_case = [r for r, c in zip(solution.model.cases, project.cases, strict=True) if not c.lean]
    cases = [r for r in every_case if r not in solution.failed and not r.moving]
    of_moving = {r: reaction_envelope(solution, [r], nodes, ("Fz",)) for r in every_case if r.moving}
    every = reaction_envelope(solution, results, nodes, of)
    by_case = solution.reaction @ solution.weights(cases)
    kinds = support_kinds(solution)
    chosen = range(len(kinds)) if nodes is None else np.flatnonzero(np.isin(solution.support_node, nodes)).tolist()
    order = sorted(chosen, key=lambda i: (kinds[i], _in_grid(project.nodes[solution.support_node[i]].name)))
    extreme = {"min": "max", "max": "min"} if turned else {"min": "min", "max": "max"}
    head: list[tuple[str, str, str, str]] = []
    place: list[Floats] = []
    value: list[Floats] = []
    for i in order:
        node = project.nodes[solution.support_node[i]]
        rows = [
            ("case", c.name, by_case[i, :, cases.index(c)]) if c in cases else (NO_ANSWER, c.name, np.full(6, np.nan))
            for c in every_case if c not in of_moving
        ]  # fmt: skip
        for table in of_moving.values():
            for k in np.flatnonzero(table["node"] == node.name).tolist():
                own = np.array([table[f][k] for f in FORCES])
                rows.append((f"case, {extreme[table['extreme'][k]]} Fz", table["case"][k], own))
        mine = np.flatnonzero(every["node"] == node.name)
        forces = np.column_stack([every[f][mine] for f in FORCES])
        for k, m in enumerate(mine):
            rows.append((f"{extreme[every['extreme'][m]]} {every['of'][m]}", every["case"][m], forces[k]))
        for what, case, force in rows:
            head.append((kinds[i], node.name, what, case))
            place.append(project.xyz[solution.support_node[i]])
            value.append(np.where(solution.held[i], force, np.nan))
    kind, label, what_, case_ = (list(c) for c in zip(*head, strict=True)) if head else ([], [], [], [])
    at = np.array(place).reshape(-1, 3)
    told = np.array(value).reshape(-1, 6) * (-1 if turned else 1)
    for part in (told[:, :3], told[:, 3:]):
        part[np.abs(part) < ROUNDING * np.nanmax(np.abs(part), initial=0.0)] = 0.0
    there = [f for k, f in enumerate(FORCES) if f in of and not np.isnan(told[:, k]).all()]
    return Table(
        "foundations",
        (
            Column("support", "text", kind), Column("node", "text", label),
            *(Column(c, "length", at[:, k]) for k, c in enumerate("xyz")),
            Column("what", "text", what_), Column("case", "text", case_),
            *(c for c in six(FORCE_KINDS, told) if c.name in there),
        ),
    )  # fmt: skip


def _in_grid(name: str) -> list[tuple[bool, float, str]]:
    """What sorts names as lines of a grid are counted: A2 before A10."""
    parts = re.split(r"(\d+)", name)
    return [(not p.isdigit(), float(p) if p.isdigit() else 0.0, p) for p in parts]


def pulled(solution: Solution, results: Results) -> list[tuple[str, str, float]]:
    """Supports that hold the frame down (Fz < 0): node, the result under which they pull most, and Fz [N]."""
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
