"""What the other heading would make of a traffic for which none was stated.

      <---- the other                     forward ---->
o   o      o                                 o      o   o
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..actions.decided import alike_both_ways
from ..analysis.moving.mover import Mover
from ..analysis.moving.places import Places, at_supports, forces_at
from ..analysis.pieces import FORCES
from ..analysis.solution import Solution
from ..model.findings import Finding, with_accepted
from ..model.words import Heading
from .moving import movers_of
from .table import FORCE_KINDS

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
COUNTS, TOLD = 0.05, 1e-3
"""Shares: of the largest of its kind, below which an answer decides nothing; of more by the other heading."""


def one_way_travel(solution: Solution) -> list[Finding]:
    """A warning for every traffic that goes forward as nothing else was stated, where the other heading makes a
    reaction, or a force at the ends or the middle of an element of its way, greater: by how much at most."""
    out = []
    for mover in movers_of(solution).values():
        traffic = mover.laid.traffic
        if traffic.heading_stated or traffic.heading != Heading.FORWARD or all(map(alike_both_ways, traffic.vehicles)):
            continue
        found = _most(mover)
        if found is None:
            continue
        name, own, other, unit = found
        message = f"{traffic.case} goes forward only, as no heading is stated; the other way round {name} is "
        message += f"{other / 1e3:.4g} instead of {own / 1e3:.4g} {unit}"
        remedy = 'state heading = "both", or "forward" where nothing else can come'
        out.append(Finding("warning", "one-way-travel", message, remedy, traffic.place, about=(traffic.case,)))
    return with_accepted(out, solution.project.accepted)


def _most(mover: Mover) -> tuple[str, float, float, str] | None:
    """The answer that the other heading makes most greater: its name, its values [N, N m] forward and then, its
    unit."""
    loaded = mover.whole.put.loaded
    sizes = []
    for one in (mover, mover.turned):
        places, kind, names, asked = _asked(one, loaded)
        sizes.append(np.abs(one.worst(places, one.sweep(asked)).value).max(axis=1))
    own, other = sizes
    largest = np.zeros(kind.max() + 1)
    np.maximum.at(largest, kind, np.maximum(own, other))
    least = COUNTS * largest[kind]
    more = np.where(other >= least, other / np.maximum(np.maximum(own, least), 1e-300), 0.0)
    k = int(more.argmax()) if len(more) else 0
    if not len(more) or more[k] <= 1 + TOLD:
        return None
    return names[k], float(own[k]), float(other[k]), "kN m" if kind[k] % 2 else "kN"


def _asked(mover: Mover, loaded: Ints) -> tuple[Places, Ints, list[str], dict[int, Floats]]:
    units, project = mover.units, mover.equations.project
    mesh = units.equations.mesh
    supports = np.arange(len(units.support_node))
    reactions = at_supports(units, np.repeat(supports, 6), np.tile(np.arange(6), len(supports)))
    names = [f"{c} of the support {project.nodes[n].name}" for n in units.support_node.tolist() for c, _ in FORCE_KINDS]
    element = np.repeat(loaded, 3)
    x = (mesh.length[loaded][:, None] * np.array([0.0, 0.5, 1.0])).ravel()
    share = np.tile(np.eye(6), (len(element), 1))
    forces = forces_at(units, np.repeat(element, 6), np.repeat(x, 6), share)
    member, s = mesh.member[element], mesh.s0[element] + x
    names += [f"{c} in {project.members[m].name} at {at:.4g} m" for m, at in zip(member.tolist(), s, strict=True)
              for c in FORCES]  # fmt: skip
    middle = np.arange(1, len(element), 3)
    asked = {int(m): np.unique(s[middle][member[middle] == m]) for m in np.unique(member).tolist()}
    components = np.tile(np.arange(6), len(supports) + len(element)) // 3
    kind = components + 2 * (np.arange(len(components)) >= 6 * len(supports))
    return Places.joined([reactions, forces]), kind, names, asked
