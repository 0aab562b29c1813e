"""The installed `empuje`, on files in a folder, as its user runs it."""

import contextlib
import csv
import io
import json
import math
import os
import re
import shlex
import shutil
import sqlite3
import subprocess
import sys
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest

from empuje.cli import main, parser
from models import PORTAL

EMPUJE = shutil.which("empuje", path=str(Path(sys.executable).parent)) or shutil.which("empuje")


@pytest.fixture
def model(tmp_path):
    path = tmp_path / "portal.toml"
    path.write_text(PORTAL, encoding="utf-8")
    return path


@pytest.fixture
def demo(tmp_path):
    path = tmp_path / "house.toml"
    path.write_text(files("empuje.samples").joinpath("packing_house", "packing-house.toml").read_text("utf-8"), "utf-8")
    return path


def run(*words, cwd=None):
    assert EMPUJE, "empuje is not installed"
    environment = os.environ | {"PYTHONIOENCODING": "utf-8"}
    return subprocess.run(
        [EMPUJE, *map(str, words)], capture_output=True, text=True, cwd=cwd, env=environment, timeout=120
    )


def say(capsys, *words):
    """Run in this process: code, standard output, standard error."""
    code = main([str(w) for w in words])
    out = capsys.readouterr()
    return code, out.out, out.err


def test_help_needs_no_numerical_library():
    found = subprocess.run(
        [
            sys.executable,
            "-c",
            "import sys, empuje.cli as c\ntry: c.main(['--help'])\nexcept SystemExit: pass\n"
            "print([m for m in ('numpy', 'scipy', 'pandas', 'matplotlib', 'pint') if m in sys.modules])",
        ],
        capture_output=True,
        text=True,
    )
    assert found.stdout.rstrip().endswith("[]") and "envelope" in found.stdout


SHORTER = {
    "report": ["--parts", "frame"], "stability": ["--under", "everyday,B1*"], "members": ["--on", "joists"],
    "draw utilisation": ["--on", "joists,rafters"],
}  # fmt: skip
"""What takes long is asked for less of."""


def all_work(proposed, folder, monkeypatch, capsys, shorter=None):
    """Every proposed command, in its folder, with some of more words."""
    monkeypatch.chdir(folder)
    for line in proposed:
        words = shlex.split(line)[1:]
        asked = f"draw {words[2]}" if words[0] == "draw" else words[0]
        code, _, told = say(capsys, *words, *(shorter or {}).get(asked, []))
        assert code == 0, (line, told)


def test_the_demo_runs_and_says_what_to_look_at(tmp_path, monkeypatch, capsys):
    found = run("demo", cwd=tmp_path)
    assert (found.returncode, found.stderr) == (0, "")
    results = tmp_path / "packing-house" / "results"
    summary = (results / "summary.md").read_text(encoding="utf-8")
    assert "94 members, 84 nodes, 20 cases" in summary
    assert "Stability and balance" in summary and "| girders | My |" in summary
    assert (results / "pictures" / "loads-WY1ap.png").read_bytes().startswith(b"\x89PNG")
    told = [line.split()[-1] for line in found.stdout.splitlines() if "?  " in line]
    assert len(told) == 3 and all((tmp_path / path).is_file() for path in told)
    # Every command it proposes works; `run` did, and sections are tried on smaller frames in test_trying.
    proposed = [line for line in found.stdout.splitlines() if line.strip().startswith("empuje ")]
    assert len(proposed) == 30
    assert sum(line.strip().startswith("empuje run ") for line in proposed) == 1
    for line in proposed:
        parser().parse_args(shlex.split(line)[1:])
    all_work(
        [line for line in proposed if not line.strip().startswith(("empuje run ", "empuje try "))],
        tmp_path,
        monkeypatch,
        capsys,
        SHORTER,
    )
    # By hand: 5 kN/m2 on 6 m by 18 m, two machine feet of 12 kN.
    rows = csv.DictReader(io.StringIO((results / "load-totals.csv").read_text(encoding="utf-8")))
    totals = {r["case"]: float(r["Fz [kN]"]) for r in rows}
    assert totals["Q"] == pytest.approx(-(5 * 6 * 18 + 24), rel=1e-12)
    rows = list(csv.DictReader(io.StringIO((results / "surface-balance.csv").read_text(encoding="utf-8"))))
    assert len(rows) == 38 and all(float(r["difference [kN]"]) == 0 for r in rows)
    rows = list(csv.DictReader(io.StringIO((results / "take-down.csv").read_text(encoding="utf-8"))))
    feet = [r for r in rows if r["node"].endswith("@base")]
    for action, case in (("live", "Q"), ("roof live", "R")):
        assert sum(float(r[f"{action} below [kN]"]) for r in feet) == pytest.approx(-totals[case], rel=1e-9)
    rows = csv.DictReader(io.StringIO((results / "sections.csv").read_text(encoding="utf-8")))
    rafter = next(r for r in rows if r["section"] == "IPE 330")
    assert float(rafter["A [cm2]"]) == pytest.approx(62.6, rel=5e-3)
    assert float(rafter["Wpl_y [cm3]"]) == pytest.approx(804.3, rel=5e-3)
    rows = list(csv.DictReader(io.StringIO((results / "members.csv").read_text(encoding="utf-8"))))
    assert sum(float(r["weight [kN]"]) for r in rows) == pytest.approx(-totals["SW"], rel=1e-12)
    assert {r["roll [deg]"] for r in rows if r["family"] == "columns"} == {"90.0"}
    with contextlib.closing(sqlite3.connect(results / "results.sqlite")) as database:
        top = database.execute('SELECT max("My [kN*m]") FROM envelope WHERE member LIKE "girders%"').fetchone()[0]
    assert 300 < top < 450
    # A changed model is not overwritten.
    model = tmp_path / "packing-house" / "packing-house.toml"
    model.write_text(model.read_text(encoding="utf-8") + "# mine\n", encoding="utf-8")
    assert run("demo", cwd=tmp_path).returncode == 2 and model.read_text(encoding="utf-8").endswith("# mine\n")


