"""Stresses at more places than the worst: at all fibres of the section where one leads, and at stations of members."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import build_pieces
from ..analysis.solution import Solution
from ..catalogue.fibres import all_fibres
from ..model.frame import Section
from ..model.project import Project
from ..model.results import Results
from ..model.words import Stress
from .bands import station_values
from .moving import moving_of
from .patterns import listed
from .stress_fibres import NoFibre, coefficients
from .stress_moving import stations_of_moving
from .table import MEMBER_KINDS, Column, Table, how_column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
AT_ONCE = 2_000_000
"""Values held at a time."""


def of_forces(section: Section, forces: Floats) -> tuple[list[str], Floats]:
    """Names of a section's fibres, and normal, shear and von Mises stress (fibres, 3, n) under forces (n, 6)."""
    fibres = all_fibres(section)
    sigma, tau_z, tau_y = (share @ forces.T for share in coefficients(section, fibres))
    shear = np.hypot(tau_z, tau_y)
    return [f.name for f in fibres], np.stack([sigma, shear, np.sqrt(sigma**2 + 3 * shear**2)], axis=1)


def stresses_at_once(project: Project, led: Table) -> Table:
    """For each row of a stress envelope the stresses at all fibres of the section, there and then."""
    section = {m.name: m.section for m in project.members}
    forces = np.nan_to_num(np.column_stack([led[name].astype(float) for name, _ in MEMBER_KINDS]))
    row, at, values = [], [], []
    for i, member in enumerate(led["member"].tolist()):
        names, own = of_forces(section[member], forces[[i]])
        row += [i] * len(names)
        at += names
        values.append(own[:, :, 0])
    stress = np.concatenate(values)
    same = [c for c in led.rows(row).columns if c.name in ("member", "fibre", "extreme", "x", "case", "how")]
    each = [Column(f"{word} there", "stress", stress[:, k] + 0.0) for k, word in enumerate(Stress)]
    return Table("stresses-at-once", (*same[:5], Column("at fibre", "text", at), *each, *same[5:]))


def stress_stations(
    solution: Solution, results: Results, members: Ints, led_by: Stress, fibres: Sequence[str], stations: int
) -> Table:
    """Least and greatest normal stress, or the greatest shear or von Mises stress, at even stations, ends included, of
    every fibre or those named, over all positions of what moves. Where forces jump both sides count. Raises NoFibre,
    TooMany."""
    if moving_of(solution, results):
        return _of_moving(solution, results, members, led_by, fibres, stations)
    every, weights, of = listed(solution, results)
    project = solution.project
    share = np.linspace(0.0, 1.0, stations)
    rows: list[tuple[str, str, float, float, int, float, int]] = []
    size = max(1, AT_ONCE // (6 * stations * len(every)))
    for i in range(0, len(members), size):
        some = members[i : i + size]
        x = project.lengths[some, None] * share
        values, owner = station_values(build_pieces(solution, some, weights), x)
        for k, m in enumerate(some.tolist()):
            section = project.members[m].section
            chosen = [f for f in all_fibres(section) if not fibres or f.name in fibres]
            if not chosen:
                continue
            factor = coefficients(section, chosen)
            for s in range(stations):
                own = values[owner == k * stations + s]
                sigma, tau_z, tau_y = (np.einsum("fc,rcn->frn", c, own) for c in factor)
                shear = np.hypot(tau_z, tau_y)
                stress = {Stress.NORMAL: sigma, Stress.SHEAR: shear}.get(led_by, np.sqrt(sigma**2 + 3 * shear**2))
                for f, fibre in enumerate(chosen):
                    flat = stress[f].reshape(-1)
                    low, high = int(flat.argmin()), int(flat.argmax())
                    found = float(flat[low]), low % len(every), float(flat[high]), high % len(every)
                    rows.append((project.members[m].name, fibre.name, float(x[k, s]), *found))
    if not rows:
        raise NoFibre(", ".join(fibres))
    return _table(
        solution,
        results,
        led_by,
        [
            (member, fibre, at, [(least, every[low].name, of[low]), (most, every[high].name, of[high])])
            for member, fibre, at, least, low, most, high in rows
        ],
    )


def _of_moving(
    solution: Solution, results: Results, members: Ints, led_by: Stress, fibres: Sequence[str], stations: int
) -> Table:
    names = [solution.project.members[m].name for m in members.tolist()]
    found = stations_of_moving(solution, results, members, led_by, fibres, stations)
    return _table(
        solution,
        results,
        led_by,
        [(names[m], fibre, x, sides if len(sides) > 1 else [sides[0], sides[0]]) for m, _, fibre, x, sides in found],
    )


def _table(
    solution: Solution, results: Results, led_by: Stress,
    rows: list[tuple[str, str, float, list[tuple[float, str, int]]]],
) -> Table:  # fmt: skip
    """Rows of member, fibre, x, and least and greatest: value, what makes it, the result."""
    member, fibre_, at, sides = zip(*rows, strict=True)
    low, high = ([s[k] for s in sides] for k in (0, 1))
    columns = [Column("member", "text", member), Column("fibre", "text", fibre_), Column("x", "length", np.array(at))]
    if led_by == Stress.NORMAL:
        columns += [Column(f"min {led_by}", "stress", np.array([v for v, *_ in low])),
                    Column("min case", "text", [name for _, name, _ in low])]  # fmt: skip
    columns += [
        Column(f"max {led_by}", "stress", np.array([v for v, *_ in high])),
        Column("max case", "text", [name for _, name, _ in high]),
    ]
    columns.append(how_column(results, solution.how(results), np.array([r for *_, r in high], np.intp)))
    return Table("stress-stations", tuple(columns))
