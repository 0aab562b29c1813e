"""Slabs and walls with the forces in their planes: second order and critical loads."""

import json
import math

import numpy as np
import pytest

import empuje
from empuje.cli import main
from empuje.core.analysis.critical import below, lowest_factors, pulled
from empuje.core.analysis.shells.stressed import at_most
from empuje.core.analysis.solve import first_order, solve
from empuje.core.answers.plates import COMPONENTS, PlateForces
from empuje.core.answers.reactions import closing_error
from empuje.core.model.findings import has_errors
from empuje.core.resolve import resolve
from empuje.files.reader import read_text
from plates import FIXED, D, E, along, factor, held_up, plate, pressed, rectangle

A, T = 2.0, 0.02


def by_second_order(text, formula="1.0 Q"):
    """The answer to a combination of second order, and that result."""
    text = text.replace('units = "kN m"', 'units = "kN m"\nanalysis = "second-order"')
    reading = read_text(text + f'\n[combinations]\ncustom = {{ U = "{formula}" }}\n', "m.toml")
    model = resolve(reading.project, reading.findings)
    assert not has_errors([*reading.findings, *model.findings]), [str(f) for f in (*reading.findings, *model.findings)]
    solution = solve(model)
    return solution, [r for r in solution.results if not r.is_case]


@pytest.mark.parametrize("share", [-1.0, 0.5, 0.9])
def test_a_plate_that_is_pressed_and_loaded_across(share):
    """Navier's series with the force in the plane (Timoshenko and Woinowsky-Krieger, art. 92); share of 4 pi^2 D/b^2,
    below zero in tension. Reactions take the loads, and second order shows in n = N alone."""
    N = share * 4 * math.pi**2 * D(T) / A**2
    text = plate(rectangle(A, A), T, held_up(A, A), '{ on = "p", area = 1 }, ' + pressed(N / 1e3))
    solution, under = by_second_order(text)
    forces = PlateForces(solution)
    middle = int(np.abs(forces.fields.patches.at - A / 2).sum(axis=1).argmin())
    value = dict(zip(COMPONENTS, forces.every[middle] @ solution.weights(under)[:, 0], strict=True))
    m, n = np.meshgrid(*[np.arange(1, 80, 2)] * 2)
    wave = (m**2 + n**2) / A**2
    size = 16e3 / math.pi**2 / m / n / (math.pi**4 * D(T) * wave**2 - N * (m * math.pi / A) ** 2)
    size = size * np.sin(m * math.pi / 2) * np.sin(n * math.pi / 2)
    assert -value["w"] == pytest.approx(size.sum(), rel=1e-2)
    moment = (size * D(T) * math.pi**2 * (m**2 + 0.3 * n**2) / A**2).sum()
    assert value["m_x"] == pytest.approx(moment, rel=1e-2)
    assert value["n_x"] == pytest.approx(-N, rel=1e-3)
    assert closing_error(solution, under).max() < 1e-9


def test_a_wall_leans_as_the_column_it_is():
    """h = 8, under 0.4 of its critical load P and a force H at its top: amplified as the beam-column with shear is."""
    h, b, t = 8.0, 1.0, 1.0
    euler = math.pi**2 * E * b * t**3 / 12 / 4 / h**2
    P = 0.4 * euler
    down = f'{{ on = "p", line = {P / b / 1e3!r}, edge = 3, dir = "down" }}'
    post = f"""[project]
units = "kN m"
[materials]
m = {{ E = "{E!r} Pa", G = "{E / 2!r} Pa", density = "25 kN/m3" }}
[sections]
s = {{ shape = "rectangle", h = {b}, b = {t} }}
[nodes]
F = [0, 0, 0]
H = [0, 0, {h}]
[members.p]
section = "s"
material = "m"
shear = true
pieces = {{ p = "F > H" }}
[[supports]]
at = "F"
fix = "fixed"
[cases]
Q = {{ action = "live" }}
[loads]
Q = [ {{ on = "H", force = {P / 1e3!r} }}, {{ on = "H", force = 10, dir = "+x" }} ]
"""
    known, _ = by_second_order(post)
    ux = float(known.displacement[1, 0] @ known.mix[:, -1])
    for turn in (0.0, 33.0):
        c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        wall = [(0, 0, 0), (b * c, b * s, 0), (b * c, b * s, h), (0, 0, h)]
        for way in ((c, s), (s, -c)):
            pushed = ", ".join(f'{{ on = "p", line = {10 / b * part!r}, edge = 3, dir = "+{k}" }}'
                               for k, part in zip("xy", way, strict=True) if part)  # fmt: skip
            text = plate(wall, t, along('"p/1"', "fixed"), f"{down}, {pushed}", nu=0.0)
            solution, under = by_second_order(text)
            top = np.flatnonzero(solution.project.xyz[:, 2] > h - 1e-6)
            moved = (solution.displacement[top, :2] @ solution.weights(under))[..., 0] @ np.array(way)
            assert np.abs(moved).mean() == pytest.approx(ux, rel=1e-2), (turn, way)
            assert closing_error(solution, under).max() < 1e-9


