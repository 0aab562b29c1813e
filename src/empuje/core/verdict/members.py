"""Limits on forces of members, stresses at their fibres, and their deflections."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import FORCES
from ..analysis.solution import Columns, Solution
from ..answers.along import absent_forces
from ..answers.deflection import deflection_at, deflections_at, extreme_deflections
from ..answers.envelope import extremes
from ..answers.patterns import Patterns, TooMany, patterns
from ..answers.stress import stress_envelope
from ..answers.stress_fibres import NoFibre, coefficients
from ..answers.table import MEMBER_KINDS, Kind, said
from ..answers.why import Sum, Target, value_of
from ..catalogue.fibres import all_fibres
from ..model.limits import Limit
from ..model.project import Project
from ..model.results import Result, Results
from ..model.words import Stress
from ..steel.checked import NEVER_CHECKED, Checked
from .found import Found, nothing

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Of = Callable[[str], Found]
"""From a component to its extremes."""
TORSION = "shear from torsion, and stress from warping, are not in it"
PARTS_OF = {Stress.NORMAL: [1.0, 0.0, 0.0], Stress.SHEAR: [0.0, 1.0, 1.0], Stress.MISES: [1.0, 3.0, 3.0]}
"""How much the squares of sigma, tau_z and tau_y count in that of a stress."""
TINY = 1e-300
"""Left out, and told, without which a member still is checked."""
STEPS = 17
DIRECTIONS = 16


def forces_of(solution: Solution, results: Results, limit: Limit) -> Of:
    """Forces of a limit's members."""
    members = np.array(limit.on, np.intp)
    found = extremes(solution, results, members)
    absent = absent_forces(solution, members)
    how = [said(h, r.second_order_at) for r, h in zip(results, solution.how(results), strict=True)]
    names = np.array([m.name for m in solution.project.members], object)[members]

    def of(force: str) -> Found:
        f = FORCES.index(force)
        kept = np.flatnonzero(~absent[:, f])

        def made(row: Ints, side: Ints) -> list[tuple[str, str]]:
            m, component = kept[row], np.full(len(row), f)
            result = found.result[m, component, side].tolist()
            cases = found.made_by(solution, results, m, component, side)
            return [(case, how[r]) for case, r in zip(cases, result, strict=True)]

        def explained(row: int, side: int, solved: Solution, weights: Floats) -> list[Sum]:
            m, x = int(kept[row]), float(found.x[kept[row], f, side])
            return [_sum(force, dict(MEMBER_KINDS)[force], (int(members[m]), x), np.eye(6)[f], solved, weights)]

        lost = tuple((n, f"has no {force}") for n in names[absent[:, f]].tolist())
        place = names[kept].tolist()
        return Found(place, found.forces[kept, f, :, f], made, found.x[kept, f], lost=lost, sums=explained)

    return of


