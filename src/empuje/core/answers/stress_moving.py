"""Stresses at fibres over all positions of moving cases: extremes along members, and at stations.

A normal stress is a sum of forces, and its extremes are those of a sum. Shear and von Mises stress are the length of a
vector of sums, v = (sigma, sqrt 3 tau_z, sqrt 3 tau_y), and that is the greatest of the sums d.v along all directions
d: some directions are looked along, then that of the longest vector found, which can only be longer.

      tau ^    . d
          |  .' v        |v| >= d.v, with equality for d along v
          |.'____> sigma

Forces that are nowhere are left out, and what then is the same sum but for its size and sign is looked for once: of the
directions times fibres of a beam in a plane few are left.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.positions import Picks
from ..analysis.solution import Solution
from ..catalogue.fibres import all_fibres
from ..model.frame import Fibre
from ..model.results import Results
from ..model.words import Stress
from .along import absent_forces
from .moving import Moving
from .moving_envelope import AlongMoving, at_stations, extremes_along, seen_forces
from .patterns import patterns
from .stress_fibres import NoFibre, coefficients
from .table import Column, Table, how_column, member_forces

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
TURNS = 3
"""So often the direction follows its worst position."""
LONGER = 1e-9
"""A vector longer by less than this share of what its direction found is found."""
NOTHING = 1e-12
"""What forces of this share of the largest stress make is nothing."""
Look = Callable[[Floats], AlongMoving]
"""Least and greatest of sums with shares (components, 6), or of each place's own (..., components, 6)."""


def stress_of_moving(
    solution: Solution, results: Results, members: Ints, led_by: Stress, names: Sequence[str]
) -> Table:
    """As stress_envelope, of results with moving cases: over all positions, patterns too. Raises NoFibre."""
    project, how = solution.project, solution.how(results)
    rows: list[tuple[object, ...]] = []
    for group, fibres, share in _groups(solution, members, names):
        own = members[group]

        def look(shares: Floats, own: Ints = own) -> AlongMoving:
            return extremes_along(solution, results, own, shares)

        seen = seen_forces(solution, results, own)
        for found, value, side in _led(led_by, share, seen, look):
            made = _names(solution, results, found)
            for k, (m, f) in enumerate(np.ndindex(value.shape)):
                rows.append((group[m], f, side, fibres[f].name, found.x[m, f], made[k], value[m, f], found.forces[m, f],
                             found.result[m, f]))  # fmt: skip
    if not rows:
        raise NoFibre(", ".join(names))
    rows.sort(key=lambda row: row[:3])
    m, _, side_, label, x, case, stress, at_once, index = zip(*rows, strict=True)
    absent = absent_forces(solution, members)[list(m)]
    return Table(
        "stress-envelope",
        (
            Column("member", "text", [project.members[members[i]].name for i in m]),
            Column("fibre", "text", label), Column("extreme", "text", [("min", "max")[i] for i in side_]),
            Column("x", "length", np.array(x)), Column("case", "text", case),
            Column(str(led_by), "stress", np.array(stress)),
            *member_forces(np.where(absent, np.nan, np.array(at_once))),
            how_column(results, how, np.array(index, np.intp)),
        ),
    )  # fmt: skip


def stations_of_moving(
    solution: Solution, results: Results, members: Ints, led_by: Stress, names: Sequence[str], stations: int
) -> list[tuple[int, int, str, float, list[tuple[float, str, int]]]]:
    """At even stations of members (their places among `members`) and at their fibres: the least and greatest normal
    stress, or the greatest other, each with what makes it and the result. Raises NoFibre."""
    out: list[tuple[int, int, str, float, list[tuple[float, str, int]]]] = []
    for group, fibres, share in _groups(solution, members, names):
        own = members[group]
        x = solution.project.lengths[own, None] * np.linspace(0.0, 1.0, stations)

        def look(shares: Floats, own: Ints = own, x: Floats = x) -> AlongMoving:
            shares = shares if shares.ndim == 2 else shares.reshape(*x.shape, -1, 6)
            return _flat(at_stations(solution, results, own, x, shares, with_forces=True))

        told = []
        for found, value, _ in _led(led_by, share, seen_forces(solution, results, own), look):
            made, flat = _names(solution, results, found), found.result.ravel()
            told.append([(v, made[k], int(flat[k])) for k, v in enumerate(value.ravel().tolist())])
        for i, (s, f) in enumerate(np.ndindex(len(group) * stations, len(fibres))):
            m, station = divmod(s, stations)
            out.append((group[m], station, fibres[f].name, float(x[m, station]), [side[i] for side in told]))
    if not out:
        raise NoFibre(", ".join(names))
    place = {id(row): k for k, row in enumerate(out)}
    return sorted(out, key=lambda row: (row[0], row[1], place[id(row)]))


