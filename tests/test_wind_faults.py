"""Faulty wind tables, each told with its line and what to do; and the wind at the real interface."""

from __future__ import annotations

import csv
import io
import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from openpyxl import load_workbook

import empuje
from empuje.cli import main
from models import reading, resolved
from test_wind_building import q_22
from winds import canopy, hall

BASE = hall("ASCE 7-22")
EN = hall("EN")
TWO_ROOFS = """
[surfaces.roof-low]
corners = [[0, 0, 3], [30, 0, 3], [30, 20, 3], [0, 20, 3]]
carry = "nodes"
[members.more]
section = "HEB 300"
material = "S355"
[members.more.pieces]
a = "P > Q"
"""
FAULTS = [
    # what is wrong: the text, a word of the line it is on, the code, words of the message and of the remedy
    ("missing speed", BASE.replace('V = "50 m/s"\n', ""), "[wind]", "missing-key", "wind has no `V`", "add V"),
    ("unclad speed", BASE.replace('"50 m/s"', "50"), "V =", "bad-quantity", "needs its unit", "51 m/s"),
    ("speed in km/s", BASE.replace("50 m/s", "50 km/s"), "V =", "bad-quantity", "is 50000 m/s", "wind speed"),
    ("no code", BASE.replace('code = "ASCE 7-22"\n', ""), "[wind]", "missing-key", "no `code`", "add code"),
    ("unknown code", BASE.replace("ASCE 7-22", "ASCE 7-23"), "code =", "unknown-word", "ASCE 7-23", "ASCE 7-22"),
    ("no exposure", BASE.replace('exposure = "C"', ""), "[wind]", "missing-key", "no `exposure`", "add exposure"),
    ("exposure A", BASE.replace('exposure = "C"', 'exposure = "A"'), "exposure", "unknown-word", '"A"', "B, C, D"),
    ("the other code's key", BASE.replace("exterior", "c_dir = 0.9\nexterior", 1), "c_dir", "wrong-key", "not of ASCE 7-22", "out"),
    ("the other code's key", EN.replace("exterior", "K_d = 0.85\nexterior", 1), "K_d", "wrong-key", "not of EN 1991-1-4", "out"),
    ("misspelt key", BASE.replace("exterior", "exteriors", 1), "exteriors", "unknown-key", "`exteriors`", "did you mean exterior"),
    ("no such surface", BASE.replace('"roof*"', '"rof*"'), "exterior", "matches-nothing", "rof*", "roof-s"),
    ("no directions", BASE[: BASE.index("directions")], "[wind]", "missing-key", "no `directions`", "add directions"),
    ("bad direction", BASE.replace('"90.0 deg"', '"north"'), "directions", "unknown-word", '"north"', '"+x"'),
    ("nothing in the wind", BASE.replace('exterior = ["wall*", "roof*"]', ""), "[wind]", "missing-key", "acts on nothing", "exterior"),
    ("no windward wall", BASE.replace('"wall*"', '"wall-n", "wall-s"'), "directions", "wind-no-windward", "faces the wind WX", "add the walls"),
    ("walls missing", BASE.replace('["wall*", "roof*"]', '"roof*"'), "directions", "wind-no-windward", "faces the wind", "free_roofs"),
    ("inwards", BASE.replace('["s0", "s1", "s1t", "s0t"]', '["s0", "s0t", "s1t", "s1"]'), "[wind]", "wind-inwards", "wall-s", "counter-clockwise"),
    ("roof upside down", BASE.replace('["s0t", "s1t", "m1t", "m0t"]', '["s0t", "m0t", "m1t", "s1t"]'), "[wind]", "wind-inwards", "roof-s", "outside"),
    ("two roofs", (BASE + TWO_ROOFS).replace("[nodes]", "[nodes]\nP = [5, 5, 3]\nQ = [9, 5, 3]"), "[wind]", "wind-shape", "cover the same 600 m2", "leave the lower"),
    ("openings without sizes", BASE.replace("exterior", 'openings = ["wall-s"]\nexterior', 1), "openings", "not-a-table", "has no sizes", "6 m2"),
    ("openings of none", BASE.replace("exterior", 'openings = { "wall-s" = 0 }\nexterior', 1), "openings", "bad-quantity", "= 0", "area of its openings"),
    ("openings elsewhere", BASE.replace("exterior", 'openings = { "wall-q" = 2 }\nexterior', 1), "openings", "unknown-name", "no surface wall-q", "did you mean"),
    ("flexible without frequency", BASE.replace("exterior", 'G = "flexible"\nexterior', 1), "G =", "missing-key", "needs the lowest frequency", "n_1"),
    ("K_zt and a hill", BASE.replace("exterior", 'K_zt = 1.2\nhill = { shape = "ridge", H = 30, L_h = 90 }\nexterior', 1), "K_zt", "wrong-key", "both K_zt and a hill", "one of them"),
    ("hill without height", BASE.replace("exterior", 'hill = { shape = "ridge", L_h = 90 }\nexterior', 1), "hill", "missing-key", "no `H`", "add H"),
    ("negative factor", BASE.replace("exterior", "K_d = -0.85\nexterior", 1), "K_d", "bad-quantity", "-0.85", "positive"),
    ("unknown variant", BASE.replace("exterior", 'variants = ["1xp"]\nexterior', 1), "variants", "matches-nothing", "ends in 1xp", "1ap, 1an"),
    ("in two lists", BASE.replace("exterior", 'free_roofs = "roof-s"\nexterior', 1), "free_roofs", "wrong-on", "roof-s is in both", "leave it out"),
    ("case twice", BASE + '[cases]\nWX1ap = { action = "wind" }', "directions", "name-clash", "made by [wind]", "rename"),
    ("unclad without table", BASE.replace("exterior", 'unclad = { frame = 1.6 }\nexterior', 1), "unclad", "not-a-table", "frame", "C_f"),
    ("unclad of none", BASE.replace("exterior", 'unclad = { frames = {} }\nexterior', 1), "unclad", "matches-nothing", "frames", "frame"),
    ("shielded too well", BASE.replace("exterior", 'unclad = { "frame/o*" = { shielding = 1.2 } }\nexterior', 1), "unclad", "bad-quantity", "1.2", "up to 1"),
    ("slope out of range", canopy("ASCE 7-22", ridge=6.0), "directions", "wind-limits", "56.3 degrees", "by hand"),
    ("slope out of range", canopy("EN", 8.0), "directions", "wind-limits", "45 degrees; the tables go to 30", "by hand"),
    ("EN frames by solidity", EN.replace("exterior", 'unclad = { frame = { solidity = 0.3 } }\nexterior', 1), "unclad", "wind-frame", "has a solidity of 0.3 to the wind", "state C_f"),
    ("e_R of a rigid building", BASE.replace("exterior", 'e_R = "1 m"\nexterior', 1), "e_R", "wrong-key", "of flexible buildings", "n_1"),
    ("e_R outside", BASE.replace("exterior", 'G = "flexible"\nn_1 = "0.5 Hz"\ne_R = "40 m"\nexterior', 1), "[wind]", "wind-limits", "e_R = 40 m is more than half", "centres"),
    ("z_0 too large", EN.replace("exterior", "z_0 = 7\nz_min = 5\nexterior", 1), "z_0", "bad-quantity", "not below z_min", "both"),
    ("K_d of percent", BASE.replace("exterior", "K_d = 85\nexterior", 1), "K_d", "bad-quantity", "= 85", "at most 1"),
    ("c_pi of percent", EN.replace("exterior", "c_pi = [20, -30]\nexterior", 1), "c_pi", "bad-quantity", "[20, -30]", "-1 to 1"),
    ("G of percent", BASE.replace("exterior", "G = 85\nexterior", 1), "G =", "bad-quantity", "= 85", "0.9"),
    ("steeper than a roof", BASE.replace("exterior", 'theta = "95 deg"\nexterior', 1), "theta", "bad-quantity", "95 deg", "at most 80"),
    ("h above the roof", BASE.replace("exterior", "h = 20\nexterior", 1), "[wind]", "wind-shape", "above the highest point", "from the ground"),
    ("openings too large", BASE.replace("exterior", 'openings = { "wall-s" = 500 }\nexterior', 1), "[wind]", "wind-shape", "larger than wall-s", "by surface"),
    ("ASCE's word", EN.replace("exterior", 'enclosure = "partially open"\nexterior', 1), "enclosure", "wrong-key", "word of ASCE 7", "c_pi"),
    ("parapets of nothing", canopy("EN", 1.0).replace('free_roofs = "sheet*"', 'parapets = "sheet*"'), "parapets", "wrong-on", "no building", "exterior"),
    ("free roof upside down", canopy("EN", 1.0).replace('["a0t", "a1t", "b1t", "b0t"]', '["a0t", "b0t", "b1t", "a1t"]'), "[wind]", "wind-inwards", "sheet-a points down", "from above"),
    ("a wall as a free roof", BASE.replace("exterior", 'free_roofs = "wall-s"\nexterior', 1).replace('"wall*"', '"wall*", "!wall-s"'), "[wind]", "wind-shape", "are vertical", "exterior"),
    ("below the ground", BASE.replace("exterior", "ground = 2\nexterior", 1), "[wind]", "wind-shape", "2 m below the ground", "`ground`"),
]  # fmt: skip


