"""Loads on surfaces against hand statics, and what every outline has to conserve."""

from __future__ import annotations

import json
from itertools import pairwise
from math import cos, pi, radians, sin, sqrt

import numpy as np
import pytest
import shapely

from build import named
from empuje.cli import main
from empuje.core.actions.surfaces.sources.area_loads import on_surface
from empuje.core.actions.surfaces.sources.surface_loads import surface_geometries, surface_loads
from empuje.core.actions.totals import applied_totals
from empuje.core.answers.surfaces import surface_balance
from empuje.core.surfaces.common import common, without
from models import reading, resolved

EXACT = 1e-9


def plate(points: dict, beams: list[str], surface: str, load: str, more: str = "") -> str:
    """A model with one surface s on beams between points, each called after its ends: A-B."""
    nodes = "\n".join(f"{n} = {list(map(float, xyz))}" for n, xyz in points.items())
    pieces = "\n".join(f'{b} = "{b.split("-")[0]} > {b.split("-")[1]}"' for b in beams)
    first = next(iter(points))
    return f"""
[project]
units = "kN m"
[nodes]
{nodes}
[members.b]
section = "IPE 400"
material = "S355"
[members.b.pieces]
{pieces}
[[supports]]
at = "{first}"
fix = "fixed"
[surfaces.s]
{surface}
[cases]
Q = {{ action = "live", use = "office" }}
{more}
[loads]
Q = [ {load} ]
"""


def on_members(text: str):
    """Of every beam its line loads (s0, s1, q0, q1) [kN/m] and forces (s, F) [kN], by size; and the project."""
    read = reading(text)
    assert read.sound, [str(f) for f in read.findings]
    loads, _ = surface_loads(read.project, read.resolved.surfaces)
    out: dict[str, list] = {m.name.removeprefix("b/"): [] for m in read.project.members}
    names = list(out)
    size0, size1 = (np.linalg.norm(q, axis=1) / 1e3 for q in (loads.lines.q0, loads.lines.q1))
    for m, *v in zip(loads.lines.member, loads.lines.s0, loads.lines.s1, size0, size1, strict=True):
        out[names[m]].append(tuple(map(float, v)))
    for m, s, f in zip(loads.points.member, loads.points.s, loads.points.f[:, :3], strict=True):
        out[names[m]].append((float(s), float(-f[2] / 1e3)))
    return out, read.project, loads


def flat(corners: str, deck: str) -> str:
    return f'corners = {json.dumps(list(corners))}\ndeck = "{deck}"'


SQUARE = {"A": (0, 0, 3), "B": (6, 0, 3), "C": (6, 4, 3), "D": (0, 4, 3)}


def test_unequal_spans_bring_unequal_loads_kept_apart():
    points = {"A": (0, 0, 3), "B": (4, 0, 3), "C": (10, 0, 3), "D": (13, 0, 3)}
    points |= {n + "1": (x, 5, 3) for n, (x, _, _) in points.items()}
    got, *_ = on_members(plate(points, ["A-A1", "B-B1", "C-C1", "D-D1"], 'corners = ["A", "D", "D1", "A1"]\ndeck = "x"',
                               '{ on = "s", area = "5 kN/m2" }'))  # fmt: skip
    assert got["A-A1"] == [pytest.approx((0, 5, 10, 10), rel=EXACT)]
    assert got["B-B1"] == [pytest.approx((0, 5, 10, 10), rel=EXACT), pytest.approx((0, 5, 15, 15), rel=EXACT)]
    assert got["D-D1"] == [pytest.approx((0, 5, 7.5, 7.5), rel=EXACT)]


def test_a_trapezoid_between_skew_beams():
    """At height y the strip spans 10 - y between beams of slope 4 in 2."""
    points = {"A": (0, 0, 3), "B": (10, 0, 3), "C": (8, 4, 3), "D": (2, 4, 3)}
    got, *_ = on_members(plate(points, ["A-D", "B-C"], flat("ABCD", "x"), '{ on = "s", area = "3 kN/m2" }'))
    per_length = 4 / sqrt(20)
    expected = (0, sqrt(20), 3 * 5 * per_length, 3 * 3 * per_length)
    assert got["A-D"] == [pytest.approx(expected, rel=EXACT)]
    assert got["B-C"] == [pytest.approx(expected, rel=EXACT)]


def test_a_triangle_on_two_of_its_edges():
    points = {"A": (0, 0, 3), "B": (6, 0, 3), "C": (0, 4, 3)}
    got, *_ = on_members(plate(points, ["A-B", "B-C"], flat("ABC", "y"), '{ on = "s", area = "3 kN/m2" }'))
    assert got["A-B"] == [pytest.approx((0, 6, 6, 0), rel=EXACT, abs=1e-12)]
    assert got["B-C"] == [pytest.approx((0, sqrt(52), 0, 6 * 6 / sqrt(52)), rel=EXACT, abs=1e-12)]


def test_a_pressure_that_changes_across_a_changing_span_keeps_force_moment_and_shape():
    """w = 1 + y/4 over a triangle's strips 6 (1 - y/4): q on the left beam is (1 + y/4) 3 (1 - y/4), a parabola."""
    points = {"A": (0, 0, 3), "B": (6, 0, 3), "C": (0, 4, 3)}
    load = '{ on = "s", area = ["1 kN/m2", "2 kN/m2"], along = ["A", "C"] }'
    got, *_ = on_members(plate(points, ["A-C", "B-C"], flat("ABC", "x"), load))
    s0, s1, q0, q1 = np.array(got["A-C"]).T
    force, about_a = (q0 + q1) / 2 * (s1 - s0), (s1 - s0) / 6 * (q0 * (2 * s0 + s1) + q1 * (s0 + 2 * s1))
    assert force.sum() == pytest.approx(3 * (4 - 4 / 3), rel=EXACT)
    assert about_a.sum() == pytest.approx(3 * (8 - 4), rel=EXACT)
    # The simple beam's moment at odd places, between and beside the joints of pieces: 3 (s^2/2 - s^4/192) less R s.
    reaction = 3 * (4 - 4 / 3) - 3 * (8 - 4) / 4
    for x in (0.37, 1.91, 3.3):
        part = np.minimum(s1, x) - s0
        on = part > 0
        at_x = q0 + (q1 - q0) / (s1 - s0) * part
        moment = reaction * x - (part * (q0 * 2 + at_x) / 6 * part + (x - s0 - part) * part * (q0 + at_x) / 2)[on].sum()
        exact = reaction * x - 3 * (x**2 / 2 - x**4 / 192)
        assert moment == pytest.approx(exact, abs=1e-9 * 8 * 4)


