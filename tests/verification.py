"""Known answers beside ours: the problems of docs/verification.md, which `python tests/verification.py` writes anew."""

from __future__ import annotations

import math
import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from scipy.integrate import quad
from scipy.optimize import brentq

from build import (
    FIXED,
    HERE,
    HINGED,
    PINNED,
    SECTION,
    E,
    G,
    at_node,
    critical,
    held,
    inside,
    line,
    named,
    point,
    project,
    toward,
)  # fmt: skip
from empuje.core.actions.surfaces.distribution.to_nodes import Cell
from empuje.core.actions.totals import applied_totals
from empuje.core.actions.traffic.cranes import asce as crane_by_asce
from empuje.core.actions.traffic.cranes import en as crane_by_en
from empuje.core.analysis.solve import solve
from empuje.core.answers.deflection import largest_deflections
from empuje.core.answers.envelope import extremes
from empuje.core.catalogue.catalogue import find_section
from empuje.core.load_path.live_load_reduction import METRIC, US, VALUES_EN, _asce, _en, _OnCases
from empuje.core.load_path.take_down import take_down
from empuje.core.model.cases import Case
from empuje.core.model.combining import Combining
from empuje.core.model.crane import Crane
from empuje.core.model.findings import Place
from empuje.core.model.frame import Diaphragm, Material, Section, Support
from empuje.core.model.loads import Position, Settlement, Strain
from empuje.core.model.words import CraneCode, Hoisting, Operated
from empuje.core.resolve import resolve
from empuje.core.steel import elastic
from empuje.core.steel.aisc360 import compression as aisc_compression
from empuje.core.steel.aisc360 import flexure as aisc_flexure
from empuje.core.steel.aisc360 import shear as aisc_shear
from empuje.core.steel.aisc360.combined import with_axial
from empuje.core.steel.aisc360.factors import Factors as AiscFactors
from empuje.core.steel.en1993 import buckling
from empuje.core.steel.en1993.classes import classes
from empuje.core.steel.en1993.factors import Factors as EnFactors
from empuje.core.steel.en1993.resistance import section_use
from empuje.core.steel.saying import Steps
from empuje.core.steel.shapes import shapes_of
from models import resolved
from moving import beam as traffic_beam
from moving import case as traffic_case
from moving import study
from plates import buckling as plates_buckling
from plates import published
from snows import ASCE_16, ASCE_22, EN, gable, rectangle, roofs
from winds import canopy, hall, halls

PAGE = Path(__file__).parents[1] / "docs" / "verification.md"
L, q, P = 6.4, 5e3, 8e3
EI, EA, GJ = E * SECTION.Iy, E * SECTION.A, G * SECTION.J
X, UP = toward((1, 0, 0)), toward((0, 0, 1))
ROLLER = (False, False, True, False, False, False)
STIFF = replace(SECTION, A=1e3)
HAND, ROARK, GERE, KLEINLOGEL = (
    "statics",
    "Roark, tables 8.1 and 8.2",
    "Timoshenko and Gere, Elastic Stability",
    "Kleinlogel, frames",
)
AISC = "AISC 360-16 Commentary, C2.1"


@dataclass(frozen=True)
class Value:
    """A quantity of a problem with its unit, the known value and ours, and the relative error allowed."""

    problem: str
    source: str
    quantity: str
    known: float
    ours: float
    allowed: float = 1e-9

    @property
    def error(self) -> float:
        return abs(self.ours - self.known) / (abs(self.known) or 1.0)


def answer(xyz, members, supports, loads, under=None, bent=False, more=(), floors=(), cases=(), plane=True):
    frame = project(xyz, members, supports, loads, plane=plane, combinations=under or {"U": {"Q": 1.0}})
    frame = replace(
        frame, supports=frame.supports + tuple(more), diaphragms=tuple(floors), cases=frame.cases + tuple(cases),
        second_order=("*",) if bent else (),
    )  # fmt: skip
    return solve(resolve(frame))


def beam(loads, left=PINNED, right=ROLLER, **options):
    return answer([(0, 0, 0), (L, 0, 0)], [(0, 1, options.pop("member", {}))], {0: left, 1: right}, loads, **options)


def strain(**values):
    kinds = {"temperature": 0.0, "gradient_y": 0.0, "gradient_z": 0.0, "lack_of_fit": 0.0} | values
    return Strain("Q", (0,), **kinds, text="", place=HERE)


def My(s, x, member=0, case="Q"):
    return inside(s, member, x, case=case)[4]


def w(s, x, member=0, case="Q"):
    return inside(s, member, x, "shape", case)[2]


def u(s, node, freedom, case="U"):
    return float(s.displacement[node, freedom] @ s.weights(named(s, [case]))[:, 0])


def R(s, rank, freedom, case="U"):
    return float(s.reaction[rank, freedom] @ s.weights(named(s, [case]))[:, 0])


def beams():
    s = beam([line(0, q)])
    yield "simple beam, even load", ROARK, "M at mid-span", q * L**2 / 8, My(s, L / 2)
    yield "", "", "deflection", -5 * q * L**4 / (384 * EI), w(s, L / 2)
    s = beam([line(0, 0.0, q)])
    yield "simple beam, triangular load", ROARK, "M at L/sqrt 3", q * L**2 / (9 * math.sqrt(3)), My(s, L / math.sqrt(3))
    yield "", "", "deflection at mid-span", -5 * q * L**4 / (768 * EI), w(s, L / 2)
    a, b = 0.35 * L, 0.65 * L
    s = beam([point(0, P, a)])
    yield "simple beam, force at a", ROARK, "M under it", P * a * b / L, My(s, a)
    yield "", "", "deflection under it", -P * a**2 * b**2 / (3 * EI * L), w(s, a)
    s = beam([point(0, P, a, "moment", toward((0, 1, 0)))])
    yield "simple beam, moment at a", ROARK, "left reaction", -P / L, R(s, 0, 2)
    c = 0.25 * L
    s = beam([line(0, q, at=(Position(c), Position(L - c)))])
    yield (
        "simple beam, load on the middle half",
        HAND,
        "M at mid-span",
        q * (L - 2 * c) / 2 * (L / 2) - q * (L / 2 - c) ** 2 / 2,
        My(s, L / 2),
    )
    s = beam([line(0, q)], FIXED, FIXED)
    yield "fixed beam, even load", ROARK, "M at the end", -q * L**2 / 12, My(s, 0.0)
    yield "", "", "M at mid-span", q * L**2 / 24, My(s, L / 2)
    yield "", "", "deflection", -q * L**4 / (384 * EI), w(s, L / 2)
    s = beam([point(0, P, a)], FIXED, FIXED)
    yield "fixed beam, force at a", ROARK, "M at the start", -P * a * b**2 / L**2, My(s, 0.0)
    yield "", "", "M at the end", -P * a**2 * b / L**2, My(s, L)
    s = beam([line(0, 0.0, q)], FIXED, FIXED)
    yield "fixed beam, triangular load", ROARK, "M at the start", -q * L**2 / 30, My(s, 0.0)
    yield "", "", "M at the end", -q * L**2 / 20, My(s, L)
    s = beam([point(0, P, a, "moment", toward((0, 1, 0)))], FIXED, FIXED)
    yield "fixed beam, moment at a", ROARK, "start reaction", -6 * P * a * b / L**3, R(s, 0, 2)
    s = beam([line(0, q)], FIXED, ROLLER)
    yield "propped cantilever, even load", ROARK, "prop", 3 * q * L / 8, R(s, 1, 2)
    yield "", "", "M at the root", -q * L**2 / 8, My(s, 0.0)
    free = (False,) * 6
    s = beam([line(0, q)], FIXED, free)
    yield "cantilever, even load", ROARK, "deflection of the tip", -q * L**4 / (8 * EI), u(s, 1, 2)
    s = beam([at_node(1, P, "moment", toward((0, 1, 0)))], FIXED, free)
    yield "cantilever, moment at the tip", ROARK, "deflection of the tip", -P * L**2 / (2 * EI), u(s, 1, 2)
    shear = {"section": replace(SECTION, Ay=2e-3, Az=3e-3), "shear": True}
    s = beam([at_node(1, P)], FIXED, free, member=shear)
    yield (
        "Timoshenko cantilever, force",
        "PL^3/3EI + PL/GA",
        "deflection of the tip",
        -P * L**3 / (3 * EI) - P * L / (G * 3e-3),
        u(s, 1, 2),
    )
    s = beam([line(0, q)], FIXED, free, member=shear)
    yield (
        "Timoshenko cantilever, even load",
        "qL^4/8EI + qL^2/2GA",
        "deflection of the tip",
        -q * L**4 / (8 * EI) - q * L**2 / (2 * G * 3e-3),
        u(s, 1, 2),
    )
    s = beam([strain(temperature=30.0)], FIXED, FIXED)
    yield "fixed bar, 30 K warmer", "EA alpha T", "N", -EA * 1.2e-5 * 30, inside(s, 0, 1.0)[0]
    s = beam([strain(gradient_z=20.0)], FIXED, FIXED)
    yield "fixed beam, 20 K/m across", "EI alpha T'", "M", EI * 1.2e-5 * 20, My(s, 1.0)
    s = beam([strain(lack_of_fit=2e-3)], FIXED, FIXED)
    yield "fixed bar, 2 mm too long", "EA m/L", "N", -EA * 2e-3 / L, inside(s, 0, 1.0)[0]
    d = -0.01
    s = beam([Settlement("Q", (1,), (0, 0, d, 0, 0, 0), "", HERE)], FIXED, FIXED)
    yield "fixed beam, end sinks", "6 EI d/L^2", "M at the start", 6 * EI * d / L**2, My(s, 0.0)


