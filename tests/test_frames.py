"""Frames against closed forms and hand statics."""

from dataclasses import replace

import numpy as np
import pytest

from build import FIXED, HINGED, PINNED, RIGID, SECTION, E, G, at_node, inside, line, named, point, solved, toward
from empuje.core.answers.reactions import closing_error, resultants
from empuje.core.model.frame import member_axes
from empuje.core.model.loads import Position

NEAR = 1e-9


@pytest.mark.parametrize(
    ("spans", "inner", "reactions"), [(2, 8, [3 / 8, 10 / 8, 3 / 8]), (3, 10, [0.4, 1.1, 1.1, 0.4])]
)
def test_continuous_beam_as_one_physical_member(spans, inner, reactions):
    q, L = 4e3, 5.3
    xyz = [(L * i, 0, 0) for i in range(spans + 1)]
    s = solved(xyz, [(0, spans)], dict.fromkeys(range(spans + 1), PINNED), [line(0, q)], plane=True)
    assert inside(s, 0, L)[4] == pytest.approx(-q * L**2 / inner, rel=NEAR)
    assert s.reaction[:, 2, 0] == pytest.approx(np.array(reactions) * q * L, rel=NEAR)


H_COLUMN, SPAN = 4.1, 6.7
BEAM = replace(SECTION, Iy=2 * SECTION.Iy, A=3e-3)


def portal(base, loads):
    xyz = [(0, 0, 0), (0, 0, H_COLUMN), (SPAN, 0, H_COLUMN), (SPAN, 0, 0)]
    members = [(0, 1), (1, 2, {"section": BEAM}), (2, 3)]
    return solved(xyz, members, {0: base, 3: base}, loads, plane=True)


def test_sway_portal_with_fixed_feet():
    """Half a push at each eave: the beam's middle neither sinks nor bends, which leaves one redundant shear X there.

    X by the force method, shortening of the columns included; without it this is Kleinlogel's
    H h/2 (3k+1)/(6k+1) at the foot, k = (I_beam/I_column)(h/L).
    """
    H, h, L = 11e3, H_COLUMN, SPAN
    push = toward((1, 0, 0))
    s = portal(FIXED, [at_node(1, H / 2, way=push), at_node(2, H / 2, way=push)])
    column = E * SECTION.Iy
    own = (L / 2) ** 3 / (3 * E * BEAM.Iy) + (L / 2) ** 2 * h / column + h / (E * SECTION.A)
    X = L / 2 * H / 2 * h**2 / 2 / column / own
    assert abs(inside(s, 0, 0.0)[4]) == pytest.approx(H * h / 2 - X * L / 2, rel=NEAR)
    assert abs(inside(s, 0, h)[4]) == pytest.approx(X * L / 2, rel=NEAR)
    assert inside(s, 0, 0.0)[4] * inside(s, 0, h)[4] < 0
    assert s.reaction[:, 2, 0] == pytest.approx([-X, X], rel=NEAR)
    k = 2 * h / L
    assert pytest.approx(H * h / 2 * 3 * k / (6 * k + 1), rel=2e-3) == X * L / 2


def test_portal_with_pinned_feet_under_gravity():
    """Thrust by the force method, shortening of the beam included: without it q L^2 / (4 h (2k+3))."""
    q, h, L = 5e3, H_COLUMN, SPAN
    s = portal(PINNED, [line(1, q)])
    beam = E * BEAM.Iy
    own = h**3 / (3 * E * SECTION.Iy) + h**2 * L / 2 / beam + L / 2 / (E * BEAM.A)
    assert s.reaction[0, 0, 0] == pytest.approx(h * q * L**3 / 24 / beam / own, rel=NEAR)


def test_three_hinged_frame_is_pure_statics():
    """Even load on plan over the whole frame: thrust q L^2 / (8 f); a push on one side by moments about the hinge."""
    q, L, h, f = 3e3, 9.0, 4.0, 5.5
    xyz = [(0, 0, 0), (0, 0, h), (L / 2, 0, f), (L, 0, h), (L, 0, 0)]
    members = [(0, 1), (1, 2, {"joints": RIGID + HINGED}), (2, 3), (3, 4)]
    s = solved(xyz, members, {0: PINNED, 4: PINNED}, [line([1, 2], q, projected=True)], plane=True)
    assert s.reaction[:, 2, 0] == pytest.approx([q * L / 2] * 2, rel=NEAR)
    assert s.reaction[0, 0, 0] == pytest.approx(q * L**2 / (8 * f), rel=NEAR)
    H = 7e3
    s = solved(xyz, members, {0: PINNED, 4: PINNED}, [at_node(1, H, way=toward((1, 0, 0)))], plane=True)
    up = H * h / L
    assert s.reaction[1, [0, 2], 0] == pytest.approx([-up * L / 2 / f, up], rel=NEAR)
    assert inside(s, 1, np.hypot(L / 2, f - h))[4] == pytest.approx(0, abs=1e-6)


