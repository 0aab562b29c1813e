"""Loads taken down by hand's rules, and live loads reduced by the area a member supports, against paper."""

from __future__ import annotations

import json
import warnings
from math import sqrt

import pytest

import empuje
from build import named
from empuje.cli import main
from empuje.core.analysis.applied import applied
from empuje.core.analysis.solve import first_order
from empuje.core.answers.along import forces
from empuje.core.answers.bands import bands
from empuje.core.answers.envelope import extremes
from empuje.core.answers.why import Target, miss, why
from empuje.core.load_path.take_down import take_down
from empuje.core.model.loads import Position
from empuje.core.model.words import Sense
from empuje.core.resolve import resolve
from models import member, project, reading, resolved, solution

OFFICE = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 8, C = 16 }
y = { 1 = 0, 1a = 3, 1b = 6, 2 = 9 }
z = { base = 0, one = 4, two = 8, three = 12 }
[members.columns]
section = "HEB 200"
material = "S355"
runs = ["A..C / 1,2 / base>>three"]
[members.girders]
section = "IPE 500"
material = "S355"
ends = "hinged"
runs = ["A..C / 1>2 / one..three"]
[members.joists]
section = "IPE 300"
material = "S355"
ends = "hinged"
runs = ["A>>C / 1..2 / one..three"]
[[supports]]
at = "*@base"
fix = "fixed"
[floors.office]
dead = { case = "G", area = "3 kN/m2" }
live = { case = "Q", area = "2.4 kN/m2", use = "office" }
[floors.roof]
dead = { case = "G", area = "1 kN/m2" }
roof_live = { case = "R", area = "0.96 kN/m2" }
[surfaces.f1]
corners = ["A1@one", "C1@one", "C2@one", "A2@one"]
deck = "y"
floor = "office"
[surfaces.f2]
corners = ["A1@two", "C1@two", "C2@two", "A2@two"]
deck = "y"
floor = "office"
[surfaces.f3]
corners = ["A1@three", "C1@three", "C2@three", "A2@three"]
deck = "y"
floor = "roof"
[cases]
G = { action = "dead" }
Q = { action = "live" }
R = { action = "roof live" }
[reduction]
code = "ASCE 7-22"
[combinations.custom]
U = { formula = "1.2 G + 1.6 Q + 0.5 R", set = "strength" }
"""


def N(s, name, members) -> float:
    """The axial force at the start of a member [N]."""
    return float(forces(s, named(s, [name]), members, [Position()])["N"][0])


def factors(text: str) -> dict[tuple[str, str], float]:
    model = resolved(text)
    p = model.project
    return {(p.members[r.member].name, p.cases[r.case].name): r.factor for r in model.reduction.each}


def test_three_storeys_taken_down_beside_the_analysis(tmp_path, capsys):
    """An edge column stands under 4.5 m by 8 m of each floor; the frame is a row of simple beams, so reactions agree."""
    (tmp_path / "m.toml").write_text(OFFICE, encoding="utf-8")
    assert main(["takedown", str(tmp_path / "m.toml"), "--on", "columns/B1/*", "--format", "json"]) == 0
    rows = {(r["column"], r["node"]): r for r in json.loads(capsys.readouterr().out)}
    top = rows["columns/B1/two-three", "B1@three"]
    assert [top["area [m2]"], top["dead [kN]"], top["live [kN]"]] == pytest.approx([36, 36, 0])
    assert top["roof live [kN]"] == pytest.approx(36 * 0.96)
    low = rows["columns/B1/base-one", "B1@one"]
    assert [low["area below [m2]"], low["dead below [kN]"]] == pytest.approx([108, 36 * 7])
    assert [low["live below [kN]"], low["roof live below [kN]"]] == pytest.approx([36 * 4.8, 36 * 0.96])
    r1 = 1.2 - 0.011 * 36
    reduced = 72 * 2.4 * (0.25 + 4.57 / sqrt(4 * 72)) + 36 * 0.96 * r1
    assert low["reduced below [kN]"] == pytest.approx(reduced)
    foot = rows["columns/B1/base-one", "B1@base"]
    for action in ("dead", "live", "roof live"):
        assert foot[f"R {action} [kN]"] == pytest.approx(foot[f"{action} below [kN]"], rel=1e-6)
    assert main(["takedown", str(tmp_path / "m.toml"), "--factors", "--on", "columns/B1/base-one"]) == 0
    out = capsys.readouterr().out
    assert "K_LL = 4" in out and "ASCE 7, eq. 4.7-1" in out and "R_1 = 0.804" in out


def test_each_action_by_itself_and_alternatives_once(tmp_path):
    """Wind and what leans press on the columns as well, and are none of them; of two arrangements of snow and of one
    truck in two places the one that brings most to a column; a load beside them adds up."""
    more = 'W = { action = "wind" }\nS = { action = "snow" }\nS2 = { action = "snow" }\nLX = { notional = "1/200", dir = "+x" }\n'
    more += (
        "".join(f'P{k} = {{ action = "live", one_of = "truck" }}\n' for k in (1, 2))
        + 'D = { action = "live", stage = "construction" }\n'
    )
    loads = '[loads]\nW = [ { on = "B1@three", force = 70 } ]\nS = [ { on = "B1@three", force = 90 }, { on = "A1@three", force = 20 } ]\n'
    loads += 'S2 = [ { on = "B1@three", force = 40 }, { on = "A1@three", force = 50 } ]\nP1 = [ { on = "B1@one", force = 8 } ]\n'
    loads += 'P2 = [ { on = "B1@one", force = 11 } ]\nD = [ { on = "B1@one", force = 99 } ]\n'
    R = 'R = { action = "roof live" }\n'
    text = OFFICE.replace(R + "[reduction]", R + more + loads + "[reduction]")
    feet = {}
    for name, written in (("plain", OFFICE), ("beside", text)):
        (tmp_path / f"{name}.toml").write_text(written, encoding="utf-8")
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            table = empuje.read(tmp_path / f"{name}.toml").solve().take_down()
        feet[name] = table[table["node"].str.endswith("@base")].set_index("node")
    plain, beside = feet["plain"], feet["beside"]
    for action in ("dead", "roof live"):
        assert (beside[f"{action} below [kN]"] - plain[f"{action} below [kN]"]).abs().max() < 1e-9
    added = (beside["live below [kN]"] - plain["live below [kN]"])[["B1@base", "A1@base"]]
    assert added.to_list() == pytest.approx([11, 0]) and "snow [kN]" not in plain
    for told in ("snow below [kN]", "R snow [kN]"):
        assert beside[told][["B1@base", "A1@base", "C2@base"]].to_list() == pytest.approx(
            [90, 50, 0], abs=1e-3
        )  # columns shorten


def test_asce_factors_by_hand():
    found = factors(OFFICE)
    assert found["columns/A1/base-one", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(4 * 36))
    assert found["columns/A1/one-two", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(4 * 18))
    assert ("columns/A1/two-three", "Q") not in found  # it carries roof only
    assert found["girders/B@one/1-2", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(2 * 48))  # without the joists on columns
    assert found["joists/1a@one/A-B", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(2 * 24))
    assert found["joists/1@one/A-B", "Q"] == 1.0  # 2 x 12 m2 < 37.16 m2
    assert found["joists/1@three/A-B", "R"] == 1.0 and found["girders/B@three/1-2", "R"] == pytest.approx(1.2 - 0.528)
    wide = factors(OFFICE.replace("B = 8, C = 16", "B = 80, C = 160").replace("IPE 300", "HEA 1000"))
    assert wide["columns/B1/base-one", "Q"] == 0.4 and wide["joists/1a@one/A-B", "Q"] == 0.5
    assert wide["girders/B@three/1-2", "R"] == pytest.approx(0.58 / 0.96)
    given = factors(
        OFFICE.replace('code = "ASCE 7-22"', 'code = "ASCE 7-16"\nK_LL = { "columns/A*" = 2 }\nwithout = ["joists"]')
    )
    assert given["columns/A1/base-one", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(2 * 36))
    assert ("joists/1a@one/A-B", "Q") not in given


@pytest.mark.parametrize(
    ("change", "column", "girder"),
    [
        (('"2.4 kN/m2", use = "office"', '"5 kN/m2", use = "office"'), 0.8, 1.0),  # heavy: two floors below 20%
        (('use = "office"', 'use = "light traffic"'), 0.8, 1.0),
        (('use = "office"', 'use = "assembly"'), 1.0, 1.0),
        (("ASCE 7-22", "EN 1991-1-1"), 1.0, 0.5 + 10 / 48),  # alpha_n only over more than two storeys
    ],
)
def test_exclusions(change, column, girder):
    found = factors(OFFICE.replace(*change))
    assert found["columns/B1/base-one", "Q"] == pytest.approx(column)
    assert found["girders/B@one/1-2", "Q"] == pytest.approx(girder)
    assert found.get(("columns/B1/one-two", "Q"), 1.0) in (1.0, pytest.approx(0.25 + 4.57 / sqrt(4 * 36)))


def test_partitions_are_not_reduced():
    text = OFFICE.replace("[floors.roof]", 'partitions = { case = "Q", area = "0.8 kN/m2" }\n[floors.roof]')
    assert factors(text) == factors(OFFICE)
    s = solution(text)
    one = member(s.project, "columns/B1/base-one")
    G, R = (N(s, c, one) for c in "GR")
    f = factors(OFFICE)["columns/B1/base-one", "Q"], factors(OFFICE)["columns/B1/base-one", "R"]
    live = 1.6 * 72e3 * (f[0] * 2.4 + 0.8)
    assert N(s, "U", one) == pytest.approx(1.2 * G + 0.5 * f[1] * R - live, rel=1e-6)


def test_alpha_n_over_three_storeys():
    text = OFFICE.replace("ASCE 7-22", "EN 1991-1-1").replace('floor = "roof"', 'floor = "office"')
    text = text[: text.index("[floors.roof]")] + text[text.index("[surfaces.f1]") :]
    assert factors(text)["columns/B1/base-one", "Q"] == pytest.approx((2 + 0.7) / 3)


def test_factors_apply_to_a_members_own_forces_in_combinations_only():
    s = solution(OFFICE)
    p = s.project
    one = member(p, "columns/B1/base-one")
    found = factors(OFFICE)
    f = found["columns/B1/base-one", "Q"], found["columns/B1/base-one", "R"]
    G, Q, R = (N(s, c, one) for c in "GQR")
    assert pytest.approx(-72 * 2400, rel=1e-6) == Q
    wanted = 1.2 * G + 1.6 * f[0] * Q + 0.5 * f[1] * R
    assert N(s, "U", one) == pytest.approx(wanted, rel=1e-9)
    assert extremes(s, named(s, ["U"]), one).forces[0, 0, 0, 0] == pytest.approx(wanted, rel=1e-9)
    assert bands(s, named(s, ["U"]), one, 3).value[0, 1, 0, 0] == pytest.approx(wanted, rel=1e-9)
    foot = s.support_node.tolist().index([n.name for n in p.nodes].index("B1@base"))
    assert (s.reaction @ s.weights(named(s, ["U"])))[foot, 2, 0] == pytest.approx(
        -1.2 * G - 1.6 * Q - 0.5 * R, rel=1e-6
    )
    assert applied(s)[2] @ s.weights(named(s, ["U"]))[:, 0] == pytest.approx(
        -(s.reaction @ s.weights(named(s, ["U"])))[:, 2, 0].sum(), rel=1e-9
    )
    target = Target("force", int(member(p, "girders/B@one/1-2")[0]), 4)
    told = why(first_order(resolve(p)), s, named(s, ["U"]), target, Sense.LARGEST)
    assert miss(told) < 1e-8 and any("reduced" in share.source.text for share in told.loads)
    simple = 1.2 * 3 * 24 * 3 + 1.6 * found["girders/B@one/1-2", "Q"] * 2.4 * 24 * 3  # two joists at the third points
    assert told.values[0] / 1e3 == pytest.approx(simple, rel=1e-6)


def test_patterns_and_a_combination_as_one():
    """A pattern is a sum too; as one, all members must be under the same loads."""
    text = OFFICE.replace('Q = { action = "live" }', 'Q = { action = "live", pattern = true }')
    text = text.replace(
        "[combinations.custom]", '[combinations]\nrules = ["ASCE 7-22 strength"]\n[combinations.custom]'
    )
    s = solution(text)
    one = member(s.project, "columns/B1/base-one")
    names = [r.name for r in s.results if r.name.startswith("U2")]
    found = extremes(s, named(s, names), one)
    f = factors(OFFICE)["columns/B1/base-one", "Q"], factors(OFFICE)["columns/B1/base-one", "R"]
    G, Q, R = (N(s, c, one) for c in "GQR")
    assert found.forces[0, 0, 0, 0] == pytest.approx(1.2 * G + 1.6 * f[0] * Q + 0.5 * f[1] * R, rel=1e-9)
    lifted = OFFICE.replace('fix = "fixed"', 'fix = "fixed"\nlift = true')
    s = solution(lifted)
    assert "not-reduced" in {x.code for x in reading(lifted).findings}
    assert N(s, "U", one) == pytest.approx(1.2 * G + 1.6 * Q + 0.5 * R, rel=1e-6)


HUNG = """
[project]
units = "kN m"
[nodes]
A = [0, 0, 0]
B = [0, 0, 6]
C = [0, 0, 4]
D = [6, 0, 4]
E = [10, 0, 4]
F = [6, 0, 0]
M = [2, 0, 4]
N = [2, 0, 7]
T = [2, -3, 7]
H = [10, 3, 4]
[members.columns]
section = "HEB 200"
material = "S355"
pieces = { a = "A > B", f = "F > D", up = "M > N" }
[members.beams]
section = "IPE 400"
material = "S355"
pieces = { long = "C > E", arm = "T > N", tip = "E > H" }
[members.hanger]
section = "L 60x60x6"
material = "S355"
bar = true
pieces = { h = "H > B" }
[[supports]]
at = ["A", "F", "T"]
fix = "fixed"
[cases]
Q = { action = "live", use = "office" }
[loads]
Q = [ { on = "beams/long", line = 3, from = "0 m", to = "10 m" }, { on = "N", force = 9 }, { on = "beams/tip", force = 8, at = "3 m" } ]
"""


def test_overhangs_columns_on_beams_and_hangers():
    """3 kN/m on a span of 6 m that overhangs 4 m, 9 kN down a column that stands on it at 2 m, and a force that hangs."""
    p = project(HUNG)
    loads = resolve(p).loads
    path = take_down(p, loads, 1)
    names = [n.name for n in p.nodes]
    ground = {names[n]: float(v[0]) / 1e3 for n, v in path.ground.items()}
    on_d = 3 * 10 * 5 / 6 + 9 * 2 / 6
    assert ground == pytest.approx({"A": 30 + 9 - on_d + 8, "F": on_d})
    assert not path.astray
    path.ground.clear()
    lost = take_down(project(HUNG.replace("[members.hanger]", "[members.spare]")), loads, 1)
    assert sum(v[0] for v in (*lost.ground.values(), *lost.astray.values())) == pytest.approx(47e3)


def test_beams_that_rest_on_one_another_in_a_circle_lose_nothing():
    """Four beams, each with one end on a support and the other on the next one."""
    text = (
        HUNG[: HUNG.index("[nodes]")]
        + """[nodes]
