"""Makers: what they lay against geometry, joint counts and statics by hand, at odd angles and in other units."""

import json
import math

import numpy as np
import pytest

from build import named
from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.polynomials import value_at
from empuje.core.answers.reactions import closing_error
from models import reading, solution

HEAD = """
[project]
units = "kN m"
[members.chords]
section = "HEA 140"
material = "S355"
bar = true
[members.webs]
section = "SHS 80x80x5"
material = "S355"
bar = true
[members.beams]
section = "IPE 300"
material = "S355"
[members.posts]
section = "HEB 200"
material = "S355"
[cases]
Q = { action = "live" }
"""
PLANE = HEAD.replace('"kN m"', '"kN m"\nspace = "plane"')


def without_unused(text):
    """The text with those families only that makers lay members of."""
    out = [text.split("[members.")[0]]
    for part in text.split("[members.")[1:]:
        name = part.split("]")[0]
        if f'"{name}"' in text or "runs" in part or "pieces" in part.split("\n[")[0]:
            out.append("[members." + part)
        elif "\n[" in part:
            out.append(part[part.index("\n[") :])
    return "".join(out)


def made(text):
    """The project of a text, without errors; where its nodes are, and the ends of its members."""
    found = reading(without_unused(text))
    errors = [f for f in found.findings if f.level == "error" and "no supports" not in f.message]
    assert not errors, "\n".join(map(str, errors))
    nodes = {n.name: np.array(n.xyz) for n in found.project.nodes}
    names = [n.name for n in found.project.nodes]
    lines = {m.name: (nodes[names[m.start]], nodes[names[m.end]]) for m in found.project.members}
    return found, nodes, lines


def truss(pattern, more="", depth='"1.5 m"', panels=8, ends="[0, 4], [12, 4]", name="T"):
    a, b = ends.split("], ")
    return f"""
[makers.{name}]
make = "truss"
from = {a}]
to = {b}
panels = {panels}
depth = {depth}
pattern = "{pattern}"
chord = "chords"
webs = "webs"
{more}
"""


def held(first, last):
    return f'[[supports]]\nat = "{first}"\nfix = "x z"\n[[supports]]\nat = "{last}"\nfix = "z"\n'


def axial(text, case="Q"):
    """The axial forces of bars [kN], by name."""
    s = solution(without_unused(text))
    every = np.arange(len(s.project.members))
    pieces = build_pieces(s, every, s.weights(named(s, [case])), False)
    assert closing_error(s, named(s, [case])).max() < 1e-9
    N = np.full(len(every), np.nan)
    N[pieces.member] = value_at(pieces.force, np.zeros(len(pieces.force)))[:, 0, 0]
    return {m.name: N[i] / 1e3 for i, m in enumerate(s.project.members)}


TRUSSES = [
    (pattern, shape, way, closed, panels)
    for pattern in ("pratt", "howe", "warren", "warren with posts", "K")
    for shape in ("straight", "pitched", "bowed")
    for way in ("up", "down")
    for closed in (True, False)
    for panels in (6, 8)
    if not (pattern == "K" and not closed)
    and not (not closed and shape == "straight" and pattern == ("howe" if way == "down" else "pratt"))
    and not (pattern == "warren" and shape == "pitched" and panels == 8)
]


@pytest.mark.parametrize(("pattern", "shape", "way", "closed", "panels"), TRUSSES)
def test_trusses_stand_are_determinate_and_carry_the_moment_of_a_beam(pattern, shape, way, closed, panels):
    """Of pin-jointed bars there are two for each joint but three, none of which can be spared; and at any section both
    chords and the webs cut have the moment and shear of the beam."""
    more = f'shape = "{shape}"\ntowards = "{way}"\nend_posts = {str(closed).lower()}'
    text = PLANE + truss(pattern, more, panels=panels)
    line = "tb"[way == "up"]
    text += held(f"T.{line}0", f"T.{line}{panels}") + f'[loads]\nQ = [ {{ on = "T.{line}*", force = 10 }} ]\n'
    _found, nodes, lines = made(text)
    assert len(lines) == 2 * len(nodes) - 3
    N = axial(text)
    between = 12 / panels
    inner = [s for s in (between * k for k in range(1, panels)) if any(abs(n[0] - s) < 1e-9 and abs(n[2] - 4) < 1e-9 for n in nodes.values())]  # fmt: skip
    reaction = sum(10 * (12 - s) / 12 for s in inner)
    for k in range(panels):
        x = (k + 0.5) * between
        cut = [(name, a, b) for name, (a, b) in lines.items() if min(a[0], b[0]) < x < max(a[0], b[0])]
        shear = moment = across = 0.0
        for name, a, b in cut:
            way_along = (b - a) / np.linalg.norm(b - a) * np.sign(b[0] - a[0])
            z = a[2] + (x - a[0]) / (b[0] - a[0]) * (b[2] - a[2])
            shear += N[name] * way_along[2]
            moment += N[name] * way_along[0] * (4 - z)
            across += N[name] * way_along[0]
        left = [s for s in inner if s < x]
        assert across == pytest.approx(0, abs=1e-9 * reaction)
        assert shear == pytest.approx(-reaction + 10 * len(left), abs=1e-8 * reaction)
        assert moment == pytest.approx(reaction * x - sum(10 * (x - s) for s in left), abs=1e-8 * reaction)
    if shape != "bowed" and pattern in ("pratt", "howe"):
        pulls = {name: N[name] > 0 for name in N if name.startswith("webs/T.d")}
        assert set(pulls.values()) == {pattern == "pratt"}


