"""Two models compared: pairs with known changes, by hand; limits that turn decide the exit code; and git."""

import json
import subprocess

import pytest

from empuje.cli import main
from empuje.core.model.words import Part
from empuje.study.differences import compared
from empuje.study.study import Study

OLD = """
[project]
title = "Canopy over the scales"
units = "kN m"
space = "plane"
[nodes]
a = [0, 0]
b = [8, 0]
c = [12, 0]
[members.beam]
section = "IPE 300"
material = "S235"
pieces = { M = "a > b" }
[members.arm]
section = "IPE 200"
material = "S235"
pieces = { N = "b > c" }
[[supports]]
at = "a"
fix = "x z"
[[supports]]
at = "b"
fix = "z"
[cases]
G = { action = "dead" }
Q = { action = "live" }
[loads]
G = [ { on = "beam", line = 3 } ]
Q = [ { on = "beam", line = 5 }, { on = "c", force = 4 } ]
[combinations.custom]
U = { formula = "1.35 G + 1.5 Q", set = "strength" }
S = { formula = "G + Q", set = "service" }
[[limits]]
name = "moment"
check = "force"
on = "beam"
under = "strength"
My = ["-100 kN*m", "100 kN*m"]
"""


def changed(tmp_path, *pairs, old=OLD, **options):
    """What changed with texts replaced."""
    new = old
    for a, b in pairs:
        assert a in new
        new = new.replace(a, b)
    for name, text in (("old.toml", old), ("new.toml", new)):
        (tmp_path / name).write_text(text, encoding="utf-8")
    return compared(*(Study.read(tmp_path / name, cache=False) for name in ("old.toml", "new.toml")), **options)


def of(found, part):
    return {(c.group, c.names, c.of): (c.before, c.after) for c in found.changes if c.part == part}


def test_a_model_and_itself_are_the_same(tmp_path):
    assert changed(tmp_path).changes == []
    # Written otherwise, meant the same: other units, another order, a run in place of a piece.
    assert (
        changed(
            tmp_path,
            ("line = 3 }", 'line = "3000 N/m" }'),
            ("a = [0, 0]\nb = [8, 0]", 'b = ["8000 mm", 0]\na = [0, 0]'),
        ).changes
        == []
    )


def test_what_is_written_otherwise_is_told_part_by_part(tmp_path):
    found = changed(
        tmp_path, ('section = "IPE 300"', 'section = "IPE 330"'), ("c = [12, 0]", "c = [12, 0]\nd = [4, 0]"),
        ('fix = "z"', 'fix = "z"\nspring = { ry = "2 MN*m/rad" }'), ("1.5 Q\", set", "1.6 Q\", set"),
        ('S = { formula = "G + Q", set = "service" }', 'T = "G"'), ('Q = { action = "live" }', 'Q = { action = "snow" }'),
        ('pieces = { N = "b > c" }', 'roll = 180\npieces = { N = "b > c" }'),
    )  # fmt: skip
    assert of(found, Part.MEMBER) == {
        ("beam", ("beam/M",), "section"): ("IPE 300", "IPE 330"), ("arm", ("arm/N",), "roll"): (0.0, pytest.approx(3.14159265)),
    }  # fmt: skip
    assert set(of(found, Part.SECTION)) == {("", ("IPE 300",), ""), ("", ("IPE 330",), "")}
    assert of(found, Part.SUPPORT) == {("", ("b",), "spring ry"): (0.0, 2e6)}
    assert of(found, Part.COMBINATION)["strength", ("U",), "made of"] == ("1.35 G + 1.5 Q", "1.35 G + 1.6 Q")
    added = {(c.names, c.before is None) for c in found.changes if c.part == Part.COMBINATION and not c.of}
    assert added == {(("S",), False), (("T",), True)}
    revised = changed(tmp_path, ('units = "kN m"', 'revision = "C"\nunits = "kN m"'))
    assert [(c.part, c.of, c.before, c.after) for c in revised.changes] == [(Part.MODEL, "revision", "", "C")]
    assert of(found, Part.CASE) == {("", ("Q",), "action"): ("live", "snow")}
    assert of(found, Part.NODE) == {("", ("d",), ""): (None, "")}