def test_an_overhang_is_balanced_by_the_span_behind_it():
    """Beams at x = 0 and 4, the deck goes on to 6: R = 6 w (3) / 4 at the far one."""
    points = {"A": (0, 0, 3), "B": (4, 0, 3), "C": (4, 5, 3), "D": (0, 5, 3), "E": (6, 0, 3), "F": (6, 5, 3)}
    got, *_ = on_members(
        plate(points, ["A-D", "B-C", "A-E", "D-F"], flat("AEFD", "x"), '{ on = "s", area = "2 kN/m2" }')
    )
    total = {b: sum((q0 + q1) / 2 * (s1 - s0) for s0, s1, q0, q1 in v) for b, v in got.items()}
    assert total["B-C"] == pytest.approx(2 * 6 * 3 / 4 * 5, rel=EXACT)
    # Line loads are given by size here; on A-D the overhang pulls up.
    assert sorted(v[2] for v in got["A-D"]) == [pytest.approx(2 * 2 * 1 / 4, rel=EXACT), pytest.approx(4, rel=EXACT)]


def test_a_sloping_roof_under_a_load_per_area_in_plan():
    slope = radians(30)
    points = {"A": (0, 0, 3), "B": (4, 0, 3), "D": (0, 6 * cos(slope), 6), "C": (4, 6 * cos(slope), 6)}
    load = '{ on = "s", area = "1.5 kN/m2", per = "projected" }'
    got, _project, loads = on_members(plate(points, ["A-D", "B-C"], flat("ABCD", "x"), load))
    assert got["A-D"] == [pytest.approx((0, 6, 1.5 * cos(slope) * 2, 1.5 * cos(slope) * 2), rel=EXACT)]
    assert loads.lines.q0[:, :2] == pytest.approx(0)
    normal = load.replace('per = "projected"', 'dir = "-normal"')
    _, _, loads = on_members(plate(points, ["A-D", "B-C"], flat("ABCD", "x"), normal))
    assert loads.lines.q0[0] / 1e3 == pytest.approx([0, 3 * sin(slope), -3 * cos(slope)], rel=EXACT)


def test_a_wall_whose_deck_stands_upright_under_a_growing_pressure():
    """Simple beam of 3 m from 1 to 2 kN/m2: (2*1 + 2) 3/6 at the foot, (1 + 2*2) 3/6 at the top."""
    points = {"A": (0, 0, 0), "B": (0, 7, 0), "C": (0, 7, 3), "D": (0, 0, 3)}
    load = '{ on = "s", area = ["1 kN/m2", "2 kN/m2"], along = "+z", dir = "normal" }'
    got, _, loads = on_members(plate(points, ["A-B", "D-C"], flat("ABCD", "z"), load))
    assert got["A-B"] == [pytest.approx((0, 7, 2, 2), rel=EXACT)]
    assert got["D-C"] == [pytest.approx((0, 7, 2.5, 2.5), rel=EXACT)]
    assert loads.lines.q0[0] / np.linalg.norm(loads.lines.q0[0]) == pytest.approx([1, 0, 0])  # A B C D turn about +x


def test_a_part_of_a_surface_as_a_simple_beam_with_a_load_over_a_part():
    """Over x = 1 to 3 of a 6 m span: R = w 2 (6 - 2)/6 at the near beam, w 2 2/6 at the far one, from y = 1 to 2.5."""
    load = '{ on = "s", area = "3 kN/m2", part = [[1, 1], [3, 1], [3, 2.5], [1, 2.5]] }'
    got, *_ = on_members(plate(SQUARE, ["A-D", "B-C"], flat("ABCD", "x"), load))
    assert got["A-D"] == [pytest.approx((1, 2.5, 4, 4), rel=EXACT)]
    assert got["B-C"] == [pytest.approx((1, 2.5, 2, 2), rel=EXACT)]


def test_two_way_triangles_and_trapezoids_and_a_free_edge():
    edges = ["A-B", "B-C", "C-D", "D-A"]
    got, *_ = on_members(plate(SQUARE, edges, flat("ABCD", "two-way"), '{ on = "s", area = "5 kN/m2" }'))
    assert got["A-B"] == [pytest.approx(v, rel=EXACT, abs=1e-12)
                          for v in ((0, 2, 0, 10), (2, 4, 10, 10), (4, 6, 10, 0))]  # fmt: skip
    assert got["D-A"] == [pytest.approx(v, rel=EXACT, abs=1e-12) for v in ((0, 2, 0, 10), (2, 4, 10, 0))]
    # Without A-B: the two sides share what is nearer to them up to the free edge, 3 m each.
    got, *_ = on_members(plate(SQUARE, edges[1:], flat("ABCD", "two-way"), '{ on = "s", area = "5 kN/m2" }'))
    assert got["B-C"] == [pytest.approx((0, 1, 15, 15), rel=EXACT), pytest.approx((1, 4, 15, 0), rel=EXACT, abs=1e-12)]


def test_an_l_shaped_two_way_floor_with_an_opening():
    """Around the re-entrant corner (4, 4) the nearest edge is a parabola away; the opening takes 0.5 m off a metre."""
    points = {"A": (0, 0, 3), "B": (8, 0, 3), "C": (8, 4, 3), "D": (4, 4, 3), "E": (4, 8, 3), "F": (0, 8, 3)}
    beams = ["A-B", "B-C", "C-D", "D-E", "E-F", "F-A"]
    hole = "[[5, 0.5, 3], [6, 0.5, 3], [6, 1, 3], [5, 1, 3]]"
    surface = flat("ABCDEF", "two-way") + f"\nopenings = {hole}"
    got, *_ = on_members(plate(points, beams, surface, '{ on = "s", area = "3 kN/m2" }'))
    total = {b: sum((v[2] + v[3]) / 2 * (v[1] - v[0]) if len(v) == 4 else v[1] for v in w) for b, w in got.items()}
    turn = 8 - sqrt(32)  # where s = ((s - 4)^2 + 16)/8
    long_side = turn**2 / 2 + ((4 - turn) ** 3 / 3 + 16 * (4 - turn)) / 8 + 4 + 2
    assert total["A-B"] == pytest.approx(3 * (long_side - 0.5), rel=EXACT)
    assert total["F-A"] == pytest.approx(3 * long_side, rel=EXACT)
    assert total["B-C"] == pytest.approx(3 * 4, rel=EXACT)
    corner = 48 - 2 * long_side - 2 * 4 - 2 * 6
    forces = [v for w in got.values() for v in w if len(v) == 2]
    assert [f for _, f in forces] == [pytest.approx(3 * corner, rel=EXACT)]
    assert pytest.approx((5, 6, 4.5, 4.5), rel=EXACT) in got["A-B"]


