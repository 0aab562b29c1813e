"""Vehicles of open codes: axles with their distances, wheels, lane loads, dynamic factors.

>>> vehicle("FL2 pneumatic").axles[0].load, vehicle("FL2 pneumatic").dynamic
(40000.0, 1.4)
>>> [round(a.load / KIP) for a in vehicle("HS20-44 truck").axles]
[8, 32, 32]
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

from ..model.findings import Place
from ..model.traffic import Axle, Vehicle

KIP, FOOT = 4448.2216152605, 0.3048
AASHTO_LANE = 640 * KIP / 1000 / FOOT
"""0.64 klf [N/m]."""
BUILT_IN = Place("built in")


def _axles(rows: Sequence[tuple[float | tuple[float, float], float]], force: float, length: float) -> tuple[Axle, ...]:
    """From (gap or range of gaps, load) in these units."""
    out = []
    for gap, load in rows:
        low, high = gap if isinstance(gap, tuple) else (gap, gap)
        out.append(Axle((low * length, high * length), (load * force,)))
    return tuple(out)


@cache
def vehicles() -> dict[str, Vehicle]:
    """All of them by name."""
    truck: list[tuple[float | tuple[float, float], float]] = [(0.0, 8.0), (14.0, 32.0), ((14.0, 30.0), 32.0)]
    hs20 = "AASHTO Standard Specifications, 3.7"
    out = [
        Vehicle("HS20-44 truck", _axles(truck, KIP, FOOT), BUILT_IN, 6 * FOOT,
                source=f"{hs20}.6 (impact by 3.8.2 is not in it)"),
    ]  # fmt: skip
    for word, load in (("moment", 18.0), ("shear", 26.0)):
        source = f"{hs20}.6.2: 0.64 kip/ft with {load:g} kip for {word} (impact by 3.8.2 is not in it)"
        axles = _axles([(0.0, load)], KIP, FOOT)
        out.append(Vehicle(f"HS20-44 lane {word}", axles, BUILT_IN, 6 * FOOT, AASHTO_LANE, source=source))
    lrfd = "AASHTO LRFD, 3.6.1.2"
    allowance = "dynamic load allowance 33 % by 3.6.2.1, not on the lane"
    out += [
        Vehicle("HL-93 truck", _axles(truck, KIP, FOOT), BUILT_IN, 6 * FOOT, AASHTO_LANE, dynamic=1.33,
                source=f"{lrfd}.2 with the lane of .4; {allowance}"),
        Vehicle("HL-93 tandem", _axles([(0.0, 25.0), (4.0, 25.0)], KIP, FOOT), BUILT_IN, 6 * FOOT, AASHTO_LANE,
                dynamic=1.33, source=f"{lrfd}.3 with the lane of .4; {allowance}"),
    ]  # fmt: skip
    for name, width, load in (
        ("FL1", 0.85, 26.0), ("FL2", 0.95, 40.0), ("FL3", 1.0, 63.0), ("FL4", 1.2, 90.0), ("FL5", 1.5, 140.0),
        ("FL6", 1.8, 170.0),
    ):  # fmt: skip
        for tyres, phi in (("pneumatic", 1.4), ("solid", 2.0)):
            source = f"EN 1991-1-1, 6.3.2.3, tables 6.5 and 6.6: phi = {phi:g} for {tyres} tyres"
            axles = _axles([(0.0, load)], 1e3, 1.0)
            out.append(Vehicle(f"{name} {tyres}", axles, BUILT_IN, width, dynamic=phi, source=source))
    for lane, load, q in ((1, 300.0, 9.0), (2, 200.0, 2.5), (3, 100.0, 2.5)):
        source = f"EN 1991-2, 4.3.2, table 4.2: lane {lane} of 3 m, Q = {load:g} kN, q = {q:g} kN/m2, alpha = 1, "
        source += "dynamic effects in them"
        axles = _axles([(0.0, load), (1.2, load)], 1e3, 1.0)
        out.append(
            Vehicle(f"LM1 lane {lane}", axles, BUILT_IN, 2.0, 3e3 * q, patch=(0.4, 0.4), source=source)
        )  # fmt: skip
    return {v.name: v for v in out}


def vehicle(name: str) -> Vehicle:
    """One of them. Raises KeyError."""
    return vehicles()[name]