def test_members_that_change_alike_are_one_change(tmp_path):
    text = OLD.replace('pieces = { M = "a > b" }', 'pieces = { M = "a > b", M2 = "d > e", M3 = "e > f" }').replace(
        "b = [8, 0]", "b = [8, 0]\nd = [20, 0]\ne = [28, 0]\nf = [36, 0]"
    ).replace('at = "a"\n', 'at = ["a", "d", "e", "f"]\n')  # fmt: skip
    found = changed(tmp_path, ('section = "IPE 300"', 'section = "IPE 330"'), old=text)
    (one,) = [c for c in found.changes if c.part == Part.MEMBER]
    assert one.names == ("beam/M", "beam/M2", "beam/M3") and one.group == "beam"


@pytest.mark.parametrize(
    ("change", "told"),
    [
        # 3 kN/m on 8 m become 3.6.
        ((("line = 3 }", "line = 3.6 }"),), {("G", ("beam",), "Fz"): (-24e3, -28.8e3)}),
        # The same load on half the length at twice the size: the sum stays, its centre goes from 4 to 2 m.
        ((("line = 3 }", 'line = 6, to = "50%" }'),), {("G", ("beam",), "centre x"): (4.0, 2.0)}),
        # Two halves that mirror one another: sums and centre stay.
        ((("line = 3 }", "line = [[0, 6], [4, 0], [8, 6]] }"),), {("G", ("beam",), "placing"): ("as it was", "otherwise, with the same sums")}),
        # Turned upwards, and a load on a node that is gone.
        ((("force = 4 }", 'force = 4, dir = "up" }'),), {("Q", ("(nodes)",), "Fz"): (-4e3, 4e3)}),
        (((', { on = "c", force = 4 }', ""),), {("Q", ("(nodes)",), "Fz"): (-4e3, 0.0)}),
        # Warmth is no force.
        ((("line = 3 }", 'line = 3 }, { on = "arm", temperature = "20 K" }'),), {("G", ("arm",), "placing"): ("as it was", "otherwise, with the same sums")}),
    ],
)  # fmt: skip
def test_loads_are_told_by_case_and_family(tmp_path, change, told):
    found = of(changed(tmp_path, *change), Part.LOAD)
    assert set(found) == set(told)
    for key, (before, after) in told.items():
        assert (
            found[key] == (pytest.approx(before), pytest.approx(after))
            if isinstance(before, float)
            else (before, after)
        )


def test_governing_values_before_and_after_by_statics(tmp_path):
    """A moment of the overhang 4 P at b; with P 4 to 6 kN, and G from 3 to 3.3: reactions and moments by hand."""
    found = changed(tmp_path, ("force = 4 }", "force = 6 }"), ("line = 3 }", "line = 3.3 }"))

    def by_hand(g, p):
        q, P = 1.35 * g + 1.5 * 5, 1.5 * p
        a = q * 8 / 2 - P * 4 / 8
        return a, q * 8 + P - a, a * a / (2 * q)

    before, after = by_hand(3, 4), by_hand(3.3, 6)
    reactions, forces = of(found, Part.REACTION), of(found, Part.FORCE)
    assert reactions["", ("b",), "Fz max"] == (pytest.approx(before[1] * 1e3), pytest.approx(after[1] * 1e3))
    assert reactions["", ("a",), "Fz max"] == (pytest.approx(before[0] * 1e3), pytest.approx(after[0] * 1e3))
    assert forces["beam", ("",), "My"] == (pytest.approx(before[2] * 1e3), pytest.approx(after[2] * 1e3))
    assert forces["arm", ("",), "My"] == (pytest.approx(-1.5 * 4 * 4e3), pytest.approx(-1.5 * 6 * 4e3))
    # Within the tolerance nothing is told: 6 kN is half as much again.
    assert ("arm", ("",), "My") not in of(changed(tmp_path, ("force = 4 }", "force = 6 }"), tolerance=0.5), Part.FORCE)
    # Under one set alone.
    service = of(changed(tmp_path, ("force = 4 }", "force = 6 }"), under=["service"]), Part.FORCE)
    assert service["arm", ("",), "My"] == (pytest.approx(-16e3), pytest.approx(-24e3))


