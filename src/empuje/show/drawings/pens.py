"""How supports look: strokes of a pen below their node."""

from __future__ import annotations

Pen = list[tuple[float, float] | None]
HATCH: Pen = [p for x in (-0.9, -0.35, 0.2, 0.75) for p in ((x + 0.2, 0.0), (x - 0.15, -0.45), None)]
GROUND: Pen = [(-1.0, -1.0), (1.0, -1.0), None, *((p[0], p[1] - 1.0) if p else None for p in HATCH)]
TRIANGLE: Pen = [(0.0, 0.0), (-0.75, -1.0), (0.75, -1.0), (0.0, 0.0), None]
SYMBOLS: dict[str, Pen] = {
    "pinned": [*TRIANGLE, *GROUND],
    "part": [(-0.6, 0.0), (0.6, 0.0), (0.6, -1.0), (-0.6, -1.0), (-0.6, 0.0), None, *GROUND],
    "fixed": [(-1.0, 0.0), (1.0, 0.0), None, *HATCH],
    "roller": [*TRIANGLE, (-1.0, -1.35), (1.0, -1.35), None],
    "spring": [
        (0.0, -1.0), (0.0, -1.2), (-0.5, -1.35), (0.5, -1.6), (-0.5, -1.85), (0.5, -2.1), (0.0, -2.25), (0.0, -2.45),
        None, (-0.7, -2.45), (0.7, -2.45),
    ],
    "push": [
        *TRIANGLE, (-1.0, -1.3), (1.0, -1.3), None, (0.0, -1.3), (0.0, -2.2), None, (-0.35, -1.75), (0.0, -1.3),
        (0.35, -1.75),
    ],
}  # fmt: skip
"""Supports as they hang below their node, in halves of the symbol's size; None lifts the pen."""
