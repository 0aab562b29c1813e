"""Cranes by ASCE 7-16 and 7-22, section 4.9: wheel loads with vertical impact, side thrust, longitudinal force."""

from __future__ import annotations

from ....model.crane import Crane
from ....model.loads import Step
from ....model.traffic import Vehicle
from ....model.words import Operated
from .statics import no_level, on_rails, vehicle

IMPACT = {Operated.CAB: 0.25, Operated.PENDANT: 0.10, Operated.HAND: 0.0}
"""Shares of the greatest wheel loads (4.9.3)."""
SIDE, ALONG = 0.20, 0.10
"""Of load and crab (4.9.4); of the wheel loads (4.9.5). Not of cranes moved by hand."""


def states(crane: Crane) -> list[Vehicle]:
    """The crane as vehicles: the crab near either rail, with side thrust or with longitudinal forces."""
    out: list[Vehicle] = []
    impact = IMPACT[crane.operated]
    for near in (0, 1):
        rails = on_rails(crane, near, 1.0, 1.0, 1.0)
        loaded = rails[0] * (1 + impact), rails[1] * (1 + impact)
        n = crane.wheels
        steps = [
            Step("R", "of the wheels of a rail, with the crab near", rails[near], "N", f"{crane.code}, 4.9.2"),
            Step("I", f"vertical impact, operated by {crane.operated}", 1 + impact, "", "4.9.3"),
        ]
        if crane.operated == Operated.HAND:
            out.append(vehicle(crane, crane.rails[near], loaded, no_level(crane), steps))
            continue
        H = SIDE * (crane.crab + crane.lifts)
        thrust = Step("H", "0.20 (load + crab), in the rails' shares", H, "N", "4.9.4")
        across = [((0.0, H * crane.thrust[0] / n), (0.0, H * crane.thrust[1] / n))] * n
        out.append(vehicle(crane, f"{crane.rails[near]}.across", loaded, across, [*steps, thrust]))
        brake = Step("H", "0.10 of the wheel loads, along", ALONG * sum(rails), "N", "4.9.5")
        along = [((ALONG * rails[0] / n, 0.0), (ALONG * rails[1] / n, 0.0))] * n
        out.append(vehicle(crane, f"{crane.rails[near]}.along", loaded, along, [*steps, brake]))
    return out