def flexibility(L, axes, section=SECTION):
    """Tip displacements of a cantilever under unit tip forces and moments, in global axes (6, 6)."""
    f = np.zeros((6, 6))
    f[0, 0], f[3, 3] = L / (E * section.A), L / (G * section.J)
    for v, r, EI, turn in ((2, 4, E * section.Iy, -1), (1, 5, E * section.Iz, 1)):
        f[v, v], f[r, r] = L**3 / (3 * EI), L / EI
        f[v, r] = f[r, v] = turn * L**2 / (2 * EI)
    t = np.kron(np.eye(2), axes)
    return t.T @ f @ t


def transport(arm):
    """Displacements at a point from those at another, `arm` away, on a rigid body (6, 6)."""
    t = np.eye(6)
    t[:3, 3:] = -np.array([[0, -arm[2], arm[1]], [arm[2], 0, -arm[0]], [-arm[1], arm[0], 0]])
    return t


def test_bent_cantilever_in_space_with_all_six_forces():
    """A three-legged cantilever by the flexibility method, at odd angles, every load at the tip at once."""
    xyz = np.array([(0.3, -0.2, 0.1), (1.9, 1.1, 0.9), (1.2, 2.8, 2.7), (3.1, 3.3, 2.2)])
    members = [(i, i + 1, {"roll": 0.3 * i}) for i in range(3)]
    force, moment = np.array([1e3, -2e3, 3e3]), np.array([500.0, 800.0, -300.0])
    loads = [at_node(3, 1.0, way=toward(force)), at_node(3, 1.0, "moment", toward(moment))]
    s = solved(xyz, members, {0: FIXED}, loads)
    tip = np.zeros(6)
    wanted = np.concatenate([force, moment])
    for i in range(3):
        axes = member_axes(xyz[[i]], xyz[[i + 1]], 0.3 * i)[0]
        reach = transport(xyz[3] - xyz[i + 1])
        tip += reach @ flexibility(np.linalg.norm(xyz[i + 1] - xyz[i]), axes) @ reach.T @ wanted
    assert s.displacement[3, :, 0] == pytest.approx(tip, rel=NEAR)
    moments = moment + np.cross(xyz[3] - xyz[0], force)
    assert s.reaction[0, :, 0] == pytest.approx(-np.concatenate([force, moments]), rel=NEAR)


def test_member_axes_are_those_of_the_conventions():
    """y = Z x x normalised; a vertical member has y = global Y; roll is right-handed about x."""
    axes = member_axes(np.zeros((4, 3)), np.array([(3, 0, 0), (0, 0, 2), (0, 0, -2), (1, 2, 2)]), 0.0)
    assert axes[0] == pytest.approx(np.eye(3))
    assert axes[1] == pytest.approx(np.array([(0, 0, 1), (0, 1, 0), (-1, 0, 0)]))
    assert axes[2] == pytest.approx(np.array([(0, 0, -1), (0, 1, 0), (1, 0, 0)]))
    assert axes[3, 1] == pytest.approx(np.array([-2, 1, 0]) / np.sqrt(5))
    rolled = member_axes(np.zeros((1, 3)), np.array([(3.0, 0, 0)]), np.pi / 2)
    assert rolled[0] == pytest.approx(np.array([(1, 0, 0), (0, 0, 1), (0, -1, 0)]), abs=1e-15)


def test_loads_on_a_sloping_member():
    """Per length, per projected length, and along the member's own z: totals and middle moment by hand."""
    q, run, rise = 2e3, 6.0, 2.5
    L = np.hypot(run, rise)
    ends = {"joints": HINGED + HINGED}

    def slope(load):
        return solved([(0, 0, 0), (run, 0, rise)], [(0, 1, ends)], {0: FIXED, 1: FIXED}, [load])

    by_length = slope(line(0, q))
    assert by_length.reaction[:, 2, 0].sum() == pytest.approx(q * L, rel=NEAR)
    assert inside(by_length, 0, L / 2)[4] == pytest.approx(q * L * run / 8, rel=NEAR)
    on_plan = slope(line(0, q, projected=True))
    assert on_plan.reaction[:, 2, 0].sum() == pytest.approx(q * run, rel=NEAR)
    assert inside(on_plan, 0, L / 2)[4] == pytest.approx(q * run**2 / 8, rel=NEAR)
    aside = slope(line(0, q, projected=True, way=toward((1, 0, 0))))
    assert aside.reaction[:, 0, 0].sum() == pytest.approx(-q * rise, rel=NEAR)
    pressed = slope(line(0, q, way=toward((0, 0, -1), local=True)))
    assert inside(pressed, 0, L / 2)[4] == pytest.approx(q * L**2 / 8, rel=NEAR)
    assert pressed.reaction[:, :3, 0].sum(axis=0) == pytest.approx(np.array([-rise, 0, run]) * q, rel=NEAR)
    # Along the member's axis gravity pulls the upper end: N changes by q sin a per length.
    assert inside(by_length, 0, L)[0] - inside(by_length, 0, 0.0)[0] == pytest.approx(q * rise, rel=NEAR)


