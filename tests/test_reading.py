"""From text to project: runs, names, selectors, and every fault found in one pass."""

import copy
import random

import numpy as np
import pytest

from empuje.core.analysis.applied import applied
from empuje.core.analysis.solve import Unstable, solve
from empuje.core.answers.reactions import closing_error
from empuje.core.model.results import names as called
from empuje.files.base.result_selectors import results_meant
from empuje.files.base.selectors import NothingMeant, pick
from empuje.files.base.toml_text import parse
from empuje.files.frame.grid import RunError, expand_run
from empuje.files.reader import UnusableFile
from models import PORTAL, project, reading, solution

LINES = {"x": ["A", "B", "C"], "y": ["1", "2"], "z": ["base", "mezz", "eave"]}


@pytest.mark.parametrize(
    ("run", "names"),
    [
        ("A,C / 1 / base>eave", ["A1/base-eave", "C1/base-eave"]),
        ("A..C / 2 / base>>eave", [f"{x}2/{z}" for x in "ABC" for z in ("base-mezz", "mezz-eave")]),
        ("C>>A / 2 / mezz", ["2@mezz/C-B", "2@mezz/B-A"]),
        ("A / 1>2 / eave>base", ["A/1@eave-2@base"]),
        ("A>B / 1>2 / mezz", ["@mezz/A1-B2"]),
        ("A>B / 1>2 / base>mezz", ["A1@base-B2@mezz"]),
        ("A>B>C / 1 / mezz", ["1@mezz/A-B", "1@mezz/B-C"]),
    ],
)
def test_runs_name_their_members_after_where_they_are(run, names):
    assert [m.name for m in expand_run(run, LINES)] == names


@pytest.mark.parametrize(
    ("run", "says"),
    [
        ("A / 1", "2 parts"),
        ("A / 1 / base", "goes nowhere"),
        ("A>>C / 1>2 / base", "step differently"),
        ("A>D / 1 / base", "no grid line x 'D'"),
        ("A,B>C / 1 / base", "mixes"),
        ("A>A / 1 / base", "to itself"),
    ],
)
def test_runs_that_cannot_be_laid(run, says):
    with pytest.raises(RunError, match=says):
        expand_run(run, LINES)


def test_a_plane_run_and_node_between():
    text = """
[project]
units = "kN m"
space = "plane"
[grid]
x = { A = 0, B = "20 ft" }
z = { base = 0, top = 3 }
[nodes]
K = { between = ["A@top", "B@top"], at = "25%" }
M = { between = ["A@top", "B@top"], at = "1 m" }
[members.c]
section = "HEB 200"
material = "S235"
runs = ["A,B / base>top"]
[members.b]
section = "IPE 200"
material = "S235"
pieces = { T = "A@top > B@top" }
[[supports]]
at = ["*@base", "!B*"]
fix = "x z ry"
[[supports]]
at = "B@base"
fix = "pinned"
[cases]
Q = { action = "live" }
[loads]
Q = [ { on = "K", force = 4 } ]
"""
    s = solution(text)
    names = {n.name: n.xyz for n in s.project.nodes}
    assert names["K"] == pytest.approx((0.25 * 6.096, 0, 3)) and names["M"] == pytest.approx((1, 0, 3))
    assert len(s.mesh.member) == 5 and [m.name for m in s.project.members] == ["c/A/base-top", "c/B/base-top", "b/T"]
    assert s.held.sum() == 5 and s.reaction[:, 2, 0].sum() == pytest.approx(4e3)


