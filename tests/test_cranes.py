"""Bridge cranes: their loads by hand, by statics, and by changing them."""

import math

import numpy as np
import pytest

from empuje.core.answers.envelope import extremes
from empuje.core.answers.foundations import reaction_envelope
from empuje.core.answers.reactions import closing_error, resultants
from empuje.files.reader import read_text
from empuje.study.decisions import decisions
from empuje.study.study import Study

YARD = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 6, C = 13 }
y = { 1 = 0, 2 = 12 }
z = { base = 0, crane = 5 }
[members.columns]
section = "HEB 260"
material = "S235"
runs = ["A..C / 1,2 / base>crane"]
[members.runway]
section = "HEB 300"
material = "S235"
runs = ["A>>C / 1,2 / crane"]
[[supports]]
at = "*@base"
fix = "fixed"
[cases]
SW = { action = "dead", self_weight = 1 }
Q = { action = "live", use = "office" }
[cranes.CR]
runways = ["runway/1@crane/*", "runway/2@crane/*"]
bridge = "60 kN"
crab = "10 kN"
lifts = "100 kN"
approach = "1 m"
base = "2.5 m"
height = "0.3 m"
"""
EN = 'code = "EN 1991-3"\nhoisting = "HC3"\nhoist_speed = "6 m/min"\nphi_5 = 1.5\ndriven = 2\n'
ASCE = 'code = "ASCE 7-22"\noperated = "cab"\n'


def read(tmp_path, text):
    (tmp_path / "yard.toml").write_text(text, encoding="utf-8")
    return Study.read(tmp_path / "yard.toml", cache=False)


def vehicles(text):
    reading = read_text(text, "yard.toml")
    assert [str(f) for f in reading.findings if f.level == "error"] == []
    return {v.name: v for v in reading.project.traffic[0].vehicles if v.heading >= 0}


def wheels(vehicle):
    """Down, along and to the left (axles, 2) [kN]; the places of axles behind the first [m]."""
    down = np.array([a.wheels for a in vehicle.axles]) / 1e3
    along, left = np.moveaxis(np.array([a.level for a in vehicle.axles]), 2, 0) / 1e3
    return down, along, left, np.cumsum([a.gap[0] for a in vehicle.axles])


def test_groups_1_and_3_by_hand():
    """HC3: phi_2 = 1.15 + 0.51 x 0.1 m/s; the crab 1 m from the left of two rails 12 m apart."""
    down, along, left, _ = wheels(vehicles(YARD + EN)["g1.first"])
    phi_2 = 1.15 + 0.51 * 0.1
    near, far = 1.1 * (30 + 10 * 11 / 12) + phi_2 * 100 * 11 / 12, 1.1 * (30 + 10 / 12) + phi_2 * 100 / 12
    assert down == pytest.approx(np.array([[near, far]] * 2) / 2)
    K = 0.2 * 2 * (30 + 10 / 12) / 2
    assert along == pytest.approx(np.full((2, 2), 1.5 * K / 2 / 2))
    xi = near / (near + far)
    M = K * (xi - 0.5) * 12
    assert left[0] == pytest.approx([-1.5 * xi * M / 2.5, -1.5 * (1 - xi) * M / 2.5]) and left[1] == pytest.approx(
        -left[0]
    )
    down, *_ = wheels(vehicles(YARD + EN)["g3.second"])
    assert down == pytest.approx(np.array([[30 + 10 / 12, 30 + 110 / 12]] * 2) / 2)
    light = wheels(vehicles(YARD + EN)["g1.first.light"])[0]
    assert light.sum() == pytest.approx(0.9 * 70 + phi_2 * 100)


@pytest.mark.parametrize("base", ['"2.5 m"', '["0.7 m", "2.1 m", "0.7 m"]'])
@pytest.mark.parametrize("near", ["first", "second"])
def test_drives_are_the_inertia_of_the_masses(near, base):
    """Their forces at the wheels are phi_5 K forward at the centre of the loads: no more, no other moment."""
    down, along, left, behind = wheels(vehicles((YARD + EN).replace('base = "2.5 m"', f"base = {base}"))[f"g4.{near}"])
    across = np.array([6.0, -6.0])
    centre = (down * across).sum() / down.sum()
    K = 0.2 * 2 * (30 + 10 / 12) / len(down)
    assert along.sum() == pytest.approx(1.5 * K) and left.sum() == pytest.approx(0, abs=1e-12)
    about = (-behind[:, None] * left).sum() - (across * along).sum()
    assert about == pytest.approx(-centre * 1.5 * K)


def test_positions_turn_with_the_crane(tmp_path):
    """Braking pushes the way the crane goes, starting the other way, at the centre of the loads, which stays near the same
    rail whichever way it goes. The first rail is to the left of the way, which so goes along -x here."""
    words = [f"CR@g4.first_8m{way}.{brake}" for way in ("", ".back") for brake in ("braking", "starting")]
    study = read(tmp_path, YARD + EN)
    results = study.under(words)
    put_on, _ = resultants(study.solution(), results)
    put_on = put_on[:, [[r.name for r in results].index(w) for w in words]]
    K, xi = 0.2 * 2 * (30 + 10 / 12) / 2 * 1e3, (30 + 110 * 11 / 12) / 170
    assert put_on[0] == pytest.approx([-1.5 * K, 1.5 * K, 1.5 * K, -1.5 * K]) and put_on[2] == pytest.approx(
        [-170e3] * 4
    )
    assert put_on[1] == pytest.approx([0] * 4, abs=1e-6)
    turning = -(xi - 0.5) * 12 * 1.5 * K
    assert put_on[5] == pytest.approx([turning, -turning, -turning, turning])


def test_what_is_of_one_rail_stays_there(tmp_path):
    """Wheels that can move sideways on the second rail, thrust on the first alone, a hook that comes nearer to the first:
    whichever way the crane goes."""
    for text in (EN + 'movable = "second"\ngroups = [5, 6]\n', ASCE + "thrust = [1, 0]\n"):
        study = read(tmp_path, YARD + text)
        stood = study.under([f"CR@{w}" for w in ("6m.braking", "6m.starting", "6m.back.braking", "6m.back.starting")])
        assert len(stood) > 10
        loads, cases = study.resolved.loads.points, {r.index for r in stood}
        of = np.array(["/2@" in m.name for m in study.project.members])[loads.member] & np.isin(loads.case, list(cases))
        assert not loads.f[of, 1].any() and np.abs(loads.f[~of, 1]).max() > 1e3
    nearer = (YARD + EN + "groups = 4\n").replace('approach = "1 m"', 'approach = ["1 m", "4 m"]')
    by = ends(read(tmp_path, nearer))
    assert by["B1@base"][2, 1] > 1.15 * by["B2@base"][2, 1]


@pytest.mark.parametrize("guide", [0.0, 0.6])
@pytest.mark.parametrize("movable", ["", 'movable = "first"\n', 'movable = "second"\n'])
@pytest.mark.parametrize("base", ["[2.5]", "[0.7, 2.1, 0.7]"])
def test_skewing_balances_itself(guide, movable, base):
    """Guide and friction: no force is left, nor a moment about the guide, and wheels that turn about the same pole slip,
    across, as they are far from it (2.7.4, figure 2.9)."""
    text = (YARD + EN).replace('base = "2.5 m"', f"base = {base}") + f'{movable}guide = "{guide} m"\nskew = 0.01\n'
    states = {n: v for n, v in vehicles(text).items() if n.startswith("g5")}
    held = {'movable = "first"\n': [1], 'movable = "second"\n': [0]}.get(movable, [0, 1])
    assert {n.rsplit("-")[-1] for n in states} == {("first", "second")[k] for k in held} and len(states) == 2 * len(
        held
    )
    f = 0.3 * (1 - math.exp(-250 * 0.01))
    for name, vehicle in states.items():
        down, along, left, behind = wheels(vehicle)
        rail = 0 if name.endswith("first") else 1
        assert not along.any() and left.sum() == pytest.approx(0, abs=1e-9)
        # The guide is at the front, whose moment about itself is nil: so that of friction alone is.
        assert (behind[:, None] * left).sum() == pytest.approx(0, abs=1e-9)
        friction = left.copy()
        S = -np.delete(left, 0, axis=0).sum() if guide else None
        if guide:
            assert left[0, 1 - rail] == 0 and left[0, rail] == pytest.approx(S)
            friction = left[1:]
            down, behind = down[1:], behind[1:]
            pole = np.dot(behind, behind) / behind.sum()
            wanted = -f * down * (1 - behind / pole)[:, None] * np.isin([0, 1], held) * (1 if rail == 0 else -1)
            assert friction == pytest.approx(wanted)
        elif base == "[2.5]":  # flanges of two wheels: the rear ones roll, and half of f Q_r is at the front
            assert left[1] == pytest.approx([0, 0])
            other = [-f * down[0, k] * (k in held) * (1 if rail == 0 else -1) for k in (0, 1)]
            assert left[0, 1 - rail] == pytest.approx(other[1 - rail])
    total = sum(a.load for a in vehicle.axles) / 1e3
    assert total == pytest.approx(170)


def test_crab_buffers_and_what_is_lost():
    text = YARD + EN + "groups = [2, 6, 7, 9]\nreleased = 0.4\nbeta_3 = 0.5\neta = 0.1\n"
    text += 'buffers = { speed = "1 m/s", spring = "500 kN/m", xi_b = 0.75 }\n'
    found = vehicles(text)
    assert wheels(found["g2.first"])[0].sum() == pytest.approx(1.1 * 70 + (1 - 0.4 * 1.5) * 100)
    assert wheels(found["g6.first"])[2].sum() == pytest.approx(0.1 * 110)
    assert (
        wheels(found["g7.second"])[0].sum() == pytest.approx(70 + 10) and not wheels(found["g7.second"])[1:3][1].any()
    )
    down, along, *_ = wheels(found["g9.first"])
    assert along.sum() == pytest.approx((1.25 + 0.7 * 0.25) * 0.7 * math.sqrt(170e3 / 9.80665 * 500e3) / 1e3)
    assert along.sum(0) / along.sum() == pytest.approx(down.sum(0) / down.sum())


def test_asce_by_hand():
    """R = 60/2 + 110 (11/12); 25 % of impact; 20 % of 110 kN across; a tenth of R along; by hand nothing of these."""
    found = vehicles(YARD + ASCE + "thrust = [0.7, 0.3]\n")
    R = 30 + 110 * 11 / 12
    down, along, left, _ = wheels(found["first.across"])
    assert down[:, 0] == pytest.approx([1.25 * R / 2] * 2) and not along.any()
    assert left.sum(0) == pytest.approx([0.7 * 22, 0.3 * 22])
    assert wheels(found["first.along"])[1].sum(0) == pytest.approx([0.1 * R, 0.1 * (170 - R)])
    pendant = vehicles(YARD + ASCE.replace("cab", "pendant"))["second.along"]
    assert wheels(pendant)[0].sum() == pytest.approx(1.1 * 170)
    (left, _) = vehicles(YARD + ASCE.replace("cab", "hand")).values()
    assert wheels(left)[0].sum() == pytest.approx(170) and not np.array([a.level for a in left.axles]).any()


def test_codes_know_cranes(tmp_path):
    """EN: 1.35 where they lead, psi_0 = 1, psi_1 = 0.9, psi_2 = 70/170; ASCE: 1.6 and 1.0 of them."""
    rules = '[combinations]\nrules = ["EN 1990 6.10", "EN 1990 frequent", "EN 1990 quasi-permanent", "ASCE 7-22 strength"]\n'
    study = read(tmp_path, YARD + EN + rules)
    factors = {c.name: dict(c.factors) for c in study.resolved.written}
    both = [f for f in factors.values() if {"Q", "CR"} <= set(f)]
    pairs = {(round(f["Q"], 6), round(f["CR"], 6)) for f in both}
    assert {(1.5, 1.35), (1.05, 1.35), (0.5, round(70 / 170, 6)), (0.3, 0.9), (0.3, round(70 / 170, 6))} <= pairs
    assert sorted({f["CR"] for f in both}) == pytest.approx([70 / 170, 0.9, 1.0, 1.35, 1.6])
    (own,) = [d for d in decisions(study) if d.what.startswith("psi2 in EN 1990 quasi") and "CR" in d.about]
    assert own.taken == f"{70 / 170:g}" and own.why == "from its own weights"
    other = read(tmp_path, YARD + EN + rules + "factors = { psi2 = { crane = 0.77 } }\n")  # which the record names
    assert own.key.startswith("combinations.factors.psi2")
    assert 0.77 in {dict(c.factors).get("CR") for c in other.resolved.written if "quasi" in c.source}
    stated = read(tmp_path, YARD + EN + rules + "values = { gamma_Q = 1.6 }\n")
    assert max(dict(c.factors).get("CR", 0) for c in stated.resolved.written if "EN" in c.source) == pytest.approx(1.44)


def ends(study, along=False):
    """Least and greatest forces (6, 2) `along` the runways, and of reactions (6, 2) at the columns, by name."""
    solution = study.solution()
    moving = [r for r in solution.results if r.moving]
    members = np.array([i for i, m in enumerate(study.project.members) if along and m.family == "runway"])
    by = {}
    if along:
        forces = extremes(solution, moving, members).forces[:, np.arange(6), :, np.arange(6)].swapaxes(0, 1)
        by = {study.project.members[m].name: forces[i] for i, m in enumerate(members)}
    assert closing_error(solution, [r for r in solution.results if not r.moving]).max() < 1e-9
    for node, which, extreme, *rest in zip(
        *(c.values for c in reaction_envelope(solution, moving).columns), strict=True
    ):
        k = ("Fx", "Fy", "Fz", "Mx", "My", "Mz").index(which)
        by.setdefault(node, np.zeros((6, 2)))[k, int(extreme == "max")] = rest[1 + k]
    return by


def less(one, other):
    """Whether no value of one is beyond those of another."""
    for name, (low, high) in ((n, v.T) for n, v in other.items() if n in one):
        near = 1e-8 * max(np.abs(low).max(), np.abs(high).max()) + 1e-3
        if (one[name][:, 1] > high + near).any() or (one[name][:, 0] < low - near).any():
            return False
    return True


def test_however_it_is_written(tmp_path):
    """Runways the other way round or one beam for two spans: the same, and alike on both sides of the yard. A group or a
    crane less, or a hook that comes less near: never more."""
    text = YARD + EN + "groups = [3, 6]\n"
    plain = ends(read(tmp_path, text), True)
    swapped = ends(read(tmp_path, text.replace('1@crane/*", "runway/2@', '2@crane/*", "runway/1@')), True)
    whole = ends(read(tmp_path, text.replace("A>>C", "A>C")))
    assert less(plain, swapped) and less(swapped, plain)
    for name, value in plain.items():
        if "/" not in name:
            assert whole[name] == pytest.approx(value, rel=1e-7, abs=1e-2), name
        other = name.replace("1", "#").replace("2", "1").replace("#", "2")
        even = [2, 4] if "/" in name else [0, 2, 4]
        assert plain[other][even] == pytest.approx(value[even], rel=1e-6, abs=1e-2), name
    only = ends(read(tmp_path, text.replace("[3, 6]", "3")))
    assert less(only, plain) and not less(plain, only)
    far = ends(read(tmp_path, text.replace("[3, 6]", "3").replace('approach = "1 m"', 'approach = "2 m"')))
    assert far["A1@base"][2, 1] < only["A1@base"][2, 1]
    two = ends(read(tmp_path, text.replace("[3, 6]", "3") + 'count = 2\nclear = "3 m"\n'))
    assert less(only, two) and not less(two, only)


def test_a_crane_is_not_copied_in_silence():
    copy = '[[copies]]\nname = "more"\nof = ["columns", "runway"]\nshift = ["30 m", 0, 0]\n'
    found = [f for f in read_text(YARD + EN + copy, "yard.toml").findings if f.code == "crane-not-copied"]
    assert len(found) == 1 and found[0].level == "warning"
    assert not [
        f for f in read_text(YARD + EN + copy + "loads = false\n", "yard.toml").findings if f.code == "crane-not-copied"
    ]


@pytest.mark.parametrize(("old", "new", "code", "words"), [
    ('runways = ["runway/1@crane/*", "runway/2@crane/*"]', 'runways = ["runway/1@crane/*"]', "bad-way", "name both"),
    ('"runway/2@crane/*"]', '"columns/A2/*"]', "bad-way", "straight, level, parallel"),
    ('"runway/2@crane/*"]', '"runway/1@crane/A-B"]', "bad-way", "in both"),
    ('"runway/2@crane/*"]', '"runway/3*"]', "matches-nothing", "runway/3"),
    ('approach = "1 m"', 'approach = "7 m"', "bad-quantity", "beyond the middle"),
    ('lifts = "100 kN"', 'lifts = "100 m"', "bad-quantity", "force"),
    ("phi_5 = 1.5\n", "", "missing-key", "table 2.6"),
    ('hoisting = "HC3"\n', "", "missing-key", "phi_2"),
    ('bridge = "60 kN"\ncrab = "10 kN"', "bridge = 0\ncrab = 0", "bad-quantity", "weighs nothing"),
    ("driven = 2\n", "driven = 2.5\n", "bad-quantity", "driven"),
    ("driven = 2\n", "driven = 2\ngroups = [1, 8]\n", "bad-quantity", "tests (8)"),
    ("driven = 2\n", "driven = 2\ngroups = 9\n", "missing-key", "buffers"),
    ("driven = 2\n", "driven = 2\ngroups = [2]\n", "missing-key", "released"),
    ("driven = 2\n", 'driven = 2\noperated = "cab"\n', "unknown-key", "operated"),
    ('code = "EN 1991-3"', 'code = "EN 1991-2"', "unknown-word", "EN 1991-3"),
])  # fmt: skip
def test_what_is_wrong_is_said(old, new, code, words):
    text = YARD + EN
    assert old in text
    errors = [f for f in read_text(text.replace(old, new), "yard.toml").findings if f.level == "error"]
    assert any(f.code == code and words in f"{f.message} {f.remedy}" for f in errors), [str(f) for f in errors]


def placed(angle=0.0, mirror=1.0, unit="m", off=0.0):
    """The yard by its nodes: turned, mirrored, in another unit, its coordinates rounded off by so much [m]."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    size = {"m": 1.0, "ft": 0.3048}[unit]
    rng = np.random.default_rng(3)
    nodes, pieces = "", {"columns": "", "runway": ""}
    for k, y in ((1, 0.0), (2, 12.0)):
        for a, x in (("A", 0.0), ("B", 6.0), ("C", 13.0)):
            for level, z in (("base", 0.0), ("crane", 5.0)):
                at = np.array([c * x - s * mirror * y, s * x + c * mirror * y, z]) + off * rng.uniform(-1, 1, 3)
                nodes += f"{a}{k}{level} = {[float(v) for v in at / size]}\n"
            pieces["columns"] += f'{a}{k} = "{a}{k}base > {a}{k}crane"\n'
        pieces["runway"] += f'AB{k} = "A{k}crane > B{k}crane"\nBC{k} = "B{k}crane > C{k}crane"\n'
    head, tail = YARD.split("[grid]")[0], YARD[YARD.index("[[supports]]") :]
    members = "".join(
        f'[members.{f}]\nsection = "{"CHS 323.9x8" if f == "columns" else "HEB 300"}"\nmaterial = "S235"\n[members.{f}.pieces]\n{rows}'
        for f, rows in pieces.items()
    )
    tail = tail.replace('at = "*@base"', 'at = "*base"')
    tail = tail.replace('["runway/1@crane/*", "runway/2@crane/*"]', '["runway/*1", "runway/*2"]')
    return head.replace("kN m", f"kN {unit}") + f"[nodes]\n{nodes}" + members + tail + EN + "groups = [3, 5]\n"


@pytest.mark.parametrize("how", [{"angle": 33.0}, {"angle": 90.0}, {"mirror": -1.0}, {"unit": "ft"}, {"off": 1e-9},
                                 {"angle": 123.0, "unit": "ft", "off": 1e-7}])  # fmt: skip
def test_wherever_the_yard_lies(how, tmp_path):
    """Vertical reactions, and those by size across, are the same."""
    plain, other = (ends(read(tmp_path, placed(**h))) for h in ({}, how))
    loose = 1e-4 if how.get("off", 0) > 1e-8 else 1e-6
    for name, value in plain.items():
        assert other[name][2] == pytest.approx(value[2], rel=loose), name
