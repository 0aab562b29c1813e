"""Structural surfaces: their elements, their mesh, how loads and members join them, and what is told of them."""

import json
import math
import re
from itertools import pairwise

import numpy as np
import pytest
import shapely
from numpy.testing import assert_allclose
from scipy import sparse
from scipy.sparse.linalg import spsolve

import empuje
from empuje.cli import main
from empuje.core.analysis.equations import Unstable
from empuje.core.analysis.frequency import way_frequencies
from empuje.core.analysis.shells.bending import bending_stiffness, curvature_rows, shear_rows
from empuje.core.analysis.shells.membrane import membrane_stiffness, strain_rows
from empuje.core.analysis.shells.shells import plate_stiffness
from empuje.core.analysis.solve import solve
from empuje.core.answers.line_reactions import by_lines
from empuje.core.answers.plate_cuts import cut_of, resultants
from empuje.core.answers.plate_points import points_each, points_of, principal
from empuje.core.answers.plates import DESIGN, PlateForces, error_estimates, plate_extremes
from empuje.core.answers.reactions import closing_error
from empuje.core.catalogue.catalogue import find_material
from empuje.core.model.near import on_lines
from empuje.core.model.surfaces import Plate, Ribs
from empuje.core.resolve import resolve
from empuje.core.surfaces.mesh.joined import with_plate_nodes, with_plates
from empuje.core.surfaces.mesh.lattice import Region, _without_thin, divided, meshed, parts_of, stops
from empuje.core.surfaces.mesh.settled import settled
from empuje.core.surfaces.mesh.shapes import CORNERS_3, CORNERS_4
from empuje.core.surfaces.mesh.shared import evenly
from empuje.core.surfaces.plane import plane_of
from empuje.files.reader import read_text
from empuje.show.display import Display
from empuje.show.drawings.canvas import PLUS, Sheet
from empuje.show.drawings.draw_plates import draw_plates
from empuje.show.drawings.over_plates import hidden
from empuje.show.drawings.view import View
from empuje.study.study import Study
from plates import COMPONENTS, CORNERS, FIXED, POSTS, RAFT, D, E, Q, along, at, hard, plate, rectangle, solved

RNG = np.random.default_rng(7)
QUADS, THREES = np.array([[0, 1, 2, 3]]), np.array([[0, 1, 2], [0, 2, 3]])


def distorted(corners):
    """A patch of elements with nodes inside moved at will: points (n, 2) and elements."""
    x, y = (v.ravel() for v in np.meshgrid(np.linspace(0, 2, 5), np.linspace(0, 1.5, 4), indexing="ij"))
    inside = (x > 0) & (x < 2) & (y > 0) & (y < 1.5)
    xy = np.column_stack([x, y]) + inside[:, None] * RNG.uniform(-0.14, 0.14, (len(x), 2))
    first = np.add.outer(4 * np.arange(4), np.arange(3)).ravel()
    around = np.column_stack([first, first + 4, first + 5, first + 1])
    return xy, inside, around if corners == 4 else np.concatenate([around[:, [0, 1, 2]], around[:, [0, 2, 3]]])


def patch(k, elements, exact, inside):
    """Inner freedoms where the outer ones move exactly and nothing is loaded (n, 3)."""
    f = (3 * elements[:, :, None] + np.arange(3)).reshape(len(elements), -1)
    n, size = exact.size, f.shape[1]
    K = sparse.csr_matrix((k.ravel(), (np.repeat(f, size, axis=1).ravel(), np.tile(f, (1, size)).ravel())), (n, n))
    free = np.repeat(inside, 3)
    u = exact.ravel().copy()
    u[free] = spsolve(K[free][:, free].tocsc(), -(K[free][:, ~free] @ u[~free]))
    return u.reshape(-1, 3)


@pytest.mark.parametrize("corners", [3, 4])
def test_a_plate_bent_evenly_is_bent_evenly_in_any_mesh(corners):
    xy, inside, elements = distorted(corners)
    n, t = len(elements), 0.2
    D_, K_ = (
        np.tile(v, (n, 1, 1)) for v in (1e6 * np.array([[1, 0.2, 0], [0.2, 0.7, 0], [0, 0, 0.4]]), 1e8 * t * np.eye(2))
    )
    x, y = xy.T
    kx, ky, kxy = 1e-3, -2e-3, 0.7e-3
    w = kx * x**2 / 2 + ky * y**2 / 2 + kxy * x * y + 0.01 * x - 0.02 * y + 0.3
    exact = np.column_stack([w, -(kx * x + kxy * y + 0.01), -(ky * y + kxy * x - 0.02)])
    u = patch(bending_stiffness(xy[elements], D_, K_), elements, exact, inside)
    assert_allclose(u, exact, atol=1e-12)
    rows = curvature_rows(xy[elements], D_, K_, CORNERS_3 if corners == 3 else CORNERS_4)
    bent = np.einsum("npif,nf->npi", rows, u[elements].reshape(n, -1))
    assert_allclose(bent, np.broadcast_to([-kx, -ky, -2 * kxy], bent.shape), atol=1e-12)


@pytest.mark.parametrize("corners", [3, 4])
def test_a_plate_stretched_evenly_is_stretched_evenly_in_any_mesh(corners):
    xy, inside, elements = distorted(corners)
    n = len(elements)
    C = np.tile(1e9 * np.array([[1, 0.3, 0.05], [0.3, 0.6, 0], [0.05, 0, 0.35]]), (n, 1, 1))
    x, y = xy.T
    ex, ey, g, turn = 1e-3, -2e-3, 1.5e-3, 0.004
    exact = np.column_stack(
        [ex * x + (g / 2 - turn) * y + 0.1, ey * y + (g / 2 + turn) * x - 0.2, np.full(len(x), turn)]
    )
    u = patch(membrane_stiffness(xy[elements], C), elements, exact, inside)
    assert_allclose(u, exact, atol=1e-12)
    found = np.einsum("ncif,nf->nci", strain_rows(xy[elements], C), u[elements].reshape(n, -1))
    assert_allclose(found, np.broadcast_to([ex, ey, g], found.shape), atol=1e-12)


@pytest.mark.parametrize("corners", [3, 4])
def test_a_plate_sheared_evenly_is_sheared_evenly_in_any_mesh(corners):
    """Where it is so thick that nothing bends: w along a plane, and normals that stay upright."""
    xy, _, elements = distorted(corners)
    n = len(elements)
    D_, K_ = np.tile(1e15 * np.diag([1, 1, 0.4]), (n, 1, 1)), np.tile(1e3 * np.eye(2), (n, 1, 1))
    along_x, along_y = 2e-3, -1e-3
    u = np.column_stack([xy @ [along_x, along_y], np.zeros((len(xy), 2))])[elements].reshape(n, -1)
    for rows, expected in ((shear_rows, [along_x, along_y]), (curvature_rows, [0.0, 0.0, 0.0])):
        found = np.einsum("npif,nf->npi", rows(xy[elements], D_, K_, CORNERS_3 if corners == 3 else CORNERS_4), u)
        assert_allclose(found, np.broadcast_to(expected, found.shape), atol=1e-11)


def test_slabs_and_walls_sway_as_beams_do():
    """A wall as a cantilever with a mass all along, out of its plane; a slab on four posts that it clamps."""
    of_mass = ('units = "kN m"', 'units = "kN m"\nmass = "Q"')
    wall = plate([(0, 0, 0), (1, 0, 0), (1, 0, 6), (0, 0, 6)], 0.2, along('"p/1"', "fixed"), "", 0.0, "mesh = 0.25")
    wall = wall.replace(*of_mass).replace('{ action = "live" }', '{ action = "dead", self_weight = 1.0 }')
    reading = read_text(wall, "m.toml")
    out, within = way_frequencies(resolve(reading.project), [(0.0, 1.0), (1.0, 0.0)])
    mass, first = 25e3 / 9.80665 * 0.2, 1.875104**2 / 2 / math.pi / 6**2
    assert out == pytest.approx(first * math.sqrt(E * 0.2**3 / 12 / mass), rel=3e-3)
    assert within == pytest.approx(first * math.sqrt(E * 0.2 / 12 / mass), rel=0.02)  # which shears a little
    posts = "".join(
        f"A{i} = [{x}, {y}, 0]\nB{i} = [{x}, {y}, 3]\n" for i, (x, y) in enumerate(((0, 0), (6, 0), (6, 4), (0, 4)))
    )
    pieces = ", ".join(f'P{i} = "A{i} > B{i}"' for i in range(4))
    frame = f"""[nodes]
{posts}[sections]
post = {{ shape = "rectangle", h = "200 mm", b = "200 mm" }}
[members.posts]
section = "post"
material = "m"
pieces = {{ {pieces} }}
"""
    slab = plate([(0, 0, 3), (6, 0, 3), (6, 4, 3), (0, 4, 3)], 2.0, '[[supports]]\nat = "A*"\nfix = "fixed"\n', more=frame,
                 extra="mesh = 0.5\nfootprints = false")  # fmt: skip
    reading = read_text(slab.replace(*of_mass), "m.toml")
    k, mass = 4 * 12 * E * 0.2**4 / 12 / 3**3, 240e3 / 9.80665
    found = way_frequencies(resolve(reading.project), [(0.0, 1.0), (1.0, 0.0)])
    assert found == pytest.approx([math.sqrt(k / mass) / 2 / math.pi] * 2, rel=3e-3)


def test_an_element_resists_all_but_rigid_motions():
    for xy, elements in ((np.array([[0, 0], [2, 0.2], [1.8, 1.5], [-0.1, 1.1]]), (QUADS, THREES)),):
        for own in elements:
            n = len(own)
            C = np.tile(np.array([[1, 0.3, 0], [0.3, 1, 0], [0, 0, 0.35]]), (n, 1, 1))
            for k in (membrane_stiffness(xy[own], C), bending_stiffness(xy[own], C, C[:, :2, :2])):
                value = np.linalg.eigvalsh(k)
                assert ((np.abs(value) < 1e-9 * value.max(axis=1, keepdims=True)).sum(axis=1) == 3).all()


def lines_of(polygon, more=()):
    rings = [np.array(r.coords) for r in (polygon.exterior, *polygon.interiors)]
    every = [pair for r in rings for pair in pairwise(r)] + [np.array(m, float) for m in more]
    parts = shapely.get_parts(shapely.unary_union(shapely.MultiLineString(every)))
    return np.array([pair for p in parts for c in [shapely.get_coordinates(p)] for pair in pairwise(c)])


def mesh(polygon, h, more=(), points=()):
    region = Region(polygon, lines_of(polygon, more), np.array(points, float).reshape(-1, 2), h)
    a, b = (stops(region, d, np.zeros(0)) for d in (0, 1))
    on = [
        p + (q - p) * np.concatenate([[0], evenly(np.array([p, q]), h), [1]])[:, None]
        for (p, q), way in zip(region.lines, region.way, strict=True)
        if way < 0
    ]
    return region, meshed(region, divided(a, parts_of(a, h)), divided(b, parts_of(b, h)), on)


SHAPES = [
    (shapely.Polygon([(0, 0), (12, 0), (12, 8), (0, 8)], [[(3, 3), (5, 3), (5, 4.5), (3, 4.5)]]), [[(6, 0), (6, 8)]], [(9.1, 4.2)]),
    (shapely.Polygon([(0, 0), (8, 0), (8, 4), (4, 8), (0, 8)]), [[(0, 4), (8, 4)]], []),
    (shapely.Polygon([(0, 0), (10, 0), (10, 6), (0, 6)]), [[(0, 0), (10, 6)], [(2, 5), (4, 5.5)]], [(7, 1.3), (7.1, 4)]),
    (shapely.Polygon([(4 * math.cos(a), 4 * math.sin(a)) for a in np.arange(24) * math.pi / 12]), [], [(0.3, 0.1)]),
    (shapely.Polygon([(0, 0), (8, 0), (4, 7)]), [[(4, 0), (4, 7)]], []),
]  # fmt: skip


