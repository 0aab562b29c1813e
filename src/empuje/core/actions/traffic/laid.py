"""Traffic laid out on a frame: its ways with what carries wheels along them, and plain loads of any position."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ...model.findings import Finding
from ...model.loads import AtNodes, Lines, PlainLoads, Points, Source, Step, gather
from ...model.project import Project
from ...model.traffic import Spot, Standing, Traffic, Way
from ...model.words import Entering, LanePart
from ..surfaces.sources.surface_loads import Surfaces
from .path import Path, path_of
from .touch import Touches
from .tracks import Track, track_of
from .train import Train, gap_ranges, gauss, spots, train_of, tried_count

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
PARTS = 8
"""Pieces of a lane load where what it does to members is no straight line."""
DOWN = np.array([0.0, 0.0, -1.0])


@dataclass(frozen=True)
class LaidWay:
    """A way on a frame, with its tracks by how far they are to the left [m]."""

    project: Project
    surfaces: Surfaces
    traffic: Traffic
    way: Way
    path: Path
    _tracks: dict[float, Track] = field(default_factory=dict)

    @property
    def length(self) -> float:
        """Of the way [m]."""
        return self.path.length

    def track(self, left: float) -> Track:
        """What carries wheels so far to the left of its line [m]."""
        left = round(left, 9) + 0.0
        if left not in self._tracks:
            self._tracks[left] = track_of(
                self.project, self.surfaces, self.path, self.way, self.traffic.beside, left
            )  # fmt: skip
        return self._tracks[left]

    def train(self, spot: Spot) -> Train:
        """The wheels of a spot on it."""
        return train_of(self.traffic, self.way, spot, self.length)

    @property
    def middle(self) -> Track:
        """Of lane loads."""
        return self.track(self.way.aside)


@dataclass(frozen=True)
class Laid:
    """A traffic with its ways."""

    traffic: Traffic
    ways: tuple[LaidWay, ...]

    def spots(self) -> list[Spot]:
        """Every way in which a vehicle can go along one of the ways, at t = 0."""
        return [s for k, way in enumerate(self.ways) for s in spots(self.traffic, k, way.length)
                if self.traffic.entering == Entering.AXLES or sum(s.gaps) <= way.length + 1e-9]  # fmt: skip

    def train(self, spot: Spot) -> Train:
        """The wheels of a spot."""
        return self.ways[spot.way].train(spot)


def lay_traffic(project: Project, surfaces: Surfaces, traffic: Traffic) -> tuple[Laid | None, list[Finding]]:
    """The ways of a traffic with what carries wheels on them, and what is wrong with them."""
    ways: list[LaidWay] = []
    findings: list[Finding] = []
    for way in traffic.ways:
        path, found = path_of(project, way)
        findings += found
        if path is not None:
            ways.append(LaidWay(project, surfaces, traffic, way, path))
    if findings or not ways:
        return None, findings
    laid = Laid(traffic, tuple(ways))
    for k, one in enumerate(ways):
        findings += _too_long(one) or _too_many(laid, k) or _not_carried(laid, k) or _not_exact(laid, k)
    return (None if findings else laid), findings


def _too_long(one: LaidWay) -> list[Finding]:
    traffic = one.traffic
    if traffic.entering != Entering.WHOLLY:
        return []
    for vehicle in traffic.vehicles:
        shortest = sum(low for low, _ in gap_ranges(traffic, vehicle, one.length))
        if shortest > one.length + 1e-9:
            count = traffic.in_row(vehicle)
            row = f"{count} of {vehicle.name} in a row are" if count > 1 else f"{vehicle.name} is"
            message = f"{row} {told(traffic, shortest)} long from the first axle to the last, the way {one.way.text} "
            message += f"only {told(traffic, one.length)}, and wholly on it"
            remedy = 'write enters = "axle by axle", or a longer way'
            return [Finding("error", "longer-than-way", message, remedy, one.way.place)]
    return []


MOST_TRAINS, MOST_STEPS = 5000, 1000


def _too_many(laid: Laid, k: int) -> list[Finding]:
    traffic, one = laid.traffic, laid.ways[k]
    if traffic.every_step:
        reach = [laid.train(s).reach(traffic.entering) for s in laid.spots()]
        count = int(sum((high - low) / traffic.step + 1 for low, high in reach))
        if count > MOST_STEPS:
            message = f"{traffic.case} has {count:,} steps, each to be analysed by itself in every combination"
            remedy = f"write a longer step, for up to {MOST_STEPS:,}, or leave every_step out"
            return [Finding("error", "too-many", message, remedy, traffic.place)]
    for vehicle in traffic.vehicles:
        count = tried_count(traffic, vehicle, one.length)
        if count > MOST_TRAINS:
            message = (
                f"{traffic.case}: {vehicle.name} has {count:,} different sets of distances between axles to be tried"
            )
            remedy = "state fewer of them as ranges, or fewer vehicles in a row"
            return [Finding("error", "too-many", message, remedy, traffic.place)]
    return []


def _not_exact(laid: Laid, k: int) -> list[Finding]:
    """Where shares of wheels are no straight lines: over two-way decks, and between members that are not parallel."""
    one = laid.ways[k]
    if not laid.traffic.exact:
        return []
    for left in sorted({float(v) for spot in laid.spots() if spot.way == k for v in laid.train(spot).left}):
        track = one.track(left)
        if not track.is_polynomial:
            where = next(s for s in track.stretches if not s.is_linear)
            between = f"from {told(laid.traffic, where.s0)} to {told(laid.traffic, where.s1)} of the way {one.way.text}"
            message = (
                f"{laid.traffic.case} cannot be exact: {between} a wheel's shares do not follow its place linearly "
            )
            message += "(a two-way deck, a structural surface, or members that are not parallel)"
            return [Finding("error", "not-exact", message, 'give a step, such as step = "0.1 m"', one.way.place)]
    return []


def _not_carried(laid: Laid, k: int) -> list[Finding]:
    """Where wheels of some vehicle have nothing under them."""
    one = laid.ways[k]
    lefts = {round(float(v), 9) for spot in laid.spots() if spot.way == k for v in laid.train(spot).left}
    if any(v.lane for v in laid.traffic.vehicles):
        lefts.add(round(one.way.aside, 9))
    for left in sorted(lefts):
        gaps = one.track(left).gaps()
        if not gaps:
            continue
        a, b = gaps[0]
        middle = one.path.at(np.array([(a + b) / 2]), left)[0]
        unit, metres = laid.traffic.unit
        where = ", ".join(f"{v / metres + 0.0:.4g}" for v in middle)
        side = f", {told(laid.traffic, abs(left))} to the {'left' if left > 0 else 'right'} of the way" if left else ""
        message = (
            f"nothing carries a wheel of {laid.traffic.case} from {told(laid.traffic, a)} to {told(laid.traffic, b)} "
        )
        message += f"of the way {one.way.text}{side}: around ({where}) {unit}"
        if one.way.surfaces:
            remedy = "lead the way over the surface and its deck, or name the surfaces it crosses in `surface`"
        elif left:
            remedy = 'put members on both sides of it, or write off_member = "twist", or name a `surface`'
        else:
            remedy = "lead the way along members, or between two of them"
        return [Finding("error", "wheel-not-carried", message, remedy, one.way.place)]
    return []


def wheel_loads(
    one: LaidWay, train: Train, t: Floats, column: Ints, source: Ints, factor: float = 1.0, behind: Floats | None = None
) -> PlainLoads:
    """Wheels of a train with its front at t (n,) [m] as point loads of columns (n,), on structural surfaces at nodes;
    source (wheels,); `behind` (wheels, n): for other distances between them."""
    s = train.places(t, behind)
    parts: list[PlainLoads] = []
    for left in np.unique(train.left).tolist():
        wheels = np.flatnonzero(train.left == left)
        places = s[wheels].ravel()
        on = one.track(left).carried(places)
        wheel, position = wheels[on.row // len(t)], on.row % len(t)
        f = _six(one.path, places[on.row], on, train, wheel) * factor
        parts.append(_put(on, column[position], source[wheel], f))
    return replace(gather(parts), sources=()) if parts else PlainLoads()


def _put(on: Touches, column: Ints, source: Ints, f: Floats) -> PlainLoads:
    """Forces (n, 6) on what carries them, on members or at nodes."""
    m, k = on.node < 0, on.node >= 0
    points = Points(column[m], source[m], on.member[m], np.maximum(on.x[m], 0.0), f[m])
    return PlainLoads(points=points, nodes=AtNodes(column[k], source[k], on.node[k], f[k]))


def _six(path: Path, s: Floats, on: Touches, train: Train, wheel: Ints) -> Floats:
    """Forces and moments (n, 6) of wheels' shares on members."""
    k = path.piece_at(s)
    level = train.along[wheel, None] * path.along[k] + train.across[wheel, None] * path.left[k]
    down = train.down[wheel, None] * DOWN
    force = on.share[:, None] * (level + down)
    moment = on.share[:, None] * np.cross(on.arm + train.height * -DOWN, level)
    moment += on.share[:, None] * np.cross(on.arm, down)
    return np.hstack([force, moment])


