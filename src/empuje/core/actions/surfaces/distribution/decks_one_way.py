r"""One-way decks: every strip is a simple beam between the two members it bears on, or overhangs one of them.

With p along the deck and q across, a strip at q crosses bearing members at p1 < p2 < ... and the outline before and
after them. Its spans are simple beams; what overhangs the first or last member is balanced by the span behind it:

     R_far = M / L     R_near = F - R_far      F, M: the strip's load and its moment about the near member

Between neighbouring corners and crossings ("slabs" of q) all these places are linear in q, so that a uniform pressure
on spans gives linear loads along the members: of any polygon, exactly.

    outline .--------------------.
            |  p1      p2    p3  |        ---> p, along the deck
            |   \      |     |   |
    slab    |....\.....|.....|...|
            '-----\----|-----|---'
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ....model.frame import ON_LINE_TOLERANCE
from ....surfaces.convex import NOWHERE
from ....surfaces.plane import Bearings, straight_edges

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
PARALLEL = 1e-6
"""A member that leans less than this against the deck's direction does not carry it."""
LONGEST_OVERHANG = 3.0
"""An overhang beyond so many times the span behind it is not carried."""
SAME = 1e-9
TOUCH = 1e-6


@dataclass(frozen=True)
class Lines:
    """Straight pieces that cross strips: index into what they came from, p at the lower and upper q of their slab."""

    slab: Ints
    index: Ints
    p: Floats

    def at(self, keep: Ints) -> Lines:
        """Those of some indices."""
        return Lines(self.slab[keep], self.index[keep], self.p[keep])

    @property
    def middle(self) -> Floats:
        """Midpoints (n, 2) in u v."""
        return np.asarray(self.p.mean(axis=1))


@dataclass(frozen=True)
class DeckStrips:
    """Slabs between the sorted places q; in each, the material's stretches, the members it bears on, and of each
    stretch which of these are its first and last (`last` < `first`: none)."""

    turn: Floats
    q: Floats
    stretch: Floats
    stretch_slab: Ints
    on: Lines
    first: Ints
    last: Ints


@dataclass(frozen=True)
class Cells:
    """Loaded pieces of strips (n): slab's q, from and to where p goes (n, 2: at both ends of the slab), and the
    crossings near and far (indices into DeckStrips.on) that carry it, NOWHERE where nothing can."""

    q: Floats
    begin: Floats
    end: Floats
    near: Ints
    far: Ints


def turned(direction: Floats) -> Floats:
    """Rows: along the deck, across it."""
    c, s = direction
    return np.array([[c, s], [-s, c]])


def deck_strips(
    region: shapely.Geometry, bearings: Bearings, direction: Floats, also: list[shapely.Geometry]
) -> DeckStrips:
    """The strips of a region whose deck spans in a direction (2,); `also`: other shapes at whose corners slabs end."""
    turn = turned(direction)
    edges = straight_edges(region) @ turn.T
    more = [straight_edges(shape) @ turn.T for shape in also]
    members = bearings.ends @ turn.T
    across = np.flatnonzero(_across(members))
    along = np.delete(members, across, axis=0)[..., 1].ravel()  # these carry nothing, but part the bays
    members = members[across]
    crossing = [members, edges, *more]
    q = _places(np.concatenate(crossing), along)
    low, high = edges[..., 1].min(), edges[..., 1].max()
    q = q[(q >= low - SAME) & (q <= high + SAME)]
    sides = _cut(edges, q)
    sides = sides.at(np.lexsort((sides.middle, sides.slab)))
    # Edges cross every strip in pairs: into the material and out of it.
    stretch = np.stack([sides.p[0::2], sides.p[1::2]], axis=1)
    slab = sides.slab[0::2]
    on = _cut(members, q, ON_LINE_TOLERANCE)
    on = Lines(on.slab, across[on.index], on.p).at(np.lexsort((on.middle, on.slab)))
    on, place = _in_stretches(on, stretch, slab)
    # Of members that lie in one another the first carries, but none beyond its end.
    double = (np.diff(place) == 0) & (np.abs(np.diff(on.p, axis=0)).max(axis=1, initial=0) < 2 * ON_LINE_TOLERANCE)
    reach = bearings.ends[on.index] @ turn[1]
    beyond = (q[on.slab] < reach.min(axis=1) - SAME) | (q[on.slab + 1] > reach.max(axis=1) + SAME)
    keep = np.ones(len(place), bool)
    first = np.flatnonzero(double)
    keep[np.where(beyond[first] & ~beyond[first + 1], first, first + 1)] = False
    on, place = on.at(np.flatnonzero(keep)), place[keep]
    first = np.searchsorted(place, np.arange(len(slab)))
    last = np.searchsorted(place, np.arange(len(slab)), side="right") - 1
    return DeckStrips(turn, q, stretch, slab, on, first, last)


def _across(lines: Floats) -> NDArray[np.bool_]:
    step = lines[:, 1] - lines[:, 0]
    return np.asarray(np.abs(step[:, 1]) > PARALLEL * np.linalg.norm(step, axis=1))


