"""Yield strengths by thickness, and why a member cannot be checked."""

from __future__ import annotations

from ...checks.shapes import kind_of, shapes_of
from ...model.frame import Member

THICK = 1e-9


def yield_strength(member: Member) -> float | None:
    """f_y [N/m2] of a member's material at the thickest part of its section; None where there is none."""
    t = float(shapes_of([member.section]).thickest[0])
    if kind_of(member.section) in ("round", "solid"):
        t = float(min(shapes_of([member.section]).h[0], shapes_of([member.section]).b[0]))
    return next((fy for up_to, fy, _ in member.material.strength if t <= up_to + THICK), None)


def unchecked(member: Member) -> str:
    """Why a member is not checked; "" where it is."""
    section = member.section
    if not section.shape:
        return f"its section {section.name} is given by its properties, not by its shape"
    if not kind_of(section):
        return f"sections of the shape {section.shape} are not checked"
    if not member.material.strength:
        return f"its material {member.material.name} has no yield strength"
    if yield_strength(member) is None:
        return f"{member.material.name} has no yield strength for parts as thick as those of {section.name}"
    return ""