def test_one_physical_member_equals_its_parts():
    """One member through two inner nodes, and three members joined there, to 1e-10."""
    xyz = np.array([(0, 0, 0), (1.6, 0.8, 0.4), (4.0, 2.0, 1.0), (6.0, 3.0, 1.5), (4.0, 2.0, -2)])
    L = np.linalg.norm(xyz[3])
    cut = [np.linalg.norm(xyz[i]) for i in (1, 2)]
    supports = {0: FIXED, 3: PINNED, 4: FIXED}
    post = (2, 4)
    whole = solved(
        xyz,
        [(0, 3, {"roll": 0.2}), post],
        supports,
        [line(0, 1e3, 4e3, (Position(1.0), Position(6.0))), point(0, 5e3, 3.3), at_node(1, 2e3)],
    )
    ramp = lambda x: 1e3 + (x - 1.0) / 5.0 * 3e3  # noqa: E731
    spans = [(0, 1.0, cut[0]), (1, cut[0], cut[1]), (2, cut[1], 6.0)]
    offset = [0.0, *cut]
    loads = [line(m, ramp(a), ramp(b), (Position(a - offset[m]), Position(b - offset[m]))) for m, a, b in spans]
    parts = solved(
        xyz,
        [(i, i + 1, {"roll": 0.2}) for i in range(3)] + [post],
        supports,
        [*loads, point(1, 5e3, 3.3 - cut[0]), at_node(1, 2e3)],
    )
    scale = np.abs(whole.displacement).max()
    assert np.abs(whole.displacement - parts.displacement).max() < 1e-10 * scale
    for x in (0.5, 2.9, 5.7, L):
        m = int(np.searchsorted(cut, x))
        a, b = inside(whole, 0, x), inside(parts, m, x - offset[m])
        assert np.abs(a - b).max() < 1e-10 * np.abs(a).max()


def test_bars_take_axial_force_only_and_are_not_split():
    """A loaded bar with a node on it: ends get half the load each, the node on it stays free of it."""
    xyz = [(0, 0, 0), (4, 0, 0), (2, 0, 0), (2, 0, -1)]
    bar = {"joints": HINGED + HINGED, "bar": True}
    s = solved(xyz, [(0, 1, bar), (2, 3)], {0: FIXED, 1: FIXED, 3: FIXED}, [line(0, 1e3), at_node(2, 5e3)])
    assert s.reaction[:2, 2, 0] == pytest.approx([2e3, 2e3], rel=NEAR)
    assert s.reaction[2, 2, 0] == pytest.approx(5e3, rel=NEAR)
    assert inside(s, 0, 2.0)[4] == pytest.approx(1e3 * 16 / 8, rel=NEAR)


def test_node_where_all_members_are_hinged_has_no_rotation():
    tripod = [(0, 0, 0), (3, 0, 0), (1, 2.5, 0), (1.3, 0.8, 2)]
    ends = {"joints": HINGED + HINGED, "bar": True}
    s = solved(tripod, [(i, 3, ends) for i in range(3)], dict.fromkeys(range(3), PINNED), [at_node(3, 6e3)])
    assert s.undefined[3].tolist() == [False] * 3 + [True] * 3
    assert s.reaction[:, 2, 0].sum() == pytest.approx(6e3, rel=NEAR)


@pytest.mark.parametrize("seed", range(6))
def test_random_frames_balance(seed):
    """Applied loads, summed from the loads themselves, equal the reactions: forces and moments, to 1e-10."""
    rng = np.random.default_rng(seed)
    n = 9
    xyz = rng.uniform(-5, 5, (n, 3))
    members = [(i, i + 1) for i in range(n - 1)] + [(0, 4), (2, 7), (1, n - 1)]
    members = [
        (a, b, {"roll": float(rng.uniform(0, 3)), "joints": RIGID + (HINGED if b == 7 else RIGID)}) for a, b in members
    ]
    loads = [at_node(3, 1e3, "moment", toward(rng.normal(size=3))), at_node(5, 4e3, way=toward(rng.normal(size=3)))]
    for m in range(len(members)):
        way = toward(rng.normal(size=3), local=bool(rng.integers(2)))
        a, b = np.sort(rng.uniform(0, 1, 2))
        at = (Position(share=a), Position(share=b))
        loads.append(line(m, *rng.uniform(-3e3, 3e3, 2), at, way, projected=not way.local and m % 2 == 0))
        loads.append(point(m, 2e3, 0.1, "moment" if m % 3 else "force", way))
    s = solved(xyz, members, {0: FIXED, 5: PINNED}, loads, self_weight=1.0)
    applied, reaction = resultants(s, named(s, ["Q"]))
    assert np.abs(applied).max() > 1e3
    assert np.abs(applied + reaction).max() < 1e-10 * np.abs(applied).max()
    assert closing_error(s, named(s, ["Q"]))[0] < 1e-10
