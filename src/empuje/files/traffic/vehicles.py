"""Vehicles of a model file.

[vehicles.lifter]
axles = [["0 m", "26 kN"], ["1.2 m", "14 kN"]]
gauge = "1 m"
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from ...core.catalogue.vehicles import vehicles as built_in
from ...core.model.findings import did_you_mean
from ...core.model.traffic import Axle, Vehicle
from ...core.model.words import LanePart
from ..base.entry import Entry, shown

MOST_AXLES = 60


def read_vehicles(model: Entry) -> tuple[dict[str, Vehicle], set[str]]:
    """The model's own vehicles, and those built in; and names of those that could not be read."""
    known = dict(built_in())
    unread: set[str] = set()
    if not model.has("vehicles"):
        return known, unread
    for name, entry in model.child("vehicles").children():
        if name in built_in():
            entry.error("name-clash", f"vehicle {name} is built in", "call it otherwise")
        found = _vehicle(name, entry.known(), known)
        if found is not None:
            known[name] = found
        else:
            unread.add(name)
    return known, unread


def _vehicle(name: str, entry: Entry, known: dict[str, Vehicle]) -> Vehicle | None:
    base = Vehicle(name, (), entry.place)
    if entry.has("like"):
        like = entry.text("like")
        if like is None:
            return None
        if like not in known:
            entry.error("unknown-name", f"{entry.what}: there is no vehicle {like}", did_you_mean(like, known), "like")
            return None
        base = replace(known[like], name=name, place=entry.place)
    axles = _axles(entry) if entry.has("axles") or not entry.has("like") else base.axles
    out: dict[str, Any] = {"axles": axles}
    for key, least, most in (
        ("gauge", 0.0, 50.0), ("lane", 0.0, 1e7), ("along", 0.0, 2.0), ("across", 0.0, 2.0), ("height", -20.0, 20.0),
        ("dynamic", 0.0, 5.0),
    ):  # fmt: skip
        if not entry.has(key):
            continue
        value = entry.quantity(key)
        if value is not None and not least <= value <= most:
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}",
                        f"write a value from {least:g} to {most:g} (in SI)", key)  # fmt: skip
            value = None
        if value is not None:
            out[key] = value
    if entry.has("lane_on"):
        out["lane_on"] = _lane_on(entry) or base.lane_on
    if entry.has("patch"):
        out["patch"] = _patch(entry) or base.patch
    if axles is None:
        return None
    found = replace(base, **out)
    if any(len(a.wheels) == 2 for a in found.axles) and not found.gauge:
        entry.error("missing-key", f"{entry.what} has left and right wheels, but no gauge",
                    'add gauge = "1.8 m", from wheel to wheel')  # fmt: skip
        return None
    return found


def _axles(entry: Entry) -> tuple[Axle, ...] | None:
    value = entry.data.get("axles")
    if value is None:
        entry.missing("axles")
        return None
    good = isinstance(value, list) and value and all(isinstance(row, list) and len(row) in (2, 3) for row in value)
    if not good or len(value) > MOST_AXLES:
        few = f" (up to {MOST_AXLES})" if good else ""
        entry.error("bad-axles", f"{entry.what}.axles = {shown(value)}", f"list [distance, load] for every axle{few}: "
                    'axles = [["0 m", "26 kN"], ["1.2 m", "14 kN"]]', "axles")  # fmt: skip
        return None
    out = []
    for k, (gap, *loads) in enumerate(value):
        found = _gap(entry, gap, k)
        wheels = all_of(entry, loads, "force", "axles", k)
        if found is None or wheels is None:
            return None
        if min(wheels) < 0 or not any(wheels):
            entry.error(
                "bad-quantity", f"{entry.what}.axles[{k + 1}] has no weight", "write positive loads", "axles", k
            )
            return None
        if k == 0 and found != (0.0, 0.0):
            entry.error("bad-axles", f"{entry.what}.axles begins with a distance of {found[0]:g} m",
                        "distances are from the axle before: that of the first is 0", "axles", 0)  # fmt: skip
            return None
        out.append(Axle(found, tuple(wheels)))
    return tuple(out)


def _gap(entry: Entry, value: object, k: int) -> tuple[float, float] | None:
    ends = value.split("..") if isinstance(value, str) else [value]
    if len(ends) not in (1, 2):
        entry.error("bad-quantity", f"{entry.what}.axles[{k + 1}]: {shown(value)} is no distance",
                    'write "4.3 m", or a range "4.3 m .. 9 m"', "axles", k)  # fmt: skip
        return None
    read = all_of(entry, [e.strip() if isinstance(e, str) else e for e in ends], "length", "axles", k)
    if read is None:
        return None
    low, high = read[0], read[-1]
    if low < 0 or high < low:
        entry.error("bad-quantity", f"{entry.what}.axles[{k + 1}]: the distance {shown(value)}",
                    "write a distance of 0 or more, a range from the smaller one on", "axles", k)  # fmt: skip
        return None
    return low, high


def _lane_on(entry: Entry) -> tuple[LanePart, ...] | None:
    words = entry.texts("lane_on")
    known = [str(word) for word in LanePart]
    for word in words or []:
        if word not in known:
            entry.error("unknown-word", f"{entry.what}.lane_on: {word}", did_you_mean(word, known), "lane_on")
            return None
    chosen = tuple(LanePart(w) for w in words or [])
    if LanePart.ADVERSE in chosen and len(chosen) > 1:
        entry.error("wrong-key", f'{entry.what}.lane_on: "adverse" is everywhere', "write it alone", "lane_on")
        return None
    return chosen


def _patch(entry: Entry) -> tuple[float, float] | None:
    value = entry.data["patch"]
    if not isinstance(value, list) or len(value) != 2:
        entry.error("bad-quantity", f"{entry.what}.patch = {shown(value)}", 'write ["0.2 m", "0.2 m"]: length, width',
                    "patch")  # fmt: skip
        return None
    read = all_of(entry, value, "length", "patch")
    if read is None:
        return None
    if min(read) < 0 or max(read) > 5:
        entry.error("bad-quantity", f"{entry.what}.patch = {shown(value)}", "write sizes from 0 to 5 m", "patch")
        return None
    return read[0], read[1]


def all_of(entry: Entry, values: Sequence[object], kind: str, key: str, *inner: int) -> list[float] | None:
    """Quantities, or None and findings where one of them is none."""
    read = [entry.as_quantity(v, key, *inner, kind=kind) for v in values]
    return [v for v in read if v is not None] if None not in read else None
