"""Second order and critical loads against the closed forms of the beam-column."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from build import (
    FIXED,
    HERE,
    HINGED,
    PINNED,
    RIGID,
    SECTION,
    E,
    G,
    at_node,
    critical,
    fine,
    held,
    inside,
    line,
    named,
    point,
    project,
    toward,
)  # fmt: skip
from empuje.core.analysis.axial import by_element
from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.polynomials import value_at
from empuje.core.analysis.solve import first_order, solve
from empuje.core.answers.envelope import extremes
from empuje.core.answers.reactions import closing_error
from empuje.core.answers.stability import lowest_critical
from empuje.core.catalogue.catalogue import find_section
from empuje.core.model.combining import Combining
from empuje.core.model.frame import Support
from empuje.core.resolve import resolve
from empuje.study.study import Study
from models import PORTAL, solution
from test_properties import MEMBERS, SUPPORTS, XYZ, some_loads

L = 5.0
EI = E * SECTION.Iz
ALONG_Y = toward((0, 1, 0))
NEAR = 1e-9


def bent(xyz, members, supports, loads, under=None, **options):
    """Solved by second order under U, which is 1.0 Q unless said."""
    frame = project(xyz, members, supports, loads, combinations=under or {"U": {"Q": 1.0}}, **options)
    frame = replace(frame, second_order=("*",))
    return solve(fine(frame))


@pytest.mark.parametrize("share", [0.2, 0.5, 0.8, 0.95])
def test_cantilever_under_thrust_and_side_load(share):
    """M = H tan(kL)/k, d = H/P (tan(kL)/k - L); M(x) = H sin(k (L - x)) / (k cos kL) in between; at an odd direction too."""
    P, H = share * np.pi**2 * EI / (4 * L**2), 1e3
    k = np.sqrt(P / EI)
    s = bent([(0, 0, 0), (0, 0, L)], [(0, 1)], {0: FIXED}, [at_node(1, P), at_node(1, H, way=ALONG_Y)])
    assert critical(s, "U") == pytest.approx(1 / share, rel=NEAR)
    assert (s.displacement[1, 1] @ s.weights(named(s, ["U"]))).item() == pytest.approx(
        H / P * (np.tan(k * L) / k - L), rel=1e-8
    )
    for x in (0.0, 1.7, 4.1):
        M = H * np.sin(k * (L - x)) / (k * np.cos(k * L))
        assert abs(inside(s, 0, x, case="U")[5]) == pytest.approx(M, rel=1e-8)
    assert closing_error(s, named(s, ["U"])).max() < 1e-10
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
        found = extremes(s, named(s, ["U"]), np.array([0]))
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
    assert critical(s, "U") == pytest.approx(1.0, rel=1e-3)


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
    assert critical(s, "U") == pytest.approx(5.0, rel=2e-5)
    # Symmetric, so no load drives the sway; it is found all the same.
    assert "beyond its elastic critical load" in str(next(iter(portal(1.1 * P, 0.0, fixed).failed.values())))


def test_sway_grows_as_the_critical_load_says():
    P = critical(portal(1.0, 0.0, True), "U")
    first = portal(1e-6 * P, 1e3, True)
    second = portal(P / 4, 1e3, True)
    u = [(s.displacement[1, 0] @ s.weights(named(s, ["U"]))).item() for s in (first, second)]
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
    assert critical(s, "U") == pytest.approx(10.0, rel=1e-5)


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
    assert set(whole.how(named(whole, ["U"]))) == {"second order"} and whole.how(named(whole, ["Q"])) == ["summed"]


def test_rigid_lengths_take_part_in_the_sway():
    """A cantilever with a rigid top b: P's arm grows with b; tan(kl) = 1 / (k b) with l the clear length."""
    b, clear = 1.5, 3.5
    u = brentq(lambda k: np.tan(k * clear) * k * b - 1, 1e-6, np.pi / 2 / clear - 1e-9)
    s = bent([(0, 0, 0), (0, 0, L)], [(0, 1, {"offsets": (0.0, b)})], {0: FIXED}, [at_node(1, u**2 * EI / 8)])
    assert critical(s, "U") == pytest.approx(8.0, rel=NEAR)
    s = bent(
        [(0, 0, 0), (0, 0, L)],
        [(0, 1, {"offsets": (0.0, b)})],
        {0: FIXED},
        [at_node(1, u**2 * EI / 2), at_node(1, 1e3, way=ALONG_Y)],
    )
    # Moments of all forces about the foot, in the deformed shape.
    d = (s.displacement[1, 1] @ s.weights(named(s, ["U"]))).item()
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
    d, sinks = (s.displacement[1, 1:3] @ s.weights(named(s, ["U"])))[:, 0]
    c, along = 4 / np.hypot(4, L), np.array([-4, -L]) / np.hypot(4, L)
    N = inside(s, 0, 0.0, case="U")[0]
    sway = taut / np.hypot(4, L) * (d - (d * along[0] + sinks * along[1]) * along[0])
    foot = abs(inside(s, 0, 0.0, case="U")[5])
    assert foot == pytest.approx((H - taut * c - sway) * L - N * d, rel=1e-6)
    # Under P alone both are slack, and the column has its own critical load.
    assert [inside(s, m, 1.0, case="P")[0] for m in (1, 2)] == pytest.approx([0, 0], abs=1e-6)
    assert critical(s, "P") == pytest.approx(2.0, rel=1e-8)
    assert closing_error(s, named(s, ["U", "P"])).max() < 1e-9


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
    assert critical(turned, "U") == pytest.approx(critical(still, "U"), rel=1e-7)
    assert critical(turned, "U") > 1
    every = np.arange(len(MEMBERS))
    pieces = [build_pieces(s, every, s.weights(named(s, ["U"])), True) for s in (still, turned)]
    forces = [np.stack([value_at(p.force, a * p.length)[:, :, 0] for a in (0, 0.37, 1)]) for p in pieces]
    largest = np.abs(forces[0]).max()
    assert np.abs(forces[1] - forces[0]).max() < 1e-7 * largest
    assert closing_error(still, named(still, ["U"])).max() < 1e-9
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
        assert critical(s, "U") == pytest.approx(3.0, rel=1e-8)


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
    d = (s.displacement[2, 0] @ s.weights(named(s, ["U"]))).item()
    assert -s.reaction[1, 0] @ s.weights(named(s, ["U"]))[:, 0] == pytest.approx(-(P + q * 1.5) * d / L, rel=1e-6)


