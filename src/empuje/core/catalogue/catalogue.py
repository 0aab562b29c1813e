"""Sections and materials by name.

>>> round(find_section("ipe300").Iy * 1e8, -1)  # [cm4]
8360.0
>>> find_material("S355").E
210000000000.0
"""

from __future__ import annotations

import csv
import re
import tomllib
from functools import cache
from importlib.resources import files

from ..model.frame import Material, Section
from .shapes import section


def _key(name: str) -> str:
    """The form in which names are compared: no blanks, no case; HE 240 B is HEB 240."""
    key = re.sub(r"\s+", "", name).casefold().replace("×", "x")
    return re.sub(r"^he(\d+)([abm])$", r"he\2\1", key)


@cache
def _rows() -> dict[str, dict[str, str]]:
    text = files(__package__).joinpath("sections.csv").read_text(encoding="utf-8")
    lines = (line for line in text.splitlines() if not line.startswith("#"))
    return {_key(row["name"]): row for row in csv.DictReader(lines)}


@cache
def section_names() -> tuple[str, ...]:
    return tuple(row["name"] for row in _rows().values())


@cache
def find_section(name: str) -> Section | None:
    """The catalogue section of that name, its properties computed from its dimensions; None if there is none."""
    row = _rows().get(_key(name))
    if row is None:
        return None
    unit = {"mm": 1e-3, "in": 0.0254}[row["unit"]]
    h, b, tw, tf, r1, r2 = (float(row[k]) * unit for k in ("h", "b", "tw", "tf", "r1", "r2"))
    return section(row["name"], row["shape"], {"h": h, "b": b, "tw": tw, "tf": tf, "t": tw, "d": h, "r": r1, "r2": r2})


@cache
def _materials() -> dict[str, Material]:
    data = tomllib.loads(files(__package__).joinpath("materials.toml").read_text(encoding="utf-8"))
    return {
        _key(name): Material(name, v["E"] * 1e9, v["G"] * 1e9, float(v["density"]), v["expansion"] * 1e-6)
        for v in data.values()
        for name in v["names"]
    }


@cache
def material_names() -> tuple[str, ...]:
    return tuple(m.name for m in _materials().values())


def find_material(name: str) -> Material | None:
    return _materials().get(_key(name))
