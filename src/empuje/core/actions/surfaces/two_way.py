"""Two-way bays: every point of a bay brings its load to the nearest bearing edge around it.

Between two edges that is their bisector: 45 degrees in a right-angled corner. Above a place s of an edge e lies its load
up to the height T(s) at which another edge is as near, or the bay ends:

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

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FINE = 1e-9
MOST_HALVINGS = 24
FAN_POINTS, FAN_WEIGHTS = np.polynomial.legendre.leggauss(16)


@dataclass(frozen=True)
class Heights:
    """Straight pieces of T: edge, s0 s1 (n, 2) along it, T (n, 2) at both."""

    edge: Ints
    s: Floats
    height: Floats


def is_plain(edges: Floats) -> bool:
    """Whether a bay with edges (n, 2, 2), counter-clockwise, is convex: then lines alone bound every edge's part."""
    x, y = (edges[:, 1] - edges[:, 0]).T
    length = np.hypot(x, y)
    ahead = np.append(np.arange(1, len(x)), 0)
    return bool((x * y[ahead] - y * x[ahead] >= -FINE * length * length[ahead]).all())


def plain_heights(edges: Floats) -> Heights:
    """T of every edge of convex bays whose edges all bear: edges (bays, m, 2, 2)."""
    bays, m = edges.shape[:2]
    origin, step = edges[:, :, 0], edges[:, :, 1] - edges[:, :, 0]
    length = np.linalg.norm(step, axis=2)
    along = step / length[..., None]
    inward = np.stack([-along[..., 1], along[..., 0]], axis=2)
    # Edge i sees edge j's distance as a + b s + c t.
    gap = origin[:, :, None] - origin[:, None]
    a = np.einsum("bijk,bjk->bij", gap, inward)
    b = np.einsum("bik,bjk->bij", along, inward)
    c = np.einsum("bik,bjk->bij", inward, inward)
    open_to = 1 - c
    same = open_to < 1e-12  # the edge itself, and edges in line with it
    with np.errstate(divide="ignore", invalid="ignore"):
        t0, t1 = np.where(same, np.inf, a / open_to), np.where(same, 0.0, b / open_to)
    i, j = np.triu_indices(m, 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        meet = (t0[..., j] - t0[..., i]) / (t1[..., i] - t1[..., j])
    s = np.concatenate([np.zeros((bays, m, 1)), length[..., None], np.nan_to_num(meet, nan=0.0)], axis=2)
    s = np.sort(np.clip(s, 0.0, length[..., None]), axis=2)
    with np.errstate(invalid="ignore"):
        height = (t0[:, :, None] + t1[:, :, None] * s[..., None]).min(axis=3)
    edge = np.broadcast_to(np.arange(bays * m).reshape(bays, m, 1), s[..., 1:].shape)
    long = np.diff(s, axis=2) > FINE * length[..., None]
    pairs = np.stack([s[..., :-1], s[..., 1:]], axis=3), np.stack([height[..., :-1], height[..., 1:]], axis=3)
    return _joined(Heights(edge[long], pairs[0][long], np.maximum(pairs[1][long], 0.0)))


def _joined(found: Heights) -> Heights:
    """Neighbouring pieces in one line as one."""
    slope = np.diff(found.height, axis=1)[:, 0] / np.diff(found.s, axis=1)[:, 0]
    same = (found.edge[1:] == found.edge[:-1]) & (np.abs(np.diff(slope)) < 1e-9)
    first = np.flatnonzero(np.concatenate([[True], ~same])[: len(slope)])
    last = np.append(first[1:], len(slope))[: len(first)] - 1
    return Heights(
        found.edge[first], np.column_stack([found.s[first, 0], found.s[last, 1]]),
        np.column_stack([found.height[first, 0], found.height[last, 1]]),
    )  # fmt: skip


@dataclass(frozen=True)
class Reach:
    """One side of a bearing edge in any bay: what lies above it, between the places `s` where that changes.

    curves (n, 3): heights c0 + c1 s + c2 s^2 that bound it, where `valid` (n, 2); walls (k, 2): heights w0 + w1 s of the
    loaded region's outline, over `over` (k, 2).
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
        return _between(wall, top, at_foot, float(self.across @ field[1:]), round_a_corner=False)


def _between(wall: Floats, top: Floats, at_foot: Floats, rise: float | Floats, round_a_corner: bool) -> Floats:
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
    outlines = _outlines(loaded)
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


def _outlines(shape: shapely.Geometry) -> Floats:
    rings = shapely.get_rings(shapely.get_parts(shape))
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    return np.stack([points[:-1][same], points[1:][same]], axis=1)


def _curves(others: Floats, length: float) -> tuple[Floats, Floats]:
    """Heights at which other edges (n, 2, 2) in an edge's own coordinates are as near, and where along it that holds."""
    curves, valid = [], []
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
                ends = sorted((-foot0 / foot1, (1 - foot0) / foot1))
                span = (max(ends[0], 0.0), min(ends[1], length))
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
    return s[np.concatenate([[True], np.diff(s) > 1e-12 * length])]


def fans(edges: Floats, loaded: shapely.Geometry, field: Floats) -> list[tuple[int, int, float]]:
    """What is nearest to ends of bearing edges (n, 2, 2): edge, which end (0 or 1), and the force [N] it gets."""
    outlines = _outlines(loaded)
    ends = edges.reshape(-1, 2)
    out = []
    done: list[Floats] = []
    for k, corner in enumerate(ends):
        if any(np.linalg.norm(corner - other) < FINE for other in done):
            continue
        done.append(corner)
        away = np.linalg.norm(ends - corner, axis=1)
        at = np.flatnonzero(away < FINE)
        way = np.array([ends[i ^ 1] - corner for i in at])
        way /= np.linalg.norm(way, axis=1)[:, None]
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
    """The load of the rays within a range of directions, up to where another edge is as near.

    All bounds are 1/r = A + B cos + C sin: (1 + n.ray)/d for a line at distance d, 2 v.ray/v^2 for a point v, and
    n.ray/d for an outline.
    """
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

    bounds: list
    feet: list
    walls: list
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
        f = _between(wall, top, np.full(len(ray), self.at_corner), self.slope @ unit, round_a_corner=True)
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


def _foot_ends(feet: list, bounds: list) -> list[float]:
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


def _tops(bounds: list, feet: list, unit: Floats) -> Floats:
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
