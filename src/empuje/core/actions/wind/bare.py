"""Wind on members that stand in it by themselves: line loads along the wind, at every height its own.

    w = q(z) G C_f b sin(phi)       b: width of the section seen by the wind, phi: angle between wind and member

ASCE 7 29.4 (figure 29.4-2): flat-sided 2.0; round 1.2, or 0.8 where D sqrt(q_z) > 5.3 (m, N/m2; 2.5 in ft, psf).
Whole frames by the solidity of one face; towers and chimneys by figures 29.4-3 and 29.4-1. EN 1991-1-4 7.6 to 7.9:
sharp-edged 2.0, rectangular by d/b, round by the Reynolds number, each times psi_lambda; frames (7.11) with the stated
C_f that the engineer reads at their solidity."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.frame import Section
from ...model.loads import Step
from ...model.project import Project
from ...model.wind import BareWind, WindRule
from ...model.words import Chimney, Tower, WindCode
from .codes.asce_other import ROUND, chimney_coefficient, of_round_members, tower_coefficient
from .lattices import face_area, faces_of
from .site.asce_site import beside_g
from .site.profile import Profile, followed

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SOLIDITY = (0.1, 0.3)
FLAT_SIDED, ROUND_SMALL, ROUND_LARGE = (2.0, 1.8, 1.6), (1.2, 1.3, 1.5), (0.8, 0.9, 1.1)
"""Figure 29.4-2, by solidity below 0.1, to 0.29, to 0.7."""
LARGE = 5.3
"""D sqrt(q_z) [m sqrt(N/m2)] above which a round member is large."""
D_B, C_F0 = (0.2, 0.6, 0.7, 1.0, 2.0, 5.0, 10.0), (2.0, 2.35, 2.4, 2.1, 1.65, 1.0, 0.9)
"""EN 1991-1-4 figure 7.23, straight over the logarithm of d/b."""
NU = 15e-6
ROUGHNESS = 0.2e-3
"""k [m] of galvanised steel, table 7.13."""
MOST_SOLID = 0.7
"""Beyond this figure 29.4-2 has no coefficient: it is a solid sign (29.3)."""
UNSEEN = 1e-6


@dataclass(frozen=True)
class BareRows:
    """Line loads on bare members by row: the member, from and to `s` [m], `w` [N/m] along the wind and the pressures
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


def is_round(section: Section) -> bool:
    """Whether the outer outline is a circle, within a thousandth."""
    if not section.outline:
        return False
    points = np.asarray(section.outline[0])
    centre = (points.min(axis=0) + points.max(axis=0)) / 2
    r = np.linalg.norm(points - centre, axis=1)
    return len(points) >= 16 and float(np.ptp(r)) < 1e-3 * float(r.max())


@dataclass(frozen=True)
class Sight:
    """Members as a level wind sees them (members,): width across [m] (nan where the section has no outline), depth
    along the wind [m], the share of that rectangle which the outline fills, and the sine of the angle between wind
    and member."""

    width: Floats
    depth: Floats
    full: Floats
    sine: Floats


def sight(project: Project, members: Ints, wind: Floats) -> Sight:
    """How a level wind (3,) sees members."""
    axes = project.axes[members]
    x = axes[:, 0]
    across = np.cross(wind, x)
    sine = np.linalg.norm(across, axis=1)
    width, depth, area = (np.full(len(members), np.nan) for _ in range(3))
    across = np.where((sine > UNSEEN)[:, None], across / np.maximum(sine, UNSEEN)[:, None], axes[:, 1])
    deep = np.cross(x, across)
    sections: dict[int, list[int]] = {}
    for i, m in enumerate(members.tolist()):
        sections.setdefault(id(project.members[m].section), []).append(i)
    for rows in sections.values():
        section = project.members[members[rows[0]]].section
        if not section.outline:
            continue
        points = np.asarray(section.outline[0])
        area[rows] = shapely.Polygon(points).area
        for way, out in ((across, width), (deep, depth)):
            in_section = np.column_stack([np.einsum("ij,ij->i", way[rows], axes[rows, k]) for k in (1, 2)])
            out[rows] = np.ptp(in_section @ points.T, axis=1)
    return Sight(width, depth, area / (width * depth), sine)