@pytest.mark.parametrize(("end", "turned"), [(0, True), (0.29, True), (0.31, False), (1.4, False), (2.0, False)])
@pytest.mark.parametrize("pattern", ["pratt", "howe"])
def test_diagonals_of_pitched_trusses_run_by_how_chords_share_the_moment(end, turned, pattern):
    """Ends of 0 to 2 m beside 1.5 m in the middle. A Howe's diagonals rise towards the middle; where M/d falls from a
    quarter of the span on they come down, and are in compression there."""
    text = PLANE + truss(pattern, 'shape = "pitched"', f"[{end}, 1.5, {end}]", 12) + held("T.b0", "T.b12")
    text += '[loads]\nQ = [ { on = "T.b*", force = 10 } ]\n'
    _, _, lines = made(text)
    N = axial(text)
    webs = {name: (a, b) for name, (a, b) in lines.items() if name.startswith("webs/T.d")}
    rises = [(b[2] - a[2]) * (b[0] - a[0]) * (6 - (a[0] + b[0]) / 2) > 0 for a, b in webs.values()]
    assert set(rises) == {(pattern == "howe") != turned}
    inner = [N[name] for name, (a, b) in webs.items() if 3 <= (a[0] + b[0]) / 2 <= 9]
    if turned:
        assert len(inner) == 6 and {force > 0 for force in inner} == {pattern == "pratt"}


@pytest.mark.parametrize("depth", ["[0, 1.5]", "[1.5, 0]", '["60 cm", "180 cm"]'])
@pytest.mark.parametrize("closed", [True, False])
@pytest.mark.parametrize(
    ("pattern", "panels"), [("pratt", 6), ("howe", 6), ("warren", 6), ("warren", 7), ("warren with posts", 7), ("K", 8)]
)
def test_tapered_trusses_and_odd_panels_stand_or_are_refused(depth, closed, pattern, panels):
    """Those that meet in a point at one end too: two bars for each joint but three, and an answer; or an error."""
    text = PLANE + truss(pattern, f"end_posts = {str(closed).lower()}", depth, panels) + held("T.b0", f"T.b{panels}")
    text += '[loads]\nQ = [ { on = "chords/T.bottom*", force = 10, at = "panel points" } ]\n'
    found = reading(without_unused(text))
    if not closed and (pattern in ("pratt", "K") or panels == 7):
        assert [f.code for f in found.findings if f.level == "error" and "end posts" in f.message] == ["wrong-key"]
        return
    _, nodes, lines = made(text)
    assert len(lines) == 2 * len(nodes) - 3 and len(axial(text)) == len(lines)


def test_a_truss_hangs_on_a_slope_and_stands_on_its_side():
    """Sloping, turned by 33 degrees, of other units: joints are evenly along the line, the chord off it as told; a
    lattice post goes up."""
    c, s = math.cos(math.radians(33)), math.sin(math.radians(33))
    ends = f"[1, 2, 5], [{1 + 12 * c!r}, {2 + 12 * s!r}, 8]"
    found, nodes, lines = made(
        HEAD + truss("howe", 'towards = "down"\nroll = 30\nother_roll = "0.5 rad"', '["80 cm", "120 cm"]', 4, ends)
    )
    for i in range(5):
        top, bottom = nodes[f"T.t{i}"], nodes[f"T.b{i}"]
        assert top == pytest.approx([1 + 3 * i * c, 2 + 3 * i * s, 5 + 0.75 * i])
        assert top - bottom == pytest.approx([0, 0, 0.8 + 0.1 * i])
    rolls = {m.name: m.roll for m in found.project.members}
    assert (rolls["chords/T.top1"], rolls["chords/T.bottom4"], rolls["webs/T.d1"]) == pytest.approx(
        (math.pi / 6, 0.5, 0)
    )
    _, nodes, lines = made(
        HEAD + truss("warren", 'towards = "+x"\nend_posts = false', '"400 mm"', 6, "[2, 3, 0], [2, 3, 9]")
    )
    assert nodes["T.f3"] == pytest.approx([2.4, 3, 4.5]) and "T.f0" not in nodes and "webs/T.p0" not in lines
    assert lines["webs/T.d1"] == (pytest.approx([2, 3, 0]), pytest.approx([2.4, 3, 1.5]))


def test_chords_are_one_member_as_far_as_they_are_straight():
    """But bars, which no joint splits, go from joint to joint."""
    text = HEAD.replace("bar = true\n[members.webs]", "[members.webs]") + truss("pratt", 'shape = "pitched"\nweb_ends = "hinged"', '["60 cm", "2 m", "60 cm"]', ends="[0, 0, 4], [12, 0, 4]")  # fmt: skip
    _, nodes, lines = made(text)
    assert sorted(n for n in lines if "chords" in n) == ["chords/T.bottom", "chords/T.top1", "chords/T.top2"]
    assert lines["chords/T.top1"][1] == pytest.approx([6, 0, 6]) and nodes["T.t2"][2] == pytest.approx(5.3)
    _, nodes, lines = made(
        HEAD + truss("pratt", 'shape = "bowed"', '["50 cm", "2 m", "1 m"]', ends="[0, 0, 4], [12, 0, 4]")
    )
    heights = [nodes[f"T.t{i}"][2] - 4 for i in range(9)]
    assert heights == pytest.approx(np.polyval(np.polyfit([0, 6, 12], [0.5, 2, 1], 2), np.linspace(0, 12, 9)))
    assert len([n for n in lines if "chords" in n]) == 16


