"""Rigid lengths at members' ends, turned supports and rigid floors, against statics and closed forms."""

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
    G,
    at_node,
    critical,
    fine,
    inside,
    line,
    named,
    point,
    project,
    toward,
)
from empuje.core.analysis.equations import build_equations
from empuje.core.analysis.solve import Unstable, solve
from empuje.core.answers.reactions import closing_error
from empuje.core.answers.storeys import storeys
from empuje.core.catalogue.catalogue import find_section
from empuje.core.model.frame import Diaphragm, Support
from empuje.core.model.loads import Settlement
from empuje.core.resolve import resolve
from models import PORTAL, reading

L, q = 6.3, 3e3
EI, EA = E * SECTION.Iy, E * SECTION.A
NEAR = 1e-9
X = toward((1, 0, 0))


def put(frame):
    return solve(fine(frame))


# ---- rigid lengths


def test_fixed_beam_with_rigid_ends():
    """M = q l^2/12 at the faces of the clear length l, and by statics to the nodes."""
    a, b = 0.7, 0.4
    s = put(
        project([(0, 0, 0), (L, 0, 0)], [(0, 1, {"offsets": (a, b)})], {0: FIXED, 1: FIXED}, [line(0, q)], plane=True)
    )
    clear = L - a - b
    for x, M in ((a, -q * clear**2 / 12), (a + clear / 2, q * clear**2 / 24), (L - b, -q * clear**2 / 12)):
        assert inside(s, 0, x)[4] == pytest.approx(M, rel=NEAR)
    assert inside(s, 0, 0.0)[4] == pytest.approx(-q * clear**2 / 12 - q * clear / 2 * a - q * a**2 / 2, rel=NEAR)
    assert s.reaction[:, 2, 0] == pytest.approx([q * (clear / 2 + a), q * (clear / 2 + b)], rel=NEAR)
    assert inside(s, 0, a / 2, "shape")[2] == pytest.approx(0, abs=1e-15)


def test_cantilever_with_rigid_tip_in_space():
    """The tip goes along: w = -(P l^3/3 + P b l^2/2)/EI - b (P l^2/2 + P b l)/EI, at an odd angle, rolled."""
    a, b, P = 0.5, 0.8, 2e3
    clear = L - a - b
    axis = np.array([0.48, -0.6, 0.64])
    way = np.cross(axis, (0.3, 0.8, -0.2))
    way /= np.linalg.norm(way)
    round_bar = replace(SECTION, Iz=SECTION.Iy)
    s = put(project([(1, 2, 3), np.array([1, 2, 3]) + L * axis], [(0, 1, {"offsets": (a, b), "roll": 0.4, "section": round_bar})],
                    {0: FIXED}, [at_node(1, P, way=toward(way))]))  # fmt: skip
    w = (P * clear**3 / 3 + P * b * clear**2 / 2 + b * (P * clear**2 / 2 + P * b * clear)) / EI
    assert s.displacement[1, :3, 0] == pytest.approx(w * way, rel=NEAR)
    assert np.linalg.norm(inside(s, 0, 0.0)[4:]) == pytest.approx(P * L, rel=NEAR)


def test_loads_on_rigid_lengths_and_hinges_at_their_faces():
    """A hinge sits where the rigid length ends: the node carries what stands on it, and its moment."""
    a, P = 0.6, 5e3
    member = {"offsets": (a, 0.0), "joints": HINGED + RIGID}
    s = put(project([(0, 0, 0), (L, 0, 0)], [(0, 1, member)], {0: FIXED, 1: (False, False, True, False, False, False)},
                    [line(0, q), point(0, P, 0.2)], plane=True))  # fmt: skip
    R = q * (L - a) / 2
    assert s.reaction[:, 2, 0] == pytest.approx([R + q * a + P, R], rel=NEAR)
    assert inside(s, 0, a)[4] == pytest.approx(0, abs=1e-6)
    assert inside(s, 0, 0.0)[4] == pytest.approx(-R * a - q * a**2 / 2 - P * 0.2, rel=NEAR)
    assert closing_error(s, named(s, ["Q"])).max() < 1e-13


# ---- turned supports


def roller(angle, **more):
    """A beam on a pin and on a roller that stands on a slope."""
    c, s = np.cos(angle), np.sin(angle)
    frame = project([(0, 0, 0), (L, 0, 0)], [(0, 1)], {0: PINNED}, [line(0, q), *more.pop("loads", [])], plane=True)
    slope = Support(1, (False, False, True, False, False, False), HERE, axes=((c, 0, -s), (0, 1, 0), (s, 0, c)), **more)
    return put(replace(frame, supports=(*frame.supports, slope)))


