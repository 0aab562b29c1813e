"""What the wind's cases come to by building, by family of members and by level.

>>> bands(np.array([0.0, 4.0, 10.0]))
array([-inf,   2.,   7.,  inf])
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..actions.totals import between_heights
from ..actions.wind.cases.worked_out import Wind
from ..model.loads import PlainLoads
from ..model.near import together
from ..model.project import Project
from .table import Column, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SAME_LEVEL = 0.05
UPRIGHT = 0.99
"""Members steeper than this (sine) are columns and posts."""
MOST_LEVELS = 40
"""Of more levels than these no sums are made: they are rails, not floors."""


def wind_sums(wind: Wind, project: Project, cases: Collection[str]) -> Table:
    """Force along and across the wind and upwards of every case, by building (free roofs and unclad members apart), by
    family of the members that receive it, and by level: half of what lies between two levels belongs to each."""
    chosen = [k for k, c in enumerate(wind.rule.cases) if c.name in cases and c.name in project.case_names]
    rows: list[tuple[int, str, str, Floats]] = []
    numbers = {name: i for i, name in enumerate(project.case_names)}
    count = len(project.case_names)
    family = _by_family(project, wind.loads, count)
    levels, level = _by_level(project, wind.loads, count)
    for k in chosen:
        case = wind.rule.cases[k]
        i = numbers[case.name]
        x, y = wind.blown[case.headings[0]].heading.vector
        turn = np.array([[x, y, 0.0], [-y, x, 0.0], [0.0, 0.0, 1.0]])
        whole = sum(f[i] for f in family.values())
        for words, force in () if case.component else _by_building(wind, k, np.asarray(whole)):
            rows.append((k, "building", words, turn @ force))
        rows += [(k, "family", name, turn @ f[i]) for name, f in family.items() if np.abs(f[i]).max() > 0]
        rows += [(k, "level", f"{z:.4g} m", turn @ f) for z, f in zip(levels, level[:, i], strict=True)]
    values = np.array([r[3] for r in rows]).reshape(-1, 3) + 0.0
    return Table(
        "wind-sums",
        (
            Column("case", "text", [wind.rule.cases[r[0]].name for r in rows]),
            Column("wind", "text", [wind.blown[wind.rule.cases[r[0]].headings[0]].heading.name for r in rows]),
            Column("by", "text", [r[1] for r in rows]),
            Column("of", "text", [r[2] for r in rows]),
            *(Column(name, "force", values[:, i]) for i, name in enumerate(("along", "across", "uplift"))),
        ),
    )


def _by_building(wind: Wind, k: int, whole: Floats) -> list[tuple[str, Floats]]:
    """Of a case that comes to `whole`, by building, then roofs without walls, then unclad members."""
    p = wind.pieces
    own = np.flatnonzero(p.case == k)
    force = p.force[own, None] * p.way[own]
    of = np.array([wind.blown[h].zones[z].building for h, z in zip(p.heading[own], p.zone[own], strict=True)], int)
    out = [(b.name, force[of == n].sum(axis=0)) for n, b in enumerate(wind.buildings)]
    if (of < 0).any():
        out.append(("roofs without walls", force[of < 0].sum(axis=0)))
    unclad = any(wind.blown[h].unclad for h in wind.rule.cases[k].headings)
    if unclad or wind.rule.rooftop:
        words = [*(["unclad members"] if unclad else []), *(["rooftop"] if wind.rule.rooftop else [])]
        out.append((" and ".join(words), whole - force.sum(axis=0)))
    return out


def _by_family(project: Project, loads: PlainLoads, count: int) -> dict[str, Floats]:
    """By family (cases, 3); what nodes receive from surfaces is by itself."""
    names = list(dict.fromkeys(m.family for m in project.members))
    place = {name: i for i, name in enumerate(names)}
    family = np.array([place[m.family] for m in project.members], np.intp)
    out = np.zeros((len(names) + 1, count, 3))
    lines, points, nodes = loads.lines, loads.points, loads.nodes
    half = ((lines.s1 - lines.s0) / 2)[:, None]
    np.add.at(out, (family[lines.member], lines.case), half * (lines.q0 + lines.q1))
    np.add.at(out, (family[points.member], points.case), points.f[:, :3])
    np.add.at(out, (np.full(len(nodes.node), len(names)), nodes.case), nodes.f[:, :3])
    return dict(zip([*names, "nodes of surfaces"], out, strict=True))


def levels_of(project: Project) -> Floats:
    """The levels of floors that are rigid in plan, of both ends of upright members, and of the lowest support [m]."""
    z = project.xyz[:, 2]
    upright = np.abs(project.axes[:, 0, 2]) > UPRIGHT
    found = [*z[project.ends[upright]].ravel().tolist(), *(float(z[list(d.nodes)].mean()) for d in project.diaphragms)]
    found.append(min((float(z[s.node]) for s in project.supports), default=float(z.min(initial=0.0))))
    values = np.array(found)
    label = together(values[:, None], SAME_LEVEL)
    return np.sort([values[label == k].mean() for k in range(label.max() + 1)])


def bands(levels: Floats) -> Floats:
    """The limits half-way between levels."""
    return np.concatenate([[-np.inf], (levels[:-1] + levels[1:]) / 2, [np.inf]])


def _by_level(project: Project, loads: PlainLoads, count: int) -> tuple[Sequence[float], Floats]:
    """Levels, and by level (levels, cases, 3); none where there are too many."""
    levels = levels_of(project) if len(project.nodes) else np.zeros(0)
    if not 1 < len(levels) <= MOST_LEVELS:
        return [], np.zeros((0, count, 3))
    limits = bands(levels)
    out = np.zeros((len(levels), count, 3))
    for k, (low, high) in enumerate(pairwise(limits.tolist())):
        for force, _, case in between_heights(project, loads, low, high):
            np.add.at(out[k], case, force)
    return levels.tolist(), out
