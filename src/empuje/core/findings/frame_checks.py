"""What there is to say about a frame as a whole, once it is read: the checks that need no solution."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..actions.surfaces.sources.area_loads import direction_of
from ..actions.surfaces.sources.surface_loads import Surfaces
from ..model.boxes import box_pairs
from ..model.connected import nodes_of_plates
from ..model.findings import Finding, in_short, with_accepted
from ..model.frame import ON_LINE_TOLERANCE
from ..model.loads import PlainLoads
from ..model.near import near_pairs
from ..model.project import Project
from ..model.surfaces import AreaLoad
from ..model.words import Acts, Stage
from ..resolved import Resolved


def frame_findings(resolved: Resolved, of_loads: list[Finding]) -> list[Finding]:
    """Coincident and unused nodes, overlapping and crossing members, loads and cases that go nowhere; after what there
    is to say about loads."""
    project = resolved.project
    if not len(project.places) or not np.isfinite(project.xyz).all():
        return in_short(with_accepted(list(of_loads), project.accepted))
    out: list[Finding] = []
    of_loads = [*of_loads, *_out_of_plane(project, resolved.loads), *_floors_doubled(project, resolved.surfaces)]
    checks = (_coincident, _unused, _doubled, _overlapping, _one_way, _offsets, _crossings, _nearly_flat)
    for found in (of_loads, *(check(project) for check in checks), _cases(resolved)):
        out += in_short(with_accepted(found, project.accepted))
    return out


ALIKE = 0.01
"""A load by hand within this share of a floor's own is taken for the same one."""


def _floors_doubled(project: Project, surfaces: Surfaces) -> list[Finding]:
    """Loads by hand that equal what a floor brings to the same case and surface."""
    areas = [load for load in project.surface_loads if isinstance(load, AreaLoad)]
    own = {(load.case, load.surface): load.values[0] for load in areas if load.of_floor}
    out = []
    for load in areas:
        value = own.get((load.case, load.surface))
        if load.of_floor or load.part or not value or load.surface not in surfaces:
            continue
        way = direction_of(surfaces[load.surface].outline, load)
        if abs(way[2]) > 1 - 1e-9 and np.abs(-way[2] * np.array(load.values) / value - 1).max() < ALIKE:
            message = f"case {load.case} has {value / 1e3:.4g} kN/m2 on surface {project.surfaces[load.surface].name} "
            message += "twice: from its floor, and by hand"
            out.append(Finding("warning", "counted-twice", message, "take one of them out", load.place))
    return out


def _coincident(project: Project) -> list[Finding]:
    i, j = near_pairs(project.xyz, np.full(len(project.nodes), ON_LINE_TOLERANCE), project.xyz, more_than=1)
    pairs = zip(i[i < j].tolist(), j[i < j].tolist(), strict=True)
    return [
        Finding("error", "same-place",
                f"nodes {project.nodes[a].name} and {project.nodes[b].name} are at the same place",
                "use one name for both", project.nodes[b].place)
        for a, b in pairs
    ]  # fmt: skip


def _unused(project: Project) -> list[Finding]:
    """Nodes that no member reaches: a load or support there would be lost."""
    used = np.zeros(len(project.nodes), bool)
    used[project.ends.ravel()] = True
    member, node, _ = project.nodes_on_members
    whole = np.array([m.bar for m in project.members], bool)
    used[node[~whole[member]] if len(member) else node] = True
    used[nodes_of_plates(project)] = True
    loaded = {n for load in project.loads for n in getattr(load, "nodes", ())} | {s.node for s in project.supports}
    loaded |= {n for floor in project.diaphragms for n in floor.nodes}
    return [
        Finding("error" if i in loaded else "warning", "unused-node",
                f"node {project.nodes[i].name} belongs to no member" + (", but has a load, a support or a floor"
                                                                        if i in loaded else ""),
                "connect it, or take it out", project.nodes[i].place, about=(project.nodes[i].name,))
        for i in np.flatnonzero(~used)
    ]  # fmt: skip