def lane_loads(one: LaidWay, begin: Floats, end: Floats, amount: Floats, column: Ints, source: int) -> PlainLoads:
    """Lane loads from `begin` to `end` (n,) [m] of a way, of so much (n,) [N/m], as loads of columns (n,)."""
    parts: list[PlainLoads] = []
    for stretch in one.middle.stretches:
        cuts = 1 if stretch.is_linear or stretch.on_nodes is not None else PARTS
        for part in range(cuts):
            reach = stretch.s1 - stretch.s0
            low, high = stretch.s0 + reach * part / cuts, stretch.s0 + reach * (part + 1) / cuts
            a, b = np.maximum(begin, low), np.minimum(end, high)
            some = np.flatnonzero(b - a > 1e-12)
            if not len(some):
                continue
            parts.append(_lane_on_stretch(one, stretch, a[some], b[some], amount[some], column[some], source))
    return replace(gather(parts), sources=()) if parts else PlainLoads()


def _lane_on_stretch(one, stretch, a: Floats, b: Floats, amount: Floats, column: Ints, source: int) -> PlainLoads:  # type: ignore[no-untyped-def]
    n = len(a)
    rows = np.arange(n)
    of = np.full(n, source)
    lines: list[Lines] = []
    points: list[Points] = []
    if stretch.found is not None or stretch.on_nodes is not None:  # forces at Gauss points
        put = []
        for g, w in zip(*gauss(GAUSS_OF_LANE), strict=True):
            s = (a + b) / 2 + g * (b - a) / 2
            on = stretch.carried(s, rows)
            f = np.zeros((len(on.row), 6))
            f[:, 2] = -(amount * (b - a) * w / 2)[on.row] * on.share
            put.append(_put(on, column[on.row], of[on.row], f))
        return replace(gather(put), sources=())
    for t in stretch.touches:
        x, share = ([t.x0 + t.x1 * s for s in (a, b)], [(t.c0 + t.c1 * s) / (t.d0 + t.d1 * s) for s in (a, b)])
        if abs(t.x1) < 1e-6:
            f = np.zeros((n, 6))
            f[:, 2] = -amount * (b - a) * (share[0] + share[1]) / 2
            f[:, 3:] = np.cross(np.broadcast_to(t.arm, (n, 3)), f[:, :3])
            points.append(Points(column, of, np.full(n, t.member), (x[0] + x[1]) / 2, f))
            continue
        order = (0, 1) if t.x1 > 0 else (1, 0)
        q = [-(amount / abs(t.x1) * share[i])[:, None] * -DOWN for i in order]
        member = np.full(n, t.member)
        lines.append(Lines(column, of, member, np.maximum(x[order[0]], 0.0), x[order[1]], q[0], q[1]))
        if any(t.arm):  # a line of moments, as forces' moments at Gauss points
            for g, w in zip(*gauss(GAUSS_OF_LANE), strict=True):
                s = (a + b) / 2 + g * (b - a) / 2
                f = np.zeros((n, 6))
                down = (amount * (b - a) * w / 2)[:, None] * DOWN
                f[:, 3:] = np.cross(np.broadcast_to(t.arm, (n, 3)), down)
                points.append(Points(column, of, member, t.x0 + t.x1 * s, f))
    return PlainLoads(Lines.concat(lines) if lines else Lines(), Points.concat(points) if points else Points())