@pytest.mark.parametrize("shape", range(len(SHAPES)))
def test_elements_cover_a_region_once_and_keep_its_lines(shape):
    polygon, more, points = SHAPES[shape]
    region, found = mesh(polygon, 0.45, more, points)
    areas = [
        shapely.area(shapely.polygons(found.at[own])) for own in (found.triangles, found.quadrilaterals) if len(own)
    ]
    assert np.concatenate(areas).min() > 1e-4
    assert sum(a.sum() for a in areas) == pytest.approx(polygon.area, rel=1e-9)
    for own in (found.triangles, found.quadrilaterals):
        for ring in found.at[own]:
            assert shapely.is_ccw(shapely.LinearRing(ring))
    sides = {tuple(sorted(s)) for own in (found.triangles, found.quadrilaterals) for e in own.tolist()
             for s in zip(e, [*e[1:], e[0]], strict=True)}  # fmt: skip
    length = np.linalg.norm(region.lines[:, 1] - region.lines[:, 0], axis=1).sum()
    on = shapely.MultiLineString(list(region.lines)).buffer(1e-6)
    kept = sum(
        np.linalg.norm(found.at[a] - found.at[b]) for a, b in sides if on.covers(shapely.LineString(found.at[[a, b]]))
    )
    assert kept == pytest.approx(length, rel=1e-6)
    for p in points:
        assert np.linalg.norm(found.at - p, axis=1).min() < 1e-6


def loaded(load, corners=rectangle(6, 4), extra="", more=""):
    reading = read_text(plate(corners, 0.2, FIXED, load, extra=extra, more=more), "m.toml")
    model = resolve(reading.project, reading.findings)
    nodes, places = model.loads.nodes, model.project.places
    f = nodes.f[:, :3]
    return f.sum(axis=0), np.cross(places[nodes.node], f).sum(axis=0), model


TILTED = [(0, 0, 0), (6, 0, 0), (6, 3, 4), (0, 3, 4)]


@pytest.mark.parametrize("corners", [rectangle(6, 4), TILTED])
@pytest.mark.parametrize(
    ("load", "points"),
    [
        ('{ on = "p", area = 5 }', 1), ('{ on = "p", area = [2, 8], along = "+x", dir = "normal" }', 1),
        ('{ on = "p", force = 7, at = ["31%", "47%"] }', 0),
        ('{ on = "p", line = [3, 9], from = ["10%", "20%"], to = ["83%", "91%"] }', 0),
        ('{ on = "p", line = 4, from = ["0%", "0%"], to = ["100%", "0%"], dir = "+y" }', 0),
    ],
)  # fmt: skip
def test_loads_arrive_with_their_sums_and_moments_whatever_the_mesh(load, points, corners):
    once = loaded(load, corners)
    again = loaded(load, corners, extra="mesh = 0.37")
    size = np.abs(once[0]).max()
    assert_allclose(again[0], once[0], atol=1e-10 * size)
    assert_allclose(again[1], once[1], atol=1e-10 * size)
    if points:
        u, v = (np.array(corners[k]) - corners[0] for k in (1, 3))
        area = np.linalg.norm(np.cross(u, v))
        assert np.linalg.norm(once[0]) == pytest.approx(5e3 * area, rel=1e-12)


def test_a_load_on_a_part_covers_that_part_of_the_elements_it_crosses():
    part = '{ on = "p", area = 5, part = [[1.13, 0.77, 0], [4.21, 0.5, 0], [3.9, 3.33, 0], [0.8, 2.9, 0]] }'
    total, moment, _ = loaded(part)
    shape = shapely.Polygon([(1.13, 0.77), (4.21, 0.5), (3.9, 3.33), (0.8, 2.9)])
    x, y = shapely.get_coordinates(shape.centroid)[0]
    assert_allclose(total, [0, 0, -5e3 * shape.area], rtol=1e-12)
    assert_allclose(moment[:2], 5e3 * shape.area * np.array([-y, x]), rtol=1e-12)


def test_a_load_moved_by_a_hair_changes_answers_by_a_hair():
    """Over the line between two elements, and over a corner of four: the mesh does not follow loads."""
    found = []
    for dx in (-1e-6, 0.0, 1e-6):
        f = solved(plate(rectangle(4, 4), 0.1, FIXED, f'{{ on = "p", force = 10, at = [{2 + dx!r}, {2 + dx!r}] }}'))
        found.append([at(f, (2, 2, 0), "w"), at(f, (0, 2, 0), "m_x")])
    assert_allclose(found[0], found[1], rtol=1e-5)
    assert_allclose(found[2], found[1], rtol=1e-5)


FRAME = """
[sections]
col = {{ shape = "rectangle", h = "0.4 m", b = "0.4 m" }}
beam = {{ shape = "rectangle", h = "0.5 m", b = "0.3 m" }}
[nodes]
{nodes}
[members.columns]
section = "col"
material = "C30/37"
roll = {roll!r}
pieces = {{ {columns} }}
[members.edge]
section = "beam"
material = "C30/37"
pieces = {{ E1 = "T00 > T20" }}
[surfaces.slab]
corners = ["T00", "T20", "T22", "T02"]
material = "C30/37"
thickness = "0.2 m"
openings = [{opening}]
own_x = ["T00", "T20"]
[surfaces.wall]
corners = [{wall}]
material = "C30/37"
thickness = "0.25 m"
[[supports]]
at = "B*"
fix = "fixed"
[[supports]]
along = "wall/4"
fix = "x y z"
[cases]
G = {{ action = "dead", self_weight = 1 }}
P = {{ action = "live" }}
W = {{ action = "wind" }}
[loads]
P = [ {{ on = "slab", force = "80 kN", at = {force} }}, {{ on = "slab", line = "12 kN/m", from = {begin}, to = {end} }} ]
W = [ {{ on = "wall", area = "1.5 kN/m2", dir = "normal" }} ]
"""


def platform(turn=0.0, mirror=False, units="kN m", off=(0.0, 0.0, 0.0)):
    """A slab with an opening on nine columns, an edge beam and a wall, wherever it stands and in whatever units."""
    foot = 1.0 if units == "kN m" else 1 / 0.3048
    c, s = math.cos(turn), math.sin(turn)

    def p(x, y, z):
        x = -x if mirror else x
        return str([float(v * foot) for v in (c * x - s * y + off[0], s * x + c * y + off[1], z + off[2])])

    grid = [(i, j, 6.0 * i, 4.5 * j) for i in range(3) for j in range(3)]
    nodes = "".join(f"T{i}{j} = {p(x, y, 3)}\nB{i}{j} = {p(x, y, 0)}\n" for i, j, x, y in grid)
    text = FRAME.format(
        nodes=nodes, columns=", ".join(f'C{i}{j} = "B{i}{j} > T{i}{j}"' for i, j, _, _ in grid),
        roll=math.degrees(turn), opening=", ".join(p(*v, 3) for v in ((7, 1), (9, 1), (9, 2.5), (7, 2.5))),
        wall=", ".join((p(0, 9, 0), p(0, 9, 3), p(6, 9, 3), p(6, 9, 0))), force=p(3.3, 2.1, 3),
        begin=p(12, 0.5, 3), end=p(12, 8.3, 3),
    )  # fmt: skip
    return f'[project]\nunits = "{units}"\n{text}'


def told(f):
    """Numbers that do not depend on where the model stands: of every case."""
    p, own = f.fields.patches, len(f.solution.model.project.nodes)
    slab, wall = (((p.surface == k) & ~f.rigid) for k in (0, 1))
    moved = np.linalg.norm(f.solution.displacement[:own, :3], axis=1).max(axis=0)
    forces = [np.abs(f.every[slab, k]).max(axis=0) for k in (0, 3, 4, 5, 6, 7)]
    forces += [np.abs(f.every[wall, k]).max(axis=0) for k in (0, 1, 2, 4)]
    reactions = np.linalg.norm(f.solution.reaction[:, :3].sum(axis=0), axis=0)
    return np.array([moved, *forces, reactions, np.full(len(moved), float(len(p.node)))])


@pytest.fixture(scope="module")
def standing():
    return solved(platform())


@pytest.mark.parametrize(
    "how", [{"turn": math.radians(33)}, {"mirror": True}, {"units": "kip ft"},
            {"turn": math.radians(-118), "mirror": True, "off": (17.3, -4.1, 2.2)}],
)  # fmt: skip
def test_a_platform_is_the_same_turned_mirrored_and_in_other_units(how, standing):
    assert_allclose(told(solved(platform(**how))), told(standing), rtol=1e-8)


def rounded_model(off, seed=7):
    """Two slabs and a wall on a member and nodes, corners and nodes each up to `off` [m] from where they belong."""
    rng = np.random.default_rng(seed)

    def p(*at):
        return [float(v) for v in np.array(at) + off * np.append(rng.uniform(-1, 1, 2), 0.0)]

    slabs = [[p(x, y, 3) for x, y in ((a, -1), (b, -1), (b, 5), (a, 5))] for a, b in ((0, 5), (5, 9))]
    wall = [p(0, 5, 0), p(5, 5, 0), p(5, 5, 3), p(0, 5, 3)]
    of = 'material = "C30/37"\nthickness = 0.2\n'
    surfaces = "".join(f"[surfaces.{n}]\ncorners = {c}\n{of}" for n, c in zip("abw", (*slabs, wall), strict=True))
    nodes = "".join(f"N{i}{j} = {p(x, y, 3)}\n" for i, x in enumerate((0, 5, 9)) for j, y in enumerate((0, 5)))
    return f"""[project]
units = "kN m"
[sections]
r = {{ shape = "rectangle", h = 0.4, b = 0.25 }}
[nodes]
{nodes}
[members.r]
section = "r"
material = "C30/37"
pieces = {{ R = "N00 > N20" }}
{surfaces}
[[supports]]
at = "N?0"
fix = "x y z"
[[supports]]
at = "N21"
fix = "z"
[[supports]]
along = "w/1"
fix = "x y z"
[cases]
Q = {{ action = "live" }}
[loads]
Q = [ {{ on = ["a", "b"], area = 6 }} ]
"""


def test_rounded_coordinates_make_the_same_structure():
    """Joined all the same, each within half a millimetre of its place along both axes."""
    true, rounded = solved(rounded_model(0.0)), solved(rounded_model(4.5e-4))
    assert closing_error(rounded.solution, rounded.solution.results).max() < 2e-5  # a node a hair off its member
    moved = [f.solution.displacement[:6, :, 0] for f in (true, rounded)]
    assert_allclose(moved[1], moved[0], atol=5e-3 * np.abs(moved[0]).max())
    for place, of, surface in (((2.5, 2.5, 3), "m_y", 0), ((7, 2, 3), "m_x", 1), ((2.5, 5, 1.5), "n_y", 2)):
        assert at(rounded, place, of, surface=surface) == pytest.approx(at(true, place, of, surface=surface), rel=0.05)
    nodes = rounded.solution.project.xyz
    gap = np.linalg.norm(nodes[:, None] - nodes, axis=2) + np.eye(len(nodes))
    assert gap.min() > 1e-3  # nowhere two beside one another


@pytest.mark.parametrize("seed", range(6))
def test_corners_of_elements_beside_a_member_lie_on_its_axis(seed):
    project, found = with_plates(read_text(rounded_model(4.5e-4, seed), "m.toml").project)
    assert not found
    near, on = (on_lines(project.places, project.ends, v)[1] for v in (2.5e-3, 1.5e-4))
    further = set(near[near >= len(project.nodes)].tolist())
    assert len(further) > 40 and further <= set(on.tolist())


