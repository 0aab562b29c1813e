"""Frames that are not joined, held or turned as they were meant."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import numpy as np

from ..model.connected import parts
from ..model.findings import Finding, listed
from ..model.frame import ON_LINE_TOLERANCE, VERTICAL_TOLERANCE
from ..model.near import near_pairs
from ..model.project import Project
from ..model.words import Acts
from ..resolved import Resolved
from .telling import note, warn

NEAR = 0.025
"""Nodes nearer than this [m] that no member joins are most likely meant as one."""
SLENDER = 250.0
"""Of a bar in compression: length over its least radius of gyration."""
STIFF = 1e6
"""Stiffness of members at one joint, beyond which the softer ones' forces lose their digits."""

STANDS = 0.8
"""The rise over the length from which a member is a column, not a rafter."""


def of_frame(resolved: Resolved) -> list[Finding]:
    """Nodes, supports, parts and sections of a frame."""
    project = resolved.project
    if not len(project.members):
        return []
    checks = (_near_nodes, _separate_parts, _loose_feet, _held_everywhere, _slender, _stiffnesses)
    return [*(f for check in checks for f in check(project)), *_lying_flat(resolved)]


def _near_nodes(project: Project) -> Iterator[Finding]:
    i, j = near_pairs(project.xyz, np.full(len(project.nodes), NEAR), project.xyz, more_than=1)
    joined = {(min(m.start, m.end), max(m.start, m.end)) for m in project.members}
    for a, b in zip(i.tolist(), j.tolist(), strict=True):
        gap = float(np.linalg.norm(project.xyz[a] - project.xyz[b]))
        if a < b and gap > ON_LINE_TOLERANCE and (a, b) not in joined:
            p, q = project.nodes[a], project.nodes[b]
            yield warn(
                "near-nodes",
                f"nodes {p.name} and {q.name} are {gap * 1e3:.3g} mm apart, and no member joins them",
                "use one node for both, join them, or state [project] snap",
                p.place,
                p.name,
                q.name,
            )


def _separate_parts(project: Project) -> Iterator[Finding]:
    """Parts of the frame that nothing joins to the largest one."""
    for own in parts(project)[1:]:
        names = own.named(project)
        yield note(
            "separate-part",
            f"{listed(names)} {'is' if len(names) == 1 else 'are'} not joined to the rest of the frame",
            "join them, unless they stand by themselves",
            own.place(project),
            *names,
        )


def _upright(project: Project) -> np.ndarray:
    x = project.axes[:, 0]
    return np.hypot(x[:, 0], x[:, 1]) < max(VERTICAL_TOLERANCE, 0.05)


def _loose_feet(project: Project) -> Iterator[Finding]:
    """Columns that end in the air at a level where others stand on supports."""
    upright = np.flatnonzero(_upright(project))
    if not len(upright):
        return
    ends = project.ends[upright]
    z = project.xyz[:, 2]
    foot = np.where(z[ends[:, 0]] < z[ends[:, 1]], ends[:, 0], ends[:, 1])
    count = np.bincount(project.ends.ravel(), minlength=len(z))
    count += np.bincount(project.nodes_on_members[1], minlength=len(z))
    held = {s.node for s in project.supports}
    standing = z[[int(n) for n in foot if int(n) in held]]
    for i, n in zip(upright.tolist(), foot.tolist(), strict=True):
        if n in held or count[n] > 1:
            continue
        beside = int((np.abs(standing - z[n]) < NEAR).sum())
        if beside >= 2:
            m = project.members[i]
            yield warn(
                "foot-without-support",
                f"{m.name} ends at {project.nodes[n].name} without a support, "
                f"and {beside} columns at that level have one",
                "add it to the supports' selector",
                m.place,
                m.name,
                project.nodes[n].name,
            )


def _held_everywhere(project: Project) -> Iterator[Finding]:
    """Every node on a support, and members that stand: of beams and rafters alone it is usual."""
    if not (np.abs(project.axes[:, 0, 2]) > STANDS).any():
        return
    held = {s.node for s in project.supports if all(s.held[:3]) or (project.plane and s.held[0] and s.held[2])}
    used = set(project.ends.ravel().tolist())
    if len(used) > 3 and used <= held:
        place = project.supports[0].place
        yield warn(
            "supported-everywhere",
            f"all {len(used)} nodes are supported: nothing but members between supports can move",
            "narrow the supports' selector",
            place,
            *(project.nodes[n].name for n in sorted(used)),
        )


