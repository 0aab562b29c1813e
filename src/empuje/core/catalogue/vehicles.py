"""Vehicles of open codes: axles with their distances, wheels, lane loads, dynamic factors.

>>> vehicle("FL2 pneumatic").axles[0].load, vehicle("FL2 pneumatic").dynamic
(40000.0, 1.4)
>>> [round(a.load / UNITS["kip"]) for a in vehicle("HS20-44 truck").axles]
[8, 32, 32]
"""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from ..model.findings import Place
from ..model.traffic import Axle, Vehicle

UNITS = {"kN": 1e3, "kip": 4448.2216152605, "m": 1.0, "ft": 0.3048}
"""Of the table's forces [N] and lengths [m]."""
BUILT_IN = Place("built in")


@cache
def vehicles() -> dict[str, Vehicle]:
    """All of them by name."""
    data = tomllib.loads(files(__package__).joinpath("vehicles.toml").read_text(encoding="utf-8"))
    return {row["name"]: _read(row) for row in data["vehicle"]}


def _read(row: dict[str, Any]) -> Vehicle:
    force, length = (UNITS[word] for word in row["units"].split())
    axles = []
    for gap, load in row["axles"]:
        low, high = gap if isinstance(gap, list) else (gap, gap)
        axles.append(Axle((low * length, high * length), (load * force,)))
    wide, deep = row.get("patch", (0.0, 0.0))
    return Vehicle(
        row["name"], tuple(axles), BUILT_IN, row["width"] * length, row.get("lane", 0.0) * force / length,
        patch=(wide * length, deep * length), dynamic=float(row.get("dynamic", 1.0)), source=row["source"],
    )  # fmt: skip


def vehicle(name: str) -> Vehicle:
    """One of them. Raises KeyError."""
    return vehicles()[name]