def _doubled(project: Project) -> list[Finding]:
    """Two members between the same two nodes, or one lying in another."""
    seen: dict[tuple[int, int], str] = {}
    out = []
    for m in project.members:
        key = (min(m.start, m.end), max(m.start, m.end))
        if key in seen and m.start != m.end:
            out.append(
                Finding("warning", "doubled-member", f"{m.name} and {seen[key]} join the same nodes",
                        "take one out, unless both are there", m.place, about=(m.name, seen[key]))
            )  # fmt: skip
        seen.setdefault(key, m.name)
    on: dict[int, list[int]] = {}
    member, node, _ = project.nodes_on_members
    for m_index, n_index in zip(member.tolist(), node.tolist(), strict=True):
        on.setdefault(m_index, []).append(n_index)
    touching: dict[int, list[int]] = {}
    for i, m in enumerate(project.members):
        touching.setdefault(m.start, []).append(i)
        touching.setdefault(m.end, []).append(i)
    for longer, inner in on.items():
        along = {*inner, project.members[longer].start, project.members[longer].end}
        for other in sorted({i for n in inner for i in touching.get(n, [])} - {longer}):
            o = project.members[other]
            if {o.start, o.end} <= along:
                out.append(
                    Finding("warning", "doubled-member", f"{o.name} lies in {project.members[longer].name}",
                            "take one out, unless both are there", o.place, about=(o.name,))
                )  # fmt: skip
    return out


LEAST_OVERLAP = 10 * ON_LINE_TOLERANCE


def _overlapping(project: Project) -> list[Finding]:
    """Members that lie in one another for a part of their length; those that do with all of it are told as doubled."""
    if len(project.members) < 2:
        return []
    a, x = project.xyz[project.ends[:, 0]], project.axes[:, 0]
    b = project.xyz[project.ends[:, 1]]
    pairs = [(np.zeros(0, np.intp), np.zeros(0, np.intp))]
    for p, q in box_pairs(*_boxes(a, b)):
        same = np.abs(np.einsum("ij,ij->i", x[p], x[q])) > 1 - 1e-6
        pairs.append((p[same], q[same]))
    i, j = _in_order(pairs)
    places = [np.einsum("ij,ij->i", p[j] - a[i], x[i]) for p in (a, b)]
    low, high = np.maximum(np.minimum(*places), 0.0), np.minimum(np.maximum(*places), project.lengths[i])
    own = [p[j] - a[i] for p in (a, b)]
    off = np.max([np.linalg.norm(v - s[:, None] * x[i], axis=1) for v, s in zip(own, places, strict=True)], axis=0)
    shorter = np.minimum(project.lengths[i], project.lengths[j])
    overlap = high - low
    partly = (off <= ON_LINE_TOLERANCE) & (overlap > LEAST_OVERLAP) & (overlap < shorter - ON_LINE_TOLERANCE)
    out = []
    for k in np.flatnonzero(partly).tolist():
        p, q = project.members[i[k]], project.members[j[k]]
        message = f"{p.name} and {q.name} lie in one another over {overlap[k]:.4g} m, where both bear"
        remedy = "end one where the other begins, unless both are there"
        out.append(Finding("warning", "doubled-member", message, remedy, q.place, about=(q.name, p.name)))
    return out


def _one_way(project: Project) -> list[Finding]:
    """One-way members that nodes cut: their parts could go slack one by one, which one slack cannot say."""
    member, _, _ = project.nodes_on_members
    return [
        Finding("error", "cut-one-way", f"{m.name} acts in {m.acts} only, but nodes lie on it",
                "make it a bar, or one member for each part between the nodes", m.place)
        for m in (project.members[i] for i in np.unique(member)) if m.acts != Acts.BOTH and not m.bar
    ]  # fmt: skip


def _offsets(project: Project) -> list[Finding]:
    """Rigid lengths that leave nothing of their member, or reach past a node on it."""
    if not any(m.offsets != (0.0, 0.0) for m in project.members):
        return []
    member, _, s = project.nodes_on_members
    out = []
    for i, m in enumerate(project.members):
        near, far = m.offsets[0], project.lengths[i] - m.offsets[1]
        if near == 0 and m.offsets[1] == 0:
            continue
        at = s[member == i] if not m.bar else s[:0]
        if far - near <= ON_LINE_TOLERANCE:
            out.append(
                Finding("error", "bad-offsets", f"{m.name} is {project.lengths[i]:.4g} m long, and its offsets leave "
                        "nothing of it", "give shorter offsets", m.place)
            )  # fmt: skip
        elif (
            (at <= near + ON_LINE_TOLERANCE) & (near > 0) | (at >= far - ON_LINE_TOLERANCE) & (m.offsets[1] > 0)
        ).any():
            out.append(
                Finding("error", "bad-offsets", f"a node lies on {m.name} within its rigid length",
                        "give shorter offsets, or move the node", m.place)
            )  # fmt: skip
    return out