def stresses_of(solution: Solution, results: Results, limit: Limit) -> Of:
    """Stresses at the fibres of a limit's members."""
    members = np.array(limit.on, np.intp)
    fibre = limit.fibre or None
    project = solution.project
    bare = tuple(
        (m.name, f"its section {m.section.name} has no {f'fibre {fibre}' if fibre else 'fibres: name some'}")
        for m in (project.members[i] for i in members.tolist())
        if not any(fibre in (None, f.name) for f in all_fibres(m.section))
    )

    def of(stress: str) -> Found:
        notes = () if stress == Stress.NORMAL else (TORSION,)
        try:
            table = stress_envelope(solution, results, members, Stress(stress), [fibre] if fibre else [])
        except NoFibre:
            return nothing(bare)
        except TooMany as error:
            return nothing([("its members", f"{error}: too many for stresses")])
        sides = 2 if stress == Stress.NORMAL else 1
        value = table[stress].reshape(-1, sides)
        x = table["x"].reshape(-1, sides)
        if sides == 1:
            value, x = np.column_stack([np.zeros_like(value), value]), np.column_stack([x, x])
        place = [f"{m}, {f}" for m, f in zip(table["member"][::sides], table["fibre"][::sides], strict=True)]
        case, how = table["case"].tolist(), table["how"].tolist()

        def made(row: Ints, side: Ints) -> list[tuple[str, str]]:
            at = row * sides + (side if sides == 2 else 0)
            return [(case[i], how[i]) for i in at.tolist()]

        def explained(row: int, side: int, solved: Solution, weights: Floats) -> list[Sum]:
            i = row * sides + (side if sides == 2 else 0)
            member = next(m for m in members.tolist() if project.members[m].name == table["member"][i])
            section, at = project.members[member].section, (member, float(x[row, side]))
            point = next(f for f in all_fibres(section) if f.name == table["fibre"][i])
            share = coefficients(section, [point])[:, 0] * np.sqrt(PARTS_OF[Stress(stress)])[:, None]
            along = share[0] if stress == Stress.NORMAL else _toward(share, at, solved, weights)
            return [_sum(stress, "stress", at, along, solved, weights, f", {point.name}")]

        return Found(place, value, made, x, lost=bare, notes=notes, sums=explained)

    return of


def steel_found(project: Project, found: Checked, on: Sequence[int], withheld: str) -> Of:
    """The greatest share that some of the members checked use of any resistance; what is not checked is lost, and so is
    every member where a pass is `withheld` for a reason."""
    asked = set(on)
    rows = [m for m, member in enumerate(found.members.tolist()) if member in asked]
    name = {m: project.members[int(found.members[m])].name for m in rows}
    worst = {m: found.worst(m) for m in rows}
    known = [m for m in rows if not found.lost[m]]
    lost = [(name[m], found.lost[m]) for m in rows if found.lost[m]]
    lost += [(name[m], f"{words} is not checked") for m in known for words in found.not_checked(m)]
    if withheld:
        lost.insert(0, ("steel members", withheld))
    place = [f"{name[m]}, {found.checks[worst[m]]}" for m in known]
    value = np.array([[0.0, found.use[m, worst[m]]] for m in known]).reshape(-1, 2)
    x = np.array([[found.x[m, worst[m]]] * 2 for m in known]).reshape(-1, 2)

    def made(row: Ints, side: Ints) -> list[tuple[str, str]]:
        at = [int(found.result[known[i], worst[known[i]]]) for i in row.tolist()]
        return [(found.results[r].name, found.how[r]) for r in at]

    notes = [NEVER_CHECKED + ("" if found.rule.load_height else "; loads across members act at the shear centre")]
    twisted = [m for m in known if found.warps[m] > 0 and not found.not_checked(m)]
    if twisted:
        most = max(twisted, key=lambda m: found.warps[m])
        notes.append(f"torsion by warping takes {found.warping(most)} ({name[most]}), by its bound T a tanh(L/a)")
    return lambda of: Found(place, value, made, x, lost=tuple(lost), notes=tuple(notes))


def deflections_of(solution: Solution, results: Results, limit: Limit) -> Of:
    """Deflections of a limit's members. Results that move stand already."""
    members = np.array(limit.on, np.intp)
    free = patterns(solution, results)
    how = [said(h, r.second_order_at) for r, h in zip(results, solution.how(results), strict=True)]
    tried: Sequence[tuple[Result, str]]
    if free.case:
        tried, weights = _worst_patterns(solution, free, how, members, limit)
    else:
        tried, weights = list(zip(results, how, strict=True)), solution.weights(results)
    found = extreme_deflections(solution, weights, members, limit.against)
    several = {m for m in found.member.tolist() if (found.member == m).sum() > 1}
    place = [
        solution.project.members[m].name + (f", {words}" if m in several or words.startswith("overhang") else "")
        for m, words in zip(found.member.tolist(), found.words, strict=True)
    ]
    span = np.full(len(place), limit.span) if not np.isnan(limit.span) else found.span

    def of(component: str) -> Found:
        c = ("across", "y", "z").index(component)

        def made(row: Ints, side: Ints) -> list[tuple[str, str]]:
            return [(tried[r][0].name, tried[r][1]) for r in found.result[row, c, side].tolist()]

        def explained(row: int, side: int, solved: Solution, weights: Floats) -> list[Sum]:
            at = np.array([found.member[row]]), found.x[row, [c], side]
            own = deflection_at(solved, weights[:, None], *at, limit.against)[:, 0]
            toward = np.eye(2)[c - 1] if c else own / max(float(np.linalg.norm(own)), TINY)

            def value(table: Columns, by: Floats) -> Floats:
                return np.asarray(toward @ deflection_at(table, by, *at, limit.against))

            return [Sum(component, "displacement", place[row], value, int(at[0][0]), float(at[1][0]))]

        return Found(place, found.value[:, c], made, found.x[:, c], span, sums=explained)

    return of


