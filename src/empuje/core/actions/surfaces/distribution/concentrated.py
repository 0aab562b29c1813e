"""Forces and lines of load on a surface: on a member directly, in a one-way bay by the lever rule along the deck, in a
two-way bay shared between strips in two directions by their stiffness.

A strip of length L = a + b, simply supported, under a force at a from one end has the stiffness 3 E I L / (a^2 b^2);
two crossing strips of one deck share a force as L/(a b)^2.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.frame import ON_LINE_TOLERANCE
from ....surfaces.bays import Bays
from ....surfaces.convex import NOWHERE
from ....surfaces.plane import Bearings, straight_edges
from .decks_one_way import DeckStrips, carriers
from .linear_fit import AT, SHARE, linear_pieces

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Shares:
    """What carries forces at points: bearings (n, k), NOWHERE where there is none; places [m] on their members and
    shares of the force (n, k)."""

    bearing: Ints
    s: Floats
    share: Floats

    def of(self, bearing: int) -> Floats:
        """A bearing's share of each (n,)."""
        return np.asarray(np.where(self.bearing == bearing, self.share, 0.0).sum(axis=1))

    def places(self, bearing: int) -> Floats:
        """Where on a bearing's member each is (n,) [m], NaN where it has nothing of it."""
        mine = self.bearing == bearing
        first = mine.argmax(axis=1)
        return np.where(mine.any(axis=1), self.s[np.arange(len(self.s)), first], np.nan)


Carrier = Callable[[Floats], Shares]
"""From points (n, 2) of one bay or strip to what carries forces there."""


@dataclass(frozen=True)
class OnMember:
    """Part of a load on a member: from s0 to s1 [m] values q0 to q1 [N/m]; or, with s1 = s0, a force q0 [N]."""

    member: int
    s0: float
    s1: float
    q0: float
    q1: float
    bay: int = 0


def direct(bearings: Bearings, points: Floats) -> int | None:
    """The bearing on which all the points (n, 2) lie, if there is one."""
    a, step = bearings.ends[:, 0], bearings.ends[:, 1] - bearings.ends[:, 0]
    if not len(a):
        return None
    length = np.linalg.norm(step, axis=1)
    along = np.einsum("pmk,mk->pm", points[:, None] - a, step) / length**2
    off = np.linalg.norm(points[:, None] - a - np.clip(along, 0, 1)[..., None] * step, axis=2)
    on = np.flatnonzero((off <= ON_LINE_TOLERANCE).all(axis=0))
    return int(on[off[:, on].max(axis=0).argmin()]) if len(on) else None


def place_on(bearings: Bearings, index: int, point: Floats) -> float:
    """The place [m] on the member of a bearing that is nearest to a point (2,)."""
    return float(places_on(bearings, np.array(index), point))


def lever(strips: DeckStrips, bearings: Bearings, points: Floats) -> Shares:
    """What carries forces at points (n, 2) of a one-way deck, by the lever rule; nothing where it has no two members to
    bear on."""
    p, q = (points @ strips.turn.T).T
    slab = np.clip(np.searchsorted(strips.q, q, side="right") - 1, 0, len(strips.q) - 2)
    ends = np.stack(carriers(strips, slab, p), axis=1)
    held = ends[:, 0] >= 0
    crossing = np.where(held[:, None], ends, 0)
    if not len(strips.on.p):
        return Shares(np.full_like(ends, NOWHERE), np.zeros(ends.shape), np.zeros(ends.shape))
    x = (q - strips.q[slab]) / (strips.q[slab + 1] - strips.q[slab])
    at = strips.on.p[crossing, 0] + x[:, None] * (strips.on.p[crossing, 1] - strips.on.p[crossing, 0])
    span = at[:, 1] - at[:, 0]
    held &= span >= ON_LINE_TOLERANCE
    span = np.where(held, span, 1.0)
    share = np.stack([(at[:, 1] - p) / span, (p - at[:, 0]) / span], axis=1)
    bearing = strips.on.index[crossing]
    flat = np.stack([at, np.broadcast_to(q[:, None], at.shape)], axis=2) @ strips.turn
    s = places_on(bearings, bearing, flat)
    return Shares(np.where(held[:, None], bearing, NOWHERE), s, np.where(held[:, None], share, 0.0))


