"""Loads for eyes: one line each, only the parts that are not zero."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from ..core.answers.table import MOTION_KINDS, Table
from ..core.model.loads import Source
from .display import Display
from .layout import aligned
from .tables import number


def loads_for_eyes(table: Table, display: Display, lengths: dict[str, float], each: bool = False) -> str:
    """Case, where, from, to, what, and the words and line of the model file it came from. Loads that are alike on many
    members stand in one line, unless `each` is asked for; `lengths` [m] of members tell what reaches over all of one.
    """
    columns = {c.name: np.asarray(c.values) for c in table.columns}
    of = np.array([lengths.get(on, np.nan) for on in columns["on"].tolist()], float)
    with np.errstate(invalid="ignore"):
        whole = (columns["from"] == 0) & (np.abs(columns["to"].astype(float) - of) < 1e-6) & (not each)
    rows: dict[tuple[str, ...], list[str]] = {}
    for alike in [[i] for i in range(len(table))] if each else _alike(table, whole):
        i = alike[0]
        kind = columns["kind"][i]
        if kind in ("strain", "settlement"):
            words = _others(columns, i, display)
        else:
            words = _line(columns, i, display) if kind == "line" else _forces(columns, i, display)
        spot = [number(float(columns[k][i]) * display.factor("length"), 2) for k in ("from", "to")]
        if whole[i]:
            spot = ["0.00", "end"]
        key = (str(columns["case"][i]), *spot, words, _without_bay(str(columns["source"][i])), str(columns["place"][i]))
        rows.setdefault((*key, str(i)) if each else key, []).extend(str(columns["on"][k]) for k in alike)
    unit = display.unit("length")
    heads = ["case", "on", f"from [{unit}]", f"to [{unit}]", "load, global axes", "written as", "at"]
    cells = [[key[0], _together(on), *key[1:6]] for key, on in rows.items()]
    return aligned(heads, cells, [False, False, True, True, False, False, False], display.width)


def _alike(table: Table, whole: NDArray[np.bool_]) -> list[list[int]]:
    """Rows that differ in nothing but the member they are on, in the order of the first of each."""
    keys = []
    for column in table.columns:
        values = np.asarray(column.values)
        if column.name == "on":
            continue
        if column.kind == "text":
            words = values.tolist()
            known: dict[object, int] = {}
            keys.append(np.array([known.setdefault(w, len(known)) for w in words], float))
        else:
            ends = whole & (column.name in ("from", "to"))
            keys.append(np.where(ends, -1.0, values.astype(float) + 0.0))
    rows = np.ascontiguousarray(np.column_stack(keys))
    _, first, group = np.unique(rows.view(np.void(rows.dtype.itemsize * rows.shape[1]).dtype).ravel(),
                                return_index=True, return_inverse=True)  # fmt: skip
    order = np.argsort(group, kind="stable")
    parts = np.split(order, np.cumsum(np.bincount(group))[:-1])
    return [parts[g].tolist() for g in np.argsort(first, kind="stable").tolist()]


def _together(on: list[str]) -> str:
    """One name, or the first one and how many more: each once."""
    names = list(dict.fromkeys(on))
    times = f", {len(on)} times" if len(names) == 1 and len(on) > 1 else ""
    return f"{names[0]}{times}" if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"


def _without_bay(text: str) -> str:
    return re.sub(r", bay \d+$", "", text)


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


OTHERS = {
    "temperature": "temperature",
    "gradient y": "gradient",
    "gradient z": "gradient",
    "lack of fit": "displacement",
}
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


def steps_for_eyes(sources: list[Source], display: Display) -> str:
    """Each source with its steps below it, a line a step."""
    out = []
    for source in sources:
        case = f"{source.case}: " if source.case else ""
        out.append(
            f"{case}{source.text}   [{source.place}]\n" + "".join(f"    {display.said(s)}\n" for s in source.steps)
        )
    return "How they came about\n" + "".join(out) if out else "No load here has steps of its own.\n"