def test_trimmers_around_an_opening_take_their_share():
    """6 x 6 m with a 2 x 2 m opening in its middle: half of the 2 m between goes to each side."""
    points = {"A": (0, 0, 3), "B": (6, 0, 3), "C": (6, 6, 3), "D": (0, 6, 3)}
    points |= {"P": (2, 2, 3), "W": (4, 2, 3), "R": (4, 4, 3), "S": (2, 4, 3)}
    beams = ["A-B", "B-C", "C-D", "D-A", "P-W", "W-R", "R-S", "S-P"]
    surface = flat("ABCD", "two-way") + '\nopenings = [["P", "W", "R", "S"]]'
    got, *_ = on_members(plate(points, beams, surface, '{ on = "s", area = "2 kN/m2" }'))
    turn = 4 - sqrt(8)
    outer = 2 * (turn**2 / 2 + ((2 - turn) ** 3 / 3 + 4 * (2 - turn)) / 4) + 2
    lines = {b: sum((v[2] + v[3]) / 2 * (v[1] - v[0]) for v in w if len(v) == 4) for b, w in got.items()}
    assert [lines[b] for b in beams] == pytest.approx([2 * outer] * 4 + [4.0] * 4, rel=EXACT)
    forces = [v[1] for w in got.values() for v in w if len(v) == 2]
    assert forces == pytest.approx([2 * (32 - 4 * outer - 8) / 4] * 4, rel=EXACT)


def test_a_force_by_the_lever_rule_and_on_a_member_directly():
    load = '{ on = "s", force = "12 kN", at = [1.5, 3.5] }, { on = "s", force = "7 kN", at = "D" }'
    got, *_ = on_members(plate(SQUARE, ["A-D", "B-C"], flat("ABCD", "x"), load))
    assert got["A-D"] == [pytest.approx((3.5, 9), rel=EXACT), pytest.approx((4, 7), rel=EXACT)]
    assert got["B-C"] == [pytest.approx((3.5, 3), rel=EXACT)]


@pytest.mark.parametrize("turn", [0.0, 33.0, 117.0])
def test_a_force_near_a_corner_of_a_two_way_bay(turn):
    """Strips of 6 m (0.6 + 5.4) and 4 m (0.9 + 3.1) share it as L/(ab)^2, however the bay lies; so does a short wall."""
    c, s = cos(radians(turn)), sin(radians(turn))
    square = {n: (c * x - s * y, s * x + c * y, z) for n, (x, y, z) in SQUARE.items()}
    load = '{ on = "s", force = "10 kN", at = ["10%", "22.5%"] }'
    wall = f'{{ on = "s", line = "{10 / 0.004:.9g} kN/m", from = ["{10 - 1 / 30:.12f}%", "22.5%"], to = ["{10 + 1 / 30:.12f}%", "22.5%"] }}'
    got, *_ = on_members(plate(square, ["A-B", "B-C", "C-D", "D-A"], flat("ABCD", "two-way"), wall))
    sums = {
        b: sum(v[1] if len(v) == 2 else (v[1] - v[0]) * (v[2] + v[3]) / 2 for v in loads) for b, loads in got.items()
    }
    got, *_ = on_members(plate(square, ["A-B", "B-C", "C-D", "D-A"], flat("ABCD", "two-way"), load))
    along, across = 6 / (0.6 * 5.4) ** 2, 4 / (0.9 * 3.1) ** 2
    x = 10 * along / (along + across)
    expected = {
        "D-A": (3.1, x * 0.9),
        "B-C": (0.9, x * 0.1),
        "A-B": (0.6, (10 - x) * 0.775),
        "C-D": (5.4, (10 - x) * 0.225),
    }
    assert got == {b: [pytest.approx(v, rel=EXACT)] for b, v in expected.items()}
    assert sums == {b: pytest.approx(v[1], rel=1e-5) for b, v in expected.items()}


def test_a_wall_on_a_deck_along_across_and_over_a_beam():
    load = (
        '{ on = "s", line = "4 kN/m", from = [1, 2], to = [4, 2] },'  # along the deck: one strip
        '{ on = "s", line = ["2 kN/m", "6 kN/m"], from = [1.5, 0], to = [1.5, 4] },'  # across it
        '{ on = "s", line = "3 kN/m", from = "A", to = "D" }'  # over a beam
    )
    got, *_ = on_members(plate(SQUARE, ["A-D", "B-C"], flat("ABCD", "x"), load))
    assert got["B-C"] == [pytest.approx((0, 4, 0.5, 1.5), rel=EXACT), pytest.approx((2, 12 * 2.5 / 6), rel=EXACT)]
    assert got["A-D"][0] == pytest.approx((0, 4, 1.5, 4.5), rel=EXACT, abs=1e-12)
    assert got["A-D"][1:] == [pytest.approx((0, 4, 3, 3), rel=EXACT), pytest.approx((2, 7), rel=EXACT)]


def on_nodes(text):
    """Shares by node [kN] of a surface that carries to nodes, and their resultant's place in plan."""
    _, project, loads = on_members(text)
    xyz = {node.name: node.xyz[:2] for node in project.nodes}
    share = {}
    for n, f in zip(loads.nodes.node, -loads.nodes.f[:, 2] / 1e3, strict=True):
        share[project.nodes[n].name] = share.get(project.nodes[n].name, 0.0) + float(f)
    force, at = np.array(list(share.values())), [xyz[n] for n in share]
    return share, force @ np.array(at) / force.sum()