@pytest.mark.parametrize("plane", [True, False])
@pytest.mark.parametrize("sprung", ["foot", "head"])
def test_an_end_that_slips_across_carries_its_force_on_beside_the_node(plane, sprung):
    """At the foot: M of the member H tan(kL)/k, of its node P H/c more, as the whole is in balance as deformed. At the head
    the load's node turns with the member, so that c s = H + P psi, and P s bends it: s = H / (cos kL (c - P k tan kL)),
    M = (H/k sin kL + P s)/cos kL."""
    P, H, c = 5e5, 2e4, 1e6
    EI_, way = (E * SECTION.Iy, toward((1, 0, 0))) if plane else (EI, ALONG_Y)
    free = (np.inf, np.inf, c, np.inf, np.inf, np.inf) if plane else (np.inf, c, np.inf, np.inf, np.inf, np.inf)
    joints = free + RIGID if sprung == "foot" else RIGID + free
    loads = [at_node(1, P), at_node(1, H, way=way)]
    s = bent([(0, 0, 0), (0, 0, 4)], [(0, 1, {"joints": joints})], {0: FIXED}, loads, plane=plane)
    k = np.sqrt(P / EI_)
    angle = 4 * k
    if sprung == "foot":
        in_member, slip = H * np.tan(angle) / k, H / c
        of_node = in_member + P * slip
    else:
        slip = H / (np.cos(angle) * (c - P * k * np.tan(angle)))
        in_member = of_node = (H / k * np.sin(angle) + P * slip) / np.cos(angle)
    moment = np.abs(s.reaction[0, 3:] @ s.weights(named(s, ["U"]))).max()
    assert moment == pytest.approx(of_node, rel=1e-8)
    assert abs(inside(s, 0, 0, case="U")[4 if plane else 5]) == pytest.approx(in_member, rel=1e-8)
    tip = s.displacement[1, 0 if plane else 1] @ s.weights(named(s, ["U"]))
    assert tip.item() == pytest.approx((of_node - 4 * H) / P, rel=1e-8)
    assert closing_error(s, named(s, ["U"]))[0] < 1e-12