A = [0, 2, 3]
B = [3, 0, 3]
C = [5, 3, 3]
D = [2, 5, 3]
P = [3, 2, 3]
Q1 = [3, 3, 3]
R = [2, 3, 3]
S = [2, 2, 3]
[members.beams]
section = "IPE 400"
material = "S355"
pieces = { a = "A > P", b = "B > Q1", c = "C > R", d = "D > S" }
[[supports]]
at = ["A", "B", "C", "D"]
fix = "fixed"
[cases]
Q = { action = "live", use = "office" }
[loads]
Q = [ { on = "beams/a", force = 10, at = "1 m" } ]
"""
    )
    p = project(text)
    path = take_down(p, resolve(p).loads, 1)
    there = [v[0] for v in (*path.ground.values(), *path.astray.values())]
    assert sum(there) == pytest.approx(10e3) and path.astray


@pytest.mark.parametrize(
    ("change", "code"),
    [
        (('code = "ASCE 7-22"', 'code = "ASCE 7-99"'), "unknown-word"),
        (('code = "ASCE 7-22"', 'code = "ASCE 7-22"\nK_LL = { columns = 9 }'), "bad-quantity"),
        (('code = "ASCE 7-22"', 'code = "ASCE 7-22"\nK_LL = { pillars = 2 }'), "matches-nothing"),
        (('code = "ASCE 7-22"', 'code = "EN 1991-1-1"\nK_LL = { columns = 4 }'), "wrong-key"),
        (('code = "ASCE 7-22"', 'code = "ASCE 7-22"\ncases = ["G"]'), "unknown-name"),
    ],
)
def test_what_is_wrong_with_a_reduction_is_said(change, code):
    assert code in {f.code for f in reading(OFFICE.replace(*change)).findings}


def bodies(members, loads, more=""):
    """Columns A to H at x = 0, 8, 20 m, nodes between; members of family `beams`; what each foot gets [kN], and astray."""
    text = f"""
