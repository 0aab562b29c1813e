"""Single members against closed forms, lying askew in space, for bending about both axes."""

import numpy as np
import pytest
from numpy.polynomial import Polynomial as P

from build import END, FIXED, HINGED, RIGID, SECTION, START, E, G, inside, line, named, point, solved, toward
from empuje.core.model.loads import Position

L = 7.3
ALONG = np.array([0.48, -0.6, 0.64]) * L
NEAR = 1e-9
s = P([0, 1])
PLANES = {
    # local load axis: index of displacement, rotation, shear, moment; the rotation's sign; inertia
    "z": (2, 4, 2, 4, -1.0, SECTION.Iy),
    "y": (1, 5, 1, 5, 1.0, SECTION.Iz),
}


def integral(p, a, b):
    q = p.integ()
    return q(b) - q(a)


def beam(loads, start=RIGID, end=RIGID, ends=(True, True)):
    supports = {i: FIXED for i in (0, 1) if ends[i]}
    return solved(
        [(1, 2, 3), np.array([1, 2, 3]) + ALONG], [(0, 1, {"joints": start + end, "roll": 0.4})], supports, loads
    )


def local(axis, sign=-1.0):
    vector = np.zeros(3)
    vector["xyz".index(axis)] = sign
    return toward(vector, local=True)


LOADS = [(0.0, L, 3e3, 3e3), (1.7, 5.9, 4e3, 4e3), (0.0, L, 0.0, 6e3), (1.1, 6.6, 5e3, 1e3), (2.0, 2.0001, 1e6, 1e6)]


@pytest.mark.parametrize("axis", PLANES)
@pytest.mark.parametrize(("a", "b", "q0", "q1"), LOADS)
def test_line_loads(axis, a, b, q0, q1):
    """Influence functions of the simple cases, integrated over the load (any textbook of statics)."""
    v, r, V, M, turn, inertia = PLANES[axis]
    q = P([q0, (q1 - q0) / (b - a)])(s - a)
    load = line(0, q0, q1, (Position(a), Position(b)), local(axis))
    EI = E * inertia

    free = beam([load], ends=(True, False))
    tip = inside(free, 0, L, "shape")
    assert tip[v] == pytest.approx(-integral(q * s**2 * (3 * L - s), a, b) / (6 * EI), rel=NEAR)
    assert tip[r] * turn == pytest.approx(-integral(q * s**2, a, b) / (2 * EI), rel=NEAR)
    assert inside(free, 0, 0.0)[M] == pytest.approx(-integral(q * s, a, b), rel=NEAR)

    held = beam([load])
    assert inside(held, 0, 0.0)[M] == pytest.approx(-integral(q * s * (L - s) ** 2, a, b) / L**2, rel=NEAR)
    assert inside(held, 0, L)[M] == pytest.approx(-integral(q * s**2 * (L - s), a, b) / L**2, rel=NEAR)
    assert inside(held, 0, 0.0)[V] == pytest.approx(integral(q * (L - s) ** 2 * (L + 2 * s), a, b) / L**3, rel=NEAR)

    propped = beam([load], end=HINGED)
    assert inside(propped, 0, L)[V] == pytest.approx(-integral(q * s**2 * (3 * L - s), a, b) / (2 * L**3), rel=NEAR)

    simple = beam([load], start=HINGED, end=HINGED)
    assert inside(simple, 0, 0.0)[V] == pytest.approx(integral(q * (L - s), a, b) / L, rel=NEAR)
    # Slope of a simple beam at its start: influence function s (L - s) (2 L - s) / (6 L EI).
    slope = -integral(q * s * (L - s) * (2 * L - s), a, b) / (6 * L * EI)
    assert inside(simple, 0, 0.0, "shape")[r] * turn == pytest.approx(slope, rel=NEAR)