def _places(lines: Floats, also: Floats) -> Floats:
    """Every q at which a line ends or meets another, and some more, once."""
    ends = np.concatenate([lines[..., 1].ravel(), also])
    shapes = shapely.linestrings(lines)
    i, j = shapely.STRtree(shapes).query(shapes)
    i, j = i[i < j], j[i < j]
    a, b, c, d = lines[i, 0], lines[i, 1], lines[j, 0], lines[j, 1]
    u, v, w = b - a, d - c, c - a
    sine = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    meet = np.abs(sine) > 1e-9 * np.linalg.norm(u, axis=1) * np.linalg.norm(v, axis=1)
    t = (w[meet, 0] * v[meet, 1] - w[meet, 1] * v[meet, 0]) / sine[meet]
    r = (w[meet, 0] * u[meet, 1] - w[meet, 1] * u[meet, 0]) / sine[meet]
    inside = (t > -SAME) & (t < 1 + SAME) & (r > -SAME) & (r < 1 + SAME)
    all_q = np.sort(np.concatenate([ends, (a[meet, 1] + t * u[meet, 1])[inside]]))
    # Each place stands for those up to a micrometre beyond it, however many follow one another closely.
    kept: list[float] = []
    for at in all_q[np.concatenate([[True], np.diff(all_q) > 0.0])].tolist():
        if not kept or at - kept[-1] > TOUCH:
            kept.append(at)
    return np.array(kept)


def _cut(lines: Floats, q: Floats, slack: float = 0.0) -> Lines:
    """Lines (n, 2, 2) cut at the places q: one piece for every slab that a line crosses. With `slack` [m] a line that
    ends so little before a slab does still crosses it."""
    p, y = lines[..., 0], lines[..., 1]
    low, high = y.min(axis=1), y.max(axis=1)
    if slack:
        first = np.searchsorted(q, low - slack)
        stop = np.maximum(np.searchsorted(q, high + slack, side="right") - 1, first)
    else:  # the place that stands for each end
        first, stop = (np.maximum(np.searchsorted(q, end + SAME, side="right") - 1, 0) for end in (low, high))
    count = stop - first
    line = np.repeat(np.arange(len(lines)), count)
    slab = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + np.repeat(first, count)
    bounds = np.stack([q[slab], q[slab + 1]], axis=1) if len(slab) else np.zeros((0, 2))
    slope = (p[line, 1] - p[line, 0]) / (y[line, 1] - y[line, 0])
    return Lines(slab, line, p[line, :1] + slope[:, None] * (bounds - y[line, :1]))


def _in_stretches(on: Lines, stretch: Floats, slab: Ints) -> tuple[Lines, Ints]:
    """The crossings that lie in a stretch of material, or within a millimetre of it, and which one that is."""
    begin, end = stretch[:, 0].mean(axis=1), stretch[:, 1].mean(axis=1)
    span = float(max(np.ptp(on.p) if on.p.size else 0.0, np.ptp(stretch) if stretch.size else 0.0)) + 10.0
    base = float(min(on.p.min(initial=0.0), stretch.min(initial=0.0)))
    key = slab * span + begin - base
    tolerance = ON_LINE_TOLERANCE + SAME
    at = on.slab * span + on.middle - base
    place = np.searchsorted(key, at + tolerance, side="right") - 1
    inside = (place >= 0) & (slab[np.maximum(place, 0)] == on.slab) if len(slab) else np.zeros(len(at), bool)
    keep = np.flatnonzero(inside)
    keep = keep[on.middle[keep] <= end[place[keep]] + tolerance]
    return on.at(keep), place[keep]


def _finer(strips: DeckStrips, q: Floats) -> DeckStrips:
    """The strips with slabs that end at the places q too: within a slab all is straight."""
    inside = q[(q > strips.q[0]) & (q < strips.q[-1])]
    after = np.searchsorted(strips.q, inside)
    inside = np.unique(inside[(strips.q[after] - inside > SAME) & (inside - strips.q[after - 1] > SAME)])
    if not len(inside):
        return strips
    new = np.sort(np.concatenate([strips.q, inside[np.diff(inside, prepend=-np.inf) > SAME]]))
    start = np.searchsorted(new, strips.q)

    def parts(slab: Ints) -> tuple[Ints, Ints, Floats]:
        """Of rows in slabs: the row and the new slab of every part, in the order of slabs, and the shares of the row's
        slab at which it begins and ends."""
        count = start[slab + 1] - start[slab]
        row = np.repeat(np.arange(len(slab)), count)
        own = np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count) + start[slab][row]
        order = np.argsort(own, kind="stable")
        row, own = row[order], own[order]
        low = strips.q[slab[row]]
        share = (np.column_stack([new[own], new[own + 1]]) - low[:, None]) / (strips.q[slab[row] + 1] - low)[:, None]
        return row, own, share

    row, slab, share = parts(strips.on.slab)
    p = strips.on.p[row]
    on = Lines(slab, strips.on.index[row], p[:, :1] + share * np.diff(p, axis=1))
    row, slab, share = parts(strips.stretch_slab)
    ends = strips.stretch[row]
    moved = np.searchsorted(on.slab, slab) - np.searchsorted(strips.on.slab, strips.stretch_slab[row])
    stretch = ends[..., :1] + share[:, None] * np.diff(ends, axis=2)
    return DeckStrips(strips.turn, new, stretch, slab, on, strips.first[row] + moved, strips.last[row] + moved)