@pytest.mark.parametrize(("y", "joined"), [(0.0, True), (0.0009, True), (-0.002, False), (0.002, True)])
def test_what_lies_two_millimetres_beside_an_edge_is_not_at_it(y, joined):
    """A member and a line of support: at an edge, outside it, or inside beside it, where the edge's corners stay."""
    more = f"""[sections]
r = {{ shape = "rectangle", h = 0.4, b = 0.25 }}
[nodes]
A = [0, {y}, 0]
B = [4, {y}, 0]
[members.r]
section = "r"
material = "m"
pieces = {{ R = "A > B" }}
"""
    text = plate(rectangle(4, 3), 0.1, along(f"[[0, {y}, 0], [4, {y}, 0]]", "x y z"), more=more)
    reading = read_text(text, "m.toml")
    model = resolve(reading.project, reading.findings)
    assert any(f.code == "no-surface" for f in model.findings) is not joined
    project = model.analysed
    line = on_lines(project.xyz, project.ends, 1e-3)[1]
    assert bool(len(line)) is joined
    if y == 0.002:
        edge = project.xyz[np.abs(project.xyz[:, 1]) < 1e-9]
        assert len(edge) > 20 and not set(line.tolist()) & set(
            np.flatnonzero(np.abs(project.xyz[:, 1]) < 1e-9).tolist()
        )
        assert {s.node for s in project.supports} == {0, 1, *line.tolist()}


def test_nodes_of_elements_are_called_after_their_surface():
    deck = '[nodes]\nA = [0, 9, 0]\n[surfaces.a]\ncorners = [[9, 0, 0], [12, 0, 0], [12, 3, 0]]\ndeck = "x"\n'
    text = plate(rectangle(4, 3), 0.1, FIXED).replace("[surfaces.p]", deck + "[surfaces.p]")
    reading = read_text(text, "m.toml")
    project = with_plate_nodes(with_plates(reading.project)[0])
    assert [s.name for s in project.surfaces] == ["a", "p"]
    assert {n.name.split(" at ")[0] for n in project.nodes[1:]} == {"p"}


def test_corners_settle_at_nodes_and_keep_a_surface_flat():
    text = plate(
        [(0, 0, 0), (4, 0.0006, 0), (4, 3, 0), (-0.0005, 3, 0)],
        0.1,
        "",
        more="[nodes]\nA = [4, 0, 0]\nB = [0, 3, 0.0008]\n",
    )
    project = settled(read_text(text, "m.toml").project)
    assert project.surfaces[0].corners[1] == (4.0, 0.0, 0.0)
    assert_allclose(project.surfaces[0].corners[3], (0, 3, 0.0008), atol=1e-12)
    assert project.surfaces[0].corners[:1] == ((0.0, 0.0, 0.0),)
    # Corners half a millimetre off the plane, at nodes further off it than a flat surface may be: they move along it alone.
    places = [(0, 0, -1), (4, 0, 1), (4, 3, -1), (0, 3, 1)]
    bent = plate(
        [(x + 2e-4, y, 5e-4 * side) for x, y, side in places], 0.1, "",
        more="[nodes]\n" + "".join(f"N{k} = [{x}, {y}, {1.3e-3 * side}]\n" for k, (x, y, side) in enumerate(places)),
    )  # fmt: skip
    surface = settled(read_text(bent, "m.toml").project).surfaces[0]
    assert_allclose(surface.corners, [(x, y, 5e-4 * side) for x, y, side in places], atol=1e-9)
    assert plane_of(surface)[0] is not None


def test_points_nearly_on_a_line_make_no_thin_elements():
    edge = [(0.0, 0.0), (4.0, 0.0)]
    near = [(x, 4e-4 * (-1) ** k) for k, x in enumerate(np.arange(0.21, 3.9, 0.37))]
    at_ = np.array([*edge, *near, (4.0, 3.0), (0.0, 3.0), (2.0, 1.5), (1.0, 1.0), (3.1, 0.8)])
    from scipy.spatial import Delaunay

    raw = Delaunay(at_).simplices.astype(np.intp)
    kept = _without_thin(at_, raw)

    def area(t):
        u, v = at_[t[:, 1]] - at_[t[:, 0]], at_[t[:, 2]] - at_[t[:, 0]]
        return np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]) / 2

    assert area(raw).min() < 1e-3 < area(kept).min()
    assert area(kept).sum() == pytest.approx(12.0, abs=2e-3) and set(kept.ravel().tolist()) == set(range(len(at_)))
    sides = np.sort(np.concatenate([kept[:, [0, 1]], kept[:, [1, 2]], kept[:, [2, 0]]]), axis=1)
    assert np.unique(sides, axis=0, return_counts=True)[1].max() == 2  # conforming: no side of three


def test_a_platform_balances_and_its_wall_and_slab_meet(standing):
    f = standing
    assert closing_error(f.solution, f.solution.results).max() < 1e-9
    # Along the line where they meet there is one node for both, wherever the one's mesh is finer than the other's.
    p = f.fields.patches
    on = (np.abs(f.xyz[:, 1] - 9) < 1e-6) & (np.abs(f.xyz[:, 2] - 3) < 1e-6) & (f.xyz[:, 0] < 6.3)
    slab, wall = (set(p.node[on & (p.surface == k)].tolist()) for k in (0, 1))
    assert wall and wall <= slab
    # Columns hold the slab over their section: no bending there, and less beside it than at a needle.
    needle = solved(platform().replace('own_x = ["T00"', 'footprints = false\nown_x = ["T00"'))
    worst = [abs(min(e.value for e in plate_extremes(one, one.solution.results, [0], ["m_x"]))) for one in (f, needle)]
    assert f.rigid.any() and not needle.rigid.any() and worst[0] < 0.7 * worst[1]


def test_surfaces_and_their_edges_in_any_order_are_one_structure():
    """A wall that stands on a slab's edge: written before or after it, its corners begun anywhere."""
    slab = '[surfaces.slab]\ncorners = {}\nmaterial = "C30/37"\nthickness = 0.2\n'
    wall = '[surfaces.wall]\ncorners = {}\nmaterial = "C30/37"\nthickness = 0.3\nmesh = 0.21\n'
    a, b = [[0, 0, 0], [5, 0, 0], [5, 4, 0], [0, 4, 0]], [[1, 4, 0], [4, 4, 0], [4, 4, 3], [1, 4, 3]]
    rest = (
        '[[supports]]\nalong = [[0, 0, 0], [5, 0, 0]]\nfix = "fixed"\n[cases]\nQ = { action = "live" }\n[loads]\n'
        'Q = [ { on = "wall", line = 20, from = [1, 4, 3], to = [4, 4, 3] }, { on = "slab", area = 3 } ]\n'
    )
    found = []
    for one in (slab.format(a) + wall.format(b), wall.format(b[2:] + b[:2]) + slab.format(a[1:] + a[:1])):
        f = solved('[project]\nunits = "kN m"\n' + one + rest)
        k = [s.name for s in f.solution.project.surfaces].index("slab")
        found.append([at(f, (2.5, 4, 0), "w", surface=k), at(f, (2.5, 0, 0), "m_y", surface=k)])
        total = f.solution.reaction.sum(axis=0)
        assert_allclose(total[2, 0], 20e3 * 3 + 3e3 * 20, rtol=1e-9)
    assert_allclose(found[1], found[0], rtol=2e-3)


def test_cuts_meet_statics():
    """A slab over one span with an edge beam each side: slab and beams together have q b a^2/8; a wall carries what is
    above the cut."""
    beams = """[sections]
b = { shape = "rectangle", h = "0.4 m", b = "0.2 m" }
[nodes]
N0 = [0, 0, 0]
N1 = [6, 0, 0]
N2 = [6, 3, 0]
N3 = [0, 3, 0]
[members.b]
section = "b"
material = "m"
pieces = { S = "N0 > N1", N = "N3 > N2" }
"""
    supports = along('"p/2"', "z") + along('"p/4"', "x y z")
    f = solved(plate(rectangle(6, 3), 0.15, supports, more=beams))
    cut = cut_of(f, 0, np.array([3.0, 0, 0]), np.array([3.0, 3, 0]))
    N, V, Qv, M, T, M_in = resultants(cut, f.every)[:, 0]
    from empuje.core.answers.along import forces
    from empuje.core.model.loads import Position

    table = forces(f.solution, f.solution.results, np.array([0, 1]), [Position(share=0.5)])
    of_beams = float(np.unique(np.round(table["My"], 3)).sum())
    of_beams = float(sum(table["My"][table["member"] == m][0] for m in ("b/S", "b/N")))
    assert of_beams > 0.3 * M
    assert M + of_beams == pytest.approx(Q * 3 * 36 / 8, rel=3e-3)
    assert max(map(abs, (N, V, M_in, Qv, T))) < 1e-3 * M
    wall = [(0, 0, 0), (5, 0, 0), (5, 0, 4), (0, 0, 4)]
    f = solved(plate(wall, 0.2, along('"p/1"', "fixed"), '{ on = "p", line = 30, from = [0, 0, 4], to = [5, 0, 4] }'))
    cut = cut_of(f, 0, np.array([0.0, 0, 2]), np.array([5.0, 0, 2]))
    assert resultants(cut, f.every)[0, 0] == pytest.approx(-150e3, rel=1e-3)


def test_lines_of_support_are_told_as_one_with_their_share_of_the_corners():
    f = solved(plate(rectangle(6, 4), 0.15, along('"p"', "x y z")))
    lines = by_lines(f.solution)
    names = [lines.project.nodes[n].name for n in lines.support_node]
    assert names == ["p/1", "p/2", "p/3", "p/4"]
    up = lines.reaction[:, 2, 0]
    assert up.sum() == pytest.approx(Q * 24, rel=1e-9)
    assert_allclose(up[:2], up[2:], rtol=1e-6)
    assert_allclose(lines.reaction[:, 3:, 0], 0, atol=1e-4 * up[0])  # about each line's middle
    assert_allclose(closing_error(lines, lines.results), 0, atol=1e-9)


def test_a_bed_carries_all_of_a_level_load_evenly_and_lets_go_only_where_it_may():
    held = CORNERS + '[[supports]]\nat = "N0"\nfix = "x y rz"\n'
    f = solved(plate(rectangle(4, 4), 0.3, held, extra="bed = 20000"))
    assert at(f, (2, 2, 0), "p") == pytest.approx(Q, rel=1e-3)
    assert_allclose(f.every[:, 8, 0], -Q / 20e6, rtol=1e-3)
    pushed = '{ on = "p", force = 400, at = [0.2, 2] }'
    both = solved(plate(rectangle(8, 4), 0.3, held, pushed, extra="bed = 20000"))
    presses = solved(plate(rectangle(8, 4), 0.3, held, pushed, extra="bed = 20000\nlift = true"))
    least = [(f.every[:, 9] @ f.solution.weights(f.solution.results)).min() for f in (both, presses)]
    assert least[0] < -1e3 and least[1] > -1e-3
    total = (presses.solution.reaction @ presses.solution.weights(presses.solution.results))[:, 2].sum()
    assert total == pytest.approx(400e3, rel=1e-9)
    # Where it lifts, the bed is gone: the loaded edge goes down further.
    down = [float((f.every[:, 8] @ f.solution.weights(f.solution.results)).min()) for f in (both, presses)]
    assert down[1] < down[0]