def test_the_gantry_comes_from_a_workbook(tmp_path, monkeypatch, capsys):
    """Every command it proposes works, and a second run gives the same bytes; by hand 11 beams of 2.8 kN/m and two of 1.4 on 1.8 m, of which each truss carries
    half: P n L / 8 in its middle, over a depth of 1.6 m in a slope of 1 to 12."""
    found = run("demo", "gantry", cwd=tmp_path)
    assert (found.returncode, found.stderr) == (0, "")
    results = tmp_path / "gantry" / "results"
    proposed = [line for line in found.stdout.splitlines() if line.strip().startswith("empuje ")]
    assert len(proposed) == 8
    before = {p.relative_to(results): p.read_bytes() for p in results.rglob("*.*") if p.is_file()}
    all_work(proposed, tmp_path, monkeypatch, capsys)
    assert sum(line.strip().startswith("empuje run ") for line in proposed) == 1
    assert before == {p.relative_to(results): p.read_bytes() for p in results.rglob("*.*") if p.is_file()}
    rows = csv.DictReader(io.StringIO((results / "load-totals.csv").read_text(encoding="utf-8")))
    assert {r["case"]: float(r["Fz [kN]"]) for r in rows}["Q"] == pytest.approx(-(11 * 2.8 + 2 * 1.4) * 1.8, rel=1e-12)
    found = run("forces", "gantry/gantry.toml", "--on", "chords/S.top", "--under", "Q", "--at", "49%", "--format", "json",
                cwd=tmp_path)  # fmt: skip
    chord = 2.8 * 1.8 / 2 * 12 * 24 / 8 / 1.6 * math.hypot(24, 2) / 24
    assert json.loads(found.stdout)[0]["N [kN]"] == pytest.approx(-chord, rel=0.02)
    (tmp_path / "gantry" / "gantry.xlsx").write_bytes(b"mine")
    assert run("demo", "gantry", cwd=tmp_path).returncode == 2


def test_new_writes_a_model_that_checks(tmp_path):
    assert run("new", "frame", cwd=tmp_path).returncode == 0
    found = run("check", "frame.toml", cwd=tmp_path)
    assert found.returncode == 0 and "0 errors, 0 warnings" in found.stdout
    assert run("new", "frame.toml", cwd=tmp_path).returncode == 2


def test_broken_models_are_told_without_a_traceback(model, tmp_path):
    model.write_text(PORTAL.replace("HEB 200", "HEB 205").replace('"+x"', '"x"'), encoding="utf-8")
    for command in (["check"], ["reactions"], ["run"]):
        found = run(*command, model)
        assert found.returncode == 1
        text = found.stdout + found.stderr
        assert "portal.toml:9: error[unknown-name]" in text and "HEB 200" in text and "Traceback" not in text
    assert not list(tmp_path.glob("*-results"))
    (tmp_path / "bad.toml").write_bytes(b"\xff\xfe")
    for name in ("missing.toml", "bad.toml", "."):
        found = run("check", name, cwd=tmp_path)
        assert found.returncode == 2 and "Traceback" not in found.stderr


def test_a_mechanism_is_an_error_of_check(model, capsys):
    model.write_text(PORTAL.replace('fix = "fixed"', 'fix = "x z ry"'), encoding="utf-8")
    code, out, _ = say(capsys, "check", model)
    assert code == 1 and "error[mechanism]" in out and "no support in y" in out
    code, _, err = say(capsys, "forces", model)
    assert code == 1 and "no support in y" in err