def test_selectors():
    names = ["c/A1/0-1", "c/A2/0-1", "b/1/A-B"]
    assert pick(["c/A*", "!c/A2*"], names) == ([0], [])
    assert pick(["!c/*"], names) == ([2], [])
    assert pick(["c/A3/0-1", "b/*"], names) == ([2], ["c/A3/0-1"])
    frame = reading(PORTAL)
    assert len(frame.names.members_meant(["rafters", "ties", "!rafters/2/*"])) == 4
    nodes, members, missed = frame.names.select(["A1@eave", "*2@base"])
    assert {frame.names.nodes[i] for i in nodes} == {"A1@eave", "A2@base", "C2@base"} and members == missed == []
    with pytest.raises(NothingMeant, match=r"rafers.*did you mean rafters"):
        frame.names.members_meant(["rafers"])
    assert called(results_meant(frame.resolved, ["strength", "G"])) == ["G", "U1", "U2"]
    assert called(results_meant(frame.resolved, ["combinations", "!U*"])) == ["S1"]
    assert called(results_meant(frame.resolved, ["!U*", "!cases"])) == ["S1"]
    assert called(results_meant(frame.resolved, [])) == ["G", "Q", "W", "U1", "U2", "S1"]
    with pytest.raises(NothingMeant, match="no case, combination or set U3"):
        results_meant(frame.resolved, ["U3"])


def test_loads_in_mixed_units_add_up_by_hand():
    """The same frame in kip and ft: totals of each case by hand, and equal results in SI."""
    metric = solution(PORTAL)
    L = np.hypot(6, 1.5)
    members = metric.project.members
    steel = (
        sum(m.section.A * length for m, length in zip(members, metric.project.lengths, strict=True)) * 7850 * 9.80665
    )
    assert applied(metric)[2, 0] == pytest.approx(-(4 * L * 2100 + steel), rel=1e-12)
    assert applied(metric)[2, 1] == pytest.approx(-4 * 2000 * (0.6 * L - 1) * 6 / L, rel=1e-12)
    assert applied(metric)[[0, 4], 2] == pytest.approx([10e3, 4 * 3e3 + 10e3 * 4], rel=1e-12)
    feet = PORTAL.replace('units = "kN m"', 'units = "kip ft"')
    for old, new in (
        ("A = 0, B = 6, C = 12", 'A = "0 in", B = "6000 mm", C = "12 m"'),
        ("2 = 5", '2 = "5 m"'),
        ("eave = 4, ridge = 5.5", 'eave = "4 m", ridge = "550 cm"'),
        ("moment = 3,", 'moment = "3 kN*m",'),
        ('"25%", 2]', '"25%", "2 m"]'),
    ):
        assert old in feet
        feet = feet.replace(old, new)
    same = solution(feet)
    assert np.abs(same.displacement - metric.displacement).max() < 1e-10 * np.abs(metric.displacement).max()


def test_ten_faults_get_ten_findings_with_their_lines():
    broken = PORTAL
    faults = [
        ('section = "HEB 200"', 'section = "HEB 205"', "unknown-name", "HEB 200"),
        ('runs = ["A>B / 1,2 / eave>ridge"', 'runs = ["A>D / 1,2 / eave>ridge"', "bad-run", "grid line x 'D'"),
        ('ends = "hinged"', 'ends = "hinge"', "unknown-word", "hinged"),
        ('fix = "fixed"', 'fix = "fixd"', "unknown-word", "pinned"),
        ('Q = { action = "live" }', 'Q = { action = "live", titel = "x" }', "unknown-key", "did you mean title"),
        ('line = "0.35*6.0 kN/m"', 'line = "0.35*6.0 kN"', "bad-quantity", "a force, not a force per length"),
        ('on = "rafters/*"', 'on = "rafter/*"', "matches-nothing", "rafters"),
        ('to = "60%"', 'to = "160%"', "bad-position", "beyond the end"),
        ('dir = "+x"', 'dir = "x"', "unknown-word", r"\+x"),
        ("0.5 Q - 1.0 W", "0.5 Q - 1.0 WX", "unknown-name", "did you mean W"),
    ]
    for old, new, _, _ in faults:
        assert broken.count(old) == 1, old
        broken = broken.replace(old, new)
    found = reading(broken)
    assert not found.sound
    errors = [f for f in found.findings if f.level == "error"]
    assert len(errors) == 10
    for _, new, code, says in faults:
        line = 1 + broken[: broken.index(new)].count("\n")
        match = [f for f in errors if f.place.line == line and f.code == code]
        assert len(match) == 1, (line, code)
        import re

        assert re.search(says, str(match[0])), str(match[0])


