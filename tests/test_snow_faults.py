"""Faulty snow tables, each told with its line and what to do; and the snow at the real interface."""

from __future__ import annotations

import csv
import io
import json
import math

import pytest

import empuje
from empuje.cli import main
from empuje.core.resolve import resolve
from empuje.files.reader import read_text
from snows import ASCE_16, ASCE_22, EN, gable, rectangle, roofs

STEP = {"low": rectangle(0, 20, 0, 30, 4.0), **gable(20, 40, 0, 30, 7.0, 9.0)}
BASE, OF_22, OF_EN = (roofs(site, STEP) for site in (ASCE_16, ASCE_22, EN))


def more(line: str, base: str = BASE) -> str:
    return base.replace("[snow]\n", f"[snow]\n{line}\n")


FAULTS = [
    ("a roof backwards", BASE.replace("I_s", 'W = "-3 m"\nI_s', 1), "W =", "bad-quantity", "snow.W", "'12 m'"),
    ("a length of nothing", BASE.replace("I_s", 'l_u = { nope = "3 m" }\nI_s', 1), "nope", "matches-nothing",
     "l_u: no surface is called nope", "there are"),
    ("walls by number", BASE.replace("I_s", "parapets = 3\nI_s", 1), "parapets", "", "snow.parapets", "true"),
    ("no such walls", BASE.replace("I_s", 'obstructions = "box*"\nI_s', 1), "obstructions", "matches-nothing", "box*", ""),
    ("no such beams", BASE.replace("I_s", 'continuous = "joist*"\nI_s', 1), "continuous", "matches-nothing", "joist*", ""),
    ("EN's drifts", BASE.replace("I_s", "annex_B = true\nI_s", 1), "annex_B", "wrong-key", "annex_B is not of ASCE", ""),
    ("no code", BASE.replace('code = "ASCE 7-16"\n', ""), "[snow]", "missing-key", "no `code`", "add code"),
    ("another edition", BASE.replace("7-16", "7-10"), "code", "unknown-word", "ASCE 7-10", "ASCE 7-16 or ASCE 7-22"),
    ("no ground load", BASE.replace('p_g = "1.5 kN/m2"\n', ""), "[snow]", "missing-key", "no `p_g`", "add p_g"),
    ("a force", BASE.replace("1.5 kN/m2", "1.5 kN"), "p_g", "bad-quantity", "is a force", "5 kN/m2"),
    ("a slip of units", BASE.replace("1.5 kN/m2", "150 kN/m2"), "p_g", "bad-quantity", "150000 N/m2", "1.4 kN/m2"),
    ("no exposure", BASE.replace('exposure = "C"\n', ""), "[snow]", "missing-key", "`exposure`", "or C_e"),
    ("no C_t", BASE.replace("C_t = 1.0\n", ""), "[snow]", "missing-key", "`C_t`", "1.2 for unheated"),
    ("C_t of one roof alone", BASE.replace("C_t = 1.0", "C_t = { low = 1.2 }"), "C_t", "missing-key", "west, east",
     'add "*" = 1.0'),
    ("C_t of no roof", BASE.replace("C_t = 1.0", 'C_t = { "*" = 1, lo = 1 }'), "C_t", "matches-nothing", "called lo",
     "low"),
    ("no importance", BASE.replace("I_s = 1.1\n", ""), "[snow]", "missing-key", "`I_s`", "add I_s"),
    ("a key of the other edition", more("W_2 = 0.4"), "W_2", "wrong-key", "not of ASCE 7-16", "take it out"),
    ("a key of the other code", more("s_k = 1"), "s_k", "wrong-key", "not of ASCE 7-16", "take it out"),
    ("no winter wind", OF_22.replace("W_2 = 0.45\n", ""), "[snow]", "missing-key", "`W_2`", "add W_2"),
    ("no risk category", OF_22.replace('risk = "III"\n', ""), "[snow]", "missing-key", "`risk`", "add risk"),
    ("C_t by roof in EN", more("C_t = { low = 1 }", OF_EN), "C_t", "bad-quantity", "C_t =", "one number for EN"),
    ("no such roof", BASE.replace('roofs = "*"', 'roofs = "hi"'), "roofs", "matches-nothing", "called hi", "there are"),
    ("nothing to fall on", BASE.replace('roofs = "*"\n', ""), "[snow]", "missing-key", "falls on nothing", "add roofs"),
    ("a roof as a parapet", more('parapets = "low"'), "parapets", "wrong-on", "both roofs and parapets", "`!`"),
    ("too heavy", more('gamma = "300 kN/m3"'), "gamma", "bad-quantity", "300000 N/m3", "3 kN/m3"),
    ("no direction", more("directions = {}"), "directions", "missing-key", "names none", "or take it out"),
    ("an upward wind", more('directions = { SX = "up" }'), "directions", "unknown-word", "up", "an angle"),
    ("a step no wind crosses", more('directions = { SX = "+y" }'), "[snow]", "snow-direction", "west",
     "add one across it"),
    ("no such case", more('variants = "SXq"'), "variants", "matches-nothing", "SXq", "SXpu"),
    ("a case twice", BASE.replace("G = {", "S = {"), "[snow]", "name-clash", "case S", "rename that case"),
    ("an edge of one place", more("beside.a = { edge = [[0, 0, 3]] }"), "beside", "bad-place", "two places", "edge ="),
    ("an upright edge", more("beside.a = { edge = [[0, 0, 3], [0, 0, 5]] }"), "beside", "bad-place", "no length",
     "two ends"),
    ("a slip of the pen", more("guard = true"), "guard", "unknown-key", "guard", "guards"),
]  # fmt: skip