def continuous():
    xyz = [(0, 0, 0), (2 * L, 0, 0), (L, 0, 0)]
    s = answer(xyz, [(0, 1)], {0: PINNED, 1: ROLLER, 2: ROLLER}, [line(0, q)])
    yield "two equal spans, even load", ROARK, "M over the middle", -q * L**2 / 8, My(s, L)
    yield "", "", "middle reaction", 1.25 * q * L, R(s, 2, 2)
    d = -0.012
    s = answer(xyz, [(0, 1)], {0: PINNED, 1: ROLLER, 2: ROLLER}, [Settlement("Q", (2,), (0, 0, d, 0, 0, 0), "", HERE)])
    yield "two equal spans, middle sinks by d", "3 EI d/L^2", "M over the middle", -3 * EI * d / L**2, My(s, L)
    k = 2e6
    s = answer(
        xyz, [(0, 1)], {0: PINNED, 1: ROLLER}, [line(0, q)], more=[Support(2, (False,) * 6, HERE, (0, 0, k, 0, 0, 0))]
    )
    spring = 5 * q * (2 * L) ** 4 / (384 * EI) / ((2 * L) ** 3 / (48 * EI) + 1 / k)
    yield "two equal spans, middle on a spring k", "force method", "force in the spring", spring, R(s, 2, 2)
    xyz = [(0, 0, 0), (3 * L, 0, 0), (L, 0, 0), (2 * L, 0, 0)]
    s = answer(xyz, [(0, 1)], {0: PINNED, 1: ROLLER, 2: ROLLER, 3: ROLLER}, [line(0, q)])
    yield "three equal spans, even load", ROARK, "M over the second support", -0.1 * q * L**2, My(s, L)
    yield "", "", "first reaction", 0.4 * q * L, R(s, 0, 2)
    yield "", "", "second reaction", 1.1 * q * L, R(s, 2, 2)
    c = 6e6
    s = beam([line(0, q)], PINNED, ROLLER, more=[Support(0, (False,) * 6, HERE, (0, 0, 0, 0, c, 0))])
    yield (
        "simple beam, one end on a rotational spring c",
        "force method",
        "M there",
        -q * L**3 / (24 * EI) / (L / (3 * EI) + 1 / c),
        My(s, 0.0),
    )
    lifting = [Support(2, ROLLER, HERE, lift=True)]
    s = answer(
        [(0, 0, 0), (2 * L, 0, 0), (L, 0, 0), (3 * L, 0, 0)],
        [(0, 3)],
        {0: PINNED, 1: ROLLER},
        [at_node(3, P)],
        more=lifting,
    )
    yield "overhanging beam lifts off its middle support", HAND, "left reaction", -P / 2, R(s, 0, 2)
    yield "", "", "middle reaction", 0.0, R(s, 2, 2)


def frames():
    h, b = 4.0, 7.0
    xyz = [(0, 0, 0), (0, 0, h), (b, 0, h), (b, 0, 0)]
    column, girder = {"section": STIFF, "roll": math.pi / 2}, {"section": STIFF}
    k = SECTION.Iy / SECTION.Iz * h / b
    members = [(0, 1, column), (1, 2, girder), (3, 2, column)]
    s = answer(xyz, members, {0: PINNED, 3: PINNED}, [line(1, q)])
    yield "portal, pinned feet, even load", KLEINLOGEL, "thrust", q * b**2 / (4 * h * (2 * k + 3)), R(s, 0, 0), 1e-6
    s = answer(xyz, members, {0: FIXED, 3: FIXED}, [line(1, q)])
    yield "portal, fixed feet, even load", KLEINLOGEL, "thrust", q * b**2 / (4 * h * (k + 2)), R(s, 0, 0), 1e-6
    s = answer(xyz, members, {0: FIXED, 3: FIXED}, [at_node(1, P, way=X)])
    foot = P * h / 2 * (3 * k + 1) / (6 * k + 1)
    yield "portal, fixed feet, force at the eaves", KLEINLOGEL, "moment at the feet", foot, abs(R(s, 0, 4)), 1e-6
    bar = {"bar": True, "joints": HINGED + HINGED}
    s = answer([(-3, 0, 4), (3, 0, 4), (0, 0, 0)], [(0, 2, bar), (1, 2, bar)], {0: PINNED, 1: PINNED}, [at_node(2, P)])
    yield "two bars at 3 : 4", HAND, "N", P / 2 / 0.8, inside(s, 0, 1.0)[0]
    yield "", "", "deflection", -P * 5 / (2 * EA * 0.64), u(s, 2, 2)
    legs = np.array([(3, 0, 0), (-1.5, 2, 0), (-1, -2.5, 0)], float)
    top = np.array([0, 0, 4.0])
    load = np.array([2e3, -1e3, -6e3])
    loads = [at_node(3, abs(v), way=toward(np.sign(v) * axis)) for v, axis in zip(load, np.eye(3), strict=True)]
    s = answer([*legs, top], [(i, 3, bar) for i in range(3)], dict.fromkeys(range(3), PINNED), loads, plane=False)
    ways = (legs - top) / np.linalg.norm(legs - top, axis=1)[:, None]
    for i, N in enumerate(np.linalg.solve(ways.T, -load)):
        yield (
            "tripod in space, slanting force" if not i else "",
            HAND if not i else "",
            f"N of leg {i + 1}",
            N,
            inside(s, i, 1.0)[0],
        )
    a, c = 3.0, 2.0
    s = answer([(0, 0, 0), (a, 0, 0), (a, c, 0)], [(0, 1), (1, 2)], {0: FIXED}, [at_node(2, P)], plane=False)
    yield (
        "bent cantilever in plan, force at the tip",
        "unit load",
        "deflection",
        -P * (a**3 / 3 / EI + c**3 / 3 / EI + a * c**2 / GJ),
        u(s, 2, 2),
    )
    yield "", HAND, "torsion of the first leg", P * c, abs(inside(s, 0, 1.0)[3])
    tie = {**bar, "acts": "tension"}
    bay = [(0, 0, 0), (3, 0, 0), (0, 0, 4), (3, 0, 4)]
    sides = [(0, 2, bar), (1, 3, bar), (2, 3, bar), (0, 3, tie), (1, 2, tie)]
    push = [at_node(2, 1e4, way=X, case="R"), at_node(3, 1e4, way=toward((-1, 0, 0)), case="L")]
    s = answer(bay, sides, {0: PINNED, 1: PINNED}, push, {"both": {"R": 1.0, "L": 1.0}})
    for case, loads in (("R", (1e4 * 5 / 3, 0.0)), ("L", (0.0, 1e4 * 5 / 3)), ("both", (0.0, 0.0))):
        for i, N in enumerate(loads):
            what = f"N of tie {i + 1} under {case}"
            yield (
                "bay with crossed ties, a force at either eave" if (case, i) == ("R", 0) else "",
                HAND if (case, i) == ("R", 0) else "",
                what,
                N,
                inside(s, 3 + i, 1.0, case=case)[0],
                1e-8,
            )
    m, n = 0.5, 0.3
    s = beam([line(0, q)], FIXED, FIXED, member={"offsets": (m, n)})
    clear = L - m - n
    yield "fixed beam with rigid ends", "qL^2/12 of the clear length", "M at the face", -q * clear**2 / 12, My(s, m)
    yield "", HAND, "M at the node", -q * clear**2 / 12 - q * clear / 2 * m - q * m**2 / 2, My(s, 0.0)
    t = 0.4
    slope = Support(1, ROLLER, HERE, axes=((math.cos(t), 0, -math.sin(t)), (0, 1, 0), (math.sin(t), 0, math.cos(t))))
    s = beam([line(0, q)], PINNED, (False,) * 6, more=[slope])
    yield "beam on a roller on a slope", HAND, "N", q * L / 2 * math.tan(t), inside(s, 0, 1.0)[0]
    sway = Case("LX", "notional", "", 0.0, HERE, 1 / 200, (1.0, 0.0, 0.0))
    s = answer(xyz, members, {0: FIXED, 3: FIXED}, [line(1, q)], {"U": {"Q": 1.5, "LX": 1.0}}, cases=[sway])
    yield "portal, notional load of 1/200", HAND, "base shear", -1.5 * q * b / 200, R(s, 0, 0) + R(s, 1, 0), 1e-7