def test_a_slipping_foot_that_can_turn_buckles_sooner():
    """On a turning spring K the foot turns by psi, and N s psi works against it: with the slip s = (H + P psi)/c,
    K psi = P (s + L psi) + H L for a stiff column; critical where K = P^2/c + P L. That has a root of pull too, far beyond
    those of push: what is pulled so buckles, whatever stands with a weaker pull."""
    K, c, L_, P = 4e6, 5e6, 4.0, 2e5
    stiff = {
        "section": replace(SECTION, Iy=10.0, Iz=10.0),
        "joints": (np.inf, np.inf, c, np.inf, np.inf, np.inf, *RIGID),
    }
    root = np.sqrt(L_**2 + 4 * K / c)
    alone, pulled = ((sign * root - L_) * c / 2 for sign in (1, -1))
    combinations = {"U": {"Q": 1.0}} | {f"pull {s}": {"Q": s * pulled / P} for s in (0.2, 0.999, 1.001)}
    frame = project([(0, 0, 0), (0, 0, L_)], [(0, 1, stiff)], {}, [at_node(1, P), at_node(1, 1e3, way=toward((1, 0, 0)))],
                    plane=True, combinations=combinations)  # fmt: skip
    foot = Support(0, held("x z"), HERE, (0, 0, 0, 0, K, 0))
    frame = replace(frame, second_order=("*",), supports=(foot,))
    s = solve(resolve(frame))
    assert critical(s, "U") == pytest.approx(alone / P, rel=1e-5)
    assert [r.name for r in s.failed] == ["pull 1.001"]


def test_the_axial_forces_of_second_order_may_be_beyond_what_those_of_first_order_are_not():
    """The sway in its plane presses the leeward column more than first order knows; across the plane, where nothing drives
    it, it buckles under that force and under no less."""
    P = critical(portal(1.0, 0.0, True), "U") / 2

    def frame(Iy):
        column = {"section": replace(SECTION, A=1.0, Iy=Iy), "roll": np.pi / 2}
        beam = {"section": replace(SECTION, A=1.0)}
        ways = [at_node(1, P), at_node(2, P), at_node(1, P / 3, way=toward((1, 0, 0)))]
        supports = {0: FIXED, 3: FIXED, 1: held("y"), 2: held("y")}
        return bent(
            [(0, 0, 0), (0, 0, 4), (6, 0, 4), (6, 0, 0)], [(0, 1, column), (1, 2, beam), (3, 2, column)], supports, ways
        )

    stout = frame(1e-3)
    N = inside(stout, 2, 2.0, case="U")[0] / inside(stout, 2, 2.0, case="Q")[0]
    assert N > 1.03

    def slender(factor):
        return frame(brentq(lambda Iy: critical(frame(Iy), "U") - factor, 1e-6, 1e-4, xtol=1e-14))

    assert not slender(1.1 * N).failed
    assert "has no second-order answer" in str(*slender((1 + N) / 2).failed.values())


def test_the_lowest_factor_need_not_be_that_of_the_most_pressed():
    """Two cantilevers, one a hundred times as stiff: pi^2 EI/(4 L^2) over the load of each."""
    P = np.pi**2 * EI / (4 * L**2)
    stout = {"section": replace(SECTION, Iy=100 * SECTION.Iy, Iz=100 * SECTION.Iz)}
    loads = [at_node(1, P / 4), at_node(3, 100 * P / 30, case="W")]
    s = bent([(0, 0, 0), (0, 0, L), (3, 0, 0), (3, 0, L)], [(0, 1), (2, 3, stout)], {0: FIXED, 2: FIXED}, loads,
             under={"slender": {"Q": 1.0}, "half": {"Q": 0.5}, "stout": {"W": 1.0}})  # fmt: skip
    first = first_order(s.model)
    result, factor = lowest_critical(first, named(s, ["half", "stout", "slender"]))
    assert (result.name, factor) == ("slender", pytest.approx(4.0, rel=1e-6))


