"""What adding up cases would give, beside combinations analysed as one."""

from __future__ import annotations

import json

import pytest

from empuje.cli import main

TIED = """
[project]
units = "kN m"
space = "plane"
[nodes]
a = [0, 0]
b = [4, 0]
c = [0, 3]
d = [4, 3]
[members.posts]
section = "HEB 200"
material = "S235"
ends = "hinged"
pieces = { left = "a > c", right = "b > d" }
[members.rail]
section = "HEB 200"
material = "S235"
ends = "hinged"
pieces = { cd = "c > d" }
[members.ties]
section = "L 70x70x7"
material = "S235"
bar = true
acts = "tension"
pieces = { up = "a > d", down = "b > c" }
[[supports]]
at = ["a", "b"]
fix = "x z"
[cases]
A = { action = "wind" }
B = { action = "live" }
L = { notional = "1/10", dir = "+x" }
[loads]
A = [ { on = "c", force = 10, dir = "+x" } ]
B = [ { on = "d", force = 6, dir = "-x" }, { on = "d", force = 20 } ]
[combinations.custom]
U = "1.5 A + B"
V = "B + L"
"""


def ask(capsys, path, *words):
    assert main([words[0], str(path), *words[1:], "--format", "json"]) == 0
    out = capsys.readouterr()
    return json.loads(out.out), out.err


def test_two_ties_by_hand(tmp_path, capsys):
    """A pulls one tie (10 kN over 4/5), B the other; at once only 1.5 x 10 - 6 kN are left, and the sum of both pulls
    two ties, of which under both loads one is slack."""
    path = tmp_path / "m.toml"
    path.write_text(TIED, encoding="utf-8")
    rows, said = ask(capsys, path, "forces", "--on", "ties", "--under", "U", "--at", "50%", "--summed")
    told = [(r["member"], r["how"], round(r["N [kN]"], 3), r["T/C"]) for r in rows]
    assert told == [("ties/up", "as one", 11.25, "T"), ("ties/up", "summed", 18.75, "T"),
                    ("ties/down", "as one", 0.0, ""), ("ties/down", "summed", 7.5, "T")]  # fmt: skip
    assert "7.500 kN as a sum of its cases" in said or "18.750 kN as a sum of its cases" in said
    # Supports hold the same sum in both, since each case is in balance by itself.
    rows, _ = ask(capsys, path, "reactions", "--under", "U", "--summed")
    assert [(r["node"], r["how"]) for r in rows] == [("a", "as one"), ("a", "summed"), ("b", "as one"), ("b", "summed")]
    for how in ("as one", "summed"):
        of = [r for r in rows if r["how"] == how]
        assert sum(r["Fx [kN]"] for r in of) == pytest.approx(-9) and sum(r["Fz [kN]"] for r in of) == pytest.approx(20)
    # A notional load (2 kN) goes with the loads of its combination and has no state of its own: both ties take half of it in a sum.
    rows, _ = ask(capsys, path, "forces", "--on", "ties/down", "--under", "V", "--at", "50%", "--summed")
    assert [r["N [kN]"] for r in rows] == pytest.approx([5, 7.5 - 1.25], abs=0.06)
    rows, _ = ask(capsys, path, "displacements", "--on", "c,d", "--under", "U", "--summed")
    assert [r["how"] for r in rows] == ["as one", "summed"] * 2 and rows[0]["ux [mm]"] != pytest.approx(
        rows[1]["ux [mm]"]
    )


@pytest.mark.parametrize("words", [
    ("reactions", "--summed", "--schedule"), ("displacements", "--summed", "--envelope"), ("forces", "--summed", "--chart", "N"),
    ("forces", "--summed", "--under", "A"),
])  # fmt: skip
def test_what_has_no_sum_is_refused(words, tmp_path, capsys):
    path = tmp_path / "m.toml"
    path.write_text(TIED, encoding="utf-8")
    assert main([words[0], str(path), *words[1:]]) == 2 and "--summed" in capsys.readouterr().err


def test_sums_are_there_already_where_all_parts_act_both_ways(tmp_path, capsys):
    path = tmp_path / "m.toml"
    path.write_text(TIED.replace('acts = "tension"\n', ""), encoding="utf-8")
    assert main(["forces", str(path), "--on", "ties", "--under", "U", "--summed"]) == 2
    assert "every result here is a sum" in capsys.readouterr().err
