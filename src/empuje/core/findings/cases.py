"""Cases that pull where they should press, that hold something twice, or that are out of all proportion."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..actions.totals import applied_totals
from ..model.cases import CUSTOM, Case, Combination
from ..model.findings import Finding, listed
from ..model.loads import LineLoad, NodeLoad, PointLoad
from ..model.project import GRAVITY
from ..model.surfaces import AreaLoad, SurfaceForce, SurfaceLine
from ..model.words import Stage
from ..resolved import Resolved
from .telling import note, warn

Floats = NDArray[np.float64]
GRAVITY_ACTIONS = ("dead", "live", "roof live", "snow", "rain")
PERMANENT = ("dead", "prestress", "soil", "settlement")
LEAST_FORCE = 1.0
"""Forces [N] that are none beside those of a building."""
APART = 1000.0
"""Totals of cases of gravity loads that are so many times those of others."""


def of_cases(resolved: Resolved) -> list[Finding]:
    """Signs, doubles and proportions of cases and combinations."""
    totals = total_forces(resolved)
    checks = (_upward, _wind_down, _along, _expected, _proportions, _heavy, _nothing)
    found = [f for check in checks for f in check(resolved, totals)]
    return [*found, *_twice(resolved), *_weight_twice(resolved), *_no_variable(resolved), *_alike(resolved)]


def _alike(resolved: Resolved) -> Iterator[Finding]:
    """Cases and combinations whose names differ in capitals only: files called after them are one on many systems."""
    known: dict[str, str] = {}
    every: list[Case | Combination] = [*resolved.project.cases, *resolved.combinations]
    for one in every:
        other = known.setdefault(one.name.casefold(), one.name)
        if other != one.name:
            yield warn(
                "names-alike",
                f"{one.name} and {other} differ in capitals only",
                "rename one: files called after them are the same on many systems",
                one.place,
                one.name,
            )


def _nothing(resolved: Resolved, totals: Floats) -> Iterator[Finding]:
    """Cases whose forces cancel, such as those of a part and of its mirror image."""
    sizes = sizes_of_forces(resolved)
    for case, total, size in zip(resolved.project.cases, totals, sizes, strict=True):
        if size > LEAST_FORCE and np.linalg.norm(total) < 1e-6 * size:
            yield note(
                "sums-to-nothing",
                f"the forces of case {case.name}, {size / 1e3:.4g} kN in all, sum to nothing",
                "look at their directions with `empuje draw loads`, unless they are intended to be in balance",
                case.place,
                case.name,
            )


def sizes_of_forces(resolved: Resolved) -> Floats:
    """The sizes of the forces of every case added up whatever their directions (cases,) [N]; of a line load that
    changes sign that of its two ends' mean."""
    loads = resolved.loads
    length = loads.lines.s1 - loads.lines.s0
    size = np.zeros(max(resolved.load_columns, 1))
    for case, force in (
        (loads.lines.case, np.linalg.norm(loads.lines.q0 + loads.lines.q1, axis=1) * length / 2),
        (loads.points.case, np.linalg.norm(loads.points.f[:, :3], axis=1)),
        (loads.nodes.case, np.linalg.norm(loads.nodes.f[:, :3], axis=1)),
    ):
        size += np.bincount(case, force, minlength=len(size))
    return size[: len(resolved.project.cases)]


def total_forces(resolved: Resolved) -> Floats:
    """The resultant force of the loads of every case (cases, 3) [N], self-weight among them."""
    project = resolved.project
    totals = applied_totals(project, resolved.loads, np.zeros(3), resolved.load_columns)
    return np.asarray(totals[:3, : len(project.cases)].T)


def _upward(resolved: Resolved, totals: Floats) -> Iterator[Finding]:
    """Loads of gravity that act upward: each as it is written."""
    project, loads = resolved.project, resolved.loads
    gravity = np.array([c.action in GRAVITY_ACTIONS and not c.notional for c in project.cases], bool)
    sources: dict[int, int] = {}
    for rows, force in (
        (loads.lines, loads.lines.q0 + loads.lines.q1), (loads.points, loads.points.f[:, :3]),
        (loads.nodes, loads.nodes.f[:, :3]),
    ):  # fmt: skip
        own = rows.case < len(gravity)
        lifts = own & (force[:, 2] > 0.5 * np.linalg.norm(force, axis=1)) & (force[:, 2] > 1e-9)
        lifts[own] &= gravity[rows.case[own]]
        for source, case in zip(rows.source[lifts].tolist(), rows.case[lifts].tolist(), strict=True):
            sources.setdefault(source, case)
    names = [s.name for s in project.surfaces]
    written = {(load.case, load.place, names[load.surface]): load.text for load in project.surface_loads}
    told = set()
    for source, k in sorted(sources.items()):
        case, own_source = project.cases[k], loads.sources[source]
        if case.self_weight < 0 and own_source.place == case.place:
            continue  # its factor is told
        if own_source.surface and own_source.put[2] <= 0:
            continue  # a deck that overhangs lifts its far bearing
        # What a surface brings to the members around several bays is one load.
        key = (case.name, own_source.place, own_source.surface)
        text = written.get(key, own_source.text)
        if (*key, text) in told:
            continue
        told.add((*key, text))
        what = f"negative {case.action}" if case.action in ("snow", "rain") else f"{case.action} case"
        yield warn(
            "acts-upward",
            f"{text} acts upward in {case.name}, a {what}",
            "positive values act along dir, and dir is down unless stated",
            own_source.place,
            case.name,
        )


