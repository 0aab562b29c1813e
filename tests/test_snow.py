"""Snow on roofs: the codes' formulas typed a second time, the geometry found, and what must not change anything."""

from __future__ import annotations

import re
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from empuje.core.actions.totals import applied_totals
from empuje.core.answers.snow import drifts_table, roofs_table
from empuje.core.resolve import resolve
from empuje.core.resolved import Resolved
from empuje.files.reader import read_text
from snows import ASCE_16, ASCE_22, EN, gable, rectangle, roofs
from winds import hall

PSF, PCF, FT = 47.880259, 157.087464, 0.3048


def resolved(text: str) -> Resolved:
    reading = read_text(text, "m.toml")
    model = resolve(reading.project, reading.findings)
    errors = [str(f) for f in (*reading.findings, *model.findings) if f.level == "error"]
    assert not errors, errors
    return model


def down(model: Resolved, case: str) -> float:
    """What arrives of a case [kN]."""
    totals = applied_totals(model.project, model.loads, np.zeros(3), model.load_columns)
    return float(-totals[2, model.project.case_names.index(case)]) / 1e3


def on(model: Resolved, case: str, surface: str, *words: str) -> float:
    """The force of layers with a word in their name, or of all, on a surface in a case [kN]."""
    return sum(p.force for p in model.snow.pieces if p.case == case and p.face.name == surface
               and all(w in p.layer.name for w in words)) / 1e3  # fmt: skip


def h_d_16(p_g: float, l_u: float, I_s: float = 1.0) -> float:
    """[m] from kN/m2 and m."""
    p, length = p_g * 1e3 / PSF, max(l_u / FT, 20)
    return FT * I_s**0.5 * (0.43 * length ** (1 / 3) * (p + 10) ** 0.25 - 1.5)


def weight(p_g: float) -> float:
    """gamma [kN/m3]."""
    return min(0.13 * p_g * 1e3 / PSF + 14, 30) * PCF / 1e3


STEP = {"low": rectangle(0, 20, 0, 30, 4.0), "high": rectangle(20, 45, 0, 30, 7.0)}


def test_a_step_has_a_leeward_and_a_windward_drift_by_7_16():
    """3 m: h_d of 25 m upwind is lower than the step; the windward one is three quarters of that of 20 m."""
    model = resolved(roofs(ASCE_16, STEP))
    p_s = 0.7 * 1.0 * 1.0 * 1.1 * 1.5
    lee, wind = h_d_16(1.5, 25, 1.1), 0.75 * h_d_16(1.5, 20, 1.1)
    gamma = weight(1.5)
    assert 3.0 - p_s / gamma > lee
    assert on(model, "SXnd", "low") == pytest.approx(600 * p_s + gamma * lee * 4 * lee / 2 * 30, rel=1e-6)
    assert on(model, "SXpd", "low") == pytest.approx(600 * p_s + gamma * wind * 4 * wind / 2 * 30, rel=1e-6)
    for case in ("SXnd", "SXpd", "SYpd", "SXnu"):
        assert on(model, case, "high") == pytest.approx(750 * p_s, rel=1e-9)
    assert down(model, "SXnd") == pytest.approx(on(model, "SXnd", "low") + 750 * p_s, rel=1e-9)


def test_a_step_by_7_22_and_a_drift_as_high_as_a_low_step():
    """h_d of equation 7.6-1; where the step is lower, the drift is as high as it and wider, at most 8 h_c."""
    p_g, W_2 = 2.4e3 / PSF, 0.45
    gamma = min(0.13 * p_g + 14, 30)
    h_d = 1.5 * (p_g**0.74 * (25 / FT) ** 0.70 * W_2**1.7 / gamma) ** 0.5 * FT
    p_s, g = 0.7 * 2.4, gamma * PCF / 1e3
    for step in (3.0, 1.2, 0.75):
        faces = {"low": STEP["low"], "high": rectangle(20, 45, 0, 30, 4.0 + step)}
        h_c = step - p_s / g
        high, wide = (h_d, 4 * h_d) if h_d <= h_c else (h_c, min(4 * h_d**2 / h_c, 8 * h_c))
        drift = g * high * (wide - max(wide - 20, 0) ** 2 / wide) / 2 * 30
        model = resolved(roofs(ASCE_22, faces))
        assert on(model, "SXnd", "low", "leeward") == pytest.approx(drift, rel=1e-6), step
    low = {"low": STEP["low"], "high": rectangle(20, 45, 0, 30, 4.0 + 1.1 * p_s / g)}  # h_c/h_b = 0.1
    assert not resolved(roofs(ASCE_22, low)).snow.drifts


def test_a_neighbour_4_m_off():
    """7.7.2: h_d no more than (6 h - s)/6, no further than 6 h - s; the windward drift loses what falls between."""
    for step in (1.0, 3.0):
        faces = {"low": rectangle(0, 16, 0, 30, 4.0), "high": rectangle(20, 45, 0, 30, 4.0 + step)}
        model = resolved(roofs(ASCE_16, faces))
        gamma, s = weight(1.5), 4.0
        h_c = step - 0.7 * 1.1 * 1.5 / gamma
        h_d = min(h_d_16(1.5, 25, 1.1), (6 * step - s) / 6)
        reach = min(6 * h_d, 6 * step - s)
        top = min(h_d, h_c)
        assert on(model, "SXnd", "low", "leeward") == pytest.approx(gamma * top * reach / 2 * 30, rel=1e-6)
        h_w = 0.75 * h_d_16(1.5, 16, 1.1)
        high, wide = (h_w, 4 * h_w) if h_w <= h_c else (h_c, min(4 * h_w**2 / h_c, 8 * h_c))
        left = max(wide - s, 0)
        drift = gamma * high * left / wide * left / 2 * 30
        assert on(model, "SXpd", "low", "windward") == pytest.approx(drift, rel=1e-6, abs=1e-9)
    apart = {"low": rectangle(0, 13.8, 0, 30, 4.0), "high": rectangle(20, 45, 0, 30, 7.0)}  # 20 ft are 6.096 m
    assert not resolved(roofs(ASCE_16, apart)).snow.drifts


def test_a_gable_unbalanced_wide_and_narrow():
    """7.6.1: 0.3 p_s windward; leeward p_s and h_d gamma/sqrt(S) over 8 sqrt(S) h_d/3; with rafters from ridge to eave and
    W up to 20 ft, I_s p_g leeward alone."""
    model = resolved(roofs(ASCE_16, gable(0, 20, 0, 30, 5.0, 7.5)))
    p_s, S, gamma = 0.7 * 1.1 * 1.5, 4.0, weight(1.5)
    h_d = h_d_16(1.5, 10, 1.1)
    more = h_d * gamma / S**0.5 * 8 * S**0.5 * h_d / 3 * 30
    for case, lee, wind in (("SXpu", "east", "west"), ("SXnu", "west", "east")):
        assert on(model, case, wind) == pytest.approx(300 * 0.3 * p_s, rel=1e-9)
        assert on(model, case, lee) == pytest.approx(300 * p_s + more, rel=1e-6)
    assert on(model, "SYpu", "west") == on(model, "SYnu", "east") == pytest.approx(300 * p_s)
    narrow = gable(0, 12, 0, 30, 5.0, 6.5)
    model = resolved(roofs(ASCE_16 + "rafters = true\n", narrow))
    assert on(model, "SXpu", "west") == 0.0
    assert on(model, "SXpu", "east") == pytest.approx(180 * 1.1 * 1.5)
    other = resolved(roofs(ASCE_16, narrow))  # l_u counts 20 ft at least
    h_20 = h_d_16(1.5, 1.0, 1.1)
    assert on(other, "SXpu", "east", "leeward drift") == pytest.approx(h_20 * gamma * 8 * h_20 / 3 * 30, rel=1e-6)
    base, top = rectangle(0, 20, 0, 20, 5.0), (10, 10, 7.5)
    hip = {f"hip{i}": [base[i], base[(i + 1) % 4], top] for i in range(4)}  # falls to -y, +x, +y, -x
    model = resolved(roofs(ASCE_16, hip))
    each = [on(model, "SXpu", f"hip{i}") for i in range(4)]
    assert each[0] == each[2] == pytest.approx(100 * p_s)
    assert each[3] == pytest.approx(30 * p_s)
    deep = 8 * S**0.5 * h_d / 3
    assert each[1] == pytest.approx(100 * p_s + h_d * gamma / S**0.5 * deep**2, rel=1e-6)
    for ridge in (5.2, 11.5):  # 1.1 and 33 degrees
        assert on(resolved(roofs(ASCE_16, gable(0, 20, 0, 30, 5.0, ridge))), "SXpu", "west", "balanced") > 0


