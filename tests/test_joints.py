"""Shear-flexible members and ends that are free or on springs, against closed forms."""

from dataclasses import replace

import numpy as np
import pytest

from build import FIXED, HINGED, RIGID, SECTION, E, G, at_node, inside, line, point, solved, toward
from empuje.core.analysis.solve import Unstable
from models import PORTAL, reading

NEAR = 1e-9
L = 3.7
ALONG = np.array([0.48, -0.6, 0.64]) * L
STOCKY = replace(SECTION, Ay=1.7e-3, Az=2.9e-3)
PLANES = {"z": (2, 4, 2, 4, SECTION.Iy, STOCKY.Az), "y": (1, 5, 1, 5, SECTION.Iz, STOCKY.Ay)}


def local(axis, sign=-1.0):
    vector = np.zeros(3)
    vector["xyz".index(axis)] = sign
    return toward(vector, local=True)


def beam(loads, joints=RIGID + RIGID, ends=(0, 1), shear=True):
    options = {"section": STOCKY, "shear": shear, "joints": joints, "roll": 0.7}
    return solved([(1, 2, 3), np.array([1, 2, 3]) + ALONG], [(0, 1, options)], dict.fromkeys(ends, FIXED), loads)


@pytest.mark.parametrize("axis", PLANES)
def test_cantilever_that_bends_and_shears(axis):
    """Timoshenko: P L^3/3EI + P L/GA at the tip, q L^4/8EI + q L^2/2GA under even load."""
    v, _, _, _, inertia, area = PLANES[axis]
    EI, GA = E * inertia, G * area
    tip = inside(beam([point(0, 7e3, L, way=local(axis))], ends=(0,)), 0, L, "shape")[v]
    assert tip == pytest.approx(-7e3 * (L**3 / (3 * EI) + L / GA), rel=NEAR)
    even = beam([line(0, 4e3, way=local(axis))], ends=(0,))
    assert inside(even, 0, L, "shape")[v] == pytest.approx(-4e3 * (L**4 / (8 * EI) + L**2 / (2 * GA)), rel=NEAR)
    x = 1.3
    middle = 4e3 * (x**2 * (6 * L**2 - 4 * L * x + x**2) / (24 * EI) + (L * x - x**2 / 2) / GA)
    assert inside(even, 0, x, "shape")[v] == pytest.approx(-middle, rel=NEAR)


@pytest.mark.parametrize("axis", PLANES)
def test_propped_beam_that_bends_and_shears(axis):
    """The prop's force from the two cantilever deflections."""
    _, _, V, _, inertia, area = PLANES[axis]
    EI, GA = E * inertia, G * area
    s = beam([line(0, 4e3, way=local(axis))], RIGID + HINGED)
    prop = 4e3 * (L**4 / (8 * EI) + L**2 / (2 * GA)) / (L**3 / (3 * EI) + L / GA)
    assert inside(s, 0, L)[V] == pytest.approx(-prop, rel=NEAR)


@pytest.mark.parametrize("axis", PLANES)
@pytest.mark.parametrize("a", [0.4, 1.85, 3.1])
@pytest.mark.parametrize("kind", ["force", "moment"])
def test_fixed_beam_that_bends_and_shears(axis, a, kind):
    """End shear and moment by the force method on a cantilever, for a force and a moment anywhere."""
    _, _, V, M, inertia, area = PLANES[axis]
    EI, GA = E * inertia, G * area
    size = 6e3
    # Deflection w (downwards) and slope of the tip of a cantilever under the load, then under unit tip force and moment.
    if kind == "force":
        w, slope = a**2 * (3 * L - a) / (6 * EI) + a / GA, a**2 / (2 * EI)
        load = point(0, size, a, way=local(axis))
    else:
        w, slope = a * (2 * L - a) / (2 * EI), a / EI
        load = point(0, size, a, "moment", {"z": local("y", 1.0), "y": local("z", -1.0)}[axis])
    flexibility = np.array([[L**3 / (3 * EI) + L / GA, L**2 / (2 * EI)], [L**2 / (2 * EI), L / EI]])
    tip_force, tip_moment = np.linalg.solve(flexibility, -np.array([w, slope]) * size)
    end = inside(beam([load]), 0, L)
    # A downward tip force P gives V = +P, a tip moment that turns the tip down gives M = -moment; a moment load's sense
    # turns the tip down for z and up for y alike by the choice of its axis above.
    sense = 1.0 if kind == "force" else -1.0
    assert abs(end[V]) == pytest.approx(abs(tip_force), rel=NEAR)
    assert abs(end[M]) == pytest.approx(abs(tip_moment), rel=NEAR)
    assert end[V] * sense < 0 or kind == "moment"


