"""Structural surfaces for tests: models by a few words, and the published answers that docs/verification.md lists."""

import math

import numpy as np

from empuje.core.analysis.critical import lowest_factors
from empuje.core.analysis.solve import first_order, solve
from empuje.core.answers.plates import COMPONENTS, PlateForces
from empuje.core.model.findings import has_errors
from empuje.core.resolve import resolve
from empuje.files.reader import read_text

E, Q = 30e9, 10e3
TIMOSHENKO = "Timoshenko and Woinowsky-Krieger, Theory of Plates and Shells"
GERE = "Timoshenko and Gere, Elastic Stability"


def solved(text, finer=1.0):
    reading = read_text(text, "m.toml")
    model = resolve(reading.project, reading.findings, finer=finer)
    assert not has_errors([*reading.findings, *model.findings]), [str(f) for f in (*reading.findings, *model.findings)]
    return PlateForces(solve(model))


def plate(corners, t, supports, load='{ on = "p", area = 10 }', nu=0.3, extra="", more=""):
    """One surface p of a material with E and nu, loads [kN, m] of one case."""
    return f"""[project]
units = "kN m"
[materials]
m = {{ E = "{E!r} Pa", G = "{E / 2 / (1 + nu)!r} Pa", density = "25 kN/m3", expansion = "1e-5 1/K" }}
[surfaces.p]
corners = {[[float(v) for v in c] for c in corners]}
material = "m"
thickness = {t!r}
{extra}
{more}
{supports}
[cases]
Q = {{ action = "live" }}
[loads]
Q = [ {load} ]
"""


def along(line, fix):
    return f'[[supports]]\nalong = {line}\nfix = "{fix}"\n'


def rectangle(a, b):
    return (0, 0, 0), (a, 0, 0), (a, b, 0), (0, b, 0)


def hard(a):
    """Simply supported on four sides: no rotation about what crosses an edge. Held in its plane along the first."""
    edges = "".join(along(f'"p/{k}"', "z ry" if k % 2 else "z rx") for k in (1, 2, 3, 4))
    return edges + along(f"[[0, 0, 0], [{a!r}, 0, 0]]", "x y")


FIXED = along('"p"', "fixed")
CORNERS = "[nodes]\nN0 = [0, 0, 0]\nN1 = [4, 0, 0]\nN2 = [4, 4, 0]\nN3 = [0, 4, 0]\n"
POSTS = '[[supports]]\nat = "N*"\nfix = "x y z"\n'


def at(forces, xyz, name, result=0, surface=None):
    """A component where a place is nearest to a point."""
    off = np.linalg.norm(forces.xyz - np.array(xyz, float), axis=1)
    if surface is not None:
        off = np.where(forces.fields.patches.surface == surface, off, np.inf)
    i = int(off.argmin())
    assert off[i] < 0.3, (forces.xyz[i], xyz)
    return float(forces.every[i, COMPONENTS.index(name), result])


RAFT = """[project]
title = "Raft of a bin"
units = "kN m"
[surfaces.raft]
corners = [[0, 0, 0], [6, 0, 0], [6, 5, 0], [0, 5, 0]]
material = "C30/37"
thickness = 0.4
mesh = 0.25
bed = "20 MN/m3"
[[supports]]
along = "raft/1"
fix = "x y"
[cases]
Q = { action = "live" }
H = { action = "live" }
[loads]
Q = [ { on = "raft", force = 400, at = [2, 2] }, { on = "raft", area = 5 } ]
H = [ { on = "raft", line = 10, from = [1, 1], to = [5, 1], dir = "+x" } ]
[combinations.custom]
U = { formula = "1.5 Q + 1.5 H", set = "strength" }
"""
"""A model without members and nodes: 550 kN about (2.27, 2.14) m, and 40 kN along x."""


def D(t, nu=0.3):
    return E * t**3 / 12 / (1 - nu**2)


def navier(a, f, terms=80):
    """Sum over odd m, n of 16 q / (pi^2 m n) sin sin f(m, n) in the middle of a square under q = 10 kPa."""
    odd = range(1, terms, 2)
    sign = {m: math.sin(m * math.pi / 2) for m in odd}
    return sum(16 * Q / math.pi**2 / m / n * sign[m] * sign[n] * f(m, n) for m in odd for n in odd)