def test_slope_factors_by_kind_of_roof():
    """C_s at 45 degrees, warm and cold, slippery and not (figure 7.4-1)."""
    faces = gable(0, 20, 0, 30, 5.0, 15.0)
    for C_t, slippery, C_s in (
        (1.0, False, 25 / 40), (1.0, True, 25 / 65), (1.1, False, 25 / 32.5), (1.1, True, 25 / 60), (1.2, False, 1.0),
        (1.2, True, 25 / 55), (1.05, False, 25 / 32.5), (1.15, True, 25 / 55),
    ):  # fmt: skip
        site = ASCE_16.replace("C_t = 1.0", f"C_t = {C_t}") + f"slippery = {str(slippery).lower()}\n"
        model = resolved(roofs(site, faces))
        assert on(model, "S", "west") == pytest.approx(300 * 0.7 * C_t * 1.1 * 1.5 * C_s), (C_t, slippery)


def test_minimum_and_rain_on_snow():
    """p_m of low-slope roofs is a case by itself; rain is on flat roofs where p_g is no more than 20 lb/ft2."""
    flat = {"roof": rectangle(0, 20, 0, 30, 5.0)}
    light = ASCE_16.replace("1.5 kN/m2", "15 lbf/ft2").replace("I_s = 1.1", "I_s = 1.0")
    model = resolved(roofs(light, flat))
    assert on(model, "S", "roof") == pytest.approx(600 * (0.7 * 15 + 5) * PSF / 1e3, rel=1e-6)
    assert on(model, "Ss", "roof") == pytest.approx(600 * 0.7 * 15 * PSF / 1e3, rel=1e-6)
    sloped = {"roof": rectangle(0, 20, 0, 30, 5.0, 7.0)}  # 5.7 degrees, W/50 = 1.3
    assert on(resolved(roofs(light, sloped)), "S", "roof") == pytest.approx(600 * 15 * PSF / 1e3, rel=1e-6)
    steep = {"roof": rectangle(0, 20, 0, 30, 5.0, 10.5)}  # 15.4 degrees
    assert on(resolved(roofs(light, steep)), "S", "roof") == pytest.approx(600 * 0.7 * 15 * PSF / 1e3, rel=1e-6)
    of_22 = resolved(roofs(ASCE_22, flat))  # p_g = 50 lb/ft2, p_m,max = 35 of category III
    assert on(of_22, "S", "roof") == pytest.approx(600 * max(0.7 * 2.4, 35 * PSF / 1e3), rel=1e-6)


def test_snow_slides_onto_a_lower_roof():
    """7.9: 0.4 p_f W over 15 ft from the eave, not from gable ends; none from guards, none from roofs too flat."""
    high = gable(20, 40, 0, 30, 7.0, 9.0)  # 11.3 degrees
    faces = {"low": rectangle(0, 20, 0, 30, 4.0), "side": rectangle(20, 40, 30, 40, 4.0), **high}
    p_f = 0.7 * 1.1 * 1.5
    model = resolved(roofs(ASCE_16, faces))
    assert on(model, "Ss", "low", "slid") == pytest.approx(0.4 * p_f * 10 * 30, rel=1e-9)
    assert on(model, "Ss", "side", "slid") == 0.0
    assert on(resolved(roofs(ASCE_16 + "guards = true\n", faces)), "Ss", "low", "slid") == 0.0
    short = {**faces, "low": rectangle(17, 20, 0, 30, 4.0)}
    assert on(resolved(roofs(ASCE_16, short)), "Ss", "low", "slid") == pytest.approx(0.4 * p_f * 10 * 30 * 3 / 4.572)
    apart = {**faces, "low": rectangle(0, 18, 0, 30, 4.0)}  # 2 m off, 3 m below
    assert on(resolved(roofs(ASCE_16, apart)), "Ss", "low", "slid") == pytest.approx(0.4 * p_f * 300 * 2.572 / 4.572)
    flat = {"low": faces["low"], **gable(20, 40, 0, 30, 7.0, 8.5)}  # 8.5 degrees: slippery ones slide
    assert on(resolved(roofs(ASCE_16, flat)), "Ss", "low", "slid") == 0.0
    assert on(resolved(roofs(ASCE_16 + 'slippery = "west"\n', flat)), "Ss", "low", "slid") > 100


def walled(text: str, corners: list[tuple[float, float, float]], key: str, name: str = "wall") -> str:
    """With a wall of corners, named under a key of [snow]."""
    there = {
        tuple(float(v) for v in re.findall(r"-?[\d.]+", at)): n for n, at in re.findall(r"(N\d+) = \[(.*)\]", text)
    }
    named = [there.get(tuple(map(float, c)), f"{name}{i}") for i, c in enumerate(corners)]
    nodes = "".join(f"{n} = {list(c)}\n" for n, c in zip(named, corners, strict=True) if n.startswith(name))
    surface = f'[surfaces.{name}]\ncorners = {named}\ncarry = "nodes"\n'
    text = text.replace("[nodes]\n", "[nodes]\n" + nodes).replace("[cases]", surface.replace("'", '"') + "[cases]")
    return text.replace('roofs = "*"', f'roofs = ["*", "!{name}*"]\n{key} = "{name}*"')


def test_parapets_and_what_stands_on_a_roof():
    """7.8: three quarters of h_d, by the length of roof before a parapet, by the longer of both sides of a unit; sides
    under 15 ft have none."""
    flat = {"roof": rectangle(0, 40, 0, 30, 5.0)}
    gamma, p_s = weight(1.5), 0.7 * 1.1 * 1.5
    text = walled(roofs(ASCE_16, flat), [(40, 0, 5), (40, 30, 5), (40, 30, 6), (40, 0, 6)], "parapets")
    h_c = 1.0 - p_s / gamma
    h_d = 0.75 * h_d_16(1.5, 40, 1.1)
    high, wide = h_c, min(4 * h_d**2 / h_c, 8 * h_c)
    assert h_d > h_c
    model = resolved(text)
    assert on(model, "SXpd", "roof", "drift") == pytest.approx(gamma * high * wide / 2 * 30, rel=1e-6)
    assert on(model, "SXnd", "roof", "drift") == 0.0
    unit = [(30, 10, 5), (30, 20, 5), (30, 20, 9), (30, 10, 9)][::-1]  # looks to -x: 30 m of roof before it, 10 behind
    h_d = 0.75 * h_d_16(1.5, 30, 1.1)
    model = resolved(walled(roofs(ASCE_16, flat), unit, "obstructions"))
    assert [d.meeting.riser.normal.round(9).tolist() for d in model.snow.drifts] == [[-1.0, 0.0]]
    assert on(model, "SXpd", "roof", "drift") == pytest.approx(gamma * h_d * 2 * h_d * 10, rel=1e-6)
    back = [(20 + 20 - x, y, z) for x, y, z in unit[::-1]]  # at x = 10, looking to +x
    model = resolved(walled(roofs(ASCE_16, flat), back, "obstructions"))
    assert on(model, "SXnd", "roof", "drift") == pytest.approx(gamma * h_d * 2 * h_d * 10, rel=1e-6)
    small = [(x, 10 + (y - 10) * 0.4, z) for x, y, z in unit]
    assert not resolved(walled(roofs(ASCE_16, flat), small, "obstructions")).snow.drifts