def test_factors_of_stiffness_along_each_axis():
    """A narrow strip bends as a beam of that factor along it, and does not know the other."""
    m = '{ on = "p", area = 4 }'
    tips = []
    for extra in (
        "",
        "stiffness = { bending = [0.5, 1] }",
        "stiffness = { bending = [1, 0.5] }",
        "stiffness = { stretching = 0.3 }",
    ):
        f = solved(plate(rectangle(6, 0.4), 0.2, along('"p/4"', "fixed"), m, nu=0.0, extra="mesh = 0.2\n" + extra))
        tips.append(at(f, (6, 0.2, 0), "w"))
    EI = E * 0.4 * 0.2**3 / 12
    bent, sheared = -4e3 * 0.4 * 6**4 / 8 / EI, -4e3 * 0.4 * 36 / 2 / (E / 2 * 0.08 * 5 / 6)
    assert_allclose(tips, [bent + sheared, 2 * bent + sheared, bent + sheared, bent + sheared], rtol=2e-3)


def test_halving_the_mesh_changes_governing_values_by_less_than_is_told():
    for supports in (hard(4.0), FIXED):
        text = plate(rectangle(4.0, 4.0), 0.1, supports)
        one, coarse, fine = (solved(text, finer) for finer in (1.0, 0.5, 2.0))
        results = one.solution.results
        asked = ["m_x", "m_y", "m_xy", "v_x", "w", *DESIGN]
        found, finer = (plate_extremes(f, f.solution.results, [0], asked) for f in (one, fine))
        estimates = error_estimates(one, found, coarse, results)
        for e, after, estimate in zip(found, finer, estimates, strict=True):
            size = max(abs(x.value) for x in found if x.of[:1] == ("m" if e.of in DESIGN else e.of[:1]))
            assert estimate < 0.02
            assert abs(e.value - after.value) <= (estimate + 2e-4) * size, (e.of, e.side)


def test_the_error_of_a_value_is_the_same_whatever_else_is_asked():
    """Moments for reinforcement are a share of moments, never of forces in the plane, which begin with n as well."""
    load = '{ on = "p", area = 10 }, { on = "p", line = 80, from = [6, 0.5], to = [6, 2.5], dir = "+x" }'
    text = plate(rectangle(6, 3), 0.1, along('"p/4"', "fixed"), load)
    one, coarse = solved(text), solved(text, 0.5)
    results = one.solution.results

    def told(of):
        found = plate_extremes(one, results, [0], of)
        names = [(e.of, e.side, e.peak) for e in found]
        return dict(zip(names, error_estimates(one, found, coarse, results), strict=True))

    every = told(["n_x", "m_x", "m_y", "m_xy", "v_x", "w", *DESIGN])
    for name in ("n_x", "m_xy", "near_x", "far_y", "w"):
        for key, value in told([name]).items():
            assert value == pytest.approx(every[key], rel=1e-12, nan_ok=True)
    bent = plate(rectangle(6, 3), 0.1, along('"p/4"', "fixed"), '{ on = "p", area = 10 }')
    alone, coarser = solved(bent), solved(bent, 0.5)
    near = plate_extremes(alone, alone.solution.results, [0], ["near_x"])
    without = error_estimates(alone, near, coarser, alone.solution.results)
    assert [every["near_x", e.side, e.peak] for e in near] == pytest.approx(without, rel=1e-6, nan_ok=True)


def spans(turn=0.0, p="", q="", middle="z", more=""):
    """Two strips of 4 m in one line, their own x along them, on supports at both ends and in the middle."""

    def at(*points):
        c, s = math.cos(turn), math.sin(turn)
        return [[c * x - s * y, s * x + c * y, 0.0] for x, y in points]

    own = f"own_x = {at((0, 0), (1, 0))}\n"
    other = f'[surfaces.q]\ncorners = {at((4, 0), (8, 0), (8, 1), (4, 1))}\nmaterial = "m"\nthickness = 0.2\n{own}{q}\n'
    supports = "".join(along(at((x, 0), (x, 1)), fix) for x, fix in ((0, "x y z"), (4, middle), (8, "z")) if fix)
    corners = at((4, 0), (4, 1), (0, 1), (0, 0))
    return plate(corners, 0.2, supports, '{ on = ["p", "q"], area = 10 }', 0.0, own + p, other + more)


@pytest.mark.parametrize(
    ("turn", "p", "q", "middle", "hinged"),
    [(0.0, "", "", "z", (False, False)), (0.6, "hinged = [1]", "", "z", (True, True)),
     (0.0, "", 'hinged = "all"', "z", (True, True)), (2.1, "hinged = 1", "hinged = 4", "z", (True, True)),
     (0.6, "hinged = 1", "", "fixed", (True, False)), (0.6, "hinged = 1", "hinged = [4]", "fixed", (True, True))],
)  # fmt: skip
def test_a_strip_hinged_over_its_support_is_two_simple_beams(turn, p, q, middle, hinged):
    """Its rotation is free about the edge alone, whatever it is hinged to, and all else arrives there."""
    f = solved(spans(turn, p, q, middle))
    c, s = math.cos(turn), math.sin(turn)
    stiff, across = D(0.2, 0.0), 5 / 6 * E / 2 * 0.2
    held = -Q * 4**2 / 8 / (1 + 3 * stiff / across / 4**2)  # at the held end of a propped beam that shears
    for k, free in enumerate(hinged):
        x = 2 + 4 * k
        moment = 0.0 if free else held
        expected = 5 * Q * 4**4 / 384 / stiff + Q * 4**2 / 8 / across + moment * 4**2 / 16 / stiff
        assert at(f, (c * x - s / 2, s * x + c / 2, 0), "w", surface=k) == pytest.approx(-expected, rel=5e-4)
        over = at(f, (c * 4 - s / 2, s * 4 + c / 2, 0), "m_x", surface=k)
        assert over == pytest.approx(moment, abs=5e-4 * abs(held))
    assert closing_error(f.solution, f.solution.results).max() < 1e-9


def test_hinges_alone_hold_nothing_and_settle_with_their_supports(tmp_path, capsys):
    with pytest.raises(Unstable, match=r"surface p .*hinges at surface p make a chain"):
        solved(spans(p="hinged = 1\nmesh = 0.2", middle=""))
    nodes = "[nodes]\nM0 = [4, 0, 0]\nM1 = [4, 1, 0]\n"
    held = '[[supports]]\nat = "M*"\nfix = "fixed"\nsettle = { case = "Q", z = "-10 mm" }\n'
    text = spans(p="hinged = 1\nmesh = 0.2", q="hinged = 4", middle="", more=nodes + held).replace(
        "area = 10", "area = 0"
    )
    f = solved(text)  # both spans turn about their hinge as stiff strips: nothing is bent
    assert at(f, (2, 0.5, 0), "w", surface=0) == pytest.approx(-5e-3, rel=1e-6)
    assert np.abs(f.solution.reaction).max() < 1e-3
    # A mirrored copy is hinged along the image of the edge, and so is what is written out.
    copy = '[[copies]]\nname = "twin"\nof = ["p", "q"]\nmirror = { x = 10 }\n'
    path = tmp_path / "spans.toml"
    path.write_text(spans(p="hinged = 1\nmesh = 0.2", q="mesh = 0.2") + copy)
    code, _, err = run(capsys, "export", path, "-o", tmp_path / "plain")
    assert code == 0, err
    for model in (path, tmp_path / "plain" / "spans.toml"):
        f = PlateForces(solve(Study.read(model, cache=False).resolved))
        names = [s.name for s in f.solution.model.project.surfaces]
        for name, x in (("p", 4), ("p~twin", 16)):
            assert abs(at(f, (x, 0.5, 0), "m_x", surface=names.index(name))) < 200
            assert at(f, (x + (2 if x == 4 else -2), 0.5, 0), "m_x", surface=names.index(name.replace("p", "q"))) > 1e4


def test_a_beam_in_a_slab_carries_it_where_they_are_joined():
    beam = """[nodes]
A = [0, 2, 0]
B = [6, 2, 0]
[members.beams]
section = "HEB 300"
material = "S235"
ends = {ENDS}
pieces = { P = {JOINED} }
"""
    held = along('"p/4"', "x y z") + along('"p/2"', "z")
    alone = solved(plate(rectangle(6, 4), 0.2, held, extra="mesh = 0.5"))
    said = {}
    for word in ("true", "false"):
        piece = f'{{ between = ["A", "B"], joined = {word} }}'
        text = beam.replace("{JOINED}", piece).replace("{ENDS}", '"rigid"' if word == "true" else '"hinged"')
        f = solved(plate(rectangle(6, 4), 0.2, held, extra="mesh = 0.5", more=text))
        said[word] = at(f, (3, 2, 0), "w"), np.abs(f.solution.start_force[:, 4]).max()
    w = at(alone, (3, 2, 0), "w")
    assert said["false"] == (pytest.approx(w, rel=1e-3), pytest.approx(0, abs=1e-3))
    # As wide as it is, the slab bends as one with the beam: shares of the load by stiffness, 210/30 of the material.
    beam_share = 210e9 * 25170e-8 / (210e9 * 25170e-8 + 4 * D(0.2, 0.0))
    assert said["true"][0] == pytest.approx(w * (1 - beam_share), rel=0.06)


@pytest.mark.parametrize("turn", [0.0, 0.7])
def test_a_slab_in_two_pieces_is_hinged_as_one(turn):
    """Joined along a line that ends on the hinged edge, they turn there as one."""
    c, s = math.cos(turn), math.sin(turn)

    def at_(*points):
        return [[c * x - s * y, s * x + c * y, 0.0] for x, y in points]

    held = along(at_((0, 0), (6, 0)), "fixed") + along(at_((0, 4), (6, 4)), "z")
    force = f'{{ on = "p", force = 50, at = {at_((2.2, 1.3))[0]} }}'
    own = f"own_x = {at_((0, 0), (1, 0))}\nmesh = 0.5\nhinged = 1\n"
    other = f'[surfaces.q]\ncorners = {at_((3, 0), (6, 0), (6, 4), (3, 4))}\nmaterial = "m"\nthickness = 0.2\n{own}'
    one = solved(plate(at_((0, 0), (6, 0), (6, 4), (0, 4)), 0.2, held, force, extra=own))
    two = solved(plate(at_((0, 0), (3, 0), (3, 4), (0, 4)), 0.2, held, force, extra=own, more=other))
    for x, y in ((0, 0), (3, 0), (3, 0.5), (2, 1.5), (6, 0), (4.5, 2)):
        (place,) = at_((x, y))
        moved = [f.solution.displacement[f.fields.patches.node[np.linalg.norm(f.xyz - place, axis=1).argmin()]]
                 for f in (one, two)]  # fmt: skip
        assert_allclose(moved[1], moved[0], rtol=1e-7, atol=1e-12)
    plain = solved(plate(at_((0, 0), (6, 0), (6, 4), (0, 4)), 0.2, held, force, extra=own.replace("hinged = 1", "")))
    assert at(plain, at_((3, 1))[0], "w") > 0.9 * at(one, at_((3, 1))[0], "w")


LIFTER = """[vehicles.lifter]
axles = [["0 m", "26 kN"], ["1.2 m", "14 kN"]]
gauge = "1 m"
[traffic.FL]
vehicle = "lifter"
way = {way}
surface = {on}
heading = "forward"
step = 0.1
"""


