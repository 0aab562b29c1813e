"""Yield strengths by thickness, and why a member cannot be checked."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..model.frame import Member
from ..model.words import SteelCode
from .shapes import kind_of, shapes_of

THICK = 1e-9
THICKEST = 0.1 + 1e-9
"""Flanges of rolled sections with h/b > 1.2 beyond which EN 1993-1-1, table 6.2, has no curve [m]."""


def yield_strength(member: Member) -> float | None:
    """f_y [N/m2] of a member's material at the thickest part of its section; None where there is none."""
    t = float(shapes_of([member.section]).thickest[0])
    if kind_of(member.section) in ("round", "solid"):
        t = float(min(shapes_of([member.section]).h[0], shapes_of([member.section]).b[0]))
    return next((fy for up_to, fy, _ in member.material.strength if t <= up_to + THICK), None)


def yield_strengths(members: Sequence[Member]) -> NDArray[np.float64]:
    """f_y of members that have one (n,) [N/m2]; members of one section and material share it."""
    known = {_made_of(m): m for m in members}
    found = {key: yield_strength(m) for key, m in known.items()}
    return np.array([found[_made_of(m)] for m in members], float)


def reasons(members: Sequence[Member], code: SteelCode) -> list[str]:
    """Why each member is not checked by a code, "" where it is."""
    found = {key: _unchecked(m, code) for key, m in {_made_of(m): m for m in members}.items()}
    return [found[_made_of(m)] for m in members]


def _made_of(member: Member) -> tuple[int, int]:
    return id(member.section), id(member.material)


def _unchecked(member: Member, code: SteelCode) -> str:
    section = member.section
    if not section.shape:
        return f"its section {section.name} is given by its properties, not by its shape"
    if not kind_of(section):
        return f"sections of the shape {section.shape} are not checked"
    if not member.material.strength:
        return f"its material {member.material.name} has no yield strength"
    if yield_strength(member) is None:
        return f"{member.material.name} has no yield strength for parts as thick as those of {section.name}"
    s = shapes_of([section])
    if code == SteelCode.EN and s.kind == "I" and not s.welded[0] and s.tf[0] > THICKEST and s.h[0] > 1.2 * s.b[0]:
        return f"the flanges of {section.name} are thicker than 100 mm: table 6.2 has no buckling curve for it"
    return ""
