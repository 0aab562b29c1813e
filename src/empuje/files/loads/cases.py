"""The load cases of a model file, and what the rules of codes ask about them."""

from __future__ import annotations

import re
from typing import Any

from ...core.model.cases import Case
from ...core.model.findings import listed
from ...core.model.rules import BY_USE
from ...core.model.words import Level, Stage
from ..base.directions import DIRECTIONS
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..combos.combining import RESERVED
from ..frame.surfaces import Grounds
from .keys import LEVEL_WAYS, SELF_WEIGHT

CASE_NAME = re.compile(r"[^\W\d]\w*")
MOST_NOTIONAL = 0.2
MOST_TORSION, MOST_AMPLIFIED = 0.5, 3.0
SETTINGS = (
    "use",
    "reversible",
    "along",
    "together",
    "one_of",
    "pattern",
    "stage",
    "total",
    "level",
    "accidental_torsion",
    "A_x",
)
"""What the rules of codes ask about a case."""
LEVELLED = ("wind", "snow", "seismic")


def read_cases(model: Entry, names: Names, grounds: Grounds, plane: bool) -> list[Case]:
    """The load cases."""
    out = []
    for name, entry in model.child("cases").children():
        entry.known()
        if not CASE_NAME.fullmatch(name) or name in RESERVED:
            entry.error("bad-name", f"a case cannot be called {shown(name)}",
                        "use letters, digits and _, beginning with a letter")  # fmt: skip
        if entry.has("notional"):
            out.append(_notional(name, entry, plane))
            continue
        if entry.has("dir"):
            entry.error(
                "wrong-key", f"case {name} has `dir`, but is no notional load", "its loads have directions", "dir"
            )
        action = entry.text("action") or "dead"
        title = entry.text("title") or ""
        weight = _self_weight(entry, names, grounds, plane)
        settings = _settings(entry, action, plane)
        out.append(Case(name, action, title, place=entry.place, **weight, **settings))
        out += _torsion(out[-1], entry, plane)
    return out


def _torsion(case: Case, entry: Entry, plane: bool) -> list[Case]:
    """The accidental torsion of a seismic case, where it has one, as a case of its own."""
    amplified = entry.child("A_x")
    by_floor = {name: amplified.quantity(name) for name in amplified.data}
    if not entry.has("accidental_torsion"):
        if by_floor:
            entry.error("wrong-key", f"case {case.name} has A_x, but no accidental_torsion", "add it", "A_x")
        return []
    share = entry.quantity("accidental_torsion")
    for name, value in by_floor.items():
        if value is not None and not 1 <= value <= MOST_AMPLIFIED:
            amplified.error("bad-quantity", f"{amplified.what}.{name} = {shown(amplified.data[name])}",
                            f"write 1 to {MOST_AMPLIFIED:g}", name)  # fmt: skip
    if share is None:
        return []
    remedy = 'accidental torsion is of seismic cases with along = "+x" or another level direction, in space'
    if plane or case.action != "seismic" or case.along[1:] not in ("x", "y"):
        entry.error("wrong-key", f"case {case.name} has accidental_torsion", remedy, "accidental_torsion")
        return []
    if not 0 < share <= MOST_TORSION:
        entry.error("bad-quantity", f"case {case.name} has accidental_torsion = {shown(share)}",
                    f"write a share of the floor's extent up to {MOST_TORSION:g}, such as 0.05",
                    "accidental_torsion")  # fmt: skip
        return []
    return [
        Case(f"{case.name}t", "seismic", f"Accidental torsion of {case.name}", 0.0, case.place, stage=case.stage,
             level=case.level, torsion_of=case.name, torsion=share,
             amplified=tuple((name, value) for name, value in by_floor.items() if value is not None))
    ]  # fmt: skip


