"""Results that fail, do not balance, or cannot be believed: none of them passes in silence."""

import contextlib
import json
import sqlite3
import warnings
from dataclasses import replace

import numpy as np
import pytest

import empuje
from build import FIXED, RIGID, SECTION, at_node, solved, toward
from empuje.cli import main
from empuje.core.analysis.equations import Unstable
from empuje.core.answers.reactions import result_findings
from models import PORTAL, reading

SWAY = """
[project]
units = "kN m"
space = "plane"
analysis = "second-order"
[plausible]
factor = 100
[nodes]
A1 = [0, 0]
B1 = [0, 4]
C1 = [6, 4]
D1 = [6, 0]
[members.posts]
section = "HEB 160"
material = "S235"
pieces = { a = "A1 > B1", d = "D1 > C1" }
[members.beam]
section = "IPE 240"
material = "S235"
pieces = { b = "B1 > C1" }
[[supports]]
at = ["A1", "D1"]
fix = "pinned"
[cases]
G = { action = "dead" }
W = { action = "wind" }
[loads]
G = [ { on = "beam", line = 12 } ]
W = [ { on = "B1", force = 9, dir = "+x" } ]
[combinations.custom]
U1 = { formula = "1.2 G + W", set = "strength" }
U2 = { formula = "0.9 G + W", set = "strength" }
far = { formula = "60 G + W", set = "strength" }
"""


@pytest.fixture
def heavy(tmp_path):
    path = tmp_path / "heavy.toml"
    path.write_text(SWAY, encoding="utf-8")
    return path


def say(capsys, *words):
    code = main([str(w) for w in words])
    out = capsys.readouterr()
    return code, out.out, out.err


@pytest.mark.parametrize("words", [
    ["envelope"], ["reactions", "--envelope"], ["reactions", "--balance", "--under", "strength"], ["stability", "--under", "strength"],
    ["forces", "--under", "combinations"], ["displacements", "--under", "far,U1"], ["envelope", "--led-by", "normal"],
])  # fmt: skip
def test_what_has_no_answer_stands_first_and_sets_the_exit_code(heavy, capsys, words):
    code, out, err = say(capsys, words[0], heavy, *words[1:], "--format", "json")
    first = json.loads(out)[0]
    assert code == 1 and first["case"] == "far"
    if words[0] == "stability":
        assert first["alpha_cr"] < 1
        return
    assert first["how"] == "no answer" and "far is beyond its elastic critical load" in err
    assert all(v is None for k, v in first.items() if "[" in k)
    assert all(row["case"] != "far" for row in json.loads(out)[1:])


def test_a_run_names_failures_first_and_lists_them_everywhere(heavy, tmp_path, capsys):
    code, _, _ = say(capsys, "run", heavy, "-o", tmp_path / "out", "--no-pictures")
    text = (tmp_path / "out" / "summary.md").read_text(encoding="utf-8")
    assert code == 1 and text.index("**No stable answer: far.**") < text.index("## Governing")
    assert "The frame is stable" not in text and "under far, which has no answer" in text
    assert (tmp_path / "out" / "envelope.csv").read_text(encoding="utf-8").splitlines()[1].split(",")[4] == "far"
    code, out, _ = say(capsys, "check", heavy, "--deep")
    assert code == 1 and "1 of 5 results have no stable answer" in out and "stable, loads" not in out


def test_many_failures_are_told_in_short_and_counted(tmp_path, capsys):
    many = "".join(f'far{i} = {{ formula = "{60 + i} G + W", set = "strength" }}\n' for i in range(30))
    (tmp_path / "m.toml").write_text(SWAY + many, encoding="utf-8")
    code, out, _ = say(capsys, "check", tmp_path / "m.toml", "--deep")
    assert code == 1 and out.count("is beyond its elastic critical load") == 10
    assert "and 21 more like these" in out and "31 errors" in out
    code, out, err = say(capsys, "reactions", tmp_path / "m.toml", "--under", "strength")
    assert code == 1 and err.count("is beyond") == 10 and "far, far0, far1, far2, far3, far4 and 25 more" in out


def test_python_raises_unless_failures_are_allowed(heavy):
    model = empuje.read(heavy)
    solution = model.solve()
    with pytest.raises(empuje.ModelError, match="far is beyond"):
        solution.envelope(on="beam")
    allowed = model.solve(allow_failed=True)
    assert list(allowed.failed) == ["far"]
    table = allowed.reactions(under="strength")
    assert table["case"][0] == "far" and np.isnan(table["Fz [kN]"][0]) and table["how"][0] == "no answer"