def floors():
    tops, h = np.array([(0, 0), (9, 0), (9, 6), (1, 7)], float), 3.6
    size = np.array([1.0, 2.5, 0.7, 1.6])
    xyz = [(x, y, z) for z in (0, h) for x, y in tops]
    posts = [
        (i, i + 4, {"section": replace(SECTION, Iy=SECTION.Iy * f, Iz=SECTION.Iz * f, J=SECTION.J * f)})
        for i, f in enumerate(size)
    ]
    s = answer(
        xyz,
        posts,
        dict.fromkeys(range(4), FIXED),
        [at_node(6, P, way=X)],
        floors=[Diaphragm("f", (4, 5, 6, 7), HERE)],
        plane=False,
    )
    kx, ky, kt = size * 3 * EI / h**3, size * 3 * E * SECTION.Iz / h**3, size * GJ / h
    x, y = (tops - (ky @ tops[:, 0] / ky.sum(), kx @ tops[:, 1] / kx.sum())).T
    turn = -P * y[2] / (kx @ y**2 + ky @ x**2 + kt.sum())
    for i in range(4):
        yield (
            "rigid floor on four posts, eccentric force" if not i else "",
            "torsion formula" if not i else "",
            f"shear of post {i + 1}",
            -kx[i] * (P / kx.sum() - turn * y[i]),
            R(s, i, 0),
        )


def _stability_sway(thrust, EI):
    """Sway stiffness of a post whose ends do not turn: P k / (2 tan(kL/2) - kL), 12 EI/L^3 without thrust."""
    k = math.sqrt(thrust / EI)
    return thrust * k / (2 * math.tan(k * L / 2) - k * L)


def stability():
    column = [(0, 0, 0), (0, 0, L)]
    weak = E * SECTION.Iz
    root = brentq(lambda v: math.tan(v) - v, 4.4, 4.6)
    for name, foot, top, share in (
        ("cantilever", FIXED, held("x ry rz"), math.pi**2 / 4), ("pinned", held("x y z ry rz"), held("x y ry rz"), math.pi**2),
        ("fixed and pinned", FIXED, held("x y ry rz"), root**2), ("fixed", FIXED, held("x y rx ry rz"), 4 * math.pi**2),
        ("fixed, top slides", FIXED, held("x rx ry rz"), math.pi**2),
    ):  # fmt: skip
        s = answer(column, [(0, 1)], {0: foot, 1: top}, [at_node(1, 1e5)], bent=True, plane=False)
        yield (
            f"Euler column, {name}",
            GERE + ", 2.1",
            "critical load",
            share * weak / L**2,
            critical(s, "U") * 1e5,
            1e-7,
        )
    s = answer(column, [(0, 1)], {0: FIXED}, [line(0, 1e3)], bent=True, plane=False)
    yield (
        "cantilever column under its own weight",
        GERE + ", 2.12",
        "q L^3/EI",
        7.837347,
        critical(s, "U") * 1e3 * L**3 / weak,
        1e-6,
    )
    stocky = {"section": replace(SECTION, Ay=2e-4, Az=2e-4), "shear": True}
    s = answer(
        column,
        [(0, 1, stocky)],
        {0: held("x y z ry rz"), 1: held("x y ry rz")},
        [at_node(1, 1e5)],
        bent=True,
        plane=False,
    )
    euler = math.pi**2 * weak / L**2
    yield (
        "pinned column, soft in shear",
        GERE + ", 2.17",
        "critical load",
        euler / (1 + euler / (G * 2e-4)),
        critical(s, "U") * 1e5,
        1e-9,
    )
    c = 3 * weak / L
    root = brentq(lambda v: math.tan(v) + 2 * weak / (c * L) * v, math.pi / 2 + 1e-9, math.pi)
    sprung = {"joints": ((np.inf,) * 5 + (c,)) * 2}
    s = answer(column, [(0, 1, sprung)], {0: FIXED, 1: held("x y rx ry rz")}, [at_node(1, 1e5)], bent=True, plane=False)
    yield (
        "column with rotational springs c at both ends",
        GERE + ", 2.3",
        "critical load",
        (2 * root / L) ** 2 * weak,
        critical(s, "U") * 1e5,
        1e-7,
    )
    four = [(x, y, z) for z in (0, L) for x, y in ((0, 0), (5, 0), (5, 4), (0, 4))]
    floor = [Diaphragm("f", (4, 5, 6, 7), HERE)]
    loads = [at_node(n, f * 1e5) for n, f in zip(range(4, 8), (0.4, 2.0, 0.7, 0.9), strict=True)]
    feet = dict.fromkeys(range(4), FIXED)
    tops = dict.fromkeys(range(4, 8), held("rx ry"))
    s = answer(four, [(i, i + 4) for i in range(4)], feet | tops, loads, bent=True, floors=floor, plane=False)
    shares, (x, y) = np.array([0.4, 2.0, 0.7, 0.9]) * 1e5, np.array(four[:4])[:, :2].T

    def left(factor):
        """The least eigenvalue of the floor's stiffness in y, rz and x."""
        ky, kx = (np.array([_stability_sway(factor * f, rigidity) for f in shares]) for rigidity in (weak, EI))
        plan = np.array(
            [[ky.sum(), ky @ x, 0], [ky @ x, ky @ x**2 + kx @ y**2 + 4 * GJ / L, -(kx @ y)], [0, -(kx @ y), kx.sum()]]
        )
        return np.linalg.eigvalsh(plan)[0]

    lowest = brentq(left, 1.0, 20.0)
    yield (
        "rigid floor on four posts with different loads",
        "stability functions",
        "load factor",
        lowest,
        critical(s, "U"),
        1e-7,
    )
    xyz = [(0, 0, 0), (0, 0, 4), (6, 0, 4), (6, 0, 0)]
    post, girder = {"section": STIFF, "roll": math.pi / 2}, {"section": STIFF}
    n = SECTION.Iy / 6 / (SECTION.Iz / 4)
    fixed = brentq(lambda v: -v / math.tan(v) - 6 * n, math.pi / 2 + 1e-9, math.pi - 1e-9)
    pinned = brentq(lambda v: v * math.tan(v) - 6 * n, 1e-9, math.pi / 2 - 1e-9)
    for name, foot, root in (("fixed", FIXED, fixed), ("pinned", PINNED, pinned)):
        s = answer(
            xyz,
            [(0, 1, post), (1, 2, girder), (3, 2, post)],
            {0: foot, 3: foot},
            [at_node(1, P), at_node(2, P)],
            bent=True,
        )
        yield (
            f"sway portal, {name} feet",
            GERE + ", 2.4",
            "critical load",
            root**2 * weak / 16,
            critical(s, "U") * P,
            1e-6,
        )
    for share in (0.2, 0.5, 0.8, 0.95):
        thrust, H = share * math.pi**2 * weak / (4 * L**2), 1e3
        k = math.sqrt(thrust / weak)
        loads = [at_node(1, thrust), at_node(1, H, way=toward((0, 1, 0)))]
        s = answer(column, [(0, 1)], {0: FIXED}, loads, bent=True, plane=False)
        yield (
            f"cantilever with thrust, {share:g} of critical",
            GERE + ", 1.4",
            "M at the root",
            H * math.tan(k * L) / k,
            abs(inside(s, 0, 0.0, case="U")[5]),
            1e-8,
        )
        yield "", "", "deflection of the top", H / thrust * (math.tan(k * L) / k - L), u(s, 1, 1), 1e-8