[project]
units = "kN m"
[nodes]
A = [0, 0, 0]
B = [8, 0, 0]
C = [0, 0, 4]
D = [8, 0, 4]
E = [14, 0, 4]
F = [3, 0, 4]
G = [20, 0, 4]
H = [20, 0, 0]
P = [2, 0, 6]
Q1 = [6, 0, 6]
S = [2, 0, 4]
T = [6, 0, 4]
V = [14, 5, 4]
W = [14, 0, 8]
[members.columns]
section = "HEB 200"
material = "S355"
pieces = {{ a = "A > C", b = "B > D", c = "H > G" }}
[members.beams]
section = "IPE 400"
material = "S355"
pieces = {{ {members} }}
{more}
[[supports]]
at = ["A", "B", "H"]
fix = "fixed"
[cases]
Q = {{ action = "live", use = "office" }}
[loads]
Q = [ {loads} ]
"""
    p = project(text)
    path = take_down(p, resolve(p).loads, 1)
    names = [n.name for n in p.nodes]
    return {names[n]: float(v[0]) / 1e3 for n, v in path.ground.items()}, sum(float(v[0]) for v in path.astray.values())


BARS = """[members.bars]
section = "L 60x60x6"
material = "S355"
bar = true
pieces = { PIECES }
"""


@pytest.mark.parametrize("members", [
    'm = "C > E"', 'm = "C > D", n = "D > E"', 'm = "D > C", n = "E > D"', 'm = "C > F", n = "D > F", o = "D > E"',
])  # fmt: skip
def test_an_overhang_by_the_lever_rule_however_it_is_written(members):
    """24 kN/m on 8 m and 6 m beyond: 24 x 14 x 7/8 = 294 kN and 42 kN."""
    ground, lost = bodies(members, '{ on = "beams", line = 24 }')
    assert ground == pytest.approx({"A": 42, "B": 294}) and not lost


def test_statics_decides_where_members_meet_on_air():
    """A hinge in a continuous beam; a gable without a post; a truss of bars; a chord on two hangers' struts."""
    gerber = BARS.replace("bars", "span").replace("bar = true", 'ends = ["hinged", "rigid"]')
    gerber = gerber.replace("L 60x60x6", "IPE 400").replace("PIECES", 'g = "E > G"')
    ground, lost = bodies('m = "C > E"', '{ on = "beams/m", line = 24 }, { on = "span/g", line = 24 }', gerber)
    assert ground == pytest.approx({"A": 42 - 72 * 6 / 8, "B": 294 + 72 * 14 / 8, "H": 72}) and not lost
    ground, lost = bodies('m = "C > P", n = "D > P"', '{ on = "beams/m", force = 10, at = "50%" }')
    assert ground == pytest.approx({"A": 10 * 7 / 8, "B": 10 / 8}) and not lost
    truss = 'a = "C > S", b = "S > T", c = "T > D", d = "C > P", e = "P > Q1", f = "Q1 > D", g = "P > S", h = "Q1 > T", i = "S > Q1"'
    ground, lost = bodies('m = "B > H"', '{ on = "Q1", force = 10 }', BARS.replace("PIECES", truss))
    assert ground == pytest.approx({"A": 2.5, "B": 7.5}) and not lost
    web = 'd = "C > P", f = "Q1 > D", g = "P > S", h = "Q1 > T"'
    ground, lost = bodies(
        'm = "C > D", t = "P > Q1"', '{ on = "beams/t", force = 10, at = "1 m" }', BARS.replace("PIECES", web)
    )
    assert ground == pytest.approx({"A": 10 * 5 / 8, "B": 10 * 3 / 8}) and not lost


