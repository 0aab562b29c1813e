"""Buildings with walls in the wind: zones, pressures and forces from the codes' formulas, at any angle in plan."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from build import named
from empuje.core.actions.totals import applied_totals
from empuje.core.answers.surfaces import surface_balance
from empuje.core.answers.wind import wind_totals
from models import reading, resolved
from winds import SITE, blown, by_zone, hall, pieces

FOOT = 0.3048


def of_case(rows, case):
    return rows.take(rows.case == case)


def q_22(z, V=50.0):
    """ASCE 7-22, exposure C, without K_d [kN/m2]."""
    return 0.613e-3 * 2.41 * (max(z, 15 * FOOT) / (2460 * FOOT)) ** (2 / 9.8) * V**2


def q_16(z, V=50.0):
    """ASCE 7-16, exposure B, with K_d [kN/m2]."""
    return 0.613e-3 * 2.01 * (max(z, 15 * FOOT) / (1200 * FOOT)) ** (2 / 7) * 0.85 * V**2


def q_en(z, v=25.0, z_0=0.3, z_min=5.0):
    """EN, terrain III [kN/m2]."""
    log = math.log(max(z, z_min) / z_0)
    return (1 + 7 / log) * 0.5e-3 * 1.25 * (0.19 * (z_0 / 0.05) ** 0.07 * log * v) ** 2


def total(model, case):
    """Resultant of a case about the origin [kN, kN m]."""
    project = model.project
    return applied_totals(project, model.loads, np.zeros(3), model.load_columns)[:, named(model, case).index] / 1e3


EDITIONS = pytest.mark.parametrize(("site", "q", "K_d"), [("ASCE 7-22", q_22, 0.85), ("ASCE 7-16", q_16, 1.0)])


@EDITIONS
def test_a_gable_hall_by_asce(site, q, K_d):
    """30 m by 20 m, eave 6 m, ridge 9 m (16.7 degrees): h = 7.5 m. Across the ridge h/L = 0.375, along it 0.25."""
    model = resolved(hall(site))
    slope, h = math.degrees(math.atan(0.3)), 7.5
    p_h, p_i = K_d * q(h), 0.18 * K_d * q(h)
    share = (slope - 15) / 5
    low = np.mean([-0.5 + share * 0.2, -0.7 + share * 0.3])  # h/L 0.25 and 0.5, half way
    high = (max(share * 0.2, 0) + max(-0.18 + share * 0.18, 0)) / 2
    lee = -0.5 - share * 0.1
    roof = 30 * math.hypot(10, 3)
    wall = quad(q, 0, 6, points=[15 * FOOT])[0] * K_d * 0.85 * 0.8 * 30
    for case, C, p in (("WY1ap", low, p_i), ("WY1an", low, -p_i), ("WY1bn", high, -p_i)):
        zones = by_zone(model, case)
        assert zones["roof-s", "windward slope"][0] == pytest.approx(roof)
        assert zones["roof-s", "windward slope"][1] == pytest.approx(C, abs=1e-9)
        assert zones["roof-s", "windward slope"][2] / 1e3 == pytest.approx(0.85 * C * p_h - p, rel=1e-9)
        assert zones["roof-n", "leeward slope"][2] / 1e3 == pytest.approx(0.85 * lee * p_h - p, rel=1e-9)
        assert zones["wall-n", "leeward wall"][1] == -0.5  # L/B = 2/3
        assert zones["wall-w", "side wall"][2] / 1e3 == pytest.approx(-0.85 * 0.7 * p_h - p, rel=1e-9)
        along = wall + 0.85 * 0.5 * p_h * 180 + 0.85 * (C - lee) * p_h * 30 * 3
        up = -(0.85 * (C + lee) * p_h - 2 * p) * 300
        assert total(model, case)[[0, 1, 2]] == pytest.approx([0, along, up], rel=5e-4, abs=1e-6)
    zones = by_zone(model, "WX1ap")
    assert zones["wall-e", "leeward wall"][1] == pytest.approx(-0.4)  # L/B = 1.5
    bounds = {
        "roof to h/2": (-0.9, 3.75),
        "roof h/2 to h": (-0.9, 3.75),
        "roof h to 2h": (-0.5, 7.5),
        "roof beyond 2h": (-0.3, 15),
    }
    for name, (C, depth) in bounds.items():
        area, found, p = zones["roof-s", name]
        assert (found, area) == (C, pytest.approx(depth * roof / 30))
        assert p / 1e3 == pytest.approx(0.85 * C * p_h - p_i, rel=1e-9)
    assert by_zone(model, "WX1bp")["roof-n", "roof to h/2"][1] == -0.18


@EDITIONS
def test_a_flat_roofed_tower_by_asce(site, q, K_d):
    """45 m tall, 15 m by 15 m, h/L = 3: the wall's force is the integral of q_z over it, and its moment that of q_z z."""
    model = resolved(hall(site, 15, 15, 45, 45, wind='variants = ["1*", "min"]'))
    force, lever = (
        0.85 * K_d * (0.8 * quad(lambda z, k=k: q(z) * z**k, 0, 45, points=[15 * FOOT])[0] * 15 + 0.5 * q(45) * 15 * 45 ** (k + 1) / (k + 1))
        for k in (0, 1)
    )  # fmt: skip
    found = total(model, "WX1bp")
    assert found[0] == pytest.approx(force, rel=5e-4)
    roof = 15 * 15 * (0.18 * 0.85 * K_d * q(45) + 0.18 * K_d * q(45))
    assert found[2] == pytest.approx(roof, rel=1e-9)
    assert found[4] == pytest.approx(lever - roof * 7.5, rel=5e-4)
    zones = by_zone(model, "WX1ap")
    assert zones["roof-n", "roof to h/2"][:2] == (pytest.approx(7.5 * 15), -1.3)
    assert by_zone(resolved(hall(site, 15, 15, 45, 45, wind="reduce_by_area = true")), "WX1ap")[
        "roof-n", "roof to h/2"
    ][1] == pytest.approx(-1.3 * 0.8)
    # By the code's steps each has the pressure of its top.
    steps = resolved(hall(site, 15, 15, 45, 45, wind='profile = "steps"\nvariants = "1*"'))
    feet = [0, 15, 20, 25, 30, 40, 50, 60, 70, 80, 90, 100, 120, 140, 160]
    tops = [q(min(t * FOOT, 1e9)) * (min(t * FOOT, 45) - f * FOOT) for f, t in pairwise(feet) if f * FOOT < 45]
    wall = 0.85 * K_d * (0.8 * 15 * sum(tops) + 0.5 * q(45) * 15 * 45)
    assert total(steps, "WX1bp")[0] == pytest.approx(wall, rel=1e-9) and wall > force
    # 27.1.5: 0.77 kN/m2 on the wall, 0.38 on what is seen of a roof: here nothing.
    assert total(model, "WXmin")[:3] == pytest.approx([0.77 * 15 * 45, 0, 0], rel=1e-9)
    assert total(resolved(hall(site)), "WYmin")[:3] == pytest.approx([0, 0.77 * 180 + 0.38 * 90, 0], rel=1e-9, abs=1e-9)