@pytest.mark.parametrize(("turn", "more"), [(0.0, ""), (0.8, "hinged = [1]\n"), (0.0, "pieces")])
def test_a_fork_lift_on_a_slab_is_worst_where_forces_by_hand_are(turn, more):
    """Wheels every 0.1 m, each as a force where it stands, against what traffic finds for reactions and the middle."""
    c, s = math.cos(turn), math.sin(turn)

    def at_(x, y, z=0.0):
        return [c * x - s * y, s * x + c * y, z]

    ways = np.array([at_(0.3, 1.5), at_(5.7, 2.6)])
    length = float(np.linalg.norm(ways[1] - ways[0]))
    ahead = (ways[1] - ways[0]) / length
    left = np.array([-ahead[1], ahead[0], 0.0])
    whole, parted = more != "pieces", more == "pieces"
    corners = [at_(0, 0), at_(6 if whole else 3, 0), at_(6 if whole else 3, 4), at_(0, 4)]
    own = f"own_x = {[at_(0, 0), at_(1, 0)]}\nmesh = 0.25\n" + ("" if parted else more)
    second = f"[surfaces.q]\ncorners = {[at_(3, 0), at_(6, 0), at_(6, 4), at_(3, 4)]}\nmaterial = 'm'\nthickness = 0.25\n{own}"
    held = along([at_(0, 0), at_(6, 0)], "x y z rx ry") + along([at_(0, 4), at_(6, 4)], "z")
    text = plate(corners, 0.25, held, '{ on = "p", area = 1 }', extra=own, more=second if parted else "")
    on = ["p", "q"] if parted else ["p"]
    moving = text + LIFTER.replace("{way}", str(ways.tolist())).replace("{on}", str(on))
    f = solved(moving)
    result = [next(r for r in f.solution.model.results if r.name == "FL")]
    cases, loads = "", ""
    for k, t in enumerate([*np.arange(0, length + 1.2, 0.1), length]):
        wheels = []
        for behind, load, side in ((0.0, 13, 0.5), (0.0, 13, -0.5), (1.2, 7, 0.5), (1.2, 7, -0.5)):
            at = ways[0] + (t - behind) * ahead + side * left
            surface = "q" if parted and c * at[0] + s * at[1] > 3 else "p"
            if 0 <= t - behind <= length:
                wheels.append(f'{{ on = "{surface}", force = {load}, at = {at.tolist()} }}')
        cases += f'C{k} = {{ action = "live" }}\n'
        loads += f"C{k} = [ {', '.join(wheels)} ]\n"
    g = solved(text.replace('Q = { action = "live" }\n', 'Q = { action = "live" }\n' + cases) + loads)
    mine = g.fields.patches.surface == 0
    for name in ("w", "m_x", "m_y", "v_y"):
        k = COMPONENTS.index(name)
        found = plate_extremes(f, result, [0], [name])
        for side, pick in enumerate((min, max)):
            worst = pick(e.value for e in found if e.side == side)
            best, size = pick(g.every[mine, k, 1:].ravel()), np.abs(g.every[mine, k, 1:]).max()
            # Never less than by hand, and of what stands between two steps hardly more.
            assert -1e-7 * size < (worst - best) * (2 * side - 1) < (0.02 if name == "w" else 0.15) * size, (name, side)
    assert {e.peak for e in plate_extremes(f, result, [0], ["m_x"])} == {True, False}


def test_wheels_on_a_slab_are_drawn_listed_and_asked_about(tmp_path, capsys):
    path = tmp_path / "m.toml"
    moving = LIFTER.replace("{way}", "[[0.3, 1.5, 0], [5.7, 2.6, 0]]").replace("{on}", '"p"')
    text = plate(rectangle(6, 4), 0.25, hard(6.0), extra="mesh = 0.5") + moving
    path.write_text(text)
    for what in ("loads", "plates", "deflected"):
        code, _, err = run(capsys, "draw", path, what, "--under", "FL@1.2m", "-o", tmp_path / f"{what}.svg")
        assert code == 0 and ">13<" in (tmp_path / f"{what}.svg").read_text(), err
    rows = json.loads(run(capsys, "loads", path, "--under", "FL@1.2m", "--on", "p", "--format", "json")[1])
    assert [(r["on"], r["Fz [kN]"]) for r in rows] == [("p", pytest.approx(-26)), ("p", pytest.approx(-14))]
    half = text.replace("[6.0, 0.0, 0.0], [6.0, 4.0, 0.0]", "[3.0, 0.0, 0.0], [3.0, 4.0, 0.0]")
    other = '[surfaces.q]\ncorners = [[3, 0, 0], [6, 0, 0], [6, 4, 0], [3, 4, 0]]\nmaterial = "m"\nthickness = 0.25\n'
    held = along([[0, 0, 0], [6, 0, 0]], "x y z") + along([[0, 4, 0], [6, 4, 0]], "z") + "[cases]"
    half = re.sub(r"(?s)\[\[supports\]\].*\[cases\]", lambda _: other + held, half).replace(
        'surface = "p"', 'surface = ["p", "q"]'
    )
    (two := tmp_path / "two.toml").write_text(half)
    rows = json.loads(run(capsys, "loads", two, "--under", "FL@2.7m", "--on", "p,q", "--format", "json")[1])
    # The left front wheel is at x = 2.846, the right one at 3.045, and the rear axle behind them.
    assert sorted((r["on"], round(r["Fz [kN]"], 6)) for r in rows) == [("p", -14), ("p", -13), ("q", -13)]
    balance = json.loads(run(capsys, "reactions", path, "--under", "FL@1.2m", "--balance", "--format", "json")[1])
    assert next(r for r in balance if r["sum"] == "difference")["relative"] < 1e-9
    path.write_text(text.replace("step = 0.1", ""))
    code, out, err = run(capsys, "check", path)
    assert code == 1 and "cannot be exact" in out + err and "a structural surface" in out + err


def test_self_weight_leaves_out_what_is_named(tmp_path, capsys):
    post = """[nodes]
A = [2, 2, -3]
B = [2, 2, 0]
[members.posts]
section = "HEB 200"
material = "S235"
pieces = { P = "A > B" }
"""
    second = '[surfaces.q]\ncorners = [[0, 0, 5], [4, 0, 5], [4, 3, 5], [0, 3, 5]]\nmaterial = "m"\nthickness = 0.1\n'
    text = plate(rectangle(6, 4), 0.2, FIXED + along('"q"', "fixed") + '[[supports]]\nat = "A"\nfix = "fixed"\n',
                 more=post + second, extra="mesh = 0.5").replace("area = 10", "area = 0")  # fmt: skip
    of_p, of_q, of_post = 6 * 4 * 0.2 * 25, 4 * 3 * 0.1 * 25, 7.81e-3 * 7850 * 9.80665e-3 * 3
    for without, left in (
        ('["posts"]', of_p + of_q), ('["p"]', of_q + of_post), ('["q", "posts"]', of_p), ('["*"]', 0.0),
        ('["!q"]', of_q + of_post),
    ):  # fmt: skip
        own = text.replace('{ action = "live" }', f'{{ action = "dead", self_weight = {{ without = {without} }} }}')
        path = tmp_path / "m.toml"
        path.write_text(own)
        code, _, err = run(capsys, "export", path, "-o", tmp_path / "plain", "--force")
        assert code == 0, err
        for model in (path, tmp_path / "plain" / "m.toml"):
            f = solve(Study.read(model, cache=False).resolved)
            assert f.reaction[:, 2].sum() / 1e3 == pytest.approx(left, rel=2e-3, abs=1e-9)
    deck = text + '[surfaces.d]\ncorners = [[0, 0, 9], [4, 0, 9], [4, 3, 9]]\ncarry = "nodes"\n'
    found = read_text(deck.replace('"live" }', '"dead", self_weight = { without = ["d"] } }'), "m.toml").findings
    assert any("d weighs nothing of itself" in str(f) for f in found)


def test_moments_for_reinforcement_by_wood():
    f = solved(plate(rectangle(4.0, 3.0), 0.1, hard(4.0)))
    m = f.every[:, 3:6, 0]
    found = {e.of: e.value for e in plate_extremes(f, f.solution.results, [0], DESIGN)}
    assert found["far_x"] == pytest.approx((m[:, 0] + np.abs(m[:, 2])).max(), rel=1e-9)
    assert found["near_y"] == pytest.approx((m[:, 1] - np.abs(m[:, 2])).min(), rel=1e-9)


def test_what_a_surface_does_not_resist_is_refused_by_name():
    wall = [(0, 0, 0), (5, 0, 0), (5, 0, 4), (0, 0, 4)]
    across = plate(wall, 0.2, along('"p/1"', "fixed") + along('"p/3"', "x y"), '{ on = "p", area = 1, dir = "normal" }',
                   extra='acts = "stretching"')  # fmt: skip
    with pytest.raises(Unstable, match=r"surface p has a load that it does not resist: it acts by stretching alone"):
        solved(across)
    along_it = across.replace('dir = "normal"', 'dir = "+x"')
    assert solved(along_it).solution.reaction[:, 0].sum() == pytest.approx(-20e3, rel=1e-9)
    with pytest.raises(Unstable, match="free to"):
        solved(plate(rectangle(4, 3), 0.2, along('"p/1"', "z")))


WRONG = [
    ('thickness = 0.2', "", "missing-key", "has no `thickness`"),
    ('thickness = 0.2', "thickness = -0.2", "bad-quantity", "must be positive"),
    ('thickness = 0.2', 'thickness = 0.2\ndeck = "x"', "wrong-key", "it has no `deck`"),
    ('thickness = 0.2', 'thickness = 0.2\nlift = true', "unrestrained", "but no bed"),
    ('thickness = 0.2', 'thickness = 0.2\nstiffness = { bending = 0 }', "bad-quantity", "must be positive"),
    ('thickness = 0.2', 'thickness = 0.2\nacts = "bend"', "unknown-word", "bending"),
    ('material = "m"\nthickness = 0.2', 'deck = "x"\nmesh = 0.2', "wrong-key", "is no structural surface"),
    ('thickness = 0.2', 'thickness = 0.2\nhinged = [0]', "bad-list", "its 4 edges"),
    ('along = "p"', 'along = "q"', "unknown-name", "there is no surface q"),
    ('along = "p"', 'along = "p/7"', "unknown-name", "has 4 edges"),
    ('along = "p"', 'along = [[0, 0, 0]]', "bad-line", "two points or more"),
    ('along = "p"', 'along = [[9, 0, 0], [9, 4, 0]]', "no-surface", "lies on no structural surface"),
    ('fix = "fixed"', 'fix = "fixed"\nlift = true', "unknown-key", "lift"),
    ('thickness = 0.2', 'thickness = 0.2\nmesh = "1e-7 m"', "no-mesh", "more than 60,000"),
    ('thickness = 0.2', 'thickness = 0.2\nribs = { depth = 0.3, width = 0.2, spacing = 0.1 }', "bad-quantity", "overlap"),
    ('thickness = 0.2', 'thickness = 0.2\nribs = { depth = 0.3, width = 0.2 }', "missing-key", "spacing"),
    ('thickness = 0.2', 'thickness = 20', "no-plate", "as thick as a block"),
    ('thickness = 0.2', 'thickness = 0.001', "no-plate", "as thin as a foil"),
]  # fmt: skip


@pytest.mark.parametrize("case", range(len(WRONG)))
def test_mistakes_are_told(case):
    before, after, code, words = WRONG[case]
    text = plate(rectangle(6, 4), 0.2, FIXED)
    assert before in text
    reading = read_text(text.replace(before, after), "m.toml")
    model = resolve(reading.project, reading.findings)
    found = [f for f in (*reading.findings, *model.findings) if f.code == code]
    assert found and any(words in str(f) for f in found), [str(f) for f in (*reading.findings, *model.findings)]


def test_what_misses_a_surface_by_a_little_is_told():
    post = """[nodes]
A = [2, 2, -3]
B = [2, 2, -0.03]
[members.post]
section = "HEB 200"
material = "S235"
pieces = { P = "A > B" }
"""
    reading = read_text(
        plate(rectangle(6, 4), 0.2, FIXED + '[[supports]]\nat = "A"\nfix = "fixed"\n', more=post), "m.toml"
    )
    found = [str(f) for f in resolve(reading.project, reading.findings).findings if f.code == "just-off"]
    assert len(found) == 1 and "node B lies 30 mm off structural surface p" in found[0]