def _groups(solution: Solution, members: Ints, names: Sequence[str]) -> list[tuple[list[int], list[Fibre], Floats]]:
    """Members (their places) of one section each, its fibres or those of some names, and what forces make there."""
    by_section: dict[int, list[int]] = {}
    for i, m in enumerate(members.tolist()):
        by_section.setdefault(id(solution.project.members[m].section), []).append(i)
    out = []
    for group in by_section.values():
        section = solution.project.members[members[group[0]]].section
        fibres = [f for f in all_fibres(section) if not names or f.name in names]
        if fibres:
            out.append((group, fibres, coefficients(section, fibres)))
    return out


@dataclass(frozen=True)
class Best:
    """Where, by what and with which forces stresses (places, fibres) are extreme; picks of every moving case in the
    order of the flat table."""

    x: Floats
    result: Ints
    there: NDArray[np.bool_]
    forces: Floats
    picks: list[Picks]
    moving: Moving

    @staticmethod
    def of(found: AlongMoving, component: Ints, side: Ints) -> Best:
        """The extremes of components (places, fibres), each on a side."""
        at = np.arange(len(found.result))[:, None], component, side
        flat = np.ravel_multi_index(tuple(np.broadcast_arrays(*at)), found.result.shape).ravel()
        picks = [p.rows(flat) for p in found.picks]
        return Best(found.x[at], found.result[at], found.there[at], found.forces[at], picks, found.moving)

    def or_else(self, other: Best, better: NDArray[np.bool_]) -> Best:
        """The other where it is better (places, fibres)."""
        each = np.arange(better.size)
        chosen = np.where(better.ravel(), better.size + each, each)
        picks = [Picks.joined([a, b]).rows(chosen) for a, b in zip(self.picks, other.picks, strict=True)]
        more = better[..., None]
        return Best(
            np.where(better, other.x, self.x), np.where(better, other.result, self.result),
            np.where(more, other.there, self.there), np.where(more, other.forces, self.forces), picks, self.moving,
        )  # fmt: skip


def _led(led_by: Stress, share: Floats, seen: Floats, look: Look) -> Iterator[tuple[Best, Floats, int]]:
    """Extremes of all fibres with their values (places, fibres) and the side: of a normal stress least and greatest."""
    weight = np.abs(share) * seen
    share = np.where(weight > NOTHING * weight.max(initial=0.0), share, 0.0)
    if led_by == Stress.NORMAL:
        few, which, scale = alike(share[0])
        found = look(few)
        for side in (0, 1):
            own = np.where(scale < 0, 1 - side, side)[None].repeat(len(found.result), axis=0)
            best = Best.of(found, which[None].repeat(len(own), axis=0), own)
            yield best, scale * found.value[np.arange(len(own))[:, None], which, own], side
        return
    parts = share[1:] if led_by == Stress.SHEAR else share * np.sqrt([1.0, 3.0, 3.0])[:, None, None]
    best = _longest(parts, look)
    yield best, np.linalg.norm(np.einsum("dfj,pfj->pfd", parts, best.forces), axis=2), 1


