"""Second order and critical loads against the closed forms of the beam-column."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from build import (
    FIXED,
    HINGED,
    PINNED,
    RIGID,
    SECTION,
    E,
    G,
    at_node,
    held,
    inside,
    line,
    point,
    project,
    toward,
)  # fmt: skip
from empuje.core.actions import plain_loads
from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.polynomials import value_at
from empuje.core.analysis.solve import solve
from empuje.core.answers.envelope import extremes
from empuje.core.answers.reactions import closing_error
from test_properties import MEMBERS, SUPPORTS, XYZ, some_loads

L = 5.0
EI = E * SECTION.Iz
ALONG_Y = toward((0, 1, 0))
NEAR = 1e-9


def bent(xyz, members, supports, loads, under=None, **options):
    """Solved by second order under U, which is 1.0 Q unless said."""
    frame = project(xyz, members, supports, loads, combinations=under or {"U": {"Q": 1.0}}, **options)
    frame = replace(frame, second_order=("*",))
    plain, findings = plain_loads(frame)
    assert not findings
    return solve(frame, plain)


@pytest.mark.parametrize("share", [0.2, 0.5, 0.8, 0.95])
def test_cantilever_under_thrust_and_side_load(share):
    """M = H tan(kL)/k, d = H/P (tan(kL)/k - L); M(x) = H sin(k (L - x)) / (k cos kL) in between; at an odd direction too."""
    P, H = share * np.pi**2 * EI / (4 * L**2), 1e3
    k = np.sqrt(P / EI)
    s = bent([(0, 0, 0), (0, 0, L)], [(0, 1)], {0: FIXED}, [at_node(1, P), at_node(1, H, way=ALONG_Y)])
    assert s.critical["U"] == pytest.approx(1 / share, rel=NEAR)
    assert (s.displacement[1, 1] @ s.weights(["U"])).item() == pytest.approx(H / P * (np.tan(k * L) / k - L), rel=1e-8)
    for x in (0.0, 1.7, 4.1):
        M = H * np.sin(k * (L - x)) / (k * np.cos(k * L))
        assert abs(inside(s, 0, x, case="U")[5]) == pytest.approx(M, rel=1e-8)
    assert closing_error(s, ["U"]).max() < 1e-10
    # The same column leaning in space, rolled so that it bends about its weak axis again.
    axis = np.array([0.48, -0.6, 0.64])
    flat = bent([(1, 2, 3), np.array([1, 2, 3]) + L * axis], [(0, 1)], {0: FIXED},
                [at_node(1, P, way=toward(-axis)), at_node(1, H, way=toward((0.6, 0.48, 0) / np.hypot(0.6, 0.48)))])  # fmt: skip
    assert abs(inside(flat, 0, 0.0, case="U")[5]) == pytest.approx(H * np.tan(k * L) / k, rel=1e-8)


@pytest.mark.parametrize("share", [-3.0, 0.3, 0.8])
def test_simple_beam_under_even_load_with_thrust(share):
    """M_mid = (q/k^2)(sec(kL/2) - 1), in tension sech; with the hinges at supports or in the member's own ends."""
    P, q = share * np.pi**2 * EI / L**2, 800.0
    k = np.sqrt(abs(P) / EI)
    peak = (1 / np.cos(k * L / 2) - 1) if P > 0 else (1 - 1 / np.cosh(k * L / 2))
    for joints, ends in ((RIGID + RIGID, (PINNED, held("y z rx"))), (HINGED + HINGED, (FIXED, held("y z rx ry rz")))):
        loads = [at_node(1, P, way=toward((-1, 0, 0))), line(0, q)]
        s = bent(
            [(0, 0, 0), (L, 0, 0)], [(0, 1, {"joints": joints, "roll": np.pi / 2})], {0: ends[0], 1: ends[1]}, loads
        )
        assert abs(inside(s, 0, L / 2, case="U")[5]) == pytest.approx(q / k**2 * peak, rel=3e-7)
        sag = abs(q / k**2 * peak - q * L**2 / 8) / abs(P)
        assert abs(inside(s, 0, L / 2, "shape", case="U")[1]) == pytest.approx(sag, rel=3e-7)
        found = extremes(s, ["U"], np.array([0]))
        assert np.abs(found.forces[0, 5, :, 5]).max() == pytest.approx(q / k**2 * peak, rel=3e-7)
        assert found.x[0, 5, np.abs(found.forces[0, 5, :, 5]).argmax()] == pytest.approx(L / 2, abs=1e-6)


