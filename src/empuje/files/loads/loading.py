"""The loads of a model file, case by case, and those of tables."""

from __future__ import annotations

from ...core.model.cases import Case
from ...core.model.findings import did_you_mean
from ...core.model.frame import ON_LINE_TOLERANCE
from ...core.model.loads import DescribedLoad, Direction, LineLoad, NodeLoad, PointLoad, Position, Strain
from ...core.model.surfaces import SurfaceLoad
from ..base.directions import DIRECTIONS, read_direction
from ..base.entry import Entry, shown
from ..base.positions import as_position, read_position
from ..base.selectors import Names
from ..base.spaced import ENDS, MOST, PANEL_POINTS, Placed, every_so_far, on_chord
from ..frame.surfaces import Grounds
from ..tables.read import Rows
from .plain_rows import PlainRows
from .surface_loads import on_surfaces

KINDS = ("line", "force", "moment", "temperature", "lack_of_fit")
STRAINS = ("temperature", "gradient_y", "gradient_z", "lack_of_fit")


def read_loads(
    model: Entry, cases: list[Case], names: Names, grounds: Grounds, plane: bool, table: Rows
) -> tuple[list[DescribedLoad], list[SurfaceLoad]]:
    """Every load of every case, and of tables: on members and nodes, and on surfaces."""
    loads = model.child("loads")
    known, notional = [c.name for c in cases], {c.name for c in cases if c.notional}
    out: list[DescribedLoad] = []
    areas: list[SurfaceLoad] = []

    def read(entry: Entry, case: str) -> None:
        found = on_surfaces(entry, case, grounds, names)
        if found is None:
            out.extend(_load(entry, case, names, plane))
        else:
            areas.extend(found)

    for case in loads.data:
        if case not in known:
            remedy = did_you_mean(case, known)
            loads.error("unknown-name", f"loads for case {case}, which is not in [cases]", remedy, case)
        if case in notional and loads.entries(case):
            loads.error(
                "wrong-key",
                f"case {case} is a notional load: it has no loads of its own",
                "put them in another case",
                case,
            )
        for entry in loads.entries(case):
            read(entry, case)
    usual = [c for c in known if c not in notional]

    def read_row(entry: Entry) -> None:
        case = str(entry.data.pop("case", ""))
        if case not in usual:
            remedy = did_you_mean(case, usual)
            entry.error("unknown-name", f"loads for case {shown(case)}, which cannot have any", remedy)
            return
        if "line end" in entry.data:
            entry.data["line"] = [entry.data.get("line", 0.0), entry.data.pop("line end")]
        read(entry, case)

    for cells in table.tables:
        plain = PlainRows(cells, usual, names, grounds.index, model.notes.units, plane)
        for line, row in cells.sheet.rows[1:]:
            load = plain.load(line, row)
            if load is not None:
                out.append(load)
                continue
            found = table.entry(cells, line, row, model.notes)
            if found is not None:
                read_row(found)
    return [load for load in out if load.case in known], [load for load in areas if load.case in known]


def _load(entry: Entry, case: str, names: Names, plane: bool) -> list[DescribedLoad]:
    entry.known()
    kinds = [k for k in KINDS if entry.has(k)]
    if not kinds and (entry.has("gradient_y") or entry.has("gradient_z")):
        kinds = ["temperature"]
    if len(kinds) != 1:
        entry.error("which-load", f"{entry.what} has {' and '.join(kinds) or 'no load'}",
                    f"give it one of {', '.join(KINDS)}")  # fmt: skip
        return []
    kind = kinds[0]
    strained = kind in STRAINS
    direction = None if strained else _direction(entry, kind, plane)
    patterns = entry.texts("on")
    if patterns is None:
        return []
    nodes, members, missed = names.select(patterns)
    names.report(entry, missed, "on", f"{entry.what}: nothing")
    if nodes and members:
        entry.error("mixed-on", f"{entry.what} is on nodes and on members", "write two loads", "on")
        return []
    if strained:
        return _strain(entry, case, kind, nodes, members, patterns)
    if kind == "line":
        return _line(entry, case, nodes, members, direction, patterns)
    return _point(entry, case, kind, names, nodes, members, direction, patterns)