def test_load_cases_of_figure_27_3_8():
    """2 and 4: the very loads scaled across the building, their sum and direction kept, their lever arm 0.15 B; 3 and 4: two
    winds at once, with the walls of both and the roof of the first."""
    model = resolved(hall("ASCE 7-22", 30, 20, 6, 6))
    one, two = total(model, "WX1ap"), {s: total(model, f"WX2ap{s}") for s in "lr"}
    centre = one[0] * 10.0  # Mz of a force along x at y = 10 m is -10 F
    assert one[5] == pytest.approx(-centre, rel=1e-9)
    for sign, found in ((1, two["l"]), (-1, two["r"])):
        assert found[:3] == pytest.approx(0.75 * one[:3], rel=1e-9, abs=1e-9)
        assert found[5] == pytest.approx(-0.75 * one[0] * (10 + sign * 0.15 * 20), rel=1e-9)
    still = resolved(hall("ASCE 7-22", 30, 20, 6, 6, wind="GC_pi = 0"))
    loads = still.loads.lines
    lines = of_case(loads, named(still, "WX2al").index)
    ratio = {}
    for kind, rows in (("whole", of_case(loads, named(still, "WX1a").index)), ("moved", lines)):
        posts = np.flatnonzero(np.abs(rows.q0[:, 0]) > 1e-6)
        for r in posts:
            key = still.project.members[rows.member[r]].name
            ratio.setdefault(key, {}).setdefault(kind, 0.0)
            ratio[key][kind] += (rows.s1[r] - rows.s0[r]) * (rows.q0[r, 0] + rows.q1[r, 0]) / 2
    # Three posts a wall with shares 1/4, 1/2, 1/4: 1 + b t with b = 12 e/B^2 * (1/12) / (1/8) for such a wall.
    scale = {k: v["moved"] / v["whole"] for k, v in ratio.items()}
    b = 3.0 / (2 * 0.25 * 10**2)
    for row, factor in (("n", 0.75 * (1 + b * 10)), ("m", 0.75), ("s", 0.75 * (1 - b * 10))):
        assert scale[f"frame/c{row}0"] == pytest.approx(factor, rel=1e-9) == scale[f"frame/c{row}1"]
    y = total(model, "WY1ap")
    both, other = total(model, "WXWY3ap"), total(model, "WYWX3ap")
    assert both[:2] == pytest.approx([0.75 * one[0], 0.75 * y[1]], rel=1e-9)
    assert other[:2] == pytest.approx(both[:2], rel=1e-9) and other[2] == pytest.approx(0.75 * y[2], rel=1e-9)
    turned = total(model, "WXWY4apl")
    assert turned[:2] == pytest.approx(0.563 / 0.75 * both[:2], rel=1e-9)
    twist = turned[5] - 0.563 / 0.75 * both[5]
    assert twist == pytest.approx(-0.563 * (one[0] * 0.15 * 20 + y[1] * 0.15 * 30), rel=1e-9)
    assert len(model.wind.rule.cases) == 4 * 2 + 8 * 2 + 4 * 2 + 8 * 2 + 2
    tower = resolved(hall("ASCE 7-16", 12, 12, 60, 60, wind='G = "flexible"\nn_1 = "0.8 Hz"\ne_R = "3 m"'))
    moved, e = total(tower, "WX2apl"), tower.wind.blown[0].met[0].e
    assert 0.15 * 12 < e < 3 and moved[5] == pytest.approx(-moved[0] * (6 + e), rel=1e-9)
    told = [s.steps for s in tower.loads.sources if s.case == "WX2apl" and "windward wall" in s.text]
    assert told and all(any(k.clause == "(27.3-4)" and k.value == e for k in steps) for steps in told)