FRAME = """[project]
units = "kN m"
[nodes]
{nodes}
[materials]
m = {{ E = "30 GPa", G = "12.5 GPa", density = "25 kN/m3", expansion = "1e-5 1/K" }}
[sections]
c = {{ shape = "rectangle", h = "0.2 m", b = "0.2 m" }}
[members.c]
section = "c"
material = "m"
roll = {roll}
pieces = {{ c1 = "B1 > T1", c2 = "B2 > T2", c3 = "B3 > T3" }}
[members.e]
section = "c"
material = "m"
pieces = {{ e = "T1 > T2" }}
[surfaces]
{surfaces}
[[supports]]
at = "B*"
fix = "fixed"
[[supports]]
along = {foot}
fix = "x y z"
[cases]
Q = {{ action = "live" }}
[loads]
Q = [ {{ on = "slab*", area = 20 }}, {{ on = "T3", force = 30, dir = "+z" }},
      {{ on = "T2", force = [25, 15], dir = ["+x", "+y"] }} ]
"""
H = 4.0
CORNERS = {"1": (0, 0), "2": (6, 0), "3": (6, 5), "4": (0, 5)}


def frame(turn=0.0, shift=(0.0, 0.0), pieces=False, keys="footprints = true\nhinged = [2]\nraised = 0.1", units=1.0):
    """A slab on three columns, an edge beam and a wall below its fourth side; its right edge is hinged."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def at(x, y, z):
        return [(c * x - s * y + shift[0]) * units, (s * x + c * y + shift[1]) * units, z * units]

    nodes = "\n".join(f"{n}{k} = {at(*CORNERS[k], z)}" for k in "123" for n, z in (("B", 0.0), ("T", H)))
    wall = [at(0, 0, 0), at(0, 5, 0), at(0, 5, H), at(0, 0, H)]
    plain = 'material = "m"\nthickness = "0.18 m"\nmesh = "0.5 m"\n'
    text = f"[surfaces.wall]\ncorners = {wall}\n{plain}"
    spans = [(0, 3), (3, 6)] if pieces else [(0, 6)]
    for i, (a, b) in enumerate(spans):
        own = [at(a, 0, H), at(b, 0, H), at(b, 5, H), at(a, 5, H)]
        mine = keys if b == 6 else keys.replace("hinged = [2]", "")
        text += f"[surfaces.slab{i}]\ncorners = {own}\nown_x = [{at(0, 0, H)}, {at(1, 0, H)}]\n{plain}{mine}\n"
    loads = FRAME.format(nodes=nodes, surfaces=text, foot='"wall/1"', roll=turn)
    level = '{ on = "T2", force = [25, 15], dir = ["+x", "+y"] }'
    pushed = ", ".join(f'{{ on = "T2", force = {f!r}, dir = "+{k}" }}'
                       for k, f in zip("xy", (25 * c - 15 * s, 25 * s + 15 * c), strict=True))  # fmt: skip
    return loads.replace(level, pushed)


def sway(text, turn=0.0):
    solution, under = by_second_order(text, "4.0 Q")
    assert closing_error(solution, under).max() < 1e-9 and not solution.failed
    names = [n.name for n in solution.project.nodes]
    moved = (solution.displacement @ solution.weights(under))[names.index("T2"), :3, 0]
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    return np.array([c * moved[0] + s * moved[1], -s * moved[0] + c * moved[1], moved[2]])


def test_second_order_of_a_frame_with_slab_and_wall_turned_in_pieces_and_beside_another():
    """Footprints, a hinged edge, a raised slab over a beam, a wall on a line of support: loads and reactions balance on
    the displaced shape, by a sum that knows nothing of the solver's."""
    plain = frame()
    known, alpha = sway(plain), factor(plain)[0]
    assert 4 < alpha < 200
    for text, turn, near in (
        (frame(turn=33.0), 33.0, 1e-7), (frame(shift=(100.0, -40.0)), 0.0, 1e-7), (frame(turn=180.0), 180.0, 1e-7),
        (frame(pieces=True), 0.0, 1e-3),
    ):  # fmt: skip
        assert sway(text, turn) == pytest.approx(known, rel=near, abs=near * np.abs(known).max()), turn
        assert factor(text)[0] == pytest.approx(alpha, rel=max(near, 1e-6))
    linear = solve_linear(plain)
    assert np.linalg.norm(known[:2]) > 1.005 * np.linalg.norm(4 * linear[:2])
    for keys in ("", "footprints = true", "hinged = [2]", 'raised = 0.1\nacts = "bending"'):
        sway(frame(keys=keys))