def run(capsys, *words):
    code = main([str(w) for w in words])
    out = capsys.readouterr()
    return code, out.out, out.err


@pytest.fixture(scope="module")
def yard(tmp_path_factory):
    folder = tmp_path_factory.mktemp("yard")
    path = folder / "platform.toml"
    path.write_text(platform() + '[combinations.custom]\nU = { formula = "1.35 G + 1.5 P", set = "strength" }\n')
    return path


def test_principal_values_at_points_do_not_depend_on_axes():
    """A corner pressed up twists a plate on three others evenly: m_xy = P/2 everywhere, so that m_1 is at 45 degrees."""
    twisted = plate(rectangle(4, 4), 0.02, '[[supports]]\nat = ["N0", "N1", "N3"]\nfix = "x y z"\n',
                    '{ on = "N2", force = 8, dir = "up" }', extra="{own}", more=CORNERS)  # fmt: skip
    xyz = np.array([[2.03, 1.97, 0.0], [1.2, 2.6, 0.0]])
    for turn in (0.0, 30.0, 120.0):
        c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        f = solved(twisted.replace("{own}", f"own_x = [[0, 0, 0], [{c!r}, {s!r}, 0]]"))
        points = points_of(f, [0], xyz)
        table = {c.name: c.values for c in points_each(f, f.solution.results, points).columns}
        assert_allclose(table["m_1"], 4e3, rtol=5e-3)
        assert_allclose(table["m_2"], -4e3, rtol=5e-3)
        # The diagonal to the corner that goes up is bent up: tension below.
        assert_allclose((np.degrees(table["alpha_m"]) + turn) % 180, 45.0, atol=0.5)
    x, y, xy = RNG.uniform(-1, 1, (3, 50))
    one, two, angle = principal(x, y, xy)
    both = np.linalg.eigvalsh(np.stack([np.stack([x, xy], 1), np.stack([xy, y], 1)], 1))
    assert_allclose(np.stack([two, one], 1), both, rtol=1e-12)
    assert_allclose(x * np.cos(angle) ** 2 + y * np.sin(angle) ** 2 + xy * np.sin(2 * angle), one, rtol=1e-9)
    assert np.isnan(principal(np.ones(1), np.ones(1), np.zeros(1))[2])


def test_points_of_a_platform(yard, capsys):
    """At points: each result, and of all results the extremes; in a footprint there are no forces."""
    where = ["--at", "2,2,3", "3,9,3", "6,4.5,3"]
    code, out, err = run(capsys, "plates", yard, *where, "--each", "--under", "G,P,U", "--format", "json")
    each = json.loads(out)
    assert code == 0 and [r["surface"] for r in each] == ["slab"] * 6 + ["wall"] * 3 + ["slab"] * 3, err
    by = {r["case"]: r for r in each[:3]}
    assert by["U"]["m_x [kN*m/m]"] == pytest.approx(1.35 * by["G"]["m_x [kN*m/m]"] + 1.5 * by["P"]["m_x [kN*m/m]"])
    assert each[-1]["m_x [kN*m/m]"] is None and each[-1]["w [mm]"] < 0 and "no forces" in err
    code, out, _ = run(capsys, "plates", yard, *where, "--under", "G,P,U", "--format", "json")
    rows = json.loads(out)
    for r in (r for r in rows if r["of"] == "m_y" and r["x [m]"] == 2):
        best = (max if r["extreme"] == "max" else min)(by.values(), key=lambda one: one["m_y [kN*m/m]"])
        assert r["moment [kN*m/m]"] == pytest.approx(best["m_y [kN*m/m]"]) and r["case"] == best["case"]
        assert r["v_x there [kN/m]"] == pytest.approx(best["v_x [kN/m]"])
    assert {r["of"] for r in rows if r["x [m]"] == 6} == {"w", "sag"}
    code, _, err = run(capsys, "plates", yard, "--at", "2,2,3.5")
    assert code == 2 and "2,2,3.5 is on none" in err
    with pytest.warns(UserWarning, match="wind"):
        results = empuje.read(yard).solve()
    drawn = results.draw("plates", "U", force="m_y", cut=([0, 4.5, 3], [12, 4.5, 3]), on="slab")
    assert any("through the cut of slab, 12 m long" in words for words, _ in drawn.sheets[0].foot)
    frame = results.plates_at([[2, 2, 3]], under="U")
    with pytest.raises(ValueError, match="write three lengths"):  # a share of what?
        results.plates_at([["40%", 2, 3]])
    assert frame["m_1 [kN*m/m]"][0] == pytest.approx(by["U"]["m_1 [kN*m/m]"])


def test_loads_of_a_surface_alone(yard, capsys):
    rows = json.loads(run(capsys, "loads", yard, "--on", "slab", "--under", "P", "--format", "json")[1])
    every = json.loads(run(capsys, "loads", yard, "--under", "P", "--format", "json")[1])
    assert rows and {r["on"] for r in rows} == {"slab"} and rows == [r for r in every if r["on"] == "slab"]
    sums = json.loads(
        run(capsys, "loads", yard, "--on", "slab,!wall", "--under", "P", "--by", "case", "--format", "json")[1]
    )
    assert sums[0]["Fz [kN]"] == pytest.approx(sum(r["Fz [kN]"] for r in rows))
    with pytest.warns(UserWarning, match="wind"):
        own = empuje.read(yard).loads("slab", "P")
    assert len(own[own["on"] == "slab"]) == len(rows)
    assert "nothing is called roof" in run(capsys, "loads", yard, "--on", "roof")[2]


def test_the_command_says_what_governs(yard, capsys):
    code, out, err = run(capsys, "plates", yard, "--on", "slab", "--of", "m_x,w", "--format", "json")
    rows = json.loads(out)
    assert code == 0 and {r["of"] for r in rows} == {"m_x", "w"} and "Mesh error: about what the mesh" in err
    assert all(r["case"] == "U" for r in rows) and {r["surface"] for r in rows} == {"slab"}
    peak = next(r for r in rows if r["extreme"] == "peak min")
    assert peak["mean over [m]"] > 0 and peak["mesh error [%]"] is None and peak["moment [kN*m/m]"] < -10
    sag = next(r for r in rows if r["of"] == "w" and r["extreme"] == "min")
    assert sag["displacement [mm]"] < -0.5 and sag["mesh error [%]"] < 2
    assert sag["w there [mm]"] == pytest.approx(sag["displacement [mm]"])
    again = json.loads(run(capsys, "plates", yard, "--on", "slab", "--of", "m_x,w", "--format", "json", "--quick")[1])
    for a, b in zip(rows, again, strict=True):  # from the cache, and without an estimate
        assert {k: v for k, v in a.items() if k != "mesh error [%]"} == b
    code, out, _ = run(
        capsys, "plates", yard, "--cut", "0,4.5,3", "12,4.5,3", "--each", "--under", "G", "--format", "json"
    )
    assert code == 0 and json.loads(out)[0]["length [m]"] == 12
    code, out, _ = run(capsys, "plates", yard, "--each", "--under", "G", "--of", "m_x", "--format", "csv")
    assert code == 0 and out.splitlines()[0] == "surface,case,x [m],y [m],z [m],m_x [kN*m/m],how"


def test_refusals_say_why(yard, capsys, tmp_path):
    for words, why in (
        (["plates", yard, "--on", "slap"], "no structural surface is called slap; did you mean slab"),
        (["plates", yard, "--of", "m_z"], "there is no m_z"),
        (["plates", yard, "--cut", "0,0,9", "1,0,9"], "lies in none of these surfaces"),
        (["takedown", yard], "structural surfaces"),
    ):  # fmt: skip
        code, _, err = run(capsys, *words)
        assert code == 2 and why in err, err


def test_even_forces_on_edges_are_an_even_stress():
    """A five-sided wall with a column inside, so that its mesh is of triangles and quadrilaterals of any shape, under
    the tractions of one stress on all of its edges; and sums and first moments of a line on parts of two sides."""
    corners = [(0.0, 0.0), (3.1, 0.3), (3.9, 2.2), (1.7, 3.4), (-0.4, 1.9)]
    s = np.array([[-700.0, 150.0], [150.0, 400.0]])
    loads = []
    for k, (a, b) in enumerate(zip(corners, corners[1:] + corners[:1], strict=True), start=1):
        step = np.subtract(b, a)
        out = np.array([step[1], -step[0]]) / np.linalg.norm(step)
        loads += [f'{{ on = "p", line = {v / 1e3!r}, edge = {k}, dir = "+{way}" }}'
                  for way, v in zip("xy", (s @ out).tolist(), strict=True)]  # fmt: skip
    held = along('"p"', "z rx ry") + '[[supports]]\nat = "N0"\nfix = "x y"\n[[supports]]\nat = "N1"\nfix = "y"\n'
    text = plate([(*c, 0.0) for c in corners], 0.2, held, ", ".join(loads), extra="mesh = 0.31",
                 more="[nodes]\nN0 = [1.3, 1.2, 0]\nN1 = [2.4, 1.5, 0]\n")  # fmt: skip
    f = solved(text)
    n = f.every[:, :3, 0]
    assert n == pytest.approx(np.tile([s[0, 0], s[1, 1], s[0, 1]], (len(n), 1)), abs=1e-4)
    assert np.abs(f.solution.reaction[:, :2]).max() < 1e-6
    line = '{ on = "p", line = [3, 7], from = [0.7, 0, 0], to = [3.3, 0, 0], dir = "+y" }'
    f = solved(plate(rectangle(4, 3), 0.2, along('"p/3"', "fixed"), line))
    put = f.solution.loads.nodes
    xyz = f.solution.project.xyz[put.node]
    about_z = (xyz[:, 0] * put.f[:, 1] - xyz[:, 1] * put.f[:, 0] + put.f[:, 5]).sum()
    assert put.f[:, 1].sum() == pytest.approx(13e3, rel=1e-12)
    assert about_z == pytest.approx(13e3 * (0.7 + 2.6 * (3 + 14) / 30), rel=1e-12)
    assert np.abs(put.f[:, 5]).max() > 10


