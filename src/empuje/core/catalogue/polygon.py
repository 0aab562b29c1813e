"""Plane geometry of cross-sections: outlines of straight edges and arcs, and the integrals over them.

An outline is a list of closed loops of (y, z) points [m]; the outer loop runs counter-clockwise, holes clockwise.

    >>> square = [np.array([[0.0, 0.0], [2.0, 0.0], [2.0, 2.0], [0.0, 2.0]])]
    >>> float(moments(square)[0])
    4.0
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

Loops = Sequence[NDArray[np.float64]]
Bands = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]
ARC_STEPS = 24
"""Chords a fillet is drawn with; what they cut off is below 1e-4 of any rolled section's area."""


def rounded(points: ArrayLike, radii: ArrayLike) -> NDArray[np.float64]:
    """The closed polygon `points` (n, 2) with each corner replaced by an arc of its radius (n,), 0 for a sharp one."""
    p = np.asarray(points, float)
    out: list[NDArray[np.float64]] = []
    for before, corner, after, r in zip(np.roll(p, 1, 0), p, np.roll(p, -1, 0), np.asarray(radii, float), strict=True):
        if r <= 0:
            out.append(corner[None])
            continue
        a, b = before - corner, after - corner
        a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
        half = 0.5 * np.arccos(np.clip(a @ b, -1, 1))
        bisector = (a + b) / np.linalg.norm(a + b)
        centre = corner + bisector * r / np.sin(half)
        t0, t1 = corner + a * r / np.tan(half) - centre, corner + b * r / np.tan(half) - centre
        sweep = np.arctan2(t0[0] * t1[1] - t0[1] * t1[0], t0 @ t1)
        angle = np.arctan2(t0[1], t0[0]) + np.linspace(0, sweep, ARC_STEPS + 1)
        out.append(centre + r * np.column_stack([np.cos(angle), np.sin(angle)]))
    return np.vstack(out)


def moments(loops: Loops) -> NDArray[np.float64]:
    """A, Sy = int z, Sz = int y, Iy = int z^2, Iz = int y^2, Iyz = int y z over the outline (Green's theorem)."""
    total = np.zeros(6)
    for p in loops:
        y, z = p.T
        y2, z2 = np.roll(p, -1, 0).T
        k = y * z2 - y2 * z
        total += [
            k.sum() / 2,
            ((z + z2) * k).sum() / 6,
            ((y + y2) * k).sum() / 6,
            ((z * z + z * z2 + z2 * z2) * k).sum() / 12,
            ((y * y + y * y2 + y2 * y2) * k).sum() / 12,
            ((y * z2 + 2 * y * z + 2 * y2 * z2 + y2 * z) * k).sum() / 24,
        ]
    return total


def moved(loops: Loops, dy: float, dz: float, turn: float = 0.0) -> tuple[NDArray[np.float64], ...]:
    """The outline shifted by (dy, dz), then seen from axes turned by `turn` [rad]."""
    c, s = np.cos(turn), np.sin(turn)
    to_axes = np.array([[c, s], [-s, c]])
    return tuple((p + np.array([dy, dz])) @ to_axes.T for p in loops)


def bands(loops: Loops) -> Bands:
    """The outline cut into level bands between neighbouring corners: heights (n+1,), width at foot and top (n,).

    Inside a band the width is linear in z, exactly, since all edges are straight.
    """
    edges = np.concatenate([np.stack([p, np.concatenate([p[1:], p[:1]])], axis=1) for p in loops])
    heights = np.unique(np.round(edges[:, :, 1], 12))
    foot, top = heights[:-1], heights[1:]
    (y0, z0), (y1, z1) = edges[:, 0].T, edges[:, 1].T

    def width(level: NDArray[np.float64]) -> NDArray[np.float64]:
        crosses = (np.minimum(z0, z1) < level[:, None]) & (np.maximum(z0, z1) >= level[:, None])
        rise = np.where(z1 == z0, 1.0, z1 - z0)
        y = y0 + (y1 - y0) * (level[:, None] - z0) / rise
        return np.asarray(np.where(crosses, np.sign(z1 - z0) * y, 0.0).sum(axis=1))

    at_third, at_two_thirds = width((2 * foot + top) / 3), width((foot + 2 * top) / 3)
    return heights, np.maximum(2 * at_third - at_two_thirds, 0), np.maximum(2 * at_two_thirds - at_third, 0)


def plastic_modulus(cut_up: Bands) -> float:
    """Wpl about the level axis that halves the area [m3]."""
    heights, w0, w1 = cut_up
    h = np.diff(heights)
    area = (w0 + w1) / 2 * h
    below = np.concatenate([[0], np.cumsum(area)])
    half = below[-1] / 2
    i = min(int(np.searchsorted(below, half, side="right")) - 1, len(h) - 1)
    # In band i: w0 t + (w1 - w0) t^2 / (2 h) = half - below[i]; the form below stays accurate when w1 = w0.
    rest, slope = half - below[i], (w1[i] - w0[i]) / h[i]
    t = 2 * rest / (w0[i] + np.sqrt(max(w0[i] ** 2 + 2 * slope * rest, 0.0)))
    axis = heights[i] + t
    cut = np.insert(heights, i + 1, axis)
    middle = w0[i] + slope * t
    a, b = np.insert(w0, i + 1, middle), np.insert(w1, i, middle)
    z0, z1 = cut[:-1] - axis, cut[1:] - axis
    first = (z1 - z0) / 6 * (a * (2 * z0 + z1) + b * (z0 + 2 * z1))
    return float(np.abs(first).sum())


GAUSS = np.polynomial.legendre.leggauss(6)


def shear_area(cut_up: Bands, inertia: float) -> float:
    """Area that carries shear along z: I^2 / int S^2 / b dz, from equal strain energy (bands about the centroid)."""
    heights, w0, w1 = cut_up
    z0, h = heights[:-1], np.diff(heights)
    gauss, weight = GAUSS
    t = (gauss[:, None] + 1) / 2 * h
    b = w0 + (w1 - w0) * t / h
    slope = (w1 - w0) / h
    whole = w0 * (z0 * h + h**2 / 2) + slope * (z0 * h**2 / 2 + h**3 / 3)
    above = np.cumsum(whole[::-1])[::-1]
    S = above - (w0 * (z0 * t + t**2 / 2) + slope * (z0 * t**2 / 2 + t**3 / 3))
    energy = (np.where(b > 0, S**2 / np.where(b > 0, b, 1.0), 0.0) * weight[:, None] * h / 2).sum()
    return float(inertia**2 / energy)