Corners = list[tuple[float, float, float]]


def with_walls(
    snow: str, faces: dict[str, Corners], walls: dict[str, Corners], more: str = "", angle: float = 0.0
) -> Resolved:
    """Roofs, and upright surfaces on nodes of their own of which [snow] says nothing."""
    text = roofs(snow, faces, angle, more=more).replace("carry", "#").replace('deck = "two-way"', 'deck = "two-way"')
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    made = "".join(
        f'[surfaces.{name}]\ncarry = "nodes"\ncorners = '
        f"{[[float(x * c - y * s), float(x * s + y * c), float(z)] for x, y, z in corners]}\n"
        for name, corners in walls.items()
    )
    return resolved(text.replace("[cases]", made + "[cases]"))


def upright(a: tuple[float, float], b: tuple[float, float], low: float, *tops: float) -> Corners:
    """A wall over a foot in plan, level at its foot, with a top straight between heights at equal distances."""
    at = [(a[0] + (b[0] - a[0]) * k / (len(tops) - 1), a[1] + (b[1] - a[1]) * k / (len(tops) - 1), z)
          for k, z in enumerate(tops)]  # fmt: skip
    return [(*a, low), (*b, low), *at[::-1]]


@pytest.mark.parametrize("angle", [0.0, 33.0])
def test_walls_are_found_where_they_rise_above_a_roof(angle):
    """A parapet drawn by itself, from the ground, and in pieces drifts as the stated one; one only where it rises."""
    flat = {"roof": rectangle(0, 40, 0, 30, 5.0)}
    turned = '[snow.directions]\nA = "33 deg"\nB = "213 deg"\nC = "123 deg"\nD = "303 deg"\n' if angle else ""
    case = "Ad" if angle else "SXpd"
    stated = resolved(walled(roofs(ASCE_16, flat), [(40, 0, 5), (40, 30, 5), (40, 30, 6), (40, 0, 6)], "parapets"))
    whole = on(stated, "SXpd", "roof", "drift")
    one = {"p": upright((40, 0), (40, 30), 5.0, 6.0, 6.0)}
    deep = {"p": upright((40, 30), (40, 0), 0.0, 6.0, 6.0)}
    pieces = {"p1": upright((40, 0), (40, 12), 0.0, 6.0, 6.0), "p2": upright((40, 12), (40, 30), 4.0, 6.0, 6.0)}
    for walls in (one, deep, pieces):
        model = with_walls(ASCE_16, flat, walls, turned, angle)
        assert on(model, case, "roof", "drift") == pytest.approx(whole, rel=1e-5)
        assert {r.name for r in model.snow.found} == set(walls)
    flush = {"p": upright((40, 0), (40, 30), 0.0, 5.0, 5.0)}
    assert not with_walls(ASCE_16, flat, flush, turned, angle).snow.drifts
    half = {"p": upright((40, 0), (40, 30), 0.0, 6.0, 6.0, 5.0)}  # level for 15 m, down to the roof over 15 m
    model = with_walls(ASCE_16, flat, half, turned, angle)
    assert whole / 2 - 1e-6 < on(model, case, "roof", "drift") <= whole * (1 + 1e-9)
    high = {"p": upright((40, 0), (40, 30), 5.7, 7.0, 7.0)}  # the wind blows under it
    assert not with_walls(ASCE_16, flat, high, turned, angle).snow.drifts


def test_walls_under_their_own_roof_are_none():
    """Gable walls, walls of a taller block on the edge of a lower roof, partitions, and walls under overhangs; a parapet on
    the taller block makes its step higher, and drifts there."""
    high = gable(20, 44, 0, 30, 7.0, 9.0)
    faces = {"low": rectangle(0, 20, 0, 30, 4.0), **high}
    walls = {
        "gable": upright((20, 0), (44, 0), 0.0, 7.0, 9.0, 7.0), "west-wall": upright((20, 0), (20, 30), 0.0, 7.0, 7.0),
        "partition": upright((30, 0), (30, 30), 0.0, 7.5, 7.5), "inside": upright((10, 0), (10, 30), 0.0, 4.0, 4.0),
        "under": upright((22, 0), (22, 30), 0.0, 7.0 + 2 / 6, 7.0 + 2 / 6),
    }  # fmt: skip
    plain, other = resolved(roofs(ASCE_16, faces)), with_walls(ASCE_16, faces, walls)
    assert not other.snow.found
    for case in ("SXnd", "SXpd", "SYpd"):
        assert on(other, case, "low") == pytest.approx(on(plain, case, "low"), rel=1e-9)
    over = {"overhang": rectangle(0, 20, 0, 30, 7.0), "canopy": rectangle(10, 30, 0, 30, 4.0)}
    wall = {"wall": upright((18, 0), (18, 30), 0.0, 7.0, 7.0)}  # 2 m behind the edge of the roof over it
    plain, other = resolved(roofs(ASCE_16, over)), with_walls(ASCE_16, over, wall)
    assert not other.snow.found
    assert on(other, "SXpd", "canopy") == pytest.approx(on(plain, "SXpd", "canopy"), rel=1e-9)
    raised = {"parapet": upright((20, 0), (20, 30), 6.0, 8.0, 8.0)}
    model = with_walls(ASCE_16, {"low": faces["low"], "flat": rectangle(20, 44, 0, 30, 7.0)}, raised)
    assert {round(d.meeting.h, 6) for d in model.snow.drifts if d.lower.name == "low"} == {4.0}
    assert {round(d.meeting.h, 6) for d in model.snow.drifts if d.lower.name == "flat"} == {1.0}
    side = with_walls(ASCE_16, {"low": faces["low"], "flat": rectangle(20, 44, 0, 30, 7.0)},
                      {"parapet": upright((20, 0), (44, 0), 6.0, 8.0, 8.0)})  # fmt: skip
    (drift,) = (d for d in side.snow.drifts if d.lower.name == "flat")
    assert drift.meeting.t[1] - drift.meeting.t[0] == pytest.approx(
        24, abs=1e-9
    )  # none of it belongs to the lower roof


