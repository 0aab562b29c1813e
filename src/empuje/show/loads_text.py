"""Loads for eyes: one line each, only the parts that are not zero."""

from __future__ import annotations

import numpy as np

from ..core.answers.table import MOTION_KINDS, Table
from .display import Display
from .tables import aligned, number


def loads_for_eyes(table: Table, display: Display) -> str:
    """Case, where, from, to, what, and the words and line of the model file it came from."""
    columns = {c.name: np.asarray(c.values) for c in table.columns}
    rows = []
    for i in range(len(table)):
        kind = columns["kind"][i]
        if kind in ("strain", "settlement"):
            words = _others(columns, i, display)
        else:
            words = _line(columns, i, display) if kind == "line" else _forces(columns, i, display)
        spot = [number(float(columns[k][i]) * display.factor("length"), 2) for k in ("from", "to")]
        rows.append([columns["case"][i], columns["on"][i], *spot, words, columns["source"][i], columns["place"][i]])
    unit = display.unit("length")
    heads = ["case", "on", f"from [{unit}]", f"to [{unit}]", "load, global axes", "written as", "at"]
    return aligned(heads, rows, [False, False, True, True, False, False, False])


def _line(columns: dict[str, np.ndarray], i: int, display: Display) -> str:
    factor, unit = display.factor("line"), display.unit("line")
    parts = []
    largest = max(abs(columns[k + e][i]) for k in ("qx", "qy", "qz") for e in ("", " end"))
    for name in ("qx", "qy", "qz"):
        a, b = columns[name][i], columns[name + " end"][i]
        if max(abs(a), abs(b)) > 1e-9 * largest:
            value = f"{a * factor:.4g}" if np.isclose(a, b, rtol=1e-9) else f"{a * factor:.4g} to {b * factor:.4g}"
            parts.append(f"{name} {value}")
    return ", ".join(parts) + f" {unit}" if parts else "0"


OTHERS = {"warm": "temperature", "gradient y": "gradient", "gradient z": "gradient", "misfit": "displacement"}
OTHERS |= dict(MOTION_KINDS)


def _others(columns: dict[str, np.ndarray], i: int, display: Display) -> str:
    parts = [
        f"{name} {columns[name][i] * display.factor(kind):.4g} {display.unit(kind)}"
        for name, kind in OTHERS.items()
        if columns[name][i] and not np.isnan(columns[name][i])
    ]
    return ", ".join(parts) or "0"


def _forces(columns: dict[str, np.ndarray], i: int, display: Display) -> str:
    parts = []
    for names, kind in ((("Fx", "Fy", "Fz"), "force"), (("Mx", "My", "Mz"), "moment")):
        largest = max(abs(columns[k][i]) for k in names)
        parts += [
            f"{k} {columns[k][i] * display.factor(kind):.4g} {display.unit(kind)}"
            for k in names
            if abs(columns[k][i]) > 1e-9 * largest
        ]
    return ", ".join(parts) or "0"