def test_roller_on_a_slope():
    """R = (q L/2) / cos a across the slope pulls the beam: N = (q L/2) tan a; the end slides down along it."""
    angle = 0.6
    s = roller(angle)
    assert s.reaction[1, [0, 2], 0] == pytest.approx([q * L / 2 * np.tan(angle), q * L / 2], rel=NEAR)
    N = q * L / 2 * np.tan(angle)
    assert inside(s, 0, 2.0)[0] == pytest.approx(N, rel=NEAR)
    u = N * L / EA
    assert s.displacement[1, [0, 2], 0] == pytest.approx([u, -u * np.tan(angle)], rel=NEAR)
    assert closing_error(s, named(s, ["Q"])).max() < 1e-13


def test_turned_springs_settlements_and_lift():
    """All of a turned support is meant in its own axes."""
    angle, k = -0.5, 4e6
    c, t = np.cos(angle), np.tan(angle)
    frame = project([(0, 0, 0), (L, 0, 0)], [(0, 1)], {0: PINNED}, [line(0, q)], plane=True)
    turned = ((c, 0, -np.sin(angle)), (0, 1, 0), (np.sin(angle), 0, c))
    s = put(replace(frame, supports=(*frame.supports, Support(1, (False,) * 6, HERE, (0, 0, k, 0, 0, 0), axes=turned))))
    R, u = q * L / 2 / c, q * L / 2 * t * L / EA
    across = s.displacement[1, :3, 0] @ turned[2]
    assert across == pytest.approx(-R / k, rel=NEAR) and s.displacement[1, 0, 0] == pytest.approx(u, rel=NEAR)
    d = 0.02
    settled = roller(angle, loads=[Settlement("S", (1,), (0, 0, d, 0, 0, 0), "", HERE)])
    # Nothing resists: the end moves by d across the slope, without going along x.
    assert settled.displacement[1, [0, 2], 1] == pytest.approx([0, d / c], rel=NEAR, abs=1e-12)
    lifted = roller(angle, lift=True, loads=[at_node(1, 2 * q * L, way=toward((0, 0, 1)), case="Q")])
    assert named(lifted, "Q") in lifted.failed  # pulled off its slope nothing holds it
    pressed = roller(angle, lift=True)
    assert pressed.reaction[1, 2] @ pressed.weights(named(pressed, ["Q"]))[:, 0] == pytest.approx(q * L / 2, rel=NEAR)


def test_rollers_on_parallel_slopes_are_a_mechanism():
    c, s = np.cos(0.6), np.sin(0.6)
    frame = project([(0, 0, 0), (L, 0, 0)], [(0, 1)], {}, [line(0, q)], plane=True)
    slope = [
        Support(n, (False, False, True, False, False, False), HERE, axes=((c, 0, -s), (0, 1, 0), (s, 0, c)))
        for n in (0, 1)
    ]
    with pytest.raises(Unstable, match=r"\(0.825, 0, -0.565\)"):
        put(replace(frame, supports=tuple(slope)))


# ---- rigid floors

TOPS = np.array([(0, 0), (9, 0), (9, 6), (1, 7)], float)
HEIGHT = 3.6
SIZES = (1.0, 2.5, 0.7, 1.6)


def table(loads, floors=True, **options):
    """Four posts, fixed below and free to turn above, of different stiffness, under one rigid floor."""
    xyz = [(x, y, z) for z in (0, HEIGHT) for x, y in TOPS]
    sections = [replace(SECTION, Iy=SECTION.Iy * f, Iz=SECTION.Iz * f, J=SECTION.J * f) for f in SIZES]
    members = [(i, i + 4, {"section": sections[i]}) for i in range(4)]
    frame = project(xyz, members, dict.fromkeys(range(4), FIXED), loads, **options)
    return replace(frame, diaphragms=(Diaphragm("floor", (4, 5, 6, 7), HERE),) if floors else ())