def test_a_box_on_a_roof_is_found_however_its_sides_are_drawn():
    """Outwards on all four sides; a wall by itself both ways; short sides none; what is stated instead stands alone."""
    flat = {"roof": rectangle(0, 40, 0, 30, 5.0)}
    ends = [(25.0, 10.0), (31.0, 10.0), (31.0, 18.0), (25.0, 18.0)]
    boxes = []
    for flip in (0, 1, 2):
        box = {f"box{k}": upright(ends[k], ends[(k + 1) % 4], 5.0, 7.5, 7.5) for k in range(4)}
        if flip:
            box = {n: c[::-1] if flip == 1 or n in ("box0", "box3") else c for n, c in box.items()}
        boxes.append(with_walls(ASCE_16, flat, box))
    for model in boxes:
        names = {c: on(model, c, "roof", "drift") for c in ("SXpd", "SXnd", "SYpd", "SYnd")}
        assert names == pytest.approx({c: on(boxes[0], c, "roof", "drift") for c in names}, rel=1e-9)
        assert all(v > 0 for v in names.values())
        assert all(r.free for r in model.snow.found)
    h_d = 0.75 * h_d_16(1.5, 25, 1.1)  # 25 m before the west side, 9 behind the box
    h_c, gamma = 2.5 - 0.7 * 1.1 * 1.5 / weight(1.5), weight(1.5)
    assert h_d < h_c
    assert on(boxes[0], "SXpd", "roof", "drift") == pytest.approx(gamma * 2 * h_d**2 * 8, rel=1e-6)
    wall = {"w": upright((25, 10), (25, 18), 5.0, 7.5, 7.5)}
    alone = with_walls(ASCE_16, flat, wall)
    assert on(alone, "SXpd", "roof", "drift") > 0 < on(alone, "SXnd", "roof", "drift")
    short = {"w": upright((25, 10), (25, 14.5), 5.0, 7.5, 7.5)}
    assert not with_walls(ASCE_16, flat, short).snow.drifts
    box = {f"box{k}": upright(ends[k], ends[(k + 1) % 4], 5.0, 7.5, 7.5) for k in range(4)}
    assert not with_walls(ASCE_16, flat, box, "obstructions = false\n").snow.drifts
    assert len(with_walls(EN, flat, box).snow.drifts) == 4


def test_folded_roofs():
    """7.6.3: 0.5 p_f at the ridge, 2 p_f/C_e in the valley, no higher than the snow on the ridge; C_s is 1."""
    for rise, site in ((2.0, ASCE_16), (0.5, ASCE_16 + "gamma = '2.5 kN/m3'\n")):
        faces = {**gable(0, 16, 0, 20, 5.0, 5.0 + rise), **gable(16, 32, 0, 20, 5.0, 5.0 + rise, "2")}
        model = resolved(roofs(site, faces))
        p_f = 0.7 * 1.1 * 1.5
        gamma = 2.5 if "gamma" in site else weight(1.5)
        valley = min(2 * p_f, 0.5 * p_f + gamma * rise)
        for case in ("SXpu", "SYnu"):
            assert on(model, case, "east") == pytest.approx(160 * (0.5 * p_f + valley) / 2, rel=1e-9)
            assert on(model, case, "west") == pytest.approx(160 * p_f)
        deep = next(p for p in model.snow.pieces if p.case == "SXpu" and p.face.name == "east")
        x, y, z = deep.face.outline.solid(np.zeros((1, 2)))[0] * 0 + [16.0, 10.0, 5.0]
        u, v = deep.face.outline.flat(np.array([[x, y, z]]))[0]
        level = abs(deep.face.outline.normal[2])
        assert (deep.field @ [1.0, u, v]) / level / 1e3 == pytest.approx(valley, rel=1e-9)


def test_en_roof_shapes():
    """mu_1, mu_2 and their arrangements: duopitch (5.3.3) and multi-span (5.3.4)."""
    s = 1.2
    model = resolved(roofs(EN, gable(0, 20, 0, 30, 5.0, 5.0 + 10 * np.tan(np.radians(40)))))
    mu = 0.8 * 20 / 30
    assert on(model, "S", "west") == pytest.approx(300 * mu * s)
    assert (on(model, "SXpu", "west"), on(model, "SXpu", "east")) == pytest.approx((150 * mu * s, 300 * mu * s))
    assert (on(model, "SXnu", "west"), on(model, "SXnu", "east")) == pytest.approx((300 * mu * s, 150 * mu * s))
    faces = {**gable(0, 16, 0, 20, 5.0, 7.0), **gable(16, 36, 0, 20, 5.0, 11.0, "2")}
    model = resolved(roofs(EN, faces))
    a, b = np.degrees(np.arctan(2 / 8)), np.degrees(np.arctan(6 / 10))
    valley = 0.8 + 0.8 * (a + b) / 2 / 30
    assert on(model, "SXpu", "east") == pytest.approx(160 * valley * s)
    assert on(model, "SXpu", "west2") == pytest.approx(200 * valley * s)
    assert on(model, "SXpu", "west") == pytest.approx(160 * 0.8 * s)
    assert on(model, "S", "west2") == pytest.approx(200 * 0.8 * (60 - b) / 30 * s)
    held = resolved(roofs(EN + 'guards = "west2"\n', faces))
    assert on(held, "S", "west2") == pytest.approx(200 * 0.8 * s)


def test_en_taller_works_and_obstructions():
    """5.3.6: mu_w by lengths and height, mu_s of a steep pitch above, over l_s; 6.2 at a wall on the roof."""
    for step, rise in ((3.0, 0.0), (2.0, 4.0), (1.0, 8.0), (9.0, 2.0)):
        high = (
            gable(20, 44, 0, 30, 4.0 + step, 4.0 + step + rise)
            if rise
            else {"high": rectangle(20, 44, 0, 30, 4 + step)}
        )
        model = resolved(roofs(EN, {"low": rectangle(0, 20, 0, 30, 4.0), **high}))
        mu_w = min(max(min((24 + 20) / (2 * step), 2.0 * step / 1.2), 0.8), 4.0)
        l_s = min(max(2 * step, 5.0), 15.0)
        alpha = np.degrees(np.arctan(rise / 12))
        mu_1 = 0.8 * min(1.0, (60 - alpha) / 30)
        mu_s = 0.5 * mu_1 * 12 * 2 / l_s if alpha > 15 else 0.0
        more = (mu_w + mu_s - 0.8) * 1.2 * l_s / 2 * 30
        assert on(model, "SXnd", "low", "drift a") == pytest.approx(more, rel=1e-9), step
        assert on(model, "SXpd", "low", "drift a") == 0.0
    wall = [(20, 0, 5), (20, 30, 5), (20, 30, 6), (20, 0, 6)]
    model = resolved(walled(roofs(EN, {"roof": rectangle(0, 40, 0, 30, 5.0)}), wall, "obstructions"))
    mu = 2.0 * 1.0 / 1.2
    each = [on(model, c, "roof", "drift a") for c in ("SXpd", "SXnd")]
    assert each == pytest.approx([(mu - 0.8) * 1.2 * 5.0 / 2 * 30, 0.0]) or each[::-1] == pytest.approx(
        [(mu - 0.8) * 1.2 * 5.0 / 2 * 30, 0.0]
    )


SITES = {"16": ASCE_16, "22": ASCE_22, "EN": EN}
YARD = {
    **gable(0, 24, 0, 30, 7.0, 10.0), "low": rectangle(24, 36, 5, 25, 4.0, 3.5), "far": rectangle(-14, -3, 0, 20, 5.0),
    "top": rectangle(38, 50, 0, 30, 9.0),
}  # fmt: skip


def by_case(model: Resolved, round_to: int = 6) -> dict[str, list[float]]:
    """What every member carries in each case, down [kN]."""
    loads = model.snow.loads
    sizes = -(loads.lines.q0 + loads.lines.q1)[:, 2] / 2 * (loads.lines.s1 - loads.lines.s0)
    out = {}
    for name in (c.name for c in model.snow.rule.cases):
        own = loads.lines.case == model.project.case_names.index(name)
        each = np.bincount(loads.lines.member[own], sizes[own], len(model.project.members)) / 1e3
        out[name] = each.round(round_to)
    return out