@pytest.mark.parametrize("share", [0.3, 0.8])
def test_shear_flexible_beam_under_even_load_with_thrust(share):
    """M_mid = (q EI/P)(sec(kL/2) - 1) with k^2 = P / (EI (1 - P/GA)): shear follows the deformed axis (Engesser)."""
    q, GA = 800.0, G * 4e-4
    P = share * np.pi**2 * E * SECTION.Iy / L**2
    k = np.sqrt(P / (E * SECTION.Iy) / (1 - P / GA))
    member = {"section": replace(SECTION, Ay=4e-4, Az=4e-4), "shear": True}
    s = bent([(0, 0, 0), (L, 0, 0)], [(0, 1, member)], {0: PINNED, 1: held("z")},
             [line(0, q), at_node(1, P, way=toward((-1, 0, 0)))], plane=True)  # fmt: skip
    M = q * E * SECTION.Iy / P * (1 / np.cos(k * L / 2) - 1)
    assert inside(s, 0, L / 2, case="U")[4] == pytest.approx(M, rel=1e-7)
    assert -inside(s, 0, L / 2, "shape", case="U")[2] == pytest.approx((M - q * L**2 / 8) / P, rel=1e-6)


def test_thrust_that_enters_half_way_up():
    """Load at mid-height of a cantilever: as a cantilever of half the length, the upper half going along.

    The jump of N inside a member is what its shapes follow least well."""
    s = bent([(0, 0, 0), (0, 0, L)], [(0, 1)], {0: FIXED}, [point(0, np.pi**2 * EI / L**2, L / 2)])
    assert s.critical["U"] == pytest.approx(1.0, rel=1e-3)


def portal(P, H, fixed, **options):
    """h = 4, b = 6 in the plane: columns bend about their weak axis, the beam about its strong one."""
    xyz = [(0, 0, 0), (0, 0, 4), (6, 0, 4), (6, 0, 0)]
    stiff = replace(SECTION, A=1.0)
    column, beam = {"section": stiff, "roll": np.pi / 2}, {"section": stiff}
    foot = FIXED if fixed else PINNED
    loads = [at_node(1, P), at_node(2, P), at_node(1, H, way=toward((1, 0, 0)))]
    return bent(xyz, [(0, 1, column), (1, 2, beam), (3, 2, column)], {0: foot, 3: foot}, loads, plane=True, **options)


@pytest.mark.parametrize("fixed", [True, False])
def test_sway_portal(fixed):
    """Fixed feet: -kL cot(kL) = 6 n, pinned: kL tan(kL) = 6 n, with n = (I_b/b)/(I_c/h) (Timoshenko and Gere, 2.4)."""
    n = SECTION.Iy / 6 / (SECTION.Iz / 4)
    if fixed:
        u = brentq(lambda u: -u / np.tan(u) - 6 * n, np.pi / 2 + 1e-9, np.pi - 1e-9)
    else:
        u = brentq(lambda u: u * np.tan(u) - 6 * n, 1e-9, np.pi / 2 - 1e-9)
    P = u**2 * EI / 16
    s = portal(P / 5, 0.0, fixed)
    assert s.critical["U"] == pytest.approx(5.0, rel=2e-5)
    # Symmetric, so no load drives the sway; it is found all the same.
    assert "beyond its elastic critical load" in str(portal(1.1 * P, 0.0, fixed).failed["U"])


def test_sway_grows_as_the_critical_load_says():
    P = portal(1.0, 0.0, True).critical["U"]
    first = portal(1e-6 * P, 1e3, True)
    second = portal(P / 4, 1e3, True)
    u = [(s.displacement[1, 0] @ s.weights(["U"])).item() for s in (first, second)]
    assert u[1] / u[0] == pytest.approx(1 / (1 - 1 / 4), rel=0.01)


def test_a_leaning_column_loads_the_one_that_stands():
    """A pinned column beside a cantilever, tied by a bar: P on the pinned one alone has P_cr = 3.0 EI/h^3 h less what the
    cantilever's own curvature gives: with all of P leaning, u'' is linear and k h = 3 EI / h^3 exactly."""
    xyz = [(0, 0, 0), (0, 0, L), (3, 0, L), (3, 0, 0)]
    stiff = replace(SECTION, A=10.0)
    column = {"section": SECTION, "roll": np.pi / 2}
    bar = {"section": stiff, "bar": True, "joints": HINGED + HINGED}
    s = bent(xyz, [(0, 1, column), (1, 2, bar), (3, 2, {**bar, "section": stiff})], {0: FIXED, 3: PINNED},
             [at_node(2, 3 * EI / L**2 / 10)], plane=True)  # fmt: skip
    assert s.critical["U"] == pytest.approx(10.0, rel=1e-5)