def test_an_en_duopitch_hall():
    """30 m by 20 m by 9 m, 16.7 degrees: e = min(b, 2h) = 18 m. Zones F to J across the ridge, and A to C along the walls."""
    model = resolved(hall("EN"))
    q, slope = q_en(9.0), math.degrees(math.atan(0.3))
    share = (slope - 15) / 15
    tilt = math.hypot(10, 3) / 10
    F = (-0.9 + share * 0.4, 0.2 + share * 0.5)
    J, I = (-1.0 + share * 0.5, 0.0), (-0.4, 0.0)  # noqa: E741
    areas = {("roof-s", "roof F"): 2 * 4.5 * 1.8, ("roof-s", "roof G"): 21 * 1.8, ("roof-s", "roof H"): 30 * 8.2,
             ("roof-n", "roof J"): 30 * 1.8, ("roof-n", "roof I"): 30 * 8.2}  # fmt: skip
    for case, front, behind in (("WYap", 0, 0), ("WYbp", 1, 1), ("WYcp", 0, 1), ("WYdp", 1, 0)):
        zones = by_zone(model, case)
        for key, area in areas.items():
            assert zones[key][0] == pytest.approx(area * tilt, rel=1e-6)
        assert zones["roof-s", "roof F"][1] == pytest.approx(F[front], abs=1e-9)
        assert zones["roof-n", "roof J"][1] == pytest.approx(J[behind], abs=1e-9)
        assert zones["roof-n", "roof I"][1] == pytest.approx(I[behind], abs=1e-9)
        assert zones["roof-s", "roof F"][2] / 1e3 == pytest.approx(q * (F[front] - 0.2), rel=1e-9)
    assert by_zone(model, "WYan")["wall-s", "wall D"][2] / 1e3 == pytest.approx(
        q * (0.7 + (0.45 - 0.25) / 7.5 + 0.3), rel=1e-9
    )
    zones = by_zone(model, "WYap")  # d = 20 > e: A e/5, B to e, C the rest; the gable's area by its own outline
    height = lambda y: 6 + 0.3 * min(y, 20 - y)  # noqa: E731
    for name, a, b, C in (("A", 0, 3.6, -1.2), ("B", 3.6, 18, -0.8), ("C", 18, 20, -0.5)):
        assert zones["wall-e", f"wall {name}"][0] == pytest.approx(quad(height, a, b, points=[10])[0], rel=1e-6)
        assert zones["wall-e", f"wall {name}"][1] == C
    zones = by_zone(model, "WXap")  # along the ridge, e = 18 m: F G to 1.8 m, H to 9 m
    assert zones["roof-s", "roof F"][:2] == (
        pytest.approx(4.5 * tilt * 1.8),
        pytest.approx(-1.3 + share * 0.2, abs=1e-9),
    )
    assert zones["roof-n", "roof G"][0] == pytest.approx(5.5 * tilt * 1.8)
    assert zones["roof-n", "roof H"][0] == pytest.approx(10 * tilt * 7.2)


def test_an_en_block_taller_than_wide():
    """50 m tall, 15 m by 15 m: D with q_p(15) below 15 m, that of each height up to 35 m, and q_p(50) above (figure 7.4)."""
    model = resolved(hall("EN", 15, 15, 50, 50, wind="c_pi = 0"))
    E = -0.5 - 0.2 * (50 / 15 - 1) / 4

    def wall(k):
        ends = [(q_en(15), 0, 15), (q_en(50), 35, 50)]
        middle = quad(lambda z: q_en(z) * z**k, 15, 35)[0]
        return middle + sum(q * (b ** (k + 1) - a ** (k + 1)) / (k + 1) for q, a, b in ends)

    found = total(model, "WXa")
    assert found[0] == pytest.approx(15 * (0.8 * wall(0) - E * q_en(50) * 50), rel=5e-4)
    roof = sum(
        by_zone(model, "WXa")[s, z][0] * by_zone(model, "WXa")[s, z][2] for s, z in by_zone(model, "WXa") if "roof" in z
    )
    assert found[2] == pytest.approx(-roof / 1e3, rel=1e-9)
    kept = resolved(hall("EN", 15, 15, 50, 50, wind="c_pi = 0\ncorrelation = true"))
    factor = 0.85 + 0.15 * (50 / 15 - 1) / 4
    assert total(kept, "WXa")[0] == pytest.approx(factor * found[0], rel=1e-9)
    twisted = resolved(hall("EN", 15, 15, 50, 50, wind="c_pi = 0\neccentricity = 0.1"))
    assert total(twisted, "WXal")[5] == pytest.approx(-found[0] * (7.5 + 1.5), rel=1e-9)
    assert [(s.value, s.clause) for s in twisted.wind.blown[0].met[0].of_e] == [(1.5, "7.1.2")]
    zones = by_zone(model, "WXa")  # e = b = 15 m: F to 1.5 m and e/4 from both sides, H to 7.5 m
    for name, area, C in (
        ("F", 2 * 3.75 * 1.5, -1.8),
        ("G", 7.5 * 1.5, -1.2),
        ("H", 15 * 6, -0.7),
        ("I", 15 * 7.5, -0.2),
    ):
        found = [zones[s, f"roof {name}"] for s in ("roof-s", "roof-n") if (s, f"roof {name}") in zones]
        assert (sum(v[0] for v in found), found[0][1]) == (pytest.approx(area), C)
    # A flat roof with parapets: F, G fall with h_p/h; I has both signs.
    edged = by_zone(resolved(hall("EN", 15, 15, 50, 50, wind="h_p = 2.5")), "WXap")
    assert edged["roof-s", "roof F"][1] == -1.4 and edged["roof-s", "roof G"][1] == -0.9


@pytest.mark.parametrize("site", [*SITE])
def test_turned_by_33_degrees_members_carry_the_same(site):
    """The whole building turned in plan: every member the same loads, in axes that turn with it, in every case."""
    upright, turned = (resolved(hall(site, 30, 20, 6, 9, a, over=1.2)) for a in (0.0, 33.0))
    c, s = math.cos(math.radians(33)), math.sin(math.radians(33))
    back = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
    assert upright.project.case_names == turned.project.case_names and len(upright.project.cases) > 15
    for case in range(len(upright.project.cases)):
        sums = []
        for model, axes in ((upright, np.eye(3)), (turned, back)):
            rows = of_case(model.loads.lines, case)
            force = (rows.s1 - rows.s0)[:, None] * (rows.q0 + rows.q1) / 2 @ axes.T
            turning = (
                (rows.s1 - rows.s0)[:, None]
                * ((rows.s0 + 2 * rows.s1)[:, None] * rows.q1 + (2 * rows.s0 + rows.s1)[:, None] * rows.q0)
                / 6
            )
            both = np.zeros((len(model.project.members), 6))
            np.add.at(both, rows.member, np.hstack([force, turning @ axes.T]))
            sums.append(both)
        np.testing.assert_allclose(sums[0], sums[1], atol=1e-6 * np.abs(sums[0]).max())