def _six(table: Columns, member: int, x: float, side: int, by: Floats) -> Floats:
    """The six forces (6, results) of a member at x [m], where one jumps there on its left (-1) or right (1)."""
    return np.stack([value_of(table, Target("force", member, c), by, x, side) for c in range(6)])


def _toward(share: Floats, at: tuple[int, float], solved: Solution, weights: Floats) -> Floats:
    """What six forces make of the length of a vector, shares (parts, 6) of them, along what it is under some weights:
    the sum is the length itself, and linear."""
    each = [share @ _six(solved, *at, side, weights[:, None])[:, 0] for side in (-1, 1)]
    own = max(each, key=lambda v: float(np.linalg.norm(v)))
    return np.asarray(own / max(float(np.linalg.norm(own)), TINY) @ share)


def _sum(
    of: str, kind: Kind, at: tuple[int, float], along: Floats, solved: Solution, weights: Floats, more: str = ""
) -> Sum:
    """A sum of six forces, shares (6,) of them, at x [m] of a member; on the side of it where that is larger."""
    side = max((-1, 1), key=lambda s: abs(float(along @ _six(solved, *at, s, weights[:, None])[:, 0])))
    name = solved.project.members[at[0]].name
    return Sum(of, kind, f"{name}{more}", lambda t, by: np.asarray(along @ _six(t, *at, side, by)), *at)


def _worst_patterns(
    solution: Solution, free: Patterns, how: Sequence[str], members: Ints, limit: Limit
) -> tuple[list[tuple[Result, str]], Floats]:
    """The patterns that deflect a bay most in some direction at some of even steps, and their weights: among them are
    those that do so anywhere, but where a pattern is the worst between two steps only."""
    count = free.base.shape[1]
    angle = np.arange(DIRECTIONS) * np.pi / DIRECTIONS
    turn = np.column_stack([np.cos(angle), np.sin(angle)])
    chosen: dict[tuple[int, bytes], np.ndarray] = {}
    for m in members:
        values, part = deflections_at(solution, np.hstack([free.base, free.parts]), np.array([m]), limit.against, STEPS)
        along = np.einsum("dc,ncr->dnr", turn, values)
        share = along[:, :, count:, None] * free.factor
        for sign in (-1.0, 1.0):
            there = sign * share > 0
            whole = along[:, :, :count] + np.where(there, share, 0.0).sum(axis=2)
            for bay in np.unique(part).tolist():
                own = np.flatnonzero(part == bay)
                flat = (sign * whole[:, own]).reshape(DIRECTIONS, -1)
                at, r = np.unravel_index(flat.argmax(axis=1), (len(own), count))
                for d in range(DIRECTIONS):
                    parts = there[d, own[at[d]], :, r[d]]
                    chosen.setdefault((int(r[d]), parts.tobytes()), parts)
    tried = [(free.pattern(r, parts), how[r]) for (r, _), parts in chosen.items()]
    return tried, np.column_stack([free.weights_of(r, parts) for (r, _), parts in chosen.items()])