GAUSS_OF_LANE = 8


def lane_parts(train: Train, t: Floats) -> list[tuple[Floats, Floats]]:
    """From where to where on the way (positions,) [m] a lane load that goes with the vehicle stands: before it, under
    it, behind it, of these what the vehicle has."""
    length, heading = train.way_length, train.spot.heading
    front, rear = np.clip(t, 0, length), np.clip(t - train.length, 0, length)
    stretches = {
        LanePart.BEFORE: (front, np.full_like(t, length)), LanePart.UNDER: (rear, front),
        LanePart.BEHIND: (np.zeros_like(t), rear),
    }  # fmt: skip
    chosen = [stretches[part] for part in train.vehicle.lane_on if part in stretches]
    return chosen if heading > 0 else [(length - b, length - a) for a, b in chosen]


def loads_of_train(
    one: LaidWay, train: Train, t: Floats, column: Ints, factor: float = 1.0, behind: Floats | None = None
) -> PlainLoads:
    """Wheels and the lane load that goes with them, of positions t (n,) [m] as columns (n,); without sources."""
    parts = [wheel_loads(one, train, t, column, np.zeros(len(train.behind), np.intp), factor, behind)]
    if train.vehicle.lane and not train.vehicle.adverse_lane:
        amount = np.full(len(t), train.vehicle.lane * factor)
        parts += [lane_loads(one, a, b, amount, column, 0) for a, b in lane_parts(train, t)]
    return replace(gather(parts), sources=())


