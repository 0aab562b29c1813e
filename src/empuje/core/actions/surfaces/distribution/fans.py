"""What is nearest to an end of a bearing edge, round a re-entrant corner or beside a free edge, in polar coordinates.

All bounds of a ray from the corner are 1/r = A + B cos + C sin: (1 + n.ray)/d of a line at distance d that is as near,
2 v.ray/v^2 of a point v, and n.ray/d of an outline. So they meet in directions of closed form; between these the sum is
Gauss's, halved until that changes nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ....surfaces.convex import FINE
from ....surfaces.plane import straight_edges
from .two_way import load_between

Floats = NDArray[np.float64]
MOST_HALVINGS = 24
FAN_POINTS, FAN_WEIGHTS = np.polynomial.legendre.leggauss(16)


def fans(edges: Floats, loaded: shapely.Geometry, field: Floats) -> list[tuple[int, int, float]]:
    """What is nearest to ends of bearing edges (n, 2, 2): edge, which end (0 or 1), and the force [N] it gets."""
    outlines = straight_edges(loaded)
    ends = edges.reshape(-1, 2)
    out = []
    done: list[Floats] = []
    for k, corner in enumerate(ends):
        if any(np.linalg.norm(corner - other) < FINE for other in done):
            continue
        done.append(corner)
        away = np.linalg.norm(ends - corner, axis=1)
        at = np.flatnonzero(away < FINE)
        way = ends[at ^ 1] - corner
        length = np.linalg.norm(way, axis=1)
        way = way[length > FINE] / length[length > FINE, None]  # edges shorter than what is fine have no direction
        if not len(way):
            continue
        open_to = _open(way)
        if open_to is None:
            continue
        others = np.delete(edges, np.unique(at // 2), axis=0) - corner
        force = _fan(open_to, others, outlines - corner, field[0] + corner @ field[1:], field[1:])
        if force:
            out.append((k // 2, k % 2, force))
    return out


def _open(way: Floats) -> tuple[float, float] | None:
    """The range of directions [rad] that point away from all edges (n, 2) at a corner, if there is one."""
    angle = np.arctan2(way[:, 1], way[:, 0])
    low, high = angle[0] + np.pi / 2, angle[0] + 3 * np.pi / 2
    for a in angle[1:]:
        # Bring the half-turn away from this edge beside the range there is.
        middle = (low + high) / 2
        b = a + np.pi + 2 * np.pi * np.round((middle - a - np.pi) / (2 * np.pi))
        low, high = max(low, b - np.pi / 2), min(high, b + np.pi / 2)
    return (low, high) if high - low > FINE else None


def _fan(open_to: tuple[float, float], others: Floats, outlines: Floats, at_corner: float, slope: Floats) -> float:
    """The load of the rays within a range of directions, up to where another edge is as near."""
    bounds: list[tuple[float, float, float]] = []
    feet: list[tuple[Floats, Floats] | None] = []
    for a, b in others:
        step = b - a
        n = np.array([-step[1], step[0]]) / np.linalg.norm(step)
        d = float(a @ n)
        n, d = (-n, -d) if d < 0 else (n, d)
        if d > FINE:  # distance d - n.P of a point P on this side, and beyond it n.P - d, never reached first
            bounds.append((1 / d, n[0] / d, n[1] / d))
            feet.append((a, b))
        for v in (a, b):
            if v @ v > FINE**2:
                bounds.append((0.0, *(2 * v / (v @ v))))
                feet.append(None)
    walls = []
    for a, b in outlines:
        step = b - a
        n = np.array([-step[1], step[0]])
        d = float(a @ n)
        if abs(d) > FINE * np.linalg.norm(n):
            walls.append((n[0] / d, n[1] / d, *a, *b))
    every = np.array([*bounds, *((0.0, w[0], w[1]) for w in walls)]).reshape(-1, 3)
    i, j = np.triu_indices(len(every), 1)
    A, B, C = (every[i] - every[j]).T
    R, phase = np.hypot(B, C), np.arctan2(C, B)
    with np.errstate(divide="ignore", invalid="ignore"):
        turn = np.arccos(-A / R)
    low, high = open_to
    points = [p for p in [*outlines.reshape(-1, 2), *others.reshape(-1, 2)] if p @ p > FINE**2]
    # Where the foot on another edge reaches one of its ends, the line's bound becomes the end's.
    angles = [
        np.array([low, high]),
        phase + turn,
        phase - turn,
        np.arctan2([p[1] for p in points], [p[0] for p in points]),
    ]
    angles.append(np.array(_foot_ends(feet, bounds)))
    angle = np.concatenate(angles)
    angle = angle[np.isfinite(angle)]
    angle = low + np.mod(angle - low, 2 * np.pi)
    angle = np.unique(np.append(angle[angle <= high], high))
    rays = _Rays(bounds, feet, walls, at_corner, slope)
    return _summed(rays, angle[:-1], angle[1:])


@dataclass(frozen=True)
class _Rays:
    """What bounds the rays from a corner, and the pressure along them."""

    bounds: list[Any]
    feet: list[Any]
    walls: list[Any]
    at_corner: float
    slope: Floats

    def loads(self, low: Floats, high: Floats) -> Floats:
        """Of the fans between two directions each."""
        wide = high - low
        ray = (low[:, None] + wide[:, None] * (FAN_POINTS + 1) / 2).ravel()
        unit = np.stack([np.cos(ray), np.sin(ray)])
        top = _tops(self.bounds, self.feet, unit)
        wall = np.full((max(len(self.walls), 1), len(ray)), np.nan)
        for k, (nx, ny, ax, ay, bx, by) in enumerate(self.walls):
            inverse = nx * unit[0] + ny * unit[1]
            crossing = (ax * unit[1] - ay * unit[0]) * (bx * unit[1] - by * unit[0]) < 0
            hit = crossing & (inverse > 1e-12)
            wall[k, hit] = 1 / inverse[hit]
        f = load_between(wall, top, np.full(len(ray), self.at_corner), self.slope @ unit, round_a_corner=True)
        return np.asarray(f.reshape(len(low), -1) @ FAN_WEIGHTS * wide / 2)


def _summed(rays: _Rays, low: Floats, high: Floats) -> float:
    """The loads of all fans, halved until that changes nothing."""
    total, found = 0.0, rays.loads(low, high)
    for _ in range(MOST_HALVINGS):
        middle = (low + high) / 2
        halves = rays.loads(low, middle), rays.loads(middle, high)
        rough = np.abs(halves[0] + halves[1] - found) > 1e-13 * max(float(np.abs(found).max(initial=0.0)), abs(total))
        total += float((halves[0] + halves[1])[~rough].sum())
        if not rough.any():
            return total
        low, high = np.concatenate([low[rough], middle[rough]]), np.concatenate([middle[rough], high[rough]])
        found = np.concatenate([halves[0][rough], halves[1][rough]])
    return total + float(found.sum())


def _foot_ends(feet: list[Any], bounds: list[Any]) -> list[float]:
    """Directions in which a point as near to an edge's line as to the corner has its foot at the edge's ends."""
    out = []
    for foot, (A, B, C) in zip(feet, bounds, strict=True):
        if foot is None:
            continue
        for v in foot:
            # r ray . step = v . step, with 1/r = A + B cos + C sin
            x, y = foot[1] - foot[0]
            m = float(v[0] * x + v[1] * y)
            b, c = x - m * B, y - m * C
            size = np.hypot(b, c)
            if size > 0 and abs(m * A) <= size:
                turn = np.arccos(m * A / size)
                out += [np.arctan2(c, b) + turn, np.arctan2(c, b) - turn]
    return out


def _tops(bounds: list[Any], feet: list[Any], unit: Floats) -> Floats:
    """How far along rays (2, n) from a corner it stays the nearest."""
    top = np.full(unit.shape[1], np.inf)
    for (A, B, C), foot in zip(bounds, feet, strict=True):
        inverse = A + B * unit[0] + C * unit[1]
        good = inverse > 1e-12
        r = 1 / np.where(good, inverse, 1.0)
        if foot is not None:
            a, step = foot[0], foot[1] - foot[0]
            along = ((r * unit).T - a) @ step / (step @ step)
            good &= (along >= 0) & (along <= 1)
        top = np.minimum(top, np.where(good, r, np.inf))
    return top