@pytest.mark.parametrize("site", [*SITE])
def test_zones_cover_the_surfaces_and_members_receive_their_force(site):
    """In every case: zones of a surface add up to its area, p A = F, and members receive it, to 1e-9."""
    model = resolved(hall(site, 23.4, 17.1, 5.3, 8.9, 12.0, more='[cases]\nG = { action = "dead", self_weight = 1 }'))
    project = model.project
    for case in model.wind.rule.cases:
        area = dict.fromkeys(range(len(project.surfaces)), 0.0)
        for p in pieces(model.wind, case.name):
            if p.heading == case.headings[0] and not p.zone.stretch.extra:
                area[p.zone.surface] += p.zone.area
            if not case.twist:
                assert p.force == pytest.approx(p.net * p.zone.area, rel=1e-12)
        if not case.least:
            for i, found in area.items():
                assert found == pytest.approx(model.surfaces[i].outline.polygon.area, rel=1e-9)
    balance = surface_balance(model, model.cases)
    put = np.column_stack([balance[f"F{a} put on"] for a in "xyz"]).astype(float)
    received = np.column_stack([balance[f"F{a} received"] for a in "xyz"]).astype(float)
    assert len(put) and np.abs(put - received).max() < 1e-9 * np.abs(put).max()
    # The sheet's totals are those of the loads.
    table = wind_totals(model.wind, project, project.case_names)
    for case, up in zip(table["case"].tolist(), table["uplift"].tolist(), strict=True):
        assert up / 1e3 == pytest.approx(total(model, case)[2], abs=1e-9)


def test_overhangs():
    """2 m past both long walls. ASCE: nothing inside presses there, 0.8 from below to windward. EN: the walls' pressures."""
    model = resolved(hall("ASCE 7-22", 30, 20, 6, 9, over=2.0))
    tilt = math.hypot(10, 3) / 10
    zones = by_zone(model, "WY1ap")
    p_h = 0.85 * q_22((9 + 5.4) / 2)
    assert zones["roof-s", "windward slope"][0] == pytest.approx(300 * tilt)
    over = zones["roof-s", "windward slope, overhang"]
    assert over[0] == pytest.approx(60 * tilt) and over[2] / 1e3 == pytest.approx(0.85 * over[1] * p_h, rel=1e-9)
    assert zones["roof-s", "below the windward overhang"][2] / 1e3 == pytest.approx(-0.8 * 0.85 * p_h, rel=1e-9)
    assert ("roof-n", "below the windward overhang") not in zones
    zones = by_zone(resolved(hall("EN", 30, 20, 6, 9, over=2.0)), "WYap")
    q = q_en(9.0)
    assert zones["roof-s", "below the overhang, wall D"][2] / 1e3 == pytest.approx(
        -q * zones["wall-s", "wall D"][1], rel=1e-9
    )
    assert zones["roof-n", "below the overhang, wall E"][2] / 1e3 == pytest.approx(
        -q * zones["wall-n", "wall E"][1], rel=1e-9
    )
    zones = by_zone(resolved(hall("EN", 30, 20, 6, 9, over=2.0)), "WXap")
    assert zones["roof-n", "below the overhang, wall A"][2] / 1e3 == pytest.approx(1.2 * q, rel=1e-9)


PARAPET = """
[surfaces.parapet-s]
corners = ["s0t", "s1t", [30, 0, 7.5], [0, 0, 7.5]]
carry = "nodes"
[surfaces.parapet-n]
corners = ["n1t", "n0t", [0, 20, 7.5], [30, 20, 7.5]]
carry = "nodes"
"""


def test_parapets():
    """ASCE: 1.5 and -1.0 q_p at their top; EN: zones of a free-standing wall of 30 m by 1.5 m, from both ends."""
    parapets = 'parapets = "parapet*"\nexterior'
    p = 0.85 * q_22(7.5)
    text = hall("ASCE 7-22", 30, 20, 6, 6, more=PARAPET, wind='variants = ["1ap"]').replace("exterior", parapets)
    zones = by_zone(resolved(text), "WY1ap")
    assert zones["parapet-s", "windward parapet"][2] / 1e3 == pytest.approx(1.5 * p, rel=1e-9)
    assert zones["parapet-n", "leeward parapet"][2] / 1e3 == pytest.approx(-p, rel=1e-9)
    assert not [k for k in by_zone(resolved(text), "WX1ap") if "parapet" in k[1]]
    text = hall("EN", 30, 20, 6, 6, more=PARAPET).replace("exterior", parapets)
    zones = by_zone(resolved(text), "WYap")
    for name, depth, C in (("A", 0.3, 2.1), ("B", 1.7, 1.8), ("C", 2.0, 1.4)):
        area, found, net = zones["parapet-s", f"parapet {name}"]
        assert (area, found) == (pytest.approx(2 * depth * 1.5 * 1.5), C)
        assert net / 1e3 == pytest.approx(C * q_en(7.5), rel=1e-9)
    free = by_zone(resolved(text.replace("exterior =", "returns = false\nexterior =")), "WYap")
    assert free["parapet-n", "parapet A"][1] == -3.4 and free["parapet-n", "parapet D"][1] == -1.2


