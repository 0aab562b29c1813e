"""Vehicles, and the ways they take: what a moving case is made of.

s = 0                                                   s = length
o---------------------------------------------------------o   way
         <- d ->|<- gap ->|                 ------> forward
        axle 2       axle 1 (front), at t from where the way begins in its direction
"""

from __future__ import annotations

from dataclasses import dataclass

from .findings import Place
from .loads import Step, Vector
from .words import Beside, Entering, Heading, LanePart, Stance

BESIDE = 2e-9
"""Where a result jumps a wheel stands so far [m] before or past the place: the shear beside a support is that of a
wheel just inside."""


@dataclass(frozen=True, slots=True)
class Axle:
    """`gap`: behind the axle before it, the least and the greatest [m]; `wheels`: one load on the vehicle's middle, or
    its left and right one [N]; `level`: the horizontal forces of each [N], along and to the left, all of a vehicle
    either way."""

    gap: tuple[float, float]
    wheels: tuple[float, ...]
    level: tuple[tuple[float, float], ...] = ()

    @property
    def load(self) -> float:
        """All of it [N]."""
        return sum(self.wheels)


@dataclass(frozen=True, slots=True)
class Vehicle:
    """Axles from the front; `gauge` [m] across between wheels; `lane` [N/m] goes with it, on `lane_on`.

    `patch` [m]: length and width of a wheel on a surface. `along`, `across`: horizontal forces as shares of the static
    wheel loads, either way, acting `height` [m] above the way. `dynamic` multiplies the vertical wheel loads, not the
    lane nor what is horizontal. `source` says where a built-in one comes from, `steps` how loads were found.
    `row`: so many of it go one behind the other, where that is not for the traffic to say; `heading`: the one way it
    goes, 0 for either.
    """

    name: str
    axles: tuple[Axle, ...]
    place: Place
    gauge: float = 0.0
    lane: float = 0.0
    lane_on: tuple[LanePart, ...] = (LanePart.ADVERSE,)
    patch: tuple[float, float] = (0.0, 0.0)
    along: float = 0.0
    across: float = 0.0
    height: float = 0.0
    dynamic: float = 1.0
    source: str = ""
    steps: tuple[Step, ...] = ()
    row: int = 0
    heading: int = 0

    @property
    def level(self) -> bool:
        """Whether its axles have horizontal forces of their own."""
        return any(f for a in self.axles for pair in a.level for f in pair)

    @property
    def adverse_lane(self) -> bool:
        """Whether its lane load stands wherever it is adverse, whatever its own place."""
        return self.lane > 0 and LanePart.ADVERSE in self.lane_on


@dataclass(frozen=True, slots=True)
class Way:
    """A line that vehicles follow: members (indices) that join end to end, or points (n, 3) [m]. On `surfaces`
    (indices) wheels stand on these, else on members. `aside` [m]: how far the vehicle's middle is to the left of the
    line."""

    text: str
    place: Place
    members: tuple[int, ...] = ()
    points: tuple[Vector, ...] = ()
    surfaces: tuple[int, ...] = ()
    aside: float = 0.0


@dataclass(frozen=True, slots=True)
class Assumed:
    """What was taken of a crane as nothing else was said: about what, what, why, and the key that states it."""

    subject: str
    taken: str
    because: str
    key: str
    stance: Stance


@dataclass(frozen=True, slots=True)
class Traffic:
    """A moving case: one of its vehicles at a time on each of its ways.

    `step` [m]: 0 is exact; `speed` [m/s] where it was given. `count` vehicles in a row, `clear` [m] or more between the
    last axle of one and the first of the next. `presence`: the factor on all where 1, 2, ... ways are loaded at once.
    `unit`: the length that positions are told in, and its metres. `runways`: of a crane, the members of both rails, and
    what was `assumed` of it. `every_step`: where results are no sums every step is analysed, not chosen ones.
    """

    case: str
    vehicles: tuple[Vehicle, ...]
    ways: tuple[Way, ...]
    place: Place
    heading: Heading = Heading.FORWARD
    step: float = 0.0
    speed: float = 0.0
    entering: Entering = Entering.AXLES
    beside: Beside = Beside.LEVER
    dynamic: float = 1.0
    count: int = 1
    clear: float = 0.0
    presence: tuple[float, ...] = (1.0,)
    unit: tuple[str, float] = ("m", 1.0)
    heading_stated: bool = False
    runways: tuple[tuple[int, ...], ...] = ()
    assumed: tuple[Assumed, ...] = ()
    every_step: bool = False

    def in_row(self, vehicle: Vehicle) -> int:
        """How many of a vehicle go one behind the other."""
        return vehicle.row or self.count

    @property
    def exact(self) -> bool:
        """Whether positions are not stepped through: the worst is found wherever it is."""
        return self.step == 0


@dataclass(frozen=True, slots=True)
class Spot:
    """Where one vehicle, or a row of them, stands on one way.

    t [m]: of its foremost axle from where it came onto the way; `heading` 1 forward, -1 backward; `brake`, `side`: the
    sign of its horizontal forces, along its heading and to its left; `gaps` [m] behind each axle but the last;
    `lanes` [m]: parts of the way, from its beginning, that bear the lane load, where this stands at will.
    """

    way: int
    vehicle: int
    t: float
    heading: int = 1
    brake: int = 0
    side: int = 0
    gaps: tuple[float, ...] = ()
    lanes: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Standing:
    """A position of a traffic: what stands on each loaded way at once, as a load case of that name. traffic: index."""

    case: str
    traffic: int
    spots: tuple[Spot, ...]
