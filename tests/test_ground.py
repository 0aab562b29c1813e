"""Springs and settlements of supports, temperature and lacks of fit, against closed forms."""

from dataclasses import replace

import numpy as np
import pytest

from build import (
    FIXED,
    HERE,
    HINGED,
    PINNED,
    RIGID,
    SECTION,
    E,
    at_node,
    fine,
    inside,
    line,
    named,
    project,
    solved,
    toward,
)
from empuje.core.analysis.solve import solve
from empuje.core.answers.reactions import closing_error, resultants
from empuje.core.model.frame import Support
from empuje.core.model.loads import Settlement, Strain
from models import PORTAL, reading, solution

NEAR = 1e-9
L = 6.3
ALPHA = 1.2e-5
ALONG = np.array([0.48, -0.6, 0.64]) * L
EI = E * SECTION.Iy


def on_springs(xyz, members, held, springs, loads, **options):
    """As `solved`, with springs {node: (x, y, z, rx, ry, rz)} besides what is held."""
    frame = project(xyz, members, held, loads, **options)
    more = tuple(Support(n, (False,) * 6, HERE, k) for n, k in springs.items())
    frame = replace(frame, supports=frame.supports + more)
    return solve(fine(frame))


def settle(node, *motion, case="Q"):
    return Settlement(case, (node,), motion, "settle", HERE)


def strain(temperature=0.0, gradient_y=0.0, gradient_z=0.0, lack_of_fit=0.0, member=0):
    return Strain("Q", (member,), temperature, gradient_y, gradient_z, lack_of_fit, "strain", HERE)


def askew(loads, joints=RIGID + RIGID, ends=(0, 1)):
    xyz = [(1, 2, 3), np.array([1, 2, 3]) + ALONG]
    return solved(xyz, [(0, 1, {"joints": joints, "roll": 0.4})], dict.fromkeys(ends, FIXED), loads)


def test_a_beam_propped_by_a_spring():
    """Middle spring under even load: R = (5 q (2l)^4/384EI) / ((2l)^3/48EI + 1/k)."""
    q, k, span = 4e3, 2.5e6, 2 * L
    xyz = [(0, 0, 0), (span, 0, 0), (L, 0, 0)]
    held = {0: PINNED, 1: (False, True, True, False, False, False)}
    s = on_springs(xyz, [(0, 1)], held, {2: (0, 0, k, 0, 0, 0)}, [line(0, q)], plane=True)
    R = 5 * q * span**4 / (384 * EI) / (span**3 / (48 * EI) + 1 / k)
    assert s.reaction[2, 2, 0] == pytest.approx(R, rel=NEAR)
    assert s.displacement[2, 2, 0] == pytest.approx(-R / k, rel=NEAR)
    assert s.reaction[:, 2, 0].sum() == pytest.approx(q * span, rel=NEAR)


def test_a_post_on_nothing_but_springs():
    """A sliding and a turning foot add to the post's own bending."""
    k, c, h, P = (3e6, 4e6, 5e6), (6e6, 7e6, 8e6), 3.2, 2e3
    s = on_springs([(0, 0, 0), (0, 0, h)], [(0, 1)], {}, {0: k + c}, [at_node(1, P, way=toward((1, 0, 0)))])
    own = P * h**3 / (3 * EI)
    assert s.displacement[1, 0, 0] == pytest.approx(own + P / k[0] + P * h**2 / c[1], rel=NEAR)
    assert s.reaction[0, :, 0] == pytest.approx([-P, 0, 0, 0, -P * h, 0], rel=NEAR, abs=1e-6)