@pytest.mark.parametrize("site", SITES)
def test_turned_moved_and_in_feet_the_same_members_carry_the_same(site):
    plain = by_case(resolved(roofs(SITES[site], YARD)))
    assert plain["SXpd"].sum() > plain["SYpd"].sum() > 1000
    for angle, at in ((33.0, (0.0, 0.0)), (-41.3, (812.0, -377.0))):
        for name, each in by_case(resolved(roofs(SITES[site], YARD, angle, at=at))).items():
            assert each == pytest.approx(plain[name], rel=1e-5, abs=1e-4), (angle, name)
    turned = by_case(resolved(roofs(SITES[site], YARD, 90.0)))
    assert turned["SYpd"] == pytest.approx(plain["SXpd"], rel=1e-5, abs=1e-4)
    feet = by_case(resolved(roofs(SITES[site], YARD, units="kip ft", per=1 / FT)))
    assert feet["SXpd"] == pytest.approx(plain["SXpd"], rel=1e-5, abs=1e-4)


@pytest.mark.parametrize("site", SITES)
def test_roofs_in_pieces_and_other_buildings_change_nothing(site):
    """A pitch drawn as three surfaces in another order; another building far off."""
    whole = resolved(roofs(SITES[site], YARD))
    z = 7.0 + 3.0 * 5 / 12
    pieces = {
        "west2": rectangle(5, 12, 0, 30, z, 10.0), "top": YARD["top"], "low": YARD["low"],
        "west0": rectangle(0, 5, 0, 11, 7.0, z), "far": YARD["far"], "west1": rectangle(0, 5, 11, 30, 7.0, z),
        "east": YARD["east"], "other": rectangle(200, 230, 0, 30, 8.0), "shed": rectangle(230, 240, 0, 30, 4.0),
    }  # fmt: skip
    cut = resolved(roofs(SITES[site], pieces))
    for case in (c.name for c in whole.snow.rule.cases):
        for name in ("low", "far", "top", "east"):
            assert on(cut, case, name) == pytest.approx(on(whole, case, name), rel=1e-6), (case, name)
        west = sum(on(cut, case, f"west{i}") for i in range(3))
        assert west == pytest.approx(on(whole, case, "west"), rel=1e-6), case


@settings(max_examples=25, deadline=None)
@given(
    site=st.sampled_from([*SITES]), width=st.floats(5, 60), length=st.floats(5, 80), eave=st.floats(3, 15),
    rise=st.floats(-3, 12), step=st.floats(-8, 8), gap=st.sampled_from([0.0, 0.0, 1.5, 5.0]),
    low=st.floats(2, 30), shift=st.floats(-20, 20), angle=st.floats(0, 360),
)  # fmt: skip
@example(site="16", width=10, length=10, eave=5, rise=0, step=1e-3, gap=0.0, low=5, shift=0, angle=0)
def test_any_yard_arrives_as_its_shapes_say(site, width, length, eave, rise, step, gap, low, shift, angle):
    """Sums of shapes and of what arrives agree, roofs carry balanced snow in every case but windward slopes, and no drift
    is lower or shorter than nothing."""
    # Nodes too near to be two, or roofs steeper than walls, are another matter.
    shift = 0.0 if abs(shift) < 0.1 else shift
    step = 0.0 if abs(step) < 0.01 else step
    rise = 0.0 if abs(rise) < 0.05 or eave + rise < 1 else rise
    faces = gable(0, width, 0, length, eave, eave + rise) if rise else {"flat": rectangle(0, width, 0, length, eave)}
    other = max(eave + step, 0.5)
    faces["low"] = rectangle(width + gap, width + gap + low, shift, shift + length, other)
    model = resolved(roofs(SITES[site], faces, angle))
    snow = model.snow
    for case in snow.rule.cases:
        shapes = sum(p.force for p in snow.pieces if p.case == case.name) / 1e3
        assert down(model, case.name) == pytest.approx(shapes, rel=1e-7)
        assert shapes <= sum(p.level for p in snow.pieces if p.case == case.name) * 30
    assert all(d.p > 0 and d.length > 0 and d.meeting.h > 0 for d in snow.drifts)


def test_what_is_not_modelled_counts_as_if_it_were():
    """A neighbour and a wall that are stated make the drifts of those that are drawn."""
    for site in (ASCE_16, ASCE_22, EN):
        low = rectangle(0, 16, 0, 30, 4.0)
        drawn = resolved(roofs(site, {"low": low, "high": rectangle(20, 45, 0, 30, 7.0)}))
        stated = resolved(
            roofs(site, {"low": low}) + "beside.shop = { edge = [[20, 0, 7], [20, 30, 7]], behind = 25 }\n"
        )
        for case in ("SXnd", "SXpd", "SYpd"):
            assert on(stated, case, "low") == pytest.approx(on(drawn, case, "low"), rel=1e-9), (site, case)
        flat = {"roof": rectangle(0, 40, 0, 30, 5.0)}
        wall = [(30, 10, 5), (30, 20, 5), (30, 20, 9), (30, 10, 9)]
        drawn = resolved(walled(roofs(site, flat), wall, "parapets"))
        stated = resolved(roofs(site, flat) + "beside.screen = { edge = [[30, 10, 9], [30, 20, 9]] }\n")
        assert len(stated.snow.drifts) == len(drawn.snow.drifts) == 2
        for case in ("SXnd", "SXpd"):
            assert on(stated, case, "roof") == pytest.approx(on(drawn, case, "roof"), rel=1e-9)


def test_walls_in_pieces_and_on_the_edge_of_a_roof():
    """A side drawn as several is one (4 m by 4 m by 2 m are more than 15 ft); a parapet on a step makes it as much
    higher, and no drift of its own."""
    flat = {"roof": rectangle(0, 40, 0, 30, 5.0)}

    def edges(*y):
        return "".join(f"beside.u{i} = {{ edge = [[30, {a}, 9], [30, {b}, 9]], projection = true }}\n"
                       for i, (a, b) in enumerate(pairwise(y)))  # fmt: skip

    whole = resolved(roofs(ASCE_16, flat) + edges(10, 20))
    parts = resolved(roofs(ASCE_16, flat) + edges(10, 14, 18, 20))
    assert on(parts, "SXpd", "roof", "drift at") == pytest.approx(on(whole, "SXpd", "roof", "drift at")) != 0
    assert not resolved(roofs(ASCE_16, flat) + edges(10, 14)).snow.drifts
    low = {"low": STEP["low"], "high": rectangle(20, 45, 0, 30, 4.8)}
    wall = "beside.parapet = { edge = [[20, 0, 6.0], [20, 30, 6.0]] }\n"
    for site in (ASCE_16, EN):
        step = resolved(roofs(site, low) + wall)
        higher = resolved(roofs(site, {**low, "high": rectangle(20, 45, 0, 30, 6.0)}))
        assert on(step, "SXnd", "low") == pytest.approx(on(higher, "SXnd", "low"))
        assert on(step, "SXpd", "low") == pytest.approx(on(higher, "SXpd", "low"))
    # Where the wall goes on beside a shorter taller roof it has its own drift there.
    short = {"low": STEP["low"], "high": rectangle(20, 45, 0, 10, 6.0)}
    part = resolved(roofs(ASCE_16, short) + wall)
    alone = [d for d in part.snow.drifts if d.meeting.riser.name == "parapet"]
    assert [d.meeting.t for d in alone] == [pytest.approx((10.0, 30.0))]
    assert on(part, "SXpd", "low", "drift at parapet") > 0 == on(part, "SXnd", "low", "drift at parapet")


