"""Slips that engineers make: each a small change of one sound model, with its code, its line and its remedy; accepted
ones; and `check` for programs."""

import json

import pytest

from empuje.cli import main
from empuje.study.study import Study
from models import reading

SHED = """
[project]
units = "kN m"
[values]
q = "4 kN/m"
[grid]
x = { A = 0, B = 6, C = 12, D = 18, E = 24, F = 30 }
y = { 1 = 0, 2 = 8 }
z = { base = 0, eave = 5 }
[materials]
own = { E = "210 GPa", G = "81 GPa", density = "7850 kg/m3", expansion = "12e-6 1/K" }
[sections]
edge = { shape = "I", h = "300 mm", b = "150 mm", tw = "7 mm", tf = "11 mm" }
[members.columns]
section = "HEA 200"
material = "own"
runs = ["A..F / 1,2 / base>eave"]
[members.beams]
section = "IPE 400"
material = "S355"
runs = ["A..F / 1>2 / eave"]
[members.edges]
section = "edge"
material = "S355"
ends = "hinged"
runs = ["A>>F / 1,2 / eave"]
[members.ties]
section = "L 60x60x6"
material = "S235"
bar = true
acts = "tension"
runs = ["A>B / 1,2 / base>eave", "B>A / 1,2 / base>eave"]
[[supports]]
at = "*@base"
fix = "fixed"
[surfaces.roof]
corners = ["A1@eave", "F1@eave", "F2@eave", "A2@eave"]
deck = "x"
bearing = "beams"
[cases]
SW = { action = "dead", self_weight = 1 }
G = { action = "dead" }
S = { action = "snow" }
W = { action = "wind", along = "+y" }
T = { action = "thermal" }
M = { action = "settlement" }
[loads]
G = [ { on = "beams", line = "q" }, { on = "C1@eave", force = 12 }, { on = "edges", line = 1 } ]
S = [ { on = "roof", area = 0.8 } ]
W = [ { on = "columns", line = 1.5, dir = "+y" }, { on = "roof", area = -0.3, dir = "down" } ]
T = [ { on = "beams", temperature = 20 } ]
M = [ ]
[combinations.custom]
U1 = { formula = "1.35 SW + 1.35 G + 1.5 S + 0.9 W", set = "strength" }
U2 = { formula = "SW + G + 1.5 W", set = "strength" }
U3 = { formula = "1.35 SW + 1.35 G + 1.5 T", set = "strength" }
"""
SHED = (
    SHED.replace('M = { action = "settlement" }\n', "")
    .replace("M = [ ]\n", "")
    .replace(', { on = "roof", area = -0.3, dir = "down" }', ', { on = "roof", area = 0.3, dir = "up" }')
)
"""Nothing is to be said of it."""