def _wind_down(resolved: Resolved, totals: Floats) -> Iterator[Finding]:
    """Wind that acts down, most likely since its direction was left out."""
    wind = {c.name for c in resolved.project.cases if c.action == "wind"}
    for load in (*resolved.project.loads, *resolved.project.surface_loads):
        kinds = LineLoad | PointLoad | NodeLoad | AreaLoad | SurfaceForce | SurfaceLine
        if load.case in wind and isinstance(load, kinds) and load.direction.text == "down":
            yield warn(
                "wind-down",
                f"case {load.case}: {load.text} is wind that acts down",
                'give its direction, such as dir = "+x" or "local z"',
                load.place,
                load.case,
            )


WAYS = {"+x": (1.0, 0.0), "-x": (-1.0, 0.0), "+y": (0.0, 1.0), "-y": (0.0, -1.0)}


def _along(resolved: Resolved, totals: Floats) -> Iterator[Finding]:
    """Cases whose `along` is not where their loads go."""
    wind = resolved.project.wind
    by_code = {c.name for c in wind.cases} if wind is not None else set()  # a sloping roof is pushed across, too
    for case, total in zip(resolved.project.cases, totals, strict=True):
        if case.name in by_code:
            continue
        level = np.linalg.norm(total[:2])
        if case.along not in WAYS or level <= 0.05 * np.abs(total).max(initial=0) or level == 0 or case.notional:
            continue
        if total[:2] @ WAYS[case.along] < 0.5 * level:
            axis = int(np.abs(total[:2]).argmax())
            goes = f"{'+' if total[axis] > 0 else '-'}{'xy'[axis]}"
            yield warn(
                "along-differs",
                f"case {case.name} is along {case.along}, and its loads come to {level / 1e3:.4g} kN along {goes}",
                "correct along, or the loads' dir",
                case.place,
                case.name,
            )


OFF = 0.01


def _expected(resolved: Resolved, totals: Floats) -> Iterator[Finding]:
    """Cases whose loads do not come to what was worked out by hand."""
    for case, total in zip(resolved.project.cases, totals, strict=True):
        found = float(np.linalg.norm(total))
        if case.expected is not None and abs(found - abs(case.expected)) > OFF * abs(case.expected):
            message = (
                f"the loads of case {case.name} come to {found / 1e3:.5g} kN, and {case.expected / 1e3:.5g} kN are "
            )
            yield warn("total-differs", message + "stated", "look at `empuje loads --by family`, or correct total",
                       case.place, case.name)  # fmt: skip


def _proportions(resolved: Resolved, totals: Floats) -> Iterator[Finding]:
    """Cases of gravity loads that are a thousand times larger or smaller than all the others."""
    project = resolved.project
    own = {
        c: float(-totals[i, 2])
        for i, c in enumerate(project.cases)
        if c.action in GRAVITY_ACTIONS and not c.notional and totals[i, 2] < 0
    }
    # Only the largest of all can be beyond all others, and only the smallest below them.
    rising = sorted(own, key=own.__getitem__)
    large = rising[-1:] if len(own) > 1 and own[rising[-1]] > APART * own[rising[-2]] else []
    usual = {c: v for c, v in own.items() if c not in large}
    rising = [c for c in rising if c not in large]
    small = rising[:1] if len(usual) > 1 and usual[rising[0]] * APART < usual[rising[1]] else []
    for case in (*large, *small):
        others = [v for c, v in (own if case in large else usual).items() if c != case]
        beside, word = (max(others), "large") if case in large else (min(others), "small")
        message = (
            f"case {case.name} comes to {own[case] / 1e3:.4g} kN, which is {word} beside {beside / 1e3:.4g} kN of the "
        )
        yield warn("out-of-proportion", message + "other cases", "check units and factors", case.place, case.name)


HEAVY = 5.0


