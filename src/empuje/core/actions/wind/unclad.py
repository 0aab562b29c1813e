"""Wind on members that stand in it by themselves: line loads along the wind, at every height its own.

    w = q(z) G C_f b sin(phi)       b: width of the section seen by the wind, phi: angle between wind and member

ASCE 7 29.4 (figure 29.4-2): flat-sided 2.0; round 1.2, or 0.8 where D sqrt(q_z) > 5.3 (m, N/m2; 2.5 in ft, psf).
Whole frames by the solidity of one face; towers and chimneys by figures 29.4-3 and 29.4-1. EN 1991-1-4 7.6 to 7.9:
sharp-edged 2.0, rectangular by d/b, round by the Reynolds number, each times psi_lambda; frames (7.11) with the stated
C_f that the engineer reads at their solidity."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...model.loads import Step
from ...model.project import Project
from ...model.wind import UncladWind, WindRule
from ...model.words import WindCode
from .force_coefficients import coefficients_of, of_chimney, of_tower
from .lattices import face_area, faces_of
from .sight import Sight, sight
from .site.asce_site import beside_g
from .site.profile import Profile, followed

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
MOST_SOLID = 0.7
"""Beyond this figure 29.4-2 has no coefficient: it is a solid sign (29.3)."""


@dataclass(frozen=True)
class UncladRows:
    """Line loads on unclad members by row: the member, from and to `s` [m], `w` [N/m] along the wind and the pressures
    `q` [N/m2] at both, the heights `z` there above the ground, width, C_f and seen area per length [m]; `of` counts
    the entry's members, each of which has `steps`; `solidity` of the frame they form, None for single members."""

    member: Ints
    s: Floats
    w: Floats
    z: Floats
    width: Floats
    C_f: Floats
    q: Floats
    of: Ints
    steps: tuple[tuple[Step, ...], ...]
    area: Floats
    formula: str
    solidity: float | None


def unclad_rows(
    project: Project, unclad: UncladWind, wind: Floats, rule: WindRule, profile: Profile, ground: float, gust: float
) -> tuple[UncladRows | None, list[int]]:
    """The line loads of one entry; and the members whose width or shape nobody knows."""
    members = np.array(unclad.members, np.intp)
    look = sight(project, members, wind)
    if unclad.width is not None:
        look = replace(look, width=np.full(len(members), unclad.width))
    unknown = members[np.isnan(look.width)].tolist()
    if unknown:
        return None, unknown
    seen = look.width * look.sine
    solidity, count = unclad.solidity, 0
    if unclad.solidity == 0.0:
        solidity, count = faces_of(project, members, wind, seen)
        if unclad.tower is not None and not face_area(project, members, wind)[1]:
            solidity = None  # legs beside one another are no face
    solidity = None if solidity is not None and solidity >= 1.0 else solidity  # edge-on: members by themselves
    heights = project.xyz[project.ends[members], 2] - ground
    which, share = _rows(heights, profile, rule)
    z = heights[which, :1] + share * np.diff(heights[which], axis=1)
    q = _pressures(profile, z, rule)
    if unclad.tower is not None and solidity is not None:
        C_f, told = of_tower(project, members, unclad.tower, solidity, seen, wind)
        C_f = C_f[which]
    elif unclad.chimney is not None:
        C_f, told = of_chimney(unclad.chimney, look.width[which], q.mean(axis=1), float(heights.max()), which)
    else:
        C_f, told = coefficients_of(project, members, unclad, solidity, look, q.mean(axis=1), which, rule)
    area = look.width[which] * look.sine[which]
    w = q * (gust * unclad.shielding * C_f * area)[:, None]
    factor = Step("c_s c_d", "structural factor", gust, "", "6.3")
    if rule.code != WindCode.EN:
        factor = Step("G", "gust factor" + (", times K_d" if beside_g(rule) != 1 else ""), gust, "", "29.4")
    if solidity is not None and count > 1:
        told = [replace(step, formula=f"{step.formula}, the least solid of {count} faces") for step in told]
    if solidity is not None and (unclad.C_f is not None or rule.code == WindCode.EN):
        told = [replace(step, formula=f"{step.formula}, of a frame of solidity {solidity:.3g}") for step in told]
    steps = tuple(_steps(i, members, unclad, project, look, (told[i], factor)) for i in range(len(members)))
    s = share * project.lengths[members[which], None]
    formula = "q_z G C_f b sin phi" if rule.code != WindCode.EN else "q_p c_s c_d c_f b sin phi"
    formula += " shielding" if unclad.shielding != 1 else ""
    return UncladRows(members[which], s, w, z, look.width[which], C_f, q, which, steps, area, formula, solidity), []


LEVEL = 1e-6
"""A member whose ends differ by less in height [m] is level."""


def _rows(heights: Floats, profile: Profile, rule: WindRule) -> tuple[Ints, Floats]:
    """Members with ends at heights (n, 2) [m] cut where the profile bends: which member, and from which share of it to
    which (rows, 2). What is below the ground is left out."""
    low, high = np.maximum(heights.min(axis=1), 0.0), heights.max(axis=1)
    level = high - heights.min(axis=1) < LEVEL
    breaks = followed(profile, 0.0, max(float(high.max()), LEVEL), rule.upward)[0]
    first = np.searchsorted(breaks, low + LEVEL)
    count = np.where(level, 1, np.searchsorted(breaks, high - LEVEL) - first + 1)
    count[(high <= 0) & ~(level & (high > -LEVEL))] = 0
    which = np.repeat(np.arange(len(heights)), count)
    inner = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    edge = np.concatenate([breaks, [np.inf]])
    at = first[which] + inner
    begin = np.where(inner == 0, low[which], edge[np.minimum(np.maximum(at - 1, 0), len(breaks))])
    end = np.where(inner == count[which] - 1, high[which], edge[np.minimum(at, len(breaks))])
    a, b = heights[which].T
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (np.column_stack([begin, end]) - a[:, None]) / (b - a)[:, None]
    share = np.where(level[which, None], [0.0, 1.0], np.clip(np.sort(share, axis=1), 0.0, 1.0))
    return which, share


def _pressures(profile: Profile, z: Floats, rule: WindRule) -> Floats:
    """q at both ends of each row; of steps that of the row's upper end's step on both."""
    if rule.upward == "steps":
        top = z.max(axis=1)
        tops = np.array([min([s for s in profile.steps if s >= t - 1e-6] or [t]) for t in top.tolist()])
        return np.repeat(profile.at(tops)[:, None], 2, axis=1)
    return profile.at(z.ravel()).reshape(z.shape)


def _steps(
    i: int, members: Ints, unclad: UncladWind, project: Project, look: Sight, factors: tuple[Step, Step]
) -> tuple[Step, ...]:
    section = project.members[int(members[i])].section.name
    width = "stated" if unclad.width is not None else f"width of {section} seen by the wind"
    out = (
        Step("b", width, float(look.width[i]), "m"),
        Step("sin phi", "angle between wind and member", float(look.sine[i]), ""),
        *factors,
    )
    return out if unclad.shielding == 1 else (*out, Step("shielding", "stated", unclad.shielding, ""))