def test_exceptional_snow_is_an_accidental_action():
    """EN 1991-1-3, 4.3: every arrangement C_esl times, in the accidental set of EN 1990 and nowhere else."""
    rules = '[combinations]\nrules = ["EN 1990 6.10", "EN 1990 accidental"]\n'
    model = resolved(roofs(EN + "C_esl = 2.0\n", STEP) + rules)
    for case in ("S", "SXnd", "SXpu"):
        assert down(model, case + "x") == pytest.approx(2 * down(model, case))
    for c in model.combinations:
        sudden = [name for name, _ in c.factors if name.endswith("x")]
        assert len(sudden) <= 1
        assert ("611" in c.clause or "6.11" in c.source or "6.11" in c.clause) or not sudden
    assert any(dict(c.factors).get("SXndx") == 1.0 for c in model.combinations)
    assert not [f for f in model.findings if f.code == "not-combined"]
    same = resolved(roofs(EN + "C_esl = 1.0\n", STEP) + rules)
    assert {"Sx", "SXndx"} <= {name for c in same.combinations for name, _ in c.factors}
    (drift,) = drifts_table(model.snow).rows(np.arange(1))["case"]
    assert drift == "SXnd"


def test_rain_stands_level():
    """8.3: 5.2 lb/ft2 and in on a level roof; on a slope a wedge, and a second roof by the same water."""
    rain = '[rain]\ncode = "ASCE 7-16"\nroofs.all = { on = "*", d_s = "3 in", d_h = "2 in" }\n'
    dry = ASCE_16 + 'variants = "S"\n'
    flat = resolved(roofs(dry, {"roof": rectangle(0, 20, 0, 30, 5.0)}) + rain)
    assert down(flat, "RN") == pytest.approx(600 * 5.2 * 5 * PSF / 1e3, rel=1e-6)
    depth, gamma = 5 * FT / 12, 5.2 * PSF / (FT / 12) / 1e3
    for rise in (0.1, 1.0):  # the wedge ends beyond the roof, and on it
        faces = {"roof": rectangle(0, 20, 0, 30, 5.0 + rise, 5.0)}
        wet = min(20.0, 20 * depth / rise)
        volume = (depth + depth - rise * wet / 20) / 2 * wet * 30
        for angle in (0.0, 33.0):
            model = resolved(roofs(dry, faces, angle) + rain)
            assert down(model, "RN") == pytest.approx(gamma * volume, rel=1e-6)
    low = {"low": rectangle(0, 20, 0, 30, 5.0), "higher": rectangle(20, 30, 0, 30, 5.05)}
    model = resolved(roofs(dry, low) + rain)
    assert down(model, "RN") == pytest.approx(gamma * (600 * depth + 300 * (depth - 0.05)), rel=1e-6)


def test_partial_loads_of_continuous_purlins():
    """7.5.1 on four spans with a cantilever of 2 m: which are full, what each comes to, and another roof beside them."""
    faces = {"roof": rectangle(0, 20, 0, 10, 5.0), "other": rectangle(60, 70, 0, 10, 5.0)}
    lines = 'partial.P = { along = "x", lines = [0, 6, 12, 18, 20], on = "roof" }\n'
    p, width = 0.7 * 1.1 * 1.5, [6, 6, 6, 2]
    full = [{1}, {4}, {2, 3, 4}, {1, 2, 3}, {1, 2}, {2, 3}, {3, 4}]
    for angle in (0.0, 33.0):
        text = roofs(ASCE_16 + lines.replace('"x"', f"{angle}"), faces, angle)
        model = resolved(text)
        assert [c.name for c in model.snow.rule.cases if c.kind == "partial"] == [f"P{i}" for i in range(1, 8)]
        for i, own in enumerate(full, start=1):
            sum_of = sum(w * (1.0 if k in own else 0.5) for k, w in enumerate(width, start=1)) * 10 * p
            assert on(model, f"P{i}", "roof") == pytest.approx(sum_of, rel=1e-6)
            assert on(model, f"P{i}", "other") == pytest.approx(100 * p)
            assert down(model, f"P{i}") == pytest.approx(sum_of + 100 * p, rel=1e-6)
    short = roofs(ASCE_16 + lines.replace(", 20]", "]"), faces)
    reading = read_text(short, "m.toml")
    found = resolve(reading.project, reading.findings).findings
    assert any(f.code == "snow-partial" and f.level == "error" and "18 m" in f.message for f in found)


def test_roofs_of_a_building_are_found_less_its_walls_and_soffits():
    """Those of [wind], without `roofs`: a canopy too, an underside that faces the wind not."""
    more = """[surfaces.under]
corners = ["k0", "k3", "k2", "k1"]
carry = "nodes"
[surfaces.canopy]
corners = ["k0", "k1", "k2", "k3"]
carry = "nodes"
"""
    nodes = "[nodes]\nk0 = [34, 20, 7]\nk1 = [42, 20, 7]\nk2 = [42, 28, 7]\nk3 = [34, 28, 7]\n"
    text = hall("ASCE 7-22", 30, 20, 9, 12, more=more + "[snow]\n" + ASCE_22).replace("[nodes]\n", nodes)
    text = text.replace('exterior = ["', 'free_roofs = "canopy"\nexterior = ["under", "').replace(
        "k2 > k1", "k1 > k2"
    )  # fmt: skip
    text += (
        '[members.rim]\nsection = "HEB 100"\nmaterial = "S355"\n[members.rim.pieces]\na = "k0 > k1"\nb = "k2 > k3"\n'
    )
    found = read_text(text, "m.toml")
    snow = resolve(found.project, found.findings).snow
    names = {f.name for r in snow.roofs for p in r.pitches for f in p.faces}
    assert "canopy" in names and "under" not in names and not any(n.startswith("wall") for n in names)
    assert len(names) == 3
    assert sum(p.level for p in snow.pieces if p.case == "S") == pytest.approx(30 * 20 + 64)


def test_snow_on_a_structural_roof_balances():
    """A slab under a drift: what its elements receive, and the reactions."""
    text = roofs(ASCE_16, STEP).replace('deck = "two-way"', 'material = "C30/37"\nthickness = "20 cm"', 1)
    model = resolved(text)
    whole = on(model, "SXnd", "low") + on(model, "SXnd", "high")
    assert down(model, "SXnd") == pytest.approx(whole, rel=1e-9)


def test_copies_of_roofs_have_snow_where_they_are_named():
    """A yard and its mirror image carry the same, each member of a copy as the one it is of; a copy left out is told."""
    copy = '[[copies]]\nname = "far"\nof = ["edges", "low", "high"]\nmirror = { x = -50 }\n'
    text = roofs(ASCE_16, STEP) + copy
    model = resolved(text)
    assert on(model, "SXpd", "low~far") == pytest.approx(on(model, "SXnd", "low"))
    assert on(model, "SXnd", "low~far") == pytest.approx(on(model, "SXpd", "low"))
    assert down(model, "S") == pytest.approx(2 * on(model, "S", "low") + 2 * on(model, "S", "high"))
    left = read_text(text.replace('roofs = "*"', 'roofs = ["low", "high"]'), "m.toml")
    assert any(f.code == "snow-copies" and "no snow is on them" in f.message for f in left.findings)