@pytest.mark.parametrize(
    ("old", "new", "turned", "code"),
    [("3 }", "6 }", True, 1), ("3 }", "3.3 }", None, 0), ("9 }", "6 }", None, 0), ("9 }", "3 }", False, 0), ("9 }", "8 }", None, 0)],
)  # fmt: skip
def test_a_limit_that_turns_decides_the_exit_code(tmp_path, capsys, old, new, turned, code):
    """100 kN m are met under G of 3 (used 0.79) and 3.3 kN/m, and not under 6 (1.13) and 9."""
    text = OLD.replace("line = 3 }", f"line = {old}")
    found = changed(tmp_path, (f"line = {old}", f"line = {new}"), old=text)
    limits = [c.turned for c in found.changes if c.part == Part.LIMIT]
    assert limits == [turned]
    files = [str(tmp_path / n) for n in ("old.toml", "new.toml")]
    assert main(["diff", *files, "--no-cache"]) == code
    assert ("changed verdict: limit moment" in capsys.readouterr().err) == bool(turned)
    assert main(["diff", *files, "--no-cache", "--any"]) == 1
    assert main(["diff", files[1], files[1], "--no-cache", "--any"]) == 0
    assert "Nothing changed." in capsys.readouterr().out


def test_a_result_that_loses_its_answer_turns_it_too(tmp_path, capsys):
    """A strut that can only push, pulled: the frame no longer stands under U."""
    text = OLD.replace('fix = "z"\n[cases]', 'fix = "z"\nlift = true\n[cases]')
    found = changed(
        tmp_path, ('{ on = "beam", line = 5 }, ', ""), ("force = 4 }", 'force = 60, dir = "up" }'), old=text
    )
    assert found.failed == ([], found.lost) and "U" in found.lost
    files = [str(tmp_path / n) for n in ("old.toml", "new.toml")]
    assert main(["diff", *files, "--no-cache"]) == 1
    assert "no answer any more" in capsys.readouterr().err
    assert main(["report", files[1], "-o", str(tmp_path / "r.html"), "--parts", "balance", "--no-cache"]) == 1
    assert "No stable answer under" in capsys.readouterr().err


def test_bounds_that_are_written_otherwise_are_told(tmp_path):
    """A limit made wider is less used, and that its bound is another one is said."""
    wider = ('["-100 kN*m", "100 kN*m"]', '["-200 kN*m", "200 kN*m"]')
    found = changed(tmp_path, wider)
    told = {c.of: (c.before, c.after) for c in found.changes if c.part == Part.LIMIT}
    q = 1.35 * 3 + 1.5 * 5
    a = q * 4 - 1.5 * 4 * 4 / 8
    assert told["My"] == (pytest.approx(a * a / (2 * q) / 100), pytest.approx(a * a / (2 * q) / 200))
    assert told["My, required"] == ("-100 kN*m to 100 kN*m", "-200 kN*m to 200 kN*m")


def test_loads_are_told_to_the_last_bit_and_results_by_the_tolerance(tmp_path):
    """A load that grew by a fifth of a thousandth: told as a load, its moments not; never as having the same sum."""
    found = changed(tmp_path, ("line = 3 }", "line = 3.0006 }"))
    assert of(found, Part.LOAD) == {("G", ("beam",), "Fz"): (pytest.approx(-24e3), pytest.approx(-24004.8))}
    assert not of(found, Part.FORCE) and not of(found, Part.LIMIT)