def test_the_axial_force_in_rigid_lengths_follows():
    """A sway frame whose beam and columns have rigid ends: all of it balances in its displaced places only if the rigid
    lengths carry the axial forces of second order."""
    xyz = [(0, 0, 0), (0, 0, 5), (7, 0, 5), (7, 0, 0)]
    members = [(0, 1, {"offsets": (0.3, 0.6)}), (1, 2, {"offsets": (0.5, 0.5)}), (3, 2, {"offsets": (0.2, 0.6)})]
    way = toward((1, 0, 0))
    loads = [at_node(1, 4e5), at_node(2, 7e5), at_node(1, 6e4, way=way), line(1, 2e4), point(0, 1e4, 2.5, way=way)]
    s = bent(xyz, members, {0: FIXED, 3: PINNED}, loads, plane=True)
    assert 1.2 < critical(s, "U") < 10
    assert closing_error(s, named(s, ["U"]))[0] < 1e-10
    rigid = np.flatnonzero(s.mesh.rigid)
    N = -(s.start_force[:, 0] @ s.weights(named(s, ["U"])))[:, 0]
    beside = np.where(s.mesh.arm[rigid, 0] == 0, rigid + 1, rigid - 1)
    assert N[rigid] == pytest.approx(N[beside], rel=1e-9)
    first = -(s.start_force[:, 0, 0])
    assert np.abs(N - first).max() > 0.005 * np.abs(first).max()


def allowable(P, H):
    frame = project([(0, 0, 0), (0, 0, L)], [(0, 1)], {0: FIXED}, [at_node(1, P), at_node(1, H, way=ALONG_Y)],
                    combinations={"U": {"Q": 1.0}})  # fmt: skip
    (U,) = frame.combining.custom
    frame = replace(frame, second_order=("*",), combining=Combining((replace(U, second_order_at=1.6),)))
    return solve(resolve(frame))


def test_allowable_stress_combinations_are_analysed_at_1_6():
    """AISC 360, C2.1: all at 1.6 times the loads, results over 1.6; the moment is H tan(k L)/k with k^2 = 1.6 P/EI. What
    buckles below 1.6 has no answer."""
    Euler = np.pi**2 * EI / (4 * L**2)
    s = allowable(Euler / 2.5, 1e3)
    k = np.sqrt(1.6 * Euler / 2.5 / EI)
    assert s.how(named(s, ["U"])) == ["second order"] and critical(s, "U") == pytest.approx(2.5, rel=1e-8)
    assert abs(inside(s, 0, 0, case="U")[5]) == pytest.approx(1e3 * np.tan(k * L) / k, rel=1e-8)
    for x in (1.3, 3.9):
        M = 1e3 * np.sin(k * (L - x)) / (k * np.cos(k * L))
        assert abs(inside(s, 0, x, case="U")[5]) == pytest.approx(M, rel=1e-8)
    assert closing_error(s, named(s, ["U"]))[0] < 1e-12
    (failed,) = allowable(Euler / 1.4, 1e3).failed.values()
    assert "it buckles at 1.4 of its loads, and it is analysed at 1.6 times them" in failed.message