KIP, INCH = 4448.2216152605, 0.0254
SPAN = 336 * INCH
W14X48 = Section(
    "W14X48",
    A=14.1 * INCH**2,
    Iy=484 * INCH**4,
    Iz=51.4 * INCH**4,
    J=1.45 * INCH**4,
    Ay=9.56 * INCH**2,
    Az=4.69 * INCH**2,
)
A992 = Material("A992", 29000 * KIP / INCH**2, 11200 * KIP / INCH**2, 7850.0, 1.2e-5)
CASE_1 = {
    0: (235, 0.202, 235, 0.197),
    150: (270, 0.230, 269, 0.224),
    300: (316, 0.269, 313, 0.261),
    450: (380, 0.322, 375, 0.311),
}
CASE_2 = {
    0: (336, 0.907, 336, 0.901),
    100: (470, 1.34, 469, 1.33),
    150: (601, 1.77, 598, 1.75),
    200: (856, 2.60, 848, 2.56),
}


def benchmarks():
    """Published in kip and inch, to three figures."""
    for shear in (True, False):
        member = {"section": W14X48, "material": A992, "shear": shear}
        word = "with" if shear else "without"
        for thrust, row in CASE_1.items():
            loads = [line(0, 0.2 * KIP / (12 * INCH)), at_node(1, thrust * KIP, way=toward((-1, 0, 0)))]
            s = answer([(0, 0, 0), (SPAN, 0, 0)], [(0, 1, member)], {0: PINNED, 1: ROLLER}, loads, bent=True)
            M, d = row[:2] if shear else row[2:]
            yield (
                f"benchmark beam-column 1, P = {thrust} kip, {word} shear",
                AISC,
                "M at mid-span [kip in]",
                M,
                My(s, SPAN / 2, case="U") / (KIP * INCH),
                4e-3,
            )
            yield "", "", "deflection [in]", d, -w(s, SPAN / 2, case="U") / INCH, 4e-3
        for thrust, row in CASE_2.items():
            loads = [at_node(1, KIP, way=X), at_node(1, thrust * KIP)]
            s = answer([(0, 0, 0), (0, 0, SPAN)], [(0, 1, member)], {0: FIXED}, loads, bent=True)
            M, d = row[:2] if shear else row[2:]
            yield (
                f"benchmark beam-column 2, P = {thrust} kip, {word} shear",
                AISC,
                "M at the root [kip in]",
                M,
                abs(My(s, 0.0, case="U")) / (KIP * INCH),
                4e-3,
            )
            yield "", "", "deflection [in]", d, u(s, 1, 0) / INCH, 4e-3


def edges():
    """Second order where ends slip, at 1.6, at corners of N; deflections of bays; take-down by levers; factors of codes."""
    H, N, c, height = 2e4, 5e5, 1e6, 4.0
    k = math.sqrt(N / EI)
    joints = (np.inf, np.inf, c, np.inf, np.inf, np.inf, *(np.inf,) * 6)
    loads = [at_node(1, N), at_node(1, H, way=X)]
    s = answer([(0, 0, 0), (0, 0, height)], [(0, 1, {"joints": joints})], {0: FIXED}, loads, bent=True)
    own = H * math.tan(k * height) / k
    yield (
        "column, foot sprung across, thrust",
        "equilibrium as deformed",
        "M of the foot's node",
        own + N * H / c,
        abs(R(s, 0, 4)),
        1e-8,
    )
    yield "", "", "M of the member beside it", own, abs(My(s, 0.0, case="U")), 1e-8
    frame = project(
        [(0, 0, 0), (0, 0, height)], [(0, 1)], {0: FIXED}, loads, plane=True, combinations={"U": {"Q": 1.0}}
    )
    frame = replace(
        frame, second_order=("*",), combining=Combining((replace(frame.combining.custom[0], second_order_at=1.6),))
    )
    s, k16 = solve(resolve(frame)), math.sqrt(1.6 * N / EI)
    yield (
        "allowable-stress cantilever at 1.6",
        "AISC 360, C2.1",
        "M at the root",
        H * math.tan(k16 * height) / k16,
        abs(R(s, 0, 4)),
        1e-8,
    )
    x = brentq(lambda x: 3 + x / math.tan(x / 2) / 2 - x**2 / 12, 3.5, 5.0)
    load = x**2 * EI / height**2 / 4
    s = answer(
        [(0, 0, 0), (0, 0, height)], [(0, 1)], {0: PINNED, 1: held("x y rz")}, [point(0, load, height / 2)], bent=True
    )
    yield "pinned column loaded at mid-height", GERE, "alpha_cr", 4.0, critical(s, "U"), 1e-6
    s = answer(
        [(0, 0, 0), (6, 0, 0), (12, 0, 0)], [(0, 2)], {0: PINNED, 1: ROLLER, 2: ROLLER}, [line(0, q)], plane=True
    )
    table = largest_deflections(s, named(s, ["U"]), np.array([0]), "chord")
    t = (1 + math.sqrt(33)) / 16
    yield (
        "one beam over two spans of 6 m",
        ROARK,
        "L/deflection of a bay",
        48 * EI / (q * 6**3 * (t - 3 * t**3 + 2 * t**4)),
        float(table["L/across"][0]),
    )
    xyz = [(0, 0, 0), (8, 0, 0), (0, 0, 4), (8, 0, 4), (14, 0, 4)]
    for members, words in (([(0, 2), (1, 3), (2, 4)], "one member"), ([(0, 2), (1, 3), (2, 3), (3, 4)], "two members")):
        p = project(xyz, members, {0: FIXED, 1: FIXED}, [line(list(range(2, len(members))), 24e3)])
        ground = take_down(p, resolve(p).loads, 1).ground
        yield f"24 kN/m on 8 m and 6 m beyond, {words}", HAND, "taken down to the far column", 42e3, float(ground[0][0])
        yield "", "", "to the near column", 294e3, float(ground[1][0])
    on = _OnCases("live", "office", True, 2.4e3, 0.0)
    for asce, area, K, known, words in (
        (METRIC, 48.0, None, 0.25 + 4.57 / math.sqrt(96), "beam, 48 m2"), (METRIC, 48.0, 1.0, 0.25 + 4.57 / math.sqrt(48), "with K_LL = 1"),
        (US, 400 * 0.3048**2, None, 0.25 + 15 / math.sqrt(800), "beam, 400 ft2"),
    ):  # fmt: skip
        yield f"reduced live load, {words}", "ASCE 7, 4.7.2", "L/L_o", known, _asce(on, area, 1, "beam", K, asce, [])
    steps = []
    yield (
        "reduced live load, 5 storeys",
        "EN 1991-1-1, 6.3.1.2(11)",
        "alpha_n",
        (2 + 3 * 0.7) / 5,
        _en(on, 99.0, 5, True, VALUES_EN, steps),
    )
    yield "", "6.3.1.2(10)", "alpha_A, 48 m2", 0.5 + 10 / 48, _en(on, 48.0, 1, False, VALUES_EN, steps)