def test_one_member_equals_its_parts_and_every_result_stands_alone():
    """Split by nodes or not, worked on together or alone: the same answer."""
    P, q = 0.7 * np.pi**2 * EI / L**2, 600.0
    section = replace(SECTION, Ay=3e-3, Az=3e-3)
    member = {"section": section, "shear": True, "roll": 0.3}
    ends = {0: PINNED, 1: held("y z rx")}
    loads = [at_node(1, P, way=toward((-1, 0, 0))), line(0, q, way=toward((0, 0.6, -0.8))), point(0, 2e3, 2.0)]
    under = {"U": {"Q": 1.0}, "half": {"Q": 0.5}}
    whole = bent([(0, 0, 0), (L, 0, 0)], [(0, 1, member)], ends, loads, under)
    split = bent([(0, 0, 0), (L, 0, 0), (1.9, 0, 0), (3.3, 0, 0)], [(0, 1, member)], ends, loads, under)
    alone = bent([(0, 0, 0), (L, 0, 0)], [(0, 1, member)], ends, loads, {"half": {"Q": 0.5}})
    for x in (0.4, 2.6, 4.0):
        for which in ("force", "shape"):
            assert inside(split, 0, x, which, "U") == pytest.approx(inside(whole, 0, x, which, "U"), rel=3e-5, abs=1e-7)
            assert inside(alone, 0, x, which, "half") == pytest.approx(
                inside(whole, 0, x, which, "half"), rel=1e-10, abs=1e-12
            )
    assert set(whole.how(["U"])) == {"second order"} and whole.how(["Q"]) == ["summed"]


def test_rigid_lengths_take_part_in_the_sway():
    """A cantilever with a rigid top b: P's arm grows with b; tan(kl) = 1 / (k b) with l the clear length."""
    b, clear = 1.5, 3.5
    u = brentq(lambda k: np.tan(k * clear) * k * b - 1, 1e-6, np.pi / 2 / clear - 1e-9)
    s = bent([(0, 0, 0), (0, 0, L)], [(0, 1, {"offsets": (0.0, b)})], {0: FIXED}, [at_node(1, u**2 * EI / 8)])
    assert s.critical["U"] == pytest.approx(8.0, rel=NEAR)
    s = bent(
        [(0, 0, 0), (0, 0, L)],
        [(0, 1, {"offsets": (0.0, b)})],
        {0: FIXED},
        [at_node(1, u**2 * EI / 2), at_node(1, 1e3, way=ALONG_Y)],
    )
    # Moments of all forces about the foot, in the deformed shape.
    d = (s.displacement[1, 1] @ s.weights(["U"])).item()
    assert abs(inside(s, 0, 0.0, case="U")[5]) == pytest.approx(1e3 * L + u**2 * EI / 2 * d, rel=1e-8)
    assert inside(s, 0, L, case="U")[5] == pytest.approx(0, abs=1e-5)


def test_ties_that_go_slack_under_thrust():
    """A braced cantilever pair: with the tie pulled the frame is stiff, with both slack it is a cantilever again."""
    xyz = [(0, 0, 0), (0, 0, L), (0, -4, 0), (0, 4, 0)]
    tie = {"section": replace(SECTION, A=5e-4), "bar": True, "acts": "tension", "joints": HINGED + HINGED}
    P, H = 0.5 * np.pi**2 * EI / (4 * L**2), 1e3
    supports = {0: FIXED, 2: PINNED, 3: PINNED}
    loads = [at_node(1, P), at_node(1, H, way=ALONG_Y, case="W")]
    s = bent(xyz, [(0, 1), (2, 1, tie), (3, 1, tie)], supports, loads, {"U": {"Q": 1.0, "W": 1.0}, "P": {"Q": 1.0}})
    # One tie pulls, the other hangs loose; P on the column shortens it, so the other cannot pull.
    taut, loose = (inside(s, m, 1.0, case="U")[0] for m in (1, 2))
    assert taut > 0 and loose == pytest.approx(0, abs=1e-6)
    # Statics on the deformed shape: foot moment = H L + P d - T (arm of the tie about the foot on the first-order axis).
    d, sinks = (s.displacement[1, 1:3] @ s.weights(["U"]))[:, 0]
    c, along = 4 / np.hypot(4, L), np.array([-4, -L]) / np.hypot(4, L)
    N = inside(s, 0, 0.0, case="U")[0]
    sway = taut / np.hypot(4, L) * (d - (d * along[0] + sinks * along[1]) * along[0])
    foot = abs(inside(s, 0, 0.0, case="U")[5])
    assert foot == pytest.approx((H - taut * c - sway) * L - N * d, rel=1e-6)
    # Under P alone both are slack, and the column has its own critical load.
    assert [inside(s, m, 1.0, case="P")[0] for m in (1, 2)] == pytest.approx([0, 0], abs=1e-6)
    assert s.critical["P"] == pytest.approx(2.0, rel=1e-8)
    assert closing_error(s, ["U", "P"]).max() < 1e-9