@pytest.mark.parametrize(
    ("stiff", "loaded", "ground"),
    [("long", "short", {"W": 14, "E": 14, "S": 9, "N": 9}), ("short", "long", {"W": 12, "E": 12, "S": 17, "N": 17})],
)
def test_where_beams_cross_the_weaker_rests_on_the_stiffer(stiff, loaded, ground):
    """8 m and 6 m across in their middles: 10 kN where they cross, and 36 kN along the shorter or 48 along the longer."""
    of = {"long": "IPE 200", "short": "IPE 200", stiff: "IPE 400"}
    text = f"""
[project]
units = "kN m"
[nodes]
W = [0, 0, 4]
E = [8, 0, 4]
S = [4, -3, 4]
N = [4, 3, 4]
M = [4, 0, 4]
[members.long]
section = "{of["long"]}"
material = "S355"
pieces = {{ m = "W > E" }}
[members.short]
section = "{of["short"]}"
material = "S355"
pieces = {{ m = "S > N" }}
[[supports]]
at = ["W", "E", "S", "N"]
fix = "fixed"
[cases]
Q = {{ action = "live", use = "office" }}
[loads]
Q = [ {{ on = "{loaded}", line = 6 }}, {{ on = "M", force = 10 }} ]
"""
    p = project(text)
    path = take_down(p, resolve(p).loads, 1)
    found = {p.nodes[n].name: float(v[0]) / 1e3 for n, v in path.ground.items()}
    assert found == pytest.approx(ground) and not path.astray