def test_a_maker_meets_the_grid_and_nodes_that_are_there():
    """Its points are crossings and nodes where these are; everything else is called after the maker."""
    grid = "[grid]\nx = { A = 0, B = 6, C = 12 }\ny = { 1 = 0 }\nz = { base = 0, eave = 4 }\n[nodes]\nK = [3, 0, 5.5]\n"
    text = HEAD + grid + truss("pratt", ends="'A1@eave'], ['C1@eave']", panels=4).replace("['", "'").replace("']", "'")
    text = (
        text.replace("'A1@eave']", "'A1@eave'") + '[[supports]]\nat = ["A1@eave", "C1@eave", "T.t0"]\nfix = "fixed"\n'
    )
    _, nodes, lines = made(text)
    assert {"A1@eave", "B1@eave", "C1@eave", "K", "T.b1", "T.t2"} <= set(nodes)
    assert not {"T.b0", "T.b2", "T.t1"} & set(nodes) and len(lines) == 4 + 4 + 4 + 5


def test_a_frame_has_its_bays_and_storeys():
    """Two bays of 6 m, one of 5 m across, storeys of 4 and 3 m, turned by 33 degrees: 12 columns, 8 beams, 6 across."""
    text = (
        HEAD
        + """
[makers.F]
make = "frame"
at = [10, 20, 1]
bays = { times = 2, each = "6 m" }
bays_across = "500 cm"
storeys = [4, "3 m"]
columns = "posts"
beams = "beams"
turn = 33
"""
    )
    _, nodes, lines = made(text)
    c, s = math.cos(math.radians(33)), math.sin(math.radians(33))
    count = {
        f: sum(n.startswith("posts" if f == "z" else "beams") and n.endswith(f".{f}") for n in lines) for f in "xyz"
    }
    assert count == {"x": 8, "y": 6, "z": 12} and len(nodes) == 18
    assert nodes["F.3-2.2"] == pytest.approx([10 + 12 * c - 5 * s, 20 + 12 * s + 5 * c, 8])
    assert lines["beams/F.2-1.1.y"][1] - lines["beams/F.2-1.1.y"][0] == pytest.approx([-5 * s, 5 * c, 0])


def test_a_portal_has_haunches_of_deeper_sections():
    """Steps of a fifth of 2.5 m; the second one's I by hand: flanges 150 x 10.7 mm, web 7.1 mm, and roots of 15 mm."""
    text = (
        HEAD
        + """
[makers.P]
make = "portal"
from = [0, 3, 0.5]
to = [18, 3, 0]
eaves = "6 m"
ridge = "7.8 m"
columns = "posts"
rafters = "beams"
haunch = { length = "2.5 m", depth = "620 mm", steps = 5 }
apex = { length = "80 cm", depth = "45 cm", steps = 1 }
[[supports]]
at = "P.foot*"
fix = "fixed"
[loads]
Q = [ { on = "beams", line = 3, per = "projected" } ]
"""
    )
    found, nodes, lines = made(text)
    assert nodes["P.ridge"] == pytest.approx([9, 3, 8.3]) and nodes["P.eave2"] == pytest.approx([18, 3, 6.5])
    assert nodes["P.foot2"][2] == 0 and sorted(n for n in lines if "beams/P.1" in n) == [
        f"beams/P.1.{k}" for k in range(1, 8)
    ]
    slope = np.array([9, 0, 1.8]) / math.hypot(9, 1.8)
    assert nodes["P.haunch1.2"] == pytest.approx(np.array([0, 3, 6.5]) + slope) and nodes["P.apex1.1"] == pytest.approx(
        [9, 3, 8.3] - 0.8 * slope
    )
    sections = {m.name: m.section for m in found.project.members}
    h = 0.62 - 0.32 * 0.3
    web = h - 2 * 0.0107
    roots = 0.015**2 * (4 - math.pi)
    I = 0.15 * 0.0107**3 / 6 + 2 * 0.15 * 0.0107 * (h / 2 - 0.0107 / 2) ** 2 + 0.0071 * web**3 / 12  # noqa: E741
    assert sections["beams/P.1.2"].Iy == pytest.approx(I + roots * (web / 2 - 0.015 * 0.223) ** 2, rel=2e-4)
    assert sections["beams/P.2.6"].name == "IPE 300" and dict(sections["beams/P.2.7"].dimensions)["h"] == pytest.approx(
        0.375
    )
    s = solution(without_unused(text))
    assert closing_error(s, named(s, ["Q"])).max() < 1e-9
    assert s.reaction[:, 2, 0].sum() / 1e3 == pytest.approx(3 * 18)


def test_arches_lie_on_their_curve():
    """A parabola under equal loads at its corners, which are evenly along its chord, has no bending; a circle goes
    evenly round, also beyond half of itself, and lying at 33 degrees."""
    stiff = '[sections.stiff]\nA = "9 m2"\nIy = "8000 cm4"\n[members.chords]'
    text = (
        PLANE.replace("kN m", "kip ft", 1).replace('"IPE 300"', '"stiff"').replace("[members.chords]", stiff)
        + """
[makers.A]
make = "arch"
from = [0, 0]
to = [20, 0]
rise = "1.5 m"
pieces = 8
curve = "parabola"
family = "beams"
[[supports]]
at = ["A.0", "A.8"]
fix = "x z"
[loads]
Q = [ { on = ["A.*", "!A.0", "!A.8"], force = "7 kN" } ]
"""
    )
    _, nodes, _ = made(text)
    ft = 0.3048
    assert [nodes[f"A.{i}"][2] for i in range(9)] == pytest.approx([6 * (i / 8) * (1 - i / 8) for i in range(9)])
    s = solution(without_unused(text))
    force = build_pieces(s, np.arange(8), s.weights(named(s, ["Q"])), False).force
    moment = 7e3 * 20 * ft  # of a beam so long in its middle: 3.5 P 4 a - P (3 + 2 + 1) a, with 8 a the span
    assert np.abs(s.reaction[:, 0, 0]) == pytest.approx([moment / 1.5] * 2, rel=2e-4)
    assert np.abs(value_at(force, np.zeros(len(force)))[:, 4]).max() < 1e-3 * moment
    c, q = math.cos(math.radians(33)), math.sin(math.radians(33))
    for rise in (2.0, 5.0, 8.0):
        _, nodes, _ = made(HEAD + f'\n[makers.A]\nmake = "arch"\nfrom = [3, 1, 2]\nto = [{3 + 10 * c!r}, {1 + 10 * q!r}, 2]\nrise = {rise}\n'
                           'pieces = 6\nfamily = "beams"\n')  # fmt: skip
        R = (25 + rise**2) / (2 * rise)
        middle = np.array([3 + 5 * c, 1 + 5 * q, 2 + rise - R])
        points = np.array([nodes[f"A.{i}"] for i in range(7)])
        assert np.linalg.norm(points - middle, axis=1) == pytest.approx(R)
        assert np.ptp(np.linalg.norm(np.diff(points, axis=0), axis=1)) < 1e-9 and points[3, 2] == pytest.approx(
            2 + rise
        )