def test_formats_agree_and_carry_full_precision(model, capsys):
    code, text, _ = say(capsys, "reactions", model, "--under", "U1,W", "--format", "json")
    rows = json.loads(text)
    assert code == 0 and len(rows) == 8 and set(rows[0]) >= {"node", "case", "Fz [kN]", "My [kN*m]"}
    _, text, _ = say(capsys, "reactions", model, "--under", "U1", "--under", "W", "--format", "csv")
    for row, same in zip(csv.DictReader(io.StringIO(text)), rows, strict=True):
        assert row["node"] == same["node"] and float(row["Fz [kN]"]) == same["Fz [kN]"]
    assert any(len(str(r["Fz [kN]"])) > 10 for r in rows)
    _, text, _ = say(capsys, "reactions", model, "--under", "W")
    assert "applied" in text and "difference" in text and text.count("@base") == 4 and "nan" not in text
    push = next(line for line in text.splitlines() if "  applied" in line).split()
    assert float(push[2]) == 10.0
    _, text, _ = say(capsys, "reactions", model, "--under", "W", "--balance", "--format", "md")
    assert text.startswith("| case | sum |") and "| difference |" in text


def test_json_has_null_where_a_value_does_not_exist(tmp_path, capsys):
    from importlib.resources import files

    path = tmp_path / "plane.toml"
    path.write_text(
        files("empuje.samples").joinpath("starters", "portal.toml").read_text(encoding="utf-8"), encoding="utf-8"
    )
    rows = json.loads(say(capsys, "displacements", path, "--format", "json", "--under", "W")[1])
    assert len(rows) == 5 and rows[0]["uy [mm]"] is None and rows[0]["ux [mm]"] == 0.0
    rows = json.loads(say(capsys, "forces", path, "--on", "rafters", "--at", "50%", "--format", "json")[1])
    assert {r["member"] for r in rows} == {"rafters/A@eave-B@ridge", "rafters/B@ridge-C@eave"}
    assert rows[0]["Mz [kN*m]"] is None and rows[0]["x [m]"] == pytest.approx(26.44**0.5 / 2, rel=1e-9)


SUMS = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [3, 4, 0]
c = [3, 4, 6]
[members.low]
section = "IPE 300"
material = "S235"
pieces = { ab = "a > b" }
[members.high]
section = "IPE 300"
material = "S235"
pieces = { bc = "b > c" }
[[supports]]
at = "a"
fix = "fixed"
[cases]
Q = { action = "live" }
W = { action = "wind" }
[loads]
Q = [ { on = "low/ab", line = [2, 8], from = "1 m", to = "4 m" }, { on = "high/bc", force = 6, at = "2 m" }, { on = "c", force = 4 },
      { on = "low/ab", force = 3, at = "2 m" }, { on = "low/ab", force = 3, at = "2 m", dir = "up" }, { on = "c", moment = 9, dir = "+x" } ]