@pytest.mark.parametrize("turn", [0.0, 90.0])
def test_ribs_make_a_slab_stiff_along_them(turn):
    """A strip over two lines, of material without contraction, is a row of T sections: w = 5 q L^4/(384 EI), q with its
    own weight; across the ribs, and twisted, it is nearly the plate. Sizes in mm and metres alike."""
    L, B, t, d, b, s = 6.0, 4.0, 0.1, 0.3, 0.16, 0.8
    ribs = 'ribs = { depth = "300 mm", width = 0.16, spacing = "80 cm" }'
    corners = rectangle(L, B) if turn == 0 else [(0, 0, 0), (0, L, 0), (-B, L, 0), (-B, 0, 0)]
    own = f"own_x = {[list(map(float, c)) for c in corners[:2]]}\n{ribs}"
    held = along('"p/2"', "x y z") + along('"p/4"', "z")
    text = plate(corners, t, held, "", nu=0.0, extra=own).replace('"live"', '"dead", self_weight = 1')
    f = solved(text)
    A = np.array([t * s, d * b])
    z = np.array([0.0, (t + d) / 2])
    middle = A @ z / A.sum()
    inertia = (s * t**3 + b * d**3) / 12 + A @ (z - middle) ** 2
    q = 25e3 * A.sum()
    weight = f.solution.reaction[:, 2].sum()
    assert weight == pytest.approx(25e3 * (t + d * b / s) * L * B, rel=1e-6)
    w = 5 * q * L**4 / 384 / E / inertia + q / s * L**2 / 8 / (5 / 6 * E / 2 * (t + d * b / s))
    here = (L / 2, B / 2, 0) if turn == 0 else (-B / 2, L / 2, 0)
    assert -at(f, here, "w") == pytest.approx(w, rel=3e-3)
    assert at(f, here, "m_x") == pytest.approx(q / s * L**2 / 8, rel=1e-2)
    across = along('"p/1"', "x y z") + along('"p/3"', "z")
    bare, ribbed = (solved(plate(corners, t, across, nu=0.0, extra=e)) for e in (own.replace(ribs, ""), own))
    assert at(ribbed, here, "w") == pytest.approx(at(bare, here, "w"), rel=1e-2)
    pulled = '{ on = "p", line = 50, edge = 2, dir = "%s" }' % ("+x" if turn == 0 else "+y")
    f = solved(plate(corners, t, along('"p/4"', "fixed"), pulled, nu=0.0, extra=own))
    end = f.solution.displacement[
        np.linalg.norm(f.solution.project.xyz - np.array(corners[1], float), axis=1).argmin(), :2, 0
    ]
    assert np.abs(end).max() == pytest.approx(50e3 * L / E / (t + d * b / s), rel=1e-3)
    material = find_material("C30/37")
    stiff = plate_stiffness(Plate(material, t, ribs=Ribs(d, b, s)))
    alone = plate_stiffness(Plate(material, t))
    J = d * b**3 * (1 / 3 - 0.21 * b / d * (1 - (b / d) ** 4 / 12))
    assert stiff[1][2, 2] - alone[1][2, 2] == pytest.approx(material.G * J / 4 / s, rel=1e-12)
    assert stiff[1][1, 1] == alone[1][1, 1] and stiff[2][1, 1] == alone[2][1, 1]


def test_a_plate_that_only_bends_bends_as_one_that_stretches_too():
    both = plate(rectangle(4, 3), 0.1, FIXED)
    alone, known = (solved(t).every[..., 0] for t in (both.replace("thickness", 'acts = "bending"\nthickness'), both))
    assert alone[:, :6] == pytest.approx(known[:, :6], abs=1e-9 * np.abs(known).max())
    assert np.abs(known[:, 3]).max() > 1e3


def test_pictures_show_bands_and_elements(yard, capsys, tmp_path):
    for what, more in (("mesh", []), ("plates", ["--of", "m_y", "--under", "P"]), ("deflected", ["--under", "U"]),
                       ("loads", ["--under", "P"]), ("reactions", ["--under", "G"])):  # fmt: skip
        file = tmp_path / f"{what}.svg"
        code, _, err = run(capsys, "draw", yard, what, *more, "-o", file)
        assert code == 0 and file.stat().st_size > 5000, err
    text = re.sub(r"<[^>]*>", " ", (tmp_path / "plates.svg").read_text())
    assert "m_y in kN*m/m" in text and "dashed lines: negative" in text
    file = tmp_path / "cut.svg"
    ends = ["--cut", "0,4.5,3", "12,4.5,3"]
    code, _, err = run(capsys, "draw", yard, "plates", "--of", "m_y", "--under", "U", *ends, "-o", file)
    assert code == 0, err
    text = re.sub(r"<[^>]*>", " ", file.read_text())
    rows = json.loads(run(capsys, "plates", yard, *ends, "--each", "--under", "U", "--format", "json")[1])
    assert f"through the cut of slab, 12 m long: N {rows[0]['N [kN]']:.4g} kN" in text
    assert f"M {rows[0]['M [kN*m]']:.4g} kN*m" in text
    code, _, err = run(capsys, "draw", yard, "plates", "--of", "m_1", "--under", "P", "-o", tmp_path / "p.svg")
    assert code == 0 and "crosses: an arm lies along the strip" in (tmp_path / "p.svg").read_text()
    for words, why in ((["loads", *ends], "--cut goes with plates"),
                       (["plates", "--cut", "0,0,9", "1,0,9"], "lies in none of these")):  # fmt: skip
        code, _, err = run(capsys, "draw", yard, *words, "--under", "P")
        assert code == 2 and why in err