def _self_weight(entry: Entry, names: Names, grounds: Grounds, plane: bool) -> dict[str, Any]:
    """A factor on the own weight of members and surfaces; or a table that also says its direction and what is
    left out."""
    if not isinstance(entry.data.get("self_weight"), dict):
        return {"self_weight": entry.quantity("self_weight") or 0.0}
    table = entry.child("self_weight", SELF_WEIGHT).known()
    out: dict[str, Any] = {"self_weight": table.quantity("factor") or 0.0}
    word = table.text("dir") or "down"
    if plane and DIRECTIONS[word].vector[1]:
        table.error("out-of-plane", f'{table.what}.dir = "{word}" leaves the plane of the model', "use x or z", "dir")
    out["weight_along"] = DIRECTIONS[word].vector
    if table.has("without"):
        patterns = table.texts("without") or []
        of_surfaces = [p for p in patterns if grounds.meant([p.removeprefix("!")])[0]]
        surfaces = grounds.meant(of_surfaces)[0]
        weighing = tuple(i for i in surfaces if grounds.surfaces[i].plate is not None)
        idle = [p for p in of_surfaces if p in grounds.index and grounds.index[p] not in weighing]
        if idle:
            table.error("unknown-name", f"{table.what}.without: {listed(idle)} weighs nothing of itself",
                        "name structural surfaces, which have a material and a thickness", "without")  # fmt: skip
        # A glob may find both; what finds surfaces alone is no selector of members.
        known = {*of_surfaces, *grounds.unread}
        of_members = [p for p in patterns if p not in known or names.select_members([p.removeprefix("!")])[0]]
        members, missed = names.select_members(of_members)
        names.report(table, missed, "without", f"{table.what}: no family, member or structural surface")
        out |= {"weightless": tuple(members), "weightless_surfaces": weighing}
    return out


def _settings(entry: Entry, action: str, plane: bool) -> dict[str, Any]:
    """What the rules of codes ask about a case."""
    out: dict[str, Any] = {key: entry.flag(key) for key in ("reversible", "pattern")}
    out |= {key: entry.text(key) or "" for key in ("together", "one_of")}
    ways = _level_ways(plane) + (["+z", "-z"] if action == "seismic" else [])
    for key, words in (("use", []), ("along", ways)):
        out[key] = (entry.text(key, words) or "") if entry.has(key) else ""
    out["expected"] = entry.quantity("total") if entry.has("total") else None
    out["stage"] = (entry.word("stage", Stage) or Stage.ANY) if entry.has("stage") else Stage.ANY
    out["level"] = entry.word("level", Level) if entry.has("level") else None
    if out["level"] and action not in LEVELLED:
        entry.error("wrong-key", f"{entry.what} has a level, but is {action}",
                    "only wind, snow and seismic loads have one", "level")  # fmt: skip
    if out["use"] and action not in BY_USE:
        entry.error(
            "wrong-key", f"{entry.what} has a use, but is {action}", "only floors with live load have one", "use"
        )
    return out


def _level_ways(plane: bool) -> list[str]:
    return ["+x", "-x"] if plane else list(LEVEL_WAYS)


def _notional(name: str, entry: Entry, plane: bool) -> Case:
    """A case of horizontal loads that are a share of the vertical ones."""
    for key in ("action", "self_weight", *(s for s in SETTINGS if s != "reversible")):
        if entry.has(key):
            entry.error(
                "wrong-key", f"case {name} is a notional load: it has no `{key}`", "make another case of it", key
            )
    way = DIRECTIONS[entry.text("dir", _level_ways(plane)) or "+x"]
    share = entry.quantity("notional") or 0.0
    if not 0 < share <= MOST_NOTIONAL:
        entry.error("bad-quantity", f"case {name} is a notional load of {shown(entry.data['notional'])}",
                    f'write a share of the vertical loads up to {MOST_NOTIONAL:g}, such as "1/200"',
                    "notional")  # fmt: skip
    text = f"{entry.data['notional']} of the vertical loads of each combination, towards {way.text}"
    title = entry.text("title") or text
    return Case(name, "notional", title, 0.0, entry.place, share, way.vector, reversible=entry.flag("reversible"))