GRID = "x = { A = 0, B = 6, C = 12, D = 18, E = 24, F = 30 }"
NODES = "[nodes]\nK = [{0}]\nL = [{1}]\n[materials]\n"
MORE = '[members.more]\nsection = "IPE 200"\nmaterial = "S355"\n{0}pieces = {{ m = "{1}" }}\n[[supports]]\n'
SLIPS = [
    ("a grid in mm", GRID, GRID.replace("6,", "6000,").replace("12", "12000").replace("18", "18000").replace(
        "24", "24000").replace("30", "30000"), "implausible-length", "runs =", "write its unit"),
    ("E bare", 'E = "210 GPa", G = "81 GPa"', "E = 210000, G = 81000", "implausible-stiffness", "runs =", "E = 210 MPa"),
    ("G in MPa", 'G = "81 GPa"', 'G = "81 MPa"', "implausible-stiffness", "runs =", "E/2.6"),
    ("no density", 'density = "7850 kg/m3", ', "", "no-density", "runs =", "give it a density"),
    ("density by weight", "7850 kg/m3", "7850 kN/m3", "implausible-weight", "runs =", "25 kN/m3"),
    ("N/m read as kN/m", 'on = "edges", line = 1', 'on = "edges", line = 3000', "implausible-load", "G = [", "write its unit"),
    ("a load in MN", 'q = "4 kN/m"', 'q = "4e-7 kN/m"', "implausible-load", "G = [", "write its unit"),
    ("a force in N", "force = 12 }", "force = 120000 }", "implausible-load", "G = [", "write its unit"),
    ("snow in kg", "area = 0.8", "area = 800", "implausible-load", "S = [", "write its unit"),
    ("temperature", "temperature = 20", "temperature = 293.15", "implausible-temperature", "T = [", "change of temperature"),
    ("a settlement in mm", 'fix = "fixed"', 'fix = "fixed"\nsettle = { case = "M", z = -6 }', "implausible-settlement", "settle =",
     "write its unit"),
    ("factor 12", "1.5 S", "15 S", "implausible-factor", "U1 =", "check the factor"),
    ("g as a factor", "self_weight = 1 }", "self_weight = 9.81 }", "implausible-weight", "SW =", "it is a factor"),
    ("weight up", "self_weight = 1 }", "self_weight = -1 }", "implausible-weight", "SW =", "acting down"),
    ("weight in part", "self_weight = 1 }", "self_weight = 0.1 }", "implausible-weight", "SW =", "it is a factor"),
    ("weight twice", 'G = { action = "dead" }', 'G = { action = "dead", self_weight = 1 }', "weight-twice", "G = {",
     "self_weight = 0"),
    ("dead load up", 'line = "q" }', 'line = "-q" }', "acts-upward", "G = [", "dir is down unless stated"),
    ("dead load +z", "force = 12 }", 'force = 12, dir = "+z" }', "acts-upward", "G = [", "dir is down unless stated"),
    ("negative snow", "area = 0.8", "area = -0.8", "acts-upward", "S = [", "negative snow"),
    ("wind left down", 'line = 1.5, dir = "+y"', "line = 1.5", "wind-down", "W = [", "give its direction"),
    ("along", 'along = "+y"', 'along = "-y"', "along-differs", "W = {", "correct along"),
    ("along the other axis", 'along = "+y"', 'along = "+x"', "along-differs", "W = {", "correct along"),
    ("load twice", 'on = "edges", line = 1 }', 'on = "edges", line = 1 }, { on = "edges/1*", line = 1 }', "load-twice",
     "G = [", "take one out"),
    ("force twice", "force = 12 }", 'force = 12 }, { on = ["C1@eave"], force = 12 }', "load-twice", "G = [", "take one out"),
    ("a total by hand", 'S = { action = "snow" }', 'S = { action = "snow", total = "200 kN" }', "total-differs", "S = {", "come to 192 kN"),
    ("area twice", "area = 0.8 }", 'area = 0.8 }, { on = "roof", area = 0.8 }', "load-twice", "S = [", "take one out"),
    ("along a member", 'on = "edges", line = 1 }', 'on = "edges", line = 1, dir = "+x" }', "along-member", "G = [", "local x"),
    ("local axes", 'line = 1.5, dir = "+y"', 'line = 1.5, dir = "+y" }, { on = ["edges", "beams"], line = 1, dir = "local y"',
     "local-axes-differ", "W = [", "and 9 more"),
    ("on bars", 'on = "edges", line = 1 }', 'on = "edges", line = 1 }, { on = "ties", line = 0.2 }', "load-across-bar",
     "G = [", "leave out bar"),
    ("one left out", 'on = "beams", line = "q"', 'on = ["beams", "!beams/D*"], line = "q"', "one-without-load", "G = [",
     "add it there"),
    ("out of proportion", "area = 0.8", 'area = "0.4 N/m2"', "implausible-load", "S = [", "write its unit"),
    ("tiny beside others", 'on = "roof", area = 0.8', 'on = "C1@eave", force = 0.02', "out-of-proportion", "S = {", "check units"),
    ("too heavy", '[[supports]]', MORE.format("", "A1@base > F2@eave").replace("IPE 200", "big").replace(
        "[members.more]", "[sections.big]\nA = 9\nIy = 5\nIz = 5\nJ = 5\n[members.more]"), "heavy-members", "SW =",
     "check sections"),
    ("no variable action", " + 1.5 S + 0.9 W", "", "no-variable-action", "U1 =", "check which cases"),
    ("near nodes", "[materials]\n", NODES.format("12, 0.01, 5", "12, 4, 9"), "near-nodes", "K = [", "use one node"),
    ("a part by itself", "[materials]\n", NODES.format("50, 0, 0", "50, 4, 0"), "separate-part", "pieces =",
     "join them"),
    ("a foot in the air", 'at = "*@base"', 'at = ["*@base", "!D1@base"]', "foot-without-support", "runs =",
     "supports' selector"),
    ("supports everywhere", 'at = "*@base"', 'at = "*"', "supported-everywhere", "[[supports]]", "narrow"),
    ("a slender bar", 'acts = "tension"\n', "", "slender-bar", "runs =", "tension"),
    ("stiffness apart", '[members.beams]\nsection = "IPE 400"', '[members.beams]\nsection = "wire"', "stiffness-apart",
     "runs =", "check units of E"),
    ("turned", '[members.beams]\nsection', '[members.beams]\nroll = 90\nsection', "lies-flat", "runs =", "roll = 90"),
    ("its last bay", '"F1@eave", "F2@eave", "A2@eave"]', '"E1@eave", "E2@eave", "A2@eave"]', "misses-last-bay", "[surfaces.roof]",
     "draw its corners to there"),
    ("its first bay", '["A1@eave", "F1@eave", "F2@eave", "A2@eave"]', '["B1@eave", "F1@eave", "F2@eave", "B2@eave"]',
     "misses-last-bay", "[surfaces.roof]", "beams/A@eave/1-2"),
    ("overlapping in part", "[materials]\n", NODES.format("9, 0, 5", "15, 0, 5"), "doubled-member", "pieces =", "end one where"),
    ("an area and its own line", "area = 0.8 }", 'area = 0.8 }, { on = "beams/C*", line = 4.8 }', "counted-twice", "S = [",
     "take one of them out"),
    ("strength without wind", '1.5 S + 0.9 W", set = "strength" }\nU2 = { formula = "SW + G + 1.5 W"',
     '1.5 S", set = "strength" }\nU2 = { formula = "SW + G + 1.5 S"', "strength-without", "W = {", "what they leave out"),
    ("an unused material", "[materials]\n", '[materials]\nspare = { E = "70 GPa" }\n', "unused-part", "spare =", "take it out"),
    ("an unused section", "[sections]\n", '[sections]\nspare = { shape = "pipe", d = "90 mm", t = "5 mm" }\n', "unused-part",
     "spare =", "take it out"),
    ("an unused value", "[values]\n", "[values]\nspare = 3\n", "unused-value", "spare =", "take it out"),
]  # fmt: skip


