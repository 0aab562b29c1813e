"""Accidental torsion of seismic cases, and how far a building turns, against cantilevers by hand."""

from __future__ import annotations

import json
from math import sqrt

import pytest

from empuje.cli import main
from empuje.core.model.words import Stance
from empuje.core.resolve import resolve
from empuje.files.reader import read_text
from models import resolved

HALL = """
[project]
units = "kN m"
mass = "G"
[nodes]
{nodes}
[members.columns]
section = "HEB 200"
material = "S355"
pieces = {{ {columns} }}
[members.posts]
section = "HEB 100"
material = "S235"
bar = true
pieces = {{ {posts} }}
[[supports]]
at = "f*"
fix = "fixed"
[diaphragms]
roof = {{ nodes = "t*" }}
[cases]
G = {{ action = "dead" }}
EX = {{ action = "seismic", along = "+x", accidental_torsion = 0.05, reversible = true }}
EY = {{ action = "seismic", along = "-y", accidental_torsion = 0.05, A_x = {{ roof = 2 }} }}
[loads]
G = [ {{ on = "t*", force = 5 }} ]
EX = [ {{ on = "t*", force = 10, dir = "+x" }} ]
EY = [ {{ on = "t*", force = 6, dir = "-y" }} ]
[combinations]
rules = ["{rules}"]
"""
h, a, B, L = 4.0, 2.0, 20.0, 10.0


def hall(rules="ASCE 7-22 strength", shift=(0.0, 0.0)):
    """Four cantilevers at (+-2, +-2) m below a rigid roof of 10 m by 20 m on pendulum posts at its corners."""
    at = [(sx * a, sy * a) for sx in (-1, 1) for sy in (-1, 1)] + [
        (sx * L / 2, sy * B / 2) for sx in (-1, 1) for sy in (-1, 1)
    ]
    nodes = [
        f"{n}{i} = [{x + shift[0]}, {y + shift[1]}, {z}]"
        for i, (x, y) in enumerate(at)
        for n, z in (("f", 0), ("t", h))
    ]
    pieces = [f'c{i} = "f{i} > t{i}"' for i in range(8)]
    return HALL.format(nodes="\n".join(nodes), columns=", ".join(pieces[:4]), posts=", ".join(pieces[4:]), rules=rules)


def by_hand():
    """Stiffness of the roof: along x, along y, in torsion about its middle [kN, m]."""
    member = resolve(read_text(hall(), "m.toml").project).project.members[0]
    E, G, s = member.material.E / 1e3, member.material.G / 1e3, member.section
    kx, ky = 3 * E * s.Iz / h**3, 3 * E * s.Iy / h**3  # a vertical member has its local y along global Y
    if member.roll == 0:
        kx, ky = 3 * E * s.Iy / h**3, 3 * E * s.Iz / h**3
    return 4 * kx, 4 * ky, 4 * (kx * a**2 + ky * a**2) + 4 * G * s.J / h


def ask(tmp_path, capsys, text, *words, code=0):
    (tmp_path / "m.toml").write_text(text, encoding="utf-8")
    assert main([words[0], str(tmp_path / "m.toml"), *words[1:], "--format", "json"]) == code
    out = capsys.readouterr()
    return json.loads(out.out), out.err