def two_ways(bay: shapely.Polygon, bearings: Bearings, points: Floats) -> Shares:
    """What carries forces at points (n, 2) of a two-way bay: strips along its longest side and across it."""
    outline = straight_edges(bay)
    way = np.stack([sign * w for w in directions(bay) for sign in (1.0, -1.0)])
    rim, _ = _along_rays(points, way, outline)
    reach, share = _along_rays(points, way, bearings.ends)
    index = reach.argmin(axis=2)
    distance = np.take_along_axis(reach, index[..., None], 2)[..., 0]
    hits = np.isfinite(distance) & (distance <= rim.min(axis=2, initial=np.inf) + ON_LINE_TOLERANCE)
    both = hits.reshape(-1, 2, 2).all(axis=2)
    ahead, behind = np.where(hits, distance, 1.0).reshape(-1, 2, 2).transpose(2, 0, 1)
    weight = np.where(both, (ahead + behind) / (ahead * behind) ** 2, 0.0)
    whole = weight.sum(axis=1, keepdims=True)
    weight = weight / np.where(whole > 0, whole, 1.0)
    parts = np.stack([weight * behind / (ahead + behind), weight * ahead / (ahead + behind)], axis=2)
    on = np.clip(np.take_along_axis(share, index[..., None], 2)[..., 0], 0, 1)
    s = bearings.s[index, 0] + on * (bearings.s[index, 1] - bearings.s[index, 0])
    there = np.repeat(both, 2, axis=1)
    return Shares(np.where(there, index, NOWHERE), s, parts.reshape(-1, 4))


def nothing(points: Floats) -> Shares:
    """That nothing carries anything there."""
    return Shares(np.full((len(points), 1), NOWHERE), np.zeros((len(points), 1)), np.zeros((len(points), 1)))


def places_on(bearings: Bearings, index: Ints, points: Floats) -> Floats:
    """The places [m] on the members of bearings (...) nearest to points (..., 2)."""
    a, b = bearings.ends[index, 0], bearings.ends[index, 1]
    share = ((points - a) * (b - a)).sum(axis=-1) / ((b - a) ** 2).sum(axis=-1)
    s0, s1 = bearings.s[index, 0], bearings.s[index, 1]
    return np.asarray(s0 + np.clip(share, 0.0, 1.0) * (s1 - s0))


def directions(bay: shapely.Polygon) -> list[Floats]:
    """Along the longest side of a bay, and across it."""
    ring = shapely.get_coordinates(shapely.get_exterior_ring(bay))
    sides = np.diff(ring, axis=0)
    long = sides[np.round(np.linalg.norm(sides, axis=1), 6).argmax()]
    way = long / np.linalg.norm(long)
    return [way, np.array([-way[1], way[0]])]


