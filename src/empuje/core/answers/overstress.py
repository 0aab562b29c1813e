"""Stresses that no member survives under any case by itself: most likely a unit, a factor or a section gone wrong.

sigma = N/A - My z/Iy - Mz y/Iz   at every fibre, at both ends and in the middle of every piece between loads
"""

from __future__ import annotations

from collections import defaultdict

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import build_pieces
from ..analysis.polynomials import value_at
from ..analysis.solution import Solution
from ..catalogue.fibres import all_fibres
from ..model.findings import Finding, in_short, listed, with_accepted
from ..model.frame import Member
from .stress_fibres import coefficients

Floats = NDArray[np.float64]
BEYOND = 2.0
"""Times the yield strength."""
OF_E = 200.0
"""Where a material states no strength, this part of E is beyond any (twice 525 MPa of steel)."""
BLOCK = 4_000_000


def overstressed(solution: Solution) -> list[Finding]:
    """Members whose elastic stress under a case passes twice the yield strength, case by case: the worst first."""
    project = solution.project
    results = [r for r in solution.results if r.is_case and r not in solution.failed and not r.moving]
    if not results or not project.members:
        return []
    weights = solution.weights(results)
    by_section: dict[int, list[int]] = defaultdict(list)
    for m, member in enumerate(project.members):
        by_section[id(member.section)].append(m)
    worst = np.zeros((len(project.members), len(results)))
    for group in by_section.values():
        section = project.members[group[0]].section
        fibres = all_fibres(section)
        share = coefficients(section, fibres)[0] if fibres else np.array([[1 / section.A, 0, 0, 0, 0, 0]])
        size = max(1, BLOCK // (len(results) * (6 + len(share)) * 8))
        for first in range(0, len(group), size):
            some = np.array(group[first : first + size], np.intp)
            pieces = build_pieces(solution, some, weights, False)
            for t in (0.0, 0.5, 1.0):
                force = value_at(pieces.force, t * pieces.length)
                stress = np.abs(np.einsum("pkr,fk->pfr", force, share)).max(axis=1)
                np.maximum.at(worst, pieces.member, stress)
    limit = np.array([_bound(m) for m in project.members])
    out = []
    for k, r in enumerate(results):
        beyond = np.flatnonzero(worst[:, k] > limit)
        if not len(beyond):
            continue
        order = beyond[np.argsort(-(worst[beyond, k] / limit[beyond]), kind="stable")].tolist()
        first = project.members[order[0]]
        words = "twice its yield strength" if first.material.strength else f"E/{OF_E:g}"
        message = f"case {r.name} strains {first.name} to {worst[order[0], k] / 1e6:,.4g} MPa, beyond {words}"
        message += f" of {limit[order[0]] / 1e6:,.4g} MPa" if first.material.strength else ""
        if len(order) > 1:
            message += f"; {listed([project.members[m].name for m in order[1:]], 2)} likewise"
        place = r.place
        names = tuple(project.members[m].name for m in order[:1000])
        out.append(Finding("warning", "overstressed", message, "check the units of its loads and of its section", place,
                           about=(r.name, *names)))  # fmt: skip
    return in_short(with_accepted(out, project.accepted))


def _bound(member: Member) -> float:
    """The stress [N/m2] beyond which something is wrong."""
    strength = member.material.strength
    return BEYOND * max(fy for _, fy, _ in strength) if strength else member.material.E / OF_E