def test_an_axial_force_that_turns_a_corner_inside_a_member():
    """A load at mid-height of a column with pinned ends: 3 + x cot(x/2)/2 - x^2/12 = 0, P = x^2 EI/L^2, 18.7 in Timoshenko
    and Gere, table 2-6; and one that hangs from its foot part, pushed above and pulled below, as with a node there."""
    pinned = {0: PINNED, 1: held("x y rz")}
    x = brentq(lambda x: 3 + x / np.tan(x / 2) / 2 - x**2 / 12, 3.5, 5.0)
    assert x**2 == pytest.approx(18.7, abs=0.05)
    P = 0.3 * x**2 * EI / L**2
    s = bent([(0, 0, 0), (0, 0, L)], [(0, 1)], pinned, [point(0, P, L / 2)])
    assert critical(s, "U") == pytest.approx(1 / 0.3, rel=1e-6)
    up, most = toward((0, 0, 1)), 0.5 * np.pi**2 * EI / L**2
    for at, lift in ((0.5, 2.0), (0.3, 3.0), (0.85, 1.5)):
        loads = [at_node(1, most), point(0, lift * most, at * L, way=up)]
        whole = bent([(0, 0, 0), (0, 0, L)], [(0, 1)], pinned, loads)
        cut = [(0, 0, f * L) for f in (at, at / 2, (1 + at) / 2)]
        split = bent([(0, 0, 0), (0, 0, L), *cut], [(0, 1)], pinned, loads)
        assert critical(whole, "U") == pytest.approx(critical(split, "U"), rel=1e-3)
    reverse = [at_node(1, most), line(0, -10 * most / L)]
    whole = bent([(0, 0, 0), (0, 0, L)], [(0, 1)], pinned, reverse)
    fine = bent([(0, 0, 0), (0, 0, L), *((0, 0, f * L) for f in np.arange(1, 20) / 20)], [(0, 1)], pinned, reverse)
    assert critical(whole, "U") == pytest.approx(critical(fine, "U"), rel=1e-3)


def test_nodes_of_our_own_join_nothing_else():
    """A member that passes the corner of N without touching stays apart; tables of nodes know none of them."""
    xyz = [(0, 0, 0), (0, 0, L), (-2, 0, L / 2), (2, 0, L / 2)]
    loads = [at_node(1, 1e5), point(0, 3e5, L / 2), line(1, 1e3)]
    s = bent(xyz, [(0, 1), (2, 3)], {0: FIXED, 2: FIXED, 3: FIXED}, loads)
    alone = bent(xyz[:2], [(0, 1)], {0: FIXED}, loads[:2])
    assert critical(s, "U") == pytest.approx(critical(alone, "U"), rel=1e-2)
    assert len(s.project.nodes) == 4 and len(alone.project.nodes) == 3


def test_factors_next_to_one_are_told_apart_from_it():
    from empuje.core.analysis.critical import beyond_critical

    said = beyond_critical("U", 0.99999963, 1.0, HERE)
    assert "buckles at 0.9999996 of its loads" in said.message
    assert "notional" in beyond_critical("U", 0.0, 1.0, HERE).remedy


@pytest.mark.parametrize(("factor", "growth", "said"), [
    (20.0, 1.49, "not needed"), (20.0, 1.51, "needed: drift > 1.5"), (9.99, 1.0, "needed: alpha_cr < 10"),
    (10.0, np.nan, "not needed"), (1.0, np.nan, "none: beyond critical"),
])  # fmt: skip
def test_what_asks_for_second_order(factor, growth, said):
    """alpha_cr < 10 (EN 1993-1-1, 5.2.1), drift of second over first order above 1.5 (AISC 360, appendix 7)."""
    from empuje.core.answers.stability import Stability

    found = Stability(
        ["U"], np.array([[factor]]), np.array([0]), np.array([1e-3]), np.array([growth * 1e-3]), np.ones(1),
        np.zeros(1, int), np.zeros(1, int),
    )  # fmt: skip
    assert found.needs_second_order() == [said]