def loads_of_standing(laid: Laid, standing: Standing, case: int) -> PlainLoads:
    """The plain loads of a position, with a source for every axle and lane load."""
    factor = laid.traffic.presence[min(len(standing.spots), len(laid.traffic.presence)) - 1]
    parts: list[PlainLoads] = []
    for spot in standing.spots:
        one, train = laid.ways[spot.way], laid.train(spot)
        at, column = np.array([spot.t]), np.array([case])
        wheels = wheel_loads(one, train, at, column, np.arange(len(train.axle)), factor)
        sources = [_axle_source(laid, one, train, k, factor) for k in range(len(spot.gaps) + 1)]
        parts.append(_told_by_surface(one, wheels, train.axle, sources, standing.case))
        vehicle = train.vehicle
        stands: Sequence[tuple[float, float]] = spot.lanes
        if vehicle.lane and not vehicle.adverse_lane:
            stands = [(float(a[0]), float(b[0])) for a, b in lane_parts(train, at)]
        if vehicle.lane and stands:
            begin, end = np.array(stands).T
            amount = np.full(len(begin), vehicle.lane * factor)
            lane = lane_loads(one, begin, end, amount, np.full(len(begin), case), 0)
            text = ", ".join(f"{told(laid.traffic, a)} to {told(laid.traffic, b)}" for a, b in stands)
            steps = (Step("w", "lane load", vehicle.lane, "N/m", vehicle.source), *_presence(laid, factor))
            source = Source(f"{vehicle.name}: lane load on {text} of the way {one.way.text}", laid.traffic.place, steps)
            parts.append(_told_by_surface(one, lane, np.zeros(1, np.intp), [source], standing.case))
    return gather(parts)


