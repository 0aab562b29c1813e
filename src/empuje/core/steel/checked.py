"""All steel members of a model under a code: what governs each, what was not checked, and derivations."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..analysis.equations import build_equations
from ..analysis.pieces import build_pieces
from ..analysis.polynomials import horner
from ..analysis.solution import Pieces, Solution
from ..analysis.solve import first_order
from ..answers.patterns import listed
from ..answers.table import said
from ..model.loads import Step
from ..model.results import Result, Results
from ..model.steel import SteelRule
from ..model.telling import Tell, quiet
from ..model.words import Holds, SteelCode
from . import aisc, en
from .analysed import critical_forces
from .demand import cut_where, extremes_of, in_rows, on_stretches
from .lengths import Lengths, lengths_of, stated_by
from .lines import Lines, build_lines
from .restraints import Restraints
from .saying import Steps, unsaid
from .shapes import kind_of, shapes_of
from .strength import reasons, yield_strengths
from .use import Block, Code, Use, use_of

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ROUNDING = 1e-9
"""Forces below this share of the largest are told as none."""
AT_ONCE = 300_000
"""Pieces times results worked on at a time: what fits a processor's cache."""
NOT_CHECKED = {
    "class_4": "bending in class 4", "no_rule": "lateral buckling of this shape",
    "free": "lateral buckling with a free end",
}  # fmt: skip
NEVER_CHECKED = "holes, shear lag, joints, stiffeners and transverse forces on webs are not checked"


NO_RESULT = "there is no result with a stable answer to check it under"


@dataclass(frozen=True)
class Checked:
    """Steel members (m,) and what they use (m, checks): where [m], under which of the results, which weights (columns,
    results) form, on which stretch (-1: none).

    `warps`: the share of yield that warping by torsion takes at most (m,).
    `lost`: why a member was not checked, or ""; `partly`: what of it was not. `failed`: results without an answer,
    under which nothing was checked. `withheld`: why no member may pass, whatever it uses, or "". `asked`: the results
    before their patterns were listed.
    """

    rule: SteelRule
    code: Code
    members: Ints
    use: Floats
    x: Floats
    result: Ints
    stretch: Ints
    lost: list[str]
    partly: list[list[str]]
    results: list[Result]
    how: list[str]
    weights: Floats
    lengths: Lengths
    lines: Lines
    warps: Floats
    failed: Sequence[Result] = ()
    withheld: str = ""
    asked: Sequence[Result] = ()

    @property
    def checks(self) -> tuple[str, ...]:
        """Their names."""
        return self.code.checks

    def some(self, members: Ints) -> Checked:
        """Of some of the members, which rise, as if only these had been asked for."""
        row = np.searchsorted(self.members, members)
        if not np.array_equal(self.members[row], members):
            raise KeyError("a member was not checked")
        kept = np.isin(self.lengths.member, members)
        new = np.append(np.cumsum(kept) - 1, -1)  # no stretch stays none
        own: dict[str, Any] = {name: getattr(self, name)[row] for name in ("members", "use", "x", "result", "warps")}
        own |= {name: [getattr(self, name)[i] for i in row.tolist()] for name in ("lost", "partly")}
        return replace(self, stretch=new[self.stretch[row]], lengths=self.lengths.rows(np.flatnonzero(kept)), **own)

    def is_of(self, members: Sequence[int], results: Results) -> bool:
        """Whether these members were checked, under these results and no others."""
        names = {r.name for r in self.asked}
        return set(members) <= set(self.members.tolist()) and names == {r.name for r in results}

    def worst(self, m: int) -> int:
        """The check that governs a member."""
        return int(self.use[m].argmax())

    def not_checked(self, m: int) -> list[str]:
        """What of a member was not checked that may decide."""
        words = list(dict.fromkeys(self.partly[m]))
        return [*words, f"torsion by warping ({self.warping(m)})"] if self._warping_matters(m) else words

    def warping(self, m: int) -> str:
        """By how much warping may add to what a member uses, "" where it is nothing."""
        return f"at most {self.warps[m]:.2f} of yield more" if self.warps[m] > 0 else ""

    def _warping_matters(self, m: int) -> bool:
        return bool(self.warps[m] > 0 and float(self.use[m].max(initial=0.0)) + self.warps[m] > 1 + 1e-9)

    def holds(self, m: int) -> Holds:
        """What a member comes to; what was not checked is never passed."""
        used = float(self.use[m].max(initial=0.0))
        if used > 1 + 1e-9:
            return Holds.FAILS
        if self.withheld or self.lost[m] or self.not_checked(m):
            return Holds.UNANSWERED
        return Holds.NEAR if used >= self.rule.warn_at else Holds.PASSES


