"""Governing reactions, schedules, resultants and storeys, against hand statics."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from build import FIXED, PINNED, at_node, line, named, point, solved, toward
from empuje.cli import main
from empuje.core.analysis.applied import applied
from empuje.core.answers.foundations import displacement_envelope, pulled, reaction_envelope, resultant_table
from empuje.core.answers.schedule import schedule, support_kinds
from empuje.core.answers.storey_cuts import drifts, storey_cut_table, storey_forces, torsional_ratio
from models import PORTAL, solution


def beam(combinations):
    """A 10 m beam: 4 kN at 2.5 m in G, 6 kN up at 7.5 m in W."""
    loads = [point(0, 4e3, 2.5, case="G"), point(0, 6e3, 7.5, way=toward((0, 0, 1)), case="W")]
    held = {0: (True, True, True, True, False, True), 1: (False, True, True, False, False, False)}
    return solved([(0, 0, 0), (10, 0, 0)], [(0, 1)], held, loads, combinations=combinations)


def test_the_envelope_of_reactions_by_hand():
    s = beam({"U1": {"G": 1.4}, "U2": {"G": 0.9, "W": 1.6}, "U3": {"G": 1.2, "W": 0.5}})
    table = reaction_envelope(s, named(s, ["U1", "U2", "U3"]), of=["Fz"])
    rows = list(zip(table["node"], table["extreme"], table["case"], table["Fz"] / 1e3, strict=True))
    assert rows == [
        ("n0", "min", "U2", pytest.approx(0.9 * 3 - 1.6 * 1.5)), ("n0", "max", "U1", pytest.approx(1.4 * 3)),
        ("n1", "min", "U2", pytest.approx(0.9 * 1 - 1.6 * 4.5)), ("n1", "max", "U1", pytest.approx(1.4 * 1)),
    ]  # fmt: skip
    assert pulled(s, named(s, ["U1", "U2", "U3"])) == [("n1", "U2", pytest.approx(-6300))]
    assert pulled(s, named(s, ["U1"])) == []


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10**6))
def test_envelopes_of_nodes_are_brute_force(seed):
    rng = np.random.default_rng(seed)
    factors = {f"U{k}": {c: float(rng.uniform(-1.5, 1.5)) for c in "QGW"} for k in range(8)}
    loads = [
        at_node(1, 1e3, way=toward((0.6, 0, 0.8)), case="G"),
        line(1, 2e3),
        at_node(2, 3e3, way=toward((0, 1, 0)), case="W"),
    ]
    s = solved(
        [(0, 0, 0), (0, 0, 3), (4, 1, 3), (4, 1, 0)],
        [(0, 1), (1, 2), (2, 3)],
        {0: FIXED, 3: PINNED},
        loads,
        combinations=factors,
    )
    names = list(factors)
    for table, value, nodes, keys in (
        (reaction_envelope(s, named(s, names)), s.reaction, s.support_node, ("Fx", "Fy", "Fz", "Mx", "My", "Mz")),
        (
            displacement_envelope(s, named(s, names), np.array([1, 2])),
            s.displacement[[1, 2]],
            [1, 2],
            ("ux", "uy", "uz", "rx", "ry", "rz"),
        ),
    ):
        every = value @ s.weights(named(s, names))
        for r in range(len(table)):
            node, component = list(nodes).index(int(table["node"][r][1:])), keys.index(table["of"][r])
            mine = every[node, component]
            best = {"min": mine.min(), "max": mine.max()}[table["extreme"][r]]
            assert table[table["of"][r]][r] == pytest.approx(best, rel=1e-12)
            at_once = [table[k][r] for k in keys]
            known = ~np.isnan(at_once)
            np.testing.assert_allclose(np.array(at_once)[known], every[node, known, names.index(table["case"][r])])


def test_resultants_about_a_stated_point_and_their_line_of_action():
    """30 kN down at x = 2, 10 kN towards +x at z = 4, on a frame whose feet are at x = 0 and 6."""
    xyz = [(0, 0, 0), (0, 0, 4), (6, 0, 4), (6, 0, 0)]
    loads = [point(1, 30e3, 2.0, case="Q"), at_node(1, 10e3, way=toward((1, 0, 0)), case="Q")]
    s = solved(xyz, [(0, 1), (1, 2), (2, 3)], {0: FIXED, 3: FIXED}, loads)
    for about, My in (((0, 0, 0), 30 * 2 + 10 * 4), ((3, 0, 0), -30 * 1 + 10 * 4), ((2, 5, 4), 0.0)):
        t = resultant_table(s, named(s, ["Q"]), np.array(about, float))
        assert t["My"][0] / 1e3 == pytest.approx(My, abs=1e-9) and t["My"][1] == pytest.approx(-t["My"][0], abs=1e-6)
        # The line of action crosses the level z at 2 + (z - 4) 10/30 short of ... : about (2, 4) it has no moment.
        assert t["x"][0] == pytest.approx(2 + (4 - about[2]) * 10 / 30)
    assert (t["F"][0], t["H"][0]) == (pytest.approx(np.hypot(30e3, 10e3)), pytest.approx(10e3))
    assert np.rad2deg(t["inclination"][0]) == pytest.approx(18.43494882)


def test_reactions_that_cancel_out_have_no_resultant():
    s = solution(
        PORTAL.replace(
            "[loads]", 'T = { action = "thermal" }\n[loads]\nT = [ { on = "rafters", temperature = "20 K" } ]'
        )
    )
    t = resultant_table(s, named(s, ["T"]), s.centre)
    assert (t["F"] == 0).all() and np.isnan(t["x"]).all() and np.abs(s.reaction[:, :, 3]).max() > 10


def test_a_schedule_by_kind_of_support():
    text = PORTAL.replace(
        'at = "*@base"\nfix = "fixed"',
        'at = "A*@base"\nfix = "fixed"\n[[supports]]\nat = "C*@base"\nfix = "x y z"\nspring = { rx = 500 }',
    )
    s = solution(text)
    assert support_kinds(s) == ["fixed", "fixed", "pinned, spring rx", "pinned, spring rx"]
    t = schedule(s, named(s, ["U1", "U2"]))
    assert list(dict.fromkeys(t["support"])) == ["fixed", "pinned, spring rx"]
    one = t.rows(t["node"] == "C1@base")
    assert list(one["what"][:3]) == ["case"] * 3 and list(one["case"][:3]) == ["G", "Q", "W"]
    assert (
        list(one["what"][3:5]) == ["min Fx", "max Fx"] and np.isnan(one["My"]).all() and not np.isnan(one["Mx"]).any()
    )
    G, Q, W = one["Fz"][:3]
    best = one.rows(one["what"] == "max Fz")
    assert best["Fz"][0] == pytest.approx(max(1.2 * G + 1.6 * Q, 1.2 * G + 0.5 * Q - W))
    some = schedule(
        s,
        named(s, ["U1", "U2"]),
        np.array([n.name == "C1@base" for n in s.project.nodes]).nonzero()[0],
        ["Fz", "My"],
        True,
    )
    assert set(some["node"]) == {"C1@base"} and [c.name for c in some.columns][-1] == "Fz"  # no My there is held
    assert some["Fz"] == pytest.approx(
        -one["Fz"][[*range(3), *np.flatnonzero(np.isin(one["what"], ["max Fz", "min Fz"]))]]
    )
    assert list(some["what"]) == ["case"] * 3 + ["max Fz", "min Fz"]


def test_supports_stand_in_the_order_of_the_grid():
    """A2 before A10; what is only rounding is nothing."""
    lines = ", ".join(f"{k} = {3 * k}" for k in range(1, 12))
    text = f"""