@pytest.mark.parametrize(
    ("old", "new", "code"),
    [
        ("eave = 4,", "eave = 0.0005,", "same-place"),
        ("eave = 4,", 'eave = "4 km", top = "400 km",', "too-far"),
        ('G + Q"', 'G + Q + QQ"', "unknown-name"),
        ("S1 = {", "Q = {", "name-clash"),
        ("[cases]", "[case]", "unknown-key"),
        ('at = ["25%", 2]', 'at = ["25%", 9]', "position-off-member"),
        ('moment = 3, dir = "+y",', "moment = 3,", "missing-key"),
        ('force = "5 kN"', 'force = "5 kN", line = 3', "which-load"),
        ('from = "1 m"', 'from = "5 m"', "positions-in-reverse"),
        ('dir = "+x" }', 'dir = "local x" }', "wrong-key"),
        ('on = "A*@eave"', 'on = ["A*@eave", "ties"]', "mixed-on"),
        ('at = "*@base"', 'at = "*@bse"', "matches-nothing"),
        ("[members.ties]", "[members.Q]", "name-clash"),
        ('"C>B / 1,2', '"A>B / 1,2 / eave>ridge", "C>B / 1,2', "name-clash"),
        ('"kN m"', '"kM m"', "bad-units"),
        ("[grid]", "[nodes]\nN1 = [0, 0]\n[grid]", "bad-node"),
        ("[grid]", "[nodes]\nA1@eave = [0, 0, 0]\n[grid]", "TOML"),
        ("[grid]", "[nodes]\nN1 = [0, 0, 4]\n[grid]", "same-place"),
        ("self_weight = 1.0", 'self_weight = "heavy"', "bad-quantity"),
        ("[grid]", '[sections]\nr = { shape = "I", h = 200, b = "1 mm" }\n[grid]', "missing-key"),
        ("[loads]", "[loads", "TOML"),
        ('material = "S235"\nends', 'material = "S2355"\nends', "unknown-name"),
        ("2 = 5 }", "2 = 5, 2b = 5 }", "same-place"),
    ],
)
def test_each_slip_is_found(old, new, code):
    assert old in PORTAL
    text = PORTAL.replace(old, new, 1)
    if code == "TOML":
        with pytest.raises(UnusableFile, match=r"model.toml:\d+: error.*not TOML"):
            reading(text)
        return
    found = reading(text)
    assert code in {f.code for f in found.findings if f.level == "error"}, "\n".join(map(str, found.findings))


def test_one_broken_run_does_not_make_ten_more_errors():
    """What could only have been missed because its family was not laid is not reported on top."""
    found = reading(
        PORTAL.replace("A>B / 1,2 / eave>ridge", "A>D / 1,2 / eave>ridge").replace("C>B / 1,2", "C>D / 1,2")
    )
    assert [f.code for f in found.findings if f.level == "error"] == ["bad-run", "bad-run"]


def test_warnings_and_notes():
    text = (
        PORTAL.replace("[grid]", "[nodes]\nN1 = [1, 1, 9]\n[grid]")
        .replace(
            "[[supports]]",
            '[members.x]\nsection = "IPE 80"\nmaterial = "S235"\nruns = ["A>C / 1>2 / eave", "C>A / 1>2 / eave"]\n[[supports]]',
        )
        .replace("[combinations.custom]", "[combinations.custom]\n")
        .replace("W = { action", 'E = { action = "seismic" }\nW = { action')
    )
    found = reading(text)
    assert found.sound
    assert {(f.level, f.code) for f in found.findings} == {
        ("warning", "unused-node"),
        ("note", "unjoined-crossing"),
        ("warning", "empty-case"),
        ("note", "uncombined-case"),
    }
    lost = reading(text.replace('on = "A*@eave"', 'on = "N1"'))
    assert [f.code for f in lost.findings if f.level == "error"] == ["unused-node"]