def wind():
    """Buildings of tests/winds.py; the codes' formulas integrated over the height, in kN and m."""
    foot = 0.3048

    def q22(z):
        return 0.613e-3 * 2.41 * (max(z, 15 * foot) / (2460 * foot)) ** (2 / 9.8) * 50**2

    def q16(z):
        return 0.613e-3 * 2.01 * (max(z, 15 * foot) / (1200 * foot)) ** (2 / 7) * 0.85 * 50**2

    def total(text, case):
        model = resolved(text)
        put_on = applied_totals(model.project, model.loads, np.zeros(3), model.load_columns)
        return put_on[:, named(model, case).index] / 1e3

    for site, q, K_d in (("ASCE 7-16", q16, 1.0), ("ASCE 7-22", q22, 0.85)):
        tower = hall(site, 15, 15, 45, 45, wind='variants = ["1bp"]')
        wall = 0.85 * K_d * 15 * (0.8 * quad(q, 0, 45, points=[15 * foot])[0] + 0.5 * q(45) * 45)
        roof = 225 * K_d * q(45) * (0.85 * 0.18 + 0.18)
        found = total(tower, "WX1bp")
        yield f"tower 15 m by 15 m by 45 m, {site}", "figure 27.3-1", "base shear [kN]", wall, found[0], 5e-4
        yield "", "", "uplift of the roof [kN]", roof, found[2]
        twisted = total(hall(site, 15, 15, 45, 45, wind='variants = ["2bpl"]'), "WX2bpl")
        moved = 0.75 * found[0] * (7.5 + 0.15 * 15)
        yield "", "figure 27.3-8", "load case 2, about a corner [kN m]", moved, -twisted[5]
    low = {"eave": 4.5, "ridge": 4.5}
    each = [{"length": 20, "width": 10, **low}, {"at": (80, 0), "length": 10, "width": 20, **low}]
    two = halls("ASCE 7-16", each, wind='GC_pi = 0\nvariants = ["1a", "2al"]')
    F = [0.85 * q16(4.5) * 4.5 * (0.8 + lee) * B for B, lee in ((10, 0.3), (20, 0.5))]
    yield (
        "boxes 20 m by 10 m and 10 m by 20 m, 60 m apart",
        "figure 27.3-1",
        "base shear of both [kN]",
        sum(F),
        total(two, "WX1a")[0],
    )
    turned = 0.75 * (F[0] * (5 + 1.5) + F[1] * (10 + 3))
    yield "", "figure 27.3-8", "load case 2, each by its own B [kN m]", turned, -total(two, "WX2al")[5]
    rises = 8 * math.tan(math.radians(15))
    p = q22(4 + rises / 2) * 0.7225
    shed = total(canopy("ASCE 7-22", rises), "WYa")
    yield "free roof 20 m by 8 m, 15 degrees, ASCE 7-22", "figure 27.3-4", "down [kN]", 1.45 * p * 160, -shed[2]
    log = math.log(23 / 0.3)
    q_h = (1 + 7 / log) * 0.5e-3 * 1.25 * (0.19 * 6**0.07 * log * 25) ** 2
    flat = total(hall("EN", 30, 30, 23, 23, wind="c_pi = 0"), "WXa")
    D, E = 0.7 + 0.1 * (23 / 30 - 0.25) / 0.75, -0.3 - 0.2 * (23 / 30 - 0.25) / 0.75
    yield "block 30 m by 30 m by 23 m, EN", "table 7.1", "D and E [kN]", q_h * 690 * (D - E), flat[0]
    roof = q_h * (2 * 7.5 * 3 * -1.8 + 15 * 3 * -1.2 + 30 * 12 * -0.7 + 30 * 15 * -0.2)  # e = 30 m
    yield "", "table 7.2", "suction of F G H I [kN]", -roof, flat[2]
    low = total(canopy("EN", 8 * math.tan(math.radians(10))), "WYa")
    log = math.log((4 + 8 * math.tan(math.radians(10))) / 0.3)
    q_h = (1 + 7 / log) * 0.5e-3 * 1.25 * (0.19 * 6**0.07 * log * 25) ** 2
    yield "canopy 20 m by 8 m, 10 degrees, EN", "table 7.6", "up [kN]", 0.9 * q_h * 160, low[2]


def snow():
    """Roofs of tests/snows.py: what lies on a lower roof, in kN; the codes' formulas by hand, in lb and ft where they are."""
    foot, psf = 0.3048, 47.880259e-3
    p_g = 1.5 / psf
    gamma = (0.13 * p_g + 14) * psf / foot
    h_d = 1.1**0.5 * (0.43 * (25 / foot) ** (1 / 3) * (p_g + 10) ** 0.25 - 1.5) * foot
    low = {"low": rectangle(0, 20, 0, 30, 4.0)}
    step = resolved(roofs(ASCE_16, {**low, "high": rectangle(20, 45, 0, 30, 7.0)}))
    site = "step of 3 m, p_g = 1.5 kN/m2, 7-16"
    yield (
        site,
        "ASCE 7-16, 7.7.1",
        "leeward drift [kN]",
        gamma * 2 * h_d**2 * 30,
        lies_on(step, "SXnd", "leeward"),
        1e-6,
    )
    h_w = 0.75 * 1.1**0.5 * (0.43 * (20 / foot) ** (1 / 3) * (p_g + 10) ** 0.25 - 1.5) * foot
    yield "", "", "windward drift [kN]", gamma * 2 * h_w**2 * 30, lies_on(step, "SXpd", "windward"), 1e-6
    p_g = 2.4 / psf
    gamma = (0.13 * p_g + 14) * psf / foot
    h_d = 1.5 * (p_g**0.74 * (25 / foot) ** 0.7 * 0.45**1.7 / (0.13 * p_g + 14)) ** 0.5 * foot
    step = resolved(roofs(ASCE_22, {**low, "high": rectangle(20, 45, 0, 30, 7.0)}))
    drift = gamma * 2 * h_d**2 * 30
    yield "the same, p_g = 2.4 kN/m2, 7-22", "ASCE 7-22, 7.7.1", "leeward drift [kN]", drift, lies_on(
        step, "SXnd", "leeward"), 1e-6  # fmt: skip
    above = resolved(roofs(ASCE_16, {**low, **gable(20, 40, 0, 30, 7.0, 9.0)}))
    slid = 0.4 * 0.7 * 1.1 * 1.5 * 10 * 30
    yield (
        "gable of 11.3 degrees above it",
        "ASCE 7-16, 7.9",
        "what slides [kN]",
        slid,
        lies_on(above, "Ss", "slid"),
        1e-9,
    )
    steep = resolved(roofs(EN, {**low, **gable(20, 44, 0, 30, 6.0, 10.0)}))
    mu_2 = min(44 / (2 * 2), 2 * 2 / 1.2) + 0.8 * 12 / 5  # mu_w at its limit, half of 0.8 x 12 m as a triangle of 5 m
    drift = (mu_2 - 0.8) * 1.2 * 5 / 2 * 30
    yield (
        "roof 2 m below one of 18.4 degrees, s_k = 1.2 kN/m2",
        "EN 1991-1-3, 5.3.6",
        "drift [kN]",
        drift,
        lies_on(steep, "SXnd", "drift a"),
        1e-9,
    )
    saw = resolved(roofs(ASCE_16, {f"bay{k}": rectangle(8 * k, 8 * k + 8, 0, 20, 5.0, 7.0) for k in range(3)}))
    valleys = 2 * 160 * (0.5 + 2.0) / 2 * 0.7 * 1.1 * 1.5
    yield "sawtooth of three bays, 2 m high", "ASCE 7-16, 7.6.3", "in two valleys [kN]", valleys, lies_on(
        saw, "SXpu", "valley"), 1e-9  # fmt: skip
    exceptional = resolved(roofs(EN + "annex_B = true\n", {**low, "high": rectangle(20, 45, 0, 30, 7.0)}))
    mu = min(2 * 3 / 1.2, 2 * 25 / 15, 8)
    yield "step of 3 m, s_k = 1.2 kN/m2", "EN 1991-1-3, B.3", "exceptional drift [kN]", mu * 1.2 * 15 / 2 * 30, lies_on(
        exceptional, "SXne", "exceptional"), 1e-9  # fmt: skip
    edge = resolved(roofs(EN + "overhanging = true\n", {"roof": rectangle(0, 20, 0, 30, 5.0)}))
    total = sum(100 / 4 * e.values[0] for e in edge.snow.edges if e.case == "S") / 1e3
    yield (
        "flat roof of 20 m by 30 m, s = 0.96 kN/m2",
        "EN 1991-1-3, 6.3",
        "over its edges [kN]",
        100 * 0.96**3 / 3,
        total,
        1e-9,
    )


