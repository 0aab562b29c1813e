"""Loads taken down by hand's rules, and live loads reduced by the area a member supports, against paper."""

from __future__ import annotations

import json
from math import sqrt

import pytest

from empuje.cli import main
from empuje.core.actions import plain_loads
from empuje.core.actions.take_down import take_down
from empuje.core.analysis.solve import first_order
from empuje.core.answers.along import forces
from empuje.core.answers.bands import bands
from empuje.core.answers.envelope import extremes
from empuje.core.answers.why import Target, miss, why
from empuje.core.model.loads import Position
from models import member, project, reading, solution

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
    return float(forces(s, [name], members, [Position()])["N"][0])


def factors(text: str) -> dict[tuple[str, str], float]:
    p = project(text)
    return {(p.members[r.member].name, p.cases[r.case].name): r.factor for r in p.reduction.each}


def test_three_storeys_taken_down_beside_the_analysis(tmp_path, capsys):
    """An edge column stands under 4.5 m by 8 m of each floor; the frame is a row of simple beams, so reactions agree."""
    (tmp_path / "m.toml").write_text(OFFICE, encoding="utf-8")
    assert main(["takedown", str(tmp_path / "m.toml"), "--on", "columns/B1/*", "--format", "json"]) == 0
    rows = {(r["column"], r["node"]): r for r in json.loads(capsys.readouterr().out)}
    top = rows["columns/B1/two-three", "B1@three"]
    assert [top["area [m2]"], top["dead [kN]"], top["live [kN]"]] == pytest.approx([36, 36, 36 * 0.96])
    low = rows["columns/B1/base-one", "B1@one"]
    assert [low["area below [m2]"], low["dead below [kN]"]] == pytest.approx([108, 36 * 7])
    assert low["live below [kN]"] == pytest.approx(36 * (4.8 + 0.96))
    r1 = 1.2 - 0.011 * 36
    reduced = 72 * 2.4 * (0.25 + 4.57 / sqrt(4 * 72)) + 36 * 0.96 * r1
    assert low["reduced below [kN]"] == pytest.approx(reduced)
    foot = rows["columns/B1/base-one", "B1@base"]
    assert [foot["R dead [kN]"], foot["R live [kN]"]] == pytest.approx(
        [foot["dead below [kN]"], foot["live below [kN]"]], rel=1e-6
    )
    assert main(["takedown", str(tmp_path / "m.toml"), "--factors", "--on", "columns/B1/base-one"]) == 0
    out = capsys.readouterr().out
    assert "K_LL = 4" in out and "ASCE 7, eq. 4.7-1" in out and "R_1 = 0.804" in out


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
    assert extremes(s, ["U"], one).forces[0, 0, 0, 0] == pytest.approx(wanted, rel=1e-9)
    assert bands(s, ["U"], one, 3).value[0, 1, 0, 0] == pytest.approx(wanted, rel=1e-9)
    foot = s.support_node.tolist().index([n.name for n in p.nodes].index("B1@base"))
    assert (s.reaction @ s.weights(["U"]))[foot, 2, 0] == pytest.approx(-1.2 * G - 1.6 * Q - 0.5 * R, rel=1e-6)
    assert s.applied[2] @ s.weights(["U"])[:, 0] == pytest.approx(
        -(s.reaction @ s.weights(["U"]))[:, 2, 0].sum(), rel=1e-9
    )
    target = Target("force", int(member(p, "girders/B@one/1-2")[0]), 4)
    told = why(first_order(p, plain_loads(p)[0]), s, ["U"], target, "largest")
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
    names = [c.name for c in s.project.combinations if c.name.startswith("U2")]
    found = extremes(s, names, one)
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
    loads, _ = plain_loads(p)
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
    path = take_down(p, plain_loads(p)[0], 1)
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