def changed(what, old, new):
    assert SHED.count(old) >= 1, (what, old)
    text = SHED.replace(old, new, 1)
    if what == "no variable action":
        text = text.replace("U2 = { formula", "#").replace("+ 1.5 T", "")
    if "settle" in new:
        text = text.replace("[loads]", 'M = { action = "settlement" }\n[loads]')
    if "K = [" in new:
        pieces = 'm = "K > L", n = "L > B1@eave"' if what == "near nodes" else 'm = "K > L"'
        held = 'at = ["K", "L"]\nfix = "fixed"\n[[supports]]\n' if what == "a part by itself" else ""
        more = MORE.format("", "K > L").replace('m = "K > L"', pieces)
        text = text.replace("[[supports]]\n", more + held, 1)
    if '"wire"' in new:
        wire = '[sections.wire]\nA = "1 cm2"\nIy = "0.001 mm4"\nIz = "0.001 mm4"\nJ = "0.001 mm4"\n'
        text = text.replace("[members.columns]", wire + "[members.columns]")
    return text


def test_nothing_is_said_of_the_sound_model():
    assert reading(SHED).findings == [] and reading(SHED).sound


@pytest.mark.parametrize(("what", "old", "new", "code", "line", "remedy"), SLIPS, ids=[s[0] for s in SLIPS])
def test_a_slip_is_told_where_it_stands(what, old, new, code, line, remedy, tmp_path):
    """And accepted with a reason it is a note that says so; what is accepted and not there is told."""

    def findings(text):
        (tmp_path / "m.toml").write_text(text, encoding="utf-8")
        return Study.read(tmp_path / "m.toml", cache=False, quick=True).findings

    text = changed(what, old, new)
    found = [f for f in findings(text) if f.code == code and f.stands_for == 1]
    assert found, [str(f) for f in findings(text)]
    lines = text.splitlines()
    place = found[0].place.line
    assert line in "\n".join(lines[place - 1 : place + 1]), (place, str(found[0]))
    assert remedy in f"{found[0].message}; {found[0].remedy}"
    assert all(f.level != "error" for f in found) and found[0].message.isprintable()
    accepted = '[[accepted]]\nfinding = "{}"\non = "{}"\nreason = "as built"\n'
    seen = [f for f in findings(text + accepted.format(code, found[0].about[-1])) if f.accepted]
    assert seen and all(f.code == code and f.level == "note" and str(f).endswith("because as built") for f in seen)
    away = findings(text + accepted.format(code, "nowhere*"))
    assert not any(f.accepted for f in away) and "accepted-nothing" in [f.code for f in away]