def test_line_numbers_survive_awkward_toml():
    text = '# c\n[a]\nt = """x\n[b]\n"""  # ]\n[[c]]\nk = [1, # ,\n "}", [\n2 ] ]\n[[c]]\n"q r".s = 1979-05-27 07:32:00\nd = { e = \'#\', f = [1] }\n'
    _, lines = parse(text.replace("\n", "\r\n"))
    assert lines["a", "t"] == 3 and lines["c", 0] == 6 and lines["c", 0, "k", 1] == 8 and lines["c", 0, "k", 2, 0] == 9
    assert lines["c", 1, "q r", "s"] == 11 and lines["c", 1, "d", "f", 0] == 12


def test_a_section_by_its_area_is_for_bars_only():
    bars = PORTAL.replace(
        '[members.ties]\nsection = "IPE 200"', '[sections]\nrod = { A = "5 cm2" }\n[members.ties]\nsection = "rod"'
    )
    assert [f.code for f in reading(bars).findings] == ["missing-key"]
    assert pytest.approx(5e-4) == project(bars.replace('ends = "hinged"', "bar = true")).members[-1].section.A


ODD = [
    "",
    "*",
    "!*",
    "0",
    0,
    -1,
    1e308,
    float("nan"),
    10**400,
    True,
    [],
    {},
    [[]],
    [1, 2, 3],
    [["0%", 1]],
    "-1 m",
    "1 km",
    "160%",
    "A>B",
    "//",
    "A1@eave",
    "columns/*",
    "local z",
    "\x00",
    "a" * 300,
]


def spots(data, path=()):
    """Every place in a nested document."""
    inner = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    return [spot for k, v in inner for spot in [(*path, k), *spots(v, (*path, k))]]


REPEATED = """
[values]
q = "2*p"
p = "1.5 kN/m"
[plausible]
line = "20 kN/m"
[[accepted]]
finding = "one-without-load"
on = "rafters/*"
reason = "so it is"
[[copies]]
name = "far"
of = ["*/*"]
turn = "33 deg"
about = [40, 10]
times = 2
[[copies]]
name = "back"
of = ["columns", "rafters/*~far1"]
mirror = { through = ["A1@base", [3, 40]] }
loads = ["G"]
"""


@pytest.mark.parametrize("seed", range(90))
def test_no_slip_anywhere_ends_in_a_traceback(seed, monkeypatch):
    """Values replaced, dropped and moved at random: findings or a balanced solution, nothing else."""
    rng = random.Random(seed)
    data, lines = parse(PORTAL + (REPEATED if seed % 3 == 0 else ""))
    for _ in range(rng.choice([1, 1, 2])):
        own = [spot for spot in spots(data) if seed % 3 or spot[0] in ("values", "plausible", "accepted", "copies")]
        if not own:
            break
        *path, last = rng.choice(own)
        table = data
        for key in path:
            table = table[key]
        if rng.random() < 0.2:
            table.pop(last)
        else:
            table[last] = rng.choice([copy.deepcopy(rng.choice(ODD)), rng.uniform(-9, 9), rng.choice([*data])])
    monkeypatch.setattr("empuje.files.reader.parsed", lambda *_: (data, lines))
    found = reading("")
    if not found.sound:
        assert any(f.level == "error" and f.message for f in found.findings)
        return
    try:
        s = solve(found.resolved)
    except Unstable as error:
        assert error.findings
        return
    assert closing_error(s, s.model.cases).max(initial=0) < 1e-9