@pytest.mark.parametrize("axis", PLANES)
def test_rotational_springs_at_both_ends(axis):
    """Even load: M = q L^2/12 / (1 + 2 EI/(k L)) at each end (any textbook on semi-rigid joints)."""
    _, r, _, M, inertia, _ = PLANES[axis]
    k, q = 3.1e6, 4e3
    ends = [np.inf] * 6
    ends[r] = k
    s = beam([line(0, q, way=local(axis))], tuple(ends) * 2, shear=False)
    wanted = -q * L**2 / 12 / (1 + 2 * E * inertia / (k * L))
    assert inside(s, 0, 0.0)[M] == pytest.approx(wanted, rel=NEAR)
    assert inside(s, 0, L)[M] == pytest.approx(wanted, rel=NEAR)
    middle = inside(s, 0, L / 2, "shape")[{"z": 2, "y": 1}[axis]]
    simple, relief = 5 * q * L**4 / (384 * E * inertia), wanted * L**2 / (8 * E * inertia)
    assert middle == pytest.approx(-(simple + relief), rel=NEAR)


def test_axial_and_torsional_springs_slots_and_hinges():
    """In series with the member: u = F (L/EA + 1/c); a slot and a torsional hinge pass nothing."""
    c, ct = 4e7, 2e5
    ends = (c, np.inf, np.inf, ct, np.inf, np.inf)
    x = ALONG / L
    loads = [at_node(1, 5e3, way=toward(x)), at_node(1, 80.0, "moment", toward(x))]
    s = beam(loads, ends + RIGID, ends=(0,))
    assert s.displacement[1, :3, 0] @ x == pytest.approx(5e3 * (L / (E * SECTION.A) + 1 / c), rel=NEAR)
    assert s.displacement[1, 3:, 0] @ x == pytest.approx(80 * (L / (G * SECTION.J) + 1 / ct), rel=NEAR)
    free = (0.0, np.inf, np.inf, 0.0, np.inf, np.inf)
    s = beam([line(0, 900.0, way=local("x")), point(0, 50.0, 1.0, "moment", local("x"))], free + RIGID)
    assert inside(s, 0, 0.0)[[0, 3]] == pytest.approx([0, 0], abs=1e-9)
    assert inside(s, 0, L)[0] == pytest.approx(900 * L, rel=NEAR)


def test_a_hinge_about_one_axis_leaves_the_other_rigid():
    """Freed about y only: propped in one plane, clamped in the other."""
    one = (np.inf, np.inf, np.inf, np.inf, 0.0, np.inf)
    loads = [line(0, 4e3, way=local("z")), line(0, 3e3, way=local("y"))]
    s = beam(loads, RIGID + one, shear=False)
    assert inside(s, 0, 0.0)[[4, 5]] == pytest.approx([-4e3 * L**2 / 8, -3e3 * L**2 / 12], rel=NEAR)
    assert inside(s, 0, L)[[4, 5]] == pytest.approx([0, -3e3 * L**2 / 12], rel=NEAR, abs=1e-6)


def test_a_spring_tends_to_rigid_and_to_free():
    """A very stiff spring is a rigid end and a very soft one a hinge, without losing digits between."""
    for k, alike in ((1e18, RIGID), (1e-9, HINGED)):
        ends = (np.inf,) * 4 + (k, k)
        load = line(0, 4e3, way=local("z"))
        assert inside(beam([load], ends * 2), 0, 0.0) == pytest.approx(
            inside(beam([load], alike * 2), 0, 0.0), rel=1e-8, abs=1e-6
        )


@pytest.mark.parametrize("free", [0, 1, 3])
def test_a_member_both_ends_of_which_let_go_is_named(free):
    ends = [np.inf] * 6
    ends[free] = 0.0
    with pytest.raises(Unstable, match=r"m/0 can move between its own ends"):
        beam([], tuple(ends) * 2)


def test_the_words_of_the_model_file():
    def joints(words):
        return reading(PORTAL.replace('ends = "hinged"', words)).project.members[-1]

    tie = joints('ends = ["rigid", { free = "x rx", ry = "8 MN*m/rad", rz = 5 }]')
    assert tie.joints == (np.inf,) * 6 + (0, np.inf, np.inf, 0, 8e6, 5e3)
    assert joints('ends = { z = "3 kN/mm" }').joints == (np.inf, np.inf, 3e6, np.inf, np.inf, np.inf) * 2
    assert joints("shear = true").shear and not joints('ends = "rigid"').shear
    for words, code in (
        ('ends = { free = "q" }', "unknown-word"),
        ('ends = { frei = "x" }', "unknown-key"),
        ('ends = { ry = "8 MN" }', "bad-quantity"),
        ("ends = { ry = -8 }", "bad-quantity"),
        ("shear = 1", "not-a-flag"),
    ):
        found = reading(PORTAL.replace('ends = "hinged"', words)).findings
        assert code in {f.code for f in found}, words
    given = PORTAL.replace(
        "[grid]", '[sections]\ns = { A = "9 cm2", Iy = "80 cm4", Iz = "9 cm4", J = "1 cm4" }\n[grid]'
    )
    given = given.replace('section = "IPE 200"', 'section = "s"\nshear = true')
    assert [f.code for f in reading(given).findings] == ["missing-key"]