RIGHT = [
    ("cladding on columns", "force = 12 }", 'force = 12 }, { on = "columns", line = 1 }'),
    ("along bars", "force = 12 }", 'force = 12 }, { on = "ties/1/A*", line = -0.2, dir = "local x" }'),
    ("said to be along", "force = 12 }", 'force = 12 }, { on = "edges", line = 0.2, dir = "local x" }'),
    ("a total that is right", 'S = { action = "snow" }', 'S = { action = "snow", total = "0.8 kN/m2 * 30 m * 8 m" }'),
    ("bolts on top", 'G = { action = "dead" }', 'G = { action = "dead", self_weight = 0.05 }'),
    ("in two stages", 'U1 = { formula = "1.35 SW + 1.35 G', 'U1 = { formula = "1.35 G'),
    ("at two places", "force = 12 }", 'force = 12 }, { on = "beams/C*", force = 5, at = "2 m" }, { on = "beams/C*", force = 5, at = "3 m" }'),
    ("two sizes", 'on = "edges", line = 1 }', 'on = "edges", line = 1 }, { on = "edges", line = 1.5 }'),
    ("two left out", 'on = "beams", line = "q"', 'on = ["beams", "!beams/D*", "!beams/E*"], line = "q"'),
    ("wind that presses a roof", 'dir = "up" }', 'dir = "normal" }'),
    ("oblique wind", 'line = 1.5, dir = "+y" }', 'line = 1.5, dir = "+y" }, { on = "columns", line = 1.4, dir = "+x" }'),
    ("a deck that overhangs", '"F1@eave", "F2@eave", "A2@eave"]', '[34, 0, 5], [34, 8, 5], "A2@eave"]'),
    ("two bays left open on purpose", '"F1@eave", "F2@eave", "A2@eave"]', '"D1@eave", "D2@eave", "A2@eave"]'),
    ("a last bay of another width", GRID, GRID.replace("F = 30", "F = 31")),
    ("another surface there", '"F1@eave", "F2@eave", "A2@eave"]\ndeck = "x"\nbearing = "beams"\n',
     '"E1@eave", "E2@eave", "A2@eave"]\ndeck = "x"\nbearing = "beams"\n[surfaces.rest]\ncorners = ["E1@eave", "F1@eave", "F2@eave", "E2@eave"]\ndeck = "x"\n'),
    ("held up everywhere", 'at = "*@base"', 'at = "*"\nfix = "z"\n[[supports]]\nat = "*@base"'),
]  # fmt: skip


@pytest.mark.parametrize(("what", "old", "new"), RIGHT, ids=[r[0] for r in RIGHT])
def test_what_is_right_is_not_told(what, old, new):
    assert SHED.count(old) == 1
    text = SHED.replace(old, new)
    if what == "in two stages":
        text = text.replace('G = { action = "dead" }', 'G = { action = "dead", self_weight = 1 }').replace('"SW + G', '"SW').replace(
            "1.35 SW + 1.35 G + 1.5 T", "1.35 SW + 1.5 T")  # fmt: skip
    assert reading(text).findings == []


def test_a_surface_over_two_bays_of_three_stops_short():
    short = SHED.replace(GRID, "x = { A = 0, B = 6, C = 12, D = 18 }").replace("A..F", "A..D").replace("A>>F", "A>>D")
    for end, told in (("C", ["misses-last-bay"]), ("D", [])):
        text = short.replace('"F1@eave", "F2@eave"', f'"{end}1@eave", "{end}2@eave"')
        assert [f.code for f in reading(text).findings] == told


SPAN = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 3]
b = [6, 0, 3]
{more}
[members.beam]
section = "IPE 300"
material = "{material}"
pieces = {{ m = "a > b" }}
[[supports]]
at = ["a", "b"]
fix = "x y z rx"
[cases]
Q = {{ action = "live" }}
P = {{ action = "live" }}
[loads]
P = [ {{ on = "beam", line = 1 }} ]
Q = [ {{ on = "beam", line = {q} }} ]
"""


@pytest.mark.parametrize(("material", "bound"), [("S235", 2 * 235e6), ("S355", 2 * 355e6), ("bare", 210e9 / 200)])
def test_stresses_beyond_twice_the_yield_strength_are_told(material, bound, tmp_path):
    """q L^2/8 over W of a simple beam, a per cent below and above; of a material without strength E/200."""
    more = '[materials]\nbare = { E = "210 GPa", G = "81 GPa", density = "7850 kg/m3" }' if material == "bare" else ""

    def told(q):
        (tmp_path / "m.toml").write_text(SPAN.format(q=q, material=material, more=more), encoding="utf-8")
        study = Study.read(tmp_path / "m.toml", cache=False)
        section = study.project.members[0].section
        found = [f for f in study.checked(True).findings if f.code == "overstressed"]
        return found, section.Iy / 0.15

    _, W = told(1)
    for share in (0.99, 1.01):
        found, _ = told(share * bound * W * 8 / 36 / 1e3)
        assert bool(found) == (share > 1)
    assert "likewise" not in found[0].message
    assert found[0].about == ("Q", "beam/m") and f"{1.01 * bound / 1e6:,.4g} MPa" in found[0].message


PLAUSIBLE = """
[plausible]
length = "7 km"
line = "4 MN/m"
force = "1 GN"
pressure = "1 MPa"
temperature = 300
factor = 20
"""


def test_bounds_can_be_stated_and_are_sound():
    """What is beyond the usual bounds and within the model's own is no slip."""
    names = ("a grid in mm", "N/m read as kN/m", "a force in N", "snow in kg", "temperature", "factor 12")
    for what, old, new, code, *_ in SLIPS:
        if what in names:
            own = {f.code for f in reading(changed(what, old, new) + PLAUSIBLE).findings}
            assert code not in own, (what, own)
    assert [f.code for f in reading(SHED + "[plausible]\nline = 0\n").findings] == ["bad-quantity"]
    assert [f.code for f in reading(SHED + "[plausible]\nlength = 3\n").findings[:1]] == ["implausible-length"]


