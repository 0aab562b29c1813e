"""What was decided about steel members: how long their stretches are and what holds them, and the codes' choices."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

import numpy as np

from ..analysis.equations import Equations
from ..model.decisions import Decision
from ..model.project import Project
from ..model.words import Lateral, Stance, SteelCode
from .checked import STRONG
from .en1993.buckling import curves
from .lengths import NOT_STATED, Lengths, lengths_of, stated_by
from .lines import Lines, build_lines
from .restraints import TWIST, Place, Pressed, Restraints, Y, Z
from .shapes import kind_of, shapes_of

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
            "ends out of the plane", about, "restrained", "a plane model has nothing across its plane",
            "free, or restrained at closer points", "steel.lengths", Stance.GUESS, rule.place, "restraint-out-of-plane",
        )  # fmt: skip
    yield from _factors(project)
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


LETTERS = {0.13: "a0", 0.21: "a", 0.34: "b", 0.49: "c", 0.76: "d"}


def _factors(project: Project) -> Iterator[Decision]:
    """Buckling curves by section and how it was made; factors of moments from diagrams, where they are not stated."""
    rule = project.steel
    assert rule is not None
    stated = stated_by(rule)
    en = rule.code == SteelCode.EN
    free_m = [m for m in rule.on if not project.members[m].bar and np.isnan(stated.get(m, NOT_STATED).C_m)]
    free_b = [m for m in rule.on if not project.members[m].bar and np.isnan(stated.get(m, NOT_STATED).C_b)]
    what = (
        ("factors C_m", free_m, "table B.3; sway is for the analysis", "C_m", en),
        ("factor C_1" if en else "factor C_b", free_b, "6.3.2.2(2), from M_cr of it" if en else "F1-1",
         "C_1" if en else "C_b", True),
    )  # fmt: skip
    for name, members, why, key, there in what:
        families = tuple(dict.fromkeys(project.members[m].family for m in members))
        if families and there:
            yield Decision(
                name, families, "from the moment diagram of each segment, result by result", why, "a stated one",
                f"steel.lengths.{key}", Stance.USUAL, rule.place,
            )  # fmt: skip
    if not en:
        return
    by_curve: dict[tuple[str, str, str], list[str]] = {}
    for m in rule.on:
        section = project.members[m].section
        if not kind_of(section):
            continue
        shapes = replace(shapes_of([section]), strong=np.array([float(project.members[m].material.grade == STRONG)]))
        y, z = (LETTERS.get(round(float(alpha[0]), 2), f"{float(alpha[0]):.2g}") for alpha in curves(shapes))
        by_curve.setdefault((y, z, str(section.made)), []).append(section.name)
    for (y, z, made), names in by_curve.items():
        yield Decision(
            "buckling curves", tuple(dict.fromkeys(names)), f"{y} about y, {z} about z", f"table 6.2, {made}",
            "those of another way of making", "sections.NAME.made", Stance.USUAL, rule.place,
        )  # fmt: skip


LATERAL = ("I", "channel", "tee")
"""Kinds of sections that buckle laterally."""


def _of_line(
    project: Project, lines: Lines, members: Sequence[int], places: Sequence[Place], lengths: Lengths
) -> Iterator[Decision]:
    rule = project.steel
    assert rule is not None
    names = tuple(project.members[m].name for m in members)
    place = project.members[members[0]].place
    rows = np.flatnonzero(np.isin(lengths.member, members))
    analysed = stated_by(rule).get(members[0], NOT_STATED).analysed
    for symbol, direction in (("L_y", Z), ("L_z", Y), ("L_LT", TWIST)):
        if symbol != "L_LT" and analysed[symbol == "L_z"]:
            continue  # stated to be those of the frame's shapes
        values = sorted(getattr(lengths, symbol)[rows].tolist())
        taken = ", ".join(dict.fromkeys(f"{v:.4g}" for v in values)) + " m"
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
    """In words, what restrains a line and where, and what meets it and does not."""
    held = [p for p in places if p.held[direction]]
    not_held = [p for p in places if not p.held[direction] and p.by[direction] != "nothing meets there"]
    words = [f"restrained {WAYS[direction]} at {project.nodes[p.node].name} ({p.by[direction]})" for p in held[:3]]
    words += [f"and at {len(held) - 3} more"] if len(held) > 3 else []
    words += [f"not restrained at {project.nodes[p.node].name} ({p.by[direction]})" for p in not_held[:2]]
    words += [f"nor at {len(not_held) - 2} more"] if len(not_held) > 2 else []
    return ", ".join(words)
