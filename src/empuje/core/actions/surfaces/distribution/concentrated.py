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
from ..geometry.bays import Bays
from ..geometry.plane import Bearings, straight_edges
from .decks_one_way import DeckStrips, carriers
from .linear_fit import AT, SHARE, linear_pieces

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


Shares = list[tuple[int, float, float]]
"""Of a force: bearing, place [m] on its member, and share."""
Carrier = Callable[[Floats], Shares]
"""From a point (2,) to what carries a force there."""


@dataclass(frozen=True)
class OnMember:
    """Part of a load on a member: from s0 to s1 [m] values q0 to q1 [N/m]; or, with s1 = s0, a force q0 [N]."""

    member: int
    s0: float
    s1: float
    q0: float
    q1: float
    bay: int = 0


@dataclass(frozen=True)
class Hit:
    """Where a strip through a point ends: on a bearing (its index) at a share of its length; its distance [m]."""

    bearing: int
    share: float
    distance: float


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
    a, b = bearings.ends[index]
    share = float((point - a) @ (b - a) / ((b - a) @ (b - a)))
    s0, s1 = bearings.s[index]
    return float(s0 + min(max(share, 0.0), 1.0) * (s1 - s0))


def lever(strips: DeckStrips, bearings: Bearings, point: Floats) -> Shares:
    """Bearing, place [m] on its member and share of a force at a point (2,) of a one-way deck; none where it has no two
    members to bear on."""
    p, q = strips.turn @ point
    slab = np.clip(np.searchsorted(strips.q, q, side="right") - 1, 0, len(strips.q) - 2)
    near, far = (int(i[0]) for i in carriers(strips, np.array([slab]), np.array([p])))
    if near < 0:
        return []
    x = (q - strips.q[slab]) / (strips.q[slab + 1] - strips.q[slab])
    pn, pf = (float(strips.on.p[i, 0] + x * (strips.on.p[i, 1] - strips.on.p[i, 0])) for i in (near, far))
    if pf - pn < ON_LINE_TOLERANCE:
        return []
    out = []
    for crossing, at, share in ((near, pn, (pf - p) / (pf - pn)), (far, pf, (p - pn) / (pf - pn))):
        bearing = int(strips.on.index[crossing])
        out.append((bearing, place_on(bearings, bearing, np.array([at, q]) @ strips.turn), share))
    return out


def two_ways(bay: shapely.Polygon, bearings: Bearings, point: Floats) -> Shares:
    """Bearing, place [m] on its member and share of a force at a point (2,) of a two-way bay."""
    found = []
    for way in directions(bay):
        ahead, behind = (_hit(bay, bearings, point, sign * way) for sign in (1, -1))
        if ahead and behind:
            found.append((ahead, behind))
    weight = [(a.distance + b.distance) / (a.distance * b.distance) ** 2 for a, b in found]
    out = []
    for (ahead, behind), w in zip(found, weight, strict=True):
        L = ahead.distance + behind.distance
        for hit, lever_arm in ((ahead, behind.distance), (behind, ahead.distance)):
            s0, s1 = bearings.s[hit.bearing]
            out.append((hit.bearing, float(s0 + hit.share * (s1 - s0)), w / sum(weight) * lever_arm / L))
    return out


def directions(bay: shapely.Polygon) -> list[Floats]:
    """Along the longest side of a bay, and across it."""
    ring = shapely.get_coordinates(shapely.get_exterior_ring(bay))
    sides = np.diff(ring, axis=0)
    long = sides[np.round(np.linalg.norm(sides, axis=1), 6).argmax()]
    way = long / np.linalg.norm(long)
    return [way, np.array([-way[1], way[0]])]


def _hit(bay: shapely.Polygon, bearings: Bearings, point: Floats, way: Floats) -> Hit | None:
    """The bearing on which a strip from a point ends first; None where it ends at a free edge."""
    outline = straight_edges(bay)
    r, _ = _along_ray(point, way, outline[:, 0], outline[:, 1])
    t, share = _along_ray(point, way, bearings.ends[:, 0], bearings.ends[:, 1])
    if not np.isfinite(t).any() or t.min() > r.min(initial=np.inf) + ON_LINE_TOLERANCE:
        return None
    index = int(t.argmin())
    return Hit(index, float(np.clip(share[index], 0, 1)), float(t[index]))


