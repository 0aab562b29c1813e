"""Limits of a model file.

[[limits]]
name  = "pads"
check = "reaction"
at    = "*@base"
under = "strength"
Fz    = "<= 900 kN"         # at most; ">= 0 kN" at least; [least, most]; a value by itself: in magnitude
"""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Sequence

from ...core.model.findings import did_you_mean, listed
from ...core.model.frame import Diaphragm
from ...core.model.limits import COMPONENTS, Bound, Limit
from ...core.model.loads import Vector
from ...core.model.steel import SteelRule
from ...core.model.words import LimitKind, Reference, Set
from ..base.entry import Entry, shown
from ..base.quantities import QuantityError
from ..base.selectors import Names, pick
from ..frame.surfaces import Grounds, read_point
from .limit_keys import AT_LEAST, AT_MOST, SHARES, read_as

ON = {
    LimitKind.REACTION: "at", LimitKind.DISPLACEMENT: "at", LimitKind.FORCE: "on", LimitKind.STRESS: "on",
    LimitKind.DEFLECTION: "on", LimitKind.TILT: "on", LimitKind.STEEL: "on", LimitKind.PLATE: "on",
    LimitKind.CUT: "on",
}  # fmt: skip
OWN = {
    LimitKind.DEFLECTION: ("against", "span"), LimitKind.STRESS: ("fibre",), LimitKind.DRIFT: ("levels", "storey"),
    LimitKind.CUT: ("cut",),
}  # fmt: skip
KEYS = ("name", "check", "at", "on", "under", "warn_at", "against", "span", "fibre", "levels", "storey", "cut")
OUT_OF_PLANE = {"Fy", "Mx", "Mz", "e_y", "Vy", "T", "uy", "rx", "rz", "drift_y"}
"""Components that a plane model does not have; there Mz of members as well."""
SENSE = re.compile(r"\s*(<=|>=|≤|≥)?\s*(.*)", re.S)
SENSES = {"<=": "<=", ">=": ">=", "≤": "<=", "≥": ">="}
RATIO = re.compile(r"1\s*/\s*(\d+\.?\d*)")
"""A ratio without the length that it is of."""
SHARE = re.compile(r"(span|height)\s*/\s*(\d+\.?\d*|\.\d+)")


def read_limits(
    model: Entry, names: Names, grounds: Grounds, floors: Sequence[Diaphragm], grid_z: dict[str, float], plane: bool
) -> list[Limit]:
    """The limits in the order of the file."""
    out: list[Limit] = []
    taken: set[str] = set()
    for entry in model.entries("limits"):
        name, word = entry.text("name"), entry.word("check", LimitKind)
        if word is None:
            continue
        kind = LimitKind(word)
        common = ("name", "check", "under", "warn_at")
        place = (ON[kind],) if kind in ON else ()
        entry.known([*COMPONENTS[kind], *place, *OWN.get(kind, ()), *common])  # bounds first: what a remedy then lists
        under = entry.texts("under")
        on, on_floors = _on(entry, kind, names, grounds, floors)
        bounds = _bounds(entry, kind, plane)
        levels = _levels(entry, grid_z) if kind == LimitKind.DRIFT else ()
        cut = _cut(entry, grounds) if kind == LimitKind.CUT else None
        warn_at, span = entry.quantity("warn_at") or 0.0, _span(entry)
        if not 0 < warn_at <= 1:
            entry.error("bad-quantity", f"{entry.what}.warn_at = {shown(entry.data['warn_at'])}",
                        "write a share of the bound, such as 0.9", "warn_at")  # fmt: skip
        if kind == LimitKind.STEEL and not model.has("steel"):
            entry.error("missing-key", f"{entry.what} is about steel, and the model does not say by which code",
                        'add [steel] with code = "EN 1993-1-1"', "check")  # fmt: skip
        if name is not None and name in taken:
            entry.error("name-clash", f"two limits are called {name}", "rename one of them", "name")
        if kind == LimitKind.STEEL and any(b.most == math.inf for b in bounds):
            stated = shown(entry.data.get("utilisation"))
            entry.error("bad-bound", f"{entry.what}.utilisation = {stated}: it has an upper bound only", 'write "<= 1"',
                        "utilisation")  # fmt: skip
        if name is None or under is None or (kind == LimitKind.CUT and cut is None):
            continue
        taken.add(name)
        against = Reference(entry.word("against", Reference) or Reference.CHORD)
        fibre = entry.text("fibre") or ""
        mean = entry.text("storey") == "mean"
        out.append(Limit(name, kind, tuple(under), tuple(bounds), entry.place, on, on_floors, warn_at, against, span,
                         fibre, levels, mean, cut))  # fmt: skip
    return out


OF_COMPONENTS = {str(Set.COMPONENTS), str(Set.COMPONENTS_SERVICE)}