def said(text):
    reading = read_text(text, "m.toml")
    return [*reading.findings, *resolve(reading.project, reading.findings).findings]


@pytest.mark.parametrize(("what", "text", "line", "code", "message", "remedy"), FAULTS, ids=[f[0] for f in FAULTS])
def test_a_faulty_snow_table_is_told(what, text, line, code, message, remedy):
    found = [f for f in said(text) if code in ("", f.code) and f.level == "error" and message in f.message]
    assert found, [str(f) for f in said(text)]
    assert remedy in f"{found[0].message}; {found[0].remedy}"
    lines = text.splitlines()
    assert any(line in lines[f.place.line - 1] for f in found), (found[0].place, line)


def test_the_same_tables_without_their_faults_are_sound():
    for text in (BASE, OF_22, OF_EN):
        assert [str(f) for f in said(text) if f.level == "error"] == []


def test_what_has_no_rules_here_is_refused_by_name():
    """Vaults side by side, a steep valley by EN; and what is left to the engineer is a note, never silence."""
    steep = {**gable(0, 4, 0, 20, 5.0, 9.0), **gable(4, 8, 0, 20, 5.0, 9.0, "2")}
    found = said(roofs(EN, steep))
    assert any(f.code == "snow-limits" and f.level == "error" and "60 degrees" in f.message for f in found)
    vaults = {f"{k}{i}": rectangle(x + 3 * i, x + 3 * i + 3, 0, 20, a, b) for k, x in (("v", 0), ("w", 12))
              for i, (a, b) in enumerate(((5, 7), (7, 8), (8, 7), (7, 5)))}  # fmt: skip
    for site in (ASCE_16, EN):
        found = said(roofs(site, vaults))
        assert any(f.code == "snow-limits" and "v3, w0 falls to a valley" in f.message for f in found)
    ring = [(10 * math.cos(math.pi * i / 4), 10 * math.sin(math.pi * i / 4), 5.0) for i in range(8)]
    dome = {f"d{i}": [ring[i], ring[(i + 1) % 8], (0.0, 0.0, 8.0)] for i in range(8)}
    assert any("as a dome does" in f.message for f in said(roofs(ASCE_16, dome)))
    assert "snow-ponding" in {f.code for f in said(BASE)}


def test_the_sheet_at_the_real_interface(tmp_path, capsys):
    """Tables in their formats, drawings of a drift, steps of `loads`, and Python."""
    file = tmp_path / "yard.toml"
    file.write_text(BASE, encoding="utf-8")
    assert main(["snow", str(file)]) == 0
    page = capsys.readouterr().out
    for words in ("leeward drift", "windward drift", "slid", "gable", "unbalanced", "table 7.3-1"):
        assert words in page
    assert main(["snow", str(file), "--part", "drifts", "--format", "csv"]) == 0
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    lee = next(r for r in rows if r["kind"] == "leeward drift")
    assert (lee["case"], lee["at"], lee["on"]) == ("SXnd", "west", "low")
    assert float(lee["w [m]"]) == pytest.approx(4 * float(lee["h_d [m]"]))
    assert main(["snow", str(file), "--under", "SXnd", "--format", "json"]) == 0
    each = json.loads(capsys.readouterr().out)
    assert {r["case"] for r in each} == {"SXnd"} and len(each) == 4
    assert main(["loads", str(file), "--under", "SXnd", "--steps"]) == 0
    page = capsys.readouterr().out
    assert "figure 7.6-1" in page and "h_c" in page and "0.7 C_e C_t I_s p_g" in page
    assert main(["draw", str(file), "pressures", "--under", "SXnd", "-o", str(tmp_path / "p.png")]) == 0
    assert (tmp_path / "p.png").stat().st_size > 10_000
    assert main(["why", str(file), "--on", "N0", "--of", "Fz", "--under", "SXnd"]) == 0
    assert "leeward drift" in capsys.readouterr().out
    assert main(["snow", str(file), "--under", "G"]) == 2
    model = empuje.read(file)
    total = model.snow("totals").set_index("case")["down [kN]"]
    each = model.snow("arrangements", under="SXnd")["F [kN]"].sum()
    assert total["SXnd"] == pytest.approx(each, rel=1e-9)
    with pytest.raises(ValueError, match="there is no heaps"):
        model.snow("heaps")