def _direction(entry: Entry, kind: str, plane: bool) -> Direction | None:
    """The direction of a load; a moment has to say its axis."""
    if kind == "moment" and not entry.has("dir"):
        entry.missing("dir")
        return None
    direction = read_direction(entry, DIRECTIONS, plane and kind != "moment")
    if direction is None:
        return None
    if plane and not direction.local:
        across = direction.vector[1] != 0
        if across != (kind == "moment") or (across and abs(direction.vector[1]) != 1):
            words = f"{entry.what}.dir = {shown(entry.data.get('dir'))} leaves the plane of the model"
            remedy = 'a moment turns about "+y" or "-y", all else acts along x and z'
            entry.error("out-of-plane", words, remedy, "dir")
            return None
    return direction


def _strain(
    entry: Entry, case: str, kind: str, nodes: list[int], members: list[int], patterns: list[str]
) -> list[DescribedLoad]:
    """A change of temperature, or a lack of fit."""
    for key in (
        "dir",
        "per",
        "at",
        "every",
        "from",
        "to",
        *(("gradient_y", "gradient_z") if kind == "lack_of_fit" else ()),
    ):
        if entry.has(key):
            entry.error("wrong-key", f"{entry.what}: {kind} has no `{key}`", "take it out", key)
    if nodes:
        entry.error("wrong-on", f"{entry.what}: {kind} cannot act on nodes", "name members in `on`", "on")
        return []
    values = {key: entry.quantity(key) for key in STRAINS}
    if None in values.values() or not members:
        return []
    told = ", ".join(f"{key} {entry.data[key]}" for key in STRAINS if entry.has(key))
    text = f"{told} on {', '.join(patterns)}"
    return [Strain(case, tuple(members), **values, text=text, place=entry.place)]  # type: ignore[arg-type]


def _words(entry: Entry, kind: str, direction: Direction, patterns: list[str]) -> str:
    """The load in words, for listings: line 0.35*6.0 kN/m down on rafters."""
    value = entry.data[kind]
    text = value if isinstance(value, str) else str(value).replace("'", "")
    about = "about " if kind == "moment" else ""
    every = f" every {entry.data['every']}" if entry.has("every") else ""
    at = entry.data.get("at")
    every = f" at {at}" if at in (PANEL_POINTS, ENDS) else every
    per = " (projected)" if entry.data.get("per") == "projected" else ""
    return f"{kind} {text} {about}{direction.text}{per}{every} on {', '.join(patterns)}"


def _line(
    entry: Entry, case: str, nodes: list[int], members: list[int], direction: Direction | None, patterns: list[str]
) -> list[DescribedLoad]:
    projected = entry.text("per") == "projected"
    for key in ("at", "every"):
        if entry.has(key):
            entry.error("wrong-key", f"{entry.what}: a line load has no `{key}`", "use from and to", key)
    if nodes:
        entry.error("wrong-on", f"{entry.what}: a line load cannot act on nodes", "name members in `on`", "on")
        return []
    if projected and direction is not None and direction.local:
        entry.error("wrong-key", f'{entry.what}: per = "projected" needs a global direction', "drop one of them", "per")
        return []
    points = _line_points(entry)
    if direction is None or points is None or not members:
        return []
    text = _words(entry, "line", direction, patterns)
    return [LineLoad(case, tuple(members), tuple(points), direction, projected, text, entry.place)]


def _line_points(entry: Entry) -> list[tuple[Position, float]] | None:
    """One value, two for a linear change, or a list of [position, value]."""
    value = entry.data["line"]
    if isinstance(value, list) and value and all(isinstance(v, list) for v in value):
        if entry.has("from") or entry.has("to"):
            entry.error("wrong-key", f"{entry.what}: a list of positions has no from and to", "take them out", "line")
        if len(value) < 2 or any(len(v) != 2 for v in value):
            entry.error("bad-line", f"{entry.what}.line = {shown(value)}",
                        "write [[position, value], [position, value], ...]", "line")  # fmt: skip
            return None
        pairs = [(as_position(entry, p, "line", i), entry.as_quantity(v, "line", i)) for i, (p, v) in enumerate(value)]
        return None if any(p is None or v is None for p, v in pairs) else pairs  # type: ignore[return-value]
    values = value if isinstance(value, list) else [value, value]
    if len(values) != 2:
        entry.error("bad-line", f"{entry.what}.line = {shown(value)}", "write one value, or two", "line")
        return None
    start, end = read_position(entry, "from"), read_position(entry, "to")
    at_start, at_end = (entry.as_quantity(v, "line") for v in values)
    if start is None or end is None or at_start is None or at_end is None:
        return None
    return [(start, at_start), (end, at_end)]