def test_lines_behind_a_surface_are_hidden_and_those_below_its_opening_are_not():
    opened = "openings = [[[1, 1, 0], [2, 1, 0], [2, 2, 0], [1, 2, 0]]]"
    f = solved(plate(rectangle(4, 3), 0.2, FIXED, extra=f"{opened}\nmesh = 0.5"))
    project, view = f.solution.model.project, View.named("xy")
    points = np.array([[3, 1, -1], [1.5, 1.5, -1], [3, 1, 1], [3, 1, 0], [5, 1, -1]], float)
    assert hidden(project, [0], points, view).tolist() == [True, False, False, False, False]
    assert hidden(project, [0], points, View.named("-90,-90")).tolist() == [False, False, True, False, False]
    sheet = Sheet(project, view, np.zeros(0, np.intp), "", "")
    sheet.frame()
    (filled,) = (path for paths in sheet.fills.values() for path in paths)
    x, y = filled.T
    assert abs((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2 == pytest.approx(4 * 3 - 1)  # less the opening


def test_crosses_lie_along_principal_values_and_a_cut_stands_on_its_line():
    f = solved(plate(rectangle(8, 1), 0.2, along('"p/4"', "x y z") + along('"p/2"', "z"), nu=0.0, extra="mesh = 0.25"))
    none, display = np.zeros(0, np.intp), Display(("kN", "m", "mm", "MPa"))
    ends = np.array([0.0, 0.5, 0.0]), np.array([8.0, 0.5, 0.0])
    sheet = draw_plates(f.solution, f.solution.results[0], "m_1", [0], none, View.named("xy"), display)
    arms = np.array(
        [p for (colour, *_), paths in sheet.strokes.items() if colour == PLUS for p in paths if len(p) == 2]
    )
    way = np.abs(arms[:, 1] - arms[:, 0])
    length = np.linalg.norm(way, axis=1)
    middle = np.abs(arms.mean(axis=1)[:, 0] - 4) < 0.5
    assert (way[length > 0.1 * length.max(), 1] < 0.05 * length.max()).all() and length[middle].max() == length.max()
    sheet = draw_plates(f.solution, f.solution.results[0], "m_x", [0], none, View.named("xz"), display, cut=ends)
    (crest,) = (p for (colour, width, *_), paths in sheet.strokes.items() if width == 1.4 for p in paths if len(p) > 20)
    rise = crest[:, 1] / crest[:, 1].max()
    assert_allclose(rise, 4 * (crest[:, 0] / 8) * (1 - crest[:, 0] / 8), atol=0.02)  # q L^2/8 as a parabola
    opened = "openings = [[[3, 0.25, 0], [4, 0.25, 0], [4, 0.75, 0], [3, 0.75, 0]]]\nmesh = 0.25"
    f = solved(plate(rectangle(8, 1), 0.2, along('"p/4"', "x y z") + along('"p/2"', "z"), nu=0.0, extra=opened))
    sheet = draw_plates(f.solution, f.solution.results[0], "m_x", [0], none, View.named("xz"), display, cut=ends)
    parts = [p for (colour, width, *_), paths in sheet.strokes.items() if width == 1.4 for p in paths if len(p) > 20]
    assert [tuple(np.round(p[[0, -1], 0], 1)) for p in parts] == [(0, 3), (4, 8)]  # nothing over the opening


def test_what_is_nearer_is_painted_over_what_is_behind_it():
    """Seen from above, a slab from x = 0 to 4 over one from 2 to 6: wherever they overlap the upper one is last."""
    lower = [(2, 0, 0), (6, 0, 0), (6, 4, 0), (2, 4, 0)]
    upper = (
        f'[surfaces.u]\ncorners = {[(v[0] - 2.0, float(v[1]), 3.0) for v in lower]}\nmaterial = "m"\nthickness = 0.2\n'
    )
    upper = upper.replace("(", "[").replace(")", "]")
    load = '{ on = ["p", "u"], area = 10 }'
    f = solved(plate(lower, 0.2, along('"p"', "fixed") + along('"u"', "fixed"), load, more=upper, extra="mesh = 0.5"))
    sheet = draw_plates(
        f.solution, f.solution.results[0], "m_x", [1, 0], np.zeros(0, np.intp), View.named("xy"), Display(("kN", "m", "mm", "MPa"))
    )  # fmt: skip
    middle = np.array([face.mean(axis=0)[0] for face, _ in sheet.faces])
    below, above = np.flatnonzero(middle > 4.01), np.flatnonzero(middle < 1.99)
    assert len(below) > 20 and len(above) > 20 and below.max() < above.min()


def test_a_written_out_model_has_the_same_answers(yard, capsys, tmp_path):
    code, _, err = run(capsys, "export", yard, "-o", tmp_path / "plain")
    assert code == 0, err
    both = [run(capsys, "plates", path, "--quick", "--format", "csv", "--of", "m_x,n_y,w")[1]
            for path in (yard, tmp_path / "plain" / "platform.toml")]  # fmt: skip
    assert both[0] == both[1] and len(both[0]) > 400


@pytest.fixture(scope="module")
def raft(tmp_path_factory):
    path = tmp_path_factory.mktemp("raft") / "raft.toml"
    path.write_text(RAFT)
    return path


def test_a_bed_and_a_line_on_it_share_their_nodes_by_what_each_takes(raft, capsys):
    rows = json.loads(run(capsys, "reactions", raft, "--format", "json")[1])
    of = {(r["case"], r["node"]): r for r in rows if r["node"].startswith("raft")}
    bed, edge = of["Q", "raft on its bed"], of["H", "raft/1"]
    assert bed["Fz [kN]"] == pytest.approx(550) and bed["Mx [kN*m]"] == pytest.approx(-0.5 * 400)
    assert bed["My [kN*m]"] == pytest.approx(1.0 * 400)  # about the middle of the raft
    assert edge["Fx [kN]"] == pytest.approx(-40) and edge["Fz [kN]"] == 0 == of["H", "raft on its bed"]["Fx [kN]"]


ALONE = [
    (["check"], 0, "no errors"), (["loads", "--totals"], 0, "-550"), (["plates", "--quick"], 0, "peak max"),
    (["decisions"], 0, "order of analysis"), (["reactions", "--schedule"], 0, "raft on its bed"), (["forces"], 2, "has no members"),
    (["envelope"], 2, "has no members"), (["displacements"], 2, "plates --of w"), (["takedown"], 2, "has no members"),
    (["draw", "My"], 2, "has no members"), (["draw", "stress"], 2, "has no members"),
    *((["draw", what, "--under", "Q", "-o", f"{what}.svg"], 0, "wrote")
      for what in ("frame", "solid", "loads", "deflected", "reactions", "mesh", "plates")),
    (["run", "--no-pictures", "-o", "out"], 0, "wrote out"), (["report", "-o", "r.pdf"], 0, "wrote r.pdf"),
    (["export", "-o", "tables"], 0, "raft"), (["diff", "{model}"], 0, "values over"),
]  # fmt: skip


@pytest.mark.parametrize("case", range(len(ALONE)))
def test_a_raft_alone_is_a_model(raft, case, capsys, tmp_path, monkeypatch):
    """Without any member or node: every command does its work, or says where to ask."""
    monkeypatch.chdir(tmp_path)
    words, expected, said = ALONE[case]
    command, *more = (w.replace("{model}", str(raft)) for w in words)
    code, out, err = run(capsys, command, raft, *more)
    assert code == expected and said.replace("no errors", "0 errors") in out + err, out + err
    if command == "run":
        summary = (tmp_path / "out" / "summary.md").read_text()
        assert "## Slabs and walls" in summary and "at raft at (" in summary
        assert "raft,m_x,peak max" in (tmp_path / "out" / "plates.csv").read_text()


def test_a_copy_of_a_slab_stands_on_copies_of_its_supports():
    text = plate(rectangle(6, 4), 0.2, along('"p"', "x y z"))
    text += '[[copies]]\nname = "far"\nof = ["p"]\nshift = [10, 0, 0]\n'
    f = solved(text)
    lines = by_lines(f.solution)
    names = [lines.project.nodes[n].name for n in lines.support_node]
    assert names == [f"p/{k}" for k in range(1, 5)] + [f"p/{k}~far" for k in range(1, 5)]
    assert_allclose(lines.reaction[4:, 2], lines.reaction[:4, 2], rtol=1e-6)


def test_posts_under_corners_carry_a_quarter_each_and_thick_plates_need_no_other_element():
    f = solved(plate(rectangle(4, 4), 1.0, CORNERS + POSTS))
    assert_allclose(f.solution.reaction[:, 2, 0], Q * 4, rtol=1e-9)
    thin = solved(plate(rectangle(4, 4), 0.001, CORNERS + POSTS))
    assert -at(thin, (2, 2, 0), "w") * D(0.001) / Q / 256 == pytest.approx(0.0255, rel=5e-3)


def test_limits_find_the_worst_place_and_say_why(yard, capsys, tmp_path):
    path = tmp_path / "limits.toml"
    limits = '[[limits]]\nname = "sag"\ncheck = "plate"\non = "slab"\nunder = "strength"\nw = ">= -0.5 mm"\n'
    path.write_text(yard.read_text() + limits + limits.replace("sag", "up").replace(">= -0.5", "<= 5"))
    code, out, _ = run(capsys, "verdict", path, "--format", "json")
    rows = {r["limit"]: r for r in json.loads(out)}
    assert code == 1 and rows["sag"]["verdict"] == "fails" and rows["up"]["verdict"] == "passes"
    governing = json.loads(run(capsys, "plates", path, "--on", "slab", "--of", "w", "--quick", "--format", "json")[1])
    least = min(r["displacement [mm]"] for r in governing)
    value = next(v for k, v in rows["sag"].items() if k.startswith("value"))
    assert value == pytest.approx(least) or value == pytest.approx(least / 1e3)
    code, out, _ = run(capsys, "why", path, "--limit", "sag")
    # The parts of its cases add up to it, and a force is the larger part of what its case does under it.
    parts = [float(m[1]) for m in re.finditer(r"^[GP] +1\.\d+ +(-?[\d.]+)", out, re.M)]
    assert code == 0 and sum(parts) == pytest.approx(least, abs=2e-3) and "The parts add up to the value" in out


def test_sag_is_against_the_plane_of_what_holds_a_slab():
    """Columns that settle tilt a slab without any sag; between them it sags as it does on columns that stay."""
    posts = '[[supports]]\nat = "N{k}"\nfix = "x y z"\nsettle = {{ case = "S", z = "{mm} mm" }}\n'
    tilted = "".join(posts.format(k=k, mm=-10 * (k in (1, 2)) - 4 * (k in (2, 3))) for k in range(4))
    text = plate(rectangle(4, 4), 0.2, tilted, more=CORNERS, extra="mesh = 0.25")
    text = text.replace('Q = { action = "live" }', 'Q = { action = "live" }\nS = { action = "settlement" }')
    f = solved(text)
    w, sag = (f.every[:, COMPONENTS.index(name)] for name in ("w", "sag"))
    assert_allclose(sag[:, 0], w[:, 0], atol=1e-12)
    assert w[:, 1].min() == pytest.approx(-14e-3) and np.abs(sag[:, 1]).max() < 1e-9
    bed = solved(plate(rectangle(4, 3), 0.3, along('"p/1"', "x y"), extra='bed = "20 MN/m3"\nmesh = 0.5'))
    assert np.isnan(bed.every[:, COMPONENTS.index("sag")]).all()
    assert not any(e.of == "sag" for e in plate_extremes(bed, bed.solution.results, [0]))


def test_limits_on_cuts_and_sag(yard, capsys, tmp_path):
    path = tmp_path / "m.toml"
    cut = '[[limits]]\nname = "strip"\ncheck = "cut"\ncut = [[0, 4.5, 3], [12, 4.5, 3]]\nunder = "U"\n{bounds}\n'
    code, out, _ = run(
        capsys, "plates", yard, "--cut", "0,4.5,3", "12,4.5,3", "--each", "--under", "U", "--format", "json"
    )
    (row,) = json.loads(out)
    bounds = f'M = "{1.25 * abs(row["M [kN*m]"])!r} kN*m"\nQ = "{0.8 * abs(row["Q [kN]"])!r} kN"'
    sag = '[[limits]]\nname = "sag"\ncheck = "plate"\non = "slab"\nunder = "U"\nsag = "0.1 mm"\n'
    path.write_text(yard.read_text() + cut.replace("{bounds}", bounds) + sag)
    code, out, err = run(capsys, "verdict", path, "--format", "json")
    found = {(r["limit"], r["of"]): r for r in json.loads(out)}
    assert code == 1 and found["strip", "M"]["utilisation"] == pytest.approx(0.8)
    assert found["strip", "M"]["place"] == "slab" and found["strip", "Q"]["utilisation"] == pytest.approx(1.25)
    assert found["sag", "sag"]["verdict"] == "fails"
    code, out, _ = run(capsys, "why", path, "--limit", "strip")
    assert code == 0 and "through the cut from (0, 4.5, 3) to (12, 4.5, 3) m" in out and "parts add up" in out
    for before, after, why in (
        ("[12, 4.5, 3]]", "[12, 4.5, 4]]", "lies in none of these surfaces"), ("[12, 4.5, 3]]", "[0, 4.5, 3]]", "to itself"),
        ("cut = [[0, 4.5, 3], [12, 4.5, 3]]", "", "has no `cut`"), ('cut = [[0, 4.5, 3], [12, 4.5, 3]]', "cut = 3", "two points"),
    ):  # fmt: skip
        path.write_text(yard.read_text() + cut.replace("{bounds}", bounds).replace(before, after))
        code, out, err = run(capsys, "verdict", path)
        assert code in (1, 2) and why in out + err, out + err


def test_temperature_stretches_and_bends_a_free_plate_without_forces_and_a_held_one_with():
    """alpha T a and alpha g a^2/8 where it is free; -alpha T E t/(1 - nu) and alpha g D (1 + nu) where it is held."""
    warm = '{ on = "p", temperature = 30, gradient = 40 }'
    free = solved(plate(rectangle(4, 4), 0.2, CORNERS + '[[supports]]\nat = ["N0", "N3"]\nfix = "x z"\n'
                        '[[supports]]\nat = ["N0"]\nfix = "y"\n[[supports]]\nat = ["N1", "N2"]\nfix = "z"\n', warm))  # fmt: skip
    xyz, u = free.solution.project.xyz, free.solution.displacement[:, :, 0]
    corner, middle = (int(np.linalg.norm(xyz - p, axis=1).argmin()) for p in ([4, 4, 0], [2, 2, 0]))
    assert_allclose(u[corner, :2], 1e-5 * 30 * 4, rtol=1e-6)
    assert u[middle, 2] == pytest.approx(1e-5 * 40 * (2**2 + 2**2) / 2, rel=1e-6)  # warm above: it rises
    assert_allclose(free.every[:, :6, 0], 0, atol=1e-3)
    held = solved(plate(rectangle(4, 4), 0.2, FIXED, warm))
    assert at(held, (2, 2, 0), "n_x") == pytest.approx(-1e-5 * 30 * E * 0.2 / 0.7, rel=1e-6)
    assert at(held, (1.1, 2.3, 0), "m_y") == pytest.approx(1e-5 * 40 * D(0.2) * 1.3, rel=1e-6)
    assert_allclose(held.solution.reaction.sum(axis=0)[:, 0], 0, atol=1e-3)


def test_moments_and_loads_along_edges_are_where_they_are_written():
    strip = rectangle(6, 0.5)
    turning = '{ on = "p", moment = 3, at = [6, 0.25], dir = "-y" }'
    f = solved(plate(strip, 0.2, along('"p/4"', "fixed"), turning, nu=0.0, extra="mesh = 0.25"))
    total = f.solution.reaction[:, :, 0]
    arm = f.solution.project.xyz[f.solution.support_node]
    assert_allclose((total[:, 3:] + np.cross(arm, total[:, :3])).sum(axis=0), [0, 3e3, 0], atol=1e-5)
    assert at(f, (3, 0.25, 0), "m_x") == pytest.approx(3e3 / 0.5, rel=1e-3)  # -y lifts the tip: it sags
    edge = solved(plate(strip, 0.2, along('"p/4"', "fixed"), '{ on = "p", line = 5, edge = 2 }', extra="mesh = 0.25"))
    ends = solved(
        plate(
            strip,
            0.2,
            along('"p/4"', "fixed"),
            '{ on = "p", line = 5, from = [6, 0], to = [6, 0.5] }',
            extra="mesh = 0.25",
        )
    )
    assert_allclose(edge.every, ends.every, rtol=1e-9, atol=1e-9 * np.abs(ends.every).max())
    reading = read_text(plate(strip, 0.2, FIXED, '{ on = "p", line = 5, edge = 5 }'), "m.toml")
    assert any("has 4 edges" in str(f) for f in reading.findings)
    deck = (
        plate(strip, 0.2, FIXED)
        .replace('material = "m"\nthickness = 0.2', 'deck = "x"')
        .replace("area = 10", 'moment = 3, at = [1, 0.2], dir = "+y"')
    )
    assert any("acts on a structural surface" in str(f) for f in read_text(deck, "m.toml").findings)


def test_a_slab_raised_above_a_rib_acts_with_it_as_a_t():
    """A narrow slab, so that all of it is flange: I of the T, and q L^2/8 = M of rib and slab + N times their distance."""
    b, t, h, w, L = 0.6, 0.12, 0.4, 0.2, 8.0
    e = (h + t) / 2
    rib = f"""[sections]
r = {{ shape = "rectangle", h = {h}, b = {w} }}
[nodes]
N0 = [0, 0, 0]
N1 = [{L}, 0, 0]
[members.r]
section = "r"
material = "m"
pieces = {{ R = "N0 > N1" }}
"""
    held = '[[supports]]\nat = "N0"\nfix = "x y z rx"\n[[supports]]\nat = "N1"\nfix = "y z rx"\n'
    corners = [(0, -b / 2, 0), (L, -b / 2, 0), (L, b / 2, 0), (0, b / 2, 0)]
    f = solved(plate(corners, t, held, extra=f"raised = {e}\nmesh = 0.15", more=rib, nu=0.0))
    A1, A2, q = b * t, w * h, Q * b
    inertia = b * t**3 / 12 + w * h**3 / 12 + A1 * A2 / (A1 + A2) * e**2
    assert -at(f, (L / 2, 0, 0), "w") == pytest.approx(5 * q * L**4 / 384 / E / inertia, rel=1.5e-2)
    from empuje.core.answers.along import forces
    from empuje.core.model.loads import Position

    table = forces(f.solution, f.solution.results, np.array([0]), [Position(share=0.5)])
    N, M = float(table["N"][0]), float(table["My"][0])
    cut = resultants(cut_of(f, 0, np.array([L / 2, -b / 2, 0]), np.array([L / 2, b / 2, 0])), f.every)[:, 0]
    assert N > 0 and cut[0] == pytest.approx(-N, rel=1e-2)
    assert M + cut[3] + N * e == pytest.approx(q * L**2 / 8, rel=3e-3)
    assert N * e / (q * L**2 / 8) == pytest.approx(A1 * A2 / (A1 + A2) * e**2 / inertia, rel=1.5e-2)
    assert closing_error(f.solution, f.solution.results).max() < 1e-9