def test_stairs_are_level_at_their_landings():
    text = (
        HEAD
        + """
[makers.S]
make = "stair"
from = [1, 1, 0]
to = [1, 6.5, 3.3]
landings = [0, "1.2 m"]
stringers = "posts"
width = "120 cm"
treads = "beams"
risers = 20
"""
    )
    _, nodes, lines = made(text)
    assert nodes["S.upper1"] == pytest.approx([1, 5.3, 3.3]) and nodes["S.head2"] == pytest.approx([-0.2, 6.5, 3.3])
    assert sum("beams/S.t" in n for n in lines) == 19 and sum("posts" in n for n in lines) == 4
    assert lines["beams/S.t5"][0] == pytest.approx([1, 1 + 4.3 / 4, 3.3 / 4])
    assert lines["beams/S.t5"][1] == pytest.approx([-0.2, 1 + 4.3 / 4, 3.3 / 4])


BRACED = {
    "X": [("A1@base", "B1@eave"), ("B1@base", "A1@eave")],
    "V": [("A1@eave", (3, 0, 0)), ("B1@eave", (3, 0, 0))],
    "inverted V": [("A1@base", (3, 0, 4)), ("B1@base", (3, 0, 4))],
    "K": [("A1@base", (6, 0, 2)), ("A1@eave", (6, 0, 2))],
    "diagonal": [("A1@base", "B1@eave")],
}
GRID = "[grid]\nx = { A = 0, B = 6, C = 12 }\ny = { 1 = 0, 2 = 5 }\nz = { base = 0, eave = 4 }\n"


@pytest.mark.parametrize("pattern", BRACED)
def test_bracing_goes_between_crossings(pattern):
    """In each panel of a run, and in one given by its corners alike."""
    at = {"A1@base": (0, 0, 0), "B1@base": (6, 0, 0), "A1@eave": (0, 0, 4), "B1@eave": (6, 0, 4)}
    want = [tuple(pytest.approx(at.get(p, p)) for p in pair) for pair in BRACED[pattern]]
    for panel in ('panels = "A>>C / 1,2 / base>eave"', 'corners = ["A1@base", "B1@base", "B1@eave", "A1@eave"]'):
        text = HEAD + GRID + f'[makers.W]\nmake = "bracing"\nfamily = "chords"\npattern = "{pattern}"\n{panel}\n'
        _, _nodes, lines = made(text)
        first = [ends for name, ends in lines.items() if "2" not in name.split(".")[1] or "corners" in panel]
        assert first[: len(want)] == want
        assert len(lines) == len(want) * (4 if "panels" in panel else 1)


def test_bracing_lies_in_slopes():
    """Where y rises with z, over two bays: from eave to ridge, names by the lines; unequal steps, and too many, are told."""
    grid = "[grid]\nx = { A = 0, B = 6, C = 12 }\ny = { 1 = 0, 2 = 5, 3 = 10 }\nz = { base = 0, eave = 4, ridge = 6 }\n"
    keys = '[makers.W]\nmake = "bracing"\nfamily = "chords"\npattern = "X"\nrises = "y"\n'
    _, _, lines = made(HEAD + grid + keys + 'panels = "A>>C / 1>2 / eave>ridge"\n')
    assert list(lines) == [f"chords/W.{bay}.1eave-2ridge.{k}" for bay in ("A-B", "B-C") for k in (1, 2)]
    assert lines["chords/W.B-C.1eave-2ridge.1"] == (pytest.approx([6, 0, 4]), pytest.approx([12, 5, 6]))
    assert lines["chords/W.B-C.1eave-2ridge.2"] == (pytest.approx([12, 0, 4]), pytest.approx([6, 5, 6]))
    many = grid.replace("y = {", "y = { " + ", ".join(f"m{i} = {20 + i}" for i in range(200)) + ",").replace(
        "x = {", "x = { " + ", ".join(f"n{i} = {20 + i}" for i in range(200)) + ",")  # fmt: skip
    for text, panels, code in (
        (grid, "A>B / 1>>3 / eave>ridge", "bad-run"),
        (many, "n0>>C / m0>>3 / eave", "too-many"),
    ):
        found = reading(HEAD + text + keys + f'panels = "{panels}"\n').findings
        assert code in [f.code for f in found if f.level == "error"], panels