def test_settlements_of_a_fixed_beam():
    """6 EI d/L^2 and 12 EI d/L^3 for a sinking end, 4 EI t/L and 2 EI t/L for a turning one; and they combine."""
    d, t = -0.012, 2e-3
    xyz = [(0, 0, 0), (L, 0, 0)]
    loads = [settle(1, 0, 0, d, 0, 0, 0), settle(0, 0, 0, 0, 0, t, 0, case="T")]
    s = solved(xyz, [(0, 1)], {0: FIXED, 1: FIXED}, loads, combinations={"U": {"Q": 1.5, "T": -2.0}})
    # A sinking right end hogs the left one: tension on top, M = -6 EI |d| / L^2 there.
    assert inside(s, 0, 0.0)[[2, 4]] == pytest.approx([-12 * EI * d / L**3, 6 * EI * d / L**2], rel=NEAR)
    assert s.displacement[1, 2, 0] == d and inside(s, 0, L, "shape")[2] == pytest.approx(d, rel=NEAR)
    turned = inside(s, 0, 0.0, case="T")[4], inside(s, 0, L, case="T")[4]
    assert turned == pytest.approx((4 * EI * t / L, -2 * EI * t / L), rel=NEAR)
    assert inside(s, 0, 0.0, case="U")[4] == pytest.approx(1.5 * 6 * EI * d / L**2 - 8 * EI * t / L, rel=NEAR)
    assert closing_error(s, named(s, ["Q", "T", "U"])).max() < 1e-12


def test_the_middle_support_of_two_spans_sinks():
    """M = 3 EI d/L^2 over the support (a statement of the three-moment equation)."""
    xyz = [(0, 0, 0), (L, 0, 0), (2 * L, 0, 0)]
    loads = [settle(1, 0, 0, -0.01, 0, 0, 0)]
    s = solved(xyz, [(0, 2)], dict.fromkeys(range(3), PINNED), loads, plane=True)
    assert inside(s, 0, L)[4] == pytest.approx(3 * EI * 0.01 / L**2, rel=NEAR)


def test_ground_that_moves_under_a_spring():
    """A bar between a fixed point and a spring whose foot moves: F = d / (L/EA + 1/k)."""
    k, d = 4e7, 3e-3
    xyz = [(0, 0, 0), (L, 0, 0)]
    s = on_springs(xyz, [(0, 1)], {0: FIXED}, {1: (k, 0, 0, 0, 0, 0)}, [settle(1, d, 0, 0, 0, 0, 0)], plane=True)
    F = d / (L / (E * SECTION.A) + 1 / k)
    assert inside(s, 0, 1.0)[0] == pytest.approx(F, rel=NEAR)
    assert s.reaction[:, 0, 0] == pytest.approx([-F, F], rel=NEAR)


def test_warmth_pushes_a_held_member_and_stretches_a_free_one():
    held = askew([strain(temperature=30.0)])
    assert inside(held, 0, 2.0)[0] == pytest.approx(-E * SECTION.A * ALPHA * 30, rel=NEAR)
    assert np.abs(inside(held, 0, 2.0, "shape")).max() < 1e-15
    free = askew([strain(temperature=30.0)], ends=(0,))
    assert inside(free, 0, 2.0)[0] == pytest.approx(0, abs=1e-6)
    assert inside(free, 0, 2.0, "shape")[0] == pytest.approx(ALPHA * 30 * 2.0, rel=NEAR)
    assert free.displacement[1, :3, 0] == pytest.approx(ALPHA * 30 * ALONG, rel=NEAR)


@pytest.mark.parametrize(
    ("key", "moment", "deflection", "inertia"),
    [("gradient_z", 4, 2, SECTION.Iy), ("gradient_y", 5, 1, SECTION.Iz)],
)
def test_gradients_bend(key, moment, deflection, inertia):
    """Held at both ends M = EI a g, propped 3/2 of it at the fixed end; free to turn, a bow a g L^2/8 to the warm side."""
    g = 40.0
    full = E * inertia * ALPHA * g
    assert inside(askew([strain(**{key: g})]), 0, 1.0)[moment] == pytest.approx(full, rel=NEAR)
    propped = askew([strain(**{key: g})], RIGID + HINGED)
    assert inside(propped, 0, 0.0)[moment] == pytest.approx(1.5 * full, rel=NEAR)
    simple = askew([strain(**{key: g})], HINGED + HINGED)
    assert inside(simple, 0, 3.0)[moment] == pytest.approx(0, abs=1e-6)
    assert inside(simple, 0, L / 2, "shape")[deflection] == pytest.approx(ALPHA * g * L**2 / 8, rel=NEAR)


