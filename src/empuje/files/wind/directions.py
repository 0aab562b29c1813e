"""The directions of the wind in a model file, and the members that stand in it by themselves."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from ...core.model.wind import Heading, UncladWind
from ...core.model.words import Chimney, Side, Tower
from ..base.directions import DIRECTIONS
from ..base.entry import Entry, shown
from ..base.quantities import QuantityError
from ..base.selectors import Names
from ..frame.surfaces import Grounds, surfaces_of
from ..loads.cases import CASE_NAME
from .keys import DIRECTION
from .numbers import read_hill, read_numbers

NOWHERE = (0.0, 0.0)
LEVEL = ("+x", "-x", "+y", "-y")


def read_unclad(entry: Entry, names: Names, is_en: bool) -> tuple[UncladWind, ...]:
    """Members that stand in the wind by themselves."""
    table = entry.child("unclad")
    out = []
    for selector, own in table.children("write { } or { C_f = 1.6 }"):
        own.known()
        members, missed = names.select_members([selector])
        names.report(table, missed, selector, f"{table.what}: no family or member")
        C_f = own.quantity("C_f") if own.has("C_f") else None
        width = own.quantity("width") if own.has("width") else None
        shielding = own.quantity("shielding")
        solidity = _solidity(own) if own.has("solidity") else None
        for key, number in (("C_f", C_f), ("width", width)):
            if number is not None and number <= 0:
                own.error("bad-quantity", f"{own.what}.{key} = {shown(own.data[key])}", "write a positive value", key)
        if shielding is not None and not 0 < shielding <= 1:
            own.error("bad-quantity", f"{own.what}.shielding = {shown(own.data['shielding'])}",
                      "write a factor up to 1", "shielding")  # fmt: skip
        tower = own.word("tower", Tower) if own.has("tower") else None
        chimney = own.word("chimney", Chimney) if own.has("chimney") else None
        stated = [k for k in ("tower", "chimney") if own.has(k)]
        if stated and is_en:
            own.error("wrong-key", f"{own.what}.{stated[0]} is of ASCE 7", "state C_f (EN 1991-1-4, 7.6 to 7.11)",
                      stated[0])  # fmt: skip
        elif len(stated) > 1 or (stated and C_f is not None):
            own.error("wrong-key", f"{own.what} has {' and '.join([*stated, *(['C_f'] if C_f is not None else [])])}",
                      "state one of them", stated[0])  # fmt: skip
        elif own.has("tower") and solidity is None:
            own.error("missing-key", f"{own.what}.tower needs the solidity of one face",
                      'add solidity = "found", or a number', "tower")  # fmt: skip
        elif own.has("chimney") and own.has("solidity"):
            own.error("wrong-key", f"{own.what} has chimney and solidity", "take solidity out", "solidity")
        if members and shielding is not None:
            out.append(UncladWind(tuple(members), C_f, width, solidity, shielding, selector, own.place, tower,
                                chimney))  # fmt: skip
    return tuple(out)


def _solidity(own: Entry) -> float | None:
    value = own.data["solidity"]
    if value == "found":
        return 0.0
    number = own.as_quantity(value, "solidity")
    if number is not None and not 0 < number <= 1:
        own.error(
            "bad-quantity", f"{own.what}.solidity = {shown(value)}", 'write a share from 0 to 1, or "found"', "solidity"
        )
        return None
    return number


def read_headings(
    entry: Entry,
    names: Names,
    grounds: Grounds,
    unclad: tuple[UncladWind, ...],
    chosen: Mapping[str, Sequence[int]],
    is_en: bool,
) -> tuple[list[Heading], dict[str, tuple[str, ...] | None]]:
    """The directions, and the variants each keeps (None: all)."""
    if not entry.has("directions"):
        entry.missing("directions")
        return [], {}
    usual = tuple(entry.texts("variants") or ()) if entry.has("variants") else None
    table = entry.child("directions")
    out: list[Heading] = []
    variants: dict[str, tuple[str, ...] | None] = {}
    if not table.data and isinstance(entry.data["directions"], dict):
        entry.error(
            "missing-key", f"{entry.what}.directions names none", 'write directions = { WX = "+x" }', "directions"
        )
    for name, value in table.data.items():
        own = table.inner(value if isinstance(value, dict) else {"towards": value}, DIRECTION, name).known()
        if not CASE_NAME.fullmatch(name):
            table.error("bad-name", f"a direction cannot be called {shown(name)}",
                        "use letters, digits and _, beginning with a letter", name)  # fmt: skip
            continue
        vector, text = towards(own)
        sides: dict[int, Side] = {}
        for side in (Side.WINDWARD, Side.LEEWARD, Side.SIDE):
            for i in surfaces_of(own, side, grounds):
                if i not in (*chosen["exterior"], *chosen["parapets"]):
                    own.error("wrong-on", f"{own.what}.{side}: {grounds.called(i)} is not in `exterior`",
                              "name walls that are", side)  # fmt: skip
                sides[i] = side
        extent = {k: own.quantity(k) if own.has(k) else None for k in ("B", "L")}
        for key, length in extent.items():
            if length is not None and length <= 0:
                own.error("bad-quantity", f"{own.what}.{key} = {shown(own.data[key])}", "write a length", key)
                extent[key] = None
        of_own = read_unclad(own, names, is_en) if own.has("unclad") else unclad
        variants[name] = tuple(own.texts("variants") or ()) if own.has("variants") else usual
        of_other(own, is_en, OF_SITE)
        key = "terrain" if is_en else "exposure"
        stated = read_numbers(own, [k for k in OF_SITE[is_en] if k not in (key, "hill")])
        if "K_zt" in stated and own.has("hill"):
            own.error("wrong-key", f"{own.what} has both K_zt and a hill", "state one of them", "K_zt")
        out.append(Heading(
            name, vector, text, table.place_of(name), of_own, extent["B"], extent["L"], sides,
            roughness=(own.text(key) or "") if own.has(key) else "", hill=read_hill(own) if own.has("hill") else None,
            ground=own.quantity("ground") if own.has("ground") else None, stated=stated,
        ))  # fmt: skip
    return out, variants


OF_SITE = {
    False: ("exposure", "hill", "K_zt", "K_d"), True: ("terrain", "c_dir", "c_o", "k_r", "z_0", "z_min"),
}  # fmt: skip
"""What may be stated of a direction's site, by whether the code is EN."""