def test_points_within_a_millimetre_are_one():
    """Of a crossing no member has used, 0.6 mm off along two axes; and of one drawing, wherever they lie: where two
    slopes meet on half a millimetre there is one node, and no other within a millimetre."""
    text = HEAD + GRID + truss("pratt", ends="[0.0006, 0.0006, 4], [12, 0, 4]", panels=4)
    _, nodes, _ = made(text)
    assert "A1@eave" in nodes and "T.b0" not in nodes
    _, nodes, _ = made(text.replace("0.0006, 4]", "0.0009, 4]"))
    assert "T.b0" in nodes and "A1@eave" not in nodes
    for k in range(40):
        ridge = 5.0005 + 1e-3 * k
        corners = (
            f"[[0, 0, 4], [9, 0, 4], [9, {ridge}, 6], [0, {ridge}, 6]]",
            f"[[0, {ridge}, 6], [9, {ridge}, 6], [9, 11, 4.1], [0, 11, 4.1]]",
        )
        text = HEAD + "".join(
            f'[surfaces.{n}]\ncorners = {c}\ndeck = "y"\n' for n, c in zip("sn", corners, strict=True)
        )
        text += '[makers.P]\nmake = "purlins"\non = "?"\nspaces = 3\nfamily = "beams"\ncontinuous = true\n'
        _, nodes, lines = made(text)
        assert len(lines) == 7 and len(nodes) == 14, ridge


def test_purlins_run_along_two_places_however_far_apart():
    """The way from one place to another, be it 5 cm; up out of a level bay is none."""
    text = (
        HEAD
        + GRID
        + '[makers.J]\nmake = "joists"\ncorners = ["A1@eave", "C1@eave", "C2@eave", "A2@eave"]\nspaces = 2\nfamily = "beams"\n'
    )
    _, _, laid = made(text + "along = [[1, 1, 4], [1, 1.05, 4]]\n")
    assert sorted(a[0] for a, _ in laid.values()) == pytest.approx([0, 6, 12])
    for along in ("[[1, 1, 4], [1, 1.5, 24]]", "[[1, 1, 4], [1, 1, 4]]"):
        found = reading(text + f"along = {along}\n").findings
        assert "bad-place" in [f.code for f in found if f.level == "error"], along


def test_the_apex_of_bracing_splits_the_beam_it_lies_on():
    """A chevron under a simple beam halves its span: the moment over the apex is -q l2 / 32 of the whole, as of two
    equal spans on stiff supports."""
    text = (
        HEAD
        + GRID.replace("y = { 1 = 0, 2 = 5 }", "y = { 1 = 0 }")
        + """
[members.rail]
section = "IPE 100"
material = "S355"
runs = ["A>B / 1 / eave"]
ends = "hinged"
[makers.W]
make = "bracing"
family = "chords"
pattern = "inverted V"
panels = "A>B / 1 / base>eave"
[[supports]]
at = ["A1@*", "B1@*"]
fix = "fixed"
[loads]
Q = [ { on = "rail", line = 2 } ]
"""
    )
    s = solution(without_unused(text))
    rail = next(i for i, m in enumerate(s.project.members) if m.family == "rail")
    pieces = build_pieces(s, np.array([rail]), s.weights(named(s, ["Q"])), False)
    assert len(pieces.start) == 2
    N = axial(text)
    struts = [N[n] for n in N if n.startswith("chords")]
    # 5/8 q l into the apex, shared by two struts of slope 4/3.
    assert struts == pytest.approx([-0.625 * 2 * 6 / 2 / 0.8] * 2, rel=5e-3)


ROOF = (
    GRID.replace("eave = 4", "eave = 4, ridge = 6")
    + """
[members.rafters]
section = "IPE 300"
material = "S355"
runs = ["A..C / 1>2 / eave>ridge"]
[surfaces.roof]
corners = ["A1@eave", "C1@eave", "C2@ridge", "A2@ridge"]
deck = ["A1@eave", "A2@ridge"]
bearing = "beams"
[makers.P]
make = "purlins"
family = "beams"
"""
)
ON_ROOF = '[[supports]]\nat = ["*1@eave", "*2@ridge"]\nfix = "fixed"\n[loads]\nQ = [ { on = "roof", area = 1.5 } ]\n'


@pytest.mark.parametrize(
    ("keys", "lines", "told"),
    [
        ('on = "roof"\nspaces = 4', [0, 0.25, 0.5, 0.75, 1], []),
        ('on = "roof"\nspacing = "1.5 m"', [0, 1.5, 3, 4.5, 5.385165], ["last-space"]),
        (
            'on = "roof"\nspacing = "1500 mm"\nfirst = "20 cm"\nlast = 0.185165',
            [0.2, 1.7, 3.2, 4.7, 5.2],
            ["last-space"],
        ),
        ('on = "roof"\nspaces = 2\ncontinuous = true', [0, 0.5, 1], []),
    ],
)
def test_purlins_lie_on_a_slope_at_their_spacing(keys, lines, told):
    """Measured in the slope of 5.385 m; from rafter to rafter, or through; and they bring the roof's load to the feet."""
    text = HEAD + ROOF + keys + "\n" + ON_ROOF
    found, _nodes, laid = made(text)
    slope = math.hypot(5, 2)
    at = sorted({round(a[1] / 5 * slope, 5) for n, (a, b) in laid.items() if n.startswith("beams")})
    assert at == pytest.approx([v * slope if "spaces" in keys else v for v in lines], abs=2e-5)
    purlins = [ends for n, ends in laid.items() if n.startswith("beams")]
    assert len(purlins) == len(lines) * (1 if "continuous" in keys else 2)
    assert all(a[2] == pytest.approx(4 + 2 * a[1] / 5) and b[0] > a[0] for a, b in purlins)
    assert [f.code for f in found.findings if f.code in ("last-space", "line-loose")] == told
    s = solution(without_unused(text))
    if "first" not in keys:
        assert s.reaction[:, 2, 0].sum() / 1e3 == pytest.approx(1.5 * 12 * slope)


