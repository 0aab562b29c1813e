"""What was decided about steel members: how long their stretches are and what holds them, and the codes' choices."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from ...analysis.equations import Equations
from ...checks.shapes import kind_of
from ...model.decisions import Decision
from ...model.project import Project
from ...model.words import Lateral, Stance, SteelCode
from .lengths import NOT_STATED, Lengths, lengths_of, stated_by
from .lines import Lines, build_lines
from .restraints import TWIST, Place, Pressed, Restraints, Y, Z

WAYS = {Y: "sideways (y)", Z: "along z", TWIST: "against twisting"}


def length_decisions(
    project: Project, equations: Callable[[], Equations], pressed: Pressed | None = None
) -> Iterator[Decision]:
    """Decisions on the lengths of the members of [steel], none without it; `pressed`: by how much its results press
    members."""
    rule = project.steel
    if rule is None or not rule.on:
        return
    lines = build_lines(project)
    held = Restraints(project, lines, equations, pressed)
    lengths = lengths_of(project, lines, held, rule, np.array(rule.on, np.intp))
    own = list(dict.fromkeys(int(lines.of[m]) for m in rule.on))
    places = held.of_lines(own)
    chosen = set(rule.on)
    for line in own:
        yield from _of_line(project, lines, [m for m in lines.members[line] if m in chosen], places[line], lengths)


def steel_decisions(project: Project) -> Iterator[Decision]:
    """Decisions on the members of [steel] that no frame is needed for, none without it."""
    rule = project.steel
    if rule is None or not rule.on:
        return
    if project.plane:
        about = tuple(dict.fromkeys(project.members[m].family for m in rule.on))
        yield Decision(
            "ends out of the plane", about, "held", "a plane model says nothing of what stands across it",
            "free, or held nearer", "steel.lengths", Stance.GUESS, rule.place, "held-out-of-plane",
        )  # fmt: skip
    if rule.code == SteelCode.EN:
        general = rule.lateral == Lateral.GENERAL
        yield Decision(
            "curves of lateral buckling", (), rule.lateral, "6.3.2.2 holds for every section",
            str(Lateral.ROLLED if general else "general"), "steel.lateral", Stance.SAFE, rule.place,
        )  # fmt: skip
    loose = [m for m in rule.on if kind_of(project.members[m].section) in LATERAL and not project.members[m].bar]
    stated = stated_by(rule)
    held_at = {m: stated.get(m, NOT_STATED) for m in loose}
    loose = [m for m, h in held_at.items() if h.flange not in ("top", "both") and h.L_LT != 0 and h.k_LT != 0]
    if loose and not rule.load_height:
        about = tuple(dict.fromkeys(project.members[m].family for m in loose))
        yield Decision(
            "height of loads", about, "at the shear centre", "loads on an upper flange buckle a beam sooner",
            "above it: k_LT", "steel.load_height", Stance.UNSAFE, rule.place, "load-height",
        )  # fmt: skip


LATERAL = ("I", "channel", "tee")
"""Kinds of sections that buckle laterally."""


def _of_line(
    project: Project, lines: Lines, members: Sequence[int], places: Sequence[Place], lengths: Lengths
) -> Iterator[Decision]:
    names = tuple(project.members[m].name for m in members)
    place = project.members[members[0]].place
    rows = np.flatnonzero(np.isin(lengths.member, members))
    for symbol, direction in (("L_y", Z), ("L_z", Y), ("L_LT", TWIST)):
        values = sorted({round(float(v), 4) for v in getattr(lengths, symbol)[rows]})
        taken = ", ".join(f"{v:.4g}" for v in values) + " m"
        yield Decision(
            f"length {symbol}",
            names,
            taken,
            why_held(project, places, direction),
            "",
            f"steel.lengths.{symbol}",
            Stance.SAFE,
            place,
        )
    if len(lines.members[int(lines.of[members[0]])]) > 1:
        every = [project.members[m].name for m in lines.members[int(lines.of[members[0]])]]
        yield Decision(
            "pieces of one member",
            names,
            f"{len(every)} pieces are one",
            "they go on straight and rigidly",
            'members of their own: braced_at = ["0%", "100%"]',
            "steel.lengths.braced_at",
            Stance.SAFE,
            place,
        )


def why_held(project: Project, places: Sequence[Place], direction: int) -> str:
    """In words, what holds a line and where, and what meets it and does not."""
    held = [p for p in places if p.held[direction]]
    not_held = [p for p in places if not p.held[direction] and p.by[direction] != "nothing meets there"]
    words = [f"held {WAYS[direction]} at {project.nodes[p.node].name} ({p.by[direction]})" for p in held[:3]]
    words += [f"and at {len(held) - 3} more"] if len(held) > 3 else []
    words += [f"not held at {project.nodes[p.node].name} ({p.by[direction]})" for p in not_held[:2]]
    words += [f"nor at {len(not_held) - 2} more"] if len(not_held) > 2 else []
    return ", ".join(words)