POST = '[members.posts]\nsection = "HEB 200"\nmaterial = "S355"\npieces = { p = "PIECE" }\n'


@pytest.mark.parametrize(
    ("members", "post", "ground"),
    [
        ('m = "C > S", n = "S > D"', "S > P", {"A": 7.5, "B": 2.5}),
        ('n = "D > S", m = "C > S"', "P > S", {"A": 7.5, "B": 2.5}),
        ('m = "C > S", n = "S > T", o = "T > D"', "T > Q1", {"A": 2.5, "B": 7.5}),
        ('m = "C > D", n = "D > E"', "E > W", {"A": -7.5, "B": 17.5}),
        ('m = "C > E"', "W > E", {"A": -7.5, "B": 17.5}),
        ('n = "E > D"', "E > W", {"B": 10}),
        ('m = "C > D", n = "D > E", o = "E > V"', "E > W", {"A": -7.5, "B": 17.5}),
        ('o = "V > E", n = "E > D", m = "D > C"', "E > W", {"A": -7.5, "B": 17.5}),
    ],
)
def test_a_column_on_the_ends_of_beams_by_the_lever_rule(members, post, ground):
    """10 kN on a post on two pieces of a line, on an overhang's tip (where an arm without a seat of its own ends too), on
    a cantilever: 2, 6 and 14 m from A, over spans of 8 m."""
    top = next(n for n in post.split(" > ") if n in "PQ1W")
    found, lost = bodies(members, f'{{ on = "{top}", force = 10 }}', POST.replace("PIECE", post))
    assert found == pytest.approx(ground) and not lost