def test_purlins_keep_clear_of_openings_and_of_members_in_their_place():
    """A hole of 2 m by 1 m cuts the middle one; an eave beam is there already; rails on a wall at 33 degrees count from
    below; joists need a way to run."""
    hole = "openings = [[2, 2, 4.8], [4, 2, 4.8], [4, 3, 5.2], [2, 3, 5.2]]\n"
    eave = '[members.eave]\nsection = "IPE 200"\nmaterial = "S355"\nruns = ["A>>C / 1 / eave"]\n'
    text = HEAD + eave + ROOF.replace('deck = ["A1', hole + 'deck = ["A1') + 'on = "roof"\nspaces = 2\n'
    found, _nodes, laid = made(text)
    middle = sorted((a[0], b[0]) for n, (a, b) in laid.items() if n.startswith("beams/P.2"))
    assert middle == [pytest.approx(p) for p in [(0, 2), (4, 6), (6, 12)]]
    assert not [n for n in laid if n.startswith("beams/P.1")]
    assert "line 1" in next(f.message for f in found.findings if f.code == "line-taken")
    assert "line-loose" not in [f.code for f in found.findings]
    c, s = math.cos(math.radians(33)), math.sin(math.radians(33))
    far = f"[{8 * c!r}, {8 * s!r}, 0], [{8 * c!r}, {8 * s!r}, 5], [0, 0, 5]"
    wall = f'[members.studs]\nsection = "HEA 140"\nmaterial = "S355"\npieces = {{ a = "a > b", c = "c > d" }}\n[nodes]\na = [0, 0, 0]\nb = [0, 0, 5]\nc = [{8 * c!r}, {8 * s!r}, 0]\nd = [{8 * c!r}, {8 * s!r}, 5]\n'
    text = (
        HEAD
        + wall
        + f'[makers.R]\nmake = "rails"\ncorners = [[0, 0, 0], {far}]\nspacing = 2\nfirst = 1\nlast = "2 m"\nfamily = "beams"\n'
    )
    _, _nodes, laid = made(text)
    assert [laid[f"beams/R.{k}"][0][2] for k in (1, 2)] == pytest.approx([1, 3])
    assert laid["beams/R.2"][1] == pytest.approx([8 * c, 8 * s, 3])
    text = (
        HEAD
        + GRID
        + '[makers.J]\nmake = "joists"\ncorners = ["A1@eave", "C1@eave", "C2@eave", "A2@eave"]\nspaces = 4\nfamily = "beams"\nalong = "y"\n'
    )
    found, _nodes, laid = made(text)
    assert sorted(a[0] for a, _ in laid.values()) == pytest.approx([0, 3, 6, 9, 12])
    assert "line-loose" in [f.code for f in found.findings]


