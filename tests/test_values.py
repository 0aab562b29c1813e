"""Named values and models in several files: against the same model with numbers in their place, or in one file."""

import json

import pytest

from empuje.api import read
from empuje.cli import main
from models import reading

FRAME = """
[project]
units = "kip ft"
space = "plane"
[values]
{values}
[grid]
x = {{ A = 0, B = "span" }}
z = {{ b = 0, t = "span/2 - 0.5 ft" }}
[members.frame]
section = "W12x26"
material = "A992"
runs = ["A>B / t", "A,B / b>t"]
roll = "slant"
[[supports]]
at = "*@b"
fix = "fixed"
[cases]
G = {{ action = "dead" }}
[loads]
G = [ {{ on = "frame/@t/A-B", line = "q", from = "span/6" }}, {{ on = "A@t", force = "n*F" }} ]
[tables]
loads = "loads.csv"
"""
VALUES = """span = "6 m"
half_ = "bay / 2"
q = "1.35*g_k*(half_ + 0.3 m) - 0.1 kN/m"
g_k = "3.2 kPa"
bay = "span - 1 ft"
n = 3
F = "2 kN"
slant = 90
"""
TABLE = "case,on,line\nG,frame/A/b-t,2*q/n\n"


def written(folder, values=VALUES, table=TABLE):
    (folder / "loads.csv").write_text(table, encoding="utf-8")
    path = folder / "m.toml"
    path.write_text(FRAME.format(values=values), encoding="utf-8")
    return path


def test_values_stand_for_their_numbers(tmp_path):
    """Worked by hand in metres and kilonewtons, in a model in feet and kips; and in a table beside it."""
    model = read(written(tmp_path))
    bay = 6 - 0.3048
    q = 1.35 * 3.2 * (bay / 2 + 0.3) - 0.1
    height, span = 3 - 0.5 * 0.3048, 6.0
    assert model.project.lengths == pytest.approx([span, height, height], rel=1e-12)
    down, tilt, beside = model.project.loads
    assert down.points[0][1] / 1e3 == pytest.approx(q, rel=1e-12) and down.points[0][0].on(6.0) == pytest.approx(1.0)
    assert tilt.value / 1e3 == pytest.approx(6.0, rel=1e-12)
    assert beside.points[0][1] / 1e3 == pytest.approx(2 * q / 3, rel=1e-12)
    assert abs(model.project.axes[0, 1, 2]) == pytest.approx(1.0)  # a bare angle is in degrees: the strong axis lies
    assert [f.code for f in model.findings] == ["lies-flat"]


@pytest.mark.parametrize(
    ("old", "new", "code", "line", "words"),
    [
        ('bay = "span - 1 ft"', 'bay = "q/g_k"', "value-circle", 7, "half_ > bay > q > half_"),
        ('span = "6 m"', 'span = "span"', "value-circle", 6, "span > span"),
        ('F = "2 kN"', 'F = "2 kM"', "bad-quantity", 12, "unit kM"),
        ('F = "2 kN"', 'F = "2 kN*gk"', "bad-quantity", 12, "unknown value or unit gk; did you mean g_k"),
        ('F = "2 kN"', 'F = "2 kN n"', "bad-quantity", 12, "put * between n"),
        ('F = "2 kN"', 'F = "n (2 kN)"', "bad-quantity", 12, "put * between n"),
        ('F = "2 kN"', 'F = "kN*2n"', "bad-quantity", 12, "put * before n in 2n"),
        ('F = "2 kN"', 'F = "F0-kN"\nF0 = "3 kN"', "bad-quantity", 12, "takes a unit without a number away"),
        ('F = "2 kN"', 'F = "2 kN*span"', "bad-quantity", 29, "is a moment, not a force"),
        ('F = "2 kN"', 'F = "2 kN"\nkip = 3', "bad-name", 13, "reads as a unit"),
        ('F = "2 kN"', 'F = "2 kN"\n"a-b" = 3', "bad-name", 13, "letters, digits and _"),
        ('F = "2 kN"', 'F = "2 kN"\nidle = 3', "unused-value", 13, "take it out"),
        ('F = "2 kN"', "F = true", "bad-quantity", 12, "is no quantity"),
        ("n = 3", "n = 1e300", "bad-quantity", 11, "too large"),
    ],
)
def test_slips_are_told_where_they_are(old, new, code, line, words):
    """And no value that is only used by a faulty one is called unused."""
    assert old in VALUES
    text = FRAME.format(values=VALUES.replace(old, new)).partition("[tables]")[0]
    found = [f for f in reading(text).findings if f.code == code]
    assert len(found) == 1 and found[0].place.line == line and words in str(found[0]), found
    assert [f for f in reading(text).findings if f.code == "unused-value" and f not in found] == []


def test_a_long_chain_is_refused_and_runs_no_code():
    chain = "\n".join(f'a{i} = "a{i + 1}"' for i in range(300)) + '\na300 = "1 kN"\n'
    text = FRAME.format(values=VALUES + chain).partition("[tables]")[0]
    assert "follow from more than 40 others" in str([f for f in reading(text).findings if f.code == "value-circle"])
    text = FRAME.format(values=VALUES + 'evil = "__import__"\n')
    assert any("unit __import__" in f.message for f in reading(text).findings)


