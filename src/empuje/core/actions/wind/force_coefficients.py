"""Force coefficients of unclad members: from their shape, of frames by solidity, of towers and chimneys (ASCE 7, 29.4;
EN 1991-1-4, 7.6 to 7.9)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model.loads import Step
from ...model.project import Project
from ...model.wind import UncladWind, WindRule
from ...model.words import Chimney, Tower, WindCode
from .codes.asce_other import ROUND, chimney_coefficient, of_round_members, tower_coefficient
from .lattices import face_area
from .sight import Sight, is_round

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


def of_tower(
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


def of_chimney(shape: Chimney, width: Floats, q: Floats, h: float, which: Ints) -> tuple[Floats, list[Step]]:
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


def coefficients_of(
    project: Project, members: Ints, unclad: UncladWind, solidity: float | None, look: Sight, q: Floats, which: Ints,
    rule: WindRule,
) -> tuple[Floats, list[Step]]:  # fmt: skip
    """C_f by row, and by member the step that tells of it."""
    if unclad.C_f is not None:
        return np.full(len(which), unclad.C_f), [Step("C_f", "stated", unclad.C_f, "")] * len(members)
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