def test_openings():
    """ASCE 26.2 and 26.13.1: a door of 20 m2 in one wall; EN 7.2.9: a dominant face, and one that is not."""
    door = 'openings = { "wall-s" = 20 }\nvariants = ["1a*"]'
    model = resolved(hall("ASCE 7-22", 30, 20, 6, 6, wind=door))
    R = 0.5 * (1 + 1 / math.sqrt(1 + 3600 / (22800 * FOOT * 20)))
    p_i = 0.85 * q_22(6) * 0.55 * R
    assert pieces(model.wind, "WY1ap")[0].inside / 1e3 == pytest.approx(p_i, rel=1e-9)
    assert pieces(model.wind, "WY1an")[0].inside / 1e3 == pytest.approx(-p_i, rel=1e-9)
    for words, GC in (('openings = { "wall-s" = 0.3, "wall-n" = 0.3 }', 0.18), ('openings = { "wall-s" = 20, "wall-n" = 20 }', 0.18),
                      ('enclosure = "partially enclosed"', 0.55), ("GC_pi = 0.3", 0.3)):  # fmt: skip
        found = blown(hall("ASCE 7-22", 30, 20, 6, 6, wind=words))
        assert pieces(found, "WY1ap")[0].inside / 1e3 == pytest.approx(0.85 * q_22(6) * GC, rel=1e-9)
    assert [c.name for c in blown(hall("ASCE 7-22", 30, 20, 6, 6, wind='enclosure = "open"')).rule.cases][:2] == [
        "WX1a",
        "WX1b",
    ]
    q = q_en(6.0)
    en = resolved(hall("EN", 30, 20, 6, 6, wind='openings = { "wall-s" = 12, "wall-n" = 5 }'))
    D, E = (by_zone(en, "WYa")[f"wall-{s}", f"wall {z}"][1] for s, z in (("s", "D"), ("n", "E")))
    share = 0.75 + 0.15 * (12 / 5 - 2)
    assert pieces(en.wind, "WYa")[0].inside / 1e3 == pytest.approx(share * D * q, rel=1e-9)
    even = resolved(hall("EN", 30, 20, 6, 6, wind='openings = { "wall-s" = 6, "wall-n" = 6 }'))
    ratio = 6 / 20  # h/d; mu = 1/2 between the lines of h/d 0.25 and 1
    lines = [0.35 - 0.65 * (0.5 - 0.33) / 0.57, 0.35 - 0.85 * (0.5 - 0.33) / 0.62]
    c_pi = np.interp(ratio, [0.25, 1.0], lines)
    assert pieces(even.wind, "WYa")[0].inside / 1e3 == pytest.approx(c_pi * q, rel=1e-9) and E < 0


def test_friction_of_en():
    """60 m by 12 m, 4 m tall, along its length: walls and roof are 25 times the ends; beyond min(2b, 4h) = 16 m."""
    text = hall("EN", 60, 12, 4, 4, wind="c_fr = 0.04\nc_pi = 0")
    q = q_en(4.0)
    model, plain = resolved(text), resolved(text.replace("c_fr = 0.04", ""))
    more = total(model, "WXa") - total(plain, "WXa")
    assert more[:3] == pytest.approx([0.04 * q * 44 * (12 + 2 * 4), 0, 0], rel=1e-9, abs=1e-9)
    assert total(model, "WYa") == pytest.approx(total(plain, "WYa"), abs=1e-9)
    # Stated it acts though such surfaces are few: 20 m by 12 m, beyond min(24, 16) = 16 m.
    few = hall("EN", 20, 12, 4, 4, wind="c_fr = 0.04\nc_pi = 0")
    more = total(resolved(few), "WXa") - total(resolved(few.replace("c_fr = 0.04", "")), "WXa")
    assert more[:3] == pytest.approx([0.04 * q * 4 * (12 + 2 * 4), 0, 0], rel=1e-9, abs=1e-9)
    assert any(f.code == "wind-friction" for f in plain.findings)


def test_stepped_roofs_are_taken_by_themselves():
    """A tower beside a low hall: each roof with its own h, its own windward edge and its own velocity pressure."""
    low = hall("ASCE 7-22", 30, 20, 6, 6)
    extra = """
[surfaces.roof-top]
corners = [[0, 20, 12], [30, 20, 12], [30, 32, 12], [0, 32, 12]]
carry = "nodes"
[surfaces.wall-high]
corners = [[0, 20, 6], [30, 20, 6], [30, 20, 12], [0, 20, 12]]
carry = "nodes"
[surfaces.wall-far]
corners = [[30, 32, 0], [0, 32, 0], [0, 32, 12], [30, 32, 12]]
carry = "nodes"
"""
    extra += """
[members.more]
section = "HEB 300"
material = "S355"
[members.more.pieces]
a = "n0t > T0"
b = "n1t > T1"
c = "T0 > T2"
d = "T1 > T3"
e = "T2 > T3"
"""
    text = (
        low.replace("[nodes]", "[nodes]\nT0 = [0, 20, 12]\nT1 = [30, 20, 12]\nT2 = [0, 32, 12]\nT3 = [30, 32, 12]")
        + extra
    )
    model = resolved(text)
    assert sorted(r.h for r in model.wind.buildings[0].roofs) == [6.0, 12.0]
    for p in pieces(model.wind, "WY1ap"):
        name = model.project.surfaces[p.zone.surface].name
        if name.startswith("roof"):
            assert p.zone.mean / 1e3 == pytest.approx(q_22(12 if name == "roof-top" else 6), rel=1e-9)
    assert [f.code for f in model.findings if f.level == "warning" and "roof-top lies outside" in f.message] == [
        "wind-shape"
    ]
    top = [p.zone for p in pieces(model.wind, "WY1ap") if model.project.surfaces[p.zone.surface].name == "roof-top"]
    assert min(z.s[0] for z in top) == 20.0 and top[0].stretch.name == "roof to h/2"


def test_hand_loads_join_the_winds_cases_and_combinations_take_them_one_at_a_time():
    text = hall("ASCE 7-22", wind='variants = ["1ap", "min"]', more="""[loads]
WX1ap = [ { on = "s0t", force = 7, dir = "+x" } ]
[cases]
G = { action = "dead", self_weight = 1 }
[combinations]
rules = ["ASCE 7-22 strength"]
""")  # fmt: skip
    model, alone = resolved(text), resolved(hall("ASCE 7-22", wind='variants = ["1ap", "min"]'))
    assert (total(model, "WX1ap") - total(alone, "WX1ap"))[:3] == pytest.approx([7, 0, 0], abs=1e-9)
    wind = set(model.project.case_names) - {"G"}
    used = [wind & {c for c, _ in combination.factors} for combination in model.combinations]
    assert max(map(len, used)) == 1 and set().union(*used) == wind == {"WX1ap", "WY1ap", "WXmin", "WYmin"}
    assert model.project.cases[model.project.case_names.index("WX1ap")].along == "+x"
    # A faster wind changes every load: nothing is stored.
    faster = resolved(text.replace("50 m/s", "60 m/s"))
    assert total(faster, "WY1ap")[1] / total(model, "WY1ap")[1] == pytest.approx(1.44, rel=1e-9)
    assert reading(text).sound


