"""The loads of a case, drawn on the frame where they act and the way they point."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.actions.totals import applied_totals
from ...core.answers.on_plates import surface_of_rows
from ...core.model.findings import listed
from ...core.model.loads import PlainLoads
from ...core.model.results import Result
from ...core.resolved import Resolved
from ..display import Display
from .canvas import LOAD, OWN, POINT, Sheet, Tops, in_words, span
from .draw_pressures import draw_areas
from .draw_vehicle import draw_vehicles
from .symbols import draw_supports
from .view import View

Floats = NDArray[np.float64]
LINE_HEIGHT, FORCE_LENGTH = 0.075, 0.085
"""The largest line load and force, as a share of the drawing."""
NOTHING = 1e-9
"""Loads below this share of the largest are what is left of others that cancel."""


def draw_loads(
    model: Resolved, result: Result, members: NDArray[np.intp], view: View, display: Display,
    apart: bool = False, tops: Tops = OWN,
) -> Sheet:  # fmt: skip
    """Loads of one case, or the factored loads of one combination. What acts along one line is added up, on members and
    at points, unless drawn `apart`. `tops`: what is drawn highest, where pictures share it."""
    project, loads = model.project, model.loads
    weights = model.weights([result])[:, 0]
    title = f"loads of {result.name}"
    sheet = Sheet(project, view, members, title, result.title)
    sheet.frame()
    draw_supports(sheet, False)
    sheet.grid()
    chosen = np.zeros(len(project.members), bool)
    chosen[members] = True
    q_max = _lines(sheet, loads, weights, chosen, display, apart, tops)
    _points(sheet, loads, weights, chosen, display, apart, tops)
    _on_plates(sheet, model, result, display, tops)
    key = _sums(sheet, model, loads, weights, display, "all loads together")
    if not chosen.all():
        shown = PlainLoads(
            loads.lines.take(chosen[loads.lines.member]), loads.points.take(chosen[loads.points.member]),
            loads.nodes.take(_shown(sheet, loads)),
        )  # fmt: skip
        key = _sums(sheet, model, shown, weights, display, "loads shown") + f"; {key}"
    _marks(sheet, loads, weights, chosen, display)
    if q_max:
        q_max = max(q_max, tops.get("line", 0.0))
        key = f"tallest band {q_max * display.factor('line'):.4g} {display.unit('line')}; " + key
    sheet.say(key)
    return sheet


def _on_plates(sheet: Sheet, model: Resolved, result: Result, display: Display, tops: Tops) -> None:
    """Loads on structural surfaces where they were written; those on other surfaces are on the members they come to."""
    weight = dict(result.factors)
    own = {i for i, s in enumerate(model.project.surfaces) if s.plate is not None} & set(model.surfaces)
    if not own or sheet.view.alone:
        return
    found = model.surface_loads([name for name, w in weight.items() if w])
    draw_areas(sheet, model.surfaces, [(load, weight[load.case]) for load in found if load.surface in own], display,
               tops=tops)  # fmt: skip
    traffic = model.project.traffic
    rolls = {s.case for s in model.project.standings for w in traffic[s.traffic].ways if own & set(w.surfaces)}
    if any(weight.get(case) for case in rolls):
        draw_vehicles(sheet, model, result, display)
    heavy = [
        name for name, w in weight.items() if w and any(c.name == name and c.self_weight for c in model.project.cases)
    ]
    if heavy:
        names = listed([model.project.surfaces[i].name for i in sorted(own)], 4)
        sheet.say(f"self-weight of {names} is not drawn")


def _shown(sheet: Sheet, loads: PlainLoads) -> NDArray[np.bool_]:
    """Which loads at nodes (rows,) are at nodes that are shown; none on structural surfaces."""
    out = surface_of_rows(sheet.project, loads) < 0
    out[out] = sheet.shown_nodes()[loads.nodes.node[out]]
    return out


def _sums(sheet: Sheet, model: Resolved, loads: PlainLoads, weights: Floats, display: Display, what: str) -> str:
    """Forces in words."""
    total = applied_totals(sheet.project, loads, np.zeros(3), model.load_columns)[:3] @ weights
    return f"{what} {in_words(total * display.factor('force'))} {display.unit('force')}"


@dataclass(frozen=True)
class _Lines:
    """Line loads as they are drawn (n): member, source, from s0 to s1 [m], q0 to q1 (n, 3)."""

    member: NDArray[np.intp]
    source: NDArray[np.intp]
    s0: Floats
    s1: Floats
    q0: Floats
    q1: Floats


def _added_up(lines: _Lines) -> _Lines:
    """The lines added up on every member, where they act along one line."""
    parts = [_Lines(*(getattr(lines, f.name)[:0] for f in fields(_Lines)))]
    way = _axis(np.where(np.abs(lines.q0).sum(axis=1, keepdims=True) > 0, lines.q0, lines.q1))
    groups: dict[tuple[Any, ...], list[int]] = {}
    for i in range(len(way)):
        if lines.s1[i] > lines.s0[i]:
            groups.setdefault((lines.member[i], *way[i]), []).append(int(i))
    for (member, *_), of in groups.items():
        s = np.unique(np.round(np.concatenate([lines.s0[of], lines.s1[of]]), 9))
        middle = (s[1:] + s[:-1]) / 2
        ends = []
        for x in (s[:-1], s[1:]):
            t = (x - lines.s0[of, None]) / (lines.s1[of, None] - lines.s0[of, None])
            there = (lines.s0[of, None] < middle) & (middle < lines.s1[of, None])
            q = lines.q0[of, None] + t[..., None] * (lines.q1[of] - lines.q0[of])[:, None]
            ends.append(np.where(there[..., None], q, 0.0).sum(axis=0))
        n = len(middle)
        parts.append(_Lines(np.full(n, member), np.full(n, lines.source[of[0]]), s[:-1], s[1:], *ends))
    return _Lines(*(np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(_Lines)))


def _axis(vectors: Floats) -> Floats:
    """The line each vector (n, 3) acts along: its direction or the opposite one, so that both are the same."""
    unit = vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-300)
    unit = np.round(unit, 6) + 0.0
    first = unit[np.arange(len(unit)), (unit != 0).argmax(axis=1)]
    return np.asarray(np.where(first < 0, -1.0, 1.0)[:, None] * unit + 0.0)


def _lines(
    sheet: Sheet, loads: PlainLoads, weights: Floats, chosen: NDArray[np.bool_], display: Display, apart: bool,
    tops: Tops,
) -> float:  # fmt: skip
    project = sheet.project
    factor = weights[loads.lines.case][:, None]
    acting = np.flatnonzero(factor[:, 0])
    lines = _Lines(
        loads.lines.member[acting], loads.lines.source[acting], loads.lines.s0[acting], loads.lines.s1[acting],
        (loads.lines.q0 * factor)[acting], (loads.lines.q1 * factor)[acting],
    )  # fmt: skip
    if not apart:
        lines = _added_up(lines)
    q0, q1 = lines.q0, lines.q1
    size = np.maximum(np.linalg.norm(q0, axis=1), np.linalg.norm(q1, axis=1))
    shown = np.flatnonzero((size > NOTHING * size.max(initial=0)) & chosen[lines.member])
    if not len(shown):
        return 0.0
    sheet.tops["line"] = float(size[shown].max())
    scale = LINE_HEIGHT * sheet.size / max(tops.get("line", 0.0), size[shown].max())
    tails, tips, bands, crests = [], [], [], []
    stacked: dict[tuple[Any, ...], dict[int, float]] = {}
    said: set[tuple[Any, ...]] = set()
    values = _said_once(lines, shown)
    for i in shown.tolist():
        m, source = lines.member[i], lines.source[i]
        start = project.xyz[project.members[m].start]
        x = project.axes[m, 0]
        a, b = start + lines.s0[i] * x, start + lines.s1[i] * x
        # Different loads that act on a member in the same direction stand on each other's shoulders.
        largest = q0[i] if np.linalg.norm(q0[i]) >= np.linalg.norm(q1[i]) else q1[i]
        way = largest / size[i]
        heights = stacked.setdefault((m, *np.round(way, 3)), {})
        foot = -scale * way * sum(h for other, h in heights.items() if other != source)
        heights[source] = max(heights.get(source, 0.0), size[i])
        count = max(2, round(float(np.linalg.norm(b - a)) / (0.035 * sheet.size)) + 1)
        t = np.linspace(0, 1, count)[:, None]
        tip = a + t * (b - a) + foot
        tail = tip - scale * (q0[i] + t * (q1[i] - q0[i]))
        tips.append(tip)
        tails.append(tail)
        bands.append(np.vstack([tip, tail[::-1]]))
        crests.append(tail)
        if i in values:
            v0, v1 = values[i]
            key = (source, round(max(v0, v1), 6))
            if key not in said:
                said.add(key)
                words = span(v0 * display.factor("line"), v1 * display.factor("line"))
                sheet.label(tail[count // 2], f"{words} {display.unit('line')}", LOAD, float(size[i] / size.max()))
    sheet.areas(bands, LOAD, strength=0.15)
    sheet.lines(crests, LOAD, 0.9, order=3)
    sheet.arrows(np.vstack(tails), np.vstack(tips), LOAD, width=0.7)
    return float(size[shown].max())


def _said_once(lines: _Lines, shown: NDArray[np.intp]) -> dict[int, tuple[float, float]]:
    """What is written beside loads: of pieces that go on in one another and only grow, or only shrink, the values at
    both ends, at the middle one; else of each piece its own."""
    first, last = (np.linalg.norm(q, axis=1) for q in (lines.q0, lines.q1))
    runs: list[list[int]] = []
    for i in shown.tolist():
        j = runs[-1][-1] if runs else i
        close = 1e-6 * max(float(last[j]), float(first[i]))
        follows = (
            i != j and lines.member[i] == lines.member[j] and lines.source[i] == lines.source[j]
            and abs(lines.s0[i] - lines.s1[j]) < 1e-6 and np.linalg.norm(lines.q0[i] - lines.q1[j]) <= close
            and (last[i] - first[i]) * (last[j] - first[runs[-1][0]]) >= -(close**2)
        )  # fmt: skip
        if follows:
            runs[-1].append(i)
        else:
            runs.append([i])
    return {run[len(run) // 2]: (float(first[run[0]]), float(last[run[-1]])) for run in runs}


def _summed(at: Floats, v: Floats) -> tuple[Floats, Floats]:
    """Vectors (n, 3) at one place along one line, added up."""
    some = np.linalg.norm(v, axis=1) > 0
    at, v = at[some], v[some]
    key = np.column_stack([np.round(at, 4), _axis(v)])
    _, first, of = np.unique(key, axis=0, return_index=True, return_inverse=True)
    total = np.zeros((len(first), 3))
    np.add.at(total, of.ravel(), v)
    order = np.argsort(first)
    return at[first[order]], total[order]


def _points(
    sheet: Sheet, loads: PlainLoads, weights: Floats, chosen: NDArray[np.bool_], display: Display, apart: bool,
    tops: Tops,
) -> None:  # fmt: skip
    project = sheet.project
    on = chosen[loads.points.member]
    m = loads.points.member[on]
    at = project.xyz[project.ends[m, 0]] + loads.points.s[on, None] * project.axes[m, 0]
    here = np.zeros(len(project.nodes), bool)
    here[project.ends[chosen].ravel()] = True
    near = surface_of_rows(project, loads) < 0
    near[near] = here[loads.nodes.node[near]]
    at = np.vstack([at, project.places[loads.nodes.node[near]]])
    f = np.vstack([
        loads.points.f[on] * weights[loads.points.case[on], None],
        loads.nodes.f[near] * weights[loads.nodes.case[near], None],
    ])  # fmt: skip
    reach = FORCE_LENGTH * sheet.size
    for first, kind, colour in ((0, "force", POINT), (3, "moment", POINT)):
        where, v = (at, f[:, first : first + 3]) if apart else _summed(at, f[:, first : first + 3])
        size = np.linalg.norm(v, axis=1)
        acting = size > NOTHING * size.max(initial=0)
        if not acting.any():
            continue
        unit = v[acting] / size[acting, None]
        highest = max(tops.get(kind, 0.0), size.max())
        sheet.tops[kind] = float(size.max())
        long = reach * (0.45 + 0.55 * size[acting] / highest)[:, None]
        tips, tails = where[acting], where[acting] - unit * long
        if kind == "moment":
            sheet.curls(tips, unit, colour)
        else:
            sheet.arrows(tails, tips, colour, order=5, width=1.8)
        beside = tails if kind == "force" else tips + 0.04 * sheet.size * sheet.view.up
        for spot, value in zip(beside, size[acting], strict=True):
            text = f"{value * display.factor(kind):.4g} {display.unit(kind)}"
            sheet.label(spot, text, colour, 2.0 + float(value / size.max()))


def _marks(sheet: Sheet, loads: PlainLoads, weights: Floats, chosen: NDArray[np.bool_], display: Display) -> None:
    """Temperatures and lacks of fit as words on their members, settlements as arrows of one length with their size."""
    project = sheet.project
    names = ("temperature", "gradient y", "gradient z", "lack of fit")
    kinds = ("temperature", "gradient", "gradient", "displacement")
    for i in np.flatnonzero(chosen[loads.strains.member] & (weights[loads.strains.case] != 0)):
        m = loads.strains.member[i]
        values = loads.strains.v[i] * weights[loads.strains.case[i]]
        words = [
            f"{name} {v * display.factor(kind):.3g} {display.unit(kind)}"
            for name, kind, v in zip(names, kinds, values, strict=True)
            if v
        ]
        ends = project.xyz[project.ends[m]]
        sheet.lines([ends], LOAD, 3.0, order=3)
        sheet.label(ends.mean(axis=0), ", ".join(words), LOAD, 1.5)
    for i in np.flatnonzero(weights[loads.settlements.case] != 0):
        motion = loads.settlements.d[i] * weights[loads.settlements.case[i]]
        at = project.xyz[loads.settlements.node[i]]
        for first, kind in ((0, "displacement"), (3, "rotation")):
            v = motion[first : first + 3]
            size = float(np.linalg.norm(v))
            if size:
                tip = at + v / size * 0.06 * sheet.size
                if first:
                    sheet.curls(at[None], (v / size)[None], POINT)
                else:
                    sheet.arrows(at[None], tip[None], POINT, order=5, width=1.8)
                sheet.label(tip, f"{size * display.factor(kind):.3g} {display.unit(kind)}", POINT, 3.0)