WRONG = {
    "a truss without a middle": (truss("pratt", panels=7), "bad-quantity", "even number"),
    "a ridge at no joint": (truss("warren", 'shape = "pitched"'), "bad-quantity", "2, 6, 10"),
    "too many depths": (truss("howe", depth='[1, 2, 3]'), "bad-quantity", "one depth"),
    "no depth": (truss("howe", depth="0"), "bad-quantity", "deeper"),
    "no such family": (truss("howe").replace('"webs"', '"web"'), "unknown-name", "webs"),
    "no such place": (truss("howe").replace("[0, 4]", '"A9@top"'), "unknown-name", "A9@top"),
    "a truss from itself": (truss("howe", ends="[0, 4], [0, 4]"), "bad-place", "apart"),
    "a truss up an upright": (truss("howe", ends="[0, 4], [0, 9]"), "bad-place", "+x"),
    "out of the plane": (truss("howe", 'towards = "+y"'), "out-of-plane", "x or z"),
    "it would not stand": (truss("pratt", "end_posts = false"), "wrong-key", "end_posts"),
    "rigid bars": (truss("howe", 'web_ends = "rigid"'), "wrong-key", "hinged"),
    "panels by half": (truss("howe", panels=2.5), "bad-quantity", "whole number"),
    "a strange key": (truss("howe", 'webz = "chords"'), "unknown-key", "webs"),
    "a strange maker": ('[makers.T]\nmake = "trus"\n', "unknown-word", "truss"),
    "a name with a dot": (truss("howe", name='"T.1"'), "bad-name", "letters"),
    "the ridge is low": ('[makers.P]\nmake = "portal"\nfrom = [0, 0]\nto = [9, 0]\neaves = 5\nridge = 5\ncolumns = "posts"\nrafters = "beams"\n', "bad-quantity", "count from the feet"),
    "a haunch no deeper": ('[makers.P]\nmake = "portal"\nfrom = [0, 0]\nto = [9, 0]\neaves = 5\nridge = 6\ncolumns = "posts"\nrafters = "beams"\nhaunch = { length = 1, depth = "30 cm" }\n', "bad-quantity", "flange to flange"),
    "haunches that meet": ('[makers.P]\nmake = "portal"\nfrom = [0, 0]\nto = [9, 0]\neaves = 5\nridge = 6\ncolumns = "posts"\nrafters = "beams"\nhaunch = { length = 3, depth = 0.5 }\napex = { length = 2, depth = 0.5 }\n', "bad-quantity", "shorter"),
    "a haunch of a tube": ('[makers.P]\nmake = "portal"\nfrom = [0, 0]\nto = [9, 0]\neaves = 5\nridge = 6\ncolumns = "posts"\nrafters = "webs"\nhaunch = { length = 1, depth = 0.5 }\n', "bad-section", "take an I"),
    "landings too long": ('[makers.S]\nmake = "stair"\nfrom = [0, 0]\nto = [3, 2]\nstringers = "beams"\nlandings = 1.5\n', "bad-quantity", "lower, upper"),
    "bracing with one step": (GRID.replace("y = { 1 = 0, 2 = 5 }\n", "") + '[makers.W]\nmake = "bracing"\nfamily = "webs"\npattern = "X"\npanels = "A>B / eave"\n', "bad-run", "two of its parts"),
    "bracing nowhere": ('[makers.W]\nmake = "bracing"\nfamily = "webs"\npattern = "X"\n', "which-way", "panels"),
    "purlins in a plane": ('[makers.P]\nmake = "purlins"\nfamily = "webs"\non = "roof"\nspaces = 3\n', "wrong-key", "3D"),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_what_is_wrong_with_a_maker_is_told_where_it_is_written(name):
    text, code, remedy = WRONG[name]
    found = reading(PLANE + text)
    errors = [f for f in found.findings if f.level == "error" and f.code == code and f.place.line > PLANE.count("\n")]
    assert errors and any(remedy in f.remedy + f.message for f in errors), "\n".join(map(str, found.findings))


FAULTY = {
    "no way": ('spaces = 2\n', "which-way", "surfaces"),
    "no such surface": ('on = "rof"\nspaces = 2\n', "unknown-name", "roof"),
    "spaced twice": ('on = "roof"\nspaces = 2\nspacing = 2\n', "which-way", "distance between two"),
    "too close": ('on = "roof"\nspacing = "1.1 mm"\n', "too-many", "unit"),
    "no room": ('on = "roof"\nspaces = 2\nfirst = 3\nlast = 3\n', "bad-quantity", "less"),
    "off the plane": ('on = "roof"\nspaces = 2\nalong = "up"\n', "unknown-word", "two places"),
    "level": ('corners = ["A1@eave", "C1@eave", "C2@eave"]\nspaces = 2\n', "missing-key", 'along = "x"'),
    "not flat": ('corners = ["A1@eave", "C1@eave", "C2@eave", "A2@ridge"]\nspaces = 2\n', "bad-outline", "three corners"),
}  # fmt: skip


@pytest.mark.parametrize("name", FAULTY)
def test_what_is_wrong_with_purlins(name):
    text, code, remedy = FAULTY[name]
    found = reading(HEAD + ROOF + text)
    errors = [f for f in found.findings if f.level == "error" and f.code == code]
    assert any(remedy in f.remedy + f.message for f in errors), "\n".join(map(str, found.findings))


BEAMS = """
[project]
units = "kip ft"
space = "plane"
[nodes]
a = [0, 0]
b = ["7 m", 0]
c = ["12 m", 0]
[members.beams]
section = "IPE 300"
material = "S355"
pieces = { ab = "a > b", bc = "b > c" }
[[supports]]
at = ["a", "b", "c"]
fix = "x z ry"
[cases]
Q = { action = "live" }
[loads]
Q = [ { on = "beams", force = "5 kN", %s } ]
"""


@pytest.mark.parametrize(
    ("keys", "want"),
    [
        ('every = "2 m"', [[0, 2, 4, 6], [0, 2, 4]]),
        ('every = "200 cm", from = "1 m", to = "5 m"', [[1, 3, 5], [1, 3, 5]]),
        ('every = "2.5 m", from = "20%"', [[1.4, 3.9, 6.4], [1, 3.5]]),
        ('every = "1 m", from = "50%", to = "50%"', [[3.5], [2.5]]),
        ('every = "9 m", dir = "local z"', [[0], [0]]),
    ],
)
def test_forces_stand_at_a_distance_from_one_another(keys, want):
    """From the start on, the end counted in, on members of 7 m and 5 m alike; in feet."""
    found = reading(BEAMS % keys)
    assert found.sound
    at = {found.project.members[m].name[-2:]: [p.on(length) for p in load.positions]
          for load in found.project.loads for m, length in [(load.members[0], {0: 7, 1: 5}[load.members[0]])]}  # fmt: skip
    assert [at["ab"], at["bc"]] == [pytest.approx(w) for w in want]


@pytest.mark.parametrize("bars", [True, False])
def test_forces_stand_at_panel_points_and_at_ends(bars):
    """Each joint of the top chord once, the ridge too, however the chord is laid; half at both ends makes the load of
    the whole: 8 panels of 5 kN."""
    head = PLANE if bars else PLANE.replace("bar = true\n[members.webs]", "[members.webs]")
    text = head + truss("pratt", 'shape = "pitched"', '["60 cm", "2 m", "60 cm"]') + held("T.b0", "T.b8")
    for where, force in (("panel points", 5), ("ends", 2.5)):
        text += "[loads]\nQ = [ " if where == "panel points" else ", "
        text += f'{{ on = "chords/T.top*", force = {force}, at = "{where}" }}'
    found, nodes, _ = made(text + " ]")
    project = found.project
    sums = {5e3: 0, 2.5e3: 0}
    for load in project.loads:
        for m in load.members:
            member = project.members[m]
            a, b = (np.array(project.nodes[k].xyz) for k in (member.start, member.end))
            for p in load.positions:
                s = p.on(np.linalg.norm(b - a))
                at = a + s * (b - a) / np.linalg.norm(b - a)
                assert min(np.linalg.norm(at - nodes[f"T.t{i}"]) for i in range(9)) < 1e-9
                sums[load.value] += 1
    assert sums == {5e3: 7, 2.5e3: 2}
    s = solution(without_unused(text + " ]"))
    assert s.reaction[:, 2, 0] / 1e3 == pytest.approx([20, 20])


SPACED_WRONG = {
    "both": ('every = 2, at = "50%"', "wrong-key", "one of them"),
    "nothing": ("every = 0", "bad-quantity", "distance"),
    "too many": ('every = "1.1 mm", to = "100%"', "too-many", "unit"),
    "beyond the end": ('every = "1 m", from = "6 m"', "position-off-member", "longer"),
    "a ring or nothing": ('at = "panel points"', "", ""),
    "a line every so far": ('every = "1 m", line = 3', "which-load", "line"),
    "projected": ('every = "1 m", per = "projected"', "wrong-key", "every"),
}


@pytest.mark.parametrize("name", SPACED_WRONG)
def test_what_is_wrong_with_spaced_forces(name):
    keys, code, remedy = SPACED_WRONG[name]
    found = reading(BEAMS.replace("c = [", "c = [").replace('"beams", force', '"beams", force') % keys)
    errors = [f for f in found.findings if f.level == "error"]
    if not code:  # the joint of both beams is a panel point
        assert not errors and found.project.loads[0].positions[0].share == 1
        found = reading(BEAMS.replace('on = "beams"', 'on = "beams/ab"') % keys)
        errors, code, remedy = [f for f in found.findings if f.level == "error"], "matches-nothing", "joins"
    assert [f.code for f in errors] == [code] and remedy in errors[0].message + errors[0].remedy


def test_purlins_lie_over_copies_or_are_copied():
    """Over copied frames they are cut at each, and there is one ridge of two slopes; laid before them they would not
    be, which is an error; with their own bay they are copied."""
    frames = (
        HEAD
        + """
[nodes]
a = [0, 0, 4]
b = [0, 6, 6]
c = [0, 12, 4]
[members.rafters]
section = "IPE 300"
material = "S355"
pieces = { ab = "a > b", cb = "c > b" }
[[copies]]
name = "f"
of = "rafters"
shift = [5, 0, 0]
times = 3
"""
    )
    two = (
        frames
        + """
[surfaces.s]
corners = [[0, 0, 4], [15, 0, 4], [15, 6, 6], [0, 6, 6]]
deck = "y"
[surfaces.n]
corners = [[0, 6, 6], [15, 6, 6], [15, 12, 4], [0, 12, 4]]
deck = "y"
[makers.P]
make = "purlins"
on = "?"
family = "beams"
spaces = 3
over_copies = true
"""
    )
    found, _, laid = made(two)
    beams = [n for n in laid if n.startswith("beams")]
    assert len(beams) == 7 * 3 and "line-taken" in [f.code for f in found.findings]
    cross = (
        two
        + """
[makers.Q]
make = "rails"
corners = [[0, 0, 4], [15, 0, 4], [15, 6, 6], [0, 6, 6]]
along = "y"
spaces = 6
family = "beams"
over_copies = true
"""
    )
    _, _, laid = made(cross)
    assert len([n for n in laid if n.startswith("beams/Q.2-")]) == 3  # cut by the purlins of before
    early = reading(without_unused(two.replace("over_copies = true", "")))
    wrong = next(f for f in early.findings if f.code == "before-copies")
    assert wrong.level == "error" and "over_copies" in wrong.remedy
    told = reading(without_unused(two.replace('of = "rafters"', 'of = ["rafters", "beams/*"]')))
    assert "not-copied" in [f.code for f in told.findings]
    one = two.replace("over_copies = true", "").replace("15, ", "5, ").replace(
        'of = "rafters"\nshift = [5, 0, 0]\ntimes = 3', 'of = ["rafters", "beams"]\nshift = ["8 m", 0, 0]')  # fmt: skip
    one = one.replace('cb = "c > b" }', 'cb = "c > b", de = "d > e", fe = "f > e" }').replace(
        "c = [0, 12, 4]", "c = [0, 12, 4]\nd = [5, 0, 4]\ne = [5, 6, 6]\nf = [5, 12, 4]")  # fmt: skip
    found, _, laid = made(one)
    assert len([n for n in laid if n.startswith("beams")]) == 14 and "beams/P.s.2~f" in laid


@pytest.mark.parametrize(
    "load", ['line = 3, every = "1 m"', 'temperature = 3, every = "1 m"', 'force = 3, at = "50%", every = "1 m"']
)
def test_what_stands_alone_is_not_every_so_far(load):
    found = reading(BEAMS.replace('force = "5 kN", %s', load))
    assert [(f.code, "every" in f.message) for f in found.findings if f.level == "error"] == [("wrong-key", True)]


@pytest.mark.parametrize("corners", [
    [[0, 0, 4], [9, 0, 4], [9, 5, 6], [0, 5, 6]], [[0, 5, 6], [9, 5, 6], [9, 0, 4], [0, 0, 4]],  # the same, the other way round
    [[1, 2, 3], [7, 6, 3], [4.6, 9.6, 5], [-1.4, 5.6, 5]], [[0, 0, 0], [8, 0, 0], [8, 0, 5], [0, 0, 5]],  # at an odd angle; a wall
])  # fmt: skip
def test_purlins_turn_with_the_slope_when_asked_to(corners):
    """Their z is the normal of the surface; else they stand as their family says, which is told on a slope."""
    text = HEAD + '[makers.P]\nmake = "purlins"\nfamily = "beams"\nspaces = 3\ncorners = ' + json.dumps(corners) + "\n"
    normal = np.cross(np.subtract(corners[1], corners[0]), np.subtract(corners[3], corners[0])).astype(float)
    normal /= np.linalg.norm(normal) * (-1 if normal[2] < 0 else 1)
    for said, told in (('roll = "surface"\n', []), ("roll = 0\n", []), ("", ["roll-unstated"])):
        found = reading(without_unused(text + said))
        assert [f.code for f in found.findings if f.code == "roll-unstated"] == told
        z = found.project.axes[[m.family == "beams" for m in found.project.members]][:, 2]
        wanted = abs(z @ normal) if "surface" in said else z[:, 2]
        assert len(z) >= 3 and wanted == pytest.approx(1)
    flat = reading(
        without_unused(
            text.replace(json.dumps(corners), "[[0, 0, 4], [9, 0, 4], [9, 5, 4], [0, 5, 4]]") + 'along = "x"\n'
        )
    )
    assert "roll-unstated" not in [f.code for f in flat.findings]