def test_what_is_stated_goes_before_what_is_found():
    model = resolved(hall("ASCE 7-22", wind='h = 8.2\ntheta = "25 deg"', more="").replace(
        'WX = "0.0 deg"', 'WX = { towards = "0 deg", B = 40, L = 20, leeward = "wall-n" }'))  # fmt: skip
    zones = by_zone(model, "WX1ap")
    assert zones["wall-n", "leeward wall"][1] == -0.5 and zones["wall-e", "leeward wall"][1] == -0.5
    assert zones["wall-e", "leeward wall"][2] / 1e3 == pytest.approx(-0.85 * q_22(8.2) * (0.85 * 0.5 + 0.18), rel=1e-9)
    zones = by_zone(model, "WY1ap")
    assert zones["roof-n", "leeward slope"][1] == -0.6


def test_a_monoslope_building_of_two_sheets():
    """Rising from 6 m to 12 m over 20 m (16.7 degrees): onto its low eave, its high one, and along, by both codes."""
    slope = math.degrees(math.atan(0.3))
    model = resolved(hall("ASCE 7-22", 30, 20, 6, 9, north=12, directions={"WU": 90, "WD": 270, "WX": 0}))
    (roof,) = model.wind.buildings[0].roofs
    assert (roof.form, roof.h, len(roof.faces)) == ("monoslope", 9.0, 2)
    up, down, along = (by_zone(model, f"W{d}1ap") for d in "UDX")
    share = (slope - 15) / 5
    low = (-0.5 + share * 0.2) + (0.45 - 0.25) / 0.25 * ((-0.7 + share * 0.3) - (-0.5 + share * 0.2))
    assert up["roof-s", "windward slope"][1] == pytest.approx(low, abs=1e-9) == up["roof-n", "windward slope"][1]
    lee = -0.5 - share * 0.1
    assert down["roof-s", "leeward slope"][1] == pytest.approx(lee, abs=1e-9) == down["roof-n", "leeward slope"][1]
    assert along["roof-s", "roof to h/2"][1] == -0.9
    model = resolved(hall("EN", 30, 20, 6, 9, north=12, directions={"WU": 90, "WD": 270, "WX": 0}))
    share = (slope - 15) / 15
    up, upper, down, along = (by_zone(model, case) for case in ("WUap", "WUbp", "WDap", "WXap"))
    tilt = math.hypot(1, 0.3)
    assert up["roof-s", "roof F"][:2] == (
        pytest.approx(2 * 6 * 2.4 * tilt),
        pytest.approx(-0.9 + share * 0.4, abs=1e-9),
    )
    assert ("roof-n", "roof F") not in up and up["roof-n", "roof H"][1] == pytest.approx(-0.3 + share * 0.1, abs=1e-9)
    assert upper["roof-s", "roof G"][1] == pytest.approx(0.2 + share * 0.5, abs=1e-9)
    assert (
        down["roof-n", "roof F"][1] == pytest.approx(-2.5 + share * 1.4, abs=1e-9) and ("roof-s", "roof F") not in down
    )
    assert along["roof-n", "roof Fup"][1] == pytest.approx(-2.4 + share * 0.3, abs=1e-9)
    assert along["roof-s", "roof Flow"][1] == pytest.approx(-1.6 + share * 0.3, abs=1e-9)
    assert along["roof-s", "roof Flow"][0] == pytest.approx(5 * 2 * tilt)  # e = min(20, 24): e/4 by e/10


def test_a_trough_by_en():
    """Falling to its middle by 16.7 degrees: the rows of negative slopes, and notes that ASCE's figure does not show it."""
    model = resolved(hall("EN", 30, 20, 9, 6))
    share = (math.degrees(math.atan(0.3)) - 15) / 15
    zones = by_zone(model, "WYap")
    assert model.wind.buildings[0].roofs[0].form == "trough"
    assert zones["roof-s", "roof F"][1] == pytest.approx(-2.5 + share * 1.4, abs=1e-9)
    assert zones["roof-n", "roof J"][1] == pytest.approx(-0.7 - share * 0.1, abs=1e-9)
    assert by_zone(model, "WXap")["roof-n", "roof F"][1] == pytest.approx(-1.9 + share * 0.4, abs=1e-9)
    found = resolved(hall("ASCE 7-22", 30, 20, 9, 6)).findings
    assert any("neither flat, monoslope, gable nor hip" in f.message for f in found)


HIP = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 5]
b = [24, 0, 5]
c = [24, 12, 5]
d = [0, 12, 5]
r = [6, 6, 8]
s = [18, 6, 8]
a0 = [0, 0, 0]
b0 = [24, 0, 0]
c0 = [24, 12, 0]
d0 = [0, 12, 0]
[members.frame]
section = "HEB 300"
material = "S355"
[members.frame.pieces]
"""


def test_a_hipped_roof_face_by_face():
    """24 m by 12 m, all slopes 26.6 degrees, h = 6.5 m: whichever face the wind meets is the windward slope, those aside
    go by the distance from the windward edge. EN's table of hips is not known: that is told."""
    edges = ["a>b", "b>c", "c>d", "d>a", "a>r", "d>r", "b>s", "c>s", "r>s", "a0>a", "b0>b", "c0>c", "d0>d"]
    text = HIP + "\n".join(f'e{i} = "{e.replace(">", " > ")}"' for i, e in enumerate(edges))
    text += '\n[[supports]]\nat = ["a0", "b0", "c0", "d0"]\nfix = "fixed"\n'
    for name, corners in {"roof-s": "abs r", "roof-e": "bcs", "roof-n": "cdrs", "roof-w": "dar"}.items():
        text += f"[surfaces.{name}]\ncorners = {list(corners.replace(' ', ''))}\ncarry = 'nodes'\n"
    for one, other in ("ab", "bc", "cd", "da"):
        text += f"[surfaces.wall-{one}]\ncorners = ['{one}0', '{other}0', '{other}', '{one}']\ncarry = 'nodes'\n"
    text += f'[wind]\n{SITE["ASCE 7-22"]}\nexterior = ["wall*", "roof*"]\ndirections = {{ WX = "+x", WY = "+y" }}\n'
    model = resolved(text)
    assert model.wind.buildings[0].roofs[0].form == "hip" and model.wind.buildings[0].h == 6.5
    share = (math.degrees(math.atan(0.5)) - 25) / 5
    for case, windward, aside, ratio in (
        ("WX1ap", "roof-w", "roof-s", 6.5 / 24),
        ("WY1ap", "roof-s", "roof-w", 6.5 / 12),
    ):
        zones = by_zone(model, case)
        C = [-0.2, -0.3 + share * 0.1, -0.5 + share * 0.2]
        assert zones[windward, "windward slope"][1] == pytest.approx(np.interp(ratio, [0.25, 0.5, 1.0], C), abs=1e-9)
        assert (aside, "roof to h/2") in zones and (windward, "roof to h/2") not in zones
        lee = {"roof-w": "roof-e", "roof-s": "roof-n"}[windward]
        assert zones[lee, "leeward slope"][1] == -0.6
    found = reading(text.replace(SITE["ASCE 7-22"], SITE["EN"])).findings
    assert any(f.level == "error" and "is hip" in f.message for f in found)


