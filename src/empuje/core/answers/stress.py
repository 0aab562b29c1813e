"""Envelopes led by stress: where a fibre is strained most, under what, and the six forces there and then.

    normal   sigma = N/A - My z/Iy - Mz y/Iz
    shear    sqrt(tau_z^2 + tau_y^2),   tau_z = Vz S_y/(Iy t_y),   tau_y = Vy S_z/(Iz t_z)
    mises    sqrt(sigma^2 + 3 tau^2)                                              (von Mises; EN 1993-1-1, 6.2.1(5))

All are polynomials along a member (the squares of the last two), so that extremes are exact. Shear from torsion and
stress from warping are not in them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import build_pieces
from ..analysis.polynomials import square, value_at
from ..analysis.solution import Pieces, Solution
from ..catalogue.fibres import all_fibres
from ..model.frame import Fibre
from ..model.results import Results
from ..model.words import Stress
from .along import absent_forces
from .envelope import BLOCK, TIE, candidates, members_of, search
from .moving import moving_of
from .patterns import listed
from .stress_fibres import NoFibre, coefficients
from .stress_moving import stress_of_moving
from .table import Column, Table, case_column, how_column, member_forces, stacked

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def stress_envelope(
    solution: Solution, results: Results, members: Ints, led_by: Stress, names: Sequence[str] = ()
) -> Table:
    """Of each member and fibre, or those of some names, the extreme stress: least and greatest normal stress, greatest
    shear or von Mises.

    Patterns are listed one by one. Raises NoFibre, TooMany.
    """
    project, how = solution.project, solution.how(results)
    if moving_of(solution, results):
        return stress_of_moving(solution, results, members, led_by, names)
    every, weights, of = listed(solution, results)
    by_section: dict[int, list[int]] = {}
    for m in members.tolist():
        by_section.setdefault(id(project.members[m].section), []).append(m)
    rows: list[tuple[Any, ...]] = []
    for group in by_section.values():
        section = project.members[group[0]].section
        fibres = [f for f in all_fibres(section) if not names or f.name in names]
        if not fibres:
            continue
        share = coefficients(section, fibres)
        each = 168 if solution.second_order_from is not None else 24
        block = max(1, int(BLOCK / (each * (1 + len(fibres)) * len(every))))
        for i in range(0, len(group), block):
            some = np.array(group[i : i + block], np.intp)
            rows += _extremes(build_pieces(solution, some, weights), some, fibres, share, led_by)
    if not rows:
        raise NoFibre(", ".join(names))
    rank = {m: i for i, m in enumerate(members.tolist())}
    rows.sort(key=lambda row: (rank[row[0]], row[1]))
    m, _, label, extreme, x, result, stress, forces = zip(*rows, strict=True)
    at_once = np.where(absent_forces(solution, np.array(m, np.intp)), np.nan, np.array(forces))
    index = np.array(result, np.intp)
    return Table(
        "stress-envelope",
        (
            Column("member", "text", [project.members[i].name for i in m]),
            Column("fibre", "text", label),
            Column("extreme", "text", extreme),
            Column("x", "length", np.array(x)),
            case_column(every, index),
            Column(str(led_by), "stress", np.array(stress)),
            *member_forces(at_once),
            how_column([results[i] for i in of], [how[i] for i in of], index),
        ),
    )


def each_by_its_own(solution: Solution, results: Results, members: Ints, names: Sequence[str] = ()) -> Table:
    """Every fibre that says by which stress it leads, by that one: `led by`, and its extremes. Raises NoFibre where
    none does, TooMany."""
    parts = []
    for led_by in Stress:
        stating: dict[int, tuple[str, ...]] = {}
        for m in members.tolist():
            own = [f.name for f in solution.project.members[m].section.fibres if f.led_by == led_by]
            stating[m] = tuple(name for name in own if not names or name in names)
        # A name may lead by another stress in another section.
        for fibres in dict.fromkeys(own_ for own_ in stating.values() if own_):
            some = np.array([m for m, own_ in stating.items() if own_ == fibres], np.intp)
            table = stress_envelope(solution, results, some, led_by, fibres)
            columns = [replace(c, name="stress") if c.name == str(led_by) else c for c in table.columns]
            lead = Column("led by", "text", [str(led_by)] * len(table))
            parts.append(Table(table.name, (*columns[:2], lead, *columns[2:])))
    if not parts:
        raise NoFibre(", ".join(names))
    return stacked(parts)


def _extremes(
    pieces: Pieces, members: Ints, fibres: Sequence[Fibre], share: Floats, led_by: Stress
) -> list[tuple[Any, ...]]:
    """Rows of member, number and name of the fibre, extreme, x, result, stress, six forces."""
    sigma, tau_z, tau_y = (np.einsum("ij,njkr->nikr", s, pieces.force) for s in share)
    if led_by == Stress.NORMAL:
        c, sides = sigma, (("min", -1.0), ("max", 1.0))
    else:
        tau = square(tau_z) + square(tau_y)
        c, sides = (tau if led_by == Stress.SHEAR else square(sigma) + 3 * tau), (("max", 1.0),)  # type: ignore[assignment]
    places, values = candidates(c, pieces.length, members_of(pieces)[0])
    close = np.full(c.shape[:2], TIE * max(float(np.abs(v).max(initial=0)) for v in values))
    rows: list[tuple[Any, ...]] = []
    for extreme, sign in sides:
        piece, t, r = search(pieces, places, [sign * v for v in values], close)
        for i, fibre in enumerate(fibres):
            value = value_at(c[piece[:, i]][:, i : i + 1], t[:, i])[:, 0]
            forces = value_at(pieces.force[piece[:, i]], t[:, i])
            for k, m in enumerate(members.tolist()):
                v = float(value[k, r[k, i]])
                stress = v if led_by == Stress.NORMAL else float(np.sqrt(max(v, 0.0)))
                x = float(pieces.start[piece[k, i]] + t[k, i])
                rows.append((m, i, fibre.name, extreme, x, int(r[k, i]), stress, forces[k, :, r[k, i]]))
    return rows