def test_shares_of_area_for_nodes():
    """Of a node amid four corners four triangles, a third of each to its nodes; of a trapezoid's load that changes its
    own resultant, by hand: 2 to 5 kN/m2 over 6 m, its width from 4 to 2 m."""
    text = plate(SQUARE | {"M": (3, 2, 3)}, ["A-B", "B-C", "C-D", "D-A", "A-M", "M-C"],
                 'corners = ["A", "B", "C", "D"]\ncarry = "nodes"', '{ on = "s", area = "5 kN/m2" }')  # fmt: skip
    share, middle = on_nodes(text)
    assert share == pytest.approx(dict.fromkeys("ABCD", 5 * 4.0) | {"M": 5 * 8.0}, rel=EXACT)
    assert middle == pytest.approx([3, 2], rel=EXACT)
    points = {"A": (0, 0, 3), "B": (6, 0, 3), "C": (6, 2, 3), "D": (0, 4, 3)}
    load = '{ on = "s", area = ["2 kN/m2", "5 kN/m2"], along = ["A", "B"] }'
    share, middle = on_nodes(
        plate(points, ["A-B", "B-C", "C-D", "D-A"], 'corners = ["A", "B", "C", "D"]\ncarry = "nodes"', load)
    )
    w, p, x = (np.polynomial.Polynomial(c) for c in ([4, -1 / 3], [2, 0.5], [0, 1]))
    whole = lambda f: f.integ()(6) - f.integ()(0)  # noqa: E731
    force = whole(w * p)
    assert sum(share.values()) == pytest.approx(force, rel=EXACT)
    assert middle * force == pytest.approx([whole(w * p * x), whole(w * w * p) / 2], rel=EXACT)


@pytest.mark.parametrize("seed", range(8))
def test_shares_of_nodes_keep_first_moments_however_they_lie(seed):
    """Random outlines with nodes at their corners or not, on edges, inside and beyond beams, and an opening: area loads,
    lines and forces keep force and resultant; in pieces, mirrored and disturbed by a hair as in one."""
    rng = np.random.default_rng(seed)
    ring = [(0, 0), (9, 0), (9, 3), (5, 3), (5, 7), (0, 7)] if seed % 2 else [(0, 0), (8, 0), (10, 5), (1, 6)]
    inner = [(2 + rng.uniform(), 1 + rng.uniform()), (4.5, 2 + rng.uniform()), (1 + rng.uniform(), 4.5)][: seed % 4]
    edge = [(4, 0)] if seed > 3 else []

    def shares(way, hair, load=None, cut=False):
        at = lambda p: (way * p[0], p[1], 3)  # noqa: E731
        points = {f"n{i}": at(p) for i, p in enumerate([*ring, *inner, *edge])}
        points = {n: (*(v + hair * rng.uniform(-1, 1) for v in p[:2]), 3) for n, p in points.items()}
        names = [f"n{i}" for i in range(len(ring))]
        beams = [f"{a}-{b}" for a, b in zip(names, [*names[1:], names[0]], strict=True)]
        beams += [f"n{len(ring) + i}-n0" for i in range(len(inner) + len(edge))]
        hole = [at(p) for p in ((0.5, 0.6), (1.6, 0.7), (0.8, 1.8))]
        surface = f'corners = {json.dumps(names)}\ncarry = "nodes"\nopenings = {json.dumps([hole])}'
        if not load:
            load = '{ on = "s", area = ["2 kN/m2", "5 kN/m2"], along = [[0, 0, 3], [0, 6, 3]] }'
        if cut:
            box = lambda a, b: json.dumps([at(p) for p in ((a, 0), (b, 0), (b, 3), (a, 3))])  # noqa: E731
            parts = [box(*ab) for ab in (((1.7, 5)), ((1.7, 3.3)), ((3.3, 5)))]
            return [on_nodes(plate(points, beams, surface, f'{{ on = "s", area = 2, part = {p} }}')) for p in parts]
        return on_nodes(plate(points, beams, surface, load))

    one, middle = shares(1, 0)
    hole = shapely.Polygon([(0.5, 0.6), (1.6, 0.7), (0.8, 1.8)])
    shape = shapely.Polygon(ring) - hole
    strips = np.linspace(0, 7, 701)
    force = moment = 0
    for a, b in pairwise(strips):
        part = shape & shapely.box(-1, a, 12, b)
        q = (2 + 0.5 * (a + b) / 2) * part.area
        force, moment = force + q, moment + q * np.array(part.centroid.coords[0] if part.area else (0, 0))
    assert sum(one.values()) == pytest.approx(force, rel=1e-6) and middle == pytest.approx(moment / force, rel=1e-5)
    for way, hair in ((-1, 0), (1, 1e-9), (1, 1e-7)):
        other, at = shares(way, hair)
        assert other == pytest.approx(one, rel=1e-5, abs=1e-5) and at * [way, 1] == pytest.approx(middle, rel=1e-5)
    whole, *halves = (s for s, _ in shares(1, 0, cut=True))
    both = {n: sum(h.get(n, 0) for h in halves) for n in whole}
    assert both == pytest.approx(whole, rel=1e-6, abs=1e-6)
    _, at = shares(1, 0, '{ on = "s", force = 4, at = [3.7, 1.9] }')
    assert at == pytest.approx([3.7, 1.9], rel=EXACT)
    _, at = shares(1, 0, '{ on = "s", line = [1, 4], from = [2.2, 0.1], to = [4.4, 2.9] }')
    assert at == pytest.approx([2.2 + 0.6 * 2.2, 0.1 + 0.6 * 2.8], rel=EXACT)


def test_what_lies_beyond_the_nodes_is_levered_and_beside_a_line_of_them_told():
    """Nodes at 0 and 6 m of a surface that reaches to 9 m: the overhang of 3 x 4 m lifts the far side. All nodes on one
    line: what lies 2 m beside it arrives on the line, and that is a warning."""
    points = SQUARE | {"E": (0, 0, 0)}
    beams = ["A-B", "B-C", "C-D", "D-A"]
    over = 'corners = [[0, 0, 3], [9, 0, 3], [9, 4, 3], [0, 4, 3]]\ncarry = "nodes"'
    share, middle = on_nodes(plate(points, beams, over, '{ on = "s", area = "1 kN/m2" }'))
    assert middle == pytest.approx([4.5, 2], rel=EXACT) and sum(share.values()) == pytest.approx(36, rel=EXACT)
    share, _ = on_nodes(plate(points, beams, over, '{ on = "s", force = 1, at = [9, 1] }'))
    far = [n for n in share if share[n] < 0]
    assert sum(share[n] for n in far) == pytest.approx(-0.5, rel=EXACT) and len(far) == 2
    line = {"A": (0, 0, 3), "B": (6, 0, 3)}
    text = plate(line, ["A-B"], over.replace("9", "6"), '{ on = "s", area = "1 kN/m2" }')
    (said,) = [f for f in reading(text).findings if f.code == "moved-aside"]
    assert said.level == "warning" and "24 kN" in said.message and "2 m beside" in said.message