def test_what_finds_no_column_is_a_finding_everywhere(tmp_path, capsys):
    """In Python, in `check` and beside the take-down; areas by which live loads are reduced, too. Where there are no
    columns at all, the table is empty and nothing is said."""
    from empuje.api import read

    arms = '[members.arms]\nsection = "IPE 300"\nmaterial = "S355"\npieces = { a = "C1@two > p", b = "p > q" }\n'
    arms = "[nodes]\np = [20, 0, 8]\nq = [20, 9, 8]\n" + arms
    text = OFFICE.replace("[[supports]]", arms + '[[supports]]\nat = "q"\nfix = "fixed"\n[[supports]]', 1)
    text = text.replace(
        "[surfaces.f3]",
        '[surfaces.arm]\ncorners = [[16, 0, 8], [20, 0, 8], [20, 9, 8], [16, 9, 8]]\ndeck = "x"\nfloor = "office"\n[surfaces.f3]',
    )
    (tmp_path / "m.toml").write_text(text, encoding="utf-8")
    with pytest.warns(UserWarning, match="area-unassigned"):
        model = read(tmp_path / "m.toml", cache=False)
    said = {f.code: f for f in model.findings if f.about == ("arms/a",)}
    assert "18 m2" in said["area-unassigned"].message and said["area-unassigned"].level == "warning"
    words = "dead 54 kN and live 43.2 kN on arms/a find no column"
    with pytest.warns(UserWarning, match=words):
        model.solve().take_down()
    for call in (["takedown"], ["check"], ["run", "--no-pictures", "-o", str(tmp_path / "out")]):
        main([call[0], str(tmp_path / "m.toml"), *call[1:]])
        told = capsys.readouterr()
        assert words in told.out + told.err or call[0] == "run", call
    assert words in (tmp_path / "out" / "summary.md").read_text(encoding="utf-8")
    flat = HUNG[: HUNG.index("[nodes]")] + "[nodes]\nC = [0, 0, 4]\nE = [10, 0, 4]\n" + HUNG[HUNG.index("[cases]") :]
    beam = '[members.beams]\nsection = "IPE 400"\nmaterial = "S355"\npieces = { long = "C > E" }\n'
    flat = (
        flat.replace("[cases]", beam + '[[supports]]\nat = ["C", "E"]\nfix = "fixed"\n[cases]').partition(
            ', { on = "N"'
        )[0]
        + " ]\n"
    )
    (tmp_path / "flat.toml").write_text(flat, encoding="utf-8")
    flat_model = read(tmp_path / "flat.toml", cache=False)
    assert flat_model.solve().take_down().empty and not [f for f in flat_model.findings if "column" in f.code]


def test_what_levers_cannot_follow_is_told_with_its_amount():
    """Two arms that meet on air at a right angle, each held at one end only: a force on the corner goes astray whole."""
    held = '[[supports]]\nat = "V"\nfix = "z"\n'
    ground, lost = bodies('m = "D > E", n = "E > V"', '{ on = "beams/n", force = 10, at = "2 m" }', held)
    assert ground == {} and lost == pytest.approx(10e3)


def test_an_overhang_has_its_own_area_and_K_LL():
    """Table 4.7-1: 1 for cantilevers and beams with one. A girder of 9 m with 4 m beyond: the smaller area decides."""
    text = (
        OFFICE.replace("1a = 3, 1b = 6, 2 = 9", "1a = 3, 1b = 6, 2 = 9, 3 = 13")
        .replace('runs = ["A..C / 1>2 / one..three"]', 'runs = ["A..C / 1>3 / one..three"]\nends = "rigid"')
        .replace('ends = "hinged"\nruns = ["A..C / 1>3', 'runs = ["A..C / 1>3', 1)
    )
    text = text.replace('runs = ["A>>C / 1..2 / one..three"]', 'runs = ["A>>C / 1..3 / one..three"]')
    for level in ("one", "two", "three"):
        text = text.replace(f'"C2@{level}", "A2@{level}"', f'"C3@{level}", "A3@{level}"')
    found = factors(text)
    # Joists on line 3 and 2 carry 8 m x 2 m and 8 m x 3.5 m; the girder's end gets 16 m2 on its overhang, and 48 m2 between.
    assert found["girders/B@one/1-3", "Q"] == 1.0
    wide = factors(text.replace("B = 8, C = 16", "B = 24, C = 48").replace("IPE 300", "HEA 1000"))
    assert wide["girders/B@one/1-3", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(1 * 2 * 24))
    two = text.replace(
        'runs = ["A..C / 1>3 / one..three"]', 'runs = ["A..C / 1>2 / one..three", "A..C / 2>3 / one..three"]'
    )
    assert factors(two)["girders/B@one/2-3", "Q"] == 1.0
    assert factors(two)["girders/B@one/1-2", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(1 * 48))
    assert factors(two)["columns/B2/base-one", "Q"] == pytest.approx(found["columns/B2/base-one", "Q"])


def test_loads_that_lie_on_one_another_count_their_area_once():
    """2.4 kN/m2 everywhere and 0.5 on a part, on two parts that overlap, and on a part with a hole between: one area."""
    more = OFFICE.replace("[reduction]", """[loads]
Q = [
  { on = "f1", area = 0.5, part = [[0, 0], [8, 0], [8, 9], [0, 9]] },
  { on = ["f1", "f2"], area = 0.4, part = [[4, 0], [12, 0], [12, 9], [4, 9]], dir = "-z" },
]
[reduction]""")  # fmt: skip
    assert factors(more) == pytest.approx(factors(OFFICE))
    ring = [[[0, 0], [16, 0], [16, 2], [0, 2]], [[0, 7], [16, 7], [16, 9], [0, 9]], [[0, 0], [3, 0], [3, 9], [0, 9]],
            [[13, 0], [16, 0], [16, 9], [13, 9]]]  # fmt: skip
    parts = "\n".join(f'{{ on = "f1", area = 2, part = {part} }},' for part in ring)
    alone = (
        OFFICE.replace('live = { case = "Q", area = "2.4 kN/m2", use = "office" }', "")
        .replace("[reduction]", f"[loads]\nQ = [\n{parts}\n]\n[reduction]")
        .replace('Q = { action = "live" }', 'Q = { action = "live", use = "office" }')
    )
    model = resolved(alone)
    p = model.project
    area = sum(
        one.area
        for one in model.reduction.each
        if one.case == p.case_names.index("Q") and "base-one" in p.members[one.member].name
    )
    assert area == pytest.approx(16 * 9 - 10 * 5, rel=1e-6)