def test_a_case_that_cannot_stand_alone_is_a_note_where_every_combination_can(tmp_path, capsys):
    """Wind alone lifts a foot that can only push; with dead load it stands."""
    text = PORTAL.replace('fix = "fixed"', 'fix = "fixed"\nlift = true').replace(
        "W = [ {", 'W = [ { on = "*@eave", force = 30, dir = "up" }, {').replace("1.2 G + 0.5 Q - 1.0 W", "20 G + 0.5 Q + 1.0 W")  # fmt: skip
    path = tmp_path / "m.toml"
    path.write_text(text, encoding="utf-8")
    code, out, _ = say(capsys, "check", path)
    assert code == 0 and "note[no-stable-answer]: under W the frame is unstable" in out
    assert "stable" in out and say(capsys, "envelope", path)[0] == 0
    assert say(capsys, "reactions", path)[0] == 0 and say(capsys, "reactions", path, "--under", "W")[0] == 1
    code, out, _ = say(capsys, "reactions", path, "--schedule", "--format", "json")
    rows = [r for r in json.loads(out) if r["case"] == "W"]
    assert code == 0 and rows and all(r["what"] == "no answer" and r["Fz [kN]"] is None for r in rows)


def test_a_folder_that_is_not_ours_is_refused_before_any_analysis(tmp_path, capsys):
    """A frame that can move would be told first, were it analysed."""
    (tmp_path / "m.toml").write_text(PORTAL.replace('fix = "fixed"', 'fix = "x"'), encoding="utf-8")
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / "letter.txt").write_text("mine", encoding="utf-8")
    code, _, err = say(capsys, "run", tmp_path / "m.toml", "-o", tmp_path / "out")
    assert code == 2 and "letter.txt" in err and "move" in err and "nothing holds it" not in err


def test_run_draws_what_governs(tmp_path, capsys):
    (tmp_path / "m.toml").write_text(PORTAL, encoding="utf-8")
    assert say(capsys, "run", tmp_path / "m.toml", "-o", tmp_path / "out")[0] == 0
    solution = empuje.read(tmp_path / "m.toml").solve()
    pictures = {p.name for p in (tmp_path / "out" / "pictures").glob("*.png")}
    for force, unit in (("N", "kN"), ("Vz", "kN"), ("My", "kN*m")):
        table = solution.envelope(of=force)
        case = table["case"][table[f"{force} [{unit}]"].abs().idxmax()]
        assert f"{force}-{case}.png" in pictures


def test_an_answer_out_of_balance_is_said():
    """A reaction that is off by a millionth of the load, in a sum and in second order."""
    loads = [at_node(1, 1e4), at_node(1, 2e3, way=toward((1, 0, 0)))]
    s = solved([(0, 0, 0), (0, 0, 4)], [(0, 1)], {0: FIXED}, loads, combinations={"U": {"Q": 1.5}})
    assert not result_findings(s)
    wrong = replace(s, reaction=s.reaction * (1 + 1e-6))
    assert [f.code for f in result_findings(wrong)] == ["out-of-balance"] * 2
    lost = replace(s, reaction=s.reaction * np.nan, displacement=s.displacement * np.nan)
    assert [f.code for f in result_findings(lost)] == ["out-of-balance"] * 2
    from models import solution

    bent = solution(SWAY)
    assert not result_findings(bent)
    moved = bent.displacement.copy()
    moved[:, :, bent.second_order_from :] *= 1 + 1e-4  # where the loads stand is not where their forces say
    assert "out-of-balance" in {f.code for f in result_findings(replace(bent, displacement=moved))}


def test_displacements_that_are_not_small():
    for force, far in ((1e3, False), (6e5, True)):
        s = solved([(0, 0, 0), (0, 0, 4)], [(0, 1)], {0: FIXED}, [at_node(1, force, way=toward((0, 1, 0)))])
        share = np.abs(s.displacement[1, 1, 0]) / 4
        said = [f for f in result_findings(s) if f.code == "moves-too-far"]
        assert bool(said) == far == (share > 0.1)
        if far:
            assert f"{share:.0%} of the frame's size" in said[0].message


def test_digits_that_are_lost_are_counted():
    """A piece of 1.5 mm in a column of 9 m: 12 EI/d^3 beside 3 EI/H^3; a spring of 1e-5 Nm/rad beside 4 EI/L."""

    def column(d):
        return solved([(0, 0, 0), (0, 0, 4), (0, 0, 4 + d), (0, 0, 9)], [(0, 1), (1, 2), (2, 3)], {0: FIXED},
                      [at_node(3, 1e3, way=toward((1, 0, 0)))])  # fmt: skip

    assert "digits-lost" not in {f.code for f in result_findings(column(0.05))}
    (said,) = [f for f in result_findings(column(1.5e-3)) if f.code == "digits-lost"]
    assert "0.0015 m" in said.message and "11 of 16 digits" in said.message
    for c, lost in ((1e3, False), (1e-5, True)):
        soft = (np.inf,) * 4 + (c, c)
        s = solved([(0, 0, 0), (5, 0, 0), (10, 0, 0)], [(0, 1, {"joints": RIGID + soft}), (1, 2, {"joints": soft + RIGID})],
                   {0: FIXED, 2: FIXED}, [at_node(1, 1e3)])  # fmt: skip
        assert ("digits-lost" in {f.code for f in result_findings(s)}) == lost