def _heavy(resolved: Resolved, totals: Floats) -> Iterator[Finding]:
    """Members much heavier than all they carry."""
    project = resolved.project
    own = [c for c in project.cases if c.self_weight > 0 and c.action in GRAVITY_ACTIONS]
    if not own:
        return
    weight, in_cases = GRAVITY * float(project.masses.sum()), 0.0
    for c in own:
        left_out = float(project.masses[list(c.weightless)].sum())
        in_cases += c.self_weight * (weight - GRAVITY * left_out)
    case = own[0]
    down = [-totals[i, 2] for i, c in enumerate(project.cases) if c.action in GRAVITY_ACTIONS and not c.notional]
    carried = sum(down) - in_cases
    if carried > 0.01 * weight and weight > HEAVY * carried:
        yield note(
            "heavy-members",
            f"the members weigh {weight / 1e3:.4g} kN, and all gravity loads beside that {carried / 1e3:.4g} kN",
            "check sections, densities and the loads' units",
            case.place,
            case.name,
        )


def _twice(resolved: Resolved) -> Iterator[Finding]:
    """The same load on the same thing in the same case, by two entries."""
    project = resolved.project
    seen: dict[tuple[object, ...], tuple[object, set[int]]] = {}
    for load in project.loads:
        if isinstance(load, LineLoad):
            key: tuple[object, ...] = (load.case, load.points, load.direction, load.projected)
            on, names = load.members, project.members
        elif isinstance(load, PointLoad):
            key = (load.case, load.kind, load.value, load.positions, load.direction)
            on, names = load.members, project.members
        elif isinstance(load, NodeLoad):
            key, on, names = (load.case, load.kind, load.value, load.direction, "node"), load.nodes, project.nodes  # type: ignore[assignment]
        else:
            continue
        first, known = seen.setdefault(key, (load.place, set()))
        both = known.intersection(on) if known else ()
        known.update(on)
        if both:
            where = listed([names[i].name for i in sorted(both)])
            yield warn(
                "load-twice",
                f"case {load.case}: {load.text} repeats what is on {where} already, by {first}",
                "take one out, unless both are there",
                load.place,
                load.case,
            )
    areas: dict[tuple[object, ...], object] = {}
    for one in project.surface_loads:
        if isinstance(one, AreaLoad) and not one.of_floor:
            own = (one.case, one.surface, one.values, one.between, one.direction, one.projected, one.part)
            if own in areas:
                yield warn(
                    "load-twice",
                    f"case {one.case}: {one.text} repeats what is there already, by {areas[own]}",
                    "take one out, unless both are there",
                    one.place,
                    one.case,
                )
            areas.setdefault(own, one.place)


MOST_OF_IT = 0.5


def _weight_twice(resolved: Resolved) -> Iterator[Finding]:
    """Combinations of two cases with the self-weight of the same members."""
    project = resolved.project
    # A share on top of it is for bolts and plates.
    weighing = {c.name: c for c in project.cases if abs(c.self_weight) >= MOST_OF_IT}
    told: set[tuple[str, ...]] = set()
    every = len(project.members) + sum(s.plate is not None for s in project.surfaces)
    for combination in resolved.combinations if len(weighing) > 1 else ():
        there = tuple(case for case, f in combination.factors if f and case in weighing)
        for k, a in enumerate(there):
            for b in there[k + 1 :]:
                both = weighing[a], weighing[b]
                without = {("member", m) for c in both for m in c.weightless}
                without |= {("surface", i) for c in both for i in c.weightless_surfaces}
                if (a, b) in told or len(without) >= every:
                    continue
                told.add((a, b))
                yield warn(
                    "weight-twice",
                    f"cases {a} and {b} both have self-weight, and combination {combination.name} both of them",
                    "give one of them self_weight = 0",
                    weighing[b].place,
                    a,
                    b,
                    combination.name,
                )


def _no_variable(resolved: Resolved) -> Iterator[Finding]:
    """Sets of combinations in which no load acts that varies, where the model has such loads."""
    project = resolved.project
    variable = {c.name for c in project.cases if c.action not in PERMANENT and not c.notional and c.stage != Stage.MASS}
    if not variable:
        return
    by_set: dict[str, list[str]] = defaultdict(list)
    has: set[str] = set()
    for c in resolved.combinations:
        by_set[c.set].append(c.name)
        if any(f and case in variable for case, f in c.factors):
            has.add(c.set)
    for name, own in by_set.items():
        if name not in has and name != CUSTOM:
            place = next(c.place for c in resolved.combinations if c.set == name)
            yield note(
                "no-variable-action",
                f"no combination of the set {name} has a variable action: {listed(own)}",
                "check which cases they name",
                place,
                name,
                *own,
            )
