"""Loads on the wrong members, or along them, or in axes that differ from one to the next."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import numpy as np

from ..model.findings import Finding, listed
from ..model.frame import ON_LINE_TOLERANCE
from ..model.loads import LineLoad, PointLoad
from ..model.surfaces import AreaLoad
from ..resolved import Resolved
from .telling import note, warn

ALONG = 0.999
FEW = 5
"""Of families of fewer members one may well have another load than the others."""


def of_loads(resolved: Resolved) -> list[Finding]:
    """Line and point loads as they are written."""
    return [*_along_member(resolved), *_local_axes(resolved), *_on_bars(resolved), *_left_out(resolved),
            *_area_and_line(resolved)]  # fmt: skip


def _along_member(resolved: Resolved) -> Iterator[Finding]:
    """Lines of a global direction along level or sloping members; down along a column is its cladding."""
    project = resolved.project
    x = project.axes[:, 0]
    for load in project.loads:
        if not isinstance(load, LineLoad) or load.direction.local or abs(load.direction.vector[2]) > ALONG:
            continue
        on = np.array(load.members, np.intp)
        if len(on) and not load.projected and (np.abs(x[on] @ load.direction.vector) > ALONG).all():
            name = project.members[on[0]].name
            more = f" and {len(on) - 1} more" if len(on) > 1 else ""
            yield warn(
                "along-member",
                f"case {load.case}: {load.text} acts along {name}{more}, not across",
                'check dir; "local x" says that it is intended',
                load.place,
                load.case,
                name,
            )


def _local_axes(resolved: Resolved) -> Iterator[Finding]:
    """Loads in local axes that point elsewhere on some members of the same selector."""
    project = resolved.project
    for load in project.loads:
        if not isinstance(load, LineLoad | PointLoad) or not load.direction.local or len(load.members) < 2:
            continue
        on = np.array(load.members, np.intp)
        way = np.einsum("j,njk->nk", np.array(load.direction.vector), project.axes[on])
        other = np.flatnonzero(way @ way[0] < 0.5)
        if len(other):
            a, b = project.members[on[0]].name, project.members[on[other[0]]].name
            said = [_said(way[0]), _said(way[other[0]])]
            yield warn(
                "local-axes-differ",
                f"case {load.case}: {load.text} acts {said[0]} on {a} and "
                f"{said[1]} on {b}" + (f" and {len(other) - 1} more" if len(other) > 1 else ""),
                "give a global direction, or a load for each side",
                load.place,
                load.case,
                a,
                b,
            )


def _said(way: np.ndarray) -> str:
    return "towards (" + ", ".join(f"{v:.3g}" for v in way + 0.0) + ")"


def _on_bars(resolved: Resolved) -> Iterator[Finding]:
    """Loads across bars: they carry them to their ends, and are not bent for it."""
    project = resolved.project
    bar = np.array([m.bar for m in project.members], bool)
    if not bar.any():
        return
    for load in project.loads:
        if not isinstance(load, LineLoad | PointLoad):
            continue
        on = [i for i in load.members if bar[i] and not _at_ends(load, float(project.lengths[i]))]
        way = np.array(load.direction.vector)
        across = [i for i in on if (load.direction.local and abs(way[0]) < ALONG)
                  or (not load.direction.local and abs(project.axes[i, 0] @ way) < ALONG)]  # fmt: skip
        if across:
            names = [project.members[i].name for i in across]
            yield note(
                "load-across-bar",
                f"case {load.case}: {load.text} is across {listed(names, 3)}, which "
                "has axial force only: it is carried to the ends, and bends it in between",
                "leave out bar where it is to be designed for that",
                load.place,
                load.case,
                *names,
            )


ALIKE = 0.02
"""A line load whose sum, and its place, are within this share of what surfaces bring to a member is most likely it."""


def _area_and_line(resolved: Resolved) -> Iterator[Finding]:
    """Line loads by hand that equal what surfaces bring to the same member in the same case."""
    project, lines, sources = resolved.project, resolved.loads.lines, resolved.loads.sources
    of_areas = {load.case for load in project.surface_loads if isinstance(load, AreaLoad)}
    written = [
        load for load in project.loads
        if isinstance(load, LineLoad) and load.case in of_areas and not load.direction.local
        and load.direction.vector[2] < -ALONG
    ]  # fmt: skip
    if not written:
        return
    number = {name: i for i, name in enumerate(project.case_names)}
    wanted = np.isin(lines.case, [number[load.case] for load in written])
    some = np.flatnonzero(wanted)
    some = some[[bool(sources[i].surface) for i in lines.source[some].tolist()]]
    n = len(project.members)
    key = lines.case[some] * n + lines.member[some]
    q0, q1, s0, s1 = -lines.q0[some, 2], -lines.q1[some, 2], lines.s0[some], lines.s1[some]
    force = (q0 + q1) / 2 * (s1 - s0)
    turning = force * s0 + (q0 + 2 * q1) * (s1 - s0) ** 2 / 6
    brought, arm = (np.bincount(key, v, minlength=n * len(project.cases)) for v in (force, turning))
    for load in written:
        twice = []
        for m in load.members:
            length = float(project.lengths[m])
            s, q = (np.array(v) for v in zip(*((p.on(length), v) for p, v in load.points), strict=True))
            ds, dq = np.diff(s), (q[1:] + q[:-1]) / 2
            own = float((dq * ds).sum())
            about = float((dq * ds * s[:-1] + (q[:-1] + 2 * q[1:]) * ds**2 / 6).sum())
            k = number[load.case] * n + m
            if own > 0 and abs(brought[k] - own) <= ALIKE * own and abs(arm[k] - about) <= ALIKE * own * length / 2:
                twice.append(project.members[m].name)
        if twice:
            yield warn(
                "counted-twice",
                f"case {load.case}: {load.text} is what surfaces bring to {listed(twice, 3)} in this case already",
                "take one of them out, unless both are there",
                load.place,
                load.case,
                *twice,
            )


def _at_ends(load: LineLoad | PointLoad, length: float) -> bool:
    """Whether it acts at the ends of a member so long only, where a bar takes it as its joints do."""
    if isinstance(load, LineLoad):
        return False
    return all(min(s, length - s) <= ON_LINE_TOLERANCE for s in (p.on(length) for p in load.positions))


def _left_out(resolved: Resolved) -> Iterator[Finding]:
    """One member of a family without the line load that all others have in a case."""
    project = resolved.project
    family: dict[str, list[int]] = defaultdict(list)
    for i, m in enumerate(project.members):
        family[m.family].append(i)
    loaded: dict[tuple[str, str], set[int]] = defaultdict(set)
    first: dict[tuple[str, str], LineLoad] = {}
    for load in project.loads:
        if isinstance(load, LineLoad):
            for i in load.members:
                key = load.case, project.members[i].family
                loaded[key].add(i)
                first.setdefault(key, load)
    for (case, name), on in loaded.items():
        of = family[name]
        if len(of) < FEW or len(on) != len(of) - 1:
            continue
        missed = project.members[next(i for i in of if i not in on)].name
        yield note(
            "one-without-load",
            f"case {case} has a line load on every member of {name} but {missed}",
            "add it there, unless it is so",
            first[case, name].place,
            case,
            missed,
        )