def implied_limits(steel: SteelRule | None, limits: Sequence[Limit], components: Collection[int]) -> list[Limit]:
    """The limits that [steel] is by itself, on those of its members that no limit of the model is about: under its own
    words, and of `components` under their wind. A limit under the latter alone is not one under the former."""
    if steel is None:
        return []
    taken = {limit.name for limit in limits}
    out = []
    for of_parts, name in ((False, "steel members"), (True, "steel components")):
        words = (str(Set.COMPONENTS),) if of_parts else steel.under
        members = [m for m in steel.on if m in components or not of_parts]
        asked = {
            m for limit in limits
            if limit.kind == LimitKind.STEEL and (OF_COMPONENTS.issuperset(limit.under) == of_parts) for m in limit.on
        }  # fmt: skip
        left = tuple(m for m in members if m not in asked)
        called = next(n for n in (name, f"{name} by [steel]", f"{name} {len(taken)}") if n not in taken)
        bound = Bound("utilisation", -math.inf, 1.0, False, "<= 1")
        if left:
            out.append(Limit(called, LimitKind.STEEL, words, (bound,), steel.place, left, warn_at=steel.warn_at))
    return out


def _on(
    entry: Entry, kind: LimitKind, names: Names, grounds: Grounds, floors: Sequence[Diaphragm]
) -> tuple[tuple[int, ...], tuple[tuple[str, tuple[int, ...]], ...]]:
    """Nodes or members; or floors with their nodes, surfaces without any: those follow from the geometry."""
    if kind not in ON:
        return (), ()
    key = ON[kind]
    if kind == LimitKind.CUT and not entry.has(key):
        return (), tuple((s.name, ()) for s in grounds.surfaces if s.plate is not None)
    patterns = entry.texts(key)
    if patterns is None:
        return (), ()
    if kind == LimitKind.TILT:
        known = {**{f.name: f.nodes for f in floors}, **dict.fromkeys(grounds.index, ())}
        chosen, missed = pick(patterns, list(known))
        for pattern in (p for p in missed if p not in grounds.unread):
            entry.error("matches-nothing", f"{entry.what}: no rigid floor or surface is called {pattern}",
                        did_you_mean(pattern, known), key)  # fmt: skip
        return (), tuple(list(known.items())[i] for i in chosen)
    if kind in (LimitKind.PLATE, LimitKind.CUT):
        structural = [s.name for s in grounds.surfaces if s.plate is not None]
        chosen, missed = pick(patterns, structural)
        for pattern in (p for p in missed if p not in grounds.unread):
            entry.error("matches-nothing", f"{entry.what}: no structural surface is called {pattern}",
                        did_you_mean(pattern, structural), key)  # fmt: skip
        return (), tuple((structural[i], ()) for i in chosen)
    chosen, missed = (names.select_nodes if key == "at" else names.select_members)(patterns)
    names.report(entry, missed, key, f"{entry.what}: no {'node' if key == 'at' else 'family or member'}")
    return tuple(chosen), ()


def _bounds(entry: Entry, kind: LimitKind, plane: bool) -> list[Bound]:
    known = COMPONENTS[kind]
    out = []
    for key in known:
        if not entry.has(key):
            continue
        if plane and (key in OUT_OF_PLANE or (key == "Mz" and kind == LimitKind.FORCE)):
            entry.error("wrong-key", f"{entry.what}: a plane model has no {key}", "take it out", key)
            continue
        bound = _bound(entry, kind, key)
        if bound is not None:
            out.append(bound)
    if not any(entry.has(key) for key in known) and set(entry.data) <= {*KEYS}:
        entry.error("missing-key", f"{entry.what} bounds nothing", f"add one of {listed(list(known), 12)}")
    return out


def _bound(entry: Entry, kind: LimitKind, key: str) -> Bound | None:
    value = entry.data[key]
    if isinstance(value, list):
        return _between(entry, kind, key, value)
    match = SENSE.fullmatch(value) if isinstance(value, str) else None
    sense = SENSES.get(match[1], "") if match else ""
    found = _one(entry, kind, key, match[2] if match else value)
    if found is None:
        return None
    size, share = found
    said = _text(entry, kind, key, match[2] if match else value)
    if not sense and (key in AT_LEAST or key in AT_MOST):
        sense = ">=" if key in AT_LEAST else "<="
    if not sense and size < 0:
        entry.error("bad-bound", f"{entry.what}.{key} = {shown(value)}: a magnitude is not negative",
                    f'write ">= {said}" or "<= {said}"', key)  # fmt: skip
        return None
    least = size if sense == ">=" else -math.inf if sense else -size
    most = size if sense != ">=" else math.inf
    words = said if value == "none" else f"{sense} {said}" if sense else f"within {said}"
    return Bound(key, least, most, share, words)