def _along_rays(points: Floats, ways: Floats, lines: Floats) -> tuple[Floats, Floats]:
    """How far along rays from points (n, 2) in some ways (w, 2) these meet lines (m, 2, 2), infinite where they do not,
    and where on them as a share: (n, w, m) each."""
    step = lines[:, 1] - lines[:, 0]
    gap = lines[:, 0] - points[:, None]
    cross = ways[:, :1] * step[:, 1] - ways[:, 1:] * step[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (gap[..., 0] * step[:, 1] - gap[..., 1] * step[:, 0])[:, None] / cross
        share = (gap[:, None, :, 0] * ways[:, None, 1] - gap[:, None, :, 1] * ways[:, None, 0]) / cross
    good = (np.abs(cross) > 1e-12) & (t > 0) & (share >= -1e-9) & (share <= 1 + 1e-9)
    return np.where(good, t, np.inf), share


def line_parts(
    ends: Floats, values: tuple[float, float], bearings: Bearings, bays: Bays, cuts: Floats,
    carrier: Callable[[Floats], Carrier],
) -> tuple[list[OnMember], float]:  # fmt: skip
    """A line of load (2, 2) with the values at its ends [N/m], on members; and what could not be carried [N].

    `carrier(point)`: what carries forces around a point; between the shares `cuts` of the line's length the bearings
    are the same.
    """
    length = float(np.linalg.norm(ends[1] - ends[0]))
    out: list[OnMember] = []
    lost = 0.0

    def at(x: Floats) -> Floats:
        return np.asarray(ends[0] + x[:, None] * (ends[1] - ends[0]))

    def value(x: Floats) -> Floats:
        return np.asarray(values[0] + x * (values[1] - values[0]))

    for x0, x1 in itertools.pairwise(cuts):
        if (x1 - x0) * length < 1e-9:
            continue
        along = at(np.array([x0, (x0 + x1) / 2, x1]))
        bay = int(bays.at(along[1:2])[0])
        index = direct(bearings, along)
        if index is not None:
            s0, s1 = (place_on(bearings, index, p) for p in along[[0, 2]])
            v0, v1 = value(np.array([x0, x1]))
            (s0, v0), (s1, v1) = sorted(((s0, v0), (s1, v1)))
            member = int(bearings.member[index])
            if s1 - s0 < 0.01 * (x1 - x0) * length:  # a speck of the line beyond the member's end
                out.append(OnMember(member, s0, s0, float((v0 + v1) / 2 * (x1 - x0) * length), 0.0, bay))
                continue
            stretch = (x1 - x0) * length / (s1 - s0)
            out.append(OnMember(member, s0, s1, float(v0 * stretch), float(v1 * stretch), bay))
            continue
        carry = carrier(along[1])
        there = carry(along[1:2])
        if (there.bearing == NOWHERE).all():
            lost += float(value(np.array([(x0 + x1) / 2]))[0]) * (x1 - x0) * length
            continue
        out += _shared(there, carry, at, value, x0, x1, length, bearings, bay)
    return out, lost


def _shared(
    there: Shares, carry: Carrier, at: Callable[[Floats], Floats], value: Callable[[Floats], Floats], x0: float,
    x1: float, length: float, bearings: Bearings, bay: int,
) -> list[OnMember]:  # fmt: skip
    """One piece of a line over the same bearings: line loads on those it runs along or across, forces on the others."""
    wide = x1 - x0
    quarters = carry(at(x0 + np.array([0.25, 0.75]) * wide))
    out = []
    for k in np.flatnonzero(there.bearing[0] != NOWHERE).tolist():
        bearing, middle = int(there.bearing[0, k]), float(there.s[0, k])
        found = quarters.places(bearing)
        first, last = np.where(np.isnan(found), middle, found).tolist()
        speed = 2 * (last - first)

        def share(_: Ints, x: Floats, bearing: int = bearing) -> Floats:
            flat = x0 + x.ravel() * wide
            return (carry(at(flat)).of(bearing) * value(flat)).reshape(x.shape) * wide * length

        member = int(bearings.member[bearing])
        if abs(speed) < 1e-6 * wide * length:
            points = np.linspace(0, 1, 9)
            inner = (points[:-1, None] + AT / 8).ravel()
            force = float(share(np.zeros(1, np.intp), inner[None])[0] @ np.tile(SHARE / 8, 8))
            out.append(OnMember(member, middle, middle, force, 0.0, bay))
            continue
        _, a, b, v0, v1 = linear_pieces(share, 1)
        start = first - speed / 4
        for xa, xb, fa, fb in zip(a, b, v0 / abs(speed), v1 / abs(speed), strict=True):
            (sa, fa), (sb, fb) = sorted(((start + xa * speed, fa), (start + xb * speed, fb)))
            out.append(OnMember(member, float(sa), float(sb), float(fa), float(fb), bay))
    return out


def cuts_of_line(ends: Floats, lines: Floats) -> Floats:
    """Shares of a line (2, 2) at which it meets others (n, 2, 2) or passes their ends along or across the line: sorted,
    with 0 and 1."""
    step = ends[1] - ends[0]
    u = lines[:, 1] - lines[:, 0]
    gap = lines[:, 0] - ends[0]
    cross = step[0] * u[:, 1] - step[1] * u[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (gap[:, 0] * u[:, 1] - gap[:, 1] * u[:, 0]) / cross
    t = np.concatenate([[0.0, 1.0], t[np.isfinite(t)]])
    return np.unique(t[(t >= 0) & (t <= 1)])