def test_a_frame_that_stands_is_not_called_a_mechanism():
    """A stiff stub of 1.1 mm in a mast of 120 m: it stands by statics, but no digit of that is left."""
    stiff = replace(SECTION, Iy=9.0, Iz=2.3, J=0.4)
    xyz = [(0, 0, 0), (0, 0, 60), (0, 0, 60.0011), (0, 0, 120)]
    with pytest.raises(Unstable) as said:
        solved(xyz, [(0, 1), (1, 2, {"section": stiff}), (2, 3)], {0: FIXED}, [at_node(3, 1e3)])
    assert {f.code for f in said.value.findings} == {"ill-conditioned"}
    assert "m/1, 0.0011 m long" in said.value.findings[0].message


@pytest.mark.parametrize(("rise", "flat"), [(0.02, True), (0.15, True), (0.6, False), (2.0, False)])
def test_bars_that_lie_nearly_in_one_line(rise, flat):
    """Two bars of 4 m with a rise: below 3 degrees a warning."""
    text = f"""
[project]
units = "kN m"
space = "plane"
[nodes]
a = [0, 0]
b = [4, {rise}]
c = [8, 0]
[members.bars]
section = "L 70x70x7"
material = "S235"
bar = true
pieces = {{ l = "a > b", r = "c > b" }}
[[supports]]
at = ["a", "c"]
fix = "pinned"
[cases]
Q = {{ action = "live" }}
[loads]
Q = [ {{ on = "b", force = 1 }} ]
"""
    assert ("nearly-flat" in {f.code for f in reading(text).findings}) == flat


def test_the_nearest_words_are_never_the_same_ones():
    from empuje.core.model.findings import did_you_mean

    assert did_you_mean("U2", ["U2", "U20", "U3"]) == "did you mean U20?"
    assert did_you_mean("W", ["W"]) == "there are none yet"


def test_warnings_of_results_reach_python(tmp_path):
    (tmp_path / "m.toml").write_text(
        PORTAL.replace("HEB 200", "IPE 80").replace("IPE 300", "IPE 80").replace('force = "5 kN"', 'force = "500 kN"')
    )
    with pytest.warns(UserWarning, match="moves-too-far"):
        empuje.read(tmp_path / "m.toml").solve()
    (tmp_path / "m.toml").write_text(PORTAL)
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        empuje.read(tmp_path / "m.toml").solve()


def test_gradients_of_temperature_in_any_units(tmp_path, capsys):
    """30 K/m is 0.03 K/mm and 9.144 K/ft: a simple beam bends by alpha g L^2/8 under it, in every spelling."""
    beam = """
[project]
units = "UNITS"
space = "plane"
[nodes]
a = ["0 m", 0]
b = ["6 m", 0]
[members.beam]
section = "IPE 300"
material = "S235"
pieces = { M = "a > b" }
[[supports]]
at = "a"
fix = "pinned"
[[supports]]
at = "b"
fix = "z"
[cases]
T = { action = "thermal" }
[loads]
T = [ { on = "beam", temperature = 0, gradient_z = GRADIENT } ]
"""
    for units, gradient, head, shown in (
        ("kN m", '"30 K/m"', "gradient z [K/m]", 30), ("kN m", "30", "gradient z [K/m]", 30),
        ("kN mm", "0.03", "gradient z [K/mm]", 0.03), ("kip ft", '"0.03 K/mm"', "gradient z [K/ft]", 9.144),
        ("kip ft", "9.144", "gradient z [K/ft]", 9.144),
    ):  # fmt: skip
        path = tmp_path / "t.toml"
        path.write_text(beam.replace("UNITS", units).replace("GRADIENT", gradient), encoding="utf-8")
        solution = empuje.read(path).solve()
        sag = 1.2e-5 * 30 * 36 / 8
        found = solution.deflections(on="beam", against="chord", at=["50%"])
        column = next(c for c in found.columns if c.startswith("across"))
        factor = {"mm": 1e3, "in": 1 / 0.0254}[column.split("[")[1].rstrip("]")]
        assert found[column][0] == pytest.approx(sag * factor, rel=1e-9)
        listed = empuje.read(path).loads()
        assert listed[head][0] == pytest.approx(shown, rel=1e-9)