@pytest.mark.parametrize(("what", "text", "line", "code", "message", "remedy"), FAULTS, ids=lambda v: str(v)[:24])
def test_a_faulty_wind_table_is_told(what, text, line, code, message, remedy):
    found = [f for f in reading(text).findings if f.code == code and f.level == "error" and message in f.message]
    assert found, what
    assert remedy in f"{found[0].message}; {found[0].remedy}"
    lines = text.splitlines()
    assert any(line in lines[f.place.line - 1] for f in found), (found[0].place, line)


def test_plans_that_are_no_building_are_told():
    """A wall left out, with the places where the others end; a height that is not the building's."""

    def told(text):
        return [f.message for f in reading(text).findings if f.code == "wind-plan" and f.level == "warning"]

    assert told(hall("ASCE 7-22")) == [] == told(hall("EN"))
    (gap,) = told(hall("ASCE 7-22", 30, 20, exterior='["wall-s", "wall-n", "wall-w", "roof*"]'))
    assert "enclose nothing" in gap and "(30, 0) m" in gap and "(30, 20) m" in gap
    open_ = hall("ASCE 7-22", 30, 20, exterior='["wall-s", "wall-n", "wall-w", "roof*"]')
    taken = [f.message for f in reading(open_).findings if f.code == "assumed"]
    assert len(taken) == 1 and "partially enclosed, (GC_pi) = 0.55" in taken[0]
    inside = [resolved(text).wind.blown[0].met[0].internal[0] for text in (
        open_, open_.replace("[wind]", '[wind]\nenclosure = "enclosed"'))]  # fmt: skip
    assert inside[0] / inside[1] == pytest.approx(0.55 / 0.18)
    for stated, wrong in (("7.5 m", False), ("9.5 m", True)):
        found = told(hall("ASCE 7-22", 30, 20, 6, 9, wind=f'h = "{stated}"'))
        assert bool(found) == wrong and (not wrong or "that of the building is 7.5 m" in found[0])