def _longest(parts: Floats, look: Look) -> Best:
    """Where the length of vectors of sums (parts, fibres, 6) is greatest."""
    ways = np.array([u for u in product((-1, 0, 1), repeat=len(parts)) if u > (0,) * len(parts)], float)
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    few, which, _ = alike(np.einsum("kd,dfj->kfj", ways, parts).reshape(-1, 6))
    found = look(few)
    fibres = parts.shape[1]
    which = which.reshape(len(ways), fibres)
    vector = np.einsum("dfj,pkfsj->pfksd", parts, found.forces[:, which])
    size = np.linalg.norm(vector, axis=4).reshape(len(vector), fibres, -1)
    top = size.argmax(axis=2)
    k, side = np.divmod(top, 2)
    best = Best.of(found, which[k, np.arange(fibres)], side)
    vector = np.einsum("dfj,pfj->pfd", parts, best.forces)
    reached = np.abs(vector @ ways.T).max(axis=2)
    for _ in range(TURNS):
        length = np.linalg.norm(vector, axis=2)
        open_ = np.flatnonzero((length > reached * (1 + LONGER)).any(axis=0))
        if not len(open_):
            break
        toward = vector[:, open_] / np.maximum(length[:, open_, None], 1e-300)
        few, which, _ = alike(np.einsum("pfd,dfj->pfj", toward, parts[:, open_]))
        found = look(few)
        own = np.einsum("dfj,pfsj->pfsd", parts[:, open_], found.forces[:, which])
        size = np.linalg.norm(own, axis=3)
        side = size.argmax(axis=2)
        other = Best.of(found, which[None].repeat(len(side), axis=0), side)
        longer = np.zeros_like(length, bool)
        longer[:, open_] = np.take_along_axis(size, side[..., None], 2)[..., 0] > length[:, open_]
        whole = Best.of(found, np.zeros(length.shape, np.intp), np.zeros(length.shape, np.intp))
        best = best.or_else(_spread(other, whole, open_), longer)
        reached = np.where(np.isin(np.arange(fibres), open_), length, np.inf)
        vector = np.einsum("dfj,pfj->pfd", parts, best.forces)
    return best


def _spread(some: Best, whole: Best, columns: Ints) -> Best:
    """Of some fibres as of all; the others are any."""
    place = np.zeros(whole.x.shape, np.intp)
    place[:, columns] = np.arange(len(columns))
    at = np.arange(len(place))[:, None], place
    flat = (at[0] * len(columns) + place).ravel()
    return Best(some.x[at], some.result[at], some.there[at], some.forces[at], [p.rows(flat) for p in some.picks],
                some.moving)  # fmt: skip


def alike(rows: Floats) -> tuple[Floats, Ints, Floats]:
    """Of rows (n, 6), or places' own rows (places, n, 6), those that are not the same but for size and sign, which of
    these each is, and how many times as large (n,), by the largest.

    >>> few, which, scale = alike(np.array([[1.0, 0, 0, 0, 2, 0], [0, 3, 0, 0, 0, 0], [-2, 0, 0, 0, -4, 0]]))
    >>> len(few), which.tolist(), scale.tolist()
    (2, [0, 1, 0], [1.0, 1.0, -2.0])
    """
    each = np.moveaxis(np.atleast_3d(rows) if rows.ndim == 3 else rows[None], 1, 0)
    n = len(each)
    size = np.linalg.norm(each, axis=2, keepdims=True)
    unit = np.round(each / np.where(size > 0, size, 1.0), 11)
    lead = np.take_along_axis(unit, (unit != 0).argmax(axis=2)[..., None], 2)
    sign = np.where(lead < 0, -1.0, 1.0)
    _, first, which = np.unique((unit * sign + 0.0).reshape(n, -1), axis=0, return_index=True, return_inverse=True)
    kept = np.sort(first)
    of = np.searchsorted(kept, first[which.ravel()])
    few = rows[..., kept, :]
    at_most = np.abs(each).max(axis=(1, 2))
    by = np.where(at_most > 0, at_most / np.maximum(at_most[kept[of]], 1e-300), 0.0)
    return few, of, by * (sign[:, 0, 0] * sign[kept[of], 0, 0])


def _flat(found: AlongMoving) -> AlongMoving:
    """Extremes of members and stations as of so many places."""

    def joined(values: NDArray[Any]) -> NDArray[Any]:
        return values.reshape(values.shape[0] * values.shape[1], *values.shape[2:])

    return replace(found, x=joined(found.x), result=joined(found.result), there=joined(found.there),
                   value=joined(found.value), forces=joined(found.forces))  # fmt: skip


def _names(solution: Solution, results: Results, found: Best) -> list[str]:
    """What makes the extremes, one after the other."""
    free, result = patterns(solution, results), found.result.ravel()
    there = found.there.reshape(len(result), -1)
    each = [free.pattern(r, t) for r, t in zip(result.tolist(), there, strict=True)]
    return found.moving.names(solution, found.picks, each)
