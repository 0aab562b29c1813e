"""Convex bays whose edges all bear: how high the part of a bay that is nearest to an edge reaches above it.

Where another edge is as near is their bisector, so that straight lines alone bound every edge's part.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FINE = 1e-9
NOWHERE = -1
"""The bearing of an edge that nothing bears."""


@dataclass(frozen=True)
class Heights:
    """Straight pieces of T: edge, s0 s1 (n, 2) along it, T (n, 2) at both."""

    edge: Ints
    s: Floats
    height: Floats


def is_convex(edges: Floats) -> bool:
    """Whether a bay with edges (n, 2, 2), counter-clockwise, is convex: then lines alone bound every edge's part."""
    x, y = (edges[:, 1] - edges[:, 0]).T
    length = np.hypot(x, y)
    ahead = np.append(np.arange(1, len(x)), 0)
    return bool((x * y[ahead] - y * x[ahead] >= -FINE * length * length[ahead]).all())


def convex_heights(edges: Floats) -> Heights:
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
class ConvexBays:
    """Convex bays (n,) with as many edges each, all of which bear: edges (n, m, 2, 2) counter-clockwise, the bearings
    (n m,) they lie on, and how high each one's part of the bay reaches."""

    bays: Ints
    edges: Floats
    bearing: Ints
    heights: Heights


def convex_bays(edges_of: list[tuple[Floats, Ints]]) -> list[ConvexBays]:
    """The bays that are closed and convex, those of equally many edges together, from every bay's edges (n, 2, 2) and
    the bearings (n,) under them."""
    groups: dict[int, list[tuple[int, Floats, Ints]]] = {}
    for k, (edges, bearing) in enumerate(edges_of):
        closed = len(edges) > 2 and (edges[:-1, 1] == edges[1:, 0]).all() and (edges[-1, 1] == edges[0, 0]).all()
        if not closed or (bearing == NOWHERE).any():
            continue
        (x, y), (xe, ye) = edges[:, 0].T, edges[:, 1].T
        if (x * ye - y * xe).sum() < 0:
            edges, bearing = edges[::-1, ::-1], bearing[::-1]
        if is_convex(edges):
            groups.setdefault(len(edges), []).append((k, edges, bearing))
    out = []
    for group in groups.values():
        stack = np.stack([edges for _, edges, _ in group])
        bearings = np.concatenate([bearing for _, _, bearing in group])
        out.append(ConvexBays(np.array([k for k, _, _ in group]), stack, bearings, convex_heights(stack)))
    return out