def test_the_same_tables_without_their_faults_are_sound():
    assert len({text for _, text, *_ in FAULTS}) == len(FAULTS) >= 20
    for text in (BASE, EN, canopy("ASCE 7-22", 2.0), canopy("EN", 1.0, width=16.0)):
        assert [f for f in reading(text).findings if f.level != "note" and "uncombined" not in f.code] == []


def test_one_slip_is_one_finding():
    """Cases of a wind that cannot be read are known by name to combinations and loads, and missed by nobody."""
    more = """[loads]
WX1ap = [ { on = "s0t", force = 7, dir = "+x" } ]
[combinations.custom]
U = "1.0 WX1ap + 1.0 WY1ap"
"""
    for fault in (('"90.0 deg"', '"north"'), ("50 m/s", "50 km/s"), ('exposure = "C"', 'exposure = "A"')):
        found = reading(hall("ASCE 7-22", wind='variants = ["1ap"]', more=more).replace(*fault)).findings
        assert len([f for f in found if f.level != "note"]) == 1, list(map(str, found))


def test_names_are_stable_and_hang_on_the_wind_alone():
    """More members, surfaces and directions change no name of those there were."""
    few = [c.name for c in reading(hall("ASCE 7-22", wind='variants = ["1*"]')).project.cases]
    assert few == [f"{d}1{r}{i}" for d in ("WX", "WY") for r in "ab" for i in "pn"]
    more = hall("ASCE 7-22", wind='variants = ["1*", "3a*"]', directions={"WX": 0, "WY": 90, "WW": 180}, over=1.0)
    names = [c.name for c in reading(more).project.cases]
    assert set(few) < set(names) and "WWWY3ap" in names and "WXWW3ap" not in names
    flat = [c.name for c in reading(hall("ASCE 7-22", 30, 20, 6, 6, wind='variants = ["1*"]')).project.cases]
    assert flat == few
    assert [c.name for c in reading(hall("EN", wind="c_pi = 0.2")).project.cases] == [
        f"W{d}{r}" for d in "XY" for r in "abcd"
    ]