SHAPES = [(deck, seed) for seed in range(12) for deck in ("one-way", "two-way")]


@pytest.mark.parametrize(("deck", "seed"), SHAPES)
def test_any_outline_conserves_force_and_one_way_ones_moment(deck, seed):
    """Random star-shaped outlines, tilted in space, with beams across, an opening, and a pressure that changes."""
    rng = np.random.default_rng(seed)
    n = int(rng.integers(4, 9))
    angle = 2 * pi * (np.arange(n) + rng.uniform(0.1, 0.9, n)) / n
    ring = rng.uniform(3, 9, n)[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])
    spin, _ = np.linalg.qr(rng.normal(size=(3, 3)))

    def solid(points):
        return np.asarray(points) @ spin[:2] + [0, 0, 20]

    points = {f"n{i}": p for i, p in enumerate(solid(ring))}
    beams = [f"n{i}-n{(i + 1) % n}" for i in range(n) if deck == "one-way" or rng.random() < 0.7 or i == 0]
    shape = shapely.Polygon(ring)
    for k in range(3):
        i, j = rng.choice(n, 2, replace=False)
        ends = [ring[e] + rng.uniform(0.2, 0.8) * (ring[(e + 1) % n] - ring[e]) for e in (i, j)]
        if shape.buffer(1e-9).covers(shapely.LineString(ends)):
            points |= {f"p{k}": solid(ends[0]), f"q{k}": solid(ends[1])}
            beams.append(f"p{k}-q{k}")
    text = f"corners = {json.dumps([f'n{i}' for i in range(n)])}\n"
    text += f'deck = "{rng.uniform(0, 180):.4f} deg"' if deck == "one-way" else 'deck = "two-way"'
    if deck == "two-way":
        middle = shapely.get_coordinates(shapely.point_on_surface(shape))[0]
        size = shape.exterior.distance(shapely.Point(middle)) / 2
        text += f"\nopenings = {solid(middle + size * np.array([(-1, -0.7), (0.8, -1), (0.6, 1)])).tolist()}"
    load = '{ on = "s", area = ["2 kN/m2", "5 kN/m2"], along = ["n0", "n1"], dir = "normal" }'
    _, project, loads = on_members(plate(points, beams, text, load))
    there = on_surface(surface_geometries(project)[0][0], project.surface_loads[0])
    force, moment = _exactly(there)
    length = (loads.lines.s1 - loads.lines.s0)[:, None]
    start, x = project.xyz[project.ends[loads.lines.member, 0]], project.axes[loads.lines.member, 0]
    parts = [(start + (loads.lines.s0[:, None] + length * t) * x, q * length / 2)
             for t, q in ((1 / 3, loads.lines.q0), (2 / 3, loads.lines.q1))]  # fmt: skip
    at = (
        project.xyz[project.ends[loads.points.member, 0]]
        + loads.points.s[:, None] * project.axes[loads.points.member, 0]
    )
    parts.append((at, loads.points.f[:, :3]))
    assert sum(f.sum(axis=0) for _, f in parts) == pytest.approx(force, rel=EXACT, abs=EXACT * np.linalg.norm(force))
    if deck == "one-way":
        assert sum(np.cross(p, f).sum(axis=0) for p, f in parts) == pytest.approx(
            moment, abs=EXACT * np.linalg.norm(force) * 30
        )


def _exactly(there):
    """Force and moment of a linear pressure, triangle by triangle at the middles of their sides: exact to third order."""
    force, moment = np.zeros(3), np.zeros(3)
    for t in shapely.get_parts(shapely.delaunay_triangles(there.loaded)):
        inside = shapely.intersection(t, there.loaded)
        for piece in shapely.get_parts(inside):
            c = shapely.get_coordinates(piece.exterior) if piece.geom_type == "Polygon" else np.zeros((0, 2))
            for k in range(1, len(c) - 2):  # a fan, signed
                u, v = c[k] - c[0], c[k + 1] - c[0]
                area = (u[0] * v[1] - u[1] * v[0]) / 2
                middles = (c[[0, k, k + 1]] + c[[k, k + 1, 0]]) / 2
                f = (there.at(middles) * abs(area) / 3)[:, None] * there.vector * np.sign(area)
                sign = np.sign(shapely.Polygon(c).exterior.is_ccw - 0.5)
                force += sign * f.sum(axis=0)
                moment += sign * np.cross(there.outline.solid(middles), f).sum(axis=0)
    return force, moment


