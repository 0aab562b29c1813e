"""Traffic of a model file: vehicles on their ways.

[traffic.FL]
vehicle = "lifter"
way     = ["A2@mezz", "B2@mezz"]
surface = "mezz-floor"
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ...core.model.cases import Case
from ...core.model.findings import did_you_mean
from ...core.model.loads import Vector
from ...core.model.traffic import Axle, Traffic, Vehicle, Way
from ...core.model.words import Beside, Entering, Heading
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..frame.nodes import NodeBook
from ..frame.surfaces import Grounds, read_point, surfaces_of
from ..loads.cases import CASE_NAME
from .vehicles import all_of, read_vehicles

MOST_VEHICLES, MOST_WAYS = 20, 12


def read_traffic(
    model: Entry, cases: list[Case], names: Names, book: NodeBook, grounds: Grounds, plane: bool
) -> tuple[tuple[Traffic, ...], list[Case]]:
    """What moves, and the cases with those that it makes."""
    known, unread = read_vehicles(model)
    if not model.has("traffic"):
        return (), cases
    out: list[Traffic] = []
    made: list[Case] = []
    taken = {c.name for c in cases}
    for name, entry in model.child("traffic").children():
        entry.known()
        if not CASE_NAME.fullmatch(name):
            entry.error("bad-name", f"a traffic cannot be called {shown(name)}",
                        "use letters, digits and _, beginning with a letter")  # fmt: skip
        if name in taken:
            entry.error("name-clash", f"{name} is a case in [cases] and a traffic too: traffic makes its own case",
                        "take it out of [cases]")  # fmt: skip
            continue
        use = (entry.text("use") or "") if entry.has("use") else ""
        found = _traffic(name, entry, known, unread, names, book, grounds, plane)
        words = ", ".join(dict.fromkeys(v.name for v in found.vehicles)) if found is not None else ""
        case = Case(name, "moving", entry.text("title") or words, 0.0, entry.place, use=use, moves=True)
        made.append(replace(case, together=entry.text("together") or "", one_of=entry.text("one_of") or ""))
        if found is not None:
            out.append(found)
    return tuple(out), [*cases, *made]


def _traffic(
    name: str,
    entry: Entry,
    known: dict[str, Vehicle],
    unread: set[str],
    names: Names,
    book: NodeBook,
    grounds: Grounds,
    plane: bool,
) -> Traffic | None:
    wanted = entry.texts("vehicle")
    vehicles = []
    for word in wanted or []:
        if word not in known and word not in unread:
            entry.error("unknown-name", f"{entry.what}: there is no vehicle {word}", did_you_mean(word, known),
                        "vehicle")  # fmt: skip
        elif word in unread:
            continue
        else:
            vehicles.append(known[word])
    if len(vehicles) > MOST_VEHICLES:
        entry.error("too-many", f"{entry.what} has {len(vehicles)} vehicles", f"name up to {MOST_VEHICLES}", "vehicle")
    surfaces = tuple(surfaces_of(entry, "surface", grounds))
    ways = _ways(entry, names, book, surfaces)
    step, speed = read_step(entry)
    row = read_row(entry)
    if entry.flag("every_step") and step == 0:
        entry.error("wrong-key", f"{entry.what} is exact, and has no steps", 'give a step, such as step = "0.25 m"',
                    "every_step")  # fmt: skip
    dynamic = entry.quantity("dynamic")
    if dynamic is not None and not 0 < dynamic <= 5:
        entry.error("bad-quantity", f"{entry.what}.dynamic = {shown(entry.data['dynamic'])}",
                    "write a factor such as 1.2", "dynamic")  # fmt: skip
        dynamic = None
    if plane:
        for v in vehicles:
            if v.across:
                entry.error("out-of-plane", f"{entry.what}: {v.name} pushes across its way, out of the plane",
                            "take `across` out, or model it in space", "vehicle")  # fmt: skip
                return None
        vehicles = [_in_plane(v) for v in vehicles]
    presence = _presence(entry)
    heading, entering = entry.word("heading", Heading), entry.word("enters", Entering)
    beside = entry.word("off_member", Beside)
    if row is None or None in (wanted, ways, step, dynamic, presence, heading, entering, beside):
        return None
    if not vehicles or len(vehicles) != len(wanted or []):
        return None
    return Traffic(
        name, tuple(vehicles), ways, entry.place, heading, step, speed, entering, beside, dynamic,  # type: ignore[arg-type]
        row[0], row[1], presence, (entry.notes.units.length, entry.notes.units.plain_factors("length")[1]),  # type: ignore[arg-type]
        entry.has("heading"), every_step=entry.flag("every_step") and bool(step),
    )  # fmt: skip


def _in_plane(v: Vehicle) -> Vehicle:
    """In a plane model all of an axle stands on the line."""
    return replace(v, gauge=0.0, axles=tuple(Axle(a.gap, (a.load,)) for a in v.axles), patch=(0.0, 0.0))


def read_row(entry: Entry) -> tuple[int, float] | None:
    """How many go one behind the other, and how far apart at least [m]."""
    count = entry.quantity("count")
    clear = entry.quantity("clear") if entry.has("clear") else 0.0
    if count is None or count != int(count) or not 1 <= count <= MOST_VEHICLES:
        if count is not None:
            entry.error("bad-quantity", f"{entry.what}.count = {shown(entry.data['count'])}",
                        f"write a whole number from 1 to {MOST_VEHICLES}", "count")  # fmt: skip
        return None
    if count > 1 and not entry.has("clear"):
        entry.error("missing-key", f"{entry.what}: {int(count)} vehicles in a row keep a distance",
                    'add clear = "5 m", from the last axle of one to the first of the next')  # fmt: skip
        return None
    if clear is not None and clear < 0:
        entry.error("bad-quantity", f"{entry.what}.clear = {shown(entry.data['clear'])}", "write a distance", "clear")
        return None
    return None if clear is None else (int(count), clear)


def read_step(entry: Entry) -> tuple[float | None, float]:
    """Metres between positions, 0 for exact, None where it is wrong; and the speed, if there is one [m/s]."""
    timed = entry.has("speed") or entry.has("every")
    if timed and not (entry.has("speed") and entry.has("every")):
        entry.error("missing-key", f"{entry.what}: `speed` and `every` go together", 'write speed = "5 km/h", every = '
                    '"0.5 s"')  # fmt: skip
        return None, 0.0
    if timed and entry.has("step"):
        entry.error("wrong-key", f"{entry.what} has a step and a speed", "write `step`, or `speed` and `every`", "step")
        return None, 0.0
    if timed:
        speed, every = entry.quantity("speed"), entry.quantity("every")
        if speed is None or every is None:
            return None, 0.0
        step: float | None = speed * every
    elif entry.data.get("step", "exact") == "exact":
        return 0.0, 0.0
    else:
        speed, step = 0.0, entry.as_quantity(entry.data["step"], "step", kind="length")
    if step is not None and step < 1e-4:
        entry.error("bad-quantity", f"{entry.what}: positions are {step:.3g} m apart",
                    'write a step such as "0.25 m", or step = "exact"', "every" if timed else "step")  # fmt: skip
        return None, 0.0
    return step, speed


def _presence(entry: Entry) -> tuple[float, ...] | None:
    if not entry.has("presence"):
        return (1.0,)
    value = entry.data["presence"]
    if not isinstance(value, list) or not value:
        entry.error("bad-quantity", f"{entry.what}.presence = {shown(value)}", "write factors: [1.2, 1.0, 0.85]",
                    "presence")  # fmt: skip
        return None
    read = all_of(entry, value, "number", "presence")
    if read is None:
        return None
    if min(read) <= 0 or max(read) > 3:
        entry.error("bad-quantity", f"{entry.what}.presence = {shown(value)}", "write factors up to 3", "presence")
        return None
    return tuple(read)


def _ways(entry: Entry, names: Names, book: NodeBook, surfaces: tuple[int, ...]) -> tuple[Way, ...] | None:
    key = "ways" if entry.has("ways") else "way"
    if entry.has("way") == entry.has("ways"):
        both = entry.has("way")
        entry.error("wrong-key" if both else "missing-key",
                    f"{entry.what} has {'both `way` and `ways`' if both else 'no `way`'}",
                    'write way = "runway", or way = ["A2@mezz", "C2@mezz"]', *([key] if both else []))  # fmt: skip
        return None
    value = entry.data[key]
    if key == "ways" and (not isinstance(value, list) or not value or len(value) > MOST_WAYS):
        entry.error("bad-way", f"{entry.what}.ways = {shown(value)}", f"list up to {MOST_WAYS} ways", key)
        return None
    each = value if key == "ways" else [value]
    asides = _asides(entry, len(each))
    found = [_way(entry, key, one, names, book, surfaces) for one in each]
    if asides is None or None in found:
        return None
    return tuple(replace(w, aside=a) for w, a in zip(found, asides, strict=True) if w is not None)


def _asides(entry: Entry, count: int) -> list[float] | None:
    value = entry.data.get("aside", 0.0)
    each = value if isinstance(value, list) else [value] * count
    if len(each) != count:
        entry.error("bad-quantity", f"{entry.what}.aside = {shown(value)}: there are {count} ways",
                    "write one length, or one for each way", "aside")  # fmt: skip
        return None
    return all_of(entry, each, "length", "aside")


def _way(entry: Entry, key: str, value: Any, names: Names, book: NodeBook, surfaces: tuple[int, ...]) -> Way | None:
    words = value if isinstance(value, list) else [value]
    text = " to ".join(w if isinstance(w, str) else _said(w) for w in words)
    place = entry.place_of(key)
    of_nodes = all(not isinstance(w, str) or _is_place(w, book) for w in words)
    if words and of_nodes and (len(words) > 1 or isinstance(words[0], list)):
        points: list[Vector | None] = [read_point(entry, key, w, book) for w in words]
        return None if None in points else Way(text, place, points=tuple(points), surfaces=surfaces)  # type: ignore[arg-type]
    if not words or not all(isinstance(w, str) for w in words):
        entry.error("bad-way", f"{entry.what}.{key} = {shown(value)}",
                    'name members, such as "runway/*", or points: ["A2@mezz", "C2@mezz"]', key)  # fmt: skip
        return None
    found, missed = names.select_members(words)
    names.report(entry, missed, key, f"{entry.what}.{key}: no member, family or node")
    if not found or missed:
        return None
    first, _ = names.select_members(words[:1])
    found = [*first, *(m for m in found if m not in first)] if first else found
    return Way(text, place, members=tuple(found), surfaces=surfaces)


def _said(value: object) -> str:
    """A point as it is written, in brackets: (3, 0, 3.6)."""
    return f"({', '.join(map(str, value))})" if isinstance(value, list) else shown(value)


def _is_place(word: str, book: NodeBook) -> bool:
    return word in book.index or book.crossing(word) is not None
