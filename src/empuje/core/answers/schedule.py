"""Reactions as foundations are designed from them: supports by kind, unfactored cases and governing combinations, one
below the other or side by side.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Solution
from ..model.frame import FREEDOMS, LineSupport, Support
from ..model.results import Result, Results
from .foundations import FORCES, reaction_envelope
from .line_reactions import by_lines
from .table import FORCE_KINDS, NO_ANSWER, Column, Table, six

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ROUNDING = 1e-9
"""Of the greatest of its kind: what is less is nothing."""
OPPOSITE = {"min": "max", "max": "min"}


def support_kinds(solution: Solution) -> list[str]:
    """In words, what each supported node is held by: fixed, pinned, "x z", "z, spring rx, compression only"."""
    out = []
    for node in solution.support_node:
        own: list[Support | LineSupport] = [s for s in solution.project.supports if s.node == node]
        if not own:  # a line, gathered
            name = solution.project.nodes[node].name
            own = [s for s in solution.model.project.line_supports if s.name == name]
        none = np.zeros((1, 6), bool)
        held, spring = (np.any([*(getattr(s, a) for s in own), *none], axis=0) for a in ("held", "spring"))
        plane = solution.project.plane
        whole = [f for f in FREEDOMS if not plane or f in ("x", "z", "ry")]
        fixed = [f for f, h in zip(FREEDOMS, held, strict=True) if h and f in whole]
        shifts = [f for f in whole if len(f) == 1]
        words = ["fixed" if fixed == whole else "pinned" if fixed == shifts else " ".join(fixed)] if fixed else []
        sprung = [f for f, s in zip(FREEDOMS, spring & ~held, strict=True) if s and f in whole]
        words += [f"spring {' '.join(sprung)}"] if sprung else []
        words += ["compression only"] if any(s.lift for s in own) else []
        words += ["turned"] if any(np.abs(np.asarray(s.axes) - np.eye(3)).max() > 1e-12 for s in own) else []
        out.append(", ".join(words) or ("bed" if not own else "free"))
    return out


def schedule(
    solution: Solution, results: Results, nodes: Ints | None = None, of: Sequence[str] = FORCES, turned: bool = False
) -> Table:
    """Supports by kind and in the order of their names, each with its reactions under every unfactored case (none under
    one that cannot stand alone), then the governing ones over `results`; of the components `of` those that some of the
    supports hold. `turned`: what acts on the foundations instead."""
    solution = by_lines(solution, results)
    project = solution.project
    every_case = [r for r, c in zip(solution.model.cases, project.cases, strict=True) if not c.notional]
    cases = [r for r in every_case if r not in solution.failed and not r.moving]
    of_moving = {r: reaction_envelope(solution, [r], nodes, ("Fz",)) for r in every_case if r.moving}
    every = reaction_envelope(solution, results, nodes, of)
    by_case = solution.reaction @ solution.weights(cases)
    kinds = support_kinds(solution)
    order = _by_kind(solution, nodes)
    extreme = OPPOSITE if turned else {"min": "min", "max": "max"}
    head: list[tuple[str, str, str, str]] = []
    place: list[Floats] = []
    value: list[Floats] = []
    for i in order:
        node = project.nodes[solution.support_node[i]]
        rows = [
            ("case", c.name, by_case[i, :, cases.index(c)]) if c in cases else (NO_ANSWER, c.name, np.full(6, np.nan))
            for c in every_case if c not in of_moving
        ]  # fmt: skip
        for table in of_moving.values():
            for k in np.flatnonzero(table["node"] == node.name).tolist():
                own = np.array([table[f][k] for f in FORCES])
                rows.append((f"case, {extreme[table['extreme'][k]]} Fz", table["case"][k], own))
        mine = np.flatnonzero(every["node"] == node.name)
        forces = np.column_stack([every[f][mine] for f in FORCES])
        for k, m in enumerate(mine):
            rows.append((f"{extreme[every['extreme'][m]]} {every['of'][m]}", every["case"][m], forces[k]))
        for what, case, force in rows:
            head.append((kinds[i], node.name, what, case))
            place.append(project.xyz[solution.support_node[i]])
            value.append(np.where(solution.held[i], force, np.nan))
    kind, label, what_, case_ = (list(c) for c in zip(*head, strict=True)) if head else ([], [], [], [])
    at = np.array(place).reshape(-1, 3)
    told = np.array(value).reshape(-1, 6) * (-1 if turned else 1)
    for part in (told[:, :3], told[:, 3:]):
        part[np.abs(part) < ROUNDING * np.nanmax(np.abs(part), initial=0.0)] = 0.0
    there = [f for k, f in enumerate(FORCES) if f in of and not np.isnan(told[:, k]).all()]
    return Table(
        "foundations",
        (
            Column("support", "text", kind), Column("node", "text", label),
            *(Column(c, "length", at[:, k]) for k, c in enumerate("xyz")),
            Column("what", "text", what_), Column("case", "text", case_),
            *(c for c in six(FORCE_KINDS, told) if c.name in there),
        ),
    )  # fmt: skip


def schedule_side_by_side(
    solution: Solution,
    results: Results,
    nodes: Ints | None = None,
    of: Sequence[str] = FORCES[:3],
    turned: bool = False,
) -> Table:
    """A row for each support and component of one kind: the least and the greatest over `results`, and under what; then
    under every unfactored case (of a traffic the least and the greatest of its positions; NaN without an answer).
    Raises ValueError where `of` has forces and moments."""
    kinds_of = {kind for name, kind in FORCE_KINDS if name in of}
    if len(kinds_of) != 1:
        raise ValueError("forces and moments do not go into the same columns")
    (kind,) = kinds_of
    solution = by_lines(solution, results)
    project, held = solution.project, solution.held
    every = reaction_envelope(solution, results, nodes, of)
    whole = {(n, c, e): (every[c][i], every["case"][i]) for i, (n, c, e) in enumerate(
        zip(every["node"].tolist(), every["of"].tolist(), every["extreme"].tolist(), strict=True))}  # fmt: skip
    rows = [(i, f) for i in _by_kind(solution, nodes) for f in of if held[i, FORCES.index(f)]]
    name = [project.nodes[solution.support_node[i]].name for i, _ in rows]
    at = [i for i, _ in rows], [FORCES.index(f) for _, f in rows]
    kinds = support_kinds(solution)
    sign = -1.0 if turned else 1.0
    columns = [
        Column("support", "text", [kinds[i] for i, _ in rows]), Column("node", "text", name),
        Column("of", "text", [f for _, f in rows]),
    ]  # fmt: skip
    largest = np.abs(np.array([v for v, _ in whole.values()])).max(initial=0.0)

    def put(head: str, values: Floats) -> None:
        told = sign * values
        told = np.where(np.abs(told) < ROUNDING * largest, 0.0, told)
        columns.append(Column(head, kind, told + 0.0))

    for side in ("min", "max"):
        told = OPPOSITE[side] if turned else side
        found_ = [whole[n, f, told] for n, (_, f) in zip(name, rows, strict=True)]
        put(side, np.array([v for v, _ in found_]))
        columns.append(Column(f"under {side}", "text", [case for _, case in found_]))
    for head, own in _unfactored(solution).items():
        if isinstance(own, Result) and own.moving:
            table = reaction_envelope(solution, [own], nodes, of)
            keys = zip(table["node"].tolist(), table["of"].tolist(), table["extreme"].tolist(), strict=True)
            found = {key: table[key[1]][i] for i, key in enumerate(keys)}
            for side in ("min", "max"):
                told = OPPOSITE[side] if turned else side
                put(f"{head} {side}", np.array([found[n, f, told] for n, (_, f) in zip(name, rows, strict=True)]))
            continue
        several = [own] if isinstance(own, Result) else own
        stood = [r for r in several if r not in solution.failed]
        value = (solution.reaction @ solution.weights(stood))[at] if stood else np.full((len(rows), 1), np.nan)
        if isinstance(own, Result):
            put(head, value[:, 0])
        else:
            for side, pick in (("min", np.min), ("max", np.max)):
                turn = np.max if turned and side == "min" else np.min if turned else pick
                put(f"{head} {side}", turn(value, axis=1))
    return Table("foundations", tuple(columns))


def _unfactored(solution: Solution) -> dict[str, Result | list[Result]]:
    """The cases by name; positions of a traffic together."""
    project = solution.project
    of = {s.case: s.traffic for s in project.standings}
    out: dict[str, Result | list[Result]] = {}
    for r, c in zip(solution.model.cases, project.cases, strict=True):
        if c.notional:
            continue
        if c.name in of:
            together = out.setdefault(project.traffic[of[c.name]].case, [])
            assert isinstance(together, list)
            together.append(r)
        else:
            out[c.name] = r
    return out


def _by_kind(solution: Solution, nodes: Ints | None) -> list[int]:
    """The chosen supports by kind and in the order of their names."""
    kinds, project = support_kinds(solution), solution.project
    chosen = range(len(kinds)) if nodes is None else np.flatnonzero(np.isin(solution.support_node, nodes)).tolist()
    return sorted(chosen, key=lambda i: (kinds[i], _in_grid(project.nodes[solution.support_node[i]].name)))


def _in_grid(name: str) -> list[tuple[bool, float, str]]:
    """What sorts names as lines of a grid are counted: A2 before A10."""
    parts = re.split(r"(\d+)", name)
    return [(not p.isdigit(), float(p) if p.isdigit() else 0.0, p) for p in parts]