def test_a_roof_on_four_cantilevers_by_hand(tmp_path, capsys):
    """M_t = 0.05 L F on either side; edges move F/k +- M_t/k_t B/2; A_x = (u max / 1.2 u average)^2; EY has A_x = 2."""
    kx, ky, kt = by_hand()
    rows, _ = ask(tmp_path, capsys, hall(), "storeys", "--torsion")
    assert [r["case"] for r in rows] == ["EX + EXt", "EX - EXt", "EY + EYt", "EY - EYt"]
    for row, F, k, across in ((rows[0], 80, kx, B), (rows[1], 80, kx, B), (rows[2], 48, ky, L), (rows[3], 48, ky, L)):
        most = F / k + 0.05 * across * F / kt * across / 2
        ratio = most * k / F
        assert row["u max [mm]"] == pytest.approx(1e3 * most, rel=1e-6) and row["u average [mm]"] == pytest.approx(
            1e3 * F / k, rel=1e-6
        )
        assert row["A_x"] == pytest.approx(min(max((ratio / 1.2) ** 2, 1), 3), rel=1e-6) and row[
            "ratio"
        ] == pytest.approx(ratio, rel=1e-6)
        assert row["torsionally"] == ("extreme" if ratio > 1.4 else "irregular" if ratio > 1.2 else "regular")
    assert {r["torsionally"] for r in rows} > {"extreme"} or {r["torsionally"] for r in rows} == {"extreme"}
    rows, _ = ask(tmp_path, capsys, hall(), "displacements", "--on", "t0", "--under", "EXt,EYt", "--each")
    assert [r["rz [mrad]"] for r in rows] == pytest.approx(
        [1e3 * 0.05 * B * 80 / kt, -1e3 * 2 * 0.05 * L * 48 / kt], rel=1e-6
    )


def test_check_asks_for_what_amplifies(tmp_path, capsys):
    (tmp_path / "m.toml").write_text(hall(), encoding="utf-8")
    assert main(["check", str(tmp_path / "m.toml")]) == 0
    out = "".join(capsys.readouterr())
    assert "floor roof turns under EX: A_x = 3.000 (ASCE 7, 12.8.4.3), and 1 is taken" in out
    assert "extremely irregular in torsion under EX" in out
    (tmp_path / "m.toml").write_text(hall("EN 1990 strength"), encoding="utf-8")
    main(["check", str(tmp_path / "m.toml")])
    assert "12.8.4.3" not in "".join(capsys.readouterr())


def test_combinations_have_it_either_way():
    """Of each crosswise pair both torsions go along, with the share of their direction and either sign."""
    model = resolved(hall())
    made = {c.name: dict(c.factors) for c in model.combinations}
    with_torsion = [f for f in made.values() if f.get("EX") or f.get("EY")]
    assert with_torsion and all(abs(f["EXt"]) == abs(f["EX"]) and abs(f["EYt"]) == abs(f["EY"]) for f in with_torsion)
    signs = {(round(f["EX"], 6), round(f["EY"], 6), f["EXt"] > 0, f["EYt"] > 0) for f in with_torsion if f["G"] < 1}
    assert {s for s in signs if s[:2] == (1.0, 0.3)} == {(1.0, 0.3, x, y) for x in (True, False) for y in (True, False)}
    assert not any("EXt" in f and "EX" not in f for f in made.values())
    alone = resolved(hall().replace('"seismic", along = "-y", accidental_torsion = 0.05, A_x = { roof = 2 }', '"live"'))
    both = [dict(c.factors) for c in alone.combinations if "EX" in dict(c.factors)]
    assert {(f["EX"] > 0, f["EXt"] > 0) for f in both} == {(x, y) for x in (True, False) for y in (True, False)}