def said(capsys, *words):
    code = main([str(w) for w in words])
    out = capsys.readouterr()
    return code, out.out, out.err


@pytest.fixture
def model(tmp_path):
    path = tmp_path / "hall.toml"
    path.write_text(hall("ASCE 7-22", wind='variants = ["1*", "2apl"]'), encoding="utf-8")
    return path


KEYS = ("case", "surface", "zone", "z0 [m]", "z1 [m]", "area [m2]", "q [kN/m2]", "C", "p_e [kN/m2]", "p_i [kN/m2]",
        "p [kN/m2]", "F [kN]")  # fmt: skip


def test_the_sheet_and_its_formats(model, tmp_path, capsys):
    code, text, _ = said(capsys, "wind", model)
    assert code == 0
    for words in ("Stated, and found", "gable: roof-s, roof-n", "16.7 deg", "K_z", "Pressure by height", "figure 27.3-1",
                  "Zones of WX1ap, WY1ap", "h/L = 0.375", "(GC_pi)", "uplift"):  # fmt: skip
        assert words in text, words
    code, text, _ = said(capsys, "wind", model, "--under", "WY1ap", "--format", "json")
    rows = json.loads(text)
    assert code == 0 and set(KEYS) <= set(rows[0]) and {r["case"] for r in rows} == {"WY1ap"}
    for row in rows:
        assert row["F [kN]"] == pytest.approx(row["p [kN/m2]"] * row["area [m2]"], rel=1e-12)
        assert row["p [kN/m2]"] == pytest.approx(row["p_e [kN/m2]"] - row["p_i [kN/m2]"], rel=1e-9)
    leeward = next(r for r in rows if r["zone"] == "leeward wall")
    assert leeward["q [kN/m2]"] == pytest.approx(q_22(7.5), rel=1e-12) and leeward["C"] == -0.5
    _, text, _ = said(capsys, "wind", model, "--under", "WY1ap", "--format", "csv")
    read = list(csv.DictReader(io.StringIO(text)))
    assert [float(r["F [kN]"]) for r in read] == [r["F [kN]"] for r in rows]
    assert said(capsys, "wind", model, "--under", "WY1ap", "-o", tmp_path / "w.xlsx")[0] == 0
    sheet = load_workbook(tmp_path / "w.xlsx").active
    assert [c.value for c in sheet[1]][:3] == ["case", "wind", "surface"] and sheet.max_row == len(rows) + 1
    code, text, _ = said(capsys, "wind", model, "--part", "totals", "--format", "json")
    totals = {r["case"]: r for r in json.loads(text)}
    assert totals["WX2apl"]["along [kN]"] == pytest.approx(0.75 * totals["WX1ap"]["along [kN]"], rel=1e-9)
    assert totals["WX2apl"]["Mz [kN*m]"] == pytest.approx(-0.15 * 20 * totals["WX2apl"]["along [kN]"], rel=1e-9)
    frame = empuje.read(model).wind(under="WY1ap")
    assert frame["F [kN]"].tolist() == [r["F [kN]"] for r in rows]
    with pytest.raises(ValueError, match="there is no heigth"):
        empuje.read(model).wind(part="heigth")


