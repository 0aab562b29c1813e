"""A model as plain entries: what runs, makers and copies stand for, one by one, as the data of a model file.

Everything that selects by name (limits, checks, cases, wind, traffic) stays as it is written: the names are the same.
"""

from __future__ import annotations

import math
import re
import tomllib
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.catalogue.catalogue import find_section
from ..core.model.frame import FREEDOMS, Member, Section, Support
from ..core.model.loads import (
    END,
    START,
    DescribedLoad,
    Direction,
    LineLoad,
    NodeLoad,
    PointLoad,
    Position,
    Settlement,
    Strain,
    Vector,
)
from ..core.model.surfaces import AreaLoad, Surface, SurfaceForce, SurfaceLine, SurfaceLoad
from ..core.model.traffic import Traffic
from ..core.model.words import Acts, Carry
from .directions import AXES, DIRECTIONS, NORMAL
from .members import HINGED, RIGID, Family, Style
from .quantities import Units
from .reader import Reading

Data = dict[str, Any]
ORDER = (
    "project", "values", "tables", "grid", "nodes", "materials", "sections", "members", "supports", "diaphragms",
    "surfaces", "floors", "reduction", "wind", "vehicles", "traffic", "cases", "loads", "combinations", "steel",
    "limits", "plausible", "accepted",
)  # fmt: skip
SAME = 1e-12
WAYS = ("way", "ways", "aside", "surface")
WIDEST = 110
LIST = re.compile(r"\[\n((?: +[^\n\[\]{}]*,\n)+) *\]")
"""A list of single values, each on its own line."""


def plain_model(reading: Reading) -> Data:
    """The whole model. Of a sound one: what could not be read is not in it."""
    project, written = reading.project, reading.written
    plain = _Plain(reading)
    loads: dict[str, list[Data]] = {}
    for load in project.loads:
        if not isinstance(load, Settlement):
            loads.setdefault(load.case, []).append(plain.load(load))
    for one in project.surface_loads:
        if not (isinstance(one, AreaLoad) and one.of_floor):
            loads.setdefault(one.case, []).append(plain.surface_load(one))
    families = {name: plain.family(family) for name, family in reading.families.items()}
    for m in project.members:
        families[m.family]["pieces"][m.name[len(m.family) + 1 :]] = plain.piece(m)
    out: Data = {
        **{key: value for key, value in written.items() if key not in ("include", "tables", "makers", "copies")},
        "nodes": {n.name: plain.place(n.xyz) for n in project.nodes if not reading.is_crossing(n.name)},
        "sections": {**written.get("sections", {}), **plain.more_sections(project.members)},
        "members": families,
        "supports": plain.supports(project.supports, [s for s in project.loads if isinstance(s, Settlement)]),
        "diaphragms": {d.name: {"nodes": [plain.nodes[n] for n in d.nodes]} for d in project.diaphragms},
        "surfaces": {s.name: plain.surface(s) for s in project.surfaces},
        "loads": loads,
    }
    if "copies" in written:  # which may have ways of their own
        out["traffic"] = {t.case: plain.traffic(t) for t in project.traffic}
    out["values"] = _needed(out)
    return {key: out[key] for key in ORDER if out.get(key)}