def lies_on(model, case, word):
    """The force of layers with a word in their name [kN]."""
    return sum(p.force for p in model.snow.pieces if p.case == case and word in p.layer.name) / 1e3


def cranes():
    """A crane of 60 kN with a crab of 10 kN that lifts 100 kN, 12 m span, two wheels a rail, by its two codes."""
    crane = Crane("C", CraneCode.EN, Place(""), 12.0, 60e3, 10e3, 100e3, (1.0, 1.0), (2.5,), hoisting=Hoisting.HC3,
                  hoist_speed=0.1, phi_5=1.5, driven=2, groups=(1, 5))  # fmt: skip
    by = {v.name: v for v in crane_by_en.states(crane)}
    near, far = 1.1 * (30 + 55 / 6) + 1.201 * 550 / 6, 1.1 * (30 + 5 / 6) + 1.201 * 50 / 6
    first, _ = by["g1.first"].axles
    yield (
        "crane, 12 m, HC3, group 1",
        "EN 1991-3, tables 2.2, 2.4, 2.5",
        "Q_r,max [kN]",
        near / 2,
        first.wheels[0] / 1e3,
    )
    yield "", "", "Q_r,(max) [kN]", far / 2, first.wheels[1] / 1e3
    K = 0.2 * 2 * (30 + 5 / 6) / 2
    yield "", "EN 1991-3, 2.7.2, 2.7.3", "H_L of a rail: 1.5 K/2 [kN]", 0.75 * K, 2 * first.level[0][0] / 1e3
    heavy = near / (near + far)
    turning = 1.5 * K * (heavy - 0.5) * 12 / 2.5
    yield "", "", "H_T on the heavy rail [kN]", turning * heavy, abs(first.level[0][1]) / 1e3
    yield "", "", "H_T on the other [kN]", turning * (1 - heavy), abs(first.level[1][1]) / 1e3
    front, rear = by["g5.first.guide-first"].axles
    f = 0.3 * (1 - math.exp(-250 * 0.015))
    free = (30 + 110 / 12) / 2
    yield (
        "the same, skewing, flanges",
        "EN 1991-3, 2.7.4",
        "first wheel, free rail [kN]",
        f * free,
        abs(front.level[1][1]) / 1e3,
    )
    guided = 170 / 2 - (30 + 605 / 6) / 2
    yield "", "", "guide less friction [kN]", f * guided, abs(front.level[0][1]) / 1e3
    yield "", "", "of the rear wheels [kN]", 0.0, abs(rear.level[0][1]) / 1e3
    pendant = replace(crane, code=CraneCode.ASCE_22, operated=Operated.PENDANT)
    across = {v.name: v for v in crane_by_asce.states(pendant)}["first.across"].axles[0]
    yield (
        "the same, by pendant",
        "ASCE 7-22, 4.9.3",
        "wheel with impact [kN]",
        1.1 * (30 + 605 / 6) / 2,
        across.wheels[0] / 1e3,
    )
    yield "", "ASCE 7-22, 4.9.4", "side thrust of a wheel [kN]", 0.2 * 110 / 4, across.level[0][1] / 1e3


def moving():
    """AASHTO's simple spans, the absolute greatest moment, influence lines, a distance that is a range, a fork-lift."""
    kip, ft = 4448.2216152605, 0.3048

    def tops(text, member=0):
        with tempfile.TemporaryDirectory() as folder:
            solution, results = traffic_case(study(text, Path(folder)))
            found = extremes(solution, results, np.array([member]))
        return found.forces[0, np.arange(6), :, np.arange(6)]

    truck = '[traffic.T]\nvehicle = "HS20-44 truck"\nway = "b"'
    for span, M, V in ((40, 449.8, 55.2), (100, 1524.0, 65.3)):
        found = tops(traffic_beam([span], truck, "kip ft"))
        problem = f"HS20-44 truck on {span} ft"
        yield problem, "AASHTO Standard Specifications, appendix A", "M [kip ft]", M, found[4, 1] / kip / ft, 1e-3
        yield "", "", "end shear [kip]", V, abs(found[2]).max() / kip, 1e-3
    two = '[vehicles.v]\naxles = [[0, "80 kN"], ["2.1 m", "80 kN"]]\n[traffic.T]\nvehicle = "v"\nway = "b"'
    found = tops(traffic_beam([9.0], two))
    yield (
        "two axles P, a apart, simple span",
        HAND,
        "M = P (L - a/2)^2/2L",
        80e3 * (9 - 1.05) ** 2 / 18,
        found[4, 1],
        1e-9,
    )
    three = two.replace('["2.1 m", "80 kN"]', '["4.3 m", "80 kN"], ["4.3 m", "80 kN"]')
    # The middle axle in the middle of the span, the others as far to both sides.
    yield "three axles P, a apart, simple span", HAND, "M = 3PL/4 - P a", 80e3 * (3 * 16 / 4 - 4.3), tops(
        traffic_beam([16.0], three)
    )[4, 1], 1e-9  # fmt: skip
    one = two.replace(', ["2.1 m", "80 kN"]', "")
    found = tops(traffic_beam([6.0, 6.0], one))
    yield (
        "force over two equal spans",
        "three moments",
        "M over the middle: -PL/6 sqrt 3",
        -80e3 * 6 / 6 / 3**0.5,
        found[4, 0],
        1e-9,
    )
    yield "", "", "greatest M, at x of 2 x^3 - 5 x + 2 = 0", 80e3 * 6 * _span_moment(), found[4, 1], 1e-9
    ranged = two.replace('"2.1 m"', '"2 m .. 9 m"')
    found = tops(traffic_beam([6.0, 6.0], ranged))
    yield (
        "two axles 2 to 9 m apart over it",
        "three moments",
        "M over the middle: twice that",
        -160e3 / 3**0.5,
        found[4, 0],
        1e-9,
    )
    lane = one.replace('"80 kN"]]', '"1e-6 N"]]\nlane = "12 kN/m"')
    found = tops(traffic_beam([8.0, 8.0], lane))
    yield (
        "lane load where adverse, two spans",
        "three moments",
        "greatest M: 49 w L^2/512",
        49 * 12e3 * 64 / 512,
        found[4, 1],
        1e-8,
    )
    lifter = '[traffic.T]\nvehicle = "FL3 solid"\nway = "b"'
    yield "FL3, solid tyres, 5 m beam", "EN 1991-1-1, tables 6.5, 6.6", "M = 2 Q L/4", 2 * 63e3 * 5 / 4, tops(
        traffic_beam([5.0], lifter)
    )[4, 1], 1e-9  # fmt: skip


