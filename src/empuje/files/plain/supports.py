"""Supports as entries, with how the ground moves under them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.model.frame import FREEDOMS, LineSupport, Support
from ...core.model.loads import Settlement
from ...core.model.surfaces import Surface
from .bare import Bare, Data, degrees

SAME = 1e-12


def plain_supports(bare: Bare, supports: Sequence[Support], settlements: Sequence[Settlement]) -> list[Data]:
    """Those that are alike as one entry; the motions of the ground go with the first of each node."""
    motions: dict[int, list[tuple[str, tuple[float, ...]]]] = {}
    for s in settlements:
        for n in s.nodes:
            motions.setdefault(n, []).append((s.case, s.motion))
    alike: dict[Any, list[str]] = {}
    for one in supports:
        turn, signs = _turn_of(np.array(one.axes))
        moved = tuple((case, tuple(np.multiply(signs, m).tolist())) for case, m in motions.pop(one.node, ()))
        alike.setdefault((one.held, one.spring, one.lift, turn, moved), []).append(bare.nodes[one.node])
    return [_support(bare, nodes, *key) for key, nodes in alike.items()]


def _support(
    bare: Bare, nodes: list[str], held: tuple[bool, ...], spring: tuple[float, ...], lift: bool,
    turn: tuple[tuple[str, float], ...], moved: tuple[tuple[str, tuple[float, ...]], ...],
) -> Data:  # fmt: skip
    words = [f for f in FREEDOMS if not bare.plane or f in ("x", "z", "ry")]
    holds = [f for f, h in zip(FREEDOMS, held, strict=True) if h and f in words]
    out: Data = {"at": nodes if len(nodes) > 1 else nodes[0]}
    if holds:
        out["fix"] = {"x y z rx ry rz": "fixed", "x y z": "pinned"}.get(" ".join(holds), " ".join(holds))
    springs = {f: k for f, k in zip(FREEDOMS, spring, strict=True) if k}
    if springs:
        out["spring"] = bare.springs(springs)
    if lift:
        out["lift"] = True
    if turn:
        out["turn"] = {axis: degrees(angle) for axis, angle in turn}
    if moved:
        out["settle"] = [
            {"case": case, **{f: bare.number(v, "length") if f in "xyz" else f"{v!r} rad"
                              for f, v in zip(FREEDOMS, motion, strict=True) if v}}
            for case, motion in moved
        ]  # fmt: skip
    return out


def plain_line_supports(bare: Bare, supports: Sequence[LineSupport], surfaces: Sequence[Surface]) -> list[Data]:
    """Those along lines, by the edge of a surface or by their points."""
    edges = {
        (s.corners[i], s.corners[(i + 1) % len(s.corners)]): f"{s.name}/{i + 1}"
        for s in surfaces if s.plate is not None for i in range(len(s.corners))
    }  # fmt: skip
    out = []
    for one in supports:
        edge = edges.get((one.points[0], one.points[-1])) if len(one.points) == 2 else None
        entry: Data = {"along": edge or [bare.point(p) for p in one.points]}
        holds = [f for f, h in zip(FREEDOMS, one.held, strict=True) if h]
        if holds:
            entry["fix"] = " ".join(holds)
        springs = {
            f: bare.number(k, "line spring" if f in "xyz" else "turning line spring")
            for f, k in zip(FREEDOMS, one.spring, strict=True) if k
        }  # fmt: skip
        if springs:
            entry["spring"] = springs
        turn, _ = _turn_of(np.array(one.axes))
        if turn:
            entry["turn"] = {axis: degrees(angle) for axis, angle in turn}
        out.append(entry)
    return out


def _turn_of(axes: NDArray[np.float64]) -> tuple[tuple[tuple[str, float], ...], tuple[float, ...]]:
    """The angles [rad] about x, y and z, one after another, that turn global axes into these (rows), and the signs of a
    motion in them: axes x and y may both point the other way, as what holds has no sign."""
    best: tuple[tuple[tuple[str, float], ...], tuple[float, ...]] | None = None
    for sign in (1.0, -1.0):
        R = (axes * np.array([[sign], [sign], [1.0]])).T
        level = math.hypot(R[2, 1], R[2, 2])
        b = math.atan2(-R[2, 0], level)
        a = math.atan2(R[2, 1], R[2, 2]) if level > SAME else 0.0
        c = math.atan2(R[1, 0], R[0, 0]) if level > SAME else math.atan2(-R[0, 1], R[1, 1])
        turn = tuple((axis, angle) for axis, angle in zip("xyz", (a, b, c), strict=True) if abs(angle) > SAME)
        if best is None or len(turn) < len(best[0]):
            best = turn, (sign, sign, 1.0, sign, sign, 1.0)
    assert best is not None
    return best