def _slender(project: Project) -> Iterator[Finding]:
    """Bars so slender that they cannot bear pressure, which act both ways."""
    by_family: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for i, m in enumerate(project.members):
        s = m.section
        inertia = min((v for v in (s.Iy, s.Iz) if v > 0), default=0.0)
        if m.bar and m.acts == Acts.BOTH and inertia and s.A:
            slenderness = float(project.lengths[i] / np.sqrt(inertia / s.A))
            if slenderness > SLENDER:
                by_family[m.family].append((slenderness, i))
    for own in by_family.values():
        most, i = max(own)
        names = [project.members[k].name for _, k in own]
        yield note(
            "slender-bar",
            f"{listed(names, 3)}: bars of a slenderness of up to {most:.0f} that act in compression too",
            'acts = "tension" where they cannot',
            project.members[i].place,
            project.members[i].family,
            *names,
        )


def _stiffnesses(project: Project) -> Iterator[Finding]:
    """Joints where members meet whose stiffnesses in bending are a million times apart."""
    rows = [i for i, m in enumerate(project.members) if not m.bar and m.section.Iy > 0 and project.lengths[i] > 0]
    if len(rows) < 2:
        return
    stiff = np.array(
        [
            project.members[i].material.E
            * max(project.members[i].section.Iy, project.members[i].section.Iz)
            / project.lengths[i]
            for i in rows
        ]
    )
    if stiff.max() <= STIFF * stiff.min():
        return
    ends = project.ends[rows]
    order = np.argsort(stiff)
    softest, hardest = np.full(len(project.nodes), -1), np.full(len(project.nodes), -1)
    for k in (0, 1):
        for to, ranked, keep in ((softest, order[::-1], np.less), (hardest, order, np.greater)):
            one = np.full(len(project.nodes), -1)
            one[ends[ranked, k]] = ranked
            better = (one >= 0) & ((to < 0) | keep(stiff[one], stiff[to]))
            to[better] = one[better]
    for node in np.flatnonzero((softest >= 0) & (stiff[hardest] > STIFF * stiff[softest])).tolist():
        a, b = project.members[rows[hardest[node]]], project.members[rows[softest[node]]]
        times = stiff[hardest[node]] / stiff[softest[node]]
        name = project.nodes[node].name
        yield warn(
            "stiffness-apart",
            f"at {name} {a.name} is {times:.1e} times as stiff as {b.name}",
            "check units of E and of the sections; use offsets or a diaphragm for what is rigid",
            a.place,
            name,
            a.name,
            b.name,
        )


def _lying_flat(resolved: Resolved) -> Iterator[Finding]:
    """Beams whose weak axis bears what gravity does, while less acts along their strong one."""
    project, lines = resolved.project, resolved.loads.lines
    n = len(project.members)
    Iy, Iz = (np.array([getattr(m.section, k) for m in project.members]) for k in ("Iy", "Iz"))
    x, y, z = (project.axes[:, k] for k in range(3))
    # The second moment that bending in the vertical plane meets, and the other one.
    flat = Iy * z[:, 2] ** 2 + Iz * y[:, 2] ** 2
    other = Iy * y[:, 2] ** 2 + Iz * z[:, 2] ** 2
    level = np.abs(x[:, 2]) < 0.5
    weak = level & (flat * 2 < other) & ~np.array([m.bar for m in project.members], bool)
    if not weak.any():
        return
    by_case = lines.case < len(project.cases)
    force = np.abs((lines.q0 + lines.q1) / 2 * (lines.s1 - lines.s0)[:, None])[by_case]
    down, across = np.zeros(n), np.zeros(n)
    np.add.at(down, lines.member[by_case], force[:, 2])
    np.add.at(across, lines.member[by_case], np.hypot(force[:, 0], force[:, 1]))
    by_family: dict[str, list[int]] = defaultdict(list)
    for i in np.flatnonzero(weak & (down > 0) & (down > across)).tolist():
        by_family[project.members[i].family].append(i)
    for family, own in by_family.items():
        names = [project.members[i].name for i in own]
        yield note(
            "lies-flat",
            f"{listed(names, 3)}: gravity bends them about their weak axis",
            "turn them by roll = 90, unless they are intended so",
            project.members[own[0]].place,
            family,
            *names,
        )