def test_each_building_has_its_own(tmp_path, capsys):
    """A second hall beside the first, of another force: torsion, weights and centres of each are as alone."""
    alone, _ = ask(tmp_path, capsys, hall(), "storeys")
    second = hall(shift=(11.0, 3.0))
    names = {f"{n}{i}": f"{n}{i + 8}" for n in "ft" for i in range(8)}
    two = hall()
    lines = [line for line in second.split("\n") if line[:1] in "ft" and line[1:2].isdigit()]
    more = "\n".join(names[line.split(" ")[0]] + " " + line.split(" ", 1)[1] for line in lines)
    two = two.replace("[members.columns]", more + "\n[members.columns]")
    two = two.replace(
        'c3 = "f3 > t3"', 'c3 = "f3 > t3", ' + ", ".join(f'd{i} = "f{i + 8} > t{i + 8}"' for i in range(4))
    )
    two = two.replace(
        'c7 = "f7 > t7"', 'c7 = "f7 > t7", ' + ", ".join(f'd{i} = "f{i + 8} > t{i + 8}"' for i in range(4, 8))
    )
    first, other = [f"t{i}" for i in range(8)], [f"t{i + 8}" for i in range(8)]
    two = two.replace(
        'roof = { nodes = "t*" }', f"roof = {{ nodes = {json.dumps(first)} }}\nlow = {{ nodes = {json.dumps(other)} }}"
    )
    two = two.replace('on = "t*", force = 10', f"on = {json.dumps(first)}, force = 10").replace(
        'dir = "+x" } ]', f'dir = "+x" }}, {{ on = {json.dumps(other)}, force = 4, dir = "+x" }} ]'
    )
    rows, _ = ask(tmp_path, capsys, two, "storeys")
    of = {r["floor"]: r for r in rows}
    assert {k: v for k, v in of["roof"].items() if k != "floor"} == pytest.approx(
        {k: v for k, v in alone[0].items() if k != "floor"}, abs=1e-6
    )
    assert of["low"]["weight [kN]"] == pytest.approx(40) and of["low"]["x mass [m]"] == pytest.approx(11)
    turned, _ = ask(tmp_path, capsys, two, "displacements", "--on", "t0,t8", "--under", "EXt", "--each")
    assert turned[1]["rz [mrad]"] == pytest.approx(0.4 * turned[0]["rz [mrad]"])


@pytest.mark.parametrize(("old", "new", "said"), [
    ('along = "+x", ', "", "accidental torsion is of seismic cases with along"),
    ('"seismic", along = "+x"', '"wind", along = "+x"', "accidental torsion is of seismic cases"),
    ("accidental_torsion = 0.05, reversible", "accidental_torsion = 5, reversible", "such as 0.05"),
    ("A_x = { roof = 2 }", "A_x = { roof = 4 }", "write 1 to 3"), ("A_x = { roof = 2 }", "A_x = { rof = 2 }", "did you mean roof"),
    ('[diaphragms]\nroof = { nodes = "t*" }\n', "", "needs rigid floors"),
    ('accidental_torsion = 0.05, A_x', "A_x", "has A_x, but no accidental_torsion"),
])  # fmt: skip
def test_what_it_needs_is_told(old, new, said):
    text = hall()
    assert old in text
    reading = read_text(text.replace(old, new), "m.toml")
    found = [*reading.findings, *resolve(reading.project, reading.findings).findings]
    assert any(said in str(f) for f in found if f.level == "error"), [str(f) for f in found]


def test_weights_of_levels_where_no_floor_is_rigid(tmp_path, capsys):
    """Half a storey's columns go up and half down, cut in the middle; loads of the roof to the roof."""
    text = (
        hall()
        .replace('[diaphragms]\nroof = { nodes = "t*" }\n', "")
        .replace(", accidental_torsion = 0.05", "")
        .replace(", A_x = { roof = 2 }", "")
    )
    text = text.replace('on = "t*", force = 5 }', 'on = "t0", force = 5 }, { on = "columns", line = 0.5 }')
    rows, said = ask(tmp_path, capsys, text.replace("bar = true\n", ""), "storeys", "--levels", "0,4")
    assert [r["weight [kN]"] for r in rows] == pytest.approx([4, 9]) and "No floor is rigid" in said
    assert [r["x mass [m]"] for r in rows] == pytest.approx([0, -2 * 5 / 9])
    assert sqrt(sum(r["y mass [m]"] ** 2 for r in rows)) == pytest.approx(2 * 5 / 9)


def test_what_it_takes_by_itself_is_a_decision(tmp_path, capsys):
    """The extents of the floor, on the usual side, and both directions' torsion at once, on the safe one."""
    rows, _ = ask(tmp_path, capsys, hall(), "decisions", "--about", "floor,torsion")
    told = {(r["side"], r["decided"], r["taken"]) for r in rows}
    extents = {
        (str(Stance.USUAL), "extent of a rigid floor", f"{at} across {case}")
        for at, case in (("20 m", "EX"), ("10 m", "EY"))
    }
    assert extents | {(str(Stance.SAFE), "accidental torsion crosswise", "that of both directions")} <= told