def test_the_limits_of_drifts():
    """A lower roof so narrow that 0.6 of its length counts; gaps of 6 h; what stands between; gable ends by their ridge."""
    gamma = weight(1.5)
    narrow = resolved(roofs(ASCE_16, {"low": rectangle(18.8, 20, 0, 30, 4.0), "high": STEP["high"]}))
    h_d, w = 0.72, 2.88
    volume = gamma * h_d * (w - (w - 1.2) ** 2 / w) / 2 * 30
    assert on(narrow, "SXnd", "low", "leeward") == pytest.approx(volume, rel=1e-6)
    far = {"low": rectangle(0, 16, 0, 30, 4.0), "high": rectangle(20, 45, 0, 30, 4.55)}  # 4 m off, 6 h = 3.3 m
    assert not resolved(roofs(ASCE_16, far)).snow.drifts
    steep = {"low": rectangle(0, 18, 0, 30, 5.5), **gable(20, 40, 0, 30, 7.0, 9.0)}  # 2 m off, 1.5 m below
    assert on(resolved(roofs(ASCE_16, steep)), "Ss", "low", "slid") == 0.0
    row = {
        "low": rectangle(0, 16, 0, 30, 4.0),
        "mid": rectangle(16, 19, 0, 30, 6.0),
        "high": rectangle(19, 45, 0, 30, 9.0),
    }
    for site in (ASCE_16, EN):
        met = {(d.meeting.riser.name, d.lower.name) for d in resolved(roofs(site, row)).snow.drifts}
        assert met == {("mid", "low"), ("high", "mid")}
        half = {**row, "mid": rectangle(16, 19, 0, 10, 6.0)}  # the high roof sees the low one past its end
        seen = [d.meeting.t for d in resolved(roofs(site, half)).snow.drifts if d.meeting.riser.name == "high"
                and d.lower.name == "low"]  # fmt: skip
        assert seen and all(b - a == pytest.approx(20.0) for a, b in seen)
    ends = resolved(roofs(ASCE_16, {"low": rectangle(0, 20, -10, 0, 4.0), **gable(0, 20, 0, 30, 7.0, 9.0)}))
    edges = {(round(d.meeting.h, 9), round(d.meeting.t[1] - d.meeting.t[0], 9)) for d in ends.snow.drifts}
    assert edges == {(5.0, 10.0)}


def arch(z, width=4.0):
    """Facets of an arch along x by the heights of their ends."""
    return {f"a{i}": rectangle(width * i, width * (i + 1), 0, 20, a, b) for i, (a, b) in enumerate(pairwise(z))}


def test_curved_roofs():
    """7.6.2: 0.5 p_f at the crown, 2 p_f C_s/C_e at 30 degrees and at the eave, nothing windward; EN, 5.3.5: 0.8 up to 60
    degrees, triangles of 0.5 mu_3 and mu_3 about the quarters."""
    z = [5.0, 8.0, 9.5, 10.0, 9.5, 8.0, 5.0]  # 7.1, 20.6 and 36.9 degrees; 22.6 from eave to crown
    for angle in (0.0, 33.0):
        model = resolved(roofs(ASCE_16, arch(z), angle))
        p_f = 0.7 * 1.1 * 1.5
        C_s = 1 - (np.degrees(np.arctan(0.75)) - 30) / 40
        assert on(model, "S", "a5") == pytest.approx(80 * p_f * C_s)
        lee = ((0.5 * p_f + 2 * p_f) / 2 * 8 + (2 * p_f + 2 * p_f * C_s) / 2 * 4) * 20
        assert down(model, "SXpu") == pytest.approx(lee, rel=1e-6) == down(model, "SXnu")
        assert sum(on(model, "SXpu", f"a{i}") for i in range(3)) == 0
        assert down(model, "SYpu") == pytest.approx(sum(on(model, "SYpu", f"a{i}") for i in range(6)))
        assert down(model, "SYpu") == pytest.approx((16 * p_f + 8 * p_f * C_s) * 20, rel=1e-6)
        model = resolved(roofs(EN, arch(z), angle))
        assert down(model, "S") == pytest.approx(0.8 * 1.2 * 24 * 20)
        mu_3 = min(0.2 + 10 * 5 / 24, 2.0)
        assert down(model, "SXpu") == pytest.approx(1.5 * mu_3 / 2 * 1.2 * 12 * 20, rel=1e-6)
        right = sum(on(model, "SXpu", f"a{i}") for i in range(3, 6))
        assert right == pytest.approx(mu_3 / 2 * 1.2 * 12 * 20, rel=1e-6)
        assert down(model, "SYnu") == pytest.approx(0.8 * 1.2 * 24 * 20)
    flat = resolved(roofs(ASCE_16, arch([5.0, 5.6, 5.9, 6.0, 5.9, 5.6, 5.0])))  # 4.8 degrees
    assert down(flat, "SXpu") == pytest.approx(480 * 0.7 * 1.1 * 1.5)
    steep = [0.0, 8.0, 11.0, 12.0, 11.0, 8.0, 0.0]  # 63.4 degrees at the eaves
    model = resolved(roofs(EN, arch(steep)))
    assert down(model, "S") == pytest.approx(0.8 * 1.2 * 16 * 20)
    assert down(model, "SXnu") == pytest.approx(1.5 * 2.0 / 2 * 1.2 * 8 * 20, rel=1e-6)


def test_drifts_that_intersect_in_a_corner():
    """7.7.3: an L of taller roofs around a lower one. Each wind has both drifts, in the corner the larger of both: by
    a fine sum over the corner."""
    faces = {"low": rectangle(0, 20, 0, 30, 4.0), "east": rectangle(20, 45, 0, 30, 7.0),
             "north": rectangle(0, 20, 30, 80, 7.5)}  # fmt: skip
    for site, g in ((ASCE_16, weight(1.5)), (ASCE_22, min(0.13 * 2.4e3 / PSF + 14, 30) * PCF / 1e3)):
        model = resolved(roofs(site, faces))
        of = {d.meeting.riser.name: d for d in model.snow.drifts if d.kind == "leeward drift"}
        (a, x0), (b, y0) = ((of[n].p / 1e3, of[n].length) for n in ("east", "north"))
        x, y = ((np.arange(4000) + 0.5) * n / 4000 for n in (x0, y0))
        both = np.maximum(a * (1 - x / x0), b * (1 - y / y0)[:, None]).mean() * x0 * y0
        whole = a * x0 * (30 - y0) / 2 + b * y0 * (20 - x0) / 2 + both
        assert on(model, "SXnd", "low", "leeward") == pytest.approx(whole, rel=1e-5)
        assert on(model, "SXnd", "low", "leeward drift at north") < on(model, "SYnd", "low", "leeward drift at north")
        assert g > 0
    apart = {**faces, "north": rectangle(0, 20, 31.5, 80, 7.5)}  # a gap: their drifts do not meet
    apart["east"] = rectangle(20, 45, 0, 20, 7.0)
    model = resolved(roofs(ASCE_16, apart))
    assert on(model, "SXnd", "low", "at north") == 0.0