def load_cells(strips: DeckStrips, loaded: shapely.Geometry) -> tuple[DeckStrips, Cells]:
    """The pieces of strips that a loaded region takes in, each with what carries it, and the strips they are of: the
    same ones, finer where the loaded region has corners so near a place that it stands for them."""
    edges = straight_edges(loaded) @ strips.turn.T
    strips = _finer(strips, edges[..., 1].ravel())
    sides = _cut(edges, strips.q)
    kind = np.concatenate([np.zeros(len(sides.slab), np.intp), np.ones(len(strips.on.slab), np.intp)])
    slab = np.concatenate([sides.slab, strips.on.slab])
    p = np.concatenate([sides.p, strips.on.p])
    order = np.lexsort((p.mean(axis=1), slab))
    kind, slab, p = kind[order], slab[order], p[order]
    within = np.cumsum(kind == 0) % 2 == 1
    long = (p[1:] - p[:-1]).mean(axis=1) > 1e-13 * (1.0 + np.abs(p[1:]).max(axis=1))
    cell = np.flatnonzero(within[:-1] & (slab[1:] == slab[:-1]) & long)
    begin, end, slab = p[cell], p[cell + 1], slab[cell]
    near, far = carriers(strips, slab, (begin + end).mean(axis=1) / 2)
    cells = Cells(np.stack([strips.q[slab], strips.q[slab + 1]], axis=1), begin, end, near, far)
    return strips, _less_long_overhangs(cells, strips)


def carriers(strips: DeckStrips, slab: Ints, p: Floats) -> tuple[Ints, Ints]:
    """The crossings that carry the deck at places (slab, p): those around it, or of an overhang the two next to it."""
    none = np.full(len(p), NOWHERE)
    if not len(strips.stretch) or not len(strips.on.slab):
        return none, none
    span = float(max(np.ptp(strips.stretch), np.ptp(strips.on.p), np.ptp(p) if len(p) else 0.0)) + 10.0
    base = float(min(strips.stretch.min(), strips.on.p.min(), p.min(initial=0.0)))
    key = strips.stretch_slab * span + strips.stretch[:, 0].mean(axis=1) - base
    stretch = np.searchsorted(key, slab * span + p - base + SAME, side="right") - 1
    stretch = np.maximum(stretch, 0)
    first, last = strips.first[stretch], strips.last[stretch]
    key = strips.on.slab * span + strips.on.middle - base
    after = np.searchsorted(key, slab * span + p - base, side="right")
    near = np.clip(after - 1, first, last - 1)
    held = (last > first) & (strips.stretch_slab[stretch] == slab)
    return np.where(held, near, none), np.where(held, near + 1, none)


def _less_long_overhangs(cells: Cells, strips: DeckStrips) -> Cells:
    """Cells that overhang by more than LONGEST_OVERHANG times the span behind them lose their carriers."""
    held = np.flatnonzero(cells.near != NOWHERE)
    pn, pf = strips.on.p[cells.near[held]], strips.on.p[cells.far[held]]
    over = np.maximum(pn - cells.begin[held], cells.end[held] - pf)
    lost = held[(over > LONGEST_OVERHANG * (pf - pn) + ON_LINE_TOLERANCE).any(axis=1)]
    near, far = cells.near.copy(), cells.far.copy()
    near[lost] = far[lost] = NOWHERE
    return Cells(cells.q, cells.begin, cells.end, near, far)


def shares(cells: Cells, strips: DeckStrips, field: Floats, which: Ints, far: NDArray[np.bool_], x: Floats) -> Floats:
    """What the cells `which` (k,) bring to their near or far member at shares x (k, points) across their slab, per
    length across [N/m]; field (3,): pressure = field . (1, p, q)."""

    def along(ends: Floats) -> Floats:
        return ends[:, :1] + x * (ends[:, 1:] - ends[:, :1])

    q, a, b = along(cells.q[which]), along(cells.begin[which]), along(cells.end[which])
    pn, pf = along(strips.on.p[cells.near[which]]), along(strips.on.p[cells.far[which]])
    wa, wb = (field[0] + field[1] * p + field[2] * q for p in (a, b))
    force = (wa + wb) / 2 * (b - a)
    moment = (b - a) / 6 * (wa * (2 * (a - pn) + (b - pn)) + wb * ((a - pn) + 2 * (b - pn)))
    share = moment / (pf - pn)
    return np.asarray(np.where(far[:, None], share, force - share))