def factor(text, count=1):
    """The lowest critical load factors of the first case of a model in text."""
    reading = read_text(text, "m.toml")
    first = first_order(resolve(reading.project, reading.findings))
    mix = first.solution.weights(first.solution.results[:1])
    return lowest_factors(first.equations, first.solution, mix, first.parts, count)[:, 0]


def held_up(a, b, turns=True):
    """Supported across on four sides, which stay straight where `turns`; in its plane at two corners alone."""
    edges = "".join(along(f'"p/{k}"', ("z ry", "z rx")[k % 2 - 1] if turns else "z rx ry") for k in (1, 2, 3, 4))
    corners = "".join(f'[[supports]]\nat = "{n}"\nfix = "{fix}"\n' for n, fix in (("P0", "x y"), ("P1", "y")))
    return f"[nodes]\nP0 = [0, 0, 0]\nP1 = [{a!r}, 0, 0]\n{edges}{corners}"


def pressed(x=0.0, y=0.0, sheared=0.0):
    """Loads [kN/m] on the edges of a rectangle: pressing along x and y, and shearing."""
    on = ((4, "+x", x), (2, "-x", x), (1, "+y", y), (3, "-y", y),
          (1, "-x", sheared), (3, "+x", sheared), (2, "+y", sheared), (4, "-y", sheared))  # fmt: skip
    return ", ".join(f'{{ on = "p", line = {q!r}, edge = {k}, dir = "{way}" }}' for k, way, q in on if q)


def buckling():
    """As `published`, of plates that buckle under 1 kN/m: k of n = k pi^2 D/b^2."""
    b, t = 2.0, 0.01

    def k(text):
        return factor(text)[0] * 1e3 * b**2 / math.pi**2 / D(t)

    for ratio, loads, known, words in (
        (1, pressed(1), 4.0, "in compression one way"), (2, pressed(1), 4.0, "1:2, compressed along"),
        (0.5, pressed(1), 6.25, "1:2, compressed across"), (1, pressed(1, 1), 2.0, "in compression both ways"),
        (1, pressed(sheared=1), 9.34, "sheared"),
    ):  # fmt: skip
        a = ratio * b
        text = plate(rectangle(a, b), t, held_up(a, b), loads)
        yield f"plate, simply supported, {words}", f"{GERE}, ch. 9", "k", known, k(text), 1e-2
    clamped = plate(rectangle(b, b), t, held_up(b, b, turns=False), pressed(1))
    yield "square plate, clamped, in compression one way", f"{GERE}, 9.4", "k", 10.07, k(clamped), 1e-2
    h, size = 8.0, (1.2, 0.3)
    for across, (width, thick) in (("in its plane", size[::-1]), ("across it", size)):
        wall = plate([(0, 0, 0), (width, 0, 0), (width, 0, h), (0, 0, h)], thick, along('"p/1"', "fixed"),
                     f'{{ on = "p", line = {1 / width!r}, edge = 3, dir = "down" }}', nu=0.0)  # fmt: skip
        euler = math.pi**2 * E * size[0] * size[1] ** 3 / 12 / 4 / h**2
        known = euler / (1 + euler / (5 / 6 * E / 2 * width * thick))
        ours = 1e3 * factor(wall)[0]
        yield f"wall as a column, buckling {across}", f"{GERE}, 2.17", "critical load", known, ours, 1e-2