def solve_linear(text):
    reading = read_text(text, "m.toml")
    solution = solve(resolve(reading.project, reading.findings))
    names = [n.name for n in solution.project.nodes]
    return solution.displacement[names.index("T2"), :3, 0]


def test_a_rigid_floor_on_walls_balances_too():
    walls = frame().replace("[[supports]]\nat", '[diaphragms]\nF = { nodes = ["T1", "T2", "T3"] }\n[[supports]]\nat')
    reading = read_text(walls, "m.toml")
    assert not has_errors([*reading.findings]), [str(f) for f in reading.findings]
    sway(walls)


def test_more_load_more_force_and_less_support_buckle_sooner():
    alone = plate(rectangle(A, A), T, held_up(A, A), pressed(1.0))
    more = [
        alone.replace("line = 1.0", "line = 2.0"), alone.replace(pressed(1.0), pressed(1.0, 0.5)),
        alone.replace(pressed(1.0), pressed(1.0, sheared=1.0)), alone.replace(along('"p/3"', "z ry"), ""),
        alone.replace(f"thickness = {T!r}", f"thickness = {T!r}\nstiffness = {{ bending = 0.5 }}"),
    ]  # fmt: skip
    first = factor(alone)[0]
    assert factor(more[0])[0] == pytest.approx(first / 2, rel=1e-6)
    for text in more[1:]:
        assert text != alone and factor(text)[0] < 0.95 * first
    pulled_on = alone.replace('"+x"', '"@"').replace('"-x"', '"+x"').replace('"@"', '"-x"')
    assert factor(pulled_on)[0] == np.inf


def test_a_heated_plate_buckles_where_its_edges_hold_it():
    """n = -E t alpha dT/(1 - nu) both ways: k = 2."""
    edges = "".join(along(f'"p/{k}"', "x y z") for k in (1, 2, 3, 4))
    rise = factor(plate(rectangle(A, A), T, edges, '{ on = "p", temperature = 1 }'))[0]
    known = 2 * math.pi**2 * D(T) / A**2 / (E * T * 1e-5 / 0.7)
    assert rise == pytest.approx(known, rel=1e-2)


def test_one_factorisation_answers_for_many_results_as_each_by_itself():
    """Cases that press, pull, shear and cross each other: which are below so many times their loads."""
    loads = [pressed(1), pressed(0, 1), pressed(1, -0.5), pressed(sheared=1), pressed(0.3, 0.2, -0.7), pressed(-1)]
    text = plate(rectangle(A, A), T, held_up(A, A), loads[0])
    head = text.partition("[cases]")[0]
    names = [f"C{i}" for i in range(len(loads))]
    text = head + "[cases]\n" + "".join(f'{n} = {{ action = "live" }}\n' for n in names) + "[loads]\n"
    text += "".join(f"{n} = [ {load} ]\n" for n, load in zip(names, loads, strict=True))
    reading = read_text(text, "m.toml")
    first = first_order(resolve(reading.project, reading.findings))
    solution = first.solution
    mix = solution.weights(solution.results)
    factors = lowest_factors(first.equations, solution, mix, None)[0]
    each = [lowest_factors(first.equations, solution, mix[:, [i]], None)[0, 0] for i in range(len(loads))]
    assert factors == pytest.approx(each, rel=1e-7) and np.isinf(factors[-1])
    given = pulled(first.equations, solution, mix, None)
    for bound in (0.99 * factors.min(), 1.01 * factors.min(), np.median(factors)):
        assert below(given, bound).tolist() == (factors > bound).tolist()
    n = np.random.default_rng(3).standard_normal((50, 3, 7))
    most = at_most(n)
    for i in range(7):
        rest = n[..., i] - most
        both = np.stack([rest[:, 0], rest[:, 2], rest[:, 2], rest[:, 1]], axis=1).reshape(-1, 2, 2)
        assert np.linalg.eigvalsh(both).min() > -1e-12


