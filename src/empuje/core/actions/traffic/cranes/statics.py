"""What the wheels of a crane bear, and vehicles made of it.

             x (crab and load)
=============v===========================     F (1 - x/l) at the near rail, F x/l at the other
o----- x ----->|                        o
"""

from __future__ import annotations

from collections.abc import Sequence

from ....model.crane import Crane
from ....model.loads import Step
from ....model.traffic import Axle, Vehicle

Pair = tuple[float, float]
Level = Sequence[Sequence[Pair]]
"""Horizontal forces of wheels [N]: axle by axle, of the left and the right wheel, along and to the left."""


def on_rails(crane: Crane, near: int, bridge: float, crab: float, lifts: float) -> Pair:
    """What all wheels on the left and on the right rail bear [N], with the crab as near to rail `near` (0, 1) as it
    comes, and factors on the weights of bridge, crab and load."""
    far = crane.approach[near] / crane.span
    moving = crab * crane.crab + lifts * crane.lifts
    each = [bridge * crane.bridge / 2] * 2
    each[near] += moving * (1 - far)
    each[1 - near] += moving * far
    return each[0], each[1]


def no_level(crane: Crane) -> Level:
    """No horizontal forces."""
    return [((0.0, 0.0), (0.0, 0.0))] * crane.wheels


def vehicle(crane: Crane, name: str, rails: Pair, level: Level, steps: Sequence[Step], ahead: float = 0.0) -> Vehicle:
    """Loads of the rails [N], even among their wheels, and horizontal forces of the wheels as a vehicle; the first of
    `level` acts `ahead` [m] of the first wheels where that is not 0."""
    n = crane.wheels
    gaps = [0.0, *crane.base]
    wheels: list[Pair] = [(rails[0] / n, rails[1] / n)] * n
    if ahead:
        gaps = [0.0, ahead, *crane.base]
        wheels = [(0.0, 0.0), *wheels]
    axles = tuple(Axle((g, g), w, tuple(h)) for g, w, h in zip(gaps, wheels, level, strict=True))
    heading = -1 if crane.returning else 1
    return Vehicle(name, axles, crane.place, crane.span, height=crane.height, steps=tuple(steps), heading=heading)
