"""What moves, for its own sake: how many positions, results step by step, and what the worst positions are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..actions.traffic.standings import called, in_words
from ..actions.traffic.train import Train, gap_ranges
from ..analysis.moving.leg_peaks import AWAY
from ..analysis.moving.legs import steps_of
from ..analysis.moving.mover import Mover
from ..analysis.moving.places import Places, at_nodes, at_supports, elements_at, forces_at
from ..analysis.moving.positions import Picks
from ..analysis.moving.units import Units
from ..model.traffic import Standing, Traffic
from .candidates import candidates
from .table import Column, Kind, Table
from .why import Target

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
STEPS = 50
"""A journey in exact positions is shown in so many steps of its longest way."""
AT_ONCE = 2000
"""Positions worked on at a time."""


@dataclass(frozen=True)
class Asked:
    """A result asked about, at x [m] of a member, and what it is called."""

    target: Target
    x: float
    name: str

    @property
    def kind(self) -> Kind:
        """Of its values."""
        return self.target.kind


def place_of(units: Units, asked: Asked, side: int = 1) -> Places:
    """The result as a sum of unit answers; a force to the right (1) or left (-1) of its place. Raises LookupError where
    there is no such result."""
    target = asked.target
    component = np.array([target.component])
    if target.what == "displacement":
        return at_nodes(units, np.array([target.index]), component)
    if target.what == "reaction":
        place = np.flatnonzero(units.support_node == target.index)
        if not len(place):
            raise LookupError(f"{units.project.nodes[target.index].name} is no support")
        return at_supports(units, place, component)
    element, x = elements_at(units.equations.mesh, np.array([target.index]), np.array([asked.x]), side)
    return forces_at(units, element, x, np.eye(6)[component])


def inside(asked: Sequence[Asked]) -> dict[int, Floats]:
    """The places asked about that are on members, by member."""
    out: dict[int, list[float]] = {}
    for one in asked:
        if one.target.what == "force":
            out.setdefault(one.target.index, []).append(one.x)
    return {m: np.unique(x) for m, x in out.items()}


def shown_step(mover: Mover) -> float:
    """The step in which a journey is shown [m]."""
    return mover.step or max(one.length for one in mover.laid.ways) / STEPS


def _shown(mover: Mover, train: Train) -> Floats:
    """The positions [m] in which a journey is shown."""
    return mover.stepped(train) if mover.step else steps_of(train, mover.laid.traffic.entering, shown_step(mover))


def traffic_table(movers: Mapping[str, Mover]) -> Table:
    """Of every traffic and vehicle: its way, positions and how long a journey takes."""
    rows = []
    for case, mover in movers.items():
        traffic = mover.laid.traffic
        for way in mover.laid.ways:
            for v, vehicle in enumerate(traffic.vehicles):
                if any(v.name == vehicle.name for v in traffic.vehicles[:v]):
                    continue  # the same on its way back
                own = [t for t in mover.trains if t.vehicle.name == vehicle.name and mover.laid.ways[t.spot.way] is way]
                ranges = gap_ranges(traffic, vehicle, way.length)
                reach = [t.reach(traffic.entering) for t in own]
                positions = sum(len(mover.stepped(t)) for t in own) if mover.step else np.nan
                far = max((b - a for a, b in reach), default=np.nan)
                count = f"{traffic.in_row(vehicle)} in a row" if traffic.in_row(vehicle) > 1 else ""
                rows.append((
                    case, " ".join(w for w in (vehicle.name, count) if w), way.way.text, way.length,
                    str(traffic.heading), sum(a for a, _ in ranges), sum(b for _, b in ranges),
                    mover.step or np.nan, positions, far / traffic.speed if traffic.speed else np.nan,
                    vehicle.dynamic * traffic.dynamic,
                ))  # fmt: skip
    heads: tuple[tuple[str, Kind], ...] = (
        ("case", "text"), ("vehicle", "text"), ("way", "text"), ("length of way", "length"), ("heading", "text"),
        ("wheelbase min", "length"), ("wheelbase max", "length"), ("step", "length"), ("positions", "count"),
        ("duration", "time"), ("dynamic", "number"),
    )  # fmt: skip
    columns = list(zip(*rows, strict=True)) if rows else [()] * len(heads)
    return Table("traffic", tuple(
        Column(name, kind, list(values) if kind == "text" else np.array(values, float))
        for (name, kind), values in zip(heads, columns, strict=True)
    ))  # fmt: skip


def step_table(mover: Mover, asked: Sequence[Asked]) -> Table:
    """Step by step along every journey the results asked about, of the case by itself (no lane load at will): case,
    position, time. Raises LookupError."""
    traffic = mover.laid.traffic
    heads: list[tuple[str, int, float]] = []
    values: list[Floats] = []
    for number, train in enumerate(mover.trains):
        t = _shown(mover, train)
        for i in range(0, len(t), AT_ONCE):
            some = t[i : i + AT_ONCE]
            values.append(_values(mover, asked, number, train, some))
        journey = _journey(traffic, train)
        heads += [(journey, len(heads) + k + 1, float(v)) for k, v in enumerate(t)]
    words, count, at = zip(*heads, strict=True) if heads else ((), (), ())
    table = np.concatenate(values) if values else np.zeros((0, len(asked)))
    time = np.array(at) / traffic.speed if traffic.speed else np.full(len(at), np.nan)
    columns = [
        Column("journey", "text", words), Column("at-step", "count", np.array(count, float)),
        Column("position", "length", np.array(at)), Column("time", "time", time),
    ]  # fmt: skip
    columns = [c for c in columns if c.kind == "text" or not np.isnan(np.asarray(c.values, float)).all()]
    return Table("traffic-steps", (*columns, *(
        Column(one.name, one.kind, table[:, j] + 0.0) for j, one in enumerate(asked)
    )))  # fmt: skip


def _values(mover: Mover, asked: Sequence[Asked], number: int, train: Train, t: Floats) -> Floats:
    """(positions, results); of a jump the larger side counts."""
    ways = len(mover.laid.ways)
    where = np.full((len(t), ways), AWAY)
    where[:, train.spot.way] = number
    lanes = np.empty((len(t), ways), object)
    for i in range(len(t)):
        for k in range(ways):
            lanes[i, k] = ()
    own = np.full((len(t), ways, 0), np.nan)
    put = mover.put(Picks(where, np.repeat(t[:, None], ways, axis=1), lanes, own, np.ones(len(t), bool)))
    left, right = (Places.joined([place_of(mover.units, one, side) for one in asked]).values(put) for side in (-1, 1))
    return np.where(np.abs(left) > np.abs(right), left, right).T


def _journey(traffic: Traffic, train: Train) -> str:
    """A journey in words: what differs between those of a traffic."""
    spot = replace(train.spot, t=0.0)
    words = in_words(replace(traffic, speed=0.0), Standing("", 0, (spot,)))
    return words.replace(" 0 " + traffic.unit[0] + " along ", " along ")


def worst_table(mover: Mover, asked: Sequence[Asked]) -> Table:
    """The least and greatest of the results asked about, and where the traffic then stands."""
    rows = []
    for one in asked:
        sides = []
        for side in (-1, 1):
            place = place_of(mover.units, one, side)
            sweep = mover.sweep(inside([one])) if one.target.what == "force" else mover.whole
            sides.append((mover.worst(place, sweep), place, sweep))
        for extreme, sign in ((0, -1.0), (1, 1.0)):
            worst, place, sweep = max(sides, key=lambda s: float(sign * s[0].value[0, extreme]))
            row, end = np.array([0]), np.array([extreme])
            picks = mover.proven(place, worst, row, end, mover.picks(place, worst, row, end, [sweep]))
            standing = mover.standing(picks, 0) if picks.sure[0] else None
            rows.append((one, ("min", "max")[extreme], float(worst.value[0, extreme]), standing))
    return _table_of(mover, rows)


def _table_of(mover: Mover, rows: Sequence[tuple[Asked, str, float, Standing | None]]) -> Table:
    traffic = mover.laid.traffic
    kinds = list(dict.fromkeys(one.kind for one, *_ in rows))
    return Table(
        "traffic-worst",
        (
            Column("of", "text", [one.name for one, *_ in rows]),
            Column("extreme", "text", [extreme for _, extreme, *_ in rows]),
            *(Column(kind, kind, np.array([v if one.kind == kind else np.nan for one, _, v, _ in rows]))
              for kind in kinds),
            Column("case", "text", [called(traffic, s.spots) if s is not None else traffic.case for *_, s in rows]),
            Column("where", "text", [in_words(traffic, s) if s is not None else "" for *_, s in rows]),
        ),
    )  # fmt: skip


def governing_table(movers: Mapping[str, Mover]) -> Table:
    """The positions of every traffic that are worst for some reaction, force or displacement, along the way."""
    rows = []
    for case, mover in movers.items():
        found = candidates(mover)
        for s in found.standings:
            at = s.spots[0].t if s.spots else np.nan
            rows.append((case, called(mover.laid.traffic, s.spots), at, in_words(mover.laid.traffic, s)))
    case_, name, at_, words = zip(*rows, strict=True) if rows else ((), (), (), ())
    return Table("traffic-positions", (
        Column("traffic", "text", case_), Column("case", "text", name), Column("position", "length", np.array(at_)),
        Column("where", "text", words),
    ))  # fmt: skip


def standing_at_step(mover: Mover, number: int) -> Standing:
    """The position of a step, counted from 1 through all journeys. Raises LookupError for one there is not."""
    left = number - 1
    for train in mover.trains:
        t = _shown(mover, train)
        if 0 <= left < len(t):
            return Standing("", mover.number, (replace(train.spot, t=float(t[left])),))
        left -= len(t)
    count = sum(len(_shown(mover, t)) for t in mover.trains)
    raise LookupError(f"{mover.laid.traffic.case} has steps 1 to {count}")


def journey_of(mover: Mover, frames: int) -> list[Standing]:
    """Positions along the first journey, from coming to having left: at even steps, or where it is stepped at the steps
    that are written, of more than `frames` so many of them."""
    train = mover.trains[0]
    if mover.step:
        written = mover.stepped(train)
        chosen = np.unique(np.linspace(0, len(written) - 1, min(frames, len(written))).round().astype(np.intp))
        return [Standing("", mover.number, (replace(train.spot, t=float(t)),)) for t in written[chosen]]
    low, high = train.reach(mover.laid.traffic.entering)
    return [Standing("", mover.number, (replace(train.spot, t=float(t)),)) for t in np.linspace(low, high, frames)]