@pytest.mark.parametrize("axis", PLANES)
@pytest.mark.parametrize("a", [0.0, 0.9, 3.65, 7.0, L])
def test_point_force_and_moment_anywhere(axis, a):
    v, _, _, M, _, inertia = PLANES[axis]
    force, moment = 9e3, 4e3
    held = beam([point(0, force, a, way=local(axis))])
    assert inside(held, 0, 0.0)[M] == pytest.approx(-force * a * (L - a) ** 2 / L**2, rel=NEAR, abs=1e-6)
    assert inside(held, 0, L)[M] == pytest.approx(-force * a**2 * (L - a) / L**2, rel=NEAR, abs=1e-6)
    # A right-handed moment about y bends the x-z plane, one about z the x-y plane the other way round.
    about = {"z": local("y", 1.0), "y": local("z", -1.0)}[axis]
    held = beam([point(0, moment, a, "moment", about)])
    end = moment * (L - a) * (3 * a - L) / L**2
    assert inside(held, 0, 1e-12)[M] == pytest.approx(end + (moment if a == 0 else 0), rel=NEAR, abs=1e-6)
    simple = beam([point(0, force, a, way=local(axis))], start=HINGED, end=HINGED)
    middle = -force * a * (L - a) * (L**2 - a**2 - (L - a) ** 2) / (6 * L * E * inertia)
    under = inside(simple, 0, a, "shape")[v]
    assert under == pytest.approx(middle, rel=NEAR, abs=1e-15)


def test_axial_force_and_torque_along_a_fixed_member():
    a = 2.9
    pulled = beam([point(0, 5e3, a, way=local("x", 1.0)), point(0, 7e2, a, "moment", local("x", 1.0))])
    before, after = inside(pulled, 0, a), inside(pulled, 0, a + 1e-6)
    assert before[[0, 3]] == pytest.approx([5e3 * (L - a) / L, 7e2 * (L - a) / L], rel=NEAR)
    assert after[[0, 3]] == pytest.approx([-5e3 * a / L, -7e2 * a / L], rel=NEAR)
    assert inside(pulled, 0, a, "shape")[0] == pytest.approx(5e3 * (L - a) / L * a / (E * SECTION.A), rel=NEAR)
    assert inside(pulled, 0, a, "shape")[3] == pytest.approx(7e2 * (L - a) / L * a / (G * SECTION.J), rel=NEAR)
    grown = beam([line(0, 0.0, 900.0, way=local("x", 1.0))])
    assert inside(grown, 0, 0.0)[0] == pytest.approx(900 * L / 6, rel=NEAR)


def test_triangle_on_a_simple_beam_peaks_where_the_books_say():
    """Largest moment q L^2 / (9 sqrt 3) at L / sqrt 3; deflection there by its own polynomial."""
    from empuje.core.answers.envelope import extremes

    simple = beam([line(0, 0.0, 6e3, (START, END), local("z"))], start=HINGED, end=HINGED)
    found = extremes(simple, named(simple, ["Q"]), np.array([0]))
    assert found.x[0, 4, 1] == pytest.approx(L / np.sqrt(3), rel=1e-7)
    assert found.forces[0, 4, 1, 4] == pytest.approx(6e3 * L**2 / (9 * np.sqrt(3)), rel=NEAR)
    x = 2.345
    w = -6e3 * x * (7 * L**4 - 10 * L**2 * x**2 + 3 * x**4) / (360 * L * E * SECTION.Iy)
    assert inside(simple, 0, x, "shape")[2] == pytest.approx(w, rel=NEAR)


def test_signs_are_those_of_the_conventions():
    """Gravity sags a level beam with positive My, tension on the negative side; dV/dx = q."""
    simple = solved([(0, 0, 0), (6, 0, 0)], [(0, 1, {"joints": HINGED + HINGED})], {0: FIXED, 1: FIXED}, [line(0, 2e3)])
    assert inside(simple, 0, 3.0)[4] == pytest.approx(2e3 * 36 / 8, rel=NEAR)
    assert inside(simple, 0, 0.0)[2] == pytest.approx(6e3, rel=NEAR)
    assert inside(simple, 0, 3.0, "shape")[2] < 0
    # Pulled towards +y in the middle: Vy starts negative, Mz is negative, tension on the +y side.
    aside = beam([point(0, 1e3, L / 2, way=local("y", 1.0))], start=HINGED, end=HINGED)
    assert inside(aside, 0, 0.0)[1] == pytest.approx(-500, rel=NEAR)
    assert inside(aside, 0, L / 2)[5] == pytest.approx(-1e3 * L / 4, rel=NEAR)