def say_labels(model):
    """What is written beside the pressures of a case, with names."""
    from empuje.show.display import Display
    from empuje.show.drawings.draw_pressures import draw_pressures
    from empuje.show.drawings.view import View

    found = reading(model.read_text(encoding="utf-8")).resolved
    case = next(r for r in found.results if r.name == "WX1ap")
    every = range(len(found.project.members))
    sheet = draw_pressures(found, case, list(every), View.named("iso"), Display(("kN", "m", "mm", "MPa")), True)
    return [wish.text for wish in sheet.wishes]


def test_loads_why_and_pictures_tell_how_it_came_about(model, tmp_path, capsys):
    code, text, _ = said(capsys, "loads", model, "--on", "frame/cs0", "--under", "WY1ap", "--steps")
    assert code == 0
    for words in (
        "K_z = ",
        "table 26.10-1",
        "C_p = 0.8 (windward wall, figure 27.3-1)",
        "G = 0.85",
        "K_d = 0.85",
        "GC_pi = 0.18",
    ):
        assert words in text, words
    code, text, _ = said(capsys, "why", model, "--on", "s0", "--of", "Fy", "--under", "WY1ap")
    assert code == 0 and "windward wall on wall-s" in text and "q_z = " in text
    picture = tmp_path / "p.svg"
    assert said(capsys, "draw", model, "pressures", "--under", "WX2apl", "-o", picture)[0] == 0
    drawn = picture.read_text(encoding="utf-8")
    p = 0.75 * 0.85 * q_22(7.5) * (0.85 * -0.7 - 0.18)
    assert f"{p:.3g} kN/m2" in drawn.replace("−", "-")
    named = say_labels(model)
    p = 0.85 * q_22(7.5) * (0.85 * -0.3 - 0.18)
    assert (
        f"roof beyond 2h: {p:.3g} kN/m2" in named
        and f"side wall: {0.85 * q_22(7.5) * (0.85 * -0.7 - 0.18):.3g} kN/m2" in named
    )
    unclad = model.with_name("none.toml")
    unclad.write_text(model.read_text(encoding="utf-8").partition("[wind]")[0] + '[cases]\nG = { action = "dead" }')
    code, _, err = said(capsys, "wind", unclad)
    assert code == 2 and "no [wind]" in err
    code, _, err = said(capsys, "wind", model, "--under", "WZ1ap")
    assert code == 2 and "WX1ap" in err


def test_the_installed_command_on_the_samples(tmp_path):
    """Both samples as a new user meets them: the sheet of the packing house, and of the frame in the yard."""
    here = Path(sys.executable).with_name("empuje" + (".exe" if os.name == "nt" else ""))
    samples = Path(empuje.__file__).parent / "samples"
    for sample in ("packing_house/packing-house.toml", "sorting_frame/sorting-frame.toml"):
        there = tmp_path / Path(sample).name
        there.write_bytes((samples / sample).read_bytes())
        found = subprocess.run([here, "check", there], capture_output=True, text=True, timeout=120)
        assert found.returncode == 0 and "0 errors, 0 warnings" in found.stdout
    house = subprocess.run([here, "wind", tmp_path / "packing-house.toml"], capture_output=True, text=True, timeout=120)
    assert house.returncode == 0 and "free roof, windward half" in house.stdout and "gable" in house.stdout
    yard = subprocess.run([here, "wind", tmp_path / "sorting-frame.toml"], capture_output=True, text=True, timeout=120)
    assert yard.returncode == 0 and "posts/A1/base-top and 5 more" in yard.stdout and "Zones" not in yard.stdout
    # The lamp by hand and the posts by code are in one case.
    totals = subprocess.run([here, "loads", tmp_path / "sorting-frame.toml", "--under", "WX", "--on", "L1"],
                            capture_output=True, text=True, timeout=120)  # fmt: skip
    assert "Fx 0.35" in totals.stdout
