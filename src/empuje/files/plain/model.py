"""A model as plain entries: what runs, makers and copies stand for, one by one, as the data of a model file.

Everything that selects by name (limits, checks, cases, wind, traffic) stays as it is written: the names are the same.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable, Sequence

from ...core.model.loads import Settlement
from ...core.model.surfaces import AreaLoad
from ..base.quantities import Units
from ..reader import Reading
from .bare import Bare, Data
from .loads import plain_crane, plain_load, plain_surface, plain_surface_load, plain_traffic
from .members import Members
from .supports import plain_line_supports, plain_supports

ORDER = (
    "project", "values", "tables", "grid", "nodes", "materials", "sections", "members", "supports", "diaphragms",
    "surfaces", "floors", "reduction", "wind", "snow", "rain", "vehicles", "traffic", "cranes", "cases", "loads",
    "combinations", "steel", "limits", "plausible", "accepted", "report",
)  # fmt: skip
WIDEST = 110
LIST = re.compile(r"\[\n((?: +[^\n\[\]{}]*,\n)+) *\]")
"""A list of single values, each on its own line."""


def plain_model(reading: Reading) -> Data:
    """The whole model. Of a sound one: what could not be read is not in it."""
    project, written = reading.project, reading.written
    bare = Bare(reading)
    members = Members(reading, bare)
    loads: dict[str, list[Data]] = {}
    for load in project.loads:
        if not isinstance(load, Settlement):
            loads.setdefault(load.case, []).append(plain_load(bare, load))
    for one in project.surface_loads:
        if not (isinstance(one, AreaLoad) and one.of_floor):
            loads.setdefault(one.case, []).append(plain_surface_load(bare, one))
    out: Data = {
        **{key: value for key, value in written.items() if key not in ("include", "tables", "makers", "copies")},
        "nodes": {
            name: bare.place(xyz)
            for n in project.nodes
            for name, xyz in ((n.name, n.xyz), *n.also)
            if not reading.is_crossing(name)
        },
        "sections": {**written.get("sections", {}), **members.more_sections(project.members)},
        "members": members.of(project.members, list(reading.families)),
        "supports": [
            *plain_supports(bare, project.supports, [s for s in project.loads if isinstance(s, Settlement)]),
            *plain_line_supports(bare, project.line_supports, project.surfaces),
        ],
        "diaphragms": {d.name: {"nodes": [bare.nodes[n] for n in d.nodes]} for d in project.diaphragms},
        "surfaces": {s.name: plain_surface(bare, s) for s in project.surfaces},
        "loads": loads,
    }
    if "copies" in written:  # which may have ways of their own
        out["traffic"] = {t.case: plain_traffic(bare, t, written["traffic"][t.case])
                          for t in project.traffic if not t.runways}  # fmt: skip
        out["cranes"] = {t.case: plain_crane(bare, t, written["cranes"][t.case]) for t in project.traffic if t.runways}
    out["values"] = _needed(out)
    return {key: out[key] for key in ORDER if out.get(key)}


def plain_members(reading: Reading, members: Sequence[int], nodes: Iterable[int]) -> Data:
    """Some members with their nodes, and further nodes: the families they belong to, and the places."""
    bare, project = Bare(reading), reading.project
    by = Members(reading, bare)
    chosen = [project.members[i] for i in members]
    every = sorted({*nodes, *(n for m in chosen for n in (m.start, m.end))})
    places = {project.nodes[n].name: bare.place(project.nodes[n].xyz) for n in every}
    out: Data = {
        "nodes": {name: place for name, place in places.items() if not reading.is_crossing(name)},
        "sections": by.more_sections(chosen),
        "members": by.of(chosen, list(dict.fromkeys(m.family for m in chosen))),
    }
    return {key: value for key, value in out.items() if value}


def as_toml(data: Data) -> str:
    """The data as text of a model file, short lists on one line."""
    import tomli_w

    text = tomli_w.dumps(data)
    short = LIST.sub(_on_one_line, text)
    return short if tomllib.loads(short) == tomllib.loads(text) else text


def _on_one_line(found: re.Match[str]) -> str:
    line = ", ".join(item.strip().rstrip(",") for item in found[1].splitlines())
    return f"[{line}]" if len(line) <= WIDEST else found[0]


def _needed(out: Data) -> Data:
    """The values that something still names, and those that these name."""
    values = dict(out.get("values", {}))
    words: set[str] = set()
    todo: list[object] = [value for key, value in out.items() if key != "values"]
    while todo:
        one = todo.pop()
        if isinstance(one, str):
            new = {w for w in Units.WORD.findall(one) if w in values} - words
            words |= new
            todo += [values[w] for w in new]
        elif isinstance(one, dict):
            todo += one.values()
        elif isinstance(one, list):
            todo += one
    return {name: value for name, value in values.items() if name in words}