def test_eccentric_load_by_the_torsion_formula():
    """F_i = k_i F/sum k + k_i r_i T/sum(k r^2 + G J/h), about the centre of rigidity."""
    kx, ky, kt = (
        np.array(SIZES) * v for v in (3 * EI / HEIGHT**3, 3 * E * SECTION.Iz / HEIGHT**3, G * SECTION.J / HEIGHT)
    )
    centre = np.array([ky @ TOPS[:, 0] / ky.sum(), kx @ TOPS[:, 1] / kx.sum()])
    x, y = (TOPS - centre).T
    polar = kx @ y**2 + ky @ x**2 + kt.sum()
    F = np.array([7e3, -4e3])
    s = put(table([at_node(6, F[0], way=X), at_node(6, -F[1], way=toward((0, -1, 0)))]))
    T = (TOPS[2, 0] - centre[0]) * F[1] - (TOPS[2, 1] - centre[1]) * F[0]
    turn = T / polar
    move = F / (kx.sum(), ky.sum())
    assert s.displacement[4:, 5, 0] == pytest.approx(turn, rel=NEAR)
    assert s.displacement[4:, 0, 0] == pytest.approx(move[0] - turn * y, rel=NEAR)
    assert s.displacement[4:, 1, 0] == pytest.approx(move[1] + turn * x, rel=NEAR)
    assert s.reaction[:, 0, 0] == pytest.approx(-kx * (move[0] - turn * y), rel=NEAR)
    assert s.reaction[:, 1, 0] == pytest.approx(-ky * (move[1] + turn * x), rel=NEAR)
    assert closing_error(s, named(s, ["Q"])).max() < 1e-12
    frame = replace(table([line((0, 1, 2, 3), 900.0), at_node(5, 5e3)]), mass=(("Q", 2.0),))
    found = storeys(build_equations(frame), resolve(frame).loads)
    assert found.rigidity[0] == pytest.approx(centre, rel=NEAR)
    assert found.stiffness[0] == pytest.approx([kx.sum(), ky.sum(), polar], rel=NEAR)
    # Half the posts' weight and the point load, twice.
    post = 900 * HEIGHT / 2
    assert found.weight[0] == pytest.approx(2 * (4 * post + 5e3), rel=NEAR)
    assert found.mass[0] == pytest.approx(2 * (post * TOPS.sum(axis=0) + 5e3 * TOPS[1]) / found.weight[0], rel=NEAR)


def test_a_shear_building_of_two_storeys():
    """Posts that cannot turn: k = 12 EI/h^3 a post and storey, whatever the others do."""
    h, post = (4.0, 3.0), {"section": replace(SECTION, A=1e3)}
    xyz = [(x, y, z) for z in (0, h[0], sum(h)) for x, y in ((0, 0), (6, 0), (0, 5))]
    members = [(i + 3 * k, i + 3 * k + 3, post) for k in range(2) for i in range(3)]
    turns = (False, False, False, True, True, False)
    frame = project(xyz, members, {**dict.fromkeys(range(3), FIXED), **dict.fromkeys(range(3, 9), turns)}, [])
    frame = replace(frame, diaphragms=(Diaphragm("two", (6, 7, 8), HERE), Diaphragm("one", (3, 4, 5), HERE)))
    found = storeys(build_equations(frame), resolve(frame).loads)
    assert found.names == ["one", "two"] and found.level.tolist() == [4.0, 7.0]
    for i in range(2):
        assert found.stiffness[i, :2] == pytest.approx([36 * EI / h[i] ** 3, 36 * E * SECTION.Iz / h[i] ** 3], rel=NEAR)
        assert found.rigidity[i] == pytest.approx([2, 5 / 3], rel=NEAR)


def test_floors_hold_what_stands_loosely_and_second_order_keeps_them():
    """Pinned posts beside fixed ones stand because the floor holds them; their loads lean on the fixed ones."""
    loads = [at_node(n, 5e4) for n in range(4, 8)]
    frame = table(loads, combinations={"U": {"Q": 1.0}})
    pinned = replace(
        frame, supports=tuple(Support(n, PINNED if n in (1, 3) else FIXED, HERE) for n in range(4)), second_order=("*",)
    )
    s = put(pinned)
    assert closing_error(s, named(s, ["U"])).max() < 1e-10 and critical(s, "U") > 1
    with pytest.raises(Unstable):
        put(replace(pinned, diaphragms=()))
    # With rigid lengths at both ends and pushed askew, all is still in balance where it has moved to.
    stiff = tuple(replace(m, offsets=(0.3, 0.5)) for m in pinned.members)
    askew = replace(table([*loads, at_node(4, 9e3, way=X)], combinations={"U": {"Q": 1.3}}), second_order=("*",))
    s = put(replace(askew, members=stiff, supports=pinned.supports))
    assert critical(s, "U") > 1 and closing_error(s, named(s, ["U"])).max() < 1e-10
    # The same posts, all fixed: sway along y, where they are weakest, of one P/L against the sum of k.
    alone = put(replace(frame, second_order=("*",)))
    assert critical(s, "U") < critical(alone, "U")


TURNED = 'at = "*@base"\nfix = "fixed"\n'