W = [ { on = "high/bc", line = [1, 4], dir = "+y" }, { on = "a", force = 2, dir = "-x" } ]
"""


def test_sums_of_loads_and_where_they_act(tmp_path, capsys):
    """By hand, on a member of slope 3:4 in plan: a trapezium of 15 kN acts at 1 + 3 (2 + 16)/(3 (2 + 8)) = 2.8 m."""
    path = tmp_path / "m.toml"
    path.write_text(SUMS, encoding="utf-8")

    def rows(*words):
        _, text, _ = say(capsys, "loads", path, *words, "--format", "json")
        return [[v if not isinstance(v, float) else round(v, 9) for v in row.values()] for row in json.loads(text)]

    low = [0.0, 0.0, -15.0, 1.68, 2.24, None]
    assert rows("--by", "family", "--under", "Q") == [["Q", "low", *low], ["Q", "high", 0.0, 0.0, -6.0, 3.0, 4.0, None],
                                                      ["Q", "(nodes)", 0.0, 0.0, -4.0, 3.0, 4.0, None]]  # fmt: skip
    (whole,) = rows("--by", "case", "--under", "Q")
    assert whole == ["Q", 0.0, 0.0, -25.0, round((15 * 1.68 + 30) / 25, 9), round((15 * 2.24 + 40) / 25, 9), None]
    wind = 15.0 * 6 * (1 + 8) / (3 * 5)  # the trapezium's first moment about b, over its whole height
    assert rows("--by", "member", "--under", "W") == [["W", "high/bc", 0.0, 15.0, 0.0, None, None, wind / 15],
                                                      ["W", "a", -2.0, 0.0, 0.0, None, None, 0.0]]  # fmt: skip
    assert rows("--by", "case", "--under", "W") == [["W", -2.0, 15.0, 0.0, None, None, round(15 * wind / (4 + 225), 9)]]
    assert rows("--by", "case", "--under", "Q", "--on", "high") == [["Q", 0.0, 0.0, -6.0, 3.0, 4.0, None]]


def test_loads_lists_what_is_where(model, capsys):
    _, text, _ = say(capsys, "loads", model, "--under", "W")
    line = 1 + PORTAL[: PORTAL.index("W = [ {")].count("\n")
    assert "A1@eave and 1 more" in text and text.count("Fx 5 kN") == 1 and f"portal.toml:{line}" in text
    _, text, _ = say(capsys, "loads", model, "--under", "W", "--each")
    assert text.count("Fx 5 kN") == 2 and text.count("My 3 kN*m") == 4
    _, text, _ = say(capsys, "loads", model, "--under", "Q", "--on", "rafters/1/*", "--format", "csv")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == 2 and float(rows[0]["qz [kN/m]"]) == pytest.approx(-2 * 6 / 38.25**0.5)
    assert float(rows[0]["from [m]"]) == 1.0


def test_calls_that_cannot_be_met_say_what_to_do(model, capsys, tmp_path):
    for words, says in (
        (["forces", model, "--on", "rafers"], "did you mean rafters"),
        (["forces", model, "--under", "U9"], "U1"),
        (["forces", model, "--at", "2 kN"], "a force, not a length"),
        (["forces", model, "--at", "9"], "6.185 m long"),
        (["envelope", model, "--of", "M"], "My"),
        (["draw", model, "loads"], "--under"),
        (["draw", model, "My", "--under", "U1", "-o", "x.gif"], ".png"),
        (["draw", model, "My", "--under", "U1", "--view", "top"], "iso"),
        (["reactions", model, "-o", "x.doc"], ".csv"),
        (["displacements", model, "--on", "rafters,A1@base"], "not both"),
        (["reactions", model, "--on", "A1@eave"], "support"),
    ):
        code, out, err = say(capsys, *words)
        assert code == 2 and says in err and out == "", (words, err)


def test_run_replaces_its_own_results_and_nothing_else(model, capsys, tmp_path):
    assert say(capsys, "run", model, "--no-pictures")[0] == 0
    folder = tmp_path / "portal-results"
    assert {"summary.md", "results.sqlite", "reactions.csv", "envelope.csv"} <= {p.name for p in folder.iterdir()}
    model.write_text(PORTAL.replace("5 kN", "6 kN"), encoding="utf-8")
    before = (folder / "reactions.csv").read_bytes()
    assert say(capsys, "run", model, "--no-pictures")[0] == 0 and (folder / "reactions.csv").read_bytes() != before
    (folder / "notes.txt").write_text("mine")
    code, _, err = say(capsys, "run", model, "--no-pictures")
    assert code == 2 and "notes.txt, which is not a result" in err and (folder / "notes.txt").exists()
    mine = tmp_path / "mine"
    mine.mkdir()
    (mine / "thesis.txt").write_text("years")
    code, _, err = say(capsys, "run", model, "-o", mine)
    assert code == 2 and "thesis.txt" in err and (mine / "thesis.txt").read_text() == "years"
    assert not [p for p in tmp_path.iterdir() if p.name.startswith(".")]


@pytest.mark.parametrize(
    ("what", "ending", "head"), [("loads", "svg", b"<?xml"), ("deflected", "pdf", b"%PDF"), ("N", "png", b"\x89PNG")]
)
def test_pictures_are_the_same_each_time(model, tmp_path, capsys, what, ending, head):
    paths = [tmp_path / f"{i}.{ending}" for i in (0, 1)]
    for path in paths:
        assert say(capsys, "draw", model, what, "--under", "W", "-o", path, "--label", "names")[0] == 0
    assert paths[0].read_bytes().startswith(head) and paths[0].read_bytes() == paths[1].read_bytes()


def test_python_gives_tables_with_units(model):
    import empuje

    read = empuje.read(model)
    solution = read.solve()
    table = solution.envelope(on="rafters", under="strength", of="My")
    assert list(table.columns[:5]) == ["member", "of", "extreme", "x [m]", "case"] and len(table) == 8
    assert solution.reactions(under="W")["Fx [kN]"].sum() == pytest.approx(-10)
    assert len(solution.forces(on="rafters/1/*", under="U1", at=["0%", 2.5])) == 4
    assert solution.displacements(on="A1@eave", under="W")["ux [mm]"].iloc[0] > 0
    assert set(read.loads(under="G")["case"]) == {"G"}
    ends = solution.deflections(on="rafters/1/*", under="U1", against="start", at=["0%"])
    assert len(ends) == 2 and np.abs(ends["across [mm]"]).max() < 1e-12
    assert len(solution.deflections(on="rafters", under="strength")) == 8
    assert list(read.combinations(under="service")["formula"]) == ["1.0 G + 1.0 Q"]
    assert len(solution.bands(on="rafters", of="My", stations=3)) == 12
    assert len(solution.stresses("mises", on="rafters", fibre="middle")) == 4
    assert set(solution.reaction_envelope(on="A1@base")["node"]) == {"A1@base"}
    stable = read.stability(under="strength")
    # Nothing holds the ridge sideways but the torsion of the rafters.
    assert (stable["alpha_cr"] < 1).all() and set(stable["second order"]) == {"none: beyond critical"}
    model.write_text(PORTAL.replace("HEB 200", "HEB 205"), encoding="utf-8")
    with pytest.raises(empuje.ModelError, match="HEB 200"):
        empuje.read(model)


def test_stability_storeys_and_buckled_shapes(demo, tmp_path, capsys):
    """The critical factor printed is the one drawn; floors have numbers; what cannot be asked is refused."""
    code, out, err = say(capsys, "stability", demo, "--under", "U2+Q+R+LX,U1+LX", "--shapes", "2", "--format", "json")
    rows = {row["case"]: row for row in json.loads(out)}
    assert code == 0 and "alpha_cr" in err and 1 < rows["U2+Q+R+LX"]["alpha_cr"] < rows["U2+Q+R+LX"]["alpha 2"]
    factor, growth = rows["U2+Q+R+LX"]["alpha_cr"], rows["U2+Q+R+LX"]["second/first"]
    assert rows["U2+Q+R+LX"]["second order"] == ("needed: alpha_cr < 10" if factor < 10 else "not needed")
    assert growth == pytest.approx(rows["U2+Q+R+LX"]["u second [mm]"] / rows["U2+Q+R+LX"]["u first [mm]"], rel=1e-9)
    picture = tmp_path / "b.svg"
    assert say(capsys, "draw", demo, "buckled", "--under", "U2+Q+R+LX", "-o", str(picture))[0] == 0
    assert f"at {factor:.4g} times its loads" in picture.read_text(encoding="utf-8")
    assert say(capsys, "draw", demo, "buckled", "--under", "U2+Q+R+LX", "--shape", "0", "-o", str(picture))[0] == 2
    code, out, _ = say(capsys, "storeys", demo, "--format", "json")
    floor = json.loads(out)[0]
    assert code == 0 and floor["floor"] == "mezz" and floor["kx [kN/m]"] > floor["ky [kN/m]"] > 0
    heavy = demo.with_name("heavy.toml")
    heavy.write_text(
        demo.read_text(encoding="utf-8")
        .replace("SW + G + Q + 0.7 WY1ap", "40 (SW + G)")
        .replace("analysis = { strength =", "analysis = { service ="),
        encoding="utf-8",
    )
    assert say(capsys, "stability", heavy, "--under", "everyday")[0] == 1
    code, _, err = say(capsys, "reactions", heavy, "--under", "U1+LX,everyday")
    assert code == 1 and "everyday is beyond its elastic critical load" in err


def test_deflections_against_the_chord(demo, capsys):
    asked = [
        "displacements",
        demo,
        "--on",
        "joists/1a@*",
        "--under",
        "everyday",
        "--against",
        "chord",
        "--format",
        "json",
    ]
    code, out, _ = say(capsys, *asked)
    rows = json.loads(out)
    assert code == 0 and rows[0]["across [mm]"] == pytest.approx(0, abs=1e-9) == rows[-1]["across [mm]"]
    code, out, _ = say(capsys, *asked, "--largest")
    most = json.loads(out)[0]
    assert most["across [mm]"] >= max(r["across [mm]"] for r in rows) and 0 < most["x [m]"] < 6
    for wrong in (["--against", "chord"], ["--on", "*@mezz", "--against", "end"], ["--on", "joists", "--largest"]):
        assert say(capsys, "displacements", demo, *wrong)[0] == 2


def test_the_catalogue_is_listed_filtered_and_sorted(capsys):
    code, out, err = say(capsys, "sections", "IPE 3*", "ub 457x191x6*", "--format", "json")
    rows = {r["section"]: r for r in json.loads(out)}
    assert code == 0 and list(rows) == ["IPE 300", "IPE 330", "IPE 360", "UB 457x191x67"] and "4 of 2" in err
    assert rows["IPE 300"]["Iy [cm4]"] == pytest.approx(8356, rel=2e-3) and rows["IPE 300"]["kg/m"] == pytest.approx(
        42.2, rel=3e-3
    )
    _, out, _ = say(capsys, "sections", "--series", "IPE", "--least", 'Iy="200000000 mm4"'.replace('"', ""), "--most", "kg/m=100",
                    "--sort", "kg/m", "--format", "json")  # fmt: skip
    found = json.loads(out)
    assert [r["section"] for r in found] == ["IPE 500", "IPE 450", "IPE 400"]
    _, out, _ = say(capsys, "sections", "W12x26", "--display", "kip ft in ksi", "--format", "csv")
    assert out.splitlines()[0].startswith("section,series,h [in]") and float(
        out.splitlines()[1].split(",")[7]
    ) == pytest.approx(7.65, rel=5e-3)
    _, out, _ = say(capsys, "sections", "--series", "W", "--series", "HSS", "--format", "json")
    names = [r["section"] for r in json.loads(out)]
    ordered = ["HSS3x1x3/16", "HSS3x2x3/16", "HSS3-1/2x2-1/2x3/16", "W12x58", "W12x136", "W14x22"]
    assert sorted(ordered, key=names.index) == ordered
    lines = say(capsys, "sections", "HEA 100", "HEA 1000")[1].splitlines()
    shown = next(line for line in lines if line.startswith("HEA 100 ")).split()
    assert float(shown[8]) == pytest.approx(349.2, rel=1e-3) and float(shown[10]) == pytest.approx(5.24, rel=0.01)
    assert max(map(len, lines)) < 160
    for words, code, said in (
        (["IPX 300"], 2, "did you mean IPE 300"), (["IPE*", "--least", "A=900"], 1, "0 of"), (["--sort", "weight"], 2, "there is no column"),
        (["--most", "h=3 kN"], 2, "--most h=3 kN"), (["--series", "IPX"], 2, "did you mean IP"), (["--rising"], 2, "--sort"),
    ):  # fmt: skip
        found, _, err = say(capsys, "sections", *words)
        assert found == code and said in err, err


GANTRY = """
[project]
title = "Gantry"
units = "kN m"
[grid]
x = { A = 0, B = 9, C = 18 }
y = { 1 = 0, 2 = 6 }
z = { base = 0, top = 5 }
[members.runway]
section = "HEB 400"
material = "S355"
runs = ["A>>C / 1,2 / top"]
[members.legs]
section = "HEB 240"
material = "S355"
runs = ["A..C / 1,2 / base>top"]
[[supports]]
at = "*@base"
fix = "fixed"
[cases]
SW = { action = "dead", self_weight = 1 }
[vehicles.crane]
axles = [["0 m", "80 kN", "30 kN"], ["2.8 m", "80 kN", "30 kN"]]
gauge = "6 m"
[traffic.CR]
vehicle = "crane"
way = "runway/1@top/*"
aside = "3 m"
enters = "wholly"
speed = "0.5 m/s"
every = "2 s"
use = "storage"
[combinations]
rules = ["EN 1990 6.10"]
"""


def test_traffic_is_listed_followed_drawn_and_explained(tmp_path, capsys):
    """What the commands say of one crane agrees: steps, the worst of them, envelopes, why, positions by name."""
    from PIL import Image

    model = tmp_path / "gantry.toml"
    model.write_text(GANTRY, encoding="utf-8")

    def rows(*words):
        code, out, err = say(capsys, *words, "--format", "json")
        assert code == 0, err
        return json.loads(out)

    (listed,) = rows("traffic", model)
    assert (listed["positions"], listed["duration [s]"], listed["step [m]"]) == (
        18,
        pytest.approx(30.4),
        1.0,
    )  # 2.8, 3.8, ... 18 and 9 m
    steps = rows("traffic", model, "--on", "runway/2@top/A-B", "--of", "My", "--at", "4.5 m")
    values = [r["My runway/2@top/A-B [kN*m]"] for r in steps]
    assert len(steps) == 18 and [r["at-step"] for r in steps] == list(range(1, 19)) and steps[-1]["position [m]"] == 18
    worst = rows("traffic", model, "--on", "runway/2@top/A-B", "--of", "My", "--at", "4.5 m", "--worst")
    assert [r["moment [kN*m]"] for r in worst] == pytest.approx([min(values), max(values)], rel=1e-9)
    # The influence lines of both wheels on that runway, put together at the worst step.
    top = steps[values.index(max(values))]["position [m]"]
    line = rows(
        "influence", model, "--on", "runway/2@top/A-B", "--of", "My", "--at", "4.5 m", "--along", "runway/2@top/*"
    )
    s, v = [r["s [m]"] for r in line], [r["My [kN*m]"] for r in line]
    assert 80 * (np.interp(top, s, v) + np.interp(top - 2.8, s, v)) == pytest.approx(max(values), rel=0.01)
    band = rows("envelope", model, "--on", "runway/2@top/A-B", "--of", "My")
    peak = max(band, key=lambda r: r["My [kN*m]"])
    told = rows("why", model, "--on", "runway/2@top/A-B", "--of", "My", "--sense", "max")
    assert told[0]["case"].startswith("CR@") and peak["case"].endswith(told[0]["case"].partition("@")[2])
    assert sum(r["My [kN*m]"] for r in told if r["row"] == "case") == pytest.approx(peak["My [kN*m]"], rel=1e-9)
    again = rows(
        "forces", model, "--on", "runway/2@top/A-B", "--under", peak["case"], "--at", f"{peak['x [m]']:.12g} m"
    )
    assert max(r["My [kN*m]"] for r in again) == pytest.approx(peak["My [kN*m]"], rel=1e-6)
    assert peak["My [kN*m]"] > 1.5 * max(values)
    code, out, err = say(capsys, "reactions", model, "--under", "CR")
    assert code == 0 and "CR stands in" in err and "CR@" in out
    for words, code_, said in (
        (("draw", model, "My", "--under", "CR"), 2, "add --at-step N"),
        (("draw", model, "My", "--under", "CR", "--at-step", "99"), 2, "steps 1 to 18"),
        (("draw", model, "My", "--under", "SW", "--at-step", "2"), 2, "results with moving loads"),
        (("forces", model, "--under", "CR@40m"), 2, "from 0 to 20.8 m"),
        (("forces", model, "--under", "CR@2kN"), 2, "a force, not a length"),
        (("traffic", model, "--only", "CX"), 2, "known are CR"),
        (("traffic", model, "--on", "runway"), 2, "go together"),
        (("influence", model, "--on", "A1@top", "--of", "Fz", "--along", "CR"), 2, "is no support"),
        (("influence", model, "--on", "A1@top", "--of", "uz", "--along", "runway/1@top/A-B,runway/2@top/B-C"), 2, "gap"),
    ):  # fmt: skip
        code, _, err = say(capsys, *words)
        assert code == code_ and said in err, err
    for words, name in (
        (("My", "--under", "CR", "--at-step", "8"), "a.png"), (("deflected", "--under", "CR@9m"), "b.svg"),
        (("band", "--of", "My", "--on", "runway"), "c.png"),
    ):  # fmt: skip
        assert say(capsys, "draw", model, *words, "-o", tmp_path / name)[0] == 0
    assert (
        say(capsys, "influence", model, "--on", "B1@base", "--of", "Fz", "--along", "CR", "-o", tmp_path / "d.png")[0]
        == 0
    )
    assert all((tmp_path / n).stat().st_size > 5000 for n in ("a.png", "b.svg", "c.png", "d.png"))
    assert say(capsys, "draw", model, "deflected", "--under", "CR", "--animate", "-o", tmp_path / "e.gif")[0] == 0
    with Image.open(tmp_path / "e.gif") as passing:
        assert passing.n_frames == 18 and passing.size == (1280, 800)
    assert say(capsys, "run", model, "--no-pictures", "-o", tmp_path / "out")[0] == 0
    text = (tmp_path / "out" / "summary.md").read_text(encoding="utf-8")
    governing = next(r for r in text.splitlines() if r.startswith("| runway | My"))
    every = rows("envelope", model, "--on", "runway", "--of", "My")
    assert f"{max(abs(r['My [kN*m]']) for r in every):.3f}" in governing


def test_models_and_results_can_be_pickled_and_copied(tmp_path):
    """What comes back answers alike, also where wind by code, one-way members and second order are in it; drawings are
    saved under a name that is text, and show themselves in a notebook."""
    import copy
    import pickle

    import pandas as pd

    import empuje

    path = tmp_path / "m.toml"
    sample = files("empuje.samples").joinpath("sorting_frame", "sorting-frame.toml").read_text(encoding="utf-8")
    path.write_text(
        sample.replace("space = ", 'analysis = "second-order"\nspace = ')
        if "space = " in sample
        else sample.replace("[project]", '[project]\nanalysis = "second-order"', 1),
        encoding="utf-8",
    )
    model = empuje.read(path, cache=False)
    results = model.solve()
    assert [r for r in results.solution.results if r not in results.solution.failed] and results.solution.bent
    for again in (pickle.loads(pickle.dumps(results)), copy.deepcopy(results)):
        for ask in (lambda r: r.reactions(), lambda r: r.envelope(), lambda r: r.deflections(against="chord")):
            pd.testing.assert_frame_equal(ask(again), ask(results))
    again = pickle.loads(pickle.dumps(model))
    pd.testing.assert_frame_equal(again.loads(), model.loads())
    pd.testing.assert_frame_equal(again.solve().reactions(), results.reactions())
    drawing = again.draw("frame")
    drawing.save(str(tmp_path / "frame.svg"))
    assert drawing._repr_svg_().startswith("<svg") and (tmp_path / "frame.svg").stat().st_size > 1000
    with pytest.raises(ValueError, match="end the name"):
        drawing.save(str(tmp_path / "frame.bmp"))


@pytest.mark.parametrize(
    ("words", "answer"),
    [
        (["reaction", "m.toml"], "there is no reaction; did you mean reactions"),
        (["reactions", "m.toml", "--onn", "a"], "empuje reactions: error: does not take --onn a; did you mean --on "),
        (["draw", "m.toml", "deflectd"], "WHAT: there is no deflectd; did you mean deflected?"),
        (["envelope", "m.toml", "--format", "tabel"], "--format: there is no tabel; did you mean table"),
        (["forces", "m.toml", "more\x1b"], "does not take more"),
    ],
)
def test_unknown_words_are_answered_with_the_nearest(words, answer, capsys):
    with pytest.raises(SystemExit) as stopped:
        main(words)
    said = capsys.readouterr().err
    assert stopped.value.code == 2 and answer in said and "\x1b" not in said


def test_rows_in_order_and_forces_of_some(model, capsys):
    """From the least value up, signs counted, where asked for; else by size. Of some forces only these, and no row twice
    for a jump of another."""
    on = ("--under", "cases", "--each")

    def read(*words):
        code, out, err = say(capsys, *words, "--format", "csv")
        assert code == 0, err
        return list(csv.DictReader(io.StringIO(out)))

    by_size = [float(r["Fx [kN]"]) for r in read("reactions", model, *on, "--sort", "Fx")]
    rising = [float(r["Fx [kN]"]) for r in read("reactions", model, *on, "--sort", "Fx", "--rising")]
    assert min(rising) < 0 < max(rising) and rising == sorted(rising) and sorted(by_size) == rising
    assert [abs(v) for v in by_size] == sorted((abs(v) for v in by_size), reverse=True)
    assert say(capsys, "reactions", model, "--rising")[0] == 2
    whole = read("forces", model, *on, "--at", "0%,50%,100%")
    some = read("forces", model, *on, "--at", "0%,50%,100%", "--of", "My,Vz")
    assert set(whole[0]) - set(some[0]) == {"N [kN]", "T/C", "Vy [kN]", "T [kN*m]", "Mz [kN*m]"}
    keys = [(r["member"], r["case"], r["x [m]"], r["Vz [kN]"], r["My [kN*m]"]) for r in some]
    assert set(keys) == {(r["member"], r["case"], r["x [m]"], r["Vz [kN]"], r["My [kN*m]"]) for r in whole}
    assert {r["of"] for r in read("forces", model, "--of", "Mz")} <= {"Mz"}
    assert say(capsys, "forces", model, "--of", "M")[0] == 2


def test_the_catalogue_is_worked_out_once(monkeypatch, tmp_path, capsys):
    monkeypatch.setenv("EMPUJE_CACHE", str(tmp_path))
    words = ("sections", "--series", "IPE", "--series", "HEB", "--series", "W", "--format", "csv")
    first = say(capsys, *words)[1]

    def refuse(*_):
        raise AssertionError("worked out again")

    monkeypatch.setattr("empuje.core.answers.inventory.build", refuse)
    assert say(capsys, *words)[1] == first and first.count("\n") > 200


def test_sums_of_reactions_stand_below_their_own_case(model, capsys):
    """For eyes: the sum, what is applied and the difference, of each case what its rows come to."""
    lines = say(capsys, "reactions", model, "--each", "--under", "cases")[1].splitlines()
    head = re.split(r" {2,}", lines[0])
    at = head.index("Fz [kN]")
    rows = [
        re.split(r" {2,}", line.strip()) for line in lines[2:] if (line.strip() and "@" in line) or "  sum " in line
    ]
    seen = {}
    for row in rows:
        if row[1] == "sum":
            assert float(row[at]) == pytest.approx(seen.pop(row[0]), abs=2e-3 * 6), row
        else:
            seen[row[0]] = seen.get(row[0], 0.0) + float(row[at])
    assert not seen and len({row[0] for row in rows}) > 2


@pytest.mark.parametrize("named", ["", "2"])
def test_small_frames_take_one_thread_unless_somebody_names_a_number(named):
    """From the start, back to all for a large frame, and to one again; a number in the environment stays."""
    code = (
        "import os\nfrom empuje.cli import threads\nthreads.begin_with_one()\nimport numpy\n"
        "from threadpoolctl import threadpool_info\n"
        "for members in (0, 50, 5000, 10, 3000):\n    threads.suit(members) if members else None\n"
        "    print([i['num_threads'] for i in threadpool_info() if i['user_api'] == 'blas'][0], os.environ.get(threads.NUMBER))"
    )
    clean = {k: v for k, v in os.environ.items() if not k.endswith("_NUM_THREADS")}
    env = clean | ({"OPENBLAS_NUM_THREADS": named} if named else {})
    out = subprocess.run(
        [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
    ).stdout.split()
    most = str(min(os.cpu_count(), 2)) if named else str(os.cpu_count())
    few = ["1", "1"] if not named else [most, "2"]
    all_of_them = [most, "None"] if not named else few
    assert out == [*few, *few, *all_of_them, *few, *all_of_them]
