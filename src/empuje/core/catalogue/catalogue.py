"""Sections and materials by name.

>>> round(find_section("ipe300").Iy * 1e8, -1)  # [cm4]
8360.0
>>> round(find_section("WT6x13").A / 0.0254**2, 2), find_section("1/2 IPE 300").name
(3.82, '1/2 IPE 300')
>>> find_material("S355").E
210000000000.0

Tees cut from an I and double angles are not listed one by one: they follow from the section they are made of.
"""

from __future__ import annotations

import csv
import re
import tomllib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import TypeVar

from ..model.frame import Material, Section
from ..model.words import Made
from .shapes import Dimensions, section

UNIT = {"mm": 1e-3, "in": 0.0254}
CUT = ("IPE", "HEA", "HEB", "HEM", "UB", "UC")
"""Series of which halves are listed; W gives WT."""
DOUBLE = ("L", "L (in)")
H_SERIES = re.compile(r"^(1/2)?he(\d+)([abm])$")
MASS = {"mm": 1.0, "in": 0.45359237 / 0.3048}
"""Masses of the data files in kg/m."""


@dataclass(frozen=True)
class Rolled:
    """One section of the catalogue: its series and shape, its dimensions [m] (slope: none), and the mass of the tables
    [kg/m], NaN where none is kept."""

    name: str
    series: str
    shape: str
    unit: str
    dimensions: Dimensions
    mass: float = float("nan")


def _key(name: str) -> str:
    """The form in which names are compared: no blanks, no case; HE 240 B is HEB 240."""
    key = "".join(name.split()).casefold().replace("×", "x").replace("½", "1/2")
    return H_SERIES.sub(r"\1he\3\2", key) if "he" in key else key


@cache
def _rows() -> dict[str, tuple[list[str], list[str]]]:
    """Every row of the data files with its heads, by the section's key, in their order."""
    out: dict[str, tuple[list[str], list[str]]] = {}
    for file in sorted(files(__package__).joinpath("sections").iterdir(), key=lambda f: f.name):
        if file.name.endswith(".csv"):
            lines = (line for line in file.read_text(encoding="utf-8").splitlines() if not line.startswith("#"))
            heads, *rows = csv.reader(lines)
            name = heads.index("name")
            out |= {_key(row[name]): (heads, row) for row in rows}
    return out


@cache
def _rolled() -> dict[str, Rolled]:
    """Every section of the data files by its key, in their order."""
    return {key: _of_row(dict(zip(*row, strict=True))) for key, row in _rows().items()}


def _of_row(row: dict[str, str]) -> Rolled:
    unit = UNIT[row["unit"]]
    h, b, tw, tf, r, r2 = (float(row[k]) * unit for k in ("h", "b", "tw", "tf", "r1", "r2"))
    d = {"h": h, "b": b, "tw": tw, "tf": tf, "t": tw, "d": h, "r": r, "r2": r2}
    if row["slope"]:
        d |= {"u": float(row["u"]) * unit, "slope": float(row["slope"])}
    mass = float(row["mass"]) * MASS[row["unit"]] if row["mass"] else float("nan")
    return Rolled(row["name"], row["series"], row["shape"], row["unit"], d, mass)


@cache
def catalogue() -> dict[str, Rolled]:
    """Every section by its key: those of the data files, tees cut from them, and double angles without a gap."""
    rolled = _rolled()
    more = [*(_half(of) for of in rolled.values() if of.series in CUT or of.series == "W"),
            *(_double(of, 0.0, "") for of in rolled.values() if of.series in DOUBLE)]  # fmt: skip
    return rolled | {_key(one.name): one for one in more}


def _half(of: Rolled) -> Rolled:
    """A tee: the upper half of an I, cut without loss. WT6x13 is half of W12x26."""
    name, series = f"1/2 {of.name}", f"1/2 {of.series}"
    if of.series == "W":
        depth, weight = (float(v) / 2 for v in of.name[1:].split("x"))
        name, series = f"WT{depth:g}x{weight:g}", "WT"
    d = of.dimensions | {"h": of.dimensions["h"] / 2, "d": of.dimensions["h"] / 2}
    return Rolled(name, series, "tee", of.unit, d, of.mass / 2)