def test_walls_of_many_surfaces_are_the_same_as_walls_of_one():
    """The long walls and the roofs in three strips each: the same forces in every case, torsion too."""
    whole = hall("EN", 30, 20, 6, 9, wind="eccentricity = 0.12")
    parts, posts, nodes = [], [], []
    for one, y in (("s", 0), ("n", 20)):
        for k in range(3):
            a, b = (10 * k, 10 * k + 10) if one == "s" else (10 * k + 10, 10 * k)
            corners = [[a, y, 0], [b, y, 0], [b, y, 6], [a, y, 6]]
            parts.append(f'[surfaces.wall-{one}{k}]\ncorners = {corners}\ncarry = "nodes"')
        for x in (10, 20):
            nodes.append(f"q{one}{x} = [{x}, {y}, 0]\nq{one}{x}t = [{x}, {y}, 6]")
            posts.append(f'{one}{x} = "q{one}{x} > q{one}{x}t"')
    start, end = whole.index("[surfaces.wall-s]"), whole.index("[surfaces.wall-w]")
    family = '[members.posts]\nsection = "HEB 300"\nmaterial = "S355"\n[members.posts.pieces]'
    text = "\n".join([whole[:start], *parts, whole[end:], family, *posts])
    split = resolved(text.replace("[nodes]", "[nodes]\n" + "\n".join(nodes)))
    one = resolved(whole)
    for case in one.project.case_names:
        a, b = total(one, case), total(split, case)
        assert a == pytest.approx(b, rel=1e-9, abs=1e-6 * np.abs(a).max())


def test_flat_roofs_behind_parapets_have_q_at_their_top():
    """7.2.3 (3): z_e = h + h_p of a flat roof; of a monopitch, and of the walls, h as before."""
    for ridge, north, z in ((9.0, 9.0, 9 + 0.6), (10.5, 12.0, 12.0)):
        edged = by_zone(resolved(hall("EN", 30, 20, 9, ridge, north=north, wind="h_p = 0.6\nc_pi = 0")), "WYa")
        _, C, net = edged["roof-s", "roof G"]
        assert net / 1e3 == pytest.approx(C * q_en(z), rel=1e-9)
    unclad = by_zone(resolved(hall("EN", 30, 20, 9, 9, wind="c_pi = 0")), "WYa")
    edged = by_zone(resolved(hall("EN", 30, 20, 9, 9, wind="h_p = 0.6\nc_pi = 0")), "WYa")
    assert edged["wall-n", "wall E"] == pytest.approx(unclad["wall-n", "wall E"])


@pytest.mark.parametrize("pressure", [0.0, 0.18, 0.55])
def test_the_inside_turns_no_building(pressure):
    """A monopitch of 6 and 9 m: what presses from within pushes its high wall more than its low one, and M_T of load case
    2 is 0.75 e (P_W + P_L) of the outside all the same, whichever way it presses."""
    model = resolved(hall("ASCE 7-22", 30, 20, 6, 7.5, north=9.0, wind=f"GC_pi = {pressure}"))
    walls = ("wall-s", "wall-n")
    outside = {
        sign: sum(p.outside * p.zone.area * p.way[1] for p in pieces(model.wind, f"WY1a{sign}")
                  if model.project.surfaces[p.zone.surface].name in walls)
        for sign in "pn"
    } if pressure else {"": sum(p.outside * p.zone.area * p.way[1] for p in pieces(model.wind, "WY1a")
                                if model.project.surfaces[p.zone.surface].name in walls)}  # fmt: skip
    for sign, P in outside.items():
        straight, turned = total(model, f"WY1a{sign}"), {s: total(model, f"WY2a{sign}{s}") for s in "lr"}
        for side, way in (("l", -1), ("r", 1)):
            M = turned[side][5] - 0.75 * straight[5]
            assert pytest.approx(way * 0.75 * 0.15 * 30 * P / 1e3, rel=1e-6) == M, (sign, side)
            assert turned[side][:3] == pytest.approx(0.75 * straight[:3], rel=1e-9, abs=1e-6)


