"""What a value of a building frame can be: beyond it, it is more likely a slip of units than meant."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Plausible:
    """The largest of each kind, in SI: a member's length [m], a load per length [N/m], a force [N], a moment [N m], a
    load per area [N/m2], a rise of temperature [K], a settlement [m], a factor of a combination. An engineer would call
    what lies beyond absurd; `[plausible]` states others."""

    length: float = 150.0
    line: float = 1.5e6
    force: float = 50e6
    moment: float = 50e6
    pressure: float = 250e3
    temperature: float = 250.0
    settlement: float = 0.5
    factor: float = 4.0


SOFTEST, STIFFEST = 0.5e9, 700e9
"""Moduli of elasticity of what is built with [N/m2]: from soft wood across its grain to carbon fibres."""
LIGHTEST, HEAVIEST = 20.0, 20_000.0
"""Densities [kg/m3]: from foams to lead."""
SMALLEST = 1.0
"""A load below this [N, N/m, N/m2] is nothing to a building."""