def test_formats_carry_the_same_changes(tmp_path, capsys):
    changed(tmp_path, ("line = 3 }", "line = 6 }"), ('section = "IPE 200"', 'section = "IPE 220"'))
    files = [str(tmp_path / n) for n in ("old.toml", "new.toml")]
    assert main(["diff", *files, "--format", "json"]) == 1
    rows = json.loads(capsys.readouterr().out)
    load = next(r for r in rows if r["part"] == "load" and r["group"] == "G")
    assert (load["of"], load["before"], load["after"], load["unit"]) == ("Fz", -24.0, -48.0, "kN")
    limit = next(r for r in rows if r["part"] == "limit")
    assert limit["changed"] == "not met" and limit["after"] > 1 > limit["before"]
    assert main(["diff", *files, "--format", "md"]) == 1
    text = capsys.readouterr().out
    assert (
        text.startswith("**1 limit changed verdict** (Canopy over the scales).")
        and "| arm/N | section | IPE 200 | IPE 220 |" in text
    )
    page = tmp_path / "d.html"
    assert main(["diff", *files, "-o", str(page)]) == 1
    drawn = page.read_text(encoding="utf-8")
    assert "<td>arm/N</td><td>section</td>" in drawn and '<tr class="bad">' in drawn and "http" not in drawn
    assert main(["diff", *files]) == 1
    table = capsys.readouterr().out
    assert table.index("Limits") < table.index("Members") and "CHANGED: not met" in table


def test_small_forces_are_counted_for_eyes_and_listed_in_files(tmp_path, capsys):
    """A moment of 3 N m on the arm beside 100 kN m: below a thousandth of the largest."""
    text = OLD.replace('{ on = "c", force = 4 }', '{ on = "c", force = 0.001 }')
    changed(tmp_path, ("force = 0.001 }", "force = 0.002 }"), old=text)
    files = [str(tmp_path / n) for n in ("old.toml", "new.toml")]
    assert main(["diff", *files]) == 0
    told = capsys.readouterr().out
    assert "... and 2 below a thousandth of the largest of their kind" in told and "\narm " not in told
    assert main(["diff", *files, "--format", "csv"]) == 0
    assert capsys.readouterr().out.count("force,arm,") == 2


def git(folder, *words):
    subprocess.run(["git", "-c", "user.name=n", "-c", "user.email=n@example.org", "-C", str(folder), *words], check=True, capture_output=True)  # fmt: skip