def test_a_pattern_by_its_name_has_loads_and_a_picture(tmp_path, capsys):
    """Its loads are those of the cases that act in it."""
    text = PORTAL.replace('Q = { action = "live" }', 'Q = { action = "live", use = "office", pattern = true }').replace(
        "[combinations.custom]",
        '[combinations]\nrules = ["EN 1990 equilibrium", "ASCE 7-22 strength"]\n[combinations.custom]',
    )
    path = tmp_path / "m.toml"
    path.write_text(text, encoding="utf-8")
    code, out, _ = say(capsys, "loads", path, "--totals", "--under", "EN1990.EQU+W,EN1990.EQU+Q+W", "--format", "json")
    absent, there = (next(r for r in json.loads(out) if r["case"] == f"EN1990.EQU{w}") for w in ("+W", "+Q+W"))
    code, out, _ = say(capsys, "loads", path, "--totals", "--under", "cases", "--format", "json")
    cases = {r["case"]: r["Fz [kN]"] for r in json.loads(out)}
    assert code == 0 and absent["Fz [kN]"] == pytest.approx(1.1 * cases["G"] + 1.5 * cases["W"])
    assert there["Fz [kN]"] == pytest.approx(1.1 * cases["G"] + 1.5 * cases["Q"] + 0.9 * cases["W"])
    assert say(capsys, "draw", path, "loads", "--under", "EN1990.EQU+W", "-o", tmp_path / "x.svg")[0] == 0
    for name in ("EN1990.EQU+W+Q", "EN1990.EQU+W"):
        code, out, _err = say(capsys, "reactions", path, "--under", name, "--format", "json")
        assert code in (0, 2)


def test_why_answers_for_the_pattern_it_names(tmp_path, capsys):
    """Rules that give a permanent case either factor: the worst pattern's shares are those of its own cases."""
    text = PORTAL.replace('Q = { action = "live" }', 'Q = { action = "live", use = "office", pattern = true }').replace(
        "[combinations.custom]",
        '[combinations]\nrules = ["AS/NZS 1170.0 stability"]\nexpansion = "as written"\n[combinations.custom]',
    )
    path = tmp_path / "m.toml"
    path.write_text(text, encoding="utf-8")
    code, out, _ = say(
        capsys,
        "why",
        path,
        "--on",
        "A1@base",
        "--of",
        "Fz",
        "--sense",
        "min",
        "--under",
        "stability",
        "--format",
        "json",
    )
    rows = json.loads(out)
    total = next(r for r in rows if r["row"] == "sum")
    shares = {r["case"]: r["Fz [kN]"] for r in rows if r["row"] == "case"}
    solution = empuje.read(path).solve()
    cases = solution.reactions(on="A1@base", under="cases").set_index("case")["Fz [kN]"]
    assert code == 0 and set(shares) == {"G", "W"} and "Q" not in total["case"]
    assert total["Fz [kN]"] == pytest.approx(0.9 * cases["G"] + cases["W"], rel=1e-9)
    best = min(0.9 * cases["G"], 0.9 * cases["G"] + cases["W"])
    assert total["Fz [kN]"] == pytest.approx(best, rel=1e-9)
    code, out, _ = say(capsys, "reactions", path, "--under", total["case"], "--on", "A1@base", "--format", "json")
    assert code == 0 and json.loads(out)[0]["Fz [kN]"] == pytest.approx(best, rel=1e-9)


def test_results_are_written_whatever_cases_are_called(tmp_path, capsys, monkeypatch):
    """Names that differ in capitals only are told, and kept apart; factors stand in a long table, so that the number of
    cases bounds nothing; a database that cannot be made leaves the tables there."""
    model = tmp_path / "m.toml"
    many = "".join(f'q{i} = {{ action = "live" }}\n' for i in range(40))
    model.write_text(PORTAL.replace("[cases]", f'[cases]\ng = {{ action = "dead" }}\n{many}'), encoding="utf-8")
    main(["check", str(model)])
    assert "warning[names-alike]: G and g differ in capitals only" in capsys.readouterr().out
    assert main(["run", str(model), "-o", str(tmp_path / "out"), "--no-pictures"]) in (0, 1)
    with contextlib.closing(sqlite3.connect(tmp_path / "out" / "results.sqlite")) as database:
        assert database.execute('SELECT factor FROM factors WHERE combination = "U1" AND "case" = "G"').fetchone()
        assert len(database.execute("SELECT * FROM combinations").description) == 5

    def full(*_, **__):
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr("empuje.show.results_folder.write_sqlite", full)
    capsys.readouterr()
    assert main(["run", str(model), "-o", str(tmp_path / "out"), "--no-pictures"]) in (0, 1)
    names = {p.name for p in (tmp_path / "out").iterdir()}
    assert {"reactions.csv", "factors.csv", "summary.md"} <= names and "results.sqlite" not in names
    assert "results.sqlite is left out: database or disk is full" in capsys.readouterr().err