def _told_by_surface(
    one: LaidWay, loads: PlainLoads, of_wheel: Ints, sources: Sequence[Source], case: str
) -> PlainLoads:  # fmt: skip
    """Loads of wheels, by their numbers, under the sources (wheels,) of these; what comes to nodes of structural
    surfaces under ones of their own, which say of which surface."""
    nodes, points = loads.nodes, replace(loads.points, source=of_wheel[loads.points.source])
    lines = replace(loads.lines, source=of_wheel[loads.lines.source])
    if not len(nodes):
        return PlainLoads(lines, points, sources=tuple(sources))
    plates = one.project.plates
    assert plates is not None
    chosen = [i for i in one.way.surfaces if one.project.surfaces[i].plate is not None]
    every = [np.concatenate([g.node[g.surface == i].ravel() for g in plates.groups]) for i in chosen]
    on = np.stack([np.isin(nodes.node, own) for own in every], axis=1)
    # A wheel beside an edge that surfaces share is on the one that has all of its nodes.
    whole = np.ones((len(of_wheel), len(chosen)), bool)
    np.logical_and.at(whole, nodes.source, on)
    whole = whole[nodes.source]
    surface = np.where(whole.any(axis=1), whole.argmax(axis=1), on.argmax(axis=1))
    key = np.column_stack([of_wheel[nodes.source], surface])
    kinds, of = np.unique(key, axis=0, return_inverse=True)
    more = []
    for k, (source, own) in enumerate(kinds.tolist()):
        put = nodes.f[of.ravel() == k, :3].sum(axis=0)
        name = one.project.surfaces[chosen[own]].name
        more.append(replace(sources[source], surface=name, case=case, put=tuple(put.tolist())))
    at_nodes = replace(nodes, source=len(sources) + of.ravel())
    return PlainLoads(lines, points, at_nodes, sources=(*sources, *more))


def told(traffic: Traffic, x: float) -> str:
    """A length [m] in the traffic's unit, to a thousandth."""
    unit, metres = traffic.unit
    return f"{round(x / metres, 3) + 0.0:.9g} {unit}"


def _presence(laid: Laid, factor: float) -> tuple[Step, ...]:
    if laid.traffic.presence == (1.0,):
        return ()
    return (Step("m", "multiple presence: factor where so many ways are loaded", factor, ""),)


def _axle_source(laid: Laid, one: LaidWay, train: Train, k: int, factor: float) -> Source:
    vehicle, spot = train.vehicle, train.spot
    at = spot.t - sum(spot.gaps[:k])
    load = vehicle.axles[k % len(vehicle.axles)].load
    steps = [Step("Q", f"axle {k + 1}", load, "N", vehicle.source)]
    dynamic = vehicle.dynamic * laid.traffic.dynamic
    if dynamic != 1:
        steps.append(Step("phi", "dynamic factor on what is vertical", dynamic, ""))
    if vehicle.level:
        for word, which in (("along", 0), ("to the left", 1)):
            pair = [spot.brake * own[which] + 0.0 for own in vehicle.axles[k % len(vehicle.axles)].level]
            steps += [
                Step("H", f"{word}, {side} wheel", f, "N") for side, f in zip(("left", "right"), pair, strict=False)
            ]
    steps += vehicle.steps
    for word, share, sign in (("along", vehicle.along, spot.brake), ("across", vehicle.across, spot.side)):
        if share:
            steps.append(Step("H", f"{word} the way: {share:g} Q", sign * share * load, "N"))
    steps += _presence(laid, factor)
    way = "" if spot.heading > 0 else ", backward"
    on = "" if -1e-6 <= at <= one.length + 1e-6 else ", off the way"
    text = f"{vehicle.name}: axle {k + 1} at {told(laid.traffic, at)} of the way {one.way.text}{way}{on}"
    return Source(text, laid.traffic.place, tuple(steps))