def _out_of_plane(project: Project, loads: PlainLoads) -> list[Finding]:
    """Loads that leave the plane of a plane model would be lost: no freedom there takes them up."""
    if not project.plane:
        return []
    across = [
        (loads.lines.source, np.abs(np.hstack([loads.lines.q0[:, [1]], loads.lines.q1[:, [1]]]))),
        (loads.points.source, np.abs(loads.points.f[:, [1, 3, 5]])),
        (loads.strains.source, np.abs(_bending_across(project, loads))),
    ]
    sources = {int(s) for source, part in across for s in source[part.max(axis=1, initial=0) > 1e-9]}
    return [
        Finding("error", "out-of-plane", f"{loads.sources[s].text} leaves the plane of the model",
                "use a direction in the X-Z plane, and moments about y", loads.sources[s].place)
        for s in sorted(sources)
    ]  # fmt: skip


def _bending_across(project: Project, loads: PlainLoads) -> NDArray[Any]:
    """The temperature gradients that would bend members out of the plane (n, 1)."""
    y_across = np.abs(project.axes[loads.strains.member, 1, 1]) > 0.5
    return np.where(y_across, loads.strains.v[:, 1], loads.strains.v[:, 2])[:, None]


def _cases(resolved: Resolved) -> list[Finding]:
    """Cases without any load, and cases that no combination uses."""
    project = resolved.project
    loaded = {load.case for load in (*project.loads, *project.surface_loads)} | {
        c.name for c in project.cases if c.self_weight
    }
    idle: set[str] = set()
    names = [[c.name for c in rule.cases] if rule is not None else [] for rule in (project.wind, project.snow)]
    names.append([project.rain.case] if project.rain is not None else [])
    for own, made in zip(names, (resolved.wind, resolved.snow, resolved.rain), strict=True):
        laid = made.loads if made is not None else PlainLoads()
        found = {int(i) for rows in (laid.lines, laid.points, laid.nodes) for i in np.unique(rows.case)}
        loaded |= {project.case_names[i] for i in found}
        # Where the code failed that is told.
        idle |= set() if found else set(own)
    # What is seen of nothing has no minimum load.
    idle |= {c.name for c in project.wind.cases if c.least} if project.wind is not None else set()
    combined = {case for c in resolved.combinations for case, _ in c.factors}
    combined |= {project.traffic[s.traffic].case for s in project.standings if s.case in combined}
    out = [
        Finding(
            "warning",
            "empty-case",
            f"case {c.name} has no loads",
            "add some, or take the case out",
            c.place,
            about=(c.name,),
        )
        for c in project.cases
        if c.name not in loaded
        and not c.notional
        and c.name not in idle
        and not c.moves
        and not c.stands
        and not c.torsion_of
    ]
    if resolved.combinations:
        out += [
            Finding("note", "uncombined-case", f"case {c.name} is in no combination", "", c.place, about=(c.name,))
            for c in project.cases
            if c.name not in combined and c.stage != Stage.MASS and not c.stands and not c.like
        ]
    return out


def _crossings(project: Project) -> list[Finding]:
    """Members that cross where there is no node: they pass each other unconnected. Bars are meant to: no node splits
    them."""
    if len(project.members) < 2:
        return []
    a, b = project.xyz[project.ends[:, 0]], project.xyz[project.ends[:, 1]]
    L = project.lengths
    bar = np.array([m.bar for m in project.members], bool)
    margin = 10 * ON_LINE_TOLERANCE
    on = _nodes_on(project)
    found = [(np.zeros(0, np.intp), np.zeros(0, np.intp))]
    count, more = 0, 0
    for i, j in box_pairs(*_boxes(a, b)):
        shared = (project.ends[i][:, :, None] == project.ends[j][:, None, :]).any(axis=(1, 2))
        keep = ~shared & ~(bar[i] | bar[j])
        i, j = i[keep], j[keep]
        gap, s, t = _closest(a[i], b[i], a[j], b[j])
        inside = (s > margin) & (s < L[i] - margin) & (t > margin) & (t < L[j] - margin)
        cross = (gap <= ON_LINE_TOLERANCE) & inside
        i, j = i[cross], j[cross]
        joined = np.asarray(on[i].multiply(on[j]).sum(axis=1)).ravel() > 0
        kept = min(int((~joined).sum()), max(MOST_LISTED - count, 0))
        own = np.flatnonzero(~joined)
        found.append((i[own[:kept]], j[own[:kept]]))
        count, more = count + kept, more + len(own) - kept
    out = []
    for p, q in zip(*(v.tolist() for v in _in_order(found)), strict=True):
        one, other = project.members[p], project.members[q]
        message = f"{one.name} and {other.name} cross without a node and pass unconnected"
        out.append(Finding("note", "unjoined-crossing", message, "add a node there if they are joined", other.place,
                           about=(one.name, other.name)))  # fmt: skip
    if more:
        place = project.members[0].place
        out.append(Finding("note", "unjoined-crossing", f"and {more:,} more like these", "", place, more))
    return out