def test_areas_add_up_over_cases_of_one_use():
    """A live load with a case for each floor is reduced as one."""
    text = OFFICE.replace('Q = { action = "live" }', 'Q = { action = "live" }\nQ2 = { action = "live" }')
    text = text.replace("[floors.roof]", '[floors.upper]\ndead = { case = "G", area = "3 kN/m2" }\n'
                        'live = { case = "Q2", area = "2.4 kN/m2", use = "office" }\n[floors.roof]')  # fmt: skip
    i = text.index("[surfaces.f2]")
    text = text[:i] + text[i:].replace('floor = "office"', 'floor = "upper"', 1)
    found, one = factors(text), factors(OFFICE)
    for case in ("Q", "Q2"):
        assert found["columns/B1/base-one", case] == pytest.approx(one["columns/B1/base-one", "Q"])
    other = factors(
        text.replace(
            'case = "Q2", area = "2.4 kN/m2", use = "office"', 'case = "Q2", area = "2.4 kN/m2", use = "residential"'
        )
    )
    assert other["columns/B1/base-one", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(4 * 36))


def test_a_direction_counts_by_where_it_points():
    down = OFFICE.replace('live = { case = "Q", area = "2.4 kN/m2", use = "office" }', "").replace(
        'Q = { action = "live" }', 'Q = { action = "live", use = "office" }'
    )
    for words in ('area = "2.4 kN/m2"', 'area = "2.4 kN/m2", dir = "-z"', 'area = "-2.4 kN/m2", dir = "up"',
                  'area = "2.4 kN/m2", dir = "-normal"'):  # fmt: skip
        text = down.replace("[reduction]", f'[loads]\nQ = [ {{ on = ["f1", "f2"], {words} }} ]\n[reduction]')
        assert factors(text)["columns/B1/base-one", "Q"] == pytest.approx(0.25 + 4.57 / sqrt(4 * 72))
        rows = json.loads(_take_down_json(text))
        assert next(r for r in rows if r["node"] == "B1@one" and r["column"] == "columns/B1/base-one")[
            "area [m2]"
        ] == pytest.approx(36)


@pytest.mark.parametrize(
    "words", ['area = 2.4, dir = "up"', "area = -2.4", 'area = [2.4, -1], along = "+x"', 'area = 2.4, dir = "+x"']
)
def test_what_does_not_press_down_is_not_reduced(words):
    text = OFFICE.replace('live = { case = "Q", area = "2.4 kN/m2", use = "office" }', "").replace(
        'Q = { action = "live" }', 'Q = { action = "live", use = "office" }'
    )
    text = text.replace("[reduction]", f'[loads]\nQ = [ {{ on = ["f1", "f2"], {words} }} ]\n[reduction]')
    assert {case for _, case in factors(text)} == {"R"}


def _take_down_json(text):
    import contextlib
    import io
    import tempfile
    from pathlib import Path

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "m.toml"
        path.write_text(text, encoding="utf-8")
        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(io.StringIO()):
            assert main(["takedown", str(path), "--format", "json"]) == 0
    return out.getvalue()


def test_a_floor_without_a_use_is_not_reduced_as_an_ordinary_one():
    """In combinations it counts as storage, and so it does here: heavy, by 20% under two floors, else not."""
    found = factors(OFFICE.replace(', use = "office"', ""))
    assert found["columns/B1/base-one", "Q"] == 0.8 and found["girders/B@one/1-2", "Q"] == 1.0
    european = factors(OFFICE.replace(', use = "office"', "").replace("ASCE 7-22", "EN 1991-1-1"))
    assert set(european.values()) == {1.0}


def test_a_ramp_is_one_floor():
    """A parking deck that falls by 1:20: members at many heights, but no second floor that would allow 0.8."""
    ramp = OFFICE[: OFFICE.index("[surfaces.f1]")] + """[surfaces.f1]
corners = [[0, 0, 4], [16, 0, 4], [16, 9, 4.45], [0, 9, 4.45]]
deck = "y"
floor = "office"
""" + OFFICE[OFFICE.index("[cases]") :]  # fmt: skip
    ramp = ramp.replace('"A..C / 1,2 / base>>three"', '"A..C / 1 / base>one", "A..C / 2 / base>high"')
    ramp = ramp.replace('"A..C / 1>2 / one..three"', '"A..C / 1>2 / one>high"').replace(
        "one = 4,", "one = 4, low = 4.15, mid = 4.3, high = 4.45,"
    )
    ramp = ramp.replace(
        '"A>>C / 1..2 / one..three"', '"A>>C / 1 / one", "A>>C / 1a / low", "A>>C / 1b / mid", "A>>C / 2 / high"'
    )
    ramp = ramp.replace('use = "office"', 'use = "light traffic"').replace("0.5 R", "0 R")
    assert factors(ramp)["girders/B/1@one-2@high", "Q"] == 1.0