def plain_members(reading: Reading, members: Sequence[int], nodes: Iterable[int]) -> Data:
    """Some members with their nodes, and further nodes: the families they belong to, and the places."""
    plain, project = _Plain(reading), reading.project
    chosen = [project.members[i] for i in members]
    every = sorted({*nodes, *(n for m in chosen for n in (m.start, m.end))})
    names = dict.fromkeys(m.family for m in chosen)
    families = {name: plain.family(reading.families[name]) for name in names}
    for m in chosen:
        families[m.family]["pieces"][m.name[len(m.family) + 1 :]] = plain.piece(m)
    places = {project.nodes[n].name: plain.place(project.nodes[n].xyz) for n in every}
    out: Data = {
        "nodes": {name: place for name, place in places.items() if not reading.is_crossing(name)},
        "sections": plain.more_sections(chosen),
        "members": families,
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


class _Plain:
    """Records as entries, in the units of the project."""

    def __init__(self, reading: Reading) -> None:
        project = reading.project
        self.units = Units(*project.units)
        self.plane = project.plane
        self.families = reading.families
        self.written = reading.written
        self.nodes = [n.name for n in project.nodes]
        self.at = {n.xyz: n.name for n in project.nodes}
        self.members = project.members
        self.whole: dict[str, set[int]] = {}
        for i, m in enumerate(project.members):
            self.whole.setdefault(m.family, set()).add(i)
        self.surfaces = [s.name for s in project.surfaces]
        self.sections = self._names_of_sections(project.members)

    def number(self, value: float, kind: str) -> float | int:
        """A quantity as the shortest bare number that reads as it."""
        by_force, by_length = self.units.bare_factors(kind)
        return _short(value / (by_force * by_length), lambda v: v * by_force * by_length, value)

    def place(self, xyz: Vector) -> list[float | int]:
        """Coordinates."""
        x, y, z = (self.number(v, "length") for v in xyz)
        return [x, z] if self.plane else [x, y, z]

    def point(self, xyz: Vector) -> str | list[float | int]:
        """A point of a surface: a node, or coordinates."""
        return self.at.get(xyz) or [self.number(v, "length") for v in xyz]

    def position(self, p: Position) -> str | float | int:
        """A position along a member."""
        if p.share == 0:
            return self.number(p.offset, "length")
        percent = _short(min(p.share * 100, 100.0), lambda v: v / 100, p.share)
        return (f"{percent:.20f}".rstrip("0").rstrip(".") if "e" in repr(percent) else repr(percent)) + "%"

    # ---- members ---------------------------------------------------------------------------------------------------

    def family(self, family: Family) -> Data:
        """What its members share, and a table for them."""
        own = {key: value for key, value in family.entry.data.items() if key not in ("runs", "pieces")}
        return {**own, "pieces": {}}

    def piece(self, m: Member) -> str | Data:
        """A member between its nodes, with what differs from its family."""
        family = self.families[m.family]
        start, end = self.nodes[m.start], self.nodes[m.end]
        style = Style(m.joints, m.bar, m.roll, m.shear, m.acts, m.offsets)
        usual, own = family.style, Data()
        if m.section != family.section:
            own["section"] = self.sections[id(m.section)]
        if style.bar != usual.bar:
            own["bar"] = style.bar
        if style.joints != usual.joints and not style.bar:
            own["ends"] = self._ends(style.joints)
        if style.roll != usual.roll:
            own["roll"] = _degrees(style.roll)
        if style.shear != usual.shear:
            own["shear"] = style.shear
        if style.acts != usual.acts:
            own["acts"] = str(style.acts or Acts.BOTH)
        if style.offsets != usual.offsets:
            own["offsets"] = [self.number(v, "length") for v in style.offsets]
        return {"between": [start, end], **own} if own else f"{start} > {end}"

    def _ends(self, joints: tuple[float, ...]) -> Any:
        ends = [self._end(joints[:6]), self._end(joints[6:])]
        return ends[0] if ends[0] == ends[1] and isinstance(ends[0], str) else ends

    def _end(self, six: tuple[float, ...]) -> str | Data:
        if six in (RIGID, HINGED):
            return "rigid" if six == RIGID else "hinged"
        out: Data = {}
        free = " ".join(f for f, k in zip(FREEDOMS, six, strict=True) if k == 0)
        if free:
            out["free"] = free
        return out | self._springs({f: k for f, k in zip(FREEDOMS, six, strict=True) if 0 < k < math.inf})

    def _springs(self, stiffness: Data) -> Data:
        return {f: self.number(k, "spring" if f in "xyz" else "turning spring") for f, k in stiffness.items()}

    def _names_of_sections(self, members: Sequence[Member]) -> dict[int, str]:
        """Of every section by what it is, one name each; those that only a maker named may come to share one."""
        of: dict[int, str] = {}
        taken: dict[str, Section] = {}
        for s in (m.section for m in members):
            if id(s) in of:
                continue
            name, k = s.name, 1
            while name in taken and taken[name] != s:
                k += 1
                name = f"{s.name} ({k})"
            taken[name] = s
            of[id(s)] = name
        return of

    def more_sections(self, members: Sequence[Member]) -> Data:
        """Sections that makers and copies made, by shape or as mirror images."""
        written, out = self.written.get("sections", {}), Data()
        for s in (m.section for m in members):
            name = self.sections[id(s)]
            if name in written or name in out or s == self.families_section(s) or find_section(name) is not None:
                continue
            if s.mirror_of:
                out[name] = {"mirror_of": s.mirror_of}
            else:
                sizes = {key: self.number(v, "length") for key, v in s.dimensions}
                out[name] = {"shape": s.shape, **sizes, "made": str(s.made)}
        return out

    def families_section(self, s: Section) -> Section | None:
        """The section of a family that is called so."""
        return next((f.section for f in self.families.values() if f.section.name == s.name), None)

    # ---- supports --------------------------------------------------------------------------------------------------

    def supports(self, supports: Sequence[Support], settlements: Sequence[Settlement]) -> list[Data]:
        """Those that are alike as one entry; the motions of the ground go with the first of each node."""
        motions: dict[int, list[tuple[str, tuple[float, ...]]]] = {}
        for s in settlements:
            for n in s.nodes:
                motions.setdefault(n, []).append((s.case, s.motion))
        alike: dict[Any, list[str]] = {}
        for one in supports:
            turn, signs = _turn_of(np.array(one.axes))
            moved = tuple((case, tuple(np.multiply(signs, m).tolist())) for case, m in motions.pop(one.node, ()))
            alike.setdefault((one.held, one.spring, one.lift, turn, moved), []).append(self.nodes[one.node])
        return [self._support(nodes, *key) for key, nodes in alike.items()]

    def _support(
        self, nodes: list[str], held: tuple[bool, ...], spring: tuple[float, ...], lift: bool,
        turn: tuple[tuple[str, float], ...], moved: tuple[tuple[str, tuple[float, ...]], ...],
    ) -> Data:  # fmt: skip
        words = [f for f in FREEDOMS if not self.plane or f in ("x", "z", "ry")]
        holds = [f for f, h in zip(FREEDOMS, held, strict=True) if h and f in words]
        out: Data = {"at": nodes if len(nodes) > 1 else nodes[0]}
        if holds:
            out["fix"] = {"x y z rx ry rz": "fixed", "x y z": "pinned"}.get(" ".join(holds), " ".join(holds))
        springs = {f: k for f, k in zip(FREEDOMS, spring, strict=True) if k}
        if springs:
            out["spring"] = self._springs(springs)
        if lift:
            out["lift"] = True
        if turn:
            out["turn"] = {axis: _degrees(angle) for axis, angle in turn}
        if moved:
            out["settle"] = [
                {"case": case, **{f: self.number(v, "length") if f in "xyz" else f"{v!r} rad"
                                  for f, v in zip(FREEDOMS, motion, strict=True) if v}}
                for case, motion in moved
            ]  # fmt: skip
        return out

    # ---- surfaces --------------------------------------------------------------------------------------------------

    def surface(self, s: Surface) -> Data:
        """A surface by its corners."""
        out: Data = {"corners": [self.point(p) for p in s.corners]}
        if s.openings:
            out["openings"] = [[self.point(p) for p in loop] for loop in s.openings]
        if s.carry == Carry.NODES:
            out["carry"] = str(s.carry)
        else:
            out["deck"] = s.deck if isinstance(s.deck, str) else self._deck(s.deck)
            if s.bearing is not None:
                out["bearing"] = self.on(s.bearing)
        if s.floor:
            out["floor"] = s.floor
        return out

    def _deck(self, way: Vector) -> Any:
        axis = next((a for a, v in AXES.items() if v == way), None)
        if axis is not None:
            return axis
        if way[2] == 0:
            return _degrees(math.atan2(way[1], way[0]))
        return [[0, 0, 0], [self.number(v, "length") for v in way]]

    def traffic(self, one: Traffic) -> Data:
        """A traffic with its ways."""
        out: Data = {key: v for key, v in self.written["traffic"][one.case].items() if key not in WAYS}
        out["ways"] = [
            [self.members[m].name for m in way.members] if way.members else [self.point(p) for p in way.points]
            for way in one.ways
        ]
        if any(way.aside for way in one.ways):
            out["aside"] = [self.number(way.aside, "length") for way in one.ways]
        surfaces = dict.fromkeys(self.surfaces[s] for way in one.ways for s in way.surfaces)
        return out | ({"surface": list(surfaces)} if surfaces else {})

    # ---- loads -----------------------------------------------------------------------------------------------------

    def on(self, members: Sequence[int]) -> str | list[str]:
        """A selector of members: families where all of them are meant, else names."""
        left, out = set(members), list[str]()
        for family in dict.fromkeys(self.members[i].family for i in members):
            if self.whole[family] <= left:
                out.append(family)
                left -= self.whole[family]
        out += [self.members[i].name for i in members if i in left]
        return out if len(out) != 1 else out[0]

    def direction(self, d: Direction, normal: bool = False) -> Data:
        """`dir`, unless it is down."""
        if d.vector == DIRECTIONS["down"].vector and not d.local:
            return {}
        words = NORMAL if normal and d.local else DIRECTIONS
        word = next((w for w, other in words.items() if other.vector == d.vector and other.local == d.local), None)
        return {"dir": word if word is not None else [_short(v, float, v) for v in d.vector]}

    def load(self, load: DescribedLoad) -> Data:
        """A load on members or nodes."""
        match load:
            case LineLoad():
                out: Data = {"on": self.on(load.members), "line": self._line(load)}
                return out | self.direction(load.direction) | ({"per": "projected"} if load.projected else {})
            case PointLoad():
                at = [self.position(p) for p in load.positions]
                out = {"on": self.on(load.members), load.kind: self.number(load.value, load.kind)}
                out["at"] = at if len(at) > 1 else at[0]
                return out | self._about(load)
            case NodeLoad():
                nodes = [self.nodes[n] for n in load.nodes]
                out = {"on": nodes if len(nodes) > 1 else nodes[0], load.kind: self.number(load.value, load.kind)}
                return out | self._about(load)
            case Strain():
                of = {"warm": "temperature", "gradient_y": "gradient", "gradient_z": "gradient", "misfit": "length"}
                changes = {key: self.number(getattr(load, key), kind) for key, kind in of.items() if getattr(load, key)}
                return {"on": self.on(load.members), **(changes or {"warm": 0})}
        raise TypeError(load)

    def _about(self, load: PointLoad | NodeLoad) -> Data:
        """A moment always says its axis."""
        out = self.direction(load.direction)
        return out or ({"dir": "-z"} if load.kind == "moment" else {})

    def _line(self, load: LineLoad) -> Any:
        values = [self.number(v, "line") for _, v in load.points]
        if [p for p, _ in load.points] == [START, END]:
            return values[0] if values[0] == values[1] else values
        return [[self.position(p), v] for (p, _), v in zip(load.points, values, strict=True)]

    def surface_load(self, load: SurfaceLoad) -> Data:
        """A load on a surface."""
        out: Data = {"on": self.surfaces[load.surface]}
        if isinstance(load, AreaLoad):
            a, b = (self.number(v, "pressure") for v in load.values)
            out["area"] = a if a == b else [a, b]
            if a != b:
                out["along"] = [self.point(p) for p in load.between]
            if load.part:
                out["part"] = [self.point(p) for p in load.part]
            out |= {"per": "projected"} if load.projected else {}
        elif isinstance(load, SurfaceForce):
            out |= {"force": self.number(load.value, "force"), "at": self.point(load.at)}
        elif isinstance(load, SurfaceLine):
            values = [self.number(v, "line") for v in load.values]
            begin, end = (self.point(p) for p in load.between)
            out |= {"line": values[0] if values[0] == values[1] else values, "from": begin, "to": end}
        return out | self.direction(load.direction, normal=True)


def _short(near: float, read: Callable[[float], float], value: float) -> float | int:
    """The number with the fewest figures, near to one, that reads as a value; where none does, the nearest."""
    tried = [float(f"{near:.{figures}g}") for figures in (12, 14, 15, 16)]
    tried += [near, math.nextafter(near, math.inf), math.nextafter(near, -math.inf)]
    short = next((v for v in tried if read(v) == value), near)
    return int(short) if short.is_integer() and abs(short) < 1e15 else short


def _degrees(angle: float) -> float | int:
    return _short(math.degrees(angle), math.radians, angle)


def _turn_of(axes: NDArray[np.float64]) -> tuple[tuple[tuple[str, float], ...], tuple[float, ...]]:
    """The angles [rad] about x, y and z, one after another, that turn global axes into these (rows), and the signs of a
    motion in them: axes x and y may both point the other way, as what holds has no sign."""
    best: tuple[tuple[tuple[str, float], ...], tuple[float, ...]] | None = None
    for sign in (1.0, -1.0):
        R = (axes * np.array([[sign], [sign], [1.0]])).T
        level = math.hypot(R[2, 1], R[2, 2])
        b = math.atan2(-R[2, 0], level)
        a = math.atan2(R[2, 1], R[2, 2]) if level > SAME else 0.0
        c = math.atan2(R[1, 0], R[0, 0]) if level > SAME else math.atan2(-R[0, 1], R[1, 1])
        turn = tuple((axis, angle) for axis, angle in zip("xyz", (a, b, c), strict=True) if abs(angle) > SAME)
        if best is None or len(turn) < len(best[0]):
            best = turn, (sign, sign, 1.0, sign, sign, 1.0)
    assert best is not None
    return best