def test_errors_cannot_be_accepted_and_reasons_are_needed(tmp_path):
    for entry, code in (
        ('finding = "unknown-name"\nreason = "x"', "unknown-name"),
        ('finding = "slender-bar"', "missing-key"),
        ('finding = "slender-bar"\nreason = " "', "missing-key"),
        ('finding = "slender-bar"\nreason = "x"\nwhy = 3', "unknown-key"),
    ):
        text = SHED.replace("IPE 400", "IPE 401") if code == "unknown-name" else SHED
        (tmp_path / "m.toml").write_text(f"{text}[[accepted]]\n{entry}\n", encoding="utf-8")
        found = Study.read(tmp_path / "m.toml", cache=False).findings
        assert ("error", code) in [(f.level, f.code) for f in found]
        if code == "unknown-name":
            assert "has to be mended" in next(str(f) for f in found if f.code == "accepted-nothing")


def test_check_orders_by_weight_and_writes_for_programs(tmp_path, capsys):
    """An error, warnings, a note and an accepted one; the same in JSON, and in SARIF as its schema has it."""
    path = tmp_path / "m.toml"
    text = changed(*next(s for s in SLIPS if s[0] == "a slender bar")[:3]).replace("area = 0.8", "area = -0.8")
    text = text.replace("force = 12 }", "force = 6e4 }")
    path.write_text(text + '[[accepted]]\nfinding = "acts-upward"\nreason = "it is \\"so\\""\n', encoding="utf-8")
    assert main(["check", str(path)]) == 0
    out = capsys.readouterr().out
    order = [
        out.index(word)
        for word in ("warning[implausible-load]", "note[slender-bar]", "\nAccepted\n", "accepted[acts-upw")
    ]
    assert order == sorted(order) and out.splitlines()[-1] == "0 errors, 2 warnings, 1 note, 1 accepted"
    assert main(["check", str(path), "--format", "json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert [(r["level"], r["code"], bool(r["accepted"])) for r in rows] == [
        ("warning", "implausible-load", False), ("warning", "overstressed", False), ("note", "slender-bar", False),
        ("note", "acts-upward", True)]  # fmt: skip
    assert rows[2]["line"] == text[: text.index("ties]")].count("\n") + 5 and "ties/1/A@base-B@eave" in rows[2]["about"]
    assert main(["check", str(path), "-o", str(tmp_path / "f.sarif")]) == 0
    log = json.loads((tmp_path / "f.sarif").read_text(encoding="utf-8"))
    (run,) = log["runs"]
    assert log["version"] == "2.1.0" and run["tool"]["driver"]["name"] == "empuje"
    rules = [r["id"] for r in run["tool"]["driver"]["rules"]]
    for row, result in zip(rows, run["results"], strict=True):
        assert rules[result["ruleIndex"]] == result["ruleId"] == row["code"] and result["level"] == row["level"]
        (place,) = result["locations"]
        assert place["physicalLocation"]["artifactLocation"]["uri"] == "m.toml"
        assert place["physicalLocation"]["region"]["startLine"] == row["line"]
        assert ("suppressions" in result) == bool(row["accepted"])
    assert run["results"][3]["suppressions"] == [{"kind": "inSource", "justification": 'it is "so"'}]
    path.write_text(text.replace("IPE 400", "IPE 401"), encoding="utf-8")
    assert main(["check", str(path)]) == 1
    assert capsys.readouterr().out.startswith("m.toml:19: error[unknown-name]")