def bare_rows(
    project: Project, bare: BareWind, wind: Floats, rule: WindRule, profile: Profile, ground: float, gust: float
) -> tuple[BareRows | None, list[int]]:
    """The line loads of one entry; and the members whose width or shape nobody knows."""
    members = np.array(bare.members, np.intp)
    look = sight(project, members, wind)
    if bare.width is not None:
        look = replace(look, width=np.full(len(members), bare.width))
    unknown = members[np.isnan(look.width)].tolist()
    if unknown:
        return None, unknown
    seen = look.width * look.sine
    faces = faces_of(project, members, wind, seen)
    solidity = faces.solidity if bare.solidity == 0.0 else bare.solidity
    if bare.tower is not None and bare.solidity == 0.0 and not face_area(project, members, wind)[1]:
        solidity = None  # legs beside one another are no face
    solidity = None if solidity is not None and solidity >= 1.0 else solidity  # edge-on: members by themselves
    heights = project.xyz[project.ends[members], 2] - ground
    which, share = _rows(heights, profile, rule)
    z = heights[which, :1] + share * np.diff(heights[which], axis=1)
    q = _pressures(profile, z, rule)
    if bare.tower is not None and solidity is not None:
        C_f, told = _of_tower(project, members, bare.tower, solidity, seen, wind)
        C_f = C_f[which]
    elif bare.chimney is not None:
        C_f, told = _of_chimney(bare.chimney, look.width[which], q.mean(axis=1), float(heights.max()), which)
    else:
        C_f, told = _coefficients(project, members, bare, solidity, look, q.mean(axis=1), which, rule)
    area = look.width[which] * look.sine[which]
    w = q * (gust * bare.shielding * C_f * area)[:, None]
    factor = Step("c_s c_d", "structural factor", gust, "", "6.3")
    if rule.code != WindCode.EN:
        factor = Step("G", "gust factor" + (", times K_d" if beside_g(rule) != 1 else ""), gust, "", "29.4")
    if bare.solidity == 0.0 and solidity is not None and faces.count > 1:
        told = [replace(step, formula=f"{step.formula}, the least solid of {faces.count} faces") for step in told]
    if solidity is not None and (bare.C_f is not None or rule.code == WindCode.EN):
        told = [replace(step, formula=f"{step.formula}, of a frame of solidity {solidity:.3g}") for step in told]
    steps = tuple(_steps(i, members, bare, project, look, (told[i], factor)) for i in range(len(members)))
    s = share * project.lengths[members[which], None]
    formula = "q_z G C_f b sin phi" if rule.code != WindCode.EN else "q_p c_s c_d c_f b sin phi"
    formula += " shielding" if bare.shielding != 1 else ""
    return BareRows(members[which], s, w, z, look.width[which], C_f, q, which, steps, area, formula, solidity), []


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


def _of_tower(
    project: Project, members: Ints, plan: Tower, solidity: float, seen: Floats, wind: Floats
) -> tuple[Floats, list[Step]]:
    """C_f of every member of a tower, and the step that tells of it: the force on one face's solid area is shared by
    all that is seen, by seen area."""
    gross, square = face_area(project, members, wind)
    whole = float((seen * project.lengths[members]).sum())
    share = solidity * gross / whole if whole else 0.0
    C = tower_coefficient(plan, solidity, not square)
    where = (
        "" if plan != Tower.SQUARE else ", wind across a face" if square else ", wind off its faces: along a diagonal"
    )
    told = f"{plan} tower{where}, solidity {solidity:.3g}"
    each, steps = np.zeros(len(members)), []
    for i, m in enumerate(members.tolist()):
        less = of_round_members(solidity) if is_round(project.members[m].section) else 1.0
        each[i] = C * less * share
        words = f"{told}{f', round members {less:.3g}' if less != 1 else ''}: {C:.4g} on {share:.3g} of what is seen"
        steps.append(Step("C_f", words, float(each[i]), "", "figure 29.4-3"))
    return each, steps


def _of_chimney(shape: Chimney, width: Floats, q: Floats, h: float, which: Ints) -> tuple[Floats, list[Step]]:
    """C_f by row, and by member the step that tells of it."""
    fast = width * np.sqrt(q) > LARGE
    C = np.array([
        chimney_coefficient(shape, h / D, bool(quick)) for D, quick in zip(width.tolist(), fast.tolist(), strict=True)
    ])  # fmt: skip
    told = [Step("C_f", "below the ground", 0.0, "")] * (int(which.max(initial=-1)) + 1)
    for i, D, quick, value in zip(which.tolist(), width.tolist(), fast.tolist(), C.tolist(), strict=True):
        speed = f", D sqrt(q_z) {'>' if quick else '<='} 5.3" if shape in ROUND else ""
        told[i] = Step("C_f", f"{shape}, h/D = {h / D:.3g}{speed}", value, "", "figure 29.4-1")
    return C, told