def test_us_models_are_reduced_by_the_constants_printed_for_them(tmp_path, capsys):
    """15 and 400 ft2, not 4.57 and 37.16 m2 turned into feet: 20 ft x 20 ft under a column, 0.25 + 15/sqrt(4 x 400)."""
    text = OFFICE.replace('"kN m"', '"kip ft"').replace("B = 8, C = 16", "B = 20, C = 40")
    text = text.replace("1a = 3, 1b = 6, 2 = 9", "1a = 20, 1b = 30, 2 = 40").replace(
        "one = 4, two = 8, three = 12", "one = 12, two = 24, three = 36"
    )
    text = (
        text.replace("3 kN/m2", "60 psf")
        .replace("2.4 kN/m2", "50 psf")
        .replace("1 kN/m2", "20 psf")
        .replace("0.96 kN/m2", "20 psf")
        .replace("60 psf", "60 lbf/ft2")
        .replace("50 psf", "50 lbf/ft2")
        .replace("20 psf", "20 lbf/ft2")
    )
    found = factors(text)
    assert found["columns/A1/one-two", "Q"] == pytest.approx(0.25 + 15 / sqrt(4 * 10 * 20), rel=1e-12)
    assert found["joists/1a@one/A-B", "Q"] == pytest.approx(0.25 + 15 / sqrt(2 * 20 * 15), rel=1e-12)
    assert found["joists/1b@one/A-B", "Q"] == pytest.approx(
        0.25 + 15 / sqrt(400), rel=1e-12
    )  # 2 x 200 ft2: just reduced
    # Roof, 20 psf: R1 = 1.2 - 0.001 x 300; 1 up to 200 ft2.
    assert (
        found["joists/1a@three/A-B", "R"] == pytest.approx(0.9, rel=1e-12) and found["joists/1b@three/A-B", "R"] == 1.0
    )
    (tmp_path / "m.toml").write_text(text, encoding="utf-8")
    assert main(["takedown", str(tmp_path / "m.toml"), "--factors", "--on", "joists/1a@one/A-B"]) == 0
    out = capsys.readouterr().out
    assert "A_T = 300 ft2" in out and "15/sqrt(K_LL A_T)" in out


def test_european_values_are_national_and_alpha_n_never_goes_with_psi():
    """n = 3: alpha_n = (2 + 0.5)/3 with psi_0 = 0.5. Leading, the column's load is reduced; along with wind it has psi_0
    alone, while a beam has both (EN 1991-1-1, 3.3.2(2) is about alpha_n)."""
    text = OFFICE.replace("ASCE 7-22", "EN 1991-1-1").replace('floor = "roof"', 'floor = "office"')
    text = text[: text.index("[floors.roof]")] + text[text.index("[surfaces.f1]") :]
    text = text.replace('code = "EN 1991-1-1"', 'code = "EN 1991-1-1"\nvalues = { psi_0 = 0.5, A_0 = "8 m2" }')
    text = text.replace("R = { action", 'W = { action = "wind" }\nR = { action').replace(
        "[combinations.custom]",
        '[loads]\nW = [ { on = "B1@three", force = 100 } ]\n[combinations]\nrules = ["EN 1990 6.10"]\nreduce = false\n[combinations.custom]',
    )
    text = text.replace('R = { action = "roof live" }\n', "").replace(" + 0.5 R", "")
    found = factors(text)
    n, A = 2.5 / 3, 5 / 7 * 0.5 + 8 / 48
    assert found["columns/B1/base-one", "Q"] == pytest.approx(n) and found["girders/B@one/1-2", "Q"] == pytest.approx(A)
    s = solution(text)
    column, girder = member(s.project, "columns/B1/base-one"), member(s.project, "girders/B@one/1-2")
    G, Q, W = (N(s, c, column) for c in "GQW")
    assert N(s, "610+Q+W", column) == pytest.approx(1.35 * G + 1.5 * n * Q + 0.9 * W, rel=1e-9)
    assert N(s, "610+W+Q", column) == pytest.approx(1.35 * G + 1.5 * 0.7 * Q + 1.5 * W, rel=1e-9)
    at = Position(share=0.5)
    G, Q = (float(forces(s, named(s, [c]), girder, [at])["My"][0]) for c in "GQ")
    assert float(forces(s, named(s, ["610+W+Q"]), girder, [at])["My"][0]) == pytest.approx(
        1.35 * G + 1.5 * 0.7 * A * Q, rel=1e-9
    )
    assert "wrong-key" in {
        f.code
        for f in reading(OFFICE.replace('code = "ASCE 7-22"', 'code = "ASCE 7-22"\nvalues = { psi_0 = 0.5 }')).findings
    }
