"""Supports of a model file: what they hold, what stands on springs, and how they settle."""

from __future__ import annotations

import math

import numpy as np

from ...core.model.findings import did_you_mean
from ...core.model.frame import FREEDOMS, Support
from ...core.model.loads import Settlement
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..tables.read import Rows

STRAIGHT = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
Six = tuple[float, float, float, float, float, float]


def read_supports(
    model: Entry, names: Names, cases: list[str], plane: bool, table: Rows
) -> tuple[list[Support], list[Settlement]]:
    """The supported nodes, and the settlements of supports as loads of their cases."""
    words = [f for f in FREEDOMS if not plane or f in ("x", "z", "ry")]
    supports: list[Support] = []
    settlements: list[tuple[Entry, Settlement]] = []
    if not model.has("supports") and not table:
        model.error("missing-key", "the model has no supports", 'add [[supports]] with at = ... and fix = "pinned"')
    for entry in [*model.entries("supports"), *table.entries(model.notes)]:
        if entry.has("along"):  # of structural surfaces, which are read elsewhere
            continue
        entry.known()
        axes = axes_of(entry, plane)
        held = held_by(entry, words) if entry.has("fix") else (False,) * 6
        spring = springs_of(entry, words) if entry.has("spring") else (0.0,) * 6
        if not any(entry.has(k) for k in ("fix", "spring", "settle")):
            entry.missing("fix")
        patterns = entry.texts("at")
        if patterns is None:
            continue
        nodes, missed = names.select_nodes(patterns)
        names.report(entry, missed, "at", "support: no node")
        if held is not None and spring is not None:
            lift = entry.flag("lift")
            if lift and not (held[2] or spring[2]):
                entry.error(
                    "unrestrained",
                    "a support with lift = true holds nothing in z",
                    "fix z, or give it a spring",
                    "lift",
                )
            supports += [Support(node, held, entry.place, spring, lift, axes) for node in nodes]
            settlements += [(e, s) for e, s in _settlements(entry, words, cases, nodes, patterns)]
    _refuse_contradictions(model, supports, names)
    _refuse_unheld(supports, settlements, names)
    return supports, [s for _, s in settlements]


def axes_of(entry: Entry, plane: bool) -> tuple[tuple[float, float, float], ...]:
    """The axes of a support turned about global axes, right-handed, one after another in the order x, y, z, as rows."""
    if not entry.has("turn"):
        return STRAIGHT
    table = entry.child("turn").known(["y"] if plane else None)
    if not isinstance(entry.data["turn"], dict):
        return STRAIGHT
    if not table.data:
        table.error("bad-turn", "support turn = { } turns nothing", 'name an axis, such as { y = "30 deg" }')
        return STRAIGHT
    out = np.eye(3)
    for axis in (a for a in "xyz" if a in table.data and a in table.form):
        angle = table.quantity(axis) or 0.0
        i = "xyz".index(axis)
        j, k = (i + 1) % 3, (i + 2) % 3
        rows = np.eye(3)
        rows[j, j] = rows[k, k] = math.cos(angle)
        rows[j, k], rows[k, j] = math.sin(angle), -math.sin(angle)
        out = out @ rows
    return tuple(tuple(row) for row in out.tolist())  # type: ignore[misc]


def held_by(entry: Entry, words: list[str]) -> tuple[bool, bool, bool, bool, bool, bool] | None:
    """The degrees of freedom that `fix` names."""
    fix = entry.text("fix")
    if fix is None:
        return None
    if fix == "fixed":
        chosen = set(FREEDOMS)
    elif fix == "pinned":
        chosen = {"x", "y", "z"}
    else:
        chosen = set(fix.split())
        if not chosen or not chosen <= set(words):
            entry.error("unknown-word", f'support fix = "{fix}"',
                        f'write "fixed", "pinned", or degrees of freedom of {" ".join(words)}', "fix")  # fmt: skip
            return None
    return tuple(f in chosen for f in FREEDOMS)  # type: ignore[return-value]


def _by_freedom(entry: Entry, words: list[str]) -> Six | None:
    """Quantities under the names of freedoms, 0 where there is none."""
    values = [entry.quantity(f) if f in words else 0.0 for f in FREEDOMS]
    return None if None in values else tuple(values)  # type: ignore[return-value]


def springs_of(entry: Entry, words: list[str]) -> Six | None:
    """The stiffness under `spring`."""
    table = entry.child("spring").known(words)
    if not table.data:
        table.error("missing-key", "support spring = { } holds nothing", 'write { z = "40 MN/m" }')
    springs = _by_freedom(table, words)
    if springs is not None and min(springs) < 0:
        table.error("bad-quantity", f"support spring = {shown(table.data)}: must not be negative")
        return None
    return springs


def _settlements(
    entry: Entry, words: list[str], cases: list[str], nodes: list[int], patterns: list[str]
) -> list[tuple[Entry, Settlement]]:
    out = []
    for settle in entry.entries("settle"):
        settle.known(["case", *words])
        case = settle.text("case")
        motion = _by_freedom(settle, words)
        if case is not None and case not in cases:
            settle.error("unknown-name", f"support settles in case {case}, which is not in [cases]",
                         did_you_mean(case, cases), "case")  # fmt: skip
        elif case is not None and motion is not None:
            moved = ", ".join(f"{f} {settle.data[f]}" for f in words if settle.has(f))
            text = f"settlement {moved} at {', '.join(patterns)}"
            out.append((settle, Settlement(case, tuple(nodes), motion, text, settle.place)))
    return out


def _refuse_contradictions(model: Entry, supports: list[Support], names: Names) -> None:
    """A freedom cannot be held and stand on a spring; a node cannot be supported about two sets of axes."""
    first: dict[int, Support] = {}
    for s in supports:
        if first.setdefault(s.node, s).axes != s.axes:
            model.notes.say(
                "error", "contradiction", (), f"{names.nodes[s.node]} has supports turned in different ways",
                "give all its entries the same `turn`", s.place,
            )  # fmt: skip
    held = {(s.node, i) for s in supports for i in range(6) if s.held[i]}
    for s in supports:
        both = [FREEDOMS[i] for i in range(6) if s.spring[i] and (s.node, i) in held]
        if both:
            model.notes.say(
                "error", "contradiction", (), f"{names.nodes[s.node]} is fixed and on a spring in {' '.join(both)}",
                "take one of them out", s.place,
            )  # fmt: skip


def _refuse_unheld(supports: list[Support], settlements: list[tuple[Entry, Settlement]], names: Names) -> None:
    """Only what is held, or on a spring, can be moved by the ground."""
    tied = {(s.node, i) for s in supports for i in range(6) if s.held[i] or s.spring[i]}
    for entry, settlement in settlements:
        for node in settlement.nodes:
            loose = [FREEDOMS[i] for i in range(6) if settlement.motion[i] and (node, i) not in tied]
            if loose:
                entry.error("unrestrained", f"{names.nodes[node]} settles in {' '.join(loose)}, where nothing holds it",
                            "fix that degree of freedom too, or leave it out of settle")  # fmt: skip
                break