@pytest.mark.parametrize(
    ("old", "new", "code"),
    [
        ("[cases]", '[diaphragms]\nroof = { nodes = "*@eave" }\n[cases]', None),
        ("[cases]", '[diaphragms]\nroof = { nodes = ["*@eave", "B1@ridge"] }\n[cases]', "bad-diaphragm"),
        ("[cases]", '[diaphragms]\nroof = { nodes = "*@base" }\n[cases]', "bad-diaphragm"),
        ("[cases]", '[diaphragms]\nroof = { nodes = "A1@eave" }\n[cases]', "bad-diaphragm"),
        ("[cases]", '[diaphragms]\na = { nodes = "A*@eave" }\nb = { nodes = "*1@eave" }\n[cases]', "bad-diaphragm"),
        ("[cases]", '[diaphragms]\nroof = { nodes = "*@attic" }\n[cases]', "matches-nothing"),
        (TURNED, TURNED + "turn = { y = 30 }\n", None),
        (TURNED, TURNED + "turn = { y = 30, x = 10 }\n", None),
        (TURNED, TURNED + "turn = { }\n", "bad-turn"),
        (TURNED, TURNED + 'turn = "30 deg"\n', "not-a-table"),
        (TURNED, TURNED + 'turn = { y = 30 }\n[[supports]]\nat = "A1@base"\nfix = "x"\n', "contradiction"),
        ('"S235"\nruns = ["A,C / 1..2', '"S235"\noffsets = ["0.2 m", 0.3]\nruns = ["A,C / 1..2', None),
        ('"S235"\nruns = ["A,C / 1..2', '"S235"\noffsets = [2, 2]\nruns = ["A,C / 1..2', "bad-offsets"),
        ('"S235"\nruns = ["A,C / 1..2', '"S235"\noffsets = -0.1\nruns = ["A,C / 1..2', "bad-quantity"),
        ('"kN m"', '"kN m"\nmass = "G + 0.3 Q"', None),
        ('"kN m"', '"kN m"\nmass = "G + 0.3 X"', "unknown-name"),
        ('"kN m"', '"kN m"\nanalysis = { strength = "second-order" }', None),
        ('"kN m"', '"kN m"\nanalysis = { strong = "second-order" }', "unknown-key"),
        ('"kN m"', '"kN m"\nanalysis = "third-order"', "unknown-word"),
    ],
)  # fmt: skip
def test_in_a_model_file(old, new, code):
    assert old in PORTAL
    found = {f.code for f in reading(PORTAL.replace(old, new, 1)).findings if f.level == "error"}
    assert found == ({code} if code else set())


def test_a_support_is_turned_about_one_axis_after_another():
    """By hand: about x the y-axis comes upright, about z then x comes along y: the support's x y z are y z x of space."""
    found = reading(PORTAL.replace('fix = "fixed"', 'fix = "x"\nturn = { z = 90, x = "90 deg" }', 1))
    assert np.array(found.project.supports[0].axes) == pytest.approx(
        np.array([[0, 1, 0], [0, 0, 1], [1, 0, 0]]), abs=1e-15
    )


def test_a_direction_may_be_a_vector():
    """Of any length, global; in a plane model [x, z]; of no length it is none."""
    old = 'force = "5 kN", dir = "+x"'
    load = reading(PORTAL.replace(old, 'force = "5 kN", dir = [1, 2, -2]')).project.loads[-2]
    assert load.direction.vector == pytest.approx((1 / 3, 2 / 3, -2 / 3)) and not load.direction.local
    for wrong in ("[0, 0, 0]", "[1, 2]", '["a", 1, 2]', "[1, 2, true]"):
        found = reading(PORTAL.replace(old, f'force = "5 kN", dir = {wrong}')).findings
        assert [(f.code, f.level) for f in found if f.level == "error"] == [("bad-place", "error")], wrong


def test_a_section_may_be_the_mirror_image_of_another():
    """An angle's principal axes lean the other way, its legs point the other way; an I is itself."""
    text = PORTAL.replace("[members.columns]", '[sections.left]\nmirror_of = "L 120x80x10"\n[members.columns]')
    text = text.replace('section = "IPE 200"', 'section = "left"')
    made = next(m.section for m in reading(text).project.members if m.family == "ties")
    own = find_section("L 120x80x10")
    assert (made.A, made.Iy, made.Iz, made.turn) == (own.A, own.Iy, own.Iz, -own.turn) and own.turn != 0
    assert sorted(made.outline[0][:, 0]) == pytest.approx(sorted(-own.outline[0][:, 0]))
    assert sorted(made.outline[0][:, 1]) == pytest.approx(sorted(own.outline[0][:, 1]))
    wrong = reading(text.replace('"L 120x80x10"', '"L 1"')).findings
    assert "unknown-name" in [f.code for f in wrong]
