"""Parts of [snow]: what stands beside and is not modelled, spans under partial loads, directions."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from ...core.model.findings import listed
from ...core.model.snow import Beside, PartialSpans
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..frame.surfaces import Grounds, read_point, surfaces_of
from ..loads.cases import CASE_NAME
from ..wind.directions import NOWHERE, towards
from ..wind.keys import DIRECTION

USUAL_DIRECTIONS = {"SXp": "+x", "SXn": "-x", "SYp": "+y", "SYn": "-y"}
SHORTEST_EDGE = 0.01
MOST_LINES = 30


def read_beside(entry: Entry, grounds: Grounds) -> tuple[Beside, ...]:
    """What is stated of what is not modelled."""
    out = []
    for name, own in entry.child("beside").children('write { edge = [[0, 0, 9], [0, 20, 9]], behind = "30 m" }'):
        own.known()
        value = own.data.get("edge")
        behind = own.quantity("behind") if own.has("behind") else 0.0
        if not isinstance(value, list) or len(value) != 2:
            own.error("bad-place", f"{own.what} has no edge of two places", "write edge = [[0, 0, 9], [0, 20, 9]]")
            continue
        a, b = (read_point(own, "edge", v, grounds.book) for v in value)
        if behind is not None and behind < 0:
            own.error("bad-quantity", f"{own.what}.behind = {shown(own.data['behind'])}", "write a length", "behind")
        if a is None or b is None or behind is None or behind < 0:
            continue
        if math.dist(a[:2], b[:2]) < SHORTEST_EDGE:
            own.error("bad-place", f"{own.what}.edge has no length in plan", "name the two ends of the edge", "edge")
            continue
        if own.flag("projection") and behind:
            own.error("wrong-key", f"{own.what} is a projection and has a building behind", "take one out", "behind")
            continue
        out.append(Beside(name, a, b, behind, own.flag("projection")))
    return tuple(out)


def read_partial(entry: Entry, grounds: Grounds, roofs: Sequence[int]) -> tuple[PartialSpans, ...]:
    """Spans under partial loads."""
    out = []
    for name, own in entry.child("partial").children('write { along = "x", lines = [0, 6, 12, 18] }'):
        own.known()
        if not CASE_NAME.fullmatch(name):
            entry.error("bad-name", f"spans cannot be called {shown(name)}, which names their cases",
                        "use letters, digits and _, beginning with a letter", "partial", name)  # fmt: skip
            continue
        way = _along(own)
        value = own.data.get("lines")
        lines = [own.as_quantity(v, "lines", kind="length") for v in value] if isinstance(value, list) else []
        if not 3 <= len(lines) <= MOST_LINES:
            own.error("bad-lines", f"{own.what}.lines: spans of continuous members have 3 lines or more, up to "
                      f"{MOST_LINES}", "write lines = [0, 6, 12, 18]", "lines")  # fmt: skip
            continue
        if None in lines or way is None:
            continue
        places = [float(v) for v in lines if v is not None]
        if any(b - a < SHORTEST_EDGE for a, b in pairwise(places)):
            own.error("bad-lines", f"{own.what}.lines do not rise", "write them from the first on", "lines")
            continue
        on = surfaces_of(own, "on", grounds) if own.has("on") else list(roofs)
        off = [grounds.called(i) for i in on if i not in roofs]
        if off:
            own.error("wrong-on", f"{own.what}.on: not in `roofs`: {listed(off, 4)}", "name roofs", "on")
        out.append(PartialSpans(name, way, tuple(places), tuple(on), own.place))
    return tuple(out)


def read_continuous(entry: Entry, names: Names) -> frozenset[int] | None:
    """The members whose spans are found, empty for all of them; None where none are looked at."""
    if not entry.has("continuous") and entry.has("partial"):
        return None
    found = entry.flag_or_texts("continuous")
    if isinstance(found, bool):
        return frozenset() if found else None
    members, missed = names.select_members(found)
    names.report(entry, missed, "continuous", "continuous: no member")
    return frozenset(members)


def _along(own: Entry) -> tuple[float, float] | None:
    value = own.data.get("along")
    if value in ("x", "y"):
        return (1.0, 0.0) if value == "x" else (0.0, 1.0)
    angle = own.quantity("along")
    return None if angle is None else (math.cos(angle), math.sin(angle))


def read_directions(entry: Entry) -> list[tuple[str, tuple[float, float]]]:
    """The winds that drift snow: names and level unit vectors."""
    written = entry.has("directions")
    table = entry.child("directions")
    if written and not table.data:
        remedy = 'write directions = { SX = "+x" }, or take it out'
        entry.error("missing-key", f"{entry.what}.directions names none", remedy, "directions")
    out: list[tuple[str, tuple[float, float]]] = []
    for name, value in (table.data if table.data else USUAL_DIRECTIONS).items():
        own = table.inner({"towards": value}, DIRECTION, name)
        if not CASE_NAME.fullmatch(name):
            table.error("bad-name", f"a direction cannot be called {shown(name)}",
                        "use letters, digits and _, beginning with a letter", name)  # fmt: skip
            continue
        vector, _ = towards(own)
        if vector != NOWHERE:
            out.append((name, vector))
    return out
