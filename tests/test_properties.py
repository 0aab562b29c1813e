"""What must hold for every frame: equilibrium along members, superposition, reciprocity, and no favourite axes."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from build import FIXED, HINGED, PINNED, RIGID, SECTION, E, at_node, inside, line, named, point, solved, toward
from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.polynomials import value_at
from empuje.core.model.frame import member_axes
from empuje.core.model.loads import Position

# A space frame without vertical members, so that turning it about Z turns every member's axes with it.
XYZ = np.array(
    [
        (0.0, 0.0, 0.0),
        (1.0, 0.5, 3.0),
        (5.0, 0.2, 3.4),
        (5.6, 0.3, 0.1),
        (1.2, 4.0, 2.9),
        (5.1, 4.2, 3.1),
        (0.4, 4.6, 0.0),
        (3.0, 0.35, 3.2),
    ]
)
MEMBERS = [
    (0, 1, {"roll": 0.2}),
    (1, 2, {}),
    (3, 2, {}),
    (1, 4, {"joints": RIGID + HINGED}),
    (2, 5, {"roll": -0.5}),
    (4, 5, {"joints": HINGED + RIGID}),
    (6, 4, {}),
    (7, 5, {"joints": HINGED + HINGED, "bar": True}),
]
SUPPORTS = {0: FIXED, 3: PINNED, 6: FIXED}


def frame(loads, turn=0.0, **options):
    c, s = np.cos(turn), np.sin(turn)
    return solved(XYZ @ np.array([(c, s, 0), (-s, c, 0), (0, 0, 1)]), MEMBERS, SUPPORTS, loads, **options)


def some_loads(case="Q", turn=0.0, size=1.0):
    c, s = np.cos(turn), np.sin(turn)

    def way(x, y, z):
        return toward((c * x - s * y, s * x + c * y, z))

    return [
        line(1, 3e3 * size, 1e3 * size, (Position(0.4), Position(share=0.8)), way(0.3, 0.2, -1), case),
        line(4, -2e3 * size, way=toward((0, 0.6, 0.8), local=True), case=case),
        line(0, 1.5e3 * size, way=way(1, 0, 0), case=case, projected=True),
        point(2, 4e3 * size, 1.1, way=way(0, 1, 0), case=case),
        point(5, 2e3 * size, 2.2, "moment", way(0, 0, 1), case),
        at_node(5, 6e3 * size, way=way(-0.5, 1, 0), case=case),
        at_node(1, 1e3 * size, "moment", way(1, 0, 0), case=case),
        line(7, 500 * size, case=case),
    ]


def every_force(solution, case="Q"):
    """All forces at both ends and the middle of every piece."""
    pieces = build_pieces(solution, np.arange(len(MEMBERS)), solution.weights(named(solution, [case])))
    return np.stack([value_at(pieces.force, share * pieces.length)[:, :, 0] for share in (0, 0.5, 1)])


@settings(max_examples=12, deadline=None)
@given(st.floats(-3.1, 3.1))
def test_turning_the_frame_about_z_changes_nothing_but_the_axes(turn):
    still, turned = frame(some_loads()), frame(some_loads(turn=turn), turn=turn)
    size = np.abs(every_force(still)).max()
    assert np.abs(every_force(still) - every_force(turned)).max() < 1e-9 * size
    c, s = np.cos(turn), np.sin(turn)
    x, y = still.reaction[:, 0, 0], still.reaction[:, 1, 0]
    assert turned.reaction[:, 0, 0] == pytest.approx(c * x - s * y, abs=1e-9 * size)
    assert turned.reaction[:, 2, 0] == pytest.approx(still.reaction[:, 2, 0], abs=1e-9 * size)


def test_renumbering_nodes_and_members_changes_nothing():
    rng = np.random.default_rng(3)
    order, queue = rng.permutation(len(XYZ)), rng.permutation(len(MEMBERS))
    place, turn_of = np.argsort(order), np.argsort(queue)
    members = [(int(place[MEMBERS[m][0]]), int(place[MEMBERS[m][1]]), MEMBERS[m][2]) for m in queue]
    loads = [
        at_node(int(place[5]), 6e3),
        line(int(turn_of[1]), 3e3),
        point(int(turn_of[2]), 4e3, 1.1),
    ]
    plain = frame([at_node(5, 6e3), line(1, 3e3), point(2, 4e3, 1.1)])
    mixed = solved(XYZ[order], members, {int(place[n]): h for n, h in SUPPORTS.items()}, loads)
    size = np.abs(plain.displacement).max()
    assert np.abs(mixed.displacement[place] - plain.displacement)[~plain.undefined].max() < 1e-9 * size


@settings(max_examples=12, deadline=None)
@given(st.floats(-50, 50).filter(lambda v: abs(v) > 1e-3))
def test_results_scale_with_the_loads_and_add_up(factor):
    """A combination equals the frame solved under its factored loads at once."""
    other = [at_node(4, 3e3, way=toward((0, -1, 0.2)), case="W"), line(6, 800.0, case="W")]
    both = frame([*some_loads(), *other], combinations={"U": {"Q": factor, "W": -1.5}})
    at_once = frame(
        [
            *some_loads(size=factor),
            at_node(4, -4.5e3, way=toward((0, -1, 0.2))),
            line(6, -1200.0),
        ]
    )
    weights = both.weights(named(both, ["U"]))[:, 0]
    size = np.abs(at_once.displacement).max()
    assert np.abs(both.displacement @ weights - at_once.displacement[:, :, 0]).max() < 1e-9 * size
    size = np.abs(at_once.start_force).max()
    assert np.abs(both.start_force @ weights - at_once.start_force[:, :, 0]).max() < 1e-9 * size


def test_reciprocity():
    """Maxwell and Betti: the work of one set of node loads on the displacements of another is mutual."""
    rng = np.random.default_rng(1)
    nodes = [1, 2, 4, 5]
    force = rng.normal(size=(2, 4, 6)) * [1e3, 1e3, 1e3, 500, 500, 500]
    loads = []
    for case, sets in zip("AB", force, strict=True):
        for node, f in zip(nodes, sets, strict=True):
            loads.append(at_node(node, 1.0, way=toward(f[:3]), case=case))
            loads.append(at_node(node, 1.0, "moment", toward(f[3:]), case))
    s = frame(loads)
    a, b = (list(s.project.case_names).index(c) for c in "AB")
    work_ab = (force[0] * s.displacement[nodes][:, :, b]).sum()
    work_ba = (force[1] * s.displacement[nodes][:, :, a]).sum()
    assert work_ab == pytest.approx(work_ba, rel=1e-9)


def test_shear_and_moment_are_what_the_loads_make_of_them():
    """Inside every piece dM/dx = V in both planes, and EI w'' = M: checked on the polynomials themselves."""
    s = frame(some_loads())
    pieces = build_pieces(s, np.arange(len(MEMBERS)), s.weights(named(s, ["Q"])), displacements=True)
    force, shape = pieces.force[:, :, :, 0], pieces.shape[:, :, :, 0]
    powers = np.arange(1, 4)
    for shear, moment, deflection, inertia in ((2, 4, 2, SECTION.Iy), (1, 5, 1, SECTION.Iz)):
        size = np.abs(force[:, [shear, moment]]).max()
        assert np.abs(force[:, moment, 1:] * powers - force[:, shear, :3]).max() < 1e-9 * size
        bend = shape[:, deflection, 2:] * [2, 6, 12, 20] * E * inertia
        assert np.abs(bend - force[:, moment]).max() < 1e-9 * size
    # Displacements run on without a step from piece to piece, and meet the nodes at the ends of rigid members.
    ends = value_at(pieces.shape, pieces.length)[:, :, 0]
    inner = np.flatnonzero(pieces.element[1:] == pieces.element[:-1])
    size = np.abs(shape[:, :, 0]).max()
    assert np.abs(ends[inner] - shape[inner + 1, :, 0]).max() < 1e-9 * size


def test_crossing_beams_share_a_load_by_stiffness():
    """Two simple beams that cross at a node in their middles: P1 / P2 = (L2 / L1)^3, each P L / 4."""
    P, a, b = 10e3, 6.0, 4.0
    xyz = [(-a / 2, 0, 0), (a / 2, 0, 0), (0, -b / 2, 0), (0, b / 2, 0), (0, 0, 0)]
    ends = {"joints": HINGED + HINGED}
    supports = dict.fromkeys(range(4), FIXED)
    s = solved(xyz, [(0, 1, ends), (2, 3, ends)], supports, [at_node(4, P)])
    share = b**3 / (a**3 + b**3)
    assert inside(s, 0, a / 2)[4] == pytest.approx(share * P * a / 4, rel=1e-9)
    assert inside(s, 1, b / 2)[4] == pytest.approx((1 - share) * P * b / 4, rel=1e-9)
    assert s.reaction[:, 2, 0] == pytest.approx(np.array([share, share, 1 - share, 1 - share]) * P / 2, rel=1e-9)


def test_plane_truss_by_sections():
    """A six-panel parallel-chord truss of bars: chord and diagonal forces from moments and shear of the whole."""
    d, h, n, P = 2.0, 1.5, 6, 12e3
    bottom = [(d * i, 0, 0) for i in range(n + 1)]
    top = [(d * i, 0, h) for i in range(1, n)]
    bar = {"joints": HINGED + HINGED, "bar": True}
    t = n + 1
    members = [(i, i + 1) for i in range(n)] + [(t + i, t + i + 1) for i in range(n - 2)]
    members += [(i, t + i - 1) for i in range(1, n)] + [(0, t), (n, t + n - 2)]
    members += [(t, 2), (t + 1, 3), (t + 3, 3), (t + 4, 4)]
    loads = [at_node(i, P) for i in range(1, n)]
    held = {0: PINNED, n: (False, True, True, False, False, False)}
    s = solved([*bottom, *top], [(a, b, bar) for a, b in members], held, loads, plane=True)
    R = P * (n - 1) / 2
    assert s.reaction[:, 2, 0] == pytest.approx([R, R], rel=1e-9)

    def force_in(a, b):
        return inside(s, members.index((a, b)), 0.5)[0]

    # Cut panel 3: moments about bottom node 3 give the top chord, about top node 2 the bottom chord.
    assert force_in(t + 1, t + 2) == pytest.approx(-(R * 3 * d - P * (2 + 1) * d) / h, rel=1e-9)
    assert force_in(2, 3) == pytest.approx((R * 2 * d - P * d) / h, rel=1e-9)
    assert force_in(t + 1, 3) == pytest.approx((R - 2 * P) * np.hypot(d, h) / h, rel=1e-9)
    assert force_in(0, t) == pytest.approx(-R * np.hypot(d, h) / h, rel=1e-9)


def test_tripod_by_statics():
    """Three bars from the ground to one point: their forces from three equations of equilibrium."""
    top = np.array([1.3, 0.8, 2.0])
    feet = np.array([(0, 0, 0), (3, 0, 0), (1, 2.5, 0)])
    pull = np.array([2e3, -1e3, -6e3])
    bar = {"joints": HINGED + HINGED, "bar": True}
    s = solved(
        [*feet, top],
        [(i, 3, bar) for i in range(3)],
        dict.fromkeys(range(3), PINNED),
        [at_node(3, 1, way=toward(pull))],
    )
    toward_feet = (feet - top) / np.linalg.norm(feet - top, axis=1)[:, None]
    wanted = np.linalg.solve(toward_feet.T, -pull)
    assert [inside(s, m, 0.3)[0] for m in range(3)] == pytest.approx(wanted, rel=1e-9)


def test_hinges_may_follow_the_members_own_axes():
    """A rolled beam hinged at its end: no moment about either of its own axes, torsion still passed on."""
    xyz = [(0, 0, 0), (3, 1, 1), (3, 4, 1)]
    members = [(0, 1, {"joints": RIGID + HINGED, "roll": 0.7}), (1, 2, {})]
    s = solved(xyz, members, {0: FIXED, 2: FIXED}, [at_node(1, 1e3, "moment", toward((1, 2, 3))), at_node(1, 2e3)])
    length = np.linalg.norm(XYZ[0] - np.array(xyz[1]))
    end = inside(s, 0, length)
    size = np.abs(inside(s, 0, 0.0)).max()
    assert np.abs(end[[4, 5]]).max() < 1e-9 * size and abs(end[3]) > 1e-3
    x = member_axes(np.array([xyz[0]]), np.array([xyz[1]]), 0.7)[0, 0]
    assert s.displacement[1, 3:, 0] @ x == pytest.approx(end[3] * length / (8.1e10 * SECTION.J), rel=1e-9)
