"""Positions of traffic by name: FL@3.25m, U2+FL@3.25m.back, as tables call them.

CASE@[wayN_][vehicle_]LENGTH[.before|.past][.back][.braking|.starting][.left|.right][.gapsA_B...][.laneAtoB...]
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import product

from ...core.actions.traffic.laid import Laid
from ...core.actions.traffic.standings import AND, BEFORE, OVER, PAST, UNDER
from ...core.actions.traffic.train import gap_ranges
from ...core.model.traffic import BESIDE, Spot, Standing
from ...core.model.words import Heading
from .quantities import QuantityError, Units

POSITION = re.compile(
    r"(?:way(?P<way>\d+)_)?(?:(?P<vehicle>.+?)_)??(?P<at>-?[\d.]+\s*[A-Za-z]*?)(?P<beside>\.before|\.past)?(?P<back>\.back)?"
    r"(?P<brake>\.braking|\.starting)?(?P<side>\.left|\.right)?(?:\.gaps(?P<gaps>(?:[\d._]|under|over)+?))?(?P<lanes>(?:\.lane[\d.]+to[\d.]+)*)"
)
LANE = re.compile(r"\.lane([\d.]+)to([\d.]+)")


class NoPosition(ValueError):
    """A word that names no position of a traffic; the message says why."""


def position_in(word: str) -> tuple[str, str] | None:
    """What stands before and after the @ of a word: of U2+FL@3m the parts "U2+FL" and "3m"; None without one."""
    head, at, tail = word.partition("@")
    return (head, tail) if at and head and tail else None


def read_standings(laid: Laid, number: int, text: str, units: Units) -> list[Standing]:
    """The positions of a traffic, the number-th of its project, that a text says: where it does not say which way,
    vehicle, heading, or sign of horizontal forces, all there are. Raises NoPosition."""
    each = [_spots(laid, part, units) for part in text.split(AND)]
    return [Standing("", number, spots) for spots in product(*each)]


def _spots(laid: Laid, text: str, units: Units) -> list[Spot]:
    """Every spot that a text may mean."""
    found: list[Spot] = []
    wrong: NoPosition | None = None
    for way, vehicle, heading, brake, side in product(*_choices(laid, text)):
        try:
            found.append(_spot(laid, text, units, way, vehicle, heading, brake, side))
        except NoPosition as error:
            wrong = wrong or error
    if not found and wrong is not None:
        raise wrong
    return list(dict.fromkeys(found))


def _choices(laid: Laid, text: str) -> tuple[Sequence[int], ...]:
    """Ways, vehicles, headings, signs of braking and of side forces that a text leaves open, or the one it says."""
    traffic = laid.traffic
    match = POSITION.fullmatch(text.strip())
    if match is None:
        raise NoPosition(f"{traffic.case}@{text} is no position: write {traffic.case}@2.5m, or @2.5m.back")
    if match["way"] and not 0 < int(match["way"]) <= len(traffic.ways):
        raise NoPosition(f"{traffic.case} has {len(traffic.ways)} ways")
    names = [v.name.replace(" ", "-") for v in traffic.vehicles]
    if match["vehicle"] and match["vehicle"] not in names:
        raise NoPosition(f"{traffic.case} has no vehicle {match['vehicle']}; it has {', '.join(names)}")
    ways = [int(match["way"]) - 1] if match["way"] else range(len(traffic.ways))
    vehicles = [k for k, name in enumerate(names) if match["vehicle"] in (None, name)]
    headings = [-1] if match["back"] or traffic.heading == Heading.BACKWARD else [1]  # ".back" is never left out
    brakes = [{".braking": 1, ".starting": -1}[match["brake"]]] if match["brake"] else [1, -1]
    sides = [{".left": 1, ".right": -1}[match["side"]]] if match["side"] else [1, -1]
    return ways, vehicles, headings, brakes, sides


def _spot(
    laid: Laid, text: str, units: Units, way: int, vehicle: int, heading: int, brake: int, side: int
) -> Spot:  # fmt: skip
    traffic = laid.traffic
    match = POSITION.fullmatch(text.strip())
    assert match is not None
    unit, metres = traffic.unit
    try:
        at = match["at"].strip()
        t = units.read(at if re.search("[A-Za-z]", at) else float(at), "length")
    except (QuantityError, ValueError) as error:
        raise NoPosition(f"{traffic.case}@{text}: {error}") from None
    own = traffic.vehicles[vehicle]
    length = laid.ways[way].length
    ranges = gap_ranges(traffic, own, length)
    gaps = [low for low, _ in ranges]
    if match["gaps"]:
        stated = [_gap(g, metres) for g in match["gaps"].split("_")]
        if len(stated) != len(gaps):
            raise NoPosition(f"{traffic.case}: {own.name} has {len(gaps)} distances between axles")
        gaps = [
            g if low - SIDES < g < high + SIDES else min(max(g, low), high)
            for g, (low, high) in zip(stated, ranges, strict=True)
        ]
    if own.heading not in (0, heading):
        raise NoPosition(f"{traffic.case}: {own.name} goes the other way")
    t += {BEFORE: -BESIDE, PAST: BESIDE}.get(match["beside"] or "", 0.0)
    brake, side = brake if own.along or own.level else 0, side if own.across else 0
    lanes = tuple((float(a) * metres, min(float(b) * metres, length)) for a, b in LANE.findall(match["lanes"] or ""))
    if not -1e-6 <= t <= length + sum(gaps) + 1e-6 and not lanes:
        far = (length + sum(gaps)) / metres
        raise NoPosition(f"{traffic.case}@{text}: its front goes from 0 to {far:.5g} {unit}, where it has left")
    return Spot(way, vehicle, t, heading, brake, side, tuple(gaps), lanes)


SIDES = 4 * BESIDE
"""From one side of a place to the other, twice: what distances may be beyond their range [m]."""


def _gap(text: str, metres: float) -> float:
    """A distance as names tell it [m]: the neighbours of one just under or over stand on two sides of places."""
    for word, step in ((UNDER, -2 * BESIDE), (OVER, 2 * BESIDE)):
        if text.endswith(word):
            return float(text.removesuffix(word)) * metres + step
    return float(text) * metres
