"""Two-way bays: every point of a bay brings its load to the nearest bearing edge around it.

Between two edges that is their bisector: 45 degrees in a right-angled corner. Above a place s of an edge e lies its
load up to the height T(s) at which another edge is as near, or the bay ends:

     T = d_j / (1 - cos)          to the straight part of edge j, whose distance is d_j + t cos at height t
     T = ((s - s_v)^2 + t_v^2) / (2 t_v)     to an end v of an edge at (s_v, t_v)

                s_v
       .---------v--- e_j          What is nearest to the end of an edge, round a re-entrant corner or beside a
       |  \\   /                    free edge, goes to that end as a force.
       |   \\_/   T(s)
       '-------------- e
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....surfaces.convex import FINE
from ....surfaces.plane import straight_edges

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Reach:
    """One side of a bearing edge in any bay: what lies above it, between the places `s` where that changes.

    curves (n, 3): heights c0 + c1 s + c2 s^2 that bound it, where `valid` (n, 2); walls (k, 2): heights w0 + w1 s of
    the loaded region's outline, over `over` (k, 2).
    """

    edge: int
    origin: Floats
    along: Floats
    across: Floats
    s: Floats
    curves: Floats
    valid: Floats
    walls: Floats
    over: Floats

    def load(self, s: Floats, field: Floats) -> Floats:
        """Load per length [N/m] at places s (points,); field (3,): pressure = field . (1, u, v)."""
        powers = np.stack([np.ones_like(s), s, s * s])
        height = self.curves @ powers
        inside = (s >= self.valid[:, :1]) & (s <= self.valid[:, 1:]) & (height > 0)
        top = np.where(inside, height, np.inf).min(axis=0, initial=np.inf)
        wall = self.walls @ powers[:2]
        wall = np.where((s >= self.over[:, :1]) & (s <= self.over[:, 1:]), wall, np.nan)
        at_foot = field[0] + (self.origin + s[:, None] * self.along) @ field[1:]
        return load_between(wall, top, at_foot, float(self.across @ field[1:]), round_a_corner=False)


def load_between(wall: Floats, top: Floats, at_foot: Floats, rise: float | Floats, round_a_corner: bool) -> Floats:
    """Pressure at_foot + rise t (times t round a corner) summed over the material up to `top`, whose outlines rays meet
    at wall (walls, rays), NaN where they do not. Beyond the last outline there is none."""
    out = np.zeros(wall.shape[1])
    wall = -np.sort(-np.where(np.isnan(wall), -np.inf, wall), axis=0)  # from the farthest on
    for k in range(0, len(wall), 2):
        below = wall[k + 1] if k + 1 < len(wall) else np.zeros_like(out)
        end, begin = (np.clip(t, 0.0, np.maximum(top, 0.0)) for t in (wall[k], below))
        if round_a_corner:
            out += at_foot * (end**2 - begin**2) / 2 + rise * (end**3 - begin**3) / 3
        else:
            out += (end - begin) * (at_foot + rise * (end + begin) / 2)
    return out


def reaches(edges: Floats, loaded: shapely.Geometry) -> list[Reach]:
    """Both sides of every bearing edge (n, 2, 2) of one bay of any shape, over a loaded region."""
    outlines = straight_edges(loaded)
    out = []
    for e in range(len(edges)):
        step = edges[e, 1] - edges[e, 0]
        length = float(np.linalg.norm(step))
        along = step / length
        for across in (np.array([-along[1], along[0]]), np.array([along[1], -along[0]])):
            frame = np.array([along, across])
            others = (np.delete(edges, e, axis=0) - edges[e, 0]) @ frame.T
            walls = (outlines - edges[e, 0]) @ frame.T
            if walls[..., 1].max() <= FINE:
                continue
            curves, valid = _curves(others, length)
            lines, over = _walls(walls, length)
            s = _changes(curves, valid, lines, over, length)
            if len(s) > 1:
                out.append(Reach(e, edges[e, 0], along, across, s, curves, valid, lines, over))
    return out


def _curves(others: Floats, length: float) -> tuple[Floats, Floats]:
    """Heights at which other edges (n, 2, 2) in an edge's own coordinates are as near, and where along it they are."""
    curves: list[tuple[float, float, float]] = []
    valid: list[tuple[float, float]] = []
    for a, b in others:
        step = b - a
        size = np.linalg.norm(step)
        n = np.array([-step[1], step[0]]) / size
        for side in (1.0, -1.0):
            d0, b1, c = -side * (a @ n), side * n[0], side * n[1]
            if 1 - c < 1e-12:
                continue
            t0, t1 = d0 / (1 - c), b1 / (1 - c)
            # Where the foot of (s, T(s)) lies within the other edge.
            foot0 = ((np.array([0.0, t0]) - a) @ step) / size**2
            foot1 = (np.array([1.0, t1]) @ step) / size**2
            if abs(foot1) < 1e-15:
                span = (0.0, length) if -FINE <= foot0 <= 1 + FINE else None
            else:
                low, high = sorted((-foot0 / foot1, (1 - foot0) / foot1))
                span = (max(low, 0.0), min(high, length))
            if span and span[1] - span[0] > FINE * length:
                curves.append((t0, t1, 0.0))
                valid.append(span)
    ends = others.reshape(-1, 2)
    for s, t in ends[ends[:, 1] > FINE]:
        curves.append(((s * s + t * t) / (2 * t), -s / t, 1 / (2 * t)))
        valid.append((0.0, length))
    return np.array(curves).reshape(-1, 3), np.array(valid).reshape(-1, 2)


def _walls(walls: Floats, length: float) -> tuple[Floats, Floats]:
    """Heights of outlines (n, 2, 2) above an edge, and where along it they are met."""
    a, b = walls[:, 0], walls[:, 1]
    swap = a[:, 0] > b[:, 0]
    a, b = np.where(swap[:, None], b, a), np.where(swap[:, None], a, b)
    keep = (b[:, 0] - a[:, 0] > 1e-13 * (1 + np.abs(a[:, 0]))) & (b[:, 0] > 0) & (a[:, 0] < length)
    a, b = a[keep], b[keep]
    slope = (b[:, 1] - a[:, 1]) / (b[:, 0] - a[:, 0])
    return np.column_stack([a[:, 1] - slope * a[:, 0], slope]), np.column_stack([a[:, 0], b[:, 0]])


def _changes(curves: Floats, valid: Floats, walls: Floats, over: Floats, length: float) -> Floats:
    """The places along an edge between which the same curves and walls bound what lies above it."""
    every = np.vstack([curves, np.column_stack([walls, np.zeros(len(walls))])])
    i, j = np.triu_indices(len(every), 1)
    c, b, a = (every[i] - every[j]).T
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(b * b - 4 * a * c)
        far = -(b + np.where(b >= 0, root, -root)) / 2
        straight = np.abs(a) < 1e-14
        meet = np.concatenate([np.where(straight, -c / b, far / a), np.where(straight, np.nan, c / far)])
    s = np.concatenate([[0.0, length], valid.ravel(), over.ravel(), meet[np.isfinite(meet)]])
    s = np.unique(s[(s >= 0) & (s <= length)])
    return np.asarray(s[np.concatenate([[True], np.diff(s) > 1e-12 * length])])