def published():
    """problem, source, quantity, known, ours, allowed."""
    t, a = 0.02, 4.0
    middle = (2, 2, 0)
    for ratio, known in (
        (1, (0.00406235, 0.0479, 0.0479)), (1.5, (0.00772, 0.0812, 0.0498)), (2, (0.01013, 0.1017, 0.0464)),
        (3, (0.01223, 0.1189, 0.0406)),
    ):  # fmt: skip
        f, here = solved(plate(rectangle(a, ratio * a), t, hard(a))), (2, 2 * ratio, 0)
        problem = f"plate 1:{ratio:g}, simply supported, even load"
        yield problem, f"{TIMOSHENKO}, table 8", "w D/(q a^4)", known[0], -at(f, here, "w") * D(t) / Q / a**4, 1e-2
        for name, value in zip(("m_x", "m_y"), known[1:], strict=True):
            yield "", "", f"{name}/(q a^2)", value, at(f, here, name) / Q / a**2, 1e-2
    f = solved(plate(rectangle(a, a), t, FIXED))
    yield "square plate, clamped, even load", f"{TIMOSHENKO}, table 35", "w D/(q a^4)", 0.00126532, (
        -at(f, middle, "w") * D(t) / Q / a**4), 1e-2  # fmt: skip
    yield "", "", "m at an edge/(q a^2)", -0.0513, at(f, (0, 2, 0), "m_x") / Q / a**2, 1e-2
    yield "", "", "m in the middle/(q a^2)", 0.0229, at(f, middle, "m_x") / Q / a**2, 1e-2
    force = '{ on = "p", force = 10, at = [2, 2, 0] }'
    for words, supports, known in (("simply supported", hard(a), 0.0116008), ("clamped", FIXED, 0.00560)):
        f = solved(plate(rectangle(a, a), t, supports, force))
        yield f"square plate, {words}, force in the middle", TIMOSHENKO, "w D/(P a^2)", known, (
            -at(f, middle, "w") * D(t) / 1e4 / a**2), 1e-2  # fmt: skip
    f = solved(plate(rectangle(a, a), t, CORNERS + POSTS))
    yield "square plate on four corner posts", "series, nu = 0.3", "w D/(q a^4)", 0.0255, (
        -at(f, middle, "w") * D(t) / Q / a**4), 1e-2  # fmt: skip
    three = along('"p/1"', "x y z ry") + along('"p/2"', "z rx") + along('"p/4"', "z rx")
    f = solved(plate(rectangle(a, a), t, three))
    yield "square plate, three edges held, one free", f"{TIMOSHENKO}, table 40", "w at the free edge D/(q a^4)", (
        0.01286), -at(f, (2, 4, 0), "w") * D(t) / Q / a**4, 1e-2  # fmt: skip
    yield "", "", "m_x there/(q a^2)", 0.112, at(f, (2, 4, 0), "m_x") / Q / a**2, 1e-2
    f = solved(plate(rectangle(a, a), t, along('"p/2"', "z rx") + along('"p/4"', "x y z rx")))
    yield "square plate, two opposite edges held", f"{TIMOSHENKO}, table 47", "w D/(q a^4)", 0.01309, (
        -at(f, middle, "w") * D(t) / Q / a**4), 1e-2  # fmt: skip
    yield "", "", "w at a free edge D/(q a^4)", 0.01509, -at(f, (2, 0, 0), "w") * D(t) / Q / a**4, 1e-2
    yield "", "", "m_x/(q a^2)", 0.1225, at(f, middle, "m_x") / Q / a**2, 1e-2
    n = 36
    R = 2 * math.sqrt(math.pi / (n / 2 * math.sin(2 * math.pi / n)))  # of the circle's area
    ring = [(R * math.cos(2 * math.pi * i / n), R * math.sin(2 * math.pi * i / n), 0) for i in range(n)]
    f = solved(plate(ring, t, FIXED))
    yield "circle of 36 sides, clamped", "q a^4/64 D", "w", Q * 16 / 64 / D(t), -at(f, (0, 0, 0), "w"), 1e-2
    yield "", "(1 + nu) q a^2/16", "m in the middle", 1.3 * Q * 4 / 16, at(f, (0, 0, 0), "m_x"), 1e-2
    h = 3.0
    L = 2 * h / math.sqrt(3)
    held = along('"p"', "z") + along(f"[[0, 0, 0], [{L!r}, 0, 0]]", "x y")
    f = solved(plate([(0, 0, 0), (L, 0, 0), (L / 2, h, 0)], t, held))
    here = (L / 2, h / 3, 0)
    yield "triangle of equal sides, simply supported", "Woinowsky-Krieger: q a^4/972 D", "w", (
        Q * h**4 / 972 / D(t)), -at(f, here, "w"), 1e-2  # fmt: skip
    yield "", "(1 + nu) q a^2/54", "m", 1.3 * Q * h**2 / 54, at(f, here, "m_x"), 1e-2
    c, s = math.cos(math.pi / 6), 0.5
    skew = [(0, 0, 0), (a, 0, 0), (a + a * c, a * s, 0), (a * c, a * s, 0)]
    f = solved(plate(skew, 0.004, along('"p"', "z") + along("[[0, 0, 0], [4.0, 0, 0]]", "x y"),
                     '{ on = "p", area = 0.01 }'))  # fmt: skip
    here = ((a + a * c) / 2, a * s / 2, 0)
    yield "rhombus of 30 degrees, simply supported", "Morley, Skew Plates and Structures", "w D/(q a^4)", 0.000408, (
        -at(f, here, "w") * D(0.004) / 10 / a**4), 3e-2  # fmt: skip
    m = np.array([[at(f, here, "m_x"), at(f, here, "m_xy")], [at(f, here, "m_xy"), at(f, here, "m_y")]])
    yield "", "", "larger principal m/(q a^2)", 0.0191, float(np.linalg.eigvalsh(m)[1]) / 10 / a**2, 2e-2
    k, thick = 20e6, 0.1
    known = navier(a, lambda m, n: 1 / (D(thick) * math.pi**4 * ((m / a) ** 2 + (n / a) ** 2) ** 2 + k))
    f = solved(plate(rectangle(a, a), thick, hard(a), extra="bed = 20000"))
    yield "square plate on an elastic bed", "Navier's series with k", "w", known, -at(f, middle, "w"), 1e-2
    for ratio in (5, 10, 100, 10000):
        thick = a / ratio
        shear = E / 2.6 * 5 / 6 * thick
        bent = navier(a, lambda m, n, D=D(thick): 1 / (D * math.pi**4 * ((m / a) ** 2 + (n / a) ** 2) ** 2))
        sheared = navier(a, lambda m, n, K=shear: 1 / (K * math.pi**2 * ((m / a) ** 2 + (n / a) ** 2)))
        f = solved(plate(rectangle(a, a), thick, hard(a)))
        yield f"square plate, a/t = {ratio}", "Reissner-Mindlin series", "w", bent + sheared, -at(f, middle, "w"), 5e-3
    for g, known in ((100, 0.0461), (25, 0.0467), (10, 0.0477), (5, 0.0494)):
        beam = f"""[sections]
b = {{ A = "1 cm2", Iy = "{g * a * D(t, 0.25) / E!r} m4", Iz = "1 cm4", J = "1e-6 cm4" }}
[members.b]
section = "b"
material = "m"
pieces = {{ B1 = "N0 > N1", B2 = "N1 > N2", B3 = "N3 > N2", B4 = "N0 > N3" }}
"""
        f = solved(plate(rectangle(a, a), t, CORNERS + POSTS, nu=0.25, more=beam))
        yield f"square plate on edge beams, EI = {g} a D", f"{TIMOSHENKO}, plates on elastic beams", "m/(q a^2)", (
            known), at(f, middle, "m_x") / Q / a**2, 1e-2  # fmt: skip
    # Membranes: Cook's panel drawn upright, and a wall as a deep cantilever.
    panel = [(0, 0, 0), (48, 0, 44), (48, 0, 60), (0, 0, 44)]
    side = '{ on = "p", line = 0.0625, from = [48, 0, 44], to = [48, 0, 60], dir = "+z" }'
    cook = plate(panel, 1.0, along('"p/4"', "x y z rx rz"), side, nu=1 / 3, extra='acts = "stretching"')
    f = solved(cook.replace(f'"{E!r} Pa"', '"1 kPa"').replace(f'"{E / 2 / (1 + 1 / 3)!r} Pa"', '"0.375 kPa"'))
    xyz = f.solution.project.xyz
    tip = int(np.linalg.norm(xyz - [48, 0, 52], axis=1).argmin())
    yield "tapered panel", "Cook: 23.96", "motion of the edge", 23.96, float(f.solution.displacement[tip, 2, 0]), 1e-2
    wall = [(0, 0, 0), (3, 0, 0), (3, 0, 12), (0, 0, 12)]
    top = '{ on = "p", line = 100.0, from = [0, 0, 12], to = [3, 0, 12], dir = "+x" }'
    f = solved(plate(wall, 0.2, along('"p/1"', "fixed"), top, nu=0.2))
    xyz = f.solution.project.xyz
    tip = int(np.linalg.norm(xyz - [1.5, 0, 12], axis=1).argmin())
    EI, GA = E * 0.2 * 27 / 12, E / 2.4 * 0.6 / 1.2
    known = 300e3 * (12**3 / 3 / EI + 12 / GA)
    yield "wall as a cantilever", "P h^3/3EI + P h/GA_s", "sway", known, float(f.solution.displacement[tip, 0, 0]), 1e-2
    yield "", "M/W at half height", "n_y at the edge", 0.2 * 300e3 * 6 / (0.2 * 9 / 6), at(f, (0, 0, 6), "n_y"), 1e-2