PARTS = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [0, 0, 5]
c = [6, 0, 5]
d = [6, 0, 0]
m = [40, 0, 0]
t = [40, 0, 9]
[materials]
s = { E = "210 GPa", G = "81 GPa", density = "7850 kg/m3" }
[members.frame]
section = "HEB 200"
material = "s"
pieces = { ab = "a > b", bc = "b > c", cd = "d > c" }
MAST[members.mast]
section = "HEB 100"
material = "s"
pieces = { mt = "m > t" }
END[[supports]]
at = FEET
fix = "fixed"
[cases]
Q = { action = "live" }
N = { action = "live", pattern = true }
[loads]
Q = [ { on = ["b", "c"], force = 200 }, { on = "b", force = 5, dir = "+x" } ]
N = [ { on = LOADED, force = 6 } ]
[combinations.custom]
U = { formula = "Q + N", set = "strength" }
[[limits]]
name = "sway"
check = "stability"
alpha_cr = ">= 10"
under = "U"
"""


def test_alpha_cr_is_told_by_connected_part(tmp_path, capsys):
    """A mast of 9 m, by itself: pi^2 E Iz/(4 L^2 N). The portal beside it has its own factor and sway, as alone."""
    from empuje.cli import main

    def told(text):
        path = tmp_path / "p.toml"
        path.write_text(text, encoding="utf-8")
        main(["stability", str(path), "--under", "U", "--format", "json"])
        rows = json.loads(capsys.readouterr().out)
        main(["verdict", str(path), "--format", "json"])
        return rows, json.loads(capsys.readouterr().out)

    mast, rest = PARTS.partition("MAST")[2].split("END", 1)
    head = PARTS.partition("MAST")[0]
    both = (head + mast + rest).replace("FEET", '["a", "d", "m"]').replace("LOADED", '"t"')
    alone = (
        (head + rest).replace("FEET", '["a", "d"]').replace("LOADED", '"c"').replace("force = 6 }", "force = 1e-3 }")
    )
    alone = alone.replace("m = [40, 0, 0]\nt = [40, 0, 9]\n", "")
    rows, verdicts = told(both)
    of = {r["part"]: r for r in rows}
    I = find_section("HEB 100").Iz  # noqa: E741
    assert of["mast/mt"]["alpha_cr"] == pytest.approx(np.pi**2 * 210e9 * I / (4 * 81 * 6e3), rel=1e-6)
    (frame,), _ = told(alone)
    own = of["frame/ab and 2 more"]
    assert "part" not in frame
    for key in ("alpha_cr", "second/first"):
        assert own[key] == pytest.approx(frame[key], rel=1e-4), key
    (limit,) = [v for v in verdicts if v["limit"] == "sway"]
    assert "mast/mt" in json.dumps(limit)


def test_forces_at_more_loads_are_those_of_a_softer_frame():
    """Analysed at 1.25 times its loads, the forces of a frame are those with 0.8 of all its stiffness (AISC 360, C2.3):
    (0.8 K + G(N)) u = F is (K + G(1.25 N)) u = 1.25 F. At 2.0 with 1.6 of allowable-stress combinations."""
    frame = """