def _point(
    entry: Entry, case: str, kind: str, names: Names, nodes: list[int], members: list[int],
    direction: Direction | None, patterns: list[str],
) -> list[DescribedLoad]:  # fmt: skip
    for key in ("per",) if entry.has("every") else ("from", "to", "per"):
        if entry.has(key):
            entry.error("wrong-key", f"{entry.what}: a {kind} has no `{key}`", "use at, or every, on members", key)
    value = entry.quantity(kind)
    positions: list[Position | None] = []
    for key in ("at", "every"):
        if nodes and entry.has(key):
            entry.error("wrong-key", f"{entry.what}: a {kind} at a node has no `{key}`", "take it out", key)
    if members and (entry.has("every") or entry.data.get("at") in (PANEL_POINTS, ENDS)):
        placed = _spaced(entry, kind, names, members)
        if value is None or direction is None or placed is None:
            return []
        text = _words(entry, kind, direction, patterns)
        return [PointLoad(case, on, kind, value, at, direction, text, entry.place) for on, at in placed]  # type: ignore[arg-type]
    if members:
        if not entry.has("at"):
            entry.error("missing-key", f"{entry.what}: a {kind} on a member needs `at`", 'write at = "2.5 m" or "40%"')
            return []
        at = entry.data["at"]
        several = at if isinstance(at, list) else [at]
        positions = [as_position(entry, p, "at", *([i] if isinstance(at, list) else [])) for i, p in enumerate(several)]
    if nodes and direction is not None and direction.local:
        entry.error("wrong-key", f"{entry.what}: nodes have no local axes", "use a global direction", "dir")
        return []
    if value is None or direction is None or None in positions:
        return []
    text = _words(entry, kind, direction, patterns)
    if nodes:
        return [NodeLoad(case, tuple(nodes), kind, value, direction, text, entry.place)]  # type: ignore[arg-type]
    if members:
        return [
            PointLoad(case, tuple(members), kind, value, tuple(positions), direction, text, entry.place)  # type: ignore[arg-type]
        ]
    return []


def _spaced(entry: Entry, kind: str, names: Names, members: list[int]) -> Placed | None:
    """Where forces are that stand at a distance, at panel points or at the ends of a chord."""
    if not entry.has("every"):
        where = entry.data["at"]
        if kind != "force":
            entry.error("wrong-key", f"{entry.what}: a moment has no place at {where}", "say at = [positions]", "at")
            return None
        found = on_chord(names, members, where)
        if not found:
            why = "nothing joins them between their ends" if where == PANEL_POINTS else "they close a ring"
            entry.error("matches-nothing", f"{entry.what}: the members it is on have no {where}", why, "at")
        return found or None
    if entry.has("at"):
        entry.error("wrong-key", f"{entry.what} has both `at` and `every`", "take one of them out", "every")
        return None
    step, begin, end = entry.quantity("every"), read_position(entry, "from"), read_position(entry, "to")
    if step is None or begin is None or end is None:
        return None
    if step <= ON_LINE_TOLERANCE:
        entry.error("bad-quantity", f"{entry.what}.every = {shown(entry.data['every'])}", "write a distance", "every")
        return None
    placed = every_so_far(names, members, step, begin, end)
    if placed is None:
        entry.error("too-many", f"{entry.what} makes more than {MOST:,} forces", "check the unit of `every`", "every")
    for on, positions in placed or ():
        if not positions:
            words = f"{entry.what}: on {names.members[on[0]]} nothing lies between `from` and `to`"
            remedy = "check both, or name longer members"
            entry.error("position-off-member", words, remedy, "from" if entry.has("from") else "to")
            return None
    return placed