def test_torsion_on_rails_and_nodes():
    """Walls that span upwards to rails, one of them onto nodes: the leeward wall's uniform load becomes 0.75 (1 + 12 e t/B^2)
    of itself along a rail of the whole width, and sum and lever arm hold over both kinds of load."""
    base = 'bs = "s0 > s1"\nbn = "n0 > n1"\nbw = "s0 > n0"\nbe = "s1 > n1"\ntw = "s0t > n0t"\nte = "s1t > n1t"\ncs0 ='
    text = hall("ASCE 7-22", 30, 20, 6, 6, wind='GC_pi = 0\nprofile = "steps"').replace("cs0 =", base)
    for name in "sn":
        text = text.replace(f"[surfaces.wall-{name}]", f"[surfaces.wall-{name}]\n")
    before, west, rest = text.partition("[surfaces.wall-w]")
    west_, east, tail = rest.partition("[surfaces.wall-e]")
    east_, roof, more = tail.partition("[surfaces.roof-s]")
    rails = west_.replace('deck = ["s0", "n0"]', 'deck = "z"\nbearing = ["*/b*", "*/t*"]')
    model = resolved(
        before + west + rails + east + east_.replace('deck = ["s0", "n0"]', 'carry = "nodes"') + roof + more
    )
    one, moved = total(model, "WX1a"), total(model, "WX2al")
    assert moved[0] == pytest.approx(0.75 * one[0], rel=1e-9)
    assert moved[5] == pytest.approx(-0.75 * one[0] * 13, rel=1e-9)
    rail = [m.name for m in model.project.members].index("frame/tw")
    lines = model.loads.lines.take(model.loads.lines.member == rail)
    rows = [of_case(lines, named(model, case).index) for case in ("WX1a", "WX2al")]
    here, there = (np.interp([1.0, 10.0, 19.0], *_along(r)) for r in rows)
    assert there / here == pytest.approx(0.75 * (1 + 12 * 3 * np.array([-9, 0, 9]) / 20**2), rel=1e-9)


def _along(rows):
    """The load along x over a member's length, summed from its rows."""
    s = np.linspace(0, 20, 2001)
    q = np.zeros_like(s)
    for a, b, qa, qb in zip(rows.s0, rows.s1, rows.q0[:, 0], rows.q1[:, 0], strict=True):
        inside = (s >= a - 1e-9) & (s <= b + 1e-9)
        q[inside] += qa + (qb - qa) * (s[inside] - a) / (b - a)
    return s, q


def test_the_height_stated_for_en():
    found = by_zone(resolved(hall("EN", wind="h = 8")), "WYap")
    assert found["wall-s", "wall D"][2] / 1e3 == pytest.approx(
        q_en(8) * (0.7 + 0.1 * (0.4 - 0.25) / 0.75 - 0.2), rel=1e-9
    )


def test_roofs_that_no_table_shows_are_folded():
    """Two gables side by side, joined at their valley: EN refuses them, ASCE takes each face by the way it falls."""
    text = hall("EN", 30, 20, 6, 9)
    nodes = (
        "p0 = [0, 40, 0]\np0t = [0, 40, 6]\np1 = [30, 40, 0]\np1t = [30, 40, 6]\nq0t = [0, 30, 9]\nq1t = [30, 30, 9]\n"
    )
    frame = 'x0 = "n0t > q0t"\nx1 = "n1t > q1t"\nx2 = "q0t > p0t"\nx3 = "q1t > p1t"\nx4 = "p0 > p0t"\nx5 = "p1 > p1t"\ncs0 ='
    more = """
[surfaces.roof-3]
corners = ["n0t", "n1t", "q1t", "q0t"]
carry = "nodes"
[surfaces.roof-4]
corners = ["q0t", "q1t", "p1t", "p0t"]
carry = "nodes"
[surfaces.wall-p]
corners = ["p1", "p0", "p0t", "p1t"]
carry = "nodes"
"""
    text = text.replace("[nodes]\n", "[nodes]\n" + nodes).replace("cs0 =", frame) + more
    text = text.replace('"wall*"', '"wall*", "!wall-n"').replace('"n1"]\nfix', '"n1", "p0", "p1"]\nfix')
    found = reading(text).findings
    assert any(f.level == "error" and "is folded" in f.message for f in found), list(map(str, found))
    model = resolved(text.replace(SITE["EN"], SITE["ASCE 7-22"]))
    zones = by_zone(model, "WY1ap")
    assert (zones["roof-s", "windward slope"][1], zones["roof-4", "leeward slope"][1]) == (
        zones["roof-3", "windward slope"][1], zones["roof-n", "leeward slope"][1]
    )  # fmt: skip
    assert any("each face is taken by the way it falls" in f.message for f in model.findings)


@settings(max_examples=15, deadline=None)
@given(
    site=st.sampled_from([*SITE]), length=st.floats(5, 90), width=st.floats(5, 60), eave=st.floats(2.5, 60),
    rise=st.floats(-0.35, 1.1), angle=st.floats(0, 360).map(lambda a: round(a, 3)), over=st.sampled_from([0.0, 0.0, 1.1]),
)  # fmt: skip
@example(site="EN", length=27.9375, width=28.0, eave=14.0, rise=-0.25, angle=0.0, over=0.0)  # a zone 6 cm wide
@example(site="EN", length=5.0, width=6.5, eave=3.0, rise=0.125, angle=1.5, over=1.1)  # a slit of no width
@example(site="EN", length=5.0, width=5.0, eave=5.0, rise=0.0, angle=20.0, over=1.1)  # corners half a micrometre apart
@example(site="EN", length=5.0, width=5.0, eave=3.0, rise=0.0, angle=41.714, over=1.1)
def test_any_hall_is_covered_by_zones_whose_forces_arrive(site, length, width, eave, rise, angle, over):
    """Any size, slope and angle: either the code's limits are told, or zones cover every surface once and members receive
    what was put on each of them."""
    ridge = eave + rise * width / 2 if eave + rise * width / 2 > 1 and abs(rise) > 0.01 else eave
    text = hall(site, length, width, eave, ridge, angle, over=over if rise >= 0 else 0.0)
    found = reading(text)
    wrong = {f.code for f in found.findings if f.level == "error"}
    assert wrong <= {"wind-limits"}, [str(f) for f in found.findings if f.level == "error"]
    if wrong:
        return
    model = found.resolved
    whole = {i: g.outline.polygon.area for i, g in model.surfaces.items()}
    for case in model.wind.rule.cases[:2]:
        area = dict.fromkeys(whole, 0.0)
        for p in pieces(model.wind, case.name):
            area[p.zone.surface] += 0.0 if p.zone.stretch.extra else p.zone.area
        assert area == pytest.approx(whole, rel=1e-6)
    balance = surface_balance(model, model.cases)
    put, received = (
        np.column_stack([balance[f"F{a} {w}"] for a in "xyz"]).astype(float) for w in ("put on", "received")
    )
    assert np.abs(put - received).max() < 1e-8 * np.abs(put).max()
