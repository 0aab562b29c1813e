"""Frames for tests of the core, put together from records, without any file."""

from __future__ import annotations

import numpy as np

from empuje.core.analysis.critical import lowest_factors
from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.polynomials import value_at
from empuje.core.analysis.solution import Solution
from empuje.core.analysis.solve import cut, first_order, solve
from empuje.core.findings.every import suspicious
from empuje.core.model.cases import Case, Combination
from empuje.core.model.combining import Combining
from empuje.core.model.findings import Place
from empuje.core.model.frame import Material, Member, Node, Section, Support
from empuje.core.model.loads import END, START, Direction, LineLoad, NodeLoad, PointLoad, Position
from empuje.core.model.project import Project
from empuje.core.resolve import resolve

HERE = Place("test.toml", 1)
E, G = 2.1e11, 8.1e10
SECTION = Section("s", A=8e-3, Iy=9e-5, Iz=2.3e-5, J=4e-7)
STEEL = Material("steel", E, G, 7850.0, 1.2e-5)
FIXED, PINNED = (True,) * 6, (True, True, True, False, False, False)
RIGID, HINGED = (np.inf,) * 6, (np.inf, np.inf, np.inf, np.inf, 0.0, 0.0)
FREEDOMS = ("x", "y", "z", "rx", "ry", "rz")
X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


def toward(vector, local=False):
    return Direction(tuple(float(v) for v in vector), local)


def held(words):
    return tuple(f in words.split() for f in FREEDOMS)


def line(members, q0, q1=None, at=(START, END), way=toward((0, 0, -1)), case="Q", projected=False):
    points = ((at[0], q0), (at[1], q0 if q1 is None else q1))
    return LineLoad(case, tuple(np.atleast_1d(members).tolist()), points, way, projected, "line", HERE)


def point(members, value, s, kind="force", way=toward((0, 0, -1)), case="Q"):
    return PointLoad(case, tuple(np.atleast_1d(members).tolist()), kind, value, (Position(s),), way, "point", HERE)


def at_node(node, value, kind="force", way=toward((0, 0, -1)), case="Q"):
    return NodeLoad(case, (node,), kind, value, way, "node", HERE)


def project(xyz, members, supports, loads, plane=False, combinations=(), self_weight=0.0):
    """members: (start, end) or (start, end, overrides); supports: {node: held}."""
    nodes = tuple(Node(f"n{i}", tuple(map(float, p)), HERE) for i, p in enumerate(xyz))
    parts = []
    for i, (a, b, *rest) in enumerate(members):
        options = {"section": SECTION, "material": STEEL} | (rest[0] if rest else {})
        parts.append(Member(f"m/{i}", "m", a, b, place=HERE, **options))
    held = tuple(Support(n, h, HERE) for n, h in supports.items())
    names = list(dict.fromkeys(["Q", *(load.case for load in loads)]))
    cases = tuple(Case(n, "live", "", self_weight, HERE) for n in names)
    combined = tuple(Combination(n, tuple(f.items()), "strength", HERE) for n, f in dict(combinations).items())
    return Project(
        "test.toml",
        "",
        plane,
        ("kN", "m"),
        ("kN", "m", "mm", "MPa"),
        nodes,
        tuple(parts),
        held,
        cases,
        tuple(loads),
        Combining(combined),
    )


def solved(*arguments, **options) -> Solution:
    return solve(fine(project(*arguments, **options)))


def critical(solution, name):
    """The lowest critical load factor of a result."""
    first = first_order(solution.model)
    wanted = named(first.solution, [name])
    prepared = cut(first, wanted)
    mix = prepared.solution.weights(wanted, reduced=False)
    return float(lowest_factors(prepared.equations, prepared.solution, mix, prepared.parts)[0, 0])


def fine(frame):
    """The frame with all that follows from it, which must be flawless; random loads may look like slips."""
    found = resolve(frame)
    odd = [f for f in found.findings if f.level != "note" and f.code not in ("empty-case", "unused-node")]
    assert not [f for f in odd if f not in suspicious(found)]
    return found


def named(model, names):
    """The results of a model or solution that are called so; one for one name."""
    by_name = {r.name: r for r in model.results}
    return by_name[names] if isinstance(names, str) else [by_name[n] for n in names]


def inside(solution, member, s, which="force", case="Q"):
    """N Vy Vz T My Mz (or ux .. rz in member axes) at s, left of any jump."""
    pieces = build_pieces(solution, np.array([member]), solution.weights(named(solution, [case])), which == "shape")
    i = max(int(np.searchsorted(pieces.start, s - 1e-9)) - 1, 0)
    return value_at(getattr(pieces, which)[[i]], np.array([s - pieces.start[i]]))[0, :, 0]