[project]
units = "kN m"
[grid]
x = {{ A = 0, B = 5 }}
y = {{ {lines} }}
z = {{ base = 0 }}
[members.beams]
section = "HEB 200"
material = "S235"
runs = ["A>B / 1..11 / base"]
[[supports]]
at = "*"
fix = "pinned"
[cases]
G = {{ action = "dead" }}
[loads]
G = [ {{ on = "beams", line = 4 }} ]
"""
    s = solution(text.replace('fix = "pinned"', 'fix = "fixed"'))
    t = schedule(s, named(s, ["G"]))
    assert list(dict.fromkeys(t["node"])) == [f"{a}{k}@base" for a in "AB" for k in range(1, 12)]
    assert set(np.unique(np.round(t["Fz"]))) == {10e3} and not t["Fx"].any() and not t["Mx"].any()


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10**6))
def test_what_a_cut_carries_is_the_load_above_it(seed):
    """Whatever way the members run, sloping or drawn from the top down; loads in all directions along them."""
    rng = np.random.default_rng(seed)
    jog = rng.uniform(-0.5, 0.5, (8, 3)) * (1, 1, 0.3)
    base = [(x, y, z) for z in (0, 3, 6) for x, y in ((0, 0), (5, 1))][:6]
    xyz = [tuple(np.array(p) + (jog[i] if p[2] else 0)) for i, p in enumerate(base)]
    pairs = [(0, 2), (3, 1), (2, 3), (4, 2), (3, 5), (4, 5)]
    way = rng.standard_normal(3)
    way = toward(way / np.linalg.norm(way))
    loads = [
        line([4, 5], 2e3, 5e3, way=way),
        point(2, 3e3, 1.0, way=way),
        at_node(4, 4e3, way=way),
        at_node(5, 2e3, kind="moment", way=way),
    ]
    s = solved(xyz, pairs, {0: FIXED, 1: FIXED}, loads)
    force, moment = storey_forces(s, named(s, ["Q"]), 0.0)
    size = np.abs(applied(s)).max()
    np.testing.assert_allclose(np.vstack([force, moment]), applied(s), atol=1e-4 * size * 1e-3)
    # Above the floor in the middle: all but what is on member 2 and below; the line loads there are cut by hand.
    level = max(xyz[2][2], xyz[3][2]) + 0.5
    above = np.zeros(3)
    for m in (4, 5):
        a, b = np.array(xyz[pairs[m][0]]), np.array(xyz[pairs[m][1]])
        L = np.linalg.norm(b - a)
        where = (np.arange(200000) + 0.5) / 200000
        there = (a + np.outer(where, b - a))[:, 2] > level
        above += np.array(way.vector) * (there * (2e3 + 3e3 * where)).mean() * L
    above += np.array(way.vector) * 4e3
    np.testing.assert_allclose(
        storey_forces(s, named(s, ["Q"]), level)[0][:, 0], above, atol=1e-4 * np.abs(above).max()
    )


def test_drift_and_torsion_of_a_storey_that_turns():
    lines = np.array([(0, 0), (6, 0), (0, 4), (6, 4)], float)
    drift = np.zeros((4, 2, 1))
    drift[:, 0, 0] = [3e-3, 3e-3, 1e-3, 1e-3]
    assert torsional_ratio(lines, drift, 0) == pytest.approx(1.5) and np.isnan(torsional_ratio(lines, drift, 1))
    # Two cantilevers of unequal height of load: u = P h^3 / 3 EI, no node in between.
    s = solved([(0, 0, 0), (0, 0, 3), (5, 0, 0), (5, 0, 3)], [(0, 1), (2, 3)], {0: FIXED, 2: FIXED},
                            [at_node(1, 1e3, way=toward((1, 0, 0))), at_node(3, 2e3, way=toward((1, 0, 0)))])  # fmt: skip
    found = drifts(s, named(s, ["Q"]), np.array([0.0, 3.0]))[1][0]
    assert found[1, 0, 0] == pytest.approx(2 * found[0, 0, 0]) and found[0, 0, 0] > 0
    t = storey_cut_table(s, named(s, ["Q"]), [("foot", 0.0), ("top", 3.0)])
    assert t["Vx"][0] == pytest.approx(3e3) and t["My"][0] == pytest.approx(9e3)
    assert t["drift x"][0] == pytest.approx(found[1, 0, 0]) and t["drift x/h [1/1000]"][0] == pytest.approx(
        1e3 * found[1, 0, 0] / 3
    )


def test_the_commands(tmp_path, capsys):
    (tmp_path / "m.toml").write_text(PORTAL, encoding="utf-8")
    path, book = str(tmp_path / "m.toml"), tmp_path / "f.xlsx"

    def rows(*words):
        assert main([*words, "--format", "json"]) == 0
        return json.loads(capsys.readouterr().out)

    found = rows("reactions", path, "--envelope", "--of", "Fz", "--on", "A1@base")
    assert [(r["extreme"], r["of"]) for r in found] == [("min", "Fz"), ("max", "Fz")]
    assert "Fx [kN]" not in rows("reactions", path, "--of", "Fz")[0]
    about = rows("reactions", path, "--about", "6,0,1.5", "--under", "W")
    node = rows("reactions", path, "--about", "A1@base", "--under", "W")
    assert about[0]["My [kN*m]"] == pytest.approx(
        node[0]["My [kN*m]"] - 1.5 * node[0]["Fx [kN]"] + 6 * node[0]["Fz [kN]"]
    )
    storeys = rows("storeys", path, "--under", "W", "--levels", "base,eave,5.5")
    assert [r["storey"] for r in storeys] == ["eave-5.5", "base-eave"] and storeys[1]["Vx [kN]"] == pytest.approx(10)
    assert rows("displacements", path, "--envelope", "--of", "ux", "--on", "A1@eave")[1]["case"] in ("U1", "U2", "S1")
    assert main(["reactions", path, "--schedule", "-o", str(book)]) == 0
    first = book.read_bytes()
    assert main(["reactions", path, "--schedule", "-o", str(book)]) == 0 and book.read_bytes() == first
    from openpyxl import load_workbook

    sheet = load_workbook(book).active
    assert [c.value for c in sheet[1]][:3] == ["support", "node", "x [m]"] and sheet.max_row == 1 + 4 * (3 + 12)
    beside = rows("reactions", path, "--schedule", "--side-by-side", "--of", "Fx,Fz")
    turned = rows("reactions", path, "--schedule", "--side-by-side", "--of", "Fx,Fz", "--on-foundation")
    for row, opposite in zip(beside, turned, strict=True):
        every = rows("reactions", path, "--envelope", "--of", row["of"], "--on", row["node"])
        assert [row["min [kN]"], row["max [kN]"]] == pytest.approx([r[f"{row['of']} [kN]"] for r in every])
        assert [row["under min"], row["under max"]] == [r["case"] for r in every]
        for case in ("G", "Q", "W"):
            (one,) = rows("reactions", path, "--under", case, "--on", row["node"], "--each")
            assert row[f"{case} [kN]"] == pytest.approx(one[f"{row['of']} [kN]"], abs=1e-9)
            assert opposite[f"{case} [kN]"] == pytest.approx(-row[f"{case} [kN]"], abs=1e-9)
        assert (opposite["min [kN]"], opposite["under min"]) == (-row["max [kN]"], row["under max"])
    alone = rows("reactions", path, "--about", "A1@base", "--on", "A1@base", "--under", "W", "--of", "Fx")
    own = rows("reactions", path, "--on", "A1@base", "--under", "W", "--each")
    assert len(alone) == 1 and alone[0]["sum"] == "reactions" and "Fz [kN]" not in alone[0]
    assert alone[0]["Fx [kN]"] == pytest.approx(own[0]["Fx [kN]"])
    for words, about_ in (
        (["reactions", path, "--about", "1,2"], "x,y,z"), (["reactions", path, "--about", "*"], "nodes"),
        (["reactions", path, "--balance", "--of", "Fz"], "leave"), (["reactions", path, "--on-foundation"], "--schedule"), (["reactions", path, "--of", "N"], "no N"),
        (["reactions", path, "--schedule", "--side-by-side", "--of", "Fz,My"], "one kind"), (["reactions", path, "--side-by-side"], "--schedule"),
        (["reactions", path, "--schedule", "--format", "xlsx"], "-o"), (["storeys", path, "--under", "W", "--levels", "base"], "two"),
        (["displacements", path, "--envelope", "--on", "rafters"], "nodes"), (["reactions", path, "--on", "A1@eave"], "support"),
    ):  # fmt: skip
        assert main(words) == 2
        assert about_ in capsys.readouterr().err
