"""Directions: words for global ones, those of a member, and the normal of a surface; and global ones as [x, y, z]."""

from __future__ import annotations

import math

from ...core.model.findings import did_you_mean
from ...core.model.loads import Direction
from .entry import Entry, shown

AXES = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
NORMAL = {"normal": Direction((0.0, 0.0, 1.0), True, "normal"), "-normal": Direction((0.0, 0.0, -1.0), True, "-normal")}


def _negative(v: tuple[float, float, float]) -> tuple[float, float, float]:
    return (0.0 - v[0], 0.0 - v[1], 0.0 - v[2])


DIRECTIONS: dict[str, Direction] = {
    "down": Direction((0.0, 0.0, -1.0), False, "down"),
    "up": Direction((0.0, 0.0, 1.0), False, "up"),
}
for _axis, _vector in AXES.items():
    DIRECTIONS[f"+{_axis}"] = Direction(_vector, False, f"+{_axis}")
    DIRECTIONS[f"-{_axis}"] = Direction(_negative(_vector), False, f"-{_axis}")
    DIRECTIONS[f"local {_axis}"] = Direction(_vector, True, f"local {_axis}")
    DIRECTIONS[f"+local {_axis}"] = Direction(_vector, True, f"local {_axis}")
    DIRECTIONS[f"-local {_axis}"] = Direction(_negative(_vector), True, f"-local {_axis}")


def read_direction(entry: Entry, choices: dict[str, Direction], plane: bool = False) -> Direction | None:
    """The direction under `dir`: one of the words, or [x, y, z] (in a plane model [x, z]) of any length; its default
    where it is not written. None, and a finding, where it is none."""
    value = entry.data.get("dir")
    if isinstance(value, list):
        parts = [_number(v) for v in value]
        if plane and len(parts) == 2:
            parts.insert(1, 0.0)
        size = math.hypot(*(v for v in parts if v is not None))
        if len(parts) != 3 or None in parts or not 1e-9 < size < 1e9:
            entry.error("bad-place", f"{entry.what}.dir = {shown(value)} is no direction",
                        f"write {'[x, z]' if plane else '[x, y, z]'}, or a word such as \"+x\"", "dir")  # fmt: skip
            return None
        x, y, z = (v / size for v in parts if v is not None)
        return Direction((x, y, z), False, f"[{x:.4g}, {y:.4g}, {z:.4g}]")
    word = entry.text("dir")
    if word is None:
        return None
    word = " ".join(word.split())
    if word not in choices:
        entry.error("unknown-word", f'{entry.what}.dir = "{word}"', did_you_mean(word, choices), "dir")
        return None
    return choices[word]


def _number(value: object) -> float | None:
    """A plain number, also as text, as tables have it in lists."""
    if isinstance(value, bool) or not isinstance(value, int | float | str):
        return None
    try:
        return float(value)
    except ValueError:
        return None