def _coefficients(
    project: Project, members: Ints, bare: BareWind, solidity: float | None, look: Sight, q: Floats, which: Ints,
    rule: WindRule,
) -> tuple[Floats, list[Step]]:  # fmt: skip
    """C_f by row, and by member the step that tells of it."""
    if bare.C_f is not None:
        return np.full(len(which), bare.C_f), [Step("C_f", "stated", bare.C_f, "")] * len(members)
    of_code = _asce if rule.code != WindCode.EN else _en
    of_section: dict[int, bool] = {}
    sections = [project.members[m].section for m in members.tolist()]
    for section in sections:
        if id(section) not in of_section:
            of_section[id(section)] = is_round(section)
    is_one = np.array([of_section[id(section)] for section in sections], bool)[which]
    look_of = [np.nan_to_num(v[which]) for v in (look.width, look.depth, look.full)]
    shapes = np.column_stack([is_one, *look_of, np.where(is_one, q, 0.0)])
    distinct, row_of = np.unique(np.round(shapes, 9), axis=0, return_inverse=True)
    found = [of_code(Shape(bool(v[0]), *v[1:].tolist()), solidity, rule) for v in distinct]
    values = np.array([C for C, _ in found])[row_of] if found else np.zeros(0)
    told = [Step("C_f", "below the ground", 0.0, "")] * len(members)
    for i, k in zip(which.tolist(), row_of.tolist(), strict=True):
        told[i] = found[k][1]
    return values, told


@dataclass(frozen=True)
class Shape:
    """What a force coefficient is found from: round or not, the seen rectangle [m] and how full it is, q [N/m2]."""

    round: bool
    width: float
    depth: float
    full: float
    q: float


def _asce(shape: Shape, solidity: float | None, rule: WindRule) -> tuple[float, Step]:
    e = solidity or 0.0
    k = int(np.searchsorted(SOLIDITY, e, side="right"))
    told = f"solidity {e:.3g}" if solidity else "by itself, solidity below 0.1"
    if not shape.round:
        return FLAT_SIDED[k], Step("C_f", f"flat-sided, {told}", FLAT_SIDED[k], "", "figure 29.4-2")
    size = shape.width * math.sqrt(shape.q)
    C = (ROUND_LARGE if size > LARGE else ROUND_SMALL)[k]
    sign = ">" if size > LARGE else "<="
    return C, Step("C_f", f"round, D sqrt(q_z) = {size:.3g} {sign} 5.3, {told}", C, "", "figure 29.4-2")


FULL = 0.95
"""An outline that fills so much of the rectangle around it is a rectangle."""


def _en(shape: Shape, solidity: float | None, rule: WindRule) -> tuple[float, Step]:
    psi = rule.number("psi_lambda", 1.0)
    end = f"psi_lambda = {psi:g}" + ("" if "psi_lambda" in rule.stated else " taken")
    if not shape.round and shape.full > FULL:
        C = rectangular_coefficient(shape.depth / shape.width)
        return C * psi, Step("c_f", f"rectangular, d/b = {shape.depth / shape.width:.3g}: c_f0 = {C:.4g}, psi_r = "
                                    f"1, {end}",
                             C * psi, "", "7.6, figure 7.23")  # fmt: skip
    if not shape.round:
        return 2.0 * psi, Step("c_f", f"sharp-edged 2.0, {end}", 2.0 * psi, "", "7.7")
    width, speed = shape.width, math.sqrt(2 * shape.q / rule.number("rho", 1.25))
    Re, k = width * speed / NU, rule.number("k", ROUGHNESS)
    C = round_coefficient(Re, k / width)
    return C * psi, Step("c_f", f"round, Re = {Re:.3g}, k/b = {k / width:.2g}: c_f0 = {C:.4g}, {end}", C * psi, "",
                         "7.9.2, figure 7.28")  # fmt: skip


def round_coefficient(Re: float, k_over_b: float) -> float:
    """c_f0 of a circular cylinder, figure 7.28: the greater of the smooth and the rough branch, at most 1.2."""
    smooth = 0.11 / (Re / 1e6) ** 1.4
    rough = 1.2 + 0.18 * math.log10(10 * k_over_b) / (1 + 0.4 * math.log10(Re / 1e6))
    return min(1.2, max(smooth, rough)) if Re > 1.8e5 else 1.2


def rectangular_coefficient(d_over_b: float) -> float:
    """c_f0 of a rectangular section with sharp corners, figure 7.23."""
    return float(np.interp(math.log(d_over_b), np.log(D_B), C_F0))


def _steps(
    i: int, members: Ints, bare: BareWind, project: Project, look: Sight, factors: tuple[Step, Step]
) -> tuple[Step, ...]:
    section = project.members[int(members[i])].section.name
    width = "stated" if bare.width is not None else f"width of {section} seen by the wind"
    out = (
        Step("b", width, float(look.width[i]), "m"),
        Step("sin phi", "angle between wind and member", float(look.sine[i]), ""),
        *factors,
    )
    return out if bare.shielding == 1 else (*out, Step("shielding", "stated", bare.shielding, ""))