@pytest.mark.parametrize(
    ("surface", "load", "code", "said"),
    [
        (flat("ABCE", "x"), '{ on = "s", area = 1 }', "not-flat", "mm off its plane"),
        (flat("ACBD", "x"), '{ on = "s", area = 1 }', "bad-outline", "encloses no area"),
        (flat("AAA", "x"), '{ on = "s", line = 1, from = ["10%", "10%"], to = ["90%", "80%"] }', "bad-outline", "no area"),
        (flat("ABCD", "z"), '{ on = "s", area = 1 }', "bad-deck", "out of its plane"),
        (flat("ABCD", "y"), '{ on = "s", area = 1 }', "not-carried", "24 kN of case Q"),
        (flat("EFGH", "x"), '{ on = "s", area = 1 }', "no-bearing", "no member"),
        (flat("ABCD", "x"), '{ on = "s", force = 1, at = [7, 1] }', "off-surface", "does not lie on"),
        (flat("ABCD", "x"), '{ on = "s", moment = 1 }', "wrong-key", "a moment acts on a structural surface"),
        (flat("ABCD", "x"), '{ on = "s", area = [1, 2] }', "missing-key", "need `along`"),
        (flat("ABCD", "x"), '{ on = "t*", area = 1 }', "matches-nothing", "no surface is called t*"),
        (flat("ABCD", "sideways"), '{ on = "s", area = 1 }', "unknown-word", "sideways"),
        (flat("ABCD", "x") + '\nbearing = ["c"]', '{ on = "s", area = 1 }', "matches-nothing", "c"),
        (flat("ABCD", "x") + "\nopenings = [[5, 1, 3], [7, 1, 3], [7, 2, 3]]", '{ on = "s", area = 1 }', "bad-outline",
         "does not hold its opening"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_surfaces_is_said(surface, load, code, said):
    points = SQUARE | {"E": (0, 4, 3.1), "F": (6, 4, 9), "G": (6, 8, 9), "H": (0, 8, 9.0)}
    points["E"] = (0, 4, 3.1) if "ABCE" in surface.replace('", "', "") else (0, 4, 9)
    read = reading(plate(points, ["A-D", "B-C", "A-B"], surface, load))
    assert [f for f in read.findings if f.code == code and said in f.message], [str(f) for f in read.findings]


FLOOR = """
[floors.f]
dead = { case = "G", layers = { slab = { thickness = "12 cm", density = "25 kN/m3" }, screed = "1.1 kN/m2" }, area = "0.4 kN/m2" }
live = { case = "Q", area = "3 kN/m2", use = "office" }
"""


def test_a_floor_build_up_goes_to_its_cases(tmp_path, capsys):
    more = 'G = { action = "dead", self_weight = { factor = 1.1, without = ["b/A-D"] } }'
    surface = flat("ABCD", "x") + '\nfloor = "f"' + FLOOR
    text = plate(SQUARE, ["A-D", "B-C"], surface, '{ on = "s", force = 2, at = "A" }', more)
    got, _, loads = on_members(text)
    dead = 0.12 * 25 + 1.1 + 0.4
    assert sorted(v[2] for v in got["A-D"] if len(v) == 4) == pytest.approx([3 * 3, dead * 3])
    model = reading(text).resolved
    table = surface_balance(model, named(model, ["Q", "G"]))
    assert table["Fz put on"] / 1e3 == pytest.approx([-74, -24 * dead]) and not table["difference"].any()
    steps = next(s.steps for s in loads.sources if "dead" in s.text)
    assert [s.value for s in steps[:4]] == pytest.approx([3000, 1100, 400, 4500])
    (tmp_path / "m.toml").write_text(text, encoding="utf-8")
    assert main(["loads", str(tmp_path / "m.toml"), "--under", "G"]) == 0
    out = capsys.readouterr().out
    assert "dead of floor f on s" in out and "-108.000" in out
    assert "A-D" not in "".join(line for line in out.splitlines() if "self-weight" in line)


@pytest.mark.parametrize(
    ("floor", "hand", "code"),
    [
        (FLOOR, '{ on = "s", area = "4.51 kN/m2" }', "counted-twice"),
        (FLOOR, '{ on = "s", area = "-4.51 kN/m2", dir = "up" }', "counted-twice"),
        (FLOOR, '{ on = "s", area = "4.51 kN/m2", dir = "-normal" }', "counted-twice"),
        (FLOOR, '{ on = "b", line = "0.65 kN/m" }', "counted-twice"),
        (FLOOR + 'construction_dead = { case = "GC", area = "5 kN/m2" }\n', "", "bad-floor"),
        (FLOOR + 'construction_live = { case = "G", area = "1 kN/m2" }\n', "", "wrong-case"),
        (FLOOR.replace('"office"', '"storage"'), "", "wrong-case"),
        (FLOOR.replace('"3 kN/m2"', '"3 kN/m"'), "", "bad-quantity"),
        (FLOOR.replace("[floors.f]", "[floors.g]"), "", "unknown-name"),
    ],
)
def test_what_is_wrong_with_floors_is_said(floor, hand, code):
    more = 'G = { action = "dead", self_weight = 1.0 }\nGC = { action = "dead", stage = "construction" }'
    text = plate(SQUARE, ["A-D", "B-C"], flat("ABCD", "x") + '\nfloor = "f"' + floor, "", more)
    found = reading(text + f"G = [ {hand} ]\n").findings
    assert code in {f.code for f in found}, [str(f) for f in found]


def test_surfaces_that_cover_the_same_ground():
    text = plate(
        SQUARE, ["A-D", "B-C"], flat("ABCD", "x") + "\n[surfaces.t]\n" + flat("ABC", "x"), '{ on = "s", area = 1 }'
    )
    (found,) = [f for f in reading(text).findings if f.code == "overlap"]
    assert "12 m2" in found.message


@pytest.mark.parametrize(("off", "deep", "warned"), [(0.004, "IPE 400", True), (0.049, "IPE 400", True), (0.06, "IPE 400", False),
                                                     (0.06, "HEA 1000", True), (0.0005, "IPE 400", False)])  # fmt: skip
def test_a_member_just_off_the_plane_is_not_passed_over_without_a_word(off, deep, warned):
    """Up to 50 mm or a tenth of the member's depth, with the distance."""
    points = SQUARE | {"E": (2, 0, 3 - off), "F": (2, 4, 3 - off)}
    text = plate(points, ["A-B", "B-C", "C-D", "D-A", "E-F"], flat("ABCD", "x"), '{ on = "s", area = 5 }').replace(
        "IPE 400", deep
    )
    said = [f for f in reading(text).findings if f.code == "just-off"]
    assert bool(said) == warned
    if warned:
        assert (
            f"b/E-F lies {1e3 * off:.3g} mm off the plane of surface s" in said[0].message
            and said[0].level == "warning"
        )


def test_listings_join_equal_pieces_and_leave_out_vanishing_ones(tmp_path, capsys):
    """An equilateral bay of 6 m, two-way: each edge gets a triangle, up to 5 kN/m2 times the incircle's radius."""
    points = {"A": (0, 0, 3), "B": (6, 0, 3), "C": (3, 27**0.5, 3)}
    (tmp_path / "m.toml").write_text(
        plate(points, ["A-B", "B-C", "C-A"], flat("ABC", "two-way"), '{ on = "s", area = 5 }')
    )
    assert main(["loads", str(tmp_path / "m.toml"), "--format", "json"]) == 0
    rows = [r for r in json.loads(capsys.readouterr().out) if r["kind"] == "line"]
    assert len(rows) == 6
    for r in rows:
        ends = sorted([r["qz [kN/m]"], r["qz end [kN/m]"]])
        assert ends == pytest.approx([-5 * 3**0.5, 0], abs=1e-9) and r["to [m]"] - r["from [m]"] == pytest.approx(
            3, abs=1e-9
        )


def test_what_does_not_arrive_is_an_error(monkeypatch):
    """Were a share lost on its way, the last look would say so: here one that the deck forgets."""
    from empuje.core.actions.surfaces.distribution.collector import Collector

    true = Collector.line
    monkeypatch.setattr(Collector, "line", lambda self, m, s, q, *rest: true(self, m, s, q * (1 - 1e-5), *rest))
    text = plate(SQUARE, ["A-B", "B-C", "C-D", "D-A"], flat("ABCD", "y"), '{ on = "s", area = "5 kN/m2" }')
    (found,) = [f for f in reading(text).findings if f.code == "not-carried"]
    assert found.level == "error" and "0.0012 kN" in found.message


@pytest.mark.parametrize(("beyond", "carried"), [(11.9, True), (12.1, False)])
def test_an_overhang_of_the_deck_up_to_three_times_the_span_behind_it(beyond, carried):
    points = SQUARE | {"E": (6, 4 + beyond, 3), "F": (0, 4 + beyond, 3)}
    text = plate(points, ["A-B", "C-D", "B-C", "D-A"], flat("ABEF", "y"), '{ on = "s", area = "1 kN/m2" }')
    lost = [f.message for f in reading(text).findings if f.level == "error"]
    assert bool(lost) != carried
    if not carried:
        assert f"{6 * beyond:.4g} kN" in lost[0]


def test_shares_of_unequal_nodes_are_bilinear_between_them():
    """Nodes at 0, 1 and 6 m along a strip of 2 m: in each bay the lever rule along and across it."""
    points = {"A": (0, 0, 3), "B": (1, 0, 3), "C": (6, 0, 3), "D": (6, 2, 3), "E": (1, 2, 3), "F": (0, 2, 3)}
    points = {name: (x + 3, y - 7, z) for name, (x, y, z) in points.items()}
    beams = ["A-B", "B-C", "C-D", "D-E", "E-F", "F-A"]
    surface = 'corners = ["A", "C", "D", "F"]\ncarry = "nodes"'

    def shares(load):
        return on_nodes(plate(points, beams, surface, load))[0]

    expected = {"A": 0.5, "B": 3.0, "C": 2.5, "D": 2.5, "E": 3.0, "F": 0.5}
    assert shares('{ on = "s", area = "1 kN/m2" }') == pytest.approx(expected, rel=EXACT)
    along = shares('{ on = "s", line = ["2 kN/m", "8 kN/m"], from = [3, -6.6], to = [9, -6.6] }')
    # By x from A: (2 + x)(1 - x) from 0 to 1 for A, and so on; a fifth of it on the far side.
    levers = {"A": 7 / 6, "B": 13.0, "C": 95 / 6}
    far = dict(zip("ABC", "FED", strict=True))
    assert along == pytest.approx(
        {n: 0.8 * v for n, v in levers.items()} | {far[n]: 0.2 * v for n, v in levers.items()}, rel=EXACT
    )
    force = shares('{ on = "s", force = "3 kN", at = [6.4, -5.8] }')
    assert force == pytest.approx({"B": 3 * 0.52 * 0.4, "C": 3 * 0.48 * 0.4, "D": 3 * 0.48 * 0.6, "E": 3 * 0.52 * 0.6})
    # A triangle and a line askew: by the place of its middle, (4, 1.35).
    points, beams = {"A": (0, 0, 3), "B": (6, 0, 3), "C": (2, 4, 3)}, ["A-B", "B-C", "C-A"]
    surface = 'corners = ["A", "B", "C"]\ncarry = "nodes"'
    length = sqrt(2**2 + 2.3**2)
    askew = shares('{ on = "s", line = "4.3 kN/m", from = [5, 0.2], to = [3, 2.5] }')
    c = 1.35 / 4
    b = (4 - 2 * c) / 6
    assert askew == pytest.approx(
        {n: 4.3 * length * v for n, v in zip("ABC", (1 - b - c, b, c), strict=True)}, rel=EXACT
    )


@pytest.mark.parametrize("wide", [0.001, 0.002, 0.05])
def test_a_slit_across_a_beam_or_up_to_it_takes_away_its_area_and_no_more(wide):
    """A short edge lies within a millimetre of the beam, and yet not along it."""
    points = {"A": (0, 0, 3), "M": (6, 0, 3), "B": (12, 0, 3), "C": (12, 5, 3), "N": (6, 5, 3), "D": (0, 5, 3)}
    beams = ["A-M", "M-B", "B-C", "C-N", "N-D", "D-A", "M-N"]
    across = [[5.5, 2, 3], [6.4, 2, 3], [6.4, 2 + wide, 3], [5.5, 2 + wide, 3]]
    up_to = [[5, 0.3, 3], [5 + wide, 0.3, 3], [6 + wide / 2, 1.7, 3], [6 - wide / 2, 1.7, 3]]
    text = plate(points, beams, flat("AMBCND", "two-way") + f"\nopenings = {[across, up_to]}", '{ on = "s", area = 5 }')
    loads, found = surface_loads(reading(text).project, reading(text).resolved.surfaces)
    lines = loads.lines
    down = ((lines.q0 + lines.q1)[:, 2] / 2 * (lines.s1 - lines.s0)).sum() + loads.points.f[:, 2].sum()
    assert not found and down == pytest.approx(-5e3 * (60 - (0.9 + 1.4) * wide), rel=EXACT)


def test_shapes_whose_edges_run_along_one_another_have_their_area_in_common():
    """Half of a roof turned by 37 degrees, its edges within rounding on the roof's: the library alone finds nothing."""
    import shapely

    from empuje.core.surfaces.common import common

    roof = shapely.Polygon([
        (-6.478386427166747, 8.547343148911331), (13.334249478811719, 23.56416291424809),
        (19.812635905978464, 15.01681976533676), (0, 0),
    ])  # fmt: skip
    half = shapely.Polygon([
        (-6.478386427166747, 8.547343148911331), (3.4279315258224865, 16.055753031579712),
        (9.241870779726824, 8.385056877726024), (-0.6644471732624085, 0.8766469950576429),
    ])  # fmt: skip
    assert common(half, roof).area == pytest.approx(half.area, rel=1e-8)
    both = common(np.array([roof, shapely.box(100, 100, 101, 101)]), half)
    assert [round(shape.area, 6) for shape in both] == [round(half.area, 6), 0.0]


TOUCHING = (  # two shapes that share an edge within rounding: the library's overlay finds all of the second in the first
    "0103000000010000000500000053B8D30148AC24C0FA62AFF55E682EC0CE20867BF8382E40ED913126BB8834C0815B69BEB0D72140"
    "B1A65BBCBD2026C090B2C31CF7B8EBBFAD9D9238170722C053B8D30148AC24C0FA62AFF55E682EC0",
    "0103000000010000000500000053B8D30148AC24C0FA62AFF55E682EC093F197197D90E1BFBF99BFBC024131C0B3407EECED1FE8BF"
    "9F5029BF923B32C02A52020F3F1525C08B2A427DBF2E30C053B8D30148AC24C0FA62AFF55E682EC0",
)


def test_shapes_that_touch_have_nothing_in_common():
    """Also where intersection and union are wrong alike; and what lies outside is all."""
    one, other = (shapely.from_wkb(text) for text in TOUCHING)
    assert one.is_valid and other.is_valid and other.area == pytest.approx(10, rel=1e-8)
    assert not one.intersects(shapely.point_on_surface(other))
    assert common(one, other).area < 1e-6 and common(np.array([one, other]), other)[0].area < 1e-6
    assert without(other, one).area == pytest.approx(10, rel=1e-8)


@pytest.mark.parametrize("roll", [0.0, 30.0])
def test_two_way_bays_keep_the_moments_of_uneven_loads(roll):
    """A plate of 6 by 4 and 3 by 4 m bays under a pressure that grows from 0 to 5 along it, and 4 kN/m2 on a corner of a bay:
    force and both first moments arrive; parts of the load add to the whole; a uniform load is shared as before."""
    c, s = np.cos(np.radians(roll)), np.sin(np.radians(roll))

    def at(x, y):
        return [round(float(c * x - s * y), 9), round(float(s * x + c * y), 9), 3.0]

    nodes = {f"p{i}{j}": at(x, y) for i, x in enumerate((0, 6, 9)) for j, y in enumerate((0, 4))}
    feet = {f"f{k[1:]}": [*v[:2], 0.0] for k, v in nodes.items()}
    pieces = [f'c{k[1:]} = "f{k[1:]} > {k}"' for k in nodes]
    pieces += [f'a{i}{j} = "p{i}{j} > p{i + 1}{j}"' for i in (0, 1) for j in (0, 1)]
    pieces += [f'b{i} = "p{i}0 > p{i}1"' for i in range(3)]
    corners = [at(0, 0), at(9, 0), at(9, 4), at(0, 4)]
    loads = {
        "W": 'area = [0, 5], along = ["p00", "p20"]',
        "L": f'area = [0, 5], along = ["p00", "p20"], part = [{at(0, 0)}, {at(5, 0)}, {at(5, 4)}, {at(0, 4)}]',
        "R": f'area = [0, 5], along = ["p00", "p20"], part = [{at(5, 0)}, {at(9, 0)}, {at(9, 4)}, {at(5, 4)}]',
        "K": f"area = 4, part = [{at(0, 0)}, {at(2, 0)}, {at(2, 1)}, {at(0, 1)}]",
        "U": "area = 4",
    }  # fmt: skip
    text = "\n".join([
        '[project]\nunits = "kN m"\n[nodes]', *(f"{k} = {v}" for k, v in {**nodes, **feet}.items()),
        '[members.frame]\nsection = "HEB 200"\nmaterial = "S355"\n[members.frame.pieces]', *pieces,
        f'[[supports]]\nat = {list(feet)}\nfix = "fixed"'.replace("'", '"'),
        f'[surfaces.plate]\ncorners = {corners}\ndeck = "two-way"', "[cases]",
        *(f'{k} = {{ action = "live" }}' for k in loads), "[loads]",
        *(f'{k} = [ {{ on = "plate", {v} }} ]' for k, v in loads.items()),
    ])  # fmt: skip
    model = resolved(text)
    sums = applied_totals(model.project, model.loads, np.array([0.0, 0.0, 3.0]), len(loads)) / 1e3
    found = {}
    for k, case in enumerate(loads):
        # Moments of forces down about x and y, as places of the resultant along and across the plate.
        place = np.array([sums[4, k], -sums[3, k]]) / -sums[2, k]
        found[case] = (-sums[2, k], *(float(v) for v in (c * place[0] + s * place[1], -s * place[0] + c * place[1])))
    assert found["W"] == pytest.approx((90.0, 6.0, 2.0), rel=1e-8)  # 2.5 kN/m2 on 36 m2, at two thirds
    assert found["K"] == pytest.approx((8.0, 1.0, 0.5), rel=1e-8)
    assert found["U"] == pytest.approx((144.0, 4.5, 2.0), rel=1e-9)
    whole, left, right = (by_member(model, k) for k in range(3))
    assert left + right == pytest.approx(whole, abs=1e-8 * np.abs(whole).max())
    # Uniform: of each bay 4 x 2 x 2/2 on the short edges, triangles of 2 m height.
    rows = model.loads.lines.take(model.loads.lines.case == list(loads).index("U"))
    short = [m.name for m in model.project.members].index("frame/b0")
    mine = rows.take(rows.member == short)
    assert float((np.abs(mine.q0[:, 2] + mine.q1[:, 2]) / 2 * (mine.s1 - mine.s0)).sum()) == pytest.approx(
        16e3, rel=1e-9
    )


def by_member(model, k):
    """Forces down and their first moments along members (members, 2), of the case with number k."""
    out = np.zeros((len(model.project.members), 2))
    lines, points = model.loads.lines, model.loads.points
    lines, points = lines.take(lines.case == k), points.take(points.case == k)
    wide, q0, q1 = lines.s1 - lines.s0, lines.q0[:, 2], lines.q1[:, 2]
    np.add.at(out, (lines.member, 0), wide * (q0 + q1) / 2)
    np.add.at(out, (lines.member, 1), wide * ((2 * q0 + q1) * lines.s0 + (q0 + 2 * q1) * lines.s1) / 6)
    np.add.at(out, (points.member, 0), points.f[:, 2])
    np.add.at(out, (points.member, 1), points.f[:, 2] * points.s)
    return out