def test_a_misfit_in_a_three_bar_joint():
    """The middle one of three bars is made too long: forces by hand from one compatibility equation."""
    h, a, m = 3.0, 2.0, 4e-3
    side = np.hypot(h, a)
    bar = {"joints": HINGED + HINGED, "bar": True}
    xyz = [(0, 0, h), (-a, 0, h), (a, 0, h), (0, 0, 0)]
    held = dict.fromkeys(range(3), PINNED)
    s = solved(xyz, [(i, 3, bar) for i in range(3)], held, [strain(lack_of_fit=m)], plane=True)
    EA, c = E * SECTION.A, h / side
    # The joint sinks by u: the middle bar stretches by u - m, each side bar by u c; N + 2 S c = 0.
    u = m / h / (1 / h + 2 * c**2 / side)
    assert inside(s, 0, 1.0)[0] == pytest.approx(EA * (u - m) / h, rel=NEAR)
    assert inside(s, 1, 1.0)[0] == pytest.approx(EA * u * c / side, rel=NEAR)
    applied, reaction = resultants(s, named(s, ["Q"]))
    assert np.abs(applied).max() == 0 and np.abs(reaction).max() < 1e-6


def test_strains_of_a_member_cut_by_nodes_are_those_of_the_whole():
    xyz = np.array([(0, 0, 0), (6, 1, 2), (2.4, 0.4, 0.8)])
    options = {"roll": 0.3}
    loads = [strain(20, 15, -30, 2e-3)]
    whole = solved(xyz[:2], [(0, 1, options)], {0: FIXED, 1: FIXED}, loads)
    cut = solved(xyz, [(0, 1, options)], {0: FIXED, 1: FIXED}, loads)
    assert len(cut.mesh.member) == 2
    for x in (0.0, 1.1, 4.0, 6.2):
        assert inside(cut, 0, x) == pytest.approx(inside(whole, 0, x), rel=1e-9, abs=1e-4)
        assert inside(cut, 0, x, "shape") == pytest.approx(inside(whole, 0, x, "shape"), rel=1e-9, abs=1e-13)


def test_warming_the_whole_of_a_free_frame_strains_nothing():
    """A statically determinate frame in even warmth grows and keeps all its forces at zero."""
    xyz = [(0, 0, 0), (0, 0, 4), (5, 1, 4), (7, 1, 2)]
    members = [(0, 1), (1, 2, {"roll": 0.5}), (2, 3)]
    s = solved(xyz, members, {0: FIXED}, [strain(25.0, member=m) for m in range(3)])
    assert s.displacement[3, :3, 0] == pytest.approx(ALPHA * 25 * np.array(xyz[3]), rel=NEAR)
    assert np.abs(s.start_force).max() < 1e-3


def test_the_words_of_the_model_file():
    foot = 'fix = "x y rx ry rz"\nspring = { z = "40 MN/m" }\nsettle = { case = "D", z = "-8 mm", rx = "1 mrad" }'
    text = PORTAL.replace('fix = "fixed"', foot)
    text = text.replace("W = { action", 'D = { action = "settlement" }\nT = { action = "thermal" }\nW = { action')
    warm = '{ on = "rafters", temperature = 25, gradient_z = "30 K/m" }, { on = "ties", lack_of_fit = "3 mm" }'
    text = text.replace("W = [ {", f"T = [ {warm} ]\nW = [ {{")
    s = solution(text)
    assert not [f for f in reading(text).findings if f.level != "note"]
    d = list(s.project.case_names).index("D")
    # All feet sink alike and lean with the posts between hinged ties: nothing is strained, the springs follow the ground.
    assert s.displacement[s.support_node, 2, d] == pytest.approx([-8e-3] * 4, rel=1e-9)
    assert np.abs(s.reaction[:, :, d]).max() < 1e-3
    assert s.loads.settlements.d[0].tolist() == [0, 0, -8e-3, 1e-3, 0, 0]
    assert s.loads.strains.v[0].tolist() == [25, 0, 30, 0] and s.loads.strains.v[-1].tolist() == [0, 0, 0, 3e-3]
    assert closing_error(s, named(s, ["D", "T"])).max() < 1e-9


def test_materials_that_do_not_expand_are_told():
    text = PORTAL.replace("[grid]", '[materials]\nm = { E = "200 GPa", density = "7.9 t/m3" }\n[grid]')
    text = text.replace('"IPE 300"\nmaterial = "S235"', '"IPE 300"\nmaterial = "m"')
    text = text.replace("W = [ {", 'W = [ { on = "rafters", temperature = 25 }, {')
    assert [f.code for f in reading(text).findings] == ["no-expansion"]