def _span_moment():
    """The greatest moment below a force P on the first of two spans L, over P L: x (1 - x)(4 - x - x^2)/4."""
    x = brentq(lambda x: np.polyval(np.polyder([1.0, 0, -5.0, 4.0, 0]), x), 0.1, 0.9)
    return x * (1 - x) * (4 - x - x**2) / 4


TABLES, MANUAL, GUIDE = "tables of EN profiles", "AISC Manual, table 3-2, 50 ksi", "AISC Design Examples"
SHEAR_AREAS = {
    "IPE 200": 14.00, "IPE 240": 19.14, "IPE 270": 22.14, "IPE 300": 25.68, "IPE 330": 30.81, "IPE 360": 35.14,
    "IPE 400": 42.69, "IPE 450": 50.85, "IPE 500": 59.87, "IPE 550": 72.34, "IPE 600": 83.78, "HEA 200": 18.08,
    "HEA 300": 37.28, "HEB 200": 24.83, "HEB 300": 47.43,
}  # fmt: skip
"""Shear areas along z [cm2]."""
BEAMS = {
    "W18x50": (379, 5.83, 16.9, 192), "W21x44": (358, 4.45, 13.0, 217), "W24x76": (750, 6.78, 19.5, 315),
    "W16x31": (203, 4.13, 11.8, 131), "W12x26": (140, 5.33, 14.9, 84.2), "W14x22": (125, 3.67, 10.4, 94.5),
}  # fmt: skip
"""phi M_p [kip ft], L_p, L_r [ft], phi V_n [kip]."""
W_PL = {
    "IPE 200": 220.6, "IPE 240": 366.6, "IPE 300": 628.4, "IPE 360": 1019, "IPE 400": 1307, "IPE 500": 2194, "IPE 600": 3512,
    "HEA 200": 429.5, "HEA 240": 744.6, "HEA 400": 2562, "HEB 200": 642.5, "HEB 240": 1053, "HEB 300": 1869, "HEB 400": 3232,
    "HEM 200": 1135,
}  # fmt: skip
"""Plastic moduli about y [cm3], all of class 1 or 2 in S235."""
KIP, KSI, FOOT = 4448.2216, 6894757.3, 0.3048


def steel_shape(name):
    return shapes_of([find_section(name)]).column()


def _one(found):
    return float(np.ravel(found)[0])


def _at(*values):
    return tuple(np.array([[float(v)]]) for v in values)


def steel():
    """Strengths of steel members by code."""
    f, none = np.array([[235e6]]), np.array([[0.0]])
    for name, W in W_PL.items():
        s = steel_shape(name)
        c = classes(s, f, none, (none + 1e3, none))
        used = section_use(s, f, c, (none, none, none, none, none + 1e3, none), EnFactors())
        yield f"{name}, S235: M_pl,Rd [kN m]", TABLES, "W_pl f_y", W * 0.235, 1 / _one(used.M), 1e-3
    for name, area in SHEAR_AREAS.items():
        s = steel_shape(name)
        c = classes(s, f, none, (none, none))
        used = section_use(s, f, c, (none, none, none + 1e3, none, none, none), EnFactors())
        yield f"{name}, S235: V_pl,z,Rd [kN]", TABLES, "A_v f_y/sqrt 3", area * 23.5 / 3**0.5, 1 / _one(used.Vz), 1e-3
    for curve, alpha, chi in (
        ("a0", 0.13, 0.7253),
        ("a", 0.21, 0.6656),
        ("b", 0.34, 0.5970),
        ("c", 0.49, 0.5399),
        ("d", 0.76, 0.4671),
    ):
        yield f"buckling curve {curve}", "EN 1993-1-1, 6.3.1.2", "chi at a slenderness of 1", chi, _one(
            buckling.reduction(*_at(1.0, alpha))), 1e-4  # fmt: skip
    s, f = steel_shape("CHS 244.5x10"), np.array([[355e6]])
    chi = buckling.compressed(s, f, s.A, _at(210e9, 81e9), _at(4, 4, 4))
    yield (
        "CHS 244.5x10, S355, 4 m",
        "Gardner and Nethercot, EN 1993-1-1",
        "N_b,Rd [kN]",
        2297,
        _one(chi.y * s.A * f) / 1e3,
        2e-3,
    )
    x = np.linspace(0, 1, 241)
    s, L = steel_shape("IPE 300"), np.array([[6.0]])
    even = 4 * x * (1 - x)
    share = np.r_[0.5, np.ones(len(x) - 2), 0.5] / (len(x) - 1)
    squares = elastic.waves(np.stack([1 + 0 * x, even], axis=1)[None], x[None], share[None])
    found = elastic.critical_factors(s, _at(210e9, 81e9), L, squares)[0]
    N = math.pi**2 * 210e9 * _one(s.Iz) / 36
    yield (
        "IPE 300, 6 m, even moment",
        GERE,
        "M_cr",
        N * math.sqrt(_one(s.Iw / s.Iz) + 81e9 * _one(s.It) / N),
        found[0],
        1e-9,
    )
    yield "", "Clark and Hill", "C_1 of an even load", 1.13, found[1] / found[0], 5e-3
    US, F = _at(29000 * KSI, 11200 * KSI), np.array([[50 * KSI]])
    no, LRFD = np.array([[False]]), AiscFactors()
    for name, (M, L_p, L_r, V) in BEAMS.items():
        s, steps = steel_shape(name), Steps()
        own = aisc_flexure.major(s, *US, F, *_at(0, 1), no, steps.say)
        said = {step.symbol: step.value for step in steps.found}
        yield name, MANUAL, "phi M_p [kip ft]", M, 0.9 * _one(own) / (KIP * FOOT), 7e-3
        yield "", "", "L_p [ft]", L_p, said["L_p"] / FOOT, 7e-3
        yield "", "", "L_r [ft]", L_r, said["L_r"] / FOOT, 7e-3
        yield "", "", "phi V_n [kip]", V, _one(aisc_shear.strength(s, US[0], F, LRFD, True)) / KIP, 5e-3
    s = steel_shape("W18x50")
    for words, L, C_b, M in (
        ("F.1-2B, W18x50 braced at the third points", 35 / 3, 1.01, 305),
        ("F.1-3B, W18x50 braced at the middle", 17.5, 1.30, 288),
    ):
        yield (
            words,
            GUIDE,
            "phi M_n [kip ft]",
            M,
            0.9 * _one(aisc_flexure.major(s, *US, F, *_at(L * FOOT, C_b), no)) / (KIP * FOOT),
            3e-3,
        )
    P = aisc_compression.nominal(steel_shape("W14x90"), *US, F, _at(30 * FOOT, 15 * FOOT, 15 * FOOT))
    yield "E.1B, W14x90, 30 and 15 ft", GUIDE, "phi P_n [kip]", 928, 0.9 * _one(P) / KIP, 3e-3
    s, L = steel_shape("W14x99"), _at(*[14 * FOOT] * 3)
    P, M_x = aisc_compression.nominal(s, *US, F, L), aisc_flexure.major(s, *US, F, L[0], *_at(1), no)
    M_y = aisc_flexure.minor(s, US[0], F)
    shares = [400 * KIP / (0.9 * _one(P)), 250 * KIP * FOOT / (0.9 * _one(M_x)), 80 * KIP * FOOT / (0.9 * _one(M_y))]
    yield "H.1B, W14x99, 14 ft", GUIDE, "phi P_n [kip]", 1130, 0.9 * _one(P) / KIP, 3e-3
    yield "", "", "phi M_nx [kip ft]", 642, 0.9 * _one(M_x) / (KIP * FOOT), 3e-3
    yield "", "", "phi M_ny [kip ft]", 311, 0.9 * _one(M_y) / (KIP * FOOT), 3e-3
    yield "", "", "H1-1a", 0.928, _one(with_axial(*_at(*shares), False)), 2e-3
    for words, diagram, C_b in (("even load", even, 1.14), ("force at the middle", np.minimum(x, 1 - x), 1.32), ("linear to nothing", 1 - x, 1.67),
                                ("linear to its opposite", 1 - 2 * x, 2.27)):  # fmt: skip
        yield f"C_b of a diagram, {words}", "AISC Manual, table 3-1; 360, F1", "C_b", C_b, _one(
            aisc_flexure.bending_factor(diagram[None, :, None])), 4e-3  # fmt: skip


