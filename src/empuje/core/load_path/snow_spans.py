"""Spans under partial loads of snow (ASCE 7, 7.5), found from the beams that carry the roofs."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from string import ascii_lowercase

import numpy as np
from numpy.typing import NDArray

from ..actions.snow.asce_numbers import FLATTEST, STEEPEST
from ..actions.snow.roofs import SnowRoof, find_roofs
from ..model.project import Project
from ..model.snow import PartialSpans, SnowRule
from ..surfaces.plane import Bearings, bearings_of, plane_of
from .bearing import GROUND, Bearing, bearing
from .continuous import SAME_PLACE, Beam, continuous_beams

Floats = NDArray[np.float64]
STEM = "SP"
MOST = len(ascii_lowercase)
ALONG = 0.99
"""The cosine from which a beam spans along the fall of a roof."""
ONE_WAY = 1e-3
"""Directions [rad] that differ by less are one."""


def found_spans(
    project: Project, rule: SnowRule, members: Collection[int] = ()
) -> tuple[tuple[PartialSpans, ...], int]:
    """Beams over several spans that carry roofs, those with the same spans together, called SPa, SPb, ... in the order
    of their roofs, one name for those along one way on different roofs; and how many sets of spans were left out,
    beyond the alphabet. `members`: of these beams alone, where some are named."""
    outlines = {i: outline for i in rule.roofs if (outline := plane_of(project.surfaces[i])[0]) is not None}
    roofs = find_roofs(outlines, rule)  # without walls
    if not roofs or not project.members:
        return (), 0
    pitch_of = {f.surface: [g.surface for g in p.faces] for roof in roofs for p in roof.pitches for f in p.faces}
    rests = bearing(project)
    carried = _carried(rests, {i: bearings_of(outlines[i], project) for i in pitch_of})
    exempt = _along_gables(roofs)
    groups: list[tuple[Beam, set[int], list[str]]] = []
    for beam in continuous_beams(rests):
        on = {i for b in beam.bodies for i in carried.get(b, ())}
        on = {i for k in on for i in pitch_of[k]}
        on = {i for i in on if i not in exempt or abs(float(exempt[i] @ beam.way)) < ALONG}
        if not on or (members and not set(members) & set(beam.members)):
            continue
        names = [project.members[m].name for m in beam.members]
        same = next((g for g in groups if _alike(g[0], beam)), None)
        if same is None:
            groups.append((beam, on, names))
        else:
            same[1].update(on)
            same[2].extend(names)
    order = {i: k for k, i in enumerate(rule.roofs)}
    groups.sort(key=lambda g: (min(order[i] for i in g[1]), -round(float(g[0].way[0]), 6), g[0].places))
    named: list[list[tuple[Beam, set[int], list[str]]]] = []
    for group in groups:
        fits = (n for n in named if _one_way(n[0][0], group[0]) and not any(group[1] & other[1] for other in n))
        together = next(fits, None)
        if together is None:
            named.append([group])
        else:
            together.append(group)
    made = tuple(
        PartialSpans(STEM + letter, (float(beam.way[0]) + 0.0, float(beam.way[1]) + 0.0), beam.places,
                     tuple(sorted(on)), rule.place, tuple(names))
        for letter, own in zip(ascii_lowercase, named, strict=False)
        for beam, on, names in own
    )  # fmt: skip
    return made, sum(map(len, named[MOST:]))


def _one_way(a: Beam, b: Beam) -> bool:
    return 1 - abs(float(a.way @ b.way)) <= ONE_WAY**2 / 2


def _carried(rests: Bearing, surfaces: Mapping[int, Bearings]) -> dict[int, set[int]]:
    """The surfaces that every body carries, by itself or by what rests on it; columns hand nothing on."""
    out: dict[int, set[int]] = {}
    for i, bearings in surfaces.items():
        for m in bearings.member.tolist():
            out.setdefault(int(rests.of[m]), set()).add(i)
    left = list(out)
    while left:
        b = left.pop()
        for seat in rests.bodies[b].seats:
            if seat.on == GROUND or rests.upright[seat.on]:
                continue
            below = out.setdefault(int(rests.of[seat.on]), set())
            if not out[b] <= below:
                below |= out[b]
                left.append(int(rests.of[seat.on]))
    return out


def _along_gables(roofs: Sequence[SnowRoof]) -> dict[int, Floats]:
    """Surfaces of gable roofs of 1/2 to 7 on 12, and the way they fall: 7.5 need not be applied to what spans so."""
    out = {}
    for roof in roofs:
        for i, pitch in enumerate(roof.pitches):
            if roof.behind(i) is not None and FLATTEST <= pitch.slope <= STEEPEST:
                out.update({f.surface: pitch.fall for f in pitch.faces})
    return out


def _alike(a: Beam, b: Beam) -> bool:
    if len(a.places) != len(b.places) or not _one_way(a, b):
        return False
    other = np.array(b.places) if a.way @ b.way > 0 else -np.array(b.places[::-1])
    return bool(np.abs(np.array(a.places) - other).max() < SAME_PLACE)