def test_a_bed_that_only_presses_lets_go_under_second_order():
    """A plate pressed along and pulled up in part: the ground gives no tension, and all of it balances."""
    load = '{ on = "p", area = 20 }, { on = "p", force = 100, at = [1, 1, 0], dir = "up" }, ' + pressed(2000)
    text = plate(
        rectangle(6, 4), 0.15, along("[[0, 0, 0], [0, 4, 0]]", "x y"), load, extra='bed = "20 MN/m3"\nlift = true'
    )
    solution, under = by_second_order(text)
    up = (solution.reaction[:, 2] @ solution.weights(under))[:, 0]
    assert not solution.failed and (up > -1e-6 * up.max()).all() and (np.abs(up) <= 1e-9 * up.max()).sum() > 3
    assert closing_error(solution, under).max() < 1e-9
    linear, _ = by_second_order(text, "0.0 Q")
    case = (linear.reaction[:, 2] @ linear.mix[:, :1])[:, 0]
    assert np.abs(case - up).max() > 1e-3 * up.max()


TWO = """[project]
units = "kN m"
[surfaces.w]
corners = [[0, 0, 0], [3, 0, 0], [3, 0, 4], [0, 0, 4]]
material = "C30/37"
thickness = "120 mm"
[surfaces.v]
corners = [[10, 0, 0], [10, 3, 0], [10, 3, 4], [10, 0, 4]]
material = "C30/37"
thickness = "60 mm"
[[supports]]
along = "w/1"
fix = "fixed"
[[supports]]
along = "v/1"
fix = "fixed"
[cases]
Q = { action = "live", use = "office" }
[loads]
Q = [ { on = "w", line = 60, edge = 3 }, { on = "v", line = 60, edge = 3 }, { on = "v", force = 1, at = [10, 1, 2], dir = "+x" } ]
[combinations.custom]
U = { formula = "1.5 Q", set = "strength" }
[[limits]]
name = "stands"
check = "stability"
alpha_cr = 4
under = "strength"
"""


def test_walls_by_themselves_through_the_commands(tmp_path, capsys):
    """No member, no node of its own: each wall is a part of its own, the slender one first, and both come into `run`,
    `draw` and the report by second order. Euler's cantilever within the 5 % that a wall of 3 m gains as a plate."""
    path = tmp_path / "two.toml"
    path.write_text(TWO.replace('units = "kN m"', 'units = "kN m"\nanalysis = "second-order"'), encoding="utf-8")

    def run(*words):
        code = main([str(w) for w in words])
        return code, *capsys.readouterr()

    code, out, err = run("stability", path, "--format", "json")
    rows = {r["part"]: r for r in json.loads(out)}
    assert code == 0 and set(rows) == {"w", "v"}, err
    for name, t in (("w", 0.12), ("v", 0.06)):
        euler = math.pi**2 * 33e9 * t**3 / 12 / 4 / 16 / 90e3
        assert euler < rows[name]["alpha_cr"] < 1.05 * euler
    assert rows["v"]["second/first"] == pytest.approx(1 / (1 - 1 / rows["v"]["alpha_cr"]), rel=0.1)
    code, out, _ = run("storeys", path, "--under", "U", "--levels", "0,4", "--format", "json")
    (storey,) = json.loads(out)
    assert code == 0 and storey["Vx [kN]"] == pytest.approx(1.5)
    code, out, _ = run("verdict", path, "--format", "json")
    (row,) = json.loads(out)
    assert code == 1 and row["verdict"] == "fails" and row["place"] == "v", row
    for words in (("check", path, "--deep"), ("run", path, "-o", tmp_path / "out"), ("report", path, "-o", tmp_path / "r.html"),
                  ("draw", path, "buckled", "--under", "U", "-o", tmp_path / "b.svg"), ("plates", path)):  # fmt: skip
        code, _, err = run(*words)
        assert code == (1 if words[0] in ("run", "report", "plates") else 0) or code == 0, (words, err)
        assert "Traceback" not in err
    assert "times its loads" in (tmp_path / "b.svg").read_text()
    model = empuje.read(path)
    assert model.stability().alpha_cr.min() == pytest.approx(rows["v"]["alpha_cr"])
    assert factor(plate(rectangle(3, 3), 0.1, FIXED))[0] == np.inf