def _between(entry: Entry, kind: LimitKind, key: str, value: list[object]) -> Bound | None:
    """A bound with two ends."""
    ends = [_one(entry, kind, key, v, i) for i, v in enumerate(value)]
    if len(ends) != 2:
        entry.error("bad-bound", f"{entry.what}.{key} = {shown(value)}", "write [least, most]", key)
        return None
    low, high = ends
    if low is None or high is None:
        return None
    if low[0] > high[0] or low[1] != high[1]:
        entry.error("bad-bound", f"{entry.what}.{key} = {shown(value)}: the least is not below the most",
                    "write [least, most]", key)  # fmt: skip
        return None
    return Bound(key, low[0], high[0], low[1], " to ".join(_text(entry, kind, key, v) for v in value))


def _text(entry: Entry, kind: LimitKind, key: str, value: object) -> str:
    """As it is written; bare numbers with their unit."""
    if isinstance(value, str) and re.search("[a-z]", value):
        return value.strip()
    force, length = entry.notes.units.force, entry.notes.units.length
    unit = {
        "force": force, "moment": f"{force}*{length}", "length": length, "stress": f"{force}/{length}2",
        "line": f"{force}/{length}", "line moment": f"{force}*{length}/{length}", "pressure": f"{force}/{length}2",
    }.get(read_as(kind, key), "")  # fmt: skip
    return f"{value} {unit}".strip()


def _one(entry: Entry, kind: LimitKind, key: str, value: object, *inner: int) -> tuple[float, bool] | None:
    """A bound in SI; or as a share of a span or height, and whether it is one."""
    if key == "uplift" and value == "none":
        return 0.0, False
    share = SHARE.fullmatch(value.strip()) if isinstance(value, str) else None
    if share is not None:
        if SHARES.get(kind) != share[1] or not float(share[2]):
            word = f'write "{SHARES[kind]}/300"' if kind in SHARES else "write a value with its unit"
            entry.error("bad-bound", f"{entry.what}.{key} = {shown(value)}", word, key, *inner)
            return None
        return 1 / float(share[2]), True
    ratio = RATIO.fullmatch(value.strip()) if kind in SHARES and isinstance(value, str) else None
    if ratio is not None:  # it would be read as a part of a metre or a foot
        remedy = f'write "{SHARES[kind]}/{ratio[1]}", or a length with its unit'
        entry.error(
            "bad-bound", f"{entry.what}.{key} = {shown(value)} does not say of what length", remedy, key, *inner
        )
        return None
    try:
        return entry.notes.units.read(value, read_as(kind, key)), False
    except QuantityError as error:
        remedy = 'write a bound such as "<= 20 mm", ">= 0 kN", or [least, most]'
        entry.error("bad-bound", f"{entry.what}.{key} = {shown(entry.data[key])}: {error}", remedy, key, *inner)
        return None


def _span(entry: Entry) -> float:
    if not entry.has("span"):
        return math.nan
    span = entry.quantity("span")
    if span is not None and span <= 0:
        entry.error("bad-quantity", f"{entry.what}.span = {shown(entry.data['span'])}", "a span is a length", "span")
    return math.nan if span is None else span


def _cut(entry: Entry, grounds: Grounds) -> tuple[Vector, Vector] | None:
    """The two ends of a cut [m]."""
    if not entry.has("cut"):
        entry.missing("cut")
        return None
    value = entry.data["cut"]
    if not isinstance(value, list) or len(value) != 2:
        entry.error(
            "bad-line", f"{entry.what}.cut = {shown(value)}", "write two points, each a node or [x, y, z]", "cut"
        )
        return None
    a, b = (read_point(entry, "cut", v, grounds.book) for v in value)
    if a is None or b is None:
        return None
    if math.dist(a, b) < 1e-3:
        entry.error("bad-line", f"{entry.what}.cut = {shown(value)} goes from a point to itself", "name other points",
                    "cut")  # fmt: skip
        return None
    return a, b


def _levels(entry: Entry, lines: dict[str, float]) -> tuple[tuple[str, float], ...]:
    """Names and heights [m] of levels, from the lowest."""
    value = entry.data.get("levels", list(lines))
    values = value if isinstance(value, list) else [value]
    found: list[tuple[str, float]] = []
    for i, word in enumerate(values):
        if isinstance(word, str) and word in lines:
            found.append((word, lines[word]))
            continue
        try:
            height = entry.notes.units.read(word, "length")
        except QuantityError as error:
            hint = f"; {did_you_mean(word, lines)}" if isinstance(word, str) else ""
            entry.error("bad-quantity", f"{entry.what}.levels: {shown(word)} is no z line, and {error}",
                        f"write grid lines or heights{hint}", "levels", i)  # fmt: skip
            return ()
        found.append((word if isinstance(word, str) else f"{word:g}", height))
    found.sort(key=lambda level: level[1])
    if len({round(z, 3) for _, z in found}) < 2 or len({round(z, 3) for _, z in found}) < len(found):
        entry.error("bad-levels", f"{entry.what}: drift needs at least two different levels",
                    'write levels = ["base", "eave"], or heights', "levels")  # fmt: skip
        return ()
    return tuple(found)