def test_against_a_revision_the_tables_of_that_time_are_read(tmp_path, capsys):
    """The loads lie in a table beside the model, in a folder below the repository's; both as they were are read."""
    place = tmp_path / "jobs" / "scales"
    place.mkdir(parents=True)
    model, table = place / "m.toml", place / "loads.csv"
    model.write_text(OLD.replace("G = [ { on = \"beam\", line = 3 } ]\n", "").replace("[loads]", '[tables]\nloads = "loads.csv"\n[loads]'), encoding="utf-8")  # fmt: skip
    head = "case,on,line [kN/m]\n"
    table.write_text(head + "G,beam,3\n", encoding="utf-8")
    git(tmp_path, "init", "-q")
    git(tmp_path, "add", ".")
    git(tmp_path, "commit", "-qm", "first")
    table.write_text(head + "G,beam,6\n", encoding="utf-8")
    assert main(["diff", str(model), "--against", "HEAD", "--format", "json"]) == 1
    rows = json.loads(capsys.readouterr().out)
    assert {(r["before"], r["after"]) for r in rows if r["part"] == "load"} == {(-24.0, -48.0)}
    assert table.read_text(encoding="utf-8").endswith("6\n")
    for words, said in (
        (["--against", "v9"], "no revision v9"), (["--against=--output=x"], "no revision"), ([], "--against REVISION"),
        (["--against", "HEAD", "--tolerance", "2"], "write a share"), (["--against", "HEAD", "--under", "Z"], "--under"),
    ):  # fmt: skip
        assert main(["diff", str(model), *words]) == 2
        assert said in capsys.readouterr().err
    # The table that OLD is read from is no place for the answer, whether NEW reads it or not.
    apart = place / "apart.toml"
    apart.write_text(OLD, encoding="utf-8")
    before = table.read_bytes()
    for pair in ([model, apart], [apart, model]):
        assert main(["diff", *map(str, pair), "-o", str(table), "--force"]) == 2
        assert "is read by this very command" in capsys.readouterr().err and table.read_bytes() == before
    apart.unlink()
    assert main(["diff", str(model), "--against", ""]) == 2 and "name a revision" in capsys.readouterr().err
    new = place / "other.toml"
    new.write_text(OLD, encoding="utf-8")
    assert main(["diff", str(new), "--against", "HEAD"]) == 2 and "was not there" in capsys.readouterr().err
    alone = tmp_path.parent / f"{tmp_path.name}-bare"
    alone.mkdir()
    (alone / "m.toml").write_text(OLD, encoding="utf-8")
    assert main(["diff", str(alone / "m.toml"), "--against", "HEAD"]) == 2
    assert "under no version control" in capsys.readouterr().err


def test_a_revision_is_read_as_it_is_stored(tmp_path, capsys):
    """No filter of the repository runs, attributes that leave files out of archives do not, and links inside the folder
    are followed; those that lead out of it are not."""
    model, table = tmp_path / "m.toml", tmp_path / "real.csv"
    tables = '[tables]\nloads = "loads.csv"\n[loads]'
    model.write_text(
        OLD.replace('G = [ { on = "beam", line = 3 } ]\n', "").replace("[loads]", tables), encoding="utf-8"
    )
    table.write_text("case,on,line [kN/m]\nG,beam,3\n", encoding="utf-8")
    (tmp_path / "loads.csv").symlink_to("real.csv")
    (tmp_path / ".gitattributes").write_text("*.csv export-ignore\n*.toml filter=mark\n", encoding="utf-8")
    git(tmp_path, "init", "-q")
    git(tmp_path, "add", ".")
    git(tmp_path, "commit", "-qm", "first")
    ran = tmp_path / "ran"
    git(tmp_path, "config", "filter.mark.smudge", f"touch {ran}; cat")
    git(tmp_path, "config", "core.fsmonitor", f"touch {ran}")
    table.write_text("case,on,line [kN/m]\nG,beam,6\n", encoding="utf-8")
    assert main(["diff", str(model), "--against", "HEAD", "--format", "json"]) == 1
    rows = json.loads(capsys.readouterr().out)
    assert {(r["before"], r["after"]) for r in rows if r["part"] == "load"} == {(-24.0, -48.0)}
    assert not ran.exists()
    (tmp_path / "loads.csv").unlink()
    (tmp_path / "loads.csv").symlink_to("../elsewhere.csv")
    git(tmp_path, "add", ".")
    git(tmp_path, "commit", "-qm", "second")
    (tmp_path / "loads.csv").unlink()
    (tmp_path / "loads.csv").write_bytes(table.read_bytes())
    capsys.readouterr()
    assert main(["diff", str(model), "--against", "HEAD"]) in (1, 2)
    assert "no file loads.csv" in capsys.readouterr().err


def test_from_python(tmp_path):
    import empuje

    changed(tmp_path, ("line = 3 }", "line = 6 }"))
    old, new = (empuje.read(tmp_path / n, cache=False) for n in ("old.toml", "new.toml"))
    frame = new.changes_since(old)
    assert frame.loc[frame["part"] == "load", "after"].tolist() == [-48.0]
    assert frame.loc[frame["part"] == "limit", "changed"].tolist() == ["not met"]