def _along_ray(point: Floats, way: Floats, a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """How far along a ray it meets lines from a to b (n, 2), infinite where it does not, and where on them (share)."""
    step = b - a
    cross = way[0] * step[:, 1] - way[1] * step[:, 0]
    gap = a - point
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (gap[:, 0] * step[:, 1] - gap[:, 1] * step[:, 0]) / cross
        share = (gap[:, 0] * way[1] - gap[:, 1] * way[0]) / cross
    good = (np.abs(cross) > 1e-12) & (t > 0) & (share >= -1e-9) & (share <= 1 + 1e-9)
    return np.where(good, t, np.inf), share


def line_parts(
    ends: Floats, values: tuple[float, float], bearings: Bearings, bays: Bays, cuts: Floats, carry: Carrier
) -> tuple[list[OnMember], float]:
    """A line of load (2, 2) with the values at its ends [N/m], on members; and what could not be carried [N].

    `carry(point)` gives bearing, place and share of a force at a point; between the shares `cuts` of the line's length
    the bearings are the same.
    """
    length = float(np.linalg.norm(ends[1] - ends[0]))
    out: list[OnMember] = []
    lost = 0.0

    def at(x: float) -> Floats:
        return np.asarray(ends[0] + x * (ends[1] - ends[0]))

    def value(x: Floats) -> Floats:
        return np.asarray(values[0] + x * (values[1] - values[0]))

    for x0, x1 in itertools.pairwise(cuts):
        if (x1 - x0) * length < 1e-9:
            continue
        middle = at((x0 + x1) / 2)
        bay = int(bays.at(middle[None])[0])
        index = direct(bearings, np.array([at(x0), middle, at(x1)]))
        if index is not None:
            s0, s1 = (place_on(bearings, index, at(x)) for x in (x0, x1))
            v0, v1 = value(np.array([x0, x1]))
            (s0, v0), (s1, v1) = sorted(((s0, v0), (s1, v1)))
            member = int(bearings.member[index])
            stretch = (x1 - x0) * length / (s1 - s0)
            out.append(OnMember(member, s0, s1, float(v0 * stretch), float(v1 * stretch), bay))
            continue
        there = carry(middle)
        if not there:
            lost += float(value(np.array([(x0 + x1) / 2]))[0]) * (x1 - x0) * length
            continue
        out += _shared(there, at, value, carry, x0, x1, length, bearings, bay)
    return out, lost


def _of(shares: Shares, bearing: int) -> float:
    """A bearing's share."""
    return sum(share for index, _, share in shares if index == bearing)


def _shared(
    there: Shares, at: Callable[[float], Floats], value: Callable[[Floats], Floats], carry: Carrier, x0: float,
    x1: float, length: float, bearings: Bearings, bay: int,
) -> list[OnMember]:  # fmt: skip
    """One piece of a line over the same bearings: line loads on those it runs along or across, forces on the others."""
    wide = x1 - x0
    known: dict[float, Shares] = {}

    def carried(x: float) -> Shares:
        """What carries a force there; every bearing asks for the same places."""
        if x not in known:
            known[x] = carry(at(x))
        return known[x]

    quarters = [{b: s for b, s, _ in carried(x0 + e * wide)} for e in (0.25, 0.75)]
    out = []
    for k, (bearing, middle, _) in enumerate(there):
        first, last = (q.get(bearing, middle) for q in quarters)
        speed = 2 * (last - first)

        def share(_: Ints, x: Floats, bearing: int = bearing) -> Floats:
            flat = x0 + x.ravel() * wide
            return (
                (np.array([_of(carried(v), bearing) for v in flat.tolist()]) * value(flat)).reshape(x.shape)
                * wide
                * length
            )

        member = int(bearings.member[bearing])
        if abs(speed) < 1e-6 * wide * length:
            points = np.linspace(0, 1, 9)
            inner = (points[:-1, None] + AT / 8).ravel()
            force = float(share(np.zeros(1, np.intp), inner[None])[0] @ np.tile(SHARE / 8, 8))
            out.append(OnMember(member, there[k][1], there[k][1], force, 0.0, bay))
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