def k_c_of_diagrams():
    """EN 1993-1-1, table 6.6."""
    x = np.linspace(0, 1, 13)
    bow, tent = 4 * x * (1 - x), 1 - np.abs(2 * x - 1)
    none = np.array([False])
    for words, diagram, k_c in (("even load, both ends fixed", bow - 2 / 3, 0.90), ("even load, one end fixed", bow - x, 0.91),
                                ("force at the middle", tent, 0.86), ("force at the middle, both ends fixed", tent - 0.5, 0.77),
                                ("linear to its opposite", 1 - 2 * x, 1 / 1.66)):  # fmt: skip
        found = buckling.moment_factor(1e5 * diagram[None, :, None], _at(1.2)[0], none)
        yield words, "EN 1993-1-1, table 6.6", "k_c", k_c, _one(found), 1e-9


def grades():
    """A strong grade and its neighbour: chi_z of HEB 200 with L = 4 m (tables 6.1 and 6.2: curve c, and a of S460)."""
    s, L = steel_shape("HEB 200"), 4.0
    for words, f_y, strong, alpha in (
        ("HEB 200, 4 m, S450", 440e6, 0.0, 0.49),
        ("HEB 200, 4 m, S460", 460e6, 1.0, 0.21),
    ):
        lam = math.sqrt(_one(s.A) * f_y / (math.pi**2 * 210e9 * _one(s.Iz) / L**2))
        phi = 0.5 * (1 + alpha * (lam - 0.2) + lam**2)
        own = replace(s, strong=s.strong + strong)
        chi = buckling.compressed(own, _at(f_y)[0], own.A, _at(210e9, 81e9), _at(L, L, L)).z
        yield words, "EN 1993-1-1, 6.3.1.2", "chi_z", 1 / (phi + math.sqrt(phi**2 - lam**2)), _one(chi), 1e-9


OVERHANGING = """
[project]
units = "N m"
[nodes]
A = [0, 0, 0]
B = [8, 0, 0]
C = [0, 0, 4]
D = [8, 0, 4]
S = [2, 0, 4]
P = [2, 0, 6]
E = [14, 0, 4]
W = [14, 0, 8]
[members.columns]
section = "HEB 200"
material = "S355"
pieces = { a = "A > C", b = "B > D", p = "S > P", w = "E > W" }
[members.beams]
section = "IPE 400"
material = "S355"
pieces = { m = "C > S", n = "S > D", o = "D > E" }
[[supports]]
at = ["A", "B"]
fix = "fixed"
[cases]
QP = { action = "live" }
QW = { action = "live" }
[loads]
QP = [ { on = "P", force = 10 } ]
QW = [ { on = "W", force = 10 } ]
"""


def paths():
    """Loads taken down by hand's rules, loads that nodes share, torsion that warps, and lengths of a frame's own shapes."""
    model = resolved(OVERHANGING)
    p = model.project
    path = take_down(p, model.loads, 2)
    feet = {p.nodes[n].name: v for n, v in path.ground.items()}
    for k, words, known in ((0, "post on two pieces of a beam, at a quarter", (7.5, 2.5)),
                            (1, "post on the tip of an overhang", (-7.5, 17.5))):  # fmt: skip
        for foot, value in zip("AB", known, strict=True):
            yield words, "lever rule", f"load at foot {foot}", value, float(feet[foot][k]), 1e-9
            words = ""
    square = Cell(np.arange(4), np.array([[0.0, 0], [5, 0], [5, 2], [0, 2]]), np.zeros((4, 2)))
    shares = square.shares(np.array([[2.4, 1.2]]))[0]
    for k, known in enumerate((0.52 * 0.4, 0.48 * 0.4)):
        yield (
            "" if k else "four nodes of a bay, a force",
            "bilinear",
            f"share of node {k + 1}",
            known,
            float(shares[k]),
            1e-12,
        )
    skew = Cell(np.arange(5), np.array([[0.0, 0], [4, -1], [6, 2], [3, 5], [-1, 3]]), np.zeros((5, 2)))
    place = skew.shares(np.array([[2.2, 1.7]]))[0] @ skew.at
    yield "five nodes of a skew bay, a force", "first moments", "its place along x", 2.2, float(place[0]), 1e-12
    s, L, T = steel_shape("IPE 300").column(), 3.0, 1e3
    a = math.sqrt(210e9 * _one(s.Iw) / (81e9 * _one(s.It)))
    known = T * a * math.tanh(L / a) * _one((s.h - s.tf) * s.b) / 4 / _one(s.Iw)
    stress = elastic.warping_stress(s, (np.array([[210e9]]), np.array([[81e9]])), np.array([[L]]), np.array([[T]]))
    yield (
        "cantilever IPE 300, 3 m, torque at its tip",
        "Vlasov, Thin-walled Elastic Beams, II.3",
        "stress of warping",
        known,
        _one(stress),
        1e-9,
    )


def values():
    """Every value, with problem and source carried on to the rows that leave them out."""
    for group in (
        beams,
        continuous,
        frames,
        floors,
        stability,
        benchmarks,
        edges,
        wind,
        snow,
        moving,
        cranes,
        steel,
        k_c_of_diagrams,
        grades,
        paths,
        published,
        plates_buckling,
    ):
        problem = source = ""
        for row in group():
            problem, source = row[0] or problem, row[1] or source
            yield Value(problem, source, *row[2:])


HEAD = """# Verification

Known answers beside ours, in SI units (N, m) unless said. `tests/test_verification.py` works all of them out anew at every
change and holds them to the error of the last column or better; `python tests/verification.py` writes this page. The
closed forms are evaluated in full precision, so that the error is ours; the published benchmarks are rounded, and partly cut
off, to three figures (the closed form of both is met to 1e-7, `tests/test_second_order.py`). Many more comparisons are in `tests/`.

| problem | source | quantity | known | ours | error below |
| --- | --- | --- | ---: | ---: | ---: |
"""


def page() -> str:
    out, before = HEAD, ""
    for v in values():
        problem, source = (v.problem, v.source) if v.problem != before else ("", "")
        before = v.problem
        ours = v.ours if abs(v.ours) > 1e-9 else 0.0
        known = f"{v.known:.7g}" if v.allowed < 1e-3 else f"{v.known:g}"
        out += f"| {problem} | {source} | {v.quantity} | {known} | {ours:.7g} | {v.allowed:.0e} |\n"
    return out


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8", newline="\n")
