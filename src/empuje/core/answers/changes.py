"""What differs between two models: what is written in each, the loads that come of it, and values that follow.

>>> changes(facts(old), facts(new))                                        # doctest: +SKIP
[Change(part=Part.MEMBER, group='columns', names=(...), of='section', before='HEA 260', after='HEA 280', ...)]
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..model.frame import FREEDOMS, Member, Support
from ..model.words import Part
from ..resolved import Resolved
from .load_sums import NODES, load_sums
from .on_plates import by_source, surface_of_rows
from .table import Kind

Floats = NDArray[np.float64]
Value = str | float | None
Facts = dict[Part, dict[str, tuple[str, dict[str, tuple[Value, Kind]]]]]
"""By part and name: the group it belongs to, and what it is, each with its kind of quantity."""
SAME = 1e-9
"""Written values that differ by less than this share are the same."""
ROUNDED, SAME_PLACE = 1e-6, 1e-4
"""Loads are compared to so much of the largest, and to such a distance [m]."""
TOTALS = ("Fx", "Fy", "Fz")


@dataclass(frozen=True)
class Change:
    """What changed: of which part, in which group (a family, a case), of whom by name, from what to what, SI.

    `of` is empty where something was added or is gone: `before` or `after` is then None and the other describes it.
    `turned`: a limit that was met and is not any more (or, False, the other way round). `made_by`: under what, of
    governing values; `of_largest`: their size beside the largest of their kind in either model.
    """

    part: Part
    group: str
    names: tuple[str, ...]
    of: str
    before: Value
    after: Value
    kind: Kind = "text"
    turned: bool | None = None
    made_by: tuple[str, str] = ("", "")
    of_largest: float = 1.0

    @property
    def share(self) -> float:
        """By how much a value grew, as a share of what it was; NaN where that says nothing."""
        if not isinstance(self.before, float) or not isinstance(self.after, float) or not self.before:
            return math.nan
        return self.after / self.before - 1.0


def facts(model: Resolved) -> Facts:
    """What is written in a model, as it is analysed."""
    project = model.project
    nodes = project.nodes
    plane = (0, 2) if project.plane else (0, 1, 2)
    out: Facts = {part: {} for part in Part}
    out[Part.MODEL]["the model"] = ("", {
        "title": (project.title, "text"), "space": ("plane" if project.plane else "3D", "text"),
        "second order": (" ".join(project.second_order) or "none", "text"),
        "wind": (str(project.wind.code) if project.wind else "none", "text"),
        "snow": (str(project.snow.code) if project.snow else "none", "text"),
        "steel": (str(project.steel.code) if project.steel else "none", "text"),
        **{name: (value, "text") for name, value in vars(project.about).items()},
    })  # fmt: skip
    for n in nodes:
        out[Part.NODE][n.name] = ("", {"xyz"[k]: (n.xyz[k], "length") for k in plane})
    for m in project.members:
        out[Part.SECTION][m.section.name] = ("", {
            "A": (m.section.A, "area"), "Iy": (m.section.Iy, "inertia"), "Iz": (m.section.Iz, "inertia"),
            "J": (m.section.J, "inertia"),
        })  # fmt: skip
        out[Part.MATERIAL][m.material.name] = ("", {
            "E": (m.material.E, "stress"), "G": (m.material.G, "stress"), "density": (m.material.density, "number"),
        })  # fmt: skip
    for m, length in zip(project.members, project.lengths.tolist(), strict=True):
        out[Part.MEMBER][m.name] = (m.family, _member(m, length))
    at: dict[str, int] = {}
    for s in project.supports:
        name = nodes[s.node].name
        at[name] = at.get(name, 0) + 1
        out[Part.SUPPORT][name if at[name] == 1 else f"{name} ({at[name]})"] = ("", _support(s, project.plane))
    for c in project.cases:
        out[Part.CASE][c.name] = ("", {
            "action": (c.action, "text"), "title": (c.title, "text"), "self-weight": (c.self_weight, "factor"),
            "notional": (c.notional, "factor"),
        })  # fmt: skip
    for made in model.combinations:
        out[Part.COMBINATION][made.name] = (made.set, {
            "made of": (made.formula, "text"), "set": (made.set, "text"), "source": (made.comes_from, "text"),
        })  # fmt: skip
    return out


def _member(m: Member, length: float) -> dict[str, tuple[Value, Kind]]:
    return {
        "section": (m.section.name, "text"), "material": (m.material.name, "text"), "length": (length, "length"),
        "roll": (m.roll, "angle"), "ends": (_ends(m.joints), "text"), "acts": (str(m.acts), "text"),
        "bar": ("yes" if m.bar else "no", "text"), "shear": ("yes" if m.shear else "no", "text"),
        "joined": ("yes" if m.joined else "no", "text"), "offset at its start": (m.offsets[0], "length"),
        "offset at its end": (m.offsets[1], "length"),
    }  # fmt: skip


def _ends(joints: Sequence[float]) -> str:
    """Both ends in words: what is free and what is on springs."""
    out = []
    for first in (0, 6):
        own = joints[first : first + 6]
        free = [f for f, k in zip(FREEDOMS, own, strict=True) if k == 0]
        sprung = [f"{f} {k:.6g}" for f, k in zip(FREEDOMS, own, strict=True) if 0 < k < math.inf]
        words = (["free " + " ".join(free)] if free else []) + (["springs " + " ".join(sprung)] if sprung else [])
        out.append(", ".join(words) or "rigid")
    return out[0] if out[0] == out[1] else f"{out[0]} / {out[1]}"


def _support(s: Support, plane: bool) -> dict[str, tuple[Value, Kind]]:
    wanted = (0, 2, 4) if plane else range(6)
    held = " ".join(FREEDOMS[k] for k in wanted if s.held[k]) or "nothing"
    out: dict[str, tuple[Value, Kind]] = {"held": (held, "text"), "lift": ("yes" if s.lift else "no", "text")}
    for k in wanted:
        out[f"spring {FREEDOMS[k]}"] = (s.spring[k], "spring" if k < 3 else "turning spring")
    turned = " ".join(f"{v:.6g}" for row in s.axes for v in row)
    out["axes"] = (turned, "text")
    return out


def changes(old: Facts, new: Facts) -> list[Change]:
    """What was added, is gone or is otherwise; what changed alike in one group as one."""
    out: list[Change] = []
    for part in Part:
        groups: dict[tuple[str, str, Value, Value, Kind], list[str]] = {}
        a, b = old.get(part, {}), new.get(part, {})
        for name in dict.fromkeys([*a, *b]):
            if name not in a or name not in b:
                group, own = a.get(name) or b[name]
                words = _described(part, own)
                key = (group, "", words if name in a else None, words if name in b else None, "text")
                groups.setdefault(key, []).append(name)  # type: ignore[arg-type]
                continue
            group = b[name][0]
            for of in dict.fromkeys([*a[name][1], *b[name][1]]):
                before, kind = a[name][1].get(of, (None, "text"))
                after, kind = b[name][1].get(of, (None, kind))
                if not _same(before, after):
                    groups.setdefault((group, of, before, after, kind), []).append(name)
        out += [Change(part, g, tuple(names), of, x, y, kind) for (g, of, x, y, kind), names in groups.items()]
    return out


def _described(part: Part, own: Mapping[str, tuple[Value, Kind]]) -> str:
    """What something added or gone is, in words that are alike for those alike."""
    wanted = {Part.MEMBER: ("section", "material", "ends"), Part.SUPPORT: ("held",), Part.CASE: ("action", "title"),
              Part.COMBINATION: ("made of",), Part.WRITTEN: ("value",), Part.DECISION: ("taken",)}  # fmt: skip
    return ", ".join(str(own[key][0]) for key in wanted.get(part, ()) if own[key][0])


def _same(a: Value, b: Value) -> bool:
    if isinstance(a, float) and isinstance(b, float):
        return a == b or abs(a - b) <= SAME * max(abs(a), abs(b))
    return a == b


def load_changes(old: Resolved, new: Resolved) -> list[Change]:
    """By case and family: sums of forces [N] that differ by more than rounding beside the case's largest, and places
    where they act [m], by more than loads are told apart by; and loads with the same sums that are placed otherwise."""
    out: list[Change] = []
    sums = [_sums(model) for model in (old, new)]
    rows = [_rows(model) for model in (old, new)]
    largest: dict[str, float] = {}
    for each in sums:
        for (case, _), values in each.items():
            largest[case] = max(largest.get(case, 0.0), float(np.abs(values[:3]).max()))
    known = (set(old.project.case_names), set(new.project.case_names))
    for key in dict.fromkeys([*sums[0], *sums[1], *rows[0], *rows[1]]):
        case, family = key
        if case not in known[0] & known[1]:
            continue
        a, b = (each.get(key, np.full(6, np.nan)) for each in sums)
        nothing, told = ROUNDED * largest.get(case, 0.0), False
        for k, (of, kind) in enumerate((*((f, "force") for f in TOTALS), *((f"centre {c}", "length") for c in "xyz"))):
            before, after = (0.0 if math.isnan(v) and k < 3 else float(v) for v in (a[k], b[k]))
            if math.isnan(before) and math.isnan(after):
                continue
            apart = nothing if k < 3 else SAME_PLACE
            if math.isnan(before) or math.isnan(after) or abs(after - before) > apart:
                if k >= 3 and (math.isnan(before) or math.isnan(after) or _largest(a, b) <= nothing):
                    continue  # the sums say it, or there is nothing that has a place
                told = True
                out.append(Change(Part.LOAD, case, (family,), of, before, after, kind))  # type: ignore[arg-type]
        if not told and rows[0].get(key) != rows[1].get(key):
            out.append(Change(Part.LOAD, case, (family,), "placing", "as it was", "otherwise, with the same sums"))
    return out


def _largest(a: Floats, b: Floats) -> float:
    """The largest force of two sums."""
    return float(np.nan_to_num(np.abs([a[:3], b[:3]])).max())


def _sums(model: Resolved) -> dict[tuple[str, str], Floats]:
    """By case and family: Fx Fy Fz [N], and the places x y z [m] at which they act."""
    project = model.project
    every, nodes, surfaces = (np.arange(len(own)) for own in (project.members, project.nodes, project.surfaces))
    table = load_sums(model, [r for r in model.results if r.is_case], every, nodes, surfaces, "family")
    values = np.column_stack([table[head] for head in (*TOTALS, "x", "y", "z")]) if len(table) else np.zeros((0, 6))
    return {(c, f): v for c, f, v in zip(table["case"], table["family"], values, strict=True)}


def _rows(model: Resolved) -> dict[tuple[str, str], list[tuple[object, ...]]]:
    """By case and family: every load as it is, in an order of its own. Places in 0.1 mm, values in 6 figures."""
    project, loads = model.project, model.loads
    names, cases = [m.name for m in project.members], project.case_names
    families = [m.family for m in project.members]
    out: dict[tuple[str, str], list[tuple[object, ...]]] = {}

    def add(case: NDArray[np.intp], on: Sequence[str], group: Sequence[str], places: Floats, values: Floats) -> None:
        for c, who, g, place, value in zip(
            case.tolist(), on, group, np.round(places, 4).tolist(), values.tolist(), strict=True
        ):
            if c < len(cases):
                words = (who, *place, *(float(f"{v:.5e}") for v in value))
                out.setdefault((cases[c], g), []).append(words)

    none = np.zeros((0, 0))
    for t, places, values in (
        (loads.lines, np.column_stack([loads.lines.s0, loads.lines.s1]), np.hstack([loads.lines.q0, loads.lines.q1])),
        (loads.points, loads.points.s[:, None], loads.points.f),
        (loads.strains, np.zeros((len(loads.strains.member), 0)), loads.strains.v),
    ):
        m = t.member.tolist()
        add(t.case, [names[i] for i in m], [families[i] for i in m], places, values)
    of_surface = surface_of_rows(project, loads)
    first, total = by_source(loads, np.flatnonzero(of_surface >= 0))
    own = [project.surfaces[i].name for i in of_surface[first].tolist()]
    add(loads.nodes.case[first], own, own, np.zeros((len(own), 0)), total)
    at_nodes = loads.nodes.take(of_surface < 0)
    for at, values in ((at_nodes, at_nodes.f), (loads.settlements, loads.settlements.d)):
        own = [project.nodes[n].name for n in at.node.tolist()]
        add(at.case, own, [NODES] * len(own), none.reshape(len(own), 0), values)
    return {key: sorted(rows, key=str) for key, rows in out.items()}


Governing = dict[tuple[str, str, str], tuple[float, Kind, str]]
"""By group, name and what of it: a value [SI], its kind, and under what."""


def value_changes(part: Part, old: Governing, new: Governing, tolerance: float) -> list[Change]:
    """Governing values of both models that differ by more than a share of the larger of the two; those that are nothing
    beside the largest of their kind are left out."""
    largest: dict[str, float] = {}
    for value, kind, _ in (*old.values(), *new.values()):
        largest[kind] = max(largest.get(kind, 0.0), abs(value))
    out = []
    for key in dict.fromkeys([*old, *new]):
        group, name, of = key
        before, after = old.get(key), new.get(key)
        kind = (before or after or (0.0, "number", ""))[1]
        a, b = (None if v is None else v[0] for v in (before, after))
        size = max(abs(a or 0.0), abs(b or 0.0))
        if size <= 1e-6 * largest[kind] or abs((a or 0.0) - (b or 0.0)) <= tolerance * size:
            continue
        made_by = (before[2] if before else "", after[2] if after else "")
        share = size / largest[kind]
        out.append(Change(part, group, (name,), of, a, b, kind, made_by=made_by, of_largest=share))
    return out