def test_set_for_one_run(tmp_path, capsys):
    path = str(written(tmp_path))
    totals = []
    for more in ([], ["--set", "g_k=6.4 kPa", "--set", "n = 6"], []):  # solved anew, and as before again
        assert main(["reactions", path, "--format", "json", *more]) == 0
        out = capsys.readouterr()
        rows = json.loads(out.out)
        totals.append(sum(row["Fz [kip]"] for row in rows if row["node"] in ("A@b", "B@b")) * 4.4482216152605)
        assert ('g_k = 6.4 kPa is set for this run; the file says "3.2 kPa"' in out.err) == bool(more)

    def by_hand(g_k, n):
        q = 1.35 * g_k * ((6 - 0.3048) / 2 + 0.3) - 0.1
        return q * 5 + 2 * n + 2 * q / n * (3 - 0.5 * 0.3048)

    assert totals == pytest.approx([by_hand(3.2, 3), by_hand(6.4, 6), by_hand(3.2, 3)], rel=1e-9)
    assert read(path, values={"g_k": "6.4 kPa"}).project.loads[0].points[0][1] / 1e3 == pytest.approx(
        1.35 * 6.4 * ((6 - 0.3048) / 2 + 0.3) - 0.1
    )
    for words, told in (
        ("gk=3", "did you mean g_k?"),
        ("g_k", "write a name and a quantity"),
        ("g_k=", "write a name"),
    ):
        assert main(["check", path, "--set", words]) == 2 and told in capsys.readouterr().err
    assert main(["check", path, "--set", "n=1", "--set", "n=2"]) == 2 and "gives n twice" in capsys.readouterr().err
    assert main(["check", path, "--set", "g_k=3 kPaa"]) == 1
    assert 'values.g_k = "3 kPaa": unknown' in capsys.readouterr().out
    assert main(["run", path, "--set", "n=4", "--no-pictures"]) == 0
    assert "n = 4 is set for this run" in (tmp_path / "m-results" / "summary.md").read_text(encoding="utf-8")


INCLUDED = """
[cases]
W = {{ action = "wind" }}
[loads]
G = [ {{ on = "B@t", force = 5 }} ]
W = [ {{ on = "frame/A/b-t", line = {wind}, dir = "+x" }} ]
[[supports]]
at = "B@b"
fix = "fixed"
"""
WHOLE = """
{include}
[project]
units = "kN m"
space = "plane"
[grid]
x = {{ A = 0, B = 6 }}
z = {{ b = 0, t = 3 }}
[members.frame]
section = "IPE 300"
material = "S235"
runs = ["A>B / t", "A,B / b>t"]
[[supports]]
at = "A@b"
fix = "fixed"
[cases]
G = {{ action = "dead" }}
[loads]
G = [ {{ on = "frame/@t/A-B", line = 4 }} ]
"""


def test_files_join_the_model(tmp_path, capsys):
    """The same frame in one file; findings where they are written; and nothing replaces anything."""
    path = tmp_path / "m.toml"
    (tmp_path / "more.toml").write_text(INCLUDED.format(wind="2"), encoding="utf-8")
    path.write_text(WHOLE.format(include='include = "more.toml"'), encoding="utf-8")
    joined = read(path, cache=False)
    lines = [f"{load.place}" for load in joined.project.loads]
    assert lines == ["m.toml:19", "more.toml:5", "more.toml:6"]
    found = joined.solve().reactions()
    one = WHOLE.format(include="").replace(
        "[cases]", '[[supports]]\nat = "B@b"\nfix = "fixed"\n[cases]\nW = { action = "wind" }'
    )
    one = one.replace(
        "line = 4 } ]", 'line = 4 }, { on = "B@t", force = 5 } ]\nW = [ { on = "frame/A/b-t", line = 2, dir = "+x" } ]'
    )
    path.write_text(one, encoding="utf-8")
    alone = read(path, cache=False).solve().reactions()
    for case in ("G", "W"):
        rows = [t[t["case"] == case].sort_values("node")[["Fx [kN]", "Fz [kN]", "Fx [kN]"]] for t in (found, alone)]
        assert len(rows[0]) == 2 and rows[0].to_numpy() == pytest.approx(rows[1].to_numpy(), rel=1e-12, abs=1e-12)
    for include, more, told in (
        ('include = "more.toml"', INCLUDED.format(wind='"2 kM"'), "more.toml:6: error[bad-quantity]: loads.W[1].line"),
        ('include = "more.toml"', '[project]\nunits = "kip ft"\n', "more.toml:2: error[given-twice]: project.units is given in m.toml:4"),
        ('include = "more.toml"', '[[members.frame]]\n', "error[given-twice]: members.frame is given in m.toml:9"),
        ('include = ["more.toml", "third.toml"]', "[cases]\nQ = 3\n", "more.toml:2: error[not-a-table]: cases.Q"),
        ('include = "more.toml"', 'include = "m.toml"\n', "more.toml:1: error[unusable-file]: includes files itself"),
        ('include = "more.toml"', "[cases\n", "more.toml:1: error[unusable-file]: is not TOML"),
        ('include = "gone.toml"', "", "there is no file gone.toml beside the model"),
        ('include = "../m.toml"', "", "is outside the model's folder"),
        ('include = ["more.toml", "more.toml"]', "", "include names more.toml twice"),
        ('include = "m.toml"', "", "include names the model file itself"),
        ("include = 3", "", "is not a name or a list of names"),
        ('include = "more.toml"', '[cases]\n"W\\u001b" = { action = "wind" }\n', "more.toml:2: error[control-character]"),
    ):  # fmt: skip
        path.write_text(WHOLE.format(include=include), encoding="utf-8")
        (tmp_path / "more.toml").write_text(more, encoding="utf-8")
        (tmp_path / "third.toml").write_text('[cases]\nT = { action = "thermal" }\n', encoding="utf-8")
        assert main(["check", str(path)]) in (1, 2)
        out = capsys.readouterr()
        assert told in out.out + out.err, (include, more, out)