MOST_LISTED = 20_000
"""Of more crossings only the number is told."""


def _boxes(a: NDArray[Any], b: NDArray[Any]) -> tuple[NDArray[Any], NDArray[Any]]:
    """The boxes around lines between points (n, 3), with what counts as touching."""
    return np.minimum(a, b) - ON_LINE_TOLERANCE, np.maximum(a, b) + ON_LINE_TOLERANCE


def _in_order(pairs: list[tuple[NDArray[Any], NDArray[Any]]]) -> tuple[NDArray[Any], NDArray[Any]]:
    i, j = (np.concatenate(column) for column in zip(*pairs, strict=True))
    order = np.lexsort((j, i))
    return i[order], j[order]


NEARLY_FLAT = 0.005
"""Below this least stiffness in any direction, as a share of one bar's along itself, bars lie nearly in a plane: two
within 3 degrees of a line."""


def _nearly_flat(project: Project) -> list[Finding]:
    """Nodes held only by bars and hinged members that lie nearly in one line or plane: forces there are huge, and small
    displacements change them."""
    touching: dict[int, list[tuple[NDArray[Any], bool]]] = {}
    for i, m in enumerate(project.members):
        for end, node in enumerate((m.start, m.end)):
            free = m.bar or all(m.joints[6 * end + k] == 0 for k in ((4,) if project.plane else (4, 5)))
            touching.setdefault(node, []).append((project.axes[i, 0], free))
    passed = set(project.nodes_on_members[1].tolist())
    held: dict[int, NDArray[Any]] = {}
    for s in project.supports:
        rows = [np.array(s.axes[k]) for k in range(3) if s.held[k] or s.spring[k] > 0]
        held[s.node] = held.get(s.node, np.zeros((3, 3))) + sum((np.outer(r, r) for r in rows), np.zeros((3, 3)))
    kept = [0, 2] if project.plane else [0, 1, 2]
    out = []
    for node, ends in touching.items():
        if node in passed or not all(free for _, free in ends) or len(ends) < 2:
            continue
        stiff = sum((np.outer(x, x) for x, _ in ends), held.get(node, np.zeros((3, 3))))[np.ix_(kept, kept)]
        least = float(np.linalg.eigvalsh(stiff)[0])
        if 1e-9 < least < NEARLY_FLAT:
            name = project.nodes[node].name
            out.append(
                Finding("warning", "nearly-flat", f"the hinged members and bars at {name} lie nearly in one line or "
                        "plane: a small displacement of it changes their forces much", "hold the node across, or "
                        "give it more depth; analysis takes displacements as small", project.nodes[node].place,
                        about=(name,))
            )  # fmt: skip
    return out


def _nodes_on(project: Project) -> Any:
    """Which nodes lie on which members between their ends (members, nodes), sparse."""
    from scipy.sparse import csr_matrix

    member, node, _ = project.nodes_on_members
    return csr_matrix((np.ones(len(member)), (member, node)), shape=(len(project.members), len(project.nodes)))


def _closest(
    a: NDArray[Any], b: NDArray[Any], c: NDArray[Any], d: NDArray[Any]
) -> tuple[NDArray[Any], NDArray[Any], NDArray[Any]]:
    """Gap between the lines a-b and c-d, and how far along each they come closest [m]; parallel lines never do."""
    u, v = b - a, d - c
    lu, lv = np.linalg.norm(u, axis=1), np.linalg.norm(v, axis=1)
    lu, lv = np.where(lu > 0, lu, 1.0), np.where(lv > 0, lv, 1.0)
    u, v = u / lu[:, None], v / lv[:, None]
    w = a - c
    uv, uw, vw = (np.einsum("ij,ij->i", p, q) for p, q in ((u, v), (u, w), (v, w)))
    sine = 1 - uv**2
    parallel = sine < 1e-9
    sine = np.where(parallel, 1.0, sine)
    s, t = (uv * vw - uw) / sine, (vw - uv * uw) / sine
    gap = np.linalg.norm(w + s[:, None] * u - t[:, None] * v, axis=1)
    return np.where(parallel, np.inf, gap), s, t
