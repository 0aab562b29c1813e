"""The words for directions: global ones, those of a member, and the normal of a surface."""

from __future__ import annotations

from ..core.model.loads import Direction

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