def _double(of: Rolled, gap: float, words: str) -> Rolled:
    return Rolled(
        f"2{of.name}{words}", f"2{of.series}", "double angle", of.unit, of.dimensions | {"gap": gap}, 2 * of.mass
    )


def _with_gap(name: str) -> Rolled | None:
    """A double angle with a gap in its name: 2L 80x80x8 / 10 mm, 2L4x4x1/2 gap 3/8 in."""
    match = re.fullmatch(r"2(l.+?)gap([\d.]+|\d+/\d+)(mm|in)", _key(name))
    of = _rolled().get(match[1]) if match else None
    if match is None or of is None or of.series not in DOUBLE:
        return None
    over = match[2].split("/")
    gap = float(over[0]) / (float(over[1]) if len(over) > 1 else 1.0)
    return _double(of, gap * UNIT[match[3]], f" gap {match[2]} {match[3]}")


@cache
def section_names() -> tuple[str, ...]:
    """The names of all built-in sections."""
    return tuple(one.name for one in catalogue().values())


@cache
def find_section(name: str) -> Section | None:
    """The catalogue section of that name, its properties computed from its dimensions; None if there is none."""
    row = _rows().get(_key(name))
    found = _of_row(dict(zip(*row, strict=True))) if row else catalogue().get(_key(name)) or _with_gap(name)
    return None if found is None else build(found)


def build(of: Rolled) -> Section:
    """Its properties, computed. Raises ValueError for dimensions that make no section."""
    return section(of.name, of.shape, of.dimensions, made_of(of))


COLD = ("CFSHS", "CFRHS", "HSS", "HSS round", "Pipe")


def made_of(of: Rolled) -> Made:
    """EN 10219 and ASTM A500 tubes are cold formed, those of EN 10210 hot finished; ASTM A53 pipes count as cold formed
    too."""
    if of.shape not in ("hollow", "pipe"):
        return Made.ROLLED
    return Made.COLD if of.series in COLD else Made.HOT


T = TypeVar("T")


def listed(patterns: list[str]) -> Iterator[Rolled]:
    """The sections whose names match one of the globs, blanks and case apart; all of them for none."""
    return _called(catalogue(), patterns)


def _called(known: Mapping[str, T], patterns: Sequence[str]) -> Iterator[T]:
    from fnmatch import fnmatchcase

    keys = [_key(p) for p in patterns]
    return (one for key, one in known.items() if not keys or any(fnmatchcase(key, k) for k in keys))


@cache
def _materials() -> dict[str, Material]:
    data = tomllib.loads(files(__package__).joinpath("materials.toml").read_text(encoding="utf-8"))
    return {
        _key(name): Material(
            name,
            v["E"] * 1e9,
            v["G"] * 1e9,
            float(v["density"]),
            v["expansion"] * 1e-6,
            _strength(data["strength"].get(name, [])),
            name if name in data["strength"] else "",
        )
        for key, v in data.items()
        if key != "strength"
        for name in v["names"]
    }


def _strength(rows: list[list[float]]) -> tuple[tuple[float, float, float], ...]:
    return tuple((t * 1e-3, fy * 1e6, fu * 1e6) for t, fy, fu in rows)


@cache
def material_names() -> tuple[str, ...]:
    """The names of all built-in materials."""
    return tuple(m.name for m in _materials().values())


def materials_called(patterns: Sequence[str]) -> list[Material]:
    """The built-in materials whose names match one of the globs, blanks and case apart; all of them for none."""
    return list(_called(_materials(), patterns))


def find_material(name: str) -> Material | None:
    """A built-in material by its name, however it is spaced and whatever its letter case; None where there is none."""
    return _materials().get(_key(name))