[project]
units = "kN m"
space = "plane"
analysis = { strength = "ORDER" }
[grid]
x = { A = 0, B = 7 }
z = { b = 0, t = 5 }
[materials]
m = { E = "MODULUS", G = "SHEAR" }
[members.posts]
section = "HEB 160"
material = "m"
runs = ["A..B / b>t"]
[members.beam]
section = "IPE 300"
material = "m"
runs = ["A>B / t"]
[[supports]]
at = "*@b"
fix = "pinned"
[cases]
G = { action = "dead" }
[loads]
G = [ { on = "beam", line = 40 }, { on = "A@t", force = 12, dir = "+x" } ]
[combinations.custom]
U = { formula = "G", set = "strength", second_order_at = 1.25 }
V = { formula = "G", set = "strength" }
"""
    whole = frame.replace("MODULUS", "210 GPa").replace("SHEAR", "80 GPa")
    full = solution(whole.replace("ORDER", "second-order"))
    soft = solution(frame.replace("MODULUS", "168 GPa").replace("SHEAR", "64 GPa").replace("ORDER", "second-order"))
    direct = solution(whole.replace("ORDER", "direct analysis"))
    assert [r.second_order_at for r in named(direct, ["V", "U"])] == [1.25, 1.25 * 1.25]
    assert any("direct analysis" in words for words in direct.model.told)
    members = np.arange(3)
    forces = [
        extremes(s, named(s, [name]), members).forces for s, name in ((full, "U"), (soft, "V"), (full, "V"), (direct, "V"))
    ]  # fmt: skip
    assert forces[0] == pytest.approx(forces[1], rel=1e-6, abs=1e-3)
    assert forces[3] == pytest.approx(forces[1], rel=1e-6, abs=1e-3)
    top = [np.abs(f[:, 4, :, 4]).max() for f in forces]
    assert top[1] > 1.005 * top[2]


def test_results_of_first_and_second_order_in_any_order(tmp_path):
    """Each has the forces and displacements that it has alone, whichever stand beside it."""
    path = tmp_path / "m.toml"
    text = PORTAL.replace('units = "kN m"', 'units = "kN m"\nanalysis = "second-order"')
    text = text.replace('ends = "hinged"\n', "").replace("HEB 200", "HEB 400").replace("IPE 300", "IPE 450")
    path.write_text(text, encoding="utf-8")
    study = Study.read(path, cache=False)
    solution = study.solution()
    results = [r for r in solution.results if r not in solution.failed]
    bent = [r for r in results if r in solution.bent]
    flat = [r for r in results if r not in solution.bent]
    assert len(bent) > 1 and len(flat) > 1
    mixed = [bent[0], flat[0], bent[1], flat[1], bent[-1]]
    members = np.arange(len(study.project.members))
    together = build_pieces(solution, members, solution.weights(mixed), displacements=True)
    for i, r in enumerate(mixed):
        alone = build_pieces(solution, members, solution.weights([r]), displacements=True)
        for mine, theirs in ((together.force, alone.force), (together.shape, alone.shape)):
            both = np.zeros_like(mine[..., i])
            both[:, :, : theirs.shape[2]] = theirs[..., 0]
            np.testing.assert_allclose(mine[..., i], both, rtol=1e-9, atol=1e-9 * np.abs(mine).max())


def test_sums_by_element_take_all_of_its_pieces():
    rng = np.random.default_rng(3)
    count = rng.integers(1, 6, 30)
    first = np.append(0, np.cumsum(count)[:-1])
    values = rng.standard_normal((int(count.sum()), 2, 4, 5))
    np.testing.assert_allclose(by_element(values, first), np.add.reduceat(values, first, axis=0), rtol=1e-12)


FLOOR = """
[project]
units = "kN m"
analysis = "second-order"
[nodes]
a = [0, 0, 0]
A = [0, 0, 4]
b = [6, 0, 0]
B = [6, 0, 4]
c = [6, 5, 0]
C = [6, 5, 4]
M = { between = ["B", "C"], at = "40%" }
[members.columns]
section = "HEB 200"
material = "S355"
pieces = { ca = "a > A", cb = "b > B", cc = "c > C" }
[members.girder]
section = "IPE 300"
material = "S355"
pieces = { g = "B > C" }
[members.joist]
section = "IPE 300"
material = "S355"
ends = "hinged"
pieces = { j = "A > M" }
[diaphragms]
floor = { nodes = ["A", "B", "C", "M"] }
[[supports]]
at = ["a", "b", "c"]
fix = "fixed"
[cases]
Q = { action = "live" }
[combinations.custom]
U = "1.5 Q"
[loads]
"""


@pytest.mark.parametrize("at", ["0%", "30%", "99.9999999%", "100%"])
@pytest.mark.parametrize("on", ["joist/j", "girder/g"])
def test_loads_on_the_very_ends_of_members_of_rigid_floors_balance(on, at):
    """Beside a node and on it, at its own height as deformed, whether the node ends the member or lies on it (40 %)."""
    for place in (at, "40%"):
        load = f'Q = [{{ on = "{on}", force = 50, at = "{place}" }}, {{ on = "{on}", force = 9, dir = "+x", at = "{place}" }}]'
        s = solution(FLOOR + load)
        assert closing_error(s, named(s, ["U"]))[0] < 1e-12