def test_en_overhanging_edges_and_guards():
    """6.3: s_e = k s^2/gamma with k = 3/d <= d gamma at eaves, 6.4: F_s = s b sin(alpha); in pieces and exceptional."""
    rise = 10 * np.tan(np.radians(15))
    whole = gable(0, 20, 0, 30, 5.0, 5.0 + rise)
    middle = 5.0 + rise / 2
    cut = {"west": whole["west"], "east1": rectangle(10, 15, 0, 30, 5.0 + rise, middle),
           "east2": rectangle(15, 20, 0, 12, middle, 5.0), "east3": rectangle(15, 20, 12, 30, middle, 5.0)}  # fmt: skip
    for s_k, faces in ((1.2, whole), (6.0, whole), (6.0, cut)):
        s = 0.8 * s_k
        d = s / 3.0
        s_e = min(3 / d, d * 3.0) * s**2 / 3.0
        site = EN.replace("1.2", str(s_k)) + 'overhanging = "east*"\nC_esl = 2.0\n'
        for angle in (0.0, 90.0):
            model = resolved(roofs(site, faces, angle))
            assert down(model, "S") == pytest.approx(600 * s + 30 * s_e, rel=1e-9)
            assert down(model, "SXnu") >= 30 * s_e
            double = min(3 / (2 * d), 2 * d * 3.0) * (2 * s) ** 2 / 3.0
            assert down(model, "Sx") == pytest.approx(1200 * s + 30 * double, rel=1e-9)
    flat = resolved(roofs(EN + "overhanging = true\n", {"roof": rectangle(0, 20, 0, 30, 5.0)}))
    s = 0.96
    assert down(flat, "S") == pytest.approx(600 * s + 100 * s * s**2 / 3.0, rel=1e-9)
    model = resolved(roofs(EN + 'guards = "west"\n', gable(0, 20, 0, 30, 5.0, 5.0 + 10 * np.tan(np.radians(40)))))
    table = roofs_table(model.snow)
    assert table["F_s"][0] / 1e3 == pytest.approx(0.8 * 1.2 * 10 * np.sin(np.radians(40)), rel=1e-9)
    assert np.isnan(table["F_s"][1])


def test_en_exceptional_drifts():
    """Annex B: at a taller work, a parapet, a box and in valleys, with nothing elsewhere, as accidental actions."""
    s_k, site = 1.2, EN + "annex_B = true\n"
    model = resolved(roofs(site, STEP))  # 3 m, 20 and 25 m long
    l_s = min(15.0, 20.0, 15.0)
    mu = min(2 * 3 / s_k, 2 * 25 / l_s, 8)
    assert down(model, "SXne") == pytest.approx(mu * s_k * l_s / 2 * 30, rel=1e-6)
    assert down(model, "SXpe") == 0.0
    cases = {c.name: c for c in model.project.cases}
    assert cases["SXne"].action == "accidental"
    assert cases["SXne"].one_of == "snow"
    low = resolved(roofs(site, {"low": STEP["low"], "high": rectangle(20, 45, 0, 30, 4.6)}))
    assert down(low, "SXne") == pytest.approx(2 * 0.6 / s_k * s_k * 3.0 / 2 * 30, rel=1e-6)
    tall = resolved(roofs(site, {"low": STEP["low"], "high": rectangle(20, 45, 0, 30, 8.0)}))  # 5 h are 20 m, 15 count
    drift = next(d for d in tall.snow.drifts if d.kind == "exceptional drift")
    assert (drift.length, drift.p / 1e3) == pytest.approx((15, min(8 / s_k, 50 / 15, 8) * s_k))
    near = resolved(roofs(site, {"low": rectangle(0, 18.6, 0, 30, 4.0), "high": STEP["high"]}))
    off = resolved(roofs(site, {"low": rectangle(0, 18.4, 0, 30, 4.0), "high": STEP["high"]}))
    assert down(near, "SXne") == pytest.approx(mu * s_k * 13.6**2 / 15 / 2 * 30, rel=1e-6)
    assert down(off, "SXne") == 0.0
    flat = {"roof": rectangle(0, 40, 0, 30, 5.0)}
    parapet = with_walls(site, flat, {"p": upright((40, 0), (40, 30), 5.0, 6.0, 6.0)})
    assert down(parapet, "SXpe") == pytest.approx(min(2 / s_k, 2 * 40 / 5, 8) * s_k * 5 / 2 * 30, rel=1e-6)
    box = with_walls(site, flat, {"w": upright((25, 10), (25, 18), 5.0, 9.0, 9.0)})
    assert down(box, "SXpe") == pytest.approx(min(8 / s_k, 5) * s_k * 20 / 2 * 8, rel=1e-6)
    spans = {k: v for n in range(3) for k, v in gable(16 * n, 16 * n + 16, 0, 20, 5.0, 7.0, str(n)).items()}
    assert down(resolved(roofs(site, spans)), "SXpe") == pytest.approx(
        2 * 20 * 16 * min(4 / s_k, 3, 5) * s_k / 2, rel=1e-6
    )
    steep = {**gable(0, 10, 0, 30, 3.0, 5.0), "high": rectangle(10, 20, 0, 30, 9.0)}
    reading = read_text(roofs(site, steep), "m.toml")
    assert any("table B.1" in f.message for f in resolve(reading.project, reading.findings).findings)


def test_sawtooth_roofs_are_loaded_to_their_valleys():
    """7.6.3: behind each upright face 2 p_f/C_e in the valley, no higher than the snow on the ridge; C_s is 1 there."""
    bays = {f"bay{k}": rectangle(8 * k, 8 * k + 8, 0, 20, 5.0, 7.0) for k in range(3)}
    model = resolved(roofs(ASCE_16 + "slippery = true\n", bays))
    p_f = 0.7 * 1.1 * 1.5
    valley = min(2 * p_f, 0.5 * p_f + weight(1.5) * 2.0)
    for case in ("SXpu", "SYnu"):
        for bay in ("bay1", "bay2"):
            assert on(model, case, bay) == pytest.approx(160 * (0.5 * p_f + valley) / 2, rel=1e-9)
    slope = np.degrees(np.arctan(0.25))
    assert on(model, "Ss", "bay0") == pytest.approx(160 * p_f * (70 - slope) / 65, rel=1e-6)  # falls off its open eave
    assert on(model, "Ss", "bay1") == pytest.approx(160 * p_f, rel=1e-6)
    away = {"low": rectangle(0, 8, 0, 20, 5.0, 7.0), "high": rectangle(8, 16, 0, 20, 8.0, 9.0)}  # no valley
    assert on(resolved(roofs(ASCE_16, away)), "SXpu", "low") == pytest.approx(160 * p_f)


def test_lengths_may_be_stated():
    """W of pitches and l_u of roofs in place of those drawn, by surface; the sheet's steps say so."""
    model = resolved(roofs(ASCE_16 + 'W = { "*" = "10 m", west = "14 m" }\n', gable(0, 20, 0, 30, 5.0, 7.5)))
    h_d = h_d_16(1.5, 14, 1.1)
    assert on(model, "SXpu", "east", "leeward drift") == pytest.approx(h_d * weight(1.5) * 8 * h_d / 3 * 30, rel=1e-6)
    more = 'l_u = { high = "60 m" }\nW = "9 m"\n'
    model = resolved(roofs(ASCE_16 + more, STEP))
    lee, wind = h_d_16(1.5, 60, 1.1), 0.75 * h_d_16(1.5, 20, 1.1)
    drifts = {d.kind: d for d in model.snow.drifts}
    assert drifts["leeward drift"].h_d == pytest.approx(lee)
    assert drifts["windward drift"].h_d == pytest.approx(wind)
    assert "as stated" in next(s.formula for s in drifts["leeward drift"].steps if s.symbol == "l_u")
    model = resolved(
        roofs(EN + 'l_u = { low = "30 m" }\n', {"low": STEP["low"], "high": rectangle(20, 26, 0, 30, 8.0)})
    )
    mu_w = min(36 / 8, 2 * 4 / 1.2, 4.0)
    assert on(model, "SXnd", "low", "drift against") == pytest.approx((mu_w - 0.8) * 1.2 * 8 / 2 * 30, rel=1e-6)