def of_other(own: Entry, is_en: bool, keys: Mapping[bool, Sequence[str]]) -> None:
    """Reports keys of the other code."""
    for key in keys[not is_en]:
        if own.has(key):
            own.error("wrong-key", f"{own.what}: {key} is of {'ASCE 7' if is_en else 'EN'}", "take it out", key)


def towards(own: Entry) -> tuple[tuple[float, float], str]:
    """Where a wind blows to: a level direction, or an angle from x; nowhere where that cannot be read."""
    if not own.has("towards"):
        own.missing("towards")
        return NOWHERE, ""
    value: Any = own.data["towards"]
    if isinstance(value, str) and value.strip() in LEVEL:
        vector = DIRECTIONS[value.strip()].vector
        return (vector[0], vector[1]), f"towards {value.strip()}"
    try:
        if isinstance(value, bool):
            raise QuantityError("is no angle")
        angle = own.notes.units.read(value, "angle")
    except QuantityError:
        remedy = 'write "+x", "-x", "+y", "-y" or an angle from x such as "30 deg"'
        own.error("unknown-word", f"{own.what}.towards = {shown(value)}", remedy, "towards")
        return NOWHERE, ""
    degrees = math.degrees(angle)
    return (math.cos(angle), math.sin(angle)), f"towards {degrees:.6g} deg from x"