def code_of(rule: SteelRule) -> Code:
    """The code that a rule names, with its factors and choices."""
    return {SteelCode.EN: en.code_of, SteelCode.AISC: aisc.code_of}[rule.code](rule)


def check_members(
    solution: Solution, results: Results, rule: SteelRule, members: Ints, tell: Tell = quiet
) -> Checked:  # fmt: skip
    """Members under results that have an answer; patterns one by one. Raises TooMany."""
    project = solution.project
    every, weights, how, code = under_results(solution, results, rule)
    m, n = len(members), len(code.checks)
    use, x = np.zeros((m, n)), np.zeros((m, n))
    result, stretch = np.zeros((m, n), np.intp), np.full((m, n), -1, np.intp)
    why = reasons([project.members[i] for i in members.tolist()], rule.code)
    lost = [words or ("" if every else NO_RESULT) for words in why]
    partly: list[list[str]] = [[] for _ in range(m)]
    warps = np.zeros(m)
    lines = build_lines(project)
    pressed = (lambda some: pressed_by(solution, weights, some)) if every else None
    restraints = Restraints(project, lines, lambda: build_equations(solution.model.project), pressed)
    lengths = lengths_of(project, lines, restraints, rule, members)
    lengths = _with_analysed(solution, results, lengths, rule, tell) if every else lengths
    first, stop = (np.searchsorted(lengths.member, members, side=side) for side in ("left", "right"))
    kinds: dict[str, list[int]] = {}
    for i, member in enumerate(members.tolist()):
        if not lost[i]:
            kinds.setdefault(kind_of(project.members[member].section), []).append(i)
    blocks: list[Ints] = []
    for rows in kinds.values():
        each = 2 + len(solution.terms.a) // max(len(solution.mesh.member), 1)
        size = max(1, AT_ONCE // (each * len(every)))
        blocks += [np.array(rows[i : i + size], np.intp) for i in range(0, len(rows), size)]

    def look(own: Ints) -> Use:
        block = block_of(solution, members[own], lengths, [(int(first[k]), int(stop[k])) for k in own])
        pieces = build_pieces(solution, members[own], weights)
        return use_of(pieces, _rows(solution, lines, members[own], pieces, block.lengths, weights), block, code, unsaid)

    # NumPy works outside the interpreter's lock: as many blocks at once as there are processors.
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for i, (own, found) in enumerate(zip(blocks, pool.map(look, blocks), strict=True)):
            tell("checking members", i, len(blocks))
            use[own], x[own], result[own], warps[own] = found.use, found.x, found.result, found.warps
            there = found.stretch >= 0
            offset = np.concatenate([np.arange(first[k], stop[k]) for k in own])
            stretch[own] = np.where(there, offset[np.maximum(found.stretch, 0)], -1)
            for flag, words in NOT_CHECKED.items():
                for k in np.flatnonzero(getattr(found, flag)).tolist():
                    partly[own[k]].append(words)
    return Checked(rule, code, members, use, x, result, stretch, lost, partly, every, how, weights, lengths, lines,
                   warps, asked=results)  # fmt: skip


def under_results(
    solution: Solution, results: Results, rule: SteelRule
) -> tuple[list[Result], Floats, list[str], Code]:
    """What a check is made under: results with their patterns one by one, how the columns of a solution make these
    (columns, results), how each is formed, and the code. Raises TooMany."""
    every, weights, of = listed(solution, results) if results else ([], np.zeros((len(solution.mix), 0)), [])
    how = [said(solution.how([results[i]])[0], results[i].second_order_at) for i in of]
    return every, weights, how, code_of(rule)


def _with_analysed(solution: Solution, results: Results, lengths: Lengths, rule: SteelRule, tell: Tell) -> Lengths:
    """With lengths of the frame's critical shapes, where they are asked for."""
    project, stated = solution.project, stated_by(rule)
    asked = {m: held.analysed for m, held in stated.items() if any(held.analysed)}
    members = [m for m in dict.fromkeys(lengths.member.tolist()) if m in asked]
    if not members:
        return lengths
    found = critical_forces(first_order(solution.model), results, members, tell)
    row = {m: k for k, m in enumerate(members)}
    own = np.array([row.get(m, -1) for m in lengths.member.tolist()])
    out = []
    for axis, name in ((0, "Iy"), (1, "Iz")):
        EI = np.array([project.members[m].material.E * getattr(project.members[m].section, name) for m in members])
        wanted = np.array([asked[m][axis] for m in members])
        L = np.where(wanted[:, None], np.pi * np.sqrt(EI[:, None] / found[axis]), np.nan)
        out.append(np.where((own >= 0)[:, None], L[own], np.nan))
    return replace(lengths, of_y=out[0], of_z=out[1])


def pressed_by(solution: Solution, weights: Floats, members: Sequence[int]) -> dict[int, float]:
    """The greatest compression in members or in a flange of them [N] under all results."""
    out: dict[int, float] = {}
    size = max(1, AT_ONCE // (4 * max(weights.shape[1], 1)))
    for i in range(0, len(members), size):
        own = np.array(sorted(members[i : i + size]), np.intp)
        pieces = build_pieces(solution, own, weights)
        e = extremes_of(pieces)
        sections = [solution.project.members[m].section for m in pieces.member.tolist()]
        depth = np.array([2 * s.Iy / s.Wel_y if s.Wel_y else np.inf for s in sections])
        force = (np.maximum(e.N, 0.0) + e.My / depth[:, None]).max(axis=1, initial=0.0)
        for m, value in zip(pieces.member.tolist(), force.tolist(), strict=True):
            out[m] = max(out.get(m, 0.0), value)
    return out


def _rows(solution: Solution, lines: Lines, members: Ints, pieces: Pieces, lengths: Lengths, weights: Floats) -> Pieces:
    """The pieces of the rows that stretches of members are looked at in, cut where these end."""
    every = [m for one in members.tolist() for m in _of_row(lines, one)]
    if len(set(every)) > len(members):
        pieces = build_pieces(solution, np.unique(np.array(every, np.intp)), weights)
    return cut_where(in_rows(pieces, solution.project, lines), lengths)


def _of_row(lines: Lines, m: int) -> tuple[int, ...]:
    line = int(lines.of[m])
    return (m,) if lines.steps[line] else lines.members[line]


def block_of(solution: Solution, members: Ints, lengths: Lengths, ranges: Sequence[tuple[int, int]]) -> Block:
    """Members of one kind with their stretches, by ranges of these."""
    project = solution.project
    own = [project.members[i] for i in members.tolist()]
    rows = np.concatenate([np.arange(a, b) for a, b in ranges])
    part = lengths.rows(rows)
    of = np.concatenate([np.full(b - a, k, np.intp) for k, (a, b) in enumerate(ranges)])
    E, G = (np.array([getattr(one.material, k) for one in own]) for k in ("E", "G"))
    strong = np.array([one.material.grade == STRONG for one in own], float)
    shapes = replace(shapes_of([one.section for one in own]), strong=strong)
    return Block(members, shapes, yield_strengths(own), E, G, part, of)


STRONG = "S460"
"""The grade with buckling curves of its own."""


def derivation(solution: Solution, checked: Checked, m: int, check: int) -> list[Step]:
    """The steps of one check of a member where it uses most."""
    steps = Steps()
    member, k = int(checked.members[m]), int(checked.result[m, check])
    code, x = checked.code, float(checked.x[m, check])
    pieces = build_pieces(solution, np.array([member]), checked.weights[:, [k]])
    rows = np.flatnonzero(checked.lengths.member == member)
    block = block_of(solution, np.array([member]), checked.lengths, [(int(rows[0]), int(rows[-1]) + 1)])
    steel = block.at(np.array([0]))
    if check < code.of_section:
        beside = [max(int(np.searchsorted(pieces.start, x + e, side="right")) - 1, 0) for e in (-1e-9, 1e-9)]
        each = [_forces_at(pieces, p, x) for p in dict.fromkeys(beside)]
        forces = max(each, key=lambda f: float(np.nan_to_num(code.section(steel, f, unsaid))[0, check, 0]))
        largest = np.repeat(np.abs(forces).reshape(2, 3).max(axis=1), 3)[None, :, None]
        forces = np.where(np.abs(forces) > ROUNDING * largest, forces, 0.0)
        for name, value in zip(("N", "V_y", "V_z", "T", "M_y", "M_z"), forces[0, :, 0], strict=True):
            steps.say(f"{name},Ed", value, "there", "N m" if name[0] in "TM" else "N")
        code.section(steel, forces, steps.say)
        return _ended(steps, checked, m, check)
    # What uses nothing was found on no stretch: the first one shows so.
    one = checked.lengths.under(np.array([max(int(checked.stretch[m, check]), int(rows[0]))]), np.array([k]))
    of_row = _rows(solution, checked.lines, np.array([member]), pieces, one, checked.weights[:, [k]])
    code.member(steel, one, on_stretches(of_row, extremes_of(of_row), one), steps.say)
    return _ended(steps, checked, m, check)


def _ended(steps: Steps, checked: Checked, m: int, check: int) -> list[Step]:
    """With the utilisation as the last step."""
    name = checked.checks[check]
    if name not in (step.symbol for step in steps.found):
        steps.say(name, checked.use[m, check], "utilisation", "", checked.code.clauses[name])
    return steps.found


def _forces_at(pieces: Pieces, p: int, x: float) -> Floats:
    t = np.clip(x - pieces.start[p], 0.0, pieces.length[p])
    return horner(pieces.force[p : p + 1], np.array([[[t]]]))
