"""Answers in the project's display units.

>>> d = Display(("kN", "m", "mm", "MPa"))
>>> d.unit("moment"), d.factor("displacement")
('kN*m', 1000.0)
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..core.answers.table import Column, Table
from ..core.model.loads import Step
from ..files.base.quantities import parse, unit_size

STEP_KINDS = {
    "m2": "surface", "m3": "volume", "N": "force", "N/m": "line", "N/m2": "pressure", "m": "length", "m/s": "speed",
    "N m": "moment", "Pa": "stress", "m2 A": "area", "m3 W": "modulus",
    "N/m3": "unit weight",
}  # fmt: skip
"""Units of steps in SI, and the kind of quantity they are shown as."""


@dataclass(frozen=True)
class Display:
    """How answers are shown: the units force, length, displacement, stress; and the width of the window [characters],
    None where nothing limits it."""

    units: tuple[str, str, str, str]
    width: int | None = None

    @cached_property
    def _known(self) -> dict[str, tuple[str, float]]:
        force, length, small, stress = self.units
        F, L = unit_size(force), unit_size(length)
        # Section tables are in cm where drawings are in mm.
        part = "cm" if small == "mm" else small
        P = unit_size(part)
        speed = "mph" if length in ("ft", "in") else "m/s"
        return {
            "text": ("", 1.0), "count": ("", 1.0), "number": ("", 1.0), "factor": ("", 1.0),
            "temperature": ("K", 1.0), "gradient": (f"K/{length}", 1 / L),
            "force": (force, F), "length": (length, L),
            "moment": (f"{force}*{length}", F * L), "line": (f"{force}/{length}", F / L),
            "displacement": (small, unit_size(small)), "rotation": ("mrad", 1e-3),
            "area": (f"{part}2", P**2), "modulus": (f"{part}3", P**3), "inertia": (f"{part}4", P**4),
            "warping": (f"{part}6", P**6), "angle": ("deg", math.pi / 180),
            "spring": (f"{force}/{length}", F / L), "turning spring": (f"{force}*{length}/rad", F * L),
            "line moment": (f"{force}*{length}/{length}", F), "stress": (stress, unit_size(stress)),
            "surface": (f"{length}2", L**2), "volume": (f"{length}3", L**3),
            "time": ("s", 1.0), "speed": (speed, parse(f"1 {speed}")[0]), "pressure": (f"{force}/{length}2", F / L**2),
            "unit weight": (f"{force}/{length}3", F / L**3),
        }  # fmt: skip

    def unit(self, kind: str) -> str:
        """The unit a kind of quantity is shown in."""
        return self._known[kind][0]

    def factor(self, kind: str) -> float:
        """What an SI value is multiplied by."""
        return 1 / self._known[kind][1]

    def said(self, step: Step) -> str:
        """A step of a derivation in words, its value in display units.

        >>> Display(("kip", "ft", "in", "ksi")).said(Step("A_T", "tributary area", 9.290304, "m2", "4.7.2"))
        'A_T = 100 ft2 (tributary area, 4.7.2)'
        """
        clause = f", {step.clause}" if step.clause else ""
        return f"{step.symbol} = {self.value(step)} ({step.formula}{clause})"

    def value(self, step: Step) -> str:
        """A step's value with its unit, in display units; nothing where it has none."""
        if math.isnan(step.value):
            return ""
        kind = STEP_KINDS.get(step.unit)
        value, unit = (step.value * self.factor(kind), self.unit(kind)) if kind else (step.value, step.unit)
        return f"{value:.4g} {unit}".rstrip()

    def head(self, column: Column) -> str:
        """The column's name with its unit: N [kN]."""
        unit = self.unit(column.kind)
        return f"{column.name} [{unit}]" if unit else column.name

    def convert(self, table: Table) -> dict[str, np.ndarray | list[str]]:
        """Columns by their heads, in display units."""
        return {
            # Dividing by the unit's size rounds once: 2000 N are 2 kN and not 2.0000000000000004. Adding 0 drops -0.
            self.head(c): list(c.values)
            if c.kind == "text"
            else np.asarray(c.values, float) / self._known[c.kind][1] + 0.0
            for c in table.columns
        }
