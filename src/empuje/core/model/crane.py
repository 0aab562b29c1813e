"""A bridge crane on two runways: its weights and sizes, and what a code asks about it.

  o===========================[crab]====o     bridge, from rail to rail: span
  |<------------- approach ----->|      |     the hook comes so near to a rail at least
rail                                   rail
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from .findings import Place
from .words import CraneCode, Hoisting, Operated, RailSide


@dataclass(frozen=True, slots=True)
class Bumpers:
    """Buffers at the end of a runway: the crane's speed [m/s], the spring of one buffer [N/m], xi_b (EN 1991-3,
    2.11.1)."""

    speed: float
    spring: float
    xi_b: float


@dataclass(frozen=True, slots=True)
class Crane:
    """Weights [N] of the bridge (even from rail to rail), of the crab with the hoist, and of the load it lifts with the
    gear below the hook; span [m] from rail to rail; approach [m] to the first and to the second rail; base [m]: the
    distances between the wheels on a rail, from the front.

    EN 1991-3: `hoisting` class, or phi_2 by itself; hoist_speed [m/s]; phi_1 to phi_5; `driven` wheels, each by a drive
    of its own; mu: friction; skew [rad]; guide [m]: means of guidance ahead of the first wheels, 0 their flanges;
    `movable`: the rail on which wheels can move sideways; `released`: the share of the load that is set free suddenly,
    beta_3; eta: the share of it that stays on it out of service; groups of loads. ASCE 7: how it is `operated`, and the
    shares of the side thrust that the rails take. `returning`: as seen on its way back, the second rail to its left.
    """

    name: str
    code: CraneCode
    place: Place
    span: float
    bridge: float
    crab: float
    lifts: float
    approach: tuple[float, float]
    base: tuple[float, ...]
    height: float = 0.0
    hoisting: Hoisting = Hoisting.NONE
    hoist_speed: float = 0.0
    phi_1: tuple[float, float] = (0.9, 1.1)
    phi_2: float = 0.0
    phi_4: float = 1.0
    phi_5: float = 0.0
    driven: int = 0
    mu: float = 0.2
    skew: float = 0.015
    guide: float = 0.0
    movable: RailSide = RailSide.NONE
    released: float = 0.0
    beta_3: float = 1.0
    eta: float = 0.0
    groups: tuple[int, ...] = ()
    bumpers: Bumpers | None = None
    operated: Operated = Operated.NONE
    thrust: tuple[float, float] = (0.5, 0.5)
    returning: bool = False

    @property
    def wheels(self) -> int:
        """On one rail."""
        return len(self.base) + 1

    @property
    def rails(self) -> tuple[str, str]:
        """What the left and the right rail are called."""
        return ("second", "first") if self.returning else ("first", "second")

    @property
    def holds(self) -> tuple[bool, bool]:
        """Whether wheels on the left and on the right rail push sideways: not where they can move."""
        left, right = (self.movable != name for name in self.rails)
        return left, right

    @property
    def turned(self) -> Crane:
        """The same crane as seen on its way back: what was to its left is to its right."""
        return replace(
            self, approach=self.approach[::-1], thrust=self.thrust[::-1], returning=not self.returning
        )  # fmt: skip