# ---- what must hold for every frame


@settings(max_examples=8, deadline=None)
@given(st.floats(-3.1, 3.1), st.floats(3.0, 12.0))
def test_a_space_frame_turned_about_z(turn, size):
    """No favourite axes; equilibrium and bending on the deformed shape in every piece, and of the whole."""
    c, t = np.cos(turn), np.sin(turn)
    about_z = np.array([(c, t, 0), (-t, c, 0), (0, 0, 1)])
    still, turned = (
        bent(XYZ @ way, MEMBERS, SUPPORTS, some_loads(turn=angle, size=size)) for way, angle in ((np.eye(3), 0.0), (about_z, turn))
    )  # fmt: skip
    assert turned.critical["U"] == pytest.approx(still.critical["U"], rel=1e-7)
    assert turned.critical["U"] > 1
    every = np.arange(len(MEMBERS))
    pieces = [build_pieces(s, every, s.weights(["U"]), True) for s in (still, turned)]
    forces = [np.stack([value_at(p.force, a * p.length)[:, :, 0] for a in (0, 0.37, 1)]) for p in pieces]
    largest = np.abs(forces[0]).max()
    assert np.abs(forces[1] - forces[0]).max() < 1e-7 * largest
    assert closing_error(still, ["U"]).max() < 1e-9
    piece, bends = pieces[0], ~np.array([m.bar for m in still.project.members])[pieces[0].member]
    powers = np.arange(1, piece.force.shape[2])[:, None]
    rise, M_rise = piece.shape[:, :, 1:] * powers, piece.force[:, :, 1:] * powers
    for at in (0.1, 0.62, 0.9):
        t_at = at * piece.length
        N, Vy, Vz, _, My, Mz = value_at(piece.force, t_at)[..., 0].T
        _, slope_y, slope_z, _, bend_y, bend_z = value_at(rise, t_at)[..., 0].T
        changes = value_at(M_rise, t_at)[..., 0]
        assert np.abs(changes[:, 4] - Vz - N * slope_z)[bends].max() < 1e-9 * largest
        assert np.abs(changes[:, 5] - Vy - N * slope_y)[bends].max() < 1e-9 * largest
        assert np.abs(My + E * SECTION.Iy * bend_y)[bends].max() < 1e-5 * largest
        assert np.abs(Mz - E * SECTION.Iz * bend_z)[bends].max() < 1e-5 * largest


def test_a_plane_model_does_not_buckle_out_of_its_plane():
    """A fixed column that is a hundred times weaker across the plane buckles at 4 pi^2 EI / L^2 in it."""
    for roll, section in (
        (0.0, replace(SECTION, Iz=SECTION.Iy / 100)),
        (np.pi / 2, replace(SECTION, Iy=SECTION.Iz / 100)),
    ):
        inertia = max(section.Iy, section.Iz)
        P = 4 * np.pi**2 * E * inertia / L**2 / 3
        s = bent(
            [(0, 0, 0), (0, 0, L)],
            [(0, 1, {"section": section, "roll": roll})],
            {0: FIXED, 1: held("x ry")},
            [at_node(1, P)],
            plane=True,
        )
        assert s.critical["U"] == pytest.approx(3.0, rel=1e-8)


def test_a_bar_sags_under_its_own_loads_whatever_its_thrust():
    """M = q L^2/8 in a strut between two nodes, and the thrust acts on the motion of its ends alone."""
    bar = {"bar": True, "joints": HINGED + HINGED, "section": replace(SECTION, A=1.0)}
    post = {"section": replace(SECTION, A=1.0), "roll": np.pi / 2}
    P, q = 0.2 * EI / L**2, 500.0
    loads = [at_node(1, P), at_node(2, P), line(1, q), at_node(1, 2e3, way=toward((1, 0, 0)))]
    s = bent(
        [(0, 0, 0), (0, 0, L), (3, 0, L), (3, 0, 0)],
        [(0, 1, post), (1, 2, bar), (3, 2, bar)],
        {0: FIXED, 3: PINNED},
        loads,
        plane=True,
    )
    assert inside(s, 1, 1.5, case="U")[4] == pytest.approx(q * 9 / 8, rel=1e-6)
    assert [inside(s, 1, x, case="U")[4] for x in (0.0, 3.0)] == pytest.approx([0, 0], abs=1e-6)
    # The pinned strut leans by d: its push H = N d/L comes on top of the post's.
    d = (s.displacement[2, 0] @ s.weights(["U"])).item()
    assert -s.reaction[1, 0] @ s.weights(["U"])[:, 0] == pytest.approx(-(P + q * 1.5) * d / L, rel=1e-6)
